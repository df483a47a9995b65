//! A file system in memory, for sites that are not on disk.

use std::any::Any;
use std::collections::{BTreeMap, BTreeSet};
use std::io::{self, Cursor, ErrorKind};
use std::path::{Component, Path, PathBuf};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use crate::files::{FileKind, FileReader, Files, FolderEntry, Links, Look, Stamp};

/// Files in memory, below `/`. Clones share them. There are no links and no permissions, and each change has a stamp of
/// its own.
///
/// ```
/// use std::path::Path;
/// use std::sync::Arc;
/// use hausblatt_core::files::memory::Memory;
/// use hausblatt_core::files::{Depth, Snapshot};
///
/// let files = Memory::of([("content/pages/visit.md", "Come in.")]);
/// files.write("media/gate.png", [0x89, b'P', b'N', b'G']);
/// let snapshot = Snapshot::load(Arc::new(files), Path::new("/"), Depth::Whole).unwrap();
/// assert_eq!(snapshot.file("content/pages/visit.md").unwrap().text().unwrap().as_ref(), "Come in.");
/// ```
#[derive(Clone, Debug)]
pub struct Memory {
    tree: Arc<Mutex<Tree>>,
}

#[derive(Debug)]
struct Tree {
    nodes: BTreeMap<PathBuf, Node>,
    locked: BTreeSet<PathBuf>,
    /// Counts changes; the time of each, in ns since the Unix epoch.
    clock: i128,
}

#[derive(Clone, Debug)]
struct Node {
    /// The bytes of a file; none of a folder.
    bytes: Option<Arc<[u8]>>,
    stamp: Stamp,
}

impl Default for Memory {
    fn default() -> Self {
        let mut tree = Tree { nodes: BTreeMap::new(), locked: BTreeSet::new(), clock: 0 };
        tree.put(PathBuf::from("/"), None);
        Self { tree: Arc::new(Mutex::new(tree)) }
    }
}

impl Memory {
    /// Files with these paths, relative to `/`, and these bytes.
    pub fn of<P: AsRef<Path>, B: AsRef<[u8]>>(files: impl IntoIterator<Item = (P, B)>) -> Self {
        let memory = Self::default();
        for (path, bytes) in files {
            memory.write(path, bytes);
        }
        memory
    }

    /// Makes a file hold `bytes`, with the folders that it needs. A file in the place of one of these is replaced.
    pub fn write(&self, path: impl AsRef<Path>, bytes: impl AsRef<[u8]>) {
        let path = absolute(path.as_ref());
        let mut tree = self.tree();
        for folder in path.ancestors().skip(1) {
            if tree.nodes.get(folder).is_none_or(|node| node.bytes.is_some()) {
                tree.put(folder.to_owned(), None);
            }
        }
        tree.put(path, Some(bytes.as_ref().into()));
    }

    /// Removes a file, or a folder with all that is in it; no matter if nothing is there.
    pub fn remove(&self, path: impl AsRef<Path>) {
        let path = absolute(path.as_ref());
        let mut tree = self.tree();
        tree.nodes.retain(|other, _| !other.starts_with(&path));
        tree.touch_folder_of(&path);
    }

    /// The bytes of a file; none if there is no such file.
    pub fn bytes(&self, path: impl AsRef<Path>) -> Option<Arc<[u8]>> {
        self.tree().nodes.get(&absolute(path.as_ref()))?.bytes.clone()
    }

    /// All files with their absolute paths, by path.
    pub fn all(&self) -> Vec<(PathBuf, Arc<[u8]>)> {
        self.tree().nodes.iter().filter_map(|(path, node)| Some((path.clone(), node.bytes.clone()?))).collect()
    }

    fn tree(&self) -> MutexGuard<'_, Tree> {
        // No change is left half-done by a panic elsewhere.
        self.tree.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

impl Tree {
    fn node(&self, path: &Path) -> io::Result<&Node> {
        if let Some(node) = self.nodes.get(path) {
            return Ok(node);
        }
        let through_file = path.ancestors().skip(1).find_map(|above| self.nodes.get(above)).is_some_and(Node::is_file);
        Err(if through_file { ErrorKind::NotADirectory } else { ErrorKind::NotFound }.into())
    }

