//! What can be renamed, how it is typed, and what its new name may be.

use std::collections::BTreeSet;

use hausblatt_lang::may_name;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::suggest::{did_you_mean, joined};

use crate::lookup::file_argument;
use crate::text::codes;
use crate::text::names::GLOBALS;
use crate::text::shell::word;
use crate::text::slug::{is_id, is_slug, slug};
use crate::themes::file_name::Role;
use crate::themes::theme;
use crate::world::World;

/// What is renamed, if it is no file of a theme.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Thing {
    /// A slot of the theme file of this name.
    Slot(String),
    /// A parameter of the theme file of this name; of a component, a field.
    Parameter(String),
    /// A name that prepare files set.
    Prepared,
    /// A setting.
    Setting,
    /// A tray.
    Tray,
    /// A table.
    Table,
    /// A theme.
    Theme,
    /// A menu.
    Menu,
    /// A route.
    Route,
    /// A view of these collections.
    View(Vec<String>),
    /// A page.
    Page,
    /// An entry of this collection.
    Entry(String),
    /// A collection.
    Collection,
    /// A taxonomy.
    Taxonomy,
    /// A term of this taxonomy.
    Term(String),
    /// A field of this collection's entries, or of `pages`.
    Field(String),
    /// A file in `media/`.
    Media,
    /// The pattern of the addresses of this collection.
    Pattern(String),
}

impl Thing {
    /// The words for it.
    pub fn word(&self) -> &'static str {
        match self {
            Thing::Slot(_) => "slot",
            Thing::Parameter(_) => "parameter",
            Thing::Prepared => "prepared name",
            Thing::Setting => "setting",
            Thing::Tray => "tray",
            Thing::Table => "table",
            Thing::Theme => "theme",
            Thing::Menu => "menu",
            Thing::Route => "route",
            Thing::View(_) => "view",
            Thing::Page => "page",
            Thing::Entry(_) => "entry",
            Thing::Collection => "collection",
            Thing::Taxonomy => "taxonomy",
            Thing::Term(_) => "term",
            Thing::Field(_) => "field",
            Thing::Media => "media file",
            Thing::Pattern(_) => "address pattern",
        }
    }

    /// What is in front of its name where it is typed: `family/` of a term.
    fn qualifier(&self) -> String {
        match self {
            Thing::Slot(of) | Thing::Parameter(of) => format!("{}/", short(of)),
            Thing::Entry(of) | Thing::Term(of) | Thing::Field(of) => format!("{of}/"),
            Thing::View(of) if of.len() == 1 => format!("{}/", of[0]),
            _ => String::new(),
        }
    }

    /// Whether it is the themes' own, so that a theme which inherits it does not rename it.
    pub fn is_of_lineage(&self) -> bool {
        matches!(self, Thing::Slot(_) | Thing::Parameter(_) | Thing::Prepared | Thing::Setting)
    }

    /// Whether pages may show its name, or be ordered by it.
    pub fn is_shown(&self) -> bool {
        matches!(self, Thing::Page | Thing::Entry(_) | Thing::Term(_) | Thing::Pattern(_))
    }
}

/// The name by which a theme file is asked for.
fn short(name: &str) -> &str {
    let stem = Ending::split(name).map_or(name, |(stem, _)| stem);
    let folders = ["partials/", "layouts/", "templates/"];
    let bare = folders.iter().find_map(|folder| stem.strip_prefix(folder)).unwrap_or(stem);
    bare.strip_prefix("components/").and_then(|name| name.strip_suffix("/component")).unwrap_or(bare)
}

/// The words in front of what is typed, of all that is no file of a theme, in the order in which they are tried.
pub(super) const SORTS: &[&str] = &[
    "setting",
    "tray",
    "table",
    "theme",
    "menu",
    "route",
    "view",
    "page",
    "entry",
    "collection",
    "taxonomy",
    "term",
    "field",
    "value",
    "media",
    "slot",
    "param",
    "address",
];

/// A thing that there is, as it is typed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Known {
    /// What it is.
    pub thing: Thing,
    /// Its name.
    pub name: String,
}

impl Known {
    fn new(thing: Thing, name: impl Into<String>) -> Self {
        Self { thing, name: name.into() }
    }

