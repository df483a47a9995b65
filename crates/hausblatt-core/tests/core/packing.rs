//! Themes in one file: packed the same each time, unpacked as they were, and nothing of what can't be trusted.

use std::io::Write as _;

use flate2::Compression;
use flate2::write::GzEncoder;
use hausblatt_core::files::edit::Write;
use hausblatt_core::files::memory::Memory;
use hausblatt_core::pack::{Archive, Became, digest, pack, unpack};
use hausblatt_core::world::World;
use tar::{Builder, EntryType, Header};

use crate::support::{asking, demo, pages, snapshot};

fn world(files: &Memory) -> World {
    match World::load(snapshot(files), asking()) {
        Ok(world) => world,
        Err(why) => panic!("{why:?}"),
    }
}

/// A site whose theme is `own`, with nothing of the archive's.
fn elsewhere() -> Memory {
    Memory::of([
        ("hausblatt.toml", "[site]\ntitle = \"Elsewhere\"\ntheme = \"own\"\n"),
        ("content/pages/start.md", "Hello.\n"),
        ("themes/own/hausblatt-theme.toml", ""),
        ("themes/own/templates/fallback.html", "1"),
    ])
}

fn apply(files: &Memory, writes: &[Write]) {
    for write in writes {
        match &write.bytes {
            Some(bytes) => files.write(&write.path, bytes),
            None => files.remove(&write.path),
        }
    }
}

/// The demo's theme, packed.
fn packed(files: &Memory) -> Vec<u8> {
    pack(&world(files), true).unwrap().archive.written(315_532_800).unwrap()
}

#[test]
fn the_same_files_give_the_same_bytes_and_come_back() {
    let files = demo();
    let bytes = packed(&files);
    assert_eq!(bytes, packed(&demo()));
    // No name, no time, no system in the header.
    assert_eq!(bytes[3..8], [0, 0, 0, 0, 0]);
    let archive = Archive::read(&bytes).unwrap();
    assert_eq!((archive.theme.as_str(), archive.themes.len()), ("harbour", 3));
    let alone = pack(&world(&files), false).unwrap();
    assert_eq!(alone.archive.themes, ["harbour"]);
    assert!(alone.archive.files.keys().all(|path| path.starts_with("themes/harbour/")));
    assert!(alone.without_licence.is_empty());

    // The same site without its themes, which come from the archive, has the same pages.
    let bare = demo();
    for theme in ["harbour", "hedgerow", "loam"] {
        bare.remove(format!("themes/{theme}"));
    }
    bare.write("themes/own/hausblatt-theme.toml", "");
    bare.write("themes/own/templates/fallback.html", "1");
    let mut asked = asking();
    asked.theme = Some("own".to_owned());
    let plan = unpack(&World::load(snapshot(&bare), asked).unwrap(), &bytes, false).unwrap();
    assert!(plan.themes.iter().all(|(_, became)| *became == Became::New));
    apply(&bare, &plan.writes);
    assert_eq!(pages(&world(&bare)), pages(&world(&files)));
    // What an archive was unpacked from is kept aside, and is no part of the theme.
    assert_eq!(packed(&bare), bytes);
}

