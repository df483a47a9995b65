//! What a lineage reads from a site: collections, fields, taxonomies, tables, menus, routes, pages and the like, by name.

use std::collections::BTreeMap;
use std::sync::Arc;

use hausblatt_lang::program::{Meaning, Program, Step};
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::{Place, Span};
use hausblatt_lang::types::RecordId;
use hausblatt_lang::value::datum::Datum;

use crate::model::content::Section;
use crate::model::request::{Kind, ListingOf, Routed};
use crate::text::data::{Data, DataValue, Entry};
use crate::themes::settings::Setting;
use crate::themes::theme::Theme;
use crate::world::World;

/// Something that a theme may read from a site.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Need {
    /// A collection.
    Collection(String),
    /// A field of a collection's entries, or of `pages`.
    Field(String, String),
    /// A taxonomy.
    Taxonomy(String),
    /// A term of a taxonomy.
    Term(String, String),
    /// A table.
    Table(String),
    /// A column of a table.
    Column(String, String),
    /// A menu.
    Menu(String),
    /// A route.
    Route(String),
    /// A search at this address.
    Search(String),
    /// A key of `[site]`.
    SiteKey(String),
    /// A value of a setting that has no default.
    Setting(String),
    /// A page, by its id.
    Page(String),
    /// An entry of a collection, by its id.
    Entry(String, String),
    /// A file in `media/`.
    Media(String),
    /// Whatever is at an address.
    Address(String),
}

impl Need {
    /// What it is, in words: "the field latin of varieties".
    pub fn words(&self) -> String {
        match self {
            Need::Collection(name) => format!("the collection {name}"),
            Need::Field(of, name) => format!("the field {name} of {of}"),
            Need::Taxonomy(name) => format!("the taxonomy {name}"),
            Need::Term(of, id) => format!("the term {id} of {of}"),
            Need::Table(name) => format!("the table {name}"),
            Need::Column(of, name) => format!("the column {name} of the table {of}"),
            Need::Menu(name) => format!("the menu {name}"),
            Need::Route(name) => format!("the route {name}"),
            Need::Search(address) => format!("a search at {address}"),
            Need::SiteKey(name) => format!("site.{name}"),
            Need::Setting(name) => format!("a value for settings.{name}"),
            Need::Page(id) => format!("the page {id}"),
            Need::Entry(of, id) => format!("the entry {of}/{id}"),
            Need::Media(path) => format!("the file media/{path}"),
            Need::Address(address) => format!("something at {address}"),
        }
    }

    /// Its path in a manifest's `[needs]`, as `optional` names it.
    pub fn path(&self) -> String {
        match self {
            Need::Collection(name) => format!("collections.{name}"),
            Need::Field(of, name) if of == "pages" => format!("pages.fields.{name}"),
            Need::Field(of, name) => format!("collections.{of}.fields.{name}"),
            Need::Taxonomy(name) => format!("taxonomies.{name}"),
            Need::Term(of, id) => format!("taxonomies.{of}.terms.{id}"),
            Need::Table(name) => format!("tables.{name}"),
            Need::Column(of, name) => format!("tables.{of}.{name}"),
            Need::Menu(name) => format!("menus.{name}"),
            Need::Route(name) => format!("routes.{name}"),
            Need::Search(_) => "search".to_owned(),
            Need::SiteKey(name) => format!("site.{name}"),
            Need::Setting(name) => format!("settings.{name}"),
            Need::Page(id) => format!("content.pages/{id}"),
            Need::Entry(of, id) => format!("content.{of}/{id}"),
            Need::Media(path) => format!("media.{path}"),
            Need::Address(address) => format!("addresses.{address}"),
        }
    }

    /// What it is a part of: of a field its collection.
    pub fn container(&self) -> Option<Self> {
        match self {
            Need::Field(of, _) if of == "pages" => None,
            Need::Field(of, _) | Need::Entry(of, _) => Some(Need::Collection(of.clone())),
            Need::Term(of, _) => Some(Need::Taxonomy(of.clone())),
            Need::Column(of, _) => Some(Need::Table(of.clone())),
            _ => None,
        }
    }

    /// The names by which what is wrong for want of it is reported.
    pub(crate) fn names(&self) -> Vec<&str> {
        match self {
            Need::Collection(name)
            | Need::Field(_, name)
            | Need::Taxonomy(name)
            | Need::Table(name)
            | Need::Column(_, name)
            | Need::Menu(name)
            | Need::Route(name)
            | Need::SiteKey(name)
            | Need::Setting(name)
            | Need::Page(name)
            | Need::Entry(_, name)
            | Need::Term(_, name)
            | Need::Search(name)
            | Need::Address(name) => vec![name, name.rsplit('/').next().unwrap_or(name)],
            Need::Media(name) => vec![name],
        }
    }

