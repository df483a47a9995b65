//! Values while rendering: small, `Copy`, borrowed from the World or the render's arena.

use std::cell::Cell;

use bumpalo::Bump;
use rustc_hash::FxHashSet;

use crate::value::arithmetic::whole_and_decimal;
use crate::value::host::Host;
use crate::value::moment::Moment;
use crate::value::shape::Symbol;

/// A value of the language. Nothing in it is counted or owned.
#[derive(Clone, Copy)]
#[repr(u64)]
pub enum Value<'a> {
    /// The absent value.
    Nothing,
    /// True or false.
    Bool(bool),
    /// A whole number.
    Int(i64),
    /// A decimal number.
    Float(f64),
    /// A day or a moment.
    Date(Moment),
    /// Plain text.
    Text(&'a str),
    /// HTML that is safe as it is.
    Html(&'a str),
    /// A list made while rendering.
    List(&'a [Value<'a>]),
    /// A list that is elsewhere and is read as needed.
    Seq(&'a dyn Seq),
    /// Named members.
    Record(&'a dyn Record),
}

/// Named members, read by symbol.
pub trait Record: Sync {
    /// The member `symbol`, `Nothing` if there is none.
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a>;

    /// Whether the member `symbol` counts as true.
    fn is_true<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> bool {
        self.get(symbol, scratch).truth()
    }

    /// The member `symbol` as it is printed between tags and in quoted attributes, where that is there already; otherwise
    /// [`Record::get`] has to be asked. It is for speed alone: most of what a page prints is such a text.
    fn ready_html(&self, _: Symbol) -> Option<&str> {
        None
    }

    /// The same as it is printed where an address is, if it is an ordinary path on this site.
    fn ready_path(&self, _: Symbol) -> Option<&str> {
        None
    }

    /// The members' names, in the order of the file they come from.
    fn keys(&self) -> Vec<Symbol>;

    /// What makes two records the same one; `None` compares unequal to all.
    fn identity(&self) -> Option<(u32, u32)> {
        None
    }

    /// The text it prints as and equals, where it means one (an image's address, a term's id).
    fn as_text(&self) -> Option<&str> {
        None
    }

    /// Whether it is an image, which can be made in other sizes.
    fn is_image(&self) -> bool {
        false
    }

    /// Addresses of one image, each with its width in pixels, where it is what `srcset` is made of.
    fn as_candidates(&self) -> Option<&[(&str, u32)]> {
        None
    }
}

/// A list that is elsewhere.
pub trait Seq: Sync {
    /// How many members it has.
    fn len(&self) -> usize;

    /// Whether it has none.
    fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The member at `index`, from 0; `Nothing` outside.
    fn at<'a>(&'a self, index: usize, scratch: &Scratch<'a>) -> Value<'a>;

    /// The member at `index` if it is a record that is there already; otherwise [`Seq::at`] has to be asked. It is for speed
    /// alone.
    fn ready_record(&self, _index: usize) -> Option<&dyn Record> {
        None
    }

    /// A named member of the list itself, such as a collection's `label`.
    fn member<'a>(&'a self, _symbol: Symbol, _scratch: &Scratch<'a>) -> Option<Value<'a>> {
        None
    }
}

/// What an arena may hold beyond the limit: the room that a page begins with.
const ROOM: usize = 64 << 10;

/// Where values made while rendering live, with what they may cost.
pub struct Scratch<'a> {
    arena: &'a Bump,
    /// How much the arena held before.
    before: usize,
    limit: usize,
    /// How much the arena may hold.
    most_held: usize,
    full: Cell<bool>,
    /// Steps that went into comparing, searching and writing.
    spent: Cell<u64>,
    /// How many of those there may be.
    most: Cell<u64>,
    /// The last number that was given out.
    number: Cell<u32>,
    /// The site that is rendered, for values that ask it.
    host: Option<&'a dyn Host>,
}

impl<'a> Scratch<'a> {
    /// A scratch in `arena` for at most `limit` bytes.
    pub fn new(arena: &'a Bump, limit: usize) -> Self {
        let before = arena.allocated_bytes();
        Self {
            arena,
            before,
            limit,
            most_held: before.saturating_add(limit).saturating_add(ROOM),
            full: Cell::new(false),
            spent: Cell::new(0),
            most: Cell::new(u64::MAX),
            number: Cell::new(0),
            host: None,
        }
    }

    /// The same for values of this site.
    pub fn with_host(self, host: &'a dyn Host) -> Self {
        Self { host: Some(host), ..self }
    }

    /// The site that is rendered.
    pub fn host(&self) -> Option<&'a dyn Host> {
        self.host
    }

    /// The same with at most so many steps for comparing, searching and writing.
    pub(crate) fn with_steps(self, most: u64) -> Self {
        self.most.set(most);
        self
    }

    /// A number that nothing else in this render has.
    pub fn next_number(&self) -> u32 {
        self.number.set(self.number.get().wrapping_add(1));
        self.number.get()
    }

    /// Counts so many steps; false once there were too many. The render stops with an error then, so whoever goes through
    /// much may end early with any result.
    pub fn spend(&self, steps: usize) -> bool {
        self.spent.set(self.spent.get().saturating_add(steps as u64));
        !self.is_spent()
    }

    /// How many steps were counted.
    pub(crate) fn spent(&self) -> u64 {
        self.spent.get()
    }

    /// Whether there were too many steps.
    pub(crate) fn is_spent(&self) -> bool {
        self.spent.get() > self.most.get()
    }

    /// Where everything lives.
    pub(crate) fn arena(&self) -> &'a Bump {
        self.arena
    }

    /// Whether something did not fit, or what was printed into the arena has passed the limit. The render stops
    /// with an error then.
    pub fn is_full(&self) -> bool {
        self.full.get() || self.arena.allocated_bytes() > self.most_held
    }

    /// Keeps a text. Over the limit it keeps an empty one and says so in [`Scratch::is_full`].
    pub fn text(&self, text: &str) -> &'a str {
        if self.admits(text.len()) { self.arena.alloc_str(text) } else { "" }
    }

    /// Keeps a list, with the same limit.
    pub fn list(&self, values: &[Value<'a>]) -> &'a [Value<'a>] {
        if self.admits(size_of_val(values)) { self.arena.alloc_slice_copy(values) } else { &[] }
    }

    /// Keeps any list of borrowed things, with the same limit.
    pub fn keep_all<T: Copy>(&self, things: &[T]) -> &'a [T] {
        if self.admits(size_of_val(things)) { self.arena.alloc_slice_copy(things) } else { &[] }
    }

    /// Keeps a record or a sequence. It must hold borrowed data only, since nothing drops it.
    pub fn keep<T>(&self, thing: T) -> &'a T {
        self.admits(size_of::<T>());
        self.arena.alloc(thing)
    }

    /// How many bytes were taken since it began.
    fn used(&self) -> usize {
        self.arena.allocated_bytes().saturating_sub(self.before)
    }

    fn admits(&self, bytes: usize) -> bool {
        let fits = self.used().saturating_add(bytes) <= self.limit;
        if !fits {
            self.full.set(true);
        }
        fits
    }
}

