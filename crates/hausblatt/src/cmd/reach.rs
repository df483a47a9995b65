//! `reach`: what a theme file has an effect on.

use std::fmt::Write;

use bumpalo::Bump;
use hausblatt_core::analysis::reach::{self, Tie, callers, calls, fills, parameters, slots};
use hausblatt_core::files::Depth;
use hausblatt_core::lookup::file_argument;
use hausblatt_core::render::page::{Audience, page};
use hausblatt_core::themes::lineage::FileId;
use hausblatt_core::world::World;
use hausblatt_core::world::survey::ReachPart;
use hausblatt_lang::render::{LinkedAsset, Shows};
use hausblatt_lang::syntax::tree::AssetKind;
use hausblatt_lang::text::diagnostic::Diagnostic;
use serde::Serialize;

use crate::cli::ReachArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{BAD, FAINT, GOOD, NOTE, STRONG, plain, styled, to_type, word};
use crate::show::table::{addresses, some};
use crate::show::wrap::wrapped;

/// How many addresses are shown without `-v`.
const MOST: usize = 12;

/// A file and what it has to do with others, as JSON.
#[derive(Serialize)]
struct Reach {
    path: String,
    theme: String,
    name: String,
    role: &'static str,
    state: &'static str,
    reason: Option<String>,
    addresses: Vec<Reached>,
    called_by: Vec<TieJson>,
    calls: Vec<TieJson>,
    slots: Vec<String>,
    fills: Vec<String>,
    parameters: Vec<Parameter>,
    covers: Vec<String>,
    covered_by: Vec<String>,
    /// Of a style sheet or a script that files request: what the first page that links to it links to, in its order.
    linked: Vec<LinkJson>,
}

#[derive(Serialize)]
struct LinkJson {
    address: String,
    asset: String,
    by: String,
}

#[derive(Serialize)]
struct Reached {
    address: String,
    #[serde(rename = "as")]
    part: &'static str,
}

#[derive(Serialize)]
struct TieJson {
    path: String,
    #[serde(rename = "as")]
    part: &'static str,
    asked_as: String,
}

#[derive(Serialize)]
struct Parameter {
    name: String,
    default: Option<String>,
}

/// Runs the command.
pub fn run(common: &Common, args: &ReachArgs) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Heads)?;
    let typed = opened::theme_file(world, &args.file);
    let id = file_argument::theme_file(world, &typed).map_err(|problem| opened::failed(&problem))?;
    let Some(reach) = reach(world, id) else {
        let message = format!("{} is not a file that pages are made of", world.lineage.file(id).node.path);
        return Err(Failure::Work(message, Some("\"hausblatt files\" lists those that are".to_owned())));
    };
    if common.format == Format::Json {
        json(&reach)?;
    } else {
        print(&text(world, &reach, common.verbose))?;
    }
    let path = &world.lineage.file(id).node.path;
    let own = |one: &&Diagnostic| one.place.as_ref().is_some_and(|place| place.path == *path);
    let problems: Vec<Diagnostic> = world.problems.iter().filter(own).cloned().collect();
    Ok(opened::accept(world, &problems, common))
}

fn reach(world: &World, id: FileId) -> Option<Reach> {
    let file = world.lineage.file(id);
    let state = world.file_uses().get(id.0 as usize)?.as_ref()?;
    let path = |id: FileId| world.lineage.file(id).node.path.to_string();
    let tie = |tie: Tie| TieJson { path: path(tie.file), part: tie.part.word(), asked_as: tie.asked_as };
    let reached = world.reach(id);
    let same = world.lineage.all(&file.name);
    let at = same.iter().position(|&other| other == id).unwrap_or(0);
    let placed = reach::placed_by(world, id).into_iter().map(|path| TieJson {
        path,
        part: ReachPart::Component.word(),
        asked_as: file.name.component().unwrap_or_default().to_owned(),
    });
    Some(Reach {
        path: file.node.path.to_string(),
        theme: world.lineage.theme_of(id).name.clone(),
        name: file.name.to_string(),
        role: file.role.word(),
        state: state.word(),
        reason: state.reason().map(str::to_owned),
        addresses: reached
            .map(|(request, part)| Reached { address: request.address.clone(), part: part.word() })
            .collect(),
        called_by: callers(world, id).into_iter().map(tie).chain(placed).collect(),
        calls: calls(world, id).into_iter().map(tie).collect(),
        slots: slots(world, id),
        fills: fills(world, id),
        parameters: parameters(world, id).into_iter().map(|(name, default)| Parameter { name, default }).collect(),
        covers: same[at + 1..].iter().copied().map(path).collect(),
        covered_by: same[..at].iter().copied().map(path).collect(),
        linked: linked(world, id),
    })
}

