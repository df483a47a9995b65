//! `themes`, `files`, `reach` and `map` on a theme that nobody has explained.

use crate::support::{Site, check};
use expect_test::expect;
use serde_json::{Value, json};

/// Files of three generations: theme, name, text, and what is to be found: `used`, or what it waits for, or why it is
/// dead.
const FILES: &[(&str, &str, &str, &str)] = &[
    ("top", "templates/front.html", "front +{partial \"card\"}", "used"),
    ("top", "templates/page.html", "+{inherited}", "used"),
    ("top", "templates/page/visit.html", "visit", "used"),
    ("top", "templates/page/visit/opening.html", "hours +{partial \"clock\"}", "used"),
    (
        "top",
        "templates/page/opening-hours.html",
        "meant for /opening-hours/",
        "dead: \"opening-hours\" is an address; the page's id is hours: page/hours.html",
    ),
    ("top", "templates/page/vist.html", "a slip", "ready: a page with the id vist; did you mean page/visit.html?"),
    (
        "top",
        "templates/page/Visit.html",
        "a capital",
        "dead: \"Visit\" is not a valid page id: ids are lower-case letters, digits and hyphens",
    ),
    (
        "top",
        "templates/pages/visit.html",
        "a plural +{partial \"only-dead\"}",
        "dead: \"pages\" is not a kind of request; did you mean page/visit.html?",
    ),
    ("top", "templates/page/hours/all_below.html", "below", "ready: a page below hours"),
    ("top", "templates/entry/news.html", "+{partial \"card/news\"}", "used"),
    ("top", "templates/entry/nwes.html", "slip", "dead: there is no collection \"nwes\"; did you mean entry/news?"),
    (
        "top",
        "templates/entry/news/2026-03-14-frost.html",
        "date",
        "dead: \"2026-03-14-frost\" is not a valid id; the entry's id is frost: entry/news/frost.html",
    ),
    (
        "top",
        "templates/entry/news.prnt.html",
        "view",
        "dead: no collection has the view \"prnt\"; did you mean \"print\"?",
    ),
    ("top", "templates/entry/recipes.html", "later", "ready: a collection \"recipes\""),
    (
        "top",
        "templates/news.html",
        "bare name",
        "dead: \"news\" is not a kind of request; did you mean entry/news.html or listing/news.html?",
    ),
    ("top", "templates/listing/family/legumes.html", "term", "used"),
    (
        "top",
        "templates/listing/famly.html",
        "slip",
        "dead: there is no taxonomy \"famly\"; did you mean listing/family?",
    ),
    (
        "top",
        "templates/listing/news/x.html",
        "no term",
        "dead: news is a collection, and only a taxonomy's listings have terms",
    ),
    ("top", "templates/error/404.html", "lost", "used"),
    ("top", "templates/error/5xx.html", "broken", "ready: an answer with a status of 5xx"),
    (
        "top",
        "templates/error/200.html",
        "fine?",
        "dead: \"200\" is not a valid error status: those are 400 to 599, 4xx and 5xx",
    ),
    ("top", "templates/route/map.html", "map", "used"),
    ("top", "templates/route/mpa.html", "slip", "dead: there is no route \"mpa\"; did you mean route/map.html?"),
    ("top", "templates/offered/wide.html", "---\nlabel: Wide\nlayout: wide\n---\nwide", "used"),
    (
        "top",
        "templates/offered/tall.html",
        "---\nlabel: Tall\n---\n+{partial \"tower\"}",
        "ready: an editor who chooses it",
    ),
    (
        "top",
        "templates/offered/lost.html",
        "---\nfor: [entry/olds]\n---\nlost",
        "dead: it is for entry/olds, which this site lacks; the collections are news",
    ),
    (
        "top",
        "templates/archive.html",
        "no kind",
        "dead: \"archive\" is not a kind of request: those are front, page, entry, listing, period, search, route, error, offered, fallback",
    ),
    ("top", "templates/page/visit.htm", "ending", "dead: no request uses this extension"),
    ("top", "templates/page.xml", "format", "dead: only feeds and routes use .xml, and no feed uses \"page\""),
    ("top", "layouts/wide.html", "w[+{slot}]", "used"),
    ("top", "layouts/narrow.html", "n[+{slot}]", "dead: no file uses this layout"),
    ("top", "partials/card/news.html", "card of news", "used"),
    (
        "top",
        "partials/tower.html",
        "tower",
        "ready: themes/top/templates/offered/tall.html, which calls it, to be used",
    ),
    (
        "top",
        "partials/only-dead.html",
        "orphan",
        "dead: only themes/top/templates/pages/visit.html calls it, which nothing uses",
    ),
    ("top", "partials/unloved.html", "orphan", "dead: no file calls it"),
    ("top", "components/notice/component.html", "notice", "used"),
    ("top", "components/panel/component.html", "panel", "ready: content that places it"),
    ("top", "components/panel/notes.txt", "notes", "dead: no part of a component is called so, and nothing serves it"),
    ("top", "prepare/page.let", "let mood = \"calm\"", "used"),
    (
        "top",
        "prepare/pages.let",
        "let mood = \"wild\"",
        "dead: \"pages\" is not a kind of request: its name is one of all, front, page, entry, listing, period, search, route, error",
    ),
    ("mid", "templates/page.html", "mid +{inherited}", "used"),
    (
        "mid",
        "templates/page/visit.html",
        "old visit",
        "ready: top's file of the same name to be removed, which covers it",
    ),
    ("mid", "templates/page/about.html", "about", "dead: top hides it"),
    (
        "mid",
        "templates/entry.html",
        "entry",
        "ready: an address with nothing more specific: 6 try it, and /news/beans/ has entry/news.html",
    ),
    ("mid", "templates/entry.print.html", "print", "used"),
    ("mid", "templates/listing.html", "+{each e in listing.items}+{partial \"card/\" + e.collection}+{end}", "used"),
    ("mid", "templates/listing/news.xml", "<feed xmlns=\"http://www.w3.org/2005/Atom\"></feed>", "used"),
    ("mid", "templates/period.html", "times", "ready: periods = [\"year\"] in a collection"),
    ("mid", "templates/search.html", "search", "ready: [search] in hausblatt.toml"),
    ("mid", "templates/error.html", "error", "ready: the removal of error/404.html, which renders /404.html now"),
    ("mid", "partials/card.html", "card", "used"),
    ("mid", "partials/clock.html", "tick", "used"),
    ("mid", "partials/sundial.html", "shade", "dead: no file calls it"),
    ("mid", "layouts/document.html", "[+{inherited}]", "used"),
    ("old", "templates/page.html", "old", "used"),
    ("old", "templates/front.html", "old front", "ready: top's file of the same name to be removed, which covers it"),
    (
        "old",
        "templates/fallback.html",
        "fallback",
        "ready: an address with nothing more specific: 27 try it, and / has front.html",
    ),
    (
        "old",
        "templates/routes/map.html",
        "plural",
        "dead: \"routes\" is not a kind of request; did you mean route/map.html?",
    ),
    ("old", "templates/sitemap.html", "format", "dead: the sitemap's template is sitemap.xml"),
    ("old", "partials/card.html", "old card", "ready: mid's file of the same name to be removed, which covers it"),
    ("old", "partials/unloved.html", "old orphan", "dead: no file calls it"),
    ("old", "layouts/document.html", "(+{slot})", "used"),
    (
        "old",
        "assets/site.css",
        "body {}",
        "ready: a file that names it; it is published as /assets/site.css all the same",
    ),
];

