//! An image, style or other file is not there.

use std::cell::OnceCell;

use crate::check::links::LinkTarget;
use crate::check::rules::broken_link::is_file;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look, inline};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::suggest::nearest;

use crate::check::links;
use crate::lookup::loads::{self, FileLoad};
use crate::lookup::public;
use crate::text::address::asked;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "missing-file",
        severity: Severity::Warning,
        about: "an image, a style or another file is not there",
        explanation: "The page requests a file of the site that does not exist. Assets are in assets/ of a theme of the lineage, and +{asset(\"…\")} is checked when the site is loaded; images of content are in media/.",
    },
    look: Look::Page(look),
};

/// For so many files that are missing the nearest is looked for: it takes a look at all that there are.
const HELPED: usize = 500;

/// The same in style sheets and scripts.
pub(crate) const IN_FILES: Check = Check { code: CHECK.code, look: Look::Site(in_files) };

fn in_files(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    let files = OnceCell::new();
    for (base, node) in public::files(world) {
        for load in loads::loads(&base, node) {
            let FileLoad { address, span, .. } = load;
            let Some(path) = loads::led_to(world, &base, load) else { continue };
            if load.is_import && asked(&path).path == public::base_of(world, &base) {
                let message = "this style sheet imports itself: no theme farther up has it";
                let help = "take the line away; it means the same file of a theme farther up";
                found.push(Diagnostic::of(&CHECK.code, message).help(help).at(&node.path, span));
                continue;
            }
            if !matches!(links::at(world, &path), LinkTarget::Missing) {
                continue;
            }
            let message = format!("there is no file \"{address}\"");
            let files = files.get_or_init(|| public::files(world));
            // A style sheet is not meant where a script is named.
            let is_code = |path: &str| [".css", ".js", ".mjs"].iter().position(|ending| path.ends_with(ending));
            let alike = files.iter().map(|(path, _)| &**path).filter(|other| is_code(other) == is_code(&path));
            let meant = if found.len() < HELPED { nearest(&path, alike) } else { None };
            let is_relative = !address.trim_start().starts_with('/');
            let help = match (meant, is_relative) {
                (Some(meant), true) => format!("did you mean {meant}? Addresses are relative to this file's, {base}"),
                (Some(meant), false) => format!("did you mean {meant}?"),
                (None, true) => format!("addresses are relative to this file's, {base}: this one is {path}"),
                (None, false) => "put it there, or name a file of media/ or of a theme's assets/".to_owned(),
            };
            found.push(Diagnostic::of(&CHECK.code, message).help(help).at(&node.path, span));
        }
    }
    found
}

/// The same in scripts and styles that are written into pages.
pub(crate) const INLINE: Check = Check { code: CHECK.code, look: Look::Page(inline) };

fn inline(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let mut look = |address: &str, at: usize| {
        let path = loads::loaded_path(view.world, &view.request.address, address);
        if let Some(path) = path.filter(|path| matches!(links::at(view.world, path), LinkTarget::Missing)) {
            let message = format!("there is no file \"{address}\"");
            found.push(PageProblem { lost: Some(path), ..PageProblem::at(Some(at), message, "") });
        }
    };
    for (start, says) in inline::scripts(view) {
        let imports = says.imports.iter().filter_map(|import| Some((import.as_address()?, import.span)));
        imports.for_each(|(address, span)| look(address, start + span.range().start));
    }
    for (start, says) in inline::styles(view) {
        says.loads.iter().for_each(|load| look(&load.address, start + load.span.range().start));
    }
}

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for link in view.links.iter().filter(|link| is_file(&link.path)) {
        if matches!(link.target, LinkTarget::Missing) {
            let message = format!("there is no file \"{}\"", link.written);
            let lost = Some(link.path.clone());
            found.push(PageProblem { lost, ..PageProblem::at(link.at, message, "") });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page, told};

    #[test]
    fn finds_it_in_style_sheets() {
        let sheet = |path, text| {
            told(
                super::CHECK.code.name,
                &[
                    (path, text),
                    ("media/bed.png", "1"),
                    ("themes/t/assets/img/a.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>"),
                    ("themes/t/assets/css/more.css", "/**/"),
                ],
            )
        };
        let path = "themes/t/assets/css/bed.css";
        for text in ["a {\n top: url(ben.png) }", "a {\n top: url('/media/ben.png?1') }", "\n@import \"mor.css\";"] {
            assert_eq!(sheet(path, text), [format!("{path}:2")], "{text}");
        }
        assert!(sheet(path, "@import 'more.css'; @import 'https://seeds.example/a.css'; a { b: url(../img/a.svg#x) url(/media/bed.png?2) url(data:,) url(#x) url(//seeds.example/b) url('') }").is_empty());
    }

    #[test]
    fn finds_it_in_scripts() {
        let script = |text| {
            let files = [("themes/t/assets/bed.js", text), ("themes/t/assets/row.mjs", "export let a = 1;")];
            told(super::CHECK.code.name, &files)
        };
        for text in ["\nimport './raw.mjs'", "\nimport(\"/assets/raw.mjs\")", "\nnew URL('raw.mjs', import.meta.url)"] {
            assert_eq!(script(text), ["themes/t/assets/bed.js:2"], "{text}");
        }
        assert!(script("import './row.mjs?1'; import 'row'; import 'https://seeds.example/a.js'").is_empty());
    }

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<img src=\"/media/ben.png\" alt=\"\">", 2);
        in_page(super::CHECK.code.name, "<img alt=\"\" srcset=\"/media/b.png 2x, https://seeds.example/b.png 3x\">", 1);
        in_page(super::CHECK.code.name, "<p>1</p>\n<script type=module>import '/assets/a.js'</script>", 2);
        in_page(super::CHECK.code.name, "<p>1</p>\n<style>p { background: url(/media/a.png) }</style>", 2);
        in_page(super::CHECK.code.name, "<script src=\"/assets/menu.js\"></script>", 1);
        quiet_page("<img src=\"data:image/gif;base64,R0lGODlhAQABAAAAACw=\" alt=\"\"><a href=\"/sitemap.xml\">1</a>");
    }
}
