//! TOML to data with spans.

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use std::sync::Arc;
use toml::de::{DeTable, DeValue};

use crate::text::codes;
use crate::text::data::{Data, DataValue, Entry};

/// Reads a TOML file. Errors are added to `problems`; what could be read is returned all the same.
pub fn read(path: &Arc<str>, text: &str, problems: &mut Vec<Diagnostic>) -> Vec<Entry> {
    let (table, errors) = DeTable::parse_recoverable(text);
    for error in &errors {
        let span = error.span().map_or(Span::default(), |range| Span::new(range.start, range.end));
        let word = span.of(text).starts_with(char::is_alphabetic) && error.message().starts_with("invalid");
        let help = word.then(|| format!("a text is put in quotes: \"{}\"", span.of(text).lines().next().unwrap_or("")));
        problems.push(Diagnostic::of(&codes::BAD_TOML, lower_first(error.message())).maybe_help(help).at(path, span));
    }
    entries(table.get_ref())
}

fn entries(table: &DeTable<'_>) -> Vec<Entry> {
    let mut entries: Vec<Entry> = table
        .iter()
        .map(|(key, value)| Entry {
            key: key.get_ref().as_ref().into(),
            span: span(key.span()),
            data: data(value.get_ref(), span(value.span())),
        })
        .collect();
    entries.sort_by_key(|entry| entry.span);
    entries
}

fn data(value: &DeValue<'_>, span: Span) -> Data {
    let value = match value {
        DeValue::String(text) => DataValue::Text(text.as_ref().into()),
        DeValue::Integer(number) => {
            let read = i64::from_str_radix(&number.as_str().replace('_', ""), number.radix());
            read.map_or_else(|_| DataValue::Text(number.as_str().into()), DataValue::Int)
        }
        DeValue::Float(number) => number.as_str().replace('_', "").parse().map_or(DataValue::Nothing, DataValue::Float),
        DeValue::Boolean(truth) => DataValue::Bool(*truth),
        DeValue::Datetime(moment) => DataValue::Text(moment.to_string().into()),
        DeValue::Array(members) => {
            DataValue::List(members.iter().map(|member| data(member.get_ref(), self::span(member.span()))).collect())
        }
        DeValue::Table(table) => DataValue::Map(entries(table)),
    };
    Data { span, value }
}

fn span(range: std::ops::Range<usize>) -> Span {
    Span::new(range.start, range.end)
}

fn lower_first(message: &str) -> String {
    let line = message.lines().next().unwrap_or("this is not TOML");
    let mut chars = line.chars();
    chars.next().map(|first| first.to_lowercase().chain(chars).collect()).unwrap_or_default()
}
