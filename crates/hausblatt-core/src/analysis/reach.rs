//! Reach: which addresses every theme file has an effect on, and as what.

use std::collections::BTreeSet;
use std::sync::Arc;

use hausblatt_lang::program::{Act, Callee, Mentioned, Program};
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::value::datum::Datum;
use rustc_hash::FxHashMap;

use crate::lookup::loads;
use crate::lookup::resolution::{LayoutChoice, Resolution, Used};
use crate::model::request::Request;
use crate::themes::component::{self, TrayItem};
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::world::World;
use crate::world::survey::{ReachPart, Surveyed};

/// So many requests are looked at before all of them are.
const LOOKED_AT: usize = 500;

impl World {
    /// What takes part in the answer to each request, in the order of [`World::requests`]; found once.
    pub fn survey(&self) -> &[Surveyed] {
        self.survey.get_or_init(|| {
            let mut known: FxHashMap<Vec<FileId>, Arc<[(FileId, ReachPart)]>> = FxHashMap::default();
            let answers = self.requests().iter().map(|request| {
                let resolution = self.resolve(request.clone());
                let parts = known.entry(key(self, &resolution)).or_insert_with(|| parts(self, &resolution).into());
                Surveyed { winner: resolution.winner, parts: parts.clone() }
            });
            answers.collect()
        })
    }

    /// The requests in whose answers a file takes part, and as what.
    pub fn reach(&self, file: FileId) -> impl Iterator<Item = (&Request, ReachPart)> {
        self.requests().iter().zip(self.survey()).filter_map(move |(request, answer)| {
            let (_, part) = answer.parts.iter().find(|(other, _)| *other == file)?;
            Some((request, *part))
        })
    }

    /// Whether a file takes part in the answer to a request.
    pub fn takes_part(&self, file: FileId, request: &Request) -> bool {
        parts(self, &self.resolve(request.clone())).iter().any(|(other, _)| *other == file)
    }

    /// The first request in whose answer a file takes part. Of a file that most pages use, this is known before all of them
    /// are looked at.
    pub fn first_reached(&self, file: FileId) -> Option<&Request> {
        let mut known: FxHashMap<Vec<FileId>, bool> = FxHashMap::default();
        let mut takes_part = |request: &&Request| {
            let resolution = self.resolve((*request).clone());
            let parts = || parts(self, &resolution).iter().any(|(other, _)| *other == file);
            *known.entry(key(self, &resolution)).or_insert_with(parts)
        };
        let early = match self.survey.get() {
            None => self.requests().iter().take(LOOKED_AT).find(&mut takes_part),
            Some(_) => None,
        };
        early.or_else(|| self.reach(file).next().map(|(request, _)| request))
    }

    /// For each file of the lineage, how many addresses it reaches.
    pub fn reach_counts(&self) -> Vec<usize> {
        let mut counts = vec![0; self.lineage.files.len()];
        for answer in self.survey() {
            answer.parts.iter().for_each(|(file, _)| counts[file.0 as usize] += 1);
        }
        counts
    }
}

/// What distinguishes one set of files from another: all that is not called by them.
fn key(world: &World, resolution: &Resolution) -> Vec<FileId> {
    let mut key = resolution.running(world);
    // One template can be the start of several chains, whose prepare files differ.
    key.extend(resolution.prepare(world));
    key.extend(placed(world, &resolution.request));
    key
}

fn placed(world: &World, request: &Request) -> Vec<FileId> {
    let trays = request.content(&world.site).and_then(|content| world.trays.get(&content));
    let names = trays.into_iter().flatten().flat_map(|tray| &tray.placed).filter_map(|placed| match placed {
        TrayItem::Component(name, _) => Some(name),
        TrayItem::LeftOut(_) => None,
    });
    let files = names.filter_map(|name| world.library.find_component(request.format, name));
    files.map(|unit| world.file_of(unit)).collect()
}

