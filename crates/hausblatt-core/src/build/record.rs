//! The record of a build: what went in, what came out. Never a source of pages.

use std::borrow::Cow;
use std::collections::BTreeMap;
use std::io;
use std::sync::Arc;

use hausblatt_lang::text::diagnostic::{Diagnostic, Severity, distinct};
use hausblatt_lang::text::source::{Place, Span};
use jiff::civil::Date;
use postcard::experimental::serialized_size;
use rayon::prelude::*;
use serde::ser::{SerializeMap, Serializer};
use serde::{Deserialize, Serialize};
use xxhash_rust::xxh3::Xxh3;

use crate::PROGRAM;
use crate::asking::SiteOptions;
use crate::build::kept_pages::{KeptDependencies, MadeOf};
use crate::build::write::{self, OutputFolder};
use crate::build::{BuildPart, Options, RECORD, Report};
use crate::files::edit;
use crate::files::{Body, Snapshot};
use crate::threads::FILES;
use crate::world::World;

/// How a record begins; those of earlier versions are JSON.
const HEAD: &[u8] = b"hausblatt-build 2\n";

/// A file that a build has published.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Kept {
    /// Hash of its bytes; for a copy of its source's stamp, for a compressed file of what it was made from.
    pub hash: u64,
    /// Its length in bytes.
    pub length: u64,
    /// Hash of the bytes of a copy or a compressed file; 0 where `hash` is one of bytes, and in records of earlier versions.
    #[serde(default)]
    pub bytes: u64,
    /// When it was changed last, in ns since the Unix epoch; 0 for one that was only intended.
    pub modified: u64,
    /// What it was made of, where it is a page that can be known to be as it was.
    #[serde(skip)]
    pub(super) made_of: Option<MadeOf>,
}

impl Kept {
    /// The same for a file that stays though nothing makes it now.
    pub(super) fn left(&self) -> Self {
        Self { made_of: None, ..self.clone() }
    }

    /// Whether it was written, and not only meant to be.
    pub(crate) fn is_written(&self) -> bool {
        self.modified != 0
    }
}

/// What is known of the last build into a folder.
#[derive(Clone, Debug, Default, Deserialize)]
pub struct Record {
    /// Digest of everything that went in; 0 if the build did not end well.
    pub digest: u64,
    /// What came out, by path.
    pub files: BTreeMap<Arc<str>, Kept>,
    pages: usize,
    bytes: u64,
    failed: Vec<(String, u16)>,
    #[serde(default)]
    answered: Vec<(String, u16)>,
    #[serde(default)]
    held: usize,
    diagnostics: Vec<KeptDiagnostic>,
    // Records of earlier versions have none, and hold for no day.
    #[serde(default)]
    days: Option<Days>,
    /// A digest of the paths of all outputs, where none of them meet; otherwise 0.
    #[serde(skip)]
    pub(super) outputs: u64,
    /// What was written by builds that did not come to their end.
    #[serde(skip)]
    pub(super) unreported: Vec<Arc<str>>,
    /// What the pages were made of.
    #[serde(skip)]
    pub(super) dependencies: KeptDependencies,
}

/// All of a record but for the files, as it is written.
#[derive(Serialize, Deserialize)]
struct Rest<'r, M> {
    /// That which has written it.
    program: Cow<'r, str>,
    digest: u64,
    /// Pages, bytes, files held.
    report: (usize, u64, usize),
    failed: Cow<'r, [(String, u16)]>,
    answered: Cow<'r, [(String, u16)]>,
    diagnostics: Cow<'r, [KeptDiagnostic]>,
    days: Option<Days>,
    unreported: Cow<'r, [Arc<str>]>,
    outputs: u64,
    dependencies: Cow<'r, KeptDependencies>,
    /// What a page was made of, by the number of its file.
    made_of: Vec<(u32, M)>,
}

/// Files as they are written: those that were, then those that are only intended.
struct WrittenFiles<'r>(&'r BTreeMap<Arc<str>, Kept>, &'r [&'r str]);

impl Serialize for WrittenFiles<'_> {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        let Self(files, intended) = self;
        let unwritten = Kept::default();
        let mut map = to.serialize_map(Some(files.len() + intended.len()))?;
        files.iter().try_for_each(|(path, kept)| map.serialize_entry(path, kept))?;
        intended.iter().try_for_each(|path| map.serialize_entry(path, &unwritten))?;
        map.end()
    }
}

/// The days for which a build is the same.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
struct Days {
    /// The only one, where something printed it or depended on it.
    only: Option<Date>,
    /// The last date of any content up to that day, and the first after it: then something begins to wait, or ends.
    from: Option<Date>,
    until: Option<Date>,
}

