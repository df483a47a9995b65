//! Values that a template gives a component, as its fields' types want them.

use hausblatt_lang::escape::html::escape;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::moment::Moment;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Value};

use crate::model::site::Link;
use crate::render::host::{content, image};
use crate::schema::fields::{self, FieldType};
use crate::text::names;
use crate::world::World;

/// A value as one of this type.
///
/// # Errors
/// Where it does not fit: what it must be, and what it is.
pub(super) fn converted<'a>(
    world: &'a World,
    of: &'a FieldType,
    value: Value<'a>,
    scratch: &Scratch<'a>,
) -> Result<Value<'a>, String> {
    let wrong = |wanted: &str| Err(format!("this must be {wanted}, not {}", value.kind()));
    match (of, value) {
        (_, Value::Nothing) => Ok(Value::Nothing),
        (FieldType::List(of), Value::List(_) | Value::Seq(_)) => {
            let members: Result<Vec<Value<'a>>, _> =
                value.members(scratch).map(|member| converted(world, of, member, scratch)).collect();
            Ok(Value::List(scratch.list(&members?)))
        }
        (FieldType::List(of), value) => Ok(Value::List(scratch.list(&[converted(world, of, value, scratch)?]))),
        (FieldType::Rich, Value::Html(_)) => Ok(value),
        (FieldType::Rich, _) => match printed(value) {
            Some(text) => {
                let mut html = String::new();
                escape(&text, &mut html);
                Ok(Value::Html(scratch.text(&html)))
            }
            None => wrong("a text or HTML"),
        },
        (FieldType::Number(least, most), Value::Int(_) | Value::Float(_)) => {
            let number = match value {
                Value::Int(number) => number as f64,
                Value::Float(number) => number,
                _ => 0.0,
            };
            fields::within(number, *least, *most, Span::default()).map_err(|(_, why)| why)?;
            Ok(value)
        }
        (FieldType::Number(..), _) => wrong("a number"),
        (FieldType::YesNo, Value::Bool(_)) => Ok(value),
        (FieldType::YesNo, Value::Text("yes" | "no")) => Ok(Value::Bool(matches!(value, Value::Text("yes")))),
        (FieldType::YesNo, _) => wrong("true, false, yes or no"),
        (FieldType::Date, Value::Date(_)) => Ok(value),
        (FieldType::Date, Value::Text(text)) => match Moment::parse(text, &world.site.config.timezone) {
            Some(moment) => Ok(Value::Date(moment)),
            None => Err(format!("\"{text}\" is not a valid date; write it as in 2026-03-14")),
        },
        (FieldType::Date, _) => wrong("a date"),
        (FieldType::Choice(options), _) => match value.as_text() {
            Some(text) if options.iter().any(|option| option == text) => Ok(value),
            Some(text) => {
                let near = did_you_mean(text, options.iter().map(String::as_str));
                let near = near.map(|near| format!("; {near}")).unwrap_or_default();
                Err(format!("\"{text}\" is not one of {}{near}", options.join(", ")))
            }
            None => wrong("a text"),
        },
        (FieldType::Color, _) => match value.as_text() {
            Some(text) if fields::is_color(text) => Ok(value),
            Some(text) => Err(format!("\"{text}\" is not a valid colour; write it as in \"#2f6f4e\"")),
            None => wrong("a text"),
        },
        (FieldType::Link, Value::Record(record)) => match record.get(names::ADDRESS, scratch) {
            address @ Value::Text(_) => Ok(address),
            _ => wrong("an address or a reference"),
        },
        (FieldType::Link, Value::Text(text)) => match world.site.link(text, &world.site.config.path) {
            Link::To(address) => Ok(Value::Text(scratch.text(&address))),
            Link::Dead(message, _) => Err(message),
        },
        (FieldType::Link, _) => wrong("an address or a reference"),
        (FieldType::Image, value) => picture(world, value, scratch),
        (FieldType::Page | FieldType::Entry(_), Value::Record(record))
            if record.identity().is_some_and(|it| it.0 == 0) =>
        {
            Ok(value)
        }
        (FieldType::Page | FieldType::Entry(_), Value::Text(id)) => {
            let reference = of.reference(id).unwrap_or_default();
            match world.site.referenced_content(&reference) {
                Some(id) => Ok(content::value(world, id, scratch)),
                None => Err(format!("there is no {}", reference.replacen(':', " ", 1))),
            }
        }
        (FieldType::Page, _) => wrong("a page or its id"),
        (FieldType::Entry(_), _) => wrong("an entry or its id"),
        (FieldType::Group(group), Value::Record(record)) => {
            let fields = group.fields.iter().filter_map(|field| Some((world.symbols.find(&field.name)?, field)));
            let (mut names, mut values) = (Vec::new(), Vec::new());
            for (name, field) in fields {
                let value = match converted(world, &field.of, record.get(name, scratch), scratch) {
                    Ok(Value::Nothing) => field.default.value(),
                    Ok(value) => value,
                    Err(why) => return Err(format!("\"{}\": {why}", field.name)),
                };
                names.push(name);
                values.push(value);
            }
            let made = Made { names: scratch.keep_all(&names), values: scratch.list(&values) };
            Ok(Value::Record(scratch.keep(made)))
        }
        (FieldType::Group(_), _) => wrong("a record"),
        (FieldType::Text | FieldType::Unknown, value) => Ok(value),
    }
}

/// A value as text, where it prints as one.
fn printed(value: Value<'_>) -> Option<String> {
    match value {
        Value::Int(number) => Some(number.to_string()),
        Value::Float(number) => Some(number.to_string()),
        value => value.as_text().map(str::to_owned),
    }
}

fn picture<'a>(world: &'a World, value: Value<'a>, scratch: &Scratch<'a>) -> Result<Value<'a>, String> {
    let wrong = || Err(format!("this must be an image or its path, not {}", value.kind()));
    match value {
        Value::Text(path) => Ok(image::at(world, &fields::picture_address(path), None, scratch)),
        Value::Record(record) => {
            let file = world.symbols.find("file").map(|file| record.get(file, scratch));
            if let Some(Value::Text(path)) = file {
                let alt = record.get(names::ALT, scratch).as_text();
                return Ok(image::at(world, &fields::picture_address(path), alt, scratch));
            }
            let is_page = !matches!(record.get(names::TITLE, scratch), Value::Nothing);
            if is_page { Err("this must be an image, not a page: give its .image".to_owned()) } else { Ok(value) }
        }
        _ => wrong(),
    }
}

/// A group of fields that a template wrote as a record.
struct Made<'a> {
    names: &'a [Symbol],
    values: &'a [Value<'a>],
}

impl Record for Made<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let at = self.names.iter().position(|&name| name == symbol);
        at.and_then(|at| self.values.get(at)).copied().unwrap_or(Value::Nothing)
    }

    fn keys(&self) -> Vec<Symbol> {
        self.names.to_vec()
    }
}
