//! `choose`: an offered template chosen for content, in its front matter.

use std::fmt::Write as _;
use std::io::IsTerminal;

use anstyle::Style;
use hausblatt_core::analysis::compare::{Difference, Html, compare};
use hausblatt_core::change::changes::changed;
use hausblatt_core::change::choose::{Chosen, choices, choose, chooser};
use hausblatt_core::files::Depth;
use hausblatt_core::files::edit::Write;
use hausblatt_core::model::content::{ContentId, ContentState};
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use serde::Serialize;

use crate::cli::ChooseArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::changes;
use crate::show::diagnostics;
use crate::show::style::{FAINT, GOOD, STRONG, TYPED, plain, styled, to_type, word};
use crate::show::table;
use crate::show::wrap::wrapped_behind;

/// What was chosen, as JSON.
#[derive(Serialize)]
struct ChosenJson {
    chosen: Vec<ChoseJson>,
    changed: Vec<changes::ChangeJson>,
}

#[derive(Serialize)]
struct ChoseJson {
    address: Option<String>,
    path: String,
    from: Option<String>,
    to: Option<String>,
    written: bool,
}

/// A template that content could choose, or not, as JSON.
#[derive(Serialize)]
struct ChoiceJson {
    #[serde(skip_serializing_if = "Option::is_none")]
    address: Option<String>,
    name: String,
    label: Option<String>,
    about: Option<String>,
    theme: String,
    path: String,
    fits: bool,
    chosen: bool,
    reason: Option<String>,
}

/// Runs the command.
pub fn run(common: &Common, args: &ChooseArgs) -> Result<Outcome, Failure> {
    let open = if args.list { opened::open } else { opened::open_to_write };
    let world = open(common, Depth::Whole)?;
    let (name, addresses) = parted(world, args)?;
    let mut problems = Vec::new();
    let mut contents: Vec<ContentId> = Vec::new();
    for address in addresses {
        match content(world, address) {
            Ok(id) if !contents.contains(&id) => contents.push(id),
            Ok(_) => {}
            Err(problem) => problems.push(problem),
        }
    }
    if !problems.is_empty() {
        return refuse(world, &problems, addresses.len() > 1, common);
    }
    if args.list {
        if let Some(name) = name {
            let help = "write it as in: hausblatt choose --list /visit/";
            return Err(Failure::usage(format!("--list takes addresses only, and \"{name}\" is none"), help));
        }
        return list(common, world, &contents);
    }
    let name = match (args.clear, name) {
        (true, _) => None,
        (false, Some(name)) => Some(name),
        (false, None) => Some(offer(world, &contents, addresses)?),
    };
    let planned: Vec<Result<Chosen, Diagnostic>> =
        contents.iter().map(|&id| choose(world, id, name.as_deref())).collect();
    let (good, bad): (Vec<_>, Vec<_>) = planned.into_iter().partition(Result::is_ok);
    let problems: Vec<Diagnostic> = bad.into_iter().filter_map(Result::err).collect();
    // All or nothing: half of what was requested is hard to see.
    if !problems.is_empty() {
        return refuse(world, &problems, addresses.len() > 1, common);
    }
    let chosen: Vec<Chosen> = good.into_iter().filter_map(Result::ok).collect();
    let writes: Vec<Write> = chosen.iter().filter_map(|chosen| chosen.write.clone()).collect();
    let difference = difference(world, &writes)?;
    let new: Vec<Diagnostic> = difference.problems.iter().map(|problem| problem.diagnostic.clone()).collect();
    if name.is_some() && new.iter().any(Diagnostic::is_error) {
        return refuse(world, &new, addresses.len() > 1, common);
    }
    opened::write(world, &writes)?;
    if common.format == Format::Json {
        let chosen = chosen.iter().map(|chosen| as_json(world, chosen, name.as_deref()));
        json(&ChosenJson { chosen: chosen.collect(), changed: changes::json(&difference.changed) })?;
    } else if !common.quiet {
        print(&text(world, &chosen, name.as_deref(), &difference))?;
    }
    let problems: Vec<Diagnostic> = difference.problems.into_iter().map(|problem| problem.diagnostic).collect();
    Ok(opened::accept(world, &problems, common))
}

