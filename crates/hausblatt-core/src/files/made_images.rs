//! The images that pages name: of which file each is made, how, and at which address.

use std::collections::BTreeMap;
use std::path::Path;
use std::sync::{Arc, RwLock};

use hausblatt_images::{Recipe, make};
use rustc_hash::FxHashMap;
use xxhash_rust::xxh3::{Xxh3, xxh3_64};

use crate::files::{FileNode, Snapshot};

/// Where made images are, as their addresses say it.
pub const MADE: &str = "/media/_made/";
/// Changes with the way in which images are made, so that none that was made in another way is taken for it.
const WAY: u64 = 1;

/// An image that is made of a file of the site.
#[derive(Debug)]
pub struct MadeImage {
    /// The file.
    pub source: Arc<FileNode>,
    /// How it is made of that.
    pub recipe: Recipe,
    /// Its path, which begins with `/`. It is another one for other bytes of the file, and for another recipe.
    pub path: Box<str>,
    digest: u64,
}

/// The name of the file that keeps the image with this path.
pub(super) fn kept_as(path: &str) -> &str {
    path.strip_prefix(MADE).and_then(|rest| rest.split('/').next()).unwrap_or("")
}

impl MadeImage {
    /// The name of the file that keeps it.
    pub fn kept_as(&self) -> &str {
        kept_as(&self.path)
    }

    /// Whether the file that it is made of is still the same.
    pub fn is_current(&self, snapshot: &Snapshot) -> bool {
        let now = snapshot.file(&self.source.path);
        now.is_some_and(|now| Arc::ptr_eq(now, &self.source) || now.digest() == Some(self.digest))
    }

    /// These images, each once, by the file that they are made of.
    pub fn by_source<'i>(images: impl Iterator<Item = &'i Arc<MadeImage>>) -> Vec<Vec<Arc<MadeImage>>> {
        let mut groups: BTreeMap<&str, BTreeMap<&str, &Arc<MadeImage>>> = BTreeMap::new();
        for image in images {
            groups.entry(&image.source.path).or_default().insert(&image.path, image);
        }
        groups.into_values().map(|group| group.into_values().cloned().collect()).collect()
    }

    /// Makes these images of one file, all of the same one.
    ///
    /// # Errors
    /// What is wrong with the file, or why an image can't be made of it.
    pub fn make_all(images: &[&MadeImage]) -> Result<Vec<Vec<u8>>, String> {
        let Some(first) = images.first() else { return Ok(Vec::new()) };
        let bytes = first.source.bytes().map_err(|error| error.to_string())?;
        if xxh3_64(&bytes) != first.digest {
            return Err("it has changed since it was read".to_owned());
        }
        let head = first.source.image()?.ok_or("it is in no format that is known")?;
        let recipes: Vec<Recipe> = images.iter().map(|image| image.recipe).collect();
        make(&bytes, &head, &recipes)
    }
}

/// All that were named since the site was read for the first time, by path. A page that is still open may ask for one
/// that no page of the site as it is now has.
#[derive(Debug, Default)]
pub struct MadeImages(RwLock<FxHashMap<Box<str>, Arc<MadeImage>>>);

impl MadeImages {
    /// The one at a path that begins with `/`.
    pub fn find(&self, path: &str) -> Option<Arc<MadeImage>> {
        path.strip_prefix(MADE)?;
        self.0.read().ok()?.get(path).cloned()
    }

    /// The image that is made of a file in this way; none where the file can't be read.
    pub fn ask(&self, source: &Arc<FileNode>, recipe: Recipe) -> Option<Arc<MadeImage>> {
        let digest = source.digest()?;
        let path = path_of(source, digest, &recipe);
        if let Some(known) = self.find(&path) {
            return Some(known);
        }
        let image = Arc::new(MadeImage { source: source.clone(), recipe, path: path.into(), digest });
        self.0.write().ok()?.insert(image.path.clone(), image.clone());
        Some(image)
    }
}

impl MadeImages {
    /// An image in these widths, as far as they are narrower than it is; the narrowest first.
    pub fn in_widths(&self, source: &Arc<FileNode>, recipe: Recipe, widths: &[u32]) -> Option<Vec<Arc<MadeImage>>> {
        let mut widths: Vec<u32> = widths.iter().copied().filter(|width| *width < recipe.width).collect();
        widths.sort_unstable();
        widths.dedup();
        widths.into_iter().map(|width| self.ask(source, recipe.scaled(width))).collect()
    }
}

/// What leaves the image in a file as it is; none where it can't be made anew.
pub fn whole_image(source: &FileNode) -> Option<Recipe> {
    Recipe::whole(&source.image().ok()??)
}

fn path_of(source: &FileNode, digest: u64, recipe: &Recipe) -> String {
    let mut all = Xxh3::new();
    let (left, top, width, height) = recipe.part;
    all.update(&WAY.to_le_bytes());
    all.update(&digest.to_le_bytes());
    for number in [left, top, width, height, recipe.width, recipe.height] {
        all.update(&number.to_le_bytes());
    }
    all.update(recipe.format.extension().as_bytes());
    all.update(&[recipe.quality]);
    let name = Path::new(&*source.path).file_stem().and_then(|name| name.to_str()).unwrap_or("");
    let plain: String =
        name.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' }).collect();
    let name: Vec<&str> = plain.split('-').filter(|part| !part.is_empty()).collect();
    let name = if name.is_empty() { "image".to_owned() } else { name.join("-") };
    let digest = all.digest() & 0xffff_ffff_ffff;
    format!("{MADE}{digest:012x}/{name}-{}.{}", recipe.width, recipe.format.extension())
}

/// The paths of made images that a text names, wherever in it.
pub fn made_in(text: &str) -> impl Iterator<Item = &str> {
    let fits = |byte: u8| byte.is_ascii_lowercase() || byte.is_ascii_digit() || matches!(byte, b'-' | b'.' | b'/');
    memchr::memmem::find_iter(text.as_bytes(), MADE).map(move |at| {
        let rest = &text[at..];
        let end = rest.bytes().skip(MADE.len()).position(|byte| !fits(byte));
        end.map_or(rest, |end| &rest[..MADE.len() + end])
    })
}

#[cfg(test)]
mod tests {
    use super::made_in;

    #[test]
    fn finds_them_in_any_text() {
        let text = "<img srcset=\"/media/_made/0123456789ab/a-b-360.webp 360w, /media/_made/0/a-1.jpg\">&quot;\
                    https://seeds.example/media/_made/1/x-2.png&quot;";
        let found: Vec<&str> = made_in(text).collect();
        assert_eq!(
            found,
            ["/media/_made/0123456789ab/a-b-360.webp", "/media/_made/0/a-1.jpg", "/media/_made/1/x-2.png"]
        );
    }
}
