//! What is said of themes: manifests, headers, settings, components.

use crate::configuration::{SITE, said};
use crate::support::{asking, demo, snapshot};
use std::fmt::Write;

use bumpalo::Bump;
use expect_test::expect;
use hausblatt_core::files::memory::Memory;
use hausblatt_core::model::request::Request;
use hausblatt_core::render::page::{Audience, page};
use hausblatt_core::world::World;

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

        themes/t/hausblatt-theme.toml:2:9 warning unused-hide: no ancestor has a file "templates/fallbak.html" to hide
            write its path from its theme, as in templates/page/visit.html

        themes/t/hausblatt-theme.toml:1:7 error bad-toml: unclosed table, expected `]`
        no site

    "#]]
    .assert_eq(&said.join("\n"));
}

#[test]
fn versions_of_parents() {
    let mut out = String::new();
    for (wanted, version) in [
        (">=2.1, <3", "version = \"2.4.0\""),
        (">=2.1, <3", "version = \"3.0.0\""),
        (">=2.1, <3", ""),
        ("1", "version = \"spring\""),
        ("about two", "version = \"2.0.0\""),
        ("", "version = \"2.0.0\""),
        ("^1.2", "version = \"1.3.0-beta.1\""),
    ] {
        let child = format!("[theme]\nparent = \"u\"\nparent_version = \"{wanted}\"\n");
        let parent = format!("[theme]\n{version}\n");
        let files =
            [("themes/t/hausblatt-theme.toml", child.as_str()), ("themes/u/hausblatt-theme.toml", parent.as_str())];
        let _ = writeln!(out, "{wanted} · {version}\n{}", said(&files));
    }
    out += &said(&[("themes/t/hausblatt-theme.toml", "[theme]\nparent_version = \"1\"\n")]);
    out += &said(&[("themes/t/hausblatt-theme.toml", "[theme]\nparent_version = 1\n")]);
    // A parent without a semantic version is fine where nothing is said of it.
    let plain = [
        ("themes/t/hausblatt-theme.toml", "[theme]\nparent = \"u\"\n"),
        ("themes/u/hausblatt-theme.toml", "[theme]\nversion = \"spring\"\n"),
    ];
    assert_eq!(said(&plain), "");
    expect![[r#"
        >=2.1, <3 · version = "2.4.0"

        >=2.1, <3 · version = "3.0.0"
        themes/t/hausblatt-theme.toml:3:18 error parent-version: t is written for u >=2.1, <3, and this is 3.0.0
            put a version into themes/u/ that fits, or change "parent_version"

        >=2.1, <3 · 
        themes/t/hausblatt-theme.toml:3:18 error parent-version: t is written for u >=2.1, <3, which has no version
            write version = "1.0.0" under [theme] of themes/u/hausblatt-theme.toml

        1 · version = "spring"
        themes/t/hausblatt-theme.toml:3:18 error parent-version: t is written for u 1, and "spring" is not a semantic version
            versions have three numbers, as in 1.2.0 (Semantic Versioning); look into themes/u/hausblatt-theme.toml

        about two · version = "2.0.0"
        themes/t/hausblatt-theme.toml:3:18 error parent-version: "about two" is not a range of versions
            write it as in parent_version = ">=2.1, <3"

         · version = "2.0.0"
        themes/t/hausblatt-theme.toml:3:18 error parent-version: "" is not a range of versions
            write it as in parent_version = ">=2.1, <3"

        ^1.2 · version = "1.3.0-beta.1"
        themes/t/hausblatt-theme.toml:3:18 error parent-version: t is written for u ^1.2, and this is 1.3.0-beta.1
            put a version into themes/u/ that fits, or change "parent_version"

        themes/t/hausblatt-theme.toml:2:18 error parent-version: t has no parent whose version could be 1
            write parent = "…", or take "parent_version" out
        themes/t/hausblatt-theme.toml:2:18 error wrong-type: "parent_version" must be a text, not 1
    "#]]
    .assert_eq(&out);
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
        themes/t/templates/page.html:2:1 warning not-offered: editors are not offered this: it is in templates/
            move it to templates/offered/page.html
        themes/t/templates/page.html:2:8 error wrong-type: "label" must be a text, not 3
        for: 3
        themes/t/templates/page.html:2:1 warning not-offered: editors are not offered this: it is in templates/
            move it to templates/offered/page.html
        themes/t/templates/page.html:2:6 error wrong-value: this is nothing that a template can be for
            write page, entry or entry/COLLECTION
        for: [page, entries]
        themes/t/templates/page.html:2:1 warning not-offered: editors are not offered this: it is in templates/
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
        themes/t/templates/page.html:2:10 error required-parameter: nothing can give a template its parameter "a"
            write a default after it, or nothing
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
        themes/t/layouts/empty.html:1:1 warning layout-without-slot: this layout prints nothing of the template inside it
            write +{slot} where the template's output belongs
        themes/t/templates/page.html:1:16 error dead-reference: broken reference "page:vist"
            did you mean "page:visit"?
        themes/t/templates/page.html:1:49 error unknown-asset: no theme of the lineage has the asset "a.svg"
            did you mean "b.svg"?
        themes/t/templates/page.html:1:77 error unknown-partial: unknown partial "cart"
            did you mean "card"?
        themes/t/templates/page.html:1:102 warning missing-on-site: the site has no collection "news"
        themes/t/templates/page.html:1:121 warning missing-on-site: the site has no menu "mian"
            did you mean "main"?
    "#]]
    .assert_eq(&said(&files));
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
        themes/t/hausblatt-theme.toml:5:38 error wrong-type: "#2f6f4" is not a valid colour; write it as in "#2f6f4e"

        themes/t/hausblatt-theme.toml:4:9 error wrong-type: the setting "motto" is a group of keys
            write motto = { default = … }
        themes/t/hausblatt-theme.toml:5:1 error missing-key: the field "other" lacks "type"
            write it as in type = "text"
        themes/t/hausblatt-theme.toml:6:21 error wrong-type: this must be a number, not a text
        themes/t/hausblatt-theme.toml:6:29 error unknown-key: unknown key "lable" in the setting "seats"
            did you mean "label"?

        themes/t/templates/page.html:1:12 error unknown-member: the lineage has no "motto"
            declare it under [settings] in the manifest of a theme
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
        content/pages/a.md:5:13 warning dead-reference: broken link "page:b": nothing has this address
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
        themes/t/components/notice/component.html:1:3 error unknown-name: unknown name "text"
            name it with "let", take it as a parameter, or write collections.text if a site may lack that collection

        themes/t/components/empty/component.toml:1:1 warning dead-file: the component "empty" has no file to render
            write components/empty/component.html

        content/pages/a.md:4:18 warning unknown-component: the component "list" has no component.html, which pages need
            write components/list/component.html

        themes/t/templates/page.html:1:28 error unknown-parameter: the component "notice" takes no "txt"
            did you mean "text"?
        themes/t/templates/page.html:1:48 error unknown-component: unknown component "notise"
            did you mean "notice"?
        themes/t/templates/page.html:1:84 error wrong-type: "size" of the component "notice" is a number, and this is a text
            give a number, as its component.toml declares it
    "#]].assert_eq(&all.join("\n"));
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
        content/pages/b.md:2:11 warning choice-not-allowed: this chooses offered/tall, which does not fit it: it is for entry/news
            choose one that fits, or add it to "for" in the template
        content/pages/c.md:2:11 warning choice-missing: this chooses offered/wide, which no theme of the lineage has
            offered templates are .html files in templates/offered/, and themes/t/partials/wide.html is not one
        content/pages/d.md:2:11 warning choice-missing: this chooses offered/outside, which no theme of the lineage has
            only the theme u has it, which is not in the lineage
        themes/t/partials/wide.html:2:1 warning not-offered: editors are not offered this: it is in partials/
            move it to templates/offered/wide.html
        themes/t/templates/offered/tall.html:2:1 warning not-offered: editors are not offered this: it is for entry/news, which this site lacks
            this site has no collections; say for: page, or leave it out
        themes/t/templates/offered/wide.htm:2:1 warning not-offered: editors are not offered this: its name does not end in .html
            rename it to templates/offered/wide.html
        themes/t/templates/offered/wide.xml:2:1 warning not-offered: editors are not offered this: its name does not end in .html
            rename it to templates/offered/wide.html
        themes/t/templates/wide.html:2:1 warning not-offered: editors are not offered this: it is in templates/
            move it to templates/offered/wide.html
        themes/t/wide.html:2:1 warning not-offered: editors are not offered this: it is beside the theme's folders
            move it to templates/offered/wide.html
    "#]].assert_eq(&said(&files));
}

#[test]
fn a_site_may_call_its_collections_as_a_theme_calls_its_values() {
    let names = "entry page card month day relatives past on months kept coming year person link item group heading \
                 number label until";
    let files = demo();
    let shown = |world: &World| -> Vec<(String, u16, String)> {
        let visitor = |request: &Request| page(world, request.clone(), Audience::Visitor, &Bump::new());
        let all = world.requests().iter().map(|request| (request.address.clone(), visitor(request)));
        all.map(|(address, page)| (address, page.status, page.text)).collect()
    };
    let load = |files: &Memory| World::load(snapshot(files), asking()).unwrap();
    let before = shown(&load(&files));
    let config = String::from_utf8(files.bytes("hausblatt.toml").unwrap().to_vec()).unwrap();
    let more: String = names
        .split_whitespace()
        .map(|name| format!("\n[collections.{name}]\naddress = \"/{name}/{{slug}}/\"\n"))
        .collect();
    files.write("hausblatt.toml", format!("{config}{more}"));
    let world = load(&files);
    assert_eq!(shown(&world), before);
    let said: Vec<(&str, &str)> = world.problems.iter().map(|one| (one.code, one.message.as_str())).collect();
    assert_eq!(
        said,
        [("hidden-collection", "\"months\" hides the collection of that name in every file of the lineage")]
    );
}
