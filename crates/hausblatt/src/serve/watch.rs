//! The doorbell: says that something in the site's folder may have changed. The files that come with the ring are
//! looked at first, so that open pages hear of them at once; where they may not be all, every file is looked at after
//! them, and now and then in any case.
//!
//! A request passes the bell: a sign is made where the same watcher sees it, and the request waits until that comes
//! through. What was saved before has then rung, too. One sign is under way at a time; requests that come meanwhile share
//! the next one.

use std::collections::BTreeMap;
use std::fs::{self, DirBuilder, File};
use std::io;
use std::os::unix::fs::{DirBuilderExt, MetadataExt};
use std::path::{Path, PathBuf};
use std::pin::pin;
use std::sync::mpsc::{RecvTimeoutError, sync_channel};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, OnceLock, PoisonError};
use std::thread;
use std::time::{Duration, Instant, SystemTime};

use hausblatt_core::files::{Files as _, PARTS};
use notify::event::{AccessKind, AccessMode, EventKind, ModifyKind};
use notify::{RecommendedWatcher, RecursiveMode, Watcher};
use tokio::sync::Notify;
use tokio::time::timeout;

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
/// How long a sign may be under way.
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
    /// A sign came through, or could not be made.
    came: Notify,
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
    /// The site's own folder.
    root: Option<PathBuf>,
    /// The parts of the site in it.
    parts: Vec<PathBuf>,
    /// Until when a new folder may not be watched yet.
    settling: Option<Instant>,
    /// The number of the last sign that was made, and when that was.
    made: u64,
    made_at: Option<Instant>,
    /// The number of the last sign that came through.
    heard: u64,
    /// The number of the last sign that could not be made.
    failed: u64,
}

/// A folder of our own for signs.
struct Signs(PathBuf);

/// How the names of such folders begin; the number of the process follows.
const SIGNS: &str = "hausblatt-signs-";

/// The file that signs are links to, in such a folder.
const MODEL: &str = "sign";

impl Signs {
    fn new() -> io::Result<Self> {
        let all = std::env::temp_dir().canonicalize()?;
        sweep(&all);
        let mut random = [0; 8];
        getrandom::fill(&mut random).map_err(io::Error::other)?;
        let name = format!("{SIGNS}{}-{:016x}", std::process::id(), u64::from_le_bytes(random));
        let folder = all.join(name);
        DirBuilder::new().mode(0o700).create(&folder)?;
        // Without it, each sign is a file of its own.
        let _ = File::create_new(folder.join(MODEL));
        Ok(Self(folder))
    }
}

/// Removes the folders of servers that were killed.
fn sweep(all: &Path) {
    for entry in fs::read_dir(all).into_iter().flatten().flatten() {
        let name = entry.file_name();
        let process = name.to_str().and_then(|name| name.strip_prefix(SIGNS)?.split('-').next()?.parse().ok());
        if process.is_some_and(|process| opened::disk().has_ended(process)) {
            // It is empty then, or has what is not ours.
            let _ = fs::remove_file(entry.path().join(MODEL));
            let _ = fs::remove_dir(entry.path());
        }
    }
}

/// Makes a sign, and removes it; whether it could be made. A link to a file that is there takes a disk far less than another
/// file; where there are no such links, or that file was removed, it is one.
fn make_sign(path: &Path) -> bool {
    let is_made = fs::hard_link(path.with_file_name(MODEL), path).is_ok() || File::create_new(path).is_ok();
    if is_made {
        let _ = fs::remove_file(path);
    }
    is_made
}

/// How far the sign with a number is.
enum Progress {
    /// It came through, or one after it.
    Came,
    /// It could not be made.
    Failed,
    /// It is for whoever asks to make it.
    Makes,
    /// It is under way, or the one before it.
    Waits,
}

impl WatchState {
    /// How far the sign with this number is; who is to make it is said once.
    fn progress(&mut self, number: u64) -> Progress {
        if self.heard >= number {
            return Progress::Came;
        }
        if self.failed >= number {
            return Progress::Failed;
        }
        if self.made >= number || self.awaits_sign() {
            return Progress::Waits;
        }
        (self.made, self.made_at) = (number, Some(Instant::now()));
        Progress::Makes
    }

    /// Whether this is in the site's own folder, and no part of the site.
    fn is_beside(&self, path: &Path) -> bool {
        path.parent().is_some_and(|folder| self.root.as_deref() == Some(folder))
            && self.parts.iter().all(|part| part != path)
    }

    fn hears_all(&self) -> bool {
        let settles = self.settling.is_some_and(|until| Instant::now() < until);
        self.deaf.is_none() && !self.unwatched && !settles
    }

