//! `undo`: the last change that a command wrote, taken back.

use std::fmt::Write as _;
use std::io;

use anstyle::Style;
use hausblatt_core::analysis::compare::{Difference, Html, compare};
use hausblatt_core::asking::SiteOptions;
use hausblatt_core::change::changes::changed;
use hausblatt_core::files::edit::Write;
use hausblatt_core::files::journal::{ChangeState, JOURNAL, Journal, KeptChange, Recovered};
use hausblatt_core::files::{Depth, Snapshot};
use hausblatt_core::world::World;
use jiff::tz::TimeZone;
use serde::Serialize;

use crate::cli::UndoArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::changes;
use crate::show::style::{FAINT, GOOD, NOTE, STRONG, TYPED, plain, styled, to_type};
use crate::show::table;

/// What was taken back, as JSON.
#[derive(Serialize)]
struct TakenBackJson {
    change: ChangeJson,
    written: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    changed: Option<Vec<changes::ChangeJson>>,
}

/// A change of the journal, as JSON.
#[derive(Serialize)]
struct ChangeJson {
    number: u32,
    command: String,
    made: String,
    state: &'static str,
    files: Vec<FileJson>,
}

#[derive(Serialize)]
struct FileJson {
    path: String,
    did: &'static str,
}

/// Runs the command.
pub fn run(common: &Common, args: &UndoArgs) -> Result<Outcome, Failure> {
    let is_reading = args.list || args.dry_run;
    let recovered = if is_reading { Vec::new() } else { opened::recover(&opened::real_root(common)?)? };
    let (snapshot, asking) = opened::read(common, Depth::Whole)?;
    if is_reading {
        opened::note_interrupted(&snapshot);
    }
    let journal = Journal::of(&snapshot)?;
    let unread = |error: io::Error| Failure::Work(format!("{JOURNAL} can't be read: {error}"), None);
    for path in journal.damaged().map_err(unread)? {
        crate::tell!("{} {} can't be read, and is passed over", styled(NOTE, "note:"), plain(&path));
    }
    let all = journal.changes().map_err(unread)?;
    if args.list {
        return list(common, &all, &opened::zone(&snapshot));
    }
    if let Some(number) = args.number {
        let Some(change) = all.iter().find(|change| change.number == number) else {
            let help = "hausblatt undo --list lists the changes with their numbers";
            return Err(Failure::Work(format!("no change {number} is kept"), Some(help.to_owned())));
        };
        if change.state != ChangeState::Made {
            let message = format!("change {number} is {}, and can't be taken back so", change.state.word());
            return Err(Failure::Work(message, Some("hausblatt undo looks at it first".to_owned())));
        }
        return taken_back(common, &snapshot, asking, &journal, change, args.dry_run);
    }
    // What was interrupted was the last change.
    let interrupted = recovered.iter().rev().find(|(_, became)| *became == Recovered::TakenBack);
    let mut interrupted = interrupted.map(|(change, _)| change);
    if args.dry_run {
        for change in all.iter().filter(|change| change.state == ChangeState::Interrupted) {
            if journal.outlook(change).map_err(opened::not_written)? != Recovered::Left {
                interrupted = interrupted.or(Some(change));
            }
        }
    }
    if let Some(change) = interrupted {
        // How much of it was written is not known here, and so not what that changed.
        return said(common, &snapshot, None, change, !args.dry_run);
    }
    let Some(change) = all.iter().find(|change| change.state == ChangeState::Made) else {
        let help = "it takes back what commands write that change a site: override, choose, set, start, rename, extract, extend, move, neaten, drift, check --fix, missed --fix, expect --record";
        return Err(Failure::Work("there is nothing to take back".to_owned(), Some(help.to_owned())));
    };
    taken_back(common, &snapshot, asking, &journal, change, args.dry_run)
}

/// Takes a change back whose files are as it left them.
fn taken_back(
    common: &Common,
    snapshot: &Snapshot,
    asking: SiteOptions,
    journal: &Journal<'_>,
    change: &KeptChange,
    is_dry: bool,
) -> Result<Outcome, Failure> {
    let since = journal.changed_since(change).map_err(opened::not_written)?;
    if !since.is_empty() {
        let message = format!("{} changed since \"{}\"; nothing was taken back", since.join(", "), change.command);
        let help = format!("what they held before is in {}", journal.place(change));
        return Err(Failure::Work(message, Some(help)));
    }
    if !is_dry {
        journal.take_back(change).map_err(opened::not_written)?;
    }
    said(common, snapshot, Some(asking), change, !is_dry)
}

