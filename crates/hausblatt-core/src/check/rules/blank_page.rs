//! A page shows nothing.

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "blank-page",
        severity: Severity::Warning,
        about: "a page shows nothing",
        explanation: "Its <body>, or its <main>, holds no text and no image. Most often a template prints a field that this content leaves empty, or loops over a list without saying in +{none} what is printed when the list is empty.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let help = "see what it prints with: hausblatt values, and say in +{none} or +{else} what to print instead";
    for name in ["body", "main"] {
        let element = view.page.named(name).next();
        let Some(element) = element.filter(|_| !view.page.shows_anything(|element| element.name() == name)) else {
            continue;
        };
        let message = if name == "body" { "this page shows nothing" } else { "nothing is in this page's <main>" };
        found.push(PageProblem::at(Some(element.at.unwrap_or(0)), message, help));
        return;
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        let template = "<p>+{content.summary_of_nothing}</p>";
        let files = [("themes/t/templates/page.html", template)];
        assert_eq!(crate::check::tests::told(super::CHECK.code.name, &files), ["themes/t/layouts/document.html:6"]);
        in_page(super::CHECK.code.name, "<p>1</p>\n<main>\n<p><!-- 2 --></p></main>", 2);
        quiet_page("<main><img src=\"https://seeds.example/a.png\" alt=\"\"></main>");
    }
}
