//! Everything that content and configuration say together: the page tree, collections, addresses, menus.

use std::cmp::Ordering;
use std::sync::{Arc, OnceLock};

use hausblatt_lang::datum::Datum;
use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::moment::Moment;
use hausblatt_lang::near::did_you_mean;
use hausblatt_lang::shape::Interner;
use hausblatt_lang::source::Span;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

use crate::asking::Asking;
use crate::config::{self, CollectionConfig, Config, Front, MenuConfig};
use crate::content::{self, Content, ContentId, Home, Reading, Shapes};
use crate::fields::Conversion;
use crate::snapshot::{FileNode, Snapshot};

/// A collection with its entries.
#[derive(Debug)]
pub struct Collection {
    /// How it is configured.
    pub config: CollectionConfig,
    /// Live entries that are in lists, in its order.
    pub entries: Vec<ContentId>,
    /// Entries that wait for their date, soonest first.
    pub scheduled: Vec<ContentId>,
    /// Its listing's address; `/` if it is the front.
    pub listing: Option<String>,
    by_date: OnceLock<Vec<ContentId>>,
}

/// What is at an address.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Target {
    /// A page or an entry.
    Content(ContentId),
    /// A collection's listing.
    Listing(u16),
    /// The address of the page that is the front, or of the collection's listing; it redirects to `/`.
    MovedToFront,
}

/// An item of a menu.
#[derive(Debug)]
pub struct MenuItem {
    /// Where it leads.
    pub address: String,
    /// What it is called.
    pub label: String,
    /// The items below it.
    pub children: Vec<MenuItem>,
}

/// The whole site.
#[derive(Debug)]
pub struct Site {
    /// Its configuration.
    pub config: Config,
    /// All content.
    pub contents: Vec<Content>,
    /// The pages without a parent, in order.
    pub top: Vec<ContentId>,
    /// The collections.
    pub collections: Vec<Collection>,
    /// Where everything is.
    pub addresses: FxHashMap<Box<str>, Target>,
    /// The menus by name.
    pub menus: Vec<(String, Vec<MenuItem>)>,
    by_id: FxHashMap<(Home, Box<str>), ContentId>,
}

impl Site {
    /// Reads all content and puts it together. What is wrong is added to `problems`.
    pub fn load(
        snapshot: &Snapshot,
        config: Config,
        asking: &Asking,
        symbols: &mut Interner,
        problems: &mut Vec<Diagnostic>,
    ) -> Self {
        let contents = read_contents(snapshot, &config, asking, symbols, problems);
        let collections = config.collections.iter().map(|config| Collection {
            config: config.clone(),
            entries: Vec::new(),
            scheduled: Vec::new(),
            listing: config.listing.as_ref().map(|listing| listing.text.clone()),
            by_date: OnceLock::new(),
        });
        let collections = collections.collect();
        let mut site = Self {
            config,
            contents,
            top: Vec::new(),
            collections,
            addresses: FxHashMap::default(),
            menus: Vec::new(),
            by_id: FxHashMap::default(),
        };
        site.index_ids(problems);
        site.grow_tree();
        site.give_addresses(problems);
        site.sort_collections(symbols);
        site.set_front(problems);
        site.menus = site.make_menus(problems);
        site
    }

    /// A page or entry by its number.
    pub fn content(&self, id: ContentId) -> &Content {
        &self.contents[id.0 as usize]
    }

    /// A page or entry by its id.
    pub fn find(&self, home: Home, id: &str) -> Option<ContentId> {
        self.by_id.get(&(home, id.into())).copied()
    }

    /// The collection that is called so, with its number.
    pub fn collection(&self, name: &str) -> Option<(u16, &Collection)> {
        let at = self.collections.iter().position(|collection| collection.config.name.text == name)?;
        Some((u16::try_from(at).ok()?, &self.collections[at]))
    }

    /// The collection that an entry belongs to.
    pub fn collection_of(&self, content: &Content) -> Option<&Collection> {
        match content.home {
            Home::Pages => None,
            Home::Collection(number) => self.collections.get(usize::from(number)),
        }
    }

    /// All content with its number.
    pub fn ids(&self) -> impl Iterator<Item = (ContentId, &Content)> {
        self.contents.iter().enumerate().map(|(at, content)| (content_id(at), content))
    }

    /// The page that is the front, if one is.
    pub fn front_page(&self) -> Option<ContentId> {
        match &self.config.front {
            Some(Front::Page(id)) => self.find(Home::Pages, &id.text).filter(|&id| self.content(id).is_live()),
            _ => None,
        }
    }

