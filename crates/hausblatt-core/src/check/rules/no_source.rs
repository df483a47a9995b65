//! An image names no image.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-source",
        severity: Severity::Warning,
        about: "an image names no image",
        explanation: "An <img> has neither src nor srcset, or only an empty one: browsers show nothing, or a broken image.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for image in view.page.named("img").filter(|image| image.is_html()) {
        let names = |name: &str| image.attribute(name).is_some_and(|value| !value.trim().is_empty());
        // An empty value has a report of its own where a template printed it.
        let is_empty = image.attribute("src").is_some();
        // What scripts fill later keeps its address in an attribute of theirs.
        let is_later = image.attributes.iter().any(|attribute| attribute.name.local.starts_with("data-"));
        if !names("src") && !names("srcset") && !is_empty && !is_later {
            let help = "write its address into src, or print the element only where there is an image";
            found.push(PageProblem::at(image.at, "this <img> names no image", help));
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<img alt=\"\">", 2);
        quiet_page("<img alt=\"\" srcset=\"https://seeds.example/b.png 2x\"><img alt=\"\" data-src=\"/a.png\">");
    }
}
