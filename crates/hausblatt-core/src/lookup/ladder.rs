//! Ladders: the template names tried for a request, most specific first.

use crate::model::content::{Content, ContentId, Section};
use crate::model::request::{FrontOf, Kind, ListingOf, Request};
use crate::model::site::{Site, ancestors_of};
use crate::model::taxonomy::TermId;

/// Why a name is on the ladder.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reason {
    /// Content names it.
    Chosen,
    /// It is the front.
    Front,
    /// It belongs to this id alone.
    Id,
    /// It means all below a page or a term.
    Ancestor,
    /// It belongs to the collection.
    Collection,
    /// It belongs to the term.
    Term,
    /// It belongs to the taxonomy.
    Taxonomy,
    /// It belongs to the periods of the collection.
    Period,
    /// It belongs to the route.
    Route,
    /// It belongs to this status.
    Status,
    /// It belongs to the class of this status.
    StatusClass,
    /// It is for all requests of the kind.
    Kind,
    /// It is for all that nothing else answers.
    Fallback,
    /// `[ladders]` in `hausblatt.toml` says so.
    Declared,
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
            Reason::Term => "term",
            Reason::Taxonomy => "taxonomy",
            Reason::Period => "period",
            Reason::Route => "route",
            Reason::Status => "status",
            Reason::StatusClass => "status-class",
            Reason::Kind => "kind",
            Reason::Fallback => "fallback",
            Reason::Declared => "declared",
        }
    }
}

/// One name on a ladder.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rung {
    /// The template's name with its extension: `entry/varieties.html`.
    pub name: String,
    /// Why it is there.
    pub reason: Reason,
    /// Whether it is a name for the requested view.
    pub of_view: bool,
}

/// The names tried for `request`: all rungs with its view first, then the plain ones.
pub fn ladder(site: &Site, request: &Request) -> Vec<Rung> {
    let ending = request.format.word();
    let rungs = Ladder::of(site, request).0;
    let plain =
        rungs.iter().map(|(name, reason)| Rung { name: format!("{name}.{ending}"), reason: *reason, of_view: false });
    let of_view = request.view.iter().flat_map(|view| {
        rungs.iter().map(move |(name, reason)| Rung {
            name: format!("{name}.{view}.{ending}"),
            reason: *reason,
            of_view: true,
        })
    });
    of_view.chain(plain).collect()
}

/// Names without their endings.
#[derive(Default)]
struct Ladder(Vec<(String, Reason)>);

impl Ladder {
    fn of(site: &Site, request: &Request) -> Self {
        let mut rungs = Ladder::default();
        match &request.kind {
            Kind::Sitemap(None) => {
                rungs.add("sitemap", Reason::Kind);
                return rungs;
            }
            // The parts of a long one belong to the one that is built in.
            Kind::Sitemap(Some(_)) => return rungs,
            Kind::Robots => {
                rungs.add("robots", Reason::Kind);
                return rungs;
            }
            _ => {}
        }
        let content = request.kind.content();
        if let Some(content) = content {
            rungs.chosen(site.content(content));
        }
        rungs.kind(site, &request.kind);
        rungs.add("fallback", Reason::Fallback);
        rungs
    }

    fn add(&mut self, name: &str, reason: Reason) {
        self.0.push((name.to_owned(), reason));
    }

    fn chosen(&mut self, content: &Content) {
        if let Some((name, _)) = &content.template {
            self.add(&format!("offered/{name}"), Reason::Chosen);
        }
    }

