//! That a change leaves every page as it is.

use std::collections::{BTreeMap, BTreeSet};

use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::change::rename::plan::{concerned, in_theme, worlds};
use crate::change::rename::proof::{Proof, Renamed, prove};
use crate::files::Snapshot;
use crate::text::codes;
use crate::text::shell::word;
use crate::world::{Unloadable, World};

/// The site with each theme that inherits from the active one.
pub(crate) struct Theirs(Vec<World>);

impl Theirs {
    /// None: each is looked at by itself.
    pub fn none() -> Self {
        Self(Vec::new())
    }

    /// Those of a World.
    ///
    /// # Errors
    /// Why one of them can't be loaded.
    pub fn of(world: &World) -> Result<Self, Vec<Diagnostic>> {
        Ok(Self(worlds(world, &concerned(world))?))
    }
}

/// Renders all that these files have an effect on before and after, in all themes that have them; templates may come to be in
/// other themes, by their names.
///
/// # Errors
/// What would be wrong, or that a page would not be the same.
pub(crate) fn prove_same(
    world: &World,
    theirs: &Theirs,
    after: &Snapshot,
    paths: &BTreeSet<String>,
    theme_of: &BTreeMap<String, String>,
) -> Result<Proof, Vec<Diagnostic>> {
    let all: Vec<&World> = std::iter::once(world).chain(&theirs.0).collect();
    let mut proof = Proof::default();
    for world in &all {
        let after = World::load(after.clone(), world.asking.clone()).map_err(|Unloadable(problems)| problems)?;
        let renamed = Renamed { theme_of: theme_of.clone(), ..Renamed::default() };
        prove(world, &after, &renamed, paths, &mut proof);
    }
    if !proof.problems.is_empty() {
        return Err(proof.problems);
    }
    let changed = proof.changed.iter().map(|change| &change.address);
    let other: Vec<&String> = changed.chain(&proof.differ).chain(&proof.shows_name).collect();
    let Some(first) = other.first() else { return Ok(proof) };
    let more = match other.len() {
        1 => String::new(),
        count => format!(" and {} more", count - 1),
    };
    let help = format!("see what takes part there: hausblatt resolve {}{}", word(first), in_theme(world));
    Err(vec![Diagnostic::of(&codes::NOT_THE_SAME, format!("{first}{more} would not be the same")).help(help)])
}
