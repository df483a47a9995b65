//! What can be cut out of a template: whole tags, whole blocks, whole elements, from text to text.

use crate::edit::neat::{Place, place_of, words_of};
use crate::html::names::{ENDLESS, VOID};
use crate::html::scanner::{Event, ScanState};
use crate::syntax::lex::{TokenKind, lex};
use crate::text::diagnostic::Problems;
use crate::text::ending::Ending;
use crate::text::source::Span;

/// Why a part of a file can't be cut out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Uncut {
    /// An end of it is inside of a tag, a comment or an element's tag, or where no call can be.
    InTag,
    /// A block that is opened in it ends behind it; where it is opened.
    OpenBlock(Span),
    /// A block that is opened before it ends, or is divided, in it; where.
    StrayEnd(Span),
    /// An element that begins in it ends behind it: its name, and where it begins.
    OpenElement(String, Span),
    /// An element that begins before it ends in it: its name, and where it ends.
    StrayEndTag(String, Span),
    /// There is nothing in it.
    Empty,
}

/// Whether a part of a template is whole; `body` is where its front matter ends.
///
/// # Errors
/// The first thing in it that is not.
pub fn whole(text: &str, body: usize, ending: Ending, part: Span) -> Result<(), Uncut> {
    let range = part.range();
    if range.start < body || part.of(text).trim().is_empty() {
        return Err(Uncut::Empty);
    }
    let mut state = ScanState::beginning(ending);
    let mut states: Vec<ScanState> = Vec::new();
    let mut blocks: Vec<Span> = Vec::new();
    let mut elements: Vec<(String, Span)> = Vec::new();
    let mut is_text_at = [None, None];
    for token in lex(text, body, &mut Problems::new(&"".into())) {
        let own = token.span.range();
        let cuts = [range.start, range.end].map(|end| own.start < end && end < own.end);
        match token.kind {
            TokenKind::Text => {
                for (at, end) in [range.start, range.end].into_iter().enumerate() {
                    if own.start <= end && end <= own.end && is_text_at[at].is_none() {
                        let mut there = state.clone();
                        there.scan(&text[own.start..end]);
                        is_text_at[at] = Some(there.is_text());
                    }
                }
                for event in state.scan(&text[own.clone()]) {
                    let at = match event {
                        Event::Element { at } | Event::EndTag { at } | Event::BodyEnd { at } => own.start + at,
                        _ => continue,
                    };
                    if at < range.start || !matches!(ending, Ending::Html | Ending::Xml) {
                        continue;
                    }
                    match at < range.end {
                        true => tag(text, at, ending, &mut elements)?,
                        false => behind(text, at, &mut elements)?,
                    }
                }
            }
            _ if cuts.contains(&true) => return Err(Uncut::InTag),
            TokenKind::Tag => {
                for (at, end) in [range.start, range.end].into_iter().enumerate() {
                    if own.start == end && is_text_at[at].is_none() {
                        is_text_at[at] = Some(state.is_text());
                    }
                }
                let is_inside = range.start <= own.start && own.end <= range.end;
                match place_of(&words_of(text, token.span)) {
                    Place::Opens => {
                        states.push(state.clone());
                        if is_inside {
                            blocks.push(token.span);
                        }
                    }
                    Place::Divides => {
                        state = states.last().cloned().unwrap_or(state);
                        if is_inside && blocks.is_empty() {
                            return Err(Uncut::StrayEnd(token.span));
                        }
                    }
                    Place::Ends => {
                        states.pop();
                        if is_inside && blocks.pop().is_none() {
                            return Err(Uncut::StrayEnd(token.span));
                        }
                    }
                    Place::Alone => {}
                }
            }
            TokenKind::Comment | TokenKind::DroppedPlus | TokenKind::Broken => {}
        }
    }
    if let Some(open) = blocks.first() {
        return Err(Uncut::OpenBlock(*open));
    }
    if let Some((name, at)) = elements.into_iter().find(|(name, _)| !is_endless(name, ending)) {
        return Err(Uncut::OpenElement(name, at));
    }
    if is_text_at.contains(&Some(false)) { Err(Uncut::InTag) } else { Ok(()) }
}

/// Whether the end tag of an element may be left out.
fn is_endless(name: &str, ending: Ending) -> bool {
    ending == Ending::Html && ENDLESS.contains(&name)
}

/// Goes over a tag behind the part: an element whose end tag may be left out and is not there has ended before the next one.
fn behind(text: &str, at: usize, elements: &mut Vec<(String, Span)>) -> Result<(), Uncut> {
    let is_end = text[at..].starts_with("</");
    let rest = &text[at + 1 + usize::from(is_end)..];
    let is_it = |name: &str| {
        let head = rest.get(..name.len());
        head.is_some_and(|head| head.eq_ignore_ascii_case(name))
            && !rest[name.len()..].starts_with(char::is_alphanumeric)
    };
    let Some(found) = elements.iter().rposition(|(name, _)| is_it(name)) else { return Ok(()) };
    let (name, span) = elements.remove(found);
    if is_end { Err(Uncut::OpenElement(name, span)) } else { Ok(()) }
}

/// Goes over the tag of an element at `at`.
fn tag(text: &str, at: usize, ending: Ending, elements: &mut Vec<(String, Span)>) -> Result<(), Uncut> {
    let rest = &text[at + 1..];
    let (is_end, rest) = rest.strip_prefix('/').map_or((false, rest), |rest| (true, rest));
    let length = rest.find(|c: char| !c.is_alphanumeric() && !matches!(c, '-' | ':' | '_')).unwrap_or(rest.len());
    let name = rest[..length].to_lowercase();
    let span = Span::new(at, at + 1 + usize::from(is_end) + length);
    if !is_end {
        let is_closed = rest.split('>').next().is_some_and(|tag| tag.ends_with('/'));
        let is_void = is_closed || ending == Ending::Html && VOID.contains(&name.as_str());
        if !is_void {
            elements.push((name, span));
        }
        return Ok(());
    }
    match elements.iter().rposition(|(open, _)| *open == name) {
        Some(at) => {
            let open = elements[at + 1..].iter().find(|(open, _)| !is_endless(open, ending));
            if let Some((name, at)) = open {
                return Err(Uncut::OpenElement(name.clone(), *at));
            }
            elements.truncate(at);
            Ok(())
        }
        None => Err(Uncut::StrayEndTag(name, span)),
    }
}
