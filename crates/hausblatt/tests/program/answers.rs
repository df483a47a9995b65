//! Answers that programs rely on: complete and valid also where a site can't be loaded; and that no command that writes
//! adds a problem.

use expect_test::expect;
use serde_json::Value;

use crate::support::{Site, check};

/// Every command that reads a site and answers as JSON.
const AS_JSON: &[&[&str]] = &[
    &["resolve", "/"],
    &["map"],
    &["map", "--unused"],
    &["reach", "page"],
    &["themes"],
    &["files"],
    &["override", "page"],
    &["choose", "--clear", "/visit/"],
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
        [(&broken, "bad-toml", Value::from(1)), (&lost, "unknown-theme", 3.into()), (&none, "no-site", Value::Null)]
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
        assert_eq!(site.run(&["check", "--about", code]).code, 0, "{code}");
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
    assert_eq!(said.err.matches(" conflict-marks\n").count(), 1, "{}", said.err);
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
    let said = site.run(&["choose", "wide", "/visit/"]);
    assert_eq!(said.code, 1, "{}", said.whole());
    assert_eq!(site.tree("."), before);
    assert!(said.err.contains("themes/far/templates/offered/wide.html has an error"), "{}", said.err);
    // What fills an error page has templates of another kind.
    site.write("themes/far/templates/offered/wide.html", "---\nlabel: Wide\n---\n+{content.title}");
    site.write("hausblatt.toml", site.read("hausblatt.toml") + "[errors]\n404 = \"lost\"\n");
    site.write("content/pages/lost.md", "---\ntitle: Lost\n---\n");
    let said = site.run(&["choose", "wide", "content/pages/lost.md"]);
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
    assert!(said.out.starts_with("/visit/  →  500") && said.err.contains(" unreadable\n"), "{}", said.whole());
}

