//! Requests: what is requested at an address.

use hausblatt_lang::text::ending::Ending;

use crate::model::content::{ContentId, Section};
use crate::model::site::{Period, Site, Target};
use crate::model::taxonomy::TermId;

/// How many results are on a page of a search.
pub(crate) const RESULTS: usize = 20;

/// What sort of request it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Kind {
    /// `/`, as this page or as a collection's listing.
    Front(FrontOf),
    /// A page.
    Page(ContentId),
    /// An entry.
    Entry(ContentId),
    /// A collection's or a term's entries.
    Listing(ListingOf),
    /// The entries of one of a collection's periods.
    Period(u16, u32),
    /// Search results.
    Search,
    /// A declared route, or that of one row of its table.
    Route(u16, Option<u32>),
    /// A failure with this status.
    Error(u16),
    /// `sitemap.xml`, or a part of it.
    Sitemap(Option<u32>),
    /// `robots.txt`
    Robots,
}

/// What the front is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FrontOf {
    /// A page.
    Page(ContentId),
    /// A collection's listing.
    Collection(u16),
}

/// Whose entries a listing holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum ListingOf {
    /// A collection's.
    Collection(u16),
    /// A term's, and those of the terms below it.
    Term(TermId),
}

impl Kind {
    /// The word for it; none for what is not one of the kinds.
    pub fn word(&self) -> Option<&'static str> {
        Some(match self {
            Kind::Front(_) => "front",
            Kind::Page(_) => "page",
            Kind::Entry(_) => "entry",
            Kind::Listing(_) => "listing",
            Kind::Period(..) => "period",
            Kind::Search => "search",
            Kind::Route(..) => "route",
            Kind::Error(_) => "error",
            Kind::Sitemap(_) | Kind::Robots => return None,
        })
    }

    /// The page or entry that it is about.
    pub fn content(&self) -> Option<ContentId> {
        match self {
            Kind::Page(id) | Kind::Entry(id) | Kind::Front(FrontOf::Page(id)) => Some(*id),
            _ => None,
        }
    }

    /// The collection whose entries, or some of them, it lists.
    pub fn collection(&self) -> Option<u16> {
        match self {
            Kind::Listing(ListingOf::Collection(number))
            | Kind::Front(FrontOf::Collection(number))
            | Kind::Period(number, _) => Some(*number),
            _ => None,
        }
    }

    /// The collection whose whole listing it is.
    pub fn listing(&self) -> Option<u16> {
        self.collection().filter(|_| !matches!(self, Kind::Period(..)))
    }

    /// The collection or the term whose whole listing it is.
    fn listing_of(&self) -> Option<ListingOf> {
        self.listing().map(ListingOf::Collection).or_else(|| self.term().map(ListingOf::Term))
    }

    /// The term whose entries it lists.
    pub fn term(&self) -> Option<TermId> {
        match self {
            Kind::Listing(ListingOf::Term(term)) => Some(*term),
            _ => None,
        }
    }

    /// The period whose entries it lists.
    pub fn period<'s>(&self, site: &'s Site) -> Option<&'s Period> {
        match self {
            Kind::Period(number, at) => site.collections.get(usize::from(*number))?.periods.get(*at as usize),
            _ => None,
        }
    }
}

/// A request that some template answers.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Request {
    /// Its address, decoded.
    pub address: String,
    /// What it is about.
    pub kind: Kind,
    /// Another view of it.
    pub view: Option<String>,
    /// The format of the answer.
    pub format: Ending,
    /// The HTTP status of the answer, unless a template changes it.
    pub status: u16,
    /// Which page of a listing, from 1.
    pub number: u32,
    /// What is searched for.
    pub query: String,
    /// What comes after `?`, of the names that a route declares.
    pub parameters: Vec<(String, String)>,
    /// What a failed request says about itself, if it says anything.
    pub title: Option<String>,
}

/// What an address leads to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Routed {
    /// A request that a template answers.
    Request(Request),
    /// Another address, for good (301).
    Redirect(String),
}

