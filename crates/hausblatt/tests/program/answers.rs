//! Answers that programs rely on: complete and valid also where a site can't be loaded; and that no command that writes
//! adds a problem.

use serde_json::Value;

use crate::support::Site;

/// Every command that reads a site and answers as JSON.
const AS_JSON: &[&[&str]] = &[
    &["resolve", "/"],
    &["map"],
    &["map", "--unused"],
    &["reach", "page"],
    &["themes"],
    &["templates"],
    &["override", "page"],
    &["assign", "--clear", "/visit/"],
    &["suppose", "--without", "page"],
    &["drift"],
    &["values", "/"],
    &["render", "/"],
    &["build"],
    &["expect"],
    &["missed", "access.log"],
    &["start", "page", "new"],
];

#[test]
fn a_site_that_can_not_be_loaded_is_answered_as_data() {
    let broken = Site::small();
    broken.write("hausblatt.toml", "[site\ntitle = \"Seeds\"\n");
    let lost = Site::small();
    lost.write("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"naer\"\n");
    let none = Site::empty();
    for (site, code, line) in
        [(&broken, "toml", Value::from(1)), (&lost, "unknown-theme", 3.into()), (&none, "no-site", Value::Null)]
    {
        site.write("access.log", "/vsit/\n");
        for arguments in AS_JSON {
            let said = site.run(&[arguments, ["--format", "json"].as_slice()].concat());
            assert_eq!(said.code, 2, "{arguments:?} {}", said.whole());
            let answer: Value = serde_json::from_str(&said.out)
                .unwrap_or_else(|error| panic!("{arguments:?} {error}\n{}", said.whole()));
            let problem = &answer["problems"][0];
            assert_eq!((&problem["code"], &problem["line"]), (&Value::from(code), &line), "{arguments:?}");
            assert!(!said.err.is_empty(), "{arguments:?}: nothing for people");
        }
        let array: Value = serde_json::from_str(&site.run(&["check", "--format", "json"]).out).unwrap();
        assert_eq!(array[0]["code"], code);
        let log: Value = serde_json::from_str(&site.run(&["check", "--format", "sarif"]).out).unwrap();
        assert_eq!(log["runs"][0]["results"][0]["ruleId"], code);
        assert_eq!(log["version"], "2.1.0");
        // What is printed is explained.
        assert_eq!(site.run(&["check", "--explain", code]).code, 0, "{code}");
    }
}

#[test]
fn another_theme_is_blamed_on_who_asked_for_it() {
    let site = Site::small();
    let said = site.run(&["map", "--theme", "naer"]);
    assert_eq!(said.code, 2);
    assert!(said.err.contains("there is no theme \"naer\"") && !said.err.contains("hausblatt.toml"), "{}", said.err);
    site.write("themes/bare/templates/page.html", "1");
    let said = site.run(&["map", "--theme", "bare"]);
    assert!(said.err.contains("the theme \"bare\" has no hausblatt-theme.toml"), "{}", said.err);
}

/// What a log of hostile lines makes of content can be built as before.
#[test]
fn former_addresses_add_no_problem() {
    let site = Site::small();
    let line =
        |path: &str| format!("192.0.2.7 - - [14/Mar/2026:06:25:24 +0100] \"GET {path} HTTP/1.1\" 404 0 \"-\" \"-\"\n");
    let paths = [
        "/Visit/",
        "/VISIT",
        "/visits/",
        "/visits",
        "/Visits/",
        "/old//visit/",
        "/old/visit/",
        "/old/../visit/",
        "/old/visit/?a=1",
        "/old/%00visit/",
        "/old/visit%0a/",
        "/journal/Frost/",
        "/jurnal/frost/",
        "/journal/frost/index.html",
        "/2025/frost.html",
        "/visit/opening/x/opening/",
        "/%2e%2e/visit/",
        "/old/'visit'/",
        "/old/visit: x/",
        "/old/#visit/",
        "/404.html/visit/",
    ];
    site.write("access.log", paths.map(line).concat());
    let clean = site.run(&["build"]);
    assert_eq!(clean.code, 0, "{}", clean.whole());
    let fixed = site.run(&["missed", "--fix", "access.log"]);
    assert!(fixed.code < 2, "{}", fixed.whole());
    let after = site.run(&["build"]);
    assert_eq!((after.code, after.err.as_str()), (0, clean.err.as_str()), "{}", fixed.whole());
    // What is left can't be written, and is not offered again.
    let again = site.json(&["missed", "access.log"]);
    assert!(again.as_array().unwrap().iter().all(|missed| missed["line"].is_null()), "{again}\n{}", fixed.whole());
}