pub fn site() -> Site {
    let site = Site::empty();
    site.write(
        "hausblatt.toml",
        "[site]\ntitle = \"Seeds\"\naddress = \"https://seeds.example\"\ntheme = \"top\"\n[front]\npage = \"home\"\n\
         [collections.news]\naddress = \"/news/{slug}/\"\nlisting = \"/news/\"\nfeed = true\nviews = [\"print\"]\n\
         [taxonomies.family]\nof = [\"news\"]\naddress = \"/families/{term}/\"\n[routes.map]\naddress = \"/map/\"\n",
    );
    site.write(
        "themes/top/hausblatt-theme.toml",
        "[theme]\nversion = \"3.0.0\"\nparent = \"mid\"\nhide = [\"templates/page/about.html\"]\n",
    );
    site.write(
        "themes/mid/hausblatt-theme.toml",
        "[theme]\nversion = \"2.0.0\"\nparent = \"old\"\nabout = \"Between\"\n",
    );
    site.write("themes/old/hausblatt-theme.toml", "[theme]\n");
    site.write("themes/aside/hausblatt-theme.toml", "[theme]\nparent = \"mid\"\n");
    site.write("content/pages/home.md", "");
    site.write("content/pages/visit.md", "---\ntrays: { main: [ { component: notice } ] }\n---\n");
    site.write("content/pages/visit/opening.md", "");
    site.write("content/pages/hours.md", "---\nslug: opening-hours\n---\n");
    site.write("content/pages/about.md", "---\ntemplate: wide\n---\n");
    site.write("content/pages/plain.md", "");
    site.write("content/news/2026-03-14-frost.md", "---\nfamily: [legumes]\n---\n");
    site.write("content/news/2026-04-14-boats.md", "---\nfamily: [beets]\n---\n");
    site.write("content/news/2026-05-14-beans.md", "");
    for (theme, name, text, _) in FILES {
        site.write(&format!("themes/{theme}/{name}"), format!("{text}\n"));
    }
    for number in 1..=20 {
        site.write(&format!("themes/mid/templates/page/bed-{number}.html"), "bed\n");
    }
    for number in (2..=20).step_by(2) {
        site.write(&format!("content/pages/bed-{number}.md"), "---\nin_lists: false\n---\n");
    }
    // The page that places a component has to print its tray.
    site.write("themes/top/templates/page/visit.html", "visit +{tray \"main\"}\n");
    site
}

