//! `expect`: the map held against a recorded one.

use std::fmt::Write as _;
use std::io;

use hausblatt_core::analysis::expect::{Differences, ExpectedAnswer, FILE, Record};
use hausblatt_core::files::edit::Write;
use hausblatt_core::files::{Depth, Snapshot};
use hausblatt_core::world::World;
use serde::Serialize;

use crate::cli::ExpectArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{BAD, FAINT, GOOD, NOTE, STRONG, plain, styled, to_type};
use crate::show::table::{addresses, counted};

/// So many addresses that are answered alike are shown without `-v`.
const MOST: usize = 3;

/// What differs, as JSON.
#[derive(Serialize)]
struct DifferencesJson<'d> {
    new: Vec<ExpectRow<'d>>,
    gone: Vec<ExpectRow<'d>>,
    moved: Vec<ExpectRow<'d>>,
    same: usize,
}

#[derive(Serialize)]
struct ExpectRow<'d> {
    address: &'d str,
    expected: Option<&'d ExpectedAnswer>,
    is: Option<&'d ExpectedAnswer>,
}

/// Runs the command.
pub fn run(common: &Common, args: &ExpectArgs) -> Result<Outcome, Failure> {
    let open = if args.record { opened::open_to_write } else { opened::open };
    let world = open(common, Depth::Heads)?;
    let errors: Vec<_> = world.problems.iter().filter(|problem| problem.is_error()).cloned().collect();
    if args.record {
        record(world, common)?;
        return Ok(opened::accept(world, &errors, common));
    }
    let path = world.snapshot.root().join(FILE);
    let text = opened::regular(&path).and_then(|bytes| {
        String::from_utf8(bytes).map_err(|_| io::Error::new(io::ErrorKind::InvalidData, "it is not UTF-8"))
    });
    let text = text.map_err(|error| {
        let help = "record how the site is now: hausblatt expect --record";
        Failure::Work(format!("{FILE} can't be read: {error}"), Some(help.to_owned()))
    })?;
    let record = match Record::read(FILE, &text) {
        Ok(record) => record,
        Err(problems) => {
            let texts = Snapshot::in_memory([]).with(FILE, Some(&text));
            return Err(Failure::Unloadable(Box::new(texts), problems));
        }
    };
    let found = record.compare(world);
    if common.format == Format::Json {
        json(&as_json(&found))?;
    } else {
        print(&said(&found, common))?;
    }
    Ok(opened::accept(world, &errors, common).and(found.is_empty()))
}

fn record(world: &World, common: &Common) -> Result<(), Failure> {
    let text = Record::of(world).to_toml();
    let path = world.snapshot.root().join(FILE);
    let before = match opened::regular(&path) {
        Ok(before) => Some(before),
        Err(error) if error.kind() == io::ErrorKind::NotFound => None,
        Err(error) => return Err(Failure::Work(format!("{FILE} can't be read: {error}"), None)),
    };
    let same = before.as_deref() == Some(text.as_bytes());
    if !same {
        let write = match before {
            Some(before) => Write::instead_of(FILE, before, text.as_bytes()),
            None => Write::new(FILE, text.as_bytes()),
        };
        opened::write(world, &[write])?;
    }
    if !common.quiet && common.format == Format::Text {
        let lines = counted(text.lines().filter(|line| line.starts_with('"')).count(), "line", "lines");
        let done = if same { "Kept " } else { "Wrote" };
        let hold = to_type("hausblatt expect");
        print(&format!("{done} {} ({lines})\nTo compare the site with it:  {hold}\n", styled(STRONG, FILE)))?;
    }
    Ok(())
}

fn as_json(found: &Differences) -> DifferencesJson<'_> {
    DifferencesJson {
        new: found.new.iter().map(|(address, is)| ExpectRow { address, expected: None, is: Some(is) }).collect(),
        gone: found.gone.iter().map(|(address, was)| ExpectRow { address, expected: Some(was), is: None }).collect(),
        moved: found
            .moved
            .iter()
            .map(|(address, was, is)| ExpectRow { address, expected: Some(was), is: Some(is) })
            .collect(),
        same: found.same,
    }
}

fn said(found: &Differences, common: &Common) -> String {
    let mut out = String::new();
    if found.is_empty() {
        if !common.quiet {
            let _ = writeln!(out, "{} {} as recorded.", styled(GOOD, "✓"), addresses(found.same));
        }
        return out;
    }
    let moved = found.moved.iter().map(|(address, was, is)| (changed(was, is), address));
    part(&mut out, ("answered differently", NOTE), moved.collect(), common.verbose);
    let new = found.new.iter().map(|(address, is)| (words(is), address));
    part(&mut out, ("new", GOOD), new.collect(), common.verbose);
    let gone = found.gone.iter().map(|(address, was)| (words(was), address));
    part(&mut out, ("gone", BAD), gone.collect(), common.verbose);
    if !common.quiet {
        let first = found.moved.first().map(|(address, ..)| address).or(found.new.first().map(|(address, _)| address));
        if let Some(address) = first {
            let _ = writeln!(
                out,
                "To see why:               {}",
                to_type(&format!("hausblatt resolve {}", plain(address)))
            );
        }
        let _ = writeln!(out, "If that is intended:      {}", to_type("hausblatt expect --record"));
    }
    out
}

/// The addresses of one sort, those that are answered alike together.
fn part(out: &mut String, (title, style): (&str, anstyle::Style), rows: Vec<(String, &String)>, all: bool) {
    if rows.is_empty() {
        return;
    }
    let _ = writeln!(out, "{}", styled(style, &format!("{title}: {}", addresses(rows.len()))));
    let mut groups: Vec<(String, Vec<&String>)> = Vec::new();
    for (words, address) in rows {
        match groups.iter_mut().find(|(known, _)| *known == words) {
            Some((_, of_group)) => of_group.push(address),
            None => groups.push((words, vec![address])),
        }
    }
    for (words, of_group) in groups {
        let _ = writeln!(out, "  {}", words.lines().map(plain).collect::<Vec<_>>().join("\n"));
        let shown = if all || of_group.len() <= MOST + 1 { of_group.len() } else { MOST };
        for address in &of_group[..shown] {
            let _ = writeln!(out, "      {}", styled(STRONG, &plain(address)));
        }
        if of_group.len() > shown {
            let _ =
                writeln!(out, "      {}", styled(FAINT, &format!("and {} more; -v shows all", of_group.len() - shown)));
        }
    }
    out.push('\n');
}

/// An answer in a line.
fn words(answer: &ExpectedAnswer) -> String {
    let mut words = match (&answer.template, &answer.location) {
        (_, Some(to)) => format!("{} → {to}", answer.status),
        (Some(template), None) => format!("{template} ({})", answer.theme.as_deref().unwrap_or("")),
        (None, None) => "built in".to_owned(),
    };
    if let Some(layout) = &answer.layout {
        let _ = write!(words, " inside {layout}");
    }
    if answer.location.is_none() && answer.status != 200 {
        let _ = write!(words, ", status {}", answer.status);
    }
    words
}

fn changed(was: &ExpectedAnswer, is: &ExpectedAnswer) -> String {
    format!("{}\n    →  {}", words(was), words(is))
}
