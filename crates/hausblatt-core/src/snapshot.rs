//! The site's files at one moment: path, stamp and text. Cheap to clone; an overlay holds files that are not on disk.

use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::fs::{self, DirEntry, File, FileType, Metadata};
use std::io::{self, Read};
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock};
use std::time::{Duration, SystemTime};

use rayon::prelude::*;
use unicode_normalization::UnicodeNormalization;

use crate::front::{self, Front};

/// Folders and files of a site that belong to it; all else in its folder is none of ours.
pub const PARTS: &[&str] = &["hausblatt.toml", "content", "media", "tables", "themes"];
/// The folder in a theme that keeps the originals of what it copied.
pub const ORIGINALS: &str = ".originals";
/// Endings of theme files that are read as text.
const THEME_TEXTS: &[&str] = &["html", "xml", "json", "txt", "toml", "let"];
/// A file changed less than this long before it was read may change again under the same stamp.
const YOUNG: Duration = Duration::from_secs(2);

/// How much of content is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Depth {
    /// Up to the end of its front matter: enough to answer lookups.
    Heads,
    /// All of it.
    Whole,
}

/// What tells two versions of a file apart without reading them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub struct Stamp {
    /// Length in bytes.
    pub length: u64,
    /// Device and inode.
    pub node: (u64, u64),
    /// Last change of the content, in ns since the Unix epoch.
    pub modified: i128,
    /// Last change of the inode, likewise.
    pub changed: i128,
}

impl Stamp {
    fn of(metadata: &Metadata) -> Self {
        let nanos = |seconds: i64, nanos: i64| i128::from(seconds) * 1_000_000_000 + i128::from(nanos);
        Self {
            length: metadata.len(),
            node: (metadata.dev(), metadata.ino()),
            modified: nanos(metadata.mtime(), metadata.mtime_nsec()),
            changed: nanos(metadata.ctime(), metadata.ctime_nsec()),
        }
    }

    /// Whether what has it was changed so lately that it may change again and keep it.
    fn is_young(&self) -> bool {
        let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        let age = i128::try_from(now.as_nanos()).unwrap_or(i128::MAX) - self.modified.max(self.changed);
        age < i128::try_from(YOUNG.as_nanos()).unwrap_or(0)
    }

    /// Whether it is the stamp of the file that has this metadata.
    pub fn is_of(&self, metadata: &Metadata) -> bool {
        *self == Self::of(metadata)
    }
}

/// What is held of a file.
#[derive(Clone, Debug)]
pub enum Body {
    /// All its text.
    Text(Arc<str>),
    /// Its text up to the end of its front matter at least.
    Head(Arc<str>),
    /// Nothing: media and assets are read when they are sent.
    OnDemand,
    /// It could not be read; why, and the byte if it is not UTF-8.
    Unreadable(String, usize),
}

/// One file.
#[derive(Debug)]
pub struct FileNode {
    /// Its path, relative to the site, with `/`, in NFC.
    pub path: Arc<str>,
    /// Where it is on disk; empty in an overlay.
    pub disk: PathBuf,
    /// Its stamp.
    pub stamp: Stamp,
    /// What is held of it.
    pub body: Body,
    young: bool,
    front: OnceLock<Front>,
    pixels: OnceLock<Option<(u32, u32)>>,
}

impl FileNode {
    /// A file that is not on disk.
    pub fn in_memory(path: &str, text: &str) -> Self {
        Self {
            path: path.into(),
            disk: PathBuf::new(),
            stamp: Stamp::default(),
            body: Body::Text(text.into()),
            young: false,
            front: OnceLock::new(),
            pixels: OnceLock::new(),
        }
    }

    /// The text that is held.
    pub fn text(&self) -> Option<&Arc<str>> {
        match &self.body {
            Body::Text(text) | Body::Head(text) => Some(text),
            Body::OnDemand | Body::Unreadable(..) => None,
        }
    }

    /// Whether it is the same file with the same content, as far as that is known without reading it again.
    fn is_same(&self, other: &Self) -> bool {
        self.path == other.path && self.stamp == other.stamp && self.text() == other.text()
    }

    /// Its front matter, read once.
    pub fn front(&self) -> &Front {
        self.front.get_or_init(|| self.text().map(|text| front::read(text)).unwrap_or_default())
    }

    /// An image's width and height as `read` finds them, looked for once.
    pub fn pixels(&self, read: fn(&FileNode) -> Option<(u32, u32)>) -> Option<(u32, u32)> {
        *self.pixels.get_or_init(|| read(self))
    }

