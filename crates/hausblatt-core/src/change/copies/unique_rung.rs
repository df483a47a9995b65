//! Names that belong to one address alone, so that a file there changes nothing else.

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;

use crate::analysis::next_steps::{belongs, would_run};
use crate::change::copies::Refused;
use crate::lookup::resolution::{Resolution, ResolvedRung};
use crate::model::request::{Request, page_address};
use crate::text::codes;
use crate::themes::theme::Theme;
use crate::world::World;

/// A name that belongs to one address alone.
pub(crate) enum UniqueRung {
    /// It, as a path from the theme.
    Name(String),
    /// The active theme has a file there; its path from the site.
    Already(String),
}

/// The addresses that count as one: of a listing, all its pages.
fn own_addresses(world: &World, request: &Request) -> Vec<String> {
    match request.listed(&world.site).filter(|_| request.format == Ending::Html) {
        Some(listed) => (1..=listed.pages()).map(|number| page_address(listed.base, number)).collect(),
        None => vec![request.address.clone()],
    }
}

/// The most specific rung that belongs to the request alone and would win.
pub(crate) fn unique_rung(world: &World, active: &Theme, request: &Request) -> Result<UniqueRung, Refused> {
    let resolution = world.resolve(request.clone());
    let own = own_addresses(world, request);
    let until = resolution.rungs.iter().position(ResolvedRung::renders).map_or(0, |at| at + 1);
    let mut met = None;
    for rung in resolution.rungs.iter().take(until).filter(|rung| belongs(request, rung)) {
        let path = format!("{}templates/{}", active.root, rung.rung.name);
        let running = world.requests().iter().filter(|other| would_run(world, other, &rung.rung.name));
        let others: Vec<String> =
            running.map(|other| other.address.clone()).filter(|address| !own.contains(address)).collect();
        match others.is_empty() {
            true if world.snapshot.file(&path).is_some() => return Ok(UniqueRung::Already(path)),
            true => return Ok(UniqueRung::Name(format!("templates/{}", rung.rung.name))),
            false if met.is_none() => met = Some((rung.rung.name.clone(), others)),
            false => {}
        }
    }
    Err(not_alone(world, request, &resolution, met, own))
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
        return Refused { diagnostic: Box::new(Diagnostic::of(&codes::NOT_ALONE, message).help(help)), others };
    }
    let (message, others) = match met {
        Some((name, others)) => (format!("{name} would be for {address}, but not for it alone"), others),
        None => {
            let others = rendered_by(world, resolution).into_iter().filter(|other| !own.contains(other)).collect();
            (format!("no name on the ladder is for {address} alone"), others)
        }
    };
    let help = format!("to change these together: hausblatt override {address}");
    Refused { diagnostic: Box::new(Diagnostic::of(&codes::NOT_ALONE, message).help(help)), others }
}

/// The addresses that the same file renders.
fn rendered_by(world: &World, resolution: &Resolution) -> Vec<String> {
    let Some(winner) = resolution.winner else { return Vec::new() };
    world.reach(winner).map(|(request, _)| request.address.clone()).collect()
}
