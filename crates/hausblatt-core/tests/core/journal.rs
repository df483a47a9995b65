//! The journal of changes: what is taken back, and that nothing of a change is left half done, wherever it is ended.

use std::io;
use std::path::{Path, PathBuf};

use hausblatt_core::files::Files;
use hausblatt_core::files::edit::Write;
use hausblatt_core::files::journal::{ChangeState, JOURNAL, Journal, KEPT_CHANGES, KeptChange, Recovered};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::jiff::Timestamp;

use crate::support::failing::{Event, Failing};

fn site() -> Memory {
    let files = Memory::of([("hausblatt.toml", "[site]"), ("themes/near/a.html", "a"), ("content/b.md", "b")]);
    files.write("media/c.bin", b"\xff\0");
    files.write("themes/near/same.html", "same");
    files
}

/// New, changed and removed files, text and other bytes, in folders that are there and in new ones.
fn writes() -> Vec<Write> {
    vec![
        Write::new("themes/near/deep/er/new.html", "new"),
        Write::instead_of("themes/near/a.html", "a", "other"),
        Write::removal("content/b.md", "b"),
        Write::instead_of("media/c.bin", b"\xff\0", b"\xfe"),
        // It is there already, as after a run that was ended.
        Write::new("themes/near/same.html", "same"),
        Write::new("themes/near/deep/two.html", "2"),
    ]
}

fn journal(files: &dyn Files) -> Journal<'_> {
    Journal::at(files, Path::new("/")).unwrap()
}

fn made() -> Timestamp {
    "2026-11-29T05:00:00Z".parse().unwrap()
}

/// All files, and the folders of the theme, without the journal and what an ended process leaves under a name of its own.
fn contents(files: &Memory) -> Vec<(PathBuf, Vec<u8>)> {
    let is_own = |path: &Path| path.to_string_lossy().contains("/.hausblatt-");
    let all = files.all().into_iter().filter(|(path, _)| !is_own(path));
    let mut all: Vec<(PathBuf, Vec<u8>)> = all.map(|(path, bytes)| (path, bytes.to_vec())).collect();
    for folder in ["/themes/near/deep", "/themes/near/deep/er"] {
        let entries = files.list(Path::new(folder)).into_iter().flatten();
        let left = entries.filter(|entry| entry.name.to_string_lossy().starts_with(".hausblatt-")).count();
        if files.list(Path::new(folder)).is_ok() && left == 0 {
            all.push((folder.into(), Vec::new()));
        }
    }
    all
}

fn last(files: &Memory) -> KeptChange {
    journal(files).changes().unwrap().remove(0)
}

#[test]
fn a_change_is_taken_back_with_every_byte_and_folder() {
    let files = site();
    let before = contents(&files);
    journal(&files).make("hausblatt first", made(), &writes()).unwrap();
    let after = contents(&files);
    assert_ne!(after, before);
    let change = last(&files);
    assert_eq!((change.number, change.state, change.made), (1, ChangeState::Made, made()));
    assert_eq!(change.folders, ["themes/near/deep", "themes/near/deep/er"]);
    assert_eq!(journal(&files).place(&change), ".hausblatt-undo/000001.json");
    journal(&files).make("hausblatt second", made(), &[Write::new("d.txt", "d")]).unwrap();
    let commands: Vec<String> = journal(&files).changes().unwrap().into_iter().map(|change| change.command).collect();
    assert_eq!(commands, ["hausblatt second", "hausblatt first"]);
    journal(&files).take_back(&last(&files)).unwrap();
    assert_eq!(contents(&files), after);
    journal(&files).take_back(&last(&files)).unwrap();
    assert_eq!(contents(&files), before);
    assert!(journal(&files).changes().unwrap().is_empty());
    // Nothing is kept of nothing.
    journal(&files).make("hausblatt third", made(), &[]).unwrap();
    assert!(journal(&files).changes().unwrap().is_empty());
}

#[test]
fn what_changed_since_is_not_taken_back() {
    let files = site();
    journal(&files).make("hausblatt first", made(), &writes()).unwrap();
    files.write("media/c.bin", "theirs");
    files.write("content/b.md", "theirs");
    let change = last(&files);
    assert_eq!(journal(&files).changed_since(&change).unwrap(), ["content/b.md", "media/c.bin"]);
    let before = contents(&files);
    let refused = journal(&files).take_back(&change).unwrap_err();
    assert_eq!(refused.path, "media/c.bin");
    assert_eq!(contents(&files), before);
    assert_eq!(last(&files).state, ChangeState::Made);
}