    /// Whether a site has it.
    pub fn is_met(&self, world: &World) -> bool {
        let site = &world.site;
        let has = |id: &str, home| site.find(home, id).is_some();
        match self {
            Need::Collection(name) => site.collection(name).is_some(),
            Need::Field(of, name) if of == "pages" => site.config.page_fields.iter().any(|field| field.name == *name),
            Need::Field(of, name) => site
                .collection(of)
                .is_some_and(|(_, collection)| collection.config.fields.iter().any(|field| field.name == *name)),
            Need::Taxonomy(name) => site.taxonomy(name).is_some(),
            Need::Term(of, id) => {
                site.taxonomy(of).is_some_and(|(_, taxonomy)| taxonomy.terms.iter().any(|term| *term.id == **id))
            }
            Need::Table(name) => site.tables.iter().any(|table| table.name == *name),
            Need::Column(of, name) => {
                let table = site.tables.iter().find(|table| table.name == *of);
                // A table without rows says nothing of its columns.
                table.is_some_and(|table| table.columns.is_empty() || table.columns.contains(name))
            }
            Need::Menu(name) => site.menus.iter().any(|(menu, _)| menu == name),
            Need::Route(name) => site.routes.iter().any(|route| route.config.name.text == *name),
            Need::Search(address) => site.config.search.as_ref().is_some_and(|search| search.address.text == *address),
            Need::SiteKey(name) => site.config.site.iter().any(|(key, _)| key == name),
            Need::Setting(name) => world
                .settings
                .iter()
                .any(|setting| setting.field.name == *name && !matches!(setting.value, Datum::Nothing)),
            Need::Page(id) => has(id, Section::Pages),
            Need::Entry(of, id) => site.collection(of).is_some_and(|(number, _)| has(id, Section::Collection(number))),
            Need::Media(path) => world.snapshot.file(&format!("media/{path}")).is_some(),
            Need::Address(address) => leads_somewhere(world, address),
        }
    }
}

fn leads_somewhere(world: &World, address: &str) -> bool {
    match world.route(address) {
        Routed::Request(request) => request.status != 404,
        Routed::Redirect(_) => true,
    }
}

/// Where something of the site is read.
#[derive(Clone, Debug, Default)]
pub struct ReadAt {
    /// The places, in the order of the files.
    pub places: Vec<Place>,
    /// Whether an address or a file of it is written out somewhere, so that nothing asks whether it is there.
    pub is_written_out: bool,
}

/// Everything of the site that the files of the lineage name.
pub fn read_from_site(world: &World) -> BTreeMap<Need, ReadAt> {
    let mut found = Found { world, needs: BTreeMap::new() };
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.hidden_by.is_none()) {
        let Some(text) = file.node.text() else { continue };
        if let Some(program) = world.program(id) {
            found.words(program);
            found.texts(program);
        }
        if let Some(name) = file.name.template() {
            found.of_template(&file.node.path, name);
        }
        found.literals(&file.node.path, text);
    }
    let has_none = |setting: &&Setting| setting.field.is_required || matches!(setting.field.default, Datum::Nothing);
    for setting in world.settings.iter().filter(has_none) {
        let theme = world
            .lineage
            .themes
            .iter()
            .find(|theme| theme.settings.iter().any(|entry| *entry.key == *setting.field.name));
        if let Some(theme) = theme {
            found.add(Need::Setting(setting.field.name.clone()), &theme.manifest, setting.field.span);
        }
    }
    for ReadAt { places, .. } in found.needs.values_mut() {
        places.sort_by(|a, b| (&a.path, a.span.start).cmp(&(&b.path, b.span.start)));
        places.dedup();
    }
    found.needs
}

struct Found<'w> {
    world: &'w World,
    needs: BTreeMap<Need, ReadAt>,
}

