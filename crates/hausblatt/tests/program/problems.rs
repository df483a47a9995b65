//! Bad input: a diagnostic with file, line, excerpt and help, several at once, and nothing lost.

use crate::support::{Site, without_time};
use expect_test::{Expect, expect};

/// Runs a command on the small site after a change, and compares all that is said.
#[track_caller]
fn said(change: impl FnOnce(&Site), arguments: &[&str], expected: Expect) {
    let site = Site::small();
    change(&site);
    let whole = site.run(arguments).whole();
    expected.assert_eq(&without_time(&whole));
}

#[test]
fn no_site() {
    let site = Site::empty();
    expect![[r#"
        exit 2
        ---
        error: no site found here
        help: go to a folder with a hausblatt.toml, name one with --site, or write the demo with "hausblatt demo"
    "#]]
    .assert_eq(&site.run(&["resolve", "/"]).whole());
    expect![[r#"
        exit 2
        ---
        error: nowhere is not a site
        help: a site is a folder with a hausblatt.toml; "hausblatt demo" writes one
    "#]]
    .assert_eq(&site.run(&["map", "--site", "nowhere"]).whole());
}

#[test]
fn broken_configuration() {
    said(
        |site| site.write("hausblatt.toml", "[site]\ntitle = \"x\ntheme = near\n"),
        &["map"],
        expect![[r#"
            exit 2
            ---
            error    invalid basic string, expected `"`
                     hausblatt.toml:2:11
                 2 | title = "x
                               ‾
                                                                                    bad-toml

            error    invalid float, expected `nan`
                     hausblatt.toml:3:9
                 3 | theme = near
                             ‾‾‾‾
                     → a text is put in quotes: "near"                              bad-toml

        "#]],
    );
    said(
        |site| {
            site.write("hausblatt.toml", "[site]\ntitle = \"x\"\ntheme = \"near\"\ntimezone = \"Nowhere\"\n[collections.journal]\nadress = \"/j/{slug}/\"\nper_page = 0\n[foo]\n");
        },
        &["map"],
        expect![[r#"
            exit 1
            /home/           200  page   page.html      far
            /robots.txt      200         built in
            /sitemap.xml     200         built in
            /visit/          200  page   page.html      far
            /visit/opening/  200  page   page.html      far
            /404.html        404  error  fallback.html  far
            ---
            error    unknown timezone "Nowhere"
                     hausblatt.toml:4:12
                 4 | timezone = "Nowhere"
                                ‾‾‾‾‾‾‾‾‾
                     → write the name of a place as in Europe/Berlin, or UTC
                                                                            unknown-timezone

            error    [collections.journal] lacks "address"
                     hausblatt.toml:5:14
                 5 | [collections.journal]
                                  ‾‾‾‾‾‾‾
                     → write it as in address = "/journal/{slug}/"               missing-key

            error    unknown key "adress" in [collections.journal]
                     hausblatt.toml:6:1
                 6 | adress = "/j/{slug}/"
                     ‾‾‾‾‾‾
                     → did you mean "address"?                                   unknown-key

            error    "per_page" must be a whole number from 1 up, not 0
                     hausblatt.toml:7:12
                 7 | per_page = 0
                                ‾
                                                                                  wrong-type

            error    unknown key "foo" in hausblatt.toml
                     hausblatt.toml:8:2
                 8 | [foo]
                      ‾‾‾
                     → its keys are site, front, collections, pages, menus, content,
                       taxonomies, routes, search, errors, settings, ladders, build, check,
                       rehearse                                                  unknown-key

        "#]],
    );
    said(
        |site| site.write("hausblatt.toml", ""),
        &["map"],
        expect![[r#"
            exit 2
            ---
            error    hausblatt.toml lacks [site]
                     hausblatt.toml
                     → write [site] with title, theme, language and timezone     missing-key

        "#]],
    );
}

#[test]
fn missing_themes_and_circles() {
    said(
        |_| (),
        &["map", "--theme", "naer"],
        expect![[r#"
            exit 2
            ---
            error: there is no theme "naer"
            help: did you mean "near"?
        "#]],
    );
    said(
        |site| site.write("themes/near/hausblatt-theme.toml", "[theme]\nparent = \"fra\"\n"),
        &["map"],
        expect![[r#"
            exit 2
            ---
            error    there is no theme "fra"
                     themes/near/hausblatt-theme.toml:2:10
                 2 | parent = "fra"
                              ‾‾‾‾‾
                     → did you mean "far"?                                     unknown-theme

        "#]],
    );
    said(
        |site| site.write("themes/far/hausblatt-theme.toml", "[theme]\nparent = \"near\"\n"),
        &["map"],
        expect![[r#"
            exit 2
            ---
            error    these themes are each other's parents: near → far → near
                     themes/far/hausblatt-theme.toml:2:10
                 2 | parent = "near"
                              ‾‾‾‾‾‾
                     → take "parent" out of one of them                         theme-circle

        "#]],
    );
}

/// What can't be read is not taken for absent, and what follows from it is not reported.
#[test]
fn manifests_that_can_not_be_read() {
    let with_notice = |site: &Site| {
        site.write("content/pages/visit.md", "---\ntrays:\n  main:\n    - component: notice\n      text: Hello\n---\n");
        site.write("themes/near/components/notice/component.html", "<p>+{text}</p>");
        site.write("themes/near/templates/page.html", "---\nlayout: none\n---\n<p>x</p>\n+{tray \"main\"}\n");
    };
    said(
        |site| {
            with_notice(site);
            site.write("themes/near/components/notice/component.toml", "[component\n");
        },
        &["resolve", "/visit/"],
        expect![[r#"
            exit 1
            /visit/  →  500
            page · content/pages/visit.md

               rung             near  far
            1  page/visit.html   ·     ·
            2  page.html         ■     □
            3  fallback.html     ·     □
                ■ renders   □ passed over   · no file
            renders   themes/near/templates/page.html
            inside    no layout
            uses      component notice (near)

            themes/near/components/notice/component.toml can't be read, so its component
            can't be rendered.

            To change this page only:  hausblatt override /visit/ --only
            To change all pages:       edit themes/near/templates/page.html
            ---
            error    unclosed table, expected `]`
                     themes/near/components/notice/component.toml:1:11
                 1 | [component
                               ‾
                                                                                    bad-toml

        "#]],
    );
    said(
        |site| {
            with_notice(site);
            site.write("themes/near/components/notice/component.toml", b"[component]\nlabel = \"\xff\"\n".as_slice());
        },
        &["check", "/visit/"],
        expect![[r#"
            exit 1
            error    this file is not UTF-8: line 2 holds other bytes
                     themes/near/components/notice/component.toml
                     → save it as UTF-8                                           unreadable
                     seen at /visit/

            warning  this page is not a document, and there is no layout around it
                     themes/far/layouts/document.html:1:1
                 1 | [+{slot}]
                     ‾
                     → leave out layout: none, or write a whole document         no-document
                     seen at /visit/

            1 error, 1 warning in what you named.
            What it means:   hausblatt check --about unreadable
        "#]],
    );
    said(
        |site| site.write("themes/near/hausblatt-theme.toml", b"[theme]\nversion = \"\xff\"\n".as_slice()),
        &["check"],
        expect![[r#"
            exit 2
            ---
            error    this file is not UTF-8: line 2 holds other bytes
                     themes/near/hausblatt-theme.toml
                     → save it as UTF-8                                           unreadable

        "#]],
    );
}

#[test]
fn broken_style_sheets() {
    said(
        |site| {
            site.write(
                "themes/near/assets/beds.css",
                "@import \"pths.css\";\n.bed { color: var(--soil)\n  margin: 0 }\n.path { background: url(/media/path.svg) }\n",
            );
            site.write("themes/near/assets/paths.css", ".path { top: 0 };\n.edge { top: 0 }\n");
            site.write("themes/far/assets/old.css", b".a { content: \"\xff\" }".as_slice());
        },
        &["check", "themes/near/assets/beds.css", "themes/near/assets/paths.css", "themes/far/assets/old.css"],
        expect![[r#"
            exit 0
            warning  this style sheet can't be read: it is not UTF-8
                     themes/far/assets/old.css
                     → save it as UTF-8; its permissions must let it be read      bad-styles

            warning  there is no file "pths.css"
                     themes/near/assets/beds.css:1:9
                 1 | @import "pths.css";
                             ‾‾‾‾‾‾‾‾‾‾
                     → did you mean /assets/paths.css? Addresses are relative to this
                       file's, /assets/beds.css                                 missing-file

            warning  nothing sets --soil
                     themes/near/assets/beds.css:2:19
                 2 | .bed { color: var(--soil)
                                       ‾‾‾‾‾‾
                     → set it, as in :root { --soil: …; }, or give a value to take instead
                                                                              unset-property

            warning  no ; ends the declaration of color, so browsers leave out margin too
                     themes/near/assets/beds.css:3:3
                 3 |   margin: 0 }
                       ‾‾‾‾‾‾
                     → write one in front of the next property                    bad-styles

            warning  there is no file "/media/path.svg"
                     themes/near/assets/beds.css:4:21
                 4 | .path { background: url(/media/path.svg) }
                                         ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                     → put it there, or name a file of media/ or of a theme's assets/
                                                                                missing-file

            warning  browsers leave out the rule after this ;, since none is between rules
                     themes/near/assets/paths.css:1:17
                 1 | .path { top: 0 };
                                     ‾
                     → take it out                                                bad-styles

            6 warnings in what you named.
            What it means:   hausblatt check --about bad-styles
        "#]],
    );
}

#[test]
fn broken_content() {
    said(
        |site| {
            site.write("content/pages/visit.md", "---\ntitle: [a\n---\nx");
            site.write("content/journal/2026-06-01-beans.md", "---\ntitel: Beans\ndate: soon\n---\n");
            site.write("content/journal/Frost_Two.md", "x");
            site.write("content/pages/bytes.md", b"---\ntitle: a\n---\nab\xffc".as_slice());
        },
        &["build"],
        expect![[r#"
            exit 1
            Built with errors: 10 of 13 pages into ./built (2 kB, TIME s): 10 files written, 0 unchanged, 0 removed.
            ---
            warning  the field "titel" is not declared
                     content/journal/2026-06-01-beans.md:2:1
                 2 | titel: Beans
                     ‾‾‾‾‾
                     → did you mean "title"?                                undeclared-field

            error    "soon" is not a valid date; write it as in 2026-03-14
                     content/journal/2026-06-01-beans.md:3:7
                 3 | date: soon
                           ‾‾‾‾
                                                                                  wrong-type

            error    this file's name is not an id
                     content/journal/Frost_Two.md
                     → a content file's name is lower-case letters and digits with single
                       hyphens between them, as in scarlet-runner.md                bad-name

            error    this file is not UTF-8: line 4 holds other bytes
                     content/pages/bytes.md
                     → save it as UTF-8                                           unreadable

            error    while parsing a flow sequence, expected ',' or ']'
                     content/pages/visit.md:3:1
                 3 | ---
                     ‾
                     → put a text with special characters in quotes, and indent with spaces
                                                                                front-matter

            not built: /bytes/ has errors; what an earlier build put there stays
            not built: /journal/beans/ has errors; what an earlier build put there stays
            not built: /visit/ has errors; what an earlier build put there stays
        "#]],
    );
}

#[test]
fn two_things_at_one_address() {
    said(
        |site| site.write("content/pages/other.md", "---\nslug: visit\n---\n"),
        &["map", "--kind", "front"],
        expect![[r#"
            exit 1
            /  200  front  page.html  far
            ---
            error    two things have the address /visit/
                     content/pages/visit.md
                     content/pages/other.md:2:7
                 2 | slug: visit
                           ‾‾‾‾‾ this is the other one
                     → give one of them another slug or address                 same-address

        "#]],
    );
    said(
        |site| site.write("content/journal/2025-01-01-frost.md", ""),
        &["map", "--kind", "front"],
        expect![[r#"
            exit 1
            /  200  front  page.html  far
            ---
            error    two files have the id "frost"
                     content/journal/2026-03-14-frost.md
                     content/journal/2025-01-01-frost.md: this is the other one
                     → rename one of them                                            same-id

        "#]],
    );
}

#[test]
fn problems_in_templates_come_together_and_good_pages_are_written() {
    let site = Site::small();
    assert_eq!(site.run(&["build"]).code, 0);
    let earlier = site.read("built/visit/index.html");
    site.write(
        "themes/far/templates/page.html",
        "<h1>+{content.titel}</h1>\n+{partial \"crad\"}\n+{if true}\n  +{partial \"card\" given size = 1\n<p class=+{site.title}>\n",
    );
    site.write("themes/far/partials/card.html", "x");
    site.write("content/journal/2026-03-14-frost.md", "---\ntitle: New\n---\n");
    let said = site.run(&["build"]);
    expect![[r#"
        exit 1
        Built with errors: 9 of 12 pages into ./built (2 kB, TIME s): 2 files written, 7 unchanged, 0 removed.
        ---
        warning  no page has or declares a field "titel"
                 themes/far/templates/page.html:1:15
             1 | <h1>+{content.titel}</h1>
                               ‾‾‾‾‾
                 → did you mean "title"?                                   unknown-field

        error    unknown partial "crad"
                 themes/far/templates/page.html:2:11
             2 | +{partial "crad"}
                           ‾‾‾‾‾‾
                 → did you mean "card"?                                  unknown-partial

        error    this "if" is never ended
                 themes/far/templates/page.html:3:1
             3 | +{if true}
                 ‾‾‾‾‾‾‾‾‾‾
                 → write +{end} or +{end if} where it ends                unclosed-block

        error    this tag is never ended
                 themes/far/templates/page.html:4:3
             4 |   +{partial "card" given size = 1
                   ‾‾
                 → write "}" where it ends; to print the two characters themselves,
                   write "++{"                                              unclosed-tag

        error    no value is safe in the value of "class" without quotes
                 themes/far/templates/page.html:5:10
             5 | <p class=+{site.title}>
                          ‾‾‾‾‾‾‾‾‾‾‾‾‾
                 → put quotes around the attribute's value                  unsafe-place

        not built: / has errors; what an earlier build put there stays
        not built: /visit/ has errors; what an earlier build put there stays
        not built: /visit/opening/ has errors; what an earlier build put there stays
    "#]]
    .assert_eq(&without_time(&said.whole()));
    assert_eq!(site.read("built/visit/index.html"), earlier);
    assert_eq!(site.read("built/journal/frost/index.html"), "[fallback New]");
    assert!(
        !site.tree("built").iter().any(|(path, _)| path.contains(".hausblatt-") && !path.ends_with(".hausblatt-lock"))
    );
}

#[test]
fn a_partial_that_calls_itself() {
    said(
        |site| {
            site.write("themes/far/templates/page.html", "+{partial \"card\"}");
            site.write("themes/far/partials/card.html", "<b>\n+{partial \"card\"}</b>");
        },
        &["render", "/visit/"],
        expect![[r#"
            exit 1
            [fallback Internal error]
            ---
            error    calls nest more than 64 deep here
                     themes/far/partials/card.html:2:11
                 2 | +{partial "card"}</b>
                               ‾‾‾‾‾‾
                     → a file that calls itself needs an "if" that ends it          too-deep

        "#]],
    );
}

#[test]
fn a_lookup_counts_only_the_files_that_its_answer_uses() {
    let site = Site::small();
    site.write("themes/far/templates/entry.html", "+{nonsense}");
    assert_eq!(site.run(&["resolve", "/visit/"]).code, 0);
    let said = site.run(&["resolve", "/journal/frost/"]);
    assert_eq!(said.code, 1);
    assert!(said.err.contains("unknown name \"nonsense\""), "{}", said.whole());
    site.write("themes/near/templates/entry.html", "fine");
    assert_eq!(site.run(&["resolve", "/journal/frost/"]).code, 0, "a covered file's problem is a warning");
}

#[test]
fn layouts_that_stand_nowhere_and_documents_in_layouts() {
    said(
        |site| {
            site.write("themes/far/templates/page.html", "---\nlayout: documnet\n---\nx");
            site.write(
                "themes/far/templates/page/visit.html",
                "<!doctype html>\n<html lang=\"en\"><body>x</body></html>",
            );
        },
        &["build", "-q"],
        expect![[r#"
            exit 1
            ---
            error    no theme of the lineage has the layout "documnet"
                     themes/far/templates/page.html:2:9
                 2 | layout: documnet
                             ‾‾‾‾‾‾‾‾
                     → did you mean "document"?                               unknown-layout

            error    this is a whole document, and a layout would put another one around it
                     themes/far/templates/page/visit.html:2:1
                 2 | <html lang="en"><body>x</body></html>
                     ‾‾‾‾‾
                     → say layout: none in the front matter, or leave out all but what is in
                       <main>                                             document-in-layout

            not built: / has errors; what an earlier build put there stays
            not built: /visit/ has errors; what an earlier build put there stays
            not built: /visit/opening/ has errors; what an earlier build put there stays
        "#]],
    );
    let site = Site::small();
    site.write("themes/far/templates/page.html", "---\nlayout: none\n---\n<!doctype html><html>x</html>");
    assert_eq!(site.run(&["render", "/visit/"]).out, "<!doctype html><html>x</html>\n");
}

#[test]
fn theme_headers() {
    said(
        |site| {
            site.write("themes/far/templates/page.html", "---\nlable: x\nfor: pages\ntakes: { size: , if: 1 }\n---\nx");
        },
        &["render", "/visit/"],
        expect![[r#"
            exit 1
            [fallback Internal error]
            ---
            error    unknown key "lable" in the front matter
                     themes/far/templates/page.html:2:1
                 2 | lable: x
                     ‾‾‾‾‾
                     → did you mean "label"?                                     unknown-key

            warning  editors are not offered this: it is in templates/
                     themes/far/templates/page.html:3:1
                 3 | for: pages
                     ‾‾‾
                     → move it to templates/offered/page.html                    not-offered

            error    this is nothing that a template can be for
                     themes/far/templates/page.html:3:6
                 3 | for: pages
                          ‾‾‾‾‾
                     → did you mean "page"?                                      wrong-value

            error    nothing can give a template its parameter "size"
                     themes/far/templates/page.html:4:10
                 4 | takes: { size: , if: 1 }
                              ‾‾‾‾
                     → write a default after it, or nothing               required-parameter

            error    "if" can't name a parameter
                     themes/far/templates/page.html:4:18
                 4 | takes: { size: , if: 1 }
                                      ‾‾
                     → use letters, digits and underscores, and no word of the language
                                                                                    bad-name

        "#]],
    );
}

#[test]
fn errors_answer_with_their_status() {
    let site = Site::small();
    site.write("themes/far/templates/entry.html", "lost text +{answer 410 \"No such frost\"}");
    site.write(
        "themes/far/templates/error/4xx.html",
        "+{error.status} +{error.title} +{error.path} +{each link in error.nearest}+{link.address} +{end}",
    );
    let said = site.run(&["render", "/journal/frost/"]);
    assert_eq!((said.code, said.out.as_str()), (1, "[410 No such frost /journal/frost/ /journal/ ]\n"));
    let said = site.run(&["render", "/jurnal/frost/"]);
    assert_eq!((said.code, said.out.as_str()), (1, "[404 Page not found /jurnal/frost/ /journal/frost/ ]\n"));
    let said = site.run(&["build"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    assert!(said.err.contains("/journal/frost/ answers with 410, so no file is written"), "{}", said.err);
    assert!(!site.path("built/journal/frost/index.html").exists());
    assert_eq!(site.read("built/404.html"), "[404 Page not found  ]");
}

#[test]
fn a_problem_in_an_error_template_gets_a_plain_page() {
    let site = Site::small();
    site.write("themes/far/templates/error.html", "+{1 / 0}");
    let said = site.run(&["render", "/nowhere/"]);
    assert_eq!(said.code, 1);
    assert!(
        said.out.contains("<h1>Page not found</h1>") && said.err.contains("this divides by zero"),
        "{}",
        said.whole()
    );
}

#[test]
fn usage() {
    let site = Site::small();
    for arguments in [
        &["resolve"][..],
        &["map", "--kind", "pages"],
        &["build", "--jobs", "0"],
        &["map", "--as-of", "soon"],
        &["nonsense"],
        &["resolve", "/", "--format", "csv"],
    ] {
        let said = site.run(arguments);
        assert_eq!(said.code, 2, "{}", said.whole());
        assert!(said.out.is_empty() && !said.err.is_empty());
    }
    assert_eq!(site.run(&["--strict", "build"]).code, 0);
    site.write("content/pages/visit.md", "---\nundeclared: 1\n---\n");
    assert_eq!(site.run(&["build"]).code, 0);
    assert_eq!(site.run(&["--strict", "build"]).code, 1);
}

#[test]
fn what_a_site_lacks_is_nothing_and_a_warning() {
    said(
        |site| {
            site.write(
                "themes/near/templates/page.html",
                "+{each item in menus.mian}x+{none}none+{end}\n+{url(\"page:\" + request.status)}\n",
            )
        },
        &["render", "/visit/"],
        expect![[r#"
            exit 0
            [none
            ]
            ---
            warning  the site has no menu "mian"
                     themes/near/templates/page.html:1:22
                 1 | +{each item in menus.mian}x+{none}none+{end}
                                          ‾‾‾‾
                     → did you mean "main"?                                  missing-on-site

            warning  broken reference "page:200"
                     themes/near/templates/page.html:2:3
                 2 | +{url("page:" + request.status)}
                       ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                                                                              dead-reference

        "#]],
    );
}

#[test]
fn a_page_that_is_too_large_costs_no_other_page_anything() {
    let site = Site::small();
    let doubling = "+{let s = s + s}".repeat(40);
    site.write("themes/near/templates/page/visit.html", format!("+{{let s = \"xxxxxxxx\"}}{doubling}+{{s}}"));
    site.write("themes/near/templates/error.html", "sorry: +{error.title}, +{journal.count} entries\n");
    let said = site.run(&["render", "/visit/"]);
    assert_eq!((said.code, said.out.as_str()), (1, "[sorry: Internal error, 3 entries]\n"), "{}", said.err);
    let said = site.run(&["build", "--jobs", "1"]);
    assert_eq!(said.err.matches(" too-large\n").count(), 1, "{}", said.err);
    assert!(said.err.contains("not built: /visit/ has errors"), "{}", said.err);
    assert!(site.read("built/visit/opening/index.html").contains("page Opening"));
}
