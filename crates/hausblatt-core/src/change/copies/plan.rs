//! What overriding would write, and why it is refused.

use std::error::Error;
use std::fmt::{self, Display, Formatter};

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;

use crate::change::changes::added_by;
use crate::change::copies::effect::effect;
use crate::change::copies::extend::extend;
use crate::change::copies::unique_rung::{UniqueRung, unique_rung};
use crate::change::copies::{Effect, Slot};
use crate::files::edit::Write;
use crate::lookup::file_argument::with_ending;
use crate::lookup::resolution::Resolution;
use crate::model::request::Request;
use crate::text::codes;
use crate::text::shell::word;
use crate::themes::lineage::FileId;
use crate::themes::originals::{self, Original};
use crate::themes::theme::{Theme, is_in_folder};
use crate::world::World;

/// What is to be overridden.
#[derive(Clone, Debug)]
pub enum OverrideTarget {
    /// A file; whether it was named with its theme, so that none nearer is meant.
    File(FileId, bool),
    /// Whatever renders this request.
    Request(Request),
}

/// How it is to be overridden.
#[derive(Clone, Debug, Default)]
pub struct OverrideOptions {
    /// Nothing else may change.
    pub only: bool,
    /// Under another name.
    pub name: Option<String>,
    /// A file that goes on, instead of a copy.
    pub slots: bool,
    /// A file that is there may be replaced.
    pub force: bool,
}

/// A file that is to be written.
#[derive(Clone, Debug)]
pub struct Override {
    /// Its path from the theme.
    pub name: String,
    /// Its path from the site.
    pub path: String,
    /// What it is a copy of; none for a file that goes on.
    pub original: Option<Original>,
    /// The slots that it could fill, if it goes on.
    pub slots: Vec<Slot>,
    /// What is to be written, in this order.
    pub writes: Vec<Write>,
    /// Whether a file is replaced.
    pub replaces: bool,
    /// What it does.
    pub effect: Effect,
}

/// What comes of asking for a file of one's own.
#[derive(Clone, Debug)]
pub enum Planned {
    /// This is to be written.
    Write(Box<Override>),
    /// The active theme has it already, at this path.
    Already(String),
}

/// Why nothing is written.
#[derive(Clone, Debug)]
pub struct Refused {
    /// Why, and what to do.
    pub diagnostic: Box<Diagnostic>,
    /// The other addresses that would change.
    pub others: Vec<String>,
}

impl Display for Refused {
    fn fmt(&self, out: &mut Formatter<'_>) -> fmt::Result {
        self.diagnostic.fmt(out)
    }
}

impl Error for Refused {}

impl From<Diagnostic> for Refused {
    fn from(diagnostic: Diagnostic) -> Self {
        Self { diagnostic: Box::new(diagnostic), others: Vec::new() }
    }
}

/// The file that is copied, and where it goes.
struct Place {
    source: FileId,
    name: String,
    path: String,
}

/// Plans the active theme's own version of a file.
///
/// # Errors
/// Why nothing can be written.
pub fn plan(world: &World, what: &OverrideTarget, how: &OverrideOptions) -> Result<Planned, Refused> {
    let Place { source, name, path } = match place(world, what, how)? {
        Ok(place) => place,
        Err(path) => return Ok(Planned::Already(path)),
    };
    let active = world.lineage.active();
    let planned = match how.slots {
        true => extend(world, active, what, name, path)?,
        false => copy(world, active, source, name, path)?,
    };
    if let Planned::Write(planned) = &planned {
        refuse_new_errors(world, &world.lineage.file(source).node.path, planned)?;
    }
    Ok(planned)
}

/// What copying a file writes, without a look at what it does: none where the active theme has the file, at this path.
///
/// # Errors
/// Why nothing can be written.
pub fn writes_of_copy(
    world: &World,
    what: &OverrideTarget,
    how: &OverrideOptions,
) -> Result<Result<Vec<Write>, String>, Refused> {
    match place(world, what, how)? {
        Ok(Place { source, name, path }) => {
            let original = original(world, source)?;
            Ok(Ok(writes(world, world.lineage.active(), &name, &path, &original)?))
        }
        Err(path) => Ok(Err(path)),
    }
}

