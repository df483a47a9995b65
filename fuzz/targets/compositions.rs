//! Pieces of HTML and tags in any order, and any text as their value: where they compile, the value changes nothing of
//! what a browser reads, and gives no address that runs.

#![no_main]

#[path = "../../crates/hausblatt-lang/tests/support/structure.rs"]
mod structure;
#[path = "../../crates/hausblatt-lang/tests/support/mod.rs"]
mod support;

use libfuzzer_sys::fuzz_target;
use structure::{dangers, structure};

const PIECES: &[&str] = &[
    "<a href=\"", "<a href='", "<a ", "<link ", "<link rel=\"icon\" ", "<link rel=\"stylesheet\" href=\"", "rel=\"", "icon",
    "stylesheet", "next", "<script ", "<script>", "</script>", "<title>", "</title>", "<p title=\"", "<p style=\"",
    "color: ", "background: url('", "')", "<img alt=\"\" srcset=\"", " 2x, ", "<button formaction=\"", "type=\"",
    "application/json", "module", "href=\"", "src='", "=", "title=", "\"", "'", " ", ">", "/", "<", "<!--", "-->", "-", "--",
    "!", "<![CDATA[", "]]>", "]", "javascript:", "java", "script:", "data:", "text/html,", "//y.example/", "https:", "a", "?",
    "#", ";", "{", "}", "<textarea>", "</textarea>", "<svg>", "</svg>", "<b>", "</b>", "</", "&#106;", "&#58;", "\n",
    "<style>", "</style>", "<script type=\"application/json\">", "const a = ", "[", ",", "<body>", "<iframe src=\"",
    "<svg><use href=\"", "<form action=\"", "vb", "+{x}", "+{''}", "+{nothing}", "+{let y = 1}", "+{# c #}", "+{if yes}",
    "+{if no}", "+{else}", "+{end}", "+{each i in [1, 2]}", "+{between}", "+{use \"a.css\"}", "+{x}\">", "+{end}\">",
];

fn rendered(page: &str, value: &str) -> Option<String> {
    let literal: String = value.chars().map(|c| format!("\\u{{{:x}}}", c as u32)).collect();
    let text = format!("+{{let x = \"{literal}\"}}+{{let yes = true}}+{{let no = false}}<!doctype html><body>{page}");
    support::Files::new(&[("t", &text)]).page().0
}

fuzz_target!(|input: (&[u8], &str)| {
    let (order, text) = input;
    if text.trim().is_empty() || text.contains('\0') || order.len() > 24 {
        return;
    }
    let page: String = order.iter().map(|&at| PIECES[at as usize % PIECES.len()]).collect();
    let value = text.replace("word", "x.example");
    if let (Some(plain), Some(hostile)) = (rendered(&page, "word"), rendered(&page, &value)) {
        for scripting in [true, false] {
            let (plain, hostile) = (structure(&plain, scripting), structure(&hostile, scripting));
            assert_eq!(plain, hostile, "{page:?} with {value:?}");
        }
        assert_eq!(dangers(&plain), dangers(&hostile), "{page:?} with {value:?}\n{hostile}");
    }
});
