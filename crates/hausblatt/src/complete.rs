//! What a shell can complete: addresses, files and themes of the present site, beside commands and options.

use std::env;
use std::ffi::OsStr;
use std::path::PathBuf;
use std::sync::OnceLock;

use clap_complete::engine::CompletionCandidate;
use hausblatt_core::check;
use hausblatt_core::files::Depth;
use hausblatt_core::lookup::map::error_statuses;
use hausblatt_core::model::request;
use hausblatt_core::themes::theme;
use hausblatt_core::world::World;

use crate::html::turns_direction;
use crate::opened;
use crate::options::Common;

/// The variable by which a shell asks, and says which one it is.
pub const VARIABLE: &str = "HAUSBLATT_COMPLETE";

static IS_BASH: OnceLock<bool> = OnceLock::new();

/// Notes which shell asks, before the variable is taken out of the environment.
pub fn note_shell() {
    let _ = IS_BASH.set(env::var(VARIABLE).is_ok_and(|shell| shell == "bash"));
}

/// So many candidates help nobody; with more letters there are fewer.
const MOST: usize = 200;

/// The site that the line is about: the one that is named in it, or the one here. A site that can't be loaded has
/// nothing to offer.
fn world() -> Option<World> {
    let words: Vec<String> = env::args().collect();
    let named = words.windows(2).find(|pair| pair[0] == "--site").map(|pair| pair[1].clone());
    let joined = words.iter().find_map(|word| word.strip_prefix("--site=").map(str::to_owned));
    let common = Common { site: named.or(joined).map(PathBuf::from), ..Common::default() };
    let (snapshot, asking) = opened::read(&common, Depth::Heads).ok()?;
    World::load(snapshot, asking).ok()
}

fn fitting(current: &OsStr, all: impl Iterator<Item = String>) -> Vec<CompletionCandidate> {
    // Only bash puts into the line what it is offered, as it is, and hands on what is typed too.
    let is_bash = IS_BASH.get().is_some_and(|is| *is);
    let typed = current.to_string_lossy();
    let typed = if is_bash { typed.replace('\\', "") } else { typed.into_owned() };
    // A name that would be several lines can't be offered.
    let can_be_typed = |word: &String| !word.contains(|c: char| c.is_control() || turns_direction(c));
    let fitting = all.filter(|word| word.starts_with(&typed)).filter(can_be_typed).take(MOST);
    fitting.map(|word| CompletionCandidate::new(if is_bash { escaped(&word) } else { word })).collect()
}

/// A word for bash, with a backslash before each character that means something to it.
fn escaped(word: &str) -> String {
    let plain = |c: char| c.is_alphanumeric() || "/._-~+,:=@%".contains(c);
    word.chars().flat_map(|c| (!plain(c)).then_some('\\').into_iter().chain([c])).collect()
}

/// Addresses of the site, and paths of content files.
pub fn addresses(current: &OsStr) -> Vec<CompletionCandidate> {
    let Some(world) = world() else { return Vec::new() };
    if current.to_string_lossy().starts_with('/') || current.is_empty() {
        let errors = error_statuses(&world).into_iter().map(|status| format!("/{status}.html"));
        return fitting(current, request::addresses(&world.site).into_iter().chain(errors));
    }
    fitting(current, world.site.contents.iter().map(|content| content.path().to_string()))
}

/// Names of theme files, as `partials/card`, and their paths.
pub fn files(current: &OsStr) -> Vec<CompletionCandidate> {
    let Some(world) = world() else { return Vec::new() };
    let is_path = current.to_string_lossy().starts_with("themes/");
    let named = |file: &hausblatt_core::themes::lineage::ThemeFile| match is_path {
        true => file.node.path.to_string(),
        false => file.name.to_string(),
    };
    let mut all: Vec<String> = world.lineage.files.iter().map(named).collect();
    all.sort();
    all.dedup();
    fitting(current, all.into_iter())
}

/// Theme files, and with a prefix all else that can be renamed.
pub fn renamable(current: &OsStr) -> Vec<CompletionCandidate> {
    let Some(world) = world() else { return Vec::new() };
    let mut found = files(current);
    found.extend(fitting(current, hausblatt_core::change::rename::renamable(&world).into_iter()));
    found
}

/// Addresses and theme files, for what takes both.
pub fn anything(current: &OsStr) -> Vec<CompletionCandidate> {
    let mut found = addresses(current);
    if !current.to_string_lossy().starts_with('/') {
        found.extend(files(current));
    }
    found
}

/// Names of offered templates, and addresses after them.
pub fn offered(current: &OsStr) -> Vec<CompletionCandidate> {
    let Some(world) = world() else { return Vec::new() };
    let names = world.lineage.files.iter().filter_map(|file| file.name.offered().map(str::to_owned));
    let mut names: Vec<String> = names.collect();
    names.sort();
    names.dedup();
    let mut found = fitting(current, names.into_iter());
    found.extend(addresses(current));
    found
}

/// Names of themes.
pub fn themes(current: &OsStr) -> Vec<CompletionCandidate> {
    let Some(world) = world() else { return Vec::new() };
    fitting(current, theme::names(&world.snapshot).into_iter())
}

/// Codes of checks.
pub fn codes(current: &OsStr) -> Vec<CompletionCandidate> {
    fitting(current, check::codes().into_iter().map(|code| code.name.to_owned()))
}
