//! Browsers put an element elsewhere than it is written.

use crate::check::parsed::Trouble;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "moved-element",
        severity: Severity::Warning,
        about: "browsers put an element elsewhere than it is written",
        explanation: "What is here can't be here by the rules of HTML: a <div> among the rows of a table, a link within a link, a heading in a heading. Browsers move it, drop it, or close what is around it, and the page looks different from its template.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    view.troubles(Trouble::Moved, found, |what| {
        let help = "write it where HTML allows it, or close what is open before it";
        (format!("{what} can't be here; browsers move or drop it"), help)
    });
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<table>\n<div>Beans</div>\n<tr><td>1</td></tr></table>", 2);
        in_page(super::CHECK.code.name, "<table>\n<tr><td>1</td></tr>Beans</table>", 2);
        in_page(super::CHECK.code.name, "<p><a href=\"/\">1\n<a href=\"/\">2</a></p>", 2);
        in_page(super::CHECK.code.name, "<p>1\n<td>2</td></p>", 2);
        quiet_page("<table><tr><td><div>1</div></td></tr></table><ul><li>1<li>2</ul><p>a<p>b");
    }
}
