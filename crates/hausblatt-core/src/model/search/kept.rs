//! The words of entries as they are kept from one build to the next: to take a text apart takes longer than to read what
//! came of it. An entry's words are found by the digest of what they come from, so that none are out of date.

use std::collections::BTreeMap;

use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};
use xxhash_rust::xxh3::xxh3_64;

use crate::model::search::Entry;
use crate::model::search::entries::EntryWords;
use crate::threads::PAGES;

/// How what is kept begins: another program may take texts apart in another way, or write what is found in another form.
const HEAD: &[u8] = concat!("hausblatt-search ", env!("HAUSBLATT_PROGRAM"), "\n").as_bytes();

/// How many texts are taken apart before their words are coded: as words they take far more room.
const AT_ONCE: usize = 1024;

/// The words of entries, coded: their numbers in a list, each with its place.
#[derive(Debug, Default)]
pub(crate) struct KeptWords {
    /// All words, in no order.
    words: Vec<Box<str>>,
    /// By digest, where the words of an entry are in `coded`: from here, so many bytes.
    entries: FxHashMap<u64, (usize, usize)>,
    coded: Vec<u8>,
    /// By path, the digest of what a part or a block was made of, and of its text.
    files: BTreeMap<String, (u64, u64)>,
}

/// A number in groups of seven bits, the last ones first (LEB128).
fn put(mut number: u64, out: &mut Vec<u8>) {
    while number >= 0x80 {
        out.push((number & 0x7f) as u8 | 0x80);
        number >>= 7;
    }
    out.push(number as u8);
}

fn take(bytes: &[u8], at: &mut usize) -> Option<u64> {
    let mut number = 0u64;
    for shift in (0..64).step_by(7) {
        let byte = *bytes.get(*at)?;
        *at += 1;
        number |= u64::from(byte & 0x7f) << shift;
        if byte < 0x80 {
            return Some(number);
        }
    }
    None
}

impl KeptWords {
    /// What was kept, if it is whole; otherwise nothing is known.
    pub(crate) fn read(bytes: &[u8]) -> Self {
        let whole = || {
            let rest = bytes.strip_prefix(HEAD)?;
            let (sum, rest) = rest.split_first_chunk::<8>()?;
            (xxh3_64(rest).to_le_bytes() == *sum).then_some(rest)
        };
        whole().and_then(Self::parsed).unwrap_or_default()
    }

    fn parsed(bytes: &[u8]) -> Option<Self> {
        let mut at = 0;
        let mut kept = Self::default();
        for _ in 0..take(bytes, &mut at)? {
            let length = usize::try_from(take(bytes, &mut at)?).ok()?;
            let word = bytes.get(at..at.checked_add(length)?)?;
            kept.words.push(std::str::from_utf8(word).ok()?.into());
            at += length;
        }
        for _ in 0..take(bytes, &mut at)? {
            let digest = u64::from_le_bytes(*bytes.get(at..)?.first_chunk()?);
            at += 8;
            let length = usize::try_from(take(bytes, &mut at)?).ok()?;
            let coded = bytes.get(at..at.checked_add(length)?)?;
            kept.entries.insert(digest, (kept.coded.len(), length));
            kept.coded.extend(coded);
            at += length;
        }
        for _ in 0..take(bytes, &mut at)? {
            let length = usize::try_from(take(bytes, &mut at)?).ok()?;
            let path = std::str::from_utf8(bytes.get(at..at.checked_add(length)?)?).ok()?;
            at += length;
            let (key, rest) = bytes.get(at..)?.split_first_chunk()?;
            kept.files.insert(path.to_owned(), (u64::from_le_bytes(*key), u64::from_le_bytes(*rest.first_chunk()?)));
            at += 16;
        }
        Some(kept)
    }

    /// What is to be kept.
    pub(crate) fn bytes(&self) -> Vec<u8> {
        let mut body = Vec::with_capacity(self.coded.len() + self.words.len() * 10);
        put(self.words.len() as u64, &mut body);
        for word in &self.words {
            put(word.len() as u64, &mut body);
            body.extend(word.as_bytes());
        }
        put(self.entries.len() as u64, &mut body);
        for (digest, &(at, length)) in &self.entries {
            body.extend(digest.to_le_bytes());
            put(length as u64, &mut body);
            body.extend(&self.coded[at..at + length]);
        }
        put(self.files.len() as u64, &mut body);
        for (path, (key, hash)) in &self.files {
            put(path.len() as u64, &mut body);
            body.extend(path.as_bytes());
            body.extend(key.to_le_bytes());
            body.extend(hash.to_le_bytes());
        }
        [HEAD, &xxh3_64(&body).to_le_bytes(), &body].concat()
    }