    /// The number of the collection that is the front, if one is.
    pub fn front_collection(&self) -> Option<u16> {
        match &self.config.front {
            Some(Front::Collection(name)) => self.collection(&name.text).map(|(number, _)| number),
            _ => None,
        }
    }

    /// How many pages the listing of a collection has; an empty one has one.
    pub fn listing_pages(&self, collection: u16) -> u32 {
        let Some(collection) = self.collections.get(usize::from(collection)) else { return 0 };
        u32::try_from(collection.entries.len().div_ceil(collection.config.per_page).max(1)).unwrap_or(u32::MAX)
    }

    /// The entry before and after this one in time.
    pub fn neighbours(&self, id: ContentId) -> (Option<ContentId>, Option<ContentId>) {
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
            (Some(left), Some(right)) => left.order(right),
            (left, right) => left.is_some().cmp(&right.is_some()),
        };
        order.then_with(|| left.id.cmp(&right.id))
    }

    fn index_ids(&mut self, problems: &mut Vec<Diagnostic>) {
        let mut kept: FxHashMap<(Home, Box<str>), ContentId> = FxHashMap::default();
        for (at, content) in self.contents.iter_mut().enumerate() {
            match kept.entry((content.home, content.id.clone())) {
                std::collections::hash_map::Entry::Vacant(place) => drop(place.insert(content_id(at))),
                std::collections::hash_map::Entry::Occupied(_) => content.broken = true,
            }
        }
        for (at, content) in self.contents.iter().enumerate() {
            let first = kept.get(&(content.home, content.id.clone())).copied();
            if let Some(first) = first.filter(|first| *first != content_id(at)) {
                let diagnostic = Diagnostic::error("same-id", format!("two files have the id \"{}\"", content.id))
                    .help("rename one of them")
                    .at(content.path(), Span::default())
                    .related(self.contents[first.0 as usize].path(), Span::default(), "this is the other one");
                problems.push(diagnostic);
            }
        }
        self.by_id = kept;
    }

    fn grow_tree(&mut self) {
        let pages: Vec<ContentId> =
            self.ids().filter(|(_, content)| content.home == Home::Pages).map(|(id, _)| id).collect();
        for &id in &pages {
            let path = self.content(id).id.clone();
            let parent = ancestors_of(&path).find_map(|ancestor| self.find(Home::Pages, ancestor));
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

    /// Pages are ordered by `order`, then by title.
    fn by_order(&self, a: ContentId, b: ContentId) -> Ordering {
        let (left, right) = (self.content(a), self.content(b));
        let order = match (left.order, right.order) {
            (Some(left), Some(right)) => left.total_cmp(&right),
            (left, right) => right.is_some().cmp(&left.is_some()),
        };
        order.then_with(|| left.title.to_lowercase().cmp(&right.title.to_lowercase()))
    }

    fn give_addresses(&mut self, problems: &mut Vec<Diagnostic>) {
        for at in 0..self.contents.len() {
            let content = &self.contents[at];
            let second = self.find(content.home, &content.id) != Some(content_id(at));
            if !content.is_live() || second {
                continue;
            }
            let address = match content.home {
                Home::Pages => Some(self.page_address(content)),
                Home::Collection(number) => self.entry_address(content, number, problems),
            };
            if let Some(address) = address {
                self.claim(&address, Target::Content(content_id(at)), problems);
                self.contents[at].address = Some(address.into());
            }
        }
        for number in 0..self.collections.len() {
            let Some(listing) = self.collections[number].listing.clone() else { continue };
            self.claim(&listing, Target::Listing(u16::try_from(number).unwrap_or(u16::MAX)), problems);
        }
    }

    fn page_address(&self, content: &Content) -> String {
        let mut address = String::from("/");
        let mut path = String::new();
        for segment in content.id.split('/') {
            if !path.is_empty() {
                path.push('/');
            }
            path.push_str(segment);
            let page = self.find(Home::Pages, &path).map(|id| self.content(id));
            address.push_str(page.map_or(segment, |page| &page.slug));
            address.push('/');
        }
        address
    }

    fn entry_address(&self, content: &Content, collection: u16, problems: &mut Vec<Diagnostic>) -> Option<String> {
        let pattern = &self.collections.get(usize::from(collection))?.config.address;
        let mut address = pattern.text.replace("{slug}", &content.slug);
        let dated = ["{year}", "{month}", "{day}"].iter().any(|part| address.contains(part));
        match content.date.map(Moment::day) {
            Some(day) => {
                address = address.replace("{year}", &format!("{:04}", day.year()));
                address = address
                    .replace("{month}", &format!("{:02}", day.month()))
                    .replace("{day}", &format!("{:02}", day.day()));
            }
            None if dated => {
                let diagnostic = Diagnostic::error("no-date", "this entry needs a date for its address")
                    .help("write date: 2026-03-14 into its front matter")
                    .at(content.path(), Span::default())
                    .related(&self.config.path, pattern.span, "the pattern of its addresses is this");
                problems.push(diagnostic);
                return None;
            }
            None => {}
        }
        Some(address)
    }

    /// Takes an address. A listing may have a page's; all else at one address is a fault.
    fn claim(&mut self, address: &str, target: Target, problems: &mut Vec<Diagnostic>) {
        let other = match self.addresses.get(address) {
            None => {
                self.addresses.insert(address.into(), target);
                return;
            }
            Some(&other) => other,
        };
        let is_page = |target| matches!(target, Target::Content(id) if self.content(id).home == Home::Pages);
        if matches!(target, Target::Listing(_)) && is_page(other) {
            self.addresses.insert(address.into(), target);
            return;
        }
        let ((path, span), (other_path, other_span)) = (self.place_of(target), self.place_of(other));
        let diagnostic = Diagnostic::error("same-address", format!("two things have the address {address}"))
            .help("give one of them another slug or address")
            .at(&path, span)
            .related(&other_path, other_span, "this is the other one");
        problems.push(diagnostic);
    }

    fn place_of(&self, target: Target) -> (Arc<str>, Span) {
        match target {
            Target::Content(id) => (self.content(id).path().clone(), self.content(id).slug_span),
            Target::Listing(number) => {
                let listing =
                    self.collections.get(usize::from(number)).and_then(|collection| collection.config.listing.as_ref());
                (self.config.path.clone(), listing.map_or(Span::default(), |listing| listing.span))
            }
            Target::MovedToFront => (self.config.path.clone(), Span::default()),
        }
    }

    fn sort_collections(&mut self, symbols: &Interner) {
        for number in 0..self.collections.len() {
            let home = Home::Collection(u16::try_from(number).unwrap_or(u16::MAX));
            let (key, descending) = self.collections[number].config.order.clone();
            let mut entries: Vec<(SortKey, ContentId)> = self
                .ids()
                .filter(|(_, content)| content.home == home && content.is_live() && content.in_lists)
                .map(|(id, content)| (SortKey::of(content, &key, symbols), id))
                .collect();
            entries.sort_by(|(a, left), (b, right)| {
                a.order(b, descending).then_with(|| self.content(*left).id.cmp(&self.content(*right).id))
            });
            let mut scheduled: Vec<ContentId> = self
                .ids()
                .filter(|(_, content)| content.home == home && content.state == content::State::Waits)
                .map(|(id, _)| id)
                .collect();
            scheduled.sort_by(|&a, &b| self.by_date(a, b));
            self.collections[number].entries = entries.into_iter().map(|(_, id)| id).collect();
            self.collections[number].scheduled = scheduled;
        }
    }

    fn set_front(&mut self, problems: &mut Vec<Diagnostic>) {
        let moved = match self.config.front.clone() {
            None => return,
            Some(Front::Page(id)) => {
                match self.find(Home::Pages, &id.text).filter(|&page| self.content(page).is_live()) {
                    Some(page) => self.contents[page.0 as usize]
                        .address
                        .replace("/".into())
                        .map(|address| (address, Target::Content(page))),
                    None => {
                        let ids = self
                            .ids()
                            .filter(|(_, content)| content.home == Home::Pages)
                            .map(|(_, content)| &*content.id);
                        problems.push(
                            dead(&format!("page:{}", id.text), did_you_mean(&id.text, ids))
                                .at(&self.config.path, id.span),
                        );
                        None
                    }
                }
            }
            Some(Front::Collection(name)) => match self.collection(&name.text).map(|(number, _)| number) {
                Some(number) => {
                    let listing = self.collections[usize::from(number)].listing.replace("/".to_owned());
                    let listing = listing.map(|listing| (listing.into_boxed_str(), Target::Listing(number)));
                    if listing.is_none() {
                        self.addresses.insert("/".into(), Target::Listing(number));
                    }
                    listing
                }
                None => {
                    let names = self.collections.iter().map(|collection| collection.config.name.text.as_str());
                    problems.push(
                        dead(&format!("collection:{}", name.text), did_you_mean(&name.text, names))
                            .at(&self.config.path, name.span),
                    );
                    None
                }
            },
        };
        if let Some((address, target)) = moved {
            self.addresses.insert(address, Target::MovedToFront);
            self.claim("/", target, problems);
        }
    }

    /// The address behind a reference such as `page:visit`; an address stands for itself.
    pub fn reference(&self, text: &str) -> Option<&str> {
        let (sort, rest) = text.split_once(':')?;
        match sort {
            "page" => self.content(self.find(Home::Pages, rest)?).address.as_deref(),
            "entry" => {
                let (collection, id) = rest.split_once('/')?;
                let (number, _) = self.collection(collection)?;
                self.content(self.find(Home::Collection(number), id)?).address.as_deref()
            }
            "collection" => self.collection(rest)?.1.listing.as_deref(),
            _ => None,
        }
    }

    /// All references that lead somewhere, for suggestions.
    pub fn references(&self) -> impl Iterator<Item = String> + '_ {
        let contents = self.contents.iter().filter(|content| content.address.is_some()).map(|content| {
            match self.collection_of(content) {
                Some(collection) => format!("entry:{}/{}", collection.config.name.text, content.id),
                None => format!("page:{}", content.id),
            }
        });
        let listings = self.collections.iter().filter(|collection| collection.listing.is_some());
        contents.chain(listings.map(|collection| format!("collection:{}", collection.config.name.text)))
    }

    fn label_of(&self, text: &str) -> Option<String> {
        let (sort, rest) = text.split_once(':')?;
        match sort {
            "page" => Some(self.content(self.find(Home::Pages, rest)?).title.to_string()),
            "entry" => {
                let (collection, id) = rest.split_once('/')?;
                let (number, _) = self.collection(collection)?;
                Some(self.content(self.find(Home::Collection(number), id)?).title.to_string())
            }
            "collection" => Some(self.collection(rest)?.1.config.label.clone()),
            _ => None,
        }
    }

    fn make_menus(&self, problems: &mut Vec<Diagnostic>) -> Vec<(String, Vec<MenuItem>)> {
        let mut menus: Vec<(String, Vec<MenuItem>)> = self
            .config
            .menus
            .iter()
            .map(|(name, items)| (name.clone(), self.declared_items(items, problems)))
            .collect();
        if self.config.menus.is_empty() {
            menus.push(("main".to_owned(), self.page_items(&self.top)));
        }
        menus
    }

    fn declared_items(&self, items: &[MenuConfig], problems: &mut Vec<Diagnostic>) -> Vec<MenuItem> {
        items.iter().filter_map(|item| self.declared_item(item, problems)).collect()
    }

    fn declared_item(&self, item: &MenuConfig, problems: &mut Vec<Diagnostic>) -> Option<MenuItem> {
        let text = &item.to.text;
        let children = self.declared_items(&item.children, problems);
        let address =
            if text.starts_with('/') || text.contains("://") { Some(text.as_str()) } else { self.reference(text) };
        let Some(address) = address else {
            let references: Vec<String> = self.references().collect();
            problems.push(
                dead(text, did_you_mean(text, references.iter().map(String::as_str)))
                    .at(&self.config.path, item.to.span),
            );
            return None;
        };
        let label = item.label.clone().or_else(|| self.label_of(text)).unwrap_or_else(|| address.to_owned());
        Some(MenuItem { address: address.to_owned(), label, children })
    }

    fn page_items(&self, pages: &[ContentId]) -> Vec<MenuItem> {
        let listed = pages.iter().map(|&id| self.content(id)).filter(|page| page.is_live() && page.in_lists);
        listed
            .filter_map(|page| {
                let address = page.address.as_deref()?.to_owned();
                Some(MenuItem { address, label: page.title.to_string(), children: self.page_items(&page.children) })
            })
            .collect()
    }
}

