//! Why a command failed, as it is shown, and the exit code.

use std::process::ExitCode;

use hausblatt_core::check::Finding;
use hausblatt_core::files::Snapshot;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::cmd::json;
use crate::failure::Failure;
use crate::options::{Common, Format};
use crate::show::{diagnostics, sarif, style};

/// Shows a failure and gives the exit code.
pub fn report(failure: Failure, common: &Common, is_check: bool) -> ExitCode {
    match failure {
        Failure::Unloadable(texts, problems) => {
            if let Err(failure) = unloadable(&texts, &problems, common, is_check) {
                return report(failure, common, is_check);
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
    }
}

/// What is wrong with a site that can't be loaded, in the requested format: what reads the answer by program gets
/// one in any case.
fn unloadable(texts: &Snapshot, problems: &[Diagnostic], common: &Common, is_check: bool) -> Result<(), Failure> {
    let all = || problems.iter().map(|problem| diagnostics::json(texts, problem, &[])).collect::<Vec<_>>();
    match common.format {
        Format::Json if is_check => json(&all())?,
        Format::Json => json(&serde_json::json!({ "problems": all() }))?,
        Format::Sarif => {
            let finding = |diagnostic: &Diagnostic| Finding {
                diagnostic: diagnostic.clone(),
                addresses: Vec::new(),
                also: Vec::new(),
            };
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
