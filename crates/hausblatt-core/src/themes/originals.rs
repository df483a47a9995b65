//! Originals: what a copied file was copied from, kept in the theme beside a few lines that say where it was.
//!
//! A record is one file, so that it is never half of one: lines of TOML, a line of three hyphens, and the bytes of
//! the original as they were.

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use toml_edit::{DocumentMut, value};

use crate::files::edit::Write;
use crate::files::{FileNode, ORIGINALS, Snapshot};
use crate::text::codes;
use crate::themes::theme::{self, Theme};

/// What is at the top of each record.
const ABOVE: &str = "# What this theme's file of the same name is a copy of; \"hausblatt drift\" needs it.\n";
const FENCE: &[u8] = b"\n---\n";

/// What a file was copied from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Original {
    /// The theme that it was in.
    pub theme: String,
    /// Its path from that theme.
    pub path: String,
    /// The version of that theme at the time, if it said one.
    pub version: Option<String>,
    /// What it held.
    pub bytes: Vec<u8>,
}

impl Original {
    /// The record as a file.
    pub fn to_bytes(&self) -> Vec<u8> {
        let mut document = DocumentMut::new();
        document.insert("theme", value(&self.theme));
        document.insert("path", value(&self.path));
        if let Some(version) = &self.version {
            document.insert("version", value(version));
        }
        let head = format!("{ABOVE}{document}");
        [head.trim_end().as_bytes(), FENCE, &self.bytes].concat()
    }

    fn from_bytes(bytes: &[u8]) -> Option<Self> {
        let at = bytes.windows(FENCE.len()).position(|window| window == FENCE)?;
        let document: DocumentMut = std::str::from_utf8(&bytes[..at]).ok()?.parse().ok()?;
        let text = |key: &str| document.get(key).and_then(|item| item.as_str()).map(str::to_owned);
        Some(Self {
            theme: text("theme")?,
            path: text("path")?,
            version: text("version"),
            bytes: bytes[at + FENCE.len()..].to_vec(),
        })
    }

    /// The theme and the version, as people read them.
    pub fn from_where(&self) -> String {
        match &self.version {
            Some(version) => format!("{} {version}", self.theme),
            None => self.theme.clone(),
        }
    }

    /// The file that is where it was, and its theme.
    pub fn now<'s>(&self, snapshot: &'s Snapshot) -> Option<(&'s FileNode, Theme)> {
        let theme = theme::read(snapshot, &self.theme, &mut Vec::new())?;
        let node = snapshot.file(&format!("{}{}", theme.root, self.path))?;
        Some((node, theme))
    }
}

/// The path of the record of a theme's file, relative to the site.
pub fn place(theme: &Theme, name: &str) -> String {
    format!("themes/{}/{ORIGINALS}/{name}", theme.name)
}

/// The record of a theme's file, if it has one.
///
/// # Errors
/// A record that can't be read.
pub fn read(snapshot: &Snapshot, theme: &Theme, name: &str) -> Option<Result<Original, Diagnostic>> {
    let node = snapshot.file(&place(theme, name))?;
    let original = node.bytes().ok().and_then(|bytes| Original::from_bytes(&bytes));
    Some(original.ok_or_else(|| {
        let diagnostic = Diagnostic::of(&codes::BAD_RECORD, "this record of an original can't be read");
        diagnostic.help("delete it, and let \"hausblatt drift --adopt\" make it anew").at(&node.path, Span::default())
    }))
}

/// What writes the record of a theme's file, in the place of one that is there.
pub fn record(snapshot: &Snapshot, theme: &Theme, name: &str, original: &Original) -> Write {
    let path = place(theme, name);
    match snapshot.file(&path).and_then(|node| node.bytes().ok()) {
        Some(earlier) => Write::instead_of(path, earlier, original.to_bytes()),
        None => Write::new(path, original.to_bytes()),
    }
}

/// What removes the record of a theme's file, if there is one: of a copy that is gone, say, where another file begins.
pub fn removal(snapshot: &Snapshot, theme: &Theme, name: &str) -> Option<Write> {
    let path = place(theme, name);
    let earlier = snapshot.file(&path)?.bytes().ok()?;
    Some(Write::removal(path, earlier))
}

/// The names of a theme's files that have a record.
pub fn recorded(snapshot: &Snapshot, theme: &Theme) -> Vec<String> {
    let folder = place(theme, "");
    snapshot.below(&folder).filter_map(|node| node.path.strip_prefix(&folder).map(str::to_owned)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_record_is_read_back_as_it_was() {
        for bytes in [&b""[..], b"a\n---\nb", b"\xff\xfe\0", b"---\n"] {
            for version in [None, Some("1.2.0".to_owned())] {
                let original = Original {
                    theme: "hedge\"row".to_owned(),
                    path: "templates/page.html".to_owned(),
                    version,
                    bytes: bytes.to_vec(),
                };
                assert_eq!(Original::from_bytes(&original.to_bytes()), Some(original));
            }
        }
        assert_eq!(Original::from_bytes(b"theme = \"a\"\n---\n"), None);
        assert_eq!(Original::from_bytes(b"no record"), None);
    }
}
