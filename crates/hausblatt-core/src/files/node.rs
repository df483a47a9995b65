//! One file: its path, its stamp, and what is held of it.

use std::cell::RefCell;
use std::ffi::OsStr;
use std::io::{self, Read as _};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, OnceLock, PoisonError, RwLock};

use hausblatt_images::{ImageHead, read_head};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::dependencies::note_unknown;
use xxhash_rust::xxh3::{Xxh3, xxh3_64};

use crate::files::scan::{FoundFile, about, is_exhaustion};
use crate::files::{Depth, FileKind, FileReader, Files, Stamp};
use crate::text::codes;
use crate::text::conflict;
use crate::text::drawing::{self, Drawing};
use crate::text::front::{self, Front};
use crate::text::scripts::{self, Import, Scripts};
use crate::text::styles::{self, Styles};

/// So many bytes of a content file are read first: most have no more front matter.
const FIRST: usize = 512;
/// What is shorter is read in one go.
const AT_ONCE: usize = 8 << 10;
/// Extensions of theme files that are read as text.
const THEME_TEXTS: &[&str] = &["html", "xml", "json", "txt", "toml", "let"];

/// What is held of a file.
#[derive(Clone, Debug)]
pub enum Body {
    /// All its text.
    Text(Arc<str>),
    /// Its text up to the end of its front matter at least.
    Head(Arc<str>),
    /// Nothing: media and assets are read when they are sent.
    OnDemand,
    /// It could not be read.
    Unreadable {
        /// Why.
        why: String,
        /// What to do.
        help: &'static str,
        /// The byte that is not UTF-8, else 0.
        at: usize,
    },
}

/// One file.
#[derive(Debug)]
pub struct FileNode {
    /// Its path, relative to the site, with `/`, in NFC.
    pub path: Arc<str>,
    /// The folder on disk that it is in: the same one for all files there.
    folder: Arc<Path>,
    /// Its name there, where that is another than in its path.
    name: Option<Box<OsStr>>,
    /// Its stamp.
    pub stamp: Stamp,
    /// What is held of it.
    pub body: Body,
    /// Where its bytes are; nowhere for one of an overlay.
    files: Option<Arc<dyn Files>>,
    young: bool,
    front: RwLock<KeptFront>,
    facts: OnceLock<Box<Facts>>,
    digest: OnceLock<Option<u64>>,
    /// The digest of what comes after its front matter, where all of it was read.
    digest_of_body: Option<u64>,
    /// Whether it was found to be another file than the one that was read first, or to be gone.
    has_changed: AtomicBool,
}

/// The front matter of a file, as it is held.
#[derive(Debug, Default)]
enum KeptFront {
    /// Not read yet.
    #[default]
    Unread,
    /// Read.
    Read(Arc<Front>),
    /// Let go: it is read each time.
    LetGo,
}

/// What is found of a file that is published, each once it is looked for.
#[derive(Debug, Default)]
struct Facts {
    image: OnceLock<Result<Option<ImageHead>, String>>,
    pixels: OnceLock<Option<(u32, u32)>>,
    styles: OnceLock<Styles>,
    scripts: OnceLock<Scripts>,
    may_import: OnceLock<bool>,
    drawing: OnceLock<Result<Drawing, String>>,
}

thread_local! {
    /// The text of content that was read last, and the path of its node: a page asks for one text several times.
    static LAST: RefCell<Option<(Arc<str>, Arc<str>)>> = const { RefCell::new(None) };
}

impl FileNode {
    /// A file that is not on disk.
    pub fn in_memory(path: &str, text: &str) -> Self {
        Self {
            path: path.into(),
            folder: Path::new("").into(),
            name: None,
            stamp: Stamp::default(),
            body: Body::Text(text.into()),
            files: None,
            young: false,
            front: RwLock::default(),
            facts: OnceLock::new(),
            digest: OnceLock::new(),
            digest_of_body: None,
            has_changed: AtomicBool::new(false),
        }
    }

    /// The same file at another path of the site.
    pub(super) fn elsewhere(&self, path: &str) -> Self {
        Self {
            folder: self.folder.clone(),
            name: Some(self.name_on_disk().into()),
            stamp: self.stamp,
            body: self.body.clone(),
            files: self.files.clone(),
            young: self.young,
            ..Self::in_memory(path, "")
        }
    }

