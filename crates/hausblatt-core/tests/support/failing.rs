//! A file system that fails, waits or changes on purpose, in front of another one.

use std::any::Any;
use std::fmt;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};
use std::thread;
use std::time::Duration;

use hausblatt_core::files::memory::Memory;
use hausblatt_core::files::{FileReader, Files, FolderEntry, Links, Look};

/// EMFILE, on all systems that are supported.
const TOO_MANY: i32 = 24;

/// What is to happen at a call.
#[derive(Clone)]
pub enum Event {
    /// It fails with an error of this kind, and does nothing.
    Fails(io::ErrorKind),
    /// It fails since too many files are open, and does nothing.
    Exhausted,
    /// It fails and does nothing, and so do all later ones, as if the process had been killed.
    Ends,
    /// It is done after this long.
    Waits(Duration),
    /// This happens just before it.
    After(Arc<dyn Fn(&Memory) + Send + Sync>),
}

/// Counts the calls that reach a file system in memory, and interferes with one of them. Clones share the count.
#[derive(Clone)]
pub struct Failing {
    files: Memory,
    calls: Arc<AtomicUsize>,
    plan: Option<(usize, Event)>,
    seen: Arc<Mutex<Vec<String>>>,
    opened: Arc<Mutex<Vec<PathBuf>>>,
}

impl fmt::Debug for Failing {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(out, "Failing({:?})", self.calls)
    }
}

impl Failing {
    /// Files that work: only the calls are counted.
    pub fn never(files: &Memory) -> Self {
        Self { files: files.clone(), calls: Arc::default(), plan: None, seen: Arc::default(), opened: Arc::default() }
    }

    /// Files of which the call with this number, counted from 1, is interfered with.
    pub fn at(files: &Memory, call: usize, event: Event) -> Self {
        Self { plan: Some((call, event)), ..Self::never(files) }
    }

    /// How many calls there were.
    pub fn calls(&self) -> usize {
        self.calls.load(Ordering::SeqCst)
    }

    /// The files that were read, in whole or in part.
    pub fn opened(&self) -> Vec<PathBuf> {
        self.opened.lock().unwrap().clone()
    }

    /// The calls that were interfered with, as operation and path.
    pub fn interfered(&self) -> Vec<String> {
        self.seen.lock().unwrap().clone()
    }

    fn count(&self, what: &str, path: &Path) -> io::Result<()> {
        if matches!(what, "read" | "open") {
            self.opened.lock().unwrap().push(path.to_owned());
        }
        let number = self.calls.fetch_add(1, Ordering::SeqCst) + 1;
        let meant = |(call, event): &&(usize, Event)| *call == number || *call < number && matches!(event, Event::Ends);
        let Some((_, event)) = self.plan.as_ref().filter(meant) else { return Ok(()) };
        self.seen.lock().unwrap().push(format!("{what} {}", path.display()));
        match event {
            Event::Fails(kind) => return Err((*kind).into()),
            Event::Exhausted => return Err(io::Error::from_raw_os_error(TOO_MANY)),
            Event::Ends => return Err(io::Error::other("killed")),
            Event::Waits(time) => thread::sleep(*time),
            Event::After(change) => change(&self.files),
        }
        Ok(())
    }
}

impl Files for Failing {
    fn look(&self, path: &Path, links: Links) -> io::Result<Look> {
        self.count("look", path)?;
        self.files.look(path, links)
    }

    fn list(&self, folder: &Path) -> io::Result<Vec<FolderEntry>> {
        self.count("list", folder)?;
        self.files.list(folder)
    }

    fn real_path(&self, path: &Path) -> io::Result<PathBuf> {
        self.count("real_path", path)?;
        self.files.real_path(path)
    }

    fn read(&self, path: &Path, length: u64) -> io::Result<Vec<u8>> {
        self.count("read", path)?;
        self.files.read(path, length)
    }

    fn open(&self, path: &Path) -> io::Result<Box<dyn FileReader>> {
        self.count("open", path)?;
        self.files.open(path)
    }

    fn open_own(&self, path: &Path) -> io::Result<Box<dyn FileReader>> {
        self.count("open", path)?;
        self.files.open_own(path)
    }

    fn create(&self, path: &Path, bytes: &[u8], like: Option<&Path>) -> io::Result<()> {
        self.count("create", path)?;
        self.files.create(path, bytes, like)
    }

    fn create_private(&self, path: &Path, bytes: &[u8]) -> io::Result<()> {
        self.count("create", path)?;
        self.files.create_private(path, bytes)
    }

    fn copy(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.count("copy", to)?;
        self.files.copy(from, to)
    }

    fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.count("rename", to)?;
        self.files.rename(from, to)
    }

    fn rename_to_new(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.count("rename_to_new", to)?;
        self.files.rename_to_new(from, to)
    }

    fn create_folder(&self, folder: &Path) -> io::Result<()> {
        self.count("create_folder", folder)?;
        self.files.create_folder(folder)
    }

    fn remove_file(&self, path: &Path) -> io::Result<()> {
        self.count("remove_file", path)?;
        self.files.remove_file(path)
    }

    fn remove_folder(&self, folder: &Path) -> io::Result<()> {
        self.count("remove_folder", folder)?;
        self.files.remove_folder(folder)
    }

    fn lock(&self, path: &Path) -> io::Result<Option<Box<dyn Any + Send>>> {
        self.count("lock", path)?;
        self.files.lock(path)
    }

    fn has_ended(&self, process: u32) -> bool {
        self.files.has_ended(process)
    }

    fn now(&self) -> i128 {
        self.files.now()
    }
}
