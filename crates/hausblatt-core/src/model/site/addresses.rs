//! Which address leads to what: every thing of a site takes its own, and no two meet.

use std::collections::BTreeMap;
use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::moment::Moment;
use hausblatt_lang::value::shape::Interner;
use rayon::prelude::*;
use rustc_hash::FxHashSet;

use crate::model::content::{Content, ContentId, ContentState, Section};
use crate::model::request::ListingOf;
use crate::model::site::references::dead;
use crate::model::site::{Site, content_id};
use crate::model::taxonomy::{Term, TermId};
use crate::schema::config::{Front, PeriodPart, Spanned, placeholders};
use crate::text::address::{shortened, unusable};
use crate::text::codes;
use crate::text::slug::{is_slug, slug, title_of};
use crate::threads::FILES;

/// What is at an address.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Target {
    /// A page or an entry.
    Content(ContentId),
    /// An entry in the view of its collection with this number.
    View(ContentId, u16),
    /// A collection's listing.
    Listing(u16),
    /// A collection's feed.
    Feed(u16),
    /// A term's listing.
    Term(TermId),
    /// The listing of one of a collection's periods.
    Period(u16, u32),
    /// A route, or the route of one of its rows.
    Route(u16, Option<u32>),
    /// The search.
    Search,
    /// `sitemap.xml`, or a part of it that is too long for one file.
    Sitemap(Option<u32>),
    /// `robots.txt`
    Robots,
    /// A redirect of [`Site::moved`].
    Moved(u32),
}

/// How many addresses a file of the sitemap may hold at most (the sitemaps.org protocol), with room for the numbered
/// pages of listings, which are not counted.
const SITEMAP: usize = 40_000;

/// What came of making an address.
pub(super) enum OwnAddress {
    Address(Box<str>),
    /// It would have this one, which can't be used; why.
    Unusable(Box<str>, String),
    Problem(Box<Diagnostic>),
    /// It has none.
    None,
}

impl OwnAddress {
    fn of(address: String) -> Self {
        match unusable(&address) {
            None => OwnAddress::Address(address.into()),
            Some(why) => OwnAddress::Unusable(address.into(), why),
        }
    }
}

/// A redirect.
#[derive(Clone, Debug)]
pub struct Moved {
    /// Where it leads.
    pub to: String,
    path: Arc<str>,
    span: Span,
}

/// The entries of a year, a month or a day.
#[derive(Clone, Debug)]
pub struct Period {
    /// The year.
    pub year: i16,
    /// The month, from 1, unless it is a whole year.
    pub month: Option<i8>,
    /// The day of the month, unless it is a whole month.
    pub day: Option<i8>,
    /// Its entries, in the collection's order.
    pub entries: Vec<ContentId>,
    /// Its listing's address.
    pub address: String,
}

impl Period {
    /// The period as references write it: `2026`, `2026/03` or `2026/03/14`.
    pub(crate) fn parts(&self) -> String {
        let part = |part: Option<i8>| part.map(|part| format!("/{part:02}")).unwrap_or_default();
        format!("{:04}{}{}", self.year, part(self.month), part(self.day))
    }
}

/// A row of a table that a route has an address for.
#[derive(Clone, Debug)]
pub struct RouteRow {
    /// Its part of the address.
    pub slug: Box<str>,
    /// Its address.
    pub address: String,
    /// What it is called.
    pub title: String,
    /// Its place in the table's list.
    pub at: usize,
}

impl Site {
    /// Pages that fill error pages have no address.
    pub(super) fn set_errors(&mut self, problems: &mut Vec<Diagnostic>) {
        for (status, id) in self.config.errors.clone() {
            match self.find(Section::Pages, &id.text).filter(|&page| self.content(page).is_live()) {
                Some(page) => {
                    self.errors.push((status, page));
                }
                None => match self.errors.iter().find(|(_, page)| *self.content(*page).id == *id.text) {
                    Some(&(_, page)) => self.errors.push((status, page)),
                    None => {
                        let reference = format!("page:{}", id.text);
                        let mut diagnostic = dead(&reference, self.nearest_reference(&reference));
                        if self.referenced(&reference).is_some() {
                            diagnostic.severity = Severity::Warning;
                        }
                        problems.push(diagnostic.at(&self.config.path, id.span));
                        continue;
                    }
                },
            }
            if let Some(&(_, page)) = self.errors.last() {
                self.contents[page.0 as usize].state = ContentState::OnErrors;
            }
        }
    }

