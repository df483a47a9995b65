//! Which file renders, and why: the program's answers on small sites and on the demo.

use crate::support::{Site, without_time};
use expect_test::expect;

#[test]
fn a_more_specific_file_takes_over_and_falls_back_when_it_goes() {
    let site = Site::small();
    assert_eq!(site.template("/visit/"), "page.html of far");
    site.write("themes/near/templates/page.html", "near page");
    assert_eq!(site.template("/visit/"), "page.html of near");
    site.write("themes/far/templates/page/visit.html", "far visit");
    assert_eq!(site.template("/visit/"), "page/visit.html of far");
    assert_eq!(site.template("/visit/opening/"), "page.html of near");
    site.write("themes/near/templates/page/visit.html", "near visit");
    assert_eq!(site.template("/visit/"), "page/visit.html of near");
    site.rename("themes/near/templates/page/visit.html", "themes/near/templates/page/visit/all_below.html");
    assert_eq!(site.template("/visit/"), "page/visit.html of far");
    assert_eq!(site.template("/visit/opening/"), "page/visit/all_below.html of near");
    site.remove("themes/far/templates/page/visit.html");
    assert_eq!(site.template("/visit/"), "page.html of near");
    site.remove("themes/near/templates/page.html");
    site.remove("themes/far/templates/page.html");
    assert_eq!(site.template("/visit/"), "fallback.html of far");
}

#[test]
fn every_kind_of_request_has_its_ladder() {
    let site = Site::small();
    for (address, files) in [
        ("/", &["front.html", "page/home.html", "page.html"][..]),
        ("/visit/opening/", &["page/visit/opening.html", "page/visit/all_below.html"]),
        ("/journal/frost/", &["entry/journal/frost.html", "entry/journal.html", "entry.html", "fallback.html"]),
        ("/journal/", &["listing/journal.html", "listing.html", "fallback.html"]),
        ("/journal/page/2/", &["listing/journal.html", "listing.html", "fallback.html"]),
        ("/nowhere/", &["error/404.html", "error/4xx.html", "error.html", "fallback.html"]),
    ] {
        for file in files {
            site.write(&format!("themes/far/templates/{file}"), "x");
        }
        for file in files {
            assert_eq!(site.template(address), format!("{file} of far"), "{address}");
            site.remove(&format!("themes/far/templates/{file}"));
        }
        site.write("themes/far/templates/fallback.html", "x");
        assert_eq!(site.template(address), "fallback.html of far");
    }
}

