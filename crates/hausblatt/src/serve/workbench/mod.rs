//! The workbench at `/~/`: the whole site looked at from the developer's side, as pages that work without a script.

mod address;
mod chart;
mod components;
mod file;
mod map;
mod missed;
mod offered;
mod pages;
mod problems;
mod rehearsal;
mod settings;
mod widths;

pub use pages::*;
pub use rehearsal::Rehearsals;
