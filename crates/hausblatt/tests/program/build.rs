//! Builds: what is written, what is not, and what an interruption leaves.

use std::fs;
use std::os::unix::fs::{MetadataExt, symlink};
use std::path::Path;
use std::process::Stdio;
use std::time::Duration;

use crate::support::Site;

fn numbers(site: &Site, arguments: &[&str]) -> (u64, u64, u64) {
    let built = site.json(&[&["build"], arguments].concat());
    (built["written"].as_u64().unwrap(), built["unchanged"].as_u64().unwrap(), built["removed"].as_u64().unwrap())
}

fn inode(path: &Path) -> u64 {
    fs::metadata(path).unwrap().ino()
}

#[test]
fn only_what_changed_is_written_and_only_ours_is_removed() {
    let site = Site::small();
    assert_eq!(numbers(&site, &[]), (12, 0, 0));
    let (home, boats) = (inode(&site.path("built/index.html")), inode(&site.path("built/journal/boats/index.html")));
    assert_eq!(numbers(&site, &[]), (0, 12, 0));
    site.write("content/journal/2026-05-01-boats.md", "---\ntitle: Ships\n---\n");
    assert_eq!(numbers(&site, &[]), (1, 11, 0));
    assert_eq!(inode(&site.path("built/index.html")), home);
    assert_ne!(inode(&site.path("built/journal/boats/index.html")), boats);
    site.write("built/notes.txt", "mine");
    site.remove("content/journal/2026-06-01-beans.md");
    assert_eq!(numbers(&site, &[]), (1, 9, 2), "the sitemap; the entry and page two of its listing");
    assert!(!site.path("built/journal/beans").exists() && !site.path("built/journal/page").exists());
    assert_eq!(site.read("built/notes.txt"), "mine");
    site.remove("built/visit/index.html");
    assert_eq!(numbers(&site, &[]), (1, 9, 0), "a file that was taken away comes back");
}

#[test]
fn pages_media_assets_and_redirects_are_put_out() {
    let site = Site::small();
    site.write("media/pods.svg", "<svg/>");
    site.write("themes/far/assets/a.css", "far");
    site.write("themes/far/assets/b.css", "far");
    site.write("themes/near/assets/a.css", "near");
    site.write("themes/far/layouts/document.html", "<body class=\"+{classes.join(\" \")}\">+{slot}</body>");
    assert_eq!(site.run(&["build", "--out", "public", "--map"]).code, 0);
    let tree: Vec<String> =
        site.tree("public").into_iter().map(|(path, _)| path).filter(|path| !path.starts_with('.')).collect();
    let expected = [
        "404.html",
        "assets/a.css",
        "assets/b.css",
        "hausblatt-map.json",
        "home/index.html",
        "index.html",
        "journal/beans/index.html",
        "journal/boats/index.html",
        "journal/frost/index.html",
        "journal/index.html",
        "journal/page/2/index.html",
        "media/pods.svg",
        "robots.txt",
        "sitemap.xml",
        "visit/index.html",
        "visit/opening/index.html",
    ];
    assert_eq!(tree, expected);
    assert_eq!(site.read("public/assets/a.css"), "near");
    assert_eq!(site.read("public/visit/opening/index.html"), "<body class=\"page visit-opening\">page Opening</body>");
    assert_eq!(
        site.read("public/journal/frost/index.html"),
        "<body class=\"entry journal frost\">fallback Frost</body>"
    );
    assert!(site.read("public/home/index.html").contains("<meta http-equiv=\"refresh\" content=\"0; url=/\">"));
    let map: serde_json::Value = serde_json::from_str(&site.read("public/hausblatt-map.json")).unwrap();
    assert_eq!(map[0]["template"], "page.html");
}

