//! The World: everything that follows from a snapshot and an asking. Immutable.

mod checks;
mod compiling;

pub use checks::in_order;

use std::sync::{Arc, OnceLock};

use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::language::Language;
use hausblatt_lang::library::{Library, UnitId};
use hausblatt_lang::may_name;
use hausblatt_lang::program::Program;
use hausblatt_lang::shape::Interner;
use hausblatt_lang::source::{Place, Span};
use hausblatt_lang::types::Globals;
use rustc_hash::FxHashMap;

use crate::text::address::asked;
use crate::asking::Asking;
use crate::themes::component::{self, Component, PlacedTray, Placing};
use crate::schema::config::{self, Placed};
use crate::model::content::{ContentId, State};
use crate::schema::fields::Conversion;
use crate::files::{Body, LeftOut, Snapshot};
use crate::render::host::{self, globals};
use crate::themes::lineage::{FileId, Lineage};
use crate::lookup::map;
use crate::text::names;
use crate::analysis::needs;
use crate::lookup::offers;
use crate::themes::prepare;
use crate::lookup::request::{self, Kind, Led, Request};
use crate::lookup::resolution::{LayoutChoice, Resolution, Used};
use crate::model::search;
use crate::themes::settings::{self, Setting};
use crate::model::site::{Site, Sources};
use crate::render::status::Odd;
use crate::themes::theme::{self, Header};

/// A site with its themes, read and compiled.
pub struct World {
    /// The files it was made from.
    pub snapshot: Snapshot,
    /// What was asked besides.
    pub asking: Asking,
    /// Content and configuration.
    pub site: Site,
    /// The settings in force.
    pub settings: Vec<Setting>,
    /// The components of the lineage.
    pub components: Vec<Component>,
    /// What content places in trays.
    pub trays: FxHashMap<ContentId, Vec<PlacedTray>>,
    search: OnceLock<search::Index>,
    pub(crate) statuses: OnceLock<Odd>,
    pub(crate) plain: OnceLock<bool>,
    silent_images: OnceLock<FxHashMap<String, Vec<Place>>>,
    /// The merged themes.
    pub lineage: Lineage,
    /// The compiled files.
    pub library: Library,
    /// The numbers of all names.
    pub symbols: Interner,
    /// The values that every file can name.
    pub globals: Globals,
    /// The site's language.
    pub language: Language,
    /// What is wrong, and what to know, in the order of the files.
    pub problems: Vec<Diagnostic>,
    headers: Vec<Header>,
    unit_of: Vec<Option<UnitId>>,
    file_of: Vec<FileId>,
}

/// Why there is no World: a configuration or manifest that no site can be loaded from.
#[derive(Debug)]
pub struct Unloadable(pub Vec<Diagnostic>);

