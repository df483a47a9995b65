//! All content of a site, by its numbers, in blocks that sites share: the site after an edit has blocks of its own only
//! where the edit is.

use std::ops::{Index, IndexMut};
use std::sync::Arc;

use crate::model::content::{Content, ContentId};

/// How much content is in a block: to change some of it, its block is copied.
const BLOCK: usize = 128;

/// All content of a site, in the order of its files.
#[derive(Clone, Debug, Default)]
pub struct Contents {
    /// All but the last are full.
    blocks: Vec<Arc<Vec<Content>>>,
}

impl Contents {
    /// How much there is.
    pub fn len(&self) -> usize {
        let last = self.blocks.last().map_or(0, |last| last.len());
        self.blocks.len().saturating_sub(1) * BLOCK + last
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.blocks.is_empty()
    }

    /// The content with a number; none where the numbers do not go so far.
    #[inline]
    pub fn get(&self, number: usize) -> Option<&Content> {
        self.blocks.get(number / BLOCK)?.get(number % BLOCK)
    }

    /// All of it.
    pub fn iter(&self) -> impl DoubleEndedIterator<Item = &Content> + Clone {
        self.blocks.iter().flat_map(|block| block.iter())
    }

    /// The number of the content whose file is at a path.
    pub(crate) fn at_path(&self, path: &str) -> Option<ContentId> {
        let begins = |block: &Arc<Vec<Content>>| block.first().is_some_and(|first| **first.path() <= *path);
        let block = self.blocks.get(self.blocks.partition_point(begins).checked_sub(1)?)?;
        let at = block.binary_search_by(|content| (**content.path()).cmp(path)).ok()?;
        block.get(at).map(|content| content.number)
    }

    /// Adds the content of the next file, and gives it its number.
    pub(super) fn add(&mut self, mut content: Content) -> &mut Content {
        let number = self.len();
        content.number = ContentId(u32::try_from(number).unwrap_or(u32::MAX));
        if number.is_multiple_of(BLOCK) {
            self.blocks.push(Arc::new(Vec::with_capacity(BLOCK)));
        }
        let at = self.blocks.len() - 1;
        let block = Arc::make_mut(&mut self.blocks[at]);
        block.push(content);
        &mut block[number % BLOCK]
    }
}

impl Index<usize> for Contents {
    type Output = Content;

    #[inline]
    fn index(&self, number: usize) -> &Content {
        &self.blocks[number / BLOCK][number % BLOCK]
    }
}

impl IndexMut<usize> for Contents {
    fn index_mut(&mut self, number: usize) -> &mut Content {
        &mut Arc::make_mut(&mut self.blocks[number / BLOCK])[number % BLOCK]
    }
}
