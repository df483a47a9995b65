//! The tree after placing: each hole knows its place, and addresses have a start and an end.

use crate::html::place::{Absent, EscapingRow, HtmlPlace, Written};
use crate::syntax::tree::{AssetKind, Expr, Mode, Name};
use crate::text::source::Span;

/// A run of placed nodes.
#[derive(Debug, Default)]
pub struct PlacedBlock {
    /// The nodes, in order.
    pub nodes: Vec<PlacedNode>,
}

/// A placed node and where it is in the file.
#[derive(Debug)]
pub struct PlacedNode {
    /// Where it is.
    pub span: Span,
    /// What it is.
    pub kind: PlacedKind,
}

/// What a placed node is.
#[derive(Debug)]
pub enum PlacedKind {
    /// Literal text.
    Text(String),
    /// White space at an end of a partial, which is printed inside `pre` only.
    Edge(String),
    /// A line begins that goes if its only tag prints nothing.
    LineStart,
    /// Such a line ends: how many bytes are in front of its tag, and what is behind it.
    LineEnd(usize, String),
    /// A value, escaped for its place.
    Print(Expr, HtmlPlace),
    /// A text printed as HTML.
    Raw(Expr),
    /// An attribute that is one hole: how many bytes of the text before it are its name and quote, the value, its
    /// place, what it does with nothing.
    Attribute(usize, Expr, HtmlPlace, Absent),
    /// An address that holds values begins; up to its end, values and texts are parts of it.
    AddressStart(EscapingRow, Written),
    /// A literal part of an address, its entities decoded.
    AddressText(String),
    /// The address ends.
    AddressEnd,
    /// `let name = VALUE`
    Let(Name, Expr),
    /// `let name with`
    Capture(Name, PlacedBlock),
    /// `if`
    If(Vec<(Expr, PlacedBlock)>, Option<PlacedBlock>),
    /// `each`
    Each(Box<PlacedEach>),
    /// `partial`
    Partial(PlacedCall),
    /// `component`
    Component(PlacedCall),
    /// `tray`
    Tray(Name),
    /// `inherited`
    Inherited(PlacedCall),
    /// `slot`, with the place that a fill is printed for.
    Slot(Option<Name>, HtmlPlace, Option<PlacedBlock>),
    /// `into`
    Into(Name, Mode, PlacedBlock),
    /// `answer`
    Answer(u16, Option<Expr>),
    /// `redirect`
    Redirect(u16, Expr),
    /// `use`
    Use(Name),
    /// `used`
    Used(AssetKind),
    /// `dump`
    Dump(Expr),
}

/// A placed loop; see [`crate::syntax::tree::Each`].
#[derive(Debug)]
pub struct PlacedEach {
    /// The name of the present member.
    pub name: Name,
    /// The name of the round.
    pub at: Option<Name>,
    /// What is gone through.
    pub list: Expr,
    /// The round's body.
    pub body: PlacedBlock,
    /// Between two rounds.
    pub between: Option<PlacedBlock>,
    /// Without any round.
    pub none: Option<PlacedBlock>,
}

/// A placed call; see [`crate::syntax::tree::Call`].
#[derive(Debug)]
pub struct PlacedCall {
    /// The partial's name.
    pub name: Expr,
    /// The parameters given.
    pub given: Vec<(Name, Expr)>,
    /// The body after `with`.
    pub body: Option<PlacedBlock>,
    /// Whether it is inside a `pre`.
    pub in_pre: bool,
}
