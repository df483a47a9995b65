//! Where a value's content is shown that was only of use while developing.

use hausblatt_lang::program::Act;
use hausblatt_lang::text::codes;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::check::{Check, Look};
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check { code: codes::DUMP_LEFT_BEHIND, look: Look::Site(look) };

fn look(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for program in world.library.units.iter().filter_map(|unit| unit.program.as_ref()) {
        for op in &program.ops {
            let Act::Dump(value) = op.act else { continue };
            let span = program.code_spans.get(value.0 as usize).copied().unwrap_or_default();
            // The words of the renderer, which says the same at each address that reaches it.
            let diagnostic = Diagnostic::of(&CHECK.code, "\"dump\" is for looking, and this page is for readers");
            let help = "take it out; \"render\" and \"serve\" show what it shows";
            found.push(diagnostic.help(help).at(&program.path, span));
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_even_where_nothing_runs_it() {
        let with = [("themes/t/templates/page.html", "<p>1</p>\n+{if false}+{dump content}+{end}")];
        assert_eq!(told(super::CHECK.code.name, &with), ["themes/t/templates/page.html:2"]);
        let runs = [("themes/t/templates/page.html", "<p>1</p>\n+{dump content}")];
        assert_eq!(told(super::CHECK.code.name, &runs), ["themes/t/templates/page.html:2"]);
        assert!(told(super::CHECK.code.name, &[]).is_empty());
    }
}
