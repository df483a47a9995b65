//! A template asks for a value that its requests never have.

use hausblatt_lang::program::Step;
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};

use crate::check::{Check, Look};
use crate::themes::file_name::Role;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "absent-value",
        severity: Severity::Warning,
        about: "a template asks for a value that its requests never have",
        explanation: "listing, search, route and error are filled on requests of their kind only, and content is nothing on a search, a route or a listing by date. Their members are nothing elsewhere, and nothing is printed. A file for several kinds asks first: +{if listing}.",
    },
    look: Look::Site(look),
};

/// The global values that are nothing in the templates of a kind, by its word.
const ABSENT: &[(&str, &[&str])] = &[
    ("page", &["listing", "search", "route", "error"]),
    ("entry", &["listing", "search", "route", "error"]),
    ("listing", &["search", "route", "error"]),
    ("period", &["content", "search", "route", "error"]),
    ("search", &["content", "route", "error"]),
    ("route", &["content", "search", "error"]),
    ("error", &["listing", "search", "route"]),
];

fn look(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.role == Role::Template && file.hidden_by.is_none()) {
        let Some(program) = world.program(id) else { continue };
        let name = file.node.path.split_once("/templates/").map_or("", |(_, name)| name);
        let kind = name.split(['/', '.']).next().unwrap_or("");
        let Some((_, absent)) = ABSENT.iter().find(|(word, _)| *word == kind) else { continue };
        // Who asks whether it is there knows.
        let asked: Vec<u16> = program
            .codes
            .iter()
            .filter_map(|step| match step {
                Step::Global(number) => Some(*number),
                _ => None,
            })
            .collect();
        let mut told: Vec<u16> = Vec::new();
        for (step, &span) in program.codes.iter().zip(&program.code_spans) {
            let Step::GlobalMember(number, _) = *step else { continue };
            let global = world.globals.name(number);
            if !absent.contains(&global) || asked.contains(&number) || told.contains(&number) {
                continue;
            }
            told.push(number);
            let message = format!("\"{global}\" is nothing in a template for {}", plural(kind));
            let help = match global {
                "content" => "what a request is about is in request, listing and route",
                _ => "what is printed here is content; a file for several kinds asks first, with +{if …}",
            };
            found.push(Diagnostic::of(&CHECK.code, message).help(help).at(&program.path, span));
        }
    }
    found
}

fn plural(kind: &str) -> &str {
    match kind {
        "page" => "pages",
        "entry" => "entries",
        "listing" => "listings",
        "period" => "listings by date",
        "search" => "searches",
        "route" => "routes",
        _ => "errors",
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it() {
        let with = [("themes/t/templates/page.html", "<p>1</p>\n+{listing.title}+{listing.items.count}")];
        assert_eq!(told(super::CHECK.code.name, &with), ["themes/t/templates/page.html:2"]);
        for text in ["+{if listing}+{listing.title}+{end}", "+{content.title}", "+{request.title}"] {
            assert!(told(super::CHECK.code.name, &[("themes/t/templates/page.html", text)]).is_empty(), "{text}");
        }
        assert!(told(super::CHECK.code.name, &[("themes/t/templates/fallback.html", "+{error.status}")]).is_empty());
    }
}
