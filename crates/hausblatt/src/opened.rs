//! The site that a command works on: found, read, and its problems shown.

use std::env;
use std::error::Error;
use std::io;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;

use hausblatt_core::asking::SiteOptions;
use hausblatt_core::files::disk::Disk;
use hausblatt_core::files::edit::Write;
use hausblatt_core::files::journal::{JOURNAL, Journal, KeptChange, NotWritten, Recovered};
use hausblatt_core::files::{Depth, Files, Snapshot};
use hausblatt_core::lookup::map::error_request;
use hausblatt_core::model::content::{Content, ContentId};
use hausblatt_core::schema::config;
use hausblatt_core::text::codes;
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::render::Limits;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::did_you_mean;
use jiff::tz::TimeZone;

use crate::clock;
use crate::failure::{Failure, Outcome};
use crate::options::Common;
use crate::show::diagnostics;
use crate::show::style::{NOTE, plain, styled, word};

/// Finds and loads the site, with content as deep as asked.
pub fn open(common: &Common, depth: Depth) -> Result<&'static World, Failure> {
    let (snapshot, asking) = read(common, depth)?;
    note_interrupted(&snapshot);
    load(snapshot, asking)
}

/// The same for a command that is about to write: what was interrupted is completed or taken back first.
pub fn open_to_write(common: &Common, depth: Depth) -> Result<&'static World, Failure> {
    recover(&real_root(common)?)?;
    let (snapshot, asking) = read(common, depth)?;
    load(snapshot, asking)
}

/// Says which changes were interrupted: their files are read as they are.
pub fn note_interrupted(snapshot: &Snapshot) {
    let Ok(journal) = Journal::of(snapshot) else { return };
    let interrupted = match journal.interrupted() {
        Ok(interrupted) => interrupted,
        Err(error) => {
            crate::tell!("{} {JOURNAL} can't be read: {error}", styled(NOTE, "note:"));
            return;
        }
    };
    for change in interrupted {
        let paths: Vec<&str> = change.writes.iter().map(|write| write.path.as_str()).collect();
        crate::tell!(
            "{} \"{}\" was interrupted, and may be half done: {}; \"hausblatt undo\" takes it back",
            styled(NOTE, "note:"),
            plain(&change.command),
            plain(&paths.join(", "))
        );
    }
}

/// Completes or takes back what was interrupted, and says so.
pub fn recover(root: &Path) -> Result<Vec<(KeptChange, Recovered)>, Failure> {
    let files = disk();
    let journal = Journal::at(&files, root)?;
    let recovered = journal.recover().map_err(not_written)?;
    for (change, became) in &recovered {
        let what = match became {
            Recovered::Completed => "was interrupted when it was done".to_owned(),
            Recovered::TakenBack => "was interrupted, and is taken back".to_owned(),
            Recovered::Left => {
                let paths = journal.changed_since(change).map_err(not_written)?.join(", ");
                format!("was interrupted and stays half done, since these were edited: {paths}")
            }
        };
        crate::tell!("{} \"{}\" {}", styled(NOTE, "note:"), plain(&change.command), plain(&what));
    }
    Ok(recovered)
}

/// Refuses a folder for a new site that is inside another site: commands would take the one for the other.
pub fn outside_of_sites(folder: &Path) -> Result<(), Failure> {
    let absolute = env::current_dir().map_err(Failure::from)?.join(folder);
    // "../new" is beside, not inside.
    let parts = absolute.components().fold(PathBuf::new(), |mut path, part| {
        match part {
            Component::ParentDir => drop(path.pop()),
            part => path.push(part),
        }
        path
    });
    if parts.ancestors().skip(1).any(|folder| folder.join(config::FILE).is_file()) {
        let message = format!("{} would be inside another site", folder.display());
        return Err(Failure::Work(message, Some("choose a folder outside of that one".to_owned())));
    }
    Ok(())
}

/// The file system that sites are in.
pub fn disk() -> Disk {
    Disk::new(clock::now)
}

/// The bytes of a regular file, which a link may lead to; a pipe is not waited for, a device is not read.
pub fn regular(path: &Path) -> io::Result<Vec<u8>> {
    let disk = disk();
    let files: &dyn Files = &disk;
    files.read_own(&files.real_path(path)?)
}

