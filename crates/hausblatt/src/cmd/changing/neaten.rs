//! `neaten`: theme files written neatly, with nothing changed that is printed.

use std::fmt::Write as _;

use hausblatt_core::change::neaten::{Neatening, neaten};
use hausblatt_core::files::Depth;
use hausblatt_core::files::edit::Write;
use serde::Serialize;

use crate::cli::NeatenArgs;
use crate::cmd::changing::refused;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::difference::coloured;
use crate::show::style::{FAINT, GOOD, NOTE, STRONG, plain, styled, to_type, word};
use crate::show::table::{self, counted};

/// What was written neatly, as JSON.
#[derive(Serialize)]
struct NeatenedJson<'n> {
    written: bool,
    files: Vec<FileJson<'n>>,
    neat: usize,
    left: &'n [String],
}

#[derive(Serialize)]
struct FileJson<'n> {
    path: &'n str,
    lines: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    diff: Option<&'n str>,
}

/// Runs the command.
pub fn run(common: &Common, args: &NeatenArgs) -> Result<Outcome, Failure> {
    let open = if args.dry_run { opened::open } else { opened::open_to_write };
    let world = open(common, Depth::Whole)?;
    let typed: Vec<String> = args.files.iter().map(|typed| opened::theme_file(world, typed)).collect();
    let neatening = neaten(world, &typed).map_err(|problems| refused(world, &problems, common))?;
    if !args.dry_run {
        let writes: Vec<Write> = neatening.changed.iter().map(|one| one.write.clone()).collect();
        opened::write(world, &writes)?;
    }
    if common.format == Format::Json {
        let files = neatening.changed.iter().map(|one| FileJson {
            path: &one.write.path,
            lines: one.lines,
            diff: args.diff.then_some(one.diff.as_str()),
        });
        json(&NeatenedJson {
            written: !args.dry_run,
            files: files.collect(),
            neat: neatening.neat,
            left: &neatening.left,
        })?;
    } else if !common.quiet {
        print(&text(args, &neatening))?;
    }
    Ok(Outcome::of(!args.dry_run || neatening.changed.is_empty()))
}

fn text(args: &NeatenArgs, neatening: &Neatening) -> String {
    let Neatening { changed, neat, left } = neatening;
    let mut out = String::new();
    if changed.is_empty() {
        let all = if *neat == 1 { "The file is neat" } else { "All files are neat" };
        let _ = writeln!(
            out,
            "{}",
            if *neat == 0 { "No file was looked at.".to_owned() } else { format!("{} {all}.", styled(GOOD, "✓")) }
        );
    } else {
        let verb = if args.dry_run { styled(NOTE, "Would neaten") } else { styled(GOOD, "Neatened") };
        let _ = writeln!(out, "{verb} {}; nothing that is printed changes:\n", counted(changed.len(), "file", "files"));
        let rows: Vec<_> = changed
            .iter()
            .map(|one| vec![(plain(&one.write.path), STRONG), (counted(one.lines, "line", "lines"), FAINT)])
            .collect();
        out.push_str(&table::text(&rows, 2));
        if args.diff {
            for one in changed {
                let _ = write!(out, "\n{}", coloured(&one.diff));
            }
        }
    }
    if !left.is_empty() {
        let verb = if left.len() == 1 { "stays as it is, since it has" } else { "stay as they are, since they have" };
        let count = counted(left.len(), "file", "files");
        let _ = writeln!(out, "\n{count} {verb} an error (hausblatt check names it):");
        for path in left {
            let _ = writeln!(out, "  {}", plain(path));
        }
    }
    if !changed.is_empty() {
        let files: String = args.files.iter().map(|file| format!(" {}", word(file))).collect();
        let (how, next) = match args.dry_run {
            true => ("To do it", format!("hausblatt neaten{files}")),
            false => ("To take it back", "hausblatt undo".to_owned()),
        };
        let _ = writeln!(out, "\n{how}:  {}", to_type(&next));
    }
    out
}
