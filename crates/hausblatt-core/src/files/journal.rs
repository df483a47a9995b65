//! The journal of changes: what each command has written, with what was there before, so that it can be taken back, and so
//! that one which was interrupted leaves no half of it.

use std::collections::BTreeSet;
use std::io;
use std::path::{Component, Path, PathBuf};

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD as BASE64;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

use crate::files::edit::{Write, process_of, write_all};
use crate::files::{Files, Links, Snapshot};

/// The folder of the journal, in that of the site. It may be removed when no command is running: then nothing can be taken back.
pub const JOURNAL: &str = ".hausblatt-undo";
/// So many changes can be taken back; older ones are forgotten.
pub const KEPT_CHANGES: usize = 50;

/// The journal of a site.
pub struct Journal<'f> {
    files: &'f dyn Files,
    /// The site's folder, as a real path.
    root: PathBuf,
}

/// What is known of a change.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ChangeState {
    /// It was made, and can be taken back.
    Made,
    /// The command that made it, or took it back, was ended in the middle.
    Interrupted,
    /// A command is making it now, or taking it back.
    Running,
    /// It was interrupted, and a file of it changed since, so that it stays as it is.
    Left,
}

impl ChangeState {
    /// It as a word.
    pub fn word(self) -> &'static str {
        match self {
            ChangeState::Made => "made",
            ChangeState::Interrupted => "interrupted",
            ChangeState::Running => "running",
            ChangeState::Left => "left",
        }
    }
}

/// One change of the journal.
#[derive(Clone, Debug)]
pub struct KeptChange {
    /// Its number: later ones have higher ones.
    pub number: u32,
    /// What was typed.
    pub command: String,
    /// When.
    pub made: Timestamp,
    /// What it wrote.
    pub writes: Vec<Write>,
    /// The folders that it made, outer ones first.
    pub folders: Vec<String>,
    /// What became of it.
    pub state: ChangeState,
}

impl KeptChange {
    /// What takes it back.
    pub fn reversed(&self) -> Vec<Write> {
        let back = |write: &Write| Write {
            path: write.path.clone(),
            bytes: write.instead.clone(),
            instead: write.bytes.clone(),
        };
        self.writes.iter().rev().map(back).collect()
    }
}

/// What became of an interrupted change.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Recovered {
    /// All of it was written: it counts as made.
    Completed,
    /// What was written of it was taken back.
    TakenBack,
    /// A file of it changed since, so that it stays as it is.
    Left,
}

/// Why a change was not made, or not taken back: no file is other than it was.
#[derive(Debug)]
pub struct NotWritten {
    /// The path at which it stopped.
    pub path: String,
    /// Why.
    pub error: io::Error,
}

/// A change as it is kept.
#[derive(Serialize, Deserialize)]
struct Kept {
    command: String,
    made: Timestamp,
    files: Vec<KeptFile>,
    #[serde(default)]
    folders: Vec<String>,
}

#[derive(Serialize, Deserialize)]
struct KeptFile {
    path: String,
    before: Option<KeptBytes>,
    after: Option<KeptBytes>,
}

/// Bytes as they are kept: readable where they are text.
#[derive(Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
enum KeptBytes {
    Text(String),
    Base64(String),
}

impl KeptBytes {
    fn of(bytes: &[u8]) -> Self {
        match std::str::from_utf8(bytes) {
            Ok(text) => KeptBytes::Text(text.to_owned()),
            Err(_) => KeptBytes::Base64(BASE64.encode(bytes)),
        }
    }

    fn bytes(self) -> Option<Vec<u8>> {
        match self {
            KeptBytes::Text(text) => Some(text.into_bytes()),
            KeptBytes::Base64(text) => BASE64.decode(text).ok(),
        }
    }
}

/// The file of a change.
struct Entry {
    name: String,
    number: u32,
    /// The process that makes it, or takes it back.
    process: Option<u32>,
    is_left: bool,
}

/// What a name of a file in the journal says.
fn entry(name: &str) -> Option<Entry> {
    let (number, rest) = name.split_once('.')?;
    let number = number.parse().ok().filter(|_| number.len() == DIGITS)?;
    let process = rest.strip_prefix("running-").and_then(|process| process.parse().ok());
    let is_left = rest == "left";
    (rest == "json" || is_left || process.is_some()).then(|| Entry { name: name.to_owned(), number, process, is_left })
}

/// How many digits a number has.
const DIGITS: usize = 6;

fn name_of(number: u32, what: &str) -> String {
    format!("{number:0DIGITS$}.{what}")
}