#[test]
fn every_file_of_three_generations_has_its_state() {
    let site = site();
    let told = site.json(&["files"]);
    let unused = site.json(&["map", "--unused"]);
    for (theme, name, _, expected) in FILES {
        let path = format!("themes/{theme}/{name}");
        let file = told.as_array().unwrap().iter().find(|file| file["path"] == json!(path)).expect(&path);
        let state = file["state"].as_str().unwrap();
        let found = match file["reason"].as_str() {
            Some(reason) => format!("{state}: {reason}"),
            None => state.to_owned(),
        };
        assert_eq!(found, *expected, "{path}");
        let listed = unused.as_array().unwrap().iter().find(|file| file["path"] == json!(path));
        assert_eq!(listed.map(|file| &file["reason"]), (state != "used").then(|| &file["reason"]), "{path}");
        let reach = site.json(&["reach", &path]);
        assert_eq!((&reach["state"], &reach["reason"]), (&file["state"], &file["reason"]), "{path}");
        assert_eq!(reach["addresses"].as_array().unwrap().len(), file["reaches"].as_u64().unwrap() as usize, "{path}");
    }
    let beds = told.as_array().unwrap().iter().filter(|file| file["name"].as_str().unwrap().contains("/bed-"));
    for (file, number) in beds.zip([1, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 2, 20, 3, 4, 5, 6, 7, 8, 9]) {
        assert_eq!(file["name"], format!("templates/page/bed-{number}.html"));
        assert_eq!(file["state"], if number % 2 == 0 { "used" } else { "ready" });
    }
    let templates =
        told.as_array().unwrap().iter().filter(|file| file["name"].as_str().unwrap().starts_with("templates/"));
    assert!(templates.count() >= 60 && told.as_array().unwrap().len() == FILES.len() + 20);
}