fn parts(world: &World, resolution: &Resolution) -> Vec<(FileId, ReachPart)> {
    let mut found: Vec<(FileId, ReachPart)> = Vec::new();
    let layouts: BTreeSet<FileId> = match &resolution.layout {
        LayoutChoice::Files(files) => {
            files.iter().flat_map(|&file| std::iter::once(file).chain(world.next_files(file))).collect()
        }
        LayoutChoice::None | LayoutChoice::Missing(..) => BTreeSet::new(),
    };
    for file in resolution.running(world) {
        found.push((file, if layouts.contains(&file) { ReachPart::Layout } else { ReachPart::Template }));
    }
    for used in resolution.uses(world) {
        let part = match used.what {
            Used::Partial => ReachPart::Partial,
            Used::Component => ReachPart::Component,
            Used::Prepare => ReachPart::Prepare,
        };
        found.push((used.file, part));
        if used.what == Used::Component {
            found.extend(manifest(world, &used.name).map(|id| (id, ReachPart::Component)));
        }
    }
    let mut todo: Vec<FileId> = found.iter().flat_map(|(file, _)| assets(world, *file)).collect();
    let mut loaded = BTreeSet::new();
    while let Some(asset) = todo.pop() {
        if loaded.insert(asset) {
            todo.extend(assets(world, asset));
        }
    }
    found.extend(loaded.into_iter().map(|asset| (asset, ReachPart::Asset)));
    found.sort_unstable();
    found.dedup_by_key(|(file, _)| *file);
    found
}

/// The nearest `component.toml` of a component.
fn manifest(world: &World, component: &str) -> Option<FileId> {
    world.lineage.nearest(&format!("components/{component}/component.toml"))
}

/// The assets that a file names by a literal, brings along, or loads as a style sheet.
pub fn assets(world: &World, id: FileId) -> Vec<FileId> {
    let Some(unit) = world.unit(id).and_then(|unit| world.library.unit(unit)) else {
        return loads::loaded_files(world, id);
    };
    let brought = unit.brings.iter().filter_map(|one| world.component_asset(&one.path));
    let named = unit.program.iter().flat_map(names_of_assets);
    brought.chain(named.filter_map(|name| world.asset(name).or_else(|| world.component_asset(name)))).collect()
}

fn names_of_assets(program: &Program) -> impl Iterator<Item = &str> {
    let mentioned = program.mentions.iter().filter(|mention| mention.what == Mentioned::Asset);
    let asked_for = program.ops.iter().filter_map(|op| match op.act {
        Act::Use(kept) => Some(program.kept(kept)),
        _ => None,
    });
    mentioned.map(|mention| mention.text.as_str()).chain(asked_for)
}

/// How one file leads to another.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Tie {
    /// The other file.
    pub file: FileId,
    /// As what it is called.
    pub part: ReachPart,
    /// The name it is called by.
    pub asked_as: String,
}

/// The files that a file calls, is inside of, or names.
pub fn calls(world: &World, id: FileId) -> Vec<Tie> {
    let mut ties = BTreeSet::new();
    for used in world.calls_of(id) {
        let part = if used.what == Used::Component { ReachPart::Component } else { ReachPart::Partial };
        ties.insert(Tie { file: used.file, part, asked_as: used.asked_as });
    }
    if let Some(layout) = world.header(id).layout.as_ref().filter(|layout| layout.text != "none") {
        let file = world.lineage.nearest(&format!("layouts/{}.html", layout.text));
        ties.extend(file.map(|file| Tie { file, part: ReachPart::Layout, asked_as: layout.text.clone() }));
    }
    if world.lineage.file(id).role == Role::Layout && world.continues(id) {
        for file in world.next_files(id).into_iter().take(1) {
            ties.insert(Tie { file, part: ReachPart::Layout, asked_as: "inherited".to_owned() });
        }
    }
    for file in assets(world, id) {
        let asked_as = world.lineage.file(file).name.trim_start_matches("assets/").to_owned();
        ties.insert(Tie { file, part: ReachPart::Asset, asked_as });
    }
    ties.into_iter().collect()
}

/// The files that call a file, are inside of it, or name it.
pub fn callers(world: &World, id: FileId) -> Vec<Tie> {
    let file = world.lineage.file(id);
    // The other files of a component come with the one that is rendered.
    let beside = file.name.component();
    let component = beside.filter(|_| file.role != Role::Component);
    let component =
        component.and_then(|name| world.lineage.nearest(&format!("components/{name}/component.html"))).unwrap_or(id);
    let mut found = Vec::new();
    for (other, _) in world.lineage.ids() {
        let ties = calls(world, other).into_iter().filter(|tie| tie.file == id || tie.file == component);
        found.extend(ties.map(|tie| Tie { file: other, ..tie }));
    }
    found.sort();
    found.dedup();
    found
}

