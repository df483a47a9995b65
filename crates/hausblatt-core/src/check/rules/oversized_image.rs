//! An image is sent far larger than it is shown.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::parsed::Element;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look, images};
use crate::text::addresses_in_text::addresses_of_set;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "oversized-image",
        severity: Severity::Warning,
        about: "an image is sent far larger than it is shown",
        explanation: "Its file has more than three times as many pixels a line as the page gives it, by its width attribute or its sizes: no screen shows the others, and phones load them all the same. .scaled(640) makes it smaller, .srcset([320, 640]) lets browsers choose.",
    },
    look: Look::Page(look),
};

/// How many pixels of a file there may be for each that is shown; screens have up to three.
const MOST: u32 = 3;
/// Images with fewer pixels than this are small all the same.
const SMALL: u64 = 200_000;

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for element in view.page.named("img") {
        let Some((sent, shown)) = widths(view, element) else { continue };
        if sent > shown.saturating_mul(MOST) {
            let message = format!("this image is shown {shown} pixels wide and is more than three times as wide");
            let help = format!("make it smaller: .scaled({})", shown * 2);
            found.push(PageProblem::at(element.at, message, help));
        }
    }
}

/// How wide the narrowest file is that a browser may take for an image, and how wide it is shown at most, if both are known.
fn widths(view: &View<'_>, element: &Element) -> Option<(u32, u32)> {
    let written = |name: &str| element.attribute(name)?.trim().parse::<u32>().ok().filter(|width| *width > 0);
    let set = element.attribute("srcset").unwrap_or("");
    let addresses: Vec<&str> = match addresses_of_set(set).into_iter().map(|range| &set[range]).collect::<Vec<_>>() {
        candidates if !candidates.is_empty() => candidates,
        _ => vec![element.attribute("src")?],
    };
    let size = |address: &&str| images::pixels(view, address);
    let narrowest = addresses.iter().map(size).collect::<Option<Vec<_>>>()?.into_iter().min()?;
    let shown = match element.attribute("sizes").filter(|_| !set.is_empty()) {
        Some(sizes) => widest(sizes)?,
        None => written("width")?,
    };
    let (width, height) = narrowest;
    (u64::from(width) * u64::from(height) >= SMALL).then_some((width, shown))
}

/// The largest width in pixels that `sizes` says; none where it says any in another unit.
fn widest(sizes: &str) -> Option<u32> {
    let of_one = |size: &str| {
        let length = size.trim().rsplit([' ', ')']).next()?;
        Some(length.strip_suffix("px")?.parse::<f32>().ok()?.ceil() as u32)
    };
    sizes.split(',').map(of_one).collect::<Option<Vec<u32>>>()?.into_iter().max().filter(|width| *width > 0)
}

#[cfg(test)]
mod tests {
    use super::widest;
    use crate::check::tests::told;

    #[test]
    fn finds_what_no_screen_shows() {
        let at = |image: &str| {
            let page = format!("---\nlayout: none\n---\n<!doctype html>\n<img {image} alt=\"\">");
            let gif = "GIF89a@\u{1f}@\u{1f}\0\0\0;";
            told(super::CHECK.code.name, &[("themes/t/templates/page.html", page.as_str()), ("media/bed.gif", gif)])
        };
        let page = ["themes/t/templates/page.html:5"];
        assert_eq!(at("src=\"/media/bed.gif\" width=\"320\" height=\"320\""), page);
        assert_eq!(
            at("src=\"/media/bed.gif\" srcset=\"/media/bed.gif 8000w\" sizes=\"(max-width: 9em) 9px, 640px\""),
            page
        );
        assert!(at("src=\"/media/bed.gif\" width=\"2700\" height=\"2700\"").is_empty());
        assert!(at("src=\"/media/bed.gif\" srcset=\"/media/bed.gif 8000w\" sizes=\"100vw\"").is_empty());
        assert!(at("src=\"/media/bed.gif\"").is_empty());
    }

    #[test]
    fn reads_sizes_in_pixels() {
        assert_eq!(widest("(max-width: 600px) 300px, 640.5px"), Some(641));
        assert_eq!(widest("(max-width: 600px) 100vw, 640px"), None);
        assert_eq!(widest(""), None);
    }
}
