//! The parsed template: statements and values as written, each with its span.

use crate::text::source::Span;

/// A name and where it is.
#[derive(Clone, Debug, PartialEq)]
pub struct Name {
    /// The name.
    pub text: String,
    /// Where it is.
    pub span: Span,
}

/// A run of nodes.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Block {
    /// The nodes, in order.
    pub nodes: Vec<Node>,
}

impl Block {
    /// Whether an `inherited` is anywhere in it.
    pub fn goes_on(&self) -> bool {
        self.nodes.iter().any(|node| match &node.kind {
            NodeKind::Inherited(_) => true,
            NodeKind::Capture(_, block) | NodeKind::Into(_, _, block) => block.goes_on(),
            NodeKind::If(arms, other) => arms.iter().map(|(_, block)| block).chain(other).any(Block::goes_on),
            NodeKind::Each(each) => {
                [Some(&each.body), each.between.as_ref(), each.none.as_ref()].into_iter().flatten().any(Block::goes_on)
            }
            NodeKind::Partial(call) | NodeKind::Component(call) => call.body.as_ref().is_some_and(Block::goes_on),
            NodeKind::Slot(_, default) => default.as_ref().is_some_and(Block::goes_on),
            _ => false,
        })
    }
}

/// A piece of literal text or a statement.
#[derive(Clone, Debug, PartialEq)]
pub struct Node {
    /// Where it is: a text's bytes, a statement's first tag.
    pub span: Span,
    /// What it is.
    pub kind: NodeKind,
}

/// What a node is.
#[derive(Clone, Debug, PartialEq)]
pub enum NodeKind {
    /// Literal text, as it will be printed.
    Text(String),
    /// White space at an end of a partial, which is printed inside `pre` only.
    Edge(String),
    /// The white space in front of a tag that is alone on its line; the line goes if it prints nothing.
    LineStart(String),
    /// What is behind such a tag, with the line break.
    LineEnd(String),
    /// `+{VALUE}`.
    Print(Expr),
    /// `+{raw VALUE}`.
    Raw(Expr),
    /// `+{let name = VALUE}`.
    Let(Name, Expr),
    /// `+{let name with} … +{end}`.
    Capture(Name, Block),
    /// `+{if V} … +{else if V} … +{else} … +{end}`.
    If(Vec<(Expr, Block)>, Option<Block>),
    /// `+{each x in LIST} …`.
    Each(Box<Each>),
    /// `+{partial NAME given …}`, with its body if it ends in `with`.
    Partial(Call),
    /// `+{component NAME given …}`, with its body if it ends in `with`.
    Component(Call),
    /// `+{tray NAME}`.
    Tray(Name),
    /// `+{inherited given …}`, with its body if it ends in `with`.
    Inherited(Call),
    /// `+{slot NAME}` or `+{slot NAME else} … +{end}`; without a name it takes the body.
    Slot(Option<Name>, Option<Block>),
    /// `+{into NAME} … +{end}`.
    Into(Name, Mode, Block),
    /// `+{answer STATUS TITLE}`.
    Answer(u16, Option<Expr>),
    /// `+{redirect STATUS REFERENCE}`.
    Redirect(u16, Expr),
    /// `+{use PATH}`.
    Use(Name),
    /// `+{used "styles"}` or `+{used "scripts"}`.
    Used(AssetKind),
    /// `+{dump VALUE}`.
    Dump(Expr),
}

/// What sort of asset a page requests.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum AssetKind {
    /// Style sheets, `.css`.
    Styles,
    /// Scripts, `.js` and `.mjs`.
    Scripts,
}

impl AssetKind {
    /// What an asset's path makes it; none for what a page can't be linked to.
    pub fn of(path: &str) -> Option<Self> {
        match path.rsplit_once('.')?.1 {
            "css" => Some(AssetKind::Styles),
            "js" | "mjs" => Some(AssetKind::Scripts),
            _ => None,
        }
    }
}

