//! Any text as front matter: the quick reader says nothing or the same as the full one, and neither panics.

#![no_main]

use hausblatt_core::text::front;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|yaml: &str| {
    let text = format!("---\n{yaml}\n---\nBody");
    let (quick, full) = (front::read(&text), front::read_fully(&text));
    assert_eq!(quick, full, "{text:?}");
    let _ = front::read(yaml);
});
