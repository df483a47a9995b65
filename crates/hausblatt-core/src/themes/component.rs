//! Components: their fields, and what content places in trays.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::shape::{Interner, Symbol};

use crate::files::{FileNode, Snapshot};
use crate::model::content::Content;
use crate::model::site::Site;
use crate::schema::fields::{self, Conversion, Field};
use crate::text::codes;
use crate::text::data::{Data, Entry};
use crate::text::reader::{DataReader, named};
use crate::text::toml_data;
use crate::themes::file_name::Role;
use crate::themes::lineage::Lineage;

/// A component of the lineage.
#[derive(Debug)]
pub struct Component {
    /// Its name: its folder's path below `components/`.
    pub name: String,
    /// What editors call it.
    pub label: String,
    /// What it is for.
    pub about: Option<String>,
    /// Its fields, in the order in which editors see them.
    pub fields: Vec<Field>,
    /// Its `component.toml`, where that can't be read: its fields are unknown then, and nothing renders it.
    pub unreadable: Option<Arc<str>>,
}

/// The components of a lineage: each has a file to render, and its nearest `component.toml` says its fields.
pub fn declared(
    lineage: &Lineage,
    conversion: &Conversion<'_>,
    symbols: &mut Interner,
    problems: &mut Vec<Diagnostic>,
) -> Vec<Component> {
    let files = lineage.files.iter().filter(|file| file.role == Role::Component && file.hidden_by.is_none());
    let mut names: Vec<&str> = files.filter_map(|file| name_of(&file.name)).collect();
    names.sort_unstable();
    names.dedup();
    let mut components = Vec::new();
    for name in &names {
        let manifest = format!("components/{name}/component.toml");
        let node = lineage.nearest(&manifest).map(|id| &lineage.file(id).node);
        components.push(match node {
            Some(node) => read_manifest(name, node, conversion, symbols, problems),
            None => bare(name, None),
        });
    }
    for file in lineage.files.iter().filter(|file| file.name.starts_with("components/")) {
        let Some(name) = file.name["components/".len()..].strip_suffix("/component.toml") else { continue };
        if file.hidden_by.is_none() && !names.contains(&name) {
            let message = format!("the component \"{name}\" has no file to render");
            let help = format!("write components/{name}/component.html");
            problems.push(Diagnostic::of(&codes::DEAD_FILE, message).help(help).at(&file.node.path, Span::default()));
        }
    }
    components
}

/// The name of the component that a file renders: `components/split-panel/component.html` is `split-panel`.
pub(crate) fn name_of(file: &str) -> Option<&str> {
    let (stem, _) = Ending::split(file)?;
    stem.strip_prefix("components/")?.strip_suffix("/component")
}

/// A component of which nothing is said, or nothing can be read.
fn bare(name: &str, unreadable: Option<Arc<str>>) -> Component {
    let label = crate::text::slug::title_of(name);
    Component { name: name.to_owned(), label, about: None, fields: Vec::new(), unreadable }
}

fn read_manifest(
    name: &str,
    node: &FileNode,
    conversion: &Conversion<'_>,
    symbols: &mut Interner,
    problems: &mut Vec<Diagnostic>,
) -> Component {
    let (path, before) = (&node.path, problems.len());
    problems.extend(node.unreadable());
    let entries = node.text().map(|text| toml_data::read(path, text, problems)).unwrap_or_default();
    if problems.len() > before {
        return bare(name, Some(path.clone()));
    }
    let mut top = DataReader::new(path, "component.toml", &entries, Span::default(), problems);
    let about = top.map("component");
    let declared = top.entry("fields");
    let members = declared.and_then(|entry| {
        let members = entry.data.as_list();
        if members.is_none() {
            top.wrong(entry, "a list of fields: write [[fields]]");
        }
        members
    });
    top.finish();
    let (entries, span) = about.unwrap_or((&[], Span::default()));
    let mut reader = DataReader::new(path, "[component]", entries, span, problems);
    let label = reader.text("label").map_or_else(|| crate::text::slug::title_of(name), |(label, _)| label.to_owned());
    let about = reader.text("about").map(|(about, _)| about.to_owned());
    reader.finish();
    let mut fields = fields::listed(path, members.unwrap_or_default(), problems);
    if let Some(at) = fields.iter().position(|field| field.name == "component") {
        let diagnostic =
            Diagnostic::of(&lang_codes::NAME_TAKEN, "\"component\" names the component itself where it is placed");
        problems.push(diagnostic.help("choose another name").at(path, fields[at].span));
        fields.remove(at);
    }
    fields::ready(path, &mut fields, conversion, symbols, problems);
    Component { name: name.to_owned(), label, about, fields, unreadable: None }
}

/// A tray of some content, and what is placed in it.
#[derive(Debug)]
pub struct PlacedTray {
    /// Its name.
    pub name: String,
    /// Where content says it.
    pub span: Span,
    /// What is in it, in order.
    pub placed: Vec<TrayItem>,
}

/// What is placed in a tray.
#[derive(Debug)]
pub enum TrayItem {
    /// A component, by its name, with the values of all its fields.
    Component(String, Vec<(Symbol, Datum)>),
    /// One that had to be left out, and why.
    LeftOut(String),
}

/// The values of a component's fields, by name.
type Values = Vec<(Symbol, Datum)>;

/// Reads what content places in trays.
pub(crate) struct Placing<'p> {
    /// The components there are.
    pub components: &'p [Component],
    /// The site, for links and Markdown in fields.
    pub site: &'p Site,
    /// How values are converted.
    pub conversion: &'p Conversion<'p>,
    /// The numbers of names.
    pub symbols: &'p Interner,
    /// The files, for components of themes outside the lineage.
    pub snapshot: &'p Snapshot,
    /// The lineage.
    pub lineage: &'p Lineage,
}

