//! The demo site, embedded.

use std::fs;
use std::io;
use std::path::Path;

use include_dir::{Dir, DirEntry, include_dir};

static DEMO: Dir<'static> = include_dir!("$CARGO_MANIFEST_DIR/../../demo");

/// What writing the demo came to.
#[derive(Debug, Default, PartialEq, Eq)]
pub struct Written {
    /// Files that were not there.
    pub new: usize,
    /// Files that were there, as they are in the demo.
    pub same: usize,
    /// Files that were there and differ; they stay.
    pub kept: usize,
}

/// Writes the demo into `dir`. Files that are there already stay as they are.
///
/// # Errors
/// Whatever keeps a file from being written.
pub fn write(dir: &Path) -> io::Result<Written> {
    let mut written = Written::default();
    fs::create_dir_all(dir)?;
    write_entries(&DEMO, dir, &mut written)?;
    Ok(written)
}

fn write_entries(folder: &Dir<'_>, dir: &Path, written: &mut Written) -> io::Result<()> {
    for entry in folder.entries() {
        match entry {
            DirEntry::Dir(inner) => {
                fs::create_dir_all(dir.join(inner.path()))?;
                write_entries(inner, dir, written)?;
            }
            DirEntry::File(file) => {
                let target = dir.join(file.path());
                match fs::read(&target) {
                    Ok(there) if there == file.contents() => written.same += 1,
                    Ok(_) => written.kept += 1,
                    Err(_) => {
                        fs::write(&target, file.contents())?;
                        written.new += 1;
                    }
                }
            }
        }
    }
    Ok(())
}
