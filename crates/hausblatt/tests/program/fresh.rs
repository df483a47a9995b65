//! The server is never stale and never silent about it: saves just before a request, folders that go and come, no more
//! descriptors, pages that take long.

use std::fs;
use std::io::{Read, Write};
use std::net::TcpStream;
use std::process::Command;
use std::thread;
use std::time::{Duration, Instant};

use crate::support::Site;
use crate::support::serving::Served;

/// What a page says on a connection that stays open.
fn ask(stream: &mut TcpStream, server: &Served, path: &str) -> String {
    let head = format!("GET {path} HTTP/1.1\r\nHost: {}\r\nSec-Fetch-Dest: document\r\n\r\n", server.at);
    stream.write_all(head.as_bytes()).unwrap();
    let mut answer = Vec::new();
    let mut piece = [0; 4096];
    loop {
        let count = stream.read(&mut piece).unwrap();
        answer.extend_from_slice(&piece[..count]);
        let text = String::from_utf8_lossy(&answer).into_owned();
        let Some((head, body)) = text.split_once("\r\n\r\n") else { continue };
        let length =
            head.to_lowercase().split("content-length: ").nth(1).and_then(|rest| rest.lines().next()?.parse().ok());
        if count == 0 || length.is_none_or(|length: usize| body.len() >= length) {
            return text;
        }
    }
}

#[test]
fn no_answer_is_older_than_a_save_before_it() {
    let site = Site::small();
    site.write("themes/near/assets/a.css", "a0");
    let server = site.serve(&[]);
    for round in 1..=80 {
        match round % 5 {
            0 => {
                // As editors do it: another file takes the place.
                site.write("content/pages/.visit.tmp", format!("---\ntitle: Visit {round}\n---\n"));
                site.rename("content/pages/.visit.tmp", "content/pages/visit.md");
            }
            1 => site.write(&format!("content/pages/new{round}/inner.md"), format!("---\ntitle: Inner {round}\n---\n")),
            2 => {
                for number in 0..40 {
                    site.write(
                        &format!("content/journal/2026-01-01-n{number}.md"),
                        format!("---\ntitle: N{round}\n---\n"),
                    );
                }
            }
            3 => site.write("themes/near/templates/page.html", format!("round {round} +{{content.title}}\n")),
            _ => site.write("content/pages/visit.md", format!("---\ntitle: Visit {round}\n---\n")),
        }
        site.write("themes/near/assets/a.css", format!("a{round}"));
        if round % 2 == 0 {
            thread::sleep(Duration::from_millis(round % 7));
        }
        match round % 5 {
            1 => assert_eq!(server.get(&format!("/new{round}/inner/")).status, 200, "{round}"),
            2 => assert_eq!(server.get("/journal/n39/").text(), format!("[fallback N{round}]")),
            3 => assert!(server.get("/visit/").text().contains(&format!("round {round} ")), "{round}"),
            _ => assert!(server.get("/visit/").text().contains(&format!("Visit {round}")), "{round}"),
        }
        assert_eq!(server.get("/assets/a.css").text(), format!("a{round}"));
    }
}

#[test]
fn a_folder_that_goes_and_comes_back_is_followed() {
    let site = Site::small();
    // The folder is where the server was started, and so its current directory.
    let server = site.serve(&[]);
    for round in 0..3 {
        let files = site.tree(".");
        fs::remove_dir_all(site.root()).unwrap();
        let gone = server.open("/visit/");
        assert_eq!(gone.status, 500, "{}", gone.text());
        assert!(gone.text().contains("is gone"), "{}", gone.text());
        fs::create_dir(site.root()).unwrap();
        for (path, bytes) in &files {
            site.write(path, bytes);
        }
        assert_eq!(server.get("/visit/").status, 200, "{round}");
        site.write("content/pages/visit.md", format!("---\ntitle: Again {round}\n---\n"));
        assert!(server.get("/visit/").text().contains(&format!("Again {round}")));
        // And it is reported, not only found on request.
        let mut events = server.events("/visit/", &server.shown("/visit/"));
        site.write("content/pages/visit.md", format!("---\ntitle: Told {round}\n---\n"));
        assert_eq!(events.next().0, "page");
    }
}

