//! Dependencies by names, as they are kept from one state of a site to the next, and by the numbers of one state.

use hausblatt_lang::value::dependencies::{Dependencies, Dependency, TextId};
use serde::{Deserialize, Serialize};

use crate::model::dependencies::SitePart;
use crate::render::dependencies::digests::Digests;
use crate::world::World;

/// In the place of the number of a page's own content, which is not named: most pages then depend on the same.
pub(crate) const OWN: u32 = u32::MAX;

/// A dependency by its name. It may come from any file: nothing relies on what it says but that page's digest.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub(crate) enum NamedDependency {
    /// A theme's file, by its path.
    File(Box<str>),
    /// The result of a query, by the path of its file and its number there.
    Rows(Box<str>, u32),
    /// The order of a query's list, likewise.
    Order(Box<str>, u32),
    /// What a query's index holds for the value with this digest, likewise.
    Indexed(Box<str>, u32, u64),
    /// A part of a site, by its sort and what it is called.
    Site(u8, Box<str>),
    /// The day.
    Today,
}

impl NamedDependency {
    /// What sort of dependency it is.
    pub(crate) fn sort(&self) -> String {
        match self {
            NamedDependency::File(_) => "File".to_owned(),
            NamedDependency::Rows(..) => "Rows".to_owned(),
            NamedDependency::Order(..) => "Order".to_owned(),
            NamedDependency::Indexed(..) => "Indexed".to_owned(),
            NamedDependency::Today => "Today".to_owned(),
            NamedDependency::Site(sort, _) => SitePart::of(*sort).map(|sort| format!("{sort:?}")).unwrap_or_default(),
        }
    }
}

/// A dependency by numbers and texts of one state of a site.
pub(crate) enum NumberedDependency<'d> {
    /// A theme's file.
    File(u32),
    /// A query's result.
    Rows(&'d str, u32),
    /// The order of a query's list.
    Order(&'d str, u32),
    /// What a query's index holds for a value.
    Indexed(&'d str, u32, u64),
    /// A part of the site.
    Site(SitePart, u32, u32),
    /// What a text names.
    Text(SitePart, &'d str),
    /// The day.
    Today,
}

/// A dependency under its name; none where it has none in this state of the site.
pub(crate) fn named(world: &World, dependency: Dependency, all: &Dependencies) -> Option<NamedDependency> {
    let text = |id: TextId| Box::from(all.text(id));
    Some(match dependency {
        Dependency::File(unit) => NamedDependency::File((&*world.library.unit(unit)?.path).into()),
        Dependency::Rows(path, number) => NamedDependency::Rows(text(path), number),
        Dependency::Order(path, number) => NamedDependency::Order(text(path), number),
        Dependency::Indexed(path, number, key) => NamedDependency::Indexed(text(path), number, key),
        Dependency::Site(sort, first, second) => {
            NamedDependency::Site(sort, name(world, SitePart::of(sort)?, first, second)?.into())
        }
        Dependency::SiteText(sort, id) => NamedDependency::Site(sort, text(id)),
    })
}

fn name(world: &World, sort: SitePart, first: u32, second: u32) -> Option<String> {
    let site = &world.site;
    let collection = || Some(site.collections.get(first as usize)?.config.name.text.clone());
    let taxonomy = || site.taxonomies.get(first as usize);
    match sort {
        _ if sort.is_of_content() && first == OWN => Some(String::new()),
        SitePart::Front | SitePart::Text | SitePart::Summary | SitePart::Trays | SitePart::Neighbours => {
            Some(site.contents.get(first as usize)?.path().to_string())
        }
        SitePart::Entries | SitePart::Scheduled => collection(),
        SitePart::Listed => Some(taxonomy()?.config.name.text.clone()),
        SitePart::Term | SitePart::TermEntries => {
            let taxonomy = taxonomy()?;
            Some(format!("{}/{}", taxonomy.config.name.text, taxonomy.term(second)?.id))
        }
        SitePart::Whole | SitePart::Menus | SitePart::Settings => Some(String::new()),
        SitePart::Table => Some(site.tables.get(first as usize)?.name.clone()),
        SitePart::Reference | SitePart::Named | SitePart::Path => None,
    }
}

impl Digests<'_> {
    /// The dependency of a name, by its numbers in this state of the site; none where there is nothing of that name.
    pub(crate) fn numbered<'d>(&self, named: &'d NamedDependency) -> Option<NumberedDependency<'d>> {
        Some(match named {
            NamedDependency::File(path) => NumberedDependency::File(self.unit_at(path)?),
            NamedDependency::Rows(path, number) => NumberedDependency::Rows(path, *number),
            NamedDependency::Order(path, number) => NumberedDependency::Order(path, *number),
            NamedDependency::Indexed(path, number, key) => NumberedDependency::Indexed(path, *number, *key),
            NamedDependency::Today => NumberedDependency::Today,
            NamedDependency::Site(sort, name) => {
                let sort = SitePart::of(*sort)?;
                let at = |(first, second)| NumberedDependency::Site(sort, first, second);
                match sort {
                    SitePart::Reference | SitePart::Named | SitePart::Path => NumberedDependency::Text(sort, name),
                    _ if sort.is_of_content() && name.is_empty() => at((OWN, 0)),
                    _ if sort.is_of_content() => at((self.content_at(name)?, 0)),
                    _ => at(numbers(self.world, sort, name)?),
                }
            }
        })
    }
}

fn numbers(world: &World, sort: SitePart, name: &str) -> Option<(u32, u32)> {
    let site = &world.site;
    Some(match sort {
        SitePart::Entries | SitePart::Scheduled => (u32::from(site.collection(name)?.0), 0),
        SitePart::Listed => (u32::from(site.taxonomy(name)?.0), 0),
        SitePart::Term | SitePart::TermEntries => {
            let (taxonomy, term) = name.split_once('/')?;
            let (number, taxonomy) = site.taxonomy(taxonomy)?;
            (u32::from(number), taxonomy.find(term)?)
        }
        SitePart::Whole | SitePart::Menus | SitePart::Settings => (0, 0),
        SitePart::Table => (u32::try_from(site.tables.iter().position(|table| table.name == name)?).ok()?, 0),
        _ => return None,
    })
}
