//! The rehearsal itself: every variation rendered, and what is wrong there and not at home.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use bumpalo::Bump;
use hausblatt_lang::render::{Piece, Shows, piece_at, pieces};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Place;
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

use crate::arena::reset_arena;
use crate::build::Progress;
use crate::check::{
    Finding, Located, NO_ALT, PageProblem, Parsed, Seen, codes_of_rehearsals, fitting, in_template, look_into, tag_at,
    unused,
};
use crate::model::content::ContentId;
use crate::model::request::{Request, Routed};
use crate::rehearse::bare::{Rest, Spot, bare, last_heading};
use crate::rehearse::samples::Small;
use crate::rehearse::variation::{AS_IT_IS, Variation};
use crate::rehearse::varied::{Probe, all};
use crate::rehearse::worse::{DRAWING, MISSING, TALL, WIDE, drawings};
use crate::render::page::{Audience, Page, page};
use crate::schema::config::Allowance;
use crate::text::address::encoded;
use crate::text::codes;
use crate::themes::lineage::FileId;
use crate::threads::{ONE, PAGES};
use crate::world::{Unloadable, World, in_order};

/// At most so many pages are rendered.
pub const MOST: usize = 5_000;

/// What is rehearsed; nothing named means everything.
#[derive(Clone, Debug, Default)]
pub struct Within {
    /// Only pages at these addresses.
    pub asked: Vec<Request>,
    /// Only what is wrong in these files.
    pub files: Vec<FileId>,
}

impl Within {
    fn is_whole(&self) -> bool {
        self.asked.is_empty() && self.files.is_empty()
    }
}

/// Something that goes wrong, and the variations that show it.
#[derive(Clone, Debug)]
pub struct Rehearsed {
    /// What goes wrong, at the line of the template.
    pub finding: Finding,
    /// The variations that show it, each with an address.
    pub variations: Vec<(String, String)>,
}

/// What a rehearsal found.
#[derive(Clone, Debug)]
pub struct Rehearsal {
    /// What goes wrong, in the order of the files.
    pub found: Vec<Rehearsed>,
    /// How many variations were rendered.
    pub variations: usize,
    /// How many pages that were.
    pub pages: usize,
    /// How many variations were left out, since [`MOST`] pages were rendered.
    pub left_out: usize,
}

/// The places of what is wrong at home.
#[derive(Default)]
struct Home {
    pages: FxHashMap<String, HomePage>,
    known: FxHashSet<(&'static str, Option<Place>)>,
}

/// A page as it is at home.
struct HomePage {
    text: String,
    status: u16,
    found: FxHashSet<(&'static str, String, String)>,
}

/// One thing that was found.
struct Found {
    diagnostic: Diagnostic,
    address: String,
    words: usize,
}

/// A site made ready for rehearsals: small, with its variations.
pub struct Stage {
    small: Small,
    variations: Vec<Variation>,
    within: Within,
}

impl Stage {
    /// Makes the site of a World ready.
    ///
    /// # Errors
    /// Why no site can be loaded from a part of its content.
    pub fn of(world: &World, within: Within) -> Result<Self, Unloadable> {
        let asked: Vec<ContentId> = within.asked.iter().filter_map(|request| request.content(&world.site)).collect();
        let small = Small::of(world, &asked)?;
        let probe = Probe::of(&small);
        let variations = limited(&small, all(&small, &probe), &within);
        drop(probe);
        Ok(Self { small, variations, within })
    }

    /// The variations, those that matter most first, each with the addresses at which it is looked at.
    pub fn variations(&self) -> &[Variation] {
        &self.variations
    }

    /// The variation that is called so; [`Variation::none`] is there, too.
    pub fn named(&self, words: &str) -> Option<Variation> {
        let none = Variation::none();
        if words == none.words {
            return Some(none);
        }
        let bare = words.replace(['`', '"', '\''], "");
        let is_it = |variation: &&Variation| variation.words == words || variation.words == bare;
        self.variations.iter().find(is_it).cloned()
    }

