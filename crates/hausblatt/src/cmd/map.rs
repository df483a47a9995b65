//! `map`: every address and its file.

use std::fmt::Write;

use glob::{MatchOptions, Pattern};
use hausblatt_core::files::Depth;
use hausblatt_core::lookup::map::{MapEntry, map};
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use serde::Serialize;

use crate::cli::{By, MapArgs};
use crate::cmd::{json, only, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{self, BAD, FAINT, NOTE, STRONG, columns, fitted, padded, plain, styled, to_type};
use crate::show::table;
use crate::show::wrap::wrapped_behind;

/// Runs the command.
pub fn run(common: &Common, args: &MapArgs) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Heads)?;
    if args.unused {
        return unused(common, world);
    }
    let mut entries = map(world);
    entries.retain(|entry| args.kind.is_none() || args.kind.as_deref() == entry.kind);
    if let Some(glob) = &args.template {
        let fits = fits(glob)?;
        entries.retain(|entry| entry.template.as_deref().is_some_and(&fits));
    }
    match (args.by, common.format) {
        (Some(By::Template), Format::Json) => json(&groups(&entries))?,
        (Some(By::Template), Format::Text) => print(&groups_text(&groups(&entries), common.verbose))?,
        (Some(By::Template), Format::Csv | Format::Sarif) => only(common, &[Format::Text, Format::Json])?,
        (None, Format::Json) => json(&entries)?,
        (None, Format::Csv) => print(&csv(&entries))?,
        (None, Format::Text) => print(&text(&entries))?,
        (None, Format::Sarif) => only(common, &[Format::Text, Format::Json, Format::Csv])?,
    }
    let errors: Vec<Diagnostic> = world.problems.iter().filter(|problem| problem.is_error()).cloned().collect();
    Ok(opened::accept(world, &errors, common))
}

/// Whether a template's name, with or without its extension, fits a pattern; only `**` goes through folders.
fn fits(pattern: &str) -> Result<impl Fn(&str) -> bool, Failure> {
    let matcher = Pattern::new(pattern).map_err(|error| {
        let message = format!("\"{pattern}\" is not a valid pattern: {}", error.msg);
        Failure::usage(message, "write it as in --template \"entry/**\", or \"page*.html\"")
    })?;
    let options = MatchOptions { require_literal_separator: true, ..MatchOptions::new() };
    Ok(move |name: &str| {
        let stem = name.rsplit_once('.').map_or(name, |(stem, _)| stem);
        matcher.matches_with(name, options) || matcher.matches_with(stem, options)
    })
}

/// The addresses that one template renders, as JSON.
#[derive(Serialize)]
struct Group {
    template: Option<String>,
    theme: Option<String>,
    count: usize,
    addresses: Vec<String>,
}

/// The most used first; what redirects is left out.
fn groups(entries: &[MapEntry]) -> Vec<Group> {
    let mut groups: Vec<Group> = Vec::new();
    for entry in entries.iter().filter(|entry| entry.location.is_none()) {
        let same = |group: &&mut Group| group.template == entry.template && group.theme == entry.theme;
        match groups.iter_mut().find(same) {
            Some(group) => group.addresses.push(entry.address.clone()),
            None => groups.push(Group {
                template: entry.template.clone(),
                theme: entry.theme.clone(),
                count: 0,
                addresses: vec![entry.address.clone()],
            }),
        }
    }
    groups.iter_mut().for_each(|group| group.count = group.addresses.len());
    groups.sort_by(|a, b| b.count.cmp(&a.count).then_with(|| a.template.cmp(&b.template)));
    groups
}

fn groups_text(groups: &[Group], all: bool) -> String {
    let mut out = String::new();
    for group in groups {
        let name = group.template.as_deref().unwrap_or("built in");
        let theme = group.theme.as_ref().map_or(String::new(), |theme| format!("  {theme}"));
        let _ = writeln!(out, "{:>5}  {}{}", group.count, styled(STRONG, &plain(name)), styled(FAINT, &plain(&theme)));
        let most = if all { usize::MAX - 1 } else { 4 };
        out.push_str(&table::some(group.addresses.iter().map(String::as_str), most, 7));
    }
    out
}

/// A file that no address uses, as JSON.
#[derive(Serialize)]
struct Unused {
    path: String,
    theme: String,
    name: String,
    role: &'static str,
    state: &'static str,
    reason: String,
}

