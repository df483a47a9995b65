//! Pages, entries and collections as records and lists.

use hausblatt_lang::escape::url::is_ordinary_path;
use hausblatt_lang::value::dependencies::apart;
use hausblatt_lang::value::members;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{EscapedText, Record, Scratch, Seq, Value};

use crate::model::content::{Content, ContentId, Section};
use crate::model::dependencies::SitePart;
use crate::render::host::terms::Terms;
use crate::text::markdown;
use crate::text::names;
use crate::world::World;

/// A page or an entry.
pub(crate) struct ContentRecord<'w> {
    /// The world it is in.
    pub world: &'w World,
    /// Which one it is.
    pub id: ContentId,
}

impl<'w> ContentRecord<'w> {
    fn content(&self) -> &'w Content {
        self.world.site.content(self.id)
    }
}

/// How many bytes of content are read in a step.
const READ: usize = 32;

/// A heading of a page or an entry.
struct HeadingRecord<'a> {
    level: u8,
    id: &'a str,
    text: &'a str,
}

impl Record for HeadingRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        match symbol {
            names::LEVEL => Value::Int(i64::from(self.level)),
            names::ID => Value::Text(self.id),
            members::TEXT => Value::Text(self.text),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::LEVEL, names::ID, members::TEXT]
    }
}

/// The addresses of the views of a page or an entry, by name.
struct ViewsRecord<'w> {
    world: &'w World,
    id: ContentId,
}

impl ViewsRecord<'_> {
    fn names(&self) -> impl Iterator<Item = &str> {
        let collection = self.world.site.collection_of(self.world.site.content(self.id));
        collection.into_iter().flat_map(|collection| &collection.config.views).map(|view| view.text.as_str())
    }
}

impl Record for ViewsRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let name = self.world.symbols.name(symbol);
        let number = self.names().position(|view| view == name).and_then(|at| u16::try_from(at).ok());
        let address = number.and_then(|number| self.world.site.view_address(self.id, number));
        address.map_or(Value::Nothing, |address| Value::Text(scratch.text(&address)))
    }

    fn keys(&self) -> Vec<Symbol> {
        self.names().filter_map(|name| self.world.symbols.find(name)).collect()
    }
}

/// The record of a page or an entry, as a value.
pub fn value<'a>(world: &'a World, id: ContentId, scratch: &Scratch<'a>) -> Value<'a> {
    Value::Record(scratch.keep(ContentRecord { world, id }))
}

fn text(text: Option<&str>) -> Value<'_> {
    text.map_or(Value::Nothing, Value::Text)
}

impl Record for ContentRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let content = self.content();
        if let Some(value) = content.shape.slot(symbol).and_then(|slot| content.values.get(slot)) {
            return value.value();
        }
        let one = |id: Option<ContentId>| id.map_or(Value::Nothing, |id| value(self.world, id, scratch));
        match symbol {
            names::ID => Value::Text(&content.id),
            names::ADDRESS => text(content.address.as_deref()),
            names::KIND => Value::Text(if content.home == Section::Pages { "page" } else { "entry" }),
            names::TITLE => Value::Text(&content.title),
            names::BODY => Value::Html(self.body(scratch)),
            names::HEADINGS => self.headings(scratch),
            names::MINUTES => Value::Int(content.markdown(|text| {
                scratch.spend(text.len() / READ);
                markdown::minutes(text)
            }) as i64),
            names::SUMMARY => self.summary(),
            members::DATE => content.date.map_or(Value::Nothing, Value::Date),
            names::UPDATED => content.updated.map_or(Value::Nothing, Value::Date),
            names::IMAGE => content.image.value(),
            names::AUTHORS => content.authors.value(),
            names::TEMPLATE => text(content.template.as_ref().map(|(name, _)| &**name)),
            names::ROBOTS => text(content.robots.as_deref()),
            names::PARENT => one(content.parent),
            names::CHILDREN => self.children(scratch),
            names::ANCESTORS => self.ancestors(scratch),
            names::COLLECTION => {
                text(self.world.site.collection_of(content).map(|collection| collection.config.name.text.as_str()))
            }
            names::VIEWS => Value::Record(scratch.keep(ViewsRecord { world: self.world, id: self.id })),
            names::OLDER => one(self.world.site.neighbours(self.id).0),
            names::NEWER => one(self.world.site.neighbours(self.id).1),
            _ => self.terms(symbol, scratch),
        }
    }

    fn ready_html(&self, symbol: Symbol) -> Option<&str> {
        let content = self.content();
        if let Some(value) = content.shape.slot(symbol).and_then(|slot| content.values.get(slot)) {
            return value.as_text().map(EscapedText::escaped);
        }
        (symbol == names::TITLE).then(|| content.title.escaped())
    }

    fn ready_path(&self, symbol: Symbol) -> Option<&str> {
        let content = self.content();
        if let Some(value) = content.shape.slot(symbol).and_then(|slot| content.values.get(slot)) {
            return value.as_text()?.as_path();
        }
        content.address.as_deref().filter(|address| symbol == names::ADDRESS && is_ordinary_path(address))
    }

    fn keys(&self) -> Vec<Symbol> {
        let shape = &self.content().shape;
        let built_in = names::BUILT_IN_SYMBOLS.iter().copied().filter(|symbol| shape.slot(*symbol).is_none());
        let taxonomies = self.content().terms.iter().filter_map(|(number, _)| {
            self.world.symbols.find(&self.world.site.taxonomies.get(usize::from(*number))?.config.name.text)
        });
        built_in.chain(shape.names().iter().copied()).chain(taxonomies).collect()
    }

    fn identity(&self) -> Option<(u32, u32)> {
        Some((0, self.id.0))
    }
}

