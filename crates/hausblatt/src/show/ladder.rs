//! The table of rungs and themes.

use std::fmt::Write;

use hausblatt_core::analysis::explanation::{ExplainedRung, Explanation};
use hausblatt_core::lookup::resolution::FileState;

use crate::show::style::{self, BAD, FAINT, GOOD, NOTE, columns, fitted, padded, plain, styled};

/// The width that a table is kept to where there is no terminal to ask.
const WIDTH: usize = 100;
/// The narrowest that names are cut to.
const NAME: usize = 28;

/// Draws the ladder of an address, a column for each theme. Themes whose names don't fit get letters.
pub fn table(explained: &Explanation) -> String {
    let themes: Vec<String> = explained.themes.iter().map(|theme| plain(theme)).collect();
    let width = style::width().unwrap_or(WIDTH);
    let number = explained.rungs.len().to_string().len();
    let longest = explained.rungs.iter().map(|rung| columns(&rung.name)).max().unwrap_or(0);
    let full = themes.iter().map(|name| columns(name)).max().unwrap_or(0) + 2;
    let lettered = number + 4 + longest.min(NAME) + full * themes.len() > width && themes.len() <= 26;
    let heads: Vec<String> =
        if lettered { ('a'..='z').take(themes.len()).map(String::from).collect() } else { themes.clone() };
    let cell = if lettered { 3 } else { full };
    let name = longest.min(width.saturating_sub(number + 4 + cell * themes.len()).max(NAME));
    let mut out = String::new();
    let head: String = heads.iter().map(|head| centred(head, cell)).collect();
    let rung = padded(&format!("{}  rung", " ".repeat(number)), number + 2 + name);
    let _ = writeln!(out, "{} {}", styled(FAINT, &rung), head.trim_end());
    for (at, rung) in explained.rungs.iter().enumerate() {
        let line = row(rung, themes.len(), cell);
        let label = padded(&fitted(&plain(&rung.name), name), name);
        let label = if rung.renders() { styled(style::STRONG, &label) } else { label };
        let _ = writeln!(out, "{:>number$}  {label} {}", at + 1, line.trim_end());
    }
    let indent = " ".repeat(number + 3);
    let _ = writeln!(out, "{indent}{}", styled(FAINT, &legend(explained)));
    if lettered {
        for (head, theme) in heads.iter().zip(&themes) {
            let _ = writeln!(out, "{indent}{}", styled(FAINT, &format!("{head} {theme}")));
        }
    }
    out
}

fn row(rung: &ExplainedRung, themes: usize, cell: usize) -> String {
    let mut line = String::new();
    for theme in 0..themes {
        let state = rung.of_theme(theme).map(|(_, state)| *state);
        let (sign, style) = match state {
            Some(FileState::Renders) => ("■", GOOD),
            Some(FileState::PassedOver | FileState::Covered) => ("□", style::STRONG),
            Some(FileState::Hidden) => ("×", BAD),
            Some(FileState::Unfit) => ("!", NOTE),
            None => ("·", FAINT),
        };
        line.push_str(&centred(sign, cell).replace(sign, &styled(style, sign)));
    }
    line
}

fn legend(explained: &Explanation) -> String {
    let has = |wanted: &[FileState]| {
        explained.rungs.iter().flat_map(|rung| &rung.files).any(|(_, state)| wanted.contains(state))
    };
    let parts = [
        (has(&[FileState::Renders]), "■ renders"),
        (has(&[FileState::PassedOver, FileState::Covered]), "□ passed over"),
        (has(&[FileState::Hidden]), "× hidden"),
        (has(&[FileState::Unfit]), "! does not fit"),
        (true, "· no file"),
    ];
    parts.iter().filter(|(there, _)| *there).map(|(_, words)| *words).collect::<Vec<_>>().join("   ")
}

fn centred(text: &str, width: usize) -> String {
    let space = width.saturating_sub(columns(text));
    format!("{}{text}{}", " ".repeat(space / 2), " ".repeat(space - space / 2))
}
