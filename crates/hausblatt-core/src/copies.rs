//! Overriding: a theme's own version of a file, as a copy or as a file that goes on with the rest.

use bumpalo::Bump;
use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::ending::Ending;
use rayon::prelude::*;

use crate::compare::{Change, Html, compare, differs};
use crate::disk::Write;
use crate::ladder::Reason;
use crate::lineage::{FileId, Role};
use crate::map::requests;
use crate::named::with_ending;
use crate::originals::{self, Original};
use crate::reach::{self, Part, Survey};
use crate::request::{Kind, Request, page_address};
use crate::resolution::{FileState, Resolution, ResolvedRung};
use crate::theme::Theme;
use crate::world::World;

/// How many addresses are rendered to tell whether they come out differently.
pub const MOST_RENDERED: usize = 1000;

/// What is to be overridden.
#[derive(Clone, Debug)]
pub enum What {
    /// A file; whether it was named with its theme, so that none nearer is meant.
    File(FileId, bool),
    /// Whatever renders this request.
    Request(Request),
}

/// How it is to be overridden.
#[derive(Clone, Debug, Default)]
pub struct How {
    /// Nothing else may change.
    pub only: bool,
    /// Under another name.
    pub name: Option<String>,
    /// A file that goes on, instead of a copy.
    pub slots: bool,
    /// A file that is there may be replaced.
    pub force: bool,
}

/// A slot that a file which goes on could fill.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Slot {
    /// Its name.
    pub name: String,
    /// The file that it is in.
    pub file: String,
    /// The files that fill it today, nearest first.
    pub filled_by: Vec<String>,
}

/// A file that is to be written.
#[derive(Clone, Debug)]
pub struct Override {
    /// Its path from the theme.
    pub name: String,
    /// Its path from the site.
    pub path: String,
    /// What it is a copy of; none for a file that goes on.
    pub original: Option<Original>,
    /// The slots that it could fill, if it goes on.
    pub slots: Vec<Slot>,
    /// What is to be written, in this order.
    pub writes: Vec<Write>,
    /// What it does.
    pub effect: Effect,
}

/// What comes of asking for a file of one's own.
#[derive(Clone, Debug)]
pub enum Planned {
    /// This is to be written.
    Write(Box<Override>),
    /// The active theme has it already, at this path.
    Already(String),
}

/// Why nothing is written.
#[derive(Clone, Debug)]
pub struct Refused {
    /// Why, and what to do.
    pub diagnostic: Box<Diagnostic>,
    /// The other addresses that would change.
    pub others: Vec<String>,
}

impl From<Diagnostic> for Refused {
    fn from(diagnostic: Diagnostic) -> Self {
        Self { diagnostic: Box::new(diagnostic), others: Vec::new() }
    }
}

/// What a new file does.
#[derive(Clone, Debug, Default)]
pub struct Effect {
    /// The addresses that it takes part in, and as what.
    pub reaches: Vec<(String, Part)>,
    /// The addresses that are answered by another file than before.
    pub changed: Vec<Change>,
    /// The addresses that come out differently, of those that were rendered.
    pub differ: Vec<String>,
    /// Whether all that it reaches were rendered for that.
    pub all_rendered: bool,
    /// The addresses that try its name but have another file: the name and the theme of that.
    pub passed: Vec<(String, String, String)>,
}

/// Plans the active theme's own version of a file.
///
/// # Errors
/// Why nothing can be written.
pub fn plan(world: &World, what: &What, how: &How) -> Result<Planned, Refused> {
    let Some(active) = world.lineage.themes.first() else {
        return Err(Diagnostic::error("unknown-theme", "there is no active theme").into());
    };
    let source = source(world, what, how)?;
    let source_name = world.lineage.file(source).name.to_string();
    let name = match (&how.name, what) {
        (Some(name), _) => name_as(world, what, &source_name, name)?,
        (None, What::Request(request)) if how.only => match lone_rung(world, active, request)? {
            Lone::Name(name) => name,
            Lone::Already(path) => return Ok(Planned::Already(path)),
        },
        (None, What::File(..)) if how.only => {
            let message = "--only is for an address: a file of this name is found for all that ask for it";
            return Err(Diagnostic::error("not-alone", message)
                .help("name the address, as in override /visit/ --only")
                .into());
        }
        (None, _) => source_name.clone(),
    };
    let path = format!("{}{name}", active.root);
    let there = world.snapshot.file(&path);
    if there.is_some() && !how.force {
        if how.name.is_some() {
            let message = format!("{path} is there already");
            return Err(Diagnostic::error("file-exists", message)
                .help("choose another name, or replace it with --force")
                .into());
        }
        return Ok(Planned::Already(path));
    }
    if name == source_name && world.lineage.file(source).theme == 0 {
        let message = format!("{path} has nothing behind it to be copied from");
        return Err(Diagnostic::error("nothing-inherited", message).help("it is the theme's own: edit it").into());
    }
    match how.slots {
        true => going_on(world, what, name, path),
        false => copy(world, active, source, name, path),
    }
}

