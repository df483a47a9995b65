//! What could be changed about an answer, and with which command.

use hausblatt_lang::text::ending::Ending;

use crate::lookup::ladder::{Reason, ladder};
use crate::lookup::resolution::{FileState, Resolution, ResolvedRung};
use crate::model::request::{Kind, ListingOf, Request};
use crate::render::page::is_built_in;
use crate::text::shell::word;
use crate::world::World;

/// A change that could be made to an answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NextStep {
    /// What would change: `all varieties`.
    pub changes: String,
    /// The command to type, or the file to edit.
    pub command: String,
}

/// For each rung on which a file would change this answer: what it would change, and the command that makes it.
pub(super) fn next_steps(world: &World, resolution: &Resolution) -> Vec<NextStep> {
    // A lineage that has nothing for a page needs the one file that answers everything, before any other.
    let needs_fallback = resolution.winner.is_none() && !is_built_in(&resolution.request);
    if let Some(last) = resolution.rungs.last().filter(|_| needs_fallback) {
        let command = format!("hausblatt start template {}", word(last.rung.name.trim_end_matches(".html")));
        return vec![NextStep { changes: "every page that has no other template".to_owned(), command }];
    }
    let last =
        resolution.rungs.iter().position(ResolvedRung::renders).unwrap_or(resolution.rungs.len().saturating_sub(1));
    let mut steps = Vec::new();
    // Where something built in answers, the most specific name is one to begin with.
    let none = resolution.winner.is_none();
    let last = if none && !resolution.rungs.is_empty() { 0 } else { last };
    // A file on a lower rung than the one that renders would change nothing here.
    for rung in resolution.rungs.iter().take(last + 1) {
        let Some(changes) = change(world, resolution, rung) else { continue };
        let path = format!("{}templates/{}", world.lineage.active().root, rung.rung.name);
        let there = rung.files.iter().any(|(id, _)| world.lineage.file(*id).theme == 0);
        let command = match suggestion(world, resolution, rung) {
            _ if there => format!("edit {path}"),
            Some(command) => command,
            None => format!("hausblatt start template {}", word(&rung.rung.name)),
        };
        steps.push(NextStep { changes, command });
    }
    steps
}

/// What a file on a rung would change; none for rungs that are no good to suggest.
fn change(world: &World, resolution: &Resolution, rung: &ResolvedRung) -> Option<String> {
    let (request, reason) = (&resolution.request, rung.rung.reason);
    let front = matches!(request.kind, Kind::Front(_));
    if request.view.is_some() && !rung.rung.of_view {
        return None;
    }
    let view = request.view.as_ref().map_or(String::new(), |view| format!(" in the view {view}"));
    let what = match (&request.kind, reason) {
        (_, Reason::Chosen) => "all that chose this template".to_owned(),
        (_, Reason::Declared) => "all that hausblatt.toml leads to this name".to_owned(),
        (_, Reason::Front) => "the front only".to_owned(),
        (_, Reason::Id) if front => return None,
        (_, Reason::Id) if is_unique_to(world, resolution, &rung.rung.name) => "this page only".to_owned(),
        (_, Reason::Id) => "this page in all its views".to_owned(),
        (Kind::Entry(id), Reason::Collection) => {
            format!("all {}", world.site.collection_of(world.site.content(*id))?.config.name.text)
        }
        (Kind::Listing(_), Reason::Collection) if request.is_feed() => "this feed only".to_owned(),
        (Kind::Listing(_), Reason::Collection) if !is_unique_to(world, resolution, &rung.rung.name) => {
            "this listing, and those by date".to_owned()
        }
        (Kind::Listing(_), Reason::Collection | Reason::Term) => "this listing only".to_owned(),
        (Kind::Listing(ListingOf::Term(id)), Reason::Taxonomy) => {
            format!("the listings of all terms of {}", world.site.term(*id)?.0.config.name.text)
        }
        (Kind::Listing(_), Reason::Ancestor) => {
            let above = rung.rung.name.strip_prefix("listing/")?.split_once('/')?.1.split_once("/all_below")?.0;
            format!("the listings of all terms below {}", above)
        }
        (Kind::Period(..), Reason::Period) => "all listings of this collection by date".to_owned(),
        (Kind::Route(_, Some(_)), Reason::Route) => "this route, for all its rows".to_owned(),
        (Kind::Route(_, None), Reason::Route) => "this route only".to_owned(),
        (Kind::Search, Reason::Kind) if rung.rung.name.starts_with("search.") => "the search".to_owned(),
        (Kind::Sitemap(_) | Kind::Robots, Reason::Kind) => "this file".to_owned(),
        (Kind::Page(_), Reason::Ancestor) => {
            let ancestor = rung.rung.name.strip_prefix("page/")?.split_once("/all_below")?.0;
            format!("all pages below {}", ancestor)
        }
        (Kind::Page(_), Reason::Kind) => "all pages".to_owned(),
        (Kind::Error(status), Reason::Status) => format!("the page of the error {status} only"),
        (Kind::Error(status), Reason::StatusClass) => format!("the pages of all errors {}xx", status / 100),
        (Kind::Error(_), Reason::Kind) => "the pages of all errors".to_owned(),
        _ => return None,
    };
    Some(format!("{what}{view}"))
}

