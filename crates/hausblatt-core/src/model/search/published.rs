//! What a built search looks in: words in parts by how they begin, what is found in blocks, and a list of the parts. A page
//! of results loads a part for each word and a few blocks, at any size of the site.
//!
//! A part holds all words that begin as its name says, unless that would be too much. Then it holds the word that it is
//! called by and what begins so, together in `all`, and there is a part for each next letter.
//!
//! After an edit most files are as they were: each is known by a digest of what it is made of, and made where that is another one.

use std::borrow::Cow;
use std::collections::BTreeMap;
use std::fmt::Write;
use std::sync::OnceLock;

use hausblatt_lang::value::members::first_words;
use rayon::prelude::*;
use serde::Serialize;
use xxhash_rust::xxh3::{Xxh3, xxh3_64};

use crate::model::search::lists::{Counted, Lists, Places, Postings, coded};
use crate::model::search::{Entry, KeptWords, WEIGHTS, is_long, numbers};

/// The most bytes of a part that could be divided.
const MOST: usize = 36 << 10;
/// The most characters of a part's name: with those of other alphabets by their numbers, it is the name of a file all the same.
const LONGEST: usize = 24;
/// How many numbers a block of results is for. The first twenty results may be in as many blocks: a few others of each are
/// loaded, too.
const BLOCK: u32 = 8;
/// How many words of a summary are shown.
const SUMMARY: usize = 40;

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
    /// Words and where they are.
    Part(Part),
    /// What is shown of these entries, by their numbers, with their places; summaries are found in texts.
    Block(Vec<(u32, usize)>),
}

impl SearchContent {
    /// A digest of what a part or a block is made of; none for a text.
    pub(crate) fn key(&self, entries: &[Entry<'_>]) -> Option<u64> {
        let block = match self {
            SearchContent::Text(_) => return None,
            SearchContent::Part(part) => return Some(part.key),
            SearchContent::Block(block) => block,
        };
        let mut all = Xxh3::new();
        for &(number, at) in block {
            let entry = entries.get(at)?;
            all.update(&number.to_le_bytes());
            all.update(&entry.digest.to_le_bytes());
            all.update(&xxh3_64(entry.address.as_bytes()).to_le_bytes());
        }
        Some(all.digest())
    }
}

/// What is shown below the title of an entry: a long summary would be loaded with all its neighbours.
fn shown_summary(entry: &Entry<'_>) -> String {
    let summary = entry.summary();
    first_words(&summary, SUMMARY).unwrap_or(summary)
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
#[serde(rename_all = "lowercase")]
enum WrittenPart<'p> {
    /// For each word: by place, the numbers of the entries that have it.
    Words(BTreeMap<&'p str, Vec<String>>),
    /// What begins as the part is called: by what it counts for, the numbers of the entries.
    All(Vec<String>),
}

/// A part, before it is written.
#[derive(Debug)]
pub(crate) struct Part {
    name: String,
    /// Its words, by their numbers among those that are kept.
    words: Vec<u32>,
    /// Whether only the word that is called as the part is written, with all that begin so.
    is_divided: bool,
    /// Whether it has the words of titles alone.
    is_of_titles: bool,
    /// A digest of all this, with the words and where they are.
    key: u64,
    /// As it is written, where it is to be made.
    text: Option<String>,
}

impl Part {
    fn new(planned: &PlannedPart<'_>, is_of_titles: bool, counted: &[Counted]) -> Self {
        let mut all = Xxh3::new();
        all.update(&[u8::from(planned.is_divided), u8::from(is_of_titles)]);
        all.update(planned.name.as_bytes());
        for word in planned.words {
            all.update(&[0]);
            all.update(word.word.as_bytes());
            all.update(&counted.get(word.number as usize).map_or(0, |counted| counted.digest).to_le_bytes());
        }
        let words = planned.words.iter().map(|word| word.number).collect();
        let name = planned.name.to_owned();
        Self { name, words, is_divided: planned.is_divided, is_of_titles, key: all.digest(), text: None }
    }

    fn path(&self) -> String {
        format!("index/{}-{}.json", if self.is_of_titles { "t" } else { "w" }, file_name(&self.name))
    }

    /// As it is written, with the places of its words.
    fn text<'n>(&self, kept: &KeptWords, places: impl Fn(u32) -> Places<'n>) -> serde_json::Result<String> {
        let places = |word: u32| {
            let all = places(word);
            if self.is_of_titles { Places([all.0[0], &[], &[]]) } else { all }
        };
        let words = self.words.iter().map(|word| (kept.word(*word), places(*word)));
        serde_json::to_string(&if self.is_divided {
            let words: Vec<_> = words.map(|(word, places)| (word == self.name, places)).collect();
            WrittenPart::All(coded(&best(&words).each_ref().map(Vec::as_slice)))
        } else {
            WrittenPart::Words(words.map(|(word, places)| (word, coded(&places.0))).collect())
        })
    }
}

/// A word that is to be in a part.
#[derive(Clone, Copy, Debug)]
struct PlannedWord<'w> {
    word: &'w str,
    /// Its number among those that are kept.
    number: u32,
    /// How many bytes it takes at most as it is written, with the numbers of its entries.
    size: usize,
}

