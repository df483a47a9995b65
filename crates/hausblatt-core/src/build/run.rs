//! A build: what is planned is made and written, and what nothing makes any more is removed.

use std::any::Any;
use std::borrow::Cow;
use std::error::Error;
use std::fmt::{self, Display, Formatter};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use bumpalo::Bump;
use hausblatt_lang::render::Shows;
use hausblatt_lang::text::diagnostic::{Diagnostic, distinct};
use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::dependencies::collect;
use rayon::prelude::*;
use rustc_hash::FxHashSet;
use xxhash_rust::xxh3::xxh3_64;

use crate::PROGRAM;
use crate::analysis::asset_conflicts;
use crate::arena::reset_arena;
use crate::asking::SiteOptions;
use crate::build::compressed::{self, Beside};
use crate::build::kept_pages::{MadeOf, PageDependencies};
use crate::build::plan::{Job, Output, plan};
use crate::build::record::{Kept, Record};
use crate::build::search::SearchIndex;
use crate::build::write::OutputFolder;
use crate::build::{BuildPart, images, record, search, write};
use crate::files::edit;
use crate::files::{FileKind, FileNode, KeptImages, Links, Snapshot, made_in};
use crate::model::content::Content;
use crate::model::request::Request;
use crate::model::search::SearchContent;
use crate::render::page::{Audience, page, redirect_page};
use crate::text::codes;
use crate::threads::{FILES, ONE, PAGES};
use crate::world::World;

/// The name of a build's record in its folder.
pub const RECORD: &str = ".hausblatt-build";
/// The name of the file that keeps two builds of one folder apart.
const LOCK: &str = ".hausblatt-lock";
/// The name of the file that is there while a build is under way.
const UNDER_WAY: &str = ".hausblatt-under-way";

/// What is to be built.
#[derive(Clone, Debug)]
pub struct Options {
    /// The folder to build into.
    pub out: PathBuf,
    /// Whether to write `hausblatt-map.json` too.
    pub map: bool,
    /// Whether to leave a comment where each file's part of a page starts and stops.
    pub marks: bool,
    /// Whether to write compressed files beside what they make smaller.
    pub compressed: bool,
    /// Which part of the site.
    pub part: BuildPart,
    /// Whether to remove made images that are kept and that no page names: where this is the site as its visitors see it.
    pub clears_images: bool,
}

impl Options {
    /// The real path of the output folder, which may be reached through links, found once for a whole build.
    pub(super) fn real_folder(&self, snapshot: &Snapshot) -> Result<PathBuf, BuildError> {
        snapshot.file_system().resolved(&self.out).map_err(|error| BuildError::Io(self.out.clone(), error))
    }

    /// A digest of how its pages are made, whatever they are made of.
    fn way(&self) -> u64 {
        hash(format!("{} {}", PROGRAM, self.marks).as_bytes())
    }

    fn audience(&self) -> Audience {
        Audience::Build(Shows { marks: self.marks, dumps: false, ..Shows::default() })
    }
}

/// What a build did.
#[derive(Debug, Default)]
pub struct Report {
    /// Pages of the site, error pages and redirects included.
    pub pages: usize,
    /// Files written.
    pub written: usize,
    /// Files that were right already.
    pub unchanged: usize,
    /// Files removed, which an earlier build had written.
    pub removed: usize,
    /// Bytes of all files.
    pub bytes: u64,
    /// Files of earlier builds that nothing makes any more, and that stay while content, a table or the configuration has an
    /// error.
    pub held: usize,
    /// Files where an earlier build had written one that nothing makes any more, and that hold something else by now: they
    /// stay, by path.
    pub strangers: Vec<String>,
    /// Addresses that got no file for what is wrong, each with its status.
    pub failed: Vec<(String, u16)>,
    /// Addresses whose templates answer with an error, so that they have no file, each with its status.
    pub answered: Vec<(String, u16)>,
    /// The paths of the files that were written or removed since the last build that came to its end, in order.
    pub changed: Vec<Arc<str>>,
    /// What was wrong or noticed while rendering.
    pub diagnostics: Vec<Diagnostic>,
}

/// Why there was no build.
#[derive(Debug)]
pub enum BuildError {
    /// The folder can't be built into; what to say about it.
    Folder(String, String),
    /// Another build is under way there.
    Locked,
    /// A file could not be written.
    Io(PathBuf, io::Error),
}

