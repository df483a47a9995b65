//! From a source to a tree: tokens, words, statements and values.

pub mod lex;
pub mod parse;
pub(crate) mod slips;
pub mod tree;
pub(crate) mod words;
