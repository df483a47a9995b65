//! `[collections.NAME]`.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::{did_you_mean, nearest};

use crate::schema::config::{Config, Spanned, check_name, former, placed_address, placeholders, problem_of_address};
use crate::schema::fields::{self, Field};
use crate::text::codes;
use crate::text::data::Data;
use crate::text::reader::{self, DataReader};
use crate::text::slug::is_slug;

/// A part of a date by which entries are listed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum PeriodPart {
    /// Listings of a year.
    Year,
    /// Listings of a month.
    Month,
    /// Listings of a day.
    Day,
}

/// A collection as configured.
#[derive(Clone, Debug)]
pub struct CollectionConfig {
    /// Its name.
    pub name: Spanned,
    /// What it is called.
    pub label: String,
    /// The pattern of its entries' addresses.
    pub address: Spanned,
    /// Whether that pattern is right; entries have no address with a wrong one, which is reported itself.
    pub has_pattern: bool,
    /// Its listing's address.
    pub listing: Option<Spanned>,
    /// Entries on one page of its listing.
    pub per_page: usize,
    /// By what entries are ordered: a key, and whether descending.
    pub order: (String, bool),
    /// Where it says so.
    pub order_span: Span,
    /// The periods that have listings.
    pub periods: Vec<PeriodPart>,
    /// Whether it has a feed; where it says so.
    pub feed: Option<Span>,
    /// Other views of its entries.
    pub views: Vec<Spanned>,
    /// Whether entries dated in the future are shown at once.
    pub shows_future: bool,
    /// The fields its entries may carry.
    pub fields: Vec<Field>,
    /// Addresses that its listing had.
    pub formerly: Vec<Spanned>,
}

/// Reads one collection.
pub fn read(
    path: &Arc<str>,
    name: &str,
    span: Span,
    data: &Data,
    problems: &mut Vec<Diagnostic>,
) -> Option<CollectionConfig> {
    let group = format!("[collections.{name}]");
    let entries = reader::group(path, &group, span, data, problems)?;
    check_name(path, "collection", name, span, problems);
    let mut reader = DataReader::new(path, group, entries, span, problems);
    let address = reader.required("address", &format!("\"/{name}/{{slug}}/\""));
    let listing = reader.text("listing");
    let label = reader.text("label").map_or_else(|| crate::text::slug::title_of(name), |(label, _)| label.to_owned());
    let per_page = reader.whole("per_page", 1).and_then(|count| usize::try_from(count).ok()).unwrap_or(10);
    let order = reader.text("order");
    let order_span = order.map_or(span, |(_, span)| span);
    let order = order.and_then(|order| read_order(&mut reader, order));
    let shows_future = read_future(&mut reader);
    let declared = reader.map("fields");
    let periods = reader.texts("periods").unwrap_or_default();
    let periods = periods.into_iter().filter_map(|period| read_period(&mut reader, period)).collect();
    let feed = reader.truth("feed").filter(|(feed, _)| *feed).map(|(_, span)| span);
    let views = reader.texts("views").unwrap_or_default();
    let views = views.into_iter().filter_map(|view| read_view(&mut reader, view)).collect();
    let formerly = former::read(&mut reader);
    reader.finish();
    if let Some((address, span, help)) =
        listing.and_then(|(address, span)| Some((address, span, problem_of_listing(address)?)))
    {
        let message = format!("\"{address}\" is not a valid address");
        problems.push(Diagnostic::of(&codes::BAD_ADDRESS, message).help(help).at(path, span));
    }
    let fields = declared.map(|(entries, _)| fields::declared(path, entries, problems)).unwrap_or_default();
    let fields = fields::without_taken(path, fields, problems);
    Some(CollectionConfig {
        name: Spanned { text: name.to_owned(), span },
        label,
        address: placed_address(address?),
        has_pattern: true,
        listing: listing.map(placed_address),
        per_page,
        order: order.unwrap_or_else(|| ("title".to_owned(), false)),
        order_span,
        periods,
        feed,
        views,
        shows_future,
        fields,
        formerly,
    })
}

fn problem_of_listing(address: &str) -> Option<&'static str> {
    problem_of_address(address).or(address.contains(['{', '}']).then_some("a listing has one address, as in /journal/"))
}

fn read_order(reader: &mut DataReader<'_, '_>, (order, span): (&str, Span)) -> Option<(String, bool)> {
    let mut words = order.split_whitespace();
    match (words.next(), words.next(), words.next()) {
        (Some(key), None, None) => Some((key.to_owned(), false)),
        (Some(key), Some("desc"), None) => Some((key.to_owned(), true)),
        _ => {
            reader.error(
                &codes::WRONG_VALUE,
                span,
                format!("\"{order}\" is not an order"),
                "write a key, with \"desc\" after it for the largest first".to_owned(),
            );
            None
        }
    }
}

