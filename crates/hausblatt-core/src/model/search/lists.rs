//! Where words are: counted in one pass for all words, and listed for those that are to be written.

use xxhash_rust::xxh3::xxh3_64;

use crate::model::search::{Entry, KeptWords};

/// The digits of codes: six bits each.
const DIGITS: &[u8; 64] = b"0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz-_";

/// For a word, by place: the numbers of the entries that have it.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Places<'n>(pub(super) [&'n [u32]; 3]);

/// What is known of the places of a word before they are listed.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Counted {
    /// In how many entries it is, by place.
    counts: [u32; 3],
    /// What comes after the last of their numbers.
    next: [u32; 3],
    /// A digest of the numbers and places.
    pub(super) digest: u64,
}

impl Counted {
    /// Takes in that an entry has the word at a place; numbers come in rising order.
    fn add(&mut self, number: u32, place: u8, digest: u64) {
        let place = usize::from(place.min(2));
        self.counts[place] += 1;
        self.next[place] = number + 1;
        // What is added up is the same in any order, and different for each number and place.
        self.digest = self.digest.wrapping_add(digest.rotate_left(21 * place as u32));
    }

    /// How many bytes the numbers take at most, as they are written, by place.
    pub(super) fn sizes(&self) -> [usize; 3] {
        let size = |(count, next): (u32, u32)| Code::of(count, next).size();
        [0, 1, 2].map(|place| size((self.counts[place], self.next[place])))
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

/// Lists of rising numbers as they are written: each among the numbers that none before it has, without empty ones at the end.
pub(super) fn coded(lists: &[&[u32]]) -> Vec<String> {
    let last = lists.iter().rposition(|list| !list.is_empty());
    (0..last.map_or(0, |last| last + 1)).map(|at| coded_list(lists[at], &lists[..at])).collect()
}

/// Rising numbers, among those that no list of `others` has, as the distances between them.
fn coded_list(numbers: &[u32], others: &[&[u32]]) -> String {
    let mut passed = vec![0; others.len()];
    let among_free = numbers.iter().map(|number| {
        for (list, passed) in others.iter().zip(&mut passed) {
            *passed += list[*passed..].iter().take_while(|other| *other < number).count();
        }
        number.saturating_sub(passed.iter().sum::<usize>() as u32)
    });
    let among_free: Vec<u32> = among_free.collect();
    let Some(last) = among_free.last() else { return String::new() };
    let code = Code::of(among_free.len() as u32, last + 1);
    let mut out = Bits { text: String::with_capacity(code.size()), bits: 0, count: 0 };
    out.put(code.low.into(), 6);
    let mut next = 0;
    for number in among_free {
        let distance = number.saturating_sub(next);
        (0..distance >> code.low).for_each(|_| out.put(0, 1));
        out.put(1, 1);
        out.put(u64::from(distance) & ((1 << code.low) - 1), code.low);
        next = number + 1;
    }
    out.end()
}

/// How the distances between numbers are written, as Golomb-Rice codes: the upper bits of each as so many zeros and a one, then
/// the lower bits as they are.
struct Code {
    /// How many lower bits there are.
    low: u32,
    /// How many bits all distances take at most.
    bits: usize,
}

impl Code {
    /// That for so many numbers, all less than `end`.
    fn of(count: u32, end: u32) -> Self {
        let distances = end.saturating_sub(count);
        // One bit more makes a code longer by a bit for each number, and shorter by half of its zeros.
        let low = (0..31).find(|low| distances >> (low + 1) <= count).unwrap_or(30);
        Self { low, bits: count as usize * (low as usize + 1) + (distances >> low) as usize }
    }

    /// How many digits it takes at most to write them, with how many lower bits there are.
    fn size(&self) -> usize {
        if self.bits == 0 { 0 } else { 1 + self.bits.div_ceil(6) }
    }
}

/// Bits that are written as digits, the first bit of each the lowest.
struct Bits {
    text: String,
    /// Those that are not written yet.
    bits: u64,
    count: u32,
}

impl Bits {
    /// Takes in the lower `count` bits, up to 32.
    fn put(&mut self, bits: u64, count: u32) {
        self.bits |= bits << self.count;
        self.count += count;
        while self.count >= 6 {
            self.digit();
        }
    }

    fn digit(&mut self) {
        self.text.push(char::from(DIGITS[(self.bits & 63) as usize]));
        self.bits >>= 6;
        self.count = self.count.saturating_sub(6);
    }

    /// What is left of the last digit is zeros, which are no number without a one.
    fn end(mut self) -> String {
        if self.count > 0 {
            self.digit();
        }
        self.text
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn decoded(lists: &[String]) -> Vec<Vec<u32>> {
        let mut found: Vec<Vec<u32>> = Vec::new();
        for text in lists {
            let digits = text.bytes().map(|byte| DIGITS.iter().position(|other| *other == byte).unwrap());
            let mut bits = digits.flat_map(|digit| (0..6).map(move |bit| digit >> bit & 1));
            let low: usize = bits.by_ref().take(6).enumerate().map(|(at, bit)| bit << at).sum();
            let is_free = |number: &u32| !found.iter().flatten().any(|other| other == number);
            let mut free = (0..).filter(is_free);
            let mut list = Vec::new();
            let mut zeros = 0;
            while let Some(bit) = bits.next() {
                match bit {
                    0 => zeros += 1,
                    _ => {
                        let lower: usize = bits.by_ref().take(low).enumerate().map(|(at, bit)| bit << at).sum();
                        list.extend(free.nth((zeros << low) + lower));
                        zeros = 0;
                    }
                }
            }
            found.push(list);
        }
        found
    }

    fn counted(numbers: &[(u32, u8)]) -> Counted {
        let mut all = Counted::default();
        numbers.iter().for_each(|&(number, place)| all.add(number, place, xxh3_64(&number.to_le_bytes())));
        all
    }

    #[test]
    fn numbers_are_read_back_and_measured() {
        let all: Vec<u32> = (0..300).collect();
        let few = [5, 1000, 7000, 70_000];
        for numbers in [&[][..], &[0], &[0, 1, 2], &[31, 63, 64, 97], &few, &[70_000], &all] {
            let written = coded(&[numbers]);
            assert_eq!(decoded(&written).concat(), numbers);
            let places: Vec<(u32, u8)> = numbers.iter().map(|number| (*number, 1)).collect();
            let [_, size, _] = counted(&places).sizes();
            let length = written.concat().len();
            assert!((length..=length + 1 + numbers.len() / 6).contains(&size), "{numbers:?}: {length}, {size}");
        }
        assert_eq!((coded(&[&[0, 1, 2, 40]]), coded(&[&all]).concat().len()), (vec!["29103".to_owned()], 51));
    }

    #[test]
    fn a_list_is_among_the_numbers_that_none_before_it_has() {
        let even: Vec<u32> = (0..200).step_by(2).collect();
        let odd: Vec<u32> = (1..200).step_by(2).collect();
        let lists = [&even[..], &[], &odd, &[200, 900]];
        assert_eq!(decoded(&coded(&lists)), lists);
        // As all numbers up to 99 are.
        assert_eq!(coded(&lists)[2], coded(&[&(0..100).collect::<Vec<_>>()])[0]);
        assert_eq!(coded(&[&[], &[1], &[], &[]]), ["", "02"]);
        assert_eq!(coded(&[&[], &[], &[]]), [""; 0]);
    }

    #[test]
    fn large_numbers_are_written_with_few_bits() {
        let written = coded(&[&[0, u32::MAX - 1]]);
        // A one and 30 bits; three zeros, a one and 30 bits.
        assert_eq!((written[0].len(), Code::of(2, u32::MAX).size()), (1 + 65usize.div_ceil(6), 12));
        assert_eq!(Code::of(0, 0).size(), 0);
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
