//! What a build publishes, and that no two outputs meet in one file.

use std::borrow::Cow;
use std::path::PathBuf;
use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::{Place, Span};
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};
use xxhash_rust::xxh3::Xxh3;

use crate::build::{BuildPart, Options};
use crate::files::FileNode;
use crate::lookup::map::{error_request, error_statuses, map};
use crate::lookup::public;
use crate::model::request::{self, Request, Routed};
use crate::model::site::Target;
use crate::render::page::search_files;
use crate::render::search::script;
use crate::schema::config;
use crate::text::address::output_file;
use crate::text::codes;
use crate::themes::file_name::Role;
use crate::threads::FILES;
use crate::world::World;

/// One output.
pub struct Job {
    /// The path of its file below the output folder.
    pub path: String,
    /// What it holds.
    pub output: Output,
}

impl Job {
    /// Whether it counts as a page of the site.
    pub(crate) fn is_page(&self) -> bool {
        matches!(self.output, Output::Page(_) | Output::Redirect(_))
    }

    /// The request that it answers, if it is a page.
    pub(super) fn request(&self, world: &World) -> Option<Request> {
        match &self.output {
            Output::Page(page) => Some(page.request(world)),
            Output::Redirect(_) | Output::Copy(_) | Output::Text(_) => None,
        }
    }

    /// Whether it goes through all of the site.
    fn is_long(&self, world: &World) -> bool {
        let is_sitemap = |address: &str| matches!(world.site.addresses.get(address), Some(Target::Sitemap(_)));
        match &self.output {
            Output::Page(PageOf::Address(address)) => is_sitemap(address),
            Output::Page(PageOf::Error(_)) => false,
            Output::Text(text) => matches!(text, Text::Map),
            Output::Redirect(_) | Output::Copy(_) => false,
        }
    }
}

/// Which request a page answers: of many pages, the requests take more room than what leads to them.
pub enum PageOf {
    /// The one that this address leads to.
    Address(Box<str>),
    /// The one for the page of an error.
    Error(u16),
}

impl PageOf {
    /// That request.
    fn request(&self, world: &World) -> Request {
        match self {
            PageOf::Error(status) => error_request(*status),
            PageOf::Address(address) => match world.route_decoded(address) {
                Routed::Request(request) => request,
                // What an address leads to does not change in one World.
                Routed::Redirect(_) => Request::error(address, 404, None),
            },
        }
    }
}

/// What an output holds.
pub enum Output {
    /// The answer to a request.
    Page(PageOf),
    /// A page that redirects to this address.
    Redirect(Box<str>),
    /// A copy of this file.
    Copy(Arc<FileNode>),
    /// A text that is made of the whole site.
    Text(Text),
}

/// A text that is made of the whole site, when it is written.
#[derive(Clone, Copy, Debug)]
pub enum Text {
    /// The script that searches in the browser.
    SearchScript,
    /// The list of what it looks in, which is made when the pages are.
    SearchIndex,
    /// Every address with what renders it.
    Map,
}

impl Text {
    /// Makes it.
    ///
    /// # Errors
    /// When it can't be written as JSON.
    pub fn make(self, world: &World) -> serde_json::Result<Cow<'_, str>> {
        match self {
            Text::SearchScript => Ok(script(world)),
            Text::SearchIndex => Ok("".into()),
            Text::Map => Ok((serde_json::to_string_pretty(&map(world))? + "\n").into()),
        }
    }
}

/// All outputs of a site, or of the part of it that is requested, and what is wrong among those of the whole: of what meets
/// in one file, one is published. And a digest of their paths, where none meet, otherwise 0: `known` is that of an earlier
/// build.
pub fn plan(world: &World, options: &Options, known: u64) -> (Vec<Job>, Vec<Diagnostic>, u64) {
    // Found before pages are made on all cores: a core that waits for this in the middle of a page could take up another
    // page that waits for it, too.
    world.odd();
    let job = |address: String| {
        let path = output_file(&address);
        let output = match world.route_decoded(&address) {
            Routed::Request(_) => Output::Page(PageOf::Address(address.into())),
            Routed::Redirect(to) => Output::Redirect(to.into()),
        };
        Job { path, output }
    };
    let mut jobs: Vec<Job> = request::addresses(&world.site).into_par_iter().with_max_len(FILES).map(job).collect();
    let mut others = Vec::new();
    for status in error_statuses(world) {
        let path = output_file(&error_request(status).address);
        others.push(Job { path, output: Output::Page(PageOf::Error(status)) });
    }
    for node in world.snapshot.below("media/") {
        others.push(Job { path: node.path.to_string(), output: Output::Copy(node.clone()) });
    }
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.role == Role::Asset) {
        let path = match world.lineage.nearest(&file.name) == Some(id) {
            true => Some(file.name.to_string()),
            false => public::path_of(world, id).map(|path| path.trim_start_matches('/').to_owned()),
        };
        others.extend(path.map(|path| Job { path, output: Output::Copy(file.node.clone()) }));
    }
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.name.starts_with("components/")) {
        if world.component_asset(&file.name) == Some(id) {
            others.push(Job { path: format!("assets/{}", file.name), output: Output::Copy(file.node.clone()) });
        }
    }
    if let Some((script, index)) = search_files(world) {
        others.push(Job { path: output_file(&script), output: Output::Text(Text::SearchScript) });
        others.push(Job { path: output_file(&index), output: Output::Text(Text::SearchIndex) });
    }
    if options.map {
        others.push(Job { path: "hausblatt-map.json".to_owned(), output: Output::Text(Text::Map) });
    }
    // They are fewer; to grow for one more takes room for as many again.
    jobs.reserve_exact(others.len());
    jobs.append(&mut others);
    let mut paths = Xxh3::new();
    for job in &jobs {
        paths.update(job.path.as_bytes());
        paths.update(&[0]);
    }
    let outputs = paths.digest().max(1);
    let (left_out, found) = if outputs == known { Default::default() } else { clashes(world, &jobs) };
    let outputs = if found.is_empty() { outputs } else { 0 };
    let mut at = 0..;
    jobs.retain(|job| {
        let is_left_out = at.next().is_some_and(|at| left_out.contains(&at));
        let is_made_later = matches!(job.output, Output::Text(Text::SearchIndex));
        !is_left_out && !is_made_later && options.part.holds(&job.path)
    });
    // What goes through all pages takes longest, and is started first.
    jobs.sort_by_key(|job| !job.is_long(world));
    (jobs, found, outputs)
}

