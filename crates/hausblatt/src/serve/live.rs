//! The site as it is now: a World made anew whenever a file or the day has changed.

use std::any::Any;
use std::io;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::PathBuf;
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use arc_swap::ArcSwap;
use hausblatt_core::asking::SiteOptions;
use hausblatt_core::files::{LeftOut, Snapshot, Why};
use hausblatt_core::lookup::public;
use hausblatt_core::text::codes;
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::render::unless_given_up;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use rayon::{ThreadPool, ThreadPoolBuilder};
use tokio::runtime::Handle;
use tokio::sync::watch;
use xxhash_rust::xxh3::Xxh3;

use crate::opened;
use crate::options::Common;
use crate::serve::locked;
use crate::serve::watch::{Bell, Rung};

/// Where not every change is reported, a request looks at every file again if the last look is older than this.
const FRESH: Duration = Duration::from_millis(250);
/// What could not be evaluated is tried again after this, though no file has changed.
const AGAIN: Duration = Duration::from_secs(2);

/// The site at one moment.
pub struct Moment {
    /// Counts the changes that were seen, from 1.
    pub generation: u64,
    /// The files.
    pub snapshot: Snapshot,
    /// The World, or why there is none.
    pub world: Arc<Result<World, Vec<Diagnostic>>>,
    /// What kept the last look from seeing what has changed since.
    pub unseen: Option<Diagnostic>,
    /// The state of what pages may load apart from styles.
    pub files: u64,
    /// The state of all styles.
    pub styles: u64,
}

impl Moment {
    /// All problems of the site itself.
    pub fn problems(&self) -> impl Iterator<Item = &Diagnostic> {
        let known = match &*self.world {
            Ok(world) => &world.problems,
            Err(problems) => problems,
        };
        self.unseen.iter().chain(known)
    }
}

impl Moment {
    /// What the site is shown without, or what has changed and is not seen: it is said on every page.
    pub fn notices(&self) -> Vec<Diagnostic> {
        let unreadable = self.snapshot.left_out().iter().filter(|left| matches!(left.why, Why::Unreadable(_)));
        self.unseen.iter().cloned().chain(unreadable.map(LeftOut::diagnostic)).collect()
    }
}

/// Makes the World of a site's files; of one before it content is taken over, where only theme files have changed.
type Load = fn(Option<&World>, Snapshot, SiteOptions) -> Result<World, Unloadable>;

fn load(earlier: Option<&World>, snapshot: Snapshot, asking: SiteOptions) -> Result<World, Unloadable> {
    match earlier {
        Some(earlier) if earlier.asking == asking => earlier.later(snapshot),
        _ => World::load(snapshot, asking),
    }
}

/// Keeps the site as it is now.
pub struct Live {
    common: Common,
    now: ArcSwap<Moment>,
    looked: Mutex<Looked>,
    /// Held while all files are looked at, which keeps nobody waiting who only wants to know what was seen.
    looking: Mutex<()>,
    /// The threads that look at all files: those that make Worlds and pages have no time for it.
    lookers: Option<ThreadPool>,
    changed: watch::Sender<u64>,
    bell: Arc<Bell>,
    load: Load,
}

/// What a look at every file has seen, or how it failed.
type Seen = std::thread::Result<io::Result<Snapshot>>;

/// The files with those at some places as they are now; nothing where that is not enough.
fn changed_at(snapshot: &Snapshot, places: &[PathBuf]) -> Option<Snapshot> {
    // What lies in folders after links has other names there.
    if snapshot.has_links() { None } else { snapshot.with_changed(places) }
}

/// The last look at the files.
struct Looked {
    snapshot: Snapshot,
    asking: SiteOptions,
    at: Instant,
    took: Duration,
    /// How many looks at all files have kept everybody waiting.
    whole: u64,
    /// The places that were looked at alone since the look at all that is under way has begun; none without such a look.
    since: Option<Vec<PathBuf>>,
    /// Files of which no World could be made, and when that was tried.
    failed: Option<(Snapshot, Instant)>,
}

impl Live {
    /// Keeps the site whose files were just read.
    pub fn new(common: &Common, snapshot: Snapshot, asking: SiteOptions) -> Self {
        Self::loading(common, snapshot, asking, load)
    }