fn write_of(world: &World, path: &str, bytes: Vec<u8>) -> Write {
    match world.snapshot.file(path) {
        Some(node) => Write::instead_of(path, node.bytes().unwrap_or_default(), bytes),
        None => Write::new(path, bytes),
    }
}

/// Whether a file of this name stands in one of a theme's folders; a manifest, say, is each theme's own.
fn is_inheritable(name: &str) -> bool {
    let folders = ["templates/", "partials/", "layouts/", "components/", "prepare/", "assets/"];
    folders.iter().any(|folder| name.starts_with(folder))
}

/// The file that is copied.
fn source(world: &World, what: &What, how: &How) -> Result<FileId, Refused> {
    match what {
        What::File(id, _) if !is_inheritable(&world.lineage.file(*id).name) => {
            let message = format!("{} is no file that a child theme inherits", world.lineage.file(*id).node.path);
            let help = "name a template, partial, layout, component, prepare file or asset";
            Err(Diagnostic::error("not-inherited", message).help(help).into())
        }
        What::File(id, true) if world.lineage.file(*id).theme > 0 => Ok(*id),
        What::File(id, _) => {
            let name = &world.lineage.file(*id).name;
            let inherited = world.lineage.standing(name).find(|&other| world.lineage.file(other).theme > 0);
            Ok(inherited.unwrap_or(*id))
        }
        What::Request(request) => {
            let resolution = world.resolve(request.clone());
            let names: Vec<&str> = resolution.rungs.iter().map(|rung| rung.rung.name.as_str()).collect();
            let winner = resolution.winner.ok_or_else(|| {
                let message = format!("no file renders {}, so there is nothing to copy", request.address);
                let help = match names.first() {
                    Some(first) => format!("begin one: hausblatt start template {first}"),
                    None => "it is built in as it is".to_owned(),
                };
                Refused::from(Diagnostic::error("nothing-to-copy", message).help(help))
            })?;
            // To replace the active theme's own file is to take what it covers.
            let own = world.lineage.file(winner).theme == 0 && how.force && !how.only && how.name.is_none();
            if own { source(world, &What::File(winner, false), how) } else { Ok(winner) }
        }
    }
}

/// The name that `--as` asks for, as a path from the theme.
fn name_as(world: &World, what: &What, source: &str, typed: &str) -> Result<String, Refused> {
    let folder = source.split('/').next().unwrap_or("templates");
    let typed = typed.strip_prefix(&format!("{folder}/")).unwrap_or(typed);
    let ending = Ending::split(source).map_or(Ending::Html, |(_, ending)| ending);
    let ended = match (Ending::split(typed), folder) {
        (Some(_), _) | (None, "assets" | "prepare" | "components") => with_ending(&format!("{folder}/{typed}")),
        (None, _) => format!("{folder}/{typed}.{}", ending.word()),
    };
    let odd = ended.split('/').any(|part| part.is_empty() || part.starts_with('.'));
    if odd {
        let message = format!("\"{typed}\" is no name of a file");
        return Err(Diagnostic::error("bad-name", message).help("write it as in --as page/visit").into());
    }
    let What::Request(request) = what else { return Ok(ended) };
    let resolution = world.resolve(request.clone());
    let name = ended.strip_prefix("templates/").unwrap_or(&ended);
    let offered = name.starts_with("offered/");
    if offered && request.kind.content().is_none() {
        let message = format!("{} is no content, so nobody can choose a template for it", request.address);
        return Err(Diagnostic::error("not-offered", message).help(rungs(&resolution)).into());
    }
    if offered || resolution.rungs.iter().any(|rung| rung.rung.name == name) {
        return Ok(ended);
    }
    let message = format!("{} does not try the name {name}", request.address);
    Err(Diagnostic::error("not-a-rung", message).help(rungs(&resolution)).into())
}

fn rungs(resolution: &Resolution) -> String {
    let names: Vec<&str> = resolution.rungs.iter().map(|rung| rung.rung.name.as_str()).collect();
    format!("it tries {}", names.join(", "))
}

/// A name that belongs to one address alone.
enum Lone {
    Name(String),
    Already(String),
}

