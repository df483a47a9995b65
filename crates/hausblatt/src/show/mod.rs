//! What the core returns, as text and as data.

pub mod diagnostics;
pub mod ladder;
pub mod resolved;
pub mod style;