    fn loading(common: &Common, snapshot: Snapshot, asking: SiteOptions, load: Load) -> Self {
        let snapshot = snapshot.leniently();
        let now = moment(1, snapshot.clone(), load(None, snapshot.clone(), asking.clone()));
        let looked =
            Looked { snapshot, asking, at: Instant::now(), took: Duration::ZERO, whole: 0, since: None, failed: None };
        Self {
            common: common.clone(),
            now: ArcSwap::from_pointee(now),
            looked: Mutex::new(looked),
            looking: Mutex::default(),
            lookers: ThreadPoolBuilder::new().build().ok(),
            changed: watch::Sender::new(1),
            bell: Arc::default(),
            load,
        }
    }

    /// What rings when a file may have changed.
    pub fn bell(&self) -> &Arc<Bell> {
        &self.bell
    }

    /// The site's folder.
    pub fn root(&self) -> PathBuf {
        self.now.load().snapshot.root().to_owned()
    }

    /// The site as it was at the last look.
    pub fn last(&self) -> Arc<Moment> {
        self.now.load_full()
    }

    /// The site as it is now: no older than any save that had returned when this is called, on a thread that may wait.
    pub fn fresh(&self) -> Arc<Moment> {
        self.fresh_after(Handle::current().block_on(self.bell.pass()))
    }

    /// The site as it is now, after the bell was passed. What has rung before a sign of our own came through is looked at;
    /// where none `came`, every file is.
    pub fn fresh_after(&self, came: bool) -> Arc<Moment> {
        if !came {
            self.look(Duration::ZERO);
            return self.last();
        }
        self.catch_up();
        if !self.has_all() {
            self.look(FRESH);
        }
        self.last()
    }

    /// Whether nothing can have changed that has not rung, as far as the last look at all files knows.
    pub fn has_all(&self) -> bool {
        let looked = locked(&self.looked);
        looked.snapshot.is_reported() && self.bell.has_all_since(looked.at)
    }

    /// Looks at every file, unless that was done less than `age` ago; true if something has changed. What rings meanwhile is
    /// seen meanwhile.
    pub fn look(&self, age: Duration) -> bool {
        let _turn = locked(&self.looking);
        let mut looked = locked(&self.looked);
        if looked.at.elapsed() < age {
            return false;
        }
        let start = Instant::now();
        let (before, whole) = (looked.snapshot.clone(), looked.whole);
        looked.since = Some(Vec::new());
        drop(looked);
        let seen = self.refreshed(&before);
        let mut looked = locked(&self.looked);
        let since = looked.since.take().unwrap_or_default();
        if looked.whole != whole {
            // That one has begun after this one.
            return false;
        }
        let seen = match seen {
            // This look may have passed them before they were saved.
            Ok(Ok(snapshot)) if !since.is_empty() => match changed_at(&snapshot, &since) {
                Some(snapshot) => Ok(Ok(snapshot)),
                None => return self.look_at_all(&mut looked),
            },
            seen => seen,
        };
        self.settle(&mut looked, start, seen)
    }

    /// Looks at what has rung, only, if that is enough. It does not count as a look: what else has changed is still to be
    /// seen.
    pub fn catch_up(&self) {
        let mut looked = locked(&self.looked);
        // Taken while nobody else takes: what another one has taken, it has seen by now.
        let snapshot = match self.bell.take() {
            Rung::Nothing => return,
            Rung::Named(places) => {
                let snapshot = changed_at(&looked.snapshot, &places);
                looked.since.iter_mut().for_each(|since| since.extend_from_slice(&places));
                snapshot
            }
            Rung::Anything => None,
        };
        match snapshot {
            Some(snapshot) => drop(self.take(&mut looked, snapshot)),
            None => drop(self.look_at_all(&mut looked)),
        }
    }

    /// Looks at every file while everybody waits.
    fn look_at_all(&self, looked: &mut Looked) -> bool {
        let start = Instant::now();
        looked.whole += 1;
        let seen = self.refreshed(&looked.snapshot);
        self.settle(looked, start, seen)
    }

    fn refreshed(&self, snapshot: &Snapshot) -> Seen {
        catch_unwind(AssertUnwindSafe(|| match &self.lookers {
            Some(lookers) => lookers.install(|| snapshot.refreshed()),
            None => snapshot.refreshed(),
        }))
    }