    fn kind(&mut self, site: &Site, kind: &Kind) {
        if let Some(patterns) = kind.word().and_then(|word| site.config.ladders.of(word)) {
            for pattern in patterns {
                self.declared(site, kind, pattern);
            }
            return;
        }
        match *kind {
            Kind::Front(FrontOf::Page(id)) => {
                self.add("front", Reason::Front);
                self.kind(site, &Kind::Page(id));
            }
            Kind::Front(FrontOf::Collection(number)) => {
                self.add("front", Reason::Front);
                self.kind(site, &Kind::Listing(ListingOf::Collection(number)));
            }
            Kind::Page(id) => self.page(site, id),
            Kind::Entry(id) => self.entry(site, id),
            Kind::Listing(ListingOf::Collection(number)) => self.listing(site, number),
            Kind::Listing(ListingOf::Term(id)) => self.term(site, id),
            Kind::Period(number, _) => {
                if let Some(collection) = site.collections.get(usize::from(number)) {
                    self.add(&format!("period/{}", collection.config.name.text), Reason::Period);
                }
                self.add("period", Reason::Kind);
                self.listing(site, number);
            }
            Kind::Search => {
                self.add("search", Reason::Kind);
                self.add("listing", Reason::Kind);
            }
            Kind::Route(number, _) => {
                if let Some(route) = site.routes.get(usize::from(number)) {
                    self.add(&format!("route/{}", route.config.name.text), Reason::Route);
                    if let Some(template) =
                        route.config.template.as_ref().filter(|it| it.text != route.config.name.text)
                    {
                        self.add(&format!("route/{}", template.text), Reason::Declared);
                    }
                }
                self.add("route", Reason::Kind);
            }
            Kind::Error(status) => {
                self.add(&format!("error/{status}"), Reason::Status);
                self.add(&format!("error/{}xx", status / 100), Reason::StatusClass);
                self.add("error", Reason::Kind);
            }
            Kind::Sitemap(_) | Kind::Robots => {}
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

    fn term(&mut self, site: &Site, id: TermId) {
        if let Some((taxonomy, term)) = site.term(id) {
            let name = &taxonomy.config.name.text;
            self.add(&format!("listing/{name}/{}", term.id), Reason::Term);
            for above in taxonomy.above(id.term).filter_map(|above| taxonomy.term(above)) {
                self.add(&format!("listing/{name}/{}/all_below", above.id), Reason::Ancestor);
            }
            self.add(&format!("listing/{name}"), Reason::Taxonomy);
        }
        self.add("listing", Reason::Kind);
    }

    /// The names that a declared pattern makes: one for each term that it takes, none where it takes what the
    /// request has not.
    fn declared(&mut self, site: &Site, kind: &Kind, pattern: &str) {
        let Some((before, name, after)) = pattern.split_once('{').and_then(|(before, behind)| {
            let (name, after) = behind.split_once('}')?;
            Some((before, name, after))
        }) else {
            if !self.0.iter().any(|(other, _)| other == pattern) {
                self.add(pattern, Reason::Declared);
            }
            return;
        };
        for value in values(site, kind, name) {
            self.declared(site, kind, &format!("{before}{value}{after}"));
        }
    }
}

/// What a name in braces means in a request.
fn values(site: &Site, kind: &Kind, name: &str) -> Vec<String> {
    let content = kind.content().map(|id| site.content(id));
    let one = |value: Option<String>| value.into_iter().collect();
    match name {
        "id" => one(content.map(|content| content.id.to_string())),
        "collection" => {
            let of_content = content.and_then(|content| site.collection_of(content));
            let of_listing = || site.collections.get(usize::from(kind.collection()?));
            one(of_content.or_else(of_listing).map(|collection| collection.config.name.text.clone()))
        }
        "taxonomy" => one(kind.term().and_then(|id| Some(site.term(id)?.0.config.name.text.clone()))),
        "term" => one(kind.term().and_then(|id| Some(site.term(id)?.1.id.to_string()))),
        "name" => match kind {
            Kind::Route(number, _) => {
                one(site.routes.get(usize::from(*number)).map(|route| route.config.name.text.clone()))
            }
            _ => Vec::new(),
        },
        "status" | "class" => match kind {
            Kind::Error(status) if name == "status" => one(Some(status.to_string())),
            Kind::Error(status) => one(Some(format!("{}xx", status / 100))),
            _ => Vec::new(),
        },
        "year" | "month" | "day" if kind.word() == Some("period") => {
            let period = kind.period(site);
            one(period.and_then(|period| match name {
                "year" => Some(format!("{:04}", period.year)),
                "month" => period.month.map(|month| format!("{month:02}")),
                _ => period.day.map(|day| format!("{day:02}")),
            }))
        }
        taxonomy => {
            let Some(((number, taxonomy), content)) = site.taxonomy(taxonomy).zip(content) else { return Vec::new() };
            let terms = content.terms.iter().filter(|(other, _)| *other == number).flat_map(|(_, terms)| terms);
            terms.filter_map(|&term| Some(taxonomy.term(term)?.id.to_string())).collect()
        }
    }
}

/// Whether an offered template that is for `fits` may be chosen by `content`.
pub fn fits(fits: &[String], site: &Site, content: &Content) -> bool {
    let collection = site.collection_of(content).map(|collection| collection.config.name.text.as_str());
    fits.is_empty()
        || fits.iter().any(|kind| match content.home {
            Section::Pages => kind == "page",
            Section::Collection(_) => kind == "entry" || kind.strip_prefix("entry/") == collection,
        })
}
