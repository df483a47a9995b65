//! `needs` and `check --alone` as users meet them.

use crate::support::{Site, check};
use expect_test::expect;

#[test]
fn what_is_read_is_listed_and_written() {
    let site = Site::small();
    site.write(
        "hausblatt.toml",
        site.read("hausblatt.toml").replace("theme = \"near\"", "theme = \"near\"\nsince = 1987"),
    );
    site.write(
        "themes/far/templates/entry.html",
        "<p>+{content.title}, since +{site.since}, <a href=\"/visit/\">visit</a></p>\n",
    );
    site.write("themes/near/templates/front.html", "+{each entry in journal}<p>+{entry.title}</p>+{end}\n");
    check(
        &site,
        &["needs"],
        expect![[r#"
            exit 0
            near over far fails without:
              collections.journal
                  themes/near/templates/front.html:1:17
              site.since
                  themes/far/templates/entry.html:1:30
              content.pages/visit
                  themes/far/templates/entry.html:1:52

            To write it into the manifest:  hausblatt needs --write
        "#]],
    );
    check(
        &site,
        &["needs", "-v", "--theme", "far"],
        expect![[r#"
            exit 0
            far fails without:
              site.since
                  themes/far/templates/entry.html:1:30
              content.pages/visit
                  themes/far/templates/entry.html:1:52

            To write it into the manifest:  hausblatt needs --write --theme far
        "#]],
    );
    check(
        &site,
        &["needs", "--format", "json", "--theme", "far"],
        expect![[r#"
        exit 0
        [
          {
            "need": "site.since",
            "name": "site.since",
            "type": null,
            "required": true,
            "why": "the site has no \"since\"",
            "places": [
              "themes/far/templates/entry.html:1:30"
            ]
          },
          {
            "need": "content.pages/visit",
            "name": "the page visit",
            "type": null,
            "required": true,
            "why": "the page visit is written out",
            "places": [
              "themes/far/templates/entry.html:1:52"
            ]
          }
        ]
    "#]],
    );
    check(
        &site,
        &["needs", "--write"],
        expect![[r#"
        exit 0
        Wrote themes/near/hausblatt-theme.toml: [needs]

        What far reads is in it, since its own manifest does not say it.
        To write that there first:  hausblatt needs --write --theme far

        Next:  hausblatt check --alone
    "#]],
    );
    expect![[r#"
        [theme]
        parent = "far"

        [needs]
        site = ["since"]
        content = ["pages/visit"]

        [needs.collections.journal]
        address = "/journal/{slug}/"
        listing = "/journal/"
        order = "date desc"
    "#]]
    .assert_eq(&site.read("themes/near/hausblatt-theme.toml"));
    check(
        &site,
        &["needs", "--write"],
        expect![[r#"
        exit 0
        ✓ themes/near/hausblatt-theme.toml says all that is needed.

        Next:  hausblatt check --alone
    "#]],
    );
    check(
        &site,
        &["needs", "--missing"],
        expect![[r#"
        exit 0
        ✓ The site has all that near says it needs.
    "#]],
    );
    assert!(site.run(&["undo"]).out.contains("themes/near/hausblatt-theme.toml  as before"));
    assert_eq!(site.read("themes/near/hausblatt-theme.toml"), "[theme]\nparent = \"far\"\n");
    site.remove("themes/near/templates/front.html");
    site.remove("themes/far/templates/entry.html");
    check(
        &site,
        &["needs"],
        expect![[r#"
        exit 0
        near over far reads nothing from the site by name.
    "#]],
    );
}

#[test]
fn a_made_up_site_is_written_into_an_empty_folder_only() {
    let site = Site::demo();
    let folder = Site::empty();
    let other = folder.path("alone");
    let said = site.run(&["needs", "--site-for", other.to_str().unwrap(), "-q"]);
    assert_eq!((said.code, said.whole().as_str()), (0, "exit 0\n"));
    let checked = folder.run(&["check", "--strict", "--site", "alone"]);
    assert_eq!(checked.code, 0, "{}", checked.whole());
    let map = folder.run(&["map", "--site", "alone", "--kind", "entry"]).out;
    assert!(map.contains("/varieties/first/"), "{map}");
    let said = site.run(&["needs", "--site-for", other.to_str().unwrap()]);
    assert!(said.code == 1 && said.whole().contains("choose an empty folder"), "{}", said.whole());
    check(
        &site,
        &["needs", "--site-for", "inside"],
        expect![[r#"
            exit 1
            ---
            error: inside would be inside another site
            help: choose a folder outside of that one
        "#]],
    );
    assert!(!site.path("inside").exists());
}

#[test]
fn themes_are_checked_without_their_site() {
    let site = Site::small();
    site.write("themes/near/templates/front.html", "+{each entry in journal}<p>+{entry.title}</p>+{end}\n");
    check(
        &site,
        &["check", "--alone"],
        expect![[r#"
            exit 1
            warning  what is not found is answered by themes/far/templates/fallback.html
                     themes/near/hausblatt-theme.toml
                     → write templates/error/404.html; create it with: hausblatt start
                       template error/404                                      no-error-page

            warning  this page is not a document, and there is no layout around it
                     themes/far/layouts/document.html:1:1
                 1 | [+{slot}]
                     ‾
                     → leave out layout: none, or write a whole document         no-document

            error    unknown name "journal"
                     themes/near/templates/front.html:1:17
                 1 | +{each entry in journal}<p>+{entry.title}</p>+{end}
                                     ‾‾‾‾‾‾‾
                     → name it with "let", take it as a parameter, or write
                       collections.journal if a site may lack that collection   unknown-name

            3 problems of near in an empty site.
            ✓ near has no other problems in a made-up site that has all it needs.

            Its manifest does not say what it needs from a site:  hausblatt needs --write
        "#]],
    );
    site.run(&["needs", "--write"]);
    check(
        &site,
        &["check", "--alone"],
        expect![[r#"
            exit 0
            warning  what is not found is answered by themes/far/templates/fallback.html
                     themes/near/hausblatt-theme.toml
                     → write templates/error/404.html; create it with: hausblatt start
                       template error/404                                      no-error-page

            warning  this page is not a document, and there is no layout around it
                     themes/far/layouts/document.html:1:1
                 1 | [+{slot}]
                     ‾
                     → leave out layout: none, or write a whole document         no-document

            2 problems of near in an empty site.
            ✓ near has no other problems in a made-up site that has all it needs.
        "#]],
    );
    let json = site.json(&["check", "--alone"]);
    assert!(json.as_array().is_some_and(|all| all.iter().all(|one| one["severity"] == "warning")), "{json}");
    assert_eq!(site.run(&["check", "--alone", "/"]).code, 2);
}

#[test]
fn what_a_file_with_an_error_reads_is_not_known() {
    let site = Site::small();
    site.write("themes/near/templates/front.html", "+{if content}\n");
    check(
        &site,
        &["needs"],
        expect![[r#"
        exit 1
        ---
        note: themes/near/templates/front.html has an error, so not all that is read is known: hausblatt check
    "#]],
    );
    check(
        &site,
        &["needs", "--write"],
        expect![[r#"
        exit 1
        ---
        error: themes/near/templates/front.html has an error, so what it reads is not known
        help: fix it first: hausblatt check
    "#]],
    );
    let said = site.run(&["rehearse", "-q", "themes/near/templates/front.html"]).whole();
    assert!(said.contains("themes/near/templates/front.html has an error at home"), "{said}");
}