#[test]
fn a_second_run_repeats_its_warnings() {
    let site = Site::small();
    site.write("themes/far/templates/page.html", "<a href=\"+{\"javascript:x\"}\">x</a>");
    let first = site.run(&["build"]);
    let second = site.run(&["build"]);
    assert!(first.err.contains("unsafe-address"), "{}", first.err);
    assert_eq!(first.err, second.err);
}

#[test]
fn today_counts_only_where_it_is_read() {
    let site = Site::small();
    assert_eq!(numbers(&site, &["--as-of", "2026-11-01"]), (12, 0, 0));
    site.write("themes/far/templates/page/visit.html", "+{today}");
    assert_eq!(numbers(&site, &["--as-of", "2026-11-01"]), (1, 11, 0));
    assert_eq!(numbers(&site, &["--as-of", "2026-11-02"]), (1, 11, 0));
    assert_eq!(site.read("built/visit/index.html"), "[2026-11-02]");
    site.write("content/pages/later.md", "---\ndate: 2026-12-01\n---\n");
    assert_eq!(numbers(&site, &["--as-of", "2026-11-02"]), (0, 12, 0));
    assert_eq!(numbers(&site, &["--as-of", "2026-12-01"]), (3, 10, 0));
}

#[test]
fn files_of_others_are_not_overwritten() {
    let site = Site::small();
    site.write("public/visit/index.html", "mine");
    let said = site.run(&["build", "--out", "public"]);
    assert_eq!((said.code, said.out.as_str()), (1, ""));
    assert!(said.err.contains("public/visit/index.html is in the way: no build has written it"), "{}", said.err);
    assert_eq!(site.read("public/visit/index.html"), "mine");
    for out in [".", "content", "themes/near/x", "hausblatt.toml", ".."] {
        let said = site.run(&["build", "--out", out]);
        assert_eq!(said.code, 1, "{out}");
        assert!(
            said.err.contains("holds the site's own files") || said.err.contains("is not a folder"),
            "{}",
            said.err
        );
    }
}

#[test]
fn links_in_the_output_folder_are_not_followed() {
    let site = Site::small();
    assert_eq!(site.run(&["build"]).code, 0);
    fs::remove_dir_all(site.path("built/visit")).unwrap();
    fs::create_dir(site.path("elsewhere")).unwrap();
    symlink(site.path("elsewhere"), site.path("built/visit")).unwrap();
    let said = site.run(&["build"]);
    assert_eq!(said.code, 1);
    assert!(said.err.contains("can't be written"), "{}", said.err);
    assert!(fs::read_dir(site.path("elsewhere")).unwrap().next().is_none());
}

#[test]
fn nothing_outside_the_output_folder_is_removed() {
    let site = Site::small();
    assert_eq!(site.run(&["build"]).code, 0);
    site.write("mine/index.html", "mine");
    fs::remove_dir_all(site.path("built/journal/boats")).unwrap();
    symlink(site.path("mine"), site.path("built/journal/boats")).unwrap();
    site.remove("content/journal/2026-05-01-boats.md");
    let record = fs::read(site.path("built/.hausblatt-build")).unwrap();
    let (listed, hostile) = ("visit/index.html", "../mine/index.ht");
    let at = record.windows(listed.len()).position(|bytes| bytes == listed.as_bytes()).unwrap();
    let changed = [&record[..at], hostile.as_bytes(), &record[at + listed.len()..]].concat();
    site.write("mine/index.ht", "mine");
    site.write("built/.hausblatt-build", changed);
    // What it does not list any more is in the way, and stays.
    let said = site.run(&["build"]);
    assert!(said.err.contains("visit/index.html is in the way"), "{}", said.err);
    let entry = "{\"hash\":1,\"length\":1,\"modified\":1}";
    site.write(
        "built/.hausblatt-build",
        older_record(&site).replace("{\"files\":{", &format!("{{\"files\":{{\"../mine/index.html\":{entry},")),
    );
    assert_eq!(site.run(&["build"]).code, 0);
    assert_eq!(site.read("mine/index.ht"), "mine");
    assert_eq!(site.read("mine/index.html"), "mine");
}

