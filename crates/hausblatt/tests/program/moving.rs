//! Redirects, links, another theme, another front page: that every address goes on to answer.

use crate::sites::{CONFIG, answers, site};
use std::collections::{BTreeMap, BTreeSet};

use crate::support::Site;
use expect_test::expect;

#[test]
fn redirects_links_views_and_introductions() {
    let site = site();
    site.write("themes/far/templates/entry.html", "+{content.title} +{content.photo.alt} +{content.photo.width}x+{content.photo.height} +{request.view} +{content.address}");
    site.write("themes/far/templates/entry.print.html", "---\nlayout: none\n---\nprint +{inherited}");
    site.write("themes/far/templates/listing.html", "+{request.title}: +{content.body}+{listing.items.count}");
    answers(
        &site,
        &[
            "/visit/",
            "/legumes/runner/",
            "/legumes/runner/print/",
            "/kinds/",
            "/come",
            "/old place.html",
            "/kinds/page/2/",
            "/sitemap.xml",
            "/robots.txt",
        ],
        expect![[r#"
            /visit/ (0): Visit: <p>See <a href="/notes/frost/#when">the note</a>, <a href="/families/pods/">pods</a>, <a href="/months/mai/">may</a>, <a href="/notes/thaw/">a file</a>, lost and later.</p>
                     5 | …tes/2026-03-20-thaw.md), [lost](page:nowhere) and [later](entry:notes…
                     5 | …26-03-20-thaw.md), [lost](page:nowhere) and [later](entry:notes/later…
            /legumes/runner/ (0): Runner Pod 40x30  /legumes/runner/
            /legumes/runner/print/ (0): print Runner Pod 40x30 print /legumes/runner/
            /kinds/ (0): Our kinds: <p>All.</p>
            2
            /come (0): <!doctype html>
            <html lang="en">
            <head>
            <meta charset="utf-8">
            <meta name="robots" content="noindex">
            <meta http-equiv="refresh" content="0; url=/visit/">
            <link rel="canonical" href="/visit/">
            <title>This page has moved</title>
            </head>
            <body>
            <p>This page has moved to <a href="/visit/">/visit/</a>.</p>
            </body>
            </html>
                note: /come redirects to /visit/ (301)
            /old place.html (1): error: Weg
                note: /old place.html answers with 404
            /kinds/page/2/ (0): Our kinds: <p>All.</p>
            1
            /sitemap.xml (0): <?xml version="1.0" encoding="utf-8"?>
            <urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">
              <url>
                <loc>https://seeds.example/beets/beet/</loc>
              </url>
              <url>
                <loc>https://seeds.example/beets/hidden/</loc>
              </url>
              <url>
                <loc>https://seeds.example/families/beets/</loc>
              </url>
              <url>
                <loc>https://seeds.example/families/legumes/</loc>
              </url>
              <url>
                <loc>https://seeds.example/families/legumes/page/2/</loc>
              </url>
              <url>
                <loc>https://seeds.example/families/pods/</loc>
              </url>
              <url>
                <loc>https://seeds.example/families/pods/page/2/</loc>
              </url>
              <url>
                <loc>https://seeds.example/kinds/</loc>
              </url>
              <url>
                <loc>https://seeds.example/kinds/page/2/</loc>
              </url>
              <url>
                <loc>https://seeds.example/legumes/pea/</loc>
              </url>
              <url>
                <loc>https://seeds.example/legumes/runner/</loc>
              </url>
              <url>
                <loc>https://seeds.example/months/</loc>
              </url>
              <url>
                <loc>https://seeds.example/months/juni/</loc>
              </url>
              <url>
                <loc>https://seeds.example/months/mai/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/2025/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/2025/12/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/2025/12/01/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/2026/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/2026/03/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/2026/03/14/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/2026/03/20/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/frost/</loc>
                <lastmod>2026-04-01</lastmod>
              </url>
              <url>
                <loc>https://seeds.example/notes/page/2/</loc>
              </url>
              <url>
                <loc>https://seeds.example/notes/snow/</loc>
                <lastmod>2025-12-01</lastmod>
              </url>
              <url>
                <loc>https://seeds.example/notes/thaw/</loc>
                <lastmod>2026-03-20</lastmod>
              </url>
              <url>
                <loc>https://seeds.example/notes/undated/</loc>
              </url>
              <url>
                <loc>https://seeds.example/visit/</loc>
              </url>
            </urlset>
            /robots.txt (0): User-agent: *
            Disallow:

            Sitemap: https://seeds.example/sitemap.xml
        "#]],
    );
    assert_eq!(site.run(&["resolve", "/Old%20Place.html"]).out, "/Old Place.html  →  301  /visit/\n");
}

#[test]
fn a_site_moved_to_another_theme_renders_and_says_what_it_lacks() {
    let demo = Site::demo();
    let said = demo.run(&["build", "--theme", "loam"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    let codes: BTreeMap<&str, usize> = said
        .err
        .lines()
        .filter_map(|line| {
            line.split(' ').next_back().filter(|code| ["choice-missing", "unknown-component"].contains(code))
        })
        .fold(BTreeMap::new(), |mut codes, code| {
            *codes.entry(code).or_default() += 1;
            codes
        });
    assert_eq!(codes, BTreeMap::from([("choice-missing", 3), ("unknown-component", 5)]));
    assert_eq!(said.err.matches("is not in the lineage").count(), 8, "{}", said.err);
}

#[test]
fn a_collection_may_be_the_front() {
    let site = site();
    site.write("hausblatt.toml", format!("{CONFIG}[front]\ncollection = \"notes\"\n"));
    site.write(
        "themes/far/templates/listing.html",
        "+{request.kind} +{listing.page} +{listing.previous} +{listing.next}",
    );
    let leads = |address: &str| {
        let said = site.json(&["resolve", address])[0].clone();
        format!("{} {} {}", said["status"], said["kind"], said["location"])
    };
    for (address, expected) in [
        ("/", "200 \"front\" null"),
        ("/page/2/", "200 \"front\" null"),
        ("/notes/", "301 null \"/\""),
        ("/notes/page/2/", "301 null \"/page/2/\""),
        ("/notes/page/1/", "301 null \"/\""),
        ("/notes/page/9/", "404 \"error\" null"),
        ("/notes/page/02x/", "404 \"error\" null"),
        ("/notes/feed.xml", "200 \"listing\" null"),
        ("/notes/2026/", "200 \"period\" null"),
        ("/come/page/2/", "404 \"error\" null"),
    ] {
        assert_eq!(leads(address), expected, "{address}");
    }
    answers(
        &site,
        &["/page/2/"],
        expect![[r#"
        /page/2/ (0): front 2 /
    "#]],
    );
}

/// The values of `href`, `src` and `action` in a page, and its ids.
fn links_and_ids(html: &str) -> (Vec<&str>, BTreeSet<&str>) {
    let values = |name: &str| -> Vec<&str> {
        let start = format!(" {name}=\"");
        html.match_indices(&start).filter_map(|(at, _)| html[at + start.len()..].split('"').next()).collect()
    };
    let links = ["href", "src", "action"].iter().flat_map(|name| values(name)).collect();
    (links, values("id").into_iter().collect())
}

#[test]
fn every_address_of_the_demo_renders_and_no_link_is_dead() {
    let demo = Site::demo();
    let said = demo.run(&["build", "--map", "--strict"]);
    assert_eq!((said.code, said.err.as_str()), (0, ""), "{}", said.whole());
    let pages: BTreeMap<String, String> = demo
        .tree("built")
        .into_iter()
        .filter(|(path, _)| path.ends_with(".html"))
        .map(|(path, bytes)| (path, String::from_utf8(bytes).unwrap()))
        .collect();
    let map: Vec<serde_json::Value> = serde_json::from_str(&demo.read("built/hausblatt-map.json")).unwrap();
    assert!(map.len() > 120);
    for entry in &map {
        let address = entry["address"].as_str().unwrap();
        let path = if address.ends_with('/') { format!("{address}index.html") } else { address.to_owned() };
        assert!(demo.path(&format!("built{path}")).is_file(), "{address}");
    }
    let mut count = 0;
    for (path, html) in &pages {
        let (links, own) = links_and_ids(html);
        for link in links.iter().filter(|link| link.starts_with('/') || link.starts_with('#')) {
            count += 1;
            let (file, anchor) = link.split_once('#').unwrap_or((link, ""));
            let file = file.split('?').next().unwrap().trim_start_matches('/');
            let file =
                if file.is_empty() || file.ends_with('/') { format!("{file}index.html") } else { file.to_owned() };
            assert!(demo.path(&format!("built/{file}")).is_file(), "{path}: {link}");
            let ids = match link.starts_with('#') {
                true => own.clone(),
                false => pages.get(&file).map(|html| links_and_ids(html).1).unwrap_or_default(),
            };
            assert!(anchor.is_empty() || ids.contains(anchor), "{path}: {link}");
        }
    }
    assert!(count > 1000, "{count} links");
}
