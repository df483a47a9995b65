//! `reach`: what a file has an effect on, and questions that can not be answered.

use crate::support::check;
use crate::understanding::site;
use expect_test::expect;
use serde_json::json;

#[test]
fn what_a_file_reaches() {
    let site = site();
    check(
        &site,
        &["reach", "card"],
        expect![[r#"
        exit 0
        themes/mid/partials/card.html
        partial of mid · used

        Reaches 3 addresses as partial:
          /  /families/beets/  /news/

        called by   themes/top/templates/front.html
                    themes/mid/templates/listing.html
        covers      themes/old/partials/card.html

        To change it in top:  hausblatt override partials/card.html
    "#]],
    );
    check(
        &site,
        &["reach", "themes/old/templates/page.html"],
        expect![[r#"
        exit 0
        themes/old/templates/page.html
        template of old · used

        Reaches 2 addresses as template:
          /opening-hours/  /plain/

        covered by  themes/top/templates/page.html
                    themes/mid/templates/page.html
    "#]],
    );
    check(
        &site,
        &["reach", "document"],
        expect![[r#"
            exit 0
            themes/mid/layouts/document.html
            layout of mid · used

            Reaches 26 addresses as layout:
              /  /bed-10/  /bed-12/  /bed-14/  /bed-16/  /bed-18/  /bed-2/  /bed-20/
              /bed-4/  /bed-6/  /bed-8/  /families/beets/
              and 14 more

            calls       themes/old/layouts/document.html  (extends it)
            covers      themes/old/layouts/document.html

            To change it in top:  hausblatt override layouts/document.html
        "#]],
    );
    check(
        &site,
        &["reach", "notice"],
        expect![[r#"
            exit 0
            themes/top/components/notice/component.html
            component of top · used

            Reaches 1 address as component:
              /visit/

            called by   content/pages/visit.md
        "#]],
    );
    check(
        &site,
        &["reach", "pages/visit"],
        expect![[r#"
            exit 0
            themes/top/templates/pages/visit.html
            template of top · dead

            Nothing uses it: "pages" is not a kind of request; did you mean
            page/visit.html?

            calls       themes/top/partials/only-dead.html
        "#]],
    );
    check(
        &site,
        &["reach", "themes/top/hausblatt-theme.toml"],
        expect![[r#"
            exit 1
            ---
            error: themes/top/hausblatt-theme.toml is not a file that pages are made of
            help: "hausblatt files" lists those that are
        "#]],
    );
    assert_eq!(
        site.json(&["reach", "partials/clock"]),
        json!({
            "path": "themes/mid/partials/clock.html", "theme": "mid", "name": "partials/clock.html", "role": "partial",
            "state": "used", "reason": null,
            "addresses": [{ "address": "/visit/opening/", "as": "partial" }],
            "called_by": [{ "path": "themes/top/templates/page/visit/opening.html", "as": "partial", "asked_as": "clock" }],
            "calls": [], "slots": [], "fills": [], "parameters": [], "covers": [], "covered_by": [], "linked": []
        })
    );
}

#[test]
fn wrong_questions() {
    let site = site();
    for (arguments, expected) in [
        (
            &["reach", "crad"][..],
            expect![[r#"
                exit 1
                ---
                error: no theme of the lineage has a file "crad"
                help: did you mean "card"?
            "#]],
        ),
        (
            &["reach", "/visit/"],
            expect![[r#"
                exit 1
                ---
                error: "/visit/" is not a file of a theme
                help: ask: hausblatt resolve /visit/
            "#]],
        ),
        (
            &["reach", "content/pages/visit.md"],
            expect![[r#"
                exit 1
                ---
                error: "content/pages/visit.md" is not a file of a theme
                help: ask: hausblatt resolve content/pages/visit.md
            "#]],
        ),
        (
            &["reach", "themes/aside/templates/page.html"],
            expect![[r#"
            exit 1
            ---
            error: the theme aside is not in the lineage of top
            help: make it the active one: --theme aside
        "#]],
        ),
        (
            &["reach", "themes/topp/templates/page.html"],
            expect![[r#"
            exit 1
            ---
            error: there is no file themes/topp/templates/page.html
            help: the nearest are themes/top/templates/page.html, themes/top/templates/page.xml, themes/old/templates/page.html
        "#]],
        ),
        (
            &["reach"],
            expect![[r#"
            exit 2
            ---
            error: the following required arguments were not provided:
              <FILE>

            Usage: hausblatt reach --as-of <DATE> <FILE>

            For more information, try '--help'.
        "#]],
        ),
        (
            &["map", "--unused", "--kind", "page"],
            expect![[r#"
            exit 2
            ---
            error: the argument '--unused' cannot be used with '--kind <KIND>'

            Usage: hausblatt map --unused --as-of <DATE>

            For more information, try '--help'.
        "#]],
        ),
        (
            &["map", "--by", "theme"],
            expect![[r#"
            exit 2
            ---
            error: invalid value 'theme' for '--by <WHAT>'
              [possible values: template]

              tip: a similar value exists: 'template'

            For more information, try '--help'.
        "#]],
        ),
        (
            &["map", "--by", "template", "--format", "csv"],
            expect![[r#"
            exit 2
            ---
            error: this command can't answer as csv
            help: its formats are text, json
        "#]],
        ),
        (
            &["map", "--template", "entry/["],
            expect![[r#"
                exit 2
                ---
                error: "entry/[" is not a valid pattern: invalid range pattern
                help: write it as in --template "entry/**", or "page*.html"
            "#]],
        ),
        (
            &["choose", "--list", "/visti/"],
            expect![[r#"
                exit 1
                ---
                error: nothing is at /visti/
                help: did you mean /visit/?
            "#]],
        ),
        (
            &["files", "--format", "csv"],
            expect![[r#"
                exit 2
                ---
                error: invalid value 'csv' for '--format <FORMAT>'
                  [possible values: text, json]

                For more information, try '--help'.
            "#]],
        ),
        (
            &["themes", "--theme", "tpo"],
            expect![[r#"
                exit 2
                ---
                error: there is no theme "tpo"
                help: did you mean "top"?
            "#]],
        ),
    ] {
        expected.assert_eq(&site.run(arguments).whole());
    }
    // Lookups answer while files don't compile, and say which don't.
    site.write("themes/top/templates/page/visit.html", "+{if}\n");
    check(
        &site,
        &["reach", "page/visit"],
        expect![[r#"
            exit 1
            themes/top/templates/page/visit.html
            template of top · used

            Reaches 1 address as template:
              /visit/

            covers      themes/mid/templates/page/visit.html
            ---
            error    a value is missing here
                     themes/top/templates/page/visit.html:1:5
                 1 | +{if}
                         ‾
                                                                                     bad-tag

        "#]],
    );
    let unused = site.json(&["map", "--unused"]);
    let unloved = unused.as_array().unwrap().iter().find(|file| file["path"] == "themes/top/partials/unloved.html");
    assert_eq!(
        unloved.unwrap()["reason"],
        "themes/top/templates/page/visit.html to be fixed: it does not compile, and may call this"
    );
}
