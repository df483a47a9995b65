//! Images among the site's media and the themes' assets, with their sizes.

use std::sync::Arc;

use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Value};

use crate::files::FileNode;
use crate::schema::fields::size;
use crate::text::names;
use crate::world::World;

/// An image as templates see it; it prints as its address.
struct Image<'w> {
    address: &'w str,
    alt: Option<&'w str>,
    /// Its file, if it is one of the site's.
    node: Option<&'w FileNode>,
}

impl Record for Image<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let pixels = |size: Option<u32>| size.map_or(Value::Nothing, |size| Value::Int(i64::from(size)));
        match symbol {
            names::ADDRESS | names::PATH => Value::Text(self.address),
            names::ALT => self.alt.map_or(Value::Nothing, Value::Text),
            names::WIDTH => pixels(self.node.and_then(|node| node.pixels(size)).map(|(width, _)| width)),
            names::HEIGHT => pixels(self.node.and_then(|node| node.pixels(size)).map(|(_, height)| height)),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::ADDRESS, names::PATH, names::ALT, names::WIDTH, names::HEIGHT]
    }

    fn as_text(&self) -> Option<&str> {
        Some(self.address)
    }
}

/// The image at an address below `/media/` or `/assets/`, or at such a path without its slash.
pub fn value<'a>(world: &'a World, path: &str, scratch: &Scratch<'a>) -> Option<Value<'a>> {
    let path = path.strip_prefix('/').unwrap_or(path);
    // A version comes in again when the page is published.
    let path = match path.split_once('?') {
        Some((file, query)) if query.split('&').any(|part| part.starts_with("v=")) => file,
        _ => path,
    };
    let node = Some(&**file(world, path)?);
    let address = scratch.text(&format!("/{path}"));
    Some(Value::Record(scratch.keep(Image { address, alt: None, node })))
}

/// The image at an address, whether it is one of the site's files or not.
pub(super) fn at<'a>(world: &'a World, address: &str, alt: Option<&'a str>, scratch: &Scratch<'a>) -> Value<'a> {
    let node = file(world, address.strip_prefix('/').unwrap_or(address)).map(|node| &**node);
    Value::Record(scratch.keep(Image { address: scratch.text(address), alt, node }))
}

fn file<'a>(world: &'a World, path: &str) -> Option<&'a Arc<FileNode>> {
    match path.strip_prefix("assets/") {
        Some(asset) => Some(&world.lineage.file(world.asset(asset)?).node),
        None if path.starts_with("media/") => world.snapshot.file(path),
        None => None,
    }
}
