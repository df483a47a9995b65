//! Any literal and any values as an address: what is allowed keeps its scheme and its host in another reader's eyes.

#![no_main]

use hausblatt_lang::escape::url::Composer;
use hausblatt_lang::html::place::EscapingRow;
use libfuzzer_sys::fuzz_target;
use url::Url;

fuzz_target!(|input: (u8, &str, &str, &str, &str)| {
    let (choice, before, first, between, second) = input;
    let row = [EscapingRow::Anywhere, EscapingRow::Image, EscapingRow::Stays][usize::from(choice) % 3];
    let authored = ["", "/x/", "https://code.example/", "/find?q="][usize::from(choice / 3) % 4];
    let before = if choice & 128 == 0 { "" } else { before };
    let mut composer = Composer::default();
    composer.literal(authored);
    composer.literal(before);
    composer.value(first);
    composer.literal(between);
    composer.value(second);
    let Ok(address) = composer.finish(row, "https://seeds.example") else { return };
    assert!(!address.contains(['"', '<', '>', '\\', '\n', '\t', '\0', '\u{7f}']), "{address:?}");
    // What the author wrote out may name any scheme and host.
    if !before.is_empty() || between.contains([':', '/', '\\']) {
        return;
    }
    let base = Url::parse("https://here.example/page/").unwrap();
    let Ok(url) = base.join(address) else { return };
    let scheme = url.scheme();
    let image = row == EscapingRow::Image && address.trim_start().to_ascii_lowercase().starts_with("data:image/");
    assert!(matches!(scheme, "http" | "https" | "mailto" | "tel") || image, "{address:?} is {scheme}");
    if row == EscapingRow::Stays {
        let host = url.host_str().unwrap_or("");
        assert!(matches!(host, "here.example" | "seeds.example" | "code.example"), "{address:?} leads to {host}");
        assert!(url.username().is_empty() && url.port().is_none(), "{address:?}");
    }
});
