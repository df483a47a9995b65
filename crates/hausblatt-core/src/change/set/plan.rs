//! What setting values would write, and why it is refused.

use std::ops::Range;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::change::set::expected::{data_of, expected, unknown_key};
use crate::files::edit::Write;
use crate::files::front_matter_edit::text_of;
use crate::model::content::ContentId;
use crate::schema::config;
use crate::text::codes;
use crate::text::data::{Data, DataValue, Entry};
use crate::text::data_change::{DataChange, DataPath, found};
use crate::text::front::{self, NotChanged};
use crate::text::shell::word;
use crate::text::toml_change::{self, TomlNotChanged};
use crate::text::toml_data;
use crate::world::World;

/// The file whose values are set.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SetTarget {
    /// `hausblatt.toml`.
    Site,
    /// The manifest of this theme, by its place in the lineage.
    Theme(usize),
    /// The front matter of this content.
    Content(ContentId),
}

/// What is to become of a value: a key with dots, as it is typed, and the rest.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Assignment {
    /// A key has this value.
    Set(String, String),
    /// A key is taken out.
    Clear(String),
    /// This comes into a list: at its end or, where the key ends with a position, before what is there.
    Add(String, String),
    /// What is at this position of a list comes to that one.
    Move(String, usize),
}

impl Assignment {
    /// The key.
    pub fn key(&self) -> &str {
        match self {
            Assignment::Set(key, _) | Assignment::Clear(key) | Assignment::Add(key, _) | Assignment::Move(key, _) => {
                key
            }
        }
    }

    /// The words that say it on a command line.
    fn words(&self) -> Vec<String> {
        match self {
            Assignment::Set(key, value) => vec![format!("{key}={value}")],
            Assignment::Clear(key) => vec!["--clear".to_owned(), key.clone()],
            Assignment::Add(key, value) => vec!["--add".to_owned(), format!("{key}={value}")],
            Assignment::Move(key, to) => vec!["--move".to_owned(), format!("{key}={to}")],
        }
    }
}

impl SetTarget {
    /// The path of its file.
    pub fn path(self, world: &World) -> String {
        match self {
            SetTarget::Site => config::FILE.to_owned(),
            SetTarget::Theme(at) => world.lineage.themes[at].manifest.to_string(),
            SetTarget::Content(id) => world.site.content(id).path().to_string(),
        }
    }

    /// How it is typed.
    pub fn word(self, world: &World) -> String {
        match self {
            SetTarget::Site => "site".to_owned(),
            SetTarget::Theme(0) => "theme".to_owned(),
            SetTarget::Theme(_) => self.path(world),
            SetTarget::Content(id) => {
                let content = world.site.content(id);
                content.address.as_deref().unwrap_or(content.path()).to_owned()
            }
        }
    }

    /// Why the values of its file can't be read, if so.
    pub fn problem(self, world: &World) -> Option<Diagnostic> {
        let SetTarget::Content(id) = self else { return None };
        let node = &world.site.content(id).node;
        match text_of(node) {
            Ok(_) => node.front().problem.as_ref().map(|problem| in_front_matter(&node.path, &problem.message)),
            Err(problem) => Some(problem),
        }
    }

    /// What its file says now; nothing where that can't be read ([`SetTarget::problem`]).
    pub fn entries(self, world: &World) -> Vec<Entry> {
        match self {
            SetTarget::Content(id) => world.site.content(id).node.front().entries.clone(),
            SetTarget::Site | SetTarget::Theme(_) => {
                let text = world.snapshot.file(&self.path(world)).and_then(|node| node.text().cloned());
                text.map(|text| toml_data::read(&"".into(), &text, &mut Vec::new())).unwrap_or_default()
            }
        }
    }
}

/// The command that says the same.
pub fn command(world: &World, target: SetTarget, assignments: &[Assignment]) -> String {
    let mut words = vec![target.word(world)];
    // The command takes them in this order, whatever order they are typed in.
    words.extend(assignments.iter().flat_map(Assignment::words));
    let words: Vec<String> = words.iter().map(|one| word(one)).collect();
    format!("hausblatt set {}", words.join(" "))
}

/// Of what would be wrong with these assignments and is not now, that for which they are refused: errors, and names of
/// something that is not there. What another value lets go of is for the site's owner to see.
pub fn wrong(
    target: SetTarget,
    assignments: &[Assignment],
    write: Option<&Write>,
    new: Vec<Diagnostic>,
) -> Vec<Diagnostic> {
    let places = places(target, assignments, write);
    let is_named = |problem: &Diagnostic| {
        let at = problem.place.as_ref().filter(|place| Some(&*place.path) == write.map(|write| &*write.path));
        let start = at.map(|place| place.span.range().start);
        (problem.code.starts_with("unknown-") || problem.code.starts_with("choice-"))
            && start.is_some_and(|start| places.iter().any(|place| place.contains(&start)))
    };
    new.into_iter().filter(|problem| problem.is_error() || is_named(problem)).collect()
}

