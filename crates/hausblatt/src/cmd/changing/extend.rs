//! `extend`: a copy that becomes a file which extends its original.

use std::fmt::Write as _;

use hausblatt_core::change::extending::{Extending, extend_copy};
use hausblatt_core::files::Depth;
use serde::Serialize;

use crate::cli::ExtendArgs;
use crate::cmd::changing::refused;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::proof;
use crate::show::style::{GOOD, NOTE, STRONG, plain, styled, to_type, word};
use crate::show::table::counted;

/// A copy that extends its original, as JSON.
#[derive(Serialize)]
struct ExtendedJson<'e> {
    path: &'e str,
    original: &'e str,
    filled: &'e [String],
    ends_record: bool,
    written: bool,
    rendered: usize,
    concerned: usize,
}

/// Runs the command.
pub fn run(common: &Common, args: &ExtendArgs) -> Result<Outcome, Failure> {
    let open = if args.dry_run { opened::open } else { opened::open_to_write };
    let world = open(common, Depth::Whole)?;
    let extending = extend_copy(world, &opened::theme_file(world, &args.file))
        .map_err(|problems| refused(world, &problems, common))?;
    if !args.dry_run {
        opened::write(world, &extending.writes)?;
    }
    if common.format == Format::Json {
        json(&ExtendedJson {
            path: &extending.path,
            original: &extending.original,
            filled: &extending.filled,
            ends_record: extending.ends_record,
            written: !args.dry_run,
            rendered: extending.proof.rendered,
            concerned: extending.proof.concerned,
        })?;
    } else if !common.quiet {
        print(&text(args, &extending, common))?;
    }
    Ok(Outcome::Clean)
}

fn text(args: &ExtendArgs, extending: &Extending, common: &Common) -> String {
    let Extending { path, original, filled, lines, .. } = extending;
    let (path, original) = (plain(path), styled(STRONG, &plain(original)));
    let mut out = match args.dry_run {
        true => format!("{path} {} {original}\n\n", styled(NOTE, "would extend")),
        false => format!("{path} {} {original} now\n\n", styled(GOOD, "extends")),
    };
    let slots: Vec<String> = filled.iter().map(|name| plain(name)).collect();
    let _ = match slots.as_slice() {
        [] => writeln!(out, "  It is the same as the inherited file."),
        slots => writeln!(out, "  It fills {}.", slots.join(", ")),
    };
    let _ = writeln!(out, "  It has {} instead of {}.", counted(lines.1, "line", "lines"), lines.0);
    if extending.ends_record {
        out.push_str("  The record of the copy ends with it.\n");
    }
    out.push('\n');
    out.push_str(&proof::text(&extending.proof, common));
    let next = match args.dry_run {
        true => format!("hausblatt extend {}", word(&args.file)),
        false => "hausblatt undo".to_owned(),
    };
    let how = if args.dry_run { "To do it" } else { "To take it back" };
    let _ = writeln!(out, "\n{how}:  {}", to_type(&next));
    out
}
