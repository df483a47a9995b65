//! A whole document is inside another.

use crate::check::parsed::{Element, Trouble};
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "document-twice",
        severity: Severity::Error,
        about: "a whole document is inside another",
        explanation: "A second doctype, <html>, <head>, <body> or <title> is in the page: a template that is a whole document has a layout around it, or a partial or a content file contains a document. Say layout: none in the template, or leave out all but what belongs in the page.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for stumble in view.page.stumbles.iter().filter(|stumble| stumble.trouble == Trouble::SecondDocument) {
        let message = format!("a second {} begins here, inside the page's document", stumble.what);
        let help = "say layout: none in the template's front matter, or leave out all but what belongs into the page";
        found.push(PageProblem::at(Some(stumble.at), message, help));
    }
    let in_head = |title: &&Element| view.page.elements[title.parent].name() == "head";
    for title in view.page.named("title").filter(in_head).skip(1) {
        let message = "a second <title> is in this page, and browsers show the first";
        found.push(PageProblem::at(title.at, message, "leave out one of the two"));
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<body class=\"b\"><p>2</p></body>", 2);
        in_page(super::CHECK.code.name, "<p>1</p>\n<!doctype html>", 2);
        quiet_page("<p>1</p><pre>&lt;html&gt;</pre>");
    }
}
