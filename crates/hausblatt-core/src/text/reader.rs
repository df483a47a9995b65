//! Reads a group of keys against what is expected: known keys, their types, and what else is there.

use std::sync::Arc;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::text::codes;
use crate::text::data::{Data, DataValue, Entry};

/// Reads the entries of one group, and collects what is wrong.
pub struct DataReader<'d, 'p> {
    path: &'d Arc<str>,
    /// What the group is, for messages: `[site]`.
    group: String,
    entries: &'d [Entry],
    asked: Vec<&'static str>,
    /// Where the group is.
    pub span: Span,
    /// What is wrong so far.
    pub problems: &'p mut Vec<Diagnostic>,
}

impl<'d, 'p> DataReader<'d, 'p> {
    /// A reader of `entries`, which are in `group` of the file at `path`.
    pub fn new(
        path: &'d Arc<str>,
        group: impl Into<String>,
        entries: &'d [Entry],
        span: Span,
        problems: &'p mut Vec<Diagnostic>,
    ) -> Self {
        Self { path, group: group.into(), entries, asked: Vec::new(), span, problems }
    }

    /// The entry of a key, if it is there. The key counts as known from now on.
    pub fn entry(&mut self, key: &'static str) -> Option<&'d Entry> {
        self.asked.push(key);
        self.entries.iter().find(|entry| &*entry.key == key)
    }

    /// Reports an error at a span of this file.
    pub fn error(&mut self, code: &Code, span: Span, message: impl Into<String>, help: impl Into<Option<String>>) {
        self.problems.push(Diagnostic::of(code, message).maybe_help(help.into()).at(self.path, span));
    }

    /// A text.
    pub fn text(&mut self, key: &'static str) -> Option<(&'d str, Span)> {
        let entry = self.entry(key)?;
        let text = entry.data.as_text();
        if text.is_none() {
            self.wrong(entry, "a text");
        }
        text.map(|text| (text, entry.data.span))
    }

    /// A text that must be there; reported where it is missing.
    pub fn required(&mut self, key: &'static str, example: &str) -> Option<(&'d str, Span)> {
        if !self.entries.iter().any(|entry| &*entry.key == key) {
            let message = format!("{} lacks \"{key}\"", self.group);
            self.error(&codes::MISSING_KEY, self.span, message, format!("write it as in {key} = {example}"));
        }
        self.text(key)
    }

    /// A whole number from `least` up.
    pub fn whole(&mut self, key: &'static str, least: i64) -> Option<i64> {
        let entry = self.entry(key)?;
        match entry.data.value {
            DataValue::Int(number) if number >= least => Some(number),
            _ => {
                self.wrong(entry, &format!("a whole number from {least} up"));
                None
            }
        }
    }

    /// True or false.
    pub fn truth(&mut self, key: &'static str) -> Option<(bool, Span)> {
        let entry = self.entry(key)?;
        match entry.data.value {
            DataValue::Bool(truth) => Some((truth, entry.data.span)),
            _ => {
                self.wrong(entry, "true or false");
                None
            }
        }
    }

    /// A group of keys.
    pub fn map(&mut self, key: &'static str) -> Option<(&'d [Entry], Span)> {
        let entry = self.entry(key)?;
        self.map_of(entry).map(|entries| (entries, entry.span))
    }

    /// The keys of an entry that must be a group.
    pub(crate) fn map_of(&mut self, entry: &'d Entry) -> Option<&'d [Entry]> {
        let entries = entry.data.as_map();
        if entries.is_none() {
            self.wrong(entry, "a group of keys");
        }
        entries
    }

    /// A list of texts.
    pub fn texts(&mut self, key: &'static str) -> Option<Vec<(&'d str, Span)>> {
        let entry = self.entry(key)?;
        let text = |member: &'d Data| member.as_text().map(|text| (text, member.span));
        let texts = entry.data.as_list().and_then(|members| members.iter().map(text).collect::<Option<Vec<_>>>());
        if texts.is_none() {
            self.wrong(entry, "a list of texts");
        }
        texts
    }

    /// Reports something of this file.
    pub fn report(&mut self, diagnostic: Diagnostic, span: Span) {
        self.problems.push(diagnostic.at(self.path, span));
    }

    /// Reports that an entry's value is of the wrong kind.
    pub fn wrong(&mut self, entry: &Entry, wanted: &str) {
        let found = match entry.data.value {
            DataValue::Int(number) => number.to_string(),
            DataValue::Float(number) => number.to_string(),
            _ => entry.data.kind().to_owned(),
        };
        let message = format!("\"{}\" must be {wanted}, not {found}", entry.key);
        self.error(&lang_codes::WRONG_TYPE, entry.data.span, message, None);
    }

    /// Reports the keys that were not read.
    pub fn finish(self) {
        let unknown: Vec<&Entry> = self.entries.iter().filter(|entry| !self.asked.contains(&&*entry.key)).collect();
        for entry in unknown {
            let known = self.asked.join(", ");
            let message = format!("unknown key \"{}\" in {}", entry.key, self.group);
            let diagnostic =
                Diagnostic::of(&codes::UNKNOWN_KEY, message).meaning(&entry.key, self.asked.iter().copied());
            let diagnostic = diagnostic.or_help(|| match known.contains(", ") {
                true => format!("its keys are {known}"),
                false => format!("its only key is {known}"),
            });
            self.problems.push(Diagnostic { choices: self.asked.clone(), ..diagnostic.at(self.path, entry.span) });
        }
    }
}

/// The keys of a named group, such as `[collections.journal]`; anything else there is reported.
pub fn group<'d>(
    path: &Arc<str>,
    group: &str,
    span: Span,
    data: &'d Data,
    problems: &mut Vec<Diagnostic>,
) -> Option<&'d [Entry]> {
    let entries = data.as_map();
    if entries.is_none() {
        let message = format!("{group} must be a group of keys, not {}", data.kind());
        let diagnostic =
            Diagnostic::of(&lang_codes::WRONG_TYPE, message).help(format!("write {group}, and its keys below it"));
        problems.push(diagnostic.at(path, span));
    }
    entries
}

/// A value's data as a whole, for groups whose keys are names.
pub fn named(entries: &[Entry]) -> impl Iterator<Item = (&str, Span, &Data)> {
    entries.iter().map(|entry| (&*entry.key, entry.span, &entry.data))
}