    /// Reads a file that has this stamp.
    ///
    /// # Errors
    /// When there are no means left to read files; one that can't be read itself is kept as unreadable.
    pub(super) fn read(files: &Arc<dyn Files>, found: FoundFile, stamp: Stamp, depth: Depth) -> io::Result<Arc<Self>> {
        let body = body(&**files, &found.path, &found.disk(), stamp.length, depth)?;
        let is_let_go = matches!(depth, Depth::Fronts | Depth::Digests) && found.path.starts_with("content/");
        let found = match &body {
            Body::Text(text) if is_let_go => match Self::without_body(files, found, stamp, text) {
                Ok(node) => return Ok(Arc::new(node)),
                Err(found) => found,
            },
            _ => found,
        };
        Ok(Arc::new(Self::of(files, found, stamp, body)))
    }

    /// A file with this text, of which the digest is held in the place of what comes after the front matter.
    ///
    /// # Errors
    /// The file where something is wrong with that text.
    fn without_body(files: &Arc<dyn Files>, found: FoundFile, stamp: Stamp, text: &str) -> Result<Self, FoundFile> {
        let front = front::read(text);
        let is_good = front.problem.is_none()
            && conflict::misplaced(text).is_none()
            && conflict::conflicts(text, conflict::Format::Markdown).is_empty();
        let Some((head, rest)) = text.split_at_checked(front.body).filter(|_| is_good) else { return Err(found) };
        Ok(Self {
            digest_of_body: Some(xxh3_64(rest.as_bytes())),
            digest: OnceLock::from(Some(xxh3_64(text.as_bytes()))),
            front: RwLock::new(KeptFront::Read(Arc::new(front))),
            ..Self::of(files, found, stamp, Body::Head(head.into()))
        })
    }

    /// A content file of which the body is not held, where it is small enough to be opened, looked at and read in one.
    ///
    /// # Errors
    /// The file where it is not, or something is wrong with it, for whatever reason.
    pub(super) fn read_at_once(files: &Arc<dyn Files>, found: FoundFile) -> Result<Arc<Self>, FoundFile> {
        if !found.path.starts_with("content/") {
            return Err(found);
        }
        let mut buffer = [0; AT_ONCE];
        let Ok((look, count)) = files.beginning(&found.disk(), &mut buffer) else { return Err(found) };
        if look.kind != FileKind::File || look.stamp.length != count as u64 || count == AT_ONCE {
            return Err(found);
        }
        match std::str::from_utf8(&buffer[..count]) {
            Ok(text) => Self::without_body(files, found, look.stamp, text).map(Arc::new),
            Err(_) => Err(found),
        }
    }

    /// A content file of which only the head is held, where one look is enough for that.
    ///
    /// # Errors
    /// The file where it is not, for whatever reason.
    pub(super) fn begun(files: &Arc<dyn Files>, found: FoundFile) -> Result<Arc<Self>, FoundFile> {
        let mut buffer = [0; FIRST];
        if !found.path.starts_with("content/") {
            return Err(found);
        }
        let Ok((look, count)) = files.beginning(&found.disk(), &mut buffer) else { return Err(found) };
        let end = count < FIRST;
        match valid_part(&buffer[..count], end) {
            Ok(head) if look.kind == FileKind::File && (end || front::is_whole(head)) => {
                Ok(Arc::new(Self::of(files, found, look.stamp, Body::Head(head.into()))))
            }
            _ => Err(found),
        }
    }

    fn of(files: &Arc<dyn Files>, found: FoundFile, stamp: Stamp, body: Body) -> Self {
        let path: Arc<str> = found.path.into();
        Self {
            name: (found.name != name_in(&path)).then(|| found.name.into()),
            path,
            folder: found.folder,
            stamp,
            // What could not be read may be readable the next time, under the same stamp.
            young: stamp.is_young(files.now()) || matches!(body, Body::Unreadable { .. }),
            body,
            files: Some(files.clone()),
            front: RwLock::default(),
            facts: OnceLock::new(),
            digest: OnceLock::new(),
            digest_of_body: None,
            has_changed: AtomicBool::new(false),
        }
    }

    /// Where it is on disk; empty in an overlay.
    pub fn disk(&self) -> PathBuf {
        if self.files.is_some() { self.folder.join(self.name_on_disk()) } else { PathBuf::new() }
    }

