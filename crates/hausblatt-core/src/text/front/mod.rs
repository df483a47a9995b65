//! Front matter: the YAML between two lines of `---` at the very start of a file.

mod change;
mod flat;
mod read;
pub(crate) mod write;
mod yaml;

pub use change::{NotChanged, changed};
pub use read::*;
pub use write::{list_item, one_line};
pub use yaml::whole as yaml;
