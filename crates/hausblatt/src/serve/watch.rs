//! The doorbell: tells that something in the site's folder may have changed. What has changed is seen by looking at
//! every file; the paths that come with the ring are not trusted.

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::thread;
use std::time::{Duration, Instant};

use hausblatt_core::snapshot::PARTS;
use notify::event::EventKind;
use notify::{RecommendedWatcher, RecursiveMode, Watcher};

use crate::serve::live::Live;

/// A change is looked at when nothing more has rung for so long.
const QUIET: Duration = Duration::from_millis(3);
/// And at the latest so long after the first ring.
const LATEST: Duration = Duration::from_millis(50);
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
            if !event.is_ok_and(|event| matches!(event.kind, EventKind::Access(_))) {
                let _ = ring.send(());
            }
        });
        let mut watched = Watched { watcher: watcher.ok(), root: live.root(), parts: BTreeMap::new() };
        loop {
            watched.renew();
            wait(&rings, &live);
            live.look(Duration::ZERO);
        }
    });
}

/// Waits for a ring and the quiet behind it, or until it is time for a look without one.
fn wait(rings: &Receiver<()>, live: &Live) {
    match rings.recv_timeout(SELDOM.max(live.took() * SHARE)) {
        Ok(()) => {
            let first = Instant::now();
            while first.elapsed() < LATEST && rings.recv_timeout(QUIET).is_ok() {}
        }
        Err(RecvTimeoutError::Timeout) => {}
        // No watcher could be made: looks alone have to do.
        Err(RecvTimeoutError::Disconnected) => thread::sleep(LATEST.max(live.took() * SHARE)),
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
