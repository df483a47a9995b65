//! Theme files renamed, with all that names them.

mod collect;
mod edits;
mod names;
mod names_plan;
mod place;
mod plan;
mod proof;
mod references;
mod same;
mod thing;

pub use place::{Named, NamedAt, Uses, definitions, links_in, named_at, next_of, uses};
pub(crate) use plan::in_theme;
pub use plan::{MovedAddress, Renaming, renamable, rename};
pub use proof::{MOST_RENDERED, Proof};
pub(crate) use same::{Theirs, prove_same};
