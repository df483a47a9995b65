//! What a site would have, were it not for what is reported: collections, addresses, prepared names.

use rustc_hash::FxHashSet;

use crate::check::Finding;
use crate::check::named::quoted;
use crate::text::codes;
use crate::themes::file_name::Role;
use crate::world::World;

/// The collections that content is in and the site does not declare.
pub(super) fn lost_collections(found: &[Finding]) -> FxHashSet<String> {
    let of_content = found.iter().filter(|finding| finding.diagnostic.code == codes::MISPLACED_CONTENT.name);
    of_content.map(|finding| quoted(&finding.diagnostic.message).to_owned()).collect()
}

/// The last parts of addresses that content would have, were it not for something that is reported.
pub(super) fn lost_slugs<'w>(world: &'w World, found: &[Finding]) -> FxHashSet<&'w str> {
    let without = world.site.contents.iter().filter(|content| content.is_live() && content.address.is_none());
    let mut slugs: FxHashSet<&str> = without.map(|content| &*content.slug).collect();
    let misplaced = found.iter().filter(|finding| finding.diagnostic.code == codes::MISPLACED_CONTENT.name);
    for place in misplaced.filter_map(|finding| finding.diagnostic.place.as_ref()) {
        let Some(node) = world.snapshot.file(&place.path) else { continue };
        let stem = node.path.rsplit('/').next().and_then(|name| name.strip_suffix(".md")).unwrap_or("");
        let is_date = stem
            .get(..11)
            .is_some_and(|date| date.ends_with('-') && date.get(..4).is_some_and(|year| year.parse::<u16>().is_ok()));
        slugs.insert(if is_date { &stem[11..] } else { stem });
    }
    slugs
}

/// The names that prepare files would make, had they no error.
pub(super) fn lost_names(world: &World) -> FxHashSet<String> {
    let files = world.lineage.files.iter().filter(|file| file.role == Role::Prepare && file.hidden_by.is_none());
    let broken = files.filter(|file| world.problems_at(&file.node.path).next().is_some());
    let names = broken.filter_map(|file| file.node.text()).flat_map(|text| {
        text.lines().filter_map(|line| {
            let (before, _) = line.split_once('=')?;
            Some(before.split_whitespace().next_back()?.to_owned())
        })
    });
    names.collect()
}
