//! Writing: under a temporary name, then renamed, so that a file is either as it was or as it should be.

use std::hash::{BuildHasher, RandomState};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::LazyLock;
use std::sync::atomic::{AtomicU64, Ordering};

use crate::files::{Files, Links, Look};

/// How the names of temporary files begin.
const TEMPORARY: &str = ".hausblatt-";

/// What is to become of a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Write {
    /// Its path, relative to the site.
    pub path: String,
    /// What it shall hold; none if it shall go.
    pub bytes: Option<Vec<u8>>,
    /// What it must hold now; none if it must not be there.
    pub instead: Option<Vec<u8>>,
}

impl Write {
    /// A new file.
    pub fn new(path: impl Into<String>, bytes: impl Into<Vec<u8>>) -> Self {
        Self { path: path.into(), bytes: Some(bytes.into()), instead: None }
    }

    /// A file that holds something else now.
    pub fn instead_of(path: impl Into<String>, earlier: impl Into<Vec<u8>>, bytes: impl Into<Vec<u8>>) -> Self {
        Self { path: path.into(), bytes: Some(bytes.into()), instead: Some(earlier.into()) }
    }

    /// A file that goes, if it still holds this.
    pub fn removal(path: impl Into<String>, earlier: impl Into<Vec<u8>>) -> Self {
        Self { path: path.into(), bytes: None, instead: Some(earlier.into()) }
    }

    /// What it does to the file, in a word.
    pub fn did(&self) -> &'static str {
        match (&self.instead, &self.bytes) {
            (None, _) => "added",
            (Some(_), None) => "removed",
            (Some(before), Some(after)) if before == after => "kept",
            (Some(_), Some(_)) => "changed",
        }
    }
}

/// Writes these files below `root`: all of them, or none. New bytes are first put beside their places under temporary
/// names, then take their places in the order given; when one can't, those before it are taken back. None is overwritten
/// that is not as it was when it was read, and a link is written through. A new file that is there already with the same
/// bytes was written by a run that was ended: it stays.
///
/// # Errors
/// The path at which it stopped, and why; no file is changed.
pub fn write_all(files: &dyn Files, root: &Path, writes: &[Write]) -> Result<(), (String, io::Error)> {
    let root = files.real_path(root).map_err(|error| (root.display().to_string(), error))?;
    let mut changes = Changes { files, root: &root, swept: Vec::new(), folders: Vec::new() };
    let mut staged: Vec<Staged<'_>> = Vec::new();
    for write in writes {
        match changes.stage(write) {
            Ok(change) => staged.push(change),
            Err(error) => {
                changes.discard(&staged);
                return Err((write.path.clone(), error));
            }
        }
    }
    for (at, change) in staged.iter().enumerate() {
        if let Err(error) = changes.place(change) {
            for done in staged[..at].iter().rev() {
                changes.take_back(done);
            }
            changes.discard(&staged[at..]);
            return Err((writes[at].path.clone(), error));
        }
    }
    Ok(())
}

/// One file's change, ready to take its place.
enum Staged<'a> {
    /// It is as it should be.
    Same,
    /// A new file's bytes, in a temporary file.
    New { temporary: PathBuf, target: PathBuf },
    /// A file's new bytes, in a temporary file, and what it holds now.
    Replaced { temporary: PathBuf, target: PathBuf, earlier: &'a [u8] },
    /// A file that goes, and what it holds now.
    Removed { target: PathBuf, earlier: &'a [u8], path: &'a str },
}

/// What several changes have in common.
struct Changes<'a> {
    files: &'a dyn Files,
    /// The site's folder, as a real path.
    root: &'a Path,
    /// The folders that were rid of left-overs.
    swept: Vec<PathBuf>,
    /// The folders that were made for new files, outer ones first.
    folders: Vec<PathBuf>,
}

