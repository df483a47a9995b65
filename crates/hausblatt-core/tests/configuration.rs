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
                it is a draft or waits for its date, so it has no address

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

            hausblatt.toml:5:1 error wrong-type: [collections.n] must be a group of keys

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
