//! The types of fields, and what conversion needs.

use std::sync::{Arc, OnceLock};

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::shape::{Interner, Shape};
use jiff::tz::TimeZone;

use crate::files::FileNode;
use crate::schema::fields::convert;
use crate::text::data::Data;

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
    /// An image: a path, or `{ file, alt }`.
    Image,
    /// A page, by its id.
    Page,
    /// An entry of this collection, by its id.
    Entry(String),
    /// A list of these.
    List(Box<FieldType>),
    /// A group of fields, as a member of a list.
    Group(Arc<Group>),
    /// Not known, since its declaration has an error: every value is taken, and read as nothing.
    Unknown,
}

/// A group of fields.
#[derive(Debug)]
pub struct Group {
    /// The fields.
    pub fields: Vec<Field>,
    /// The shape of its records, once names have numbers.
    pub(super) shape: OnceLock<Arc<Shape>>,
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
            FieldType::Page => "page",
            FieldType::Entry(_) => "entry",
            FieldType::List(_) | FieldType::Group(_) => "list",
            FieldType::Unknown => "unknown",
        }
    }

    /// Whether its values name addresses, which are known only when all content has been read.
    pub fn has_links(&self) -> bool {
        match self {
            FieldType::Link | FieldType::Rich | FieldType::Page | FieldType::Entry(_) => true,
            FieldType::List(of) => of.has_links(),
            FieldType::Group(group) => group.fields.iter().any(|field| field.of.has_links()),
            _ => false,
        }
    }

    /// The reference that an id stands for in a field of this type, which names content.
    pub(crate) fn reference(&self, id: &str) -> Option<String> {
        match self {
            FieldType::Page => Some(format!("page:{id}")),
            FieldType::Entry(collection) => Some(format!("entry:{collection}/{id}")),
            _ => None,
        }
    }

    /// Whether its values name content.
    pub(crate) fn names_content(&self) -> bool {
        match self {
            FieldType::Page | FieldType::Entry(_) => true,
            FieldType::List(of) => of.names_content(),
            _ => false,
        }
    }

    /// The collections whose entries its values name.
    pub(crate) fn collections(&self) -> Vec<&str> {
        match self {
            FieldType::Entry(collection) => vec![collection],
            FieldType::List(of) => of.collections(),
            FieldType::Group(group) => group.fields.iter().flat_map(|field| field.of.collections()).collect(),
            _ => Vec::new(),
        }
    }

    /// The group of fields that its members are, while nothing else shares it.
    fn group_mut(&mut self) -> Option<&mut Group> {
        match self {
            FieldType::List(of) => of.group_mut(),
            FieldType::Group(group) => Arc::get_mut(group),
            _ => None,
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
    /// Whether content has to give it a value.
    pub is_required: bool,
    /// Its value where content has none.
    pub default: Datum,
    pub(super) written_default: Option<Data>,
}

impl Field {
    /// Takes another default, as it is written.
    pub(crate) fn set_default(&mut self, data: &Data) {
        self.written_default = Some(data.clone());
    }
}

/// What converting needs to know of the site.
pub struct Conversion<'c> {
    /// For dates without an offset.
    pub zone: &'c TimeZone,
    /// The file of an image at an address.
    pub pictures: &'c (dyn Fn(&str) -> Option<Arc<FileNode>> + Sync),
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
        if let Some(group) = field.of.group_mut() {
            ready(path, &mut group.fields, conversion, symbols, problems);
        }
        let Some(data) = &field.written_default else { continue };
        match convert(&field.of, data, conversion) {
            Ok(default) => field.default = default,
            Err((span, message)) => problems.push(Diagnostic::of(&lang_codes::WRONG_TYPE, message).at(path, span)),
        }
    }
}
