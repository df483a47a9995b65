//! A style sheet is written in a way that browsers leave out.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use rayon::prelude::*;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look, inline};
use crate::lookup::loads;
use crate::threads::ONE;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "bad-styles",
        severity: Severity::Warning,
        about: "browsers leave out a part of a style sheet",
        explanation: "What a browser can't read in a style sheet it leaves out without a word: a declaration up to the next ;, a rule up to its }, after a bracket that nothing closes all the rest. A declaration is a property, a colon, a value and a ;, and comments are written /* … */.",
    },
    look: Look::Site(look),
};

/// The same in styles that are written into pages.
pub(crate) const IN_PAGES: Check = Check { code: CHECK.code, look: Look::Page(in_page) };

fn in_page(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for (start, says) in inline::styles(view) {
        let told = says.problems.into_iter();
        found.extend(told.map(|one| PageProblem::at(Some(start + one.span.range().start), one.message, one.help)));
    }
}

fn look(world: &World) -> Vec<Diagnostic> {
    let sheets: Vec<_> = loads::style_sheets(world).collect();
    let problems = sheets.par_iter().with_max_len(ONE).flat_map_iter(|(_, node)| {
        let problems = node.styles().problems.iter();
        problems.map(|problem| {
            Diagnostic::of(&CHECK.code, &*problem.message).help(&*problem.help).at(&node.path, problem.span)
        })
    });
    problems.collect()
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page, told};

    #[test]
    fn finds_it_at_its_line() {
        let at = |text: &str| told(super::CHECK.code.name, &[("themes/t/assets/bed.css", text)]);
        assert_eq!(at(".a {\n  color green;\n}"), ["themes/t/assets/bed.css:2"]);
        assert_eq!(at(".a {\n  color: green;\n"), ["themes/t/assets/bed.css:1"]);
        assert!(at(".a {\n  color: green\n}").is_empty());
        let of_component = [
            ("themes/t/components/card/component.html", "<p>1</p>"),
            ("themes/t/components/card/style.css", ".a { top: 0 }\n}"),
        ];
        assert_eq!(told(super::CHECK.code.name, &of_component), ["themes/t/components/card/style.css:2"]);
        assert_eq!(told(super::CHECK.code.name, &[("media/print.css", "}")]), ["media/print.css:1"]);
        in_page(super::CHECK.code.name, "<p>1</p>\n<style>\n.a { color green; }\n</style>", 3);
        quiet_page("<p>1</p><style>.a { width: +{2}px; color: +{\"red\"} }</style>");
    }

    #[test]
    fn what_is_covered_is_not_sent() {
        let child = [
            ("themes/t/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\nparent = \"far\"\n"),
            ("themes/far/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\n"),
            ("themes/far/assets/bed.css", "}"),
            ("themes/t/assets/bed.css", ".a { top: 0 }"),
        ];
        assert!(told(super::CHECK.code.name, &child).is_empty());
    }
}
