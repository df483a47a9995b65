//! `build`: the whole site into a folder.

use std::path::Path;
use std::time::Instant;

use hausblatt_core::build::{BuildError, Options, Report, build};
use hausblatt_core::snapshot::Depth;
use hausblatt_core::world::World;
use hausblatt_lang::diagnostic::Diagnostic;
use indicatif::{ProgressBar, ProgressStyle};
use serde::Serialize;

use crate::cli::{BuildArgs, Common, Format};
use crate::cmd::{json, only, print};
use crate::failure::Failure;
use crate::opened;
use crate::show::diagnostics;
use crate::show::style::{BAD, GOOD, plain, styled};

/// What a build did, as JSON.
#[derive(Serialize)]
struct Built {
    pages: usize,
    written: usize,
    unchanged: usize,
    removed: usize,
    bytes: u64,
    seconds: f64,
}

/// Runs the command; false for exit code 1.
pub fn run(common: &Common, args: &BuildArgs) -> Result<bool, Failure> {
    only(common, &[Format::Text, Format::Json])?;
    let start = Instant::now();
    let work = || -> Result<bool, Failure> {
        let world = opened::open(common, Depth::Whole)?;
        let out = args.out.clone().unwrap_or_else(|| world.snapshot.root().join("built"));
        let (report, fine) = into(world, &out, args.map, common)?;
        let seconds = start.elapsed().as_secs_f64();
        if common.format == Format::Json {
            let Report { pages, written, unchanged, removed, bytes, .. } = report;
            json(&Built { pages, written, unchanged, removed, bytes, seconds })?;
        } else if !common.quiet {
            print(&summary(&report, &out, seconds, fine))?;
        }
        Ok(fine)
    };
    let threads = args.jobs.map_or(0, usize::from);
    let pool = rayon::ThreadPoolBuilder::new()
        .num_threads(threads)
        .build()
        .map_err(|error| Failure::Work(error.to_string(), None))?;
    pool.install(work)
}

/// Builds into `out` and shows the problems; false if anything failed.
pub fn into(world: &World, out: &Path, map: bool, common: &Common) -> Result<(Report, bool), Failure> {
    // A collection that fell out by a slip of the pen must not take its pages with it.
    let configuration: Vec<Diagnostic> =
        world.configuration_problems().filter(|problem| problem.is_error()).cloned().collect();
    if !configuration.is_empty() {
        diagnostics::show(&world.snapshot, &configuration, common);
        return Err(Failure::Work("nothing was built".to_owned(), Some("mend the configuration first".to_owned())));
    }
    let options = Options { out: out.to_owned(), map };
    let bar = progress_bar(common);
    let tick = |done: usize, all: usize| {
        if done.is_multiple_of(64) || done == all {
            bar.set_length(all as u64);
            bar.set_position(done as u64);
        }
    };
    let result = build(world, &options, &tick);
    bar.finish_and_clear();
    let report = result.map_err(|error| refused(world, error, common))?;
    let mut problems: Vec<Diagnostic> = world.problems.clone();
    problems.extend(report.diagnostics.iter().filter(|diagnostic| !world.problems.contains(diagnostic)).cloned());
    let fine = opened::accept(world, &problems, common);
    for (address, status) in &report.failed {
        let what = if *address == format!("/{status}.html") {
            "has faults; a plain page stands in for it".to_owned()
        } else if *status == 500 {
            "has faults; what an earlier build put there stays".to_owned()
        } else {
            format!("answers with {status}: it gets no file")
        };
        anstream::eprintln!("{} {} {what}", styled(BAD, "not built:"), plain(address));
    }
    Ok((report, fine))
}

fn progress_bar(common: &Common) -> ProgressBar {
    if common.quiet {
        return ProgressBar::hidden();
    }
    // Drawn on standard error, and only if that is a terminal.
    let bar = ProgressBar::new(0);
    if let Ok(style) = ProgressStyle::with_template("building {bar:30} {pos}/{len}") {
        bar.set_style(style);
    }
    bar
}

fn refused(world: &World, error: BuildError, common: &Common) -> Failure {
    match error {
        BuildError::Folder(message, help) => Failure::Work(message, Some(help)),
        BuildError::Locked => Failure::Work(
            "another build of this folder is under way".to_owned(),
            Some("wait until it has ended".to_owned()),
        ),
        BuildError::Io(path, error) => Failure::Work(format!("{} can't be written: {error}", path.display()), None),
        BuildError::Clash(problems) => {
            diagnostics::show(&world.snapshot, &problems, common);
            Failure::Work("nothing was built".to_owned(), None)
        }
    }
}

fn summary(report: &Report, out: &Path, seconds: f64, fine: bool) -> String {
    let size = if report.bytes >= 10_000_000 {
        format!("{} MB", report.bytes / 1_000_000)
    } else {
        format!("{} kB", report.bytes.div_ceil(1000))
    };
    let out = plain(&out.display().to_string());
    let head = if fine {
        format!("{} {} pages into {out}", styled(GOOD, "Built"), report.pages)
    } else {
        let good = report.pages.saturating_sub(report.failed.len());
        format!("{} {good} of {} pages into {out}", styled(BAD, "Built with errors:"), report.pages)
    };
    format!(
        "{head} ({size}, {seconds:.2} s): {} files written, {} unchanged, {} removed.\n",
        report.written, report.unchanged, report.removed
    )
}