fn dead(reference: &str, help: Option<String>) -> Diagnostic {
    let help = help.unwrap_or_else(|| "drafts and content that waits for its date have no address".to_owned());
    Diagnostic::error("dead-reference", format!("\"{reference}\" leads nowhere")).help(help)
}

/// The ids above an id, nearest first: of `a/b/c` these are `a/b` and `a`.
pub fn ancestors_of(id: &str) -> impl Iterator<Item = &str> {
    std::iter::successors(id.rsplit_once('/').map(|(above, _)| above), |id| id.rsplit_once('/').map(|(above, _)| above))
}

fn content_id(at: usize) -> ContentId {
    ContentId(u32::try_from(at).unwrap_or(u32::MAX))
}

/// By what entries are sorted.
enum SortKey {
    Nothing,
    Number(f64),
    Date(Moment),
    Text(String),
}

impl SortKey {
    fn of(content: &Content, key: &str, symbols: &Interner) -> Self {
        match key {
            "title" => SortKey::Text(content.title.to_lowercase()),
            "date" => content.date.map_or(SortKey::Nothing, SortKey::Date),
            "updated" => content.updated.map_or(SortKey::Nothing, SortKey::Date),
            "order" => content.order.map_or(SortKey::Nothing, SortKey::Number),
            "id" => SortKey::Text(content.id.to_string()),
            _ => {
                let slot = symbols.find(key).and_then(|symbol| content.shape.slot(symbol));
                match slot.and_then(|slot| content.values.get(slot)) {
                    Some(Datum::Int(number)) => SortKey::Number(*number as f64),
                    Some(Datum::Float(number)) => SortKey::Number(*number),
                    Some(Datum::Date(moment)) => SortKey::Date(*moment),
                    Some(Datum::Text(text)) => SortKey::Text(text.to_lowercase()),
                    _ => SortKey::Nothing,
                }
            }
        }
    }