    /// Its name on disk.
    pub(super) fn name_on_disk(&self) -> &OsStr {
        self.name.as_deref().unwrap_or_else(|| name_in(&self.path))
    }

    /// The same as it was found.
    pub(super) fn found(&self) -> FoundFile {
        FoundFile { path: self.path.to_string(), folder: self.folder.clone(), name: self.name_on_disk().to_owned() }
    }

    /// Whether it is still the file that has this stamp.
    pub(super) fn is_of(&self, stamp: &Stamp) -> bool {
        self.stamp == *stamp && !self.young
    }

    /// The text that is held.
    pub fn text(&self) -> Option<&Arc<str>> {
        match &self.body {
            Body::Text(text) | Body::Head(text) => Some(text),
            Body::OnDemand | Body::Unreadable { .. } => None,
        }
    }

    /// What keeps it from being read as text, at its place.
    pub fn unreadable(&self) -> Option<Diagnostic> {
        let Body::Unreadable { why, help, at } = &self.body else { return None };
        Some(Diagnostic::of(&codes::UNREADABLE, why.clone()).help(*help).at(&self.path, Span::new(*at, *at)))
    }

    /// Whether it is the same file with the same content, as far as that is known without reading it again.
    pub(super) fn is_same(&self, other: &Self) -> bool {
        self.path == other.path && self.stamp == other.stamp && self.text() == other.text()
    }

    /// Its front matter, read once, or again where it was let go.
    pub fn front(&self) -> Arc<Front> {
        let read = || Arc::new(self.text().map(|text| front::read(text)).unwrap_or_default());
        match &*self.front.read().unwrap_or_else(PoisonError::into_inner) {
            KeptFront::Read(front) => return front.clone(),
            KeptFront::LetGo => return read(),
            KeptFront::Unread => {}
        }
        let front = read();
        *self.front.write().unwrap_or_else(PoisonError::into_inner) = KeptFront::Read(front.clone());
        front
    }

    /// Lets its front matter go, which takes more room than its text.
    pub(crate) fn let_front_matter_go(&self) {
        *self.front.write().unwrap_or_else(PoisonError::into_inner) = KeptFront::LetGo;
    }

    fn facts(&self) -> &Facts {
        self.facts.get_or_init(Box::default)
    }

