//! Two things that a build would published in one file.

use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::build::meeting;
use crate::check::{Check, Look};
use crate::text::codes;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check { code: codes::SAME_OUTPUT, look: Look::Site(look) };

fn look(world: &World) -> Vec<Diagnostic> {
    meeting(world).to_vec()
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_at_its_line() {
        let files = [("content/pages/visit.md", "---\ntitle: Visit\nformerly: [/a/, /Visit/]\n---\n")];
        assert_eq!(told(super::CHECK.code.name, &files), ["content/pages/visit.md:3"]);
        assert!(told(super::CHECK.code.name, &[]).is_empty());
    }
}
