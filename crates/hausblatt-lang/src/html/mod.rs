//! Where in the HTML each tag is: tree to placed tree.

pub mod balance;
mod css;
mod json;
pub mod names;
pub mod place;
pub mod placed;
pub(crate) mod scanner;
mod script;
mod srcset;
pub(crate) mod unended;
pub mod url;
mod walk;

pub use scanner::body_end;
pub use walk::Placement;
pub use walk::place;