    fn file(&self, path: &Path) -> io::Result<&Arc<[u8]>> {
        self.node(path)?.bytes.as_ref().ok_or_else(|| ErrorKind::IsADirectory.into())
    }

    /// Puts something at a path in a folder that exists.
    fn put(&mut self, path: PathBuf, bytes: Option<Arc<[u8]>>) {
        self.clock += 1;
        let length = bytes.as_ref().map_or(0, |bytes| bytes.len() as u64);
        let earlier = self.nodes.get(&path).map(|node| node.stamp.node);
        let node = earlier.unwrap_or((0, u64::try_from(self.clock).unwrap_or(0)));
        let stamp = Stamp { length, node, modified: self.clock, changed: self.clock };
        self.touch_folder_of(&path);
        self.nodes.insert(path, Node { bytes, stamp });
    }

    /// A folder changes when an entry comes, goes or gets another name.
    fn touch_folder_of(&mut self, path: &Path) {
        self.clock += 1;
        if let Some(folder) = path.parent().and_then(|folder| self.nodes.get_mut(folder)) {
            folder.stamp.modified = self.clock;
            folder.stamp.changed = self.clock;
        }
    }

    /// Whether something new may have this path.
    fn check_free(&self, path: &Path) -> io::Result<()> {
        if self.nodes.contains_key(path) {
            return Err(ErrorKind::AlreadyExists.into());
        }
        match path.parent() {
            Some(folder) if self.node(folder)?.is_file() => Err(ErrorKind::NotADirectory.into()),
            _ => Ok(()),
        }
    }

    fn rename(&mut self, from: &Path, to: PathBuf) -> io::Result<()> {
        let kind = self.node(from)?.kind();
        if to.parent().is_some_and(|folder| self.node(folder).is_ok_and(Node::is_file)) {
            return Err(ErrorKind::NotADirectory.into());
        }
        match (kind, self.nodes.get(&to).map(Node::kind)) {
            _ if *from == to => return Ok(()),
            (FileKind::Folder, _) if to.starts_with(from) => return Err(ErrorKind::InvalidInput.into()),
            (FileKind::Folder, Some(FileKind::Folder)) if self.has_entries(&to) => {
                return Err(ErrorKind::DirectoryNotEmpty.into());
            }
            (FileKind::Folder, Some(FileKind::File)) => return Err(ErrorKind::NotADirectory.into()),
            (FileKind::File, Some(FileKind::Folder)) => return Err(ErrorKind::IsADirectory.into()),
            (_, None) => self.check_free(&to)?,
            _ => {}
        }
        self.touch_folder_of(from);
        self.touch_folder_of(&to);
        let below: Vec<PathBuf> = self.nodes.keys().filter(|path| path.starts_with(from)).cloned().collect();
        for path in below {
            if let (Some(mut moved), Ok(rest)) = (self.nodes.remove(&path), path.strip_prefix(from)) {
                let is_itself = rest.as_os_str().is_empty();
                if is_itself {
                    moved.stamp.changed = self.clock;
                }
                self.nodes.insert(if is_itself { to.clone() } else { to.join(rest) }, moved);
            }
        }
        Ok(())
    }

    fn has_entries(&self, folder: &Path) -> bool {
        self.nodes.range(folder.to_owned()..).nth(1).is_some_and(|(path, _)| path.starts_with(folder))
    }
}

impl Node {
    fn is_file(&self) -> bool {
        self.bytes.is_some()
    }

    fn kind(&self) -> FileKind {
        if self.is_file() { FileKind::File } else { FileKind::Folder }
    }
}

/// A path from `/`, without `.` and `..`.
fn absolute(path: &Path) -> PathBuf {
    let mut whole = PathBuf::from("/");
    for part in path.components() {
        match part {
            Component::Normal(name) => whole.push(name),
            Component::ParentDir => {
                whole.pop();
            }
            Component::CurDir | Component::RootDir | Component::Prefix(_) => {}
        }
    }
    whole
}

/// Lets go of a file when it is dropped.
struct Held(Arc<Mutex<Tree>>, PathBuf);

impl Drop for Held {
    fn drop(&mut self) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).locked.remove(&self.1);
    }
}

