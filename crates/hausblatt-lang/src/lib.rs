//! The template language of Hausblatt. It knows nothing of sites, themes or files.
//!
//! The stages, each with one door: [`syntax::lex`] cuts a source into tokens, [`syntax::parse`] makes a tree of
//! them, [`html`] gives every hole its place in the HTML, [`compile`] binds names and makes a flat
//! [`program`], and [`render`] runs it over [`value`]s. Whatever is wrong is a [`text::diagnostic`].

pub mod compile;
pub mod edit;
pub mod escape;
mod flow;
pub mod html;
pub mod library;
pub mod program;
pub mod render;
pub mod role;
pub mod syntax;
pub mod text;
pub mod types;
pub mod value;

pub use syntax::words::may_name;
