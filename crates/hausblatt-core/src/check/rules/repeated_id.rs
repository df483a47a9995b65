//! Two elements of a page have the same id.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;
use rustc_hash::FxHashSet;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "repeated-id",
        severity: Severity::Warning,
        about: "two elements of a page have the same id",
        explanation: "An id names one element of a page. Links to it lead to the first, labels and styles may mean the wrong one. A component or a partial that is on a page twice needs an id made of something that differs, after a literal prefix.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let mut known = FxHashSet::default();
    for element in &view.page.elements {
        let Some(id) = element.attribute("id").filter(|id| !id.is_empty()) else { continue };
        if !known.insert(id) {
            let help = "give one of them another id; in a loop, make it of something that differs";
            found.push(PageProblem::at(element.at, format!("the id \"{id}\" is on this page already"), help));
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p id=\"a\">1</p>\n<p id=\"b\">2</p>\n<p id=\"a\">3</p>", 3);
        quiet_page("<p id=\"a\">1</p><p id=\"A\">2</p>");
    }
}
