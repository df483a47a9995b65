//! A site whose front page does not exist.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;

use crate::check::{Check, Look};
use crate::model::request::Routed;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-front-page",
        severity: Severity::Warning,
        about: "nothing has the address /",
        explanation: "Visitors who type the site's name get 404. [front] in hausblatt.toml says what they get instead: a page, or a collection's listing.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    match world.route_decoded("/") {
        Routed::Request(request) if request.status == 404 => {
            let message = "nothing has the address /: visitors get 404";
            let help = "write a group [front] with page = \"ID\" or collection = \"NAME\"";
            vec![Diagnostic::of(&CHECK.code, message).help(help).at(&world.site.config.path, Span::default())]
        }
        _ => Vec::new(),
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it() {
        let without = [("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n")];
        assert_eq!(told(super::CHECK.code.name, &without), ["hausblatt.toml:1"]);
        assert!(told(super::CHECK.code.name, &[]).is_empty());
    }
}
