//! What is looked in: a page or an entry, with its words.

use rustc_hash::FxHashMap;
use xxhash_rust::xxh3::{xxh3_64, xxh3_64_with_seed};

use crate::model::content::Content;
use crate::model::search::words::{each_word, is_long};
use crate::text::markdown;

/// The words of a page or an entry, in order, each with the number of the best place where it is, of
/// [`super::WEIGHTS`].
pub(crate) type EntryWords = Vec<(Box<str>, u8)>;

/// A page or an entry that may be found.
#[derive(Clone, Debug)]
pub(crate) struct Entry<'s> {
    /// The content.
    pub(crate) content: &'s Content,
    /// Its address.
    pub(crate) address: &'s str,
    /// A digest of all that its words come from.
    pub(crate) digest: u64,
}

/// Some content as what may be found; none where it has no address.
pub(crate) fn entry(content: &Content) -> Option<Entry<'_>> {
    let address = content.address.as_deref()?;
    // Its title may be that of its path, and all else is in its file.
    let path = xxh3_64(content.path().as_bytes());
    let digest = xxh3_64_with_seed(&content.node.digest().unwrap_or_default().to_le_bytes(), path);
    Some(Entry { content, address, digest })
}

impl Entry<'_> {
    /// Its summary, or how its text begins.
    pub(crate) fn summary(&self) -> String {
        self.content.summary_text()
    }

    /// Its words. What is too short to be looked for in texts is only taken from the title.
    pub(crate) fn words(&self) -> EntryWords {
        let mut places: FxHashMap<Box<str>, u8> = FxHashMap::default();
        let mut add = |text: &str, place: u8| {
            each_word(text, |word| {
                if place > 0 && !is_long(word) {
                    return;
                }
                match places.get_mut(word) {
                    Some(known) => *known = place.min(*known),
                    None => drop(places.insert(word.into(), place)),
                }
            });
        };
        add(&self.content.title, 0);
        add(&self.summary(), 1);
        add(&self.content.markdown(markdown::plain_text), 2);
        let mut all: EntryWords = places.into_iter().collect();
        all.sort_unstable();
        all
    }
}
