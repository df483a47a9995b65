//! What the words of a file mean, for those who look names up or change them.

use crate::text::source::Span;
use crate::types::RecordId;
use crate::value::members::Of;
use crate::value::shape::Symbol;

/// A word of a file, and what it means there.
#[derive(Clone, Debug, PartialEq)]
pub struct Word {
    /// Where it is; of a quoted one with its quotes.
    pub span: Span,
    /// What it means.
    pub meaning: Meaning,
}

/// What a word means.
#[derive(Clone, Debug, PartialEq)]
pub enum Meaning {
    /// A name that the file makes itself, with its place in the frame.
    Own(Symbol, u16),
    /// The same where it is made.
    Made(Symbol, u16),
    /// A parameter of the file.
    Parameter(Symbol),
    /// The global value with this number.
    Global(u16),
    /// A member of a record of one of these sorts; without any where nothing is known of the value.
    Member(Symbol, Box<[RecordId]>),
    /// A text that is compared with such a member, or looked for in it.
    Compared(Symbol, Box<[RecordId]>),
    /// A member that all values of a kind have.
    PartOf(Symbol, Of),
    /// A name that nothing has; what there is.
    Unknown(Box<[Symbol]>),
    /// A slot, where it is.
    Slot(Symbol),
    /// A tray that is printed.
    Tray(Symbol),
}
