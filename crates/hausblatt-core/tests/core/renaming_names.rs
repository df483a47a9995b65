//! Names of a site renamed: what is carried along, what is refused, and that the reverse gives every byte back.

use std::path::Path;

use hausblatt_core::SiteOptions;
use hausblatt_core::change::rename::{Renaming, renamable, rename};
use hausblatt_core::files::edit::write_all;
use hausblatt_core::files::memory::Memory;
use hausblatt_core::world::World;
use rayon::prelude::*;

use crate::support::{asking, checked, demo, snapshot};

fn world(files: &Memory, theme: &str) -> World {
    World::load(snapshot(files), SiteOptions { theme: Some(theme.to_owned()), ..asking() }).unwrap()
}

fn write(files: &Memory, renaming: &Renaming) {
    write_all(files, Path::new("/"), &renaming.writes).unwrap();
}

/// All files, without what renaming adds: former addresses.
fn without_former(files: &Memory) -> Vec<(String, String)> {
    let bare = |text: &str| {
        let lines = text.lines().filter(|line| !line.starts_with("formerly:")).map(|line| {
            line.find(", formerly = ").map_or(line.to_owned(), |at| {
                let end = line[at + 2..].find([',', '}']).map_or(line.len(), |end| at + 2 + end);
                format!("{} {}", &line[..at], line[end..].trim_start())
            })
        });
        lines.collect::<Vec<_>>().join("\n")
    };
    files
        .all()
        .into_iter()
        .map(|(path, bytes)| (path.display().to_string(), bare(&String::from_utf8_lossy(&bytes))))
        .collect()
}

/// A new name for what is typed so, and how it is typed then.
fn new_name(typed: &str) -> (String, String) {
    let (sort, name) = typed.split_once(':').unwrap();
    let (head, last) = name.rsplit_once('/').map_or(("", name), |(head, last)| (head, last));
    let (stem, extension) = last.split_at(if sort == "media" { last.find('.').unwrap() } else { last.len() });
    let new = format!("renamed{}{extension}", stem.len());
    let full = if head.is_empty() { new.clone() } else { format!("{head}/{new}") };
    // Ids of pages and paths of media are typed as a whole.
    (if matches!(sort, "page" | "media") { full.clone() } else { new }, format!("{sort}:{full}"))
}

#[test]
fn each_name_of_the_demo_can_be_renamed_and_its_reverse_gives_every_byte_back() {
    let before = without_former(&demo());
    let mut jobs: Vec<(&str, String)> = Vec::new();
    for theme in ["harbour", "hedgerow", "loam"] {
        for typed in renamable(&world(&demo(), theme)) {
            let sort = typed.split(':').next().unwrap_or("").to_owned();
            let of_sort = jobs.iter().filter(|(_, known)| known.starts_with(&format!("{sort}:"))).count();
            let is_of_theme = ["setting", "value", "slot", "param"].contains(&sort.as_str());
            // Of much that is alike some are enough.
            if sort != "address" && (is_of_theme && of_sort < 20 || theme == "harbour" && of_sort < 6) {
                jobs.push((theme, typed));
            }
        }
    }
    let done: Vec<Result<bool, String>> =
        jobs.par_iter().map(|(theme, typed)| there_and_back(theme, typed, &before)).collect();
    let wrong: Vec<&String> = done.iter().filter_map(|one| one.as_ref().err()).collect();
    assert!(wrong.is_empty(), "{wrong:#?}");
    let count = done.iter().filter(|one| **one == Ok(true)).count();
    assert!(count >= 60, "{count}");
}

/// Whether something can be renamed here, and what is wrong when it was, and when it is called what it was called again.
fn there_and_back(theme: &str, typed: &str, before: &[(String, String)]) -> Result<bool, String> {
    let (new, back) = new_name(typed);
    let files = demo();
    let first = match rename(&world(&files, theme), typed, &new) {
        Ok(first) => first,
        Err(problems) if problems[0].code == "not-own" => return Ok(false),
        Err(problems) if problems[0].message.contains("introduces a listing") => return Ok(false),
        Err(problems) => return Err(format!("{typed}: {problems:?}")),
    };
    if !first.proof.differ.is_empty() {
        return Err(format!("{typed} -> {new}: {:?}", first.proof.differ));
    }
    write(&files, &first);
    let found = checked(&snapshot(&files));
    if !found.is_empty() {
        return Err(format!("{typed}: {found:?}"));
    }
    let old = typed.split_once(':').unwrap().1;
    let is_whole = typed.starts_with("page:") || typed.starts_with("media:");
    let old = if is_whole { old } else { old.rsplit('/').next().unwrap() };
    let theme = if typed == "theme:harbour" { "renamed7" } else { theme };
    let reverse = rename(&world(&files, theme), &back, old).map_err(|problems| format!("{back}: {problems:?}"))?;
    write(&files, &reverse);
    let after = without_former(&files);
    let differs = before.iter().zip(&after).find(|(one, other)| one != other);
    match differs {
        None if before.len() == after.len() => Ok(true),
        differs => Err(format!("{typed}: {differs:?}")),
    }
}

