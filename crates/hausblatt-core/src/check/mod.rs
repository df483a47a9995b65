//! What is wrong with a site, found by reading, compiling and rendering all of it.
//!
//! Each check is a file here: its code, its words, what it looks at, its tests. `OWN` of `rules/mod.rs` lists them all, with what is
//! reported already when a site is loaded and its pages are rendered (`text/codes.rs` here and in the language).

mod alike;
mod allowed;
mod causes;
mod fixes;
mod images;
mod inline;
mod layouts;
mod links;
mod locate;
mod lost;
mod named;
mod parsed;
mod rules;
mod run;
mod saved;
mod seen_pages;
#[cfg(test)]
mod tests;
mod view;
mod weight;

pub use allowed::can_be_excepted;
pub(crate) use allowed::{fitting, unused};
pub use fixes::fixes;
pub(crate) use locate::{Located, in_template};
pub(crate) use parsed::Parsed;
pub(crate) use rules::broken_link::CHECK as BROKEN_LINK;
pub(crate) use rules::missing_field::CHECK as MISSING_FIELD;
pub(crate) use rules::no_alt::CHECK as NO_ALT;
pub(crate) use rules::site_needs::MISSING as MISSING_NEEDS;
pub use run::*;
pub use saved::SEEN;
pub use seen_pages::{LARGE, SeenPages};
pub(crate) use view::PageProblem;
pub use weight::heavy_pages;
