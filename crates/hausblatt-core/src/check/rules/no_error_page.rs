//! A site without an error page of its own.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;

use crate::check::{Check, Look};
use crate::lookup::map::error_request;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-error-page",
        severity: Severity::Warning,
        about: "no template answers requests that match nothing",
        explanation: "An address that does not exist is answered by error/404.html, error/4xx.html or error.html, by fallback.html where there is none of them, else by a plain built-in page, without the site's layout and menus.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    let resolution = world.resolve(error_request(404));
    let own = resolution.winner.is_some_and(|winner| world.lineage.file(winner).name.starts_with("templates/error"));
    if own {
        return Vec::new();
    }
    let message = match resolution.winner {
        Some(winner) => format!("what is not found is answered by {}", world.lineage.file(winner).node.path),
        None => "what is not found is answered by a plain page".to_owned(),
    };
    let help = "write templates/error/404.html; create it with: hausblatt start template error/404";
    vec![Diagnostic::of(&CHECK.code, message).help(help).at(&world.lineage.active().manifest, Span::default())]
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it() {
        let gone = [("themes/t/templates/error.html", "")];
        assert_eq!(told(super::CHECK.code.name, &gone), ["themes/t/hausblatt-theme.toml:1"]);
        assert!(told(super::CHECK.code.name, &[]).is_empty());
    }
}
