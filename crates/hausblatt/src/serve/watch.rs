//! The doorbell: says that something in the site's folder may have changed. The files that come with the ring are
//! looked at first, so that open pages hear of them at once; but they are not trusted to be all, so every file is looked
//! at after them.
//!
//! A request passes the bell: it makes a sign of its own where the same watcher sees it, and waits until that comes
//! through. What was saved before has then rung, too.

use std::collections::BTreeMap;
use std::fs::{self, DirBuilder, File};
use std::io;
use std::os::unix::fs::{DirBuilderExt, MetadataExt};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{RecvTimeoutError, sync_channel};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, OnceLock, PoisonError};
use std::thread;
use std::time::{Duration, Instant, SystemTime};

use hausblatt_core::files::{Files as _, PARTS};
use notify::event::{EventKind, ModifyKind};
use notify::{RecommendedWatcher, RecursiveMode, Watcher};

use crate::opened;
use crate::serve::live::Live;
use crate::show::style::{NOTE, plain, styled, without_number};

/// A change is looked at when nothing more has rung for so long.
const QUIET: Duration = Duration::from_millis(3);
/// And at the latest so long after the first ring.
const LATEST: Duration = Duration::from_millis(50);
/// So many named files are not looked at one by one.
const MANY: usize = 100;
/// Without a ring, files are looked at so often.
const SELDOM: Duration = Duration::from_secs(2);
/// The part of the time that such looks may take.
const SHARE: u32 = 50;
/// How long a sign is waited for.
const PATIENCE: Duration = Duration::from_millis(50);
/// So long after a folder has come, the watcher may not yet hear of what is in it.
const SETTLING: Duration = Duration::from_millis(100);

/// What has rung since it was taken last.
pub enum Rung {
    /// Nothing.
    Nothing,
    /// Something at these places of the disk.
    Named(Vec<PathBuf>),
    /// Something, and it is not known what.
    Anything,
}

/// What rings.
#[derive(Default)]
pub struct Bell {
    state: Mutex<WatchState>,
    rang: Condvar,
    signs: OnceLock<Signs>,
}

#[derive(Default)]
struct WatchState {
    named: Vec<PathBuf>,
    anything: bool,
    /// Counts the rings.
    rings: u64,
    /// Why not all changes ring.
    deaf: Option<String>,
    /// Whether one of the watched folders has come or gone, and what is there is not watched yet.
    unwatched: bool,
    /// How often that was so.
    moves: u64,
    /// The watched folders.
    parts: Vec<PathBuf>,
    /// Until when a new folder may not be watched yet.
    settling: Option<Instant>,
    /// The numbers of the last sign that was made, and of the last that came through.
    made: u64,
    heard: u64,
}

/// A folder of our own for signs.
struct Signs(PathBuf);

/// How the names of such folders begin; the number of the process follows.
const SIGNS: &str = "hausblatt-signs-";

impl Signs {
    fn new() -> io::Result<Self> {
        let all = std::env::temp_dir().canonicalize()?;
        sweep(&all);
        let mut random = [0; 8];
        getrandom::fill(&mut random).map_err(io::Error::other)?;
        let name = format!("{SIGNS}{}-{:016x}", std::process::id(), u64::from_le_bytes(random));
        let folder = all.join(name);
        DirBuilder::new().mode(0o700).create(&folder)?;
        Ok(Self(folder))
    }
}

/// Removes the folders of servers that were killed.
fn sweep(all: &Path) {
    for entry in fs::read_dir(all).into_iter().flatten().flatten() {
        let name = entry.file_name();
        let process = name.to_str().and_then(|name| name.strip_prefix(SIGNS)?.split('-').next()?.parse().ok());
        if process.is_some_and(|process| opened::disk().has_ended(process)) {
            // It is empty, or nothing of ours.
            let _ = fs::remove_dir(entry.path());
        }
    }
}

impl WatchState {
    fn hears_all(&self) -> bool {
        let settles = self.settling.is_some_and(|until| Instant::now() < until);
        self.deaf.is_none() && !self.unwatched && !settles
    }
}

