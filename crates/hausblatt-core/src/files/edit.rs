//! Writing: under a temporary name, then renamed, so that a file is either as it was or as it should be.

use std::io;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};

use crate::files::{Files, Links, ORIGINALS};

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
}

/// Writes one file after the other, below `root`, in their order. None is overwritten that is not as it was when it
/// was read, and a link is written through.
///
/// # Errors
/// The path at which it stopped, and why; the files before it are written.
pub fn write_all(files: &dyn Files, root: &Path, writes: &[Write]) -> Result<(), (String, io::Error)> {
    let mut swept: Vec<PathBuf> = Vec::new();
    for write in writes {
        one(files, root, write, &mut swept).map_err(|error| (write.path.clone(), error))?;
    }
    Ok(())
}

fn one(files: &dyn Files, root: &Path, write: &Write, swept: &mut Vec<PathBuf>) -> io::Result<()> {
    let path = root.join(&write.path);
    check_inside(files, root, &path)?;
    let Some(bytes) = &write.bytes else { return remove(files, root, write) };
    if let Some(folder) = path.parent().filter(|folder| !swept.iter().any(|other| other == folder)) {
        files.create_folders(folder)?;
        sweep(files, folder);
        swept.push(folder.to_owned());
    }
    let Some(instead) = &write.instead else {
        return put(
            files,
            &path,
            |temporary| files.create(temporary, bytes, None),
            |temporary| {
                files.rename_to_new(temporary, &path).map_err(|error| match error.kind() {
                    io::ErrorKind::AlreadyExists => {
                        io::Error::new(error.kind(), "there is a file of this name already")
                    }
                    _ => error,
                })
            },
        );
    };
    // A link stays a link: what it leads to is written.
    let target = files.real_path(&path)?;
    if !holds(files, &target, instead)? {
        return Err(io::Error::other("it was changed by someone else just now; nothing was written to it"));
    }
    let create = |temporary: &Path| files.create(temporary, bytes, Some(&target));
    put(files, &target, create, |temporary| files.rename(temporary, &target))
}

fn holds(files: &dyn Files, target: &Path, bytes: &[u8]) -> io::Result<bool> {
    Ok(files.read(target, bytes.len() as u64)? == bytes)
}

/// Removes a file that is as it was when it was read, and of the originals' folders those that it leaves empty.
fn remove(files: &dyn Files, root: &Path, write: &Write) -> io::Result<()> {
    let target = root.join(&write.path);
    if !holds(files, &target, write.instead.as_deref().unwrap_or_default())? {
        return Err(io::Error::other("it was changed by someone else just now"));
    }
    files.remove_file(&target)?;
    let own = |folder: &&Path| folder.to_string_lossy().contains(ORIGINALS);
    for folder in Path::new(&write.path).ancestors().skip(1).take_while(own) {
        // One that still holds something stays.
        if files.remove_folder(&root.join(folder)).is_err() {
            break;
        }
    }
    Ok(())
}

/// Nothing is written outside of the site, wherever links or a theme's root lead.
fn check_inside(files: &dyn Files, root: &Path, path: &Path) -> io::Result<()> {
    let exists = |part: &&Path| files.look(part, Links::Follow).is_ok();
    let there = path.ancestors().find(exists).unwrap_or(root);
    match files.real_path(there)?.starts_with(files.real_path(root)?) {
        true => Ok(()),
        false => Err(io::Error::other("it leads out of the site's folder")),
    }
}

/// Removes the temporary files that processes have left which are no more: they were interrupted.
fn sweep(files: &dyn Files, folder: &Path) {
    for entry in files.list(folder).into_iter().flatten() {
        let process =
            entry.name.to_str().and_then(|name| name.strip_prefix(TEMPORARY)?.split_once('-')?.0.parse::<u32>().ok());
        if process.is_some_and(|process| files.has_ended(process)) {
            let _ = files.remove_file(&folder.join(&entry.name));
        }
    }
}

/// Puts `bytes` in the place of `target`, which is never half-written.
///
/// # Errors
/// When `target` is as it was.
pub fn replace(files: &dyn Files, target: &Path, bytes: &[u8]) -> io::Result<()> {
    let create = |temporary: &Path| files.create(temporary, bytes, None);
    put(files, target, create, |temporary| files.rename(temporary, target))
}

/// Makes a temporary file beside `target`, and gives it its place; it is gone when something fails.
///
/// # Errors
/// Those of `make` and `place`.
pub fn put(
    files: &dyn Files,
    target: &Path,
    make: impl Fn(&Path) -> io::Result<()>,
    place: impl FnOnce(&Path) -> io::Result<()>,
) -> io::Result<()> {
    let mut temporary = temporary(target);
    let mut made = make(&temporary);
    // A process of the same number may have left one of the same name.
    for _ in 0..ATTEMPTS {
        if !made.as_ref().is_err_and(|error| error.kind() == io::ErrorKind::AlreadyExists) {
            break;
        }
        temporary = self::temporary(target);
        made = make(&temporary);
    }
    if made.as_ref().is_err_and(|error| error.kind() == io::ErrorKind::AlreadyExists) {
        return made;
    }
    let done = made.and_then(|()| place(&temporary));
    if done.is_err() {
        let _ = files.remove_file(&temporary);
    }
    done
}

/// How many names are tried that a temporary file might have.
const ATTEMPTS: u32 = 100;

/// A name next to `target` that no page has: pages have no leading dot.
fn temporary(target: &Path) -> PathBuf {
    static NUMBER: AtomicU64 = AtomicU64::new(0);
    let number = NUMBER.fetch_add(1, Ordering::Relaxed);
    target.with_file_name(format!("{TEMPORARY}{}-{number}", std::process::id()))
}
