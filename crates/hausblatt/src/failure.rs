//! What keeps a command from answering at all, and the exit code for it.

use std::io;

use hausblatt_core::files::Snapshot;
use hausblatt_core::text::codes;
use hausblatt_lang::text::diagnostic::Diagnostic;

/// How a command ended that could answer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[must_use]
pub enum Outcome {
    /// Nothing is wrong: exit code 0.
    Clean,
    /// Something was found that is to be looked at: exit code 1.
    Findings,
}

impl Outcome {
    /// Clean if all is well.
    pub fn of(fine: bool) -> Self {
        if fine { Outcome::Clean } else { Outcome::Findings }
    }

    /// Clean if it is, and all else is well, too.
    pub fn and(self, fine: bool) -> Self {
        if fine { self } else { Outcome::Findings }
    }
}

/// A failure of the command itself.
#[derive(Debug)]
pub enum Failure {
    /// Usage, or a site that can't be loaded: exit code 2. What, and what to do about it.
    Usage(String, Option<String>),
    /// The site, or a file that a command needs as a whole, can't be loaded: exit code 2. The texts, and what is wrong.
    Unloadable(Box<Snapshot>, Vec<Diagnostic>),
    /// The work could not be done: exit code 1. What, and what to do about it.
    Work(String, Option<String>),
}

impl Failure {
    /// A usage failure with help.
    pub fn usage(message: impl Into<String>, help: impl Into<String>) -> Self {
        Failure::Usage(message.into(), Some(help.into()))
    }

    /// Of a site that can't be loaded, where that is all that is known.
    pub fn no_site(message: impl Into<String>, help: Option<String>) -> Self {
        let problem = Diagnostic::of(&codes::NO_SITE, message).maybe_help(help);
        Failure::Unloadable(Box::new(Snapshot::in_memory([])), vec![problem])
    }
}

impl From<io::Error> for Failure {
    fn from(error: io::Error) -> Self {
        Failure::Work(error.to_string(), None)
    }
}