#[test]
fn without_descriptors_it_says_so_and_recovers() {
    let site = Site::small();
    let server = site.serve(&[]);
    let mut stream = server.connect();
    assert!(ask(&mut stream, &server, "/visit/").contains("data-problems=\"0\""));
    let limit = |soft: &str| {
        let (process, limit) = (server.process().to_string(), format!("--nofile={soft}:"));
        assert!(Command::new("prlimit").args(["--pid", &process, &limit]).status().unwrap().success());
    };
    limit("4");
    site.write("content/pages/visit.md", "---\ntitle: Later\n---\n");
    let before = ask(&mut stream, &server, "/visit/");
    assert!(before.contains("Visit") && before.contains("data-problems=\"1\""), "{before}");
    let problems = ask(&mut stream, &server, "/~/faults?address=/visit/");
    assert!(problems.contains("changes are not seen"), "{problems}");
    limit("1024");
    assert!(server.get("/visit/").text().contains("Later"));
    assert!(server.open("/visit/").text().contains("data-problems=\"0\""));
    let said = server.end();
    assert!(said.contains("changes are not seen") && said.contains("All problems are fixed."), "{said}");
}

#[test]
fn an_asset_of_the_same_length_and_time_is_another() {
    let site = Site::small();
    site.write("media/a.bin", "aaaa");
    let server = site.serve(&[]);
    let tag = server.until("/media/a.bin", |reply| !reply.header("etag").is_empty()).header("etag").to_owned();
    let ask = |name: &str, tag: &str| server.ask("GET", "/media/a.bin", &[(name, tag)]);
    assert_eq!((ask("If-None-Match", &tag).status, ask("If-Match", &tag).status), (304, 200));
    assert_eq!((ask("If-Match", "\"x\"").status, ask("If-Match", "\"x\", *").status), (412, 200));
    let modified = fs::metadata(site.path("media/a.bin")).unwrap().modified().unwrap();
    site.write("media/a.bin", "bbbb");
    fs::File::options().write(true).open(site.path("media/a.bin")).unwrap().set_modified(modified).unwrap();
    let other = ask("If-None-Match", &tag);
    assert_eq!((other.status, other.text().as_str()), (200, "bbbb"));
    assert_eq!(ask("If-Match", &tag).status, 412);
    // Pages have weak tags, which are never the same to the byte.
    let tag = server.get("/visit/").header("etag").to_owned();
    assert_eq!(server.ask("GET", "/visit/", &[("If-Match", &tag)]).status, 412);
    assert_eq!(server.ask("GET", "/visit/", &[("If-Match", "*")]).status, 200);
}

#[test]
fn heavy_pages_keep_nobody_else_waiting_and_end_with_who_asked() {
    let site = Site::small();
    let heavy = "+{each a in range(1, 40000)}+{each b in range(1, 1000)}+{if a == b}x+{end}+{end}+{end}";
    site.write("themes/near/templates/page/visit.html", heavy);
    site.write("themes/near/assets/a.css", "a {}");
    let server = site.serve(&[]);
    let asked: Vec<TcpStream> = (0..40)
        .map(|_| {
            let mut stream = server.connect();
            write!(stream, "GET /visit/ HTTP/1.1\r\nHost: {}\r\n\r\n", server.at).unwrap();
            stream
        })
        .collect();
    let began = Instant::now();
    assert_eq!(server.get("/assets/a.css").text(), "a {}");
    assert_eq!(server.get("/~/badge.js").status, 200);
    assert_eq!(server.get("/~/").status, 200);
    let quick = began.elapsed();
    assert!(quick < Duration::from_secs(15), "{quick:?}");
    drop(asked);
    // All forty would take minutes.
    assert_eq!(server.get("/").status, 200);
    assert!(began.elapsed() < Duration::from_secs(60), "{:?}", began.elapsed());
}

/// What a process holds: memory in kB, and open files.
fn held(process: u32) -> (u64, usize) {
    let status = fs::read_to_string(format!("/proc/{process}/status")).unwrap();
    let resident = status.lines().find_map(|line| line.strip_prefix("VmRSS:")?.trim().split(' ').next()?.parse().ok());
    (resident.unwrap(), fs::read_dir(format!("/proc/{process}/fd")).unwrap().count())
}

