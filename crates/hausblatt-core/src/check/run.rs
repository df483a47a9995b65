//! All checks run: of files, of the site, of each rendered page; findings that say the same are joined.

use std::borrow::Cow;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use bumpalo::Bump;
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Place;
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

use crate::analysis::asset_conflicts;
use crate::arena::reset_arena;
use crate::build::Progress;
use crate::check::locate::Located;
use crate::check::parsed::Parsed;
use crate::check::rules::{OWN, broken_anchor, image_without_alt, no_fallback};
use crate::check::seen_pages::{KnownPages, Looked, SeenPages};
use crate::check::view::{PageProblem, View};
use crate::check::{alike, allowed, causes};
use crate::model::request::{Request, Routed};
use crate::render::page::{Audience, Page, page};
use crate::text::codes;
use crate::themes::lineage::FileId;
use crate::threads::PAGES;
use crate::world::{World, in_order};
use hausblatt_lang::render::Shows;

/// A check: its code, and what it looks at.
pub struct Check {
    pub(crate) code: Code,
    pub(super) look: Look,
}

/// What a check looks at.
pub(super) enum Look {
    /// The site as a whole.
    Site(fn(&World) -> Vec<Diagnostic>),
    /// Each rendered page.
    Page(fn(&View<'_>, &mut Vec<PageProblem>)),
    /// Each answer of one ending other than that of pages.
    Answer(Ending, fn(&str, &mut Vec<PageProblem>)),
    /// Links between pages.
    Places,
    /// What is left when all is done: the allowances.
    Allowances,
}

/// Every code that is reported of a site, in order.
pub fn codes() -> Vec<&'static Code> {
    let of_checks = OWN.iter().map(|check| &check.code);
    let mut all: Vec<&Code> = of_checks.chain(codes::OF_SITES).chain(lang_codes::ALL).collect();
    all.sort_by_key(|code| code.name);
    all.dedup();
    all
}

/// Every code that is reported of a site or in its rehearsal, in order.
pub fn codes_of_rehearsals() -> Vec<&'static Code> {
    let mut all = codes();
    all.extend(codes::OF_REHEARSALS);
    all.sort_by_key(|code| code.name);
    all
}

/// Every code that any command prints, in order.
pub fn all_codes() -> Vec<&'static Code> {
    let mut all = codes_of_rehearsals();
    all.extend(codes::OF_ANSWERS);
    all.sort_by_key(|code| code.name);
    all
}

/// What is checked.
#[derive(Clone, Debug)]
pub enum Scope {
    /// The whole site.
    Whole,
    /// What these pages show, and what is wrong in these files.
    Part {
        /// The requests.
        asked: Vec<Request>,
        /// The paths of the files.
        files: Vec<Arc<str>>,
        /// The requests that show what is wrong in those files.
        through: Vec<Request>,
    },
}

impl Scope {
    /// Whether files are checked, in addition to what pages show.
    fn has_files(&self) -> bool {
        match self {
            Scope::Whole => true,
            Scope::Part { files, .. } => !files.is_empty(),
        }
    }
}

/// Something wrong, and the addresses that show it.
#[derive(Clone, Debug)]
pub struct Finding {
    /// What is wrong.
    pub diagnostic: Diagnostic,
    /// The addresses, in the order of the map; none where it is not about pages.
    pub addresses: Vec<String>,
    /// The same in other places, in their order, where one cause has it in many.
    pub also: Vec<Diagnostic>,
}

