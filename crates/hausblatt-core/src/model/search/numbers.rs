//! The numbers of entries in what is published: an entry keeps its number when others come and go, but for neighbours.

use xxhash_rust::xxh3::xxh3_64;

/// The fewest numbers.
const FEWEST: usize = 64;

/// A number for each address, in the order of the addresses: where its digest is among twice as many numbers as there are
/// addresses, or behind that where the place is taken.
pub(crate) fn numbers<'a>(addresses: impl ExactSizeIterator<Item = &'a str>) -> Vec<u32> {
    let room = (addresses.len() * 2).max(FEWEST).next_power_of_two();
    let shift = u64::BITS - room.trailing_zeros();
    let mut order: Vec<(u64, &str, usize)> =
        addresses.enumerate().map(|(at, address)| (xxh3_64(address.as_bytes()), address, at)).collect();
    order.sort_unstable();
    let mut numbers = vec![0; order.len()];
    let mut next = 0;
    for (digest, _, at) in order {
        let number = next.max(u32::try_from(digest >> shift).unwrap_or(u32::MAX));
        numbers[at] = number;
        next = number.saturating_add(1);
    }
    numbers
}

#[cfg(test)]
mod tests {
    use super::numbers;

    #[test]
    fn each_address_has_a_number_that_stays() {
        let all: Vec<String> = (0..1000).map(|number| format!("/notes/{number}/")).collect();
        let before = numbers(all.iter().map(String::as_str));
        let mut sorted = before.clone();
        sorted.sort_unstable();
        sorted.dedup();
        assert_eq!(sorted.len(), 1000);
        assert!(sorted.last().is_some_and(|last| *last < 2048 + 10));
        let fewer: Vec<&str> = all.iter().map(String::as_str).filter(|address| *address != "/notes/77/").collect();
        let after = numbers(fewer.iter().copied());
        let other = fewer.iter().zip(after).filter(|(address, number)| {
            all.iter().position(|other| other == *address).is_none_or(|at| before[at] != *number)
        });
        assert!(other.count() < 10);
        assert_eq!(numbers([].into_iter()), [] as [u32; 0]);
    }
}
