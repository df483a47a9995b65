//! `move`: a theme file that moves to another theme of the lineage, with what it needs there.

use std::fmt::Write as _;

use hausblatt_core::change::moving::{Moving, move_file};
use hausblatt_core::files::Depth;
use serde::Serialize;

use crate::cli::MoveArgs;
use crate::cmd::changing::refused;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{FAINT, GOOD, NOTE, STRONG, plain, styled, to_type, word};
use crate::show::table::{addresses, counted};
use crate::show::{proof, table};

/// A file that moves, as JSON.
#[derive(Serialize)]
struct MovingJson<'m> {
    moved: Vec<MovedJson<'m>>,
    themes: Vec<ThemeJson<'m>>,
    records: usize,
    written: bool,
    rendered: usize,
    concerned: usize,
}

#[derive(Serialize)]
struct MovedJson<'m> {
    from: &'m str,
    to: &'m str,
}

#[derive(Serialize)]
struct ThemeJson<'m> {
    theme: &'m str,
    differ: usize,
    rendered: usize,
}

/// Runs the command.
pub fn run(common: &Common, args: &MoveArgs) -> Result<Outcome, Failure> {
    let open = if args.dry_run { opened::open } else { opened::open_to_write };
    let world = open(common, Depth::Whole)?;
    let moving = move_file(world, &opened::theme_file(world, &args.file), &args.to)
        .map_err(|problems| refused(world, &problems, common))?;
    if !args.dry_run {
        opened::write(world, &moving.writes)?;
    }
    if common.format == Format::Json {
        json(&MovingJson {
            moved: moving.moved.iter().map(|(from, to)| MovedJson { from, to }).collect(),
            themes: moving
                .themes
                .iter()
                .map(|(theme, differ, rendered)| ThemeJson { theme, differ: *differ, rendered: *rendered })
                .collect(),
            records: moving.records,
            written: !args.dry_run,
            rendered: moving.proof.rendered,
            concerned: moving.proof.concerned,
        })?;
    } else if !common.quiet {
        print(&text(args, &moving, common))?;
    }
    Ok(Outcome::Clean)
}

fn text(args: &MoveArgs, moving: &Moving, common: &Common) -> String {
    let verb = if args.dry_run { styled(NOTE, "Would move") } else { styled(GOOD, "Moved") };
    let mut out = format!("{verb} to the theme {}\n\n", styled(STRONG, &plain(&args.to)));
    for (at, (from, to)) in moving.moved.iter().enumerate() {
        let why = if at == 0 { String::new() } else { styled(FAINT, "  (which it needs)") };
        let _ = writeln!(out, "  {}{why}\n    → {}", plain(from), styled(STRONG, &plain(to)));
    }
    if moving.records > 0 {
        let _ = writeln!(out, "\n{} of originals with it.", counted(moving.records, "record", "records"));
    }
    out.push('\n');
    out.push_str(&proof::text(&moving.proof, common));
    match moving.themes.as_slice() {
        [] => out.push_str("No other theme of the site changes.\n"),
        themes => {
            out.push_str("\nOther themes of the site change:\n");
            let rows: Vec<_> = themes
                .iter()
                .map(|(name, differ, of)| {
                    vec![(plain(name), STRONG), (format!("{} of {of} differ", addresses(*differ)), FAINT)]
                })
                .collect();
            out.push_str(&table::text(&rows, 2));
        }
    }
    let next = match args.dry_run {
        true => format!("hausblatt move {} {}", word(&args.file), word(&args.to)),
        false => "hausblatt undo".to_owned(),
    };
    let how = if args.dry_run { "To do it" } else { "To take it back" };
    let _ = writeln!(out, "\n{how}:  {}", to_type(&next));
    out
}
