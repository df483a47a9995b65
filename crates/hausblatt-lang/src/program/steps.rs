//! Steps, values and queries as they are run.

use std::sync::Arc;

use crate::html::place::{Absent, EscapingRow, HtmlPlace, Written};
use crate::program::{Memory, Word};
use crate::role::Role;
use crate::syntax::tree::{AssetKind, Mode, Operator};
use crate::text::ending::Ending;
use crate::text::source::Span;
use crate::types::Type;
use crate::value::Value;
use crate::value::datum::Datum;
use crate::value::shape::Symbol;

/// A piece of [`Program::kept`].
#[derive(Clone, Copy, Debug, Default)]
pub struct Kept {
    /// First byte.
    pub start: u32,
    /// One past the last byte.
    pub end: u32,
}

/// The number of a value's code in [`Program::codes`].
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Code(pub u32);

/// A step: print the text before it, then act.
#[derive(Clone, Debug)]
pub struct Op {
    /// The text before it.
    pub lead: Box<str>,
    /// What it does.
    pub act: Act,
    /// The named value, or the member of one, that its value is, if it is no more than that.
    pub read: Read,
}

/// A named value or a member of one: what most tags print. It is in the step itself, and with it how a text is printed
/// that it is, so that both are done without a look at the value's code.
#[derive(Clone, Copy, Debug, Default)]
pub enum Read {
    /// The value is something else.
    #[default]
    Other,
    /// What is at this place of the frame.
    Slot(Printing, u16),
    /// The global value with this number.
    Global(Printing, u16),
    /// A member of what is at this place of the frame.
    SlotMember(Printing, u16, Symbol),
    /// A member of the global value with this number.
    GlobalMember(Printing, u16, Symbol),
}

/// How a step prints a text that it reads.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Printing {
    /// Escaped for HTML.
    Escaped,
    /// As it is, if it is an ordinary path on this site.
    Path,
    /// Otherwise, or it prints no text.
    Other,
}

impl Read {
    /// What a step that acts so reads.
    pub fn of(act: Act, codes: &[Step]) -> Self {
        let (code, printing) = match act {
            Act::PrintText(code) | Act::Print(code, HtmlPlace::Title) => (code, Printing::Escaped),
            Act::Unless(code, _) | Act::Attribute { value: code, absent: Absent::Boolean, .. } => {
                (code, Printing::Other)
            }
            Act::Print(code, place) | Act::Attribute { value: code, place, .. } => match place {
                HtmlPlace::Attribute => (code, Printing::Escaped),
                HtmlPlace::Address(..) => (code, Printing::Path),
                _ => (code, Printing::Other),
            },
            _ => return Self::Other,
        };
        match codes.get(code.0 as usize) {
            Some(&Step::Slot(slot)) => Self::Slot(printing, slot),
            Some(&Step::Global(number)) => Self::Global(printing, number),
            Some(&Step::SlotMember(slot, symbol)) => Self::SlotMember(printing, slot, symbol),
            Some(&Step::GlobalMember(number, symbol)) => Self::GlobalMember(printing, number, symbol),
            _ => Self::Other,
        }
    }
}

/// What a step does. Targets are numbers of steps.
#[derive(Clone, Copy, Debug)]
#[allow(missing_docs, reason = "the fields' names say it; the variants tell what is done with them")]
pub enum Act {
    /// The file ends.
    End,
    /// Nothing more than the text before it.
    Text,
    /// Prints a value as text between tags.
    PrintText(Code),
    /// Prints a value for another place.
    Print(Code, HtmlPlace),
    /// Prints a text as HTML.
    Raw(Code),
    /// Prints the value of an attribute that is one hole: how many bytes of the text before it are its name and
    /// quote, and what it does with nothing.
    Attribute { value: Code, cut: u32, place: HtmlPlace, absent: Absent },
    /// An address begins.
    AddressStart,
    /// A literal part of it.
    AddressText(Kept),
    /// A value in it.
    AddressValue(Code),
    /// It ends, and is checked and printed.
    AddressEnd(EscapingRow, Written),
    /// Names a value.
    Let(Code, u16),
    /// What follows is kept aside, up to its `Keep`, `Fill` or call.
    Capture,
    /// Ends a capture and names it.
    Keep(u16),
    /// Ends a capture and fills a slot: of the call being made, or of the layout.
    Fill { name: Symbol, mode: Mode, to_call: bool },
    /// Prints white space inside a `pre` only.
    Edge(Kept),
    /// Begins a line that goes if what follows prints nothing.
    LineStart,
    /// Ends such a line: how long its white space in front is, and what is behind.
    LineEnd { indent: u32, behind: Kept },
    /// Jumps where the value counts as false.
    Unless(Code, u32),
    /// Jumps.
    Jump(u32),
    /// Begins a loop; jumps to `none` without members.
    Each { list: Code, slot: u16, at: Option<u16>, none: u32 },
    /// Goes on to the next member, or leaves the loop.
    Next { exit: u32 },
    /// Binds the next member and jumps back to the body.
    Round { body: u32 },
    /// Both in one, where nothing is between two rounds.
    Again { body: u32 },
    /// A call's body begins: fills in it are the call's.
    Body,
    /// Calls the partial numbered so in [`Program::calls`].
    Partial { call: u32, body: bool },
    /// Both ends of a line and a call without a body between them in one.
    PartialLine { call: u32, indent: u16, behind: Kept },
    /// Prints the components that content placed in a tray.
    Tray(Kept),
    /// Goes on with the next file of the chain.
    Inherited { call: u32, body: bool },
    /// A slot: prints its fill and jumps to its end, or extends its default.
    Slot { name: Option<Symbol>, place: HtmlPlace, end: u32 },
    /// A slot ends: prints what is filled in after it.
    SlotEnd { name: Option<Symbol>, place: HtmlPlace },
    /// Stops with an error status.
    Answer(u16, Option<Code>),
    /// Stops with a redirect.
    Redirect(u16, Code),
    /// Asks for an asset.
    Use(Kept),
    /// Prints the links for what was requested.
    Used(AssetKind),
    /// Shows a value's content.
    Dump(Code),
    /// Gives a global value its content, in a prepare file.
    SetGlobal(Code, u16),
}

