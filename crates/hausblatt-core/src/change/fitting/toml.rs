//! What can be written at a place of a TOML file: keys that the group may have, and values where only some fit.

use std::sync::Arc;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::source::Span;

use crate::change::fitting::{Fitting, Wanted, media, of_field, of_sort, plain};
use crate::schema::config;
use crate::schema::fields::{FieldType, TYPES, declared};
use crate::text::codes::UNKNOWN_KEY;
use crate::text::toml_data;
use crate::text::toml_places::{bare, places};
use crate::themes::theme;
use crate::world::World;

/// A name that no file has.
const PLACEHOLDER: &str = "zzhere";

/// What fits at a byte of the TOML file at a path, whose text this is; none where anything might. `codes` are those of what
/// `check` reports.
pub fn in_toml(world: &World, path: &str, text: &str, at: usize, codes: &[&Code]) -> Option<Fitting> {
    anything(world, path, text, at, codes).filter(|found| !found.names.is_empty())
}

fn anything(world: &World, path: &str, text: &str, at: usize, codes: &[&Code]) -> Option<Fitting> {
    let state = Scan::of(text.get(..at)?);
    let start = at - text[..at].chars().rev().take_while(|c| is_bare(*c)).map(char::len_utf8).sum::<usize>();
    match state.place {
        TomlPosition::Comment => None,
        TomlPosition::Header(open) => {
            let span = Span::new(open, at);
            Some(Fitting { span, what: Wanted::Header, names: headers(world, path) })
        }
        TomlPosition::Key => {
            let end = at + text[at..].chars().take_while(|c| is_bare(*c)).map(char::len_utf8).sum::<usize>();
            let has_value = text[end..].trim_start_matches([' ', '\t']).starts_with(['=', '.']);
            let value = if has_value { "" } else { " = 0" };
            let changed = format!("{}{PLACEHOLDER}{value}{}", &text[..start], &text[end..]);
            let names = keys(world, path, &changed)?;
            Some(Fitting { span: Span::new(start, at), what: Wanted::Key(has_value), names })
        }
        TomlPosition::Value | TomlPosition::Text(_) => {
            let (open, is_quoted) = match state.place {
                TomlPosition::Text(open) => (open, true),
                _ => (start, false),
            };
            let rest = &text[at..];
            let line = rest.split('\n').next().unwrap_or("");
            let stop: &[char] = if is_quoted { &['"', '\''] } else { &[',', '}', ']', '#', ' '] };
            let end = at + line.find(stop).unwrap_or(line.trim_end().len());
            let quote = if is_quoted { "" } else { "\"" };
            let changed = format!("{}{quote}{PLACEHOLDER}{quote}{}", &text[..open], &text[end..]);
            let found = places(&changed).into_iter();
            let place =
                found.filter(|place| !place.is_key).find(|place| bare(place.span.of(&changed)) == PLACEHOLDER)?;
            let keys: Vec<&str> = place.path.iter().map(String::as_str).collect();
            let (names, is_bare) = values(world, path, &keys, codes)?;
            let what = if is_bare { Wanted::Bare } else { Wanted::Text(is_quoted) };
            let fits = !(is_bare && is_quoted);
            fits.then_some(Fitting { span: Span::new(open, at), what, names })
        }
    }
}

fn is_bare(c: char) -> bool {
    c.is_alphanumeric() || matches!(c, '_' | '-')
}

/// What is written at the end of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum TomlPosition {
    /// A comment.
    Comment,
    /// The name of a group, which begins at this byte.
    Header(usize),
    /// A key.
    Key,
    /// A value that is not begun.
    Value,
    /// A text in quotes, which begins at this byte.
    Text(usize),
}

/// What is around the end of a text, found by going through it.
struct Scan {
    place: TomlPosition,
}

