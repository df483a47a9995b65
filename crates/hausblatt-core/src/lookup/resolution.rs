//! Resolution: the ladder with every file's state. The only place that decides which file answers.

use std::collections::BTreeSet;

use hausblatt_lang::library::UnitId;
use hausblatt_lang::program::Callee;
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::ending::Ending;

use crate::lookup::ladder::{Reason, Rung, fits, ladder};
use crate::model::request::Request;
use crate::schema::config::Spanned;
use crate::themes::component::{TrayItem, name_of};
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::themes::prepare::NAMES;
use crate::world::World;

/// What becomes of a file on a ladder.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FileState {
    /// It renders the request.
    Renders,
    /// It is the nearest file of a lower rung.
    PassedOver,
    /// A nearer theme has a file of the same name.
    Covered,
    /// A nearer theme hides it.
    Hidden,
    /// It was chosen for content that it is not for.
    Unfit,
}

impl FileState {
    /// Whether it would render where nothing came before it.
    pub fn is_spare(self) -> bool {
        matches!(self, FileState::PassedOver | FileState::Covered)
    }

    /// The word for it in JSON.
    pub fn word(self) -> &'static str {
        match self {
            FileState::Renders => "renders",
            FileState::PassedOver => "passed-over",
            FileState::Covered => "covered",
            FileState::Hidden => "hidden",
            FileState::Unfit => "unfit",
        }
    }
}

/// A rung and the files of its name, nearest theme first.
#[derive(Clone, Debug)]
pub struct ResolvedRung {
    /// The name and why it is tried.
    pub rung: Rung,
    /// The files.
    pub files: Vec<(FileId, FileState)>,
}

impl ResolvedRung {
    /// Whether one of its files renders the request.
    pub fn renders(&self) -> bool {
        self.files.iter().any(|(_, state)| *state == FileState::Renders)
    }
}

/// Something to know about an answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Note {
    /// What sort of note it is.
    pub code: Code,
    /// A sentence.
    pub text: String,
}

/// The layout around a template.
#[derive(Clone, Debug)]
pub enum LayoutChoice {
    /// None.
    None,
    /// This file, and those around it.
    Files(Vec<FileId>),
    /// One that doesn't exist: its name, the file that names it, and where.
    Missing(Spanned, FileId),
}

/// What sort of file an answer uses.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Used {
    /// A partial.
    Partial,
    /// A component.
    Component,
    /// A prepare file.
    Prepare,
}

impl Used {
    /// The word for it in JSON.
    pub fn word(self) -> &'static str {
        match self {
            Used::Partial => "partial",
            Used::Component => "component",
            Used::Prepare => "prepare",
        }
    }
}

/// A file that the answer uses.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Use {
    /// What sort of file it is.
    pub what: Used,
    /// The name as the call writes it.
    pub asked_as: String,
    /// The name that was found.
    pub name: String,
    /// The file.
    pub file: FileId,
}

/// Which file answers a request, and why.
#[derive(Clone, Debug)]
pub struct Resolution {
    /// The request.
    pub request: Request,
    /// Every rung.
    pub rungs: Vec<ResolvedRung>,
    /// The template; none if no theme has any file on the ladder.
    pub winner: Option<FileId>,
    /// The files that the template can extend, in order.
    pub after: Vec<FileId>,
    /// The layout.
    pub layout: LayoutChoice,
}

impl World {
    /// Which file answers a request.
    pub fn resolve(&self, request: Request) -> Resolution {
        Resolution::of(self, request)
    }
}

impl Resolution {
    /// Resolves `request` in `world`.
    pub fn of(world: &World, request: Request) -> Self {
        let mut rungs: Vec<ResolvedRung> =
            ladder(&world.site, &request).into_iter().map(|rung| files_of(world, &request, rung)).collect();
        let usable: Vec<FileId> = rungs
            .iter()
            .flat_map(|rung| &rung.files)
            .filter(|(_, state)| state.is_spare())
            .map(|(id, _)| *id)
            .collect();
        let winner = usable.first().copied();
        if let Some((_, state)) =
            rungs.iter_mut().flat_map(|rung| &mut rung.files).find(|(_, state)| *state == FileState::PassedOver)
        {
            *state = FileState::Renders;
        }
        // A chosen template extends its name in farther themes, then with what the content would
        // get without choosing one: just what comes after it.
        let after: Vec<FileId> = usable.into_iter().skip(1).collect();
        // Only pages have layouts.
        let page = winner.filter(|_| request.format == Ending::Html);
        let layout = page.map_or(LayoutChoice::None, |winner| layout_of(world, winner, &after));
        Self { request, rungs, winner, after, layout }
    }