#[test]
fn a_conflict_is_not_published() {
    let site = Site::small();
    assert_eq!(site.run(&["build"]).code, 0);
    let before = site.read("built/visit/index.html");
    site.write("content/pages/visit.md", "---\ntitle: Visit\n---\n<<<<<<< ours\nCome.\n=======\nGo.\n>>>>>>> theirs\n");
    let said = site.run(&["build"]);
    assert_eq!(said.code, 1);
    assert_eq!(said.err.matches("error[conflict-marks]").count(), 1, "{}", said.err);
    assert_eq!(site.read("built/visit/index.html"), before);
    let said = site.run(&["resolve", "/visit/"]);
    assert_eq!(said.code, 1);
    assert!(said.out.starts_with("/visit/  →  500") && said.err.contains("conflict-marks"), "{}", said.whole());
}

/// Which of two names is misspelt is not certain where nothing else has either.
#[test]
fn only_what_is_certain_is_fixed() {
    let site = Site::small();
    site.write("themes/far/templates/page.html", "page +{content.title}+{tray \"mian\"}\n");
    site.write("themes/far/components/note/component.html", "<p>1</p>");
    site.write("themes/far/components/note/component.toml", "[component]\nlabel = \"Note\"\n");
    let page = "---\ntrays:\n  main:\n    - component: note\n---\n";
    site.write("content/pages/visit.md", page);
    let said = site.run(&["check", "--fix"]);
    assert!(said.out.contains("unknown-tray"), "{}", said.whole());
    assert_eq!(site.read("content/pages/visit.md"), page);
    // With another page that has the tray, it is.
    site.write("themes/far/templates/page.html", "page +{content.title}+{tray \"main\"}\n");
    site.write("content/pages/home.md", page);
    site.write("content/pages/visit.md", page.replace("main", "mian"));
    site.run(&["check", "--fix"]);
    assert_eq!(site.read("content/pages/visit.md"), page);
}

#[test]
fn nothing_is_chosen_that_can_not_be_rendered() {
    let site = Site::small();
    site.write("themes/far/templates/offered/wide.html", "---\nlabel: Wide\n---\n+{content.title");
    let before = site.tree(".");
    let said = site.run(&["assign", "wide", "/visit/"]);
    assert_eq!(said.code, 1, "{}", said.whole());
    assert_eq!(site.tree("."), before);
    assert!(said.err.contains("themes/far/templates/offered/wide.html has an error"), "{}", said.err);
    // What fills an error page has templates of another kind.
    site.write("themes/far/templates/offered/wide.html", "---\nlabel: Wide\n---\n+{content.title}");
    site.write("hausblatt.toml", site.read("hausblatt.toml") + "[errors]\n404 = \"lost\"\n");
    site.write("content/pages/lost.md", "---\ntitle: Lost\n---\n");
    let said = site.run(&["assign", "wide", "content/pages/lost.md"]);
    assert_eq!(said.code, 1, "{}", said.whole());
    assert!(said.err.contains("fills an error page"), "{}", said.err);
    assert_eq!(site.read("content/pages/lost.md"), "---\ntitle: Lost\n---\n");
}

/// The head of a file can be read, and what comes after it not: that is an error, not an empty page.
#[test]
fn a_text_that_can_not_be_read_is_not_an_empty_one() {
    let site = Site::small();
    let long = format!("---\ntitle: Visit\n---\n{}", "word ".repeat(4000));
    site.write("content/pages/visit.md", [long.as_bytes(), b"\xff\n"].concat());
    let said = site.run(&["resolve", "/visit/"]);
    assert_eq!(said.code, 1, "{}", said.whole());
    assert!(said.out.starts_with("/visit/  →  500") && said.err.contains("error[unreadable]"), "{}", said.whole());
}
