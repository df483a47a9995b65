//! What a change to files would do to a site, found before it is written: a command that writes adds no problem.

use hausblatt_lang::text::diagnostic::Diagnostic;
use rustc_hash::FxHashSet;

use crate::build::{have_same_outputs, meeting};
use crate::files::Snapshot;
use crate::files::edit::Write;
use crate::world::{Unloadable, World};

/// The files with these changes. Bytes that are no text are left out: nothing of a site is read from them.
pub fn changed(snapshot: &Snapshot, writes: &[Write]) -> Snapshot {
    let mut snapshot = snapshot.clone();
    for write in writes {
        match write.bytes.as_deref().map(std::str::from_utf8) {
            None => snapshot.put(&write.path, None),
            Some(Ok(text)) => snapshot.put(&write.path, Some(text)),
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
    new_problems(world, &after)
}

/// What is wrong in a World and not in the one before: what is found when the site is loaded, and outputs that would meet in
/// one file.
pub fn new_problems(before: &World, after: &World) -> Vec<Diagnostic> {
    fn said(problem: &Diagnostic) -> (&str, &str, Option<&str>) {
        (problem.code, &problem.message, problem.place.as_ref().map(|place| &*place.path))
    }
    let known: FxHashSet<_> = before.problems.iter().map(said).collect();
    let new = |problem: &&Diagnostic| !known.contains(&said(problem));
    let mut found: Vec<Diagnostic> = after.problems.iter().filter(new).cloned().collect();
    if !have_same_outputs(before, after) {
        let known: FxHashSet<_> = meeting(before).iter().map(said).collect();
        found.extend(meeting(after).iter().filter(|problem| !known.contains(&said(problem))).cloned());
    }
    found
}

/// How often what would be wrong is taken out, and the rest looked at again.
const ATTEMPTS: usize = 3;

/// Of these changes those that add no problem, and what would be wrong with the others.
pub(crate) fn without_new_problems(world: &World, mut writes: Vec<Write>) -> (Vec<Write>, Vec<Diagnostic>) {
    let mut problems = Vec::new();
    for _ in 0..ATTEMPTS {
        let new = added_by(world, &writes);
        if new.is_empty() {
            return (writes, problems);
        }
        let is_about = |one: &Diagnostic, path: &str| {
            one.place.as_ref().is_some_and(|place| *place.path == *path)
                || one.related.iter().any(|(place, _)| *place.path == *path)
        };
        let before = writes.len();
        writes.retain(|write| !new.iter().any(|one| is_about(one, &write.path)));
        // The place of a problem is in a text that is not written.
        problems.extend(new.into_iter().map(|problem| Diagnostic { place: None, related: Vec::new(), ..problem }));
        if writes.len() == before {
            break;
        }
    }
    (Vec::new(), problems)
}
