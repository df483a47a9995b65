//! Which file made which part of a page, as a tree.

use std::fmt::Write;

use hausblatt_core::render::outline::OutlinePart;

use crate::show::style::{FAINT, STRONG, columns, padded, plain, styled};

/// The parts of a page in words: lines, bytes, files.
pub fn text(address: &str, status: u16, parts: &[OutlinePart]) -> String {
    let mut rows = Vec::new();
    collect(parts, 0, &mut rows);
    let mut out = format!("{}  →  {status}\n\n", styled(STRONG, &plain(address)));
    if rows.is_empty() {
        out.push_str("No file of a theme made this answer.\n");
        return out;
    }
    let widest = |column: fn(&PartRow) -> &String| rows.iter().map(|row| columns(column(row))).max().unwrap_or(0);
    let (lines, bytes) = (widest(|row| &row.lines).max(5), widest(|row| &row.bytes).max(5));
    let _ = writeln!(out, "{}  {}  file", padded("lines", lines), padded("bytes", bytes));
    for row in &rows {
        let count = if row.count > 1 { styled(FAINT, &format!("  ×{}", row.count)) } else { String::new() };
        let name = format!("{}{}", "  ".repeat(row.depth), plain(&row.path));
        let _ = writeln!(out, "{}  {:>bytes$}  {name}{count}", padded(&row.lines, lines), row.bytes);
    }
    out
}

struct PartRow {
    lines: String,
    bytes: String,
    path: String,
    depth: usize,
    count: usize,
}

/// A row for each part; parts of one file that follow one another and hold no others are one row.
fn collect(parts: &[OutlinePart], depth: usize, rows: &mut Vec<PartRow>) {
    let mut at = 0;
    while let Some(part) = parts.get(at) {
        let alike = |other: &&OutlinePart| other.path == part.path && other.parts.is_empty() && part.parts.is_empty();
        let run = &parts[at..at + parts[at..].iter().take_while(alike).count().max(1)];
        let end = run.last().map_or(part.end, |last| last.end);
        let bytes: usize = run.iter().map(|part| part.bytes).sum();
        let lines = if end == part.line { end.to_string() } else { format!("{}–{end}", part.line) };
        rows.push(PartRow { lines, bytes: bytes.to_string(), path: part.path.clone(), depth, count: run.len() });
        collect(&part.parts, depth + 1, rows);
        at += run.len();
    }
}
