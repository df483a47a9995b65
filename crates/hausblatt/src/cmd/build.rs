//! `build`: the whole site into a folder.

use std::fmt::Write;
use std::fs;
use std::path::Path;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};
use std::time::{Duration, Instant};

use hausblatt_core::build::{
    Before, BuildError, BuildPart, ChangeKind, DryRun, EarlierBuild, Options, PlannedChange, Progress, Report, before,
    build, build_after, dry_run,
};
use hausblatt_core::files::{Depth, Snapshot};
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::{Diagnostic, distinct};
use indicatif::{ProgressBar, ProgressStyle};
use serde::Serialize;

use crate::cli::BuildArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::diagnostics;
use crate::show::difference::coloured;
use crate::show::style::{BAD, FAINT, GOOD, NOTE, plain, styled};
use crate::show::table::counted;

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

/// Runs the command.
pub fn run(common: &Common, args: &BuildArgs) -> Result<Outcome, Failure> {
    let start = Instant::now();
    let work = || -> Result<Outcome, Failure> {
        let mut stages = Stages::default();
        let (snapshot, asking) = opened::read(common, Depth::Digests)?;
        opened::note_interrupted(&snapshot);
        stages.end("reading the files");
        let out = args.out.clone().unwrap_or_else(|| snapshot.root().join("built"));
        let part = args.part.unwrap_or(BuildPart::WHOLE);
        // Others may be of the site as it is today.
        let clears_images = common.theme.is_none() && common.as_of.is_none() && !common.drafts;
        if let Some(file) = args.changed_list.as_ref().filter(|file| is_below(file, &out)) {
            let message = format!("{} would be published with the site", file.display());
            return Err(Failure::Work(message, Some("write the list outside of the folder that is built".to_owned())));
        }
        let options = Options {
            out: out.clone(),
            map: args.map,
            marks: args.marks,
            compressed: args.compressed,
            part,
            clears_images,
        };
        if args.dry_run || args.diff {
            let world = opened::load(snapshot, asking)?;
            return dry(world, &options, args.diff, common, start);
        }
        let before = before(&snapshot, &asking, &options);
        stages.end("looking for what has changed");
        let (report, outcome) = match before {
            Ok(Before::Built(report)) => {
                let outcome = accept(&snapshot, &[], &report.diagnostics, (&report.failed, &report.answered), common);
                stays(&report, common);
                (report, outcome)
            }
            Ok(Before::Earlier(earlier)) => {
                let world = opened::load(snapshot, asking)?;
                stages.end("working out the site");
                in_stages(world, &options, Some(earlier), common, &mut stages)?
            }
            // What is wrong with the site comes first.
            Err(error) => {
                check_configuration(opened::load(snapshot, asking)?, common)?;
                return Err(refused(error));
            }
        };
        if common.verbose {
            crate::tell_part!("{}", stages.text());
        }
        if let Some(file) = &args.changed_list {
            write_changed(file, &report.changed)?;
        }
        let seconds = start.elapsed().as_secs_f64();
        if common.format == Format::Json {
            let Report { pages, written, unchanged, removed, bytes, .. } = report;
            json(&Built { pages, written, unchanged, removed, bytes, seconds })?;
        } else if !common.quiet {
            print(&summary(&report, &out, seconds, outcome))?;
        }
        Ok(outcome)
    };
    let threads = args.jobs.map_or(0, usize::from);
    let pool =
        rayon::ThreadPoolBuilder::new().num_threads(threads).build().map_err(|error| opened::no_threads(&error))?;
    pool.install(work)
}

