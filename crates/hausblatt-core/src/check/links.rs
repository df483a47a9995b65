//! Where the links of a page lead within the site.

use percent_encoding::percent_decode_str;

use crate::check::parsed::{Element, Parsed};
use crate::lookup::map::error_statuses;
use crate::lookup::public;
use crate::model::request::{Request, Routed};
use crate::render::page::search_files;
use crate::text::address::{self, joined_address, within_site};
use crate::text::addresses_in_text::addresses_of_set;
use crate::world::World;

/// A link of a page.
pub(crate) struct Leading<'v> {
    /// Where its tag begins in the page.
    pub at: Option<usize>,
    /// The name of its element.
    pub element: &'v str,
    /// As it is written.
    pub written: &'v str,
    /// The path that it leads to, with what comes after `?`, not decoded.
    pub path: String,
    /// What comes after `#`, decoded.
    pub fragment: Option<String>,
    /// What is at the path.
    pub target: LinkTarget,
}

/// The links of a page that stay within the site.
pub(super) fn inside<'v>(world: &World, request: &Request, page: &'v Parsed) -> Vec<Leading<'v>> {
    let base = page.named("base").find_map(|base| base.attribute("href")).unwrap_or("");
    let base = joined_address(&request.address, base.split(['#', '?']).next().unwrap_or("")).unwrap_or_default();
    let mut links = Vec::new();
    for element in &page.elements {
        for written in addresses(element) {
            links.extend(leading(world, request, element, written, &base));
        }
    }
    links
}

/// The attributes of an element that name what it leads to or loads.
fn addresses(element: &Element) -> Vec<&str> {
    let names: &[&str] = match element.name() {
        "a" | "area" | "link" => &["href"],
        "img" | "script" | "source" | "audio" | "iframe" | "embed" | "track" | "input" => &["src"],
        "video" => &["src", "poster"],
        "object" => &["data"],
        "form" => &["action"],
        "button" => &["formaction"],
        "use" | "image" => &["href"],
        _ => return Vec::new(),
    };
    let mut found: Vec<&str> = names.iter().filter_map(|name| element.attribute(name)).collect();
    let sets = ["srcset", "imagesrcset"].into_iter().filter_map(|name| element.attribute(name));
    found.extend(sets.flat_map(|set| addresses_of_set(set).into_iter().map(|range| &set[range])));
    found
}

fn leading<'v>(
    world: &World,
    request: &Request,
    element: &'v Element,
    written: &'v str,
    base: &str,
) -> Option<Leading<'v>> {
    let text = within_site(&world.site.config.address, written)?;
    let (path, fragment) = match text.split_once('#') {
        Some((path, fragment)) => (path, Some(percent_decode_str(fragment).decode_utf8_lossy().into_owned())),
        None => (text, None),
    };
    let (path, query) = path.split_at(path.find('?').unwrap_or(path.len()));
    let path = if path.is_empty() { address::encoded(&request.address) } else { joined_address(base, path)? };
    let path = path + query;
    let target = at(world, &path);
    Some(Leading { at: element.at, element: element.name(), written, path, fragment, target })
}

/// What is at a path of the site.
pub enum LinkTarget {
    /// A page, at this address.
    Page(String),
    /// A file, or a page that redirects.
    File,
    /// A page whose template answers with this error.
    Error(u16),
    /// Nothing.
    Missing,
}

/// What is at a path as a link writes it.
pub fn at(world: &World, path: &str) -> LinkTarget {
    let asked = address::asked(path);
    if public::is_sent(world, &asked.path) {
        return LinkTarget::File;
    }
    match world.route(path) {
        Routed::Redirect(_) => LinkTarget::File,
        Routed::Request(request) if request.status < 400 => match world.odd().get(&*request.address) {
            None => LinkTarget::Page(request.address),
            Some(status) if status.code < 400 => LinkTarget::File,
            Some(status) if status.stopped_at.is_some() => LinkTarget::Error(status.code),
            // What has an error itself is reported there.
            Some(_) => LinkTarget::File,
        },
        Routed::Request(request) => {
            let is_error_page = error_statuses(world).iter().any(|status| asked.path == format!("/{status}.html"));
            if is_error_page {
                return LinkTarget::Page(request.address);
            }
            let of_search =
                search_files(world).is_some_and(|(script, index)| asked.path == script || asked.path == index);
            if of_search { LinkTarget::File } else { LinkTarget::Missing }
        }
    }
}
