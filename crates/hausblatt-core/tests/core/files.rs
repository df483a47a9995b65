//! Sites through the trait of files: in memory alone, with calls that fail, and with files that change between two calls.

use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, Instant, SystemTime};

use hausblatt_core::build::{self, BuildError, BuildPart, Options, Report};
use hausblatt_core::check::{self, Scope};
use hausblatt_core::files::disk::Disk;
use hausblatt_core::files::edit::{Write, write_all};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::files::{Depth, FileKind, Files, Links, Snapshot};
use hausblatt_core::model::request::Routed;
use hausblatt_core::text::addresses_in_text::without_versions;
use hausblatt_core::world::World;
use proptest::prelude::*;

use crate::support::failing::{Event, Failing};
use crate::support::{asking, checked, demo, snapshot};

/// A drawing in bytes that are no text: eight of a signature, and a header that says 2 by 3 pixels.
const DRAWING: &[u8] = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\0\x02\0\0\0\x03\x08\x02\0\0\0";

fn options() -> Options {
    Options {
        out: "/built".into(),
        map: true,
        marks: false,
        compressed: false,
        part: BuildPart::WHOLE,
        clears_images: true,
    }
}

fn built(files: &(impl Files + Clone + 'static)) -> Result<Report, BuildError> {
    let world = World::load(snapshot(files), asking()).unwrap();
    build::build(&world, &options(), &|_, _| {})
}

fn text(files: &Memory, path: &str) -> String {
    String::from_utf8(files.bytes(path).unwrap_or_default().to_vec()).unwrap()
}

#[test]
fn a_site_in_memory_is_resolved_checked_and_built() {
    let files = Memory::of([
        ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"plain\"\n[front]\npage = \"home\"\n"),
        ("themes/plain/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\n"),
        (
            "themes/plain/templates/page.html",
            "---\nlayout: none\n---\n<!doctype html>\n<html lang=\"en\"><title>+{content.title}</title>\
             +{let drawing = image(\"/media/gate.png\")}<img src=\"+{drawing}\" width=\"+{drawing.width}\" height=\"+{drawing.height}\" alt=\"\">",
        ),
        ("content/pages/home.md", "---\ntitle: Home\n---\n"),
    ]);
    files.write("media/gate.png", DRAWING);
    let world = World::load(snapshot(&files), asking()).unwrap();
    let Routed::Request(request) = world.route("/") else { panic!("the front page redirects") };
    let template = world.resolve(request).winner.unwrap();
    assert_eq!(&*world.lineage.file(template).name, "templates/page.html");
    let said = check::run(&world, &Scope::Whole, &|_, _| {});
    let codes: Vec<&str> = said.iter().map(|finding| finding.diagnostic.code).collect();
    // Of the drawing there is no more than its beginning.
    let expected = ["no-error-page", "no-fallback", "bad-image", "layout-without-robots", "layout-without-styles"];
    assert_eq!(codes, expected);
    let report = built(&files).unwrap();
    assert_eq!((report.written, report.failed.len()), (7, 0), "{report:?}");
    let page = "<!doctype html>\n<html lang=\"en\"><title>Home</title><img src=\"/media/gate.png\" width=\"2\" height=\"3\" alt=\"\">";
    assert_eq!(without_versions(&text(&files, "built/index.html")), page);
    assert_eq!(files.bytes("built/media/gate.png").as_deref(), Some(DRAWING));
    // Nothing has changed; then one page does.
    assert_eq!(built(&files).unwrap().written, 0);
    files.write("content/pages/home.md", "---\ntitle: At home\n---\n");
    let report = built(&files).unwrap();
    assert_eq!((report.written, report.unchanged), (1, 6), "{report:?}");
    assert!(text(&files, "built/index.html").contains("At home"));
    // And nothing else was written: no temporary file is left.
    let besides = files.all().into_iter().filter(|(path, _)| path.to_string_lossy().contains("/.hausblatt"));
    let besides: Vec<_> = besides.map(|(path, _)| path).collect();
    assert_eq!(besides, [Path::new("/built/.hausblatt-build"), Path::new("/built/.hausblatt-lock")]);
}

