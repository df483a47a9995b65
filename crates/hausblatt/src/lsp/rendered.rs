//! What only rendered pages show, as `check` reports it: found while nothing is typed, by a thread of its own, for the files that
//! are open.

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;
use std::sync::mpsc::{Receiver, TryRecvError, channel};
use std::time::{Duration, Instant};

use hausblatt_core::check::{Scope, SeenPages, run_after};
use hausblatt_core::model::request::Request;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::lsp::hover::file_of;
use crate::lsp::sites::{Loaded, Sites};

/// Pages are rendered when nothing was typed for so long.
const QUIET: Duration = Duration::from_millis(400);
/// So many pages of a file are rendered.
const PAGES: usize = 60;

/// Pages of more bytes are left to `check`.
const MOST_BYTES: usize = 1 << 20;

/// Looks at the pages of open files.
#[derive(Default)]
pub struct Looking {
    /// When to look, and whether that is still to be done.
    due: Option<Instant>,
    running: Option<Running>,
    /// What was seen of pages when they were looked at last.
    seen: Seen,
    /// Counts the changes: what was found before the last one is of no use.
    moment: u64,
}

/// What is wrong in a site, by its number.
type Found = Vec<(usize, Vec<Diagnostic>)>;

/// The number of a site, and the theme that it is looked at with.
type Place = (usize, Option<String>);

/// What was seen of pages.
type Seen = HashMap<Place, SeenPages>;

struct Running {
    moment: u64,
    found: Receiver<(Found, Seen)>,
}

impl Looking {
    /// Notes a change.
    pub fn changed(&mut self) {
        self.moment += 1;
        self.due = Some(Instant::now() + QUIET);
    }

    /// When there is something to do here; none while there is nothing.
    pub fn next(&self) -> Option<Duration> {
        match (&self.running, self.due) {
            (Some(_), _) => Some(Duration::from_millis(20)),
            (None, Some(due)) => Some(due.saturating_duration_since(Instant::now())),
            (None, None) => None,
        }
    }

    /// Begins to look, if it is time, and takes what was found; whether there is something new.
    pub fn step(&mut self, sites: &mut Sites) -> bool {
        if let Some(running) = &self.running {
            let (found, seen) = match running.found.try_recv() {
                Ok(found) => found,
                Err(TryRecvError::Empty) => return false,
                Err(TryRecvError::Disconnected) => Default::default(),
            };
            self.seen = seen;
            let is_current = running.moment == self.moment;
            self.running = None;
            if !is_current {
                return false;
            }
            (0..sites.count()).for_each(|at| sites.site(at).rendered.clear());
            for (at, diagnostics) in found {
                sites.site(at).rendered.extend(diagnostics);
            }
            return true;
        }
        if self.due.is_some_and(|due| due <= Instant::now()) {
            self.due = None;
            self.begin(sites);
        }
        false
    }

    fn begin(&mut self, sites: &mut Sites) {
        let mut work: Vec<(Place, Arc<Loaded>, Vec<String>)> = Vec::new();
        for at in 0..sites.count() {
            // A file of a theme that is not in use is looked at as if it were.
            let mut by_theme: BTreeMap<Option<String>, Vec<String>> = BTreeMap::new();
            for path in sites.open_in(at) {
                by_theme.entry(sites.other_theme(at, &path)).or_default().push(path);
            }
            for (theme, open) in by_theme {
                work.push(((at, theme.clone()), sites.loaded(at, theme), open));
            }
        }
        let (sender, found) = channel();
        let mut before = std::mem::take(&mut self.seen);
        let looks = move || {
            // A pool of its own, so that no keystroke waits for a page.
            let pool = rayon::ThreadPoolBuilder::new().num_threads(1).build();
            let Ok(pool) = pool else { return };
            let mut seen = Seen::default();
            let all = work.into_iter().map(|(place, loaded, open)| {
                let earlier = before.remove(&place).unwrap_or_default();
                let (found, now) = pool.install(|| look(&loaded, &open, &earlier));
                let at = place.0;
                seen.insert(place, now);
                (at, found)
            });
            let all = all.collect();
            let _ = sender.send((all, seen));
        };
        if std::thread::Builder::new().spawn(looks).is_ok() {
            self.running = Some(Running { moment: self.moment, found });
        }
    }
}

/// What pages of these files show in them, after some were seen.
fn look(loaded: &Loaded, open: &[String], earlier: &SeenPages) -> (Vec<Diagnostic>, SeenPages) {
    let Ok(world) = &loaded.world else { return Default::default() };
    let mut through: Vec<Request> = Vec::new();
    for path in open {
        if let Some(id) = file_of(world, path) {
            through.extend(world.reach(id).take(PAGES).map(|(request, _)| request.clone()));
        }
        let content = world.site.contents.iter().find(|content| **content.path() == **path);
        let address = content.and_then(|content| content.address.as_deref());
        through.extend(world.requests().iter().filter(|request| Some(request.address.as_str()) == address).cloned());
    }
    through.sort_by(|a, b| a.address.cmp(&b.address));
    through.dedup_by(|a, b| a.address == b.address);
    let files = open.iter().map(|path| path.as_str().into()).collect();
    let scope = Scope::Part { asked: Vec::new(), files, through };
    let (found, seen) = run_after(world, &scope, &|_, _| {}, MOST_BYTES, earlier);
    let is_known = |diagnostic: &Diagnostic| {
        let is_it = |other: &&Diagnostic| {
            other.code == diagnostic.code && other.place == diagnostic.place && other.message == diagnostic.message
        };
        world.problems.iter().any(|other| is_it(&other))
    };
    let all = found.into_iter().flat_map(|finding| {
        let shown = match finding.addresses.as_slice() {
            [] => String::new(),
            [one] => format!(" (at {one})"),
            [one, others @ ..] => format!(" (at {one} and {} more)", others.len()),
        };
        let all = std::iter::once(finding.diagnostic).chain(finding.also).filter(|diagnostic| !is_known(diagnostic));
        all.map(move |found| Diagnostic { message: format!("{}{shown}", found.message), ..found }).collect::<Vec<_>>()
    });
    (all.collect(), seen)
}
