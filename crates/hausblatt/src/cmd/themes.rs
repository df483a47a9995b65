//! `themes`: the active theme and its ancestors, and the other themes.

use std::fmt::Write;

use hausblatt_core::files::Depth;
use hausblatt_core::themes::theme::{self, Theme};
use hausblatt_core::world::World;
use serde::Serialize;

use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{FAINT, STRONG, plain, to_type, word};
use crate::show::table;

/// A theme as JSON.
#[derive(Serialize)]
struct ThemeJson {
    name: String,
    version: Option<String>,
    about: Option<String>,
    parent: Option<String>,
    path: String,
    in_lineage: bool,
    files: usize,
    renders: usize,
    hides: Vec<String>,
}

/// Runs the command.
pub fn run(common: &Common) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Heads)?;
    let themes = themes(world);
    if common.format == Format::Json {
        json(&themes)?;
    } else {
        print(&text(&themes))?;
    }
    let problems: Vec<_> = world.configuration_problems().cloned().collect();
    Ok(opened::accept(world, &problems, common))
}

fn themes(world: &World) -> Vec<ThemeJson> {
    let mut renders = vec![0; world.lineage.themes.len()];
    for answer in world.survey() {
        if let Some(winner) = answer.winner {
            renders[world.lineage.file(winner).theme] += 1;
        }
    }
    let inside = world.lineage.themes.iter().zip(renders).map(|(theme, renders)| of(world, theme, true, renders));
    let outside = theme::names(&world.snapshot)
        .into_iter()
        .filter(|name| !world.lineage.themes.iter().any(|it| it.name == *name));
    let outside = outside.filter_map(|name| theme::read(&world.snapshot, &name, &mut Vec::new()));
    inside.chain(outside.map(|theme| of(world, &theme, false, 0))).collect()
}

fn of(world: &World, theme: &Theme, in_lineage: bool, renders: usize) -> ThemeJson {
    let manifest = theme.manifest.clone();
    let files = world.snapshot.below(&theme.root);
    let files = files.filter(|node| theme::is_in_folder(&node.path[theme.root.len()..]));
    ThemeJson {
        name: theme.name.clone(),
        version: theme.version.clone(),
        about: theme.about.clone(),
        parent: theme.parent.as_ref().map(|parent| parent.text.clone()),
        path: manifest.rsplit_once('/').map_or_else(String::new, |(folder, _)| folder.to_owned()),
        in_lineage,
        files: files.count(),
        renders,
        hides: theme.hide.iter().map(|hide| hide.text.clone()).collect(),
    }
}

fn text(themes: &[ThemeJson]) -> String {
    let mut rows =
        vec![["theme", "version", "parent", "files", "renders"].map(|head| (head.to_owned(), FAINT)).to_vec()];
    for theme in themes.iter().filter(|theme| theme.in_lineage) {
        let none = || "none".to_owned();
        rows.push(vec![
            (plain(&theme.name), STRONG),
            (plain(&theme.version.clone().unwrap_or_else(none)), anstyle::Style::new()),
            (plain(&theme.parent.clone().unwrap_or_else(none)), anstyle::Style::new()),
            (theme.files.to_string(), anstyle::Style::new()),
            (table::addresses(theme.renders), anstyle::Style::new()),
        ]);
    }
    let mut out = table::text(&rows, 0);
    for theme in themes.iter().filter(|theme| theme.in_lineage && !theme.hides.is_empty()) {
        let _ = writeln!(out, "\n{} hides {}", plain(&theme.name), plain(&theme.hides.join(", ")));
    }
    let others: Vec<&ThemeJson> = themes.iter().filter(|theme| !theme.in_lineage).collect();
    if !others.is_empty() {
        out.push_str("\nNot in this lineage:\n");
    }
    for theme in others {
        let child = theme.parent.as_ref().map_or(String::new(), |parent| format!(", a child of {parent}"));
        let _ = writeln!(out, "  {}{}", plain(&theme.name), plain(&child));
        let _ = writeln!(out, "      {}", to_type(&format!("hausblatt suppose --to-theme {}", word(&theme.name))));
    }
    let _ = writeln!(out, "\nEvery file:  {}", to_type("hausblatt files"));
    out
}
