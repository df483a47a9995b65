//! The template language of Hausblatt. It knows nothing of sites, themes or files.
//!
//! The stages, each with one door: [`lex`] cuts a source into tokens, [`parse`] makes a tree of
//! them, [`html`] gives every hole its place in the HTML, [`compile`] binds names and makes a flat
//! [`program`], and [`render`] runs it over [`value`]s. Whatever is wrong is a [`diagnostic`].

pub mod address;
pub mod arithmetic;
pub mod compile;
pub mod context;
pub mod datum;
pub mod diagnostic;
mod distinct;
pub mod dump;
pub mod ending;
pub mod escape;
mod evaluate;
pub mod functions;
pub mod host;
pub mod html;
mod json;
pub mod language;
pub mod lex;
pub mod library;
pub mod members;
pub mod moment;
pub mod near;
mod number;
pub mod operators;
pub mod parse;
pub mod print;
pub mod program;
mod query;
pub mod render;
pub mod shape;
pub mod source;
mod style;
pub mod tree;
pub mod types;
pub mod value;
mod words;

pub use words::may_name;
