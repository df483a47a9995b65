//! An answer is not JSON, though it says so.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;
use hausblatt_lang::text::ending::Ending;
use serde::de::IgnoredAny;

use crate::check::view::PageProblem;
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "bad-json",
        severity: Severity::Error,
        about: "an answer is not valid JSON",
        explanation: "What this template writes can't be read as JSON (RFC 8259), so no program can use it. Most often a comma is missing or one too many: +{between},+{end} in a loop prints it between two rounds only. A value that is a record or a list is written with +{json(VALUE)}.",
    },
    look: Look::Answer(Ending::Json, look),
};

fn look(text: &str, found: &mut Vec<PageProblem>) {
    found.extend(problem(text).map(|(at, message, help)| PageProblem::at(Some(at), message, help)));
}

const COMMAS: &str = "commas are between members only: in a loop, write +{between},+{end}";
const VALUES: &str = "names and texts have double quotes, and a comma is between members; a value is written by +{…}, which adds its quotes";

/// What keeps a text from being JSON, the byte where that is, and what to do.
pub(super) fn problem(text: &str) -> Option<(usize, String, &'static str)> {
    let error = serde_json::from_str::<IgnoredAny>(text).err()?;
    let line: usize = text.split_inclusive('\n').take(error.line().saturating_sub(1)).map(str::len).sum();
    let mut at = (line + error.column().saturating_sub(1)).min(text.len());
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    // At the end, what is wrong is the last thing written.
    if at >= text.trim_end().len() {
        at = text.trim_end().char_indices().next_back().map_or(0, |(last, _)| last);
    }
    let before = text[..at].trim_end();
    // The comma is the mistake, and not what follows it.
    if before.ends_with(',') && text[at..].starts_with([']', '}', ',']) {
        let doubled = text[at..].starts_with(',');
        let why = if doubled { "two commas follow each other" } else { "a comma is left at the end" };
        return Some((before.len() - 1, format!("this is not valid JSON: {why}"), COMMAS));
    }
    let why = error.to_string();
    let why = why.rsplit_once(" at line ").map_or(why.as_str(), |(why, _)| why);
    Some((at, format!("this is not valid JSON: {why}"), VALUES))
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_at_its_line() {
        let at = |text: &str| {
            let config = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[routes.list]\naddress = \"/list.json\"\n";
            told(super::CHECK.code.name, &[("hausblatt.toml", config), ("themes/t/templates/route/list.json", text)])
        };
        let list = "themes/t/templates/route/list.json";
        assert_eq!(at("{\"a\": 1,\n\"b\": [+{each n in [1, 2]}+{n},+{end}]}"), [format!("{list}:2")]);
        assert_eq!(at("{\"a\": 1\n\"b\": 2}"), [format!("{list}:2")]);
        assert_eq!(at("[1,\n2"), [format!("{list}:2")]);
        assert_eq!(at("\n"), [format!("{list}:1")]);
        assert!(at("[+{each n in [1, 2]}+{n}+{between},+{end}+{end}]\n").is_empty());
    }
}
