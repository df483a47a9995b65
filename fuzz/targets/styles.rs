//! Any text as a style sheet: it is read, and what is said of it is at a place that is in it.

#![no_main]

use hausblatt_core::text::styles::read;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    let styles = read(text);
    let problems = styles.problems.iter().map(|problem| problem.span);
    let loads = styles.loads.iter().map(|load| load.span);
    let reads = styles.reads.iter().map(|(_, span)| *span);
    for span in problems.chain(loads).chain(reads) {
        assert!(text.get(span.range()).is_some_and(|written| !written.is_empty()), "{span:?}");
    }
    // White space at the end changes nothing where nothing is left open; a backslash there is a character of its own.
    if styles.problems.is_empty() && !text.ends_with('\\') {
        let spaced = read(&format!("{text}\n"));
        assert_eq!(spaced.problems, Vec::new());
        assert_eq!(spaced.loads, styles.loads);
    }
});