impl Found<'_> {
    fn add(&mut self, need: Need, path: &Arc<str>, span: Span) {
        // Whoever reads a part reads the whole.
        if let Some(whole) = need.container() {
            self.add(whole, path, span);
        }
        self.needs.entry(need).or_default().places.push(Place { path: path.clone(), span });
    }

    /// What the name of a template says: whose entries, whose listing, which route, which page.
    fn of_template(&mut self, path: &Arc<str>, name: &str) {
        let site = &self.world.site;
        let Some((stem, _)) = Ending::split(name) else { return };
        let Some((kind, rest)) = stem.split_once('/') else { return };
        let first = rest.split('/').next().unwrap_or(rest).to_owned();
        let need = match kind {
            "entry" | "period" => Need::Collection(first),
            "listing" if site.taxonomy(&first).is_some() => Need::Taxonomy(first),
            "listing" => Need::Collection(first),
            "route" => Need::Route(first),
            "page" => Need::Page(rest.trim_end_matches("/all_below").to_owned()),
            _ => return,
        };
        if !need.is_met(self.world) {
            return;
        }
        let route =
            site.routes.iter().find(|route| matches!(&need, Need::Route(name) if *name == route.config.name.text));
        let (table, items) =
            route.map_or((None, None), |route| (route.config.each.clone(), route.config.items.clone()));
        let of_route = table.map(|table| Need::Table(table.text));
        let of_route = of_route.into_iter().chain(items.map(|(collection, _)| Need::Collection(collection.text)));
        for need in std::iter::once(need).chain(of_route.filter(|need| need.is_met(self.world))) {
            self.add(need, path, Span::default());
        }
    }

    /// Adds something whose address or file is written out.
    fn add_written(&mut self, need: Need, path: &Arc<str>, span: Span) {
        self.needs.entry(need.clone()).or_default().is_written_out = true;
        self.add(need, path, span);
    }

    /// What an address leads to.
    fn at(&self, address: &str) -> Need {
        let site = &self.world.site;
        let other = || Need::Address(address.to_owned());
        let Routed::Request(request) = self.world.route(address) else { return other() };
        let of_content = |id| {
            let content = site.content(id);
            match site.collection_of(content) {
                Some(collection) => Need::Entry(collection.config.name.text.clone(), content.id.to_string()),
                None => Need::Page(content.id.to_string()),
            }
        };
        let of_collection =
            |number: u16| Need::Collection(site.collections[usize::from(number)].config.name.text.clone());
        match request.kind {
            Kind::Page(id) | Kind::Entry(id) => of_content(id),
            Kind::Listing(ListingOf::Collection(number)) | Kind::Period(number, _) => of_collection(number),
            Kind::Listing(ListingOf::Term(id)) => match site.term(id) {
                Some((taxonomy, term)) => Need::Term(taxonomy.config.name.text.clone(), term.id.to_string()),
                None => other(),
            },
            Kind::Route(number, _) => Need::Route(site.routes[usize::from(number)].config.name.text.clone()),
            Kind::Search => Need::Search(address.to_owned()),
            _ => other(),
        }
    }

    /// Names of collections, and members of what the site names.
    fn words(&mut self, program: &Program) {
        let (site, sorts) = (&self.world.site, &self.world.sorts);
        for word in &program.words {
            match &word.meaning {
                Meaning::Global(number) if self.world.globals.is_of_site(*number) => {
                    let name = self.world.globals.name(*number).to_owned();
                    self.add(Need::Collection(name), &program.path, word.span);
                }
                Meaning::Member(symbol, records) => {
                    let name = self.world.symbols.name(*symbol).to_owned();
                    let has = |sort: Option<RecordId>| sort.is_some_and(|sort| records.contains(&sort));
                    let mut needs = Vec::new();
                    if has(sorts.collections) && site.collection(&name).is_some() {
                        needs.push(Need::Collection(name.clone()));
                    }
                    if has(sorts.taxonomies) && site.taxonomy(&name).is_some() {
                        needs.push(Need::Taxonomy(name.clone()));
                    }
                    if has(sorts.tables) && site.tables.iter().any(|table| table.name == name) {
                        needs.push(Need::Table(name.clone()));
                    }
                    if has(sorts.menus) && site.menus.iter().any(|(menu, _)| *menu == name) {
                        needs.push(Need::Menu(name.clone()));
                    }
                    let any = has(sorts.any_content);
                    let of_pages = site.config.page_fields.iter().any(|field| field.name == name);
                    if (any || has(sorts.page)) && of_pages {
                        needs.push(Need::Field("pages".to_owned(), name.clone()));
                    }
                    for (at, collection) in site.collections.iter().enumerate() {
                        let config = &collection.config;
                        if !any && !has(sorts.entries.get(at).copied()) {
                            continue;
                        }
                        if config.fields.iter().any(|field| field.name == name) {
                            needs.push(Need::Field(config.name.text.clone(), name.clone()));
                        }
                        let mut grouping = site.config.taxonomies_of(&config.name.text);
                        if grouping.any(|taxonomy| taxonomy.name.text == name) {
                            needs.push(Need::Taxonomy(name.clone()));
                        }
                    }
                    let is_row = |table: &str| {
                        let name = format!("a row of {table}");
                        records.iter().any(|&record| self.world.globals.record_name(record) == name)
                    };
                    let tables =
                        site.tables.iter().filter(|table| is_row(&table.name) && table.columns.contains(&name));
                    needs.extend(tables.map(|table| Need::Column(table.name.clone(), name.clone())));
                    needs.into_iter().for_each(|need| self.add(need, &program.path, word.span));
                }
                _ => {}
            }
        }
    }

    /// Keys of `[site]`, references, and names of menus that are asked for by a text.
    fn texts(&mut self, program: &Program) {
        let site = &self.world.site;
        for (step, span) in program.codes.iter().zip(&program.code_spans) {
            match step {
                Step::GlobalMember(number, symbol) if self.world.globals.name(*number) == "site" => {
                    let name = self.world.symbols.name(*symbol);
                    if site.config.site.iter().any(|(key, _)| key == name) {
                        self.add(Need::SiteKey(name.to_owned()), &program.path, *span);
                    }
                }
                Step::Text(kept) => {
                    let text = program.kept(*kept);
                    if site.menus.iter().any(|(menu, _)| menu == text) {
                        self.add(Need::Menu(text.to_owned()), &program.path, *span);
                    }
                    for need in self.referenced(text) {
                        self.add(need, &program.path, *span);
                    }
                }
                _ => {}
            }
        }
    }

    /// What a reference names, also one of which only the beginning is written.
    fn referenced(&self, text: &str) -> Vec<Need> {
        let Some((sort, named)) = text.split_once(':') else { return Vec::new() };
        let named = named.split('#').next().unwrap_or("");
        let (first, rest) = named.split_once('/').map_or((named, ""), |(first, rest)| (first, rest));
        let all = match sort {
            "collection" | "feed" | "period" => vec![Need::Collection(first.to_owned())],
            "page" => vec![Need::Page(named.to_owned())],
            "route" => vec![Need::Route(first.to_owned())],
            "term" if rest.is_empty() => vec![Need::Taxonomy(first.to_owned())],
            "term" => vec![Need::Term(first.to_owned(), rest.to_owned())],
            "entry" if rest.is_empty() => vec![Need::Collection(first.to_owned())],
            "entry" => vec![Need::Entry(first.to_owned(), rest.to_owned())],
            _ => Vec::new(),
        };
        all.into_iter().filter(|need| need.is_met(self.world)).collect()
    }

    /// Media files and addresses that are written out.
    fn literals(&mut self, path: &Arc<str>, text: &str) {
        let is_end = |c: char| matches!(c, '"' | '\'' | ')' | '<' | '>' | '?' | '#' | ',' | '+') || c.is_whitespace();
        for (at, _) in text.match_indices("/media/") {
            let rest = &text[at + "/media/".len()..];
            let name = &rest[..rest.find(is_end).unwrap_or(rest.len())];
            if self.world.snapshot.file(&format!("media/{name}")).is_some() {
                self.add_written(Need::Media(name.to_owned()), path, Span::new(at, at + "/media/".len() + name.len()));
            }
        }
        if !path.ends_with(".html") {
            return;
        }
        for attribute in ["href=\"/", "action=\"/", "href='/", "action='/"] {
            for (at, _) in text.match_indices(attribute) {
                let start = at + attribute.len() - 1;
                let rest = &text[start..];
                let end = rest.find(['"', '\'', '?', '#']).unwrap_or(rest.len());
                let address = &rest[..end];
                let is_plain = !address.contains("+{") && address != "/" && !address.starts_with("//");
                let is_file = address.starts_with("/media/") || address.starts_with("/assets/");
                if !is_plain || is_file || !leads_somewhere(self.world, address) {
                    continue;
                }
                let need = self.at(address);
                self.add_written(need, path, Span::new(start, start + end));
            }
        }
    }
}

