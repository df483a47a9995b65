//! A page does not say its language.

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-language",
        severity: Severity::Warning,
        about: "a page does not say its language",
        explanation: "The lang attribute of <html> is missing or empty. Without it screen readers use the wrong voice, and hyphenation and spell checking the wrong rules. site.language holds it.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let html = view.page.named("html").next();
    let says = html.and_then(|html| html.attribute("lang")).is_some_and(|lang| !lang.trim().is_empty());
    if view.is_document() && !says {
        let at = html.and_then(|html| html.at).unwrap_or(0);
        found.push(PageProblem::at(
            Some(at),
            "this page does not say its language",
            "write <html lang=\"+{site.language}\">",
        ));
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        let layout = "<!doctype html>\n<html><head><title>+{request.title}</title></head>\n<body>+{slot}</body></html>";
        let files = [("themes/t/layouts/document.html", layout)];
        assert_eq!(crate::check::tests::told(super::CHECK.code.name, &files), ["themes/t/layouts/document.html:2"]);
        in_page("repeated-id", "<p id=\"a\">1</p><p id=\"a\">1</p>", 1);
        quiet_page("<p>1</p>");
    }
}