#[test]
fn the_demo_is_as_clean_in_memory_as_on_disk() {
    let files = demo();
    assert_eq!(checked(&snapshot(&files)), []);
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let on_disk = Snapshot::load(Arc::new(Disk::new(SystemTime::now)), &root, Depth::Whole).unwrap();
    let texts = |snapshot: &Snapshot| -> Vec<_> {
        snapshot.files().iter().map(|node| (node.path.clone(), node.bytes().unwrap())).collect()
    };
    assert_eq!(texts(&on_disk), texts(&snapshot(&files)));
}

/// Whatever call fails while a site is built: the next build makes it whole.
#[test]
fn a_build_whose_call_fails_is_completed_by_the_next() {
    let small = || {
        Memory::of([
            ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"plain\"\n"),
            ("themes/plain/hausblatt-theme.toml", ""),
            ("themes/plain/templates/fallback.html", "+{request.title}"),
            ("themes/plain/layouts/document.html", "+{slot}"),
            ("themes/plain/assets/plain.css", "p {}"),
            ("content/pages/visit.md", "Come in."),
        ])
    };
    let whole = small();
    built(&whole).unwrap();
    let outputs = |files: &Memory| -> Vec<_> {
        let own = |path: &Path| path.starts_with("/built") && !path.ends_with(".hausblatt-build");
        files.all().into_iter().filter(|(path, _)| own(path)).collect()
    };
    let counting = Failing::never(&small());
    built(&counting).unwrap();
    let mut failures = 0;
    for call in 1..=counting.calls() {
        let files = small();
        let world = World::load(snapshot(&files), asking()).unwrap();
        let failing = Failing::at(&files, call, Event::Fails(io::ErrorKind::Other));
        let snapshot = Snapshot::load(Arc::new(failing.clone()), Path::new("/"), Depth::Whole);
        if let Ok(Ok(world)) = snapshot.map(|snapshot| World::load(snapshot, world.asking.clone())) {
            failures += usize::from(build::build(&world, &options(), &|_, _| {}).is_err());
        }
        built(&files).unwrap_or_else(|error| panic!("call {call}, {:?}: {error:?}", failing.interfered()));
        assert_eq!(outputs(&files), outputs(&whole), "call {call}: {:?}", failing.interfered());
    }
    assert!(failures > 10, "{failures} of {}", counting.calls());
}

/// Where there are no means left to look at files or to read them, nothing is known of them: none is left out of the site.
#[test]
fn files_that_could_not_be_read_for_want_of_means_are_not_left_out() {
    let paths = ["/hausblatt.toml", "/themes/plain/templates/page.html", "/content/pages/visit.md", "/tables/beds.csv"];
    for depth in [Depth::Heads, Depth::Fronts, Depth::Whole] {
        let refreshed = |call: Option<usize>| {
            let files = Memory::of(paths.map(|path| (path, "one\n")));
            let failing =
                call.map_or_else(|| Failing::never(&files), |call| Failing::at(&files, call, Event::Exhausted));
            let snapshot = Snapshot::load(Arc::new(failing.clone()), Path::new("/"), depth).map(Snapshot::leniently);
            let loaded = failing.calls();
            paths.iter().for_each(|path| files.write(path, "another\n"));
            // A folder that has come is listed, with all others.
            files.write("/media/gate.svg", "<svg/>");
            (snapshot.and_then(|snapshot| snapshot.refreshed()), loaded, failing)
        };
        let (whole, loaded, counting) = refreshed(None);
        let count = whole.unwrap().files().len();
        let mut failures = 0;
        for call in loaded + 1..=counting.calls() {
            match refreshed(Some(call)) {
                (Ok(snapshot), _, failing) => {
                    assert_eq!(snapshot.left_out(), [], "{:?}", failing.interfered());
                    assert_eq!(snapshot.files().len(), count, "{:?}", failing.interfered());
                }
                (Err(error), ..) => {
                    assert!(error.to_string().contains("Too many open files"), "{error}");
                    failures += 1;
                }
            }
        }
        assert!(failures >= paths.len(), "{failures} at {depth:?}");
    }
}