#[test]
fn a_change_that_can_not_be_made_is_not_kept() {
    let files = site();
    let mut writes = writes();
    writes.push(Write::new("hausblatt.toml", "[other]"));
    let before = contents(&files);
    let refused = journal(&files).make("hausblatt first", made(), &writes).unwrap_err();
    assert_eq!(refused.path, "hausblatt.toml");
    assert_eq!(contents(&files), before);
    assert!(journal(&files).changes().unwrap().is_empty());
}

/// What `act` does is ended at each of its calls: what is left is made whole, and is all of it or nothing.
fn ended_at_each_call(begin: impl Fn() -> Memory, act: impl Fn(&dyn Files), expected: [&[(PathBuf, Vec<u8>)]; 2]) {
    let counting = Failing::never(&begin());
    act(&counting);
    let mut seen = [0; 2];
    let mut partly = 0;
    for call in 1..=counting.calls() {
        let files = begin();
        act(&Failing::at(&files, call, Event::Ends));
        partly += usize::from(!expected.contains(&contents(&files).as_slice()));
        let interrupted = journal(&files).interrupted().unwrap().len();
        // The first attempt to make it whole is ended, too, sooner or later.
        let failing = Failing::at(&files, 2 + call % 40, Event::Ends);
        let _ = journal(&failing).recover();
        journal(&files).recover().unwrap();
        let left = contents(&files);
        let which = expected.iter().position(|expected| *expected == left.as_slice());
        let which = which.unwrap_or_else(|| panic!("call {call}: {interrupted} {left:?}"));
        seen[which] += 1;
        assert!(journal(&files).interrupted().unwrap().is_empty(), "call {call}");
        let changes = journal(&files).changes().unwrap();
        assert_eq!(changes.len(), which, "call {call}: {changes:?}");
        if let Some(change) = changes.first() {
            journal(&files).take_back(change).unwrap();
            assert_eq!(contents(&files), expected[0], "call {call}");
        }
    }
    assert!(seen[0] > 2 && seen[1] > 0 && partly > 5, "{seen:?} {partly}");
}

#[test]
fn a_change_that_is_ended_leaves_no_half_of_it() {
    let before = contents(&site());
    let files = site();
    journal(&files).make("hausblatt first", made(), &writes()).unwrap();
    let after = contents(&files);
    let make = |files: &dyn Files| {
        if let Ok(journal) = Journal::at(files, Path::new("/")) {
            let _ = journal.make("hausblatt first", made(), &writes());
        }
    };
    ended_at_each_call(site, make, [&before, &after]);
    let changed = || {
        let files = site();
        journal(&files).make("hausblatt first", made(), &writes()).unwrap();
        files
    };
    let take_back = |files: &dyn Files| {
        if let Ok(journal) = Journal::at(files, Path::new("/"))
            && let Ok(changes) = journal.changes()
            && let Some(change) = changes.first()
        {
            let _ = journal.take_back(change);
        }
    };
    ended_at_each_call(changed, take_back, [&before, &after]);
}

#[test]
fn what_was_interrupted_and_changed_since_is_left() {
    let files = site();
    journal(&files).make("hausblatt first", made(), &writes()).unwrap();
    let name = Path::new("/").join(JOURNAL).join("000001.json");
    let running = Path::new("/").join(JOURNAL).join(format!("000001.running-{}", std::process::id()));
    files.rename(&name, &running).unwrap();
    files.write("themes/near/a.html", "theirs");
    let before = contents(&files);
    let recovered = journal(&files).recover().unwrap();
    assert_eq!(recovered.len(), 1);
    assert_eq!(recovered[0].1, Recovered::Left);
    assert_eq!(contents(&files), before);
    assert_eq!(last(&files).state, ChangeState::Left);
    assert!(journal(&files).recover().unwrap().is_empty());
}