impl Scan {
    fn of(text: &str) -> Self {
        let mut place = TomlPosition::Key;
        let mut open: Vec<char> = Vec::new();
        let mut quote: Option<&str> = None;
        let mut before = TomlPosition::Key;
        let mut at = 0;
        while let Some(c) = text[at..].chars().next() {
            let rest = &text[at..];
            let mut length = c.len_utf8();
            match (quote, c) {
                (Some(own), '\\') if own.starts_with('"') => {
                    length += rest[1..].chars().next().map_or(0, char::len_utf8);
                }
                (Some(own), _) if rest.starts_with(own) => {
                    length = own.len();
                    (quote, place) = (None, before);
                }
                (Some(own), '\n') if own.len() == 1 => (quote, place) = (None, TomlPosition::Key),
                (Some(_), _) => {}
                (None, '\n') if open.is_empty() => place = TomlPosition::Key,
                (None, '\n') if place == TomlPosition::Comment => place = before,
                (None, _) if place == TomlPosition::Comment => {}
                (None, '#') => (before, place) = (place, TomlPosition::Comment),
                (None, '"' | '\'') => {
                    let own =
                        ["\"\"\"", "'''", "\"", "'"].into_iter().find(|own| rest.starts_with(own)).unwrap_or("\"");
                    length = own.len();
                    (quote, before, place) = (Some(own), place, TomlPosition::Text(at + length));
                }
                (None, '[') if place == TomlPosition::Key && open.is_empty() => {
                    length = if rest.starts_with("[[") { 2 } else { 1 };
                    place = TomlPosition::Header(at + length);
                }
                (None, ']') if matches!(place, TomlPosition::Header(_)) => place = TomlPosition::Comment,
                (None, '[' | '{') => {
                    open.push(c);
                    place = if c == '{' { TomlPosition::Key } else { TomlPosition::Value };
                }
                (None, ']' | '}') => {
                    open.pop();
                    // Behind it only a comma or the end of the line can come.
                    (before, place) = (TomlPosition::Key, TomlPosition::Comment);
                    if !open.is_empty() {
                        place = TomlPosition::Value;
                    }
                }
                (None, ',') => {
                    place = if open.last() == Some(&'{') { TomlPosition::Key } else { TomlPosition::Value };
                }
                (None, '=') if !matches!(place, TomlPosition::Header(_)) => place = TomlPosition::Value,
                (None, _) => {}
            }
            at += length;
        }
        // A key in quotes is left as it is.
        if quote.is_some() && before == TomlPosition::Key {
            place = TomlPosition::Comment;
        }
        Self { place }
    }
}

/// Whether a file is a theme's manifest.
fn is_manifest(path: &str) -> bool {
    path.starts_with("themes/") && path.ends_with(theme::MANIFEST)
}

/// The names of groups that a file may have.
fn headers(world: &World, path: &str) -> Vec<(String, String)> {
    if is_manifest(path) {
        return plain(&["theme", "settings", "needs"], "");
    }
    if path != config::FILE {
        return plain(&["component", "fields"], "");
    }
    let top = [
        "site",
        "front",
        "pages.fields",
        "menus",
        "content",
        "search",
        "errors",
        "settings",
        "ladders",
        "build",
        "check.except",
        "rehearse.except",
    ];
    let mut names = plain(&top, "");
    for collection in world.site.collections.iter() {
        let name = &collection.config.name.text;
        names.push((format!("collections.{name}"), collection.config.label.clone()));
        names.push((format!("collections.{name}.fields"), "its fields".to_owned()));
    }
    for taxonomy in world.site.taxonomies.iter() {
        let name = &taxonomy.config.name.text;
        names.push((format!("taxonomies.{name}"), taxonomy.config.label.clone()));
        names.push((format!("taxonomies.{name}.terms"), "its terms".to_owned()));
    }
    names.extend(world.site.config.routes.iter().map(|route| (format!("routes.{}", route.name.text), String::new())));
    names
}

/// The keys that fit where the placeholder is one.
fn keys(world: &World, path: &str, changed: &str) -> Option<Vec<(String, String)>> {
    let all = places(changed);
    let place = all.iter().filter(|place| place.is_key).find(|place| place.span.of(changed) == PLACEHOLDER)?;
    let (_, group) = place.path.split_last()?;
    let taken = |name: &str| {
        let own = all.iter().filter(|other| other.is_key && other.path.split_last().is_some_and(|(_, of)| of == group));
        own.into_iter().any(|other| bare(other.span.of(changed)) == name)
    };
    let group: Vec<&str> = group.iter().map(String::as_str).collect();
    let names = match (path == config::FILE, group.as_slice()) {
        (true, ["site"]) => plain(config::SITE_KEYS, ""),
        (true, ["settings"]) => {
            let about = |field: &crate::schema::fields::Field| {
                field.label.clone().unwrap_or_else(|| field.of.word().to_owned())
            };
            world.settings.iter().map(|setting| (setting.field.name.clone(), about(&setting.field))).collect()
        }
        (true, ["errors"]) => plain(&["404", "500"], "the page that fills it"),
        (_, [.., "fields", _]) | (false, ["settings", _]) => {
            let keys: Vec<&str> = keys_of_fields().into_iter().filter(|key| *key != "name").collect();
            plain(&keys, "")
        }
        (false, ["fields"]) => plain(&keys_of_fields(), ""),
        (false, []) => return None,
        (false, ["component"]) => plain(&["label", "about"], ""),
        _ => {
            let path: Arc<str> = path.into();
            let mut problems = Vec::new();
            if is_manifest(&path) {
                let name = path.strip_prefix("themes/")?.split('/').next()?;
                theme::read(&world.snapshot.with(&path, Some(changed)), name, &mut problems);
            } else {
                config::read(changed, &mut problems);
            }
            let unknown = problems.into_iter().find(|problem| {
                let is_here = problem.place.as_ref().is_some_and(|own| own.span == place.span);
                problem.code == UNKNOWN_KEY.name && is_here
            });
            plain(&unknown?.choices, "")
        }
    };
    Some(names.into_iter().filter(|(name, _)| !taken(name)).collect())
}

