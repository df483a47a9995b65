//! Browsers don't know how wide an image is shown that they choose by width.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use crate::text::addresses_in_text::addresses_of_set;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "no-sizes",
        severity: Severity::Warning,
        about: "images are offered by width, and no sizes says how wide they are shown",
        explanation: "A browser chooses among the images of a srcset before it knows the style, so it takes one as wide as the window. Write how wide it is shown, as in sizes=\"(max-width: 44rem) 100vw, 42rem\"; imagesizes beside imagesrcset.",
    },
    look: Look::Page(look),
};

/// Elements that offer images, with the attributes for them and for their sizes.
const OFFERS: [(&str, &str, &str); 3] =
    [("img", "srcset", "sizes"), ("source", "srcset", "sizes"), ("link", "imagesrcset", "imagesizes")];

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for (name, set, sizes) in OFFERS {
        for element in view.page.named(name) {
            let is_said = element.attribute(sizes).is_some_and(|sizes| !sizes.trim().is_empty());
            if !is_said && element.attribute(set).is_some_and(has_widths) {
                let message = format!("this {set} offers images by width, and no {sizes} says how wide they are shown");
                let help = format!("write it, as in {sizes}=\"(max-width: 44rem) 100vw, 42rem\"");
                found.push(PageProblem::at(element.at, message, help));
            }
        }
    }
}

/// Whether a `srcset` gives widths, and not only densities.
fn has_widths(set: &str) -> bool {
    addresses_of_set(set).into_iter().any(|range| {
        let behind = set[range.end..].split(',').next().unwrap_or("").trim();
        behind.strip_suffix('w').is_some_and(|width| width.parse::<u32>().is_ok())
    })
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        let code = super::CHECK.code.name;
        in_page(
            code,
            "<p>Beans</p>\n<img src=\"https://seeds.example/a.png\" srcset=\"https://seeds.example/a.png 4w\" alt=\"\">",
            2,
        );
        in_page(
            code,
            "<picture><source srcset=\"https://seeds.example/a,b 1x, https://seeds.example/c 9w\" sizes=\"\"><img src=\"https://seeds.example/a.png\" alt=\"\"></picture>",
            1,
        );
        quiet_page(
            "<img src=\"https://seeds.example/a.png\" srcset=\"https://seeds.example/a.png 2x\" alt=\"\"><img src=\"https://seeds.example/a.png\" srcset=\"https://seeds.example/a.png 4w\" sizes=\"9vw\" alt=\"\">",
        );
    }
}
