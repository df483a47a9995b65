//! `set`: values of front matter and configuration, one key at a time.

use crate::support::{Site, check};
use expect_test::expect;

/// The small site with a field, two settings, a component and a menu.
fn settable() -> Site {
    let site = Site::small();
    let toml = site.read("hausblatt.toml");
    site.write(
        "hausblatt.toml",
        format!("{toml}\n[pages.fields]\ntagline = {{ type = \"text\" }}\nseats = {{ type = \"number\", min = 1 }}\n\n[settings]\n# Under the title.\nmotto = \"Sow\"   # ours\n\n[menus]\nmain = [{{ to = \"page:visit\" }}, {{ to = \"page:home\" }}]\n"),
    );
    site.write("themes/far/hausblatt-theme.toml", "[settings]\nmotto = { type = \"text\" }\ntone = { type = \"choice\", options = [\"calm\", \"loud\"], default = \"calm\" }\n");
    site.write("themes/far/components/note/component.toml", "[[fields]]\nname = \"text\"\ntype = \"rich\"\n");
    site.write("themes/far/components/note/component.html", "(+{text})\n");
    site.write("themes/far/templates/page.html", "page +{content.title} +{tray \"main\"}\n");
    site
}

#[test]
fn configuration_keeps_its_line_breaks_and_its_byte_order_mark() {
    let site = settable();
    let written = format!("\u{feff}{}", site.read("hausblatt.toml").replace('\n', "\r\n"));
    site.write("hausblatt.toml", &written);
    assert_eq!(site.run(&["set", "site", "settings.motto=Reap", "settings.tone=loud"]).code, 0);
    let expected = written.replacen("\"Sow\"", "\"Reap\"", 1);
    let expected = expected.replacen("# ours\r\n", "# ours\r\ntone = \"loud\"\r\n", 1);
    assert_eq!(site.read("hausblatt.toml"), expected);
}

