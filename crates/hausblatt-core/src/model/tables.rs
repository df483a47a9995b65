//! Tables: rows for templates, from TOML, JSON, YAML and CSV.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::datum::{Datum, DatumList, DatumRecord};
use hausblatt_lang::value::shape::{Interner, Shape};

use crate::files::{Body, FileNode, Snapshot};
use crate::schema::fields::plain;
use crate::text::codes;
use crate::text::data::{Data, DataValue, scalar};
use crate::text::front;
use crate::text::json;
use crate::text::toml_data;

/// What a table may be written in.
const ENDINGS: &[&str] = &["csv", "toml", "json", "yaml", "yml"];

/// A table.
#[derive(Debug)]
pub struct Table {
    /// Its name: its file's, without the extension.
    pub name: String,
    /// Its file.
    pub path: Arc<str>,
    /// Its rows as a list, or what the file holds instead.
    pub value: Datum,
    /// Whether its file can't be read.
    pub is_broken: bool,
    /// The names of its columns, where it is a list of rows.
    pub columns: Vec<String>,
}

impl Table {
    fn new(name: &str, path: &Arc<str>, value: Option<Datum>, symbols: &Interner) -> Self {
        let is_broken = value.is_none();
        let value = value.unwrap_or_default();
        let mut table = Self { name: name.to_owned(), path: path.clone(), value, is_broken, columns: Vec::new() };
        if table.problem_as_rows().is_none() {
            let mut names: Vec<_> = table.rows().flat_map(|(_, row)| row.shape.names()).copied().collect();
            names.sort_unstable();
            names.dedup();
            table.columns = names.into_iter().map(|name| symbols.name(name).to_owned()).collect();
        }
        table
    }
}

impl Table {
    /// What keeps it from being a list of rows, if anything does.
    pub(crate) fn problem_as_rows(&self) -> Option<&'static str> {
        match &self.value {
            Datum::List(DatumList(members)) if members.iter().all(|member| matches!(member, Datum::Record(_))) => None,
            Datum::List(_) => Some("holds something else among its rows"),
            // What can't be read was reported.
            Datum::Nothing if self.is_broken => None,
            _ => Some("is not a list of rows"),
        }
    }

    /// Its rows, each with its place in the list; none if it is not a list of records.
    pub fn rows(&self) -> impl Iterator<Item = (usize, &DatumRecord)> {
        let members: &[Datum] = match &self.value {
            Datum::List(DatumList(members)) => members,
            _ => &[],
        };
        members.iter().enumerate().filter_map(|(at, member)| match member {
            Datum::Record(record) => Some((at, record)),
            _ => None,
        })
    }

    /// The row at a place in the list.
    pub fn row(&self, at: usize) -> Option<&DatumRecord> {
        match &self.value {
            Datum::List(DatumList(members)) => match members.get(at) {
                Some(Datum::Record(record)) => Some(record),
                _ => None,
            },
            _ => None,
        }
    }
}

/// Reads the tables of a site. What is wrong is added to `problems`.
pub fn read(snapshot: &Snapshot, symbols: &mut Interner, problems: &mut Vec<Diagnostic>) -> Vec<Table> {
    let mut tables: Vec<Table> = Vec::new();
    for node in snapshot.below("tables/") {
        let path = &node.path;
        let name = path["tables/".len()..]
            .rsplit_once('.')
            .filter(|(name, ending)| ENDINGS.contains(ending) && !name.is_empty() && !name.contains('/'));
        let Some((name, ending)) = name else {
            let diagnostic = Diagnostic::of(&codes::MISPLACED_TABLE, "this file is not a table");
            let help = "a table is a file in tables/ that ends in .csv, .toml, .json or .yaml";
            problems.push(diagnostic.help(help).at(path, Span::default()));
            continue;
        };
        if let Some(other) = tables.iter().find(|table| table.name == name) {
            let diagnostic = Diagnostic::of(&codes::SAME_NAME, format!("two files are the table \"{name}\""))
                .help("rename one of them")
                .at(path, Span::default())
                .related(&other.path, Span::default(), "this is the other one");
            problems.push(diagnostic);
            continue;
        }
        symbols.intern(name);
        match value(node, ending, symbols) {
            Ok(value) => tables.push(Table::new(name, path, Some(value), symbols)),
            Err(problem) => {
                // The name is, so that what uses it is not reported too.
                tables.push(Table::new(name, path, None, symbols));
                problems.push(*problem);
            }
        }
    }
    tables
}

fn value(node: &FileNode, ending: &str, symbols: &mut Interner) -> Result<Datum, Box<Diagnostic>> {
    let refused = |message: String, span: Span| {
        let diagnostic = Diagnostic::of(&codes::BAD_TABLE, message);
        Box::new(diagnostic.help("fix the file; its rows are nothing until then").at(&node.path, span))
    };
    let text = match &node.body {
        Body::Text(text) | Body::Head(text) => text,
        Body::Unreadable { why, at, .. } => return Err(refused(why.clone(), Span::new(*at, *at))),
        Body::OnDemand => return Ok(Datum::Nothing),
    };
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    match ending {
        "csv" => rows(text, symbols).map_err(|(message, at)| refused(message, Span::new(at, at))),
        "json" => {
            let value = json::read(text).map_err(|error| {
                let line: usize = text.split_inclusive('\n').take(error.line().saturating_sub(1)).map(str::len).sum();
                let at = boundary(text, line + error.column().saturating_sub(1));
                let message = error.to_string();
                let message = message.split(" at line ").next().unwrap_or(&message);
                let message = match message.starts_with("the key ") {
                    true => message.to_owned(),
                    false => format!("this is not JSON: {message}"),
                };
                refused(message, Span::new(at, at))
            })?;
            Ok(of_json(&value, symbols))
        }
        "toml" => {
            let mut problems = Vec::new();
            let entries = toml_data::read(&node.path, text, &mut problems);
            if let Some(problem) = problems.into_iter().next() {
                return Err(Box::new(problem));
            }
            // A TOML file can't be a list: rows are written [[rows]].
            match entries.as_slice() {
                [entry] if &*entry.key == "rows" && entry.data.as_list().is_some() => Ok(plain(&entry.data, symbols)),
                _ => Ok(plain(&Data { span: Span::default(), value: DataValue::Map(entries) }, symbols)),
            }
        }
        _ => front::yaml(text)
            .map(|data| plain(&data, symbols))
            .map_err(|problem| refused(problem.message, problem.span)),
    }
}

