//! What a shell can complete: addresses, files and themes of the site at hand, beside commands and options.

use std::env;
use std::ffi::OsStr;
use std::path::PathBuf;

use clap_complete::engine::CompletionCandidate;
use hausblatt_core::check;
use hausblatt_core::files::Depth;
use hausblatt_core::lookup::map::error_statuses;
use hausblatt_core::lookup::request;
use hausblatt_core::themes::theme;
use hausblatt_core::world::World;

use crate::opened;
use crate::options::Common;

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
    let current = current.to_string_lossy();
    all.filter(|word| word.starts_with(&*current)).take(MOST).map(CompletionCandidate::new).collect()
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

/// Addresses and theme files, for what takes both.
pub fn anything(current: &OsStr) -> Vec<CompletionCandidate> {
    let mut found = addresses(current);
    if !current.to_string_lossy().starts_with('/') {
        found.extend(files(current));
    }
    found
}

/// Names of offered templates, and addresses behind them.
pub fn offered(current: &OsStr) -> Vec<CompletionCandidate> {
    let Some(world) = world() else { return Vec::new() };
    let names = world
        .lineage
        .files
        .iter()
        .filter_map(|file| file.name.strip_prefix("templates/offered/")?.strip_suffix(".html").map(str::to_owned));
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
    fitting(current, check::checks().into_iter().map(|check| check.code.to_owned()))
}
