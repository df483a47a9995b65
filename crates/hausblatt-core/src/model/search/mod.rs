//! Search: words of title, summary and text, folded for case and accents, ranked.

mod entries;
mod index;
mod kept;
mod lists;
mod numbers;
mod published;
mod words;

pub(crate) use entries::{Entry, entry};
pub use index::Index;
pub(crate) use kept::KeptWords;
pub(crate) use numbers::numbers;
pub(crate) use published::{SearchContent, SearchLists, files};
pub(crate) use words::{asked, is_long};

/// The script that answers in the browser: it ranks as [`Index::find`] does.
pub const SCRIPT: &str = include_str!("search.js");

/// Where a word is, with what it counts for there: the best place counts.
pub(crate) const WEIGHTS: [u32; 3] = [12, 4, 1];
