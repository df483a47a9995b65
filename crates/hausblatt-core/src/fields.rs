//! Fields that content carries: their declarations, and values converted to the declared types.

use std::sync::{Arc, OnceLock};

use hausblatt_lang::datum::{Datum, DatumList, DatumRecord};
use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::moment::Moment;
use hausblatt_lang::near::did_you_mean;
use hausblatt_lang::shape::{Interner, Shape};
use hausblatt_lang::source::Span;
use hausblatt_lang::types::Type;
use jiff::tz::TimeZone;

use crate::data::{Data, DataValue, Entry};
use crate::host::Picture;
use crate::reader::{Reader, named};
use crate::snapshot::FileNode;

/// What a field's values are.
#[derive(Clone, Debug, PartialEq)]
pub enum FieldType {
    /// Plain text.
    Text,
    /// Markdown.
    Rich,
    /// A number within bounds.
    Number(Option<f64>, Option<f64>),
    /// true, false, yes or no.
    YesNo,
    /// A colour as CSS writes it.
    Color,
    /// A day or a moment.
    Date,
    /// One of these.
    Choice(Vec<String>),
    /// An address.
    Link,
    /// A picture: a path, or `{ file, alt }`.
    Image,
    /// A list of these.
    List(Box<FieldType>),
    /// A group of fields, as a member of a list.
    Group(Arc<Group>),
}

/// A group of fields.
#[derive(Debug)]
pub struct Group {
    /// The fields.
    pub fields: Vec<Field>,
    /// The shape of its records, once names have numbers.
    shape: OnceLock<Arc<Shape>>,
}

impl PartialEq for Group {
    fn eq(&self, other: &Self) -> bool {
        self.fields
            .iter()
            .map(|field| (&field.name, &field.of))
            .eq(other.fields.iter().map(|field| (&field.name, &field.of)))
    }
}

impl FieldType {
    /// The word for it in files.
    pub fn word(&self) -> &'static str {
        match self {
            FieldType::Text => "text",
            FieldType::Rich => "rich",
            FieldType::Number(..) => "number",
            FieldType::YesNo => "yes-no",
            FieldType::Color => "color",
            FieldType::Date => "date",
            FieldType::Choice(_) => "choice",
            FieldType::Link => "link",
            FieldType::Image => "image",
            FieldType::List(_) | FieldType::Group(_) => "list",
        }
    }

    /// Whether its values name addresses, which are known only when all content has been read.
    pub fn has_links(&self) -> bool {
        match self {
            FieldType::Link | FieldType::Rich => true,
            FieldType::List(of) => of.has_links(),
            FieldType::Group(group) => group.fields.iter().any(|field| field.of.has_links()),
            _ => false,
        }
    }

    fn number_names(&self, symbols: &mut Interner) {
        match self {
            FieldType::List(of) => of.number_names(symbols),
            FieldType::Group(group) => {
                let names: Vec<_> = group.fields.iter().map(|field| symbols.intern(&field.name)).collect();
                group.fields.iter().for_each(|field| field.of.number_names(symbols));
                group.shape.get_or_init(|| Arc::new(Shape::new(names)));
            }
            _ => {}
        }
    }
}

/// The words for types in files.
const TYPES: &[&str] = &["text", "rich", "number", "yes-no", "color", "date", "choice", "link", "image", "list"];

/// A declared field.
#[derive(Clone, Debug)]
pub struct Field {
    /// Its name.
    pub name: String,
    /// Where it is declared.
    pub span: Span,
    /// What editors call it.
    pub label: Option<String>,
    /// What its values are.
    pub of: FieldType,
    /// Its value where content has none.
    pub default: Datum,
    written_default: Option<Data>,
}

impl Field {
    /// What the language knows of its values.
    pub fn type_of(&self) -> Type {
        match self.of {
            FieldType::Number(..) => Type::Number,
            FieldType::YesNo => Type::Bool,
            FieldType::Date => Type::Date,
            FieldType::Rich => Type::Html,
            FieldType::Text | FieldType::Color | FieldType::Choice(_) | FieldType::Link => Type::Text,
            FieldType::Image | FieldType::Group(_) => Type::Any,
            FieldType::List(_) => Type::list(Type::Any),
        }
    }

