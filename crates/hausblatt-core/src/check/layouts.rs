//! What every document has to print: the files that a document is made of.

use std::collections::BTreeSet;

use hausblatt_lang::program::Program;

use crate::analysis::reach;
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::world::World;
use crate::world::survey::ReachPart;

/// The files that begin a document around some address, each with the programs of the files that it is made of.
pub fn documents(world: &World) -> Vec<(FileId, Vec<&Program>)> {
    let counts = world.reach_counts();
    let used = |id: &FileId| counts[id.0 as usize] > 0;
    let begins = |id: &FileId| world.program(*id).is_some_and(|program| program.document.is_some());
    let files = world.lineage.ids().filter(|(_, file)| matches!(file.role, Role::Layout | Role::Template));
    files.map(|(id, _)| id).filter(used).filter(begins).map(|id| (id, made_of(world, id))).collect()
}

/// A file's program and those of all that it calls.
fn made_of(world: &World, id: FileId) -> Vec<&Program> {
    let mut known = BTreeSet::from([id]);
    let mut open = vec![id];
    while let Some(file) = open.pop() {
        let ties = reach::calls(world, file)
            .into_iter()
            .filter(|tie| !matches!(tie.part, ReachPart::Layout | ReachPart::Asset));
        let next = world.next_files(file);
        for called in ties.map(|tie| tie.file).chain(next) {
            if known.insert(called) {
                open.push(called);
            }
        }
    }
    known.into_iter().filter_map(|file| world.program(file)).collect()
}
