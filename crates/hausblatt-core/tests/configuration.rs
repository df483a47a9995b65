//! Every kind of fault in configuration, manifests, headers and content, with its place and its help.

#![allow(clippy::unwrap_used, clippy::panic)]

use std::fmt::Write;

use expect_test::{Expect, expect};
use hausblatt_core::asking::Asking;
use hausblatt_core::snapshot::Snapshot;
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::source::position;

const SITE: &str = "[site]\ntitle = \"S\"\ntheme = \"t\"\n";

/// A site with these files besides the least that is needed, and what is said about it, a line each.
fn said(files: &[(&str, &str)]) -> String {
    let base = [
        ("hausblatt.toml", SITE),
        ("themes/t/hausblatt-theme.toml", ""),
        ("themes/t/templates/fallback.html", "x"),
        ("themes/t/layouts/document.html", "+{slot}"),
    ];
    let kept = base.iter().filter(|(path, _)| !files.iter().any(|(other, _)| other == path)).chain(files);
    let snapshot = Snapshot::in_memory(kept.copied());
    let texts = snapshot.clone();
    let (problems, loaded) = match World::load(snapshot, Asking::on("2026-11-23".parse().unwrap())) {
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
fn configurations(pieces: &[&str], expected: Expect) {
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

        hausblatt.toml:1:6 error toml: unclosed table, expected `]`
        no site

        hausblatt.toml:3:1 error toml: duplicate key
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
            hausblatt.toml:5:8 error dead-reference: "page:nowhere" leads nowhere
                references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM and route:NAME

            hausblatt.toml:5:8 error dead-reference: "page:draft" leads nowhere
                it is a draft, so it has no address

            hausblatt.toml:5:8 error dead-reference: "page:a" leads nowhere
                references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM and route:NAME
            hausblatt.toml:6:14 error two-fronts: the front is a page or a collection, not both
                keep one of the two keys

            hausblatt.toml:5:1 error unknown-key: unknown key "foo" in [front]
                known are page, collection

            hausblatt.toml:5:17 error dead-reference: "page:vist" leads nowhere
                references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM and route:NAME
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

            hausblatt.toml:5:11 error bad-address: "n/{slug}" is no pattern of addresses
                an address begins and ends with "/"

            hausblatt.toml:5:11 error bad-address: "/n/" is no pattern of addresses
                {slug} must be in it, or all entries have one address

            hausblatt.toml:5:11 error bad-address: "/n/{family}/{slug}/" is no pattern of addresses
                {slug}, {year}, {month}, {day} can be in it

            hausblatt.toml:5:11 error bad-address: "/n//{slug}/" is no pattern of addresses
                write it as in /journal/, without ? # % or a doubled /
            hausblatt.toml:6:11 error bad-address: "n" is no address
                an address begins and ends with "/"

            hausblatt.toml:6:9 error wrong-value: "date backwards" is no order
                write a key, with "desc" behind it for the largest first
            hausblatt.toml:7:10 error wrong-value: "future" can't be "hide"
                write "wait" or "show"
            hausblatt.toml:8:12 error wrong-type: "per_page" must be a whole number from 1 up, not a text

            hausblatt.toml:4:14 error missing-key: a listing by periods stands below a listing, and "n" has none
                write listing = "/n/"
            hausblatt.toml:7:8 error missing-key: a feed stands below a listing, and "n" has none
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
                the types are text, rich, number, yes-no, color, date, choice, link, image, list

            hausblatt.toml:5:1 error name-taken: "title" is a key that all content has; a field can't be called so
                choose another name
            hausblatt.toml:6:1 error name-taken: "address" is a key that all content has; a field can't be called so
                choose another name

            hausblatt.toml:5:34 error wrong-type: this must be a number, not a text
            hausblatt.toml:5:39 error unknown-key: unknown key "foo" in the field "a"
                known are name, type, min, max, options, of, fields, label, about, default

            hausblatt.toml:5:1 error unknown-key: unknown key "foo" in [pages]
                known are fields
        "#]],
    );
}

const FIELDS: &str = "[pages.fields]\nn = { type = \"number\", min = 1, max = 9 }\ny = { type = \"yes-no\" }\nd = { type = \"date\" }\nc = { type = \"choice\", options = [\"a\", \"b\"] }\ni = { type = \"image\" }\nl = { type = \"list\", of = \"number\" }\nt = { type = \"text\" }\n";

#[test]
fn values_of_fields() {
    let config = format!("{SITE}{FIELDS}");
    let fronts = [
        "n: 0",
        "n: 10",
        "n: many",
        "n: 3.5",
        "y: yes",
        "y: perhaps",
        "d: 2026-13-01",
        "d: 2026-03-14 10:00",
        "c: c",
        "i: { alt: x }",
        "i: { file: /media/x.svg }",
        "l: [1, x]",
        "l: 3",
        "t: [a]",
        "t: 3",
        "n:",
    ];
    let mut out = String::new();
    for front in fronts {
        let page = format!("---\n{front}\n---\n");
        let _ = write!(out, "{front}\n{}", said(&[("hausblatt.toml", &config), ("content/pages/a.md", &page)]));
    }
    expect![[r#"
        n: 0
        content/pages/a.md:2:4 error wrong-type: this must be at least 1
        n: 10
        content/pages/a.md:2:4 error wrong-type: this must be at most 9
        n: many
        content/pages/a.md:2:4 error wrong-type: this must be a number, not a text
        n: 3.5
        y: yes
        y: perhaps
        content/pages/a.md:2:4 error wrong-type: this must be true, false, yes or no, not a text
        d: 2026-13-01
        content/pages/a.md:2:4 error wrong-type: "2026-13-01" is no date; write it as in 2026-03-14
        d: 2026-03-14 10:00
        c: c
        content/pages/a.md:2:4 error wrong-type: "c" is not one of a, b
        i: { alt: x }
        content/pages/a.md:2:4 error wrong-type: an image is a path, or has a "file" and an "alt"
        i: { file: /media/x.svg }
        content/pages/a.md:2:12 warning missing-media: there is no file media/x.svg
            put the file at media/x.svg
        l: [1, x]
        content/pages/a.md:2:8 error wrong-type: this must be a number, not a text
        l: 3
        t: [a]
        content/pages/a.md:2:4 error wrong-type: this must be a single value, not a list
        t: 3
        n:
    "#]]
    .assert_eq(&out);
}

#[test]
fn content() {
    let pages = [
        (
            "content/pages/a.md",
            "---\ntitle: [a]\ndate: soon\norder: first\nin_lists: maybe\ndraft: 3\nslug: A b\n---\n",
        ),
        ("content/pages/b.md", "---\nslug: \"!\"\naddress: /x/\nbody: x\n---\n"),
        ("content/pages/c.md", "---\ntilte: x\nown: 1\n---\n"),
        ("content/pages/d.md", "---\ntitle: x\n"),
        ("content/pages/Upper.md", "x"),
        ("content/pages/picture.svg", "x"),
        ("content/pages/two--hyphens.md", "x"),
        ("content/jurnal/a.md", "x"),
        ("content/loose.md", "x"),
    ];
    expect![[r#"
        content/jurnal/a.md:1:1 warning misplaced-content: "jurnal" is no collection of this site
            write [collections.jurnal] in hausblatt.toml, or move it to content/pages/
        content/loose.md:1:1 warning misplaced-content: this file stands beside the collections' folders
            move it to content/pages/
        content/pages/Upper.md:1:1 error bad-name: this file's name is no id
            a content file's name is lower-case letters and digits with single hyphens between them, as in scarlet-runner.md
        content/pages/a.md:2:8 error wrong-type: "title" must be a text, not a list
            put it in quotes
        content/pages/a.md:3:7 error wrong-type: "soon" is no date; write it as in 2026-03-14
        content/pages/a.md:4:8 error wrong-type: this must be a number, not a text
        content/pages/a.md:5:11 error wrong-type: this must be true, false, yes or no, not a text
        content/pages/a.md:6:8 error wrong-type: this must be true, false, yes or no, not a number
        content/pages/a.md:7:7 error wrong-type: "A b" is no slug: lower-case letters and digits with single hyphens between them
            write slug: a-b
        content/pages/b.md:2:7 error wrong-type: "!" is no slug: lower-case letters and digits with single hyphens between them
        content/pages/b.md:3:1 error name-taken: "address" is worked out by Hausblatt; it can't be set
            choose another name for the field
        content/pages/b.md:4:1 error name-taken: "body" is worked out by Hausblatt; it can't be set
            choose another name for the field
        content/pages/c.md:2:1 warning undeclared-field: the field "tilte" is not declared
            did you mean "title"?
        content/pages/c.md:3:1 warning undeclared-field: the field "own" is not declared
            declare it in hausblatt.toml, under the collection's fields
        content/pages/d.md:1:1 error front-matter: the front matter is never ended
            end it with a line of three hyphens: ---
        content/pages/picture.svg:1:1 error bad-name: this file's name is no id
            content is Markdown in files that end in .md; pictures belong into media/
        content/pages/two--hyphens.md:1:1 error bad-name: this file's name is no id
            a content file's name is lower-case letters and digits with single hyphens between them, as in scarlet-runner.md
    "#]].assert_eq(&said(&pages));
}

#[test]
fn manifests() {
    let manifests = [
        "[theme]\nparent = \"u\"\n",
        "[theme]\nparent = \"t\"\n",
        "[theme]\nversoin = \"1\"\n",
        "[thema]\n",
        "theme = 1\n",
        "[theme]\nhide = \"x\"\n",
        "[theme]\nhide = [\"templates/fallbak.html\"]\n",
        "[theme\n",
        "[settings]\nmotto = { type = \"text\" }\n",
    ];
    let said: Vec<String> = manifests.iter().map(|text| said(&[("themes/t/hausblatt-theme.toml", text)])).collect();
    expect![[r#"
        themes/t/hausblatt-theme.toml:2:10 error unknown-theme: there is no theme "u"
            did you mean "t"?
        no site

        themes/t/hausblatt-theme.toml:2:10 error theme-circle: these themes are each other's parents: t → t
            take "parent" out of one of them
        no site

        themes/t/hausblatt-theme.toml:2:1 error unknown-key: unknown key "versoin" in [theme]
            did you mean "version"?

        themes/t/hausblatt-theme.toml:1:2 error unknown-key: unknown key "thema" in hausblatt-theme.toml
            did you mean "theme"?

        themes/t/hausblatt-theme.toml:1:9 error wrong-type: "theme" must be a group of keys, not 1

        themes/t/hausblatt-theme.toml:2:8 error wrong-type: "hide" must be a list of texts, not a text

        themes/t/hausblatt-theme.toml:2:9 warning hides-nothing: no ancestor has a file "templates/fallbak.html" to hide
            write its path from its theme, as in templates/page/visit.html

        themes/t/hausblatt-theme.toml:1:7 error toml: unclosed table, expected `]`
        no site

    "#]]
    .assert_eq(&said.join("\n"));
}

#[test]
fn headers_of_theme_files() {
    let headers = [
        "label: 3",
        "for: 3",
        "for: [page, entries]",
        "layout: [x]",
        "layout: documnet",
        "takes: x",
        "takes: { a: }",
        "takes: { a-b: 1, each: 2 }",
        "about: x\nfoo: 1",
        "takes: { a: nothing, b: 1, c: text }",
        "layout: none",
        "{",
    ];
    let mut out = String::new();
    for header in headers {
        let file = format!("---\n{header}\n---\nx");
        let _ = write!(out, "{header}\n{}", said(&[("themes/t/templates/page.html", &file)]));
    }
    expect![[r#"
        label: 3
        themes/t/templates/page.html:2:1 warning not-offered: editors are not offered this: it stands in templates/
            move it to templates/offered/page.html
        themes/t/templates/page.html:2:8 error wrong-type: "label" must be a text, not 3
        for: 3
        themes/t/templates/page.html:2:1 warning not-offered: editors are not offered this: it stands in templates/
            move it to templates/offered/page.html
        themes/t/templates/page.html:2:6 error wrong-value: this is nothing that a template can be for
            write page, entry or entry/COLLECTION
        for: [page, entries]
        themes/t/templates/page.html:2:1 warning not-offered: editors are not offered this: it stands in templates/
            move it to templates/offered/page.html
        themes/t/templates/page.html:2:13 error wrong-value: this is nothing that a template can be for
            write page, entry or entry/COLLECTION
        layout: [x]
        themes/t/templates/page.html:2:9 error wrong-type: "layout" must be a text, not a list
        layout: documnet
        themes/t/templates/page.html:2:9 error unknown-layout: no theme of the lineage has the layout "documnet"
            did you mean "document"?
        takes: x
        themes/t/templates/page.html:2:8 error wrong-type: "takes" is a group of parameters
            write it as in takes: { size: small, entry: }
        takes: { a: }
        themes/t/templates/page.html:2:10 error required-parameter: nobody can give a template its parameter "a"
            write a default behind it, or nothing
        takes: { a-b: 1, each: 2 }
        themes/t/templates/page.html:2:10 error bad-name: "a-b" can't name a parameter
            use letters, digits and underscores, and no word of the language
        themes/t/templates/page.html:2:18 error bad-name: "each" can't name a parameter
            use letters, digits and underscores, and no word of the language
        about: x
        foo: 1
        themes/t/templates/page.html:3:1 error unknown-key: unknown key "foo" in the front matter
            did you mean "for"?
        takes: { a: nothing, b: 1, c: text }
        layout: none
        {
        themes/t/templates/page.html:3:1 error front-matter: while parsing a node, did not find expected node content
            put a text with special characters in quotes, and indent with spaces
    "#]]
    .assert_eq(&out);
}

#[test]
fn names_that_lead_nowhere_in_templates() {
    let files = [
        ("themes/t/layouts/empty.html", "<main></main>"),
        ("themes/t/components/notice/component.html", "x"),
        ("themes/t/templates/listing.xml", "x"),
        ("themes/t/readme.txt", "x"),
        ("tables/hours.csv", "x"),
        (
            "themes/t/templates/page.html",
            "<a href=\"+{url(\"page:vist\")}\"><img src=\"+{asset(\"a.svg\")}\" alt=\"\">+{partial \"cart\"}</a>+{collections.news.count}+{menus.mian.count}",
        ),
        ("themes/t/partials/card.html", "x"),
        ("themes/t/assets/b.svg", "x"),
        ("content/pages/visit.md", ""),
    ];
    expect![[r#"
        themes/t/layouts/empty.html:1:1 warning layout-without-slot: this layout prints nothing of the template that it stands around
            write +{slot} where the template's output belongs
        themes/t/templates/page.html:1:16 error dead-reference: the reference "page:vist" leads nowhere
            did you mean "page:visit"?
        themes/t/templates/page.html:1:49 error unknown-asset: no theme of the lineage has the asset "a.svg"
            did you mean "b.svg"?
        themes/t/templates/page.html:1:77 error unknown-partial: unknown partial "cart"
            did you mean "card"?
        themes/t/templates/page.html:1:121 warning lacking: the site has no menu "mian"
            did you mean "main"?
    "#]]
    .assert_eq(&said(&files));
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
            hausblatt.toml:8:11 error bad-address: "/k/{trem}/" is no pattern of addresses
                {term} must be in it once, and nothing else in braces

            hausblatt.toml:8:11 error bad-address: "/k/" is no pattern of addresses
                {term} must be in it once, and nothing else in braces
            hausblatt.toml:9:1 error unknown-key: unknown key "lable" in [taxonomies.hue]
                did you mean "label"?

            hausblatt.toml:8:11 error bad-address: "k/{term}" is no pattern of addresses
                an address begins and ends with "/"
            hausblatt.toml:9:9 error wrong-type: "terms" must be a group of keys, not a list

            hausblatt.toml:9:7 error bad-name: "Big" is no term: lower-case letters and digits with single hyphens between them
                write big = { label = "Big" }
            hausblatt.toml:10:11 error wrong-type: a term is a group of keys
                write a = { label = "…" }
            hausblatt.toml:11:13 error unknown-key: unknown key "parnt" in the term "b"
                did you mean "parent"?

            hausblatt.toml:9:22 error term-circle: the term "a" stands below itself
                take "parent" out of one of the terms of the circle
            hausblatt.toml:10:22 error term-circle: the term "b" stands below itself
                take "parent" out of one of the terms of the circle

            hausblatt.toml:9:22 error term-circle: the term "a" stands below itself
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

            hausblatt.toml:5:11 error bad-address: "/{hue}/{slug}/" is no pattern of addresses
                {slug}, {year}, {month}, {day} can be in it
        "#]],
    );
}

#[test]
fn terms_in_content() {
    let config = format!(
        "{SITE}[collections.news]\naddress = \"/{{hue}}/{{slug}}/\"\n[taxonomies.hue]\nof = [\"news\"]\naddress = \"/k/{{term}}/\"\nterms.green = {{}}\n"
    );
    let files = [
        ("hausblatt.toml", config.as_str()),
        ("content/news/a.md", "---\nhue: [greem, \"---\", Green]\n---\n"),
        ("content/news/b.md", "---\nhue: { a: 1 }\n---\n"),
        ("content/news/c.md", "---\nhue: Green\n---\n"),
        ("content/pages/d.md", "---\nhue: green\n---\n"),
    ];
    expect![[r#"
        content/news/a.md:2:7 warning undeclared-term: the taxonomy "hue" declares no term "greem"
            did you mean "green"?
        content/news/a.md:2:14 error wrong-type: "---" is no term: it has neither letters nor digits
            write a word
        content/news/b.md:1:1 error no-term: this entry needs a hue for its address
            write hue: [a-term] into its front matter
        content/news/b.md:2:6 error wrong-type: "hue" must be a text, not a group of keys
            put it in quotes
        content/pages/d.md:2:1 warning undeclared-field: the field "hue" is not declared
            add "pages" to "of" of the taxonomy "hue" in hausblatt.toml
    "#]]
    .assert_eq(&said(&files));
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

            hausblatt.toml:5:11 error bad-address: "a" is no address of a route
                an address begins and ends with "/"

            hausblatt.toml:5:11 error bad-address: "/a/{slug}/" is no address of a route
                only a route with "each" has something in braces

            hausblatt.toml:5:11 error bad-address: "/a/" is no address of a route
                {slug} must be in it, or all rows have one address

            hausblatt.toml:6:8 error dead-reference: there is no table "months"
                write the rows into tables/months.csv

            hausblatt.toml:5:11 error bad-address: "/a/{slug/" is no address of a route
                each { needs a }
            hausblatt.toml:7:1 error unknown-key: unknown key "titel" in [routes.a]
                did you mean "title"?

            hausblatt.toml:4:9 error bad-name: "a b" can't name a route
                a route's name is lower-case letters and digits with single hyphens between them

            hausblatt.toml:7:11 error same-address: two things have the address /a/
                give one of them another slug or address

            hausblatt.toml:5:11 error same-address: two things have the address /sitemap.xml
                give one of them another slug or address

            hausblatt.toml:5:11 error bad-address: "/../a/" is no address of a route
                leave out "." and ".."

            hausblatt.toml:4:2 error missing-key: [search] lacks "address"
                write it as in address = "/search/"

            hausblatt.toml:5:11 error bad-address: "find" is no address
                an address begins and ends with "/"

            hausblatt.toml:5:11 error bad-address: "/{a}/" is no address
                write it without braces

            hausblatt.toml:5:7 error dead-reference: "page:lost" leads nowhere
                references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM and route:NAME

            hausblatt.toml:5:7 warning dead-reference: "page:draft" leads nowhere
                it is a draft, so it has no address
            hausblatt.toml:6:1 error wrong-value: "200" is no status of a failed request
                write it as in 404 = "lost"
            hausblatt.toml:7:1 error wrong-value: "foo" is no status of a failed request
                write it as in 404 = "lost"
            hausblatt.toml:8:7 error wrong-type: "500" must be a page's id, not a number

            hausblatt.toml:5:1 error unknown-key: unknown key "entries" in [ladders]
                known are front, page, entry, listing, period, search, route, error
            hausblatt.toml:6:9 error wrong-type: "entry" must be a list of texts, not a text

            hausblatt.toml:5:10 error wrong-value: "entry/{colection}" is no name of a template
                did you mean "collection"?
            hausblatt.toml:5:31 error wrong-value: "entry/{id" is no name of a template
                each { needs a }
            hausblatt.toml:5:44 error wrong-value: "entry.html" is no name of a template
                write a name below templates/ without its ending, as in entry/{collection}/{id}
            hausblatt.toml:5:58 error wrong-value: "/entry" is no name of a template
                write a name below templates/ without its ending, as in entry/{collection}/{id}
            hausblatt.toml:5:68 error wrong-value: "fallback" is no name of a template
                leave it out: fallback is always the last
            hausblatt.toml:5:80 error wrong-value: "offered/a" is no name of a template
                leave it out: a chosen template is always the first
            hausblatt.toml:5:93 error wrong-value: "" is no name of a template
                write a name below templates/ without its ending, as in entry/{collection}/{id}

            hausblatt.toml:5:11 error wrong-value: "search/{query}" is no name of a template
                nothing in braces has a meaning here

            hausblatt.toml:6:10 error bad-name: "Print" can't name a view
                a view's name is lower-case letters and digits with single hyphens between them
            hausblatt.toml:6:19 error bad-name: "page" can't name a view
                a view's name is lower-case letters and digits with single hyphens between them
            hausblatt.toml:7:12 error wrong-value: "week" is no period
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
        content/pages/a.md:2:12 error same-address: two things have the address /news/x/
            take it out of formerly, or give what is there now another slug or address
        content/pages/a.md:2:27 error same-address: two things have the address /b/
            take it out of formerly, or give what is there now another slug or address
        content/pages/a.md:2:32 warning formerly-itself: /a/ is still the address of this
            take it out of formerly
        content/pages/a.md:2:37 error wrong-type: "c" is no address
            write it as in formerly: /old/address/
        content/pages/a.md:2:40 error wrong-type: "//d/" is no address
            write it as in formerly: /old/address/
        hausblatt.toml:6:11 error same-address: two things have the address /news/2026/
            give one of them another slug or address
        hausblatt.toml:8:10 error same-address: two things have the address /news/x/print/
            give one of them another slug or address
        hausblatt.toml:10:11 error same-address: two things have the address /a/
            give one of them another slug or address
    "#]]
    .assert_eq(&said(&files));
}

#[test]
fn tables() {
    let route = format!("{SITE}[routes.a]\naddress = \"/a/{{slug}}/{{kind}}/\"\neach = \"rows\"\n");
    let table = |path: &'static str, text: &'static str| said(&[("hausblatt.toml", &route), (path, text)]);
    let tables = [
        table("tables/rows.csv", "slug,kind\na,b\nc\n"),
        table("tables/rows.csv", "slug,kind\na,b\na,c\n,d\ne,\n"),
        table("tables/rows.csv", "name,kind\nThe Bean,b\n"),
        table("tables/rows.json", "[{\"slug\": \"a\",}]"),
        table("tables/rows.json", "[{\"slug\": \"a\", \"kind\": 1}, 2]"),
        table("tables/rows.yaml", "- slug: a\n  kind: &x b\n"),
        table("tables/rows.yaml", "- slug: a\n  kind: b\n---\n- c\n"),
        table("tables/rows.yml", ""),
        table("tables/rows.toml", "[[rows]]\nslug = \"a\"\nkind = \"b\"\n[[rows]\n"),
        table("tables/rows.toml", "rows = 3\n"),
        table("tables/rows.txt", "x"),
        table("tables/sub/rows.csv", "slug\n"),
        said(&[("hausblatt.toml", SITE), ("tables/a.csv", "x\n"), ("tables/a.json", "[]")]),
    ];
    expect![[r#"
        tables/rows.csv:3:1 error table: this row has 1 cells, and the first row names 2 columns
            mend the file; its rows are nothing till then

        tables/rows.csv:1:1 error same-address: two rows of this table have the slug "a"
            give one of them another slug
        tables/rows.csv:1:1 error no-slug: row 3 of this table has no "slug" for its address
            give each row a slug (lower-case letters and digits with single hyphens), or a title
        tables/rows.csv:1:1 error no-slug: row 4 of this table lacks what the address /a/{slug}/{kind}/ takes from it
            fill in the columns that stand in braces there


        tables/rows.json:1:15 error table: this is no JSON: trailing comma
            mend the file; its rows are nothing till then

        tables/rows.json:1:1 error no-rows: the table "rows" holds something else among its rows
            in JSON and YAML write a list of rows, in TOML [[rows]] for each

        tables/rows.yaml:2:9 error table: anchors and aliases can't be used here
            mend the file; its rows are nothing till then

        tables/rows.yaml:3:1 error table: only one document can stand here
            mend the file; its rows are nothing till then

        tables/rows.yml:1:1 error no-rows: the table "rows" is no list of rows
            in JSON and YAML write a list of rows, in TOML [[rows]] for each

        tables/rows.toml:4:8 error toml: unclosed array table, expected `]`

        tables/rows.toml:1:1 error no-rows: the table "rows" is no list of rows
            in JSON and YAML write a list of rows, in TOML [[rows]] for each

        hausblatt.toml:6:8 error dead-reference: there is no table "rows"
            write the rows into tables/rows.csv
        tables/rows.txt:1:1 warning misplaced-table: this file is no table
            a table is a file in tables/ that ends in .csv, .toml, .json or .yaml

        hausblatt.toml:6:8 error dead-reference: there is no table "rows"
            write the rows into tables/rows.csv
        tables/sub/rows.csv:1:1 warning misplaced-table: this file is no table
            a table is a file in tables/ that ends in .csv, .toml, .json or .yaml

        tables/a.json:1:1 error same-name: two files are the table "a"
            rename one of them
    "#]]
    .assert_eq(&tables.join("\n"));
}

#[test]
fn settings() {
    let site = |text: &str| format!("{SITE}[settings]\n{text}");
    let near = "[theme]\nparent = \"far\"\n[settings]\nmotto = { default = \"near\" }\naccent = { type = \"color\", default = \"#2f6f4\" }\n";
    let far = (
        "themes/far/hausblatt-theme.toml",
        "[settings]\nmotto = { type = \"text\" }\nseats = { type = \"number\", min = 1 }\n",
    );
    let with = |text: &str, manifest: &str| {
        said(&[("hausblatt.toml", &site(text)), ("themes/t/hausblatt-theme.toml", manifest), far])
    };
    let all = [
        with("moto = \"x\"\nseats = 0\nmotto = [1, 2]\n", near),
        with(
            "",
            "[theme]\nparent = \"far\"\n[settings]\nmotto = \"x\"\nother = { default = 1 }\nseats = { default = \"many\", lable = 1 }\n",
        ),
        said(&[("themes/t/templates/page.html", "+{settings.motto}")]),
    ];
    expect![[r##"
        hausblatt.toml:5:1 warning unknown-setting: no theme of the lineage has the setting "moto"
            did you mean "motto"?
        hausblatt.toml:6:9 error wrong-type: this must be at least 1
        hausblatt.toml:7:9 error wrong-type: this must be a single value, not a list
        themes/t/hausblatt-theme.toml:5:38 error wrong-type: "#2f6f4" is no colour; write it as in "#2f6f4e"

        themes/t/hausblatt-theme.toml:4:9 error wrong-type: the setting "motto" is a group of keys
            write motto = { default = … }
        themes/t/hausblatt-theme.toml:5:1 error missing-key: the field "other" lacks "type"
            write it as in type = "text"
        themes/t/hausblatt-theme.toml:6:21 error wrong-type: this must be a number, not a text
        themes/t/hausblatt-theme.toml:6:29 error unknown-key: unknown key "lable" in the setting "seats"
            did you mean "label"?

        themes/t/templates/page.html:1:12 error unknown-member: the lineage has no "motto"
    "##]]
    .assert_eq(&all.join("\n"));
}

#[test]
fn components_and_trays() {
    let manifest = "[component]\nlabel = \"N\"\n[[fields]]\nname = \"text\"\ntype = \"rich\"\n[[fields]]\nname = \"size\"\ntype = \"number\"\nmax = 3\n[[fields]]\nname = \"bars\"\ntype = \"list\"\nfields = [ { name = \"to\", type = \"link\" }, { name = \"pic\", type = \"image\" } ]\n";
    let base = |files: &[(&'static str, &'static str)]| {
        let own = [
            ("themes/t/components/notice/component.html", "+{text}"),
            ("themes/t/components/notice/component.toml", manifest),
            ("themes/t/templates/page.html", "+{tray \"main\"}"),
        ];
        let kept = own.iter().filter(|(path, _)| !files.iter().any(|(other, _)| other == path));
        said(&kept.chain(files).copied().collect::<Vec<_>>())
    };
    let page = |text: &'static str| base(&[("content/pages/a.md", text)]);
    let all = [
        page(
            "---\ntrays:\n  main:\n    - component: notice\n      text: \"[a](page:b)\"\n      bars: [ { to: page:a } ]\n---\n",
        ),
        page(
            "---\ntrays:\n  man:\n    - component: notise\n    - component: notice\n      txt: x\n    - component: notice\n      size: 4\n    - text: x\n    - x\n---\n",
        ),
        page(
            "---\ntrays:\n  main:\n    - component: notice\n      bars: [ { too: page:a } ]\n    - component: notice\n      bars: [ 3 ]\n    - component: other\n---\n",
        ),
        page("---\ntrays: x\n---\n"),
        page("---\ntrays:\n  main: x\n---\n"),
        base(&[(
            "themes/t/components/notice/component.toml",
            "[[fields]]\ntype = \"text\"\n[[fields]]\nname = \"a\"\ntype = \"txt\"\n[[fields]]\nname = \"a-b\"\ntype = \"text\"\n[[fields]]\nname = \"component\"\ntype = \"text\"\n[[fields]]\nname = \"n\"\ntype = \"number\"\ndefault = \"x\"\n",
        )]),
        base(&[("themes/t/components/notice/component.toml", "fields = 3\n[componnt]\n")]),
        base(&[("themes/t/components/empty/component.toml", "")]),
        base(&[
            ("themes/t/components/list/component.xml", "<x/>"),
            ("content/pages/a.md", "---\ntrays:\n  main:\n    - component: list\n---\n"),
        ]),
        base(&[(
            "themes/t/templates/page.html",
            "+{component \"notice\" given txt = 1}+{component \"notise\"}+{component \"notice\" given size = \"x\"}",
        )]),
    ];
    expect![[r#"
        content/pages/a.md:5:13 warning dead-reference: the link "page:b" leads nowhere
            did you mean "page:a"?

        content/pages/a.md:3:3 warning unknown-tray: no file of the lineage prints the tray "man"
            did you mean "main"?
        content/pages/a.md:4:18 warning unknown-component: no theme of the lineage has the component "notise"
            did you mean "notice"?
        content/pages/a.md:6:7 error unknown-field: the component "notice" has no field "txt"
            did you mean "text"?
        content/pages/a.md:8:13 error wrong-type: "size" of the component "notice": this must be at most 3
        content/pages/a.md:9:7 error missing-key: what is placed here names no component
            write - component: NAME
        content/pages/a.md:10:7 error missing-key: what is placed here names no component
            write - component: NAME

        content/pages/a.md:5:17 error wrong-type: "bars" of the component "notice": there is no field "too" here; did you mean "to"?
        content/pages/a.md:7:15 error wrong-type: "bars" of the component "notice": this must be a group of keys, not a number
        content/pages/a.md:8:18 warning unknown-component: no theme of the lineage has the component "other"
            write components/other/component.html in a theme of the lineage

        content/pages/a.md:2:1 error wrong-type: "trays" is a group of trays, each a list of components
            write main: and below it - component: NAME

        content/pages/a.md:3:9 error wrong-type: a tray is a list of components
            write - component: NAME below it

        themes/t/components/notice/component.html:1:3 error unknown-name: unknown name "text"
            name it with "let", take it as a parameter, or write collections.text if a site may lack that collection
        themes/t/components/notice/component.toml:1:1 error missing-key: a field lacks its name
            write it as in { name = "heading", type = "text" }
        themes/t/components/notice/component.toml:5:8 error wrong-value: there is no type "txt"
            did you mean "text"?
        themes/t/components/notice/component.toml:7:8 error bad-name: "a-b" can't name a field
            use letters, digits and underscores, and no word of the language
        themes/t/components/notice/component.toml:10:8 error bad-name: "component" can't name a field
            use letters, digits and underscores, and no word of the language
        themes/t/components/notice/component.toml:15:11 error wrong-type: this must be a number, not a text

        themes/t/components/notice/component.html:1:3 error unknown-name: unknown name "text"
            name it with "let", take it as a parameter, or write collections.text if a site may lack that collection
        themes/t/components/notice/component.toml:1:10 error wrong-type: "fields" must be a list of fields: write [[fields]], not 3
        themes/t/components/notice/component.toml:2:2 error unknown-key: unknown key "componnt" in component.toml
            did you mean "component"?

        themes/t/components/empty/component.toml:1:1 warning dead-file: the component "empty" has no file to render
            write components/empty/component.html

        content/pages/a.md:4:18 warning unknown-component: the component "list" has no component.html, which pages need
            write components/list/component.html

        themes/t/templates/page.html:1:28 error unknown-parameter: the component "notice" takes no "txt"
            did you mean "text"?
        themes/t/templates/page.html:1:48 error unknown-component: unknown component "notise"
            did you mean "notice"?
        themes/t/templates/page.html:1:84 error wrong-type: "size" of the component "notice" is a number, and this is a text
            give a number, or change the default under "takes"
    "#]].assert_eq(&all.join("\n"));
}

#[test]
fn links_and_colours_in_content() {
    let config = format!(
        "{SITE}[pages.fields]\nto = {{ type = \"link\" }}\ntint = {{ type = \"color\" }}\npics = {{ type = \"list\", of = \"image\" }}\nbars = {{ type = \"list\", fields = [ {{ name = \"tint\", type = \"color\" }} ] }}\nnote = {{ type = \"rich\" }}\n"
    );
    let page = |text: &str| {
        said(&[
            ("hausblatt.toml", &config),
            ("content/pages/a.md", text),
            ("media/b.svg", ""),
            ("content/pages/draft.md", "---\ndraft: true\n---\n"),
        ])
    };
    let all = [
        page(
            "---\nto: page:a#x\ntint: \"#fff\"\npics: [media/b.svg, { file: /media/b.svg, alt: B }, https://seeds.example/x.svg]\n---\n",
        ),
        page("---\nto: page:b\ntint: #fff\npics: [media/c.svg, /assets/x.svg]\n---\n"),
        page("---\nto: b.md\ntint: greenish 3\nbars:\n  - tint: #abc\n---\n"),
        page("---\nto: page:draft\nnote: \"[x](draft.md) ![y](/media/y.svg)\"\n---\n"),
        page("---\nto: ../../../x.md\npics: { alt: x }\n---\n"),
    ];
    expect![[r##"

        content/pages/a.md:2:5 warning dead-reference: the link "page:b" leads nowhere
            did you mean "page:a"?
        content/pages/a.md:3:5 warning color-in-comment: this colour is nothing: what stands behind # is a comment
            put the colour in quotes
        content/pages/a.md:4:8 warning missing-media: there is no file media/c.svg
            did you mean "media/b.svg"?
        content/pages/a.md:4:21 warning unknown-asset: no theme of the lineage has the asset "x.svg"

        content/pages/a.md:2:5 warning dead-reference: the link "b.md" leads to no content file
            did you mean "content/pages/a.md"?
        content/pages/a.md:3:7 error wrong-type: "greenish 3" is no colour; write it as in "#2f6f4e"
        content/pages/a.md:5:9 warning color-in-comment: this colour is nothing: what stands behind # is a comment
            put the colour in quotes

        content/pages/a.md:2:5 warning dead-reference: the link "page:draft" leads nowhere
            it is a draft, so it has no address
        content/pages/a.md:3:7 warning dead-reference: the link "draft.md" leads nowhere
            it is a draft, so it has no address
        content/pages/a.md:3:7 warning missing-media: there is no file media/y.svg
            did you mean "media/b.svg"?

        content/pages/a.md:2:5 warning dead-reference: the link "../../../x.md" leads to no content file
        content/pages/a.md:3:7 error wrong-type: an image is a path, or has a "file" and an "alt"
    "##]]
    .assert_eq(&all.join("\n"));
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
        content/pages/moved.md:2:12 warning former-query: "/a?p=1" is redirected whatever stands behind "?" or "#"
            write /a/
        content/pages/moved.md:2:20 error wrong-type: "/b/./c/" is no address
            write it as in formerly: /old/address/
        content/pages/moved.md:2:29 error wrong-type: "/d/" is no address
            write it as in formerly: /old/address/
        hausblatt.toml:4:14 warning no-dates: no entry of "news" has a date, so there is nothing for its listings by date
            write date: 2026-03-14 into entries, or begin their file names with it
        hausblatt.toml:9:9 warning unknown-order: no entry of "news" is known to have "daet"
            did you mean "date"?
        hausblatt.toml:13:25 warning missing-media: there is no file media/gren.svg
            did you mean "media/green.svg"?
        hausblatt.toml:15:6 warning dead-reference: the link "page:nowhere" leads nowhere
        hausblatt.toml:16:8 warning unknown-asset: no theme of the lineage has the asset "logo.svg"
        hausblatt.toml:18:17 warning dead-reference: "page:draft" leads nowhere
            it is a draft, so it has no address
        hausblatt.toml:18:40 warning dead-reference: "term:hue/green" leads nowhere
            nothing is in this term, so it has no listing
        hausblatt.toml:18:67 error dead-reference: "route:none" leads nowhere
            references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM and route:NAME
    "##]].assert_eq(&said(&files));
}

#[test]
fn what_is_not_offered() {
    let offered = "---\nlabel: Wide\nfor: entry/news\n---\nx";
    let files = [
        ("themes/t/templates/wide.html", offered),
        ("themes/t/templates/offered/wide.htm", offered),
        ("themes/t/templates/offered/wide.xml", offered),
        ("themes/t/templates/offered/tall.html", offered),
        ("themes/t/partials/wide.html", "---\nlabel: Wide\n---\nx"),
        ("themes/t/wide.html", offered),
        ("content/pages/a.md", "---\ntemplate: tal\n---\n"),
        ("content/pages/b.md", "---\ntemplate: tall\n---\n"),
        ("content/pages/c.md", "---\ntemplate: wide\n---\n"),
        ("content/pages/d.md", "---\ntemplate: outside\n---\n"),
        ("themes/u/hausblatt-theme.toml", ""),
        ("themes/u/templates/offered/outside.html", "x"),
    ];
    expect![[r#"
        content/pages/a.md:2:11 warning choice-missing: this chooses offered/tal, which no theme of the lineage has
            no theme of the lineage offers one for it
        content/pages/b.md:2:11 warning choice-unfit: this chooses offered/tall, which does not fit it: it is for entry/news
        content/pages/c.md:2:11 warning choice-missing: this chooses offered/wide, which no theme of the lineage has
            themes/t/partials/wide.html is no offered template: those are .html files in templates/offered/
        content/pages/d.md:2:11 warning choice-missing: this chooses offered/outside, which no theme of the lineage has
            only the theme u has it, which is not in the lineage
        themes/t/partials/wide.html:2:1 warning not-offered: editors are not offered this: it stands in partials/
            move it to templates/offered/wide.html
        themes/t/templates/offered/tall.html:2:1 warning not-offered: editors are not offered this: it is for entry/news, which this site lacks
            this site has no collections; say for: page, or leave it out
        themes/t/templates/offered/wide.htm:2:1 warning not-offered: editors are not offered this: its name does not end in .html
            rename it to templates/offered/wide.html
        themes/t/templates/offered/wide.xml:2:1 warning not-offered: editors are not offered this: its name does not end in .html
            rename it to templates/offered/wide.html
        themes/t/templates/wide.html:2:1 warning not-offered: editors are not offered this: it stands in templates/
            move it to templates/offered/wide.html
        themes/t/wide.html:2:1 warning not-offered: editors are not offered this: it stands beside the theme's folders
            move it to templates/offered/wide.html
    "#]].assert_eq(&said(&files));
}
