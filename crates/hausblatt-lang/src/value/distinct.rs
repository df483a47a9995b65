//! Keys by which equal values are found without comparing each with each.

use crate::value::Value;
use crate::value::arithmetic::whole_and_decimal;
use crate::value::moment::Moment;

/// What distinguishes a value from all that are not equal to it, as `==` says.
#[derive(PartialEq, Eq, Hash)]
pub(crate) enum Distinct<'a> {
    /// The absent value.
    Nothing,
    /// true or false.
    Bool(bool),
    /// A whole number that a decimal one can't be.
    Whole(i64),
    /// Any other number, by its bits.
    Number(u64),
    /// A day.
    Day(jiff::civil::Date),
    /// A moment, in seconds since the Unix epoch.
    Second(i64),
    /// A text, or a record that means one.
    Text(&'a str),
    /// HTML.
    Html(&'a str),
    /// A record with an identity.
    Record(u32, u32),
}

impl<'a> Distinct<'a> {
    /// None for lists, and for what is equal to nothing else.
    pub fn of(value: Value<'a>) -> Option<Self> {
        let decimal = |number: f64| Distinct::Number((number + 0.0).to_bits());
        Some(match value {
            Value::Nothing => Distinct::Nothing,
            Value::Bool(truth) => Distinct::Bool(truth),
            Value::Int(whole) if whole_and_decimal(whole, whole as f64).is_eq() => decimal(whole as f64),
            Value::Int(whole) => Distinct::Whole(whole),
            Value::Float(number) if number.is_nan() => return None,
            Value::Float(number) => decimal(number),
            Value::Date(Moment::Day(day)) => Distinct::Day(day),
            Value::Date(Moment::At { seconds, .. }) => Distinct::Second(seconds),
            Value::Text(text) => Distinct::Text(text),
            Value::Html(html) => Distinct::Html(html),
            Value::Record(record) => match record.as_text() {
                Some(text) => Distinct::Text(text),
                None => record.identity().map(|(sort, number)| Distinct::Record(sort, number))?,
            },
            Value::List(_) | Value::Seq(_) => return None,
        })
    }
}
