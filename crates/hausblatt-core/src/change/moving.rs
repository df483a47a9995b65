//! A theme file that moves to another theme of the lineage, with the files that it needs there.

use std::collections::{BTreeMap, BTreeSet};

use bumpalo::Bump;
use hausblatt_lang::program::{Act, Callee, Mentioned};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::{did_you_mean, joined};
use rayon::prelude::*;

use crate::analysis::compare::differs;
use crate::asking::SiteOptions;
use crate::change::changes::changed;
use crate::change::rename::{Proof, Theirs, prove_same};
use crate::files::edit::Write;
use crate::lookup::file_argument;
use crate::text::codes;
use crate::themes::lineage::FileId;
use crate::themes::originals::{self, Original};
use crate::themes::theme;
use crate::threads::PAGES;
use crate::world::{Unloadable, World};

/// A file that moves to another theme.
#[derive(Debug)]
pub struct Moving {
    /// The files that move: from where, to where; the one that was asked for first.
    pub moved: Vec<(String, String)>,
    /// The themes that are others then, each with how many of its addresses differ, and how many it has.
    pub themes: Vec<(String, usize, usize)>,
    /// Records of copies that are written anew.
    pub records: usize,
    /// What it does to the output of the active theme.
    pub proof: Proof,
    /// What is to be written.
    pub writes: Vec<Write>,
}

/// Plans how a file of the lineage that is typed so moves to the theme `to`.
///
/// # Errors
/// What it would lack there, or that pages of the active theme would not be the same.
pub fn move_file(world: &World, typed: &str, to: &str) -> Result<Moving, Vec<Diagnostic>> {
    let one = |diagnostic: Diagnostic| vec![diagnostic];
    let (id, target) = what(world, typed, to).map_err(one)?;
    let files = with_needed(world, id, target).map_err(one)?;
    let moved = paths(world, &files, target).map_err(one)?;
    let (records, count) = records(world, &files, target)?;
    let mut writes = Vec::new();
    let mut gone = Vec::new();
    for (from, new) in &moved {
        let node = world.snapshot.file(from);
        let bytes = node.map(|node| node.bytes()).transpose().map_err(|error| {
            let message = format!("{from} can't be read: {error}");
            vec![Diagnostic::of(&codes::UNREADABLE, message).help("look at its permissions")]
        })?;
        let bytes = bytes.unwrap_or_default();
        writes.push(Write::new(&**new, bytes.clone()));
        gone.push(Write::removal(&**from, bytes));
    }
    writes.extend(records);
    writes.extend(gone);
    let mut after = changed(&world.snapshot, &writes);
    for (from, new) in &moved {
        if after.file(new).is_none()
            && let Some(node) = world.snapshot.file(from)
        {
            after.put_elsewhere(node, new);
        }
    }
    let paths: BTreeSet<String> = moved.iter().map(|(from, _)| from.clone()).collect();
    let none = Theirs::none();
    let templates = files.iter().filter_map(|&id| world.lineage.file(id).name.template());
    let theme = &world.lineage.themes[target].name;
    let theme_of = templates.map(|name| (name.to_owned(), theme.clone())).collect();
    let proof = prove_same(world, &none, &after, &paths, &theme_of)?;
    let mut themes = Vec::new();
    for name in theme::names(&world.snapshot).into_iter().filter(|name| *name != world.lineage.active().name) {
        let asking = SiteOptions { theme: Some(name.clone()), ..world.asking.clone() };
        let load = |snapshot| World::load(snapshot, asking.clone());
        let Ok(before) = load(world.snapshot.clone()) else { continue };
        let then = load(after.clone()).map_err(|Unloadable(problems)| problems)?;
        lacks(&before, &then, &name)?;
        let addresses: Vec<&str> = before.requests().iter().map(|request| request.address.as_str()).collect();
        let step = addresses.len().div_ceil(crate::change::rename::MOST_RENDERED).max(1);
        let some: Vec<&str> = addresses.into_iter().step_by(step).collect();
        let others = some
            .par_iter()
            .with_max_len(PAGES)
            .map_init(Bump::new, |arena, address| differs(&before, &then, address, arena));
        let count = others.filter(|differs| *differs).count();
        if count > 0 {
            themes.push((name, count, some.len()));
        }
    }
    Ok(Moving { moved, themes, records: count, proof, writes })
}

/// The file, and the place of the theme in the lineage.
fn what(world: &World, typed: &str, to: &str) -> Result<(FileId, usize), Diagnostic> {
    let id = file_argument::theme_file(world, typed)?;
    let themes = &world.lineage.themes;
    let names = || themes.iter().map(|theme| theme.name.as_str());
    let to = to.trim_start_matches("themes/").trim_end_matches('/');
    let Some(target) = names().position(|name| name == to) else {
        let all: Vec<String> = names().map(str::to_owned).collect();
        let message = format!("the theme {to} is not in the lineage of {}", world.lineage.active().name);
        let help = did_you_mean(to, names()).unwrap_or_else(|| format!("it is {}", joined(&all, "and")));
        return Err(Diagnostic::of(&codes::UNKNOWN_THEME, message).help(help));
    };
    let file = world.lineage.file(id);
    if file.theme == target {
        return Err(Diagnostic::of(&codes::FILE_EXISTS, format!("{} is in the theme {to} already", file.name)));
    }
    Ok((id, target))
}