    /// As it is typed, without a prefix.
    pub fn typed(&self) -> String {
        match &self.thing {
            Thing::Pattern(of) => of.clone(),
            thing => format!("{}{}", thing.qualifier(), self.name),
        }
    }
}

/// All things of a sort.
pub(super) fn all(world: &World, sort: &str) -> Vec<Known> {
    let site = &world.site;
    let of = |thing: Thing, names: Vec<String>| -> Vec<Known> {
        names.into_iter().map(|name| Known::new(thing.clone(), name)).collect()
    };
    let collections = || site.collections.iter().map(|collection| collection.config.name.text.clone());
    match sort {
        "setting" => of(Thing::Setting, world.settings.iter().map(|setting| setting.field.name.clone()).collect()),
        "tray" => of(Thing::Tray, trays(world).into_iter().collect()),
        "table" => of(Thing::Table, site.tables.iter().map(|table| table.name.clone()).collect()),
        "theme" => of(Thing::Theme, theme::names(&world.snapshot)),
        "menu" => of(Thing::Menu, site.config.menus.iter().map(|(name, _)| name.clone()).collect()),
        "route" => of(Thing::Route, site.routes.iter().map(|route| route.config.name.text.clone()).collect()),
        "collection" => of(Thing::Collection, collections().collect()),
        "address" => collections().map(|name| Known::new(Thing::Pattern(name), "")).collect(),
        "taxonomy" => of(Thing::Taxonomy, site.taxonomies.iter().map(|it| it.config.name.text.clone()).collect()),
        "value" => of(Thing::Prepared, prepared(world).into_iter().collect()),
        "media" => {
            let files = world.snapshot.below("media/");
            of(Thing::Media, files.map(|node| node.path["media/".len()..].to_owned()).collect())
        }
        "term" => {
            let terms = site.taxonomies.iter().flat_map(|taxonomy| {
                let of = Thing::Term(taxonomy.config.name.text.clone());
                taxonomy.terms.iter().map(move |term| Known::new(of.clone(), &*term.id))
            });
            terms.collect()
        }
        "page" | "entry" => {
            let contents = site.contents.iter().map(|content| match site.collection_of(content) {
                Some(collection) => Known::new(Thing::Entry(collection.config.name.text.clone()), &*content.id),
                None => Known::new(Thing::Page, &*content.id),
            });
            contents.filter(|known| (known.thing == Thing::Page) == (sort == "page")).collect()
        }
        "view" => {
            let views = |name: &str| {
                let has = |it: &&crate::schema::config::CollectionConfig| it.views.iter().any(|view| view.text == name);
                let configs = site.collections.iter().map(|collection| &collection.config);
                configs.filter(has).map(|config| config.name.text.clone()).collect::<Vec<_>>()
            };
            let all = site.collections.iter().flat_map(|collection| &collection.config.views);
            let names: BTreeSet<&str> = all.map(|view| view.text.as_str()).collect();
            names.into_iter().map(|name| Known::new(Thing::View(views(name)), name)).collect()
        }
        "field" => {
            let of_pages = site.config.page_fields.iter().map(|field| ("pages".to_owned(), field));
            let of_entries = site.collections.iter().flat_map(|collection| {
                collection.config.fields.iter().map(|field| (collection.config.name.text.clone(), field))
            });
            of_pages.chain(of_entries).map(|(of, field)| Known::new(Thing::Field(of), &field.name)).collect()
        }
        "slot" | "param" => of_files(world, sort == "slot"),
        _ => Vec::new(),
    }
}

/// The trays that the themes print or content fills.
fn trays(world: &World) -> BTreeSet<String> {
    let programs = world.library.units.iter().filter_map(|unit| unit.program.as_ref());
    let printed = programs.flat_map(|program| &*program.trays).cloned();
    let placed = world.trays.values().flatten().map(|tray| tray.name.clone());
    printed.chain(placed).filter(|name| !name.trim().is_empty()).collect()
}

/// The names that prepare files set, which no site has by itself.
fn prepared(world: &World) -> BTreeSet<String> {
    let programs = world.library.units.iter().filter_map(|unit| unit.program.as_ref());
    let sets = programs.flat_map(|program| &*program.sets).map(|set| world.globals.name(set.global).to_owned());
    sets.filter(|name| !GLOBALS.contains(&name.as_str())).collect()
}