    /// Takes what a look at every file has seen, which began at `start`; true if something has changed.
    fn settle(&self, looked: &mut Looked, start: Instant, seen: Seen) -> bool {
        if !matches!(seen, Ok(Ok(_))) {
            self.bell.unseen();
        }
        let changed = match seen {
            Ok(Ok(snapshot)) => self.take(looked, snapshot),
            Ok(Err(error)) => self.keep(looked, unseen(&error, looked)),
            Err(panic) => self.keep(looked, broken(&*panic)),
        };
        // The age of a look counts from its beginning: what was saved meanwhile may have been missed.
        looked.at = start;
        looked.took = start.elapsed();
        changed
    }

    /// Takes what was seen; true if it differs from what is kept, which is then made anew. What was seen is kept only with
    /// the World that was made of it.
    fn take(&self, looked: &mut Looked, snapshot: Snapshot) -> bool {
        let asking = opened::asking(&self.common, &snapshot);
        let is_same =
            |other: &Snapshot| snapshot.changed_since(other).is_empty() && snapshot.left_out() == other.left_out();
        if asking == looked.asking && is_same(&looked.snapshot) && looked.failed.is_none() {
            looked.snapshot = snapshot;
            return self.now.load().unseen.is_some() && self.keep(looked, None);
        }
        if looked.failed.as_ref().is_some_and(|(failed, at)| is_same(failed) && at.elapsed() < AGAIN) {
            return false;
        }
        let generation = self.now.load().generation + 1;
        let last = self.now.load_full();
        let earlier = (*last.world).as_ref().ok();
        let made = || {
            // It is kept for all, also when whoever asks goes away meanwhile.
            let world = unless_given_up(Arc::default(), || (self.load)(earlier, snapshot.clone(), asking.clone()));
            moment(generation, snapshot.clone(), world)
        };
        match catch_unwind(AssertUnwindSafe(made)) {
            Ok(moment) => {
                (looked.snapshot, looked.asking, looked.failed) = (snapshot, asking, None);
                self.change(moment);
                true
            }
            Err(panic) => {
                looked.failed = Some((snapshot, Instant::now()));
                self.keep(looked, broken(&*panic))
            }
        }
    }

    /// Keeps the World and what is said of the last look; true if that is something else than before. Where the site is
    /// gone, what it was is not an answer.
    fn keep(&self, looked: &Looked, unseen: Option<Diagnostic>) -> bool {
        let last = self.now.load_full();
        if last.unseen == unseen {
            return false;
        }
        let generation = last.generation + 1;
        let moment = match unseen {
            Some(gone) if gone.code == "no-site" => {
                moment(generation, looked.snapshot.clone(), Err(Unloadable(vec![gone])))
            }
            // What was gone is there again.
            None if last.world.is_err() => {
                let world = (self.load)(None, looked.snapshot.clone(), looked.asking.clone());
                moment(generation, looked.snapshot.clone(), world)
            }
            unseen => Moment {
                generation,
                unseen,
                snapshot: last.snapshot.clone(),
                world: last.world.clone(),
                files: last.files,
                styles: last.styles,
            },
        };
        self.change(moment);
        true
    }

    fn change(&self, moment: Moment) {
        let generation = moment.generation;
        let before = self.now.swap(Arc::new(moment));
        // Open pages are reported before what was is taken apart.
        self.changed.send_replace(generation);
        drop(before);
    }

    /// How long the last look took.
    pub fn took(&self) -> Duration {
        locked(&self.looked).took
    }

    /// Tells of every change from now on.
    pub fn changes(&self) -> watch::Receiver<u64> {
        self.changed.subscribe()
    }
}

fn moment(generation: u64, snapshot: Snapshot, world: Result<World, Unloadable>) -> Moment {
    let world = world.map_err(|Unloadable(problems)| problems);
    let (mut files, mut styles) = (Xxh3::new(), Xxh3::new());
    for (path, node) in world.iter().flat_map(public::files) {
        let state = if path.ends_with(".css") { &mut styles } else { &mut files };
        state.update(path.as_bytes());
        state.update(&node.stamp.modified.to_le_bytes());
        state.update(&node.stamp.changed.to_le_bytes());
        state.update(&node.stamp.length.to_le_bytes());
        state.update(&node.stamp.node.1.to_le_bytes());
    }
    let (files, styles) = (files.digest(), styles.digest());
    Moment { generation, snapshot, world: Arc::new(world), unseen: None, files, styles }
}

