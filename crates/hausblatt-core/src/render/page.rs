//! Pages: requests rendered to answers, with the error's ladder after them.

use bumpalo::Bump;
use hausblatt_lang::escape::html::escape;
use hausblatt_lang::html::body_end;
use hausblatt_lang::library::UnitId;
use hausblatt_lang::render::{InTray, Job, LinkedAsset, Shows, Stop, Tray, render};
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::{Place, Span};
use hausblatt_lang::text::suggest::nearest_all;
use hausblatt_lang::value::Scratch;
use hausblatt_lang::value::dependencies::note_unknown;

use crate::files::Body;
use crate::lookup::content_links;
use crate::lookup::resolution::{LayoutChoice, Resolution, layouts_from};
use crate::model::dependencies::SitePart;
use crate::model::request::{Kind, Request, Routed};
use crate::render::component_preview;
use crate::render::feed;
use crate::render::host::globals;
use crate::render::sitemap;
use crate::schema::config::Spanned;
use crate::text::address;
use crate::text::codes;
use crate::text::conflict;
use crate::text::shell::word;
use crate::themes::component::TrayItem;
use crate::themes::lineage::FileId;
use crate::world::World;

/// A complete answer.
#[derive(Debug)]
pub struct Page {
    /// The HTTP status, always the true one.
    pub status: u16,
    /// The format of its text.
    pub format: Ending,
    /// The text: HTML, or what its format says.
    pub text: String,
    /// Where a redirect leads.
    pub location: Option<String>,
    /// The template that made the text; none where something built in did.
    pub template: Option<FileId>,
    /// What is wrong and what was noticed.
    pub diagnostics: Vec<Diagnostic>,
    /// Where a file answered with an error or redirected.
    pub stopped_at: Option<Place>,
    /// The style sheets and scripts that `use` and components bring, in the order in which it links to them.
    pub links: Vec<LinkedAsset>,
}

impl Page {
    /// A page that redirects.
    pub fn redirect(status: u16, to: String) -> Self {
        let text = redirect_page(&to);
        Self {
            status,
            format: Ending::Html,
            text,
            location: Some(to),
            template: None,
            diagnostics: Vec::new(),
            stopped_at: None,
            links: Vec::new(),
        }
    }
}

/// Whom a page is rendered for.
#[derive(Clone, Copy, Debug)]
pub enum Audience {
    /// One request, whose address is known.
    Visitor,
    /// The theme's developer, who wants to see more than the page.
    Developer(Shows),
    /// A file that answers many requests.
    Build(Shows),
}

