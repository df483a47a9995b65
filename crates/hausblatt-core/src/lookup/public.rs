//! The files of a site that are sent as they are: media, assets, and the styles and scripts of components.

use std::sync::Arc;

use crate::files::FileNode;
use crate::themes::file_name::Role;
use crate::world::World;

/// The file at a path, decoded, which begins with `/`. Only what a build would copy is found.
pub fn file<'w>(world: &'w World, path: &str) -> Option<&'w Arc<FileNode>> {
    let path = path.strip_prefix('/')?;
    let Some(below) = path.strip_prefix("assets/") else {
        return path.starts_with("media/").then(|| world.snapshot.file(path))?;
    };
    let asset = world.asset(below).filter(|id| world.lineage.file(*id).role == Role::Asset);
    let id = asset.or_else(|| world.component_asset(below))?;
    Some(&world.lineage.file(id).node)
}

/// Every public file with its path, decoded: media by path, then those of themes. The order is the same each time.
pub fn files(world: &World) -> Vec<(String, &Arc<FileNode>)> {
    let media = world.snapshot.below("media/").map(|node| (format!("/{}", node.path), node));
    let of_theme = world.lineage.ids().filter_map(|(id, of_theme)| {
        let path = match of_theme.role {
            Role::Asset => format!("/{}", of_theme.name),
            _ if of_theme.name.starts_with("components/") => format!("/assets/{}", of_theme.name),
            _ => return None,
        };
        let sent = file(world, &path).is_some_and(|sent| Arc::ptr_eq(sent, &world.lineage.file(id).node));
        sent.then_some((path, &of_theme.node))
    });
    media.chain(of_theme).collect()
}
