//! The machine's own file system. What writes goes by the handle of the folder, which was reached through no link: what
//! happens to the path meanwhile does not lead it elsewhere.

use std::any::Any;
use std::ffi::OsStr;
use std::fs::{self, File, FileType, Metadata, TryLockError};
use std::io::{self, BufReader, Read as _, Write as _};
use std::os::fd::OwnedFd;
use std::os::unix::fs::MetadataExt;
use std::path::{Component, Path, PathBuf};
use std::time::SystemTime;

use rustix::fs::{Access, AtFlags, CWD, Mode, OFlags, access, linkat, mkdirat, openat, renameat, unlinkat};
#[cfg(any(target_os = "linux", target_os = "android", target_vendor = "apple"))]
use rustix::fs::{RenameFlags, renameat_with};
#[cfg(any(target_os = "linux", target_os = "android", target_vendor = "apple"))]
use rustix::io::Errno;

use crate::files::file_system::filled;
use crate::files::{FileKind, FileReader, Files, FolderEntry, Links, Look, Stamp};

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

/// File systems that only this machine writes, by the numbers that Linux gives them: bcachefs, Btrfs, ext2 to ext4, F2FS, JFS,
/// ramfs, tmpfs, XFS, ZFS. All others may be written elsewhere, or below another one, of which Linux knows nothing until it
/// looks.
#[cfg(target_os = "linux")]
const LOCAL: [u32; 9] =
    [0xca45_1a4e, 0x9123_683e, 0xef53, 0xf2f5_2010, 0x3153_464a, 0x8584_58f6, 0x0102_1994, 0x5846_5342, 0x2fc1_2fc1];

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

fn look(metadata: &Metadata) -> Look {
    Look { kind: kind(metadata.file_type()), stamp: stamp(metadata), names: metadata.nlink() }
}

fn kind(file_type: FileType) -> FileKind {
    if file_type.is_file() {
        FileKind::File
    } else if file_type.is_dir() {
        FileKind::Folder
    } else if file_type.is_symlink() {
        FileKind::Link
    } else {
        FileKind::Other
    }
}

impl Files for Disk {
    fn look(&self, path: &Path, links: Links) -> io::Result<Look> {
        let metadata = match links {
            Links::Follow => fs::metadata(path),
            Links::Keep => fs::symlink_metadata(path),
        }?;
        Ok(look(&metadata))
    }

