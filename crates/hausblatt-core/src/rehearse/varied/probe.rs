//! Which pages show something: those that differ when it is other than it is.

use bumpalo::Bump;
use hausblatt_lang::render::Shows;
use rustc_hash::FxHashMap;

use crate::arena::reset_arena;
use crate::model::request::{Kind, Request, Routed};
use crate::rehearse::samples::Small;
use crate::rehearse::variation::Variation;
use crate::render::page::{Audience, page};
use crate::text::address::encoded;
use crate::world::World;

/// So many pages that show one thing are looked at.
const SHOWN: usize = 5;

/// The pages of a small site as they are at home.
pub(in crate::rehearse) struct Probe<'s> {
    small: &'s Small,
    pages: FxHashMap<String, String>,
}

/// A page as visitors get it; none where the address redirects.
pub(in crate::rehearse) fn text_at(world: &World, address: &str, arena: &mut Bump) -> Option<String> {
    let Routed::Request(request) = world.route(address) else { return None };
    let text = page(world, request, Audience::Build(Shows::default()), arena).text;
    reset_arena(arena);
    Some(text)
}

impl<'s> Probe<'s> {
    pub fn of(small: &'s Small) -> Self {
        let mut arena = Bump::new();
        let listings = listings(&small.world);
        let requests = small.keys.iter().chain(&listings);
        let mut pages = FxHashMap::default();
        for address in requests.map(|request| encoded(&request.address)) {
            let text = text_at(&small.world, &address, &mut arena).unwrap_or_default();
            pages.insert(address, text);
        }
        Self { small, pages }
    }

    /// The pages that show what these variations change: some of each template, those near to it first.
    pub fn shown(&self, loud: &[Variation], near: &[String]) -> Vec<String> {
        let mut arena = Bump::new();
        let mut found: Vec<(usize, &String)> = Vec::new();
        let order = |address: &String| near.iter().position(|other| other == address).unwrap_or(near.len());
        for variation in loud {
            let snapshot = variation.applied(&self.small.world.snapshot);
            let Ok(world) = World::load(snapshot, self.small.world.asking.clone()) else { continue };
            for (address, home) in &self.pages {
                let is_known = found.iter().any(|(_, known)| *known == address);
                if !is_known && text_at(&world, address, &mut arena).is_some_and(|text| text != *home) {
                    found.push((order(address), address));
                }
            }
        }
        found.sort();
        found.into_iter().map(|(_, address)| address.clone()).take(SHOWN).collect()
    }
}

/// The first pages of all listings, and one of each later page.
fn listings(world: &World) -> Vec<Request> {
    let is_listing = |request: &&Request| {
        matches!(request.kind, Kind::Listing(_) | Kind::Period(..) | Kind::Front(_)) && request.number <= 2
    };
    world.requests().iter().filter(is_listing).take(60).cloned().collect()
}
