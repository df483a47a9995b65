//! The global values as they are declared: what they are called, and what is known of them.

use std::collections::BTreeMap;
use std::sync::Arc;

use hausblatt_lang::text::source::{Place, Span};
use hausblatt_lang::types::{Globals, RecordId, Type, Unlisted};
use hausblatt_lang::value::datum::{Datum, DatumList, DatumRecord};
use hausblatt_lang::value::shape::Interner;
use rustc_hash::FxHashSet;

use crate::model::content::{Content, Section};
use crate::model::site::Site;
use crate::model::tables::Table;
use crate::model::taxonomy::Taxonomy;
use crate::schema::fields::{Field, FieldType};
use crate::text::names::GLOBALS;
use crate::themes::settings::Setting;

/// Which record types have what a site names among their members.
#[derive(Clone, Debug, Default)]
pub struct Sorts {
    /// `settings`
    pub settings: Option<RecordId>,
    /// `menus`
    pub menus: Option<RecordId>,
    /// `tables`
    pub tables: Option<RecordId>,
    /// `collections`
    pub collections: Option<RecordId>,
    /// `taxonomies`
    pub taxonomies: Option<RecordId>,
    /// `route`
    pub route: Option<RecordId>,
    /// `request`
    pub request: Option<RecordId>,
    /// The views of an entry.
    pub views: Option<RecordId>,
    /// A page.
    pub page: Option<RecordId>,
    /// Content of which nothing else is known.
    pub any_content: Option<RecordId>,
    /// An entry of each collection, in their order.
    pub entries: Vec<RecordId>,
    /// A term of each taxonomy, in their order.
    pub terms: Vec<RecordId>,
}

/// Declares the global values of a site and their types.
pub fn declare(site: &Site, settings: &[Setting], symbols: &Interner) -> (Globals, Sorts) {
    let mut globals = Globals::default();
    let types = Types::declare(&mut globals, site, settings, symbols);
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
            globals.add_of_site(name, types.entries_of(at));
        }
    }
    let sorts = Sorts {
        settings: Some(types.settings),
        menus: Some(types.menus),
        tables: Some(types.tables),
        collections: Some(types.collections),
        taxonomies: Some(types.taxonomies),
        route: Some(types.route),
        request: Some(types.request),
        views: Some(types.views),
        page: Some(types.page),
        any_content: Some(types.any_content),
        entries: types.entries,
        terms: types.terms,
    };
    (globals, sorts)
}

/// Names that come from configuration, which templates may work out instead of writing them.
pub(crate) fn names_of_data(site: &Site) -> Vec<String> {
    let menus = site.menus.iter().map(|(name, _)| name.clone());
    let collections = site.collections.iter().map(|collection| collection.config.name.text.clone());
    let keys = site.config.site.iter().map(|(name, _)| name.clone());
    let taxonomies = site.taxonomies.iter().map(|taxonomy| taxonomy.config.name.text.clone());
    let views = site.collections.iter().flat_map(|collection| &collection.config.views).map(|view| view.text.clone());
    menus.chain(collections).chain(keys).chain(taxonomies).chain(views).collect()
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
    views: RecordId,
    page: RecordId,
    entries: Vec<RecordId>,
    terms: Vec<RecordId>,
}

fn typed(members: &[(&str, Type)]) -> Vec<(String, Type)> {
    members.iter().map(|(name, of)| ((*name).to_owned(), of.clone())).collect()
}

