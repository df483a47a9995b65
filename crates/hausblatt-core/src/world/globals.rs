//! The global values as they are declared: what they are called, and what is known of them.

use std::collections::BTreeMap;

use hausblatt_lang::types::{Globals, RecordId, Type, Unlisted};

use crate::model::content::Section;
use crate::model::site::Site;
use crate::model::tables::Table;
use crate::schema::fields::Field;
use crate::text::names::GLOBALS;
use crate::themes::settings::Setting;

/// Declares the global values of a site and their types.
pub fn declare(site: &Site, settings: &[Setting]) -> Globals {
    let mut globals = Globals::default();
    let types = Types::declare(&mut globals, site, settings);
    for name in GLOBALS {
        let of = types.of(name);
        match *name {
            "site" | "collections" | "taxonomies" | "settings" | "tables" | "theme" | "today" => {
                globals.add_constant(name, of)
            }
            _ => globals.add(name, of),
        }
    }
    globals.let_set("classes");
    for (at, collection) in site.collections.iter().enumerate() {
        let name = &collection.config.name.text;
        if !GLOBALS.contains(&name.as_str()) {
            globals.add_constant(name, Type::List(Box::new(Type::Record(types.entries[at])), Some(types.collection)));
        }
    }
    globals
}

/// Names that come from configuration, which templates may work out instead of writing them.
pub(crate) fn names_of_data(site: &Site) -> Vec<String> {
    let menus = site.menus.iter().map(|(name, _)| name.clone());
    let collections = site.collections.iter().map(|collection| collection.config.name.text.clone());
    let keys = site.config.site.iter().map(|(name, _)| name.clone());
    let taxonomies = site.taxonomies.iter().map(|taxonomy| taxonomy.config.name.text.clone());
    menus.chain(collections).chain(keys).chain(taxonomies).collect()
}

struct Types {
    site: RecordId,
    request: RecordId,
    any_content: RecordId,
    listing: RecordId,
    search: RecordId,
    route: RecordId,
    error: RecordId,
    collections: RecordId,
    taxonomies: RecordId,
    settings: RecordId,
    tables: RecordId,
    menus: RecordId,
    theme: RecordId,
    collection: RecordId,
    entries: Vec<RecordId>,
}

fn typed(members: &[(&str, Type)]) -> Vec<(String, Type)> {
    members.iter().map(|(name, of)| ((*name).to_owned(), of.clone())).collect()
}

