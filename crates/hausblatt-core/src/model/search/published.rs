//! What a built search looks in: words in parts by how they begin, what is found in blocks, and a list of the parts. A page
//! of results loads a part for each word and a few blocks, at any size of the site.
//!
//! A part holds all words that begin as its name says, unless that would be too much. Then it holds the word that it is
//! called by, and in `all` what begins so and counts more than that word, and there is a part for each next letter.

use std::borrow::Cow;
use std::collections::BTreeMap;
use std::fmt::Write;

use hausblatt_lang::value::members::first_words;
use rayon::prelude::*;
use serde::Serialize;
use xxhash_rust::xxh3::{Xxh3, xxh3_64};

use crate::model::search::{Entry, KeptWords, WEIGHTS, is_long, numbers};

/// The most bytes of a part that could be divided.
const MOST: usize = 48 << 10;
/// The most characters of a part's name: with those of other alphabets by their numbers, it is the name of a file all the same.
const LONGEST: usize = 24;
/// How many numbers a block of results is for. The first twenty results may be in as many blocks: a few neighbours of each
/// are loaded, too.
const BLOCK: u32 = 16;
/// How many words of a summary are shown.
const SUMMARY: usize = 40;
/// The digits of numbers in lists: five bits each, and whether more follow.
const DIGITS: &[u8; 64] = b"0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz-_";

/// A file of the index.
#[derive(Debug)]
pub(crate) struct SearchFile {
    /// Its path, from the search's address.
    pub(crate) path: String,
    /// What it holds.
    pub(crate) content: SearchContent,
}

/// What a file of the index holds.
#[derive(Debug)]
pub(crate) enum SearchContent {
    /// This text.
    Text(String),
    /// What is shown of these entries, by their numbers, with their places; made when it is needed, since summaries are found
    /// in texts.
    Block(Vec<(u32, usize)>),
}

impl SearchContent {
    /// A digest of what a block is made of; none for a text.
    pub(crate) fn key(&self, entries: &[Entry<'_>]) -> Option<u64> {
        let SearchContent::Block(block) = self else { return None };
        let mut all = Xxh3::new();
        for &(number, at) in block {
            let entry = entries.get(at)?;
            all.update(&number.to_le_bytes());
            all.update(&entry.digest.to_le_bytes());
            all.update(&xxh3_64(entry.address.as_bytes()).to_le_bytes());
        }
        Some(all.digest())
    }

    /// The text.
    ///
    /// # Errors
    /// When it can't be written as JSON.
    pub(crate) fn text(&self, entries: &[Entry<'_>]) -> serde_json::Result<Cow<'_, str>> {
        match self {
            SearchContent::Text(text) => Ok(text.into()),
            SearchContent::Block(block) => {
                let entries = block.iter().filter_map(|&(number, at)| Some((number, entries.get(at)?)));
                let shown = entries.map(|(number, entry)| {
                    (number % BLOCK, (entry.address, &*entry.content.title, shown_summary(entry)))
                });
                let shown: BTreeMap<u32, (&str, &str, String)> = shown.collect();
                serde_json::to_string(&shown).map(Cow::from)
            }
        }
    }
}

/// What is shown below the title of an entry: a long summary would be loaded with all its neighbours.
fn shown_summary(entry: &Entry<'_>) -> String {
    let summary = entry.summary();
    first_words(&summary, SUMMARY).unwrap_or(summary)
}

/// For a word, by place: the numbers of the entries that have it.
#[derive(Clone, Copy, Debug, Default)]
struct Places<'n>([&'n [u32]; 3]);

impl Places<'_> {
    fn is_empty(&self) -> bool {
        self.0.iter().all(|list| list.is_empty())
    }

    /// How many bytes they take as they are written.
    fn size(&self) -> usize {
        self.0.iter().map(|list| coded_size(list) + 3).sum()
    }

    /// As it is written: the numbers of each place as the distances between them, without empty places at the end.
    fn coded(&self) -> Vec<String> {
        let mut lists: Vec<String> = self.0.iter().map(|list| coded(list)).collect();
        while lists.last().is_some_and(String::is_empty) {
            lists.pop();
        }
        lists
    }
}

/// A list of the parts.
#[derive(Serialize)]
struct Parts<'p> {
    /// How many entries can be found.
    entries: usize,
    block: u32,
    /// How the words of each part begin.
    words: Vec<&'p str>,
    /// The same for parts with the words of titles alone.
    titles: Vec<&'p str>,
}

#[derive(Serialize)]
struct Part<'p> {
    words: BTreeMap<&'p str, Vec<String>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    all: Option<Vec<String>>,
}