/// The entries that a request lists, all pages of it together.
pub struct Listed<'s> {
    /// The entries.
    pub ids: &'s [ContentId],
    /// How many are on one page.
    pub per_page: usize,
    /// The address of the first page.
    pub base: &'s str,
}

impl Listed<'_> {
    /// How many pages there are; an empty listing has one.
    pub fn pages(&self) -> u32 {
        pages(self.ids.len(), self.per_page)
    }
}

/// How many pages `count` entries fill; no entries have one.
pub fn pages(count: usize, per_page: usize) -> u32 {
    u32::try_from(count.div_ceil(per_page.max(1)).max(1)).unwrap_or(u32::MAX)
}

impl Request {
    /// A request answered with 200.
    pub fn ok(address: &str, kind: Kind, number: u32) -> Self {
        Self {
            address: address.to_owned(),
            kind,
            view: None,
            format: Ending::Html,
            status: 200,
            number,
            query: String::new(),
            parameters: Vec::new(),
            title: None,
        }
    }

    /// A failed request.
    pub fn error(address: &str, status: u16, title: Option<String>) -> Self {
        Self { status, title, ..Self::ok(address, Kind::Error(status), 1) }
    }

    /// The content that is there in addition, or itself: a listing's introduction, an error page's words.
    pub fn content(&self, site: &Site) -> Option<ContentId> {
        match self.kind {
            Kind::Error(status) => site.error_content(status),
            _ => {
                let introduction = || site.introductions.get(&self.kind.listing_of()?).copied();
                self.kind.content().or_else(introduction)
            }
        }
    }

    /// What it lists, if that does not depend on a query.
    pub fn listed<'s>(&self, site: &'s Site) -> Option<Listed<'s>> {
        listed(site, &self.kind)
    }

    /// Whether it is a collection's feed.
    pub fn is_feed(&self) -> bool {
        self.format == Ending::Xml && self.kind.listing().is_some()
    }
}

fn listed<'s>(site: &'s Site, kind: &Kind) -> Option<Listed<'s>> {
    if let Some(id) = kind.term() {
        let (taxonomy, term) = site.term(id)?;
        let per_page = site.per_page_of_term(taxonomy);
        return Some(Listed { ids: &term.entries, per_page, base: term.address.as_deref()? });
    }
    if let Kind::Route(number, row) = *kind {
        let route = site.routes.get(usize::from(number))?;
        let (collection, per_page) = route.listed(site)?;
        let base = match row {
            Some(row) => &route.rows.get(row as usize)?.address,
            None => &route.config.address.text,
        };
        return Some(Listed { ids: &collection.entries, per_page, base });
    }
    let collection = site.collections.get(usize::from(kind.collection()?))?;
    let per_page = collection.config.per_page;
    Some(match kind.period(site) {
        Some(period) => Listed { ids: &period.entries, per_page, base: &period.address },
        None => Listed { ids: &collection.entries, per_page, base: collection.listing.as_deref()? },
    })
}

/// What `path`, decoded, leads to.
pub fn route(site: &Site, path: &str) -> Routed {
    if let Some(found) = at(site, path) {
        return found;
    }
    if !path.ends_with('/') {
        let with_slash = format!("{path}/");
        match at(site, &with_slash) {
            Some(Routed::Request(_)) => return Routed::Redirect(with_slash),
            Some(redirect) => return redirect,
            None => {}
        }
    }
    Routed::Request(Request::error(path, 404, None))
}

fn at(site: &Site, path: &str) -> Option<Routed> {
    let Some(&target) = site.addresses.get(path) else { return numbered(site, path) };
    if let Target::Moved(number) = target {
        return Some(Routed::Redirect(site.moved.get(number as usize)?.to.clone()));
    }
    Some(Routed::Request(request(site, path, target)?))
}