/// A short file is opened, looked at and read in one, a longer one is not: what is known of it is the same, whatever is in it.
#[test]
fn a_file_is_known_the_same_however_long_it_is() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::create_dir_all(folder.path().join("content/pages")).unwrap();
    let path = "content/pages/long.md";
    let disk = folder.path().join(path);
    let head = b"---\ntitle: Peas & beans\n---\n".to_vec();
    let bodies: [(&[u8], bool); 4] =
        [(b"a", true), ("ä".as_bytes(), true), (b"\xff", false), (b"<<<<<<< a\nx\n=======\ny\n>>>>>>> b\n", false)];
    for length in [0, 1, 100, 8100, 8191 - head.len(), 8192 - head.len(), 8193 - head.len(), 30_000] {
        for (of, is_good) in bodies {
            let mut bytes = head.clone();
            bytes.extend(of.iter().cycle().take(length / of.len() * of.len()));
            std::fs::write(&disk, &bytes).unwrap();
            let at = |depth| Snapshot::load(Arc::new(Disk::new(SystemTime::now)), folder.path(), depth).unwrap();
            let (short, whole) = (at(Depth::Fronts), at(Depth::Whole));
            let (known, all) = (short.file(path).unwrap(), whole.file(path).unwrap());
            let is_whole = known.text() == all.text();
            assert_eq!(known.stamp, all.stamp);
            assert_eq!(known.digest(), all.digest(), "{length}");
            assert_eq!(known.unreadable(), all.unreadable());
            assert_eq!(known.front().entries.len(), all.front().entries.len());
            assert_eq!(known.whole_text().ok(), all.whole_text().ok());
            let is_good = is_good || length < of.len();
            assert_eq!(known.text().is_some_and(|text| text.len() == head.len()), is_good, "{length} of {of:?}");
            assert_eq!(is_whole, !is_good || length < of.len(), "{length} of {of:?}");
        }
    }
}

/// What is written under a name outside the site is not reported, and what another machine writes is not, either.
#[test]
fn whether_all_changes_are_reported_is_known_when_files_were_looked_at_again() {
    let folder = tempfile::tempdir().unwrap();
    let (site, page) = (folder.path().join("site"), "content/pages/peas.md");
    std::fs::create_dir_all(site.join("content/pages")).unwrap();
    std::fs::write(site.join(page), "---\n---\n").unwrap();
    // Folders that have just changed are not relied on.
    let disk = Disk::new(|| SystemTime::now() + Duration::from_secs(60));
    let here = disk.reports_changes(folder.path());
    let first = Snapshot::load(Arc::new(disk), &site, Depth::Whole).unwrap();
    assert!(!first.is_reported());
    let alone = first.refreshed().unwrap();
    assert_eq!(alone.is_reported(), here);
    let other = folder.path().join("other.md");
    std::fs::hard_link(site.join(page), &other).unwrap();
    assert!(!alone.with_changed(&[site.join(page)]).unwrap().is_reported());
    let shared = alone.refreshed().unwrap();
    assert!(!shared.is_reported());
    std::fs::remove_file(&other).unwrap();
    assert!(!shared.with_changed(&[site.join(page)]).unwrap().is_reported(), "others may have two names");
    let again = shared.refreshed().unwrap();
    assert_eq!(again.is_reported(), here);
    // How many names a new file has is not known yet.
    std::fs::write(site.join("content/pages/beans.md"), "---\n---\n").unwrap();
    let more = again.refreshed().unwrap();
    assert!(!more.is_reported());
    assert_eq!(more.refreshed().unwrap().is_reported(), here);
    // What is beside the parts of the site is none of it.
    std::fs::write(site.join("notes.txt"), "").unwrap();
    let more = more.refreshed().unwrap();
    assert_eq!(more.is_reported(), here);
    assert!(more.with_changed(&[site.join("media")]).is_some(), "nothing is there yet");
    // A part that comes is read, one that is a link from now on is followed, and one that goes is gone.
    std::fs::create_dir(site.join("media")).unwrap();
    std::fs::write(site.join("media/bean.txt"), "").unwrap();
    assert!(more.with_changed(&[site.join("media")]).is_none());
    let media = more.refreshed().unwrap();
    assert!(media.file("media/bean.txt").is_some() && media.file("notes.txt").is_none());
    std::fs::rename(site.join("media"), site.join("pictures")).unwrap();
    assert!(media.refreshed().unwrap().file("media/bean.txt").is_none());
    std::os::unix::fs::symlink("pictures", site.join("media")).unwrap();
    let linked = media.refreshed().unwrap();
    assert!(linked.has_links() && linked.file("media/bean.txt").is_some() && !linked.is_reported());
    std::fs::remove_file(site.join("media")).unwrap();
    std::fs::write(site.join("media"), "").unwrap();
    let paths = |snapshot: &Snapshot| snapshot.files().iter().map(|node| node.path.to_string()).collect::<Vec<_>>();
    for known in [&media, &linked] {
        let now = known.refreshed().unwrap();
        assert_eq!(paths(&now), paths(&Snapshot::load(Arc::new(disk), &site, Depth::Whole).unwrap()));
    }
    assert!(!Snapshot::in_memory([(page, "")]).refreshed().unwrap().is_reported());
    assert!(!disk.reports_changes(Path::new("/proc")) && !disk.reports_changes(&folder.path().join("gone")));
}