/// A site in which each name is used in as many ways as there are.
fn site() -> Memory {
    let files = Memory::of([
        (
            "hausblatt.toml",
            "[site]\ntitle = \"Seeds\"\ntheme = \"near\"\naddress = \"https://seeds.example\"\n\n[front]\npage = \"home\"\n\n[errors]\n404 = \"lost\"\n\n\
             [pages.fields]\nnext = { type = \"page\" }\n\n\
             [collections.beds]\naddress = \"/beds/{sort}/{slug}/\"\nlisting = \"/beds/\"\nperiods = [\"year\"]\norder = \"width desc\"\nviews = [\"card\"]\nfeed = true\n\
             [collections.beds.fields]\nwidth = { type = \"number\" }\nnear = { type = \"list\", of = \"entry\", collection = \"beds\" }\nhint = { type = \"text\" }\n\n\
             [collections.notes]\naddress = \"/notes/{slug}/\"\n[collections.notes.fields]\nwidth = { type = \"number\" }\nof = { type = \"entry\", collection = \"beds\" }\n\n\
             [taxonomies.sort]\nof = [\"beds\"]\naddress = \"/kinds/{term}/\"\nterms.raised = { label = \"Raised beds\" }\n\
             terms.long = { label = \"Long\", parent = \"raised\", formerly = \"/long/\" }\n\n\
             [routes.map]\naddress = \"/map/\"\ntitle = \"Map\"\n[routes.row]\naddress = \"/rows/{slug}/\"\neach = \"rows\"\ntemplate = \"map\"\n\n\
             [ladders]\nentry = [\"entry/beds/{id}\", \"entry/{collection}/of-{sort}\", \"entry\"]\n\n\
             [settings]\nshow = \"wide\"\nstart = \"home\"\n\n\
             [menus]\nmain = [ { to = \"page:home\" }, { to = \"collection:beds\" }, { to = \"term:sort/long\" }, { to = \"/beds/long/north/\", label = \"N\" } ]\n\n\
             [[check.except]]\ncode = \"no-alt\"\npath = \"content/beds/north.md\"\n",
        ),
        (
            "content/pages/home.md",
            "---\ntitle: Home\nnext: visit\n---\n[a](visit.md) [b](../beds/north.md#x) [c](entry:beds/north) `page:visit` [d](/visit/) [e]\n\n[e]: visit.md\n",
        ),
        (
            "content/pages/visit.md",
            "---\ntitle: Visit\nformerly: /hours/\ntrays:\n  main:\n    - component: hint\n      text: hint\n      to: home\n---\n<!-- tray main -->\n\n[up](home.md)\n",
        ),
        ("content/pages/visit/map.md", "[home](../home.md) [visit](../visit.md)\n"),
        ("content/pages/lost.md", "lost\n"),
        (
            "content/beds/north.md",
            "---\ntitle: North\nsort: [Long]\nwidth: 2\nnear: [south]\nhint: width\n---\n[s](south.md)\n",
        ),
        (
            "content/beds/south.md",
            "---\ntitle: South\nsort: long\nwidth: 1\n'near': [\"north\"]\n---\n/beds/long/north/ and (/beds/long/north/card/).\n",
        ),
        ("content/notes/2026-01-02-first.md", "---\nwidth: 3\nof: north\n---\n[n](../beds/north.md)\n"),
        ("tables/rows.csv", "slug,bed\nupper,entry:beds/north\n"),
        ("media/a b.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"1\" height=\"1\"/>"),
        (
            "themes/near/hausblatt-theme.toml",
            "[theme]\nversion = \"1.0\"\nparent = \"far\"\nhide = [\"templates/entry/notes.html\"]\n[settings]\nshow = { default = \"no\" }\n",
        ),
        ("themes/near/prepare/page.let", "let season = season + \"!\"\n"),
        ("themes/far/prepare/all.let", "let season = \"summer\"\nlet ordered = beds order by it.width\n"),
        (
            "themes/far/hausblatt-theme.toml",
            "[theme]\nversion = \"1.0\"\n[settings]\nshow = { type = \"text\", default = \"\" }\nstart = { type = \"page\" }\n",
        ),
        (
            "themes/far/layouts/document.html",
            "<!doctype html>\n<html lang=\"en\"><title>+{request.title}</title><body class=\"+{classes.join(\" \")}\">+{slot}+{if filled(\"side\")}+{slot \"side\"}+{end}+{used \"styles\"}",
        ),
        ("themes/far/assets/beds.css", ".beds, .north { color: red } .beds-2 { color: red }"),
        (
            "themes/far/templates/page.html",
            "+{let width = 1}+{width} +{season} +{settings.show} +{settings[\"show\"]} +{settings.start.title} +{content.next.title}\n+{content.body}+{tray \"main\"}\
             +{each m in menus.main}+{m.label}+{end} +{tables.rows.count} +{tables[\"rows\"].first.bed}\n+{into \"side\"}+{partial \"row\" given bed = beds.first, size = 1}+{end}",
        ),
        (
            "themes/far/templates/fallback.html",
            "+{each e in listing.items}+{e.title} +{e.width}+{end}+{route.name == \"map\"}",
        ),
        (
            "themes/far/templates/entry.html",
            "+{content.title} +{content.width} +{content.sort.first.label} +{content.sort has \"long\"} +{content.views.card}",
        ),
        (
            "themes/far/templates/entry/beds/north.html",
            "+{partial \"row\" given bed = content, size = 2} +{content.hint} +{request.view == \"card\"}",
        ),
        (
            "themes/far/templates/entry/beds/of-long.html",
            "+{content.width} +{content.near.first.width} +{(notes where it.of == content).first.width}",
        ),
        ("themes/far/templates/entry/notes.html", "1"),
        ("themes/far/templates/entry.card.html", "+{content.title}"),
        (
            "themes/far/templates/listing/sort.html",
            "+{each e in collections.beds}+{if e.collection == \"beds\"}+{e.width}+{end}+{end}",
        ),
        (
            "themes/far/templates/listing/sort/long.html",
            "+{url(\"term:sort/long\")} +{listing.term.id == \"long\"} +{entry(\"beds/north\").width} +{page(\"visit\").title}",
        ),
        (
            "themes/far/templates/route/map.html",
            "+{route.name} +{url(\"route:map\")} +{url(\"route:row/upper\")} +{asset(\"beds.css\")} /media/a%20b.svg +{image(\"/media/a b.svg\").width}",
        ),
        (
            "themes/far/partials/row.html",
            "---\ntakes: { bed:, 'size': 0 }\n---\n+{bed.width} +{size} +{bed.hint} +{each size_2 in [size]}+{size_2}+{end}",
        ),
        ("themes/far/components/hint/component.html", "<p>+{text} +{to.title}</p>"),
        (
            "themes/far/components/hint/component.toml",
            "[component]\nlabel = \"Hint\"\n\n[[fields]]\nname = \"text\"\ntype = \"text\"\n\n[[fields]]\nname = \"to\"\ntype = \"page\"\n",
        ),
    ]);
    files.write("expected.toml", "\"/visit/\" = { status = 200, template = \"page.html\", theme = \"far\" }\n\"/hours/\" = { status = 301, location = \"/visit/\" }\n");
    files
}

