//! The bytes of made images: made when they are first needed, and kept in a folder of the site, by a digest of the file and
//! of what was asked, so that none there can be out of date.

use std::any::Any;
use std::io::Cursor;
use std::path::PathBuf;
use std::sync::{Arc, Condvar, Mutex, Once};

use hausblatt_images::{ImageFormat, ImageKind, cost, read_head};
use rustc_hash::FxHashSet;

use crate::files::edit::{process_of, replace, sweep};
use crate::files::made_images::kept_as;
use crate::files::{Links, MADE, MadeImage, Snapshot};

/// The folder that keeps made images, in that of the site. It may be removed at any time.
pub const KEPT_IMAGES: &str = ".hausblatt-images";
/// The file in it that a running server holds.
const LOCK: &str = ".in-use";
/// About how many bytes may be taken by images that are being made.
const MOST_BYTES: u64 = 400 << 20;

/// The kept images of a site.
pub struct KeptImages<'s> {
    snapshot: &'s Snapshot,
    /// Where they are; nowhere if that can't be known.
    folder: Option<PathBuf>,
    /// Done when what an interrupted process has left there is removed.
    swept: Once,
}

impl<'s> KeptImages<'s> {
    /// Those of a site.
    pub fn of(snapshot: &'s Snapshot) -> Self {
        let root = snapshot.file_system().real_path(snapshot.root()).ok();
        Self { snapshot, folder: root.map(|root| root.join(KEPT_IMAGES)), swept: Once::new() }
    }

    /// The bytes of these images, all of one file: kept ones are read, the others are made and, where that can be done,
    /// kept.
    ///
    /// # Errors
    /// What is wrong with the file, or why an image can't be made of it.
    pub fn bytes(&self, images: &[Arc<MadeImage>]) -> Result<Vec<Vec<u8>>, String> {
        let mut found: Vec<Option<Vec<u8>>> = images.iter().map(|image| self.kept(image)).collect();
        let missing: Vec<&MadeImage> =
            images.iter().zip(&found).filter(|(_, kept)| kept.is_none()).map(|(image, _)| &**image).collect();
        if !missing.is_empty() {
            let head = missing[0].source.image()?;
            let _turn = Turn::wait(head.map_or(0, |head| cost(&head)).saturating_add(missing[0].source.stamp.length));
            let mut made = MadeImage::make_all(&missing)?.into_iter();
            for (image, found) in images.iter().zip(&mut found).filter(|(_, found)| found.is_none()) {
                *found = made.next();
                if let Some(bytes) = found {
                    self.keep(image, bytes);
                }
            }
        }
        Ok(found.into_iter().flatten().collect())
    }

    /// The image that is kept for a path, whoever requested it, with its format.
    pub fn at(&self, path: &str) -> Option<(Vec<u8>, ImageFormat)> {
        let (digest, name) = path.strip_prefix(MADE)?.split_once('/')?;
        let format = ImageFormat::of_extension(name.rsplit_once('.')?.1)?;
        if !is_kept_name(digest) {
            return None;
        }
        let bytes = self.snapshot.file_system().read_own(&self.folder.as_ref()?.join(digest)).ok()?;
        let head = read_head(Cursor::new(&bytes)).ok()??;
        (head.kind == ImageKind::Pixels(format) && !head.is_cut).then_some((bytes, format))
    }

    /// The bytes of an image that is kept, whole as it was made.
    fn kept(&self, image: &MadeImage) -> Option<Vec<u8>> {
        let bytes = self.snapshot.file_system().read_own(&self.folder.as_ref()?.join(image.kept_as())).ok()?;
        let head = read_head(Cursor::new(&bytes)).ok()??;
        let recipe = &image.recipe;
        let is_it =
            head.kind == ImageKind::Pixels(recipe.format) && (head.width, head.height) == (recipe.width, recipe.height);
        (is_it && !head.is_cut).then_some(bytes)
    }

    /// Keeps an image, if the folder can be written.
    fn keep(&self, image: &MadeImage, bytes: &[u8]) {
        let files = &**self.snapshot.file_system();
        let Some(folder) = &self.folder else { return };
        if !files.is_there(folder, Links::Keep).unwrap_or(true) {
            let _ = files.create_folder(folder);
        }
        self.swept.call_once(|| sweep(files, folder));
        let _ = replace(files, &folder.join(image.kept_as()), bytes);
    }

    /// Says that these images are in use, until what is returned is dropped; none where there are none, or where somebody
    /// says so already.
    pub fn hold(&self) -> Option<Box<dyn Any + Send>> {
        let folder = self.folder.as_ref()?;
        let files = self.snapshot.file_system();
        files.is_there(folder, Links::Keep).is_ok_and(|is_there| is_there).then_some(())?;
        files.lock(&folder.join(LOCK)).ok()?
    }

    /// Removes the images that have none of these paths, unless somebody uses them.
    pub fn remove_others<'p>(&self, used: impl Iterator<Item = &'p str>) {
        let Some(folder) = &self.folder else { return };
        let Some(_held) = self.hold() else { return };
        let files = &**self.snapshot.file_system();
        let used: FxHashSet<&str> = used.map(kept_as).collect();
        for entry in files.list(folder).into_iter().flatten() {
            let Some(name) = entry.name.to_str() else { continue };
            let is_left = process_of(name).is_some_and(|process| files.has_ended(process));
            if is_left || (is_kept_name(name) && !used.contains(name)) {
                let _ = files.remove_file(&folder.join(name));
            }
        }
    }
}

/// Whether a kept image may be called so.
fn is_kept_name(name: &str) -> bool {
    name.len() == 12 && name.bytes().all(|byte| byte.is_ascii_hexdigit())
}

static TAKEN: Mutex<u64> = Mutex::new(0);
static FREED: Condvar = Condvar::new();

/// The right to take so much memory.
struct Turn(u64);

impl Turn {
    /// Waits until there is room for so many bytes, or nobody else has a turn.
    fn wait(bytes: u64) -> Self {
        let taken = TAKEN.lock().unwrap_or_else(|poisoned| poisoned.into_inner());
        let is_full = |taken: &mut u64| *taken > 0 && taken.saturating_add(bytes) > MOST_BYTES;
        let mut taken = FREED.wait_while(taken, is_full).unwrap_or_else(|poisoned| poisoned.into_inner());
        *taken = taken.saturating_add(bytes);
        Self(bytes)
    }
}

impl Drop for Turn {
    fn drop(&mut self) {
        let mut taken = TAKEN.lock().unwrap_or_else(|poisoned| poisoned.into_inner());
        *taken = taken.saturating_sub(self.0);
        FREED.notify_all();
    }
}
