//! `hausblatt.toml` as a whole, read group by group.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::language::is_tag;
use hausblatt_lang::value::shape::Interner;
use jiff::tz::TimeZone;
use unicode_normalization::UnicodeNormalization;

use crate::schema::config::{
    Allowance, BuildConfig, CollectionConfig, ImagesConfig, Ladders, MenuConfig, RouteConfig, SearchConfig,
    TaxonomyConfig, allow, build, collection, content, ladders, menu, route, taxonomy,
};
use crate::schema::fields::{self, Conversion, Field};
use crate::text::codes;
use crate::text::data::Entry;
use crate::text::markdown::RawHtml;
use crate::text::reader::{DataReader, named};
use crate::text::toml_data;

/// The name of the file.
pub const FILE: &str = "hausblatt.toml";

/// The keys of `[site]` that mean something; others are for templates.
pub(crate) const SITE_KEYS: &[&str] = &["title", "theme", "address", "language", "timezone"];

/// A text and where it is.
#[derive(Clone, Debug, Default)]
pub struct Spanned {
    /// The text.
    pub text: String,
    /// Where it is in `hausblatt.toml`.
    pub span: Span,
}

/// What `/` is.
#[derive(Clone, Debug)]
pub enum Front {
    /// A page, by its id.
    Page(Spanned),
    /// A collection's listing.
    Collection(Spanned),
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
    pub theme: Spanned,
    /// Other keys of `[site]`, for templates.
    pub site: Vec<(String, Datum)>,
    own: Vec<Entry>,
    /// What `/` is.
    pub front: Option<Front>,
    /// The collections, in the order of the file.
    pub collections: Vec<CollectionConfig>,
    /// The taxonomies, in the order of the file.
    pub taxonomies: Vec<TaxonomyConfig>,
    /// Requests that are not content, in the order of the file.
    pub routes: Vec<RouteConfig>,
    /// Where the site is searched, if it is.
    pub search: Option<SearchConfig>,
    /// The ids of the pages that fill error pages, by status.
    pub errors: Vec<(u16, Spanned)>,
    /// Values for what the theme declares.
    pub settings: Vec<Entry>,
    /// Ladders that replace those of their kinds.
    pub ladders: Ladders,
    /// The fields that pages may carry.
    pub page_fields: Vec<Field>,
    /// The menus, in the order of the file.
    pub menus: Vec<(String, Vec<MenuConfig>)>,
    /// What is done with raw HTML in Markdown.
    pub raw_html: RawHtml,
    /// How images in Markdown are shown, if not in their own width alone.
    pub images: Option<ImagesConfig>,
    /// How files are published.
    pub build: BuildConfig,
    /// What `check` does not report.
    pub allowed: Vec<Allowance>,
    /// What `rehearse` does not report in addition.
    pub allowed_in_rehearsals: Vec<Allowance>,
}

impl Config {
    /// Gives names in fields and in `[site]` their numbers, and converts defaults.
    pub(crate) fn make_ready(
        &mut self,
        conversion: &Conversion<'_>,
        symbols: &mut Interner,
        problems: &mut Vec<Diagnostic>,
    ) {
        let path = self.path.clone();
        self.site = self.own.iter().map(|entry| (entry.key.to_string(), fields::plain(&entry.data, symbols))).collect();
        fields::ready(&path, &mut self.page_fields, conversion, symbols, problems);
        self.routes.iter_mut().for_each(|route| route.make_ready(symbols));
        for collection in &mut self.collections {
            fields::ready(&path, &mut collection.fields, conversion, symbols, problems);
        }
    }

    /// The taxonomies that group the entries of a collection, or `pages`.
    pub fn taxonomies_of<'c>(&'c self, home: &'c str) -> impl Iterator<Item = &'c TaxonomyConfig> {
        self.taxonomies.iter().filter(move |taxonomy| taxonomy.of.iter().any(|of| of.text == home))
    }
}

