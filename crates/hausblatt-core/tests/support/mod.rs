//! Sites in memory, and what is said of them.

pub mod failing;

use std::fs;
use std::path::Path;
use std::sync::Arc;

use hausblatt_core::asking::SiteOptions;
use hausblatt_core::check::{self, Finding, Scope};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::files::{Depth, Files, Snapshot};
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::render::Limits;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::position;

/// The day that is today in all tests.
pub fn asking() -> SiteOptions {
    SiteOptions::on("2026-11-23".parse().unwrap())
}

/// The site at `/` of a file system.
pub fn snapshot(files: &(impl Files + Clone + 'static)) -> Snapshot {
    Snapshot::load(Arc::new(files.clone()), Path::new("/"), Depth::Whole).unwrap()
}

/// The demo site in memory.
pub fn demo() -> Memory {
    let files = Memory::default();
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    copy(&root, &root, &files);
    files
}

fn copy(root: &Path, folder: &Path, files: &Memory) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            copy(root, &path, files);
        } else {
            files.write(path.strip_prefix(root).unwrap(), fs::read(&path).unwrap());
        }
    }
}

/// Something said: its code, its path and its line; no path and 0 where it has no place.
pub type Said = (String, String, usize);

/// All that a whole check says of a site, or why the site can't be loaded.
pub fn checked(snapshot: &Snapshot) -> Vec<Said> {
    findings(snapshot).iter().map(|finding| said(snapshot, &finding.diagnostic)).collect()
}

/// The same with its words (place, severity, code, message, help, at how many more places it is) and all its places.
pub fn checked_in_words(snapshot: &Snapshot) -> Vec<(Vec<Said>, String)> {
    let in_words = |finding: &Finding| {
        let diagnostic = &finding.diagnostic;
        let place = said(snapshot, diagnostic);
        let (code, path, line) = &place;
        let severity = if diagnostic.is_error() { "error" } else { "warning" };
        let help = diagnostic.help.as_ref().map_or_else(String::new, |help| format!(" | {help}"));
        let more = if finding.also.is_empty() { String::new() } else { format!(" (+{})", finding.also.len()) };
        let words = format!("{path}:{line} {severity} {code}: {}{help}{more}", diagnostic.message);
        let also = finding.also.iter().map(|other| said(snapshot, other)).collect::<Vec<_>>();
        (std::iter::once(place).chain(also).collect(), words)
    };
    findings(snapshot).iter().map(in_words).collect()
}

fn findings(snapshot: &Snapshot) -> Vec<Finding> {
    // What stops a page that costs too much is the same for less; only that it stops after less.
    let limits = Limits { steps: 500_000, bytes: 4 << 20, ..Limits::default() };
    match World::load(snapshot.clone(), SiteOptions { limits, ..asking() }) {
        Ok(world) => check::run(&world, &Scope::Whole, &|_, _| {}),
        Err(Unloadable(problems)) => {
            let bare = |diagnostic| Finding { diagnostic, addresses: Vec::new(), also: Vec::new() };
            problems.into_iter().map(bare).collect()
        }
    }
}

fn said(snapshot: &Snapshot, diagnostic: &Diagnostic) -> Said {
    let Some(place) = &diagnostic.place else { return (diagnostic.code.to_owned(), String::new(), 0) };
    let text = snapshot.file(&place.path).and_then(|node| node.whole_text().ok());
    let line = text.map_or(0, |text| position(&text, place.span.start).line);
    (diagnostic.code.to_owned(), place.path.to_string(), line)
}

/// Each address of a site with its status and its text.
pub fn pages(world: &World) -> Vec<(String, u16, String)> {
    let mut arena = bumpalo::Bump::new();
    let mut pages = Vec::new();
    for request in world.requests() {
        let page = hausblatt_core::render::page::page(
            world,
            request.clone(),
            hausblatt_core::render::page::Audience::Build(hausblatt_lang::render::Shows::default()),
            &arena,
        );
        pages.push((request.address.clone(), page.status, page.text));
        arena.reset();
    }
    pages
}
