//! The ladders as images: SVG with text as text, for light and dark screens and for paper.

mod drawing;
mod one;
mod whole;

pub use drawing::*;
pub use one::one;
pub use whole::whole;
