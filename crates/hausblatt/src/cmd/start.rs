//! `start`: creates files that work at once.

use std::env;
use std::fmt::Write as _;
use std::fs;
use std::io;
use std::path::Path;

use hausblatt_core::change::start::{self, Extent, From};
use hausblatt_core::files::Depth;
use hausblatt_core::files::edit::{Write, write_all};
use hausblatt_core::pack::{Became, MOST_BYTES, unpack};
use serde::Serialize;

use crate::cli::{StartArgs, StartCommand};
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{FAINT, GOOD, NOTE, STRONG, plain, styled, to_type, word};
use crate::show::table::counted;
use crate::show::wrap::wrapped;

/// What was written, as JSON.
#[derive(Serialize)]
struct Started {
    written: Vec<String>,
    notes: Vec<String>,
    next: Vec<String>,
}

/// Runs the command.
pub fn run(common: &Common, args: &StartArgs) -> Result<Outcome, Failure> {
    fitting(args)?;
    let Some(name) = args.name.as_deref() else {
        return match (&args.from, args.what) {
            (Some(archive), StartCommand::Theme) => unpacked(common, args, archive),
            _ => Err(Failure::usage(
                "a name is missing",
                "write it behind what is to be created, or see hausblatt start --help",
            )),
        };
    };
    if args.what == StartCommand::Site {
        return site(common, args, name);
    }
    let world = opened::open_to_write(common, Depth::Whole)?;
    let title = args.title.as_deref();
    let from = match (&args.from, args.blank) {
        (Some(file), _) => From::Copy(opened::theme_file(world, file)),
        (None, true) => From::Blank,
        (None, false) => From::Inherited,
    };
    let begun = match args.what {
        StartCommand::Theme => start::theme(world, name, args.parent.as_deref()),
        StartCommand::Template => start::template(world, name, &from),
        StartCommand::Layout => start::layout(world, name),
        StartCommand::Partial => start::partial(world, name),
        StartCommand::Component => start::component(world, name),
        StartCommand::Page => start::page(world, name, title),
        StartCommand::Entry | StartCommand::Site => start::entry(world, name, title),
    };
    let begun = begun.map_err(|problem| opened::failed(&problem))?;
    opened::write(world, &begun.writes)?;
    show(common, &begun, world.snapshot.root())?;
    Ok(Outcome::Clean)
}

/// Options that what is started does not have.
fn fitting(args: &StartArgs) -> Result<(), Failure> {
    let template = args.what == StartCommand::Template;
    let unpacks = args.what == StartCommand::Theme && args.name.is_none();
    let titled = matches!(args.what, StartCommand::Site | StartCommand::Page | StartCommand::Entry);
    let odd = [
        (args.parent.is_some() && args.what != StartCommand::Theme, "--parent", "a theme"),
        (args.from.is_some() && !template && !unpacks, "--from", "a template, or a theme without a name"),
        (args.update && !unpacks, "--update", "a theme that is unpacked"),
        (args.blank && !template, "--blank", "a template"),
        (args.minimal && args.what != StartCommand::Site, "--minimal", "a site"),
        (args.title.is_some() && !titled, "--title", "a site, a page or an entry"),
    ];
    match odd.iter().find(|(odd, ..)| *odd) {
        Some((_, option, what)) => {
            Err(Failure::usage(format!("{option} is for {what}"), "leave it out, or see hausblatt start --help"))
        }
        None => Ok(()),
    }
}

fn site(common: &Common, args: &StartArgs, site: &str) -> Result<Outcome, Failure> {
    let folder = Path::new(site);
    let absolute = env::current_dir().map_err(Failure::from)?.join(folder);
    if absolute.join("hausblatt.toml").exists() {
        let help = format!("it stays as it is; see it with: hausblatt map --site {}", word(site));
        return Err(Failure::Work(format!("{} is a site already", folder.display()), Some(help)));
    }
    opened::outside_of_sites(folder)?;
    let name = absolute.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let title = args.title.clone().unwrap_or_else(|| hausblatt_core::text::slug::title_of(&name));
    let extent = if args.minimal { Extent::Minimal } else { Extent::Whole };
    let mut begun = start::site(&title, extent);
    // What is there with other bytes is someone's; what is the same was written by a run that was ended.
    let other = |write: &&Write| match opened::regular(&absolute.join(&write.path)) {
        Ok(now) => write.bytes != Some(now),
        Err(error) => error.kind() != io::ErrorKind::NotFound,
    };
    if let Some(there) = begun.writes.iter().find(other) {
        let message = format!("{} already exists", folder.join(&there.path).display());
        return Err(Failure::Work(message, Some("choose an empty folder".to_owned())));
    }
    fs::create_dir_all(folder).map_err(|error| Failure::Work(format!("{}: {error}", folder.display()), None))?;
    // What makes a folder a site comes last: until then nothing takes it for one.
    let mut writes = begun.writes.clone();
    writes.rotate_left(1);
    write_all(&opened::disk(), folder, &writes)
        .map_err(|(path, error)| Failure::Work(format!("{path} can't be written: {error}"), None))?;
    if site != "." {
        begun.next.insert(0, (format!("cd {}", word(site)), "go there".to_owned()));
    }
    show(common, &begun, folder)?;
    Ok(Outcome::Clean)
}