impl<'w> PlannedWord<'w> {
    fn new(word: &'w str, number: u32, sizes: &[usize]) -> Self {
        Self { word, number, size: word.len() + sizes.iter().map(|size| size + 3).sum::<usize>() }
    }
}

/// Words that come into one part.
struct PlannedPart<'w> {
    name: &'w str,
    words: &'w [PlannedWord<'w>],
    is_divided: bool,
}

/// What files of the index are written of that have no text yet.
#[derive(Debug)]
pub(crate) struct SearchLists {
    /// The number of each entry, with its place among them, in rising order.
    order: Vec<(u32, usize)>,
    /// Where all words are, for a part that was not to be made, and was lost.
    all: OnceLock<Lists>,
}

impl SearchLists {
    /// The text of a file of the index of these entries and words.
    ///
    /// # Errors
    /// When it can't be written as JSON.
    pub(crate) fn text<'c>(
        &self,
        content: &'c SearchContent,
        entries: &[Entry<'_>],
        kept: &KeptWords,
    ) -> serde_json::Result<Cow<'c, str>> {
        match content {
            SearchContent::Text(text) | SearchContent::Part(Part { text: Some(text), .. }) => Ok(text.into()),
            SearchContent::Part(part) => {
                let postings = Postings { order: &self.order, entries, kept };
                let lists = self.all.get_or_init(|| postings.lists(&postings.counted(), |_| true));
                part.text(kept, |word| lists.of(word)).map(Cow::from)
            }
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

/// All files of the index of these entries, whose words are among those that are kept; and what they are written of, but for
/// those that are to be made, as `is_wanted` tells by path and key: they have their texts.
///
/// # Errors
/// When they can't be written as JSON.
pub(crate) fn files(
    entries: &[Entry<'_>],
    kept: &KeptWords,
    is_wanted: impl Fn(&str, u64) -> bool,
) -> serde_json::Result<(Vec<SearchFile>, SearchLists)> {
    let numbers = numbers(entries.iter().map(|entry| entry.address));
    let mut order: Vec<(u32, usize)> = numbers.into_iter().zip(0..).collect();
    order.sort_unstable_by_key(|(number, _)| *number);
    let postings = Postings { order: &order, entries, kept };
    let counted = postings.counted();
    let (list, mut parts) = planned(entries.len(), kept, &counted)?;
    let mut made: Vec<&mut Part> = parts.iter_mut().filter(|part| is_wanted(&part.path(), part.key)).collect();
    if !made.is_empty() {
        let mut is_listed = vec![false; counted.len()];
        made.iter().flat_map(|part| &part.words).for_each(|word| is_listed[*word as usize] = true);
        let lists = postings.lists(&counted, |word| is_listed[word as usize]);
        drop(counted);
        made.par_iter_mut().try_for_each(|part| {
            part.text = Some(part.text(kept, |word| lists.of(word))?);
            Ok(())
        })?;
    }
    let mut files: Vec<SearchFile> =
        parts.into_iter().map(|part| SearchFile { path: part.path(), content: SearchContent::Part(part) }).collect();
    for block in order.chunk_by(|(a, _), (b, _)| a / BLOCK == b / BLOCK) {
        let number = block.first().map_or(0, |(number, _)| number / BLOCK);
        files
            .push(SearchFile { path: format!("index/e-{number}.json"), content: SearchContent::Block(block.to_vec()) });
    }
    files.push(SearchFile { path: "index.json".to_owned(), content: SearchContent::Text(list) });
    Ok((files, SearchLists { order, all: OnceLock::new() }))
}

/// The parts that the words of so many entries come into, and the text of the list of them.
fn planned(entries: usize, kept: &KeptWords, counted: &[Counted]) -> serde_json::Result<(String, Vec<Part>)> {
    // Words are kept for a while after the last entry that has them.
    let mut words: Vec<(&str, u32, &Counted)> = (0u32..)
        .zip(counted)
        .filter(|(_, counted)| counted.is_anywhere())
        .map(|(number, counted)| (kept.word(number), number, counted))
        .collect();
    words.par_sort_unstable_by(|(a, ..), (b, ..)| a.cmp(b));
    let titles: Vec<PlannedWord<'_>> = words
        .iter()
        .filter(|(_, _, counted)| counted.is_in_titles())
        .map(|&(word, number, counted)| PlannedWord::new(word, number, &counted.sizes()[..1]))
        .collect();
    let long: Vec<PlannedWord<'_>> = words
        .iter()
        .filter(|(word, ..)| is_long(word))
        .map(|&(word, number, counted)| PlannedWord::new(word, number, &counted.sizes()))
        .collect();
    drop(words);
    let (mut of_words, mut of_titles) = (Vec::new(), Vec::new());
    divide(&long, 0, LONGEST, &mut of_words);
    divide(&titles, 0, 1, &mut of_titles);
    let list = Parts {
        entries,
        block: BLOCK,
        words: of_words.iter().map(|part| part.name).collect(),
        titles: of_titles.iter().map(|part| part.name).collect(),
    };
    let parts = of_words.iter().map(|part| (part, false)).chain(of_titles.iter().map(|part| (part, true)));
    let parts = parts.map(|(part, is_of_titles)| Part::new(part, is_of_titles, counted)).collect();
    Ok((serde_json::to_string(&list)?, parts))
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

/// By what an entry counts for, which is twice as much for the word that was looked for as for a longer one, from the most
/// down: the numbers of those that have one of these words.
fn best(words: &[(bool, Places<'_>)]) -> [Vec<u32>; WEIGHTS.len() * 2] {
    let last = words.iter().flat_map(|(_, places)| places.0).filter_map(|list| list.last().copied()).max();
    // A byte for each number takes less time than to put them in order.
    let mut best = vec![u8::MAX; last.map_or(0, |last| last as usize + 1)];
    for (is_own, places) in words {
        for (place, list) in (0u8..).zip(places.0) {
            // Each weight is more than twice the next one.
            let rank = place * 2 + u8::from(!is_own);
            for number in list {
                let known = &mut best[*number as usize];
                *known = rank.min(*known);
            }
        }
    }
    let of = |rank: u8| (0u32..).zip(&best).filter(move |(_, known)| **known == rank).map(|(number, _)| number);
    [0, 1, 2, 3, 4, 5].map(|rank| of(rank).collect())
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

#[cfg(test)]
mod tests {
    use super::*;

    fn of_size(word: &str, number: u32, size: usize) -> PlannedWord<'_> {
        PlannedWord::new(word, number, &[0, 0, size])
    }

    #[test]
    fn words_are_divided_where_they_are_many() {
        let words: Vec<PlannedWord<'_>> = (0u32..)
            .zip(["bea", "bean", "beans", "bed", "bef", "pea"])
            .map(|(number, word)| of_size(word, number, 15_000))
            .collect();
        let mut parts = Vec::new();
        divide(&words, 0, usize::MAX, &mut parts);
        let shown: Vec<_> = parts.iter().map(|part| (part.name, part.words.len(), part.is_divided)).collect();
        assert_eq!(
            shown,
            [("bea", 3, true), ("bean", 2, false), ("bed", 1, false), ("bef", 1, false), ("p", 1, false)]
        );
        let mut few = Vec::new();
        divide(&words[..1], 0, usize::MAX, &mut few);
        assert_eq!(few[0].name, "");
    }

    /// The words and their places in entries with these numbers.
    fn part(words: &[&str], is_divided: bool, is_of_titles: bool) -> (Part, KeptWords) {
        let kept = KeptWords::of(words);
        let all: Vec<PlannedWord<'_>> = (0u32..).zip(words).map(|(number, word)| of_size(word, number, 1)).collect();
        let planned = PlannedPart { name: words[0], words: &all, is_divided };
        (Part::new(&planned, is_of_titles, &[]), kept)
    }

    #[test]
    fn a_part_is_written_with_its_words_or_with_what_begins_so() {
        let lists: [[&[u32]; 3]; 2] = [[&[0], &[], &[1, 2]], [&[2], &[5], &[0, 1]]];
        let text = |is_divided, is_of_titles| {
            let (part, kept) = part(&["bed", "beds"], is_divided, is_of_titles);
            part.text(&kept, |word| Places(lists[word as usize])).unwrap()
        };
        assert_eq!(text(false, false), r#"{"words":{"bed":["01","","03"],"beds":["04","14","03"]}}"#);
        assert_eq!(text(true, false), r#"{"all":["01","02","","08","01"]}"#);
        assert_eq!(text(false, true), r#"{"words":{"bed":["01"],"beds":["04"]}}"#);
    }

    /// A whole word counts twice, and the best place of an entry counts.
    #[test]
    fn what_begins_so_is_listed_by_what_it_counts_for() {
        let own = (true, Places([&[1, 2], &[3, 4], &[5, 6, 7]]));
        let one = (false, Places([&[1, 3, 5, 9], &[4, 6, 10], &[7, 11]]));
        let other = (false, Places([&[], &[9], &[2]]));
        let none: Vec<u32> = vec![];
        assert_eq!(best(&[own, one, other]), [vec![1, 2], vec![3, 5, 9], vec![4], vec![6, 10], vec![7], vec![11]]);
        assert_eq!(
            best(&[one]),
            [&none, &vec![1, 3, 5, 9], &none, &vec![4, 6, 10], &none, &vec![7, 11]].map(Vec::clone)
        );
        let counts = WEIGHTS.iter().flat_map(|weight| [weight * 2, *weight]);
        assert!(counts.is_sorted_by(|more, less| more > less));
        assert!(best(&[]).iter().all(Vec::is_empty));
    }

    /// Words may be as long as a text, and begin alike as far.
    #[test]
    fn names_of_parts_are_short_whatever_the_words() {
        for letter in ["x", "豆", "𒀀"] {
            let long = letter.repeat(20_000);
            let words = [format!("{long}a"), format!("{long}b"), format!("{long}c")];
            let all: Vec<PlannedWord<'_>> =
                (0u32..).zip(&words).map(|(number, word)| of_size(word, number, 1)).collect();
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
