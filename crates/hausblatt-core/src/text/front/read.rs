//! Front matter found and read.

use hausblatt_lang::text::source::Span;

use crate::text::data::Entry;
use crate::text::front::{flat, yaml};

/// The most bytes of front matter that are read.
pub(crate) const MOST_BYTES: usize = 64 << 10;

/// What a file says before its body.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Front {
    /// Its keys, in order.
    pub entries: Vec<Entry>,
    /// First byte of the body.
    pub body: usize,
    /// What is wrong with it.
    pub problem: Option<Problem>,
}

/// What is wrong with front matter, and where.
#[derive(Clone, Debug, PartialEq)]
pub struct Problem {
    /// Where.
    pub span: Span,
    /// What; lower case, no full stop.
    pub message: String,
    /// What to do.
    pub help: Option<&'static str>,
}

impl Problem {
    pub(super) fn new(span: Span, message: impl Into<String>, help: Option<&'static str>) -> Self {
        let end = span.range().end.max(span.range().start + 1);
        Self { span: Span::new(span.range().start, end), message: message.into(), help }
    }
}

/// Where the front matter's YAML is, and where the body begins; none if there is none.
enum Limits {
    None(usize),
    Unended,
    Some(Span, usize),
}

/// Reads the front matter of `text`. Flat forms are read directly, all else by the full reader.
pub fn read(text: &str) -> Front {
    read_by(text, |text, span| flat::read(text, span).map_or_else(|| yaml::read(text, span), Ok))
}

/// The same by the full reader alone, for tests that hold the two equal.
pub fn read_fully(text: &str) -> Front {
    read_by(text, yaml::read)
}

fn read_by(text: &str, entries: impl Fn(&str, Span) -> Result<Vec<Entry>, Problem>) -> Front {
    match limits(text) {
        Limits::None(body) => Front { entries: Vec::new(), body, problem: None },
        Limits::Unended => {
            let message = "the front matter is never ended";
            let help = "end it with a line of three hyphens: ---";
            let problem = Problem::new(Span::new(0, 3), message, Some(help));
            Front { entries: Vec::new(), body: text.len(), problem: Some(problem) }
        }
        Limits::Some(span, body) if span.range().len() > MOST_BYTES => {
            let problem = Problem::new(
                Span::new(0, 3),
                "the front matter is larger than 64 KB",
                Some("move long texts into the body"),
            );
            Front { entries: Vec::new(), body, problem: Some(problem) }
        }
        Limits::Some(span, body) => match entries(text, span) {
            Ok(entries) => Front { entries, body, problem: None },
            Err(problem) => Front { entries: Vec::new(), body, problem: Some(problem) },
        },
    }
}

/// Whether `head`, the start of a file, holds its whole front matter.
pub(crate) fn is_whole(head: &str) -> bool {
    !matches!(limits(head), Limits::Unended)
}

fn limits(text: &str) -> Limits {
    let start = if text.starts_with('\u{feff}') { '\u{feff}'.len_utf8() } else { 0 };
    let mut lines = text[start..].split_inclusive('\n');
    let Some(first) = lines.next().filter(|line| is_fence(line)) else { return Limits::None(start) };
    let from = start + first.len();
    let mut at = from;
    for line in lines {
        if is_fence(line) {
            return Limits::Some(Span::new(from, at), at + line.len());
        }
        at += line.len();
    }
    Limits::Unended
}

fn is_fence(line: &str) -> bool {
    line.starts_with("---") && line[3..].trim().is_empty()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::text::data::DataValue;

    fn keys(text: &str) -> Vec<(String, DataValue)> {
        let front = read(text);
        assert_eq!(front.problem, None, "{text}");
        front.entries.into_iter().map(|entry| (entry.key.into(), entry.data.value)).collect()
    }

    #[test]
    fn reads_keys_and_finds_the_body() {
        let text = "---\ntitle: \"A: b\"\norder: 3\neasy: no\nfamily: [peas, beans]\n---\nBody";
        assert_eq!(&text[read(text).body..], "Body");
        let found = keys(text);
        assert_eq!(found[0], ("title".into(), DataValue::Text("A: b".into())));
        assert_eq!(found[1], ("order".into(), DataValue::Int(3)));
        assert_eq!(found[2], ("easy".into(), DataValue::Text("no".into())));
        assert!(matches!(&found[3].1, DataValue::List(members) if members.len() == 2));
        assert_eq!(read("no front\n---\n").body, 0);
        assert_eq!(read("---\na: 1\n---").entries.len(), 1);
    }

    #[test]
    fn says_what_is_wrong_and_where() {
        let problem =
            |text: &str| read(text).problem.map(|problem| (problem.span.of(text).to_owned(), problem.message));
        let many = format!("---\n{}---\n", "a: b\n".repeat(20_000));
        let nested = format!("---\na: {}\n---\n", "[".repeat(3000));
        for (text, at, message) in [
            ("---\na: 1\n", "---", "the front matter is never ended"),
            ("---\na: 1\na: 2\n---\n", "a", "\"a\" is here twice"),
            ("---\na: &x 1\nb: *x\n---\n", "&", "anchors and aliases can't be used here"),
            ("---\n- a\n---\n", "-", "front matter is keys and values, not a list"),
            (many.as_str(), "---", "the front matter is larger than 64 KB"),
            (nested.as_str(), "[", "this nests more than 32 deep"),
        ] {
            let found = problem(text).unwrap();
            assert_eq!(
                (found.0.get(..at.len()).unwrap_or(""), found.1.as_str()),
                (at, message),
                "{}",
                &text[..text.len().min(40)]
            );
        }
        assert!(problem("---\na: [b\n---\n").is_some());
        assert!(problem("---\na: b: c\n---\n").is_some());
        assert!(problem("---\n\"a\n---\n").is_some());
    }

    proptest! {
        /// The quick reader says nothing, or the same as the full one.
        #[test]
        fn the_flat_reader_equals_the_full_one(yaml in "((a|b-c|é|title|\"q\")(: |:)([a-z]{0,3}|-1|1\\.5|1e3|true|no|~|\"x y\"|'it''s'|\\[a, b\\]|\\[\\]|x: y|# c|a #b|a#b|- a|2026-03-14|\\*a|&a|!t|%|@|`|\\||>|\\{\\}|é ü|a,b)( {0,2})(\n|\r\n)|# note\n|\n|  x: y\n|\ta: b\n){0,6}") {
            let text = format!("---\n{yaml}---\n");
            let span = Span::new(4, 4 + yaml.len());
            if let Some(flat) = flat::read(&text, span) {
                prop_assert_eq!(yaml::read(&text, span), Ok(flat));
            }
        }
    }
}
