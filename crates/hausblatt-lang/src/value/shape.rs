//! Names as numbers, and the slots of records that have them.

use rustc_hash::FxHashMap;

/// A member's name, interned: equal names have equal numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Symbol(pub u32);

/// Declares symbols with fixed numbers, so that records can match on them.
///
/// `symbols! { 0; TITLE = "title", DATE = "date" }` makes the constants `TITLE` and `DATE`, numbered
/// from 0, and a list `NAMES` that an [`Interner`] is started with.
#[macro_export]
macro_rules! symbols {
    ($first:expr; $($constant:ident = $name:literal),* $(,)?) => {
        #[allow(non_camel_case_types, clippy::upper_case_acronyms)]
        #[repr(u32)]
        enum Number { $($constant),* }
        $(#[doc = concat!("The name `", $name, "`.")]
        pub const $constant: $crate::value::shape::Symbol = $crate::value::shape::Symbol($first + Number::$constant as u32);)*
        /// All names with fixed numbers, in the order of their numbers.
        pub const NAMES: &[&str] = &[$($name),*];
    };
}

/// Gives names their numbers.
#[derive(Clone, Debug, Default)]
pub struct Interner {
    names: Vec<Box<str>>,
    numbers: FxHashMap<Box<str>, Symbol>,
}

impl Interner {
    /// An interner that already knows `names`, numbered from 0.
    pub fn starting_with(names: &[&str]) -> Self {
        let mut interner = Self::default();
        for name in names {
            interner.intern(name);
        }
        interner
    }

    /// The number of `name`, a new one if it has none.
    pub fn intern(&mut self, name: &str) -> Symbol {
        if let Some(&symbol) = self.numbers.get(name) {
            return symbol;
        }
        let symbol = Symbol(u32::try_from(self.names.len()).unwrap_or(u32::MAX));
        self.names.push(name.into());
        self.numbers.insert(name.into(), symbol);
        symbol
    }

    /// Whether all names of another have the same numbers here.
    pub fn begins_with(&self, other: &Self) -> bool {
        self.names.starts_with(&other.names)
    }

    /// The number of `name`, if it has one.
    pub fn find(&self, name: &str) -> Option<Symbol> {
        self.numbers.get(name).copied()
    }

    /// The name after a number.
    pub fn name(&self, symbol: Symbol) -> &str {
        self.names.get(symbol.0 as usize).map_or("?", |name| name)
    }
}

/// Which members a record has, and where each is.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Shape {
    names: Box<[Symbol]>,
    /// A name and its slot, by the last bits of the name's number, or behind that place if another name has it: most
    /// names are found at once, without a look at the names themselves.
    hints: [(Symbol, u32); HINTS],
}

/// How many hints a shape has.
const HINTS: usize = 32;
/// With at most so many names all of them are among the hints, and some hints are free.
const HINTED: usize = 24;
/// A number that no name has.
const NO_SYMBOL: Symbol = Symbol(u32::MAX);

impl Default for Shape {
    fn default() -> Self {
        Self::new([])
    }
}

impl Shape {
    /// The shape with these names, in this order.
    pub fn new(names: impl Into<Box<[Symbol]>>) -> Self {
        let names = names.into();
        let mut hints = [(NO_SYMBOL, 0); HINTS];
        // Among more names only those at their first place are found by a hint.
        let tried = if names.len() > HINTED { 1 } else { HINTS };
        for (slot, &name) in names.iter().enumerate() {
            let free = places(name).take(tried).find(|&at| hints[at].0 == NO_SYMBOL || hints[at].0 == name);
            if let Some(hint) = free.map(|at| &mut hints[at]).filter(|hint| hint.0 == NO_SYMBOL) {
                *hint = (name, u32::try_from(slot).unwrap_or(u32::MAX));
            }
        }
        Self { names, hints }
    }

    /// The slot of `symbol`, from 0.
    #[inline]
    pub fn slot(&self, symbol: Symbol) -> Option<usize> {
        let (name, slot) = self.hints[symbol.0 as usize % HINTS];
        if name == symbol {
            return Some(slot as usize);
        }
        self.slot_behind(symbol)
    }

    /// The slot of a symbol that is not at its first place.
    fn slot_behind(&self, symbol: Symbol) -> Option<usize> {
        if self.names.len() > HINTED {
            return self.names.iter().position(|&name| name == symbol);
        }
        let mut taken = places(symbol).map(|at| self.hints[at]).take_while(|(name, _)| *name != NO_SYMBOL);
        taken.find(|(name, _)| *name == symbol).map(|(_, slot)| slot as usize)
    }

    /// The names in order.
    pub fn names(&self) -> &[Symbol] {
        &self.names
    }
}

/// Where the hint of a name may be, the first place first.
fn places(name: Symbol) -> impl Iterator<Item = usize> {
    (0..HINTS).map(move |behind| (name.0 as usize % HINTS + behind) % HINTS)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_name_has_its_slot_whatever_the_hints_say() {
        for (step, count) in [1, 7, 32, 64].iter().flat_map(|step| [1, 5, 24, 25, 300].map(|count| (step, count))) {
            let names: Vec<Symbol> = (0..count).map(|at| Symbol(at * step)).collect();
            let shape = Shape::new(names.clone());
            for (slot, &name) in names.iter().enumerate() {
                assert_eq!(shape.slot(name), Some(slot));
                assert_eq!(shape.slot(Symbol(name.0 + count * step)), None);
            }
        }
        let twice = Shape::new([Symbol(5), Symbol(37), Symbol(5)]);
        assert_eq!([5, 37, 69].map(|name| twice.slot(Symbol(name))), [Some(0), Some(1), None]);
        assert_eq!(Shape::default().slot(Symbol(0)), None);
    }
}
