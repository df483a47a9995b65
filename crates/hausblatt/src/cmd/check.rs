//! `check`: what is wrong with a site's theme and content.

use std::fmt::Write;
use std::sync::Arc;

use hausblatt_core::PROGRAM;
use hausblatt_core::analysis::compare::unified;
use hausblatt_core::build::Progress;
use hausblatt_core::change::changes::added_by;
use hausblatt_core::check::{
    Finding, LARGE, Scope, SeenPages, all_codes, can_be_excepted, codes, codes_of_rehearsals, fixes, heavy_pages,
    run as find, run_after,
};
use hausblatt_core::files::edit;
use hausblatt_core::files::{Depth, Snapshot};
use hausblatt_core::lookup::file_argument::theme_file;
use hausblatt_core::model::request::{Request, Routed};
use hausblatt_core::needs::alone;
use hausblatt_core::world::{Unloadable, World, in_order};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::suggest::did_you_mean;

use crate::cli::CheckArgs;
use crate::cmd::build::with_progress;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::difference::coloured;
use crate::show::style::{BAD, FAINT, GOOD, NOTE, STRONG, plain, styled, to_type};
use crate::show::table::{addresses, counted};
use crate::show::wrap::hanging;
use crate::show::{diagnostics, sarif};

/// So many findings are shown without `-v`.
const MOST: usize = 50;

/// Runs the command.
pub fn run(common: &Common, args: &CheckArgs) -> Result<Outcome, Failure> {
    if let Some(code) = &args.about {
        return about(code);
    }
    if args.alone {
        return without_site(common);
    }
    // What an address shows is read when it is rendered; of all else the head is enough.
    let only_addresses = !args.what.is_empty() && args.what.iter().all(|typed| typed.starts_with('/'));
    let depth = if only_addresses { Depth::Heads } else { Depth::Digests };
    let open = if args.fix && !args.dry_run { opened::open_to_write } else { opened::open };
    let mut world = open(common, depth)?;
    let mut found = look(world, args, common)?;
    if args.fix {
        let (writes, count) = fixes(&world.snapshot, &found);
        // What would be wrong after it was not certain.
        let (writes, count) = match added_by(world, &writes).is_empty() {
            true => (writes, count),
            false => fixes_one_by_one(world, &found),
        };
        if args.dry_run {
            return would(&world.snapshot, args, &writes, count, common);
        }
        if count > 0 {
            opened::write(world, &writes)?;
            let files = counted(writes.len(), "file", "files");
            crate::tell!("{} {} in {files}\n", styled(GOOD, "fixed"), counted(count, "problem", "problems"));
            world = opened::open(common, depth)?;
            found = look(world, args, common)?;
        }
    }
    match common.format {
        Format::Json => {
            let all = found.iter().map(|it| diagnostics::finding_json(&world.snapshot, it));
            json(&all.collect::<Vec<_>>())?;
        }
        Format::Sarif => json(&sarif::log(&world.snapshot, &found))?,
        Format::Text | Format::Csv => print(&text(world, args, &found, common))?,
    }
    let counts = |finding: &Finding| finding.diagnostic.is_error() || common.strict;
    Ok(Outcome::of(!found.iter().any(counts)))
}

/// Checks the themes in an empty site and in one that is made up.
fn without_site(common: &Common) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Whole)?;
    let unloadable = |Unloadable(problems)| Failure::Unloadable(Box::new(world.snapshot.clone()), problems);
    let theme = plain(&world.lineage.active().name);
    let says = world.lineage.active().needs.is_some() || world.lineage.themes.iter().any(|theme| theme.needs.is_some());
    let alone = alone(world).map_err(unloadable)?;
    let parts = [
        ("an empty site", &alone.empty, &alone.in_empty),
        ("a made-up site that has all it needs", &alone.made_up, &alone.in_made_up),
    ];
    match common.format {
        Format::Json => {
            let all = parts.iter().flat_map(|(_, world, found)| {
                found.iter().map(|it| diagnostics::finding_json(&world.snapshot, it)).collect::<Vec<_>>()
            });
            json(&all.collect::<Vec<_>>())?;
        }
        Format::Sarif => {
            let all: Vec<Finding> = parts.iter().flat_map(|(_, _, found)| (*found).clone()).collect();
            json(&sarif::log(&alone.made_up.snapshot, &all))?;
        }
        Format::Text | Format::Csv => {
            let mut out = String::new();
            let mut other = "";
            for (what, world, found) in &parts {
                let shown = if common.verbose { found.len() } else { found.len().min(MOST) };
                for finding in found.iter().take(shown) {
                    let _ = writeln!(out, "{}", diagnostics::drawn(&world.snapshot, &finding.diagnostic));
                    out.push('\n');
                }
                if found.len() > shown {
                    let _ = writeln!(out, "{} more; -v shows all.\n", found.len() - shown);
                }
                if !common.quiet {
                    let _ = match found.is_empty() {
                        true => writeln!(out, "{} {theme} has no {other}problems in {what}.", styled(GOOD, "✓")),
                        false => {
                            let (one, many) = (format!("{other}problem"), format!("{other}problems"));
                            let count = counted(found.len(), &one, &many);
                            writeln!(out, "{} of {theme} in {what}.", styled(NOTE, &count))
                        }
                    };
                }
                other = if found.is_empty() { other } else { "other " };
            }
            if !common.quiet && !says {
                let _ = writeln!(
                    out,
                    "\nIts manifest does not say what it needs from a site:  {}",
                    to_type("hausblatt needs --write")
                );
            }
            print(&out)?;
        }
    }
    let counts = |finding: &Finding| finding.diagnostic.is_error() || common.strict;
    Ok(Outcome::of(!parts.iter().any(|(_, _, found)| found.iter().any(counts))))
}

