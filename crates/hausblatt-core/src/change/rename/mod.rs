//! Theme files renamed, with all that names them.

mod collect;
mod edits;
mod names;
mod names_plan;
mod plan;
mod proof;
mod references;
mod thing;

pub use plan::{MovedAddress, Renaming, renamable, rename};
pub use proof::{MOST_RENDERED, Proof};
