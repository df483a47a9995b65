//! The site loaded: content read, ordered, grouped and addressed.

use std::cmp::Ordering;
use std::collections::hash_map::Entry as MapEntry;
use std::sync::{Arc, OnceLock};

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::dependencies::apart;
use hausblatt_lang::value::language::Language;
use hausblatt_lang::value::shape::Interner;
use rustc_hash::FxHashMap;

use crate::asking::SiteOptions;
use crate::files::{Snapshot, whole_image};
use crate::model::content::{Content, ContentId, ContentState, Section};
use crate::model::contents::Contents;
use crate::model::dependencies::SitePart;
use crate::model::reference;
use crate::model::request::ListingOf;
use crate::model::site::order::SortKey;
use crate::model::site::{Link, MenuItem, Moved, Period, RouteRow, Target, reading};
use crate::model::tables::{self, Table};
use crate::model::taxonomy::{Taxonomy, Term, TermId};
use crate::schema::config::{CollectionConfig, Config, RouteConfig};
use crate::schema::fields::{self, Conversion, Field};
use crate::text::address::{asked, encoded};
use crate::text::codes;
use crate::text::markdown::{self, ShownImage};

/// A collection with its entries.
#[derive(Clone, Debug)]
pub struct Collection {
    /// How it is configured.
    pub config: CollectionConfig,
    /// Live entries that are in lists, in its order.
    pub entries: Vec<ContentId>,
    /// Entries that wait for their date, soonest first.
    pub scheduled: Vec<ContentId>,
    /// Its listing's address; `/` if it is the front.
    pub listing: Option<String>,
    /// Its feed's address.
    pub feed: Option<String>,
    /// The periods that have listings, by length, then in time.
    pub periods: Vec<Period>,
    by_date: OnceLock<Vec<ContentId>>,
}

impl Collection {
    /// The period that is written as `2026`, `2026/03` or `2026/03/14`, if something is in it.
    pub(crate) fn period(&self, written: &str) -> Option<&Period> {
        let mut parts = written.split('/');
        let year: i16 = parts.next()?.parse().ok()?;
        let rest: Vec<i8> = parts.map(|part| part.parse().ok().filter(|part| *part > 0)).collect::<Option<_>>()?;
        let (month, day) = (rest.first().copied(), rest.get(1).copied());
        let wanted = (month.is_some(), day.is_some(), year, month, day);
        let key =
            |period: &Period| (period.month.is_some(), period.day.is_some(), period.year, period.month, period.day);
        let at = self.periods.binary_search_by_key(&wanted, key).ok().filter(|_| rest.len() < 3)?;
        self.periods.get(at)
    }
}

/// A request that is not content.
#[derive(Clone, Debug)]
pub struct Route {
    /// How it is configured.
    pub config: RouteConfig,
    /// The rows that it has an address for, if it has one for each.
    pub rows: Vec<RouteRow>,
    by_slug: FxHashMap<Box<str>, usize>,
    label: String,
}

impl Route {
    pub(super) fn set_rows(&mut self, rows: Vec<RouteRow>) {
        self.by_slug = rows.iter().enumerate().map(|(at, row)| (row.slug.clone(), at)).collect();
        self.rows = rows;
    }

    /// The row with this part of the address.
    pub fn row(&self, slug: &str) -> Option<&RouteRow> {
        self.rows.get(*self.by_slug.get(slug)?)
    }

    /// What it is called.
    pub fn label(&self) -> &str {
        &self.label
    }

    /// The collection whose entries it lists, and how many are on a page.
    pub(crate) fn listed<'s>(&self, site: &'s Site) -> Option<(&'s Collection, usize)> {
        let (items, per_page) = self.config.items.as_ref()?;
        let (_, collection) = site.collection(&items.text)?;
        Some((collection, per_page.unwrap_or(collection.config.per_page)))
    }
}