    /// Gives everything its address.
    pub(super) fn give_addresses(&mut self, own: Vec<OwnAddress>, symbols: &Interner, problems: &mut Vec<Diagnostic>) {
        self.claim("/sitemap.xml", Target::Sitemap(None), problems);
        self.claim("/robots.txt", Target::Robots, problems);
        for (at, address) in own.into_iter().enumerate() {
            match address {
                OwnAddress::Address(address) => {
                    if self.claim_usable(&address, Target::Content(content_id(at)), problems) {
                        self.contents[at].address = Some(address);
                    }
                }
                OwnAddress::Unusable(address, why) => {
                    self.report_unusable(&address, &why, Target::Content(content_id(at)), problems)
                }
                OwnAddress::Problem(problem) => problems.push(*problem),
                OwnAddress::None => {}
            }
        }
        self.give_views(problems);
        for number in 0..self.collections.len() {
            let Some(listing) = self.collections[number].listing.clone() else { continue };
            self.claim(&listing, Target::Listing(number as u16), problems);
        }
        self.set_front(problems);
        self.give_feeds_and_periods(problems);
        self.give_terms(problems);
        self.give_routes(symbols, problems);
        if let Some(search) = self.config.search.clone() {
            self.claim(&search.address.text, Target::Search, problems);
        }
        self.give_former(problems);
        for part in 1..=self.sitemap_parts() {
            self.claim(&format!("/sitemap-{part}.xml"), Target::Sitemap(Some(part)), problems);
        }
    }

    /// The address that each content has by itself.
    pub(super) fn own_addresses(&self) -> Vec<OwnAddress> {
        (0..self.contents.len())
            .into_par_iter()
            .with_min_len(FILES)
            .with_max_len(FILES)
            .map(|at| self.own_address(at))
            .collect()
    }

    fn own_address(&self, at: usize) -> OwnAddress {
        let content = &self.contents[at];
        let second = self.find(content.home, &content.id) != Some(content_id(at));
        if !content.is_live() || second {
            return OwnAddress::None;
        }
        match content.home {
            Section::Pages => OwnAddress::of(self.page_address(content)),
            Section::Collection(number) => self.entry_address(content, number),
        }
    }

    /// How many files the sitemap is parted into; none where one holds it all.
    pub(crate) fn sitemap_parts(&self) -> u32 {
        let known = self.addresses.values().filter(|target| !matches!(target, Target::Sitemap(Some(_)))).count();
        let parts = known.div_ceil(SITEMAP);
        if parts > 1 { u32::try_from(parts).unwrap_or(u32::MAX) } else { 0 }
    }

    fn give_views(&mut self, problems: &mut Vec<Diagnostic>) {
        for at in 0..self.contents.len() {
            let content = &self.contents[at];
            let views = self.collection_of(content).map_or(0, |collection| collection.config.views.len());
            for view in 0..views {
                let Some(address) = self.view_address(content_id(at), view as u16) else { continue };
                self.claim(&address, Target::View(content_id(at), view as u16), problems);
            }
        }
    }

    /// The address of an entry in a view.
    pub(crate) fn view_address(&self, id: ContentId, view: u16) -> Option<String> {
        let content = self.content(id);
        let view = self.collection_of(content)?.config.views.get(usize::from(view))?;
        Some(format!("{}{}/", content.address.as_deref()?, view.text))
    }

    fn page_address(&self, content: &Content) -> String {
        let mut address = String::from("/");
        let mut path = String::new();
        for segment in content.id.split('/') {
            if !path.is_empty() {
                path.push('/');
            }
            path.push_str(segment);
            let page = self.find(Section::Pages, &path).map(|id| self.content(id));
            address.push_str(page.map_or(segment, |page| &page.slug));
            address.push('/');
        }
        address
    }

