//! What a template waits for that renders no address: which request would ask for its name, or why none can.

use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::suggest::{is_slip, nearest};
use rustc_hash::FxHashMap;

use crate::lookup::ladder::Reason;
use crate::lookup::offers;
use crate::model::content::{Content, Section};
use crate::model::request::Routed;
use crate::model::site::Site;
use crate::schema::config;
use crate::text::slug::is_id;
use crate::text::toml_data;
use crate::world::World;

/// What becomes of a name that renders nothing: what it waits for, or why nothing can ask for it.
pub(crate) type Waiting = Result<String, String>;

/// The names that the site's requests try, so that it need not be asked anew for each file.
pub(crate) struct Tried {
    /// For each name: how many requests try it, the first of them, and the name that answers that.
    names: FxHashMap<String, (usize, String, Option<String>)>,
}

impl Tried {
    /// All names that the requests of `world` try, those of drafts and of what waits included.
    pub fn of(world: &World) -> Self {
        let mut names: FxHashMap<String, (usize, String, Option<String>)> = FxHashMap::default();
        for request in world.requests() {
            let resolution = world.resolve(request.clone());
            let winner = resolution.winner.map(|id| world.lineage.file(id).name.to_string());
            for rung in resolution.rungs {
                let address = || (0, resolution.request.address.clone(), winner.clone());
                names.entry(rung.rung.name).or_insert_with(address).0 += 1;
            }
        }
        Self { names }
    }

    /// The names, each with its extension.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.names.keys().map(String::as_str)
    }
}

/// What the template `name` waits for: `page/visit.html`.
///
/// # Errors
/// Why no request can use it.
pub(crate) fn waits_for(world: &World, tried: &Tried, name: &str) -> Waiting {
    if let Some((count, address, winner)) = tried.names.get(name) {
        let by = winner.as_deref().map_or("something built in", |winner| winner.trim_start_matches("templates/"));
        return Ok(match count {
            1 => format!("the removal of {by}, which renders {address} now"),
            _ => format!("an address with nothing more specific: {count} try it, and {address} has {by}"),
        });
    }
    let (stem, ending) = Ending::split(name).unwrap_or((name, Ending::Html));
    let (folder, last) = stem.rsplit_once('/').map_or((None, stem), |(folder, last)| (Some(folder), last));
    let (base, view) = last.split_once('.').map_or((last, None), |(base, view)| (base, Some(view)));
    let stem = folder.map_or_else(|| base.to_owned(), |folder| format!("{folder}/{base}"));
    let template = TemplateName { world, site: &world.site, stem: &stem };
    if let Some(waiting) = template.declared() {
        return waiting;
    }
    match (ending, view) {
        (Ending::Html, None) => template.page(),
        (Ending::Html, Some(view)) => template.view(view),
        _ => template.other_format(ending),
    }
}

struct TemplateName<'w> {
    world: &'w World,
    site: &'w Site,
    stem: &'w str,
}

