//! A link or control is inside another one.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::parsed::Element;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "nested-control",
        severity: Severity::Warning,
        about: "a link or control is inside another one",
        explanation: "What can be clicked or typed in must not be inside a link, a button or another label: which of the two a click means, browsers and screen readers each decide for themselves. Put one beside the other.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for element in view.page.elements.iter().filter(|element| element.is_html() && is_control(element)) {
        let outer = view.page.around(element).find(|outer| match outer.name() {
            "a" => outer.attribute("href").is_some(),
            "button" => true,
            "label" => element.name() == "label",
            _ => false,
        });
        if let Some(outer) = outer {
            let message = format!("<{}> is inside <{}>, and both can be clicked", element.name(), outer.name());
            found.push(PageProblem::at(element.at, message, "put one beside the other"));
        }
    }
}

/// Whether it is interactive content (WHATWG HTML, 3.2.5.2.7).
fn is_control(element: &Element) -> bool {
    match element.name() {
        "a" => element.attribute("href").is_some(),
        "audio" | "video" => element.attribute("controls").is_some(),
        "img" => element.attribute("usemap").is_some(),
        "input" => !element.attribute("type").is_some_and(|of| of.eq_ignore_ascii_case("hidden")),
        "button" | "details" | "embed" | "iframe" | "label" | "select" | "textarea" => true,
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<a href=\"/\">\n<button>2</button></a>", 2);
        in_page(super::CHECK.code.name, "<button><em><select></select></em></button>", 1);
        in_page(super::CHECK.code.name, "<label>1 <label>2</label></label>", 1);
        quiet_page("<a><button>1</button></a><label>2 <input></label><button><input type=\"hidden\"></button>");
    }
}
