//! `hausblatt.toml`: typed, validated, with the place of what may have to be reported.

use std::sync::Arc;

use hausblatt_lang::datum::Datum;
use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::source::Span;
use jiff::tz::TimeZone;

use crate::data::{Data, Entry};
use crate::fields::{self, Field};
use crate::markdown::RawHtml;
use crate::reader::{Reader, named};
use crate::toml_data;

/// The name of the file.
pub const FILE: &str = "hausblatt.toml";

/// A text and where it stands.
#[derive(Clone, Debug, Default)]
pub struct Placed {
    /// The text.
    pub text: String,
    /// Where it stands in `hausblatt.toml`.
    pub span: Span,
}

/// What `/` is.
#[derive(Clone, Debug)]
pub enum Front {
    /// A page, by its id.
    Page(Placed),
    /// A collection's listing.
    Collection(Placed),
}

/// A collection as configured.
#[derive(Clone, Debug)]
pub struct CollectionConfig {
    /// Its name.
    pub name: Placed,
    /// What it is called.
    pub label: String,
    /// The pattern of its entries' addresses.
    pub address: Placed,
    /// Its listing's address.
    pub listing: Option<Placed>,
    /// Entries on one page of its listing.
    pub per_page: usize,
    /// By what entries are ordered: a key, and whether descending.
    pub order: (String, bool),
    /// Whether entries dated in the future are shown at once.
    pub shows_future: bool,
    /// The fields its entries may carry.
    pub fields: Vec<Field>,
}

/// A menu item as configured.
#[derive(Clone, Debug)]
pub struct MenuConfig {
    /// A reference or an address.
    pub to: Placed,
    /// What it is called; else what the target is.
    pub label: Option<String>,
    /// The items below it.
    pub children: Vec<MenuConfig>,
}

/// The whole configuration.
#[derive(Clone, Debug)]
pub struct Config {
    /// Where it was read from.
    pub path: Arc<str>,
    /// The site's title.
    pub title: String,
    /// The site's own address, without a slash at the end.
    pub address: String,
    /// The language, as in BCP 47.
    pub language: String,
    /// The timezone.
    pub timezone: TimeZone,
    /// The active theme.
    pub theme: Placed,
    /// Other keys of `[site]`, for templates.
    pub site: Vec<(String, Datum)>,
    /// What `/` is.
    pub front: Option<Front>,
    /// The collections, in the order of the file.
    pub collections: Vec<CollectionConfig>,
    /// The fields that pages may carry.
    pub page_fields: Vec<Field>,
    /// The menus, in the order of the file.
    pub menus: Vec<(String, Vec<MenuConfig>)>,
    /// What is done with raw HTML in Markdown.
    pub raw_html: RawHtml,
}

/// Reads `hausblatt.toml`. Without `[site]`'s title and theme there is no site to load.
pub fn read(text: &str, problems: &mut Vec<Diagnostic>) -> Option<Config> {
    let path: Arc<str> = FILE.into();
    let before = problems.len();
    let entries = toml_data::read(&path, text, problems);
    if problems.len() > before {
        return None;
    }
    let mut top = Reader::new(&path, FILE, &entries, Span::default(), problems);
    let site = top.map("site");
    let front = top.map("front");
    let collections = top.map("collections");
    let pages = top.map("pages");
    let menus = top.entry("menus");
    let content = top.map("content");
    top.later(&["taxonomies", "routes", "search", "errors", "settings", "ladders", "check"]);
    top.finish();
    let Some((entries, span)) = site else {
        let help = "write [site] with title, theme, language and timezone";
        problems.push(
            Diagnostic::error("missing-key", "hausblatt.toml lacks [site]").help(help).at(&path, Span::default()),
        );
        return None;
    };
    let mut config = read_site(&path, entries, span, problems)?;
    config.front = front.and_then(|(entries, span)| read_front(&path, entries, span, problems));
    for (name, span, data) in collections.iter().flat_map(|(entries, _)| named(entries)) {
        config.collections.extend(read_collection(&path, name, span, data, problems));
    }
    if let Some((entries, span)) = pages {
        let mut reader = Reader::new(&path, "[pages]", entries, span, problems);
        let declared = reader.map("fields");
        reader.finish();
        config.page_fields =
            declared.map(|(entries, _)| fields::declared(&path, entries, problems)).unwrap_or_default();
    }
    if let Some(entry) = menus {
        config.menus = read_menus(&path, entry, problems);
    }
    config.raw_html = content.map(|(entries, span)| read_raw_html(&path, entries, span, problems)).unwrap_or_default();
    Some(config)
}

