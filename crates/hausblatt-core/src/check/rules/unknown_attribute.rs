//! An attribute of a page is one letter away from an attribute of HTML.

use hausblatt_lang::html::names::{ATTRIBUTES, is_attribute};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;
use hausblatt_lang::text::suggest::did_you_mean;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "unknown-attribute",
        severity: Severity::Warning,
        about: "an attribute of HTML is misspelt",
        explanation: "Browsers pass over an attribute that they don't know: a class that does not count, a link that leads nowhere, and no error. Attributes of one's own begin with data-.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let elements = view.page.elements.iter().filter(|element| element.is_html() && element.at.is_some());
    for element in elements.filter(|element| !element.name().contains('-')) {
        for attribute in &element.attributes {
            let name = &*attribute.name.local;
            // Scripts and libraries have attributes of their own, with signs in them.
            let is_own = |name: &str| !name.starts_with("aria-") && name.contains(|c: char| !c.is_ascii_alphabetic());
            if is_attribute(name) || is_own(name) || name.len() < 3 {
                continue;
            }
            if let Some(help) = did_you_mean(name, ATTRIBUTES.iter().copied()) {
                let message = format!("unknown attribute \"{name}\" of <{}>", element.name());
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
        in_page(super::CHECK.code.name, "<p>1</p>\n<p calss=\"a\">2</p>", 2);
        in_page(super::CHECK.code.name, "<a herf=\"/visit/\">2</a>", 1);
        in_page(super::CHECK.code.name, "<p aria-lable=\"a\">2</p>", 1);
        quiet_page("<p data-clas=\"a\" @clik=\"b\" x-titel=\"c\" ONCLICK=\"d()\">1</p><own-bed titel=\"1\"></own-bed>");
    }
}
