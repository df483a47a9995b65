//! An offered template is for entries of a collection that is not there.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;

use crate::check::{Check, Look};
use crate::themes::file_name::Role;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "offered-nowhere",
        severity: Severity::Warning,
        about: "an offered template is for entries of a collection that is not there",
        explanation: "The for of an offered template names a collection that the site does not have, so its entries are not offered it. A theme for several sites may name more than one: a name that is near to a collection's is reported, and a template that is offered to nothing at all.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    let names = || world.site.collections.iter().map(|collection| collection.config.name.text.as_str());
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.role == Role::Template && file.hidden_by.is_none()) {
        let header = world.header(id);
        if header.fits.is_empty() {
            continue;
        }
        let lost = |kind: &&String| kind.strip_prefix("entry/").is_some_and(|name| names().all(|known| known != name));
        let is_nowhere = header.fits.iter().all(|kind| lost(&kind));
        for kind in header.fits.iter().filter(lost) {
            let name = kind.strip_prefix("entry/").unwrap_or(kind);
            let near = did_you_mean(name, names());
            if near.is_none() && !is_nowhere {
                continue;
            }
            let text = file.node.text().map_or("", |text| text);
            let at = text.find(kind.as_str());
            let span = at.map_or(Span::default(), |at| Span::new(at, at + kind.len()));
            let help = near
                .unwrap_or_else(|| "write \"for\" of what the site has: page, entry or entry/COLLECTION".to_owned());
            let diagnostic = Diagnostic::of(&CHECK.code, format!("the site has no collection \"{name}\""));
            found.push(diagnostic.help(help).at(&file.node.path, span));
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    const SITE: &str = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[collections.notes]\naddress = \"/notes/{slug}/\"\n";

    #[test]
    fn finds_it_at_its_line() {
        let with = |fits: &str| {
            let text = format!("---\nlabel: Wide\nfor: {fits}\n---\n<p>+{{content.title}}</p>");
            told(super::CHECK.code.name, &[("hausblatt.toml", SITE), ("themes/t/templates/offered/wide.html", &text)])
        };
        assert_eq!(with("[page, entry/note]"), ["themes/t/templates/offered/wide.html:3"]);
        assert_eq!(with("entry/films"), ["themes/t/templates/offered/wide.html:3"]);
        assert!(with("[page, entry/films]").is_empty());
        assert!(with("entry/notes").is_empty());
    }
}