fn contents(files: &Memory) -> Vec<(PathBuf, Vec<u8>)> {
    files.all().into_iter().map(|(path, bytes)| (path, bytes.to_vec())).collect()
}

/// Whatever call fails while files are edited: all are as they were, or all as they should be.
#[test]
fn an_edit_whose_call_fails_changes_all_files_or_none() {
    let before = || Memory::of([("/a/old.txt", "old"), ("/a/gone.txt", "gone"), ("/a/stays.txt", "stays")]);
    let writes = [
        Write::instead_of("a/old.txt", "old", "new"),
        Write::new("b/c/fresh.txt", "fresh"),
        Write::removal("a/gone.txt", "gone"),
        Write::new("a/last.txt", "last"),
    ];
    let counting = Failing::never(&before());
    write_all(&counting, Path::new("/"), &writes).unwrap();
    let after = Memory::of([("/a/last.txt", "last"), ("/a/old.txt", "new"), ("/a/stays.txt", "stays")]);
    after.write("/b/c/fresh.txt", "fresh");
    for call in 1..=counting.calls() {
        let files = before();
        let failing = Failing::at(&files, call, Event::Fails(io::ErrorKind::PermissionDenied));
        let done = write_all(&failing, Path::new("/"), &writes);
        let expected = if done.is_ok() { &after } else { &before() };
        assert_eq!(contents(&files), contents(expected), "call {call}: {:?}, {done:?}", failing.interfered());
    }
}

/// New files whose writing is killed at any call: each is whole or not there, and the same run again writes the rest.
#[test]
fn new_files_whose_writing_is_killed_are_completed_by_the_next_run() {
    let writes = [Write::new("a/one.txt", "1"), Write::new("a/b/two.txt", "2"), Write::new("three.txt", "3")];
    let counting = Failing::never(&Memory::default());
    write_all(&counting, Path::new("/"), &writes).unwrap();
    let mut partly = 0;
    for call in 1..=counting.calls() {
        let files = Memory::default();
        let killed = Failing::at(&files, call, Event::Ends);
        let _ = write_all(&killed, Path::new("/"), &writes);
        let left: Vec<_> = contents(&files).into_iter().filter(|(path, _)| path.extension().is_some()).collect();
        for (path, bytes) in &left {
            let write = writes.iter().find(|write| path.ends_with(&write.path)).unwrap();
            assert_eq!(write.bytes.as_ref(), Some(bytes), "call {call}: {path:?}");
        }
        partly += usize::from(!left.is_empty() && left.len() < writes.len());
        write_all(&files, Path::new("/"), &writes).unwrap();
        for write in &writes {
            let bytes = files.read(Path::new("/").join(&write.path).as_path(), 1).unwrap();
            assert_eq!(Some(bytes), write.bytes, "call {call}: {}", write.path);
        }
    }
    assert!(partly > 1, "{partly}");
    let other = Memory::of([("/a/b/two.txt", "mine")]);
    let (path, error) = write_all(&other, Path::new("/"), &writes).unwrap_err();
    assert_eq!((path.as_str(), error.kind()), ("a/b/two.txt", io::ErrorKind::AlreadyExists));
    assert_eq!(contents(&other), [(PathBuf::from("/a/b/two.txt"), b"mine".to_vec())]);
}

#[test]
fn a_file_that_changes_between_two_calls_is_not_overwritten() {
    let write = [Write::instead_of("a.txt", "old", "mine")];
    let counting = Failing::never(&Memory::of([("a.txt", "old")]));
    write_all(&counting, Path::new("/"), &write).unwrap();
    let mut refused = 0;
    for call in 1..=counting.calls() {
        let files = Memory::of([("a.txt", "old")]);
        let theirs = Arc::new(|files: &Memory| files.write("a.txt", "theirs"));
        let failing = Failing::at(&files, call, Event::After(theirs));
        let done = write_all(&failing, Path::new("/"), &write);
        refused += usize::from(done.is_err());
        assert_eq!(text(&files, "a.txt") == "mine", done.is_ok(), "call {call}");
    }
    assert!(refused > 2, "{refused}");
}

