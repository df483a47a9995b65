//! `missed`: addresses requested but not found, from a web server's log or a list.

use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::fs::File;
use std::io::{self, BufRead, BufReader, Read};

use flate2::read::MultiGzDecoder;
use hausblatt_core::analysis::missed::{Missed, has_no_address, is_file, missed, read_line};
use hausblatt_core::change::former::{fixes, line};
use hausblatt_core::files::Depth;
use hausblatt_core::text::address::asked;
use hausblatt_core::world::World;
use serde::Serialize;

use crate::cli::MissedArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{FAINT, GOOD, STRONG, plain, styled, to_type, word};
use crate::show::table::{addresses, counted};
use crate::show::wrap::hanging;

/// So many addresses are shown without `-v`.
const MOST: usize = 25;
/// A line that is longer is none of an access log; the rest of it is skipped.
const LONGEST: u64 = 64 << 10;
/// So many different addresses are counted; robots that try names out must not fill the memory.
const DIFFERENT: usize = 200_000;

/// An address requested but not found, as JSON.
#[derive(Serialize)]
struct MissedJson {
    address: String,
    count: u64,
    nearest: Vec<Near>,
    content: Option<String>,
    line: Option<String>,
}

#[derive(Serialize)]
struct Near {
    address: String,
    title: String,
}

/// What was read.
#[derive(Default)]
struct Counted {
    counts: BTreeMap<String, u64>,
    lines: u64,
    unread: u64,
    /// The first of them.
    shown: Vec<String>,
    without_address: u64,
    robots: u64,
    files: u64,
    /// Addresses that were requested more seldom than those that are shown.
    seldom: usize,
}

/// How many lines that are none of a log are shown with `-v`, and how many characters of each.
const SHOWN: usize = 10;
const WIDEST: usize = 76;

/// Runs the command.
pub fn run(common: &Common, args: &MissedArgs) -> Result<Outcome, Failure> {
    let world = match args.fix {
        true => opened::open_to_write(common, Depth::Whole)?,
        false => opened::open(common, Depth::Heads)?,
    };
    let mut counted = Counted::default();
    for log in &args.logs {
        let failed = |error: io::Error| Failure::Work(format!("{log} can't be read: {error}"), None);
        let source: Box<dyn Read> =
            if log == "-" { Box::new(io::stdin()) } else { Box::new(File::open(log).map_err(failed)?) };
        count(unpacked(source).map_err(failed)?, args.all, &mut counted).map_err(failed)?;
    }
    if counted.lines > 0 && counted.unread == counted.lines {
        let help = "it takes the common and the combined format of access logs, or an address in each line";
        return Err(Failure::Work("no line of this is one of an access log".to_owned(), Some(help.to_owned())));
    }
    let (found, seldom) = missed(world, &counted.counts);
    if common.format == Format::Json {
        json(&found.iter().map(|missed| as_json(world, missed)).collect::<Vec<_>>())?;
    } else {
        counted.seldom = seldom;
        print(&text(world, args, &found, &counted, common))?;
    }
    let (writes, problems) = if args.fix { fixes(world, &found) } else { Default::default() };
    if args.fix {
        opened::write(world, &writes)?;
        if !common.quiet {
            let done = styled(GOOD, "Wrote");
            crate::tell!("{done} {}", counted_files(writes.len()));
            writes.iter().for_each(|write| crate::tell!("  {}", plain(&write.path)));
        }
    }
    Ok(opened::accept(world, &problems, common))
}

fn counted_files(count: usize) -> String {
    format!("formerly in {}", counted(count, "content file", "content files"))
}

/// The text of a log, unpacked if it is packed with gzip.
fn unpacked(mut source: Box<dyn Read>) -> io::Result<Box<dyn BufRead>> {
    let mut start = [0; 2];
    let mut length = 0;
    while length < 2 {
        match source.read(&mut start[length..])? {
            0 => break,
            read => length += read,
        }
    }
    let whole = io::Cursor::new(start[..length].to_vec()).chain(source);
    Ok(if start == [0x1f, 0x8b] {
        Box::new(BufReader::new(MultiGzDecoder::new(whole)))
    } else {
        Box::new(BufReader::new(whole))
    })
}