impl Days {
    fn of(world: &World) -> Self {
        let today = world.asking.today;
        let dates = || world.site.contents.iter().filter_map(|content| Some(content.date?.day()));
        Self {
            only: world.reads_today().then_some(today),
            from: dates().filter(|&date| date <= today).max(),
            until: dates().filter(|&date| date > today).min(),
        }
    }

    fn hold(&self, today: Date) -> bool {
        self.only.is_none_or(|only| only == today)
            && self.from.is_none_or(|from| from <= today)
            && self.until.is_none_or(|until| today < until)
    }
}

/// A diagnostic, for a second run to repeat.
#[derive(Clone, Debug, Serialize, Deserialize)]
struct KeptDiagnostic {
    code: String,
    error: bool,
    message: String,
    help: Option<String>,
    place: Option<KeptPlace>,
    #[serde(default)]
    related: Vec<(KeptPlace, String)>,
}

/// A path, and the first byte and the one past the last.
type KeptPlace = (String, u32, u32);

impl Record {
    /// The record in `out`; an empty one if there is none, or none that makes sense.
    ///
    /// # Errors
    /// When it is there and can't be read, or is not a regular file.
    pub fn load(out: OutputFolder<'_>) -> io::Result<Self> {
        let text = match out.files.read_own(&out.folder.join(RECORD)) {
            Err(error) if error.kind() == io::ErrorKind::NotFound => Vec::new(),
            read => read?,
        };
        let mut record: Self = match text.strip_prefix(HEAD) {
            Some(written) => Self::parsed(written).unwrap_or_default(),
            None => serde_json::from_slice(&text).unwrap_or_default(),
        };
        // The record may come from anywhere, and what it lists may be removed: only paths inside count.
        record.files.retain(|path, _| write::is_inside(path));
        Ok(record)
    }

    /// Writes it.
    pub fn save(&self, out: OutputFolder<'_>) -> io::Result<()> {
        self.save_with(out, &[])
    }

    /// Writes it with files that are only intended, in the order of their paths.
    fn save_with(&self, out: OutputFolder<'_>, intended: &[&str]) -> io::Result<()> {
        // As they are read, the files are in order.
        let mut before = intended.iter().peekable();
        let mut numbered = 0u32..;
        let made_of = self.files.iter().filter_map(|(path, kept)| {
            while before.next_if(|other| **other < &**path).is_some() {
                numbered.next();
            }
            Some((numbered.next()?, kept.made_of.as_ref()?))
        });
        let rest = Rest {
            program: PROGRAM.into(),
            digest: self.digest,
            report: (self.pages, self.bytes, self.held),
            failed: Cow::Borrowed(&self.failed),
            answered: Cow::Borrowed(&self.answered),
            diagnostics: Cow::Borrowed(&self.diagnostics),
            days: self.days.clone(),
            unreported: Cow::Borrowed(&self.unreported),
            outputs: self.outputs,
            dependencies: Cow::Borrowed(&self.dependencies),
            made_of: made_of.collect(),
        };
        let files = WrittenFiles(&self.files, intended);
        let length = serialized_size(&files).and_then(|length| Ok(length + serialized_size(&rest)?));
        // With as much room as it takes: to grow takes up to three times as much.
        let mut text = Vec::with_capacity(HEAD.len() + length.map_err(io::Error::other)?);
        text.extend_from_slice(HEAD);
        let text = postcard::to_extend(&files, text).map_err(io::Error::other)?;
        let text = postcard::to_extend(&rest, text).map_err(io::Error::other)?;
        edit::replace(out.files, &out.folder.join(RECORD), &text).map(|_| ())
    }

