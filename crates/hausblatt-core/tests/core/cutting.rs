//! Lines extracted, copies that extend their originals, files moved in the lineage: every page stays as it is.

use std::path::Path;

use hausblatt_core::SiteOptions;
use hausblatt_core::change::extending::extend_copy;
use hausblatt_core::change::extract::{Becomes, Wanted, extract};
use hausblatt_core::change::moving::move_file;
use hausblatt_core::change::neaten::neaten;
use hausblatt_core::change::rename::rename;
use hausblatt_core::files::edit::{Write, write_all};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::lang::text::diagnostic::Diagnostic;
use hausblatt_core::world::World;
use hausblatt_lang::edit::slots::written;

use crate::support::{asking, demo, pages, snapshot};

fn world(files: &Memory, theme: &str) -> World {
    World::load(snapshot(files), SiteOptions { theme: Some(theme.to_owned()), ..asking() }).unwrap()
}

fn write(files: &Memory, writes: &[Write]) {
    write_all(files, Path::new("/"), writes).unwrap();
}

fn text(files: &Memory, path: &str) -> String {
    files.bytes(path).map_or("gone".to_owned(), |bytes| String::from_utf8(bytes.to_vec()).unwrap())
}

fn told(problems: &[Diagnostic]) -> String {
    let one = |one: &Diagnostic| format!("{} ({}): {}\n", one.message, one.code, one.help.as_deref().unwrap_or(""));
    problems.iter().map(one).collect()
}

/// A sequence of numbers that is the same each time.
struct Dice(u64);

impl Dice {
    fn below(&mut self, most: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        usize::try_from((self.0 >> 33) % most.max(1) as u64).unwrap()
    }
}

fn site(template: &str) -> Memory {
    let files = Memory::of([
        ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"near\"\n"),
        ("content/pages/home.md", "---\ntitle: Home\n---\nText\n"),
        ("content/pages/empty.md", ""),
        ("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1\"\n"),
        ("themes/far/templates/fallback.html", "---\nlayout: none\n---\n1"),
        (
            "themes/far/layouts/document.html",
            "<!doctype html>\n<html lang=\"en\"><title>+{slot \"title\" else}T+{end}</title>\n<body>\n  +{slot \"top\"}\n+{slot}\n  +{slot \"foot\" else}\n  <p>foot</p>\n  +{end}\n",
        ),
        ("themes/near/hausblatt-theme.toml", "[theme]\nversion = \"1\"\nparent = \"far\"\n"),
    ]);
    files.write("themes/near/templates/page.html", template);
    files
}

