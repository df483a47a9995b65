//! Commands that write: all their files or none, what a killed run has left, and nothing that adds an error.

use std::process::Stdio;
use std::thread;
use std::time::Instant;

use expect_test::expect;

use crate::drifting::{LINES, copied};
use crate::support::{Site, check};

#[test]
fn a_copy_that_extends_now_is_a_copy_no_longer() {
    let site = copied(&[("card", LINES, "+{inherited}\nmine\n"), ("tile", LINES, LINES)]);
    site.write("themes/far/partials/card.html", "zero\none\n");
    check(
        &site,
        &["drift"],
        expect![[r#"
            exit 0
            themes/near/partials/card.html
                no longer a copy: it extends the inherited file
                to be rid of the record: hausblatt drift --adopt partials/card.html
            themes/near/partials/tile.html
                current: its original is as it was in far 1.0.0
                it is the same as its original: deleting it changes nothing
        "#]],
    );
    assert_eq!(site.run(&["drift", "--merge"]).code, 0);
    assert_eq!(site.run(&["drift", "--merge", "partials/card"]).code, 0);
    assert_eq!(site.read("themes/near/partials/card.html"), "+{inherited}\nmine\n");
    assert_eq!(site.json(&["drift"])[0]["state"], "extends");
    assert_eq!(site.run(&["drift", "--adopt", "partials/card"]).code, 0);
    assert!(!site.path("themes/near/.originals/partials/card.html").exists());
}

#[test]
fn a_renamed_copy_is_known_by_what_it_holds() {
    let mine = "one\nTWO\nthree\nfour\nfive\n";
    let site = copied(&[("card", LINES, mine), ("other", "a\nb\nc\n", "a\nb\nc\n")]);
    site.rename("themes/near/partials/card.html", "themes/near/partials/the tile.html");
    check(
        &site,
        &["drift", "the tile"],
        expect![[r#"
            exit 0
            themes/near/partials/the tile.html
                current: its original is as it was in far 1.0.0
                renamed from partials/card.html; to rename its record, too: hausblatt drift --adopt 'partials/the tile.html'
        "#]],
    );
    site.write("themes/far/partials/card.html", "one\ntwo\nthree\nfour\nFIVE\n");
    let rows = site.json(&["drift"]);
    assert_eq!(rows.as_array().map(Vec::len), Some(2));
    assert_eq!(rows[1]["path"], "themes/near/partials/the tile.html");
    assert_eq!(rows[1]["state"], "drifted");
    assert_eq!(site.run(&["drift", "--merge"]).code, 0);
    assert_eq!(site.read("themes/near/partials/the tile.html"), "one\nTWO\nthree\nfour\nFIVE\n");
    assert!(!site.path("themes/near/.originals/partials/card.html").exists());
    assert!(site.path("themes/near/.originals/partials/the tile.html").exists());
    assert_eq!(site.json(&["drift"])[1]["state"], "current");
}

/// Merged cleanly, line by line, and yet wrong: such a copy stays as it is.
#[test]
fn a_merge_that_would_bring_an_error_is_refused() {
    let site = copied(&[("card", "+{let a = 1}\ntwo\nthree\nfour\n{a}\n", "+{let a = 1}\ntwo\nthree\nfour\n+{a}\n")]);
    site.write("themes/far/partials/card.html", "two\nthree\nfour\n{a}\n");
    check(
        &site,
        &["drift", "--merge"],
        expect![[r#"
            exit 1
            themes/near/partials/card.html
                drifted: far 1.0.0 → far 1.1.0, 0 lines added, 1 removed
            ---
            error    merged, themes/near/partials/card.html would have an error: unknown
                     name "a"
                     → merge it by hand, then: hausblatt drift --adopt partials/card.html
                                                                                  not-merged

        "#]],
    );
    assert_eq!(site.read("themes/near/partials/card.html"), "+{let a = 1}\ntwo\nthree\nfour\n+{a}\n");
}

#[test]
fn a_problemy_file_can_be_overridden_to_mend_it_but_nothing_new_is_broken() {
    let site = Site::small();
    site.write("themes/far/partials/bad.html", "+{nothing_like_it}\n");
    assert_eq!(site.run(&["override", "partials/bad"]).code, 0);
    // What is right in HTML is none in JSON.
    site.write("themes/far/partials/link.html", "<a href=\"+{request.address}\">+{request.title}</a>\n");
    let before = site.tree("themes");
    check(
        &site,
        &["override", "partials/link", "--as", "partials/link.json"],
        expect![[r#"
            exit 1
            ---
            error: with themes/near/partials/link.json, the site would have an error: no value is safe in JSON directly after another value
            help: put a comma between the two
        "#]],
    );
    assert_eq!(site.tree("themes"), before);
}

#[test]
fn what_a_killed_run_has_left_is_completed() {
    // A site: all but the file that makes it one.
    let site = Site::empty();
    assert_eq!(site.run(&["start", "site", "whole", "--title", "Seeds"]).code, 0);
    let whole = site.tree("whole");
    for left in 0..whole.len() {
        let name = format!("part{left}");
        for (path, bytes) in whole.iter().filter(|(path, _)| path != "hausblatt.toml").take(left) {
            site.write(&format!("{name}/{path}"), bytes);
        }
        let done = site.run(&["start", "site", &name, "--title", "Seeds"]);
        assert_eq!(done.code, 0, "{}", done.whole());
        assert_eq!(site.tree(&name), whole);
    }
    site.write("mine/content/pages/welcome.md", "mine\n");
    let done = site.run(&["start", "site", "mine", "--title", "Seeds"]);
    assert_eq!((done.code, site.tree("mine").len()), (1, 1), "{}", done.whole());

    // A theme and a component, each without the file that makes it one.
    for (arguments, folder, last) in [
        (&["start", "theme", "meadow"][..], "themes/meadow", "hausblatt-theme.toml"),
        (&["start", "component", "notice"], "themes/near/components/notice", "component.html"),
    ] {
        let site = Site::small();
        assert_eq!(site.run(arguments).code, 0);
        let whole = site.tree(folder);
        site.remove(&format!("{folder}/{last}"));
        let done = site.run(arguments);
        assert_eq!(done.code, 0, "{}", done.whole());
        assert_eq!(site.tree(folder), whole);
        assert_eq!(site.run(arguments).code, 1);
    }
}

/// A command that writes, and the site that it is typed in.
type Writing = (fn() -> Site, &'static [&'static str]);

fn empty() -> Site {
    Site::empty()
}

/// A small site in which every command that writes has something to write.
fn with_work() -> Site {
    let site = copied(&[("card", LINES, "one\nTWO\nthree\nfour\nfive\n")]);
    site.write("themes/far/partials/card.html", "one\ntwo\nthree\nfour\nFIVE\n");
    site.write("themes/far/partials/tile.html", "tile\n");
    site.write("themes/far/templates/offered/wide.html", "---\nlabel: Wide\n---\nwide +{content.title}\n");
    site.write("themes/near/templates/page.html", "+{partial \"tiel\"}+{content.title}\n");
    site.write("log.txt", "/opning/\n/visti/\n");
    site.write("notes.svg", "<svg/>");
    site
}

/// The same with a copy that differs in a slot, and with files that are not neat.
fn with_loose_files() -> Site {
    let site = with_work();
    site.write("themes/far/partials/sign.html", "<p>+{slot \"word\" else}open+{end}</p>\n");
    assert_eq!(site.run(&["override", "partials/sign"]).code, 0);
    site.write("themes/near/partials/sign.html", "<p>+{slot \"word\" else}closed+{end}</p>\n");
    site.write("themes/near/partials/gate.html", "<p>+{  content.title}</p>\n");
    site.write("themes/near/partials/fence.html", "<i>+{content.title   }</i>\n");
    site
}

/// The same with a change that can be taken back.
fn with_change() -> Site {
    let site = with_work();
    assert_eq!(site.run(&["choose", "wide", "/visit/", "/"]).code, 0);
    site
}

const WRITING: &[Writing] = &[
    (empty, &["demo", "seeds", "-q"]),
    (empty, &["start", "site", "seeds"]),
    (with_work, &["start", "theme", "meadow"]),
    (with_work, &["start", "component", "notice"]),
    (with_work, &["start", "template", "page/visit"]),
    (with_work, &["override", "partials/tile"]),
    (with_work, &["choose", "wide", "/visit/", "/"]),
    (with_work, &["drift", "--merge"]),
    (with_work, &["drift", "--adopt", "partials/card"]),
    (with_work, &["rename", "partials/tile", "slab", "--theme", "far"]),
    (with_work, &["rename", "page:visit", "find-us"]),
    (with_work, &["extract", "templates/page:1", "cut-out", "--theme", "far"]),
    (with_work, &["move", "partials/tile", "near"]),
    (with_loose_files, &["extend", "partials/sign"]),
    (with_loose_files, &["neaten"]),
    (with_change, &["undo"]),
    (with_work, &["check", "--fix"]),
    (with_work, &["missed", "log.txt", "--fix"]),
    (with_work, &["expect", "--record"]),
    (with_work, &["chart", "--out", "notes.svg", "--force"]),
    (with_work, &["build"]),
];

/// What a site holds apart from temporary files, the journal, and what says when it was built.
fn lasting(site: &Site) -> Vec<(String, Vec<u8>)> {
    let own = |path: &str| path.rsplit('/').next().is_some_and(|name| name.starts_with(".hausblatt-"));
    let demo_built = |path: &str| path.starts_with("seeds/built/");
    let is_kept = |path: &str| path.starts_with(".hausblatt-undo/");
    site.tree(".").into_iter().filter(|(path, _)| !own(path) && !demo_built(path) && !is_kept(path)).collect()
}

/// Killed at many moments, each command leaves every file as it was or as it should be, and the same command again does
/// the rest. `MOMENTS=300 cargo test -p hausblatt --test program killed_at` kills more often.
#[test]
fn killed_at_any_moment_the_same_command_completes() {
    let moments: u32 = std::env::var("MOMENTS").ok().and_then(|text| text.parse().ok()).unwrap_or(6);
    for (site, arguments) in WRITING {
        let whole = site();
        let before = lasting(&whole);
        let began = Instant::now();
        let said = whole.run(arguments);
        let took = began.elapsed();
        let after = lasting(&whole);
        assert!(before != after, "{arguments:?} writes nothing: {}", said.whole());
        for moment in 0..moments {
            let site = site();
            let mut child =
                site.command(arguments).stdout(Stdio::null()).stderr(Stdio::null()).spawn().expect("it starts");
            thread::sleep(took * moment / moments);
            child.kill().expect("it is killed");
            child.wait().expect("it ends");
            for (path, bytes) in lasting(&site) {
                let known =
                    |files: &[(String, Vec<u8>)]| files.iter().any(|(other, now)| *other == path && *now == bytes);
                assert!(known(&before) || known(&after), "{arguments:?} at {moment}: {path}");
            }
            let done = site.run(arguments);
            let left = lasting(&site);
            let is_left = |path: &str| {
                path.rsplit('/')
                    .next()
                    .is_some_and(|name| name.starts_with(".hausblatt-") && name.ends_with(|c: char| c.is_ascii_digit()))
            };
            let litter: Vec<_> = site.tree(".").into_iter().filter(|(path, _)| is_left(path)).collect();
            assert!(litter.is_empty(), "{arguments:?} at {moment}: {}", litter[0].0);
            assert!(left == after, "{arguments:?} at {moment}: {}\n{}", done.whole(), differing(&left, &after));
        }
    }
}

fn differing(left: &[(String, Vec<u8>)], after: &[(String, Vec<u8>)]) -> String {
    let only = |some: &[(String, Vec<u8>)], others: &[(String, Vec<u8>)]| {
        let only: Vec<&str> = some.iter().filter(|one| !others.contains(one)).map(|(path, _)| path.as_str()).collect();
        only.join(" ")
    };
    format!("found {}\nwanted {}", only(left, after), only(after, left))
}
