//! The World itself, and how it is put together from a snapshot.

use std::error::Error;
use std::fmt::{self, Display, Formatter};
use std::sync::{Arc, OnceLock, RwLock};

use hausblatt_lang::library::{Library, UnitId};
use hausblatt_lang::may_name;
use hausblatt_lang::program::Program;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::{Place, Span};
use hausblatt_lang::types::{Globals, Type};
use hausblatt_lang::value::language::Language;
use hausblatt_lang::value::shape::Interner;
use rustc_hash::FxHashMap;

use crate::asking::SiteOptions;
use crate::files::{LeftOut, Snapshot};
use crate::model::content::{ContentId, ContentState};
use crate::model::dependencies::SitePart;
use crate::model::request::Request;
use crate::model::search;
use crate::model::site::{Site, Sources};
use crate::schema::config::{self, Spanned};
use crate::schema::fields::{Conversion, Field};
use crate::text::codes;
use crate::text::names;
use crate::text::scripts::Scripts;
use crate::text::styles::SetProperties;
use crate::themes::component::{self, Component, PlacedTray, Placing};
use crate::themes::lineage::{FileId, Lineage};
use crate::themes::prepare;
use crate::themes::settings::{self, Setting};
use crate::themes::site_file::file_of;
use crate::themes::theme::{self, Header};
use crate::world::globals::{self, Sorts};
use crate::world::status::Odd;
use crate::world::survey::{FileUse, Surveyed};

/// A site with its themes, read and compiled.
pub struct World {
    /// The files it was made from.
    pub snapshot: Snapshot,
    /// What was asked in addition.
    pub asking: SiteOptions,
    /// Content and configuration.
    pub site: Arc<Site>,
    reading: Arc<Reading>,
    /// The settings in force.
    pub settings: Vec<Setting>,
    /// The components of the lineage.
    pub components: Vec<Component>,
    /// What content places in trays.
    pub trays: FxHashMap<ContentId, Vec<PlacedTray>>,
    pub(crate) search: OnceLock<search::Index>,
    /// What the scripts that are written into pages say, by their texts.
    pub(crate) inline_scripts: RwLock<FxHashMap<Box<str>, Arc<Scripts>>>,
    /// Which custom properties anything sets; none where nobody can know.
    pub(crate) set_properties: OnceLock<Option<SetProperties>>,
    /// A digest of what a built search looks in.
    pub(crate) search_version: OnceLock<u64>,
    /// The versions of published files that are known already, by path.
    pub(crate) versions: RwLock<FxHashMap<Box<str>, Option<u64>>>,
    /// The addresses with their versions that are known already; none for those that have none.
    pub(crate) versioned: RwLock<FxHashMap<Box<str>, Option<Box<str>>>>,
    pub(crate) requests: OnceLock<Vec<Request>>,
    pub(crate) survey: OnceLock<Vec<Surveyed>>,
    pub(crate) file_uses: OnceLock<Vec<Option<FileUse>>>,
    pub(crate) statuses: OnceLock<Odd>,
    pub(crate) plain: OnceLock<bool>,
    pub(crate) meeting: OnceLock<Vec<Diagnostic>>,
    pub(crate) silent_images: OnceLock<FxHashMap<String, Vec<Place>>>,
    /// The merged themes.
    pub lineage: Lineage,
    /// The compiled files.
    pub library: Library,
    /// The numbers of all names.
    pub symbols: Interner,
    /// The values that every file can name.
    pub globals: Globals,
    /// Which of their members are what the site names.
    pub sorts: Sorts,
    /// The site's language.
    pub language: Language,
    /// What is wrong, and what to know, in the order of the files.
    pub problems: Vec<Diagnostic>,
    /// What is known of the fields of each component.
    pub(super) component_types: FxHashMap<String, Vec<(String, Type)>>,
    pub(super) headers: Vec<Header>,
    pub(super) unit_of: Vec<Option<UnitId>>,
    pub(super) file_of: Vec<FileId>,
}

/// A World of earlier files, with the same configuration, manifests and tables.
#[derive(Clone, Copy)]
pub(crate) struct EarlierWorld<'w> {
    /// That World.
    pub world: &'w World,
    /// The paths of the content that says something else now.
    pub edited: &'w [Arc<str>],
}