fn read_site(path: &Arc<str>, entries: &[Entry], span: Span, problems: &mut Vec<Diagnostic>) -> Option<Config> {
    let mut reader = Reader::new(path, "[site]", entries, span, problems);
    let title = reader.required("title", "\"Marrow Lane Seed Library\"");
    let theme = reader.required("theme", "\"harbour\"");
    let address = reader.text("address").map_or("", |(address, _)| address);
    let language = reader.text("language").map_or("en", |(language, _)| language).to_owned();
    let timezone = match reader.text("timezone") {
        None => TimeZone::UTC,
        Some((name, span)) => TimeZone::get(name).unwrap_or_else(|_| {
            let help = "write the name of a place as in Europe/Berlin, or UTC".to_owned();
            reader.error("unknown-timezone", span, format!("unknown timezone \"{name}\""), help);
            TimeZone::UTC
        }),
    };
    let (title, theme) = (title?, theme?);
    let own = ["title", "theme", "address", "language", "timezone"];
    let site = entries.iter().filter(|entry| !own.contains(&&*entry.key));
    let site = site.map(|entry| (entry.key.to_string(), fields::plain(&entry.data))).collect();
    Some(Config {
        path: path.clone(),
        title: title.0.to_owned(),
        address: address.trim_end_matches('/').to_owned(),
        language,
        timezone,
        theme: placed(theme),
        site,
        front: None,
        collections: Vec::new(),
        page_fields: Vec::new(),
        menus: Vec::new(),
        raw_html: RawHtml::default(),
    })
}

fn placed((text, span): (&str, Span)) -> Placed {
    Placed { text: text.to_owned(), span }
}

fn read_front(path: &Arc<str>, entries: &[Entry], span: Span, problems: &mut Vec<Diagnostic>) -> Option<Front> {
    let mut reader = Reader::new(path, "[front]", entries, span, problems);
    let (page, collection) = (reader.text("page"), reader.text("collection"));
    if let (Some(_), Some((_, span))) = (page, collection) {
        reader.error(
            "two-fronts",
            span,
            "the front is a page or a collection, not both",
            "keep one of the two keys".to_owned(),
        );
    }
    reader.finish();
    page.map(|page| Front::Page(placed(page)))
        .or_else(|| collection.map(|collection| Front::Collection(placed(collection))))
}

fn read_collection(
    path: &Arc<str>,
    name: &str,
    span: Span,
    data: &Data,
    problems: &mut Vec<Diagnostic>,
) -> Option<CollectionConfig> {
    let group = format!("[collections.{name}]");
    let Some(entries) = data.as_map() else {
        problems.push(Diagnostic::error("wrong-type", format!("{group} must be a group of keys")).at(path, span));
        return None;
    };
    let mut reader = Reader::new(path, group, entries, span, problems);
    if !is_name(name) {
        let message = format!("\"{name}\" can't name a collection");
        reader.error(
            "bad-name",
            span,
            message,
            "a collection's name is lower-case letters, digits and underscores, and no word of the language".to_owned(),
        );
    }
    if crate::names::GLOBALS.contains(&name) || name == "pages" {
        let message = format!("\"{name}\" has a meaning of its own; a collection can't be called so");
        reader.error("name-taken", span, message, "choose another name".to_owned());
    }
    let address = reader.required("address", &format!("\"/{name}/{{slug}}/\""));
    let listing = reader.text("listing");
    let label = reader.text("label").map_or_else(|| crate::slug::title_of(name), |(label, _)| label.to_owned());
    let per_page = reader.whole("per_page", 1).and_then(|count| usize::try_from(count).ok()).unwrap_or(10);
    let order = reader.text("order").and_then(|order| read_order(&mut reader, order));
    let shows_future = match reader.text("future") {
        Some(("show", _)) => true,
        Some(("wait", _)) | None => false,
        Some((other, span)) => {
            reader.error(
                "wrong-value",
                span,
                format!("\"future\" can't be \"{other}\""),
                "write \"wait\" or \"show\"".to_owned(),
            );
            false
        }
    };
    let declared = reader.map("fields");
    reader.later(&["periods", "feed", "views"]);
    reader.finish();
    check_pattern(path, address, problems);
    check_listing(path, listing, problems);
    Some(CollectionConfig {
        name: Placed { text: name.to_owned(), span },
        label,
        address: placed(address?),
        listing: listing.map(placed),
        per_page,
        order: order.unwrap_or_else(|| ("title".to_owned(), false)),
        shows_future,
        fields: declared.map(|(entries, _)| fields::declared(path, entries, problems)).unwrap_or_default(),
    })
}