/// Whether a rung is, by its name, for this request alone. Whether it is in fact, the site has to show.
fn belongs(request: &Request, rung: &ResolvedRung) -> bool {
    match (rung.rung.reason, &request.kind) {
        (Reason::Front | Reason::Id | Reason::Term | Reason::Status | Reason::Declared, _) => true,
        (Reason::Collection, kind) => kind.listing().is_some(),
        (Reason::Route, Kind::Route(_, None)) => true,
        (Reason::Kind, Kind::Search) => rung.rung.name.starts_with("search."),
        (Reason::Kind, Kind::Sitemap(_) | Kind::Robots) => true,
        _ => false,
    }
}

/// The addresses that count as one: of a listing, all its pages.
fn own_addresses(world: &World, request: &Request) -> Vec<String> {
    match request.listed(&world.site).filter(|_| request.format == Ending::Html) {
        Some(listed) => (1..=listed.pages()).map(|number| page_address(listed.base, number)).collect(),
        None => vec![request.address.clone()],
    }
}

/// The most specific rung that belongs to the request alone and would win.
fn lone_rung(world: &World, active: &Theme, request: &Request) -> Result<Lone, Refused> {
    let resolution = world.resolve(request.clone());
    let own = own_addresses(world, request);
    let renders = |rung: &ResolvedRung| rung.files.iter().any(|(_, state)| *state == FileState::Renders);
    let until = resolution.rungs.iter().position(renders).map_or(0, |at| at + 1);
    let mut met = None;
    for rung in resolution.rungs.iter().take(until).filter(|rung| belongs(request, rung)) {
        let path = format!("{}templates/{}", active.root, rung.rung.name);
        let running = requests(world).into_iter().filter(|other| would_run(world, other, &rung.rung.name));
        let others: Vec<String> = running.map(|other| other.address).filter(|address| !own.contains(address)).collect();
        match others.is_empty() {
            true if world.snapshot.file(&path).is_some() => return Ok(Lone::Already(path)),
            true => return Ok(Lone::Name(format!("templates/{}", rung.rung.name))),
            false if met.is_none() => met = Some((rung.rung.name.clone(), others)),
            false => {}
        }
    }
    Err(not_alone(world, request, &resolution, met, own))
}

/// Whether a file of the active theme on this rung would take part in answering a request: nothing stands before it,
/// or all that does goes on.
fn would_run(world: &World, request: &Request, name: &str) -> bool {
    if !crate::ladder::ladder(&world.site, request).iter().any(|rung| rung.name == name) {
        return false;
    }
    for rung in world.resolve(request.clone()).rungs {
        if rung.rung.name == name {
            return true;
        }
        let standing = rung.files.iter().filter(|(_, state)| !matches!(state, FileState::Hidden | FileState::Unfit));
        if standing.into_iter().any(|(file, _)| !world.continues(*file)) {
            return false;
        }
    }
    false
}

fn not_alone(
    world: &World,
    request: &Request,
    resolution: &Resolution,
    met: Option<(String, Vec<String>)>,
    own: Vec<String>,
) -> Refused {
    let address = &request.address;
    let chosen = resolution.winner.map(|id| &*world.lineage.file(id).name).filter(|name| name.contains("/offered/"));
    if let Some(name) = chosen {
        let name = name.trim_start_matches("templates/").trim_end_matches(".html");
        let message = format!("{address} has chosen {name}, which stands before every name that is for it alone");
        let help = format!(
            "take the choice back (hausblatt assign --clear {address}), or choose a copy (hausblatt override {address} --as offered/NAME)"
        );
        let others = rendered_by(world, resolution).into_iter().filter(|other| !own.contains(other)).collect();
        return Refused { diagnostic: Box::new(Diagnostic::error("not-alone", message).help(help)), others };
    }
    let (message, others) = match met {
        Some((name, others)) => (format!("{name} would be for {address}, but not for it alone"), others),
        None => {
            let others = rendered_by(world, resolution).into_iter().filter(|other| !own.contains(other)).collect();
            (format!("no name on the ladder is for {address} alone"), others)
        }
    };
    let help = format!("to change these together: hausblatt override {address}");
    Refused { diagnostic: Box::new(Diagnostic::error("not-alone", message).help(help)), others }
}

/// The addresses that the same file renders.
fn rendered_by(world: &World, resolution: &Resolution) -> Vec<String> {
    let Some(winner) = resolution.winner else { return Vec::new() };
    let survey = Survey::of(world);
    survey.reach(winner).map(|(request, _)| request.address.clone()).collect()
}

