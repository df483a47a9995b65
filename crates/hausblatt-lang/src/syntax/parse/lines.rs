//! Lines of nothing but white space and tags that print nothing go, with their line break. Of lines of nothing but one
//! tag that may print nothing the beginning and the end are kept apart, so that they can go when it does.

use std::borrow::Cow;

use crate::syntax::lex::{Token, TokenKind};
use crate::syntax::parse::statement::is_choice;
use crate::syntax::words::{MAY_BE_SILENT, SILENT, words};
use crate::text::diagnostic::Problems;
use crate::text::source::Span;

/// A tag, or text as it will be printed.
#[derive(Clone, Debug, PartialEq)]
pub enum Piece<'s> {
    /// Literal text.
    Text(Span, Cow<'s, str>),
    /// A tag: the span of the whole, and of its inside.
    Tag(Span, Span),
    /// A line begins that goes if its only tag prints nothing: the white space in front of the tag.
    LineStart(Span, Cow<'s, str>),
    /// Such a line ends: what is behind the tag, with the line break.
    LineEnd(Span, Cow<'s, str>),
}

/// One line's share of a token: its text without the break, the break, or a tag.
struct LinePart<'s> {
    text: &'s str,
    span: Span,
    kind: PartKind,
}

#[derive(Clone, Copy, PartialEq)]
enum PartKind {
    Words,
    Blank,
    Break,
    Silent,
    /// A tag that alone on its line may print nothing.
    MayBeSilent,
    Tag,
    Nothing,
}

/// Tokens to pieces, without standalone lines, comments and the file's last line break.
pub(crate) fn standalone<'s>(text: &'s str, tokens: &[Token]) -> Vec<Piece<'s>> {
    let parts = parts(text, tokens);
    let mut pieces = Vec::new();
    for line in parts.split_inclusive(|part| part.kind == PartKind::Break) {
        match only_tag(line) {
            Some(at) => push_line(&mut pieces, text, line, at),
            None => {
                let gone = is_standalone(line);
                line.iter().for_each(|part| push(&mut pieces, text, part, gone));
            }
        }
    }
    drop_last_break(&mut pieces);
    pieces
}

fn is_standalone(line: &[LinePart<'_>]) -> bool {
    let prints = |part: &LinePart<'_>| matches!(part.kind, PartKind::Words | PartKind::Tag | PartKind::MayBeSilent);
    let silent = |part: &LinePart<'_>| matches!(part.kind, PartKind::Silent | PartKind::Nothing);
    line.iter().any(silent) && !line.iter().any(prints)
}

/// The place of the only tag of a line that is nothing else, if it may print nothing.
fn only_tag(line: &[LinePart<'_>]) -> Option<usize> {
    let is_other = |part: &LinePart<'_>| matches!(part.kind, PartKind::Words | PartKind::Tag | PartKind::Silent);
    let mut tags = line.iter().enumerate().filter(|(_, part)| part.kind == PartKind::MayBeSilent);
    let (at, _) = tags.next()?;
    (tags.next().is_none() && !line.iter().any(is_other)).then_some(at)
}

fn push_line<'s>(pieces: &mut Vec<Piece<'s>>, text: &'s str, line: &[LinePart<'s>], at: usize) {
    let (before, rest) = line.split_at(at);
    let tag = &rest[0];
    let (span, white) = joined(text, before, tag.span.range().start);
    pieces.push(Piece::LineStart(span, white));
    push(pieces, text, tag, false);
    let (span, white) = joined(text, &rest[1..], tag.span.range().end);
    pieces.push(Piece::LineEnd(span, white));
}

/// The text of some parts of a line, without its comments; where there is none, its place is at `at`.
fn joined<'s>(text: &'s str, parts: &[LinePart<'s>], at: usize) -> (Span, Cow<'s, str>) {
    let mut pieces = Vec::new();
    parts.iter().for_each(|part| push(&mut pieces, text, part, false));
    match pieces.pop() {
        Some(Piece::Text(span, white)) => (span, white),
        _ => (Span::new(at, at), Cow::Borrowed("")),
    }
}

fn push<'s>(pieces: &mut Vec<Piece<'s>>, text: &'s str, part: &LinePart<'s>, gone: bool) {
    match part.kind {
        PartKind::Nothing => {}
        PartKind::Blank | PartKind::Break if gone => {}
        PartKind::Silent | PartKind::MayBeSilent | PartKind::Tag => {
            let inside = Span::new(part.span.range().start + 2, part.span.range().end - 1);
            pieces.push(Piece::Tag(part.span, inside));
        }
        PartKind::Words | PartKind::Blank | PartKind::Break => join(pieces, text, part),
    }
}

/// Adds to the text before it, so that what reads the HTML never meets a word cut in two by a comment or a
/// dropped plus. Where the two are neighbours in the source, this costs no copy.
fn join<'s>(pieces: &mut Vec<Piece<'s>>, text: &'s str, part: &LinePart<'s>) {
    let Some(Piece::Text(span, whole)) = pieces.last_mut() else {
        return pieces.push(Piece::Text(part.span, Cow::Borrowed(part.text)));
    };
    let neighbours = span.end == part.span.start && matches!(whole, Cow::Borrowed(_));
    *span = span.to(part.span);
    if neighbours {
        *whole = Cow::Borrowed(span.of(text));
    } else {
        whole.to_mut().push_str(part.text);
    }
}

