//! From a source to a tree: tokens, words, statements and values.

pub mod lex;
pub mod parse;
pub mod tree;
pub(crate) mod words;
