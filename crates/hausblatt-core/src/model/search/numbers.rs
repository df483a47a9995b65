//! The numbers of entries in what is published: an entry keeps its number when others come and go, but for one or two.

use xxhash_rust::xxh3::xxh3_128;

/// The fewest numbers.
const FEWEST: usize = 64;

/// All prime factors of [`room`]: a step that is one more than a multiple of it comes to each number.
const FACTORS: usize = 2 * 3 * 5 * 7;

/// A number for each address, in the order of the addresses. Each address has an order of its own in which it tries all
/// numbers, and takes the first that is free; those with a lower digest come first. So an address that
/// is added gives one or two others another number, with nine of ten numbers in use (open addressing with double hashing, in an
/// order that the addresses alone decide).
pub(crate) fn numbers<'a>(addresses: impl ExactSizeIterator<Item = &'a str>) -> Vec<u32> {
    let room = room(addresses.len());
    let mut order: Vec<(u128, &str, usize)> =
        addresses.enumerate().map(|(at, address)| (xxh3_128(address.as_bytes()), address, at)).collect();
    order.sort_unstable();
    let mut is_taken = vec![false; room];
    let mut numbers = vec![0; order.len()];
    for (digest, _, at) in order {
        let mut number = (digest as u64 % room as u64) as usize;
        let step = 1 + FACTORS * ((digest as u64 / room as u64) as usize % (room / FACTORS).max(1));
        while is_taken[number] {
            number = (number + step) % room;
        }
        is_taken[number] = true;
        numbers[at] = u32::try_from(number).unwrap_or(u32::MAX);
    }
    numbers
}

/// How many numbers there are for so many addresses, 1.1 to 1.4 times as many unless these are few. It changes seldom, since
/// all addresses have other numbers then.
fn room(addresses: usize) -> usize {
    let least = addresses.saturating_add(addresses / 9).saturating_add(1).max(FEWEST);
    // Four to seven times a power of two.
    let unit = 1 << least.ilog2().saturating_sub(2);
    least.next_multiple_of(unit)
}

#[cfg(test)]
mod tests {
    use super::{numbers, room};

    #[test]
    fn each_address_has_a_number_that_stays() {
        let all: Vec<String> = (0..1000).map(|number| format!("/notes/{number}/")).collect();
        let before = numbers(all.iter().map(String::as_str));
        let mut sorted = before.clone();
        sorted.sort_unstable();
        sorted.dedup();
        assert_eq!(sorted.len(), 1000);
        assert!(sorted.last().is_some_and(|last| *last < 1280));
        let fewer: Vec<&str> = all.iter().map(String::as_str).filter(|address| *address != "/notes/77/").collect();
        let after = numbers(fewer.iter().copied());
        let other = fewer.iter().zip(after).filter(|(address, number)| {
            all.iter().position(|other| other == *address).is_none_or(|at| before[at] != *number)
        });
        assert!(other.count() < 10);
        assert_eq!(numbers([].into_iter()), [] as [u32; 0]);
    }

    #[test]
    fn there_are_a_few_more_numbers_than_addresses_and_each_can_be_reached() {
        assert_eq!(
            [0, 57, 58, 1000, 100_000, 103_000, 104_000].map(room),
            [64, 64, 80, 1280, 114_688, 114_688, 131_072]
        );
        for addresses in (0..3000).chain([99_999, 1_000_000, 20_000_000]) {
            let room = room(addresses);
            assert!(room > addresses && (addresses < 64 || room * 10 < addresses * 14), "{addresses}: {room}");
            let rest = [2, 3, 5, 7].iter().fold(room, |mut rest, factor| {
                while rest % factor == 0 {
                    rest /= factor;
                }
                rest
            });
            assert_eq!(rest, 1, "{addresses}: {room}");
        }
    }
}
