//! Where the slots of a file are, as it is written.

use crate::edit::neat::{Place, place_of, words_of};
use crate::syntax::lex::{TokenKind, lex};
use crate::syntax::words::Word;
use crate::text::diagnostic::Problems;
use crate::text::source::Span;

/// A slot with a name, as it is written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct WrittenSlot {
    /// Its name.
    pub name: String,
    /// The whole of it, with its default and its end.
    pub span: Span,
    /// Its default; empty where it has none.
    pub default: Span,
}

impl WrittenSlot {
    /// Whether it has an end, and so a default, be it empty.
    pub fn has_default(&self) -> bool {
        self.span.range().end != self.default.range().end
    }
}

/// The slots of a file with a name, in order; those in the default of another are left out. `body` is where its front matter
/// ends.
pub fn written(text: &str, body: usize) -> Vec<WrittenSlot> {
    let mut found: Vec<WrittenSlot> = Vec::new();
    // The blocks that are open, each with the slot that it is.
    let mut open: Vec<Option<(String, Span)>> = Vec::new();
    let tokens = lex(text, body, &mut Problems::new(&"".into()));
    for token in tokens.iter().filter(|token| token.kind == TokenKind::Tag) {
        let words = words_of(text, token.span);
        let mut parts = words.iter().map(|word| &word.word);
        let name = match (parts.next(), parts.next()) {
            (Some(Word::Name(first)), Some(Word::Text(name))) if first == "slot" => Some(name.clone()),
            _ => None,
        };
        let is_in_slot = open.iter().any(Option::is_some);
        match place_of(&words) {
            Place::Opens => open.push(name.map(|name| (name, token.span)).filter(|_| !is_in_slot)),
            Place::Ends => {
                if let Some(Some((name, start))) = open.pop() {
                    let default = Span::new(start.range().end, token.span.range().start);
                    found.push(WrittenSlot { name, span: start.to(token.span), default });
                }
            }
            Place::Alone => {
                if let Some(name) = name.filter(|_| !is_in_slot) {
                    let end = token.span.range().end;
                    found.push(WrittenSlot { name, span: token.span, default: Span::new(end, end) });
                }
            }
            Place::Divides => {}
        }
    }
    found.sort_by_key(|slot| slot.span.range().start);
    found
}