    fn entry_address(&self, content: &Content, collection: u16) -> OwnAddress {
        let Some(collection) = self.collections.get(usize::from(collection)) else { return OwnAddress::None };
        if !collection.config.has_pattern {
            return OwnAddress::None;
        }
        let pattern = &collection.config.address;
        let day = content.date.map(Moment::day);
        let mut address = String::with_capacity(pattern.text.len() + content.slug.len());
        let mut rest = pattern.text.as_str();
        while let Some((before, (name, after))) =
            rest.split_once('{').and_then(|(before, behind)| Some((before, behind.split_once('}')?)))
        {
            address.push_str(before);
            let part = match name {
                "slug" => Some(content.slug.to_string()),
                "year" => day.map(|day| format!("{:04}", day.year())),
                "month" => day.map(|day| format!("{:02}", day.month())),
                "day" => day.map(|day| format!("{:02}", day.day())),
                taxonomy => self.first_term(content, taxonomy).map(str::to_owned),
            };
            let Some(part) = part else {
                let dated = matches!(name, "year" | "month" | "day");
                let (code, what) = if dated { (&codes::NO_DATE, "date") } else { (&codes::NO_TERM, name) };
                let help = match dated {
                    true => "write date: 2026-03-14 into its front matter".to_owned(),
                    false => format!("write {name}: [a-term] into its front matter"),
                };
                let diagnostic = Diagnostic::of(code, format!("this entry needs a {what} for its address"))
                    .help(help)
                    .at(content.path(), Span::default())
                    .related(&self.config.path, pattern.span, "the pattern of its addresses is this");
                return OwnAddress::Problem(Box::new(diagnostic));
            };
            address.push_str(&part);
            rest = after;
        }
        address.push_str(rest);
        OwnAddress::of(address)
    }

    fn first_term(&self, content: &Content, taxonomy: &str) -> Option<&str> {
        let (number, taxonomy) = self.taxonomy(taxonomy)?;
        let (_, terms) = content.terms.iter().find(|(other, _)| *other == number)?;
        Some(&taxonomy.term(*terms.first()?)?.id)
    }

    fn set_front(&mut self, problems: &mut Vec<Diagnostic>) {
        let moved = match self.config.front.clone() {
            None => None,
            Some(Front::Page(id)) => {
                match self.find(Section::Pages, &id.text).filter(|&page| self.content(page).is_live()) {
                    Some(page) => self.contents[page.0 as usize]
                        .address
                        .replace("/".into())
                        .map(|address| (address, Target::Content(page), id.span)),
                    None => {
                        let reference = format!("page:{}", id.text);
                        let help = self.nearest_reference(&reference);
                        problems.push(dead(&reference, help).at(&self.config.path, id.span));
                        None
                    }
                }
            }
            Some(Front::Collection(name)) => match self.collection(&name.text).map(|(number, _)| number) {
                Some(number) => {
                    let target = Target::Listing(number);
                    let listing =
                        Arc::make_mut(&mut self.collections)[usize::from(number)].listing.replace("/".to_owned());
                    if listing.is_none() {
                        self.claim("/", target, problems);
                    }
                    listing.map(|listing| (listing.into_boxed_str(), target, name.span))
                }
                None => {
                    let names = self.collections.iter().map(|collection| collection.config.name.text.as_str());
                    let help = did_you_mean(&name.text, names);
                    let reference = format!("collection:{}", name.text);
                    problems.push(dead(&reference, help).at(&self.config.path, name.span));
                    None
                }
            },
        };
        let Some((address, target, span)) = moved.filter(|(address, ..)| **address != *"/") else { return };
        Arc::make_mut(&mut self.addresses).remove(&address);
        self.claim("/", target, problems);
        let path = self.config.path.clone();
        let moved = self.moved_to("/".to_owned(), path, span);
        Arc::make_mut(&mut self.addresses).insert(address, moved);
    }

    fn moved_to(&mut self, to: String, path: Arc<str>, span: Span) -> Target {
        Arc::make_mut(&mut self.moved).push(Moved { to, path, span });
        Target::Moved(u32::try_from(self.moved.len() - 1).unwrap_or(u32::MAX))
    }

