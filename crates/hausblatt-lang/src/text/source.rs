//! Places in a text: byte spans inside, lines and columns only when shown.

use std::sync::Arc;

/// A half-open range of bytes in one file.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Span {
    /// First byte.
    pub start: u32,
    /// One past the last byte.
    pub end: u32,
}

impl Span {
    /// The span from `start` up to, not including, `end`, in bytes.
    pub fn new(start: usize, end: usize) -> Self {
        let clamp = |at: usize| u32::try_from(at).unwrap_or(u32::MAX);
        Self { start: clamp(start), end: clamp(end) }
    }

    /// The smallest span that holds both.
    pub fn to(self, other: Span) -> Self {
        Self { start: self.start.min(other.start), end: self.end.max(other.end) }
    }

    /// The bytes as a range, for slicing.
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }

    /// This part of `text`, or nothing where the span does not fit it.
    pub fn of(self, text: &str) -> &str {
        text.get(self.range()).unwrap_or("")
    }
}

/// A span in a named file.
#[derive(Clone, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Place {
    /// Path of the file as users know it, relative to the site.
    pub path: Arc<str>,
    /// Where in it.
    pub span: Span,
}

/// A line and a column, both from 1; columns count Unicode scalar values.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Position {
    /// Line, from 1.
    pub line: usize,
    /// Column, from 1.
    pub column: usize,
}

/// Where the byte `offset` of `text` is. An offset after the end counts as the end.
pub fn position(text: &str, offset: u32) -> Position {
    let mut at = (offset as usize).min(text.len());
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    let before = &text[..at];
    let line_start = before.rfind('\n').map_or(0, |at| at + 1);
    Position {
        line: before.bytes().filter(|&byte| byte == b'\n').count() + 1,
        column: before[line_start..].chars().count() + 1,
    }
}
