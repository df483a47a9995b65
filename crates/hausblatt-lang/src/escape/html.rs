//! Escaping for HTML text and quoted attributes, and HTML back to its plain text.

use std::fmt::Write;

use crate::escape::blocks;

/// 1 for a byte of text that means something else in HTML: for `&` and `'`, which differ in their last bit, `<` and `>`, in
/// the one before it, `"`, CR and NUL. 0 for others.
#[inline(always)]
fn special(byte: u8) -> u8 {
    let distance = ((byte | 1) ^ b'\'').min((byte | 2) ^ b'>').min(byte ^ b'"').min(byte ^ b'\r').min(byte);
    1u8.saturating_sub(distance)
}

/// Appends `text` with what HTML gives a meaning written as entities, NUL as U+FFFD and CR as `&#13;`.
pub fn escape(text: &str, out: &mut impl Write) {
    let mut rest = text;
    while let Some(at) = blocks::position(rest.as_bytes(), special) {
        push(out, &rest[..at]);
        push(out, entity(rest.as_bytes()[at]));
        rest = &rest[at + 1..];
    }
    push(out, rest);
}

/// Memory takes every text; there is no error to hear of.
fn push(out: &mut impl Write, text: &str) {
    let _ = out.write_str(text);
}

/// Appends `text` for XML 1.0: entities, without the characters that XML forbids.
pub(crate) fn escape_xml(text: &str, out: &mut impl Write) {
    let allowed = |c: char| c >= ' ' && !matches!(c, '\u{FFFE}' | '\u{FFFF}') || matches!(c, '\t' | '\n' | '\r');
    if text.chars().all(allowed) {
        return escape(text, out);
    }
    let kept: String = text.chars().filter(|&c| allowed(c)).collect();
    escape(&kept, out);
}

fn entity(byte: u8) -> &'static str {
    match byte {
        b'&' => "&amp;",
        b'<' => "&lt;",
        b'>' => "&gt;",
        b'"' => "&quot;",
        b'\'' => "&#39;",
        b'\r' => "&#13;",
        _ => "\u{FFFD}",
    }
}

/// The plain text of safe HTML: without tags and comments, entities decoded.
pub fn text_of(html: &str) -> String {
    let mut text = String::with_capacity(html.len());
    let mut rest = html;
    while let Some(at) = rest.find('<') {
        text.push_str(&rest[..at]);
        let tag = &rest[at..];
        let is_tag = tag[1..].starts_with(|c: char| c.is_ascii_alphabetic() || matches!(c, '/' | '!' | '?'));
        if !is_tag {
            text.push('<');
            rest = &tag[1..];
            continue;
        }
        rest = &tag[tag_length(tag)..];
    }
    text.push_str(rest);
    htmlize::unescape(text).into_owned()
}

/// Length of the tag or comment that `tag` begins with.
fn tag_length(tag: &str) -> usize {
    if let Some(comment) = tag.strip_prefix("<!--") {
        return comment.find("-->").map_or(tag.len(), |at| at + 7);
    }
    let mut quote = None;
    for (at, byte) in tag.bytes().enumerate() {
        match (byte, quote) {
            (b'"' | b'\'', None) => quote = Some(byte),
            (_, Some(open)) if byte == open => quote = None,
            (b'>', None) => return at + 1,
            _ => {}
        }
    }
    tag.len()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn escapes_and_reads_back() {
        for (text, escaped) in [
            ("plain", "plain"),
            ("a < b & \"c\" > 'd'", "a &lt; b &amp; &quot;c&quot; &gt; &#39;d&#39;"),
            ("a\r\nb\0", "a&#13;\nb\u{FFFD}"),
        ] {
            let mut out = String::new();
            escape(text, &mut out);
            assert_eq!(out, escaped);
            assert_eq!(text_of(&out), text.replace('\0', "\u{FFFD}"));
        }
    }

    #[test]
    fn what_is_special_has_an_entity() {
        for byte in 0..=255 {
            assert_eq!(special(byte) == 1, b"&<>\"'\r\0".contains(&byte), "{byte}");
        }
    }

    #[test]
    fn takes_tags_out() {
        for (html, text) in [
            ("<p>Peas &amp; beans</p>", "Peas & beans"),
            ("a <!-- > --> b", "a  b"),
            ("<a title=\">\">x</a> 1 < 2", "x 1 < 2"),
            ("open <a", "open "),
        ] {
            assert_eq!(text_of(html), text);
        }
    }
}