    /// Takes another default, as it is written.
    pub fn set_default(&mut self, data: &Data) {
        self.written_default = Some(data.clone());
    }
}

/// What converting needs to know of the site.
pub struct Conversion<'c> {
    /// For dates without an offset.
    pub zone: &'c TimeZone,
    /// The file of a picture at an address.
    pub pictures: &'c (dyn Fn(&str) -> Option<Arc<FileNode>> + Sync),
}

/// Reads declarations such as `height_cm = { type = "number", label = "Height" }`. The fields are of use when they
/// are made [`ready`].
pub fn declared(path: &Arc<str>, entries: &[Entry], problems: &mut Vec<Diagnostic>) -> Vec<Field> {
    named(entries).filter_map(|(name, span, data)| declaration(path, name, span, data, problems)).collect()
}

/// Reads declarations that name themselves, in order: `{ name = "flip", type = "yes-no" }`.
pub fn listed(path: &Arc<str>, members: &[Data], problems: &mut Vec<Diagnostic>) -> Vec<Field> {
    let mut fields: Vec<Field> = Vec::new();
    for data in members {
        let name = data.as_map().and_then(|entries| entries.iter().find(|entry| &*entry.key == "name"));
        let Some((name, span)) = name.and_then(|entry| Some((entry.data.as_text()?, entry.data.span))) else {
            let help = "write it as in { name = \"heading\", type = \"text\" }";
            problems.push(Diagnostic::error("missing-key", "a field lacks its name").help(help).at(path, data.span));
            continue;
        };
        if fields.iter().any(|field| field.name == name) {
            let message = format!("there are two fields \"{name}\"");
            problems.push(Diagnostic::error("same-name", message).help("rename one of them").at(path, span));
            continue;
        }
        fields.extend(declaration(path, name, span, data, problems));
    }
    fields
}

/// Gives the names in fields their numbers, and converts their defaults. What is wrong with those is reported.
pub fn ready(
    path: &Arc<str>,
    fields: &mut [Field],
    conversion: &Conversion<'_>,
    symbols: &mut Interner,
    problems: &mut Vec<Diagnostic>,
) {
    for field in fields {
        symbols.intern(&field.name);
        field.of.number_names(symbols);
        let Some(data) = &field.written_default else { continue };
        match convert(&field.of, data, conversion) {
            Ok(default) => field.default = default,
            Err((span, message)) => problems.push(Diagnostic::error("wrong-type", message).at(path, span)),
        }
    }
}

fn declaration(path: &Arc<str>, name: &str, span: Span, data: &Data, problems: &mut Vec<Diagnostic>) -> Option<Field> {
    let Some(entries) = data.as_map() else {
        let help = format!("write {name} = {{ type = \"text\" }}");
        problems.push(Diagnostic::error("wrong-type", "a field is a group of keys").help(help).at(path, data.span));
        return None;
    };
    let mut reader = Reader::new(path, format!("the field \"{name}\""), entries, span, problems);
    reader.entry("name");
    let of = field_type(path, &mut reader)?;
    let label = reader.text("label").map(|(label, _)| label.to_owned());
    reader.text("about");
    let default = reader.entry("default");
    reader.finish();
    let word = name.chars().all(|c| c.is_alphanumeric() || c == '_') && name.starts_with(char::is_alphabetic);
    if !word || !hausblatt_lang::may_name(name) {
        let message = format!("\"{name}\" can't name a field");
        let help = "use letters, digits and underscores, and no word of the language";
        problems.push(Diagnostic::error("bad-name", message).help(help).at(path, span));
        return None;
    }
    Some(Field {
        name: name.to_owned(),
        span,
        label,
        of,
        default: Datum::Nothing,
        written_default: default.map(|entry| entry.data.clone()),
    })
}