    /// The template and what it can extend.
    pub fn chain(&self) -> impl Iterator<Item = FileId> + '_ {
        self.winner.into_iter().chain(self.after.iter().copied())
    }

    /// The prepare files that run for the request, in order: for all requests, then for the kinds on the ladder
    /// from general to specific, each from the oldest ancestor's to the active theme's.
    pub fn prepare(&self, world: &World) -> Vec<FileId> {
        if self.winner.is_none() {
            return Vec::new();
        }
        let mut kinds = vec!["all"];
        let own = self.request.kind.word();
        for rung in self.rungs.iter().rev() {
            let kind = rung.rung.name.split(['/', '.']).next().unwrap_or("");
            let runs = NAMES.contains(&kind) && !matches!(rung.rung.reason, Reason::Chosen | Reason::Fallback);
            if runs && !kinds.contains(&kind) {
                kinds.push(kind);
            }
        }
        // A declared ladder need not name its kind.
        kinds.extend(own.filter(|own| !kinds.contains(own)));
        let files = kinds.into_iter().flat_map(|kind| {
            let mut files: Vec<FileId> = world.lineage.not_hidden(&format!("prepare/{kind}.let")).collect();
            files.reverse();
            files
        });
        files.collect()
    }

    /// The partials that the answer uses or may use, and the prepare files.
    pub fn uses(&self, world: &World) -> Vec<Use> {
        let mut used = BTreeSet::new();
        let mut todo: Vec<FileId> = self.running(world);
        let mut seen: BTreeSet<FileId> = todo.iter().copied().collect();
        for found in self.placed(world) {
            if seen.insert(found.file) {
                todo.push(found.file);
            }
            used.insert(found);
        }
        while let Some(file) = todo.pop() {
            for found in world.calls_of(file) {
                if seen.insert(found.file) {
                    todo.push(found.file);
                }
                used.insert(found);
            }
        }
        let prepare = self.prepare(world).into_iter().map(|file| {
            let name = world.lineage.file(file).name.prepare().unwrap_or_default().to_owned();
            Use { what: Used::Prepare, asked_as: name.clone(), name, file }
        });
        used.into_iter().chain(prepare).collect()
    }

    /// The components that the request's content places, if anything in reach prints a tray.
    fn placed(&self, world: &World) -> Vec<Use> {
        let Some(content) = self.request.content(&world.site) else { return Vec::new() };
        let trays = world.trays.get(&content).into_iter().flatten();
        let names = trays.flat_map(|tray| &tray.placed).filter_map(|placed| match placed {
            TrayItem::Component(name, _) => Some(name),
            TrayItem::LeftOut(_) => None,
        });
        let found = names.filter_map(|name| {
            let unit = world.library.find_component(self.request.format, name)?;
            let file = world.file_of(unit);
            Some(Use { what: Used::Component, asked_as: name.clone(), name: name.clone(), file })
        });
        found.collect()
    }

    /// The files that run, without the partials: as much of the chain as goes on, and the layouts.
    pub fn running(&self, world: &World) -> Vec<FileId> {
        let mut running = Vec::new();
        for file in self.chain() {
            running.push(file);
            if !world.continues(file) {
                break;
            }
        }
        if let LayoutChoice::Files(layouts) = &self.layout {
            for &layout in layouts {
                running.push(layout);
                running.extend(world.next_files(layout));
            }
        }
        running
    }

    /// The statuses that rendering may turn the answer into, with the files that it uses.
    pub fn may(&self, world: &World, uses: &[Use]) -> Vec<u16> {
        let files = self.running(world).into_iter().chain(uses.iter().map(|used| used.file));
        let statuses: BTreeSet<u16> = files.flat_map(|file| world.answers(file)).collect();
        statuses.into_iter().collect()
    }
}