fn request(site: &Site, path: &str, target: Target) -> Option<Request> {
    let ok = |kind| Request::ok(path, kind, 1);
    Some(match target {
        Target::Content(id) => ok(content_kind(site, id, path)),
        Target::View(id, view) => {
            let views = &site.collection_of(site.content(id))?.config.views;
            Request { view: Some(views.get(usize::from(view))?.text.clone()), ..ok(Kind::Entry(id)) }
        }
        Target::Listing(number) if path == "/" => ok(Kind::Front(FrontOf::Collection(number))),
        Target::Listing(number) => ok(Kind::Listing(ListingOf::Collection(number))),
        Target::Feed(number) => Request { format: Ending::Xml, ..ok(Kind::Listing(ListingOf::Collection(number))) },
        Target::Term(id) => ok(Kind::Listing(ListingOf::Term(id))),
        Target::Period(number, at) => ok(Kind::Period(number, at)),
        Target::Route(number, row) => {
            let declared = site.routes.get(usize::from(number)).and_then(|route| route.config.format);
            let format = declared.or_else(|| Some(Ending::split(path)?.1)).unwrap_or_default();
            Request { format, ..ok(Kind::Route(number, row)) }
        }
        Target::Search => ok(Kind::Search),
        Target::Sitemap(part) => Request { format: Ending::Xml, ..ok(Kind::Sitemap(part)) },
        Target::Robots => Request { format: Ending::Text, ..ok(Kind::Robots) },
        Target::Moved(_) => return None,
    })
}

fn content_kind(site: &Site, id: ContentId, path: &str) -> Kind {
    match site.content(id).home {
        Section::Pages if path == "/" => Kind::Front(FrontOf::Page(id)),
        Section::Pages => Kind::Page(id),
        Section::Collection(_) => Kind::Entry(id),
    }
}

/// `…/page/2/` of a listing. Page one is the listing itself. How many pages a search has depends on its query.
fn numbered(site: &Site, path: &str) -> Option<Routed> {
    let (base, number) = path.strip_suffix('/')?.rsplit_once("page/")?;
    let target = *site.addresses.get(base)?;
    if let Target::Moved(moved) = target {
        // The listing has become the front, or has another address, and its pages with it.
        let to = &site.moved.get(moved as usize)?.to;
        let moved = page_address(to, number.parse().ok()?);
        return matches!(at(site, &moved), Some(Routed::Request(_))).then_some(Routed::Redirect(moved));
    }
    let request = request(site, base, target)?;
    let most = match request.kind {
        Kind::Search => u32::MAX,
        _ if request.format != Ending::Html => return None,
        _ => request.listed(site)?.pages(),
    };
    let wanted: u32 = number.parse().ok().filter(|wanted: &u32| wanted.to_string() == number)?;
    match wanted {
        1 => Some(Routed::Redirect(base.to_owned())),
        _ if wanted >= 2 && wanted <= most => {
            Some(Routed::Request(Request { address: path.to_owned(), number: wanted, ..request }))
        }
        _ => None,
    }
}

/// The address of a listing's page.
pub(crate) fn page_address(listing: &str, number: u32) -> String {
    if number <= 1 { listing.to_owned() } else { format!("{listing}page/{number}/") }
}

/// Every address of the site, in order, redirects included.
pub fn addresses(site: &Site) -> Vec<String> {
    let mut all: Vec<String> = Vec::with_capacity(site.addresses.len());
    for (address, target) in site.addresses.iter() {
        all.push(address.to_string());
        let moved = match target {
            Target::Moved(number) => site.moved.get(*number as usize).map(|moved| moved.to.as_str()),
            _ => None,
        };
        let leads_to = moved.unwrap_or(address);
        let Some(target) = site.addresses.get(leads_to) else { continue };
        let lists = matches!(target, Target::Listing(_) | Target::Term(_) | Target::Period(..));
        if !lists && !matches!(target, Target::Route(..) if address.ends_with('/')) {
            continue;
        }
        let pages = request(site, leads_to, *target).and_then(|request| Some(request.listed(site)?.pages()));
        all.extend((2..=pages.unwrap_or(1)).map(|page| page_address(address, page)));
    }
    all.sort();
    all
}
