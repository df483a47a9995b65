//! `listing`: the page of a listing at hand.

use hausblatt_lang::members;
use hausblatt_lang::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Seq, Value};

use crate::host::ContentSeq;
use crate::names;
use crate::request::page_address;
use crate::world::World;

/// A page of a collection's entries.
pub struct ListingRecord<'w> {
    /// The world it is in.
    pub world: &'w World,
    /// Which collection.
    pub number: u16,
    /// Which page, from 1.
    pub page: u32,
}

impl<'w> ListingRecord<'w> {
    fn collection(&self) -> Option<&'w crate::site::Collection> {
        self.world.site.collections.get(usize::from(self.number))
    }

    fn address<'a>(&self, page: u32, scratch: &Scratch<'a>) -> Value<'a> {
        let listing = self.collection().and_then(|collection| collection.listing.as_deref());
        let exists = page >= 1 && page <= self.world.site.listing_pages(self.number);
        listing
            .filter(|_| exists)
            .map_or(Value::Nothing, |listing| Value::Text(scratch.text(&page_address(listing, page))))
    }

    fn items<'a>(&'a self, scratch: &Scratch<'a>) -> Value<'a> {
        let Some(collection) = self.collection() else { return Value::Nothing };
        let per_page = collection.config.per_page;
        let start = (self.page as usize - 1).saturating_mul(per_page).min(collection.entries.len());
        let end = start.saturating_add(per_page).min(collection.entries.len());
        Value::Seq(scratch.keep(ContentSeq { world: self.world, ids: &collection.entries[start..end] }))
    }
}

impl Record for ListingRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let Some(collection) = self.collection() else { return Value::Nothing };
        match symbol {
            names::TITLE => Value::Text(&collection.config.label),
            members::ITEMS => self.items(scratch),
            names::PAGE => Value::Int(i64::from(self.page)),
            names::TOTAL => Value::Int(collection.entries.len() as i64),
            names::PAGES => Value::Seq(scratch.keep(Pages { listing: ListingRecord { ..*self } })),
            names::PREVIOUS => self.address(self.page.wrapping_sub(1), scratch),
            names::NEXT => self.address(self.page + 1, scratch),
            names::COLLECTION => Value::Text(&collection.config.name.text),
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
        ]
    }
}

/// All pages of a listing.
struct Pages<'w> {
    listing: ListingRecord<'w>,
}

impl Seq for Pages<'_> {
    fn len(&self) -> usize {
        self.listing.world.site.listing_pages(self.listing.number) as usize
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
            names::HERE => Value::Bool(self.page == self.listing.page),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![members::NUMBER, names::ADDRESS, names::HERE]
    }
}
