//! A form leads to the search and asks for nothing.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use crate::model::request::Kind;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "search-without-field",
        severity: Severity::Warning,
        about: "a form leads to the search and has no field for it",
        explanation: "What is searched for is sent under the name q. A form without a field of this name finds nothing, whatever is typed.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    let Some(search) = &view.world.site.config.search else { return };
    let elements = &view.page.elements;
    for (at, form) in elements.iter().enumerate().filter(|(_, element)| element.name() == "form") {
        let leads = match form.attribute("action").map(str::trim).filter(|action| !action.is_empty()) {
            Some(action) => action.split(['?', '#']).next() == Some(search.address.text.as_str()),
            None => view.request.kind == Kind::Search,
        };
        let sends = form.attribute("method").is_none_or(|method| method.trim().eq_ignore_ascii_case("get"));
        let is_inside = |number: usize| {
            std::iter::successors(Some(number), |&at| (at > 0).then(|| elements[at].parent)).any(|above| above == at)
        };
        let asks = || {
            let named = |name: &str| {
                elements.iter().enumerate().any(|(number, element)| {
                    element.attribute("name") == Some(name)
                        && (is_inside(number)
                            || form.attribute("id").is_some() && element.attribute("form") == form.attribute("id"))
                })
            };
            named("q")
        };
        if leads && sends && !asks() {
            let help = "give its field the name: name=\"q\"";
            found.push(PageProblem::at(
                form.at,
                "this form leads to the search, and none of its fields is named q",
                help,
            ));
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    const SITE: &str =
        "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[search]\naddress = \"/search/\"\n";

    #[test]
    fn finds_it_at_its_line() {
        let with = |html: &str| {
            let text = format!("<p>1</p>\n{html}");
            told(super::CHECK.code.name, &[("hausblatt.toml", SITE), ("themes/t/templates/page.html", &text)])
        };
        assert_eq!(with("<form action=\"/search/\"><input name=\"query\"></form>"), ["themes/t/templates/page.html:2"]);
        assert!(with("<form action=\"/search/\"><p><input name=\"q\"></p></form>").is_empty());
        assert!(with("<form action=\"/search/\" id=\"f\"></form><input name=\"q\" form=\"f\">").is_empty());
        assert!(with("<form action=\"https://seeds.example/\"><input name=\"query\"></form>").is_empty());
    }
}
