//! `rename`: a theme file, or something of the site, gets another name, and all that names it with it.

use std::fmt::Write as _;

use anstyle::Style;
use hausblatt_core::change::rename::{MovedAddress, Renaming, rename};
use hausblatt_core::files::Depth;
use hausblatt_core::files::edit::Write;
use hausblatt_core::world::World;
use hausblatt_lang::text::source::Place;
use serde::Serialize;

use crate::cli::RenameArgs;
use crate::cmd::changing::refused;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::diagnostics::{inside, lines_around};
use crate::show::style::{FAINT, GOOD, NOTE, STRONG, plain, styled, to_type, word};
use crate::show::table::counted;
use crate::show::{changes, table};

/// A renaming, as JSON.
#[derive(Serialize)]
struct RenamedJson<'r> {
    what: &'static str,
    from: &'r str,
    to: &'r str,
    written: bool,
    moved: Vec<MovedJson<'r>>,
    edited: Vec<EditedJson<'r>>,
    uncertain: Vec<UncertainJson>,
    ended: Option<&'r str>,
    addresses: Vec<AddressJson<'r>>,
    by_trial: Vec<PlaceJson>,
    rendered: usize,
    concerned: usize,
    shows_name: &'r [String],
    differ: &'r [String],
    changed: Vec<changes::ChangeJson>,
}

#[derive(Serialize)]
struct MovedJson<'r> {
    from: &'r str,
    to: &'r str,
}

#[derive(Serialize)]
struct AddressJson<'r> {
    from: &'r str,
    to: &'r str,
    redirects: bool,
}

#[derive(Serialize)]
struct PlaceJson {
    path: String,
    line: usize,
}

#[derive(Serialize)]
struct EditedJson<'r> {
    path: &'r str,
    places: usize,
}

#[derive(Serialize)]
struct UncertainJson {
    path: String,
    line: usize,
    why: String,
}

/// Runs the command.
pub fn run(common: &Common, args: &RenameArgs) -> Result<Outcome, Failure> {
    let open = if args.dry_run { opened::open } else { opened::open_to_write };
    let world = open(common, Depth::Whole)?;
    let typed = opened::theme_file(world, &args.what);
    let renaming = rename(world, &typed, &args.new).map_err(|problems| refused(world, &problems, common))?;
    if !args.dry_run {
        opened::write(world, &renaming.writes)?;
    }
    if common.format == Format::Json {
        json(&as_json(world, &renaming, !args.dry_run))?;
    } else if !common.quiet {
        print(&text(world, args, &renaming, common))?;
    }
    Ok(Outcome::Clean)
}

fn line_of(world: &World, place: &Place) -> usize {
    let text = world.snapshot.file(&place.path).and_then(|node| node.whole_text().ok());
    text.map_or(1, |text| lines_around(&text, &inside(&text, place.span.range())).1)
}

fn as_json<'r>(world: &World, renaming: &'r Renaming, written: bool) -> RenamedJson<'r> {
    let uncertain = |(place, why): &(Place, String)| UncertainJson {
        path: place.path.to_string(),
        line: line_of(world, place),
        why: why.clone(),
    };
    let address =
        |moved: &'r MovedAddress| AddressJson { from: &moved.from, to: &moved.to, redirects: moved.redirects };
    let place = |place: &Place| PlaceJson { path: place.path.to_string(), line: line_of(world, place) };
    RenamedJson {
        what: renaming.what,
        from: &renaming.from,
        to: &renaming.to,
        written,
        moved: renaming.moved.iter().map(|(from, to)| MovedJson { from, to }).collect(),
        edited: renaming.edited.iter().map(|(path, places)| EditedJson { path, places: *places }).collect(),
        uncertain: renaming.uncertain.iter().map(uncertain).collect(),
        ended: renaming.ended.as_deref(),
        addresses: renaming.addresses.iter().map(address).collect(),
        by_trial: renaming.by_trial.iter().map(place).collect(),
        rendered: renaming.proof.rendered,
        concerned: renaming.proof.concerned,
        shows_name: &renaming.proof.shows_name,
        differ: &renaming.proof.differ,
        changed: changes::json(&renaming.proof.changed),
    }
}