/// What is said when the site's files can't be looked at.
fn unseen(error: &io::Error, looked: &Looked) -> Option<Diagnostic> {
    let root = looked.snapshot.root().display();
    Some(match error.kind() {
        io::ErrorKind::NotFound => Diagnostic::of(&codes::NO_SITE, format!("the site's folder {root} is gone"))
            .help("it is shown again when it is back"),
        _ => {
            Diagnostic::of(&codes::UNREADABLE, format!("the site can't be looked at, so changes are not seen: {error}"))
                .help("this is tried again until it can be")
        }
    })
}

/// What is said when the program itself failed.
fn broken(panic: &(dyn Any + Send)) -> Option<Diagnostic> {
    let text = panic.downcast_ref::<String>().map(String::as_str).or_else(|| panic.downcast_ref::<&str>().copied());
    let message = format!(
        "the last change can't be shown, for an error in hausblatt itself: {}",
        text.unwrap_or("it stopped without saying why")
    );
    Some(Diagnostic::of(&lang_codes::INTERNAL, message).help("what is shown is from before it; please report this"))
}

#[cfg(test)]
mod tests {
    use std::fs;
    use std::path::Path;
    use std::sync::atomic::{AtomicBool, Ordering};
    use std::time::SystemTime;

    use clap::Parser;
    use hausblatt_core::files::disk::Disk;
    use hausblatt_core::files::{Depth, FileReader, Files, FolderEntry, Links, Look};
    use hausblatt_lang::render::given_up;

    use super::*;
    use crate::cli::Cli;

    static BREAKS: AtomicBool = AtomicBool::new(false);

    fn load_or_break(_: Option<&World>, snapshot: Snapshot, asking: SiteOptions) -> Result<World, Unloadable> {
        if BREAKS.load(Ordering::Relaxed) {
            panic!("as it was meant to");
        }
        World::load(snapshot, asking)
    }

    #[test]
    fn after_a_panic_it_goes_on_and_recovers() -> io::Result<()> {
        let folder = tempfile::tempdir()?;
        let write = |path: &str, text: &str| fs::write(folder.path().join(path), text);
        fs::create_dir_all(folder.path().join("themes/plain/templates"))?;
        write("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"plain\"\n")?;
        write("themes/plain/hausblatt-theme.toml", "")?;
        write("themes/plain/templates/page.html", "one")?;
        let snapshot = Snapshot::load(Arc::new(opened::disk()), folder.path(), Depth::Whole)?;
        let common = Cli::parse_from(["hausblatt", "serve"]).common;
        let asking = opened::asking(&common, &snapshot);
        let live = Live::loading(&common, snapshot, asking, load_or_break);
        let text = || {
            let moment = live.last();
            let node = moment.snapshot.file("themes/plain/templates/page.html").cloned();
            node.and_then(|node| node.text().map(|text| text.to_string())).unwrap_or_default()
        };
        BREAKS.store(true, Ordering::Relaxed);
        write("themes/plain/templates/page.html", "two")?;
        assert!(live.look(Duration::ZERO));
        assert_eq!(text(), "one");
        let unseen = live.last().unseen.clone();
        assert!(unseen.is_some_and(|unseen| unseen.message.ends_with("as it was meant to")));
        // The same again is not tried at once.
        assert!(!live.look(Duration::ZERO));
        BREAKS.store(false, Ordering::Relaxed);
        write("themes/plain/templates/page.html", "three")?;
        assert!(live.look(Duration::ZERO));
        assert_eq!((text().as_str(), live.last().unseen.is_none()), ("three", true));
        Ok(())
    }

    /// A disk on which a look at one file takes as long as a lock is held.
    #[derive(Debug)]
    struct SlowDisk {
        disk: Disk,
        slow: &'static str,
        gate: Arc<Mutex<()>>,
        waits: Arc<AtomicBool>,
    }

    impl Files for SlowDisk {
        fn look(&self, path: &Path, links: Links) -> io::Result<Look> {
            if path.ends_with(self.slow) {
                self.waits.store(true, Ordering::SeqCst);
                drop(locked(&self.gate));
                self.waits.store(false, Ordering::SeqCst);
            }
            self.disk.look(path, links)
        }

        fn list(&self, folder: &Path) -> io::Result<Vec<FolderEntry>> {
            self.disk.list(folder)
        }

        fn real_path(&self, path: &Path) -> io::Result<PathBuf> {
            self.disk.real_path(path)
        }

