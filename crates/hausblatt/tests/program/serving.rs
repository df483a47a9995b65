//! `serve`: what is sent, to whom, and how soon a change is seen.

use std::fs;
use std::io::{BufRead, BufReader, Read, Write};
use std::os::unix::fs::symlink;
use std::process::Stdio;
use std::time::{Duration, Instant};

use crate::support::Site;
use crate::support::serving::{Reply, Served};
use expect_test::expect;

#[test]
fn says_where_it_is() {
    let site = Site::demo();
    expect![[r#"
        Marrow Lane Seed Library is at http://127.0.0.1:PORT/
        The workbench is at http://127.0.0.1:PORT/~/
        Not shown: 1 draft (--drafts shows them)
        Not shown: 1 entry that waits for its date (--as-of DATE shows them)
        Ctrl-C stops the server.
    "#]]
    .assert_eq(&site.serve(&[]).greeting);
    expect!["http://127.0.0.1:PORT/\n"].assert_eq(&site.serve(&["--quiet"]).greeting);
    let open = site.serve(&["--host", "0.0.0.0"]);
    assert_eq!(open.get("/").status, 200);
    expect![
        "note: whoever reaches this machine can read the site and its themes: the server is for development only\n"
    ]
    .assert_eq(&open.end());
}

#[test]
fn a_port_that_is_taken() {
    let site = Site::small();
    let first = site.serve(&[]);
    let port = first.at.rsplit(':').next().unwrap().to_owned();
    let said = site.run(&["serve", "--port", &port]);
    expect![[r#"
        exit 1
        ---
        error: 127.0.0.1 port PORT can't be listened at: Address already in use
        help: leave out --port to take a free one, or end the program that has it
    "#]]
    .assert_eq(&said.whole().replace(&port, "PORT"));
    // Where none was typed, another is taken: the first of these has the usual one, unless someone else has it.
    let begun = || {
        let mut child = site.command(&["serve"]).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        let mut out = String::new();
        BufReader::new(child.stdout.as_mut().unwrap()).read_line(&mut out).unwrap();
        (child, out.trim().trim_end_matches('/').rsplit(':').next().unwrap().to_owned())
    };
    let ((mut one, _), (mut other, port)) = (begun(), begun());
    let mut err = String::new();
    BufReader::new(other.stderr.as_mut().unwrap()).read_line(&mut err).unwrap();
    for child in [&mut one, &mut other] {
        child.kill().unwrap();
        child.wait().unwrap();
    }
    assert_ne!(port, "4600");
    assert_eq!(err, format!("note: port 4600 is taken; this is port {port}\n"));
    let said = site.run(&["serve", "--host", "192.0.2.1"]);
    expect![[r#"
        exit 1
        ---
        error: 192.0.2.1 port 4600 can't be listened at: Cannot assign requested address
        help: --host is an address of this machine, such as 127.0.0.1 or 0.0.0.0
    "#]]
    .assert_eq(&said.whole());
}

#[test]
fn statuses_and_types_are_the_true_ones() {
    let site = Site::demo();
    site.write("media/notes.txt", "Dry them.\n");
    site.write("media/kürbis & co.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>");
    site.write("themes/harbour/templates/page/tea.html", "+{answer 418 \"A pot\"}\n");
    site.write("themes/harbour/templates/page/moved.html", "+{redirect 307 \"page:visit\"}\n");
    site.write("content/pages/tea.md", "");
    site.write("content/pages/moved.md", "");
    let server = site.serve(&[]);
    let line = |path: &str| {
        let reply = server.get(path);
        let to = reply.header("location");
        let to = if to.is_empty() { String::new() } else { format!(" → {to}") };
        assert_eq!(reply.header("x-content-type-options"), "nosniff");
        format!("{path}  {}  {}{to}\n", reply.status, reply.header("content-type"))
    };
    let lines: String = [
        "/",
        "/visit/",
        "/visit",
        "/visit?from=map&x=%20",
        "/v%69sit/",
        "http://seeds.example/visit/",
        "/journal/",
        "/journal/page/2/",
        "/journal/page/99/",
        "/journal/feed.xml",
        "/sitemap.xml",
        "/robots.txt",
        "/search/?q=bean",
        "/404.html",
        "/nope/",
        "/tea/",
        "/moved/",
        "/assets/harbour.css",
        "/media/notes.txt",
        "/media/k%C3%BCrbis%20%26%20co.svg",
        "/media/",
        "/assets/nope.css",
        "/~",
        "/~/nope",
    ]
    .map(line)
    .concat();
    expect![[r#"
        /  200  text/html; charset=utf-8
        /visit/  200  text/html; charset=utf-8
        /visit  301  text/html; charset=utf-8 → /visit/
        /visit?from=map&x=%20  301  text/html; charset=utf-8 → /visit/?from=map&x=%20
        /v%69sit/  200  text/html; charset=utf-8
        http://seeds.example/visit/  421  text/plain; charset=utf-8
        /journal/  200  text/html; charset=utf-8
        /journal/page/2/  200  text/html; charset=utf-8
        /journal/page/99/  404  text/html; charset=utf-8
        /journal/feed.xml  200  application/atom+xml; charset=utf-8
        /sitemap.xml  200  application/xml; charset=utf-8
        /robots.txt  200  text/plain; charset=utf-8
        /search/?q=bean  200  text/html; charset=utf-8
        /404.html  404  text/html; charset=utf-8
        /nope/  404  text/html; charset=utf-8
        /tea/  418  text/html; charset=utf-8
        /moved/  307  text/html; charset=utf-8 → /visit/
        /assets/harbour.css  200  text/css; charset=utf-8
        /media/notes.txt  200  text/plain; charset=utf-8
        /media/k%C3%BCrbis%20%26%20co.svg  200  image/svg+xml; charset=utf-8
        /media/  404  text/html; charset=utf-8
        /assets/nope.css  404  text/html; charset=utf-8
        /~  308   → /~/
        /~/nope  404  text/html; charset=utf-8
    "#]]
    .assert_eq(&lines);
}

#[test]
fn head_and_conditions() {
    let site = Site::demo();
    let server = site.serve(&[]);
    for path in ["/visit/", "/media/families/pods.svg", "/assets/harbour.css", "/~/", "/robots.txt"] {
        // What was changed just now could change again under the same stamp: it has no tag yet.
        let whole = server.until(path, |reply| !reply.header("etag").is_empty());
        let head = server.ask("HEAD", path, &[]);
        assert_eq!((head.status, head.body.len()), (200, 0), "{path}");
        let length = whole.body.len().to_string();
        assert_eq!((head.header("content-length"), whole.header("content-length")), (&*length, &*length), "{path}");
        let tag = whole.header("etag").to_owned();
        assert!(!tag.is_empty(), "{path}");
        assert_eq!(whole.header("cache-control"), "no-cache");
        let known = |tags: &str| server.ask("GET", path, &[("If-None-Match", tags)]).status;
        assert_eq!((known(&tag), known("*"), known(&format!("\"x\", {tag}")), known("\"x\"")), (304, 304, 304, 200));
    }
    // What is not there, or redirects, is never kept.
    assert_eq!(server.get("/visit").header("cache-control"), "no-store");
    assert_eq!(server.ask("GET", "/nope/", &[("If-None-Match", "*")]).status, 404);
    // A file changed twice within a second is not taken for the same.
    let since = ("If-Modified-Since", "Fri, 01 Jan 2100 00:00:00 GMT");
    assert_eq!(server.ask("GET", "/assets/harbour.css", &[since]).status, 200);
}

#[test]
fn parts_of_media() {
    let site = Site::small();
    site.write("media/rain.mp3", b"0123456789");
    let server = site.serve(&[]);
    let part = |range: &str| {
        let reply = server.ask("GET", "/media/rain.mp3", &[("Range", range)]);
        format!("{} {} {:?}", reply.status, reply.header("content-range"), reply.text())
    };
    assert_eq!(part("bytes=2-4"), "206 bytes 2-4/10 \"234\"");
    assert_eq!(part("bytes=7-"), "206 bytes 7-9/10 \"789\"");
    assert_eq!(part("bytes=-3"), "206 bytes 7-9/10 \"789\"");
    assert_eq!(part("bytes=10-"), "416 bytes */10 \"\"");
    // What can't be read as one range is ignored.
    for odd in [
        "lines=1-2",
        "bytes=4-2",
        "bytes=",
        "bytes=-",
        "bytes=a-b",
        "2-4",
        "bytes=0-1,1-4",
        "bytes=0-1, 4-5",
        "bytes=+1-2",
    ] {
        assert_eq!(part(odd), "200  \"0123456789\"", "{odd}");
    }
    let tag = server.until("/media/rain.mp3", |reply| !reply.header("etag").is_empty()).header("etag").to_owned();
    let only_if = |tag: &str| server.ask("GET", "/media/rain.mp3", &[("Range", "bytes=2-4"), ("If-Range", tag)]).status;
    assert_eq!((only_if(&tag), only_if("\"old\"")), (206, 200));
    assert_eq!(server.get("/media/rain.mp3").header("content-type"), "audio/mpeg");
}

#[test]
fn texts_are_compressed_for_who_can_read_it() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let compressed = server.ask("GET", "/assets/harbour.css", &[("Accept-Encoding", "gzip")]);
    assert_eq!(compressed.header("content-encoding"), "gzip");
    assert!(compressed.body.len() < server.get("/assets/harbour.css").body.len() / 2);
    assert_eq!(server.get("/assets/harbour.css").header("content-encoding"), "");
}

#[test]
fn small_files_are_the_same_in_serve_render_and_build() {
    let demo = Site::demo();
    let toml = demo.read("hausblatt.toml");
    demo.write("hausblatt.toml", format!("{toml}\n[build]\nstyles = \"small\"\nscripts = \"small\"\n"));
    demo.write("themes/harbour/assets/loam.css", "@import 'loam.css';\n\n/* Wider. */\nmain { max-width: 60rem; }\n");
    demo.write("themes/harbour/assets/rows.js", "// Rows.\nfunction rows(count) { return count * 2; }\n");
    demo.write("themes/harbour/assets/odd.css", "main { margin: 0 }\n.2nd { margin: 0 }\n");
    let said = demo.run(&["build"]);
    assert_eq!(said.code, 0);
    expect![[r#"
        warning  this style sheet is published as it is, not made small: invalid empty
                 selector
                 themes/harbour/assets/odd.css:2:1
             2 | .2nd { margin: 0 }
                 ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                 → write this place as the standard has it, or leave it: the file works
                   as before                                                   not-small

    "#]]
    .assert_eq(&said.err);
    let server = demo.serve(&[]);
    for path in ["assets/loam.css", "assets/_covered/loam/loam.css", "assets/rows.js", "assets/odd.css"] {
        let built = demo.read(&format!("built/{path}"));
        let address = format!("/{path}");
        assert_eq!(demo.run(&["render", &address]).out.trim_end(), built.trim_end(), "{path}");
        assert_eq!(server.get(&address).text(), built, "{path}");
    }
    assert_eq!(demo.read("built/assets/rows.js"), "function rows(e){return e*2}");
    assert!(!demo.read("built/assets/loam.css").contains("@import"));
}

#[test]
fn drawings_among_the_media_run_nothing() {
    let site = Site::demo();
    site.write("media/odd.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"><script>alert(1)</script></svg>");
    let server = site.serve(&[]);
    let policy = server.get("/media/odd.svg").header("content-security-policy").to_owned();
    assert!(policy.contains("default-src 'none'") && policy.contains("sandbox"), "{policy}");
    assert_eq!(server.get("/assets/harbour.css").header("content-security-policy"), "");
}

#[test]
fn browsers_get_the_badge_and_others_the_page_alone() {
    let site = Site::demo();
    assert_eq!(site.run(&["build"]).code, 0);
    let server = site.serve(&[]);
    let built = site.read("built/visit/index.html");
    assert_eq!(server.get("/visit/").text(), built);
    let badge = |reply: &Reply| {
        let text = reply.text();
        text.split("<script src=\"/~/badge.js\"").nth(1).map(|rest| {
            let shown = rest.split("data-shown=\"").nth(1).unwrap().split('"').next().unwrap().to_owned();
            rest.split('>').next().unwrap().replace(&shown, "SHOWN")
        })
    };
    expect![[r#" defer data-address="/visit/?a=%22b%22" data-shown="SHOWN" data-status="200" data-problems="0" data-template="page/visit" data-theme="hedgerow""#]].assert_eq(&badge(&server.open("/visit/?a=%22b%22")).unwrap());
    expect![[r#" defer data-address="/nope/" data-shown="SHOWN" data-status="404" data-problems="0" data-template="error/404" data-theme="hedgerow""#]].assert_eq(&badge(&server.open("/nope/")).unwrap());
    let by_accept = server.ask("GET", "/visit/", &[("Accept", "text/html,*/*;q=0.8")]);
    assert!(badge(&by_accept).is_some());
    for fetched in ["empty", "script"] {
        assert_eq!(server.ask("GET", "/visit/", &[("Sec-Fetch-Dest", fetched), ("Accept", "text/html")]).text(), built);
    }
    assert_eq!(badge(&server.open("/sitemap.xml")), None);
    let plain = site.serve(&["--plain"]);
    assert_eq!(plain.open("/visit/").text(), built);
}

#[test]
fn a_change_is_seen_at_once() {
    let site = Site::small();
    let server = site.serve(&[]);
    assert_eq!(server.get("/visit/").text(), "[page Visit]");
    site.write("content/pages/visit.md", "---\ntitle: Come by\n---\n");
    server.until("/visit/", |reply| reply.text() == "[page Come by]");
    // Saved by renaming, as editors do.
    site.write("themes/near/templates/page/.visit.html.tmp", "mine +{content.title}\n");
    site.rename("themes/near/templates/page/.visit.html.tmp", "themes/near/templates/page/visit.html");
    server.until("/visit/", |reply| reply.text() == "[mine Come by]");
    site.remove("themes/near/templates/page/visit.html");
    server.until("/visit/", |reply| reply.text() == "[page Come by]");
    // Another theme, without a restart; folders that go and come.
    site.write("themes/third/templates/fallback.html", "third");
    site.write("themes/third/layouts/document.html", "+{slot}");
    site.write("themes/third/hausblatt-theme.toml", "");
    site.write("hausblatt.toml", site.read("hausblatt.toml").replace("\"near\"", "\"third\""));
    server.until("/visit/", |reply| reply.text() == "third");
    fs::rename(site.path("content"), site.path("away")).unwrap();
    server.until("/visit/", |reply| reply.status == 404);
    fs::rename(site.path("away"), site.path("content")).unwrap();
    server.until("/visit/", |reply| reply.status == 200);
    site.write("content/pages/visit.md", "---\ndraft: true\n---\n");
    server.until("/visit/", |reply| reply.status == 404);
    // A site that can't be loaded, and one that can again.
    let right = site.read("hausblatt.toml");
    site.write("hausblatt.toml", "[site\n");
    let reply = server.until("/", |reply| reply.status == 500);
    assert!(reply.text().contains("hausblatt.toml:1</a>"), "{}", reply.text());
    assert!(server.get("/~/").text().contains("hausblatt.toml:1</a>"));
    assert!(server.get("/~/file?path=hausblatt.toml").text().contains("id=\"L1\""));
    site.write("hausblatt.toml", right);
    server.until("/", |reply| reply.status == 200);
}

/// Nobody reports what is written under a name outside the site.
#[test]
fn a_file_that_is_written_under_another_name_is_looked_at_again() {
    let site = Site::small();
    let outside = tempfile::tempdir_in(site.path("").parent().unwrap()).unwrap();
    let other = outside.path().join("other.md");
    let server = site.serve(&[]);
    // Folders that have just changed are not relied on; after this it is known that each file has one name.
    std::thread::sleep(Duration::from_secs(5));
    assert_eq!(server.get("/visit/").text(), "[page Visit]");
    fs::hard_link(site.path("content/pages/visit.md"), &other).unwrap();
    // And after this, that one has two.
    std::thread::sleep(Duration::from_secs(3));
    for number in 1..=5 {
        fs::write(&other, format!("---\ntitle: Visit {number}\n---\n")).unwrap();
        std::thread::sleep(Duration::from_millis(260));
        assert_eq!(server.get("/visit/").text(), format!("[page Visit {number}]"));
    }
}

#[test]
fn open_pages_are_told_what_concerns_them() {
    let site = Site::small();
    site.write("themes/near/assets/site.css", "a {}");
    site.write("themes/near/assets/site.js", "1");
    site.write("themes/far/templates/page.html", "<p>+{content.title}</p>+{use \"site.css\"}\n");
    site.write("themes/far/layouts/document.html", "<html>+{used \"styles\"}+{slot}</html>\n");
    let server = site.serve(&[]);
    let shown = server.shown("/visit/");
    let mut visit = server.events("/visit/", &shown);
    let mut home = server.events("/", &server.shown("/"));
    site.write("content/pages/visit.md", "---\ntitle: Come by\n---\n");
    let (event, data) = visit.next();
    assert_eq!((event.as_str(), data), ("page", server.shown("/visit/")));
    assert!(home.is_quiet(Duration::from_millis(400)), "another page's edit reloads this one");
    site.write("themes/near/assets/site.css", "a { color: green }");
    assert_eq!(visit.next().0, "styles");
    assert_eq!(home.next().0, "styles");
    site.write("themes/near/assets/site.js", "2");
    assert_eq!(visit.next().0, "page");
    // An error, and its end.
    site.write("themes/far/templates/page.html", "+{nowhere}\n");
    assert_eq!(visit.next().0, "page");
    server.until("/visit/", |reply| reply.status == 500);
    site.write("themes/far/templates/page.html", "<p>+{content.title}</p>\n");
    assert_eq!(visit.next().0, "page");
    server.until("/visit/", |reply| reply.status == 200);
    // What was missed between loading and listening is reported at once.
    assert_eq!(server.events("/visit/", &shown).next().0, "page");
    assert!(server.events("/visit/", &server.shown("/visit/")).is_quiet(Duration::from_millis(300)));
    assert_eq!(server.get("/~/events?address=/&shown=x").status, 400);
    assert_eq!(server.get("/~/events").status, 400);
}

#[test]
fn a_problem_is_explained() {
    let site = Site::small();
    site.write("themes/near/templates/page/visit.html", "<p>\n+{reqest.title + \"<\"}\n</p>\n");
    let server = site.serve(&[]);
    let page = server.get("/visit/");
    assert_eq!((page.status, page.header("content-type")), (500, "text/html; charset=utf-8"));
    let text = page.text();
    let section = &text[text.find("<section").unwrap()..text.find("</main>").unwrap()];
    expect![[r#"
        <section class="problem error">
        <p class="what"><b>error</b> unknown name &quot;reqest&quot;</p>
        <p class="where"><a href="/~/file?path=themes%2Fnear%2Ftemplates%2Fpage%2Fvisit%2Ehtml#L2">themes/near/templates/page/visit.html:2</a>:3</p>
        <pre class="excerpt" tabindex="0"><span class="number">2</span> +{<mark>reqest</mark>.title + &quot;&lt;&quot;}
        </pre>
        <p class="help">→ did you mean &quot;request&quot;?</p>
        <p class="code"><code>unknown-name</code></p>
        </section>
    "#]].assert_eq(section);
    assert_eq!(server.get("/").status, 200);
    let plain = site.serve(&["--plain"]);
    let reply = plain.get("/visit/");
    assert!(reply.status == 500 && !reply.text().contains("reqest"), "{}", reply.text());
    site.write("themes/near/templates/page/visit.html", "<p>\n");
    server.until("/visit/", |reply| reply.status == 200);
    std::thread::sleep(Duration::from_millis(300));
    expect![[r#"
        error    unknown name "reqest"
                 themes/near/templates/page/visit.html:2:3
             2 | +{reqest.title + "<"}
                   ‾‾‾‾‾‾
                 → did you mean "request"?                                  unknown-name

        All problems are fixed.

    "#]]
    .assert_eq(&server.end());
}

#[test]
fn nothing_else_is_reached() {
    let site = Site::demo();
    site.write("../outside.txt", "outside");
    fs::create_dir_all(site.path("media/plain")).unwrap();
    symlink(site.path("../outside.txt"), site.path("media/link.txt")).unwrap();
    symlink("/etc", site.path("media/etc")).unwrap();
    site.write("media/.hidden.txt", "hidden");
    let server = site.serve(&[]);
    let mut asked = 0;
    for base in ["", "/media", "/assets", "/media/plain", "/~/file?path=", "/~", "/assets/components/notice"] {
        for step in [
            "..",
            "%2e%2e",
            "%2E.",
            ".%2e",
            "..%2f",
            "%2e%2e%2f",
            "..%5c",
            "..\\",
            "%252e%252e",
            "..%00",
            ".../..",
            "%c0%ae%c0%ae",
            "..;",
        ] {
            for target in ["hausblatt.toml", "etc/passwd", "themes/harbour/templates/front.html"] {
                for depth in [1, 2, 4] {
                    let steps = format!("{step}/").repeat(depth);
                    let path = if base.ends_with('=') {
                        format!("{base}{steps}{target}")
                    } else {
                        format!("{base}/{steps}{target}")
                    };
                    let reply =
                        server.say(format!("GET {path} HTTP/1.1\r\nHost: {}\r\nConnection: close\r\n\r\n", server.at));
                    if let Some(reply) = reply {
                        let text = reply.text();
                        let leaks = ["outside\n", "root:", "[site]", "+{", "title:"];
                        assert!(!leaks.iter().any(|leak| text.contains(leak)), "{path}\n{text}");
                        assert!((400..500).contains(&reply.status) || base.ends_with('='), "{path}: {}", reply.status);
                    }
                    asked += 1;
                }
            }
        }
    }
    for path in [
        "/media/link.txt",
        "/media/etc/passwd",
        "/media/.hidden.txt",
        "/hausblatt.toml",
        "/content/pages/visit.md",
        "/themes/harbour/templates/front.html",
        "/assets/../templates/front.html",
        "//media/notes.txt",
        "/media//families/pods.svg",
        "/media/families/pods.svg/",
        "/media/./families/pods.svg",
        "/assets/hausblatt-theme.toml",
        "/assets/components/notice/component.html",
        "/assets/components/notice/component.toml",
        "/.hausblatt-build",
        "/built/index.html",
    ] {
        let reply = server.get(path);
        assert_eq!(reply.status, 404, "{path}");
    }
    let file = server.get("/~/file?path=/etc/passwd");
    assert!(!file.text().contains("root:"));
    assert!(asked > 800);
    assert_eq!(server.get("/visit/").status, 200);
}

#[test]
fn what_clients_do_wrong_is_theirs() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let at = server.at.clone();
    let status = |text: String| server.say(text).map_or(0, |reply| reply.status);
    let get = |head: &str| status(format!("GET /visit/ HTTP/1.1\r\n{head}Connection: close\r\n\r\n"));
    assert_eq!(get(&format!("Host: {at}\r\n")), 200);
    assert_eq!(get("Host: localhost\r\n"), 200);
    assert_eq!(get("Host: seeds.example\r\n"), 421);
    assert_eq!(get("Host: 192.0.2.1\r\n"), 421);
    assert_eq!(get("Host: 127.0.0.1.seeds.example\r\n"), 421);
    assert_eq!(get(""), 400);
    assert_eq!(get("Host: \r\n"), 400);
    assert_eq!(get(&format!("Host: {at}\r\nHost: seeds.example\r\n")), 400);
    assert_eq!(get("Host: a b\r\n"), 400);
    let full = |target: &str| status(format!("GET {target} HTTP/1.1\r\nHost: {at}\r\nConnection: close\r\n\r\n"));
    assert_eq!(full("http://seeds.example/visit/"), 421);
    assert_eq!(full(&format!("/{}", "a".repeat(9000))), 414);
    assert_eq!(full("/\u{1}"), 400);
    for method in ["PUT", "DELETE", "PATCH", "OPTIONS", "TRACE", "CONNECT", "BREW"] {
        let reply = server.ask(method, "/visit/", &[]);
        assert_eq!((reply.status, reply.header("allow")), (405, "GET, HEAD, POST"), "{method}");
    }
    assert_eq!(server.post("/visit/", "a=b", &[]).status, 405);
    let many: String = (0..200).map(|at| format!("X-{at}: y\r\n")).collect();
    assert_eq!(get(&format!("Host: {at}\r\n{many}")), 431);
    assert_eq!(get(&format!("Host: {at}\r\nX: {}\r\n", "y".repeat(100_000))), 431);
    for garbage in [
        &b"\x16\x03\x01\x02\x00\x01\x00"[..],
        b"\r\n\r\n",
        b"GET\r\n\r\n",
        b"\0\0\0\0\r\n\r\n",
        b"GET / HTTP/9.9\r\n\r\n",
    ] {
        let status = server.say(garbage).map_or(0, |reply| reply.status);
        assert!(status == 0 || (400..600).contains(&status), "{garbage:?}: {status}");
    }
    // Connections on which nothing more comes keep nobody waiting.
    let mut half: Vec<_> = (0..300).map(|_| server.connect()).collect();
    for stream in &mut half[..150] {
        stream.write_all(b"GET /visit/ HTTP/1.1\r\nHost: ").unwrap();
    }
    assert_eq!(server.get("/visit/").status, 200);
    drop(half);
    let mut cut = server.connect();
    cut.write_all(format!("GET /media/families/pods.svg HTTP/1.1\r\nHost: {at}\r\n\r\n").as_bytes()).unwrap();
    let mut one = [0; 1];
    cut.read_exact(&mut one).unwrap();
    drop(cut);
    assert_eq!(server.get("/visit/").status, 200);
    assert_eq!(server.end(), "");
}

#[test]
fn only_the_workbench_changes_anything() {
    let site = Site::demo();
    let server = site.serve(&[]);
    for _ in 0..3 {
        server.get("/visit/opning/");
    }
    server.get("/varietes/");
    let missed = || server.get("/~/missed").text();
    let page = missed();
    assert!(page.contains("/visit/opning/</a></td><td class=\"number\">3</td>"), "{page}");
    assert!(page.contains(">/visit/opening/</a>"), "{page}");
    let token = page.split("name=\"token\" value=\"").nth(1).unwrap().split('"').next().unwrap().to_owned();
    assert_eq!(token.len(), 32);
    let right = format!("token={token}");
    let refused = [
        server.post("/~/missed", "", &[]).status,
        server.post("/~/missed", "token=", &[]).status,
        server.post("/~/missed", "token=0", &[]).status,
        server.post("/~/missed", &right, &[("Origin", "https://seeds.example")]).status,
        server.post("/~/missed", &right, &[("Origin", "null")]).status,
        server.post("/~/missed", &right, &[("Sec-Fetch-Site", "cross-site")]).status,
        server.post("/~/missed", &format!("{right}&x={}", "y".repeat(300_000)), &[]).status,
        server.post("/~/map", &right, &[]).status,
    ];
    assert_eq!(refused, [403, 403, 403, 403, 403, 403, 413, 404]);
    assert_eq!(missed(), page);
    // What has become an address is forgotten, a redirect too.
    site.write("content/pages/varietes.md", "---\ntitle: Kinds\nformerly: /kinds/\n---\n");
    server.until("/varietes/", |reply| reply.status == 200);
    let page = missed();
    assert!(page.contains("/visit/opning/") && !page.contains("/varietes/</a>"), "{page}");
    let own = format!("http://{}", server.at);
    let done = server.post("/~/missed", &right, &[("Origin", &own), ("Sec-Fetch-Site", "same-origin")]);
    assert_eq!((done.status, done.header("location")), (303, "/~/missed"));
    assert!(missed().contains("None so far."));
    let other = site.serve(&[]);
    assert!(!other.get("/~/missed").text().contains(&token));
}

#[test]
fn the_workbench_shows_the_site() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let page = |path: &str| {
        let reply = server.get(path);
        assert_eq!(reply.status, 200, "{path}");
        assert!(reply.header("content-security-policy").contains("default-src 'none'"), "{path}");
        reply.text()
    };
    let map = page("/~/?find=varieties&kind=entry");
    assert!(map.contains("/varieties/scarlet-runner/") && !map.contains("/journal/"), "{map}");
    assert!(page("/~/?find=%3Cb%3E").contains("value=\"&lt;b&gt;\""));
    assert!(page("/~/problems").contains("None: every file"));
    let rehearsal = (0..1000).find_map(|_| {
        let text = page("/~/rehearsal");
        let is_done = !text.contains("data-again");
        std::thread::sleep(std::time::Duration::from_millis(if is_done { 0 } else { 300 }));
        is_done.then_some(text)
    });
    let rehearsal = rehearsal.unwrap();
    assert!(
        rehearsal.contains("No weaknesses found with 8") && rehearsal.contains("an entry of varieties without latin")
    );
    let beside = page("/~/rehearsal?variation=an%20entry%20of%20varieties%20without%20latin");
    assert!(beside.contains("src=\"/~/varied?variation=an%20entry") && beside.contains("As it is"), "{beside}");
    assert!(page("/~/rehearsal?variation=%3Cb%3E&address=//seeds.example/").contains("no variation “&lt;b&gt;”"));
    let address = "/varieties/bellfounder/";
    let varied =
        server.get(&format!("/~/varied?variation=an%20entry%20of%20varieties%20without%20latin&address={address}"));
    assert!(
        varied.status == 200 && varied.text().contains("Bellfounder") && !varied.text().contains("Lactuca"),
        "{}",
        varied.text()
    );
    let drawn = server.get("/~/varied?variation=an%20entry%20of%20varieties%20with%20a%20very%20wide%20image&address=/varieties/bellfounder/");
    assert!(
        drawn.text().contains("src=\"data:image/svg+xml,") && !drawn.text().contains("/media/rehearsal"),
        "{}",
        drawn.text()
    );
    assert_eq!(server.get("/~/varied?variation=nothing&address=/").status, 404);
    let offered = page("/~/offered");
    assert!(offered.contains("<code>no-aside</code>") && offered.contains("/visit/opening/"), "{offered}");
    assert!(page("/~/settings").contains("hausblatt.toml</a>"));
    let address = page("/~/address?address=/varieties/scarlet-runner/");
    for part in [
        "themes/hedgerow/templates/entry/varieties.html",
        "hausblatt override /varieties/scarlet-runner/ --only",
        "Phaseolus coccineus",
    ] {
        assert!(address.contains(part), "{part}");
    }
    assert!(page("/~/address?address=/nope/").contains("nearest"));
    let file = page("/~/file?path=themes/hedgerow/templates/entry/varieties.html");
    assert!(file.contains("id=\"L1\"") && file.contains("find=entry%2Fvarieties%2Ehtml"), "{file}");
    // What is read only when it is asked for is shown, too, whole.
    let style = page("/~/file?path=themes/harbour/assets/harbour.css");
    assert!(style.contains("id=\"L1\"") && style.contains("/* harbour:"), "{style}");
    assert!(page("/~/file?path=content/pages/visit.md").contains("Before you come"));
    for odd in ["//seeds.example/", "/%5Cseeds.example/", "javascript:alert(1)", "", "https://seeds.example/"] {
        assert!(!page(&format!("/~/widths?address={odd}")).contains("seeds.example\" title"), "{odd}");
    }
    let name = "notice";
    let form = page(&format!("/~/components?component={name}&field.text=Frost%20%26%20rain"));
    assert!(form.contains("field.text=Frost%20%26%20rain"), "{form}");
    let preview = server.get("/~/preview?component=notice&field.text=Frost%20%26%20rain");
    assert!(preview.text().contains("Frost &amp; rain"), "{}", preview.text());
    let wrong = server.get("/~/preview?component=nought");
    assert!(wrong.status == 500 && wrong.text().contains("there is no component"), "{}", wrong.text());
    // Every link of these pages leads somewhere.
    for path in [
        "/~/",
        "/~/rehearsal",
        "/~/offered",
        "/~/settings",
        "/~/menus",
        "/~/components",
        "/~/kept",
        "/~/search?for=visit",
        "/~/content?path=content/pages/visit.md",
        "/~/trays?path=content/pages/visit.md",
        "/~/address?address=/visit/",
    ] {
        let text = page(path);
        let links = text.split("href=\"/").skip(1).map(|rest| rest.split(['"', '#']).next().unwrap());
        for link in links.take(60) {
            let link = format!("/{}", link.replace("&amp;", "&"));
            assert!(server.get(&link).status < 400, "{path} links to {link}");
        }
    }
}

#[test]
fn a_line_for_each_request_is_there_for_the_asking() {
    let site = Site::small();
    let server = site.serve(&["--verbose"]);
    server.get("/visit/");
    server.get("/nope/?q=1");
    server.ask("GET", "/", &[("Host", "seeds.example")]);
    let said = server.end();
    let line = |line: &str| line.rsplit_once("  ").unwrap().0.trim_end().to_owned() + "\n";
    let lines: String = said.lines().map(line).collect();
    expect![[r#"
        200 GET /visit/  page (far)
        404 GET /nope/?q=1  fallback (far)
        421 GET /
    "#]]
    .assert_eq(&lines);
}

#[test]
fn drafts_and_dates_as_asked() {
    let site = Site::small();
    site.write("content/pages/plan.md", "---\ndraft: true\n---\n");
    site.write("content/journal/2027-01-01-later.md", "");
    let (now, then) = (site.serve(&[]), site.serve(&["--drafts", "--as-of", "2027-02-01"]));
    let both = |path: &str| (now.get(path).status, then.get(path).status);
    assert_eq!((both("/plan/"), both("/journal/later/"), both("/")), ((404, 200), (404, 200), (200, 200)));
}

#[test]
fn the_demo_is_served_at_once() {
    let site = Site::empty();
    let mut child = site.command(&["demo", "seeds", "--serve", "--quiet"]).stdout(Stdio::piped()).spawn().unwrap();
    let lines = BufReader::new(child.stdout.as_mut().unwrap()).lines().map(Result::unwrap);
    let said: Vec<String> = lines.take(1).collect();
    child.kill().unwrap();
    child.wait().unwrap();
    assert!(said[0].starts_with("http://127.0.0.1:"), "{said:?}");
    assert!(!site.path("seeds/built").exists());
}

/// How many seconds random edits go on for: `SOAK=3600` for an hour.
fn soaking() -> u64 {
    std::env::var("SOAK").ok().and_then(|text| text.parse().ok()).unwrap_or(4)
}

/// Numbers below a bound that look random, the same ones each time.
fn dice(seed: u64) -> impl FnMut(u64) -> u64 {
    let mut state = 0x2545_f491_4f6c_dd1d_u64 ^ seed;
    move |sides| {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state >> 11) % sides
    }
}

/// What is sent at every address of the demo after edits of all sorts: what a server sends that was only just begun.
#[test]
fn edits_of_the_demo_end_as_a_fresh_start() {
    let seconds = soaking();
    let site = Site::demo();
    let is_text = |path: &str| {
        let is_ours = ["content/", "themes/", "tables/", "hausblatt.toml"].iter().any(|part| path.starts_with(part));
        is_ours && [".md", ".html", ".toml", ".csv", ".css", ".let"].iter().any(|end| path.ends_with(end))
    };
    let files: Vec<(String, String)> = site
        .tree(".")
        .into_iter()
        .filter(|(path, _)| is_text(path))
        .filter_map(|(path, bytes)| Some((path, String::from_utf8(bytes).ok()?)))
        .collect();
    let contents: Vec<&(String, String)> = files.iter().filter(|(path, _)| path.starts_with("content/")).collect();
    let server = site.serve(&[]);
    let addresses = || {
        let map: serde_json::Value = serde_json::from_str(&site.run(&["map", "--format", "json"]).out).unwrap();
        let all = map.as_array().unwrap().iter().map(|entry| entry["address"].as_str().unwrap().to_owned());
        all.collect::<Vec<_>>()
    };
    let all = addresses();
    let mut roll = dice(seconds);
    let start = Instant::now();
    let mut edits = 0;
    while start.elapsed() < Duration::from_secs(seconds) || edits < 40 {
        let (path, text) = match roll(4) {
            0 => &files[roll(files.len() as u64) as usize],
            _ => contents[roll(contents.len() as u64) as usize],
        };
        let other = &contents[roll(contents.len() as u64) as usize].1;
        match roll(9) {
            // Without its configuration there is nothing to begin with.
            _ if path.ends_with(".toml") => site.write(path, format!("{text}\n# Edit {}.\n", roll(99))),
            0..3 => site.write(path, format!("{text}\nEdit {}.\n", roll(99))),
            3 => site
                .write(path, text.replacen("title: ", &format!("title: {} ", ["A", "Q", "Zz"][roll(3) as usize]), 1)),
            4 => site.write(path, text.replacen("summary: ", "summary: So ", 1)),
            5 if path.ends_with(".md") => site.write(path, other),
            6 => drop(fs::remove_file(site.path(path))),
            7 if path.ends_with(".md") => {
                site.write(path, text.replacen("---\n", "---\norder: 3\nrobots: noindex\n", 1))
            }
            _ => site.write(path, text),
        }
        edits += 1;
        for _ in 0..roll(3) {
            server.get(&all[roll(all.len() as u64) as usize]);
        }
        // Too many edits that break something would leave nothing to see.
        if roll(20) == 0 {
            files.iter().for_each(|(path, text)| site.write(path, text));
        }
        if roll(12) == 0 {
            same_answers(&site, &server, &all[..all.len().min(8)]);
        }
    }
    for (path, text) in files.iter().filter(|(path, _)| !path.starts_with("content/")) {
        site.write(path, text);
    }
    same_answers(&site, &server, &[all, addresses()].concat());
    assert_eq!(server.end().matches("panicked").count(), 0);
}

/// That what is sent at these addresses is what a server sends that was only just begun.
fn same_answers(site: &Site, server: &Served, addresses: &[String]) {
    let fresh = site.serve(&[]);
    for address in addresses {
        let (kept, new) = (server.get(address), fresh.get(address));
        assert_eq!((kept.status, kept.text()), (new.status, new.text()), "{address}");
    }
}

#[test]
fn random_edits_end_as_a_fresh_start() {
    let seconds = soaking();
    let site = Site::small();
    let config = site.read("hausblatt.toml");
    let server = site.serve(&[]);
    let mut roll = dice(seconds);
    let names = ["frost", "boats", "beans", "rain", "ice"];
    let (start, mut edits) = (Instant::now(), 0);
    while start.elapsed() < Duration::from_secs(seconds) || edits < 50 {
        let name = names[roll(5) as usize];
        let entry = format!("content/journal/2026-03-14-{name}.md");
        match roll(12) {
            0..3 => site.write(&entry, format!("---\ntitle: {name} {}\n---\nText.\n", roll(99))),
            3 => {
                site.write("content/journal/.save", format!("---\ntitle: {}\n---\n", roll(99)));
                site.rename("content/journal/.save", &entry);
            }
            4 => drop(fs::remove_file(site.path(&entry))),
            5 => site.write("themes/near/templates/entry.html", format!("+{{content.title}} {}", roll(9))),
            6 => site.write("themes/near/templates/entry.html", "+{nowhere}"),
            7 => drop(fs::remove_file(site.path("themes/near/templates/entry.html"))),
            8 => site.write(&format!("themes/near/templates/entry/journal/{name}.html"), "own"),
            9 => drop(fs::remove_dir_all(site.path("themes/near/templates/entry"))),
            10 => site.write("hausblatt.toml", config.replace("per_page = 2", &format!("per_page = {}", 1 + roll(3)))),
            _ => site.write("hausblatt.toml", if roll(2) == 0 { "[site\n" } else { &config }),
        }
        edits += 1;
        for _ in 0..roll(4) {
            server.get(&format!("/journal/{}/", names[roll(5) as usize]));
        }
    }
    site.write("hausblatt.toml", &config);
    std::thread::sleep(Duration::from_millis(600));
    let mut addresses: Vec<String> = names.iter().map(|name| format!("/journal/{name}/")).collect();
    addresses.extend(["/", "/visit/", "/journal/", "/journal/page/2/", "/nope/", "/sitemap.xml"].map(str::to_owned));
    same_answers(&site, &server, &addresses);
    assert_eq!(server.end().matches("panicked").count(), 0);
}
