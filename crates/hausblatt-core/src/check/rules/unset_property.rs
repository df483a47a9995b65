//! A style sheet reads a custom property that nothing sets.

use std::sync::Arc;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::value::dependencies::note_unknown;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look, inline};
use crate::files::FileNode;
use crate::lookup::loads;
use crate::lookup::public;
use crate::text::styles::{SetProperties, sets_property};
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "unset-property",
        severity: Severity::Warning,
        about: "a style reads a custom property that nothing sets",
        explanation: "A declaration with var(--name) means nothing where no rule sets --name, unless a value to take instead is given: var(--name, green). Names of custom properties differ by case.",
    },
    look: Look::Site(look),
};

/// What is in a text that puts names together, so that nobody knows what it sets.
const MADE_UP: [&str; 5] = ["--+{", "--${", "'--'", "\"--\"", "`--`"];

fn look(world: &World) -> Vec<Diagnostic> {
    let reads = loads::style_sheets(world)
        .flat_map(|(_, node)| node.styles().reads.iter().map(move |(name, span)| (node, name, *span)));
    let mut reads = reads.peekable();
    let Some(set) = reads.peek().and_then(|_| set_properties(world)) else { return Vec::new() };
    let unset = reads.filter(|(_, name, _)| !set.has(name));
    let told = unset.map(|(node, name, span)| {
        let (message, help) = told(set, name);
        Diagnostic::of(&CHECK.code, message).help(help).at(&node.path, span)
    });
    told.collect()
}

/// The same in styles that are written into pages.
pub(crate) const IN_PAGES: Check = Check { code: CHECK.code, look: Look::Page(look_in_page) };

fn look_in_page(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let styles = inline::styles(view);
    let reads = styles.iter().flat_map(|(start, says)| says.reads.iter().map(move |read| (start, read)));
    for (start, (name, span)) in reads {
        // What the page itself sets, it may set in an attribute or by a script.
        if sets_property(view.text, name) {
            continue;
        }
        // All texts of the site may set it.
        note_unknown();
        let Some(set) = set_properties(view.world) else { return };
        if !set.has(name) {
            let (message, help) = told(set, name);
            found.push(PageProblem::at(Some(start + span.range().start), message, help));
        }
    }
}

fn told(set: &SetProperties, name: &str) -> (String, String) {
    let help = match set.nearest(name) {
        Some(meant) => format!("did you mean {meant}?"),
        None => format!("set it, as in :root {{ {name}: …; }}, or give a value to take instead"),
    };
    (format!("nothing sets {name}"), help)
}

/// Which custom properties anything sets; none where nobody can know.
fn set_properties(world: &World) -> Option<&SetProperties> {
    let find = || {
        if loads_from_elsewhere(world) {
            return None;
        }
        let others: Vec<Arc<str>> = other_texts(world).collect();
        if others.iter().any(|text| MADE_UP.iter().any(|sign| text.contains(sign))) {
            return None;
        }
        let names = loads::style_sheets(world).flat_map(|(_, node)| node.styles().sets.iter().cloned());
        Some(SetProperties::of(names.collect(), others))
    };
    world.set_properties.get_or_init(find).as_ref()
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

    #[test]
    fn finds_it_in_the_styles_of_a_page() {
        let code = super::CHECK.code.name;
        let css = ("themes/t/assets/bed.css", ":root { --soil: brown }");
        let page = |text: &str| {
            let page = format!("---\nlayout: none\n---\n<!doctype html>\n{text}");
            told(code, &[css, ("themes/t/templates/page.html", page.as_str())])
        };
        let style = "<style>\n.a { color: var(--siol) }</style>";
        assert_eq!(page(style), ["themes/t/templates/page.html:6"]);
        assert!(page("<style>.a { color: var(--soil); top: var(--x, 0) }</style>").is_empty());
        assert!(page(&format!("{style}<p style=\"--siol: red\">1</p>")).is_empty());
        assert!(page(&format!("{style}<style>p {{ --siol: red }}</style>")).is_empty());
        assert!(page(&format!("{style}<script>document.body.style.setProperty('--siol', 'red')</script>")).is_empty());
    }
}
