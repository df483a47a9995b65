//! A label is for a field that is not there.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;
use hausblatt_lang::text::suggest::did_you_mean;
use rustc_hash::FxHashSet;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "label-without-field",
        severity: Severity::Warning,
        about: "a label is for a field that is not on the page",
        explanation: "The for of a label names the id of its field. Where no element has that id, a click on the label does nothing, and the field has no name for those who don't see the page.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    // A part of a page may be put beside its fields later.
    if !view.is_document() || view.page.named("label").next().is_none() {
        return;
    }
    let ids: FxHashSet<&str> = view.page.elements.iter().filter_map(|element| element.attribute("id")).collect();
    for label in view.page.named("label") {
        let Some(id) = label.attribute("for").filter(|id| !ids.contains(id)) else { continue };
        let help = did_you_mean(id, ids.iter().copied());
        let help = help.unwrap_or_else(|| format!("give its field the id: id=\"{id}\""));
        found.push(PageProblem::at(label.at, format!("no field has the id \"{id}\" that this label is for"), help));
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<label for=\"q\">2</label><input id=\"w\">", 2);
        quiet_page("<label for=\"q\">2</label><input id=\"q\"><label>3 <input></label>");
    }
}
