//! `chart`: the ladders as an image.

use std::io;
use std::path::Path;

use hausblatt_core::files::edit::{put, replace_as, sweep};
use hausblatt_core::files::{Depth, FileKind, Files, Links};
use hausblatt_core::model::request::Routed;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::cli::ChartArgs;
use crate::cmd::print;
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::Common;
use crate::show::chart::{BEGINNING, one, whole};
use crate::show::style::{GOOD, STRONG, plain, styled};

/// Runs the command.
pub fn run(common: &Common, args: &ChartArgs) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Heads)?;
    let drawing = match &args.address {
        None => whole(world),
        Some(typed) => {
            let address = opened::address(world, typed)?;
            match world.route(&address) {
                Routed::Request(request) => {
                    let resolution = world.resolve(request);
                    one(&world.explain(&resolution, world.status(&resolution)))
                }
                Routed::Redirect(to) => {
                    let help = format!("name it: hausblatt chart {to}");
                    return Err(Failure::usage(format!("{address} only leads to {to}"), help));
                }
            }
        }
    };
    match &args.out {
        Some(path) => {
            write(path, drawing.file().as_bytes(), args.force)?;
            if !common.quiet {
                print(&format!("{} {}\n", styled(GOOD, "Wrote"), styled(STRONG, &plain(&path.display().to_string()))))?;
            }
        }
        None => print(&drawing.file())?,
    }
    let errors: Vec<Diagnostic> = world.problems.iter().filter(|problem| problem.is_error()).cloned().collect();
    Ok(opened::accept(world, &errors, common))
}

/// Writes a chart, in the place of nothing or of a chart, unless another file is to be replaced by `force`.
fn write(path: &Path, bytes: &[u8], force: bool) -> Result<(), Failure> {
    let disk = opened::disk();
    let files: &dyn Files = &disk;
    let failed = |error: io::Error| Failure::Work(format!("{} can't be written: {error}", path.display()), None);
    let target = files.resolved(path).map_err(failed)?;
    target.parent().into_iter().for_each(|folder| sweep(files, folder));
    let there = match files.look(&target, Links::Keep) {
        Err(error) if error.kind() == io::ErrorKind::NotFound => {
            let create = |temporary: &Path| files.create(temporary, bytes, None);
            return put(files, &target, create, |temporary| files.rename_to_new(temporary, &target)).map_err(failed);
        }
        looked => looked.map_err(failed)?,
    };
    let is_chart =
        there.kind == FileKind::File && files.read_own(&target).map_err(failed)?.starts_with(BEGINNING.as_bytes());
    match there.kind {
        FileKind::File if is_chart || force => replace_as(files, &target, bytes).map_err(failed),
        FileKind::File => Err(Failure::Work(
            format!("{} exists, and is not a chart", path.display()),
            Some("choose another name, or replace it with --force".to_owned()),
        )),
        _ => Err(Failure::Work(format!("{} is not a file", path.display()), Some("name a file".to_owned()))),
    }
}