/// The whole site. Another one that is made of it shares what it does not change.
#[derive(Clone, Debug)]
pub struct Site {
    /// Its configuration.
    pub config: Arc<Config>,
    /// All content, in the order of its files.
    pub contents: Contents,
    /// The pages without a parent, in order.
    pub top: Vec<ContentId>,
    /// The collections.
    pub collections: Arc<Vec<Collection>>,
    /// The taxonomies.
    pub taxonomies: Arc<Vec<Taxonomy>>,
    /// The routes.
    pub routes: Arc<Vec<Route>>,
    /// The tables.
    pub tables: Arc<Vec<Table>>,
    /// The pages that fill error pages, by status.
    pub errors: Vec<(u16, ContentId)>,
    /// Where everything is.
    pub addresses: Arc<FxHashMap<Box<str>, Target>>,
    /// The redirects.
    pub moved: Arc<Vec<Moved>>,
    /// The pages that have a listing's address as well, by collection.
    pub introductions: Arc<FxHashMap<ListingOf, ContentId>>,
    /// The menus by name.
    pub menus: Vec<(String, Vec<MenuItem>)>,
    by_id: Arc<FxHashMap<Section, FxHashMap<Box<str>, ContentId>>>,
    /// Its files, for the images in its text.
    pub(super) snapshot: Snapshot,
}

/// What a site is read from.
pub struct Sources<'s> {
    /// Its files.
    pub snapshot: &'s Snapshot,
    /// What was asked in addition.
    pub asking: &'s SiteOptions,
    /// How values are converted.
    pub conversion: &'s Conversion<'s>,
    /// The site's language.
    pub language: &'s Language,
}

impl Site {
    /// Reads all content and puts it together. What is wrong is added to `problems`.
    pub fn load(sources: &Sources<'_>, config: Config, symbols: &mut Interner, problems: &mut Vec<Diagnostic>) -> Self {
        let tables = tables::read(sources.snapshot, symbols, problems);
        let mut taxonomies: Vec<Taxonomy> =
            config.taxonomies.iter().map(|config| Taxonomy::new(config.clone(), sources.conversion)).collect();
        let contents = reading::read(sources, &config, &mut taxonomies, symbols, problems);
        let collections = config.collections.iter().map(|config| Collection {
            config: config.clone(),
            entries: Vec::new(),
            scheduled: Vec::new(),
            listing: config.listing.as_ref().map(|listing| listing.text.clone()),
            feed: None,
            periods: Vec::new(),
            by_date: OnceLock::new(),
        });
        let routes = config.routes.iter().map(|config| Route {
            label: config.title.clone().unwrap_or_else(|| crate::text::slug::title_of(&config.name.text)),
            config: config.clone(),
            rows: Vec::new(),
            by_slug: FxHashMap::default(),
        });
        // Room for a few more addresses than there is content: a table that grows is filled anew each time.
        let room = contents.len() + contents.len() / 8;
        let mut site = Self {
            addresses: Arc::new(FxHashMap::with_capacity_and_hasher(room, Default::default())),
            contents,
            top: Vec::new(),
            collections: Arc::new(collections.collect()),
            taxonomies: Arc::new(taxonomies),
            routes: Arc::new(routes.collect()),
            tables: Arc::new(tables),
            errors: Vec::new(),
            moved: Arc::default(),
            introductions: Arc::default(),
            menus: Vec::new(),
            by_id: Arc::default(),
            snapshot: sources.snapshot.clone(),
            config: Arc::new(config),
        };
        site.index_ids(problems);
        site.grow_tree();
        site.set_errors(problems);
        // None of these three needs another.
        let ((collections, terms), addresses) = rayon::join(
            || {
                let numbers = 0..site.collections.len() as u16;
                let entries = numbers.map(|number| site.sorted_collection(number, symbols, sources.language));
                let entries: Vec<_> = entries.collect();
                let numbers = 0..site.taxonomies.len() as u16;
                let members = numbers.map(|number| site.members_of_terms(number, symbols, sources.language));
                (entries, members.collect::<Vec<_>>())
            },
            || site.own_addresses(),
        );
        for (collection, (entries, scheduled)) in Arc::make_mut(&mut site.collections).iter_mut().zip(collections) {
            (collection.entries, collection.scheduled) = (entries, scheduled);
        }
        for (taxonomy, members) in Arc::make_mut(&mut site.taxonomies).iter_mut().zip(terms) {
            taxonomy.fill(members);
        }
        site.give_addresses(addresses, symbols, problems);
        site.menus = site.make_menus(problems);
        site.settle_links();
        site
    }

    /// A page or entry by its number.
    pub fn content(&self, id: ContentId) -> &Content {
        SitePart::Front.note_of(id);
        &self.contents[id.0 as usize]
    }

    /// A page or entry by its id.
    pub fn find(&self, home: Section, id: &str) -> Option<ContentId> {
        self.by_id.get(&home)?.get(id).copied()
    }