fn files_of(world: &World, request: &Request, rung: Rung) -> ResolvedRung {
    let mut nearest = true;
    let name = format!("templates/{}", rung.name);
    let fit = world.lineage.nearest(&name).map(|id| is_fit(world, request, id));
    let files = world.lineage.all(&name).iter();
    let files = files.map(|&id| {
        let hidden = world.lineage.file(id).hidden_by.is_some();
        // Whether a chosen template fits is the nearest file's to say; farther ones do not are in for it.
        let unfit = rung.reason == Reason::Chosen && fit.is_some_and(|fit| !fit);
        let state = if hidden {
            FileState::Hidden
        } else if unfit {
            FileState::Unfit
        } else if nearest {
            FileState::PassedOver
        } else {
            FileState::Covered
        };
        nearest &= hidden || unfit;
        (id, state)
    });
    let files = files.collect();
    ResolvedRung { rung, files }
}

fn is_fit(world: &World, request: &Request, id: FileId) -> bool {
    let content = request.kind.content().map(|content| world.site.content(content));
    content.is_none_or(|content| fits(&world.header(id).fits, &world.site, content))
}

fn layout_of(world: &World, winner: FileId, after: &[FileId]) -> LayoutChoice {
    let mut stated = (None, winner);
    for &file in std::iter::once(&winner).chain(after) {
        stated = (world.header(file).layout.clone(), file);
        if stated.0.is_some() || !world.continues(file) {
            break;
        }
    }
    let (name, asker) = match stated {
        (Some(name), file) => (name, file),
        (None, _) => {
            (Spanned { text: "document".to_owned(), span: hausblatt_lang::text::source::Span::default() }, winner)
        }
    };
    layouts_from(world, name, asker)
}

/// A layout and those around it, as `asker` names it.
pub(crate) fn layouts_from(world: &World, name: Spanned, asker: FileId) -> LayoutChoice {
    let mut layouts = Vec::new();
    let mut next = Some((name, asker));
    while let Some((name, asker)) = next {
        if name.text == "none" {
            break;
        }
        let Some(layout) = world.lineage.nearest(&format!("layouts/{}.html", name.text)) else {
            return LayoutChoice::Missing(name, asker);
        };
        if layouts.contains(&layout) {
            break;
        }
        layouts.push(layout);
        next = world.stated_layout(layout).map(|name| (name, layout));
    }
    if layouts.is_empty() { LayoutChoice::None } else { LayoutChoice::Files(layouts) }
}

impl World {
    /// The partials that a file calls, or may call where it computes their names.
    pub(crate) fn calls_of(&self, file: FileId) -> Vec<Use> {
        let Some(program) = self.program(file) else { return Vec::new() };
        let found = |asked_as: &str, name: &str, unit: UnitId| Use {
            what: Used::Partial,
            asked_as: asked_as.to_owned(),
            name: name.to_owned(),
            file: self.file_of(unit),
        };
        let mut uses = Vec::new();
        for call in &program.calls {
            match &call.callee {
                Callee::Named(name) => uses.extend(
                    self.library.find_partial(program.ending, name).map(|(unit, short)| found(name, short, unit)),
                ),
                Callee::Computed(prefix, _) => uses.extend(
                    self.library.partials_behind(program.ending, prefix).map(|(name, unit)| found(name, name, unit)),
                ),
                Callee::Component(name) => {
                    uses.extend(
                        self.library
                            .find_component(program.ending, name)
                            .map(|unit| Use { what: Used::Component, ..found(name, name, unit) }),
                    );
                }
                Callee::Next if self.lineage.file(file).role == Role::Component => {
                    uses.extend(self.next_files(file).into_iter().filter_map(|next| {
                        let name = name_of(&self.lineage.file(next).name)?.to_owned();
                        Some(Use { what: Used::Component, asked_as: name.clone(), name, file: next })
                    }));
                }
                Callee::Next if self.lineage.file(file).role == Role::Partial => {
                    uses.extend(self.next_files(file).into_iter().map(|next| {
                        let name = self.lineage.file(next).name.trim_start_matches("partials/");
                        let name = Ending::split(name).map_or(name, |(stem, _)| stem).to_owned();
                        Use { what: Used::Partial, asked_as: name.clone(), name, file: next }
                    }));
                }
                Callee::Next => {}
            }
        }
        uses
    }
}
