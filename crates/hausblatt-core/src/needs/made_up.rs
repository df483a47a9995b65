//! A small made-up site that has all that a lineage says it needs.

use std::collections::BTreeMap;

use serde_json::{Map, Value as Json};
use toml_edit::{Array, DocumentMut, InlineTable, Item, Table, value};

use crate::analysis::needs::{Need, declared};
use crate::files::Snapshot;
use crate::rehearse::{ContentText, DRAWING, drawings, text, toml, usual};
use crate::schema::config::{self, placeholders};
use crate::text::slug::title_of;
use crate::world::{Unloadable, World};

/// The body of each made-up page and entry.
const WORDS: &str = "Made up, so that there is something to see.\n\n## A heading\n\nAnd more.\n";

/// The files of a site with the lineage's themes that has what their manifests say they need, by path; those of the themes and
/// of media that are there already are not among them.
///
/// # Errors
/// Why no site can be loaded of it.
pub fn made_up_site(world: &World) -> Result<BTreeMap<String, String>, Unloadable> {
    let mut files: BTreeMap<String, String> = BTreeMap::new();
    let needs: Vec<Need> = world.lineage.themes.iter().flat_map(|theme| declared(theme).0.into_keys()).collect();
    let ids = |wanted: &dyn Fn(&Need) -> Option<String>| needs.iter().filter_map(wanted).collect::<Vec<String>>();
    let pages = ids(&|need| match need {
        Need::Page(id) => Some(id.clone()),
        Need::Address(address) => Some(address.trim_matches('/').to_owned()).filter(|id| !id.is_empty()),
        _ => None,
    });
    let document = configuration(world, &needs);
    files.insert(config::FILE.to_owned(), document.to_string());
    for id in pages.iter().map(String::as_str).chain(["home", "second"]) {
        let page = ContentText::new(WORDS).with("title", Some(text(title_of(id))));
        files.insert(format!("content/pages/{id}.md"), page.written());
    }
    for need in &needs {
        match need {
            Need::Table(name) => {
                let rows = rows(world, name);
                let text = serde_json::to_string_pretty(&rows).unwrap_or_default();
                files.insert(format!("tables/{name}.json"), format!("{text}\n"));
            }
            Need::Media(path) if path.ends_with(".svg") && world.snapshot.file(&format!("media/{path}")).is_none() => {
                files.insert(format!("media/{path}"), drawings()[0].1.clone());
            }
            _ => {}
        }
    }
    files.insert(DRAWING.to_owned(), drawings()[0].1.clone());
    let first = World::load(with(world, &files), world.asking.clone())?;
    for (path, text) in entries(&first, &needs) {
        files.insert(path, text);
    }
    Ok(files)
}

/// The files of the lineage's themes and of media, with these.
pub(super) fn with(world: &World, files: &BTreeMap<String, String>) -> Snapshot {
    let is_of_theme =
        |path: &str| world.lineage.themes.iter().any(|theme| path.starts_with(&format!("themes/{}/", theme.name)));
    let mut snapshot = world.snapshot.keeping(|node| is_of_theme(&node.path) || node.path.starts_with("media/"));
    for (path, text) in files {
        snapshot.put(path, Some(text));
    }
    snapshot
}

fn item(to: &str) -> toml_edit::Value {
    let mut item = InlineTable::new();
    item.insert("to", to.into());
    item.into()
}

/// `hausblatt.toml`: what the manifests say, and what every site has.
fn configuration(world: &World, needs: &[Need]) -> DocumentMut {
    let mut document = DocumentMut::new();
    let mut site = Table::new();
    site.insert("title", value("A made-up site"));
    site.insert("address", value("https://seeds.example"));
    site.insert("language", value("en"));
    site.insert("theme", value(world.lineage.active().name.as_str()));
    for need in needs {
        if let Need::SiteKey(name) = need {
            site.insert(name, value("Made up"));
        }
    }
    document.insert("site", Item::Table(site));
    let mut front = Table::new();
    front.insert("page", value("home"));
    document.insert("front", Item::Table(front));
    for theme in world.lineage.themes.iter().rev() {
        let text =
            world.snapshot.file(&theme.manifest).and_then(|node| node.text().cloned()).unwrap_or_else(|| "".into());
        let Ok(manifest) = text.parse::<DocumentMut>() else { continue };
        for group in ["pages", "collections", "taxonomies", "routes", "search"] {
            if let Some(item) = manifest.get("needs").and_then(|needs| needs.get(group)) {
                merge(document.as_table_mut(), group, item);
            }
        }
    }
    // What has no address in the manifests gets one, so that its pages are there to be seen.
    if let Some(collections) = document.get_mut("collections").and_then(Item::as_table_mut) {
        for (name, item) in collections.iter_mut() {
            let Some(table) = item.as_table_mut() else { continue };
            if !table.contains_key("address") {
                table.insert("address", value(format!("/{}/{{slug}}/", name.get())));
            }
            table.set_implicit(false);
        }
    }
    // Templates for any collection are to be seen, too.
    if document.get("collections").is_none() {
        let mut notes = Table::new();
        notes.insert("address", value("/notes/{slug}/"));
        notes.insert("listing", value("/notes/"));
        let mut collections = Table::new();
        collections.set_implicit(true);
        collections.insert("notes", Item::Table(notes));
        document.insert("collections", Item::Table(collections));
    }
    let mut menus = Table::new();
    for need in needs {
        if let Need::Menu(name) = need {
            menus.insert(name, value([item("page:home"), item("page:second")].into_iter().collect::<Array>()));
        }
    }
    if !menus.is_empty() {
        document.insert("menus", Item::Table(menus));
    }
    let mut settings = Table::new();
    for setting in world.settings.iter().filter(|setting| setting.field.is_required) {
        if let Some(given) = usual(world, &setting.field.of).as_ref().and_then(toml) {
            settings.insert(&setting.field.name, value(given));
        }
    }
    if !settings.is_empty() {
        document.insert("settings", Item::Table(settings));
    }
    document
}