/// What is reported once, at its cause, and what is suggested.
#[test]
fn a_wrong_pattern_is_reported_once_and_a_missing_slash_is_found() {
    let site = Site::small();
    let config = site.read("hausblatt.toml");
    site.write("hausblatt.toml", config.replace("/journal/{slug}/", "/journal/{editor}/{slug}/"));
    check(
        &site,
        &["check"],
        expect![[r#"
            exit 1
            error    there is no placeholder {editor} for the addresses of journal
                     hausblatt.toml:10:11
                10 | address = "/journal/{editor}/{slug}/"
                               ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                     → {slug}, {year}, {month}, {day} can be in it, and the name of a
                       taxonomy whose "of" has "journal"                         bad-address

            warning  what is not found is answered by themes/far/templates/fallback.html
                     themes/near/hausblatt-theme.toml
                     → write templates/error/404.html; create it with: hausblatt start
                       template error/404                                      no-error-page

            warning  this page is not a document, and there is no layout around it
                     themes/far/layouts/document.html:1:1
                 1 | [+{slot}]
                     ‾
                     → leave out layout: none, or write a whole document         no-document
                     seen at / and 5 more addresses

            1 error, 2 warnings in the whole site.
            What it means:   hausblatt check --about bad-address
        "#]],
    );
    site.write("hausblatt.toml", format!("{config}\n[menus]\nmain = [{{ label = \"V\", to = \"visit/opening\" }}]\n"));
    site.write("content/pages/visit.md", "---\ntitle: Visit\n---\n[a](journal/frost/) [b](opening/)\n");
    check(
        &site,
        &["check"],
        expect![[r#"
            exit 1
            error    broken reference "visit/opening"
                     hausblatt.toml:16:29
                16 | main = [{ label = "V", to = "visit/opening" }]
                                                 ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                     → did you mean /visit/opening/? An address begins with a slash
                                                                              dead-reference

            warning  what is not found is answered by themes/far/templates/fallback.html
                     themes/near/hausblatt-theme.toml
                     → write templates/error/404.html; create it with: hausblatt start
                       template error/404                                      no-error-page

            warning  this page is not a document, and there is no layout around it
                     themes/far/layouts/document.html:1:1
                 1 | [+{slot}]
                     ‾
                     → leave out layout: none, or write a whole document         no-document
                     seen at / and 8 more addresses

            1 error, 2 warnings in the whole site.
            What it means:   hausblatt check --about dead-reference
        "#]],
    );
}

/// A field and a setting that are declared wrongly are declared all the same; manifests come first.
#[test]
fn what_follows_from_a_wrong_declaration_is_not_reported() {
    let site = Site::small();
    let config = site.read("hausblatt.toml");
    site.write(
        "hausblatt.toml",
        format!(
            "{config}\n[collections.journal.fields]\ntint = {{ type = \"colr\" }}\n\n[settings]\naccent = \"red\"\n"
        ),
    );
    site.write("content/journal/2026-03-14-frost.md", "---\ntitle: Frost\ntint: teel\n---\n");
    site.write("themes/near/hausblatt-theme.toml", "[theme]\nparent = \"far\"\n\n[settings]\naccent = \"color\"\n");
    site.write("themes/near/templates/entry.html", "+{content.tint} +{settings.accent}\n");
    check(
        &site,
        &["check"],
        expect![[r#"
            exit 1
            error    there is no type "colr"
                     hausblatt.toml:16:17
                16 | tint = { type = "colr" }
                                     ‾‾‾‾‾‾
                     → did you mean "color"?                                     wrong-value

            warning  what is not found is answered by themes/far/templates/fallback.html
                     themes/near/hausblatt-theme.toml
                     → write templates/error/404.html; create it with: hausblatt start
                       template error/404                                      no-error-page

            error    a field is a group of keys
                     themes/near/hausblatt-theme.toml:5:10
                 5 | accent = "color"
                              ‾‾‾‾‾‾‾
                     → write accent = { type = "color" }                          wrong-type

            warning  this page is not a document, and there is no layout around it
                     themes/far/layouts/document.html:1:1
                 1 | [+{slot}]
                     ‾
                     → leave out layout: none, or write a whole document         no-document
                     seen at / and 8 more addresses

            2 errors, 2 warnings in the whole site.
            What it means:   hausblatt check --about wrong-value
        "#]],
    );
    site.write("hausblatt.toml", site.read("hausblatt.toml").replace("colr", "color"));
    site.write(
        "themes/near/hausblatt-theme.toml",
        "[theme]\nparent = \"far\"\n\n[settings]\naccent = { type = \"color\", default = \"grren\" }\n",
    );
    check(
        &site,
        &["check"],
        expect![[r#"
            exit 1
            warning  what is not found is answered by themes/far/templates/fallback.html
                     themes/near/hausblatt-theme.toml
                     → write templates/error/404.html; create it with: hausblatt start
                       template error/404                                      no-error-page

            error    "grren" is not a valid colour; did you mean "green"?
                     themes/near/hausblatt-theme.toml:5:38
                 5 | accent = { type = "color", default = "grren" }
                                                          ‾‾‾‾‾‾‾
                                                                                  wrong-type

            error    "teel" is not a valid colour; did you mean "teal"?
                     content/journal/2026-03-14-frost.md:3:7
                 3 | tint: teel
                           ‾‾‾‾
                                                                                  wrong-type
                     seen at /journal/frost/

            warning  this page is not a document, and there is no layout around it
                     themes/far/layouts/document.html:1:1
                 1 | [+{slot}]
                     ‾
                     → leave out layout: none, or write a whole document         no-document
                     seen at / and 8 more addresses

            2 errors, 2 warnings in the whole site.
            What it means:   hausblatt check --about wrong-type
        "#]],
    );
}

#[test]
fn a_slot_that_is_not_there_is_named_with_those_that_are() {
    let site = Site::small();
    site.write("themes/far/layouts/document.html", "+{slot \"head\"}+{slot}\n");
    site.write("themes/far/templates/page.html", "+{slot \"aside\"}+{content.title}\n");
    site.write("themes/near/templates/page.html", "+{inherited with}\n+{into \"footer\"}x+{end}\n+{end}\n");
    check(
        &site,
        &["resolve", "/visit/"],
        expect![[r#"
            exit 0
            /visit/  →  200
            page · content/pages/visit.md

               rung             near  far
            1  page/visit.html   ·     ·
            2  page.html         ■     □
            3  fallback.html     ·     □
                ■ renders   □ passed over   · no file
            renders   themes/near/templates/page.html
            extends   themes/far/templates/page.html
            inside    themes/far/layouts/document.html

            To change this page only:  hausblatt override /visit/ --only
            To change all pages:       edit themes/near/templates/page.html
        "#]],
    );
    // Who fills a layout's slot, or a partial's, is reported to whoever extends it.
    site.write(
        "themes/near/templates/page.html",
        "+{into \"head\"}x+{end}+{partial \"card\" with}+{into \"foot\"}y+{end}+{end}\n",
    );
    site.write("themes/far/partials/card.html", "+{slot \"foot\"}\n");
    for (file, by) in [("partials/card", "foot"), ("layouts/document", "head")] {
        let said = site.json(&["override", file, "--slots"]);
        let slot = said["slots"].as_array().unwrap().iter().find(|slot| slot["name"] == by).unwrap().clone();
        assert_eq!(slot["filled_by"], serde_json::json!(["themes/near/templates/page.html"]), "{said}");
    }
}

#[test]
fn what_a_new_file_waits_for_is_so() {
    let site = Site::small();
    let config = site.read("hausblatt.toml");
    site.write("hausblatt.toml", format!("{config}\n[routes.months]\naddress = \"/months/{{slug}}/\"\n"));
    site.write("content/pages/plan.md", "---\ntitle: Plan\nslug: planning\n---\n");
    let said = site.run(&["start", "template", "route/months"]);
    assert!(said.out.replace('\n', " ").contains("which is there but has an error"), "{}", said.whole());
    for (file, why) in [
        ("page/planning", "\"planning\" is an address; the page's id is plan: page/plan.html"),
        ("page/plann", "did you mean page/plan?"),
        ("partials/lonely", "nothing calls it"),
        ("page/later", "it waits for a page with the id later"),
    ] {
        let said = site.run(&["suppose", "--add", file]);
        assert!(said.err.contains(why), "{file}: {}", said.whole());
    }
    site.write("themes/near/templates/offered/poster.html", "+{content.title}\n");
    assert_eq!(site.json(&["reach", "poster"])["path"], "themes/near/templates/offered/poster.html");
    let said = site.run(&["start", "template", "page/vist"]);
    assert!(!said.out.contains("?."), "{}", said.whole());
}

#[test]
fn a_lineage_without_any_template_needs_the_fallback_first() {
    let site = Site::small();
    site.remove("themes/far/templates/fallback.html");
    site.remove("themes/far/templates/page.html");
    site.write("content/pages/visit.md", "---\ntitle: Visit\ntemplate: wide\n---\n");
    let said = site.run(&["resolve", "/visit/"]);
    assert!(said.out.ends_with("hausblatt start template fallback\n"), "{}", said.whole());
    let said = site.run(&["override", "/visit/"]);
    assert!(said.err.contains("hausblatt start template fallback.html"), "{}", said.whole());
    let found = site.json(&["check"]);
    let codes: Vec<&str> = found.as_array().unwrap().iter().map(|one| one["code"].as_str().unwrap()).collect();
    assert_eq!(codes.iter().filter(|code| matches!(**code, "no-template" | "no-fallback")).count(), 1, "{codes:?}");
    // A theme outside of the lineage that keeps its files in a folder is found, too.
    site.write("themes/other/hausblatt-theme.toml", "[theme]\nroot = \"files\"\n");
    site.write("themes/other/files/templates/offered/wide.html", "x\n");
    let said = site.run(&["resolve", "/visit/"]);
    assert!(said.out.contains("Only the theme other has it"), "{}", said.whole());
}

/// What is in the site's folders and is not read is reported, each once; so is a text that can't be.
#[cfg(unix)]
#[test]
fn what_is_left_out_is_told() {
    use std::os::unix::fs::symlink;
    let site = Site::small();
    symlink("nowhere", site.path("content/pages/lost.md")).unwrap();
    symlink("../../content", site.path("content/pages/round")).unwrap();
    symlink("/", site.path("media")).unwrap();
    symlink("itself", site.path("content/pages/itself")).unwrap();
    symlink("visit.md", site.path("content/pages/come.md")).unwrap();
    let found = site.json(&["check"]);
    let left = found.as_array().unwrap().iter().filter(|one| one["code"] == "left-out");
    let left: Vec<String> =
        left.map(|one| format!("{}: {}", one["path"].as_str().unwrap(), one["message"].as_str().unwrap())).collect();
    expect![[r#"
        content/pages/itself: this link leads back to a folder that is read already, so it is not followed
        content/pages/lost.md: this link leads to nothing
        content/pages/round: this link leads back to a folder that is read already, so it is not followed
        media: this link leads out of the site's folder, so it is not read"#]]
    .assert_eq(&left.join("\n"));
    assert_eq!(site.template("/come/"), "page.html of far");

    // Folders that are linked to each other, each way round.
    let site = Site::small();
    for from in 0..12 {
        site.write(&format!("content/pages/part{from}/page.md"), "");
        for to in (0..12).filter(|to| *to != from) {
            symlink(format!("../part{to}"), site.path(&format!("content/pages/part{from}/to{to}"))).unwrap();
        }
    }
    let said = site.run(&["map"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    assert!(said.out.contains("/part3/to7/page/"), "{}", said.out);

    let site = Site::small();
    std::fs::rename(site.path("themes"), site.path("elsewhere")).unwrap();
    let outside = tempfile::tempdir().unwrap();
    symlink(outside.path(), site.path("themes")).unwrap();
    let said = site.run(&["check"]);
    assert!(said.whole().contains("themes is a link that leads out of the site's folder"), "{}", said.whole());
    assert!(!said.whole().contains("left-out"), "{}", said.whole());
}

#[test]
fn values_of_a_text_that_can_not_be_read_are_an_error() {
    let site = Site::small();
    site.write("content/pages/visit.md", b"---\ntitle: Visit\n---\n\xff\n");
    for arguments in [&["values", "/visit/", "content.title"][..], &["values", "/", "site.title"]] {
        let said = site.run(arguments);
        assert!(said.code == 1 && said.err.contains("this file is not UTF-8"), "{}", said.whole());
    }
}

#[test]
fn every_code_is_explained() {
    let site = Site::empty();
    for code in ["not-alone", "file-exists", "id-differs", "removed-html", "missing-footnote", "image-without-alt"] {
        let said = site.run(&["check", "--about", code]);
        assert!(said.code == 0 && said.out.starts_with(code), "{}", said.whole());
        assert_eq!(
            said.out.contains("[[check.except]]"),
            code.contains("-html") || code.contains("-footnote") || code.contains("-alt"),
            "{code}"
        );
    }
}

/// A text that is too large, or nests too deep, is reported and costs little.
#[test]
fn bombs_in_content_are_told() {
    let site = Site::small();
    site.write("themes/far/templates/page.html", "+{content.body}\n");
    site.write("content/pages/large.md", format!("---\ntitle: L\n---\n{}", "short one\n\n".repeat(1_600_000)));
    site.write("content/pages/deep.md", format!("---\ntitle: D\n---\n{}", "<div>\n".repeat(20_000)));
    site.write("content/pages/notes.md", format!("---\ntitle: N\n---\n{}", "[^a] ".repeat(20_000)));
    for (address, code, exit) in
        [("/large/", "too-large", 1), ("/deep/", "too-deep", 0), ("/notes/", "missing-footnote", 0)]
    {
        let said = site.run(&["render", address]);
        assert_eq!(said.err.matches(&format!(" {code}\n")).count(), 1, "{}", said.err);
        assert_eq!(said.code, exit, "{address}");
    }
}

/// A reader that leaves early changes no exit code, and what it would have read ends nothing.
#[test]
fn a_pipe_that_closes_changes_no_exit_code() {
    use std::process::Stdio;
    let site = Site::small();
    site.write("themes/near/templates/page.html", "+{nope}\n");
    for at in 0..300 {
        site.write(&format!("content/pages/p{at}.md"), "---\ntitle: P\n---\n");
    }
    for arguments in [&["check", "-v"][..], &["map"], &["render", "/visit/"], &["map", "--site", "none"], &["themes"]] {
        let code = site.run(arguments).code;
        let mut command = site.command(arguments);
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        drop(child.stdout.take());
        drop(child.stderr.take());
        assert_eq!(child.wait().unwrap().code(), Some(code), "{arguments:?}");
    }
}

/// What names and titles hold that a terminal or a reader would obey is shown, not obeyed.
#[test]
fn what_turns_the_direction_of_text_is_shown() {
    let site = Site::small();
    site.write("content/pages/odd.md", "---\ntitle: \"a\\u202Eb\\u0001c\"\n---\n");
    site.write("themes/near/templates/page.html", "+{inherited} +{nope\u{202e}}\n");
    for arguments in [&["resolve", "/od/"][..], &["check"], &["values", "/odd/", "content.title"], &["chart"]] {
        let said = site.run(arguments).whole();
        assert!(!said.contains('\u{202e}') && !said.contains('\u{1}'), "{arguments:?}: {said}");
    }
}

/// Where the system gives no threads, that is said; nothing panics.
#[test]
#[cfg(target_os = "linux")]
fn no_threads_are_an_error() {
    use std::os::unix::fs::PermissionsExt;
    let site = Site::small();
    std::fs::set_permissions(site.root(), std::fs::Permissions::from_mode(0o755)).unwrap();
    // Limits on processes are none for root: another user runs it, who must be able to reach it.
    let program = site.path("hausblatt");
    std::fs::copy(env!("CARGO_BIN_EXE_hausblatt"), &program).unwrap();
    for command in ["map", "build --out built", "check", "serve --port 0 --quiet"] {
        let mut shell = std::process::Command::new("prlimit");
        if std::fs::metadata("/root/.").is_ok() {
            shell = std::process::Command::new("setpriv");
            shell.args(["--reuid=65534", "--regid=65534", "--clear-groups", "prlimit"]);
        }
        shell.args(["--nproc=1:1", "./hausblatt"]).args(command.split(' '));
        shell.current_dir(site.root());
        let mut said = shell.output().unwrap();
        // A process that another test begins may still have the copy open for writing.
        for _ in 0..100 {
            if !String::from_utf8_lossy(&said.stderr).contains("Text file busy") {
                break;
            }
            std::thread::sleep(std::time::Duration::from_millis(20));
            said = shell.output().unwrap();
        }
        let err = String::from_utf8(said.stderr).unwrap();
        assert_eq!(said.status.code(), Some(1), "{command}: {err}");
        assert!(err.starts_with("error: ") && err.contains("emporarily unavailable"), "{command}: {err}");
    }
}