/// What a manifest says that its theme needs, each with its place; and the paths of those that it does without.
pub fn declared(theme: &Theme) -> (BTreeMap<Need, Span>, Vec<(String, Span)>) {
    let mut needs = BTreeMap::new();
    let mut optional = Vec::new();
    for entry in theme.needs.iter().flatten() {
        let name = || entry.key.to_string();
        let members = || entry.data.as_map().unwrap_or_default();
        let texts = || texts_of(&entry.data);
        match &*entry.key {
            "collections" | "taxonomies" | "routes" | "tables" => {
                for member in members() {
                    of_group(&name(), member, &mut needs);
                }
            }
            "pages" => {
                for field in group(members(), "fields") {
                    needs.insert(Need::Field("pages".to_owned(), field.key.to_string()), field.span);
                }
            }
            "search" => {
                let address = members().iter().find(|member| &*member.key == "address");
                let address = address.and_then(|member| member.data.as_text()).unwrap_or("/search/");
                needs.insert(Need::Search(address.to_owned()), entry.span);
            }
            "menus" => needs.extend(texts().map(|(text, span)| (Need::Menu(text), span))),
            "site" => needs.extend(texts().map(|(text, span)| (Need::SiteKey(text), span))),
            "media" => needs.extend(texts().map(|(text, span)| (Need::Media(text), span))),
            "addresses" => needs.extend(texts().map(|(text, span)| (Need::Address(text), span))),
            "content" => needs.extend(texts().filter_map(|(text, span)| {
                let (home, id) = text.split_once('/')?;
                let need = match home {
                    "pages" => Need::Page(id.to_owned()),
                    home => Need::Entry(home.to_owned(), id.to_owned()),
                };
                Some((need, span))
            })),
            "optional" => optional.extend(texts()),
            _ => {}
        }
    }
    (needs, optional)
}

