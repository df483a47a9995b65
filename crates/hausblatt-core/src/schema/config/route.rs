//! `[routes.NAME]`, `[search]` and `[errors]`: requests that are not content.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::shape::Interner;

use crate::schema::config::{Spanned, placed, placed_address, placeholders, problem_of_address};
use crate::schema::fields;
use crate::text::codes;
use crate::text::data::{Data, Entry};
use crate::text::reader::{self, DataReader, named};
use crate::text::slug::is_slug;

/// A route as configured.
#[derive(Clone, Debug)]
pub struct RouteConfig {
    /// Its name.
    pub name: Spanned,
    /// Its address; a pattern if it has one for each row of a table.
    pub address: Spanned,
    /// What it is called.
    pub title: Option<String>,
    /// The table that it has an address for each row of.
    pub each: Option<Spanned>,
    /// What templates are given as `route.values`.
    pub values: Vec<(String, Datum)>,
    pub(super) written_values: Vec<Entry>,
    /// The name behind `route/` that is tried after the route's own.
    pub template: Option<Spanned>,
    /// The collection whose entries it lists, and how many are on a page, if it says so.
    pub items: Option<(Spanned, Option<usize>)>,
    /// What comes after `?` and templates may read.
    pub query: Vec<String>,
    /// The format of its answer, where its address does not say.
    pub format: Option<Ending>,
}

impl RouteConfig {
    /// Gives the names in its values their numbers.
    pub(crate) fn make_ready(&mut self, symbols: &mut Interner) {
        let value =
            |entry: &Entry, symbols: &mut Interner| (entry.key.to_string(), fields::plain(&entry.data, symbols));
        self.values = self.written_values.iter().map(|entry| value(entry, symbols)).collect();
        for name in self.values.iter().map(|(name, _)| name).chain(&self.query) {
            symbols.intern(name);
        }
    }
}

/// The search as configured.
#[derive(Clone, Debug)]
pub struct SearchConfig {
    /// Its address.
    pub address: Spanned,
}

/// Reads one route.
pub fn read(
    path: &Arc<str>,
    name: &str,
    span: Span,
    data: &Data,
    problems: &mut Vec<Diagnostic>,
) -> Option<RouteConfig> {
    let group = format!("[routes.{name}]");
    let entries = reader::group(path, &group, span, data, problems)?;
    let mut reader = DataReader::new(path, group, entries, span, problems);
    if !is_slug(&name.replace('_', "-")) {
        let help = "a route's name is lower-case letters and digits with single hyphens between them".to_owned();
        reader.error(&codes::BAD_NAME, span, format!("\"{name}\" can't name a route"), help);
    }
    let address = reader.required("address", &format!("\"/{name}/\""));
    let title = reader.text("title").map(|(title, _)| title.to_owned());
    let each = reader.text("each").map(placed);
    let written_values = reader.map("values").map(|(entries, _)| entries.to_vec()).unwrap_or_default();
    let template = reader.text("template").map(placed);
    let items = reader.text("items").map(placed);
    let per_page = reader.entry("per_page").map(|entry| entry.span);
    let count = reader.whole("per_page", 1).and_then(|count| usize::try_from(count).ok());
    if let Some(span) = per_page.filter(|_| items.is_none()) {
        let help = "say what is listed: items = \"COLLECTION\"".to_owned();
        reader.error(&codes::WRONG_VALUE, span, "per_page counts entries, and this route lists none", help);
    }
    let query = read_query(&mut reader);
    let format = read_format(&mut reader);
    reader.finish();
    let address = placed_address(address?);
    if let Some((ending, help)) = format.and_then(|format| unsafe_ending(&address.text, format)) {
        let message = format!(
            "an address that ends in .{ending} can't have the format \"{}\"",
            format.unwrap_or_default().word()
        );
        problems.push(Diagnostic::of(&codes::WRONG_VALUE, message).help(help).at(path, address.span));
        return None;
    }
    if let Some(help) = problem_of_pattern(&address.text, each.is_some(), format.is_some()) {
        let message = format!("\"{}\" is not a valid address of a route", address.text);
        problems.push(Diagnostic::of(&codes::BAD_ADDRESS, message).help(help).at(path, address.span));
        return None;
    }
    Some(RouteConfig {
        name: Spanned { text: name.to_owned(), span },
        address,
        title,
        each,
        values: Vec::new(),
        written_values,
        template,
        items: items.map(|items| (items, count)),
        query,
        format,
    })
}

