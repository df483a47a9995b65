//! Names that belong to one address alone, so that a file there changes nothing else.

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;

use crate::analysis::reach::Survey;
use crate::change::copies::Refused;
use crate::lookup::ladder::{Reason, ladder};
use crate::lookup::map::requests;
use crate::lookup::request::{Kind, Request, page_address};
use crate::lookup::resolution::{FileState, Resolution, ResolvedRung};
use crate::text::shell::word;
use crate::themes::theme::Theme;
use crate::world::World;

/// A name that belongs to one address alone.
pub enum Lone {
    /// It, as a path from the theme.
    Name(String),
    /// The active theme has a file there; its path from the site.
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
pub fn lone_rung(world: &World, active: &Theme, request: &Request) -> Result<Lone, Refused> {
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

/// Whether a file of the active theme on this rung would take part in answering a request: nothing comes before it,
/// or all that does goes on.
fn would_run(world: &World, request: &Request, name: &str) -> bool {
    if !ladder(&world.site, request).iter().any(|rung| rung.name == name) {
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
        let message = format!("{address} uses the chosen template {name}, which comes before any name of its own");
        let help = format!(
            "take the choice back (hausblatt choose --clear {address}), or choose a copy (hausblatt override {address} --as offered/NAME)"
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
    // What a site's own ladder makes of a name can't be reported without asking all others.
    let own = |rung: &&ResolvedRung| belongs(&resolution.request, rung) && rung.rung.reason != Reason::Declared;
    let first_own = resolution.rungs.iter().find(own);
    let stem = Ending::split(name).map_or(name, |(stem, _)| stem);
    Some(match () {
        () if renders => format!("hausblatt override {address}"),
        () if first_own.is_some_and(|own| own.rung.name == name) && is_lone(world, resolution, name) => {
            format!("hausblatt override {address} --only")
        }
        () => format!("hausblatt override {address} --as {}", word(stem)),
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
    !others.iter().any(|other| would_run(world, other, name))
}
