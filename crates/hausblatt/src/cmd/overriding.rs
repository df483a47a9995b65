//! `override`: a theme's own version of an inherited file.

use std::fmt::Write;

use hausblatt_core::change::copies::{
    Effect, MOST_RENDERED, Override, OverrideOptions, OverrideTarget, Planned, Refused, plan,
};
use hausblatt_core::files::Depth;
use hausblatt_core::lookup::file_argument;
use hausblatt_core::model::request::Routed;
use hausblatt_core::render::page::nearest_addresses;
use hausblatt_core::text::address::asked;
use hausblatt_core::world::World;
use hausblatt_lang::text::suggest::which_of;
use serde::Serialize;

use crate::cli::OverrideArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::changes;
use crate::show::style::{FAINT, GOOD, NOTE, STRONG, plain, styled, to_type, word};
use crate::show::table::{addresses, some};
use crate::show::wrap::wrapped;

/// How many addresses of a sort are shown without `-v`.
const MOST: usize = 8;

/// What was written and what it does, as JSON.
#[derive(Serialize)]
struct Overridden {
    path: String,
    written: bool,
    original: Option<OriginalJson>,
    slots: Vec<SlotJson>,
    reaches: Vec<ReachedJson>,
    changed: Vec<changes::ChangeJson>,
    html: Vec<String>,
    passed_over: Vec<PassedJson>,
}

#[derive(Serialize)]
struct OriginalJson {
    theme: String,
    path: String,
    version: Option<String>,
}

#[derive(Serialize)]
struct SlotJson {
    name: String,
    path: String,
    filled_by: Vec<String>,
}

#[derive(Serialize)]
struct ReachedJson {
    address: String,
    #[serde(rename = "as")]
    part: &'static str,
}

#[derive(Serialize)]
struct PassedJson {
    address: String,
    template: String,
    theme: String,
}

/// Why nothing was written, as JSON.
#[derive(Serialize)]
struct RefusedJson {
    path: Option<String>,
    written: bool,
    code: &'static str,
    message: String,
    help: Option<String>,
    others: Vec<String>,
}

/// Runs the command.
pub fn run(common: &Common, args: &OverrideArgs) -> Result<Outcome, Failure> {
    let world = opened::open_to_write(common, Depth::Whole)?;
    let what = what(world, &args.what)?;
    let how = OverrideOptions { only: args.only, name: args.name.clone(), slots: args.slots, force: args.force };
    match plan(world, &what, &how) {
        Ok(Planned::Already(path)) => already(common, world, &path),
        Ok(Planned::Write(planned)) => {
            opened::write(world, &planned.writes)?;
            if common.format == Format::Json {
                json(&overridden(&planned))?;
            } else if !common.quiet {
                print(&text(world, &what, &planned, common.verbose))?;
            }
            Ok(Outcome::Clean)
        }
        Err(refused) => refuse(common, &refused),
    }
}

/// The file or the request that was typed.
fn what(world: &World, typed: &str) -> Result<OverrideTarget, Failure> {
    let is_address = typed.starts_with('/') && !std::path::Path::new(typed).is_file();
    let is_content = opened::content_file(world, typed).is_some() || typed.starts_with("content/");
    if !is_address && !is_content && !typed.contains("://") {
        let typed = opened::theme_file(world, typed);
        let id = file_argument::theme_file(world, &typed).map_err(|problem| opened::failed(&problem))?;
        return Ok(OverrideTarget::File(id, *world.lineage.file(id).node.path == *typed));
    }
    let address = opened::address(world, typed)?;
    match world.route(&address) {
        Routed::Redirect(to) => {
            Err(Failure::Work(format!("{address} redirects, so no file renders it"), Some(format!("name {to}"))))
        }
        Routed::Request(request) if request.status == 404 && request.address != "/404.html" => {
            let near: Vec<&str> =
                nearest_addresses(world, &request.address).into_iter().map(|(near, _)| near).collect();
            let error = "for the error page: hausblatt override /404.html";
            let help = which_of(&near)
                .map_or(error.to_owned(), |near| format!("{near} For the error page: hausblatt override /404.html"));
            Err(Failure::Work(format!("nothing is at {}", asked(&address).path), Some(help)))
        }
        Routed::Request(request) => Ok(OverrideTarget::Request(request)),
    }
}

fn already(common: &Common, world: &World, path: &str) -> Result<Outcome, Failure> {
    if common.format == Format::Json {
        json(&Overridden {
            path: path.to_owned(),
            written: false,
            original: None,
            slots: Vec::new(),
            reaches: Vec::new(),
            changed: Vec::new(),
            html: Vec::new(),
            passed_over: Vec::new(),
        })?;
        return Ok(Outcome::Clean);
    }
    let active = &world.lineage.active().name;
    print(&format!(
        "{} has its own already:\n  {}\n\nEdit it, or see what it affects:\n  {}\n",
        plain(active),
        styled(STRONG, &plain(path)),
        to_type(&format!("hausblatt reach {}", word(&plain(path))))
    ))?;
    Ok(Outcome::Clean)
}

fn refuse(common: &Common, refused: &Refused) -> Result<Outcome, Failure> {
    let problem = &refused.diagnostic;
    if common.format == Format::Json {
        json(&RefusedJson {
            path: None,
            written: false,
            code: problem.code,
            message: problem.message.clone(),
            help: problem.help.clone(),
            others: refused.others.clone(),
        })?;
    } else if !refused.others.is_empty() {
        let text = format!(
            "This would also change {}:\n{}\n",
            addresses(refused.others.len()),
            some(refused.others.iter().map(String::as_str), if common.verbose { usize::MAX - 1 } else { MOST }, 2)
        );
        crate::tell_part!("{text}");
    }
    Err(opened::failed(problem))
}

