//! `start`: creates files that work at once.

use std::env;
use std::fmt::Write as _;
use std::fs;
use std::io;
use std::path::Path;

use hausblatt_core::change::start::{self, Extent, From};
use hausblatt_core::files::Depth;
use hausblatt_core::files::edit::{Write, write_all};
use serde::Serialize;

use crate::cli::{StartArgs, StartCommand};
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{FAINT, GOOD, STRONG, plain, styled, to_type, word};
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
    if args.what == StartCommand::Site {
        return site(common, args);
    }
    let world = opened::open_to_write(common, Depth::Whole)?;
    let (name, title) = (args.name.as_str(), args.title.as_deref());
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
    let titled = matches!(args.what, StartCommand::Site | StartCommand::Page | StartCommand::Entry);
    let odd = [
        (args.parent.is_some() && args.what != StartCommand::Theme, "--parent", "a theme"),
        (args.from.is_some() && !template, "--from", "a template"),
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

fn site(common: &Common, args: &StartArgs) -> Result<Outcome, Failure> {
    let folder = Path::new(&args.name);
    let absolute = env::current_dir().map_err(Failure::from)?.join(folder);
    if absolute.join("hausblatt.toml").exists() {
        let help = format!("it stays as it is; see it with: hausblatt map --site {}", word(&args.name));
        return Err(Failure::Work(format!("{} is a site already", folder.display()), Some(help)));
    }
    if absolute.ancestors().skip(1).any(|folder| folder.join("hausblatt.toml").is_file()) {
        let message = format!("{} would be inside another site", folder.display());
        return Err(Failure::Work(message, Some("choose a folder outside of that one".to_owned())));
    }
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
    if args.name != "." {
        begun.next.insert(0, (format!("cd {}", word(&args.name)), "go there".to_owned()));
    }
    show(common, &begun, folder)?;
    Ok(Outcome::Clean)
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