/// Where the active theme's own version goes; the path of one that is there already, if one is.
fn place(world: &World, what: &OverrideTarget, how: &OverrideOptions) -> Result<Result<Place, String>, Refused> {
    let active = world.lineage.active();
    let source = source(world, what, how)?;
    let source_name = world.lineage.file(source).name.to_string();
    let name = match (&how.name, what) {
        (Some(name), _) => name_as(world, what, &source_name, name)?,
        (None, OverrideTarget::Request(request)) if how.only => match unique_rung(world, active, request)? {
            UniqueRung::Name(name) => name,
            UniqueRung::Already(path) => return Ok(Err(path)),
        },
        (None, OverrideTarget::File(..)) if how.only => {
            let message = "--only is for an address: a file of this name is found for all that ask for it";
            return Err(Diagnostic::of(&codes::NOT_ALONE, message)
                .help("name the address, as in override /visit/ --only")
                .into());
        }
        (None, _) => source_name.clone(),
    };
    let path = format!("{}{name}", active.root);
    let there = world.snapshot.file(&path);
    if there.is_some() && !how.force {
        if how.name.is_some() {
            let message = format!("{path} already exists");
            return Err(Diagnostic::of(&codes::FILE_EXISTS, message)
                .help("choose another name, or replace it with --force")
                .into());
        }
        return Ok(Err(path));
    }
    if name == source_name && world.lineage.file(source).theme == 0 {
        let message = format!("there is no inherited {path} to copy");
        return Err(Diagnostic::of(&lang_codes::NOTHING_INHERITED, message)
            .help("it is the theme's own: edit it")
            .into());
    }
    Ok(Ok(Place { source, name, path }))
}

/// A file that would bring an error is not written. Those that its source has, too, are what one may want to fix by it.
fn refuse_new_errors(world: &World, source: &str, planned: &Override) -> Result<(), Refused> {
    let of_source = |new: &Diagnostic| {
        let at_source = |known: &&Diagnostic| known.place.as_ref().is_some_and(|place| *place.path == *source);
        world.problems.iter().filter(at_source).any(|known| known.code == new.code && known.message == new.message)
    };
    let new = added_by(world, &planned.writes).into_iter().find(|new| new.is_error() && !of_source(new));
    match new {
        None => Ok(()),
        Some(problem) => {
            let message = format!("with {}, the site would have an error: {}", planned.path, problem.message);
            let help = problem.help.clone().unwrap_or_else(|| "choose another name with --as".to_owned());
            Err(Diagnostic { place: None, message, help: Some(help), fix: None, related: Vec::new(), ..problem }.into())
        }
    }
}

pub(super) fn write_of(world: &World, path: &str, bytes: Vec<u8>) -> Result<Write, Diagnostic> {
    let Some(node) = world.snapshot.file(path) else { return Ok(Write::new(path, bytes)) };
    let earlier = node.bytes().map_err(|error| {
        Diagnostic::of(&codes::UNREADABLE, format!("{path} can't be read: {error}")).help("look at its permissions")
    })?;
    Ok(Write::instead_of(path, earlier, bytes))
}

/// The file that is copied.
fn source(world: &World, what: &OverrideTarget, how: &OverrideOptions) -> Result<FileId, Refused> {
    match what {
        OverrideTarget::File(id, _) if !is_in_folder(&world.lineage.file(*id).name) => {
            let message = format!("{} is not a file that a child theme inherits", world.lineage.file(*id).node.path);
            let help = "name a template, partial, layout, component, prepare file or asset";
            Err(Diagnostic::of(&codes::NOT_INHERITED, message).help(help).into())
        }
        OverrideTarget::File(id, true) if world.lineage.file(*id).theme > 0 => Ok(*id),
        OverrideTarget::File(id, _) => {
            let name = &world.lineage.file(*id).name;
            let inherited = world.lineage.not_hidden(name).find(|&other| world.lineage.file(other).theme > 0);
            Ok(inherited.unwrap_or(*id))
        }
        OverrideTarget::Request(request) => {
            let resolution = world.resolve(request.clone());
            let names: Vec<&str> = resolution.rungs.iter().map(|rung| rung.rung.name.as_str()).collect();
            let winner = resolution.winner.ok_or_else(|| {
                let message = format!("no file renders {}, so there is nothing to copy", request.address);
                let help = match names.last() {
                    Some(first) => format!("create one: hausblatt start template {}", word(first)),
                    None => "it is built in as it is".to_owned(),
                };
                Refused::from(Diagnostic::of(&codes::NOTHING_TO_COPY, message).help(help))
            })?;
            // To replace the active theme's own file is to take what it covers.
            let own = world.lineage.file(winner).theme == 0 && how.force && !how.only && how.name.is_none();
            if own { source(world, &OverrideTarget::File(winner, false), how) } else { Ok(winner) }
        }
    }
}

