//! Where files are written: through no link that leads elsewhere, over nothing that is someone's, never out of the site.

use std::fs;
use std::os::unix::fs::symlink;
use std::os::unix::net::UnixListener;
use std::process::Stdio;
use std::thread;
use std::time::{Duration, Instant};

use expect_test::expect;
use tempfile::TempDir;

use crate::support::{Said, Site, check};

/// Runs a command that has to end by itself, and soon.
#[track_caller]
fn soon(site: &Site, arguments: &[&str]) -> Said {
    let mut child = site.command(arguments).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    let began = Instant::now();
    while child.try_wait().unwrap().is_none() {
        if began.elapsed() > Duration::from_secs(20) {
            child.kill().unwrap();
            panic!("{arguments:?} did not end");
        }
        thread::sleep(Duration::from_millis(5));
    }
    let output = child.wait_with_output().unwrap();
    Said {
        code: output.status.code().unwrap(),
        out: String::from_utf8(output.stdout).unwrap(),
        err: String::from_utf8(output.stderr).unwrap(),
    }
}

/// A folder outside of the site, which must stay as it is.
fn outside() -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("theirs.html"), "theirs").unwrap();
    folder
}

fn names(folder: &TempDir) -> Vec<String> {
    let mut names: Vec<String> =
        fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().file_name().to_string_lossy().into_owned()).collect();
    names.sort();
    names
}

#[test]
fn records_and_locks_are_regular_files() {
    for name in [".hausblatt-build", ".hausblatt-lock"] {
        for device in ["/dev/zero", "/dev/full", "nowhere", "pipe"] {
            let site = Site::small();
            fs::create_dir(site.path("built")).unwrap();
            // A socket is waited for as little as a pipe; it can be made without a further program.
            let _pipe = (device == "pipe").then(|| UnixListener::bind(site.path(&format!("built/{name}"))).unwrap());
            if device != "pipe" {
                symlink(device, site.path(&format!("built/{name}"))).unwrap();
            }
            let said = soon(&site, &["build"]);
            assert_eq!(said.code, 1, "{name} {device}: {}", said.whole());
            assert!(said.err.contains(name) && said.err.contains("it is not a regular file"), "{}", said.whole());
            assert!(!site.path("built/index.html").exists() && !site.path("built/nowhere").exists());
        }
    }
}

#[test]
fn an_output_folder_may_be_a_link_and_nothing_below_it() {
    let (site, elsewhere) = (Site::small(), outside());
    symlink(elsewhere.path(), site.path("built")).unwrap();
    assert_eq!(site.run(&["build"]).code, 0);
    assert!(elsewhere.path().join("journal/boats/index.html").exists());
    // A folder below becomes a link by and by: neither written nor removed is anything behind it.
    let theirs = outside();
    fs::create_dir(theirs.path().join("boats")).unwrap();
    fs::write(theirs.path().join("boats/index.html"), "theirs").unwrap();
    fs::remove_dir_all(elsewhere.path().join("journal")).unwrap();
    symlink(theirs.path(), elsewhere.path().join("journal")).unwrap();
    let said = site.run(&["build"]);
    assert_eq!(said.code, 1);
    assert!(said.err.contains("a file or link is where a folder should be"), "{}", said.whole());
    assert_eq!(names(&theirs), ["boats", "theirs.html"]);
    assert_eq!(fs::read_to_string(theirs.path().join("boats/index.html")).unwrap(), "theirs");
    assert!(fs::symlink_metadata(site.path("built")).unwrap().is_symlink());
}

#[test]
fn no_output_folder_is_a_part_of_the_site() {
    let site = Site::small();
    let elsewhere = outside();
    symlink(site.path("content"), elsewhere.path().join("way")).unwrap();
    let way = elsewhere.path().join("way/built").display().to_string();
    symlink("nowhere", site.path("lost")).unwrap();
    for out in
        ["content/new", "built/../content/new", "nope/../themes/new", "tables/../themes", &way, ".", "lost/../.."]
    {
        let said = site.run(&["build", "--out", out]);
        assert_eq!(said.code, 1, "{out}: {}", said.whole());
        let holds = said.err.contains("holds the site's own files");
        assert!(holds || out.starts_with("lost"), "{out}: {}", said.whole());
    }
    for path in ["content/new", "themes/new", "content/built", "built", "nope"] {
        assert!(!site.path(path).exists(), "{path}");
    }
}

#[test]
fn a_theme_whose_root_leads_out_is_not_written_to() {
    let site = Site::small();
    let root = |root: &str| {
        site.write("themes/near/hausblatt-theme.toml", format!("[theme]\nparent = \"far\"\nroot = \"{root}\"\n"));
    };
    let parent = site.root().parent().unwrap().to_owned();
    for (at, way) in
        ["nope/../../../../escaped", "../../../escaped", "a/b/../../../../../escaped"].into_iter().enumerate()
    {
        root(way);
        for arguments in [&["start", "template", "page/visit"][..], &["override", "/visit/"]] {
            let said = site.run(arguments);
            assert_ne!(said.code, 0, "{at} {arguments:?} {}", said.whole());
        }
        assert!(!parent.join("escaped").exists() && !site.path("escaped").exists(), "{way}");
    }
}