impl Placing<'_> {
    /// The trays of `content`; what is wrong in them is added to `problems`.
    pub fn trays(&self, content: &Content, problems: &mut Vec<Diagnostic>) -> Vec<PlacedTray> {
        let entries = &content.node.front().entries;
        let Some(entry) = entries.iter().find(|entry| &*entry.key == "trays") else { return Vec::new() };
        let path = content.path();
        let Some(trays) = entry.data.as_map() else {
            let diagnostic =
                Diagnostic::of(&lang_codes::WRONG_TYPE, "\"trays\" is a group of trays, each a list of components");
            problems.push(diagnostic.help("write main: and below it - component: NAME").at(path, entry.span));
            return Vec::new();
        };
        let tray = |(name, span, data): (&str, Span, &Data)| {
            let members = match data.as_list() {
                Some(members) => members,
                None => {
                    let diagnostic = Diagnostic::of(&lang_codes::WRONG_TYPE, "a tray is a list of components");
                    problems.push(diagnostic.help("write - component: NAME below it").at(path, data.span));
                    &[]
                }
            };
            let placed = members.iter().map(|member| self.placed(member, path, problems)).collect();
            PlacedTray { name: name.to_owned(), span, placed }
        };
        named(trays).map(tray).collect()
    }

    fn placed(&self, member: &Data, path: &Arc<str>, problems: &mut Vec<Diagnostic>) -> TrayItem {
        let entries = member.as_map().unwrap_or_default();
        let name = entries.iter().find(|entry| &*entry.key == "component");
        let mut left_out = |diagnostic: Diagnostic, span: Span| {
            let why = diagnostic.message.clone();
            problems.push(diagnostic.at(path, span));
            TrayItem::LeftOut(format!("{path}: {why}"))
        };
        let Some((name, span)) = name.and_then(|entry| Some((entry.data.as_text()?, entry.data.span))) else {
            let diagnostic = Diagnostic::of(&codes::MISSING_KEY, "what is placed here names no component");
            return left_out(diagnostic.help("write - component: NAME"), member.span);
        };
        let Some(component) = self.components.iter().find(|component| component.name == name) else {
            let names = self.components.iter().map(|component| component.name.as_str());
            let file = format!("components/{name}/component.html");
            let help = did_you_mean(name, names).unwrap_or_else(|| match self.lineage.outside(self.snapshot, &file) {
                Some(theme) => format!("only the theme {theme} has it, which is not in the lineage"),
                None => format!("write {file} in a theme of the lineage"),
            });
            let message = format!("no theme of the lineage has the component \"{name}\"");
            return left_out(Diagnostic::warning(&lang_codes::UNKNOWN_COMPONENT, message).help(help), span);
        };
        let file = format!("components/{name}/component.html");
        if self.lineage.nearest(&file).is_none() {
            let message = format!("the component \"{name}\" has no component.html, which pages need");
            return left_out(
                Diagnostic::warning(&lang_codes::UNKNOWN_COMPONENT, message).help(format!("write {file}")),
                span,
            );
        }
        if component.unreadable.is_some() {
            return TrayItem::Component(name.to_owned(), Values::new());
        }
        match self.values(component, entries, path) {
            Ok(values) => {
                problems.extend(self.lost_colors(component, entries, path));
                TrayItem::Component(name.to_owned(), values)
            }
            Err(problem) => left_out(problem.0, problem.1),
        }
    }

    /// Colours that a comment has swallowed.
    fn lost_colors(&self, component: &Component, entries: &[Entry], path: &Arc<str>) -> Vec<Diagnostic> {
        let text = self.snapshot.file(path).and_then(|node| node.text()).map_or("", |text| text);
        let given = component.fields.iter().filter_map(|field| {
            let entry = entries.iter().find(|entry| *entry.key == *field.name)?;
            Some(fields::colors_lost_to_comments(&field.of, &entry.data, text))
        });
        given.flatten().map(|span| fields::lost_color().at(path, span)).collect()
    }

    /// The values of a component's fields.
    pub(crate) fn values(
        &self,
        component: &Component,
        entries: &[Entry],
        path: &Arc<str>,
    ) -> Result<Values, Box<(Diagnostic, Span)>> {
        let names = || component.fields.iter().map(|field| field.name.as_str());
        let known = |entry: &&Entry| &*entry.key == "component" || names().any(|name| name == &*entry.key);
        if let Some(entry) = entries.iter().find(|entry| !known(entry)) {
            let help = did_you_mean(&entry.key, names()).unwrap_or_else(|| match component.fields.is_empty() {
                true => "it has no fields".to_owned(),
                false => format!("its fields are {}", names().collect::<Vec<_>>().join(", ")),
            });
            let message = format!("the component \"{}\" has no field \"{}\"", component.name, entry.key);
            return Err(Box::new((Diagnostic::of(&lang_codes::UNKNOWN_FIELD, message).help(help), entry.span)));
        }
        let mut values = Vec::new();
        for field in &component.fields {
            let given = entries.iter().find(|entry| *entry.key == *field.name);
            let value = match given.map(|entry| fields::convert(&field.of, &entry.data, self.conversion)) {
                Some(Err((span, message))) => {
                    let message = format!("\"{}\" of the component \"{}\": {message}", field.name, component.name);
                    return Err(Box::new((Diagnostic::of(&lang_codes::WRONG_TYPE, message), span)));
                }
                Some(Ok(value)) if !matches!(value, Datum::Nothing) => value,
                _ => field.default.clone(),
            };
            let value = self.site.settled(&field.of, value, path);
            values.extend(self.symbols.find(&field.name).map(|symbol| (symbol, value)));
        }
        Ok(values)
    }
}