#[test]
fn values_of_broken_front_matter_are_not_listed() {
    let site = settable();
    site.write("content/pages/visit.md", "---\ntitle: [Visit\n---\n");
    check(
        &site,
        &["set", "content/pages/visit.md"],
        expect![[r#"
        exit 1
        ---
        error: content/pages/visit.md: the front matter has an error: while parsing a flow sequence, expected ',' or ']'
        help: fix it first
    "#]],
    );
}

#[test]
fn values_are_set_and_listed() {
    let site = settable();
    check(
        &site,
        &["set", "/visit/"],
        expect![[r#"
        exit 0
        content/pages/visit.md
          title    text    Visit
          tagline  text    ·
          seats    number  ·

        Next:  hausblatt set /visit/ title=VALUE
    "#]],
    );
    check(
        &site,
        &["set", "site"],
        expect![[r#"
        exit 0
        hausblatt.toml
          settings.motto  text    Sow
          settings.tone   choice  calm  (default of far)
          menus.main.1    item    { to: "page:visit" }
          menus.main.2    item    { to: "page:home" }

        Next:  hausblatt set site settings.motto=VALUE
    "#]],
    );
    check(
        &site,
        &["set", "theme"],
        expect![[r#"
        exit 0
        themes/near/hausblatt-theme.toml
          settings.motto.default  text    ·
          settings.tone.default   choice  calm  (default of far)

        Next:  hausblatt set theme settings.motto.default=VALUE
    "#]],
    );
    check(
        &site,
        &["set", "/visit/", "title=Come and see", "seats=8"],
        expect![[r#"
        exit 0
        Wrote content/pages/visit.md
              title: Come and see, before Visit
              seats: 8

        Take it back:  hausblatt undo
    "#]],
    );
    check(
        &site,
        &["set", "/visit/", "--add", "trays.main={ component: note, text: Closed }"],
        expect![[r#"
        exit 0
        Wrote content/pages/visit.md
              trays.main: { component: note, text: Closed } is added

        Take it back:  hausblatt undo
    "#]],
    );
    check(
        &site,
        &["set", "content/pages/visit.md", "trays.main.1.text=Open", "--clear", "seats"],
        expect![[r#"
        exit 0
        Wrote content/pages/visit.md
              trays.main.1.text: Open, before Closed
              seats is taken out, before 8

        Take it back:  hausblatt undo
    "#]],
    );
    check(
        &site,
        &["set", "site", "settings.motto=Save", "settings.tone=loud"],
        expect![[r#"
        exit 0
        Wrote hausblatt.toml
              settings.motto: Save, before Sow
              settings.tone: loud

        Take it back:  hausblatt undo
    "#]],
    );
    check(
        &site,
        &["set", "site", "--move", "menus.main.2=1", "--dry-run"],
        expect![[r#"
        exit 0
        Would write hausblatt.toml
              menus.main.2 is moved to 1

        Every address would be answered by the same file.

        The HTML of all of them would be unchanged.
    "#]],
    );
    check(
        &site,
        &["set", "theme", "settings.tone.default=loud"],
        expect![[r#"
        exit 0
        Wrote themes/near/hausblatt-theme.toml
              settings.tone.default: loud

        Take it back:  hausblatt undo
    "#]],
    );
    check(
        &site,
        &["set", "/visit/", "title=Come and see"],
        expect![[r#"
            exit 0
            Kept  content/pages/visit.md
                  title is Come and see already
        "#]],
    );
    expect![[r#"
        ---
        title: Come and see
        trays:
          main:
            - component: note
              text: Open
        ---
        Come.
        [site]
        title = "Seeds"
        address = "https://seeds.example"
        theme = "near"

        [front]
        page = "home"

        [collections.journal]
        address = "/journal/{slug}/"
        listing = "/journal/"
        order = "date desc"
        per_page = 2

        [pages.fields]
        tagline = { type = "text" }
        seats = { type = "number", min = 1 }

        [settings]
        # Under the title.
        motto = "Save"   # ours
        tone = "loud"

        [menus]
        main = [{ to = "page:visit" }, { to = "page:home" }]
        [theme]
        parent = "far"

        [settings]
        tone = { default = "loud" }
    "#]]
    .assert_eq(
        &(site.read("content/pages/visit.md")
            + &site.read("hausblatt.toml")
            + &site.read("themes/near/hausblatt-theme.toml")),
    );
}

#[test]
fn what_does_not_fit_is_refused() {
    let site = settable();
    let before = site.files();
    for (arguments, expected) in [
        (
            &["set", "/visit/", "taglin=x"][..],
            expect![[r#"
            exit 1
            ---
            error: content/pages/visit.md has no key "taglin"
            help: did you mean "tagline"?
        "#]],
        ),
        (
            &["set", "/visit/", "seats=0"],
            expect![[r#"
            exit 1
            ---
            error: seats: this must be at least 1
        "#]],
        ),
        (
            &["set", "/visit/", "seats=many"],
            expect![[r#"
            exit 1
            ---
            error: seats: this must be a number, not a text
        "#]],
        ),
        (
            &["set", "/visit/", "seats="],
            expect![[r#"
                exit 1
                ---
                error: seats: this must be a number, not nothing
                help: take it out: --clear seats
            "#]],
        ),
        (
            &["set", "/visit/", "title"],
            expect![[r#"
            exit 2
            ---
            error: invalid value 'title' for '[KEY=VALUE]...': write it as in 'title=Come and see'

            For more information, try '--help'.
        "#]],
        ),
        (
            &["set", "/visit/", "template=nope"],
            expect![[r#"
            exit 1
            ---
            error: content/pages/visit.md: this chooses offered/nope, which no theme of the lineage has; nothing was written
            help: no theme of the lineage offers one for it
        "#]],
        ),
        (
            &["set", "/visit/", "--add", "trays.main={ component: note, txt: x }"],
            expect![[r#"
            exit 1
            ---
            error: content/pages/visit.md: the component "note" has no field "txt"; nothing was written
            help: did you mean "text"?
        "#]],
        ),
        (
            &["set", "/visit/", "--add", "trays.main={ component: not }"],
            expect![[r#"
            exit 1
            ---
            error: content/pages/visit.md: no theme of the lineage has the component "not"; nothing was written
            help: did you mean "note"?
        "#]],
        ),
        (
            &["set", "/visit/", "--add", "trays.side={ component: note }"],
            expect![[r#"
            exit 1
            ---
            error: content/pages/visit.md: no file of the lineage prints the tray "side"; nothing was written
            help: a template prints it with +{tray "side"}
        "#]],
        ),
        (
            &["set", "/visit/", "--add", "trays.main={ component: [ }"],
            expect![[r#"
            exit 1
            ---
            error: trays.main: while parsing a node, did not find expected node content
        "#]],
        ),
        (
            &["set", "/visit/", "--clear", "trays.main.1"],
            expect![[r#"
            exit 0
            Kept  content/pages/visit.md
                  trays.main.1 was not there
        "#]],
        ),
        (
            &["set", "/visit/", "trays.main.1.text=x"],
            expect![[r#"
                exit 1
                ---
                error: there is no trays.main.1.text
            "#]],
        ),
        (
            &["set", "/visit/", "a..b=x"],
            expect![[r#"
            exit 1
            ---
            error: "a..b" is not a valid key
            help: write it as in tagline, settings.motto or trays.main.2.text
        "#]],
        ),
        (
            &["set", "site", "settings.tone=shrill"],
            expect![[r#"
            exit 1
            ---
            error: settings.tone: "shrill" is not one of calm, loud
        "#]],
        ),
        (
            &["set", "site", "settings.mott=x"],
            expect![[r#"
            exit 1
            ---
            error: hausblatt.toml: no theme of the lineage has the setting "mott"; nothing was written
            help: did you mean "motto"?
        "#]],
        ),
        (
            &["set", "site", "site.theme=nowhere"],
            expect![[r#"
            exit 1
            ---
            error: hausblatt.toml: there is no theme "nowhere"; nothing was written
            help: the themes are far, near
        "#]],
        ),
        (
            &["set", "site", "menus.main.1.to=page:nowhere"],
            expect![[r#"
            exit 1
            ---
            error: hausblatt.toml: broken reference "page:nowhere"; nothing was written
            help: references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM, route:NAME, feed:COLLECTION and period:COLLECTION/YEAR/MONTH/DAY
        "#]],
        ),
        (
            &["set", "site", "--move", "menus.main.3=1"],
            expect![[r#"
            exit 1
            ---
            error: menus.main has only 2 members
        "#]],
        ),
        (
            &["set", "site", "--move", "menus.main=1"],
            expect![[r#"
            exit 1
            ---
            error: menus.main is not a position in a list
        "#]],
        ),
        (
            &["set", "site", "nonsense.key=1"],
            expect![[r#"
            exit 1
            ---
            error: hausblatt.toml: unknown key "nonsense" in hausblatt.toml; nothing was written
            help: its keys are site, front, collections, pages, menus, content, taxonomies, routes, search, errors, settings, ladders, build, check, rehearse
        "#]],
        ),
        (
            &["set", "/journal/", "title=x"],
            expect![[r#"
            exit 1
            ---
            error: /journal/ is a listing, which has no front matter
            help: name a page or an entry, or: site, theme
        "#]],
        ),
        (
            &["set", "/vist/", "title=x"],
            expect![[r#"
            exit 1
            ---
            error: nothing is at /vist/
            help: did you mean /visit/?
        "#]],
        ),
        (
            &["set", "content/pages/vist.md", "title=x"],
            expect![[r#"
            exit 1
            ---
            error: there is no content file content/pages/vist.md
            help: did you mean "content/pages/visit.md"?
        "#]],
        ),
        (
            &["set", "visit", "title=x"],
            expect![[r#"
            exit 2
            ---
            error: "visit" has no values to set
            help: name an address, a content file, "site" (hausblatt.toml) or "theme" (the active theme's manifest)
        "#]],
        ),
    ] {
        check(&site, arguments, expected);
        assert_eq!(site.files(), before, "{arguments:?}");
    }
    let deep = format!("trays{}=x", ".a".repeat(50_000));
    check(
        &site,
        &["set", "/visit/", &deep],
        expect![[r#"
        exit 1
        ---
        error: this key has 50001 parts, and 32 are the most
        help: write it as in tagline, settings.motto or trays.main.2.text
    "#]],
    );
    check(
        &site,
        &["set", "site", &deep],
        expect![[r#"
        exit 1
        ---
        error: this key has 50001 parts, and 32 are the most
        help: write it as in tagline, settings.motto or trays.main.2.text
    "#]],
    );
    site.write("content/pages/visit.md", "---\ntitle: [Visit\n---\n");
    check(
        &site,
        &["set", "content/pages/visit.md", "title=x"],
        expect![[r#"
        exit 1
        ---
        error: content/pages/visit.md: the front matter has an error: while parsing a flow sequence, expected ',' or ']'
        help: fix it first
    "#]],
    );
    site.write("content/pages/visit.md", "---\ntagline: >\n  one\n  two\nseats: 4\n---\n");
    check(
        &site,
        &["set", "/visit/", "tagline=three", "--format", "json"],
        expect![[r#"
        exit 0
        {
          "path": "content/pages/visit.md",
          "written": true,
          "changed": []
        }
    "#]],
    );
    assert_eq!(site.read("content/pages/visit.md"), "---\ntagline: three\nseats: 4\n---\n");
}

#[test]
fn changes_are_taken_back_by_their_numbers() {
    let site = settable();
    let (visit, toml) = (site.read("content/pages/visit.md"), site.read("hausblatt.toml"));
    site.run(&["set", "/visit/", "title=One"]);
    site.run(&["set", "site", "settings.motto=Save"]);
    site.run(&["set", "/visit/", "title=Two"]);
    said(
        &site,
        &["undo", "1"],
        expect![[r#"
        exit 1
        ---
        error: content/pages/visit.md changed since "hausblatt set /visit/ title=One --as-of 2026-11-23"; nothing was taken back
        help: what they held before is in .hausblatt-undo/000001.json
    "#]],
    );
    said(
        &site,
        &["undo", "2"],
        expect![[r#"
            exit 0
            Took back hausblatt set site settings.motto=Save --as-of 2026-11-23
            of MOMENT

              hausblatt.toml  as before

            Each address has the template that it had.

            Next:  hausblatt undo --list
        "#]],
    );
    assert_eq!(site.read("hausblatt.toml"), toml);
    said(
        &site,
        &["undo", "2"],
        expect![[r#"
        exit 1
        ---
        error: no change 2 is kept
        help: hausblatt undo --list lists the changes with their numbers
    "#]],
    );
    said(
        &site,
        &["undo", "3"],
        expect![[r#"
            exit 0
            Took back hausblatt set /visit/ title=Two --as-of 2026-11-23
            of MOMENT

              content/pages/visit.md  as before

            Each address has the template that it had.

            Next:  hausblatt undo --list
        "#]],
    );
    said(
        &site,
        &["undo", "1", "--dry-run"],
        expect![[r#"
            exit 0
            Would take back hausblatt set /visit/ title=One --as-of 2026-11-23
            of MOMENT

              content/pages/visit.md  as before

            Each address has the template that it had.

            Next:  hausblatt undo 1
        "#]],
    );
    said(
        &site,
        &["undo", "1"],
        expect![[r#"
            exit 0
            Took back hausblatt set /visit/ title=One --as-of 2026-11-23
            of MOMENT

              content/pages/visit.md  as before

            Each address has the template that it had.

            Next:  hausblatt undo --list
        "#]],
    );
    assert_eq!(site.read("content/pages/visit.md"), visit);
}

/// What a command says, without the moment at which a change was made.
#[track_caller]
fn said(site: &Site, arguments: &[&str], expected: expect_test::Expect) {
    let whole = site.run(arguments).whole();
    let line = |line: &str| if line.starts_with("of 20") { "of MOMENT".to_owned() } else { line.to_owned() };
    expected.assert_eq(&(whole.lines().map(line).collect::<Vec<_>>().join("\n") + "\n"));
}