impl Bell {
    fn state(&self) -> MutexGuard<'_, WatchState> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Makes a sign and waits until it comes through, so that all that was saved before has rung; false if that can't be
    /// relied on.
    pub fn pass(&self) -> bool {
        let Some(Signs(folder)) = self.signs.get() else { return false };
        let mut state = self.state();
        if !state.hears_all() {
            return false;
        }
        state.made += 1;
        let number = state.made;
        drop(state);
        let sign = folder.join(number.to_string());
        if File::create_new(&sign).is_err() {
            return false;
        }
        let _ = fs::remove_file(&sign);
        let waits = |state: &mut WatchState| state.heard < number;
        let waited = self.rang.wait_timeout_while(self.state(), PATIENCE, waits);
        let (state, _) = waited.unwrap_or_else(PoisonError::into_inner);
        // A folder that came meanwhile may hold what has not rung.
        state.heard >= number && state.hears_all()
    }

    /// What was taken was not seen: the next look is at everything.
    pub fn unseen(&self) {
        self.state().anything = true;
    }

    /// What has rung since the last time.
    pub fn take(&self) -> Rung {
        let mut state = self.state();
        let mut named = std::mem::take(&mut state.named);
        if std::mem::take(&mut state.anything) {
            return Rung::Anything;
        }
        named.sort();
        named.dedup();
        match named.len() {
            0 => Rung::Nothing,
            count if count > MANY => Rung::Anything,
            _ => Rung::Named(named),
        }
    }

    /// Takes what the watcher has to say.
    pub(super) fn hear(&self, said: notify::Result<notify::Event>) {
        let mut state = self.state();
        let event = match said {
            Ok(event) => event,
            Err(error) => {
                state.anything = true;
                state.deaf = Some(error.to_string());
                state.rings += 1;
                self.rang.notify_all();
                return;
            }
        };
        if let Some(number) = self.sign(&event) {
            state.heard = state.heard.max(number);
            self.rang.notify_all();
            return;
        }
        // Reading is reported too, and we read.
        if matches!(event.kind, EventKind::Access(_)) {
            return;
        }
        let comes = matches!(event.kind, EventKind::Create(_) | EventKind::Modify(ModifyKind::Name(_)));
        let goes = comes || matches!(event.kind, EventKind::Remove(_));
        if goes && event.paths.iter().any(|path| state.parts.contains(path)) {
            state.unwatched = true;
            state.moves += 1;
        }
        if comes && event.paths.iter().any(|path| path.is_dir()) {
            state.settling = Some(Instant::now() + SETTLING);
        }
        state.anything |= event.need_rescan() || event.paths.is_empty();
        // What is not taken for long is too much to be looked at one by one.
        if state.named.len() <= 8 * MANY {
            state.named.extend(event.paths);
        }
        state.rings += 1;
        self.rang.notify_all();
    }

    /// The number of a sign, if this is one; what happens to it afterwards is nothing.
    fn sign(&self, event: &notify::Event) -> Option<u64> {
        let Signs(folder) = self.signs.get()?;
        let path = event.paths.first()?;
        let number = if path.parent() == Some(folder) { path.file_name()?.to_str()?.parse().ok()? } else { 0 };
        (number > 0 || path == folder).then_some(number)
    }

    /// Waits for a ring after the one with this number, and for the quiet after it; at most so long. The number of the
    /// last ring then.
    fn wait(&self, after: u64, longest: Duration) -> u64 {
        let waits = |state: &mut WatchState| state.rings == after;
        let waited = self.rang.wait_timeout_while(self.state(), longest, waits);
        let (mut state, _) = waited.unwrap_or_else(PoisonError::into_inner);
        let first = Instant::now();
        while state.rings != after
            && let Some(left) = LATEST.checked_sub(first.elapsed())
        {
            let last = state.rings;
            let same = |state: &mut WatchState| state.rings == last;
            let waited = self.rang.wait_timeout_while(state, QUIET.min(left), same);
            let (now, quiet) = waited.unwrap_or_else(PoisonError::into_inner);
            state = now;
            if quiet.timed_out() {
                break;
            }
        }
        state.rings
    }

    /// Takes the folder of signs away, at the program's end.
    pub fn end(&self) {
        if let Some(Signs(folder)) = self.signs.get() {
            let _ = fs::remove_dir_all(folder);
        }
    }

    fn set_deaf(&self, why: Option<String>) {
        self.state().deaf = why;
    }

    fn deaf(&self) -> Option<String> {
        self.state().deaf.clone()
    }
}