impl Changes<'_> {
    fn stage<'w>(&mut self, write: &'w Write) -> io::Result<Staged<'w>> {
        let files = self.files;
        let path = self.inside(&write.path)?;
        let Some(bytes) = &write.bytes else {
            let earlier = write.instead.as_deref().unwrap_or_default();
            unchanged(files, &path, earlier)?;
            return Ok(Staged::Removed { target: path, earlier, path: &write.path });
        };
        if let Some(folder) = path.parent() {
            self.make_folder(folder)?;
        }
        match &write.instead {
            None if files.is_there(&path, Links::Keep)? && holds(files, &path, bytes).unwrap_or(false) => {
                Ok(Staged::Same)
            }
            None if files.is_there(&path, Links::Keep)? => {
                Err(io::Error::new(io::ErrorKind::AlreadyExists, "there is a file of this name already"))
            }
            None => {
                let (temporary, ()) = make(files, &path, |temporary| files.create(temporary, bytes, None))?;
                Ok(Staged::New { temporary, target: path })
            }
            Some(earlier) => {
                // A link stays a link: what it leads to is written.
                let target = self.check_inside(files.real_path(&path)?)?;
                unchanged(files, &target, earlier)?;
                let (temporary, ()) = make(files, &target, |temporary| files.create(temporary, bytes, Some(&target)))?;
                Ok(Staged::Replaced { temporary, target, earlier })
            }
        }
    }

    /// The real path of something below the site that need not exist; at its end a link stays a link.
    fn inside(&self, path: &str) -> io::Result<PathBuf> {
        let path = self.root.join(path);
        let (Some(folder), Some(name)) = (path.parent(), path.file_name()) else { return self.check_inside(path) };
        Ok(self.check_inside(self.files.resolved(folder)?)?.join(name))
    }

    /// Nothing is written outside of the site, wherever links or a theme's root lead.
    fn check_inside(&self, real: PathBuf) -> io::Result<PathBuf> {
        match real.starts_with(self.root) {
            true => Ok(real),
            false => Err(io::Error::other("it leads out of the site's folder")),
        }
    }

    fn make_folder(&mut self, folder: &Path) -> io::Result<()> {
        if self.swept.iter().any(|other| other == folder) {
            return Ok(());
        }
        let mut missing: Vec<PathBuf> = Vec::new();
        for part in folder.ancestors() {
            if self.files.is_there(part, Links::Follow)? {
                break;
            }
            missing.push(part.to_owned());
        }
        self.folders.extend(missing.into_iter().rev());
        self.files.create_folders(folder)?;
        sweep(self.files, folder);
        self.swept.push(folder.to_owned());
        Ok(())
    }

    fn place(&self, change: &Staged<'_>) -> io::Result<()> {
        let files = self.files;
        match change {
            Staged::Same => Ok(()),
            Staged::New { temporary, target } => {
                files.rename_to_new(temporary, target).map_err(|error| match error.kind() {
                    io::ErrorKind::AlreadyExists => {
                        io::Error::new(error.kind(), "there is a file of this name already")
                    }
                    _ => error,
                })
            }
            Staged::Replaced { temporary, target, earlier } => {
                unchanged(files, target, earlier)?;
                files.rename(temporary, target)
            }
            Staged::Removed { target, earlier, path } => {
                unchanged(files, target, earlier)?;
                files.remove_file(target)?;
                // The folders that a site has by itself stay.
                let own = |folder: &&Path| folder.components().count() > 1;
                for folder in Path::new(path).ancestors().skip(1).take_while(own) {
                    // One that still holds something stays.
                    if files.remove_folder(&self.root.join(folder)).is_err() {
                        break;
                    }
                }
                Ok(())
            }
        }
    }

    /// Undoes a change that took its place. What can't be undone has been changed by someone else in this moment.
    fn take_back(&self, change: &Staged<'_>) {
        let files = self.files;
        match change {
            Staged::Same => {}
            Staged::New { target, .. } => {
                let _ = files.remove_file(target);
            }
            Staged::Replaced { target, earlier, .. } => {
                let _ = put(
                    files,
                    target,
                    |temporary| files.create(temporary, earlier, Some(target)),
                    |temporary| files.rename(temporary, target),
                );
            }
            Staged::Removed { target, earlier, .. } => {
                let _ = target.parent().map(|folder| files.create_folders(folder));
                let _ = put(
                    files,
                    target,
                    |temporary| files.create(temporary, earlier, None),
                    |temporary| files.rename_to_new(temporary, target),
                );
            }
        }
    }

    /// Removes what was made for changes that take no place, and the folders that are empty again.
    fn discard(&self, staged: &[Staged<'_>]) {
        for change in staged {
            if let Staged::New { temporary, .. } | Staged::Replaced { temporary, .. } = change {
                let _ = self.files.remove_file(temporary);
            }
        }
        for folder in self.folders.iter().rev() {
            let _ = self.files.remove_folder(folder);
        }
    }
}