/// A file with all that belongs to it and that the theme would lack: what it calls, its layout, its assets.
fn with_needed(world: &World, id: FileId, target: usize) -> Result<Vec<FileId>, Diagnostic> {
    let mut files = Vec::new();
    let mut open = vec![id];
    while let Some(next) = open.pop() {
        if files.contains(&next) {
            continue;
        }
        files.push(next);
        let file = world.lineage.file(next);
        if let Some(component) = file.name.component() {
            let own = format!("components/{component}/");
            let parts = world.lineage.ids().filter(|(_, part)| part.theme == file.theme && part.name.starts_with(&own));
            open.extend(parts.map(|(part, _)| part));
        }
        // What is in the theme or farther up it has.
        let is_there = |id: FileId| world.lineage.file(id).theme >= target;
        let has = |name: &str| world.lineage.all(name).iter().any(|&id| is_there(id));
        let mut wants: Vec<FileId> = Vec::new();
        if let Some(layout) = &world.header(next).layout {
            let name = format!("layouts/{}.html", layout.text);
            wants.extend(world.lineage.nearest(&name).filter(|_| !has(&name)));
        }
        let Some(program) = world.program(next) else { continue };
        for call in &program.calls {
            let found: Vec<FileId> = match &call.callee {
                Callee::Named(name) => {
                    let found = world.library.find_partial(program.ending, name);
                    found.map(|(unit, _)| world.file_of(unit)).into_iter().collect()
                }
                Callee::Component(name) => {
                    let found = world.library.find_component(program.ending, name);
                    found.map(|unit| world.file_of(unit)).into_iter().collect()
                }
                Callee::Computed(prefix, _) => {
                    let found = world.library.partials_behind(program.ending, prefix);
                    found.map(|(_, unit)| world.file_of(unit)).collect()
                }
                Callee::Next => Vec::new(),
            };
            wants.extend(found.into_iter().filter(|&id| !has(&world.lineage.file(id).name)));
        }
        let assets = program.mentions.iter().filter(|mention| mention.what == Mentioned::Asset);
        let assets = assets.map(|mention| mention.text.as_str());
        let used = program.ops.iter().filter_map(|op| match op.act {
            Act::Use(kept) => Some(program.kept(kept)),
            _ => None,
        });
        for asset in assets.chain(used) {
            let name = format!("assets/{asset}");
            wants.extend(world.lineage.nearest(&name).filter(|_| !has(&name)));
        }
        open.extend(wants);
    }
    Ok(files)
}

/// The paths of the files, and those that they get; none of them is taken.
fn paths(world: &World, files: &[FileId], target: usize) -> Result<Vec<(String, String)>, Diagnostic> {
    let theme = &world.lineage.themes[target];
    let mut moved = Vec::new();
    for &id in files {
        let file = world.lineage.file(id);
        let new = format!("{}{}", theme.root, file.name);
        let lower = new.to_lowercase();
        if let Some(taken) = world.snapshot.below(&theme.root).find(|node| node.path.to_lowercase() == lower) {
            let message = format!("the theme {} has {} already", theme.name, file.name);
            let help = match file.theme < target {
                true => "merge the two by hand, and remove this one".to_owned(),
                false => format!("it covers this one; remove {} first", taken.path),
            };
            return Err(Diagnostic::of(&codes::FILE_EXISTS, message).help(help));
        }
        moved.push((file.node.path.to_string(), new));
    }
    Ok(moved)
}

/// The records that move with their copies, and those that speak of a file which moves.
fn records(world: &World, files: &[FileId], target: usize) -> Result<(Vec<Write>, usize), Vec<Diagnostic>> {
    let snapshot = &world.snapshot;
    let to = &world.lineage.themes[target];
    let mut writes = Vec::new();
    let mut count = 0;
    for &id in files {
        let file = world.lineage.file(id);
        let from = &world.lineage.themes[file.theme];
        if let Some(record) = originals::read(snapshot, from, &file.name) {
            let original = record.map_err(|problem| vec![problem])?;
            writes.extend(originals::removal(snapshot, from, &file.name));
            // In the theme of its original a file is no copy.
            if original.theme != to.name {
                writes.push(originals::record(snapshot, to, &file.name, &original));
                count += 1;
            }
        }
        for name in theme::names(snapshot) {
            let Some(theme) = theme::read(snapshot, &name, &mut Vec::new()) else { continue };
            for own in originals::recorded(snapshot, &theme) {
                let Some(Ok(original)) = originals::read(snapshot, &theme, &own) else { continue };
                if original.theme == from.name && original.path == *file.name && name != to.name {
                    let now = Original { theme: to.name.clone(), version: to.version.clone(), ..original };
                    writes.push(originals::record(snapshot, &theme, &own, &now));
                    count += 1;
                }
            }
        }
    }
    Ok((writes, count))
}

/// What a theme would lack that it has now.
fn lacks(before: &World, after: &World, theme: &str) -> Result<(), Vec<Diagnostic>> {
    let mut known: BTreeMap<(&str, &str), usize> = BTreeMap::new();
    before.problems.iter().for_each(|one| *known.entry((one.code, &one.message)).or_default() += 1);
    let is_new = |one: &&Diagnostic| one.is_error() && !known.contains_key(&(one.code, one.message.as_str()));
    let mut new: Vec<Diagnostic> = after.problems.iter().filter(is_new).cloned().collect();
    for one in &mut new {
        one.message = format!("in the theme {theme}: {}", one.message);
    }
    if new.is_empty() { Ok(()) } else { Err(new) }
}
