//! From an address to a request, from a request to its ladder, from the ladder to the file that renders.

pub(crate) mod content_links;
pub mod file_argument;
pub mod ladder;
pub mod loads;
pub mod map;
pub(crate) mod offers;
pub mod public;
pub mod resolution;
mod routing;
