//! `override` and `drift` as users meet them: copies made, listed, out of date, merged.

use crate::drifting::{LINES, copied};
use std::fs;
use std::thread::sleep;
use std::time::Duration;

use crate::support::{Site, check};
use expect_test::expect;

/// What a build of the site comes to, page by page.
fn built(site: &Site) -> Vec<(String, Vec<u8>)> {
    let said = site.run(&["build", "--out", "out", "-q"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    site.tree("out")
}

#[test]
fn a_template_is_copied_with_its_original() {
    let site = Site::small();
    site.write("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1.2.0\"\n");
    site.write("themes/far/templates/page/visit/opening.html", "hours\n");
    let before = built(&site);
    check(
        &site,
        &["override", "/visit/"],
        expect![[r#"
            exit 0
            Wrote themes/near/templates/page.html
            a copy of templates/page.html (far 1.2.0)
            Its original is kept in the theme: "hausblatt drift" reports when it changes.

            2 addresses use it now; their HTML is unchanged:
              /  /visit/

            1 address tries its name, but has a more specific file:
              /visit/opening/  page/visit/opening.html (far)

            When you have edited it:       hausblatt build --diff
            When the original may be new:  hausblatt drift
        "#]],
    );
    assert_eq!(site.read("themes/near/templates/page.html"), "page +{content.title}\n");
    expect![[r##"
        # What this theme's file of the same name is a copy of; "hausblatt drift" needs it.
        theme = "far"
        path = "templates/page.html"
        version = "1.2.0"
        ---
        page +{content.title}
    "##]]
    .assert_eq(&site.read("themes/near/.originals/templates/page.html"));
    assert_eq!(built(&site), before);
    assert_eq!(site.template("/visit/"), "page.html of near");
    check(
        &site,
        &["override", "/visit/"],
        expect![[r#"
            exit 0
            near has its own already:
              themes/near/templates/page.html

            Edit it, or see what it affects:
              hausblatt reach themes/near/templates/page.html
        "#]],
    );
    site.write("themes/near/templates/page.html", "mine\n");
    assert_eq!(site.run(&["override", "templates/page.html"]).code, 0);
    assert_eq!(site.read("themes/near/templates/page.html"), "mine\n");
    assert_eq!(site.run(&["override", "templates/page.html", "--force"]).code, 0);
    assert_eq!(site.read("themes/near/templates/page.html"), "page +{content.title}\n");
    site.write("themes/near/templates/page.html", "mine\n");
    assert_eq!(site.run(&["override", "/visit/", "--force"]).code, 0);
    assert_eq!(site.read("themes/near/templates/page.html"), "page +{content.title}\n");
}

#[test]
fn one_address_alone() {
    let site = Site::small();
    let before = built(&site);
    check(
        &site,
        &["override", "/visit/", "--only"],
        expect![[r#"
            exit 0
            Wrote themes/near/templates/page/visit.html
            a copy of templates/page.html (far)
            Its original is kept in the theme: "hausblatt drift" reports when it changes.

            1 address uses it now; its HTML is unchanged:
              /visit/

            When you have edited it:       hausblatt build --diff
            When the original may be new:  hausblatt drift
        "#]],
    );
    assert_eq!(built(&site), before);
    check(
        &site,
        &["override", "/visit/", "--only"],
        expect![[r#"
            exit 0
            near has its own already:
              themes/near/templates/page/visit.html

            Edit it, or see what it affects:
              hausblatt reach themes/near/templates/page/visit.html
        "#]],
    );
    // The listing's name is also tried by the listings by date.
    let config = site.read("hausblatt.toml").replace("per_page", "periods = [\"year\"]\nper_page");
    site.write("hausblatt.toml", config);
    site.write("themes/far/templates/listing.html", "list\n");
    check(
        &site,
        &["override", "/journal/page/2/", "--only"],
        expect![[r#"
            exit 1
            ---
            This would also change 2 addresses:
              /journal/2026/  /journal/2026/page/2/

            error: listing/journal.html would be for /journal/page/2/, but not for it alone
            help: to change these together: hausblatt override /journal/page/2/
        "#]],
    );
    site.write("themes/far/templates/period.html", "times\n");
    assert_eq!(site.run(&["override", "/journal/page/2/", "--only"]).code, 0);
    assert_eq!(site.template("/journal/"), "listing/journal.html of near");
    assert_eq!(site.template("/journal/page/2/"), "listing/journal.html of near");
    assert_eq!(site.template("/journal/2026/"), "period.html of far");
}

#[test]
fn what_content_chose_is_for_nobody_alone() {
    let site = Site::small();
    site.write("themes/far/templates/offered/wide.html", "wide\n");
    site.write("content/pages/visit.md", "---\ntemplate: wide\n---\n");
    site.write("content/pages/visit/opening.md", "---\ntemplate: wide\n---\n");
    check(
        &site,
        &["override", "/visit/", "--only"],
        expect![[r#"
            exit 1
            ---
            This would also change 1 address:
              /visit/opening/

            error: /visit/ uses the chosen template offered/wide, which comes before any name of its own
            help: take the choice back (hausblatt choose --clear /visit/), or choose a copy (hausblatt override /visit/ --as offered/NAME)
        "#]],
    );
    let refused = site.json(&["override", "/visit/", "--only"]);
    assert_eq!((refused["written"].as_bool(), refused["code"].as_str()), (Some(false), Some("not-alone")));
    assert_eq!(refused["others"], serde_json::json!(["/visit/opening/"]));
    check(
        &site,
        &["override", "/visit/", "--as", "offered/broad"],
        expect![[r#"
            exit 0
            Wrote themes/near/templates/offered/broad.html
            a copy of templates/offered/wide.html (far)
            Its original is kept in the theme: "hausblatt drift" reports when it changes.

            No address uses it now.

            To choose it there:            hausblatt choose broad /visit/
            When you have edited it:       hausblatt build --diff
            When the original may be new:  hausblatt drift
        "#]],
    );
    assert!(!site.path("themes/near/templates/page").exists());
}

#[test]
fn a_file_that_goes_on_instead_of_a_copy() {
    let site = Site::small();
    site.write("themes/far/templates/page.html", "page +{slot \"after\"}+{into \"aside\"}links+{end}\n");
    site.write("themes/far/layouts/document.html", "[+{slot}|+{slot \"aside\"}|+{slot \"title\"}]\n");
    let before = built(&site);
    check(
        &site,
        &["override", "/visit/", "--slots", "--only"],
        expect![[r#"
            exit 0
            Wrote themes/near/templates/page/visit.html
            It extends the inherited file: nothing was copied, so nothing can go out of date.

            Slots that it can fill:
              after  of themes/far/templates/page.html
                  not filled
              aside  of themes/far/layouts/document.html
                  filled by themes/far/templates/page.html
              title  of themes/far/layouts/document.html
                  not filled

            1 address uses it now; its HTML is unchanged:
              /visit/

            When you have edited it:       hausblatt build --diff
        "#]],
    );
    expect![[r#"
        +{# This file extends themes/far/templates/page.html: only what it fills in differs.
            Between the lines below, any of these slots can be filled:

              +{into "after"}…+{end}
                  of themes/far/templates/page.html; not filled
              +{into "aside"}…+{end}
                  of themes/far/layouts/document.html; filled by themes/far/templates/page.html
              +{into "title"}…+{end}
                  of themes/far/layouts/document.html; not filled
        #}
        +{inherited with}
        +{end}
    "#]]
    .assert_eq(&site.read("themes/near/templates/page/visit.html"));
    assert_eq!(built(&site), before);
    let text =
        site.read("themes/near/templates/page/visit.html").replace("with}\n", "with}\n+{into \"aside\"}mine+{end}\n");
    site.write("themes/near/templates/page/visit.html", text);
    assert_eq!(site.run(&["render", "/visit/"]).out, "[page |mine|]\n");
    // A layout extends, too, and nothing comes after the last of a name.
    assert_eq!(site.run(&["override", "layouts/document", "--slots"]).code, 0);
    check(
        &site,
        &["override", "fallback", "--slots", "--theme", "far"],
        expect![[r#"
            exit 0
            far has its own already:
              themes/far/templates/fallback.html

            Edit it, or see what it affects:
              hausblatt reach themes/far/templates/fallback.html --theme far
        "#]],
    );
    check(
        &site,
        &["override", "templates/fallback.html", "--slots"],
        expect![[r#"
            exit 0
            Wrote themes/near/templates/fallback.html
            It extends the inherited file: nothing was copied, so nothing can go out of date.

            Slots that it can fill:
              aside  of themes/far/layouts/document.html
                  filled by themes/far/templates/page.html
              title  of themes/far/layouts/document.html
                  not filled

            6 addresses use it now; their HTML is unchanged:
              /journal/  /journal/beans/  /journal/boats/  /journal/frost/
              /journal/page/2/  /404.html

            3 addresses try its name, but have a more specific file:
              /  page.html (far)
              /visit/  page/visit.html (near)
              /visit/opening/  page.html (far)

            When you have edited it:       hausblatt build --diff
        "#]],
    );
}

#[test]
fn a_copy_that_goes_on_says_that_it_doubles() {
    let site = Site::small();
    site.write("themes/mid/hausblatt-theme.toml", "[theme]\nparent = \"far\"\n");
    site.write("themes/near/hausblatt-theme.toml", "[theme]\nparent = \"mid\"\n");
    site.write("themes/mid/templates/page.html", "<main>+{inherited}</main>\n");
    check(
        &site,
        &["override", "/visit/", "--only"],
        expect![[r#"
            exit 0
            Wrote themes/near/templates/page/visit.html
            a copy of templates/page.html (mid)
            Its original is kept in the theme: "hausblatt drift" reports when it changes.

            1 address uses it now:
              /visit/

            1 address already differs in HTML:
              /visit/
            A file that extends another with "inherited" now extends the one it is a copy
            of, and a page may print request.template or request.theme.

            When you have edited it:       hausblatt build --diff
            When the original may be new:  hausblatt drift
        "#]],
    );
    site.write("themes/mid/templates/page.html", "+{request.template} of +{request.theme}\n");
    let told = site.json(&["override", "/visit/opening/"]);
    assert_eq!(told["html"], serde_json::json!(["/", "/visit/opening/"]));
}

#[test]
fn wrong_arguments() {
    let site = Site::small();
    site.write("themes/far/partials/card.html", "card\n");
    for (arguments, expected) in [
        (
            &["override", "/vist/"][..],
            expect![[r#"
                exit 1
                ---
                error: nothing is at /vist/
                help: did you mean /visit/? For the error page: hausblatt override /404.html
            "#]],
        ),
        (
            &["override", "partials/crad"],
            expect![[r#"
                exit 1
                ---
                error: no theme of the lineage has a file "partials/crad"
                help: did you mean "partials/card"?
            "#]],
        ),
        (
            &["override", "content/pages/vist.md"],
            expect![[r#"
                exit 1
                ---
                error: there is no content file content/pages/vist.md
                help: did you mean "content/pages/visit.md"?
            "#]],
        ),
        (
            &["override", "card", "--only"],
            expect![[r#"
            exit 1
            ---
            error: --only is for an address: a file of this name is found for all that ask for it
            help: name the address, as in override /visit/ --only
        "#]],
        ),
        (
            &["override", "/visit/", "--as", "entry/visit"],
            expect![[r#"
            exit 1
            ---
            error: /visit/ does not try the name entry/visit.html
            help: it tries page/visit.html, page.html, fallback.html
        "#]],
        ),
        (
            &["override", "/visit/", "--as", "../../escape"],
            expect![[r#"
                exit 1
                ---
                error: "../../escape" is not a valid name of a file
                help: write it as in --as page/visit
            "#]],
        ),
        (
            &["override", "/journal/", "--as", "offered/x"],
            expect![[r#"
                exit 1
                ---
                error: /journal/ is not content, so nobody can choose a template for it
                help: it tries listing/journal.html, listing.html, fallback.html
            "#]],
        ),
        (
            &["override", "/sitemap.xml"],
            expect![[r#"
                exit 1
                ---
                error: no file renders /sitemap.xml, so there is nothing to copy
                help: create one: hausblatt start template sitemap.xml
            "#]],
        ),
        (
            &["override", "/visit/", "--only", "--as", "page"],
            expect![[r#"
            exit 2
            ---
            error: the argument '--only' cannot be used with '--as <NAME>'

            Usage: hausblatt override --only --as-of <DATE> <FILE|ADDRESS>

            For more information, try '--help'.
        "#]],
        ),
        (
            &["override", "themes/near/hausblatt-theme.toml"],
            expect![[r#"
                exit 1
                ---
                error: themes/near/hausblatt-theme.toml is not a file that a child theme inherits
                help: name a template, partial, layout, component, prepare file or asset
            "#]],
        ),
        (
            &["override", "themes/afar/templates/page.html"],
            expect![[r#"
                exit 1
                ---
                error: there is no file themes/afar/templates/page.html
                help: did you mean "themes/far/templates/page.html"?
            "#]],
        ),
        (
            &["override"],
            expect![[r#"
            exit 2
            ---
            error: the following required arguments were not provided:
              <FILE|ADDRESS>

            Usage: hausblatt override --as-of <DATE> <FILE|ADDRESS>

            For more information, try '--help'.
        "#]],
        ),
    ] {
        expected.assert_eq(&site.run(arguments).whole());
    }
    let names: Vec<String> = site.tree("themes/near").into_iter().map(|(name, _)| name).collect();
    assert_eq!(names, ["hausblatt-theme.toml"]);
}

#[test]
fn assets_that_are_no_text_are_copied_to_the_byte() {
    let site = Site::small();
    let bytes = [0u8, 255, b'\n', b'-', b'-', b'-', b'\n', 13, 10];
    site.write("themes/far/assets/seal.bin", bytes);
    assert_eq!(site.run(&["override", "assets/seal.bin"]).code, 0);
    assert_eq!(fs::read(site.path("themes/near/assets/seal.bin")).unwrap(), bytes);
    assert_eq!(site.json(&["drift"])[0]["state"], "current");
    site.write("themes/far/assets/seal.bin", [1u8, 2]);
    check(
        &site,
        &["drift", "--merge"],
        expect![[r#"
            exit 1
            themes/near/assets/seal.bin
                drifted: far, 0 lines added, 0 removed
            ---
            error    themes/near/assets/seal.bin is not text, so it can't be merged
                     → choose one of the two, then: hausblatt drift --adopt assets/seal.bin
                                                                                  not-merged

        "#]],
    );
    assert_eq!(fs::read(site.path("themes/near/assets/seal.bin")).unwrap(), bytes);
}

/// Whatever the moment at which a command is ended: each file is as it was or as it should be.
#[test]
fn an_interrupted_command_leaves_no_half_a_file() {
    let site = copied(&[("card", LINES, "one\ntwo\nthree\nfour\nmine\n")]);
    let long: String = (0..20_000).map(|number| format!("line {number}\n")).collect();
    let longer = format!("{long}{long}");
    let visit = "---\ntitle: Visit\n---\nCome.\n";
    site.write("themes/far/templates/offered/wide.html", "wide\n");
    for round in 0..60u64 {
        site.write("themes/far/partials/card.html", if round % 2 == 0 { &longer } else { &long });
        site.write("content/pages/visit.md", visit);
        let _ = fs::remove_file(site.path("themes/near/templates/page.html"));
        let before = site.read("themes/near/partials/card.html");
        let files = site.tree(".");
        for arguments in [&["drift", "--merge"][..], &["choose", "wide", "/visit/"], &["override", "/visit/opening/"]] {
            let mut child = site
                .command(arguments)
                .stdout(std::process::Stdio::null())
                .stderr(std::process::Stdio::null())
                .spawn()
                .unwrap();
            sleep(Duration::from_micros(1000 + round * 331));
            let _ = child.kill();
            child.wait().unwrap();
        }
        let card = site.read("themes/near/partials/card.html");
        if card != before {
            // On a machine that is busy with something else it may have come to its end.
            let whole = Site::empty();
            files.iter().for_each(|(path, bytes)| whole.write(path, bytes));
            whole.run(&["drift", "--merge"]);
            assert!(card == whole.read("themes/near/partials/card.html"), "{}", card.len());
        }
        let page = site.read("content/pages/visit.md");
        assert!(page == visit || page == visit.replace("---\nCome", "template: wide\n---\nCome"), "{page}");
        if let Ok(copy) = fs::read_to_string(site.path("themes/near/templates/page.html")) {
            assert_eq!(copy, site.read("themes/far/templates/page.html"));
            assert!(site.path("themes/near/.originals/templates/page.html").exists());
        }
        // Every record can be read, whenever the command that wrote it was ended.
        let said = site.run(&["drift"]);
        assert!(!said.err.contains("bad-record"), "{}", said.whole());
    }
    site.write("content/pages/visit.md", visit);
    assert_eq!(site.run(&["choose", "wide", "/visit/"]).code, 0);
    let left: Vec<String> =
        site.tree("content").into_iter().map(|(name, _)| name).filter(|name| name.contains(".hausblatt-")).collect();
    assert_eq!(left, Vec::<String>::new());
}

#[test]
fn nothing_is_written_outside_of_the_site() {
    let site = Site::small();
    let other = Site::empty();
    std::os::unix::fs::symlink(other.root(), site.path("themes/near/templates")).unwrap();
    let said = site.run(&["override", "/visit/"]);
    assert_eq!(said.code, 1, "{}", said.whole());
    assert!(said.err.contains("it leads out of the site's folder"), "{}", said.whole());
    std::os::unix::fs::symlink(other.root(), site.path("themes/far/.originals")).unwrap();
    assert_eq!(site.run(&["start", "template", "entry", "--from", "page", "--theme", "far"]).code, 1);
    assert_eq!(other.tree("."), Vec::new());
    let site = Site::small();
    site.write("themes/near/hausblatt-theme.toml", "[theme]\nparent = \"far\"\nroot = \"../../..\"\n");
    let said = site.run(&["override", "fallback"]);
    assert!(said.code == 1 && said.err.contains("it leads out"), "{}", said.whole());
}

#[test]
fn a_theme_with_a_root_and_a_link_in_the_site() {
    let site = Site::small();
    site.write("themes/near/hausblatt-theme.toml", "[theme]\nparent = \"far\"\nroot = \"files/web\"\n");
    assert_eq!(site.run(&["override", "/visit/"]).code, 0);
    assert_eq!(site.template("/visit/"), "page.html of near");
    assert!(site.path("themes/near/files/web/templates/page.html").exists());
    assert_eq!(site.json(&["drift"])[0]["state"], "current");
    site.write("themes/far/templates/page.html", "newer\n");
    assert_eq!(site.run(&["drift", "--merge"]).code, 0);
    assert_eq!(site.read("themes/near/files/web/templates/page.html"), "newer\n");
    // Content that is a link stays one: what it leads to is written.
    site.write("themes/far/templates/offered/wide.html", "wide\n");
    site.write("media/real.md", "---\ntitle: Real\n---\n");
    std::os::unix::fs::symlink(site.path("media/real.md"), site.path("content/pages/linked.md")).unwrap();
    assert_eq!(site.run(&["choose", "wide", "/linked/"]).code, 0);
    assert!(site.path("content/pages/linked.md").is_symlink());
    assert_eq!(site.read("media/real.md"), "---\ntitle: Real\ntemplate: wide\n---\n");
}

#[test]
fn components_are_overridden_file_by_file() {
    let site = Site::small();
    site.write("themes/far/components/notice/component.html", "<p>+{text}</p>\n");
    site.write("themes/far/components/notice/component.toml", "[[fields]]\nname = \"text\"\ntype = \"text\"\n");
    site.write("themes/far/components/notice/style.css", "p {}\n");
    for (typed, path) in [
        ("components/notice", "components/notice/component.html"),
        ("components/notice/style.css", "components/notice/style.css"),
        ("components/notice/component.toml", "components/notice/component.toml"),
    ] {
        let told = site.json(&["override", typed]);
        assert_eq!(told["path"], format!("themes/near/{path}"));
        assert!(site.path(&format!("themes/near/{path}")).exists());
    }
    assert_eq!(site.json(&["drift"]).as_array().unwrap().len(), 3);
}

#[test]
fn a_file_that_is_replaced_and_an_offered_one_that_goes_on() {
    let site = Site::small();
    site.write("themes/near/templates/page.html", "mine\n");
    check(
        &site,
        &["override", "/visit/", "--force"],
        expect![[r#"
            exit 0
            Wrote themes/near/templates/page.html
            a copy of templates/page.html (far)
            Its original is kept in the theme: "hausblatt drift" reports when it changes.

            3 addresses use it now:
              /  /visit/  /visit/opening/

            3 addresses already differ in HTML:
              /  /visit/  /visit/opening/
            The file that was there is replaced, and gone unless your version control has
            it.

            When you have edited it:       hausblatt build --diff
            When the original may be new:  hausblatt drift
        "#]],
    );
    check(
        &site,
        &["override", "/visit/", "--as", "offered/broad", "--slots"],
        expect![[r#"
            exit 0
            Wrote themes/near/templates/offered/broad.html
            It extends the inherited file: nothing was copied, so nothing can go out of date.

            No address uses it now.

            To choose it there:            hausblatt choose broad /visit/
            When you have edited it:       hausblatt build --diff
        "#]],
    );
    assert_eq!(site.run(&["choose", "broad", "/visit/"]).code, 0);
    assert_eq!(site.run(&["render", "/visit/"]).out, "[page Visit]\n");
}

#[test]
fn error_pages_are_overridden_like_any_other() {
    let site = Site::small();
    let said = site.run(&["resolve", "/404.html"]).out;
    assert!(
        said.contains("To change the page of the error 404 only:\n  hausblatt override /404.html --only"),
        "{said}"
    );
    assert_eq!(site.run(&["override", "/404.html", "--only"]).code, 0);
    assert_eq!(site.template("/404.html"), "error/404.html of near");
    assert_eq!(site.template("/journal/"), "fallback.html of far");
}