/// Takes out the fields that are called like a key that all content has.
pub fn without_taken(path: &Arc<str>, mut fields: Vec<Field>, problems: &mut Vec<Diagnostic>) -> Vec<Field> {
    fields.retain(|field| {
        let taken = crate::names::BUILT_IN.contains(&&*field.name) || crate::names::KEYS.contains(&&*field.name);
        if taken {
            let message = format!("\"{}\" is a key that all content has; a field can't be called so", field.name);
            problems.push(Diagnostic::error("name-taken", message).help("choose another name").at(path, field.span));
        }
        !taken
    });
    fields
}

fn field_type(path: &Arc<str>, reader: &mut Reader<'_, '_>) -> Option<FieldType> {
    let (word, span) = reader.required("type", "\"text\"")?;
    let (least, most) = (bound(reader, "min"), bound(reader, "max"));
    let options = reader.texts("options");
    let of = reader.text("of");
    let fields = reader.entry("fields");
    match word {
        "number" => Some(FieldType::Number(least, most)),
        "choice" if options.is_none() => {
            reader.error(
                "missing-key",
                span,
                "a choice lacks its options",
                "write options = [\"first\", \"second\"]".to_owned(),
            );
            None
        }
        "choice" => Some(FieldType::Choice(
            options.unwrap_or_default().into_iter().map(|(option, _)| option.to_owned()).collect(),
        )),
        "list" => match fields {
            Some(entry) => {
                let Some(members) = entry.data.as_list() else {
                    reader.wrong(entry, "a list of fields");
                    return None;
                };
                let fields = listed(path, members, reader.problems);
                let group = Group { fields, shape: OnceLock::new() };
                Some(FieldType::List(Box::new(FieldType::Group(Arc::new(group)))))
            }
            None => {
                let (word, span) = of.unwrap_or(("text", span));
                simple_type(reader, word, span).map(|of| FieldType::List(Box::new(of)))
            }
        },
        _ => simple_type(reader, word, span),
    }
}

fn bound(reader: &mut Reader<'_, '_>, key: &'static str) -> Option<f64> {
    let entry = reader.entry(key)?;
    match entry.data.value {
        DataValue::Int(number) => Some(number as f64),
        DataValue::Float(number) => Some(number),
        _ => {
            reader.wrong(entry, "a number");
            None
        }
    }
}

fn simple_type(reader: &mut Reader<'_, '_>, word: &str, span: Span) -> Option<FieldType> {
    Some(match word {
        "text" => FieldType::Text,
        "rich" => FieldType::Rich,
        "number" => FieldType::Number(None, None),
        "yes-no" => FieldType::YesNo,
        "color" => FieldType::Color,
        "date" => FieldType::Date,
        "link" => FieldType::Link,
        "image" => FieldType::Image,
        _ => {
            let help = did_you_mean(word, TYPES.iter().copied())
                .unwrap_or_else(|| format!("the types are {}", TYPES.join(", ")));
            reader.error("wrong-value", span, format!("there is no type \"{word}\""), help);
            return None;
        }
    })
}

/// Converts a value to its declared type.
///
/// # Errors
/// Where it does not fit, and why.
pub fn convert(of: &FieldType, data: &Data, conversion: &Conversion<'_>) -> Result<Datum, (Span, String)> {
    let wrong = |wanted: &str| Err((data.span, format!("this must be {wanted}, not {}", data.kind())));
    match (of, &data.value) {
        (_, DataValue::Nothing) => Ok(Datum::Nothing),
        (FieldType::List(of), DataValue::List(members)) => {
            let members: Result<Vec<Datum>, _> = members.iter().map(|member| convert(of, member, conversion)).collect();
            Ok(Datum::List(DatumList(members?.into())))
        }
        (FieldType::List(of), _) => Ok(Datum::List(DatumList(Box::new([convert(of, data, conversion)?])))),
        (FieldType::Number(least, most), DataValue::Int(number)) => {
            within(*number as f64, *least, *most, data.span).map(|()| Datum::Int(*number))
        }
        (FieldType::Number(least, most), DataValue::Float(number)) => {
            within(*number, *least, *most, data.span).map(|()| Datum::Float(*number))
        }
        (FieldType::Number(..), _) => wrong("a number"),
        (FieldType::YesNo, DataValue::Bool(truth)) => Ok(Datum::Bool(*truth)),
        (FieldType::YesNo, DataValue::Text(text)) if matches!(&**text, "yes" | "no") => {
            Ok(Datum::Bool(&**text == "yes"))
        }
        (FieldType::YesNo, _) => wrong("true, false, yes or no"),
        (FieldType::Image, DataValue::Map(entries)) => image(entries, data.span, conversion),
        (FieldType::Group(group), DataValue::Map(entries)) => record(group, entries, conversion),
        (FieldType::Group(_), _) => wrong("a group of keys"),
        (_, DataValue::List(_) | DataValue::Map(_)) => wrong("a single value"),
        (_, value) => one_text(of, &plain_text(value), data.span, conversion),
    }
}

