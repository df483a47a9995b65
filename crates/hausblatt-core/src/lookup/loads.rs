//! What style sheets and scripts load, and where that leads.

use std::sync::Arc;

use hausblatt_lang::text::source::Span;

use crate::files::FileNode;
use crate::lookup::public::{base_of, extended_by, files, path_of, theme_file};
use crate::text::address::{asked, encoded, joined_address, within_site};
use crate::text::scripts::Import;
use crate::themes::lineage::FileId;
use crate::world::World;

/// An address that a file loads.
#[derive(Clone, Copy, Debug)]
pub struct FileLoad<'n> {
    /// The address, without escapes.
    pub address: &'n str,
    /// Where it is written.
    pub span: Span,
    /// Whether it is a style sheet that another one takes up.
    pub is_import: bool,
}

/// Every style sheet with its path, as in [`files`].
pub fn style_sheets(world: &World) -> impl Iterator<Item = (String, &Arc<FileNode>)> {
    files(world).into_iter().filter(|(path, _)| is_style_sheet(path))
}

pub(crate) fn is_style_sheet(path: &str) -> bool {
    path.ends_with(".css")
}

/// Every script with its path, as in [`files`].
pub fn scripts(world: &World) -> impl Iterator<Item = (String, &Arc<FileNode>)> {
    files(world).into_iter().filter(|(path, _)| is_script(path))
}

pub(crate) fn is_script(path: &str) -> bool {
    path.ends_with(".js") || path.ends_with(".mjs")
}

/// What a style sheet or a script at a path loads, in its order.
pub fn loads<'n>(path: &str, node: &'n FileNode) -> Vec<FileLoad<'n>> {
    if is_style_sheet(path) {
        let loads = node.styles().loads.iter();
        return loads
            .map(|load| FileLoad { address: &load.address, span: load.span, is_import: load.is_import })
            .collect();
    }
    if !is_script(path) {
        return Vec::new();
    }
    let imports = node.imports().iter();
    let load =
        |import: &'n Import| Some(FileLoad { address: import.as_address()?, span: import.span, is_import: false });
    imports.filter_map(load).collect()
}

/// The path, encoded and with what comes after `?`, to which an address on a page or in a file at `base` leads; none for what
/// is not on this site or in the file itself.
pub fn loaded_path(world: &World, base: &str, address: &str) -> Option<String> {
    let text = within_site(&world.site.config.address, address)?.split('#').next()?;
    let (path, query) = text.split_at(text.find('?').unwrap_or(text.len()));
    // Without a path it is the file itself.
    if path.is_empty() {
        return None;
    }
    Some(joined_address(&encoded(base), path)? + query)
}

/// Where what the file at a path loads leads, likewise. A style sheet that imports its own path means the one that it covers.
pub fn led_to(world: &World, path: &str, load: FileLoad<'_>) -> Option<String> {
    let base = base_of(world, path);
    let to = loaded_path(world, &base, load.address)?;
    let extends = load.is_import && asked(&to).path == base;
    extends.then(|| extended_by(world, path)).flatten().map(|path| encoded(&path)).or(Some(to))
}

/// Whether a style sheet at a path imports that path.
pub(super) fn extends_itself(world: &World, path: &str, node: &FileNode) -> bool {
    let mut imports = node.styles().loads.iter().filter(|load| load.is_import);
    imports.any(|load| loaded_path(world, path, &load.address).is_some_and(|to| asked(&to).path == path))
}

/// The paths, decoded, that the file at a path loads, if it is a style sheet or a script.
pub(crate) fn loaded<'w>(world: &'w World, path: &str, node: &'w FileNode) -> impl Iterator<Item = String> + use<'w> {
    let base = path.to_owned();
    loads(path, node).into_iter().filter_map(move |load| Some(asked(&led_to(world, &base, load)?).path))
}

/// The files of themes that a file of a theme loads, if it is a style sheet or a script that is sent.
pub fn loaded_files(world: &World, id: FileId) -> Vec<FileId> {
    let is_code = |path: &String| is_style_sheet(path) || is_script(path);
    let Some(path) = path_of(world, id).filter(is_code) else { return Vec::new() };
    let node = &world.lineage.file(id).node;
    loaded(world, &path, node).filter_map(|path| theme_file(world, path.strip_prefix("/assets/")?)).collect()
}