impl Types {
    fn declare(globals: &mut Globals, site: &Site, settings: &[Setting]) -> Self {
        let mut open = |name: &str| globals.record(name, Unlisted::Warning, Vec::new());
        let any_content = open("the content");
        let page = open("a page");
        let entries: Vec<RecordId> = site
            .collections
            .iter()
            .map(|collection| open(&format!("an entry of {}", collection.config.name.text)))
            .collect();
        let term = globals.record("a term", Unlisted::Error, Vec::new());
        globals.set_members(
            term,
            typed(&[
                ("id", Type::Text),
                ("label", Type::Text),
                ("address", Type::Text),
                ("image", Type::Any),
                ("parent", Type::Record(term)),
                ("children", Type::list(Type::Record(term))),
                ("items", Type::list(Type::Record(any_content))),
                ("count", Type::Number),
            ]),
        );
        let terms_of = |home: &str, members: &mut Vec<(String, Type)>| {
            let names = site.config.taxonomies_of(home).map(|taxonomy| taxonomy.name.text.clone());
            members.extend(names.map(|name| (name, Type::list(Type::Record(term)))));
        };
        let page_fields = known_fields(site, &site.config.page_fields, Section::Pages);
        let mut all_fields = page_fields.clone();
        let mut members = content_members(page, &page_fields);
        terms_of("pages", &mut members);
        globals.set_members(page, members);
        for (at, collection) in site.collections.iter().enumerate() {
            let fields = known_fields(
                site,
                &collection.config.fields,
                Section::Collection(u16::try_from(at).unwrap_or(u16::MAX)),
            );
            let mut members = content_members(entries[at], &fields);
            terms_of(&collection.config.name.text, &mut members);
            globals.set_members(entries[at], members);
            for (name, of) in fields {
                all_fields
                    .entry(name)
                    .and_modify(|other| {
                        if *other != of {
                            *other = Type::Any
                        }
                    })
                    .or_insert(of);
            }
        }
        let mut members = content_members(any_content, &all_fields);
        for taxonomy in &site.taxonomies {
            members.push((taxonomy.config.name.text.clone(), Type::list(Type::Record(term))));
        }
        globals.set_members(any_content, members);
        let link = globals.record("a link", Unlisted::Error, typed(&[("address", Type::Text), ("title", Type::Text)]));
        let page_of = globals.record(
            "a listing's page",
            Unlisted::Error,
            typed(&[("number", Type::Number), ("address", Type::Text), ("here", Type::Bool)]),
        );
        let item = globals.record("a menu's item", Unlisted::Error, Vec::new());
        let items = Type::list(Type::Record(item));
        globals.set_members(
            item,
            typed(&[
                ("label", Type::Text),
                ("address", Type::Text),
                ("children", items.clone()),
                ("here", Type::Bool),
                ("inside", Type::Bool),
            ]),
        );
        let mut site_members = typed(&[("title", Type::Text), ("address", Type::Text), ("language", Type::Text)]);
        site_members.extend(site.config.site.iter().map(|(name, _)| (name.clone(), Type::Any)));
        let menus = site.menus.iter().map(|(name, _)| (name.clone(), items.clone())).collect();
        let collection_members = typed(&[
            ("label", Type::Text),
            ("address", Type::Text),
            ("scheduled", Type::list(Type::Record(any_content))),
        ]);
        let terms = globals.record("a taxonomy", Unlisted::Error, typed(&[("label", Type::Text)]));
        let taxonomies = site.taxonomies.iter().map(|taxonomy| {
            let of = Type::List(Box::new(Type::Record(term)), Some(terms));
            (taxonomy.config.name.text.clone(), of)
        });
        let taxonomies = taxonomies.collect();
        let row = |table: &Table| match table.columns.as_slice() {
            [] => Type::Any,
            columns => {
                let members = columns.iter().map(|column| (column.clone(), Type::Any)).collect();
                let name = format!("a row of {}", table.name);
                Type::list(Type::Record(globals.record(&name, Unlisted::Lacking("column"), members)))
            }
        };
        let mut row = row;
        let tables = site.tables.iter().map(|table| (table.name.clone(), row(table))).collect();
        let period = globals.record(
            "the period",
            Unlisted::Error,
            typed(&[
                ("year", Type::Number),
                ("month", Type::Number),
                ("day", Type::Number),
                ("date", Type::Date),
                ("address", Type::Text),
            ]),
        );
        Self {
            site: globals.record("the site", Unlisted::Error, site_members),
            request: globals.record(
                "the request",
                Unlisted::Error,
                typed(&[
                    ("address", Type::Text),
                    ("kind", Type::Text),
                    ("view", Type::Text),
                    ("format", Type::Text),
                    ("page", Type::Number),
                    ("status", Type::Number),
                    ("title", Type::Text),
                    ("robots", Type::Text),
                    ("template", Type::Text),
                    ("layout", Type::Text),
                    ("theme", Type::Text),
                ]),
            ),
            listing: globals.record(
                "the listing",
                Unlisted::Error,
                typed(&[
                    ("title", Type::Text),
                    ("items", Type::list(Type::Record(any_content))),
                    ("page", Type::Number),
                    ("total", Type::Number),
                    ("pages", Type::list(Type::Record(page_of))),
                    ("previous", Type::Text),
                    ("next", Type::Text),
                    ("collection", Type::Text),
                    ("term", Type::Record(term)),
                    ("period", Type::Record(period)),
                ]),
            ),
            search: globals.record(
                "the search",
                Unlisted::Error,
                typed(&[("query", Type::Text), ("items", Type::list(Type::Record(any_content)))]),
            ),
            route: globals.record(
                "the route",
                Unlisted::Error,
                typed(&[("name", Type::Text), ("title", Type::Text), ("row", Type::Any)]),
            ),
            taxonomies: globals.record("the taxonomies", Unlisted::Lacking("taxonomy"), taxonomies),
            settings: globals.record(
                "the lineage",
                Unlisted::Error,
                settings.iter().map(|setting| (setting.field.name.clone(), setting.field.type_of())).collect(),
            ),
            tables: globals.record("the tables", Unlisted::Lacking("table"), tables),
            error: globals.record(
                "the error",
                Unlisted::Error,
                typed(&[
                    ("status", Type::Number),
                    ("title", Type::Text),
                    ("path", Type::Text),
                    ("nearest", Type::list(Type::Record(link))),
                ]),
            ),
            collections: globals.record("the collections", Unlisted::Fine, Vec::new()),
            menus: globals.record("the menus", Unlisted::Lacking("menu"), menus),
            theme: globals.record(
                "the theme",
                Unlisted::Error,
                typed(&[("name", Type::Text), ("version", Type::Text)]),
            ),
            collection: globals.record("a collection", Unlisted::Error, collection_members),
            any_content,
            entries,
        }
    }

