//! `chart`: the ladders as a picture.

use std::fs;

use hausblatt_core::files::Depth;
use hausblatt_core::lookup::request::Led;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::cli::ChartArgs;
use crate::cmd::{only, print};
use crate::failure::Failure;
use crate::opened;
use crate::options::{Common, Format};
use crate::show::chart::{one, whole};
use crate::show::style::{GOOD, plain, styled};

/// Runs the command; false for exit code 1.
pub fn run(common: &Common, args: &ChartArgs) -> Result<bool, Failure> {
    only(common, &[Format::Text])?;
    let world = opened::open(common, Depth::Heads)?;
    let drawing = match &args.address {
        None => whole(world),
        Some(typed) => {
            let address = opened::address(world, typed)?;
            match world.lead(&address) {
                Led::Request(request) => one(world, &world.resolve(request)),
                Led::Redirect(to) => {
                    let help = format!("name it: hausblatt chart {to}");
                    return Err(Failure::usage(format!("{address} only leads to {to}"), help));
                }
            }
        }
    };
    match &args.out {
        Some(path) => {
            fs::write(path, drawing.file())
                .map_err(|error| Failure::Work(format!("{} can't be written: {error}", path.display()), None))?;
            if !common.quiet {
                print(&format!("{} {}\n", styled(GOOD, "written:"), plain(&path.display().to_string())))?;
            }
        }
        None => print(&drawing.file())?,
    }
    let errors: Vec<Diagnostic> = world.problems.iter().filter(|problem| problem.is_error()).cloned().collect();
    opened::accept(world, &errors, common);
    Ok(true)
}