impl<'f> Journal<'f> {
    /// That of a site.
    ///
    /// # Errors
    /// When the site's folder can't be reached.
    pub fn of(snapshot: &'f Snapshot) -> io::Result<Self> {
        Self::at(&**snapshot.file_system(), snapshot.root())
    }

    /// That of the site in a folder.
    ///
    /// # Errors
    /// When the folder can't be reached.
    pub fn at(files: &'f dyn Files, root: &Path) -> io::Result<Self> {
        Ok(Self { files, root: files.real_path(root)? })
    }

    fn path(&self, name: &str) -> PathBuf {
        self.root.join(JOURNAL).join(name)
    }

    /// The files of the journal, oldest first. A folder that is not there has none.
    fn entries(&self) -> io::Result<Vec<Entry>> {
        let all = match self.files.list(&self.root.join(JOURNAL)) {
            Err(error) if error.kind() == io::ErrorKind::NotFound => Vec::new(),
            all => all?,
        };
        let mut entries: Vec<Entry> = all.iter().filter_map(|found| entry(found.name.to_str()?)).collect();
        entries.sort_by_key(|entry| entry.number);
        Ok(entries)
    }

    /// What is kept in a file of the journal; nothing where that makes no sense.
    fn read(&self, entry: &Entry) -> io::Result<Option<KeptChange>> {
        let bytes = self.files.read_own(&self.path(&entry.name))?;
        Ok(self.understood(entry, &bytes))
    }

    fn understood(&self, entry: &Entry, bytes: &[u8]) -> Option<KeptChange> {
        let kept: Kept = serde_json::from_slice(bytes).ok()?;
        // The journal may come from anywhere: only paths inside of the site count.
        if !kept.files.iter().map(|file| &file.path).chain(&kept.folders).all(|path| is_inside(path)) {
            return None;
        }
        let bytes = |kept: Option<KeptBytes>| kept.map_or(Some(None), |kept| kept.bytes().map(Some));
        let write =
            |file: KeptFile| Some(Write { path: file.path, bytes: bytes(file.after)?, instead: bytes(file.before)? });
        let state = match entry.process {
            Some(_) if self.is_interrupted(entry) => ChangeState::Interrupted,
            Some(_) => ChangeState::Running,
            None if entry.is_left => ChangeState::Left,
            None => ChangeState::Made,
        };
        Some(KeptChange {
            number: entry.number,
            command: kept.command,
            made: kept.made,
            writes: kept.files.into_iter().map(write).collect::<Option<_>>()?,
            folders: kept.folders,
            state,
        })
    }

    /// Whether what makes it has ended. What this process makes has come to an end before it looks at others.
    fn is_interrupted(&self, entry: &Entry) -> bool {
        let is_over = |process| process == std::process::id() || self.files.has_ended(process);
        entry.process.is_some_and(is_over)
    }

    /// All changes, newest first.
    ///
    /// # Errors
    /// When the journal can't be read.
    pub fn changes(&self) -> io::Result<Vec<KeptChange>> {
        let read = self.entries()?.iter().rev().map(|entry| self.read(entry)).collect::<io::Result<Vec<_>>>()?;
        Ok(read.into_iter().flatten().collect())
    }

    /// The paths, relative to the site, of files in it that keep no change any more.
    ///
    /// # Errors
    /// When the journal can't be read.
    pub fn damaged(&self) -> io::Result<Vec<String>> {
        let mut damaged = Vec::new();
        for entry in self.entries()?.iter().filter(|entry| entry.process.is_none()) {
            if self.read(entry)?.is_none() {
                damaged.push(format!("{JOURNAL}/{}", entry.name));
            }
        }
        Ok(damaged)
    }

    /// The changes that were interrupted, the oldest first.
    ///
    /// # Errors
    /// When the journal can't be read.
    pub fn interrupted(&self) -> io::Result<Vec<KeptChange>> {
        let all = self.entries()?;
        let interrupted = all.iter().filter(|entry| self.is_interrupted(entry));
        let read = interrupted.map(|entry| self.read(entry)).collect::<io::Result<Vec<_>>>()?;
        Ok(read.into_iter().flatten().collect())
    }

