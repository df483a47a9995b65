//! A page is not a whole document.

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-document",
        severity: Severity::Warning,
        about: "a page is not a whole document",
        explanation: "A page without a layout must bring a document of its own: <!doctype html>, <html lang>, a title. Without a doctype browsers use outdated rules. For a part that a script fetches this is intended: except this code for its template.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    if view.page.has_doctype {
        return;
    }
    let (message, help) = if view.page.has_html {
        ("this document does not begin with <!doctype html>", "write <!doctype html> in the first line")
    } else {
        (
            "this page is not a document, and there is no layout around it",
            "leave out layout: none, or write a whole document",
        )
    };
    found.push(PageProblem::at(Some(0), message, help));
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it() {
        let files = [("themes/t/templates/page.html", "---\nlayout: none\n---\n<p>+{content.title}</p>\n")];
        assert_eq!(crate::check::tests::told(super::CHECK.code.name, &files), ["themes/t/templates/page.html:4"]);
        let files = [(
            "themes/t/templates/page.html",
            "---\nlayout: none\n---\n<html lang=\"en\"><head><title>a</title></head><body><p>1</p></body></html>\n",
        )];
        assert_eq!(crate::check::tests::told(super::CHECK.code.name, &files), ["themes/t/templates/page.html:4"]);
        in_page("repeated-id", "<p id=\"a\">1</p><p id=\"a\">1</p>", 1);
        quiet_page("<p>1</p>");
    }
}
