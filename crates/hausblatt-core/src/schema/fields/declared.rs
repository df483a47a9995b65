//! Declarations of fields.

use std::sync::{Arc, OnceLock};

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::datum::Datum;

use crate::schema::fields::{Field, FieldType, Group};
use crate::text::codes;
use crate::text::data::{Data, DataValue, Entry};
use crate::text::reader::{DataReader, named};

/// The words for types in files.
pub(crate) const TYPES: &[&str] =
    &["text", "rich", "number", "yes-no", "color", "date", "choice", "link", "image", "page", "entry", "list"];

/// Reads declarations such as `height_cm = { type = "number", label = "Height" }`. The fields are of use when they
/// are made ready by `ready`.
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
            problems.push(Diagnostic::of(&codes::MISSING_KEY, "a field lacks its name").help(help).at(path, data.span));
            continue;
        };
        if fields.iter().any(|field| field.name == name) {
            let message = format!("there are two fields \"{name}\"");
            problems.push(Diagnostic::of(&codes::SAME_NAME, message).help("rename one of them").at(path, span));
            continue;
        }
        fields.extend(declaration(path, name, span, data, problems));
    }
    fields
}

fn declaration(path: &Arc<str>, name: &str, span: Span, data: &Data, problems: &mut Vec<Diagnostic>) -> Option<Field> {
    // A field that is declared wrongly is declared all the same: whoever uses it is not blamed.
    let unknown = || Field {
        name: name.to_owned(),
        span,
        label: None,
        of: FieldType::Unknown,
        is_required: false,
        default: Datum::Nothing,
        written_default: None,
    };
    let Some(entries) = data.as_map() else {
        let word = data.as_text().filter(|word| TYPES.contains(word)).unwrap_or("text");
        let help = format!("write {name} = {{ type = \"{word}\" }}");
        problems
            .push(Diagnostic::of(&lang_codes::WRONG_TYPE, "a field is a group of keys").help(help).at(path, data.span));
        return Some(unknown());
    };
    let mut reader = DataReader::new(path, format!("the field \"{name}\""), entries, span, problems);
    reader.entry("name");
    let Some(of) = field_type(path, &mut reader) else { return Some(unknown()) };
    let label = reader.text("label").map(|(label, _)| label.to_owned());
    reader.text("about");
    let default = reader.entry("default");
    let required = reader.truth("required").filter(|(required, _)| *required);
    if let (Some((_, span)), Some(_)) = (required, default) {
        let help = "take \"required\" or \"default\" out".to_owned();
        reader.error(&codes::WRONG_VALUE, span, "a field with a default never lacks a value", help);
    }
    reader.finish();
    let word = name.chars().all(|c| c.is_alphanumeric() || c == '_') && name.starts_with(char::is_alphabetic);
    if !word || !hausblatt_lang::may_name(name) {
        let message = format!("\"{name}\" can't name a field");
        let help = "use letters, digits and underscores, and no word of the language";
        problems.push(Diagnostic::of(&codes::BAD_NAME, message).help(help).at(path, span));
        return None;
    }
    Some(Field {
        name: name.to_owned(),
        span,
        label,
        of,
        is_required: required.is_some(),
        default: Datum::Nothing,
        written_default: default.map(|entry| entry.data.clone()),
    })
}

/// Takes out the fields that are called like a key that all content has.
pub(crate) fn without_taken(path: &Arc<str>, mut fields: Vec<Field>, problems: &mut Vec<Diagnostic>) -> Vec<Field> {
    fields.retain(|field| {
        // Who wrote something may be content, too.
        let taken = !(field.name == "authors" && field.of.names_content())
            && (crate::text::names::BUILT_IN.contains(&&*field.name)
                || crate::text::names::KEYS.contains(&&*field.name));
        if taken {
            let message = format!("\"{}\" is a key that all content has; a field can't be called so", field.name);
            problems.push(
                Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("choose another name").at(path, field.span),
            );
        }
        !taken
    });
    fields
}

fn field_type(path: &Arc<str>, reader: &mut DataReader<'_, '_>) -> Option<FieldType> {
    let (word, span) = reader.required("type", "\"text\"")?;
    let (least, most) = (bound(reader, "min"), bound(reader, "max"));
    if let (Some(least), Some(most)) = (least, most)
        && least > most
    {
        let message = format!("\"min\" is {least}, and \"max\" is {most}: nothing is between them");
        reader.error(&codes::WRONG_VALUE, span, &message, "exchange the two".to_owned());
        return None;
    }
    let options = reader.texts("options");
    let of = reader.text("of");
    let collection = reader.text("collection").map(|(collection, _)| collection);
    let fields = reader.entry("fields");
    match word {
        "number" => Some(FieldType::Number(least, most)),
        "choice" if options.is_none() => {
            reader.error(
                &codes::MISSING_KEY,
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
                simple_type(reader, word, span, collection).map(|of| FieldType::List(Box::new(of)))
            }
        },
        _ => simple_type(reader, word, span, collection),
    }
}

fn bound(reader: &mut DataReader<'_, '_>, key: &'static str) -> Option<f64> {
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

fn simple_type(reader: &mut DataReader<'_, '_>, word: &str, span: Span, collection: Option<&str>) -> Option<FieldType> {
    Some(match word {
        "text" => FieldType::Text,
        "rich" => FieldType::Rich,
        "number" => FieldType::Number(None, None),
        "yes-no" => FieldType::YesNo,
        "color" => FieldType::Color,
        "date" => FieldType::Date,
        "link" => FieldType::Link,
        "image" => FieldType::Image,
        "page" => FieldType::Page,
        "entry" => match collection {
            Some(collection) => FieldType::Entry(collection.to_owned()),
            None => {
                let help = "write collection = \"people\"".to_owned();
                reader.error(&codes::MISSING_KEY, span, "an entry lacks its collection", help);
                return None;
            }
        },
        _ => {
            let help = did_you_mean(word, TYPES.iter().copied())
                .unwrap_or_else(|| format!("the types are {}", TYPES.join(", ")));
            reader.error(&codes::WRONG_VALUE, span, format!("there is no type \"{word}\""), help);
            return None;
        }
    })
}
