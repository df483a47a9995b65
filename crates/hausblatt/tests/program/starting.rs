//! `start`: what is begun renders at once, and nothing is begun over what is there.

use crate::support::{Site, check};
use expect_test::expect;

#[test]
fn beginnings_render_at_once() {
    let site = Site::empty();
    check(
        &site,
        &["start", "site", "seeds", "--minimal"],
        expect![[r#"
            exit 0
            Wrote seeds/hausblatt.toml
            Wrote seeds/themes/plain/assets/plain.css
            Wrote seeds/themes/plain/layouts/document.html
            Wrote seeds/themes/plain/templates/fallback.html
            Wrote seeds/themes/plain/hausblatt-theme.toml
            Wrote seeds/content/pages/welcome.md

            Next:
              cd seeds
                  go there
              hausblatt render /
                  the HTML of the front page
              hausblatt start page visit
                  another page
              hausblatt build
                  the whole site
        "#]],
    );
    let seeds = |arguments: &[&str]| site.run(&[arguments, &["--site", "seeds", "--strict"]].concat());
    assert_eq!(seeds(&["build", "-q"]).code, 0, "{}", seeds(&["build", "-q"]).whole());
    check(
        &site,
        &["start", "theme", "coast", "--parent", "plain", "--site", "seeds"],
        expect![[r#"
            exit 0
            Wrote seeds/themes/coast/hausblatt-theme.toml
            To make it the site's theme, write theme = "coast" into hausblatt.toml.

            Next:
              hausblatt override ADDRESS --theme coast --site seeds
                  a file of its own, copied from its parent
              hausblatt suppose --to-theme coast --site seeds
                  what would change with it
              hausblatt map --theme coast --site seeds
                  every address, rendered by it
        "#]],
    );
    check(
        &site,
        &["start", "page", "visit", "--title", "Come: \"in\"", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/content/pages/visit.md
        Its address is /visit/, rendered by fallback.html.

        Next:
          hausblatt render /visit/ --site seeds
              its HTML
          hausblatt resolve /visit/ --site seeds
              which file renders it, and why
    "#]],
    );
    check(
        &site,
        &["start", "template", "page/visit", "--theme", "coast", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/themes/coast/templates/page/visit.html

        Next:
          hausblatt resolve /visit/ --site seeds --theme coast
              which file renders that now
          hausblatt reach templates/page/visit.html --site seeds --theme coast
              every address that it has an effect on
    "#]],
    );
    check(
        &site,
        &["start", "template", "offered/wide", "--from", "fallback", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/themes/plain/.originals/templates/offered/wide.html
        Wrote seeds/themes/plain/templates/offered/wide.html

        Next:
          hausblatt choose wide / --site seeds
              choose it for a page or an entry
          hausblatt reach templates/offered/wide.html --site seeds
              every address that it has an effect on
    "#]],
    );
    check(
        &site,
        &["start", "component", "notice", "--site", "seeds"],
        expect![[r#"
            exit 0
            Wrote seeds/themes/plain/components/notice/style.css
            Wrote seeds/themes/plain/components/notice/component.toml
            Wrote seeds/themes/plain/components/notice/component.html
            Content places it in a tray: write "- component: notice" below trays: and
            main: in front matter.
            No template prints a tray yet: write +{tray "main"} where placed components
            are to appear.

            Next:
              hausblatt render --component notice --set heading="Two beds" --site seeds
                  its HTML alone
              hausblatt render --component notice --document --site seeds
                  the same as a whole page
        "#]],
    );
    check(
        &site,
        &["start", "partial", "card/journal", "--site", "seeds"],
        expect![[r#"
            exit 0
            Wrote seeds/themes/plain/partials/card/journal.html
            Any file calls it with +{partial "card/journal" given text = "…"}.

            Next:
              hausblatt reach partials/card/journal --site seeds
                  what calls it, and every address that it reaches
        "#]],
    );
    let config = site.read("seeds/hausblatt.toml").replace("language", "address = \"https://seeds.example\"\nlanguage");
    site.write(
        "seeds/hausblatt.toml",
        config + "[collections.journal]\naddress = \"/journal/{slug}/\"\nlisting = \"/journal/\"\nperiods = [\"year\"]\nfeed = true\n\
                  [collections.journal.fields]\nplace = { type = \"text\" }\n[search]\naddress = \"/search/\"\n[routes.map]\naddress = \"/map/\"\n",
    );
    check(
        &site,
        &["start", "entry", "journal/first-frost", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/content/journal/2026-11-23-first-frost.md
        Its address is /journal/first-frost/, rendered by fallback.html.

        Next:
          hausblatt render /journal/first-frost/ --site seeds
              its HTML
          hausblatt resolve /journal/first-frost/ --site seeds
              which file renders it, and why
    "#]],
    );
    let entry = site.read("seeds/content/journal/2026-11-23-first-frost.md");
    assert_eq!(entry, "---\ntitle: First frost\n# place:\n---\nThis is the text.\n");
    for name in [
        "front",
        "page",
        "entry/journal",
        "listing",
        "period/journal",
        "search",
        "route/map",
        "error/404",
        "listing/journal.xml",
        "sitemap.xml",
        "robots.txt",
        "offered/blank",
    ] {
        let said = seeds(&["start", "template", name, "--blank"]);
        assert_eq!(said.code, 0, "{}", said.whole());
    }
    assert_eq!(seeds(&["start", "template", "error", "--theme", "coast"]).code, 0);
    assert_eq!(seeds(&["choose", "blank", "/visit/"]).code, 0);
    for theme in ["plain", "coast"] {
        let said = seeds(&["build", "-q", "--theme", theme, "--out", theme]);
        assert_eq!(said.code, 0, "{theme}: {}", said.whole());
    }
    let page = seeds(&["render", "/journal/first-frost/", "--theme", "coast"]).out;
    assert!(page.contains("<h1>First frost</h1>\n<p>This is the text.</p>"), "{page}");
    assert_eq!(seeds(&["render", "--component", "notice", "--document"]).code, 0);
}

#[test]
fn nothing_is_begun_over_what_is_there() {
    let site = Site::small();
    site.write("full/content/pages/welcome.md", "mine\n");
    let before = site.tree(".");
    for (arguments, expected) in [
        (
            &["start", "site", "."][..],
            expect![[r#"
            exit 1
            ---
            error: . is a site already
            help: it stays as it is; see it with: hausblatt map --site .
        "#]],
        ),
        (
            &["start", "site", "inner"],
            expect![[r#"
                exit 1
                ---
                error: inner would be inside another site
                help: choose a folder outside of that one
            "#]],
        ),
        (
            &["start", "theme", "far"],
            expect![[r#"
            exit 1
            ---
            error: there is a theme "far" already
            help: choose another name
        "#]],
        ),
        (
            &["start", "theme", "Coast!"],
            expect![[r#"
            exit 1
            ---
            error: "Coast!" can't name a theme
            help: use lower-case letters, digits and hyphens, as in coast
        "#]],
        ),
        (
            &["start", "theme", "coast", "--parent", "nera"],
            expect![[r#"
            exit 1
            ---
            error: there is no theme "nera"
            help: did you mean "near"?
        "#]],
        ),
        (
            &["start", "template", "fallback", "--theme", "far"],
            expect![[r#"
            exit 1
            ---
            error: there is a file themes/far/templates/fallback.html already
            help: it stays as it is: edit it, or choose another name
        "#]],
        ),
        (
            &["start", "template", "pages/visit"],
            expect![[r#"
                exit 1
                ---
                error: no request could use pages/visit.html: "pages" is not a kind of request; did you mean page/visit.html?
            "#]],
        ),
        (
            &["start", "template", "page/visit/hours", "--from", "paeg"],
            expect![[r#"
                exit 1
                ---
                error: no theme of the lineage has a file "paeg"
                help: did you mean "page"?
            "#]],
        ),
        (
            &["start", "template", "entry/jurnal"],
            expect![[r#"
                exit 1
                ---
                error: no request could use entry/jurnal.html: there is no collection "jurnal"; did you mean entry/journal?
            "#]],
        ),
        (
            &["start", "template", "page/2026_x"],
            expect![[r#"
                exit 1
                ---
                error: no request could use page/2026_x.html: "2026_x" is not a valid page id: ids are lower-case letters, digits and hyphens
            "#]],
        ),
        (
            &["start", "template", "error/200"],
            expect![[r#"
                exit 1
                ---
                error: no request could use error/200.html: "200" is not a valid error status: those are 400 to 599, 4xx and 5xx
            "#]],
        ),
        (
            &["start", "template", "partials/card"],
            expect![[r#"
                exit 1
                ---
                error: partials/card.html is not a template
                help: create it with: hausblatt start partial NAME
            "#]],
        ),
        (
            &["start", "template", "page", "--from", "page", "--blank"],
            expect![[r#"
            exit 2
            ---
            error: the argument '--from <FILE>' cannot be used with '--blank'

            Usage: hausblatt start --from <FILE> --as-of <DATE> <WHAT> <NAME>

            For more information, try '--help'.
        "#]],
        ),
        (
            &["start", "partial", "Card"],
            expect![[r#"
            exit 1
            ---
            error: "Card" can't name a partial
            help: use lower-case letters, digits and hyphens, as in card
        "#]],
        ),
        (
            &["start", "partial", "../card"],
            expect![[r#"
            exit 1
            ---
            error: "../card" can't name a partial
            help: use lower-case letters, digits and hyphens, as in card
        "#]],
        ),
        (
            &["start", "component", "a/b"],
            expect![[r#"
            exit 1
            ---
            error: "a/b" can't name a component
            help: use lower-case letters, digits and hyphens, as in a-b
        "#]],
        ),
        (
            &["start", "page", "visit"],
            expect![[r#"
            exit 1
            ---
            error: there is a file content/pages/visit.md already
            help: it stays as it is: edit it, or choose another name
        "#]],
        ),
        (
            &["start", "page", "../../etc"],
            expect![[r#"
            exit 1
            ---
            error: "../../etc" can't name a page
            help: use lower-case letters, digits and hyphens, as in etc
        "#]],
        ),
        (
            &["start", "page", "Opening Hours"],
            expect![[r#"
            exit 1
            ---
            error: "Opening Hours" can't name a page
            help: use lower-case letters, digits and hyphens, as in opening-hours
        "#]],
        ),
        (
            &["start", "entry", "journal/frost"],
            expect![[r#"
            exit 1
            ---
            error: journal has an entry frost already: content/journal/2026-03-14-frost.md
            help: choose another id
        "#]],
        ),
        (
            &["start", "entry", "journal"],
            expect![[r#"
            exit 1
            ---
            error: "journal" names no entry
            help: write it as in hausblatt start entry journal/first-frost
        "#]],
        ),
        (
            &["start", "entry", "jurnal/frost"],
            expect![[r#"
            exit 1
            ---
            error: there is no collection "jurnal"
            help: did you mean journal/frost?
        "#]],
        ),
        (
            &["start", "page", "x", "--blank"],
            expect![[r#"
            exit 2
            ---
            error: --blank is for a template
            help: leave it out, or see hausblatt start --help
        "#]],
        ),
        (
            &["start", "thme", "x"],
            expect![[r#"
                exit 2
                ---
                error: invalid value 'thme' for '<WHAT>'
                  [possible values: site, theme, template, layout, partial, component, page, entry]

                  tip: a similar value exists: 'theme'

                For more information, try '--help'.
            "#]],
        ),
    ] {
        expected.assert_eq(&site.run(arguments).whole());
    }
    assert_eq!(site.tree("."), before, "nothing was written");
    let empty = Site::empty();
    empty.write("seeds/content/pages/welcome.md", "mine\n");
    check(
        &empty,
        &["start", "site", "seeds"],
        expect![[r#"
            exit 1
            ---
            error: seeds/content/pages/welcome.md already exists
            help: choose an empty folder
        "#]],
    );
    assert_eq!(empty.read("seeds/content/pages/welcome.md"), "mine\n");
    assert!(!empty.path("seeds/hausblatt.toml").exists());
}

/// A site to change: every page is there, nothing is wrong with it, and what is suggested next works.
#[test]
fn a_whole_site_is_clean_and_its_next_steps_work() {
    let site = Site::empty();
    let said = site.run(&["start", "site", "seeds", "--title", "Seed \"notes\": more"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    let seeds = |arguments: &[&str]| site.run(&[arguments, &["--site", "seeds"]].concat());
    check(
        &site,
        &["check", "--strict", "--site", "seeds"],
        expect![[r#"
        exit 0
        ✓ No problems found in the whole site.
    "#]],
    );
    check(
        &site,
        &["map", "--site", "seeds"],
        expect![[r#"
        exit 0
        /                    200  front    front.html      plain
        /about/              200  page     page.html       plain
        /notes/              200  listing  listing.html    plain
        /notes/first-note/   200  entry    entry.html      plain
        /notes/second-note/  200  entry    entry.html      plain
        /robots.txt          200           built in
        /sitemap.xml         200           built in
        /welcome/            301           → /
        /404.html            404  error    error/404.html  plain
    "#]],
    );
    let page = seeds(&["render", "/"]).out;
    for text in ["Seed &quot;notes&quot;: more", "role=\"note\"", "A second note", "icon.svg", "aria-current=\"page\""]
    {
        assert!(page.contains(text), "{text}: {page}");
    }
    assert_eq!(seeds(&["build", "--strict"]).code, 0);
    for file in site.tree("seeds").iter().filter(|(path, _)| !path.starts_with("built/")) {
        let lines = file.1.split(|&byte| byte == b'\n').count();
        assert!(lines <= 60, "{} is too long to be read at once: {lines} lines", file.0);
    }
    assert!(said.out.contains("hausblatt override /about/ --only"));
    assert_eq!(seeds(&["override", "/about/", "--only"]).code, 0);
    assert_eq!(seeds(&["check", "--strict"]).code, 0, "{}", seeds(&["check", "--strict"]).whole());
    check(
        &site,
        &["start", "layout", "print", "--site", "seeds"],
        expect![[r#"
        exit 0
        Wrote seeds/themes/plain/layouts/print.html
        A template is put into it that says "layout: print" in its front matter.

        Next:
          hausblatt reach layouts/print --site seeds
              every address that it reaches
    "#]],
    );
    check(
        &site,
        &["start", "layout", "document", "--site", "seeds"],
        expect![[r#"
        exit 1
        ---
        error: there is a layout "document" already: themes/plain/layouts/document.html
        help: to change it in plain: hausblatt override themes/plain/layouts/document.html
    "#]],
    );
    let minimal = Site::empty();
    assert_eq!(minimal.run(&["start", "site", ".", "--minimal"]).code, 0);
    assert_eq!(minimal.tree(".").len(), 6);
    let said = minimal.run(&["start", "component", "box"]);
    assert!(said.out.contains("No template prints a tray yet: write +{tray \"main\"}"), "{}", said.whole());
    assert_eq!(minimal.run(&["start", "theme", "x", "--minimal"]).code, 2);
}

/// Whatever name of the ladder a template is begun with: it renders, and one that goes on changes nothing.
#[test]
fn a_template_can_be_begun_on_every_rung() {
    let site = Site::demo();
    assert_eq!(site.run(&["build"]).code, 0);
    let before = site.tree("built");
    let mut names: Vec<String> = Vec::new();
    for address in [
        "/",
        "/visit/find-us/",
        "/varieties/scarlet-runner/print/",
        "/journal/",
        "/families/legumes/",
        "/journal/2026/",
        "/search/",
        "/calendar/may/",
        "/404.html",
    ] {
        for rung in site.json(&["resolve", address])[0]["rungs"].as_array().unwrap() {
            let name = rung["name"].as_str().unwrap().to_owned();
            let own = rung["files"].as_array().unwrap().iter().any(|file| file["theme"] == "harbour");
            if !own && !names.contains(&name) {
                names.push(name);
            }
        }
    }
    assert!(names.len() > 20, "{names:?}");
    for name in &names {
        let path = format!("themes/harbour/templates/{name}");
        let said = site.run(&["start", "template", name]);
        assert_eq!(said.code, 0, "{}", said.whole());
        let said = site.run(&["build", "-q", "--strict"]);
        assert_eq!(said.code, 0, "{name}: {}", said.whole());
        assert!(site.tree("built") == before, "{name} changes something");
        site.remove(&path);
        assert_eq!(site.run(&["start", "template", name, "--blank"]).code, 0);
        // Slots that other files fill are lacking now, which is a warning.
        let said = site.run(&["build", "-q"]);
        assert_eq!(said.code, 0, "{name}: {}", said.whole());
        site.remove(&path);
    }
}
