//! The compiled form of a file: flat code in which each step carries the text before it.

pub(crate) mod memory;
mod steps;
mod words;

pub use memory::Memory;
pub use steps::*;
pub use words::{Meaning, Word};
