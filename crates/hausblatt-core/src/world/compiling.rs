//! The files of a lineage compiled and linked.

use std::sync::Arc;

use hausblatt_lang::compile::{self, Flow, Source};
use hausblatt_lang::library::{Brought, Unit, UnitId};
use hausblatt_lang::program::{Parameter, Program};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::types::Type;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::shape::Interner;

use crate::files::{Body, FileNode};
use crate::schema::fields::Field;
use crate::text::codes;
use crate::text::conflict;
use crate::themes::component::{self, Component};
use crate::themes::file_name::Role;
use crate::themes::lineage::{FileId, ThemeFile};
use crate::themes::theme::{self, Header};
use crate::world::World;
use crate::world::prepare_checks;

impl World {
    /// Compiles every file that has tags or lines of the language.
    pub(super) fn compile(&mut self) {
        let mut found_in_headers = self.read_headers().into_iter();
        let (mut sources, mut is_broken) = (Vec::new(), Vec::new());
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
                        let diagnostic = Diagnostic::of(&codes::DEAD_FILE, message);
                        self.problems.push(diagnostic.at(&file.node.path, Span::default()));
                    }
                    self.unit_of.push(None);
                    continue;
                }
            };
            let source = self.source(id, file, role, &mut found);
            let broken = found.iter().any(Diagnostic::is_error);
            let unit = UnitId::try_from(self.library.units.len()).unwrap_or(UnitId::MAX);
            self.library.units.push(Unit {
                path: file.node.path.clone(),
                program: None,
                is_sound: false,
                callees: Box::new([]),
                next: None,
                theme: file.theme,
                brings: self.brought_by(file),
            });
            self.problems.extend(found);
            self.unit_of.push(Some(unit));
            self.file_of.push(id);
            sources.push(source);
            is_broken.push(broken);
        }
        self.name_files();
        let found = self.library.compile(&mut sources, &mut self.globals, &mut self.symbols);
        self.problems.extend(found.into_iter().flatten());
        for (unit, _) in self.library.units.iter_mut().zip(is_broken).filter(|(_, is_broken)| *is_broken) {
            unit.is_sound = false;
        }
    }

    /// The source of a file, if it can be read.
    fn source(&self, id: FileId, file: &ThemeFile, role: compile::Role, found: &mut Vec<Diagnostic>) -> Option<Source> {
        match &file.node.body {
            Body::Unreadable { .. } => {
                found.extend(file.node.unreadable());
                return None;
            }
            // What is wrong is reported at its component.toml.
            _ if self.unreadable_manifest(id).is_some() => return None,
            Body::Text(text) if has_conflict(text, &file.node.path, found) => return None,
            _ => {}
        }
        if let Some((diagnostic, span)) = file.node.text().and_then(|text| conflict::misplaced(text)) {
            found.push(diagnostic.at(&file.node.path, span));
        }
        let header = self.header(id);
        Some(Source {
            path: file.node.path.clone(),
            text: file.node.text().cloned().unwrap_or_else(|| "".into()),
            body: header.body,
            role,
            ending: Ending::split(&file.name).map_or(Ending::Html, |(_, ending)| ending),
            takes: self.takes_of(file, header),
            types: match role {
                compile::Role::Template => self.content_of(file, &header.fits).map(|of| ("content".to_owned(), of)),
                _ => None,
            }
            .map(|content| vec![content])
            .or_else(|| self.component_of(file).and_then(|it| self.component_types.get(&it.name)).cloned())
            .unwrap_or_default(),
            flows: Vec::new(),
            next_takes: self.next_takes(id),
        })
    }

    /// Another text of a file, compiled as it would be in its place: what its calls give is what they give now. For questions
    /// about a text that is being typed, with the numbers of its names.
    pub fn compiled_text(&self, id: FileId, text: &str) -> Option<(Program, Interner)> {
        let file = self.lineage.file(id);
        let unit = self.library.unit(self.unit(id)?)?;
        let known = unit.program.as_ref()?;
        let node = FileNode::in_memory(&file.node.path, text);
        let header = theme::header(&node, file.role, &mut Vec::new());
        let other = ThemeFile { node: Arc::new(node), name: file.name.clone(), ..*file };
        let mut source = self.source(id, &other, known.role, &mut Vec::new())?;
        source.body = header.body;
        source.takes = self.takes_of(&other, &header);
        let flow = |parameter: &Parameter| Flow {
            name: self.symbols.name(parameter.name).to_owned(),
            of: parameter.given.clone(),
            call: None,
        };
        source.flows = known.parameters.iter().map(flow).collect();
        let mut symbols = self.symbols.clone();
        Some((compile::compile(&source, &self.globals, &mut symbols).program, symbols))
    }

    /// What content is in a template, where its name says so, or what it is offered for.
    fn content_of(&self, file: &ThemeFile, fits: &[String]) -> Option<Type> {
        let name = file.name.template()?;
        let mut parts = name.split('/').map(|part| part.split('.').next().unwrap_or(part));
        let collections = || self.site.collections.iter().map(|collection| collection.config.name.text.as_str());
        let entries = |name: &str| match collections().any(|known| known == name) {
            true => Some(self.globals.content(&format!("entry:{name}"))),
            false => None,
        };
        let any_entry = || collections().filter_map(entries).reduce(Type::join);
        let of_kind = |kind: &str| match kind.split_once('/') {
            _ if kind == "page" => Some(self.globals.content("page")),
            _ if kind == "entry" => any_entry(),
            Some(("entry", name)) => entries(name),
            _ => None,
        };
        match (parts.next()?, parts.next()) {
            ("page", _) => of_kind("page"),
            ("entry", None) => any_entry(),
            ("entry", Some(name)) => entries(name),
            ("offered", _) if !fits.is_empty() => {
                let all: Option<Vec<Type>> = fits.iter().map(|kind| of_kind(kind)).collect();
                all?.into_iter().reduce(Type::join)
            }
            _ => None,
        }
    }

    /// Tells the library which file answers to each name, and what each extends.
    fn name_files(&mut self) {
        for (id, file) in self.lineage.ids().filter(|(_, file)| file.role == Role::Component) {
            let Some((name, (_, ending))) = component::name_of(&file.name).zip(Ending::split(&file.name)) else {
                continue;
            };
            if let Some(unit) = self.unit_of[id.0 as usize].filter(|_| self.lineage.nearest(&file.name) == Some(id)) {
                self.library.add_component(ending, name, unit);
            }
        }
        for (id, file) in self.lineage.ids() {
            let Some((name, ending)) = file.name.partial() else { continue };
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
    }

    /// The component that a file renders.
    pub(super) fn component_of(&self, file: &ThemeFile) -> Option<&Component> {
        let name = component::name_of(&file.name).filter(|_| file.role == Role::Component)?;
        self.components.iter().find(|component| component.name == name)
    }

    /// What a file takes: what its front matter says, and of a component its fields.
    fn takes_of(&self, file: &ThemeFile, header: &Header) -> Option<Vec<(String, Option<Datum>)>> {
        let Some(component) = self.component_of(file) else { return header.takes.clone() };
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

    /// The style and the script that a component brings with it, as assets.
    fn brought_by(&self, file: &ThemeFile) -> Box<[Brought]> {
        let Some(name) = component::name_of(&file.name).filter(|_| file.role == Role::Component) else {
            return Box::new([]);
        };
        let assets = ["style.css", "script.js", "script.mjs"].map(|asset| format!("components/{name}/{asset}"));
        let nearest = |asset: String| {
            let theme = self.lineage.file(self.lineage.nearest(&asset)?).theme;
            Some(Brought { path: asset.into(), theme })
        };
        assets.into_iter().filter_map(nearest).collect()
    }

    /// Reads the front matter of every theme file; what was found wrong, file by file.
    fn read_headers(&mut self) -> Vec<Vec<Diagnostic>> {
        let read = |file: &ThemeFile| {
            let mut found = Vec::new();
            let header = match file.role {
                Role::Template | Role::Partial | Role::Layout | Role::Component => {
                    theme::header(&file.node, file.role, &mut found)
                }
                Role::Prepare | Role::Asset | Role::Other => Header::default(),
            };
            (header, found)
        };
        let (headers, found) = self.lineage.files.iter().map(read).unzip();
        self.headers = headers;
        found
    }

    /// What the files that a partial or layout could extend say that they take.
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

    pub(super) fn link(&mut self) {
        let before = self.problems.len();
        let problems = self.library.link(&self.symbols);
        self.problems.extend(problems);
        self.fit_component_calls();
        let of_prepare = prepare_checks::check(self);
        self.problems.extend(of_prepare);
        self.check_references();
        self.check_layouts();
        self.check_route_templates();
        let faulty: Vec<Arc<str>> = self.problems[before..]
            .iter()
            .filter(|problem| problem.is_error())
            .filter_map(|problem| Some(problem.place.as_ref()?.path.clone()))
            .collect();
        for unit in self.library.units.iter_mut().filter(|unit| faulty.contains(&unit.path)) {
            unit.is_sound = false;
        }
        self.check_assets();
    }

    /// The file that a partial or layout extends: its name up the lineage, then the shortened names.
    pub(super) fn next_file(&self, id: FileId) -> Option<FileId> {
        let file = self.lineage.file(id);
        let later = |name: &str, beyond: usize| {
            self.lineage.not_hidden(name).find(|&other| self.lineage.file(other).theme > beyond)
        };
        match file.role {
            Role::Layout | Role::Component => later(&file.name, file.theme),
            Role::Partial => later(&file.name, file.theme).or_else(|| {
                let (name, ending) = file.name.partial()?;
                hausblatt_lang::library::shortened(name)
                    .skip(1)
                    .find_map(|short| self.lineage.nearest(&format!("partials/{short}.{}", ending.word())))
            }),
            Role::Template | Role::Prepare | Role::Asset | Role::Other => None,
        }
    }
}

/// Whether a merge left a conflict in a theme file; what else is wrong with it may come of that.
fn has_conflict(text: &str, path: &Arc<str>, found: &mut Vec<Diagnostic>) -> bool {
    let conflicts = conflict::diagnostics(text, conflict::Format::Other);
    if conflicts.is_empty() {
        return false;
    }
    found.clear();
    found.extend(conflicts.into_iter().map(|(diagnostic, span)| diagnostic.at(path, span)));
    true
}

/// What to say of a theme file that nothing uses.
fn dead(file: &ThemeFile) -> Option<&'static str> {
    let folder = file.name.split('/').next().filter(|folder| folder.len() < file.name.len())?;
    match folder {
        // Of these it is said that nobody is offered them.
        "templates" if file.name.is_in_offered() && theme::looks_offered(&file.node).is_some() => None,
        "templates" => Some("no request uses this: a template ends in .html, .xml, .json or .txt"),
        "layouts" => Some("no file uses this: a layout ends in .html"),
        "partials" => Some("no file can call this: a partial ends in .html, .xml, .json or .txt"),
        "prepare" => Some("no request runs this: a prepare file ends in .let"),
        _ => None,
    }
}
