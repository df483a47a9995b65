//! An end tag closes nothing.

use crate::check::parsed::Trouble;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "stray-end",
        severity: Severity::Warning,
        about: "an end tag closes nothing",
        explanation: "Its element is not open here: it was closed before, often by the parser, since a <p> ends where a <div>, a list or a table begins. An element that one file opens and another closes needs both files on every page.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    view.troubles(Trouble::StrayEnd, found, |what| {
        let help = if what == "</p>" {
            "a <p> ends by itself where a block such as <div>, <ul> or <table> begins: put that after it"
        } else {
            "take it away, or look for the start tag that is missing"
        };
        (format!("{what} closes nothing here"), help)
    });
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1\n<div>2</div>\n</p>", 3);
        in_page(super::CHECK.code.name, "<div>1</div>\n</section>", 2);
        quiet_page("<div><p>1</div><svg><path d=\"M0\"/></svg>");
    }
}
