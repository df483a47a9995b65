//! `[taxonomies.NAME]`.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;

use crate::schema::config::{
    Config, Spanned, check_name, former, placed, placed_address, placeholders, problem_of_address,
};
use crate::text::codes;
use crate::text::data::Data;
use crate::text::names::{BUILT_IN, KEYS};
use crate::text::reader::{self, DataReader, named};
use crate::text::slug::{is_slug, slug};

/// A taxonomy as configured.
#[derive(Clone, Debug)]
pub struct TaxonomyConfig {
    /// Its name.
    pub name: Spanned,
    /// What it is called.
    pub label: String,
    /// The collections whose entries it groups; `pages` for pages.
    pub of: Vec<Spanned>,
    /// The pattern of its terms' addresses.
    pub address: Spanned,
    /// The terms that are declared, in the order of the file.
    pub terms: Vec<TermConfig>,
}

/// A term as configured.
#[derive(Clone, Debug)]
pub struct TermConfig {
    /// Its id.
    pub id: Spanned,
    /// What it is called.
    pub label: Option<String>,
    /// The term above it.
    pub parent: Option<Spanned>,
    /// Its image: a path, and words for those who can't see it.
    pub image: Option<(Spanned, Option<String>)>,
    /// Addresses that its listing had.
    pub formerly: Vec<Spanned>,
}

/// Reads one taxonomy.
pub fn read(
    path: &Arc<str>,
    name: &str,
    span: Span,
    data: &Data,
    problems: &mut Vec<Diagnostic>,
) -> Option<TaxonomyConfig> {
    let group = format!("[taxonomies.{name}]");
    let entries = reader::group(path, &group, span, data, problems)?;
    check_name(path, "taxonomy", name, span, problems);
    if BUILT_IN.contains(&name) || KEYS.contains(&name) {
        let message = format!("\"{name}\" is a key that all content has; a taxonomy can't be called so");
        problems.push(Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("choose another name").at(path, span));
    }
    let mut reader = DataReader::new(path, group.as_str(), entries, span, problems);
    let label = reader.text("label").map_or_else(|| crate::text::slug::title_of(name), |(label, _)| label.to_owned());
    if reader.entry("of").is_none() {
        let help = "write it as in of = [\"varieties\"]: the collections whose entries it groups".to_owned();
        reader.error(&codes::MISSING_KEY, span, format!("{group} lacks \"of\""), help);
    }
    let of = reader.texts("of").unwrap_or_default().into_iter().map(placed).collect();
    let address = reader.required("address", &format!("\"/{name}/{{term}}/\""));
    let terms = reader.map("terms");
    reader.finish();
    if let Some((pattern, span)) = address {
        check_pattern(path, pattern, span, problems);
    }
    let terms: Vec<TermConfig> = terms
        .iter()
        .flat_map(|(terms, _)| named(terms))
        .filter_map(|(id, span, data)| read_term(path, id, span, data, problems))
        .collect();
    check_parents(path, &terms, problems);
    Some(TaxonomyConfig {
        name: Spanned { text: name.to_owned(), span },
        label,
        of,
        address: placed_address(address?),
        terms,
    })
}

fn check_pattern(path: &Arc<str>, pattern: &str, span: Span, problems: &mut Vec<Diagnostic>) {
    let help = match placeholders(pattern) {
        None => "each { needs a }",
        Some((names, plain)) if names == ["term"] => match problem_of_address(&plain) {
            Some(help) => help,
            None => return,
        },
        Some(_) => "{term} must be in it once, and nothing else in braces",
    };
    let message = format!("\"{pattern}\" is not a valid pattern of addresses");
    problems.push(Diagnostic::of(&codes::BAD_ADDRESS, message).help(help).at(path, span));
}

fn read_term(path: &Arc<str>, id: &str, span: Span, data: &Data, problems: &mut Vec<Diagnostic>) -> Option<TermConfig> {
    if !is_slug(id) {
        let message =
            format!("\"{id}\" is not a valid term: lower-case letters and digits with single hyphens between them");
        let proper = slug(id);
        let help = (!proper.is_empty()).then(|| format!("write {proper} = {{ label = \"{id}\" }}"));
        problems.push(Diagnostic::of(&codes::BAD_NAME, message).maybe_help(help).at(path, span));
        return None;
    }
    let Some(entries) = data.as_map() else {
        let help = format!("write {id} = {{ label = \"…\" }}");
        problems
            .push(Diagnostic::of(&lang_codes::WRONG_TYPE, "a term is a group of keys").help(help).at(path, data.span));
        return None;
    };
    let mut reader = DataReader::new(path, format!("the term \"{id}\""), entries, span, problems);
    let label = reader.text("label").map(|(label, _)| label.to_owned());
    let parent = reader.text("parent").map(placed);
    let image = reader.entry("image");
    let image = image.and_then(|entry| read_image(&mut reader, &entry.data));
    let formerly = former::read(&mut reader);
    reader.finish();
    Some(TermConfig { id: Spanned { text: id.to_owned(), span }, label, parent, image, formerly })
}

