//! `suppose`: what a change would change.

use std::io::Write as _;
use std::process::Stdio;

use crate::choosing::offering;
use crate::support::{Site, check};
use expect_test::expect;
use serde_json::json;

#[test]
fn what_a_change_would_change() {
    let site = offering();
    site.write("themes/far/templates/entry.html", "+{partial \"card\"}\n");
    site.write("themes/far/partials/card.html", "card of +{content.title}\n");
    let before = site.tree(".");
    check(
        &site,
        &["suppose", "--add", "page/visit", "--html"],
        expect![[r#"
            exit 0
            If page/visit were there:

            1 address would be answered differently:
              /visit/
                  page.html (far) → page/visit.html (near), HTML differs

            11 addresses stay as they are.
            Add --diff to see how.
            No new problems.
        "#]],
    );
    check(
        &site,
        &["suppose", "--without", "partials/card"],
        expect![[r#"
            exit 1
            If partials/card were gone:

            3 addresses would be answered differently:
              /journal/beans/
              /journal/boats/
              /journal/frost/
                  entry.html (far), 200 → entry.html (far), 500

            9 addresses stay as they are.
            Add --html to see which pages differ in HTML.
            1 new error:
            ---
            error    unknown partial "card"
                     themes/far/templates/entry.html:1:11
                 1 | +{partial "card"}
                               ‾‾‾‾‾‾
                     → write the file partials/card.html in a theme of the lineage
                                                                             unknown-partial

        "#]],
    );
    check(
        &site,
        &["suppose", "--without", "fallback", "--without", "layouts/document", "--all"],
        expect![[r#"
            exit 1
            If fallback were gone and layouts/document were gone:

            9 addresses would be answered differently:
              /
              /visit/
              /visit/opening/
                  page.html (far) in document, 200 → page.html (far), no layout, 500
              /journal/
              /journal/page/2/
                  fallback.html (far) in document, 200 → no file, no layout, 500
              /journal/beans/
              /journal/boats/
              /journal/frost/
                  entry.html (far) in document, 200 → entry.html (far), no layout, 500
              /404.html
                  fallback.html (far) in document, 404 → no file, no layout, 404

            3 addresses stay as they are.
            Add --html to see which pages differ in HTML.
            2 new errors:
            ---
            error    no template answers these addresses
                     → a lineage needs a templates/fallback.html at least; it is about
                       /journal/, /journal/page/2/                               no-template

            error    no theme of the lineage has the layout "document"
                     themes/far/templates/page.html
                     → a template without a layout says: layout: none; it is about /,
                       /journal/beans/, /journal/boats/ and 3 more            unknown-layout

        "#]],
    );
    check(
        &site,
        &["suppose", "--add", "entry/journal=page", "--diff", "--choose", "tall=/visit/"],
        expect![[r#"
            exit 0
            If entry/journal were there, with the text of page and /visit/ had chosen tall:

            4 addresses would be answered differently:
              /journal/beans/
              /journal/boats/
              /journal/frost/
                  entry.html (far) → entry/journal.html (near), HTML differs
              /visit/
                  page.html (far) → offered/tall.html (far), HTML differs

            --- before /journal/beans/
            +++ after /journal/beans/
            @@ -1 +1 @@
            -[card of Beans]
            \ No newline at end of file
            +[page Beans]
            \ No newline at end of file

            --- before /journal/boats/
            +++ after /journal/boats/
            @@ -1 +1 @@
            -[card of Boats]
            \ No newline at end of file
            +[page Boats]
            \ No newline at end of file

            --- before /journal/frost/
            +++ after /journal/frost/
            @@ -1 +1 @@
            -[card of Frost]
            \ No newline at end of file
            +[page Frost]
            \ No newline at end of file

            --- before /visit/
            +++ after /visit/
            @@ -1 +1 @@
            -[page Visit]
            \ No newline at end of file
            +[tall]
            \ No newline at end of file

            8 addresses stay as they are.
            No new problems.
        "#]],
    );
    check(
        &site,
        &["suppose", "--front", "collection:journal"],
        expect![[r#"
            exit 0
            If the front were the listing of journal:

            5 addresses would be answered differently:
              /
                  page.html (far) → fallback.html (far)
              /home/
                  a redirect, 301 → page.html (far), 200
              /journal/
              /journal/page/2/
                  fallback.html (far), 200 → a redirect, 301
              /page/2/
                  comes: fallback.html (far)

            Where they lead:
              /journal/         → /
              /journal/page/2/  → /page/2/

            8 addresses stay as they are.
            Add --html to see which pages differ in HTML.
            No new problems.
        "#]],
    );
    check(
        &site,
        &["suppose", "--to-theme", "far"],
        expect![[r#"
            exit 0
            If the theme were far:

            Every address would be answered by the same file.

            12 addresses stay as they are.
            Add --html to see which pages differ in HTML.
            No new problems.
        "#]],
    );
    assert_eq!(site.tree("."), before, "nothing was written");
    assert_eq!(
        site.json(&["suppose", "--without", "entry", "--choose", "gone=/visit/", "--html"]),
        json!({
            "changed": (["beans", "boats", "frost"]).map(|name| json!({
                "address": format!("/journal/{name}/"),
                "from": { "template": "entry.html", "theme": "far", "layout": "document", "status": 200 },
                "to": { "template": "fallback.html", "theme": "far", "layout": "document", "status": 200 },
                "html": true
            })),
            "faults": [{
                "code": "choice-missing", "severity": "warning",
                "message": "this chooses offered/gone, which no theme of the lineage has",
                "help": "offered for it are: tall, wide",
                "path": "content/pages/visit.md", "line": 3, "column": 11,
                "end_line": 3,
                "end_column": 15, "addresses": ["/visit/"]
            }],
            "unchanged": 9
        })
    );
}

#[test]
fn what_can_not_be_supposed() {
    let site = Site::small();
    for (arguments, expected) in [
        (
            &["suppose"][..],
            expect![[r#"
                exit 2
                ---
                error: nothing is supposed
                help: say what, as in: hausblatt suppose --without page/visit, or --add, --edit, --choose, --to-theme, --front, --parent, --address-pattern
            "#]],
        ),
        (
            &["suppose", "--without", "pgae"],
            expect![[r#"
                exit 1
                ---
                error: no theme of the lineage has a file "pgae"
                help: did you mean "page"?
            "#]],
        ),
        (
            &["suppose", "--add", "crad"],
            expect![[r#"
            exit 1
            ---
            error: "crad" does not say what sort of file it is
            help: write its path from the theme, as in partials/crad
        "#]],
        ),
        (
            &["suppose", "--add", "themes/farr/templates/page.html"],
            expect![[r#"
                exit 1
                ---
                error: there is no file themes/farr/templates/page.html
                help: did you mean "themes/far/templates/page.html"?
            "#]],
        ),
        (
            &["suppose", "--add", "../page.html"],
            expect![[r#"
                exit 1
                ---
                error: "../page.html" is not a valid path of a theme file
                help: write it as in templates/page/visit.html
            "#]],
        ),
        (
            &["suppose", "--add", "page/visit=paeg"],
            expect![[r#"
                exit 1
                ---
                error: no theme of the lineage has a file "paeg"
                help: did you mean "page"?
            "#]],
        ),
        (
            &["suppose", "--to-theme", "fra"],
            expect![[r#"
            exit 1
            ---
            error: there is no theme "fra"
            help: did you mean "far"?
        "#]],
        ),
        (
            &["suppose", "--parent", "near"],
            expect![[r#"
                exit 1
                ---
                error    these themes are each other's parents: near → near
                         themes/near/hausblatt-theme.toml:2:10
                     2 | parent = "far"
                                  ‾‾‾‾‾
                     3 |
                         ‾
                         → take "parent" out of one of them                         theme-circle

                error: this can't be supposed
            "#]],
        ),
        (
            &["suppose", "--front", "page:hoem"],
            expect![[r#"
            exit 1
            ---
            error: there is no page "hoem"
            help: did you mean "home"?
        "#]],
        ),
        (
            &["suppose", "--front", "collection:news"],
            expect![[r#"
            exit 1
            ---
            error: there is no collection "news"
            help: the collections are journal
        "#]],
        ),
        (
            &["suppose", "--front", "journal"],
            expect![[r#"
            exit 2
            ---
            error: invalid value 'journal' for '--front <WHAT>': write it as in page:welcome or collection:journal

            For more information, try '--help'.
        "#]],
        ),
        (
            &["suppose", "--choose", "wide"],
            expect![[r#"
                exit 2
                ---
                error: invalid value 'wide' for '--choose <NAME=ADDRESS>': write it as in no-aside=/visit/

                For more information, try '--help'.
            "#]],
        ),
        (
            &["suppose", "--choose", "wide=/journal/"],
            expect![[r#"
                exit 1
                ---
                error: /journal/ is a listing: only pages and entries choose templates
                help: give it a template of its own: hausblatt override /journal/ --only
            "#]],
        ),
        (
            &["suppose", "--without", "pgae", "--choose", "wide=/vist/"],
            expect![[r#"
                exit 1
                ---
                error    no theme of the lineage has a file "pgae"
                         → did you mean "page"?                                     unknown-file

                error    nothing is at /vist/
                         → did you mean /visit/?                                      no-content

                error: this can't be supposed
            "#]],
        ),
        (
            &["suppose", "--to-theme", "far", "--theme", "near"],
            expect![[r#"
            exit 2
            ---
            error: both --theme and --to-theme name the active theme
            help: --theme is the theme that the site has, --to-theme the one that it would have: leave one out
        "#]],
        ),
    ] {
        expected.assert_eq(&site.run(arguments).whole());
    }
}

/// The answer to a question with this on standard input.
fn piped(site: &Site, arguments: &[&str], text: &str) -> String {
    let mut command = site.command(arguments);
    let mut child =
        command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().expect("it starts");
    child.stdin.take().unwrap().write_all(text.as_bytes()).unwrap();
    let output = child.wait_with_output().unwrap();
    format!("{}---\n{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr))
}

#[test]
fn an_edit_can_be_asked_about_before_it_is_saved() {
    let site = offering();
    site.write("themes/far/templates/entry.html", "+{partial \"card\"}\n");
    site.write("themes/far/partials/card.html", "card of +{content.title}\n");
    site.write("drafts/a=b.html", "the card of +{content.title}\n");
    let before = site.tree(".");
    check(
        &site,
        &["suppose", "--edit", "card=drafts/a=b.html"],
        expect![[r#"
        exit 1
        ---
        error: b.html can't be read: No such file or directory
    "#]],
    );
    site.rename("drafts/a=b.html", "drafts/c.html");
    check(
        &site,
        &["suppose", "--edit", "themes/far/partials/card.html=drafts/c.html", "--diff"],
        expect![[r#"
        exit 0
        If themes/far/partials/card.html had the text of drafts/c.html:

        Every address would be answered by the same file.

        3 addresses would differ in HTML, by the same file:
          /journal/beans/
          /journal/boats/
          /journal/frost/
              entry.html (far), HTML differs

        --- before /journal/beans/
        +++ after /journal/beans/
        @@ -1 +1 @@
        -[card of Beans]
        \ No newline at end of file
        +[the card of Beans]
        \ No newline at end of file

        --- before /journal/boats/
        +++ after /journal/boats/
        @@ -1 +1 @@
        -[card of Boats]
        \ No newline at end of file
        +[the card of Boats]
        \ No newline at end of file

        --- before /journal/frost/
        +++ after /journal/frost/
        @@ -1 +1 @@
        -[card of Frost]
        \ No newline at end of file
        +[the card of Frost]
        \ No newline at end of file

        9 addresses stay as they are.
        No new problems.
    "#]],
    );
    expect![[r#"
        If partials/card had the text of standard input:

        Every address would be answered by the same file.

        3 addresses would differ in HTML, by the same file:
          /journal/beans/
          /journal/boats/
          /journal/frost/
              entry.html (far), HTML differs

        9 addresses stay as they are.
        Add --diff to see how.
        1 new warning:
        ---
        warning  no content has or declares a field "ttle"
                 themes/far/partials/card.html:1:11
             1 | +{content.ttle}
                           ‾‾‾‾
                 → did you mean "title"?                                   unknown-field

    "#]]
    .assert_eq(&piped(&site, &["suppose", "--edit", "partials/card=-"], "+{content.ttle}\n"));
    expect![[r#"
        If content/pages/visit.md had the text of standard input:

        Every address would be answered by the same file.

        1 address would differ in HTML, by the same file:
          /visit/
              page.html (far), HTML differs

        11 addresses stay as they are.
        Add --diff to see how.
        No new problems.
        ---
    "#]]
    .assert_eq(&piped(&site, &["suppose", "--edit", "content/pages/visit.md=-"], "---\ntitle: Come\n---\n"));
    expect![[r#"
        ---
        error    string values must be quoted, expected literal string
                 hausblatt.toml:2:9
             2 | title = Seeds
                         ‾‾‾‾‾
                                                                                bad-toml

        error: this can't be supposed
    "#]]
    .assert_eq(&piped(&site, &["suppose", "--edit", "hausblatt.toml=-"], "[site]\ntitle = Seeds\n"));
    check(
        &site,
        &["suppose", "--edit", "crad=drafts/c.html"],
        expect![[r#"
        exit 1
        ---
        error: no theme of the lineage has a file "crad"
        help: did you mean "card"?
    "#]],
    );
    check(
        &site,
        &["suppose", "--edit", "content/pages/vist.md=drafts/c.html"],
        expect![[r#"
        exit 1
        ---
        error: there is no file content/pages/vist.md
        help: did you mean "content/pages/visit.md"?
    "#]],
    );
    check(
        &site,
        &["suppose", "--edit", "card=drafts/none.html"],
        expect![[r#"
        exit 1
        ---
        error: drafts/none.html can't be read: No such file or directory
    "#]],
    );
    check(
        &site,
        &["suppose", "--edit", "card"],
        expect![[r#"
        exit 2
        ---
        error: invalid value 'card' for '--edit <FILE=DRAFT>': write it as in partials/card=draft.html, or partials/card=- for standard input

        For more information, try '--help'.
    "#]],
    );
    check(
        &site,
        &["suppose", "--edit", "card=-", "--edit", "page=-"],
        expect![[r#"
        exit 2
        ---
        error: standard input is the text of one file only
        help: write the others to files, as in --edit partials/card=draft.html
    "#]],
    );
    site.write("drafts/odd.html", b"\xff");
    check(
        &site,
        &["suppose", "--edit", "card=drafts/odd.html"],
        expect![[r#"
        exit 1
        ---
        error: drafts/odd.html is not UTF-8
        help: save it as UTF-8
    "#]],
    );
    site.remove("drafts/odd.html");
    site.rename("drafts/c.html", "drafts/a=b.html");
    assert_eq!(site.tree("."), before);
}
