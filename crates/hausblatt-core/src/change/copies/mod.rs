//! Overriding: a theme's own version of a file, as a copy or as a file that extends the rest.

mod effect;
mod extend;
mod plan;
mod unique_rung;

pub use effect::{Effect, MOST_RENDERED};
pub use extend::Slot;
pub use plan::*;
