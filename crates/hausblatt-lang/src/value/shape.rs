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
    /// A name and its slot, by the last bits of the name's number: most names are found at once, without a look at the
    /// names themselves.
    hints: [(Symbol, u32); HINTS],
}

/// How many hints a shape has.
const HINTS: usize = 32;
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
        for (slot, &name) in names.iter().enumerate().rev() {
            hints[name.0 as usize % HINTS] = (name, u32::try_from(slot).unwrap_or(u32::MAX));
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
        self.names.iter().position(|&name| name == symbol)
    }

    /// The names in order.
    pub fn names(&self) -> &[Symbol] {
        &self.names
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_name_has_its_slot_whatever_the_hints_say() {
        for step in [1, 7, 32, 64] {
            let names: Vec<Symbol> = (0..300).map(|at| Symbol(at * step)).collect();
            let shape = Shape::new(names.clone());
            for (slot, &name) in names.iter().enumerate() {
                assert_eq!(shape.slot(name), Some(slot));
                assert_eq!(shape.slot(Symbol(name.0 + 300 * step)), None);
            }
        }
        assert_eq!(Shape::default().slot(Symbol(0)), None);
    }
}