/// The name and the addresses, kept apart: what begins with a slash or is a content file is an address.
fn parted<'a>(world: &World, args: &'a ChooseArgs) -> Result<(Option<String>, &'a [String]), Failure> {
    let is_address = |text: &String| {
        text.starts_with('/')
            || text.contains("://")
            || text.starts_with("content/")
            || opened::content_file(world, text).is_some()
    };
    let (name, addresses) = match args.arguments.split_first() {
        Some((first, rest)) if !is_address(first) => (Some(first), rest),
        _ => (None, &args.arguments[..]),
    };
    let swapped = || {
        let name = addresses.iter().find(|text| !is_address(text))?;
        let address = addresses.iter().find(|text| is_address(text))?;
        Some(format!("an address begins with /, and the name comes first: hausblatt choose {} {address}", word(name)))
    };
    if let Some(odd) = addresses.iter().find(|text| !is_address(text)) {
        let help = swapped().unwrap_or_else(|| "an address begins with /, a content file with content/".to_owned());
        return Err(Failure::usage(format!("\"{odd}\" is not a valid address"), help));
    }
    match name {
        Some(name) if args.clear => Err(Failure::usage(
            format!("--clear takes addresses only, and \"{name}\" is none"),
            "write it as in: hausblatt choose --clear /visit/",
        )),
        Some(name) if addresses.is_empty() => Err(Failure::usage(
            format!("nothing says what \"{name}\" is chosen for"),
            format!("add an address, as in: hausblatt choose {} /visit/", word(name)),
        )),
        Some(name) => {
            let name = name.trim_start_matches("templates/").trim_start_matches("offered/").trim_end_matches(".html");
            Ok((Some(name.to_owned()), addresses))
        }
        None => Ok((None, addresses)),
    }
}

fn content(world: &World, typed: &str) -> Result<ContentId, Diagnostic> {
    match opened::content_file(world, typed) {
        Some(id) => Ok(id),
        None if typed.starts_with("content/") => Err(opened::unknown_content(world, typed)),
        None => chooser(world, typed),
    }
}

/// Asks, on a terminal, which of the templates that fit all of the content.
fn offer(world: &World, contents: &[ContentId], addresses: &[String]) -> Result<String, Failure> {
    let fit = |id: ContentId| choices(world, id).into_iter().filter(|choice| choice.reason.is_none());
    let Some((first, rest)) = contents.split_first() else {
        return Err(Failure::usage("nothing is named", "name an address, as in: hausblatt choose no-aside /visit/"));
    };
    let mut offered: Vec<_> = fit(*first).collect();
    for &id in rest {
        let names: Vec<String> = fit(id).map(|choice| choice.name).collect();
        offered.retain(|choice| names.contains(&choice.name));
    }
    if offered.is_empty() {
        let help = "create one: hausblatt start template offered/NAME".to_owned();
        return Err(Failure::Work("no template is offered for this".to_owned(), Some(help)));
    }
    if !std::io::stdin().is_terminal() || !std::io::stderr().is_terminal() {
        let names: Vec<&str> = offered.iter().map(|choice| choice.name.as_str()).collect();
        let help =
            format!("name one of {}: hausblatt choose {} {}", names.join(", "), word(names[0]), addresses.join(" "));
        return Err(Failure::usage("no template is named, and there is no terminal to ask on", help));
    }
    crate::tell!("Templates for {}:", plain(&addresses.join(", ")));
    for (number, choice) in (1..).zip(&offered) {
        let label = choice.label.as_ref().map_or(String::new(), |label| format!("  {label}"));
        crate::tell!("{number:>3}  {}", plain(&format!("{}{label}  ({})", choice.name, choice.theme)));
        if let Some(about) = &choice.about {
            crate::tell!("{}", wrapped_behind(&plain(about), 5, FAINT));
        }
    }
    loop {
        crate::tell_part!("Which one (1 to {}, or nothing for none)? ", offered.len());
        let mut typed = String::new();
        std::io::stdin().read_line(&mut typed)?;
        let typed = typed.trim();
        if typed.is_empty() {
            return Err(Failure::Work("nothing was chosen, and nothing was written".to_owned(), None));
        }
        let numbered = typed.parse::<usize>().ok().and_then(|number| offered.get(number.checked_sub(1)?));
        match numbered.or_else(|| offered.iter().find(|choice| choice.name == typed)) {
            Some(choice) => return Ok(choice.name.clone()),
            None => crate::tell!("There is no \"{}\".", plain(typed)),
        }
    }
}

fn refuse(world: &World, problems: &[Diagnostic], several: bool, common: &Common) -> Result<Outcome, Failure> {
    if let [problem] = problems
        && problem.place.is_none()
    {
        return Err(match opened::failed(problem) {
            Failure::Work(message, help) if several => Failure::Work(format!("{message}; nothing was written"), help),
            failure => failure,
        });
    }
    diagnostics::show(&world.snapshot, problems, common);
    Err(Failure::Work("nothing was written".to_owned(), None))
}

