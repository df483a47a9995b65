//! One change to structured data: a value set, taken out, added to a list or moved in one, at a path of keys and positions.

use crate::text::data::{Data, DataValue, Entry};

/// How many parts a path may have.
const DEEPEST: usize = 32;

/// A place in structured data: keys, and positions in lists from 1, as in `trays.main.2.text`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DataPath(Vec<String>);

/// What becomes of the value at a place.
#[derive(Clone, Debug, PartialEq)]
pub enum DataChange {
    /// It is this.
    Set(Data),
    /// It is not there.
    Clear,
    /// This comes to the end of the list that is there; where the place is a position in a list, before what is there.
    Add(Data),
    /// What is at this position of a list comes to that one.
    Move(usize),
}

impl DataPath {
    /// The place that is written so, with dots.
    ///
    /// # Errors
    /// Why it is not a place.
    pub fn parse(text: &str) -> Result<Self, String> {
        let steps: Vec<String> = text.split('.').map(|step| step.trim().to_owned()).collect();
        match steps.len() {
            // No value nests deeper, and whoever follows a path calls itself at each step.
            count if count > DEEPEST => Err(format!("this key has {count} parts, and {DEEPEST} are the most")),
            _ if steps.iter().any(String::is_empty) => Err(format!("\"{text}\" is not a valid key")),
            _ => Ok(Self(steps)),
        }
    }

    /// Its keys and positions.
    pub fn steps(&self) -> &[String] {
        &self.0
    }
}

impl std::fmt::Display for DataPath {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.0.join("."))
    }
}

/// Whether two values say the same, wherever they are and in whatever order their keys.
pub(crate) fn is_same(a: &Data, b: &Data) -> bool {
    match (&a.value, &b.value) {
        (DataValue::List(a), DataValue::List(b)) => a.len() == b.len() && a.iter().zip(b).all(|(a, b)| is_same(a, b)),
        (DataValue::Map(a), DataValue::Map(b)) => are_same(a, b),
        (a, b) => a == b,
    }
}

/// The same of groups of keys.
pub(crate) fn are_same(a: &[Entry], b: &[Entry]) -> bool {
    let in_b = |entry: &Entry| b.iter().find(|other| other.key == entry.key);
    a.len() == b.len() && a.iter().all(|entry| in_b(entry).is_some_and(|other| is_same(&entry.data, &other.data)))
}

/// The position in a list that is written so, counted from 0.
///
/// # Errors
/// Why there is none.
pub(crate) fn position(step: &str, most: usize, of: &str) -> Result<usize, String> {
    let number: usize =
        step.parse().map_err(|_| format!("{of} is a list, so that \"{step}\" must be a position in it"))?;
    match number.checked_sub(1).filter(|at| *at < most) {
        Some(at) => Ok(at),
        None if number == 0 => Err("positions count from 1".to_owned()),
        None if most == 0 => Err(format!("{of} is empty")),
        None if most == 1 => Err(format!("{of} has only 1 member")),
        None => Err(format!("{of} has only {most} members")),
    }
}

/// The value at a path below these entries.
pub fn found<'d>(entries: &'d [Entry], path: &[String]) -> Option<&'d Data> {
    let (first, rest) = path.split_first()?;
    let mut data = &entries.iter().find(|entry| &*entry.key == first)?.data;
    for step in rest {
        data = match &data.value {
            DataValue::Map(entries) => &entries.iter().find(|entry| &*entry.key == step)?.data,
            DataValue::List(members) => members.get(step.parse::<usize>().ok()?.checked_sub(1)?)?,
            _ => return None,
        };
    }
    Some(data)
}

/// What the entries say after a change; places in them are those of before, and none where there was nothing. What a value
/// was the only one in goes with it where `prunes` says so.
///
/// # Errors
/// Why the change is not possible.
pub(crate) fn applied(
    entries: &[Entry],
    path: &[String],
    change: &DataChange,
    prunes: bool,
) -> Result<Vec<Entry>, String> {
    let mut entries = entries.to_vec();
    in_map(&mut entries, path, 0, change, prunes)?;
    Ok(entries)
}

/// The same below one value, which `path[..at]` leads to; nothing where nothing is left of it.
pub(crate) fn in_value(
    data: &mut Data,
    path: &[String],
    at: usize,
    change: &DataChange,
    prunes: bool,
) -> Result<bool, String> {
    let here = path[..at].join(".");
    if at == path.len() {
        return match change {
            DataChange::Set(value) => {
                data.value = value.value.clone();
                Ok(true)
            }
            DataChange::Clear => Ok(false),
            DataChange::Add(value) => {
                match &mut data.value {
                    DataValue::List(members) => members.push(value.clone()),
                    DataValue::Nothing => data.value = DataValue::List(vec![value.clone()]),
                    _ => return Err(format!("{here} is {}, and not a list", data.kind())),
                }
                Ok(true)
            }
            DataChange::Move(_) => Err(format!("{here} is not a position in a list")),
        };
    }
    if matches!(data.value, DataValue::Nothing) {
        data.value = DataValue::Map(Vec::new());
    }
    match &mut data.value {
        DataValue::Map(entries) => {
            in_map(entries, path, at, change, prunes)?;
            Ok(!(prunes && entries.is_empty()))
        }
        DataValue::List(members) => {
            in_list(members, path, at, change, prunes, &here)?;
            Ok(!(prunes && members.is_empty()))
        }
        _ => Err(format!("{here} is {}, and has no \"{}\"", data.kind(), path[at])),
    }
}

fn in_map(
    entries: &mut Vec<Entry>,
    path: &[String],
    at: usize,
    change: &DataChange,
    prunes: bool,
) -> Result<(), String> {
    let key = &path[at];
    match entries.iter().position(|entry| &*entry.key == key) {
        Some(found) => {
            if !in_value(&mut entries[found].data, path, at + 1, change, prunes)? {
                entries.remove(found);
            }
        }
        None => match change {
            DataChange::Clear => {}
            DataChange::Move(_) => return Err(format!("there is no {}", path[..=at].join("."))),
            // Front matter has no keys that are numbers: a position is meant, in a list that is not there.
            DataChange::Set(_) if prunes && path[at + 1..].iter().any(|step| step.parse::<usize>().is_ok()) => {
                return Err(format!("there is no {}", path.join(".")));
            }
            DataChange::Set(_) | DataChange::Add(_) => {
                let span = Default::default();
                let mut data = Data { span, value: DataValue::Nothing };
                in_value(&mut data, path, at + 1, change, prunes)?;
                entries.push(Entry { key: key.as_str().into(), span, data });
            }
        },
    }
    Ok(())
}

fn in_list(
    members: &mut Vec<Data>,
    path: &[String],
    at: usize,
    change: &DataChange,
    prunes: bool,
    here: &str,
) -> Result<(), String> {
    let is_last = at + 1 == path.len();
    match change {
        DataChange::Add(value) if is_last => {
            let place = position(&path[at], members.len() + 1, here)?;
            members.insert(place, value.clone());
        }
        DataChange::Move(to) if is_last => {
            let from = position(&path[at], members.len(), here)?;
            let to = position(&to.to_string(), members.len(), here)?;
            let moved = members.remove(from);
            members.insert(to, moved);
        }
        _ => {
            let place = position(&path[at], members.len(), here)?;
            if !in_value(&mut members[place], path, at + 1, change, prunes)? {
                members.remove(place);
            }
        }
    }
    Ok(())
}
