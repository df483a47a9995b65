//! The map as it was recorded, held against the map as it is.
//!
//! A record has a line for each address, sorted, so that it reads well in a difference. Like addresses share a line:
//! `*` in a pattern means one part of an address, `#` for one that is a number.

use std::collections::BTreeMap;
use std::fmt::Write;
use std::io::Read as _;
use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use serde::Serialize;

use crate::files::Snapshot;
use crate::lookup::map::{self, MapEntry};
use crate::model::request::{Kind, ListingOf, Request, Routed};
use crate::text::reader::DataReader;
use crate::text::toml_data;
use crate::world::World;

/// The name of the record in the site's folder.
pub const FILE: &str = "expected.toml";
/// So many pages below one parent that are answered alike share a line.
const MANY: usize = 8;

/// The record as it is on disk, which belongs to no theme and no page; none where there is none.
pub(crate) fn recorded(snapshot: &Snapshot) -> Option<Vec<u8>> {
    let mut bytes = Vec::new();
    let mut file = snapshot.file_system().open(&snapshot.root().join(FILE)).ok()?;
    file.read_to_end(&mut bytes).ok()?;
    Some(bytes)
}

/// How an address is answered.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
pub struct ExpectedAnswer {
    /// The status.
    pub status: u16,
    /// Where a redirect leads.
    pub location: Option<String>,
    /// The template's name with its extension.
    pub template: Option<String>,
    /// Its theme.
    pub theme: Option<String>,
    /// The layout's name.
    pub layout: Option<String>,
}

impl From<&MapEntry> for ExpectedAnswer {
    fn from(entry: &MapEntry) -> Self {
        let MapEntry { status, location, template, theme, layout, .. } = entry.clone();
        Self { status, location, template, theme, layout }
    }
}

/// A record: how each address or pattern is expected to be answered.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Record(BTreeMap<String, ExpectedAnswer>);

/// What is not as it was recorded.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Differences {
    /// Addresses that no line speaks of, with how they are answered.
    pub new: Vec<(String, ExpectedAnswer)>,
    /// Lines that fit no address, with how it was answered.
    pub gone: Vec<(String, ExpectedAnswer)>,
    /// Addresses that are answered differently: how they were, and how they are.
    pub moved: Vec<(String, ExpectedAnswer, ExpectedAnswer)>,
    /// How many are as recorded.
    pub same: usize,
}

impl Differences {
    /// Whether there are any.
    pub fn is_empty(&self) -> bool {
        self.new.is_empty() && self.gone.is_empty() && self.moved.is_empty()
    }
}

impl Record {
    /// The record of a site as it is.
    pub fn of(world: &World) -> Self {
        let entries = map::map(world);
        let mut groups: BTreeMap<String, BTreeMap<ExpectedAnswer, Vec<&MapEntry>>> = BTreeMap::new();
        let mut pages = Vec::new();
        for entry in &entries {
            if let Some((pattern, is_page)) = pattern(world, &entry.address) {
                pages.extend(is_page.then(|| pattern.clone()));
                groups.entry(pattern).or_default().entry(entry.into()).or_default().push(entry);
            } else {
                groups.entry(entry.address.clone()).or_default().entry(entry.into()).or_default().push(entry);
            }
        }
        let mut record = BTreeMap::new();
        for (pattern, answers) in groups {
            // Most of them share the line; the others have lines of their own, which come first.
            let most = answers.iter().max_by_key(|(_, entries)| entries.len()).map(|(answer, _)| answer.clone());
            let few = |answer: &ExpectedAnswer| {
                pages.contains(&pattern) && answers.get(answer).is_some_and(|them| them.len() < MANY)
            };
            let shared = most.filter(|most| !few(most));
            for (answer, entries) in &answers {
                if shared.as_ref() == Some(answer) {
                    record.insert(pattern.clone(), answer.clone());
                } else {
                    record.extend(entries.iter().map(|entry| (entry.address.clone(), answer.clone())));
                }
            }
        }
        Self(record)
    }

    /// The record as a file.
    pub fn to_toml(&self) -> String {
        let mut out = String::from(
            "# How each address is answered, as \"hausblatt expect --record\" found it; \"hausblatt expect\" holds the site\n\
             # against it. In an address * is any one part, # for any number; exact lines come before them.\n\n",
        );
        let quoted = |text: &str| toml::Value::from(text).to_string();
        let width = self.0.keys().map(|address| quoted(address).chars().count()).max().unwrap_or(0).min(60);
        for (address, answer) in &self.0 {
            let mut parts = vec![format!("status = {}", answer.status)];
            let texts = [
                ("location", &answer.location),
                ("template", &answer.template),
                ("theme", &answer.theme),
                ("layout", &answer.layout),
            ];
            let texts = texts.into_iter().filter_map(|(key, text)| Some(format!("{key} = {}", quoted(text.as_ref()?))));
            parts.extend(texts);
            let _ = writeln!(out, "{:<width$} = {{ {} }}", quoted(address), parts.join(", "));
        }
        out
    }

