//! Fields that content carries: their declarations, and values converted to the declared types.

use std::sync::Arc;

use hausblatt_lang::datum::{Datum, DatumList, DatumRecord};
use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::moment::Moment;
use hausblatt_lang::near::did_you_mean;
use hausblatt_lang::shape::Shape;
use hausblatt_lang::source::Span;
use hausblatt_lang::types::Type;
use jiff::tz::TimeZone;

use crate::data::{Data, DataValue, Entry};
use crate::markdown::{self, RawHtml};
use crate::names;
use crate::reader::{Reader, named};

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
    /// What its values are.
    pub of: FieldType,
    /// Its value where content has none.
    pub default: Datum,
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
            FieldType::Image => Type::Any,
            FieldType::List(_) => Type::list(Type::Any),
        }
    }
}

/// What converting needs to know of the site.
pub struct Conversion<'c> {
    /// For dates without an offset.
    pub zone: &'c TimeZone,
    /// For rich text.
    pub raw_html: RawHtml,
}

/// Reads declarations such as `height_cm = { type = "number", label = "Height" }`.
pub fn declared(path: &Arc<str>, entries: &[Entry], problems: &mut Vec<Diagnostic>) -> Vec<Field> {
    named(entries).filter_map(|(name, span, data)| declaration(path, name, span, data, problems)).collect()
}

fn declaration(path: &Arc<str>, name: &str, span: Span, data: &Data, problems: &mut Vec<Diagnostic>) -> Option<Field> {
    let Some(entries) = data.as_map() else {
        let help = format!("write {name} = {{ type = \"text\" }}");
        problems.push(Diagnostic::error("wrong-type", "a field is a group of keys").help(help).at(path, data.span));
        return None;
    };
    let mut reader = Reader::new(path, format!("the field \"{name}\""), entries, span, problems);
    let of = field_type(&mut reader)?;
    reader.text("label");
    let default = reader.entry("default");
    reader.finish();
    if crate::names::BUILT_IN.contains(&name) {
        let message = format!("\"{name}\" is a key that all content has; a field can't be called so");
        problems.push(Diagnostic::error("name-taken", message).help("choose another name").at(path, span));
        return None;
    }
    let conversion = Conversion { zone: &TimeZone::UTC, raw_html: RawHtml::Clean };
    let default = match default.map(|entry| convert(&of, &entry.data, &conversion)) {
        Some(Ok(default)) => default,
        Some(Err((span, message))) => {
            problems.push(Diagnostic::error("wrong-type", message).at(path, span));
            Datum::Nothing
        }
        None => Datum::Nothing,
    };
    Some(Field { name: name.to_owned(), span, of, default })
}

fn field_type(reader: &mut Reader<'_, '_>) -> Option<FieldType> {
    let (word, span) = reader.required("type", "\"text\"")?;
    let (least, most) = (reader.entry("min"), reader.entry("max"));
    let options = reader.texts("options");
    let of = reader.text("of");
    let bound = |entry: Option<&Entry>| match entry?.data.value {
        DataValue::Int(number) => Some(number as f64),
        DataValue::Float(number) => Some(number),
        _ => None,
    };
    match word {
        "number" => Some(FieldType::Number(bound(least), bound(most))),
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
        "list" => {
            let (word, span) = of.unwrap_or(("text", span));
            simple_type(reader, word, span).map(|of| FieldType::List(Box::new(of)))
        }
        _ => simple_type(reader, word, span),
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
        (FieldType::Image, DataValue::Map(entries)) => image(entries, data.span),
        (_, DataValue::List(_) | DataValue::Map(_)) => wrong("a single value"),
        (_, value) => one_text(of, &plain_text(value), data.span, conversion),
    }
}

fn one_text(of: &FieldType, text: &str, span: Span, conversion: &Conversion<'_>) -> Result<Datum, (Span, String)> {
    match of {
        FieldType::Rich => Ok(Datum::Html(markdown::html(text, conversion.raw_html).into())),
        FieldType::Date => match Moment::parse(text, conversion.zone) {
            Some(moment) => Ok(Datum::Date(moment)),
            None => Err((span, format!("\"{text}\" is no date; write it as in 2026-03-14"))),
        },
        FieldType::Choice(options) if !options.iter().any(|option| option == text) => {
            Err((span, format!("\"{text}\" is not one of {}", options.join(", "))))
        }
        FieldType::Image => Ok(picture(text, None)),
        _ => Ok(Datum::text(text)),
    }
}

fn within(number: f64, least: Option<f64>, most: Option<f64>, span: Span) -> Result<(), (Span, String)> {
    match (least, most) {
        (Some(least), _) if number < least => Err((span, format!("this must be at least {least}"))),
        (_, Some(most)) if number > most => Err((span, format!("this must be at most {most}"))),
        _ => Ok(()),
    }
}

fn image(entries: &[Entry], span: Span) -> Result<Datum, (Span, String)> {
    let text = |key: &str| entries.iter().find(|entry| &*entry.key == key).and_then(|entry| entry.data.as_text());
    match text("file") {
        Some(file) => Ok(picture(file, text("alt"))),
        None => Err((span, "an image is a path, or has a \"file\" and an \"alt\"".to_owned())),
    }
}

/// An image's record; it prints as its address.
pub fn picture(address: &str, alt: Option<&str>) -> Datum {
    Datum::Record(DatumRecord {
        shape: Arc::new(Shape::new([names::ADDRESS, names::ALT])),
        values: Box::new([Datum::text(address), alt.map_or(Datum::Nothing, Datum::text)]),
        stands_for: Some(names::ADDRESS),
    })
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

/// A value without a declaration, as it is written; groups of keys are left out.
pub fn plain(data: &Data) -> Datum {
    match &data.value {
        DataValue::Nothing | DataValue::Map(_) => Datum::Nothing,
        DataValue::Bool(truth) => Datum::Bool(*truth),
        DataValue::Int(number) => Datum::Int(*number),
        DataValue::Float(number) => Datum::Float(*number),
        DataValue::Text(text) => Datum::Text(text.clone()),
        DataValue::List(members) => Datum::List(DatumList(members.iter().map(plain).collect())),
    }
}
