//! References such as `page:visit`, and the links that content writes.

use hausblatt_lang::escape::url::{cleaned, scheme};
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::dependencies::apart;

use crate::model::content::{Content, ContentId, ContentState, Section};
use crate::model::dependencies::SitePart;
use crate::model::site::Site;
use crate::text::address::joined_path;

/// The words that references begin with.
pub(crate) const SORTS: &[&str] = &["page", "entry", "collection", "term", "route", "feed", "period"];

/// What a reference leads to.
#[derive(Debug)]
pub(crate) struct Referenced<'s> {
    /// Its address; none for drafts, what waits, and what has no listing.
    pub address: Option<String>,
    /// What it is called.
    pub label: &'s str,
}

/// Where a link leads.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Link {
    /// This address: the one that was written, or the one after a reference or a content file's path.
    To(String),
    /// Nowhere; what is wrong with it, and what [`Site::help`] says what to do about it from.
    Dead(String, BrokenTarget),
}

/// What a broken link is looking for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum BrokenTarget {
    /// What this reference names.
    Reference(String),
    /// Content that has no address, for this reason.
    Content(&'static str),
    /// A content file at this path.
    Path(String),
}

impl Site {
    /// What is at a reference is called; none if there is nothing. Not for pages: it is not noted as what they depend on.
    pub fn label_of(&self, reference: &str) -> Option<String> {
        self.found_reference(reference).map(|found| found.label.to_string())
    }

    /// The address that a reference leads to; none if there is no such thing, or if it has none.
    pub fn address_of(&self, reference: &str) -> Option<String> {
        self.referenced(reference)?.address
    }

