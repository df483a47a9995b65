//! Pages: requests rendered to answers, with the error's ladder behind them.

use bumpalo::Bump;
use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::escape::escape;
use hausblatt_lang::near::nearest_all;
use hausblatt_lang::render::{FAULTY_FILE, Job, Limits, Shows, Stop, render};
use hausblatt_lang::value::Scratch;

use crate::host::globals;
use crate::lineage::FileId;
use crate::request::{Kind, Request};
use crate::resolution::{LayoutChoice, Resolution};
use crate::world::World;

/// A complete answer.
#[derive(Debug)]
pub struct Page {
    /// The HTTP status, always the true one.
    pub status: u16,
    /// The HTML.
    pub text: String,
    /// Where a redirect leads.
    pub location: Option<String>,
    /// What is wrong and what was noticed.
    pub diagnostics: Vec<Diagnostic>,
}

/// Whom a page is rendered for.
#[derive(Clone, Copy, Debug)]
pub enum Audience {
    /// One request, whose address is known.
    Visitor,
    /// The theme's developer, who wants to see more than the page.
    Developer(Shows),
    /// A file that stands for many requests.
    Build,
}

impl Audience {
    fn shows(self) -> Shows {
        match self {
            Audience::Developer(shows) => shows,
            Audience::Visitor | Audience::Build => Shows::default(),
        }
    }
}

/// Renders the answer to `request`. The arena is only used while this runs.
pub fn page(world: &World, request: Request, audience: Audience, arena: &Bump) -> Page {
    let address = request.address.clone();
    if matches!(request.kind, Kind::Error(_)) {
        return failed(world, request, audience, arena, Vec::new());
    }
    match attempt(world, request, audience, arena) {
        Ok(page) => page,
        Err(Failure::Redirect { status, to }) => {
            Page { status, text: redirect_page(&to), location: Some(to), diagnostics: Vec::new() }
        }
        Err(Failure::Answer { status, title }) => {
            failed(world, Request::error(&address, status, title), audience, arena, Vec::new())
        }
        Err(Failure::Fault(faults)) => failed(world, Request::error(&address, 500, None), audience, arena, faults),
    }
}

/// Why there is no page.
enum Failure {
    Answer { status: u16, title: Option<String> },
    Redirect { status: u16, to: String },
    Fault(Vec<Diagnostic>),
}

/// The error page, or, where that fails too, a plain one.
fn failed(world: &World, request: Request, audience: Audience, arena: &Bump, mut faults: Vec<Diagnostic>) -> Page {
    let status = request.status;
    let plain = plain_error(&request);
    match attempt(world, request, audience, arena) {
        Ok(page) => {
            faults.extend(page.diagnostics);
            Page { diagnostics: faults, ..page }
        }
        Err(failure) => {
            match failure {
                Failure::Fault(more) => {
                    faults.extend(more.into_iter().filter(|fault| !faults.contains(fault)).collect::<Vec<_>>())
                }
                Failure::Answer { .. } | Failure::Redirect { .. } => {
                    faults.push(Diagnostic::error(
                        "error-in-error",
                        "an error template can't answer with another status or redirect",
                    ));
                }
            }
            Page { status, text: plain, location: None, diagnostics: faults }
        }
    }
}

fn attempt(world: &World, request: Request, audience: Audience, arena: &Bump) -> Result<Page, Failure> {
    let error = matches!(request.kind, Kind::Error(_));
    let plain = error.then(|| plain_error(&request));
    let status = request.status;
    let resolution = world.resolve(request);
    let diagnostics = broken(world, &resolution);
    if !diagnostics.is_empty() {
        return Err(Failure::Fault(diagnostics));
    }
    if resolution.winner.is_none() {
        return match plain {
            Some(text) => Ok(Page { status, text, location: None, diagnostics: Vec::new() }),
            None => Err(Failure::Fault(vec![
                Diagnostic::error("no-template", format!("no template answers {}", resolution.request.address))
                    .help("write templates/fallback.html in a theme of the lineage"),
            ])),
        };
    }
    let output = run(world, &resolution, audience, arena)?;
    Ok(Page { status, text: output.text.to_owned(), location: None, diagnostics: output.warnings })
}

/// The faults that keep an answer from being rendered at all.
fn broken(world: &World, resolution: &Resolution) -> Vec<Diagnostic> {
    let mut paths: Vec<&str> = Vec::new();
    let content = resolution.request.kind.content().map(|id| world.site.content(id));
    paths.extend(content.filter(|content| content.broken).map(|content| &**content.path()));
    let layouts: &[FileId] = match &resolution.layout {
        LayoutChoice::Files(files) => files,
        LayoutChoice::None | LayoutChoice::Missing(..) => &[],
    };
    let prepare = resolution.prepare(world);
    let files = resolution.winner.iter().chain(layouts).chain(&prepare).filter(|&&file| world.program(file).is_none());
    paths.extend(files.map(|&file| &*world.lineage.file(file).node.path));
    let mut faults: Vec<Diagnostic> = paths.iter().flat_map(|path| world.faults_at(path)).cloned().collect();
    if let LayoutChoice::Missing(name, asker) = &resolution.layout {
        let message = format!("no theme of the lineage has the layout \"{}\"", name.text);
        let diagnostic = Diagnostic::error("unknown-layout", message)
            .help("a template without a layout says: layout: none")
            .at(&world.lineage.file(*asker).node.path, name.span);
        if !faults.iter().any(|fault| fault.code == diagnostic.code) {
            faults.push(diagnostic);
        }
    }
    if faults.is_empty() && !paths.is_empty() {
        faults.push(Diagnostic::error(FAULTY_FILE, format!("{} has faults and can't be rendered", paths.join(", "))));
    }
    faults
}