    /// The whole file, read now where it is not held.
    ///
    /// # Errors
    /// Whatever keeps the file from being read.
    pub fn bytes(&self) -> io::Result<Vec<u8>> {
        match &self.body {
            Body::Text(text) => Ok(text.as_bytes().to_vec()),
            _ => fs::read(&self.disk),
        }
    }

    /// The whole text, read now where only the head is held.
    ///
    /// # Errors
    /// Whatever keeps the file from being read as UTF-8.
    pub fn whole_text(&self) -> io::Result<Arc<str>> {
        match &self.body {
            Body::Text(text) => Ok(text.clone()),
            _ => Ok(fs::read_to_string(&self.disk)?.into()),
        }
    }
}

/// The files of a site.
#[derive(Clone, Debug)]
pub struct Snapshot {
    root: PathBuf,
    depth: Depth,
    files: Arc<[Arc<FileNode>]>,
    overlay: Arc<BTreeMap<Arc<str>, Option<Arc<FileNode>>>>,
    folders: Arc<Folders>,
}

/// The folders that were listed.
#[derive(Debug, Default)]
struct Folders {
    /// By their paths in the site.
    listed: BTreeMap<String, Folder>,
    /// Whether there are links, which can lead elsewhere without any folder's changing.
    has_links: bool,
}

/// A folder that was listed.
#[derive(Clone, Debug)]
struct Folder {
    disk: PathBuf,
    /// Its stamp, looked at before it was listed.
    stamp: Stamp,
    /// Whether it may have changed again under the same stamp.
    young: bool,
}

impl Folder {
    fn of(disk: &Path) -> io::Result<Self> {
        let stamp = Stamp::of(&fs::metadata(disk)?);
        Ok(Self { disk: disk.to_owned(), stamp, young: stamp.is_young() })
    }
}

/// A file as found, before it is looked at.
struct Found {
    path: String,
    at: At,
}

/// Where a file was found. One in a folder that was read is looked at from there, which is quicker than by its path.
enum At {
    Folder(DirEntry),
    Path(PathBuf),
}

impl Found {
    fn disk(&self) -> PathBuf {
        match &self.at {
            At::Folder(entry) => entry.path(),
            At::Path(path) => path.clone(),
        }
    }

    fn metadata(&self) -> io::Result<Metadata> {
        match &self.at {
            At::Folder(entry) => entry.metadata(),
            At::Path(path) => fs::metadata(path),
        }
    }
}

impl Snapshot {
    /// Reads the site at `root`.
    ///
    /// # Errors
    /// When the folder can't be listed. A single file that can't be read is kept as unreadable.
    pub fn load(root: &Path, depth: Depth) -> io::Result<Self> {
        let (files, overlay, folders) = (Arc::new([]) as _, Arc::default(), Arc::default());
        Self { root: root.to_owned(), depth, files, overlay, folders }.refreshed()
    }

