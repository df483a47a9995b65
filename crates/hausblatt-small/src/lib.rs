//! Style sheets and scripts made small: what browsers read is the same, in fewer bytes. Nothing here knows a site.
//!
//! What is read nests as deep as it is written, and the libraries call themselves for what is inside: the caller gives them
//! the stack for that.

mod browsers;
mod scripts;
mod styles;

pub use browsers::{BROWSERS, Browsers};
pub use scripts::small_script;
pub use styles::{IMPORTED, NotSmall, small_styles};
