//! An image, style or other file is not there.

use crate::check::links::LinkTarget;
use crate::check::rules::broken_link::is_file;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "missing-file",
        severity: Severity::Warning,
        about: "an image, a style or another file is not there",
        explanation: "The page requests a file of the site that does not exist. Assets are in assets/ of a theme of the lineage, and +{asset(\"…\")} is checked when the site is loaded; images of content are in media/.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for link in view.links.iter().filter(|link| is_file(&link.path)) {
        if matches!(link.target, LinkTarget::Missing) {
            let message = format!("there is no file \"{}\"", link.written);
            let lost = Some(link.path.clone());
            found.push(PageProblem { lost, ..PageProblem::at(link.at, message, "") });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<img src=\"/media/ben.png\" alt=\"\">", 2);
        in_page(super::CHECK.code.name, "<img alt=\"\" srcset=\"/media/b.png 2x, https://seeds.example/b.png 3x\">", 1);
        in_page(super::CHECK.code.name, "<script src=\"/assets/menu.js\"></script>", 1);
        quiet_page("<img src=\"data:image/gif;base64,R0lGODlhAQABAAAAACw=\" alt=\"\"><a href=\"/sitemap.xml\">1</a>");
    }
}