/// What became of a site: the lines of each file that are others, and the files that move.
fn difference(before: &Memory, after: &Memory, moved: &[(String, String)]) -> String {
    let text =
        |files: &Memory, path: &str| String::from_utf8_lossy(&files.bytes(path).unwrap_or_default()).into_owned();
    let mut out = String::new();
    let all = before.all();
    for path in all.iter().map(|(path, _)| path.display().to_string()) {
        let path = path.trim_start_matches('/');
        let to = moved.iter().find(|(from, _)| from == path).map(|(_, to)| to.as_str());
        let (old, new) = (text(before, path), text(after, to.unwrap_or(path)));
        let lines: String = similar::TextDiff::from_lines(&old, &new)
            .iter_all_changes()
            .filter(|change| change.tag() != similar::ChangeTag::Equal)
            .map(|change| {
                format!(
                    "  {}{}\n",
                    if change.tag() == similar::ChangeTag::Insert { "+" } else { "-" },
                    change.value().trim_end()
                )
            })
            .collect();
        match to {
            Some(to) => out += &format!("{path} -> {to}\n{lines}"),
            None if lines.is_empty() => {}
            None => out += &format!("{path}\n{lines}"),
        }
    }
    out
}

fn renamed(theme: &str, what: &str, new: &str) -> String {
    let (before, files) = (site(), site());
    let renaming = match rename(&world(&files, theme), what, new) {
        Ok(renaming) => renaming,
        Err(problems) => {
            let told = problems.iter().map(|one| format!("{} ({})\n", one.message, one.code));
            return told.collect();
        }
    };
    write(&files, &renaming);
    let mut out = difference(&before, &files, &renaming.moved);
    for (place, why) in &renaming.uncertain {
        let text = String::from_utf8_lossy(&before.bytes(&*place.path).unwrap()).into_owned();
        out += &format!("? {}: {} ({why})\n", place.path, place.span.of(&text));
    }
    for moved in &renaming.addresses {
        out += &format!("{} {} {}\n", moved.from, if moved.redirects { "=>" } else { "ends:" }, moved.to);
    }
    let proof = &renaming.proof;
    out + &format!("{} rendered, {} show it, {} differ\n", proof.rendered, proof.shows_name.len(), proof.differ.len())
}