impl EarlierWorld<'_> {
    /// Its site with what is edited; nothing where the names that are known by now have other numbers there, or where
    /// the edits may change more than the content that they are in.
    fn site(&self, sources: &Sources<'_>, symbols: &Interner) -> Option<(Arc<Site>, Arc<Reading>)> {
        let World { site, reading, .. } = self.world;
        if !reading.symbols.begins_with(symbols) {
            return None;
        }
        if self.edited.is_empty() {
            return Some((site.clone(), reading.clone()));
        }
        let mut problems = reading.problems.clone();
        let site = site.edited(sources, self.edited, &reading.symbols, &mut problems)?;
        Some((Arc::new(site), Arc::new(Reading { symbols: reading.symbols.clone(), problems })))
    }
}

/// What reading the content left behind, beside the site itself.
struct Reading {
    /// The numbers of all names, up to there.
    symbols: Interner,
    /// What is wrong with the content.
    problems: Vec<Diagnostic>,
}

/// Why there is no World: a configuration or manifest that no site can be loaded from.
#[derive(Debug)]
pub struct Unloadable(pub Vec<Diagnostic>);

impl Display for Unloadable {
    fn fmt(&self, out: &mut Formatter<'_>) -> fmt::Result {
        let first = self.0.iter().find(|problem| problem.is_error());
        out.write_str(first.map_or("the site can't be loaded", |problem| &problem.message))
    }
}

impl Error for Unloadable {}

/// The collections that a field's values are entries of, where the site has none of that name.
fn unknown_collection(site: &Site, path: &Arc<str>, field: &Field) -> Vec<Diagnostic> {
    let unknown = field.of.collections().into_iter().filter(|name| site.collection(name).is_none());
    let names = || site.collections.iter().map(|collection| collection.config.name.text.as_str());
    let report = |name: &str| {
        let message = format!("\"{}\" names entries of \"{name}\", which is not a collection of this site", field.name);
        Diagnostic::of(&lang_codes::DEAD_REFERENCE, message).meaning(name, names()).at(path, field.span)
    };
    unknown.map(report).collect()
}

