//! Two things that a build would published in one file.

use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::analysis::reach::Survey;
use crate::build::meeting;
use crate::check::{Check, Look};
use crate::world::World;

/// The check.
pub const CHECK: Check = Check {
    code: "same-output",
    about: "two addresses would be published in one file",
    explanation: "A built site is a folder, and the two would be one file in it; names that differ by case alone are one on many systems. Of the two, a file of the site is published before a page, and a page before a redirect; the other is left out until one of them has another address.",
    look: Look::Site(look),
};

fn look(world: &World, _: &Survey) -> Vec<Diagnostic> {
    meeting(world)
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_at_its_line() {
        let files = [("content/pages/visit.md", "---\ntitle: Visit\nformerly: [/a/, /Visit/]\n---\n")];
        assert_eq!(told(super::CHECK.code, &files), ["content/pages/visit.md:3"]);
        assert!(told(super::CHECK.code, &[]).is_empty());
    }
}