    /// What was written by [`Record::save`]. That files are ours is known to each program; the rest only to that which wrote it.
    fn parsed(written: &[u8]) -> Option<Self> {
        let (files, rest) = postcard::take_from_bytes::<BTreeMap<Arc<str>, Kept>>(written).ok()?;
        let mut record = Self { files, ..Self::default() };
        let program = postcard::take_from_bytes::<String>(rest).map(|(program, _)| program).unwrap_or_default();
        let rest = (program == PROGRAM).then(|| postcard::from_bytes::<Rest<'_, MadeOf>>(rest).ok()).flatten();
        let Some(rest) = rest else { return Some(record) };
        let (pages, bytes, held) = rest.report;
        record = Self {
            digest: rest.digest,
            files: record.files,
            pages,
            bytes,
            failed: rest.failed.into_owned(),
            answered: rest.answered.into_owned(),
            held,
            diagnostics: rest.diagnostics.into_owned(),
            days: rest.days,
            unreported: rest.unreported.into_owned(),
            outputs: rest.outputs,
            dependencies: rest.dependencies.into_owned(),
        };
        let mut made_of = rest.made_of.into_iter().peekable();
        for (at, kept) in (0u32..).zip(record.files.values_mut()) {
            kept.made_of = made_of.next_if(|(other, _)| *other == at).map(|(_, made_of)| made_of);
        }
        Some(record)
    }

    /// Writes it as it was, with the paths that are about to be written, so that an interrupted build's files are known.
    ///
    /// # Errors
    /// When it can't be written.
    pub(crate) fn save_intended<'p>(
        &mut self,
        out: OutputFolder<'_>,
        paths: impl Iterator<Item = &'p str>,
    ) -> io::Result<()> {
        let mut new: Vec<&str> = paths.filter(|path| !self.files.contains_key(*path)).collect();
        new.sort_unstable();
        new.dedup();
        let digest = std::mem::take(&mut self.digest);
        let saved = self.save_with(out, &new);
        self.digest = digest;
        saved
    }

    /// The files that another record does not have.
    pub(super) fn missing_in(&self, other: &Self) -> Vec<(&Arc<str>, &Kept)> {
        let mut others = other.files.keys().peekable();
        // Both are in order.
        let is_missing = |(path, _): &(&Arc<str>, &Kept)| {
            while others.next_if(|other| *other < *path).is_some() {}
            others.peek() != Some(path)
        };
        self.files.iter().filter(is_missing).collect()
    }

    /// Takes what is known of what its pages were made of away.
    pub(super) fn forget_pages(&mut self) {
        self.dependencies = KeptDependencies::default();
        self.files.values_mut().for_each(|kept| kept.made_of = None);
    }

    /// Whether a build of these inputs on that day would published the same.
    pub(crate) fn is_of(&self, digest: u64, today: Date) -> bool {
        self.digest == digest && self.days.as_ref().is_some_and(|days| days.hold(today))
    }

    /// Whether every file is still as it was published.
    pub fn holds(&self, out: OutputFolder<'_>) -> bool {
        let files: Vec<(&Arc<str>, &Kept)> = self.files.iter().collect();
        files.par_iter().with_max_len(FILES).all(|(path, kept)| write::is_as_kept(out, path, kept))
    }

    /// Keeps what a second run has to repeat.
    pub(crate) fn keep_report(&mut self, world: &World, report: &Report) {
        self.pages = report.pages;
        self.bytes = report.bytes;
        self.failed = report.failed.clone();
        self.answered = report.answered.clone();
        self.held = report.held;
        let all = distinct(world.problems.iter().chain(&report.diagnostics).cloned().collect());
        self.diagnostics = all.iter().map(keep).collect();
        self.days = Some(Days::of(world));
    }

    /// The report of a run that had nothing to do.
    pub fn report(&self, part: BuildPart) -> Report {
        Report {
            pages: self.pages,
            unchanged: self.files.keys().filter(|path| part.holds(path)).count(),
            bytes: self.bytes,
            failed: self.failed.clone(),
            answered: self.answered.clone(),
            held: self.held,
            diagnostics: self.diagnostics.iter().map(revive).collect(),
            ..Report::default()
        }
    }
}

fn keep(diagnostic: &Diagnostic) -> KeptDiagnostic {
    KeptDiagnostic {
        code: diagnostic.code.to_owned(),
        error: diagnostic.is_error(),
        message: diagnostic.message.clone(),
        help: diagnostic.help.clone(),
        place: diagnostic.place.as_ref().map(keep_place),
        related: diagnostic.related.iter().map(|(place, why)| (keep_place(place), why.clone())).collect(),
    }
}

fn keep_place(place: &Place) -> KeptPlace {
    (place.path.to_string(), place.span.start, place.span.end)
}

fn revive_place((path, start, end): &KeptPlace) -> Place {
    Place { path: Arc::from(path.as_str()), span: Span { start: *start, end: *end } }
}

fn revive(kept: &KeptDiagnostic) -> Diagnostic {
    Diagnostic {
        // Codes are a fixed set; leaking the few of one run gives them back their lifetime.
        code: kept.code.clone().leak(),
        severity: if kept.error { Severity::Error } else { Severity::Warning },
        place: kept.place.as_ref().map(revive_place),
        message: kept.message.clone(),
        help: kept.help.clone(),
        // A build fixes nothing.
        fix: None,
        related: kept.related.iter().map(|(place, why)| (revive_place(place), why.clone())).collect(),
        choices: Vec::new(),
    }
}