fn overridden(planned: &Override) -> Overridden {
    let effect = &planned.effect;
    Overridden {
        path: planned.path.clone(),
        written: true,
        original: planned.original.as_ref().map(|original| OriginalJson {
            theme: original.theme.clone(),
            path: original.path.clone(),
            version: original.version.clone(),
        }),
        slots: planned
            .slots
            .iter()
            .map(|slot| SlotJson {
                name: slot.name.clone(),
                path: slot.file.clone(),
                filled_by: slot.filled_by.clone(),
            })
            .collect(),
        reaches: effect
            .reaches
            .iter()
            .map(|(address, part)| ReachedJson { address: address.clone(), part: part.word() })
            .collect(),
        changed: changes::json(&effect.changed),
        html: effect.differ.clone(),
        passed_over: effect
            .passed
            .iter()
            .map(|(address, template, theme)| PassedJson {
                address: address.clone(),
                template: template.clone(),
                theme: theme.clone(),
            })
            .collect(),
    }
}

fn text(world: &World, what: &OverrideTarget, planned: &Override, all: bool) -> String {
    let mut out = format!("{} {}\n", styled(GOOD, "Wrote"), styled(STRONG, &plain(&planned.path)));
    if let Some(original) = &planned.original {
        let of = format!("a copy of {} ({})", original.path, original.from_where());
        let kept = "Its original is kept in the theme: \"hausblatt drift\" reports when it changes.";
        let _ = writeln!(out, "{}\n{}", plain(&of), styled(FAINT, kept));
    } else {
        let goes_on = "It extends the inherited file: nothing was copied, so nothing can go out of date.";
        let _ = writeln!(out, "{}", styled(FAINT, goes_on));
    }
    out.push_str(&slots(planned));
    out.push('\n');
    let most = if all { usize::MAX - 1 } else { MOST };
    out.push_str(&reaches(planned, most));
    out.push_str(&passed(&planned.effect, most));
    out.push_str(&next(world, what, planned));
    out
}

fn slots(planned: &Override) -> String {
    let mut out = String::new();
    if !planned.slots.is_empty() {
        out.push_str("\nSlots that it can fill:\n");
    }
    for slot in &planned.slots {
        let by: Vec<String> = slot.filled_by.iter().map(|path| plain(path)).collect();
        let by = match by.is_empty() {
            true => "not filled".to_owned(),
            // One below the other: paths are long.
            false => format!("filled by {}", by.join(",\n                ")),
        };
        let _ = writeln!(out, "  {}  of {}", styled(STRONG, &plain(&slot.name)), plain(&slot.file));
        let _ = writeln!(out, "      {}", styled(FAINT, &by));
    }
    out
}

/// Who uses the new file now, and for whom something is different already.
fn reaches(planned: &Override, most: usize) -> String {
    let effect = &planned.effect;
    let count = effect.reaches.len();
    if count == 0 {
        return "No address uses it now.\n".to_owned();
    }
    let as_before = match (effect.differ.is_empty(), effect.all_rendered, count) {
        (true, true, 1) => "; its HTML is unchanged".to_owned(),
        (true, true, _) => "; their HTML is unchanged".to_owned(),
        (true, false, _) => format!("; the HTML of the first {MOST_RENDERED} is unchanged"),
        (false, ..) => String::new(),
    };
    let verb = if count == 1 { "uses" } else { "use" };
    let mut out = format!("{} {verb} it now{as_before}:\n", addresses(count));
    out.push_str(&some(effect.reaches.iter().map(|(address, _)| address.as_str()), most, 2));
    if !effect.differ.is_empty() {
        let verb = if effect.differ.len() == 1 { "differs" } else { "differ" };
        let head = format!("{} already {verb} in HTML:", addresses(effect.differ.len()));
        let _ = writeln!(out, "\n{}", styled(NOTE, &head));
        out.push_str(&some(effect.differ.iter().map(String::as_str), most, 2));
        let why = match planned.replaces {
            true => "The file that was there is replaced, and gone unless your version control has it.",
            false => {
                "A file that extends another with \"inherited\" now extends the one it is a copy of, and a page may print request.template or request.theme."
            }
        };
        let _ = writeln!(out, "{}", wrapped(why, FAINT));
    }
    out
}

/// Who tries the new file's name, but has another file.
fn passed(effect: &Effect, most: usize) -> String {
    let count = effect.passed.len();
    if count == 0 {
        return String::new();
    }
    let verb = if count == 1 { "tries its name, but has" } else { "try its name, but have" };
    let mut out = format!("\n{} {verb} a more specific file:\n", addresses(count));
    let shown = if count <= most.saturating_add(1) { count } else { most };
    for (address, template, theme) in effect.passed.iter().take(shown) {
        let _ = writeln!(out, "  {}  {}", plain(address), styled(FAINT, &plain(&format!("{template} ({theme})"))));
    }
    if count > shown {
        let _ = writeln!(out, "  and {} more", count - shown);
    }
    out
}

fn next(world: &World, what: &OverrideTarget, planned: &Override) -> String {
    let mut out = String::from("\n");
    let offered = planned.name.strip_prefix("templates/offered/").and_then(|name| name.strip_suffix(".html"));
    if let (Some(name), OverrideTarget::Request(request)) = (offered, what)
        && request.content(&world.site).is_some()
    {
        let command = format!("hausblatt choose {} {}", word(name), request.address);
        let _ = writeln!(out, "To choose it there:            {}", to_type(&command));
    }
    let _ = writeln!(out, "When you have edited it:       {}", to_type("hausblatt build --diff"));
    if planned.original.is_some() {
        let _ = writeln!(out, "When the original may be new:  {}", to_type("hausblatt drift"));
    }
    out
}
