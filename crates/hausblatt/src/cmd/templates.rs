//! `templates`: every theme file, and what an editor could choose at an address.

use std::fmt::Write;

use anstyle::Style;
use hausblatt_core::analysis::reach::Survey;
use hausblatt_core::analysis::states::states;
use hausblatt_core::change::assign::{choices, chooser};
use hausblatt_core::files::Depth;
use hausblatt_core::themes::lineage::FileId;
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use serde::Serialize;

use crate::cli::TemplatesArgs;
use crate::cmd::{json, only, print};
use crate::failure::Failure;
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{BAD, FAINT, GOOD, NOTE, STRONG, TYPED, plain, styled, to_type, word};
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
    shadows: Vec<String>,
    shadowed_by: Option<String>,
    state: &'static str,
    reason: Option<String>,
}

/// A template that content could choose, or not, as JSON.
#[derive(Serialize)]
struct ChoiceJson {
    name: String,
    label: Option<String>,
    theme: String,
    path: String,
    fits: bool,
    chosen: bool,
    reason: Option<String>,
}

/// Runs the command; false for exit code 1.
pub fn run(common: &Common, args: &TemplatesArgs) -> Result<bool, Failure> {
    only(common, &[Format::Text, Format::Json])?;
    let world = opened::open(common, Depth::Heads)?;
    if let Some(typed) = &args.for_address {
        return for_address(common, world, typed);
    }
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
    let survey = Survey::of(world);
    let counts = survey.counts(world);
    let states = states(world, &survey);
    let mut renders = vec![0; counts.len()];
    for winner in survey.answers.iter().filter_map(|(_, winner, _)| *winner) {
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
            shadows: same[at + 1..].iter().copied().map(path).collect(),
            shadowed_by: same[..at].last().copied().map(path),
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
            let covers: Vec<String> = file.shadows.iter().map(theme_of).collect();
            let covers = if covers.is_empty() { String::new() } else { format!("covers {}'s", covers.join("'s, ")) };
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
    let _ = writeln!(out, "\nWhat they wait for, or why nothing asks for them:  {}", to_type("hausblatt map --unused"));
    let _ = writeln!(out, "One file, and whom it reaches:                     {}", to_type("hausblatt reach FILE"));
    out
}

fn for_address(common: &Common, world: &World, typed: &str) -> Result<bool, Failure> {
    let id = match opened::content_file(world, typed) {
        Some(id) => id,
        None => chooser(world, typed).map_err(|fault| opened::failed(&fault))?,
    };
    let content = world.site.content(id);
    let choices: Vec<ChoiceJson> = choices(world, id)
        .into_iter()
        .map(|choice| ChoiceJson {
            chosen: content.template.as_ref().is_some_and(|(name, _)| **name == *choice.name),
            fits: choice.reason.is_none(),
            label: choice.label,
            theme: choice.theme,
            path: choice.path,
            name: choice.name,
            reason: choice.reason,
        })
        .collect();
    if common.format == Format::Json {
        json(&choices)?;
        return Ok(true);
    }
    let address = content.address.as_deref().unwrap_or(content.path());
    print(&choices_text(address, content.path(), &choices))?;
    Ok(true)
}

fn choices_text(address: &str, path: &str, choices: &[ChoiceJson]) -> String {
    let mut out = format!("{}\n", styled(STRONG, &plain(address)));
    let _ = writeln!(out, "{}\n", plain(path));
    let mut rows = Vec::new();
    for choice in choices.iter().filter(|choice| choice.fits) {
        let chosen = if choice.chosen { "chosen" } else { "" };
        let label = choice.label.clone().unwrap_or_default();
        rows.push(vec![
            (plain(&choice.name), TYPED),
            (plain(&label), Style::new()),
            (plain(&choice.theme), FAINT),
            (chosen.to_owned(), GOOD),
        ]);
    }
    if rows.is_empty() {
        out.push_str("No theme of the lineage offers a template for it.\n");
    } else {
        out.push_str("An editor can choose:\n");
        out.push_str(&table::text(&rows, 2));
    }
    let unfit: Vec<&ChoiceJson> = choices.iter().filter(|choice| !choice.fits).collect();
    if !unfit.is_empty() {
        out.push_str("\nNot to choose here:\n");
    }
    let rows: Vec<Vec<table::Cell>> = unfit
        .iter()
        .map(|choice| {
            let reason = choice.reason.as_deref().unwrap_or("");
            vec![(plain(&choice.path), Style::new()), (plain(reason), FAINT)]
        })
        .collect();
    out.push_str(&table::text(&rows, 2));
    let command = match choices.iter().find(|choice| choice.fits && !choice.chosen) {
        Some(choice) => format!("hausblatt assign {} {address}", word(&choice.name)),
        None => "hausblatt start template offered/NAME".to_owned(),
    };
    let _ = writeln!(out, "\nNext:  {}", to_type(&command));
    out
}
