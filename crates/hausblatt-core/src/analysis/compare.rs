//! Two Worlds compared: which addresses are answered by another file, which differ, which errors are new.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::atomic::Ordering;

use bumpalo::Bump;
use hausblatt_lang::render::{Shows, given_up};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use rayon::prelude::*;
use similar::TextDiff;

use crate::lookup::map::{self, MapEntry};
use crate::lookup::resolution::LayoutChoice;
use crate::model::request::{Request, Routed};
use crate::render::page::{Audience, is_built_in, page};
use crate::text::codes;
use crate::threads::PAGES;
use crate::world::World;

/// What answers an address on one side.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Side {
    /// The template's name with its extension.
    pub template: Option<String>,
    /// The template's theme.
    pub theme: Option<String>,
    /// The layout's name.
    pub layout: Option<String>,
    /// The status.
    pub status: u16,
}

/// An address that differs.
#[derive(Clone, Debug)]
pub struct AddressChange {
    /// The address.
    pub address: String,
    /// What answers it before; none for an address that comes.
    pub from: Option<Side>,
    /// What answers it after; none for an address that goes.
    pub to: Option<Side>,
    /// Whether its HTML differs, if that was asked.
    pub html: Option<bool>,
    /// How its HTML differs, if that was asked.
    pub diff: Option<String>,
}

impl AddressChange {
    /// Whether another file answers, or with another status.
    pub fn is_of_file(&self) -> bool {
        self.from != self.to
    }
}

/// A diagnostic that one side has and the other has not, and the addresses it is about.
#[derive(Clone, Debug)]
pub struct NewProblem {
    /// What is wrong.
    pub diagnostic: Diagnostic,
    /// The addresses, where it is about some.
    pub addresses: Vec<String>,
}

/// How two Worlds differ.
#[derive(Clone, Debug, Default)]
pub struct Difference {
    /// The addresses that differ, in the order of the map.
    pub changed: Vec<AddressChange>,
    /// What is wrong after and was not before.
    pub problems: Vec<NewProblem>,
    /// How many addresses stay as they are.
    pub unchanged: usize,
}

/// How much of the HTML is compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Html {
    /// None: only which file answers.
    No,
    /// Whether it differs.
    Whether,
    /// How it differs, too.
    How,
}

/// Compares what `before` and `after` answer.
pub fn compare(before: &World, after: &World, html: Html) -> Difference {
    let mut sides: BTreeMap<(bool, String), (Option<Side>, Option<Side>)> = BTreeMap::new();
    for (world, first) in [(before, true), (after, false)] {
        for entry in map::map(world) {
            // Error pages come last, as on the map.
            let key = (entry.kind == Some("error"), entry.address.clone());
            let both = sides.entry(key).or_default();
            *(if first { &mut both.0 } else { &mut both.1 }) = Some(side(entry));
        }
    }
    let all = sides.len();
    let mut changes: Vec<AddressChange> = sides
        .into_iter()
        .map(|((_, address), (from, to))| AddressChange { address, from, to, html: None, diff: None })
        .collect();
    let mut problems = new_problems(before, after);
    problems.extend(new_failures(before, after));
    if html > Html::No {
        let given_up = given_up();
        let is_given_up = || given_up.as_ref().is_some_and(|given_up| given_up.load(Ordering::Relaxed));
        let found: Vec<Vec<NewProblem>> =
            changes
                .par_iter_mut()
                .with_max_len(PAGES)
                .map_init(Bump::new, |arena, change| {
                    if is_given_up() { Vec::new() } else { rendered(before, after, change, html, arena) }
                })
                .collect();
        found.into_iter().flatten().for_each(|problem| add(&mut problems, problem));
    }
    changes.retain(|change| change.is_of_file() || change.html == Some(true));
    Difference { unchanged: all - changes.len(), changed: changes, problems }
}

/// What answers each address.
pub(crate) fn sides(world: &World) -> BTreeMap<String, Side> {
    map::map(world).into_iter().map(|entry| (entry.address.clone(), side(entry))).collect()
}

fn side(entry: MapEntry) -> Side {
    let MapEntry { template, theme, layout, status, .. } = entry;
    Side { template, theme, layout, status }
}

/// Adds an error; one that is there already gets the addresses.
fn add(problems: &mut Vec<NewProblem>, problem: NewProblem) {
    match problems.iter_mut().find(|other| same(&other.diagnostic, &problem.diagnostic)) {
        Some(other) => {
            let new: Vec<String> =
                problem.addresses.into_iter().filter(|address| !other.addresses.contains(address)).collect();
            other.addresses.extend(new);
        }
        None => problems.push(problem),
    }
}

/// Whether two diagnostics say the same of the same file; where in it may have moved.
fn same(one: &Diagnostic, other: &Diagnostic) -> bool {
    let path = |diagnostic: &Diagnostic| diagnostic.place.as_ref().map(|place| place.path.clone());
    one.code == other.code && one.message == other.message && path(one) == path(other)
}

