//! Addresses as people type them and as browsers ask for them, brought to one form.

use std::borrow::Cow;

use percent_encoding::percent_decode_str;
use unicode_normalization::UnicodeNormalization;

/// A requested address.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RequestTarget {
    /// The path, decoded, in NFC, beginning with `/`.
    pub path: String,
    /// What comes after `?`, as it was written.
    pub query: String,
}

/// Reads an address or a whole URL: the path without host, query and fragment, decoded.
pub fn asked(text: &str) -> RequestTarget {
    let text = text.trim();
    let without_host = match text.split_once("://") {
        Some(("http" | "https", rest)) => rest.find('/').map_or("/", |at| &rest[at..]),
        _ => text,
    };
    let without_fragment = without_host.split('#').next().unwrap_or("");
    let (path, query) = without_fragment.split_once('?').unwrap_or((without_fragment, ""));
    let decoded: Cow<'_, str> = percent_decode_str(path).decode_utf8_lossy();
    let mut path: String = decoded.nfc().collect();
    if !path.starts_with('/') {
        path.insert(0, '/');
    }
    RequestTarget { path, query: query.to_owned() }
}

/// An address as it is in a URL: what can't be there is percent-encoded.
pub fn encoded(address: &str) -> String {
    if hausblatt_lang::escape::url::is_ordinary_path(address) {
        return address.to_owned();
    }
    let mut composer = hausblatt_lang::escape::url::Composer::default();
    composer.value(address);
    composer.finish(hausblatt_lang::html::place::EscapingRow::Anywhere, "").unwrap_or("/").to_owned()
}

/// The file below the output folder that holds the page at `address`.
pub fn output_file(address: &str) -> String {
    let path = address.trim_start_matches('/');
    if path.is_empty() || path.ends_with('/') { format!("{path}index.html") } else { path.to_owned() }
}

/// The longest name of a file that file systems take, in bytes.
const LONGEST_PART: usize = 255;
/// The longest address, in bytes: far less than the path of a file may have.
const LONGEST: usize = 2000;

/// Why a path, decoded, can be no address of a site: it could not be published as a file, or has a meaning of its own.
pub fn unusable(path: &str) -> Option<String> {
    // Nearly all are such, and every address of a site is asked about.
    if path.len() <= LONGEST_PART && is_ordinary(path) {
        return None;
    }
    if path.contains("//") || path.split('/').any(|part| matches!(part, "." | "..")) {
        return Some("it has a part that is empty, or that is \".\" or \"..\"".to_owned());
    }
    if path.contains(char::is_control) {
        return Some("it holds a control character".to_owned());
    }
    if let Some(part) = path.split('/').find(|part| part.len() > LONGEST_PART) {
        return Some(format!("a part of it has {} bytes, and names of files have at most {LONGEST_PART}", part.len()));
    }
    if path.len() > LONGEST {
        return Some(format!("it has {} bytes, and {LONGEST} are the most", path.len()));
    }
    let own = path.split('/').any(|part| part.starts_with(".hausblatt")) || path == "/~" || path.starts_with("/~/");
    own.then(|| "hausblatt has files or pages of its own there".to_owned())
}

/// Whether a path has only letters, digits, `-`, `_`, and slashes with something between them.
fn is_ordinary(path: &str) -> bool {
    let (mut before, mut fine) = (0, true);
    for byte in path.bytes() {
        fine &= byte.is_ascii_alphanumeric() | (byte == b'-') | (byte == b'_') | (byte == b'/');
        fine &= (byte != b'/') | (before != b'/');
        before = byte;
    }
    fine
}

/// The beginning of an address, for messages.
pub fn shortened(address: &str) -> String {
    let mut short: String = address.chars().take(60).collect();
    if short.len() < address.len() {
        short.push('…');
    }
    short
}

/// What a link leads to within the site at the address `site`, as it is written; none for what is elsewhere.
pub(crate) fn within_site<'t>(site: &str, link: &'t str) -> Option<&'t str> {
    let text = link.trim();
    let own = text
        .strip_prefix(site)
        .filter(|rest| !site.is_empty() && (rest.is_empty() || rest.starts_with(['/', '?', '#'])));
    let text = match own {
        Some("") => "/",
        own => own.unwrap_or(text),
    };
    let first = text.find(['/', '?', '#']).unwrap_or(text.len());
    (!text.starts_with("//") && !text[..first].contains(':')).then_some(text)
}

/// An address as a link on the page at `base` writes it, without query and fragment; none where `base` is not an address.
pub(crate) fn joined_address(base: &str, path: &str) -> Option<String> {
    let whole = if path.starts_with('/') { path.to_owned() } else { format!("{}/{path}", base.rsplit_once('/')?.0) };
    let mut parts: Vec<&str> = Vec::new();
    let last = whole.rsplit('/').next().unwrap_or("");
    for part in whole.split('/').skip(1) {
        match part {
            "." => {}
            ".." => drop(parts.pop()),
            part => parts.push(part),
        }
    }
    if matches!(last, "." | "..") {
        parts.push("");
    }
    Some(format!("/{}", parts.join("/")))
}

/// `path` as seen from `folder`; none where it leads out of the site.
pub(crate) fn joined_path(folder: &str, path: &str) -> Option<String> {
    let mut parts: Vec<&str> = folder.split('/').filter(|part| !part.is_empty()).collect();
    for part in path.split('/') {
        match part {
            "" | "." => {}
            ".." => drop(parts.pop()?),
            part => parts.push(part),
        }
    }
    Some(parts.join("/"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn brings_addresses_to_one_form() {
        for (text, path) in [
            ("/visit/", "/visit/"),
            ("visit", "/visit"),
            ("https://seeds.example/a%20b/?q=1#x", "/a b/"),
            ("https://seeds.example", "/"),
            ("/k%C3%BCrbis/", "/kürbis/"),
            ("/ku\u{308}rbis/", "/kürbis/"),
            ("/%ff/", "/\u{fffd}/"),
            ("", "/"),
        ] {
            assert_eq!(asked(text).path, path, "{text}");
        }
        assert_eq!(asked("/find/?q=a").query, "q=a");
        assert_eq!(output_file("/"), "index.html");
        assert_eq!(output_file("/visit/"), "visit/index.html");
        assert_eq!(output_file("/404.html"), "404.html");
    }
}