impl Display for BuildError {
    fn fmt(&self, out: &mut Formatter<'_>) -> fmt::Result {
        match self {
            BuildError::Folder(message, _) => out.write_str(message),
            BuildError::Locked => out.write_str("another build of this folder is under way"),
            BuildError::Io(path, error) => write!(out, "{} can't be written: {error}", path.display()),
        }
    }
}

impl Error for BuildError {
    fn source(&self) -> Option<&(dyn Error + 'static)> {
        match self {
            BuildError::Io(_, error) => Some(error),
            BuildError::Folder(..) | BuildError::Locked => None,
        }
    }
}

/// Tells how far a build has come: outputs done, outputs in all.
pub type Progress<'p> = &'p (dyn Fn(usize, usize) + Sync);

/// What is there before a build.
pub enum Before {
    /// All of it: nothing that it depends on has changed since the last build, and all that was published is as it was.
    Built(Report),
    /// What an earlier build has left, if there was one.
    Earlier(EarlierBuild),
}

/// What an earlier build has left in the output folder, which is held until this is dropped.
pub struct EarlierBuild {
    folder: PathBuf,
    record: Record,
    /// The digest of what the build to come depends on.
    digest: u64,
    /// What is taken for unchanged, whatever has become of it: for tests.
    blind: String,
    /// None where there was no folder.
    lock: Option<Box<dyn Any + Send>>,
}

impl EarlierBuild {
    /// The same for a build that takes what pages depend on of one sort for unchanged: by it, tests show that they see what
    /// is not noted.
    #[doc(hidden)]
    pub fn blind_to(self, sort: &str) -> Self {
        Self { blind: sort.to_owned(), ..self }
    }
}

/// Looks what is there before a build, without a World.
///
/// # Errors
/// When the folder can't be built into.
pub fn before(snapshot: &Snapshot, asking: &SiteOptions, options: &Options) -> Result<Before, BuildError> {
    let folder = options.real_folder(snapshot)?;
    let out = OutputFolder { files: &**snapshot.file_system(), folder: &folder };
    check_folder(snapshot.root(), out)?;
    let is_there = out.files.look(out.folder, Links::Follow).is_ok_and(|look| look.kind == FileKind::Folder);
    let lock = if is_there { Some(lock(out)?) } else { None };
    let load = || if is_there { load(out) } else { Ok(Record::default()) };
    let (record, digest) = rayon::join(load, || record::digest(snapshot, asking, options));
    let record = record?;
    if record.is_of(digest, asking.today) && !is_under_way(out) && record.holds(out) {
        return Ok(Before::Built(record.report(options.part)));
    }
    Ok(Before::Earlier(EarlierBuild { folder, record, digest, blind: String::new(), lock }))
}

/// Builds `world`.
///
/// # Errors
/// When nothing could be built; single pages that fail are in the report.
pub fn build(world: &World, options: &Options, progress: Progress<'_>) -> Result<Report, BuildError> {
    match before(&world.snapshot, &world.asking, options)? {
        Before::Built(report) => Ok(report),
        Before::Earlier(earlier) => build_after(world, options, earlier, progress),
    }
}

