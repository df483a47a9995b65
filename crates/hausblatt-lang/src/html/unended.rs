//! A comment, an element or a quote of a file that takes in all that follows: reported where it begins, and not where it
//! ends up.

use crate::html::scanner::{Event, Mode, ScanState};
use crate::syntax::lex::{Token, TokenKind};
use crate::text::code::Code;
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Problems};
use crate::text::ending::Ending;
use crate::text::source::Span;

/// What is said of a file that ends inside something, and of tags that are inside by mistake.
const EFFECTS: &[&Code] = &[
    &codes::OPEN_HTML,
    &codes::BRANCHES_DIFFER,
    &codes::TEXT_ONLY,
    &codes::UNEVEN_BRANCHES,
    &codes::UNSAFE_PLACE,
    &codes::UNLINKED_ASSET,
];

/// Reports what is never ended, if that is what other problems come of. They are left out.
pub(crate) fn check(text: &str, tokens: &[Token], problems: &mut Problems) {
    if !EFFECTS.iter().any(|code| problems.has(code)) {
        return;
    }
    let Some((at, what, help, is_certain)) = find(text, tokens) else { return };
    // What is wrong in the tag itself does not come of that.
    let inside = if text[at..].starts_with('<') { text[at..].find('>').map_or(at, |end| at + end) } else { at };
    // One problem alone may be what is meant. Where a tag cuts the HTML in two, what ends it may be in two pieces.
    let few = if is_certain { 1 } else { 2 };
    if problems.behind(inside, &EFFECTS[1..]) < few || problems.says("in two") {
        return;
    }
    problems.forget_behind(inside, EFFECTS);
    let message = format!("{what} is never ended, and takes in all that follows");
    problems.push(Span::new(at, at + 1), Diagnostic::of(&codes::OPEN_HTML, message).help(help));
}

/// Where it begins, what it is, what to write, and whether it is certain.
fn find(text: &str, tokens: &[Token]) -> Option<(usize, String, String, bool)> {
    let mut state = ScanState::beginning(Ending::Html);
    // The quote that is open.
    let mut quote: Option<usize> = None;
    for token in tokens {
        let range = token.span.range();
        if token.kind != TokenKind::Text {
            state.pause();
            continue;
        }
        for event in state.scan(&text[range.clone()]) {
            match event {
                Event::ValueStart { value, .. } => quote = Some(range.start + value),
                Event::ValueEnd { at } => {
                    let end = range.start + at;
                    let start = quote.take()?;
                    if swallows(text, start, end) {
                        return Some(of_quote(text, start, true));
                    }
                }
                _ => {}
            }
        }
    }
    match state.mode {
        Mode::Comment => {
            Some((text.rfind("<!--")?, "this comment".to_owned(), "write --> where it ends".to_owned(), false))
        }
        Mode::Unparsed | Mode::Title => {
            let tag = format!("<{}", state.element);
            let at = text.to_ascii_lowercase().rfind(&tag)?;
            Some((at, format!("this {tag}>"), format!("write </{}> where it ends", state.element), false))
        }
        Mode::Quoted(_) => Some(of_quote(text, quote?, false)),
        _ => None,
    }
}

/// Whether a quoted value took in a tag of HTML, and ended where another value begins.
fn swallows(text: &str, start: usize, end: usize) -> bool {
    let (Some(value), Some(after)) = (text.get(start..end), text.get(end + 1..)) else { return false };
    let is_other = after.starts_with(|c: char| c.is_alphanumeric() || matches!(c, '/' | '#' | '+' | '.'));
    value.contains('>') && value.contains('<') && is_other && !after.starts_with("/>")
}

fn of_quote(text: &str, start: usize, is_certain: bool) -> (usize, String, String, bool) {
    let at = start.saturating_sub(1);
    let quote = text.get(at..start).unwrap_or("\"");
    (at, "this quoted value".to_owned(), format!("write {quote} where it ends"), is_certain)
}