#[test]
fn links_out_of_the_site_are_not_read() {
    let site = Site::small();
    let other = Site::empty();
    other.write("secret.md", "---\ntitle: Secret\n---\n");
    symlink(other.path("secret.md"), site.path("content/pages/secret.md")).unwrap();
    symlink(site.path("content/pages/visit.md"), site.path("content/pages/again.md")).unwrap();
    symlink(site.path("content"), site.path("content/pages/visit/round")).unwrap();
    assert_eq!(site.run(&["resolve", "/secret/"]).code, 1);
    assert_eq!(site.run(&["resolve", "/again/"]).code, 0);
}

/// The rest is built, and of the two the one that the server would answer with.
#[test]
fn outputs_that_meet_in_one_file_are_named() {
    let site = Site::small();
    site.write("media/x.txt", "1");
    site.write("media/X.txt", "2");
    site.write("media/y.txt", "3");
    site.write("content/pages/moved.md", "---\ntitle: Moved\nformerly: [/media/y.txt, /media/y.txt/, /VISIT/]\n---\n");
    let said = site.run(&["build"]);
    let meetings: Vec<&str> = said.err.lines().filter(|line| line.starts_with("error    ")).collect();
    assert_eq!(
        meetings,
        [
            "error    two outputs meet in the file media/y.txt",
            "error    media/y.txt would be a file and a folder",
            "error    two outputs meet in the file VISIT/index.html, which many systems take",
            "error    two outputs meet in the file media/x.txt, which many systems take for",
        ]
    );
    assert_eq!(said.code, 1);
    assert_eq!((site.read("built/media/X.txt").as_str(), site.read("built/media/y.txt").as_str()), ("2", "3"));
    assert!(site.path("built/visit/index.html").exists() && site.path("built/moved/index.html").exists());
    assert!(!site.path("built/media/x.txt").exists() && !site.path("built/VISIT").exists());
}

#[test]
fn addresses_that_no_file_can_have_are_reported_and_the_rest_is_built() {
    let site = Site::small();
    let long = "x".repeat(256);
    site.write("content/pages/long.md", format!("---\ntitle: Long\nslug: {long}\n---\n"));
    site.write("content/pages/fits.md", format!("---\ntitle: Fits\nslug: {}\n---\n", &long[1..]));
    site.write(
        "content/pages/old.md",
        format!("---\ntitle: Old\nformerly: [/{}/, /.hausblatt-build, /~/events, /a/../b/]\n---\n", "é".repeat(128)),
    );
    let said = site.run(&["build"]);
    assert_eq!(said.code, 1, "{}", said.whole());
    for words in ["a part of it has 256 bytes", "has files or pages of its own there", "is \".\" or \"..\""] {
        assert!(
            said.err.replace("\n  ", " ").split_whitespace().collect::<Vec<_>>().join(" ").contains(words),
            "{}",
            said.err
        );
    }
    assert_eq!(said.err.matches(" unusable-address\n").count(), 1);
    assert_eq!(said.err.matches(" wrong-type\n").count(), 4);
    assert!(
        site.path(&format!("built/{}/index.html", &long[1..])).exists() && site.path("built/visit/index.html").exists()
    );
    assert_eq!(
        site.json(&["map"])
            .as_array()
            .map_or(0, |rows| rows.iter().filter(|row| row["address"].as_str().unwrap().contains(&long)).count()),
        0
    );
    let record = fs::read(site.path("built/.hausblatt-build")).unwrap();
    assert!(record.starts_with(b"hausblatt-build "), "the record is a record");
}

