//! Values written as YAML.

use crate::text::data::{Data, DataValue, Entry, yaml};

/// A value in one line.
pub(crate) fn flow(data: &Data) -> String {
    match &data.value {
        DataValue::Nothing => "null".to_owned(),
        DataValue::Bool(truth) => truth.to_string(),
        DataValue::Int(number) => number.to_string(),
        DataValue::Float(number) => format!("{number:?}"),
        DataValue::Text(text) => yaml(text),
        DataValue::List(members) => format!("[{}]", members.iter().map(flow).collect::<Vec<_>>().join(", ")),
        DataValue::Map(entries) => {
            let entries = entries.iter().map(|entry| format!("{}: {}", yaml(&entry.key), flow(&entry.data)));
            match entries.len() {
                0 => "{}".to_owned(),
                _ => format!("{{ {} }}", entries.collect::<Vec<_>>().join(", ")),
            }
        }
    }
}

/// Whether a value takes lines of its own: a text with line breaks, a list of groups, or what holds one of these.
fn is_block(data: &Data) -> bool {
    match &data.value {
        DataValue::Text(text) => is_literal(text),
        DataValue::List(members) => members.iter().any(|member| member.as_map().is_some() || is_block(member)),
        DataValue::Map(entries) => entries.iter().any(|entry| is_block(&entry.data)),
        _ => false,
    }
}

/// Whether a text can be written line by line (YAML 1.2, section 8.1.2).
fn is_literal(text: &str) -> bool {
    let is_printable = text.chars().all(|c| c == '\n' || (!c.is_control() && c != '\u{feff}'));
    text.contains('\n') && is_printable && !text.starts_with([' ', '\n']) && !text.ends_with("\n\n")
}

/// What is written after a key and its colon; the key is at this column.
pub(crate) fn after_key(data: &Data, column: usize) -> String {
    match &data.value {
        DataValue::Text(text) if is_literal(text) => {
            let mut out = String::from(if text.ends_with('\n') { " |" } else { " |-" });
            for line in text.trim_end_matches('\n').split('\n') {
                out.push('\n');
                if !line.is_empty() {
                    out.push_str(&format!("{:width$}{line}", "", width = column + 2));
                }
            }
            out
        }
        DataValue::List(members) if is_block(data) => {
            let items: String = members.iter().map(|member| as_item(member, column + 2)).collect();
            format!("\n{}", items.trim_end_matches('\n'))
        }
        DataValue::Map(entries) if is_block(data) => format!("\n{}", keys(entries, column + 2)),
        _ => format!(" {}", flow(data)),
    }
}

/// Keys with their values, a line or more for each, without the last line break.
fn keys(entries: &[Entry], column: usize) -> String {
    let line = |entry: &Entry| format!("{:column$}{}:{}", "", yaml(&entry.key), after_key(&entry.data, column));
    entries.iter().map(line).collect::<Vec<_>>().join("\n")
}

/// A member of a list, with its hyphen at this column and its line break.
pub(crate) fn as_item(data: &Data, column: usize) -> String {
    match &data.value {
        DataValue::Map(entries) if !entries.is_empty() => {
            format!("{:column$}- {}\n", "", keys(entries, column + 2).trim_start())
        }
        _ => format!("{:column$}-{}\n", "", after_key(data, column)),
    }
}

/// A value in one line for people: a text as it is, all else as YAML.
pub fn one_line(data: &Data) -> String {
    match &data.value {
        DataValue::Text(text) => text.to_string(),
        _ => flow(data),
    }
}

/// A value as a member of a list at the margin, with its line break.
pub fn list_item(data: &Data) -> String {
    as_item(data, 0)
}
