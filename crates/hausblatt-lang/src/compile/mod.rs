//! Placed tree to program: names bound to numbered places, values to flat code.

mod block;
mod scope;
mod value;

use std::sync::Arc;

use crate::datum::Datum;
use crate::diagnostic::{Diagnostic, Faults};
use crate::html;
use crate::lex::lex;
use crate::parse::parse;
use crate::program::Program;
use crate::shape::Interner;
use crate::types::Globals;

/// What a file is, as far as the language has to know.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// Renders a request; fills outside a call are its layout's.
    Template,
    /// Stands around a template's output; may fill a layout around it.
    Layout,
    /// Is called by name.
    Partial,
}

/// A file to compile: its text, where the template begins in it, and what its front matter says.
#[derive(Clone, Debug)]
pub struct Source {
    /// The path for diagnostics.
    pub path: Arc<str>,
    /// The whole file.
    pub text: Arc<str>,
    /// First byte behind the front matter.
    pub body: usize,
    /// What it is.
    pub role: Role,
    /// The parameters of `takes`, if it is there; without a default they are required.
    pub takes: Option<Vec<(String, Option<Datum>)>>,
}

/// A compiled file and what is to be said about it.
#[derive(Debug)]
pub struct Compiled {
    /// The program. It may be run only if it is sound; else it serves to check what it calls.
    pub program: Program,
    /// Whether no diagnostic is an error.
    pub is_sound: bool,
    /// Errors and warnings, by place.
    pub diagnostics: Vec<Diagnostic>,
}

/// Compiles a file: tokens, tree, places, program.
pub fn compile(source: &Source, globals: &Globals, symbols: &mut Interner) -> Compiled {
    let mut faults = Faults::new(&source.path);
    let tokens = lex(&source.text, source.body, &mut faults);
    let tree = parse(&source.text, &tokens, &mut faults);
    let placement = html::place(tree, &mut faults);
    let program = block::program(source, placement, globals, symbols, &mut faults);
    let diagnostics = faults.into_list();
    let is_sound = !diagnostics.iter().any(Diagnostic::is_error);
    Compiled { program, is_sound, diagnostics }
}
