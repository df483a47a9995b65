//! Images among the site's media and the themes' assets, with their sizes, and what is made of them.

use std::sync::Arc;

use hausblatt_images::{ImageFormat, Recipe};
use hausblatt_lang::value::host::Fit;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Value};

use crate::files::{FileNode, MadeImage, whole_image};
use crate::text::names;
use crate::world::World;

/// An image as templates see it; it prints as its address.
struct Image<'w> {
    address: &'w str,
    alt: Option<&'w str>,
    size: Size<'w>,
}

/// How an image's size is known.
enum Size<'w> {
    /// It is made in this size.
    Made(u32, u32),
    /// This file says it; none of what is not one of the site's.
    Of(Option<&'w FileNode>),
}

impl Record for Image<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let size = || match self.size {
            Size::Made(width, height) => Some((width, height)),
            Size::Of(node) => node.and_then(FileNode::pixels),
        };
        let pixels = |size: Option<u32>| size.map_or(Value::Nothing, |size| Value::Int(i64::from(size)));
        match symbol {
            names::ADDRESS | names::PATH => Value::Text(self.address),
            names::ALT => self.alt.map_or(Value::Nothing, Value::Text),
            names::WIDTH => pixels(size().map(|(width, _)| width)),
            names::HEIGHT => pixels(size().map(|(_, height)| height)),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::ADDRESS, names::PATH, names::ALT, names::WIDTH, names::HEIGHT]
    }

    fn as_text(&self) -> Option<&str> {
        Some(self.address)
    }

    fn is_image(&self) -> bool {
        true
    }
}

/// An image in several widths, for a `srcset`.
struct InWidths<'w>(&'w [(&'w str, u32)]);

impl Record for InWidths<'_> {
    fn get<'a>(&'a self, _: Symbol, _: &Scratch<'a>) -> Value<'a> {
        Value::Nothing
    }

    fn keys(&self) -> Vec<Symbol> {
        Vec::new()
    }

    fn as_candidates(&self) -> Option<&[(&str, u32)]> {
        Some(self.0)
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
    Some(Value::Record(scratch.keep(Image { address, alt: None, size: Size::Of(node) })))
}

/// The image at an address, whether it is one of the site's files or not.
pub(super) fn at<'a>(world: &'a World, address: &str, alt: Option<&'a str>, scratch: &Scratch<'a>) -> Value<'a> {
    let node = file(world, address.strip_prefix('/').unwrap_or(address)).map(|node| &**node);
    Value::Record(scratch.keep(Image { address: scratch.text(address), alt, size: Size::Of(node) }))
}

/// An image as it is wanted.
///
/// # Errors
/// What is wrong with what is asked.
pub(super) fn fitted<'a>(
    world: &'a World,
    image: &'a dyn Record,
    fit: Fit<'_>,
    scratch: &Scratch<'a>,
) -> Result<Value<'a>, String> {
    let change: Box<dyn Fn(Recipe) -> Recipe> = match fit {
        Fit::Scaled(width) => Box::new(move |recipe| recipe.scaled(width)),
        Fit::Cropped(across, down) => Box::new(move |recipe| recipe.cropped(across, down)),
        Fit::As(format) => {
            let format = ImageFormat::of_extension(format).ok_or_else(|| {
                let all = ImageFormat::ALL.map(ImageFormat::extension).join(", ");
                format!("no image is made as \"{format}\"; it can be one of {all}")
            })?;
            Box::new(move |recipe| recipe.in_format(format))
        }
        Fit::Quality(quality) => {
            let quality = u8::try_from(quality).ok().filter(|quality| *quality <= 100);
            let quality = quality.ok_or("a quality is from 1 to 100")?;
            Box::new(move |recipe| recipe.with_quality(quality))
        }
    };
    let Some((source, recipe)) = made_of(world, image) else { return Ok(Value::Record(image)) };
    Ok(made(world, image, (&source, change(recipe)), scratch).unwrap_or(Value::Record(image)))
}

/// An image in these widths and in its own; nothing where it can't be made anew.
pub(super) fn srcset<'a>(world: &'a World, image: &'a dyn Record, widths: &[u32], scratch: &Scratch<'a>) -> Value<'a> {
    let in_widths = || {
        let (source, recipe) = made_of(world, image)?;
        let mut all = Vec::new();
        for made in world.snapshot.made_images().in_widths(&source, recipe, widths)? {
            all.push((scratch.text(&made.path), made.recipe.width));
        }
        all.push((scratch.text(image.as_text()?), recipe.width));
        Some(Value::Record(scratch.keep(InWidths(scratch.keep_all(&all)))))
    };
    in_widths().unwrap_or(Value::Nothing)
}

/// The file that an image is made of, and what is wanted of it by now; none where it can't be made anew.
fn made_of(world: &World, image: &dyn Record) -> Option<(Arc<FileNode>, Recipe)> {
    let address = image.as_text()?;
    if let Some(made) = world.snapshot.made_images().find(address) {
        return Some((made.source.clone(), made.recipe));
    }
    let source = file(world, address.strip_prefix('/')?)?;
    Some((source.clone(), whole_image(source)?))
}

/// The value of an image that is made of a file.
fn made<'a>(
    world: &'a World,
    image: &'a dyn Record,
    (source, recipe): (&Arc<FileNode>, Recipe),
    scratch: &Scratch<'a>,
) -> Option<Value<'a>> {
    if recipe.is_whole {
        return Some(Value::Record(image));
    }
    let made: Arc<MadeImage> = world.snapshot.made_images().ask(source, recipe)?;
    let alt = image.get(names::ALT, scratch).as_text();
    let size = Size::Made(recipe.width, recipe.height);
    Some(Value::Record(scratch.keep(Image { address: scratch.text(&made.path), alt, size })))
}

fn file<'a>(world: &'a World, path: &str) -> Option<&'a Arc<FileNode>> {
    match path.strip_prefix("assets/") {
        Some(asset) => Some(&world.lineage.file(world.asset(asset)?).node),
        None if path.starts_with("media/") => world.snapshot.file(path),
        None => None,
    }
}
