//! `[menus]`.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::schema::config::{Spanned, placed};
use crate::text::codes;
use crate::text::data::{Data, Entry};
use crate::text::reader::{DataReader, named};

/// A menu item as configured.
#[derive(Clone, Debug)]
pub struct MenuConfig {
    /// A reference or an address.
    pub to: Spanned,
    /// What it is called; else what the target is.
    pub label: Option<String>,
    /// The items below it.
    pub children: Vec<MenuConfig>,
}

/// Reads the menus, by name.
pub fn read(path: &Arc<str>, entry: &Entry, problems: &mut Vec<Diagnostic>) -> Vec<(String, Vec<MenuConfig>)> {
    let Some(menus) = entry.data.as_map() else {
        let diagnostic = Diagnostic::of(&lang_codes::WRONG_TYPE, "\"menus\" must be a group of menus");
        problems.push(diagnostic.help("write main = [ { to = \"page:visit\" } ] under it").at(path, entry.span));
        return Vec::new();
    };
    named(menus).map(|(name, span, data)| (name.to_owned(), read_items(path, data, span, problems))).collect()
}

fn read_items(path: &Arc<str>, data: &Data, span: Span, problems: &mut Vec<Diagnostic>) -> Vec<MenuConfig> {
    let Some(items) = data.as_list() else {
        problems.push(
            Diagnostic::of(&lang_codes::WRONG_TYPE, "a menu is a list of items")
                .help("write [ { to = \"page:visit\" } ]")
                .at(path, span),
        );
        return Vec::new();
    };
    items.iter().filter_map(|item| read_item(path, item, problems)).collect()
}

fn read_item(path: &Arc<str>, data: &Data, problems: &mut Vec<Diagnostic>) -> Option<MenuConfig> {
    let Some(entries) = data.as_map() else {
        problems.push(
            Diagnostic::of(&lang_codes::WRONG_TYPE, "a menu's item is a group of keys")
                .help("write { to = \"page:visit\" }")
                .at(path, data.span),
        );
        return None;
    };
    let mut reader = DataReader::new(path, "a menu's item", entries, data.span, problems);
    let to = reader.required("to", "\"page:visit\"");
    let label = reader.text("label");
    if let Some((_, span)) = label.filter(|(label, _)| label.trim().is_empty()) {
        let diagnostic = Diagnostic::warning(&codes::WRONG_VALUE, "this label is empty, so the item shows nothing");
        reader
            .problems
            .push(diagnostic.help("leave it out, and the title of what it leads to is shown").at(path, span));
    }
    let label = label.map(|(label, _)| label.to_owned());
    let children = reader.entry("children");
    reader.finish();
    let children = children.map(|entry| read_items(path, &entry.data, entry.span, problems)).unwrap_or_default();
    Some(MenuConfig { to: placed(to?), label, children })
}