fn is_name(name: &str) -> bool {
    let fits = |c: char| c == '_' || (c.is_alphanumeric() && !c.is_uppercase());
    hausblatt_lang::may_name(name) && name.chars().all(fits) && name.starts_with(char::is_alphabetic)
}

fn read_order(reader: &mut Reader<'_, '_>, (order, span): (&str, Span)) -> Option<(String, bool)> {
    let mut words = order.split_whitespace();
    match (words.next(), words.next(), words.next()) {
        (Some(key), None, None) => Some((key.to_owned(), false)),
        (Some(key), Some("desc"), None) => Some((key.to_owned(), true)),
        _ => {
            reader.error(
                "wrong-value",
                span,
                format!("\"{order}\" is no order"),
                "write a key, with \"desc\" behind it for the largest first".to_owned(),
            );
            None
        }
    }
}

fn check_pattern(path: &Arc<str>, address: Option<(&str, Span)>, problems: &mut Vec<Diagnostic>) {
    let Some((pattern, span)) = address else { return };
    let mut plain = pattern.to_owned();
    for part in ["{slug}", "{year}", "{month}", "{day}"] {
        plain = plain.replace(part, "x");
    }
    let help = match () {
        () if !pattern.starts_with('/') || !pattern.ends_with('/') => "an address begins and ends with \"/\"",
        () if !pattern.contains("{slug}") => "{slug} must be in it, or all entries have one address",
        () if plain.contains(['{', '}']) => "{slug}, {year}, {month} and {day} can be in it",
        () if plain.contains("//") || plain.contains(['?', '#', '%']) => "write it as in /journal/{slug}/",
        () => return,
    };
    problems.push(
        Diagnostic::error("bad-address", format!("\"{pattern}\" is no pattern of addresses")).help(help).at(path, span),
    );
}

fn check_listing(path: &Arc<str>, listing: Option<(&str, Span)>, problems: &mut Vec<Diagnostic>) {
    let Some((address, span)) = listing else { return };
    let fits = address.starts_with('/')
        && address.ends_with('/')
        && !address.contains("//")
        && !address.contains(['?', '#', '%', '{', '}']);
    if !fits {
        let message = format!("\"{address}\" is no address");
        problems.push(
            Diagnostic::error("bad-address", message)
                .help("an address begins and ends with \"/\", as in /journal/")
                .at(path, span),
        );
    }
}

fn read_menus(path: &Arc<str>, entry: &Entry, problems: &mut Vec<Diagnostic>) -> Vec<(String, Vec<MenuConfig>)> {
    let Some(menus) = entry.data.as_map() else { return Vec::new() };
    named(menus).map(|(name, span, data)| (name.to_owned(), read_items(path, data, span, problems))).collect()
}

fn read_items(path: &Arc<str>, data: &Data, span: Span, problems: &mut Vec<Diagnostic>) -> Vec<MenuConfig> {
    let Some(items) = data.as_list() else {
        problems.push(
            Diagnostic::error("wrong-type", "a menu is a list of items")
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
            Diagnostic::error("wrong-type", "a menu's item is a group of keys")
                .help("write { to = \"page:visit\" }")
                .at(path, data.span),
        );
        return None;
    };
    let mut reader = Reader::new(path, "a menu's item", entries, data.span, problems);
    let to = reader.required("to", "\"page:visit\"");
    let label = reader.text("label").map(|(label, _)| label.to_owned());
    let children = reader.entry("children");
    reader.finish();
    let children = children.map(|entry| read_items(path, &entry.data, entry.span, problems)).unwrap_or_default();
    Some(MenuConfig { to: placed(to?), label, children })
}

fn read_raw_html(path: &Arc<str>, entries: &[Entry], span: Span, problems: &mut Vec<Diagnostic>) -> RawHtml {
    let mut reader = Reader::new(path, "[content]", entries, span, problems);
    let found = match reader.text("html") {
        None | Some(("clean", _)) => RawHtml::Clean,
        Some(("keep", _)) => RawHtml::Keep,
        Some(("escape", _)) => RawHtml::Escape,
        Some((other, span)) => {
            reader.error(
                "wrong-value",
                span,
                format!("\"html\" can't be \"{other}\""),
                "write \"clean\", \"keep\" or \"escape\"".to_owned(),
            );
            RawHtml::Clean
        }
    };
    reader.finish();
    found
}
