//! `rehearse` as users meet it.

use crate::support::Site;
use expect_test::{Expect, expect};

/// Runs the command on a site whose pages say who keeps them.
#[track_caller]
fn said(arguments: &[&str], expected: Expect) {
    let whole = site().run(&[&["rehearse"], arguments].concat()).whole();
    expected.assert_eq(&whole);
}

fn site() -> Site {
    let site = Site::empty();
    site.write("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"visit\"\n");
    site.write("content/pages/visit.md", "---\nsummary: Come in\n---\nWe are open.\n");
    site.write("content/pages/about.md", "---\nsummary: Who we are\nauthors: [Ida]\n---\nThree gardeners.\n");
    site.write("themes/t/hausblatt-theme.toml", "");
    site.write(
        "themes/t/layouts/document.html",
        "<!doctype html>\n<html lang=\"en\">\n<head><meta charset=\"utf-8\"><title>+{request.title}</title></head>\n<body><main>+{slot}</main></body>\n</html>\n",
    );
    site.write(
        "themes/t/templates/page.html",
        "<h1>+{content.title}</h1>\n+{if content.authors}<p>By +{content.authors.first}</p>+{end}\n<h2>+{content.summary}</h2>\n",
    );
    site.write(
        "themes/t/templates/front.html",
        "<h1>+{content.title}</h1>\n<p>Found at +{content.image.address}</p>\n",
    );
    site.write("themes/t/templates/fallback.html", "<h1>+{request.title}</h1>\n<p>1</p>\n");
    site
}

#[test]
fn weaknesses_are_told_with_the_variation_that_shows_them() {
    said(
        &[],
        expect![[r#"
        exit 1
        warning  "Found at" is printed without its value
                 themes/t/templates/front.html:2:13
             2 | <p>Found at +{content.image.address}</p>
                             ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                 → print both only where there is a value: +{if …} around them
                                                                              bare-label
                 shown by the site as it is, at /

        warning  this heading has no text
                 themes/t/templates/page.html:3:1
             3 | <h2>+{content.summary}</h2>
                 ‾‾‾‾
                 → write its text, or say in aria-label what it is; print it only where
                   there is a text                                               no-text
                 shown by a page with a blank summary, at /about/

        2 weaknesses found with 74 variations on 75 pages.
        To see the first:  hausblatt rehearse --show 'the site as it is' /
        What it means:     hausblatt check --about bare-label
    "#]],
    );
    said(
        &["/about/", "-v"],
        expect![[r#"
        exit 1
        warning  this heading has no text
                 themes/t/templates/page.html:3:1
             3 | <h2>+{content.summary}</h2>
                 ‾‾‾‾
                 → write its text, or say in aria-label what it is; print it only where
                   there is a text                                               no-text
                 shown by a page with a blank summary, at /about/

        1 weakness found with 37 variations on 37 pages.
        To see the first:  hausblatt rehearse --show 'a page with a blank summary' /about/
        What it means:     hausblatt check --about no-text
    "#]],
    );
    said(
        &["themes/t/templates/fallback.html"],
        expect![[r#"
        exit 0
        ✓ No weaknesses found with 2 variations on 2 pages.
    "#]],
    );
    said(
        &["-q", "front"],
        expect![[r#"
        exit 1
        warning  "Found at" is printed without its value
                 themes/t/templates/front.html:2:13
             2 | <p>Found at +{content.image.address}</p>
                             ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                 → print both only where there is a value: +{if …} around them
                                                                              bare-label
                 shown by the site as it is, at /

    "#]],
    );
}

#[test]
fn weaknesses_as_data() {
    said(
        &["--format", "json", "/about/"],
        expect![[r#"
        exit 1
        [
          {
            "code": "no-text",
            "severity": "warning",
            "message": "this heading has no text",
            "help": "write its text, or say in aria-label what it is; print it only where there is a text",
            "path": "themes/t/templates/page.html",
            "line": 3,
            "column": 1,
            "end_line": 3,
            "end_column": 5,
            "addresses": [
              "/about/"
            ],
            "variation": "a page with a blank summary",
            "variations": [
              "a page with a blank summary"
            ]
          }
        ]
    "#]],
    );
    let log = site().run(&["rehearse", "/about/", "--format", "sarif"]).out;
    for part in ["\"ruleId\": \"no-text\"", "this heading has no text (shown by a page with a blank summary)"] {
        assert!(log.contains(part), "{log}");
    }
}

#[test]
fn variations_are_listed_and_shown() {
    let listed = site().run(&["rehearse", "/about/", "--list"]).out;
    assert!(listed.starts_with("a page without summary\n"), "{listed}");
    said(
        &["--show", "a page with a blank summary", "/about/"],
        expect![[r#"
        exit 0
        <!doctype html>
        <html lang="en">
        <head><meta charset="utf-8"><title>About</title></head>
        <body><main><h1>About</h1>
        <p>By Ida</p>
        <h2></h2></main></body>
        </html>
    "#]],
    );
    said(
        &["--show", "a page with a blank sumary"],
        expect![[r#"
        exit 2
        ---
        error: there is no variation "a page with a blank sumary"
        help: did you mean "a page with a blank summary"?
    "#]],
    );
    said(
        &["--show", "the site as it is", "/about/"],
        expect![[r#"
        exit 0
        <!doctype html>
        <html lang="en">
        <head><meta charset="utf-8"><title>About</title></head>
        <body><main><h1>About</h1>
        <p>By Ida</p>
        <h2>Who we are</h2></main></body>
        </html>
    "#]],
    );
}

#[test]
fn what_is_named_has_to_be_there() {
    said(
        &["themes/t/templates/pge.html"],
        expect![[r#"
        exit 1
        ---
        error: there is no file themes/t/templates/pge.html
        help: did you mean "themes/t/templates/page.html"?
    "#]],
    );
    said(
        &["/about"],
        expect![[r#"
        exit 2
        ---
        error: /about only leads to /about/
        help: name it: hausblatt rehearse /about/
    "#]],
    );
    said(
        &["content/pages/abot.md"],
        expect![[r#"
        exit 1
        ---
        error: there is no content file content/pages/abot.md
        help: did you mean "content/pages/about.md"?
    "#]],
    );
}

#[test]
fn nothing_is_written() {
    let site = site();
    let before = site.tree(".");
    site.run(&["rehearse"]);
    assert_eq!(site.tree("."), before);
}