/// The World with a file in it.
fn supposed(world: &World, path: &str, text: &str) -> Result<World, Refused> {
    World::load(world.snapshot.with(path, Some(text)), world.asking.clone()).map_err(|unloadable| {
        let first = unloadable.0.into_iter().next();
        first.unwrap_or_else(|| Diagnostic::error("no-site", "the site can't be loaded with this file")).into()
    })
}

fn copy(world: &World, active: &Theme, source: FileId, name: String, path: String) -> Result<Planned, Refused> {
    let file = world.lineage.file(source);
    let bytes = file.node.bytes().map_err(|error| {
        let message = format!("{} can't be read: {error}", file.node.path);
        Refused::from(Diagnostic::error("unreadable", message).help("look at its permissions"))
    })?;
    let theme = world.lineage.theme_of(source);
    let original =
        Original { theme: theme.name.clone(), path: file.name.to_string(), version: theme.version.clone(), bytes };
    let after = supposed(world, &path, &String::from_utf8_lossy(&original.bytes))?;
    // First the record: one without its copy does no harm.
    let writes = vec![
        write_of(world, &originals::place(active, &name), original.to_bytes()),
        write_of(world, &path, original.bytes.clone()),
    ];
    let effect = effect(world, &after, &name);
    Ok(Planned::Write(Box::new(Override { name, path, original: Some(original), slots: Vec::new(), writes, effect })))
}

fn going_on(world: &World, what: &What, name: String, path: String) -> Result<Planned, Refused> {
    const BARE: &str = "+{inherited with}\n+{end}\n";
    let role = world.lineage.ids().find(|(_, file)| *file.name == *name).map(|(_, file)| file.role);
    let role = role.unwrap_or(Role::Template);
    if !matches!(role, Role::Template | Role::Partial | Role::Layout | Role::Component) {
        let message = format!("{name} has no slots: only templates, partials, layouts and components go on");
        return Err(Diagnostic::error("no-slots", message).help("leave out --slots to copy it").into());
    }
    let after = supposed(world, &path, BARE)?;
    let chain = chain(&after, what, &name);
    let Some(next) = chain.get(1) else {
        let message = format!("nothing stands behind {name} to go on with");
        return Err(Diagnostic::error("nothing-inherited", message).help("leave out --slots to copy it").into());
    };
    let next = after.lineage.file(*next).node.path.to_string();
    let slots = slots(&after, &chain);
    let text = slots_file(&next, &slots);
    let after = supposed(world, &path, &text)?;
    let effect = effect(world, &after, &name);
    let writes = vec![write_of(world, &path, text.into_bytes())];
    Ok(Planned::Write(Box::new(Override { name, path, original: None, slots, writes, effect })))
}

/// The file itself, what it goes on with, and the layouts around that.
fn chain(after: &World, what: &What, name: &str) -> Vec<FileId> {
    let Some(own) = after.lineage.nearest(name) else { return Vec::new() };
    if after.lineage.file(own).role != Role::Template {
        return std::iter::once(own).chain(after.next_files(own)).collect();
    }
    let survey = Survey::of(after);
    let request = match what {
        What::Request(request) => Some(request.clone()),
        What::File(..) => survey.reach(own).map(|(request, _)| request.clone()).next(),
    };
    let resolution = request.map(|request| after.resolve(request));
    match resolution.filter(|resolution| resolution.running(after).contains(&own)) {
        Some(resolution) => resolution.running(after).into_iter().skip_while(|&file| file != own).collect(),
        // Nothing renders it today: farther files of its name are what it would go on with.
        None => after.lineage.standing(name).collect(),
    }
}

fn slots(world: &World, chain: &[FileId]) -> Vec<Slot> {
    let mut found: Vec<Slot> = Vec::new();
    for (at, &file) in chain.iter().enumerate().skip(1) {
        for name in reach::slots(world, file) {
            let path = |id: FileId| world.lineage.file(id).node.path.to_string();
            let before = chain[..at].iter().copied().filter(|&other| reach::fills(world, other).contains(&name));
            let slot = Slot { filled_by: before.map(path).collect(), file: path(file), name };
            if !found.iter().any(|other| other.name == slot.name) {
                found.push(slot);
            }
        }
    }
    found
}