impl TemplateName<'_> {
    /// Names that a site's own ladders try, and names that they leave out.
    fn declared(&self) -> Option<Waiting> {
        let ladders = &self.site.config.ladders;
        for (kind, patterns) in ladders.all() {
            if let Some(pattern) = patterns.iter().find(|pattern| matches(pattern, self.stem)) {
                return Some(Ok(format!("a request of the kind {kind} for which [ladders] tries \"{pattern}\"")));
            }
        }
        let head = self.stem.split('/').next().unwrap_or("");
        let replaced = ladders.of(head).is_some();
        replaced.then(|| Err(format!("the site's own [ladders] does not try this name for \"{head}\"")))
    }

    /// Whether hausblatt.toml has a group of this name, though with an error, so that it is not on the site.
    fn is_declared(&self, group: &str, name: &str) -> bool {
        let Some(text) = self.world.snapshot.file(config::FILE).and_then(|node| node.text().cloned()) else {
            return false;
        };
        let entries = toml_data::read(&config::FILE.into(), &text, &mut Vec::new());
        let group = entries.iter().find(|entry| &*entry.key == group).and_then(|entry| entry.data.as_map());
        group.is_some_and(|entries| entries.iter().any(|entry| &*entry.key == name))
    }

    fn declaration(&self, group: &str, name: &str) -> String {
        match self.is_declared(group, name) {
            true => format!("[{group}.{name}] in hausblatt.toml, which is there but has an error: hausblatt check"),
            false => format!("[{group}.{name}] in hausblatt.toml"),
        }
    }

    fn view(&self, view: &str) -> Waiting {
        let head = self.stem.split('/').next().unwrap_or("");
        if !matches!(head, "entry" | "offered" | "fallback") {
            return Err(format!("only entries have views, and \"{head}\" is not theirs"));
        }
        let views = || {
            let collections = self.site.collections.iter();
            collections.flat_map(|it| &it.config.views).map(|view| view.text.as_str())
        };
        if views().any(|other| other == view) {
            return self.page().map(|_| format!("an entry of a collection with the view \"{view}\" that tries it"));
        }
        match nearest(view, views()) {
            Some(near) => Err(format!("no collection has the view \"{view}\"; did you mean \"{near}\"?")),
            None => Ok(format!("views = [\"{view}\"] in a collection")),
        }
    }

    fn other_format(&self, ending: Ending) -> Waiting {
        let (stem, word) = (self.stem, ending.word());
        let mut parts = stem.splitn(2, '/');
        match (parts.next().unwrap_or(""), parts.next(), ending) {
            ("listing" | "fallback", None, Ending::Xml) => Ok("feed = true in a collection".to_owned()),
            ("listing", Some(name), Ending::Xml) if self.site.collection(name).is_some() => {
                Ok(format!("feed = true in [collections.{name}]"))
            }
            ("route", _, _) | ("fallback", None, _) => Ok(format!("a route whose address ends in .{word}")),
            (_, _, Ending::Xml) => Err(format!("only feeds and routes use .xml, and no feed uses \"{stem}\"")),
            _ => Err(format!("only a route can use .{word}: route/NAME.{word}")),
        }
    }

    fn page(&self) -> Waiting {
        let mut parts = self.stem.splitn(2, '/');
        let (head, rest) = (parts.next().unwrap_or(""), parts.next());
        match (head, rest) {
            ("fallback", None) => Ok("a request that nothing else answers".to_owned()),
            ("front", None) => Ok("[front] in hausblatt.toml".to_owned()),
            ("front" | "fallback" | "search", Some(_)) => Err(format!("{head}.html has no more specific names")),
            ("page", None) => Ok("a page that has no template of its own".to_owned()),
            ("page", Some(id)) => self.of_page(id),
            ("entry", None) => Ok("an entry whose collection has no template of its own".to_owned()),
            ("entry", Some(rest)) => self.of_entry(rest),
            ("listing", None) => Ok("a listing that has no template of its own".to_owned()),
            ("listing", Some(rest)) => self.of_listing(rest),
            ("period", None) => Ok("periods = [\"year\"] in a collection".to_owned()),
            ("period", Some(name)) => match self.site.collection(name) {
                Some(_) => Ok(format!("periods = [\"year\"] in [collections.{name}], and an entry with a date")),
                None => self.no_collection(name, "period/"),
            },
            ("search", None) => Ok("[search] in hausblatt.toml".to_owned()),
            ("route", None) => Ok("a route in hausblatt.toml".to_owned()),
            ("route", Some(name)) => {
                let names = self.site.routes.iter().map(|route| route.config.name.text.as_str());
                match nearest(name, names) {
                    Some(near) => Err(format!("there is no route \"{name}\"; did you mean route/{near}.html?")),
                    None => Ok(self.declaration("routes", name)),
                }
            }
            ("error", None) => Ok("an error that has no template of its own".to_owned()),
            ("error", Some("4xx" | "5xx")) => {
                Ok(format!("an answer with a status of {}", &self.stem["error/".len()..]))
            }
            ("error", Some(status)) => match status.parse::<u16>() {
                Ok(code) if (400..600).contains(&code) && status.len() == 3 => {
                    Ok(format!("an answer with the status {status}"))
                }
                _ => Err(format!("\"{status}\" is not a valid error status: those are 400 to 599, 4xx and 5xx")),
            },
            ("offered", Some(name)) => match offers::why_not_offered(self.world, name) {
                Some((reason, help)) => Err(format!("{reason}; {help}")),
                None => Ok("an editor who chooses it".to_owned()),
            },
            ("sitemap", None) => Err("the sitemap's template is sitemap.xml".to_owned()),
            ("robots", None) => Err("the template of robots.txt is robots.txt".to_owned()),
            _ => Err(self.no_kind(head, rest)),
        }
    }

    fn of_page(&self, rest: &str) -> Waiting {
        let (id, below) = match rest.strip_suffix("/all_below") {
            Some(id) => (id, true),
            None => (rest, false),
        };
        if self.site.find(Section::Pages, id).is_some() {
            return Ok(match below {
                true => format!("a page below {id}"),
                false => format!("the page {id}, which has no address now"),
            });
        }
        let behind = if below { "/all_below" } else { "" };
        let pages = || self.site.contents.iter().filter(|content| content.home == Section::Pages);
        if let Some(page) = pages().find(|page| has_address(page, id)) {
            return Err(format!("\"{id}\" is an address; the page's id is {0}: page/{0}{behind}.html", page.id));
        }
        if !is_id(id) {
            return Err(format!("\"{id}\" is not a valid page id: ids are lower-case letters, digits and hyphens"));
        }
        Ok(match nearest(id, pages().map(|page| &*page.id)) {
            Some(near) => format!("a page with the id {id}; did you mean page/{near}{behind}.html?"),
            None => format!("a page with the id {id}"),
        })
    }

    fn of_entry(&self, rest: &str) -> Waiting {
        let (name, id) = rest.split_once('/').map_or((rest, None), |(name, id)| (name, Some(id)));
        let Some((number, _)) = self.site.collection(name) else { return self.no_collection(name, "entry/") };
        let Some(id) = id else { return Ok(format!("an entry of {name} that has no template of its own")) };
        let home = Section::Collection(number);
        if self.site.find(home, id).is_some() {
            return Ok(format!("the entry {id}, which has no address now"));
        }
        let entries = || self.site.contents.iter().filter(|content| content.home == home);
        let meant = entries().find(|entry| {
            let stem = entry.path().rsplit('/').next().and_then(|last| last.strip_suffix(".md")).unwrap_or("");
            has_address(entry, id) || *entry.slug == *id || stem == id
        });
        if let Some(entry) = meant {
            return Err(format!("\"{id}\" is not a valid id; the entry's id is {0}: entry/{name}/{0}.html", entry.id));
        }
        if !is_id(id) {
            return Err(format!("\"{id}\" is not a valid entry id: ids are lower-case letters, digits and hyphens"));
        }
        Ok(match nearest(id, entries().map(|entry| &*entry.id)) {
            Some(near) => format!("an entry of {name} with the id {id}; did you mean entry/{name}/{near}.html?"),
            None => format!("an entry of {name} with the id {id}"),
        })
    }

    fn of_listing(&self, rest: &str) -> Waiting {
        let (name, term) = rest.split_once('/').map_or((rest, None), |(name, term)| (name, Some(term)));
        if let Some((_, collection)) = self.site.collection(name) {
            return match term {
                None if collection.listing.is_none() => Ok(format!("listing = \"/{name}/\" in [collections.{name}]")),
                None => Ok(format!("the listing of {name}")),
                Some(_) => Err(format!("{name} is a collection, and only a taxonomy's listings have terms")),
            };
        }
        let Some((_, taxonomy)) = self.site.taxonomy(name) else {
            let taxonomies = self.site.taxonomies.iter().map(|taxonomy| taxonomy.config.name.text.as_str());
            return match nearest(name, taxonomies) {
                Some(near) => Err(format!("there is no taxonomy \"{name}\"; did you mean listing/{near}?")),
                None => self.no_collection(name, "listing/"),
            };
        };
        let Some(term) = term else { return Ok(format!("a term of {name} with entries")) };
        let id = term.strip_suffix("/all_below").unwrap_or(term);
        if taxonomy.terms.iter().any(|other| *other.id == *id) {
            return Ok(match term == id {
                true => format!("an entry in the term {id}"),
                false => format!("a term below {id} with entries"),
            });
        }
        if !is_id(id) || id.contains('/') {
            return Err(format!("\"{id}\" is not a valid term: terms are lower-case letters, digits and hyphens"));
        }
        Ok(match nearest(id, taxonomy.terms.iter().map(|term| &*term.id)) {
            Some(near) => format!("a term {id} of {name}; did you mean listing/{name}/{near}?"),
            None => format!("a term {id} of {name}"),
        })
    }

    fn no_collection(&self, name: &str, folder: &str) -> Waiting {
        let names = self.site.collections.iter().map(|collection| collection.config.name.text.as_str());
        match nearest(name, names) {
            Some(near) => Err(format!("there is no collection \"{name}\"; did you mean {folder}{near}?")),
            None if self.is_declared("collections", name) => Ok(self.declaration("collections", name)),
            None if self.is_declared("taxonomies", name) => Ok(self.declaration("taxonomies", name)),
            None => Ok(format!("a collection \"{name}\"")),
        }
    }

    /// What is not a kind of request: a plural, a typo, a collection's or a page's bare name.
    fn no_kind(&self, head: &str, rest: Option<&str>) -> String {
        const KINDS: &[&str] =
            &["front", "page", "entry", "listing", "period", "search", "route", "error", "offered", "fallback"];
        let behind = rest.map_or(String::new(), |rest| format!("/{rest}"));
        let singular = head.strip_suffix("ies").map(|stem| format!("{stem}y"));
        let singular = singular.or_else(|| head.strip_suffix('s').map(str::to_owned)).unwrap_or_default();
        let near =
            KINDS.iter().copied().find(|kind| *kind == singular).or_else(|| nearest(head, KINDS.iter().copied()));
        let meant = match near {
            Some(near) => Some(format!("{near}{behind}")),
            None if self.site.collection(head).is_some() && rest.is_some() => Some(format!("entry/{head}{behind}")),
            None if self.site.collection(head).is_some() => Some(format!("entry/{head}.html or listing/{head}")),
            None if self.site.taxonomy(head).is_some() => Some(format!("listing/{head}{behind}")),
            None if self.site.find(Section::Pages, self.stem).is_some() => Some(format!("page/{}", self.stem)),
            None if head == "all_below" => Some("page/ID/all_below".to_owned()),
            None => None,
        };
        match meant {
            Some(meant) => format!("\"{head}\" is not a kind of request; did you mean {meant}.html?"),
            None => format!("\"{head}\" is not a kind of request: those are {}", KINDS.join(", ")),
        }
    }
}

