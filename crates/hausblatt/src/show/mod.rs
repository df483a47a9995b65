//! What the core returns, as text and as data.

pub mod changes;
pub mod chart;
pub mod diagnostics;
pub mod difference;
pub mod ladder;
pub mod parts;
pub mod resolved;
pub mod sarif;
pub mod style;
pub mod table;
pub mod values;