fn unchanged(files: &dyn Files, target: &Path, earlier: &[u8]) -> io::Result<()> {
    match holds(files, target, earlier)? {
        true => Ok(()),
        false => Err(io::Error::other("it was changed by someone else just now; nothing was written to it")),
    }
}

fn holds(files: &dyn Files, target: &Path, bytes: &[u8]) -> io::Result<bool> {
    Ok(files.read(target, bytes.len() as u64)? == bytes)
}

/// Removes the temporary files that processes have left which are no more: they were interrupted.
pub fn sweep(files: &dyn Files, folder: &Path) {
    for entry in files.list(folder).into_iter().flatten() {
        let process = entry.name.to_str().and_then(process_of);
        if process.is_some_and(|process| files.has_ended(process)) {
            let _ = files.remove_file(&folder.join(&entry.name));
        }
    }
}

/// The process that gave a file its name before its place; none for all other names.
pub(crate) fn process_of(name: &str) -> Option<u32> {
    let (process, number) = name.strip_prefix(TEMPORARY)?.split_once('-')?;
    number.bytes().all(|byte| byte.is_ascii_digit()).then(|| process.parse().ok())?
}

/// Puts `bytes` in the place of `target`, which is never half-written, and looks at it.
///
/// # Errors
/// When `target` is as it was, or can't be looked at when it has been written.
pub fn replace(files: &dyn Files, target: &Path, bytes: &[u8]) -> io::Result<Look> {
    make(files, target, |temporary| files.replace(target, temporary, bytes)).map(|(_, look)| look)
}

/// The same for a file that is there, with its permissions.
///
/// # Errors
/// When `target` is as it was.
pub fn replace_as(files: &dyn Files, target: &Path, bytes: &[u8]) -> io::Result<()> {
    let create = |temporary: &Path| files.create(temporary, bytes, Some(target));
    put(files, target, create, |temporary| files.rename(temporary, target))
}

/// Makes a temporary file beside `target`, and gives it its place; it is gone when something fails.
///
/// # Errors
/// Those of `create` and `place`.
pub fn put(
    files: &dyn Files,
    target: &Path,
    create: impl Fn(&Path) -> io::Result<()>,
    place: impl FnOnce(&Path) -> io::Result<()>,
) -> io::Result<()> {
    let (temporary, ()) = make(files, target, create)?;
    let done = place(&temporary);
    if done.is_err() {
        let _ = files.remove_file(&temporary);
    }
    done
}

/// Makes a temporary file beside `target`; none is left when that fails.
fn make<T>(files: &dyn Files, target: &Path, create: impl Fn(&Path) -> io::Result<T>) -> io::Result<(PathBuf, T)> {
    let taken = |made: &io::Result<T>| made.as_ref().is_err_and(|error| error.kind() == io::ErrorKind::AlreadyExists);
    let mut path = temporary(target);
    let mut made = create(&path);
    for _ in 0..ATTEMPTS {
        if !taken(&made) {
            break;
        }
        path = temporary(target);
        made = create(&path);
    }
    if made.is_err() && !taken(&made) {
        let _ = files.remove_file(&path);
    }
    made.map(|made| (path, made))
}

/// How many names are tried that a temporary file might have.
const ATTEMPTS: u32 = 100;

/// Whether a file is a temporary one, by its name.
pub fn is_temporary(path: &Path) -> bool {
    path.file_name().is_some_and(|name| name.to_string_lossy().starts_with(TEMPORARY))
}

/// A name next to `target` that no page has, since pages have no leading dot, and that nobody can know beforehand.
fn temporary(target: &Path) -> PathBuf {
    static SECRET: LazyLock<RandomState> = LazyLock::new(RandomState::new);
    static NUMBER: AtomicU64 = AtomicU64::new(0);
    static PROCESS: LazyLock<u32> = LazyLock::new(std::process::id);
    let number = SECRET.hash_one(NUMBER.fetch_add(1, Ordering::Relaxed));
    target.with_file_name(format!("{TEMPORARY}{}-{number}", *PROCESS))
}
