//! `undo` and `rename`: what is written, taken back, and said of both.

use std::fs;

use expect_test::{Expect, expect};
use serde_json::json;

use crate::support::{Site, check};

/// The same with `MOMENT` where a date and a time are.
fn timeless(text: &str) -> String {
    let is_moment = |word: &[char]| {
        let pattern = "dddd-dd-dd dd:dd".chars();
        word.len() == 16 && word.iter().zip(pattern).all(|(c, p)| if p == 'd' { c.is_ascii_digit() } else { *c == p })
    };
    let all: Vec<char> = text.chars().collect();
    let (mut out, mut at) = (String::new(), 0);
    while at < all.len() {
        if all.get(at..at + 16).is_some_and(is_moment) {
            out.push_str("MOMENT");
            at += 16;
        } else {
            out.push(all[at]);
            at += 1;
        }
    }
    out
}

fn says(site: &Site, arguments: &[&str], expected: Expect) {
    expected.assert_eq(&timeless(&site.run(arguments).whole()));
}

#[test]
fn changes_are_taken_back_one_after_the_other() {
    let site = Site::demo();
    let before = site.tree(".");
    says(
        &site,
        &["undo"],
        expect![[r#"
            exit 1
            ---
            error: there is nothing to take back
            help: it takes back what commands write that change a site: override, choose, set, start, rename, extract, extend, move, neaten, drift, check --fix, missed --fix, expect --record
        "#]],
    );
    says(
        &site,
        &["undo", "--list"],
        expect![[r#"
        exit 0
        No change is kept that could be taken back.
    "#]],
    );
    assert_eq!(site.run(&["override", "/visit/"]).code, 0);
    assert_eq!(site.run(&["choose", "no-aside", "/borrow/", "/visit/"]).code, 0);
    assert_eq!(site.run(&["start", "page", "visit/gate house"]).code, 1);
    assert_eq!(site.run(&["start", "page", "visit/gate", "--title", "The gate's house"]).code, 0);
    says(
        &site,
        &["undo", "--list"],
        expect![[r#"
            exit 0
               3  MOMENT  hausblatt start page visit/gate --title 'The gate'\''s house' --as-of 2026-11-23
                  added content/pages/visit/gate.md
               2  MOMENT  hausblatt choose no-aside /borrow/ /visit/ --as-of 2026-11-23
                  changed content/pages/borrow.md
                  changed content/pages/visit.md
               1  MOMENT  hausblatt override /visit/ --as-of 2026-11-23
                  added themes/harbour/.originals/templates/page/visit.html
                  added themes/harbour/templates/page/visit.html

            To take the last one back:  hausblatt undo
            To take another one back:   hausblatt undo 2
        "#]],
    );
    says(
        &site,
        &["undo", "--dry-run"],
        expect![[r#"
            exit 0
            Would take back hausblatt start page visit/gate --title 'The gate'\''s house' --as-of 2026-11-23
            of MOMENT

              content/pages/visit/gate.md  removed

              /visit/gate/
                  goes: page/visit/all_below.html (hedgerow)

            Next:  hausblatt undo 3
        "#]],
    );
    says(
        &site,
        &["undo"],
        expect![[r#"
        exit 0
        Took back hausblatt start page visit/gate --title 'The gate'\''s house' --as-of 2026-11-23
        of MOMENT

          content/pages/visit/gate.md  removed

          /visit/gate/
              goes: page/visit/all_below.html (hedgerow)

        Next:  hausblatt undo --list
    "#]],
    );
    says(
        &site,
        &["undo"],
        expect![[r#"
        exit 0
        Took back hausblatt choose no-aside /borrow/ /visit/ --as-of 2026-11-23
        of MOMENT

          content/pages/visit.md   as before
          content/pages/borrow.md  as before

          /borrow/
              offered/no-aside.html (hedgerow) → page.html (loam)
          /visit/
              offered/no-aside.html (hedgerow) → page/visit.html (harbour)

        Next:  hausblatt undo --list
    "#]],
    );
    assert_eq!(site.run(&["undo", "-q"]).whole(), "exit 0\n");
    let journal = |path: &str| path.contains(".hausblatt-undo");
    let after: Vec<_> = site.tree(".").into_iter().filter(|(path, _)| !journal(path)).collect();
    assert_eq!(after, before);
}

#[test]
fn what_was_edited_since_stays() {
    let site = Site::demo();
    assert_eq!(site.run(&["choose", "no-aside", "/borrow/"]).code, 0);
    let edited = site.read("content/pages/borrow.md") + "More.\n";
    site.write("content/pages/borrow.md", &edited);
    says(
        &site,
        &["undo"],
        expect![[r#"
        exit 1
        ---
        error: content/pages/borrow.md changed since "hausblatt choose no-aside /borrow/ --as-of 2026-11-23"; nothing was taken back
        help: what they held before is in .hausblatt-undo/000001.json
    "#]],
    );
    assert_eq!(site.read("content/pages/borrow.md"), edited);
    site.remove("content/pages/borrow.md");
    assert_eq!(site.run(&["undo"]).code, 1);
}

#[test]
fn the_answers_as_json() {
    let site = Site::demo();
    assert_eq!(site.run(&["choose", "no-aside", "/borrow/"]).code, 0);
    let list = site.json(&["undo", "--list"]);
    assert_eq!(list[0]["files"], json!([{ "path": "content/pages/borrow.md", "did": "changed" }]));
    assert_eq!(list[0]["state"], "made");
    assert!(list[0]["made"].as_str().unwrap().ends_with('Z'));
    let undone = site.json(&["undo"]);
    assert_eq!(undone["written"], true);
    assert_eq!(undone["change"]["number"], 1);
    assert_eq!(undone["changed"][0]["address"], "/borrow/");
    assert_eq!(site.json(&["undo", "--list"]), json!([]));
    let renamed = site.json(&["rename", "pager", "page-links", "--theme", "loam", "--dry-run"]);
    expect![[r#"
        {
          "what": "partial",
          "from": "pager",
          "to": "page-links",
          "written": false,
          "moved": [
            {
              "from": "themes/loam/partials/pager.html",
              "to": "themes/loam/partials/page-links.html"
            }
          ],
          "edited": [
            {
              "path": "themes/harbour/templates/listing/journal.html",
              "places": 1
            },
            {
              "path": "themes/hedgerow/templates/period.html",
              "places": 1
            },
            {
              "path": "themes/hedgerow/templates/search.html",
              "places": 1
            },
            {
              "path": "themes/loam/partials/entries.html",
              "places": 1
            }
          ],
          "uncertain": [],
          "ended": null,
          "addresses": [],
          "by_trial": [],
          "rendered": 136,
          "concerned": 136,
          "shows_name": [],
          "differ": [],
          "changed": []
        }
    "#]]
    .assert_eq(&(serde_json::to_string_pretty(&renamed).unwrap() + "\n"));
}

/// As a command leaves it that was ended: no process has the highest number that there is.
#[test]
fn what_was_interrupted_is_named_and_then_taken_back() {
    let site = Site::demo();
    assert_eq!(site.run(&["override", "/visit/"]).code, 0);
    let own = "themes/harbour/templates/page/visit.html";
    fs::rename(site.path(".hausblatt-undo/000001.json"), site.path(".hausblatt-undo/000001.running-4194303")).unwrap();
    site.remove(own);
    says(
        &site,
        &["resolve", "/journal/", "-q"],
        expect![[r#"
        exit 0
        /journal/  →  200
        listing of journal

           rung                  harbour   hedgerow    loam
        1  listing/journal.html     ■         ·         ·
        2  listing.html             ·         ·         □
        3  fallback.html            ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/harbour/templates/listing/journal.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      footer (loam), header (harbour), menu (loam), pager (loam),
                  prepare all (hedgerow)

        To change this listing only:  edit themes/harbour/templates/listing/journal.html
        ---
        note: "hausblatt override /visit/ --as-of 2026-11-23" was interrupted, and may be half done: themes/harbour/.originals/templates/page/visit.html, themes/harbour/templates/page/visit.html; "hausblatt undo" takes it back
    "#]],
    );
    says(
        &site,
        &["undo", "--list"],
        expect![[r#"
            exit 0
               1  MOMENT  hausblatt override /visit/ --as-of 2026-11-23  interrupted
                  added themes/harbour/.originals/templates/page/visit.html
                  added themes/harbour/templates/page/visit.html

            To take the last one back:  hausblatt undo
            ---
            note: "hausblatt override /visit/ --as-of 2026-11-23" was interrupted, and may be half done: themes/harbour/.originals/templates/page/visit.html, themes/harbour/templates/page/visit.html; "hausblatt undo" takes it back
        "#]],
    );
    let would = site.run(&["undo", "--dry-run"]).out;
    assert!(would.starts_with("Would take back hausblatt override /visit/"), "{would}");
    assert!(site.path("themes/harbour/.originals").exists());
    says(
        &site,
        &["choose", "no-aside", "/borrow/"],
        expect![[r#"
        exit 0
        Wrote content/pages/borrow.md  template: no-aside

          /borrow/
              page.html (loam) → offered/no-aside.html (hedgerow)

        Why:  hausblatt resolve /borrow/
        ---
        note: "hausblatt override /visit/ --as-of 2026-11-23" was interrupted, and is taken back
    "#]],
    );
    assert!(!site.path("themes/harbour/.originals").exists());
    // One that was interrupted when all was written is a change like others.
    fs::rename(site.path(".hausblatt-undo/000001.json"), site.path(".hausblatt-undo/000001.running-4194303")).unwrap();
    says(
        &site,
        &["undo"],
        expect![[r#"
        exit 0
        Took back hausblatt choose no-aside /borrow/ --as-of 2026-11-23
        of MOMENT

          content/pages/borrow.md  as before

          /borrow/
              offered/no-aside.html (hedgerow) → page.html (loam)

        Next:  hausblatt undo --list
        ---
        note: "hausblatt choose no-aside /borrow/ --as-of 2026-11-23" was interrupted when it was done
    "#]],
    );
    assert!(!site.read("content/pages/borrow.md").contains("no-aside"));
}

#[test]
fn the_journal_is_its_owner_s_alone() {
    use std::os::unix::fs::PermissionsExt as _;
    let site = Site::demo();
    assert_eq!(site.run(&["choose", "no-aside", "/borrow/"]).code, 0);
    let mode = fs::metadata(site.path(".hausblatt-undo/000001.json")).unwrap().permissions().mode();
    assert_eq!(mode & 0o777, 0o600);
    // It is nothing that is published or read.
    assert_eq!(site.run(&["build", "-q"]).code, 0);
    assert!(!site.path("built/.hausblatt-undo").exists());
}

#[test]
fn a_file_is_renamed_with_what_names_it() {
    let site = Site::demo();
    let before = site.tree("themes");
    check(
        &site,
        &["rename", "pager", "page-links"],
        expect![[r#"
        exit 1
        ---
        error: the partial pager is from the theme loam
        help: rename it there: hausblatt rename pager page-links --theme loam
    "#]],
    );
    check(
        &site,
        &["rename", "pager", "page-links", "--theme", "loam", "--dry-run"],
        expect![[r#"
            exit 0
            Would rename the partial pager to page-links

              themes/loam/partials/pager.html
                → themes/loam/partials/page-links.html

            What names it:
              themes/harbour/templates/listing/journal.html  1 place
              themes/hedgerow/templates/period.html          1 place
              themes/hedgerow/templates/search.html          1 place
              themes/loam/partials/entries.html              1 place

            Rendered before and after: 136 addresses in 3 themes. All are the same to the byte.

            To do it:  hausblatt rename pager page-links --theme loam
        "#]],
    );
    assert_eq!(site.tree("themes"), before);
    check(
        &site,
        &["rename", "component:notice", "hint", "--theme", "hedgerow"],
        expect![[r#"
            exit 0
            Renamed the component notice to hint

              themes/hedgerow/components/notice/component.html
                → themes/hedgerow/components/hint/component.html
              themes/hedgerow/components/notice/component.toml
                → themes/hedgerow/components/hint/component.toml
              themes/hedgerow/components/notice/style.css
                → themes/hedgerow/components/hint/style.css

            What names it:
              content/pages/borrow/returning-seed.md  1 place
              content/pages/visit.md                  1 place

            Rendered before and after: 4 addresses in 2 themes.
              2 addresses show the new name, and nothing else differs:
                /borrow/returning-seed/, /visit/

            To take it back:  hausblatt undo --theme hedgerow
        "#]],
    );
    check(
        &site,
        &["rename", "themes/hedgerow/assets/hedgerow.css", "css/hedge.css", "--theme", "hedgerow"],
        expect![[r#"
            exit 0
            Renamed the asset hedgerow.css to css/hedge.css

              themes/hedgerow/assets/hedgerow.css
                → themes/hedgerow/assets/css/hedge.css

            What names it:
              themes/harbour/layouts/document.html   1 place
              themes/hedgerow/layouts/bare.html      1 place
              themes/hedgerow/layouts/document.html  1 place

            Rendered before and after: 210 addresses in 2 themes.
              105 addresses show the new name, and nothing else differs:
                /, /404.html, /about/, /borrow/, /borrow/how-it-works/, 100 more

            The address /assets/hedgerow.css ends: what links to it from elsewhere finds nothing.

            To take it back:  hausblatt undo --theme hedgerow
        "#]],
    );
    check(
        &site,
        &["rename", "templates/page/visit", "page/opening", "--theme", "hedgerow"],
        expect![[r#"
            exit 0
            Renamed the template page/visit.html to page/opening.html

              themes/hedgerow/templates/page/visit.html
                → themes/hedgerow/templates/page/opening.html

            Rendered before and after: 2 addresses in 2 themes.
              1 address differs:
                /visit/

            Other files answer:
              /visit/
                  page/visit.html (hedgerow) → page.html (loam)

            To take it back:  hausblatt undo --theme hedgerow
        "#]],
    );
    check(
        &site,
        &["rename", "layout:document", "frame", "--theme", "loam"],
        expect![[r#"
        exit 1
        ---
        error: the layout document goes around every template that names none
        help: let them say layout: frame first, or leave its name
    "#]],
    );
    check(
        &site,
        &["rename", "partials/hedaer", "head"],
        expect![[r#"
        exit 1
        ---
        error: no theme of the lineage has a file "partials/hedaer"
        help: did you mean "partials/header"?
    "#]],
    );
    check(
        &site,
        &["check"],
        expect![[r#"
        exit 0
        ✓ No problems found in the whole site.
    "#]],
    );
    for _ in 0..3 {
        assert_eq!(site.run(&["undo", "-q"]).code, 0);
    }
    assert_eq!(site.tree("themes"), before);
}

#[test]
fn what_may_be_meant_is_listed() {
    let site = Site::demo();
    site.write("themes/harbour/partials/broken.html", "<p>+{if pager}</p>\n");
    site.write("themes/harbour/templates/page/about.html", "+{partial \"card/\" + content.id}\n");
    let said = site.run(&["rename", "pager", "page-links", "--theme", "loam", "--dry-run"]).whole();
    let listed = said.split("\n\n").find(|part| part.starts_with("Look at these")).unwrap_or(&said);
    expect![[r#"
        Look at these: what they name is known only when they run, or not at all.
          themes/harbour/partials/broken.html:1  it has an error, so what it names is not known"#]]
    .assert_eq(listed);
    let said = site.run(&["rename", "partial:card", "tile", "--theme", "loam", "--dry-run"]).whole();
    expect![[r#"
        exit 1
        ---
        error    there is no partial below "card/"
                 themes/loam/partials/entries.html:3:17
             3 |   <li>+{partial "card/" + entry.collection given entry = entry}</li>
                                 ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                 → a name that is computed may be this one; to rename what is below it,
                   too: hausblatt rename partial:card/ tile/ --theme loam
                                                                         unknown-partial

        error: nothing was written
    "#]]
    .assert_eq(&said);
}
