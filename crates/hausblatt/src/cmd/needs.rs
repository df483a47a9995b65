//! `needs`: what the themes read from a site.

use std::fmt::Write as _;
use std::fs;
use std::path::Path;

use hausblatt_core::analysis::needs::{Demands, Need};
use hausblatt_core::files::Depth;
use hausblatt_core::files::edit::{Write, write_all};
use hausblatt_core::needs::{Needed, lines_to_add, made_up_site, needed, written};
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Place;
use serde::Serialize;

use crate::cli::NeedsArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::diagnostics;
use crate::show::style::{FAINT, GOOD, NOTE, STRONG, plain, styled, to_type, word};
use crate::show::table::counted;

/// Something that is read from the site, as JSON.
#[derive(Serialize)]
struct NeededJson {
    need: String,
    name: String,
    r#type: Option<&'static str>,
    required: bool,
    why: Option<String>,
    places: Vec<String>,
}

/// What was written, as JSON.
#[derive(Serialize)]
struct WrittenJson {
    written: Vec<String>,
}

/// Runs the command.
pub fn run(common: &Common, args: &NeedsArgs) -> Result<Outcome, Failure> {
    let open = if args.write { opened::open_to_write } else { opened::open };
    let world = open(common, Depth::Whole)?;
    if args.missing {
        return missing(common, world);
    }
    let unloadable = |Unloadable(problems)| Failure::Unloadable(Box::new(world.snapshot.clone()), problems);
    if let Some(folder) = &args.site_for {
        let files = made_up_site(world).map_err(unloadable)?;
        return site_for(common, world, folder, files.into_iter().collect());
    }
    let faulty = opened::faulty_theme_file(world);
    if let (Some(path), true) = (&faulty, args.write) {
        let message = format!("{path} has an error, so what it reads is not known");
        return Err(Failure::Work(message, Some("fix it first: hausblatt check".to_owned())));
    }
    let all = needed(world).map_err(unloadable)?;
    if args.write {
        return write(common, world, &all);
    }
    match common.format {
        Format::Json => json(&all.iter().map(|needed| as_json(world, needed)).collect::<Vec<_>>())?,
        _ => print(&text(common, world, &all))?,
    }
    if let Some(path) = faulty {
        let path = plain(&path);
        crate::tell!(
            "{} {path} has an error, so not all that is read is known: hausblatt check",
            styled(NOTE, "note:")
        );
        return Ok(Outcome::Findings);
    }
    Ok(Outcome::Clean)
}

fn place(world: &World, place: &Place) -> String {
    let at = Diagnostic { place: Some(place.clone()), ..Diagnostic::of(&hausblatt_core::text::codes::NO_SITE, "") };
    diagnostics::place(&world.snapshot, &at)
}

fn as_json(world: &World, needed: &Needed) -> NeededJson {
    NeededJson {
        need: needed.need.path(),
        name: needed.need.words(),
        r#type: needed.of,
        required: needed.fails.is_some(),
        why: needed.fails.as_ref().map(|why| why.message.clone()),
        places: needed.places.iter().map(|at| place(world, at)).collect(),
    }
}

fn text(common: &Common, world: &World, all: &[Needed]) -> String {
    let mut out = String::new();
    let themes: Vec<&str> = world.lineage.themes.iter().map(|theme| theme.name.as_str()).collect();
    let (required, without): (Vec<&Needed>, Vec<&Needed>) = all.iter().partition(|needed| needed.fails.is_some());
    for (heading, some) in [("fails without", &required), ("does without", &without)] {
        if some.is_empty() {
            continue;
        }
        let _ = writeln!(out, "{} {heading}:", styled(STRONG, &plain(&themes.join(" over "))));
        for needed in some.iter() {
            let of = needed.of.map_or(String::new(), |of| format!("  {of}"));
            let _ = writeln!(out, "  {}{}", plain(&needed.need.path()), styled(FAINT, &of));
            let shown = if common.verbose { needed.places.len() } else { 1 };
            let more = needed.places.len().saturating_sub(shown);
            for (at, of) in needed.places.iter().take(shown).enumerate() {
                let more = if more > 0 && at + 1 == shown { format!(" and {more} more") } else { String::new() };
                let _ = writeln!(out, "      {}", styled(FAINT, &format!("{}{more}", plain(&place(world, of)))));
            }
        }
        out.push('\n');
    }
    if common.quiet {
        return out;
    }
    if all.is_empty() && opened::faulty_theme_file(world).is_none() {
        let _ = writeln!(out, "{} reads nothing from the site by name.", plain(&themes.join(" over ")));
        return out;
    }
    if all.is_empty() {
        return out;
    }
    let says = world.lineage.active().needs.is_some();
    let (how, command) = match says {
        true => ("To check it alone", "hausblatt check --alone"),
        false => ("To write it into the manifest", "hausblatt needs --write"),
    };
    let _ = writeln!(out, "{how}:  {}", to_type(command));
    out
}

