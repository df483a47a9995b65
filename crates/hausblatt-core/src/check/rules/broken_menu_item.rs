//! A menu's item leads to an address that is answered with an error.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};

use crate::check::links::{LinkTarget, at};
use crate::check::{Check, Look};
use crate::schema::config::MenuConfig;
use crate::text::address::asked;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "broken-menu-item",
        severity: Severity::Warning,
        about: "a menu item leads to an error",
        explanation: "The address exists, but its template runs \"answer\", so that visitors get an error. Every page with this menu links to it. Remove the item from [menus], or let the template render the page.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    if world.odd().is_empty() {
        return Vec::new();
    }
    items(world)
        .into_iter()
        .filter_map(|(item, address)| {
            let LinkTarget::Error(status) = at(world, &address) else { return None };
            let message = format!("the menu item \"{}\" leads to {address}, which answers with {status}", item.to.text);
            let help = format!("see why: hausblatt resolve {address}");
            Some(Diagnostic::of(&CHECK.code, message).help(help).at(&world.site.config.path, item.to.span))
        })
        .collect()
}

/// Every item of the declared menus, those below others too, with the address that it leads to within the site.
pub(super) fn items(world: &World) -> Vec<(&MenuConfig, String)> {
    let mut found = Vec::new();
    let mut left: Vec<&MenuConfig> = world.site.config.menus.iter().flat_map(|(_, items)| items).collect();
    while let Some(item) = left.pop() {
        left.extend(&item.children);
        let text = &item.to.text;
        let address = match text.starts_with('/') {
            true => Some(text.clone()),
            false => world.site.referenced(text).and_then(|found| found.address),
        };
        found.extend(address.map(|address| (item, address)));
    }
    found
}

/// Whether a path as a link writes it is one of a declared menu's items.
pub(super) fn is_of_menu(world: &World, path: &str) -> bool {
    let wanted = asked(path).path;
    items(world).into_iter().any(|(_, address)| asked(&address).path == wanted)
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_once_and_where_it_is_written() {
        let config = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[menus]\nmain = [{ to = \"page:visit\" }, { to = \"/\" }]\n";
        let page = "+{each item in menus.main}<a href=\"+{item.address}\">+{item.label}</a>+{end}";
        let gone = "+{answer 410 \"Gone\"}";
        let files = [
            ("hausblatt.toml", config),
            ("themes/t/templates/front.html", page),
            ("themes/t/templates/page/visit.html", gone),
        ];
        assert_eq!(told(super::CHECK.code.name, &files), ["hausblatt.toml:7"]);
        assert!(told("broken-link", &files).is_empty());
        // A link that is written out is one more thing to change.
        let both = format!("{page}\n<a href=\"/visit/\">Visit</a>");
        let written = [files[0], (files[1].0, both.as_str()), files[2]];
        assert_eq!(told("broken-link", &written), ["themes/t/templates/front.html:2"]);
        assert!(told(super::CHECK.code.name, &files[..2]).is_empty());
    }
}
