//! What the core returns, as text and as data.

pub mod diagnostics;
pub mod ladder;
pub mod parts;
pub mod resolved;
pub mod style;
pub mod values;
