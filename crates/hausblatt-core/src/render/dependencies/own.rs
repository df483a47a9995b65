//! What a page depends on before anything of it is rendered: its request, and what it lists.

use hausblatt_lang::value::dependencies::apart;

use crate::model::content::ContentId;
use crate::model::dependencies::SitePart;
use crate::model::request::{Kind, Request};
use crate::render::dependencies::digests::{Digests, Parts};
use crate::render::dependencies::named::NumberedDependency;

impl Digests<'_> {
    /// The digest of the frame and of a request; and the content that it is about. Which files answer it follows from the frame
    /// and from that content, which is noted when it is looked at for that.
    pub(crate) fn of_request(&self, request: &Request) -> (u64, Option<ContentId>) {
        apart(|| {
            let own = request.content(&self.world.site);
            let mut all = Parts::new();
            all.number(self.frame());
            self.add_request(request, own, &mut all);
            self.add_listing(request, &mut all);
            (all.digest(), own)
        })
    }

    fn add_request(&self, request: &Request, own: Option<ContentId>, all: &mut Parts) {
        let site = &self.world.site;
        let Request { address, kind, view, format, status, number, query, parameters, title } = request;
        all.text(address);
        all.text(kind.word().unwrap_or(""));
        all.text(format.word());
        all.number(u64::from(*status) << 32 | u64::from(*number));
        all.maybe(view.as_deref());
        all.text(query);
        for (name, value) in parameters {
            all.text(name);
            all.text(value);
        }
        all.maybe(title.as_deref());
        let collection = kind.collection().and_then(|at| site.collections.get(usize::from(at)));
        all.maybe(collection.map(|collection| collection.config.name.text.as_str()));
        let term = kind.term();
        all.number(
            term.map_or(0, |id| self.of(&NumberedDependency::Site(SitePart::Term, id.taxonomy.into(), id.term), None)),
        );
        if let Kind::Route(number, row) = *kind {
            let route = site.routes.get(usize::from(number));
            let row = route.zip(row).and_then(|(route, row)| route.rows.get(row as usize));
            all.maybe(route.map(|route| route.config.name.text.as_str()));
            all.maybe(row.map(|row| row.title.as_str()));
            all.number(row.map_or(u64::MAX, |row| row.at as u64));
        }
        if let Some(period) = kind.period(site) {
            all.text(&period.parts());
        }
        self.add_ids(own.as_slice(), all);
    }

    /// What is on this page of a listing, and how many there are in all.
    fn add_listing(&self, request: &Request, all: &mut Parts) {
        let Some(listed) = request.listed(&self.world.site) else { return };
        let start = (request.number.max(1) as usize - 1).saturating_mul(listed.per_page).min(listed.ids.len());
        let end = start.saturating_add(listed.per_page).min(listed.ids.len());
        all.number(listed.ids.len() as u64);
        all.number(listed.per_page as u64);
        all.text(listed.base);
        self.add_ids(&listed.ids[start..end], all);
    }
}