/// Finds the site and reads its files, with content as deep as asked.
pub fn read(common: &Common, depth: Depth) -> Result<(Snapshot, SiteOptions), Failure> {
    let root = root(common)?;
    check_threads()?;
    let snapshot = Snapshot::load(Arc::new(disk()), &root, depth)
        .map_err(|error| Failure::no_site(format!("{} can't be read: {error}", root.display()), None))?;
    let asking = asking(common, &snapshot);
    Ok((snapshot, asking))
}

/// All work is shared among threads, which the system may refuse: that is said, before a library panics over it.
fn check_threads() -> Result<(), Failure> {
    if rayon::current_thread_index().is_some() {
        return Ok(());
    }
    match rayon::ThreadPoolBuilder::new().build_global() {
        // Without a cause, it was built before.
        Err(error) if error.source().is_some() => Err(no_threads(&error)),
        _ => Ok(()),
    }
}

/// What is said where the system gives no threads.
pub fn no_threads(error: &dyn Error) -> Failure {
    Failure::Work(
        format!("the system gives no threads: {error}"),
        Some("end other programs, or raise the limit on processes (ulimit -u)".to_owned()),
    )
}

/// What is asked of these files in addition: the day it is there, unless another was typed.
pub fn asking(common: &Common, snapshot: &Snapshot) -> SiteOptions {
    SiteOptions {
        today: common.as_of.unwrap_or_else(|| clock::today(&zone(snapshot))),
        drafts: common.drafts,
        theme: common.theme.clone(),
        limits: Limits::default(),
    }
}

/// Makes the World of a site's files. It lives as long as the program: to take a large site apart before the end would
/// be work for nobody.
pub fn load(snapshot: Snapshot, asking: SiteOptions) -> Result<&'static World, Failure> {
    let texts = snapshot.clone();
    match World::load(snapshot, asking) {
        Ok(world) => Ok(Box::leak(Box::new(world))),
        Err(Unloadable(problems)) => Err(Failure::Unloadable(Box::new(texts), problems)),
    }
}

/// The timezone of the site.
pub fn zone(snapshot: &Snapshot) -> TimeZone {
    let text = snapshot.file(config::FILE).and_then(|node| node.text().cloned());
    text.and_then(|text| config::read(&text, &mut Vec::new())).map_or(TimeZone::UTC, |config| config.timezone)
}

/// The real path of the site's folder.
pub fn real_root(common: &Common) -> Result<PathBuf, Failure> {
    let root = root(common)?;
    root.canonicalize().map_err(|error| Failure::no_site(format!("{} can't be read: {error}", root.display()), None))
}

fn root(common: &Common) -> Result<PathBuf, Failure> {
    if let Some(dir) = &common.site {
        return if dir.join(config::FILE).is_file() {
            Ok(dir.clone())
        } else {
            let help = "a site is a folder with a hausblatt.toml; \"hausblatt demo\" writes one";
            Err(Failure::no_site(format!("{} is not a site", dir.display()), Some(help.to_owned())))
        };
    }
    let here = env::current_dir().map_err(Failure::from)?;
    let found = here.ancestors().find(|folder| folder.join(config::FILE).is_file());
    found.map(|root| if root == here { PathBuf::from(".") } else { root.to_owned() }).ok_or_else(|| {
        let help =
            "go to a folder with a hausblatt.toml, name one with --site, or write the demo with \"hausblatt demo\"";
        Failure::no_site("no site found here", Some(help.to_owned()))
    })
}

/// The address that was meant: a content file's path means the address of its content.
pub fn address(world: &World, typed: &str) -> Result<String, Failure> {
    let Some(path) = content_path(world, typed) else {
        return match typed.trim_start_matches("./").starts_with("content/") {
            true => Err(failed(&unknown_content(world, typed))),
            false => Ok(typed.to_owned()),
        };
    };
    let content = world.site.contents.iter().find(|content| *content.path() == path);
    let fills =
        |content: &Content| world.site.errors.iter().find(|(_, page)| world.site.content(*page).id == content.id);
    match (content.and_then(|content| content.address.as_deref()), content.and_then(fills)) {
        (Some(address), _) => Ok(address.to_owned()),
        // What fills an error page is seen there.
        (None, Some((status, _))) => Ok(error_request(*status).address),
        (None, None) => Err(Failure::Work(
            format!("{path} has no address"),
            Some("drafts are shown with --drafts, and content that waits for its date with --as-of DATE".to_owned()),
        )),
    }
}

