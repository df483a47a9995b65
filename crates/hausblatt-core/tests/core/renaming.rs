//! Theme files renamed: what is carried along, what is refused, and that the reverse gives every byte back.

use std::path::{Path, PathBuf};

use hausblatt_core::SiteOptions;
use hausblatt_core::change::rename::{Renaming, rename};
use hausblatt_core::files::edit::write_all;
use hausblatt_core::files::memory::Memory;
use hausblatt_core::world::World;

use crate::support::{asking, checked, demo, snapshot};

fn site() -> Memory {
    let manifest = |parent: &str| format!("[theme]\nversion = \"1.0\"\n{parent}");
    let files = Memory::of([
        ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"near\"\n"),
        (
            "content/pages/home.md",
            "---\ntitle: Home\ntemplate: calm\ntrays:\n  main:\n    - component: hint\n      text: hint\n---\nhint\n",
        ),
        ("content/pages/visit.md", "---\ntitle: Visit\n---\n"),
        (
            "themes/far/templates/page.html",
            "---\nlayout: frame\n---\n+{partial \"row\"} +{partial \"row/wide\"} row +{tray \"main\"}",
        ),
        ("themes/far/templates/fallback.html", "---\nlayout: frame\n---\n1"),
        (
            "themes/far/templates/offered/calm.html",
            "---\nlabel: Calm\nlayout: frame\n---\n+{component \"hint\" given text = \"1\"} calm",
        ),
        (
            "themes/far/layouts/frame.html",
            "<!doctype html>\n<html lang=\"en\"><title>1</title><link rel=\"stylesheet\" href=\"+{asset(\"bed.css\")}\"><img src=\"/assets/img/row.png\">+{used \"styles\"}+{slot}",
        ),
        ("themes/far/partials/row.html", "<p>row</p>"),
        ("themes/far/components/hint/component.html", "<p>+{text}</p>"),
        (
            "themes/far/components/hint/component.toml",
            "[component]\nlabel = \"Hint\"\n\n[[fields]]\nname = \"text\"\ntype = \"text\"\nlabel = \"Text\"\n",
        ),
        ("themes/far/assets/bed.css", "@import 'parts/row.css'; a { background: url(img/row.png?x#y) }"),
        ("themes/far/assets/parts/row.css", "b { background: url( ../img/row.png ) url(\"/assets/img/row.png\") }"),
        ("themes/far/assets/img/row.png", "row"),
        ("themes/far/assets/bed.mjs", "import './parts/row.mjs';"),
        ("themes/far/assets/parts/row.mjs", "export * from '../bed.mjs'; fetch('/assets/img/row.png');"),
        ("themes/near/partials/row.html", "<p>near row</p>"),
        ("themes/near/.originals/partials/row.html", "theme = \"far\"\npath = \"partials/row.html\"\n---\n<p>row</p>"),
        ("themes/other/templates/page/visit.html", "---\nlayout: frame\n---\n+{partial \"row\"}+{use \"bed.css\"}"),
    ]);
    for (theme, parent) in [("far", ""), ("near", "parent = \"far\"\n"), ("other", "parent = \"far\"\n")] {
        files.write(format!("themes/{theme}/hausblatt-theme.toml"), manifest(parent));
    }
    files
}

fn world(files: &Memory, theme: &str) -> World {
    let asking = SiteOptions { theme: Some(theme.to_owned()), ..asking() };
    World::load(snapshot(files), asking).unwrap()
}

fn contents(files: &Memory) -> Vec<(PathBuf, Vec<u8>)> {
    files.all().into_iter().map(|(path, bytes)| (path, bytes.to_vec())).collect()
}

/// Renames and writes.
fn renamed(files: &Memory, theme: &str, what: &str, new: &str) -> Renaming {
    let renaming = match rename(&world(files, theme), what, new) {
        Ok(renaming) => renaming,
        Err(problems) => panic!("{what} -> {new}: {problems:?}"),
    };
    write_all(files, Path::new("/"), &renaming.writes).unwrap();
    renaming
}