fn one_text(of: &FieldType, text: &str, span: Span, conversion: &Conversion<'_>) -> Result<Datum, (Span, String)> {
    match of {
        FieldType::Date => match Moment::parse(text, conversion.zone) {
            Some(moment) => Ok(Datum::Date(moment)),
            None => Err((span, format!("\"{text}\" is no date; write it as in 2026-03-14"))),
        },
        FieldType::Choice(options) if !options.iter().any(|option| option == text) => {
            Err((span, format!("\"{text}\" is not one of {}", options.join(", "))))
        }
        FieldType::Color if !is_color(text) => {
            Err((span, format!("\"{text}\" is no colour; write it as in \"#2f6f4e\"")))
        }
        FieldType::Image => Ok(picture(text, None, conversion)),
        _ => Ok(Datum::text(text)),
    }
}

/// Whether CSS may take a text for a colour: `#rgb` and its like, a word, or a function of numbers.
fn is_color(text: &str) -> bool {
    let text = text.trim();
    if let Some(digits) = text.strip_prefix('#') {
        return matches!(digits.len(), 3 | 4 | 6 | 8) && digits.bytes().all(|byte| byte.is_ascii_hexdigit());
    }
    let is_word = |word: &str| !word.is_empty() && word.bytes().all(|byte| byte.is_ascii_alphabetic() || byte == b'-');
    match text.strip_suffix(')').and_then(|text| text.split_once('(')) {
        Some((name, rest)) => {
            is_word(name) && rest.bytes().all(|byte| byte.is_ascii_alphanumeric() || b" .,%/+-".contains(&byte))
        }
        None => is_word(text),
    }
}

fn record(group: &Group, entries: &[Entry], conversion: &Conversion<'_>) -> Result<Datum, (Span, String)> {
    let names = || group.fields.iter().map(|field| field.name.as_str());
    if let Some(entry) = entries.iter().find(|entry| !names().any(|name| name == &*entry.key)) {
        let help = did_you_mean(&entry.key, names())
            .unwrap_or_else(|| format!("the fields are {}", names().collect::<Vec<_>>().join(", ")));
        return Err((entry.span, format!("there is no field \"{}\" here; {help}", entry.key)));
    }
    let value = |field: &Field| match entries.iter().find(|entry| *entry.key == *field.name) {
        Some(entry) => convert(&field.of, &entry.data, conversion),
        None => Ok(field.default.clone()),
    };
    let values: Result<Vec<Datum>, _> = group.fields.iter().map(value).collect();
    Ok(Datum::Record(DatumRecord {
        shape: group.shape.get().cloned().unwrap_or_default(),
        values: values?.into(),
        stands_for: None,
    }))
}

/// The places where a colour was meant and `#` began a comment.
pub fn colors_lost_to_comments(of: &FieldType, data: &Data, text: &str) -> Vec<Span> {
    match (of, &data.value) {
        (FieldType::Color, DataValue::Nothing) => {
            let line = text.get(data.span.range().start..).and_then(|rest| rest.lines().next()).unwrap_or("");
            let lost = line.trim_start().trim_start_matches(':').trim_start().starts_with('#');
            if lost { vec![data.span] } else { Vec::new() }
        }
        (FieldType::List(of), DataValue::List(members)) => {
            members.iter().flat_map(|member| colors_lost_to_comments(of, member, text)).collect()
        }
        (FieldType::Group(group), DataValue::Map(entries)) => {
            let found = |field: &Field| {
                let entry = entries.iter().find(|entry| *entry.key == *field.name);
                entry.map(|entry| colors_lost_to_comments(&field.of, &entry.data, text)).unwrap_or_default()
            };
            group.fields.iter().flat_map(found).collect()
        }
        _ => Vec::new(),
    }
}