/// Reads `hausblatt.toml`. Without `[site]`'s title and theme there is no site to load.
pub fn read(text: &str, problems: &mut Vec<Diagnostic>) -> Option<Config> {
    let path: Arc<str> = FILE.into();
    let before = problems.len();
    let entries = toml_data::read(&path, text, problems);
    if problems.len() > before {
        return None;
    }
    let mut top = DataReader::new(&path, FILE, &entries, Span::default(), problems);
    let site = top.map("site");
    let front = top.map("front");
    let collections = top.map("collections");
    let pages = top.map("pages");
    let menus = top.entry("menus");
    let content = top.map("content");
    let taxonomies = top.map("taxonomies");
    let routes = top.map("routes");
    let search = top.map("search");
    let errors = top.map("errors");
    let settings = top.map("settings");
    let ladders = top.map("ladders");
    let build = top.map("build");
    let check = top.map("check");
    let rehearse = top.map("rehearse");
    top.finish();
    let Some((entries, span)) = site else {
        let help = "write [site] with title, theme, language and timezone";
        problems.push(
            Diagnostic::of(&codes::MISSING_KEY, "hausblatt.toml lacks [site]").help(help).at(&path, Span::default()),
        );
        return None;
    };
    let mut config = read_site(&path, entries, span, problems)?;
    config.front = front.and_then(|(entries, span)| read_front(&path, entries, span, problems));
    for (name, span, data) in collections.iter().flat_map(|(entries, _)| named(entries)) {
        config.collections.extend(collection::read(&path, name, span, data, problems));
    }
    for (name, span, data) in taxonomies.iter().flat_map(|(entries, _)| named(entries)) {
        config.taxonomies.extend(taxonomy::read(&path, name, span, data, problems));
    }
    for (name, span, data) in routes.iter().flat_map(|(entries, _)| named(entries)) {
        config.routes.extend(route::read(&path, name, span, data, problems));
    }
    config.search = search.and_then(|(entries, span)| route::read_search(&path, entries, span, problems));
    config.errors = errors.map(|(entries, _)| route::read_errors(&path, entries, problems)).unwrap_or_default();
    config.settings = settings.map(|(entries, _)| entries.to_vec()).unwrap_or_default();
    taxonomy::check(&config, problems);
    collection::check(&mut config, problems);
    config.ladders =
        ladders.map(|(entries, span)| ladders::read(&path, entries, span, &config, problems)).unwrap_or_default();
    if let Some((entries, span)) = pages {
        let mut reader = DataReader::new(&path, "[pages]", entries, span, problems);
        let declared = reader.map("fields");
        reader.finish();
        config.page_fields =
            declared.map(|(entries, _)| fields::declared(&path, entries, problems)).unwrap_or_default();
        config.page_fields = fields::without_taken(&path, std::mem::take(&mut config.page_fields), problems);
    }
    if let Some(entry) = menus {
        config.menus = menu::read(&path, entry, problems);
    }
    config.allowed =
        check.map(|(entries, span)| allow::read(&path, "check", entries, span, problems)).unwrap_or_default();
    let rehearse = rehearse.map(|(entries, span)| allow::read(&path, "rehearse", entries, span, problems));
    config.allowed_in_rehearsals = rehearse.unwrap_or_default();
    config.build = build.map(|(entries, span)| build::read(&path, entries, span, problems)).unwrap_or_default();
    if let Some((entries, span)) = content {
        (config.raw_html, config.images) = content::read(&path, entries, span, problems);
    }
    Some(config)
}

/// What is wrong with the address of the site itself: a scheme and a host, to which the paths of pages are added.
fn wrong_address(address: &str) -> Option<Diagnostic> {
    let rest = ["https://", "http://"].iter().find_map(|scheme| address.strip_prefix(scheme));
    let host = rest.map(|rest| rest.split(['/', '?', '#']).next().unwrap_or(""));
    let (message, help) = match (rest, host) {
        (None, _) => {
            let bare = address.trim_start_matches('/').split('/').next().unwrap_or("");
            let help = format!(
                "write the scheme, too, as in \"https://{}\"",
                if bare.is_empty() { "seeds.example" } else { bare }
            );
            ("the site's address has no scheme", help)
        }
        (_, Some("")) => ("the site's address has no host", "write it as in \"https://seeds.example\"".to_owned()),
        (Some(rest), Some(host)) if rest.trim_end_matches('/') != host => {
            let scheme = if address.starts_with("https") { "https" } else { "http" };
            ("the site's address has more than a scheme and a host", format!("write \"{scheme}://{host}\""))
        }
        _ => return None,
    };
    Some(Diagnostic::of(&codes::BAD_SITE_ADDRESS, message).help(help))
}