/// Watches the site for as long as the program runs.
///
/// # Errors
/// When the system gives no thread for it.
pub fn watch(live: Arc<Live>) -> io::Result<()> {
    let bell = live.bell().clone();
    if let Ok(signs) = Signs::new() {
        let _ = bell.signs.set(signs);
    }
    let ringing = bell.clone();
    let watcher = notify::recommended_watcher(move |said| ringing.hear(said)).map_err(|error| error.to_string());
    let root = live.root();
    bell.state().parts = PARTS.iter().map(|part| root.join(part)).chain([root.clone()]).collect();
    let mut watched = Watched { watcher, root, parts: BTreeMap::new() };
    watched.renew(&bell);
    let (caught_up, look) = sync_channel(1);
    let looking = live.clone();
    // Every file is looked at on a thread of its own: what rings meanwhile is not kept waiting.
    thread::Builder::new().spawn(move || {
        while look.recv_timeout(SELDOM.max(looking.took() * SHARE)) != Err(RecvTimeoutError::Disconnected) {
            looking.look(Duration::ZERO);
        }
    })?;
    thread::Builder::new().spawn(move || {
        let (mut rung, mut said) = (0, None);
        loop {
            say_deaf(bell.deaf(), &mut said);
            let last = bell.wait(rung, SELDOM);
            if last != rung {
                live.catch_up();
                // One that is not begun yet is enough.
                let _ = caught_up.try_send(());
            }
            rung = last;
            watched.renew(&bell);
        }
    })?;
    Ok(())
}

/// Says, once, why changes may show late.
fn say_deaf(deaf: Option<String>, said: &mut Option<String>) {
    if let Some(why) = deaf.as_ref().filter(|_| deaf != *said) {
        let why = plain(&without_number(why));
        crate::tell!(
            "{} changes can't be watched, so open pages reload after {} seconds at most: {why}",
            styled(NOTE, "note:"),
            SELDOM.as_secs()
        );
    }
    *said = deaf;
}

/// What distinguishes a folder from another one that has its name: device, inode, and when it was made, where that is known.
type Identity = (u64, u64, Option<SystemTime>);

/// The folders that are watched, each as the folder that it was then.
struct Watched {
    watcher: Result<RecommendedWatcher, String>,
    root: PathBuf,
    parts: BTreeMap<PathBuf, Identity>,
}

impl Watched {
    /// Watches what is not watched yet: a folder that has come, or another one under the same name.
    fn renew(&mut self, bell: &Bell) {
        let root = self.root.clone();
        let mut why = self.watcher.as_ref().err().cloned();
        let signs = bell.signs.get().map(|Signs(folder)| (folder.clone(), RecursiveMode::NonRecursive));
        let parts = PARTS.iter().map(|part| (root.join(part), RecursiveMode::Recursive));
        let all = signs.into_iter().chain([(root.clone(), RecursiveMode::NonRecursive)]).chain(parts);
        let mut is_new = false;
        let moves = bell.state().moves;
        for (path, mode) in all {
            match self.part(&path, mode) {
                Ok(new) => is_new |= new,
                Err(error) => why = why.or(Some(error)),
            }
        }
        let mut state = bell.state();
        // What happened before it was watched has not rung.
        state.anything |= is_new;
        // What has come or gone meanwhile is seen to the next time.
        if state.moves == moves {
            state.unwatched = !root.is_dir();
        }
        drop(state);
        // What the watcher has said itself stays true until it watches anew.
        if why.is_some() || is_new {
            bell.set_deaf(why);
        }
    }

    /// Watches a folder; whether it was not watched before.
    fn part(&mut self, path: &Path, mode: RecursiveMode) -> Result<bool, String> {
        let Ok(watcher) = &mut self.watcher else { return Ok(false) };
        let folder = fs::metadata(path).ok().filter(|it| it.is_dir());
        let Some(is) = folder.map(|it| (it.dev(), it.ino(), it.created().ok())) else {
            self.parts.remove(path);
            return Ok(false);
        };
        if self.parts.get(path) == Some(&is) {
            return Ok(false);
        }
        // Of a folder that was watched under this name, nothing is heard any more.
        let _ = watcher.unwatch(path);
        watcher.watch(path, mode).map_err(|error| error.to_string())?;
        self.parts.insert(path.to_owned(), is);
        Ok(true)
    }
}