    /// Makes a change: all of it or none, as [`write_all`] does, and keeps it as what was typed at a moment.
    ///
    /// # Errors
    /// Where it stopped.
    pub fn make(&self, command: &str, made: Timestamp, writes: &[Write]) -> Result<(), NotWritten> {
        if writes.is_empty() {
            return Ok(());
        }
        let here = |error| NotWritten { path: JOURNAL.to_owned(), error };
        let folders = self.missing_folders(writes).map_err(here)?;
        // What is there already with these bytes stays when the change is taken back.
        let with_same =
            |write: &Write| match write.instead.is_none() && self.holds(&write.path, write.bytes.as_deref())? {
                true => Ok(Write { instead: write.bytes.clone(), ..write.clone() }),
                false => Ok(write.clone()),
            };
        let whole: Vec<Write> = writes.iter().map(with_same).collect::<io::Result<_>>().map_err(here)?;
        let file = |write: &Write| KeptFile {
            path: write.path.clone(),
            before: write.instead.as_deref().map(KeptBytes::of),
            after: write.bytes.as_deref().map(KeptBytes::of),
        };
        let files = whole.iter().map(file).collect();
        let kept = Kept { command: command.to_owned(), made, files, folders };
        let bytes = serde_json::to_vec_pretty(&kept).map_err(|error| here(error.into()))?;
        self.files.create_folders(&self.root.join(JOURNAL)).map_err(here)?;
        let (number, running) = self.begin(&bytes).map_err(here)?;
        let written = write_all(self.files, &self.root, writes);
        if let Err((path, error)) = written {
            // A half that could not be taken back is known as long as the record is there.
            if !self.has_any_of(&whole) {
                let _ = self.files.remove_file(&running);
            }
            return Err(NotWritten { path, error });
        }
        // All is written: where this fails, the next command that writes does it.
        let _ = self.files.rename_to_new(&running, &self.path(&name_of(number, "json")));
        let _ = self.forget_old();
        Ok(())
    }

    /// Whether any of these changes is there, as far as that can be known.
    fn has_any_of(&self, writes: &[Write]) -> bool {
        let is_there = |write: &Write| self.holds(&write.path, write.bytes.as_deref()).unwrap_or(true);
        changed(writes).iter().any(is_there)
    }

    /// The folders that these changes make, outer ones first.
    fn missing_folders(&self, writes: &[Write]) -> io::Result<Vec<String>> {
        let new = writes.iter().filter(|write| write.bytes.is_some());
        let above: BTreeSet<&str> =
            new.flat_map(|write| write.path.match_indices('/').map(|(at, _)| &write.path[..at])).collect();
        let mut missing = Vec::new();
        for folder in above {
            if !self.files.is_there(&self.root.join(folder), Links::Follow)? {
                missing.push(folder.to_owned());
            }
        }
        Ok(missing)
    }

    /// Writes the file of a change that begins; its number and its path.
    fn begin(&self, bytes: &[u8]) -> io::Result<(u32, PathBuf)> {
        let mut number = self.entries()?.last().map_or(0, |entry| entry.number);
        loop {
            number = number.checked_add(1).ok_or_else(|| io::Error::other("its numbers have run out"))?;
            let path = self.path(&name_of(number, &format!("running-{}", std::process::id())));
            match self.files.create_private(&path, bytes) {
                Ok(()) => return Ok((number, path)),
                Err(error) if error.kind() == io::ErrorKind::AlreadyExists => {}
                Err(error) => {
                    let _ = self.files.remove_file(&path);
                    return Err(error);
                }
            }
        }
    }

    fn forget_old(&self) -> io::Result<()> {
        let entries = self.entries()?;
        let mut old = entries.iter().filter(|entry| entry.process.is_none()).rev().skip(KEPT_CHANGES);
        old.try_for_each(|entry| self.files.remove_file(&self.path(&entry.name)))
    }

    /// The path, relative to the site, of the file that keeps a change that was made.
    pub fn place(&self, change: &KeptChange) -> String {
        format!("{JOURNAL}/{}", name_of(change.number, "json"))
    }

    /// The paths of a change whose files are not as it left them.
    ///
    /// # Errors
    /// The file that can't be read, and why.
    pub fn changed_since(&self, change: &KeptChange) -> Result<Vec<String>, NotWritten> {
        let mut changed = Vec::new();
        for write in &change.writes {
            if !self.is_so(write, write.bytes.as_deref())? {
                changed.push(write.path.clone());
            }
        }
        Ok(changed)
    }

    /// Takes a change back, if its files are as it left them.
    ///
    /// # Errors
    /// Where it stopped.
    pub fn take_back(&self, change: &KeptChange) -> Result<(), NotWritten> {
        let here = |error| NotWritten { path: JOURNAL.to_owned(), error };
        let made = self.path(&name_of(change.number, "json"));
        let running = self.path(&name_of(change.number, &format!("running-{}", std::process::id())));
        self.files.rename_to_new(&made, &running).map_err(here)?;
        if let Err((path, error)) = write_all(self.files, &self.root, &changed(&change.reversed())) {
            // A half that could not be put back is known as long as the record says that something is under way.
            if !self.has_any_of(&change.reversed()) {
                let _ = self.files.rename_to_new(&running, &made);
            }
            return Err(NotWritten { path, error });
        }
        self.remove_folders(change);
        // All is as it was: where this fails, the next command that writes does it.
        let _ = self.files.remove_file(&running);
        Ok(())
    }

