//! What editors can ask for by name: lists and explanations, which are answered as documents, the page in a browser, and another
//! address whose values are shown.

use std::fmt::Write as _;

use anstream::adapter::strip_str;
use bumpalo::Bump;
use hausblatt_core::analysis::compare::{Html, compare};
use hausblatt_core::change::rename::next_of;
use hausblatt_core::change::suppose::{Supposition, suppose};
use hausblatt_core::model::request::Routed;
use hausblatt_core::render::page::{Audience, nearest_addresses, page};
use hausblatt_core::world::World;
use hausblatt_core::world::status::Status;
use lsp_types::Uri;
use serde_json::Value;

use crate::lsp::edits::told;
use crate::lsp::hover::file_of;
use crate::lsp::server::Server;
use crate::lsp::sites::Asked;
use crate::running::RunningServer;
use crate::show::table::addresses;
use crate::show::{difference, resolved};

/// Chooses the address whose values are shown: the one that is named, or one of those that are offered then.
pub const SAMPLE: &str = "hausblatt.sample";
/// Lists what a file renders, reaches, covers or extends.
pub const LIST: &str = "hausblatt.list";
/// Which file renders the current address, and why.
pub const WHY: &str = "hausblatt.why";
/// What would change if the file were gone.
pub const WITHOUT: &str = "hausblatt.without";
/// Opens the current address in a browser.
pub const OPEN: &str = "hausblatt.open";

/// All of them.
pub const COMMANDS: [&str; 5] = [SAMPLE, LIST, WHY, WITHOUT, OPEN];

/// So many addresses are offered as the one whose values are shown.
const OFFERED: usize = 12;

/// What comes of a command.
pub enum Done {
    /// A text for the developer, with its title.
    Document(String, String),
    /// The editor is to ask which of these addresses, in the site with this number.
    Choose(usize, Vec<String>),
    /// The editor is to show this address in a browser.
    Browse(String),
    /// There is nothing to show.
    Nothing,
}

/// Does what a command says.
///
/// # Errors
/// Why it can't be done.
pub fn run(server: &mut Server, command: &str, arguments: &[Value]) -> Result<Done, String> {
    let text = |number: usize| arguments.get(number).and_then(Value::as_str);
    let uri: Uri = text(0).and_then(|uri| uri.parse().ok()).ok_or("the first argument is the address of a file")?;
    let asked = server.sites.asked(&uri, 0).ok_or("the file is in no site")?;
    let Ok(world) = &asked.loaded.world else { return Err(told(asked.loaded.problems())) };
    match command {
        SAMPLE => match text(1) {
            Some(address) => {
                let address = known(world, address)?;
                server.sites.site(asked.site).sample = Some(address);
                Ok(Done::Nothing)
            }
            None => offered(server, &asked, world),
        },
        LIST => list(world, &asked, text(1).unwrap_or("reaches")),
        WHY => why(world, &current(&asked, world)?),
        WITHOUT => without(world, &asked),
        OPEN => {
            let address = current(&asked, world)?;
            let root = &server.sites.site(asked.site).root;
            let running =
                RunningServer::of(root).ok_or("no server of this site runs: start one with \"hausblatt serve\"")?;
            Ok(Done::Browse(format!("{}{address}", running.at.trim_end_matches('/'))))
        }
        other => Err(format!("unknown command {other}: the commands are {}", COMMANDS.join(", "))),
    }
}

/// An address at which there is something.
fn known(world: &World, typed: &str) -> Result<String, String> {
    match world.route(typed) {
        Routed::Redirect(to) => Err(format!("{typed} redirects to {to}")),
        Routed::Request(request) if request.status == 404 && request.address != "/404.html" => {
            let near = nearest_addresses(world, typed).into_iter().next();
            let near = near.map_or(String::new(), |(near, _)| format!(" (did you mean {near}?)"));
            Err(format!("nothing is at {typed}{near}"))
        }
        Routed::Request(request) => Ok(request.address),
    }
}

