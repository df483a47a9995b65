//! What is wrong with the site, and what to know.

use hausblatt_lang::diagnostic::Diagnostic;

use crate::put;
use crate::serve::faults;
use crate::serve::live::Moment;
use crate::serve::markup::Markup;
use crate::serve::workbench::{Asked, Part};
use crate::show::table::counted;

/// The page.
pub fn part(asked: &Asked<'_>) -> Part<'static> {
    Part { title: "Problems", here: "/~/problems", main: main(asked.moment), wide: false }
}

/// The page for a site that can't be loaded at all.
pub fn without_world(moment: &Moment) -> Part<'static> {
    Part { title: "This site can't be loaded", here: "", main: main(moment), wide: false }
}

fn main(moment: &Moment) -> Markup {
    let (errors, warnings): (Vec<&Diagnostic>, Vec<&Diagnostic>) =
        moment.problems().iter().partition(|problem| problem.is_error());
    let mut main = Markup::new();
    match &moment.world {
        Ok(_) => put!(main, "<h1>Problems</h1>\n"),
        Err(_) => put!(main, "<h1>This site can't be loaded</h1>\n"),
    }
    if errors.is_empty() && warnings.is_empty() {
        put!(main, "<p class=\"lead\">None: every file of the site and its themes is as it should be.</p>\n");
        return main;
    }
    let counts = [counted(errors.len(), "error", "errors"), counted(warnings.len(), "warning", "warnings")];
    put!(main, "<p class=\"lead\">{}.</p>\n", counts.join(", "));
    put!(main, "{}", faults::list(&moment.snapshot, &errors));
    put!(main, "{}", faults::list(&moment.snapshot, &warnings));
    main
}
