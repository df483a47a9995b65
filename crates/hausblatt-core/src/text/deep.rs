//! What calls itself for what is inside of a text, on a stack that is large enough for it.

use std::thread;

/// The most stack that may be taken, in bytes. It is taken from the system only as far as it is used.
const MOST_STACK: usize = 512 << 20;

/// What `read` gives, run with so much stack, in bytes; nothing where so much is not to be had, or where it ends in a mistake
/// of its own.
pub(crate) fn with_stack<T: Send>(stack: usize, read: impl FnOnce() -> T + Send) -> Option<T> {
    if stack > MOST_STACK {
        return None;
    }
    thread::scope(|scope| {
        let reading = thread::Builder::new().stack_size(stack).spawn_scoped(scope, read);
        reading.ok().and_then(|reading| reading.join().ok())
    })
}