#[test]
fn old_changes_are_forgotten_and_damaged_ones_passed_over() {
    let files = site();
    for number in 0..KEPT_CHANGES + 3 {
        let write = Write::new(format!("{number}.txt"), "1");
        journal(&files).make(&format!("hausblatt {number}"), made(), &[write]).unwrap();
    }
    let all = journal(&files).changes().unwrap();
    assert_eq!((all.len(), all[0].number, all[49].number), (KEPT_CHANGES, 53, 4));
    for (name, text) in [
        ("000060.json", "{"),
        ("000061.json", "{\"command\": 1}"),
        (
            "000062.json",
            "{\"command\":\"a\",\"made\":\"2026-11-29T05:00:00Z\",\"files\":[{\"path\":\"a\",\"before\":{\"base64\":\"?\"},\"after\":null}]}",
        ),
        ("x.json", ""),
        ("000063.running-x", ""),
        ("notes.txt", ""),
    ] {
        files.write(Path::new(JOURNAL).join(name), text);
    }
    assert_eq!(journal(&files).changes().unwrap().len(), KEPT_CHANGES);
    let damaged = ["000060.json", "000061.json", "000062.json"].map(|name| format!("{JOURNAL}/{name}"));
    assert_eq!(journal(&files).damaged().unwrap(), damaged);
    assert!(journal(&files).recover().unwrap().is_empty());
    journal(&files).make("hausblatt next", made(), &[Write::new("next.txt", "1")]).unwrap();
    assert_eq!(last(&files).number, 63);
    // Nothing outside of the site is written, whatever a journal says.
    let outside = "{\"command\":\"a\",\"made\":\"2026-11-29T05:00:00Z\",\"files\":[{\"path\":\"../x.txt\",\"before\":{\"text\":\"x\"},\"after\":null}]}";
    files.write(Path::new(JOURNAL).join("000070.json"), outside);
    let inner = Memory::of([("site/hausblatt.toml", "[site]"), ("other/.hausblatt-7-1", "theirs")]);
    for (name, path) in [("000001.json", "../x.txt"), ("000002.running-1", "../other/x.txt"), ("000003.json", "/x.txt")]
    {
        inner.write(Path::new("site").join(JOURNAL).join(name), outside.replace("../x.txt", path));
    }
    let journal = Journal::at(&inner, Path::new("/site")).unwrap();
    assert!(journal.changes().unwrap().is_empty() && journal.recover().unwrap().is_empty());
    assert!(inner.bytes("x.txt").is_none() && inner.bytes("other/.hausblatt-7-1").is_some());
}

/// Whatever call fails while a change is made, taken back or looked at: no half of it is forgotten.
#[test]
fn a_call_that_fails_loses_no_record() {
    // A folder that can't be removed stays, empty.
    let contents = |files: &Memory| -> Vec<_> {
        contents(files).into_iter().filter(|(path, _)| path.extension().is_some()).collect()
    };
    let (before, after) = (contents(&site()), {
        let files = site();
        journal(&files).make("hausblatt first", made(), &writes()).unwrap();
        contents(&files)
    });
    let counting = Failing::never(&site());
    journal(&counting).make("hausblatt first", made(), &writes()).unwrap();
    journal(&counting).take_back(&journal(&counting).changes().unwrap()[0]).unwrap();
    for call in 2..=counting.calls() {
        let files = site();
        let failing = Failing::at(&files, call, Event::Fails(io::ErrorKind::PermissionDenied));
        let journal = Journal::at(&failing, Path::new("/")).unwrap();
        let done = journal.make("hausblatt first", made(), &writes());
        let expected = if done.is_ok() { &after } else { &before };
        assert_eq!(contents(&files), *expected, "call {call}");
        if let Ok(changes) = journal.changes()
            && let Some(change) = changes.first().filter(|_| done.is_ok())
        {
            let undone = journal.take_back(change);
            let expected = if undone.is_ok() { &before } else { &after };
            assert_eq!(contents(&files), *expected, "call {call}");
        }
    }
    // A journal that can't be read is not an empty one, and an ended change in it is not thrown away.
    let files = site();
    journal(&files).make("hausblatt first", made(), &writes()).unwrap();
    let running = Path::new("/").join(JOURNAL).join(format!("000001.running-{}", std::process::id()));
    files.rename(&Path::new("/").join(JOURNAL).join("000001.json"), &running).unwrap();
    files.write("themes/near/a.html", "a");
    for call in 2..20 {
        let failing = Failing::at(&files, call, Event::Fails(io::ErrorKind::PermissionDenied));
        let failed = Journal::at(&failing, Path::new("/")).unwrap().recover();
        if failing.interfered().iter().any(|call| call.starts_with("list /.hausblatt-undo") || call.starts_with("open"))
        {
            assert!(failed.is_err());
        }
        if failed.is_err() {
            assert_eq!(journal(&files).interrupted().unwrap().len(), 1, "call {call}");
        }
    }
}
