//! What a build would change, without changing it.

use std::sync::atomic::{AtomicUsize, Ordering};

use bumpalo::Bump;
use hausblatt_lang::text::diagnostic::{Diagnostic, distinct};
use rayon::prelude::*;

use crate::analysis::compare::unified;
use crate::arena::reset_arena;
use crate::build::plan::{Job, plan};
use crate::build::record::{Kept, Record};
use crate::build::write::OutputFolder;
use crate::build::{
    BuildError, MadeOutput, Options, Outcome, Progress, check_folder, check_strangers, know_digests, load, make,
    removes_nothing, write,
};
use crate::files::{FileKind, Links};
use crate::text::addresses_in_text::without_versions;
use crate::world::World;

/// What would become of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum ChangeKind {
    /// It would be there.
    New,
    /// It would hold something else.
    Changed,
    /// It would differ in white space only.
    WhiteSpace,
    /// It would differ only in the versions of the addresses of files.
    Versions,
    /// It would go.
    Removed,
}

impl ChangeKind {
    /// The word for it in JSON.
    pub fn word(self) -> &'static str {
        match self {
            ChangeKind::New => "new",
            ChangeKind::Changed => "changed",
            ChangeKind::WhiteSpace => "white-space",
            ChangeKind::Versions => "versions",
            ChangeKind::Removed => "removed",
        }
    }
}

/// A file that would not stay as it is.
#[derive(Clone, Debug)]
pub struct PlannedChange {
    /// Its path below the output folder.
    pub path: String,
    /// What would become of it.
    pub becomes: ChangeKind,
    /// How it would change, if that was asked and it is text.
    pub diff: Option<String>,
}

/// What a build would do.
#[derive(Debug, Default)]
pub struct DryRun {
    /// Pages of the site, error pages and redirects included.
    pub pages: usize,
    /// The files that would not stay as they are, in the order of their paths.
    pub would: Vec<PlannedChange>,
    /// Files that are right already.
    pub unchanged: usize,
    /// Bytes of all files.
    pub bytes: u64,
    /// Addresses that would get no file for what is wrong, each with its status.
    pub failed: Vec<(String, u16)>,
    /// Addresses whose templates answer with an error, so that they would have no file, each with its status.
    pub answered: Vec<(String, u16)>,
    /// What was wrong or noticed while rendering.
    pub diagnostics: Vec<Diagnostic>,
}

/// What a build of `world` would change.
///
/// # Errors
/// When nothing could be built.
pub fn dry_run(world: &World, options: &Options, diff: bool, progress: Progress<'_>) -> Result<DryRun, BuildError> {
    let folder = options.real_folder(&world.snapshot)?;
    let out = OutputFolder { files: &**world.snapshot.file_system(), folder: &folder };
    check_folder(world.snapshot.root(), out)?;
    let (jobs, met) = plan(world, options);
    let old = load(out)?;
    check_strangers(out, &jobs, &old)?;
    know_digests(&jobs, &old);
    let done = AtomicUsize::new(0);
    let found: Vec<(Option<PlannedChange>, u64, Outcome)> = jobs
        .par_iter()
        .map_init(Bump::new, |arena, job| {
            let found = compared(world, options, (out, job), &old, diff, arena);
            reset_arena(arena);
            progress(done.fetch_add(1, Ordering::Relaxed) + 1, jobs.len());
            found
        })
        .collect();
    let pages = jobs.iter().filter(|job| job.is_page()).count();
    let mut report = DryRun { pages, diagnostics: met, ..DryRun::default() };
    for (would, bytes, outcome) in found {
        report.unchanged += usize::from(would.is_none() && outcome.failed.is_none() && outcome.answered.is_none());
        report.would.extend(would);
        report.bytes += bytes;
        report.failed.extend(outcome.failed);
        report.answered.extend(outcome.answered);
        report.diagnostics.extend(outcome.diagnostics);
        if let Some((path, error)) = outcome.error {
            return Err(BuildError::Io(path, error));
        }
    }
    report.diagnostics = distinct(report.diagnostics);
    let planned: rustc_hash::FxHashSet<&str> = jobs.iter().map(|job| job.path.as_str()).collect();
    let left = old.files.iter().filter(|(path, kept)| !planned.contains(path.as_str()) && kept.is_written());
    let stays = removes_nothing(world);
    let left = left.filter(|(path, kept)| !stays && options.part.holds(path) && write::is_ours(out, path, kept));
    for (path, _) in left {
        let target = out.folder.join(path);
        if out.files.look(&target, Links::Keep).is_ok() {
            let bytes = || String::from_utf8(out.files.read_own(&target).ok()?).ok();
            let text = diff.then(bytes).flatten();
            let diff = text.map(|text| unified(&text, "", path));
            report.would.push(PlannedChange { path: path.clone(), becomes: ChangeKind::Removed, diff });
        }
    }
    report.would.sort_by(|a, b| a.path.cmp(&b.path));
    report.diagnostics.sort_by(|a, b| a.place.cmp(&b.place));
    Ok(report)
}