fn read_site(path: &Arc<str>, entries: &[Entry], span: Span, problems: &mut Vec<Diagnostic>) -> Option<Config> {
    let mut reader = DataReader::new(path, "[site]", entries, span, problems);
    let title = reader.required("title", "\"Marrow Lane Seed Library\"");
    let theme = reader.required("theme", "\"harbour\"");
    let address = reader.text("address");
    let language = reader.text("language");
    let unusable = address.and_then(|(address, span)| Some((wrong_address(address)?, span)));
    let unknown = language.filter(|(tag, _)| !is_tag(tag)).map(|(tag, span)| {
        let diagnostic = Diagnostic::of(&codes::BAD_LANGUAGE, format!("\"{tag}\" is not a language tag (BCP 47)"));
        (diagnostic.help("write it as in en, de or pt-BR"), span)
    });
    for (diagnostic, span) in unusable.into_iter().chain(unknown) {
        reader.report(diagnostic, span);
    }
    let address = address.map_or("", |(address, _)| address);
    let language = language.map_or("en", |(language, _)| language).to_owned();
    let timezone = match reader.text("timezone") {
        None => TimeZone::UTC,
        Some((name, span)) => TimeZone::get(name).unwrap_or_else(|_| {
            let help = "write the name of a place as in Europe/Berlin, or UTC".to_owned();
            reader.error(&codes::UNKNOWN_TIMEZONE, span, format!("unknown timezone \"{name}\""), help);
            TimeZone::UTC
        }),
    };
    let (title, theme) = (title?, theme?);
    let own = entries.iter().filter(|entry| !SITE_KEYS.contains(&&*entry.key)).cloned().collect();
    Some(Config {
        path: path.clone(),
        title: title.0.to_owned(),
        address: address.trim_end_matches('/').to_owned(),
        language,
        timezone,
        theme: placed(theme),
        own,
        site: Vec::new(),
        front: None,
        collections: Vec::new(),
        taxonomies: Vec::new(),
        routes: Vec::new(),
        images: None,
        build: BuildConfig::default(),
        search: None,
        errors: Vec::new(),
        settings: Vec::new(),
        ladders: Ladders::default(),
        page_fields: Vec::new(),
        menus: Vec::new(),
        raw_html: RawHtml::default(),
        allowed: Vec::new(),
        allowed_in_rehearsals: Vec::new(),
    })
}

/// Whether `name` can name a collection or a taxonomy; what is wrong with it is reported.
pub(super) fn check_name(path: &Arc<str>, what: &str, name: &str, span: Span, problems: &mut Vec<Diagnostic>) {
    let fits = |c: char| c == '_' || (c.is_alphanumeric() && !c.is_uppercase());
    if !hausblatt_lang::may_name(name) || !name.chars().all(fits) || !name.starts_with(char::is_alphabetic) {
        let help =
            format!("a {what}'s name is lower-case letters, digits and underscores, and no word of the language");
        let message = format!("\"{name}\" can't name a {what}");
        problems.push(Diagnostic::of(&codes::BAD_NAME, message).help(help).at(path, span));
    }
    if crate::text::names::GLOBALS.contains(&name) || name == "pages" {
        let message = format!("\"{name}\" has a meaning of its own; a {what} can't be called so");
        problems.push(Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("choose another name").at(path, span));
    }
}

/// What is wrong with an address, if anything is.
pub(super) fn problem_of_address(address: &str) -> Option<&'static str> {
    if !address.starts_with('/') || !address.ends_with('/') {
        Some("an address begins and ends with \"/\"")
    } else if address.contains("//") || address.contains(['?', '#', '%', '\\']) {
        Some("write it as in /journal/, without ? # % or a doubled /")
    } else if address.split('/').any(|part| part == "." || part == "..") {
        Some("leave out \".\" and \"..\"")
    } else if address.chars().any(|c| c.is_control() || c.is_whitespace()) {
        Some("write it without spaces")
    } else {
        None
    }
}

/// The names in braces of a pattern, and the pattern with `x` in their places; none where a brace is not closed.
pub(crate) fn placeholders(pattern: &str) -> Option<(Vec<&str>, String)> {
    let (mut names, mut plain, mut rest) = (Vec::new(), String::new(), pattern);
    while let Some((before, behind)) = rest.split_once('{') {
        let (name, after) = behind.split_once('}')?;
        plain.push_str(before);
        plain.push('x');
        names.push(name);
        rest = after;
    }
    plain.push_str(rest);
    (!plain.contains('}')).then_some((names, plain))
}

/// An address or a pattern of addresses, in the form in which requests are read.
pub(super) fn placed_address((text, span): (&str, Span)) -> Spanned {
    Spanned { text: text.nfc().collect(), span }
}

pub(super) fn placed((text, span): (&str, Span)) -> Spanned {
    Spanned { text: text.to_owned(), span }
}

fn read_front(path: &Arc<str>, entries: &[Entry], span: Span, problems: &mut Vec<Diagnostic>) -> Option<Front> {
    let mut reader = DataReader::new(path, "[front]", entries, span, problems);
    let (page, collection) = (reader.text("page"), reader.text("collection"));
    if let (Some(_), Some((_, span))) = (page, collection) {
        reader.error(
            &codes::TWO_FRONTS,
            span,
            "the front is a page or a collection, not both",
            "keep one of the two keys".to_owned(),
        );
    }
    reader.finish();
    page.map(|page| Front::Page(placed(page)))
        .or_else(|| collection.map(|collection| Front::Collection(placed(collection))))
}
