//! A heading, a link or a button has no text.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::parsed::Element;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-text",
        severity: Severity::Warning,
        about: "a heading, a link or a button has no text",
        explanation: "It shows nothing, or says nothing to those who can't see it. What is inside an image counts as its alt; aria-label gives a name that is not shown. Where the text is a value that may be nothing, print the element only if there is one.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let elements = &view.page.elements;
    let mut named: Vec<bool> = elements.iter().map(names_itself).collect();
    // Children come after their parents.
    for at in (1..elements.len()).rev() {
        if named[at] {
            named[elements[at].parent] = true;
        }
    }
    for (at, element) in elements.iter().enumerate().filter(|(at, _)| !named[*at]) {
        let what = match element.name() {
            "h1" | "h2" | "h3" | "h4" | "h5" | "h6" => "heading",
            "a" if element.attribute("href").is_some() => "link",
            "button" | "summary" => "button",
            _ => continue,
        };
        let is_hidden = |element: &Element| {
            element.attribute("hidden").is_some() || element.attribute("aria-hidden") == Some("true")
        };
        let above = std::iter::successors(Some(at), |&at| (at > 0).then(|| elements[at].parent));
        if element.is_html() && !above.into_iter().any(|at| is_hidden(&elements[at])) {
            let help = "write its text, or say in aria-label what it is; print it only where there is a text";
            found.push(PageProblem::at(element.at, format!("this {what} has no text"), help));
        }
    }
}

/// Whether an element has a text, or a name in its place.
fn names_itself(element: &Element) -> bool {
    let says = |name: &str| element.attribute(name).is_some_and(|value| !value.trim().is_empty());
    let is_shown = || !matches!(element.name(), "script" | "style" | "template");
    let holds =
        || matches!(element.name(), "input" | "select" | "textarea" | "video" | "audio" | "iframe" | "object" | "slot");
    if element.has_text || element.attributes.is_empty() {
        return element.has_text && is_shown() || holds();
    }
    holds() || says("aria-label") || says("aria-labelledby") || says("title") || says("alt")
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<h2> <span></span></h2>", 2);
        in_page(
            super::CHECK.code.name,
            "<a href=\"/visit/\"><img src=\"https://seeds.example/b.png\" alt=\"\"></a>",
            1,
        );
        in_page(super::CHECK.code.name, "<button><svg><path d=\"M0 0\"/></svg></button>", 1);
        quiet_page(
            "<h2><em>1</em></h2><a href=\"/\"><img src=\"https://seeds.example/b.png\" alt=\"2\"></a><a id=\"a\"></a><a href=\"/\" aria-label=\"3\"></a><button><svg><title>4</title></svg></button><div hidden><h2></h2></div>",
        );
    }
}
