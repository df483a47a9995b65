//! Feeds where no theme has a template for them: Atom (RFC 4287).

use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesText, Event};

use hausblatt_lang::value::datum::{Datum, DatumList};
use hausblatt_lang::value::moment::Moment;

use crate::model::content::{Content, ContentId};
use crate::model::request::Request;
use crate::text::address::encoded;
use crate::text::names;
use crate::world::World;

/// The feed of the collection that `request` is about.
///
/// # Errors
/// None in practice: writing into memory does not fail.
pub fn atom(world: &World, request: &Request) -> Result<String, std::io::Error> {
    let config = &world.site.config;
    let collection = request.kind.collection().and_then(|at| world.site.collections.get(usize::from(at)));
    let (label, listing) = collection.map_or((config.title.as_str(), "/"), |collection| {
        (collection.config.label.as_str(), collection.listing.as_deref().unwrap_or("/"))
    });
    let entries = collection.map_or(&[][..], |collection| &collection.entries);
    let is_page = |id: &ContentId| world.site.content(*id).address.as_deref().is_none_or(|it| world.is_page(it));
    let entries: Vec<ContentId> = entries.iter().copied().filter(is_page).collect();
    let entries: Vec<&Content> =
        crate::render::host::newest(world, &entries).into_iter().map(|id| world.site.content(id)).collect();
    let whole = |address: &str| absolute(world, address);
    let updated = entries.iter().filter_map(|content| changed(content)).max_by(|a, b| a.order(*b, &config.timezone));
    // A feed has to say when it changed last; one without entries never did.
    let updated = updated.unwrap_or(Moment::At { seconds: 0, offset: 0 });
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("utf-8"), None)))?;
    let feed = writer.create_element("feed").with_attributes([
        ("xmlns", "http://www.w3.org/2005/Atom"),
        ("xml:lang", config.language.as_str()),
        ("xml:base", whole("/").as_str()),
    ]);
    feed.write_inner_content(|writer| {
        let text = |writer: &mut Writer<Vec<u8>>, name: &str, text: &str| {
            writer.create_element(name).write_text_content(BytesText::new(&allowed(text))).map(drop)
        };
        text(writer, "title", &format!("{label} – {}", config.title))?;
        text(writer, "id", &whole(&request.address))?;
        text(writer, "updated", &stamp(world, updated))?;
        let own = whole(&request.address);
        let link = writer.create_element("link");
        link.with_attributes([("rel", "self"), ("type", "application/atom+xml"), ("href", own.as_str())])
            .write_empty()?;
        let page = whole(listing);
        let link = writer.create_element("link");
        link.with_attributes([("rel", "alternate"), ("type", "text/html"), ("href", page.as_str())]).write_empty()?;
        // Entries without authors of their own have the feed's.
        let author = writer.create_element("author");
        author.write_inner_content(|writer| text(writer, "name", &config.title))?;
        for content in entries {
            let entry = writer.create_element("entry");
            entry.write_inner_content(|writer| write_entry(world, content, writer))?;
        }
        Ok(())
    })?;
    let mut text = String::from_utf8(writer.into_inner()).map_err(std::io::Error::other)?;
    text.push('\n');
    Ok(text)
}

fn write_entry(world: &World, content: &Content, writer: &mut Writer<Vec<u8>>) -> std::io::Result<()> {
    let text = |writer: &mut Writer<Vec<u8>>, name: &str, text: &str| {
        writer.create_element(name).write_text_content(BytesText::new(&allowed(text))).map(drop)
    };
    let address = absolute(world, content.address.as_deref().unwrap_or("/"));
    text(writer, "title", &content.title)?;
    text(writer, "id", &address)?;
    let link = writer.create_element("link");
    link.with_attributes([("rel", "alternate"), ("type", "text/html"), ("href", address.as_str())]).write_empty()?;
    if let Some(date) = content.date {
        text(writer, "published", &stamp(world, date))?;
    }
    if let Some(changed) = changed(content) {
        text(writer, "updated", &stamp(world, changed))?;
    }
    for author in authors(world, content) {
        let element = writer.create_element("author");
        element.write_inner_content(|writer| text(writer, "name", author))?;
    }
    let summary = content.summary_text();
    if !summary.is_empty() {
        text(writer, "summary", &summary)?;
    }
    let html = content.markdown(|body| world.site.markdown(body, content.path()));
    let element = writer.create_element("content").with_attribute(("type", "html"));
    element.write_text_content(BytesText::new(&allowed(&html)))?;
    Ok(())
}

/// The names of those who wrote it; where they are content, its titles.
fn authors<'w>(world: &'w World, content: &'w Content) -> impl Iterator<Item = &'w str> {
    let declared = content.shape.slot(names::AUTHORS).and_then(|slot| content.values.get(slot));
    let authors = declared.unwrap_or(&content.authors);
    let members = match authors {
        Datum::List(DatumList(members)) => &members[..],
        one => std::slice::from_ref(one),
    };
    members.iter().filter_map(|member| match member {
        Datum::Text(text) => Some(&**text),
        Datum::MadeRecord(record) => {
            let (_, number) = record.identity()?;
            Some(&*world.site.content(ContentId(number)).title)
        }
        _ => None,
    })
}

/// When content was changed last: `updated`, or else its date.
fn changed(content: &Content) -> Option<Moment> {
    content.updated.or(content.date)
}

/// A moment as in RFC 3339; a day is its beginning in the site's timezone.
fn stamp(world: &World, moment: Moment) -> String {
    let zone = &world.site.config.timezone;
    let whole = match moment {
        Moment::Day(day) => Moment::parse(&format!("{day}T00:00:00"), zone).unwrap_or(moment),
        Moment::At { .. } => moment,
    };
    whole.stamp()
}

/// An address with the site's own in front, encoded.
pub fn absolute(world: &World, address: &str) -> String {
    format!("{}{}", world.site.config.address, encoded(address))
}

/// A text without the characters that XML 1.0 forbids.
fn allowed(text: &str) -> std::borrow::Cow<'_, str> {
    let forbidden =
        |c: char| matches!(c, '\0'..='\u{8}' | '\u{b}' | '\u{c}' | '\u{e}'..='\u{1f}' | '\u{fffe}' | '\u{ffff}');
    if text.contains(forbidden) { text.replace(forbidden, "").into() } else { text.into() }
}
