//! What was seen of pages, kept from one state of a site to the next: a page is looked at again where
//! something differs that it was made of, or that it was looked at with.

use std::sync::Arc;

use hausblatt_lang::value::dependencies::collect;
use rustc_hash::FxHashMap;
use xxhash_rust::xxh3::{Xxh3, xxh3_64};

use crate::build::kept_pages::{KeptDependencies, MadeOf, PageDependencies};
use crate::check::run::Seen;
use crate::model::request::Request;
use crate::world::World;

/// How many addresses a site has for whose check one waits; a smaller one is checked at once.
pub const LARGE: usize = 400;

/// What was seen of pages.
#[derive(Default)]
pub struct SeenPages {
    /// A digest of what all pages are looked at with.
    pub(super) surroundings: u64,
    pub(super) dependencies: KeptDependencies,
    /// By address, what a page was made of and what was seen of it.
    pub(super) pages: FxHashMap<String, (MadeOf, Arc<Seen>)>,
    pub(super) looked_at: usize,
    /// Whether it says anything that what it came from does not say.
    pub(super) is_new: bool,
}

impl SeenPages {
    /// How many pages were looked at, and not known.
    pub fn looked_at(&self) -> usize {
        self.looked_at
    }

    /// Of how many pages it is known what was seen.
    pub fn count(&self) -> usize {
        self.pages.len()
    }
}

/// What is known of pages when a site is checked.
pub(super) struct KnownPages<'e, 'w> {
    dependencies: PageDependencies<'w>,
    surroundings: u64,
    pages: Option<&'e FxHashMap<String, (MadeOf, Arc<Seen>)>>,
}

/// A page as it was looked at, or was known.
pub(super) struct Looked {
    pub(super) seen: Arc<Seen>,
    /// What it was made of, where that is known and nothing was said of it.
    made_of: Option<MadeOf>,
    is_known: bool,
}

impl Looked {
    /// What was seen, and is not kept.
    pub(super) fn once(seen: Seen) -> Self {
        Self { seen: Arc::new(seen), made_of: None, is_known: false }
    }
}

impl<'e, 'w> KnownPages<'e, 'w> {
    /// What an earlier state of a site lets one know of this one, whose pages of more than so many bytes are left out.
    pub(super) fn new(world: &'w World, most_bytes: usize, earlier: &'e SeenPages) -> Self {
        let way = xxh3_64(format!("check {most_bytes}").as_bytes());
        let dependencies = PageDependencies::new(world, way, &earlier.dependencies, String::new());
        let surroundings = surroundings(world, dependencies.everything_but_content());
        let pages = (surroundings == earlier.surroundings).then_some(&earlier.pages);
        Self { dependencies, surroundings, pages }
    }

    /// What is seen of a page: what is known of it, or else what `look` finds.
    pub(super) fn look(&self, request: &Request, look: impl FnOnce() -> Seen) -> Looked {
        let known = self.pages.and_then(|pages| pages.get(&request.address));
        if let Some((made_of, seen)) = known.filter(|(made_of, _)| self.dependencies.holds(made_of, request)) {
            return Looked { seen: seen.clone(), made_of: Some(made_of.clone()), is_known: true };
        }
        let (seen, dependencies) = collect(look);
        // What is said has places in files, which an edit moves.
        let is_kept = seen.diagnostics.is_empty();
        let made_of = is_kept.then(|| self.dependencies.made_of(request, &dependencies, &[])).flatten();
        Looked { seen: Arc::new(seen), made_of, is_known: false }
    }

    /// What is to be kept, after these pages were looked at; of others, what was known.
    pub(super) fn kept(&self, requests: &[Request], looked: Vec<Looked>) -> SeenPages {
        let looked_at = looked.iter().filter(|looked| !looked.is_known).count();
        let is_new = self.pages.is_none() || looked.iter().any(|looked| !looked.is_known && looked.made_of.is_some());
        let mut pages = self.pages.cloned().unwrap_or_default();
        for (request, Looked { seen, made_of, .. }) in requests.iter().zip(looked) {
            match made_of {
                Some(made_of) => pages.insert(request.address.clone(), (made_of, seen)),
                None => pages.remove(&request.address),
            };
        }
        let dependencies = self.dependencies.kept(pages.values_mut().map(|(made_of, _)| made_of));
        SeenPages { surroundings: self.surroundings, dependencies, pages, looked_at, is_new }
    }
}

/// A digest of what pages are looked at with, whatever they are made of: all addresses with what they lead to, and the images
/// that content names without an alt.
fn surroundings(world: &World, everything_but_content: u64) -> u64 {
    let mut all = Xxh3::new();
    let mut text = |text: &str| {
        all.update(&text.len().to_le_bytes());
        all.update(text.as_bytes());
    };
    text(&everything_but_content.to_string());
    world.site.moved.iter().for_each(|moved| text(&moved.to));
    let mut odd: Vec<String> = world.odd().iter().map(|(address, status)| format!("{address} {status:?}")).collect();
    let silent = world.images_without_alt().iter().map(|(address, places)| format!("{address} {places:?}"));
    odd.extend(silent);
    // In no order, since the maps have none.
    odd.sort_unstable();
    odd.iter().for_each(|line| text(line));
    all.digest()
}
