//! A script names a file where its version can't come in.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;
use rayon::prelude::*;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look, inline};
use crate::lookup::loads;
use crate::lookup::public;
use crate::text::address::asked;
use crate::text::scripts::Scripts;
use crate::threads::ONE;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "unversioned-address",
        severity: Severity::Warning,
        about: "a script names a file where its version can't come in",
        explanation: "The addresses of files are published with ?v=…, which changes with their bytes, so that browsers may keep them. In a script that is so for what a module imports and for new URL(\"…\", import.meta.url). Another text, or an address that the script puts together, stays as it is, and browsers that keep files for long would show an old one.",
    },
    look: Look::Site(look),
};

/// The same in scripts that are written into pages.
pub(crate) const IN_PAGES: Check = Check { code: CHECK.code, look: Look::Page(in_page) };

/// What is to say of a script: where, and what, and what to do.
fn told(world: &World, says: &Scripts) -> Vec<(Span, String, &'static str)> {
    if !world.site.config.build.has_versions {
        return Vec::new();
    }
    let named = says.named.iter().filter(|(text, _)| public::file(world, &asked(text).path).is_some());
    let named = named.map(|(text, span)| {
        let message = format!("\"{text}\" is published without its version");
        let help = "hand the address over in a data- attribute, or write new URL(\"…\", import.meta.url) in a module";
        (*span, message, help)
    });
    let computed = says.computed.iter().map(|span| {
        let message = "what this imports is known only in the browser, so it has no version".to_owned();
        (*span, message, "write the address out, or name it in an import map")
    });
    named.chain(computed).collect()
}

fn in_page(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for (start, says) in inline::scripts(view) {
        let told = told(view.world, &says).into_iter();
        found
            .extend(told.map(|(span, message, help)| PageProblem::at(Some(start + span.range().start), message, help)));
    }
}

fn look(world: &World) -> Vec<Diagnostic> {
    let scripts: Vec<_> = loads::scripts(world).collect();
    let problems = scripts.par_iter().with_max_len(ONE).flat_map_iter(|(_, node)| {
        let told = told(world, node.scripts()).into_iter();
        told.map(|(span, message, help)| Diagnostic::of(&CHECK.code, message).help(help).at(&node.path, span))
    });
    problems.collect()
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, told};

    #[test]
    fn finds_it_at_its_line() {
        let at =
            |text: &str| told(super::CHECK.code.name, &[("themes/t/assets/bed.js", text), ("media/rows.json", "[1]")]);
        assert_eq!(at("let a = 1;\nfetch('/media/rows.json')"), ["themes/t/assets/bed.js:2"]);
        assert_eq!(at("import(`./${a}.js`)"), ["themes/t/assets/bed.js:1"]);
        in_page(super::CHECK.code.name, "<p>1</p>\n<script type=\"module\">import(a)</script>", 2);
        for quiet in ["fetch('/media/')", "// '/media/rows.json'", "new URL('/media/rows.json', import.meta.url)"] {
            assert!(at(quiet).is_empty(), "{quiet}");
        }
    }
}
