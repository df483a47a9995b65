//! Images as files of pixels: what they are, what is wanted of them, and how they are made. Nothing here knows a site.

mod head;
mod pixels;
mod recipe;

pub use head::{ImageFormat, ImageHead, ImageKind, Turn, read_head};
pub use pixels::{MOST_PIXELS, cost, make};
pub use recipe::Recipe;
