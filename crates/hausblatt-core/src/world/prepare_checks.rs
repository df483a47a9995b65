//! What is wrong among prepare files.

use std::collections::BTreeSet;

use hausblatt_lang::compile;
use hausblatt_lang::program::{Program, Setting};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::types::Type;

use crate::text::codes;
use crate::themes::file_name::Role;
use crate::themes::lineage::{FileId, ThemeFile};
use crate::themes::prepare::NAMES;
use crate::world::World;

/// Prepare files that no request runs, and lists that a nearer theme's file replaces where a farther theme's built
/// them.
pub fn check(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.role == Role::Prepare) {
        let name = file.name.prepare().unwrap_or_default();
        if !NAMES.contains(&name) {
            let help = did_you_mean(name, NAMES.iter().copied())
                .unwrap_or_else(|| format!("its name is one of {}", NAMES.join(", ")));
            let message = format!("no request runs this prepare file: \"{name}\" is not a kind of request");
            found.push(Diagnostic::of(&codes::DEAD_FILE, message).help(help).at(&file.node.path, Span::default()));
        }
        found.extend(hidden_collections(world, id));
        found.extend(used_before_set(world, id));
        found.extend(replaced_lists(world, id));
    }
    found.extend(unread(world));
    found
}

/// Values that are read above the line that makes them, and that no other file makes.
fn used_before_set(world: &World, id: FileId) -> Vec<Diagnostic> {
    let sets = world.program(id).map_or(&[][..], |program| &program.sets);
    let path = &world.lineage.file(id).node.path;
    let mut found = Vec::new();
    for (at, set) in sets.iter().enumerate() {
        let later = |global: &u16| {
            let made = |set: &&Setting| set.global == *global;
            let line = sets[at + 1..].iter().find(made).filter(|_| !sets[..at].iter().any(|set| made(&set)))?;
            let others = programs(world).filter(|(other, _)| *other != id).flat_map(|(_, program)| &*program.sets);
            (!others.into_iter().any(|set| made(&set))).then_some((*global, line))
        };
        for (global, line) in set.reads.iter().filter(|global| **global != set.global).filter_map(later) {
            let name = world.globals.name(global);
            let message = format!("\"{name}\" is nothing here: it gets its value in a later line");
            let diagnostic = Diagnostic::of(&codes::USED_BEFORE_SET, message).help("move that line up");
            found.push(diagnostic.at(path, set.span).related(path, line.span, "it gets its value here"));
        }
    }
    found
}

/// Values that prepare files make and nothing reads.
fn unread(world: &World) -> Vec<Diagnostic> {
    // What can't be read may read any of them.
    if world.library.units.iter().any(|unit| unit.program.is_none()) {
        return Vec::new();
    }
    let of_prepare = programs(world).flat_map(|(_, program)| &*program.sets);
    let read_there = of_prepare.flat_map(|set| set.reads.iter().filter(|global| **global != set.global));
    let others = world.library.units.iter().filter_map(|unit| unit.program.as_ref());
    let others = others.filter(|program| program.role != compile::Role::Prepare);
    let read: BTreeSet<u16> = others.flat_map(|program| &*program.globals_read).chain(read_there).copied().collect();
    let made: BTreeSet<u16> = programs(world).flat_map(|(_, program)| &*program.sets).map(|set| set.global).collect();
    let read_names: Vec<&str> = made.intersection(&read).map(|global| world.globals.name(*global)).collect();
    let mut found = Vec::new();
    let mut seen: Vec<u16> = Vec::new();
    // Once for each, in the nearest theme that makes it.
    let mut nearest_first: Vec<(FileId, &Program)> = programs(world).collect();
    nearest_first.sort_by_key(|(id, _)| world.lineage.file(*id).theme);
    for (id, program) in nearest_first {
        for set in &program.sets {
            let name = world.globals.name(set.global);
            if read.contains(&set.global) || world.globals.is_reserved(name) || seen.contains(&set.global) {
                continue;
            }
            seen.push(set.global);
            let diagnostic = Diagnostic::of(&codes::UNREAD_VALUE, format!("no file reads \"{name}\""));
            let help = did_you_mean(name, read_names.iter().copied());
            let diagnostic = diagnostic.help("take it out, or read it in a file of the theme").maybe_help(help);
            found.push(diagnostic.at(&world.lineage.file(id).node.path, set.span));
        }
    }
    found
}

