//! `override` and `drift` as users meet them: copies made, told of, grown old, merged.

#![allow(clippy::unwrap_used, clippy::panic, clippy::expect_used)]

mod support;

use std::fs;
use std::thread::sleep;
use std::time::Duration;

use expect_test::expect;
use support::{Site, check};

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
            Its original is kept in the theme: "hausblatt drift" tells when it changes.

            2 addresses use it now, and all come out as before:
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

            Edit it, or see whom it reaches:
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
            Its original is kept in the theme: "hausblatt drift" tells when it changes.

            1 address uses it now, and comes out as before:
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

            Edit it, or see whom it reaches:
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
            These would change with it, 2 addresses:
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
            These would change with it, 1 address:
              /visit/opening/

            error: /visit/ has chosen offered/wide, which stands before every name that is for it alone
            help: take the choice back (hausblatt assign --clear /visit/), or choose a copy (hausblatt override /visit/ --as offered/NAME)
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
            Its original is kept in the theme: "hausblatt drift" tells when it changes.

            No address uses it now.

            To choose it there:            hausblatt assign broad /visit/
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
            It goes on with the inherited file: nothing was copied, so nothing can grow old.

            Slots that it can fill:
              after  of themes/far/templates/page.html
                  nothing fills it today
              aside  of themes/far/layouts/document.html
                  filled today by themes/far/templates/page.html
              title  of themes/far/layouts/document.html
                  nothing fills it today

            1 address uses it now, and comes out as before:
              /visit/

            When you have edited it:       hausblatt build --diff
        "#]],
    );
    expect![[r#"
        +{# This file goes on with themes/far/templates/page.html: only what it fills in differs.
            Between the lines below, any of these slots can be filled:

              +{into "after"}…+{end}
                  of themes/far/templates/page.html; nothing fills it today
              +{into "aside"}…+{end}
                  of themes/far/layouts/document.html; filled today by themes/far/templates/page.html
              +{into "title"}…+{end}
                  of themes/far/layouts/document.html; nothing fills it today
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
    // A layout goes on, too, and nothing stands behind the last of a name.
    assert_eq!(site.run(&["override", "layouts/document", "--slots"]).code, 0);
    check(
        &site,
        &["override", "fallback", "--slots", "--theme", "far"],
        expect![[r#"
            exit 0
            far has its own already:
              themes/far/templates/fallback.html

            Edit it, or see whom it reaches:
              hausblatt reach themes/far/templates/fallback.html --theme far
        "#]],
    );
    check(
        &site,
        &["override", "templates/fallback.html", "--slots"],
        expect![[r#"
            exit 0
            Wrote themes/near/templates/fallback.html
            It goes on with the inherited file: nothing was copied, so nothing can grow old.

            Slots that it can fill:
              aside  of themes/far/layouts/document.html
                  nothing fills it today
              title  of themes/far/layouts/document.html
                  nothing fills it today

            6 addresses use it now, and all come out as before:
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
            Its original is kept in the theme: "hausblatt drift" tells when it changes.

            1 address uses it now:
              /visit/

            1 address comes out differently already:
              /visit/
            A file that goes on with "inherited" now goes on with the one it is a copy of,
            and a page may print request.template or request.theme.

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
            help: the nearest are /visit/; for the error page: hausblatt override /404.html
        "#]],
        ),
        (
            &["override", "partials/crad"],
            expect![[r#"
                exit 1
                ---
                error: no theme of the lineage has a file "partials/crad"
                help: the nearest are partials/card
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
            error: "../../escape" is no name of a file
            help: write it as in --as page/visit
        "#]],
        ),
        (
            &["override", "/journal/", "--as", "offered/x"],
            expect![[r#"
            exit 1
            ---
            error: /journal/ is no content, so nobody can choose a template for it
            help: it tries listing/journal.html, listing.html, fallback.html
        "#]],
        ),
        (
            &["override", "/sitemap.xml"],
            expect![[r#"
            exit 1
            ---
            error: no file renders /sitemap.xml, so there is nothing to copy
            help: begin one: hausblatt start template sitemap.xml
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
                error: themes/near/hausblatt-theme.toml is no file that a child theme inherits
                help: name a template, partial, layout, component, prepare file or asset
            "#]],
        ),
        (
            &["override", "themes/afar/templates/page.html"],
            expect![[r#"
                exit 1
                ---
                error: there is no file themes/afar/templates/page.html
                help: the nearest are themes/far/templates/page.html
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

/// A theme `near` over `far` 1.0.0, with a copy of each of these partials, changed by `mine`.
fn copied(texts: &[(&str, &str, &str)]) -> Site {
    let site = Site::small();
    site.write("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1.0.0\"\n");
    for (name, text, _) in texts {
        site.write(&format!("themes/far/partials/{name}.html"), text);
    }
    for (name, _, mine) in texts {
        assert_eq!(site.run(&["override", &format!("partials/{name}")]).code, 0);
        site.write(&format!("themes/near/partials/{name}.html"), mine);
    }
    site.write("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1.1.0\"\n");
    site
}

const LINES: &str = "one\ntwo\nthree\nfour\nfive\n";

#[test]
fn a_parent_moves_on_and_copies_follow() {
    let site = copied(&[
        ("same", LINES, LINES),
        ("added", LINES, "one\ntwo\nthree\nfour\nFIVE\n"),
        ("clash", LINES, "one\nTWO\nthree\nfour\nfive\n"),
        ("gone", LINES, "mine\n"),
        ("moved", "a\nb\nc\nd\ne\nf\n", "a\nb\nc\nd\ne\nmine\n"),
        ("crlf", LINES, "one\r\ntwo\r\nthree\r\nfour\r\nmine\r\n"),
        ("kept", LINES, "mine\n"),
    ]);
    site.write("themes/far/partials/hand.html", LINES);
    site.write("themes/near/partials/hand.html", "one\ntwo\nby hand\n");
    site.write("themes/near/partials/own.html", "own\n");
    // The parent is updated: lines come, change and go, a file goes, a file is renamed.
    site.write("themes/far/partials/added.html", "zero\none\ntwo\nthree\nfour\nfive\n");
    site.write("themes/far/partials/clash.html", "one\n2\nthree\nfour\nfive\n");
    site.remove("themes/far/partials/gone.html");
    site.rename("themes/far/partials/moved.html", "themes/far/partials/elsewhere.html");
    site.write("themes/far/partials/crlf.html", "ONE\ntwo\nthree\nfour\nfive\n");
    check(
        &site,
        &["drift"],
        expect![[r#"
            exit 1
            themes/near/partials/added.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 0 removed
            themes/near/partials/clash.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 1 removed
            themes/near/partials/crlf.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 1 removed
            themes/near/partials/gone.html
                gone: far 1.0.0 had it, and has it no more
                to keep it as the theme's own: hausblatt drift --adopt partials/gone.html
            themes/near/partials/hand.html
                no original recorded; 50 % of it is far 1.1.0's
            themes/near/partials/kept.html
                current: its original is as it was in far 1.0.0
            themes/near/partials/moved.html
                moved: far 1.1.0 has it as partials/elsewhere.html now
                to follow it, rename yours, then: hausblatt drift --adopt partials/elsewhere.html
            themes/near/partials/same.html
                current: its original is as it was in far 1.0.0
                it is the same as its original: deleting it changes nothing

            What has changed:       hausblatt drift --diff
            To take it over:        hausblatt drift --merge
            To record an original:  hausblatt drift --adopt partials/hand.html
        "#]],
    );
    check(
        &site,
        &["drift", "--diff", "partials/added"],
        expect![[r#"
            exit 1
            themes/near/partials/added.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 0 removed
            --- before far/partials/added.html
            +++ after far/partials/added.html
            @@ -1,3 +1,4 @@
            +zero
             one
             two
             three

            To take it over:        hausblatt drift --merge
        "#]],
    );
    let before = site.tree("themes/near");
    assert_eq!(site.run(&["drift", "--diff"]).code, 1);
    assert_eq!(site.tree("themes/near"), before, "asking writes nothing");
    check(
        &site,
        &["drift", "--merge"],
        expect![[r#"
            exit 1
            themes/near/partials/added.html
                merged with far 1.1.0; its record is renewed
            themes/near/partials/clash.html
                merged with far 1.1.0, but for 1 conflict that is marked in it
                settle what stands between the marks, then: hausblatt drift --adopt partials/clash.html
            themes/near/partials/crlf.html
                merged with far 1.1.0; its record is renewed
            themes/near/partials/gone.html
                gone: far 1.0.0 had it, and has it no more
                to keep it as the theme's own: hausblatt drift --adopt partials/gone.html
            themes/near/partials/hand.html
                no original recorded; 50 % of it is far 1.1.0's
            themes/near/partials/kept.html
                current: its original is as it was in far 1.0.0
            themes/near/partials/moved.html
                merged with far 1.1.0; its record is renewed
            themes/near/partials/same.html
                current: its original is as it was in far 1.0.0
                it is the same as its original: deleting it changes nothing

            To record an original:  hausblatt drift --adopt partials/hand.html
            What that changes:      hausblatt build --diff
        "#]],
    );
    assert_eq!(site.read("themes/near/partials/added.html"), "zero\none\ntwo\nthree\nfour\nFIVE\n");
    assert_eq!(site.read("themes/near/partials/crlf.html"), "ONE\r\ntwo\r\nthree\r\nfour\r\nmine\r\n");
    assert_eq!(site.read("themes/near/partials/moved.html"), "a\nb\nc\nd\ne\nmine\n");
    assert_eq!(
        site.read("themes/near/partials/clash.html"),
        "one\n<<<<<<< near\nTWO\n=======\n2\n>>>>>>> far 1.1.0\nthree\nfour\nfive\n"
    );
    // A second merge does not touch what is not settled; then it is.
    check(
        &site,
        &["drift", "--merge", "clash"],
        expect![[r#"
            exit 1
            themes/near/partials/clash.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 1 removed
            ---
            error[not-merged]: themes/near/partials/clash.html still holds the marks of a
                               conflict
             │
             ╰ help: settle the lines between the marks, then: hausblatt drift --adopt
                     partials/clash.html

        "#]],
    );
    site.write("themes/near/partials/clash.html", "one\nTWO, that is 2\nthree\nfour\nfive\n");
    assert_eq!(site.run(&["drift", "--adopt", "clash"]).code, 0);
    check(
        &site,
        &["drift", "--adopt", "gone", "--adopt", "hand"],
        expect![[r#"
            exit 0
            themes/near/partials/gone.html
                it has no original any more: it is the theme's own from now on
            themes/near/partials/hand.html
                its original is far 1.1.0's from now on
        "#]],
    );
    check(
        &site,
        &["drift"],
        expect![[r#"
            exit 0
            themes/near/partials/added.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/clash.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/crlf.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/hand.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/kept.html
                current: its original is as it was in far 1.0.0
            themes/near/partials/moved.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/same.html
                current: its original is as it was in far 1.0.0
                it is the same as its original: deleting it changes nothing

            Nothing is to be done: all of these copies are as new as their originals.
        "#]],
    );
    assert_eq!(site.read("themes/near/partials/gone.html"), "mine\n");
    assert!(!site.path("themes/near/.originals/partials/gone.html").exists());
}

#[test]
fn drift_as_data() {
    let site = copied(&[("added", LINES, "mine\n"), ("gone", LINES, LINES)]);
    site.write("themes/far/partials/added.html", "zero\none\n");
    site.remove("themes/far/partials/gone.html");
    site.write("themes/near/templates/page.html", "page +{content.title}\n");
    site.remove("themes/near/partials/gone.html");
    let told = site.json(&["drift"]);
    assert_eq!(
        told,
        serde_json::json!([
            {
                "path": "themes/near/partials/added.html", "state": "drifted",
                "original": { "theme": "far", "path": "partials/added.html", "version": "1.0.0" },
                "now": { "theme": "far", "path": "partials/added.html", "version": "1.1.0" },
                "same": false, "conflicts": false, "added": 1, "removed": 4, "alike": null
            },
            {
                "path": "themes/near/partials/gone.html", "state": "copy gone",
                "original": { "theme": "far", "path": "partials/gone.html", "version": "1.0.0" },
                "now": null, "same": false, "conflicts": false, "added": 0, "removed": 0, "alike": null
            },
            {
                "path": "themes/near/templates/page.html", "state": "no original recorded",
                "original": null, "now": { "theme": "far", "path": "templates/page.html", "version": "1.1.0" },
                "same": true, "conflicts": false, "added": 0, "removed": 0, "alike": 1.0
            }
        ])
    );
    let merged = site.json(&["drift", "--merge", "--diff", "added"]);
    assert_eq!(merged[0]["merged"], "conflicts");
    assert!(merged[0]["diff"].as_str().unwrap().contains("+zero\n"), "{merged}");
    let adopted = site.json(&["drift", "--adopt", "partials/gone.html"]);
    assert_eq!(adopted[0]["merged"], "own");
    assert!(!site.path("themes/near/.originals/partials/gone.html").exists());
}

#[test]
fn wrong_files_for_drift() {
    let site = copied(&[("card", LINES, LINES)]);
    site.write("themes/near/templates/page.html", "+{inherited}\n");
    site.write("themes/near/partials/own.html", "own\n");
    site.write("themes/far/partials/theirs.html", "theirs\n");
    for (arguments, expected) in [
        (
            &["drift", "crad"][..],
            expect![[r#"
            exit 1
            ---
            error: no theme of the lineage has a file "crad"
            help: the nearest are card
        "#]],
        ),
        (
            &["drift", "page"],
            expect![[r#"
            exit 1
            ---
            error: near's templates/page.html goes on with what it covers, so it can't drift
            help: nothing is to be done
        "#]],
        ),
        (
            &["drift", "own"],
            expect![[r#"
            exit 1
            ---
            error: near's partials/own.html is a copy of nothing
            help: no ancestor has a file of this name
        "#]],
        ),
        (
            &["drift", "theirs"],
            expect![[r#"
            exit 1
            ---
            error: near has no partials/theirs.html of its own
            help: copy it: hausblatt override partials/theirs.html
        "#]],
        ),
        (
            &["drift", "--merge", "--adopt", "card"],
            expect![[r#"
            exit 2
            ---
            error: the argument '--merge' cannot be used with '--adopt <FILE>'

            Usage: hausblatt drift --merge --as-of <DATE> [FILE]...

            For more information, try '--help'.
        "#]],
        ),
        (
            &["drift", "--theme", "far"],
            expect![[r#"
            exit 0
            far holds no copies. To make one:  hausblatt override FILE --theme far
        "#]],
        ),
    ] {
        expected.assert_eq(&site.run(arguments).whole());
    }
    site.write("themes/near/.originals/partials/card.html", "no record\n");
    check(
        &site,
        &["drift"],
        expect![[r#"
            exit 1
            near holds no copies. To make one:  hausblatt override FILE
            ---
            error[bad-record]: this record of an original can't be read
             ╭▸ themes/near/.originals/partials/card.html:1
             ╰ help: delete it, and let "hausblatt drift --adopt" make it anew

        "#]],
    );
    // A record may claim anything: what it names is only read, and only inside the site.
    site.write("themes/near/.originals/partials/card.html", "theme = \"../../..\"\npath = \"../../etc/passwd\"\n---\n");
    check(
        &site,
        &["drift", "--merge"],
        expect![[r#"
            exit 1
            themes/near/partials/card.html
                gone: ../../.. had it, and has it no more
                to keep it as the theme's own: hausblatt drift --adopt partials/card.html
        "#]],
    );
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
            error[not-merged]: themes/near/assets/seal.bin is no text, so it can't be merged
             │
             ╰ help: choose one of the two, then: hausblatt drift --adopt assets/seal.bin

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
        for arguments in [&["drift", "--merge"][..], &["assign", "wide", "/visit/"], &["override", "/visit/opening/"]] {
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
        assert!(card == before || !card.contains("one\ntwo\n") || card.ends_with("mine\n"), "{}", card.len());
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
    assert_eq!(site.run(&["assign", "wide", "/visit/"]).code, 0);
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
    assert_eq!(site.run(&["assign", "wide", "/linked/"]).code, 0);
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
fn an_original_that_only_another_theme_has_now() {
    let site = Site::small();
    site.write("themes/mid/hausblatt-theme.toml", "[theme]\nversion = \"1.0.0\"\nparent = \"far\"\n");
    site.write("themes/near/hausblatt-theme.toml", "[theme]\nparent = \"mid\"\n");
    site.write("themes/mid/templates/page.html", "one\ntwo\nthree\n");
    assert_eq!(site.run(&["override", "/visit/", "--only"]).code, 0);
    site.write("themes/near/templates/page/visit.html", "one\ntwo\nmine\n");
    site.remove("themes/mid/templates/page.html");
    site.write("themes/far/templates/page.html", "zero\none\ntwo\nthree\n");
    check(
        &site,
        &["drift"],
        expect![[r#"
        exit 1
        themes/near/templates/page/visit.html
            moved: far has it as templates/page.html now

        What has changed:       hausblatt drift --diff
        To take it over:        hausblatt drift --merge
    "#]],
    );
    assert_eq!(site.run(&["drift", "--merge"]).code, 0);
    assert_eq!(site.read("themes/near/templates/page/visit.html"), "zero\none\ntwo\nmine\n");
    let now = &site.json(&["drift"])[0]["original"];
    assert_eq!((now["theme"].as_str(), now["path"].as_str()), (Some("far"), Some("templates/page.html")));
}

#[test]
fn a_copy_within_a_theme_grows_old_too() {
    let site = Site::small();
    site.write("themes/near/templates/page.html", "one\ntwo\nthree\n");
    assert_eq!(site.run(&["start", "template", "offered/wide", "--from", "page"]).code, 0);
    site.write("themes/near/templates/offered/wide.html", "one\ntwo\nwide\n");
    site.write("themes/near/templates/page.html", "zero\none\ntwo\nthree\n");
    let drifted = site.json(&["drift"]);
    assert_eq!(
        (&drifted[0]["state"], &drifted[0]["path"]),
        (&"drifted".into(), &"themes/near/templates/offered/wide.html".into())
    );
    assert_eq!(site.run(&["drift", "--merge"]).code, 0);
    assert_eq!(site.read("themes/near/templates/offered/wide.html"), "zero\none\ntwo\nwide\n");
}

/// A copy that was deleted leaves its record; what begins under its name later is no copy of that.
#[test]
fn a_stale_record_is_nobodys_original() {
    for begin in [
        &["start", "template", "page", "--blank"][..],
        &["start", "template", "page"],
        &["override", "/visit/", "--slots"],
    ] {
        let site = Site::small();
        assert_eq!(site.run(&["override", "/visit/", "-q"]).whole(), "exit 0\n");
        site.remove("themes/near/templates/page.html");
        assert_eq!(site.json(&["drift"])[0]["state"], "copy gone");
        assert_eq!(site.run(begin).code, 0, "{begin:?}");
        assert!(!site.path("themes/near/.originals").exists(), "{begin:?}");
    }
    let site = Site::small();
    assert_eq!(site.run(&["override", "/visit/"]).code, 0);
    site.remove("themes/near/templates/page.html");
    site.write("themes/far/templates/page.html", "newer\n");
    assert_eq!(site.run(&["override", "/visit/"]).code, 0);
    assert_eq!(site.json(&["drift"])[0]["state"], "current");
}

#[test]
fn mixed_line_ends_stay_as_they_are() {
    let mixed = "one\r\ntwo\nthree\r\nfour\nmine\n";
    let site = copied(&[("card", "one\r\ntwo\nthree\r\nfour\nfive\n", mixed)]);
    site.write("themes/far/partials/card.html", "ONE\r\ntwo\nthree\r\nfour\nfive\n");
    assert_eq!(site.run(&["drift", "--merge"]).code, 0);
    assert_eq!(site.read("themes/near/partials/card.html"), "ONE\r\ntwo\nthree\r\nfour\nmine\n");
}

#[test]
fn a_copy_under_another_name_may_not_just_go() {
    let site = Site::small();
    assert_eq!(site.run(&["override", "/visit/", "--as", "offered/wide"]).code, 0);
    let said = site.run(&["drift"]).out;
    assert!(said.contains("current") && !said.contains("deleting"), "{said}");
    assert_eq!(site.json(&["drift"])[0]["same"], true);
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
        Its original is kept in the theme: "hausblatt drift" tells when it changes.

        3 addresses use it now:
          /  /visit/  /visit/opening/

        3 addresses come out differently already:
          /  /visit/  /visit/opening/
        What stood there before is replaced, and gone unless your version control has
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
        It goes on with the inherited file: nothing was copied, so nothing can grow old.

        No address uses it now.

        To choose it there:            hausblatt assign broad /visit/
        When you have edited it:       hausblatt build --diff
    "#]],
    );
    assert_eq!(site.run(&["assign", "broad", "/visit/"]).code, 0);
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
