//! The site's files at one moment: path, stamp and text. Cheap to clone; an overlay holds files that are not on disk.

use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::ffi::OsStr;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering as AtomicOrdering};

use rayon::prelude::*;

use crate::files::memory::Memory;
use crate::files::scan::{Folder, Folders, FoundFile, LeftOut, Listing, PARTS, Why, about, is_exhaustion};
use crate::files::{FileKind, FileNode, Files, Links, Look, MadeImages};
use crate::threads::FILES;

/// With more files than this, front matter that is read with them takes too much room until it is entered: it is let go, and
/// read again then.
const MANY: usize = 200_000;

/// How much of content is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Depth {
    /// Up to the end of its front matter: enough to answer lookups.
    Heads,
    /// All of it, of which no more is held than its front matter and digests, where nothing is wrong with the rest: that
    /// is read again when it is needed.
    Fronts,
    /// The same, and front matter is held as text only, once it is entered: of many files there is a lot of it.
    Digests,
    /// All of it, and all of it is held.
    Whole,
}

/// The files of a site.
#[derive(Clone, Debug)]
pub struct Snapshot {
    file_system: Arc<dyn Files>,
    root: PathBuf,
    depth: Depth,
    files: Arc<[Arc<FileNode>]>,
    overlay: Arc<BTreeMap<Arc<str>, Option<Arc<FileNode>>>>,
    folders: Arc<Folders>,
    left_out: Arc<[LeftOut]>,
    lenient: bool,
    reported: bool,
    images: Arc<MadeImages>,
}

impl Snapshot {
    /// Reads the site at `root` of a file system.
    ///
    /// # Errors
    /// The path that can't be listed or looked at, and why: what is there is not known then. A single file that can't be
    /// read is kept as unreadable.
    pub fn load(file_system: Arc<dyn Files>, root: &Path, depth: Depth) -> io::Result<Self> {
        Self::empty(file_system, root, depth).refreshed()
    }