impl Files for Memory {
    fn look(&self, path: &Path, _: Links) -> io::Result<Look> {
        let tree = self.tree();
        let node = tree.node(&absolute(path))?;
        Ok(Look { kind: node.kind(), stamp: node.stamp, names: 1 })
    }

    fn list(&self, folder: &Path) -> io::Result<Vec<FolderEntry>> {
        let (tree, folder) = (self.tree(), absolute(folder));
        if tree.node(&folder)?.is_file() {
            return Err(ErrorKind::NotADirectory.into());
        }
        let below = tree.nodes.range(folder.clone()..).skip(1).take_while(|(path, _)| path.starts_with(&folder));
        let inside = below.filter(|(path, _)| path.parent() == Some(&folder));
        let entry =
            |(path, node): (&PathBuf, &Node)| Some(FolderEntry { name: path.file_name()?.into(), kind: node.kind() });
        Ok(inside.filter_map(entry).collect())
    }

    fn real_path(&self, path: &Path) -> io::Result<PathBuf> {
        let path = absolute(path);
        self.tree().node(&path)?;
        Ok(path)
    }

    fn read(&self, path: &Path, _: u64) -> io::Result<Vec<u8>> {
        Ok(self.tree().file(&absolute(path))?.to_vec())
    }

    fn open(&self, path: &Path) -> io::Result<Box<dyn FileReader>> {
        Ok(Box::new(Cursor::new(self.tree().file(&absolute(path))?.clone())))
    }

    fn open_own(&self, path: &Path) -> io::Result<Box<dyn FileReader>> {
        self.open(path)
    }

    fn create(&self, path: &Path, bytes: &[u8], _: Option<&Path>) -> io::Result<()> {
        let (mut tree, path) = (self.tree(), absolute(path));
        tree.check_free(&path)?;
        tree.put(path, Some(bytes.into()));
        Ok(())
    }

    fn copy(&self, from: &Path, to: &Path) -> io::Result<()> {
        let (mut tree, to) = (self.tree(), absolute(to));
        let bytes = tree.file(&absolute(from))?.clone();
        tree.check_free(&to)?;
        tree.put(to, Some(bytes));
        Ok(())
    }

    fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.tree().rename(&absolute(from), absolute(to))
    }

    fn rename_to_new(&self, from: &Path, to: &Path) -> io::Result<()> {
        let (mut tree, to) = (self.tree(), absolute(to));
        tree.check_free(&to)?;
        tree.rename(&absolute(from), to)
    }

    fn create_folder(&self, folder: &Path) -> io::Result<()> {
        let (mut tree, folder) = (self.tree(), absolute(folder));
        tree.check_free(&folder)?;
        tree.put(folder, None);
        Ok(())
    }

    fn remove_file(&self, path: &Path) -> io::Result<()> {
        let (mut tree, path) = (self.tree(), absolute(path));
        tree.file(&path)?;
        tree.nodes.remove(&path);
        tree.touch_folder_of(&path);
        Ok(())
    }

    fn remove_folder(&self, folder: &Path) -> io::Result<()> {
        let (mut tree, folder) = (self.tree(), absolute(folder));
        if tree.node(&folder)?.is_file() {
            return Err(ErrorKind::NotADirectory.into());
        }
        if tree.has_entries(&folder) {
            return Err(ErrorKind::DirectoryNotEmpty.into());
        }
        tree.nodes.remove(&folder);
        tree.touch_folder_of(&folder);
        Ok(())
    }

    fn lock(&self, path: &Path) -> io::Result<Option<Box<dyn Any + Send>>> {
        let (mut tree, path) = (self.tree(), absolute(path));
        if !tree.nodes.contains_key(&path) {
            tree.check_free(&path)?;
            tree.put(path.clone(), Some([].into()));
        }
        if !tree.locked.insert(path.clone()) {
            return Ok(None);
        }
        Ok(Some(Box::new(Held(self.tree.clone(), path))))
    }

    fn has_ended(&self, _: u32) -> bool {
        // What is in memory goes with the process that wrote it.
        false
    }

    fn now(&self) -> i128 {
        // Every change has a stamp of its own, so none is young.
        self.tree().clock + 1_000_000_000_000
    }
}
