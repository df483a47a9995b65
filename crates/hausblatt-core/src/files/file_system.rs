//! The narrow trait between the core and wherever a site's files are.

use std::any::Any;
use std::ffi::OsString;
use std::fmt;
use std::io::{self, BufRead, Read, Seek};
use std::path::{Component, Path, PathBuf};

use crate::files::Stamp;

/// What is at a path.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FileKind {
    /// A regular file.
    File,
    /// A folder.
    Folder,
    /// A symbolic link.
    Link,
    /// Anything else: a pipe, a device, a socket.
    Other,
}

/// Whether a look at a path follows a symbolic link at its end.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Links {
    /// The look is at what the link leads to.
    Follow,
    /// The look is at the link itself.
    Keep,
}

/// What is known of a path without reading it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Look {
    /// What is there.
    pub kind: FileKind,
    /// Its stamp.
    pub stamp: Stamp,
    /// How many names it has; what is written under one shows under all.
    pub names: u64,
}

/// One entry of a folder.
#[derive(Clone, Debug)]
pub struct FolderEntry {
    /// Its name.
    pub name: OsString,
    /// What it is; links are not followed.
    pub kind: FileKind,
}

/// A file that is read in pieces.
pub trait FileReader: BufRead + Seek {}

impl<T: BufRead + Seek> FileReader for T {}

/// A file system: all that the core reads and writes goes through it. Paths are those of the file system that
/// implements it; errors are those of `std::fs`.
///
/// What writes, and [`Files::open_own`], goes through no link: its paths are real ones, as [`Files::real_path`] and
/// `resolved` give them, and a link that is on the way by then is an error.
///
/// [`Disk`](crate::files::disk::Disk) is the machine's own, [`Memory`](crate::files::memory::Memory) keeps everything in
/// memory, and tests have one that fails on purpose.
pub trait Files: fmt::Debug + Send + Sync {
    /// What is at `path`.
    ///
    /// # Errors
    /// `NotFound` if nothing is there; any other error means that it is not known.
    fn look(&self, path: &Path, links: Links) -> io::Result<Look>;

    /// The entries of a folder, in no particular order. Nothing stays open when it returns.
    ///
    /// # Errors
    /// When the folder can't be listed as a whole.
    fn list(&self, folder: &Path) -> io::Result<Vec<FolderEntry>>;

    /// The absolute path without links and without `.` or `..`, of something that exists.
    ///
    /// # Errors
    /// When it does not exist or can't be reached.
    fn real_path(&self, path: &Path) -> io::Result<PathBuf>;

    /// The bytes of a file, which is expected to have `length` of them: right if it has not changed since it was looked
    /// at, and only a hint.
    ///
    /// # Errors
    /// When it can't be read to its end.
    fn read(&self, path: &Path, length: u64) -> io::Result<Vec<u8>>;

    /// What is at `path`, and how many bytes from its beginning were put into `buffer`: fewer than there is room for if
    /// they are all. Links are followed.
    ///
    /// # Errors
    /// When it can't be looked at, or not be opened.
    fn beginning(&self, path: &Path, buffer: &mut [u8]) -> io::Result<(Look, usize)> {
        let look = self.look(path, Links::Follow)?;
        Ok((look, filled(&mut *self.open(path)?, buffer)?))
    }

    /// A file to be read in pieces.
    ///
    /// # Errors
    /// When it can't be opened.
    fn open(&self, path: &Path) -> io::Result<Box<dyn FileReader>>;

    /// A file of our own (a record, something that a build has written) to be read in pieces.
    ///
    /// # Errors
    /// Also when it is not a regular file, or a link leads to it.
    fn open_own(&self, path: &Path) -> io::Result<Box<dyn FileReader>>;

    /// Writes a file that does not exist yet, with the permissions of `like` if there is one.
    ///
    /// # Errors
    /// `AlreadyExists` if something has this name, even a link that leads to nothing.
    fn create(&self, path: &Path, bytes: &[u8], like: Option<&Path>) -> io::Result<()>;

    /// Writes a file that does not exist yet, and that only its owner can read.
    ///
    /// # Errors
    /// As [`Files::create`].
    fn create_private(&self, path: &Path, bytes: &[u8]) -> io::Result<()> {
        self.create(path, bytes, None)
    }

    /// Copies a file to a path that does not exist yet, with its permissions.
    ///
    /// # Errors
    /// As [`Files::create`], or when the file can't be read.
    fn copy(&self, from: &Path, to: &Path) -> io::Result<()>;

    /// Gives a file another name in one step. What has that name already is replaced.
    ///
    /// # Errors
    /// When nothing was renamed.
    fn rename(&self, from: &Path, to: &Path) -> io::Result<()>;

    /// Writes a file that does not exist yet under the name `temporary`, gives it the name `target`, which is in the same
    /// folder, and looks at it there.
    ///
    /// # Errors
    /// `AlreadyExists` if something has the name `temporary`; with all others, a file of that name is this one.
    fn replace(&self, target: &Path, temporary: &Path, bytes: &[u8]) -> io::Result<Look> {
        self.create(temporary, bytes, None)?;
        self.rename(temporary, target)?;
        self.look(target, Links::Keep)
    }