/// Random edits, deletions, permissions, themes and requests: what was saved is there with the next request, and memory
/// and open files stay level. `SOAK=3600 cargo test -p hausblatt --test program long_time` goes on for so many seconds.
#[test]
fn for_a_long_time_nothing_is_stale_and_nothing_is_lost() {
    let seconds = std::env::var("SOAK").ok().and_then(|text| text.parse().ok()).unwrap_or(5);
    let site = Site::small();
    for theme in ["near", "far", "third"] {
        site.write(
            &format!("themes/{theme}/hausblatt-theme.toml"),
            if theme == "near" { "[theme]\nparent = \"far\"\n" } else { "" },
        );
        site.write(
            &format!("themes/{theme}/templates/fallback.html"),
            "---\nlayout: none\n---\n+{theme.name} +{request.title}",
        );
        site.write(
            &format!("themes/{theme}/templates/page.html"),
            "---\nlayout: none\n---\n+{theme.name} +{content.title}",
        );
    }
    let config = site.read("hausblatt.toml");
    let server = site.serve(&[]);
    let mut state = 0x9e37_79b9_7f4a_7c15_u64;
    let mut roll = |sides: u64| {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state >> 11) % sides
    };
    let (start, mut round, mut level) = (Instant::now(), 0_u64, None);
    let mut theme = "near";
    while start.elapsed() < Duration::from_secs(seconds) || round < 100 {
        round += 1;
        let name = format!("p{}", roll(12));
        let path = format!("content/pages/{name}.md");
        let text = format!("---\ntitle: N{round}\n---\nText.\n");
        let wanted = match roll(10) {
            0..3 => {
                site.write(&path, text);
                Some(format!("{theme} N{round}"))
            }
            3 => {
                site.write("content/pages/.save", text);
                site.rename("content/pages/.save", &path);
                Some(format!("{theme} N{round}"))
            }
            4 => {
                let _ = fs::remove_file(site.path(&path));
                None
            }
            5 => {
                for other in 0..12 {
                    site.write(&format!("content/pages/p{other}.md"), &text);
                }
                Some(format!("{theme} N{round}"))
            }
            6 => {
                theme = ["near", "far", "third"][roll(3) as usize];
                site.write("hausblatt.toml", config.replace("theme = \"near\"", &format!("theme = \"{theme}\"")));
                site.write(&path, text);
                Some(format!("{theme} N{round}"))
            }
            7 => {
                // A folder that is moved away and back.
                site.rename("content/pages", "away");
                assert_eq!(server.get(&format!("/{name}/")).status, 404, "{round}");
                site.rename("away", "content/pages");
                site.write(&path, text);
                Some(format!("{theme} N{round}"))
            }
            8 => {
                site.write(&path, text);
                let mode = |mode: u32| {
                    fs::set_permissions(site.path(&path), std::os::unix::fs::PermissionsExt::from_mode(mode)).unwrap();
                };
                mode(0);
                server.get(&format!("/{name}/"));
                mode(0o644);
                Some(format!("{theme} N{round}"))
            }
            _ => {
                fs::create_dir_all(site.path(&format!("content/pages/deep{round}"))).unwrap();
                site.write(&format!("content/pages/deep{round}/{name}.md"), &text);
                assert_eq!(server.get(&format!("/deep{round}/{name}/")).text(), format!("{theme} N{round}"));
                fs::remove_dir_all(site.path(&format!("content/pages/deep{round}"))).unwrap();
                assert_eq!(server.get(&format!("/deep{round}/{name}/")).status, 404, "{round}");
                site.write(&path, text);
                Some(format!("{theme} N{round}"))
            }
        };
        if roll(3) == 0 {
            thread::sleep(Duration::from_millis(roll(70)));
        }
        let answer = server.get(&format!("/{name}/"));
        match wanted {
            Some(wanted) => assert_eq!(answer.text(), wanted, "{round}"),
            None => assert_eq!(answer.status, 404, "{round}"),
        }
        if round == 100 {
            level = Some(held(server.process()));
        }
    }
    let (memory, files) = level.unwrap();
    let (memory_now, files_now) = held(server.process());
    eprintln!("{round} rounds; {memory} kB and {files} files, then {memory_now} kB and {files_now} files");
    assert!(memory_now < memory + 30_000, "{memory} kB, then {memory_now} kB");
    assert!(files_now < files + 10, "{files} files, then {files_now} files");
}