impl World {
    /// Puts the World of `snapshot` together, looked at in this way, with all its files compiled and linked. What it has in
    /// common with an earlier one, it shares.
    ///
    /// # Errors
    /// When `hausblatt.toml` or the lineage can't be read at all. All other problems are collected.
    pub(crate) fn assemble(
        snapshot: Snapshot,
        asking: SiteOptions,
        earlier: Option<EarlierWorld<'_>>,
    ) -> Result<Self, Unloadable> {
        let mut problems: Vec<Diagnostic> = snapshot.left_out().iter().map(LeftOut::diagnostic).collect();
        let Some(config) = read_config(&snapshot, &mut problems) else { return Err(Unloadable(problems)) };
        let active = match &asking.theme {
            Some(name) => Spanned { text: name.clone(), span: Span::default() },
            None => config.theme.clone(),
        };
        let Some(lineage) = Lineage::load(&snapshot, &active, &mut problems) else {
            // That a folder of themes is left out is reported with the theme that is missing for it.
            let of_themes = |place: &Place| place.path.split('/').count() < 3 && place.path.starts_with("themes");
            problems.retain(|one| one.code != "left-out" || !one.place.as_ref().is_some_and(of_themes));
            return Err(Unloadable(problems));
        };
        let mut symbols = names::interner();
        let mut config = config;
        let zone = config.timezone.clone();
        let pictures = |address: &str| file_of(&snapshot, &lineage, address);
        let conversion = Conversion { zone: &zone, pictures: &pictures };
        config.make_ready(&conversion, &mut symbols, &mut problems);
        let mut settings = settings::in_force(&lineage, &config.settings, &conversion, &mut symbols, &mut problems);
        let components = component::declared(&lineage, &conversion, &mut symbols, &mut problems);
        let language = Language::new(&config.language);
        let sources = Sources { snapshot: &snapshot, asking: &asking, conversion: &conversion, language: &language };
        let (site, reading) = earlier.and_then(|earlier| earlier.site(&sources, &symbols)).unwrap_or_else(|| {
            let mut found = Vec::new();
            let site = Site::load(&sources, config, &mut symbols, &mut found);
            (Arc::new(site), Arc::new(Reading { symbols, problems: found }))
        });
        let mut symbols = reading.symbols.clone();
        problems.extend(reading.problems.iter().cloned());
        for setting in &mut settings {
            let value = std::mem::take(&mut setting.value);
            setting.value = site.settled(&setting.field.of, value, &site.config.path);
        }
        for name in globals::names_of_data(&site) {
            symbols.intern(&name);
        }
        let placing = Placing {
            components: &components,
            site: &site,
            conversion: &conversion,
            symbols: &symbols,
            snapshot: &snapshot,
            lineage: &lineage,
        };
        let placing_content = site.ids().filter(|(_, content)| {
            content.trays.is_some() && (content.address.is_some() || content.state == ContentState::OnErrors)
        });
        let trays = placing_content.map(|(id, content)| (id, placing.trays(content, &mut problems))).collect();
        let (mut globals, sorts) = globals::declare(&site, &settings, &symbols);
        for name in prepare::names(&lineage).filter(|name| may_name(name)) {
            globals.add_prepared(&name);
        }
        let all_fields = site.collections.iter().flat_map(|collection| &collection.config.fields);
        let of_site = all_fields.chain(&site.config.page_fields).map(|field| (&site.config.path, field));
        let of_components = components.iter().flat_map(|component| {
            let manifest = lineage.nearest(&format!("components/{}/component.toml", component.name));
            let path = manifest.map_or(&site.config.path, |id| &lineage.file(id).node.path);
            component.fields.iter().map(move |field| (path, field))
        });
        problems.extend(of_site.chain(of_components).flat_map(|(path, field)| unknown_collection(&site, path, field)));
        let component_types = components.iter().map(|component| {
            let manifest = lineage.nearest(&format!("components/{}/component.toml", component.name));
            let path = manifest.map_or(&site.config.path, |id| &lineage.file(id).node.path);
            (component.name.clone(), globals::typed_fields(&mut globals, &component.fields, path))
        });
        let component_types = component_types.collect();
        let mut world = Self {
            snapshot,
            asking,
            site,
            reading,
            settings,
            components,
            trays,
            search: OnceLock::new(),
            inline_scripts: RwLock::default(),
            set_properties: OnceLock::new(),
            search_version: OnceLock::new(),
            versions: RwLock::default(),
            versioned: RwLock::default(),
            requests: OnceLock::new(),
            survey: OnceLock::new(),
            file_uses: OnceLock::new(),
            statuses: OnceLock::new(),
            plain: OnceLock::new(),
            meeting: OnceLock::new(),
            silent_images: OnceLock::new(),
            lineage,
            library: Library::default(),
            symbols,
            globals,
            sorts,
            language,
            problems,
            component_types,
            headers: Vec::new(),
            unit_of: Vec::new(),
            file_of: Vec::new(),
        };
        world.compile();
        world.link();
        Ok(world)
    }

    /// The nearest theme's style or script of a component, as what is served below `/assets/`.
    pub(crate) fn component_asset(&self, path: &str) -> Option<FileId> {
        let served = path.starts_with("components/") && COMPONENT_ASSETS.iter().any(|name| path.ends_with(name));
        if served { self.lineage.nearest(path) } else { None }
    }

    /// What some content places in trays.
    pub(crate) fn trays_of(&self, id: ContentId) -> &[PlacedTray] {
        SitePart::Trays.note_of(id);
        self.trays.get(&id).map_or(&[], |trays| trays)
    }

    /// Whether any file prints or uses today's date.
    pub(crate) fn reads_today(&self) -> bool {
        let today = self.globals.find("today").map(|(number, _)| number);
        let programs = self.library.units.iter().filter_map(|unit| unit.program.as_ref());
        today.is_some_and(|today| programs.into_iter().any(|program| program.globals_read.contains(&today)))
    }

