//! The JSON in a script of a page is none.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::rules::bad_json::problem;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look, inline};
use crate::text::addresses_in_text::is_json;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "bad-json-script",
        severity: Severity::Warning,
        about: "a script of JSON in a page is not valid JSON",
        explanation: "Search engines and scripts pass over data that can't be read as JSON (RFC 8259), without a word. Most often a comma is missing or one too many. A value that is a record or a list is written with +{json(VALUE)}.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for script in inline::of_page(view, "script").filter(|script| is_json(&script.kind)) {
        let told = problem(script.text);
        found.extend(told.map(|(at, message, help)| PageProblem::at(Some(script.start + at), message, help)));
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        let data = |json: &str| format!("<p>1</p>\n<script type=\"application/ld+json\">\n{json}\n</script>");
        in_page(super::CHECK.code.name, &data("{\"a\": 1,}"), 3);
        in_page(super::CHECK.code.name, &data("[+{each n in [1, 2]}+{n},+{end}]"), 3);
        quiet_page(&data("{\"a\": [+{content.title}, 2]}"));
        quiet_page("<p>1</p><script>let a = {b: 1,}</script>");
    }
}
