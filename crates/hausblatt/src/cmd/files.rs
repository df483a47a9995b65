//! `files`: every theme file.

use std::fmt::Write;

use anstyle::Style;
use hausblatt_core::files::Depth;
use hausblatt_core::themes::lineage::FileId;
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use serde::Serialize;

use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{BAD, FAINT, GOOD, NOTE, STRONG, plain, styled, to_type};
use crate::show::table;

/// A theme file as JSON.
#[derive(Serialize)]
struct FileJson {
    path: String,
    theme: String,
    name: String,
    role: &'static str,
    renders: usize,
    reaches: usize,
    covers: Vec<String>,
    covered_by: Option<String>,
    state: &'static str,
    reason: Option<String>,
}

/// Runs the command.
pub fn run(common: &Common) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Heads)?;
    let files = files(world);
    if common.format == Format::Json {
        json(&files)?;
    } else {
        print(&text(world, &files))?;
    }
    let broken: Vec<Diagnostic> = world.problems.iter().filter(|one| one.is_error()).cloned().collect();
    Ok(opened::accept(world, &broken, common))
}

fn files(world: &World) -> Vec<FileJson> {
    let counts = world.reach_counts();
    let states = world.file_uses();
    let mut renders = vec![0; counts.len()];
    for winner in world.survey().iter().filter_map(|answer| answer.winner) {
        renders[winner.0 as usize] += 1;
    }
    let mut found = Vec::new();
    for (id, file) in world.lineage.ids() {
        let Some(state) = &states[id.0 as usize] else { continue };
        let same = world.lineage.all(&file.name);
        let at = same.iter().position(|&other| other == id).unwrap_or(0);
        let path = |id: FileId| world.lineage.file(id).node.path.to_string();
        found.push(FileJson {
            path: path(id),
            theme: world.lineage.theme_of(id).name.clone(),
            name: file.name.to_string(),
            role: file.role.word(),
            renders: renders[id.0 as usize],
            reaches: counts[id.0 as usize],
            covers: same[at + 1..].iter().copied().map(path).collect(),
            covered_by: same[..at].last().copied().map(path),
            state: state.word(),
            reason: state.reason().map(str::to_owned),
        });
    }
    found
}

fn text(world: &World, files: &[FileJson]) -> String {
    let head = ["", "state", "renders", "reaches", ""].map(|head| (head.to_owned(), FAINT));
    let mut rows: Vec<Vec<table::Cell>> = vec![head.to_vec()];
    let mut heads = Vec::new();
    for theme in &world.lineage.themes {
        heads.push((rows.len(), theme));
        for file in files.iter().filter(|file| file.theme == theme.name) {
            let style = match file.state {
                "used" => GOOD,
                "ready" => NOTE,
                _ => BAD,
            };
            let theme_of = |path: &String| path.split('/').nth(1).unwrap_or("").to_owned();
            let names: Vec<String> = file.covers.iter().map(theme_of).collect();
            let covers = if names.is_empty() { String::new() } else { format!("covers {}'s", names.join("'s, ")) };
            let count = |count: usize| if count == 0 { String::new() } else { count.to_string() };
            rows.push(vec![
                (plain(&file.name), Style::new()),
                (file.state.to_owned(), style),
                (format!("{:>7}", count(file.renders)), STRONG),
                (format!("{:>7}", count(file.reaches)), Style::new()),
                (plain(&covers), FAINT),
            ]);
        }
    }
    let lines = table::text(&rows, 2);
    let mut lines = lines.lines();
    let mut out = format!("{}\n", lines.next().unwrap_or("").trim_end());
    for (at, (from, theme)) in heads.iter().enumerate() {
        let until = heads.get(at + 1).map_or(rows.len(), |(next, _)| *next);
        let version = theme.version.as_ref().map_or(String::new(), |version| format!(" {version}"));
        let _ = writeln!(out, "{}{}", styled(STRONG, &plain(&theme.name)), plain(&version));
        lines.by_ref().take(until - from).for_each(|line| {
            let _ = writeln!(out, "{}", line.trim_end());
        });
    }
    let count = |state: &str| files.iter().filter(|file| file.state == state).count();
    let _ = writeln!(out, "\n{} used, {} ready, {} dead.", count("used"), count("ready"), count("dead"));
    let _ = writeln!(out, "\nWhat they wait for, or why nothing uses them:  {}", to_type("hausblatt map --unused"));
    let _ = writeln!(out, "One file, and what it affects:                     {}", to_type("hausblatt reach FILE"));
    out
}
