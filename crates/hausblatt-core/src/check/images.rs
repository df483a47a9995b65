//! The sizes of the images that a page names.

use crate::check::view::View;
use crate::files::FileNode;
use crate::lookup::{loads, public};
use crate::text::address::asked;

/// The width and height in pixels of the image at an address of a page, if that is known.
pub(super) fn size(view: &View<'_>, address: &str) -> Option<(u32, u32)> {
    of(view, address, |node| node.pixels())
}

/// The same of an image that is made of pixels, and no drawing.
pub(super) fn pixels(view: &View<'_>, address: &str) -> Option<(u32, u32)> {
    of(view, address, |node| node.image().ok()?.map(|head| (head.width, head.height)))
}

fn of(view: &View<'_>, address: &str, read: impl Fn(&FileNode) -> Option<(u32, u32)>) -> Option<(u32, u32)> {
    let path = asked(&loads::loaded_path(view.world, &view.request.address, address)?).path;
    if let Some(made) = view.world.snapshot.made_images().find(&path) {
        return Some((made.recipe.width, made.recipe.height));
    }
    read(public::file(view.world, &path)?)
}
