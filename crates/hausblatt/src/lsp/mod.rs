//! The language server: editors ask over the Language Server Protocol (3.17) on standard input and output, and are answered from
//! the site with the texts that are not saved yet in it. Nothing here writes a file: edits go through the editor.
//!
//! [`server`] reads messages and hands them on, [`sites`] keeps a World for each site, [`positions`] turns places of editors into
//! places of files; the others answer.

mod actions;
mod commands;
mod complete;
mod diagnostics;
mod edits;
mod hover;
mod lenses;
mod navigate;
mod outline;
mod pipes;
mod positions;
mod rendered;
mod samples;
mod server;
mod sites;
mod tokens;

pub use server::run;