/// A value with its links and its Markdown as they are read when all addresses are known.
pub fn settle(
    of: &FieldType,
    value: Datum,
    link: &dyn Fn(&str) -> Option<String>,
    rich: &dyn Fn(&str) -> String,
) -> Datum {
    match (of, value) {
        (FieldType::Link, Datum::Text(text)) => link(&text).map_or(Datum::Nothing, |address| Datum::text(&address)),
        (FieldType::Rich, Datum::Text(text)) => Datum::Html(rich(&text).into()),
        (FieldType::List(of), Datum::List(DatumList(members))) => {
            Datum::List(DatumList(members.into_iter().map(|member| settle(of, member, link, rich)).collect()))
        }
        (FieldType::Group(group), Datum::Record(record)) => {
            let values =
                group.fields.iter().zip(record.values).map(|(field, value)| settle(&field.of, value, link, rich));
            Datum::Record(DatumRecord { values: values.collect(), ..record })
        }
        (_, value) => value,
    }
}

fn within(number: f64, least: Option<f64>, most: Option<f64>, span: Span) -> Result<(), (Span, String)> {
    match (least, most) {
        (Some(least), _) if number < least => Err((span, format!("this must be at least {least}"))),
        (_, Some(most)) if number > most => Err((span, format!("this must be at most {most}"))),
        _ => Ok(()),
    }
}

fn image(entries: &[Entry], span: Span, conversion: &Conversion<'_>) -> Result<Datum, (Span, String)> {
    let text = |key: &str| entries.iter().find(|entry| &*entry.key == key).and_then(|entry| entry.data.as_text());
    match text("file") {
        Some(file) => Ok(picture(file, text("alt"), conversion)),
        None => Err((span, "an image is a path, or has a \"file\" and an \"alt\"".to_owned())),
    }
}

/// An image's record; it prints as its address.
pub fn picture(path: &str, alt: Option<&str>, conversion: &Conversion<'_>) -> Datum {
    let local = ["media/", "assets/"].iter().any(|folder| path.starts_with(folder));
    let address = if local { format!("/{path}") } else { path.to_owned() };
    let node = (conversion.pictures)(&address);
    Datum::Made(Arc::new(Picture { address: address.into(), alt: alt.map(Into::into), node }))
}

fn plain_text(value: &DataValue) -> String {
    match value {
        DataValue::Text(text) => text.to_string(),
        DataValue::Int(number) => number.to_string(),
        DataValue::Float(number) => number.to_string(),
        DataValue::Bool(truth) => truth.to_string(),
        DataValue::Nothing | DataValue::List(_) | DataValue::Map(_) => String::new(),
    }
}

/// A value without a declaration, as it is written.
pub fn plain(data: &Data, symbols: &mut Interner) -> Datum {
    match &data.value {
        DataValue::Nothing => Datum::Nothing,
        DataValue::Bool(truth) => Datum::Bool(*truth),
        DataValue::Int(number) => Datum::Int(*number),
        DataValue::Float(number) => Datum::Float(*number),
        DataValue::Text(text) => Datum::Text(text.clone()),
        DataValue::List(members) => {
            Datum::List(DatumList(members.iter().map(|member| plain(member, symbols)).collect()))
        }
        DataValue::Map(entries) => {
            let names: Vec<_> = entries.iter().map(|entry| symbols.intern(&entry.key)).collect();
            let values = entries.iter().map(|entry| plain(&entry.data, symbols)).collect();
            Datum::Record(DatumRecord { shape: Arc::new(Shape::new(names)), values, stands_for: None })
        }
    }
}