/// Finds what is wrong, in the order of the files; what the site allows is left out.
///
/// ```
/// # use hausblatt_core::files::Snapshot;
/// # use hausblatt_core::{SiteOptions, jiff::civil::date, world::World};
/// use hausblatt_core::check::{Scope, run};
///
/// # let snapshot = Snapshot::in_memory([
/// #     ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"bare\"\n[front]\npage = \"visit\"\n"),
/// #     ("themes/bare/hausblatt-theme.toml", ""),
/// #     ("themes/bare/layouts/document.html", "+{slot}"),
/// #     ("themes/bare/templates/fallback.html", "<p>1</p>"),
/// #     ("themes/bare/templates/pge.html", "<p>1</p>"),
/// #     ("content/pages/visit.md", ""),
/// # ]);
/// # let world = World::load(snapshot, SiteOptions::on(date(2026, 5, 1)))?;
/// let found = run(&world, &Scope::Whole, &|done, all| println!("{done} of {all}"));
/// assert!(found.iter().any(|finding| finding.diagnostic.code == "dead-file"));
/// # Ok::<(), hausblatt_core::world::Unloadable>(())
/// ```
pub fn run(world: &World, scope: &Scope, progress: Progress<'_>) -> Vec<Finding> {
    run_within(world, scope, progress, usize::MAX)
}

/// The same without looking at pages of more than so many bytes, which take many times their size in memory.
pub fn run_within(world: &World, scope: &Scope, progress: Progress<'_>, most_bytes: usize) -> Vec<Finding> {
    run_with(world, scope, progress, most_bytes, None).0
}

/// The same after a check of an earlier state of the site, or of another part of it, has seen pages: one that would be seen
/// as it was is not rendered. What is seen now is for the next check.
pub fn run_after(
    world: &World,
    scope: &Scope,
    progress: Progress<'_>,
    most_bytes: usize,
    earlier: &SeenPages,
) -> (Vec<Finding>, SeenPages) {
    run_with(world, scope, progress, most_bytes, Some(earlier))
}

fn run_with(
    world: &World,
    scope: &Scope,
    progress: Progress<'_>,
    most_bytes: usize,
    earlier: Option<&SeenPages>,
) -> (Vec<Finding>, SeenPages) {
    let requests: Cow<'_, [Request]> = match scope {
        Scope::Whole => world.requests().into(),
        Scope::Part { asked, through, .. } => {
            let more = through.iter().filter(|request| !asked.contains(request));
            asked.iter().chain(more).cloned().collect()
        }
    };
    // Before pages are looked at on all cores, as in a build.
    world.odd();
    let mut findings = Findings::default();
    match scope {
        Scope::Whole => findings.all(world.problems.clone()),
        Scope::Part { asked, .. } => {
            for request in asked {
                let problems = world.problems_of(&world.resolve(request.clone()));
                problems.into_iter().for_each(|problem| findings.add(problem.clone(), &[&request.address]));
            }
            findings.all(world.problems.clone());
        }
    }
    // What is found of the site as a whole is about files: where only addresses are asked about, none of it would stay.
    if scope.has_files() {
        let of_site = OWN.iter().filter_map(|check| match check.look {
            Look::Site(look) => Some(look),
            _ => None,
        });
        of_site.for_each(|look| findings.all(look(world)));
        findings.all(asset_conflicts::of_site(world));
    }
    let earlier = earlier.map(|earlier| KnownPages::new(world, most_bytes, earlier));
    let seen = findings.of_pages(world, (&requests, scope), progress, most_bytes, earlier.as_ref());
    let mut found = findings.found;
    if let Scope::Part { asked, files, .. } = scope {
        found.retain(|finding| {
            let place = finding.diagnostic.place.as_ref();
            place.is_some_and(|place| files.contains(&place.path))
                || asked.iter().any(|request| finding.addresses.contains(&request.address))
        });
    }
    // What no address can be answered for is reported as the error that it is.
    if found.iter().any(|finding| finding.diagnostic.code == codes::NO_TEMPLATE.name) {
        found.retain(|finding| finding.diagnostic.code != no_fallback::CHECK.code.name);
    }
    // What is allowed explains nothing.
    allowed::sift(world, scope, &mut found);
    if matches!(scope, Scope::Whole) {
        causes::leave_out_effects(world, &mut found);
    }
    found.sort_by(|a, b| in_order(&a.diagnostic, &b.diagnostic).then_with(|| a.diagnostic.code.cmp(b.diagnostic.code)));
    if matches!(scope, Scope::Whole) {
        alike::fold(world, &mut found);
    }
    let places: FxHashMap<&str, usize> =
        requests.iter().enumerate().map(|(at, request)| (request.address.as_str(), at)).collect();
    for finding in &mut found {
        // What one line writes can be found in a page several times, as in each card of a listing.
        finding.addresses.sort_by_key(|address| places.get(address.as_str()).copied());
        finding.addresses.dedup();
    }
    (found, seen)
}

