//! An element is not closed.

use crate::check::parsed::Trouble;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "unclosed-element",
        severity: Severity::Warning,
        about: "an element is not closed",
        explanation: "Nothing closes this element, so all that follows is within it, and styles run on. An element that one file opens and another closes needs both files on every page.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    view.troubles(Trouble::Unclosed, found, |what| {
        (format!("this {what} is not closed where it should be"), "write its end tag")
    });
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<section>\n<div>1\n</section>", 2);
        in_page(super::CHECK.code.name, "<p>1</p>\n<div>2", 2);
        quiet_page("<section><div>1</div></section><ul><li>1</ul>");
    }
}