/// How a fill meets what would be in the slot.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Mode {
    /// It takes its place.
    Replace,
    /// It is before it.
    Before,
    /// It is after it.
    After,
}

/// A loop.
#[derive(Clone, Debug, PartialEq)]
pub struct Each {
    /// The name of the present member.
    pub name: Name,
    /// The name of the round's counters, if it has one.
    pub at: Option<Name>,
    /// What is gone through.
    pub list: Expr,
    /// What is done in each round.
    pub body: Block,
    /// What is between two rounds.
    pub between: Option<Block>,
    /// What is there when there is no round.
    pub none: Option<Block>,
}

/// A call of a partial, or of the next file in the chain.
#[derive(Clone, Debug, PartialEq)]
pub struct Call {
    /// The partial's name; a literal, or computed after a literal ending in `/`. `nothing` for `inherited`.
    pub name: Expr,
    /// The parameters given.
    pub given: Vec<(Name, Expr)>,
    /// The body after `with`.
    pub body: Option<Block>,
}

/// A value as written.
#[derive(Clone, Debug, PartialEq)]
pub struct Expr {
    /// Where it is.
    pub span: Span,
    /// How many values it nests, itself included.
    pub height: usize,
    /// What it is.
    pub kind: ExprKind,
}

impl Expr {
    /// A value that could not be read.
    pub fn broken(span: Span) -> Self {
        Self { span, height: 1, kind: ExprKind::Broken }
    }
}

/// What a value is.
#[derive(Clone, Debug, PartialEq)]
pub enum ExprKind {
    /// What could not be read; already reported.
    Broken,
    /// `nothing`.
    Nothing,
    /// `true` or `false`.
    Bool(bool),
    /// A whole number.
    Int(i64),
    /// A decimal number.
    Float(f64),
    /// A quoted text.
    Text(String),
    /// `[a, b]`.
    List(Vec<Expr>),
    /// `(a = 1, "b" = 2)`.
    Record(Vec<(Name, Expr)>),
    /// A name, `it` included.
    Name(String),
    /// `value.name`.
    Member(Box<Expr>, Name),
    /// `value.name(…)`.
    Method(Box<Expr>, Name, Vec<Expr>),
    /// `value[…]`.
    Index(Box<Expr>, Box<Expr>),
    /// `name(…)`.
    Function(Name, Vec<Expr>),
    /// `-x`.
    Negate(Box<Expr>),
    /// `not x`.
    Not(Box<Expr>),
    /// `a + b` and its like.
    Binary(Operator, Box<Expr>, Box<Expr>),
    /// `a and b`.
    And(Box<Expr>, Box<Expr>),
    /// `a or b`.
    Or(Box<Expr>, Box<Expr>),
    /// `if a then b else c`.
    If(Box<Expr>, Box<Expr>, Box<Expr>),
    /// `list where … order by …`.
    Query(Box<Query>),
}

/// An operator between two values that are both evaluated.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Operator {
    /// `*`
    Times,
    /// `/`
    Divide,
    /// `%`
    Remainder,
    /// `+`
    Plus,
    /// `-`
    Minus,
    /// `==`
    Equal,
    /// `!=`
    Unequal,
    /// `<`
    Less,
    /// `<=`
    AtMost,
    /// `>`
    More,
    /// `>=`
    AtLeast,
    /// `in`
    In,
    /// `has`
    Has,
}

/// A query over a list.
#[derive(Clone, Debug, PartialEq)]
pub struct Query {
    /// The list.
    pub list: Expr,
    /// The member's name, in addition to `it`.
    pub name: Option<Name>,
    /// `where`
    pub filter: Option<Expr>,
    /// `group by`
    pub group: Option<Expr>,
    /// `order by`: keys, and whether each is descending.
    pub order: Vec<(Expr, bool)>,
    /// `offset`
    pub offset: Option<Expr>,
    /// `limit`
    pub limit: Option<Expr>,
    /// `select`
    pub select: Option<Expr>,
}