/// A fault that only says that a file has faults is replaced by those.
fn told(world: &World, fault: Diagnostic) -> Vec<Diagnostic> {
    let path = fault.place.as_ref().filter(|_| fault.code == FAULTY_FILE).map(|place| place.path.clone());
    let inner: Vec<Diagnostic> = path.iter().flat_map(|path| world.faults_at(path)).cloned().collect();
    if inner.is_empty() { vec![fault] } else { inner }
}

fn run<'a>(
    world: &'a World,
    resolution: &'a Resolution,
    audience: Audience,
    arena: &'a Bump,
) -> Result<hausblatt_lang::render::Output<'a>, Failure> {
    render(&job(world, resolution, audience, arena), arena).map_err(|stop| match *stop {
        Stop::Answer { status, title } => Failure::Answer { status, title },
        Stop::Redirect { status, to } => Failure::Redirect { status, to },
        Stop::Fault(fault) => Failure::Fault(told(world, *fault)),
    })
}

/// All that rendering a resolution needs, in `arena`.
pub(crate) fn job<'a>(world: &'a World, resolution: &'a Resolution, audience: Audience, arena: &'a Bump) -> Job<'a> {
    let limits = Limits::default();
    let scratch = Scratch::new(arena, limits.bytes);
    let nearest = match (audience, &resolution.request.kind) {
        (Audience::Visitor | Audience::Developer(_), Kind::Error(_)) => {
            Some(nearest_addresses(world, &resolution.request.address))
        }
        _ => None,
    };
    let values = globals::values(world, resolution, nearest, &scratch);
    let templates: Vec<_> = resolution.chain().filter_map(|file| world.unit(file)).collect();
    let layouts: Vec<_> = match &resolution.layout {
        LayoutChoice::Files(files) => files.iter().filter_map(|&file| world.unit(file)).collect(),
        LayoutChoice::None | LayoutChoice::Missing(..) => Vec::new(),
    };
    let prepare: Vec<_> = resolution.prepare(world).into_iter().filter_map(|file| world.unit(file)).collect();
    Job {
        host: world,
        library: &world.library,
        globals: arena.alloc_slice_copy(&values),
        templates: arena.alloc_slice_copy(&templates),
        layouts: arena.alloc_slice_copy(&layouts),
        prepare: arena.alloc_slice_copy(&prepare),
        shows: audience.shows(),
        limits,
    }
}

/// Up to five addresses near one that does not exist, with their titles.
pub fn nearest_addresses<'w>(world: &'w World, address: &str) -> Vec<(&'w str, &'w str)> {
    let live = || world.site.contents.iter().filter_map(|content| Some((content.address.as_deref()?, &*content.title)));
    let listings = || {
        let listed = world
            .site
            .collections
            .iter()
            .filter_map(|collection| Some((collection.listing.as_deref()?, collection.config.label.as_str())));
        listed.filter(|(address, _)| *address != "/")
    };
    let wanted = address.trim_end_matches('/');
    let last = wanted.rsplit('/').next().unwrap_or("");
    let all: Vec<(&str, &str)> = live().chain(listings()).filter(|(other, _)| *other != address).collect();
    let mut found: Vec<(&str, &str)> = Vec::new();
    for near in nearest_all(wanted, all.iter().map(|(address, _)| address.trim_end_matches('/')), 5) {
        found.extend(all.iter().find(|(address, _)| address.trim_end_matches('/') == near).copied());
    }
    let ends_alike = |address: &str| !last.is_empty() && address.trim_end_matches('/').rsplit('/').next() == Some(last);
    for &(address, title) in all.iter().filter(|(address, _)| ends_alike(address)) {
        if found.len() < 5 && !found.iter().any(|(other, _)| *other == address) {
            found.push((address, title));
        }
    }
    found
}

fn plain_error(request: &Request) -> String {
    let mut title = String::new();
    escape(globals::title_of_error(request), &mut title);
    let status = request.status;
    format!(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"robots\" content=\"noindex\">\n<title>{status} {title}</title>\n</head>\n<body>\n<h1>{title}</h1>\n<p>Status {status}</p>\n</body>\n</html>\n"
    )
}

/// A page that leads on by itself, for hosts that only know files.
pub fn redirect_page(to: &str) -> String {
    let mut address = String::new();
    escape(to, &mut address);
    format!(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"robots\" content=\"noindex\">\n<meta http-equiv=\"refresh\" content=\"0; url={address}\">\n<link rel=\"canonical\" href=\"{address}\">\n<title>This page has moved</title>\n</head>\n<body>\n<p>This page has moved to <a href=\"{address}\">{address}</a>.</p>\n</body>\n</html>\n"
    )
}