    /// Whether the last sign may still come through.
    fn awaits_sign(&self) -> bool {
        let is_open = self.made > self.heard.max(self.failed);
        is_open && self.made_at.is_some_and(|at| at.elapsed() < PATIENCE)
    }
}

impl Bell {
    fn state(&self) -> MutexGuard<'_, WatchState> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Waits until a sign comes through that is made from now on, so that all that was saved before has rung; false if that
    /// can't be relied on.
    pub async fn pass(&self) -> bool {
        let Some(Signs(folder)) = self.signs.get() else { return false };
        // The sign that is under way, and the next one.
        let until = Instant::now() + 2 * PATIENCE;
        let number = {
            let state = self.state();
            if !state.hears_all() {
                return false;
            }
            state.made + 1
        };
        loop {
            // From here on none is missed.
            let mut came = pin!(self.came.notified());
            came.as_mut().enable();
            let left = until.saturating_duration_since(Instant::now());
            let progress = self.state().progress(number);
            match progress {
                // A folder that came meanwhile may hold what has not rung.
                Progress::Came => return self.state().hears_all(),
                Progress::Failed => return false,
                Progress::Makes => {
                    if !make_sign(&folder.join(number.to_string())) {
                        let mut state = self.state();
                        state.failed = state.failed.max(number);
                        self.came.notify_waiters();
                    }
                }
                Progress::Waits if left.is_zero() => return false,
                // The sign under way may not come; then it is for one of those who wait to make the next.
                Progress::Waits => drop(timeout(left.min(PATIENCE), came).await),
            }
        }
    }

