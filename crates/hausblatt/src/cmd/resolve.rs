//! `resolve`: which file renders an address, and why.

use bumpalo::Bump;
use hausblatt_core::files::Depth;
use hausblatt_core::lookup::request::Routed;
use hausblatt_core::lookup::resolution::Resolution;
use hausblatt_core::render::page::{Audience, Page, page};
use hausblatt_core::text::address::asked;
use hausblatt_core::world::World;
use hausblatt_core::world::status::Status;
use hausblatt_lang::text::diagnostic::{Diagnostic, distinct};

use crate::cli::ResolveArgs;
use crate::cmd::{json, only, print};
use crate::failure::Failure;
use crate::opened;
use crate::options::{Common, Format};
use crate::show::resolved::{self, Resolved};

/// Runs the command; false for exit code 1.
pub fn run(common: &Common, args: &ResolveArgs) -> Result<bool, Failure> {
    only(common, &[Format::Text, Format::Json])?;
    let world = opened::open(common, Depth::Heads)?;
    let mut answers = Vec::new();
    let mut problems: Vec<Diagnostic> = world.configuration_problems().cloned().collect();
    let mut fine = true;
    for (at, typed) in args.addresses.iter().enumerate() {
        let answer = ask(world, &opened::address(world, typed)?);
        if let Answer::Resolved(resolution, page) = &answer {
            fine &= page.status < 400;
            let errors = page.diagnostics.iter().filter(|one| one.is_error());
            let new: Vec<Diagnostic> = world.problems_of(resolution).chain(errors).cloned().collect();
            problems.extend(new);
        }
        if common.format == Format::Json {
            answers.push(as_json(world, &answer));
        } else {
            let text = as_text(world, &answer);
            print(&if at > 0 { format!("\n{text}") } else { text })?;
        }
    }
    if common.format == Format::Json {
        json(&answers)?;
    }
    Ok(opened::accept(world, &distinct(problems), common) && fine)
}

/// What an address leads to.
enum Answer {
    Redirect { from: String, to: String },
    Resolved(Box<Resolution>, Box<Page>),
}

fn ask(world: &World, address: &str) -> Answer {
    match world.route(address) {
        Routed::Redirect(to) => Answer::Redirect { from: asked(address).path, to },
        Routed::Request(request) => {
            // Only rendering shows what visitors get.
            let page = page(world, request.clone(), Audience::Visitor, &Bump::new());
            Answer::Resolved(Box::new(world.resolve(request)), Box::new(page))
        }
    }
}

fn as_json(world: &World, answer: &Answer) -> Resolved {
    match answer {
        Answer::Redirect { from, to } => Resolved::redirect(from, to),
        Answer::Resolved(resolution, page) => Resolved::of(world, resolution, &Status::of_page(page)),
    }
}

fn as_text(world: &World, answer: &Answer) -> String {
    match answer {
        Answer::Redirect { from, to } => resolved::redirect_text(from, to),
        Answer::Resolved(resolution, page) => resolved::text(world, resolution, &Status::of_page(page)),
    }
}
