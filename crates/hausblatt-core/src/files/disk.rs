//! The machine's own file system.

use std::any::Any;
use std::fs::{self, File, FileType, Metadata, OpenOptions, TryLockError};
use std::io::{self, BufReader, Read as _, Write as _};
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use crate::files::{Entry, Files, Kind, Links, Look, Reader, Stamp};

/// The machine's own file system. The core has no clock: whoever makes one says what time it is.
#[derive(Clone, Copy, Debug)]
pub struct Disk {
    clock: fn() -> SystemTime,
}

impl Disk {
    /// A file system whose files are young or old by this clock: `SystemTime::now`, but for tests.
    pub fn new(clock: fn() -> SystemTime) -> Self {
        Self { clock }
    }
}

/// The stamp of the file that has this metadata.
fn stamp(metadata: &Metadata) -> Stamp {
    let nanos = |seconds: i64, nanos: i64| i128::from(seconds) * 1_000_000_000 + i128::from(nanos);
    Stamp {
        length: metadata.len(),
        node: (metadata.dev(), metadata.ino()),
        modified: nanos(metadata.mtime(), metadata.mtime_nsec()),
        changed: nanos(metadata.ctime(), metadata.ctime_nsec()),
    }
}

fn kind(file_type: FileType) -> Kind {
    if file_type.is_file() {
        Kind::File
    } else if file_type.is_dir() {
        Kind::Folder
    } else if file_type.is_symlink() {
        Kind::Link
    } else {
        Kind::Other
    }
}

impl Files for Disk {
    fn look(&self, path: &Path, links: Links) -> io::Result<Look> {
        let metadata = match links {
            Links::Follow => fs::metadata(path),
            Links::Keep => fs::symlink_metadata(path),
        }?;
        Ok(Look { kind: kind(metadata.file_type()), stamp: stamp(&metadata) })
    }

    fn list(&self, folder: &Path) -> io::Result<Vec<Entry>> {
        let entry = |entry: io::Result<fs::DirEntry>| {
            let entry = entry?;
            Ok(Entry { kind: kind(entry.file_type()?), name: entry.file_name() })
        };
        fs::read_dir(folder)?.map(entry).collect()
    }

    fn real_path(&self, path: &Path) -> io::Result<PathBuf> {
        path.canonicalize()
    }

    fn read(&self, path: &Path, length: u64) -> io::Result<Vec<u8>> {
        // With room for one byte more, a read that comes back with less has come to the end, and need not be asked again.
        let mut bytes = vec![0; usize::try_from(length).unwrap_or(0).saturating_add(1)];
        let count = File::open(path)?.read(&mut bytes)?;
        if count as u64 != length {
            // It has changed by now, or is none that is read in one go.
            return fs::read(path);
        }
        bytes.truncate(count);
        Ok(bytes)
    }

    fn open(&self, path: &Path) -> io::Result<Box<dyn Reader>> {
        // Small, since most often only the front matter is read.
        Ok(Box::new(BufReader::with_capacity(512, File::open(path)?)))
    }

    fn create(&self, path: &Path, bytes: &[u8], like: Option<&Path>) -> io::Result<()> {
        let mut file = OpenOptions::new().write(true).create_new(true).open(path)?;
        file.write_all(bytes)?;
        match like {
            Some(like) => file.set_permissions(fs::metadata(like)?.permissions()),
            None => Ok(()),
        }
    }

    fn copy(&self, from: &Path, to: &Path) -> io::Result<()> {
        let mut source = File::open(from)?;
        let mut file = OpenOptions::new().write(true).create_new(true).open(to)?;
        io::copy(&mut source, &mut file)?;
        file.set_permissions(source.metadata()?.permissions())
    }

    fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
        fs::rename(from, to)
    }

    fn rename_to_new(&self, from: &Path, to: &Path) -> io::Result<()> {
        // Unlike a rename, a link never takes the place of something that is there.
        match fs::hard_link(from, to) {
            Ok(()) => fs::remove_file(from),
            Err(_) if to.symlink_metadata().is_ok() => Err(io::ErrorKind::AlreadyExists.into()),
            // Not every file system has links.
            Err(_) => fs::rename(from, to),
        }
    }

    fn create_folder(&self, folder: &Path) -> io::Result<()> {
        fs::create_dir(folder)
    }

    fn remove_file(&self, path: &Path) -> io::Result<()> {
        fs::remove_file(path)
    }

    fn remove_folder(&self, folder: &Path) -> io::Result<()> {
        fs::remove_dir(folder)
    }

    fn lock(&self, path: &Path) -> io::Result<Option<Box<dyn Any + Send>>> {
        let file = OpenOptions::new().create(true).truncate(false).write(true).open(path)?;
        match file.try_lock() {
            Ok(()) => Ok(Some(Box::new(file))),
            Err(TryLockError::WouldBlock) => Ok(None),
            Err(TryLockError::Error(error)) => Err(error),
        }
    }

    fn has_ended(&self, process: u32) -> bool {
        Path::new("/proc/self").exists() && !Path::new("/proc").join(process.to_string()).exists()
    }

    fn now(&self) -> i128 {
        let now = (self.clock)().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        i128::try_from(now.as_nanos()).unwrap_or(i128::MAX)
    }
}