/// Builds `world`, which is made of the files that `earlier` was looked for with: pages of which everything that they
/// depend on is as it was are not made again.
///
/// # Errors
/// As [`build`].
pub fn build_after(
    world: &World,
    options: &Options,
    earlier: EarlierBuild,
    progress: Progress<'_>,
) -> Result<Report, BuildError> {
    let EarlierBuild { folder, record: mut old, digest, blind, lock: held } = earlier;
    let out = OutputFolder { files: &**world.snapshot.file_system(), folder: &folder };
    let (jobs, met, outputs) = plan(world, options, old.outputs);
    let _lock = match held {
        Some(held) => held,
        None => {
            out.files.create_folders(out.folder).map_err(|error| BuildError::Io(options.out.clone(), error))?;
            let lock = lock(out)?;
            old = load(out)?;
            lock
        }
    };
    if old.digest == 0 || is_under_way(out) {
        write::sweep(out, old.files.keys().map(|path| &**path));
    }
    let own = paths(&jobs, options);
    let are_known = check_strangers(out, &own, &old)?;
    know_digests(&jobs, &old);
    let under_way = out.folder.join(UNDER_WAY);
    edit::replace(out.files, &under_way, b"").map_err(|error| BuildError::Io(under_way.clone(), error))?;
    if !are_known {
        save_intended(out, &mut old, &own)?;
    }
    let planned = planned(&jobs);
    let dependencies = PageDependencies::new(world, options.way(), &old.dependencies, blind);
    let old_pages = EarlierPages { record: &old, dependencies: &dependencies, planned: &planned };
    let done = AtomicUsize::new(0);
    let make_pages = || -> Outcome {
        let tick = || progress(done.fetch_add(1, Ordering::Relaxed) + 1, jobs.len());
        jobs.par_chunks(in_a_row(jobs.len()))
            .with_max_len(ONE)
            .map_init(Bump::new, |arena, some| old_pages.carry_out(world, options, out, (some, &tick), arena))
            .fold(Outcome::default, Outcome::with)
            .reduce(Outcome::default, Outcome::with)
    };
    let (pages, index) = rayon::join(make_pages, || SearchIndex::of(world, options, out));
    let index = index?;
    let mut outcomes = vec![pages, Outcome { diagnostics: met, ..Outcome::default() }];
    let images = images::named(world, outcomes.iter());
    outcomes.push(images::kept(outcomes.iter(), &images, &old));
    let search = index.as_ref().map_or(&[][..], |index| &index.files);
    let more: Vec<Cow<'_, str>> = images
        .values()
        .map(|image| images::output_path(image).into())
        .chain(search.iter().flat_map(|(path, _)| with_beside(path, options)))
        .collect();
    if !check_strange(out, &more, &old)? {
        save_intended(out, &mut old, &[own, more].concat())?;
    }
    let all = jobs.len() + search.len() + images.len();
    let tick = |count: usize| progress(done.fetch_add(count, Ordering::Relaxed) + count, all);
    if let Some(index) = index {
        let old_pages = EarlierPages { record: &old, dependencies: &dependencies, planned: &planned };
        outcomes.extend(old_pages.write_index(options, out, index, &tick));
    }
    outcomes.extend(images::write_all(world, out, &images, &old, tick));
    let named: FxHashSet<Box<str>> = outcomes.iter().flat_map(|outcome| &outcome.images).cloned().collect();
    let pages = jobs.iter().filter(|job| job.is_page()).count();
    // What comes now needs room for all paths twice.
    drop(planned);
    drop(jobs);
    let report = finish(world, options, out, pages, (old, &dependencies), outcomes, (digest, outputs))?;
    let _ = out.files.remove_file(&under_way);
    let is_whole = options.part == BuildPart::WHOLE && report.failed.is_empty();
    if options.clears_images && is_whole && !removes_nothing(world) {
        KeptImages::of(&world.snapshot).remove_others(named.iter().map(|path| &**path));
    }
    Ok(report)
}

/// What became of an output, or of several.
#[derive(Default)]
pub(super) struct Outcome {
    /// The files as they are now, with the compressed ones beside them; none for a page that failed and never had one.
    pub(super) kept: Vec<(Arc<str>, Kept)>,
    /// Which of these were written, by their places.
    pub(super) written: Vec<usize>,
    /// How many of these are of pages that failed.
    pub(super) left: usize,
    pub(super) failed: Vec<(String, u16)>,
    pub(super) answered: Vec<(String, u16)>,
    pub(super) diagnostics: Vec<Diagnostic>,
    pub(super) error: Option<(PathBuf, io::Error)>,
    /// The paths of the made images that it names.
    pub(super) images: Vec<Box<str>>,
}

impl Outcome {
    /// What became of these outputs, and then of others.
    fn with(mut self, other: Self) -> Self {
        let Self { kept, written, left, failed, answered, diagnostics, error, images } = other;
        let before = self.kept.len();
        self.written.extend(written.into_iter().map(|at| before + at));
        self.kept.extend(kept);
        self.left += left;
        self.failed.extend(failed);
        self.answered.extend(answered);
        self.diagnostics.extend(diagnostics);
        self.error = self.error.or(error);
        self.images.extend(images);
        self
    }

    /// A file, and whether it was written.
    pub(super) fn add(&mut self, path: Arc<str>, kept: Kept, written: bool) {
        if written {
            self.written.push(self.kept.len());
        }
        self.kept.push((path, kept));
    }
}