impl<'a> Value<'a> {
    /// Whether it counts as true.
    pub fn truth(self) -> bool {
        match self {
            Value::Nothing => false,
            Value::Bool(truth) => truth,
            Value::Int(number) => number != 0,
            Value::Float(number) => number != 0.0,
            Value::Text(text) => !text.is_empty(),
            Value::Html(html) => !html.trim_ascii().is_empty(),
            Value::List(_) | Value::Seq(_) => self.len().is_some_and(|len| len > 0),
            Value::Date(_) | Value::Record(_) => true,
        }
    }

    /// The number of members, if it is a list.
    pub fn len(self) -> Option<usize> {
        match self {
            Value::List(list) => Some(list.len()),
            Value::Seq(seq) => Some(seq.len()),
            _ => None,
        }
    }

    /// Whether it is a list.
    pub fn is_list(self) -> bool {
        matches!(self, Value::List(_) | Value::Seq(_))
    }

    /// Whether it is a list without members.
    pub fn is_empty(self) -> bool {
        self.len() == Some(0)
    }

    /// The member of a list at `index`, from 0; `Nothing` outside and for other kinds.
    pub fn at(self, index: usize, scratch: &Scratch<'a>) -> Value<'a> {
        match self {
            Value::List(list) => list.get(index).copied().unwrap_or(Value::Nothing),
            Value::Seq(seq) => seq.at(index, scratch),
            _ => Value::Nothing,
        }
    }

    /// All members of a list; empty for other kinds.
    pub fn members(self, scratch: &Scratch<'a>) -> impl Iterator<Item = Value<'a>> {
        (0..self.len().unwrap_or(0)).map(move |index| self.at(index, scratch))
    }

    /// The text, if it is one or a record that means one.
    pub fn as_text(self) -> Option<&'a str> {
        match self {
            Value::Text(text) => Some(text),
            Value::Record(record) => record.as_text(),
            _ => None,
        }
    }

    /// What sort of value it is, with its article, for messages.
    pub fn kind(self) -> &'static str {
        match self {
            Value::Nothing => "nothing",
            Value::Bool(true) => "true",
            Value::Bool(false) => "false",
            Value::Int(_) | Value::Float(_) => "a number",
            Value::Date(_) => "a date",
            Value::Text(_) => "a text",
            Value::Html(_) => "HTML",
            Value::List(_) | Value::Seq(_) => "a list",
            Value::Record(_) => "a record",
        }
    }

