//! Where in the files each piece of a page was written.
//!
//! A traced render puts three characters of the private use planes in front of every piece: what sort of piece it is,
//! the number of its file, and the number of its step. They travel with the text through captures and slots, and are
//! taken out at the end. What such a character would change (a text's length, a comparison) makes the traced page
//! differ from the plain one; then there is no trace.

use crate::library::{Library, UnitId};
use crate::program::Act;
use crate::text::source::Span;

const LITERAL: char = '\u{F8FE}';
const VALUE: char = '\u{F8FF}';
const UNIT: u32 = 0xF_0000;
const STEP: u32 = 0x10_0000;
/// Each plane has so many characters.
const MOST: u32 = 0xFFFE;

/// A piece of a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Piece {
    /// Its first byte in the page.
    pub at: usize,
    /// The file that it comes from.
    pub unit: UnitId,
    /// The step in that file's program.
    pub step: usize,
    /// Whether it was printed by the step, and is not the text before it.
    pub is_value: bool,
}

/// Whether a step prints a value where it is.
pub(super) fn prints(act: Act) -> bool {
    matches!(
        act,
        Act::PrintText(_) | Act::Print(..) | Act::Raw(_) | Act::Attribute { .. } | Act::AddressEnd(..) | Act::Used(_)
    )
}

/// The characters in front of a piece; none where the numbers are too large for them.
pub(super) fn sign(unit: UnitId, step: usize, is_value: bool) -> Option<[char; 3]> {
    let character = |plane: u32, number: u32| char::from_u32(plane + number).filter(|_| number < MOST);
    let sort = if is_value { VALUE } else { LITERAL };
    Some([sort, character(UNIT, unit)?, character(STEP, u32::try_from(step).ok()?)?])
}

/// A traced page's text, and its pieces in order.
pub fn pieces(traced: &str) -> (String, Vec<Piece>) {
    let mut text = String::with_capacity(traced.len());
    let mut pieces = Vec::new();
    let mut rest = traced;
    while let Some(at) = rest.find([LITERAL, VALUE]) {
        text.push_str(&rest[..at]);
        let mut characters = rest[at..].chars();
        let is_value = characters.next() == Some(VALUE);
        let mut number = |plane: u32| Some((characters.next()? as u32).wrapping_sub(plane)).filter(|&it| it < MOST);
        match (number(UNIT), number(STEP)) {
            (Some(unit), Some(step)) => {
                pieces.push(Piece { at: text.len(), unit, step: step as usize, is_value });
                rest = characters.as_str();
            }
            _ => {
                let sign = rest[at..].chars().next().map_or(0, char::len_utf8);
                text.push_str(&rest[at..at + sign]);
                rest = &rest[at + sign..];
            }
        }
    }
    text.push_str(rest);
    (text, pieces)
}

/// The piece that a byte of the page belongs to.
pub fn piece_at(pieces: &[Piece], at: usize) -> Option<&Piece> {
    let behind = pieces.partition_point(|piece| piece.at <= at);
    pieces.get(behind.checked_sub(1)?)
}

/// What both texts begin with.
fn common<'t>(text: &'t str, other: &str) -> &'t str {
    let same = text.chars().zip(other.chars()).take_while(|(a, b)| a == b).map(|(c, _)| c.len_utf8()).sum();
    text.get(..same).unwrap_or(text)
}

/// Where in its file a byte of the page was written that is `behind` bytes after the beginning of its piece; `line`
/// is the page's text from there to the end of its line.
pub fn written_at(library: &Library, piece: &Piece, behind: usize, line: &str, source: &str) -> Option<Span> {
    let program = library.program(piece.unit)?;
    if piece.is_value {
        return program.spans.get(piece.step).copied();
    }
    let (lead, from) = (&program.ops.get(piece.step)?.lead, program.leads.get(piece.step)?.range());
    // As much of the line as this piece holds: an attribute without a value takes out what its lead ends with.
    let line = common(line, lead.get(behind..)?);
    let is_there = |at: &usize| source.get(*at..).is_some_and(|rest| rest.starts_with(line));
    let from_end = (from.end + behind).checked_sub(lead.len()).filter(is_there);
    let at = from_end
        .or_else(|| Some(from.start + behind).filter(is_there))
        // Lines that hold statements only were taken out.
        .or_else(|| Some(from.start + source.get(from.clone())?.find(line)?))?;
    Some(Span::new(at, at + line.trim_end().len()))
}
