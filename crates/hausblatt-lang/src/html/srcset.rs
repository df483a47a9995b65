//! A scanner over `srcset` (WHATWG HTML, 4.8.4.2.1 Srcset attributes): addresses, each with a number after it.

use crate::html::place::{EscapingRow, HtmlPlace, Written};

/// Where the scanner is in the list.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Candidates {
    /// Before an address.
    #[default]
    Start,
    /// In an address.
    Address,
    /// In what comes after an address.
    Descriptor,
}

impl Candidates {
    /// Goes over `text`. Returns where the address at its end begins, if it begins in it.
    pub fn scan(&mut self, text: &str) -> Option<usize> {
        let mut begun = None;
        for (at, byte) in text.bytes().enumerate() {
            let space = byte.is_ascii_whitespace();
            *self = match *self {
                Candidates::Start if space || byte == b',' => Candidates::Start,
                Candidates::Start => {
                    begun = Some(at);
                    Candidates::Address
                }
                Candidates::Address if space => {
                    let comma = at > 0 && text.as_bytes()[at - 1] == b',';
                    if comma { Candidates::Start } else { Candidates::Descriptor }
                }
                Candidates::Descriptor if byte == b',' => Candidates::Start,
                state => state,
            };
        }
        match self {
            Candidates::Address => begun,
            Candidates::Start | Candidates::Descriptor => None,
        }
    }

    /// The place of a hole here.
    pub fn hole(&mut self) -> HtmlPlace {
        match self {
            Candidates::Descriptor => HtmlPlace::Number,
            Candidates::Start | Candidates::Address => {
                *self = Candidates::Address;
                HtmlPlace::Address(EscapingRow::Image, Written::Candidate)
            }
        }
    }

    /// Whether two states are the same place. A number in an address's place, or the other way round, is dropped
    /// by the browser.
    pub fn meets(self, other: Self) -> bool {
        (self == Candidates::Address) == (other == Candidates::Address)
    }

    /// What another branch that ends at the same place leaves.
    pub fn join(&mut self, other: Self) {
        if *self != other {
            *self = Candidates::Descriptor;
        }
    }

    /// How much of `text`, which follows a hole in an address, still belongs to that address.
    pub(crate) fn rest_of_address(text: &str) -> usize {
        let end = text.find(|c: char| c.is_ascii_whitespace()).unwrap_or(text.len());
        text[..end].trim_end_matches(',').len()
    }
}
