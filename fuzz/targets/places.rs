//! Any text in a hole of any piece of HTML: where the piece compiles, the page keeps its elements and the names of
//! their attributes.

#![no_main]

#[path = "../../crates/hausblatt-lang/tests/support/mod.rs"]
mod support;
#[path = "../../crates/hausblatt-lang/tests/support/structure.rs"]
mod structure;

use libfuzzer_sys::fuzz_target;
use structure::structure;

const HOLE: char = '\u{1}';

fn rendered(page: &str, text: &str) -> Option<String> {
    let literal: String = text.chars().map(|c| format!("\\u{{{:x}}}", c as u32)).collect();
    support::Files::new(&[("t", &format!("+{{let x = \"{literal}\"}}{page}"))]).page().0
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
