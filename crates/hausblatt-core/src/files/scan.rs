//! Listing the site's folders: which files belong to the site, and where they are on disk.

use std::collections::BTreeMap;
use std::io;
use std::path::{Path, PathBuf};

use unicode_normalization::UnicodeNormalization;

use crate::files::snapshot::Snapshot;
use crate::files::{Entry, Files, Kind, Links, Stamp};

/// Folders and files of a site that belong to it; all else in its folder is none of ours.
pub const PARTS: &[&str] = &["hausblatt.toml", "content", "media", "tables", "themes"];
/// The folder in a theme that keeps the originals of what it copied.
pub const ORIGINALS: &str = ".originals";

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
    pub(super) disk: PathBuf,
    /// Its stamp, looked at before it was listed.
    pub(super) stamp: Stamp,
    /// Whether it may have changed again under the same stamp.
    pub(super) young: bool,
}

impl Folder {
    pub(super) fn of(files: &dyn Files, disk: &Path) -> io::Result<Self> {
        let stamp = files.look(disk, Links::Follow)?.stamp;
        Ok(Self { disk: disk.to_owned(), stamp, young: stamp.is_young(files.now()) })
    }
}

/// A file as found, before it is looked at.
pub(super) struct Found {
    /// Its path in the site.
    pub(super) path: String,
    /// Where it is on disk.
    pub(super) disk: PathBuf,
}

/// The site's folders as they are read.
pub(super) struct Listing<'r> {
    pub(super) files: &'r dyn Files,
    pub(super) root: &'r Path,
    pub(super) found: Vec<Found>,
    pub(super) folders: BTreeMap<String, Folder>,
    pub(super) has_links: bool,
}

impl<'r> Listing<'r> {
    /// A listing of the site whose real folder is `root`, with nothing found yet besides these folders.
    pub(super) fn new(files: &'r dyn Files, root: &'r Path, folders: BTreeMap<String, Folder>) -> Self {
        Self { files, root, found: Vec::new(), folders, has_links: false }
    }

    /// Adds the files at and below `disk`. Links are followed only to targets inside the site.
    pub(super) fn collect(&mut self, disk: PathBuf, path: &str) -> io::Result<()> {
        match self.files.look(&disk, Links::Keep) {
            Ok(look) => self.add(Found { path: path.to_owned(), disk }, look.kind),
            Err(_) => Ok(()),
        }
    }

    fn add(&mut self, here: Found, kind: Kind) -> io::Result<()> {
        let kind = match kind {
            Kind::Link => {
                self.has_links = true;
                match self.target(&here.disk) {
                    Some(kind) => kind,
                    None => return Ok(()),
                }
            }
            kind => kind,
        };
        match kind {
            Kind::File => self.found.push(here),
            Kind::Folder => {
                let Found { path, disk } = here;
                self.folders.insert(path.clone(), Folder::of(self.files, &disk)?);
                for entry in self.files.list(&disk)? {
                    if let Some(below) = path_in_site(&entry, &path) {
                        self.add(Found { path: below, disk: disk.join(&entry.name) }, entry.kind)?;
                    }
                }
            }
            Kind::Link | Kind::Other => {}
        }
        Ok(())
    }

    /// What a link leads to, if that is inside the site and not around the link itself.
    fn target(&self, disk: &Path) -> Option<Kind> {
        let target = self.files.real_path(disk).ok()?;
        let leads_inside = target.starts_with(self.root) && !self.root.starts_with(&target);
        if !leads_inside || encloses(self.files, &target, disk) {
            return None;
        }
        Some(self.files.look(disk, Links::Follow).ok()?.kind)
    }

    /// Adds what is in a folder and not known.
    pub(super) fn new_in(&mut self, known: &Snapshot, path: &str, disk: &Path) -> io::Result<()> {
        for entry in self.files.list(disk)? {
            let Some(path) = path_in_site(&entry, path) else { continue };
            let is_known = match entry.kind {
                Kind::Folder => self.folders.contains_key(&path),
                Kind::File => known.knows(&path, &entry.name),
                Kind::Link | Kind::Other => false,
            };
            if !is_known {
                self.add(Found { path, disk: disk.join(&entry.name) }, entry.kind)?;
            }
        }
        Ok(())
    }
}

/// The path of an entry of the folder at `path`, if it belongs to the site.
fn path_in_site(entry: &Entry, path: &str) -> Option<String> {
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
