//! An attribute is written twice in one tag.

use crate::check::parsed::Trouble;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "attribute-twice",
        severity: Severity::Warning,
        about: "an attribute is written twice in one tag",
        explanation: "Browsers keep the first and silently drop the second. It happens where a template and what it prints both have a class.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    view.troubles(Trouble::AttributeTwice, found, |what| {
        (format!("an attribute is twice in this {what}; browsers drop the second"), "join the two into one")
    });
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<p class=\"a\" id=\"x\" class=\"b\">2</p>", 2);
        quiet_page("<p class=\"a b\" title='<p class=\"x\" class=\"y\">'>2</p>");
    }
}