    fn give_feeds_and_periods(&mut self, problems: &mut Vec<Diagnostic>) {
        for at in 0..self.collections.len() {
            let number = at as u16;
            let config = &self.collections[at].config;
            let Some(base) = self.period_base(at) else { continue };
            if config.feed.is_some() {
                let address = format!("{base}feed.xml");
                Arc::make_mut(&mut self.collections)[at].feed = Some(address.clone());
                self.claim(&address, Target::Feed(number), problems);
            }
            let periods = self.periods(number, &base);
            let addresses: Vec<String> = periods.iter().map(|period| period.address.clone()).collect();
            Arc::make_mut(&mut self.collections)[at].periods = periods;
            for (at, address) in addresses.iter().enumerate() {
                self.claim(address, Target::Period(number, at as u32), problems);
            }
        }
    }

    /// What the addresses of a collection's feed and periods begin with; they keep them when the listing becomes the front.
    pub(super) fn period_base(&self, at: usize) -> Option<String> {
        let collection = &self.collections[at];
        let listing = collection.config.listing.as_ref().map(|listing| listing.text.clone());
        listing.or_else(|| collection.listing.clone())
    }

    pub(super) fn periods(&self, number: u16, base: &str) -> Vec<Period> {
        let collection = &self.collections[usize::from(number)];
        let mut found: BTreeMap<(PeriodPart, i16, i8, i8), Vec<ContentId>> = BTreeMap::new();
        for &id in &collection.entries {
            let Some(day) = self.content(id).date.map(Moment::day) else { continue };
            for &part in &collection.config.periods {
                let key = match part {
                    PeriodPart::Year => (part, day.year(), 0, 0),
                    PeriodPart::Month => (part, day.year(), day.month(), 0),
                    PeriodPart::Day => (part, day.year(), day.month(), day.day()),
                };
                let entries = found.entry(key).or_default();
                if entries.last() != Some(&id) {
                    entries.push(id);
                }
            }
        }
        let period = |((part, year, month, day), entries)| {
            let address = match part {
                PeriodPart::Year => format!("{base}{year:04}/"),
                PeriodPart::Month => format!("{base}{year:04}/{month:02}/"),
                PeriodPart::Day => format!("{base}{year:04}/{month:02}/{day:02}/"),
            };
            let some = |part: i8| (part > 0).then_some(part);
            Period { year, month: some(month), day: some(day), entries, address }
        };
        found.into_iter().map(period).collect()
    }

    fn give_terms(&mut self, problems: &mut Vec<Diagnostic>) {
        for taxonomy in 0..self.taxonomies.len() {
            for term in 0..self.taxonomies[taxonomy].terms.len() {
                let Some(address) = self.taxonomies[taxonomy].terms[term].address.clone() else { continue };
                let id = TermId { taxonomy: taxonomy as u16, term: term as u32 };
                self.claim(&address, Target::Term(id), problems);
            }
        }
    }

    fn give_routes(&mut self, symbols: &Interner, problems: &mut Vec<Diagnostic>) {
        for at in 0..self.routes.len() {
            let config = self.routes[at].config.clone();
            if let Some((items, _)) = config.items.as_ref().filter(|(items, _)| self.collection(&items.text).is_none())
            {
                let names = self.collections.iter().map(|collection| collection.config.name.text.as_str());
                let reference = format!("collection:{}", items.text);
                problems.push(dead(&reference, did_you_mean(&items.text, names)).at(&self.config.path, items.span));
            }
            let Some(each) = &config.each else {
                self.claim(&config.address.text, Target::Route(at as u16, None), problems);
                continue;
            };
            let Some(table) = self.tables.iter().position(|table| table.name == each.text) else {
                let names = self.tables.iter().map(|table| table.name.as_str());
                let help = did_you_mean(&each.text, names)
                    .unwrap_or_else(|| format!("write the rows into tables/{}.csv", each.text));
                let message = format!("there is no table \"{}\"", each.text);
                problems.push(
                    Diagnostic::of(&lang_codes::DEAD_REFERENCE, message).help(help).at(&self.config.path, each.span),
                );
                continue;
            };
            if let Some(problem) = self.tables[table].problem_as_rows() {
                let message = format!("the table \"{}\" {problem}", each.text);
                let path = self.tables[table].path.clone();
                let diagnostic = Diagnostic::of(&codes::NO_ROWS, message)
                    .help("in JSON and YAML write a list of rows, in TOML [[rows]] for each")
                    .at(&path, Span::default())
                    .related(&self.config.path, each.span, "this route has an address for each of its rows");
                problems.push(diagnostic);
            }
            let rows = self.rows(&config.address.text, table, symbols, problems);
            let addresses: Vec<String> = rows.iter().map(|row| row.address.clone()).collect();
            Arc::make_mut(&mut self.routes)[at].set_rows(rows);
            for (row, address) in addresses.iter().enumerate() {
                self.claim(address, Target::Route(at as u16, Some(row as u32)), problems);
            }
        }
    }