    /// A site of these files alone, none of them on disk.
    pub fn in_memory<'t>(files: impl IntoIterator<Item = (&'t str, &'t str)>) -> Self {
        let empty = Self::empty(Arc::new(Memory::of(files)), Path::new("/"), Depth::Whole);
        // Nothing in memory fails to be read; if it did, nothing would be there.
        empty.refreshed().unwrap_or(empty)
    }

    fn empty(file_system: Arc<dyn Files>, root: &Path, depth: Depth) -> Self {
        Self {
            file_system,
            root: root.to_owned(),
            depth,
            files: Arc::new([]),
            overlay: Arc::default(),
            folders: Arc::default(),
            left_out: Arc::new([]),
            lenient: false,
            reported: false,
            images: Arc::default(),
        }
    }

    /// The same, which from now on reads what it can: what can't be read is left out, and said to be.
    #[must_use]
    pub fn leniently(self) -> Self {
        Self { lenient: true, ..self }
    }

    /// Whether there are links, so that a file may change under one of its names and show under another.
    pub fn has_links(&self) -> bool {
        self.folders.has_links
    }

    /// Whether every change of its files is reported by the system: they are where nobody else writes, and each has one name. It
    /// is known after files were looked at again, and false until then.
    pub fn is_reported(&self) -> bool {
        self.reported
    }

    /// The files as they are now; those whose stamps stayed keep their nodes.
    ///
    /// # Errors
    /// As [`Snapshot::load`].
    pub fn refreshed(&self) -> io::Result<Self> {
        if let Some(refreshed) = self.refreshed_quickly() {
            return Ok(refreshed);
        }
        let files = &*self.file_system;
        let root = files.real_path(&self.root)?;
        let mut listing = Listing::new(files, &root, BTreeMap::new(), self.lenient);
        let site: Arc<Path> = self.root.as_path().into();
        listing.folders.insert(String::new(), Folder::of(files, &site)?);
        for part in PARTS {
            listing.collect(&site, part)?;
        }
        let Listing { mut found, folders: listed, has_links, mut left_out, .. } = listing;
        found.par_sort_unstable_by(|a, b| a.path.cmp(&b.path));
        let are_many = self.depth == Depth::Digests && found.len() > MANY;
        let nodes = found.into_par_iter().with_max_len(FILES).enumerate().map(|(at, found)| {
            let path = self.lenient.then(|| found.path.clone());
            let node = self.node(at, found);
            if let Ok(Some(node)) = &node
                && are_many
                && node.path.starts_with("content/")
            {
                node.let_front_matter_go();
            }
            match (node, path) {
                (Err(error), Some(path)) if !is_exhaustion(&error) => {
                    Ok(Err(LeftOut { path, why: Why::Unreadable(error.to_string()) }))
                }
                (node, _) => node.map(Ok),
            }
        });
        let nodes = nodes.collect::<io::Result<Vec<Result<Option<Arc<FileNode>>, LeftOut>>>>()?;
        let mut files = Vec::with_capacity(nodes.len());
        for node in nodes {
            match node {
                Ok(node) => files.extend(node),
                Err(left) => left_out.push(left),
            }
        }
        left_out.sort_by(|a, b| a.path.cmp(&b.path));
        Ok(Self {
            files: files.into(),
            folders: Arc::new(Folders { listed, has_links }),
            left_out: left_out.into(),
            reported: false,
            ..self.clone()
        })
    }

    /// The same without listing the folders that have not changed; nothing where that can't be relied on.
    fn refreshed_quickly(&self) -> Option<Self> {
        let known = &self.folders;
        if known.has_links || known.listed.is_empty() || !self.left_out.is_empty() {
            return None;
        }
        let mut listed = BTreeMap::new();
        let mut changed = Vec::new();
        for (path, folder) in &known.listed {
            // What has gone, its parent knows.
            let now = match Folder::of(&*self.file_system, &folder.disk) {
                Ok(now) => now,
                Err(error) if error.kind() == io::ErrorKind::NotFound => continue,
                Err(_) => return None,
            };
            if now.stamp != folder.stamp || folder.young {
                changed.push((path, now.clone()));
            }
            listed.insert(path.clone(), now);
        }
        if changed.first().is_some_and(|(path, _)| path.is_empty()) {
            // What else is in the site's own folder is none of ours.
            if !self.has_no_new_part() {
                return None;
            }
            changed.remove(0);
        }
        let root = self.file_system.real_path(&self.root).ok()?;
        let shared = AtomicBool::new(false);
        let look = || {
            let looked = self.files.par_iter().with_max_len(FILES).map(|node| self.looked_at(node, &shared));
            looked.collect::<io::Result<Vec<Option<Arc<FileNode>>>>>()
        };
        let (files, listing) = rayon::join(look, || {
            let mut listing = Listing::new(&*self.file_system, &root, listed, false);
            let listed = changed.iter().all(|(path, folder)| listing.new_in(self, path, &folder.disk).is_ok());
            (listed && !listing.has_links && listing.left_out.is_empty()).then_some(listing)
        });
        let mut files: Vec<Arc<FileNode>> = files.ok()?.into_iter().flatten().collect();
        let Listing { found, folders: listed, .. } = listing?;
        let reported = found.is_empty() && !shared.into_inner() && self.are_reported(&listed, &files);
        if !found.is_empty() {
            let found: io::Result<Vec<_>> = found.into_iter().map(|found| self.node(usize::MAX, found)).collect();
            files.extend(found.ok()?.into_iter().flatten());
            files.sort_by(|a, b| a.path.cmp(&b.path));
        }
        let folders = Arc::new(Folders { listed, has_links: false });
        Some(Self { files: files.into(), folders, reported, ..self.clone() })
    }

    /// Whether each part of the site is what it was, a folder or a file, or has gone.
    fn has_no_new_part(&self) -> bool {
        PARTS.iter().all(|part| match self.file_system.look(&self.root.join(part), Links::Keep) {
            Ok(look) if look.kind == FileKind::Folder => self.folders.listed.contains_key(*part),
            Ok(look) => look.kind == FileKind::File && self.knows(part, part.as_ref()),
            Err(error) => error.kind() == io::ErrorKind::NotFound,
        })
    }

    /// Whether the system reports all changes of these folders and of the files in them.
    fn are_reported(&self, folders: &BTreeMap<String, Folder>, files: &[Arc<FileNode>]) -> bool {
        let devices: BTreeMap<u64, &Path> =
            folders.values().map(|folder| (folder.stamp.node.0, &*folder.disk)).collect();
        devices.values().all(|folder| self.file_system.reports_changes(folder))
            && files.iter().all(|node| devices.contains_key(&node.stamp.node.0))
    }

    /// The same with the files at these places of the disk as they are now, all others untouched; nothing where one has
    /// come or gone, so that everything must be looked at.
    pub fn with_changed(&self, places: &[PathBuf]) -> Option<Self> {
        let mut files = self.files.to_vec();
        let shared = AtomicBool::new(!self.reported);
        for place in places {
            let path = place.strip_prefix(&self.root).ok()?.to_str()?;
            match files.binary_search_by(|node| (*node.path).cmp(path)) {
                Ok(at) => files[at] = self.looked_at(&files[at], &shared).ok()??,
                // A file that editors write before they rename it is gone by now.
                Err(_) if is_gone(&self.file_system.look(place, Links::Keep)) => {}
                Err(_) => return None,
            }
        }
        Some(Self { files: files.into(), reported: !shared.into_inner(), ..self.clone() })
    }

    /// The node of a file that is known: the same one if its stamp stayed, else a new one; none if it has gone. `shared` is set
    /// if it has other names.
    fn looked_at(&self, node: &Arc<FileNode>, shared: &AtomicBool) -> io::Result<Option<Arc<FileNode>>> {
        let look = match self.file_system.look(&node.disk(), Links::Follow) {
            Ok(look) if look.kind == FileKind::File => look,
            Err(error) if error.kind() != io::ErrorKind::NotFound => return Err(about(&node.path, &error)),
            _ => return Ok(None),
        };
        if look.names > 1 {
            shared.store(true, AtomicOrdering::Relaxed);
        }
        if node.is_of(&look.stamp) {
            return Ok(Some(node.clone()));
        }
        FileNode::read(&self.file_system, node.found(), look.stamp, self.depth).map(Some)
    }

    /// Whether the file of this name on disk is the one that is known by this path.
    pub(super) fn knows(&self, path: &str, name: &OsStr) -> bool {
        let at = self.files.binary_search_by(|node| (*node.path).cmp(path));
        at.is_ok_and(|at| self.files[at].name_on_disk() == name)
    }

    /// The node of a file: the present one if its stamp stayed, else a new one; none if it has gone by now. Most often
    /// it is where it was the last time.
    fn node(&self, at: usize, found: FoundFile) -> io::Result<Option<Arc<FileNode>>> {
        // Where nothing is known yet, the file is opened and looked at in one.
        let found = match self.depth {
            Depth::Heads if self.files.is_empty() => FileNode::begun(&self.file_system, found),
            Depth::Fronts | Depth::Digests if self.files.is_empty() => FileNode::read_at_once(&self.file_system, found),
            _ => Err(found),
        };
        let found = match found {
            Ok(node) => return Ok(Some(node)),
            Err(found) => found,
        };
        let stamp = match self.file_system.look(&found.disk(), Links::Follow) {
            Ok(look) => look.stamp,
            Err(error) if error.kind() == io::ErrorKind::NotFound => return Ok(None),
            Err(error) => return Err(if self.lenient { error } else { about(&found.path, &error) }),
        };
        let there = self.files.get(at).filter(|node| *node.path == *found.path);
        let known = there.or_else(|| {
            let at = self.files.binary_search_by(|node| (*node.path).cmp(&found.path)).ok()?;
            self.files.get(at)
        });
        let kept = known.filter(|node| node.is_of(&stamp));
        match kept {
            Some(kept) => Ok(Some(kept.clone())),
            None => FileNode::read(&self.file_system, found, stamp, self.depth).map(Some),
        }
    }

    /// What is in the site's folders and is not read, in the order of the paths.
    pub fn left_out(&self) -> &[LeftOut] {
        &self.left_out
    }

    /// The same with a file put in, changed or, with no text, taken away, without touching the disk.
    #[must_use]
    pub fn with(&self, path: &str, text: Option<&str>) -> Self {
        let mut snapshot = self.clone();
        snapshot.put(path, text);
        snapshot
    }

    /// Puts a file in at another path, with what it holds.
    pub(crate) fn put_elsewhere(&mut self, node: &FileNode, path: &str) {
        let node = Arc::new(node.elsewhere(path));
        Arc::make_mut(&mut self.overlay).insert(path.into(), Some(node));
    }

    /// Puts a file in, changes it or, with no text, takes it away, without touching the disk.
    pub(crate) fn put(&mut self, path: &str, text: Option<&str>) {
        let node = text.map(|text| Arc::new(FileNode::in_memory(path, text)));
        Arc::make_mut(&mut self.overlay).insert(path.into(), node);
    }

    /// The same without the files for which `keep` does not hold. It is not to be refreshed, which would find them again.
    pub(crate) fn keeping(&self, keep: impl Fn(&FileNode) -> bool) -> Self {
        let files = self.files().into_iter().filter(|node| keep(node)).cloned().collect();
        Self { files, overlay: Arc::default(), ..self.clone() }
    }

    /// The paths of the files that are not what they were in `older`: new ones, changed ones, and those that have gone.
    pub fn changed_since(&self, older: &Self) -> Vec<Arc<str>> {
        let (now, then) = (self.files(), older.files());
        let (mut now, mut then) = (now.into_iter().peekable(), then.into_iter().peekable());
        let mut changed = Vec::new();
        loop {
            // Most are the same, and looked at no further.
            while let (Some(new), Some(old)) = (now.peek(), then.peek())
                && Arc::ptr_eq(new, old)
            {
                now.next();
                then.next();
            }
            let order = match (now.peek(), then.peek()) {
                (None, None) => return changed,
                (Some(_), None) => Ordering::Less,
                (None, Some(_)) => Ordering::Greater,
                (Some(a), Some(b)) => a.path.cmp(&b.path),
            };
            let new = if order.is_le() { now.next() } else { None };
            let old = if order.is_ge() { then.next() } else { None };
            let same = matches!((new, old), (Some(new), Some(old)) if new.is_same(old));
            changed.extend(new.or(old).filter(|_| !same).map(|node| node.path.clone()));
        }
    }

    /// How much of content is read.
    pub fn depth(&self) -> Depth {
        self.depth
    }

    /// Where the files are.
    pub fn file_system(&self) -> &Arc<dyn Files> {
        &self.file_system
    }

    /// The images that are made of its files, those of earlier snapshots included.
    pub fn made_images(&self) -> &MadeImages {
        &self.images
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
        let mut all: Vec<_> = self.files.iter().collect();
        // From the last, so that what is still to come keeps its place.
        for (path, node) in self.overlay.iter().rev() {
            match (self.files.binary_search_by(|node| node.path.cmp(path)), node) {
                (Ok(at), Some(node)) => all[at] = node,
                (Ok(at), None) => drop(all.remove(at)),
                (Err(at), Some(node)) => all.insert(at, node),
                (Err(_), None) => {}
            }
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

fn is_gone(look: &io::Result<Look>) -> bool {
    look.as_ref().is_err_and(|error| error.kind() == io::ErrorKind::NotFound)
}
