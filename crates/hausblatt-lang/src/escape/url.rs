//! Addresses (RFC 3986): composed of literals and values, checked whole, then encoded.

use std::borrow::Cow;

use percent_encoding::{AsciiSet, CONTROLS, NON_ALPHANUMERIC, utf8_percent_encode};

use crate::escape::blocks;
use crate::html::place::EscapingRow;
pub(crate) use crate::html::url::is_code;
pub(crate) use crate::html::url::is_image_data;
pub use crate::html::url::{cleaned, scheme};

/// What no URL may hold as it is.
const FORBIDDEN: &AsciiSet =
    &CONTROLS.add(b' ').add(b'"').add(b'<').add(b'>').add(b'\\').add(b'^').add(b'`').add(b'{').add(b'|').add(b'}');
/// All but unreserved characters.
const RESERVED: &AsciiSet = &NON_ALPHANUMERIC.remove(b'-').remove(b'.').remove(b'_').remove(b'~');
/// All but unreserved characters, sub-delims and `/ : @`.
const PATH: &AsciiSet = &RESERVED
    .remove(b'!')
    .remove(b'$')
    .remove(b'&')
    .remove(b'\'')
    .remove(b'(')
    .remove(b')')
    .remove(b'*')
    .remove(b'+')
    .remove(b',')
    .remove(b';')
    .remove(b'=')
    .remove(b'/')
    .remove(b':')
    .remove(b'@');

/// Schemes that any address may have.
const SCHEMES: &[&str] = &["http", "https", "mailto", "tel"];

/// Whether an address that is in content may be used as a link or an image there.
pub fn is_safe_link(address: &str, row: EscapingRow) -> bool {
    let cleaned = cleaned(address);
    match scheme(&cleaned) {
        None => true,
        Some(found) => is_known(found) || (row == EscapingRow::Image && is_image_data(&cleaned)),
    }
}

fn is_known(scheme: &str) -> bool {
    SCHEMES.iter().any(|known| scheme.eq_ignore_ascii_case(known))
}

/// 0 for a byte of a path on this site that means nothing in an address or in HTML, and needs no encoding: for `-`, `.`, `/`
/// and digits, which come one after the other, letters, `_` and `~`.
#[inline(always)]
fn unusual(byte: u8) -> u8 {
    let marks_and_digits = byte.wrapping_sub(b'-').saturating_sub(b'9' - b'-');
    let letters = (byte | 0x20).wrapping_sub(b'a').saturating_sub(b'z' - b'a');
    marks_and_digits.min(letters).min(byte ^ b'_').min(byte ^ b'~')
}

/// Whether a text is a path on this site of ordinary bytes only: allowed everywhere, printed as it is.
pub fn is_ordinary_path(text: &str) -> bool {
    let bytes = text.as_bytes();
    bytes.first() == Some(&b'/') && bytes.get(1) != Some(&b'/') && blocks::position(bytes, unusual).is_none()
}

/// An address that is one value: checked, and encoded where it must be.
///
/// # Errors
/// Why it is not allowed.
pub fn whole<'t>(text: &'t str, row: EscapingRow, site: &str) -> Result<Cow<'t, str>, &'static str> {
    check(text, 0, row, site)?;
    let encoded = minimal(text);
    check(&encoded, 0, row, site)?;
    Ok(encoded)
}

/// An address in the making.
#[derive(Debug, Default)]
pub struct Composer {
    raw: String,
    encoded: String,
    /// Length of the literal in front of the first value, raw and encoded.
    literal: Option<(usize, usize)>,
    /// Whether a value was added, be it an empty one.
    valued: bool,
}

impl Composer {
    /// Begins anew.
    pub fn clear(&mut self) {
        self.raw.clear();
        self.encoded.clear();
        self.literal = None;
        self.valued = false;
    }

    /// Whether a value was added.
    pub(crate) fn has_value(&self) -> bool {
        self.valued
    }

    /// The address as it was put together, before it is encoded.
    pub fn raw(&self) -> &str {
        &self.raw
    }

    /// Adds a literal part, its entities decoded.
    pub fn literal(&mut self, text: &str) {
        self.push_minimal(text);
        self.raw.push_str(text);
    }

