//! Content names an image without saying what it shows, and a template prints it with that.

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "image-without-alt",
        severity: Severity::Warning,
        about: "content names an image without saying what it shows",
        explanation: "A template prints the image with the alt that content gives, and there is none, so it is silent for those who can't see it. Write image: { file: media/bean.jpg, alt: \"A bean in flower\" }; alt: \"\" says that it is decoration.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for element in view.page.named("img").filter(|image| image.attribute("alt").is_none_or(str::is_empty)) {
        let Some(src) = element.attribute("src") else { continue };
        let site = view.world.site.config.address.as_str();
        let address = src.strip_prefix(site).filter(|rest| rest.starts_with('/')).unwrap_or(src);
        // An <img> without the attribute is an error of the template, which another check reports.
        if element.attribute("alt").is_some() {
            // Of many files that name it so, the others are added once for all pages.
            if let Some(place) = view.world.images_without_alt().get(address).and_then(|places| places.first()) {
                let message = "this image is shown without an alt";
                let help = "say what it shows: { file: …, alt: \"…\" }; alt: \"\" if it only decorates";
                found.push(PageProblem { place: Some(place.clone()), ..PageProblem::at(element.at, message, help) });
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::all_told;

    #[test]
    fn finds_each_file_that_names_the_image() {
        let page = "---\nimage: /media/bean.svg\n---\n";
        let said = all_told(&[
            (
                "themes/t/templates/page.html",
                "<img src=\"+{content.image}\" alt=\"+{content.image.alt}\" width=\"1\" height=\"1\">",
            ),
            ("themes/t/templates/front.html", ""),
            ("media/bean.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>"),
            ("content/pages/home.md", page),
            ("content/pages/visit.md", page),
        ]);
        let own: Vec<&String> = said.iter().filter(|line| line.contains("image-without-alt")).collect();
        assert_eq!(own, ["content/pages/home.md image-without-alt: this image is shown without an alt (2 places)"]);
    }
}
