//! `map`: every address and its file.

use std::fmt::Write;

use hausblatt_core::map::{MapEntry, map};
use hausblatt_core::snapshot::Depth;
use hausblatt_lang::diagnostic::Diagnostic;

use crate::cli::{Common, Format, MapArgs};
use crate::cmd::{json, print};
use crate::failure::Failure;
use crate::opened;
use crate::show::style::{self, BAD, FAINT, NOTE, STRONG, columns, fitted, padded, plain, styled};

/// Runs the command; false for exit code 1.
pub fn run(common: &Common, args: &MapArgs) -> Result<bool, Failure> {
    let world = opened::open(common, Depth::Heads)?;
    let mut entries = map(world);
    entries.retain(|entry| args.kind.is_none() || args.kind.as_deref() == entry.kind);
    match common.format {
        Format::Json => json(&entries)?,
        Format::Csv => print(&csv(&entries))?,
        Format::Text => print(&text(&entries))?,
    }
    let errors: Vec<Diagnostic> = world.problems.iter().filter(|problem| problem.is_error()).cloned().collect();
    Ok(opened::accept(world, &errors, common))
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
