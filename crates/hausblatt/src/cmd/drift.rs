//! `drift`: copies whose original has changed since.

use std::fmt::Write;

use hausblatt_core::change::drift::{Copy, CopyState, adopt, copies, diff, find, merge, release};
use hausblatt_core::files::Depth;
use hausblatt_core::files::edit::Write as Change;
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use serde::Serialize;

use crate::cli::DriftArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::difference::coloured;
use crate::show::style::{BAD, FAINT, GOOD, NOTE, STRONG, plain, styled, to_type, word};
use crate::show::table::counted;

/// A copy as JSON.
#[derive(Serialize)]
struct CopyJson {
    path: String,
    state: &'static str,
    original: Option<OriginalJson>,
    now: Option<OriginalJson>,
    same: bool,
    conflicts: bool,
    added: usize,
    removed: usize,
    alike: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    diff: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    merged: Option<&'static str>,
}

#[derive(Serialize)]
struct OriginalJson {
    theme: String,
    path: String,
    version: Option<String>,
}

/// What became of a copy in this run.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Done {
    Merged,
    Conflicts(usize),
    Adopted,
    Own,
    Released,
    Refused,
}

impl Done {
    fn word(self) -> &'static str {
        match self {
            Done::Merged => "merged",
            Done::Conflicts(_) => "conflicts",
            Done::Adopted => "adopted",
            Done::Own => "own",
            Done::Released => "released",
            Done::Refused => "refused",
        }
    }
}

/// Runs the command.
pub fn run(common: &Common, args: &DriftArgs) -> Result<Outcome, Failure> {
    let writes = args.merge || !args.adopt.is_empty() || !args.release.is_empty();
    let open = if writes { opened::open_to_write } else { opened::open };
    let world = open(common, Depth::Heads)?;
    let (all, mut problems) = copies(world);
    let named = [&args.adopt, &args.release].into_iter().find(|named| !named.is_empty()).unwrap_or(&args.files);
    let mut chosen: Vec<Copy> = Vec::new();
    for typed in named {
        let typed = opened::theme_file(world, typed);
        chosen.push(find(world, &all, &typed).map_err(|problem| opened::failed(&problem))?.clone());
    }
    let chosen = if named.is_empty() { all } else { chosen };
    let mut rows = Vec::new();
    let mut writes = Vec::new();
    for copy in chosen {
        let done = act(world, args, &copy, &mut writes, &mut problems)?;
        rows.push((copy, done));
    }
    // All are written or none.
    opened::write(world, &writes)?;
    if common.format == Format::Json {
        let rows = rows.iter().map(|(copy, done)| as_json(world, args, copy, *done));
        json(&rows.collect::<Result<Vec<_>, Failure>>()?)?;
    } else {
        print(&text(world, args, &rows)?)?;
    }
    let settled = |done: &Option<Done>| matches!(done, Some(Done::Merged | Done::Adopted | Done::Own | Done::Released));
    let fine =
        rows.iter().all(|(copy, done)| settled(done) || (done.is_none() && !copy.state.differs() && !copy.conflicts));
    Ok(opened::accept(world, &problems, common).and(fine))
}

/// Merges, adopts or releases, if that was asked: what is to be written is added to `writes`.
fn act(
    world: &World,
    args: &DriftArgs,
    copy: &Copy,
    writes: &mut Vec<Change>,
    problems: &mut Vec<Diagnostic>,
) -> Result<Option<Done>, Failure> {
    let active = world.lineage.active();
    if !args.adopt.is_empty() {
        let adopted = adopt(world, active, copy).map_err(|problem| opened::failed(&problem))?;
        let done = if adopted.iter().any(|write| write.bytes.is_some()) { Done::Adopted } else { Done::Own };
        writes.extend(adopted);
        return Ok(Some(done));
    }
    if !args.release.is_empty() {
        writes.push(release(world, active, copy).map_err(|problem| opened::failed(&problem))?);
        return Ok(Some(Done::Released));
    }
    // What can't be merged is an error only where it is named; else it is listed with what to do.
    let can = matches!(copy.state, CopyState::Drifted | CopyState::Moved) && !copy.conflicts;
    let asked = args.merge && (can || !args.files.is_empty());
    if !asked || matches!(copy.state, CopyState::Current | CopyState::Extends) {
        return Ok(None);
    }
    match merge(world, active, copy) {
        Ok(merged) => {
            writes.extend(merged.writes);
            Ok(Some(if merged.conflicts == 0 { Done::Merged } else { Done::Conflicts(merged.conflicts) }))
        }
        Err(problem) => {
            problems.push(problem);
            Ok(Some(Done::Refused))
        }
    }
}