/// What a job publishes.
pub(super) enum MadeOutput<'j> {
    /// This text.
    Text(Cow<'j, str>),
    /// A copy of this file.
    Copy(&'j FileNode),
    /// Nothing; whether for an error, so that an earlier file stays.
    Nothing { broken: bool },
}

impl MadeOutput<'_> {
    /// All its bytes.
    pub(super) fn bytes(&self) -> io::Result<Cow<'_, [u8]>> {
        match self {
            MadeOutput::Text(text) => Ok(Cow::Borrowed(text.as_bytes())),
            MadeOutput::Copy(node) => node.bytes().map(Cow::Owned),
            MadeOutput::Nothing { .. } => Ok(Cow::Borrowed(&[])),
        }
    }
}

/// Makes what a job publishes, without writing it: the answer to this request, if it is a page.
pub(super) fn make<'j>(
    world: &'j World,
    options: &Options,
    (job, request): (&'j Job, Option<&Request>),
    outcome: &mut Outcome,
    arena: &Bump,
) -> MadeOutput<'j> {
    match &job.output {
        Output::Copy(node) => {
            // With a conflict in it, what an earlier build published stays.
            outcome.diagnostics = asset_conflicts::of_file(node);
            if !outcome.diagnostics.is_empty() {
                return MadeOutput::Nothing { broken: true };
            }
            let published = world.published_file(&format!("/{}", job.path), node);
            outcome.diagnostics.extend(published.not_small);
            published.text.map_or(MadeOutput::Copy(node), |text| MadeOutput::Text(text.into()))
        }
        Output::Redirect(to) => MadeOutput::Text(redirect_page(to).into()),
        Output::Text(text) => match text.make(world) {
            Ok(text) => MadeOutput::Text(text),
            Err(error) => {
                outcome.error = Some((options.out.join(&job.path), error.into()));
                MadeOutput::Nothing { broken: true }
            }
        },
        Output::Page(_) => {
            let Some(request) = request else { return MadeOutput::Nothing { broken: true } };
            let page = page(world, request.clone(), options.audience(), arena);
            outcome.diagnostics = page.diagnostics;
            let moved = page.location.is_some();
            let broken = outcome.diagnostics.iter().any(Diagnostic::is_error);
            let differs = page.status != request.status && !moved;
            let answer = || (request.address.clone(), page.status);
            match (broken, differs) {
                (true, _) => outcome.failed.push(answer()),
                (false, true) => outcome.answered.push(answer()),
                (false, false) => {}
            }
            match differs {
                true => MadeOutput::Nothing { broken },
                false => {
                    // An error page is shown at any address.
                    let base = (request.status < 400).then_some(&*request.address);
                    outcome.images = made_in(&page.text).map(Box::from).collect();
                    match world.published(&page.text, page.format, base) {
                        Cow::Owned(text) => MadeOutput::Text(text.into()),
                        Cow::Borrowed(_) => MadeOutput::Text(page.text.into()),
                    }
                }
            }
        }
    }
}

/// With more bytes than this, outputs that are made are written before others are made.
const MOST_HELD: usize = 1 << 20;

/// How many of all outputs are made in a row: fewer where there would be too little for each thread.
fn in_a_row(all: usize) -> usize {
    (all / (4 * rayon::current_num_threads())).clamp(1, PAGES)
}

/// What a job publishes, before it is written.
struct Made<'j> {
    job: &'j Job,
    output: MadeOutput<'j>,
    /// What was noticed so far.
    outcome: Outcome,
    made_of: Option<MadeOf>,
}

impl Made<'_> {
    /// How many bytes of it are in memory.
    fn held(&self) -> usize {
        match &self.output {
            MadeOutput::Text(text) => text.len(),
            MadeOutput::Copy(_) | MadeOutput::Nothing { .. } => 0,
        }
    }
}

/// What an earlier build has left, for the one under way.
struct EarlierPages<'e, 'w> {
    record: &'e Record,
    dependencies: &'e PageDependencies<'w>,
    /// The paths that are published.
    planned: &'e FxHashSet<&'e str>,
}

