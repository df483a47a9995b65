//! Source to tokens: text, tags and comments. Joined together, the tokens are the source.

use memchr::memmem;

use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Fix, Problems};
use crate::text::source::Span;

/// What a token is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TokenKind {
    /// Literal text.
    Text,
    /// The plus that `++{` drops.
    DroppedPlus,
    /// `+{# … #}`.
    Comment,
    /// `+{ … }`.
    Tag,
    /// The rest of a line after a tag or comment that never ends; reported, prints nothing.
    Broken,
}

/// A piece of the source.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Token {
    /// What it is.
    pub kind: TokenKind,
    /// Where it is; a tag's span includes `+{` and `}`.
    pub span: Span,
}

/// Cuts `text`, from byte `from`, into tokens.
pub fn lex(text: &str, from: usize, problems: &mut Problems) -> Vec<Token> {
    let mut lexer = Lexer { text, problems, tokens: Vec::new(), pending: from };
    lexer.run(from);
    lexer.tokens
}

struct Lexer<'s> {
    text: &'s str,
    problems: &'s mut Problems,
    tokens: Vec<Token>,
    /// Where the text that is not yet a token begins.
    pending: usize,
}

impl Lexer<'_> {
    fn run(&mut self, from: usize) {
        let mut at = from;
        while let Some(found) = memmem::find(&self.text.as_bytes()[at..], b"+{") {
            at = self.opening(at + found);
        }
        self.flush(self.text.len());
    }

    /// Deals with the `+{` at `open` and says where to go on.
    fn opening(&mut self, open: usize) -> usize {
        let pluses = self.text.as_bytes()[self.pending..=open].iter().rev().take_while(|&&byte| byte == b'+').count();
        if pluses > 1 {
            let first = open + 1 - pluses;
            self.flush(first);
            self.push(TokenKind::DroppedPlus, first + 1);
            return open + 2;
        }
        self.flush(open);
        let (kind, end) = if self.text[open + 2..].starts_with('#') {
            comment_end(self.text, open)
                .map_or_else(|| self.unended(open, "comment", "#}"), |end| (TokenKind::Comment, end))
        } else {
            tag_end(self.text, open).map_or_else(|| self.unended(open, "tag", "}"), |end| (TokenKind::Tag, end))
        };
        self.push(kind, end);
        end
    }

    fn unended(&mut self, open: usize, what: &str, close: &str) -> (TokenKind, usize) {
        let rest = &self.text[open..];
        let end = open + rest.find('\n').unwrap_or(rest.len());
        let mut diagnostic = Diagnostic::of(&codes::UNCLOSED_TAG, format!("this {what} is never ended"))
            .help(format!("write \"{close}\" where it ends; to print the two characters themselves, write \"++{{\""));
        if let Some(fix) = missing_quote(self.text, open, end) {
            diagnostic = diagnostic.help(format!("a quote is missing; write {}", fix.to));
            diagnostic.fix = Some(Box::new(fix));
        }
        self.problems.push(Span::new(open, open + 2), diagnostic);
        (TokenKind::Broken, end)
    }

    fn flush(&mut self, end: usize) {
        if end > self.pending {
            self.push(TokenKind::Text, end);
        }
    }

    fn push(&mut self, kind: TokenKind, end: usize) {
        self.tokens.push(Token { kind, span: Span::new(self.pending, end) });
        self.pending = end;
    }
}

/// One past the `}` that ends the tag opened at `open`; none if another tag, an empty line or the
/// end of the file comes first.
fn tag_end(text: &str, open: usize) -> Option<usize> {
    let bytes = text.as_bytes();
    let mut quote = None;
    let mut at = open + 2;
    while let Some(&byte) = bytes.get(at) {
        match (byte, quote) {
            (b'+', _) if bytes.get(at + 1) == Some(&b'{') => return None,
            (b'\n', _) if blank_line_follows(&text[at + 1..]) => return None,
            (b'\\', Some(_)) => at += 1,
            (b'"' | b'\'', None) => quote = Some(byte),
            (_, Some(open)) if byte == open => quote = None,
            (b'}', None) => return Some(at + 1),
            _ => {}
        }
        at += 1;
    }
    None
}

fn blank_line_follows(rest: &str) -> bool {
    let line = rest.split('\n').next().unwrap_or("");
    line.trim().is_empty()
}

fn comment_end(text: &str, open: usize) -> Option<usize> {
    let bytes = text.as_bytes();
    let mut depth = 1usize;
    let mut at = open + 3;
    while at < bytes.len() {
        if bytes[at..].starts_with(b"+{#") {
            depth += 1;
            at += 3;
        } else if bytes[at..].starts_with(b"#}") {
            depth -= 1;
            at += 2;
            if depth == 0 {
                return Some(at);
            }
        } else {
            at += 1;
        }
    }
    None
}

/// The quote that a word in the tag's line lacks, if that is all that is wrong: `"card}` for `"card"}`.
fn missing_quote(text: &str, open: usize, end: usize) -> Option<Fix> {
    let line = &text[open..end];
    let tag = &line[..line.find('}')?];
    let quote = tag.find(['"', '\''])?;
    let word = &tag[quote + 1..];
    let plain = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_' | '/' | '.' | ':');
    let sound = !word.is_empty() && word.chars().all(plain);
    let from = format!("{}}}", &tag[quote..]);
    let to = format!("{}{}}}", &tag[quote..], &tag[quote..=quote]);
    sound.then(|| Fix { span: Some(Span::new(open, end)), from, to })
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use proptest::prelude::*;

    use super::*;

    fn pieces(text: &str) -> (Vec<(TokenKind, &str)>, usize) {
        let path: Arc<str> = "t.html".into();
        let mut problems = Problems::new(&path);
        let tokens = lex(text, 0, &mut problems);
        (tokens.iter().map(|token| (token.kind, token.span.of(text))).collect(), problems.into_list().len())
    }

    #[test]
    fn finds_tags_comments_and_doubled_pluses() {
        use TokenKind::*;
        for (text, expected) in [
            ("a +{b} c", vec![(Text, "a "), (Tag, "+{b}"), (Text, " c")]),
            ("++{b}", vec![(DroppedPlus, "+"), (Text, "+{b}")]),
            ("x+++{b}", vec![(Text, "x"), (DroppedPlus, "+"), (Text, "++{b}")]),
            ("+{#a +{# b #} c #}d", vec![(Comment, "+{#a +{# b #} c #}"), (Text, "d")]),
            ("+{\"}\" + '\\'}'}", vec![(Tag, "+{\"}\" + '\\'}'}")]),
            ("+{a\n+ b}", vec![(Tag, "+{a\n+ b}")]),
        ] {
            assert_eq!(pieces(text), (expected, 0), "{text}");
        }
    }

    #[test]
    fn an_unended_tag_costs_one_line() {
        use TokenKind::*;
        for (text, expected) in [
            ("+{a\nb +{c}", vec![(Broken, "+{a"), (Text, "\nb "), (Tag, "+{c}")]),
            ("+{a\n\n}", vec![(Broken, "+{a"), (Text, "\n\n}")]),
            ("+{\"a}", vec![(Broken, "+{\"a}")]),
            ("+{# a\nb", vec![(Broken, "+{# a"), (Text, "\nb")]),
        ] {
            assert_eq!(pieces(text), (expected, 1), "{text}");
        }
    }

    proptest! {
        #[test]
        fn tokens_join_back_to_the_source(text in "([+{}#\"'\\\\\n a]|é){0,40}") {
            let joined: String = pieces(&text).0.iter().map(|(_, piece)| *piece).collect();
            prop_assert_eq!(joined, text);
        }
    }
}