#[test]
fn a_slow_call_is_waited_for() {
    let files = Failing::at(&demo(), 20, Event::Waits(Duration::from_millis(30)));
    let start = Instant::now();
    assert_eq!(checked(&snapshot(&files)), []);
    assert!(start.elapsed() >= Duration::from_millis(30) && files.interfered().len() == 1);
}

/// Outputs are made in a row and then written, large ones sooner: all of them come to their places, before they are told of.
#[test]
fn what_a_build_tells_of_is_written() {
    let files = Memory::of([
        ("hausblatt.toml", "[site]\ntitle = \"S\"\ntheme = \"t\"\n"),
        ("themes/t/hausblatt-theme.toml", ""),
        ("themes/t/templates/fallback.html", "---\nlayout: none\n---\n<title>1</title>+{content.body or \"\"}"),
    ]);
    let body = |number: usize| format!("Row {number} {}", "of beans ".repeat(if number % 50 < 9 { 20_000 } else { 1 }));
    for number in 0..300 {
        files.write(format!("content/pages/row-{number:03}.md"), body(number));
    }
    let world = World::load(snapshot(&files), asking()).unwrap();
    // What begins with a dot is not published.
    let is_output = |path: &Path| path.starts_with("/built") && !path.to_string_lossy().contains("/.");
    let written = || files.all().iter().filter(|(path, _)| is_output(path)).count();
    let told = std::sync::Mutex::new(Vec::new());
    let report = build::build(&world, &options(), &|done, all| told.lock().unwrap().push((done, all, written())));
    let report = report.unwrap();
    let mut told = told.into_inner().unwrap();
    told.sort_unstable();
    let all = told.len();
    assert!(report.diagnostics.is_empty() && all == report.written && all > 300, "{all}: {report:?}");
    let late: Vec<_> = told.iter().filter(|(done, of, written)| of != &all || written < done).collect();
    assert!(late.is_empty() && told.iter().map(|(done, ..)| *done).eq(1..=all), "{late:?}");
    for number in 0..300 {
        let page = text(&files, &format!("/built/row-{number:03}/index.html"));
        assert_eq!(page, format!("<title>1</title><p>{}</p>\n", body(number).trim_end()), "{number}");
    }
}

/// What is done to files on disk and in memory alike.
#[derive(Clone, Debug)]
enum Operation {
    Create(String, String),
    Copy(String, String),
    Rename(String, String),
    Replace(String, String),
    RenameToNew(String, String),
    CreateFolder(String),
    RemoveFile(String),
    RemoveFolder(String),
}

fn operations() -> impl Strategy<Value = Vec<Operation>> {
    let path = || "[ab](/[ab]){0,2}".boxed();
    let one = prop_oneof![
        3 => (path(), "[xyz]{0,3}").prop_map(|(path, text)| Operation::Create(path, text)),
        1 => (path(), path()).prop_map(|(from, to)| Operation::Copy(from, to)),
        2 => (path(), path()).prop_map(|(from, to)| Operation::Rename(from, to)),
        1 => (path(), path()).prop_map(|(from, to)| Operation::RenameToNew(from, to)),
        2 => (path(), "[xyz]{0,3}").prop_map(|(path, text)| Operation::Replace(path, text)),
        3 => path().prop_map(Operation::CreateFolder),
        1 => path().prop_map(Operation::RemoveFile),
        1 => path().prop_map(Operation::RemoveFolder),
    ];
    proptest::collection::vec(one, 1..30)
}

fn carry_out(files: &dyn Files, root: &Path, operation: &Operation) -> io::Result<()> {
    match operation {
        Operation::Create(path, text) => files.create(&root.join(path), text.as_bytes(), None),
        Operation::Copy(from, to) => files.copy(&root.join(from), &root.join(to)),
        Operation::Rename(from, to) => files.rename(&root.join(from), &root.join(to)),
        Operation::RenameToNew(from, to) => files.rename_to_new(&root.join(from), &root.join(to)),
        Operation::Replace(path, text) => {
            let target = root.join(path);
            let look = files.replace(&target, &target.with_file_name("c"), text.as_bytes())?;
            assert_eq!(look.stamp, files.look(&target, Links::Keep)?.stamp);
            Ok(())
        }
        Operation::CreateFolder(path) => files.create_folder(&root.join(path)),
        Operation::RemoveFile(path) => files.remove_file(&root.join(path)),
        Operation::RemoveFolder(path) => files.remove_folder(&root.join(path)),
    }
}