fn as_json(world: &World, args: &DriftArgs, copy: &Copy, done: Option<Done>) -> Result<CopyJson, Failure> {
    Ok(CopyJson {
        path: copy.path.clone(),
        state: copy.state.word(),
        original: copy.original.as_ref().map(|original| OriginalJson {
            theme: original.theme.clone(),
            path: original.path.clone(),
            version: original.version.clone(),
        }),
        now: copy.now.as_ref().map(|now| OriginalJson {
            theme: now.theme.clone(),
            path: now.path.clone(),
            version: now.version.clone(),
        }),
        same: copy.same,
        conflicts: copy.conflicts,
        added: copy.added,
        removed: copy.removed,
        alike: match copy.state {
            CopyState::Unrecorded(alike) => Some((f64::from(alike) * 100.0).round() / 100.0),
            _ => None,
        },
        diff: (args.diff && copy.state != CopyState::Current).then(|| difference(world, copy)).transpose()?,
        merged: done.map(Done::word),
    })
}

fn difference(world: &World, copy: &Copy) -> Result<String, Failure> {
    diff(world, copy).map_err(|problem| opened::failed(&problem))
}

fn text(world: &World, args: &DriftArgs, rows: &[(Copy, Option<Done>)]) -> Result<String, Failure> {
    let active = &world.lineage.active().name;
    if rows.is_empty() {
        let command = "hausblatt override FILE";
        return Ok(format!("{} holds no copies. To make one:  {}\n", plain(active), to_type(command)));
    }
    let mut out = String::new();
    for (copy, done) in rows {
        let (style, words) = words(copy, *done);
        let _ = writeln!(out, "{}", styled(STRONG, &plain(&copy.path)));
        let _ = writeln!(out, "    {}", styled(style, &plain(&words)));
        if let Some(note) = note(copy, *done) {
            let _ = writeln!(out, "    {}", styled(FAINT, &plain(&note)));
        }
        if args.diff && !matches!(copy.state, CopyState::Current) {
            out.push_str(&coloured(&difference(world, copy)?));
        }
    }
    out.push_str(&next(args, rows));
    Ok(out)
}

fn words(copy: &Copy, done: Option<Done>) -> (anstyle::Style, String) {
    let from = copy.original.as_ref().map(|original| original.from_where()).unwrap_or_default();
    let now = copy.now.as_ref().map(|now| match &now.version {
        Some(version) => format!("{} {version}", now.theme),
        None => now.theme.clone(),
    });
    let now = now.unwrap_or_default();
    let versions = if from == now { from.clone() } else { format!("{from} → {now}") };
    match done {
        Some(Done::Merged) => return (GOOD, format!("merged with {now}; its record is renewed")),
        Some(Done::Conflicts(1)) => {
            return (BAD, format!("merged with {now}, but for 1 conflict that is marked in it"));
        }
        Some(Done::Conflicts(count)) => {
            return (BAD, format!("merged with {now}, but for {count} conflicts that are marked in it"));
        }
        Some(Done::Adopted) => return (GOOD, format!("its original is {now}'s from now on")),
        Some(Done::Own) => return (GOOD, "it has no original any more: it is the theme's own from now on".to_owned()),
        Some(Done::Released) => return (GOOD, "its record has ended: it is the theme's own from now on".to_owned()),
        Some(Done::Refused) | None => {}
    }
    match copy.state {
        CopyState::Current => (GOOD, format!("current: its original is as it was in {from}")),
        CopyState::Drifted => (
            NOTE,
            format!("drifted: {versions}, {} added, {} removed", counted(copy.added, "line", "lines"), copy.removed),
        ),
        CopyState::Moved => {
            let path = copy.now.as_ref().map_or("", |now| now.path.as_str());
            (NOTE, format!("moved: {now} has it as {path} now"))
        }
        CopyState::Gone => (BAD, format!("gone: {from} had it, and has it no more")),
        CopyState::Unrecorded(alike) => {
            (FAINT, format!("no original recorded; {:.0} % of it is {now}'s", (alike * 100.0).floor()))
        }
        CopyState::Left => (FAINT, "copy gone: only the record of its original is left".to_owned()),
        CopyState::Extends => (FAINT, "no longer a copy: it extends the inherited file".to_owned()),
    }
}

