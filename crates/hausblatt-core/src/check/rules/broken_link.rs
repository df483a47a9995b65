//! A link leads to no page of the site.

use crate::check::links::LinkTarget;
use crate::check::locate::nearest;
use crate::check::rules::broken_menu_item::is_of_menu;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use crate::model::request::Routed;
use crate::text::address::asked;
use crate::text::markdown_slips::scheme_slip;
use crate::world::World;
use hausblatt_lang::program::Mentioned;
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "broken-link",
        severity: Severity::Warning,
        about: "a link leads to no page of the site",
        explanation: "The address stays within the site, and nothing has it, or what has it answers with an error. Write links as references where you can: +{url(\"page:visit\")} in templates and page:visit in content are checked when the site is loaded and follow a page that moves.",
    },
    look: Look::Page(look),
};

/// The same of literal addresses that templates redirect to.
pub(crate) const IN_REDIRECTS: Check = Check { look: Look::Site(in_redirects), ..CHECK };

fn in_redirects(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for program in world.library.units.iter().filter_map(|unit| unit.program.as_ref()) {
        for mention in program.mentions.iter().filter(|mention| mention.what == Mentioned::Address) {
            let path = asked(&mention.text).path;
            let is_lost = || matches!(world.route_decoded(&path), Routed::Request(request) if request.status == 404);
            if mention.text.starts_with('/') && !is_file(&path) && is_lost() {
                let message = format!("broken redirect \"{}\": nothing has this address", mention.text);
                let help = nearest(world, "", &path);
                found.push(Diagnostic::of(&CHECK.code, message).help(help).at(&program.path, mention.span));
            }
        }
    }
    found
}

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for link in view.links.iter().filter(|link| !is_file(&link.path)) {
        match link.target {
            LinkTarget::Missing => {
                let message = format!("broken link \"{}\": nothing has this address", link.written);
                let lost = Some(link.path.clone());
                found.push(PageProblem { lost, ..PageProblem::at(link.at, message, "") });
            }
            // Anchors of an error page lead to itself.
            LinkTarget::Error(_) if asked(&link.path).path == view.request.address => {}
            LinkTarget::Error(status) => {
                let message =
                    format!("the link \"{}\" leads to an error: the page answers with {status}", link.written);
                let help = format!("see why: hausblatt resolve {}", link.path);
                // A menu's item is reported where the menu is written.
                let of_menu = is_of_menu(view.world, &link.path).then(|| link.written.to_owned());
                found.push(PageProblem { of_menu, ..PageProblem::at(link.at, message, help) });
            }
            LinkTarget::Page(_) | LinkTarget::File => {}
        }
    }
    for element in view.page.named("a") {
        if let Some((message, help)) = element.attribute("href").and_then(scheme_slip) {
            found.push(PageProblem::at(element.at, message, help));
        }
    }
}

/// Whether a path is one of a file rather than of a page.
pub fn is_file(path: &str) -> bool {
    let path = path.split('?').next().unwrap_or("");
    let last = path.rsplit('/').next().unwrap_or("");
    path.starts_with("/assets/")
        || path.starts_with("/media/")
        || last.rsplit_once('.').is_some_and(|(_, ending)| !ending.is_empty())
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<a href=\"/vsit/\">2</a>", 2);
        in_page(super::CHECK.code.name, "<a href=\"../nowhere?x#y\">2</a>", 1);
        in_page(super::CHECK.code.name, "<form action=\"/nowhere/\"><button>1</button></form>", 1);
        in_page(super::CHECK.code.name, "<a href=\"http:/seeds.example/\">2</a>", 1);
        in_page(super::CHECK.code.name, "<a href=\"htps://seeds.example/\">2</a>", 1);
        quiet_page("<a href=\"HTTPS://seeds.example/\">1</a> <a href=\"webcal://seeds.example/\">2</a>");
        in_page(super::CHECK.code.name, "<p>1</p>\n+{if false}+{redirect 302 \"/vsit/\"}+{end}", 2);
        quiet_page("<p>1</p>+{if false}+{redirect 302 \"/visit/\"}+{end}");
        quiet_page(
            "<a href=\"/\">1</a> <a href=\".\">2</a> <a href=\"?a\">3</a> <a href=\"mailto:a@seeds.example\">4</a> <a href=\"//seeds.example/x\">5</a> <a href=\"../visit/\">6</a>",
        );
    }
}