    /// Whether all that has changed since a moment has rung: all folders were watched by then, and are.
    pub fn has_all_since(&self, at: Instant) -> bool {
        let state = self.state();
        state.hears_all() && state.settling.is_none_or(|until| until < at)
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
            // It is heard of more than once: when it is made, and when it is removed.
            if state.heard < number {
                state.heard = number;
                self.came.notify_waiters();
            }
            return;
        }
        // Reading is reported too, and we read. What a program has written into its memory of a file is reported at the end.
        let writes = matches!(event.kind, EventKind::Access(AccessKind::Close(AccessMode::Write)));
        if matches!(event.kind, EventKind::Access(_)) && !writes {
            return;
        }
        let is_known = !event.need_rescan() && !event.paths.is_empty();
        if is_known && event.paths.iter().all(|path| state.is_beside(path)) {
            return;
        }
        let comes = matches!(event.kind, EventKind::Create(_) | EventKind::Modify(ModifyKind::Name(_)));
        let goes = comes || matches!(event.kind, EventKind::Remove(_));
        if goes && event.paths.iter().any(|path| state.parts.contains(path) || state.root.as_ref() == Some(path)) {
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
        if path.parent() == Some(folder) {
            // What happens to the file that signs are links to is nothing either.
            return Some(path.file_name()?.to_str()?.parse().unwrap_or(0));
        }
        (path == folder).then_some(0)
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

    /// Rings for the site in this folder.
    fn is_of(&self, root: &Path) {
        let mut state = self.state();
        state.parts = PARTS.iter().map(|part| root.join(part)).collect();
        state.root = Some(root.to_owned());
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
    bell.is_of(&root);
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
                if !live.has_all() {
                    // One that is not begun yet is enough.
                    let _ = caught_up.try_send(());
                }
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

#[cfg(test)]
mod tests {
    use super::*;

    fn bell(folder: &Path) -> Arc<Bell> {
        let bell = Arc::new(Bell::default());
        bell.signs.set(Signs(folder.to_owned())).ok().unwrap();
        bell
    }

    fn pass(bell: &Bell) -> bool {
        let waiting = tokio::runtime::Builder::new_current_thread().enable_time().build().unwrap();
        waiting.block_on(bell.pass())
    }

    fn heard(bell: &Bell, folder: &Path, number: u64) {
        let event = notify::Event::new(EventKind::Any).add_path(folder.join(number.to_string()));
        bell.hear(Ok(event));
    }

    fn waits_for_sign(bell: &Bell, number: u64) {
        let start = Instant::now();
        while bell.state().made < number {
            assert!(start.elapsed() < 100 * PATIENCE, "sign {number} is not made");
            thread::yield_now();
        }
    }

    /// Whether all came through; on a machine that stops for a moment they are right to give up.
    fn who_comes_later_shares_the_next_sign() -> bool {
        let folder = tempfile::tempdir().unwrap();
        let bell = bell(folder.path());
        let passing = || {
            let bell = bell.clone();
            thread::spawn(move || pass(&bell))
        };
        let first = passing();
        waits_for_sign(&bell, 1);
        let later = [passing(), passing(), passing()];
        heard(&bell, folder.path(), 1);
        // The sign before them is not theirs.
        waits_for_sign(&bell, 2);
        // One that has not come in yet waits for a third.
        while later.iter().any(|later| !later.is_finished()) {
            let made = bell.state().made;
            heard(&bell, folder.path(), made);
            thread::yield_now();
        }
        let all = later.into_iter().chain([first]).map(|passing| passing.join().unwrap());
        all.collect::<Vec<_>>() == [true; 4]
    }

    #[test]
    fn who_comes_while_a_sign_is_under_way_waits_for_the_next() {
        assert!((0..20).any(|_| who_comes_later_shares_the_next_sign()));
    }

    #[test]
    fn a_sign_that_does_not_come_is_made_again_and_is_not_relied_on() {
        let folder = tempfile::tempdir().unwrap();
        let bell = bell(folder.path());
        assert!(!pass(&bell));
        assert!(bell.state().made >= 1);
        // The one before is heard late: it says nothing of what was saved since.
        let made = bell.state().made;
        let passing = bell.clone();
        let passing = thread::spawn(move || pass(&passing));
        waits_for_sign(&bell, made + 1);
        heard(&bell, folder.path(), made);
        assert!(!passing.join().unwrap());
    }

    #[test]
    fn a_sign_that_cannot_be_made_is_not_waited_for() {
        let folder = tempfile::tempdir().unwrap();
        let bell = bell(&folder.path().join("gone"));
        let start = Instant::now();
        assert!(!pass(&bell) && !pass(&bell));
        assert!(start.elapsed() < 3 * PATIENCE);
    }

    #[test]
    fn what_is_beside_the_parts_of_the_site_does_not_ring() {
        let bell = Bell::default();
        bell.is_of(Path::new("/site"));
        let rings = |event: notify::Event, paths: &[&str]| {
            let before = bell.state().rings;
            bell.hear(Ok(paths.iter().fold(event, |event, path| event.add_path(path.into()))));
            bell.state().rings > before
        };
        let any = || notify::Event::new(EventKind::Any);
        let rescan = || any().set_flag(notify::event::Flag::Rescan);
        let beside = "/site/.hausblatt-serve";
        assert!(!rings(any(), &[beside]) && !rings(any(), &[beside, "/site/built"]));
        assert!(rings(any(), &["/site/hausblatt.toml"]) && rings(any(), &["/site/content/peas.md"]));
        assert!(rings(any(), &["/site"]) && rings(any(), &["/elsewhere"]) && rings(any(), &[]));
        assert!(rings(any(), &["/site/built", "/site/content"]) && rings(rescan(), &[beside]));
        let goes = || notify::Event::new(EventKind::Remove(notify::event::RemoveKind::Folder));
        assert!(rings(goes(), &["/site/built/pages"]) && !bell.state().unwatched);
        assert!(rings(goes(), &["/site"]) && bell.state().unwatched);
    }

    #[test]
    fn reading_does_not_ring_and_the_end_of_writing_does() {
        let bell = Bell::default();
        let rings = |kind: AccessKind| {
            let before = bell.state().rings;
            bell.hear(Ok(notify::Event::new(EventKind::Access(kind)).add_path("/site/peas.md".into())));
            bell.state().rings > before
        };
        assert!(!rings(AccessKind::Open(AccessMode::Any)) && !rings(AccessKind::Close(AccessMode::Read)));
        assert!(rings(AccessKind::Close(AccessMode::Write)));
    }

    #[test]
    fn all_who_pass_at_once_hear_with_a_real_watcher() {
        let folder = tempfile::tempdir().unwrap();
        let real = folder.path().canonicalize().unwrap();
        let bell = bell(&real);
        let ringing = bell.clone();
        let mut watcher = notify::recommended_watcher(move |said| ringing.hear(said)).unwrap();
        watcher.watch(&real, RecursiveMode::NonRecursive).unwrap();
        let failed: usize = thread::scope(|scope| {
            let missed = || (0..50).filter(|_| !pass(&bell)).count();
            let passing: Vec<_> = (0..8).map(|_| scope.spawn(missed)).collect();
            passing.into_iter().map(|passing| passing.join().unwrap()).sum()
        });
        assert!(failed < 40, "{failed} of 400");
        let made = bell.state().made;
        assert!(made < 400, "of those who wait at once, some share a sign: {made} of 400");
        assert_eq!(fs::read_dir(&real).unwrap().count(), 0);
    }
}
