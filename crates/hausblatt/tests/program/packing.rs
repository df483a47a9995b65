//! `pack` and `start theme --from` as users meet them.

use crate::support::{Site, check};
use expect_test::expect;

/// A site with a theme that is ready for others.
fn site() -> Site {
    let site = Site::empty();
    site.write("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n");
    site.write("content/pages/home.md", "Welcome.\n");
    site.write("content/pages/visit.md", "Come in.\n");
    site.write("themes/t/hausblatt-theme.toml", "[theme]\nversion = \"1.0.0\"\n");
    site.write(
        "themes/t/layouts/document.html",
        "<!doctype html>\n<html lang=\"+{site.language}\">\n<head><meta charset=\"utf-8\"><title>+{request.title}</title><meta name=\"robots\" content=\"+{request.robots}\">+{used \"styles\"}</head>\n<body><main>+{slot}</main></body>\n</html>\n",
    );
    site.write(
        "themes/t/templates/fallback.html",
        "<h1>+{request.title}</h1>\n+{if content}+{content.body}+{end}\n+{if listing}<ul>+{each entry in listing.items}<li>+{entry.title}</li>+{none}<li>Nothing yet.</li>+{end}</ul>+{end}\n",
    );
    site.write("themes/t/templates/error.html", "<h1>+{request.title}</h1>\n<p>Gone.</p>\n");
    site
}