    /// Takes what is known of no entry any more away, and adds the words of those that are new, found on all cores. Tells
    /// whether anything has changed.
    pub(crate) fn update(&mut self, entries: &[Entry<'_>]) -> bool {
        let unknown: Vec<&Entry<'_>> =
            entries.iter().filter(|entry| !self.entries.contains_key(&entry.digest)).collect();
        let count = self.entries.len();
        if count + unknown.len() > entries.len() {
            let present: FxHashSet<u64> = entries.iter().map(|entry| entry.digest).collect();
            self.entries.retain(|digest, _| present.contains(digest));
        }
        let has_changed = !unknown.is_empty() || self.entries.len() != count;
        // Once more than half of it is of entries that are gone, all is found anew.
        if self.entries.values().map(|(_, length)| length).sum::<usize>() * 2 < self.coded.len() {
            let files = std::mem::take(&mut self.files);
            *self = Self { files, ..Self::default() };
            return self.update(entries) || has_changed;
        }
        if unknown.is_empty() {
            return has_changed;
        }
        let mut numbers: FxHashMap<Box<str>, u32> =
            self.words.iter().zip(0..).map(|(word, number)| (word.clone(), number)).collect();
        for some in unknown.chunks(AT_ONCE) {
            let found: Vec<EntryWords> = some.par_iter().with_max_len(PAGES).map(|entry| entry.words()).collect();
            for (entry, words) in some.iter().zip(found) {
                let at = self.coded.len();
                for (word, place) in words {
                    let number = match numbers.get(&word) {
                        Some(&number) => number,
                        None => {
                            let number = u32::try_from(self.words.len()).unwrap_or(u32::MAX);
                            self.words.push(word.clone());
                            numbers.insert(word, number);
                            number
                        }
                    };
                    put(u64::from(number) << 2 | u64::from(place), &mut self.coded);
                }
                self.entries.insert(entry.digest, (at, self.coded.len() - at));
            }
        }
        true
    }

    /// The digest of the text of a file that was made of what has this digest, if it was the last one there.
    pub(crate) fn file(&self, path: &str, key: u64) -> Option<u64> {
        self.files.get(path).filter(|(known, _)| *known == key).map(|(_, hash)| *hash)
    }

    /// Keeps the digests of all parts and blocks: of what each was made of, and of its text. Tells whether any is another one.
    pub(crate) fn keep_files(&mut self, files: BTreeMap<String, (u64, u64)>) -> bool {
        let has_changed = self.files != files;
        self.files = files;
        has_changed
    }

    /// These words, of no entry.
    #[cfg(test)]
    pub(crate) fn of(words: &[&str]) -> Self {
        Self { words: words.iter().map(|word| Box::from(*word)).collect(), ..Self::default() }
    }

    /// A word by its number.
    pub(crate) fn word(&self, number: u32) -> &str {
        self.words.get(number as usize).map_or("", |word| word)
    }

    /// How many words there are.
    pub(crate) fn count(&self) -> usize {
        self.words.len()
    }

    /// The words of the entry with this digest, by their numbers, each with its place.
    pub(crate) fn words_of(&self, digest: u64) -> impl Iterator<Item = (u32, u8)> {
        let (at, length) = self.entries.get(&digest).copied().unwrap_or_default();
        let coded = &self.coded[at..at + length];
        let mut at = 0;
        std::iter::from_fn(move || {
            let number = take(coded, &mut at)?;
            Some((u32::try_from(number >> 2).ok()?, (number & 3) as u8))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_are_read_back() {
        let mut out = Vec::new();
        let all = [0, 1, 127, 128, 300, u64::from(u32::MAX) << 2 | 3, u64::MAX];
        all.iter().for_each(|number| put(*number, &mut out));
        let mut at = 0;
        assert_eq!(all.map(|_| take(&out, &mut at).unwrap()), all);
        assert_eq!((at, take(&out, &mut at)), (out.len(), None));
        assert_eq!(take(&[0xff; 20], &mut 0), None);
    }

    #[test]
    fn what_is_not_whole_is_not_believed() {
        let mut kept = KeptWords::of(&["bean", "pea"]);
        put(1 << 2 | 1, &mut kept.coded);
        kept.entries.insert(7, (0, 1));
        let bytes = kept.bytes();
        let read = KeptWords::read(&bytes);
        assert_eq!((read.words_of(7).collect::<Vec<_>>(), read.word(1)), (vec![(1, 1)], "pea"));
        for at in 0..bytes.len() {
            let mut other = bytes.clone();
            other[at] ^= 1;
            for bytes in [&other[..], &bytes[..at]] {
                assert_eq!(
                    (KeptWords::read(bytes).count(), KeptWords::read(bytes).words_of(7).count()),
                    (0, 0),
                    "{at}"
                );
            }
        }
    }
}
