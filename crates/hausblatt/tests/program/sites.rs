//! Sites as they are: terms, periods, routes, views, feeds, searches, settings, components, through the program.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;
use std::fs;

use crate::support::Site;
use expect_test::{Expect, expect};

pub const CONFIG: &str = r#"
[site]
title = "Seeds"
theme = "near"
address = "https://seeds.example"
language = "de"
timezone = "Europe/Berlin"

[collections.kinds]
address = "/{family}/{slug}/"
listing = "/kinds/"
per_page = 2
views = ["print"]

[collections.kinds.fields]
photo = { type = "image" }
sown = { type = "list", fields = [ { name = "on", type = "date" }, { name = "by", type = "link" } ] }
note = { type = "rich" }

[collections.notes]
address = "/notes/{slug}/"
listing = "/notes/"
order = "date desc"
per_page = 2
periods = ["year", "month", "day"]
feed = true

[taxonomies.family]
of = ["kinds"]
address = "/families/{term}/"
terms.pods = { label = "Hülsen", image = "/media/pod.svg" }
terms.legumes = { label = "Bohnen & Erbsen", parent = "pods" }
terms.beets = {}
terms.empty = { parent = "pods" }

[routes.months]
address = "/months/"
title = "Aussaat"

[routes.month]
address = "/months/{slug}/"
each = "months"

[routes.data]
address = "/kinds.json"

[search]
address = "/suche/"

[errors]
404 = "lost"
410 = "lost"

[settings]
motto = "Säen & ernten"
"#;

/// A site with some of everything, two themes, and a document that shows what it is given.
pub fn site() -> Site {
    let site = Site::empty();
    for (path, text) in [
        ("hausblatt.toml", CONFIG),
        ("themes/near/hausblatt-theme.toml", "[theme]\nparent = \"far\"\n[settings]\nseats = { default = 9 }\n"),
        (
            "themes/far/hausblatt-theme.toml",
            "[settings]\nmotto = { type = \"text\" }\nseats = { type = \"number\", default = 3 }\nabout = { type = \"rich\", default = \"[in](page:visit)\" }\n",
        ),
        ("themes/far/layouts/document.html", "+{slot}"),
        ("themes/far/templates/fallback.html", "+{request.kind}: +{request.title}"),
        ("themes/far/templates/route/data.json", "[]"),
        ("themes/far/templates/page.html", "+{content.title}: +{content.body}+{tray \"main\"}"),
        (
            "content/kinds/runner.md",
            "---\ntitle: Runner\nfamily: [legumes]\nphoto: { file: media/pod.svg, alt: Pod }\n---\nClimbs high.",
        ),
        ("content/kinds/pea.md", "---\ntitle: Pea\nfamily: Legumes\n---\nClimbs."),
        ("content/kinds/beet.md", "---\ntitle: Beet\nfamily: [beets, legumes]\nin_lists: true\n---\n"),
        ("content/kinds/hidden.md", "---\ntitle: Hidden\nfamily: [beets]\nin_lists: no\n---\n"),
        ("content/kinds/draft.md", "---\nfamily: [empty]\ndraft: true\n---\n"),
        (
            "content/notes/2026-03-14-frost.md",
            "---\ntitle: Frost <1>\nupdated: 2026-04-01T10:00:00\nauthors: [Ida, Petra]\n---\nIt *froze*.",
        ),
        ("content/notes/2026-03-20-thaw.md", "---\ntitle: Thaw\nsummary: \"Melts & runs\"\n---\nNo frost."),
        ("content/notes/2025-12-01-snow.md", "---\ntitle: Snow\n---\n"),
        ("content/notes/undated.md", "---\ntitle: Undated\n---\n"),
        ("content/notes/2027-01-01-later.md", "---\ntitle: Later\n---\n"),
        (
            "content/pages/visit.md",
            "---\ntitle: Visit\nformerly: [/come/, /Old Place.html]\n---\nSee [the note](entry:notes/frost#when), [pods](term:family/pods), [may](route:month/mai), [a file](../notes/2026-03-20-thaw.md), [lost](page:nowhere) and [later](entry:notes/later).",
        ),
        ("content/pages/lost.md", "---\ntitle: Weg\n---\nNichts."),
        ("content/pages/kinds.md", "---\ntitle: Our kinds\n---\nAll."),
        ("tables/months.csv", "slug,title,number\nmai,Mai,5\njuni,Juni,06\n"),
        ("media/pod.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"40\" height=\"30\"/>"),
    ] {
        site.write(path, text);
    }
    site
}