impl ContentRecord<'_> {
    fn body<'a>(&'a self, scratch: &Scratch<'a>) -> &'a str {
        scratch.text(&self.world.site.body(self.id))
    }

    /// The terms of a taxonomy that it is in.
    fn terms<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let Some((taxonomy, _)) = self.world.site.taxonomy(self.world.symbols.name(symbol)) else {
            return Value::Nothing;
        };
        let found = self.content().terms.iter().find(|(number, _)| *number == taxonomy);
        let numbers = found.map_or(&[][..], |(_, terms)| terms);
        Value::Seq(scratch.keep(Terms { world: self.world, taxonomy, numbers }))
    }

    fn headings<'a>(&'a self, scratch: &Scratch<'a>) -> Value<'a> {
        let headings = self.content().markdown(|text| {
            scratch.spend(text.len() / READ);
            markdown::headings(text)
        });
        let record = |heading: markdown::Heading| {
            let (id, text) = (scratch.text(&heading.id), scratch.text(&heading.text));
            Value::Record(scratch.keep(HeadingRecord { level: heading.level, id, text }))
        };
        let all: Vec<Value<'a>> = headings.into_iter().map(record).collect();
        Value::List(scratch.list(&all))
    }

    fn summary(&self) -> Value<'_> {
        let content = self.content();
        if let Some(summary) = &content.summary {
            return Value::Text(summary);
        }
        SitePart::Summary.note_of(self.id);
        let first = apart(|| content.first_paragraph());
        if first.is_empty() { Value::Nothing } else { Value::Text(first) }
    }

    fn children<'a>(&'a self, scratch: &Scratch<'a>) -> Value<'a> {
        let site = &self.world.site;
        let live = self
            .content()
            .children
            .iter()
            .copied()
            .filter(|&id| site.content(id).is_live() && site.content(id).in_lists);
        list(self.world, live.collect(), scratch)
    }

    fn ancestors<'a>(&'a self, scratch: &Scratch<'a>) -> Value<'a> {
        let site = &self.world.site;
        let mut above: Vec<ContentId> =
            std::iter::successors(self.content().parent, |&id| site.content(id).parent).collect();
        above.reverse();
        list(self.world, above, scratch)
    }
}

fn list<'a>(world: &'a World, ids: Vec<ContentId>, scratch: &Scratch<'a>) -> Value<'a> {
    let values: Vec<Value<'a>> = ids.into_iter().map(|id| value(world, id, scratch)).collect();
    Value::List(scratch.list(&values))
}

/// Some content, read as needed.
pub(crate) struct ContentSeq<'w> {
    /// The world it is in.
    pub world: &'w World,
    /// Which content.
    pub ids: &'w [ContentId],
}

impl Seq for ContentSeq<'_> {
    fn len(&self) -> usize {
        self.ids.len()
    }

    fn at<'a>(&'a self, index: usize, scratch: &Scratch<'a>) -> Value<'a> {
        self.ids.get(index).map_or(Value::Nothing, |&id| value(self.world, id, scratch))
    }
}

/// A collection: its entries in order, with members of its own.
pub(crate) struct CollectionSeq<'w> {
    /// The world it is in.
    pub world: &'w World,
    /// Which collection.
    pub number: u16,
}

impl CollectionSeq<'_> {
    fn entries(&self) -> &[ContentId] {
        SitePart::Entries.note_list(u32::from(self.number));
        self.world.site.collections.get(usize::from(self.number)).map_or(&[], |collection| &collection.entries)
    }
}

impl Seq for CollectionSeq<'_> {
    fn len(&self) -> usize {
        self.entries().len()
    }

    fn at<'a>(&'a self, index: usize, scratch: &Scratch<'a>) -> Value<'a> {
        self.entries().get(index).map_or(Value::Nothing, |&id| value(self.world, id, scratch))
    }

    fn member<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Option<Value<'a>> {
        let collection = self.world.site.collections.get(usize::from(self.number))?;
        match symbol {
            names::LABEL => Some(Value::Text(&collection.config.label)),
            names::ADDRESS => Some(text(collection.listing.as_deref())),
            names::SCHEDULED => {
                SitePart::Scheduled.note(u32::from(self.number));
                Some(Value::Seq(scratch.keep(ContentSeq { world: self.world, ids: &collection.scheduled })))
            }
            _ => None,
        }
    }
}

/// The collections by name.
pub(crate) struct Collections<'w> {
    /// The world they are in.
    pub world: &'w World,
}

impl Record for Collections<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let found = self.world.site.collection(self.world.symbols.name(symbol));
        found
            .map_or(Value::Nothing, |(number, _)| Value::Seq(scratch.keep(CollectionSeq { world: self.world, number })))
    }

    fn keys(&self) -> Vec<Symbol> {
        self.world
            .site
            .collections
            .iter()
            .filter_map(|collection| self.world.symbols.find(&collection.config.name.text))
            .collect()
    }
}