    fn rows(&self, pattern: &str, table: usize, symbols: &Interner, problems: &mut Vec<Diagnostic>) -> Vec<RouteRow> {
        let table = &self.tables[table];
        let mut rows: Vec<RouteRow> = Vec::new();
        let mut taken: FxHashSet<String> = FxHashSet::default();
        for (at, record) in table.rows() {
            let text = |name: &str| match symbols.find(name).and_then(|symbol| record.member(symbol)) {
                Some(Datum::Text(text)) => Some(text.to_string()),
                Some(Datum::Int(number)) => Some(number.to_string()),
                _ => None,
            };
            let title = text("title").or_else(|| text("name")).or_else(|| text("label"));
            let own = text("slug").filter(|slug| is_slug(slug));
            let Some(own) = own.or_else(|| title.as_deref().map(slug).filter(|slug| !slug.is_empty())) else {
                let message = format!("row {} of this table has no \"slug\" for its address", at + 1);
                let help = "give each row a slug (lower-case letters and digits with single hyphens), or a title";
                problems.push(Diagnostic::of(&codes::NO_SLUG, message).help(help).at(&table.path, Span::default()));
                continue;
            };
            if !taken.insert(own.clone()) {
                let message = format!("two rows of this table have the slug \"{own}\"");
                problems.push(
                    Diagnostic::of(&codes::SAME_ADDRESS, message)
                        .help("give one of them another slug")
                        .at(&table.path, Span::default()),
                );
                continue;
            }
            let Some(address) = filled(pattern, &own, &text) else {
                let message = format!("row {} of this table lacks what the address {pattern} takes from it", at + 1);
                let help = "fill in the columns that are in braces there";
                problems.push(Diagnostic::of(&codes::NO_SLUG, message).help(help).at(&table.path, Span::default()));
                continue;
            };
            rows.push(RouteRow { address, title: title.unwrap_or_else(|| title_of(&own)), slug: own.into(), at });
        }
        rows
    }

    /// Addresses that content had before.
    fn give_former(&mut self, problems: &mut Vec<Diagnostic>) {
        let listings = self.collections.iter().map(|it| (it.listing.clone(), it.config.formerly.clone()));
        let terms = self.taxonomies.iter().flat_map(|taxonomy| {
            let formerly =
                |id: &str| Some(taxonomy.config.terms.iter().find(|term| term.id.text == id)?.formerly.clone());
            let of = move |term: &Term| Some((term.address.clone(), formerly(&term.id)?));
            taxonomy.terms.iter().filter_map(of)
        });
        let listings: Vec<(Option<String>, Vec<Spanned>)> = listings.chain(terms).collect();
        let config = self.config.path.clone();
        for (to, formerly) in listings {
            let Some(to) = to else { continue };
            formerly.iter().for_each(|former| self.give_one_former(&former.text, &to, &config, former.span, problems));
        }
        for at in 0..self.contents.len() {
            let content = &self.contents[at];
            let Some(to) = content.address.as_deref().map(str::to_owned) else { continue };
            let path = content.path().clone();
            for (address, span) in content.formerly.clone() {
                self.give_one_former(&address, &to, &path, span, problems);
            }
        }
    }

