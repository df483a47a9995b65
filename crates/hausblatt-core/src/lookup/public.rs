//! The files of a site that are sent as they are: media, assets, and the styles and scripts of components.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::files::{FileNode, MADE};
use crate::lookup::loads::{extends_itself, is_style_sheet};
use crate::text::codes;
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

/// Whether something is sent at a path, decoded: a file, or an image that is made of one.
pub fn is_sent(world: &World, path: &str) -> bool {
    file(world, path).is_some() || world.snapshot.made_images().find(path).is_some()
}

/// What is wrong where the site has a folder at the address of the images that are made.
pub(crate) fn taken_folder(world: &World) -> Option<Diagnostic> {
    let first = world.snapshot.below(MADE.trim_start_matches('/')).next()?;
    let message = "media/_made is where the images are that are made of others, so no file of the site can be there";
    let diagnostic = Diagnostic::of(&codes::BAD_NAME, message).help("give the folder another name");
    Some(diagnostic.at(&first.path, Span::default()))
}

/// The file of a theme that is sent at a path below `/assets/`, decoded.
pub(super) fn theme_file(world: &World, below: &str) -> Option<FileId> {
    let asset = world.asset(below).filter(|id| world.lineage.file(*id).role == Role::Asset);
    asset.or_else(|| world.component_asset(below)).or_else(|| covered_file(world, below))
}

/// Where below `/assets/` style sheets are sent that a nearer theme's extend.
const COVERED: &str = "_covered/";

/// The style sheet that is sent at a path such as `_covered/harbour/css/beds.css`.
fn covered_file(world: &World, below: &str) -> Option<FileId> {
    let (theme, path) = below.strip_prefix(COVERED)?.split_once('/')?;
    covered(world, path).into_iter().find(|&id| world.lineage.theme_of(id).name == theme)
}

/// The style sheets of farther themes that the nearest one at a path below `/assets/` extends: one that imports its own path
/// means the one that it covers. The nearest first.
fn covered(world: &World, path: &str) -> Vec<FileId> {
    let mut found = Vec::new();
    let mut files = world.lineage.not_hidden(&format!("assets/{path}"));
    let Some(mut last) = files.next().filter(|_| is_style_sheet(path)) else { return found };
    for next in files {
        if !extends_itself(world, &format!("/assets/{path}"), &world.lineage.file(last).node) {
            break;
        }
        found.push(next);
        last = next;
    }
    found
}

/// The path at which a covered style sheet is sent.
fn covered_path(world: &World, id: FileId) -> String {
    let name = &world.lineage.file(id).name;
    format!("/assets/{COVERED}{}/{}", world.lineage.theme_of(id).name, name.strip_prefix("assets/").unwrap_or(name))
}

/// The path to which the addresses in a file are relative: its own, or that of the file which extends it.
pub(crate) fn base_of(world: &World, path: &str) -> String {
    let below = path.strip_prefix("/assets/").filter(|below| covered_file(world, below).is_some());
    match below.and_then(|below| below.strip_prefix(COVERED)?.split_once('/')) {
        Some((_, rest)) => format!("/assets/{rest}"),
        None => path.to_owned(),
    }
}

/// The path of the style sheet that the one at a path covers and extends; none where no farther theme has one.
pub(super) fn extended_by(world: &World, path: &str) -> Option<String> {
    let base = base_of(world, path);
    let chain = covered(world, base.strip_prefix("/assets/")?);
    let own = chain.iter().position(|&id| covered_path(world, id) == path);
    chain.get(own.map_or(0, |at| at + 1)).map(|&id| covered_path(world, id))
}

/// The path at which a file of a theme is sent, decoded.
pub(crate) fn path_of(world: &World, id: FileId) -> Option<String> {
    let of_theme = world.lineage.file(id);
    let path = match of_theme.role {
        Role::Asset => format!("/{}", of_theme.name),
        _ if of_theme.name.starts_with("components/") => format!("/assets/{}", of_theme.name),
        _ => return None,
    };
    if file(world, &path).is_some_and(|sent| Arc::ptr_eq(sent, &of_theme.node)) {
        return Some(path);
    }
    let below = path.strip_prefix("/assets/").filter(|below| is_style_sheet(below))?;
    covered(world, below).contains(&id).then(|| covered_path(world, id))
}

/// Every public file with its path, decoded: media by path, then those of themes. The order is the same each time.
pub fn files(world: &World) -> Vec<(String, &Arc<FileNode>)> {
    let media = world.snapshot.below("media/").map(|node| (format!("/{}", node.path), node));
    let of_theme = world.lineage.ids().filter_map(|(id, of_theme)| Some((path_of(world, id)?, &of_theme.node)));
    media.chain(of_theme).collect()
}