/// The keys of a field, as they are read: one that has no type yet is not read to its end.
fn keys_of_fields() -> Vec<&'static str> {
    let path: Arc<str> = config::FILE.into();
    let mut problems = Vec::new();
    let entries = toml_data::read(&path, &format!("field = {{ type = \"text\", {PLACEHOLDER} = 0 }}"), &mut problems);
    declared(&path, &entries, &mut problems);
    problems.into_iter().find(|problem| problem.code == UNKNOWN_KEY.name).map_or(Vec::new(), |problem| problem.choices)
}

/// The values that fit below these keys, and whether they are written without quotes.
fn values(world: &World, path: &str, keys: &[&str], codes: &[&Code]) -> Option<(Vec<(String, String)>, bool)> {
    let texts = |names: &[&str]| Some((plain(names, ""), false));
    let truth = || Some((plain(&["true", "false"], ""), true));
    let named = |sort: &str| Some((of_sort(world, sort), false));
    let collections = || of_sort(world, "collection:");
    let of_declaration = |keys: &[&str]| match keys {
        ["type"] => texts(TYPES),
        ["of"] => texts(TYPES),
        ["collection"] => Some((collections(), false)),
        ["required"] => truth(),
        _ => None,
    };
    if is_manifest(path) {
        return match keys {
            ["theme", "parent"] => {
                let own = path.strip_prefix("themes/")?.split('/').next()?;
                let others = theme::names(&world.snapshot).into_iter().filter(|name| name != own);
                Some((others.map(|name| (name, String::new())).collect(), false))
            }
            ["theme", "hide"] => {
                let own = world.lineage.themes.iter().position(|theme| *theme.manifest == *path)?;
                let files = world.lineage.files.iter().filter(|file| file.theme > own);
                Some((
                    files.map(|file| (file.name.to_string(), world.lineage.themes[file.theme].name.clone())).collect(),
                    false,
                ))
            }
            ["settings", name, "default"] => {
                let setting = world.settings.iter().find(|setting| setting.field.name == **name)?;
                of_type(world, &setting.field.of)
            }
            ["settings", _, rest @ ..] => of_declaration(rest),
            _ => None,
        };
    }
    if path != config::FILE {
        return match keys {
            ["fields", rest @ ..] => of_declaration(rest),
            _ => None,
        };
    }
    match keys {
        ["site", "theme"] => {
            Some((theme::names(&world.snapshot).into_iter().map(|name| (name, String::new())).collect(), false))
        }
        ["site", "timezone"] => {
            Some((jiff::tz::db().available().map(|name| (name.to_string(), String::new())).collect(), false))
        }
        ["front", "page"] | ["errors", _] => named("page:"),
        ["front", "collection"] => Some((collections(), false)),
        ["collections", name, "order"] => {
            let fields = world.site.collection(name).map(|(_, collection)| &collection.config.fields);
            let names = fields.into_iter().flatten().map(|field| field.name.as_str()).chain(["title", "date", "order"]);
            let both = names.flat_map(|name| {
                [
                    (name.to_owned(), "the smallest first".to_owned()),
                    (format!("{name} desc"), "the largest first".to_owned()),
                ]
            });
            Some((both.collect(), false))
        }
        ["collections", _, "future"] => texts(&["wait", "show"]),
        ["collections", _, "periods"] => texts(&["year", "month", "day"]),
        ["collections", _, "feed"] | ["build", "versions"] => truth(),
        ["collections", _, "fields", _, rest @ ..] | ["pages", "fields", _, rest @ ..] => of_declaration(rest),
        ["taxonomies", _, "of"] => Some((collections().into_iter().chain(plain(&["pages"], "")).collect(), false)),
        ["taxonomies", name, "terms", _, "parent"] => named(&format!("term:{name}/")),
        ["taxonomies", _, "terms", _, "image" | "file"] | ["taxonomies", _, "terms", _, "image", "file"] => {
            Some((media(world), false))
        }
        ["routes", _, "each"] => named("table:"),
        ["routes", _, "format"] => texts(&hausblatt_lang::text::ending::Ending::ALL.map(|ending| ending.word())),
        ["menus", .., "to"] => {
            Some((world.site.references().map(|reference| (reference, String::new())).collect(), false))
        }
        ["content", "html"] => texts(&["clean", "keep", "escape"]),
        ["build", "styles" | "scripts"] => texts(&["as-is", "small"]),
        ["settings", name] => {
            let setting = world.settings.iter().find(|setting| setting.field.name == **name)?;
            of_type(world, &setting.field.of)
        }
        ["check" | "rehearse", "except", "code"] => {
            Some((codes.iter().map(|code| (code.name.to_owned(), code.about.to_owned())).collect(), false))
        }
        _ => None,
    }
}

/// The values of a type, where only some fit; and whether they are written without quotes.
fn of_type(world: &World, of: &FieldType) -> Option<(Vec<(String, String)>, bool)> {
    match of {
        FieldType::YesNo => Some((plain(&["true", "false"], ""), true)),
        of => Some((of_field(world, of), false)),
    }
}