#[test]
fn a_broken_configuration_takes_no_pages_away() {
    let site = Site::small();
    assert_eq!(site.run(&["build"]).code, 0);
    let before = site.tree("built");
    site.write("hausblatt.toml", site.read("hausblatt.toml").replace("address = \"/journal", "adress = \"/journal"));
    let said = site.run(&["build"]);
    assert_eq!(said.code, 1);
    assert!(said.err.ends_with("error: nothing was built\nhelp: fix the configuration first\n"), "{}", said.err);
    assert!(site.tree("built") == before);
    assert_eq!(site.run(&["resolve", "/visit/"]).code, 1, "it answers all the same, but not without a word");
}

#[test]
fn two_builds_keep_out_of_each_others_way() {
    let site = Site::small();
    assert_eq!(site.run(&["build"]).code, 0);
    let lock = fs::File::open(site.path("built/.hausblatt-lock")).unwrap();
    lock.lock().unwrap();
    let said = site.run(&["build"]);
    assert_eq!((said.code, said.err.lines().next()), (1, Some("error: another build of this folder is under way")));
}

/// However early a build is killed, the next one leaves what a build from nothing leaves.
#[test]
fn a_killed_build_leaves_nothing_behind() {
    let site = Site::small();
    for number in 0..600 {
        site.write(
            &format!("content/journal/entry-{number}.md"),
            format!("---\ntitle: Entry {number}\n---\n{}", "word *word*\n\n".repeat(40)),
        );
    }
    assert_eq!(site.run(&["build", "--out", "whole", "-q"]).code, 0);
    let expected = site.tree("whole");
    let mut cut = 0;
    for entries in [0, 1, 100, 300, 500] {
        let out = format!("cut-{entries}");
        let mut child =
            site.command(&["build", "--out", &out, "-q"]).stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
        let written = || fs::read_dir(site.path(&out).join("journal")).map_or(0, Iterator::count);
        while written() < entries && child.try_wait().unwrap().is_none() {
            std::thread::sleep(Duration::from_micros(200));
        }
        child.kill().unwrap();
        child.wait().unwrap();
        let half = if site.path(&out).exists() { site.tree(&out) } else { Vec::new() };
        cut += usize::from(!half.is_empty() && half.len() < expected.len());
        let pages = half.iter().filter(|(path, _)| path.ends_with(".html"));
        for (path, bytes) in pages {
            let whole = expected.iter().find(|(other, _)| other == path).map(|(_, bytes)| bytes);
            assert_eq!(Some(bytes), whole, "{path} is half-written");
        }
        site.write("content/pages/gone.md", "");
        assert_eq!(site.run(&["build", "--out", &out, "-q"]).code, 0);
        site.remove("content/pages/gone.md");
        assert_eq!(site.run(&["build", "--out", &out, "-q"]).code, 0);
        assert_eq!(site.tree(&out).len(), expected.len());
        assert!(site.tree(&out) == expected);
    }
    assert!(cut > 0, "every build was over before it was cut");
}

#[test]
fn the_demo_builds_without_a_word() {
    let demo = Site::demo();
    let said = demo.run(&["--strict", "build", "--out", "public"]);
    assert_eq!((said.code, said.err.as_str()), (0, ""));
    for (address, holds) in [
        ("visit/opening", "<td>14–18</td>"),
        ("varieties/scarlet-runner", "<dd>3 m</dd>"),
        ("visit", "aria-current=\"page\">Visit</a>"),
        ("journal/first-frost", "<time datetime=\"2026-03-14\">14 March 2026</time>"),
        ("varieties/page/2", "<small>page 2</small>"),
    ] {
        let html = demo.read(&format!("public/{address}/index.html"));
        assert!(html.contains(holds), "{address} lacks {holds}\n{html}");
    }
    assert!(!demo.read("public/visit/opening/index.html").contains("<aside>"));
    assert!(demo.read("public/visit/find-us/index.html").contains("<aside>"));
    assert!(
        !demo.path("public/journal/new-drawers").exists() && !demo.path("public/journal/a-draft-about-soil").exists()
    );
}

