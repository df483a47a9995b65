//! Where in the HTML each tag stands: tree to placed tree.

pub mod place;
pub mod placed;
mod scanner;
mod walk;

pub use walk::{Placement, place};
