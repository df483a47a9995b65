//! A digest of each thing that pages depend on, as it is in one state of a site.
//!
//! Digests are of names and values, never of numbers that another state of the site may give to something else. What has
//! no digest of its own here is in the frame: where that differs, nothing is as it was.

use std::sync::{Arc, Mutex, OnceLock};

use bumpalo::Bump;
use hausblatt_lang::render::{Job, digest_of_order, digest_of_rows, digests_of_index};
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::dependencies::apart;
use hausblatt_lang::value::moment::Moment;
use rustc_hash::{FxHashMap, FxHashSet};
use xxhash_rust::xxh3::xxh3_64;

use crate::asking::SiteOptions;
use crate::files::{Body, FileNode};
use crate::model::content::{Content, ContentId, Section};
use crate::model::dependencies::SitePart;
use crate::model::request::Request;
use crate::model::site::{MenuItem, Site};
use crate::model::taxonomy::{Term, TermId};
use crate::render::dependencies::OWN;
use crate::render::dependencies::named::NumberedDependency;
use crate::render::page::{Audience, job};
use crate::themes::component::TrayItem;
use crate::themes::lineage::FileId;
use crate::themes::theme::Header;
use crate::world::World;

/// The digest of what is not there; no other has it.
const NOTHING: u64 = 0;
/// For the digest of each value that an index knows, one of what it holds for it.
type IndexDigests = FxHashMap<u64, u64>;
/// Digests that are found when they are needed.
type Known = Box<[OnceLock<u64>]>;

/// The digests of one state of a site, each found when it is needed first.
pub(crate) struct Digests<'w> {
    pub(super) world: &'w World,
    frame: u64,
    fronts: Known,
    texts: Known,
    files: Known,
    units: FxHashMap<&'w str, u32>,
    /// The numbers of content by their paths.
    contents: OnceLock<FxHashMap<&'w str, u32>>,
    indexes: Mutex<FxHashMap<(u32, u32), Arc<IndexDigests>>>,
}

/// A digest that is put together of parts.
pub(super) struct Parts(Vec<u8>);

/// Room for what most digests are made of, in bytes.
const ROOM: usize = 512;

impl Parts {
    pub(super) fn new() -> Self {
        Self(Vec::with_capacity(ROOM))
    }

    fn datum(&mut self, datum: &Datum, host: &World) {
        datum.lasting_bytes(host, &mut self.0);
    }

    pub(super) fn text(&mut self, text: &str) {
        self.number(text.len() as u64);
        self.0.extend_from_slice(text.as_bytes());
    }

    pub(super) fn maybe(&mut self, text: Option<&str>) {
        self.number(u64::from(text.is_some()));
        self.text(text.unwrap_or(""));
    }

    pub(super) fn number(&mut self, number: u64) {
        self.0.extend_from_slice(&number.to_le_bytes());
    }

    /// Never that of nothing.
    pub(super) fn digest(self) -> u64 {
        xxh3_64(&self.0).max(1)
    }
}

fn unknown(count: usize) -> Known {
    (0..count).map(|_| OnceLock::new()).collect()
}

/// A digest of the thing with an identity that is the same in every state of the site which has it.
pub(crate) fn lasting_digest(site: &Site, (sort, number): (u32, u32)) -> u64 {
    let mut all = Parts::new();
    match sort.checked_sub(1) {
        None => {
            all.text("content");
            all.maybe(site.contents.get(number as usize).map(|content| &**content.path()));
        }
        Some(taxonomy) => {
            let taxonomy = site.taxonomies.get(taxonomy as usize);
            all.text("term");
            all.maybe(taxonomy.map(|taxonomy| taxonomy.config.name.text.as_str()));
            all.maybe(taxonomy.and_then(|taxonomy| taxonomy.term(number)).map(|term| &*term.id));
        }
    }
    all.digest()
}

impl<'w> Digests<'w> {
    /// Those of a World, for pages that are made in a way with this digest.
    pub(crate) fn new(world: &'w World, way: u64) -> Self {
        let units = (0u32..).zip(&world.library.units).map(|(number, unit)| (&*unit.path, number)).collect();
        let mut digests = Self {
            world,
            frame: NOTHING,
            fronts: unknown(world.site.contents.len()),
            texts: unknown(world.site.contents.len()),
            files: unknown(world.lineage.files.len()),
            units,
            contents: OnceLock::new(),
            indexes: Mutex::default(),
        };
        digests.frame = digests.of_frame(way);
        digests
    }

    /// The number of a file in the library, by its path.
    pub(super) fn unit_at(&self, path: &str) -> Option<u32> {
        self.units.get(path).copied()
    }

    /// The number of the content whose file is at a path.
    pub(super) fn content_at(&self, path: &str) -> Option<u32> {
        let contents = self.contents.get_or_init(|| {
            self.world.site.contents.iter().map(|content| (&**content.path(), content.number.0)).collect()
        });
        contents.get(path).copied()
    }