/// What is said of values that a template prints, in words that name the value.
const OF_VALUES: [&str; 6] = [
    lang_codes::BAD_VALUE.name,
    lang_codes::DEAD_REFERENCE.name,
    lang_codes::UNPRINTABLE.name,
    lang_codes::UNSAFE_ADDRESS.name,
    lang_codes::UNSAFE_NUMBER.name,
    lang_codes::UNSAFE_STYLE.name,
];

/// For so many lost addresses the nearest ones are looked for.
const HELPED: usize = 200;

/// What was found in pages that were made by the same template, before it is known where that was written.
struct Pending {
    code: &'static Code,
    found: PageProblem,
    /// The first page that shows it, by its place among the requests.
    page: usize,
    /// Whether what is near is reported where an address is lost.
    near: bool,
    addresses: Vec<usize>,
}

/// What makes two things found in two pages the same.
type Key = (&'static str, String, Option<FileId>, String);

/// What a check found in a page, with the tag that it is about.
type FoundInPage = (&'static Code, PageProblem, String);

/// What one page shows.
#[derive(Default)]
pub(crate) struct Seen {
    pub(super) diagnostics: Vec<Diagnostic>,
    pub found: Vec<FoundInPage>,
    pub(super) template: Option<FileId>,
    pub(super) pointers: Vec<broken_anchor::Pointer>,
    pub(super) ids: FxHashSet<Box<str>>,
}

#[derive(Default)]
struct Findings {
    found: Vec<Finding>,
    known: FxHashMap<(&'static str, Option<Place>, String), usize>,
}

impl Findings {
    fn all(&mut self, diagnostics: impl IntoIterator<Item = Diagnostic>) {
        diagnostics.into_iter().for_each(|diagnostic| self.add(diagnostic, &[]));
    }

    /// Adds something found at some addresses; what is found again gets more addresses.
    fn add(&mut self, diagnostic: Diagnostic, addresses: &[&str]) {
        let key = (diagnostic.code, diagnostic.place.clone(), diagnostic.message.clone());
        let at = *self.known.entry(key).or_insert_with(|| {
            self.found.push(Finding { diagnostic, addresses: Vec::new(), also: Vec::new() });
            self.found.len() - 1
        });
        self.found[at].addresses.extend(addresses.iter().map(|&address| address.to_owned()));
    }

    /// Renders and reads pages, but for those that are known; what was seen of them.
    fn of_pages(
        &mut self,
        world: &World,
        (requests, scope): (&[Request], &Scope),
        progress: Progress<'_>,
        most_bytes: usize,
        earlier: Option<&KnownPages<'_, '_>>,
    ) -> SeenPages {
        let done = AtomicUsize::new(0);
        let looked: Vec<Looked> = requests
            .par_iter()
            .with_max_len(PAGES)
            .map_init(Bump::new, |arena, request| {
                let look = || look_at(world, request, arena, most_bytes);
                let looked = match earlier {
                    Some(earlier) => earlier.look(request, look),
                    None => Looked::once(look()),
                };
                reset_arena(arena);
                progress(done.fetch_add(1, Ordering::Relaxed) + 1, requests.len());
                looked
            })
            .collect();
        let lost = lost_places(world, scope, requests, &looked);
        // What comes of one line of a template is one thing, though it reads differently from page to page.
        let mut lines: FxHashMap<(&'static str, Place), String> = FxHashMap::default();
        let mut pending: FxHashMap<Key, usize> = FxHashMap::default();
        let mut list: Vec<Pending> = Vec::new();
        for (page, (seen, lost)) in looked.iter().map(|looked| &looked.seen).zip(lost).enumerate() {
            for mut diagnostic in seen.diagnostics.iter().cloned() {
                if let Some(place) = diagnostic.place.clone().filter(|_| OF_VALUES.contains(&diagnostic.code)) {
                    let message = lines.entry((diagnostic.code, place)).or_insert_with(|| diagnostic.message.clone());
                    diagnostic.message.clone_from(message);
                }
                self.add(diagnostic, &[&requests[page].address]);
            }
            for (code, found, tag) in seen.found.iter().cloned().chain(lost) {
                let key = (code.name, found.message.clone(), seen.template, tag);
                let at = *pending.entry(key).or_insert_with(|| {
                    // What is near a lost address takes a look at all of them.
                    let near = list.len() < HELPED;
                    list.push(Pending { code, found, page, near, addresses: Vec::new() });
                    list.len() - 1
                });
                if list[at].addresses.last() != Some(&page) {
                    list[at].addresses.push(page);
                }
            }
        }
        let by_page: Vec<&[Pending]> = list.chunk_by(|a, b| a.page == b.page).collect();
        let located: Vec<Vec<Option<Diagnostic>>> = by_page
            .par_iter()
            .with_max_len(PAGES)
            .map_init(Bump::new, |arena, of_page| {
                let page = of_page.first().map(|first| Located::new(world, &requests[first.page], arena));
                let told = |pending: &Pending| page.as_ref()?.diagnostic(pending.code, &pending.found, pending.near);
                let told = of_page.iter().map(told).collect();
                reset_arena(arena);
                told
            })
            .collect();
        let uneven: FxHashSet<Arc<str>> = world
            .problems
            .iter()
            .filter(|it| it.code == lang_codes::UNEVEN_BRANCHES.name)
            .filter_map(|it| Some(it.place.as_ref()?.path.clone()))
            .collect();
        for (pending, diagnostic) in list.iter().zip(located.into_iter().flatten()) {
            let Some(mut diagnostic) = diagnostic else { continue };
            // A branch that leaves an element open is reported once, where it is written.
            let of_branch = |place: &Place| uneven.contains(&place.path);
            if ["unclosed-element", "stray-end"].contains(&diagnostic.code)
                && diagnostic.place.as_ref().is_some_and(of_branch)
            {
                continue;
            }
            if let Some(place) = diagnostic.place.clone().filter(|place| place.path.starts_with("themes/")) {
                let message = lines.entry((diagnostic.code, place)).or_insert_with(|| diagnostic.message.clone());
                diagnostic.message.clone_from(message);
            }
            let addresses: Vec<&str> = pending.addresses.iter().map(|&at| requests[at].address.as_str()).collect();
            self.add(diagnostic, &addresses);
        }
        self.other_files(world, scope);
        earlier.map(|earlier| earlier.kept(requests, looked)).unwrap_or_default()
    }

    /// Adds the other files that name an image of which nothing is said: pages can't tell which of them they show. Of
    /// several the one that is asked about comes first.
    fn other_files(&mut self, world: &World, scope: &Scope) {
        let is_asked = |place: &Place| match scope {
            Scope::Whole => false,
            Scope::Part { files, .. } => files.contains(&place.path),
        };
        let firsts: FxHashMap<&Place, &Vec<Place>> =
            world.images_without_alt().values().filter_map(|places| Some((places.first()?, places))).collect();
        for finding in self.found.iter_mut().filter(|it| it.diagnostic.code == image_without_alt::CHECK.code.name) {
            let Some(places) = finding.diagnostic.place.as_ref().and_then(|place| firsts.get(place)) else { continue };
            let mut places: Vec<Place> = places.to_vec();
            places.sort_by_key(|place| !is_asked(place));
            let at = |place: &Place| Diagnostic { place: Some(place.clone()), ..finding.diagnostic.clone() };
            finding.also = places[1..].iter().map(at).collect();
            finding.diagnostic.place = places.into_iter().next();
        }
    }
}

/// Links to places that are not in the pages that they lead to, for each page.
fn lost_places(world: &World, scope: &Scope, requests: &[Request], looked: &[Looked]) -> Vec<Vec<FoundInPage>> {
    let mut ids: FxHashMap<&str, Cow<'_, FxHashSet<Box<str>>>> = FxHashMap::default();
    for (request, looked) in requests.iter().zip(looked) {
        ids.insert(&request.address, Cow::Borrowed(&looked.seen.ids));
    }
    let mut all = Vec::with_capacity(looked.len());
    for looked in looked {
        let mut lost = Vec::new();
        for pointer in &looked.seen.pointers {
            if !ids.contains_key(pointer.to.as_str()) && matches!(scope, Scope::Part { .. }) {
                let Routed::Request(request) = world.route_decoded(&pointer.to) else { continue };
                let seen = look_at(world, &request, &Bump::new(), usize::MAX);
                ids.insert(&pointer.to, Cow::Owned(seen.ids));
            }
            let found = ids.get(pointer.to.as_str()).and_then(|ids| pointer.found(ids));
            lost.extend(found.map(|found| (&broken_anchor::CHECK.code, found, String::new())));
        }
        all.push(lost);
    }
    all
}

/// Renders a page, reads it as browsers do, and looks at it.
fn look_at(world: &World, request: &Request, arena: &Bump, most_bytes: usize) -> Seen {
    let mut answer = page(world, request.clone(), Audience::Build(Shows::default()), arena);
    let diagnostics = std::mem::take(&mut answer.diagnostics);
    Seen { diagnostics, ..look_into(world, request, &answer, most_bytes) }
}

/// Reads the page that answers a request as browsers do, and looks at it.
pub(crate) fn look_into(world: &World, request: &Request, answer: &Page, most_bytes: usize) -> Seen {
    let mut seen = Seen {
        diagnostics: Vec::new(),
        found: Vec::new(),
        template: answer.template,
        pointers: Vec::new(),
        ids: FxHashSet::default(),
    };
    if answer.location.is_some() || answer.template.is_none() || answer.text.len() > most_bytes {
        return seen;
    }
    if answer.format != Ending::Html {
        let mut found = Vec::new();
        for check in OWN {
            if let Look::Answer(ending, look) = check.look
                && ending == answer.format
            {
                look(&answer.text, &mut found);
                seen.found.extend(found.drain(..).map(|found| (&check.code, found, String::new())));
            }
        }
        return seen;
    }
    let parsed = Parsed::of(&answer.text);
    let view = View::of(world, request, &answer.text, &parsed);
    let mut found = Vec::new();
    for check in OWN {
        if let Look::Page(look) = check.look {
            look(&view, &mut found);
            // A listing may show the same thousands of times.
            let mut known: FxHashSet<(String, &str)> = FxHashSet::default();
            for found in found.drain(..) {
                let tag = found.at.map(|at| tag_at(&answer.text, at)).unwrap_or_default();
                if found.of_menu.is_none() && !known.insert((found.message.clone(), tag)) {
                    continue;
                }
                let mut tag = tag.to_owned();
                if found.of_menu.is_some() {
                    // Of equal tags one may be printed by a menu, and another one written out.
                    tag.push_str(&seen.found.len().to_string());
                }
                seen.found.push((&check.code, found, tag));
            }
        }
    }
    seen.pointers = broken_anchor::pointers(&view);
    seen.ids = broken_anchor::ids(&view);
    seen
}

/// The beginning of what is at a byte of a page, to the end of its tag or line.
pub(crate) fn tag_at(text: &str, at: usize) -> &str {
    let rest = text.get(at..).unwrap_or("");
    let end = rest.find(['>', '\n']).map_or(rest.len(), |end| end + 1);
    let mut end = end.min(200);
    while !rest.is_char_boundary(end) {
        end -= 1;
    }
    &rest[..end]
}
