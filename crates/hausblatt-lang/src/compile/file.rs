//! A file compiled: tokens, tree, places, program.

use std::sync::Arc;

use crate::compile::block;
use crate::html;
use crate::program::Program;
use crate::syntax::lex::lex;
use crate::syntax::parse::{self, parse};
use crate::syntax::slips;
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Problems};
use crate::text::ending::Ending;
use crate::text::source::Place;
use crate::types::{Globals, Type};
use crate::value::datum::Datum;
use crate::value::shape::Interner;

pub use crate::role::Role;

/// A file to compile: its text, where the template begins in it, and what its front matter says.
#[derive(Clone, Debug)]
pub struct Source {
    /// The path for diagnostics.
    pub path: Arc<str>,
    /// The whole file.
    pub text: Arc<str>,
    /// First byte after the front matter.
    pub body: usize,
    /// What it is.
    pub role: Role,
    /// What it is written in.
    pub ending: Ending,
    /// The parameters of `takes`, if it is there; without a default they are required.
    pub takes: Option<Vec<(String, Option<Datum>)>>,
    /// What is known in addition of its parameters, for others of which their defaults say; in a template, of the global
    /// values.
    pub types: Vec<(String, Type)>,
    /// What the calls of the file give for its parameters, if those are known.
    pub flows: Vec<Flow>,
    /// What the next file of its chain takes; a file that goes on and does not say takes that.
    pub next_takes: Option<Vec<(String, Option<Datum>)>>,
}

/// What the calls of a file give for one of its parameters.
#[derive(Clone, Debug, PartialEq)]
pub struct Flow {
    /// The parameter.
    pub name: String,
    /// What is known of all that is given, with the default where a call gives nothing.
    pub of: Type,
    /// One call that gives it.
    pub call: Option<Place>,
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

/// Compiles a file: tokens, tree, places, program. A prepare file has no tags.
///
/// ```
/// use hausblatt_lang::compile::{Role, Source, compile};
/// use hausblatt_lang::text::ending::Ending;
/// use hausblatt_lang::types::{Globals, Type};
/// use hausblatt_lang::value::members;
/// use hausblatt_lang::value::shape::Interner;
///
/// let source = Source {
///     path: "templates/page.html".into(),
///     text: "<h1>+{titel}</h1>".into(),
///     body: 0,
///     role: Role::Template,
///     ending: Ending::Html,
///     takes: None,
///     types: Vec::new(),
///     flows: Vec::new(),
///     next_takes: None,
/// };
/// let mut globals = Globals::default();
/// globals.add("title", Type::Text);
/// let compiled = compile(&source, &globals, &mut Interner::starting_with(members::NAMES));
/// let found = &compiled.diagnostics[0];
/// assert_eq!((compiled.is_sound, found.code), (false, "unknown-name"));
/// assert_eq!(found.help.as_deref(), Some("did you mean \"title\"?"));
/// ```
pub fn compile(source: &Source, globals: &Globals, symbols: &mut Interner) -> Compiled {
    let mut problems = Problems::new(&source.path);
    let program = if source.role == Role::Prepare {
        let statements = parse::prepare::prepare(&source.text, &mut problems);
        block::prepare(source, statements, globals, symbols, &mut problems)
    } else {
        let tokens = lex(&source.text, source.body, &mut problems);
        let foreign =
            slips::foreign_tag(&source.text, &tokens).filter(|_| matches!(source.ending, Ending::Html | Ending::Xml));
        if let Some((span, help)) = foreign {
            let diagnostic =
                Diagnostic::of(&codes::FOREIGN_TAG, "this is printed as it is: tags are written +{…} here");
            problems.push(span, diagnostic.help(help));
        }
        let stray = slips::bare_tag(&source.text, &tokens).filter(|_| source.ending == Ending::Html);
        if let Some((span, message, help)) = stray {
            problems.push(span, Diagnostic::of(&codes::FOREIGN_TAG, message).help(help));
        }
        let mut tree = parse(&source.text, &tokens, &mut problems);
        if matches!(source.role, Role::Partial | Role::Component) && source.ending != Ending::Text {
            parse::edges::cut(&mut tree);
        }
        // Where blocks are not closed, what branches open and close is not known.
        let is_whole = !problems.has(&codes::UNCLOSED_BLOCK);
        if is_whole {
            html::balance::check(&tree, &source.text, source.ending, &mut problems);
        }
        let goes_on = tree.goes_on();
        let placement = html::place(tree, source.ending, &mut problems);
        if source.ending == Ending::Html {
            html::unended::check(&source.text, &tokens, &mut problems);
        }
        if !is_whole {
            problems.forget(&[&codes::BRANCHES_DIFFER, &codes::OPEN_HTML]);
        }
        let takes = source.takes.as_ref().or(source.next_takes.as_ref().filter(|_| goes_on));
        block::program(source, takes.map_or(&[][..], Vec::as_slice), placement, globals, symbols, &mut problems)
    };
    compiled(program, problems)
}

/// Compiles one value, as any template of a site could write it.
pub fn compile_value(path: &Arc<str>, text: &str, globals: &Globals, symbols: &mut Interner) -> Compiled {
    let mut problems = Problems::new(path);
    let value = parse::prepare::value(text, &mut problems);
    let source = Source {
        path: path.clone(),
        text: text.into(),
        body: 0,
        role: Role::Prepare,
        ending: Ending::Html,
        takes: None,
        types: Vec::new(),
        flows: Vec::new(),
        next_takes: None,
    };
    let program = block::single(&source, value, globals, symbols, &mut problems);
    compiled(program, problems)
}

fn compiled(program: Program, problems: Problems) -> Compiled {
    let diagnostics = problems.into_list();
    let is_sound = !diagnostics.iter().any(Diagnostic::is_error);
    Compiled { program, is_sound, diagnostics }
}

/// The names that a prepare file sets. What is wrong with it is reported when it is compiled.
pub fn prepared_names(text: &str) -> Vec<String> {
    let mut unheard = Problems::new(&"".into());
    parse::prepare::prepare(text, &mut unheard).into_iter().map(|(name, _)| name.text).collect()
}
