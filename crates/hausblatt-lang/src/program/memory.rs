//! What a query keeps from request to request.

use std::sync::OnceLock;

use rustc_hash::FxHashMap;
use xxhash_rust::xxh3::xxh3_64_with_seed;

use crate::value::Value;
use crate::value::host::Host;

/// What was evaluated for a query that every request may use.
#[derive(Clone, Debug, Default)]
pub struct Memory {
    pub(crate) rows: OnceLock<Option<Box<[ResultRow]>>>,
    pub(crate) sorted: OnceLock<Option<Box<[u32]>>>,
    pub(crate) index: OnceLock<Option<Index>>,
}

/// A member of a result: its number in the list, or those of a group.
#[derive(Clone, Debug)]
pub(crate) struct ResultRow {
    pub(crate) at: u32,
    pub(crate) group: Option<Box<[u32]>>,
}

/// Where in a list each value of a field is.
pub(crate) type Index = FxHashMap<Key, Vec<u32>>;

/// A value that an index can find. Equal values have equal keys; what has the same key may still differ.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Key {
    Text(Box<str>),
    Number(u64),
    Bool(bool),
    Record(u32, u32),
}

impl Key {
    /// A digest of it that is the same in every state of the site.
    pub(crate) fn digest(&self, host: &dyn Host) -> u64 {
        let (sort, rest): (u8, &[u8]) = match self {
            Key::Text(text) => (0, text.as_bytes()),
            Key::Number(bits) => (1, &bits.to_le_bytes()),
            Key::Bool(truth) => (2, &[u8::from(*truth)]),
            Key::Record(of, number) => (3, &host.lasting_digest((*of, *number)).to_le_bytes()),
        };
        xxh3_64_with_seed(rest, u64::from(sort))
    }
}

/// The key of a value; none of what no index can find.
pub(crate) fn key(value: Value<'_>) -> Option<Key> {
    let number = |number: f64| Some(Key::Number((number + 0.0).to_bits()));
    match value {
        Value::Bool(truth) => Some(Key::Bool(truth)),
        Value::Int(whole) => number(whole as f64),
        Value::Float(decimal) => number(decimal),
        Value::Text(text) => Some(Key::Text(text.into())),
        Value::Record(record) => match record.as_text() {
            Some(text) => Some(Key::Text(text.into())),
            None => record.identity().map(|(sort, number)| Key::Record(sort, number)),
        },
        Value::Nothing | Value::Date(_) | Value::Html(_) | Value::List(_) | Value::Seq(_) => None,
    }
}