    /// Reads a record.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn read(path: &str, text: &str) -> Result<Self, Vec<Diagnostic>> {
        let path: Arc<str> = path.into();
        let mut problems = Vec::new();
        let entries = toml_data::read(&path, text, &mut problems);
        let mut record = BTreeMap::new();
        for entry in &entries {
            let Some(keys) = crate::text::reader::group(&path, &entry.key, entry.span, &entry.data, &mut problems)
            else {
                continue;
            };
            let mut reader = DataReader::new(&path, &*entry.key, keys, entry.span, &mut problems);
            let status = reader.whole("status", 100).and_then(|status| u16::try_from(status).ok());
            let mut text = |key| reader.text(key).map(|(text, _): (&str, Span)| text.to_owned());
            let (location, template) = (text("location"), text("template"));
            let (theme, layout) = (text("theme"), text("layout"));
            reader.finish();
            let answer = ExpectedAnswer { status: status.unwrap_or(200), location, template, theme, layout };
            record.insert(entry.key.to_string(), answer);
        }
        if problems.is_empty() { Ok(Self(record)) } else { Err(problems) }
    }

    /// Holds a site against the record.
    pub fn compare(&self, world: &World) -> Differences {
        let mut found = Differences::default();
        let mut met: Vec<&str> = Vec::new();
        let patterns: Vec<(&String, &ExpectedAnswer)> =
            self.0.iter().filter(|(address, _)| address.contains(['*', '#'])).collect();
        for entry in map::map(world) {
            let is = ExpectedAnswer::from(&entry);
            let exact = self.0.get_key_value(&entry.address);
            // The pattern with the fewest stars is the most exact one.
            let fitting = patterns.iter().filter(|(pattern, _)| fits(pattern, &entry.address));
            let line = exact.or_else(|| fitting.min_by_key(|(pattern, _)| pattern.matches('*').count()).copied());
            match line {
                None => found.new.push((entry.address, is)),
                Some((line, expected)) => {
                    met.push(line);
                    if *expected == is {
                        found.same += 1;
                    } else {
                        found.moved.push((entry.address, expected.clone(), is));
                    }
                }
            }
        }
        met.sort_unstable();
        let gone = self.0.iter().filter(|(line, _)| met.binary_search(&line.as_str()).is_err());
        found.gone = gone.map(|(line, answer)| (line.clone(), answer.clone())).collect();
        found
    }
}

/// Whether an address fits a pattern.
fn fits(pattern: &str, address: &str) -> bool {
    let (mut wanted, mut given) = (pattern.split('/'), address.split('/'));
    loop {
        let fits = match (wanted.next(), given.next()) {
            (None, None) => return true,
            (Some("*"), Some(part)) => !part.is_empty(),
            (Some("#"), Some(part)) => is_number(part),
            (Some(wanted), Some(part)) => wanted == part,
            _ => false,
        };
        if !fits {
            return false;
        }
    }
}

fn is_number(part: &str) -> bool {
    !part.is_empty() && part.bytes().all(|byte| byte.is_ascii_digit())
}

/// The pattern that an address shares with others of its sort, and whether these are pages of the page tree.
fn pattern(world: &World, address: &str) -> Option<(String, bool)> {
    let Routed::Request(request) = world.route_decoded(address) else { return None };
    let Request { kind, view, number, .. } = &request;
    let base = match number {
        0 | 1 => address,
        _ => address.rsplit_once("page/").map_or(address, |(base, _)| base),
    };
    let starred = |pattern: &str| {
        let parts = pattern.split('/').map(|part| match part {
            "{year}" | "{month}" | "{day}" => "#".to_owned(),
            part if part.contains('{') => "*".to_owned(),
            part => part.to_owned(),
        });
        parts.collect::<Vec<_>>().join("/")
    };
    let (pattern, is_page) = match kind {
        Kind::Entry(id) => {
            let collection = world.site.collection_of(world.site.content(*id))?;
            let view = view.as_ref().map(|view| format!("{view}/")).unwrap_or_default();
            (starred(&collection.config.address.text) + &view, false)
        }
        Kind::Listing(ListingOf::Term(term)) => (starred(&world.site.term(*term)?.0.config.address.text), false),
        Kind::Period(..) => {
            let parts = base.split('/').map(|part| if is_number(part) { "#" } else { part });
            (parts.collect::<Vec<_>>().join("/"), false)
        }
        Kind::Route(route, Some(_)) => {
            (starred(&world.site.routes.get(usize::from(*route))?.config.address.text), false)
        }
        Kind::Page(_) => {
            let (parent, _) = base.trim_end_matches('/').rsplit_once('/')?;
            (format!("{parent}/*/"), true)
        }
        _ if *number > 1 => (base.to_owned(), false),
        _ => return None,
    };
    Some((if *number > 1 { format!("{pattern}page/#/") } else { pattern }, is_page))
}
