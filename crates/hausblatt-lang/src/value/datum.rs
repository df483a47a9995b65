//! Owned values: what a World keeps, and what parameters have as defaults.

use std::fmt;
use std::sync::Arc;

use crate::value::host::Host;
use crate::value::moment::Moment;
use crate::value::shape::{Shape, Symbol};
use crate::value::{EscapedText, Record, Scratch, Seq, Value};

/// An owned value of the language.
#[derive(Clone, Debug, Default)]
pub enum Datum {
    /// The absent value.
    #[default]
    Nothing,
    /// True or false.
    Bool(bool),
    /// A whole number.
    Int(i64),
    /// A decimal number.
    Float(f64),
    /// A day or a moment.
    Date(Moment),
    /// Plain text.
    Text(EscapedText),
    /// HTML that is safe as it is.
    Html(Box<str>),
    /// A list.
    List(DatumList),
    /// A record.
    Record(DatumRecord),
    /// A record that evaluates its members on demand.
    MadeRecord(Arc<dyn MadeRecord>),
}

/// A record that is kept and works its members out itself.
pub trait MadeRecord: Record + Send + fmt::Debug {
    /// A digest of what it says, the same in every state of the site in which it says the same.
    fn lasting_digest(&self, host: &dyn Host) -> u64;
}

/// An owned list.
#[derive(Clone, Debug)]
pub struct DatumList(pub Box<[Datum]>);

/// An owned record: a shape and a value for each of its slots.
#[derive(Clone, Debug)]
pub struct DatumRecord {
    /// The members' names.
    pub shape: Arc<Shape>,
    /// Their values, in the shape's order.
    pub values: Box<[Datum]>,
    /// The member whose text the record means, if it does.
    pub stands_for: Option<Symbol>,
}

impl Datum {
    /// The same as a value, borrowed.
    pub fn value(&self) -> Value<'_> {
        match self {
            Datum::Nothing => Value::Nothing,
            Datum::Bool(truth) => Value::Bool(*truth),
            Datum::Int(number) => Value::Int(*number),
            Datum::Float(number) => Value::Float(*number),
            Datum::Date(moment) => Value::Date(*moment),
            Datum::Text(text) => Value::Text(text),
            Datum::Html(html) => Value::Html(html),
            Datum::List(list) => Value::Seq(list),
            Datum::Record(record) => Value::Record(record),
            Datum::MadeRecord(record) => Value::Record(&**record),
        }
    }

    /// The text that it is.
    pub fn as_text(&self) -> Option<&EscapedText> {
        match self {
            Datum::Text(text) => Some(text),
            _ => None,
        }
    }

    /// A text.
    pub fn text(text: &str) -> Self {
        Datum::Text(text.into())
    }
}

impl Datum {
    /// Adds all that it says to bytes of which a digest is made; the same in every state of the site in which it says the same.
    pub fn lasting_bytes(&self, host: &dyn Host, out: &mut Vec<u8>) {
        let mut add = |sort: u8, bytes: &[u8]| {
            out.push(sort);
            out.extend_from_slice(&(bytes.len() as u64).to_le_bytes());
            out.extend_from_slice(bytes);
        };
        match self {
            Datum::Nothing => add(0, &[]),
            Datum::Bool(truth) => add(1, &[u8::from(*truth)]),
            Datum::Int(number) => add(2, &number.to_le_bytes()),
            Datum::Float(number) => add(3, &number.to_bits().to_le_bytes()),
            Datum::Date(moment) => add(4, &moment.lasting_bytes()),
            Datum::Text(text) => add(5, text.as_bytes()),
            Datum::Html(html) => add(6, html.as_bytes()),
            Datum::List(list) => {
                add(7, &(list.0.len() as u64).to_le_bytes());
                list.0.iter().for_each(|member| member.lasting_bytes(host, out));
            }
            Datum::Record(DatumRecord { shape, values, stands_for }) => {
                let name = |symbol: &Symbol| host.symbols().name(*symbol);
                add(8, stands_for.as_ref().map_or("", name).as_bytes());
                for (symbol, value) in shape.names().iter().zip(values) {
                    out.extend_from_slice(&(name(symbol).len() as u64).to_le_bytes());
                    out.extend_from_slice(name(symbol).as_bytes());
                    value.lasting_bytes(host, out);
                }
            }
            Datum::MadeRecord(record) => add(9, &record.lasting_digest(host).to_le_bytes()),
        }
    }
}

impl Seq for DatumList {
    fn len(&self) -> usize {
        self.0.len()
    }

    fn at<'a>(&'a self, index: usize, _: &Scratch<'a>) -> Value<'a> {
        self.0.get(index).map_or(Value::Nothing, Datum::value)
    }

    fn ready_record(&self, index: usize) -> Option<&dyn Record> {
        match self.0.get(index) {
            Some(Datum::Record(record)) => Some(record),
            _ => None,
        }
    }
}

impl DatumRecord {
    /// The value of a member, if the record has it.
    pub fn member(&self, symbol: Symbol) -> Option<&Datum> {
        self.shape.slot(symbol).and_then(|slot| self.values.get(slot))
    }
}

impl Record for DatumRecord {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        self.member(symbol).map_or(Value::Nothing, Datum::value)
    }

    fn ready_html(&self, symbol: Symbol) -> Option<&str> {
        self.member(symbol)?.as_text().map(EscapedText::escaped)
    }

    fn ready_path(&self, symbol: Symbol) -> Option<&str> {
        self.member(symbol)?.as_text()?.as_path()
    }

    fn keys(&self) -> Vec<Symbol> {
        self.shape.names().to_vec()
    }

    fn as_text(&self) -> Option<&str> {
        self.member(self.stands_for?)?.as_text().map(|text| &**text)
    }
}
