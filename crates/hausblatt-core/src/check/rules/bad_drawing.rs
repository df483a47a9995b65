//! An SVG file is not XML.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;
use rayon::prelude::*;

use crate::check::rules::bad_xml::problem;
use crate::check::{Check, Look};
use crate::files::FileNode;
use crate::lookup::public;
use crate::threads::PAGES;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "bad-drawing",
        severity: Severity::Warning,
        about: "an SVG file is not well-formed XML",
        explanation: "Browsers show nothing of an SVG file with an error in it, without a word, where it is an image. Each element is closed, attributes have quotes, and & is written &amp;.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    let files = public::files(world);
    files
        .par_iter()
        .with_max_len(PAGES)
        .filter(|(path, _)| path.ends_with(".svg"))
        .filter_map(|(_, node)| diagnostic(node))
        .collect()
}

fn diagnostic(node: &FileNode) -> Option<Diagnostic> {
    let text = node.whole_text().ok()?;
    let (at, message, help) = problem(&text)?;
    let end = text[at..].chars().next().map_or(at, |first| at + first.len_utf8());
    Some(Diagnostic::of(&CHECK.code, message).help(help).at(&node.path, Span::new(at, end)))
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_at_its_line() {
        let at = |text: &str| told(super::CHECK.code.name, &[("themes/t/assets/bed.svg", text)]);
        assert_eq!(at("<svg xmlns=\"http://www.w3.org/2000/svg\">\n<path></svg>"), ["themes/t/assets/bed.svg:2"]);
        assert!(at("<svg xmlns=\"http://www.w3.org/2000/svg\"><path/></svg>").is_empty());
    }
}
