//! The World: everything that follows from a snapshot and an asking. Immutable.

use std::sync::{Arc, OnceLock};

use hausblatt_lang::compile::{self, Source, compile};
use hausblatt_lang::datum::Datum;
use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::ending::Ending;
use hausblatt_lang::language::Language;
use hausblatt_lang::library::{Library, Unit, UnitId};
use hausblatt_lang::may_name;
use hausblatt_lang::near::did_you_mean;
use hausblatt_lang::program::{Mentioned, Program};
use hausblatt_lang::shape::Interner;
use hausblatt_lang::source::Span;
use hausblatt_lang::types::{Globals, Type};
use rustc_hash::FxHashMap;

use crate::address::asked;
use crate::asking::Asking;
use crate::component::{self, Component, PlacedTray, Placing};
use crate::config::{self, Placed};
use crate::content::{ContentId, State};
use crate::fields::{Conversion, Field};
use crate::host::{self, globals};
use crate::lineage::{FileId, Lineage, Role, ThemeFile};
use crate::names;
use crate::needs;
use crate::offers;
use crate::prepare;
use crate::request::{self, Kind, Led, Request};
use crate::resolution::{LayoutChoice, Resolution, Used};
use crate::search;
use crate::settings::{self, Setting};
use crate::site::{Site, Sources};
use crate::snapshot::{Body, Snapshot};
use crate::theme::{self, Header};

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
        let mut problems = Vec::new();
        let Some(config) = read_config(&snapshot, &mut problems) else { return Err(Unloadable(problems)) };
        let active = match &asking.theme {
            Some(name) => Placed { text: name.clone(), span: config.theme.span },
            None => config.theme.clone(),
        };
        let Some(lineage) = Lineage::load(&snapshot, &active, &mut problems) else { return Err(Unloadable(problems)) };
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
        let not_offered = offers::check(&world);
        world.problems.extend(not_offered);
        world.sort_problems();
        Ok(world)
    }

    fn compile(&mut self) {
        let mut found_in_headers = self.read_headers().into_iter();
        for (id, file) in self.lineage.ids() {
            let mut found = found_in_headers.next().unwrap_or_default();
            let role = match file.role {
                Role::Template => compile::Role::Template,
                Role::Partial => compile::Role::Partial,
                Role::Layout => compile::Role::Layout,
                Role::Component => compile::Role::Component,
                Role::Prepare => compile::Role::Prepare,
                Role::Asset | Role::Other => {
                    if let Some(message) = dead(file) {
                        let diagnostic = Diagnostic::warning("dead-file", message);
                        self.problems.push(diagnostic.at(&file.node.path, Span::default()));
                    }
                    self.unit_of.push(None);
                    continue;
                }
            };
            let program = match &file.node.body {
                Body::Unreadable(reason, at) => {
                    let diagnostic = Diagnostic::error("unreadable", reason.clone()).help("save it as UTF-8");
                    found.push(diagnostic.at(&file.node.path, Span::new(*at, *at)));
                    None
                }
                _ => {
                    let header = self.header(id);
                    let source = Source {
                        path: file.node.path.clone(),
                        text: file.node.text().cloned().unwrap_or_else(|| "".into()),
                        body: header.body,
                        role,
                        ending: Ending::split(&file.name).map_or(Ending::Html, |(_, ending)| ending),
                        takes: self.takes_of(file, header),
                        types: self.types_of(file),
                        next_takes: self.next_takes(id),
                    };
                    let compiled = compile(&source, &self.globals, &mut self.symbols);
                    let broken = found.iter().any(Diagnostic::is_error);
                    found.extend(compiled.diagnostics);
                    Some((compiled.program, compiled.is_sound && !broken))
                }
            };
            let unit = UnitId::try_from(self.library.units.len()).unwrap_or(UnitId::MAX);
            let is_sound = program.as_ref().is_some_and(|(_, is_sound)| *is_sound);
            self.library.units.push(Unit {
                path: file.node.path.clone(),
                program: program.map(|(program, _)| program),
                is_sound,
                callees: Box::new([]),
                next: None,
                theme: file.theme,
                brings: self.brought_by(file),
            });
            self.problems.extend(found);
            self.unit_of.push(Some(unit));
            self.file_of.push(id);
        }
    }

    /// What a file takes: what its front matter says, and of a component its fields.
    fn takes_of(&self, file: &ThemeFile, header: &Header) -> Option<Vec<(String, Option<Datum>)>> {
        let component = component::name_of(&file.name).filter(|_| file.role == Role::Component);
        let component = component.and_then(|name| self.components.iter().find(|other| other.name == name));
        let Some(component) = component else { return header.takes.clone() };
        let default = |field: &Field| {
            let value = self.site.settled(&field.of, field.default.clone(), &self.site.config.path);
            (field.name.clone(), Some(value))
        };
        let mut takes: Vec<(String, Option<Datum>)> = component.fields.iter().map(default).collect();
        let more =
            header.takes.iter().flatten().filter(|(name, _)| !component.fields.iter().any(|it| it.name == *name));
        takes.extend(more.cloned());
        Some(takes)
    }

    /// What is known of a component's fields.
    fn types_of(&self, file: &ThemeFile) -> Vec<(String, Type)> {
        let component = component::name_of(&file.name).filter(|_| file.role == Role::Component);
        let component = component.and_then(|name| self.components.iter().find(|other| other.name == name));
        let fields = component.map_or(&[][..], |component| &component.fields);
        fields.iter().map(|field| (field.name.clone(), field.type_of())).collect()
    }

    /// The style and the script that a component brings with it, as assets.
    fn brought_by(&self, file: &ThemeFile) -> Box<[Box<str>]> {
        let Some(name) = component::name_of(&file.name).filter(|_| file.role == Role::Component) else {
            return Box::new([]);
        };
        let assets = ["style.css", "script.js", "script.mjs"].map(|asset| format!("components/{name}/{asset}"));
        assets.into_iter().filter(|asset| self.lineage.nearest(asset).is_some()).map(Into::into).collect()
    }

    /// The nearest theme's style or script of a component, as what is served below `/assets/`.
    pub fn component_asset(&self, path: &str) -> Option<FileId> {
        let served = path.starts_with("components/") && COMPONENT_ASSETS.iter().any(|name| path.ends_with(name));
        if served { self.lineage.nearest(path) } else { None }
    }

    /// What a search finds, best first.
    pub fn found(&self, query: &str) -> Vec<ContentId> {
        if query.trim().is_empty() {
            return Vec::new();
        }
        self.search.get_or_init(|| search::Index::new(&self.site)).find(&self.site, query)
    }

    /// Reads the front matter of every theme file; what was found wrong, file by file.
    fn read_headers(&mut self) -> Vec<Vec<Diagnostic>> {
        let read = |file: &ThemeFile| {
            let mut found = Vec::new();
            let header = match file.role {
                Role::Template | Role::Partial | Role::Layout | Role::Component => {
                    theme::header(&file.node, file.role == Role::Template, &mut found)
                }
                Role::Prepare | Role::Asset | Role::Other => Header::default(),
            };
            (header, found)
        };
        let (headers, found) = self.lineage.files.iter().map(read).unzip();
        self.headers = headers;
        found
    }

    /// What the files that a partial or layout could go on with say that they take.
    fn next_takes(&self, id: FileId) -> Option<Vec<(String, Option<Datum>)>> {
        let mut at = self.next_file(id);
        for _ in 0..self.lineage.files.len() {
            let takes = at.map(|next| self.header(next).takes.clone())?;
            if takes.is_some() {
                return takes;
            }
            at = at.and_then(|next| self.next_file(next));
        }
        None
    }

    fn link(&mut self) {
        let before = self.problems.len();
        for (id, file) in self.lineage.ids().filter(|(_, file)| file.role == Role::Component) {
            let Some((name, (_, ending))) = component::name_of(&file.name).zip(Ending::split(&file.name)) else {
                continue;
            };
            if let Some(unit) = self.unit_of[id.0 as usize].filter(|_| self.lineage.nearest(&file.name) == Some(id)) {
                self.library.add_component(ending, name, unit);
            }
        }
        for (id, file) in self.lineage.ids() {
            let Some((name, ending)) = file.name.strip_prefix("partials/").and_then(Ending::split) else { continue };
            if let Some(unit) = self.unit_of[id.0 as usize].filter(|_| self.lineage.nearest(&file.name) == Some(id)) {
                self.library.add_partial(ending, name, unit);
            }
        }
        for (id, _) in self.lineage.ids() {
            let next = self.next_file(id).and_then(|next| self.unit_of[next.0 as usize]);
            if let Some(unit) = self.unit_of[id.0 as usize] {
                self.library.units[unit as usize].next = next;
            }
        }
        let problems = self.library.link(&self.symbols);
        self.problems.extend(problems);
        let of_prepare = prepare::check(self);
        self.problems.extend(of_prepare);
        self.check_mentions();
        self.check_layouts();
        let faulty: Vec<Arc<str>> = self.problems[before..]
            .iter()
            .filter(|problem| problem.is_error())
            .filter_map(|problem| Some(problem.place.as_ref()?.path.clone()))
            .collect();
        for unit in self.library.units.iter_mut().filter(|unit| faulty.contains(&unit.path)) {
            unit.is_sound = false;
        }
    }

    /// The file that a partial or layout goes on with: its name up the lineage, then the shortened names.
    fn next_file(&self, id: FileId) -> Option<FileId> {
        let file = self.lineage.file(id);
        let later = |name: &str, beyond: usize| {
            self.lineage.standing(name).find(|&other| self.lineage.file(other).theme > beyond)
        };
        match file.role {
            Role::Layout | Role::Component => later(&file.name, file.theme),
            Role::Partial => later(&file.name, file.theme).or_else(|| {
                let (name, ending) = Ending::split(file.name.strip_prefix("partials/")?)?;
                hausblatt_lang::library::shortened(name)
                    .skip(1)
                    .find_map(|short| self.lineage.nearest(&format!("partials/{short}.{}", ending.word())))
            }),
            Role::Template | Role::Prepare | Role::Asset | Role::Other => None,
        }
    }

    fn check_mentions(&mut self) {
        let mut found = Vec::new();
        for program in self.library.units.iter().filter_map(|unit| unit.program.as_ref()) {
            for mention in &program.mentions {
                let problem = match mention.what {
                    Mentioned::Reference if self.site.reference(&mention.text).is_none() => {
                        Some(self.dead_reference(&mention.text))
                    }
                    Mentioned::Asset if self.asset(&mention.text).is_none() => Some(self.unknown_asset(&mention.text)),
                    _ => None,
                };
                found.extend(problem.map(|problem| problem.at(&program.path, mention.span)));
            }
        }
        self.problems.extend(found);
    }

    fn dead_reference(&self, text: &str) -> Diagnostic {
        let help = self.site.nearest_reference(text).unwrap_or_else(crate::site::forms);
        Diagnostic::error("dead-reference", format!("the reference \"{text}\" leads nowhere")).help(help)
    }

    fn unknown_asset(&self, text: &str) -> Diagnostic {
        let assets = self.lineage.files.iter().filter_map(|file| file.name.strip_prefix("assets/"));
        let help = did_you_mean(text, assets)
            .unwrap_or_else(|| format!("put the file at assets/{text} in a theme of the lineage"));
        Diagnostic::error("unknown-asset", format!("no theme of the lineage has the asset \"{text}\"")).help(help)
    }

    /// Layouts that stand nowhere, and whole documents inside a layout.
    fn check_layouts(&mut self) {
        let mut found = Vec::new();
        for (id, file) in self.lineage.ids().filter(|(_, file)| matches!(file.role, Role::Template | Role::Layout)) {
            let stated = self.header(id).layout.clone();
            let own = stated.as_ref().is_some_and(|layout| layout.text == "none")
                || (stated.is_none() && file.role == Role::Layout);
            if let Some(layout) = stated.filter(|layout| {
                layout.text != "none" && self.lineage.nearest(&format!("layouts/{}.html", layout.text)).is_none()
            }) {
                let names = self
                    .lineage
                    .files
                    .iter()
                    .filter_map(|file| file.name.strip_prefix("layouts/")?.strip_suffix(".html"));
                let help = did_you_mean(&layout.text, names)
                    .unwrap_or_else(|| "a template without a layout says: layout: none".to_owned());
                let message = format!("no theme of the lineage has the layout \"{}\"", layout.text);
                found.push(Diagnostic::error("unknown-layout", message).help(help).at(&file.node.path, layout.span));
            }
            let swallows = |program: &Program| !program.takes_body && !program.continues;
            if file.role == Role::Layout && self.program(id).is_some_and(swallows) {
                let message = "this layout prints nothing of the template that it stands around";
                let diagnostic = Diagnostic::warning("layout-without-slot", message)
                    .help("write +{slot} where the template's output belongs");
                found.push(diagnostic.at(&file.node.path, Span::default()));
            }
            let document =
                self.program(id).and_then(|program| program.document).filter(|_| !own && !self.continues(id));
            if let Some(span) = document {
                let diagnostic = Diagnostic::error(
                    "document-in-layout",
                    "this is a whole document, and a layout would put another one around it",
                );
                found.push(
                    diagnostic
                        .help("say layout: none in the front matter, or leave out all but what stands in <main>")
                        .at(&file.node.path, span),
                );
            }
        }
        self.problems.extend(found);
    }

    /// A fault in a file that is hidden or shadowed is only a warning.
    fn sort_problems(&mut self) {
        let asleep: Vec<Arc<str>> = self
            .lineage
            .ids()
            .filter(|(id, file)| {
                file.hidden_by.is_some()
                    || (file.role != Role::Prepare
                        && self.lineage.nearest(&file.name) != Some(*id)
                        && !self.is_continued(*id))
            })
            .map(|(_, file)| file.node.path.clone())
            .collect();
        for problem in &mut self.problems {
            if problem.place.as_ref().is_some_and(|place| asleep.contains(&place.path)) {
                problem.severity = hausblatt_lang::diagnostic::Severity::Warning;
            }
        }
        self.problems.sort_by(|a, b| a.place.cmp(&b.place));
    }

    /// Whether a nearer file of the same name goes on with this one.
    fn is_continued(&self, id: FileId) -> bool {
        let files: Vec<FileId> = self.lineage.standing(&self.lineage.file(id).name).collect();
        let nearer = files.iter().take_while(|&&other| other != id);
        nearer.into_iter().all(|&other| self.continues(other))
    }

    /// What `address` leads to.
    pub fn lead(&self, address: &str) -> Led {
        let asked = asked(address);
        match request::lead(&self.site, &asked.path) {
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
        request::lead(&self.site, path)
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

/// What to say of a theme file that nothing asks for.
fn dead(file: &ThemeFile) -> Option<&'static str> {
    let folder = file.name.split('/').next().filter(|folder| folder.len() < file.name.len())?;
    match folder {
        // Of these it is said that nobody is offered them.
        "templates" if file.name.starts_with("templates/offered/") && offers::looks_offered(&file.node).is_some() => {
            None
        }
        "templates" => Some("no request asks for this: a template ends in .html, .xml, .json or .txt"),
        "layouts" => Some("no file asks for this: a layout ends in .html"),
        "partials" => Some("no file can call this: a partial ends in .html, .xml, .json or .txt"),
        "prepare" => Some("no request runs this: a prepare file ends in .let"),
        _ => None,
    }
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
