//! Random compositions of HTML and tags: where one compiles, hostile values change nothing of what a browser reads.

use crate::structure::{dangers, structure};
use crate::support::Files;
use proptest::prelude::*;

/// Pieces of which templates are put together; `x` is a value, `yes` and `no` are conditions.
const PIECES: &[&str] = &[
    "<a href=\"",
    "<a href='",
    "<a ",
    "<link ",
    "<link rel=\"icon\" ",
    "<link rel=\"stylesheet\" href=\"",
    "rel=\"",
    "icon",
    "stylesheet",
    "next",
    "<script ",
    "<script>",
    "</script>",
    "<title>",
    "</title>",
    "<p title=\"",
    "<p style=\"",
    "color: ",
    "background: url('",
    "')",
    "<img alt=\"\" srcset=\"",
    " 2x, ",
    "<button formaction=\"",
    "type=\"",
    "application/json",
    "module",
    "href=\"",
    "src='",
    "=",
    "title=",
    "\"",
    "'",
    " ",
    ">",
    "/",
    "<",
    "<!--",
    "-->",
    "-",
    "--",
    "!",
    "<![CDATA[",
    "]]>",
    "]",
    "javascript:",
    "java",
    "script:",
    "data:",
    "text/html,",
    "//y.example/",
    "https:",
    "a",
    "?",
    "#",
    ";",
    "{",
    "}",
    "<textarea>",
    "</textarea>",
    "<svg>",
    "</svg>",
    "<b>",
    "</b>",
    "</",
    "+{x}",
    "+{x}",
    "+{x}",
    "+{x}",
    "+{x}",
    "+{''}",
    "+{nothing}",
    "+{let y = 1}",
    "+{# c #}",
    "+{if yes}",
    "+{if no}",
    "+{else}",
    "+{end}",
    "+{end}",
    "+{end}",
    "+{each i in [1, 2]}",
    "+{between}",
    "+{use \"a.css\"}",
];

const HOSTILE: &[&str] = &[
    "\"><script>a</script>",
    "'><b onload=c>",
    "javascript:a",
    "//x.example/a",
    "https://x.example/",
    "script:a",
    "x onload=a ",
    "</title><script>",
    "--><script>a</script>",
    "]]><script>",
    "</script><script>",
    "a stylesheet ",
    "a;b:url(//x.example/)",
    "\\\"",
    "\nx",
    "/",
    ":",
    "text/html,a",
    "`{}$",
    "</textarea><b>",
];

fn rendered(page: &str, value: &str) -> Option<String> {
    let literal: String = value.chars().map(|c| format!("\\u{{{:x}}}", c as u32)).collect();
    let text = format!("+{{let x = \"{literal}\"}}+{{let yes = true}}+{{let no = false}}{page}");
    Files::new(&[("t", &text)]).page().0
}

/// What may be in the value of an attribute.
const INSIDE: &[&str] = &[
    "java",
    "script:",
    "javascript:",
    "data:",
    "text/html,",
    "vb",
    "//y.example/",
    "https:",
    "https://seeds.example",
    "/",
    "a",
    "?",
    "&#106;",
    "&#58;",
    " ",
    "\n",
    "icon",
    "stylesheet",
    "+{x}",
    "+{x}",
    "+{''}",
    "+{let y = 1}",
    "+{# c #}",
    "+{if yes}",
    "+{if no}",
    "+{else}",
    "+{end}",
    "+{each i in [1, 2]}",
];

const OPENINGS: &[&str] = &[
    "<a href=\"",
    "<a title=\"\" href = \"",
    "<link href=\"",
    "<link rel=\"icon\" href=\"",
    "<link rel=\"icon\" +{if yes}rel=\"stylesheet\"+{end} href=\"",
    "<link +{if yes}rel=\"stylesheet\"+{else}rel=\"icon\"+{end} href=\"",
    "<link +{if yes}rel=\"stylesheet\"+{end} rel=\"icon\" href=\"",
    "<link rel=\"stylesheet\" href=\"",
    "<script src=\"",
    "<script +{if no}type=\"application/json\"+{end} src=\"",
    "<button formaction=\"",
    "<form action=\"",
    "<svg><a xlink:href=\"",
    "<svg><use href=\"",
    "<img alt=\"\" src=\"",
    "<iframe src=\"",
    "<p style=\"background: url('",
];

/// Closes what is open, so that more of them compile.
fn closed(pieces: &[&str]) -> String {
    let mut depth = 0_usize;
    let mut page = String::new();
    for piece in pieces {
        match *piece {
            "+{end}" if depth == 0 => continue,
            "+{end}" => depth -= 1,
            _ if piece.starts_with("+{if") || piece.starts_with("+{each") => depth += 1,
            _ => {}
        }
        page += piece;
    }
    page + &"+{end}".repeat(depth)
}

fn judge(page: &str, value: &str) -> Result<(), TestCaseError> {
    let (Some(plain), Some(hostile)) = (rendered(page, "word"), rendered(page, value)) else { return Ok(()) };
    for scripting in [true, false] {
        prop_assert_eq!(structure(&plain, scripting), structure(&hostile, scripting), "{:?} with {:?}", page, value);
    }
    prop_assert_eq!(dangers(&plain), dangers(&hostile), "{:?} with {:?}", page, value);
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1500))]

    #[test]
    fn keep_their_structure(
        pieces in proptest::collection::vec(proptest::sample::select(PIECES), 2..14),
        value in proptest::sample::select(HOSTILE),
    ) {
        for end in ["", "\">", "'>", ">", "-->"] {
            judge(&format!("<!doctype html><body>{}{end}<i>+{{x}}</i>", closed(&pieces)), value)?;
        }
    }

    #[test]
    fn keep_addresses_harmless(
        opening in proptest::sample::select(OPENINGS),
        pieces in proptest::collection::vec(proptest::sample::select(INSIDE), 1..7),
        value in proptest::sample::select(HOSTILE),
    ) {
        let quote = if opening.ends_with('\'') { "')" } else { "" };
        judge(&format!("<!doctype html><body>{opening}{}{quote}\"></a><i>+{{x}}</i>", closed(&pieces)), value)?;
    }
}