    fn of(&self, name: &str) -> Type {
        match name {
            "site" => Type::Record(self.site),
            "request" => Type::Record(self.request),
            "classes" => Type::list(Type::Text),
            "content" => Type::Record(self.any_content),
            "listing" => Type::Record(self.listing),
            "search" => Type::Record(self.search),
            "route" => Type::Record(self.route),
            "error" => Type::Record(self.error),
            "taxonomies" => Type::Record(self.taxonomies),
            "settings" => Type::Record(self.settings),
            "tables" => Type::Record(self.tables),
            "collections" => Type::Record(self.collections),
            "menus" => Type::Record(self.menus),
            "theme" => Type::Record(self.theme),
            "today" => Type::Date,
            _ => Type::Any,
        }
    }
}

/// The fields that a declaration or any content of this home knows.
fn known_fields(site: &Site, declared: &[Field], home: Section) -> BTreeMap<String, Type> {
    let mut fields: BTreeMap<String, Type> =
        declared.iter().map(|field| (field.name.clone(), field.type_of())).collect();
    let mut seen: Vec<*const hausblatt_lang::value::shape::Shape> = Vec::new();
    for content in site.contents.iter().filter(|content| content.home == home) {
        let shape = std::sync::Arc::as_ptr(&content.shape);
        if seen.contains(&shape) {
            continue;
        }
        seen.push(shape);
        for entry in &content.node.front().entries {
            let taxonomy = site.taxonomy(&entry.key).is_some();
            let known = taxonomy
                || crate::text::names::KEYS.contains(&&*entry.key)
                || crate::text::names::BUILT_IN.contains(&&*entry.key);
            if !known {
                fields.entry(entry.key.to_string()).or_insert(Type::Any);
            }
        }
    }
    fields
}

fn content_members(own: RecordId, fields: &BTreeMap<String, Type>) -> Vec<(String, Type)> {
    let same = Type::Record(own);
    let mut members = typed(&[
        ("id", Type::Text),
        ("address", Type::Text),
        ("kind", Type::Text),
        ("title", Type::Text),
        ("body", Type::Html),
        ("summary", Type::Text),
        ("date", Type::Date),
        ("updated", Type::Date),
        ("image", Type::Any),
        ("authors", Type::list(Type::Text)),
        ("template", Type::Text),
        ("robots", Type::Text),
        ("parent", same.clone()),
        ("children", Type::list(same.clone())),
        ("ancestors", Type::list(same.clone())),
        ("collection", Type::Text),
        ("older", same.clone()),
        ("newer", same),
    ]);
    members.extend(fields.iter().map(|(name, of)| (name.clone(), of.clone())));
    members
}
