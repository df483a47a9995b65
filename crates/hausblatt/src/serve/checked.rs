//! What `check` finds, for each state of the site: found once, for a large site by a thread of its own.

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, OnceLock};

use hausblatt_core::Routed;
use hausblatt_core::check::{self, Finding, LARGE, Scope, SeenPages};
use hausblatt_core::model::content::Content;
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::serve::live::Moment;
use crate::serve::{Server, locked};

/// What is found in the file of some content at one state of the site.
type OfContent = (u64, Arc<str>, Arc<[Diagnostic]>);

/// What was found of one state of the site.
#[derive(Clone, Default)]
struct Whole {
    generation: u64,
    found: Arc<OnceLock<Vec<Finding>>>,
    is_begun: bool,
}

/// What was found last.
#[derive(Default)]
pub struct Checked {
    whole: Mutex<Whole>,
    /// What was seen of the pages of the last state that was checked.
    seen: Mutex<SeenPages>,
    content: Mutex<Option<OfContent>>,
}

impl Checked {
    /// What is wrong in the file of some content, on its page too.
    pub fn of_content(&self, moment: &Moment, world: &World, content: &Content) -> Arc<[Diagnostic]> {
        let mut kept = locked(&self.content);
        let path = content.path();
        let is_same = |generation: u64, of: &str| generation == moment.generation && *of == **path;
        if let Some((.., found)) = kept.as_ref().filter(|(generation, of, _)| is_same(*generation, of)) {
            return found.clone();
        }
        let found = match content.address.as_deref().map(|address| world.route(address)) {
            Some(Routed::Request(request)) => {
                let scope = Scope::Part { asked: vec![request], files: vec![path.clone()], through: Vec::new() };
                check::run(world, &scope, &|_, _| {}).into_iter().map(|it| it.diagnostic).collect()
            }
            Some(Routed::Redirect(_)) | None => world.problems.clone(),
        };
        let is_here = |problem: &Diagnostic| problem.place.as_ref().is_some_and(|place| *place.path == **path);
        let found: Arc<[Diagnostic]> = found.into_iter().filter(is_here).collect();
        *kept = Some((moment.generation, path.clone(), found.clone()));
        found
    }

    /// All that is wrong now; nothing as long as that is not known.
    pub fn all(&self, server: &Arc<Server>, moment: &Moment) -> Option<Arc<OnceLock<Vec<Finding>>>> {
        let (whole, is_begun) = {
            let mut kept = locked(&self.whole);
            if kept.generation != moment.generation {
                *kept = Whole { generation: moment.generation, ..Whole::default() };
            }
            let is_begun = std::mem::replace(&mut kept.is_begun, true);
            (kept.clone(), is_begun)
        };
        let world = moment.world.as_ref().as_ref().ok()?;
        if world.requests().len() < LARGE {
            if let Some(found) = self.found(world, &whole) {
                let _ = whole.found.set(found);
            }
        } else if !is_begun {
            begin(server.clone(), moment.world.clone(), whole.clone());
        }
        whole.found.get().is_some().then_some(whole.found)
    }

    /// What is wrong with a site; pages that the edits since the last check leave as they were are not looked at again.
    /// Nothing where that was found while another state was checked, or is not wanted any more.
    fn found(&self, world: &World, whole: &Whole) -> Option<Vec<Finding>> {
        let mut seen = locked(&self.seen);
        if whole.found.get().is_some() || locked(&self.whole).generation != whole.generation {
            return None;
        }
        let (found, now) = check::run_after(world, &Scope::Whole, &|_, _| {}, usize::MAX, &seen);
        *seen = now;
        Some(found)
    }

    /// The addresses that have problems, and whether one of these is an error; nothing as long as that is not known.
    pub fn addresses(&self, server: &Arc<Server>, moment: &Moment) -> Option<BTreeMap<String, bool>> {
        let found = self.all(server, moment)?;
        let mut wrong: BTreeMap<String, bool> = BTreeMap::new();
        for finding in found.get()? {
            for address in &finding.addresses {
                *wrong.entry(address.clone()).or_default() |= finding.diagnostic.is_error();
            }
        }
        Some(wrong)
    }
}

/// Checks a site on a thread of its own, and not on all cores: pages are made meanwhile.
fn begin(server: Arc<Server>, world: Arc<Result<World, Vec<Diagnostic>>>, whole: Whole) {
    std::thread::spawn(move || {
        let work = || {
            if let Some(found) = world.as_ref().as_ref().ok().and_then(|world| server.checked.found(world, &whole)) {
                let _ = whole.found.set(found);
            }
        };
        let cores = std::thread::available_parallelism().map_or(1, usize::from);
        match rayon::ThreadPoolBuilder::new().num_threads(cores.div_ceil(2)).build() {
            Ok(pool) => pool.install(work),
            Err(_) => work(),
        }
    });
}