/// What these addresses answer with, and what is said in addition.
#[track_caller]
pub fn answers(site: &Site, addresses: &[&str], expected: Expect) {
    let mut out = String::new();
    for address in addresses {
        let said = site.run(&["render", address]);
        let _ = writeln!(out, "{address} ({}): {}", said.code, said.out.trim_end());
        for line in said.err.lines().filter(|line| line.contains('[') || line.starts_with("note:")) {
            let _ = writeln!(out, "    {line}");
        }
    }
    expected.assert_eq(&out);
}

#[test]
fn terms_list_what_is_in_them_and_below() {
    let site = site();
    site.write(
        "themes/far/templates/listing.html",
        "+{listing.title} +{listing.term.id} +{listing.page}/+{listing.pages.count} of +{listing.total}:+{each entry in listing.items} +{entry.title} (+{each family in entry.family}+{family.label}+{between}, +{end})+{end} | up +{listing.term.parent.address}, down +{each child in listing.term.children}+{child.id} +{child.count}+{end} | +{listing.term.image} +{listing.term.image.width} | next +{listing.next} | +{classes.join(\" \")}",
    );
    answers(
        &site,
        &[
            "/families/pods/",
            "/families/legumes/",
            "/families/legumes/page/2/",
            "/families/beets/",
            "/families/empty/",
            "/families/legumes/page/3/",
        ],
        expect![[r#"
            /families/pods/ (0): Hülsen pods 1/2 of 3: Beet (Beets, Bohnen &amp; Erbsen) Pea (Bohnen &amp; Erbsen) | up , down legumes 3 | /media/pod.svg 40 | next /families/pods/page/2/ | listing family pods
            /families/legumes/ (0): Bohnen &amp; Erbsen legumes 1/2 of 3: Beet (Beets, Bohnen &amp; Erbsen) Pea (Bohnen &amp; Erbsen) | up /families/pods/, down  |   | next /families/legumes/page/2/ | listing family legumes
            /families/legumes/page/2/ (0): Bohnen &amp; Erbsen legumes 2/2 of 3: Runner (Bohnen &amp; Erbsen) | up /families/pods/, down  |   | next  | listing family legumes
            /families/beets/ (0): Beets beets 1/1 of 1: Beet (Beets, Bohnen &amp; Erbsen) | up , down  |   | next  | listing family beets
            /families/empty/ (1): error: Weg
                note: /families/empty/ answers with 404
            /families/legumes/page/3/ (1): error: Weg
                note: /families/legumes/page/3/ answers with 404; did you mean /families/legumes/?
        "#]],
    );
    let value = |text: &str| site.json(&["values", "/visit/", text])["value"]["text"].as_str().unwrap().to_owned();
    assert_eq!(value("taxonomies.family.count"), "3");
    assert_eq!(value("(kinds where it.family has \"legumes\").count"), "3");
    assert_eq!(value("(kinds where it.family.first == \"beets\").first.title"), "Beet");
    assert_eq!(value("taxonomies.family.label"), "Family");
}

#[test]
fn listings_by_date() {
    let site = site();
    site.write(
        "themes/far/templates/period.html",
        "+{listing.title}: +{listing.period.year}-+{listing.period.month}-+{listing.period.day}+{each entry in listing.items} +{entry.title}+{end} | +{listing.next}",
    );
    answers(
        &site,
        &[
            "/notes/2026/",
            "/notes/2026/03/",
            "/notes/2026/03/14/",
            "/notes/2025/",
            "/notes/2027/",
            "/notes/2026/3/",
            "/notes/",
        ],
        expect![[r#"
            /notes/2026/ (0): 2026: 2026-- Thaw Frost &lt;1&gt; |
            /notes/2026/03/ (0): März 2026: 2026-3- Thaw Frost &lt;1&gt; |
            /notes/2026/03/14/ (0): 14 März 2026: 2026-3-14 Frost &lt;1&gt; |
            /notes/2025/ (0): 2025: 2025-- Snow |
            /notes/2027/ (1): error: Weg
                note: /notes/2027/ answers with 404; the nearest are /notes/2025/, /notes/2026/
            /notes/2026/3/ (1): error: Weg
                note: /notes/2026/3/ answers with 404; the nearest are /notes/2026/03/, /notes/2026/, /notes/2025/, /notes/2025/12/
            /notes/ (0): listing: Notes
        "#]],
    );
}

#[test]
fn feeds() {
    let site = site();
    site.write(
        "content/notes/2026-03-21-odd.md",
        "---\ntitle: \"Odd & <b>\"\n---\nA \u{1} sign, ]]> and [a link](/visit/).",
    );
    answers(
        &site,
        &["/notes/feed.xml"],
        expect![[r#"
        /notes/feed.xml (0): <?xml version="1.0" encoding="utf-8"?>
        <feed xmlns="http://www.w3.org/2005/Atom" xml:lang="de" xml:base="https://seeds.example/">
          <title>Notes – Seeds</title>
          <id>https://seeds.example/notes/feed.xml</id>
          <updated>2026-04-01T10:00:00+02:00</updated>
          <link rel="self" type="application/atom+xml" href="https://seeds.example/notes/feed.xml"/>
          <link rel="alternate" type="text/html" href="https://seeds.example/notes/"/>
          <author>
            <name>Seeds</name>
          </author>
          <entry>
            <title>Odd &amp; &lt;b&gt;</title>
            <id>https://seeds.example/notes/odd/</id>
            <link rel="alternate" type="text/html" href="https://seeds.example/notes/odd/"/>
            <published>2026-03-21T00:00:00+01:00</published>
            <updated>2026-03-21T00:00:00+01:00</updated>
            <summary>A  sign, ]]&gt; and a link.</summary>
            <content type="html">&lt;p&gt;A  sign, ]]&amp;gt; and &lt;a href=&quot;/visit/&quot;&gt;a link&lt;/a&gt;.&lt;/p&gt;
        </content>
          </entry>
          <entry>
            <title>Thaw</title>
            <id>https://seeds.example/notes/thaw/</id>
            <link rel="alternate" type="text/html" href="https://seeds.example/notes/thaw/"/>
            <published>2026-03-20T00:00:00+01:00</published>
            <updated>2026-03-20T00:00:00+01:00</updated>
            <summary>Melts &amp; runs</summary>
            <content type="html">&lt;p&gt;No frost.&lt;/p&gt;
        </content>
          </entry>
          <entry>
            <title>Frost &lt;1&gt;</title>
            <id>https://seeds.example/notes/frost/</id>
            <link rel="alternate" type="text/html" href="https://seeds.example/notes/frost/"/>
            <published>2026-03-14T00:00:00+01:00</published>
            <updated>2026-04-01T10:00:00+02:00</updated>
            <author>
              <name>Ida</name>
            </author>
            <author>
              <name>Petra</name>
            </author>
            <summary>It froze.</summary>
            <content type="html">&lt;p&gt;It &lt;em&gt;froze&lt;/em&gt;.&lt;/p&gt;
        </content>
          </entry>
          <entry>
            <title>Snow</title>
            <id>https://seeds.example/notes/snow/</id>
            <link rel="alternate" type="text/html" href="https://seeds.example/notes/snow/"/>
            <published>2025-12-01T00:00:00+01:00</published>
            <updated>2025-12-01T00:00:00+01:00</updated>
            <content type="html"></content>
          </entry>
        </feed>
    "#]],
    );
    site.write(
        "themes/far/templates/listing/notes.xml",
        "<list of=\"+{listing.title}\">+{each note in listing.items}<note at=\"+{absolute(note.address)}\">+{note.title}</note>+{end}</list>",
    );
    answers(
        &site,
        &["/notes/feed.xml"],
        expect![[r#"
        /notes/feed.xml (0): <list of="Notes"><note at="https://seeds.example/notes/odd/">Odd &amp; &lt;b&gt;</note><note at="https://seeds.example/notes/thaw/">Thaw</note><note at="https://seeds.example/notes/frost/">Frost &lt;1&gt;</note><note at="https://seeds.example/notes/snow/">Snow</note></list>
    "#]],
    );
    assert_eq!(site.json(&["resolve", "/notes/feed.xml"])[0]["kind"], "listing");
    assert_eq!(site.template("/notes/feed.xml"), "listing/notes.xml of far");
}

#[test]
fn routes_and_tables() {
    let site = site();
    site.write(
        "themes/far/templates/route.html",
        "+{route.name} +{route.title} +{route.row.number + 1} | +{each month in tables.months}+{url(\"route:month/\" + month.slug)} +{end}| +{url(\"route:months\")} | +{request.title}",
    );
    site.write(
        "themes/far/templates/route/data.json",
        "[ +{each kind in kinds}{ \"title\": +{kind.title}, \"photo\": +{kind.photo} }+{between}, +{end} ]",
    );
    answers(
        &site,
        &["/months/", "/months/mai/", "/months/juni/", "/months/august/", "/kinds.json"],
        expect![[r#"
            /months/ (0): months Aussaat 1 | /months/mai/ /months/juni/ | /months/ | Aussaat
            /months/mai/ (0): month Mai 6 | /months/mai/ /months/juni/ | /months/ | Mai
            /months/juni/ (0): month Juni 061 | /months/mai/ /months/juni/ | /months/ | Juni
            /months/august/ (1): error: Weg
                note: /months/august/ answers with 404; did you mean /months/?
            /kinds.json (0): [ { "title": "Beet", "photo": null }, { "title": "Pea", "photo": null }, { "title": "Runner", "photo": "/media/pod.svg?v=027d1900a9e5" } ]
        "#]],
    );
}

#[test]
fn tables_of_every_format_and_a_long_one() {
    let site = site();
    let rows: String = (0..41_000).map(|number| format!("row-{number}\n")).collect();
    let mut config = CONFIG.to_owned();
    for name in ["json", "yaml", "toml", "long"] {
        let _ = write!(config, "[routes.{name}]\naddress = \"/{name}/{{slug}}/\"\neach = \"{name}\"\n");
    }
    for (path, text) in [
        ("hausblatt.toml", config.as_str()),
        ("tables/json.json", "[{ \"title\": \"J & j\", \"n\": 1.5, \"deep\": { \"a\": true } }]"),
        ("tables/yaml.yaml", "- title: Y\n  n: 2\n  deep: { a: b }\n- slug: z\n  n: no\n"),
        ("tables/toml.toml", "[[rows]]\ntitle = \"T\"\nn = 3\ndeep = { a = 2026-03-14 }\n"),
        ("tables/long.csv", &format!("slug\n{rows}")),
        ("themes/far/templates/route.html", "+{route.row.title} +{route.row.n} +{route.row.deep.a} +{request.title}"),
    ] {
        site.write(path, text);
    }
    answers(
        &site,
        &["/json/j-j/", "/yaml/y/", "/yaml/z/", "/toml/t/", "/long/row-40999/"],
        expect![[r#"
        /json/j-j/ (0): J &amp; j 1.5 true J &amp; j
        /yaml/y/ (0): Y 2 b Y
        /yaml/z/ (0):  no  Z
        /toml/t/ (0): T 3 2026-03-14 T
        /long/row-40999/ (0):    Row 40999
    "#]],
    );
    assert_eq!(
        site.run(&["resolve", "/sitemap-1.xml"]).out,
        "/sitemap-1.xml  →  200\npart 1 of the sitemap\n\nrenders   a file that is built in\n"
    );
}

#[test]
fn searches() {
    let site = site();
    site.write(
        "themes/far/templates/search.html",
        "+{request.robots} [+{search.query}] +{listing.total}:+{each entry in search.items} +{entry.title}+{end} | +{each page in listing.pages}+{page.address} +{end}",
    );
    site.write("content/kinds/beans.md", "---\ntitle: Möhre\nfamily: beets\nsummary: runs deep\n---\n");
    for number in 0..22 {
        site.write(&format!("content/notes/2024-01-{:02}-n{number}.md", number + 1), "---\ntitle: Many\n---\n");
    }
    let wordy: String = (1..60).map(|word| format!("w{word} ")).collect();
    site.write("content/kinds/wordy.md", format!("---\ntitle: Wordy\nfamily: beets\n---\n{wordy}\n"));
    answers(
        &site,
        &[
            "/suche/",
            "/suche/?q=mohre",
            "/suche/?q=FROST",
            "/suche/?q=fro",
            "/suche/?q=climbs+high",
            "/suche/?q=nichts",
            "/suche/?q=zzz",
            "/suche/?q=%26%22%3Cx",
            "/suche/page/2/?q=many",
            "/suche/page/3/?q=many",
            "/suche/page/2/",
            "/suche?q=x",
        ],
        expect![[r#"
            /suche/ (0): noindex [] 0: | /suche/
            /suche/?q=mohre (0): noindex [mohre] 1: Möhre | /suche/?q=mohre
            /suche/?q=FROST (0): noindex [FROST] 2: Frost &lt;1&gt; Thaw | /suche/?q=FROST
            /suche/?q=fro (0): noindex [fro] 2: Frost &lt;1&gt; Thaw | /suche/?q=fro
            /suche/?q=climbs+high (0): noindex [climbs high] 1: Runner | /suche/?q=climbs%20high
            /suche/?q=nichts (0): noindex [nichts] 0: | /suche/?q=nichts
            /suche/?q=zzz (0): noindex [zzz] 0: | /suche/?q=zzz
            /suche/?q=%26%22%3Cx (0): noindex [&amp;&quot;&lt;x] 0: | /suche/?q=%26%22%3Cx
            /suche/page/2/?q=many (0): noindex [many] 22: Many Many | /suche/?q=many /suche/page/2/?q=many
            /suche/page/3/?q=many (1): error: Weg
                note: /suche/page/3/ answers with 404; did you mean /suche/?
            /suche/page/2/ (1): error: Weg
                note: /suche/page/2/ answers with 404; did you mean /suche/?
            /suche?q=x (0): <!doctype html>
            <html lang="en">
            <head>
            <meta charset="utf-8">
            <meta name="robots" content="noindex">
            <meta http-equiv="refresh" content="0; url=/suche/?q=x">
            <link rel="canonical" href="/suche/?q=x">
            <title>This page has moved</title>
            </head>
            <body>
            <p>This page has moved to <a href="/suche/?q=x">/suche/?q=x</a>.</p>
            </body>
            </html>
                note: /suche redirects to /suche/?q=x (301)
        "#]],
    );
    let said = site.run(&["build"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    let page = site.read("built/suche/index.html");
    let (before, rest) = page.split_once("?v=").unwrap();
    assert_eq!(before, "noindex [] 0: | /suche/ <script src=\"/suche/search.js");
    assert_eq!(&rest[12..], "\" defer></script>\n");
    let index: serde_json::Value = serde_json::from_str(&site.read("built/suche/index.json")).unwrap();
    let names = fs::read_dir(site.path("built/suche/index")).unwrap();
    let names = names.map(|entry| entry.unwrap().file_name().into_string().unwrap());
    let blocks =
        names.filter(|name| name.starts_with("e-")).map(|name| site.read(&format!("built/suche/index/{name}")));
    let blocks = blocks.map(|text| serde_json::from_str::<BTreeMap<u32, [String; 3]>>(&text).unwrap());
    let entries: Vec<[String; 3]> = blocks.flat_map(BTreeMap::into_values).collect();
    assert_eq!(index["entries"], entries.len());
    let found = entries.iter().find(|[_, title, _]| title == "Frost <1>").unwrap();
    assert_eq!(found[2], "It froze.");
    let long = entries.iter().find(|[_, title, _]| title == "Wordy").unwrap();
    assert_eq!(long[2], format!("{}w40…", (1..40).map(|word| format!("w{word} ")).collect::<String>()));
    let words: serde_json::Value = serde_json::from_str(&site.read("built/suche/index/w-.json")).unwrap();
    assert!(words["words"]["froze"].is_array() && words["words"]["it"].is_null(), "{words}");
    assert!(site.read("built/suche/search.js").contains("search-results"));
    let titles: BTreeSet<&str> = entries.iter().map(|[_, title, _]| title.as_str()).collect();
    assert!(!titles.contains("Hidden") && !titles.contains("Weg") && !titles.contains("Later"), "{titles:?}");
}

#[test]
fn error_pages_are_filled_by_content() {
    let site = site();
    site.write("themes/far/templates/error.html", "+{error.status} +{error.title} +{request.title}: +{content.body}+{request.robots} +{error.nearest.first.address}");
    site.write("themes/far/templates/page/visit.html", "+{answer 410 \"Taken down\"}");
    site.write("themes/far/templates/entry.html", "+{answer 418}");
    answers(
        &site,
        &["/vist/", "/visit/", "/notes/frost/", "/lost/", "content/pages/lost.md"],
        expect![[r#"
            /vist/ (1): 404 Page not found Weg: <p>Nichts.</p>
            noindex /visit/
                note: /vist/ answers with 404; did you mean /visit/?
            /visit/ (1): 410 Taken down Taken down: <p>Nichts.</p>
            noindex
            /notes/frost/ (1): 418 The request can&#39;t be answered The request can&#39;t be answered: noindex /notes/
            /lost/ (1): 404 Page not found Weg: <p>Nichts.</p>
            noindex
                note: /lost/ answers with 404
            content/pages/lost.md (1): 404 Page not found Weg: <p>Nichts.</p>
            noindex
                note: /404.html answers with 404
        "#]],
    );
    let map = site.run(&["map", "--format", "csv"]).out;
    assert!(!map.contains("/lost/"), "{map}");
    let said = site.run(&["resolve", "content/pages/lost.md"]);
    assert!(said.out.starts_with("/404.html  →  404\nerror 404 · content/pages/lost.md\n"), "{}", said.whole());
    site.write("themes/far/templates/error.html", "+{[1][0] / 0}");
    answers(
        &site,
        &["/vist/"],
        expect![[r#"
            /vist/ (1): <!doctype html>
            <html lang="en">
            <head>
            <meta charset="utf-8">
            <meta name="robots" content="noindex">
            <title>404 Page not found</title>
            </head>
            <body>
            <h1>Page not found</h1>
            <p>Status 404</p>
            </body>
            </html>
                note: /vist/ answers with 404; did you mean /visit/?
                     1 | +{[1][0] / 0}
        "#]],
    );
}

#[test]
fn settings_come_from_site_and_lineage() {
    let site = site();
    site.write("themes/far/templates/page.html", "+{settings.motto} +{settings.seats} +{settings.about}");
    answers(
        &site,
        &["/visit/"],
        expect![[r#"
            /visit/ (0): Säen &amp; ernten 9 <p><a href="/visit/">in</a></p>
                     5 | …tes/2026-03-20-thaw.md), [lost](page:nowhere) and [later](entry:notes…
                     5 | …26-03-20-thaw.md), [lost](page:nowhere) and [later](entry:notes/later…
        "#]],
    );
    let toml = CONFIG.replace("motto = \"Säen & ernten\"", "seats = 12\nabout = \"*new*\"");
    site.write("hausblatt.toml", toml);
    answers(
        &site,
        &["/visit/"],
        expect![[r#"
            /visit/ (0):  12 <p><em>new</em></p>
                     5 | …tes/2026-03-20-thaw.md), [lost](page:nowhere) and [later](entry:notes…
                     5 | …26-03-20-thaw.md), [lost](page:nowhere) and [later](entry:notes/later…
        "#]],
    );
    assert_eq!(site.run(&["render", "/visit/", "--theme", "far"]).out, site.run(&["render", "/visit/"]).out);
}

#[test]
fn components_are_placed_called_and_rendered_alone() {
    let site = site();
    for (path, text) in [
        (
            "themes/far/components/notice/component.toml",
            "[[fields]]\nname = \"text\"\ntype = \"rich\"\ndefault = \"Closed\"\n[[fields]]\nname = \"bars\"\ntype = \"list\"\nfields = [ { name = \"to\", type = \"link\" }, { name = \"pic\", type = \"image\" } ]\n",
        ),
        (
            "themes/far/components/notice/component.html",
            "<aside>+{text}+{each bar in bars}<a href=\"+{bar.to}\">+{bar.pic.width}</a>+{end}</aside>",
        ),
        ("themes/far/components/notice/style.css", "far"),
        ("themes/far/components/notice/script.js", "far"),
        ("themes/near/components/notice/style.css", "near"),
        ("themes/far/layouts/document.html", "<head>+{used \"styles\"}+{used \"scripts\"}</head>\n+{slot}"),
        (
            "content/pages/visit.md",
            "---\ntitle: Visit\ntrays:\n  main:\n    - component: notice\n      text: \"Go to [kinds](page:kinds)\"\n    - component: notice\n      bars: [ { to: \"page:visit\", pic: /media/pod.svg } ]\n    - component: gone\n---\n",
        ),
        ("themes/far/templates/page/kinds.html", "+{component \"notice\" given text = \"plain <\"}"),
        ("content/pages/kinds.md", ""),
    ] {
        site.write(path, text);
    }
    site.write("hausblatt.toml", CONFIG.replace("listing = \"/kinds/\"\n", ""));
    answers(
        &site,
        &["/visit/", "/kinds/"],
        expect![[r#"
            /visit/ (0): <head><link rel="stylesheet" href="/assets/components/notice/style.css?v=dc94c9f9b7e0"><script defer src="/assets/components/notice/script.js?v=52e202bdc639"></script></head>
            Visit: <aside><p>Go to <a href="/kinds/">kinds</a></p>
            </aside>
            <aside><p>Closed</p>
            <a href="/visit/">40</a></aside>
            <div role="note" style="border:2px dashed #a62a1d;padding:0.5em 1em">content/pages/visit.md: no theme of the lineage has the component &quot;gone&quot;</div>
            /kinds/ (0): <head><link rel="stylesheet" href="/assets/components/notice/style.css?v=dc94c9f9b7e0"><script defer src="/assets/components/notice/script.js?v=52e202bdc639"></script></head>
            <aside><p>plain &lt;</p>
            </aside>
        "#]],
    );
    let said = site.run(&["build"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    assert_eq!(site.read("built/assets/components/notice/style.css"), "near");
    assert_eq!(site.read("built/assets/components/notice/script.js"), "far");
    assert!(!site.read("built/visit/index.html").contains("gone"), "what is left out is shown while developing only");
    let uses = site.json(&["resolve", "/visit/"])[0]["uses"].clone();
    assert_eq!(uses[0]["what"], "component");
    let alone = |arguments: &[&str]| site.run(&[&["render", "--component"], arguments].concat()).whole();
    let mut out = String::new();
    for arguments in [
        &["notice"][..],
        &["notice", "--set", "text=*Open* & <b>", "--document"],
        &["notice", "--set", "bars=[{ to: page:kinds }]"],
        &["notice", "--set", "txt=x"],
        &["notice", "--set", "bars=[{ too: x }]"],
        &["notise"],
        &["notice", "--set", "text"],
    ] {
        let _ = writeln!(out, "{}", alone(arguments));
    }
    expect![[r#"
        exit 0
        <aside><p>Closed</p>
        </aside>

        exit 0
        <head><link rel="stylesheet" href="/assets/components/notice/style.css"><script defer src="/assets/components/notice/script.js"></script></head>
        <aside><p><em>Open</em> &amp; <b></b></p><b>
        </b></aside>

        exit 0
        <aside><p>Closed</p>
        <a href="/kinds/"></a></aside>

        exit 1
        ---
        error    the component "notice" has no field "txt"
                 → did you mean "text"?                                    unknown-field


        exit 1
        ---
        error    "bars" of the component "notice": there is no field "too" here; did you
                 mean "to"?
                                                                              wrong-type


        exit 1
        ---
        error    there is no component "notise"
                 → did you mean "notice"?                              unknown-component


        exit 2
        ---
        error: invalid value 'text' for '--set <FIELD=VALUE>': write it as in heading="Two beds"

        For more information, try '--help'.

    "#]].assert_eq(&out);
}
