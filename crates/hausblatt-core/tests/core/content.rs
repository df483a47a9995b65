//! What is said of content and tables.

use crate::configuration::{SITE, said};
use std::fmt::Write;

use expect_test::expect;

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
        content/pages/a.md:2:4 error wrong-type: "2026-13-01" is not a valid date; write it as in 2026-03-14
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
        content/jurnal/a.md:1:1 warning misplaced-content: "jurnal" is not a collection of this site
            write [collections.jurnal] in hausblatt.toml, or move it to content/pages/
        content/loose.md:1:1 warning misplaced-content: this file is beside the collections' folders
            move it to content/pages/
        content/pages/Upper.md:1:1 error bad-name: this file's name is not an id
            a content file's name is lower-case letters and digits with single hyphens between them, as in scarlet-runner.md
        content/pages/a.md:2:8 error wrong-type: "title" must be a text, not a list
            put it in quotes
        content/pages/a.md:3:7 error wrong-type: "soon" is not a valid date; write it as in 2026-03-14
        content/pages/a.md:4:8 error wrong-type: this must be a number, not a text
        content/pages/a.md:5:11 error wrong-type: this must be true, false, yes or no, not a text
        content/pages/a.md:6:8 error wrong-type: this must be true, false, yes or no, not a number
        content/pages/a.md:7:7 error wrong-type: "A b" is not a valid slug: lower-case letters and digits with single hyphens between them
            write slug: a-b
        content/pages/b.md:2:7 error wrong-type: "!" is not a valid slug: lower-case letters and digits with single hyphens between them
        content/pages/b.md:3:1 error name-taken: "address" is computed by Hausblatt; it can't be set
            choose another name for the field
        content/pages/b.md:4:1 error name-taken: "body" is computed by Hausblatt; it can't be set
            choose another name for the field
        content/pages/c.md:2:1 warning undeclared-field: the field "tilte" is not declared
            did you mean "title"?
        content/pages/c.md:3:1 warning undeclared-field: the field "own" is not declared
            declare it in hausblatt.toml, under [pages.fields]
        content/pages/d.md:1:1 error front-matter: the front matter is never ended
            end it with a line of three hyphens: ---
        content/pages/picture.svg:1:1 error bad-name: this file's name is not an id
            content is Markdown in files that end in .md; images belong in media/
        content/pages/two--hyphens.md:1:1 error bad-name: this file's name is not an id
            a content file's name is lower-case letters and digits with single hyphens between them, as in scarlet-runner.md
    "#]].assert_eq(&said(&pages));
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
        content/news/a.md:2:14 error wrong-type: "---" is not a valid term: it has neither letters nor digits
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
        tables/rows.csv:3:1 error bad-table: this row has 1 cells, and the first row names 2 columns
            fix the file; its rows are nothing until then

        tables/rows.csv:1:1 error same-address: two rows of this table have the slug "a"
            give one of them another slug
        tables/rows.csv:1:1 error no-slug: row 3 of this table has no "slug" for its address
            give each row a slug (lower-case letters and digits with single hyphens), or a title
        tables/rows.csv:1:1 error no-slug: row 4 of this table lacks what the address /a/{slug}/{kind}/ takes from it
            fill in the columns that are in braces there


        tables/rows.json:1:15 error bad-table: this is not JSON: trailing comma
            fix the file; its rows are nothing until then

        tables/rows.json:1:1 error no-rows: the table "rows" holds something else among its rows
            in JSON and YAML write a list of rows, in TOML [[rows]] for each

        tables/rows.yaml:2:9 error bad-table: anchors and aliases can't be used here
            fix the file; its rows are nothing until then

        tables/rows.yaml:3:1 error bad-table: only one document can be here
            fix the file; its rows are nothing until then

        tables/rows.yml:1:1 error no-rows: the table "rows" is not a list of rows
            in JSON and YAML write a list of rows, in TOML [[rows]] for each

        tables/rows.toml:4:8 error bad-toml: unclosed array table, expected `]`

        tables/rows.toml:1:1 error no-rows: the table "rows" is not a list of rows
            in JSON and YAML write a list of rows, in TOML [[rows]] for each

        hausblatt.toml:6:8 error dead-reference: there is no table "rows"
            write the rows into tables/rows.csv
        tables/rows.txt:1:1 warning misplaced-table: this file is not a table
            a table is a file in tables/ that ends in .csv, .toml, .json or .yaml

        hausblatt.toml:6:8 error dead-reference: there is no table "rows"
            write the rows into tables/rows.csv
        tables/sub/rows.csv:1:1 warning misplaced-table: this file is not a table
            a table is a file in tables/ that ends in .csv, .toml, .json or .yaml

        tables/a.json:1:1 error same-name: two files are the table "a"
            rename one of them
    "#]]
    .assert_eq(&tables.join("\n"));
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

        content/pages/a.md:2:5 warning dead-reference: broken link "page:b": nothing has this address
            did you mean "page:a"?
        content/pages/a.md:3:5 warning color-in-comment: this colour is nothing: what comes after # is a comment
            put the colour in quotes
        content/pages/a.md:4:8 warning missing-media: there is no file media/c.svg
            did you mean "media/b.svg"?
        content/pages/a.md:4:21 warning unknown-asset: no theme of the lineage has the asset "x.svg"

        content/pages/a.md:2:5 warning dead-reference: broken link "b.md": there is no such content file
            did you mean "content/pages/a.md"?
        content/pages/a.md:3:7 error wrong-type: "greenish 3" is not a valid colour; write it as in "#2f6f4e"
        content/pages/a.md:5:9 warning color-in-comment: this colour is nothing: what comes after # is a comment
            put the colour in quotes

        content/pages/a.md:2:5 warning dead-reference: broken link "page:draft": nothing has this address
            it is a draft, so it has no address
        content/pages/a.md:3:7 warning dead-reference: broken link "draft.md": nothing has this address
            it is a draft, so it has no address
        content/pages/a.md:3:7 warning missing-media: there is no file media/y.svg
            did you mean "media/b.svg"?

        content/pages/a.md:2:5 warning dead-reference: broken link "../../../x.md": there is no such content file
        content/pages/a.md:3:7 error wrong-type: an image is a path, or has a "file" and an "alt"
    "##]]
    .assert_eq(&all.join("\n"));
}