    /// What it is as an image, looked for once; nothing where it is in no format of images that is known.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn image(&self) -> Result<Option<ImageHead>, String> {
        let read = || read_head(self.open().map_err(|error| error.to_string())?);
        self.facts().image.get_or_init(read).clone()
    }

    /// An image's width and height in pixels as it is shown, looked for once; none where it says neither.
    pub fn pixels(&self) -> Option<(u32, u32)> {
        *self.facts().pixels.get_or_init(|| pixels(self))
    }

    /// What it says as a style sheet, read once; that it can't be read is a problem of it.
    pub fn styles(&self) -> &Styles {
        self.facts().styles.get_or_init(|| match self.whole_text() {
            Ok(text) => styles::read(&text),
            Err(error) => Styles::unreadable(&error.to_string()),
        })
    }

    /// What it says as a script, read once.
    pub fn scripts(&self) -> &Scripts {
        self.facts().scripts.get_or_init(|| match self.whole_text() {
            Ok(text) => scripts::read(&text),
            Err(error) => Scripts::unreadable(&error.to_string()),
        })
    }

    /// The addresses that it imports as a script. One that imports nothing is not parsed for this.
    pub fn imports(&self) -> &[Import] {
        let may_import = || self.whole_text().map_or(true, |text| scripts::may_import(&text));
        if *self.facts().may_import.get_or_init(may_import) { &self.scripts().imports } else { &[] }
    }

    /// What it is as a drawing that is published at `base`, read once.
    pub fn drawing(&self, base: &str) -> &Result<Drawing, String> {
        self.facts().drawing.get_or_init(|| {
            let text = self.whole_text().map_err(|error| error.to_string());
            text.and_then(|text| drawing::read(&text, base))
        })
    }

    /// A digest of its bytes, found once; none where it can't be read.
    pub fn digest(&self) -> Option<u64> {
        *self.digest.get_or_init(|| match &self.body {
            Body::Text(text) => Some(xxh3_64(text.as_bytes())),
            _ => digest_of(&mut *self.open().ok()?).ok(),
        })
    }

    /// The digest of its text from a byte on, where its front matter ends.
    pub(crate) fn digest_of_body(&self, from: usize) -> u64 {
        let read = || self.whole_text().map_or(0, |text| text.get(from..).map_or(0, |body| xxh3_64(body.as_bytes())));
        self.digest_of_body.unwrap_or_else(read)
    }

    /// Whether it was found, when it was read again, to be another file than the one that was read first, or to be gone.
    pub(crate) fn has_changed(&self) -> bool {
        self.has_changed.load(Ordering::Relaxed)
    }

    /// Whether all of it was read and found to be free of what a merge leaves, and it is still the file that was read.
    pub(crate) fn is_known_good(&self) -> bool {
        self.digest_of_body.is_some() && !self.has_changed()
    }

    /// Takes a digest that was found when the file had the stamp that it has now.
    pub(crate) fn has_digest(&self, digest: u64) {
        let _ = self.digest.set(Some(digest));
    }

    /// The whole file, read now where it is not held.
    ///
    /// # Errors
    /// Whatever keeps the file from being read.
    pub fn bytes(&self) -> io::Result<Vec<u8>> {
        match &self.body {
            Body::Text(text) => Ok(text.as_bytes().to_vec()),
            _ => self.files()?.read(&self.disk(), self.stamp.length),
        }
    }

    /// The whole text, read now where only the head is held.
    ///
    /// # Errors
    /// Whatever keeps the file from being read as UTF-8.
    pub fn whole_text(&self) -> io::Result<Arc<str>> {
        match &self.body {
            Body::Text(text) => Ok(text.clone()),
            Body::Head(_) => self.text_again(),
            Body::OnDemand | Body::Unreadable { .. } => text_of(self.bytes()?),
        }
    }

    /// The whole text of content from where it is. That it is another one by now is noted, so that nothing made of it is
    /// kept for what it was.
    fn text_again(&self) -> io::Result<Arc<str>> {
        let is_it = |(path, _): &&(Arc<str>, Arc<str>)| Arc::ptr_eq(path, &self.path);
        let known = LAST.with_borrow(|last| last.as_ref().filter(is_it).map(|(_, text)| text.clone()));
        let text = known.map_or_else(|| self.bytes().and_then(|bytes| self.checked(bytes)), Ok);
        match &text {
            Ok(text) => LAST.set(Some((self.path.clone(), text.clone()))),
            Err(_) => self.has_changed.store(true, Ordering::Relaxed),
        }
        if self.has_changed() {
            note_unknown();
        }
        text
    }

    /// The text in its bytes as they are now, held against the digest of what they were.
    fn checked(&self, bytes: Vec<u8>) -> io::Result<Arc<str>> {
        let is_other = self.digest_of_body.is_some() && self.digest.get() != Some(&Some(xxh3_64(&bytes)));
        self.has_changed.fetch_or(is_other, Ordering::Relaxed);
        text_of(bytes)
    }

    /// The file, to be read in pieces.
    ///
    /// # Errors
    /// When it can't be opened.
    pub fn open(&self) -> io::Result<Box<dyn FileReader>> {
        match &self.body {
            Body::Text(text) => Ok(Box::new(io::Cursor::new(text.as_bytes().to_vec()))),
            _ => self.files()?.open(&self.disk()),
        }
    }

    /// Copies it to a path of this file system that does not exist yet.
    ///
    /// # Errors
    /// As [`Files::copy`].
    pub(crate) fn copy_to(&self, files: &dyn Files, target: &Path) -> io::Result<()> {
        match &self.files {
            Some(_) => files.copy(&self.disk(), target),
            None => files.create(target, &self.bytes()?, None),
        }
    }

    fn files(&self) -> io::Result<&dyn Files> {
        self.files.as_deref().ok_or_else(|| io::ErrorKind::NotFound.into())
    }
}

/// The last part of a path.
fn name_in(path: &str) -> &OsStr {
    OsStr::new(path.rsplit('/').next().unwrap_or(path))
}

fn text_of(bytes: Vec<u8>) -> io::Result<Arc<str>> {
    let text = String::from_utf8(bytes).map(Arc::from);
    text.map_err(|_| io::Error::new(io::ErrorKind::InvalidData, "it is not UTF-8"))
}

/// How much of a drawing is read to find its size.
const HEAD: u64 = 64 << 10;