    /// The collection that is called so, with its number.
    pub fn collection(&self, name: &str) -> Option<(u16, &Collection)> {
        let at = self.collections.iter().position(|collection| collection.config.name.text == name)?;
        Some((u16::try_from(at).ok()?, &self.collections[at]))
    }

    /// The taxonomy that is called so, with its number.
    pub fn taxonomy(&self, name: &str) -> Option<(u16, &Taxonomy)> {
        let at = self.taxonomies.iter().position(|taxonomy| taxonomy.config.name.text == name)?;
        Some((u16::try_from(at).ok()?, &self.taxonomies[at]))
    }

    /// A term and its taxonomy.
    pub fn term(&self, id: TermId) -> Option<(&Taxonomy, &Term)> {
        SitePart::Term.note_of_term(id);
        let taxonomy = self.taxonomies.get(usize::from(id.taxonomy))?;
        Some((taxonomy, taxonomy.term(id.term)?))
    }

    /// The page that fills the error page of a status.
    pub(crate) fn error_content(&self, status: u16) -> Option<ContentId> {
        self.errors.iter().find(|(other, _)| *other == status).map(|&(_, page)| page)
    }

    /// The collection that an entry belongs to.
    pub fn collection_of(&self, content: &Content) -> Option<&Collection> {
        match content.home {
            Section::Pages => None,
            Section::Collection(number) => self.collections.get(usize::from(number)),
        }
    }

    /// The declared fields of some content.
    pub(crate) fn fields_of(&self, content: &Content) -> &[Field] {
        match content.home {
            Section::Pages => &self.config.page_fields,
            Section::Collection(number) => &self.collections[usize::from(number)].config.fields,
        }
    }

    /// All content with its number.
    pub fn ids(&self) -> impl Iterator<Item = (ContentId, &Content)> {
        self.contents.iter().enumerate().map(|(at, content)| (content_id(at), content))
    }

    /// The entry before and after this one in time.
    pub(crate) fn neighbours(&self, id: ContentId) -> (Option<ContentId>, Option<ContentId>) {
        SitePart::Neighbours.note_of(id);
        apart(|| self.found_neighbours(id))
    }

    fn found_neighbours(&self, id: ContentId) -> (Option<ContentId>, Option<ContentId>) {
        let content = self.content(id);
        let Some(collection) = self.collection_of(content).filter(|_| content.date.is_some()) else {
            return (None, None);
        };
        let by_date = collection.by_date.get_or_init(|| {
            let mut dated: Vec<ContentId> =
                collection.entries.iter().copied().filter(|&id| self.content(id).date.is_some()).collect();
            dated.sort_by(|&a, &b| self.by_date(a, b));
            dated
        });
        let Ok(at) = by_date.binary_search_by(|&other| self.by_date(other, id)) else { return (None, None) };
        (at.checked_sub(1).and_then(|before| by_date.get(before).copied()), by_date.get(at + 1).copied())
    }

    fn by_date(&self, a: ContentId, b: ContentId) -> Ordering {
        let (left, right) = (self.content(a), self.content(b));
        let order = match (left.date, right.date) {
            (Some(left), Some(right)) => left.order(right, &self.config.timezone),
            (left, right) => left.is_some().cmp(&right.is_some()),
        };
        order.then_with(|| left.id.cmp(&right.id))
    }

    fn index_ids(&mut self, problems: &mut Vec<Diagnostic>) {
        let mut counts: FxHashMap<Section, usize> = FxHashMap::default();
        self.contents.iter().for_each(|content| *counts.entry(content.home).or_default() += 1);
        let room = |count| FxHashMap::with_capacity_and_hasher(count, Default::default());
        let mut kept: FxHashMap<Section, FxHashMap<Box<str>, ContentId>> =
            counts.into_iter().map(|(home, count)| (home, room(count))).collect();
        let mut second: Vec<(usize, ContentId)> = Vec::new();
        for (at, content) in self.contents.iter().enumerate() {
            match kept.entry(content.home).or_default().entry(content.id.clone()) {
                MapEntry::Vacant(place) => drop(place.insert(content_id(at))),
                MapEntry::Occupied(first) => second.push((at, *first.get())),
            }
        }
        for (at, first) in second {
            self.contents[at].broken = true;
            let content = &self.contents[at];
            let diagnostic = Diagnostic::of(&codes::SAME_ID, format!("two files have the id \"{}\"", content.id))
                .help("rename one of them")
                .at(content.path(), Span::default())
                .related(self.contents[first.0 as usize].path(), Span::default(), "this is the other one");
            problems.push(diagnostic);
        }
        self.by_id = Arc::new(kept);
    }