fn read_image(reader: &mut DataReader<'_, '_>, data: &Data) -> Option<(Spanned, Option<String>)> {
    let text = |key: &str| data.as_map()?.iter().find(|entry| &*entry.key == key)?.data.as_text();
    match data.as_text().or_else(|| text("file")) {
        Some(file) => Some((Spanned { text: file.to_owned(), span: data.span }, text("alt").map(str::to_owned))),
        None => {
            let help = "write image = \"/media/pods.svg\"".to_owned();
            reader.error(
                &lang_codes::WRONG_TYPE,
                data.span,
                "an image is a path, or has a \"file\" and an \"alt\"",
                help,
            );
            None
        }
    }
}

/// Parents that are not declared, and terms that are below themselves.
fn check_parents(path: &Arc<str>, terms: &[TermConfig], problems: &mut Vec<Diagnostic>) {
    let find = |id: &str| terms.iter().find(|term| term.id.text == id);
    for term in terms {
        let Some(parent) = &term.parent else { continue };
        if find(&parent.text).is_none() {
            let names = terms.iter().map(|term| term.id.text.as_str()).filter(|name| *name != term.id.text);
            let help = did_you_mean(&parent.text, names)
                .unwrap_or_else(|| format!("declare it: terms.{} = {{ label = \"…\" }}", parent.text));
            let message = format!("there is no term \"{}\"", parent.text);
            problems.push(Diagnostic::of(&lang_codes::DEAD_REFERENCE, message).help(help).at(path, parent.span));
        }
        let above =
            std::iter::successors(Some(term), |term| find(&term.parent.as_ref()?.text)).skip(1).take(terms.len());
        let circle: Vec<&str> = above.map(|other| other.id.text.as_str()).collect();
        // A circle is reported once, at the first of its terms.
        let first = terms.iter().find(|other| circle.contains(&other.id.text.as_str()));
        if circle.contains(&term.id.text.as_str()) && first.is_some_and(|first| first.id.text == term.id.text) {
            let message = format!("the term \"{}\" is below itself", term.id.text);
            let help = "take \"parent\" out of one of the terms of the circle";
            problems.push(Diagnostic::of(&codes::TERM_CIRCLE, message).help(help).at(path, parent.span));
        }
    }
}

/// Taxonomies of collections that the site lacks, and names that something else has too.
pub fn check(config: &Config, problems: &mut Vec<Diagnostic>) {
    for taxonomy in &config.taxonomies {
        let name = &taxonomy.name.text;
        for of in &taxonomy.of {
            let known = || config.collections.iter().map(|collection| collection.name.text.as_str()).chain(["pages"]);
            if !known().any(|known| known == of.text) {
                let help = did_you_mean(&of.text, known())
                    .unwrap_or_else(|| format!("there are {}", known().collect::<Vec<_>>().join(", ")));
                let message = format!("there is no collection \"{}\"", of.text);
                problems
                    .push(Diagnostic::of(&lang_codes::DEAD_REFERENCE, message).help(help).at(&config.path, of.span));
            }
        }
        let collection = config.collections.iter().find(|collection| collection.name.text == *name);
        let fields = config.collections.iter().flat_map(|collection| &collection.fields).chain(&config.page_fields);
        let field = fields.into_iter().find(|field| field.name == *name);
        let others = [
            ("collection", collection.map(|collection| collection.name.span)),
            ("field", field.map(|field| field.span)),
        ];
        for (what, span) in others {
            let Some(span) = span else { continue };
            let message = format!("a taxonomy and a {what} are both called \"{name}\"");
            let diagnostic = Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("give one of them another name");
            let place = format!("this is the {what}");
            problems.push(diagnostic.at(&config.path, taxonomy.name.span).related(&config.path, span, place));
        }
    }
}