fn count(mut source: Box<dyn BufRead>, all: bool, counted: &mut Counted) -> io::Result<()> {
    let mut bytes = Vec::new();
    loop {
        bytes.clear();
        if source.by_ref().take(LONGEST).read_until(b'\n', &mut bytes)? == 0 {
            return Ok(());
        }
        if bytes.len() as u64 == LONGEST && bytes.last() != Some(&b'\n') {
            skip_line(&mut *source)?;
        }
        let text = String::from_utf8_lossy(&bytes);
        if text.trim().is_empty() || text.starts_with('#') {
            continue;
        }
        counted.lines += 1;
        let Some(line) = read_line(&text) else {
            if has_no_address(&text) {
                counted.without_address += 1;
            } else {
                counted.unread += 1;
                if counted.shown.len() < SHOWN {
                    counted.shown.push(text.trim_end().chars().take(WIDEST).collect());
                }
            }
            continue;
        };
        if !matches!(line.status, None | Some(404 | 410)) {
            continue;
        }
        if line.by_robot && !all {
            counted.robots += 1;
        } else if is_file(&line.address) && !all {
            counted.files += 1;
        } else {
            let path = asked(&line.address).path;
            if counted.counts.len() < DIFFERENT || counted.counts.contains_key(&path) {
                *counted.counts.entry(path).or_default() += 1;
            }
        }
    }
}

/// Reads on to the end of a line without keeping it.
fn skip_line(source: &mut dyn BufRead) -> io::Result<()> {
    loop {
        let (used, ended) = {
            let buffer = source.fill_buf()?;
            match buffer.iter().position(|&byte| byte == b'\n') {
                Some(at) => (at + 1, true),
                None => (buffer.len(), buffer.is_empty()),
            }
        };
        source.consume(used);
        if ended {
            return Ok(());
        }
    }
}

fn as_json(world: &World, missed: &Missed) -> MissedJson {
    MissedJson {
        address: missed.address.clone(),
        count: missed.count,
        nearest: missed
            .nearest
            .iter()
            .map(|(address, title)| Near { address: address.clone(), title: title.clone() })
            .collect(),
        content: missed.meant.map(|id| world.site.content(id).path().to_string()),
        line: missed.meant.map(|_| line(&missed.address)),
    }
}

fn text(world: &World, args: &MissedArgs, found: &[Missed], counted: &Counted, common: &Common) -> String {
    let mut out = String::new();
    let most = if common.verbose { usize::MAX } else { MOST };
    for missed in found.iter().take(most) {
        let times = if missed.count == 1 { "once".to_owned() } else { format!("{} times", missed.count) };
        let _ = writeln!(out, "{}  {}", styled(STRONG, &plain(&missed.address)), styled(FAINT, &times));
        match (missed.meant, missed.nearest.as_slice()) {
            (Some(id), _) => {
                let content = world.site.content(id);
                let _ = writeln!(out, "    now   {}", plain(content.address.as_deref().unwrap_or("")));
                let _ = writeln!(
                    out,
                    "    write {} in {}",
                    styled(STRONG, &plain(&line(&missed.address))),
                    plain(content.path())
                );
            }
            (None, []) => out.push_str("    no similar address\n"),
            (None, near) => {
                let near: Vec<String> = near.iter().take(3).map(|(address, _)| plain(address)).collect();
                let _ = writeln!(out, "    near  {}", near.join("\n          "));
            }
        }
    }
    if common.quiet {
        return out;
    }
    if found.len() > most {
        let _ = writeln!(out, "and {} more; -v shows all", found.len() - most);
    }
    if counted.seldom > 0 {
        let _ = writeln!(out, "and {} requested less often", addresses(counted.seldom));
    }
    if found.is_empty() {
        let _ = writeln!(out, "{} Every requested address exists.", styled(GOOD, "✓"));
    } else {
        let total: u64 = found.iter().map(|missed| missed.count).sum();
        let asked = counted_times(total);
        let _ = writeln!(out, "\n{} not found, {asked} in all.", addresses(found.len()));
    }
    let left = [
        (counted.robots, "request of robots", "requests of robots"),
        (counted.files, "request for files", "requests for files"),
        (counted.without_address, "line without an address", "lines without an address"),
        (counted.unread, "line that is not of an access log", "lines that are not of an access log"),
    ];
    let left: Vec<String> = left
        .iter()
        .filter(|(count, ..)| *count > 0)
        .map(|(count, one, many)| self::counted(*count as usize, one, many))
        .collect();
    if !left.is_empty() {
        let all = if counted.robots + counted.files > 0 { "; --all counts robots and files" } else { "" };
        let words = format!("Left out: {}{all}.", left.join(", "));
        let _ = writeln!(out, "{}", styled(FAINT, &hanging(&words, 0)));
    }
    if common.verbose {
        for line in &counted.shown {
            let _ = writeln!(out, "  {}", styled(FAINT, &plain(line)));
        }
    }
    let can = found.iter().filter(|missed| missed.meant.is_some()).count();
    if can > 0 && !args.fix {
        let logs: Vec<String> = args.logs.iter().map(|log| word(&plain(log))).collect();
        let command = to_type(&format!("hausblatt missed --fix {}", logs.join(" ")));
        let _ = writeln!(out, "To redirect {} of them:  {command}", can);
    }
    out
}

fn counted_times(count: u64) -> String {
    if count == 1 { "once".to_owned() } else { format!("{count} times") }
}
