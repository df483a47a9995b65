//! Addresses that change with what is sent at them: `?v=…` in everything that is published, so that no browser keeps an
//! old file. A page is made without; the versions come in when it is published.

use std::borrow::Cow;
use std::collections::BTreeMap;

use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;
use xxhash_rust::xxh3::{Xxh3, xxh3_64};

use crate::files::FileNode;
use crate::lookup::loads;
use crate::lookup::public;
use crate::render::page::search_files;
use crate::render::search;
use crate::render::small;
use crate::text::address::{asked, encoded, joined_address, within_site};
use crate::text::addresses_in_text::{Among, changed, version};
use crate::world::World;

impl World {
    /// A text as it is published at `base`, with a version in the address of each file that it names. A text that is
    /// published at many addresses has no base: what is written relative to the address stays.
    pub fn published<'t>(&self, text: &'t str, format: Ending, base: Option<&str>) -> Cow<'t, str> {
        if !self.site.config.build.has_versions {
            return Cow::Borrowed(text);
        }
        // With <base>, addresses are relative to another one.
        let base = base.filter(|_| memchr::memmem::find(text.as_bytes(), b"<base ").is_none());
        let has_search = self.site.config.search.as_ref().is_some_and(|search| base == Some(&*search.address.text));
        let among = if has_search { Among::FilesAndSearch } else { Among::Files };
        changed(text, format, among, &|address| match address.starts_with('/') {
            true => self.known_version(address),
            false => versioned(self, base, address),
        })
    }

    /// An address that is the same from every page, with its version: most are on many pages.
    fn known_version(&self, address: &str) -> Option<String> {
        if let Some(known) = self.versioned.read().ok().and_then(|known| known.get(address).cloned()) {
            return known.map(String::from);
        }
        let found = versioned(self, None, address);
        if let Ok(mut known) = self.versioned.write() {
            known.insert(address.into(), found.as_deref().map(Box::from));
        }
        found
    }

    /// A digest of the bytes of the file at a path, decoded, and of all that it loads; none where no file is, or where
    /// one of them can't be read.
    fn version(&self, path: &str) -> Option<u64> {
        if let Some(known) = self.versions.read().ok().and_then(|known| known.get(path).copied()) {
            return known;
        }
        let found = version_of(self, path);
        if let Ok(mut known) = self.versions.write() {
            known.insert(path.into(), found);
        }
        found
    }
}

/// The digest of the digests of all that the file at a path loads, by path, whatever leads to what in circles.
fn version_of(world: &World, path: &str) -> Option<u64> {
    if search_files(world).is_some_and(|(script, _)| script == path) {
        // It looks in the index that has its own version.
        return Some(search::version(world));
    }
    let mut digests: BTreeMap<String, u64> = BTreeMap::new();
    let mut left = vec![path.to_owned()];
    while let Some(path) = left.pop() {
        if digests.contains_key(&path) {
            continue;
        }
        let Some(node) = public::file(world, &path) else { continue };
        left.extend(loads::loaded(world, &path, node));
        digests.insert(path, node.digest()?);
    }
    let own = digests.get(path)?;
    let form = digests.keys().find_map(|path| small::form(world, path));
    if digests.len() == 1 && form.is_none() {
        return Some(*own);
    }
    let mut all = Xxh3::new();
    for (path, digest) in &digests {
        all.update(&xxh3_64(path.as_bytes()).to_le_bytes());
        all.update(&digest.to_le_bytes());
    }
    if let Some(form) = form {
        all.update(&form.to_le_bytes());
    }
    Some(all.digest())
}

/// The places in the file at a path whose addresses change when it is sent at `sent_at`, with the new ones.
pub(super) fn changes(world: &World, path: &str, sent_at: &str, node: &FileNode) -> Vec<(Span, String)> {
    let base = public::base_of(world, path);
    let change = |load: loads::FileLoad<'_>| {
        let to = loads::led_to(world, path, load)?;
        // From where it is sent, what is relative in it would lead elsewhere.
        let is_relative = !load.address.trim_start().starts_with('/') && !load.address.contains(':');
        let is_moved = (base != path || sent_at != path) && is_relative;
        let extends = load.is_import && asked(&to).path != asked(&loads::loaded_path(world, &base, load.address)?).path;
        let fragment = load.address.find('#').map_or("", |at| &load.address[at..]);
        let moved = (is_moved || extends).then(|| to + fragment);
        let version = versioned(world, Some(&encoded(&base)), moved.as_deref().unwrap_or(load.address));
        Some((load.span, version.or(moved)?))
    };
    loads::loads(path, node).into_iter().filter_map(change).collect()
}

/// An address with its version; none where it leads to no file that is sent, or has it already.
fn versioned(world: &World, base: Option<&str>, address: &str) -> Option<String> {
    if !world.site.config.build.has_versions {
        return None;
    }
    let text = within_site(&world.site.config.address, address)?;
    let path = &text[..text.find(['?', '#']).unwrap_or(text.len())];
    if path.is_empty() {
        return None;
    }
    let whole = joined_address(base.unwrap_or(""), path).filter(|_| path.starts_with('/') || base.is_some())?;
    let asked = asked(&whole);
    let version = version(world.version(&asked.path)?);
    let address = address.trim();
    let (before, fragment) = address.split_at(address.find('#').unwrap_or(address.len()));
    match before.split_once('?') {
        Some((_, query)) if query.split('&').any(|part| part == version) => None,
        Some((_, "")) => Some(format!("{before}{version}{fragment}")),
        Some(_) => Some(format!("{before}&{version}{fragment}")),
        None => Some(format!("{before}?{version}{fragment}")),
    }
}