/// The paths of the content that places the component which a file belongs to.
pub fn placed_by(world: &World, id: FileId) -> Vec<String> {
    let name = &world.lineage.file(id).name;
    let component = name.strip_prefix("components/").and_then(|rest| rest.rsplit_once('/')).map(|(name, _)| name);
    let Some(component) = component else { return Vec::new() };
    let places = |tray: &component::PlacedTray| {
        tray.placed.iter().any(|placed| matches!(placed, TrayItem::Component(name, _) if name == component))
    };
    let contents = world.trays.iter().filter(|(_, trays)| trays.iter().any(places));
    let mut paths: Vec<String> = contents.map(|(&id, _)| world.site.content(id).path().to_string()).collect();
    paths.sort();
    paths
}

/// The named slots of a file.
pub fn slots(world: &World, id: FileId) -> Vec<String> {
    let program = world.unit(id).and_then(|unit| world.library.unit(unit)?.program.as_ref());
    program
        .map(|program| program.slots.iter().map(|&slot| world.symbols.name(slot).to_owned()).collect())
        .unwrap_or_default()
}

/// The slots of other files that a file fills: of its layout, or of what it extends.
pub fn fills(world: &World, id: FileId) -> Vec<String> {
    let Some(program) = world.program(id) else { return Vec::new() };
    let of_layout = program.layout_fills.iter();
    let going_on = program.calls.iter().filter(|call| matches!(call.callee, Callee::Next)).flat_map(|call| &call.fills);
    let mut names: Vec<String> =
        of_layout.chain(going_on).map(|(slot, _)| world.symbols.name(*slot).to_owned()).collect();
    names.sort();
    names.dedup();
    names
}

/// The files that fill a slot of a file from outside: of a layout those that it surrounds, of a partial or a component
/// those that call it.
pub(crate) fn fillers<'w>(world: &'w World, id: FileId, slot: &str) -> impl Iterator<Item = FileId> + use<'w> {
    let (role, name) = (world.lineage.file(id).role, world.lineage.file(id).name.clone());
    let symbol = world.symbols.find(slot);
    world.lineage.ids().map(|(id, _)| id).filter(move |&other| {
        let Some((program, slot)) = world.program(other).zip(symbol) else { return false };
        match role {
            Role::Layout => {
                let fills = program.layout_fills.iter().any(|(fill, _)| *fill == slot);
                fills && !matches!(world.lineage.file(other).role, Role::Layout)
            }
            _ => program.calls.iter().any(|call| {
                let stem = Ending::split(&name).map_or(&*name, |(stem, _)| stem);
                let calls = match &call.callee {
                    Callee::Named(called) => stem.strip_prefix("partials/") == Some(called),
                    Callee::Component(called) => component::name_of(&name) == Some(called),
                    Callee::Computed(..) | Callee::Next => false,
                };
                calls && call.fills.iter().any(|(fill, _)| *fill == slot)
            }),
        }
    })
}

/// What a file takes, each with its default as it would be written; none for what must be given.
pub fn parameters(world: &World, id: FileId) -> Vec<(String, Option<String>)> {
    if let Some(name) = component::name_of(&world.lineage.file(id).name) {
        let component = world.components.iter().find(|component| component.name == name);
        if let Some(component) = component {
            return component.fields.iter().map(|field| (field.name.clone(), Some(written(&field.default)))).collect();
        }
    }
    let takes = world.header(id).takes.iter().flatten();
    takes.map(|(name, default)| (name.clone(), default.as_ref().map(written))).collect()
}

/// A default as a person would write it.
fn written(value: &Datum) -> String {
    match value {
        Datum::Nothing => "nothing".to_owned(),
        Datum::Bool(truth) => truth.to_string(),
        Datum::Int(number) => number.to_string(),
        Datum::Float(number) => number.to_string(),
        Datum::Text(text) => text.trim().to_owned(),
        Datum::Html(html) => html.trim().to_owned(),
        Datum::Date(_) => "a date".to_owned(),
        Datum::List(members) => format!("[{}]", members.0.iter().map(written).collect::<Vec<_>>().join(", ")),
        Datum::Record(_) | Datum::MadeRecord(_) => "a record".to_owned(),
    }
}
