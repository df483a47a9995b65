//! A page has no title.

use crate::check::parsed::Element;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-title",
        severity: Severity::Warning,
        about: "a page has no title",
        explanation: "The <title> is missing or blank. It is what is shown on the tab, in bookmarks and in search results; request.title always holds something to print there.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let inside_svg = |element: &&Element| view.page.elements[element.parent].name() != "head";
    let title = view.page.named("title").find(|element| !inside_svg(element));
    if view.is_document() && title.is_none_or(|title| !title.has_text) {
        let at = title.and_then(|title| title.at).or_else(|| view.page.named("head").find_map(|head| head.at));
        let help = "write <title>+{request.title}</title> in the layout's <head>";
        found.push(PageProblem::at(Some(at.unwrap_or(0)), "this page has no title", help));
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        let layout = "<!doctype html>\n<html lang=\"en\"><head>\n<title>+{content.nothing_such}</title></head>\n<body>+{slot}</body></html>";
        let files = [("themes/t/layouts/document.html", layout)];
        assert_eq!(crate::check::tests::told(super::CHECK.code.name, &files), ["themes/t/layouts/document.html:3"]);
        in_page("repeated-id", "<p id=\"a\">1</p><p id=\"a\">1</p>", 1);
        quiet_page("<svg><title></title></svg>");
    }
}
