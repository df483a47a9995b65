//! The inside of a tag, as words: names, numbers, texts and signs, each with its span.

use crate::syntax::slips::{self, Meant};
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Problems};
use crate::text::source::Span;

/// Words that begin a statement and so cannot name a value, a parameter or a field.
pub(crate) const STATEMENTS: &[&str] = &[
    "raw",
    "let",
    "if",
    "else",
    "each",
    "between",
    "none",
    "end",
    "partial",
    "component",
    "tray",
    "slot",
    "into",
    "inherited",
    "use",
    "used",
    "answer",
    "redirect",
    "dump",
];

/// Other words with a meaning of their own.
pub(crate) const RESERVED: &[&str] =
    &["and", "or", "not", "in", "has", "then", "with", "given", "true", "false", "nothing", "it"];

/// Statements that print nothing, so that a line of nothing else goes.
pub(crate) const SILENT: &[&str] =
    &["let", "if", "else", "each", "between", "none", "end", "into", "use", "answer", "redirect"];

/// The words of tags that may print nothing: alone on a line they take it with them when they do.
pub(crate) const MAY_BE_SILENT: &[&str] = &["slot", "used", "partial", "component", "tray", "inherited"];

/// Whether `name` may name a value, a parameter or a field.
pub fn may_name(name: &str) -> bool {
    !STATEMENTS.contains(&name) && !RESERVED.contains(&name)
}

/// One word of a tag.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Word {
    /// A name or a keyword.
    Name(String),
    /// A whole number.
    Int(i64),
    /// A decimal number.
    Float(f64),
    /// A quoted text, its escapes resolved.
    Text(String),
    /// An operator or a bracket.
    Sign(&'static str),
}

/// A word and where it is.
#[derive(Clone, Debug, PartialEq)]
pub struct SpannedWord {
    /// The word.
    pub word: Word,
    /// Where it is in the file.
    pub span: Span,
}

const SIGNS: &[&str] = &["==", "!=", "<=", ">=", "<", ">", "+", "-", "*", "/", "%", ".", ",", "(", ")", "[", "]", "="];

/// The straight quote in place of a curly one.
fn curly(c: char) -> Option<char> {
    match c {
        '\u{201c}' | '\u{201d}' | '\u{201e}' | '\u{ab}' | '\u{bb}' => Some('"'),
        '\u{2018}' | '\u{2019}' | '\u{201a}' => Some('\''),
        _ => None,
    }
}

/// Cuts the inside of a tag, `span` of `text`, into words. What is not a word is reported and left out.
pub fn words(text: &str, span: Span, problems: &mut Problems) -> Vec<SpannedWord> {
    let text = &text[..span.range().end];
    let mut reader = WordReader { text, at: span.range().start, problems, found: Vec::new(), failed: false };
    while reader.next() {}
    reader.found
}

struct WordReader<'s> {
    text: &'s str,
    at: usize,
    problems: &'s mut Problems,
    found: Vec<SpannedWord>,
    /// Whether something was reported: what else is wrong in the tag is likely to follow from that.
    failed: bool,
}