fn new_problems(before: &World, after: &World) -> Vec<NewProblem> {
    let known: BTreeSet<_> = before.problems.iter().map(|one| (one.code, &one.message, one.is_error())).collect();
    let is_known = |one: &Diagnostic| {
        known.contains(&(one.code, &one.message, one.is_error()))
            && before.problems.iter().any(|other| same(one, other))
    };
    let new = after.problems.iter().filter(|one| !is_known(one));
    new.map(|diagnostic| NewProblem { diagnostic: diagnostic.clone(), addresses: addresses_of(after, diagnostic) })
        .collect()
}

/// The address of the content that a diagnostic is about.
fn addresses_of(world: &World, diagnostic: &Diagnostic) -> Vec<String> {
    let path = diagnostic.place.as_ref().map(|place| &place.path).filter(|path| path.starts_with("content/"));
    let content = path.and_then(|path| world.site.contents.iter().find(|content| content.path() == path));
    content.and_then(|content| content.address.as_deref()).map(str::to_owned).into_iter().collect()
}

/// Answers that fail without being rendered: no template, no layout.
fn new_failures(before: &World, after: &World) -> Vec<NewProblem> {
    let failed_before: BTreeSet<String> = failures(before).into_iter().flat_map(|problem| problem.addresses).collect();
    let mut new = failures(after);
    for problem in &mut new {
        problem.addresses.retain(|address| !failed_before.contains(address));
    }
    new.retain(|problem| !problem.addresses.is_empty());
    new
}

fn failures(world: &World) -> Vec<NewProblem> {
    let mut found: Vec<NewProblem> = Vec::new();
    for request in world.requests() {
        let resolution = world.resolve(request.clone());
        let diagnostic = match (&resolution.layout, resolution.winner) {
            (LayoutChoice::Missing(name, asker), _) => {
                let message = format!("no theme of the lineage has the layout \"{}\"", name.text);
                let path = &world.lineage.file(*asker).node.path;
                Diagnostic::of(&codes::UNKNOWN_LAYOUT, message)
                    .help("a template without a layout says: layout: none")
                    .at(path, name.span)
            }
            (_, None) if !is_built_in(&resolution.request) => {
                Diagnostic::of(&codes::NO_TEMPLATE, "no template answers these addresses")
                    .help("a lineage needs a templates/fallback.html at least")
            }
            _ => continue,
        };
        // A layout that nobody states is the default of all of them.
        let unstated = |one: &Diagnostic| one.place.as_ref().is_some_and(|place| place.span == Span::default());
        let known = |problem: &&mut NewProblem| {
            let both = unstated(&problem.diagnostic) && unstated(&diagnostic);
            same(&problem.diagnostic, &diagnostic) || (both && problem.diagnostic.message == diagnostic.message)
        };
        match found.iter_mut().find(known) {
            Some(problem) => problem.addresses.push(resolution.request.address),
            None => found.push(NewProblem { diagnostic, addresses: vec![resolution.request.address] }),
        }
    }
    found
}

/// One side of an address rendered.
struct ComparedAnswer {
    status: u16,
    text: String,
    problems: Vec<Diagnostic>,
}

fn answer(world: &World, address: &str, arena: &mut Bump) -> ComparedAnswer {
    let answer = match world.route_decoded(address) {
        Routed::Redirect(to) => ComparedAnswer { status: 301, text: to, problems: Vec::new() },
        Routed::Request(request) => rendered_page(world, request, arena),
    };
    arena.reset();
    answer
}

fn rendered_page(world: &World, request: Request, arena: &Bump) -> ComparedAnswer {
    let page = page(world, request, Audience::Build(Shows::default()), arena);
    let problems = page.diagnostics.into_iter().filter(Diagnostic::is_error).collect();
    ComparedAnswer { status: page.status, text: page.text, problems }
}

fn rendered(
    before: &World,
    after: &World,
    change: &mut AddressChange,
    html: Html,
    arena: &mut Bump,
) -> Vec<NewProblem> {
    let mut side = |world: &World, there: bool| match there {
        true => answer(world, &change.address, arena),
        false => ComparedAnswer { status: 0, text: String::new(), problems: Vec::new() },
    };
    let (one, other) = (side(before, change.from.is_some()), side(after, change.to.is_some()));
    let differs = one.text != other.text || one.status != other.status;
    change.html = Some(differs);
    if html == Html::How && differs {
        change.diff = Some(unified(&one.text, &other.text, &change.address));
    }
    let new = other.problems.into_iter().filter(|problem| !one.problems.iter().any(|known| same(known, problem)));
    new.map(|diagnostic| NewProblem { diagnostic, addresses: vec![change.address.clone()] }).collect()
}

/// The status and the text of an address.
pub(crate) fn answer_text(world: &World, address: &str, arena: &mut Bump) -> String {
    let answer = answer(world, address, arena);
    format!("{}\n{}", answer.status, answer.text)
}

/// Whether an address has other HTML.
pub fn differs(before: &World, after: &World, address: &str, arena: &mut Bump) -> bool {
    let (one, other) = (answer(before, address, arena), answer(after, address, arena));
    one.text != other.text || one.status != other.status
}

/// Two texts as a unified diff.
pub fn unified(before: &str, after: &str, name: &str) -> String {
    let diff = TextDiff::from_lines(before, after);
    diff.unified_diff().context_radius(3).header(&format!("before {name}"), &format!("after {name}")).to_string()
}