    /// What every page depends on.
    pub(super) fn frame(&self) -> u64 {
        self.frame
    }

    /// All that pages may depend on but for what content says.
    pub(crate) fn of_all_but_content(&self) -> u64 {
        let mut all = Parts::new();
        all.number(self.frame);
        self.world.lineage.ids().for_each(|(id, _)| all.number(self.of_file(id)));
        for sort in [SitePart::Whole, SitePart::Menus, SitePart::Settings] {
            all.number(self.of_site(sort, 0, 0));
        }
        all.digest()
    }

    /// The configuration, the manifests, the names of all files, the media and assets by their stamps, and what follows for
    /// listings; the texts of content, tables and templates apart, which pages depend on one by one.
    fn of_frame(&self, way: u64) -> u64 {
        let world = self.world;
        let mut all = Parts::new();
        all.number(way);
        let SiteOptions { today: _, drafts, theme, limits } = &world.asking;
        all.text(&format!("{drafts} {theme:?} {limits:?}"));
        let noted: FxHashSet<*const FileNode> = world
            .lineage
            .ids()
            .filter(|(id, _)| world.unit(*id).is_some())
            .map(|(_, file)| Arc::as_ptr(&file.node))
            .collect();
        let is_of_lineage = |path: &str| world.lineage.themes.iter().any(|theme| path.starts_with(&*theme.root));
        for node in world.snapshot.files() {
            if node.path.starts_with("content/") {
                continue;
            }
            all.text(&node.path);
            match &node.body {
                _ if noted.contains(&Arc::as_ptr(node)) || node.path.starts_with("tables/") => {}
                _ if node.path.starts_with("themes/") && !is_of_lineage(&node.path) => {}
                Body::Text(text) | Body::Head(text) => all.text(text),
                Body::OnDemand | Body::Unreadable { .. } => all.text(&format!("{:?}", node.stamp)),
            }
        }
        for collection in world.site.collections.iter() {
            all.maybe(collection.listing.as_deref());
            all.maybe(collection.feed.as_deref());
        }
        // Which files answer a request follows from their names, from what they say in front, and from its content.
        for (id, file) in world.lineage.ids() {
            let Header { label: _, about: _, fits, layout, classes, takes: _, body: _ } = world.header(id);
            let layout = layout.as_ref().map(|layout| &layout.text);
            let program = (world.program(id).is_some(), world.continues(id), file.hidden_by);
            all.text(&format!("{} {fits:?} {layout:?} {classes:?} {program:?}", file.node.path));
        }
        for (status, _) in &world.site.errors {
            all.number(u64::from(*status));
        }
        all.digest()
    }

    /// The digest of a dependency; `own` is the content that the page is about.
    pub(crate) fn of(&self, dependency: &NumberedDependency<'_>, own: Option<ContentId>) -> u64 {
        apart(|| match *dependency {
            NumberedDependency::File(unit) => self.of_unit(unit),
            NumberedDependency::Rows(path, number) => {
                self.of_query(path, |unit, job| Some(digest_of_rows(job, self.world.library.program(unit)?, number)))
            }
            NumberedDependency::Order(path, number) => {
                self.of_query(path, |unit, job| Some(digest_of_order(job, self.world.library.program(unit)?, number)))
            }
            NumberedDependency::Indexed(path, number, key) => {
                let of_index = |unit| self.index_of(path, unit, number).get(&key).copied().map(|digest| digest.max(1));
                // An index that holds nothing for a value is something else than no index.
                self.unit_at(path).map_or(NOTHING, |unit| of_index(unit).unwrap_or(1))
            }
            NumberedDependency::Site(sort, OWN, _) => own.map_or(NOTHING, |own| self.of_site(sort, own.0, 0)),
            NumberedDependency::Site(sort, first, second) => self.of_site(sort, first, second),
            NumberedDependency::Text(sort, text) => self.of_text(sort, text),
            NumberedDependency::Today => xxh3_64(self.world.asking.today.to_string().as_bytes()).max(1),
        })
    }

    fn of_unit(&self, unit: u32) -> u64 {
        self.of_file(self.world.file_of(unit))
    }

    /// A theme's file: where it is, what it says, and whether it can be run.
    pub(super) fn of_file(&self, file: FileId) -> u64 {
        let find = || {
            let node = &self.world.lineage.file(file).node;
            let mut all = Parts::new();
            all.text(&node.path);
            all.maybe(node.text().map(|text| &**text));
            all.number(u64::from(self.world.program(file).is_some()));
            all.digest()
        };
        self.files.get(file.0 as usize).map_or(NOTHING, |known| *known.get_or_init(find))
    }

