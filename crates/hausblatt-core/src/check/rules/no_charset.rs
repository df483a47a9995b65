//! A page does not say how its characters are written.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-charset",
        severity: Severity::Warning,
        about: "a page does not say how its characters are written",
        explanation: "Pages are written in UTF-8. Where neither the page nor its web server says so, browsers guess, and ü becomes Ã¼.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let says = view.page.named("meta").any(|meta| {
        let of_type =
            meta.attribute("content").is_some_and(|content| content.to_ascii_lowercase().contains("charset="));
        meta.attribute("charset").is_some() || meta.attribute("http-equiv").is_some() && of_type
    });
    if view.is_document() && !says && !view.text.is_ascii() {
        let at = view.page.named("head").find_map(|head| head.at).unwrap_or(0);
        let help = "write <meta charset=\"utf-8\"> first in the layout's <head>";
        found.push(PageProblem::at(Some(at), "this page does not say how its characters are written", help));
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{quiet_page, told};

    #[test]
    fn finds_it_at_its_line() {
        let layout =
            "<!doctype html>\n<html lang=\"en\">\n<head><title>Kürbis</title></head>\n<body>+{slot}</body></html>";
        let files = [("themes/t/layouts/document.html", layout)];
        assert_eq!(told(super::CHECK.code.name, &files), ["themes/t/layouts/document.html:3"]);
        quiet_page("<p>1</p>");
    }
}
