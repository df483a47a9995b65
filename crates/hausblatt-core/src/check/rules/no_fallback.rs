//! The one file that a lineage must have.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;

use crate::check::{Check, Look};
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-fallback",
        severity: Severity::Warning,
        about: "the themes have no template for everything else",
        explanation: "Each ladder ends with fallback.html, the one file that a lineage must have: without it a request for which no other file exists gets no page at all. Write templates/fallback.html in the farthest theme, with little more than +{request.title} in it.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    if world.lineage.nearest("templates/fallback.html").is_some() {
        return Vec::new();
    }
    let message = "no theme of the lineage has templates/fallback.html, for when there is nothing else";
    let diagnostic = Diagnostic::of(&CHECK.code, message).help("create it with: hausblatt start template fallback");
    vec![diagnostic.at(&world.lineage.active().manifest, Span::default())]
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it() {
        assert_eq!(told(super::CHECK.code.name, &[("themes/t/templates/fallback.html", "")]).len(), 1);
        assert!(told(super::CHECK.code.name, &[]).is_empty());
    }
}
