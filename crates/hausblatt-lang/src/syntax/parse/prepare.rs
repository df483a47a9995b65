//! Prepare files: one `let name = value` a line, which goes on in lines that are indented and while a bracket is open.

use crate::syntax::parse::value::Values;
use crate::syntax::tree::{Expr, Name};
use crate::syntax::words::{self, SpannedWord, Word};
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Problems};
use crate::text::source::Span;

/// Parses the statements of a prepare file.
pub fn prepare(text: &str, problems: &mut Problems) -> Vec<(Name, Expr)> {
    let plain = without_comments(text);
    lines(&plain).into_iter().filter_map(|line| statement(&plain, line, problems)).collect()
}

fn statement(text: &str, line: Span, problems: &mut Problems) -> Option<(Name, Expr)> {
    let before = problems.count();
    let words = words::words(text, line, problems);
    if problems.count() > before {
        problems.settle(line);
    }
    let first = words.first()?;
    if !matches!(&first.word, Word::Name(name) if name == "let") {
        let diagnostic =
            Diagnostic::of(&codes::BAD_TAG, "a prepare file holds nothing but lines that begin with \"let\"")
                .help("write: let name = value");
        problems.push(first.span, diagnostic);
        return None;
    }
    let end = Span::new(line.range().end, line.range().end);
    let mut values = Values::new(&words[1..], end, problems);
    values.ends = "the end of the line";
    let name = values.new_name("a value");
    if !values.take_sign("=") {
        values.problem("\"=\" and a value are missing", Some("write: let name = value"));
    }
    let value = values.query();
    values.finish();
    (!name.text.is_empty()).then_some((name, value))
}

/// Parses one value that is a whole text.
pub fn value(text: &str, problems: &mut Problems) -> Expr {
    let words: Vec<SpannedWord> = words::words(text, Span::new(0, text.len()), problems);
    let end = Span::new(text.len(), text.len());
    let mut values = Values::new(&words, end, problems);
    values.ends = "the end";
    let value = values.query();
    values.finish();
    value
}

/// The text with comments turned into spaces, so that all places stay.
pub(crate) fn without_comments(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let (mut quote, mut comment, mut escaped) = (None, false, false);
    for c in text.chars() {
        match (c, quote) {
            ('\n', _) => (comment, quote, escaped) = (false, None, false),
            _ if comment => {}
            _ if escaped => escaped = false,
            ('\\', Some(_)) => escaped = true,
            ('"' | '\'', None) => quote = Some(c),
            (_, Some(open)) if c == open => quote = None,
            ('#', None) => comment = true,
            _ => {}
        }
        if comment {
            out.extend(std::iter::repeat_n(' ', c.len_utf8()));
        } else {
            out.push(c);
        }
    }
    out
}

/// Where each statement is: a line, and those after it that are indented, or within an open bracket. Blank lines and
/// comments between them change nothing.
pub(crate) fn lines(text: &str) -> Vec<Span> {
    let mut lines = Vec::new();
    let (mut start, mut depth, mut quote, mut escaped) = (0usize, 0usize, None, false);
    // Where the statement ends, unless the next line with something in it continues it; and where that line begins.
    let (mut end, mut line) = (None, 0);
    for (at, c) in text.char_indices() {
        if !c.is_whitespace()
            && let Some(ended) = end.take()
        {
            let is_statement = text[at..].strip_prefix("let").is_some_and(|rest| rest.starts_with(char::is_whitespace));
            if at == line || is_statement {
                lines.push(Span::new(start, ended));
                start = line;
            }
        }
        match (c, quote) {
            ('\n', _) => {
                (quote, escaped) = (None, false);
                line = at + 1;
                if depth == 0 {
                    end = end.or(Some(at));
                }
            }
            _ if escaped => escaped = false,
            ('\\', Some(_)) => escaped = true,
            ('"' | '\'', None) => quote = Some(c),
            (_, Some(open)) if c == open => quote = None,
            ('(' | '[', None) => depth += 1,
            (')' | ']', None) => depth = depth.saturating_sub(1),
            _ => {}
        }
    }
    lines.push(Span::new(start, end.unwrap_or(text.len())));
    lines
}
