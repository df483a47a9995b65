//! Themes in one file: packed so that the same files give the same bytes, and unpacked only where nothing can be harmed.

mod archive;
mod packing;
mod unpacking;

pub use archive::{Archive, MOST_BYTES, MOST_FILES, digest};
pub use packing::{Packing, pack};
pub use unpacking::{Became, Unpacking, unpack};
