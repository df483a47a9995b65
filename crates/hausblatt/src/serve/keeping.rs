//! What the workbench writes: one change at a time, all of it or nothing, and only what was seen before.

use std::io;
use std::path::Path;
use std::sync::{Arc, PoisonError};

use axum::http::StatusCode;
use hausblatt_core::change::edit::PlannedEdit;
use hausblatt_core::files::edit::Write;
use hausblatt_core::files::journal::{ChangeState, Journal, KeptChange};
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::clock;
use crate::failure::Failure;
use crate::opened;
use crate::serve::edits::{self, Pairs, value};
use crate::serve::{Moment, Server, tries};
use crate::show::style::typed;

/// What came of a request to write.
pub enum Written {
    /// It is written, or was so already; the number of the change, if there is one.
    Done(Option<u32>),
    /// What it is about is not there any more, in words.
    Gone(String),
    /// It can't be made: the site is such that this is wrong.
    Wrong(Vec<Diagnostic>),
    /// A file has changed since it was shown: what would be written now.
    Stale(Box<PlannedEdit>),
    /// A file can't be written; in words.
    Failed(String),
}

impl Written {
    /// The status that a browser is answered with.
    pub fn status(&self) -> StatusCode {
        match self {
            Written::Done(_) => StatusCode::SEE_OTHER,
            Written::Gone(_) | Written::Stale(_) => StatusCode::CONFLICT,
            Written::Wrong(_) => StatusCode::UNPROCESSABLE_ENTITY,
            Written::Failed(_) => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }
}

/// Keeps the change that a form sends, if its files are as they were shown.
pub fn keep(server: &Server, pairs: &Pairs) -> (Arc<Moment>, Written) {
    // One at a time: the second one sees what the first one wrote.
    let _alone = server.keeping.lock().unwrap_or_else(PoisonError::into_inner);
    let recovered = opened::recover(&server.live.root());
    let moment = server.live.fresh();
    let written = match (recovered, &*moment.world) {
        (Err(why), _) => Written::Failed(not_recovered(&why)),
        (Ok(_), Err(_)) => Written::Gone("the site can't be loaded at the moment".to_owned()),
        (Ok(_), Ok(world)) => kept(server, &moment, world, pairs),
    };
    (moment, written)
}

fn kept(server: &Server, moment: &Moment, world: &World, pairs: &Pairs) -> Written {
    let edit = match edits::read(world, pairs) {
        Ok(Some(edit)) => edit,
        Ok(None) => return Written::Gone("this form names no change".to_owned()),
        Err(gone) => return Written::Gone(gone),
    };
    let planned = match edit.plan(world) {
        Ok(planned) => planned,
        Err(problems) => return Written::Wrong(problems),
    };
    if tries::seen(&planned) != value(pairs, "seen") {
        return Written::Stale(Box::new(planned));
    }
    if planned.writes.is_empty() {
        return Written::Done(None);
    }
    let journal = match Journal::of(&moment.snapshot) {
        Ok(journal) => journal,
        Err(error) => return Written::Failed(format!("the site's folder can't be reached: {error}")),
    };
    let command = typed(&planned.command);
    if let Err(why) = journal.make(&command, clock::moment(), &planned.writes) {
        return Written::Failed(format!("{} can't be written: {}", why.path, why.error));
    }
    let did = |write: &Write| format!("{} {}", write.did(), write.path);
    server.say("kept:", &planned.writes.iter().map(did).collect::<Vec<_>>().join(", "), &command);
    let number = journal.changes().ok().and_then(|all| all.first().map(|change| change.number));
    Written::Done(number)
}

/// Why nothing can be written before an interrupted command is dealt with.
fn not_recovered(why: &Failure) -> String {
    let why = match why {
        Failure::Work(message, _) | Failure::Usage(message, _) => message.as_str(),
        Failure::Unloadable(..) => "the site can't be loaded",
    };
    format!("what an interrupted command left can't be completed: {why}")
}

/// Takes the change with a number back, if its files are as it left them.
pub fn take_back(server: &Server, number: &str) -> (Arc<Moment>, Written) {
    let _alone = server.keeping.lock().unwrap_or_else(PoisonError::into_inner);
    let recovered = opened::recover(&server.live.root());
    let moment = server.live.fresh();
    let written = match recovered {
        Err(why) => Written::Failed(not_recovered(&why)),
        Ok(_) => taken_back(server, &moment, number),
    };
    (moment, written)
}

fn taken_back(server: &Server, moment: &Moment, number: &str) -> Written {
    let unread = |error: std::io::Error| Written::Failed(format!("the changes can't be read: {error}"));
    let journal = match Journal::of(&moment.snapshot) {
        Ok(journal) => journal,
        Err(error) => return unread(error),
    };
    let changes = match journal.changes() {
        Ok(changes) => changes,
        Err(error) => return unread(error),
    };
    let wanted = number.parse::<u32>().ok();
    let is_it = |change: &&KeptChange| Some(change.number) == wanted && change.state == ChangeState::Made;
    let Some(change) = changes.iter().find(is_it) else {
        return Written::Gone("this change is not kept any more: it was taken back, or is too old".to_owned());
    };
    match journal.changed_since(change) {
        Ok(since) if since.is_empty() => {}
        Ok(since) => {
            let place = journal.place(change);
            let message = format!(
                "{} changed since then, so nothing was taken back; what they held before is in {place}",
                since.join(", ")
            );
            return Written::Gone(message);
        }
        Err(why) => return Written::Failed(format!("{} can't be read: {}", why.path, why.error)),
    }
    if let Err(why) = journal.take_back(change) {
        return Written::Failed(format!("{} can't be written: {}", why.path, why.error));
    }
    let paths: Vec<&str> = change.writes.iter().map(|write| write.path.as_str()).collect();
    server.say("took back:", &paths.join(", "), &typed(&format!("hausblatt undo {}", change.number)));
    Written::Done(None)
}

/// The changes that were kept, newest first.
///
/// # Errors
/// Why they can't be read.
pub fn changes(root: &Path) -> io::Result<Vec<KeptChange>> {
    let files = opened::disk();
    Journal::at(&files, root)?.changes()
}
