//! `drift`: copies whose original has moved on.

use crate::support::{Site, check};
use expect_test::expect;

/// A theme `near` over `far` 1.0.0, with a copy of each of these partials, changed by `mine`.
pub fn copied(texts: &[(&str, &str, &str)]) -> Site {
    let site = Site::small();
    site.write("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1.0.0\"\n");
    for (name, text, _) in texts {
        site.write(&format!("themes/far/partials/{name}.html"), text);
    }
    for (name, _, mine) in texts {
        assert_eq!(site.run(&["override", &format!("partials/{name}")]).code, 0);
        site.write(&format!("themes/near/partials/{name}.html"), mine);
    }
    site.write("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1.1.0\"\n");
    site
}

pub const LINES: &str = "one\ntwo\nthree\nfour\nfive\n";

#[test]
fn a_parent_moves_on_and_copies_follow() {
    let site = copied(&[
        ("same", LINES, LINES),
        ("added", LINES, "one\ntwo\nthree\nfour\nFIVE\n"),
        ("clash", LINES, "one\nTWO\nthree\nfour\nfive\n"),
        ("gone", LINES, "mine\n"),
        ("moved", "a\nb\nc\nd\ne\nf\n", "a\nb\nc\nd\ne\nmine\n"),
        ("crlf", LINES, "one\r\ntwo\r\nthree\r\nfour\r\nmine\r\n"),
        ("kept", LINES, "mine\n"),
    ]);
    site.write("themes/far/partials/hand.html", LINES);
    site.write("themes/near/partials/hand.html", "one\ntwo\nby hand\n");
    site.write("themes/near/partials/own.html", "own\n");
    // The parent is updated: lines come, change and go, a file goes, a file is renamed.
    site.write("themes/far/partials/added.html", "zero\none\ntwo\nthree\nfour\nfive\n");
    site.write("themes/far/partials/clash.html", "one\n2\nthree\nfour\nfive\n");
    site.remove("themes/far/partials/gone.html");
    site.rename("themes/far/partials/moved.html", "themes/far/partials/elsewhere.html");
    site.write("themes/far/partials/crlf.html", "ONE\ntwo\nthree\nfour\nfive\n");
    check(
        &site,
        &["drift"],
        expect![[r#"
            exit 1
            themes/near/partials/added.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 0 removed
            themes/near/partials/clash.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 1 removed
            themes/near/partials/crlf.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 1 removed
            themes/near/partials/gone.html
                gone: far 1.0.0 had it, and has it no more
                to keep it as the theme's own: hausblatt drift --adopt partials/gone.html
            themes/near/partials/hand.html
                no original recorded; 50 % of it is far 1.1.0's
            themes/near/partials/kept.html
                current: its original is as it was in far 1.0.0
            themes/near/partials/moved.html
                moved: far 1.1.0 has it as partials/elsewhere.html now
                to follow it, rename yours, then: hausblatt drift --adopt partials/elsewhere.html
            themes/near/partials/same.html
                current: its original is as it was in far 1.0.0
                it is the same as its original: deleting it changes nothing

            What has changed:       hausblatt drift --diff
            To take it over:        hausblatt drift --merge
            To record an original:  hausblatt drift --adopt partials/hand.html
        "#]],
    );
    check(
        &site,
        &["drift", "--diff", "partials/added"],
        expect![[r#"
            exit 1
            themes/near/partials/added.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 0 removed
            --- before far/partials/added.html
            +++ after far/partials/added.html
            @@ -1,3 +1,4 @@
            +zero
             one
             two
             three

            To take it over:        hausblatt drift --merge
        "#]],
    );
    let before = site.tree("themes/near");
    assert_eq!(site.run(&["drift", "--diff"]).code, 1);
    assert_eq!(site.tree("themes/near"), before, "asking writes nothing");
    check(
        &site,
        &["drift", "--merge"],
        expect![[r#"
            exit 1
            themes/near/partials/added.html
                merged with far 1.1.0; its record is renewed
            themes/near/partials/clash.html
                merged with far 1.1.0, but for 1 conflict that is marked in it
                settle what is between the marks, then: hausblatt drift --adopt partials/clash.html
            themes/near/partials/crlf.html
                merged with far 1.1.0; its record is renewed
            themes/near/partials/gone.html
                gone: far 1.0.0 had it, and has it no more
                to keep it as the theme's own: hausblatt drift --adopt partials/gone.html
            themes/near/partials/hand.html
                no original recorded; 50 % of it is far 1.1.0's
            themes/near/partials/kept.html
                current: its original is as it was in far 1.0.0
            themes/near/partials/moved.html
                merged with far 1.1.0; its record is renewed
            themes/near/partials/same.html
                current: its original is as it was in far 1.0.0
                it is the same as its original: deleting it changes nothing

            To record an original:  hausblatt drift --adopt partials/hand.html
            What that changes:      hausblatt build --diff
        "#]],
    );
    assert_eq!(site.read("themes/near/partials/added.html"), "zero\none\ntwo\nthree\nfour\nFIVE\n");
    assert_eq!(site.read("themes/near/partials/crlf.html"), "ONE\r\ntwo\r\nthree\r\nfour\r\nmine\r\n");
    assert_eq!(site.read("themes/near/partials/moved.html"), "a\nb\nc\nd\ne\nmine\n");
    assert_eq!(
        site.read("themes/near/partials/clash.html"),
        "one\n<<<<<<< near\nTWO\n=======\n2\n>>>>>>> far 1.1.0\nthree\nfour\nfive\n"
    );
    // A second merge does not touch what is not settled; then it is.
    check(
        &site,
        &["drift", "--merge", "clash"],
        expect![[r#"
            exit 1
            themes/near/partials/clash.html
                drifted: far 1.0.0 → far 1.1.0, 1 line added, 1 removed
            ---
            error    themes/near/partials/clash.html still holds the marks of a conflict
                     → settle the lines between the marks, then: hausblatt drift --adopt
                       partials/clash.html                                        not-merged

        "#]],
    );
    site.write("themes/near/partials/clash.html", "one\nTWO, that is 2\nthree\nfour\nfive\n");
    assert_eq!(site.run(&["drift", "--adopt", "clash"]).code, 0);
    check(
        &site,
        &["drift", "--adopt", "gone", "--adopt", "hand"],
        expect![[r#"
            exit 0
            themes/near/partials/gone.html
                it has no original any more: it is the theme's own from now on
            themes/near/partials/hand.html
                its original is far 1.1.0's from now on
        "#]],
    );
    check(
        &site,
        &["drift"],
        expect![[r#"
            exit 0
            themes/near/partials/added.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/clash.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/crlf.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/hand.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/kept.html
                current: its original is as it was in far 1.0.0
            themes/near/partials/moved.html
                current: its original is as it was in far 1.1.0
            themes/near/partials/same.html
                current: its original is as it was in far 1.0.0
                it is the same as its original: deleting it changes nothing

            All copies are up to date.
        "#]],
    );
    assert_eq!(site.read("themes/near/partials/gone.html"), "mine\n");
    assert!(!site.path("themes/near/.originals/partials/gone.html").exists());
}

#[test]
fn drift_as_data() {
    let site = copied(&[("added", LINES, "mine\n"), ("gone", LINES, LINES)]);
    site.write("themes/far/partials/added.html", "zero\none\n");
    site.remove("themes/far/partials/gone.html");
    site.write("themes/near/templates/page.html", "page +{content.title}\n");
    site.remove("themes/near/partials/gone.html");
    let told = site.json(&["drift"]);
    assert_eq!(
        told,
        serde_json::json!([
            {
                "path": "themes/near/partials/added.html", "state": "drifted",
                "original": { "theme": "far", "path": "partials/added.html", "version": "1.0.0" },
                "now": { "theme": "far", "path": "partials/added.html", "version": "1.1.0" },
                "same": false, "conflicts": false, "added": 1, "removed": 4, "alike": null
            },
            {
                "path": "themes/near/partials/gone.html", "state": "copy gone",
                "original": { "theme": "far", "path": "partials/gone.html", "version": "1.0.0" },
                "now": null, "same": false, "conflicts": false, "added": 0, "removed": 0, "alike": null
            },
            {
                "path": "themes/near/templates/page.html", "state": "no original recorded",
                "original": null, "now": { "theme": "far", "path": "templates/page.html", "version": "1.1.0" },
                "same": true, "conflicts": false, "added": 0, "removed": 0, "alike": 1.0
            }
        ])
    );
    let merged = site.json(&["drift", "--merge", "--diff", "added"]);
    assert_eq!(merged[0]["merged"], "conflicts");
    assert!(merged[0]["diff"].as_str().unwrap().contains("+zero\n"), "{merged}");
    let adopted = site.json(&["drift", "--adopt", "partials/gone.html"]);
    assert_eq!(adopted[0]["merged"], "own");
    assert!(!site.path("themes/near/.originals/partials/gone.html").exists());
}

#[test]
fn wrong_files_for_drift() {
    let site = copied(&[("card", LINES, LINES)]);
    site.write("themes/near/templates/page.html", "+{inherited}\n");
    site.write("themes/near/partials/own.html", "own\n");
    site.write("themes/far/partials/theirs.html", "theirs\n");
    for (arguments, expected) in [
        (
            &["drift", "crad"][..],
            expect![[r#"
                exit 1
                ---
                error: no theme of the lineage has a file "crad"
                help: did you mean "card"?
            "#]],
        ),
        (
            &["drift", "page"],
            expect![[r#"
                exit 1
                ---
                error: near's templates/page.html extends what it covers, so it can't go out of date
                help: nothing is to be done
            "#]],
        ),
        (
            &["drift", "own"],
            expect![[r#"
            exit 1
            ---
            error: near's partials/own.html is a copy of nothing
            help: no ancestor has a file of this name
        "#]],
        ),
        (
            &["drift", "theirs"],
            expect![[r#"
            exit 1
            ---
            error: near has no partials/theirs.html of its own
            help: copy it: hausblatt override partials/theirs.html
        "#]],
        ),
        (
            &["drift", "--merge", "--adopt", "card"],
            expect![[r#"
                exit 2
                ---
                error: the argument '--merge' cannot be used with '--adopt <FILE>...'

                Usage: hausblatt drift --merge --as-of <DATE> [FILE]...

                For more information, try '--help'.
            "#]],
        ),
        (
            &["drift", "--theme", "far"],
            expect![[r#"
            exit 0
            far holds no copies. To make one:  hausblatt override FILE --theme far
        "#]],
        ),
    ] {
        expected.assert_eq(&site.run(arguments).whole());
    }
    site.write("themes/near/.originals/partials/card.html", "no record\n");
    check(
        &site,
        &["drift"],
        expect![[r#"
            exit 1
            near holds no copies. To make one:  hausblatt override FILE
            ---
            error    this record of an original can't be read
                     themes/near/.originals/partials/card.html
                     → delete it, and let "hausblatt drift --adopt" make it anew  bad-record

        "#]],
    );
    // A record may claim anything: what it names is only read, and only inside the site.
    site.write("themes/near/.originals/partials/card.html", "theme = \"../../..\"\npath = \"../../etc/passwd\"\n---\n");
    check(
        &site,
        &["drift", "--merge"],
        expect![[r#"
            exit 1
            themes/near/partials/card.html
                gone: ../../.. had it, and has it no more
                to keep it as the theme's own: hausblatt drift --adopt partials/card.html
        "#]],
    );
}

#[test]
fn an_original_that_only_another_theme_has_now() {
    let site = Site::small();
    site.write("themes/mid/hausblatt-theme.toml", "[theme]\nversion = \"1.0.0\"\nparent = \"far\"\n");
    site.write("themes/near/hausblatt-theme.toml", "[theme]\nparent = \"mid\"\n");
    site.write("themes/mid/templates/page.html", "one\ntwo\nthree\n");
    assert_eq!(site.run(&["override", "/visit/", "--only"]).code, 0);
    site.write("themes/near/templates/page/visit.html", "one\ntwo\nmine\n");
    site.remove("themes/mid/templates/page.html");
    site.write("themes/far/templates/page.html", "zero\none\ntwo\nthree\n");
    check(
        &site,
        &["drift"],
        expect![[r#"
        exit 1
        themes/near/templates/page/visit.html
            moved: far has it as templates/page.html now

        What has changed:       hausblatt drift --diff
        To take it over:        hausblatt drift --merge
    "#]],
    );
    assert_eq!(site.run(&["drift", "--merge"]).code, 0);
    assert_eq!(site.read("themes/near/templates/page/visit.html"), "zero\none\ntwo\nmine\n");
    let now = &site.json(&["drift"])[0]["original"];
    assert_eq!((now["theme"].as_str(), now["path"].as_str()), (Some("far"), Some("templates/page.html")));
}

#[test]
fn a_copy_within_a_theme_grows_old_too() {
    let site = Site::small();
    site.write("themes/near/templates/page.html", "one\ntwo\nthree\n");
    assert_eq!(site.run(&["start", "template", "offered/wide", "--from", "page"]).code, 0);
    site.write("themes/near/templates/offered/wide.html", "one\ntwo\nwide\n");
    site.write("themes/near/templates/page.html", "zero\none\ntwo\nthree\n");
    let drifted = site.json(&["drift"]);
    assert_eq!(
        (&drifted[0]["state"], &drifted[0]["path"]),
        (&"drifted".into(), &"themes/near/templates/offered/wide.html".into())
    );
    assert_eq!(site.run(&["drift", "--merge"]).code, 0);
    assert_eq!(site.read("themes/near/templates/offered/wide.html"), "zero\none\ntwo\nwide\n");
}

/// A copy that was deleted leaves its record; what begins under its name later is not a copy of that.
#[test]
fn a_stale_record_is_nobodys_original() {
    for begin in [
        &["start", "template", "page", "--blank"][..],
        &["start", "template", "page"],
        &["override", "/visit/", "--slots"],
    ] {
        let site = Site::small();
        assert_eq!(site.run(&["override", "/visit/", "-q"]).whole(), "exit 0\n");
        site.remove("themes/near/templates/page.html");
        assert_eq!(site.json(&["drift"])[0]["state"], "copy gone");
        assert_eq!(site.run(begin).code, 0, "{begin:?}");
        assert!(!site.path("themes/near/.originals").exists(), "{begin:?}");
    }
    let site = Site::small();
    assert_eq!(site.run(&["override", "/visit/"]).code, 0);
    site.remove("themes/near/templates/page.html");
    site.write("themes/far/templates/page.html", "newer\n");
    assert_eq!(site.run(&["override", "/visit/"]).code, 0);
    assert_eq!(site.json(&["drift"])[0]["state"], "current");
}

#[test]
fn mixed_line_ends_stay_as_they_are() {
    let mixed = "one\r\ntwo\nthree\r\nfour\nmine\n";
    let site = copied(&[("card", "one\r\ntwo\nthree\r\nfour\nfive\n", mixed)]);
    site.write("themes/far/partials/card.html", "ONE\r\ntwo\nthree\r\nfour\nfive\n");
    assert_eq!(site.run(&["drift", "--merge"]).code, 0);
    assert_eq!(site.read("themes/near/partials/card.html"), "ONE\r\ntwo\nthree\r\nfour\nmine\n");
}

#[test]
fn a_copy_under_another_name_may_not_just_go() {
    let site = Site::small();
    assert_eq!(site.run(&["override", "/visit/", "--as", "offered/wide"]).code, 0);
    let said = site.run(&["drift"]).out;
    assert!(said.contains("current") && !said.contains("deleting"), "{said}");
    assert_eq!(site.json(&["drift"])[0]["same"], true);
}

#[test]
fn a_conflict_is_settled_before_it_is_adopted() {
    let site =
        copied(&[("card", LINES, "one\ntwo\nthree\nfour\nmine\n"), ("menu", LINES, "one\nTWO\nthree\nfour\nfive\n")]);
    site.write("themes/far/partials/card.html", "one\ntwo\nthree\nfour\ntheirs\n");
    let said = site.run(&["drift", "--merge"]);
    assert!(said.out.contains("conflict"), "{}", said.whole());
    let before = site.tree(".");
    let said = site.run(&["drift", "--adopt", "partials/menu", "partials/card"]);
    assert_eq!(said.code, 1);
    assert!(said.err.contains("themes/near/partials/card.html still has a conflict"), "{}", said.err);
    assert_eq!(site.tree("."), before, "all or none");
    let said = site.run(&["drift"]);
    assert!(said.code == 1 && !said.out.contains("Nothing is to be done"), "{}", said.whole());
    site.write("themes/near/partials/card.html", "one\ntwo\nthree\nfour\nboth\n");
    assert_eq!(site.run(&["drift", "--adopt", "partials/card"]).code, 0);
    assert_eq!(site.run(&["drift"]).code, 0);
}

/// A style is published as it is, and yet not with the marks of a conflict in it; it is reported once.
#[test]
fn a_conflict_in_a_style_is_an_error_and_is_not_published() {
    let site = Site::demo();
    assert_eq!(site.run(&["build"]).code, 0);
    let path = "themes/harbour/assets/harbour.css";
    let good = site.read(path);
    site.write(path, format!("{good}<<<<<<< harbour\na {{}}\n=======\nb {{}}\n>>>>>>> loam 3.0.0\n"));
    let said = site.run(&["check"]);
    assert_eq!((said.code, said.out.matches("a merge left a conflict on line").count()), (1, 1), "{}", said.whole());
    for arguments in [&["build", "--dry-run"][..], &["build"]] {
        let said = site.run(arguments);
        assert_eq!(
            (said.code, said.err.matches("a merge left a conflict on line").count()),
            (1, 1),
            "{}",
            said.whole()
        );
    }
    assert_eq!(site.read("built/assets/harbour.css"), good);
    site.write(path, format!("{good}/* fine */\n"));
    assert_eq!(site.run(&["build"]).code, 0);
    assert!(site.read("built/assets/harbour.css").ends_with("/* fine */\n"));
}

#[test]
fn a_record_is_ended_and_the_copy_stays() {
    let site = copied(&[("card", LINES, "one\nTWO\nthree\nfour\nfive\n")]);
    let copy = site.read("themes/near/partials/card.html");
    check(
        &site,
        &["drift", "--release", "card"],
        expect![[r#"
        exit 0
        themes/near/partials/card.html
            its record has ended: it is the theme's own from now on
    "#]],
    );
    assert_eq!(site.read("themes/near/partials/card.html"), copy);
    assert!(!site.path("themes/near/.originals").exists());
    check(
        &site,
        &["drift", "--release", "partials/card"],
        expect![[r#"
        exit 1
        ---
        error: themes/near/partials/card.html has no record of an original
        help: nothing is to be done
    "#]],
    );
    check(
        &site,
        &["drift", "--release", "card", "--adopt", "card"],
        expect![[r#"
        exit 2
        ---
        error: the argument '--release <FILE>...' cannot be used with '--adopt <FILE>...'

        Usage: hausblatt drift --release <FILE>... --as-of <DATE> [FILE]...

        For more information, try '--help'.
    "#]],
    );
    assert_eq!(site.run(&["undo", "-q"]).code, 0);
    let released = site.json(&["drift", "--release", "card"]);
    assert_eq!(released[0]["merged"], "released");
}