impl Types {
    fn declare(globals: &mut Globals, site: &Site, settings: &[Setting], symbols: &Interner) -> Self {
        let image = typed(&[
            ("address", Type::Text),
            ("path", Type::Text),
            ("alt", Type::Text),
            ("width", Type::Number),
            ("height", Type::Number),
        ]);
        let image = globals.record("an image", Unlisted::Error, image);
        globals.set_image(image);
        let heading = typed(&[("level", Type::Number), ("id", Type::Text), ("text", Type::Text)]);
        let heading = globals.record("a heading", Unlisted::Error, heading);
        let all_views = site.collections.iter().flat_map(|collection| &collection.config.views);
        let views: BTreeMap<String, Type> = all_views.map(|view| (view.text.clone(), Type::Text)).collect();
        let views = globals.record("the views", Unlisted::Lacking("view"), views.into_iter().collect());
        let parts = Parts { image, heading, views };
        let mut open = |name: &str| globals.record(name, Unlisted::Warning, Vec::new());
        let any_content = open("the content");
        let page = open("a page");
        let entries: Vec<RecordId> = site
            .collections
            .iter()
            .map(|collection| open(&format!("an entry of {}", collection.config.name.text)))
            .collect();
        // Fields may name content of any sort.
        globals.set_content("page", page);
        for (collection, entry) in site.collections.iter().zip(&entries) {
            globals.set_content(&format!("entry:{}", collection.config.name.text), *entry);
        }
        let terms: Vec<RecordId> =
            site.taxonomies.iter().map(|taxonomy| term(globals, taxonomy, any_content, image)).collect();
        let term_of = |name: &str| {
            let at = site.taxonomies.iter().position(|taxonomy| taxonomy.config.name.text == name);
            at.map_or(Type::Any, |at| Type::Record(terms[at]))
        };
        let terms_of = |home: &str, members: &mut Vec<(String, Type)>| {
            let names = site.config.taxonomies_of(home).map(|taxonomy| taxonomy.name.text.clone());
            members.extend(names.map(|name| {
                let of = Type::list(term_of(&name));
                (name, of)
            }));
        };
        let shapes = shapes_of_content(site);
        let page_fields = known_fields(globals, site, &site.config.page_fields, (Section::Pages, &shapes));
        let mut all_fields = page_fields.clone();
        let mut members = content_members(page, &parts, &page_fields);
        terms_of("pages", &mut members);
        globals.set_members(page, members);
        for (at, collection) in site.collections.iter().enumerate() {
            let home = Section::Collection(u16::try_from(at).unwrap_or(u16::MAX));
            let fields = known_fields(globals, site, &collection.config.fields, (home, &shapes));
            let mut members = content_members(entries[at], &parts, &fields);
            terms_of(&collection.config.name.text, &mut members);
            globals.set_members(entries[at], members);
            let span = collection.config.name.span;
            globals.declared_at(entries[at], Place { path: site.config.path.clone(), span });
            for (name, of) in fields {
                all_fields
                    .entry(name)
                    .and_modify(|other| *other = std::mem::replace(other, Type::Any).join(of.clone()))
                    .or_insert(of);
            }
        }
        let mut members = content_members(any_content, &parts, &all_fields);
        for taxonomy in site.taxonomies.iter() {
            let name = &taxonomy.config.name.text;
            members.push((name.clone(), Type::list(term_of(name))));
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
        for (name, value) in &site.config.site {
            let of = of_data(globals, symbols, &format!("site.{name}"), &[value]);
            site_members.push((name.clone(), of));
        }
        let menus = site.menus.iter().map(|(name, _)| (name.clone(), items.clone())).collect();
        let collection_members = typed(&[
            ("label", Type::Text),
            ("address", Type::Text),
            ("scheduled", Type::list(Type::Record(any_content))),
        ]);
        let taxonomy_type = globals.record("a taxonomy", Unlisted::Error, typed(&[("label", Type::Text)]));
        let taxonomies = site.taxonomies.iter().map(|taxonomy| {
            let name = &taxonomy.config.name.text;
            (name.clone(), Type::List(Box::new(term_of(name)), Some(taxonomy_type)))
        });
        let taxonomies = taxonomies.collect();
        let mut row = |table: &Table| match table.columns.as_slice() {
            [] => Type::Any,
            columns => {
                let members = columns.iter().map(|column| (column.clone(), Type::Any)).collect();
                let name = format!("a row of {}", table.name);
                let id = globals.record(&name, Unlisted::Lacking("column"), members);
                globals.declared_at(id, Place { path: table.path.clone(), span: Span::default() });
                Type::list(Type::Record(id))
            }
        };
        let tables: Vec<(String, Type)> = site.tables.iter().map(|table| (table.name.clone(), row(table))).collect();
        let of_routes = site.routes.iter().filter_map(|route| route.config.each.as_ref());
        let rows = of_routes.map(|each| match tables.iter().find(|(name, _)| *name == each.text) {
            Some((_, Type::List(row, _))) => (**row).clone(),
            _ => Type::Any,
        });
        let route_row = rows.reduce(Type::join).unwrap_or(Type::Any);
        let queries = site.routes.iter().flat_map(|route| &route.config.query);
        let queries: BTreeMap<String, Type> = queries.map(|name| (name.clone(), Type::Text)).collect();
        let query = globals.record(
            "the query",
            Unlisted::Lacking("name in the query of a route"),
            queries.into_iter().collect(),
        );
        let mut values: BTreeMap<&str, Vec<&Datum>> = BTreeMap::new();
        for (name, value) in site.routes.iter().flat_map(|route| &route.config.values) {
            values.entry(name).or_default().push(value);
        }
        let values = values.into_iter().map(|(name, values)| {
            (name.to_owned(), of_data(globals, symbols, &format!("route.values.{name}"), &values))
        });
        let values = values.collect();
        let route_values =
            Type::Record(globals.record("the values of a route", Unlisted::Lacking("value of a route"), values));
        let any_term = terms.iter().map(|&term| Type::Record(term)).reduce(Type::join).unwrap_or(Type::Any);
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
        let setting_members = settings
            .iter()
            .map(|it| (it.field.name.clone(), field_type(globals, &it.field.of, &it.field.name, None)))
            .collect();
        let collection = globals.record("a collection", Unlisted::Error, collection_members);
        let collections = site.collections.iter().zip(&entries).map(|(it, &entry)| {
            (it.config.name.text.clone(), Type::List(Box::new(Type::Record(entry)), Some(collection)))
        });
        let collections = collections.collect();
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
                    ("query", Type::Record(query)),
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
                    ("feed", Type::Text),
                    ("term", any_term),
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
                typed(&[("name", Type::Text), ("title", Type::Text), ("row", route_row), ("values", route_values)]),
            ),
            taxonomies: globals.record("the taxonomies", Unlisted::Lacking("taxonomy"), taxonomies),
            settings: globals.record("the lineage", Unlisted::Error, setting_members),
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
            collections: globals.record("the collections", Unlisted::Lacking("collection"), collections),
            menus: globals.record("the menus", Unlisted::Lacking("menu"), menus),
            theme: globals.record(
                "the theme",
                Unlisted::Error,
                typed(&[("name", Type::Text), ("version", Type::Text)]),
            ),
            collection,
            any_content,
            views,
            page,
            entries,
            terms,
        }
    }

    /// The entries of a collection, which has members of its own.
    fn entries_of(&self, at: usize) -> Type {
        Type::List(Box::new(Type::Record(self.entries[at])), Some(self.collection))
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

/// The terms of a taxonomy.
fn term(globals: &mut Globals, taxonomy: &Taxonomy, content: RecordId, image: RecordId) -> RecordId {
    let term = globals.record("a term", Unlisted::Error, Vec::new());
    globals.set_members(
        term,
        typed(&[
            ("id", Type::Text),
            ("label", Type::Text),
            ("address", Type::Text),
            ("image", Type::Record(image)),
            ("parent", Type::Record(term)),
            ("children", Type::list(Type::Record(term))),
            ("items", Type::list(Type::Record(content))),
            ("count", Type::Number),
        ]),
    );
    let names = taxonomy.terms.iter().map(|term| (term.id.to_string(), term.label.to_string()));
    globals.set_called(term, format!("term of {} called", taxonomy.config.name.text), names.collect());
    term
}

/// What the language knows of fields that the file at `path` declares.
pub(crate) fn typed_fields(globals: &mut Globals, fields: &[Field], path: &Arc<str>) -> Vec<(String, Type)> {
    let of =
        |field: &Field| (field.name.clone(), field_type(globals, &field.of, &field.name, Some((path, field.span))));
    fields.iter().map(of).collect()
}

/// What the language knows of the values of a field, which may be declared at a place that is known.
fn field_type(globals: &mut Globals, of: &FieldType, name: &str, declared: Option<(&Arc<str>, Span)>) -> Type {
    match of {
        FieldType::Number(..) => Type::Number,
        FieldType::YesNo => Type::Bool,
        FieldType::Date => Type::Date,
        FieldType::Rich => Type::Html,
        FieldType::Text | FieldType::Color | FieldType::Choice(_) | FieldType::Link => Type::Text,
        FieldType::Image => globals.image(),
        FieldType::Page => globals.content("page"),
        FieldType::Entry(collection) => globals.content(&format!("entry:{collection}")),
        FieldType::List(of) => Type::list(field_type(globals, of, name, declared)),
        FieldType::Group(group) => {
            let of = |field: &Field| (field.name.clone(), field_type(globals, &field.of, &field.name, declared));
            let members = group.fields.iter().map(of).collect();
            let id = globals.record(&format!("a member of {name}"), Unlisted::Error, members);
            if let Some((path, span)) = declared {
                globals.declared_at(id, Place { path: path.clone(), span });
            }
            Type::Record(id)
        }
        FieldType::Unknown => Type::Any,
    }
}

/// What is known of data that a site writes as it likes: which members its records have. Records in a list count as of
/// one sort.
fn of_data(globals: &mut Globals, symbols: &Interner, name: &str, values: &[&Datum]) -> Type {
    let all = |is: fn(&Datum) -> bool| !values.is_empty() && values.iter().all(|value| is(value));
    if all(|value| matches!(value, Datum::List(_))) {
        let members: Vec<&Datum> = values
            .iter()
            .flat_map(|value| match value {
                Datum::List(DatumList(members)) => members.iter(),
                _ => [].iter(),
            })
            .collect();
        return Type::list(of_data(globals, symbols, &format!("a member of {name}"), &members));
    }
    if !all(|value| matches!(value, Datum::Record(_))) {
        return Type::Any;
    }
    let mut members: BTreeMap<String, Vec<&Datum>> = BTreeMap::new();
    for value in values {
        let Datum::Record(DatumRecord { shape, values, .. }) = value else { continue };
        for (symbol, value) in shape.names().iter().zip(values.iter()) {
            members.entry(symbols.name(*symbol).to_owned()).or_default().push(value);
        }
    }
    let members = members.into_iter().map(|(key, values)| {
        let of = of_data(globals, symbols, &format!("{name}.{key}"), &values);
        (key, of)
    });
    let members = members.collect();
    Type::Record(globals.record(name, Unlisted::Error, members))
}

/// For each home, content of each set of fields that there is.
fn shapes_of_content(site: &Site) -> Vec<&Content> {
    let mut last = None;
    let mut seen = FxHashSet::default();
    let mut found = Vec::new();
    for content in site.contents.iter() {
        let is = (content.home, Arc::as_ptr(&content.shape));
        // Most content is like the one before it.
        if last != Some(is) && seen.insert(is) {
            found.push(content);
        }
        last = Some(is);
    }
    found
}

/// The fields that a declaration or any content of this home knows.
fn known_fields(
    globals: &mut Globals,
    site: &Site,
    declared: &[Field],
    (home, shapes): (Section, &[&Content]),
) -> BTreeMap<String, Type> {
    let mut fields: BTreeMap<String, Type> = typed_fields(globals, declared, &site.config.path).into_iter().collect();
    for content in shapes.iter().filter(|content| content.home == home) {
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

/// The sorts of record that content has among its members.
struct Parts {
    image: RecordId,
    heading: RecordId,
    views: RecordId,
}

fn content_members(own: RecordId, parts: &Parts, fields: &BTreeMap<String, Type>) -> Vec<(String, Type)> {
    let same = Type::Record(own);
    let built_in = typed(&[
        ("id", Type::Text),
        ("address", Type::Text),
        ("kind", Type::Text),
        ("title", Type::Text),
        ("body", Type::Html),
        ("summary", Type::Text),
        ("date", Type::Date),
        ("updated", Type::Date),
        ("image", Type::Record(parts.image)),
        ("authors", Type::list(Type::Text)),
        ("template", Type::Text),
        ("robots", Type::Text),
        ("parent", same.clone()),
        ("children", Type::list(same.clone())),
        ("ancestors", Type::list(same.clone())),
        ("collection", Type::Text),
        ("older", same.clone()),
        ("newer", same),
        ("headings", Type::list(Type::Record(parts.heading))),
        ("minutes", Type::Number),
        ("views", Type::Record(parts.views)),
    ]);
    let mut members: Vec<(String, Type)> =
        built_in.into_iter().filter(|(name, _)| !fields.contains_key(name)).collect();
    members.extend(fields.iter().map(|(name, of)| (name.clone(), of.clone())));
    members
}