/// The name that `--as` requests, as a path from the theme.
fn name_as(world: &World, what: &OverrideTarget, source: &str, typed: &str) -> Result<String, Refused> {
    let folder = source.split('/').next().unwrap_or("templates");
    let typed = typed.strip_prefix(&format!("{folder}/")).unwrap_or(typed);
    let ending = Ending::split(source).map_or(Ending::Html, |(_, ending)| ending);
    let ended = match (Ending::split(typed), folder) {
        (Some(_), _) | (None, "assets" | "prepare" | "components") => with_ending(&format!("{folder}/{typed}")),
        (None, _) => format!("{folder}/{typed}.{}", ending.word()),
    };
    let odd = ended.split('/').any(|part| part.is_empty() || part.starts_with('.'));
    if odd {
        let message = format!("\"{typed}\" is not a valid name of a file");
        return Err(Diagnostic::of(&codes::BAD_NAME, message).help("write it as in --as page/visit").into());
    }
    let OverrideTarget::Request(request) = what else { return Ok(ended) };
    let resolution = world.resolve(request.clone());
    let name = ended.strip_prefix("templates/").unwrap_or(&ended);
    let offered = name.starts_with("offered/");
    if offered && request.kind.content().is_none() {
        let message = format!("{} is not content, so nobody can choose a template for it", request.address);
        return Err(Diagnostic::error(&codes::NOT_OFFERED, message).help(rungs(&resolution)).into());
    }
    if offered || resolution.rungs.iter().any(|rung| rung.rung.name == name) {
        return Ok(ended);
    }
    let message = format!("{} does not try the name {name}", request.address);
    Err(Diagnostic::of(&codes::NOT_A_RUNG, message).help(rungs(&resolution)).into())
}

fn rungs(resolution: &Resolution) -> String {
    let names: Vec<&str> = resolution.rungs.iter().map(|rung| rung.rung.name.as_str()).collect();
    format!("it tries {}", names.join(", "))
}

/// The World with a file in it.
pub(super) fn supposed(world: &World, path: &str, text: &str) -> Result<World, Refused> {
    World::load(world.snapshot.with(path, Some(text)), world.asking.clone()).map_err(|unloadable| {
        let first = unloadable.0.into_iter().next();
        first.unwrap_or_else(|| Diagnostic::of(&codes::NO_SITE, "the site can't be loaded with this file")).into()
    })
}

/// A file as the original of a copy.
fn original(world: &World, source: FileId) -> Result<Original, Refused> {
    let file = world.lineage.file(source);
    let bytes = file.node.bytes().map_err(|error| {
        let message = format!("{} can't be read: {error}", file.node.path);
        Refused::from(Diagnostic::of(&codes::UNREADABLE, message).help("look at its permissions"))
    })?;
    let theme = world.lineage.theme_of(source);
    Ok(Original { theme: theme.name.clone(), path: file.name.to_string(), version: theme.version.clone(), bytes })
}

/// What a copy writes. First the record: one without its copy does no harm.
fn writes(
    world: &World,
    active: &Theme,
    name: &str,
    path: &str,
    original: &Original,
) -> Result<Vec<Write>, Diagnostic> {
    let record = originals::record(&world.snapshot, active, name, original);
    Ok(vec![record, write_of(world, path, original.bytes.clone())?])
}

fn copy(world: &World, active: &Theme, source: FileId, name: String, path: String) -> Result<Planned, Refused> {
    let original = original(world, source)?;
    let after = supposed(world, &path, &String::from_utf8_lossy(&original.bytes))?;
    let writes = writes(world, active, &name, &path, &original)?;
    let effect = effect(world, &after, &name);
    let (original, slots, replaces) = (Some(original), Vec::new(), world.snapshot.file(&path).is_some());
    Ok(Planned::Write(Box::new(Override { name, path, original, slots, writes, replaces, effect })))
}
