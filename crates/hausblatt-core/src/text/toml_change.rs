//! TOML changed by machine: one value, and no other byte.

use similar::{Algorithm, DiffTag, capture_diff_slices};
use toml_edit::{Array, ArrayOfTables, Decor, DocumentMut, InlineTable, Item, RawString, Table, TableLike, Value};

use crate::text::data::{Data, DataValue, Entry};
use crate::text::data_change::{DataChange, applied, are_same, position};
use crate::text::line_break::line_break;
use crate::text::toml_data;

/// The byte order mark.
const MARK: char = '\u{feff}';

/// Why a TOML file is not changed.
#[derive(Clone, Debug, PartialEq)]
pub enum TomlNotChanged {
    /// It is not TOML; in the words of its reader.
    Faulty(String),
    /// What is to be changed is not there; in words.
    Impossible(String),
    /// It is written so that only a person can change it without a loss.
    Unsafe,
}

/// The text of a TOML file with one change.
///
/// # Errors
/// Why it can't be made; nothing else would be other than it was.
pub fn changed(text: &str, path: &[String], change: &DataChange) -> Result<String, TomlNotChanged> {
    let before = entries(text).map_err(TomlNotChanged::Faulty)?;
    let wanted = applied(&before, path, change, false).map_err(TomlNotChanged::Impossible)?;
    if are_same(&before, &wanted) {
        return Ok(text.to_owned());
    }
    let is_meant = |edited: &String| entries(edited).is_ok_and(|now| are_same(&now, &wanted));
    let by_lines = || match change {
        DataChange::Clear => without_lines(text, &before, path),
        DataChange::Move(to) => moved_lines(text, &before, path, *to),
        DataChange::Set(_) | DataChange::Add(_) => None,
    };
    let in_document = || {
        let mut document: DocumentMut = text.parse().ok()?;
        edit(document.as_table_mut(), path, change, true)?;
        let new = document.to_string();
        // A new text of several lines means the line feeds that it is written with.
        [line_break(text), "\n"].iter().map(|line_break| in_lines(text, &new, line_break)).find(is_meant)
    };
    by_lines().filter(is_meant).or_else(in_document).ok_or(TomlNotChanged::Unsafe)
}

/// A changed document as a text that differs from the one before in the changed lines alone: a document is written without
/// a byte order mark, and with line feeds.
pub(crate) fn written(before: &str, document: &DocumentMut) -> String {
    in_lines(before, &document.to_string(), line_break(before))
}

/// The new text with the bytes of the old one in each line that both have; other lines end with this line break.
fn in_lines(before: &str, after: &str, line_break: &str) -> String {
    let rest = before.trim_start_matches(MARK);
    let bare = |line: &str| line.trim_end_matches('\n').trim_end_matches('\r').to_owned();
    let (old, new): (Vec<&str>, Vec<&str>) =
        (rest.split_inclusive('\n').collect(), after.split_inclusive('\n').collect());
    let bare_of = |lines: &[&str]| lines.iter().map(|line| bare(line)).collect::<Vec<_>>();
    let mut out = before[..before.len() - rest.len()].to_owned();
    for operation in capture_diff_slices(Algorithm::Myers, &bare_of(&old), &bare_of(&new)) {
        // What was the last line may have no break.
        if !out.is_empty() && !out.ends_with([MARK, '\n']) && !operation.new_range().is_empty() {
            out.push_str(line_break);
        }
        match operation.tag() {
            DiffTag::Equal => out.extend(old[operation.old_range()].iter().copied()),
            DiffTag::Delete | DiffTag::Insert | DiffTag::Replace => {
                out.extend(new[operation.new_range()].iter().flat_map(|line| [bare(line), line_break.to_owned()]));
            }
        }
    }
    // Nor does it get one.
    if !rest.is_empty() && !rest.ends_with('\n') {
        out.truncate(out.trim_end_matches(['\r', '\n']).len());
    }
    out
}

fn entries(text: &str) -> Result<Vec<Entry>, String> {
    let mut problems = Vec::new();
    let entries = toml_data::read(&"".into(), text, &mut problems);
    match problems.first() {
        Some(problem) => Err(problem.message.clone()),
        None => Ok(entries),
    }
}

/// A value as TOML; none for nothing, which TOML does not have.
pub(crate) fn toml(data: &Data) -> Option<Value> {
    Some(match &data.value {
        DataValue::Nothing => return None,
        DataValue::Bool(truth) => (*truth).into(),
        DataValue::Int(number) => (*number).into(),
        DataValue::Float(number) => (*number).into(),
        DataValue::Text(text) => (&**text).into(),
        DataValue::List(members) => members.iter().filter_map(toml).collect::<Array>().into(),
        DataValue::Map(entries) => {
            let mut table = InlineTable::new();
            for entry in entries {
                if let Some(value) = toml(&entry.data) {
                    table.insert(&*entry.key, value);
                }
            }
            table.into()
        }
    })
}