    /// The page that answers a variation's request for an address; none where that redirects.
    ///
    /// # Errors
    /// Why no site can be loaded of it.
    pub fn shown(&self, variation: &Variation, address: &str) -> Result<Option<Page>, Unloadable> {
        let varied = load(&self.small, variation)?;
        let Routed::Request(request) = varied.route(address) else { return Ok(None) };
        Ok(Some(page(&varied, request, Audience::Developer(Shows::default()), &Bump::new())))
    }

    /// The paths of the drawings that are made up for variations.
    pub const DRAWINGS: [&str; 3] = [WIDE, TALL, DRAWING];

    /// The text of a drawing that is made up for variations, by its path below the site.
    pub fn drawing(path: &str) -> Option<String> {
        drawings().into_iter().find(|(own, _)| *own == path).map(|(_, text)| text)
    }

    /// Rehearses the theme, and tells `progress` how many variations are done.
    pub fn rehearse(&self, progress: Progress<'_>) -> Rehearsal {
        rehearsed(self, progress)
    }
}

fn rehearsed(stage: &Stage, progress: Progress<'_>) -> Rehearsal {
    let Stage { small, variations, within } = stage;
    let world = &small.world;
    let mut pages = 0;
    let fit = variations.iter().take_while(|variation| {
        pages += variation.addresses.len();
        pages <= MOST
    });
    let fit = fit.count();
    let left_out = variations.len() - fit;
    let variations = &variations[..fit];
    let (home, mut found) = at_home(small, variations);
    let done = AtomicUsize::new(0);
    let of_variations: Vec<Vec<Found>> = variations
        .par_iter()
        .with_max_len(ONE)
        .enumerate()
        .map_init(Bump::new, |arena, (number, variation)| {
            let found = of_variation(small, &home, variation, number, arena);
            progress(done.fetch_add(1, Ordering::Relaxed) + 1, variations.len());
            found
        })
        .collect();
    found.extend(of_variations.into_iter().flatten());
    let words = |number: usize| variations.get(number).map_or(AS_IT_IS, |variation| &variation.words);
    let mut joined: Vec<Rehearsed> = Vec::new();
    let mut known: FxHashMap<(&'static str, Option<Place>, Option<String>), usize> = FxHashMap::default();
    for Found { diagnostic, address, words: number } in found {
        let message = diagnostic.place.is_none().then(|| diagnostic.message.clone());
        let at = *known.entry((diagnostic.code, diagnostic.place.clone(), message)).or_insert_with(|| {
            let finding = Finding { diagnostic, addresses: Vec::new(), also: Vec::new() };
            joined.push(Rehearsed { finding, variations: Vec::new() });
            joined.len() - 1
        });
        let rehearsed = &mut joined[at];
        if !rehearsed.finding.addresses.contains(&address) {
            rehearsed.finding.addresses.push(address.clone());
        }
        if !rehearsed.variations.iter().any(|(known, _)| known == words(number)) {
            rehearsed.variations.push((words(number).to_owned(), address));
        }
    }
    let paths: Vec<&Arc<str>> = within.files.iter().map(|&file| &world.lineage.file(file).node.path).collect();
    let of_files = |rehearsed: &Rehearsed| {
        let place = rehearsed.finding.diagnostic.place.as_ref();
        paths.is_empty() || place.is_some_and(|place| paths.contains(&&place.path))
    };
    joined.retain(of_files);
    sift(world, within.is_whole() && left_out == 0, &mut joined);
    joined.sort_by(|a, b| {
        let (a, b) = (&a.finding.diagnostic, &b.finding.diagnostic);
        in_order(a, b).then_with(|| a.code.cmp(b.code))
    });
    let pages = variations.iter().map(|variation| variation.addresses.len()).sum();
    Rehearsal { found: joined, variations: variations.len(), pages, left_out }
}

fn load(small: &Small, variation: &Variation) -> Result<World, Unloadable> {
    let mut asking = small.world.asking.clone();
    asking.drafts |= variation.drafts;
    World::load(variation.applied(&small.world.snapshot), asking)
}

/// Without what was not asked for: other addresses, and pages in which no named file takes part.
fn limited(small: &Small, mut variations: Vec<Variation>, within: &Within) -> Vec<Variation> {
    if within.is_whole() {
        return variations;
    }
    let asked: Vec<String> = within.asked.iter().map(|request| encoded(&request.address)).collect();
    if !asked.is_empty() {
        for variation in &mut variations {
            let path = |address: &String| address.split('?').next().unwrap_or("").to_owned();
            variation.addresses.retain(|address| asked.contains(&path(address)));
        }
    }
    if !within.files.is_empty() {
        let mut known: FxHashMap<String, bool> = FxHashMap::default();
        let takes_part = |address: &String| match small.world.route(address) {
            // What is there in the variation alone may use any file.
            Routed::Request(request) if request.status == 404 => true,
            Routed::Request(request) => within.files.iter().any(|&file| small.world.takes_part(file, &request)),
            Routed::Redirect(_) => false,
        };
        for variation in &mut variations {
            variation.addresses.retain(|address| *known.entry(address.clone()).or_insert_with(|| takes_part(address)));
        }
    }
    variations.retain(|variation| !variation.addresses.is_empty());
    variations
}

/// The pages that are looked at, as they are at home; and what is bare there already.
fn at_home(small: &Small, variations: &[Variation]) -> (Home, Vec<Found>) {
    let world = &small.world;
    // What is looked at in no other way than at home is itself the variation: a search without results.
    let varied = variations.iter().filter(|variation| !variation.changes.is_empty());
    let mut addresses: Vec<&String> =
        varied.flat_map(|variation| &variation.addresses).filter(|address| !address.contains('?')).collect();
    addresses.sort_unstable();
    addresses.dedup();
    let looked: Vec<_> = addresses
        .par_iter()
        .with_max_len(PAGES)
        .map_init(Bump::new, |arena, address| {
            let Routed::Request(request) = world.route(address) else { return None };
            let looked = Looked::of(world, &request, rendered(world, &request, arena));
            let told = looked.told(world, &request, arena, |_| false);
            let bare = if looked.is_whole() { bare_in(world, &request, &looked.page, arena) } else { Vec::new() };
            reset_arena(arena);
            Some(((*address).clone(), looked, told, bare))
        })
        .collect();
    let mut home = Home::default();
    let mut found = Vec::new();
    for (address, looked, told, bare) in looked.into_iter().flatten() {
        home.known.extend(told.iter().map(|diagnostic| (diagnostic.code, diagnostic.place.clone())));
        let keys =
            looked.seen.found.iter().map(|(code, problem, tag)| (code.name, problem.message.clone(), tag.clone()));
        let page = HomePage { found: keys.collect(), status: looked.page.status, text: looked.page.text };
        home.pages.insert(address.clone(), page);
        home.known.extend(bare.iter().map(|(diagnostic, _)| (diagnostic.code, diagnostic.place.clone())));
        // What scripts fill is empty at home, too; a value is not printed to be nothing.
        let values = bare.into_iter().filter(|(_, is_value)| *is_value);
        found.extend(values.map(|(diagnostic, _)| Found { diagnostic, address: address.clone(), words: usize::MAX }));
    }
    (home, found)
}

/// A page as visitors get it.
fn rendered(world: &World, request: &Request, arena: &Bump) -> Page {
    page(world, request.clone(), Audience::Build(Shows::default()), arena)
}

/// A page with what was found in it.
struct Looked {
    page: Page,
    seen: Seen,
    own: Vec<(&'static Code, PageProblem, String)>,
}

impl Looked {
    fn of(world: &World, request: &Request, page: Page) -> Self {
        let mut looked = Self { seen: Seen::default(), own: Vec::new(), page };
        if looked.is_whole() {
            looked.seen = look_into(world, request, &looked.page, usize::MAX);
            looked.own = empty_lists(&looked.page);
        }
        looked
    }

    /// Whether it is the page that was meant, and not one that tells of a fault.
    fn is_whole(&self) -> bool {
        self.page.status != 500 && self.page.location.is_none()
    }

    /// What is wrong with it, but for what is `known`, at the lines of templates.
    fn told(
        &self,
        world: &World,
        request: &Request,
        arena: &Bump,
        known: impl Fn(&(&'static Code, PageProblem, String)) -> bool,
    ) -> Vec<Diagnostic> {
        let mut told: Vec<Diagnostic> = self.page.diagnostics.clone();
        let new: Vec<_> = self.seen.found.iter().chain(&self.own).filter(|found| !known(found)).collect();
        if !new.is_empty() {
            let located = Located::new(world, request, arena);
            told.extend(new.iter().filter_map(|(code, problem, _)| match problem.place {
                // Of the same content as at home, it is the template that prints something else as its alt.
                Some(_) => {
                    let help =
                        "print an alt in any case, as in alt=\"+{value or ''}\" where it only decorates".to_owned();
                    let problem = PageProblem { place: None, help, ..problem.clone() };
                    located.diagnostic(&NO_ALT.code, &problem, false)
                }
                None => located.diagnostic(code, problem, false),
            }));
        }
        told
    }
}

/// Lists without items, in the shape of what checks find.
fn empty_lists(page: &Page) -> Vec<(&'static Code, PageProblem, String)> {
    if page.format != Ending::Html || page.template.is_none() {
        return Vec::new();
    }
    let parsed = Parsed::of(&page.text);
    let mut filled: FxHashSet<usize> = FxHashSet::default();
    for element in &parsed.elements {
        filled.insert(element.parent);
    }
    let lists = parsed.elements.iter().enumerate().filter(|(at, element)| {
        matches!(element.name(), "ul" | "ol" | "dl") && element.is_html() && !filled.contains(at)
    });
    lists
        .map(|(_, element)| {
            let help = "print it only where there is something to list, or say in +{none} that there is nothing";
            let problem = PageProblem::at(element.at, format!("this <{}> has no items", element.name()), help);
            (&codes::EMPTY_LIST, problem, element.name().to_owned())
        })
        .collect()
}

fn of_variation(small: &Small, home: &Home, variation: &Variation, number: usize, arena: &mut Bump) -> Vec<Found> {
    let world = match load(small, variation) {
        Ok(world) => world,
        // A site that can't be loaded is none that a theme would be on.
        Err(Unloadable(_)) => return Vec::new(),
    };
    let mut found = Vec::new();
    for address in &variation.addresses {
        let Routed::Request(request) = world.route(address) else { continue };
        let page = home.pages.get(address);
        let now = rendered(&world, &request, arena);
        let is_same = page.is_some_and(|page| page.text == now.text && page.status == now.status);
        if is_same && !variation.titled.contains(address) {
            reset_arena(arena);
            continue;
        }
        let looked = Looked::of(&world, &request, now);
        let is_known = |(code, problem, tag): &(&'static Code, PageProblem, String)| {
            if is_of_variation(variation, problem) {
                return true;
            }
            let key = (code.name, problem.message.clone(), tag.clone());
            page.is_some_and(|page| page.found.contains(&key))
        };
        let mut told = looked.told(&world, &request, arena, is_known);
        if variation.is_less && looked.is_whole() {
            told.extend(bare_in(&world, &request, &looked.page, arena).into_iter().map(|(bare, _)| bare));
        }
        if variation.is_empty && looked.is_whole() && looked.page.status == 200 {
            told.extend(nothing_below(&world, &request, &looked.page, arena));
        }
        if variation.titled.contains(address) {
            told.extend(page.and_then(|page| same_title(&world, &request, &page.text, &looked.page, arena)));
        }
        let is_of_theme = |diagnostic: &Diagnostic| {
            diagnostic.place.as_ref().is_none_or(|place| {
                place.path.starts_with("themes/") && small.world.snapshot.file(&place.path).is_some()
            })
        };
        told.retain(|diagnostic| {
            is_of_theme(diagnostic) && !home.known.contains(&(diagnostic.code, diagnostic.place.clone()))
        });
        found.extend(told.into_iter().map(|diagnostic| Found { diagnostic, address: address.clone(), words: number }));
        reset_arena(arena);
    }
    found
}

/// Whether what was found is what the variation is: content that has no address in it, an image that it takes away.
fn is_of_variation(variation: &Variation, problem: &PageProblem) -> bool {
    let is_own = |lost: &String| variation.addresses.iter().any(|own| own == lost || *own == encoded(lost));
    let lacks_alt = variation.lacks_alt && problem.place.is_some();
    lacks_alt || problem.lost.as_ref().is_some_and(is_own) || problem.message.contains(MISSING)
}

/// Labels and elements of a page that remain where nothing is printed, each with whether it was a value that printed nothing.
fn bare_in(world: &World, request: &Request, plain: &Page, arena: &Bump) -> Vec<(Diagnostic, bool)> {
    if plain.format != Ending::Html || plain.template.is_none() {
        return Vec::new();
    }
    // Where the signs of values that print nothing change the page, elements that hold nothing are still seen.
    let traced = [true, false].into_iter().find_map(|empties| {
        let shows = Shows { trace: true, empties, ..Shows::default() };
        let traced = page(world, request.clone(), Audience::Build(shows), arena);
        let (text, pieces): (String, Vec<Piece>) = pieces(&traced.text);
        let is_same =
            text.split_whitespace().flat_map(str::chars).eq(plain.text.split_whitespace().flat_map(str::chars));
        is_same.then_some((text, pieces))
    });
    let Some((text, pieces)) = traced else { return Vec::new() };
    let told = bare(&text, &pieces).into_iter().filter_map(|bare| {
        let place = match bare.at {
            Spot::Value(unit, step) => {
                let program = world.library.program(unit)?;
                Place { path: program.path.clone(), span: *program.spans.get(step)? }
            }
            Spot::Tag(at) => in_template(world, piece_at(&pieces, at)?, at, tag_at(&text, at))?,
        };
        let (code, message, help) = match &bare.rest {
            Rest::Label(label) => (
                &codes::BARE_LABEL,
                format!("\"{label}\" is printed without its value"),
                "print both only where there is a value: +{if …} around them",
            ),
            Rest::Element(name) => (
                &codes::EMPTY_ELEMENT,
                format!("<{name}> is printed without its value"),
                "print the element only where there is a value: +{if …} around it",
            ),
        };
        let diagnostic = Diagnostic { place: Some(place), ..Diagnostic::of(code, message).help(help) };
        Some((diagnostic, matches!(bare.at, Spot::Value(..))))
    });
    told.collect()
}

/// That a page says nothing of a list that is empty.
fn nothing_below(world: &World, request: &Request, page: &Page, arena: &Bump) -> Option<Diagnostic> {
    let (at, heading) = last_heading(&page.text).filter(|_| page.format == Ending::Html)?;
    let message = format!("nothing is below the heading \"{heading}\"");
    let problem = PageProblem::at(Some(at), message, "say in +{none} that there is nothing yet");
    Located::new(world, request, arena).diagnostic(&codes::EMPTY_LIST, &problem, false)
}

/// That a page has the `<title>` that it has at home, though its title is another one.
fn same_title(world: &World, request: &Request, home: &str, now: &Page, arena: &Bump) -> Option<Diagnostic> {
    let title = |text: &str| {
        let at = text.find("<title")?;
        let rest = text.get(at..)?;
        Some((at, rest.get(rest.find('>')? + 1..rest.find("</title")?)?.trim().to_owned()))
    };
    let ((_, before), (at, after)) = (title(home)?, title(&now.text)?);
    if before != after || after.is_empty() || now.status >= 300 {
        return None;
    }
    let message = "the title of the page is not in its <title>";
    let problem = PageProblem::at(Some(at), message, "print it: <title>+{request.title} – +{site.title}</title>");
    Located::new(world, request, arena).diagnostic(&codes::SAME_TITLE, &problem, false)
}

/// Takes out what the site excepts, and tells of exceptions that nothing needs.
fn sift(world: &World, is_whole: bool, found: &mut Vec<Rehearsed>) {
    let config = &world.site.config;
    let mut leave_out = |allowance: &Allowance| {
        let (fits, before) = (fitting(allowance), found.len());
        found.retain(|rehearsed| rehearsed.finding.diagnostic.code != allowance.code.text || !fits(&rehearsed.finding));
        found.len() < before
    };
    for allowance in &config.allowed {
        leave_out(allowance);
    }
    let mut left: Vec<Diagnostic> = Vec::new();
    for allowance in &config.allowed_in_rehearsals {
        let is_known = codes_of_rehearsals().iter().any(|code| code.name == allowance.code.text);
        if !leave_out(allowance) && is_known && is_whole {
            left.push(unused(world, allowance));
        }
    }
    found.extend(left.into_iter().map(|diagnostic| Rehearsed {
        finding: Finding { diagnostic, addresses: Vec::new(), also: Vec::new() },
        variations: Vec::new(),
    }));
}
