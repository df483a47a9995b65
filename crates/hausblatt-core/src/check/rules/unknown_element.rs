//! An element of a page is one letter away from an element of HTML.

use hausblatt_lang::html::names::{ELEMENTS, is_element};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;
use hausblatt_lang::text::suggest::did_you_mean;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "unknown-element",
        severity: Severity::Warning,
        about: "an element of HTML is misspelt",
        explanation: "Browsers read an element that they don't know as one without any meaning: no style, no role, and no error. Elements of one's own have a hyphen in their name.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for element in view.page.elements.iter().skip(1).filter(|element| element.is_html() && element.at.is_some()) {
        let name = element.name();
        if is_element(name) || name.contains('-') {
            continue;
        }
        if let Some(help) = did_you_mean(name, ELEMENTS.iter().copied()) {
            found.push(PageProblem::at(element.at, format!("unknown element <{name}>"), help));
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<secton>2</secton>", 2);
        in_page(super::CHECK.code.name, "<sapn>2</sapn>", 1);
        quiet_page("<seed-list>1</seed-list><svg><raduct/></svg><zzzzzz>2</zzzzzz><search>3</search>");
    }
}
