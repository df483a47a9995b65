//! Searching the site, and what a built search looks in.

use std::borrow::Cow;

use rayon::prelude::*;
use xxhash_rust::xxh3::Xxh3;

use crate::model::content::ContentId;
use crate::model::search::{self, Entry, Index};
use crate::text::scripts;
use crate::threads::PAGES;
use crate::world::World;

impl World {
    /// What a search finds, best first.
    pub fn found(&self, query: &str) -> Vec<ContentId> {
        if query.trim().is_empty() {
            return Vec::new();
        }
        let index = self.search.get_or_init(|| Index::new(&self.site, searchable(self).collect()));
        index.find(query)
    }
}

/// The script that searches in the browser.
pub(crate) fn script(world: &World) -> Cow<'static, str> {
    let small = world.site.config.build.small_scripts.then(|| scripts::small(search::SCRIPT).ok()).flatten();
    small.map_or(Cow::Borrowed(search::SCRIPT), Cow::Owned)
}

/// A digest of the script and of all that it looks in, or of what that is made of.
pub(crate) fn version(world: &World) -> u64 {
    *world.search_version.get_or_init(|| {
        let mut all = Xxh3::new();
        all.update(script(world).as_bytes());
        for entry in entries(world) {
            all.update(&(entry.address.len() as u64).to_le_bytes());
            all.update(entry.address.as_bytes());
            all.update(&entry.digest.to_le_bytes());
        }
        all.digest()
    })
}

/// What a built search may find.
pub(crate) fn entries(world: &World) -> Vec<Entry<'_>> {
    let all: Vec<ContentId> = searchable(world).collect();
    all.into_par_iter().with_max_len(PAGES).filter_map(|id| search::entry(world.site.content(id))).collect()
}

/// The content that a search may find: what visitors get a page of, is in lists, and is not kept from search engines.
fn searchable(world: &World) -> impl Iterator<Item = ContentId> {
    let hidden = |robots: &Option<Box<str>>| robots.as_deref().is_some_and(|robots| robots.contains("noindex"));
    let is_page = |address: &Option<Box<str>>| address.as_deref().is_some_and(|address| world.is_page(address));
    world
        .site
        .ids()
        .filter(move |(_, content)| content.in_lists && !hidden(&content.robots) && is_page(&content.address))
        .map(|(id, _)| id)
}
