//! The commands: each turns what was typed into a question to the core, and shows the answer.

pub mod build;
pub mod changing;
pub mod chart;
pub mod check;
pub mod demo;
pub mod drift;
pub mod editing;
pub mod expect;
mod failed;
pub mod files;
pub mod map;
pub mod missed;
pub mod needs;
pub mod overriding;
pub mod pack;
pub mod reach;
pub mod rehearse;
pub mod render;
pub mod resolve;
pub mod serve;
pub mod start;
pub mod suppose;
pub mod themes;
pub mod values;

use std::io::{self, Write};

use serde::Serialize;

use crate::failure::Failure;
use crate::options::{Common, Format};

pub use failed::report;

/// Prints an answer as JSON.
pub fn json(answer: &impl Serialize) -> Result<(), Failure> {
    let text = serde_json::to_string_pretty(answer).map_err(|error| Failure::Work(error.to_string(), None))?;
    print(&format!("{text}\n"))
}

/// Prints text on standard output. Where colours are not wanted they are taken out first: piece by piece, each would be
/// a write of its own.
pub fn print(text: &str) -> Result<(), Failure> {
    let bare = match anstream::AutoStream::choice(&io::stdout()) {
        anstream::ColorChoice::Never => Some(anstream::adapter::strip_str(text).to_string()),
        _ => None,
    };
    let mut out = anstream::stdout();
    let whole = match &bare {
        Some(bare) => io::stdout().write_all(bare.as_bytes()),
        None => out.write_all(text.as_bytes()),
    };
    written(whole.and_then(|()| out.flush()))
}

/// What came of writing an answer. A reader that has gone is not a failure: the command goes on to its own exit code.
pub fn written(result: io::Result<()>) -> Result<(), Failure> {
    match result {
        Err(error) if error.kind() == io::ErrorKind::BrokenPipe => Ok(()),
        other => other.map_err(Failure::from),
    }
}

/// Refuses a format that a command can't answer in.
pub fn only(common: &Common, formats: &[Format]) -> Result<(), Failure> {
    if formats.contains(&common.format) {
        return Ok(());
    }
    let words: Vec<String> = formats.iter().map(|format| format!("{format:?}").to_lowercase()).collect();
    Err(Failure::usage(
        format!("this command can't answer as {}", format!("{:?}", common.format).to_lowercase()),
        format!("its formats are {}", words.join(", ")),
    ))
}