/// Where the new text says what is set: each key with its value and, of what is deeper, the group that it is in.
fn places(target: SetTarget, assignments: &[Assignment], write: Option<&Write>) -> Vec<Range<usize>> {
    let text = write.and_then(|write| std::str::from_utf8(write.bytes.as_deref()?).ok()).unwrap_or("");
    let entries = match target {
        SetTarget::Content(_) => front::read(text).entries,
        SetTarget::Site | SetTarget::Theme(_) => toml_data::read(&"".into(), text, &mut Vec::new()),
    };
    let paths = assignments.iter().filter_map(|assignment| DataPath::parse(assignment.key()).ok());
    let place = |path: DataPath| {
        let first = entries.iter().find(|entry| *entry.key == path.steps()[0])?;
        let second =
            path.steps().get(1).and_then(|step| first.data.as_map()?.iter().find(|entry| *entry.key == **step));
        let entry = second.unwrap_or(first);
        Some(entry.span.range().start..last_byte(&entry.data).max(entry.span.range().end) + 1)
    };
    paths.filter_map(place).collect()
}

/// After the last byte of a value and of all that is in it.
fn last_byte(data: &Data) -> usize {
    let inner = match &data.value {
        DataValue::List(members) => members.iter().map(last_byte).max(),
        DataValue::Map(entries) => entries.iter().map(|entry| last_byte(&entry.data).max(entry.span.range().end)).max(),
        _ => None,
    };
    inner.unwrap_or(0).max(data.span.range().end)
}

/// What these assignments write, without a look at what the site would be; nothing where the file says all of it already.
///
/// # Errors
/// Why they can't be made.
pub fn edited(world: &World, target: SetTarget, assignments: &[Assignment]) -> Result<Option<Write>, Box<Diagnostic>> {
    let path = target.path(world);
    let node = match target {
        SetTarget::Content(id) => Some(&world.site.content(id).node),
        SetTarget::Site | SetTarget::Theme(_) => world.snapshot.file(&path),
    };
    let Some(node) = node else {
        return Err(Box::new(Diagnostic::of(&codes::UNKNOWN_FILE, format!("there is no file {path}"))));
    };
    let before = text_of(node)?;
    let mut text = before.to_string();
    for assignment in assignments {
        text = one(world, target, &path, &text, assignment).map_err(Box::new)?;
    }
    Ok((text != *before).then(|| Write::instead_of(path, before.as_bytes(), text)))
}

/// An error in front matter, which is to be fixed before a value of it is set.
fn in_front_matter(file: &str, why: &str) -> Diagnostic {
    Diagnostic::of(&codes::FRONT_MATTER, format!("the front matter has an error: {why}"))
        .help("fix it first")
        .at(&file.into(), Span::default())
}

fn one(
    world: &World,
    target: SetTarget,
    file: &str,
    text: &str,
    assignment: &Assignment,
) -> Result<String, Diagnostic> {
    let wrong = |message: String| Diagnostic::of(&codes::WRONG_VALUE, message);
    let path = DataPath::parse(assignment.key())
        .map_err(|message| wrong(message).help("write it as in tagline, settings.motto or trays.main.2.text"))?;
    let steps = path.steps();
    if let (SetTarget::Content(id), Assignment::Set(..) | Assignment::Add(..)) = (target, assignment)
        && let Some((message, help)) = unknown_key(world, world.site.content(id), &steps[0])
    {
        return Err(Diagnostic::of(&lang_codes::UNKNOWN_FIELD, message).help(help));
    }
    let entries = match target {
        SetTarget::Content(_) => front::read(text).entries,
        SetTarget::Site | SetTarget::Theme(_) => toml_data::read(&"".into(), text, &mut Vec::new()),
    };
    let typed = |of: Option<&_>, now: Option<&Data>, value: &str| {
        data_of(world, of, now, value).map_err(|message| {
            let help = value.trim().is_empty().then(|| format!("take it out: --clear {path}"));
            wrong(format!("{path}: {message}")).maybe_help(help)
        })
    };
    let change = match assignment {
        Assignment::Set(_, value) => {
            let of = expected(world, target, steps);
            DataChange::Set(typed(of.as_ref(), found(&entries, steps), value)?)
        }
        Assignment::Add(_, value) => {
            let of = expected(world, target, steps).map(|of| match of {
                crate::schema::fields::FieldType::List(of) => *of,
                of => of,
            });
            DataChange::Add(typed(of.as_ref(), None, value)?)
        }
        Assignment::Clear(_) => DataChange::Clear,
        Assignment::Move(_, to) => DataChange::Move(*to),
    };
    if !matches!(target, SetTarget::Content(_))
        && let DataChange::Set(Data { value: DataValue::Nothing, .. }) = &change
    {
        return Err(wrong(format!("{path}: TOML has no empty value")).help(format!("take it out: --clear {path}")));
    }
    let by_hand = format!("write {path} by hand");
    let at_file = |diagnostic: Diagnostic| diagnostic.at(&file.into(), Span::default());
    match target {
        SetTarget::Content(_) => front::changed(text, steps, &change).map_err(|why| match why {
            NotChanged::Faulty(problem) => in_front_matter(file, &problem.message),
            NotChanged::Impossible(message) => wrong(message),
            NotChanged::Unsafe => at_file(
                Diagnostic::of(
                    &codes::FRONT_MATTER,
                    format!("this front matter is written so that \"{path}\" can't be changed safely"),
                )
                .help(by_hand),
            ),
        }),
        SetTarget::Site | SetTarget::Theme(_) => toml_change::changed(text, steps, &change).map_err(|why| match why {
            TomlNotChanged::Faulty(message) => at_file(Diagnostic::of(&codes::BAD_TOML, message).help("fix it first")),
            TomlNotChanged::Impossible(message) => wrong(message),
            TomlNotChanged::Unsafe => {
                let message = format!("this file is written so that \"{path}\" can't be changed safely");
                at_file(Diagnostic::of(&codes::BAD_TOML, message).help(by_hand))
            }
        }),
    }
}
