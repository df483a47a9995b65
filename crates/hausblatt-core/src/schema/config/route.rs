//! `[routes.NAME]`, `[search]` and `[errors]`: requests that are not content.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::schema::config::{Spanned, placed, placed_address, placeholders, problem_of_address};
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
    reader.finish();
    let address = placed_address(address?);
    if let Some(help) = problem_of_pattern(&address.text, each.is_some()) {
        let message = format!("\"{}\" is not a valid address of a route", address.text);
        problems.push(Diagnostic::of(&codes::BAD_ADDRESS, message).help(help).at(path, address.span));
        return None;
    }
    Some(RouteConfig { name: Spanned { text: name.to_owned(), span }, address, title, each })
}

/// A route's address ends in `/`, or in an extension that is the format of its answer.
fn problem_of_pattern(pattern: &str, each: bool) -> Option<&'static str> {
    let Some((names, plain)) = placeholders(pattern) else { return Some("each { needs a }") };
    match (each, names.contains(&"slug")) {
        (true, false) => return Some("{slug} must be in it, or all rows have one address"),
        (false, _) if !names.is_empty() => return Some("only a route with \"each\" has something in braces"),
        _ => {}
    }
    let formatted = ["xml", "json", "txt"].iter().any(|ending| plain.ends_with(&format!(".{ending}")));
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
