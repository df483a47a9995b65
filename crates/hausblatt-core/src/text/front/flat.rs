//! The quick reader for flat front matter: `key: value` lines. What it does not know it hands over.

use hausblatt_lang::text::source::Span;

use crate::text::data::{Data, DataValue, Entry, scalar};

/// More keys than this are left to the full reader.
const MOST: usize = 64;

/// The entries of a flat mapping; none if any line is not of the forms read here.
pub fn read(text: &str, span: Span) -> Option<Vec<Entry>> {
    let mut entries: Vec<Entry> = Vec::new();
    let mut at = span.range().start;
    if !is_plain(span.of(text)) {
        return None;
    }
    for line in span.of(text).split_inclusive('\n') {
        let words = line.trim_end_matches('\n');
        let words = words.strip_suffix('\r').unwrap_or(words);
        let blank = words.bytes().all(|byte| byte == b' ');
        if !blank && !words.starts_with('#') {
            let entry = entry(words, at)?;
            // A long mapping is not worth a set here; the full reader has one.
            if entries.len() >= MOST || entries.iter().any(|other| other.key == entry.key) {
                return None;
            }
            entries.push(entry);
        }
        at += line.len();
    }
    Some(entries)
}

/// Whether a text holds nothing but characters that YAML takes for themselves (YAML 1.2, 5.1 and 5.4).
fn is_plain(text: &str) -> bool {
    // A carriage return alone breaks a line as well.
    if text.split('\r').skip(1).any(|rest| !rest.starts_with('\n')) {
        return false;
    }
    let control = |byte: u8| byte < b' ' && !matches!(byte, b'\n' | b'\r' | b'\t');
    if text.is_ascii() {
        return !text.bytes().any(|byte| control(byte) || byte == 0x7f);
    }
    let strange = |c: char| {
        (c.is_control() || c.is_whitespace()) && !matches!(c, ' ' | '\n' | '\r' | '\t')
            || matches!(c, '\u{feff}' | '\u{fffe}' | '\u{ffff}')
    };
    !text.chars().any(strange)
}

fn entry(line: &str, at: usize) -> Option<Entry> {
    let colon = line.find(':')?;
    let key = &line[..colon];
    if key.is_empty()
        || !key.bytes().all(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'-'))
        || key.starts_with('-')
    {
        return None;
    }
    if !matches!(scalar(key), DataValue::Text(_)) {
        return None;
    }
    let rest = &line[colon + 1..];
    if !rest.is_empty() && !rest.starts_with(' ') {
        return None;
    }
    let value = rest.trim_matches(' ');
    let lead = rest.len() - rest.trim_start_matches(' ').len();
    let start = if value.is_empty() { at + colon } else { at + colon + 1 + lead };
    let data = value_of(value, start)?;
    Some(Entry { key: key.into(), span: Span::new(at, at + colon), data })
}

fn value_of(text: &str, start: usize) -> Option<Data> {
    let span = Span::new(start, start + text.len());
    let value = match text.as_bytes().first() {
        None => return Some(Data { span: Span::new(start, start), value: DataValue::Nothing }),
        Some(b'"') => DataValue::Text(quoted(text, '"')?.into()),
        Some(b'\'') => DataValue::Text(quoted(text, '\'')?.into()),
        Some(b'[') => DataValue::List(list(text, start)?),
        Some(_) => plain(text)?,
    };
    Some(Data { span, value })
}

/// A quoted text without escapes.
fn quoted(text: &str, quote: char) -> Option<&str> {
    let inner = text.strip_prefix(quote)?.strip_suffix(quote)?;
    let simple = !inner.contains([quote, '\\', '\t']) && !inner.chars().any(char::is_control);
    simple.then_some(inner)
}

/// A plain scalar that needs no second look.
fn plain(text: &str) -> Option<DataValue> {
    let first = text.chars().next()?;
    let safe_start = first.is_alphanumeric()
        || matches!(first, '/' | '.' | '(' | '+' | '_' | '$' | '~')
        || (first == '-' && text[1..].starts_with(|c: char| c.is_ascii_digit()));
    let safe = !text.contains(": ")
        && !text.contains(" #")
        && !text.ends_with(':')
        && !text.chars().any(|c| c.is_control() || c == '\u{feff}');
    (safe_start && safe).then(|| scalar(text))
}

/// Whether a member of a list is quoted, or has no sign in it that has a meaning between brackets.
fn is_plain_member(text: &str) -> bool {
    let signs = |c: char| matches!(c, ':' | '?' | '"' | '\'' | '#' | '&' | '*' | '!' | '|' | '>' | '%' | '@' | '`');
    text.starts_with(['"', '\'']) || !(text.contains(signs) || text.contains(" -") || text.ends_with('-'))
}

/// `[a, b]` of plain or simply quoted members.
fn list(text: &str, start: usize) -> Option<Vec<Data>> {
    let inner = text.strip_prefix('[')?.strip_suffix(']')?;
    if inner.contains(['[', ']', '{', '}']) {
        return None;
    }
    if inner.trim_matches(' ').is_empty() {
        return Some(Vec::new());
    }
    let mut members = Vec::new();
    let mut at = start + 1;
    for part in inner.split(',') {
        let lead = part.len() - part.trim_start_matches(' ').len();
        let member = part.trim_matches(' ');
        if member.is_empty() || !is_plain_member(member) {
            return None;
        }
        members.push(value_of(member, at + lead)?);
        at += part.len() + 1;
    }
    Some(members)
}