    /// The same as [`Files::rename`], but never in the place of something.
    ///
    /// # Errors
    /// `AlreadyExists` if something has that name.
    fn rename_to_new(&self, from: &Path, to: &Path) -> io::Result<()>;

    /// Makes one folder, in one that exists.
    ///
    /// # Errors
    /// `AlreadyExists` if something has this name.
    fn create_folder(&self, folder: &Path) -> io::Result<()>;

    /// Removes a file, or a link itself.
    ///
    /// # Errors
    /// When it is still there.
    fn remove_file(&self, path: &Path) -> io::Result<()>;

    /// Removes a folder that is empty.
    ///
    /// # Errors
    /// When it is still there: it holds something, for example.
    fn remove_folder(&self, folder: &Path) -> io::Result<()>;

    /// Takes hold of the file at `path`, which is made if it does not exist, until what is returned is dropped. None if
    /// someone else has hold of it.
    ///
    /// # Errors
    /// When that can't be known, or it is not a regular file.
    fn lock(&self, path: &Path) -> io::Result<Option<Box<dyn Any + Send>>>;

    /// Whether the system reports every change of what is in `folder`, whoever makes it; false where that is not known.
    fn reports_changes(&self, _folder: &Path) -> bool {
        false
    }

    /// Whether the process of this number, which has written here, has certainly ended.
    fn has_ended(&self, process: u32) -> bool;

    /// The present moment by the clock that stamps files, in ns since the Unix epoch.
    fn now(&self) -> i128;
}

/// How many bytes a file had to put into `buffer`.
pub(super) fn filled(file: &mut (impl Read + ?Sized), buffer: &mut [u8]) -> io::Result<usize> {
    let mut count = 0;
    while count < buffer.len() {
        match file.read(&mut buffer[count..]) {
            Ok(0) => break,
            Ok(more) => count += more,
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => return Err(error),
        }
    }
    Ok(count)
}

impl dyn Files + '_ {
    /// Whether anything is at `path`. Only what is surely not there is absent: a look that fails for another reason is an error.
    ///
    /// # Errors
    /// Whatever keeps it from being looked at.
    pub fn is_there(&self, path: &Path, links: Links) -> io::Result<bool> {
        match self.look(path, links) {
            Ok(_) => Ok(true),
            Err(error) if matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::NotADirectory) => Ok(false),
            Err(error) => Err(error),
        }
    }

    /// The absolute path without links and without `.` or `..`, of something that need not exist.
    ///
    /// # Errors
    /// When a link on the way leads to nothing, or what is there can't be looked at.
    pub fn resolved(&self, path: &Path) -> io::Result<PathBuf> {
        match self.real_path(path) {
            Err(error) if error.kind() == io::ErrorKind::NotFound => {}
            known => return known,
        }
        let mut real = PathBuf::from("/");
        let mut missing: Vec<OsString> = Vec::new();
        for part in std::path::absolute(path)?.components() {
            match part {
                Component::ParentDir if missing.pop().is_none() => drop(real.pop()),
                Component::Normal(name) if missing.is_empty() => {
                    let next = real.join(name);
                    match self.look(&next, Links::Keep) {
                        Ok(look) if look.kind == FileKind::Link => real = self.real_path(&next)?,
                        Ok(_) => real = next,
                        Err(error) if error.kind() == io::ErrorKind::NotFound => missing.push(name.to_owned()),
                        Err(error) => return Err(error),
                    }
                }
                Component::Normal(name) => missing.push(name.to_owned()),
                _ => {}
            }
        }
        real.extend(missing);
        Ok(real)
    }

    /// Reads a file of our own to its end.
    ///
    /// # Errors
    /// As [`Files::open_own`].
    pub fn read_own(&self, path: &Path) -> io::Result<Vec<u8>> {
        let mut bytes = Vec::new();
        self.open_own(path)?.read_to_end(&mut bytes)?;
        Ok(bytes)
    }

    /// Makes a folder and those above it that do not exist.
    ///
    /// # Errors
    /// When one can't be made, or something else has its name.
    pub(crate) fn create_folders(&self, folder: &Path) -> io::Result<()> {
        match self.look(folder, Links::Follow) {
            Ok(look) if look.kind == FileKind::Folder => return Ok(()),
            Ok(_) => return Err(io::Error::new(io::ErrorKind::AlreadyExists, "a file is where a folder should be")),
            Err(error) if error.kind() != io::ErrorKind::NotFound => return Err(error),
            Err(_) => {}
        }
        if let Some(parent) = folder.parent().filter(|parent| !parent.as_os_str().is_empty()) {
            self.create_folders(parent)?;
        }
        match self.create_folder(folder) {
            // Someone else was quicker.
            Err(error) if error.kind() == io::ErrorKind::AlreadyExists => Ok(()),
            made => made,
        }
    }
}