/// The fixes that add no problem, each looked at by itself.
fn fixes_one_by_one(world: &World, found: &[Finding]) -> (Vec<edit::Write>, usize) {
    let alone = |finding: &&Finding| {
        let (writes, count) = fixes(&world.snapshot, std::slice::from_ref(*finding));
        count > 0 && added_by(world, &writes).is_empty()
    };
    let good: Vec<Finding> = found.iter().filter(alone).cloned().collect();
    fixes(&world.snapshot, &good)
}

fn look(world: &World, args: &CheckArgs, common: &Common) -> Result<Vec<Finding>, Failure> {
    let scope = scope(world, &args.what)?;
    let mut found = with_progress(common, "checking", |tick| match scope {
        Scope::Whole if world.requests().len() >= LARGE => after_the_last(world, tick),
        _ => find(world, &scope, tick),
    });
    if let Some(most) = args.weight {
        found.extend(heavy_pages(world, &scope, most));
        found.sort_by(|a, b| in_order(&a.diagnostic, &b.diagnostic));
    }
    Ok(found)
}

/// All that is wrong with a large site. What was seen of its pages is saved for the next check, and what the last one has
/// saved is looked at again only where it can differ.
fn after_the_last(world: &World, progress: Progress<'_>) -> Vec<Finding> {
    let earlier = SeenPages::load(&world.snapshot, PROGRAM);
    let (found, seen) = run_after(world, &Scope::Whole, progress, usize::MAX, &earlier);
    seen.save(&world.snapshot, PROGRAM);
    found
}

/// What was typed: addresses, content files, files of themes; nothing means all.
fn scope(world: &World, typed: &[String]) -> Result<Scope, Failure> {
    if typed.is_empty() {
        return Ok(Scope::Whole);
    }
    let (mut asked, mut files, mut through): (Vec<Request>, Vec<Arc<str>>, Vec<Request>) = Default::default();
    for typed in typed {
        if let Some(id) = opened::content_file(world, typed) {
            files.push(world.site.content(id).path().clone());
        }
        let is_address = typed.starts_with('/') || typed.trim_start_matches("./").starts_with("content/");
        if is_address || opened::content_file(world, typed).is_some() {
            let address = opened::address(world, typed)?;
            match world.route(&address) {
                Routed::Request(request) => asked.push(request),
                Routed::Redirect(to) => {
                    let help = format!("name it: hausblatt check {to}");
                    return Err(Failure::usage(format!("{address} only leads to {to}"), help));
                }
            }
            continue;
        }
        let id = theme_file(world, &opened::theme_file(world, typed)).map_err(|problem| opened::failed(&problem))?;
        files.push(world.lineage.file(id).node.path.clone());
        through.extend(world.reach(id).map(|(request, _)| request.clone()));
    }
    Ok(Scope::Part { asked, files, through })
}

/// Explains a code, or lists them all.
fn about(code: &str) -> Result<Outcome, Failure> {
    if code.is_empty() {
        let mut out = String::new();
        for Code { name, about, .. } in codes_of_rehearsals() {
            let about = hanging(about, 24);
            let _ = writeln!(out, "{}  {about}", styled(STRONG, &format!("{name:<22}")));
        }
        let command = "hausblatt check --about CODE";
        let _ = writeln!(out, "\nMore about one:  {}", to_type(command));
        print(&out)?;
        return Ok(Outcome::Clean);
    }
    let all = all_codes();
    let Some(found) = all.iter().find(|one| one.name == code) else {
        let help = did_you_mean(code, all.iter().map(|one| one.name))
            .unwrap_or_else(|| "all codes: hausblatt check --about".to_owned());
        return Err(Failure::usage(format!("there is no code \"{code}\""), help));
    };
    let mut out = format!("{}: {}\n\n", styled(STRONG, found.name), found.about);
    let _ = writeln!(out, "{}", hanging(found.explanation, 0));
    if can_be_excepted(found) {
        let _ = writeln!(out, "\n{}", styled(FAINT, "To have it left out, in hausblatt.toml:"));
        let of = if codes().contains(found) { "check" } else { "rehearse" };
        let _ =
            writeln!(out, "[[{of}.except]]\ncode = \"{}\"\npath = \"…\"  # a file, a folder or a pattern", found.name);
    }
    print(&out)?;
    Ok(Outcome::Clean)
}

