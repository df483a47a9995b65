//! Opening a site: its World, and all that is wrong with it when it is read.

use std::sync::Arc;

use crate::analysis::content_refs;
use crate::asking::SiteOptions;
use crate::files::Snapshot;
use crate::lookup::{offers, public};
use crate::themes::file_name::only_prints;
use crate::world::{EarlierWorld, Unloadable, World};

impl World {
    /// Makes the World of `snapshot`, looked at in this way.
    ///
    /// ```
    /// use hausblatt_core::SiteOptions;
    /// use hausblatt_core::files::Snapshot;
    /// use hausblatt_core::jiff::civil::date;
    /// use hausblatt_core::lookup::map::map;
    /// use hausblatt_core::world::World;
    ///
    /// let snapshot = Snapshot::in_memory([
    ///     ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"bare\"\n"),
    ///     ("content/pages/visit.md", "Come in."),
    ///     ("themes/bare/hausblatt-theme.toml", ""),
    ///     ("themes/bare/templates/fallback.html", "+{content.body}"),
    /// ]);
    /// let world = World::load(snapshot, SiteOptions::on(date(2026, 5, 1)))?;
    /// let addresses: Vec<String> = map(&world).into_iter().map(|entry| entry.address).collect();
    /// assert_eq!(addresses, ["/robots.txt", "/sitemap.xml", "/visit/", "/404.html"]);
    /// # Ok::<(), hausblatt_core::world::Unloadable>(())
    /// ```
    ///
    /// # Errors
    /// When `hausblatt.toml` or the lineage can't be read at all. All other problems are collected.
    pub fn load(snapshot: Snapshot, asking: SiteOptions) -> Result<Self, Unloadable> {
        Self::finished(Self::assemble(snapshot, asking, None)?)
    }

    /// The World of a later snapshot of the same folder, looked at in the same way. Where only the texts of templates,
    /// partials, layouts and components have changed, content is not read again; where content says something else that
    /// changes no address, term or parent, only its files are.
    ///
    /// # Errors
    /// As for [`World::load`].
    pub fn later(&self, snapshot: Snapshot) -> Result<Self, Unloadable> {
        let is_there = |path: &str| snapshot.file(path).is_some() && self.snapshot.file(path).is_some();
        let (edited, other): (Vec<Arc<str>>, Vec<_>) =
            snapshot.changed_since(&self.snapshot).into_iter().partition(|path| path.starts_with("content/"));
        let is_read = |path: &Arc<str>| !only_prints(path) || !is_there(path);
        let may_share = edited.iter().all(|path| is_there(path)) && !other.iter().any(is_read);
        let earlier = may_share.then_some(EarlierWorld { world: self, edited: &edited });
        Self::finished(Self::assemble(snapshot, self.asking.clone(), earlier)?)
    }

    fn finished(mut world: Self) -> Result<Self, Unloadable> {
        let found =
            [content_refs::of_front_matter(&world), content_refs::of_configuration(&world), offers::check(&world)];
        world.problems.extend(found.into_iter().flatten());
        world.problems.extend(public::taken_folder(&world));
        world.sort_problems();
        Ok(world)
    }
}
