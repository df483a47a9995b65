//! An attribute names an element that is not there.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;
use hausblatt_lang::text::suggest::did_you_mean;
use rustc_hash::FxHashSet;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "missing-id",
        severity: Severity::Warning,
        about: "an attribute names an element that is not on the page",
        explanation: "Attributes such as aria-labelledby, list and popovertarget name other elements by their id. Where none has it, the attribute does nothing: a field without suggestions, a name that is never read out.",
    },
    look: Look::Page(look),
};

/// Whether an attribute names elements; some name several.
fn is_naming(name: &str) -> bool {
    matches!(
        name,
        "aria-labelledby"
            | "aria-describedby"
            | "aria-details"
            | "aria-errormessage"
            | "form"
            | "headers"
            | "list"
            | "popovertarget"
    )
}

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    // A part of a page may be put beside the rest later.
    if !view.is_document() {
        return;
    }
    let elements = view.page.elements.iter().filter(|element| element.is_html());
    let mut ids: Option<FxHashSet<&str>> = None;
    for element in elements {
        let naming = element.attributes.iter().filter(|attribute| is_naming(&attribute.name.local));
        for attribute in naming {
            let ids = ids.get_or_insert_with(|| {
                view.page.elements.iter().filter_map(|element| element.attribute("id")).collect()
            });
            for id in attribute.value.split_ascii_whitespace().filter(|id| !ids.contains(id)) {
                let help = did_you_mean(id, ids.iter().copied());
                let help = help.unwrap_or_else(|| format!("give the element that is meant the id: id=\"{id}\""));
                let message = format!("nothing has the id \"{id}\" that {} names", attribute.name.local);
                found.push(PageProblem::at(element.at, message, help));
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<p aria-labelledby=\"a\">1</p>", 2);
        in_page(super::CHECK.code.name, "<input aria-label=\"1\" list=\"bens\"><datalist id=\"beans\"></datalist>", 1);
        quiet_page("<p id=\"a\" aria-describedby=\"a b\">1</p><p id=\"b\">2</p><button aria-controls=\"c\">3</button>");
    }
}
