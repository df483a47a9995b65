//! A template that waits for something that does not exist, beside something of nearly that name.

use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::ending::Ending;
use hausblatt_lang::near::{is_slip, nearest};
use hausblatt_lang::source::Span;

use crate::check::{Check, Look};
use crate::lookup::ladder::Reason;
use crate::themes::lineage::Role;
use crate::analysis::reach::Survey;
use crate::lookup::request::Led;
use crate::text::shell::word;
use crate::analysis::states::{State, states};
use crate::analysis::waits::Tried;
use crate::world::World;

/// The check.
pub const CHECK: Check = Check {
    code: "misnamed-template",
    about: "a template's name is nearly that of something that exists",
    explanation: "The name of a template says what it renders: a page, a collection, an entry, a term, a route. Nothing has the name that this one says, and something has nearly that name, or that address. If it is meant for something that is yet to come, list it in [[check.allow]].",
    look: Look::Site(look),
};

fn look(world: &World, survey: &Survey) -> Vec<Diagnostic> {
    let states = states(world, survey);
    let waiting: Vec<_> = world
        .lineage
        .ids()
        .filter(|(id, file)| {
            file.role == Role::Template && matches!(states.get(id.0 as usize), Some(Some(State::Ready(_))))
        })
        .map(|(_, file)| file)
        .collect();
    if waiting.is_empty() {
        return Vec::new();
    }
    let tried = Tried::of(world);
    let found = waiting.into_iter().filter_map(|file| {
        let name = file.name.strip_prefix("templates/")?;
        let (stem, _) = Ending::split(name)?;
        let meant = meant(world, name, &tried)?;
        let message = format!("no request asks for \"{stem}\"");
        let help = format!("did you mean \"{meant}\"? What it waits for: hausblatt reach {}", word(&file.node.path));
        Some(Diagnostic::warning(CHECK.code, message).help(help).at(&file.node.path, Span::default()))
    });
    found.collect()
}

/// The name that is meant by that of a template which nothing asks for: one that is asked for and differs by a slip, or
/// that of the content at an address which is written where an id should be.
pub fn meant(world: &World, name: &str, tried: &Tried) -> Option<String> {
    let mut names: Vec<&str> = tried.names().collect();
    // The same suggestion each time.
    names.sort_unstable();
    let (stem, ending) = Ending::split(name).filter(|_| !names.contains(&name))?;
    near(stem, ending, &names).map(str::to_owned).or_else(|| of_address(world, stem))
}

/// The name that is asked for and differs from `stem` in one part, by a slip.
fn near<'n>(stem: &str, ending: Ending, tried: &[&'n str]) -> Option<&'n str> {
    let parts: Vec<&str> = stem.split('/').collect();
    let differs_by_slip = |other: &&&str| {
        let others: Vec<&str> = other.split('/').collect();
        if others.len() != parts.len() || others[0] != parts[0] || parts.len() < 2 {
            return false;
        }
        let mut different = parts.iter().zip(&others).filter(|(a, b)| a != b);
        different.next().is_some_and(|(a, b)| is_slip(a, b)) && different.next().is_none()
    };
    let names = tried.iter().filter_map(|name| {
        let (name, of) = Ending::split(name)?;
        (of == ending).then_some(name)
    });
    let names: Vec<&str> = names.collect();
    nearest(stem, names.iter().filter(differs_by_slip).copied())
}

/// The name that is meant where a template is named after an address.
fn of_address(world: &World, stem: &str) -> Option<String> {
    let (_, path) = stem.split_once('/')?;
    let Led::Request(request) = world.lead_decoded(&format!("/{path}/")) else { return None };
    if request.status >= 400 {
        return None;
    }
    let own =
        |reason| matches!(reason, Reason::Id | Reason::Collection | Reason::Term | Reason::Taxonomy | Reason::Route);
    let rungs = world.resolve(request).rungs;
    let rung = rungs.into_iter().find(|rung| own(rung.rung.reason) && !rung.rung.of_view)?;
    let (name, _) = Ending::split(&rung.rung.name)?;
    (name != stem).then(|| name.to_owned())
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_slips_and_addresses() {
        let code = super::CHECK.code;
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
    }
}
