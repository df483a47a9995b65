//! What keeps a command from answering at all, and the exit code for it.

use std::io;
use std::process::ExitCode;

use crate::show::style;

/// A failure of the command itself.
#[derive(Debug)]
pub enum Failure {
    /// Usage, or a site that can't be loaded: exit code 2. What, and what to do about it.
    Usage(String, Option<String>),
    /// The site can't be loaded, and the diagnostics were shown: exit code 2.
    Shown,
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

    /// Shows it and gives the exit code.
    pub fn report(self) -> ExitCode {
        match self {
            Failure::Usage(message, help) => {
                style::failure(&message, help.as_deref());
                ExitCode::from(2)
            }
            Failure::Work(message, help) => {
                style::failure(&message, help.as_deref());
                ExitCode::from(1)
            }
            Failure::Shown => ExitCode::from(2),
            Failure::Gone => ExitCode::SUCCESS,
        }
    }
}

impl From<io::Error> for Failure {
    fn from(error: io::Error) -> Self {
        if error.kind() == io::ErrorKind::BrokenPipe { Failure::Gone } else { Failure::Work(error.to_string(), None) }
    }
}
