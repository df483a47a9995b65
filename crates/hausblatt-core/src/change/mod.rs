//! Changes, planned and held against the site before they are written: choices, copies, new files, suppositions.

pub mod changes;
pub mod choose;
pub mod copies;
pub mod drift;
pub mod edit;
pub mod extending;
pub mod extract;
pub mod fitting;
pub mod former;
pub mod moving;
pub mod neaten;
pub mod remedies;
pub mod rename;
pub mod set;
pub mod start;
pub mod suppose;
