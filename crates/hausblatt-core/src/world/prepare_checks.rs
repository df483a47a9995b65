//! What is wrong among prepare files.

use hausblatt_lang::program::Setting;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::types::Type;

use crate::text::codes;
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
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
        found.extend(replaced_lists(world, id));
    }
    found
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

fn replaced_lists(world: &World, id: FileId) -> Vec<Diagnostic> {
    let file = world.lineage.file(id);
    let farther = world.lineage.not_hidden(&file.name).filter(|&other| world.lineage.file(other).theme > file.theme);
    let farther: Vec<(FileId, &Setting)> = farther
        .flat_map(|other| {
            world.program(other).into_iter().flat_map(move |program| program.sets.iter().map(move |set| (other, set)))
        })
        .collect();
    let own = world.program(id).map_or(&[][..], |program| &program.sets);
    let mut found = Vec::new();
    for (at, set) in own.iter().enumerate().filter(|(_, set)| !set.extends) {
        let first = !own[..at].iter().any(|earlier| earlier.global == set.global);
        let Some((other, built)) =
            farther.iter().find(|(_, other)| other.global == set.global && matches!(other.of, Type::List(..)) && first)
        else {
            continue;
        };
        let name = world.globals.name(set.global);
        let message = format!("this replaces the list \"{name}\" that a farther theme builds");
        let diagnostic = Diagnostic::of(&codes::LIST_REPLACED, message)
            .help(format!("to add to it, write: let {name} = {name} + […]"))
            .related(&world.lineage.file(*other).node.path, built.span, "it is built here");
        found.push(diagnostic.at(&file.node.path, set.span));
    }
    found
}
