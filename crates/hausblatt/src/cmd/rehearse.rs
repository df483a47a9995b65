//! `rehearse`: templates rendered with content worse than the site's own.

use std::fmt::Write as _;

use hausblatt_core::files::Depth;
use hausblatt_core::lookup::file_argument::theme_file;
use hausblatt_core::model::request::Routed;
use hausblatt_core::rehearse::{MOST, Rehearsal, Rehearsed, Stage, Variation, Within};
use hausblatt_core::text::shell::word;
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::text::suggest::did_you_mean;
use serde::Serialize;

use crate::cli::RehearseArgs;
use crate::cmd::build::with_progress;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::diagnostics::{self, DiagnosticJson};
use crate::show::sarif;
use crate::show::style::{FAINT, GOOD, NOTE, plain, styled, to_type};
use crate::show::table::counted;
use crate::show::wrap::hanging;

/// What was found, in the shape of every diagnostic, with the variation that shows it.
#[derive(Serialize)]
struct RehearsedJson {
    #[serde(flatten)]
    diagnostic: DiagnosticJson,
    variation: String,
    variations: Vec<String>,
}

/// A variation as JSON.
#[derive(Serialize)]
struct VariationJson {
    variation: String,
    addresses: Vec<String>,
}

/// What came of the command.
enum Done {
    /// What was asked for was printed.
    Shown(Outcome),
    /// The theme was rehearsed.
    Rehearsed(Rehearsal),
}

/// Runs the command.
pub fn run(common: &Common, args: &RehearseArgs) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Whole)?;
    let within = within(world, &args.what)?;
    let unloadable = |Unloadable(problems)| Failure::Unloadable(Box::new(world.snapshot.clone()), problems);
    let work = || {
        let stage = Stage::of(world, within).map_err(unloadable)?;
        if args.list {
            return Ok(Done::Shown(list(common, stage.variations())?));
        }
        if let Some(words) = &args.show {
            let variation = named(&stage, words)?;
            let address = args.what.first().filter(|what| what.starts_with('/')).or(variation.addresses.first());
            let address = address.map_or("/", String::as_str);
            let shown = stage.shown(&variation, address).map_err(unloadable)?;
            let shown = shown.ok_or_else(|| Failure::Work(format!("{address} only redirects there"), None))?;
            print(&shown.text)?;
            return Ok(Done::Shown(opened::accept(world, &shown.diagnostics, common)));
        }
        Ok(Done::Rehearsed(with_progress(common, "rehearsing", |tick| stage.rehearse(tick))))
    };
    let done: Result<Done, Failure> = match args.jobs {
        None => work(),
        Some(jobs) => {
            let pool = rayon::ThreadPoolBuilder::new().num_threads(usize::from(jobs)).build();
            pool.map_err(|error| opened::no_threads(&error))?.install(work)
        }
    };
    let rehearsal = match done? {
        Done::Shown(outcome) => return Ok(outcome),
        Done::Rehearsed(rehearsal) => rehearsal,
    };
    match common.format {
        Format::Json => {
            let all = rehearsal.found.iter().map(|rehearsed| as_json(world, rehearsed));
            json(&all.collect::<Vec<_>>())?;
        }
        Format::Sarif => {
            let findings: Vec<_> = rehearsal.found.iter().map(in_words).collect();
            json(&sarif::log(&world.snapshot, &findings))?;
        }
        Format::Text | Format::Csv => print(&text(world, &rehearsal, common))?,
    }
    if let Some(path) = opened::faulty_theme_file(world) {
        let path = plain(&path);
        crate::tell!(
            "{} {path} has an error at home, so what it prints is not known: hausblatt check",
            styled(NOTE, "note:")
        );
        return Ok(Outcome::Findings);
    }
    if rehearsal.left_out > 0 && common.format != Format::Text {
        crate::tell!("{} {}", styled(NOTE, "note:"), left_out(&rehearsal));
    }
    Ok(Outcome::of(rehearsal.found.is_empty()))
}

/// What was typed: addresses, content files, files of themes; nothing means all.
fn within(world: &World, typed: &[String]) -> Result<Within, Failure> {
    let mut within = Within::default();
    for typed in typed {
        let is_content = opened::content_file(world, typed).is_some();
        if typed.starts_with('/') || is_content || typed.trim_start_matches("./").starts_with("content/") {
            let address = opened::address(world, typed)?;
            match world.route(&address) {
                Routed::Request(request) => within.asked.push(request),
                Routed::Redirect(to) => {
                    let help = format!("name it: hausblatt rehearse {to}");
                    return Err(Failure::usage(format!("{address} only leads to {to}"), help));
                }
            }
            continue;
        }
        let file = theme_file(world, &opened::theme_file(world, typed)).map_err(|problem| opened::failed(&problem))?;
        within.files.push(file);
    }
    Ok(within)
}