/// What the new files change.
fn difference(world: &World, writes: &[Write]) -> Result<Difference, Failure> {
    let after = World::load(changed(&world.snapshot, writes), world.asking.clone())
        .map_err(|_| Failure::Work("the site can't be loaded with this".to_owned(), None))?;
    Ok(compare(world, &after, Html::No))
}

fn as_json(world: &World, chosen: &Chosen, name: Option<&str>) -> ChoseJson {
    let content = world.site.content(chosen.content);
    ChoseJson {
        address: content.address.as_deref().map(str::to_owned),
        path: content.path().to_string(),
        from: chosen.from.clone(),
        to: name.map(str::to_owned),
        written: chosen.write.is_some(),
    }
}

fn text(world: &World, chosen: &[Chosen], name: Option<&str>, difference: &Difference) -> String {
    let mut out = String::new();
    for chosen in chosen {
        let content = world.site.content(chosen.content);
        let path = plain(content.path());
        let before = chosen.from.as_ref().map_or(String::new(), |from| format!(", before {from}"));
        let line = match (name, &chosen.write) {
            (Some(name), Some(_)) => format!("template: {name}{before}"),
            (None, Some(_)) => format!("chooses nothing any more{before}"),
            (Some(name), None) => format!("has chosen {name} already"),
            (None, None) => "has chosen nothing".to_owned(),
        };
        let verb = if chosen.write.is_some() { styled(GOOD, "Wrote") } else { styled(FAINT, "Kept ") };
        let _ = writeln!(out, "{verb} {}  {}", styled(STRONG, &path), plain(&line));
        let without = match content.state {
            ContentState::Draft => "it has no address now: it is a draft",
            ContentState::Waits => "it has no address now: it waits for its date",
            ContentState::Live | ContentState::OnErrors => continue,
        };
        let _ = writeln!(out, "      {}", styled(FAINT, without));
    }
    if !difference.changed.is_empty() {
        let _ = writeln!(out, "\n{}", changes::text(&difference.changed, true).trim_end());
    }
    let first = chosen.first().map(|chosen| world.site.content(chosen.content));
    if let Some(content) = first {
        let address = content.address.as_deref().unwrap_or(content.path());
        let command = format!("hausblatt resolve {}", plain(address));
        let _ = writeln!(out, "\nWhy:  {}", to_type(&command));
    }
    out
}

/// What could be chosen for some content, and what not.
fn list(common: &Common, world: &World, contents: &[ContentId]) -> Result<Outcome, Failure> {
    let lists: Vec<Vec<ChoiceJson>> = contents.iter().map(|&id| listed(world, id, contents.len() > 1)).collect();
    if common.format == Format::Json {
        json(&lists.into_iter().flatten().collect::<Vec<_>>())?;
        return Ok(Outcome::Clean);
    }
    let text = |(&id, choices): (&ContentId, &Vec<ChoiceJson>)| {
        let content = world.site.content(id);
        choices_text(content.address.as_deref().unwrap_or(content.path()), content.path(), choices)
    };
    print(&contents.iter().zip(&lists).map(text).collect::<Vec<_>>().join("\n"))?;
    Ok(Outcome::Clean)
}

/// What could be chosen for one of them, with its address where there are several.
fn listed(world: &World, id: ContentId, with_address: bool) -> Vec<ChoiceJson> {
    let content = world.site.content(id);
    let address = content.address.as_deref().unwrap_or(content.path());
    choices(world, id)
        .into_iter()
        .map(|choice| ChoiceJson {
            address: with_address.then(|| address.to_owned()),
            chosen: content.template.as_ref().is_some_and(|(name, _)| **name == *choice.name),
            fits: choice.reason.is_none(),
            label: choice.label,
            about: choice.about,
            theme: choice.theme,
            path: choice.path,
            name: choice.name,
            reason: choice.reason,
        })
        .collect()
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
        let fit = choices.iter().filter(|choice| choice.fits);
        for (line, choice) in table::text(&rows, 2).lines().zip(fit) {
            let _ = writeln!(out, "{line}");
            if let Some(about) = &choice.about {
                let _ = writeln!(out, "{}", wrapped_behind(&plain(about), 4, FAINT));
            }
        }
    }
    let unfit: Vec<&ChoiceJson> = choices.iter().filter(|choice| !choice.fits).collect();
    if !unfit.is_empty() {
        out.push_str("\nNot available here:\n");
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
        Some(choice) => format!("hausblatt choose {} {address}", word(&choice.name)),
        None => "hausblatt start template offered/NAME".to_owned(),
    };
    let _ = writeln!(out, "\nNext:  {}", to_type(&command));
    out
}
