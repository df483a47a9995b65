//! Theme files renamed, with all that names them.

mod collect;
mod edits;
mod plan;
mod proof;

pub use plan::{Renaming, rename};
pub use proof::{MOST_RENDERED, Proof};