impl EarlierPages<'_, '_> {
    /// The outcome of a page that is as it was, in its file too.
    fn stays(&self, options: &Options, out: OutputFolder<'_>, job: &Job, request: Option<&Request>) -> Option<Outcome> {
        let (kept, request) = (self.record.files.get(&*job.path)?, request?);
        let made_of = kept.made_of.as_ref().filter(|made_of| self.dependencies.holds(made_of, request))?;
        let images = made_of.images.iter().map(|path| path.trim_start_matches('/'));
        images.map(|path| self.as_kept(out, path)).collect::<Option<Vec<_>>>()?;
        let outcome = Outcome { images: made_of.images.to_vec(), ..Outcome::default() };
        self.file_stays(options, out, &job.path, outcome)
    }

    /// What is known of a file, if it is as it was written.
    fn as_kept(&self, out: OutputFolder<'_>, path: &str) -> Option<&Kept> {
        self.record.files.get(path).filter(|kept| write::is_as_kept(out, path, kept))
    }

    /// The outcome of a file of which nothing differs, with those beside it; none where it is not as it was written.
    fn file_stays(
        &self,
        options: &Options,
        out: OutputFolder<'_>,
        path: &str,
        mut outcome: Outcome,
    ) -> Option<Outcome> {
        let (path, kept) = self.record.files.get_key_value(path)?;
        write::is_as_kept(out, path, kept).then_some(())?;
        if options.compressed {
            let bytes = || Ok(Cow::Owned(out.files.read_own(&out.folder.join(&**path))?));
            compress(out, path, kept, (self.record, self.planned), bytes, &mut outcome);
            outcome.error.is_none().then_some(())?;
        }
        outcome.kept.push((path.clone(), kept.clone()));
        Some(outcome)
    }

    /// Writes what the search looks in, and keeps what the next build can know of it.
    fn write_index(
        &self,
        options: &Options,
        out: OutputFolder<'_>,
        index: SearchIndex<'_>,
        tick: &(impl Fn(usize) + Sync),
    ) -> Vec<Outcome> {
        let written: Vec<Outcome> = index
            .files
            .par_iter()
            .with_max_len(PAGES)
            .map(|(path, content)| {
                let outcome = self.write_search(options, out, path, content, &index);
                tick(1);
                outcome
            })
            .collect();
        let files = index.files.iter().zip(&written).filter_map(|((path, content), outcome)| {
            let (_, kept) = outcome.kept.iter().find(|(other, _)| **other == **path)?;
            Some((path.clone(), (index.key(content)?, kept.hash)))
        });
        let files = files.collect();
        index.keep(out, files);
        written
    }

    /// Writes a file that the search looks in.
    fn write_search(
        &self,
        options: &Options,
        out: OutputFolder<'_>,
        path: &str,
        content: &SearchContent,
        index: &SearchIndex<'_>,
    ) -> Outcome {
        if self.planned.contains(path) {
            return Outcome { diagnostics: vec![search::meeting(path)], ..Outcome::default() };
        }
        let is_known = self.record.files.get(path).is_some_and(|kept| index.is_known(path, content, kept));
        let stays = || self.file_stays(options, out, path, Outcome::default());
        if let Some(outcome) = is_known.then(stays).flatten() {
            return outcome;
        }
        match index.text(content) {
            Ok(text) => {
                let made = MadeOutput::Text(text);
                written(options, out, path, (self.record, self.planned), made, Outcome::default())
            }
            Err(error) => Outcome { error: Some((options.out.join(path), error.into())), ..Outcome::default() },
        }
    }

