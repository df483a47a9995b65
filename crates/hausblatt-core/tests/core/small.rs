//! Style sheets and scripts that are published small: what they hold, what stays as it is, and what is said of that.

use hausblatt_core::build::{self, BuildPart, Options};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::lang::text::ending::Ending;
use hausblatt_core::lookup::public;
use hausblatt_core::world::World;

use crate::support::{asking, checked_in_words, snapshot};

const SMALL: &str = "styles = \"small\"\nscripts = \"small\"\n";

fn site(config: &str) -> Memory {
    let toml = format!("[site]\ntitle = \"Seeds\"\ntheme = \"near\"\n\n[build]\n{config}");
    let page = "---\nlayout: none\n---\n<!doctype html>\n<link rel=\"stylesheet\" href=\"+{asset(\"bed.css\")}\">\n\
        <script src=\"+{asset(\"bed.js\")}\"></script>\n";
    Memory::of([
        ("hausblatt.toml", toml.as_str()),
        ("content/pages/home.md", "---\ntitle: Home\n---\n"),
        ("media/bed.png", "bed"),
        ("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\n"),
        ("themes/far/assets/bed.css", "@import 'parts/row.css' screen;\n\n.far  { color: #ff0000; }\n"),
        ("themes/far/assets/parts/row.css", ".row { background: url(row.png) url( /media/bed.png ) }\n"),
        ("themes/far/assets/parts/row.png", "row"),
        ("themes/near/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\nparent = \"far\"\n"),
        (
            "themes/near/assets/bed.css",
            "@import \"bed.css\" layer(far);\n/* near */\n.near { &:hover { margin: 0px 0px } }\n",
        ),
        (
            "themes/near/assets/bed.js",
            "// The rows.\nimport { rows } from './rows.mjs';\nexport const beds = (length) => rows(length);\n",
        ),
        ("themes/near/assets/rows.mjs", "export function rows(length) {\n  return length * 2;\n}\n"),
        ("themes/near/templates/page.html", page),
    ])
}

fn world(files: &Memory) -> World {
    World::load(snapshot(files), asking()).unwrap()
}

/// What is sent at a path, each version left out.
fn sent(files: &Memory, path: &str) -> String {
    let world = world(files);
    assert!(world.problems.is_empty(), "{:?}", world.problems);
    let node = public::file(&world, path).unwrap();
    let sent = world.published_file(path, node);
    let text = sent.text.unwrap_or_else(|| node.whole_text().unwrap().to_string());
    let mut parts = text.split("?v=");
    let first = parts.next().unwrap_or("").to_owned();
    let why = sent.not_small.map(|why| format!("\n{why}")).unwrap_or_default();
    parts.fold(first, |all, part| all + &part[12..]) + &why
}

fn address(files: &Memory, path: &str) -> String {
    let world = world(files);
    world.published(&format!("<img src=\"{path}\">"), Ending::Html, None).into_owned()
}

#[test]
fn a_style_sheet_holds_what_it_imports() {
    let files = site(SMALL);
    expect_test::expect!["@layer far{@media screen{.row{background:url(/assets/parts/row.png) url(/media/bed.png)}}.far{color:red}}.near{&:hover{margin:0}}"].assert_eq(&sent(&files, "/assets/bed.css"));
    expect_test::expect![".row{background:url(row.png) url(/media/bed.png)}"]
        .assert_eq(&sent(&files, "/assets/parts/row.css"));
    expect_test::expect![
        "@media screen{.row{background:url(/assets/parts/row.png) url(/media/bed.png)}}.far{color:red}"
    ]
    .assert_eq(&sent(&files, "/assets/_covered/far/bed.css"));
    let old = site("styles = \"small\"\nbrowsers = { chrome = 100, safari = 15.4 }\n");
    expect_test::expect!["@layer far{@media screen{.row{background:url(/assets/parts/row.png) url(/media/bed.png)}}.far{color:red}}.near:hover{margin:0}"].assert_eq(&sent(&old, "/assets/bed.css"));
}

