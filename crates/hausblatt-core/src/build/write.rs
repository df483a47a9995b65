//! Writing into the output folder: under a temporary name, then renamed; only what is not right already.

use std::fs::{self, Metadata};
use std::io;
use std::path::Path;
use std::time::SystemTime;

use crate::build::hash;
use crate::build::record::Kept;
use crate::disk::{replace, temporary};
use crate::snapshot::FileNode;

/// Writes `bytes` to `path` below `out`, unless they are there already. Tells whether it wrote.
pub fn bytes(out: &Path, path: &str, bytes: &[u8], earlier: Option<&Kept>) -> io::Result<(Kept, bool)> {
    let hash = hash(bytes);
    if let Some(kept) = earlier.filter(|kept| kept.hash == hash && is_as_kept(out, path, kept)) {
        return Ok((kept.clone(), false));
    }
    let target = prepare(out, path)?;
    replace(&target, bytes)?;
    Ok((kept(hash, &fs::symlink_metadata(&target)?), true))
}

/// Copies a file of the site likewise; its stamp stands for its bytes.
pub fn copy(out: &Path, path: &str, node: &FileNode, earlier: Option<&Kept>) -> io::Result<(Kept, bool)> {
    let hash = hash(format!("{:?}", node.stamp).as_bytes());
    if let Some(kept) = earlier.filter(|kept| kept.hash == hash && is_as_kept(out, path, kept)) {
        return Ok((kept.clone(), false));
    }
    let target = prepare(out, path)?;
    if node.disk.as_os_str().is_empty() {
        replace(&target, node.text().map_or(&[][..], |text| text.as_bytes()))?;
    } else {
        let temporary = temporary(&target);
        let copied = fs::copy(&node.disk, &temporary).and_then(|_| fs::rename(&temporary, &target));
        if let Err(error) = copied {
            let _ = fs::remove_file(&temporary);
            return Err(error);
        }
    }
    Ok((kept(hash, &fs::symlink_metadata(&target)?), true))
}

/// Makes the folders of `path` below `out`. A link among them could lead out of the folder.
fn prepare(out: &Path, path: &str) -> io::Result<std::path::PathBuf> {
    let mut folder = out.to_owned();
    let parts: Vec<&str> = path.split('/').collect();
    for part in &parts[..parts.len() - 1] {
        folder.push(part);
        match fs::symlink_metadata(&folder) {
            Ok(metadata) if metadata.is_dir() => {}
            Ok(_) => return Err(io::Error::other("a file or link is where a folder should be")),
            Err(_) => match fs::create_dir(&folder) {
                Err(error) if error.kind() != io::ErrorKind::AlreadyExists => return Err(error),
                _ => {}
            },
        }
    }
    Ok(out.join(path))
}

fn kept(hash: u64, metadata: &Metadata) -> Kept {
    Kept { hash, length: metadata.len(), modified: modified(metadata) }
}

fn modified(metadata: &Metadata) -> u64 {
    let since = metadata.modified().ok().and_then(|time| time.duration_since(SystemTime::UNIX_EPOCH).ok());
    since.map_or(1, |since| u64::try_from(since.as_nanos()).unwrap_or(u64::MAX))
}

/// Whether the file at `path` is as the record has it.
pub fn is_as_kept(out: &Path, path: &str, kept: &Kept) -> bool {
    kept.is_written()
        && fs::symlink_metadata(out.join(path)).is_ok_and(|metadata| {
            metadata.is_file() && metadata.len() == kept.length && modified(&metadata) == kept.modified
        })
}

/// Whether a path names something below the folder it is joined to.
pub fn is_inside(path: &str) -> bool {
    Path::new(path).components().all(|part| matches!(part, std::path::Component::Normal(_))) && !path.is_empty()
}

/// Whether all that a path goes through below `out` are folders; a link among them could lead out.
fn stands_in_folders(out: &Path, path: &str) -> bool {
    let above = Path::new(path).ancestors().skip(1).filter(|folder| !folder.as_os_str().is_empty());
    above.into_iter().all(|folder| fs::symlink_metadata(out.join(folder)).is_ok_and(|metadata| metadata.is_dir()))
}

/// Removes a file of an earlier build, and the folders that it leaves empty.
pub fn remove(out: &Path, path: &str) -> bool {
    let target = out.join(path);
    if !stands_in_folders(out, path) || fs::remove_file(&target).is_err() {
        return false;
    }
    let mut folder = target.parent();
    while let Some(parent) = folder.filter(|parent| *parent != out && parent.starts_with(out)) {
        if fs::remove_dir(parent).is_err() {
            break;
        }
        folder = parent.parent();
    }
    true
}

/// Removes temporary files that an interrupted build has left beside the files that it knew of.
pub fn sweep<'p>(out: &Path, paths: impl Iterator<Item = &'p String>) {
    let mut folders: Vec<&str> =
        paths.map(|path| path.rsplit_once('/').map_or("", |(folder, _)| folder)).chain([""]).collect();
    folders.sort_unstable();
    folders.dedup();
    for folder in folders.into_iter().filter(|folder| stands_in_folders(out, &format!("{folder}/x"))) {
        for entry in fs::read_dir(out.join(folder)).into_iter().flatten().flatten() {
            let name = entry.file_name();
            if is_temporary(&name.to_string_lossy()) {
                let _ = fs::remove_file(entry.path());
            }
        }
    }
}

fn is_temporary(name: &str) -> bool {
    name.strip_prefix(".hausblatt-").is_some_and(|rest| rest.bytes().all(|byte| byte.is_ascii_digit() || byte == b'-'))
}