#[test]
fn content_is_renamed_with_all_that_leads_to_it() {
    expect_test::expect![[r#"
        content/pages/home.md
          -next: visit
          +next: find/us
          -[a](visit.md) [b](../beds/north.md#x) [c](entry:beds/north) `page:visit` [d](/visit/) [e]
          +[a](find/us.md) [b](../beds/north.md#x) [c](entry:beds/north) `page:find/us` [d](/find/us/) [e]
          -[e]: visit.md
          +[e]: find/us.md
        content/pages/visit/map.md -> content/pages/find/us/map.md
          -[home](../home.md) [visit](../visit.md)
          +---
          +formerly: /visit/map/
          +---
          +[home](../../home.md) [visit](../us.md)
        content/pages/visit.md -> content/pages/find/us.md
          -formerly: /hours/
          +formerly: [/hours/, /visit/]
          -[up](home.md)
          +[up](../home.md)
        expected.toml
          -"/visit/" = { status = 200, template = "page.html", theme = "far" }
          -"/hours/" = { status = 301, location = "/visit/" }
          +"/find/us/" = { status = 200, template = "page.html", theme = "far" }
          +"/hours/" = { status = 301, location = "/find/us/" }
        themes/far/templates/listing/sort/long.html
          -+{url("term:sort/long")} +{listing.term.id == "long"} +{entry("beds/north").width} +{page("visit").title}
          ++{url("term:sort/long")} +{listing.term.id == "long"} +{entry("beds/north").width} +{page("find/us").title}
        /visit/ => /find/us/
        /visit/map/ => /find/us/map/
        34 rendered, 4 show it, 0 differ
    "#]]
    .assert_eq(&renamed("near", "page:visit", "find/us"));
    expect_test::expect![[r#"
        content/beds/north.md -> content/beds/upper.md
          +formerly: /beds/long/north/
        content/beds/south.md
          -'near': ["north"]
          +'near': ["upper"]
          -/beds/long/north/ and (/beds/long/north/card/).
          +/beds/long/upper/ and (/beds/long/upper/card/).
        content/notes/2026-01-02-first.md
          -of: north
          +of: upper
          -[n](../beds/north.md)
          +[n](../beds/upper.md)
        content/pages/home.md
          -[a](visit.md) [b](../beds/north.md#x) [c](entry:beds/north) `page:visit` [d](/visit/) [e]
          +[a](visit.md) [b](../beds/upper.md#x) [c](entry:beds/upper) `page:visit` [d](/visit/) [e]
        hausblatt.toml
          -main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/long" }, { to = "/beds/long/north/", label = "N" } ]
          +main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/long" }, { to = "/beds/long/upper/", label = "N" } ]
          -path = "content/beds/north.md"
          +path = "content/beds/upper.md"
        tables/rows.csv
          -upper,entry:beds/north
          +upper,entry:beds/upper
        themes/far/templates/entry/beds/north.html -> themes/far/templates/entry/beds/upper.html
        themes/far/templates/listing/sort/long.html
          -+{url("term:sort/long")} +{listing.term.id == "long"} +{entry("beds/north").width} +{page("visit").title}
          ++{url("term:sort/long")} +{listing.term.id == "long"} +{entry("beds/upper").width} +{page("visit").title}
        ? themes/far/assets/beds.css: .north (a selector, which may mean a class of this name)
        /beds/long/north/ => /beds/long/upper/
        /beds/long/north/card/ ends: /beds/long/upper/card/
        34 rendered, 6 show it, 0 differ
    "#]].assert_eq(&renamed("near", "content/beds/north.md", "upper"));
    expect_test::expect![[r#"
        content/beds/north.md -> content/plots/north.md
        content/beds/south.md -> content/plots/south.md
        content/notes/2026-01-02-first.md
          -[n](../beds/north.md)
          +[n](../plots/north.md)
        content/pages/home.md
          -[a](visit.md) [b](../beds/north.md#x) [c](entry:beds/north) `page:visit` [d](/visit/) [e]
          +[a](visit.md) [b](../plots/north.md#x) [c](entry:plots/north) `page:visit` [d](/visit/) [e]
        hausblatt.toml
          -[collections.beds]
          +[collections.plots]
          -[collections.beds.fields]
          +[collections.plots.fields]
          -near = { type = "list", of = "entry", collection = "beds" }
          +near = { type = "list", of = "entry", collection = "plots" }
          -of = { type = "entry", collection = "beds" }
          +of = { type = "entry", collection = "plots" }
          -of = ["beds"]
          +of = ["plots"]
          -entry = ["entry/beds/{id}", "entry/{collection}/of-{sort}", "entry"]
          +entry = ["entry/plots/{id}", "entry/{collection}/of-{sort}", "entry"]
          -main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/long" }, { to = "/beds/long/north/", label = "N" } ]
          +main = [ { to = "page:home" }, { to = "collection:plots" }, { to = "term:sort/long" }, { to = "/beds/long/north/", label = "N" } ]
          -path = "content/beds/north.md"
          +path = "content/plots/north.md"
        tables/rows.csv
          -upper,entry:beds/north
          +upper,entry:plots/north
        themes/far/prepare/all.let
          -let ordered = beds order by it.width
          +let ordered = plots order by it.width
        themes/far/templates/entry/beds/north.html -> themes/far/templates/entry/plots/north.html
        themes/far/templates/entry/beds/of-long.html -> themes/far/templates/entry/plots/of-long.html
        themes/far/templates/listing/sort/long.html
          -+{url("term:sort/long")} +{listing.term.id == "long"} +{entry("beds/north").width} +{page("visit").title}
          ++{url("term:sort/long")} +{listing.term.id == "long"} +{entry("plots/north").width} +{page("visit").title}
        themes/far/templates/listing/sort.html
          -+{each e in collections.beds}+{if e.collection == "beds"}+{e.width}+{end}+{end}
          ++{each e in collections.plots}+{if e.collection == "plots"}+{e.width}+{end}+{end}
        themes/far/templates/page.html
          -+{into "side"}+{partial "row" given bed = beds.first, size = 1}+{end}
          ++{into "side"}+{partial "row" given bed = plots.first, size = 1}+{end}
        ? themes/far/assets/beds.css: .beds (a selector, which may mean a class of this name)
        34 rendered, 9 show it, 0 differ
    "#]].assert_eq(&renamed("near", "collection:beds", "plots"));
    expect_test::expect![[r#"
        content/beds/north.md
          -sort: [Long]
          +sort: [narrow]
          +formerly: /beds/long/north/
        content/beds/south.md
          -sort: long
          +sort: narrow
          +formerly: /beds/long/south/
          -/beds/long/north/ and (/beds/long/north/card/).
          +/beds/narrow/north/ and (/beds/narrow/north/card/).
        hausblatt.toml
          -terms.long = { label = "Long", parent = "raised", formerly = "/long/" }
          +terms.narrow = { label = "Long", parent = "raised", formerly = ["/long/", "/kinds/long/"] }
          -main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/long" }, { to = "/beds/long/north/", label = "N" } ]
          +main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/narrow" }, { to = "/beds/narrow/north/", label = "N" } ]
        themes/far/templates/entry/beds/of-long.html -> themes/far/templates/entry/beds/of-narrow.html
        themes/far/templates/entry.html
          -+{content.title} +{content.width} +{content.sort.first.label} +{content.sort has "long"} +{content.views.card}
          ++{content.title} +{content.width} +{content.sort.first.label} +{content.sort has "narrow"} +{content.views.card}
        themes/far/templates/listing/sort/long.html -> themes/far/templates/listing/sort/narrow.html
          -+{url("term:sort/long")} +{listing.term.id == "long"} +{entry("beds/north").width} +{page("visit").title}
          ++{url("term:sort/narrow")} +{listing.term.id == "narrow"} +{entry("beds/north").width} +{page("visit").title}
        /beds/long/north/ => /beds/narrow/north/
        /beds/long/north/card/ ends: /beds/narrow/north/card/
        /beds/long/south/ => /beds/narrow/south/
        /beds/long/south/card/ ends: /beds/narrow/south/card/
        /kinds/long/ => /kinds/narrow/
        34 rendered, 3 show it, 0 differ
    "#]].assert_eq(&renamed("near", "term:sort/long", "narrow"));
    expect_test::expect![[r#"
        content/beds/north.md
          -sort: [Long]
          +shape: [Long]
        content/beds/south.md
          -sort: long
          +shape: long
        hausblatt.toml
          -address = "/beds/{sort}/{slug}/"
          +address = "/beds/{shape}/{slug}/"
          -[taxonomies.sort]
          +[taxonomies.shape]
          -entry = ["entry/beds/{id}", "entry/{collection}/of-{sort}", "entry"]
          +entry = ["entry/beds/{id}", "entry/{collection}/of-{shape}", "entry"]
          -main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/long" }, { to = "/beds/long/north/", label = "N" } ]
          +main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:shape/long" }, { to = "/beds/long/north/", label = "N" } ]
        themes/far/templates/entry.html
          -+{content.title} +{content.width} +{content.sort.first.label} +{content.sort has "long"} +{content.views.card}
          ++{content.title} +{content.width} +{content.shape.first.label} +{content.shape has "long"} +{content.views.card}
        themes/far/templates/listing/sort/long.html -> themes/far/templates/listing/shape/long.html
          -+{url("term:sort/long")} +{listing.term.id == "long"} +{entry("beds/north").width} +{page("visit").title}
          ++{url("term:shape/long")} +{listing.term.id == "long"} +{entry("beds/north").width} +{page("visit").title}
        themes/far/templates/listing/sort.html -> themes/far/templates/listing/shape.html
        34 rendered, 2 show it, 0 differ
    "#]].assert_eq(&renamed("near", "taxonomy:sort", "shape"));
    expect_test::expect![[r#"
        /beds/ would not be the same with the field beds/width renamed (not-the-same)
    "#]]
    .assert_eq(&renamed("near", "field:beds/width", "metres"));
    expect_test::expect![[r#"
        media/a b.svg -> media/pictures/ü.svg
        themes/far/templates/route/map.html
          -+{route.name} +{url("route:map")} +{url("route:row/upper")} +{asset("beds.css")} /media/a%20b.svg +{image("/media/a b.svg").width}
          ++{route.name} +{url("route:map")} +{url("route:row/upper")} +{asset("beds.css")} /media/pictures/%C3%BC.svg +{image("/media/pictures/ü.svg").width}
        34 rendered, 2 show it, 0 differ
    "#]].assert_eq(&renamed("near", "media/a b.svg", "pictures/ü.svg"));
}

#[test]
fn what_themes_and_the_site_name_is_renamed_with_all_that_uses_it() {
    expect_test::expect![[r#"
        hausblatt.toml
          -each = "rows"
          +each = "lines"
        tables/rows.csv -> tables/lines.csv
        themes/far/templates/page.html
          -+{content.body}+{tray "main"}+{each m in menus.main}+{m.label}+{end} +{tables.rows.count} +{tables["rows"].first.bed}
          ++{content.body}+{tray "main"}+{each m in menus.main}+{m.label}+{end} +{tables.lines.count} +{tables["lines"].first.bed}
        34 rendered, 0 show it, 0 differ
    "#]].assert_eq(&renamed("near", "table:rows", "lines"));
    expect_test::expect![[r#"
        hausblatt.toml
          -[routes.map]
          +[routes.plan]
          -template = "map"
          +template = "plan"
        themes/far/templates/fallback.html
          -+{each e in listing.items}+{e.title} +{e.width}+{end}+{route.name == "map"}
          ++{each e in listing.items}+{e.title} +{e.width}+{end}+{route.name == "plan"}
        themes/far/templates/route/map.html -> themes/far/templates/route/plan.html
          -+{route.name} +{url("route:map")} +{url("route:row/upper")} +{asset("beds.css")} /media/a%20b.svg +{image("/media/a b.svg").width}
          ++{route.name} +{url("route:plan")} +{url("route:row/upper")} +{asset("beds.css")} /media/a%20b.svg +{image("/media/a b.svg").width}
        34 rendered, 1 show it, 0 differ
    "#]].assert_eq(&renamed("near", "route:map", "plan"));
    expect_test::expect![[r#"
        content/beds/south.md
          -/beds/long/north/ and (/beds/long/north/card/).
          +/beds/long/north/ and (/beds/long/north/tag/).
        hausblatt.toml
          -views = ["card"]
          +views = ["tag"]
        themes/far/templates/entry/beds/north.html
          -+{partial "row" given bed = content, size = 2} +{content.hint} +{request.view == "card"}
          ++{partial "row" given bed = content, size = 2} +{content.hint} +{request.view == "tag"}
        themes/far/templates/entry.card.html -> themes/far/templates/entry.tag.html
        themes/far/templates/entry.html
          -+{content.title} +{content.width} +{content.sort.first.label} +{content.sort has "long"} +{content.views.card}
          ++{content.title} +{content.width} +{content.sort.first.label} +{content.sort has "long"} +{content.views.tag}
        /beds/long/north/card/ ends: /beds/long/north/tag/
        /beds/long/south/card/ ends: /beds/long/south/tag/
        34 rendered, 2 show it, 0 differ
    "#]].assert_eq(&renamed("near", "view:card", "tag"));
    expect_test::expect![[r#"
        hausblatt.toml
          -main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/long" }, { to = "/beds/long/north/", label = "N" } ]
          +top = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/long" }, { to = "/beds/long/north/", label = "N" } ]
        themes/far/templates/page.html
          -+{content.body}+{tray "main"}+{each m in menus.main}+{m.label}+{end} +{tables.rows.count} +{tables["rows"].first.bed}
          ++{content.body}+{tray "main"}+{each m in menus.top}+{m.label}+{end} +{tables.rows.count} +{tables["rows"].first.bed}
        34 rendered, 0 show it, 0 differ
    "#]].assert_eq(&renamed("near", "menu:main", "top"));
    expect_test::expect![[r#"
        hausblatt.toml
          -show = "wide"
          +shows = "wide"
        themes/far/hausblatt-theme.toml
          -show = { type = "text", default = "" }
          +shows = { type = "text", default = "" }
        themes/far/templates/page.html
          -+{let width = 1}+{width} +{season} +{settings.show} +{settings["show"]} +{settings.start.title} +{content.next.title}
          ++{let width = 1}+{width} +{season} +{settings.shows} +{settings["shows"]} +{settings.start.title} +{content.next.title}
        themes/near/hausblatt-theme.toml
          -show = { default = "no" }
          +shows = { default = "no" }
        6 rendered, 0 show it, 0 differ
    "#]].assert_eq(&renamed("far", "setting:show", "shows"));
    expect_test::expect![[r#"
        content/pages/visit.md
          -  main:
          +  the middle:
          -<!-- tray main -->
          +<!-- tray the middle -->
        themes/far/templates/page.html
          -+{content.body}+{tray "main"}+{each m in menus.main}+{m.label}+{end} +{tables.rows.count} +{tables["rows"].first.bed}
          ++{content.body}+{tray "the middle"}+{each m in menus.main}+{m.label}+{end} +{tables.rows.count} +{tables["rows"].first.bed}
        34 rendered, 0 show it, 0 differ
    "#]].assert_eq(&renamed("near", "tray:main", "the middle"));
    expect_test::expect![[r#"
        themes/far/prepare/all.let
          -let season = "summer"
          +let time = "summer"
        themes/far/templates/page.html
          -+{let width = 1}+{width} +{season} +{settings.show} +{settings["show"]} +{settings.start.title} +{content.next.title}
          ++{let width = 1}+{width} +{time} +{settings.show} +{settings["show"]} +{settings.start.title} +{content.next.title}
        themes/near/prepare/page.let
          -let season = season + "!"
          +let time = time + "!"
        28 rendered, 0 show it, 0 differ
    "#]].assert_eq(&renamed("far", "value:season", "time"));
    expect_test::expect![[r#"
        themes/far/layouts/document.html
          -<html lang="en"><title>+{request.title}</title><body class="+{classes.join(" ")}">+{slot}+{if filled("side")}+{slot "side"}+{end}+{used "styles"}
          +<html lang="en"><title>+{request.title}</title><body class="+{classes.join(" ")}">+{slot}+{if filled("aside")}+{slot "aside"}+{end}+{used "styles"}
        themes/far/templates/page.html
          -+{into "side"}+{partial "row" given bed = beds.first, size = 1}+{end}
          ++{into "aside"}+{partial "row" given bed = beds.first, size = 1}+{end}
        28 rendered, 0 show it, 0 differ
    "#]].assert_eq(&renamed("far", "slot:document/side", "aside"));
    expect_test::expect![[r#"
        themes/far/partials/row.html
          -takes: { bed:, 'size': 0 }
          +takes: { bed:, 'large': 0 }
          -+{bed.width} +{size} +{bed.hint} +{each size_2 in [size]}+{size_2}+{end}
          ++{bed.width} +{large} +{bed.hint} +{each size_2 in [large]}+{size_2}+{end}
        themes/far/templates/entry/beds/north.html
          -+{partial "row" given bed = content, size = 2} +{content.hint} +{request.view == "card"}
          ++{partial "row" given bed = content, large = 2} +{content.hint} +{request.view == "card"}
        themes/far/templates/page.html
          -+{into "side"}+{partial "row" given bed = beds.first, size = 1}+{end}
          ++{into "side"}+{partial "row" given bed = beds.first, large = 1}+{end}
        8 rendered, 0 show it, 0 differ
    "#]]
    .assert_eq(&renamed("far", "param:row/size", "large"));
    expect_test::expect![[r#"
        content/pages/visit.md
          -      text: hint
          +      words: hint
        themes/far/components/hint/component.html
          -<p>+{text} +{to.title}</p>
          +<p>+{words} +{to.title}</p>
        themes/far/components/hint/component.toml
          -name = "text"
          +name = "words"
        2 rendered, 0 show it, 0 differ
    "#]]
    .assert_eq(&renamed("far", "param:hint/text", "words"));
    expect_test::expect![[r#"
        expected.toml
          -"/visit/" = { status = 200, template = "page.html", theme = "far" }
          +"/visit/" = { status = 200, template = "page.html", theme = "base" }
        themes/far/assets/beds.css -> themes/base/assets/beds.css
        themes/far/components/hint/component.html -> themes/base/components/hint/component.html
        themes/far/components/hint/component.toml -> themes/base/components/hint/component.toml
        themes/far/hausblatt-theme.toml -> themes/base/hausblatt-theme.toml
        themes/far/layouts/document.html -> themes/base/layouts/document.html
        themes/far/partials/row.html -> themes/base/partials/row.html
        themes/far/prepare/all.let -> themes/base/prepare/all.let
        themes/far/templates/entry/beds/north.html -> themes/base/templates/entry/beds/north.html
        themes/far/templates/entry/beds/of-long.html -> themes/base/templates/entry/beds/of-long.html
        themes/far/templates/entry/notes.html -> themes/base/templates/entry/notes.html
        themes/far/templates/entry.card.html -> themes/base/templates/entry.card.html
        themes/far/templates/entry.html -> themes/base/templates/entry.html
        themes/far/templates/fallback.html -> themes/base/templates/fallback.html
        themes/far/templates/listing/sort/long.html -> themes/base/templates/listing/sort/long.html
        themes/far/templates/listing/sort.html -> themes/base/templates/listing/sort.html
        themes/far/templates/page.html -> themes/base/templates/page.html
        themes/far/templates/route/map.html -> themes/base/templates/route/map.html
        themes/near/hausblatt-theme.toml
          -parent = "far"
          +parent = "base"
        34 rendered, 0 show it, 0 differ
    "#]]
    .assert_eq(&renamed("near", "theme:far", "base"));
    expect_test::expect![[r#"
        content/beds/north.md
          +formerly: /beds/long/north/
        content/beds/south.md
          +formerly: /beds/long/south/
          -/beds/long/north/ and (/beds/long/north/card/).
          +/beds/north/ and (/beds/north/card/).
        hausblatt.toml
          -address = "/beds/{sort}/{slug}/"
          +address = "/beds/{slug}/"
          -main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/long" }, { to = "/beds/long/north/", label = "N" } ]
          +main = [ { to = "page:home" }, { to = "collection:beds" }, { to = "term:sort/long" }, { to = "/beds/north/", label = "N" } ]
        /beds/long/north/ => /beds/north/
        /beds/long/north/card/ ends: /beds/north/card/
        /beds/long/south/ => /beds/south/
        /beds/long/south/card/ ends: /beds/south/card/
        34 rendered, 2 show it, 0 differ
    "#]].assert_eq(&renamed("near", "address:beds", "/beds/{slug}/"));
}

/// A sequence of numbers that is the same each time.
struct Dice(u64);

impl Dice {
    fn below(&mut self, most: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        usize::try_from((self.0 >> 33) % most.max(1) as u64).unwrap()
    }

    fn one<'t>(&mut self, of: &[&'t str]) -> &'t str {
        of[self.below(of.len())]
    }
}

/// Names of which some are the beginning of others.
const NAMES: &[&str] = &["bed", "beds", "bed_2", "row", "rows", "frost"];
const SLUGS: &[&str] = &["bed", "beds", "bed-2", "row", "rows", "frost"];

/// A site in which names are used in random ways, and one is often a part of another.
fn random_site(dice: &mut Dice) -> Memory {
    let files = Memory::default();
    let mut names = NAMES.to_vec();
    let mut take = |dice: &mut Dice| names.remove(dice.below(names.len()));
    let (one, two, kind, table) = (take(dice), take(dice), take(dice), take(dice));
    let own: Vec<&str> = ["bed", "row", "tall"].into_iter().filter(|name| *name != kind).collect();
    let fields = [own[dice.below(own.len())], "width"];
    let term = dice.one(SLUGS);
    let menu = dice.one(NAMES);
    let config = format!(
        "[site]\ntitle = \"Seeds\"\ntheme = \"near\"\n[front]\npage = \"home\"\n[menus]\n{menu} = [ {{ to = \"collection:{one}\" }}, {{ to = \"page:{term}\" }} ]\n\
         [collections.{one}]\naddress = \"/{one}/{{slug}}/\"\nlisting = \"/{one}/\"\nviews = [\"row\"]\n[collections.{one}.fields]\n{} = {{ type = \"number\" }}\nwidth = {{ type = \"text\" }}\n\
         [collections.{two}]\naddress = \"/{two}/{{slug}}/\"\n[collections.{two}.fields]\nof = {{ type = \"entry\", collection = \"{one}\" }}\n\
         [taxonomies.{kind}]\nof = [\"{one}\"]\naddress = \"/k/{{term}}/\"\nterms.{term} = {{ label = \"T\" }}\n\
         [routes.{table}]\naddress = \"/r/{{slug}}/\"\neach = \"{table}\"\n",
        fields[0]
    );
    files.write("hausblatt.toml", config);
    files.write(format!("tables/{table}.csv"), "slug,to\na,page:home\n");
    files.write(
        "content/pages/home.md",
        format!("---\ntitle: Home\n---\n[a]({term}.md) [b](entry:{one}/{term}) /{one}/{term}/\n"),
    );
    files.write(format!("content/pages/{term}.md"), "---\ntitle: Under\n---\n[up](home.md)\n");
    files.write(
        format!("content/{one}/{term}.md"),
        format!("---\ntitle: One\n{kind}: [{term}]\n{}: 3\nwidth: {term}\n---\n[x](page:{term})\n", fields[0]),
    );
    files.write(format!("content/{two}/x.md"), format!("---\ntitle: X\nof: {term}\n---\n"));
    files.write(
        "themes/near/hausblatt-theme.toml",
        "[theme]\nversion = \"1\"\n[settings]\nbed = { type = \"text\", default = \"s\" }\n",
    );
    files.write("themes/near/prepare/all.let", "let frosty = \"p\"\n");
    files.write("themes/near/layouts/document.html", "<!doctype html>\n<html lang=\"en\"><title>+{request.title}</title><body class=\"+{classes.join(' ')}\">+{slot}+{slot \"bed\"}+{slot \"beds\"}");
    let parameter = dice.one(&["bed", "row", "entry"]);
    files.write(
        "themes/near/partials/row.html",
        format!(
            "---\ntakes: {{ {parameter}:, size: 1 }}\n---\n+{{{parameter}.title}} +{{size}} +{{{parameter}.address}}"
        ),
    );
    let page = format!(
        "+{{content.title}}+{{content.body}}+{{each m in menus.{menu}}}+{{m.label}}+{{end}}+{{settings.bed}} +{{frosty}}\n+{{each one in {one} where it.{} > 1}}\n+{{partial \"row\" given {parameter} = one}}\n+{{end}}\n+{{into \"bed\"}}+{{tables.{table}.count}}+{{end}}\n+{{into \"beds\"}}+{{url(\"collection:{one}\")}}+{{end}}\n",
        fields[0]
    );
    files.write("themes/near/templates/page.html", page);
    files.write("themes/near/templates/entry.html", "+{content.title} +{content.collection}");
    files.write(format!("themes/near/templates/entry/{one}.html"), format!("+{{content.{}}} +{{content.width}} +{{content.{kind}.first.label}} +{{content.{kind} has \"{term}\"}} +{{content.views.row}}", fields[0]));
    files.write(format!("themes/near/templates/entry/{one}.row.html"), "+{content.title}");
    files.write(
        "themes/near/templates/fallback.html",
        format!("+{{request.title}} +{{listing.total}} +{{route.name == \"{table}\"}}"),
    );
    files.write(
        format!("themes/near/templates/listing/{kind}.html"),
        format!("+{{each e in listing.items}}+{{if e.collection == \"{one}\"}}+{{e.title}}+{{end}}+{{end}}"),
    );
    files
}

#[test]
fn in_random_sites_each_rename_and_its_reverse_gives_every_byte_back() {
    let seeds: Vec<u64> = (0..24).collect();
    let results: Vec<Result<usize, String>> = seeds
        .par_iter()
        .map(|&seed| {
            let mut dice = Dice(seed);
            let files = random_site(&mut dice);
            let found = checked(&snapshot(&files));
            let before = without_former(&files);
            let all = renamable(&world(&files, "near"));
            let mut done = 0;
            for typed in all.iter().filter(|typed| !typed.starts_with("address:")) {
                let files = Memory::of(files.all().into_iter().map(|(path, bytes)| (path, bytes.to_vec())));
                let (new, back) = new_name(typed);
                let told = |problems: &[hausblatt_core::lang::text::diagnostic::Diagnostic]| {
                    format!("{seed} {typed}: {}", problems[0].message)
                };
                let first = match rename(&world(&files, "near"), typed, &new) {
                    Ok(first) => first,
                    // What would change pages in more than the name is refused, and nothing is written.
                    Err(problems) if problems.iter().all(|one| one.code == "not-the-same") => continue,
                    Err(problems) => return Err(told(&problems)),
                };
                write(&files, &first);
                let now = checked(&snapshot(&files)).len();
                if now > found.len() {
                    return Err(format!("{seed} {typed}: {:?}", checked(&snapshot(&files))));
                }
                let old = typed.split_once(':').unwrap().1;
                let is_whole = typed.starts_with("page:") || typed.starts_with("media:");
                let old = if is_whole { old } else { old.rsplit('/').next().unwrap() };
                let theme = if typed == "theme:near" { "renamed4" } else { "near" };
                let reverse = rename(&world(&files, theme), &back, old)
                    .map_err(|problems| format!("back, {}", told(&problems)))?;
                write(&files, &reverse);
                let after = without_former(&files);
                if before != after {
                    let differs = before.iter().zip(&after).find(|(one, other)| one != other);
                    return Err(format!("{seed} {typed}: {differs:?}"));
                }
                done += 1;
            }
            Ok(done)
        })
        .collect();
    let wrong: Vec<&String> = results.iter().filter_map(|one| one.as_ref().err()).collect();
    assert!(wrong.is_empty(), "{wrong:#?}");
    let count: usize = results.iter().flatten().sum();
    assert!(count > 300, "{count}");
}

#[test]
fn names_that_do_not_work_are_refused() {
    let files = site();
    let before = files.all();
    let said: String = [
        ("near", "menu:main", "main"),
        ("near", "menu:main", "Main"),
        ("near", "menu:mian", "top"),
        ("near", "field:beds/width", "hint"),
        ("near", "field:beds/width", "two words"),
        ("near", "collection:beds", "notes"),
        ("near", "collection:beds", "site"),
        ("near", "collection:beds", "Beds2"),
        ("near", "taxonomy:sort", "title"),
        ("near", "term:sort/long", "raised"),
        ("near", "page:visit", "home"),
        ("near", "page:visit", "Visit Us"),
        ("near", "entry:beds/north", "south"),
        ("near", "view:card", "page"),
        ("near", "table:rows", "a/b"),
        ("near", "route:map", "row"),
        ("near", "theme:far", "near"),
        ("near", "media/a b.svg", "a.png"),
        ("near", "setting:show", "start"),
        ("far", "setting:show", "start"),
        ("far", "param:row/size", "bed"),
        ("far", "param:row/size", "size_2"),
        ("far", "param:row/size", "site"),
        ("far", "param:row/sise", "large"),
        ("far", "slot:document/side", "si\"de"),
        ("far", "value:season", "sorted_2 "),
        ("far", "value:season", "width"),
        ("near", "address:beds", "/beds/"),
        ("near", "beds", "plots"),
        ("near", "map", "plan"),
        ("near", "nothing", "x"),
    ]
    .map(|(theme, what, new)| match rename(&world(&files, theme), what, new) {
        Ok(renaming) => format!("{what} -> {new}: {}\n", renaming.to),
        Err(problems) => {
            let first = &problems[0];
            format!("{what} -> {new}: {} ({}) {}\n", first.message, first.code, first.help.as_deref().unwrap_or(""))
        }
    })
    .concat();
    assert!(files.all() == before);
    expect_test::expect![[r#"
        menu:main -> main: the menu is main already (bad-name) 
        menu:main -> Main: main and Main differ by case alone, and are easily taken for one (bad-name) rename it to something else first
        menu:mian -> top: there is no menu "mian" (nothing-to-rename) did you mean "main"?
        field:beds/width -> hint: there is a field hint already (name-taken) choose another name, or rename that one first
        field:beds/width -> two words: "two words" can't name a field (bad-name) use letters, digits and underscores, and no word of the language
        collection:beds -> notes: there is a collection notes already (name-taken) choose another name, or rename that one first
        collection:beds -> site: "site" has a meaning of its own; a collection can't be called so (name-taken) choose another name
        collection:beds -> Beds2: "Beds2" can't name a collection (bad-name) use lower-case letters, digits and underscores, and no word of the language
        taxonomy:sort -> title: "title" is a key that all content has; a taxonomy can't be called so (name-taken) choose another name
        term:sort/long -> raised: there is a term raised already (name-taken) choose another name, or rename that one first
        page:visit -> home: there is a page home already (name-taken) choose another name, or rename that one first
        page:visit -> Visit Us: "Visit Us" can't name a page (bad-name) use lower-case letters, digits and hyphens, as in visit-us
        entry:beds/north -> south: there is an entry south already (name-taken) choose another name, or rename that one first
        view:card -> page: "page" can't name a view (bad-name) use lower-case letters, digits and hyphens, as in page
        table:rows -> a/b: "a/b" can't name a table (bad-name) use letters, digits, underscores and hyphens
        route:map -> row: there is a route row already (name-taken) choose another name, or rename that one first
        theme:far -> near: there is a theme near already (name-taken) choose another name, or rename that one first
        media/a b.svg -> a.png: a b.svg can't become a.png: the extension says what it is (bad-name) keep the extension
        setting:show -> start: there is a setting start already (name-taken) choose another name, or rename that one first
        setting:show -> start: there is a setting start already (name-taken) choose another name, or rename that one first
        param:row/size -> bed: there is a parameter bed already (name-taken) choose another name, or rename that one first
        param:row/size -> size_2: "size_2" means something else here (name-taken) choose another name
        param:row/size -> site: "site" is a value that every file has (name-taken) choose another name
        param:row/sise -> large: partials/row.html has no parameter "sise" (nothing-to-rename) did you mean "size"?
        slot:document/side -> si"de: "si"de" can't name a slot (bad-name) use letters, digits, underscores, hyphens and spaces
        value:season -> sorted_2 : "sorted_2 " can't name a prepared name (bad-name) use letters, digits and underscores, and no word of the language
        value:season -> width: "width" means something else here (name-taken) choose another name
        address:beds -> /beds/: "/beds/" is not a valid pattern of addresses (bad-address) {slug} must be in it, or all entries have one address
        beds -> plots: plots
        map -> plan: plan
        nothing -> x: no theme of the lineage has a file "nothing" (unknown-file) "hausblatt files" lists all files
    "#]].assert_eq(&said);
}