/// The text without the lines of a key or of a member of a list, where these have lines of their own.
fn without_lines(text: &str, entries: &[Entry], path: &[String]) -> Option<String> {
    let (last, above) = path.split_last()?;
    if let Some(members) = crate::text::data_change::found(entries, above).and_then(Data::as_list) {
        let lines = lines_of(text, members)?;
        let (start, end) = *lines.get(position(last, members.len(), "").ok()?)?;
        return Some(format!("{}{}", &text[..start], &text[end..]));
    }
    let group = match above.is_empty() {
        true => entries,
        false => crate::text::data_change::found(entries, above)?.as_map()?,
    };
    let entry = group.iter().find(|entry| &*entry.key == last)?;
    let (key, value) = (entry.span.range(), entry.data.span.range());
    let start = text[..key.start].rfind('\n').map_or(0, |at| at + 1);
    let end = text[value.end..].find('\n').map_or(text.len(), |at| value.end + at + 1);
    let is_alone =
        text[start..key.start].trim().is_empty() && is_comment(&text[value.end..end]) && key.start < value.start;
    is_alone.then(|| format!("{}{}", &text[..start], &text[end..]))
}

/// Whether this is the rest of a line after which nothing more is said.
fn is_comment(rest: &str) -> bool {
    let rest = rest.trim_start_matches([' ', '\t', ',']);
    rest.trim().is_empty() || rest.starts_with('#')
}

/// The lines of each member of a list, those of comments above it, too, where each has lines of its own.
fn lines_of(text: &str, members: &[Data]) -> Option<Vec<(usize, usize)>> {
    let mut lines: Vec<(usize, usize)> = Vec::new();
    for member in members {
        let span = member.span.range();
        let mut start = text[..span.start].rfind('\n').map_or(0, |at| at + 1);
        let end = text[span.end..].find('\n').map(|at| span.end + at + 1)?;
        if !text[start..span.start].trim().is_empty() || !is_comment(&text[span.end..end]) {
            return None;
        }
        let above = lines.last().map_or(0, |(_, end)| *end);
        while start > above {
            let line = text[..start - 1].rfind('\n').map_or(0, |at| at + 1);
            if line < above || !text[line..start].trim_start().starts_with('#') {
                break;
            }
            start = line;
        }
        lines.push((start, end));
    }
    Some(lines)
}

/// The text with the lines of a member of a list at another place in it.
fn moved_lines(text: &str, entries: &[Entry], path: &[String], to: usize) -> Option<String> {
    let (step, above) = path.split_last()?;
    let members = crate::text::data_change::found(entries, above)?.as_list()?;
    let from = position(step, members.len(), "").ok()?;
    let to = position(&to.to_string(), members.len(), "").ok()?;
    let lines = lines_of(text, members)?;
    // The last one may have no comma, and would need one where it comes before another.
    let last = members.last()?.span.range().end;
    if !text[last..].trim_start().starts_with(',') {
        let with_comma = format!("{},{}", &text[..last], &text[last..]);
        let entries = self::entries(&with_comma).ok()?;
        return moved_lines(&with_comma, &entries, path, to + 1);
    }
    let mut order: Vec<usize> = (0..lines.len()).collect();
    let moved = order.remove(from);
    order.insert(to, moved);
    let mut out = text[..lines[0].0].to_owned();
    for (place, &at) in order.iter().enumerate() {
        out.push_str(&text[lines[at].0..lines[at].1]);
        let next = lines.get(place + 1).map_or(lines[place].1, |next| next.0);
        out.push_str(&text[lines[place].1..next]);
    }
    out.push_str(&text[lines[lines.len() - 1].1..]);
    Some(out)
}

/// Makes a change below a table; none where its form does not allow it.
fn edit(table: &mut dyn TableLike, path: &[String], change: &DataChange, is_root: bool) -> Option<()> {
    let (key, rest) = path.split_first()?;
    if rest.is_empty() {
        return match change {
            DataChange::Set(data) => set(table, key, data),
            DataChange::Clear => table.remove(key).map(drop),
            DataChange::Add(data) => match table.get_mut(key) {
                Some(item) => add(item, None, data),
                None => set(table, key, &Data { span: data.span, value: DataValue::List(vec![data.clone()]) }),
            },
            DataChange::Move(_) => None,
        };
    }
    if table.get(key).is_none() {
        // A new group gets a heading at the root, or where the others have one.
        let group = match is_root || table.iter().any(|(_, item)| item.is_table()) {
            true => Item::Table(Table::new()),
            false => Item::Value(InlineTable::new().into()),
        };
        table.insert(key, group);
    }
    edit_item(table.get_mut(key)?, rest, change)
}

fn edit_item(item: &mut Item, path: &[String], change: &DataChange) -> Option<()> {
    match item {
        Item::ArrayOfTables(tables) => {
            let (step, rest) = path.split_first()?;
            match (rest.is_empty(), change) {
                (true, DataChange::Move(to)) => in_other_order(tables, step, *to),
                (true, DataChange::Clear) => {
                    tables.remove(position(step, tables.len(), "").ok()?);
                    Some(())
                }
                (true, _) => None,
                (false, _) => edit(tables.get_mut(position(step, tables.len(), "").ok()?)?, rest, change, false),
            }
        }
        Item::Value(value) => edit_value(value, path, change),
        Item::Table(table) => edit(table, path, change, false),
        Item::None => None,
    }
}

