//! Changes, planned and held against the site before they are written: choices, copies, new files, suppositions.

pub mod assign;
pub mod changes;
pub mod copies;
pub mod drift;
pub mod former;
pub mod start;
pub mod suppose;
