//! Front matter: the YAML between two lines of `---` at the very start of a file.

mod flat;
mod read;
mod yaml;

pub use read::*;
pub use yaml::whole as yaml;
