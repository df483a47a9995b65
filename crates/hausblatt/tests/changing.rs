//! `suppose`, `assign`, `start` and `build --diff` as users meet them.

#![allow(clippy::unwrap_used, clippy::panic, clippy::expect_used)]

mod support;

use expect_test::expect;
use serde_json::json;
use support::{Site, check};

/// The small site with two offered templates, of which `wide` is for pages.
fn offering() -> Site {
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
        &["assign", "wide", "/visit/", "content/pages/visit/opening.md"],
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
        &["assign", "tall", "/visit/opening/"],
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
        &["assign", "tall", "/visit/opening/"],
        expect![[r#"
        exit 0
        Kept  content/pages/visit/opening.md  has chosen tall already

        Why:  hausblatt resolve /visit/opening/
    "#]],
    );
    check(
        &site,
        &["assign", "--clear", "/visit/opening/", "/visit/"],
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
        site.json(&["assign", "tall", "/journal/frost/"]),
        json!({
            "assigned": [{
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
            &["assign", "wide", "/journal/frost/"][..],
            expect![[r#"
            exit 1
            ---
            error: templates/offered/wide.html does not fit content/journal/2026-03-14-frost.md: it is for page
            help: offered for it are tall
        "#]],
        ),
        (
            &["assign", "wdie", "/visit/"],
            expect![[r#"
            exit 1
            ---
            error: no theme of the lineage has templates/offered/wdie.html
            help: did you mean "wide"?
        "#]],
        ),
        (
            &["assign", "gone", "/visit/"],
            expect![[r#"
            exit 1
            ---
            error: near hides templates/offered/gone.html
            help: offered for it are tall, wide
        "#]],
        ),
        (
            &["assign", "narrow", "/visit/"],
            expect![[r#"
            exit 1
            ---
            error: no theme of the lineage has templates/offered/narrow.html
            help: themes/far/partials/narrow.html is no offered template: those are .html files in templates/offered/.
        "#]],
        ),
        (
            &["assign", "foreign", "/visit/"],
            expect![[r#"
            exit 1
            ---
            error: no theme of the lineage has templates/offered/foreign.html
            help: Only the theme other has it, which is not in the lineage.
        "#]],
        ),
        (
            &["assign", "wide", "/visit/", "/journal/"],
            expect![[r#"
                exit 1
                ---
                error: /journal/ is a listing: only pages and entries choose templates; nothing was written
                help: give it a template of its own: hausblatt override /journal/ --only
            "#]],
        ),
        (
            &["assign", "wide", "/visit/", "/journal/frost/"],
            expect![[r#"
                exit 1
                ---
                error: templates/offered/wide.html does not fit content/journal/2026-03-14-frost.md: it is for page; nothing was written
                help: offered for it are tall
            "#]],
        ),
        (
            &["assign", "wide", "/vist/"],
            expect![[r#"
            exit 1
            ---
            error: nothing is at /vist/
            help: the nearest are /visit/
        "#]],
        ),
        (
            &["assign", "wide", "content/pages/vist.md"],
            expect![[r#"
            exit 1
            ---
            error: there is no content file content/pages/vist.md
            help: did you mean "content/pages/visit.md"?
        "#]],
        ),
        (
            &["assign", "wide", "/home/"],
            expect![[r#"
            exit 1
            ---
            error: /home/ redirects
            help: name the address that it leads to: /
        "#]],
        ),
        (
            &["assign", "wide", "/odd/"],
            expect![[r#"
            exit 1
            ---
            error[front-matter]: this front matter is written so that "template: wide" can't
                                 be put into it safely
             ╭▸ content/pages/odd.md:1
             ╰ help: change it by hand: one key in each line

            error: nothing was written
        "#]],
        ),
        (
            &["assign", "wide", "/broken/"],
            expect![[r#"
            exit 1
            ---
            error[front-matter]: the front matter has a fault: unexpected eof
             ╭▸ content/pages/broken.md:1
             ╰ help: mend it first

            error: nothing was written
        "#]],
        ),
        (
            &["assign", "/visit/", "wide"],
            expect![[r#"
            exit 2
            ---
            error: "wide" is no address
            help: an address begins with /, and the name comes first: hausblatt assign wide /visit/
        "#]],
        ),
        (
            &["assign", "wide"],
            expect![[r#"
            exit 2
            ---
            error: nothing says what "wide" is chosen for
            help: add an address, as in: hausblatt assign wide /visit/
        "#]],
        ),
        (
            &["assign", "/visit/"],
            expect![[r#"
            exit 2
            ---
            error: no template is named, and there is no terminal to ask on
            help: name one of tall, wide: hausblatt assign tall /visit/
        "#]],
        ),
        (
            &["assign", "--clear", "wide", "/visit/"],
            expect![[r#"
            exit 2
            ---
            error: --clear takes addresses only, and "wide" is none
            help: write it as in: hausblatt assign --clear /visit/
        "#]],
        ),
    ] {
        expected.assert_eq(&site.run(arguments).whole());
    }
    assert_eq!(site.tree("content"), before, "nothing was written");
    check(
        &site,
        &["templates", "--for", "/visit/"],
        expect![[r#"
            exit 0
            /visit/
            content/pages/visit.md

            An editor can choose:
              tall        far
              wide  Wide  far

            Not to choose here:
              themes/far/templates/offered/gone.html       near hides it
              themes/other/templates/offered/foreign.html  the theme other is not in the lineage

            Next:  hausblatt assign tall /visit/
        "#]],
    );
    check(
        &site,
        &["templates", "--for", "/journal/"],
        expect![[r#"
        exit 1
        ---
        error: /journal/ is a listing: only pages and entries choose templates
        help: give it a template of its own: hausblatt override /journal/ --only
    "#]],
    );
    let choices = site.json(&["templates", "--for", "content/journal/2026-03-14-frost.md"]);
    assert_eq!(
        choices[0],
        json!({
            "name": "tall", "label": null, "theme": "far", "path": "themes/far/templates/offered/tall.html",
            "fits": true, "chosen": false, "reason": null
        })
    );
}

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

            1 address would be answered otherwise:
              /visit/
                  page.html (far) → page/visit.html (near), comes out differently

            11 addresses stay as they are.
            Add --diff to see how.
            No new faults.
        "#]],
    );
    check(
        &site,
        &["suppose", "--without", "partials/card"],
        expect![[r#"
            exit 1
            If partials/card were gone:

            Every address would be answered by the same file.

            12 addresses stay as they are.
            Add --html to see which pages come out differently.
            1 new fault:
            ---
            error[unknown-partial]: unknown partial "card"
              ╭▸ themes/far/templates/entry.html:1:11
              │
            1 │ +{partial "card"}
              │           ━━━━━━
              │
              ╰ help: write the file partials/card.html in a theme of the lineage

        "#]],
    );
    check(
        &site,
        &["suppose", "--without", "fallback", "--without", "layouts/document", "--all"],
        expect![[r#"
            exit 1
            If fallback were gone and layouts/document were gone:

            9 addresses would be answered otherwise:
              /
              /visit/
              /visit/opening/
                  page.html (far) in document → page.html (far), no layout
              /journal/
              /journal/page/2/
                  fallback.html (far) in document → no file, no layout
              /journal/beans/
              /journal/boats/
              /journal/frost/
                  entry.html (far) in document → entry.html (far), no layout
              /404.html
                  fallback.html (far) in document, 404 → no file, no layout, 404

            3 addresses stay as they are.
            Add --html to see which pages come out differently.
            2 new faults:
            ---
            error[no-template]: no template answers these addresses
             │
             ╰ help: a lineage needs a templates/fallback.html at least; it is about
                     /journal/, /journal/page/2/

            error[unknown-layout]: no theme of the lineage has the layout "document"
             ╭▸ themes/far/templates/page.html:1
             ╰ help: a template without a layout says: layout: none; it is about /,
                     /journal/beans/, /journal/boats/ and 3 more

        "#]],
    );
    check(
        &site,
        &["suppose", "--add", "entry/journal=page", "--diff", "--assign", "tall=/visit/"],
        expect![[r#"
        exit 0
        If entry/journal were there, with the text of page and /visit/ had chosen tall:

        4 addresses would be answered otherwise:
          /journal/beans/
          /journal/boats/
          /journal/frost/
              entry.html (far) → entry/journal.html (near), comes out differently
          /visit/
              page.html (far) → offered/tall.html (far), comes out differently

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
        No new faults.
    "#]],
    );
    check(
        &site,
        &["suppose", "--front", "collection:journal"],
        expect![[r#"
            exit 0
            If the front were the listing of journal:

            5 addresses would be answered otherwise:
              /
                  page.html (far) → fallback.html (far)
              /home/
                  a redirect, 301 → page.html (far), 200
              /journal/
                  fallback.html (far), 200 → a redirect, 301
              /journal/page/2/
                  goes: fallback.html (far)
              /page/2/
                  comes: fallback.html (far)

            8 addresses stay as they are.
            Add --html to see which pages come out differently.
            No new faults.
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
            Add --html to see which pages come out differently.
            No new faults.
        "#]],
    );
    assert_eq!(site.tree("."), before, "nothing was written");
    assert_eq!(
        site.json(&["suppose", "--without", "entry", "--assign", "gone=/visit/", "--html"]),
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
                "path": "content/pages/visit.md", "line": 3, "column": 11, "addresses": ["/visit/"]
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
            help: say what, as in: hausblatt suppose --without page/visit, or --add, --assign, --to-theme, --front, --parent
        "#]],
        ),
        (
            &["suppose", "--without", "pgae"],
            expect![[r#"
            exit 1
            ---
            error: no theme of the lineage has a file "pgae"
            help: the nearest are page
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
            help: the nearest are themes/far/templates/page.html
        "#]],
        ),
        (
            &["suppose", "--add", "../page.html"],
            expect![[r#"
            exit 1
            ---
            error: "../page.html" is no path of a theme file
            help: write it as in templates/page/visit.html
        "#]],
        ),
        (
            &["suppose", "--add", "page/visit=paeg"],
            expect![[r#"
            exit 1
            ---
            error: no theme of the lineage has a file "paeg"
            help: the nearest are page
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
            error[theme-circle]: these themes are each other's parents: near → near
              ╭▸ themes/near/hausblatt-theme.toml:2:10
              │
            2 │ parent = "far"
              │          ━━━━━
              │
              ╰ help: take "parent" out of one of them

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
            &["suppose", "--assign", "wide"],
            expect![[r#"
                exit 2
                ---
                error: invalid value 'wide' for '--assign <NAME=ADDRESS>': write it as in no-aside=/visit/

                For more information, try '--help'.
            "#]],
        ),
        (
            &["suppose", "--assign", "wide=/journal/"],
            expect![[r#"
            exit 1
            ---
            error: /journal/ is a listing: only pages and entries choose templates
            help: give it a template of its own: hausblatt override /journal/ --only
        "#]],
        ),
        (
            &["suppose", "--without", "pgae", "--assign", "wide=/vist/"],
            expect![[r#"
            exit 1
            ---
            error[unknown-file]: no theme of the lineage has a file "pgae"
             │
             ╰ help: the nearest are page

            error[no-content]: nothing is at /vist/
             │
             ╰ help: the nearest are /visit/

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

#[test]
fn beginnings_render_at_once() {
    let site = Site::empty();
    check(
        &site,
        &["start", "site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/hausblatt.toml
        Wrote seeds/themes/plain/hausblatt-theme.toml
        Wrote seeds/themes/plain/assets/plain.css
        Wrote seeds/themes/plain/layouts/document.html
        Wrote seeds/themes/plain/templates/fallback.html
        Wrote seeds/content/pages/welcome.md

        Next:
          cd seeds
              go there
          hausblatt render /
              the HTML of the front page
          hausblatt start page visit
              another page
          hausblatt build
              the whole site
    "#]],
    );
    let seeds = |arguments: &[&str]| site.run(&[arguments, &["--site", "seeds", "--deny", "warnings"]].concat());
    assert_eq!(seeds(&["build", "-q"]).code, 0, "{}", seeds(&["build", "-q"]).whole());
    check(
        &site,
        &["start", "theme", "coast", "--parent", "plain", "--site", "seeds"],
        expect![[r#"
            exit 0
            Wrote seeds/themes/coast/hausblatt-theme.toml
            To make it the site's theme, write theme = "coast" into hausblatt.toml.

            Next:
              hausblatt override ADDRESS --theme coast --site seeds
                  a file of its own, copied from its parent
              hausblatt suppose --to-theme coast --site seeds
                  what would change with it
              hausblatt map --theme coast --site seeds
                  every address, rendered by it
        "#]],
    );
    check(
        &site,
        &["start", "page", "visit", "--title", "Come: \"in\"", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/content/pages/visit.md
        Its address is /visit/, rendered by fallback.html.

        Next:
          hausblatt render /visit/ --site seeds
              its HTML
          hausblatt resolve /visit/ --site seeds
              which file renders it, and why
    "#]],
    );
    check(
        &site,
        &["start", "template", "page/visit", "--theme", "coast", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/themes/coast/templates/page/visit.html

        Next:
          hausblatt resolve /visit/ --site seeds --theme coast
              which file renders that now
          hausblatt reach templates/page/visit.html --site seeds --theme coast
              every address that it has an effect on
    "#]],
    );
    check(
        &site,
        &["start", "template", "offered/wide", "--from", "fallback", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/themes/plain/.originals/templates/offered/wide.html
        Wrote seeds/themes/plain/templates/offered/wide.html

        Next:
          hausblatt assign wide / --site seeds
              choose it for a page or an entry
          hausblatt reach templates/offered/wide.html --site seeds
              every address that it has an effect on
    "#]],
    );
    check(
        &site,
        &["start", "component", "notice", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/themes/plain/components/notice/style.css
        Wrote seeds/themes/plain/components/notice/component.toml
        Wrote seeds/themes/plain/components/notice/component.html
        Content places it in a tray: write "- component: notice" below trays: and
        main: in front matter.

        Next:
          hausblatt render --component notice --set heading="Two beds" --site seeds
              its HTML alone
          hausblatt render --component notice --document --site seeds
              the same as a whole page
    "#]],
    );
    check(
        &site,
        &["start", "partial", "card/journal", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/themes/plain/partials/card/journal.html
        Any file calls it with +{partial "card/journal" given text = "…"}.

        Next:
          hausblatt reach partials/card/journal --site seeds
              who calls it, and every address that it reaches
    "#]],
    );
    let config = site.read("seeds/hausblatt.toml").replace("language", "address = \"https://seeds.example\"\nlanguage");
    site.write(
        "seeds/hausblatt.toml",
        config + "[collections.journal]\naddress = \"/journal/{slug}/\"\nlisting = \"/journal/\"\nperiods = [\"year\"]\nfeed = true\n\
                  [collections.journal.fields]\nplace = { type = \"text\" }\n[search]\naddress = \"/search/\"\n[routes.map]\naddress = \"/map/\"\n",
    );
    check(
        &site,
        &["start", "entry", "journal/first-frost", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/content/journal/2026-11-23-first-frost.md
        Its address is /journal/first-frost/, rendered by fallback.html.

        Next:
          hausblatt render /journal/first-frost/ --site seeds
              its HTML
          hausblatt resolve /journal/first-frost/ --site seeds
              which file renders it, and why
    "#]],
    );
    let entry = site.read("seeds/content/journal/2026-11-23-first-frost.md");
    assert_eq!(entry, "---\ntitle: First frost\n# place:\n---\nThis is the text.\n");
    for name in [
        "front",
        "page",
        "entry/journal",
        "listing",
        "period/journal",
        "search",
        "route/map",
        "error/404",
        "listing/journal.xml",
        "sitemap.xml",
        "robots.txt",
        "offered/blank",
    ] {
        let said = seeds(&["start", "template", name, "--blank"]);
        assert_eq!(said.code, 0, "{}", said.whole());
    }
    assert_eq!(seeds(&["start", "template", "error", "--theme", "coast"]).code, 0);
    assert_eq!(seeds(&["assign", "blank", "/visit/"]).code, 0);
    for theme in ["plain", "coast"] {
        let said = seeds(&["build", "-q", "--theme", theme, "--out", theme]);
        assert_eq!(said.code, 0, "{theme}: {}", said.whole());
    }
    let page = seeds(&["render", "/journal/first-frost/", "--theme", "coast"]).out;
    assert!(page.contains("<h1>First frost</h1>\n<p>This is the text.</p>"), "{page}");
    assert_eq!(seeds(&["render", "--component", "notice", "--document"]).code, 0);
}

#[test]
fn nothing_is_begun_over_what_is_there() {
    let site = Site::small();
    site.write("full/content/pages/welcome.md", "mine\n");
    let before = site.tree(".");
    for (arguments, expected) in [
        (
            &["start", "site", "."][..],
            expect![[r#"
            exit 1
            ---
            error: . is a site already
            help: it stays as it is; see it with: hausblatt map --site .
        "#]],
        ),
        (
            &["start", "site", "inner"],
            expect![[r#"
                exit 1
                ---
                error: inner would stand inside another site
                help: choose a folder outside of that one
            "#]],
        ),
        (
            &["start", "theme", "far"],
            expect![[r#"
            exit 1
            ---
            error: there is a theme "far" already
            help: choose another name
        "#]],
        ),
        (
            &["start", "theme", "Coast!"],
            expect![[r#"
            exit 1
            ---
            error: "Coast!" can't name a theme
            help: use lower-case letters, digits and hyphens, as in coast
        "#]],
        ),
        (
            &["start", "theme", "coast", "--parent", "nera"],
            expect![[r#"
            exit 1
            ---
            error: there is no theme "nera"
            help: did you mean "near"?
        "#]],
        ),
        (
            &["start", "template", "fallback", "--theme", "far"],
            expect![[r#"
            exit 1
            ---
            error: there is a file themes/far/templates/fallback.html already
            help: it stays as it is: edit it, or choose another name
        "#]],
        ),
        (
            &["start", "template", "pages/visit"],
            expect![[r#"
            exit 1
            ---
            error: no request could ask for pages/visit.html: "pages" is no kind of request; did you mean page/visit.html?
        "#]],
        ),
        (
            &["start", "template", "page/visit/hours", "--from", "paeg"],
            expect![[r#"
            exit 1
            ---
            error: no theme of the lineage has a file "paeg"
            help: the nearest are page
        "#]],
        ),
        (
            &["start", "template", "entry/jurnal"],
            expect![[r#"
            exit 1
            ---
            error: no request could ask for entry/jurnal.html: there is no collection "jurnal"; did you mean entry/journal?
        "#]],
        ),
        (
            &["start", "template", "page/2026_x"],
            expect![[r#"
            exit 1
            ---
            error: no request could ask for page/2026_x.html: "2026_x" can be no page's id: those are lower-case letters, digits and hyphens
        "#]],
        ),
        (
            &["start", "template", "error/200"],
            expect![[r#"
            exit 1
            ---
            error: no request could ask for error/200.html: "200" is no error status: those are 400 to 599, 4xx and 5xx
        "#]],
        ),
        (
            &["start", "template", "partials/card"],
            expect![[r#"
            exit 1
            ---
            error: partials/card.html is no template
            help: begin it with: hausblatt start partial NAME
        "#]],
        ),
        (
            &["start", "template", "page", "--from", "page", "--blank"],
            expect![[r#"
            exit 2
            ---
            error: the argument '--from <FILE>' cannot be used with '--blank'

            Usage: hausblatt start --from <FILE> --as-of <DATE> <WHAT> <NAME>

            For more information, try '--help'.
        "#]],
        ),
        (
            &["start", "partial", "Card"],
            expect![[r#"
            exit 1
            ---
            error: "Card" can't name a partial
            help: use lower-case letters, digits and hyphens, as in card
        "#]],
        ),
        (
            &["start", "partial", "../card"],
            expect![[r#"
            exit 1
            ---
            error: "../card" can't name a partial
            help: use lower-case letters, digits and hyphens, as in card
        "#]],
        ),
        (
            &["start", "component", "a/b"],
            expect![[r#"
            exit 1
            ---
            error: "a/b" can't name a component
            help: use lower-case letters, digits and hyphens, as in a-b
        "#]],
        ),
        (
            &["start", "page", "visit"],
            expect![[r#"
            exit 1
            ---
            error: there is a file content/pages/visit.md already
            help: it stays as it is: edit it, or choose another name
        "#]],
        ),
        (
            &["start", "page", "../../etc"],
            expect![[r#"
            exit 1
            ---
            error: "../../etc" can't name a page
            help: use lower-case letters, digits and hyphens, as in etc
        "#]],
        ),
        (
            &["start", "page", "Opening Hours"],
            expect![[r#"
            exit 1
            ---
            error: "Opening Hours" can't name a page
            help: use lower-case letters, digits and hyphens, as in opening-hours
        "#]],
        ),
        (
            &["start", "entry", "journal/frost"],
            expect![[r#"
            exit 1
            ---
            error: journal has an entry frost already: content/journal/2026-03-14-frost.md
            help: choose another id
        "#]],
        ),
        (
            &["start", "entry", "journal"],
            expect![[r#"
            exit 1
            ---
            error: "journal" names no entry
            help: write it as in hausblatt start entry journal/first-frost
        "#]],
        ),
        (
            &["start", "entry", "jurnal/frost"],
            expect![[r#"
            exit 1
            ---
            error: there is no collection "jurnal"
            help: did you mean journal/frost?
        "#]],
        ),
        (
            &["start", "page", "x", "--blank"],
            expect![[r#"
            exit 2
            ---
            error: --blank is for a template
            help: leave it out, or see hausblatt start --help
        "#]],
        ),
        (
            &["start", "thme", "x"],
            expect![[r#"
            exit 2
            ---
            error: invalid value 'thme' for '<WHAT>'
              [possible values: site, theme, template, partial, component, page, entry]

              tip: a similar value exists: 'theme'

            For more information, try '--help'.
        "#]],
        ),
    ] {
        expected.assert_eq(&site.run(arguments).whole());
    }
    assert_eq!(site.tree("."), before, "nothing was written");
    let empty = Site::empty();
    empty.write("seeds/content/pages/welcome.md", "mine\n");
    check(
        &empty,
        &["start", "site", "seeds"],
        expect![[r#"
        exit 1
        ---
        error: seeds/content/pages/welcome.md is there already
        help: choose an empty folder
    "#]],
    );
    assert_eq!(empty.read("seeds/content/pages/welcome.md"), "mine\n");
    assert!(!empty.path("seeds/hausblatt.toml").exists());
}

#[test]
fn a_refactoring_is_proved_to_change_nothing() {
    let site = Site::small();
    check(
        &site,
        &["build", "--dry-run"],
        expect![[r#"
        exit 1
        12 files would be new:
          404.html
          home/index.html
          index.html
          journal/beans/index.html
          journal/boats/index.html
          journal/frost/index.html
          journal/index.html
          journal/page/2/index.html
          robots.txt
          sitemap.xml
          visit/index.html
          visit/opening/index.html

        0 files would stay as they are. Nothing was written.
    "#]],
    );
    assert!(!site.path("built").exists());
    assert_eq!(site.run(&["build", "-q"]).code, 0);
    check(
        &site,
        &["build", "--diff"],
        expect![[r#"
        exit 0
        Nothing would change: ./built is what a build would make, to the byte.
    "#]],
    );
    // The same by another file.
    site.write("themes/far/partials/title.html", "page +{content.title}\n");
    site.write("themes/far/templates/page.html", "+{partial \"title\"}\n");
    assert_eq!(site.run(&["build", "--dry-run"]).code, 0);
    site.write("themes/far/templates/page.html", "+{partial \"title\"}   \n");
    site.write("themes/far/templates/listing.html", "list\n");
    site.remove("content/pages/visit/opening.md");
    site.write("content/pages/new.md", "New.\n");
    site.write("media/seal.bin", [0u8, 255]);
    let before = site.tree("built");
    check(
        &site,
        &["build", "--diff"],
        expect![[r#"
            exit 1
            3 files would change:
              journal/index.html
            --- before journal/index.html
            +++ after journal/index.html
            @@ -1 +1 @@
            -[fallback Journal]
            \ No newline at end of file
            +[list]
            \ No newline at end of file
              journal/page/2/index.html
            --- before journal/page/2/index.html
            +++ after journal/page/2/index.html
            @@ -1 +1 @@
            -[fallback Journal]
            \ No newline at end of file
            +[list]
            \ No newline at end of file
              sitemap.xml
            --- before sitemap.xml
            +++ after sitemap.xml
            @@ -22,9 +22,9 @@
                 <loc>https://seeds.example/journal/page/2/</loc>
               </url>
               <url>
            -    <loc>https://seeds.example/visit/</loc>
            +    <loc>https://seeds.example/new/</loc>
               </url>
               <url>
            -    <loc>https://seeds.example/visit/opening/</loc>
            +    <loc>https://seeds.example/visit/</loc>
               </url>
             </urlset>

            2 files would change in white space only:
              index.html
            --- before index.html
            +++ after index.html
            @@ -1 +1 @@
            -[page Home]
            \ No newline at end of file
            +[page Home   ]
            \ No newline at end of file
              visit/index.html
            --- before visit/index.html
            +++ after visit/index.html
            @@ -1 +1 @@
            -[page Visit]
            \ No newline at end of file
            +[page Visit   ]
            \ No newline at end of file

            2 files would be new:
              media/seal.bin
              new/index.html
            --- before new/index.html
            +++ after new/index.html
            @@ -0,0 +1 @@
            +[page New   ]
            \ No newline at end of file

            1 file would go:
              visit/opening/index.html
            --- before visit/opening/index.html
            +++ after visit/opening/index.html
            @@ -1 +0,0 @@
            -[page Opening]
            \ No newline at end of file

            6 files would stay as they are. Nothing was written.
        "#]],
    );
    let told = site.json(&["build", "--dry-run"]);
    assert_eq!(
        (&told["written"], &told["removed"], &told["white_space"], &told["unchanged"]),
        (&json!(7), &json!(1), &json!(2), &json!(6))
    );
    assert_eq!(told["changes"][0], json!({ "path": "index.html", "change": "white-space" }));
    assert_eq!(site.tree("built"), before, "nothing was written");
    assert_eq!(site.run(&["build", "-q"]).code, 0);
    assert_eq!(site.run(&["build", "--diff"]).code, 0);
    // A fault is told as in a build, and the earlier file would stay.
    site.write("themes/far/templates/page.html", "+{partial \"titel\"}\n");
    check(
        &site,
        &["build", "--dry-run"],
        expect![[r#"
            exit 1
            No file would change, but not all could be made.
            ---
            error[unknown-partial]: unknown partial "titel"
              ╭▸ themes/far/templates/page.html:1:11
              │
            1 │ +{partial "titel"}
              │           ━━━━━━━
              │
              ╰ help: did you mean "title"?

            not built: / has faults; what an earlier build put there stays
            not built: /new/ has faults; what an earlier build put there stays
            not built: /visit/ has faults; what an earlier build put there stays
        "#]],
    );
}

#[test]
fn marks_in_a_build() {
    let site = Site::small();
    assert_eq!(site.run(&["build", "--marks", "-q"]).code, 0);
    assert_eq!(
        site.read("built/visit/index.html"),
        "<!-- + themes/far/layouts/document.html -->[<!-- + themes/far/templates/page.html -->page Visit\
         <!-- - themes/far/templates/page.html -->]<!-- - themes/far/layouts/document.html -->"
    );
    // A build without them is another build.
    assert_eq!(site.run(&["build", "--dry-run"]).code, 1);
    assert_eq!(site.run(&["build", "-q"]).code, 0);
    assert_eq!(site.read("built/visit/index.html"), "[page Visit]");
}

/// Whatever name of the ladder a template is begun with: it renders, and one that goes on changes nothing.
#[test]
fn a_template_can_be_begun_on_every_rung() {
    let site = Site::demo();
    let before = site.tree("built");
    let mut names: Vec<String> = Vec::new();
    for address in [
        "/",
        "/visit/find-us/",
        "/varieties/scarlet-runner/print/",
        "/journal/",
        "/families/legumes/",
        "/journal/2026/",
        "/search/",
        "/calendar/may/",
        "/404.html",
    ] {
        for rung in site.json(&["resolve", address])[0]["rungs"].as_array().unwrap() {
            let name = rung["name"].as_str().unwrap().to_owned();
            let own = rung["files"].as_array().unwrap().iter().any(|file| file["theme"] == "harbour");
            if !own && !names.contains(&name) {
                names.push(name);
            }
        }
    }
    assert!(names.len() > 20, "{names:?}");
    for name in &names {
        let path = format!("themes/harbour/templates/{name}");
        let said = site.run(&["start", "template", name]);
        assert_eq!(said.code, 0, "{}", said.whole());
        let said = site.run(&["build", "-q", "--deny", "warnings"]);
        assert_eq!(said.code, 0, "{name}: {}", said.whole());
        assert!(site.tree("built") == before, "{name} changes something");
        site.remove(&path);
        assert_eq!(site.run(&["start", "template", name, "--blank"]).code, 0);
        // Slots that other files fill are lacking now, which is a warning.
        let said = site.run(&["build", "-q"]);
        assert_eq!(said.code, 0, "{name}: {}", said.whole());
        site.remove(&path);
    }
}