impl Audience {
    fn shows(self) -> Shows {
        match self {
            Audience::Developer(shows) | Audience::Build(shows) => shows,
            Audience::Visitor => Shows::default(),
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
        Err(Failure::Redirect { status, to, place }) => Page { stopped_at: Some(place), ..Page::redirect(status, to) },
        Err(Failure::Answer { status, title, place }) => {
            let error = Request::error(&address, status, title);
            Page { stopped_at: Some(place), ..failed(world, error, audience, arena, Vec::new()) }
        }
        Err(Failure::Problem(problems)) => {
            failed(world, Request::error(&address, 500, None), audience, arena, problems)
        }
    }
}

/// What a component is rendered with where it is rendered alone.
#[derive(Clone, Debug, Default)]
pub struct ComponentPreview {
    /// Its name.
    pub name: String,
    /// Values of its fields as they are typed; the others have their defaults.
    pub set: Vec<(String, String)>,
    /// Whether to put the layout `document` around it.
    pub document: bool,
}

/// Renders a component alone, as if the front page showed it.
///
/// # Errors
/// What is wrong with its name, its fields or its files.
pub fn component_alone(world: &World, alone: &ComponentPreview, shows: Shows) -> Result<Page, Vec<Diagnostic>> {
    let arena = Bump::new();
    let component = component_preview::find(world, &alone.name).map_err(|problem| vec![problem])?;
    let values = component_preview::set(world, component, &alone.set).map_err(|problem| vec![problem])?;
    let request = match world.route_decoded("/") {
        Routed::Request(request) => request,
        Routed::Redirect(_) => Request::error("/", 404, None),
    };
    let resolution = world.resolve(request);
    let unit = world.library.find_component(Ending::Html, &alone.name);
    let units: Vec<UnitId> =
        std::iter::successors(unit, |&unit| world.library.unit(unit)?.next).take(world.library.units.len()).collect();
    let layouts: Vec<UnitId> = match (alone.document, unit) {
        (true, Some(unit)) => {
            let name = Spanned { text: "document".to_owned(), ..Spanned::default() };
            match layouts_from(world, name, world.file_of(unit)) {
                LayoutChoice::Files(files) => files.into_iter().filter_map(|file| world.unit(file)).collect(),
                LayoutChoice::None => Vec::new(),
                LayoutChoice::Missing(name, _) => {
                    let message = format!("no theme of the lineage has the layout \"{}\"", name.text);
                    let help = "leave out --document, or write layouts/document.html";
                    return Err(vec![Diagnostic::of(&codes::UNKNOWN_LAYOUT, message).help(help)]);
                }
            }
        }
        _ => Vec::new(),
    };
    let given: Vec<_> = values.iter().map(|(symbol, value)| (*symbol, value.value())).collect();
    let job = job(world, &resolution, Audience::Developer(shows), &arena);
    let job = Job { templates: &units, layouts: &layouts, trays: &[], given: &given, ..job };
    match render(&job, &arena) {
        Ok(output) => Ok(Page {
            status: 200,
            format: Ending::Html,
            text: output.text.to_owned(),
            location: None,
            template: None,
            // Without a document there is nobody to link to styles.
            diagnostics: output
                .warnings
                .into_iter()
                .filter(|one| alone.document || one.code != lang_codes::UNLINKED_ASSET.name)
                .collect(),
            stopped_at: None,
            links: Vec::new(),
        }),
        Err(stop) => match *stop {
            Stop::Problem(problem) => Err(told(world, *problem)),
            Stop::Answer { status, place, .. } | Stop::Redirect { status, place, .. } => {
                let message = format!("this component answers with {status}");
                let help = "a component is a part of a page: let a template answer or redirect";
                Err(vec![Diagnostic::of(&codes::COMPONENT_STOPS, message).help(help).at(&place.path, place.span)])
            }
        },
    }
}

/// Why there is no page.
enum Failure {
    Answer { status: u16, title: Option<String>, place: Place },
    Redirect { status: u16, to: String, place: Place },
    Problem(Vec<Diagnostic>),
}

/// The error page, or, where that fails too, a plain one.
fn failed(world: &World, request: Request, audience: Audience, arena: &Bump, mut problems: Vec<Diagnostic>) -> Page {
    let status = request.status;
    let plain = plain_error(&request);
    match attempt(world, request, audience, arena) {
        Ok(page) => {
            problems.extend(page.diagnostics);
            Page { diagnostics: problems, ..page }
        }
        Err(failure) => {
            match failure {
                Failure::Problem(more) => {
                    problems.extend(more.into_iter().filter(|problem| !problems.contains(problem)).collect::<Vec<_>>())
                }
                Failure::Answer { place, .. } | Failure::Redirect { place, .. } => {
                    let message = "an error template can't answer with another status or redirect";
                    let help = "leave it to the template that the request was for";
                    problems
                        .push(Diagnostic::of(&codes::ERROR_IN_ERROR, message).help(help).at(&place.path, place.span));
                }
            }
            Page {
                status,
                format: Ending::Html,
                text: plain,
                location: None,
                template: None,
                diagnostics: problems,
                stopped_at: None,
                links: Vec::new(),
            }
        }
    }
}

fn attempt(world: &World, request: Request, audience: Audience, arena: &Bump) -> Result<Page, Failure> {
    let (status, format) = (request.status, request.format);
    let resolution = world.resolve(request);
    let diagnostics = broken(world, &resolution);
    if !diagnostics.is_empty() {
        return Err(Failure::Problem(diagnostics));
    }
    if resolution.winner.is_none() {
        return match built_in(world, &resolution.request) {
            Some(text) => Ok(Page {
                status,
                format,
                text,
                location: None,
                template: None,
                diagnostics: Vec::new(),
                stopped_at: None,
                links: Vec::new(),
            }),
            None => {
                // The same words for every address that the same file would help: one report for all.
                let names: Vec<&str> = resolution.rungs.iter().map(|rung| rung.rung.name.as_str()).collect();
                let first = names.first().filter(|_| format != Ending::Html).map(|first| format!("{first} or "));
                let last = names.last().copied().unwrap_or("fallback.html");
                let file = format!("templates/{}{last}", first.unwrap_or_default());
                let message = format!("no theme of the lineage has a template for this: {file} is missing");
                let help = format!("start with hausblatt start template {}", word(last.trim_end_matches(".html")));
                Err(Failure::Problem(vec![Diagnostic::of(&codes::NO_TEMPLATE, message).help(help)]))
            }
        };
    }
    if resolution.request.kind == Kind::Search {
        // The version of the script that searches is one of all that is found.
        note_unknown();
    }
    let output = run(world, &resolution, audience, arena)?;
    let mut text = output.text.to_owned();
    if matches!(audience, Audience::Build(_)) && resolution.request.kind == Kind::Search {
        add_search_script(world, &mut text);
    }
    let mut diagnostics = output.warnings;
    // What a file's literal says wrong was reported when the file was read.
    diagnostics.retain(|found| !world.problems.iter().any(|known| is_same_asset(known, found)));
    if let Some(content) = resolution.request.content(&world.site) {
        diagnostics.extend(content_links::of_text(world, content));
    }
    let links = output.links;
    let template = resolution.winner;
    Ok(Page { status, format, text, location: None, template, diagnostics, stopped_at: None, links })
}

fn is_same_asset(known: &Diagnostic, found: &Diagnostic) -> bool {
    let path = |diagnostic: &Diagnostic| diagnostic.place.as_ref().map(|place| place.path.clone());
    known.code == "unknown-asset" && known.message == found.message && path(known) == path(found)
}

/// Whether something built in answers where no theme has a template.
pub(crate) fn is_built_in(request: &Request) -> bool {
    matches!(request.kind, Kind::Error(_) | Kind::Sitemap(_) | Kind::Robots) || request.is_feed()
}

/// What answers where no theme has a template, if anything does.
fn built_in(world: &World, request: &Request) -> Option<String> {
    match request.kind {
        Kind::Error(_) | Kind::Robots => {}
        // Where an answer may be an error, nobody knows before it is made.
        Kind::Sitemap(_) if world.is_plain() => SitePart::Whole.note(0),
        _ => note_unknown(),
    }
    match request.kind {
        Kind::Error(_) => Some(plain_error(request)),
        Kind::Sitemap(part) => sitemap::sitemap(world, part).ok(),
        Kind::Robots => Some(sitemap::robots(world)),
        _ if request.is_feed() => feed::atom(world, request).ok(),
        _ => None,
    }
}

/// The addresses of a built search's script and of what it looks in.
pub(crate) fn search_files(world: &World) -> Option<(String, String)> {
    let base = &world.site.config.search.as_ref()?.address.text;
    Some((format!("{base}search.js"), format!("{base}index.json")))
}

/// A built page can't know the query: a script answers in the browser.
fn add_search_script(world: &World, text: &mut String) {
    let Some((script, _)) = search_files(world) else { return };
    let mut address = String::new();
    escape(&address::encoded(&script), &mut address);
    let at = body_end(text);
    text.insert_str(at, &format!("<script src=\"{address}\" defer></script>\n"));
}

/// The errors that keep an answer from being rendered at all.
pub(crate) fn broken(world: &World, resolution: &Resolution) -> Vec<Diagnostic> {
    let mut paths: Vec<&str> = Vec::new();
    let content = resolution.request.content(&world.site).map(|id| world.site.content(id));
    paths.extend(content.filter(|content| content.broken).map(|content| &**content.path()));
    let layouts: &[FileId] = match &resolution.layout {
        LayoutChoice::Files(files) => files,
        LayoutChoice::None | LayoutChoice::Missing(..) => &[],
    };
    let prepare = resolution.prepare(world);
    let files = resolution.winner.iter().chain(layouts).chain(&prepare).filter(|&&file| world.program(file).is_none());
    paths.extend(files.map(|&file| &*world.lineage.file(file).node.path));
    let mut problems: Vec<Diagnostic> = paths.iter().flat_map(|path| world.problems_at(path)).cloned().collect();
    if let LayoutChoice::Missing(name, asker) = &resolution.layout {
        let message = format!("no theme of the lineage has the layout \"{}\"", name.text);
        let diagnostic = Diagnostic::of(&codes::UNKNOWN_LAYOUT, message)
            .help("a template without a layout says: layout: none")
            .at(&world.lineage.file(*asker).node.path, name.span);
        if !problems.iter().any(|problem| problem.code == diagnostic.code) {
            problems.push(diagnostic);
        }
    }
    // Where only heads are held, the text is looked at when it is shown.
    if let Some(content) = content.filter(|content| !content.broken && matches!(content.node.body, Body::Head(_))) {
        match content.node.whole_text() {
            Ok(_) if content.node.is_known_good() => {}
            Ok(text) => {
                let conflicts = conflict::diagnostics(&text, conflict::Format::Markdown);
                problems.extend(conflicts.into_iter().map(|(diagnostic, span)| diagnostic.at(content.path(), span)));
            }
            // A text that can't be read is not an empty one.
            Err(error) => {
                let message = format!("this file can't be read: {error}");
                let diagnostic =
                    Diagnostic::of(&codes::UNREADABLE, message).help("save it as UTF-8, and look at its permissions");
                problems.push(diagnostic.at(content.path(), Span::default()));
            }
        }
    }
    if problems.is_empty() && !paths.is_empty() {
        problems.push(Diagnostic::of(
            &lang_codes::FAULTY_FILE,
            format!("{} has errors and can't be rendered", paths.join(", ")),
        ));
    }
    problems
}

/// An error that only says that a file has errors is replaced by those.
fn told(world: &World, problem: Diagnostic) -> Vec<Diagnostic> {
    let path =
        problem.place.as_ref().filter(|_| problem.code == lang_codes::FAULTY_FILE.name).map(|place| place.path.clone());
    let inner: Vec<Diagnostic> = path.iter().flat_map(|path| world.problems_at(path)).cloned().collect();
    if inner.is_empty() { vec![problem] } else { inner }
}

fn run<'a>(
    world: &'a World,
    resolution: &'a Resolution,
    audience: Audience,
    arena: &'a Bump,
) -> Result<hausblatt_lang::render::Output<'a>, Failure> {
    render(&job(world, resolution, audience, arena), arena).map_err(|stop| match *stop {
        Stop::Answer { status, title, place } => Failure::Answer { status, title, place },
        Stop::Redirect { status, to, place } => Failure::Redirect { status, to, place },
        Stop::Problem(problem) => Failure::Problem(told(world, *problem)),
    })
}