/// The prepare files that run, with their programs.
fn programs(world: &World) -> impl Iterator<Item = (FileId, &Program)> {
    let runs = |file: &ThemeFile| {
        file.role == Role::Prepare
            && file.hidden_by.is_none()
            && file.name.prepare().is_some_and(|name| NAMES.contains(&name))
    };
    let files = world.lineage.ids().filter(move |(_, file)| runs(file));
    files.filter_map(|(id, _)| Some((id, world.library.unit(world.unit(id)?)?.program.as_ref()?)))
}

/// Names that a file takes from a collection of the site.
fn hidden_collections(world: &World, id: FileId) -> Vec<Diagnostic> {
    let sets = world.program(id).map_or(&[][..], |program| &program.sets);
    let hides = sets.iter().filter(|set| world.globals.hides(world.globals.name(set.global)));
    let found = hides.map(|set| {
        let name = world.globals.name(set.global);
        let message = format!("\"{name}\" hides the collection of that name in every file of the lineage");
        let help = format!("write collections.{name} for the collection, or choose another name");
        Diagnostic::of(&codes::HIDDEN_COLLECTION, message).help(help).at(&world.lineage.file(id).node.path, set.span)
    });
    found.collect()
}

/// Lists that a file replaces, though a file that runs before it built them, or every request has them.
fn replaced_lists(world: &World, id: FileId) -> Vec<Diagnostic> {
    let file = world.lineage.file(id);
    let earlier = programs(world).filter(|(other, _)| runs_before(world.lineage.file(*other), file));
    let mut earlier: Vec<(FileId, &Program)> = earlier.collect();
    earlier.sort_by_key(|(other, _)| world.lineage.file(*other).theme);
    let built: Vec<(FileId, &Setting)> =
        earlier.iter().flat_map(|(other, program)| program.sets.iter().map(|set| (*other, set))).collect();
    let own = world.program(id).map_or(&[][..], |program| &program.sets);
    let mut found = Vec::new();
    for (at, set) in own.iter().enumerate().filter(|(_, set)| !set.extends) {
        let name = world.globals.name(set.global);
        let before = built.iter().find(|(_, other)| other.global == set.global && matches!(other.of, Type::List(..)));
        let is_first = !own[..at].iter().any(|earlier| earlier.global == set.global);
        if !is_first || (before.is_none() && name != "classes") {
            continue;
        }
        let message = match before {
            Some((other, _)) if world.lineage.file(*other).theme > file.theme => {
                format!("this replaces the list \"{name}\" that a farther theme builds")
            }
            Some(_) => format!("this replaces the list \"{name}\" that an earlier prepare file builds"),
            None => "this replaces \"classes\", which hold what is requested and what templates add".to_owned(),
        };
        let mut diagnostic = Diagnostic::of(&codes::LIST_REPLACED, message)
            .help(format!("to add to it, write: let {name} = {name} + […]"));
        if let Some((other, built)) = before {
            diagnostic = diagnostic.related(&world.lineage.file(*other).node.path, built.span, "it is built here");
        }
        found.push(diagnostic.at(&file.node.path, set.span));
    }
    found
}

/// Whether a prepare file runs before another one wherever both run: that of a farther theme, of all requests, or of what
/// is more general on the ladder.
fn runs_before(one: &ThemeFile, other: &ThemeFile) -> bool {
    let (Some(first), Some(second)) = (one.name.prepare(), other.name.prepare()) else { return false };
    let is_general =
        first == "all" || matches!((first, second), ("page", "front") | ("listing", "period") | ("listing", "search"));
    if first == second { one.theme > other.theme } else { is_general }
}