fn unused(common: &Common, world: &World) -> Result<Outcome, Failure> {
    let states = world.file_uses();
    let files = world.lineage.ids().filter_map(|(id, file)| {
        let state = states[id.0 as usize].as_ref()?;
        Some(Unused {
            path: file.node.path.to_string(),
            theme: world.lineage.theme_of(id).name.clone(),
            name: file.name.to_string(),
            role: file.role.word(),
            state: state.word(),
            reason: state.reason()?.to_owned(),
        })
    });
    let files: Vec<Unused> = files.collect();
    match common.format {
        Format::Json => json(&files)?,
        Format::Text => print(&unused_text(world, &files))?,
        Format::Csv | Format::Sarif => only(common, &[Format::Text, Format::Json])?,
    }
    Ok(Outcome::Clean)
}

fn unused_text(world: &World, files: &[Unused]) -> String {
    let (dead, ready): (Vec<&Unused>, Vec<&Unused>) = files.iter().partition(|file| file.state == "dead");
    let mut out = String::new();
    let mut list = |head: &str, files: &[&Unused], waits: &str| {
        if files.is_empty() {
            return;
        }
        let _ = writeln!(out, "{}", styled(STRONG, head));
        for file in files {
            let _ = writeln!(out, "  {}", plain(&file.path));
            let _ = writeln!(out, "{}", wrapped_behind(&plain(&format!("{waits}{}", file.reason)), 6, FAINT));
        }
        out.push('\n');
    };
    list("ready: a request or an editor could use it", &ready, "waits for ");
    list("dead: nothing can use it", &dead, "");
    if files.is_empty() {
        return "Every file is used by some address.\n".to_owned();
    }
    let next = format!("One of them, and what calls it:  {}", to_type("hausblatt reach FILE"));
    if dead.is_empty() {
        let _ = writeln!(out, "{} ready, none dead.\n\n{next}", ready.len());
        return out;
    }
    let active = &world.lineage.active().name;
    let _ = writeln!(
        out,
        "{} ready, {} dead. Deleting the dead changes nothing as long as {} is the theme.",
        ready.len(),
        dead.len(),
        plain(active)
    );
    let _ = writeln!(out, "\n{next}");
    out
}

fn csv(entries: &[MapEntry]) -> String {
    let mut out = String::from("address,status,location,kind,content,template,theme,layout\r\n");
    for entry in entries {
        let status = entry.status.to_string();
        let text = |value: &Option<String>| value.clone().unwrap_or_default();
        let cells = [
            entry.address.clone(),
            status,
            text(&entry.location),
            entry.kind.unwrap_or_default().to_owned(),
            text(&entry.content),
            text(&entry.template),
            text(&entry.theme),
            text(&entry.layout),
        ];
        let cells: Vec<String> = cells.iter().map(|cell| quoted(cell)).collect();
        let _ = write!(out, "{}\r\n", cells.join(","));
    }
    out
}

/// A cell as in RFC 4180.
fn quoted(cell: &str) -> String {
    if cell.contains([',', '"', '\n', '\r']) { format!("\"{}\"", cell.replace('"', "\"\"")) } else { cell.to_owned() }
}

fn text(entries: &[MapEntry]) -> String {
    let rows: Vec<[String; 4]> = entries.iter().map(row).collect();
    let mut widths: [usize; 4] =
        std::array::from_fn(|column| rows.iter().map(|row| columns(&row[column])).max().unwrap_or(0));
    if let Some(width) = style::width() {
        narrow(&mut widths, width.saturating_sub(3 + 4 * 2));
    }
    let mut out = String::new();
    for (row, entry) in rows.iter().zip(entries) {
        let cell = |at: usize| padded(&fitted(&row[at], widths[at]), widths[at]);
        let status = match entry.status {
            200..=299 => styled(FAINT, &entry.status.to_string()),
            300..=399 => styled(NOTE, &entry.status.to_string()),
            _ => styled(BAD, &entry.status.to_string()),
        };
        let line =
            format!("{}  {status}  {}  {}  {}", styled(STRONG, &cell(0)), cell(1), cell(2), fitted(&row[3], widths[3]));
        let _ = writeln!(out, "{}", line.trim_end());
    }
    out
}

fn row(entry: &MapEntry) -> [String; 4] {
    let template = match (&entry.location, &entry.template) {
        (Some(to), _) => format!("→ {to}"),
        (None, Some(template)) => template.clone(),
        (None, None) => "built in".to_owned(),
    };
    [
        plain(&entry.address),
        entry.kind.unwrap_or("").to_owned(),
        plain(&template),
        plain(entry.theme.as_deref().unwrap_or("")),
    ]
}

/// Takes what is too wide from the addresses and the templates.
fn narrow(widths: &mut [usize; 4], width: usize) {
    let over = widths.iter().sum::<usize>().saturating_sub(width);
    let from_template = (over / 2).min(widths[2].saturating_sub(16));
    widths[2] -= from_template;
    widths[0] -= (over - from_template).min(widths[0].saturating_sub(16));
}
