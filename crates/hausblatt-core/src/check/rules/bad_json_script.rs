//! The JSON in a script of a page is none.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

use crate::check::rules::bad_json::problem;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

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
    for script in view.page.named("script") {
        let kind = script.attribute("type").unwrap_or("").trim().to_ascii_lowercase();
        let is_json =
            kind == "application/json" || kind.ends_with("+json") || matches!(&*kind, "importmap" | "speculationrules");
        let Some(from) = script.at.filter(|_| is_json) else { continue };
        let Some((start, json)) = content(view.text, from) else { continue };
        found.extend(problem(json).map(|(at, message, help)| PageProblem::at(Some(start + at), message, help)));
    }
}

/// What is between the script's tag that begins at `from` and its end, and where that begins.
fn content(page: &str, from: usize) -> Option<(usize, &str)> {
    let mut quote = None;
    let length = page.get(from..)?.find(|c: char| {
        match quote {
            Some(open) if open == c => quote = None,
            None if matches!(c, '"' | '\'') => quote = Some(c),
            _ => {}
        }
        c == '>' && quote.is_none()
    })?;
    let start = from + length + 1;
    let rest = &page[start..];
    let end = memchr::memmem::find(rest.as_bytes(), b"</script").unwrap_or(rest.len());
    Some((start, &rest[..end]))
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