    /// A site that is not on disk.
    pub fn in_memory<'t>(files: impl IntoIterator<Item = (&'t str, &'t str)>) -> Self {
        let mut files: Vec<_> =
            files.into_iter().map(|(path, text)| Arc::new(FileNode::in_memory(path, text))).collect();
        files.sort_by(|a, b| a.path.cmp(&b.path));
        let (files, overlay, folders) = (files.into(), Arc::default(), Arc::default());
        Self { root: PathBuf::new(), depth: Depth::Whole, files, overlay, folders }
    }

    /// The files as they are now; those whose stamps stayed keep their nodes.
    ///
    /// # Errors
    /// As [`Snapshot::load`].
    pub fn refreshed(&self) -> io::Result<Self> {
        if let Some(refreshed) = self.refreshed_quickly() {
            return Ok(refreshed);
        }
        let root = self.root.canonicalize()?;
        let mut listing = Listing { root: &root, found: Vec::new(), folders: BTreeMap::new(), has_links: false };
        listing.folders.insert(String::new(), Folder::of(&self.root)?);
        for part in PARTS {
            listing.collect(&self.root.join(part), part)?;
        }
        let Listing { mut found, folders: listed, has_links, .. } = listing;
        found.par_sort_unstable_by(|a, b| a.path.cmp(&b.path));
        let files: Vec<Arc<FileNode>> =
            found.into_par_iter().enumerate().filter_map(|(at, found)| self.node(at, found)).collect();
        Ok(Self { files: files.into(), folders: Arc::new(Folders { listed, has_links }), ..self.clone() })
    }

    /// The same without listing the folders that have not changed; nothing where that can't be relied on.
    fn refreshed_quickly(&self) -> Option<Self> {
        let known = &self.folders;
        if known.has_links || known.listed.is_empty() {
            return None;
        }
        let mut listed = BTreeMap::new();
        let mut changed = Vec::new();
        for (path, folder) in &known.listed {
            // What has gone, its parent knows.
            let Ok(now) = Folder::of(&folder.disk) else { continue };
            if now.stamp != folder.stamp || folder.young {
                changed.push((path, now.clone()));
            }
            listed.insert(path.clone(), now);
        }
        if changed.iter().any(|(path, _)| path.is_empty()) {
            return None;
        }
        let root = self.root.canonicalize().ok()?;
        let look = || self.files.par_iter().filter_map(|node| self.looked_at(node)).collect::<Vec<_>>();
        let (mut files, listing) = rayon::join(look, || {
            let mut listing = Listing { root: &root, found: Vec::new(), folders: listed, has_links: false };
            let listed = changed.iter().all(|(path, folder)| listing.new_in(self, path, &folder.disk).is_ok());
            (listed && !listing.has_links).then_some(listing)
        });
        let Listing { found, folders: listed, .. } = listing?;
        if !found.is_empty() {
            files.extend(found.into_iter().filter_map(|found| self.node(usize::MAX, found)));
            files.sort_by(|a, b| a.path.cmp(&b.path));
        }
        Some(Self { files: files.into(), folders: Arc::new(Folders { listed, has_links: false }), ..self.clone() })
    }

    /// The same with the files at these places of the disk as they are now, all others untouched; nothing where one has
    /// come or gone, so that everything must be looked at.
    pub fn with_changed(&self, places: &[PathBuf]) -> Option<Self> {
        let mut files = self.files.to_vec();
        for place in places {
            let path = place.strip_prefix(&self.root).ok()?.to_str()?;
            match files.binary_search_by(|node| (*node.path).cmp(path)) {
                Ok(at) => files[at] = self.looked_at(&files[at])?,
                // A file that editors write before they rename it is gone by now.
                Err(_) if fs::symlink_metadata(place).is_err() => {}
                Err(_) => return None,
            }
        }
        Some(Self { files: files.into(), ..self.clone() })
    }

    /// The node of a file that is known: the same one if its stamp stayed, else a new one; none if it has gone.
    fn looked_at(&self, node: &Arc<FileNode>) -> Option<Arc<FileNode>> {
        let metadata = fs::metadata(&node.disk).ok().filter(Metadata::is_file)?;
        let stamp = Stamp::of(&metadata);
        if node.stamp == stamp && !node.young {
            return Some(node.clone());
        }
        let found = Found { path: node.path.to_string(), at: At::Path(node.disk.clone()) };
        Some(Arc::new(read(found, stamp, self.depth)))
    }

    /// Whether this very file is known.
    fn knows(&self, found: &Found) -> bool {
        let at = self.files.binary_search_by(|node| (*node.path).cmp(&found.path));
        at.is_ok_and(|at| self.files[at].disk.file_name() == found.disk().file_name())
    }

    /// The node of a file: the one at hand if its stamp stayed, else a new one; none if it has gone by now. Most often
    /// it is where it was the last time.
    fn node(&self, at: usize, found: Found) -> Option<Arc<FileNode>> {
        let stamp = Stamp::of(&found.metadata().ok()?);
        let there = self.files.get(at).filter(|node| *node.path == *found.path);
        let known = there.or_else(|| {
            let at = self.files.binary_search_by(|node| (*node.path).cmp(&found.path)).ok()?;
            self.files.get(at)
        });
        let kept = known.filter(|node| node.stamp == stamp && !node.young);
        Some(kept.cloned().unwrap_or_else(|| Arc::new(read(found, stamp, self.depth))))
    }

    /// The same with a file put in, changed or, with no text, taken away, without touching the disk.
    #[must_use]
    pub fn with(&self, path: &str, text: Option<&str>) -> Self {
        let mut overlay = (*self.overlay).clone();
        overlay.insert(path.into(), text.map(|text| Arc::new(FileNode::in_memory(path, text))));
        Self { overlay: Arc::new(overlay), ..self.clone() }
    }

    /// The paths of the files that are not what they were in `older`: new ones, changed ones, and those that have gone.
    pub fn changed_since(&self, older: &Self) -> Vec<Arc<str>> {
        let (now, then) = (self.files(), older.files());
        let (mut now, mut then) = (now.into_iter().peekable(), then.into_iter().peekable());
        let mut changed = Vec::new();
        loop {
            let order = match (now.peek(), then.peek()) {
                (None, None) => return changed,
                (Some(_), None) => Ordering::Less,
                (None, Some(_)) => Ordering::Greater,
                (Some(a), Some(b)) => a.path.cmp(&b.path),
            };
            let new = if order.is_le() { now.next() } else { None };
            let old = if order.is_ge() { then.next() } else { None };
            let same = matches!((new, old), (Some(new), Some(old)) if Arc::ptr_eq(new, old) || new.is_same(old));
            changed.extend(new.or(old).filter(|_| !same).map(|node| node.path.clone()));
        }
    }

    /// The site's folder.
    pub fn root(&self) -> &Path {
        &self.root
    }

    /// A file by its path.
    pub fn file(&self, path: &str) -> Option<&Arc<FileNode>> {
        if let Some(node) = self.overlay.get(path) {
            return node.as_ref();
        }
        let at = self.files.binary_search_by(|node| (*node.path).cmp(path)).ok()?;
        self.files.get(at)
    }

    /// All files, by path.
    pub fn files(&self) -> Vec<&Arc<FileNode>> {
        let on_disk = self.files.iter().filter(|node| !self.overlay.contains_key(&node.path));
        let mut all: Vec<_> = on_disk.chain(self.overlay.values().flatten()).collect();
        if !self.overlay.is_empty() {
            all.sort_by(|a, b| a.path.cmp(&b.path));
        }
        all
    }

    /// The files below `folder`, which ends in `/`.
    pub fn below(&self, folder: &str) -> impl Iterator<Item = &Arc<FileNode>> {
        let from = self.files.partition_point(|node| &*node.path < folder);
        let on_disk = self.files[from..].iter().take_while(move |node| node.path.starts_with(folder));
        let kept = on_disk.filter(|node| !self.overlay.contains_key(&node.path));
        let added = self.overlay.values().flatten().filter(move |node| node.path.starts_with(folder));
        kept.chain(added)
    }
}

