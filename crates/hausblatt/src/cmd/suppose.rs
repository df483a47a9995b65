//! `suppose`: what a change would change. Nothing is written.

use std::fmt::Write;
use std::io::{self, Read as _};
use std::path::Path;

use anstyle::Style;
use hausblatt_core::Routed;
use hausblatt_core::analysis::compare::{Difference, Html, NewProblem, compare};
use hausblatt_core::change::suppose::{Front, Supposition, suppose, unused};
use hausblatt_core::files::{Depth, Snapshot};
use hausblatt_core::lookup::file_argument;
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use serde::Serialize;

use crate::cli::SupposeArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::diagnostics::{self, DiagnosticJson};
use crate::show::style::{NOTE, STRONG, plain, styled};
use crate::show::table::{addresses, counted};
use crate::show::{changes, difference, table};

/// What would change, as JSON.
#[derive(Serialize)]
struct Supposed {
    changed: Vec<changes::ChangeJson>,
    #[serde(rename = "faults")]
    problems: Vec<DiagnosticJson>,
    unchanged: usize,
}

/// Runs the command.
pub fn run(common: &Common, args: &SupposeArgs) -> Result<Outcome, Failure> {
    // What another text changes is seen in the HTML alone.
    let html = match (args.html || !args.edit.is_empty(), args.diff) {
        (_, true) => Html::How,
        (true, false) => Html::Whether,
        (false, false) => Html::No,
    };
    let supposition = supposition(common, args)?;
    let world = opened::open(common, if html == Html::No { Depth::Heads } else { Depth::Whole })?;
    let supposition = from_here(world, supposition);
    let after = match suppose(world, &supposition) {
        Ok(after) => after,
        Err(problems) => {
            // What is wrong is in the texts as they would be.
            let edits = supposition.edit.iter().filter(|(path, _)| world.snapshot.file(path).is_some());
            let texts = edits.fold(world.snapshot.clone(), |texts, (path, text)| texts.with(path, Some(text)));
            return Err(refused(&texts, &problems, common));
        }
    };
    let difference = compare(world, &after, html);
    // A file that is there already is nothing new.
    let already: Vec<String> = supposition
        .add
        .iter()
        .filter(|(_, from)| from.is_none())
        .filter_map(|(file, _)| file_argument::new_file(&after, file).ok())
        .filter(|path| world.snapshot.file(path).is_some())
        .collect();
    for path in already.iter().filter(|_| common.format == Format::Text) {
        crate::tell!("{} {} already exists; it stays as it is", styled(NOTE, "note:"), plain(path));
    }
    for (path, why) in unused(&after, &supposition).iter().filter(|_| common.format == Format::Text) {
        crate::tell!("{} no address uses {}: {}", styled(NOTE, "note:"), plain(path), plain(why));
    }
    if common.format == Format::Json {
        let problems = difference
            .problems
            .iter()
            .map(|problem| diagnostics::json(&after.snapshot, &problem.diagnostic, &problem.addresses));
        json(&Supposed {
            changed: changes::json(&difference.changed),
            problems: problems.collect(),
            unchanged: difference.unchanged,
        })?;
    } else {
        print(&text(&told(args), &difference, &redirects(&after, &difference, args.all), args, html))?;
    }
    let shown: Vec<Diagnostic> = difference.problems.iter().map(with_addresses).collect();
    if common.format == Format::Text {
        diagnostics::show(&after.snapshot, &shown, common);
    }
    Ok(Outcome::of(!difference.problems.iter().any(|problem| problem.diagnostic.is_error() || common.strict)))
}

fn supposition(common: &Common, args: &SupposeArgs) -> Result<Supposition, Failure> {
    let nothing = args.add.is_empty()
        && args.without.is_empty()
        && args.choose.is_empty()
        && args.edit.is_empty()
        && args.to_theme.is_none()
        && args.front.is_none()
        && args.parent.is_none()
        && args.address_pattern.is_empty();
    if nothing {
        let help = "say what, as in: hausblatt suppose --without page/visit, or --add, --edit, --choose, --to-theme, --front, --parent, --address-pattern";
        return Err(Failure::usage("nothing is supposed", help));
    }
    if common.theme.is_some() && args.to_theme.is_some() {
        let help = "--theme is the theme that the site has, --to-theme the one that it would have: leave one out";
        return Err(Failure::usage("both --theme and --to-theme name the active theme", help));
    }
    let parted = |typed: &String| match typed.split_once('=') {
        Some((file, from)) => (file.to_owned(), Some(from.to_owned())),
        None => (typed.clone(), None),
    };
    Ok(Supposition {
        add: args.add.iter().map(parted).collect(),
        without: args.without.clone(),
        edit: drafts(&args.edit)?,
        choose: args.choose.clone(),
        to_theme: args.to_theme.clone(),
        front: args.front.clone(),
        parent: args.parent.clone(),
        patterns: args.address_pattern.clone(),
    })
}

/// The texts of the drafts, read.
fn drafts(edits: &[(String, String)]) -> Result<Vec<(String, String)>, Failure> {
    if edits.iter().filter(|(_, draft)| draft == "-").count() > 1 {
        let help = "write the others to files, as in --edit partials/card=draft.html";
        return Err(Failure::usage("standard input is the text of one file only", help));
    }
    let read = |(file, draft): &(String, String)| {
        let bytes = match draft.as_str() {
            "-" => {
                let mut bytes = Vec::new();
                io::stdin().read_to_end(&mut bytes).map(|_| bytes)
            }
            path => opened::regular(Path::new(path)),
        };
        let what = if draft == "-" { "standard input" } else { draft };
        let bytes = bytes.map_err(|error| Failure::Work(format!("{what} can't be read: {error}"), None))?;
        let text = String::from_utf8(bytes)
            .map_err(|_| Failure::Work(format!("{what} is not UTF-8"), Some("save it as UTF-8".to_owned())))?;
        Ok((file.clone(), text))
    };
    edits.iter().map(read).collect()
}