/// A file that goes on and fills nothing yet, with what it could fill in a comment.
fn slots_file(next: &str, slots: &[Slot]) -> String {
    // A name could hold what ends the comment.
    let safe = |text: &str| text.replace("#}", "# }").replace("+{#", "+ {#");
    let mut out = format!("+{{# This file goes on with {}: only what it fills in differs.\n", safe(next));
    if slots.is_empty() {
        out.push_str("    That has no slots: write HTML around the lines below.\n");
    } else {
        out.push_str("    Between the lines below, any of these slots can be filled:\n\n");
        for slot in slots {
            out.push_str(&format!("      +{{into \"{}\"}}…+{{end}}\n", safe(&slot.name)));
            let by = match slot.filled_by.as_slice() {
                [] => "nothing fills it today".to_owned(),
                by => format!("filled today by {}", by.join(", ")),
            };
            out.push_str(&format!("          of {}; {}\n", safe(&slot.file), safe(&by)));
        }
    }
    out.push_str("#}\n+{inherited with}\n+{end}\n");
    out
}

/// What the new file of this name does.
fn effect(before: &World, after: &World, name: &str) -> Effect {
    let active = |world: &World| world.lineage.all(name).iter().copied().find(|&id| world.lineage.file(id).theme == 0);
    let Some(own) = active(after) else { return Effect::default() };
    let survey = Survey::of(after);
    let reaches: Vec<(String, Part)> =
        survey.reach(own).map(|(request, part)| (request.address.clone(), part)).collect();
    let rendered: Vec<&String> = reaches.iter().map(|(address, _)| address).take(MOST_RENDERED).collect();
    let differ = rendered
        .par_iter()
        .map_init(Bump::new, |arena, address| differs(before, after, address, arena).then(|| (*address).clone()));
    let differ: Vec<String> = differ.flatten().collect();
    let changed = compare(before, after, Html::No).changed;
    let all_rendered = rendered.len() == reaches.len();
    Effect { passed: passed(after, &survey, own, name), reaches, changed, differ, all_rendered }
}

/// The addresses that try a template's name, but are rendered by another file.
fn passed(world: &World, survey: &Survey, own: FileId, name: &str) -> Vec<(String, String, String)> {
    let Some(name) = name.strip_prefix("templates/").filter(|name| !name.starts_with("offered/")) else {
        return Vec::new();
    };
    let mut found = Vec::new();
    for (request, winner, parts) in &survey.answers {
        let Some(winner) = winner.filter(|&winner| winner != own && !parts.iter().any(|(file, _)| *file == own)) else {
            continue;
        };
        let tries = crate::ladder::ladder(&world.site, request).iter().any(|rung| rung.name == name);
        if tries {
            let file = world.lineage.file(winner);
            let by = file.name.trim_start_matches("templates/").to_owned();
            found.push((request.address.clone(), by, world.lineage.theme_of(winner).name.clone()));
        }
    }
    found
}

/// The command that would give a request's rung a file of the active theme, for suggestions: `--only` where the rung
/// is for the request alone, nothing where it is the one that renders, else `--as`.
pub fn suggestion(world: &World, resolution: &Resolution, rung: &ResolvedRung) -> Option<String> {
    let winner = resolution.winner?;
    let address = &resolution.request.address;
    let name = rung.rung.name.as_str();
    let renders = rung.files.iter().any(|(_, state)| *state == FileState::Renders);
    if world.lineage.file(winner).theme == 0 && renders {
        return None;
    }
    let first_own = resolution.rungs.iter().find(|rung| belongs(&resolution.request, rung));
    let stem = Ending::split(name).map_or(name, |(stem, _)| stem);
    Some(match () {
        () if renders => format!("hausblatt override {address}"),
        () if first_own.is_some_and(|own| own.rung.name == name) && is_lone(world, resolution, name) => {
            format!("hausblatt override {address} --only")
        }
        () => format!("hausblatt override {address} --as {stem}"),
    })
}

/// Whether no other request would use a file of this name; only those are asked that could.
pub fn is_lone(world: &World, resolution: &Resolution, name: &str) -> bool {
    let request = &resolution.request;
    let of_kind = |kind: Kind, view: Option<String>| Request { view, ..Request::ok(&request.address, kind, 1) };
    let mut others: Vec<Request> = Vec::new();
    match &request.kind {
        Kind::Entry(id) => {
            let collection = world.site.collection_of(world.site.content(*id));
            let views = collection.into_iter().flat_map(|it| &it.config.views).map(|view| view.text.clone());
            let views = std::iter::once(None).chain(views.map(Some)).filter(|view| *view != request.view);
            others.extend(views.map(|view| of_kind(request.kind.clone(), view)));
        }
        kind => {
            if let Some(number) = kind.listing() {
                let periods = world.site.collections.get(usize::from(number)).map_or(0, |it| it.periods.len());
                others.extend((periods > 0).then(|| of_kind(Kind::Period(number, 0), None)));
            }
        }
    }
    !matches!(resolution.request.kind, Kind::Error(_)) && !others.iter().any(|other| would_run(world, other, name))
}
