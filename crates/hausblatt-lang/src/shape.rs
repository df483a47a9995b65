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
        pub const $constant: $crate::shape::Symbol = $crate::shape::Symbol($first + Number::$constant as u32);)*
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

    /// The name behind a number.
    pub fn name(&self, symbol: Symbol) -> &str {
        self.names.get(symbol.0 as usize).map_or("?", |name| name)
    }
}

/// Which members a record has, and where each stands.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub struct Shape {
    names: Box<[Symbol]>,
}

impl Shape {
    /// The shape with these names, in this order.
    pub fn new(names: impl Into<Box<[Symbol]>>) -> Self {
        Self { names: names.into() }
    }

    /// The slot of `symbol`, from 0.
    pub fn slot(&self, symbol: Symbol) -> Option<usize> {
        self.names.iter().position(|&name| name == symbol)
    }

    /// The names in order.
    pub fn names(&self) -> &[Symbol] {
        &self.names
    }
}
