//! All ladders of a site at once: for each kind of request the levels tried, and the files that are on them.

use std::collections::BTreeMap;

use crate::lookup::ladder::Reason;
use crate::lookup::resolution::Resolution;
use crate::themes::lineage::FileId;
use crate::world::World;

/// A kind of request.
#[derive(Clone, Debug)]
pub struct Column {
    /// The kind's word: `entry`.
    pub kind: &'static str,
    /// How many addresses are of it.
    pub addresses: usize,
    /// Its levels, from specific to general.
    pub levels: Vec<Level>,
}

/// A step of a ladder, for all requests of a kind.
#[derive(Clone, Debug)]
pub struct Level {
    /// Why names of it are tried.
    pub reason: Reason,
    /// What their names begin with: `entry`, or `listing` on the ladder of periods.
    pub head: String,
    /// A name that is tried there.
    pub example: String,
    /// The files that are there, nearest themes first, with how many addresses each renders.
    pub files: Vec<(FileId, usize)>,
}

/// The kinds in the order of their columns.
const KINDS: &[&str] = &["front", "page", "entry", "listing", "period", "search", "route", "error"];

/// The columns of all kinds that the site has addresses of.
pub fn columns(world: &World) -> Vec<Column> {
    let mut columns: Vec<Column> = KINDS.iter().map(|kind| Column { kind, addresses: 0, levels: Vec::new() }).collect();
    let mut renders: BTreeMap<(usize, FileId), usize> = BTreeMap::new();
    for request in world.requests() {
        let Some(at) = request.kind.word().and_then(|kind| KINDS.iter().position(|other| *other == kind)) else {
            continue;
        };
        // Feeds have ladders of their own, on which most themes have nothing.
        if request.is_feed() {
            continue;
        }
        let resolution = world.resolve(request.clone());
        columns[at].addresses += 1;
        if let Some(winner) = resolution.winner {
            *renders.entry((at, winner)).or_default() += 1;
        }
        add(&mut columns[at].levels, &resolution);
    }
    for (at, column) in columns.iter_mut().enumerate() {
        for level in &mut column.levels {
            level
                .files
                .sort_by_key(|(file, _)| (world.lineage.file(*file).name.to_string(), world.lineage.file(*file).theme));
            for (file, count) in &mut level.files {
                *count = renders.get(&(at, *file)).copied().unwrap_or(0);
            }
        }
    }
    columns.retain(|column| column.addresses > 0);
    columns
}

/// Adds a ladder; levels that are new come after the one that they followed.
fn add(levels: &mut Vec<Level>, resolution: &Resolution) {
    let mut next = 0;
    // The names of views are tried first, but belong to the same levels.
    let (plain, of_view): (Vec<_>, Vec<_>) = resolution.rungs.iter().partition(|rung| !rung.rung.of_view);
    for resolved in plain.into_iter().chain(of_view) {
        let name = &resolved.rung.name;
        let head = name.split(['/', '.']).next().unwrap_or(name);
        let known = levels.iter().position(|level| level.reason == resolved.rung.reason && level.head == head);
        let at = known.unwrap_or_else(|| {
            let (reason, head) = (resolved.rung.reason, head.to_owned());
            levels.insert(next, Level { reason, head, example: name.clone(), files: Vec::new() });
            next
        });
        next = at + 1;
        for (file, _) in &resolved.files {
            if !levels[at].files.iter().any(|(other, _)| other == file) {
                levels[at].files.push((*file, 0));
            }
        }
    }
}
