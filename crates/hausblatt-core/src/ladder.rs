//! Ladders: the template names tried for a request, most specific first.

use crate::content::{Content, ContentId, Home};
use crate::request::{FrontOf, Kind, Request};
use crate::site::{Site, ancestors_of};

/// Why a name is on the ladder.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reason {
    /// Content names it.
    Chosen,
    /// It is the front.
    Front,
    /// It belongs to this id alone.
    Id,
    /// It stands for all below a page.
    Ancestor,
    /// It belongs to the collection.
    Collection,
    /// It belongs to this status.
    Status,
    /// It belongs to the class of this status.
    StatusClass,
    /// It is for all requests of the kind.
    Kind,
    /// It is for all that nothing else answers.
    Fallback,
}

impl Reason {
    /// The word for it in JSON.
    pub fn word(self) -> &'static str {
        match self {
            Reason::Chosen => "chosen",
            Reason::Front => "front",
            Reason::Id => "id",
            Reason::Ancestor => "ancestor",
            Reason::Collection => "collection",
            Reason::Status => "status",
            Reason::StatusClass => "status-class",
            Reason::Kind => "kind",
            Reason::Fallback => "fallback",
        }
    }
}

/// One name on a ladder.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rung {
    /// The template's name with its ending: `entry/varieties.html`.
    pub name: String,
    /// Why it is there.
    pub reason: Reason,
}

/// The names tried for `request`.
pub fn ladder(site: &Site, request: &Request) -> Vec<Rung> {
    let mut rungs = Ladder::default();
    match &request.kind {
        Kind::Front(FrontOf::Page(id)) => {
            rungs.chosen(site.content(*id));
            rungs.add("front", Reason::Front);
            rungs.page(site, *id);
        }
        Kind::Front(FrontOf::Collection(number)) => {
            rungs.add("front", Reason::Front);
            rungs.listing(site, *number);
        }
        Kind::Page(id) => {
            rungs.chosen(site.content(*id));
            rungs.page(site, *id);
        }
        Kind::Entry(id) => {
            rungs.chosen(site.content(*id));
            rungs.entry(site, *id);
        }
        Kind::Listing(number) => rungs.listing(site, *number),
        Kind::Error(status) => {
            rungs.add(&format!("error/{status}"), Reason::Status);
            rungs.add(&format!("error/{}xx", status / 100), Reason::StatusClass);
            rungs.add("error", Reason::Kind);
        }
    }
    rungs.add("fallback", Reason::Fallback);
    rungs.0
}

#[derive(Default)]
struct Ladder(Vec<Rung>);

impl Ladder {
    fn add(&mut self, name: &str, reason: Reason) {
        self.0.push(Rung { name: format!("{name}.html"), reason });
    }

    fn chosen(&mut self, content: &Content) {
        if let Some((name, _)) = &content.template {
            self.add(&format!("offered/{name}"), Reason::Chosen);
        }
    }

    fn page(&mut self, site: &Site, id: ContentId) {
        let id = &site.content(id).id;
        self.add(&format!("page/{id}"), Reason::Id);
        for ancestor in ancestors_of(id) {
            self.add(&format!("page/{ancestor}/all_below"), Reason::Ancestor);
        }
        self.add("page", Reason::Kind);
    }

    fn entry(&mut self, site: &Site, id: ContentId) {
        let content = site.content(id);
        if let Some(collection) = site.collection_of(content) {
            let name = &collection.config.name.text;
            self.add(&format!("entry/{name}/{}", content.id), Reason::Id);
            self.add(&format!("entry/{name}"), Reason::Collection);
        }
        self.add("entry", Reason::Kind);
    }

    fn listing(&mut self, site: &Site, number: u16) {
        if let Some(collection) = site.collections.get(usize::from(number)) {
            self.add(&format!("listing/{}", collection.config.name.text), Reason::Collection);
        }
        self.add("listing", Reason::Kind);
    }
}

/// Whether an offered template that is for `fits` may be chosen by `content`.
pub fn fits(fits: &[String], site: &Site, content: &Content) -> bool {
    let collection = site.collection_of(content).map(|collection| collection.config.name.text.as_str());
    fits.is_empty()
        || fits.iter().any(|kind| match content.home {
            Home::Pages => kind == "page",
            Home::Collection(_) => kind == "entry" || kind.strip_prefix("entry/") == collection,
        })
}
