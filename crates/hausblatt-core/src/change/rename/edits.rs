//! Places in texts that get other words.

use std::collections::BTreeMap;

use hausblatt_lang::text::source::{Place, Span};

/// Places in the files of a site that get other words, by path.
#[derive(Clone, Debug, Default)]
pub(super) struct Edits(BTreeMap<String, BTreeMap<(usize, usize), String>>);

impl Edits {
    /// Adds the place of `old` within a span of a file's text; whether it is there.
    pub fn add(&mut self, path: &str, text: &str, span: Span, old: &str, new: &str) -> bool {
        let Some(written) = text.get(span.range()) else { return false };
        // In a tag its words may be spelt as the name is, which has quotes.
        let is_quoted = |at: &usize| written[..*at].ends_with(['"', '\'']);
        let mut all = written.match_indices(old).map(|(at, _)| at);
        let Some(found) = all.clone().find(is_quoted).or_else(|| all.next()) else { return false };
        let start = span.range().start + found;
        self.0.entry(path.to_owned()).or_default().insert((start, start + old.len()), new.to_owned());
        true
    }

    /// Whether a place in this span gets other words.
    pub fn covers(&self, path: &str, span: Span) -> bool {
        let range = span.range();
        let places = self.0.get(path).into_iter().flatten();
        places.into_iter().any(|((start, end), _)| range.start <= *start && *end <= range.end)
    }

    /// Adds a place that is wholly known.
    pub fn set(&mut self, path: &str, span: Span, new: String) {
        let range = span.range();
        self.0.entry(path.to_owned()).or_default().insert((range.start, range.end), new);
    }

    /// A file's text with its new words; nothing where it has none.
    pub fn edited(&self, path: &str, text: &str) -> Option<String> {
        let places = self.0.get(path)?;
        let (mut out, mut copied) = (String::with_capacity(text.len()), 0);
        for (&(start, end), new) in places {
            // What lies in a place that was changed already is changed with it.
            if start < copied {
                continue;
            }
            out.push_str(text.get(copied..start)?);
            out.push_str(new);
            copied = end;
        }
        out.push_str(text.get(copied..)?);
        Some(out)
    }

    /// The places, by path and then in their order.
    pub fn places(&self) -> impl Iterator<Item = Place> {
        self.0.iter().flat_map(|(path, places)| {
            let path: std::sync::Arc<str> = path.as_str().into();
            places.keys().map(move |&(start, end)| Place { path: path.clone(), span: Span::new(start, end) })
        })
    }

    /// The files, each with how many places it has.
    pub fn files(&self) -> impl Iterator<Item = (&str, usize)> {
        self.0.iter().map(|(path, places)| (path.as_str(), places.len()))
    }
}