fn edit_value(value: &mut Value, path: &[String], change: &DataChange) -> Option<()> {
    match value {
        Value::InlineTable(table) => edit(table, path, change, false),
        Value::Array(array) => {
            let (step, rest) = path.split_first()?;
            if !rest.is_empty() {
                let at = position(step, array.len(), "").ok()?;
                return edit_value(array.get_mut(at)?, rest, change);
            }
            match change {
                DataChange::Add(data) => insert(array, position(step, array.len() + 1, "").ok()?, data),
                DataChange::Set(data) => {
                    let at = position(step, array.len(), "").ok()?;
                    let old = array.get_mut(at)?;
                    let decor = old.decor().clone();
                    *old = toml(data)?;
                    *old.decor_mut() = decor;
                    Some(())
                }
                DataChange::Clear => {
                    let at = position(step, array.len(), "").ok()?;
                    let decor = array.remove(at).decor().clone();
                    if at == 0
                        && let Some(first) = array.get_mut(0)
                    {
                        first.decor_mut().set_prefix(space(decor.prefix()));
                    }
                    Some(())
                }
                DataChange::Move(to) => {
                    let from = position(step, array.len(), "").ok()?;
                    let to = position(&to.to_string(), array.len(), "").ok()?;
                    // The spaces stay where they are.
                    let spaces: Vec<Decor> = array.iter().map(|value| value.decor().clone()).collect();
                    let moved = array.remove(from);
                    array.insert_formatted(to, moved);
                    for (value, decor) in array.iter_mut().zip(spaces) {
                        *value.decor_mut() = decor;
                    }
                    Some(())
                }
            }
        }
        _ => None,
    }
}

/// A key's value; what is around it stays as it is.
fn set(table: &mut dyn TableLike, key: &str, data: &Data) -> Option<()> {
    let mut value = toml(data)?;
    if let Some(Item::Value(old)) = table.get(key) {
        *value.decor_mut() = old.decor().clone();
    }
    match table.get_mut(key) {
        Some(item) => *item = Item::Value(value),
        None => drop(table.insert(key, Item::Value(value))),
    }
    Some(())
}

fn add(item: &mut Item, at: Option<usize>, data: &Data) -> Option<()> {
    match item {
        Item::Value(Value::Array(array)) => insert(array, at.unwrap_or(array.len()), data),
        Item::ArrayOfTables(tables) => {
            let Some(Value::InlineTable(table)) = toml(data) else { return None };
            tables.push(table.into_table());
            Some(())
        }
        _ => None,
    }
}

/// A new member of a list, with the space before it that its neighbour has.
fn insert(array: &mut Array, at: usize, data: &Data) -> Option<()> {
    let mut value = toml(data)?;
    let prefix = |array: &Array, at: usize| array.get(at).map(|value| space(value.decor().prefix()));
    let is_in_lines = prefix(array, 0).is_some_and(|prefix| prefix.contains('\n'));
    let first = prefix(array, 0).unwrap_or_default();
    let before = match (at, is_in_lines) {
        (_, true) => first,
        (0, false) => first,
        (_, false) => " ".to_owned(),
    };
    // The last one has the space that is before the bracket.
    let at_end = at == array.len();
    let after = at.checked_sub(1).filter(|_| at_end).and_then(|last| {
        let last = array.get_mut(last)?.decor_mut();
        let after = last.suffix().and_then(RawString::as_str).map(str::to_owned);
        last.set_suffix("");
        after
    });
    *value.decor_mut() = Decor::new(before, after.unwrap_or_default());
    array.insert_formatted(at, value);
    if at == 0
        && !is_in_lines
        && let Some(second) = array.get_mut(1)
    {
        second.decor_mut().set_prefix(" ");
    }
    Some(())
}

/// The white space of what is before a value, without comments.
fn space(prefix: Option<&RawString>) -> String {
    let text = prefix.and_then(RawString::as_str).unwrap_or("");
    match text.rfind('\n') {
        Some(at) => format!("\n{}", &text[at + 1..]),
        None => text.to_owned(),
    }
}

/// Tables of a list in another order: each takes the place of the one that was there.
fn in_other_order(tables: &mut ArrayOfTables, step: &str, to: usize) -> Option<()> {
    let from = position(step, tables.len(), "").ok()?;
    let to = position(&to.to_string(), tables.len(), "").ok()?;
    let mut all: Vec<Table> = tables.iter().cloned().collect();
    let places: Vec<_> = all.iter().map(Table::position).collect();
    let moved = all.remove(from);
    all.insert(to, moved);
    tables.clear();
    for (mut table, place) in all.into_iter().zip(places) {
        table.set_position(place);
        tables.push(table);
    }
    Some(())
}
