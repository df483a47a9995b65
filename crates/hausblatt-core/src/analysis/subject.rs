//! What an address is, in a line.

use crate::lookup::map::error_request;
use crate::lookup::resolution::Resolution;
use crate::model::request::{FrontOf, Kind, ListingOf};
use crate::world::World;

/// What an address is, in a line: its kind, and the content after it.
pub fn subject(world: &World, resolution: &Resolution) -> String {
    let request = &resolution.request;
    let content = request.content(&world.site).map(|id| world.site.content(id));
    let collection = |number: u16| {
        world.site.collections.get(usize::from(number)).map_or("", |collection| collection.config.name.text.as_str())
    };
    let what = match &request.kind {
        Kind::Entry(_) => content
            .and_then(|content| world.site.collection_of(content))
            .map_or_else(|| "entry".to_owned(), |collection| format!("entry of {}", collection.config.name.text)),
        Kind::Listing(ListingOf::Collection(number)) if request.is_feed() => format!("feed of {}", collection(*number)),
        Kind::Listing(ListingOf::Collection(number)) => format!("listing of {}", collection(*number)),
        Kind::Front(FrontOf::Collection(number)) => format!("front: listing of {}", collection(*number)),
        Kind::Listing(ListingOf::Term(id)) => match world.site.term(*id) {
            Some((taxonomy, term)) => format!("listing of the {} \"{}\"", taxonomy.config.name.text, term.label),
            None => "listing of a term".to_owned(),
        },
        Kind::Period(number, _) => format!("entries of {} by date", collection(*number)),
        Kind::Search if request.query.is_empty() => "search, for nothing yet".to_owned(),
        Kind::Search => format!("search for \"{}\"", request.query),
        Kind::Route(number, row) => {
            let route = world.site.routes.get(usize::from(*number));
            let row = row.and_then(|row| route?.rows.get(row as usize)).map_or("", |row| &row.slug);
            let name = route.map_or("", |route| route.config.name.text.as_str());
            if row.is_empty() { format!("route {name}") } else { format!("route {name}, row {row}") }
        }
        Kind::Error(404) if request.title.is_none() && request.address != error_request(404).address => {
            "error: nothing is at this address".to_owned()
        }
        Kind::Error(status) => format!("error {status}"),
        Kind::Front(_) => "front".to_owned(),
        Kind::Page(_) => "page".to_owned(),
        Kind::Sitemap(None) => "the sitemap".to_owned(),
        Kind::Sitemap(Some(part)) => format!("part {part} of the sitemap"),
        Kind::Robots => "robots.txt".to_owned(),
    };
    let view = request.view.as_ref().map_or(String::new(), |view| format!(", view {view}"));
    let page = if request.number > 1 { format!(", page {}", request.number) } else { String::new() };
    let what = format!("{what}{view}{page}");
    match content {
        Some(content) => format!("{what} · {}", content.path()),
        None => what,
    }
}
