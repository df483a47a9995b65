//! What a build would change, without changing it.

use std::sync::atomic::{AtomicUsize, Ordering};

use bumpalo::Bump;
use hausblatt_lang::text::diagnostic::{Diagnostic, distinct};
use rayon::prelude::*;
use rustc_hash::FxHashSet;

use crate::analysis::compare::unified;
use crate::arena::reset_arena;
use crate::build::compressed::{self, Beside};
use crate::build::plan::{Job, plan};
use crate::build::record::{Kept, Record};
use crate::build::search::SearchIndex;
use crate::build::write::OutputFolder;
use crate::build::{
    BuildError, MadeOutput, Options, Outcome, Progress, check_folder, check_strange, check_strangers, images,
    know_digests, load, make, paths, planned, removes_nothing, write,
};
use crate::files::{FileKind, Links};
use crate::text::addresses_in_text::without_versions;
use crate::threads::PAGES;
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
    /// Bytes of all files, but for images that are still to be made.
    pub bytes: u64,
    /// How many images are still to be made.
    pub unmade: usize,
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
    let old = load(out)?;
    let (jobs, met, _) = plan(world, options, old.outputs);
    check_strangers(out, &paths(&jobs, options), &old)?;
    know_digests(&jobs, &old);
    let done = AtomicUsize::new(0);
    let others = planned(&jobs);
    let mut found: Vec<Compared> = jobs
        .par_iter()
        .with_max_len(PAGES)
        .map_init(Bump::new, |arena, job| {
            let mut found = compared(world, options, (out, job), &old, diff, arena);
            found.beside.retain(|path| !others.contains(&**path));
            found.would.retain(|would| would.path == job.path || !others.contains(&*would.path));
            reset_arena(arena);
            progress(done.fetch_add(1, Ordering::Relaxed) + 1, jobs.len());
            found
        })
        .collect();
    let index = SearchIndex::of(world, options, out)?;
    let search = index.as_ref().map_or(&[][..], |index| &index.files);
    check_strange(out, &search.iter().map(|(path, _)| path.as_str().into()).collect::<Vec<_>>(), &old)?;
    found.par_extend(search.par_iter().filter(|(path, _)| !others.contains(&**path)).map(|(path, text)| {
        match index.as_ref().map_or(Ok("".into()), |index| index.text(text)) {
            Ok(text) => compared_output(options, (out, path), &old, diff, MadeOutput::Text(text), Outcome::default()),
            Err(error) => {
                let error = Some((out.folder.join(path), error.into()));
                Compared { outcome: Outcome { error, ..Outcome::default() }, ..Compared::default() }
            }
        }
    }));
    let images = images::named(world, found.iter().map(|compared| &compared.outcome));
    check_strange(out, &images.values().map(|image| images::output_path(image).into()).collect::<Vec<_>>(), &old)?;
    let pages = jobs.iter().filter(|job| job.is_page()).count();
    let mut report = DryRun { pages, diagnostics: met, ..DryRun::default() };
    let mut all: FxHashSet<String> = jobs.iter().map(|job| job.path.clone()).collect();
    all.extend(search.iter().map(|(path, _)| path.clone()));
    for Compared { would, beside, bytes, outcome } in found {
        if outcome.failed.is_empty() && outcome.answered.is_empty() {
            report.unchanged += (1 + beside.len()).saturating_sub(would.len());
        }
        all.extend(beside);
        report.would.extend(would);
        report.bytes += bytes;
        report.failed.extend(outcome.failed);
        report.answered.extend(outcome.answered);
        report.diagnostics.extend(outcome.diagnostics);
        if let Some((path, error)) = outcome.error {
            return Err(BuildError::Io(path, error));
        }
    }
    for image in images.values() {
        let path = images::output_path(image);
        all.insert(path.to_owned());
        match old.files.get(path).filter(|earlier| write::is_as_kept(out, path, earlier)) {
            Some(earlier) => {
                report.unchanged += 1;
                report.bytes += earlier.length;
            }
            None => {
                report.unmade += 1;
                report.would.push(PlannedChange { path: path.to_owned(), becomes: ChangeKind::New, diff: None });
            }
        }
    }
    report.diagnostics = distinct(report.diagnostics);
    let left = old.files.iter().filter(|(path, kept)| !all.contains(&***path) && kept.is_written());
    let stays = removes_nothing(world);
    let left = left.filter(|(path, _)| !images::stays(path, options.part, &report.failed));
    let left = left.filter(|(path, kept)| !stays && options.part.holds(path) && write::is_ours(out, path, kept));
    for path in left.map(|(path, _)| &**path) {
        let target = out.folder.join(path);
        if out.files.look(&target, Links::Keep).is_ok() {
            let bytes = || String::from_utf8(out.files.read_own(&target).ok()?).ok();
            let text = diff.then(bytes).flatten();
            let diff = text.map(|text| unified(&text, "", path));
            report.would.push(PlannedChange { path: path.to_owned(), becomes: ChangeKind::Removed, diff });
        }
    }
    report.would.sort_by(|a, b| a.path.cmp(&b.path));
    report.diagnostics.sort_by(|a, b| a.place.cmp(&b.place));
    Ok(report)
}