#[test]
fn a_theme_is_packed_when_it_is_ready() {
    let site = site();
    check(
        &site,
        &["pack"],
        expect![[r#"
        exit 1
        ---
        error: t has no licence file, so nobody would know what they may do with it
        help: write themes/t/LICENCE.txt; to pack it all the same, add --anyway
    "#]],
    );
    site.write("themes/t/LICENCE.txt", "Use it.\n");
    site.write("themes/t/templates/page.html", "<h1>+{content.title}</h1>\n<p>By +{content.authors.first}</p>\n");
    check(
        &site,
        &["pack"],
        expect![[r#"
            exit 1
            ---
            error: t has 1 weakness with other content
            help: to see it: hausblatt rehearse; to pack it all the same, add --anyway
        "#]],
    );
    site.write(
        "themes/t/templates/page.html",
        "<h1>+{content.title}</h1>\n<a href=\"+{url('page:visit')}\">Visit</a>\n",
    );
    check(
        &site,
        &["pack"],
        expect![[r#"
            exit 1
            ---
            error: t has 1 problem without this site
            help: to see it: hausblatt check --alone; to pack it all the same, add --anyway
        "#]],
    );
    site.write("themes/t/templates/page.html", "<h1>+{content.title}</h1>\n+{content.body}\n");
    let said = site.run(&["pack"]);
    assert!(said.code == 0 && said.out.starts_with("Wrote t-1.0.0.tar.gz: t; 6 files, "), "{}", said.whole());
    let bytes = std::fs::read(site.path("t-1.0.0.tar.gz")).unwrap();
    let json = site.json(&["pack", "--out", "other/t.tar.gz", "--anyway"]);
    assert_eq!((&json["files"], &json["themes"][0]), (&6.into(), &"t".into()));
    assert_eq!(std::fs::read(site.path("other/t.tar.gz")).unwrap(), bytes);
    // What is no archive stays.
    check(
        &site,
        &["pack", "--anyway", "--out", "hausblatt.toml"],
        expect![[r#"
        exit 1
        ---
        error: hausblatt.toml is there already and is no archive
        help: name another file with --out
    "#]],
    );
    let mut command = site.command(&["pack", "--anyway"]);
    let said = command.env("SOURCE_DATE_EPOCH", "yesterday").output().unwrap();
    assert!(String::from_utf8_lossy(&said.stderr).contains("a number of seconds since 1970-01-01"));
}

#[test]
fn a_packed_theme_is_unpacked_updated_and_taken_back() {
    let from = site();
    assert_eq!(from.run(&["pack", "--anyway", "-q", "--out", "t.tar.gz"]).code, 0);
    let site = Site::small();
    site.write("t.tar.gz", std::fs::read(from.path("t.tar.gz")).unwrap());
    check(
        &site,
        &["start", "theme", "--from", "t.tar.gz"],
        expect![[r#"
        exit 0
        Wrote themes/t/  4 files

        Next:
          hausblatt needs --missing --theme t
              what this site lacks of what it needs
          hausblatt suppose --to-theme t
              what would change with it
    "#]],
    );
    check(
        &site,
        &["start", "theme", "--from", "t.tar.gz"],
        expect![[r#"
        exit 0
        ✓ themes/t/ is there already, the same

        Next:
          hausblatt needs --missing --theme t
              what this site lacks of what it needs
          hausblatt suppose --to-theme t
              what would change with it
    "#]],
    );
    site.write("themes/t/templates/error.html", "<h1>Ours</h1>\n");
    from.write("themes/t/templates/error.html", "<h1>Theirs</h1>\n");
    from.run(&["pack", "--anyway", "-q", "--out", "t.tar.gz"]);
    site.write("t.tar.gz", std::fs::read(from.path("t.tar.gz")).unwrap());
    check(
        &site,
        &["start", "theme", "--from", "t.tar.gz"],
        expect![[r#"
        exit 1
        ---
        error: there is a theme "t" already (1.0.0), and the archive has another one (1.0.0)
        help: to merge what is new into it, add --update
    "#]],
    );
    check(
        &site,
        &["start", "theme", "--from", "t.tar.gz", "--update"],
        expect![[r#"
        exit 1
        Updated themes/t/  1 file

        Both sides changed the same lines, which are marked, of
          themes/t/templates/error.html

        Next:
          hausblatt needs --missing --theme t
              what this site lacks of what it needs
          hausblatt suppose --to-theme t
              what would change with it
    "#]],
    );
    expect![[r#"
        <<<<<<< as it is here
        <h1>Ours</h1>
        =======
        <h1>Theirs</h1>
        >>>>>>> the archive
    "#]]
    .assert_eq(&site.read("themes/t/templates/error.html"));
    site.run(&["undo"]);
    assert_eq!(site.read("themes/t/templates/error.html"), "<h1>Ours</h1>\n");
}

/// What changed here can't be told without the archive that a theme was unpacked from, so nothing is guessed.
#[test]
fn a_damaged_record_stops_an_update() {
    let from = site();
    from.run(&["pack", "--anyway", "-q", "--out", "t.tar.gz"]);
    let site = Site::small();
    let bring = || site.write("t.tar.gz", std::fs::read(from.path("t.tar.gz")).unwrap());
    bring();
    site.run(&["start", "theme", "--from", "t.tar.gz", "-q"]);
    from.write("themes/t/templates/error.html", "<h1>Theirs</h1>\n");
    from.run(&["pack", "--anyway", "-q", "--out", "t.tar.gz"]);
    bring();
    site.write("themes/t/.packed.tar.gz", "cut");
    let before = site.tree("themes");
    check(
        &site,
        &["start", "theme", "--from", "t.tar.gz", "--update"],
        expect![[r#"
        exit 1
        ---
        error: themes/t/.packed.tar.gz can't be used: this is not an archive of themes: it is not packed with gzip
        help: put it back as it was, or remove it: then what differs from the archive is marked for you to choose
    "#]],
    );
    assert_eq!(site.tree("themes"), before);
}

#[test]
fn a_parent_that_nobody_has_is_named() {
    let from = site();
    from.write("themes/child/hausblatt-theme.toml", "[theme]\nversion = \"1.0.0\"\nparent = \"t\"\n");
    let said = from.run(&["pack", "--theme", "child", "--without-parents", "--anyway", "-q", "--out", "c.tar.gz"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    let site = Site::small();
    site.write("c.tar.gz", std::fs::read(from.path("c.tar.gz")).unwrap());
    check(
        &site,
        &["start", "theme", "--from", "c.tar.gz"],
        expect![[r#"
        exit 0
        Wrote themes/child/  1 file

        Next:
          hausblatt needs --missing --theme child
              what this site lacks of what it needs
          hausblatt suppose --to-theme child
              what would change with it
        ---
        note: the parent t is neither in the archive nor in this site; unpack it, too, before child can be used
    "#]],
    );
}

#[test]
fn what_is_no_archive_is_refused_and_nothing_is_written() {
    let site = Site::small();
    site.write("cut.tar.gz", [0x1f, 0x8b, 8, 0, 0]);
    let before = site.tree(".");
    check(
        &site,
        &["start", "theme", "--from", "hausblatt.toml"],
        expect![[r#"
        exit 1
        ---
        error: this is not an archive of themes: it is not packed with gzip
        help: nothing was written; ask for a new one
    "#]],
    );
    check(
        &site,
        &["start", "theme", "--from", "cut.tar.gz"],
        expect![[r#"
        exit 1
        ---
        error: the archive is cut off
        help: nothing was written; ask for a new one
    "#]],
    );
    check(
        &site,
        &["start", "theme", "--from", "gone.tar.gz"],
        expect![[r#"
        exit 1
        ---
        error: gone.tar.gz can't be read: No such file or directory
    "#]],
    );
    check(
        &site,
        &["start", "theme"],
        expect![[r#"
        exit 2
        ---
        error: a name is missing
        help: write it behind what is to be created, or see hausblatt start --help
    "#]],
    );
    check(
        &site,
        &["start", "page", "--from", "cut.tar.gz"],
        expect![[r#"
        exit 2
        ---
        error: --from is for a template, or a theme without a name
        help: leave it out, or see hausblatt start --help
    "#]],
    );
    check(
        &site,
        &["start", "theme", "new", "--from", "cut.tar.gz"],
        expect![[r#"
        exit 2
        ---
        error: --from is for a template, or a theme without a name
        help: leave it out, or see hausblatt start --help
    "#]],
    );
    assert_eq!(site.tree("."), before);
}