    fn give_one_former(
        &mut self,
        address: &str,
        to: &str,
        path: &Arc<str>,
        span: Span,
        problems: &mut Vec<Diagnostic>,
    ) {
        if address == to {
            let message = format!("{address} is still the address of this");
            let diagnostic = Diagnostic::of(&codes::SELF_REDIRECT, message).help("take it out of formerly");
            problems.push(diagnostic.at(path, span));
            return;
        }
        let moved = self.moved_to(to.to_owned(), path.clone(), span);
        self.claim(address, moved, problems);
    }

    /// Takes an address. A listing may have a page's; all else at one address is an error. False for what can be none.
    fn claim(&mut self, address: &str, target: Target, problems: &mut Vec<Diagnostic>) -> bool {
        match unusable(address) {
            None => self.claim_usable(address, target, problems),
            Some(why) => {
                self.report_unusable(address, &why, target, problems);
                false
            }
        }
    }

    fn report_unusable(&self, address: &str, why: &str, target: Target, problems: &mut Vec<Diagnostic>) {
        let (path, span) = self.place_of(target);
        let diagnostic =
            Diagnostic::of(&codes::UNUSABLE_ADDRESS, format!("{} is not a valid address: {why}", shortened(address)))
                .help("write a shorter or another slug or address");
        problems.push(diagnostic.at(&path, span));
    }

    /// The same for an address of which it is known that it can be one.
    fn claim_usable(&mut self, address: &str, target: Target, problems: &mut Vec<Diagnostic>) -> bool {
        let Some(other) = Arc::make_mut(&mut self.addresses).insert(address.into(), target) else { return true };
        let is_page = |target| matches!(target, Target::Content(id) if self.content(id).home == Section::Pages);
        let listing = match target {
            Target::Listing(number) => Some(ListingOf::Collection(number)),
            Target::Term(term) => Some(ListingOf::Term(term)),
            _ => None,
        };
        if let (Some(listing), Target::Content(page)) = (listing, other)
            && is_page(other)
        {
            Arc::make_mut(&mut self.introductions).insert(listing, page);
            return true;
        }
        Arc::make_mut(&mut self.addresses).insert(address.into(), other);
        let ((path, span), (other_path, other_span)) = (self.place_of(target), self.place_of(other));
        let help = match target {
            Target::Moved(_) => "take it out of formerly, or give what is there now another slug or address",
            _ => "give one of them another slug or address",
        };
        let diagnostic = Diagnostic::of(&codes::SAME_ADDRESS, format!("two things have the address {address}"))
            .help(help)
            .at(&path, span)
            .related(&other_path, other_span, "this is the other one");
        problems.push(diagnostic);
        true
    }

    fn place_of(&self, target: Target) -> (Arc<str>, Span) {
        let collection = |number: u16| &self.collections[usize::from(number)].config;
        let listing = |number: u16| collection(number).listing.as_ref().map_or(Span::default(), |listing| listing.span);
        let span = match target {
            Target::Content(id) => return (self.content(id).path().clone(), self.content(id).slug_span),
            Target::View(id, view) => self
                .collection_of(self.content(id))
                .and_then(|collection| collection.config.views.get(usize::from(view)))
                .map_or(Span::default(), |view| view.span),
            Target::Moved(number) => {
                let moved = &self.moved[number as usize];
                return (moved.path.clone(), moved.span);
            }
            Target::Listing(number) | Target::Period(number, _) => listing(number),
            Target::Feed(number) => collection(number).feed.unwrap_or_default(),
            Target::Term(id) => self.taxonomies[usize::from(id.taxonomy)].config.address.span,
            Target::Route(number, _) => self.routes[usize::from(number)].config.address.span,
            Target::Search => self.config.search.as_ref().map_or(Span::default(), |search| search.address.span),
            Target::Sitemap(_) | Target::Robots => Span::default(),
        };
        (self.config.path.clone(), span)
    }
}

/// A route's address for a row; none where the row lacks what it takes.
fn filled(pattern: &str, own: &str, text: &impl Fn(&str) -> Option<String>) -> Option<String> {
    let (names, _) = placeholders(pattern)?;
    let mut address = pattern.to_owned();
    for name in names {
        let part = if name == "slug" { own.to_owned() } else { text(name).map(|text| slug(&text))? };
        if part.is_empty() {
            return None;
        }
        address = address.replace(&format!("{{{name}}}"), &part);
    }
    Some(address)
}
