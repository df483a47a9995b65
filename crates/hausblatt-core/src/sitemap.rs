//! `sitemap.xml` (the sitemaps.org protocol, 0.9) and `robots.txt` (RFC 9309), where no theme has templates for them.

use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesText, Event};

use hausblatt_lang::moment::Moment;

use crate::feed::absolute;
use crate::request::{self, Kind, Led, Request};
use crate::world::World;

/// Every address that search engines are asked to look at, with the day on which its content changed last.
///
/// # Errors
/// None in practice: writing into memory does not fail.
pub fn sitemap(world: &World) -> Result<String, std::io::Error> {
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("utf-8"), None)))?;
    let set = writer.create_element("urlset");
    set.with_attribute(("xmlns", "http://www.sitemaps.org/schemas/sitemap/0.9")).write_inner_content(|writer| {
        for address in request::addresses(&world.site) {
            let Led::Request(request) = world.lead_decoded(&address) else { continue };
            if !is_for_search_engines(world, &request) {
                continue;
            }
            writer.create_element("url").write_inner_content(|writer| {
                let address = absolute(world, &address);
                writer.create_element("loc").write_text_content(BytesText::new(&address))?;
                let content = request.kind.content().map(|id| world.site.content(id));
                if let Some(day) = content.and_then(|content| content.updated.or(content.date)).map(Moment::day) {
                    writer.create_element("lastmod").write_text_content(BytesText::new(&day.to_string()))?;
                }
                Ok(())
            })?;
        }
        Ok(())
    })?;
    let mut text = String::from_utf8(writer.into_inner()).unwrap_or_default();
    text.push('\n');
    Ok(text)
}

/// Pages, entries, listings and routes are, unless their content says otherwise; other views and formats of them,
/// searches and errors are not.
fn is_for_search_engines(world: &World, request: &Request) -> bool {
    let page = request.view.is_none() && request.format == hausblatt_lang::ending::Ending::Html;
    let kind = !matches!(request.kind, Kind::Search | Kind::Error(_) | Kind::Sitemap | Kind::Robots);
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