/// What the first page that links to a style sheet or a script, because a file requests it, links to of its kind.
fn linked(world: &World, id: FileId) -> Vec<LinkJson> {
    let name = &world.lineage.file(id).name;
    let asset = name.strip_prefix("assets/").unwrap_or(name);
    let Some(kind) = AssetKind::of(asset) else { return Vec::new() };
    let Some((request, _)) = world.reach(id).next() else { return Vec::new() };
    let made = page(world, request.clone(), Audience::Build(Shows::default()), &Bump::new());
    if !made.links.iter().any(|link| link.path == asset) {
        return Vec::new();
    }
    let of_kind = made.links.into_iter().filter(|link| link.kind == kind);
    let link =
        |link: LinkedAsset| LinkJson { address: request.address.clone(), asset: link.path, by: link.by.to_string() };
    of_kind.map(link).collect()
}

/// Whether a file is requested by its own name.
fn is_name_of(asked_as: &str, path: &str) -> bool {
    let stem = path.rsplit_once('.').map_or(path, |(stem, _)| stem);
    path.ends_with(&format!("/{asked_as}")) || stem.trim_end_matches("/component").ends_with(&format!("/{asked_as}"))
}

fn text(world: &World, reach: &Reach, all: bool) -> String {
    let style = match reach.state {
        "used" => GOOD,
        "ready" => NOTE,
        _ => BAD,
    };
    let mut out = format!("{}\n", styled(STRONG, &plain(&reach.path)));
    let _ = writeln!(out, "{} of {} · {}\n", reach.role, plain(&reach.theme), styled(style, reach.state));
    if let Some(reason) = &reach.reason {
        let head = if reach.state == "ready" { "It waits for" } else { "Nothing uses it:" };
        let stop = if reason.ends_with('?') { "" } else { "." };
        let _ = writeln!(out, "{}\n", wrapped(&plain(&format!("{head} {reason}{stop}")), NOTE));
    }
    let parts: std::collections::BTreeSet<&str> = reach.addresses.iter().map(|reached| reached.part).collect();
    for part in parts {
        let of: Vec<&str> =
            reach.addresses.iter().filter(|reached| reached.part == part).map(|it| it.address.as_str()).collect();
        let _ = writeln!(out, "Reaches {} as {part}:", addresses(of.len()));
        out.push_str(&some(of.into_iter(), if all { usize::MAX - 1 } else { MOST }, 2));
    }
    if !reach.addresses.is_empty() {
        out.push('\n');
    }
    out.push_str(&ties(reach));
    if let Some(first) = reach.linked.first() {
        let _ = writeln!(out, "\nOn {} it is linked in this order:", plain(&first.address));
        for (number, link) in (1..).zip(&reach.linked) {
            let asset = plain(&link.asset);
            let own = reach.name.ends_with(&link.asset);
            let asset = if own { styled(STRONG, &asset) } else { asset };
            let _ = writeln!(out, "  {number}  {asset}  {}", styled(FAINT, &format!("by {}", plain(&link.by))));
        }
    }
    let active = world.lineage.active();
    if active.name != reach.theme {
        let own = world.lineage.all(&reach.name).first().is_some_and(|&id| world.lineage.file(id).theme == 0);
        if !own && reach.state != "dead" && reach.role != "other file" {
            let command = format!("hausblatt override {}", word(&reach.name));
            let _ = writeln!(out, "\nTo change it in {}:  {}", plain(&active.name), to_type(&command));
        }
    }
    out
}

/// What a file has to do with others, a line for each.
fn ties(reach: &Reach) -> String {
    let mut out = String::new();
    let mut line = |word: &str, things: &[String]| {
        for (at, thing) in things.iter().enumerate() {
            let word = if at == 0 { word } else { "" };
            let _ = writeln!(out, "{}  {}", styled(FAINT, &format!("{word:<10}")), plain(thing));
        }
    };
    let tied = |ties: &[TieJson]| -> Vec<String> {
        let how = |tie: &TieJson| match tie.part {
            "layout" if tie.asked_as == "inherited" => "  (extends it)".to_owned(),
            _ if is_name_of(&tie.asked_as, &tie.path) || is_name_of(&tie.asked_as, &reach.path) => String::new(),
            _ => format!("  (as {})", tie.asked_as),
        };
        ties.iter().map(|tie| format!("{}{}", tie.path, how(tie))).collect()
    };
    line("called by", &tied(&reach.called_by));
    line("calls", &tied(&reach.calls));
    let takes: Vec<String> = reach
        .parameters
        .iter()
        .map(|it| {
            it.default
                .as_ref()
                .map_or_else(|| format!("{}, required", it.name), |default| format!("{} = {default}", it.name))
        })
        .collect();
    line("takes", &takes);
    line("slots", &reach.slots);
    line("fills", &reach.fills);
    line("covers", &reach.covers);
    line("covered by", &reach.covered_by);
    out
}
