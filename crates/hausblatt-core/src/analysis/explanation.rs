//! Why an address is answered as it is: all that `resolve`, the badge, the workbench and the chart show of an answer.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::position;

use crate::analysis::next_steps::{NextStep, next_steps};
use crate::analysis::notes::{notes, problems};
use crate::analysis::subject::subject;
use crate::lookup::ladder::Reason;
use crate::lookup::map::error_request;
use crate::lookup::resolution::{FileState, LayoutChoice, Note, Resolution, ResolvedRung, Use, Used};
use crate::model::request::{Kind, Request};
use crate::render::page::nearest_addresses;
use crate::themes::lineage::FileId;
use crate::world::World;
use crate::world::status::Status;

/// Why an address is answered as it is. It borrows nothing, so it can be kept and sent.
#[derive(Clone, Debug)]
pub struct Explanation {
    /// The address.
    pub address: String,
    /// What the address is, in a line: its kind, and the content after it.
    pub subject: String,
    /// The kind's word; none for addresses of files that are built in.
    pub kind: Option<&'static str>,
    /// The requested view.
    pub view: Option<String>,
    /// The content that the address is about.
    pub content: Option<ExplainedContent>,
    /// What it is answered with.
    pub status: Status,
    /// Where a file answers with an error or redirects.
    pub stopped_at: Option<Spot>,
    /// The statuses that rendering may turn the answer into; empty if it was rendered.
    pub may: Vec<u16>,
    /// The themes of the lineage, nearest first.
    pub themes: Vec<String>,
    /// The ladder, most specific name first.
    pub rungs: Vec<ExplainedRung>,
    /// What renders the address.
    pub renders: Renders,
    /// The templates that go into the answer because the one before extends them.
    pub extends: Vec<FileRef>,
    /// What is around the template.
    pub layout: ExplainedLayout,
    /// The partials, components and prepare files that take part.
    pub uses: Vec<ExplainedUse>,
    /// What to know about the answer.
    pub notes: Vec<Note>,
    /// What is wrong with the files that take part, as it was found when the site was loaded.
    pub problems: Vec<Diagnostic>,
    /// Whether nothing is at the address.
    pub is_missing: bool,
    /// Where nothing is at the address: the nearest addresses that exist, with their titles.
    pub nearest: Vec<(String, String)>,
    /// What could be changed, and with which command.
    pub next: Vec<NextStep>,
}

/// The content that an address is about.
#[derive(Clone, Debug)]
pub struct ExplainedContent {
    /// Its id.
    pub id: String,
    /// The collection of an entry.
    pub collection: Option<String>,
    /// Its path from the site.
    pub path: String,
}

/// A line of a file.
#[derive(Clone, Debug)]
pub struct Spot {
    /// The file's path from the site.
    pub path: Arc<str>,
    /// The line, from 1.
    pub line: usize,
}

/// A file of a theme.
#[derive(Clone, Debug)]
pub struct FileRef {
    /// The file in its lineage.
    pub id: FileId,
    /// Its path from the theme.
    pub name: String,
    /// Its theme's place in [`Explanation::themes`].
    pub theme_number: usize,
    /// Its theme's name.
    pub theme: String,
    /// Its path from the site.
    pub path: Arc<str>,
}

/// A name that is tried, and the files of it.
#[derive(Clone, Debug)]
pub struct ExplainedRung {
    /// The name with its extension: `entry/varieties.html`.
    pub name: String,
    /// Why it is tried.
    pub reason: Reason,
    /// The files of that name, nearest theme first, and what becomes of each.
    pub files: Vec<(FileRef, FileState)>,
}

impl ExplainedRung {
    /// Whether one of its files renders the address.
    pub fn renders(&self) -> bool {
        self.files.iter().any(|(_, state)| *state == FileState::Renders)
    }

    /// The file of a theme, by the theme's place in the lineage, and what becomes of it.
    pub fn of_theme(&self, number: usize) -> Option<&(FileRef, FileState)> {
        self.files.iter().find(|(file, _)| file.theme_number == number)
    }
}

/// What renders an address.
#[derive(Clone, Debug)]
pub enum Renders {
    /// A template.
    Template(FileRef),
    /// An Atom feed that is built in.
    BuiltInFeed,
    /// Another file that is built in.
    BuiltInFile,
    /// A plain page that is built in.
    BuiltInPage,
    /// Nothing: no theme has a template for it.
    Nothing,
}

impl Renders {
    /// The template, if one renders the address.
    pub fn template(&self) -> Option<&FileRef> {
        match self {
            Renders::Template(file) => Some(file),
            _ => None,
        }
    }
}

/// What is around a template.
#[derive(Clone, Debug)]
pub enum ExplainedLayout {
    /// No layout.
    None,
    /// A layout and those around it, from the inside, each with the files that it extends.
    Files(Vec<(FileRef, Vec<FileRef>)>),
    /// A layout of this name, which no theme has.
    Missing(String),
}