    /// Makes what these jobs publish, and then writes it: that takes a tenth less than to write each when it is made, likely
    /// since the processor's caches need not hold both.
    fn carry_out(
        &self,
        world: &World,
        options: &Options,
        out: OutputFolder<'_>,
        (jobs, tick): (&[Job], &(impl Fn() + Sync)),
        arena: &mut Bump,
    ) -> Outcome {
        let mut all = Outcome::default();
        let mut made = Vec::with_capacity(jobs.len());
        let mut bytes = 0;
        let write = |all: Outcome, output: Made<'_>| {
            let outcome = self.write(options, out, output);
            tick();
            all.with(outcome)
        };
        for job in jobs {
            let request = job.request(world);
            match self.stays(options, out, job, request.as_ref()) {
                Some(outcome) => {
                    tick();
                    all = all.with(outcome);
                }
                None => {
                    let output = self.make(world, options, (job, request.as_ref()), arena);
                    bytes += output.held();
                    made.push(output);
                }
            }
            reset_arena(arena);
            if bytes > MOST_HELD {
                bytes = 0;
                all = made.drain(..).fold(all, write);
            }
        }
        made.into_iter().fold(all, write)
    }

    /// Makes what a job publishes, and what that was made of where nothing is wrong with it.
    fn make<'j>(
        &self,
        world: &'j World,
        options: &Options,
        (job, request): (&'j Job, Option<&Request>),
        arena: &Bump,
    ) -> Made<'j> {
        let mut outcome = Outcome::default();
        let (output, dependencies) = collect(|| make(world, options, (job, request), &mut outcome, arena));
        let is_good = outcome.diagnostics.is_empty() && outcome.failed.is_empty() && outcome.answered.is_empty();
        let request = request.filter(|_| is_good && outcome.error.is_none());
        let made_of = request.and_then(|request| self.dependencies.made_of(request, &dependencies, &outcome.images));
        Made { job, output, outcome, made_of }
    }

    /// Writes it.
    fn write(&self, options: &Options, out: OutputFolder<'_>, made: Made<'_>) -> Outcome {
        let Made { job, output, outcome, made_of } = made;
        let mut outcome = written(options, out, &job.path, (self.record, self.planned), output, outcome);
        if outcome.error.is_none()
            && let Some((_, kept)) = outcome.kept.iter_mut().find(|(path, _)| **path == *job.path)
        {
            kept.made_of = made_of;
        }
        outcome
    }
}

/// Writes what a job publishes.
fn written(
    options: &Options,
    out: OutputFolder<'_>,
    path: &str,
    (old, planned): (&Record, &FxHashSet<&str>),
    made: MadeOutput<'_>,
    mut outcome: Outcome,
) -> Outcome {
    let earlier = old.files.get(path);
    let result = match &made {
        MadeOutput::Copy(node) => write::copy(out, path, node, earlier),
        MadeOutput::Text(text) => write::bytes(out, path, text.as_bytes(), earlier),
        // A broken page keeps its earlier file; one that answers with an error has none.
        MadeOutput::Nothing { broken } => {
            let all = std::iter::once(path.to_owned()).chain(compressed::beside(path)).filter(|_| *broken);
            let stays = all.filter_map(|path| Some((old.files.get(&*path)?.left(), path.into())));
            outcome.kept = stays.filter(|(kept, _)| kept.is_written()).map(|(kept, path)| (path, kept)).collect();
            outcome.left = if outcome.failed.is_empty() { 0 } else { outcome.kept.len() };
            return outcome;
        }
    };
    match result {
        Ok((kept, written)) => {
            if options.compressed {
                compress(out, path, &kept, (old, planned), || made.bytes(), &mut outcome);
            }
            outcome.add(path.into(), kept, written);
        }
        Err(error) => {
            // It may have been written all the same: it stays known as ours.
            outcome.kept = vec![(path.into(), earlier.map(Kept::left).unwrap_or_default())];
            outcome.error = Some((options.out.join(path), error));
        }
    }
    outcome
}

/// Puts compressed files beside one, as far as nothing else is published there.
fn compress<'b>(
    out: OutputFolder<'_>,
    path: &str,
    kept: &Kept,
    (old, planned): (&Record, &FxHashSet<&str>),
    bytes: impl Fn() -> io::Result<Cow<'b, [u8]>>,
    outcome: &mut Outcome,
) {
    let beside = compressed::made(out, path, kept, old, bytes);
    let write = |beside: Beside| match beside {
        Beside::Stays(path, kept) => Ok((path, kept, false)),
        Beside::Holds(path, bytes, key) => {
            let (kept, written) = write::bytes(out, &path, &bytes, old.files.get(&*path))?;
            Ok((path, Kept { bytes: kept.hash, hash: key, ..kept }, written))
        }
    };
    let is_free = |beside: &Beside| match beside {
        Beside::Stays(path, _) | Beside::Holds(path, ..) => !planned.contains(&**path),
    };
    let all: io::Result<Vec<_>> = beside.and_then(|all| all.into_iter().filter(is_free).map(write).collect());
    match all {
        Ok(all) => {
            for (path, kept, written) in all {
                outcome.add(path.into(), kept, written);
            }
        }
        Err(error) => outcome.error = Some((out.folder.join(path), error)),
    }
}

/// The paths that a build publishes for its jobs.
pub(super) fn planned(jobs: &[Job]) -> FxHashSet<&str> {
    jobs.iter().map(|job| job.path.as_str()).collect()
}

