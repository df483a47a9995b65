//! `check`: errors planted in the demo one at a time, found at their lines, and gone when they are fixed.

use crate::support::{Site, check};
use expect_test::expect;
use serde_json::Value;

const PAGE: &str = "themes/loam/templates/page.html";
const ENTRY: &str = "themes/harbour/templates/entry.html";
const CARD: &str = "themes/loam/partials/card.html";
const LOST: &str = "themes/hedgerow/templates/error/404.html";
const VISIT: &str = "content/pages/visit.md";
const SCARLET: &str = "content/varieties/scarlet-runner.md";
const SITE: &str = "hausblatt.toml";

#[test]
fn the_demo_is_clean() {
    check(
        &Site::demo(),
        &["check", "--strict"],
        expect![[r#"
            exit 0
            ✓ No problems found in the whole site.
        "#]],
    );
}

/// What is found, as code, path and line.
fn found(site: &Site, more: &[&str]) -> Vec<(String, String, u64)> {
    let answer = site.json(&[&["check"], more].concat());
    let text = |value: &Value| value.as_str().unwrap_or("").to_owned();
    let rows = answer.as_array().unwrap().iter();
    rows.map(|row| (text(&row["code"]), text(&row["path"]), row["line"].as_u64().unwrap_or(0))).collect()
}

#[test]
fn error_pages_and_stale_copies_are_missed() {
    let site = Site::demo();
    let page = site.read("themes/loam/templates/error.html");
    site.remove("themes/loam/templates/error.html");
    let lost = site.read(LOST);
    site.remove(LOST);
    assert!(found(&site, &[]).iter().any(|(code, ..)| code == "no-error-page"), "{:?}", found(&site, &[]));
    site.write("themes/loam/templates/error.html", page);
    site.write(LOST, lost);
    assert_eq!(site.run(&["override", "partials/footer"]).code, 0);
    assert_eq!(found(&site, &[]), []);
    let footer = "themes/loam/partials/footer.html";
    let text = site.read(footer);
    site.write(footer, format!("{text}<!-- newer -->\n"));
    let told = ("stale-copy".to_owned(), "themes/harbour/partials/footer.html".to_owned(), 1);
    assert_eq!(found(&site, &[]), [told]);
}

/// A large site is checked after an edit as it is checked anew, whatever became of what the last check has saved.
#[test]
fn a_large_site_is_checked_after_an_edit_as_anew() {
    let site = Site::small();
    site.write("themes/far/templates/page.html", "+{content.body}\n");
    for number in 0..400 {
        site.write(
            &format!("content/pages/row-{number}.md"),
            format!("Row {number}, [next](/row-{}/).\n", (number + 1) % 400),
        );
    }
    let saved = ".hausblatt-check";
    let anew = || {
        let _ = std::fs::remove_file(site.path(saved));
        site.run(&["check"]).whole()
    };
    let first = anew();
    assert_eq!(site.run(&["check"]).whole(), first);
    let page = "content/pages/row-7.md";
    site.write(page, "Row 7, [next](/row-8/) and [none](/row-400/).\n");
    let edited = site.run(&["check"]).whole();
    assert!(edited.contains("broken link \"/row-400/\"") && edited.contains("row-7.md:1:"), "{edited}");
    assert_eq!(edited, anew());
    site.write(page, "\n\nRow 7, [next](/row-8/) and [none](/row-400/).\n");
    let moved = site.run(&["check"]).whole();
    assert!(moved.contains("row-7.md:3:"), "{moved}");
    assert_eq!(moved, anew());
    site.remove("content/pages/row-9.md");
    let without = site.run(&["check"]).whole();
    assert!(without.contains("broken link \"/row-9/\""), "{without}");
    assert_eq!(without, anew());
    for damaged in ["", "hausblatt-check 1\n", "[nothing of ours]"] {
        site.write(saved, damaged);
        assert_eq!(site.run(&["check"]).whole(), without);
    }
    // Where nothing can be saved, nothing is said of it.
    site.remove(saved);
    std::fs::create_dir(site.path(saved)).unwrap();
    assert_eq!(site.run(&["check"]).whole(), without);
    // What a killed check has left is removed, and a link that leads to the site leads to what is saved.
    std::fs::remove_dir(site.path(saved)).unwrap();
    let mut ended = std::process::Command::new("true").spawn().unwrap();
    ended.wait().unwrap();
    let left = format!(".hausblatt-{}-1", ended.id());
    site.write(&left, "half");
    let elsewhere = Site::empty();
    std::os::unix::fs::symlink(site.root(), elsewhere.path("link")).unwrap();
    let through = elsewhere.run(&["check", "--site", "link"]).whole();
    assert_eq!(through.replace(" --site link", ""), without);
    assert!(site.path(saved).is_file() && !site.path(&left).exists());
    site.remove(saved);
    // What addresses alone are asked about leaves no file, nor does a small site.
    site.run(&["check", "/row-7/"]);
    let small = Site::small();
    small.run(&["check"]);
    assert!(!site.path(saved).exists() && !small.path(saved).exists());
}

#[test]
fn one_problem_on_many_pages_is_one_report() {
    let site = Site::demo();
    site.write(CARD, site.read(CARD).replace(" alt=\"\"", ""));
    check(
        &site,
        &["check"],
        expect![[r#"
            exit 0
            warning  this <img> has no alt
                     themes/loam/partials/card.html:6:3
                 6 |   <img src="+{entry.image.scaled(640)}" width="320" height="240" loadi…
                       ‾‾‾‾‾‾‾‾‾‾
                     → say what it shows, or write alt="" if it only decorates        no-alt
                     seen at / and 49 more addresses

            1 warning in the whole site.
            What it means:   hausblatt check --about no-alt
        "#]],
    );
    let answer = site.json(&["check"]);
    assert!(answer[0]["addresses"].as_array().unwrap().len() > 20, "{answer:#}");
}

#[test]
fn parts_of_a_site_are_checked_alone() {
    let site = Site::demo();
    site.write(CARD, site.read(CARD).replace(" alt=\"\"", ""));
    site.write(VISIT, site.read(VISIT).replace("## Before", "[Come](/visits/)\n\n## Before"));
    let codes = |more: &[&str]| found(&site, more).into_iter().map(|(code, ..)| code).collect::<Vec<_>>();
    assert_eq!(codes(&[]), ["broken-link", "no-alt"]);
    assert_eq!(codes(&["/visit/"]), ["broken-link"]);
    assert_eq!(codes(&[VISIT]), ["broken-link"]);
    assert_eq!(codes(&["/varieties/"]), ["no-alt"]);
    assert_eq!(codes(&[CARD]), ["no-alt"]);
    assert_eq!(codes(&["partials/card"]), ["no-alt"]);
    assert_eq!(codes(&["/journal/", PAGE]), Vec::<String>::new());
    for (typed, code) in [("/nowhere/", 0), ("content/pages/vist.md", 1), ("partials/crad", 1), ("/visit", 2)] {
        let said = site.run(&["check", typed]);
        assert_eq!(said.code, code, "{}", said.whole());
    }
}

#[test]
fn warnings_count_only_where_they_are_denied() {
    let site = Site::demo();
    site.write(CARD, site.read(CARD).replace(" alt=\"\"", ""));
    assert_eq!(site.run(&["check"]).code, 0);
    assert_eq!(site.run(&["check", "--strict"]).code, 1);
    let allow = "\n[[check.except]]\ncode = \"no-alt\"\npath = \"themes/loam/partials/*.html\"\n";
    site.write(SITE, site.read(SITE) + allow);
    assert_eq!(site.run(&["check", "--strict"]).code, 0);
    site.write(PAGE, site.read(PAGE).replace("\"crumbs\"", "\"crumps\""));
    assert_eq!(site.run(&["check"]).code, 1);
}

#[test]
fn certain_suggestions_are_applied_and_no_other_byte() {
    let site = Site::demo();
    let problems = [
        (PAGE, "+{partial \"crumbs\"}", "+{partial \"crumps\"}"),
        (ENTRY, "content.seats} seats", "contnt.seats} seats"),
        (SCARLET, "latin:", "latn:"),
        (SITE, "per_page = 12", "per_pge  = 12"),
    ];
    let clean = site.tree(".");
    for (path, from, to) in problems {
        site.write(path, site.read(path).replacen(from, to, 1).replace('\n', "\r\n"));
    }
    let broken = site.tree(".");
    check(
        &site,
        &["check", "--fix", "--dry-run", "content/varieties/scarlet-runner.md"],
        expect![[r#"
            exit 1
            --- before content/varieties/scarlet-runner.md
            +++ after content/varieties/scarlet-runner.md
            @@ -1,6 +1,6 @@
             ---
             title: Scarlet Runner
            -latn: Phaseolus coccineus
            +latin: Phaseolus coccineus
             family: [legumes]
             height_cm: 300
             sow_from: 5

            1 problem in 1 file would be fixed. To write it:  hausblatt check --fix content/varieties/scarlet-runner.md
        "#]],
    );
    assert!(site.tree(".") == broken, "a dry run writes nothing");
    check(
        &site,
        &["check", "--fix"],
        expect![[r#"
            exit 0
            ✓ No problems found in the whole site.
            ---
            fixed 4 problems in 4 files

        "#]],
    );
    for (path, from, _) in problems {
        let text = site.read(path);
        assert!(text.contains(&from.replace("per_page =", "per_page  =")), "{path}: {text}");
        assert_eq!(text.matches("\r\n").count(), text.matches('\n').count(), "{path}");
    }
    let others = |tree: Vec<(String, Vec<u8>)>| -> Vec<_> {
        let is_kept = |path: &str| path.starts_with(".hausblatt-undo/");
        let is_fixed = |path: &str| problems.iter().any(|(other, ..)| path.ends_with(other));
        tree.into_iter().filter(|(path, _)| !is_kept(path) && !is_fixed(path)).collect()
    };
    assert!(others(site.tree(".")) == others(clean));
    site.write(PAGE, "+{partial \"crumbs}\n");
    check(
        &site,
        &["check", "--fix", PAGE],
        expect![[r#"
            exit 0
            ✓ No problems found in what you named.
            ---
            fixed 1 problem in 1 file

        "#]],
    );
    assert_eq!(site.read(PAGE), "+{partial \"crumbs\"}\n");
}

#[test]
fn what_may_mean_two_things_is_not_mended() {
    let site = Site::demo();
    site.write("themes/harbour/partials/crumba.html", "1");
    site.write("themes/harbour/partials/crumbo.html", "1");
    site.write(PAGE, "+{partial \"crumbe\"}+{partial \"crumba\"}+{partial \"crumbo\"}\n");
    let before = site.tree(".");
    let said = site.run(&["check", "--fix", PAGE]);
    assert!(site.tree(".") == before, "{}", said.whole());
}

#[test]
fn findings_are_told_as_sarif() {
    let site = Site::demo();
    site.write(PAGE, site.read(PAGE).replace("\"crumbs\"", "\"crumps\""));
    site.write(CARD, site.read(CARD).replace(" alt=\"\"", ""));
    site.write("content/pages/a b.md", "");
    let said = site.run(&["check", "--format", "sarif"]);
    assert_eq!(said.code, 1);
    let log: Value = serde_json::from_str(&said.out).unwrap();
    let results = log["runs"][0]["results"].as_array().unwrap();
    let of = |code: &str| results.iter().find(|result| result["ruleId"] == code).unwrap();
    let partial = of("unknown-partial");
    let location = &partial["locations"][0]["physicalLocation"];
    assert_eq!(location["artifactLocation"]["uri"], PAGE);
    assert_eq!((&location["region"]["startLine"], &location["region"]["startColumn"]), (&2.into(), &13.into()));
    let replacement = &partial["fixes"][0]["artifactChanges"][0]["replacements"][0];
    assert_eq!(replacement["insertedContent"]["text"], "crumbs");
    assert_eq!(of("no-alt")["level"], "warning");
    assert!(of("no-alt")["properties"]["addresses"].as_array().unwrap().len() > 20);
    assert_eq!(of("bad-name")["locations"][0]["physicalLocation"]["artifactLocation"]["uri"], "content/pages/a%20b.md");
    let rules = log["runs"][0]["tool"]["driver"]["rules"].as_array().unwrap();
    assert!(rules.iter().all(|rule| rule["help"]["text"].as_str().is_some_and(|text| text.len() > 20)));
    // A clean site gives a log, too.
    let log: Value = serde_json::from_str(&Site::demo().run(&["check", "--format", "sarif"]).out).unwrap();
    assert_eq!(log["runs"][0]["results"], Value::Array(Vec::new()));
}

#[test]
fn heavy_pages_are_listed_by_template() {
    let site = Site::demo();
    site.write(
        "media/drawers.svg",
        format!("<svg xmlns=\"http://www.w3.org/2000/svg\"><!--{}--></svg>", "x".repeat(90_000)),
    );
    check(
        &site,
        &["check", "--weight", "60kB"],
        expect![[r#"
            exit 0
            warning  a first visit of /journal/drawer-forty/ loads 243 kB, more than 60 kB
                     themes/harbour/templates/entry.html
                     → the largest parts are /media/_made/1b5f08aa96bb/runner-beans-1280.jpg
                       (231 kB), /assets/loam.css (3.9 kB), the page itself (3.1 kB)
                                                                                  heavy-page
                     seen at /journal/drawer-forty/ and 1 more address

            warning  a first visit of / loads 104 kB, more than 60 kB
                     themes/harbour/templates/front.html
                     → the largest parts are /media/drawers.svg (90 kB), the page itself
                       (5.2 kB), /assets/loam.css (3.9 kB)                        heavy-page
                     seen at /

            2 warnings in the whole site.
            What it means:   hausblatt check --about heavy-page
        "#]],
    );
    check(
        &site,
        &["check", "--weight", "1MB"],
        expect![[r#"
        exit 0
        ✓ No problems found in the whole site.
    "#]],
    );
    check(
        &site,
        &["check", "--weight", "many"],
        expect![[r#"
        exit 2
        ---
        error: invalid value 'many' for '--weight <SIZE>': write it as in 200kB or 1.5MB

        For more information, try '--help'.
    "#]],
    );
}

#[test]
fn codes_are_explained() {
    let site = Site::empty();
    check(
        &site,
        &["check", "--about", "no-alt"],
        expect![[r#"
            exit 0
            no-alt: an image says nothing to those who can't see it

            An <img> has no alt attribute. Say in it what the image shows, or write alt=""
            where it is decoration.

            To have it left out, in hausblatt.toml:
            [[check.except]]
            code = "no-alt"
            path = "…"  # a file, a folder or a pattern
        "#]],
    );
    // An exception of what keeps a site from being loaded would change nothing.
    for code in ["no-site", "missing-manifest", "unused-exception", "not-alone"] {
        let said = site.run(&["check", "--about", code]);
        assert!(said.code == 0 && !said.out.contains("check.except]]\ncode"), "{}", said.whole());
    }
    check(
        &site,
        &["check", "--about", "no-alto"],
        expect![[r#"
        exit 2
        ---
        error: there is no code "no-alto"
        help: did you mean "no-alt"?
    "#]],
    );
    let all = site.run(&["check", "--about"]);
    assert_eq!(all.code, 0);
    assert!(all.out.lines().count() > 100 && all.out.lines().all(|line| line.chars().count() <= 100), "{}", all.out);
}

#[test]
fn what_is_asked_for_wrongly_is_said() {
    let site = Site::demo();
    assert_eq!(site.run(&["check", "--dry-run"]).code, 2);
    assert_eq!(site.run(&["check", "--format", "csv"]).code, 2);
    assert_eq!(site.run(&["map", "--format", "sarif"]).code, 2);
    site.write(SITE, "[site\n");
    let said = site.run(&["check"]);
    assert_eq!(said.code, 2, "{}", said.whole());
}

/// What reads only the beginning of a text names the places far behind it all the same.
#[test]
fn places_far_down_a_text_are_named_by_each_command() {
    let site = Site::small();
    let long = "A paragraph that is there to be long.\n\n".repeat(400);
    site.write(
        "content/pages/visit.md",
        format!("---\ntitle: Visit\n---\n{long}![A gate](/media/nope.png)\n\n[Out](page:vist)\n"),
    );
    for arguments in [
        ["check", "/visit/", "--color", "never"].as_slice(),
        &["check", "content/pages/visit.md"],
        &["check"],
        &["render", "/visit/"],
        &["resolve", "/visit/"],
    ] {
        let said = site.run(arguments);
        let all = format!("{}{}", said.out, said.err);
        for (line, text) in [(804, "nope.png"), (806, "page:vist")] {
            let is_told = all.contains(&format!("content/pages/visit.md:{line}:")) || !all.contains("missing-media");
            assert!(is_told, "{arguments:?} {text}: {all}");
        }
        assert!(!all.contains("visit.md:4"), "{arguments:?}: {all}");
    }
    let all = site.run(&["check", "/visit/", "--format", "json"]).out;
    assert!(all.contains("\"line\": 804") && all.contains("\"line\": 806"), "{all}");
}