/// Which outputs are left out, by their numbers, and why: files of the site stay before pages, and pages before redirects,
/// as the server has it.
fn clashes(world: &World, jobs: &[Job]) -> (FxHashSet<usize>, Vec<Diagnostic>) {
    let rank = |job: &Job| match job.output {
        Output::Copy(_) => 0,
        Output::Page(_) | Output::Text(_) => 1,
        Output::Redirect(_) => 2,
    };
    let folded: Vec<String> = jobs.iter().map(|job| job.path.to_lowercase()).collect();
    let mut order: Vec<usize> = (0..jobs.len()).collect();
    order.sort_by_key(|&at| rank(&jobs[at]));
    // By path: which output is the file, or is the first in a folder of that name.
    let mut files: FxHashMap<&str, usize> = FxHashMap::default();
    let mut folders: FxHashMap<&str, usize> = FxHashMap::default();
    let (mut left_out, mut found) = (FxHashSet::default(), Vec::new());
    for at in order {
        let path = folded[at].as_str();
        let above = || path.match_indices('/').map(|(end, _)| &path[..end]);
        let other = files.get(path).or_else(|| folders.get(path)).copied();
        match other.or_else(|| above().find_map(|folder| files.get(folder).copied())) {
            Some(other) => {
                left_out.insert(at);
                found.push(meeting_of(world, &jobs[at], &jobs[other]));
            }
            None => {
                files.insert(path, at);
                above().for_each(|folder| {
                    folders.entry(folder).or_insert(at);
                });
            }
        }
    }
    (left_out, found)
}

fn meeting_of(world: &World, job: &Job, other: &Job) -> Diagnostic {
    let message = match job.path.to_lowercase() == other.path.to_lowercase() {
        true if job.path == other.path => format!("two outputs meet in the file {}", job.path),
        true => format!("two outputs meet in the file {}, which many systems take for one", job.path),
        false => {
            let (file, _) = if job.path.len() < other.path.len() { (job, other) } else { (other, job) };
            format!("{} would be a file and a folder", file.path)
        }
    };
    let mut met = [job, other];
    // A line that says so is a better place than a file that does not.
    met.sort_by_key(|job| source(world, job).span == Span::default());
    let [(place, _), (related, published)] = met.map(|job| (source(world, job), job));
    Diagnostic::of(&codes::SAME_OUTPUT, message)
        .help("give one of them another address or name")
        .at(&place.path, place.span)
        .related(&related.path, related.span, format!("this is published as {}", published.path))
}

/// What meets in one file when the site is built; found once.
pub(crate) fn meeting(world: &World) -> &[Diagnostic] {
    world.meeting.get_or_init(|| {
        let options = Options {
            out: PathBuf::new(),
            map: false,
            marks: false,
            compressed: false,
            part: BuildPart::WHOLE,
            clears_images: false,
        };
        plan(world, &options, 0).1
    })
}

/// Whether both sites are built into the same files, so that what meets in one is the same, too.
pub(crate) fn have_same_outputs(one: &World, other: &World) -> bool {
    let published = |world: &World| {
        let files =
            world.lineage.ids().filter(|(_, file)| file.role == Role::Asset || file.name.starts_with("components/"));
        // What a style sheet says may decide where another one is published.
        files.map(|(_, file)| (Arc::as_ptr(&file.node), file.hidden_by)).collect::<Vec<_>>()
    };
    let media = |world: &World| world.snapshot.below("media/").map(|node| node.path.clone()).collect::<Vec<_>>();
    search_files(one) == search_files(other)
        && published(one) == published(other)
        && media(one) == media(other)
        && error_statuses(one) == error_statuses(other)
        && request::addresses(&one.site) == request::addresses(&other.site)
}

/// The place that an output comes from, for messages.
fn source(world: &World, job: &Job) -> Place {
    let config = || (config::FILE.into(), Span::default());
    let (path, span) = match &job.output {
        Output::Copy(node) => (node.path.clone(), Span::default()),
        Output::Page(page) => match page.request(world).content(&world.site) {
            Some(content) => (world.site.content(content).path().clone(), Span::default()),
            None => config(),
        },
        Output::Redirect(_) => {
            let is_it = |address: &str| output_file(address) == job.path;
            let moved = world.site.contents.iter().find_map(|content| {
                let (_, span) = content.formerly.iter().find(|(address, _)| is_it(address))?;
                Some((content.path().clone(), *span))
            });
            moved.unwrap_or_else(config)
        }
        Output::Text(_) => config(),
    };
    Place { path, span }
}