/// Whether a file would be in a folder, or below it.
fn is_below(file: &Path, folder: &Path) -> bool {
    let above = file.parent().filter(|above| !above.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let real = |path: &Path| path.canonicalize().ok();
    real(above).zip(real(folder)).is_some_and(|(above, folder)| above.starts_with(folder))
}

/// Writes the paths of the files that were written or removed, for programs that upload them.
fn write_changed(file: &Path, changed: &[Arc<str>]) -> Result<(), Failure> {
    if let Some(path) = changed.iter().find(|path| path.contains('\n')) {
        let message = format!("{} can't list the file {path:?}: a line break is in its name", file.display());
        return Err(Failure::Work(message, Some("give it another name; the site is built".to_owned())));
    }
    let text: String = changed.iter().map(|path| format!("{path}\n")).collect();
    fs::write(file, text).map_err(|error| {
        let message = format!("{} can't be written: {error}", file.display());
        Failure::Work(message, Some("the site is built; upload all of it".to_owned()))
    })
}

/// Where the time of a build went.
struct Stages {
    began: Instant,
    ended: Vec<(&'static str, Duration)>,
}

impl Default for Stages {
    fn default() -> Self {
        Self { began: Instant::now(), ended: Vec::new() }
    }
}

impl Stages {
    /// A stage has ended, and the next one begins.
    fn end(&mut self, stage: &'static str) {
        self.end_at(stage, Instant::now());
    }

    fn end_at(&mut self, stage: &'static str, now: Instant) {
        self.ended.push((stage, now.saturating_duration_since(self.began)));
        self.began = now;
    }

    fn text(&self) -> String {
        let mut out = String::new();
        for (stage, took) in &self.ended {
            let _ = writeln!(out, "{} {:>8.3} s", styled(FAINT, &format!("{stage:<28}")), took.as_secs_f64());
        }
        out
    }
}

/// Builds into `out` and shows the problems.
pub fn into(world: &World, options: &Options, common: &Common) -> Result<(Report, Outcome), Failure> {
    in_stages(world, options, None, common, &mut Stages::default())
}

fn in_stages(
    world: &World,
    options: &Options,
    earlier: Option<EarlierBuild>,
    common: &Common,
    stages: &mut Stages,
) -> Result<(Report, Outcome), Failure> {
    check_configuration(world, common)?;
    // Pages, what the search looks in, and images each come to an end.
    let (first, last) = (OnceLock::new(), Mutex::new(None));
    let report = with_progress(common, "building", |tick| {
        let progress = |done, all| {
            first.get_or_init(Instant::now);
            if done == all {
                *last.lock().unwrap_or_else(PoisonError::into_inner) = Some(Instant::now());
            }
            tick(done, all);
        };
        match earlier {
            Some(earlier) => build_after(world, options, earlier, &progress),
            None => build(world, options, &progress),
        }
    });
    let last = last.into_inner().unwrap_or_else(PoisonError::into_inner);
    for (stage, end) in [("planning", first.into_inner()), ("rendering and writing", last)] {
        stages.end_at(stage, end.unwrap_or_else(Instant::now));
    }
    stages.end("keeping the record");
    let report = report.map_err(refused)?;
    let outcome =
        accept(&world.snapshot, &world.problems, &report.diagnostics, (&report.failed, &report.answered), common);
    stays(&report, common);
    Ok((report, outcome))
}

/// Says what was not removed, and why.
fn stays(report: &Report, common: &Common) {
    if common.quiet {
        return;
    }
    if report.held > 0 {
        let files = counted(report.held, "file", "files");
        let verb = if report.held == 1 { "stays" } else { "stay" };
        crate::tell!(
            "{files} of an earlier build {verb}: nothing is removed while content or configuration has an error"
        );
    }
    for path in &report.strangers {
        crate::tell!("{} stays: it is not what an earlier build wrote there", plain(path));
    }
}

/// A collection that fell out by a slip of the pen must not take its pages with it.
fn check_configuration(world: &World, common: &Common) -> Result<(), Failure> {
    let configuration: Vec<Diagnostic> =
        world.configuration_problems().filter(|problem| problem.is_error()).cloned().collect();
    if !configuration.is_empty() {
        diagnostics::show(&world.snapshot, &configuration, common);
        return Err(Failure::Work("nothing was built".to_owned(), Some("fix the configuration first".to_owned())));
    }
    Ok(())
}

/// Shows on a terminal how far long work has come.
pub fn with_progress<T>(common: &Common, doing: &str, work: impl FnOnce(Progress<'_>) -> T) -> T {
    let bar = progress_bar(common, doing);
    let tick = |done: usize, all: usize| {
        if done.is_multiple_of(64) || done == all {
            bar.set_length(all as u64);
            bar.set_position(done as u64);
        }
    };
    let result = work(&tick);
    bar.finish_and_clear();
    result
}

/// Addresses with their statuses.
type Statuses = [(String, u16)];

/// Shows what is wrong, and which addresses get no file.
fn accept(
    texts: &Snapshot,
    known: &[Diagnostic],
    diagnostics: &[Diagnostic],
    (failed, answered): (&Statuses, &Statuses),
    common: &Common,
) -> Outcome {
    let problems = distinct(known.iter().chain(diagnostics).cloned().collect());
    let outcome = opened::accept_in(texts, &problems, common);
    if !common.quiet {
        for (address, status) in answered {
            let what = format!("answers with {status}, so no file is written");
            crate::tell!("{} {what}", plain(address));
        }
    }
    for (address, status) in failed {
        let what = if *address == format!("/{status}.html") {
            "has errors; a plain page is sent instead".to_owned()
        } else {
            "has errors; what an earlier build put there stays".to_owned()
        };
        crate::tell!("{} {} {what}", styled(BAD, "not built:"), plain(address));
    }
    outcome
}

/// What a build would change, as JSON.
#[derive(Serialize)]
struct Dry {
    pages: usize,
    written: usize,
    unchanged: usize,
    removed: usize,
    bytes: u64,
    seconds: f64,
    white_space: usize,
    versions: usize,
    unmade: usize,
    changes: Vec<PlannedChangeJson>,
}

#[derive(Serialize)]
struct PlannedChangeJson {
    path: String,
    change: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    diff: Option<String>,
}

/// Says what a build would change, and changes nothing.
fn dry(world: &World, options: &Options, diff: bool, common: &Common, start: Instant) -> Result<Outcome, Failure> {
    check_configuration(world, common)?;
    let report = with_progress(common, "building", |tick| dry_run(world, options, diff, tick));
    let report = report.map_err(refused)?;
    if common.format == Format::Json {
        let count = |becomes: ChangeKind| report.would.iter().filter(|would| would.becomes == becomes).count();
        let removed = count(ChangeKind::Removed);
        json(&Dry {
            pages: report.pages,
            written: report.would.len() - removed,
            unchanged: report.unchanged,
            removed,
            bytes: report.bytes,
            seconds: start.elapsed().as_secs_f64(),
            white_space: count(ChangeKind::WhiteSpace),
            versions: count(ChangeKind::Versions),
            unmade: report.unmade,
            changes: report
                .would
                .iter()
                .map(|would| PlannedChangeJson {
                    path: would.path.clone(),
                    change: would.becomes.word(),
                    diff: would.diff.clone(),
                })
                .collect(),
        })?;
    } else {
        print(&dry_text(&report, options, diff, common.verbose))?;
    }
    let outcome =
        accept(&world.snapshot, &world.problems, &report.diagnostics, (&report.failed, &report.answered), common);
    Ok(outcome.and(report.would.is_empty()))
}

/// How many files of a sort are listed without `-v`.
const MOST: usize = 20;

fn dry_text(report: &DryRun, options: &Options, diff: bool, all: bool) -> String {
    let mut out = String::new();
    let sorts = [
        (ChangeKind::Changed, "would change", NOTE),
        (ChangeKind::WhiteSpace, "would change in white space only", FAINT),
        (ChangeKind::New, "would be new", GOOD),
        (ChangeKind::Removed, "would go", BAD),
    ];
    for (becomes, words, style) in sorts {
        let of: Vec<&PlannedChange> = report.would.iter().filter(|would| would.becomes == becomes).collect();
        if of.is_empty() {
            continue;
        }
        let _ = writeln!(out, "{}", styled(style, &format!("{} {words}:", counted(of.len(), "file", "files"))));
        let shown = if all || diff || of.len() <= MOST + 1 { of.len() } else { MOST };
        for would in &of[..shown] {
            let _ = writeln!(out, "  {}", plain(&would.path));
            if let Some(diff) = &would.diff {
                out.push_str(&coloured(diff));
            }
        }
        if of.len() > shown {
            let _ = writeln!(out, "  and {} more; -v shows all", of.len() - shown);
        }
        out.push('\n');
    }
    out.push_str(&versions_text(report, all));
    let folder = plain(&options.out.display().to_string());
    match report.would.is_empty() {
        true if !report.failed.is_empty() => {
            out.push_str("No file would change, but not all could be made.\n");
        }
        true => {
            let _ = writeln!(out, "Nothing would change: {folder} is what a build would make, to the byte.");
        }
        false => {
            let _ = writeln!(
                out,
                "{} would stay as they are. Nothing was written.",
                counted(report.unchanged, "file", "files")
            );
        }
    }
    out
}

/// The files that would differ in versions only: a line, since what has them changed is listed itself.
fn versions_text(report: &DryRun, all: bool) -> String {
    let of: Vec<&PlannedChange> = report.would.iter().filter(|would| would.becomes == ChangeKind::Versions).collect();
    if of.is_empty() {
        return String::new();
    }
    let files = counted(of.len(), "file", "files");
    let mut out = format!("{}\n", styled(FAINT, &format!("{files} would change in the versions of addresses only.")));
    for would in of.iter().filter(|_| all) {
        let _ = writeln!(out, "  {}", plain(&would.path));
    }
    out + "\n"
}

fn progress_bar(common: &Common, doing: &str) -> ProgressBar {
    if common.quiet {
        return ProgressBar::hidden();
    }
    // Drawn on standard error, and only if that is a terminal.
    let bar = ProgressBar::new(0);
    if let Ok(style) = ProgressStyle::with_template(&format!("{doing} {{bar:30}} {{pos}}/{{len}}")) {
        bar.set_style(style);
    }
    bar
}

fn refused(error: BuildError) -> Failure {
    let help = match &error {
        BuildError::Folder(_, help) => Some(help.clone()),
        BuildError::Locked => Some("wait until it has ended".to_owned()),
        BuildError::Io(..) => None,
    };
    Failure::Work(error.to_string(), help)
}

fn summary(report: &Report, out: &Path, seconds: f64, outcome: Outcome) -> String {
    let size = if report.bytes >= 10_000_000 {
        format!("{} MB", report.bytes / 1_000_000)
    } else {
        format!("{} kB", report.bytes.div_ceil(1000))
    };
    let out = plain(&out.display().to_string());
    // What has no file was not built, be it for an error or since it answers with an error.
    let good = report.pages.saturating_sub(report.failed.len() + report.answered.len());
    let head = match outcome {
        Outcome::Clean => format!("{} {} into {out}", styled(GOOD, "Built"), counted(good, "page", "pages")),
        Outcome::Findings => {
            format!("{} {good} of {} pages into {out}", styled(BAD, "Built with errors:"), report.pages)
        }
    };
    format!(
        "{head} ({size}, {seconds:.2} s): {} written, {} unchanged, {} removed.\n",
        counted(report.written, "file", "files"),
        report.unchanged,
        report.removed
    )
}
