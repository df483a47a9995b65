//! An image says nothing to those who can't see it.

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-alt",
        severity: Severity::Warning,
        about: "an image says nothing to those who can't see it",
        explanation: "An <img> has no alt attribute. Say in it what the image shows, or write alt=\"\" where it is decoration.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for element in view.page.named("img").chain(view.page.named("area")) {
        let shown = element.name() == "img" || element.attribute("href").is_some();
        if shown && element.attribute("alt").is_none() {
            let message = format!("this <{}> has no alt", element.name());
            found.push(PageProblem::at(
                element.at,
                message,
                "say what it shows, or write alt=\"\" if it only decorates",
            ));
        }
    }
    for element in view.page.named("input").filter(|input| input.attribute("type") == Some("image")) {
        if element.attribute("alt").is_none_or(|alt| alt.trim().is_empty()) {
            let message = "this image is a button and has no alt";
            found.push(PageProblem::at(element.at, message, "say what the button does"));
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>Beans</p>\n<img src=\"https://seeds.example/bean.png\">", 2);
        in_page(super::CHECK.code.name, "<map name=m><area href=\"/\"></map>", 1);
        in_page(super::CHECK.code.name, "<form><input type=\"image\" src=\"https://seeds.example/go.png\"></form>", 1);
        quiet_page("<img src=\"https://seeds.example/bean.png\" alt=\"\"><map name=m><area></map>");
    }
}
