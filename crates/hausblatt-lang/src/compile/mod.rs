//! Placed tree to program: names bound to numbered places, values to flat code.

mod block;
mod file;
mod never;
mod planning;
mod scope;
mod value;

pub use file::*;
