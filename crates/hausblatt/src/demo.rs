//! The demo site, embedded.

use std::fs;
use std::io;
use std::path::Path;

use hausblatt_core::files::KEPT_IMAGES;
use hausblatt_core::files::edit::{self, Write, write_all};
use include_dir::{Dir, DirEntry, File, include_dir};

use crate::opened;

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

/// The file that makes a folder a site. It is written last: until then a run that was ended can be distinguished from a site.
const LAST: &str = "hausblatt.toml";

/// Writes the demo into `dir`: all files that are missing, or none. Files that are there already stay as they are.
///
/// # Errors
/// The path that can't be written, and why.
pub fn write(dir: &Path) -> Result<Written, (String, io::Error)> {
    let mut written = Written::default();
    let mut writes = Vec::new();
    for file in files(&DEMO) {
        let path = file.path().to_string_lossy().into_owned();
        match opened::regular(&dir.join(file.path())) {
            Ok(there) if there == file.contents() => written.same += 1,
            Ok(_) => written.kept += 1,
            Err(error) if error.kind() == io::ErrorKind::NotFound => {
                written.new += 1;
                writes.push(Write::new(path, file.contents()));
            }
            Err(error) => return Err((path, error)),
        }
    }
    writes.sort_by_key(|write| write.path == LAST);
    fs::create_dir_all(dir).map_err(|error| (String::new(), error))?;
    write_all(&opened::disk(), dir, &writes)?;
    Ok(written)
}

/// Whether `dir` holds files of the demo and nothing else: a run that was ended has left them.
pub fn was_begun(dir: &Path) -> bool {
    fn only_own(dir: &Path, below: &Path) -> io::Result<bool> {
        for entry in fs::read_dir(dir.join(below))? {
            let entry = entry?;
            let path = below.join(entry.file_name());
            let own = match entry.file_type()?.is_dir() {
                true => only_own(dir, &path)?,
                false => DEMO.get_file(&path).is_some() || edit::is_temporary(&path),
            };
            if !own {
                return Ok(false);
            }
        }
        Ok(true)
    }
    only_own(dir, Path::new("")).unwrap_or(false)
}

fn files<'a>(folder: &'a Dir<'a>) -> Vec<&'a File<'a>> {
    let of = |entry: &'a DirEntry<'a>| match entry {
        // Images that were made while the demo was looked at are none of its files.
        DirEntry::Dir(inner) if inner.path().starts_with(KEPT_IMAGES) => Vec::new(),
        DirEntry::Dir(inner) => files(inner),
        DirEntry::File(file) => vec![file],
    };
    folder.entries().iter().flat_map(of).collect()
}
