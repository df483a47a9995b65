//! `listing` and `search`: the present entries, page by page.

use hausblatt_lang::value::members;
use hausblatt_lang::value::moment::Moment;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Seq, Value};
use percent_encoding::{NON_ALPHANUMERIC, utf8_percent_encode};

use crate::model::content::ContentId;
use crate::model::request::RESULTS;
use crate::model::request::{Kind, Request, page_address, pages};
use crate::model::site::Period;
use crate::render::host::ContentSeq;
use crate::render::host::terms;
use crate::text::names;
use crate::world::World;

/// How many entries a feed holds.
pub(crate) const FEED: usize = 20;

/// A page of a listing.
#[derive(Clone, Copy)]
pub(crate) struct ListingRecord<'w> {
    world: &'w World,
    request: &'w Request,
    /// All that is listed.
    ids: &'w [ContentId],
    per_page: usize,
    base: &'w str,
    /// What comes after the address of each page.
    tail: &'w str,
    title: &'w str,
}

/// What a request lists; none if it lists nothing.
pub fn of<'a>(world: &'a World, request: &'a Request, scratch: &Scratch<'a>) -> Option<ListingRecord<'a>> {
    let title = || super::request::title(world, request, scratch);
    if request.kind == Kind::Search {
        let title = title();
        let ids = scratch.keep_all(&world.found(&request.query));
        let query = utf8_percent_encode(&request.query, NON_ALPHANUMERIC).to_string();
        let tail = if query.is_empty() { "" } else { scratch.text(&format!("?q={query}")) };
        let base = world.site.config.search.as_ref().map_or("", |search| search.address.text.as_str());
        return Some(ListingRecord { world, request, ids, per_page: RESULTS, base, tail, title });
    }
    let listed = request.listed(&world.site)?;
    let title = title();
    let (ids, per_page) = match request.is_feed() {
        true => (scratch.keep_all(&newest(world, listed.ids)), FEED),
        false => (listed.ids, listed.per_page),
    };
    Some(ListingRecord { world, request, ids, per_page, base: listed.base, tail: "", title })
}

/// The newest of some entries, newest first; those without a date are left out.
pub(crate) fn newest(world: &World, ids: &[ContentId]) -> Vec<ContentId> {
    let date = |id: ContentId| world.site.content(id).date;
    let mut dated: Vec<ContentId> = ids.iter().copied().filter(|&id| date(id).is_some()).collect();
    dated.sort_by(|&a, &b| match (date(a), date(b)) {
        (Some(a), Some(b)) => b.order(a, &world.site.config.timezone),
        _ => std::cmp::Ordering::Equal,
    });
    dated.truncate(FEED);
    dated
}

impl<'w> ListingRecord<'w> {
    fn pages(&self) -> u32 {
        pages(self.ids.len(), self.per_page)
    }

    fn address<'a>(&self, page: u32, scratch: &Scratch<'a>) -> Value<'a> {
        if page < 1 || page > self.pages() {
            return Value::Nothing;
        }
        Value::Text(scratch.text(&format!("{}{}", page_address(self.base, page), self.tail)))
    }

    /// The entries on this page.
    pub fn items(&self) -> &'w [ContentId] {
        let start = (self.request.number.max(1) as usize - 1).saturating_mul(self.per_page).min(self.ids.len());
        let end = start.saturating_add(self.per_page).min(self.ids.len());
        &self.ids[start..end]
    }
}

impl Record for ListingRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let (world, request) = (self.world, self.request);
        match symbol {
            names::TITLE => Value::Text(self.title),
            members::ITEMS => Value::Seq(scratch.keep(ContentSeq { world, ids: self.items() })),
            names::PAGE => Value::Int(i64::from(request.number)),
            names::TOTAL => Value::Int(self.ids.len() as i64),
            names::PAGES => Value::Seq(scratch.keep(Pages { listing: *self })),
            names::PREVIOUS => self.address(request.number.wrapping_sub(1), scratch),
            names::NEXT => self.address(request.number + 1, scratch),
            names::COLLECTION => {
                let of_route = || match request.kind {
                    Kind::Route(number, _) => Some(world.site.routes.get(usize::from(number))?.listed(&world.site)?.0),
                    _ => None,
                };
                let collection = request.kind.collection().and_then(|at| world.site.collections.get(usize::from(at)));
                collection
                    .or_else(of_route)
                    .map_or(Value::Nothing, |collection| Value::Text(&collection.config.name.text))
            }
            names::FEED => {
                let collection = request.kind.listing().and_then(|at| world.site.collections.get(usize::from(at)));
                let feed = collection.and_then(|collection| collection.feed.as_deref());
                feed.map_or(Value::Nothing, Value::Text)
            }
            names::TERM => request.kind.term().map_or(Value::Nothing, |id| terms::value(world, id, scratch)),
            names::PERIOD => match request.kind.period(&world.site) {
                Some(period) => Value::Record(scratch.keep(PeriodRecord { period })),
                None => Value::Nothing,
            },
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![
            names::TITLE,
            members::ITEMS,
            names::PAGE,
            names::TOTAL,
            names::PAGES,
            names::PREVIOUS,
            names::NEXT,
            names::COLLECTION,
            names::FEED,
            names::TERM,
            names::PERIOD,
        ]
    }
}

/// All pages of a listing.
struct Pages<'w> {
    listing: ListingRecord<'w>,
}

impl Seq for Pages<'_> {
    fn len(&self) -> usize {
        self.listing.pages() as usize
    }

    fn at<'a>(&'a self, index: usize, scratch: &Scratch<'a>) -> Value<'a> {
        if index >= self.len() {
            return Value::Nothing;
        }
        let page = u32::try_from(index + 1).unwrap_or(u32::MAX);
        Value::Record(scratch.keep(PageOf { listing: &self.listing, page }))
    }
}

/// One page of a listing, for links to it.
struct PageOf<'w> {
    listing: &'w ListingRecord<'w>,
    page: u32,
}

impl Record for PageOf<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        match symbol {
            members::NUMBER => Value::Int(i64::from(self.page)),
            names::ADDRESS => self.listing.address(self.page, scratch),
            names::HERE => Value::Bool(self.page == self.listing.request.number),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![members::NUMBER, names::ADDRESS, names::HERE]
    }
}

/// A year, month or day.
struct PeriodRecord<'w> {
    period: &'w Period,
}

/// The first day of a period.
pub(crate) fn first_day(period: &Period) -> Option<Moment> {
    let day = jiff::civil::Date::new(period.year, period.month.unwrap_or(1), period.day.unwrap_or(1));
    day.ok().map(Moment::Day)
}

impl Record for PeriodRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let part = |part: Option<i8>| part.map_or(Value::Nothing, |part| Value::Int(i64::from(part)));
        match symbol {
            members::YEAR => Value::Int(i64::from(self.period.year)),
            members::MONTH => part(self.period.month),
            members::DAY => part(self.period.day),
            members::DATE => first_day(self.period).map_or(Value::Nothing, Value::Date),
            names::ADDRESS => Value::Text(&self.period.address),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![members::YEAR, members::MONTH, members::DAY, members::DATE, names::ADDRESS]
    }
}

/// `search`: what is searched for, and what was found.
pub(crate) struct SearchRecord<'w> {
    /// What is searched for.
    pub query: &'w str,
    /// The page of results present.
    pub listing: ListingRecord<'w>,
}

impl Record for SearchRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        match symbol {
            names::QUERY => Value::Text(self.query),
            members::ITEMS => self.listing.get(members::ITEMS, scratch),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::QUERY, members::ITEMS]
    }
}
