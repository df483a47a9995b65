//! Sources and what is said of them: places, diagnostics, near names, the formats of files.

pub mod code;
pub mod codes;
pub mod diagnostic;
pub mod ending;
pub mod source;
pub mod suggest;