    /// Whether two values are equal, as `==` says. Kinds never equal each other, except numbers,
    /// and records that mean a text.
    pub fn equals(self, other: Value<'a>, scratch: &Scratch<'a>) -> bool {
        self.equals_within(other, scratch, &mut None)
    }

    fn equals_within(self, other: Value<'a>, scratch: &Scratch<'a>, known: &mut Option<Known>) -> bool {
        match (self, other) {
            (Value::Nothing, Value::Nothing) => true,
            (Value::Bool(a), Value::Bool(b)) => a == b,
            (Value::Int(a), Value::Int(b)) => a == b,
            (Value::Int(a), Value::Float(b)) | (Value::Float(b), Value::Int(a)) => whole_and_decimal(a, b).is_eq(),
            (Value::Float(a), Value::Float(b)) => a == b,
            (Value::Date(a), Value::Date(b)) => a.is_same(b),
            (Value::Text(a), Value::Text(b)) | (Value::Html(a), Value::Html(b)) => same_texts(a, b, scratch),
            (Value::Record(record), Value::Text(text)) | (Value::Text(text), Value::Record(record)) => {
                record.as_text().is_some_and(|other| same_texts(other, text, scratch))
            }
            (Value::Record(a), Value::Record(b)) => a.identity().is_some() && a.identity() == b.identity(),
            (a, b) => same_lists(a, b, scratch, known),
        }
    }
}

/// Pairs of lists that were found equal, by where they are.
type Known = FxHashSet<(usize, usize)>;

fn same_texts(a: &str, b: &str, scratch: &Scratch<'_>) -> bool {
    a.len() == b.len() && {
        scratch.spend(a.len() / 64);
        a == b
    }
}

/// Whether two lists have equal members. Lists that are shared are compared once.
fn same_lists<'a>(a: Value<'a>, b: Value<'a>, scratch: &Scratch<'a>, known: &mut Option<Known>) -> bool {
    let (Some(left), Some(right)) = (a.len(), b.len()) else { return false };
    if left != right {
        return false;
    }
    let pair = match (a, b) {
        (Value::List(a), Value::List(b)) => Some((a.as_ptr() as usize, b.as_ptr() as usize)),
        _ => None,
    };
    if pair.is_some_and(|pair| pair.0 == pair.1 || known.as_ref().is_some_and(|known| known.contains(&pair))) {
        return true;
    }
    let mut members = a.members(scratch).zip(b.members(scratch));
    let same = members.all(|(x, y)| scratch.spend(1) && x.equals_within(y, scratch, known));
    if let Some(pair) = pair.filter(|_| same && left > 1) {
        known.get_or_insert_default().insert(pair);
    }
    same
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Three words: what a render copies all the time must stay small.
    #[test]
    fn a_value_is_24_bytes() {
        assert_eq!(size_of::<Value<'_>>(), 24);
    }
}