    /// The order of two keys; nothing comes last, also descending.
    fn order(&self, other: &Self, descending: bool) -> Ordering {
        let order = match (self, other) {
            (SortKey::Nothing, SortKey::Nothing) => return Ordering::Equal,
            (SortKey::Nothing, _) => return Ordering::Greater,
            (_, SortKey::Nothing) => return Ordering::Less,
            (SortKey::Number(a), SortKey::Number(b)) => a.total_cmp(b),
            (SortKey::Date(a), SortKey::Date(b)) => a.order(*b),
            (SortKey::Text(a), SortKey::Text(b)) => a.cmp(b),
            (a, b) => a.rank().cmp(&b.rank()),
        };
        if descending { order.reverse() } else { order }
    }

    fn rank(&self) -> u8 {
        match self {
            SortKey::Number(_) => 0,
            SortKey::Date(_) => 1,
            SortKey::Text(_) => 2,
            SortKey::Nothing => 3,
        }
    }
}

fn read_contents(
    snapshot: &Snapshot,
    config: &Config,
    asking: &Asking,
    symbols: &mut Interner,
    problems: &mut Vec<Diagnostic>,
) -> Vec<Content> {
    let files: Vec<&Arc<FileNode>> = snapshot.below("content/").collect();
    files.par_iter().for_each(|node| {
        node.front();
    });
    let mut shapes = Shapes::default();
    let mut contents = Vec::with_capacity(files.len());
    for node in files {
        let below = &node.path["content/".len()..];
        let Some((folder, relative)) = below.split_once('/') else {
            let diagnostic =
                Diagnostic::warning("misplaced-content", "this file stands beside the collections' folders");
            problems.push(diagnostic.help("move it to content/pages/").at(&node.path, Span::default()));
            continue;
        };
        let found = config.collections.iter().position(|collection| collection.name.text == folder);
        let (home, fields, shows_future) = match (folder, found) {
            ("pages", _) => (Home::Pages, &config.page_fields, false),
            (_, Some(at)) => (
                Home::Collection(u16::try_from(at).unwrap_or(u16::MAX)),
                &config.collections[at].fields,
                config.collections[at].shows_future,
            ),
            (_, None) => {
                problems.push(misplaced(config, folder).at(&node.path, Span::default()));
                continue;
            }
        };
        let conversion = Conversion { zone: &config.timezone, raw_html: config.raw_html };
        let reading = Reading { fields, home, conversion, today: asking.today, drafts: asking.drafts, shows_future };
        contents.extend(content::read(node, relative, &reading, symbols, &mut shapes, problems));
    }
    contents
}

fn misplaced(config: &Config, folder: &str) -> Diagnostic {
    let names = config.collections.iter().map(|collection| collection.name.text.as_str()).chain(["pages"]);
    let help = did_you_mean(folder, names)
        .unwrap_or_else(|| format!("write [collections.{folder}] in {}, or move it to content/pages/", config::FILE));
    Diagnostic::warning("misplaced-content", format!("\"{folder}\" is no collection of this site")).help(help)
}
