//! A theme file that nothing can ask for.

use std::collections::BTreeSet;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::check::{Check, Look};
use crate::text::codes;
use crate::text::shell::word;
use crate::world::World;
use crate::world::survey::FileUse;

/// The check.
pub(crate) const CHECK: Check = Check { code: codes::DEAD_FILE, look: Look::Site(look) };

fn look(world: &World) -> Vec<Diagnostic> {
    // Some are reported already when the site is loaded, with more to say.
    let known: BTreeSet<&str> = world
        .problems
        .iter()
        .filter(|problem| matches!(problem.code, "dead-file" | "not-offered"))
        .filter_map(|problem| Some(&*problem.place.as_ref()?.path))
        .collect();
    let mut found = Vec::new();
    for ((_, file), state) in world.lineage.ids().zip(world.file_uses()) {
        let Some(FileUse::Dead(why)) = state else { continue };
        // What a nearer theme hides is meant to rest.
        if file.hidden_by.is_some() || known.contains(&*file.node.path) {
            continue;
        }
        let message = format!("nothing can use this file: {why}");
        let help = format!(
            "rename it, call it, or delete it; to see what it would need: hausblatt reach {}",
            word(&file.node.path)
        );
        found.push(Diagnostic::of(&CHECK.code, message).help(help).at(&file.node.path, Span::default()));
    }
    found
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it() {
        let code = super::CHECK.code.name;
        assert_eq!(told(code, &[("themes/t/templates/pge.html", "1")]), ["themes/t/templates/pge.html:1"]);
        assert_eq!(told(code, &[("themes/t/partials/x.html", "1")]), ["themes/t/partials/x.html:1"]);
        let called = [("themes/t/partials/x.html", "1"), ("themes/t/templates/page.html", "+{partial \"x\"}")];
        assert!(told(code, &called).is_empty());
    }
}