/// The site's folders as they are read.
struct Listing<'r> {
    root: &'r Path,
    found: Vec<Found>,
    folders: BTreeMap<String, Folder>,
    has_links: bool,
}

impl Listing<'_> {
    /// Adds the files at and below `disk`. Links are followed only to targets inside the site.
    fn collect(&mut self, disk: &Path, path: &str) -> io::Result<()> {
        match fs::symlink_metadata(disk) {
            Ok(metadata) => self.add(At::Path(disk.to_owned()), path.to_owned(), metadata.file_type()),
            Err(_) => Ok(()),
        }
    }

    fn add(&mut self, at: At, path: String, kind: FileType) -> io::Result<()> {
        let here = Found { path, at };
        if kind.is_file() {
            self.found.push(here);
            return Ok(());
        }
        let (path, disk) = (here.path.as_str(), here.disk());
        let kind = if kind.is_symlink() {
            self.has_links = true;
            match (disk.canonicalize(), fs::metadata(&disk)) {
                (Ok(target), Ok(metadata))
                    if target.starts_with(self.root)
                        && !self.root.starts_with(&target)
                        && !encloses(&target, &disk) =>
                {
                    metadata.file_type()
                }
                _ => return Ok(()),
            }
        } else {
            kind
        };
        if kind.is_dir() {
            self.folders.insert(path.to_owned(), Folder::of(&disk)?);
            for entry in fs::read_dir(&disk)? {
                if let Some((entry, below)) = of_site(entry?, path) {
                    let kind = entry.file_type()?;
                    self.add(At::Folder(entry), below, kind)?;
                }
            }
        } else if kind.is_file() {
            // What a link leads to is looked at, not the link.
            self.found.push(Found { at: At::Path(disk), ..here });
        }
        Ok(())
    }

    /// Adds what is in a folder and not known.
    fn new_in(&mut self, known: &Snapshot, path: &str, disk: &Path) -> io::Result<()> {
        for entry in fs::read_dir(disk)? {
            let Some((entry, path)) = of_site(entry?, path) else { continue };
            let kind = entry.file_type()?;
            let found = Found { path, at: At::Folder(entry) };
            let is_known = match kind.is_dir() {
                true => self.folders.contains_key(&found.path),
                false => kind.is_file() && known.knows(&found),
            };
            if !is_known {
                self.add(found.at, found.path, kind)?;
            }
        }
        Ok(())
    }
}

