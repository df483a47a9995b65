//! Everything that content and configuration say together: the page tree, collections, terms, addresses, menus.

mod addresses;
mod edited;
mod loading;
mod menus;
mod order;
mod reading;
mod references;

pub use addresses::{Moved, Period, RouteRow, Target};
pub use loading::*;
pub use menus::MenuItem;
pub use references::Link;
pub(crate) use references::SORTS;
pub(crate) use references::reference_syntax;