/// The command that would give a request's rung a file of the active theme, for suggestions: `--only` where the rung
/// is for the request alone, nothing where it is the one that renders, else `--as`.
fn suggestion(world: &World, resolution: &Resolution, rung: &ResolvedRung) -> Option<String> {
    let winner = resolution.winner?;
    let address = word(&resolution.request.address);
    let name = rung.rung.name.as_str();
    if world.lineage.file(winner).theme == 0 && rung.renders() {
        return None;
    }
    // What a site's own ladder makes of a name can't be reported without asking all others.
    let own = |rung: &&ResolvedRung| belongs(&resolution.request, rung) && rung.rung.reason != Reason::Declared;
    let first_own = resolution.rungs.iter().find(own);
    let stem = Ending::split(name).map_or(name, |(stem, _)| stem);
    Some(if rung.renders() {
        format!("hausblatt override {address}")
    } else if first_own.is_some_and(|own| own.rung.name == name) && is_unique_to(world, resolution, name) {
        format!("hausblatt override {address} --only")
    } else {
        format!("hausblatt override {address} --as {}", word(stem))
    })
}

/// Whether no other request would use a file of this name; only those that could are looked at.
fn is_unique_to(world: &World, resolution: &Resolution, name: &str) -> bool {
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

/// Whether a rung is, by its name, for this request alone. Whether it is in fact, the site has to show.
pub(crate) fn belongs(request: &Request, rung: &ResolvedRung) -> bool {
    match (rung.rung.reason, &request.kind) {
        (Reason::Front | Reason::Id | Reason::Term | Reason::Status | Reason::Declared, _) => true,
        (Reason::Collection, kind) => kind.listing().is_some(),
        (Reason::Route, Kind::Route(_, None)) => true,
        (Reason::Kind, Kind::Search) => rung.rung.name.starts_with("search."),
        (Reason::Kind, Kind::Sitemap(_) | Kind::Robots) => true,
        _ => false,
    }
}

/// Whether a file of the active theme on this rung would take part in answering a request: nothing comes before it,
/// or all that does extends it.
pub(crate) fn would_run(world: &World, request: &Request, name: &str) -> bool {
    if !ladder(&world.site, request).iter().any(|rung| rung.name == name) {
        return false;
    }
    for rung in world.resolve(request.clone()).rungs {
        if rung.rung.name == name {
            return true;
        }
        let mut usable = rung.files.iter().filter(|(_, state)| !matches!(state, FileState::Hidden | FileState::Unfit));
        if usable.any(|(file, _)| !world.continues(*file)) {
            return false;
        }
    }
    false
}