    fn grow_tree(&mut self) {
        let pages: Vec<ContentId> =
            self.ids().filter(|(_, content)| content.home == Section::Pages).map(|(id, _)| id).collect();
        for &id in &pages {
            let path = self.content(id).id.clone();
            let parent = ancestors_of(&path).find_map(|ancestor| self.find(Section::Pages, ancestor));
            self.contents[id.0 as usize].parent = parent;
            match parent {
                Some(parent) => self.contents[parent.0 as usize].children.push(id),
                None => self.top.push(id),
            }
        }
        let mut top = std::mem::take(&mut self.top);
        top.sort_by(|&a, &b| self.by_order(a, b));
        self.top = top;
        for id in pages {
            let mut children = std::mem::take(&mut self.contents[id.0 as usize].children);
            children.sort_by(|&a, &b| self.by_order(a, b));
            self.contents[id.0 as usize].children = children;
        }
    }

    /// Pages are ordered by `order`, then by title, then by the paths of their files.
    pub(super) fn by_order(&self, a: ContentId, b: ContentId) -> Ordering {
        let (left, right) = (self.content(a), self.content(b));
        let order = match (left.order, right.order) {
            (Some(left), Some(right)) => left.total_cmp(&right),
            (left, right) => right.is_some().cmp(&left.is_some()),
        };
        let by_title = || left.title.to_lowercase().cmp(&right.title.to_lowercase());
        // Whatever order they had before an edit, those that are otherwise equal come by their files.
        order.then_with(by_title).then(a.0.cmp(&b.0))
    }

    /// A collection's entries and those that wait for their date, in order.
    pub(super) fn sorted_collection(
        &self,
        number: u16,
        symbols: &Interner,
        language: &Language,
    ) -> (Vec<ContentId>, Vec<ContentId>) {
        let home = Section::Collection(number);
        let ids = |wanted: &dyn Fn(&Content) -> bool| -> Vec<ContentId> {
            self.ids().filter(|(_, content)| content.home == home && wanted(content)).map(|(id, _)| id).collect()
        };
        let entries = ids(&|content| content.is_live() && content.in_lists);
        let mut scheduled = ids(&|content| content.state == ContentState::Waits);
        scheduled.sort_by(|&a, &b| self.by_date(a, b));
        let order = &self.collections[usize::from(number)].config.order;
        (self.sorted(entries, order, symbols, language), scheduled)
    }

    fn sorted(
        &self,
        ids: Vec<ContentId>,
        (key, descending): &(String, bool),
        symbols: &Interner,
        language: &Language,
    ) -> Vec<ContentId> {
        let mut keyed: Vec<(SortKey, ContentId)> =
            ids.into_iter().map(|id| (SortKey::of(self.content(id), key, symbols), id)).collect();
        let simple = keyed.iter().all(|(key, _)| key.is_simple());
        let language = (!simple).then_some(language);
        keyed.sort_by(|(a, left), (b, right)| {
            let order = a.order(b, *descending, language, &self.config.timezone);
            order.then_with(|| self.content(*left).id.cmp(&self.content(*right).id))
        });
        keyed.into_iter().map(|(_, id)| id).collect()
    }

    /// What is in a taxonomy's terms, in order, with the numbers of its terms.
    pub(super) fn members_of_terms(
        &self,
        number: u16,
        symbols: &Interner,
        language: &Language,
    ) -> Vec<(ContentId, Vec<u32>)> {
        let terms = |content: &Content| {
            let found = content.terms.iter().find(|(taxonomy, _)| *taxonomy == number);
            found.map(|(_, terms)| terms.to_vec()).unwrap_or_default()
        };
        let listed = |content: &Content| content.is_live() && content.in_lists && !terms(content).is_empty();
        let inside = self.ids().filter(|(_, content)| listed(content)).map(|(id, _)| id).collect();
        let order = self.order_of_terms(&self.taxonomies[usize::from(number)]);
        let inside = self.sorted(inside, &order, symbols, language);
        inside.into_iter().map(|id| (id, terms(self.content(id)))).collect()
    }

    /// The order of what is in a taxonomy's terms: that of the first collection that they group.
    pub(super) fn order_of_terms(&self, taxonomy: &Taxonomy) -> (String, bool) {
        let first = taxonomy.config.of.first().and_then(|of| self.collection(&of.text));
        first.map_or_else(|| ("title".to_owned(), false), |(_, first)| first.config.order.clone())
    }