/// The variation that is called so.
fn named(stage: &Stage, words: &str) -> Result<Variation, Failure> {
    stage.named(words).ok_or_else(|| {
        let all = stage.variations().iter().map(|variation| variation.words.as_str());
        let help = did_you_mean(words, all).unwrap_or_else(|| "all variations: hausblatt rehearse --list".to_owned());
        Failure::usage(format!("there is no variation \"{words}\""), help)
    })
}

fn list(common: &Common, all: &[Variation]) -> Result<Outcome, Failure> {
    if common.format == Format::Json {
        let as_json = |variation: &Variation| VariationJson {
            variation: variation.words.clone(),
            addresses: variation.addresses.clone(),
        };
        json(&all.iter().map(as_json).collect::<Vec<_>>())?;
        return Ok(Outcome::Clean);
    }
    let mut out = String::new();
    for variation in all {
        let _ = writeln!(out, "{}", plain(&variation.words));
        if common.verbose {
            for address in &variation.addresses {
                let _ = writeln!(out, "  {}", styled(FAINT, &plain(address)));
            }
        }
    }
    if !common.quiet {
        let pages: usize = all.iter().map(|variation| variation.addresses.len()).sum();
        let _ =
            writeln!(out, "\n{}, {}.", counted(all.len(), "variation", "variations"), counted(pages, "page", "pages"));
    }
    print(&out)?;
    Ok(Outcome::Clean)
}

fn as_json(world: &World, rehearsed: &Rehearsed) -> RehearsedJson {
    let variations: Vec<String> = rehearsed.variations.iter().map(|(words, _)| words.clone()).collect();
    RehearsedJson {
        diagnostic: diagnostics::finding_json(&world.snapshot, &rehearsed.finding),
        variation: variations.first().cloned().unwrap_or_default(),
        variations,
    }
}

/// What was found, with the variation in its message.
fn in_words(rehearsed: &Rehearsed) -> hausblatt_core::Finding {
    let mut finding = rehearsed.finding.clone();
    if let Some((words, _)) = rehearsed.variations.first() {
        finding.diagnostic.message = format!("{} (shown by {words})", finding.diagnostic.message);
    }
    finding
}

fn text(world: &World, rehearsal: &Rehearsal, common: &Common) -> String {
    let mut out = String::new();
    for rehearsed in &rehearsal.found {
        let _ = writeln!(out, "{}", diagnostics::drawn(&world.snapshot, &rehearsed.finding.diagnostic));
        let shown = if common.verbose { rehearsed.variations.len() } else { 1 };
        for (at, (words, address)) in rehearsed.variations.iter().take(shown).enumerate() {
            let more = rehearsed.variations.len() - shown;
            let more = match (more, at + 1 == shown) {
                (0, _) | (_, false) => String::new(),
                (more, true) => format!(", and by {}", counted(more, "more variation", "more variations")),
            };
            let seen = hanging(&plain(&format!("shown by {words}, at {address}{more}")), 9);
            let _ = writeln!(out, "{:9}{}", "", styled(FAINT, &seen));
        }
        out.push('\n');
    }
    if common.quiet {
        return out;
    }
    let rendered = format!(
        "{} on {}",
        counted(rehearsal.variations, "variation", "variations"),
        counted(rehearsal.pages, "page", "pages")
    );
    if rehearsal.left_out > 0 {
        let _ = writeln!(out, "{}\n", hanging(&left_out(rehearsal), 0));
    }
    match rehearsal.found.first() {
        None => {
            let _ = writeln!(out, "{} No weaknesses found with {rendered}.", styled(GOOD, "✓"));
        }
        Some(first) => {
            let count = counted(rehearsal.found.len(), "weakness", "weaknesses");
            let _ = writeln!(out, "{} found with {rendered}.", styled(NOTE, &count));
            if let Some((words, address)) = first.variations.first() {
                let command = format!("hausblatt rehearse --show {} {}", word(words), word(address));
                let _ = writeln!(out, "To see the first:  {}", to_type(&command));
            }
            let command = format!("hausblatt check --about {}", first.finding.diagnostic.code);
            let _ = writeln!(out, "What it means:     {}", to_type(&command));
        }
    }
    out
}

fn left_out(rehearsal: &Rehearsal) -> String {
    format!(
        "{} left out, since at most {MOST} pages are rendered; name addresses or files to rehearse them.",
        counted(rehearsal.left_out, "variation was", "variations were")
    )
}