fn parts<'s>(text: &'s str, tokens: &[Token]) -> Vec<LinePart<'s>> {
    let mut parts = Vec::new();
    for token in tokens {
        match token.kind {
            TokenKind::Text => text_parts(text, token.span, &mut parts),
            TokenKind::DroppedPlus => {}
            TokenKind::Comment | TokenKind::Broken => parts.push(part(text, token.span, PartKind::Nothing)),
            TokenKind::Tag => {
                parts.push(part(text, token.span, tag_kind(text, token.span)));
            }
        }
    }
    parts
}

fn part(text: &str, span: Span, kind: PartKind) -> LinePart<'_> {
    LinePart { text: span.of(text), span, kind }
}

fn text_parts<'s>(text: &'s str, span: Span, parts: &mut Vec<LinePart<'s>>) {
    let mut start = span.range().start;
    for line in span.of(text).split_inclusive('\n') {
        let words = line.trim_end_matches('\n');
        let words = words.strip_suffix('\r').filter(|_| line.ends_with('\n')).unwrap_or(words);
        let middle = start + words.len();
        if !words.is_empty() {
            let kind = if words.trim().is_empty() { PartKind::Blank } else { PartKind::Words };
            parts.push(part(text, Span::new(start, middle), kind));
        }
        start += line.len();
        if middle < start {
            parts.push(part(text, Span::new(middle, start), PartKind::Break));
        }
    }
}

fn tag_kind(text: &str, tag: Span) -> PartKind {
    let inside = tag.of(text).get(2..).unwrap_or("").trim_end_matches('}').trim();
    let end = inside.find(|c: char| !c.is_alphanumeric() && c != '_').unwrap_or(inside.len());
    let first = &inside[..end];
    // What opens a block goes on below its line.
    let opens = || inside.split_whitespace().next_back().is_some_and(|last| matches!(last, "with" | "else"));
    match first {
        _ if SILENT.contains(&first) && !(first == "if" && is_choice_in(text, tag)) => PartKind::Silent,
        _ if MAY_BE_SILENT.contains(&first) && !opens() => PartKind::MayBeSilent,
        _ => PartKind::Tag,
    }
}

/// Whether an `if` is a value after all. What is wrong in it is reported when it is parsed.
fn is_choice_in(text: &str, tag: Span) -> bool {
    let mut unheard = Problems::new(&"".into());
    let inside = Span::new(tag.range().start + 2, tag.range().end - 1);
    is_choice(&words(text, inside, &mut unheard))
}

fn drop_last_break(pieces: &mut Vec<Piece<'_>>) {
    if let Some(Piece::Text(_, text) | Piece::LineEnd(_, text)) = pieces.last_mut() {
        let shorter = text.strip_suffix('\n').map(|text| text.strip_suffix('\r').unwrap_or(text).len());
        if let Some(length) = shorter {
            text.to_mut().truncate(length);
        }
    }
    if matches!(pieces.last(), Some(Piece::Text(_, text)) if text.is_empty()) {
        pieces.pop();
    }
}

/// A line: its tags, and the white space at its ends.
pub(crate) struct Line {
    /// Its tags, comments left out.
    pub tags: Vec<Span>,
    /// The white space in front of all else; empty where there is none.
    pub lead: Span,
    /// The white space behind all else.
    pub trail: Span,
    /// Whether it prints nothing, so that it goes.
    pub goes: bool,
    /// Whether a tag is the first that is on it.
    pub begins_with_tag: bool,
}

/// The lines of a file; a tag or comment that goes on below is on the line where it begins.
pub(crate) fn lines(text: &str, tokens: &[Token]) -> Vec<Line> {
    let parts = parts(text, tokens);
    let line = |line: &[LinePart<'_>]| {
        let is_tag =
            |part: &&LinePart<'_>| matches!(part.kind, PartKind::Silent | PartKind::MayBeSilent | PartKind::Tag);
        let parts = match line.split_last() {
            Some((last, rest)) if last.kind == PartKind::Break => rest,
            _ => line,
        };
        let blank = |part: Option<&LinePart<'_>>, at: usize| {
            part.filter(|part| part.kind == PartKind::Blank).map_or(Span::new(at, at), |part| part.span)
        };
        let start = parts.first().map_or(0, |part| part.span.range().start);
        let end = parts.last().map_or(start, |part| part.span.range().end);
        let content = parts.iter().find(|part| part.kind != PartKind::Blank);
        Line {
            tags: parts.iter().filter(is_tag).map(|part| part.span).collect(),
            lead: blank(parts.first(), start),
            trail: if parts.len() > 1 { blank(parts.last(), end) } else { Span::new(end, end) },
            goes: is_standalone(line),
            begins_with_tag: content.is_some_and(|part| is_tag(&part)),
        }
    };
    parts.split_inclusive(|part| part.kind == PartKind::Break).map(line).collect()
}
