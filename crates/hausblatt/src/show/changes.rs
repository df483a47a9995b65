//! Addresses that another file would answer, as text and as data.

use std::fmt::Write;

use hausblatt_core::analysis::compare::{AddressChange, Side};
use serde::Serialize;

use crate::show::style::{BAD, FAINT, GOOD, NOTE, STRONG, plain, styled};
use crate::show::table::addresses;

/// How many like changes are listed one by one.
const LIKE: usize = 3;

/// An address that differs, as JSON.
#[derive(Clone, Debug, Serialize)]
pub struct ChangeJson {
    address: String,
    from: Option<SideJson>,
    to: Option<SideJson>,
    html: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    diff: Option<String>,
}

/// What answers an address, as JSON.
#[derive(Clone, Debug, Serialize)]
struct SideJson {
    template: Option<String>,
    theme: Option<String>,
    layout: Option<String>,
    status: u16,
}

/// Changes as data.
pub fn json(changes: &[AddressChange]) -> Vec<ChangeJson> {
    let side = |side: &Option<Side>| {
        side.clone().map(|Side { template, theme, layout, status }| SideJson { template, theme, layout, status })
    };
    let change = |change: &AddressChange| ChangeJson {
        address: change.address.clone(),
        from: side(&change.from),
        to: side(&change.to),
        html: change.html,
        diff: change.diff.clone(),
    };
    changes.iter().map(change).collect()
}

/// Changes in words, like ones together unless all are wanted.
pub fn text(changes: &[AddressChange], all: bool) -> String {
    let mut out = String::new();
    let mut told: Vec<&AddressChange> = Vec::new();
    for change in changes {
        let like =
            |other: &&AddressChange| other.from == change.from && other.to == change.to && other.html == change.html;
        if told.iter().any(&like) {
            continue;
        }
        let alike: Vec<&AddressChange> = changes.iter().filter(like).collect();
        let names: Vec<&str> = alike.iter().map(|change| change.address.as_str()).collect();
        if all || alike.len() <= LIKE {
            for name in names {
                let _ = writeln!(out, "  {}", styled(STRONG, &plain(name)));
            }
        } else {
            let count = addresses(alike.len());
            let _ = writeln!(out, "  {}, as {} and {}", styled(STRONG, &count), plain(names[0]), plain(names[1]));
        }
        for line in what(change) {
            let _ = writeln!(out, "      {line}");
        }
        told.push(change);
    }
    out
}

/// What becomes of an address: in a line, or two where that would be too wide.
fn what(change: &AddressChange) -> Vec<String> {
    let html = match change.html {
        Some(true) => Some(styled(NOTE, "HTML differs")),
        Some(false) => Some(styled(FAINT, "HTML is unchanged")),
        None => None,
    };
    let mut lines = match (&change.from, &change.to) {
        (None, Some(to)) => vec![format!("{} {}", styled(GOOD, "comes:"), plain(&side(to, None)))],
        (Some(from), None) => vec![format!("{} {}", styled(BAD, "goes:"), plain(&side(from, None)))],
        (Some(from), Some(to)) if from == to => vec![plain(&side(to, None))],
        (Some(from), Some(to)) => {
            let (before, after) = (plain(&side(from, Some(to))), plain(&side(to, Some(from))));
            match before.chars().count() + after.chars().count() < 66 {
                true => vec![format!("{before} → {after}")],
                false => vec![before, format!("→ {after}")],
            }
        }
        (None, None) => Vec::new(),
    };
    match (html, lines.last_mut()) {
        (Some(html), Some(last)) if last.chars().count() < 50 => {
            last.push_str(&format!(", {html}"));
            lines
        }
        (Some(html), _) => {
            lines.push(html);
            lines
        }
        (None, _) => lines,
    }
}

/// A file, and of layout and status what differs from the other side.
fn side(side: &Side, other: Option<&Side>) -> String {
    let redirects = |side: &Side| (300..400).contains(&side.status);
    let mut out = match (&side.template, &side.theme) {
        (Some(template), Some(theme)) => format!("{template} ({theme})"),
        _ if redirects(side) => "a redirect".to_owned(),
        _ => "no file".to_owned(),
    };
    if other.is_some_and(|other| other.layout != side.layout && !redirects(other) && !redirects(side)) {
        out.push_str(&side.layout.as_ref().map_or(", no layout".to_owned(), |layout| format!(" in {layout}")));
    }
    if side.status >= 400 || other.is_some_and(|other| other.status != side.status) {
        out.push_str(&format!(", {}", side.status));
    }
    out
}