    /// Adds a value.
    pub fn value(&mut self, text: &str) {
        self.valued = true;
        if text.is_empty() {
            return;
        }
        self.literal.get_or_insert((self.raw.len(), self.encoded.len()));
        if self.raw.is_empty() {
            self.push_minimal(text);
        } else {
            let set = if self.raw.contains(['?', '#']) { RESERVED } else { PATH };
            self.encoded.extend(utf8_percent_encode(text, set));
        }
        self.raw.push_str(text);
    }

    /// White space goes only at the very start, as in the check: taken out elsewhere, it could make of what
    /// was checked something else.
    fn push_minimal(&mut self, text: &str) {
        let text = if self.raw.is_empty() { text.trim_start_matches(|c: char| c <= ' ') } else { text };
        encode_minimal(text, &mut self.encoded);
    }

    /// How many bytes it holds so far.
    pub fn len(&self) -> usize {
        self.raw.len() + self.encoded.len()
    }

    /// Whether it holds nothing.
    pub fn is_empty(&self) -> bool {
        self.raw.is_empty()
    }

    /// The finished address.
    ///
    /// # Errors
    /// Why it is not allowed.
    pub fn finish(&self, row: EscapingRow, site: &str) -> Result<&str, &'static str> {
        let (raw, encoded) = self.literal.unwrap_or((self.raw.len(), self.encoded.len()));
        check(&self.raw, raw, row, site)?;
        // A browser reads a backslash as a slash, but not an encoded one: both readings have to be allowed.
        check(&self.encoded, encoded, row, site)?;
        Ok(&self.encoded)
    }
}

/// Encodes only what no URL may hold.
fn minimal(text: &str) -> Cow<'_, str> {
    let plain = |byte: u8| {
        byte.is_ascii_graphic() && !matches!(byte, b'"' | b'<' | b'>' | b'\\' | b'^' | b'`' | b'{' | b'|' | b'}' | b'%')
    };
    if text.bytes().all(plain) {
        return Cow::Borrowed(text);
    }
    let cleaned: String =
        text.trim_matches(|c: char| c <= ' ').chars().filter(|c| !matches!(c, '\t' | '\n' | '\r')).collect();
    let mut encoded = String::with_capacity(cleaned.len() + 8);
    encode_minimal(&cleaned, &mut encoded);
    Cow::Owned(encoded)
}

/// Appends `text` with what no URL may hold encoded; a `%` that begins no escape among it.
fn encode_minimal(text: &str, encoded: &mut String) {
    for (at, part) in text.split('%').enumerate() {
        if at > 0 {
            let escape = part.len() >= 2 && part.as_bytes()[..2].iter().all(u8::is_ascii_hexdigit);
            encoded.push_str(if escape { "%" } else { "%25" });
        }
        encoded.extend(utf8_percent_encode(part, FORBIDDEN));
    }
}

/// Checks a whole address, the first `literal` bytes of which the template's author wrote.
fn check(raw: &str, literal: usize, row: EscapingRow, site: &str) -> Result<(), &'static str> {
    let whole = cleaned(raw);
    let found = scheme(&whole);
    let authored = cleaned(&raw[..literal]);
    let scheme_authored = found.is_some_and(|_| scheme(&authored).is_some());
    if row == EscapingRow::Stays {
        return stays(&whole, &authored, found, site);
    }
    match found {
        None => Ok(()),
        Some(name) if is_known(name) => Ok(()),
        Some(_) if row == EscapingRow::Image && is_image_data(&whole) => Ok(()),
        Some(name) if scheme_authored && (literal == raw.len() || !is_code(name)) => Ok(()),
        Some(_) => Err("its scheme is not one of http, https, mailto and tel"),
    }
}

fn stays(whole: &str, authored: &str, scheme: Option<&str>, site: &str) -> Result<(), &'static str> {
    let on_site = has_host(site)
        && whole.strip_prefix(site.trim_end_matches('/')).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'));
    let to_authored_host =
        authored.strip_prefix("https://").is_some_and(|rest| rest.find('/').is_some_and(|at| at > 0));
    if on_site || to_authored_host || (scheme.is_none() && !whole.starts_with("//")) {
        return Ok(());
    }
    Err("what is loaded or sent from here must stay on this site")
}