/// What would become of a job's file, and how many bytes it would have.
fn compared(
    world: &World,
    options: &Options,
    (out, job): (OutputFolder<'_>, &Job),
    old: &Record,
    diff: bool,
    arena: &Bump,
) -> (Option<PlannedChange>, u64, Outcome) {
    let mut outcome = Outcome::default();
    let (files, target) = (out.files, out.folder.join(&job.path));
    let look = files.look(&target, Links::Keep);
    let would =
        |becomes: ChangeKind, diff: Option<String>| Some(PlannedChange { path: job.path.clone(), becomes, diff });
    let (text, bytes) = match make(world, options, job, &mut outcome, arena) {
        MadeOutput::Text(text) => (text.into_owned().into_bytes(), true),
        MadeOutput::Copy(node) => match node.bytes() {
            Ok(bytes) => (bytes, false),
            Err(error) => {
                outcome.error = Some((node.path.to_string().into(), error));
                return (None, 0, outcome);
            }
        },
        MadeOutput::Nothing { broken } => {
            let ours = old.files.get(&job.path).is_some_and(Kept::is_written);
            let gone = !broken && ours && look.is_ok();
            return (gone.then(|| would(ChangeKind::Removed, None)).flatten(), 0, outcome);
        }
    };
    let length = text.len() as u64;
    let earlier = match look {
        Ok(look) if look.kind == FileKind::File => files.read_own(&target).ok(),
        _ => None,
    };
    let shown = |before: &[u8]| {
        let texts = (std::str::from_utf8(before).ok()?, std::str::from_utf8(&text).ok()?);
        (diff && bytes).then(|| unified(&without_versions(texts.0), &without_versions(texts.1), &job.path))
    };
    let found = match earlier {
        Some(earlier) if earlier == text => None,
        Some(earlier) if bytes && same_but_versions(&earlier, &text) => would(ChangeKind::Versions, None),
        Some(earlier) if bytes && same_but_white_space(&earlier, &text) => {
            would(ChangeKind::WhiteSpace, shown(&earlier))
        }
        Some(earlier) => would(ChangeKind::Changed, shown(&earlier)),
        None => would(ChangeKind::New, shown(b"")),
    };
    (found, length, outcome)
}

fn same_but_versions(one: &[u8], other: &[u8]) -> bool {
    match (std::str::from_utf8(one), std::str::from_utf8(other)) {
        (Ok(one), Ok(other)) => without_versions(one) == without_versions(other),
        _ => false,
    }
}

fn same_but_white_space(one: &[u8], other: &[u8]) -> bool {
    let dark = |bytes: &[u8]| bytes.iter().copied().filter(|byte| !byte.is_ascii_whitespace()).collect::<Vec<u8>>();
    dark(one) == dark(other)
}