    fn of_query(&self, path: &str, digest: impl FnOnce(u32, &Job<'_>) -> Option<u64>) -> u64 {
        let Some(unit) = self.unit_at(path) else { return NOTHING };
        let arena = Bump::new();
        let resolution = self.world.resolve(Request::error("/", 404, None));
        let job = job(self.world, &resolution, Audience::Build(Default::default()), &arena);
        digest(unit, &job).map_or(NOTHING, |digest| digest.max(1))
    }

    fn index_of(&self, path: &str, unit: u32, number: u32) -> Arc<IndexDigests> {
        let known = || self.indexes.lock().ok()?.get(&(unit, number)).cloned();
        if let Some(known) = known() {
            return known;
        }
        let mut found = IndexDigests::default();
        self.of_query(path, |unit, job| {
            found = digests_of_index(job, self.world.library.program(unit)?, number);
            None
        });
        let found = Arc::new(found);
        if let Ok(mut indexes) = self.indexes.lock() {
            indexes.insert((unit, number), found.clone());
        }
        found
    }

    fn of_site(&self, sort: SitePart, first: u32, second: u32) -> u64 {
        let site = &self.world.site;
        let content = || site.contents.get(first as usize);
        let term = || site.term(TermId { taxonomy: u16::try_from(first).unwrap_or(u16::MAX), term: second });
        let mut all = Parts::new();
        match sort {
            SitePart::Front => return content().map_or(NOTHING, |content| self.of_front(content)),
            SitePart::Text => return content().map_or(NOTHING, |content| self.of_markdown(content)),
            SitePart::Summary => match content() {
                // As pages show it: its text may be another one by now.
                Some(content) => all.text(content.summary.as_deref().unwrap_or_else(|| content.first_paragraph())),
                None => return NOTHING,
            },
            SitePart::Trays => self.add_trays(ContentId(first), &mut all),
            SitePart::Neighbours => match content() {
                Some(content) => {
                    let (older, newer) = site.neighbours(content.number);
                    self.add_ids(&[older, newer].map(|id| id.unwrap_or(ContentId(OWN))), &mut all);
                }
                None => return NOTHING,
            },
            SitePart::Entries | SitePart::Scheduled => match site.collections.get(first as usize) {
                Some(collection) if sort == SitePart::Entries => self.add_ids(&collection.entries, &mut all),
                Some(collection) => self.add_ids(&collection.scheduled, &mut all),
                None => return NOTHING,
            },
            SitePart::Listed => match site.taxonomies.get(first as usize) {
                Some(taxonomy) => {
                    for term in taxonomy.listed.iter().filter_map(|&number| taxonomy.term(number)) {
                        all.text(&term.id);
                        all.maybe(term.parent.and_then(|parent| taxonomy.term(parent)).map(|parent| &*parent.id));
                    }
                }
                None => return NOTHING,
            },
            SitePart::Term => match term() {
                Some((taxonomy, term)) => {
                    let Term { id, label, parent, image, entries: _, address } = term;
                    all.text(id);
                    all.text(label);
                    all.maybe(parent.and_then(|parent| taxonomy.term(parent)).map(|parent| &*parent.id));
                    all.datum(image, self.world);
                    all.maybe(address.as_deref());
                }
                None => return NOTHING,
            },
            SitePart::TermEntries => match term() {
                Some((_, term)) => self.add_ids(&term.entries, &mut all),
                None => return NOTHING,
            },
            SitePart::Whole => {
                // Where an answer may be an error, it counts as another one: nobody knows before it is made.
                all.number(u64::from(self.world.is_plain()));
                // In no order, since the map has none.
                let addresses = site.addresses.keys().map(|address| xxh3_64(address.as_bytes()));
                all.number(addresses.fold(0, u64::wrapping_add));
                all.number(site.addresses.len() as u64);
                // Numbered pages of listings follow from these, and from the configuration.
                for content in site.contents.iter() {
                    let Content { home, date, updated, robots, in_lists, terms, state, address, .. } = content;
                    self.add_home(*home, &mut all);
                    add_moments(&[*date, *updated], &mut all);
                    all.maybe(robots.as_deref());
                    all.number(u64::from(*in_lists) << 8 | *state as u64);
                    self.add_terms(terms, &mut all);
                    all.maybe(address.as_deref());
                }
                site.tables.iter().for_each(|table| all.datum(&table.value, self.world));
            }
            SitePart::Menus => {
                for (name, items) in &site.menus {
                    all.text(name);
                    add_items(items, &mut all);
                }
            }
            SitePart::Settings => {
                for setting in &self.world.settings {
                    all.text(&setting.field.name);
                    all.datum(&setting.value, self.world);
                }
            }
            SitePart::Table => match site.tables.get(first as usize) {
                Some(table) => all.datum(&table.value, self.world),
                None => return NOTHING,
            },
            SitePart::Reference | SitePart::Named | SitePart::Path => return NOTHING,
        }
        all.digest()
    }

    fn of_text(&self, sort: SitePart, text: &str) -> u64 {
        let site = &self.world.site;
        let mut all = Parts::new();
        match sort {
            SitePart::Reference => all.maybe(site.address_of(text).as_deref()),
            SitePart::Named => match site.referenced_content(text) {
                Some(id) => self.add_ids(&[id], &mut all),
                None => all.text(""),
            },
            SitePart::Path => match site.at_path(text) {
                Some(id) => {
                    all.text("there");
                    all.maybe(site.content(id).address.as_deref());
                }
                None => all.text(""),
            },
            _ => return NOTHING,
        }
        all.digest()
    }

    pub(super) fn add_ids(&self, ids: &[ContentId], all: &mut Parts) {
        all.number(ids.len() as u64);
        for id in ids {
            all.maybe(self.world.site.contents.get(id.0 as usize).map(|content| &**content.path()));
        }
    }

    fn add_home(&self, home: Section, all: &mut Parts) {
        match home {
            Section::Pages => all.text(""),
            Section::Collection(number) => {
                let collection = self.world.site.collections.get(usize::from(number));
                all.maybe(collection.map(|collection| collection.config.name.text.as_str()));
            }
        }
    }

    fn add_terms(&self, terms: &[(u16, Box<[u32]>)], all: &mut Parts) {
        for (taxonomy, terms) in terms {
            let taxonomy = self.world.site.taxonomies.get(usize::from(*taxonomy));
            all.maybe(taxonomy.map(|taxonomy| taxonomy.config.name.text.as_str()));
            all.number(terms.len() as u64);
            for term in terms {
                all.maybe(taxonomy.and_then(|taxonomy| taxonomy.term(*term)).map(|term| &*term.id));
            }
        }
    }

    /// What a content file's front matter says, and what follows from it; not where it says so.
    fn of_front(&self, content: &Content) -> u64 {
        let find = || {
            let Content {
                number: _,
                id,
                home,
                node,
                body: _,
                title,
                slug,
                slug_span: _,
                date,
                updated,
                summary,
                image,
                authors,
                robots,
                order,
                in_lists,
                terms,
                formerly: _,
                trays: _,
                template,
                state,
                broken,
                address,
                shape,
                values,
                parent,
                children,
                ..
            } = content;
            let mut all = Parts::new();
            all.text(id);
            all.text(&node.path);
            self.add_home(*home, &mut all);
            all.text(title);
            all.text(slug);
            add_moments(&[*date, *updated], &mut all);
            all.maybe(summary.as_deref());
            all.datum(image, self.world);
            all.datum(authors, self.world);
            all.maybe(robots.as_deref());
            all.number(order.map_or(u64::MAX, f64::to_bits));
            all.number(u64::from(*in_lists));
            self.add_terms(terms, &mut all);
            all.maybe(template.as_ref().map(|(name, _)| &**name));
            all.number(*state as u64);
            all.number(u64::from(*broken));
            all.maybe(address.as_deref());
            for (symbol, value) in shape.names().iter().zip(values) {
                all.text(self.world.symbols.name(*symbol));
                all.datum(value, self.world);
            }
            self.add_ids(parent.as_slice(), &mut all);
            self.add_ids(children, &mut all);
            all.digest()
        };
        self.fronts.get(content.number.0 as usize).map_or(NOTHING, |known| *known.get_or_init(find))
    }

    /// The Markdown of a content file.
    fn of_markdown(&self, content: &Content) -> u64 {
        let find = || content.digest_of_markdown();
        self.texts.get(content.number.0 as usize).map_or(NOTHING, |known| *known.get_or_init(find))
    }

    fn add_trays(&self, id: ContentId, all: &mut Parts) {
        for tray in self.world.trays_of(id) {
            all.text(&tray.name);
            all.number(tray.placed.len() as u64);
            for placed in &tray.placed {
                match placed {
                    TrayItem::Component(name, values) => {
                        all.text(name);
                        for (symbol, value) in values {
                            all.text(self.world.symbols.name(*symbol));
                            all.datum(value, self.world);
                        }
                    }
                    TrayItem::LeftOut(why) => all.maybe(Some(why)),
                }
            }
        }
    }
}

fn add_moments(moments: &[Option<Moment>], all: &mut Parts) {
    for moment in moments {
        all.number(u64::from(moment.is_some()));
        moment.iter().for_each(|moment| all.0.extend(moment.lasting_bytes()));
    }
}

fn add_items(items: &[MenuItem], all: &mut Parts) {
    all.number(items.len() as u64);
    for MenuItem { address, label, children } in items {
        all.text(address);
        all.text(label);
        add_items(children, all);
    }
}
