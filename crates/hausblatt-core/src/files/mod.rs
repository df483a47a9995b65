//! The site's files: the trait that all reading and writing goes through, what is known of a file, all files at one
//! moment, and changes that are written as a whole.

pub mod disk;
pub mod edit;
mod file_system;
pub mod front_matter_edit;
pub mod journal;
mod kept_images;
mod made_images;
pub mod memory;
mod node;
mod scan;
mod snapshot;
mod stamp;

pub use file_system::{FileKind, FileReader, Files, FolderEntry, Links, Look};
pub use kept_images::{KEPT_IMAGES, KeptImages};
pub use made_images::{MADE, MadeImage, MadeImages, made_in, whole_image};
pub(crate) use node::digest_of;
pub use node::{Body, FileNode};
pub(crate) use scan::ORIGINALS;
pub use scan::{LeftOut, PARTS, Why};
pub use snapshot::{Depth, Snapshot};
pub use stamp::Stamp;