/// A word with where it is, before it is written.
#[derive(Clone, Copy, Debug)]
struct PlannedWord<'w> {
    word: &'w str,
    places: Places<'w>,
    /// How many bytes it takes as it is written.
    size: usize,
}

impl<'w> PlannedWord<'w> {
    fn new(word: &'w str, places: Places<'w>) -> Self {
        Self { word, places, size: word.len() + places.size() }
    }
}

/// A part, before it is written.
struct PlannedPart<'w> {
    name: &'w str,
    words: &'w [PlannedWord<'w>],
    /// Whether only the word that is called as the part is written, with all that begin so.
    is_divided: bool,
}

/// All files of the index of these entries, whose words are among those that are kept.
///
/// # Errors
/// When they can't be written as JSON.
pub(crate) fn files(entries: &[Entry<'_>], kept: &KeptWords) -> serde_json::Result<Vec<SearchFile>> {
    let numbers = numbers(entries.iter().map(|entry| entry.address));
    let mut order: Vec<(u32, usize)> = numbers.into_iter().zip(0..).collect();
    order.sort_unstable_by_key(|(number, _)| *number);
    let (ends, flat) = inverted(&order, entries, kept);
    let list = |at: usize| &flat[at.checked_sub(1).map_or(0, |before| ends[before])..ends[at]];
    let places = |word: usize| Places([0, 1, 2].map(|place| list(word * 3 + place)));
    // Words are kept for a while after the last entry that has them.
    let all = (0..kept.count()).into_par_iter().map(|word| PlannedWord::new(kept.word(word as u32), places(word)));
    let mut all: Vec<PlannedWord<'_>> = all.filter(|word| !word.places.is_empty()).collect();
    all.par_sort_unstable_by(|a, b| a.word.cmp(b.word));
    let of_titles = all.par_iter().filter(|word| !word.places.0[0].is_empty());
    let titles: Vec<PlannedWord<'_>> =
        of_titles.map(|word| PlannedWord::new(word.word, Places([word.places.0[0], &[], &[]]))).collect();
    all.retain(|word| is_long(word.word));
    let (mut of_words, mut of_titles) = (Vec::new(), Vec::new());
    divide(&all, 0, LONGEST, &mut of_words);
    divide(&titles, 0, 1, &mut of_titles);
    let parts = of_words.par_iter().map(|part| ("w", part)).chain(of_titles.par_iter().map(|part| ("t", part)));
    let mut files: Vec<SearchFile> = parts
        .map(|(sort, part)| {
            let path = format!("index/{sort}-{}.json", file_name(part.name));
            Ok(SearchFile { path, content: SearchContent::Text(part.text()?) })
        })
        .collect::<serde_json::Result<_>>()?;
    for block in order.chunk_by(|(a, _), (b, _)| a / BLOCK == b / BLOCK) {
        let number = block.first().map_or(0, |(number, _)| number / BLOCK);
        files
            .push(SearchFile { path: format!("index/e-{number}.json"), content: SearchContent::Block(block.to_vec()) });
    }
    let parts = Parts {
        entries: entries.len(),
        block: BLOCK,
        words: of_words.iter().map(|part| part.name).collect(),
        titles: of_titles.iter().map(|part| part.name).collect(),
    };
    let content = SearchContent::Text(serde_json::to_string(&parts)?);
    files.push(SearchFile { path: "index.json".to_owned(), content });
    Ok(files)
}

/// The numbers of the entries of each word and place, in rising order, behind one another; and where each list ends.
fn inverted(order: &[(u32, usize)], entries: &[Entry<'_>], kept: &KeptWords) -> (Vec<usize>, Vec<u32>) {
    let lists = kept.count() * 3;
    let at = |(word, place): (u32, u8)| (word as usize * 3 + usize::from(place)).min(lists);
    // One list more takes what is of no word, which there is not.
    let mut ends = vec![0usize; lists + 1];
    for (_, entry) in order {
        kept.words_of(entries[*entry].digest).for_each(|word| ends[at(word)] += 1);
    }
    let mut sum = 0;
    for end in &mut ends {
        (*end, sum) = (sum, sum + *end);
    }
    let mut flat = vec![0; sum];
    for (number, entry) in order {
        for word in kept.words_of(entries[*entry].digest) {
            let end = &mut ends[at(word)];
            flat[*end] = *number;
            *end += 1;
        }
    }
    (ends, flat)
}

/// Divides sorted words that begin with the same `depth` characters into parts that are not too large, or have a name of
/// so many characters.
fn divide<'w>(words: &'w [PlannedWord<'w>], depth: usize, deepest: usize, parts: &mut Vec<PlannedPart<'w>>) {
    let Some((first, rest)) = words.split_first() else { return };
    let name = beginning(first.word, depth);
    let size: usize = words.iter().map(|word| word.size).sum();
    if size <= MOST || depth == deepest || rest.is_empty() {
        parts.push(PlannedPart { name, words, is_divided: false });
        return;
    }
    // Shorter beginnings are not looked for.
    if is_long(name) {
        parts.push(PlannedPart { name, words, is_divided: true });
    }
    let longer = if first.word.len() == name.len() { rest } else { words };
    for words in longer.chunk_by(|a, b| beginning(a.word, depth + 1) == beginning(b.word, depth + 1)) {
        divide(words, depth + 1, deepest, parts);
    }
}

fn beginning(word: &str, characters: usize) -> &str {
    word.char_indices().nth(characters).map_or(word, |(end, _)| &word[..end])
}

impl PlannedPart<'_> {
    fn text(&self) -> serde_json::Result<String> {
        let (own, longer): (Vec<&PlannedWord<'_>>, Vec<&PlannedWord<'_>>) =
            self.words.iter().partition(|word| !self.is_divided || word.word == self.name);
        let words = own.iter().map(|word| (word.word, word.places.coded())).collect();
        let all = self.is_divided.then(|| {
            let more = more_than(&own, &longer);
            Places(more.each_ref().map(Vec::as_slice)).coded()
        });
        serde_json::to_string(&Part { words, all })
    }
}

/// For the best place of each entry: the numbers of the entries that have any of the longer words there, unless the word itself,
/// which counts twice, counts as much where they have that.
fn more_than(own: &[&PlannedWord<'_>], longer: &[&PlannedWord<'_>]) -> [Vec<u32>; 3] {
    let last = longer.iter().flat_map(|word| word.places.0).filter_map(|list| list.last().copied()).max();
    // A byte for each number takes less time than to put them in order.
    let mut best = vec![u8::MAX; last.map_or(0, |last| last as usize + 1)];
    for word in longer {
        for (place, list) in (0u8..).zip(word.places.0) {
            for number in list {
                let known = &mut best[*number as usize];
                *known = place.min(*known);
            }
        }
    }
    for word in own {
        for (weight, list) in WEIGHTS.iter().zip(word.places.0) {
            for number in list {
                let Some(known) = best.get_mut(*number as usize) else { continue };
                if WEIGHTS.get(usize::from(*known)).is_some_and(|of_longer| weight * 2 >= *of_longer) {
                    *known = u8::MAX;
                }
            }
        }
    }
    let of = |place: u8| (0u32..).zip(&best).filter(move |(_, known)| **known == place).map(|(number, _)| number);
    [of(0).collect(), of(1).collect(), of(2).collect()]
}

/// A beginning as a part of a file name: letters and digits of ASCII as they are, others by their number in Unicode.
fn file_name(name: &str) -> String {
    let mut out = String::new();
    for c in name.chars() {
        match c.is_ascii_alphanumeric() {
            true => out.push(c),
            false => drop(write!(out, "_{:x}_", u32::from(c))),
        }
    }
    out
}

/// The distances between rising numbers.
fn distances(numbers: &[u32]) -> impl Iterator<Item = u32> {
    numbers.iter().scan(0, |next, number| {
        let distance = number - *next;
        *next = number + 1;
        Some(distance)
    })
}

/// Rising numbers as the distances between them.
fn coded(numbers: &[u32]) -> String {
    let mut out = String::with_capacity(numbers.len() + 2);
    for mut distance in distances(numbers) {
        while distance >= 32 {
            out.push(char::from(DIGITS[(distance & 31) as usize | 32]));
            distance >>= 5;
        }
        out.push(char::from(DIGITS[distance as usize]));
    }
    out
}

/// The length of [`coded`] numbers.
fn coded_size(numbers: &[u32]) -> usize {
    distances(numbers).map(|distance| (u32::BITS - distance.leading_zeros()).div_ceil(5).max(1) as usize).sum()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn decoded(text: &str) -> Vec<u32> {
        let (mut all, mut next, mut value, mut shift) = (Vec::new(), 0, 0, 0);
        for byte in text.bytes() {
            let digit = DIGITS.iter().position(|other| *other == byte).unwrap() as u32;
            value |= (digit & 31) << shift;
            shift += 5;
            if digit < 32 {
                all.push(next + value);
                (next, value, shift) = (next + value + 1, 0, 0);
            }
        }
        all
    }

    #[test]
    fn numbers_are_read_back() {
        for numbers in [&[][..], &[0], &[0, 1, 2], &[31, 63, 64, 97], &[5, 1000, 70_000, 4_000_000]] {
            assert_eq!(decoded(&coded(numbers)), numbers);
            assert_eq!(coded(numbers).len(), coded_size(numbers), "{numbers:?}");
        }
        assert_eq!(coded(&[0, 1, 2, 40]), "000b1");
    }

    #[test]
    fn words_are_divided_where_they_are_many() {
        let list: Vec<u32> = (0..20_000).collect();
        let words: Vec<PlannedWord<'_>> =
            ["bea", "bean", "beans", "bed", "bef", "pea"].map(|word| planned(word, [&[1], &[], &list])).into();
        let mut parts = Vec::new();
        divide(&words, 0, usize::MAX, &mut parts);
        let shown: Vec<_> = parts.iter().map(|part| (part.name, part.words.len(), part.is_divided)).collect();
        assert_eq!(
            shown,
            [("bea", 3, true), ("bean", 2, false), ("bed", 1, false), ("bef", 1, false), ("p", 1, false)]
        );
        let text = parts[0].text().unwrap();
        assert!(text.starts_with("{\"words\":{\"bea\":[\"1\",\"\",\"000") && text.ends_with("\"all\":[]}"));
        let mut few = Vec::new();
        divide(&words[..1], 0, usize::MAX, &mut few);
        assert_eq!(few[0].name, "");
    }

    fn planned<'w>(word: &'w str, places: [&'w [u32]; 3]) -> PlannedWord<'w> {
        PlannedWord::new(word, Places(places))
    }

    /// Numbers that are far from one another take more bytes each, and a part has so many bytes, not numbers.
    #[test]
    fn parts_are_measured_as_they_are_written() {
        let near: Vec<u32> = (0..20_000).collect();
        let far: Vec<u32> = (0..20_000).map(|number| number * 40).collect();
        let names = |list: &[u32]| {
            let words = [planned("bean", [&[], &[], list]), planned("peas", [&[], &[], list])];
            let mut parts = Vec::new();
            divide(&words, 0, LONGEST, &mut parts);
            parts.iter().map(|part| part.name.to_owned()).collect::<Vec<_>>()
        };
        assert_eq!((names(&near), names(&far)), (vec![String::new()], vec!["b".to_owned(), "p".to_owned()]));
        let text =
            PlannedPart { name: "", words: &[planned("bean", [&[], &[], &far])], is_divided: false }.text().unwrap();
        assert_eq!(text.len(), 20_000 * 2 - 1 + "{\"words\":{\"bean\":[\"\",\"\",\"\"]}}".len());
    }

    /// A whole word counts twice, so longer words are of use only where they are in a better place by more than that.
    #[test]
    fn what_begins_so_is_listed_where_it_counts_more_than_the_word_itself() {
        let own = planned("bed", [&[1, 2], &[3, 4], &[5, 6, 7]]);
        let (one, other) =
            (planned("beds", [&[1, 3, 5, 9], &[4, 6, 10], &[7, 11]]), planned("bedside", [&[], &[9], &[2]]));
        assert_eq!(more_than(&[&own], &[&one, &other]), [vec![3, 5, 9], vec![6, 10], vec![11]]);
        assert_eq!(more_than(&[], &[&one]), [vec![1, 3, 5, 9], vec![4, 6, 10], vec![7, 11]]);
        assert_eq!(more_than(&[&own], &[]), [vec![], vec![], vec![] as Vec<u32>]);
    }

    /// Words may be as long as a text, and begin alike as far.
    #[test]
    fn names_of_parts_are_short_whatever_the_words() {
        for letter in ["x", "豆", "𒀀"] {
            let long = letter.repeat(20_000);
            let words = [format!("{long}a"), format!("{long}b"), format!("{long}c")];
            let all: Vec<PlannedWord<'_>> = words.iter().map(|word| planned(word, [&[1], &[], &[]])).collect();
            let mut parts = Vec::new();
            divide(&all, 0, LONGEST, &mut parts);
            let longest = parts.iter().map(|part| file_name(part.name).len()).max().unwrap_or(0);
            assert!(parts.len() <= LONGEST && (1..200).contains(&longest), "{letter}: {longest}");
        }
    }

    #[test]
    fn names_are_names_of_files() {
        assert_eq!(
            [file_name("b2"), file_name(""), file_name("ты"), file_name("豆")],
            ["b2", "", "_442__44b_", "_8c46_"]
        );
    }
}
