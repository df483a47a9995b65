//! The status that an address is answered with: what the server would answer, and what a built page means.
//!
//! Most is known without rendering. Where a file that takes part in an answer may answer or redirect, or has an error
//! that only counts if it is run, the page is rendered to find out; for all addresses of a site that is done once.

use bumpalo::Bump;
use hausblatt_lang::library::Unit;
use rayon::prelude::*;

use crate::arena::reset_arena;
use crate::lookup::resolution::Resolution;
use crate::model::request::{self, Kind, Request, Routed};
use crate::render::page::{Audience, Page, broken, is_built_in, page};
use crate::threads::PAGES;
use crate::world::World;
use crate::world::status::{Odd, Status};

impl Status {
    /// The status of a page that was rendered.
    pub fn of_page(page: &Page) -> Self {
        Self { code: page.status, location: page.location.clone(), rendered: true, stopped_at: page.stopped_at.clone() }
    }

    fn known(code: u16) -> Self {
        Self { code, location: None, rendered: false, stopped_at: None }
    }

    /// Whether visitors get a page.
    pub(crate) fn is_page(&self) -> bool {
        self.code < 300
    }
}

impl World {
    /// What an address of the site is answered with, as `resolution` resolves its request.
    pub fn status(&self, resolution: &Resolution) -> Status {
        let request = &resolution.request;
        // A search with words, or a route with parameters, is not an address of the map.
        if !request.query.is_empty() || !request.parameters.is_empty() {
            return of(self, resolution, &Bump::new());
        }
        self.odd().get(&*request.address).cloned().unwrap_or_else(|| match is_certain(self, resolution) {
            true => Status::known(request.status),
            false => Status { rendered: true, ..Status::known(request.status) },
        })
    }

    /// The addresses of the site that are not answered as their requests say: with an error status or a redirect. Found
    /// once; to be found before work is spread over all cores, not in the middle of it.
    pub fn odd(&self) -> &Odd {
        self.statuses.get_or_init(|| {
            if self.is_plain() {
                return Odd::default();
            }
            // The requests are made one by one: all of them at once take much room.
            let addresses = request::addresses(&self.site).into_par_iter().with_max_len(PAGES);
            addresses
                .map_init(Bump::new, |arena, address| {
                    let Routed::Request(request) = self.route_decoded(&address) else { return None };
                    let resolution = self.resolve(request);
                    let status = of(self, &resolution, arena);
                    reset_arena(arena);
                    let request = resolution.request;
                    let odd = status.code != request.status || status.location.is_some();
                    odd.then(|| (request.address.as_str().into(), status))
                })
                .flatten_iter()
                .collect()
        })
    }

    /// Whether every request is certainly answered as it says: nothing answers, redirects or has an error, and there is
    /// a template for all.
    pub(crate) fn is_plain(&self) -> bool {
        *self.plain.get_or_init(|| {
            let stays = |unit: &Unit| unit.is_sound && unit.program.as_ref().is_some_and(|it| it.answers.is_empty());
            self.lineage.nearest("templates/fallback.html").is_some()
                // Without it every template that names no layout is an error.
                && self.lineage.nearest("layouts/document.html").is_some()
                && !self.problems.iter().any(|problem| problem.is_error())
                && !self.site.contents.iter().any(|content| content.broken)
                && self.site.routes.iter().all(|route| route.config.address.text.ends_with('/'))
                && self.library.units.iter().all(stays)
        })
    }

    /// Whether visitors get a page at an address of the site.
    pub(crate) fn is_page(&self, address: &str) -> bool {
        self.odd().get(address).is_none_or(Status::is_page)
    }
}

/// Whether all that takes part in an answer is certain to leave the status as it is.
fn is_certain(world: &World, resolution: &Resolution) -> bool {
    if world.is_plain() || matches!(resolution.request.kind, Kind::Error(_)) {
        return true;
    }
    let uses = resolution.uses(world).into_iter().map(|used| used.file);
    let stays = |file| world.program(file).is_some_and(|program| program.answers.is_empty());
    resolution.running(world).into_iter().chain(uses).all(stays)
}

/// The status of one answer.
fn of(world: &World, resolution: &Resolution, arena: &Bump) -> Status {
    let request: &Request = &resolution.request;
    if matches!(request.kind, Kind::Error(_)) {
        return Status::known(request.status);
    }
    if !broken(world, resolution).is_empty() || (resolution.winner.is_none() && !is_built_in(request)) {
        return Status::known(500);
    }
    if resolution.winner.is_none() || is_certain(world, resolution) {
        return Status::known(request.status);
    }
    Status::of_page(&page(world, request.clone(), Audience::Visitor, arena))
}
