//! Compressed files beside those of a build: which there are, and that they are always those of their file.

use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use hausblatt_core::build::{self, BuildError, BuildPart, ChangeKind, Options, Report, dry_run};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::files::{Depth, Files, Snapshot};
use hausblatt_core::world::World;

use crate::support::failing::{Event, Failing};
use crate::support::{asking, snapshot};

const PAGE: &str = "---\nlayout: none\n---\n<!doctype html>\n<html lang=\"en\"><title>1</title>\n+{each n in range(1, 99)}Sow in spring. +{end}+{content.body}";

fn site() -> Memory {
    let files = Memory::of([
        ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"near\"\n"),
        ("content/pages/home.md", "---\ntitle: Home\n---\nOne\n"),
        ("content/pages/visit.md", "---\ntitle: Visit\n---\nTwo\n"),
        ("themes/near/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\n"),
        ("themes/near/assets/short.css", "a { top: 0 }"),
        ("themes/near/templates/page.html", PAGE),
    ]);
    files.write("media/bed.png", "bed ".repeat(1000));
    files.write("media/own.txt", "own ".repeat(1000));
    files.write("media/own.txt.gz", "of the site");
    files.write("themes/near/assets/long.css", "a { top: 0 }\n".repeat(200));
    files
}

fn options(compressed: bool) -> Options {
    Options { out: "/built".into(), map: false, marks: false, compressed, part: BuildPart::WHOLE, clears_images: true }
}

fn built(files: &(impl Files + Clone + 'static), compressed: bool) -> Result<Report, BuildError> {
    let world = World::load(snapshot(files), asking()).unwrap();
    build::build(&world, &options(compressed), &|_, _| {})
}

/// The compressed files, by path; each holds what its file does.
#[track_caller]
fn compressed(files: &Memory) -> Vec<String> {
    let mut found = Vec::new();
    for (path, bytes) in files.all() {
        let path = path.to_str().unwrap().to_owned();
        let mut whole = Vec::new();
        let of = match path.rsplit_once('.').filter(|_| path.starts_with("/built/")) {
            Some((of, "gz")) if !path.ends_with("own.txt.gz") => {
                flate2::read::GzDecoder::new(&*bytes).read_to_end(&mut whole).unwrap();
                of
            }
            Some((of, "br")) => {
                brotli::BrotliDecompress(&mut &*bytes, &mut whole).unwrap();
                of
            }
            _ => continue,
        };
        assert_eq!(files.bytes(of).as_deref(), Some(&*whole), "{path}");
        assert!(bytes.len() < whole.len(), "{path}");
        found.push(path.trim_start_matches("/built/").to_owned());
    }
    found
}

const ALL: [&str; 7] = [
    "assets/long.css.br",
    "assets/long.css.gz",
    "home/index.html.br",
    "home/index.html.gz",
    "media/own.txt.br",
    "visit/index.html.br",
    "visit/index.html.gz",
];

#[test]
fn what_gets_smaller_is_there_compressed() {
    let files = site();
    built(&files, true).unwrap();
    assert_eq!(compressed(&files), ALL);
    assert_eq!(files.bytes("built/media/own.txt.gz").as_deref(), Some(&b"of the site"[..]));
    let again = built(&files, true).unwrap();
    assert_eq!((again.written, again.removed), (0, 0));
    // A page that changes takes its own along, and nothing else.
    files.write("content/pages/home.md", "---\ntitle: Home\n---\nOther\n");
    let report = built(&files, true).unwrap();
    assert_eq!((report.written, report.removed), (3, 0));
    assert_eq!(compressed(&files), ALL);
    // One that has an error keeps both as they were.
    files.write("content/pages/home.md", "---\ntitle: [\n---\nOther\n");
    let report = built(&files, true).unwrap();
    assert_eq!((report.removed, report.failed.len()), (0, 1));
    assert_eq!(compressed(&files), ALL);
    files.remove("content/pages/home.md");
    let report = built(&files, true).unwrap();
    assert_eq!(report.removed, 3, "{report:?}");
    assert_eq!(compressed(&files), [&ALL[..2], &ALL[4..]].concat());
    // One that was changed by hand is made again, and all of them go if nobody wants them.
    files.write("built/visit/index.html.gz", "other");
    files.write("content/pages/visit.md", "---\ntitle: Visit\n---\nThree\n");
    built(&files, true).unwrap();
    assert_eq!(compressed(&files), [&ALL[..2], &ALL[4..]].concat());
    let report = built(&files, false).unwrap();
    assert_eq!((report.removed, compressed(&files).len()), (5, 0));
}

#[test]
fn a_dry_run_knows_of_them() {
    let files = site();
    let would = |files: &Memory| {
        let world = World::load(snapshot(files), asking()).unwrap();
        let report = dry_run(&world, &options(true), true, &|_, _| {}).unwrap();
        report.would.iter().map(|would| (would.path.clone(), would.becomes)).collect::<Vec<_>>()
    };
    built(&files, false).unwrap();
    assert_eq!(would(&files), ALL.map(|path| (path.to_owned(), ChangeKind::New)));
    built(&files, true).unwrap();
    assert_eq!(would(&files), []);
    files.write("content/pages/home.md", "---\ntitle: Home\n---\nOther\n");
    let changed = ["home/index.html", "home/index.html.br", "home/index.html.gz"];
    assert_eq!(would(&files), changed.map(|path| (path.to_owned(), ChangeKind::Changed)));
    files.remove("content/pages/home.md");
    let mut gone = changed.map(|path| (path.to_owned(), ChangeKind::Removed)).to_vec();
    gone.push(("sitemap.xml".to_owned(), ChangeKind::Changed));
    assert_eq!(would(&files), gone);
}

#[test]
fn what_others_wrote_is_not_overwritten() {
    let files = site();
    files.write("built/home/index.html.gz", "of somebody");
    let Err(BuildError::Folder(why, _)) = built(&files, true) else { panic!("it was built") };
    assert_eq!(why, "/built/home/index.html.gz is in the way: no build has written it");
    assert_eq!(files.bytes("built/home/index.html.gz").as_deref(), Some(&b"of somebody"[..]));
}

#[test]
fn an_ended_build_is_completed() {
    let files = site();
    let counted = Failing::never(&files);
    built(&counted, true).unwrap();
    let expected = files.all();
    for call in (1..=counted.calls()).step_by(3) {
        let files = site();
        let ended = Arc::new(Failing::at(&files, call, Event::Ends));
        if let Ok(snapshot) = Snapshot::load(ended, Path::new("/"), Depth::Whole)
            && let Ok(world) = World::load(snapshot, asking())
        {
            let _ = build::build(&world, &options(true), &|_, _| {});
        }
        built(&files, true).unwrap();
        assert_eq!(compressed(&files), ALL, "{call}");
        let paths = |files: Vec<(PathBuf, _)>| files.into_iter().map(|(path, _)| path).collect::<Vec<_>>();
        assert_eq!(paths(files.all()), paths(expected.clone()), "{call}");
    }
}