/// Those of `[needs]` that are lists of texts; all others are groups.
pub const LISTS: &[&str] = &["menus", "site", "media", "addresses", "content", "optional"];
/// The groups and lists that `[needs]` may have.
pub const GROUPS: &[&str] = &[
    "collections",
    "taxonomies",
    "routes",
    "tables",
    "pages",
    "search",
    "menus",
    "site",
    "media",
    "addresses",
    "content",
    "optional",
];

fn texts_of(data: &Data) -> impl Iterator<Item = (String, Span)> {
    let members = data.as_list().unwrap_or_default();
    members.iter().filter_map(|member| Some((member.as_text()?.to_owned(), member.span)))
}

fn group<'e>(entries: &'e [Entry], key: &str) -> &'e [Entry] {
    let entry = entries.iter().find(|entry| &*entry.key == key);
    entry.and_then(|entry| entry.data.as_map()).unwrap_or_default()
}

fn of_group(group_name: &str, member: &Entry, needs: &mut BTreeMap<Need, Span>) {
    let name = member.key.to_string();
    let inside = member.data.as_map().unwrap_or_default();
    match group_name {
        "collections" => {
            for field in group(inside, "fields") {
                needs.insert(Need::Field(name.clone(), field.key.to_string()), field.span);
            }
            needs.insert(Need::Collection(name), member.span);
        }
        "taxonomies" => {
            for term in group(inside, "terms") {
                needs.insert(Need::Term(name.clone(), term.key.to_string()), term.span);
            }
            needs.insert(Need::Taxonomy(name), member.span);
        }
        "tables" => {
            for column in inside.iter().filter(|column| matches!(column.data.value, DataValue::Text(_))) {
                needs.insert(Need::Column(name.clone(), column.key.to_string()), column.span);
            }
            needs.insert(Need::Table(name), member.span);
        }
        _ => {
            needs.insert(Need::Route(name), member.span);
        }
    }
}

/// What the manifests of a lineage say that it needs.
#[derive(Debug, Default)]
pub struct Demands {
    /// All of it, with where it is said.
    pub all: BTreeMap<Need, Place>,
    /// What of it the themes do without.
    optional: Vec<Need>,
}

impl Demands {
    /// What the manifests of the lineage say; nothing where none says.
    pub fn of(world: &World) -> Self {
        let mut demands = Self::default();
        let mut required: Vec<Need> = Vec::new();
        for theme in &world.lineage.themes {
            let (needs, optional) = declared(theme);
            for (need, span) in needs {
                match optional.iter().any(|(path, _)| *path == need.path()) {
                    true => demands.optional.push(need.clone()),
                    false => required.push(need.clone()),
                }
                demands.all.entry(need).or_insert(Place { path: theme.manifest.clone(), span });
            }
        }
        // What one theme fails without, its children do not do without.
        demands.optional.retain(|need| !required.contains(need));
        demands
    }

    /// What a site lacks of it: what the themes fail without, and what they do without. A part of what they do without is
    /// demanded only where that is there.
    pub fn missing(&self, world: &World) -> (BTreeMap<Need, Place>, Vec<Need>) {
        let is_demanded = |need: &Need| !self.optional.contains(need);
        let unmet = self.all.iter().filter(|(need, _)| !need.is_met(world));
        let (failing, without): (Vec<_>, Vec<_>) = unmet.partition(|(need, _)| {
            let waits = need.container().is_some_and(|whole| !whole.is_met(world) && !is_demanded(&whole));
            is_demanded(need) && !waits
        });
        let failing = failing.into_iter().map(|(need, place)| (need.clone(), place.clone())).collect();
        (failing, without.into_iter().map(|(need, _)| need.clone()).collect())
    }
}