/// An entry of the folder at `path` with its own path, if it belongs to the site.
fn of_site(entry: DirEntry, path: &str) -> Option<(DirEntry, String)> {
    let name = entry.file_name();
    let name = name.to_str().filter(|name| !name.starts_with('.') || is_originals(path, name))?;
    let mut below = String::with_capacity(path.len() + 1 + name.len());
    below.push_str(path);
    below.push('/');
    if name.is_ascii() {
        below.push_str(name);
    } else {
        below.extend(name.nfc());
    }
    Some((entry, below))
}

/// Whether a folder named so in `folder` keeps a theme's originals; all else that begins with a dot is left alone.
fn is_originals(folder: &str, name: &str) -> bool {
    name == ORIGINALS && folder.strip_prefix("themes/").is_some_and(|theme| !theme.contains('/'))
}

/// Whether a link at `disk` leads to a folder that it stands in, which would go round for ever.
fn encloses(target: &Path, disk: &Path) -> bool {
    disk.parent().and_then(|parent| parent.canonicalize().ok()).is_some_and(|parent| parent.starts_with(target))
}

fn read(found: Found, stamp: Stamp, depth: Depth) -> FileNode {
    let young = stamp.is_young();
    let disk = found.disk();
    let body = body(&found.path, &disk, stamp.length, depth);
    FileNode { path: found.path.into(), disk, stamp, body, young, front: OnceLock::new(), pixels: OnceLock::new() }
}

fn body(path: &str, disk: &Path, length: u64, depth: Depth) -> Body {
    let read = match path.split('/').next() {
        Some("content") if depth == Depth::Heads => return head(disk),
        Some("content" | "tables" | "hausblatt.toml") => true,
        Some("themes") => is_theme_text(path),
        _ => false,
    };
    if !read {
        return Body::OnDemand;
    }
    match whole(disk, length) {
        Ok(bytes) => text(bytes),
        Err(error) => Body::Unreadable(format!("this file can't be read: {error}"), 0),
    }
}

/// Reads a file whose length was just looked at. With room for one byte more, a read that comes back with less has
/// come to the end, and need not be asked again.
fn whole(disk: &Path, length: u64) -> io::Result<Vec<u8>> {
    let mut bytes = vec![0; usize::try_from(length).unwrap_or(0) + 1];
    let count = File::open(disk)?.read(&mut bytes)?;
    if count as u64 != length {
        // It has changed by now, or is none that is read in one go.
        return fs::read(disk);
    }
    bytes.truncate(count);
    Ok(bytes)
}

fn text(bytes: Vec<u8>) -> Body {
    match String::from_utf8(bytes) {
        Ok(text) => Body::Text(text.into()),
        Err(error) => {
            let at = error.utf8_error().valid_up_to();
            not_text(&error.into_bytes(), at)
        }
    }
}

/// A file whose bytes from `at` on are not UTF-8.
fn not_text(bytes: &[u8], at: usize) -> Body {
    let line = bytes[..at].iter().filter(|&&byte| byte == b'\n').count() + 1;
    Body::Unreadable(format!("this file is not UTF-8: line {line} holds other bytes"), at)
}

fn is_theme_text(path: &str) -> bool {
    let ending = path.rsplit_once('.').map_or("", |(_, ending)| ending);
    THEME_TEXTS.contains(&ending) && !path.contains("/assets/")
}

/// Reads a content file in growing pieces, up to the end of its front matter.
fn head(disk: &Path) -> Body {
    let attempt = || -> io::Result<Body> {
        let mut file = File::open(disk)?;
        let mut bytes = Vec::with_capacity(512);
        for size in [512u64, 8 << 10, 2 * front::MOST_BYTES as u64] {
            let wanted = size - bytes.len() as u64;
            let count = (&mut file).take(wanted).read_to_end(&mut bytes)?;
            let end = (count as u64) < wanted;
            let valid = valid_part(&bytes, end);
            match valid {
                Ok(head) if end || front::is_whole(head) => return Ok(Body::Head(head.into())),
                Ok(_) => {}
                Err(at) => return Ok(not_text(&bytes, at)),
            }
        }
        Ok(Body::Head(valid_part(&bytes, false).unwrap_or("").into()))
    };
    attempt().unwrap_or_else(|error| Body::Unreadable(format!("this file can't be read: {error}"), 0))
}

/// The text in `bytes`; unless they are all of it, a character cut at the end is left out.
fn valid_part(bytes: &[u8], all: bool) -> Result<&str, usize> {
    match std::str::from_utf8(bytes) {
        Ok(text) => Ok(text),
        Err(error) if !all && error.error_len().is_none() => {
            Ok(std::str::from_utf8(&bytes[..error.valid_up_to()]).unwrap_or(""))
        }
        Err(error) => Err(error.valid_up_to()),
    }
}
