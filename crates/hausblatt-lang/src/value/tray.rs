//! What content places in trays, and the marks for those that its text has in it.

use std::borrow::Cow;
use std::hash::{BuildHasher, RandomState};
use std::ops::Range;
use std::sync::LazyLock;
use std::sync::atomic::{AtomicBool, Ordering};

use memchr::memchr;

use crate::value::Value;
use crate::value::shape::Symbol;

/// What is in a tray.
#[derive(Clone, Copy)]
pub enum InTray<'a> {
    /// A component.
    Component {
        /// The number of its file in the library.
        unit: u32,
        /// The values of its fields.
        given: &'a [(Symbol, Value<'a>)],
    },
    /// One that was left out, and why: shown while developing.
    LeftOut(&'a str),
}

/// What a mark begins with. Nobody can write it: it is another one each time the program runs. No mark is ever printed.
/// The character in it is one that hardly any text has, so that texts are gone through quickly.
static START: LazyLock<String> =
    LazyLock::new(|| format!("{BEFORE}{RARE}tray-{:016x} ", RandomState::new().hash_one("a tray in a text")));
/// Whether any mark was made: few sites have one, and nothing is looked through for what nobody made.
static ANY: AtomicBool = AtomicBool::new(false);
const BEFORE: &str = "<!--";
const RARE: char = '\u{1}';
const END: &str = "-->";

/// The mark for a tray in the text of the content with this number. Where the text is printed, the components are there
/// that this content places in the tray; wherever else it is used, there is nothing.
pub fn mark(content: u32, tray: &str) -> String {
    ANY.store(true, Ordering::Release);
    format!("{}{content} {tray}{END}", *START)
}

/// HTML without the marks of trays.
pub fn without_marks(html: &str) -> Cow<'_, str> {
    let Some(first) = find(html) else { return Cow::Borrowed(html) };
    let mut out = html[..first.at.start].to_owned();
    let mut rest = &html[first.at.end..];
    while let Some(mark) = find(rest) {
        out.push_str(&rest[..mark.at.start]);
        rest = &rest[mark.at.end..];
    }
    out.push_str(rest);
    Cow::Owned(out)
}

/// A mark in a text.
pub(crate) struct Mark<'t> {
    /// Its bytes.
    pub at: Range<usize>,
    /// The number of the content whose text it is.
    pub content: u32,
    /// The tray.
    pub tray: &'t str,
}

/// The first mark of a text.
#[inline]
pub(crate) fn find(html: &str) -> Option<Mark<'_>> {
    if !ANY.load(Ordering::Acquire) {
        return None;
    }
    let rare = memchr(RARE as u8, html.as_bytes())?;
    find_from(html, rare)
}

/// The first mark of a text that has the first character of one at `rare`.
#[cold]
fn find_from(html: &str, mut rare: usize) -> Option<Mark<'_>> {
    loop {
        let start =
            rare.checked_sub(BEFORE.len()).filter(|&start| html.as_bytes()[start..].starts_with(START.as_bytes()));
        if let Some(start) = start {
            let inside = start + START.len();
            let length = html[inside..].find(END)?;
            let (content, tray) = html[inside..inside + length].split_once(' ')?;
            return Some(Mark { at: start..inside + length + END.len(), content: content.parse().ok()?, tray });
        }
        rare += 1 + memchr(RARE as u8, &html.as_bytes()[rare + 1..])?;
    }
}

#[cfg(test)]
mod tests {
    use super::{find, mark, without_marks};

    #[test]
    fn marks_are_found_and_taken_out() {
        let text = format!("a{}b{}c<!-- d -->", mark(7, "the middle"), mark(8, "x"));
        let first = find(&text).unwrap();
        assert_eq!((first.at.start, first.content, first.tray), (1, 7, "the middle"));
        assert_eq!(without_marks(&text), "abc<!-- d -->");
        for other in ["<!--tray-0 1 x-->", "\u{1}", "<!--\u{1}tray-0 1 x-->", "é\u{1}"] {
            assert_eq!(without_marks(other), other);
            let text = format!("{other}{}{other}", mark(7, "x"));
            assert_eq!(without_marks(&text), format!("{other}{other}"));
        }
    }
}
