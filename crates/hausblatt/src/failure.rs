//! What keeps a command from answering at all, and the exit code for it.

use std::io;
use std::process::ExitCode;

use hausblatt_core::check::Finding;
use hausblatt_core::files::Snapshot;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::cli::{Common, Format};
use crate::cmd::json;
use crate::show::{diagnostics, sarif, style};

/// A failure of the command itself.
#[derive(Debug)]
pub enum Failure {
    /// Usage, or a site that can't be loaded: exit code 2. What, and what to do about it.
    Usage(String, Option<String>),
    /// The site, or a file that a command needs as a whole, can't be loaded: exit code 2. The texts, and what is wrong.
    Unloadable(Box<Snapshot>, Vec<Diagnostic>),
    /// The work could not be done: exit code 1. What, and what to do about it.
    Work(String, Option<String>),
    /// Whoever read the output has gone.
    Gone,
}

impl Failure {
    /// A usage failure with help.
    pub fn usage(message: impl Into<String>, help: impl Into<String>) -> Self {
        Failure::Usage(message.into(), Some(help.into()))
    }

    /// Of a site that can't be loaded, where that is all that is known.
    pub fn no_site(message: impl Into<String>, help: Option<String>) -> Self {
        let problem = Diagnostic::error("no-site", message).maybe_help(help);
        Failure::Unloadable(Box::new(Snapshot::in_memory([])), vec![problem])
    }

    /// Shows it and gives the exit code.
    pub fn report(self, common: &Common, is_check: bool) -> ExitCode {
        match self {
            Failure::Unloadable(texts, problems) => {
                if let Err(failure) = unloadable(&texts, &problems, common, is_check) {
                    return failure.report(common, is_check);
                }
                ExitCode::from(2)
            }
            Failure::Usage(message, help) => {
                style::failure(&message, help.as_deref());
                ExitCode::from(2)
            }
            Failure::Work(message, help) => {
                style::failure(&message, help.as_deref());
                ExitCode::from(1)
            }
            Failure::Gone => ExitCode::SUCCESS,
        }
    }
}

/// What is wrong with a site that can't be loaded, in the format that was asked for: what reads the answer by program gets
/// one in any case.
fn unloadable(texts: &Snapshot, problems: &[Diagnostic], common: &Common, is_check: bool) -> Result<(), Failure> {
    let all = || problems.iter().map(|problem| diagnostics::json(texts, problem, &[])).collect::<Vec<_>>();
    match common.format {
        Format::Json if is_check => json(&all())?,
        Format::Json => json(&serde_json::json!({ "problems": all() }))?,
        Format::Sarif => {
            let finding = |diagnostic: &Diagnostic| Finding { diagnostic: diagnostic.clone(), addresses: Vec::new() };
            json(&sarif::log(texts, &problems.iter().map(finding).collect::<Vec<_>>()))?;
        }
        Format::Text | Format::Csv => {}
    }
    match problems {
        [problem] if problem.place.is_none() => style::failure(&problem.message, problem.help.as_deref()),
        _ => diagnostics::show(texts, problems, common),
    }
    Ok(())
}

impl From<io::Error> for Failure {
    fn from(error: io::Error) -> Self {
        if error.kind() == io::ErrorKind::BrokenPipe { Failure::Gone } else { Failure::Work(error.to_string(), None) }
    }
}