impl ExplainedLayout {
    /// The layout that the template itself is in.
    pub fn first(&self) -> Option<&FileRef> {
        match self {
            ExplainedLayout::Files(files) => files.first().map(|(file, _)| file),
            ExplainedLayout::None | ExplainedLayout::Missing(_) => None,
        }
    }
}

/// A file that takes part in an answer.
#[derive(Clone, Debug)]
pub struct ExplainedUse {
    /// What sort of file it is.
    pub what: Used,
    /// The name as the call writes it.
    pub asked_as: String,
    /// The name that was found.
    pub name: String,
    /// The file.
    pub file: FileRef,
}

impl World {
    /// Why a request is answered as it is, given the status that it is answered with.
    pub fn explain(&self, resolution: &Resolution, status: Status) -> Explanation {
        let request = &resolution.request;
        let running = resolution.running(self);
        let uses = resolution.uses(self);
        let extended = running.iter().skip(1).filter(|id| resolution.after.contains(id));
        let is_missing = request.status == 404 && request.address != error_request(404).address;
        let nearest = if is_missing { nearest_addresses(self, &request.address) } else { Vec::new() };
        Explanation {
            address: request.address.clone(),
            subject: subject(self, resolution),
            kind: request.kind.word(),
            view: request.view.clone(),
            content: content(self, request),
            stopped_at: stopped_at(self, &status),
            may: if status.rendered { Vec::new() } else { resolution.may(self, &uses) },
            status,
            themes: self.lineage.themes.iter().map(|theme| theme.name.clone()).collect(),
            rungs: resolution.rungs.iter().map(|rung| explained_rung(self, rung)).collect(),
            renders: renders(self, resolution),
            extends: extended.map(|id| self.file_ref(*id)).collect(),
            layout: layout(self, &resolution.layout),
            notes: notes(self, resolution, &running, &uses),
            problems: problems(self, resolution, &running, &uses).cloned().collect(),
            uses: uses.into_iter().map(|used| explained_use(self, used)).collect(),
            is_missing,
            nearest: nearest.into_iter().map(|(address, title)| (address.to_owned(), title.to_owned())).collect(),
            next: if is_missing { Vec::new() } else { next_steps(self, resolution) },
        }
    }

    /// A file of the lineage with all that names it.
    pub fn file_ref(&self, id: FileId) -> FileRef {
        let file = self.lineage.file(id);
        FileRef {
            id,
            name: file.name.to_string(),
            theme_number: file.theme,
            theme: self.lineage.theme_of(id).name.clone(),
            path: file.node.path.clone(),
        }
    }
}

fn content(world: &World, request: &Request) -> Option<ExplainedContent> {
    let content = world.site.content(request.content(&world.site)?);
    Some(ExplainedContent {
        id: content.id.to_string(),
        collection: world.site.collection_of(content).map(|collection| collection.config.name.text.clone()),
        path: content.path().to_string(),
    })
}

fn stopped_at(world: &World, status: &Status) -> Option<Spot> {
    let place = status.stopped_at.as_ref()?;
    let text = world.snapshot.file(&place.path)?.text()?;
    Some(Spot { path: place.path.clone(), line: position(text, place.span.start).line })
}

fn explained_rung(world: &World, rung: &ResolvedRung) -> ExplainedRung {
    let files = rung.files.iter().map(|&(id, state)| (world.file_ref(id), state)).collect();
    ExplainedRung { name: rung.rung.name.clone(), reason: rung.rung.reason, files }
}

fn renders(world: &World, resolution: &Resolution) -> Renders {
    let request = &resolution.request;
    match (resolution.winner, &request.kind) {
        (Some(id), _) => Renders::Template(world.file_ref(id)),
        (None, _) if request.is_feed() => Renders::BuiltInFeed,
        (None, Kind::Sitemap(_) | Kind::Robots) => Renders::BuiltInFile,
        (None, Kind::Error(_)) => Renders::BuiltInPage,
        (None, _) => Renders::Nothing,
    }
}

fn layout(world: &World, layout: &LayoutChoice) -> ExplainedLayout {
    let of = |&id: &FileId| {
        let extended = world.next_files(id).into_iter().map(|next| world.file_ref(next)).collect();
        (world.file_ref(id), extended)
    };
    match layout {
        LayoutChoice::None => ExplainedLayout::None,
        LayoutChoice::Files(files) => ExplainedLayout::Files(files.iter().map(of).collect()),
        LayoutChoice::Missing(name, _) => ExplainedLayout::Missing(name.text.clone()),
    }
}

fn explained_use(world: &World, used: Use) -> ExplainedUse {
    ExplainedUse { what: used.what, asked_as: used.asked_as, name: used.name, file: world.file_ref(used.file) }
}