        fn read(&self, path: &Path, length: u64) -> io::Result<Vec<u8>> {
            self.disk.read(path, length)
        }

        fn open(&self, path: &Path) -> io::Result<Box<dyn FileReader>> {
            self.disk.open(path)
        }

        fn open_own(&self, path: &Path) -> io::Result<Box<dyn FileReader>> {
            self.disk.open_own(path)
        }

        fn create(&self, path: &Path, bytes: &[u8], like: Option<&Path>) -> io::Result<()> {
            self.disk.create(path, bytes, like)
        }

        fn copy(&self, from: &Path, to: &Path) -> io::Result<()> {
            self.disk.copy(from, to)
        }

        fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
            self.disk.rename(from, to)
        }

        fn rename_to_new(&self, from: &Path, to: &Path) -> io::Result<()> {
            self.disk.rename_to_new(from, to)
        }

        fn create_folder(&self, folder: &Path) -> io::Result<()> {
            self.disk.create_folder(folder)
        }

        fn remove_file(&self, path: &Path) -> io::Result<()> {
            self.disk.remove_file(path)
        }

        fn remove_folder(&self, folder: &Path) -> io::Result<()> {
            self.disk.remove_folder(folder)
        }

        fn lock(&self, path: &Path) -> io::Result<Option<Box<dyn Any + Send>>> {
            self.disk.lock(path)
        }

        fn has_ended(&self, process: u32) -> bool {
            self.disk.has_ended(process)
        }