fn pixels(node: &FileNode) -> Option<(u32, u32)> {
    if node.path.ends_with(".svg") {
        let mut head = Vec::new();
        node.open().ok()?.take(HEAD).read_to_end(&mut head).ok()?;
        return drawing::size(&String::from_utf8_lossy(&head));
    }
    if let Ok(Some(head)) = node.image() {
        return Some((head.width, head.height));
    }
    let size = imagesize::reader_size(node.open().ok()?).ok()?;
    Some((u32::try_from(size.width).ok()?, u32::try_from(size.height).ok()?))
}

/// A digest of all that a reader gives (XXH3, 64 bits), read piece by piece: media are large.
///
/// # Errors
/// Whatever keeps it from being read.
pub(crate) fn digest_of(reader: &mut dyn FileReader) -> io::Result<u64> {
    let mut hasher = Xxh3::new();
    let mut piece = vec![0; 1 << 16];
    loop {
        match reader.read(&mut piece)? {
            0 => return Ok(hasher.digest()),
            length => hasher.update(&piece[..length]),
        }
    }
}

fn body(files: &dyn Files, path: &str, disk: &Path, length: u64, depth: Depth) -> io::Result<Body> {
    let known = match path.split('/').next() {
        Some("content") if depth == Depth::Heads => return head(files, disk).or_else(|error| unreadable(path, &error)),
        Some("content" | "tables" | "hausblatt.toml") => true,
        Some("themes") if path.contains("/assets/") => return Ok(Body::OnDemand),
        Some("themes") => THEME_TEXTS.contains(&path.rsplit_once('.').map_or("", |(_, extension)| extension)),
        _ => return Ok(Body::OnDemand),
    };
    // A template with a misspelt extension is to be noticed.
    if !known && !path.contains("/templates/") {
        return Ok(Body::OnDemand);
    }
    match files.read(disk, length) {
        Ok(bytes) => Ok(match text(bytes) {
            Body::Unreadable { .. } if !known => Body::OnDemand,
            body => body,
        }),
        Err(error) => unreadable(path, &error),
    }
}

/// The body of a file that can't be read for this error.
fn unreadable(path: &str, error: &io::Error) -> io::Result<Body> {
    match is_exhaustion(error) {
        true => Err(about(path, error)),
        false => Ok(Body::Unreadable {
            why: format!("this file can't be read: {error}"),
            help: "look at its permissions",
            at: 0,
        }),
    }
}

fn text(bytes: Vec<u8>) -> Body {
    match String::from_utf8(bytes) {
        Ok(text) => Body::Text(text.into()),
        Err(error) => {
            let at = error.utf8_error().valid_up_to();
            not_text(&error.into_bytes(), at)
        }
    }
}

/// A file whose bytes from `at` on are not UTF-8.
fn not_text(bytes: &[u8], at: usize) -> Body {
    let line = bytes[..at].iter().filter(|&&byte| byte == b'\n').count() + 1;
    let why = format!("this file is not UTF-8: line {line} holds other bytes");
    Body::Unreadable { why, help: "save it as UTF-8", at }
}

/// Reads a content file in growing pieces, up to the end of its front matter.
fn head(files: &dyn Files, disk: &Path) -> io::Result<Body> {
    let mut file = files.open(disk)?;
    let mut bytes = Vec::with_capacity(FIRST);
    for size in [FIRST as u64, 8 << 10, 2 * front::MOST_BYTES as u64] {
        let wanted = size - bytes.len() as u64;
        let count = (&mut file).take(wanted).read_to_end(&mut bytes)?;
        let end = (count as u64) < wanted;
        let valid = valid_part(&bytes, end);
        match valid {
            Ok(head) if end || front::is_whole(head) => return Ok(Body::Head(head.into())),
            Ok(_) => {}
            Err(at) => return Ok(not_text(&bytes, at)),
        }
    }
    Ok(Body::Head(valid_part(&bytes, false).unwrap_or("").into()))
}

/// The text in `bytes`; unless they are all of it, a character cut at the end is left out.
fn valid_part(bytes: &[u8], all: bool) -> Result<&str, usize> {
    match std::str::from_utf8(bytes) {
        Ok(text) => Ok(text),
        Err(error) if !all && error.error_len().is_none() => {
            Ok(std::str::from_utf8(&bytes[..error.valid_up_to()]).unwrap_or(""))
        }
        Err(error) => Err(error.valid_up_to()),
    }
}
