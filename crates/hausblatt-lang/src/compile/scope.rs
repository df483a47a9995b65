//! Which name means which place, from the innermost block outwards.

use crate::text::source::Span;
use crate::types::Type;

/// A name that means a slot.
#[derive(Clone, Debug)]
pub(crate) struct Binding {
    /// The name.
    pub name: String,
    /// Its slot in the frame.
    pub slot: u16,
    /// What is known of its values.
    pub of: Type,
    /// Where it was made.
    pub span: Span,
    /// Whether a `let` made it, inside a block, hiding a name outside.
    pub hides: bool,
    /// Whether it was read.
    pub used: bool,
    /// The parameter that its values come from.
    pub parameter: Option<u16>,
}

/// The names in force.
#[derive(Debug, Default)]
pub struct Scope {
    bindings: Vec<Binding>,
    blocks: Vec<usize>,
    frame: u16,
}

impl Scope {
    /// A new slot in the frame.
    pub fn slot(&mut self) -> u16 {
        let slot = self.frame;
        self.frame = self.frame.saturating_add(1);
        slot
    }

    /// How many slots there are.
    pub fn frame(&self) -> u16 {
        self.frame
    }

    /// Binds `name` to `slot`.
    pub fn bind(&mut self, name: &str, slot: u16, of: Type, span: Span) {
        self.bindings.push(Binding {
            name: name.to_owned(),
            slot,
            of,
            span,
            hides: false,
            used: false,
            parameter: None,
        });
    }

    /// Says which parameter the values of the name that was bound last come from.
    pub fn comes_from(&mut self, parameter: Option<u16>) {
        if let Some(binding) = self.bindings.last_mut() {
            binding.parameter = parameter;
        }
    }

    /// The parameter that the values of `name` come from.
    pub fn parameter(&self, name: &str) -> Option<u16> {
        self.bindings.iter().rev().find(|binding| binding.name == name)?.parameter
    }

    /// Binds a `let`'s name, and notes whether it hides one from outside its block.
    pub(crate) fn bind_let(&mut self, name: &str, slot: u16, of: Type, span: Span) {
        let block = self.blocks.last().copied().unwrap_or(0);
        let hides = !self.blocks.is_empty() && self.bindings[..block].iter().any(|binding| binding.name == name);
        self.bindings.push(Binding { name: name.to_owned(), slot, of, span, hides, used: false, parameter: None });
    }

    /// Begins a block.
    pub fn enter(&mut self) {
        self.blocks.push(self.bindings.len());
    }

    /// Ends a block and returns the names made in it.
    pub fn leave(&mut self) -> Vec<Binding> {
        let from = self.blocks.pop().unwrap_or(0);
        self.bindings.split_off(from)
    }

    /// The place that `name` means.
    pub fn find(&mut self, name: &str) -> Option<(u16, Type)> {
        let binding = self.bindings.iter_mut().rev().find(|binding| binding.name == name)?;
        binding.used = true;
        Some((binding.slot, binding.of.clone()))
    }

    /// What is known of the member of the query around, if there is one.
    pub fn member_type(&self) -> Option<Type> {
        self.bindings.iter().rev().find(|binding| binding.name == "it").map(|binding| binding.of.clone())
    }

    /// All names in force.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.bindings.iter().map(|binding| binding.name.as_str())
    }
}
