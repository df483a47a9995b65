//! The World: everything that follows from a snapshot and an asking. Immutable.

mod assembly;
mod checks;
mod compiling;
mod component_calls;
mod globals;
mod prepare_checks;
pub mod status;
pub mod survey;

pub use assembly::*;
pub use checks::in_order;