/// All that rendering a resolution needs, in `arena`.
pub(crate) fn job<'a>(world: &'a World, resolution: &'a Resolution, audience: Audience, arena: &'a Bump) -> Job<'a> {
    let limits = world.asking.limits;
    let scratch = Scratch::new(arena, limits.bytes).with_host(world);
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
        trays: trays(world, resolution, audience, arena),
        given: &[],
        shows: audience.shows(),
        limits,
    }
}

/// What the request's content places in trays. Who develops sees what was left out.
fn trays<'a>(world: &'a World, resolution: &Resolution, audience: Audience, arena: &'a Bump) -> &'a [Tray<'a>] {
    let content = resolution.request.content(&world.site);
    let placed = content.map_or(&[][..], |content| world.trays_of(content));
    let developing = matches!(audience, Audience::Developer(_));
    let in_tray = |placed: &'a TrayItem| match placed {
        TrayItem::Component(name, values) => {
            let unit = world.library.find_component(resolution.request.format, name)?;
            let given = values.iter().map(|(symbol, value)| (*symbol, value.value()));
            Some(InTray::Component { unit, given: arena.alloc_slice_fill_iter(given.collect::<Vec<_>>()) })
        }
        TrayItem::LeftOut(why) => developing.then_some(InTray::LeftOut(why)),
    };
    let trays = placed.iter().map(|tray| {
        let placed: Vec<InTray<'a>> = tray.placed.iter().filter_map(in_tray).collect();
        Tray { name: &tray.name, placed: arena.alloc_slice_copy(&placed) }
    });
    arena.alloc_slice_fill_iter(trays.collect::<Vec<_>>())
}

