//! `resolve`: which file renders an address, and why.

use hausblatt_core::request::Led;
use hausblatt_core::snapshot::Depth;
use hausblatt_core::world::World;
use hausblatt_lang::diagnostic::Diagnostic;

use crate::cli::{Common, Format, ResolveArgs};
use crate::cmd::{json, only, print};
use crate::failure::Failure;
use crate::opened;
use crate::show::resolved::{self, Resolved};

/// Runs the command; false for exit code 1.
pub fn run(common: &Common, args: &ResolveArgs) -> Result<bool, Failure> {
    only(common, &[Format::Text, Format::Json])?;
    let world = opened::open(common, Depth::Heads)?;
    let mut answers = Vec::new();
    let mut problems: Vec<Diagnostic> = world.configuration_problems().cloned().collect();
    let mut fine = true;
    for (at, typed) in args.addresses.iter().enumerate() {
        let address = opened::address(&world, typed)?;
        let (answer, text, ok) = answer(&world, &address, &mut problems);
        fine &= ok;
        if common.format == Format::Json {
            answers.push(answer);
        } else {
            print(&if at > 0 { format!("\n{text}") } else { text })?;
        }
    }
    if common.format == Format::Json {
        json(&answers)?;
    }
    Ok(opened::accept(&world, &problems, common) && fine)
}

fn answer(world: &World, address: &str, problems: &mut Vec<Diagnostic>) -> (Resolved, String, bool) {
    match world.lead(address) {
        Led::Redirect(to) => {
            let path = hausblatt_core::address::asked(address).path;
            (Resolved::redirect(&path, &to), resolved::redirect_text(&path, &to), true)
        }
        Led::Request(request) => {
            let fine = request.status < 400;
            let resolution = world.resolve(request);
            for problem in world.problems_of(&resolution) {
                if !problems.contains(problem) {
                    problems.push(problem.clone());
                }
            }
            (Resolved::of(world, &resolution), resolved::text(world, &resolution), fine)
        }
    }
}
