//! Addresses as browsers read them.

use std::borrow::Cow;

/// The text as browsers read it: without tabs and line breaks, trimmed, `\` as `/`.
pub fn cleaned(text: &str) -> Cow<'_, str> {
    let trimmed = text.trim_matches(|c: char| c <= ' ');
    if !trimmed.bytes().any(|byte| matches!(byte, b'\t' | b'\n' | b'\r' | b'\\')) {
        return Cow::Borrowed(trimmed);
    }
    let keep = trimmed.chars().filter(|c| !matches!(c, '\t' | '\n' | '\r'));
    Cow::Owned(keep.map(|c| if c == '\\' { '/' } else { c }).collect())
}

/// The scheme of a cleaned address: what stands before a `:` that no `/`, `?` or `#` precedes.
pub fn scheme(cleaned: &str) -> Option<&str> {
    let end = cleaned.find([':', '/', '?', '#'])?;
    (cleaned.as_bytes()[end] == b':').then(|| &cleaned[..end])
}

/// Whether a cleaned address is an image in itself (RFC 2397).
pub fn is_image_data(cleaned: &str) -> bool {
    cleaned.get(..11).is_some_and(|start| start.eq_ignore_ascii_case("data:image/"))
}