#[test]
fn a_theme_that_is_there_is_updated_only_where_that_is_asked() {
    let files = elsewhere();
    let first = packed(&demo());
    let plan = unpack(&world(&files), &first, false).unwrap();
    apply(&files, &plan.writes);
    let again = unpack(&world(&files), &first, false).unwrap();
    assert!(again.writes.is_empty() && again.themes.iter().all(|(_, became)| *became == Became::Same));

    let edit = |files: &Memory, path: &str, from: &str, to: &str| {
        let text = String::from_utf8(files.bytes(path).unwrap().to_vec()).unwrap();
        assert!(text.contains(from), "{path} lacks {from}");
        files.write(path, text.replacen(from, to, 1));
    };
    let page = "themes/loam/templates/page.html";
    let journal = "themes/harbour/templates/listing/journal.html";
    let calendar = "themes/hedgerow/templates/route/calendar.html";
    let next = demo();
    edit(&next, page, "<article class=\"text\">", "<article class=\"text new\">");
    edit(&next, journal, "<h2>", "<h2 class=\"theirs\">");
    next.write("themes/loam/partials/new.html", "1\n");
    next.remove("themes/loam/templates/entry/varieties.html");
    next.remove(calendar);
    let second = packed(&next);

    edit(&files, page, "+{slot \"after body\"}", "+{slot \"after body\"}\n  <!-- ours -->");
    edit(&files, journal, "<h2>", "<h2 class=\"ours\">");
    edit(&files, calendar, "<h1>", "<h1 class=\"ours\">");
    files.write("themes/loam/partials/own.html", "2\n");
    let refused = unpack(&world(&files), &second, false).unwrap_err();
    assert!(refused.message.starts_with("there is a theme \"harbour\" already (1.2.0)"), "{}", refused.message);
    let plan = unpack(&world(&files), &second, true).unwrap();
    assert_eq!(
        (plan.conflicts.as_slice(), plan.kept.as_slice()),
        (&[journal.to_owned()][..], &[calendar.to_owned()][..])
    );
    apply(&files, &plan.writes);
    let text = |path: &str| files.bytes(path).map(|bytes| String::from_utf8(bytes.to_vec()).unwrap());
    assert!(text(page).is_some_and(|text| text.contains("text new") && text.contains("<!-- ours -->")));
    assert!(text(journal).is_some_and(|text| text.contains("class=\"ours\"") && text.contains("class=\"theirs\"")));
    assert_eq!(text("themes/loam/partials/new.html").as_deref(), Some("1\n"));
    assert_eq!(text("themes/loam/partials/own.html").as_deref(), Some("2\n"));
    assert_eq!(text("themes/loam/templates/entry/varieties.html"), None);
    assert!(text(calendar).is_some_and(|text| text.contains("class=\"ours\"")));
}

/// An archive of these entries as they are: path, kind, bytes.
fn raw(entries: &[(&str, EntryType, &[u8])]) -> Vec<u8> {
    let mut tar = Builder::new(GzEncoder::new(Vec::new(), Compression::fast()));
    for (path, kind, bytes) in entries {
        let mut header = Header::new_gnu();
        header.as_old_mut().name[..path.len()].copy_from_slice(path.as_bytes());
        header.set_entry_type(*kind);
        header.set_mode(0o644);
        header.set_size(bytes.len() as u64);
        header.set_cksum();
        tar.append(&header, *bytes).unwrap();
    }
    tar.into_inner().unwrap().finish().unwrap()
}

const FILE: EntryType = EntryType::Regular;

/// A good archive with these files in addition, all of them with right digests.
fn with(more: &[(&str, EntryType, &[u8])]) -> Vec<u8> {
    let about: &[u8] = b"[pack]\ntheme = \"t\"\nthemes = [\"t\"]\n";
    let mut entries = vec![("hausblatt-pack.toml", FILE, about), ("themes/t/hausblatt-theme.toml", FILE, b"" as &[u8])];
    entries.extend(more);
    let files = entries.iter().filter(|(_, kind, _)| *kind == FILE);
    let digests: String = files.map(|(path, _, bytes)| format!("{}  {path}\n", digest(bytes))).collect();
    entries.push(("digests.sha256", FILE, digests.as_bytes()));
    raw(&entries)
}

