//! The quotes of texts in a tag that is inside of an attribute.

use crate::edit::neat::words_of;
use crate::syntax::lex::{TokenKind, lex};
use crate::syntax::words::Word;
use crate::text::diagnostic::Problems;
use crate::text::source::Span;

/// The tag at a byte with quotes of the other sort, where it is inside of an attribute in the quotes that its own texts have:
/// the two are read apart, but not by every editor. A text with quotes of the other sort in it keeps its own.
pub fn other_quotes(text: &str, body: usize, at: usize) -> Option<(Span, String)> {
    let tokens = lex(text, body, &mut Problems::new(&"".into()));
    let here = |span: Span| span.range().start <= at && at < span.range().end;
    let number = tokens.iter().position(|token| token.kind == TokenKind::Tag && here(token.span))?;
    let mut around = None;
    let (mut is_inside, mut is_comment) = (false, false);
    for token in tokens[..number].iter().filter(|token| !matches!(token.kind, TokenKind::Tag | TokenKind::Comment)) {
        let literal = token.span.of(text);
        for (at, c) in literal.char_indices() {
            let rest = &literal[at..];
            match (c, around) {
                _ if is_comment => is_comment = !rest.starts_with("-->"),
                ('<', None) if rest.starts_with("<!--") => is_comment = true,
                ('<', None) => is_inside = rest[1..].starts_with(|c: char| c.is_ascii_alphabetic()),
                ('>', None) => is_inside = false,
                ('"' | '\'', None) if is_inside => around = Some(c),
                (c, Some(quote)) if c == quote => around = None,
                _ => {}
            }
        }
    }
    let quote = around?;
    let other = if quote == '"' { '\'' } else { '"' };
    let span = tokens[number].span;
    let mut tag = span.of(text).to_owned();
    let mut is_changed = false;
    for word in words_of(text, span).iter().filter(|word| matches!(word.word, Word::Text(_))) {
        let written = word.span.of(text);
        if written.starts_with(quote) && written.len() > 1 && !written.contains([other, '\\']) {
            let start = word.span.range().start - span.range().start;
            let end = start + written.len();
            tag.replace_range(start..=start, &other.to_string());
            tag.replace_range(end - 1..end, &other.to_string());
            is_changed = true;
        }
    }
    is_changed.then_some((span, tag))
}
