//! Addresses as browsers read them.

use std::borrow::Cow;

use crate::html::place::EscapingRow;

/// Schemes after which any value is code or a document.
const CODE: &[&str] = &["javascript", "vbscript", "data"];

/// The text as browsers read it: without tabs and line breaks, trimmed, `\` as `/`.
pub fn cleaned(text: &str) -> Cow<'_, str> {
    let trimmed = text.trim_matches(|c: char| c <= ' ');
    if !trimmed.bytes().any(|byte| matches!(byte, b'\t' | b'\n' | b'\r' | b'\\')) {
        return Cow::Borrowed(trimmed);
    }
    let keep = trimmed.chars().filter(|c| !matches!(c, '\t' | '\n' | '\r'));
    Cow::Owned(keep.map(|c| if c == '\\' { '/' } else { c }).collect())
}

/// The scheme of a cleaned address: what comes before a `:` that no `/`, `?` or `#` precedes.
pub fn scheme(cleaned: &str) -> Option<&str> {
    let end = cleaned.find([':', '/', '?', '#'])?;
    (cleaned.as_bytes()[end] == b':').then(|| &cleaned[..end])
}

/// Whether a cleaned address is an image in itself (RFC 2397).
pub(crate) fn is_image_data(cleaned: &str) -> bool {
    cleaned.get(..11).is_some_and(|start| start.eq_ignore_ascii_case("data:image/"))
}

/// Whether no value is safe after the literal beginning of an address: the scheme that makes it so.
pub(crate) fn unsafe_beginning(literal: &str, row: EscapingRow) -> Option<String> {
    let cleaned = cleaned(literal);
    let found = scheme(&cleaned).filter(|found| is_code(found))?;
    let image = row == EscapingRow::Image && is_image_data(&cleaned);
    (!image).then(|| found.to_ascii_lowercase())
}

/// Whether what comes after this scheme is code or a document.
pub(crate) fn is_code(scheme: &str) -> bool {
    CODE.iter().any(|code| scheme.eq_ignore_ascii_case(code))
}
