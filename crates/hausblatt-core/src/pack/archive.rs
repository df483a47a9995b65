//! An archive of themes: gzip (RFC 1952) around a tar archive (POSIX.1, with GNU's long names), with a list of SHA-256 digests.

use std::collections::{BTreeMap, BTreeSet};
use std::io::{self, Read, Write as _};

use flate2::Compression;
use flate2::GzBuilder;
use flate2::read::GzDecoder;
use hausblatt_lang::text::diagnostic::Diagnostic;
use sha2::{Digest, Sha256};
use tar::{Builder, EntryType, Header};
use toml_edit::{Array, DocumentMut, Item, Table, value};
use unicode_normalization::UnicodeNormalization;

use crate::files::ORIGINALS;
use crate::text::codes;
use crate::text::slug::is_slug;

/// An archive holds at most so many bytes, unpacked.
pub const MOST_BYTES: u64 = 256 << 20;
/// An archive holds at most so many files.
pub const MOST_FILES: usize = 10_000;
/// How deep its folders may be.
const DEEPEST: usize = 24;
/// The file that says what is in it.
const ABOUT: &str = "hausblatt-pack.toml";
/// The list of digests, in the form that `sha256sum -c` reads.
const DIGESTS: &str = "digests.sha256";

/// Themes as they are packed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Archive {
    /// The theme that was packed.
    pub theme: String,
    /// It and the ancestors that are packed with it, the nearest first.
    pub themes: Vec<String>,
    /// All files by their path in a site: `themes/harbour/templates/page.html`.
    pub files: BTreeMap<String, Vec<u8>>,
}

/// The SHA-256 digest of some bytes, in hexadecimal.
pub fn digest(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|byte| format!("{byte:02x}")).collect()
}

fn refused(message: impl Into<String>) -> Diagnostic {
    Diagnostic::of(&codes::BAD_ARCHIVE, message).help("nothing was written; ask for a new one")
}

impl Archive {
    /// Its bytes, the same for the same files: sorted, without owners, with this time (seconds since the Unix epoch) for all.
    ///
    /// # Errors
    /// A path that does not fit into an archive.
    pub fn written(&self, seconds: u64) -> io::Result<Vec<u8>> {
        let mut about = Table::new();
        about.insert("theme", value(self.theme.as_str()));
        about.insert("themes", value(self.themes.iter().map(String::as_str).collect::<Array>()));
        let mut document = DocumentMut::new();
        document.insert("pack", Item::Table(about));
        let mut all: BTreeMap<&str, &[u8]> =
            self.files.iter().map(|(path, bytes)| (path.as_str(), bytes.as_slice())).collect();
        let about = document.to_string();
        all.insert(ABOUT, about.as_bytes());
        let digests: String = all.iter().map(|(path, bytes)| format!("{}  {path}\n", digest(bytes))).collect();
        all.insert(DIGESTS, digests.as_bytes());
        let gzip = GzBuilder::new().mtime(0).operating_system(255).write(Vec::new(), Compression::best());
        let mut tar = Builder::new(gzip);
        let mut folders: BTreeSet<&str> = BTreeSet::new();
        for (path, bytes) in &all {
            for (at, _) in path.match_indices('/') {
                if folders.insert(&path[..at]) {
                    append(&mut tar, &format!("{}/", &path[..at]), &[], EntryType::Directory, seconds)?;
                }
            }
            append(&mut tar, path, bytes, EntryType::Regular, seconds)?;
        }
        let mut gzip = tar.into_inner()?;
        gzip.flush()?;
        gzip.finish()
    }

    /// Reads an archive.
    ///
    /// # Errors
    /// Why it is none, or one that can't be trusted.
    pub fn read(bytes: &[u8]) -> Result<Self, Diagnostic> {
        let mut files = unpacked(bytes)?;
        let digests = files.remove(DIGESTS).ok_or_else(|| refused(format!("the archive lacks {DIGESTS}")))?;
        let digests = String::from_utf8(digests).map_err(|_| refused(format!("{DIGESTS} is not UTF-8")))?;
        check_digests(&digests, &files)?;
        let about = files.remove(ABOUT).ok_or_else(|| refused(format!("the archive lacks {ABOUT}")))?;
        let about = String::from_utf8(about).ok().and_then(|text| text.parse::<DocumentMut>().ok());
        let about = about.ok_or_else(|| refused(format!("{ABOUT} is not TOML")))?;
        let get = |key: &str| about.get("pack").and_then(|pack| pack.get(key));
        let theme = get("theme").and_then(Item::as_str).unwrap_or("").to_owned();
        let themes: Vec<String> = get("themes")
            .and_then(Item::as_array)
            .into_iter()
            .flatten()
            .filter_map(|name| name.as_str().map(str::to_owned))
            .collect();
        if themes.first() != Some(&theme) || !themes.iter().all(|name| is_slug(name)) {
            return Err(refused(format!("{ABOUT} does not say which themes are in the archive")));
        }
        for path in files.keys() {
            let of = path.strip_prefix("themes/").and_then(|rest| rest.split_once('/')).map(|(name, _)| name);
            if !of.is_some_and(|name| themes.iter().any(|theme| theme == name)) {
                return Err(refused(format!("\"{path}\" is in none of its themes")));
            }
        }
        for name in &themes {
            if !files.contains_key(&format!("themes/{name}/{}", crate::themes::theme::MANIFEST)) {
                return Err(refused(format!("the theme {name} has no manifest in it")));
            }
        }
        Ok(Self { theme, themes, files })
    }
}