fn missing(common: &Common, world: &World) -> Result<Outcome, Failure> {
    let lines = lines_to_add(world);
    if common.format == Format::Json {
        json(&lines)?;
    } else if lines.is_empty() {
        let theme = plain(&world.lineage.active().name);
        print(&format!("{} The site has all that {theme} says it needs.\n", styled(GOOD, "✓")))?;
    } else {
        print(&lines)?;
    }
    Ok(Outcome::of(lines.is_empty()))
}

fn write(common: &Common, world: &World, all: &[Needed]) -> Result<Outcome, Failure> {
    let change = written(world, all).map_err(|problem| opened::failed(&problem))?;
    let writes: Vec<Write> = change.into_iter().collect();
    opened::write(world, &writes)?;
    let manifest = &world.lineage.active().manifest;
    if common.format == Format::Json {
        json(&WrittenJson { written: writes.iter().map(|write| write.path.clone()).collect() })?;
    } else if !common.quiet {
        let ancestors = world.lineage.themes.iter().skip(1).filter(|theme| theme.needs.is_none());
        let silent: Vec<&str> = ancestors.map(|theme| theme.name.as_str()).collect();
        let mut out = match writes.is_empty() {
            true => format!("{} {} says all that is needed.\n", styled(GOOD, "✓"), plain(manifest)),
            false => format!("{} {}: [needs]\n", styled(GOOD, "Wrote"), styled(STRONG, &plain(manifest))),
        };
        if let (Some(first), false) = (silent.last(), writes.is_empty()) {
            let command = format!("hausblatt needs --write --theme {first}");
            let _ = writeln!(
                out,
                "\nWhat {first} reads is in it, since its own manifest does not say it.\nTo write that there first:  {}",
                to_type(&command)
            );
        }
        let _ = writeln!(out, "\nNext:  {}", to_type("hausblatt check --alone"));
        print(&out)?;
    }
    Ok(Outcome::Clean)
}

/// Writes a made-up site with the themes of the lineage and the media that they name.
fn site_for(common: &Common, world: &World, folder: &Path, files: Vec<(String, String)>) -> Result<Outcome, Failure> {
    if folder.exists() && fs::read_dir(folder).map_or(true, |mut inside| inside.next().is_some()) {
        let message = format!("{} already exists", folder.display());
        return Err(Failure::Work(message, Some("choose an empty folder".to_owned())));
    }
    opened::outside_of_sites(folder)?;
    let demanded = Demands::of(world).all;
    let is_wanted = |path: &str| {
        let is_theme = |name: &str| path.starts_with(&format!("themes/{name}/"));
        world.lineage.themes.iter().any(|theme| is_theme(&theme.name))
            || path.strip_prefix("media/").is_some_and(|name| demanded.contains_key(&Need::Media(name.to_owned())))
    };
    let mut writes: Vec<Write> = Vec::new();
    for node in world.snapshot.files().into_iter().filter(|node| is_wanted(&node.path)) {
        let unread = |error: std::io::Error| Failure::Work(format!("{} can't be read: {error}", node.path), None);
        writes.push(Write::new(&*node.path, node.bytes().map_err(unread)?));
    }
    // What makes a folder a site comes last: until then nothing takes it for one.
    let (site, rest): (Vec<_>, Vec<_>) = files.into_iter().partition(|(path, _)| path == "hausblatt.toml");
    let known: Vec<String> = writes.iter().map(|write| write.path.clone()).collect();
    let rest = rest.into_iter().filter(|(path, _)| !known.contains(path));
    writes.extend(rest.chain(site).map(|(path, text)| Write::new(path, text)));
    fs::create_dir_all(folder).map_err(|error| Failure::Work(format!("{}: {error}", folder.display()), None))?;
    write_all(&opened::disk(), folder, &writes)
        .map_err(|(path, error)| Failure::Work(format!("{path} can't be written: {error}"), None))?;
    if common.format == Format::Json {
        json(&WrittenJson { written: writes.iter().map(|write| write.path.clone()).collect() })?;
    } else if !common.quiet {
        let name = plain(&folder.display().to_string());
        let command = format!("hausblatt serve --site {}", word(&name));
        print(&format!(
            "{} {}: {}\n\nNext:  {}\n",
            styled(GOOD, "Wrote"),
            styled(STRONG, &name),
            counted(writes.len(), "file", "files"),
            styled(crate::show::style::TYPED, &command)
        ))?;
    }
    Ok(Outcome::Clean)
}