impl World {
    /// Makes the World of `snapshot` as it is asked for.
    ///
    /// # Errors
    /// When `hausblatt.toml` or the lineage can't be read at all. All other problems are collected.
    pub fn load(snapshot: Snapshot, asking: Asking) -> Result<Self, Unloadable> {
        let mut problems: Vec<Diagnostic> = snapshot.left_out().iter().map(LeftOut::diagnostic).collect();
        let Some(config) = read_config(&snapshot, &mut problems) else { return Err(Unloadable(problems)) };
        let active = match &asking.theme {
            Some(name) => Placed { text: name.clone(), span: Span::default() },
            None => config.theme.clone(),
        };
        let Some(lineage) = Lineage::load(&snapshot, &active, &mut problems) else {
            // That a folder of themes is left out is told with the theme that is missing for it.
            let of_themes = |place: &Place| place.path.split('/').count() < 3 && place.path.starts_with("themes");
            problems.retain(|one| one.code != "left-out" || !one.place.as_ref().is_some_and(of_themes));
            return Err(Unloadable(problems));
        };
        let mut symbols = names::interner();
        let mut config = config;
        let zone = config.timezone.clone();
        let pictures = |address: &str| host::file_of(&snapshot, &lineage, address);
        let conversion = Conversion { zone: &zone, pictures: &pictures };
        config.make_ready(&conversion, &mut symbols, &mut problems);
        let mut settings = settings::in_force(&lineage, &config.settings, &conversion, &mut symbols, &mut problems);
        let components = component::declared(&lineage, &conversion, &mut symbols, &mut problems);
        let language = Language::new(&config.language);
        let sources = Sources { snapshot: &snapshot, asking: &asking, conversion: &conversion, language: &language };
        let site = Site::load(&sources, config, &mut symbols, &mut problems);
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
            content.trays.is_some() && (content.address.is_some() || content.state == State::OnErrors)
        });
        let trays = placing_content.map(|(id, content)| (id, placing.trays(content, &mut problems))).collect();
        let mut globals = globals::declare(&site, &settings);
        for name in prepare::names(&lineage).filter(|name| may_name(name)) {
            if globals.find(&name).is_none() {
                globals.add_prepared(&name);
            }
        }
        let mut world = Self {
            snapshot,
            asking,
            site,
            settings,
            components,
            trays,
            search: OnceLock::new(),
            statuses: OnceLock::new(),
            plain: OnceLock::new(),
            silent_images: OnceLock::new(),
            lineage,
            library: Library::default(),
            symbols,
            globals,
            language,
            problems,
            headers: Vec::new(),
            unit_of: Vec::new(),
            file_of: Vec::new(),
        };
        world.compile();
        world.link();
        let lacking = needs::of_front_matter(&world);
        world.problems.extend(lacking);
        let lacking = needs::of_configuration(&world);
        world.problems.extend(lacking);
        let not_offered = offers::check(&world);
        world.problems.extend(not_offered);
        world.sort_problems();
        Ok(world)
    }

    /// The nearest theme's style or script of a component, as what is served below `/assets/`.
    pub fn component_asset(&self, path: &str) -> Option<FileId> {
        let served = path.starts_with("components/") && COMPONENT_ASSETS.iter().any(|name| path.ends_with(name));
        if served { self.lineage.nearest(path) } else { None }
    }

    /// The images that live content names without an alt, by address, each with the places that name it.
    pub fn images_without_alt(&self) -> &FxHashMap<String, Vec<Place>> {
        self.silent_images.get_or_init(|| needs::images_without_alt(self))
    }

    /// What a search finds, best first.
    pub fn found(&self, query: &str) -> Vec<ContentId> {
        if query.trim().is_empty() {
            return Vec::new();
        }
        self.search.get_or_init(|| search::Index::new(self)).find(&self.site, query)
    }

    /// What `address` leads to.
    pub fn lead(&self, address: &str) -> Led {
        let asked = asked(address);
        match self.lead_decoded(&asked.path) {
            Led::Request(request) if request.kind == Kind::Search => self.search(request, &asked.query),
            // Only a slash is missing: what is asked for besides goes along.
            Led::Redirect(to) if to.strip_suffix('/') == Some(&asked.path) && !asked.query.is_empty() => {
                Led::Redirect(format!("{to}?{}", asked.query))
            }
            led => led,
        }
    }

    /// A search, with what is searched for; a page that its results do not fill does not exist.
    fn search(&self, request: Request, query: &str) -> Led {
        let query = query_of(query);
        let pages = request::pages(self.found(&query).len(), host::RESULTS);
        if request.number > pages {
            return Led::Request(Request::error(&request.address, 404, None));
        }
        Led::Request(Request { query, ..request })
    }

    /// What an address leads to that is already decoded.
    pub fn lead_decoded(&self, path: &str) -> Led {
        match request::lead(&self.site, path) {
            Led::Request(request) if request.status == 404 => Led::Request(self.error_page(path).unwrap_or(request)),
            led => led,
        }
    }

    /// The built page of an error status, if that is what `path` names.
    fn error_page(&self, path: &str) -> Option<Request> {
        let status = path.strip_prefix('/')?.strip_suffix(".html")?.parse().ok()?;
        map::error_statuses(self).contains(&status).then(|| map::error_request(status))
    }

    /// Whether any file prints or asks for today's date.
    pub fn reads_today(&self) -> bool {
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

    /// The faults that stand in the file at `path`.
    pub fn faults_at<'w>(&'w self, path: &str) -> impl Iterator<Item = &'w Diagnostic> + use<'w> {
        let path = path.to_owned();
        self.problems.iter().filter(move |problem| {
            problem.is_error() && problem.place.as_ref().is_some_and(|place| *place.path == *path)
        })
    }

    /// Which file answers a request.
    pub fn resolve(&self, request: Request) -> Resolution {
        Resolution::of(self, request)
    }

    /// What a theme file's front matter says.
    pub fn header(&self, id: FileId) -> &Header {
        static NONE: Header = Header { label: None, fits: Vec::new(), layout: None, takes: None, body: 0 };
        self.headers.get(id.0 as usize).unwrap_or(&NONE)
    }

    /// A file's number in the library, if it is one that can be rendered.
    pub fn unit(&self, id: FileId) -> Option<UnitId> {
        self.unit_of.get(id.0 as usize).copied().flatten()
    }

    /// The file behind a number of the library.
    pub fn file_of(&self, unit: UnitId) -> FileId {
        self.file_of.get(unit as usize).copied().unwrap_or(FileId(0))
    }

    /// A file's program, if it has no fault.
    pub fn program(&self, id: FileId) -> Option<&Program> {
        self.library.program(self.unit(id)?)
    }

    /// Whether a file goes on with the next one of its chain.
    pub fn continues(&self, id: FileId) -> bool {
        self.program(id).is_some_and(|program| program.continues)
    }

    /// The statuses that a file may turn an answer into.
    pub fn answers(&self, id: FileId) -> Vec<u16> {
        self.program(id).map(|program| program.answers.to_vec()).unwrap_or_default()
    }

    /// The files that a partial or layout goes on with, as far as each goes on.
    pub fn next_files(&self, id: FileId) -> Vec<FileId> {
        let mut files = Vec::new();
        let mut at = id;
        while let Some(next) = self.next_file(at).filter(|next| self.continues(at) && !files.contains(next)) {
            files.push(next);
            at = next;
        }
        files
    }

    /// The layout that a layout asks for around it; of one that goes on without saying, the next file's.
    pub fn stated_layout(&self, id: FileId) -> Option<Placed> {
        let files = std::iter::once(id).chain(self.next_files(id));
        files.into_iter().find_map(|file| self.header(file).layout.clone())
    }

    /// The nearest theme's asset at `path`.
    pub fn asset(&self, path: &str) -> Option<FileId> {
        self.lineage.nearest(&format!("assets/{path}"))
    }

    /// The problems of the files that an answer uses.
    pub fn problems_of<'w>(&'w self, resolution: &Resolution) -> impl Iterator<Item = &'w Diagnostic> + use<'w> {
        let uses = resolution.uses(self);
        let components = uses.iter().filter(|used| used.what == Used::Component);
        let manifests = components.filter_map(|used| {
            let id = self.lineage.nearest(&format!("components/{}/component.toml", used.name))?;
            Some(self.lineage.file(id).node.path.clone())
        });
        let manifests: Vec<Arc<str>> = manifests.collect();
        let table = match resolution.request.kind {
            Kind::Route(number, _) => self.site.routes.get(usize::from(number)).and_then(|route| {
                let each = route.config.each.as_ref()?;
                Some(self.site.tables.iter().find(|table| table.name == each.text)?.path.clone())
            }),
            _ => None,
        };
        let used = uses.into_iter().map(|used| used.file);
        let mut paths: Vec<Arc<str>> = resolution
            .running(self)
            .into_iter()
            .chain(used)
            .map(|file| self.lineage.file(file).node.path.clone())
            .collect();
        paths.extend(manifests.into_iter().chain(table));
        if let Some(content) = resolution.request.content(&self.site) {
            paths.push(self.site.content(content).path().clone());
        }
        if let LayoutChoice::Missing(_, asker) = &resolution.layout {
            paths.push(self.lineage.file(*asker).node.path.clone());
        }
        self.problems
            .iter()
            .filter(move |problem| problem.place.as_ref().is_some_and(|place| paths.contains(&place.path)))
            .filter(|problem| !needs::is_told_by_note(problem))
    }
}

/// The files of a component that are served.
const COMPONENT_ASSETS: &[&str] = &["/style.css", "/script.js", "/script.mjs"];

/// The value of `q` in a query, as a form sends it.
fn query_of(query: &str) -> String {
    let value = query.split('&').find_map(|part| part.strip_prefix("q=")).unwrap_or("").replace('+', " ");
    percent_encoding::percent_decode_str(&value).decode_utf8_lossy().trim().to_owned()
}

fn read_config(snapshot: &Snapshot, problems: &mut Vec<Diagnostic>) -> Option<config::Config> {
    let path: Arc<str> = config::FILE.into();
    match snapshot.file(config::FILE).map(|node| &node.body) {
        Some(Body::Text(text)) => config::read(text, problems),
        Some(Body::Unreadable(reason, at)) => {
            problems.push(
                Diagnostic::error("unreadable", reason.clone()).help("save it as UTF-8").at(&path, Span::new(*at, *at)),
            );
            None
        }
        _ => {
            problems.push(
                Diagnostic::error("no-site", "here is no hausblatt.toml")
                    .help("write one, or let \"hausblatt demo\" make a site"),
            );
            None
        }
    }
}
