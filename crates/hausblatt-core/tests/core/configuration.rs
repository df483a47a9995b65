//! Every kind of error in configuration, manifests, headers and content, with its place and its help.

use std::fmt::Write;

use expect_test::{Expect, expect};
use hausblatt_core::asking::SiteOptions;
use hausblatt_core::files::Snapshot;
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::text::source::position;

pub const SITE: &str = "[site]\ntitle = \"S\"\ntheme = \"t\"\n";

/// A site with these files and the least that is needed, and what is said about it, a line each.
pub fn said(files: &[(&str, &str)]) -> String {
    let base = [
        ("hausblatt.toml", SITE),
        ("themes/t/hausblatt-theme.toml", ""),
        ("themes/t/templates/fallback.html", "x"),
        ("themes/t/layouts/document.html", "+{slot}"),
    ];
    let kept = base.iter().filter(|(path, _)| !files.iter().any(|(other, _)| other == path)).chain(files);
    let snapshot = Snapshot::in_memory(kept.copied());
    let texts = snapshot.clone();
    let (problems, loaded) = match World::load(snapshot, SiteOptions::on("2026-11-23".parse().unwrap())) {
        Ok(world) => (world.problems, true),
        Err(Unloadable(problems)) => (problems, false),
    };
    let mut out = String::new();
    for problem in problems {
        let place = problem.place.as_ref().map(|place| {
            let text = texts.file(&place.path).and_then(|node| node.text().cloned()).unwrap_or_else(|| "".into());
            let at = position(&text, place.span.start);
            format!("{}:{}:{} ", place.path, at.line, at.column)
        });
        let word = if problem.is_error() { "error" } else { "warning" };
        let _ = write!(out, "{}{word} {}: {}", place.unwrap_or_default(), problem.code, problem.message);
        let _ = writeln!(out, "{}", problem.help.map(|help| format!("\n    {help}")).unwrap_or_default());
    }
    if !loaded {
        out.push_str("no site\n");
    }
    out
}

/// What is said about a site with each of these pieces of configuration behind `[site]`.
#[track_caller]
pub fn configurations(pieces: &[&str], expected: Expect) {
    let draft = ("content/pages/draft.md", "---\ndraft: true\n---\n");
    let with = |piece: &&str| said(&[("hausblatt.toml", &format!("{SITE}{piece}")), draft]);
    let said: Vec<String> = pieces.iter().map(with).collect();
    expected.assert_eq(&said.join("\n"));
}

#[test]
fn nothing_is_wrong_with_the_least_site() {
    assert_eq!(said(&[]), "");
}