/// The code of a value. Arguments are ranges of [`Program::arguments`].
#[derive(Clone, Copy, Debug)]
pub enum Step {
    /// `nothing`
    Nothing,
    /// A literal truth.
    Bool(bool),
    /// A literal whole number.
    Int(i64),
    /// A literal decimal number.
    Float(f64),
    /// A literal text.
    Text(Kept),
    /// A named value of the file.
    Slot(u16),
    /// A global value.
    Global(u16),
    /// A member of a named value.
    SlotMember(u16, Symbol),
    /// A member of a global value.
    GlobalMember(u16, Symbol),
    /// A member of any value.
    Member(Code, Symbol),
    /// A row of [`crate::value::members::MEMBERS`] with arguments.
    Method(Code, Symbol, Arguments),
    /// A row of [`crate::value::functions::FUNCTIONS`].
    Function(u8, Arguments),
    /// `filled(name)`
    Filled(Option<Symbol>),
    /// `value[key]`
    Index(Code, Code),
    /// The same of what has the names numbered so in [`Program::expected_names`]; another name is reported.
    Named(u32, Code, Code),
    /// `[a, b]`
    List(Arguments),
    /// `-x`
    Negate(Code),
    /// `not x`
    Not(Code),
    /// `a + b` and its like
    Binary(Operator, Code, Code),
    /// `a and b`
    And(Code, Code),
    /// `a or b`
    Or(Code, Code),
    /// `if a then b else c`
    If(Code, Code, Code),
    /// A query, numbered in [`Program::queries`].
    Query(u32),
    /// A value for each member of a list, which is in the slot meanwhile.
    Select(Code, u16, Code),
    /// A record with the names numbered so in [`Program::record_names`].
    Record(u32, Arguments),
}

/// The names of one sort of what a site has.
#[derive(Clone, Debug)]
pub struct ExpectedNames {
    /// What each is, as in `menu`.
    pub what: &'static str,
    /// The names.
    pub names: Box<[Symbol]>,
}

/// A range of [`Program::arguments`].
#[derive(Clone, Copy, Debug)]
pub struct Arguments {
    /// The first.
    pub start: u32,
    /// How many.
    pub count: u16,
}

/// A compiled query.
#[derive(Clone, Debug)]
pub struct QueryPlan {
    /// The list.
    pub list: Code,
    /// The slot of the present member.
    pub slot: u16,
    /// `where`
    pub filter: Option<Code>,
    /// `group by`
    pub group: Option<Code>,
    /// `order by`, and whether descending.
    pub order: Box<[(Code, bool)]>,
    /// `offset`
    pub offset: Option<Code>,
    /// `limit`
    pub limit: Option<Code>,
    /// Whether its result is the same for every request.
    pub is_constant: bool,
    /// Whether its members have the same order for every request, though not all of them are wanted by each.
    pub presorts: bool,
    /// How an index finds what the filter keeps, if one can.
    pub lookup: Option<Lookup>,
    /// What was evaluated before.
    pub memory: Memory,
}

/// A filter that looks for one value of a field, in a list that is the same for every request.
#[derive(Clone, Copy, Debug)]
pub struct Lookup {
    /// The field of the present member.
    pub field: Code,
    /// What is looked for; it does not depend on the member.
    pub wanted: Code,
    /// Whether the field is a list that has it, or else equals it.
    pub has: bool,
}

/// A parameter that a file takes.
#[derive(Clone, Debug)]
pub struct Parameter {
    /// Its name.
    pub name: Symbol,
    /// Its default; none if it is required.
    pub default: Option<Datum>,
    /// What is known of its values, by its default.
    pub of: Type,
    /// What is known of its values, by what is given in the calls of the file.
    pub given: Type,
}

