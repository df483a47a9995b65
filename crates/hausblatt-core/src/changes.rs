//! What a change to files would do to a site, found before it is written: a command that writes adds no problem.

use std::sync::Arc;

use hausblatt_lang::diagnostic::Diagnostic;

use crate::build::meeting;
use crate::files::Snapshot;
use crate::files::edit::Write;
use crate::world::{Unloadable, World};

/// The files with these changes. Bytes that are no text are left out: nothing of a site is read from them.
fn changed(snapshot: &Snapshot, writes: &[Write]) -> Snapshot {
    let mut snapshot = snapshot.clone();
    for write in writes {
        match write.bytes.as_deref().map(std::str::from_utf8) {
            None => snapshot = snapshot.with(&write.path, None),
            Some(Ok(text)) => snapshot = snapshot.with(&write.path, Some(text)),
            Some(Err(_)) => {}
        }
    }
    snapshot
}

/// What would be wrong after these changes, and is not wrong now: what is found when the site is loaded, and outputs that
/// would meet in one file.
pub fn added_by(world: &World, writes: &[Write]) -> Vec<Diagnostic> {
    if writes.is_empty() {
        return Vec::new();
    }
    let after = match World::load(changed(&world.snapshot, writes), world.asking.clone()) {
        Ok(after) => after,
        Err(Unloadable(problems)) => return problems,
    };
    let all = |world: &World| -> Vec<Diagnostic> { world.problems.iter().cloned().chain(meeting(world)).collect() };
    let before = all(world);
    let path = |diagnostic: &Diagnostic| diagnostic.place.as_ref().map(|place| Arc::clone(&place.path));
    let same = |a: &Diagnostic, b: &Diagnostic| a.code == b.code && a.message == b.message && path(a) == path(b);
    all(&after).into_iter().filter(|one| !before.iter().any(|known| same(known, one))).collect()
}
