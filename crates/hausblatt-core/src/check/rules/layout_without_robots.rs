//! A document that does not pass on what content says to search engines.

use hausblatt_lang::program::{Act, Program, Step};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};

use crate::check::layouts::documents;
use crate::check::{Check, Look};
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "layout-without-robots",
        severity: Severity::Warning,
        about: "a document does not pass on what content tells search engines",
        explanation: "Content says robots: noindex in its front matter, and error pages and searches say it by themselves. It takes effect only where the document's <head> prints request.robots: <meta name=\"robots\" content=\"+{request.robots}\">, which is left out where there is nothing to say.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    let request = world.globals.find("request").map(|(number, _)| number);
    let prints = |program: &&Program| {
        let asks: Vec<usize> = program
            .ops
            .iter()
            .filter_map(|op| match op.act {
                Act::Unless(code, _) => Some(code.0 as usize),
                _ => None,
            })
            .collect();
        let mut reads = program.codes.iter().enumerate().filter(|(_, step)| match **step {
            Step::GlobalMember(number, member) => Some(number) == request && world.symbols.name(member) == "robots",
            _ => false,
        });
        // To ask whether there is anything to say is not yet to say it.
        reads.any(|(at, _)| !asks.contains(&at))
    };
    let without = documents(world).into_iter().filter(|(_, programs)| !programs.iter().any(prints));
    without
        .map(|(id, _)| {
            let span = world.program(id).and_then(|program| program.document).unwrap_or_default();
            let message = "this document does not print request.robots";
            let help = "write <meta name=\"robots\" content=\"+{request.robots}\"> in its <head>";
            Diagnostic::of(&CHECK.code, message).help(help).at(&world.lineage.file(id).node.path, span)
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{LAYOUT, told};

    #[test]
    fn finds_it() {
        let without = LAYOUT.replace("+{request.robots}", "noindex");
        let found = told(super::CHECK.code.name, &[("themes/t/layouts/document.html", &without)]);
        assert_eq!(found, ["themes/t/layouts/document.html:2"]);
        let in_partial = LAYOUT.replace("<meta name=\"robots\" content=\"+{request.robots}\">", "+{partial \"head\"}");
        let partial = ("themes/t/partials/head.html", "<meta name=\"robots\" content=\"+{request.robots}\">");
        assert!(told(super::CHECK.code.name, &[("themes/t/layouts/document.html", &in_partial), partial]).is_empty());
    }
}
