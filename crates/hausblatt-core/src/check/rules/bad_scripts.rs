//! A script is written in a way that no browser runs.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use rayon::prelude::*;

use crate::analysis::asset_conflicts;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look, inline};
use crate::lookup::loads;
use crate::text::scripts::ScriptProblem;
use crate::threads::ONE;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "bad-scripts",
        severity: Severity::Warning,
        about: "no browser runs this script",
        explanation: "A script that a browser can't read to its end it does not run at all, and says so only in its console. Scripts are read as ECMAScript 2026, as a module where they import or export something. One with more than about a megabyte is not read.",
    },
    look: Look::Site(look),
};

/// The same in scripts that are written into pages.
pub(crate) const IN_PAGES: Check = Check { code: CHECK.code, look: Look::Page(in_page) };

const HELP: &str = "the place is where reading stopped: what is wrong may be in front of it";
const UNREAD: &str = "save it as UTF-8; its permissions must let it be read";

fn message(problem: &ScriptProblem) -> String {
    let mut what = problem.message.chars();
    let what = what.next().map(|first| first.to_lowercase().to_string() + what.as_str()).unwrap_or_default();
    format!(
        "no browser runs this script: {}",
        what.trim_end_matches('.').replace("`EOF`", "the end").replace('`', "\"")
    )
}

fn in_page(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for (start, says) in inline::scripts(view) {
        let problem = says.problem.as_ref();
        found.extend(problem.map(|one| PageProblem::at(Some(start + one.span.range().start), message(one), HELP)));
    }
}

fn look(world: &World) -> Vec<Diagnostic> {
    let scripts: Vec<_> = loads::scripts(world).collect();
    let problems = scripts.par_iter().with_max_len(ONE).filter_map(|(_, node)| {
        let says = node.scripts();
        let problem = says.problem.as_ref()?;
        let (message, help) = match says.is_unread {
            true => (problem.message.clone(), UNREAD),
            false => (message(problem), HELP),
        };
        // A conflict that a merge left in it is reported itself.
        let is_conflict = !asset_conflicts::of_file(node).is_empty();
        (!is_conflict).then(|| Diagnostic::of(&CHECK.code, message).help(help).at(&node.path, problem.span))
    });
    problems.collect()
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page, told};

    #[test]
    fn finds_it_at_its_line() {
        let at = |text: &str| told(super::CHECK.code.name, &[("themes/t/assets/bed.js", text)]);
        assert_eq!(at("let a = 1;\nlet b = ;"), ["themes/t/assets/bed.js:2"]);
        assert_eq!(at("if (a {\n}"), ["themes/t/assets/bed.js:1"]);
        assert!(at("let a = 1\nexport { a }").is_empty());
        assert_eq!(told(super::CHECK.code.name, &[("media/map.mjs", "}")]), ["media/map.mjs:1"]);
        in_page(super::CHECK.code.name, "<p>1</p>\n<script>\nlet a = ;\n</script>", 3);
        quiet_page("<p>1</p><script type=\"module\">let a = await 1;</script><script type=\"text/x\">}</script>");
    }
}
