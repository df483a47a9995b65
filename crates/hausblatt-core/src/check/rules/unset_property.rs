//! A style sheet reads a custom property that nothing sets.

use std::sync::Arc;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::suggest::nearest;
use rustc_hash::FxHashSet;

use crate::check::{Check, Look};
use crate::files::FileNode;
use crate::lookup::loads;
use crate::lookup::public;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "unset-property",
        severity: Severity::Warning,
        about: "a style sheet reads a custom property that nothing sets",
        explanation: "A declaration with var(--name) means nothing where no rule sets --name, unless a value to take instead is given: var(--name, green). Names of custom properties differ by case.",
    },
    look: Look::Site(look),
};

/// What is in a text that puts names together, so that nobody knows what it sets.
const MADE_UP: [&str; 5] = ["--+{", "--${", "'--'", "\"--\"", "`--`"];

fn look(world: &World) -> Vec<Diagnostic> {
    let sheets: Vec<_> = loads::style_sheets(world).map(|(_, node)| node).collect();
    let sets: FxHashSet<&str> = sheets.iter().flat_map(|node| &node.styles().sets).map(String::as_str).collect();
    let reads = sheets.iter().flat_map(|node| node.styles().reads.iter().map(move |read| (node, read)));
    let mut unset: Vec<_> = reads.filter(|(_, (name, _))| !sets.contains(&**name)).collect();
    if unset.is_empty() || loads_from_elsewhere(world) {
        return Vec::new();
    }
    for text in other_texts(world) {
        if unset.is_empty() {
            break;
        }
        if MADE_UP.iter().any(|sign| text.contains(sign)) {
            return Vec::new();
        }
        unset.retain(|(_, (name, _))| !is_set_in(&text, name));
    }
    let mut known: Vec<&str> = sets.into_iter().collect();
    known.sort_unstable();
    let told = unset.into_iter().map(|(node, (name, span))| {
        let help = match nearest(name, known.iter().copied()) {
            Some(meant) => format!("did you mean {meant}?"),
            None => format!("set it, as in :root {{ {name}: …; }}, or give a value to take instead"),
        };
        Diagnostic::of(&CHECK.code, format!("nothing sets {name}")).help(help).at(&node.path, *span)
    });
    told.collect()
}

/// Whether a page may load a style sheet from elsewhere, of which nobody knows what it sets.
fn loads_from_elsewhere(world: &World) -> bool {
    let mut loads = loads::style_sheets(world).flat_map(|(_, node)| &node.styles().loads);
    let links = |text: &str| {
        let tags = text.split("<link").skip(1).map(|tag| tag.split('>').next().unwrap_or(tag));
        let mut imports = text.split("@import").skip(1).map(|rest| rest.split(';').next().unwrap_or(rest));
        tags.filter(|tag| tag.contains("stylesheet")).any(is_elsewhere) || imports.any(is_elsewhere)
    };
    loads.any(|load| load.is_import && is_elsewhere(&load.address))
        || world.lineage.files.iter().filter_map(|file| file.node.text()).any(|text| links(text))
}

fn is_elsewhere(address: &str) -> bool {
    address.contains("//")
}

/// The texts that may set a custom property and are not style sheets: templates, scripts, drawings, and content, which may
/// have HTML of its own.
fn other_texts(world: &World) -> impl Iterator<Item = Arc<str>> {
    let of_themes = world.lineage.files.iter().map(|file| &file.node);
    let sent = public::files(world).into_iter().map(|(_, node)| node);
    let is_other = |node: &FileNode| {
        let ending = node.path.rsplit_once('.').map_or("", |(_, ending)| ending);
        // What is wrong in a style sheet may hide what it sets.
        ["html", "js", "mjs", "svg", "let", "toml"].contains(&ending)
            || ending == "css" && !node.styles().problems.is_empty()
    };
    let content = world.snapshot.below("content/");
    let nodes = of_themes.chain(sent).filter(move |node| is_other(node)).chain(content);
    nodes.filter_map(|node| node.whole_text().ok())
}

/// Whether a text has this name, and sets it there: behind it is a colon, or the end of a text in a script.
fn is_set_in(text: &str, name: &str) -> bool {
    text.match_indices(name).any(|(at, _)| {
        let behind = text[at + name.len()..].trim_start();
        behind.starts_with([':', '"', '\'', '`', '+'])
    })
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_at_its_line() {
        let code = super::CHECK.code.name;
        let css = ("themes/t/assets/bed.css", ":root { --soil: brown }\n.a { color: var(--siol); }");
        assert_eq!(told(code, &[css]), ["themes/t/assets/bed.css:2"]);
        for other in [
            ("themes/t/assets/other.css", ".b { --siol: red }"),
            ("themes/t/templates/page.html", "<p style=\"--siol: +{1}\">1</p>"),
            ("themes/t/assets/bed.js", "document.body.style.setProperty('--siol', 'red')"),
            ("themes/t/assets/bed.js", "for (const name of names) style.setProperty(`--${name}`, 'red')"),
            ("themes/t/templates/page.html", "<p style=\"--+{content.title}: 1\">1</p>"),
            ("content/pages/visit.md", "---\ntitle: Visit\n---\n<p style=\"--siol: red\">1</p>"),
            ("themes/t/assets/far.css", "@import url(\"https://seeds.example/css?a=b\");"),
            ("themes/t/templates/page.html", "<link\n  rel=\"stylesheet\"\n  href=\"//seeds.example/a.css\">"),
            ("themes/t/templates/page.html", "<link rel=\"stylesheet\" href=\"https://seeds.example/a.css\">"),
        ] {
            assert!(told(code, &[css, other]).is_empty(), "{other:?}");
        }
        assert!(told(code, &[("themes/t/assets/bed.css", ".a { color: var(--siol, red); }")]).is_empty());
    }
}
