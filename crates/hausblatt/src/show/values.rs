//! Values on a terminal: what each is, and as much of it as fits.

use std::fmt::Write;

use hausblatt_lang::value::dump::Described;

use crate::show::style::{self, FAINT, STRONG, columns, padded, plain, styled};

/// The width without a terminal.
const WIDTH: usize = 100;

/// All global values; those that are `nothing` in one line at the end.
pub fn all(values: &[(String, Described)]) -> String {
    let mut out = String::new();
    let (absent, present): (Vec<_>, Vec<_>) = values.iter().partition(|(_, value)| value.kind == "nothing");
    for (name, value) in present {
        line(&mut out, 0, name, name.len(), value);
        // The members of lists would fill the screen; one of them is shown when it is requested.
        if !value.members.iter().any(|(name, member)| name == "0" && !member.members.is_empty()) {
            members(&mut out, 1, &opened_once(value));
        }
    }
    if !absent.is_empty() {
        let names: Vec<&str> = absent.iter().map(|(name, _)| name.as_str()).collect();
        let _ = writeln!(out, "{}", styled(FAINT, &format!("nothing here: {}", names.join(", "))));
    }
    out
}

/// A value without its members' members.
fn opened_once(value: &Described) -> Described {
    let closed = |member: &Described| Described { members: Vec::new(), more: 0, ..member.clone() };
    let members = value.members.iter().map(|(name, member)| (name.clone(), closed(member))).collect();
    Described { members, ..value.clone() }
}

/// One value.
pub fn one(value: &Described) -> String {
    let mut out = String::new();
    let _ = match &value.text {
        Some(text) => writeln!(out, "{}  {}", shown(text, value, usize::MAX), styled(FAINT, &value.kind)),
        None => writeln!(out, "{}", value.kind),
    };
    members(&mut out, 1, value);
    out
}

fn members(out: &mut String, depth: usize, value: &Described) {
    let widest = value.members.iter().map(|(name, _)| columns(name)).max().unwrap_or(0).min(16);
    for (name, member) in value.members.iter().filter(|(_, member)| member.kind != "nothing") {
        line(out, depth, name, widest, member);
        members(out, depth + 1, member);
    }
    if value.more > 0 {
        let _ = writeln!(out, "{}{}", "  ".repeat(depth), styled(FAINT, &format!("… and {} more", value.more)));
    }
}

fn line(out: &mut String, depth: usize, name: &str, widest: usize, value: &Described) {
    let indent = "  ".repeat(depth);
    let name = padded(&plain(name), widest);
    let name = if depth == 0 { styled(STRONG, &name) } else { name };
    // What is in quotes is seen to be a text, and a number to be one.
    let plain_kind = matches!(value.kind.as_str(), "a text" | "a number" | "true or false");
    let kind = if plain_kind { String::new() } else { plain(&value.kind) };
    let left = style::width().unwrap_or(WIDTH).saturating_sub(indent.len() + widest + columns(&kind) + 6);
    let behind = if kind.is_empty() { String::new() } else { format!("  {}", styled(FAINT, &kind)) };
    let _ = match &value.text {
        Some(text) => writeln!(out, "{indent}{name}  {}{behind}", shown(text, value, left.max(12))),
        None => writeln!(out, "{indent}{name}{behind}"),
    };
}

/// A text in quotes, cut to `width` columns; other values as they print.
fn shown(text: &str, value: &Described, width: usize) -> String {
    let flat: String = text.chars().map(|c| if c == '\n' { '⏎' } else { c }).collect();
    let mut cut: String = flat.chars().take(width).collect();
    if cut.len() < flat.len() {
        cut.pop();
        cut.push('…');
    }
    let cut = plain(&cut);
    if matches!(value.kind.as_str(), "a text" | "HTML" | "a record") { format!("\"{cut}\"") } else { cut }
}