impl WordReader<'_> {
    fn next(&mut self) -> bool {
        let Some(first) = self.text[self.at..].chars().next() else { return false };
        let start = self.at;
        match first {
            _ if first.is_whitespace() => self.at += first.len_utf8(),
            '"' | '\'' => self.quoted(first),
            '0'..='9' => self.number(),
            _ if first.is_alphabetic() || first == '_' => self.name(),
            _ => self.sign(first),
        }
        self.at > start
    }

    fn report(&mut self, start: usize, diagnostic: Diagnostic) {
        if !self.failed {
            self.problems.push(Span::new(start, self.at), diagnostic);
        }
        self.failed = true;
    }

    fn push(&mut self, start: usize, word: Word) {
        self.found.push(SpannedWord { word, span: Span::new(start, self.at) });
    }

    fn take_while(&mut self, keep: impl Fn(char) -> bool) -> &str {
        let start = self.at;
        let rest = &self.text[start..];
        self.at += rest.find(|c| !keep(c)).unwrap_or(rest.len());
        &self.text[start..self.at]
    }

    fn name(&mut self) {
        let start = self.at;
        let name = self.take_while(|c| c.is_alphanumeric() || c == '_').to_owned();
        self.push(start, Word::Name(name));
    }

    fn number(&mut self) {
        let start = self.at;
        self.take_while(|c| c.is_ascii_digit());
        let rest = &self.text[self.at..];
        let decimal = rest.starts_with('.') && rest[1..].starts_with(|c: char| c.is_ascii_digit());
        if decimal {
            self.at += 1;
            self.take_while(|c| c.is_ascii_digit());
        }
        let digits = &self.text[start..self.at];
        let word = if decimal { digits.parse().map(Word::Float).ok() } else { digits.parse().map(Word::Int).ok() };
        if let Some(word) = word {
            return self.push(start, word);
        }
        let diagnostic = Diagnostic::of(&codes::NUMBER_TOO_LARGE, "this number is too large");
        self.report(start, diagnostic.help(format!("the largest whole number is {}", i64::MAX)));
        self.push(start, Word::Int(0));
    }

    fn sign(&mut self, first: char) {
        if self.foreign() {
            return;
        }
        let start = self.at;
        let rest = &self.text[start..];
        if let Some(sign) = SIGNS.iter().find(|sign| rest.starts_with(**sign)) {
            self.at += sign.len();
            return self.push(start, Word::Sign(sign));
        }
        let inside = &rest[first.len_utf8()..];
        let text = inside.split(|c| curly(c).is_some()).next().filter(|text| text.len() < inside.len());
        if let Some((quote, text)) = curly(first).zip(text) {
            let text = text.to_owned();
            let close = inside[text.len()..].chars().next().map_or(0, char::len_utf8);
            self.at += first.len_utf8() + text.len() + close;
            let help = format!("write it in straight quotes: {quote}{text}{quote}");
            let diagnostic =
                Diagnostic::of(&codes::STRAY_CHARACTER, format!("\"{first}\" is not a quotation mark here"));
            self.report(start, diagnostic.help(help));
            return self.push(start, Word::Text(text));
        }
        self.at += first.len_utf8();
        let diagnostic = Diagnostic::of(&codes::STRAY_CHARACTER, format!("\"{first}\" has no meaning here"));
        self.report(start, diagnostic.help("take it out; a text is written in quotes"));
    }

    /// A sign of other languages: it is reported, and read as what it means.
    fn foreign(&mut self) -> bool {
        let start = self.at;
        let rest = &self.text[start..];
        // Two signs that are ours stand beside each other now and then, as in 2--1.
        let Some((sign, help, meant)) = slips::SIGNS.iter().find(|(sign, ..)| rest.starts_with(sign)) else {
            return false;
        };
        let comment = matches!(*sign, "--" | "//" | "/*");
        if (comment && !self.found.is_empty()) || (*sign == "!" && rest.starts_with("!=")) {
            return false;
        }
        self.at += sign.len();
        let diagnostic = Diagnostic::of(&codes::STRAY_CHARACTER, format!("\"{sign}\" has no meaning here"));
        self.report(start, diagnostic.help(*help));
        match meant {
            Some(Meant::Sign(sign)) => self.push(start, Word::Sign(sign)),
            Some(Meant::Name(name)) => self.push(start, Word::Name((*name).to_owned())),
            None => {}
        }
        true
    }

    fn quoted(&mut self, quote: char) {
        let start = self.at;
        self.at += 1;
        let mut value = String::new();
        while let Some(c) = self.text[self.at..].chars().next() {
            self.at += c.len_utf8();
            match c {
                _ if c == quote => return self.push(start, Word::Text(value)),
                '\\' => self.escape(&mut value),
                _ => value.push(c),
            }
        }
        let diagnostic = Diagnostic::of(&codes::UNCLOSED_TEXT, "this text is never ended");
        self.report(start, diagnostic.help(format!("write {quote} where it ends")));
    }

    fn escape(&mut self, value: &mut String) {
        let start = self.at - 1;
        let Some(c) = self.text[self.at..].chars().next() else { return };
        self.at += c.len_utf8();
        match c {
            '\\' | '"' | '\'' => value.push(c),
            'n' => value.push('\n'),
            't' => value.push('\t'),
            'u' => self.scalar(start, value),
            _ => self.bad_escape(start),
        }
    }

    fn scalar(&mut self, start: usize, value: &mut String) {
        let digits =
            self.text[self.at..].strip_prefix('{').and_then(|rest| rest.split_once('}')).map(|(digits, _)| digits);
        let scalar = digits.and_then(|digits| u32::from_str_radix(digits, 16).ok()).and_then(char::from_u32);
        match (digits, scalar) {
            (Some(digits), Some(scalar)) => {
                self.at += digits.len() + 2;
                value.push(scalar);
            }
            _ => self.bad_escape(start),
        }
    }

    fn bad_escape(&mut self, start: usize) {
        let diagnostic = Diagnostic::of(&codes::UNKNOWN_ESCAPE, "no text escape is written so")
            .help(r#"the escapes are \\ \" \' \n \t and \u{…} with a hexadecimal number"#);
        self.report(start, diagnostic);
    }
}
