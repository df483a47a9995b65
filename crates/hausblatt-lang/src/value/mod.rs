//! Values and what is done with them: members, functions, operators, printing.

pub mod arithmetic;
mod borrowed;
pub mod context;
pub mod datum;
pub mod dependencies;
pub(crate) mod distinct;
pub mod dump;
mod escaped;
pub mod functions;
pub mod host;
pub mod json;
pub mod language;
pub mod members;
pub mod moment;
pub(crate) mod number;
pub mod operators;
pub mod print;
pub mod shape;
pub mod tray;

pub use borrowed::{Record, Scratch, Seq, Value};
pub use escaped::EscapedText;