#[test]
fn all_that_is_dead_can_be_deleted() {
    let site = site();
    assert_eq!(site.run(&["build", "-q", "--map"]).code, 0);
    let before = site.tree("built");
    let map = site.run(&["map", "--format", "json"]).out;
    let unused = site.json(&["map", "--unused"]);
    let dead: Vec<&Value> = unused.as_array().unwrap().iter().filter(|file| file["state"] == "dead").collect();
    assert_eq!(dead.len(), FILES.iter().filter(|(.., state)| state.starts_with("dead")).count());
    for file in dead {
        site.remove(file["path"].as_str().unwrap());
    }
    assert_eq!(site.run(&["build", "--diff", "--map"]).code, 0);
    assert_eq!(site.run(&["build", "-q", "--map", "--out", "anew"]).code, 0);
    assert_eq!(site.tree("anew"), before);
    assert_eq!(site.run(&["map", "--format", "json"]).out, map);
    let left = site.json(&["map", "--unused"]);
    assert!(left.as_array().unwrap().iter().all(|file| file["state"] == "ready"));
}

#[test]
fn the_lineage_at_a_glance() {
    let site = site();
    check(
        &site,
        &["themes"],
        expect![[r#"
            exit 0
            theme  version  parent  files  renders
            top    3.0.0    mid     40     12 addresses
            mid    2.0.0    old     34     16 addresses
            old    none     none    9      0 addresses

            top hides templates/page/about.html

            Not in this lineage:
              aside, a child of mid
                  hausblatt suppose --to-theme aside

            Every file:  hausblatt files
        "#]],
    );
    check(
        &site,
        &["files"],
        expect![[r#"
            exit 0
                                                          state  renders  reaches
            top 3.0.0
              components/notice/component.html            used                  1
              components/panel/component.html             ready
              components/panel/notes.txt                  dead
              layouts/narrow.html                         dead
              layouts/wide.html                           used                  1
              partials/card/news.html                     used                  5
              partials/only-dead.html                     dead
              partials/tower.html                         ready
              partials/unloved.html                       dead                     covers old's
              prepare/page.let                            used                 16
              prepare/pages.let                           dead
              templates/archive.html                      dead
              templates/entry/news.html                   used         3        3
              templates/entry/news.prnt.html              dead
              templates/entry/news/2026-03-14-frost.html  dead
              templates/entry/nwes.html                   dead
              templates/entry/recipes.html                ready
              templates/error/200.html                    dead
              templates/error/404.html                    used         1        1
              templates/error/5xx.html                    ready
              templates/front.html                        used         1        1  covers old's
              templates/listing/family/legumes.html       used         1        1
              templates/listing/famly.html                dead
              templates/listing/news/x.html               dead
              templates/news.html                         dead
              templates/offered/lost.html                 dead
              templates/offered/tall.html                 ready
              templates/offered/wide.html                 used         1        1
              templates/page.html                         used         2        2  covers mid's, old's
              templates/page.xml                          dead
              templates/page/Visit.html                   dead
              templates/page/hours/all_below.html         ready
              templates/page/opening-hours.html           dead
              templates/page/visit.htm                    dead
              templates/page/visit.html                   used         1        1  covers mid's
              templates/page/visit/opening.html           used         1        1
              templates/page/vist.html                    ready
              templates/pages/visit.html                  dead
              templates/route/map.html                    used         1        1
              templates/route/mpa.html                    dead
            mid 2.0.0
              layouts/document.html                       used                 26  covers old's
              partials/card.html                          used                  3  covers old's
              partials/clock.html                         used                  1
              partials/sundial.html                       dead
              templates/entry.html                        ready
              templates/entry.print.html                  used         3        3
              templates/error.html                        ready
              templates/listing.html                      used         2        2
              templates/listing/news.xml                  used         1        1
              templates/page.html                         used                  2  covers old's
              templates/page/about.html                   dead
              templates/page/bed-1.html                   ready
              templates/page/bed-10.html                  used         1        1
              templates/page/bed-11.html                  ready
              templates/page/bed-12.html                  used         1        1
              templates/page/bed-13.html                  ready
              templates/page/bed-14.html                  used         1        1
              templates/page/bed-15.html                  ready
              templates/page/bed-16.html                  used         1        1
              templates/page/bed-17.html                  ready
              templates/page/bed-18.html                  used         1        1
              templates/page/bed-19.html                  ready
              templates/page/bed-2.html                   used         1        1
              templates/page/bed-20.html                  used         1        1
              templates/page/bed-3.html                   ready
              templates/page/bed-4.html                   used         1        1
              templates/page/bed-5.html                   ready
              templates/page/bed-6.html                   used         1        1
              templates/page/bed-7.html                   ready
              templates/page/bed-8.html                   used         1        1
              templates/page/bed-9.html                   ready
              templates/page/visit.html                   ready
              templates/period.html                       ready
              templates/search.html                       ready
            old
              assets/site.css                             ready
              layouts/document.html                       used                 26
              partials/card.html                          ready
              partials/unloved.html                       dead
              templates/fallback.html                     ready
              templates/front.html                        ready
              templates/page.html                         used                  2
              templates/routes/map.html                   dead
              templates/sitemap.html                      dead

            32 used, 26 ready, 25 dead.

            What they wait for, or why nothing uses them:  hausblatt map --unused
            One file, and what it affects:                     hausblatt reach FILE
        "#]],
    );
    check(
        &site,
        &["map", "--by", "template"],
        expect![[r#"
            exit 0
                3  entry.print.html  mid
                   /news/beans/print/  /news/boats/print/  /news/frost/print/
                3  entry/news.html  top
                   /news/beans/  /news/boats/  /news/frost/
                2  built in
                   /robots.txt  /sitemap.xml
                2  listing.html  mid
                   /families/beets/  /news/
                2  page.html  top
                   /opening-hours/  /plain/
                1  error/404.html  top
                   /404.html
                1  front.html  top
                   /
                1  listing/family/legumes.html  top
                   /families/legumes/
                1  listing/news.xml  mid
                   /news/feed.xml
                1  offered/wide.html  top
                   /about/
                1  page/bed-10.html  mid
                   /bed-10/
                1  page/bed-12.html  mid
                   /bed-12/
                1  page/bed-14.html  mid
                   /bed-14/
                1  page/bed-16.html  mid
                   /bed-16/
                1  page/bed-18.html  mid
                   /bed-18/
                1  page/bed-2.html  mid
                   /bed-2/
                1  page/bed-20.html  mid
                   /bed-20/
                1  page/bed-4.html  mid
                   /bed-4/
                1  page/bed-6.html  mid
                   /bed-6/
                1  page/bed-8.html  mid
                   /bed-8/
                1  page/visit.html  top
                   /visit/
                1  page/visit/opening.html  top
                   /visit/opening/
                1  route/map.html  top
                   /map/
        "#]],
    );
    check(
        &site,
        &["map", "--template", "entry/*"],
        expect![[r#"
        exit 0
        /news/beans/  200  entry  entry/news.html  top
        /news/boats/  200  entry  entry/news.html  top
        /news/frost/  200  entry  entry/news.html  top
    "#]],
    );
    check(
        &site,
        &["map", "--template", "page{,/**}", "--kind", "page", "--format", "csv"],
        expect![[r#"
            exit 2
            ---
            error: "page{,/**}" is not a valid pattern: recursive wildcards must form a single path component
            help: write it as in --template "entry/**", or "page*.html"
        "#]],
    );
    assert_eq!(
        site.json(&["themes"])[1],
        json!({
            "name": "mid", "version": "2.0.0", "about": "Between", "parent": "old", "path": "themes/mid",
            "in_lineage": true, "files": 34, "renders": 16, "hides": []
        })
    );
    assert_eq!(site.json(&["themes"])[3]["in_lineage"], false);
    assert_eq!(
        site.json(&["map", "--by", "template"])[0],
        json!({
            "template": "entry.print.html", "theme": "mid", "count": 3,
            "addresses": ["/news/beans/print/", "/news/boats/print/", "/news/frost/print/"]
        })
    );
}