#[test]
fn a_link_stays_a_link_and_what_it_leads_to_is_written() {
    let site = Site::small();
    site.rename("content/pages/visit.md", "content/pages/shared/visit-text.md");
    symlink("shared/visit-text.md", site.path("content/pages/visit.md")).unwrap();
    site.write("themes/far/templates/offered/wide.html", "---\nlabel: Wide\n---\nwide +{content.title}\n");
    let said = site.run(&["choose", "wide", "/visit/"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    assert!(fs::symlink_metadata(site.path("content/pages/visit.md")).unwrap().is_symlink());
    assert_eq!(site.read("content/pages/shared/visit-text.md"), "---\ntitle: Visit\ntemplate: wide\n---\nCome.\n");
}

#[test]
fn temporary_files_of_ended_processes_go_and_no_name_is_known_beforehand() {
    let site = Site::small();
    let theirs = outside();
    let target = theirs.path().join("theirs.html");
    // Names as earlier versions had them, for many processes to come.
    fs::create_dir_all(site.path("built")).unwrap();
    let mut planted = Vec::new();
    for process in 1..400 {
        for number in 0..3 {
            let name = format!("built/.hausblatt-{process}-{number}");
            symlink(&target, site.path(&name)).unwrap();
            planted.push(name);
        }
    }
    assert_eq!(site.run(&["build"]).code, 0);
    assert_eq!(fs::read_to_string(&target).unwrap(), "theirs");
    let left = fs::read_dir(site.path("built")).unwrap().filter(|entry| {
        entry.as_ref().unwrap().file_name().to_string_lossy().starts_with(".hausblatt-")
            && entry.as_ref().unwrap().file_type().unwrap().is_file()
    });
    assert_eq!(left.count(), 2, "besides the record and the lock");
}

#[test]
fn a_chart_replaces_a_chart_only() {
    let site = Site::small();
    site.write("notes.svg", "<svg/>");
    check(
        &site,
        &["chart", "--out", "notes.svg"],
        expect![[r#"
            exit 1
            ---
            error: notes.svg exists, and is not a chart
            help: choose another name, or replace it with --force
        "#]],
    );
    assert_eq!(site.read("notes.svg"), "<svg/>");
    assert_eq!(site.run(&["chart", "--out", "a.svg"]).code, 0);
    let whole = site.read("a.svg");
    assert_eq!(site.run(&["chart", "/visit/", "--out", "a.svg"]).code, 0);
    assert_ne!(site.read("a.svg"), whole);
    symlink("a.svg", site.path("b.svg")).unwrap();
    assert_eq!(site.run(&["chart", "--out", "b.svg"]).code, 0);
    assert!(fs::symlink_metadata(site.path("b.svg")).unwrap().is_symlink());
    assert_eq!(site.read("a.svg"), whole);
    assert_eq!(site.run(&["chart", "--out", "notes.svg", "--force"]).code, 0);
    assert_eq!(site.read("notes.svg"), whole);
    for name in ["content", "/dev/full", "none/a.svg"] {
        assert_eq!(soon(&site, &["chart", "--out", name, "--force"]).code, 1, "{name}");
    }
    let left = fs::read_dir(site.root()).unwrap();
    assert!(left.map(|entry| entry.unwrap().file_name()).all(|name| !name.to_string_lossy().starts_with(".haus")));
}

/// Pipes and devices where files of ours are looked for: none is waited for or read without end.
#[test]
fn pipes_and_devices_are_no_files() {
    for device in ["/dev/zero", "pipe"] {
        let site = Site::small();
        let plant = |path: &str| {
            let path = site.path(path);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            match device {
                "pipe" => drop(std::process::Command::new("mkfifo").arg(&path).status().unwrap()),
                _ => symlink(device, &path).unwrap(),
            }
        };
        plant("expected.toml");
        plant("built/.hausblatt-lock");
        plant("seeds/content/pages/about.md");
        plant("demo/hausblatt.toml");
        plant("content/journal/2026-01-01-odd.md");
        plant("media/odd.png");
        plant("themes/near/templates/entry.html");
        plant("log");
        for arguments in [
            &["expect"][..],
            &["expect", "--record"],
            &["build"],
            &["map"],
            &["check"],
            &["override", "/journal/frost/"],
            &["demo", "demo"],
        ] {
            let said = soon(&site, arguments);
            let reads_only = ["map", "check", "override"].contains(&arguments[0]);
            assert!(reads_only || said.code == 1, "{device} {arguments:?}: {}", said.whole());
        }
        let outside = Site::empty();
        fs::rename(site.path("seeds"), outside.path("seeds")).unwrap();
        assert_eq!(soon(&outside, &["start", "site", "seeds"]).code, 1);
    }
}