/// The addresses that may be chosen for a file: the one that was looked at last in a browser, then those that it reaches.
fn offered(server: &mut Server, asked: &Asked, world: &World) -> Result<Done, String> {
    let reached: Vec<String> = match file_of(world, &asked.path) {
        Some(id) => world.reach(id).map(|(request, _)| request.address.clone()).collect(),
        None => Vec::new(),
    };
    let looked_at = RunningServer::of(&server.sites.site(asked.site).root).and_then(|running| running.page);
    let looked_at = looked_at.filter(|page| reached.contains(page));
    let mut offered: Vec<String> = looked_at.into_iter().collect();
    let others = reached.into_iter().filter(|address| !offered.contains(address)).collect::<Vec<_>>();
    offered.extend(others);
    offered.truncate(OFFERED);
    match offered.is_empty() {
        true => Err(format!("no address uses {}", asked.path)),
        false => Ok(Done::Choose(asked.site, offered)),
    }
}

/// The address of a content file, or the one whose values are shown in a theme file.
fn current(asked: &Asked, world: &World) -> Result<String, String> {
    if asked.path.starts_with("content/") {
        let content = world.site.contents.iter().find(|content| **content.path() == *asked.path);
        let address = content.and_then(|content| content.address.as_deref());
        return address.map(str::to_owned).ok_or_else(|| format!("{} has no address", asked.path));
    }
    asked.sample(world).ok_or_else(|| format!("no address uses {}", asked.path))
}

fn list(world: &World, asked: &Asked, what: &str) -> Result<Done, String> {
    let id = file_of(world, &asked.path).ok_or("this file is not in a theme of the site's lineage")?;
    let file = world.lineage.file(id);
    let all = |themes: &dyn Fn(usize) -> bool| -> Vec<String> {
        let all = world.lineage.all(&file.name).iter().map(|&other| world.lineage.file(other));
        all.filter(|other| themes(other.theme)).map(|other| other.node.path.to_string()).collect()
    };
    let (title, lines) = match what {
        "renders" => {
            let answers = world.requests().iter().zip(world.survey()).filter(|(_, answer)| answer.winner == Some(id));
            let found: Vec<String> = answers.map(|(request, _)| request.address.clone()).collect();
            (format!("{} renders {}", asked.path, addresses(found.len())), found)
        }
        "covers" => (format!("{} covers", asked.path), all(&|theme| theme > file.theme)),
        "covered" => (format!("{} is covered by", asked.path), all(&|theme| theme < file.theme)),
        "extends" => {
            let next = next_of(world, &asked.path).map(|place| place.path.to_string());
            (format!("{} extends", asked.path), next.into_iter().collect())
        }
        _ => {
            let found: Vec<String> =
                world.reach(id).map(|(request, part)| format!("{}  as {}", request.address, part.word())).collect();
            (format!("{} reaches {}", asked.path, addresses(found.len())), found)
        }
    };
    let mut text = format!("{title}:\n\n");
    for line in lines {
        let _ = writeln!(text, "  {line}");
    }
    Ok(Done::Document(title, text))
}

fn why(world: &World, address: &str) -> Result<Done, String> {
    let title = format!("Which file renders {address}");
    let text = match world.route(address) {
        Routed::Redirect(to) => resolved::redirect_text(address, &to),
        Routed::Request(request) => {
            let page = page(world, request.clone(), Audience::Visitor, &Bump::new());
            resolved::text(&world.explain(&world.resolve(request), Status::of_page(&page)))
        }
    };
    Ok(Done::Document(title, strip_str(&text).to_string()))
}

fn without(world: &World, asked: &Asked) -> Result<Done, String> {
    file_of(world, &asked.path).ok_or("this file is not in a theme of the site's lineage")?;
    let supposition = Supposition { without: vec![asked.path.clone()], ..Supposition::default() };
    let after = suppose(world, &supposition).map_err(|problems| told(&problems))?;
    let difference = compare(world, &after, Html::Whether);
    let title = format!("If {} were gone", asked.path);
    let mut text = format!("{title}:\n\n{}", strip_str(&difference::text(&difference, true, Html::Whether)));
    let _ = writeln!(
        text,
        "{} {} as before.",
        addresses(difference.unchanged),
        if difference.unchanged == 1 { "is" } else { "are" }
    );
    for problem in &difference.problems {
        let place = problem.diagnostic.place.as_ref().map_or("", |place| &place.path);
        let _ = writeln!(text, "\n{place}\n  {}", told(std::slice::from_ref(&problem.diagnostic)));
    }
    Ok(Done::Document(title, text))
}
