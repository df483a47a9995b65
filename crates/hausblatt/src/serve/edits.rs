//! Changes as forms and addresses of the workbench say them: names and values, read into an [`Edit`] and written again.

use hausblatt_core::change::edit::{Edit, FrontChoice};
use hausblatt_core::change::set::{Assignment, SetTarget};
use hausblatt_core::model::content::ContentId;
use hausblatt_core::world::World;

use crate::html::in_query;

/// Names and values.
pub type Pairs = Vec<(String, String)>;

/// The first value of a name; empty if there is none.
pub fn value<'p>(pairs: &'p [(String, String)], name: &str) -> &'p str {
    pairs.iter().find(|(other, _)| other == name).map_or("", |(_, value)| value)
}

/// The change that these say; none where they say none.
///
/// # Errors
/// What they name and is not there, in words.
pub fn read(world: &World, pairs: &[(String, String)]) -> Result<Option<Edit>, String> {
    let of = |name: &str| value(pairs, name).to_owned();
    Ok(Some(match value(pairs, "do") {
        "" => return Ok(None),
        "choose" => {
            let name = of("name");
            let paths = pairs.iter().filter(|(name, _)| name == "content");
            let mut ids: Vec<ContentId> = Vec::new();
            for (_, path) in paths {
                let id = content(world, path)?;
                if !ids.contains(&id) {
                    ids.push(id);
                }
            }
            if ids.is_empty() {
                return Err("no page and no entry is selected".to_owned());
            }
            Edit::Choose(ids, (!name.is_empty()).then_some(name))
        }
        "override" => Edit::Override(of("file")),
        "only" => Edit::OverrideOnly(of("address")),
        "hide" => Edit::Hide(of("file")),
        "remove" => Edit::Remove(of("file")),
        "front" if !value(pairs, "page").is_empty() => Edit::Front(FrontChoice::Page(of("page"))),
        "front" => Edit::Front(FrontChoice::Collection(of("collection"))),
        "set" => Edit::Set(target(world, value(pairs, "of"))?, assignments(pairs)),
        other => return Err(format!("\"{other}\" is not a change that can be made here")),
    }))
}

/// The content file at a path.
///
/// # Errors
/// There is none.
pub fn content(world: &World, path: &str) -> Result<ContentId, String> {
    let found = world.site.ids().find(|(_, content)| **content.path() == *path);
    found.map(|(id, _)| id).ok_or_else(|| format!("there is no content file {path}"))
}

fn target(world: &World, typed: &str) -> Result<SetTarget, String> {
    Ok(match typed {
        "site" => SetTarget::Site,
        "theme" => SetTarget::Theme(0),
        path => SetTarget::Content(content(world, path)?),
    })
}

/// Assignments are written `set.KEY`, `clear`, `add.KEY` and `move.KEY`.
fn assignments(pairs: &[(String, String)]) -> Vec<Assignment> {
    let one = |(name, value): &(String, String)| {
        let (verb, key) = name.split_once('.').unwrap_or((name, value));
        Some(match verb {
            "set" => Assignment::Set(key.to_owned(), unix_lines(value)),
            "clear" => Assignment::Clear(key.to_owned()),
            "add" => Assignment::Add(key.to_owned(), unix_lines(value)),
            "move" => Assignment::Move(key.to_owned(), value.parse().ok()?),
            _ => return None,
        })
    };
    pairs.iter().filter_map(one).collect()
}

/// A text as forms send it, with the line breaks that files have (HTML, section 4.10.21.4: forms send CRLF).
pub fn unix_lines(text: &str) -> String {
    text.replace("\r\n", "\n")
}

/// An edit as names and values.
pub fn pairs(world: &World, edit: &Edit) -> Pairs {
    let pair = |name: &str, value: &str| (name.to_owned(), value.to_owned());
    match edit {
        Edit::Choose(ids, name) => {
            let mut pairs = vec![pair("do", "choose"), pair("name", name.as_deref().unwrap_or(""))];
            pairs.extend(ids.iter().map(|id| pair("content", world.site.content(*id).path())));
            pairs
        }
        Edit::Override(path) => vec![pair("do", "override"), pair("file", path)],
        Edit::OverrideOnly(address) => vec![pair("do", "only"), pair("address", address)],
        Edit::Hide(path) => vec![pair("do", "hide"), pair("file", path)],
        Edit::Remove(path) => vec![pair("do", "remove"), pair("file", path)],
        Edit::Front(FrontChoice::Page(id)) => vec![pair("do", "front"), pair("page", id)],
        Edit::Front(FrontChoice::Collection(name)) => vec![pair("do", "front"), pair("collection", name)],
        Edit::Set(target, assignments) => {
            let of = match target {
                SetTarget::Site => "site".to_owned(),
                SetTarget::Theme(_) => "theme".to_owned(),
                SetTarget::Content(id) => world.site.content(*id).path().to_string(),
            };
            let mut pairs = vec![pair("do", "set"), pair("of", &of)];
            pairs.extend(assignments.iter().map(|assignment| match assignment {
                Assignment::Set(key, value) => (format!("set.{key}"), value.clone()),
                Assignment::Clear(key) => pair("clear", key),
                Assignment::Add(key, value) => (format!("add.{key}"), value.clone()),
                Assignment::Move(key, to) => (format!("move.{key}"), to.to_string()),
            }));
            pairs
        }
    }
}

/// Names and values as the query of an address.
pub fn query(pairs: &[(String, String)]) -> String {
    let pairs = pairs.iter().map(|(name, value)| format!("{}={}", in_query(name), in_query(value)));
    pairs.collect::<Vec<_>>().join("&")
}
