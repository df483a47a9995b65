//! Lines of nothing but white space and tags that print nothing go, with their line break.

use std::borrow::Cow;

use crate::syntax::lex::{Token, TokenKind};
use crate::syntax::parse::statement::is_choice;
use crate::syntax::words::{SILENT, words};
use crate::text::diagnostic::Problems;
use crate::text::source::Span;

/// A tag, or text as it will be printed.
#[derive(Clone, Debug, PartialEq)]
pub enum Piece<'s> {
    /// Literal text.
    Text(Span, Cow<'s, str>),
    /// A tag: the span of the whole, and of its inside.
    Tag(Span, Span),
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
    Tag,
    Nothing,
}

/// Tokens to pieces, without standalone lines, comments and the file's last line break.
pub(crate) fn standalone<'s>(text: &'s str, tokens: &[Token]) -> Vec<Piece<'s>> {
    let parts = parts(text, tokens);
    let mut pieces = Vec::new();
    for line in parts.split_inclusive(|part| part.kind == PartKind::Break) {
        let gone = is_standalone(line);
        for part in line {
            push(&mut pieces, text, part, gone);
        }
    }
    drop_last_break(&mut pieces);
    pieces
}

fn is_standalone(line: &[LinePart<'_>]) -> bool {
    let prints = |part: &LinePart<'_>| matches!(part.kind, PartKind::Words | PartKind::Tag);
    let silent = |part: &LinePart<'_>| matches!(part.kind, PartKind::Silent | PartKind::Nothing);
    line.iter().any(silent) && !line.iter().any(prints)
}

fn push<'s>(pieces: &mut Vec<Piece<'s>>, text: &'s str, part: &LinePart<'s>, gone: bool) {
    match part.kind {
        PartKind::Nothing => {}
        PartKind::Blank | PartKind::Break if gone => {}
        PartKind::Silent | PartKind::Tag => {
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
                let kind = if is_silent(text, token.span) { PartKind::Silent } else { PartKind::Tag };
                parts.push(part(text, token.span, kind));
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

fn is_silent(text: &str, tag: Span) -> bool {
    let inside = tag.of(text).get(2..).unwrap_or("");
    let inside = inside.trim_start();
    let end = inside.find(|c: char| !c.is_alphanumeric() && c != '_').unwrap_or(inside.len());
    let first = &inside[..end];
    SILENT.contains(&first) && !(first == "if" && is_choice_in(text, tag))
}

/// Whether an `if` is a value after all. What is wrong in it is reported when it is parsed.
fn is_choice_in(text: &str, tag: Span) -> bool {
    let mut unheard = Problems::new(&"".into());
    let inside = Span::new(tag.range().start + 2, tag.range().end - 1);
    is_choice(&words(text, inside, &mut unheard))
}

fn drop_last_break(pieces: &mut Vec<Piece<'_>>) {
    if let Some(Piece::Text(_, text)) = pieces.last_mut() {
        let shorter = text.strip_suffix('\n').map(|text| text.strip_suffix('\r').unwrap_or(text).len());
        if let Some(length) = shorter {
            text.to_mut().truncate(length);
        }
    }
    if matches!(pieces.last(), Some(Piece::Text(_, text)) if text.is_empty()) {
        pieces.pop();
    }
}
