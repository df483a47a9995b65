//! Searching the site, and what a built search looks in.

use std::borrow::Cow;

use crate::model::content::ContentId;
use crate::model::search::{self, Index};
use crate::text::scripts;
use crate::world::World;

impl World {
    /// What a search finds, best first.
    pub fn found(&self, query: &str) -> Vec<ContentId> {
        if query.trim().is_empty() {
            return Vec::new();
        }
        let index = self.search.get_or_init(|| Index::new(&self.site, searchable(self).collect()));
        index.find(&self.site, query)
    }
}

/// The script that searches in the browser.
pub(crate) fn script(world: &World) -> Cow<'static, str> {
    let small = world.site.config.build.small_scripts.then(|| scripts::small(search::SCRIPT).ok()).flatten();
    small.map_or(Cow::Borrowed(search::SCRIPT), Cow::Owned)
}

/// What a built search page looks in, as JSON.
pub(crate) fn for_browsers(world: &World) -> serde_json::Result<&str> {
    if let Some(known) = world.search_text.get() {
        return Ok(known);
    }
    let made = search::for_browsers(&world.site, &searchable(world).collect::<Vec<_>>())?;
    Ok(world.search_text.get_or_init(|| made))
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