/// The paths that a build may write.
pub(super) fn paths<'j>(jobs: &'j [Job], options: &Options) -> Vec<Cow<'j, str>> {
    jobs.iter().flat_map(|job| with_beside(&job.path, options)).collect()
}

/// A path, and those of the compressed files that may be beside it.
fn with_beside<'p>(path: &'p str, options: &Options) -> impl Iterator<Item = Cow<'p, str>> {
    let beside = options.compressed.then(|| compressed::beside(path)).into_iter().flatten();
    std::iter::once(Cow::from(path)).chain(beside.map(Cow::from))
}

fn finish(
    world: &World,
    options: &Options,
    out: OutputFolder<'_>,
    pages: usize,
    (old, dependencies): (Record, &PageDependencies<'_>),
    outcomes: Vec<Outcome>,
    (digest, outputs): (u64, u64),
) -> Result<Report, BuildError> {
    let kept = outcomes.iter().flat_map(|outcome| &outcome.kept);
    let bytes = kept.map(|(_, kept)| kept.length).sum();
    let mut report = Report { pages, bytes, changed: old.unreported.clone(), ..Report::default() };
    let mut new = Record::default();
    // What was read again and was another text by then, is not what the digest is of.
    let changed: Vec<&Content> = world.site.contents.iter().filter(|content| content.node.has_changed()).collect();
    new.digest = if changed.is_empty() { digest } else { 0 };
    report.diagnostics.extend(changed.into_iter().map(changed_meanwhile));
    new.outputs = outputs;
    let mut error = None;
    for mut outcome in outcomes {
        report.written += outcome.written.len();
        report.unchanged += outcome.kept.len().saturating_sub(outcome.written.len() + outcome.left);
        report.changed.extend(outcome.written.iter().filter_map(|at| Some(outcome.kept.get(*at)?.0.clone())));
        report.failed.extend(outcome.failed);
        report.answered.extend(outcome.answered);
        report.diagnostics.extend(outcome.diagnostics);
        if new.files.is_empty() {
            // Made of all of them at once, it has no room left in it; in order already, they need none to be put in order.
            outcome.kept.sort_unstable_by(|(a, _), (b, _)| a.cmp(b));
            new.files = outcome.kept.into_iter().collect();
        } else {
            new.files.extend(outcome.kept);
        }
        error = error.or(outcome.error);
    }
    report.diagnostics = distinct(report.diagnostics);
    report.diagnostics.sort_by(|a, b| a.place.cmp(&b.place));
    if let Some((path, error)) = error {
        new.files.extend(old.files);
        new.digest = 0;
        new.forget_pages();
        new.unreported = report.changed;
        save(out, &new)?;
        return Err(BuildError::Io(path, error));
    }
    let removes_nothing = removes_nothing(world);
    for (path, kept) in old.missing_in(&new) {
        if !options.part.holds(path) || images::stays(path, options.part, &report.failed) {
            // Another part has put it out.
            new.files.insert(path.clone(), kept.left());
        } else if removes_nothing {
            report.held += 1;
            new.files.insert(path.clone(), kept.left());
        } else if write::is_ours(out, path, kept) {
            if write::remove(out, path) {
                report.removed += 1;
                report.changed.push(path.clone());
            }
        } else if out.files.is_there(&out.folder.join(&**path), Links::Keep).unwrap_or(true) {
            report.strangers.push(path.to_string());
        }
    }
    report.changed.sort_unstable();
    report.changed.dedup();
    new.keep_report(world, &report);
    new.dependencies = dependencies.kept(new.files.values_mut().filter_map(|kept| kept.made_of.as_mut()));
    save(out, &new)?;
    Ok(report)
}

/// What is said of content that was edited while the site was built.
fn changed_meanwhile(content: &Content) -> Diagnostic {
    Diagnostic::of(&codes::CHANGED_MEANWHILE, "this file has changed since the build began, so pages may show both")
        .help("build again")
        .at(content.path(), Span::default())
}

/// Whether what nothing makes any more stays: while content, a table or the configuration has an error, pages may be missing
/// for that alone.
pub(super) fn removes_nothing(world: &World) -> bool {
    let is_source = |path: &str| {
        path.starts_with("content/")
            || path.starts_with("tables/")
            || path == crate::schema::config::FILE
            || path.ends_with(crate::themes::theme::MANIFEST)
    };
    let of_source = |problem: &Diagnostic| problem.place.as_ref().is_some_and(|place| is_source(&place.path));
    world.problems.iter().any(|problem| problem.is_error() && of_source(problem))
}

pub(super) fn load(out: OutputFolder<'_>) -> Result<Record, BuildError> {
    Record::load(out).map_err(|error| {
        let message = format!("{} can't be read: {error}", out.folder.join(RECORD).display());
        BuildError::Folder(message, "remove it, or choose another folder with --out".to_owned())
    })
}

/// Writes the paths that are about to be written into the record.
fn save_intended(out: OutputFolder<'_>, record: &mut Record, paths: &[Cow<'_, str>]) -> Result<(), BuildError> {
    let saved = record.save_intended(out, paths.iter().map(|path| &**path));
    saved.map_err(|error| BuildError::Io(out.folder.join(RECORD), error))
}

