//! What can be written at a place: in TOML files, in front matter, and in the links of content.

mod front;
mod toml;

pub use front::{in_front_matter, in_link};
pub use toml::in_toml;

use hausblatt_lang::text::source::Span;

use crate::change::rename::renamable;
use crate::schema::fields::FieldType;
use crate::world::World;

/// What fits at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fitting {
    /// What is written there so far, without quotes.
    pub span: Span,
    /// What it is.
    pub what: Wanted,
    /// What fits, each with a word on it.
    pub names: Vec<(String, String)>,
}

/// What is to be written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Wanted {
    /// A key of TOML; whether its value is there already.
    Key(bool),
    /// A key of front matter; whether its value is there already.
    FrontKey(bool),
    /// A value in quotes; whether these are there already.
    Text(bool),
    /// A value without quotes.
    Bare,
    /// The name between the brackets of a header.
    Header,
}

fn plain(names: &[&str], about: &str) -> Vec<(String, String)> {
    names.iter().map(|name| ((*name).to_owned(), about.to_owned())).collect()
}

/// What there is of a sort, as it is typed behind this prefix.
fn of_sort(world: &World, prefix: &str) -> Vec<(String, String)> {
    let all = renamable(world).into_iter();
    all.filter_map(|typed| Some((typed.strip_prefix(prefix)?.to_owned(), String::new()))).collect()
}

fn media(world: &World) -> Vec<(String, String)> {
    world.snapshot.below("media/").map(|node| (format!("/{}", node.path), String::new())).collect()
}

/// The values that a field may have, where only some fit: options, ids, images.
fn of_field(world: &World, of: &FieldType) -> Vec<(String, String)> {
    match of {
        FieldType::Choice(options) => options.iter().map(|option| (option.clone(), String::new())).collect(),
        FieldType::YesNo => plain(&["true", "false"], ""),
        FieldType::Page => of_sort(world, "page:"),
        FieldType::Entry(collection) => of_sort(world, &format!("entry:{collection}/")),
        FieldType::Image => media(world),
        FieldType::List(of) => of_field(world, of),
        _ => Vec::new(),
    }
}
