//! Taxonomies and their terms as records and lists.

use hausblatt_lang::value::members;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Seq, Value};

use crate::model::dependencies::SitePart;
use crate::model::taxonomy::{Taxonomy, TermId};
use crate::render::host::ContentSeq;
use crate::text::names;
use crate::world::World;

/// A term; it equals and prints as its id.
pub(crate) struct TermRecord<'w> {
    world: &'w World,
    id: TermId,
}

/// The record of a term, as a value.
pub fn value<'a>(world: &'a World, id: TermId, scratch: &Scratch<'a>) -> Value<'a> {
    Value::Record(scratch.keep(TermRecord { world, id }))
}

impl Record for TermRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let world = self.world;
        let Some((taxonomy, term)) = world.site.term(self.id) else { return Value::Nothing };
        let other = |term: u32| TermId { term, ..self.id };
        match symbol {
            names::ID => Value::Text(&term.id),
            names::LABEL => Value::Text(&term.label),
            names::ADDRESS => term.address.as_deref().map_or(Value::Nothing, Value::Text),
            names::IMAGE => term.image.value(),
            names::PARENT => term.parent.map_or(Value::Nothing, |parent| value(world, other(parent), scratch)),
            names::CHILDREN => {
                SitePart::Listed.note(u32::from(self.id.taxonomy));
                let children: Vec<u32> = taxonomy.children(self.id.term).collect();
                let numbers = scratch.keep_all(&children);
                Value::Seq(scratch.keep(Terms { world, taxonomy: self.id.taxonomy, numbers }))
            }
            members::ITEMS => {
                SitePart::TermEntries.note_of_term(self.id);
                Value::Seq(scratch.keep(ContentSeq { world, ids: &term.entries }))
            }
            members::COUNT => {
                SitePart::TermEntries.note_of_term(self.id);
                Value::Int(term.entries.len() as i64)
            }
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![
            names::ID,
            names::LABEL,
            names::ADDRESS,
            names::IMAGE,
            names::PARENT,
            names::CHILDREN,
            members::ITEMS,
            members::COUNT,
        ]
    }

    fn identity(&self) -> Option<(u32, u32)> {
        Some((1 + u32::from(self.id.taxonomy), self.id.term))
    }

    fn as_text(&self) -> Option<&str> {
        self.world.site.term(self.id).map(|(_, term)| &*term.id)
    }
}

/// Some terms of a taxonomy.
pub struct Terms<'w> {
    /// The world they are in.
    pub world: &'w World,
    /// Their taxonomy's number.
    pub taxonomy: u16,
    /// Their numbers in it.
    pub numbers: &'w [u32],
}

impl Terms<'_> {
    fn of(&self) -> Option<&Taxonomy> {
        self.world.site.taxonomies.get(usize::from(self.taxonomy))
    }
}

impl Seq for Terms<'_> {
    fn len(&self) -> usize {
        self.numbers.len()
    }

    fn at<'a>(&'a self, index: usize, scratch: &Scratch<'a>) -> Value<'a> {
        let term = self.numbers.get(index);
        term.map_or(Value::Nothing, |&term| value(self.world, TermId { taxonomy: self.taxonomy, term }, scratch))
    }

    fn member<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Option<Value<'a>> {
        let label = || self.of().map(|taxonomy| Value::Text(&taxonomy.config.label));
        (symbol == names::LABEL).then(label).flatten()
    }
}

/// The taxonomies by name.
pub(crate) struct Taxonomies<'w> {
    /// The world they are in.
    pub world: &'w World,
}

impl Record for Taxonomies<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let found = self.world.site.taxonomy(self.world.symbols.name(symbol));
        found.map_or(Value::Nothing, |(number, taxonomy)| {
            SitePart::Listed.note(u32::from(number));
            Value::Seq(scratch.keep(Terms { world: self.world, taxonomy: number, numbers: &taxonomy.listed }))
        })
    }

    fn keys(&self) -> Vec<Symbol> {
        let names = self.world.site.taxonomies.iter().map(|taxonomy| taxonomy.config.name.text.as_str());
        names.filter_map(|name| self.world.symbols.find(name)).collect()
    }
}