/// A theme unpacked, as JSON.
#[derive(Serialize)]
struct UnpackedJson {
    theme: String,
    written: Vec<String>,
    conflicts: Vec<String>,
    kept: Vec<String>,
}

/// Unpacks a theme from an archive.
fn unpacked(common: &Common, args: &StartArgs, archive: &str) -> Result<Outcome, Failure> {
    let world = opened::open_to_write(common, Depth::Whole)?;
    let unreadable = |error: io::Error| Failure::Work(format!("{archive} can't be read: {error}"), None);
    if fs::metadata(archive).map_err(unreadable)?.len() > MOST_BYTES {
        let message = format!("{archive} is larger than {} MB", MOST_BYTES >> 20);
        return Err(Failure::Work(message, Some("name an archive that hausblatt pack wrote".to_owned())));
    }
    let bytes = opened::regular(Path::new(archive)).map_err(unreadable)?;
    let plan = unpack(world, &bytes, args.update).map_err(|problem| opened::failed(&problem))?;
    opened::write(world, &plan.writes)?;
    if let Some(parent) = &plan.lacks_parent {
        crate::tell!(
            "{} the parent {} is neither in the archive nor in this site; unpack it, too, before {} can be used",
            styled(NOTE, "note:"),
            plain(parent),
            plain(&plan.theme)
        );
    }
    let is_shown = |path: &&String| !path.rsplit('/').next().is_some_and(|name| name.starts_with('.'));
    let written: Vec<String> = plan.writes.iter().map(|write| &write.path).filter(is_shown).cloned().collect();
    if common.format == Format::Json {
        json(&UnpackedJson { theme: plan.theme, written, conflicts: plan.conflicts.clone(), kept: plan.kept })?;
        return Ok(Outcome::of(plan.conflicts.is_empty()));
    }
    let mut out = String::new();
    for (name, became) in &plan.themes {
        let folder = format!("themes/{name}/");
        let count = written.iter().filter(|path| path.starts_with(&folder)).count();
        let files = counted(count, "file", "files");
        let _ = match became {
            Became::New => writeln!(out, "{} {}  {files}", styled(GOOD, "Wrote"), styled(STRONG, &folder)),
            Became::Same => writeln!(out, "{} {folder} is there already, the same", styled(GOOD, "✓")),
            Became::Updated if count == 0 => writeln!(out, "{} {folder} has all that is new", styled(GOOD, "✓")),
            Became::Updated => writeln!(out, "{} {}  {files}", styled(GOOD, "Updated"), styled(STRONG, &folder)),
        };
    }
    let parts = [
        (&plan.conflicts, "Both sides changed the same lines, which are marked, of"),
        (&plan.kept, "Changed here, and gone or no text in the archive, so it stays as it is:"),
    ];
    for (paths, what) in parts.into_iter().filter(|(paths, _)| !paths.is_empty()) {
        let _ = writeln!(out, "\n{what}");
        for path in paths {
            let _ = writeln!(out, "  {}", plain(path));
        }
    }
    let next = [
        ("hausblatt needs --missing", "what this site lacks of what it needs"),
        ("hausblatt suppose --to-theme", "what would change with it"),
    ];
    out.push_str("\nNext:\n");
    for (command, what) in next {
        let command = match command.ends_with("--to-theme") {
            true => format!("{command} {}", plan.theme),
            false => format!("{command} --theme {}", plan.theme),
        };
        let _ = writeln!(out, "  {}\n      {}", to_type(&command), styled(FAINT, what));
    }
    if !common.quiet {
        print(&out)?;
    }
    Ok(Outcome::of(plan.conflicts.is_empty()))
}

/// What is written; a stale record that goes is nobody's news.
fn written(begun: &start::Scaffold) -> impl Iterator<Item = &Write> {
    begun.writes.iter().filter(|write| write.bytes.is_some())
}

fn show(common: &Common, begun: &start::Scaffold, root: &Path) -> Result<(), Failure> {
    if common.format == Format::Json {
        return json(&Started {
            written: written(begun).map(|write| write.path.clone()).collect(),
            notes: begun.notes.clone(),
            next: begun.next.iter().map(|(command, _)| command.clone()).collect(),
        });
    }
    if common.quiet {
        return Ok(());
    }
    let mut out = String::new();
    for write in written(begun) {
        let path =
            if root == Path::new(".") { write.path.clone() } else { root.join(&write.path).display().to_string() };
        let _ = writeln!(out, "{} {}", styled(GOOD, "Wrote"), styled(STRONG, &plain(&path)));
    }
    for note in &begun.notes {
        let _ = writeln!(out, "{}", wrapped(&plain(note), anstyle::Style::new()));
    }
    if !begun.next.is_empty() {
        out.push_str("\nNext:\n");
    }
    for (command, what) in &begun.next {
        let _ = writeln!(out, "  {}\n      {}", to_type(command), styled(FAINT, &plain(what)));
    }
    print(&out)
}
