//! How two Worlds differ, in words.

use std::fmt::Write;

use hausblatt_core::analysis::compare::{AddressChange, Difference, Html};

use crate::show::changes;
use crate::show::style::{BAD, FAINT, GOOD, plain, styled};
use crate::show::table::addresses;

/// The addresses that differ, with a line above each sort of difference.
pub fn text(difference: &Difference, all: bool, html: Html) -> String {
    let (of_file, of_html): (Vec<AddressChange>, Vec<AddressChange>) =
        difference.changed.iter().cloned().partition(AddressChange::is_of_file);
    let mut out = String::new();
    if of_file.is_empty() {
        out.push_str("Every address would be answered by the same file.\n\n");
    } else {
        let _ = writeln!(out, "{} would be answered differently:", addresses(of_file.len()));
        let _ = writeln!(out, "{}", changes::text(&of_file, all));
    }
    if !of_html.is_empty() {
        let _ = writeln!(out, "{} would differ in HTML, by the same file:", addresses(of_html.len()));
        let _ = writeln!(out, "{}", changes::text(&of_html, all));
    } else if html > Html::No && of_file.is_empty() {
        out.push_str("The HTML of all of them would be unchanged.\n\n");
    }
    for change in &difference.changed {
        if let Some(diff) = &change.diff {
            let _ = writeln!(out, "{}", coloured(diff));
        }
    }
    out
}

/// A unified diff with colours.
pub fn coloured(diff: &str) -> String {
    let mut out = String::with_capacity(diff.len());
    for line in diff.lines() {
        let style = match line.as_bytes().first() {
            Some(b'+') => GOOD,
            Some(b'-') => BAD,
            Some(b'@') => FAINT,
            _ => anstyle::Style::new(),
        };
        out.push_str(&styled(style, &plain(line)));
        out.push('\n');
    }
    out
}
