//! A copy whose original has moved on.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;

use crate::change::drift::{self, CopyState};
use crate::check::{Check, Look};
use crate::text::shell::word;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "stale-copy",
        severity: Severity::Warning,
        about: "a copy whose original has changed since",
        explanation: "The active theme has a copy of an inherited file, and the original has changed since: its changes, fixes among them, do not reach this site. hausblatt drift shows what has changed and merges it.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    let (copies, mut found) = drift::copies(world);
    // A conflict that is marked in a copy is an error of its own.
    for copy in copies.iter().filter(|copy| copy.state.differs() && !copy.conflicts) {
        let message = match &copy.state {
            CopyState::Gone => "what this was copied from is gone".to_owned(),
            CopyState::Moved => "what this was copied from is elsewhere now".to_owned(),
            _ => "what this was copied from has changed since".to_owned(),
        };
        let help = format!("to see what changed: hausblatt drift {} --diff", word(&copy.path));
        found.push(Diagnostic::of(&CHECK.code, message).help(help).at(&copy.path.as_str().into(), Span::default()));
    }
    found
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it() {
        let mut files = vec![
            ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"c\"\n"),
            ("themes/c/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\nparent = \"t\"\n"),
            ("themes/c/templates/page.html", "<p>copied</p>"),
            (
                "themes/c/.originals/templates/page.html",
                "theme = \"t\"\npath = \"templates/page.html\"\nversion = \"1.0\"\n---\n<p>copied</p>",
            ),
        ];
        assert_eq!(told(super::CHECK.code.name, &files), ["themes/c/templates/page.html:1"]);
        files.push(("themes/t/templates/page.html", "<p>copied</p>"));
        assert!(told(super::CHECK.code.name, &files).is_empty());
    }
}
