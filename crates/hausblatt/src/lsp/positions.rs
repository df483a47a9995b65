//! Places as editors count them, and the addresses of files.

use std::path::{Path, PathBuf};
use std::str::FromStr;

use hausblatt_lang::text::source::Span;
use lsp_types::{Position, Range, Uri};
use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, percent_decode_str, utf8_percent_encode};

/// How an editor counts the columns of a line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Columns {
    /// In bytes.
    Utf8,
    /// In units of UTF-16.
    Utf16,
}

/// Where the lines of a text begin.
fn line_start(text: &str, line: u32) -> Option<usize> {
    match line {
        0 => Some(0),
        line => text.match_indices('\n').nth(line as usize - 1).map(|(at, _)| at + 1),
    }
}

/// The byte that a position means; one behind the end of a line or the text counts as that end.
pub fn offset(text: &str, position: Position, columns: Columns) -> usize {
    let Some(start) = line_start(text, position.line) else { return text.len() };
    let line = text[start..].split('\n').next().unwrap_or("");
    let line = line.strip_suffix('\r').unwrap_or(line);
    let mut left = position.character as usize;
    for (at, c) in line.char_indices() {
        let length = if columns == Columns::Utf8 { c.len_utf8() } else { c.len_utf16() };
        if left < length {
            return start + at;
        }
        left -= length;
    }
    start + line.len()
}

/// The position of a byte.
pub fn position(text: &str, offset: usize, columns: Columns) -> Position {
    let mut at = offset.min(text.len());
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    let before = &text[..at];
    let start = before.rfind('\n').map_or(0, |at| at + 1);
    let line = before.bytes().filter(|&byte| byte == b'\n').count();
    let column = match columns {
        Columns::Utf8 => at - start,
        Columns::Utf16 => before[start..].encode_utf16().count(),
    };
    let number = |count: usize| u32::try_from(count).unwrap_or(u32::MAX);
    Position { line: number(line), character: number(column) }
}

/// The range of a span.
pub fn range(text: &str, span: Span, columns: Columns) -> Range {
    let bytes = span.range();
    Range { start: position(text, bytes.start, columns), end: position(text, bytes.end, columns) }
}

/// What stays as it is in the address of a file.
const KEPT: &AsciiSet = &NON_ALPHANUMERIC.remove(b'/').remove(b'-').remove(b'_').remove(b'.').remove(b'~');

/// The address of a file.
pub fn uri_of(path: &Path) -> Option<Uri> {
    let text = path.to_str()?;
    Uri::from_str(&format!("file://{}", utf8_percent_encode(text, KEPT))).ok()
}

/// The file at an address; none for an address of another sort.
pub fn path_of(uri: &Uri) -> Option<PathBuf> {
    let path = uri.as_str().strip_prefix("file://")?;
    // There may be a host in front of it, which is this one.
    let path = &path[path.find('/')?..];
    Some(PathBuf::from(percent_decode_str(path).decode_utf8().ok()?.into_owned()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_are_counted_as_the_editor_does() {
        let text = "aß😀b\r\nc\n";
        for (line, character, columns, at) in [
            (0, 0, Columns::Utf16, 0),
            (0, 2, Columns::Utf16, 3),
            (0, 3, Columns::Utf16, 3),
            (0, 4, Columns::Utf16, 7),
            (0, 9, Columns::Utf16, 8),
            (0, 3, Columns::Utf8, 3),
            (0, 7, Columns::Utf8, 7),
            (1, 1, Columns::Utf16, 11),
            (7, 1, Columns::Utf16, text.len()),
        ] {
            assert_eq!(offset(text, Position { line, character }, columns), at, "{line}:{character}");
        }
        assert_eq!(position(text, 7, Columns::Utf16), Position { line: 0, character: 4 });
        assert_eq!(position(text, 7, Columns::Utf8), Position { line: 0, character: 7 });
        assert_eq!(position(text, 5, Columns::Utf16), Position { line: 0, character: 2 });
        assert_eq!(position(text, 99, Columns::Utf8), Position { line: 2, character: 0 });
    }

    #[test]
    fn files_have_their_addresses() {
        let path = PathBuf::from("/tmp/a b/ü#%.html");
        let uri = uri_of(&path).unwrap();
        assert_eq!(uri.as_str(), "file:///tmp/a%20b/%C3%BC%23%25.html");
        assert_eq!(path_of(&uri), Some(path));
        assert_eq!(path_of(&Uri::from_str("untitled:Untitled-1").unwrap()), None);
    }
}
