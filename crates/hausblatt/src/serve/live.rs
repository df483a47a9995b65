//! The site as it is now: a World made anew whenever a file or the day has changed.

use std::path::PathBuf;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use arc_swap::ArcSwap;
use hausblatt_core::asking::Asking;
use hausblatt_core::files::Snapshot;
use hausblatt_core::lookup::public;
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::text::diagnostic::Diagnostic;
use tokio::sync::watch;
use xxhash_rust::xxh3::Xxh3;

use crate::opened;
use crate::options::Common;

/// A request looks at every file again if the last look is older than this.
const FRESH: Duration = Duration::from_millis(250);

/// The site at one moment.
pub struct Moment {
    /// Counts the changes that were seen, from 1.
    pub generation: u64,
    /// The files.
    pub snapshot: Snapshot,
    /// The World, or why there is none.
    pub world: Result<World, Vec<Diagnostic>>,
    /// The state of what pages may load besides styles.
    pub files: u64,
    /// The state of all styles.
    pub styles: u64,
}

impl Moment {
    /// All problems of the site itself.
    pub fn problems(&self) -> &[Diagnostic] {
        match &self.world {
            Ok(world) => &world.problems,
            Err(problems) => problems,
        }
    }
}

/// Keeps the site as it is now.
pub struct Live {
    common: Common,
    now: ArcSwap<Moment>,
    looked: Mutex<Looked>,
    changed: watch::Sender<u64>,
}

/// The last look at the files.
struct Looked {
    snapshot: Snapshot,
    asking: Asking,
    at: Instant,
    took: Duration,
}

impl Live {
    /// Keeps the site whose files were just read.
    pub fn new(common: &Common, snapshot: Snapshot, asking: Asking) -> Self {
        let now = moment(1, snapshot.clone(), asking.clone());
        let looked = Looked { snapshot, asking, at: Instant::now(), took: Duration::ZERO };
        let common = common.clone();
        Self { common, now: ArcSwap::from_pointee(now), looked: Mutex::new(looked), changed: watch::Sender::new(1) }
    }

    /// The site's folder.
    pub fn root(&self) -> PathBuf {
        self.now.load().snapshot.root().to_owned()
    }

    /// The site as it was at the last look.
    pub fn last(&self) -> Arc<Moment> {
        self.now.load_full()
    }

    /// The site as it is now: every file's stamp is compared, unless that was done a moment ago.
    pub fn fresh(&self) -> Arc<Moment> {
        self.look(FRESH);
        self.last()
    }

    /// Looks at every file, unless that was done less than `age` ago; true if something has changed.
    pub fn look(&self, age: Duration) -> bool {
        let mut looked = self.looked.lock().unwrap_or_else(PoisonError::into_inner);
        let since = looked.at.elapsed();
        if since < age {
            return false;
        }
        let start = Instant::now();
        // A folder that can't be listed at this moment is looked at again the next time.
        let Ok(snapshot) = looked.snapshot.refreshed() else { return false };
        let changed = self.take(&mut looked, snapshot);
        // The age of a look counts from its beginning: what was saved meanwhile may have been missed.
        looked.at = start;
        looked.took = start.elapsed();
        changed
    }

    /// Looks at these files of the disk only, if that is enough. It does not count as a look: what else has changed is
    /// still to be seen.
    pub fn glance(&self, places: &[PathBuf]) {
        let mut looked = self.looked.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(snapshot) = looked.snapshot.with_changed(places) {
            self.take(&mut looked, snapshot);
        }
    }

    /// Takes what was seen; true if it differs from what is kept, which is then made anew.
    fn take(&self, looked: &mut Looked, snapshot: Snapshot) -> bool {
        let asking = opened::asking(&self.common, &snapshot);
        let same = asking == looked.asking && snapshot.changed_since(&looked.snapshot).is_empty();
        looked.snapshot = snapshot.clone();
        if !same {
            looked.asking = asking.clone();
            let generation = self.now.load().generation + 1;
            let before = self.now.swap(Arc::new(moment(generation, snapshot, asking)));
            // Open pages are told before what was is taken apart.
            self.changed.send_replace(generation);
            drop(before);
        }
        !same
    }

    /// How long the last look took.
    pub fn took(&self) -> Duration {
        self.looked.lock().unwrap_or_else(PoisonError::into_inner).took
    }

    /// Tells of every change from now on.
    pub fn changes(&self) -> watch::Receiver<u64> {
        self.changed.subscribe()
    }
}

fn moment(generation: u64, snapshot: Snapshot, asking: Asking) -> Moment {
    let world = World::load(snapshot.clone(), asking).map_err(|Unloadable(problems)| problems);
    let (mut files, mut styles) = (Xxh3::new(), Xxh3::new());
    for (path, node) in world.iter().flat_map(public::files) {
        let state = if path.ends_with(".css") { &mut styles } else { &mut files };
        state.update(path.as_bytes());
        state.update(&node.stamp.modified.to_le_bytes());
        state.update(&node.stamp.length.to_le_bytes());
        state.update(&node.stamp.node.1.to_le_bytes());
    }
    Moment { generation, snapshot, world, files: files.digest(), styles: styles.digest() }
}
