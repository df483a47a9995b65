//! Fields that content carries: their declarations, and values converted to the declared types.

mod colors;
mod convert;
mod declared;
mod picture;
mod types;

pub(crate) use convert::colors_lost_to_comments;
pub(crate) use convert::lost_color;
pub use convert::{convert, picture, plain, settle};
pub(crate) use convert::{is_color, picture_address, within};
pub(crate) use declared::TYPES;
pub(crate) use declared::without_taken;
pub use declared::{declared, listed};
pub(crate) use picture::Picture;
pub use types::*;
