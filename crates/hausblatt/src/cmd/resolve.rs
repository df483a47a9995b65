//! `resolve`: which file renders an address, and why.

use bumpalo::Bump;
use hausblatt_core::analysis::explanation::Explanation;
use hausblatt_core::analysis::sent_file::SentFile;
use hausblatt_core::files::Depth;
use hausblatt_core::model::request::Routed;
use hausblatt_core::render::page::{Audience, page};
use hausblatt_core::text::address::asked;
use hausblatt_core::world::World;
use hausblatt_core::world::status::Status;
use hausblatt_lang::text::diagnostic::{Diagnostic, distinct};

use crate::cli::ResolveArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::resolved::{self, Resolved};

/// Runs the command.
pub fn run(common: &Common, args: &ResolveArgs) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Heads)?;
    let mut answers = Vec::new();
    let mut problems: Vec<Diagnostic> = world.configuration_problems().cloned().collect();
    let mut fine = true;
    for (at, typed) in args.addresses.iter().enumerate() {
        let answer = ask(world, &opened::address(world, typed)?);
        if let ResolvedAnswer::Explained(explained, errors) = &answer {
            fine &= explained.status.code < 400;
            problems.extend(explained.problems.iter().chain(errors).cloned());
        }
        if common.format == Format::Json {
            answers.push(as_json(&answer));
        } else {
            let text = as_text(&answer);
            print(&if at > 0 { format!("\n{text}") } else { text })?;
        }
    }
    if common.format == Format::Json {
        json(&answers)?;
    }
    Ok(opened::accept(world, &distinct(problems), common).and(fine))
}

/// What an address leads to.
enum ResolvedAnswer {
    Redirect {
        from: String,
        to: String,
    },
    /// A file of the site, which is sent as it is, or an image that is made of one.
    File(SentFile),
    /// Why it is answered so, and the errors that rendering showed.
    Explained(Box<Explanation>, Vec<Diagnostic>),
}

fn ask(world: &World, address: &str) -> ResolvedAnswer {
    if let Some(file) = world.sent_file(address) {
        return ResolvedAnswer::File(file);
    }
    match world.route(address) {
        Routed::Redirect(to) => ResolvedAnswer::Redirect { from: asked(address).path, to },
        Routed::Request(request) => {
            // Only rendering shows what visitors get.
            let page = page(world, request.clone(), Audience::Visitor, &Bump::new());
            let explained = world.explain(&world.resolve(request), Status::of_page(&page));
            let errors = page.diagnostics.into_iter().filter(Diagnostic::is_error).collect();
            ResolvedAnswer::Explained(Box::new(explained), errors)
        }
    }
}

fn as_json(answer: &ResolvedAnswer) -> Resolved {
    match answer {
        ResolvedAnswer::Redirect { from, to } => Resolved::redirect(from, to),
        ResolvedAnswer::File(file) => Resolved::file(file),
        ResolvedAnswer::Explained(explained, _) => Resolved::of(explained),
    }
}

fn as_text(answer: &ResolvedAnswer) -> String {
    match answer {
        ResolvedAnswer::Redirect { from, to } => resolved::redirect_text(from, to),
        ResolvedAnswer::File(file) => resolved::file_text(file),
        ResolvedAnswer::Explained(explained, _) => resolved::text(explained),
    }
}