    /// How many members of a term's listing are on one page.
    pub(crate) fn per_page_of_term(&self, taxonomy: &Taxonomy) -> usize {
        let first = taxonomy.config.of.first().and_then(|of| self.collection(&of.text));
        first.map_or(10, |(_, collection)| collection.config.per_page)
    }

    /// Reads links and Markdown in fields, now that all addresses are known.
    fn settle_links(&mut self) {
        let linked = self.ids().map(|(id, content)| (id, self.linked_values(content)));
        let linked: Vec<_> = linked.filter(|(_, values)| !values.is_empty()).collect();
        for (id, values) in linked {
            for (slot, value) in values {
                self.contents[id.0 as usize].values[slot] = value;
            }
        }
    }

    /// The values of some content that name links, as they are read now, each with its slot.
    pub(super) fn linked_values(&self, content: &Content) -> Vec<(usize, Datum)> {
        let linking = self.fields_of(content).iter().enumerate().filter(|(_, field)| field.of.has_links());
        let value = |of: &fields::FieldType, slot: usize| {
            self.settled(of, content.values.get(slot).cloned().unwrap_or_default(), content.path())
        };
        linking.map(|(slot, field)| (slot, value(&field.of, slot))).collect()
    }

    /// A value with its links and its Markdown as they are read in the file at `from`.
    pub fn settled(&self, of: &fields::FieldType, value: Datum, from: &Arc<str>) -> Datum {
        let link = |text: &str| match self.link(text, from) {
            Link::To(address) => Some(address),
            Link::Dead(..) => None,
        };
        let content = |reference: &str| {
            let id = self.referenced_content(reference)?;
            Some(reference::value(id, self.content(id)))
        };
        fields::settle(of, value, &link, &|text| self.markdown(text, from), &content)
    }

    /// Markdown that is in the file at `from`, as HTML.
    pub fn markdown(&self, text: &str, from: &str) -> String {
        let link = |text: &str| match self.link(text, from) {
            Link::To(address) => Some(address),
            Link::Dead(..) => None,
        };
        markdown::html(text, self.config.raw_html, &link, &|address| self.shown_image(address))
    }

    /// The text of content as HTML, with marks for the trays in it.
    pub(crate) fn body(&self, id: ContentId) -> String {
        let content = self.content(id);
        let link = |text: &str| match self.link(text, content.path()) {
            Link::To(address) => Some(address),
            Link::Dead(..) => None,
        };
        let tray = |name: &str| hausblatt_lang::value::tray::mark(id.0, name);
        let images = |address: &str| self.shown_image(address);
        content.markdown(|text| markdown::html_with_trays(text, self.config.raw_html, (&link, &images), &tray))
    }

    /// How `[content] images` wants the image at an address shown; none where it says nothing, or the image stays as it is.
    fn shown_image(&self, address: &str) -> Option<ShownImage> {
        let config = self.config.images.as_ref()?;
        let path = Some(asked(address).path).filter(|path| address.starts_with('/') && path.starts_with("/media/"))?;
        let source = self.snapshot.file(path.trim_start_matches('/'))?;
        let widest = *config.widths.iter().max()?;
        let recipe = whole_image(source)?.scaled(widest);
        let images = self.snapshot.made_images();
        let own = match recipe.is_whole {
            true => encoded(address),
            false => images.ask(source, recipe)?.path.to_string(),
        };
        let mut candidates: Vec<String> = Vec::new();
        for narrower in images.in_widths(source, recipe, &config.widths)? {
            candidates.push(format!("{} {}w", narrower.path, narrower.recipe.width));
        }
        if !candidates.is_empty() {
            candidates.push(format!("{} {}w", own.replace(',', "%2C"), recipe.width));
        }
        let (srcset, sizes) = (candidates.join(", "), config.sizes.clone());
        Some(ShownImage { address: own, srcset, sizes, size: (recipe.width, recipe.height) })
    }
}

/// The ids above an id, nearest first: of `a/b/c` these are `a/b` and `a`.
pub(crate) fn ancestors_of(id: &str) -> impl Iterator<Item = &str> {
    std::iter::successors(id.rsplit_once('/').map(|(above, _)| above), |id| id.rsplit_once('/').map(|(above, _)| above))
}

pub(super) fn content_id(at: usize) -> ContentId {
    ContentId(u32::try_from(at).unwrap_or(u32::MAX))
}