fn refusal(files: &Memory, theme: &str, what: &str, new: &str) -> String {
    let before = contents(files);
    let problems = rename(&world(files, theme), what, new).unwrap_err();
    assert_eq!(contents(files), before);
    let told = |one: &hausblatt_core::lang::text::diagnostic::Diagnostic| {
        format!("{} ({}): {}\n", one.message, one.code, one.help.as_deref().unwrap_or(""))
    };
    problems.iter().map(told).collect()
}

/// What became of a site: each file that is other than before, with its text.
fn difference(before: &Memory, after: &Memory) -> String {
    let (before, after) = (contents(before), contents(after));
    let gone = before.iter().filter(|(path, _)| !after.iter().any(|(other, _)| other == path));
    let mut out: String = gone.map(|(path, _)| format!("- {}\n", path.display())).collect();
    for (path, bytes) in after.iter().filter(|one| !before.contains(one)) {
        out += &format!("+ {}\n{}\n", path.display(), String::from_utf8_lossy(bytes).trim_end().replace('\r', "\\r"));
    }
    out
}

#[test]
fn a_partial_takes_its_callers_its_copies_and_their_records_along() {
    let files = site();
    let renaming = renamed(&files, "far", "row", "line");
    expect_test::expect![[r#"
        - /themes/far/partials/row.html
        - /themes/near/.originals/partials/row.html
        - /themes/near/partials/row.html
        + /themes/far/partials/line.html
        <p>row</p>
        + /themes/far/templates/page.html
        ---
        layout: frame
        ---
        +{partial "line"} +{partial "line/wide"} row +{tray "main"}
        + /themes/near/.originals/partials/line.html
        # What this theme's file of the same name is a copy of; "hausblatt drift" needs it.
        theme = "far"
        path = "partials/line.html"
        ---
        <p>row</p>
        + /themes/near/partials/line.html
        <p>near row</p>
        + /themes/other/templates/page/visit.html
        ---
        layout: frame
        ---
        +{partial "line"}+{use "bed.css"}
    "#]]
    .assert_eq(&difference(&site(), &files));
    assert_eq!((renaming.proof.differ.len(), renaming.proof.shows_name.len(), renaming.uncertain.len()), (0, 0, 0));
    assert_eq!((renaming.proof.rendered, renaming.proof.concerned), (3, 3));
    // Copies know their originals by the new name.
    let codes = |files: &Memory| world(files, "near").problems.iter().map(|one| one.code).collect::<Vec<_>>();
    assert_eq!(codes(&files), codes(&site()));
    let (copies, _) = hausblatt_core::change::drift::copies(&world(&files, "near"));
    assert_eq!(copies.iter().map(|copy| copy.state.word()).collect::<Vec<_>>(), ["current"]);
    renamed(&files, "far", "partial:line", "partials/row.html");
    assert_eq!(difference(&site(), &files).matches('+').count(), 1, "the record is written as the program writes it");
}

#[test]
fn partials_below_one_are_renamed_with_it() {
    let files = site();
    files.write("themes/far/partials/row/home.html", "<p>home row</p>");
    files.write(
        "themes/other/templates/page/visit.html",
        "---\nlayout: none\n---\n+{partial \"row/\" + content.id} +{partial \"row/home\"} +{partial \"row/x/y\"}",
    );
    let before = Memory::of(contents(&files));
    assert!(refusal(&files, "far", "row", "line").contains("partial:row/ line/"));
    let renaming = renamed(&files, "far", "partials/row/", "line");
    assert_eq!((renaming.uncertain.len(), renaming.proof.differ.len()), (0, 0));
    expect_test::expect![[r#"
        - /themes/far/partials/row/home.html
        - /themes/far/partials/row.html
        - /themes/near/.originals/partials/row.html
        - /themes/near/partials/row.html
        + /themes/far/partials/line/home.html
        <p>home row</p>
        + /themes/far/partials/line.html
        <p>row</p>
        + /themes/far/templates/page.html
        ---
        layout: frame
        ---
        +{partial "line"} +{partial "line/wide"} row +{tray "main"}
        + /themes/near/.originals/partials/line.html
        # What this theme's file of the same name is a copy of; "hausblatt drift" needs it.
        theme = "far"
        path = "partials/line.html"
        ---
        <p>row</p>
        + /themes/near/partials/line.html
        <p>near row</p>
        + /themes/other/templates/page/visit.html
        ---
        layout: none
        ---
        +{partial "line/" + content.id} +{partial "line/home"} +{partial "line/x/y"}
    "#]]
    .assert_eq(&difference(&before, &files));
    renamed(&files, "far", "partial:line/", "row/");
    assert_eq!(
        files.bytes("themes/other/templates/page/visit.html"),
        before.bytes("themes/other/templates/page/visit.html")
    );
}

#[test]
fn a_component_takes_content_along_and_an_offered_template_its_choices() {
    let files = site();
    renamed(&files, "far", "component:hint", "note");
    renamed(&files, "far", "offered/calm", "quiet");
    expect_test::expect![[r#"
        - /themes/far/components/hint/component.html
        - /themes/far/components/hint/component.toml
        - /themes/far/templates/offered/calm.html
        + /content/pages/home.md
        ---
        title: Home
        template: quiet
        trays:
          main:
            - component: note
              text: hint
        ---
        hint
        + /themes/far/components/note/component.html
        <p>+{text}</p>
        + /themes/far/components/note/component.toml
        [component]
        label = "Hint"

        [[fields]]
        name = "text"
        type = "text"
        label = "Text"
        + /themes/far/templates/offered/quiet.html
        ---
        label: Calm
        layout: frame
        ---
        +{component "note" given text = "1"} calm
    "#]]
    .assert_eq(&difference(&site(), &files));
    renamed(&files, "far", "components/note", "hint");
    renamed(&files, "far", "template:offered/quiet", "offered/calm");
    assert_eq!(difference(&site(), &files), "");
}

#[test]
fn an_asset_is_found_wherever_it_is_loaded_from() {
    let files = site();
    renamed(&files, "far", "asset:img/row.png", "pictures/deep/line");
    renamed(&files, "far", "asset:parts/row.css", "row.css");
    renamed(&files, "far", "assets/bed.css", "css/bed.css");
    renamed(&files, "far", "assets/parts/row.mjs", "row.mjs");
    expect_test::expect![[r#"
        - /themes/far/assets/bed.css
        - /themes/far/assets/img/row.png
        - /themes/far/assets/parts/row.css
        - /themes/far/assets/parts/row.mjs
        + /themes/far/assets/bed.mjs
        import './row.mjs';
        + /themes/far/assets/css/bed.css
        @import '../row.css'; a { background: url(../pictures/deep/line.png?x#y) }
        + /themes/far/assets/pictures/deep/line.png
        row
        + /themes/far/assets/row.css
        b { background: url( pictures/deep/line.png ) url("/assets/pictures/deep/line.png") }
        + /themes/far/assets/row.mjs
        export * from './bed.mjs'; fetch('/assets/pictures/deep/line.png');
        + /themes/far/layouts/frame.html
        <!doctype html>
        <html lang="en"><title>1</title><link rel="stylesheet" href="+{asset("css/bed.css")}"><img src="/assets/pictures/deep/line.png">+{used "styles"}+{slot}
        + /themes/other/templates/page/visit.html
        ---
        layout: frame
        ---
        +{partial "row"}+{use "css/bed.css"}
    "#]].assert_eq(&difference(&site(), &files));
    for (what, new) in [("row.mjs", "parts/row.mjs"), ("css/bed.css", "bed.css"), ("row.css", "parts/row.css")] {
        renamed(&files, "far", &format!("asset:{what}"), new);
    }
    renamed(&files, "far", "assets/pictures/deep/line.png", "img/row.png");
    assert_eq!(difference(&site(), &files), "");
}

#[test]
fn odd_names_and_places_are_no_obstacle() {
    let files = site();
    files.write("themes/far/assets/old gate ü.svg", "<svg/>");
    files.write(
        "themes/far/layouts/frame.html",
        "<!doctype html>\r\n<link href='/assets/old%20gate%20%c3%bc.svg?x'><img src=\"/assets/old gate ü.svg\">\r\n\
         +{asset(\"old gate ü.svg\")} x/assets/old%20gate /assets/old%20gate%20%C3%BC.svg2 +{slot}",
    );
    files.write("themes/far/assets/bed.css", "a { background: url('old gate ü.svg') url( old%20gate%20ü.svg#x ) }");
    files.write("themes/far/partials/row.xml", "<row/>");
    files.write("media/print.css", "a { background: url(../assets/old%20gate%20ü.svg) }");
    // A record that makes no sense moves with its copy.
    files.write("themes/near/.originals/partials/row.html", "?");
    files.write("themes/deep/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\nparent = \"far\"\nroot = \"src\"\n");
    files.write("themes/deep/src/partials/row.html", "<p>deep</p>");
    let before = Memory::of(contents(&files));
    renamed(&files, "far", "assets/old gate ü.svg", "gate.svg");
    renamed(&files, "far", "partials/row.html", "line");
    expect_test::expect![[r#"
        - /themes/deep/src/partials/row.html
        - /themes/far/assets/old gate ü.svg
        - /themes/far/partials/row.html
        - /themes/far/partials/row.xml
        - /themes/near/.originals/partials/row.html
        - /themes/near/partials/row.html
        + /media/print.css
        a { background: url(../assets/gate.svg) }
        + /themes/deep/src/partials/line.html
        <p>deep</p>
        + /themes/far/assets/bed.css
        a { background: url('gate.svg') url( gate.svg#x ) }
        + /themes/far/assets/gate.svg
        <svg/>
        + /themes/far/layouts/frame.html
        <!doctype html>\r
        <link href='/assets/gate.svg?x'><img src="/assets/gate.svg">\r
        +{asset("gate.svg")} x/assets/old%20gate /assets/old%20gate%20%C3%BC.svg2 +{slot}
        + /themes/far/partials/line.html
        <p>row</p>
        + /themes/far/partials/line.xml
        <row/>
        + /themes/far/templates/page.html
        ---
        layout: frame
        ---
        +{partial "line"} +{partial "line/wide"} row +{tray "main"}
        + /themes/near/.originals/partials/line.html
        ?
        + /themes/near/partials/line.html
        <p>near row</p>
        + /themes/other/templates/page/visit.html
        ---
        layout: frame
        ---
        +{partial "line"}+{use "bed.css"}
    "#]]
    .assert_eq(&difference(&before, &files));
}

#[test]
fn a_layout_and_a_template_take_along_what_names_them() {
    let files = site();
    let manifest = "[theme]\nversion = \"1.0\"\nparent = \"far\"\nhide = [\"templates/offered/calm.html\", \"layouts/frame.html\"]\n";
    files.write("themes/other/hausblatt-theme.toml", manifest);
    files.write("themes/other/templates/page/visit.html", "---\nlayout: none\n---\n1");
    files.write("expected.toml", "\"/\" = { status = 200, template = \"offered/calm.html\", layout = \"frame\" }\n\"/x/\" = { template = \"page.html\" }\n");
    let before = Memory::of(contents(&files));
    let layout = rename(&world(&files, "far"), "frame", "document");
    assert!(layout.is_ok(), "{layout:?}");
    renamed(&files, "far", "layout:frame", "around");
    let renaming = renamed(&files, "far", "calm", "quiet");
    assert_eq!(renaming.to, "offered/quiet.html");
    expect_test::expect![[r#"
        - /themes/far/layouts/frame.html
        - /themes/far/templates/offered/calm.html
        + /content/pages/home.md
        ---
        title: Home
        template: quiet
        trays:
          main:
            - component: hint
              text: hint
        ---
        hint
        + /expected.toml
        "/" = { status = 200, template = "offered/quiet.html", layout = "around" }
        "/x/" = { template = "page.html" }
        + /themes/far/layouts/around.html
        <!doctype html>
        <html lang="en"><title>1</title><link rel="stylesheet" href="+{asset("bed.css")}"><img src="/assets/img/row.png">+{used "styles"}+{slot}
        + /themes/far/templates/fallback.html
        ---
        layout: around
        ---
        1
        + /themes/far/templates/offered/quiet.html
        ---
        label: Calm
        layout: around
        ---
        +{component "hint" given text = "1"} calm
        + /themes/far/templates/page.html
        ---
        layout: around
        ---
        +{partial "row"} +{partial "row/wide"} row +{tray "main"}
        + /themes/other/hausblatt-theme.toml
        [theme]
        version = "1.0"
        parent = "far"
        hide = ["templates/offered/quiet.html", "layouts/around.html"]
    "#]].assert_eq(&difference(&before, &files));
    // A template that is no offered one renders something else by its new name, and that is said.
    let renaming = rename(&world(&files, "other"), "page/visit", "page/home").unwrap();
    let changed: Vec<&str> = renaming.proof.changed.iter().map(|change| change.address.as_str()).collect();
    assert_eq!(changed, ["/home/", "/visit/"]);
}

#[test]
fn what_can_not_be_known_is_listed_or_refused() {
    let files = site();
    files.write("themes/other/templates/page/home.html", "---\nlayout: none\n---\n+{partial \"row/\" + content.id}");
    files.write("themes/other/partials/broken.html", "+{if row}");
    let computed = rename(&world(&files, "far"), "row", "line");
    let Err(problems) = computed else { panic!("{computed:?}") };
    assert_eq!(problems[0].message, "there is no partial below \"row/\"");
    files.write(
        "themes/other/templates/page/home.html",
        "---\nlayout: none\n---\n+{if request.today.year == 1}+{partial \"ro\" + \"w/\" + content.id}+{end}",
    );
    files.write("themes/other/partials/rows/home.html", "1");
    files.write("themes/other/templates/page/home.html", "---\nlayout: none\n---\n+{partial \"rows/\" + content.id}");
    let renaming = rename(&world(&files, "far"), "row", "line").unwrap();
    let uncertain: Vec<String> =
        renaming.uncertain.iter().map(|(place, why)| format!("{} {why}", place.path)).collect();
    assert_eq!(uncertain, ["themes/other/partials/broken.html it has an error, so what it names is not known"]);
    files.write("themes/other/hausblatt-theme.toml", "[theme\n");
    let renaming = rename(&world(&files, "far"), "row", "line").unwrap();
    let uncertain: Vec<String> =
        renaming.uncertain.iter().map(|(place, why)| format!("{} {why}", place.path)).collect();
    let why = "it can't be read, so what the theme inherits and names is not known";
    assert_eq!(uncertain, [format!("themes/other/hausblatt-theme.toml {why}")]);
}

#[test]
fn names_that_do_not_work_are_refused() {
    let files = site();
    files.write("themes/near/partials/Line.html", "1");
    files.write("themes/far/layouts/document.html", "<!doctype html>+{slot}");
    files.write("themes/far/templates/page.html", "+{partial \"row\"}");
    let said: String = [
        ("near", "row", "line"),
        ("far", "row", "line"),
        ("far", "row", "row"),
        ("far", "row", "Row"),
        ("far", "row", "../row"),
        ("far", "row", ""),
        ("far", "rwo", "line"),
        ("far", "layout:frame", "a/b"),
        ("far", "layout:frame", "document"),
        ("far", "layout:document", "page"),
        ("far", "component:hint", "two words"),
        ("far", "template:page", "page.xml"),
        ("far", "template:page", "pgae"),
        ("far", "asset:bed.css", "bed.js"),
        ("far", "asset:bed.css", "components/hint/bed.css"),
        ("far", "asset:bed.css", "parts/row.css"),
        ("far", "asset:bed.css", "a//b.css"),
        ("far", "hausblatt-theme.toml", "x"),
    ]
    .iter()
    .map(|(theme, what, new)| format!("{theme}: {what} -> {new}\n    {}", refusal(&files, theme, what, new)))
    .collect();
    expect_test::expect![[r#"
        near: row -> line
            the partial row is from the theme far (not-own): rename it there: hausblatt rename row line --theme far
        far: row -> line
            there is a partial line already: themes/near/partials/Line.html (file-exists): choose another name, or rename that one first
        far: row -> row
            the partial is called row already (bad-name): 
        far: row -> Row
            "Row" can't name a partial (bad-name): use lower-case letters, digits and hyphens, as in row
        far: row -> ../row
            "../row" can't name a partial (bad-name): use lower-case letters, digits and hyphens, as in row
        far: row -> 
            "" can't name a partial (bad-name): use lower-case letters, digits and hyphens
        far: rwo -> line
            no theme of the lineage has a file "rwo" (unknown-file): did you mean "row"?
        far: layout:frame -> a/b
            "a/b" can't name a layout (bad-name): use lower-case letters, digits and hyphens, as in a-b
        far: layout:frame -> document
            there is a layout document already: themes/far/layouts/document.html (file-exists): choose another name, or rename that one first
        far: layout:document -> page
            the layout document goes around every template that names none (not-the-same): let them say layout: page first, or leave its name
        far: component:hint -> two words
            "two words" can't name a component (bad-name): use lower-case letters, digits and hyphens, as in two-words
        far: template:page -> page.xml
            a template that ends in .html can't become page.xml (bad-name): keep the extension: page.html
        far: template:page -> pgae
            no request could use pgae.html: "pgae" is not a kind of request; did you mean page.html? (dead-template): 
        far: asset:bed.css -> bed.js
            bed.css can't become bed.js: the extension says what it is (bad-name): keep the extension
        far: asset:bed.css -> components/hint/bed.css
            "components/hint/bed.css" can't name an asset (bad-name): use lower-case letters, digits and hyphens
        far: asset:bed.css -> parts/row.css
            there is an asset parts/row.css already: themes/far/assets/parts/row.css (file-exists): choose another name, or rename that one first
        far: asset:bed.css -> a//b.css
            "a//b.css" can't name an asset (bad-name): use lower-case letters, digits and hyphens
        far: hausblatt-theme.toml -> x
            hausblatt-theme.toml can't be renamed by this command (bad-name): it renames templates, partials, layouts, components, prepare files and assets
    "#]].assert_eq(&said);
}

/// Each file of the demo that can be renamed, by a new name and back again.
#[test]
fn each_rename_of_the_demo_keeps_it_right_and_its_reverse_gives_every_byte_back() {
    let before = contents(&demo());
    let mut count = 0;
    for theme in ["harbour", "hedgerow", "loam"] {
        let names: Vec<String> = {
            let world = world(&demo(), theme);
            let own = world.lineage.ids().filter(|(_, file)| file.theme == 0);
            own.map(|(_, file)| file.name.to_string()).collect()
        };
        for name in names {
            let folder = name.split('/').next().unwrap_or("");
            let (what, new) = match folder {
                "partials" | "layouts" | "assets" => (name.clone(), "renamed-one".to_owned()),
                "components" if name.ends_with("component.html") => (name.clone(), "renamed-one".to_owned()),
                "templates" if name.starts_with("templates/offered/") => (name.clone(), "renamed-one".to_owned()),
                _ => continue,
            };
            let files = demo();
            let first = match rename(&world(&files, theme), &what, &new) {
                Ok(first) => first,
                Err(problems) => {
                    let codes: Vec<&str> = problems.iter().map(|one| one.code).collect();
                    let is_known = |code: &str| codes == [code];
                    let known = ["not-own", "not-the-same", "unknown-partial"].into_iter().any(is_known);
                    assert!(known, "{what}: {problems:?}");
                    continue;
                }
            };
            assert!(first.proof.differ.is_empty(), "{what}: {:?}", first.proof.differ);
            write_all(&files, Path::new("/"), &first.writes).unwrap();
            assert_eq!(checked(&snapshot(&files)), [], "{what}");
            let own = format!("themes/{theme}/");
            let to = first.moved.iter().find(|(from, _)| from.starts_with(&own)).unwrap().1.clone();

            let back = rename(&world(&files, theme), &to, &first.from)
                .unwrap_or_else(|problems| panic!("{what}: {problems:?}"));
            write_all(&files, Path::new("/"), &back.writes).unwrap();
            assert!(contents(&files) == before, "{what}");
            count += 1;
        }
    }
    assert!(count > 15, "{count}");
}