    /// Removes the folders that a change made, as far as they are empty again.
    fn remove_folders(&self, change: &KeptChange) {
        for folder in change.folders.iter().rev() {
            let _ = self.files.remove_folder(&self.root.join(folder));
        }
    }

    /// What is to become of an interrupted change.
    ///
    /// # Errors
    /// The file that can't be read, and why.
    pub fn outlook(&self, change: &KeptChange) -> Result<Recovered, NotWritten> {
        let (mut is_done, mut is_known) = (true, true);
        for write in &change.writes {
            let is_after = self.is_so(write, write.bytes.as_deref())?;
            is_done &= is_after;
            is_known &= is_after || self.is_so(write, write.instead.as_deref())?;
        }
        Ok(match (is_done, is_known) {
            (true, _) => Recovered::Completed,
            (false, true) => Recovered::TakenBack,
            (false, false) => Recovered::Left,
        })
    }

    /// Completes or takes back what was interrupted: each such change, and what became of it.
    ///
    /// # Errors
    /// Where a file can't be read or put back, which the next attempt may do.
    pub fn recover(&self) -> Result<Vec<(KeptChange, Recovered)>, NotWritten> {
        let here = |error| NotWritten { path: JOURNAL.to_owned(), error };
        let mut recovered = Vec::new();
        for entry in self.entries().map_err(here)? {
            if !self.is_interrupted(&entry) {
                continue;
            }
            let path = self.path(&entry.name);
            let Some(change) = self.read(&entry).map_err(here)? else {
                // It was ended before all of it was kept, and so before anything was written.
                self.files.remove_file(&path).map_err(here)?;
                continue;
            };
            self.sweep(&change, entry.process);
            let became = self.outlook(&change)?;
            match became {
                Recovered::Completed => {
                    self.files.rename_to_new(&path, &self.path(&name_of(entry.number, "json"))).map_err(here)?;
                }
                Recovered::TakenBack => {
                    let mut back = Vec::new();
                    for write in changed(&change.reversed()) {
                        if !self.is_so(&write, write.bytes.as_deref())? {
                            back.push(write);
                        }
                    }
                    write_all(self.files, &self.root, &back).map_err(|(path, error)| NotWritten { path, error })?;
                    self.remove_folders(&change);
                    self.files.remove_file(&path).map_err(here)?;
                }
                Recovered::Left => {
                    self.files.rename_to_new(&path, &self.path(&name_of(entry.number, "left"))).map_err(here)?;
                }
            }
            recovered.push((change, became));
        }
        Ok(recovered)
    }

    /// Removes what the process of a change has left under names of its own.
    fn sweep(&self, change: &KeptChange, process: Option<u32>) {
        for folder in change.writes.iter().filter_map(|write| Path::new(&write.path).parent()) {
            let folder = self.root.join(folder);
            for entry in self.files.list(&folder).into_iter().flatten() {
                if process.is_some() && entry.name.to_str().and_then(process_of) == process {
                    let _ = self.files.remove_file(&folder.join(&entry.name));
                }
            }
        }
    }

    /// Whether a file holds these bytes, or is not there.
    fn holds(&self, path: &str, bytes: Option<&[u8]>) -> io::Result<bool> {
        let path = self.root.join(path);
        let Some(bytes) = bytes else { return Ok(!self.files.is_there(&path, Links::Keep)?) };
        match self.files.read(&path, bytes.len() as u64) {
            Ok(there) => Ok(there == bytes),
            Err(error) if matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::NotADirectory) => Ok(false),
            Err(error) => Err(error),
        }
    }

    /// The same for the file of a change, which is named where it can't be read.
    fn is_so(&self, write: &Write, bytes: Option<&[u8]>) -> Result<bool, NotWritten> {
        self.holds(&write.path, bytes).map_err(|error| NotWritten { path: write.path.clone(), error })
    }
}

/// Whether a path leads to something below the site, whatever links there are.
fn is_inside(path: &str) -> bool {
    !path.is_empty() && Path::new(path).components().all(|part| matches!(part, Component::Normal(_)))
}

/// Those of these changes that change anything.
fn changed(writes: &[Write]) -> Vec<Write> {
    writes.iter().filter(|write| write.bytes != write.instead).cloned().collect()
}
