//! Listing the site's folders: which files belong to the site, and where they are on disk.

use std::collections::{BTreeMap, HashSet};
use std::error::Error;
use std::ffi::OsString;
use std::fmt;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use unicode_normalization::UnicodeNormalization;

use crate::files::snapshot::Snapshot;
use crate::files::{FileKind, Files, FolderEntry, Links, Stamp};
use crate::text::codes;

/// Folders and files of a site that belong to it; all else in its folder is none of ours.
pub const PARTS: &[&str] = &["hausblatt.toml", "content", "media", "tables", "themes"];
/// The folder in a theme that keeps the originals of what it copied.
pub(crate) const ORIGINALS: &str = ".originals";

/// The folders that were listed.
#[derive(Debug, Default)]
pub(super) struct Folders {
    /// By their paths in the site.
    pub(super) listed: BTreeMap<String, Folder>,
    /// Whether there are links, which can lead elsewhere without any folder's changing.
    pub(super) has_links: bool,
}

/// A folder that was listed.
#[derive(Clone, Debug)]
pub(super) struct Folder {
    pub(super) disk: Arc<Path>,
    /// Its stamp, looked at before it was listed.
    pub(super) stamp: Stamp,
    /// Whether it may have changed again under the same stamp.
    pub(super) young: bool,
}

impl Folder {
    pub(super) fn of(files: &dyn Files, disk: &Arc<Path>) -> io::Result<Self> {
        let stamp = files.look(disk, Links::Follow)?.stamp;
        Ok(Self { disk: disk.clone(), stamp, young: stamp.is_young(files.now()) })
    }
}

/// Something in the site's folders that is not read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LeftOut {
    /// Its path in the site.
    pub path: String,
    /// Why.
    pub why: Why,
}

/// Why something is not read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Why {
    /// It is a link that leads out of the site's folder.
    Outside,
    /// It is a link to nothing.
    Nowhere,
    /// It is a link to a folder that it is in, or that links have led to before.
    Circle,
    /// It is a pipe, a socket or a device.
    Special,
    /// Its name is not UTF-8.
    Name,
    /// It can't be read at the moment; why. Only where the rest is read all the same.
    Unreadable(String),
}

/// An error with the path that it is about.
pub(super) fn about(path: &str, error: &io::Error) -> io::Error {
    let message = format!("{path} can't be read: {error}");
    io::Error::new(error.kind(), OfFile { message, is_exhaustion: is_exhaustion(error) })
}

/// What is wrong with a file, or what keeps it from being read.
#[derive(Debug)]
struct OfFile {
    message: String,
    is_exhaustion: bool,
}

impl fmt::Display for OfFile {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(&self.message)
    }
}

impl Error for OfFile {}

/// Whether an error says nothing of a file, but that the process or the machine has no means left to look at it.
pub(super) fn is_exhaustion(error: &io::Error) -> bool {
    use rustix::io::Errno;
    let means = |errno| matches!(errno, Errno::MFILE | Errno::NFILE | Errno::NOMEM);
    let of_file = error.get_ref().and_then(|inner| inner.downcast_ref::<OfFile>());
    of_file.is_some_and(|of_file| of_file.is_exhaustion) || Errno::from_io_error(error).is_some_and(means)
}

/// A file as found, before it is looked at.
pub(super) struct FoundFile {
    /// Its path in the site.
    pub(super) path: String,
    /// The folder on disk that it is in.
    pub(super) folder: Arc<Path>,
    /// Its name there.
    pub(super) name: OsString,
}

impl FoundFile {
    /// Where it is on disk.
    pub(super) fn disk(&self) -> PathBuf {
        self.folder.join(&self.name)
    }
}

