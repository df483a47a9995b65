//! `choose`: templates that content chooses.

use crate::support::{Site, check};
use expect_test::expect;
use serde_json::json;

/// The small site with two offered templates, of which `wide` is for pages.
pub fn offering() -> Site {
    let site = Site::small();
    site.write("themes/far/templates/offered/wide.html", "---\nlabel: Wide\nfor: [page]\n---\nwide\n");
    site.write("themes/far/templates/offered/tall.html", "tall\n");
    site
}

#[test]
fn a_template_is_chosen_and_taken_back() {
    let site = offering();
    let opening = "---\r\ntitle: Hours # of the gate\r\n# no more\r\n---\r\nTen to four";
    site.write("content/pages/visit/opening.md", opening);
    check(
        &site,
        &["choose", "wide", "/visit/", "content/pages/visit/opening.md"],
        expect![[r#"
        exit 0
        Wrote content/pages/visit.md  template: wide
        Wrote content/pages/visit/opening.md  template: wide

          /visit/
          /visit/opening/
              page.html (far) → offered/wide.html (far)

        Why:  hausblatt resolve /visit/
    "#]],
    );
    assert_eq!(
        site.read("content/pages/visit/opening.md"),
        "---\r\ntitle: Hours # of the gate\r\n# no more\r\ntemplate: wide\r\n---\r\nTen to four"
    );
    check(
        &site,
        &["choose", "tall", "/visit/opening/"],
        expect![[r#"
        exit 0
        Wrote content/pages/visit/opening.md  template: tall, before wide

          /visit/opening/
              offered/wide.html (far) → offered/tall.html (far)

        Why:  hausblatt resolve /visit/opening/
    "#]],
    );
    check(
        &site,
        &["choose", "tall", "/visit/opening/"],
        expect![[r#"
        exit 0
        Kept  content/pages/visit/opening.md  has chosen tall already

        Why:  hausblatt resolve /visit/opening/
    "#]],
    );
    check(
        &site,
        &["choose", "--clear", "/visit/opening/", "/visit/"],
        expect![[r#"
        exit 0
        Wrote content/pages/visit/opening.md  chooses nothing any more, before tall
        Wrote content/pages/visit.md  chooses nothing any more, before wide

          /visit/
              offered/wide.html (far) → page.html (far)
          /visit/opening/
              offered/tall.html (far) → page.html (far)

        Why:  hausblatt resolve /visit/opening/
    "#]],
    );
    assert_eq!(site.read("content/pages/visit/opening.md"), opening);
    assert_eq!(
        site.json(&["choose", "tall", "/journal/frost/"]),
        json!({
            "chosen": [{
                "address": "/journal/frost/", "path": "content/journal/2026-03-14-frost.md",
                "from": null, "to": "tall", "written": true
            }],
            "changed": [{
                "address": "/journal/frost/",
                "from": { "template": "fallback.html", "theme": "far", "layout": "document", "status": 200 },
                "to": { "template": "offered/tall.html", "theme": "far", "layout": "document", "status": 200 },
                "html": null
            }]
        })
    );
}

#[test]
fn what_can_not_be_chosen() {
    let site = offering();
    site.write("themes/far/templates/offered/gone.html", "gone\n");
    site.write(
        "themes/near/hausblatt-theme.toml",
        "[theme]\nparent = \"far\"\nhide = [\"templates/offered/gone.html\"]\n",
    );
    site.write("themes/far/partials/narrow.html", "narrow\n");
    site.write("themes/other/hausblatt-theme.toml", "");
    site.write("themes/other/templates/offered/foreign.html", "foreign\n");
    site.write("content/pages/odd.md", "---\n{ title: Odd }\n---\nText\n");
    site.write("content/pages/broken.md", "---\ntitle: [\n---\nText\n");
    let before = site.tree("content");
    for (arguments, expected) in [
        (
            &["choose", "wide", "/journal/frost/"][..],
            expect![[r#"
            exit 1
            ---
            error: templates/offered/wide.html does not fit content/journal/2026-03-14-frost.md: it is for page
            help: offered for it are tall
        "#]],
        ),
        (
            &["choose", "wdie", "/visit/"],
            expect![[r#"
            exit 1
            ---
            error: no theme of the lineage has templates/offered/wdie.html
            help: did you mean "wide"?
        "#]],
        ),
        (
            &["choose", "gone", "/visit/"],
            expect![[r#"
            exit 1
            ---
            error: near hides templates/offered/gone.html
            help: offered for it are tall, wide
        "#]],
        ),
        (
            &["choose", "narrow", "/visit/"],
            expect![[r#"
                exit 1
                ---
                error: no theme of the lineage has templates/offered/narrow.html
                help: offered templates are .html files in templates/offered/, and themes/far/partials/narrow.html is not one
            "#]],
        ),
        (
            &["choose", "foreign", "/visit/"],
            expect![[r#"
                exit 1
                ---
                error: no theme of the lineage has templates/offered/foreign.html
                help: only the theme other has it, which is not in the lineage
            "#]],
        ),
        (
            &["choose", "wide", "/visit/", "/journal/"],
            expect![[r#"
                exit 1
                ---
                error: /journal/ is a listing: only pages and entries choose templates; nothing was written
                help: give it a template of its own: hausblatt override /journal/ --only
            "#]],
        ),
        (
            &["choose", "wide", "/visit/", "/journal/frost/"],
            expect![[r#"
                exit 1
                ---
                error: templates/offered/wide.html does not fit content/journal/2026-03-14-frost.md: it is for page; nothing was written
                help: offered for it are tall
            "#]],
        ),
        (
            &["choose", "wide", "/vist/"],
            expect![[r#"
                exit 1
                ---
                error: nothing is at /vist/
                help: did you mean /visit/?
            "#]],
        ),
        (
            &["choose", "wide", "content/pages/vist.md"],
            expect![[r#"
            exit 1
            ---
            error: there is no content file content/pages/vist.md
            help: did you mean "content/pages/visit.md"?
        "#]],
        ),
        (
            &["choose", "wide", "/home/"],
            expect![[r#"
            exit 1
            ---
            error: /home/ redirects
            help: name the address that it leads to: /
        "#]],
        ),
        (
            &["choose", "wide", "/odd/"],
            expect![[r#"
                exit 1
                ---
                error    this front matter is written so that "template: wide" can't be put into
                         it safely
                         content/pages/odd.md
                         → change it by hand: one key in each line                  front-matter

                error: nothing was written
            "#]],
        ),
        (
            &["choose", "wide", "/broken/"],
            expect![[r#"
                exit 1
                ---
                error    the front matter has an error: unexpected eof
                         content/pages/broken.md
                         → fix it first                                             front-matter

                error: nothing was written
            "#]],
        ),
        (
            &["choose", "/visit/", "wide"],
            expect![[r#"
                exit 2
                ---
                error: "wide" is not a valid address
                help: an address begins with /, and the name comes first: hausblatt choose wide /visit/
            "#]],
        ),
        (
            &["choose", "wide"],
            expect![[r#"
            exit 2
            ---
            error: nothing says what "wide" is chosen for
            help: add an address, as in: hausblatt choose wide /visit/
        "#]],
        ),
        (
            &["choose", "/visit/"],
            expect![[r#"
            exit 2
            ---
            error: no template is named, and there is no terminal to ask on
            help: name one of tall, wide: hausblatt choose tall /visit/
        "#]],
        ),
        (
            &["choose", "--clear", "wide", "/visit/"],
            expect![[r#"
            exit 2
            ---
            error: --clear takes addresses only, and "wide" is none
            help: write it as in: hausblatt choose --clear /visit/
        "#]],
        ),
    ] {
        expected.assert_eq(&site.run(arguments).whole());
    }
    assert_eq!(site.tree("content"), before, "nothing was written");
    check(
        &site,
        &["choose", "--list", "/visit/"],
        expect![[r#"
            exit 0
            /visit/
            content/pages/visit.md

            An editor can choose:
              tall        far
              wide  Wide  far

            Not available here:
              themes/far/templates/offered/gone.html       near hides it
              themes/other/templates/offered/foreign.html  the theme other is not in the lineage

            Next:  hausblatt choose tall /visit/
        "#]],
    );
    check(
        &site,
        &["choose", "--list", "/journal/"],
        expect![[r#"
        exit 1
        ---
        error: /journal/ is a listing: only pages and entries choose templates
        help: give it a template of its own: hausblatt override /journal/ --only
    "#]],
    );
    let choices = site.json(&["choose", "--list", "content/journal/2026-03-14-frost.md"]);
    assert_eq!(
        choices[0],
        json!({
            "name": "tall", "label": null, "about": null, "theme": "far", "path": "themes/far/templates/offered/tall.html",
            "fits": true, "chosen": false, "reason": null
        })
    );
}