fn content_path(world: &World, typed: &str) -> Option<Arc<str>> {
    if typed.starts_with('/') && !Path::new(typed).is_file() {
        return None;
    }
    let direct = typed.trim_start_matches("./");
    let from_root = || Some(Arc::from(from_here(world, typed)?));
    let found = world.snapshot.file(direct).map(|node| node.path.clone()).or_else(from_root)?;
    found.starts_with("content/").then_some(found)
}

/// A theme file as it was typed: a path from where the command is typed counts as one from the site.
pub fn theme_file(world: &World, typed: &str) -> String {
    from_here(world, typed).filter(|path| path.starts_with("themes/")).unwrap_or_else(|| typed.to_owned())
}

/// The path from the site of a file that is typed as a path from here.
pub fn from_here(world: &World, typed: &str) -> Option<String> {
    let file = Path::new(typed).canonicalize().ok()?;
    let below = file.strip_prefix(world.snapshot.root().canonicalize().ok()?).ok()?.to_str()?.to_owned();
    world.snapshot.file(&below).map(|node| node.path.to_string())
}

/// The content that is typed as a path, whether it has an address or not; the path as it is in the site.
pub fn content_file(world: &World, typed: &str) -> Option<ContentId> {
    let path = content_path(world, typed)?;
    world.site.ids().find(|(_, content)| *content.path() == path).map(|(id, _)| id)
}

/// The first file of a theme that has an error, so that what it reads and prints is not known.
pub fn faulty_theme_file(world: &World) -> Option<Arc<str>> {
    let of_themes = |problem: &&Diagnostic| {
        problem.is_error() && problem.place.as_ref().is_some_and(|place| place.path.starts_with("themes/"))
    };
    Some(world.problems.iter().find(of_themes)?.place.as_ref()?.path.clone())
}

/// A failure that is a diagnostic without a place.
pub fn failed(problem: &Diagnostic) -> Failure {
    let place = problem.place.as_ref().map_or(String::new(), |place| format!("{}: ", place.path));
    Failure::Work(format!("{place}{}", problem.message), problem.help.clone())
}

/// Writes files of the site, all or none, and keeps what they held for `undo`.
pub fn write(world: &World, writes: &[Write]) -> Result<(), Failure> {
    let journal = Journal::of(&world.snapshot)?;
    journal.make(&typed(), clock::moment(), writes).map_err(not_written)
}

/// The command as it was typed.
fn typed() -> String {
    let arguments = env::args_os().skip(1);
    let words = arguments.map(|argument| word(&argument.to_string_lossy()));
    std::iter::once("hausblatt".to_owned()).chain(words).collect::<Vec<_>>().join(" ")
}

/// What is said of files that were not written.
pub fn not_written(NotWritten { path, error }: NotWritten) -> Failure {
    Failure::Work(
        format!("{path} can't be written: {error}"),
        Some("look at it, then type the command again".to_owned()),
    )
}

/// What to say of a path below `content/` at which nothing is.
pub fn unknown_content(world: &World, typed: &str) -> Diagnostic {
    let paths = world.site.contents.iter().map(|content| &**content.path());
    let help = did_you_mean(typed.trim_start_matches("./"), paths);
    let diagnostic = Diagnostic::of(&codes::NO_CONTENT, format!("there is no content file {typed}"));
    diagnostic.help(help.unwrap_or_else(|| "\"hausblatt map\" lists every address".to_owned()))
}

/// Shows `problems`; errors count as findings, and with `--strict` warnings do, too.
pub fn accept(world: &World, problems: &[Diagnostic], common: &Common) -> Outcome {
    accept_in(&world.snapshot, problems, common)
}

/// The same for problems in these files.
pub fn accept_in(texts: &Snapshot, problems: &[Diagnostic], common: &Common) -> Outcome {
    diagnostics::show(texts, problems, common);
    let counts = |problem: &Diagnostic| problem.is_error() || common.strict;
    Outcome::of(!problems.iter().any(counts))
}
