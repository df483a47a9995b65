//! With any texts in its holes, a page parses (html5ever) to the same elements and attribute names as with plain words.

use crate::hostile;
use crate::support::Files;
use html5ever::tendril::TendrilSink;
use html5ever::{ParseOpts, parse_document};
use markup5ever_rcdom::{Handle, NodeData, RcDom};
use proptest::prelude::*;

/// Pages that hold `x` in every sort of place; pieces are put together at will.
const PIECES: &[&str] = &[
    "<p>+{x}</p>",
    "<title>+{x}</title>",
    "<textarea>+{x}</textarea>",
    "<pre>+{x}</pre>",
    "<p class='a +{x}' title=\"+{x}\"></p>",
    "<p id=\"a-+{x}\" data-x='+{x}+{x}'>",
    "<a href=\"+{x}\">+{x}</a>",
    "<a href='/x/+{x}?y=+{x}#+{x}'></a>",
    "<img alt=\"+{x}\" src=\"+{x}\" srcset='+{x} 1x, /m/+{x} +{x}w'>",
    "<form action=\"+{x}\"><input value='+{x}'><button formaction=\"+{x}\">",
    "<style>a { color: +{x}; --b: \"+{x}\"; background: url('+{x}') }</style>",
    "<p style=\"color: +{x}; background: url('/a+{x}'); quotes: '+{x}'\">",
    "<script type=\"application/json\">{\"a\": [+{x}, \"b+{x}\"]}</script>",
    "<script>const a = +{x};\nlet b = +{x};\ngo(a < b);</script>",
    "<svg><title>+{x}</title><text>+{x}</text><use href=\"+{x}\"/><style>a { color: +{x} }</style></svg>",
    "<math><mi title='+{x}'>+{x}</mi></math>",
    "<noscript><p title=\"+{x}\">+{x}</p></noscript>",
    "<template><b>+{x}</b></template>",
    "<select><option value='+{x}'>+{x}</select>",
    "<table><tr><td>+{x}",
    "+{each y in [x, x]}<li value=\"+{y}\">+{y}+{between}, +{end}",
    "+{if x}<b title='+{x}'>+{else}<b title='+{x}'>+{end}+{x}</b>",
    "<iframe src=\"+{x}\"></iframe><object data='+{x}'></object>",
    "<meta name=\"description\" content=\"+{x}\"><link rel=\"icon\" href='+{x}'>",
    "+{let y with}<i title=\"+{x}\">+{x}</i>+{end}+{y}",
];

fn rendered(page: &str, text: &str) -> String {
    let literal: String = text.chars().map(|c| format!("\\u{{{:x}}}", c as u32)).collect();
    let (html, said) = Files::new(&[("t", &format!("+{{let x = \"{literal}\"}}{page}"))]).page();
    html.unwrap_or_else(|| panic!("{page} does not render: {said}"))
}

/// The elements of a page and the names of their attributes, with scripting as a browser has it, and without.
fn structure(html: &str) -> Vec<String> {
    let mut found = Vec::new();
    for scripting_enabled in [true, false] {
        let mut options = ParseOpts::default();
        options.tree_builder.scripting_enabled = scripting_enabled;
        let dom = parse_document(RcDom::default(), options).one(html);
        walk(&dom.document, &mut found);
    }
    found
}

fn walk(node: &Handle, found: &mut Vec<String>) {
    if let NodeData::Element { name, attrs, template_contents, .. } = &node.data {
        let attributes: Vec<String> = attrs.borrow().iter().map(|attribute| attribute.name.local.to_string()).collect();
        found.push(format!("{}[{}]", name.local, attributes.join(" ")));
        if let Some(contents) = &*template_contents.borrow() {
            walk(contents, found);
        }
    }
    for child in node.children.borrow().iter() {
        walk(child, found);
    }
}

#[track_caller]
fn same(page: &str, text: &str) {
    let (plain, hostile) = (rendered(page, "word"), rendered(page, text));
    assert_eq!(structure(&plain), structure(&hostile), "with {text:?}\n{hostile}");
}

#[test]
fn hostile_texts_keep_the_structure_of_every_piece() {
    for piece in PIECES {
        let page = rendered(piece, "word");
        assert!(page.contains("word"), "{piece}: {page}");
        hostile::texts().iter().filter(|text| !text.trim().is_empty()).for_each(|text| same(piece, text));
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn any_text_keeps_the_structure_of_any_page(
        pieces in prop::collection::vec(prop::sample::select(PIECES), 1..6),
        text in prop_oneof!["([<>\"'&/ =:\n\t`;{}()\\\\*-]|a|script|style|title|svg|!--|--|\\]\\]>|&lt;|javascript:|\\x00|é){1,14}", "\\PC{1,12}"],
    ) {
        prop_assume!(!text.trim().is_empty());
        same(&pieces.concat(), &text);
    }
}