fn append(
    tar: &mut Builder<impl io::Write>,
    path: &str,
    bytes: &[u8],
    sort: EntryType,
    seconds: u64,
) -> io::Result<()> {
    let mut header = Header::new_gnu();
    header.set_entry_type(sort);
    header.set_mode(if sort == EntryType::Directory { 0o755 } else { 0o644 });
    header.set_uid(0);
    header.set_gid(0);
    header.set_mtime(seconds);
    header.set_size(bytes.len() as u64);
    tar.append_data(&mut header, path, bytes)
}

/// The files of a packed archive, each at a path that stays where it is unpacked.
fn unpacked(bytes: &[u8]) -> Result<BTreeMap<String, Vec<u8>>, Diagnostic> {
    let unreadable = |error: io::Error| match error.kind() {
        io::ErrorKind::UnexpectedEof => refused("the archive is cut off"),
        _ => refused(format!("this is not an archive of themes: {error}")),
    };
    if !bytes.starts_with(&[0x1f, 0x8b]) {
        return Err(refused("this is not an archive of themes: it is not packed with gzip"));
    }
    let mut files: BTreeMap<String, Vec<u8>> = BTreeMap::new();
    // Names that some systems take for one.
    let mut known: BTreeMap<String, String> = BTreeMap::new();
    let mut left = MOST_BYTES;
    // What is not read of an archive is limited, too.
    let mut tar = tar::Archive::new(GzDecoder::new(bytes).take(MOST_BYTES * 2));
    let mut count = 0;
    for entry in tar.entries().map_err(unreadable)? {
        let mut entry = entry.map_err(unreadable)?;
        count += 1;
        if count > MOST_FILES * 2 || files.len() > MOST_FILES {
            return Err(refused(format!("the archive holds more than {MOST_FILES} files")));
        }
        let path =
            String::from_utf8(entry.path_bytes().into_owned()).map_err(|_| refused("a path in it is not UTF-8"))?;
        let sort = entry.header().entry_type();
        let path = match sort {
            EntryType::Regular => path,
            EntryType::Directory => path.trim_end_matches('/').to_owned(),
            _ => return Err(refused(format!("\"{}\" is neither a file nor a folder", shown(&path)))),
        };
        check_path(&path)?;
        let folded: String = path.nfc().collect::<String>().to_lowercase();
        if let Some(other) = known.insert(folded, path.clone()) {
            return Err(refused(format!(
                "\"{}\" and \"{}\" are one file on some systems",
                shown(&other),
                shown(&path)
            )));
        }
        if sort == EntryType::Directory {
            continue;
        }
        let mut bytes = Vec::new();
        let read = entry.by_ref().take(left + 1).read_to_end(&mut bytes).map_err(unreadable)? as u64;
        left = left
            .checked_sub(read)
            .ok_or_else(|| refused(format!("the archive holds more than {} MB", MOST_BYTES >> 20)))?;
        if read != entry.header().size().map_err(unreadable)? {
            return Err(refused("the archive is cut off"));
        }
        files.insert(path, bytes);
    }
    // What was cut off shows at the end only.
    let mut rest = tar.into_inner();
    io::copy(&mut rest, &mut io::sink()).map_err(unreadable)?;
    let inside = |path: &String| {
        let mut above = path.match_indices('/').map(|(at, _)| &path[..at]);
        above.find(|folder| files.contains_key(*folder)).map(str::to_owned)
    };
    match files.keys().find_map(inside) {
        Some(path) => Err(refused(format!("\"{}\" is a file and a folder", shown(&path)))),
        None => Ok(files),
    }
}

/// The beginning of a path, for messages.
fn shown(path: &str) -> String {
    path.chars().take(100).collect()
}

/// Whether a path of an archive stays within the folder in which it is unpacked, on any system.
fn check_path(path: &str) -> Result<(), Diagnostic> {
    let wrong = |why: &str| Err(refused(format!("the path \"{}\" in it {why}", shown(path))));
    if path.is_empty() || path.starts_with('/') {
        return wrong("is not below the folder");
    }
    if path.chars().any(|c| c.is_control() || matches!(c, '\\' | ':' | '*' | '?' | '"' | '<' | '>' | '|')) {
        return wrong("has a character that not all systems have in names");
    }
    let parts: Vec<&str> = path.split('/').collect();
    if parts.len() > DEEPEST {
        return wrong("is too deep");
    }
    for (at, part) in parts.iter().enumerate() {
        let is_kept = at == 2 && *part == ORIGINALS;
        if part.is_empty() || matches!(*part, "." | "..") || part.len() > 255 {
            return wrong("does not stay where it is unpacked");
        }
        if (part.starts_with('.') && !is_kept) || part.ends_with(['.', ' ']) {
            return wrong("has a name that themes do not have");
        }
    }
    let is_file_of_archive = [ABOUT, DIGESTS, "themes"].contains(&path);
    if is_file_of_archive || (parts[0] == "themes" && parts.get(1).is_some_and(|name| is_slug(name))) {
        Ok(())
    } else {
        wrong("is in no theme")
    }
}

/// Holds each file to its digest.
fn check_digests(digests: &str, files: &BTreeMap<String, Vec<u8>>) -> Result<(), Diagnostic> {
    let mut told: BTreeMap<&str, &str> = BTreeMap::new();
    for line in digests.lines() {
        let Some((digest, path)) = line.split_once("  ") else {
            return Err(refused(format!("{DIGESTS} is no list of digests")));
        };
        told.insert(path, digest);
    }
    for (path, bytes) in files {
        match told.remove(path.as_str()) {
            Some(told) if told == digest(bytes) => {}
            Some(_) => return Err(refused(format!("{path} is not what was packed: its digest is another one"))),
            None => return Err(refused(format!("{path} has no digest"))),
        }
    }
    match told.keys().next() {
        Some(path) => Err(refused(format!("{} has a digest and is not in the archive", shown(path)))),
        None => Ok(()),
    }
}
