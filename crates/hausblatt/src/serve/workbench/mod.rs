//! The workbench at `/~/`: the whole site looked at from the developer's side, as pages that work without a script.

mod address;
mod chart;
mod compared;
mod components;
mod content;
mod controls;
mod file;
mod kept;
mod map;
mod menus;
mod missed;
mod offered;
mod page_request;
mod pages;
mod posts;
mod problems;
mod rehearsal;
mod search;
mod settings;
mod trays;
mod tried;
mod widths;

use page_request::{PageRequest, Query};
pub use pages::*;
pub use rehearsal::Rehearsals;
