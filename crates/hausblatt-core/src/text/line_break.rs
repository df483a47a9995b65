//! The line break that a text is written with.

/// The line break of a text's first line, which new lines in it get, too.
pub(crate) fn line_break(text: &str) -> &'static str {
    match text.find('\n') {
        Some(at) if text[..at].ends_with('\r') => "\r\n",
        _ => "\n",
    }
}
