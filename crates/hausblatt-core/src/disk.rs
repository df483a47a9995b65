//! Writing: under a temporary name, then renamed, so that a file is either as it was or as it should be.

use std::fs::{self, File};
use std::io::{self, Write as _};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};

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
pub fn write_all(root: &Path, writes: &[Write]) -> Result<(), (String, io::Error)> {
    let mut swept: Vec<PathBuf> = Vec::new();
    for write in writes {
        one(root, write, &mut swept).map_err(|error| (write.path.clone(), error))?;
    }
    Ok(())
}

fn one(root: &Path, write: &Write, swept: &mut Vec<PathBuf>) -> io::Result<()> {
    let path = root.join(&write.path);
    check_inside(root, &path)?;
    let Some(bytes) = &write.bytes else { return remove(root, write) };
    if let Some(folder) = path.parent().filter(|folder| !swept.iter().any(|other| other == folder)) {
        fs::create_dir_all(folder)?;
        sweep(folder);
        swept.push(folder.to_owned());
    }
    let Some(instead) = &write.instead else { return create(&path, bytes) };
    // A link stays a link: what it leads to is written.
    let target = path.canonicalize()?;
    if fs::read(&target)? != *instead {
        return Err(io::Error::other("it was changed by someone else just now; nothing was written to it"));
    }
    let permissions = fs::metadata(&target)?.permissions();
    put(&target, |temporary| {
        fs::write(temporary, bytes)?;
        fs::set_permissions(temporary, permissions)?;
        fs::rename(temporary, &target)
    })
}

/// Removes a file that is as it was when it was read, and of the originals' folders those that it leaves empty.
fn remove(root: &Path, write: &Write) -> io::Result<()> {
    let target = root.join(&write.path);
    if Some(fs::read(&target)?) != write.instead {
        return Err(io::Error::other("it was changed by someone else just now"));
    }
    fs::remove_file(&target)?;
    let own = |folder: &&Path| folder.to_string_lossy().contains(crate::snapshot::ORIGINALS);
    for folder in Path::new(&write.path).ancestors().skip(1).take_while(own) {
        // One that still holds something stays.
        if fs::remove_dir(root.join(folder)).is_err() {
            break;
        }
    }
    Ok(())
}

/// Nothing is written outside of the site, wherever links or a theme's root lead.
fn check_inside(root: &Path, path: &Path) -> io::Result<()> {
    let there = path.ancestors().find(|part| part.exists()).unwrap_or(root);
    match there.canonicalize()?.starts_with(root.canonicalize()?) {
        true => Ok(()),
        false => Err(io::Error::other("it leads out of the site's folder")),
    }
}

/// Removes the temporary files that processes have left which are no more: they were interrupted.
fn sweep(folder: &Path) {
    if !Path::new("/proc/self").exists() {
        return;
    }
    for entry in fs::read_dir(folder).into_iter().flatten().flatten() {
        let name = entry.file_name();
        let process =
            name.to_str().and_then(|name| name.strip_prefix(TEMPORARY)?.split_once('-')?.0.parse::<u32>().ok());
        if process.is_some_and(|process| !Path::new(&format!("/proc/{process}")).exists()) {
            let _ = fs::remove_file(entry.path());
        }
    }
}

/// Writes a file that is not there yet.
fn create(path: &Path, bytes: &[u8]) -> io::Result<()> {
    put(path, |temporary| {
        fs::write(temporary, bytes)?;
        // Unlike a rename, a link never takes the place of a file that is there.
        match fs::hard_link(temporary, path) {
            Err(error) if error.kind() == io::ErrorKind::AlreadyExists || path.symlink_metadata().is_ok() => {
                Err(io::Error::new(io::ErrorKind::AlreadyExists, "there is a file of this name already"))
            }
            Err(_) => fs::rename(temporary, path),
            Ok(()) => fs::remove_file(temporary),
        }
    })
}

/// Puts `bytes` in the place of `target`, which is never half-written.
pub fn replace(target: &Path, bytes: &[u8]) -> io::Result<()> {
    put(target, |temporary| {
        File::create(temporary)?.write_all(bytes)?;
        fs::rename(temporary, target)
    })
}

/// Works with a temporary file beside `target`, which is gone when something fails.
fn put(target: &Path, work: impl FnOnce(&Path) -> io::Result<()>) -> io::Result<()> {
    let temporary = temporary(target);
    let done = work(&temporary);
    if done.is_err() {
        let _ = fs::remove_file(&temporary);
    }
    done
}

/// A name next to `target` that no page has: pages have no leading dot.
pub fn temporary(target: &Path) -> PathBuf {
    static NUMBER: AtomicU64 = AtomicU64::new(0);
    let number = NUMBER.fetch_add(1, Ordering::Relaxed);
    target.with_file_name(format!("{TEMPORARY}{}-{number}", std::process::id()))
}
