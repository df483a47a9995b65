//! A link lacks the slash at its end and is redirected.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};

use crate::check::links::{Leading, LinkTarget};
use crate::check::rules::broken_link::is_file;
use crate::check::rules::broken_menu_item::{is_of_menu, items};
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use crate::model::request::Routed;
use crate::text::address::asked;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "missing-slash",
        severity: Severity::Warning,
        about: "a link lacks the slash at the address's end",
        explanation: "The address without its last slash is redirected, so the link works, at the price of a second request for each visitor. Some hosts of files answer it with an error. Write links as references where you can: +{url(\"page:visit\")}.",
    },
    look: Look::Page(look),
};

/// The same for menus that are written in `hausblatt.toml`.
pub(crate) const IN_MENUS: Check = Check { code: CHECK.code, look: Look::Site(menus) };

fn menus(world: &World) -> Vec<Diagnostic> {
    let lacking = items(world).into_iter().filter_map(|(item, address)| {
        let asked = asked(&address);
        let Routed::Redirect(to) = world.route(&asked.path) else { return None };
        (to.strip_suffix('/') == Some(&*asked.path)).then(|| {
            let message = format!("the menu item \"{}\" lacks the slash at its end, and is redirected", item.to.text);
            let tail = item.to.text.get(asked.path.len()..).unwrap_or("");
            Diagnostic::of(&CHECK.code, message)
                .help(format!("write {to}{tail}"))
                .at(&world.site.config.path, item.to.span)
        })
    });
    lacking.collect()
}

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let is_page = |link: &&Leading<'_>| matches!(link.target, LinkTarget::File) && !is_file(&link.path);
    for link in view.links.iter().filter(is_page) {
        let path = asked(&link.path).path;
        let Routed::Redirect(to) = view.world.route(&path) else { continue };
        if to.strip_suffix('/') == Some(&*path) {
            let message = format!("the link \"{}\" lacks the slash at its end, and is redirected", link.written);
            // A menu's item is reported where the menu is written.
            let of_menu = is_of_menu(view.world, &link.path).then(|| link.written.to_owned());
            let query = link.path.split_once('?').map(|(_, query)| format!("?{query}")).unwrap_or_default();
            let fragment = link.fragment.as_ref().map(|fragment| format!("#{fragment}")).unwrap_or_default();
            let help = format!("write {to}{query}{fragment}");
            found.push(PageProblem { of_menu, ..PageProblem::at(link.at, message, help) });
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page, told};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<a href=\"/visit\">2</a>", 2);
        in_page(super::CHECK.code.name, "<a href=\"../visit?a=b#c\">2</a>", 1);
        let config = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[menus]\nmain = [{ to = \"/visit#a\" }, { to = \"/visit/\" }]\n";
        let page = "+{each item in menus.main}<a href=\"+{item.address}\">+{item.label}</a>+{end}";
        let menu = [("hausblatt.toml", config), ("themes/t/templates/front.html", page)];
        assert_eq!(told(super::CHECK.code.name, &menu), ["hausblatt.toml:7"]);
        quiet_page("<a href=\"/visit/\">1</a> <a href=\"/sitemap.xml\">2</a>");
    }
}
