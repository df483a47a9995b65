//! `menus`: their items, which know where the request is.

use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Seq, Value};

use crate::model::dependencies::SitePart;
use crate::model::site::MenuItem;
use crate::text::names;
use crate::world::World;

/// The menus by name.
pub(crate) struct Menus<'w> {
    /// The world they are in.
    pub world: &'w World,
    /// The address of the request.
    pub here: &'w str,
}

impl Record for Menus<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        SitePart::Menus.note(0);
        let name = self.world.symbols.name(symbol);
        let menu = self.world.site.menus.iter().find(|(menu, _)| menu == name);
        menu.map_or(Value::Nothing, |(_, items)| Value::Seq(scratch.keep(Items { items, here: self.here })))
    }

    fn keys(&self) -> Vec<Symbol> {
        SitePart::Menus.note(0);
        self.world.site.menus.iter().filter_map(|(name, _)| self.world.symbols.find(name)).collect()
    }
}

struct Items<'w> {
    items: &'w [MenuItem],
    here: &'w str,
}

impl Seq for Items<'_> {
    fn len(&self) -> usize {
        self.items.len()
    }

    fn at<'a>(&'a self, index: usize, scratch: &Scratch<'a>) -> Value<'a> {
        let item = |item| Value::Record(scratch.keep(ItemRecord { item, here: self.here }));
        self.items.get(index).map_or(Value::Nothing, item)
    }
}

struct ItemRecord<'w> {
    item: &'w MenuItem,
    here: &'w str,
}

impl Record for ItemRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let address = &*self.item.address;
        match symbol {
            names::LABEL => Value::Text(&self.item.label),
            names::ADDRESS => Value::Text(address),
            names::CHILDREN => Value::Seq(scratch.keep(Items { items: &self.item.children, here: self.here })),
            names::HERE => Value::Bool(self.here == address),
            names::INSIDE => Value::Bool(address != "/" && self.here != address && self.here.starts_with(address)),
            _ => Value::Nothing,
        }
    }

    fn ready_html(&self, symbol: Symbol) -> Option<&str> {
        (symbol == names::LABEL).then(|| self.item.label.escaped())
    }

    fn ready_path(&self, symbol: Symbol) -> Option<&str> {
        if symbol == names::ADDRESS { self.item.address.as_path() } else { None }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::LABEL, names::ADDRESS, names::CHILDREN, names::HERE, names::INSIDE]
    }
}