/// The slots or the parameters of all theme files, each once.
fn of_files(world: &World, slots: bool) -> Vec<Known> {
    let mut all: Vec<Known> = Vec::new();
    for (id, file) in world.lineage.ids() {
        let Some(program) = world.unit(id).and_then(|unit| world.library.unit(unit)?.program.as_ref()) else {
            continue;
        };
        let symbols = match slots {
            true => program.slots.to_vec(),
            false => program.parameters.iter().map(|parameter| parameter.name).collect(),
        };
        let name = file.name.to_string();
        let thing = if slots { Thing::Slot(name) } else { Thing::Parameter(name) };
        for symbol in symbols {
            let known = Known::new(thing.clone(), world.symbols.name(symbol));
            if !all.contains(&known) {
                all.push(known);
            }
        }
    }
    all
}

/// What is typed with a prefix that says what it is.
///
/// # Errors
/// There is no such thing; with what there is.
pub(super) fn named(world: &World, sort: &str, typed: &str) -> Result<Known, Diagnostic> {
    let typed = match sort {
        "media" => typed.trim_start_matches('/').trim_start_matches("media/"),
        "table" => typed.strip_prefix("tables/").map_or(typed, |name| name.split('.').next().unwrap_or(name)),
        "theme" => typed.trim_start_matches("themes/").trim_end_matches('/'),
        _ => typed.trim_matches('/'),
    };
    let all = all(world, sort);
    if matches!(sort, "slot" | "param")
        && let Some((file, name)) = typed.rsplit_once('/')
    {
        let id = file_argument::theme_file(world, file)?;
        let of = world.lineage.file(id).name.to_string();
        let is_it = |known: &&Known| {
            known.name == name && matches!(&known.thing, Thing::Slot(own) | Thing::Parameter(own) if *own == of)
        };
        if let Some(known) = all.iter().find(is_it) {
            return Ok(known.clone());
        }
        let own =
            all.iter().filter(|known| matches!(&known.thing, Thing::Slot(own) | Thing::Parameter(own) if *own == of));
        let names: Vec<String> = own.map(|known| known.name.clone()).collect();
        let what = if sort == "slot" { "slot" } else { "parameter" };
        let help = did_you_mean(name, names.iter().map(String::as_str)).unwrap_or_else(|| match names.as_slice() {
            [] => format!("it has no {what} at all"),
            names => format!("it has {}", joined(names, "and")),
        });
        return Err(Diagnostic::of(&codes::NOTHING_TO_RENAME, format!("{of} has no {what} \"{name}\"")).help(help));
    }
    if let (Some(known), true) = (view_of_one(&all, typed), sort == "view") {
        return known;
    }
    let found: Vec<&Known> = all.iter().filter(|known| known.typed() == typed || is_view(known, typed)).collect();
    match found.as_slice() {
        [known, ..] => Ok((*known).clone()),
        [] => {
            let names: Vec<String> = all.iter().map(Known::typed).collect();
            let what = match all.first().map(|known| &known.thing) {
                Some(Thing::Pattern(_)) => "collection",
                Some(thing) => thing.word(),
                None => sort,
            };
            let help =
                did_you_mean(typed, names.iter().map(String::as_str)).unwrap_or_else(|| match names.as_slice() {
                    [] => "there is none of that sort".to_owned(),
                    names if names.len() <= 12 => format!("there are {}", joined(names, "and")),
                    _ => format!("write it as in {sort}:{}", names[0]),
                });
            Err(Diagnostic::of(&codes::NOTHING_TO_RENAME, format!("there is no {what} \"{typed}\"")).help(help))
        }
    }
}

fn is_view(known: &Known, typed: &str) -> bool {
    matches!(&known.thing, Thing::View(_)) && known.name == typed
}

