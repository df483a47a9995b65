//! Looking through bytes, sixteen at a time.
//!
//! What is looked for is recognised by arithmetic on a byte, with neither table nor branch; 0 means that it is another byte.
//! Of that the compiler makes some twenty instructions for sixteen bytes; of comparisons joined by "or" it does not.

/// Where the first byte is for which `is` gives anything but 0.
#[inline(always)]
pub(super) fn position(bytes: &[u8], is: impl Fn(u8) -> u8 + Copy) -> Option<usize> {
    let (blocks, rest) = bytes.as_chunks();
    for (number, &block) in blocks.iter().enumerate() {
        if let Some(at) = first(block, is) {
            return Some(number * 16 + at);
        }
    }
    if rest.is_empty() { None } else { position_at_the_end(bytes, is) }
}

/// The same among the last sixteen bytes, or all where there are fewer, if all before them are clean. Those that fill no
/// block are looked at together with some that are looked at twice.
#[inline(always)]
fn position_at_the_end(bytes: &[u8], is: impl Fn(u8) -> u8 + Copy) -> Option<usize> {
    if let Some(&last) = bytes.last_chunk() {
        return first(last, is).map(|at| bytes.len() + at - 16);
    }
    if let (Some(start), Some(end)) = (bytes.first_chunk::<8>(), bytes.last_chunk::<8>()) {
        let at = first(joined([start, end]), is)?;
        return Some(if at < 8 { at } else { bytes.len() + at - 16 });
    }
    if let (Some(start), Some(end)) = (bytes.first_chunk::<4>(), bytes.last_chunk::<4>()) {
        let at = first(joined([start, end, start, end]), is)?;
        return Some(if at < 4 { at } else { bytes.len() + at - 8 });
    }
    bytes.iter().position(|&byte| is(byte) != 0)
}

/// Where the first such byte of a block is.
#[inline(always)]
fn first(mut block: [u8; 16], is: impl Fn(u8) -> u8 + Copy) -> Option<usize> {
    block.iter_mut().for_each(|byte| *byte = is(*byte));
    let found = u128::from_le_bytes(block);
    (found != 0).then(|| found.trailing_zeros() as usize / 8)
}

#[inline(always)]
fn joined<const N: usize, const M: usize>(parts: [&[u8; N]; M]) -> [u8; 16] {
    let mut block = [0; 16];
    for (to, part) in block.chunks_exact_mut(N).zip(parts) {
        to.copy_from_slice(part);
    }
    block
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_is_found_wherever_it_is() {
        let is_comma = |byte: u8| 1u8.saturating_sub(byte ^ b',');
        for length in 0..70 {
            let mut bytes = vec![b'a'; length];
            assert_eq!(position(&bytes, is_comma), None);
            for at in (0..length).rev() {
                bytes[at] = b',';
                assert_eq!(position(&bytes, is_comma), Some(at), "of {length}");
            }
        }
    }
}
