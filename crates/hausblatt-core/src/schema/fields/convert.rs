//! Values converted to the types of their fields.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::datum::{Datum, DatumList, DatumRecord};
use hausblatt_lang::value::moment::Moment;
use hausblatt_lang::value::shape::{Interner, Shape};

use crate::schema::fields::Picture;
use crate::schema::fields::colors::{FUNCTIONS, NAMED};
use crate::schema::fields::{Conversion, Field, FieldType, Group};
use crate::text::codes;
use crate::text::data::{Data, DataValue, Entry};

/// Converts a value to its declared type.
///
/// # Errors
/// Where it does not fit, and why.
pub fn convert(of: &FieldType, data: &Data, conversion: &Conversion<'_>) -> Result<Datum, (Span, String)> {
    let wrong = |wanted: &str| Err((data.span, format!("this must be {wanted}, not {}", data.kind())));
    match (of, &data.value) {
        (_, DataValue::Nothing) | (FieldType::Unknown, _) => Ok(Datum::Nothing),
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
            None => Err((span, format!("\"{text}\" is not a valid date; write it as in 2026-03-14"))),
        },
        FieldType::Choice(options) if !options.iter().any(|option| option == text) => {
            Err((span, format!("\"{text}\" is not one of {}", options.join(", "))))
        }
        FieldType::Color if !is_color(text) => {
            let help = did_you_mean(&text.to_ascii_lowercase(), NAMED.iter().copied());
            let help = help.unwrap_or_else(|| "write it as in \"#2f6f4e\"".to_owned());
            Err((span, format!("\"{text}\" is not a valid colour; {help}")))
        }
        FieldType::Image => Ok(picture(text, None, conversion)),
        _ => Ok(Datum::text(text)),
    }
}

/// Whether CSS may take a text for a colour: `#rgb` and its like, a name, or a function of numbers.
pub(crate) fn is_color(text: &str) -> bool {
    let text = text.trim();
    if let Some(digits) = text.strip_prefix('#') {
        return matches!(digits.len(), 3 | 4 | 6 | 8) && digits.bytes().all(|byte| byte.is_ascii_hexdigit());
    }
    let is_word = |word: &str| !word.is_empty() && word.bytes().all(|byte| byte.is_ascii_alphabetic() || byte == b'-');
    match text.strip_suffix(')').and_then(|text| text.split_once('(')) {
        Some((name, rest)) => {
            is_word(name)
                && FUNCTIONS.iter().any(|one| one.eq_ignore_ascii_case(name))
                && rest.bytes().all(|byte| byte.is_ascii_alphanumeric() || b" .,%/+-".contains(&byte))
        }
        None => NAMED.iter().any(|name| name.eq_ignore_ascii_case(text)),
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
pub(crate) fn colors_lost_to_comments(of: &FieldType, data: &Data, text: &str) -> Vec<Span> {
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

/// What is said there.
pub(crate) fn lost_color() -> Diagnostic {
    Diagnostic::of(&codes::COLOR_IN_COMMENT, "this colour is nothing: what comes after # is a comment")
        .help("put the colour in quotes")
}

/// A value with its links, its Markdown and the content that it names as they are read when all addresses are known.
pub fn settle(
    of: &FieldType,
    value: Datum,
    link: &dyn Fn(&str) -> Option<String>,
    rich: &dyn Fn(&str) -> String,
    content: &dyn Fn(&str) -> Option<Datum>,
) -> Datum {
    match (of, value) {
        (FieldType::Page | FieldType::Entry(_), Datum::Text(id)) => {
            of.reference(&id).and_then(|reference| content(&reference)).unwrap_or_default()
        }
        (FieldType::Link, Datum::Text(text)) => link(&text).map_or(Datum::Nothing, |address| Datum::text(&address)),
        (FieldType::Rich, Datum::Text(text)) => Datum::Html(rich(&text).into()),
        (FieldType::List(of), Datum::List(DatumList(members))) => {
            Datum::List(DatumList(members.into_iter().map(|member| settle(of, member, link, rich, content)).collect()))
        }
        (FieldType::Group(group), Datum::Record(record)) => {
            let values = group
                .fields
                .iter()
                .zip(record.values)
                .map(|(field, value)| settle(&field.of, value, link, rich, content));
            Datum::Record(DatumRecord { values: values.collect(), ..record })
        }
        (_, value) => value,
    }
}

/// Reports a number that is beyond its bounds.
pub(crate) fn within(number: f64, least: Option<f64>, most: Option<f64>, span: Span) -> Result<(), (Span, String)> {
    match (least, most) {
        (Some(least), _) if number < least => Err((span, format!("this must be at least {least}"))),
        (_, Some(most)) if number > most => Err((span, format!("this must be at most {most}"))),
        _ => Ok(()),
    }
}

/// The keys of an image that is written as a group.
const IMAGE_KEYS: &[&str] = &["file", "alt"];

fn image(entries: &[Entry], span: Span, conversion: &Conversion<'_>) -> Result<Datum, (Span, String)> {
    if let Some(odd) = entries.iter().find(|entry| !IMAGE_KEYS.contains(&&*entry.key)) {
        let help = did_you_mean(&odd.key, IMAGE_KEYS.iter().copied())
            .unwrap_or_else(|| "its keys are \"file\" and \"alt\"".to_owned());
        return Err((odd.span, format!("an image has no \"{}\"; {help}", odd.key)));
    }
    let text = |key: &str| entries.iter().find(|entry| &*entry.key == key).and_then(|entry| entry.data.as_text());
    match text("file") {
        Some(file) => Ok(picture(file, text("alt"), conversion)),
        None => Err((span, "an image is a path, or has a \"file\" and an \"alt\"".to_owned())),
    }
}

/// The address of an image that is named by its path.
pub(crate) fn picture_address(path: &str) -> String {
    let local = ["media/", "assets/"].iter().any(|folder| path.starts_with(folder));
    if local { format!("/{path}") } else { path.to_owned() }
}

/// An image's record; it prints as its address.
pub fn picture(path: &str, alt: Option<&str>, conversion: &Conversion<'_>) -> Datum {
    let address = picture_address(path);
    let node = (conversion.pictures)(&address);
    Datum::MadeRecord(Arc::new(Picture { address: address.into(), alt: alt.map(Into::into), node }))
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
        DataValue::Text(text) => Datum::text(text),
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