fn read_future(reader: &mut DataReader<'_, '_>) -> bool {
    match reader.text("future") {
        Some(("show", _)) => true,
        Some(("wait", _)) | None => false,
        Some((other, span)) => {
            reader.error(
                &codes::WRONG_VALUE,
                span,
                format!("\"future\" can't be \"{other}\""),
                "write \"wait\" or \"show\"".to_owned(),
            );
            false
        }
    }
}

fn read_period(reader: &mut DataReader<'_, '_>, (word, span): (&str, Span)) -> Option<PeriodPart> {
    match word {
        "year" => Some(PeriodPart::Year),
        "month" => Some(PeriodPart::Month),
        "day" => Some(PeriodPart::Day),
        _ => {
            let help = did_you_mean(word, ["year", "month", "day"])
                .unwrap_or_else(|| "the periods are year, month and day".to_owned());
            reader.error(&codes::WRONG_VALUE, span, format!("\"{word}\" is not a valid period"), help);
            None
        }
    }
}

fn read_view(reader: &mut DataReader<'_, '_>, (view, span): (&str, Span)) -> Option<Spanned> {
    if is_slug(view) && view != "page" {
        return Some(Spanned { text: view.to_owned(), span });
    }
    let help = "a view's name is lower-case letters and digits with single hyphens between them".to_owned();
    reader.error(&codes::BAD_NAME, span, format!("\"{view}\" can't name a view"), help);
    None
}

/// What is wrong among the collections and with what else the site has.
pub fn check(config: &mut Config, problems: &mut Vec<Diagnostic>) {
    for number in 0..config.collections.len() {
        let problem = problem_of_pattern(config, &config.collections[number]);
        config.collections[number].has_pattern = problem.is_none();
        problems.extend(problem);
    }
    for collection in &config.collections {
        check_order(config, collection, problems);
        let is_front =
            matches!(&config.front, Some(super::Front::Collection(name)) if name.text == collection.name.text);
        let needs = [
            (collection.feed, "a feed"),
            ((!collection.periods.is_empty()).then_some(collection.name.span), "a listing by periods"),
        ];
        for (span, what) in needs.into_iter().filter(|_| collection.listing.is_none() && !is_front) {
            let Some(span) = span else { continue };
            let message = format!("{what} is below a listing, and \"{}\" has none", collection.name.text);
            let help = format!("write listing = \"/{}/\"", collection.name.text);
            problems.push(Diagnostic::of(&codes::MISSING_KEY, message).help(help).at(&config.path, span));
        }
        if let Some(span) = collection.feed.filter(|_| config.address.is_empty()) {
            let diagnostic =
                Diagnostic::of(&codes::NO_SITE_ADDRESS, "a feed needs the site's own address for its links");
            problems.push(diagnostic.help("write address = \"https://…\" under [site]").at(&config.path, span));
        }
    }
}

fn check_order(config: &Config, collection: &CollectionConfig, problems: &mut Vec<Diagnostic>) {
    let key = &collection.order.0;
    let fields = collection.fields.iter().map(|field| field.name.as_str());
    let known: Vec<&str> = ["title", "date", "updated", "order", "id"].into_iter().chain(fields).collect();
    if !known.contains(&key.as_str()) {
        let help = did_you_mean(key, known.iter().copied())
            .unwrap_or_else(|| format!("declare it under fields, or order by {}", known.join(", ")));
        let message = format!("no entry of \"{}\" is known to have \"{key}\"", collection.name.text);
        problems
            .push(Diagnostic::of(&codes::UNKNOWN_ORDER, message).help(help).at(&config.path, collection.order_span));
    }
}

fn problem_of_pattern(config: &Config, collection: &CollectionConfig) -> Option<Diagnostic> {
    let (pattern, span) = (&collection.address.text, collection.address.span);
    let taxonomies = config.taxonomies_of(&collection.name.text).map(|taxonomy| taxonomy.name.text.as_str());
    let known: Vec<&str> = ["slug", "year", "month", "day"].into_iter().chain(taxonomies).collect();
    let help = match placeholders(pattern) {
        None => "each { needs a }".to_owned(),
        Some((names, plain)) => match names.iter().find(|name| !known.contains(name)) {
            Some(name) => {
                let message =
                    format!("there is no placeholder {{{name}}} for the addresses of {}", collection.name.text);
                let help = match nearest(name, known.iter().copied()) {
                    Some(near) => format!("did you mean {{{near}}}?"),
                    None => format!(
                        "{{{}}} can be in it, and the name of a taxonomy whose \"of\" has \"{}\"",
                        known.join("}, {"),
                        collection.name.text
                    ),
                };
                return Some(Diagnostic::of(&codes::BAD_ADDRESS, message).help(help).at(&config.path, span));
            }
            None if !names.contains(&"slug") => "{slug} must be in it, or all entries have one address".to_owned(),
            None => match problem_of_address(&plain) {
                Some(help) => help.to_owned(),
                None => return None,
            },
        },
    };
    let message = format!("\"{pattern}\" is not a valid pattern of addresses");
    Some(Diagnostic::of(&codes::BAD_ADDRESS, message).help(help).at(&config.path, span))
}