/// A command with what was typed after it.
fn with(args: &CheckArgs, command: &str) -> String {
    std::iter::once(command.to_owned()).chain(args.what.iter().map(|what| plain(what))).collect::<Vec<_>>().join(" ")
}

/// Shows what `--fix` would write.
fn would(
    texts: &Snapshot,
    args: &CheckArgs,
    writes: &[edit::Write],
    count: usize,
    common: &Common,
) -> Result<Outcome, Failure> {
    let mut out = String::new();
    for write in writes {
        let before = texts.file(&write.path).and_then(|node| node.whole_text().ok()).unwrap_or_default();
        let after = write.bytes.as_deref().map(String::from_utf8_lossy).unwrap_or_default();
        out.push_str(&coloured(&unified(&before, &after, &plain(&write.path))));
    }
    if !common.quiet {
        let _ = match count {
            0 => writeln!(out, "Nothing that was found can be fixed with certainty."),
            _ => writeln!(
                out,
                "\n{} in {} would be fixed. To write it:  {}",
                counted(count, "problem", "problems"),
                counted(writes.len(), "file", "files"),
                to_type(&with(args, "hausblatt check --fix"))
            ),
        };
    }
    print(&out)?;
    Ok(Outcome::of(count == 0))
}

fn text(world: &World, args: &CheckArgs, found: &[Finding], common: &Common) -> String {
    let shown = if common.verbose { found.len() } else { found.len().min(MOST) };
    let mut out = String::new();
    // Errors are what is looked for first, where not all is shown.
    let mut chosen: Vec<&Finding> = found.iter().collect();
    chosen.sort_by_key(|finding| !finding.diagnostic.is_error());
    chosen.truncate(shown);
    chosen.sort_by(|a, b| in_order(&a.diagnostic, &b.diagnostic));
    for finding in chosen {
        let _ = writeln!(out, "{}", diagnostics::drawn(&world.snapshot, &finding.diagnostic));
        let shown = if common.verbose { finding.also.len() } else { 1 };
        let left = finding.also.len().saturating_sub(shown);
        let left =
            if left > 0 { format!(" and {}", counted(left, "more place", "more places")) } else { String::new() };
        for other in finding.also.iter().take(shown) {
            let place = plain(&diagnostics::place(&world.snapshot, other));
            let words = hanging(&format!("also at {place}{left}"), 9);
            let _ = writeln!(out, "{:9}{}", "", styled(FAINT, &words));
        }
        if let Some(first) = finding.addresses.first() {
            let more = finding.addresses.len() - 1;
            let more = if more > 0 { format!(" and {}", addresses(more)) } else { String::new() };
            let more = more.replace(" address", " more address");
            let _ = writeln!(out, "{}", styled(FAINT, &format!("{:9}seen at {}{more}", "", plain(first))));
        }
        out.push('\n');
    }
    if common.quiet {
        return out;
    }
    let errors = found.iter().filter(|finding| finding.diagnostic.is_error()).count();
    let warnings = found.len() - errors;
    if found.len() > shown {
        let _ = writeln!(out, "{} more; -v shows all.\n", found.len() - shown);
    }
    let what = if args.what.is_empty() { "the whole site" } else { "what you named" };
    if found.is_empty() {
        let _ = writeln!(out, "{} No problems found in {what}.", styled(GOOD, "✓"));
        return out;
    }
    let style = if errors > 0 { BAD } else { NOTE };
    let counts = match (errors, warnings) {
        (0, _) => counted(warnings, "warning", "warnings"),
        (_, 0) => counted(errors, "error", "errors"),
        _ => format!("{}, {}", counted(errors, "error", "errors"), counted(warnings, "warning", "warnings")),
    };
    let _ = writeln!(out, "{} in {what}.", styled(style, &counts));
    let first = found.iter().find(|finding| finding.diagnostic.is_error()).or(found.first());
    if let Some(finding) = first {
        let command = format!("hausblatt check --about {}", finding.diagnostic.code);
        let _ = writeln!(out, "What it means:   {}", to_type(&command));
    }
    let (writes, count) = fixes(&world.snapshot, found);
    if count > 0 {
        let (problems, files) = (counted(count, "problem", "problems"), counted(writes.len(), "file", "files"));
        let command = to_type(&with(args, "hausblatt check --fix --dry-run"));
        let _ = writeln!(out, "{problems} in {files} can be fixed automatically:  {command}");
    }
    out
}