#[test]
fn hidden_files_are_out_of_the_way_for_ancestors_only() {
    let site = Site::small();
    site.write(
        "themes/near/hausblatt-theme.toml",
        "[theme]\nparent = \"far\"\nhide = [\"templates/page.html\", \"templates/pages.html\"]\n",
    );
    assert_eq!(site.template("/visit/"), "fallback.html of far");
    site.write("themes/near/templates/page.html", "x");
    assert_eq!(site.template("/visit/"), "page.html of near");
    let said = site.run(&["build"]);
    expect![[r#"
        exit 0
        Built 12 pages into ./built (2 kB, TIME s): 12 files written, 0 unchanged, 0 removed.
        ---
        warning  no ancestor has a file "templates/pages.html" to hide
                 themes/near/hausblatt-theme.toml:3:32
             3 | hide = ["templates/page.html", "templates/pages.html"]
                                                ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                 → did you mean "templates/page.html"?                       unused-hide

    "#]]
    .assert_eq(&without_time(&said.whole()));
}

#[test]
fn a_lineage_may_be_long() {
    let site = Site::small();
    site.write("themes/far/hausblatt-theme.toml", "[theme]\nparent = \"farther\"\n");
    site.write("themes/farther/hausblatt-theme.toml", "[theme]\nparent = \"farthest\"\nroot = \"files\"\n");
    site.write("themes/farthest/hausblatt-theme.toml", "");
    site.write("themes/farthest/templates/page/visit.html", "---\nlayout: none\n---\nx");
    assert_eq!(site.template("/visit/"), "page/visit.html of farthest");
    site.write("themes/farther/files/templates/page/visit.html", "x");
    assert_eq!(site.template("/visit/"), "page/visit.html of farther");
    assert_eq!(site.run(&["resolve", "/visit/", "--theme", "farthest"]).code, 0);
}

#[test]
fn chosen_templates() {
    let site = Site::small();
    site.write("content/pages/visit.md", "---\ntemplate: wide\n---\n");
    site.write("themes/far/templates/offered/wide.html", "---\nlabel: Wide\nfor: [page]\n---\nwide");
    assert_eq!(site.template("/visit/"), "offered/wide.html of far");
    site.write("themes/far/templates/offered/wide.html", "---\nfor: [entry/journal]\n---\nwide");
    let answer = &site.json(&["resolve", "/visit/"])[0];
    assert_eq!(answer["rungs"][0]["files"][0]["state"], "unfit");
    assert_eq!(
        answer["notes"][0]["text"],
        "content/pages/visit.md chooses offered/wide, which does not fit it: it is for entry/journal. Choose one that fits, or add it to \"for\" in the template."
    );
    assert_eq!(answer["template"]["name"], "page.html");
    site.write("content/journal/2026-03-14-frost.md", "---\ntemplate: wide\n---\n");
    assert_eq!(site.template("/journal/frost/"), "offered/wide.html of far");
    site.write("content/pages/visit.md", "---\ntemplate: wied\n---\n");
    site.write("themes/far/templates/offered/wide.html", "wide");
    let answer = &site.json(&["resolve", "/visit/"])[0];
    assert_eq!(answer["notes"][0]["code"], "choice-missing");
    assert_eq!(
        answer["notes"][0]["text"],
        "content/pages/visit.md chooses offered/wied, which no theme of the lineage has. Did it mean \"wide\"?"
    );
}

#[test]
fn the_surprising_case_is_explained() {
    let demo = Site::demo();
    expect![[r#"
        exit 0
        /varieties/scarlet-runner/  →  200
        entry of varieties · content/varieties/scarlet-runner.md

           rung                                 harbour   hedgerow    loam
        1  entry/varieties/scarlet-runner.html     ·         ·         ·
        2  entry/varieties.html                    ·         ■         □
        3  entry.html                              □         ·         ·
        4  fallback.html                           ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/hedgerow/templates/entry/varieties.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      card/varieties → card (loam), footer (loam), header (harbour),
                  menu (loam), month (hedgerow), sowing (hedgerow),
                  prepare all (hedgerow)

        harbour's entry.html is passed over: hedgerow has the more specific
        entry/varieties.html.

        To change this page only:  hausblatt override /varieties/scarlet-runner/ --only
        To change all varieties:   hausblatt override /varieties/scarlet-runner/
    "#]]
    .assert_eq(&demo.run(&["resolve", "/varieties/scarlet-runner/"]).whole());
}

#[test]
fn the_demo_resolves_as_it_says() {
    let demo = Site::demo();
    for (address, template) in [
        ("/", "front.html of harbour"),
        ("/visit/", "page/visit.html of hedgerow"),
        ("/visit/opening/", "offered/no-aside.html of hedgerow"),
        ("/visit/find-us/", "page/visit/all_below.html of hedgerow"),
        ("/growers/ida-marlow/", "page/growers/all_below.html of hedgerow"),
        ("/about/", "page/about.html of harbour"),
        ("/borrow/", "page.html of loam"),
        ("/families/", "page/families.html of hedgerow"),
        ("/families/legumes/", "listing/family.html of hedgerow"),
        ("/calendar/", "route/calendar.html of hedgerow"),
        ("/calendar/may/", "route/month.html of hedgerow"),
        ("/journal/2026/03/", "period.html of hedgerow"),
        ("/search/?q=bean", "search.html of hedgerow"),
        ("/varieties/winter-quilt/print/", "entry/varieties.print.html of hedgerow"),
        ("/open-day/", "offered/bare.html of hedgerow"),
        ("/journal/first-frost/", "entry.html of harbour"),
        ("/journal/", "listing/journal.html of harbour"),
        ("/varieties/page/2/", "listing/varieties.html of hedgerow"),
        ("/nowhere/", "error/404.html of hedgerow"),
        ("content/pages/visit.md", "page/visit.html of hedgerow"),
    ] {
        assert_eq!(demo.template(address), template, "{address}");
    }
    let child = "themes/harbour/templates/entry/varieties/scarlet-runner.html";
    demo.write(child, "mine");
    assert_eq!(demo.template("/varieties/scarlet-runner/"), "entry/varieties/scarlet-runner.html of harbour");
    assert_eq!(demo.template("/varieties/winter-quilt/"), "entry/varieties.html of hedgerow");
    demo.rename(child, "themes/loam/templates/entry/varieties/scarlet-runner.html");
    assert_eq!(demo.template("/varieties/scarlet-runner/"), "entry/varieties/scarlet-runner.html of loam");
    demo.remove("themes/loam/templates/entry/varieties/scarlet-runner.html");
    assert_eq!(demo.template("/varieties/scarlet-runner/"), "entry/varieties.html of hedgerow");
}

#[test]
fn json_has_the_documented_shape() {
    let site = Site::small();
    site.write(
        "themes/far/templates/entry/journal.html",
        "+{partial \"card/journal\"}+{if false}+{answer 404 \"x\"}+{end}",
    );
    site.write("themes/far/partials/card.html", "c");
    let said = site.run(&["resolve", "/journal/frost/", "/visit", "--format", "json"]);
    expect![[r#"
        exit 0
        [
          {
            "address": "/journal/frost/",
            "status": 200,
            "location": null,
            "may": [],
            "kind": "entry",
            "view": null,
            "content": {
              "id": "frost",
              "collection": "journal",
              "path": "content/journal/2026-03-14-frost.md"
            },
            "rungs": [
              {
                "name": "entry/journal/frost.html",
                "reason": "id",
                "files": []
              },
              {
                "name": "entry/journal.html",
                "reason": "collection",
                "files": [
                  {
                    "theme": "far",
                    "path": "themes/far/templates/entry/journal.html",
                    "state": "renders"
                  }
                ]
              },
              {
                "name": "entry.html",
                "reason": "kind",
                "files": []
              },
              {
                "name": "fallback.html",
                "reason": "fallback",
                "files": [
                  {
                    "theme": "far",
                    "path": "themes/far/templates/fallback.html",
                    "state": "passed-over"
                  }
                ]
              }
            ],
            "template": {
              "name": "entry/journal.html",
              "theme": "far",
              "path": "themes/far/templates/entry/journal.html"
            },
            "layout": {
              "name": "document",
              "theme": "far",
              "path": "themes/far/layouts/document.html"
            },
            "uses": [
              {
                "what": "partial",
                "asked_as": "card/journal",
                "name": "card",
                "theme": "far",
                "path": "themes/far/partials/card.html"
              }
            ],
            "notes": [],
            "file": null
          },
          {
            "address": "/visit",
            "status": 301,
            "location": "/visit/",
            "may": [],
            "kind": null,
            "view": null,
            "content": null,
            "rungs": [],
            "template": null,
            "layout": null,
            "uses": [],
            "notes": [],
            "file": null
          }
        ]
    "#]]
    .assert_eq(&said.whole());
}

#[test]
fn the_map_lists_every_address() {
    let site = Site::small();
    site.write("themes/near/templates/error/410.html", "gone");
    expect![[r#"
        exit 0
        /                 200  front    page.html       far
        /home/            301           → /
        /journal/         200  listing  fallback.html   far
        /journal/beans/   200  entry    fallback.html   far
        /journal/boats/   200  entry    fallback.html   far
        /journal/frost/   200  entry    fallback.html   far
        /journal/page/2/  200  listing  fallback.html   far
        /robots.txt       200           built in
        /sitemap.xml      200           built in
        /visit/           200  page     page.html       far
        /visit/opening/   200  page     page.html       far
        /404.html         404  error    fallback.html   far
        /410.html         410  error    error/410.html  near
    "#]]
    .assert_eq(&site.run(&["map"]).whole());
    let csv = site.run(&["map", "--format", "csv", "--kind", "front"]).out;
    assert_eq!(
        csv,
        "address,status,location,kind,content,template,theme,layout\r\n/,200,,front,content/pages/home.md,page.html,far,document\r\n"
    );
    let json = site.json(&["map", "--kind", "error"]);
    assert_eq!(json[0]["address"], "/404.html");
    assert_eq!(json[0]["location"], serde_json::Value::Null);
}

#[test]
fn an_id_that_is_not_the_address_is_pointed_out() {
    let site = Site::small();
    site.write("content/pages/visit/opening.md", "---\nslug: hours\n---\n");
    let answer = &site.json(&["resolve", "/visit/hours/"])[0];
    assert_eq!(
        answer["notes"][0]["text"],
        "Its id is visit/opening, not visit/hours: a template of its own is called page/visit/opening.html; page/visit/hours.html would never be looked for here."
    );
}

#[test]
fn drafts_and_what_waits_have_no_address() {
    let site = Site::small();
    site.write("content/pages/later.md", "---\ndate: 2027-01-01\n---\n");
    site.write("content/pages/draft.md", "---\ndraft: true\n---\n");
    for (arguments, code) in [
        (&["resolve", "/later/"][..], 1),
        (&["resolve", "/later/", "--as-of", "2027-01-01"], 0),
        (&["resolve", "/draft/"], 1),
        (&["resolve", "/draft/", "--drafts"], 0),
        (&["resolve", "content/pages/draft.md"], 1),
    ] {
        assert_eq!(site.run(arguments).code, code, "{arguments:?}");
    }
    assert!(site.run(&["resolve", "content/pages/draft.md"]).err.contains("content/pages/draft.md has no address"));
}

#[test]
fn many_themes_still_fit() {
    let site = Site::small();
    for number in 1..=5 {
        let parent = if number == 1 { "near".to_owned() } else { format!("a-theme-with-a-long-name-{}", number - 1) };
        let manifest = format!("themes/a-theme-with-a-long-name-{number}/hausblatt-theme.toml");
        site.write(&manifest, format!("[theme]\nparent = \"{parent}\"\n"));
    }
    site.write("themes/a-theme-with-a-long-name-2/templates/page/visit.html", "x");
    expect![[r#"
        exit 0
        /visit/  →  200
        page · content/pages/visit.md

           rung             a  b  c  d  e  f  g
        1  page/visit.html  ·  ·  ·  ■  ·  ·  ·
        2  page.html        ·  ·  ·  ·  ·  ·  □
        3  fallback.html    ·  ·  ·  ·  ·  ·  □
            ■ renders   □ passed over   · no file
            a a-theme-with-a-long-name-5
            b a-theme-with-a-long-name-4
            c a-theme-with-a-long-name-3
            d a-theme-with-a-long-name-2
            e a-theme-with-a-long-name-1
            f near
            g far
        renders   themes/a-theme-with-a-long-name-2/templates/page/visit.html
        inside    themes/far/layouts/document.html

        To change this page only:  hausblatt override /visit/ --theme a-theme-with-a-long-name-5
    "#]]
    .assert_eq(&site.run(&["resolve", "/visit/", "--theme", "a-theme-with-a-long-name-5"]).whole());
}
