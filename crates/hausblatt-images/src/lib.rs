//! Images as files of pixels: what they are, how they are asked for, and how they are made. Nothing here knows a site.

mod head;
mod pixels;
mod recipe;

pub use head::{ImageFormat, ImageHead, ImageKind, Turn, read_head};
pub use pixels::{MOST_PIXELS, cost, make};
pub use recipe::Recipe;