/// A view that is typed with its collection. Others that have it share its templates.
fn view_of_one(all: &[Known], typed: &str) -> Option<Result<Known, Diagnostic>> {
    let (collection, name) = typed.split_once('/')?;
    let known = all.iter().find(|known| known.name == name)?;
    let Thing::View(of) = &known.thing else { return None };
    if !of.iter().any(|one| one == collection) {
        return None;
    }
    if of.len() == 1 {
        return Some(Ok(known.clone()));
    }
    let message = format!("the view \"{name}\" is one of {}, which share its templates", joined(of, "and"));
    Some(Err(Diagnostic::of(&codes::NOTHING_TO_RENAME, message).help(format!("rename it for all: view:{name}"))))
}

/// All that may be meant by what is typed without a prefix, each with the prefix that says so.
pub(super) fn meanings(world: &World, typed: &str) -> Vec<(&'static str, Known)> {
    let path = |folder: &str| typed.starts_with(folder);
    if path("content/") {
        let id = world.site.at_path(typed.trim_start_matches("./"));
        let known = id.map(|id| world.site.content(id)).map(|content| match world.site.collection_of(content) {
            Some(collection) => ("entry", Known::new(Thing::Entry(collection.config.name.text.clone()), &*content.id)),
            None => ("page", Known::new(Thing::Page, &*content.id)),
        });
        return known.into_iter().collect();
    }
    let sorts = SORTS.iter().filter(|sort| !matches!(**sort, "address"));
    let sorts = sorts.filter(|sort| match **sort {
        "media" => path("media/") || path("/media/"),
        "theme" => !path("themes/") || typed.trim_end_matches('/').matches('/').count() == 1,
        _ => !path("themes/"),
    });
    sorts.filter_map(|sort| Some((*sort, named(world, sort, typed).ok()?))).collect()
}

/// The new name of a thing, as it is typed, with or without what it has in common with the old one.
///
/// # Errors
/// Why nothing of that sort can be called so.
pub(super) fn new_name(world: &World, known: &Known, sort: &str, typed: &str) -> Result<String, Diagnostic> {
    let bare = typed.strip_prefix(&format!("{sort}:")).unwrap_or(typed);
    let bare = match &known.thing {
        Thing::Media => bare.trim_start_matches('/').trim_start_matches("media/"),
        Thing::Table => {
            bare.trim_start_matches("tables/").trim_end_matches(&extension(&table_path(world, &known.name)))
        }
        Thing::Theme => bare.trim_start_matches("themes/").trim_end_matches('/'),
        Thing::Page => bare.trim_start_matches("content/pages/").trim_end_matches(".md"),
        _ => bare,
    };
    let new = bare.strip_prefix(&known.thing.qualifier()).unwrap_or(bare);
    let bad = |help: &str| {
        let what = known.thing.word();
        let article = if what.starts_with(['a', 'e']) { "an" } else { "a" };
        let message = format!("\"{typed}\" can't name {article} {what}");
        Err(Diagnostic::of(&codes::BAD_NAME, message).help(help))
    };
    let is_word = |may_begin: fn(char) -> bool| {
        new.chars().all(|c| c.is_alphanumeric() || c == '_') && new.starts_with(may_begin) && may_name(new)
    };
    let letters = "use letters, digits and underscores, and no word of the language";
    let slugs = format!("use lower-case letters, digits and hyphens, as in {}", slug(new));
    match &known.thing {
        Thing::Parameter(_) | Thing::Prepared => {
            if !is_word(|c| c.is_alphabetic() || c == '_') {
                return bad(letters);
            }
            if world.globals.is_reserved(new) {
                let message = format!("\"{new}\" is a value that every file has");
                return Err(Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("choose another name"));
            }
        }
        Thing::Setting | Thing::Field(_) => {
            if !is_word(char::is_alphabetic) {
                return bad(letters);
            }
        }
        Thing::Collection | Thing::Taxonomy => {
            if !is_word(char::is_alphabetic) || new.chars().any(char::is_uppercase) {
                return bad("use lower-case letters, digits and underscores, and no word of the language");
            }
        }
        Thing::Slot(_) | Thing::Tray => {
            let fits = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | ' ');
            if new.is_empty() || new.trim() != new || !new.chars().all(fits) {
                return bad("use letters, digits, underscores, hyphens and spaces");
            }
        }
        Thing::Menu | Thing::Table => {
            if new.is_empty() || !new.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '-')) {
                return bad("use letters, digits, underscores and hyphens");
            }
        }
        Thing::Theme => {
            let fits = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.');
            if new.is_empty() || new.starts_with('.') || !new.chars().all(fits) {
                return bad("use letters, digits and hyphens");
            }
        }
        Thing::Route => {
            if !is_slug(&new.replace('_', "-")) {
                return bad(&slugs);
            }
        }
        Thing::View(_) | Thing::Term(_) => {
            if !is_slug(new) || (new == "page" && matches!(known.thing, Thing::View(_))) {
                return bad(&slugs);
            }
        }
        Thing::Page | Thing::Entry(_) => {
            if !is_id(new) {
                let better = new.split('/').map(slug).filter(|part| !part.is_empty()).collect::<Vec<_>>().join("/");
                return bad(&format!("use lower-case letters, digits and hyphens, as in {better}"));
            }
        }
        Thing::Media => {
            let extension =
                |path: &str| path.rsplit('/').next().and_then(|file| Some(file.rsplit_once('.')?.1.to_lowercase()));
            if extension(new) != extension(&known.name) {
                let message = format!("{} can't become {new}: the extension says what it is", known.name);
                return Err(Diagnostic::of(&codes::BAD_NAME, message).help("keep the extension"));
            }
            let is_odd = |part: &str| {
                part.is_empty() || part.starts_with('.') || part.contains(['\\', ':', '?', '#', '%', '"', '\''])
            };
            if new.split('/').any(is_odd) {
                return bad("write a path below media/ without \\ : ? # % and quotes");
            }
        }
        // The whole site is held against a pattern.
        Thing::Pattern(_) => {}
    }
    Ok(new.to_owned())
}

