//! Requests: what is asked for at an address.

use crate::content::{ContentId, Home};
use crate::site::{Site, Target};

/// What sort of request it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Kind {
    /// `/`, as this page or as a collection's listing.
    Front(FrontOf),
    /// A page.
    Page(ContentId),
    /// An entry.
    Entry(ContentId),
    /// A collection's entries.
    Listing(u16),
    /// A failure with this status.
    Error(u16),
}

/// What the front is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FrontOf {
    /// A page.
    Page(ContentId),
    /// A collection's listing.
    Collection(u16),
}

impl Kind {
    /// The word for it.
    pub fn word(&self) -> &'static str {
        match self {
            Kind::Front(_) => "front",
            Kind::Page(_) => "page",
            Kind::Entry(_) => "entry",
            Kind::Listing(_) => "listing",
            Kind::Error(_) => "error",
        }
    }

    /// The page or entry that it is about.
    pub fn content(&self) -> Option<ContentId> {
        match self {
            Kind::Page(id) | Kind::Entry(id) | Kind::Front(FrontOf::Page(id)) => Some(*id),
            Kind::Listing(_) | Kind::Error(_) | Kind::Front(FrontOf::Collection(_)) => None,
        }
    }

    /// The collection whose entries it lists.
    pub fn listing(&self) -> Option<u16> {
        match self {
            Kind::Listing(number) | Kind::Front(FrontOf::Collection(number)) => Some(*number),
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
    /// The HTTP status of the answer, unless a template changes it.
    pub status: u16,
    /// Which page of a listing, from 1.
    pub number: u32,
    /// What a failed request says about itself, if it says anything.
    pub title: Option<String>,
}

/// What an address leads to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Led {
    /// A request that a template answers.
    Request(Request),
    /// Another address, for good (301).
    Redirect(String),
}

impl Request {
    /// A request answered with 200.
    pub fn ok(address: &str, kind: Kind, number: u32) -> Self {
        Self { address: address.to_owned(), kind, status: 200, number, title: None }
    }

    /// A failed request.
    pub fn error(address: &str, status: u16, title: Option<String>) -> Self {
        Self { address: address.to_owned(), kind: Kind::Error(status), status, number: 1, title }
    }

    /// The page that a listing's address belongs to as well, or the content itself.
    pub fn content(&self, site: &Site) -> Option<ContentId> {
        self.kind.content().or_else(|| introduction(site, self.kind.listing()?))
    }
}

/// The page that has the address of a listing, as its introduction.
fn introduction(site: &Site, collection: u16) -> Option<ContentId> {
    let listing = site.collections.get(usize::from(collection))?.config.listing.as_ref()?;
    let mut pages = site.ids().filter(|(_, content)| content.home == Home::Pages && content.is_live());
    pages.find(|(_, content)| content.address.as_deref() == Some(&listing.text)).map(|(id, _)| id)
}

/// What `path`, decoded, leads to.
pub fn lead(site: &Site, path: &str) -> Led {
    if let Some(found) = at(site, path) {
        return found;
    }
    if !path.ends_with('/') {
        let with_slash = format!("{path}/");
        if at(site, &with_slash).is_some() {
            return Led::Redirect(with_slash);
        }
    }
    Led::Request(Request::error(path, 404, None))
}

fn at(site: &Site, path: &str) -> Option<Led> {
    match site.addresses.get(path) {
        Some(Target::Content(id)) => Some(Led::Request(Request::ok(path, content_kind(site, *id, path), 1))),
        Some(Target::Listing(number)) => Some(Led::Request(Request::ok(path, listing_kind(*number, path), 1))),
        Some(Target::MovedToFront) => Some(Led::Redirect("/".to_owned())),
        None => numbered(site, path),
    }
}

fn content_kind(site: &Site, id: ContentId, path: &str) -> Kind {
    match site.content(id).home {
        Home::Pages if path == "/" => Kind::Front(FrontOf::Page(id)),
        Home::Pages => Kind::Page(id),
        Home::Collection(_) => Kind::Entry(id),
    }
}

fn listing_kind(number: u16, path: &str) -> Kind {
    if path == "/" || path.starts_with("/page/") {
        Kind::Front(FrontOf::Collection(number))
    } else {
        Kind::Listing(number)
    }
}

/// `…/page/2/` of a listing. Page one is the listing itself.
fn numbered(site: &Site, path: &str) -> Option<Led> {
    let (listing, number) = path.strip_suffix('/')?.rsplit_once("page/")?;
    let Some(Target::Listing(collection)) = site.addresses.get(listing) else { return None };
    let wanted: u32 = number.parse().ok().filter(|wanted: &u32| wanted.to_string() == number)?;
    match wanted {
        1 => Some(Led::Redirect(listing.to_owned())),
        _ if wanted >= 2 && wanted <= site.listing_pages(*collection) => {
            let kind =
                if listing == "/" { Kind::Front(FrontOf::Collection(*collection)) } else { Kind::Listing(*collection) };
            Some(Led::Request(Request::ok(path, kind, wanted)))
        }
        _ => None,
    }
}

/// The address of a listing's page.
pub fn page_address(listing: &str, number: u32) -> String {
    if number <= 1 { listing.to_owned() } else { format!("{listing}page/{number}/") }
}

/// Every address of the site, in order, the redirect to the front included.
pub fn addresses(site: &Site) -> Vec<String> {
    let mut all: Vec<String> = Vec::with_capacity(site.addresses.len());
    for (address, target) in &site.addresses {
        all.push(address.to_string());
        if let Target::Listing(number) = target {
            all.extend((2..=site.listing_pages(*number)).map(|page| page_address(address, page)));
        }
    }
    all.sort();
    all
}
