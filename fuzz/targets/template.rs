//! Any text as a template, a prepare file or a value: it compiles and renders, or is reported, and never panics.

#![no_main]

#[path = "../../crates/hausblatt-lang/tests/support/mod.rs"]
mod support;

use hausblatt_lang::render::Limits;
use libfuzzer_sys::fuzz_target;
use support::Files;

fuzz_target!(|text: &str| {
    let Some(first) = text.chars().next() else { return };
    let text = &text[first.len_utf8()..];
    let (name, more) = match first as u32 % 7 {
        0 => ("t.xml", ""),
        1 => ("t.json", ""),
        2 => ("t.txt", ""),
        3 => ("=all.let", "+{first.title}+{companion}"),
        4 => ("%notice.html", "+{component 'notice' with}+{first.title}+{into 'head'}h+{end}+{end}+{tray 'main'}"),
        _ => ("t.html", ""),
    };
    let card = "[+{slot 'head' else}x+{end}+{slot}+{size}]";
    let mut files = Files::new(&[
        (name, text),
        ("card", card),
        ("%notice", "<p>+{slot}</p>"),
        ("layout", "+{used 'styles'}+{slot 'aside'}+{slot}"),
    ])
    .takes("card", &["size=small"]);
    if !more.is_empty() {
        files = Files::new(&[(name, text), ("t", more)]);
    }
    files.limits = Limits { steps: 100_000, bytes: 1 << 20, depth: 16 };
    files.shows.dumps = true;
    let _ = files.run();
});
