//! A page has its main part twice.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "main-twice",
        severity: Severity::Warning,
        about: "a page has its main part twice",
        explanation: "A page has one <main>. A second one comes most often of a template that writes what its layout writes around it already.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let shown = view.page.named("main").filter(|main| main.attribute("hidden").is_none());
    for main in shown.skip(1) {
        let help = "leave it out where the layout writes it already";
        found.push(PageProblem::at(main.at, "a second <main> is in this page", help));
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<main>1</main>\n<main>2</main>\n<main>3</main>", 2);
        quiet_page("<main hidden>1</main>");
    }
}
