//! Any text in a hole of any piece of HTML: where the piece compiles, the page keeps its elements and the names of
//! their attributes.

#![no_main]

#[path = "../../crates/hausblatt-lang/tests/support/mod.rs"]
mod support;

use html5ever::tendril::TendrilSink;
use html5ever::{ParseOpts, parse_document};
use libfuzzer_sys::fuzz_target;
use markup5ever_rcdom::{Handle, NodeData, RcDom};

const HOLE: char = '\u{1}';

fn rendered(page: &str, text: &str) -> Option<String> {
    let literal: String = text.chars().map(|c| format!("\\u{{{:x}}}", c as u32)).collect();
    support::Files::new(&[("t", &format!("+{{let x = \"{literal}\"}}{page}"))]).page().0
}

fn structure(html: &str, scripting_enabled: bool) -> Vec<String> {
    let mut options = ParseOpts::default();
    options.tree_builder.scripting_enabled = scripting_enabled;
    let dom = parse_document(RcDom::default(), options).one(html);
    let mut found = Vec::new();
    walk(&dom.document, &mut found);
    found
}

fn walk(node: &Handle, found: &mut Vec<String>) {
    if let NodeData::Element { name, attrs, .. } = &node.data {
        let names: Vec<String> = attrs.borrow().iter().map(|attribute| attribute.name.local.to_string()).collect();
        found.push(format!("{}[{}]", name.local, names.join(" ")));
    }
    node.children.borrow().iter().for_each(|child| walk(child, found));
}

fuzz_target!(|input: (&str, &str)| {
    let (piece, text) = input;
    if text.trim().is_empty() || piece.contains("+{") || piece.contains('\0') || !piece.contains(HOLE) {
        return;
    }
    let page = piece.replace(HOLE, "+{x}");
    if let (Some(plain), Some(hostile)) = (rendered(&page, "word"), rendered(&page, text)) {
        for scripting in [true, false] {
            assert_eq!(
                structure(&plain, scripting),
                structure(&hostile, scripting),
                "{page:?} with {text:?}\n{hostile}"
            );
        }
    }
});