#[test]
fn the_demo_keeps_what_was_changed() {
    let demo = Site::demo();
    demo.write("content/pages/about.md", "mine");
    demo.remove("content/pages/visit.md");
    let said = demo.run(&["demo", "."]);
    assert!(
        said.out.starts_with(
            "The Marrow Lane Seed Library: 1 files written into .; 1 that you changed stay as they are.\n"
        ),
        "{}",
        said.out
    );
    assert_eq!(demo.read("content/pages/about.md"), "mine");
    let other = Site::empty();
    other.write("notes.txt", "mine");
    assert_eq!(other.run(&["demo", "."]).code, 1);
}

/// A build that has nothing to do makes no World; it has to notice all the same when a day makes a difference.
#[test]
fn a_day_that_makes_a_difference_is_noticed() {
    let site = Site::small();
    site.write("content/journal/2026-12-24-later.md", "---\ntitle: Later\n---\n");
    let built = |day: &str| {
        let said = site.run(&["build", "--as-of", day, "--format", "json"]);
        let told: serde_json::Value = serde_json::from_str(&said.out).unwrap();
        let there = site.path("built/journal/later/index.html").exists();
        (told["written"].as_u64().unwrap() + told["removed"].as_u64().unwrap() > 0, there)
    };
    assert_eq!(built("2026-11-23"), (true, false));
    assert_eq!(built("2026-12-23"), (false, false));
    assert_eq!(built("2026-12-24"), (true, true));
    assert_eq!(built("2027-02-01"), (false, true));
    assert_eq!(built("2026-12-23"), (true, false));
    // Before the last entry there is one less again.
    assert_eq!(built("2026-05-31"), (true, false));
    assert!(!site.path("built/journal/beans/index.html").exists());
    site.write("themes/far/templates/fallback.html", "+{today}\n");
    assert!(built("2026-11-23").0 && !built("2026-11-23").0 && built("2026-11-24").0);
}

/// The warnings of a build are those of the next one that has nothing to do, to the letter.
#[test]
fn what_was_noticed_is_said_again() {
    let site = Site::small();
    site.write("themes/far/prepare/all.let", "let words = [\"a\"]\n");
    site.write("themes/near/prepare/all.let", "let words = [\"b\"]\n");
    site.write("themes/far/templates/fallback.html", "+{words.join(\" \")}\n");
    site.write("content/pages/visit.md", "---\ntitle: Visit\ntemplate: gone\n---\nSee [this](page:nowhere).\n");
    let first = site.run(&["build"]);
    assert!(first.err.contains("list-replaced") && first.err.contains("it is built here"), "{}", first.whole());
    let second = site.run(&["build"]);
    assert_eq!((first.code, first.err), (second.code, second.err));
    assert!(second.out.contains("0 files written"), "{}", second.out);
    assert_eq!(site.run(&["build", "--strict"]).code, 1);
    // A record of another version is not understood, but what it lists is known to be ours.
    site.write("built/.hausblatt-build", older_record(&site));
    let before = put_out(&site, "built");
    assert_eq!(site.run(&["build", "-q"]).code, 0);
    assert!(put_out(&site, "built") == before);
}

/// A record of what was built as the first versions wrote it, who knew other digests.
fn older_record(site: &Site) -> String {
    let files = put_out(site, "built").into_iter().map(|(path, bytes)| {
        let kept = serde_json::json!({ "hash": 1, "length": bytes.len(), "modified": 1 });
        (path, kept)
    });
    let files: serde_json::Map<String, serde_json::Value> = files.collect();
    serde_json::json!({
        "files": files, "digest": 7, "pages": 1, "bytes": 1, "failed": [], "diagnostics": [],
    })
    .to_string()
}

/// What a build wrote, without its record.
fn put_out(site: &Site, folder: &str) -> Vec<(String, Vec<u8>)> {
    site.tree(folder).into_iter().filter(|(path, _)| !path.starts_with(".hausblatt")).collect()
}

