//! The global values: what they are called, what is known of them, and what they are for a request.

use std::collections::BTreeMap;

use hausblatt_lang::moment::Moment;
use hausblatt_lang::types::{Globals, RecordId, Type, Unlisted};
use hausblatt_lang::value::{Scratch, Value};

use crate::content::{Content, Home};
use crate::fields::Field;
use crate::host::content::{self, CollectionSeq, Collections};
use crate::host::listing::ListingRecord;
use crate::host::menu::Menus;
use crate::host::request::{ErrorRecord, RequestRecord, SiteRecord, ThemeRecord};
use crate::names::GLOBALS;
use crate::request::{Kind, Request};
use crate::resolution::Resolution;
use crate::site::Site;
use crate::world::World;

/// Declares the global values of a site and their types.
pub fn declare(site: &Site) -> Globals {
    let mut globals = Globals::default();
    let types = Types::declare(&mut globals, site);
    for name in GLOBALS {
        let of = types.of(name);
        match *name {
            "site" | "collections" | "theme" | "today" => globals.add_constant(name, of),
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
pub fn names_of_data(site: &Site) -> Vec<String> {
    let menus = site.menus.iter().map(|(name, _)| name.clone());
    let collections = site.collections.iter().map(|collection| collection.config.name.text.clone());
    let keys = site.config.site.iter().map(|(name, _)| name.clone());
    menus.chain(collections).chain(keys).collect()
}

struct Types {
    site: RecordId,
    request: RecordId,
    any_content: RecordId,
    listing: RecordId,
    error: RecordId,
    collections: RecordId,
    menus: RecordId,
    theme: RecordId,
    collection: RecordId,
    entries: Vec<RecordId>,
}

fn typed(members: &[(&str, Type)]) -> Vec<(String, Type)> {
    members.iter().map(|(name, of)| ((*name).to_owned(), of.clone())).collect()
}

impl Types {
    fn declare(globals: &mut Globals, site: &Site) -> Self {
        let mut open = |name: &str| globals.record(name, Unlisted::Warning, Vec::new());
        let any_content = open("the content");
        let page = open("a page");
        let entries: Vec<RecordId> = site
            .collections
            .iter()
            .map(|collection| open(&format!("an entry of {}", collection.config.name.text)))
            .collect();
        let page_fields = known_fields(site, &site.config.page_fields, Home::Pages);
        let mut all_fields = page_fields.clone();
        globals.set_members(page, content_members(page, &page_fields));
        for (at, collection) in site.collections.iter().enumerate() {
            let fields =
                known_fields(site, &collection.config.fields, Home::Collection(u16::try_from(at).unwrap_or(u16::MAX)));
            globals.set_members(entries[at], content_members(entries[at], &fields));
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
        globals.set_members(any_content, content_members(any_content, &all_fields));
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
                    ("term", Type::Any),
                    ("period", Type::Any),
                ]),
            ),
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
            "error" => Type::Record(self.error),
            "collections" => Type::Record(self.collections),
            "menus" => Type::Record(self.menus),
            "theme" => Type::Record(self.theme),
            "today" => Type::Date,
            _ => Type::Any,
        }
    }
}

/// The fields that a declaration or any content of this home knows.
fn known_fields(site: &Site, declared: &[Field], home: Home) -> BTreeMap<String, Type> {
    let mut fields: BTreeMap<String, Type> =
        declared.iter().map(|field| (field.name.clone(), field.type_of())).collect();
    let mut seen: Vec<*const hausblatt_lang::shape::Shape> = Vec::new();
    for content in site.contents.iter().filter(|content| content.home == home) {
        let shape = std::sync::Arc::as_ptr(&content.shape);
        if seen.contains(&shape) {
            continue;
        }
        seen.push(shape);
        for entry in &content.node.front().entries {
            let known = crate::names::KEYS.contains(&&*entry.key) || crate::names::BUILT_IN.contains(&&*entry.key);
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

/// The global values for one request. `nearest` are addresses near a failed one; none in a build.
pub fn values<'a>(
    world: &'a World,
    resolution: &'a Resolution,
    nearest: Option<Vec<(&'a str, &'a str)>>,
    scratch: &Scratch<'a>,
) -> Vec<Value<'a>> {
    let request = &resolution.request;
    let content = request.content(&world.site);
    let mut values = vec![
        Value::Record(scratch.keep(SiteRecord { world })),
        Value::Record(scratch.keep(RequestRecord { world, resolution })),
        classes(world, request, scratch),
        content.map_or(Value::Nothing, |id| content::value(world, id, scratch)),
        request.kind.listing().map_or(Value::Nothing, |number| {
            Value::Record(scratch.keep(ListingRecord { world, number, page: request.number }))
        }),
        error(request, nearest, scratch),
        Value::Record(scratch.keep(Collections { world })),
        Value::Record(scratch.keep(Menus { world, here: &request.address })),
        Value::Record(scratch.keep(ThemeRecord { world })),
        Value::Date(Moment::Day(world.asking.today)),
    ];
    for (at, collection) in world.site.collections.iter().enumerate() {
        if !GLOBALS.contains(&collection.config.name.text.as_str()) {
            values
                .push(Value::Seq(scratch.keep(CollectionSeq { world, number: u16::try_from(at).unwrap_or(u16::MAX) })));
        }
    }
    values.resize(world.globals.count(), Value::Nothing);
    values
}

fn error<'a>(request: &'a Request, nearest: Option<Vec<(&'a str, &'a str)>>, scratch: &Scratch<'a>) -> Value<'a> {
    if !matches!(request.kind, Kind::Error(_)) {
        return Value::Nothing;
    }
    Value::Record(scratch.keep(ErrorRecord { request, nearest }))
}

/// For `<body>`: the kind, then the id or the collection, then the chosen template.
fn classes<'a>(world: &'a World, request: &'a Request, scratch: &Scratch<'a>) -> Value<'a> {
    let mut classes = vec![Value::Text(request.kind.word())];
    let content: Option<&'a Content> = request.kind.content().map(|id| world.site.content(id));
    if let Some(content) = content {
        if let Some(collection) = world.site.collection_of(content) {
            classes.push(Value::Text(&collection.config.name.text));
        }
        classes.push(Value::Text(scratch.text(&content.id.replace('/', "-"))));
        classes.extend(content.template.as_ref().map(|(name, _)| Value::Text(scratch.text(&name.replace('/', "-")))));
    }
    if let Some(collection) = request.kind.listing().and_then(|number| world.site.collections.get(usize::from(number)))
    {
        classes.push(Value::Text(&collection.config.name.text));
    }
    Value::List(scratch.list(&classes))
}

/// The title of a failed request, never empty.
pub fn title_of_error(request: &Request) -> &str {
    crate::host::request::error_title(request)
}
