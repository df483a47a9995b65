//! Opening a site: its World, and all that is wrong with it when it is read.

use crate::analysis::content_refs;
use crate::asking::SiteOptions;
use crate::files::Snapshot;
use crate::lookup::offers;
use crate::world::{Unloadable, World};

impl World {
    /// Makes the World of `snapshot` as it is asked for.
    ///
    /// # Errors
    /// When `hausblatt.toml` or the lineage can't be read at all. All other problems are collected.
    pub fn load(snapshot: Snapshot, asking: SiteOptions) -> Result<Self, Unloadable> {
        let mut world = Self::assemble(snapshot, asking)?;
        let found =
            [content_refs::of_front_matter(&world), content_refs::of_configuration(&world), offers::check(&world)];
        world.problems.extend(found.into_iter().flatten());
        world.sort_problems();
        Ok(world)
    }
}