        fn now(&self) -> i128 {
            self.disk.now()
        }
    }

    #[test]
    fn what_is_saved_during_a_look_at_all_files_is_seen_at_once_and_stays() -> io::Result<()> {
        let folder = tempfile::tempdir()?;
        let folder = folder.path().canonicalize()?;
        let write = |path: &str, text: &str| {
            let temporary = folder.join("themes/new");
            fs::write(&temporary, text)?;
            fs::rename(temporary, folder.join(path))
        };
        fs::create_dir_all(folder.join("themes/plain/templates"))?;
        write("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"plain\"\n")?;
        write("themes/plain/hausblatt-theme.toml", "")?;
        let (first, slow) = ("themes/plain/templates/front.html", "themes/plain/templates/page.html");
        write(first, "one")?;
        write(slow, "one")?;
        let (gate, waits) = (Arc::new(Mutex::new(())), Arc::new(AtomicBool::new(false)));
        let disk = SlowDisk { disk: opened::disk(), slow, gate: gate.clone(), waits: waits.clone() };
        let snapshot = Snapshot::load(Arc::new(disk), &folder, Depth::Whole)?;
        let common = Cli::parse_from(["hausblatt", "serve"]).common;
        let asking = opened::asking(&common, &snapshot);
        let live = Live::new(&common, snapshot, asking);
        let text = |path: &str| {
            let node = live.last().snapshot.file(path).cloned();
            node.and_then(|node| node.text().map(|text| text.to_string())).unwrap_or_default()
        };
        let save = |path: &str, text: &str| {
            write(path, text).unwrap();
            let event = notify::Event::new(notify::EventKind::Any).add_path(folder.join(path));
            live.bell().hear(Ok(event));
            live.catch_up();
        };
        // One file is seen by the look before it is saved, another one after it: the slow one, which then holds it up.
        for (round, other) in ["two", "three"].into_iter().enumerate() {
            let held = locked(&gate);
            std::thread::scope(|scope| {
                let looking = scope.spawn(|| live.look(Duration::ZERO));
                while !waits.load(Ordering::SeqCst) {
                    std::thread::yield_now();
                }
                save(first, other);
                assert_eq!(text(first), other);
                if round == 1 {
                    write(slow, "four").unwrap();
                }
                drop(held);
                assert_eq!(looking.join().ok(), Some(round == 1));
            });
            assert_eq!(text(first), other);
        }
        assert_eq!(text(slow), "four");
        Ok(())
    }

    fn load_if_wanted(_: Option<&World>, snapshot: Snapshot, asking: SiteOptions) -> Result<World, Unloadable> {
        assert!(!given_up().is_some_and(|given_up| given_up.load(Ordering::Relaxed)), "nobody waits for it");
        World::load(snapshot, asking)
    }

    #[test]
    fn what_is_made_for_all_is_not_given_up_with_who_asked() -> io::Result<()> {
        let folder = tempfile::tempdir()?;
        let config = folder.path().join("hausblatt.toml");
        fs::write(&config, "")?;
        let snapshot = Snapshot::load(Arc::new(opened::disk()), folder.path(), Depth::Whole)?;
        let common = Cli::parse_from(["hausblatt", "serve"]).common;
        let asking = opened::asking(&common, &snapshot);
        let live = Live::loading(&common, snapshot, asking, load_if_wanted);
        fs::write(&config, "[site]\ntitle = \"Seeds\"\n")?;
        assert!(unless_given_up(Arc::new(AtomicBool::new(true)), || live.look(Duration::ZERO)));
        assert!(live.last().unseen.is_none());
        Ok(())
    }

    /// A site in `folder`, and its configuration. Folders that have just changed are not relied on, so time is ahead here.
    fn settled(folder: &Path) -> io::Result<(Live, PathBuf)> {
        let config = folder.join("site/hausblatt.toml");
        fs::create_dir(folder.join("site"))?;
        fs::write(&config, "")?;
        let disk = Disk::new(|| SystemTime::now() + Duration::from_secs(60));
        let snapshot = Snapshot::load(Arc::new(disk), &folder.join("site"), Depth::Whole)?;
        let common = Cli::parse_from(["hausblatt", "serve"]).common;
        let asking = opened::asking(&common, &snapshot);
        Ok((Live::new(&common, snapshot, asking), config))
    }

    #[test]
    fn all_files_are_looked_at_again_for_a_request_where_not_all_changes_are_reported() -> io::Result<()> {
        let kept = tempfile::tempdir()?;
        let folder = kept.path().canonicalize()?;
        let (live, config) = settled(&folder)?;
        let looks = |came: bool| {
            std::thread::sleep(FRESH);
            let before = locked(&live.looked).at;
            live.fresh_after(came);
            locked(&live.looked).at != before
        };
        // The first look says whether there need be others.
        assert!(looks(true));
        let here = opened::disk().reports_changes(&folder);
        assert_eq!((looks(true), looks(false)), (!here, true));
        // A folder has come since.
        let comes = notify::Event::new(notify::EventKind::Create(notify::event::CreateKind::Folder));
        live.bell().hear(Ok(comes.add_path(folder.clone())));
        assert!(looks(true));
        assert_eq!(looks(true), !here);
        fs::hard_link(&config, folder.join("other"))?;
        assert_eq!((looks(false), looks(true), looks(true)), (true, true, true));
        Ok(())
    }

    #[test]
    fn a_save_is_followed_by_a_look_at_all_files_only_where_not_all_changes_are_reported() -> io::Result<()> {
        let kept = tempfile::tempdir()?;
        let folder = kept.path().canonicalize()?;
        let (live, config) = settled(&folder)?;
        let live = Arc::new(live);
        crate::serve::watch::watch(live.clone())?;
        live.fresh_after(false);
        let mut saves = 0;
        // Whether a look follows a save at once.
        let mut looks = || -> io::Result<bool> {
            let (before, generation) = (locked(&live.looked).at, live.last().generation);
            saves += 1;
            fs::write(&config, "\n".repeat(saves))?;
            let until = Instant::now() + Duration::from_secs(10);
            while live.last().generation == generation {
                assert!(Instant::now() < until, "the save is seen");
                std::thread::yield_now();
            }
            let until = Instant::now() + Duration::from_millis(800);
            while locked(&live.looked).at == before && Instant::now() < until {
                std::thread::yield_now();
            }
            Ok(locked(&live.looked).at != before)
        };
        // One without a save may come meanwhile.
        let mut followed = || (0..4).map(|_| looks()).collect::<io::Result<Vec<bool>>>();
        let followed_at_first = followed()?;
        assert_eq!(followed_at_first.iter().any(|follows| !follows), opened::disk().reports_changes(&folder));
        fs::hard_link(&config, folder.join("other"))?;
        live.look(Duration::ZERO);
        assert_eq!(followed()?, [true; 4]);
        Ok(())
    }

    #[test]
    fn a_bell_that_hears_not_all_is_not_relied_on() -> io::Result<()> {
        let bell = Bell::default();
        let waiting = tokio::runtime::Builder::new_current_thread().enable_time().build()?;
        assert!(!waiting.block_on(bell.pass()));
        assert!(matches!(bell.take(), Rung::Nothing));
        Ok(())
    }
}
