//! A template that waits for something that does not exist, beside something of nearly that name.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;

use crate::analysis::potential_use::{Tried, meant};
use crate::check::{Check, Look};
use crate::text::shell::word;
use crate::themes::file_name::Role;
use crate::world::World;
use crate::world::survey::FileUse;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "misnamed-template",
        severity: Severity::Warning,
        about: "a template's name is nearly that of something that exists",
        explanation: "The name of a template says what it renders: a page, a collection, an entry, a term, a route. Nothing has the name that this one says, and something has nearly that name, or that address. If it is meant for something that does not exist yet, list it in [[check.except]].",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    let states = world.file_uses();
    let waiting: Vec<_> = world
        .lineage
        .ids()
        .filter(|(id, file)| {
            file.role == Role::Template && matches!(states.get(id.0 as usize), Some(Some(FileUse::Ready(_))))
        })
        .map(|(_, file)| file)
        .collect();
    if waiting.is_empty() {
        return Vec::new();
    }
    let tried = Tried::of(world);
    let found = waiting.into_iter().filter_map(|file| {
        let name = file.name.template()?;
        let (stem, _) = Ending::split(name)?;
        let meant = meant(world, name, &tried)?;
        let message = format!("no request uses \"{stem}\"");
        let help = format!("did you mean \"{meant}\"? What it waits for: hausblatt reach {}", word(&file.node.path));
        Some(Diagnostic::of(&CHECK.code, message).help(help).at(&file.node.path, Span::default()))
    });
    found.collect()
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_slips_and_addresses() {
        let code = super::CHECK.code.name;
        let config = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[collections.notes]\naddress = \"/log/{slug}/\"\nlisting = \"/log/\"\n";
        // That a collection does not exist is said of a file that nothing can ask for.
        for (name, wrong) in [
            ("page/vist", true),
            ("entry/notse", false),
            ("entry/notes/fisrt", true),
            ("listing/note", false),
            ("page/log/first", true),
            ("page/visit", false),
            ("page/elsewhere", false),
            ("entry/notes/another", false),
            ("error/503", false),
            ("search", false),
        ] {
            let path = format!("themes/t/templates/{name}.html");
            let files = [("hausblatt.toml", config), ("content/notes/first.md", "1"), (path.as_str(), "1")];
            let expected: Vec<String> = wrong.then(|| format!("{path}:1")).into_iter().collect();
            assert_eq!(told(code, &files), expected, "{name}");
        }
        // Of a collection in which nothing is yet.
        let config = config.replace("/log/", "/notes/");
        let files = [("hausblatt.toml", config.as_str()), ("themes/t/templates/entry/notes.html", "1")];
        assert_eq!(told(code, &files), [""; 0]);
    }
}