#[test]
fn the_site_itself() {
    let sites = [
        "",
        "[site]\n",
        "[site]\ntitle = 3\ntheme = \"t\"\n",
        "site = 1\n",
        "[site\n",
        "[site]\ntitle = \"S\"\ntitle = \"T\"\ntheme = \"t\"\n",
        "[site]\ntitle = \"S\"\ntheme = \"u\"\n",
        "[site]\ntitle = \"S\"\ntheme = \"t\"\ntimezone = \"Moon\"\nown = [1, \"a\"]\n",
    ];
    let said: Vec<String> = sites.iter().map(|text| said(&[("hausblatt.toml", text)])).collect();
    expect![[r#"
        hausblatt.toml:1:1 error missing-key: hausblatt.toml lacks [site]
            write [site] with title, theme, language and timezone
        no site

        hausblatt.toml:1:2 error missing-key: [site] lacks "title"
            write it as in title = "Marrow Lane Seed Library"
        hausblatt.toml:1:2 error missing-key: [site] lacks "theme"
            write it as in theme = "harbour"
        no site

        hausblatt.toml:2:9 error wrong-type: "title" must be a text, not 3
        no site

        hausblatt.toml:1:8 error wrong-type: "site" must be a group of keys, not 1
        hausblatt.toml:1:1 error missing-key: hausblatt.toml lacks [site]
            write [site] with title, theme, language and timezone
        no site

        hausblatt.toml:1:6 error bad-toml: unclosed table, expected `]`
        no site

        hausblatt.toml:3:1 error bad-toml: duplicate key
        no site

        hausblatt.toml:3:9 error unknown-theme: there is no theme "u"
            did you mean "t"?
        no site

        hausblatt.toml:4:12 error unknown-timezone: unknown timezone "Moon"
            write the name of a place as in Europe/Berlin, or UTC
    "#]]
    .assert_eq(&said.join("\n"));
}

#[test]
fn front_and_menus() {
    configurations(
        &[
            "[front]\npage = \"nowhere\"\n",
            "[front]\npage = \"draft\"\n",
            "[front]\npage = \"a\"\ncollection = \"b\"\n",
            "[front]\nfoo = 1\n",
            "[menus]\nmain = [ { to = \"page:vist\" }, { label = \"x\" }, { to = \"/fine/\", lable = \"x\" } ]\nside = 3\n",
            "[menus]\nmain = [ \"page:visit\" ]\n",
            "[content]\nhtml = \"trust\"\n",
            "[taxonomies]\n[search]\naddress = \"/s/\"\n",
        ],
        expect![[r#"
            hausblatt.toml:5:8 error dead-reference: broken reference "page:nowhere"
                references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM, route:NAME, feed:COLLECTION and period:COLLECTION/YEAR/MONTH/DAY

            hausblatt.toml:5:8 error dead-reference: broken reference "page:draft"
                it is a draft, so it has no address

            hausblatt.toml:5:8 error dead-reference: broken reference "page:a"
                references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM, route:NAME, feed:COLLECTION and period:COLLECTION/YEAR/MONTH/DAY
            hausblatt.toml:6:14 error two-fronts: the front is a page or a collection, not both
                keep one of the two keys

            hausblatt.toml:5:1 error unknown-key: unknown key "foo" in [front]
                its keys are page, collection

            hausblatt.toml:5:17 error dead-reference: broken reference "page:vist"
                references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM, route:NAME, feed:COLLECTION and period:COLLECTION/YEAR/MONTH/DAY
            hausblatt.toml:5:32 error missing-key: a menu's item lacks "to"
                write it as in to = "page:visit"
            hausblatt.toml:5:66 error unknown-key: unknown key "lable" in a menu's item
                did you mean "label"?
            hausblatt.toml:6:1 error wrong-type: a menu is a list of items
                write [ { to = "page:visit" } ]

            hausblatt.toml:5:10 error wrong-type: a menu's item is a group of keys
                write { to = "page:visit" }

            hausblatt.toml:5:8 error wrong-value: "html" can't be "trust"
                write "clean", "keep" or "escape"

        "#]],
    );
}

#[test]
fn collections() {
    configurations(
        &[
            "[collections.News]\naddress = \"/n/{slug}/\"\n",
            "[collections.each]\naddress = \"/n/{slug}/\"\n",
            "[collections.site]\naddress = \"/n/{slug}/\"\n",
            "[collections.n]\n",
            "[collections]\nn = 3\n",
            "[collections.n]\naddress = \"n/{slug}\"\n",
            "[collections.n]\naddress = \"/n/\"\n",
            "[collections.n]\naddress = \"/n/{family}/{slug}/\"\n",
            "[collections.n]\naddress = \"/n//{slug}/\"\nlisting = \"n\"\n",
            "[collections.n]\naddress = \"/n/{slug}/\"\norder = \"date backwards\"\nfuture = \"hide\"\nper_page = \"ten\"\n",
            "[collections.n]\naddress = \"/n/{slug}/\"\nperiods = [\"year\"]\nfeed = true\n",
            "[collections.a]\naddress = \"/a/{slug}/\"\nlisting = \"/x/\"\n[collections.b]\naddress = \"/b/{slug}/\"\nlisting = \"/x/\"\n",
        ],
        expect![[r#"
            hausblatt.toml:4:14 error bad-name: "News" can't name a collection
                a collection's name is lower-case letters, digits and underscores, and no word of the language

            hausblatt.toml:4:14 error bad-name: "each" can't name a collection
                a collection's name is lower-case letters, digits and underscores, and no word of the language

            hausblatt.toml:4:14 error name-taken: "site" has a meaning of its own; a collection can't be called so
                choose another name

            hausblatt.toml:4:14 error missing-key: [collections.n] lacks "address"
                write it as in address = "/n/{slug}/"

            hausblatt.toml:5:1 error wrong-type: [collections.n] must be a group of keys, not a number
                write [collections.n], and its keys below it

            hausblatt.toml:5:11 error bad-address: "n/{slug}" is not a valid pattern of addresses
                an address begins and ends with "/"

            hausblatt.toml:5:11 error bad-address: "/n/" is not a valid pattern of addresses
                {slug} must be in it, or all entries have one address

            hausblatt.toml:5:11 error bad-address: there is no placeholder {family} for the addresses of n
                {slug}, {year}, {month}, {day} can be in it, and the name of a taxonomy whose "of" has "n"

            hausblatt.toml:5:11 error bad-address: "/n//{slug}/" is not a valid pattern of addresses
                write it as in /journal/, without ? # % or a doubled /
            hausblatt.toml:6:11 error bad-address: "n" is not a valid address
                an address begins and ends with "/"

            hausblatt.toml:6:9 error wrong-value: "date backwards" is not an order
                write a key, with "desc" after it for the largest first
            hausblatt.toml:7:10 error wrong-value: "future" can't be "hide"
                write "wait" or "show"
            hausblatt.toml:8:12 error wrong-type: "per_page" must be a whole number from 1 up, not a text

            hausblatt.toml:4:14 error missing-key: a listing by periods is below a listing, and "n" has none
                write listing = "/n/"
            hausblatt.toml:7:8 error missing-key: a feed is below a listing, and "n" has none
                write listing = "/n/"
            hausblatt.toml:7:8 warning no-site-address: a feed needs the site's own address for its links
                write address = "https://…" under [site]

            hausblatt.toml:9:11 error same-address: two things have the address /x/
                give one of them another slug or address
        "#]],
    );
}

#[test]
fn fields() {
    configurations(
        &[
            "[pages.fields]\na = \"text\"\n",
            "[pages.fields]\na = { typ = \"text\" }\n",
            "[pages.fields]\na = { type = \"nubmer\" }\n",
            "[pages.fields]\na = { type = \"choice\" }\nb = { type = \"list\", of = \"things\" }\n",
            "[pages.fields]\ntitle = { type = \"text\" }\naddress = { type = \"text\" }\n",
            "[pages.fields]\na = { type = \"number\", default = \"x\", foo = 1 }\n",
            "[pages]\nfoo = 1\n",
        ],
        expect![[r#"
            hausblatt.toml:5:5 error wrong-type: a field is a group of keys
                write a = { type = "text" }

            hausblatt.toml:5:1 error missing-key: the field "a" lacks "type"
                write it as in type = "text"

            hausblatt.toml:5:14 error wrong-value: there is no type "nubmer"
                did you mean "number"?

            hausblatt.toml:5:14 error missing-key: a choice lacks its options
                write options = ["first", "second"]
            hausblatt.toml:6:27 error wrong-value: there is no type "things"
                the types are text, rich, number, yes-no, color, date, choice, link, image, page, entry, list

            hausblatt.toml:5:1 error name-taken: "title" is a key that all content has; a field can't be called so
                choose another name
            hausblatt.toml:6:1 error name-taken: "address" is a key that all content has; a field can't be called so
                choose another name

            hausblatt.toml:5:34 error wrong-type: this must be a number, not a text
            hausblatt.toml:5:39 error unknown-key: unknown key "foo" in the field "a"
                its keys are name, type, min, max, options, of, collection, fields, label, about, default, required

            hausblatt.toml:5:1 error unknown-key: unknown key "foo" in [pages]
                its only key is fields
        "#]],
    );
}

#[test]
fn taxonomies() {
    let news = "[collections.news]\naddress = \"/news/{slug}/\"\n";
    let with = |text: &str| format!("{news}[taxonomies.hue]\n{text}\n");
    let pieces = [
        with(""),
        with("of = \"news\"\naddress = \"/k/{term}/\""),
        with("of = [\"newz\"]\naddress = \"/k/{trem}/\""),
        with("of = [\"news\", \"pages\"]\naddress = \"/k/\"\nlable = \"x\""),
        with("of = []\naddress = \"k/{term}\"\nterms = [1]"),
        with("of = [\"news\"]\naddress = \"/k/{term}/\"\nterms.Big = {}\nterms.a = 1\nterms.b = { parnt = \"a\" }"),
        with("of = [\"news\"]\naddress = \"/k/{term}/\"\nterms.a = { parent = \"b\" }\nterms.b = { parent = \"a\" }"),
        with(
            "of = [\"news\"]\naddress = \"/k/{term}/\"\nterms.a = { parent = \"a\" }\nterms.b = { parent = \"c\", image = 3 }",
        ),
        "taxonomies = 3\n".to_owned(),
        "[taxonomies]\nhue = 3\n".to_owned(),
        format!("{news}[taxonomies.news]\nof = [\"news\"]\naddress = \"/n/{{term}}/\"\n"),
        format!("{news}[taxonomies.title]\nof = [\"news\"]\naddress = \"/n/{{term}}/\"\n"),
        format!("{news}[taxonomies.Kind]\nof = [\"news\"]\naddress = \"/n/{{term}}/\"\n"),
        format!(
            "{news}fields.hue = {{ type = \"text\" }}\n[taxonomies.hue]\nof = [\"news\"]\naddress = \"/n/{{term}}/\"\n"
        ),
        "[collections.news]\naddress = \"/{hue}/{slug}/\"\n".to_owned(),
    ];
    let pieces: Vec<&str> = pieces.iter().map(String::as_str).collect();
    configurations(
        &pieces,
        expect![[r#"
            hausblatt.toml:6:13 error missing-key: [taxonomies.hue] lacks "of"
                write it as in of = ["varieties"]: the collections whose entries it groups
            hausblatt.toml:6:13 error missing-key: [taxonomies.hue] lacks "address"
                write it as in address = "/hue/{term}/"

            hausblatt.toml:7:6 error wrong-type: "of" must be a list of texts, not a text

            hausblatt.toml:7:7 error dead-reference: there is no collection "newz"
                did you mean "news"?
            hausblatt.toml:8:11 error bad-address: "/k/{trem}/" is not a valid pattern of addresses
                {term} must be in it once, and nothing else in braces

            hausblatt.toml:8:11 error bad-address: "/k/" is not a valid pattern of addresses
                {term} must be in it once, and nothing else in braces
            hausblatt.toml:9:1 error unknown-key: unknown key "lable" in [taxonomies.hue]
                did you mean "label"?

            hausblatt.toml:8:11 error bad-address: "k/{term}" is not a valid pattern of addresses
                an address begins and ends with "/"
            hausblatt.toml:9:9 error wrong-type: "terms" must be a group of keys, not a list

            hausblatt.toml:9:7 error bad-name: "Big" is not a valid term: lower-case letters and digits with single hyphens between them
                write big = { label = "Big" }
            hausblatt.toml:10:11 error wrong-type: a term is a group of keys
                write a = { label = "…" }
            hausblatt.toml:11:13 error unknown-key: unknown key "parnt" in the term "b"
                did you mean "parent"?

            hausblatt.toml:9:22 error term-circle: the term "a" is below itself
                take "parent" out of one of the terms of the circle

            hausblatt.toml:9:22 error term-circle: the term "a" is below itself
                take "parent" out of one of the terms of the circle
            hausblatt.toml:10:22 error dead-reference: there is no term "c"
                did you mean "a"?
            hausblatt.toml:10:35 error wrong-type: an image is a path, or has a "file" and an "alt"
                write image = "/media/pods.svg"


            hausblatt.toml:5:1 error wrong-type: [taxonomies.hue] must be a group of keys, not a number
                write [taxonomies.hue], and its keys below it

            hausblatt.toml:6:13 error name-taken: a taxonomy and a collection are both called "news"
                give one of them another name

            hausblatt.toml:6:13 error name-taken: "title" is a key that all content has; a taxonomy can't be called so
                choose another name

            hausblatt.toml:6:13 error bad-name: "Kind" can't name a taxonomy
                a taxonomy's name is lower-case letters, digits and underscores, and no word of the language

            hausblatt.toml:7:13 error name-taken: a taxonomy and a field are both called "hue"
                give one of them another name

            hausblatt.toml:5:11 error bad-address: there is no placeholder {hue} for the addresses of news
                {slug}, {year}, {month}, {day} can be in it, and the name of a taxonomy whose "of" has "news"
        "#]],
    );
}

#[test]
fn routes_search_errors_and_ladders() {
    configurations(
        &[
            "[routes]\na = 1\n",
            "[routes.a]\n",
            "[routes.a]\naddress = \"a\"\n",
            "[routes.a]\naddress = \"/a/{slug}/\"\n",
            "[routes.a]\naddress = \"/a/\"\neach = \"months\"\n",
            "[routes.a]\naddress = \"/a/{slug}/\"\neach = \"months\"\n",
            "[routes.a]\naddress = \"/a/{slug/\"\neach = \"months\"\ntitel = \"A\"\n",
            "[routes.\"a b\"]\naddress = \"/a.json\"\n",
            "[routes.a]\naddress = \"/a/\"\n[routes.b]\naddress = \"/a/\"\n",
            "[routes.a]\naddress = \"/sitemap.xml\"\n",
            "[routes.a]\naddress = \"/../a/\"\n",
            "[search]\n",
            "[search]\naddress = \"find\"\n",
            "[search]\naddress = \"/{a}/\"\n",
            "[errors]\n404 = \"lost\"\n",
            "[errors]\n404 = \"draft\"\n200 = \"a\"\nfoo = \"b\"\n500 = 3\n",
            "[ladders]\nentries = []\nentry = \"a\"\n",
            "[ladders]\nentry = [\"entry/{colection}\", \"entry/{id\", \"entry.html\", \"/entry\", \"fallback\", \"offered/a\", \"\"]\n",
            "[ladders]\nsearch = [\"search/{query}\"]\n",
            "[collections.n]\naddress = \"/n/{slug}/\"\nviews = [\"Print\", \"page\"]\nperiods = [\"week\"]\nfeed = \"yes\"\n",
        ],
        expect![[r#"
            hausblatt.toml:5:1 error wrong-type: [routes.a] must be a group of keys, not a number
                write [routes.a], and its keys below it

            hausblatt.toml:4:9 error missing-key: [routes.a] lacks "address"
                write it as in address = "/a/"

            hausblatt.toml:5:11 error bad-address: "a" is not a valid address of a route
                an address begins and ends with "/"

            hausblatt.toml:5:11 error bad-address: "/a/{slug}/" is not a valid address of a route
                only a route with "each" has something in braces

            hausblatt.toml:5:11 error bad-address: "/a/" is not a valid address of a route
                {slug} must be in it, or all rows have one address

            hausblatt.toml:6:8 error dead-reference: there is no table "months"
                write the rows into tables/months.csv

            hausblatt.toml:5:11 error bad-address: "/a/{slug/" is not a valid address of a route
                each { needs a }
            hausblatt.toml:7:1 error unknown-key: unknown key "titel" in [routes.a]
                did you mean "title"?

            hausblatt.toml:4:9 error bad-name: "a b" can't name a route
                a route's name is lower-case letters and digits with single hyphens between them

            hausblatt.toml:7:11 error same-address: two things have the address /a/
                give one of them another slug or address

            hausblatt.toml:5:11 error same-address: two things have the address /sitemap.xml
                give one of them another slug or address

            hausblatt.toml:5:11 error bad-address: "/../a/" is not a valid address of a route
                leave out "." and ".."

            hausblatt.toml:4:2 error missing-key: [search] lacks "address"
                write it as in address = "/search/"

            hausblatt.toml:5:11 error bad-address: "find" is not a valid address
                an address begins and ends with "/"

            hausblatt.toml:5:11 error bad-address: "/{a}/" is not a valid address
                write it without braces

            hausblatt.toml:5:7 error dead-reference: broken reference "page:lost"
                references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM, route:NAME, feed:COLLECTION and period:COLLECTION/YEAR/MONTH/DAY

            hausblatt.toml:5:7 warning dead-reference: broken reference "page:draft"
                it is a draft, so it has no address
            hausblatt.toml:6:1 error wrong-value: "200" is not a status of a failed request
                write it as in 404 = "lost"
            hausblatt.toml:7:1 error wrong-value: "foo" is not a status of a failed request
                write it as in 404 = "lost"
            hausblatt.toml:8:7 error wrong-type: "500" must be a page's id, not a number

            hausblatt.toml:5:1 error unknown-key: unknown key "entries" in [ladders]
                its keys are front, page, entry, listing, period, search, route, error
            hausblatt.toml:6:9 error wrong-type: "entry" must be a list of texts, not a text

            hausblatt.toml:5:10 error wrong-value: "entry/{colection}" is not a valid name of a template
                did you mean "collection"?
            hausblatt.toml:5:31 error wrong-value: "entry/{id" is not a valid name of a template
                each { needs a }
            hausblatt.toml:5:44 error wrong-value: "entry.html" is not a valid name of a template
                write a name below templates/ without its extension, as in entry/{collection}/{id}
            hausblatt.toml:5:58 error wrong-value: "/entry" is not a valid name of a template
                write a name below templates/ without its extension, as in entry/{collection}/{id}
            hausblatt.toml:5:68 error wrong-value: "fallback" is not a valid name of a template
                leave it out: fallback is always the last
            hausblatt.toml:5:80 error wrong-value: "offered/a" is not a valid name of a template
                leave it out: a chosen template is always the first
            hausblatt.toml:5:93 error wrong-value: "" is not a valid name of a template
                write a name below templates/ without its extension, as in entry/{collection}/{id}

            hausblatt.toml:5:11 error wrong-value: "search/{query}" is not a valid name of a template
                nothing in braces has a meaning here

            hausblatt.toml:6:10 error bad-name: "Print" can't name a view
                a view's name is lower-case letters and digits with single hyphens between them
            hausblatt.toml:6:19 error bad-name: "page" can't name a view
                a view's name is lower-case letters and digits with single hyphens between them
            hausblatt.toml:7:12 error wrong-value: "week" is not a valid period
                the periods are year, month and day
            hausblatt.toml:8:8 error wrong-type: "feed" must be true or false, not a text
        "#]],
    );
}

#[test]
fn addresses_that_meet() {
    let config = format!(
        "{SITE}[collections.news]\naddress = \"/news/{{slug}}/\"\nlisting = \"/news/\"\nperiods = [\"year\"]\nviews = [\"print\"]\n[search]\naddress = \"/a/\"\n"
    );
    let files = [
        ("hausblatt.toml", config.as_str()),
        ("content/news/2026-01-01-x.md", ""),
        ("content/news/2026.md", ""),
        ("content/pages/a.md", "---\nformerly: [/news/x/, /b/, /b/, /a/, c, //d/]\n---\n"),
        ("content/pages/news/x/print.md", ""),
    ];
    expect![[r#"
        hausblatt.toml:6:11 error same-address: two things have the address /news/2026/
            give one of them another slug or address
        hausblatt.toml:8:10 error same-address: two things have the address /news/x/print/
            give one of them another slug or address
        hausblatt.toml:10:11 error same-address: two things have the address /a/
            give one of them another slug or address
        content/pages/a.md:2:12 error same-address: two things have the address /news/x/
            take it out of formerly, or give what is there now another slug or address
        content/pages/a.md:2:27 error same-address: two things have the address /b/
            take it out of formerly, or give what is there now another slug or address
        content/pages/a.md:2:32 warning self-redirect: /a/ is still the address of this
            take it out of formerly
        content/pages/a.md:2:37 error wrong-type: "c" is not a valid address: it does not begin with "/"
            write it as in formerly: /old/address/
        content/pages/a.md:2:40 error wrong-type: "//d/" is not a valid address: it has a part that is empty, or that is "." or ".."
            write it as in formerly: /old/address/
    "#]]
    .assert_eq(&said(&files));
}

#[test]
fn configuration_that_asks_in_vain() {
    let config = format!(
        "{SITE}[collections.news]\naddress = \"/ne\u{308}ws/{{slug}}/\"\nlisting = \"/ne\u{308}ws/\"\nfeed = false\nperiods = [\"day\"]\norder = \"daet\"\n[taxonomies.hue]\nof = [\"news\"]\naddress = \"/k/{{term}}/\"\nterms.green = {{ image = \"media/gren.svg\" }}\n[settings]\nto = \"page:nowhere\"\nlogo = \"/assets/logo.svg\"\n[menus]\nmain = [ {{ to = \"page:draft\" }}, {{ to = \"term:hue/green\" }}, {{ to = \"route:none\" }} ]\n"
    );
    let files = [
        ("hausblatt.toml", config.as_str()),
        ("themes/t/hausblatt-theme.toml", "[settings]\nto = { type = \"link\" }\nlogo = { type = \"image\" }\n"),
        ("content/news/a.md", ""),
        ("content/pages/draft.md", "---\ndraft: true\n---\n"),
        ("content/pages/moved.md", "---\nformerly: [/a?p=1, /b/./c/, \"/d\\u0001/\", /e]\n---\n"),
        ("media/green.svg", ""),
    ];
    expect![[r##"
        hausblatt.toml:4:14 warning no-dates: no entry of "news" has a date, so there is nothing for its listings by date
            write date: 2026-03-14 into entries, or begin their file names with it
        hausblatt.toml:9:9 warning unknown-order: no entry of "news" is known to have "daet"
            did you mean "date"?
        hausblatt.toml:13:25 warning missing-media: there is no file media/gren.svg
            did you mean "media/green.svg"?
        hausblatt.toml:15:6 warning dead-reference: broken link "page:nowhere": nothing has this address
        hausblatt.toml:16:8 warning unknown-asset: no theme of the lineage has the asset "logo.svg"
        hausblatt.toml:18:17 warning dead-reference: broken reference "page:draft"
            it is a draft, so it has no address
        hausblatt.toml:18:40 warning dead-reference: broken reference "term:hue/green"
            nothing is in this term, so it has no listing
        hausblatt.toml:18:67 error dead-reference: broken reference "route:none"
            references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM, route:NAME, feed:COLLECTION and period:COLLECTION/YEAR/MONTH/DAY
        content/pages/moved.md:2:12 warning former-query: "/a?p=1" is redirected whatever comes after "?" or "#"
            write /a/
        content/pages/moved.md:2:20 error wrong-type: "/b/./c/" is not a valid address: it has a part that is empty, or that is "." or ".."
            write it as in formerly: /old/address/
        content/pages/moved.md:2:29 error wrong-type: "/d/" is not a valid address: it holds a control character
            write it as in formerly: /old/address/
    "##]].assert_eq(&said(&files));
}