/// Whether a site's address names a host, so that what begins with it is on this site.
fn has_host(site: &str) -> bool {
    let rest = site.strip_prefix("https://").or_else(|| site.strip_prefix("http://"));
    rest.is_some_and(|rest| rest.starts_with(|c: char| c.is_alphanumeric() || c == '['))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn compose(parts: &[(&str, bool)], row: EscapingRow) -> Result<String, &'static str> {
        let mut composer = Composer::default();
        for (text, literal) in parts {
            if *literal { composer.literal(text) } else { composer.value(text) }
        }
        composer.finish(row, "https://seeds.example").map(str::to_owned)
    }

    #[test]
    fn an_ordinary_path_needs_no_encoding() {
        for byte in 0..=255u8 {
            let ordinary = byte.is_ascii_alphanumeric() || b"-./_~".contains(&byte);
            assert_eq!(unusual(byte) == 0, ordinary, "{byte}");
        }
        for (text, ordinary) in [("/", true), ("/varieties/moon-boat/", true), ("//varieties", false), ("", false)] {
            assert_eq!(is_ordinary_path(text), ordinary, "{text}");
        }
    }

    #[test]
    fn checks_the_whole_address() {
        for (parts, row, fine) in [
            (vec![("/a/b", false)], EscapingRow::Anywhere, true),
            (vec![("javascript:alert(1)", false)], EscapingRow::Anywhere, false),
            (vec![(" JaVa\tscript:x", false)], EscapingRow::Anywhere, false),
            (vec![("java", true), ("script:x", false)], EscapingRow::Anywhere, false),
            (vec![("web+seed:", true), ("x", false)], EscapingRow::Anywhere, true),
            (vec![("data:image/svg+xml,x", false)], EscapingRow::Anywhere, false),
            (vec![("data:image/svg+xml,x", false)], EscapingRow::Image, true),
            (vec![("a?x=b:c", false)], EscapingRow::Anywhere, true),
            (vec![("//elsewhere.example/x", false)], EscapingRow::Anywhere, true),
            (vec![("//elsewhere.example/x", false)], EscapingRow::Stays, false),
            (vec![("/\\elsewhere.example", false)], EscapingRow::Stays, false),
            (vec![("/", true), ("/elsewhere.example", false)], EscapingRow::Stays, false),
            (vec![("https://elsewhere.example/", false)], EscapingRow::Stays, false),
            (vec![("https://elsewhere.example/", true), ("x.js", false)], EscapingRow::Stays, true),
            (vec![("https://elsewhere.example", true), (".evil.example/", false)], EscapingRow::Stays, false),
            (vec![("https://seeds.example/x.js", false)], EscapingRow::Stays, true),
            (vec![("java", true), ("script:", true), ("x", false)], EscapingRow::Anywhere, false),
            (vec![("javascript:x", true)], EscapingRow::Anywhere, true),
            (vec![("javascript:x", true), ("", false)], EscapingRow::Anywhere, true),
            (vec![("da", true), ("", false), ("ta:text/html,", true), ("x", false)], EscapingRow::Anywhere, false),
            (vec![("data:image/png;base64,", true), ("x", false)], EscapingRow::Image, true),
            (vec![("data:image/png;base64,", true), ("x", false)], EscapingRow::Anywhere, false),
            (vec![("https://seeds.example.evil/x.js", false)], EscapingRow::Stays, false),
            (vec![("https://seeds.example\\@evil.example/x.js", false)], EscapingRow::Stays, false),
            (vec![("https://seeds.example", true), ("\\@evil.example/x.js", false)], EscapingRow::Stays, false),
            (vec![("https://seeds.example/", true), ("\\@evil.example/x.js", false)], EscapingRow::Stays, true),
        ] {
            assert_eq!(compose(&parts, row).is_ok(), fine, "{parts:?} {row:?}");
        }
    }

    #[test]
    fn encodes_by_position() {
        for (parts, expected) in [
            (vec![("/a b/ä?x=1&y=%20%", false)], "/a%20b/%C3%A4?x=1&y=%20%25"),
            (vec![("/find/", true), ("a/b c?d", false)], "/find/a/b%20c%3Fd"),
            (vec![("/find?q=", true), ("a/b&c=d#e", false)], "/find?q=a%2Fb%26c%3Dd%23e"),
            (vec![("  /a b ", false)], "/a%20b%20"),
            (vec![("/ ", false), ("/elsewhere.example/", false)], "/%20/elsewhere.example/"),
            (vec![("/a", true), (" b", true)], "/a%20b"),
        ] {
            assert_eq!(compose(&parts, EscapingRow::Anywhere).as_deref(), Ok(expected));
        }
    }
}
