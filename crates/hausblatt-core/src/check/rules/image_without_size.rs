//! Browsers don't know how much room an image takes before it is there.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look, images, tag_at};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "image-without-size",
        severity: Severity::Warning,
        about: "an image has no width and height",
        explanation: "What comes after the image moves when it has arrived. Its size in pixels is enough, whatever the style makes of it: width=\"+{photo.width}\" height=\"+{photo.height}\". Images in Markdown are not reported; they get theirs with images under [content] in hausblatt.toml.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let mut body: Option<String> = None;
    for element in view.page.named("img") {
        let has = |name: &str| element.attribute(name).is_some_and(|value| !value.trim().is_empty());
        let is_said = (has("width") && has("height"))
            || element
                .attribute("style")
                .is_some_and(|style| style.contains("width") || style.contains("aspect-ratio"));
        if is_said || images::size(view, element.attribute("src").unwrap_or("")).is_none() {
            continue;
        }
        // What content writes is looked for first: most images are there.
        let tag = element.at.map_or("", |at| tag_at(view.text, at));
        let content = view.request.content(&view.world.site);
        let body = body.get_or_insert_with(|| content.map(|id| view.world.site.body(id)).unwrap_or_default());
        if tag.is_empty() || !body.contains(tag) {
            let help = "write width=\"+{photo.width}\" height=\"+{photo.height}\" into the tag";
            let problem = PageProblem::at(element.at, "this image has no width and height", help);
            found.push(PageProblem { of_template: true, ..problem });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_once_for_all() {
        let at = |page: &str| {
            let svg = "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 4 3\"/>";
            let page = format!("---\nlayout: none\n---\n<!doctype html>\n{page}");
            told(
                super::CHECK.code.name,
                &[
                    ("themes/t/templates/page.html", page.as_str()),
                    ("media/bed.svg", svg),
                    ("content/pages/home.md", "![a](/media/bed.svg)"),
                ],
            )
        };
        let page = ["themes/t/templates/page.html:5"];
        assert_eq!(at("<img src=\"/media/bed.svg\" alt=\"\">\n<img src=\"/media/bed.svg\" alt=\"\">"), page);
        assert_eq!(at("<img src=\"/media/bed.svg\" width=\"4\" alt=\"\">"), page);
        assert!(at("<img src=\"/media/bed.svg\" width=\"4\" height=\"3\" alt=\"\">").is_empty());
        assert!(at("<img src=\"/media/bed.svg\" style=\"aspect-ratio: 4/3\" alt=\"\">").is_empty());
        assert!(at("+{content.body}").is_empty());
        assert!(at("<img src=\"https://elsewhere.example/bed.svg\" alt=\"\">").is_empty());
    }
}
