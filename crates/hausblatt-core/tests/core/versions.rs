//! Addresses with versions: which have one, and what it changes with.

use std::path::Path;
use std::sync::Arc;

use hausblatt_core::Site;
use hausblatt_core::build::{self, BuildPart, ChangeKind, Options, dry_run};
use hausblatt_core::files::Files;
use hausblatt_core::files::memory::Memory;
use hausblatt_core::text::addresses_in_text::without_versions;
use hausblatt_core::world::World;

use crate::support::failing::Failing;
use crate::support::{asking, demo, snapshot};

const SITE: &str = "[site]\ntitle = \"Seeds\"\ntheme = \"near\"\naddress = \"https://seeds.example\"\n";
const PAGE: &str = "---\nlayout: none\n---\n<!doctype html>\n<html lang=\"en\"><title>1</title>\n\
    <link rel=\"stylesheet\" href=\"+{asset(\"a.css\")}\">\n\
    <meta property=\"og:image\" content=\"+{absolute(\"/media/bed.png?x=1#y\")}\">\n\
    <img src=\"/media/bed.png\" data-path=\"+{image(\"/media/bed.png?x&v=1\").path}\" alt=\"+{image(\"media/bed.png\")}\">\n\
    <script type=\"module\" src=\"/assets/a.js\"></script>\n\
    <a href=\"../media/bed.png\">/media/bed.png</a> <a href=\"/media/none.png\"></a>\n+{content.body}";

fn site() -> Memory {
    Memory::of([
        ("hausblatt.toml", SITE),
        ("content/pages/home.md", "---\ntitle: Home\n---\n![A bed](/media/bed.png) `/media/bed.png`\n"),
        ("media/bed.png", "bed"),
        ("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\n"),
        (
            "themes/far/assets/a.css",
            "@import 'b.css'; @import \"c.css\" print; a { b: url( /media/bed.png#x ) url(d.png) }",
        ),
        ("themes/far/assets/b.css", "@import url(\"a.css\"); /* far */"),
        ("themes/far/assets/c.css", "c { top: 0 }"),
        ("themes/near/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\nparent = \"far\"\n"),
        ("themes/near/assets/b.css", "@import url(a.css); /* near */"),
        (
            "themes/near/assets/a.js",
            "import { b } from './b.mjs';\nimport 'c';\nconst d = new URL('/media/bed.png', import.meta.url);\n",
        ),
        ("themes/near/assets/b.mjs", "export * from \"./a.js\"; export const b = import('./b.mjs');\n"),
        ("themes/near/templates/page.html", PAGE),
    ])
}

fn options() -> Options {
    Options {
        out: "/built".into(),
        map: false,
        marks: false,
        compressed: false,
        part: BuildPart::WHOLE,
        clears_images: true,
    }
}

