//! Rows of cells in columns, fitted to the terminal.

use anstyle::Style;

use crate::show::style::{self, columns, fitted, padded, styled};

/// A cell and how it looks.
pub type Cell = (String, Style);

/// The narrowest that a cell is cut to.
const NARROW: usize = 16;
/// What is between two columns.
const GAP: usize = 2;

/// Rows in columns as wide as their widest cells, after an indent. On a terminal that is too narrow for them, the
/// widest columns give.
pub fn text(rows: &[Vec<Cell>], indent: usize) -> String {
    let count = rows.iter().map(Vec::len).max().unwrap_or(0);
    let cell = |row: &Vec<Cell>, column: usize| row.get(column).map_or(0, |(text, _)| columns(text));
    let mut widths: Vec<usize> =
        (0..count).map(|column| rows.iter().map(|row| cell(row, column)).max().unwrap_or(0)).collect();
    if let Some(width) = style::width() {
        let room = width.saturating_sub(indent + GAP * count.saturating_sub(1));
        while widths.iter().sum::<usize>() > room {
            let Some(widest) = widths.iter_mut().filter(|width| **width > NARROW).max() else { break };
            *widest -= 1;
        }
    }
    let mut out = String::new();
    for row in rows {
        let mut line = " ".repeat(indent);
        for (column, (text, style)) in row.iter().enumerate() {
            let text = fitted(text, widths[column]);
            let last = row[column + 1..].iter().all(|(text, _)| text.is_empty());
            let filled = if last { text.clone() } else { padded(&text, widths[column]) };
            // Spaces after a text need no style.
            line.push_str(&styled(*style, &text));
            line.push_str(&filled[text.len()..]);
            if last {
                break;
            }
            line.push_str(&" ".repeat(GAP));
        }
        out.push_str(&line);
        out.push('\n');
    }
    out
}

/// `1 address`, `2 addresses`.
pub fn counted(count: usize, one: &str, many: &str) -> String {
    if count == 1 { format!("1 {one}") } else { format!("{count} {many}") }
}

/// `1 address`, `2 addresses`.
pub fn addresses(count: usize) -> String {
    counted(count, "address", "addresses")
}

/// Some of many, in a line or several of at most 80 columns; how many are left out is said.
pub fn some<'t>(things: impl ExactSizeIterator<Item = &'t str>, most: usize, indent: usize) -> String {
    let count = things.len();
    let shown = if count <= most + 1 { count } else { most };
    let mut out = " ".repeat(indent);
    let mut column = indent;
    for thing in things.take(shown) {
        let thing = style::plain(thing);
        let width = columns(&thing) + 2;
        if column > indent && column + width > 80 {
            out.truncate(out.trim_end().len());
            out.push('\n');
            out.push_str(&" ".repeat(indent));
            column = indent;
        }
        out.push_str(&thing);
        out.push_str("  ");
        column += width;
    }
    let mut out = out.trim_end().to_owned();
    if count > shown {
        out.push_str(&format!("\n{}and {} more", " ".repeat(indent), count - shown));
    }
    out.push('\n');
    out
}