/// Says what was taken back, or would be, and what that changes.
fn said(
    common: &Common,
    before: &Snapshot,
    asking: Option<SiteOptions>,
    change: &KeptChange,
    written: bool,
) -> Result<Outcome, Failure> {
    // The files as they were read, before they were taken back.
    let writes: Vec<Write> = change.reversed().into_iter().filter(|write| write.bytes != write.instead).collect();
    let is_compared = asking.is_some();
    let difference = asking.and_then(|asking| difference(before, asking, &writes));
    if common.format == Format::Json {
        let changed = difference.map(|difference| changes::json(&difference.changed));
        json(&TakenBackJson { change: as_json(change), written, changed })?;
        return Ok(Outcome::Clean);
    }
    if common.quiet {
        return Ok(Outcome::Clean);
    }
    let verb = if written { styled(GOOD, "Took back") } else { styled(NOTE, "Would take back") };
    let mut out = format!("{verb} {}\n", styled(TYPED, &plain(&change.command)));
    let at = change.made.to_zoned(opened::zone(before)).strftime("%Y-%m-%d %H:%M");
    let _ = writeln!(out, "{}\n", styled(FAINT, &format!("of {at}")));
    let rows: Vec<Vec<table::Cell>> = writes
        .iter()
        .map(|write| {
            let became = match (&write.instead, &write.bytes) {
                (Some(_), None) => "removed",
                (None, _) => "back again",
                _ => "as before",
            };
            vec![(plain(&write.path), STRONG), (became.to_owned(), Style::new())]
        })
        .collect();
    out.push_str(&table::text(&rows, 2));
    match difference {
        Some(difference) if difference.changed.is_empty() => {
            out.push_str("\nEach address has the template that it had.\n");
        }
        Some(difference) => {
            let _ = writeln!(out, "\n{}", changes::text(&difference.changed, common.verbose).trim_end());
        }
        None if !is_compared => {}
        None => out.push_str("\nThe site can't be loaded on both sides, so what changes is not known.\n"),
    }
    let next = match written {
        true => "hausblatt undo --list".to_owned(),
        false => format!("hausblatt undo {}", change.number),
    };
    let _ = writeln!(out, "\nNext:  {}", to_type(&next));
    print(&out)?;
    Ok(Outcome::Clean)
}

/// What these changes change; nothing where the site can't be loaded with or without them.
fn difference(before: &Snapshot, asking: SiteOptions, writes: &[Write]) -> Option<Difference> {
    let after = World::load(changed(before, writes), asking.clone()).ok()?;
    let before = World::load(before.clone(), asking).ok()?;
    Some(compare(&before, &after, Html::No))
}

fn as_json(change: &KeptChange) -> ChangeJson {
    let file = |write: &Write| FileJson { path: write.path.clone(), did: write.did() };
    ChangeJson {
        number: change.number,
        command: change.command.clone(),
        made: change.made.to_string(),
        state: change.state.word(),
        files: change.writes.iter().map(file).collect(),
    }
}

fn list(common: &Common, all: &[KeptChange], zone: &TimeZone) -> Result<Outcome, Failure> {
    if common.format == Format::Json {
        json(&all.iter().map(as_json).collect::<Vec<_>>())?;
        return Ok(Outcome::Clean);
    }
    if all.is_empty() {
        print("No change is kept that could be taken back.\n")?;
        return Ok(Outcome::Clean);
    }
    let mut out = String::new();
    for change in all {
        let at = change.made.to_zoned(zone.clone()).strftime("%Y-%m-%d %H:%M");
        let state = match change.state {
            ChangeState::Made => String::new(),
            ChangeState::Interrupted => format!("  {}", styled(NOTE, "interrupted")),
            ChangeState::Running => format!("  {}", styled(NOTE, "running")),
            ChangeState::Left => format!("  {}", styled(NOTE, "interrupted, and left as it is")),
        };
        let number = format!("{:>4}  {at}", change.number);
        let _ = writeln!(out, "{}  {}{state}", styled(FAINT, &number), styled(TYPED, &plain(&change.command)));
        for write in &change.writes {
            let _ = writeln!(out, "      {} {}", styled(FAINT, write.did()), plain(&write.path));
        }
    }
    if all.iter().any(|change| matches!(change.state, ChangeState::Made | ChangeState::Interrupted)) {
        let _ = writeln!(out, "\nTo take the last one back:  {}", to_type("hausblatt undo"));
        if let Some(other) = all.iter().skip(1).find(|change| change.state == ChangeState::Made) {
            let command = format!("hausblatt undo {}", other.number);
            let _ = writeln!(out, "To take another one back:   {}", to_type(&command));
        }
    }
    print(&out)?;
    Ok(Outcome::Clean)
}
