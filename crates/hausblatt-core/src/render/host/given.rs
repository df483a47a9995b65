//! `route`, `settings` and `tables`: what configuration, themes and tables give.

use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Value};

use crate::model::dependencies::SitePart;
use crate::model::tables::Table;
use crate::text::names;
use crate::world::World;

fn table_named<'w>(world: &'w World, name: &str) -> Option<&'w Table> {
    let at = world.site.tables.iter().position(|table| table.name == name)?;
    SitePart::Table.note(u32::try_from(at).ok()?);
    world.site.tables.get(at)
}

/// The present route.
pub(crate) struct RouteRecord<'w> {
    /// The world it is in.
    pub world: &'w World,
    /// Its number.
    pub number: u16,
    /// The row that it is for.
    pub row: Option<u32>,
}

impl Record for RouteRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let site = &self.world.site;
        let Some(route) = site.routes.get(usize::from(self.number)) else { return Value::Nothing };
        let row = self.row.and_then(|row| route.rows.get(row as usize));
        match symbol {
            names::NAME => Value::Text(&route.config.name.text),
            names::TITLE => Value::Text(row.map_or(route.label(), |row| &row.title)),
            names::VALUES => {
                Value::Record(scratch.keep(RouteValues { world: self.world, values: &route.config.values }))
            }
            names::ROW => {
                let each = route.config.each.as_ref();
                let table = each.and_then(|each| table_named(self.world, &each.text));
                let record = table.zip(row).and_then(|(table, row)| table.row(row.at));
                record.map_or(Value::Nothing, |record| Value::Record(record))
            }
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::NAME, names::TITLE, names::ROW, names::VALUES]
    }
}

/// What `hausblatt.toml` gives the templates of a route.
struct RouteValues<'w> {
    world: &'w World,
    values: &'w [(String, Datum)],
}

impl Record for RouteValues<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let name = self.world.symbols.name(symbol);
        self.values.iter().find(|(other, _)| other == name).map_or(Value::Nothing, |(_, value)| value.value())
    }

    fn keys(&self) -> Vec<Symbol> {
        self.values.iter().filter_map(|(name, _)| self.world.symbols.find(name)).collect()
    }
}

/// The settings' values by name.
pub struct Settings<'w> {
    /// The world they are in.
    pub world: &'w World,
}

impl Record for Settings<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let name = self.world.symbols.name(symbol);
        SitePart::Settings.note(0);
        let settings = &self.world.settings;
        settings.iter().find(|setting| setting.field.name == name).map_or(Value::Nothing, |it| it.value.value())
    }

    fn keys(&self) -> Vec<Symbol> {
        SitePart::Settings.note(0);
        let settings = self.world.settings.iter();
        settings.filter_map(|setting| self.world.symbols.find(&setting.field.name)).collect()
    }
}

/// The tables by name.
pub(crate) struct Tables<'w> {
    /// The world they are in.
    pub world: &'w World,
}

impl Record for Tables<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let name = self.world.symbols.name(symbol);
        table_named(self.world, name).map_or(Value::Nothing, |table| table.value.value())
    }

    fn keys(&self) -> Vec<Symbol> {
        self.world.site.tables.iter().filter_map(|table| self.world.symbols.find(&table.name)).collect()
    }
}
