//! What is wrong with the site, and what to know.

use hausblatt_core::check::Finding;
use hausblatt_core::text::address::encoded;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::html::Markup;
use crate::put;
use crate::serve::live::Moment;
use crate::serve::problem_page;
use crate::serve::workbench::{PageRequest, WorkbenchPage};
use crate::show::table::counted;

/// So many findings are shown.
const MOST: usize = 100;

/// The page: all that `check` finds.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let checked = asked.server.checked.all(asked.server, asked.moment);
    let Some(found) = checked.as_ref().and_then(|found| found.get()) else {
        let main = Markup::raw(
            "<h1>Problems</h1>\n<div id=\"problems\"><p class=\"lead\" role=\"status\" data-again=\"problems\">All pages are being checked. \
             <a href=\"/~/problems\">Look again</a></p></div>\n",
        );
        return WorkbenchPage { title: "Problems", here: "/~/problems", main, wide: false };
    };
    let errors = found.iter().filter(|finding| finding.diagnostic.is_error()).count();
    let mut main = Markup::new();
    put!(main, "<h1>Problems</h1>\n<div id=\"problems\">\n");
    if found.is_empty() {
        put!(
            main,
            "<p class=\"lead\">None: every file is as it should be, and so is every page as browsers read it.</p>\n"
        );
    } else {
        let counts = [counted(errors, "error", "errors"), counted(found.len() - errors, "warning", "warnings")];
        put!(main, "<p class=\"lead\">{}.</p>\n", counts.join(", "));
    }
    let (first, second): (Vec<&Finding>, Vec<&Finding>) =
        found.iter().partition(|finding| finding.diagnostic.is_error());
    for finding in first.into_iter().chain(second).take(MOST) {
        put!(main, "{}", problem_page::list(&asked.moment.snapshot, &[&finding.diagnostic]));
        if !finding.also.is_empty() {
            let more = counted(finding.also.len(), "more place", "more places");
            put!(main, "<p class=\"seen faint\">also at {}; <code>hausblatt check -v</code> names them.</p>\n", more);
        }
        if let Some(address) = finding.addresses.first() {
            put!(main, "<p class=\"seen faint\">seen at <a href=\"{}\">{}</a>", encoded(address), *address);
            if finding.addresses.len() > 1 {
                put!(main, " and {}", counted(finding.addresses.len() - 1, "more address", "more addresses"));
            }
            put!(main, "</p>\n");
        }
    }
    if found.len() > MOST {
        put!(main, "<p>… and {} more; <code>hausblatt check -v</code> lists all.</p>\n", found.len() - MOST);
    }
    put!(main, "</div>\n");
    WorkbenchPage { title: "Problems", here: "/~/problems", main, wide: false }
}

/// The page for a site that can't be loaded at all.
pub fn without_world(moment: &Moment) -> WorkbenchPage<'static> {
    WorkbenchPage { title: "This site can't be loaded", here: "", main: main(moment), wide: false }
}

fn main(moment: &Moment) -> Markup {
    let problems: Vec<&Diagnostic> = moment.problems().collect();
    let mut main = Markup::new();
    put!(main, "<h1>This site can't be loaded</h1>\n{}", problem_page::list(&moment.snapshot, &problems));
    main
}
