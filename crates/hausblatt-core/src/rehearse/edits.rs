//! Front matter and `hausblatt.toml` as variations write them: one value changed, all others as they are.

use std::fmt::Write as _;

use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::datum::Datum;
use toml_edit::{DocumentMut, Item, Table, Value};

use crate::files::FileNode;
use crate::model::tables::Table as SiteTable;
use crate::schema::config;
use crate::text::data::{Data, DataValue, Entry, yaml};
use crate::text::front::write::flow;
pub(crate) use crate::text::toml_change::toml;
use crate::world::World;

/// A value without a place.
pub(crate) fn data(value: DataValue) -> Data {
    Data { span: Span::default(), value }
}

/// A text.
pub(crate) fn text(text: impl Into<Box<str>>) -> Data {
    data(DataValue::Text(text.into()))
}

/// A list.
pub(crate) fn list(members: Vec<Data>) -> Data {
    data(DataValue::List(members))
}

/// A group of keys.
pub(crate) fn map(entries: Vec<(&str, Data)>) -> Data {
    let entry = |(key, data): (&str, Data)| Entry { key: key.into(), span: Span::default(), data };
    data(DataValue::Map(entries.into_iter().map(entry).collect()))
}

/// A content file that is being varied.
#[derive(Clone)]
pub(crate) struct ContentText {
    entries: Vec<Entry>,
    body: String,
}

impl ContentText {
    /// What a content file says; none where it can't be read.
    pub fn of(node: &FileNode) -> Option<Self> {
        let whole = node.whole_text().ok()?;
        let front = node.front();
        if front.problem.is_some() {
            return None;
        }
        Some(Self { entries: front.entries.clone(), body: whole.get(front.body..)?.to_owned() })
    }

    /// A file that says nothing yet.
    pub fn new(body: &str) -> Self {
        Self { entries: Vec::new(), body: body.to_owned() }
    }

    /// The value of a key.
    pub fn get(&self, key: &str) -> Option<&Data> {
        self.entries.iter().find(|entry| &*entry.key == key).map(|entry| &entry.data)
    }

    /// The same with a key that has this value, or without it.
    pub fn with(mut self, key: &str, value: Option<Data>) -> Self {
        self.entries.retain(|entry| &*entry.key != key);
        self.entries.extend(value.map(|data| Entry { key: key.into(), span: Span::default(), data }));
        self
    }

    /// The same with another text below its front matter.
    pub fn with_body(self, body: &str) -> Self {
        Self { body: body.to_owned(), ..self }
    }

    /// The file's text.
    pub fn written(&self) -> String {
        let mut out = String::from("---\n");
        for entry in &self.entries {
            let _ = writeln!(out, "{}: {}", yaml(&entry.key), flow(&entry.data));
        }
        out.push_str("---\n");
        out + &self.body
    }
}

/// `hausblatt.toml` with the value at a path of keys changed or, with none, taken away; nothing where it has another form.
pub(crate) fn configured(world: &World, path: &[&str], value: Option<Value>) -> Option<String> {
    let text = world.snapshot.file(config::FILE)?.text()?.clone();
    let mut document: DocumentMut = text.parse().ok()?;
    let (last, groups) = path.split_last()?;
    let mut table = document.as_table_mut() as &mut dyn toml_edit::TableLike;
    for group in groups {
        if table.get(group).is_none() {
            value.as_ref()?;
            table.insert(group, Item::Table(Table::new()));
        }
        table = table.get_mut(group)?.as_table_like_mut()?;
    }
    match value {
        Some(value) => drop(table.insert(last, Item::Value(value))),
        None => drop(table.remove(last)?),
    }
    Some(document.to_string())
}

/// The rows of a table as JSON; none where they hold what tables do not.
pub(crate) fn table_rows(world: &World, table: &SiteTable) -> Option<Vec<serde_json::Map<String, serde_json::Value>>> {
    let rows = table.rows().map(|(_, row)| {
        let members = row.shape.names().iter().zip(&row.values);
        members.map(|(&name, value)| Some((world.symbols.name(name).to_owned(), json(value)?))).collect()
    });
    rows.collect()
}

/// A value of a table as JSON; none for what tables do not hold.
fn json(value: &Datum) -> Option<serde_json::Value> {
    Some(match value {
        Datum::Nothing => serde_json::Value::Null,
        Datum::Bool(truth) => (*truth).into(),
        Datum::Int(number) => (*number).into(),
        Datum::Float(number) => (*number).into(),
        Datum::Text(text) => (**text).into(),
        Datum::List(members) => members.0.iter().map(json).collect::<Option<Vec<_>>>()?.into(),
        _ => return None,
    })
}