/// The same with paths of files that are there as they are in the site.
fn from_here(world: &World, supposition: Supposition) -> Supposition {
    let here = |typed: &String| opened::theme_file(world, typed);
    Supposition {
        without: supposition.without.iter().map(here).collect(),
        edit: supposition.edit.iter().map(|(file, text)| (site_file(world, file), text.clone())).collect(),
        add: supposition.add.iter().map(|(file, from)| (here(file), from.as_ref().map(here))).collect(),
        ..supposition
    }
}

/// A file of the site as it was typed: a path from where the command is typed counts as one from the site.
fn site_file(world: &World, typed: &str) -> String {
    opened::from_here(world, typed).unwrap_or_else(|| typed.to_owned())
}

/// What can't be supposed: of one thing as a failure, of several as diagnostics.
fn refused(texts: &Snapshot, problems: &[Diagnostic], common: &Common) -> Failure {
    if let [problem] = problems
        && problem.place.is_none()
    {
        return opened::failed(problem);
    }
    diagnostics::show(texts, problems, common);
    Failure::Work("this can't be supposed".to_owned(), None)
}

/// What is supposed, in words.
fn told(args: &SupposeArgs) -> String {
    let mut parts: Vec<String> = Vec::new();
    parts.extend(args.front.as_ref().map(|front| match front {
        Front::Page(id) => format!("the front were the page {id}"),
        Front::Collection(name) => format!("the front were the listing of {name}"),
    }));
    parts.extend(args.to_theme.as_ref().map(|name| format!("the theme were {name}")));
    parts.extend(args.parent.as_ref().map(|name| format!("the theme's parent were {name}")));
    parts.extend(args.address_pattern.iter().map(|(name, pattern)| format!("the addresses of {name} were {pattern}")));
    parts.extend(args.without.iter().map(|file| format!("{file} were gone")));
    parts.extend(args.add.iter().map(|file| match file.split_once('=') {
        Some((file, from)) => format!("{file} were there, with the text of {from}"),
        None => format!("{file} were there"),
    }));
    parts.extend(args.edit.iter().map(|(file, draft)| match draft.as_str() {
        "-" => format!("{file} had the text of standard input"),
        draft => format!("{file} had the text of {draft}"),
    }));
    parts.extend(args.choose.iter().map(|(name, address)| format!("{address} had chosen {name}")));
    parts.join(" and ")
}

/// Where the addresses lead that would be redirects.
fn redirects(after: &World, difference: &Difference, all: bool) -> String {
    let new = difference.changed.iter().filter_map(|change| {
        let Routed::Redirect(to) = after.route_decoded(&change.address) else { return None };
        let to = vec![(plain(&change.address), Style::new()), (format!("→ {}", plain(&to)), STRONG)];
        change.to.is_some().then_some(to)
    });
    let rows: Vec<_> = new.collect();
    let shown = if all { rows.len() } else { rows.len().min(MOST_REDIRECTS) };
    if rows.is_empty() {
        return String::new();
    }
    let more = match rows.len() - shown {
        0 => String::new(),
        left => format!("  and {left} more; --all lists them\n"),
    };
    format!("Where they lead:\n{}{more}\n", table::text(&rows[..shown], 2))
}

/// So many redirects are listed without `--all`.
const MOST_REDIRECTS: usize = 6;

fn text(told: &str, difference: &Difference, redirects: &str, args: &SupposeArgs, html: Html) -> String {
    let mut out = format!("{}\n\n", styled(STRONG, &plain(&format!("If {told}:"))));
    out.push_str(&difference::text(difference, args.all, html));
    out.push_str(redirects);
    let stay = match difference.unchanged {
        1 => "1 address stays as it is.".to_owned(),
        count => format!("{} stay as they are.", addresses(count)),
    };
    let _ = writeln!(out, "{stay}");
    match html {
        Html::No => out.push_str("Add --html to see which pages differ in HTML.\n"),
        Html::Whether if !difference.changed.is_empty() => out.push_str("Add --diff to see how.\n"),
        Html::Whether | Html::How => {}
    }
    let errors = difference.problems.iter().filter(|problem| problem.diagnostic.is_error()).count();
    let warnings = difference.problems.len() - errors;
    let errors = (errors > 0).then(|| counted(errors, "new error", "new errors"));
    let warnings = (warnings > 0).then(|| counted(warnings, "new warning", "new warnings"));
    // What is counted here is shown after it, on standard error.
    let _ = match [errors, warnings].into_iter().flatten().collect::<Vec<_>>().as_slice() {
        [] => writeln!(out, "No new problems."),
        some => writeln!(out, "{}:", some.join(", ")),
    };
    out
}

/// An error with its addresses in the help.
fn with_addresses(problem: &NewProblem) -> Diagnostic {
    let of_content = problem.diagnostic.place.as_ref().is_some_and(|place| place.path.starts_with("content/"));
    if problem.addresses.is_empty() || of_content {
        return problem.diagnostic.clone();
    }
    let shown = problem.addresses.iter().take(3).cloned().collect::<Vec<_>>().join(", ");
    let more = match problem.addresses.len() {
        0..=3 => String::new(),
        count => format!(" and {} more", count - 3),
    };
    let help = problem.diagnostic.help.as_ref().map_or(String::new(), |help| format!("{help}; "));
    problem.diagnostic.clone().help(format!("{help}it is about {shown}{more}"))
}