#[test]
fn lines_become_a_partial_with_what_they_need() {
    let template = "---\ntakes: { size: 2 }\n---\n<ul>\n  +{each n, at in [1, 2]}\n  +{let double = n * size}\n  <li class=\"+{if at.first}a+{end}\">\n    +{double} +{content.title}\n  </li>\n  +{end}\n</ul>\n+{let after = 1}\n<p>+{after}\n+{into \"top\"}\n<b>top</b>\n+{end}\n+{inherited}\n"
        .replace("+{inherited}\n", "");
    let cut = |lines: std::ops::RangeInclusive<usize>, name: &str| {
        let files = site(&template);
        let before = pages(&world(&files, "near"));
        let wanted = Wanted { file: "page", lines, name, becomes: Becomes::Partial };
        match extract(&world(&files, "near"), &wanted) {
            Err(problems) => told(&problems),
            Ok(extraction) => {
                write(&files, &extraction.writes);
                assert_eq!(pages(&world(&files, "near")), before, "{name}");
                let partial = text(&files, extraction.partial.as_deref().unwrap());
                format!("{}\n{partial}", extraction.call)
            }
        }
    };
    let said: String = [
        cut(7..=9, "item"),
        cut(5..=10, "items"),
        cut(15..=15, "b"),
        cut(6..=7, "let"),
        cut(12..=12, "after"),
        cut(13..=13, "p"),
        cut(14..=16, "fill"),
        cut(2..=4, "head"),
        cut(4..=11, "Bad Name"),
        cut(40..=41, "none"),
    ]
    .map(|one| format!("{one}\n"))
    .concat();
    expect_test::expect![[r#"
        +{partial "item" given at = at, double = double}
        ---
        takes: { at:, double: }
        ---
        <li class="+{if at.first}a+{end}">
            +{double} +{content.title}
          </li>

        +{partial "items" given size = size}
        ---
        takes: { size: }
        ---
          +{each n, at in [1, 2]}
          +{let double = n * size}
          <li class="+{if at.first}a+{end}">
            +{double} +{content.title}
          </li>
          +{end}

        +{partial "b"}
        <b>top</b>

        <li> begins here, and ends behind these lines (not-the-same): these can be: hausblatt extract page:6-9 let

        "after" is named in these lines and used here, behind them (not-the-same): these can be: hausblatt extract page:12-13 after

        +{partial "p" given after = after}
        ---
        takes: { after: }
        ---
        <p>+{after}

        what fills a slot of the layout belongs to this file, and would mean another thing in a partial (not-the-same): these can be: hausblatt extract page:15 fill

        there is nothing in these lines that could be cut out (not-the-same): these can be: hausblatt extract page:4-11 head

        "Bad Name" can't name a partial (bad-name): use lower-case letters, digits and hyphens, as in bad-name

        themes/near/templates/page.html has 16 lines (bad-name): write them as in 12-18

    "#]].assert_eq(&said);
}

#[test]
fn cuts_of_the_demo_keep_every_page() {
    let mut dice = Dice(7);
    let (mut cuts, mut slots, mut refused) = (0, 0, 0);
    for round in 0..80 {
        let theme = ["harbour", "hedgerow", "loam"][dice.below(3)];
        let files = demo();
        let world = world(&files, theme);
        let own: Vec<_> = world
            .lineage
            .ids()
            .filter(|(_, file)| file.theme == 0 && file.name.ends_with(".html"))
            .map(|(_, file)| (file.name.to_string(), file.node.text().unwrap().lines().count()))
            .collect();
        let (file, count) = &own[dice.below(own.len())];
        let from = 1 + dice.below(*count);
        let to = (from + dice.below(4)).min(*count);
        let becomes = if round % 3 == 0 { Becomes::Slot } else { Becomes::Partial };
        let Ok(extraction) = extract(&world, &Wanted { file, lines: from..=to, name: "cut-out", becomes }) else {
            refused += 1;
            continue;
        };
        let before = pages(&world);
        write(&files, &extraction.writes);
        assert!(pages(&self::world(&files, theme)) == before, "{theme} {file}:{from}-{to}");
        *(if extraction.partial.is_some() { &mut cuts } else { &mut slots }) += 1;
    }
    assert!(cuts > 4 && slots > 4 && refused > 4, "{cuts} {slots} {refused}");
}

#[test]
fn a_copy_extends_its_original_where_it_differs_in_slots() {
    let base = text(&site(""), "themes/far/layouts/document.html");
    let extended = |copy: &str| {
        let files = site("<p>+{content.title}</p>\n");
        files.write("themes/near/layouts/document.html", copy);
        files.write(
            "themes/near/.originals/layouts/document.html",
            "theme = \"far\"\npath = \"layouts/document.html\"\n---\n",
        );
        let before = pages(&world(&files, "near"));
        match extend_copy(&world(&files, "near"), "document") {
            Err(problems) => told(&problems),
            Ok(extending) => {
                write(&files, &extending.writes);
                assert!(pages(&world(&files, "near")) == before, "{copy}");
                assert_eq!(text(&files, "themes/near/.originals/layouts/document.html"), "gone");
                text(&files, "themes/near/layouts/document.html")
            }
        }
    };
    let said: String = [
        extended(&base),
        extended(
            &base
                .replace("+{slot \"title\" else}T+{end}", "+{request.title}")
                .replace("  <p>foot</p>\n", "  <p>other</p>\n  <p>+{site.title}</p>\n"),
        ),
        extended(
            &base.replace("  +{slot \"top\"}\n", "  <nav>\n    +{each n in [1]}\n    +{n}\n    +{end}\n  </nav>\n"),
        ),
        extended(
            &base.replace("  +{slot \"top\"}\n", "").replace("  +{slot \"foot\" else}\n  <p>foot</p>\n  +{end}\n", ""),
        ),
        extended(&format!("---\ntakes: {{ wide: true }}\n---\n{base}")),
        extended(&base.replace("<body>", "<body class=\"a\">")),
        extended(&base.replace("<title>", "<meta name=\"a\">\n<title>")),
        extended("+{inherited}"),
        extended(
            &base
                .replace("T+{end}", "Other+{end}")
                .replace("  +{slot \"top\"}\n", "  +{slot \"top\" else}\n  up\n  +{end}\n"),
        ),
        extended(&base.replace("T+{end}", "T")),
    ]
    .map(|one| format!("{one}\n"))
    .concat();
    expect_test::expect![[r#"
        +{inherited}

        +{inherited with}
          +{into "title"}+{request.title}+{end}
          +{into "foot"}

          <p>other</p>
          <p>+{site.title}</p>
          +{end}
        +{end}

        +{inherited with}
          +{into "top"}<nav>
            +{each n in [1]}
            +{n}
            +{end}
          </nav>+{end}
        +{end}

        /empty/ and 1 more would not be the same (not-the-same): see what takes part there: hausblatt resolve /empty/

        ---
        takes: { wide: true }
        ---
        +{inherited}

        layouts/document.html differs from themes/far/layouts/document.html where that has no slot (no-slots): a slot there would make it possible: hausblatt extract layouts/document.html:3 NAME --as slot --theme far

        layouts/document.html differs from themes/far/layouts/document.html where that has no slot (no-slots): line 2 of themes/far/layouts/document.html can't become a slot, so it stays a copy

        layouts/document.html extends the inherited file already (not-the-same): 

        +{inherited with}
          +{into "title"}Other+{end}
          +{into "top"}

          up+{end}
        +{end}

        themes/near/layouts/document.html has an error (not-the-same): mend it first: hausblatt check themes/near/layouts/document.html

    "#]].assert_eq(&said);
}

/// Copies of files of the demo with other texts in and instead of their slots.
#[test]
fn copies_that_extend_their_originals_keep_every_page() {
    let mut dice = Dice(5);
    let texts = ["<b>x</b>", "+{site.title}", "+{if 1}a+{else}b+{end}", "\n  <p>one</p>\n  <p>+{site.title}</p>\n", ""];
    let (mut extended, mut refused) = (0, 0);
    for _ in 0..24 {
        let files = demo();
        let (name, base) = {
            let world = world(&files, "harbour");
            let own = world.lineage.ids().filter(|(_, file)| {
                let is_nearest = world.lineage.all(&file.name).len() == 1;
                file.theme > 0 && is_nearest && file.node.text().is_some_and(|text| text.contains("+{slot"))
            });
            let own: Vec<_> =
                own.map(|(_, file)| (file.name.to_string(), file.node.text().unwrap().to_string())).collect();
            own[dice.below(own.len())].clone()
        };
        let mut copy = base.clone();
        for slot in written(&base, 0).into_iter().rev() {
            let text = texts[dice.below(texts.len())];
            let other = match dice.below(4) {
                0 => continue,
                1 => text.to_owned(),
                2 => format!("+{{slot \"{}\" else}}\n{text}\n+{{end}}", slot.name),
                _ => format!("+{{slot \"{}\" else}}{text}+{{end}}", slot.name),
            };
            copy.replace_range(slot.span.range(), &other);
        }
        files.write(format!("themes/harbour/{name}"), &copy);
        let before = pages(&world(&files, "harbour"));
        match extend_copy(&world(&files, "harbour"), &name) {
            Ok(extending) => {
                write(&files, &extending.writes);
                assert!(pages(&world(&files, "harbour")) == before, "{name}\n{copy}");
                extended += 1;
            }
            Err(problems) => {
                assert!(!problems.is_empty(), "{name}\n{copy}");
                refused += 1;
            }
        }
    }
    assert!(extended > 8, "{extended} {refused}");
}

#[test]
fn a_file_moves_with_what_it_needs_or_says_what_it_would_lack() {
    let files = || {
        let files = site("---\nlayout: wide\n---\n+{partial \"row\" given n = 1}+{use \"row.css\"}+{season}\n");
        files.write(
            "themes/near/layouts/wide.html",
            "<!doctype html>\n<html lang=\"en\"><title>+{asset(\"img/a.svg\")}</title>+{slot}+{used \"styles\"}",
        );
        files.write("themes/near/partials/row.html", "---\ntakes: { n: }\n---\n+{n}+{component \"hint\"}");
        files.write("themes/near/components/hint/component.html", "hint");
        files.write("themes/near/components/hint/style.css", "a { color: red }");
        files.write("themes/near/assets/row.css", "b { color: red }");
        files.write("themes/near/assets/img/a.svg", "<svg/>");
        files.write("themes/near/prepare/all.let", "let season = \"\"\n");
        files.write(
            "themes/near/.originals/partials/row.html",
            "theme = \"older\"\npath = \"partials/row.html\"\n---\n",
        );
        files.write("themes/third/hausblatt-theme.toml", "[theme]\nversion = \"1\"\nparent = \"far\"\n");
        files
    };
    let moved = |what: &str, to: &str| {
        let files = files();
        let before = pages(&world(&files, "near"));
        match move_file(&world(&files, "near"), what, to) {
            Err(problems) => told(&problems),
            Ok(moving) => {
                write(&files, &moving.writes);
                assert!(pages(&world(&files, "near")) == before, "{what}");
                let all = moving.moved.iter().map(|(from, to)| format!("{from} -> {to}\n"));
                let record =
                    files.all().into_iter().filter(|(path, _)| path.display().to_string().contains(".originals"));
                let records = record.map(|(path, _)| format!("{}\n", path.display()));
                let themes = moving.themes.iter().map(|(name, differ, of)| format!("{name}: {differ} of {of}\n"));
                all.chain(records).chain(themes).collect()
            }
        }
    };
    let said: String = [
        moved("partials/row", "far"),
        moved("layouts/wide", "far"),
        moved("page", "far"),
        moved("layouts/document", "near"),
        moved("assets/row.css", "third"),
        moved("prepare/all", "far"),
    ]
    .map(|one| format!("{one}\n"))
    .concat();
    expect_test::expect![[r#"
        /empty/ and 1 more would not be the same (not-the-same): see what takes part there: hausblatt resolve /empty/

        themes/near/layouts/wide.html -> themes/far/layouts/wide.html
        themes/near/assets/img/a.svg -> themes/far/assets/img/a.svg
        /themes/near/.originals/partials/row.html

        in the theme far: unknown name "season" (unknown-name): name it with "let", take it as a parameter, or write collections.season if a site may lack that collection

        themes/far/layouts/document.html -> themes/near/layouts/document.html
        /themes/near/.originals/partials/row.html

        the theme third is not in the lineage of near (unknown-theme): it is near and far

        themes/near/prepare/all.let -> themes/far/prepare/all.let
        /themes/near/.originals/partials/row.html

    "#]].assert_eq(&said);
}

/// A theme of 60 templates over a parent, with what they share.
fn large() -> Memory {
    let files = Memory::default();
    let mut config = "[site]\ntitle = \"Seeds\"\ntheme = \"near\"\n[front]\npage = \"home\"\n".to_owned();
    for n in 1..=20 {
        config += &format!(
            "[collections.c{n}]\naddress = \"/c{n}/{{slug}}/\"\nlisting = \"/c{n}/\"\nviews = [\"card\"]\n[collections.c{n}.fields]\nheight = {{ type = \"number\", default = {n} }}\n"
        );
        files.write(format!("content/c{n}/one.md"), format!("---\ntitle: One of {n}\n---\nText *{n}*.\n"));
        files.write(format!("content/c{n}/two.md"), format!("---\ntitle: Two of {n}\nheight: {}\n---\n", n * 10));
        let entry = format!(
            "<article>\n  <h1>+{{ content.title }}</h1>\n  +{{if content.height > 5}}\n    <p class=\"tall\">+{{content.height+ {n}}}</p>\n+{{else}}\n    <p>low</p>\n  +{{end}}\n  <div>\n    +{{partial 'card' given entry = content, size='wide'}}\n  </div>\n  +{{let next = c{n} where it != content}}\n  <ul>\n    +{{each other in next limit 2}}\n    <li>+{{partial \"card\" given entry = other}}</li>\n    +{{end}}\n  </ul>\n</article>\n+{{into \"aside\"}}\n<p>Aside {n}</p>\n+{{end}}\n"
        );
        files.write(format!("themes/near/templates/entry/c{n}.html"), entry);
        files.write(
            format!("themes/near/templates/entry/c{n}.card.html"),
            "---\nlayout: bare\n---\n<b title=\"+{content.title}\">+{content.title}</b>\n",
        );
        files.write(format!("themes/near/templates/listing/c{n}.html"), format!("<h1>+{{listing.title}}</h1>\n+{{each entry in listing.items}}\n<div>\n  +{{partial \"row\" given entry = entry, number = {n}}}\n</div>\n+{{between}}\n<hr>\n+{{end}}\n"));
    }
    files.write("hausblatt.toml", config);
    files.write("content/pages/home.md", "---\ntitle: Home\n---\n");
    files.write("themes/near/hausblatt-theme.toml", "[theme]\nversion = \"1\"\nparent = \"far\"\n");
    files.write("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1\"\n");
    files.write("themes/far/templates/fallback.html", "<p>+{request.title}</p>\n");
    files.write("themes/near/partials/card.html", "---\ntakes: { entry:, size: small }\n---\n<section class=\"+{size}\">\n  <h2>+{entry.title}</h2>\n  +{if entry.height}\n  <p>+{entry.height} cm</p>\n  +{end}\n</section>\n");
    files.write(
        "themes/near/partials/row.html",
        "---\ntakes: { entry:, number: 0 }\n---\n<p>+{number}</p>\n+{partial \"card\" given entry = entry}\n",
    );
    files.write(
        "themes/near/layouts/bare.html",
        "<!doctype html>\n<html lang=\"en\"><title>+{request.title}</title>+{slot}\n",
    );
    files.write("themes/near/layouts/document.html", "<!doctype html>\n<html lang=\"en\">\n<head>\n  <title>+{slot \"title\" else}+{request.title}+{end}</title>\n  +{slot \"head\"}\n</head>\n<body>\n  <main>\n    +{slot}\n  </main>\n  +{if filled(\"aside\")}\n  <aside>\n    +{slot \"aside\"}\n  </aside>\n  +{end}\n  <footer>\n    <p>+{site.title}</p>\n  </footer>\n</body>\n</html>\n");
    files
}

/// One step of a random script; whether it changed anything.
fn step(files: &Memory, dice: &mut Dice, number: usize) -> bool {
    let world = world(files, "near");
    let own: Vec<(String, usize)> = world
        .lineage
        .ids()
        .filter(|(_, file)| file.theme == 0 && file.name.ends_with(".html"))
        .map(|(_, file)| (file.name.to_string(), file.node.text().unwrap().lines().count()))
        .collect();
    let (file, lines) = own[dice.below(own.len())].clone();
    let writes = match dice.below(4) {
        0 => neaten(&world, &[file]).unwrap().changed.into_iter().map(|one| one.write).collect(),
        1 => {
            let all: Vec<String> = hausblatt_core::change::rename::renamable(&world)
                .into_iter()
                .filter(|typed| ["slot:", "param:", "field:", "value:"].iter().any(|sort| typed.starts_with(sort)))
                .chain(own.iter().filter(|(name, _)| !name.starts_with("templates/")).map(|(name, _)| name.clone()))
                .collect();
            let typed = &all[dice.below(all.len())];
            rename(&world, typed, &format!("n{number}")).map_or(Vec::new(), |renaming| renaming.writes)
        }
        kind => {
            let from = 1 + dice.below(lines);
            let lines = from..=(from + dice.below(8)).min(lines);
            let becomes = if kind == 2 { Becomes::Partial } else { Becomes::Slot };
            let wanted = Wanted { file: &file, lines, name: &format!("n{number}"), becomes };
            extract(&world, &wanted).map_or(Vec::new(), |extraction| extraction.writes)
        }
    };
    write(files, &writes);
    !writes.is_empty()
}

#[test]
fn a_theme_of_sixty_templates_builds_the_same_bytes_after_a_hundred_steps() {
    let files = large();
    let before = pages(&world(&files, "near"));
    assert!(before.iter().all(|(_, status, _)| matches!(status, 200 | 404)));
    let mut dice = Dice(11);
    // What can't be done is refused, and another is tried.
    let steps = (0..100).filter(|&number| (0..6).any(|_| step(&files, &mut dice, number))).count();
    assert!(steps > 80, "{steps}");
    let after = pages(&world(&files, "near"));
    for (one, other) in before.iter().zip(&after) {
        assert_eq!(one, other);
    }
    assert_eq!(before.len(), after.len());
}