fn built(files: &(impl Files + Clone + 'static)) -> build::Report {
    let world = World::load(snapshot(files), asking()).unwrap();
    let report = build::build(&world, &options(), &|_, _| {}).unwrap();
    assert!(report.failed.is_empty(), "{report:?} {:?}", world.problems);
    report
}

fn text(files: &Memory, path: &str) -> String {
    String::from_utf8(files.bytes(path).unwrap_or_default().to_vec()).unwrap()
}

/// What is published, by path, each version written as a letter, the same for the same.
fn published(files: &Memory) -> String {
    built(files);
    let mut known: Vec<String> = Vec::new();
    let mut all = String::new();
    for path in ["home/index.html", "assets/a.css", "assets/b.css", "assets/c.css", "assets/a.js", "assets/b.mjs"] {
        let text = text(files, &format!("built/{path}"));
        let mut rest = text.as_str();
        all.push_str(&format!("--- {path}\n"));
        while let Some((before, after)) = rest.split_once("v=") {
            all.push_str(before);
            let digits = after.find(|c: char| !c.is_ascii_hexdigit()).unwrap_or(after.len());
            let version = &after[..digits];
            assert_eq!(digits, 12, "{after}");
            let at = known.iter().position(|other| other == version).unwrap_or_else(|| {
                known.push(version.to_owned());
                known.len() - 1
            });
            all.push_str(&format!("v={}", (b'A' + at as u8) as char));
            rest = &after[digits..];
        }
        all.push_str(rest);
        all.push('\n');
    }
    all
}

#[test]
fn every_address_of_a_file_has_its_version() {
    expect_test::expect![[r#"
        --- home/index.html
        <!doctype html>
        <html lang="en"><title>1</title>
        <link rel="stylesheet" href="/assets/a.css?v=A">
        <meta property="og:image" content="https://seeds.example/media/bed.png?x=1&amp;v=B#y">
        <img src="/media/bed.png?v=B" data-path="/media/bed.png?v=B" alt="/media/bed.png">
        <script type="module" src="/assets/a.js?v=C"></script>
        <a href="../media/bed.png?v=B">/media/bed.png</a> <a href="/media/none.png"></a>
        <p><img src="/media/bed.png?v=B" alt="A bed" /> <code>/media/bed.png</code></p>

        --- assets/a.css
        @import 'b.css?v=A'; @import "c.css?v=D" print; a { b: url( /media/bed.png?v=B#x ) url(d.png) }
        --- assets/b.css
        @import url(a.css?v=A); /* near */
        --- assets/c.css
        c { top: 0 }
        --- assets/a.js
        import { b } from './b.mjs?v=C';
        import 'c';
        const d = new URL('/media/bed.png?v=B', import.meta.url);

        --- assets/b.mjs
        export * from "./a.js?v=C"; export const b = import('./b.mjs?v=C');

    "#]]
    .assert_eq(&published(&site()));
}

/// The version of the file that a page names so.
fn version_of(files: &Memory, named: &str) -> String {
    built(files);
    let page = text(files, "built/home/index.html");
    let at = page.find(named).unwrap_or_else(|| panic!("{named} is not in {page}"));
    page[at + named.len()..].chars().take_while(|&c| c != '"').collect()
}

#[test]
fn a_version_changes_with_all_that_a_file_loads() {
    let (styles, script, image) = ("/assets/a.css", "src=\"/assets/a.js", "<img src=\"/media/bed.png");
    for (path, text, changes) in [
        ("themes/near/assets/b.css", "/* other */", [true, false, false]),
        ("themes/far/assets/c.css", "c { top: 1px }", [true, false, false]),
        ("themes/far/assets/b.css", "/* nobody loads it */", [false, false, false]),
        ("themes/near/assets/c.css", "c { top: 2px }", [true, false, false]),
        ("themes/near/assets/b.mjs", "export let b = 1;", [false, true, false]),
        ("media/bed.png", "other", [true, true, true]),
        ("content/pages/home.md", "---\ntitle: Home\n---\nOther\n", [false, false, false]),
    ] {
        let files = site();
        let before = [styles, script, image].map(|named| version_of(&files, named));
        files.write(path, text);
        let after = [styles, script, image].map(|named| version_of(&files, named));
        let differs = [0, 1, 2].map(|at| before[at] != after[at]);
        assert_eq!(differs, changes, "{path}");
        // The same bytes give the same versions, whenever they were written.
        let again = site();
        again.write(path, text);
        assert_eq!([styles, script, image].map(|named| version_of(&again, named)), after, "{path}");
    }
}

#[test]
fn without_versions_all_is_published_as_it_is() {
    let files = site();
    files.write("hausblatt.toml", format!("{SITE}[build]\nversions = false\n"));
    built(&files);
    for path in ["a.css", "c.css"] {
        assert_eq!(files.bytes(format!("built/assets/{path}")), files.bytes(format!("themes/far/assets/{path}")));
    }
    assert_eq!(files.bytes("built/assets/a.js"), files.bytes("themes/near/assets/a.js"));
    assert!(!text(&files, "built/home/index.html").contains("?v="));
    let plain = text(&files, "built/home/index.html");
    files.write("hausblatt.toml", SITE);
    built(&files);
    let versioned = text(&files, "built/home/index.html");
    assert_ne!(versioned, plain);
    assert_eq!(without_versions(&versioned), plain);
    // What a program renders for itself is what is published.
    let opened = Site::open(Arc::new(files.clone()), Path::new("/"), &asking()).unwrap();
    assert_eq!(opened.render("/home/").text, versioned);
}

#[test]
fn a_dry_run_lists_versions_apart() {
    let files = site();
    built(&files);
    files.write("themes/far/assets/c.css", "c { top: 1px }");
    let world = World::load(snapshot(&files), asking()).unwrap();
    let report = dry_run(&world, &options(), true, &|_, _| {}).unwrap();
    let would: Vec<_> = report.would.iter().map(|would| (would.path.as_str(), would.becomes)).collect();
    let versions = ChangeKind::Versions;
    let expected = [
        ("assets/a.css", versions),
        ("assets/b.css", versions),
        ("assets/c.css", ChangeKind::Changed),
        ("home/index.html", versions),
    ];
    assert_eq!(would, expected);
    assert!(report.would.iter().all(|would| would.becomes == versions || would.diff.is_none()));
    files.write("content/pages/home.md", "---\ntitle: Home\n---\nOther\n");
    let world = World::load(snapshot(&files), asking()).unwrap();
    let report = dry_run(&world, &options(), true, &|_, _| {}).unwrap();
    let page = report.would.iter().find(|would| would.path == "home/index.html").unwrap();
    assert_eq!(page.becomes, ChangeKind::Changed);
    assert!(!page.diff.as_ref().unwrap().contains("v="), "{page:?}");
}

#[test]
fn an_unchanged_image_is_not_read_again() {
    let files = site();
    let is_read = || {
        let counted = Failing::never(&files);
        built(&counted);
        counted.opened().iter().any(|path| path.ends_with("media/bed.png") && !path.starts_with("/built"))
    };
    assert!(is_read());
    files.write("content/pages/home.md", "---\ntitle: Home\n---\nNew.\n");
    assert!(!is_read());
    files.write("media/bed.png", "other");
    assert!(is_read());
}

#[test]
fn a_style_sheet_extends_the_one_that_it_covers() {
    let theme = |parent: &str| format!("[theme]\nversion = \"1.0\"\n{parent}");
    let files = Memory::of([
        ("hausblatt.toml", SITE),
        ("content/pages/home.md", "---\ntitle: Home\n---\n"),
        ("themes/far/assets/css/a.css", "a { b: url(img/a.svg#x) url(../img/b.svg) url(/media/c.png) url(data:,d) }"),
        ("themes/far/assets/css/img/a.svg", "<svg/>"),
        ("themes/far/assets/img/b.svg", "<svg/>"),
        ("themes/mid/assets/css/a.css", "@import \"/assets/css/a.css\"; b { c: url(img/a.svg) }"),
        ("themes/near/assets/css/a.css", "@import url(a.css) print; @import 'b.css';"),
        ("themes/near/assets/css/b.css", "@import 'a.css';"),
        ("media/c.png", "c"),
        ("themes/near/templates/page.html", "---\nlayout: none\n---\n+{asset(\"css/a.css\")}"),
    ]);
    files.write("themes/far/hausblatt-theme.toml", theme(""));
    files.write("themes/mid/hausblatt-theme.toml", theme("parent = \"far\"\n"));
    files.write("themes/near/hausblatt-theme.toml", theme("parent = \"mid\"\n"));
    built(&files);
    let of = |path: &str| without_versions(&text(&files, &format!("built/assets/{path}"))).into_owned();
    assert_eq!(of("css/a.css"), "@import url(/assets/_covered/mid/css/a.css) print; @import 'b.css';");
    assert_eq!(
        of("_covered/mid/css/a.css"),
        "@import \"/assets/_covered/far/css/a.css\"; b { c: url(/assets/css/img/a.svg) }"
    );
    let far = "a { b: url(/assets/css/img/a.svg#x) url(/assets/img/b.svg) url(/media/c.png) url(data:,d) }";
    assert_eq!(of("_covered/far/css/a.css"), far);
    // All of it has versions.
    assert_eq!(text(&files, "built/assets/_covered/far/css/a.css").matches("?v=").count(), 3);
    let published = text(&files, "built/assets/css/a.css");
    files.write("themes/far/assets/img/b.svg", "<svg></svg>");
    built(&files);
    assert_ne!(text(&files, "built/assets/css/a.css"), published);
    // Without versions it is the same.
    files.write("hausblatt.toml", format!("{SITE}[build]\nversions = false\n"));
    built(&files);
    assert_eq!(text(&files, "built/assets/_covered/far/css/a.css"), far);
    // What nobody extends any more goes.
    files.write("themes/mid/assets/css/a.css", "b { c: d }");
    built(&files);
    assert_eq!(files.bytes("built/assets/_covered/far/css/a.css"), None);
    assert!(files.bytes("built/assets/_covered/mid/css/a.css").is_some());
    // And a file that extends none imports itself.
    files.write("themes/far/assets/css/c.css", "@import 'c.css';");
    let said: Vec<_> = crate::support::checked(&snapshot(&files));
    assert!(said.contains(&("missing-file".to_owned(), "themes/far/assets/css/c.css".to_owned(), 1)), "{said:?}");
    // Nor does the last of a chain extend one, which would be a circle.
    files.write("themes/near/assets/css/c.css", "@import 'c.css';");
    let said: Vec<_> = crate::support::checked(&snapshot(&files));
    assert!(said.contains(&("missing-file".to_owned(), "themes/far/assets/css/c.css".to_owned(), 1)), "{said:?}");
    assert!(!said.iter().any(|(_, path, _)| path == "themes/near/assets/css/c.css"), "{said:?}");
}

#[test]
fn a_built_search_has_the_version_of_its_index() {
    let files = demo();
    let version = |files: &Memory| {
        built(files);
        let page = text(files, "built/search/index.html");
        let (_, rest) = page.split_once("/search/search.js?v=").unwrap_or_else(|| panic!("{page}"));
        rest[..12].to_owned()
    };
    let before = version(&files);
    files.write("themes/harbour/assets/harbour.css", "a { top: 0 }");
    assert_eq!(version(&files), before);
    files.write("content/pages/new.md", "---\ntitle: New\n---\nHindmost.\n");
    assert_ne!(version(&files), before);
}
