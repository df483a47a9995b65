//! A link leads to a place that its page does not have.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;
use hausblatt_lang::text::suggest::nearest;
use rustc_hash::FxHashSet;

use crate::check::links::LinkTarget;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "broken-anchor",
        severity: Severity::Warning,
        about: "a link leads to a place that its page does not have",
        explanation: "After the # is an id that no element of that page has, so the browser shows the page's top. Headings in Markdown get ids made from their words.",
    },
    look: Look::Places,
};

/// A link to a place in another page.
pub(crate) struct Pointer {
    /// The page's address.
    pub to: String,
    /// The id.
    pub id: String,
    /// What is said if the page has no such id.
    pub found: PageProblem,
}

/// The ids of a page, and the names of its places.
pub fn ids(view: &View<'_>) -> FxHashSet<Box<str>> {
    let elements = &view.page.elements;
    let ids = elements.iter().filter_map(|element| element.attribute("id"));
    ids.chain(view.page.named("a").filter_map(|element| element.attribute("name"))).map(Box::from).collect()
}

impl Pointer {
    /// What is found where the page that is led to has only these ids; none if the one that is meant is among them.
    pub fn found(&self, ids: &FxHashSet<Box<str>>) -> Option<PageProblem> {
        if ids.contains(&*self.id) {
            return None;
        }
        let mut sorted: Vec<&str> = ids.iter().map(|id| &**id).collect();
        sorted.sort_unstable();
        let help = nearest(&self.id, sorted).map(|near| format!("did you mean \"#{near}\"?"));
        let found = self.found.clone();
        Some(PageProblem { help: help.unwrap_or(found.help), ..found })
    }
}

/// The links of a page to places of pages of the site.
pub(crate) fn pointers(view: &View<'_>) -> Vec<Pointer> {
    let links = view.links.iter().filter(|link| matches!(link.element, "a" | "area"));
    let pointers = links.filter_map(|link| {
        let id = link
            .fragment
            .as_ref()
            .filter(|id| !id.is_empty() && !id.eq_ignore_ascii_case("top") && !id.starts_with(":~:"))?;
        let LinkTarget::Page(to) = &link.target else { return None };
        let whose = match link.written.starts_with('#') {
            true => "this page".to_owned(),
            false => format!("the page of \"{}\"", link.written),
        };
        let message = format!("{whose} has no place \"{id}\"");
        let help = "give the element that is meant this id, or link to the page alone";
        Some(Pointer { to: to.clone(), id: id.clone(), found: PageProblem::at(link.at, message, help) })
    });
    pointers.collect()
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<a href=\"#beans\">2</a>", 2);
        in_page(super::CHECK.code.name, "<p>1</p>\n<a href=\"/#beans\">2</a>", 2);
        quiet_page(
            "<p id=\"beans\">1</p><a href=\"#beans\">2</a><a href=\"#\">3</a><a href=\"#top\">4</a><a name=\"x y\"></a><a href=\"#x%20y\">5</a>",
        );
    }
}
