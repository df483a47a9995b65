//! What a new file does: whom it reaches, what has other HTML, and who passes it over.

use bumpalo::Bump;
use rayon::prelude::*;

use crate::analysis::compare::{AddressChange, Html, compare, differs};
use crate::lookup::ladder::ladder;
use crate::themes::lineage::FileId;
use crate::threads::PAGES;
use crate::world::World;
use crate::world::survey::ReachPart;

/// How many addresses are rendered to find whether they differ.
pub const MOST_RENDERED: usize = 1000;

/// What a new file does.
#[derive(Clone, Debug, Default)]
pub struct Effect {
    /// The addresses that it takes part in, and as what.
    pub reaches: Vec<(String, ReachPart)>,
    /// The addresses that are answered by another file than before.
    pub changed: Vec<AddressChange>,
    /// The addresses that differ, of those that were rendered.
    pub differ: Vec<String>,
    /// Whether all that it reaches were rendered for that.
    pub all_rendered: bool,
    /// The addresses that try its name but have another file: the name and the theme of that.
    pub passed: Vec<(String, String, String)>,
}

/// What the new file of this name does.
pub fn effect(before: &World, after: &World, name: &str) -> Effect {
    let active = |world: &World| world.lineage.all(name).iter().copied().find(|&id| world.lineage.file(id).theme == 0);
    let Some(own) = active(after) else { return Effect::default() };
    let reaches: Vec<(String, ReachPart)> =
        after.reach(own).map(|(request, part)| (request.address.clone(), part)).collect();
    let rendered: Vec<&String> = reaches.iter().map(|(address, _)| address).take(MOST_RENDERED).collect();
    let differ = rendered
        .par_iter()
        .with_max_len(PAGES)
        .map_init(Bump::new, |arena, address| differs(before, after, address, arena).then(|| (*address).clone()));
    let differ: Vec<String> = differ.flatten().collect();
    let changed = compare(before, after, Html::No).changed;
    let all_rendered = rendered.len() == reaches.len();
    Effect { passed: passed(after, own, name), reaches, changed, differ, all_rendered }
}

/// The addresses that try a template's name, but are rendered by another file.
fn passed(world: &World, own: FileId, name: &str) -> Vec<(String, String, String)> {
    let Some(name) = name.strip_prefix("templates/").filter(|name| !name.starts_with("offered/")) else {
        return Vec::new();
    };
    let mut found = Vec::new();
    for (request, answer) in world.requests().iter().zip(world.survey()) {
        let Some(winner) =
            answer.winner.filter(|&winner| winner != own && !answer.parts.iter().any(|(file, _)| *file == own))
        else {
            continue;
        };
        let tries = ladder(&world.site, request).iter().any(|rung| rung.name == name);
        if tries {
            let file = world.lineage.file(winner);
            let by = file.name.template().unwrap_or(&file.name).to_owned();
            found.push((request.address.clone(), by, world.lineage.theme_of(winner).name.clone()));
        }
    }
    found
}
