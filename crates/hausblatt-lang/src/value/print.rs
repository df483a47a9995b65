//! How a value prints as plain text.

use std::borrow::Cow;

use crate::escape::html::text_of;
use crate::value::Value;
use crate::value::number;

/// The text that `value` prints as; HTML as its text.
///
/// # Errors
/// Lists and records can't be printed; the message says what to write instead.
pub fn shown(value: Value<'_>) -> Result<Cow<'_, str>, String> {
    Ok(match value {
        Value::Nothing => Cow::Borrowed(""),
        Value::Bool(truth) => Cow::Borrowed(if truth { "true" } else { "false" }),
        Value::Int(number) => Cow::Owned(number.to_string()),
        Value::Float(number) => Cow::Owned(number::decimal(number)),
        Value::Date(moment) => Cow::Owned(moment.to_string()),
        Value::Text(text) => Cow::Borrowed(text),
        Value::Html(html) => Cow::Owned(text_of(html)),
        Value::List(_) | Value::Seq(_) => {
            return Err("a list can't be printed; print its members with \"each\", or write .join(\", \")".to_owned());
        }
        Value::Record(record) => match record.as_text() {
            Some(text) => Cow::Borrowed(text),
            None if record.as_candidates().is_some() => {
                return Err(
                    "images in several widths are printed only as the whole of a srcset: srcset=\"+{…}\"".to_owned()
                );
            }
            None => return Err("a record can't be printed; print one of its members".to_owned()),
        },
    })
}