#[test]
fn the_parts_of_a_site_are_the_whole() {
    let site = Site::demo();
    assert_eq!(site.run(&["build", "--map", "--out", "whole"]).code, 0);
    let whole = put_out(&site, "whole");
    let mut joined = Vec::new();
    let mut pages = 0;
    for part in ["1/3", "2/3", "3/3"] {
        let folder = format!("part-{}", &part[..1]);
        let built = site.json(&["build", "--map", "--part", part, "--out", &folder]);
        pages += built["pages"].as_u64().unwrap();
        joined.extend(put_out(&site, &folder));
        // One after the other, they may go into one folder.
        assert_eq!(site.json(&["build", "--map", "--part", part, "--out", "one"])["removed"], 0);
    }
    joined.sort();
    // Pages of several parts may show the same image.
    joined.dedup();
    assert!(joined == whole && put_out(&site, "one") == whole);
    assert_eq!(pages, site.json(&["build", "--map", "--out", "whole"])["pages"].as_u64().unwrap());
    // A part does what concerns it, and knows when there is nothing to do.
    site.remove("content/pages/about.md");
    site.write(
        "hausblatt.toml",
        site.read("hausblatt.toml").replace("{ to = \"page:about\", label = \"About this demo\" },", ""),
    );
    let removed =
        |part: &str| site.json(&["build", "--map", "--part", part, "--out", "one"])["removed"].as_u64().unwrap();
    assert_eq!(["1/3", "2/3", "3/3"].map(removed).iter().sum::<u64>(), 1);
    let again = site.json(&["build", "--map", "--part", "3/3", "--out", "one"]);
    assert_eq!((&again["written"], &again["removed"]), (&0.into(), &0.into()));
    let dry = site.json(&["build", "--map", "--part", "1/3", "--out", "one", "--dry-run"]);
    assert_eq!(dry["changes"], serde_json::json!([]));
    assert_eq!(site.json(&["build", "--map", "--out", "one"])["written"], 0);
    for odd in ["0/3", "4/3", "3", "a/b"] {
        let said = site.run(&["build", "--part", odd]);
        assert!(said.code == 2 && said.err.contains("as in 3/8"), "{}", said.whole());
    }
}

#[test]
fn a_build_tells_where_its_time_went() {
    let site = Site::small();
    let stages = |said: &str| -> Vec<String> {
        let lines = said.lines().filter(|line| line.ends_with(" s"));
        lines.map(|line| line.rsplit_once("  ").unwrap().0.trim().to_owned()).collect()
    };
    let first = site.run(&["build", "-v"]);
    let all = [
        "reading the files",
        "looking for what has changed",
        "working out the site",
        "planning",
        "rendering and writing",
        "keeping the record",
    ];
    assert_eq!(stages(&first.err), all, "{}", first.whole());
    assert_eq!(stages(&site.run(&["build", "-v"]).err), all[..2]);
    assert!(site.run(&["build"]).err.is_empty());
}

