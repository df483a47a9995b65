//! Values set: of front matter, of `hausblatt.toml` and of theme manifests, one at a time and no other byte touched.

mod expected;
mod plan;

pub use expected::{data_of, expected, fields_of};
pub use plan::*;