/// The file of a table.
pub(super) fn table_path(world: &World, name: &str) -> String {
    let table = world.site.tables.iter().find(|table| table.name == name);
    table.map(|table| table.path.to_string()).unwrap_or_default()
}

/// The extension of a path with its dot.
pub(super) fn extension(path: &str) -> String {
    let file = path.rsplit('/').next().unwrap_or(path);
    file.rfind('.').map_or(String::new(), |at| file[at..].to_owned())
}

/// That nothing else of the sort has the new name, not even with letters of another case.
pub(super) fn free(world: &World, known: &Known, sort: &str, new: &str) -> Result<(), Diagnostic> {
    let what = known.thing.word();
    if known.name == new {
        return Err(Diagnostic::of(&codes::BAD_NAME, format!("the {what} is called {new} already")));
    }
    if known.name.to_lowercase() == new.to_lowercase() {
        let message = format!("{} and {new} differ by case alone, and are easily taken for one", known.name);
        return Err(Diagnostic::of(&codes::BAD_NAME, message).help("rename it to something else first"));
    }
    let is_same = |other: &&Known| {
        std::mem::discriminant(&other.thing) == std::mem::discriminant(&known.thing)
            && other.thing.qualifier() == known.thing.qualifier()
            && other.name.to_lowercase() == new.to_lowercase()
    };
    match all(world, sort).iter().find(is_same) {
        Some(other) => {
            let article = if what.starts_with(['a', 'e']) { "an" } else { "a" };
            let message = format!("there is {article} {what} {} already", other.name);
            Err(Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("choose another name, or rename that one first"))
        }
        None => Ok(()),
    }
}

/// What to type to rename what may be several things.
pub(super) fn which(meanings: &[(String, String)], typed: &str, new: &str) -> Diagnostic {
    let all: Vec<String> = meanings.iter().map(|(what, _)| format!("the {what}")).collect();
    let message = format!("\"{typed}\" may be {}", joined(&all, "or"));
    let help = format!("say which: hausblatt rename {} {}", word(&meanings[0].1), word(new));
    Diagnostic::of(&codes::AMBIGUOUS_FILE, message).help(help)
}

/// The role whose files have this prefix.
pub(super) fn role_of(sort: &str) -> Option<Role> {
    match sort {
        "template" => Some(Role::Template),
        "partial" => Some(Role::Partial),
        "layout" => Some(Role::Layout),
        "component" => Some(Role::Component),
        "asset" => Some(Role::Asset),
        "prepare" => Some(Role::Prepare),
        _ => None,
    }
}
