//! `formerly`: addresses that a listing had, which lead to the one that it has.

use crate::schema::config::{Spanned, placed_address, problem_of_address};
use crate::text::codes;
use crate::text::reader::DataReader;

/// Reads the key `formerly`: an address, or a list of them.
pub(super) fn read(reader: &mut DataReader<'_, '_>) -> Vec<Spanned> {
    let Some(entry) = reader.entry("formerly") else { return Vec::new() };
    let one = std::slice::from_ref(&entry.data);
    let mut addresses = Vec::new();
    for data in entry.data.as_list().unwrap_or(one) {
        let problem = match data.as_text() {
            None => Some("an address is a text, as in \"/old-journal/\""),
            Some(text) => problem_of_address(text),
        };
        match (problem, data.as_text()) {
            (None, Some(text)) => addresses.push(placed_address((text, data.span))),
            (problem, text) => {
                let message = match text {
                    Some(text) => format!("\"{text}\" is not a valid address"),
                    None => format!("\"formerly\" holds addresses, not {}", data.kind()),
                };
                reader.error(&codes::BAD_ADDRESS, data.span, message, problem.map(str::to_owned));
            }
        }
    }
    addresses
}