/// A file that someone else put where a page was stays, and so does everything while content has an error.
#[test]
fn what_is_not_ours_stays_and_what_was_good_stays() {
    let site = Site::small();
    site.write("media/gate.txt", "gate\n");
    site.write("media/bed.txt", "bed\n");
    assert_eq!(site.run(&["build"]).code, 0);
    // Two pages and a copied file go; a stranger is at one of each.
    let visit = site.read("built/visit/index.html");
    site.remove("content/pages/visit/opening.md");
    site.remove("content/journal/2026-03-14-frost.md");
    site.remove("media/gate.txt");
    site.remove("media/bed.txt");
    site.write("built/visit/opening/index.html", "mine\n");
    site.write("built/media/gate.txt", "taeg\n");
    // Touched, but the same bytes: ours.
    let frost = site.read("built/journal/frost/index.html");
    site.write("built/journal/frost/index.html", &frost);
    // While a table has an error, nothing goes.
    site.write("tables/odd.csv", "a,b\n1\n");
    let said = site.run(&["build"]);
    assert_eq!(said.code, 1, "{}", said.whole());
    assert!(said.err.contains("5 files of an earlier build stay: nothing is removed while"), "{}", said.err);
    assert!(site.path("built/journal/frost/index.html").exists() && site.path("built/media/bed.txt").exists());
    // It is said as long as it is so.
    assert!(site.run(&["build"]).err.contains("5 files of an earlier build stay"));
    site.remove("tables/odd.csv");
    let dry = site.json(&["build", "--dry-run"]);
    let gone = dry["changes"].as_array().unwrap().iter().filter(|file| file["change"] == "removed").count();
    let said = site.run(&["build"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    for path in ["visit/opening/index.html", "media/gate.txt"] {
        assert!(
            said.err.contains(&format!("{path} stays: it is not what an earlier build wrote there")),
            "{}",
            said.err
        );
    }
    assert_eq!(site.read("built/visit/opening/index.html") + &site.read("built/media/gate.txt"), "mine\ntaeg\n");
    assert!(!site.path("built/journal/frost/index.html").exists() && !site.path("built/media/bed.txt").exists());
    assert_eq!(site.read("built/visit/index.html"), visit);
    assert_eq!(gone, 3, "{dry}");
}

/// What has to be uploaded is listed: what a build wrote and removed, and what one before it wrote that did not come to its end.
#[test]
fn what_a_build_has_changed_is_listed() {
    let site = Site::small();
    let list = |arguments: &[&str]| {
        let said = site.run(&[&["build", "-q", "--changed-list", "changed.txt"], arguments].concat());
        assert_eq!((said.code, said.err.as_str()), (0, ""), "{}", said.whole());
        site.read("changed.txt").lines().map(str::to_owned).collect::<Vec<_>>()
    };
    let own = || -> Vec<String> { put_out(&site, "built").into_iter().map(|(path, _)| path).collect() };
    assert_eq!(list(&[]), own());
    assert_eq!(list(&[]), [] as [&str; 0]);
    let before = own();
    let compressed = list(&["--compressed"]);
    assert!(!compressed.is_empty() && compressed.iter().all(|path| !before.contains(path)), "{compressed:?}");
    site.remove("content/journal/2026-05-01-boats.md");
    let changed = list(&["--compressed"]);
    assert!(changed.contains(&"journal/boats/index.html".to_owned()), "{changed:?}");
    assert!(changed.is_sorted() && !site.path("built/journal/boats").exists());
    // Where a file can't be written, the build ends; what it wrote is in the list of the next one.
    site.write("themes/far/templates/fallback.html", "+{request.title} again");
    fs::remove_file(site.path("built/visit/index.html")).unwrap();
    fs::create_dir(site.path("built/visit/index.html")).unwrap();
    let said = site.run(&["build", "--changed-list", "changed.txt"]);
    assert!(said.code > 0 && said.err.contains("visit/index.html"), "{}", said.whole());
    fs::remove_dir(site.path("built/visit/index.html")).unwrap();
    assert!(list(&[]).contains(&"visit/index.html".to_owned()));
    let said = site.run(&["build", "--changed-list", "none/changed.txt"]);
    assert!(said.err.contains("none/changed.txt can't be written"), "{}", said.err);
    assert!(said.err.contains("upload all of it"), "{}", said.err);
    assert_eq!(site.run(&["build", "--changed-list", "a", "--dry-run"]).code, 2);
    let said = site.run(&["build", "--changed-list", "built/visit/changed.txt"]);
    assert_eq!(
        said.err,
        "error: built/visit/changed.txt would be published with the site\nhelp: write the list outside of the folder that is built\n"
    );
    assert!(!site.path("built/visit/changed.txt").exists());
}

/// A record of another version says which files are ours, and no more.
#[test]
fn a_record_of_another_version_keeps_no_page() {
    let site = Site::small();
    assert_eq!(site.run(&["build", "-q"]).code, 0);
    let before = put_out(&site, "built");
    let record = fs::read(site.path("built/.hausblatt-build")).unwrap();
    let version = env!("CARGO_PKG_VERSION").as_bytes();
    let at = record.windows(version.len()).position(|bytes| bytes == version).unwrap();
    let other = "9.9.9".as_bytes();
    assert_eq!(version.len(), other.len());
    fs::write(site.path("built/.hausblatt-build"), [&record[..at], other, &record[at + other.len()..]].concat())
        .unwrap();
    let said = site.run(&["build"]);
    assert!(said.out.contains("0 files written") && said.code == 0, "{}", said.whole());
    assert!(put_out(&site, "built") == before);
}

/// Parts that are as they were are not made again: here with words that are in so many entries that parts are divided.
#[test]
fn a_search_after_edits_is_that_of_a_first_build() {
    let site = Site::small();
    site.write("hausblatt.toml", format!("{}\n[search]\naddress = \"/search/\"\n", site.read("hausblatt.toml")));
    let entry = |number: usize| format!("content/journal/2026-05-02-row-{number}.md");
    let text = |number: usize, more: &str| {
        let words: Vec<String> =
            (0..250).filter(|word| !(number + word).is_multiple_of(3)).map(|word| format!("beas{word}")).collect();
        format!("---\ntitle: Row {number} of bed{}\n---\nbeas {} {more}\n", number % 7, words.join(" "))
    };
    (0..900).for_each(|number| site.write(&entry(number), text(number, "")));
    let mut steps = 0;
    let mut is_as_first = |what: &str, written: Option<&[&str]>| {
        let said = site.run(&["build", "--changed-list", "changed"]);
        assert_eq!(said.code, 0, "{what}: {}", said.whole());
        let changed = site.read("changed");
        let changed: Vec<&str> = changed.lines().filter_map(|line| line.strip_prefix("search/index/")).collect();
        assert!(written.is_none_or(|written| written == changed), "{what}: {changed:?}");
        steps += 1;
        let first = format!("first-{steps}");
        assert_eq!(site.run(&["build", "--out", &first]).code, 0, "{what}");
        let (over, first) = (site.tree("built/search"), site.tree(&format!("{first}/search")));
        let differing: Vec<&str> =
            over.iter().zip(&first).filter(|(a, b)| a != b).map(|((path, _), _)| path.as_str()).collect();
        assert!(over.len() == first.len() && differing.is_empty(), "{what}: {differing:?}");
    };
    is_as_first("the first build", None);
    let divided: serde_json::Value = serde_json::from_str(&site.read("built/search/index/w-beas.json")).unwrap();
    assert_eq!(divided.as_object().unwrap().keys().collect::<Vec<_>>(), ["all"]);
    is_as_first("nothing", Some(&[]));
    site.write(&entry(7), text(7, "bramble"));
    is_as_first("a word that is new", Some(&["w-br.json"]));
    site.write(&entry(7), text(7, "beas2 bramble"));
    is_as_first("a word that others have, too", Some(&["w-beas2.json"]));
    site.write(&entry(7), text(7, ""));
    is_as_first("both gone", Some(&["w-beas2.json", "w-br.json"]));
    site.write(&entry(8), text(8, "").replace("Row 8 of", "Beas row"));
    is_as_first("another title", Some(&["e-17.json", "t-.json", "w-bea.json", "w-beas.json"]));
    fs::remove_file(site.path("built/search/index/w-beas.json")).unwrap();
    fs::write(site.path("built/search/index/t-.json"), "{}").unwrap();
    is_as_first("a part lost, another overwritten", Some(&["t-.json", "w-beas.json"]));
    fs::remove_file(site.path("built/.hausblatt-search")).unwrap();
    site.write(&entry(9), text(9, "bramble"));
    is_as_first("no words kept", Some(&["w-br.json"]));
}
