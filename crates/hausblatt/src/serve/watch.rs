//! The doorbell: tells that something in the site's folder may have changed. The files that come with the ring are
//! looked at first, so that open pages hear of them at once; but they are not trusted to be all, so every file is looked
//! at after them.

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::thread;
use std::time::{Duration, Instant};

use hausblatt_core::files::PARTS;
use notify::event::EventKind;
use notify::{RecommendedWatcher, RecursiveMode, Watcher};

use crate::serve::live::Live;

/// A change is looked at when nothing more has rung for so long.
const QUIET: Duration = Duration::from_millis(3);
/// And at the latest so long after the first ring.
const LATEST: Duration = Duration::from_millis(50);
/// So many named files are not looked at before the others.
const MANY: usize = 100;
/// Without a ring, files are looked at so often.
const SELDOM: Duration = Duration::from_secs(2);
/// The part of the time that such looks may take.
const SHARE: u32 = 50;

/// Watches the site for as long as the program runs.
pub fn watch(live: Arc<Live>) {
    thread::spawn(move || {
        let (ring, rings) = channel();
        let watcher = notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
            // Reading is reported too, and we read.
            let event = event.unwrap_or_default();
            if !matches!(event.kind, EventKind::Access(_)) {
                let _ = ring.send(event.paths);
            }
        });
        let mut watched = Watched { watcher: watcher.ok(), root: live.root(), parts: BTreeMap::new() };
        loop {
            watched.renew();
            let rung = wait(&rings, &live);
            if !rung.is_empty() {
                live.glance(&rung);
            }
            live.look(Duration::ZERO);
        }
    });
}

/// Waits for a ring and the quiet behind it, or until it is time for a look without one; what the rings name.
fn wait(rings: &Receiver<Vec<PathBuf>>, live: &Live) -> Vec<PathBuf> {
    match rings.recv_timeout(SELDOM.max(live.took() * SHARE)) {
        Ok(mut named) => {
            let first = Instant::now();
            while let Some(left) = LATEST.checked_sub(first.elapsed())
                && let Ok(more) = rings.recv_timeout(QUIET.min(left))
            {
                named.extend(more);
            }
            named.sort();
            named.dedup();
            if named.len() > MANY { Vec::new() } else { named }
        }
        Err(RecvTimeoutError::Timeout) => Vec::new(),
        // No watcher could be made: looks alone have to do.
        Err(RecvTimeoutError::Disconnected) => {
            thread::sleep(LATEST.max(live.took() * SHARE));
            Vec::new()
        }
    }
}

/// The folders that are watched, each as the folder that it was then.
struct Watched {
    watcher: Option<RecommendedWatcher>,
    root: PathBuf,
    parts: BTreeMap<PathBuf, (u64, u64)>,
}

impl Watched {
    /// Watches what is not watched yet: a folder that has come, or another one under the same name.
    fn renew(&mut self) {
        let root = self.root.clone();
        self.part(&root, RecursiveMode::NonRecursive);
        for part in PARTS {
            self.part(&root.join(part), RecursiveMode::Recursive);
        }
    }

    fn part(&mut self, path: &Path, mode: RecursiveMode) {
        let Some(watcher) = &mut self.watcher else { return };
        let Some(is) = fs::metadata(path).ok().filter(|it| it.is_dir()).map(|it| (it.dev(), it.ino())) else {
            self.parts.remove(path);
            return;
        };
        if self.parts.get(path) == Some(&is) {
            return;
        }
        if watcher.watch(path, mode).is_ok() {
            self.parts.insert(path.to_owned(), is);
        }
    }
}