/// Up to five addresses near one that does not exist, with their titles.
pub fn nearest_addresses<'w>(world: &'w World, address: &str) -> Vec<(&'w str, &'w str)> {
    let live = || world.site.contents.iter().filter_map(|content| Some((content.address.as_deref()?, &*content.title)));
    let listings = || {
        let site = &world.site;
        let collections = site.collections.iter();
        let listed = collections
            .filter_map(|it| Some((it.listing.as_deref()?, it.config.label.as_str())))
            .filter(|(address, _)| *address != "/");
        let terms = site.taxonomies.iter().flat_map(|taxonomy| &taxonomy.terms);
        let terms = terms.filter_map(|term| Some((term.address.as_deref()?, term.label.as_str())));
        let periods = site.collections.iter().flat_map(|collection| {
            collection.periods.iter().map(|period| (period.address.as_str(), collection.config.label.as_str()))
        });
        let routes = site.routes.iter().flat_map(|route| {
            let whole = (route.config.each.is_none()).then(|| (route.config.address.text.as_str(), route.label()));
            whole.into_iter().chain(route.rows.iter().map(|row| (row.address.as_str(), row.title.as_str())))
        });
        let search = site.config.search.as_ref().map(|search| (search.address.text.as_str(), "Search"));
        listed.chain(terms).chain(periods).chain(routes).chain(search)
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
    if found.is_empty() {
        // What it is below, then.
        let above = |address: &str| address != "/" && wanted.starts_with(address);
        found.extend(all.iter().filter(|(address, _)| above(address)).max_by_key(|(address, _)| address.len()));
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

/// A page that redirects by itself, for hosts that only know files.
pub(crate) fn redirect_page(to: &str) -> String {
    let mut address = String::new();
    escape(to, &mut address);
    format!(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"robots\" content=\"noindex\">\n<meta http-equiv=\"refresh\" content=\"0; url={address}\">\n<link rel=\"canonical\" href=\"{address}\">\n<title>This page has moved</title>\n</head>\n<body>\n<p>This page has moved to <a href=\"{address}\">{address}</a>.</p>\n</body>\n</html>\n"
    )
}