fn text(world: &World, args: &RenameArgs, renaming: &Renaming, common: &Common) -> String {
    let verb = if args.dry_run { styled(NOTE, "Would rename") } else { styled(GOOD, "Renamed") };
    let Renaming { what, from, to, proof, .. } = renaming;
    let mut out = format!("{verb} the {what} {} to {}\n\n", styled(STRONG, &plain(from)), styled(STRONG, &plain(to)));
    let most = if common.verbose { usize::MAX } else { MOST_MOVED };
    for (from, to) in renaming.moved.iter().take(most) {
        let _ = writeln!(out, "  {}\n    → {}", plain(from), styled(STRONG, &plain(to)));
    }
    out.push_str(&more(renaming.moved.len(), most, "file", "files"));
    if !renaming.edited.is_empty() {
        out.push_str(if renaming.moved.is_empty() { "What names it:\n" } else { "\nWhat names it:\n" });
        let row =
            |(path, count): &(String, usize)| vec![(plain(path), STRONG), (counted(*count, "place", "places"), FAINT)];
        out.push_str(&table::text(&renaming.edited.iter().take(most).map(row).collect::<Vec<_>>(), 2));
        out.push_str(&more(renaming.edited.len(), most, "file", "files"));
    }
    let records: Vec<&Write> = renaming.writes.iter().filter(|write| write.path.contains("/.originals/")).collect();
    if !records.is_empty() {
        let _ = writeln!(
            out,
            "\n{} of originals with it.",
            counted(records.iter().filter(|write| write.bytes.is_some()).count(), "record", "records")
        );
    }
    if !renaming.by_trial.is_empty() {
        out.push_str("\nTexts that are the same were changed, too, since the pages stay the same only so:\n");
        let row = |place: &Place| vec![(format!("{}:{}", plain(&place.path), line_of(world, place)), STRONG)];
        out.push_str(&table::text(&renaming.by_trial.iter().map(row).collect::<Vec<_>>(), 2));
    }
    if !renaming.uncertain.is_empty() {
        let _ = writeln!(
            out,
            "\n{}",
            styled(NOTE, "Look at these: what they name is known only when they run, or not at all.")
        );
        let row = |(place, why): &(Place, String)| {
            let at = format!("{}:{}", plain(&place.path), line_of(world, place));
            vec![(at, STRONG), (plain(why), Style::new())]
        };
        out.push_str(&table::text(&renaming.uncertain.iter().map(row).collect::<Vec<_>>(), 2));
    }
    if !renaming.addresses.is_empty() {
        out.push_str("\nAddresses that change:\n");
        let row = |moved: &MovedAddress| {
            let end = if moved.redirects { "the old one leads there" } else { "the old one ends" };
            vec![
                (plain(&moved.from), Style::new()),
                (plain(&moved.to), STRONG),
                (end.to_owned(), if moved.redirects { FAINT } else { NOTE }),
            ]
        };
        out.push_str(&table::text(&renaming.addresses.iter().take(most).map(row).collect::<Vec<_>>(), 2));
        out.push_str(&more(renaming.addresses.len(), most, "address", "addresses"));
    }
    out.push('\n');
    out.push_str(&crate::show::proof::text(proof, common));
    if !proof.changed.is_empty() {
        let _ = writeln!(out, "\nOther files answer:\n{}", changes::text(&proof.changed, common.verbose).trim_end());
    }
    if let Some(address) = &renaming.ended {
        let _ = writeln!(out, "\nThe address {} ends: what links to it from elsewhere finds nothing.", plain(address));
    }
    let next = match args.dry_run {
        true => format!("hausblatt rename {} {}", word(&args.what), word(&args.new)),
        false => "hausblatt undo".to_owned(),
    };
    let how = if args.dry_run { "To do it" } else { "To take it back" };
    let _ = writeln!(out, "\n{how}:  {}", to_type(&next));
    out
}

/// What is said of those that are not listed.
fn more(all: usize, shown: usize, one: &str, many: &str) -> String {
    match all.saturating_sub(shown) {
        0 => String::new(),
        left => format!("  and {} more; -v lists them\n", counted(left, one, many)),
    }
}

/// So many files are listed without `-v`.
const MOST_MOVED: usize = 12;