impl Parameter {
    /// What it is when nothing is given.
    pub fn default(&self) -> Value<'_> {
        self.default.as_ref().map_or(Value::Nothing, Datum::value)
    }
}

/// A parameter that a call gives.
#[derive(Clone, Debug)]
pub struct Given {
    /// Its name.
    pub name: Symbol,
    /// Its value.
    pub value: Code,
    /// Where the name is.
    pub span: Span,
    /// What is known of its value.
    pub of: Type,
}

/// Which partial or component is called.
#[derive(Clone, Debug)]
pub enum Callee {
    /// One named by a literal.
    Named(String),
    /// One whose name is computed after this literal, which ends in `/`.
    Computed(String, Code),
    /// The component of this name.
    Component(String),
    /// The next file in the chain.
    Next,
}

/// A call of another file.
#[derive(Clone, Debug)]
pub struct CallSite {
    /// What is called.
    pub callee: Callee,
    /// Where the name is.
    pub span: Span,
    /// The parameters given.
    pub given: Box<[Given]>,
    /// The slots that the call's body fills.
    pub fills: Box<[(Symbol, Span)]>,
    /// Whether its body prints something of its own, for the nameless slot.
    pub has_body: bool,
    /// Whether it is inside a `pre`.
    pub in_pre: bool,
}

/// Something outside the file that a literal names.
#[derive(Clone, Debug)]
pub struct Mention {
    /// What is named.
    pub what: Mentioned,
    /// The literal.
    pub text: String,
    /// Where it is.
    pub span: Span,
}

/// What a literal names.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Mentioned {
    /// An address that is redirected to.
    Address,
    /// A reference given to `url`.
    Reference,
    /// A path given to `asset`.
    Asset,
    /// A page or an entry given to `page` or `entry`, as a reference.
    Content,
}

/// A compiled file.
#[derive(Clone, Debug)]
pub struct Program {
    /// The file's path, as diagnostics name it.
    pub path: Arc<str>,
    /// What the file is.
    pub role: Role,
    /// What the file is written in.
    pub ending: Ending,
    /// Texts that are not printed as they come: literals of values, parts of attributes and addresses.
    pub kept: Box<str>,
    /// The steps.
    pub ops: Box<[Op]>,
    /// Where each step is.
    pub spans: Box<[Span]>,
    /// Where the text before each step was taken from.
    pub leads: Box<[Span]>,
    /// The code of values.
    pub codes: Box<[Step]>,
    /// Where each value is.
    pub code_spans: Box<[Span]>,
    /// The arguments of methods, functions and lists.
    pub arguments: Box<[Code]>,
    /// The queries.
    pub queries: Box<[QueryPlan]>,
    /// The members' names of the records that it writes out.
    pub record_names: Box<[Box<[Symbol]>]>,
    /// The names that the site has where one is computed.
    pub expected_names: Box<[ExpectedNames]>,
    /// What it takes; the first slots of its frame.
    pub parameters: Box<[Parameter]>,
    /// Whether it says what it takes; a file that does not, and goes on, takes what the next one does.
    pub states_parameters: bool,
    /// How many named values it has, parameters included.
    pub frame: u16,
    /// The files it calls.
    pub calls: Box<[CallSite]>,
    /// The slots it has, without the nameless one.
    pub slots: Box<[Symbol]>,
    /// Whether it has the nameless slot, which takes the body of a call or a template's output.
    pub takes_body: bool,
    /// The slots of the layout that it fills.
    pub layout_fills: Box<[(Symbol, Span)]>,
    /// The slots that it asks `filled` about.
    pub asked_filled: Box<[(Symbol, Span)]>,
    /// The trays that it prints.
    pub trays: Box<[String]>,
    /// Whether it extends the next file of its chain.
    pub continues: bool,
    /// The statuses that an `answer` or `redirect` in it may turn the answer into.
    pub answers: Box<[u16]>,
    /// The global values that it reads, by number.
    pub globals_read: Box<[u16]>,
    /// Where it begins a document of its own, if it does.
    pub document: Option<Span>,
    /// What its literals name outside it.
    pub mentions: Box<[Mention]>,
    /// The global values that a prepare file sets.
    pub sets: Box<[Setting]>,
    /// What its words mean.
    pub words: Box<[Word]>,
}

/// A global value that a prepare file sets.
#[derive(Clone, Debug)]
pub struct Setting {
    /// Its number.
    pub global: u16,
    /// Where its name is.
    pub span: Span,
    /// Whether its new value is made of what it was.
    pub extends: bool,
    /// The global values that its new value is made of.
    pub reads: Box<[u16]>,
    /// What is known of its new value.
    pub of: Type,
}

impl Program {
    /// The default of the parameter with this number.
    pub fn default(&self, number: usize) -> Value<'_> {
        self.parameters.get(number).map_or(Value::Nothing, Parameter::default)
    }

    /// A text in a step.
    pub fn kept(&self, kept: Kept) -> &str {
        self.kept.get(kept.start as usize..kept.end as usize).unwrap_or("")
    }
}