/// Puts an item into a table; tables that are there in both are joined.
fn merge(table: &mut Table, key: &str, item: &Item) {
    match (table.get_mut(key).and_then(Item::as_table_mut), item.as_table()) {
        (Some(there), Some(more)) => {
            for (key, item) in more {
                merge(there, key, item);
            }
        }
        (None, Some(more)) => {
            let mut own = Table::new();
            own.set_implicit(more.is_implicit());
            for (key, item) in more {
                merge(&mut own, key, item);
            }
            table.insert(key, Item::Table(own));
        }
        _ => drop(table.insert(key, item.clone())),
    }
}

/// How many rows and entries are made up.
const COUNT: usize = 3;
const NAMES: [&str; COUNT] = ["first", "second", "third"];

/// The rows of a table with its columns.
fn rows(world: &World, table: &str) -> Vec<Map<String, Json>> {
    let mut columns: BTreeMap<String, String> = BTreeMap::new();
    let mut keys: Vec<String> = Vec::new();
    for theme in &world.lineage.themes {
        let groups = theme.needs.iter().flatten();
        for entry in groups {
            let members = entry.data.as_map().unwrap_or_default();
            match &*entry.key {
                "tables" => {
                    let own = members.iter().filter(|member| *member.key == *table);
                    let own = own.flat_map(|member| member.data.as_map().unwrap_or_default());
                    columns.extend(
                        own.filter_map(|column| Some((column.key.to_string(), column.data.as_text()?.to_owned()))),
                    );
                }
                "routes" => {
                    for route in members {
                        let get = |key: &str| {
                            let inside = route.data.as_map().unwrap_or_default();
                            inside.iter().find(|entry| &*entry.key == key).and_then(|entry| entry.data.as_text())
                        };
                        if get("each") == Some(table) {
                            let names = placeholders(get("address").unwrap_or("")).map(|(names, _)| names);
                            keys.extend(names.unwrap_or_default().into_iter().map(str::to_owned));
                        }
                    }
                }
                _ => {}
            }
        }
    }
    let value = |name: &str, word: &str, at: usize| match word {
        _ if keys.iter().any(|key| key == name) => Json::from(NAMES[at]),
        "number" => Json::from(at + 1),
        "yes-no" => Json::from(at == 0),
        "list" => Json::from(vec![NAMES[at]]),
        _ => Json::from(title_of(NAMES[at])),
    };
    let row = |at: usize| {
        let mut row: Map<String, Json> =
            columns.iter().map(|(name, word)| (name.clone(), value(name, word, at))).collect();
        for key in &keys {
            row.entry(key.clone()).or_insert_with(|| Json::from(NAMES[at]));
        }
        row
    };
    (0..COUNT).map(row).collect()
}

/// Entries of each collection, with all fields.
fn entries(world: &World, needs: &[Need]) -> Vec<(String, String)> {
    let mut found = Vec::new();
    for collection in world.site.collections.iter() {
        let name = &collection.config.name.text;
        let wanted = needs.iter().filter_map(|need| match need {
            Need::Entry(of, id) if of == name => Some(id.as_str()),
            _ => None,
        });
        for (at, id) in NAMES.into_iter().chain(wanted).enumerate() {
            let said = |words: &str| Some(text(words));
            let mut made = ContentText::new(WORDS);
            made = made.with("title", said(&format!("{} of {name}", title_of(id))));
            made = made.with("date", said(&format!("2026-03-{:02}", at + 1)));
            made = made.with("image", usual(world, &crate::schema::fields::FieldType::Image));
            for taxonomy in world.site.config.taxonomies_of(name) {
                let term = taxonomy.terms.get(at % taxonomy.terms.len().max(1)).map_or("made-up", |term| &term.id.text);
                made = made.with(&taxonomy.name.text, said(term));
            }
            for field in &collection.config.fields {
                made = made.with(&field.name, usual(world, &field.of));
            }
            found.push((format!("content/{name}/{id}.md"), made.written()));
        }
    }
    found
}