/// Whether a build is under way, or ended before its time.
fn is_under_way(out: OutputFolder<'_>) -> bool {
    out.files.is_there(&out.folder.join(UNDER_WAY), Links::Keep).unwrap_or(true)
}

fn save(out: OutputFolder<'_>, record: &Record) -> Result<(), BuildError> {
    record.save(out).map_err(|error| BuildError::Io(out.folder.join(RECORD), error))
}

/// The output folder must not hold the site, nor be one of its parts.
pub(super) fn check_folder(site: &Path, out: OutputFolder<'_>) -> Result<(), BuildError> {
    let (root, folder) = (out.files.real_path(site).unwrap_or_else(|_| site.to_owned()), out.folder);
    let part = ["content", "media", "tables", "themes"].iter().any(|part| folder.starts_with(root.join(part)));
    if root.starts_with(folder) || part {
        let message = format!("{} holds the site's own files", folder.display());
        return Err(BuildError::Folder(message, "choose a folder of its own, as in --out built".to_owned()));
    }
    if out.files.look(folder, Links::Follow).is_ok_and(|look| look.kind != FileKind::Folder) {
        return Err(BuildError::Folder(
            format!("{} is not a folder", folder.display()),
            "choose another one with --out".to_owned(),
        ));
    }
    Ok(())
}

/// Takes the digests of files that an earlier build has copied, and that have the same stamps: they are not read again.
pub(super) fn know_digests(jobs: &[Job], old: &Record) {
    for job in jobs {
        if let Output::Copy(node) = &job.output
            && let Some(kept) = old.files.get(&*job.path)
            && kept.bytes != 0
            && kept.hash == write::hash_of_stamp(node)
        {
            node.has_digest(kept.bytes);
        }
    }
}

/// Files in the way that no build of ours has written are not overwritten. Tells whether the record knows all paths.
pub(super) fn check_strangers(out: OutputFolder<'_>, paths: &[Cow<'_, str>], old: &Record) -> Result<bool, BuildError> {
    if out.files.list(out.folder).is_ok_and(|entries| entries.iter().all(|entry| entry.name == LOCK)) {
        return Ok(false);
    }
    check_strange(out, paths, old)
}

/// The same for a folder that holds something.
pub(super) fn check_strange(out: OutputFolder<'_>, paths: &[Cow<'_, str>], old: &Record) -> Result<bool, BuildError> {
    let unknown: Vec<&Cow<'_, str>> =
        paths.par_iter().with_max_len(FILES).filter(|path| !old.files.contains_key(&***path)).collect();
    // What can't be looked at is in the way, too.
    let is_there = |path: &str| out.files.is_there(&out.folder.join(path), Links::Keep).unwrap_or(true);
    match unknown.par_iter().with_max_len(FILES).find_first(|path| is_there(path)) {
        None => Ok(unknown.is_empty()),
        Some(path) => Err(BuildError::Folder(
            format!("{} is in the way: no build has written it", out.folder.join(&***path).display()),
            "move it away, or build into another folder with --out".to_owned(),
        )),
    }
}

fn lock(out: OutputFolder<'_>) -> Result<Box<dyn Any + Send>, BuildError> {
    let path = out.folder.join(LOCK);
    match out.files.lock(&path) {
        Ok(Some(lock)) => Ok(lock),
        Ok(None) => Err(BuildError::Locked),
        Err(error) => Err(BuildError::Io(path, error)),
    }
}

pub(super) fn hash(bytes: &[u8]) -> u64 {
    xxh3_64(bytes)
}
