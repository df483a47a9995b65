//! Structured data as written in a file: YAML and TOML alike, every value with its span.

use hausblatt_lang::text::source::Span;

/// A value and where it is.
#[derive(Clone, Debug, PartialEq)]
pub struct Data {
    /// Where it is in its file.
    pub span: Span,
    /// What it is.
    pub value: DataValue,
}

/// A value as written.
#[derive(Clone, Debug, PartialEq)]
pub enum DataValue {
    /// No value.
    Nothing,
    /// True or false.
    Bool(bool),
    /// A whole number.
    Int(i64),
    /// A decimal number.
    Float(f64),
    /// A text; dates too, which only a declared type makes dates.
    Text(Box<str>),
    /// A list.
    List(Vec<Data>),
    /// A mapping, in the order of the file.
    Map(Vec<Entry>),
}

/// A key of a mapping and its value.
#[derive(Clone, Debug, PartialEq)]
pub struct Entry {
    /// The key.
    pub key: Box<str>,
    /// Where the key is.
    pub span: Span,
    /// The value.
    pub data: Data,
}

impl Entry {
    /// Whether another one is the same key with the same value, wherever it is.
    pub(crate) fn says_same(&self, other: &Self) -> bool {
        self.key == other.key && self.data.says_same(&other.data)
    }
}

impl Data {
    /// Whether another one is the same value, wherever it is.
    pub(crate) fn says_same(&self, other: &Self) -> bool {
        match (&self.value, &other.value) {
            (DataValue::List(own), DataValue::List(other)) => {
                own.len() == other.len() && own.iter().zip(other).all(|(own, other)| own.says_same(other))
            }
            (DataValue::Map(own), DataValue::Map(other)) => {
                own.len() == other.len() && own.iter().zip(other).all(|(own, other)| own.says_same(other))
            }
            (own, other) => own == other,
        }
    }

    /// The text, if it is one.
    pub fn as_text(&self) -> Option<&str> {
        match &self.value {
            DataValue::Text(text) => Some(text),
            _ => None,
        }
    }

    /// The mapping's entries, if it is one.
    pub fn as_map(&self) -> Option<&[Entry]> {
        match &self.value {
            DataValue::Map(entries) => Some(entries),
            _ => None,
        }
    }

    /// The list's members, if it is one.
    pub fn as_list(&self) -> Option<&[Data]> {
        match &self.value {
            DataValue::List(members) => Some(members),
            _ => None,
        }
    }

    /// What it is, with its article, for messages.
    pub fn kind(&self) -> &'static str {
        match self.value {
            DataValue::Nothing => "nothing",
            DataValue::Bool(_) => "true or false",
            DataValue::Int(_) | DataValue::Float(_) => "a number",
            DataValue::Text(_) => "a text",
            DataValue::List(_) => "a list",
            DataValue::Map(_) => "a group of keys",
        }
    }
}

/// A text as YAML 1.2, in quotes where it would be read as something else.
pub fn yaml(text: &str) -> String {
    let is_plain = |c: char| c.is_alphanumeric() || matches!(c, ' ' | '-' | '_' | '/' | '.');
    let plain = text.chars().all(is_plain)
        && !text.starts_with([' ', '-', '.'])
        && !text.ends_with(' ')
        && matches!(scalar(text), DataValue::Text(_));
    if plain {
        return text.to_owned();
    }
    let mut out = String::from("\"");
    for c in text.chars() {
        match c {
            '\\' | '"' => out.extend(['\\', c]),
            '\n' => out.push_str("\\n"),
            '\t' => out.push_str("\\t"),
            c if c.is_control() => out.push_str(&format!("\\u{:04x}", u32::from(c))),
            c => out.push(c),
        }
    }
    out + "\""
}

/// A plain scalar as YAML 1.2's core schema reads it.
pub(crate) fn scalar(text: &str) -> DataValue {
    match text {
        "" | "~" | "null" | "Null" | "NULL" => return DataValue::Nothing,
        "true" | "True" | "TRUE" => return DataValue::Bool(true),
        "false" | "False" | "FALSE" => return DataValue::Bool(false),
        _ => {}
    }
    let numeric = text.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b'-' | b'+' | b'.' | b'e' | b'E'));
    if numeric && text.bytes().any(|byte| byte.is_ascii_digit()) {
        if let Ok(number) = text.parse::<i64>() {
            return DataValue::Int(number);
        }
        if let Some(number) = text.parse::<f64>().ok().filter(|number| number.is_finite()) {
            return DataValue::Float(number);
        }
    }
    DataValue::Text(text.into())
}
