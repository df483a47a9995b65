//! What is in a file as it is written: its blocks, and the calls, slots and trays between them.

use crate::edit::neat::{Place, place_of, words_of};
use crate::syntax::lex::{TokenKind, lex};
use crate::syntax::words::Word;
use crate::text::diagnostic::Problems;
use crate::text::source::Span;

/// A block, or a tag that stands for something.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Block {
    /// The word that it begins with.
    pub word: String,
    /// What it is called: its tag without the braces, shortened.
    pub title: String,
    /// All of it, to its end.
    pub span: Span,
    /// Its first tag.
    pub tag: Span,
    /// The tags that divide it, and the one that ends it.
    pub others: Vec<Span>,
    /// Whether it has its end.
    pub is_ended: bool,
}

/// So many characters of a tag are shown.
const LONGEST: usize = 60;

/// The blocks of a file and what stands between them, in the order in which they begin. `body` is where its front matter ends.
pub fn blocks(text: &str, body: usize) -> Vec<Block> {
    let mut found: Vec<Block> = Vec::new();
    let mut open: Vec<usize> = Vec::new();
    let tokens = lex(text, body, &mut Problems::new(&"".into()));
    for token in tokens.iter().filter(|token| token.kind == TokenKind::Tag) {
        let words = words_of(text, token.span);
        let Some(Word::Name(word)) = words.first().map(|word| &word.word) else { continue };
        let inside = token.span.of(text).trim_start_matches("+{").trim_end_matches('}');
        let mut title: String = inside.split_whitespace().collect::<Vec<_>>().join(" ");
        if let Some((at, _)) = title.char_indices().nth(LONGEST) {
            title.truncate(at);
            title.push('…');
        }
        let block =
            Block { word: word.clone(), title, span: token.span, tag: token.span, others: Vec::new(), is_ended: false };
        match place_of(&words) {
            Place::Opens => {
                open.push(found.len());
                found.push(block);
            }
            Place::Ends => {
                if let Some(at) = open.pop() {
                    found[at].span = found[at].tag.to(token.span);
                    found[at].others.push(token.span);
                    found[at].is_ended = true;
                }
            }
            Place::Divides => {
                if let Some(&at) = open.last() {
                    found[at].others.push(token.span);
                }
            }
            Place::Alone if ["partial", "component", "inherited", "slot", "tray", "let"].contains(&word.as_str()) => {
                found.push(block);
            }
            Place::Alone => {}
        }
    }
    found
}

/// The word of the innermost block that is open at a byte, for its end.
pub fn open_at(text: &str, body: usize, at: usize) -> Option<String> {
    let before = text.get(..at)?;
    let mut open = Vec::new();
    for token in
        lex(before, body.min(at), &mut Problems::new(&"".into())).iter().filter(|token| token.kind == TokenKind::Tag)
    {
        let words = words_of(before, token.span);
        match (place_of(&words), words.first().map(|word| &word.word)) {
            (Place::Opens, Some(Word::Name(word))) => open.push(word.clone()),
            (Place::Ends, _) => drop(open.pop()),
            _ => {}
        }
    }
    open.pop()
}