/// The site's folders as they are read.
pub(super) struct Listing<'r> {
    pub(super) files: &'r dyn Files,
    pub(super) root: &'r Path,
    pub(super) found: Vec<FoundFile>,
    pub(super) folders: BTreeMap<String, Folder>,
    pub(super) has_links: bool,
    pub(super) left_out: Vec<LeftOut>,
    /// Whether what can't be read is left out, instead of being an error.
    lenient: bool,
    /// The real folders that links inside of linked folders have led to.
    linked: HashSet<PathBuf>,
    /// How many links lead to the folder that is being listed.
    depth: usize,
}

impl LeftOut {
    /// It as a warning, or as an error where it belongs to the site.
    pub fn diagnostic(&self) -> Diagnostic {
        let (message, help) = match &self.why {
            Why::Unreadable(error) => {
                let message = format!("this can't be read, so the site is shown without it: {error}");
                return Diagnostic::of(&codes::UNREADABLE, message)
                    .help("look at its permissions")
                    .at(&self.path.as_str().into(), Span::default());
            }
            Why::Outside => {
                ("this link leads out of the site's folder, so it is not read", "copy what it leads to into the site")
            }
            Why::Nowhere => ("this link leads to nothing", "remove it, or put back what it led to"),
            Why::Circle => {
                ("this link leads back to a folder that is read already, so it is not followed", "remove it")
            }
            Why::Special => ("this is a pipe, a socket or a device, so it is not read", "remove it"),
            Why::Name => ("this name is not UTF-8, so what has it is not read", "rename it"),
        };
        Diagnostic::of(&codes::LEFT_OUT, message).help(help).at(&self.path.as_str().into(), Span::default())
    }
}

impl<'r> Listing<'r> {
    /// A listing of the site whose real folder is `root`, with nothing found yet but these folders.
    pub(super) fn new(files: &'r dyn Files, root: &'r Path, folders: BTreeMap<String, Folder>, lenient: bool) -> Self {
        Self {
            lenient,
            files,
            root,
            found: Vec::new(),
            folders,
            has_links: false,
            left_out: Vec::new(),
            linked: HashSet::new(),
            depth: 0,
        }
    }

    /// Adds the files at and below `name` in the site's own folder. Links are followed only to targets inside the site;
    /// what is not followed, and what is not a file, is noted as left out.
    ///
    /// # Errors
    /// What can't be looked at or listed, with its path.
    pub(super) fn collect(&mut self, site: &Arc<Path>, name: &str) -> io::Result<()> {
        let here = FoundFile { path: name.to_owned(), folder: site.clone(), name: name.into() };
        match self.files.look(&here.disk(), Links::Keep) {
            Ok(look) => self.add(here, look.kind),
            Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(()),
            Err(error) => self.unreadable(name, &error),
        }
    }

    /// What is to become of something that can't be read.
    fn unreadable(&mut self, path: &str, error: &io::Error) -> io::Result<()> {
        if !self.lenient || is_exhaustion(error) {
            return Err(about(path, error));
        }
        self.left_out.push(LeftOut { path: path.to_owned(), why: Why::Unreadable(error.to_string()) });
        Ok(())
    }

    fn add(&mut self, here: FoundFile, kind: FileKind) -> io::Result<()> {
        if kind != FileKind::Link {
            return self.add_plain(here, kind);
        }
        self.has_links = true;
        let target = match self.target(&here) {
            Err(error) => return self.unreadable(&here.path, &error),
            Ok(target) => target,
        };
        match target {
            Ok(kind) => {
                self.depth += 1;
                let added = self.add_plain(here, kind);
                self.depth -= 1;
                added
            }
            Err(why) => {
                self.left_out.push(LeftOut { path: here.path, why });
                Ok(())
            }
        }
    }

