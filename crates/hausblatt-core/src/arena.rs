//! Arenas that are used again from page to page.

use bumpalo::Bump;

/// An arena of which more than this is in use is not worth keeping for the next page.
const KEPT: usize = 1 << 20;

/// Empties an arena, so that no page pays for what the one before it needed.
pub(crate) fn reset_arena(arena: &mut Bump) {
    if arena.allocated_bytes() > KEPT { *arena = Bump::new() } else { arena.reset() }
}