/// What an address ends in, where browsers run or read as HTML what is sent for it, and values would not be escaped for that.
fn unsafe_ending(address: &str, format: Ending) -> Option<(&str, &'static str)> {
    let (_, ending) = address.rsplit('/').next()?.rsplit_once('.')?;
    let help = match &*ending.to_ascii_lowercase() {
        "html" | "htm" | "shtml" if format != Ending::Html => "it is read as HTML: write format = \"html\"",
        "xml" | "xhtml" | "xht" | "svg" | "xsl" | "xslt" if format != Ending::Xml => {
            "it is read as XML: write format = \"xml\""
        }
        "json" if format != Ending::Json => "it is read as JSON: write format = \"json\"",
        "js" | "mjs" | "cjs" => {
            "no value is safe in a script: put it into a file in assets/, and hand values over in data- attributes"
        }
        "css" => "no value is safe in a style file: put it into assets/, and values into a <style> of the layout",
        _ => return None,
    };
    Some((ending, help))
}

fn read_query(reader: &mut DataReader<'_, '_>) -> Vec<String> {
    let mut names = Vec::new();
    for (name, span) in reader.texts("query").unwrap_or_default() {
        let is_name = name.chars().all(|c| c.is_ascii_alphanumeric() || c == '_')
            && name.starts_with(|c: char| c.is_ascii_alphabetic());
        if is_name {
            names.push(name.to_owned());
        } else {
            let help = "write letters, digits and _, as in query = [\"size\"]".to_owned();
            reader.error(&codes::BAD_NAME, span, format!("\"{name}\" can't be read as request.query.NAME"), help);
        }
    }
    names
}

fn read_format(reader: &mut DataReader<'_, '_>) -> Option<Ending> {
    let (word, span) = reader.text("format")?;
    let found = Ending::ALL.into_iter().find(|ending| ending.word() == word);
    if found.is_none() {
        let words = Ending::ALL.map(Ending::word);
        let help = did_you_mean(word, words).unwrap_or_else(|| format!("the formats are {}", words.join(", ")));
        reader.error(&codes::WRONG_VALUE, span, format!("there is no format \"{word}\""), help);
    }
    found
}

/// A route's address ends in `/`, or in an extension that is the format of its answer.
fn problem_of_pattern(pattern: &str, each: bool, has_format: bool) -> Option<&'static str> {
    let Some((names, plain)) = placeholders(pattern) else { return Some("each { needs a }") };
    match (each, names.contains(&"slug")) {
        (true, false) => return Some("{slug} must be in it, or all rows have one address"),
        (false, _) if !names.is_empty() => return Some("only a route with \"each\" has something in braces"),
        _ => {}
    }
    let last = plain.rsplit('/').next().unwrap_or("");
    let formatted = ["xml", "json", "txt"].iter().any(|ending| plain.ends_with(&format!(".{ending}")));
    let has_ending = last.rsplit_once('.').is_some_and(|(name, ending)| !name.is_empty() && !ending.is_empty());
    if has_ending && !formatted && !has_format {
        return Some(
            "such an ending does not say what the answer is written in: write format = \"json\", or another one",
        );
    }
    let formatted = formatted || (has_ending && has_format);
    let plain = if formatted { format!("{plain}/") } else { plain };
    problem_of_address(&plain)
}

/// Reads `[search]`.
pub(crate) fn read_search(
    path: &Arc<str>,
    entries: &[Entry],
    span: Span,
    problems: &mut Vec<Diagnostic>,
) -> Option<SearchConfig> {
    let mut reader = DataReader::new(path, "[search]", entries, span, problems);
    let address = reader.required("address", "\"/search/\"");
    reader.finish();
    let address = placed_address(address?);
    let problem =
        problem_of_address(&address.text).or(address.text.contains(['{', '}']).then_some("write it without braces"));
    if let Some(help) = problem {
        let message = format!("\"{}\" is not a valid address", address.text);
        problems.push(Diagnostic::of(&codes::BAD_ADDRESS, message).help(help).at(path, address.span));
        return None;
    }
    Some(SearchConfig { address })
}

/// Reads `[errors]`: a page's id for each status.
pub(crate) fn read_errors(path: &Arc<str>, entries: &[Entry], problems: &mut Vec<Diagnostic>) -> Vec<(u16, Spanned)> {
    let mut errors = Vec::new();
    for (key, span, data) in named(entries) {
        let status = key.parse::<u16>().ok().filter(|status| (400..600).contains(status));
        match (status, data.as_text()) {
            (Some(status), Some(id)) => errors.push((status, Spanned { text: id.to_owned(), span: data.span })),
            (None, _) => {
                let help = "write it as in 404 = \"lost\"";
                let message = format!("\"{key}\" is not a status of a failed request");
                problems.push(Diagnostic::of(&codes::WRONG_VALUE, message).help(help).at(path, span));
            }
            (_, None) => {
                let message = format!("\"{key}\" must be a page's id, not {}", data.kind());
                problems.push(Diagnostic::of(&lang_codes::WRONG_TYPE, message).at(path, data.span));
            }
        }
    }
    errors
}
