//! Values as JSON (RFC 8259), written so that HTML and scripts can hold it.

use std::fmt::Write;

use crate::value::print::shown;
use crate::value::shape::Interner;
use crate::value::tray::without_marks;
use crate::value::{Scratch, Value};

/// How deep lists and records may nest.
const DEPTH: usize = 32;

/// Writes values as JSON.
pub struct Writer<'w, 'a> {
    /// The numbers of all names.
    pub symbols: &'a Interner,
    /// Where results live.
    pub scratch: &'w Scratch<'a>,
    /// How many bytes may be written.
    pub limit: usize,
}

impl<'a> Writer<'_, 'a> {
    /// Appends `value`. A record inside a record that has an address is written as that, since content leads to
    /// other content without end.
    ///
    /// # Errors
    /// When it nests too deep or becomes too large.
    pub fn write(&self, value: Value<'a>, out: &mut String) -> Result<(), String> {
        self.nested(value, false, 0, out)
    }

    fn nested(&self, value: Value<'a>, within: bool, depth: usize, out: &mut String) -> Result<(), String> {
        if depth > DEPTH {
            return Err(format!("this value nests more than {DEPTH} deep"));
        }
        if out.len() > self.limit || self.scratch.is_full() || !self.scratch.spend(1) {
            return Err("this value is too large to be written as JSON".to_owned());
        }
        match value {
            Value::Nothing => out.push_str("null"),
            Value::Bool(truth) => out.push_str(if truth { "true" } else { "false" }),
            Value::Int(number) => drop(write!(out, "{number}")),
            Value::Float(number) if number.is_finite() => out.push_str(&crate::value::number::decimal(number)),
            Value::Float(_) => out.push_str("null"),
            Value::Date(moment) => text(&moment.to_string(), out),
            Value::Text(plain) => text(plain, out),
            Value::Html(html) => text(&without_marks(html), out),
            Value::List(_) | Value::Seq(_) => self.list(value, within, depth, out)?,
            Value::Record(record) if record.as_candidates().is_some() => {
                return Err(shown(value).err().unwrap_or_default());
            }
            Value::Record(record) => match record.as_text().or_else(|| self.address(value).filter(|_| within)) {
                Some(plain) => text(plain, out),
                None => self.record(value, depth, out)?,
            },
        }
        Ok(())
    }

    fn address(&self, value: Value<'a>) -> Option<&'a str> {
        let Value::Record(record) = value else { return None };
        record.get(self.symbols.find("address")?, self.scratch).as_text()
    }

    fn list(&self, value: Value<'a>, within: bool, depth: usize, out: &mut String) -> Result<(), String> {
        out.push('[');
        for at in 0..value.len().unwrap_or(0) {
            if at > 0 {
                out.push(',');
            }
            self.nested(value.at(at, self.scratch), within, depth + 1, out)?;
        }
        out.push(']');
        Ok(())
    }

    fn record(&self, value: Value<'a>, depth: usize, out: &mut String) -> Result<(), String> {
        let Value::Record(record) = value else { return Ok(()) };
        out.push('{');
        for (at, symbol) in record.keys().into_iter().enumerate() {
            if at > 0 {
                out.push(',');
            }
            text(self.symbols.name(symbol), out);
            out.push(':');
            self.nested(record.get(symbol, self.scratch), true, depth + 1, out)?;
        }
        out.push('}');
        Ok(())
    }
}

fn text(plain: &str, out: &mut String) {
    out.push('"');
    characters(plain, out);
    out.push('"');
}

/// Appends the characters of a JSON string. What HTML, or a script of old, would read as more than a character is
/// written as an escape.
pub fn characters(plain: &str, out: &mut impl Write) {
    for c in plain.chars() {
        let _ = match c {
            '"' => out.write_str("\\\""),
            '\\' => out.write_str("\\\\"),
            '\n' => out.write_str("\\n"),
            '\t' => out.write_str("\\t"),
            '\r' => out.write_str("\\r"),
            '<' | '>' | '&' | '\'' | '\u{2028}' | '\u{2029}' => write!(out, "\\u{:04x}", c as u32),
            _ if c < ' ' => write!(out, "\\u{:04x}", c as u32),
            _ => out.write_char(c),
        };
    }
}
