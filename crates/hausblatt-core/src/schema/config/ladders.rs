//! `[ladders]`: ladders that replace those of their kinds.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;

use crate::schema::config::{Config, placeholders};
use crate::text::codes;
use crate::text::data::Entry;
use crate::text::reader::DataReader;

/// The kinds of requests whose ladders can be replaced.
pub(crate) const LADDER_KINDS: &[&str] = &["front", "page", "entry", "listing", "period", "search", "route", "error"];

/// Patterns of names by kind, in the order in which they are tried.
#[derive(Clone, Debug, Default)]
pub struct Ladders(Vec<(&'static str, Vec<String>)>);

impl Ladders {
    /// The kinds whose ladders are replaced, with their patterns.
    pub fn all(&self) -> impl Iterator<Item = (&'static str, &[String])> {
        self.0.iter().map(|(kind, patterns)| (*kind, patterns.as_slice()))
    }

    /// The patterns that replace the ladder of a kind.
    pub fn of(&self, kind: &str) -> Option<&[String]> {
        self.0.iter().find(|(other, _)| *other == kind).map(|(_, patterns)| patterns.as_slice())
    }
}

/// What can be in braces on the ladder of a kind, too the taxonomies of content.
fn known(kind: &str) -> &'static [&'static str] {
    match kind {
        "page" | "front" => &["id"],
        "entry" => &["collection", "id"],
        "listing" => &["collection", "taxonomy", "term"],
        "period" => &["collection", "year", "month", "day"],
        "route" => &["name"],
        "error" => &["status", "class"],
        _ => &[],
    }
}

/// Reads `[ladders]`.
pub fn read(
    path: &Arc<str>,
    entries: &[Entry],
    span: Span,
    config: &Config,
    problems: &mut Vec<Diagnostic>,
) -> Ladders {
    let mut ladders = Ladders::default();
    let mut reader = DataReader::new(path, "[ladders]", entries, span, problems);
    for kind in LADDER_KINDS {
        let Some(patterns) = reader.texts(kind) else { continue };
        let taxonomies = config.taxonomies.iter().map(|taxonomy| taxonomy.name.text.as_str());
        let taxonomies = taxonomies.filter(|_| matches!(*kind, "page" | "front" | "entry"));
        let known: Vec<&str> = known(kind).iter().copied().chain(taxonomies).collect();
        let mut kept = Vec::new();
        for (pattern, span) in patterns {
            match problem(pattern, &known) {
                Some(help) => {
                    let message = format!("\"{pattern}\" is not a valid name of a template");
                    reader.error(&codes::WRONG_VALUE, span, message, help);
                }
                None => kept.push(pattern.to_owned()),
            }
        }
        ladders.0.push((kind, kept));
    }
    reader.finish();
    ladders
}

fn problem(pattern: &str, known: &[&str]) -> Option<String> {
    let Some((names, plain)) = placeholders(pattern) else { return Some("each { needs a }".to_owned()) };
    if let Some(name) = names.iter().find(|name| !known.contains(name)) {
        return Some(did_you_mean(name, known.iter().copied()).unwrap_or_else(|| match known {
            [] => "nothing in braces has a meaning here".to_owned(),
            known => format!("{{{}}} can be in it", known.join("}, {")),
        }));
    }
    let odd = plain.is_empty()
        || plain.split('/').any(|part| part.is_empty() || part.starts_with('.'))
        || [".html", ".xml", ".json", ".txt"].iter().any(|ending| plain.ends_with(ending));
    if odd {
        Some("write a name below templates/ without its extension, as in entry/{collection}/{id}".to_owned())
    } else if plain == "fallback" {
        Some("leave it out: fallback is always the last".to_owned())
    } else if plain.starts_with("offered/") {
        Some("leave it out: a chosen template is always the first".to_owned())
    } else {
        None
    }
}
