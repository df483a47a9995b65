//! `extract`: lines of a theme file that become a partial, or a slot with a default.

use std::fmt::Write as _;
use std::ops::RangeInclusive;

use hausblatt_core::change::extract::{Becomes, Extraction, Wanted, extract};
use hausblatt_core::files::Depth;
use serde::Serialize;

use crate::cli::{self, ExtractArgs};
use crate::cmd::changing::refused;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::proof;
use crate::show::style::{GOOD, NOTE, STRONG, plain, styled, to_type, word};

/// What was extracted, as JSON.
#[derive(Serialize)]
struct ExtractedJson<'e> {
    path: &'e str,
    partial: Option<&'e str>,
    given: &'e [String],
    call: &'e str,
    written: bool,
    rendered: usize,
    concerned: usize,
}

/// Runs the command.
pub fn run(common: &Common, args: &ExtractArgs) -> Result<Outcome, Failure> {
    let (file, lines) = lines(&args.lines)?;
    let open = if args.dry_run { opened::open } else { opened::open_to_write };
    let world = open(common, Depth::Whole)?;
    let file = opened::theme_file(world, file);
    let becomes = match args.becomes {
        cli::Becomes::Partial => Becomes::Partial,
        cli::Becomes::Slot => Becomes::Slot,
    };
    let extraction = extract(world, &Wanted { file: &file, lines, name: &args.name, becomes })
        .map_err(|problems| refused(world, &problems, common))?;
    if !args.dry_run {
        opened::write(world, &extraction.writes)?;
    }
    if common.format == Format::Json {
        json(&ExtractedJson {
            path: &extraction.path,
            partial: extraction.partial.as_deref(),
            given: &extraction.given,
            call: &extraction.call,
            written: !args.dry_run,
            rendered: extraction.proof.rendered,
            concerned: extraction.proof.concerned,
        })?;
    } else if !common.quiet {
        print(&text(args, &extraction, common))?;
    }
    Ok(Outcome::Clean)
}

/// A file and its lines, as they are typed.
fn lines(typed: &str) -> Result<(&str, RangeInclusive<usize>), Failure> {
    let parted = typed.rsplit_once(':').and_then(|(file, lines)| {
        let (from, to) = lines.split_once('-').unwrap_or((lines, lines));
        let (from, to): (usize, usize) = (from.parse().ok()?, to.parse().ok()?);
        (!file.is_empty() && from > 0 && from <= to).then_some((file, from..=to))
    });
    let help = "write the file and its lines, as in partials/card:3-9";
    parted.ok_or_else(|| Failure::usage(format!("\"{typed}\" names no lines of a file"), help))
}

fn text(args: &ExtractArgs, extraction: &Extraction, common: &Common) -> String {
    let verb = if args.dry_run { styled(NOTE, "Would extract") } else { styled(GOOD, "Extracted") };
    let what = match &extraction.partial {
        Some(_) => format!("the partial {}", styled(STRONG, &plain(&args.name))),
        None => format!("the slot {}", styled(STRONG, &plain(&args.name))),
    };
    let mut out = format!("{verb} {what}\n\n");
    if let Some(partial) = &extraction.partial {
        let _ = writeln!(out, "  {}", styled(STRONG, &plain(partial)));
    }
    let call = extraction.call.lines().next().unwrap_or("");
    let _ = writeln!(out, "  {}\n    {}\n", plain(&extraction.path), plain(call));
    out.push_str(&proof::text(&extraction.proof, common));
    let next = match args.dry_run {
        true => {
            let becomes = if extraction.partial.is_none() { " --as slot" } else { "" };
            format!("hausblatt extract {} {}{becomes}", word(&args.lines), word(&args.name))
        }
        false => "hausblatt undo".to_owned(),
    };
    let how = if args.dry_run { "To do it" } else { "To take it back" };
    let _ = writeln!(out, "\n{how}:  {}", to_type(&next));
    out
}