/// What would become of a job's file and of those beside it.
#[derive(Default)]
struct Compared {
    would: Vec<PlannedChange>,
    /// The paths of the compressed files that would be beside it.
    beside: Vec<String>,
    bytes: u64,
    outcome: Outcome,
}

fn compared(
    world: &World,
    options: &Options,
    (out, job): (OutputFolder<'_>, &Job),
    old: &Record,
    diff: bool,
    arena: &Bump,
) -> Compared {
    let mut outcome = Outcome::default();
    let made = make(world, options, (job, job.request(world).as_ref()), &mut outcome, arena);
    compared_output(options, (out, &job.path), old, diff, made, outcome)
}

fn compared_output(
    options: &Options,
    (out, path): (OutputFolder<'_>, &str),
    old: &Record,
    diff: bool,
    made: MadeOutput<'_>,
    mut outcome: Outcome,
) -> Compared {
    let (files, target) = (out.files, out.folder.join(path));
    let look = files.look(&target, Links::Keep);
    let would =
        |becomes: ChangeKind, diff: Option<String>| Some(PlannedChange { path: path.to_owned(), becomes, diff });
    let (text, bytes, hash) = match made {
        MadeOutput::Text(text) => {
            let hash = super::hash(text.as_bytes());
            (text.into_owned().into_bytes(), true, hash)
        }
        MadeOutput::Copy(node) => match node.bytes() {
            Ok(bytes) => (bytes, false, write::hash_of_stamp(node)),
            Err(error) => {
                outcome.error = Some((node.path.to_string().into(), error));
                return Compared { outcome, ..Compared::default() };
            }
        },
        MadeOutput::Nothing { broken } => {
            let ours = old.files.get(path).is_some_and(Kept::is_written);
            let gone = !broken && ours && look.is_ok();
            let would = gone.then(|| would(ChangeKind::Removed, None)).flatten();
            let beside = compressed::beside(path).filter(|_| broken).collect();
            return Compared { would: would.into_iter().collect(), beside, outcome, ..Compared::default() };
        }
    };
    let length = text.len() as u64;
    let earlier = match look {
        Ok(look) if look.kind == FileKind::File => files.read_own(&target).ok(),
        _ => None,
    };
    let shown = |before: &[u8]| {
        let texts = (std::str::from_utf8(before).ok()?, std::str::from_utf8(&text).ok()?);
        (diff && bytes).then(|| unified(&without_versions(texts.0), &without_versions(texts.1), path))
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
    let mut found = Compared { would: found.into_iter().collect(), bytes: length, outcome, ..Compared::default() };
    if options.compressed {
        let kept = Kept { hash, length, ..Kept::default() };
        match compressed::made(out, path, &kept, old, || Ok(text.as_slice().into())) {
            Ok(beside) => beside.into_iter().for_each(|beside| found.add(out, beside)),
            Err(error) => found.outcome.error = Some((target, error)),
        }
    }
    found
}

impl Compared {
    /// A compressed file that would be beside it.
    fn add(&mut self, out: OutputFolder<'_>, beside: Beside) {
        let path = match beside {
            Beside::Stays(path, kept) => {
                self.bytes += kept.length;
                path
            }
            Beside::Holds(path, bytes, _) => {
                self.bytes += bytes.len() as u64;
                let earlier = out.files.read_own(&out.folder.join(&path)).ok();
                let becomes = if earlier.is_some() { ChangeKind::Changed } else { ChangeKind::New };
                if earlier.is_none_or(|earlier| earlier != bytes) {
                    self.would.push(PlannedChange { path: path.clone(), becomes, diff: None });
                }
                path
            }
        };
        self.beside.push(path);
    }
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