/// The digest of everything that a build depends on apart from the day.
pub fn digest(snapshot: &Snapshot, asking: &SiteOptions, options: &Options) -> u64 {
    let mut hasher = Xxh3::new();
    let Options { map, marks, compressed, part, out: _, clears_images: _ } = options;
    hasher
        .update(format!("{PROGRAM} {map} {marks} {compressed} {part} {} {:?}", asking.drafts, asking.theme).as_bytes());
    let mut part = |bytes: &[u8]| {
        hasher.update(&bytes.len().to_le_bytes());
        hasher.update(bytes);
    };
    let nodes = snapshot.files();
    // Once on all cores: each is needed again.
    nodes.par_iter().with_max_len(FILES).filter(|node| node.text().is_some()).for_each(|node| {
        node.digest();
    });
    for node in nodes {
        part(node.path.as_bytes());
        match &node.body {
            Body::Text(_) | Body::Head(_) => part(&node.digest().unwrap_or_default().to_le_bytes()),
            Body::OnDemand | Body::Unreadable { .. } => part(format!("{:?}", node.stamp).as_bytes()),
        }
    }
    hasher.digest().max(1)
}

#[cfg(test)]
mod tests {
    use std::path::Path;

    use crate::files::Files;
    use crate::files::memory::Memory;

    use super::*;

    fn made_with(image: &str) -> Kept {
        let mut made_of = MadeOf::default();
        made_of.images = Box::new([image.into()]);
        Kept { hash: 1, modified: 2, made_of: Some(made_of), ..Kept::default() }
    }

    #[test]
    fn what_another_record_lacks_is_found_wherever_it_is() {
        let of = |paths: &str| {
            let files = paths.split_terminator(' ').map(|path| (path.into(), Kept::default()));
            Record { files: files.collect(), ..Record::default() }
        };
        for (own, other, missing) in [
            ("", "a", ""),
            ("a b c d", "", "a b c d"),
            ("a b c d", "b d", "a c"),
            ("b d", "a b c e", "d"),
            ("a", "a", ""),
        ] {
            let (own, other) = (of(own), of(other));
            let found: Vec<&str> = own.missing_in(&other).into_iter().map(|(path, _)| &**path).collect();
            assert_eq!(found.join(" "), missing);
        }
    }

    #[test]
    fn what_is_only_intended_changes_nothing_else() -> io::Result<()> {
        let files = Memory::default();
        let out = OutputFolder { files: &files, folder: Path::new("/built") };
        files.create_folder(out.folder)?;
        let mut record = Record::default();
        for path in ["b/index.html", "d/index.html"] {
            record.files.insert(path.into(), made_with(path));
        }
        record.digest = 7;
        record.save_intended(out, ["e", "c", "a", "c", "d/index.html"].into_iter())?;
        assert_eq!((record.digest, record.files.len()), (7, 2));
        let read = Record::load(out)?;
        let unwritten = Kept::default();
        let expected = [
            ("a", &unwritten),
            ("b/index.html", &record.files["b/index.html"]),
            ("c", &unwritten),
            ("d/index.html", &record.files["d/index.html"]),
            ("e", &unwritten),
        ];
        assert_eq!(read.digest, 0);
        assert!(read.files.iter().map(|(path, kept)| (&**path, kept)).eq(expected));
        Ok(())
    }

    /// Of the same version, too.
    #[test]
    fn a_record_of_a_program_with_other_code_says_which_files_are_ours() -> io::Result<()> {
        let files = Memory::default();
        let out = OutputFolder { files: &files, folder: Path::new("/built") };
        files.create_folder(out.folder)?;
        let path = "b/index.html";
        let mut record = Record { digest: 7, ..Record::default() };
        record.files.insert(path.into(), made_with(path));
        record.save(out)?;
        let read = Record::load(out)?;
        assert_eq!((read.digest, &read.files), (7, &record.files));
        let file = out.folder.join(RECORD);
        let mut bytes = out.files.read_own(&file)?;
        let end = memchr::memmem::find(&bytes, PROGRAM.as_bytes()).map_or(0, |at| at + PROGRAM.len());
        bytes[end - 1] = if bytes[end - 1] == b'0' { b'1' } else { b'0' };
        edit::replace(&files, &file, &bytes)?;
        let read = Record::load(out)?;
        assert_eq!((read.digest, read.files.len()), (0, 1));
        assert_eq!(read.files[path], Kept { made_of: None, ..made_with(path) });
        Ok(())
    }
}
