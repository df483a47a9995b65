//! Where words are: counted in one pass for all words, and listed for those that are to be written.

use xxhash_rust::xxh3::xxh3_64;

use crate::model::search::{Entry, KeptWords};

/// The digits of numbers in lists: five bits each, and whether more follow.
const DIGITS: &[u8; 64] = b"0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz-_";

/// For a word, by place: the numbers of the entries that have it.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Places<'n>(pub(super) [&'n [u32]; 3]);

impl Places<'_> {
    /// As it is written: the numbers of each place as the distances between them, without empty places at the end.
    pub(super) fn coded(&self) -> Vec<String> {
        let mut lists: Vec<String> = self.0.iter().map(|list| coded(list)).collect();
        while lists.last().is_some_and(String::is_empty) {
            lists.pop();
        }
        lists
    }
}

/// What is known of the places of a word before they are listed.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Counted {
    /// In how many entries it is, by place.
    counts: [u32; 3],
    /// How many bytes their numbers take as they are written.
    pub(super) sizes: [u32; 3],
    next: [u32; 3],
    /// A digest of the numbers and places.
    pub(super) digest: u64,
}

impl Counted {
    /// Takes in that an entry has the word at a place; numbers come in rising order.
    fn add(&mut self, number: u32, place: u8, digest: u64) {
        let place = usize::from(place.min(2));
        self.counts[place] += 1;
        self.sizes[place] += digits(number.saturating_sub(self.next[place]));
        self.next[place] = number + 1;
        // What is added up is the same in any order, and different for each number and place.
        self.digest = self.digest.wrapping_add(digest.rotate_left(21 * place as u32));
    }

    pub(super) fn is_in_titles(&self) -> bool {
        self.counts[0] > 0
    }

    pub(super) fn is_anywhere(&self) -> bool {
        self.counts != [0; 3]
    }
}

/// The words of entries in the order of their numbers.
#[derive(Debug)]
pub(super) struct Postings<'a> {
    /// The number of each entry, with its place in `entries`.
    pub(super) order: &'a [(u32, usize)],
    pub(super) entries: &'a [Entry<'a>],
    pub(super) kept: &'a KeptWords,
}

impl Postings<'_> {
    /// Calls `see` with the number of each entry and each of its words and places.
    fn each(&self, mut see: impl FnMut(u32, u32, u8)) {
        for &(number, at) in self.order {
            let Some(entry) = self.entries.get(at) else { continue };
            self.kept.words_of(entry.digest).for_each(|(word, place)| see(number, word, place));
        }
    }

    /// What is known of each word.
    pub(super) fn counted(&self) -> Vec<Counted> {
        let mut all = vec![Counted::default(); self.kept.count()];
        let (mut last, mut digest) = (u32::MAX, 0);
        self.each(|number, word, place| {
            if number != last {
                (last, digest) = (number, xxh3_64(&number.to_le_bytes()));
            }
            if let Some(counted) = all.get_mut(word as usize) {
                counted.add(number, place, digest);
            }
        });
        all
    }

    /// The places of words, listed.
    pub(super) fn lists(&self, counted: &[Counted], is_wanted: impl Fn(u32) -> bool) -> Lists {
        let mut room = 0;
        let mut ends: Vec<[usize; 3]> = Vec::with_capacity(counted.len());
        for (word, counted) in (0u32..).zip(counted) {
            let wanted = usize::from(is_wanted(word));
            ends.push(counted.counts.map(|count| {
                let start = room;
                room += count as usize * wanted;
                start
            }));
        }
        // They are the starts, until all numbers are in.
        let mut numbers = vec![0; room];
        self.each(|number, word, place| {
            let end = ends.get_mut(word as usize).and_then(|ends| ends.get_mut(usize::from(place)));
            if let Some(end) = end.filter(|_| is_wanted(word)) {
                numbers[*end] = number;
                *end += 1;
            }
        });
        Lists { ends, numbers }
    }
}

/// The numbers of the entries of words.
#[derive(Debug)]
pub(super) struct Lists {
    /// Where those of each word and place end in `numbers`, which is where the next ones begin.
    ends: Vec<[usize; 3]>,
    /// Those of each word and place, in rising order, behind one another.
    numbers: Vec<u32>,
}

impl Lists {
    /// Those of a word; none where it is not listed.
    pub(super) fn of(&self, word: u32) -> Places<'_> {
        let word = word as usize;
        let before = word.checked_sub(1).and_then(|before| self.ends.get(before)).map_or(0, |ends| ends[2]);
        let [first, second, third] = self.ends.get(word).copied().unwrap_or([before; 3]);
        Places([before..first, first..second, second..third].map(|list| &self.numbers[list]))
    }
}

/// Rising numbers as the distances between them.
fn coded(numbers: &[u32]) -> String {
    let mut out = String::with_capacity(numbers.len() + 2);
    let mut next = 0;
    for &number in numbers {
        let mut distance = number.saturating_sub(next);
        while distance >= 32 {
            out.push(char::from(DIGITS[(distance & 31) as usize | 32]));
            distance >>= 5;
        }
        out.push(char::from(DIGITS[distance as usize]));
        next = number + 1;
    }
    out
}

/// How many digits a distance takes.
fn digits(distance: u32) -> u32 {
    (u32::BITS - distance.leading_zeros()).div_ceil(5).max(1)
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

    fn counted(numbers: &[(u32, u8)]) -> Counted {
        let mut all = Counted::default();
        numbers.iter().for_each(|&(number, place)| all.add(number, place, xxh3_64(&number.to_le_bytes())));
        all
    }

    #[test]
    fn numbers_are_read_back_and_measured() {
        for numbers in [&[][..], &[0], &[0, 1, 2], &[31, 63, 64, 97], &[5, 1000, 70_000, 4_000_000]] {
            assert_eq!(decoded(&coded(numbers)), numbers);
            let places: Vec<(u32, u8)> = numbers.iter().map(|number| (*number, 1)).collect();
            assert_eq!(counted(&places).sizes, [0, coded(numbers).len() as u32, 0], "{numbers:?}");
        }
        assert_eq!(coded(&[0, 1, 2, 40]), "000b1");
    }

    #[test]
    fn a_digest_is_of_numbers_and_places() {
        let all = [
            &[(1, 0), (2, 0)][..],
            &[(1, 0), (3, 0)],
            &[(1, 0), (2, 1)],
            &[(1, 1), (2, 0)],
            &[(1, 1), (2, 1)],
            &[(1, 2), (2, 2)],
            &[(1, 0)],
            &[],
        ];
        let mut digests: Vec<u64> = all.iter().map(|numbers| counted(numbers).digest).collect();
        digests.sort_unstable();
        digests.dedup();
        assert_eq!(digests.len(), all.len());
    }
}
