//! An item of a list is in no list.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::parsed::Element;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "stray-item",
        severity: Severity::Warning,
        about: "an item of a list, or the like, is outside of what it belongs to",
        explanation: "An <li> belongs directly in <ul>, <ol> or <menu>, <dt> and <dd> in <dl> or in a <div> of one. Elsewhere they are no list for those who hear the page, and browsers style them as they please. So do <option>, <legend>, <figcaption>, <summary> and <source> belong to an element around them.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for element in view.page.elements.iter().filter(|element| element.is_html()) {
        let (lists, where_to): (&[&str], _) = match element.name() {
            "li" => (&["ul", "ol", "menu", "dir"], "put it directly in a <ul> or an <ol>"),
            "dt" | "dd" => (&["dl"], "put it in a <dl>"),
            "option" => (&["select", "datalist", "optgroup"], "put it in a <select> or a <datalist>"),
            "legend" => (&["fieldset", "optgroup"], "put it first in a <fieldset>"),
            "figcaption" => (&["figure"], "put it in a <figure>"),
            "summary" => (&["details"], "put it first in a <details>"),
            "source" => (&["picture", "video", "audio"], "put it in a <picture>, a <video> or an <audio>"),
            _ => continue,
        };
        let mut around = view.page.around(element).skip_while(|outer| lists == ["dl"] && outer.name() == "div");
        // What a script takes, or puts elsewhere, may lack its list.
        let fits = |outer: &Element| {
            let is_own = outer.name() == "template" || outer.name().contains('-');
            lists.contains(&outer.name()) || is_own || (outer.name() == "body" && !view.is_document())
        };
        if !around.next().is_some_and(fits) {
            let message = match element.name() {
                name @ ("li" | "dt" | "dd") => format!("this <{name}> is in no list"),
                name => format!("this <{name}> is not where it belongs"),
            };
            found.push(PageProblem::at(element.at, message, where_to));
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<li>2</li>", 2);
        in_page(super::CHECK.code.name, "<ul>\n<div><li>2</li></div></ul>", 2);
        in_page(super::CHECK.code.name, "<div><dt>2</dt></div>", 1);
        in_page(super::CHECK.code.name, "<p><option>2</option></p>", 1);
        in_page(super::CHECK.code.name, "<div><figcaption>2</figcaption></div>", 1);
        quiet_page(
            "<ul><li>1<ol><li>2</ol></ul><dl><div><dt>1</dt><dd>2</dd></div></dl><template><li>3</li></template>",
        );
    }
}