    /// What a reference leads to, with what comes after `#` or `?`; none if there is no such thing.
    pub(crate) fn referenced(&self, text: &str) -> Option<Referenced<'_>> {
        SitePart::Reference.note_text(text);
        apart(|| self.found_reference(text))
    }

    fn found_reference(&self, text: &str) -> Option<Referenced<'_>> {
        let (name, tail) = text.split_at(text.find(['#', '?']).unwrap_or(text.len()));
        let (sort, rest) = name.split_once(':')?;
        let (address, label) = match sort {
            "page" => self.of_content(self.find(Section::Pages, rest)?),
            "entry" => {
                let (collection, id) = rest.split_once('/')?;
                let (number, _) = self.collection(collection)?;
                self.of_content(self.find(Section::Collection(number), id)?)
            }
            "collection" => {
                let (_, collection) = self.collection(rest)?;
                (collection.listing.clone(), collection.config.label.as_str())
            }
            "feed" => {
                let (_, collection) = self.collection(rest)?;
                (collection.feed.clone(), collection.config.label.as_str())
            }
            "period" => {
                let (collection, parts) = rest.split_once('/')?;
                let (_, collection) = self.collection(collection)?;
                (collection.period(parts).map(|period| period.address.clone()), collection.config.label.as_str())
            }
            "term" => {
                let (taxonomy, term) = rest.split_once('/')?;
                let (_, taxonomy) = self.taxonomy(taxonomy)?;
                let term = taxonomy.term(taxonomy.find(term)?)?;
                (term.address.clone(), term.label.as_str())
            }
            "route" => {
                let (name, slug) = rest.split_once('/').map_or((rest, None), |(name, slug)| (name, Some(slug)));
                let route = self.routes.iter().find(|route| route.config.name.text == name)?;
                match slug {
                    None if route.config.each.is_some() => return None,
                    None => (Some(route.config.address.text.clone()), route.label()),
                    Some(slug) => {
                        let row = route.row(slug)?;
                        (Some(row.address.clone()), row.title.as_str())
                    }
                }
            }
            _ => return None,
        };
        Some(Referenced { address: address.map(|address| address + tail), label })
    }

    /// The page or entry that a reference names.
    fn content_of(&self, name: &str) -> Option<&Content> {
        Some(self.content(self.referenced_content(name)?))
    }

    /// The number of the page or entry that a reference names, a draft too.
    pub(crate) fn referenced_content(&self, name: &str) -> Option<ContentId> {
        SitePart::Named.note_text(name);
        match name.split_once(':')? {
            ("page", id) => self.find(Section::Pages, id),
            ("entry", rest) => {
                let (collection, id) = rest.split_once('/')?;
                self.find(Section::Collection(self.collection(collection)?.0), id)
            }
            _ => None,
        }
    }

    fn of_content(&self, id: ContentId) -> (Option<String>, &str) {
        let content = self.content(id);
        (content.address.as_deref().map(str::to_owned), &content.title)
    }

    /// The address after a reference; none if it is a broken link.
    pub fn reference(&self, text: &str) -> Option<String> {
        self.referenced(text)?.address
    }

    /// All references that lead somewhere, for suggestions.
    pub fn references(&self) -> impl Iterator<Item = String> + '_ {
        let contents = self.contents.iter().filter(|content| content.address.is_some()).map(|content| {
            match self.collection_of(content) {
                Some(collection) => format!("entry:{}/{}", collection.config.name.text, content.id),
                None => format!("page:{}", content.id),
            }
        });
        let listings = self.collections.iter().filter(|collection| collection.listing.is_some());
        let listings = listings.map(|collection| format!("collection:{}", collection.config.name.text));
        let terms = self.taxonomies.iter().flat_map(|taxonomy| {
            let of =
                |&number: &u32| format!("term:{}/{}", taxonomy.config.name.text, taxonomy.terms[number as usize].id);
            taxonomy.listed.iter().map(of)
        });
        let routes = self.routes.iter().flat_map(|route| {
            let name = &route.config.name.text;
            let whole = route.config.each.is_none().then(|| format!("route:{name}"));
            whole.into_iter().chain(route.rows.iter().map(move |row| format!("route:{name}/{}", row.slug)))
        });
        let feeds = self.collections.iter().filter(|collection| collection.feed.is_some());
        let feeds = feeds.map(|collection| format!("feed:{}", collection.config.name.text));
        let periods = self.collections.iter().flat_map(|collection| {
            collection.periods.iter().map(|period| format!("period:{}/{}", collection.config.name.text, period.parts()))
        });
        contents.chain(listings).chain(terms).chain(routes).chain(feeds).chain(periods)
    }

    /// What to do about a reference that is a broken link.
    pub(crate) fn nearest_reference(&self, text: &str) -> Option<String> {
        let name = text.split(['#', '?']).next().unwrap_or(text);
        if let Some(found) = self.referenced(name).filter(|found| found.address.is_none()) {
            let sort = name.split(':').next().unwrap_or("");
            return Some(match sort {
                "collection" => format!("the collection has no listing; write listing = \"/…/\" for {}", found.label),
                "feed" => format!("the collection has no feed; write feed = true for {}", found.label),
                "period" => "nothing is in this period, or the collection has no periods of this length".to_owned(),
                "term" => "nothing is in this term, so it has no listing".to_owned(),
                _ => self.content_of(name).map_or("it has no address", why_no_address).to_owned(),
            });
        }
        let slashed = format!("/{}/", name.trim_matches('/'));
        if !name.starts_with('/') && self.addresses.contains_key(slashed.as_str()) {
            return Some(format!("did you mean {slashed}? An address begins with a slash"));
        }
        let references: Vec<String> = self.references().collect();
        did_you_mean(name, references.iter().map(String::as_str))
    }

    /// Where a link leads that the content file at `from` writes: an address, a reference, or a content file's
    /// path, from that file or from the site.
    pub fn link(&self, text: &str, from: &str) -> Link {
        let clean = cleaned(text);
        if let Some(sort) = scheme(&clean) {
            if !SORTS.contains(&sort) {
                return Link::To(text.to_owned());
            }
            return match self.reference(&clean) {
                Some(address) => Link::To(address),
                None => Link::Dead(
                    format!("broken link \"{clean}\": nothing has this address"),
                    BrokenTarget::Reference(clean.into_owned()),
                ),
            };
        }
        let (path, tail) = clean.split_at(clean.find(['#', '?']).unwrap_or(clean.len()));
        if !path.ends_with(".md") || path.starts_with("//") {
            return Link::To(text.to_owned());
        }
        let decoded = percent_encoding::percent_decode_str(path).decode_utf8_lossy();
        let wanted = match decoded.strip_prefix('/') {
            Some(whole) => joined_path("", whole),
            None if decoded.starts_with("content/") => joined_path("", &decoded),
            None => joined_path(from.rsplit_once('/').map_or("", |(folder, _)| folder), &decoded),
        };
        let found = wanted.as_deref().and_then(|wanted| self.at_path(wanted));
        match found.map(|id| self.contents[id.0 as usize].address.as_deref()) {
            Some(Some(address)) => Link::To(format!("{address}{tail}")),
            Some(None) => {
                let why = found.map_or("", |id| why_no_address(&self.contents[id.0 as usize]));
                Link::Dead(format!("broken link \"{clean}\": nothing has this address"), BrokenTarget::Content(why))
            }
            None => {
                let message = format!("broken link \"{clean}\": there is no such content file");
                Link::Dead(message, BrokenTarget::Path(wanted.unwrap_or_default()))
            }
        }
    }

    /// What to do about a broken link. It takes a look at all content, so it is done only where it is
    /// shown.
    pub fn help(&self, lost: &BrokenTarget) -> Option<String> {
        match lost {
            BrokenTarget::Reference(reference) => self.nearest_reference(reference),
            BrokenTarget::Content(why) => Some((*why).to_owned()),
            BrokenTarget::Path(path) => did_you_mean(path, self.contents.iter().map(|content| &**content.path())),
        }
    }

    /// The content whose file is at `path`.
    pub(crate) fn at_path(&self, path: &str) -> Option<ContentId> {
        SitePart::Path.note_text(path);
        self.contents.at_path(path)
    }
}

/// Why content has no address.
fn why_no_address(content: &Content) -> &'static str {
    match content.state {
        ContentState::Draft => "it is a draft, so it has no address",
        ContentState::Waits => "it waits for its date, so it has no address",
        ContentState::OnErrors => "it fills an error page, and has no address of its own",
        ContentState::Live => "it has an error, so it has no address",
    }
}

/// The error that a reference in `hausblatt.toml` is a broken link.
pub fn dead(reference: &str, help: Option<String>) -> Diagnostic {
    Diagnostic::of(&lang_codes::DEAD_REFERENCE, format!("broken reference \"{reference}\""))
        .help(help.unwrap_or_else(reference_syntax))
}

/// What references look like.
pub(crate) fn reference_syntax() -> String {
    "references are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM, route:NAME, feed:COLLECTION and \
     period:COLLECTION/YEAR/MONTH/DAY"
        .to_owned()
}