    fn add_plain(&mut self, here: FoundFile, kind: FileKind) -> io::Result<()> {
        match kind {
            FileKind::File => self.found.push(here),
            FileKind::Folder => {
                let disk: Arc<Path> = here.disk().into();
                let path = here.path;
                let read = Folder::of(self.files, &disk).and_then(|folder| Ok((folder, self.files.list(&disk)?)));
                let (folder, mut entries) = match read {
                    Ok(read) => read,
                    // It has gone since its folder was listed.
                    Err(error) if error.kind() == io::ErrorKind::NotFound => return Ok(()),
                    Err(error) => return self.unreadable(&path, &error),
                };
                self.folders.insert(path.clone(), folder);
                if self.depth > 0 {
                    entries.sort_by(|a, b| a.name.cmp(&b.name));
                }
                for entry in entries {
                    self.add_entry(&path, &disk, entry)?;
                }
            }
            FileKind::Link | FileKind::Other => self.left_out.push(LeftOut { path: here.path, why: Why::Special }),
        }
        Ok(())
    }

    fn add_entry(&mut self, folder: &str, disk: &Arc<Path>, entry: FolderEntry) -> io::Result<()> {
        match path_in_site(&entry, folder) {
            Some(path) => self.add(FoundFile { path, folder: disk.clone(), name: entry.name }, entry.kind),
            None => {
                if entry.name.to_str().is_none() {
                    let path = format!("{folder}/{}", entry.name.to_string_lossy());
                    self.left_out.push(LeftOut { path, why: Why::Name });
                }
                Ok(())
            }
        }
    }

    /// What a link leads to, or why it is not followed: only to what is inside the site, and not round in a circle.
    fn target(&mut self, here: &FoundFile) -> io::Result<Result<FileKind, Why>> {
        let (files, disk) = (self.files, &here.disk());
        let target = match files.real_path(disk) {
            Ok(target) => target,
            Err(error) if error.kind() == io::ErrorKind::NotFound => return Ok(Err(Why::Nowhere)),
            // A link to itself, or through too many others.
            Err(error) if format!("{:?}", error.kind()) == "FilesystemLoop" => return Ok(Err(Why::Circle)),
            Err(error) => return Err(error),
        };
        if !target.starts_with(self.root) {
            return Ok(Err(Why::Outside));
        }
        if self.root.starts_with(&target) || encloses(files, &target, disk) {
            return Ok(Err(Why::Circle));
        }
        let kind = files.look(disk, Links::Follow)?.kind;
        // Each real folder is listed once through links of links, however they lead to each other.
        if kind == FileKind::Folder && self.depth > 0 && !self.linked.insert(target) {
            return Ok(Err(Why::Circle));
        }
        Ok(Ok(kind))
    }

    /// Adds what is in a folder and not known.
    pub(super) fn new_in(&mut self, known: &Snapshot, path: &str, disk: &Arc<Path>) -> io::Result<()> {
        for entry in self.files.list(disk).map_err(|error| about(path, &error))? {
            let is_known = path_in_site(&entry, path).is_some_and(|path| match entry.kind {
                FileKind::Folder => self.folders.contains_key(&path),
                FileKind::File => known.knows(&path, &entry.name),
                FileKind::Link | FileKind::Other => false,
            });
            if !is_known {
                self.add_entry(path, disk, entry)?;
            }
        }
        Ok(())
    }
}

/// The path of an entry of the folder at `path`, if it belongs to the site.
fn path_in_site(entry: &FolderEntry, path: &str) -> Option<String> {
    let name = entry.name.to_str().filter(|name| !name.starts_with('.') || is_originals(path, name))?;
    let mut below = String::with_capacity(path.len() + 1 + name.len());
    below.push_str(path);
    below.push('/');
    if name.is_ascii() {
        below.push_str(name);
    } else {
        below.extend(name.nfc());
    }
    Some(below)
}

/// Whether a folder named so in `folder` keeps a theme's originals; all else that begins with a dot is left alone.
fn is_originals(folder: &str, name: &str) -> bool {
    name == ORIGINALS && folder.strip_prefix("themes/").is_some_and(|theme| !theme.contains('/'))
}

/// Whether a link at `disk` leads to a folder that it is in, which would go round for ever.
fn encloses(files: &dyn Files, target: &Path, disk: &Path) -> bool {
    let folder = disk.parent().and_then(|parent| files.real_path(parent).ok());
    folder.is_some_and(|folder| folder.starts_with(target))
}