fn has_address(content: &Content, id: &str) -> bool {
    content.address.as_deref().is_some_and(|address| address.trim_matches('/') == id)
}

/// Whether a pattern of `[ladders]` can make a name: what is in braces can be anything but nothing.
fn matches(pattern: &str, name: &str) -> bool {
    let Some((before, rest)) = pattern.split_once('{') else { return pattern == name };
    let Some((_, behind)) = rest.split_once('}') else { return false };
    let Some(name) = name.strip_prefix(before) else { return false };
    (1..=name.len()).filter(|&at| name.is_char_boundary(at)).any(|at| matches(behind, &name[at..]))
}

/// The name that is meant by that of a template which nothing uses: one that is requested and differs by a slip, or
/// that of the content at an address which is written where an id should be.
pub fn meant(world: &World, name: &str, tried: &Tried) -> Option<String> {
    let mut names: Vec<&str> = tried.names().collect();
    // The same suggestion each time.
    names.sort_unstable();
    let (stem, ending) = Ending::split(name).filter(|_| !names.contains(&name))?;
    near(stem, ending, &names).map(str::to_owned).or_else(|| of_address(world, stem))
}

/// The name that is requested and differs from `stem` in one part, by a slip.
fn near<'n>(stem: &str, ending: Ending, tried: &[&'n str]) -> Option<&'n str> {
    let parts: Vec<&str> = stem.split('/').collect();
    let differs_by_slip = |other: &&&str| {
        let others: Vec<&str> = other.split('/').collect();
        if others.len() != parts.len() || others[0] != parts[0] || parts.len() < 2 {
            return false;
        }
        let mut different = parts.iter().zip(&others).filter(|(a, b)| a != b);
        different.next().is_some_and(|(a, b)| is_slip(a, b)) && different.next().is_none()
    };
    let names = tried.iter().filter_map(|name| {
        let (name, of) = Ending::split(name)?;
        (of == ending).then_some(name)
    });
    let names: Vec<&str> = names.collect();
    nearest(stem, names.iter().filter(differs_by_slip).copied())
}

/// The name that is meant where a template is named after an address.
fn of_address(world: &World, stem: &str) -> Option<String> {
    let (kind, path) = stem.split_once('/')?;
    // A collection in which nothing is yet has its templates all the same.
    if kind == "entry" && world.site.collection(path).is_some() {
        return None;
    }
    let Routed::Request(request) = world.route_decoded(&format!("/{path}/")) else { return None };
    if request.status >= 400 {
        return None;
    }
    let own =
        |reason| matches!(reason, Reason::Id | Reason::Collection | Reason::Term | Reason::Taxonomy | Reason::Route);
    let rungs = world.resolve(request).rungs;
    let rung = rungs.into_iter().find(|rung| own(rung.rung.reason) && !rung.rung.of_view)?;
    let (name, _) = Ending::split(&rung.rung.name)?;
    (name != stem).then(|| name.to_owned())
}
