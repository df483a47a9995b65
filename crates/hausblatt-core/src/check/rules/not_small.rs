//! A style sheet or a script stays as it is, where the site makes them small.

use hausblatt_lang::text::diagnostic::Diagnostic;
use rayon::prelude::*;

use crate::check::{Check, Look};
use crate::files::FileNode;
use crate::lookup::loads;
use crate::render::small::NOT_SMALL;
use crate::threads::ONE;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check { code: NOT_SMALL, look: Look::Site(look) };

fn look(world: &World) -> Vec<Diagnostic> {
    let files = loads::style_sheets(world).chain(loads::scripts(world));
    let files: Vec<_> = files.filter(|(path, _)| world.makes_small(path)).collect();
    let is_told = |file: &str| files.iter().any(|(path, node)| *node.path == *file && has_problems(path, node));
    let found =
        files.par_iter().with_max_len(ONE).filter_map(|(path, node)| world.published_file(path, node).not_small);
    let mut found: Vec<Diagnostic> =
        found.filter(|one| one.place.as_ref().is_none_or(|place| !is_told(&place.path))).collect();
    // A style sheet keeps all that import it from being small.
    found.sort_by(|a, b| a.place.cmp(&b.place));
    found.dedup_by(|a, b| a.place == b.place);
    found
}

/// Whether something is reported of a file that keeps it from being small.
fn has_problems(path: &str, node: &FileNode) -> bool {
    match loads::is_script(path) {
        true => node.scripts().problem.is_some(),
        false => !node.styles().problems.is_empty(),
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_at_its_line() {
        let at = |config: &str, files: &[(&str, &str)]| {
            let text = format!("[site]\ntitle = \"S\"\ntheme = \"t\"\n\n[build]\n{config}\n");
            let mut all = vec![("hausblatt.toml", text.as_str())];
            all.extend(files);
            told(super::CHECK.code.name, &all)
        };
        let both = "styles = \"small\"\nscripts = \"small\"";
        let odd = [
            ("themes/t/assets/a.css", "@import 'b.css';"),
            ("themes/t/assets/b.css", "a { b: c }\nd { e: f }\n.2nd:hover { b: c }\n"),
        ];
        assert_eq!(at(both, &odd), ["themes/t/assets/b.css:3"]);
        assert!(at("styles = \"as-is\"\nscripts = \"small\"", &odd).is_empty());
        // What is wrong with it is said already.
        assert!(
            at(both, &[("themes/t/assets/a.css", "a { color red }\n}"), ("themes/t/assets/a.js", "let a = ;")])
                .is_empty()
        );
    }
}
