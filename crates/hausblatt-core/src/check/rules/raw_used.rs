//! Where text is printed as HTML.

use hausblatt_lang::program::Act;
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};

use crate::check::{Check, Look};
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "raw-used",
        severity: Severity::Warning,
        about: "a text is printed as HTML, unescaped",
        explanation: "What +{raw …} prints is not escaped and not checked: anyone who can write that text can put a script into the page. Markdown, rich fields and captured blocks are HTML already and need no raw. Where it is intended, except this code for the file.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for program in world.library.units.iter().filter_map(|unit| unit.program.as_ref()) {
        let prints = program.ops.iter().zip(&program.spans).filter(|(op, _)| matches!(op.act, Act::Raw(_)));
        for (_, &span) in prints {
            let help = "leave out raw if the value is HTML already; else make sure that nobody else can write it";
            let diagnostic = Diagnostic::of(&CHECK.code, "this prints a text as HTML, unescaped");
            found.push(diagnostic.help(help).at(&program.path, span));
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it() {
        let with = [("themes/t/templates/page.html", "<p>1</p>\n+{raw content.title}")];
        assert_eq!(told(super::CHECK.code.name, &with), ["themes/t/templates/page.html:2"]);
        assert!(told(super::CHECK.code.name, &[("themes/t/templates/page.html", "+{content.title}")]).is_empty());
    }
}