    /// What is wrong with `hausblatt.toml` and the themes' manifests, which every answer depends on.
    pub fn configuration_problems(&self) -> impl Iterator<Item = &Diagnostic> {
        let is_one = |path: &str| path == config::FILE || path.ends_with(theme::MANIFEST);
        let of_configuration =
            move |diagnostic: &&Diagnostic| diagnostic.place.as_ref().is_none_or(|place| is_one(&place.path));
        self.problems.iter().filter(of_configuration)
    }

    /// The `component.toml` of the component that a file renders, if it can't be read.
    pub(crate) fn unreadable_manifest(&self, id: FileId) -> Option<&Arc<str>> {
        self.component_of(self.lineage.file(id))?.unreadable.as_ref()
    }

    /// The errors that are in the file at `path`, and in the manifest of the component that it renders.
    pub(crate) fn problems_at<'w>(&'w self, path: &str) -> impl Iterator<Item = &'w Diagnostic> + use<'w> {
        let file = self.lineage.ids().find(|(_, file)| *file.node.path == *path).map(|(id, _)| id);
        let manifest = file.and_then(|file| self.unreadable_manifest(file)).cloned();
        let path = path.to_owned();
        self.problems.iter().filter(|problem| problem.is_error()).filter(move |problem| {
            let at = problem.place.as_ref().map(|place| &*place.path);
            at == Some(&*path) || at.is_some_and(|at| manifest.as_deref() == Some(at))
        })
    }

    /// What a theme file's front matter says.
    pub fn header(&self, id: FileId) -> &Header {
        static NONE: Header = Header {
            label: None,
            about: None,
            fits: Vec::new(),
            layout: None,
            classes: Vec::new(),
            takes: None,
            body: 0,
        };
        self.headers.get(id.0 as usize).unwrap_or(&NONE)
    }

    /// A file's number in the library, if it is one that can be rendered.
    pub fn unit(&self, id: FileId) -> Option<UnitId> {
        self.unit_of.get(id.0 as usize).copied().flatten()
    }

    /// The file after a number of the library.
    pub(crate) fn file_of(&self, unit: UnitId) -> FileId {
        self.file_of[unit as usize]
    }

    /// A file's program, if it has no error.
    pub fn program(&self, id: FileId) -> Option<&Program> {
        self.library.program(self.unit(id)?)
    }

    /// Whether a file extends the next one of its chain.
    pub(crate) fn continues(&self, id: FileId) -> bool {
        self.program(id).is_some_and(|program| program.continues)
    }

    /// The statuses that a file may turn an answer into.
    pub fn answers(&self, id: FileId) -> Vec<u16> {
        self.program(id).map(|program| program.answers.to_vec()).unwrap_or_default()
    }

    /// The files that a partial or layout extends, as far as each goes on.
    pub(crate) fn next_files(&self, id: FileId) -> Vec<FileId> {
        let mut files = Vec::new();
        let mut at = id;
        while let Some(next) = self.next_file(at).filter(|next| self.continues(at) && !files.contains(next)) {
            files.push(next);
            at = next;
        }
        files
    }

    /// The layout that a layout puts around it; of one that extends another without saying, the next file's.
    pub(crate) fn stated_layout(&self, id: FileId) -> Option<Spanned> {
        let files = std::iter::once(id).chain(self.next_files(id));
        files.into_iter().find_map(|file| self.header(file).layout.clone())
    }

    /// The nearest theme's asset at `path`.
    pub fn asset(&self, path: &str) -> Option<FileId> {
        self.lineage.nearest(&format!("assets/{path}"))
    }
}

/// The files of a component that are served.
const COMPONENT_ASSETS: &[&str] = &["/style.css", "/script.js", "/script.mjs"];

fn read_config(snapshot: &Snapshot, problems: &mut Vec<Diagnostic>) -> Option<config::Config> {
    let node = snapshot.file(config::FILE);
    if let Some(text) = node.and_then(|node| node.text()) {
        return config::read(text, problems);
    }
    problems.push(node.and_then(|node| node.unreadable()).unwrap_or_else(|| {
        Diagnostic::of(&codes::NO_SITE, "no hausblatt.toml found here")
            .help("write one, or let \"hausblatt demo\" make a site")
    }));
    None
}
