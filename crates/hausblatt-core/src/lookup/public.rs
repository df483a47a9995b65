//! The files of a site that are sent as they are: media, assets, and the styles and scripts of components.

use std::sync::Arc;

use hausblatt_lang::text::source::Span;

use crate::files::FileNode;
use crate::text::address::{asked, encoded, joined_address, within_site};
use crate::text::scripts::may_import;
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::world::World;

/// The file at a path, decoded, which begins with `/`. Only what a build would copy is found.
pub fn file<'w>(world: &'w World, path: &str) -> Option<&'w Arc<FileNode>> {
    let path = path.strip_prefix('/')?;
    let Some(below) = path.strip_prefix("assets/") else {
        return path.starts_with("media/").then(|| world.snapshot.file(path))?;
    };
    Some(&world.lineage.file(theme_file(world, below)?).node)
}

/// The file of a theme that is sent at a path below `/assets/`, decoded.
fn theme_file(world: &World, below: &str) -> Option<FileId> {
    let asset = world.asset(below).filter(|id| world.lineage.file(*id).role == Role::Asset);
    asset.or_else(|| world.component_asset(below))
}

/// Every style sheet with its path, as in [`files`].
pub fn style_sheets(world: &World) -> impl Iterator<Item = (String, &Arc<FileNode>)> {
    files(world).into_iter().filter(|(path, _)| is_style_sheet(path))
}

fn is_style_sheet(path: &str) -> bool {
    path.ends_with(".css")
}

/// Every script with its path, as in [`files`].
pub fn scripts(world: &World) -> impl Iterator<Item = (String, &Arc<FileNode>)> {
    files(world).into_iter().filter(|(path, _)| is_script(path))
}

pub(crate) fn is_script(path: &str) -> bool {
    path.ends_with(".js") || path.ends_with(".mjs")
}

/// The addresses that a style sheet or a script at a path loads, and where each is written, with its quotes.
pub fn loads<'n>(path: &str, node: &'n FileNode) -> Vec<(&'n str, Span)> {
    if is_style_sheet(path) {
        return node.styles().loads.iter().map(|load| (&*load.address, load.span)).collect();
    }
    if !is_script(path) || !node.whole_text().is_ok_and(|text| may_import(&text)) {
        return Vec::new();
    }
    node.scripts().imports.iter().filter_map(|import| Some((import.as_address()?, import.span))).collect()
}

/// The path, encoded and with what comes after `?`, that a file at `base` loads; none for what is not on this site or in the
/// file itself.
pub fn loaded_path(world: &World, base: &str, address: &str) -> Option<String> {
    let text = within_site(&world.site.config.address, address)?.split('#').next()?;
    let (path, query) = text.split_at(text.find('?').unwrap_or(text.len()));
    // Without a path it is the file itself.
    if path.is_empty() {
        return None;
    }
    Some(joined_address(&encoded(base), path)? + query)
}

/// The paths, decoded, that the file at a path loads, if it is a style sheet or a script.
pub(crate) fn loaded<'w>(world: &'w World, path: &str, node: &'w FileNode) -> impl Iterator<Item = String> + use<'w> {
    let base = path.to_owned();
    let loads = loads(path, node).into_iter();
    loads.filter_map(move |(address, _)| Some(asked(&loaded_path(world, &base, address)?).path))
}

/// The files of themes that a file of a theme loads, if it is a style sheet or a script that is sent.
pub fn loaded_files(world: &World, id: FileId) -> Vec<FileId> {
    let of_theme = world.lineage.file(id);
    let base = match of_theme.role {
        Role::Asset => format!("/{}", of_theme.name),
        _ => format!("/assets/{}", of_theme.name),
    };
    if !(is_style_sheet(&base) || is_script(&base))
        || file(world, &base).is_none_or(|sent| !Arc::ptr_eq(sent, &of_theme.node))
    {
        return Vec::new();
    }
    loaded(world, &base, &of_theme.node).filter_map(|path| theme_file(world, path.strip_prefix("/assets/")?)).collect()
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