/// All that is below a folder: each path with the bytes of a file, or none of a folder.
fn everything(files: &dyn Files, root: &Path, below: &Path) -> Vec<(String, Option<Vec<u8>>)> {
    let mut found = Vec::new();
    let mut entries = files.list(&root.join(below)).unwrap();
    entries.sort_by(|a, b| a.name.cmp(&b.name));
    for entry in entries {
        let path = below.join(&entry.name);
        let look = files.look(&root.join(&path), Links::Follow).unwrap();
        assert_eq!(look.kind, entry.kind);
        let bytes = (entry.kind == FileKind::File).then(|| files.read(&root.join(&path), look.stamp.length).unwrap());
        assert!(bytes.as_ref().is_none_or(|bytes| bytes.len() as u64 == look.stamp.length));
        found.push((path.display().to_string(), bytes));
        if entry.kind == FileKind::Folder {
            found.extend(everything(files, root, &path));
        }
    }
    found
}

proptest! {
    /// A file system in memory does what the machine's own does, and fails where that fails.
    #[test]
    fn memory_behaves_as_the_disk_does(operations in operations()) {
        let folder = tempfile::tempdir().unwrap();
        let (disk, memory) = (Disk::new(SystemTime::now), Memory::default());
        for operation in &operations {
            // A folder has no hard links: there the two may differ.
            if let Operation::RenameToNew(from, _) | Operation::Copy(from, _) = operation
                && memory.look(Path::new(from), Links::Keep).is_ok_and(|look| look.kind == FileKind::Folder)
            {
                continue;
            }
            let on_disk = carry_out(&disk, folder.path(), operation);
            let in_memory = carry_out(&memory, Path::new("/"), operation);
            prop_assert_eq!(on_disk.is_ok(), in_memory.is_ok(), "{:?}: {:?}, {:?}", operation, on_disk, in_memory);
            let both = [everything(&disk, folder.path(), Path::new("")), everything(&memory, Path::new("/"), Path::new(""))];
            prop_assert_eq!(&both[0], &both[1], "{:?}", operation);
        }
    }
}

/// A look or a listing that fails is never "nothing there": the site is read whole, with files that can't be read, or
/// not at all. The same when it is read again.
#[test]
fn a_call_that_fails_loses_no_file() {
    let files = Memory::of([
        ("/hausblatt.toml", "[site]\ntitle = \"S\"\ntheme = \"t\"\n"),
        ("/content/pages/a.md", "---\ntitle: A\n---\n"),
        ("/content/pages/b/c.md", "---\ntitle: C\n---\n"),
        ("/themes/t/hausblatt-theme.toml", ""),
        ("/themes/t/templates/fallback.html", "x\n"),
        ("/media/d.txt", "d"),
    ]);
    let load = |files: &Failing| Snapshot::load(Arc::new(files.clone()), Path::new("/"), Depth::Whole);
    let paths = |snapshot: &Snapshot| snapshot.files().iter().map(|node| node.path.to_string()).collect::<Vec<_>>();
    let counting = Failing::never(&files);
    let first = load(&counting).unwrap();
    let (all, calls) = (paths(&first), counting.calls());
    first.refreshed().unwrap();
    let again = counting.calls();
    assert!(all.len() == 6 && again > calls, "{all:?}");
    let mut told = 0;
    for call in 1..=again {
        let failing = Failing::at(&files, call, Event::Fails(io::ErrorKind::PermissionDenied));
        match load(&failing) {
            Err(error) => {
                told += 1;
                assert!(call == 1 || call == 2 || error.to_string().contains("can't be read"), "{call}: {error}");
            }
            Ok(read) => {
                assert_eq!(paths(&read), all, "call {call}: {:?}", failing.interfered());
                // A quick look that fails gives way to a whole one.
                let again = read.refreshed();
                assert!(again.is_err() || paths(&again.unwrap()) == all, "call {call}: {:?}", failing.interfered());
            }
        }
    }
    assert!(told > 10, "{told} of {calls}");
}
