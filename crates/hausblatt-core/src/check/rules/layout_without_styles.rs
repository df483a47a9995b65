//! A document that links none of the styles that its pages ask for.

use hausblatt_lang::program::{Act, Program};
use hausblatt_lang::syntax::tree::AssetKind;
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};

use crate::check::layouts::documents;
use crate::check::{Check, Look};
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "layout-without-styles",
        severity: Severity::Warning,
        about: "a document does not link the styles that its pages use",
        explanation: "Partials and components request styles with +{use \"gallery.css\"}, or have a style.css. They are linked where the document prints +{used \"styles\"}, once per page; without it they are never loaded.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    let links = |program: &&Program| program.ops.iter().any(|op| matches!(op.act, Act::Used(AssetKind::Styles)));
    let without = documents(world).into_iter().filter(|(_, programs)| !programs.iter().any(links));
    without
        .map(|(id, _)| {
            let span = world.program(id).and_then(|program| program.document).unwrap_or_default();
            let message = "this document does not print used \"styles\"";
            let help = "write +{used \"styles\"} at the end of its <head>";
            Diagnostic::of(&CHECK.code, message).help(help).at(&world.lineage.file(id).node.path, span)
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{LAYOUT, told};

    #[test]
    fn finds_it() {
        let without = LAYOUT.replace("+{used \"styles\"}", "");
        let found = told(super::CHECK.code.name, &[("themes/t/layouts/document.html", &without)]);
        assert_eq!(found, ["themes/t/layouts/document.html:2"]);
        assert!(told(super::CHECK.code.name, &[("themes/t/layouts/document.html", LAYOUT)]).is_empty());
    }
}
