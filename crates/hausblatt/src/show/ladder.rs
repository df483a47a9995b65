//! The table of rungs and themes.

use std::fmt::Write;

use hausblatt_core::resolution::{FileState, Resolution, ResolvedRung};
use hausblatt_core::world::World;

use crate::show::style::{self, BAD, FAINT, GOOD, NOTE, columns, fitted, padded, plain, styled};

/// Draws the ladder of a resolution, a column for each theme.
pub fn table(world: &World, resolution: &Resolution) -> String {
    let themes: Vec<String> = world.lineage.themes.iter().map(|theme| plain(&theme.name)).collect();
    let cell = themes.iter().map(|name| columns(name)).max().unwrap_or(0) + 2;
    let number = resolution.rungs.len().to_string().len();
    let longest = resolution.rungs.iter().map(|rung| columns(&rung.rung.name)).max().unwrap_or(0);
    let room =
        style::width().map_or(usize::MAX, |width| width.saturating_sub(number + 4 + cell * themes.len()).max(20));
    let name = longest.min(room);
    let mut out = String::new();
    let heads: String = themes.iter().map(|theme| centred(theme, cell)).collect();
    let _ = writeln!(
        out,
        "{} {}",
        styled(FAINT, &padded(&format!("{}  rung", " ".repeat(number)), number + 2 + name)),
        heads.trim_end()
    );
    for (at, rung) in resolution.rungs.iter().enumerate() {
        let line = row(world, rung, themes.len(), cell);
        let label = padded(&fitted(&plain(&rung.rung.name), name), name);
        let wins = rung.files.iter().any(|(_, state)| *state == FileState::Renders);
        let label = if wins { styled(style::STRONG, &label) } else { label };
        let _ = writeln!(out, "{:>number$}  {label} {}", at + 1, line.trim_end());
    }
    let legend = legend(resolution);
    let _ = writeln!(out, "{}{}", " ".repeat(number + 3), styled(FAINT, &legend));
    out
}

fn row(world: &World, rung: &ResolvedRung, themes: usize, cell: usize) -> String {
    let mut line = String::new();
    for theme in 0..themes {
        let state = rung.files.iter().find(|(id, _)| world.lineage.file(*id).theme == theme).map(|(_, state)| *state);
        let (sign, style) = match state {
            Some(FileState::Renders) => ("■", GOOD),
            Some(FileState::PassedOver | FileState::Shadowed) => ("□", style::STRONG),
            Some(FileState::Hidden) => ("×", BAD),
            Some(FileState::Unfit) => ("!", NOTE),
            None => ("·", FAINT),
        };
        line.push_str(&centred(sign, cell).replace(sign, &styled(style, sign)));
    }
    line
}

fn legend(resolution: &Resolution) -> String {
    let has = |wanted: &[FileState]| {
        resolution.rungs.iter().flat_map(|rung| &rung.files).any(|(_, state)| wanted.contains(state))
    };
    let parts = [
        (has(&[FileState::Renders]), "■ renders"),
        (has(&[FileState::PassedOver, FileState::Shadowed]), "□ stands, not used"),
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