/// The rows of a CSV file as in RFC 4180; its first row names the columns. A cell that is a number as numbers are
/// written is one, and an empty one is nothing.
fn rows(text: &str, symbols: &mut Interner) -> Result<Datum, (String, usize)> {
    check_quotes(text)?;
    let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::Headers).from_reader(text.as_bytes());
    let place = |error: &csv::Error| {
        let at = error.position().map_or(0, |position| usize::try_from(position.byte()).unwrap_or(0));
        let message = match error.kind() {
            csv::ErrorKind::UnequalLengths { expected_len, len, .. } => {
                format!("this row has {len} cells, and the first row names {expected_len} columns")
            }
            _ => "this is not CSV".to_owned(),
        };
        (message, boundary(text, at))
    };
    let headers = reader.headers().map_err(|error| place(&error))?;
    let separated = |sign: char| headers.len() == 1 && headers.iter().any(|name| name.contains(sign));
    if let Some(sign) = [';', '\t'].into_iter().find(|&sign| separated(sign)) {
        let sign = if sign == '\t' { "tabs".to_owned() } else { format!("\"{sign}\"") };
        return Err((format!("the cells of this table are separated by {sign}, and not by commas"), 0));
    }
    let names: Vec<_> = headers.iter().map(|name| symbols.intern(name)).collect();
    let twice = names.iter().enumerate().find(|(at, name)| names[..*at].contains(name));
    if let Some((at, _)) = twice {
        return Err((format!("two columns are called \"{}\"", headers.get(at).unwrap_or_default()), 0));
    }
    let shape = Arc::new(Shape::new(names));
    let mut rows = Vec::new();
    for record in reader.records() {
        let record = record.map_err(|error| place(&error))?;
        rows.push(Datum::Record(DatumRecord {
            shape: shape.clone(),
            values: record.iter().map(cell).collect(),
            stands_for: None,
        }));
    }
    Ok(Datum::List(DatumList(rows.into())))
}

/// What the quotes of a CSV file say that the reader would take for something else: text after a closing quote, and a quote
/// that is never closed and takes all rows after it (RFC 4180, section 2).
fn check_quotes(text: &str) -> Result<(), (String, usize)> {
    let bytes = text.as_bytes();
    let mut at = 0;
    while at < bytes.len() {
        // A cell begins here.
        if bytes[at] == b'"' {
            let opened = at;
            at += 1;
            loop {
                match bytes.get(at) {
                    None => return Err(("this quote is never closed".to_owned(), opened)),
                    Some(b'"') if bytes.get(at + 1) == Some(&b'"') => at += 2,
                    Some(b'"') => break,
                    Some(_) => at += 1,
                }
            }
            at += 1;
            let gap = bytes[at..].iter().take_while(|byte| matches!(byte, b' ' | b'\t')).count();
            if !matches!(bytes.get(at + gap), None | Some(b',' | b'\n' | b'\r')) {
                return Err(("there is text after a closing quote".to_owned(), at + gap));
            }
        }
        at += bytes[at..].iter().position(|byte| matches!(byte, b',' | b'\n')).unwrap_or(bytes.len() - at) + 1;
    }
    Ok(())
}

/// The nearest byte up to `at` where a character begins.
fn boundary(text: &str, at: usize) -> usize {
    (0..=at.min(text.len())).rev().find(|&at| text.is_char_boundary(at)).unwrap_or(0)
}

fn cell(text: &str) -> Datum {
    let text = text.trim();
    match scalar(text) {
        DataValue::Nothing if text.is_empty() => Datum::Nothing,
        // 0049 and 1e5 are not written as numbers are.
        DataValue::Int(number) if number.to_string() == text => Datum::Int(number),
        DataValue::Float(number) if number.to_string() == text => Datum::Float(number),
        DataValue::Bool(truth) if matches!(text, "true" | "false") => Datum::Bool(truth),
        _ => Datum::text(text),
    }
}

fn of_json(value: &serde_json::Value, symbols: &mut Interner) -> Datum {
    match value {
        serde_json::Value::Null => Datum::Nothing,
        serde_json::Value::Bool(truth) => Datum::Bool(*truth),
        serde_json::Value::Number(number) => match (number.as_i64(), number.as_f64()) {
            (Some(number), _) => Datum::Int(number),
            (None, Some(number)) => Datum::Float(number),
            (None, None) => Datum::Nothing,
        },
        serde_json::Value::String(text) => Datum::text(text),
        serde_json::Value::Array(members) => {
            Datum::List(DatumList(members.iter().map(|member| of_json(member, symbols)).collect()))
        }
        serde_json::Value::Object(members) => {
            let names: Vec<_> = members.keys().map(|name| symbols.intern(name)).collect();
            let values = members.values().map(|value| of_json(value, symbols)).collect();
            Datum::Record(DatumRecord { shape: Arc::new(Shape::new(names)), values, stands_for: None })
        }
    }
}