#[test]
fn what_can_not_be_trusted_is_refused() {
    assert!(Archive::read(&with(&[("themes/t/templates/page.html", FILE, b"1")])).is_ok());
    let long = format!("themes/t/{}a", "b/".repeat(30));
    let paths = [
        "../evil.html",
        "themes/../../evil.html",
        "/etc/evil",
        "themes/t/../../evil",
        "themes/t/./a",
        "themes/t//a",
        "themes/t/a\\..\\b",
        "C:/evil",
        "themes/t/a:b",
        "content/pages/evil.md",
        "hausblatt.toml",
        "themes/.hidden/a",
        "themes/t/.bashrc",
        "themes/t/.originals/../a",
        "themes/t/a\nb",
        "themes/t/a. ",
        "themes/other/a.html",
        long.as_str(),
    ];
    for path in paths {
        let refused = Archive::read(&with(&[(path, FILE, b"1")]));
        assert!(refused.is_err(), "{path:?} is unpacked");
    }
    for kind in [EntryType::Symlink, EntryType::Link, EntryType::Char, EntryType::Fifo, EntryType::GNUSparse] {
        let refused = Archive::read(&with(&[("themes/t/a", kind, b"")]));
        assert!(refused.is_err(), "{kind:?} is unpacked");
    }
    for pair in
        [["themes/t/A.html", "themes/t/a.html"], ["themes/t/a", "themes/t/a/b"], ["themes/t/é", "themes/t/e\u{301}"]]
    {
        let refused = Archive::read(&with(&[(pair[0], FILE, b"1"), (pair[1], FILE, b"2")]));
        assert!(refused.is_err(), "{pair:?} are unpacked");
    }
    let good = with(&[("themes/t/templates/page.html", FILE, b"1")]);
    for end in 0..good.len() {
        assert!(Archive::read(&good[..end]).is_err(), "cut off at {end} it is unpacked");
    }
    // Digests: one of another file, one too few, one too many.
    let about: &[u8] = b"[pack]\ntheme = \"t\"\nthemes = [\"t\"]\n";
    let own = format!("{}  hausblatt-pack.toml\n", digest(about));
    let manifest = format!("{}  themes/t/hausblatt-theme.toml\n", digest(b""));
    let wrong = format!("{}  themes/t/hausblatt-theme.toml\n", digest(b"other"));
    for (digests, is_good) in [
        (format!("{own}{manifest}"), true),
        (format!("{own}{wrong}"), false),
        (own.clone(), false),
        (format!("{own}{manifest}{}  themes/t/gone\n", digest(b"")), false),
        ("nonsense".to_owned(), false),
    ] {
        let entries = [
            ("digests.sha256", FILE, digests.as_bytes()),
            ("hausblatt-pack.toml", FILE, about),
            ("themes/t/hausblatt-theme.toml", FILE, b"" as &[u8]),
        ];
        assert_eq!(Archive::read(&raw(&entries)).is_ok(), is_good, "{digests}");
    }
    for (about, why) in
        [("", "no themes"), ("[pack]\ntheme = \"t\"\nthemes = [\"x\"]\n", "another theme"), ("[", "no TOML")]
    {
        let digests = format!("{}  hausblatt-pack.toml\n{manifest}", digest(about.as_bytes()));
        let entries = [
            ("digests.sha256", FILE, digests.as_bytes()),
            ("hausblatt-pack.toml", FILE, about.as_bytes()),
            ("themes/t/hausblatt-theme.toml", FILE, b"" as &[u8]),
        ];
        assert!(Archive::read(&raw(&entries)).is_err(), "{why}");
    }
    for text in ["", "PK", "[site]\n"] {
        assert!(Archive::read(text.as_bytes()).is_err());
    }
}

#[test]
fn archives_that_swell_are_refused() {
    // A file of 257 MB takes 300 kB packed.
    let mut gzip = GzEncoder::new(Vec::new(), Compression::fast());
    let mut header = Header::new_gnu();
    header.set_path("themes/t/assets/large.bin").unwrap();
    header.set_entry_type(FILE);
    header.set_size(257 << 20);
    header.set_cksum();
    gzip.write_all(header.as_bytes()).unwrap();
    let zeros = vec![0; 1 << 20];
    for _ in 0..258 {
        gzip.write_all(&zeros).unwrap();
    }
    let swelling = gzip.finish().unwrap();
    assert!(swelling.len() < 3 << 20);
    let refused = Archive::read(&swelling).unwrap_err();
    assert_eq!(refused.message, "the archive holds more than 256 MB");
    let names: Vec<String> = (0..10_002).map(|at| format!("themes/t/assets/{at}.css")).collect();
    let many: Vec<(&str, EntryType, &[u8])> = names.iter().map(|name| (name.as_str(), FILE, b"" as &[u8])).collect();
    assert_eq!(Archive::read(&raw(&many)).unwrap_err().message, "the archive holds more than 10000 files");
}
