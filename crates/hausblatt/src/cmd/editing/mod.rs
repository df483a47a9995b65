//! Commands that write what content and configuration say, and what takes any change back.

pub mod choose;
pub mod set;
pub mod undo;