    fn list(&self, folder: &Path) -> io::Result<Vec<FolderEntry>> {
        let entry = |entry: io::Result<fs::DirEntry>| {
            let entry = entry?;
            Ok(FolderEntry { kind: kind(entry.file_type()?), name: entry.file_name() })
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

    fn beginning(&self, path: &Path, buffer: &mut [u8]) -> io::Result<(Look, usize)> {
        // Opened once, looked at by its handle: half of the way through the folders. A pipe would be waited for.
        let mut file =
            File::from(openat(CWD, path, OFlags::RDONLY | OFlags::CLOEXEC | OFlags::NONBLOCK, Mode::empty())?);
        let metadata = file.metadata()?;
        let look = look(&metadata);
        // Of most files the first read gives all that there is room for, or all there is.
        let count = match file.read(buffer) {
            Ok(count) if count == buffer.len() || count as u64 == look.stamp.length => count,
            Ok(count) => count + filled(&mut file, &mut buffer[count..])?,
            Err(error) if error.kind() == io::ErrorKind::Interrupted => filled(&mut file, buffer)?,
            Err(error) => return Err(error),
        };
        Ok((look, count))
    }

    fn open(&self, path: &Path) -> io::Result<Box<dyn FileReader>> {
        // Small, since most often only the front matter is read.
        Ok(Box::new(BufReader::with_capacity(512, File::open(path)?)))
    }

    fn open_own(&self, path: &Path) -> io::Result<Box<dyn FileReader>> {
        Ok(Box::new(BufReader::with_capacity(1 << 16, regular(path, OFlags::RDONLY)?)))
    }

    fn create(&self, path: &Path, bytes: &[u8], like: Option<&Path>) -> io::Result<()> {
        let permissions = like.map(permissions_to_write).transpose()?;
        let mut file = new_file(path, FOR_ALL)?;
        file.write_all(bytes)?;
        match permissions {
            Some(permissions) => file.set_permissions(permissions),
            None => Ok(()),
        }
    }

    fn create_private(&self, path: &Path, bytes: &[u8]) -> io::Result<()> {
        new_file(path, Mode::RUSR | Mode::WUSR)?.write_all(bytes)
    }

    fn copy(&self, from: &Path, to: &Path) -> io::Result<()> {
        let mut source = File::open(from)?;
        let mut file = new_file(to, FOR_ALL)?;
        io::copy(&mut source, &mut file)?;
        file.set_permissions(source.metadata()?.permissions())
    }

    fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
        let (folder, old) = folder_of(from)?;
        // Most often a temporary file takes its place in the folder that it is in.
        if let (Some(new), true) = (to.file_name(), from.parent() == to.parent()) {
            return Ok(renameat(&folder, old, &folder, new)?);
        }
        let (to, new) = folder_of(to)?;
        Ok(renameat(&folder, old, &to, new)?)
    }

    fn replace(&self, target: &Path, temporary: &Path, bytes: &[u8]) -> io::Result<Look> {
        // With one handle of the folder for both.
        let (folder, name) = folder_of(temporary)?;
        let mut file = new_file_in(&folder, name, FOR_ALL)?;
        file.write_all(bytes)?;
        renameat(&folder, name, &folder, target.file_name().ok_or(io::ErrorKind::InvalidInput)?)?;
        // After it is renamed, which changes its stamp; by its handle, since its name may be that of another one by now.
        Ok(look(&file.metadata()?))
    }

    fn rename_to_new(&self, from: &Path, to: &Path) -> io::Result<()> {
        let ((from, old), (folder, new)) = (folder_of(from)?, folder_of(to)?);
        // In one step where the system has it: ended between the two others, a run would leave the old name.
        #[cfg(any(target_os = "linux", target_os = "android", target_vendor = "apple"))]
        match renameat_with(&from, old, &folder, new, RenameFlags::NOREPLACE) {
            Err(Errno::INVAL | Errno::NOSYS | Errno::NOTSUP) => {}
            done => return Ok(done?),
        }
        // Unlike a rename, a link never takes the place of something that is there.
        match linkat(&from, old, &folder, new, AtFlags::empty()) {
            Ok(()) => Ok(unlinkat(&from, old, AtFlags::empty())?),
            Err(_) if to.symlink_metadata().is_ok() => Err(io::ErrorKind::AlreadyExists.into()),
            // Not every file system has links.
            Err(_) => Ok(renameat(&from, old, &folder, new)?),
        }
    }

    fn create_folder(&self, folder: &Path) -> io::Result<()> {
        let (parent, name) = folder_of(folder)?;
        Ok(mkdirat(&parent, name, Mode::from_raw_mode(0o777))?)
    }

    fn remove_file(&self, path: &Path) -> io::Result<()> {
        let (folder, name) = folder_of(path)?;
        Ok(unlinkat(&folder, name, AtFlags::empty())?)
    }

    fn remove_folder(&self, folder: &Path) -> io::Result<()> {
        let (parent, name) = folder_of(folder)?;
        Ok(unlinkat(&parent, name, AtFlags::REMOVEDIR)?)
    }

    fn lock(&self, path: &Path) -> io::Result<Option<Box<dyn Any + Send>>> {
        let file = regular(path, OFlags::WRONLY | OFlags::CREATE)?;
        match file.try_lock() {
            Ok(()) => Ok(Some(Box::new(file))),
            Err(TryLockError::WouldBlock) => Ok(None),
            Err(TryLockError::Error(error)) => Err(error),
        }
    }

    #[cfg(target_os = "linux")]
    fn reports_changes(&self, folder: &Path) -> bool {
        rustix::fs::statfs(folder).is_ok_and(|about| LOCAL.contains(&(about.f_type as u32)))
    }

    fn has_ended(&self, process: u32) -> bool {
        Path::new("/proc/self").exists() && !Path::new("/proc").join(process.to_string()).exists()
    }

    fn now(&self) -> i128 {
        let now = (self.clock)().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        i128::try_from(now.as_nanos()).unwrap_or(i128::MAX)
    }
}

/// The permissions of a file that is about to be replaced. One that may not be written could be all the same, since that is
/// a matter of its folder; whoever made it so does not want that.
fn permissions_to_write(path: &Path) -> io::Result<fs::Permissions> {
    let permissions = fs::metadata(path)?.permissions();
    if permissions.readonly() || access(path, Access::WRITE_OK).is_err() {
        return Err(io::Error::new(io::ErrorKind::PermissionDenied, "it is read-only"));
    }
    Ok(permissions)
}

/// A new file, which nothing of this name was before.
fn new_file(path: &Path, mode: Mode) -> io::Result<File> {
    let (folder, name) = folder_of(path)?;
    new_file_in(&folder, name, mode)
}

fn new_file_in(folder: &OwnedFd, name: &OsStr, mode: Mode) -> io::Result<File> {
    let flags = OFlags::WRONLY | OFlags::CREATE | OFlags::EXCL | OFlags::NOFOLLOW | OFlags::CLOEXEC;
    Ok(openat(folder, name, flags, mode)?.into())
}

/// As far as the system lets everybody read and write what is new.
const FOR_ALL: Mode = Mode::from_raw_mode(0o666);

/// A regular file, reached through no link; a pipe is not waited for, a device is not read.
fn regular(path: &Path, flags: OFlags) -> io::Result<File> {
    let (folder, name) = folder_of(path)?;
    let flags = flags | OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::CLOEXEC;
    let irregular = || io::Error::new(io::ErrorKind::InvalidInput, "it is not a regular file");
    let opened = openat(&folder, name, flags, Mode::from_raw_mode(0o666));
    let file = File::from(opened.map_err(|error| match path.symlink_metadata() {
        Ok(there) if !there.is_file() => irregular(),
        _ => error.into(),
    })?);
    if file.metadata()?.is_file() { Ok(file) } else { Err(irregular()) }
}

/// The handle of the folder that a path is in, reached through no link, and the path's last name.
fn folder_of(path: &Path) -> io::Result<(OwnedFd, &OsStr)> {
    let name = path.file_name().ok_or(io::ErrorKind::InvalidInput)?;
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    Ok((folder_handle(folder)?, name))
}

const FOLDER: OFlags = OFlags::DIRECTORY.union(OFlags::NOFOLLOW).union(OFlags::CLOEXEC);

#[cfg(target_os = "linux")]
fn folder_handle(folder: &Path) -> io::Result<OwnedFd> {
    use rustix::fs::{ResolveFlags, openat2};
    use rustix::io::Errno;
    match openat2(CWD, folder, FOLDER | OFlags::PATH, Mode::empty(), ResolveFlags::NO_SYMLINKS) {
        // An older kernel, or one that is kept from it.
        Err(Errno::NOSYS | Errno::PERM) => walk_to(folder, FOLDER | OFlags::PATH),
        Err(error) => Err(on_the_way(error)),
        Ok(handle) => Ok(handle),
    }
}

#[cfg(not(target_os = "linux"))]
fn folder_handle(folder: &Path) -> io::Result<OwnedFd> {
    walk_to(folder, FOLDER)
}

/// The same, one folder after the other.
fn walk_to(folder: &Path, flags: OFlags) -> io::Result<OwnedFd> {
    let mut parts = folder.components().peekable();
    let start = if parts.next_if_eq(&Component::RootDir).is_some() { "/" } else { "." };
    let mut handle = openat(CWD, start, flags, Mode::empty())?;
    for part in parts {
        handle = openat(&handle, part.as_os_str(), flags, Mode::empty()).map_err(on_the_way)?;
    }
    Ok(handle)
}

fn on_the_way(error: rustix::io::Errno) -> io::Error {
    match error {
        rustix::io::Errno::LOOP => io::Error::other("a link is where a folder should be"),
        error => error.into(),
    }
}
