//! The words of a file with what they are, for editors that colour them: all of them, or the difference to those that were
//! sent last.

use std::collections::HashMap;

use hausblatt_core::text::names::ABOUT_GLOBALS;
use hausblatt_lang::program::Meaning;
use hausblatt_lang::text::source::Span;
use serde_json::{Value, json};

use crate::lsp::hover::file_of;
use crate::lsp::positions::{Columns, range};
use crate::lsp::sites::Asked;

/// The kinds of words, in the order of the legend.
pub const TOKEN_KINDS: [&str; 5] = ["parameter", "variable", "namespace", "enum", "property"];

/// The tokens that were sent last, by the addresses of files.
#[derive(Default)]
pub struct Tokens {
    sent: HashMap<String, (u64, Vec<u32>)>,
    next: u64,
}

impl Tokens {
    /// The words of a file; where the editor names the tokens that it has, and these are still known, the difference.
    pub fn answer(&mut self, uri: &str, asked: &Asked, earlier: Option<&str>, columns: Columns) -> Value {
        self.next += 1;
        let number = self.next;
        let data = words(asked, columns);
        let before = self.sent.insert(uri.to_owned(), (number, data.clone()));
        let is_known = |(number, _): &(u64, Vec<u32>)| earlier == Some(number.to_string().as_str());
        match before.filter(is_known) {
            Some((_, before)) => json!({ "resultId": number.to_string(), "edits": difference(&before, &data) }),
            None => json!({ "resultId": number.to_string(), "data": data }),
        }
    }

    /// Forgets the tokens of a file.
    pub fn forget(&mut self, uri: &str) {
        self.sent.remove(uri);
    }
}

/// The edit that makes one list of numbers another: what both begin and end with stays.
fn difference(before: &[u32], after: &[u32]) -> Value {
    let start = before.iter().zip(after).take_while(|(a, b)| a == b).count();
    let (left, right) = (&before[start..], &after[start..]);
    let end = left.iter().rev().zip(right.iter().rev()).take_while(|(a, b)| a == b).count();
    if left.is_empty() && right.is_empty() {
        return json!([]);
    }
    json!([{ "start": start, "deleteCount": left.len() - end, "data": right[..right.len() - end] }])
}

/// Parameters, names of the file, values of every site, what the site itself names (collections, prepared names), members; five
/// numbers for each.
fn words(asked: &Asked, columns: Columns) -> Vec<u32> {
    let Some(world) = asked.world() else { return Vec::new() };
    let program = file_of(world, &asked.path)
        .and_then(|id| world.library.unit(world.unit(id)?))
        .and_then(|unit| unit.program.as_ref());
    let kind = |meaning: &Meaning| match meaning {
        Meaning::Parameter(_) => Some(0),
        Meaning::Own(..) | Meaning::Made(..) => Some(1),
        Meaning::Global(number) if ABOUT_GLOBALS.iter().any(|global| global.name == world.globals.name(*number)) => {
            Some(2)
        }
        Meaning::Global(_) => Some(3),
        Meaning::Member(..) | Meaning::PartOf(..) => Some(4),
        _ => None,
    };
    let mut words: Vec<(Span, u32)> = program
        .into_iter()
        .flat_map(|program| &*program.words)
        .filter_map(|word| Some((word.span, kind(&word.meaning)?)))
        .collect();
    words.sort_unstable();
    words.dedup_by_key(|(span, _)| *span);
    let (mut line, mut column) = (0, 0);
    let mut data: Vec<u32> = Vec::new();
    for (span, kind) in words {
        let range = range(&asked.text, span, columns);
        // Tokens have one line.
        if range.start.line != range.end.line {
            continue;
        }
        let lines = range.start.line - line;
        let start = if lines == 0 { range.start.character.saturating_sub(column) } else { range.start.character };
        data.extend([lines, start, range.end.character - range.start.character, kind, 0]);
        (line, column) = (range.start.line, range.start.character);
    }
    data
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_difference_makes_one_list_the_other() {
        let lists: [&[u32]; 6] = [&[], &[1], &[1, 2, 3], &[1, 3], &[3, 3, 3], &[3, 3]];
        for before in lists {
            for after in lists {
                let mut made = before.to_vec();
                for edit in difference(before, after).as_array().unwrap() {
                    let at = |key: &str| usize::try_from(edit[key].as_u64().unwrap()).unwrap();
                    let data: Vec<u32> = serde_json::from_value(edit["data"].clone()).unwrap();
                    made.splice(at("start")..at("start") + at("deleteCount"), data);
                }
                assert_eq!(made, after, "{before:?}");
            }
        }
    }
}
