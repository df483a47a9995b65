//! What the server looks in.

use std::collections::BTreeMap;
use std::ops::Bound;

use rayon::prelude::*;
use rustc_hash::FxHashMap;

use crate::model::content::ContentId;
use crate::model::search::{WEIGHTS, asked, entry, is_long, numbers};
use crate::model::site::Site;
use crate::threads::PAGES;

/// What can be found.
#[derive(Debug, Default)]
pub struct Index {
    /// For each word: in which content it is, by its place here, and where in it.
    words: BTreeMap<Box<str>, Vec<(u32, u8)>>,
    contents: Vec<ContentId>,
    /// Their numbers in what is published, which say who comes first of those that count as much.
    numbers: Vec<u32>,
}

impl Index {
    /// The index of some of a site's content.
    pub fn new(site: &Site, contents: Vec<ContentId>) -> Self {
        let words: Vec<_> = contents
            .par_iter()
            .with_max_len(PAGES)
            .map(|&id| entry(site.content(id)).map(|entry| entry.words()).unwrap_or_default())
            .collect();
        let mut places: BTreeMap<Box<str>, Vec<(u32, u8)>> = BTreeMap::new();
        for (at, words) in (0u32..).zip(words) {
            for (word, place) in words {
                places.entry(word).or_default().push((at, place));
            }
        }
        let address = |id: &ContentId| site.content(*id).address.as_deref().unwrap_or("");
        let numbers = numbers(contents.iter().map(address));
        Self { words: places, contents, numbers }
    }

    /// What holds all words of `query`, best first. A word is also found by how it begins, which counts half; one that is
    /// short only in titles.
    pub fn find(&self, query: &str) -> Vec<ContentId> {
        let mut totals: Option<FxHashMap<u32, u32>> = None;
        for word in asked(query) {
            let places = if is_long(&word) { 0..3 } else { 0..1 };
            let mut counts: FxHashMap<u32, u32> = FxHashMap::default();
            let begun = self
                .words
                .range::<str, _>((Bound::Included(&*word), Bound::Unbounded))
                .take_while(|(other, _)| other.starts_with(&*word));
            for (other, found) in begun {
                let whole = **other == *word;
                for (content, place) in found.iter().filter(|(_, place)| places.contains(place)) {
                    let count = WEIGHTS[usize::from(*place)];
                    let count = if whole { count * 2 } else { count };
                    let best = counts.entry(*content).or_default();
                    *best = (*best).max(count);
                }
            }
            totals = Some(match totals {
                None => counts,
                Some(totals) => totals
                    .into_iter()
                    .filter_map(|(content, total)| Some((content, total + counts.get(&content)?)))
                    .collect(),
            });
        }
        let mut found: Vec<(u32, u32)> = totals.unwrap_or_default().into_iter().collect();
        found.sort_by_key(|&(at, total)| (std::cmp::Reverse(total), self.numbers[at as usize]));
        found.into_iter().map(|(at, _)| self.contents[at as usize]).collect()
    }
}