fn note(copy: &Copy, done: Option<Done>) -> Option<String> {
    match (&copy.state, done) {
        (_, Some(Done::Conflicts(_))) => {
            Some(format!("settle what is between the marks, then: hausblatt drift --adopt {}", word(&copy.name)))
        }
        (_, Some(_)) => None,
        (_, None) if copy.conflicts => {
            Some(format!("a conflict is marked in it: settle it, then: hausblatt drift --adopt {}", word(&copy.name)))
        }
        (CopyState::Moved, None) => {
            let renamed = copy.now.as_ref().filter(|now| copy.original.as_ref().is_some_and(|it| it.path != now.path));
            renamed.map(|now| format!("to follow it, rename yours, then: hausblatt drift --adopt {}", word(&now.path)))
        }
        (CopyState::Gone, None) => {
            Some(format!("to keep it as the theme's own: hausblatt drift --adopt {}", word(&copy.name)))
        }
        (CopyState::Left | CopyState::Extends, None) => {
            Some(format!("to be rid of the record: hausblatt drift --adopt {}", word(&copy.name)))
        }
        (CopyState::Current, None) if copy.recorded_as.is_some() => {
            let from = copy.recorded_as.as_deref().unwrap_or_default();
            Some(format!(
                "renamed from {from}; to rename its record, too: hausblatt drift --adopt {}",
                word(&copy.name)
            ))
        }
        (CopyState::Drifted, None) if copy.recorded_as.is_some() => {
            Some(format!("renamed from {}", copy.recorded_as.as_deref().unwrap_or_default()))
        }
        (_, None) if copy.may_go => Some("it is the same as its original: deleting it changes nothing".to_owned()),
        _ => None,
    }
}

fn next(args: &DriftArgs, rows: &[(Copy, Option<Done>)]) -> String {
    let any =
        |wanted: &dyn Fn(&CopyState) -> bool| rows.iter().any(|(copy, done)| done.is_none() && wanted(&copy.state));
    let mut lines: Vec<(&str, String)> = Vec::new();
    let changed = |state: &CopyState| matches!(state, CopyState::Drifted | CopyState::Moved);
    if any(&changed) && !args.diff {
        lines.push(("What has changed:     ", "hausblatt drift --diff".to_owned()));
    }
    if any(&changed) {
        lines.push(("To take it over:      ", "hausblatt drift --merge".to_owned()));
    }
    let unrecorded = rows.iter().find(|(copy, done)| done.is_none() && matches!(copy.state, CopyState::Unrecorded(_)));
    if let Some((copy, _)) = unrecorded {
        lines.push(("To record an original:", format!("hausblatt drift --adopt {}", word(&copy.name))));
    }
    if rows.iter().any(|(_, done)| *done == Some(Done::Merged)) {
        lines.push(("What that changes:    ", "hausblatt build --diff".to_owned()));
    }
    if lines.is_empty()
        && rows.iter().all(|(copy, done)| {
            done.is_none() && copy.state == CopyState::Current && !copy.conflicts && copy.recorded_as.is_none()
        })
    {
        return "\nAll copies are up to date.\n".to_owned();
    }
    let mut out = String::new();
    for (at, (what, command)) in lines.iter().enumerate() {
        let gap = if at == 0 { "\n" } else { "" };
        let _ = writeln!(out, "{gap}{what}  {}", to_type(command));
    }
    out
}
