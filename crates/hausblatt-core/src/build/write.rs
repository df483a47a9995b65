//! Writing into the output folder: under a temporary name, then renamed; only what is not right already.

use std::io;
use std::path::Path;

use crate::build::hash;
use crate::build::record::Kept;
use crate::files::edit::{process_of, put, replace};
use crate::files::{FileKind, FileNode, Files, Links, Look, digest_of};

/// The output folder, and where it is.
#[derive(Clone, Copy)]
pub(crate) struct OutputFolder<'o> {
    /// The file system that it is in.
    pub files: &'o dyn Files,
    /// The folder, as a real path.
    pub folder: &'o Path,
}

impl OutputFolder<'_> {
    fn look(&self, path: &str) -> io::Result<Look> {
        self.files.look(&self.folder.join(path), Links::Keep)
    }
}

/// Writes `bytes` to `path` below `out`, unless they are there already. Tells whether it wrote.
pub fn bytes(out: OutputFolder<'_>, path: &str, bytes: &[u8], earlier: Option<&Kept>) -> io::Result<(Kept, bool)> {
    let hash = hash(bytes);
    if let Some(kept) = earlier.filter(|kept| kept.hash == hash && is_as_kept(out, path, kept)) {
        return Ok((kept.left(), false));
    }
    prepare(out, path, earlier.is_none())?;
    let look = replace(out.files, &out.folder.join(path), bytes)?;
    Ok((kept(hash, &look), true))
}

/// Copies a file of the site too; its stamp is taken for its bytes.
pub fn copy(out: OutputFolder<'_>, path: &str, node: &FileNode, earlier: Option<&Kept>) -> io::Result<(Kept, bool)> {
    let hash = hash_of_stamp(node);
    if let Some(kept) = earlier.filter(|kept| kept.hash == hash && is_as_kept(out, path, kept)) {
        return Ok((kept.clone(), false));
    }
    prepare(out, path, earlier.is_none())?;
    let target = out.folder.join(path);
    let make = |temporary: &Path| node.copy_to(out.files, temporary);
    put(out.files, &target, make, |temporary| out.files.rename(temporary, &target))?;
    let bytes = hash_of_file(out, path)?;
    Ok((Kept { bytes, ..kept(hash, &out.look(path)?) }, true))
}

/// A hash in the place of that of the bytes, for a file of the site that is not read.
pub(crate) fn hash_of_stamp(node: &FileNode) -> u64 {
    hash(format!("{:?}", node.stamp).as_bytes())
}

/// Makes the folders of `path` below `out`; no build before has put anything there if it is new. A link among them could lead
/// out of the folder.
fn prepare(out: OutputFolder<'_>, path: &str, is_new: bool) -> io::Result<()> {
    // Of those of a new page most often the last one alone is missing; it is made through no link.
    let last = path.rsplit_once('/').filter(|_| is_new).map(|(folder, _)| folder);
    if last.is_some_and(|folder| out.files.create_folder(&out.folder.join(folder)).is_ok()) {
        return Ok(());
    }
    let mut folder = out.folder.to_owned();
    let parts: Vec<&str> = path.split('/').collect();
    for part in &parts[..parts.len() - 1] {
        folder.push(part);
        match out.files.look(&folder, Links::Keep) {
            Ok(look) if look.kind == FileKind::Folder => {}
            Ok(_) => return Err(io::Error::other("a file or link is where a folder should be")),
            Err(_) => match out.files.create_folder(&folder) {
                Err(error) if error.kind() != io::ErrorKind::AlreadyExists => return Err(error),
                _ => {}
            },
        }
    }
    Ok(())
}

fn kept(hash: u64, look: &Look) -> Kept {
    Kept { hash, length: look.stamp.length, modified: modified(look), ..Kept::default() }
}

/// Never 0, which means a file that was only intended.
fn modified(look: &Look) -> u64 {
    u64::try_from(look.stamp.modified).unwrap_or(1).max(1)
}

/// Whether the file at `path` is as the record has it.
pub(crate) fn is_as_kept(out: OutputFolder<'_>, path: &str, kept: &Kept) -> bool {
    kept.is_written()
        && out.look(path).is_ok_and(|look| {
            look.kind == FileKind::File && look.stamp.length == kept.length && modified(&look) == kept.modified
        })
}

/// Whether the file at `path` holds the bytes that a build wrote there: it is as the record has it, or it was only touched
/// since. What an ended build only meant to write is not known to be ours.
pub(crate) fn is_ours(out: OutputFolder<'_>, path: &str, kept: &Kept) -> bool {
    if is_as_kept(out, path, kept) {
        return true;
    }
    let hash = if kept.bytes == 0 { kept.hash } else { kept.bytes };
    let same_length = |look: Look| look.kind == FileKind::File && look.stamp.length == kept.length;
    kept.is_written()
        && stands_in_folders(out, path)
        && out.look(path).is_ok_and(same_length)
        && hash_of_file(out, path).is_ok_and(|found| found == hash)
}

fn hash_of_file(out: OutputFolder<'_>, path: &str) -> io::Result<u64> {
    digest_of(&mut *out.files.open_own(&out.folder.join(path))?)
}

/// Whether a path names something below the folder it is joined to.
pub(crate) fn is_inside(path: &str) -> bool {
    Path::new(path).components().all(|part| matches!(part, std::path::Component::Normal(_))) && !path.is_empty()
}

/// Whether all that a path goes through below `out` are folders; a link among them could lead out.
fn stands_in_folders(out: OutputFolder<'_>, path: &str) -> bool {
    let above = Path::new(path).ancestors().skip(1).filter(|folder| !folder.as_os_str().is_empty());
    let is_folder = |folder: &Path| {
        out.files.look(&out.folder.join(folder), Links::Keep).is_ok_and(|look| look.kind == FileKind::Folder)
    };
    above.into_iter().all(is_folder)
}

/// Removes a file of an earlier build, and the folders that it leaves empty.
pub fn remove(out: OutputFolder<'_>, path: &str) -> bool {
    let target = out.folder.join(path);
    if !stands_in_folders(out, path) || out.files.remove_file(&target).is_err() {
        return false;
    }
    let mut folder = target.parent();
    while let Some(parent) = folder.filter(|parent| *parent != out.folder && parent.starts_with(out.folder)) {
        if out.files.remove_folder(parent).is_err() {
            break;
        }
        folder = parent.parent();
    }
    true
}

/// Removes temporary files that an interrupted build has left beside the files that it knew of.
pub fn sweep<'p>(out: OutputFolder<'_>, paths: impl Iterator<Item = &'p str>) {
    let mut folders: Vec<&str> =
        paths.map(|path| path.rsplit_once('/').map_or("", |(folder, _)| folder)).chain([""]).collect();
    folders.sort_unstable();
    folders.dedup();
    for folder in folders.into_iter().filter(|folder| stands_in_folders(out, &format!("{folder}/x"))) {
        let folder = out.folder.join(folder);
        for entry in out.files.list(&folder).into_iter().flatten() {
            if process_of(&entry.name.to_string_lossy()).is_some() {
                let _ = out.files.remove_file(&folder.join(&entry.name));
            }
        }
    }
}
