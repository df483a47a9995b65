//! `sitemap.xml` (the sitemaps.org protocol, 0.9) and `robots.txt` (RFC 9309), where no theme has templates for them.

use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesText, Event};

use hausblatt_lang::value::dependencies::apart;
use hausblatt_lang::value::moment::Moment;
use jiff::civil::Date;

use crate::model::request::{self, Kind, Request, Routed};
use crate::render::feed::absolute;
use crate::world::World;

const NAMESPACE: &str = "http://www.sitemaps.org/schemas/sitemap/0.9";

/// Every address that search engines are asked to look at, with the day on which its content changed last. A long
/// one is an index of its parts.
///
/// # Errors
/// None in practice: writing into memory does not fail.
pub fn sitemap(world: &World, part: Option<u32>) -> Result<String, std::io::Error> {
    apart(|| whole_sitemap(world, part))
}

fn whole_sitemap(world: &World, part: Option<u32>) -> Result<String, std::io::Error> {
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("utf-8"), None)))?;
    let parts = world.site.sitemap_parts();
    if part.is_none() && parts > 0 {
        let index = writer.create_element("sitemapindex").with_attribute(("xmlns", NAMESPACE));
        index.write_inner_content(|writer| {
            (1..=parts)
                .try_for_each(|part| write_address(writer, "sitemap", world, &format!("/sitemap-{part}.xml"), None))
        })?;
        return text_of(writer);
    }
    let addresses = request::addresses(&world.site);
    let size = addresses.len().div_ceil(parts.max(1) as usize);
    let start = size * (part.unwrap_or(1).max(1) as usize - 1);
    let set = writer.create_element("urlset").with_attribute(("xmlns", NAMESPACE));
    set.write_inner_content(|writer| {
        for address in addresses.iter().skip(start).take(size) {
            let Routed::Request(request) = world.route_decoded(address) else { continue };
            if is_for_search_engines(world, &request) && world.is_page(address) {
                let content = request.kind.content().map(|id| world.site.content(id));
                let changed = content.and_then(|content| content.updated.or(content.date)).map(Moment::day);
                write_address(writer, "url", world, address, changed)?;
            }
        }
        Ok(())
    })?;
    text_of(writer)
}

fn write_address(
    writer: &mut Writer<Vec<u8>>,
    element: &str,
    world: &World,
    address: &str,
    changed: Option<Date>,
) -> Result<(), std::io::Error> {
    writer.create_element(element).write_inner_content(|writer| {
        let address = absolute(world, address);
        writer.create_element("loc").write_text_content(BytesText::new(&address))?;
        if let Some(day) = changed {
            writer.create_element("lastmod").write_text_content(BytesText::new(&day.to_string()))?;
        }
        Ok(())
    })?;
    Ok(())
}

fn text_of(writer: Writer<Vec<u8>>) -> Result<String, std::io::Error> {
    Ok(String::from_utf8(writer.into_inner()).map_err(std::io::Error::other)? + "\n")
}

/// Pages, entries, listings and routes are, unless their content excludes them; other views and formats of them,
/// searches and errors are not.
fn is_for_search_engines(world: &World, request: &Request) -> bool {
    let page = request.view.is_none() && request.format == hausblatt_lang::text::ending::Ending::Html;
    let kind = !matches!(request.kind, Kind::Search | Kind::Error(_) | Kind::Sitemap(_) | Kind::Robots);
    let content = request.content(&world.site).map(|id| world.site.content(id));
    let kept = content.and_then(|content| content.robots.as_deref()).is_some_and(|robots| robots.contains("noindex"));
    page && kind && !kept
}

/// All may be read by all, and here is the sitemap.
pub fn robots(world: &World) -> String {
    let mut text = "User-agent: *\nDisallow:\n".to_owned();
    if !world.site.config.address.is_empty() {
        text.push_str(&format!("\nSitemap: {}\n", absolute(world, "/sitemap.xml")));
    }
    text
}
