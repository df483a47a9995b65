//! `expect` and `missed`: what a site promised, and what visitors requested without result.

use std::io::Write;
use std::process::Stdio;

use crate::support::{Site, check};
use expect_test::expect;
use flate2::Compression;
use flate2::write::GzEncoder;

#[test]
fn a_record_is_small_sorted_and_stable() {
    let site = Site::small();
    check(
        &site,
        &["expect"],
        expect![[r#"
            exit 1
            ---
            error: expected.toml can't be read: No such file or directory
            help: record how the site is now: hausblatt expect --record
        "#]],
    );
    check(
        &site,
        &["expect", "--record"],
        expect![[r#"
            exit 0
            Wrote expected.toml (10 lines)
            To compare the site with it:  hausblatt expect
        "#]],
    );
    let record = site.read("expected.toml");
    expect![[r##"
        # How each address is answered, as "hausblatt expect --record" found it; "hausblatt expect" holds the site
        # against it. In an address * is any one part, # for any number; exact lines come before them.

        "/"                = { status = 200, template = "page.html", theme = "far", layout = "document" }
        "/404.html"        = { status = 404, template = "fallback.html", theme = "far", layout = "document" }
        "/home/"           = { status = 301, location = "/" }
        "/journal/"        = { status = 200, template = "fallback.html", theme = "far", layout = "document" }
        "/journal/*/"      = { status = 200, template = "fallback.html", theme = "far", layout = "document" }
        "/journal/page/#/" = { status = 200, template = "fallback.html", theme = "far", layout = "document" }
        "/robots.txt"      = { status = 200 }
        "/sitemap.xml"     = { status = 200 }
        "/visit/"          = { status = 200, template = "page.html", theme = "far", layout = "document" }
        "/visit/opening/"  = { status = 200, template = "page.html", theme = "far", layout = "document" }
    "##]]
    .assert_eq(&record);
    check(
        &site,
        &["expect"],
        expect![[r#"
        exit 0
        ✓ 12 addresses as recorded.
    "#]],
    );
    check(
        &site,
        &["expect", "--record"],
        expect![[r#"
            exit 0
            Kept  expected.toml (10 lines)
            To compare the site with it:  hausblatt expect
        "#]],
    );
    assert_eq!(site.read("expected.toml"), record);
    // New entries are answered as the pattern says.
    site.write("content/journal/2026-07-01-peas.md", "---\ntitle: Peas\n---\n");
    assert_eq!(site.run(&["expect"]).code, 0);
    assert_eq!(site.run(&["expect", "--record", "-q"]).code, 0);
    assert_eq!(site.read("expected.toml"), record);
}

#[test]
fn what_is_new_gone_or_moved_is_told() {
    let site = Site::small();
    site.run(&["expect", "--record"]);
    site.write("themes/near/templates/entry/journal/frost.html", "+{content.title}\n");
    site.write("themes/near/templates/page/visit.html", "---\nlayout: none\n---\n+{content.title}\n");
    site.write("content/pages/about.md", "---\nformerly: /who/\n---\n");
    site.remove("content/pages/visit/opening.md");
    check(
        &site,
        &["expect"],
        expect![[r#"
            exit 1
            answered differently: 2 addresses
              fallback.html (far) inside document
                →  entry/journal/frost.html (near) inside document
                  /journal/frost/
              page.html (far) inside document
                →  page/visit.html (near)
                  /visit/

            new: 2 addresses
              page.html (far) inside document
                  /about/
              301 → /about/
                  /who/

            gone: 1 address
              page.html (far) inside document
                  /visit/opening/

            To see why:               hausblatt resolve /journal/frost/
            If that is intended:      hausblatt expect --record
        "#]],
    );
    let answer = site.json(&["expect"]);
    assert_eq!(answer["moved"][0]["address"], "/journal/frost/", "{answer:#}");
    assert_eq!(answer["moved"][0]["expected"]["template"], "fallback.html");
    assert_eq!(answer["moved"][0]["is"]["template"], "entry/journal/frost.html");
    assert_eq!(answer["gone"][0]["is"], serde_json::Value::Null);
    assert_eq!(answer["new"][1]["is"]["location"], "/about/");
    assert_eq!(site.run(&["expect", "--record"]).code, 0);
    assert_eq!(site.run(&["expect"]).code, 0);
    site.remove("themes/near/templates/entry/journal/frost.html");
    assert_eq!(site.run(&["expect"]).code, 1);
}

#[test]
fn a_record_with_problems_is_refused() {
    let site = Site::small();
    site.write("expected.toml", "\"/\" = { status = \"x\", templte = \"a\" }\n\"/a/\" = 3\n");
    check(
        &site,
        &["expect"],
        expect![[r#"
            exit 2
            ---
            error    "status" must be a whole number from 100 up, not a text
                     expected.toml:1:18
                 1 | "/" = { status = "x", templte = "a" }
                                      ‾‾‾
                                                                                  wrong-type

            error    unknown key "templte" in /
                     expected.toml:1:23
                 1 | "/" = { status = "x", templte = "a" }
                                           ‾‾‾‾‾‾‾
                     → did you mean "template"?                                  unknown-key

            error    /a/ must be a group of keys, not a number
                     expected.toml:2:1
                 2 | "/a/" = 3
                     ‾‾‾‾‾
                     → write /a/, and its keys below it                           wrong-type

        "#]],
    );
    site.write("expected.toml", "[");
    assert_eq!(site.run(&["expect"]).code, 2);
}

const LOG: &str = r#"192.0.2.7 - - [14/Mar/2026:06:25:24 +0100] "GET /vsit/?a=1 HTTP/1.1" 404 512 "https://seeds.example/" "Mozilla/5.0"
192.0.2.7 - - [14/Mar/2026:06:25:25 +0100] "GET /vsit/ HTTP/1.1" 404 512
192.0.2.7 - - [14/Mar/2026:06:25:26 +0100] "GET /old/scarlet-runner.html HTTP/1.1" 404 512
192.0.2.7 - - [14/Mar/2026:06:25:27 +0100] "GET /old.css HTTP/1.1" 404 512
192.0.2.7 - - [14/Mar/2026:06:25:28 +0100] "GET /admin.php HTTP/1.1" 404 512 "-" "SomeBot/1.0"
192.0.2.7 - - [14/Mar/2026:06:25:29 +0100] "GET /zzzzqq/ HTTP/1.1" 410 512
192.0.2.7 - - [14/Mar/2026:06:25:30 +0100] "GET /visit/ HTTP/1.1" 200 512
192.0.2.7 - - [14/Mar/2026:06:25:31 +0100] "GET /hours/ HTTP/1.1" 404 512
192.0.2.7 - - [14/Mar/2026:06:25:32 +0100] "GET /varieties/red-runner/ HTTP/1.1" 404 512
junk
"#;

#[test]
fn a_log_tells_what_was_missed() {
    let site = Site::demo();
    site.write("access.log", LOG);
    check(
        &site,
        &["missed", "access.log"],
        expect![[r#"
            exit 0
            /vsit/  2 times
                now   /visit/
                write formerly: /vsit/ in content/pages/visit.md
            /old/scarlet-runner.html  once
                now   /varieties/scarlet-runner/
                write formerly: /old/scarlet-runner.html in content/varieties/scarlet-runner.md
            /varieties/red-runner/  once
                near  /varieties/scarlet-runner/
            /zzzzqq/  once
                no similar address

            4 addresses not found, 5 times in all.
            Left out: 1 request of robots, 1 request for files, 1 line that is not of an
            access log; --all counts robots and files.
            To redirect 2 of them:  hausblatt missed --fix access.log
        "#]],
    );
    let plain = site.run(&["missed", "access.log"]).out;
    let mut packed = GzEncoder::new(Vec::new(), Compression::fast());
    packed.write_all(LOG.as_bytes()).unwrap();
    site.write("access.log", packed.finish().unwrap());
    assert_eq!(site.run(&["missed", "access.log"]).out, plain);
    let all = site.run(&["missed", "--all", "access.log"]).out;
    assert!(all.contains("/old.css") && all.contains("/admin.php"), "{all}");
    let rows = site.json(&["missed", "access.log"]);
    assert_eq!((&rows[0]["address"], &rows[0]["count"]), (&"/vsit/".into(), &2.into()));
    assert_eq!(rows[0]["content"], "content/pages/visit.md");
    assert_eq!(rows[0]["line"], "formerly: /vsit/");
}

#[test]
fn a_list_may_come_by_standard_input() {
    let site = Site::demo();
    let mut command = site.command(&["missed", "-", "--format", "json"]);
    let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
    child.stdin.take().unwrap().write_all(b"/visit/find/\nhttps://seeds.example/visit/find/?x\n/visit/\n").unwrap();
    let out = child.wait_with_output().unwrap();
    let rows: serde_json::Value = serde_json::from_slice(&out.stdout).unwrap();
    assert_eq!(rows.as_array().unwrap().len(), 1, "{rows:#}");
    assert_eq!((&rows[0]["count"], &rows[0]["nearest"][0]["address"]), (&2.into(), &"/visit/find-us/".into()));
}

#[test]
fn former_addresses_are_written_and_nothing_else() {
    let site = Site::demo();
    site.write("access.log", LOG);
    let visit = site.read("content/pages/visit.md");
    let runner = "content/varieties/scarlet-runner.md";
    let list = "formerly:\r\n  - /a/\r\n  - \"/b/\"  # two\r\ntitle: Scarlet Runner\r\n";
    let before = site.read(runner).replace('\n', "\r\n").replace("title: Scarlet Runner\r\n", list);
    site.write(runner, &before);
    check(
        &site,
        &["missed", "--fix", "access.log"],
        expect![[r#"
            exit 0
            /vsit/  2 times
                now   /visit/
                write formerly: /vsit/ in content/pages/visit.md
            /old/scarlet-runner.html  once
                now   /varieties/scarlet-runner/
                write formerly: /old/scarlet-runner.html in content/varieties/scarlet-runner.md
            /varieties/red-runner/  once
                near  /varieties/scarlet-runner/
            /zzzzqq/  once
                no similar address

            4 addresses not found, 5 times in all.
            Left out: 1 request of robots, 1 request for files, 1 line that is not of an
            access log; --all counts robots and files.
            ---
            Wrote formerly in 2 content files
              content/pages/visit.md
              content/varieties/scarlet-runner.md
        "#]],
    );
    assert_eq!(site.read("content/pages/visit.md"), visit.replacen("\n---\n", "\nformerly: /vsit/\n---\n", 1));
    let added = before.replace("# two\r\n", "# two\r\n  - /old/scarlet-runner.html\r\n");
    assert_eq!(site.read(runner), added);
    assert_eq!(site.run(&["resolve", "/vsit/"]).out.lines().next(), Some("/vsit/  →  301  /visit/"));
    let rows = site.json(&["missed", "access.log"]);
    let left: Vec<&str> = rows.as_array().unwrap().iter().map(|row| row["address"].as_str().unwrap()).collect();
    assert_eq!(left, ["/varieties/red-runner/", "/zzzzqq/"]);
    // In a list on one line, behind a single value, and behind none.
    for (written, then) in [
        (" [/a/]", " [/a/, /vsit/]"),
        (" /a/", " [/a/, /vsit/]"),
        (" [ \"/a/\", ]", " [ \"/a/\", /vsit/, ]"),
        ("", " [/vsit/]"),
    ] {
        site.write("content/pages/visit.md", format!("---\nformerly:{written}\norder: 1\n---\nText\n"));
        assert_eq!(site.run(&["missed", "--fix", "access.log"]).code, 0);
        let wanted = format!("---\nformerly:{then}\norder: 1\n---\nText\n");
        assert_eq!(site.read("content/pages/visit.md"), wanted, "{written}");
    }
}

#[test]
fn what_is_no_log_is_refused() {
    let site = Site::small();
    site.write("notes.txt", "Some words.\nAnd more of them.\n");
    check(
        &site,
        &["missed", "notes.txt"],
        expect![[r#"
        exit 1
        ---
        error: no line of this is one of an access log
        help: it takes the common and the combined format of access logs, or an address in each line
    "#]],
    );
    check(
        &site,
        &["missed", "nowhere.log"],
        expect![[r#"
            exit 1
            ---
            error: nowhere.log can't be read: No such file or directory
        "#]],
    );
    site.write(
        "hostile.log",
        [b"\xff\x00 \"GET /\xff HTTP/1.1\" 404 0\n".as_slice(), &b"x".repeat(200_000), b"\n/nowhere/\n"].concat(),
    );
    let said = site.run(&["missed", "hostile.log"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    assert!(said.out.contains("/nowhere/"), "{}", said.whole());
    site.write("broken.gz", b"\x1f\x8b\x08\x00broken");
    assert_eq!(site.run(&["missed", "broken.gz"]).code, 1);
}