#[test]
fn a_script_keeps_what_others_see() {
    let files = site(SMALL);
    expect_test::expect![[r#"import{rows}from"./rows.mjs";export const beds=e=>rows(e);"#]]
        .assert_eq(&sent(&files, "/assets/bed.js"));
    expect_test::expect!["export function rows(e){return e*2}"].assert_eq(&sent(&files, "/assets/rows.mjs"));
    // Small already, and one that no browser runs.
    files.write("themes/near/assets/rows.mjs", "let a=1");
    assert_eq!(sent(&files, "/assets/rows.mjs"), "let a=1");
    files.write("themes/near/assets/rows.mjs", "let a = ;");
    expect_test::expect![[r#"
        let a = ;
        themes/near/assets/rows.mjs: this script is published as it is, not made small: unexpected token"#]]
    .assert_eq(&sent(&files, "/assets/rows.mjs"));
}

#[test]
fn what_is_not_understood_stays_as_it_is() {
    let files = site(SMALL);
    files.write("themes/far/assets/parts/row.css", ".row { top: 0 }\n\n  .2nd { top: 0 }\n");
    expect_test::expect![[r#"
        @import "/assets/_covered/far/bed.css" layer(far);
        /* near */
        .near { &:hover { margin: 0px 0px } }

        themes/far/assets/parts/row.css: this style sheet is published as it is, not made small: invalid empty selector"#]].assert_eq(&sent(&files, "/assets/bed.css"));
    let deep = format!("{}{}", ".a { ".repeat(61), "}".repeat(61));
    files.write("themes/far/assets/parts/row.css", &deep);
    assert!(sent(&files, "/assets/parts/row.css").contains("its brackets are nested too deep"));
    let deep = format!("{}b: c {}", ".a { ".repeat(58), "}".repeat(58));
    files.write("themes/far/assets/parts/row.css", &deep);
    assert!(sent(&files, "/assets/parts/row.css").starts_with(".a{& .a{"));
    files.write("themes/far/assets/parts/row.css", format!(".a {{ top: 0 }}{}", " ".repeat(4 << 20)));
    assert!(sent(&files, "/assets/parts/row.css").ends_with("it is too large"));
    // Not UTF-8: it is reported as that.
    files.write("themes/far/assets/parts/row.css", b".a { content: '\xff' }");
    assert!(
        world(&files)
            .published_file("/assets/parts/row.css", public::file(&world(&files), "/assets/parts/row.css").unwrap())
            .text
            .is_none()
    );
    assert!(sent(&files, "/assets/bed.css").contains("@import"));
}

#[test]
fn letters_are_read_as_they_are_written() {
    let files = site(SMALL);
    files.write("themes/near/assets/bed.css", "\u{feff}.a { content: 'ü' }");
    assert_eq!(sent(&files, "/assets/bed.css"), "@charset \"utf-8\";.a{content:\"ü\"}");
    files.write("themes/near/assets/bed.css", "@charset \"utf-8\";\n.a { content: 'u' }");
    assert_eq!(sent(&files, "/assets/bed.css"), ".a{content:\"u\"}");
    files.write("themes/near/assets/rows.mjs", "\u{feff}export const a = 'ü';");
    assert_eq!(sent(&files, "/assets/rows.mjs"), "\u{feff}export const a=`ü`;");
}

#[test]
fn the_version_changes_with_the_form() {
    let [plain, small, old] = ["", SMALL, "styles = \"small\"\nbrowsers = { chrome = 100 }\n"].map(site);
    for path in ["/assets/bed.css", "/assets/parts/row.css"] {
        assert_ne!(address(&plain, path), address(&small, path));
        assert_ne!(address(&old, path), address(&small, path));
        assert_eq!(address(&small, path), address(&site(SMALL), path));
    }
    assert_ne!(address(&plain, "/assets/bed.js"), address(&small, "/assets/bed.js"));
    assert_eq!(address(&plain, "/assets/bed.js"), address(&old, "/assets/bed.js"));
    assert_eq!(address(&plain, "/media/bed.png"), address(&small, "/media/bed.png"));
}

#[test]
fn a_build_publishes_what_is_sent_and_says_what_stays() {
    let files = site(SMALL);
    files.write("themes/far/assets/parts/row.css", ".2nd { top: 0 }\n");
    let options = Options {
        out: "/built".into(),
        map: false,
        marks: false,
        compressed: false,
        part: BuildPart::WHOLE,
        clears_images: false,
    };
    let of = world(&files);
    let report = build::build(&of, &options, &|_, _| {}).unwrap();
    // It is said once, though each sheet that imports it stays as it is, too.
    let said: Vec<String> = report.diagnostics.iter().map(ToString::to_string).collect();
    expect_test::expect!["themes/far/assets/parts/row.css: this style sheet is published as it is, not made small: invalid empty selector"].assert_eq(&said.join("\n"));
    for path in ["assets/bed.css", "assets/bed.js", "assets/rows.mjs"] {
        let node = public::file(&of, &format!("/{path}")).unwrap();
        let text = of.published_file(&format!("/{path}"), node).text.unwrap();
        assert_eq!(files.bytes(format!("built/{path}")).unwrap().to_vec(), text.as_bytes(), "{path}");
    }
    let found = checked_in_words(&snapshot(&files));
    let small: Vec<&String> =
        found.iter().map(|(_, words)| words).filter(|words| words.contains("not-small")).collect();
    expect_test::expect![[r#"
        [
            "themes/far/assets/parts/row.css:1 warning not-small: this style sheet is published as it is, not made small: invalid empty selector | write this place as the standard has it, or leave it: the file works as before",
        ]
    "#]].assert_debug_eq(&small);
}

#[test]
fn what_is_configured_wrong_is_said() {
    let configs = [
        "styles = \"tiny\"",
        "scripts = true",
        "browsers = { chrome = 109 }",
        "styles = \"small\"\nbrowsers = { chrom = 109, safari = \"new\", firefox = 0 }",
    ];
    let said = configs.map(|config| {
        let problems = world(&site(config)).problems;
        problems.iter().map(|one| format!("{} ({})\n", one, one.help.as_deref().unwrap_or(""))).collect::<String>()
    });
    expect_test::expect![[r#"
        hausblatt.toml: "styles" can't be "tiny" (write "as-is" or "small")
        hausblatt.toml: "scripts" must be a text, not true or false ()
        hausblatt.toml: "browsers" has an effect on small style sheets alone (write styles = "small", too, or take "browsers" out)
        hausblatt.toml: unknown browser "chrom" (did you mean "chrome"?)
        hausblatt.toml: "safari" must be a version (write the oldest version, as in safari = 115, or safari = "16.4")
        hausblatt.toml: "firefox" must be a version (write the oldest version, as in firefox = 115, or firefox = "16.4")
    "#]].assert_eq(&said.concat());
}
