//! Front matter changed by machine: one value, and no other line; a change that can't be made so is refused.

use hausblatt_lang::text::source::Span;

use crate::text::data::{Data, DataValue, Entry};
use crate::text::data_change::{DataChange, applied, are_same, found, in_value, position};
use crate::text::front::write::{after_key, as_item};
use crate::text::front::{Front, Problem, read};
use crate::text::line_break::line_break;

/// Why front matter is not changed.
#[derive(Clone, Debug, PartialEq)]
pub enum NotChanged {
    /// It has an error.
    Faulty(Problem),
    /// What is to be changed is not there; in words.
    Impossible(String),
    /// It is written so that only a person can change it without a loss.
    Unsafe,
}

/// The text of a content file with one change in its front matter.
///
/// # Errors
/// Why it can't be made; nothing else would be other than it was.
pub fn changed(text: &str, path: &[String], change: &DataChange) -> Result<String, NotChanged> {
    let front = read(text);
    if let Some(problem) = &front.problem {
        return Err(NotChanged::Faulty(problem.clone()));
    }
    let wanted = applied(&front.entries, path, change, true).map_err(NotChanged::Impossible)?;
    if are_same(&front.entries, &wanted) {
        return Ok(text.to_owned());
    }
    let editor = Editor::of(text, &front);
    let is_meant = |edited: &String| {
        let now = read(edited);
        now.problem.is_none() && are_same(&now.entries, &wanted) && edited.get(now.body..) == text.get(front.body..)
    };
    let in_place = || editor.in_place(&front.entries, path, change);
    let by_lines = || editor.in_map(&front.entries, path, 0, change, 0, editor.fence);
    let whole = || editor.whole_key(&front.entries, &wanted, path);
    let ways: [&dyn Fn() -> Option<String>; 3] = [&in_place, &by_lines, &whole];
    ways.iter().find_map(|way| way().filter(is_meant)).ok_or(NotChanged::Unsafe)
}

/// What the edits of one text have in common.
struct Editor<'t> {
    text: &'t str,
    eol: &'static str,
    /// Where the line begins that ends the front matter; where it would begin, if there is none.
    fence: usize,
    has_front: bool,
}

impl<'t> Editor<'t> {
    fn of(text: &'t str, front: &Front) -> Self {
        let eol = line_break(text);
        let fence = text[..front.body].trim_end_matches(['\r', '\n']).rfind('\n').map_or(0, |at| at + 1);
        let has_front = fence > 0;
        Self { text, eol, fence: if has_front { fence } else { front.body }, has_front }
    }

    fn line_start(&self, at: usize) -> usize {
        self.text[..at].rfind('\n').map_or(0, |at| at + 1)
    }

    /// After the line break of the line that a byte is in.
    fn line_end(&self, at: usize) -> usize {
        self.text[at..].find('\n').map_or(self.text.len(), |line| at + line + 1)
    }

    /// The text with something else in a range; its line breaks are those of the text.
    fn with(&self, start: usize, end: usize, new: &str) -> String {
        let new = if self.eol == "\n" { new.to_owned() } else { new.replace('\n', self.eol) };
        format!("{}{new}{}", &self.text[..start], &self.text[end..])
    }

    /// After the last byte of an entry, that of its value included.
    fn end_of(&self, entry: &Entry) -> usize {
        self.end(&entry.data).max(entry.span.range().end)
    }

    /// After the last byte of a value. The parser says where a group begins, and of a list where what follows does.
    fn end(&self, data: &Data) -> usize {
        let own = data.span.range();
        let last = match &data.value {
            DataValue::List(members) => members.iter().map(|member| self.end(member)).max(),
            DataValue::Map(entries) => entries.iter().map(|entry| self.end_of(entry)).max(),
            _ => return own.end,
        };
        let bracket = match self.text[own.start..].chars().next() {
            Some('[') => ']',
            Some('{') => '}',
            _ => return last.unwrap_or(own.end),
        };
        let last = last.unwrap_or(own.start + 1);
        self.text[last..].find(bracket).map_or(own.end, |at| last + at + 1)
    }

    fn has_comment(&self, start: usize, end: usize) -> bool {
        self.text[start..end].lines().any(|line| line.trim_start().starts_with('#') || line.contains(" #"))
    }

    /// A single value in the place of another.
    fn in_place(&self, entries: &[Entry], path: &[String], change: &DataChange) -> Option<String> {
        let DataChange::Set(value) = change else { return None };
        let is_single = |data: &Data| !matches!(data.value, DataValue::List(_) | DataValue::Map(_));
        let old = found(entries, path).filter(|old| is_single(old) && is_single(value))?.span.range();
        let is_in_line = !old.is_empty() && !self.text[old.clone()].contains('\n');
        let new = after_key(value, 0);
        (is_in_line && !new.contains('\n')).then(|| self.with(old.start, old.end, new.trim_start()))
    }

    /// The whole value of a key at the margin written anew, where no comment is lost by it.
    fn whole_key(&self, entries: &[Entry], wanted: &[Entry], path: &[String]) -> Option<String> {
        let of = |entries: &[Entry]| entries.iter().find(|entry| *entry.key == *path[0]).cloned();
        let (before, after) = (of(entries)?, of(wanted));
        let (start, end) = self.lines_of(&before);
        if self.has_comment(start, end) || self.line_start(before.span.range().start) != before.span.range().start {
            return None;
        }
        match after {
            None => Some(self.with(start, end, "")),
            Some(after) => {
                let key = before.span.of(self.text);
                Some(self.with(start, end, &format!("{key}:{}\n", after_key(&after.data, 0))))
            }
        }
    }

    /// The lines of a key and its value.
    fn lines_of(&self, entry: &Entry) -> (usize, usize) {
        (self.line_start(entry.span.range().start), self.line_end(self.end_of(entry).min(self.fence)))
    }

    /// A change in a group of keys whose first column is `column`; `end` is where a new key would be written.
    fn in_map(
        &self,
        entries: &[Entry],
        path: &[String],
        at: usize,
        change: &DataChange,
        column: usize,
        end: usize,
    ) -> Option<String> {
        let Some(entry) = entries.iter().find(|entry| *entry.key == *path[at]) else {
            return self.with_key(path, at, change, column, end);
        };
        let mut value = entry.data.clone();
        let stays = in_value(&mut value, path, at + 1, change, true).ok()?;
        if !stays {
            let (start, end) = self.lines_of(entry);
            let is_first_of_item = self.text[start..entry.span.range().start].contains('-');
            return (!is_first_of_item).then(|| self.with(start, end, ""));
        }
        let is_block = self.is_block(&entry.data);
        let goes_deeper = at + 1 < path.len() || matches!(change, DataChange::Add(_));
        match &entry.data.value {
            DataValue::Map(inner) if is_block && goes_deeper => {
                let (first, last) = (inner.first()?, inner.last()?);
                let column = first.span.range().start - self.line_start(first.span.range().start);
                self.in_map(inner, path, at + 1, change, column, self.line_end(self.end_of(last)))
            }
            DataValue::List(members) if is_block && goes_deeper && !members.is_empty() => {
                self.in_list(members, path, at + 1, change)
            }
            _ => self.with_value(entry, &value, column),
        }
    }

    /// A key that was not there.
    fn with_key(&self, path: &[String], at: usize, change: &DataChange, column: usize, end: usize) -> Option<String> {
        let mut value = Data { span: Span::default(), value: DataValue::Nothing };
        in_value(&mut value, path, at + 1, change, true).ok()?;
        let key = crate::text::data::yaml(&path[at]);
        let line = format!("{:column$}{key}:{}\n", "", after_key(&value, column));
        match self.has_front {
            true => Some(self.with(end, end, &line)),
            false => Some(self.with(self.fence, self.fence, &format!("---\n{line}---\n"))),
        }
    }

    /// A key with another value. A comment after it stays there.
    fn with_value(&self, entry: &Entry, value: &Data, column: usize) -> Option<String> {
        let key_end = entry.span.range().end;
        let colon = key_end + self.text[key_end..].find(':')? + 1;
        let new = after_key(value, column);
        let line_end = self.line_end(colon);
        let old = entry.data.span.range();
        let is_empty = old.is_empty() || old.start < colon;
        let old = if is_empty { colon..colon } else { old.start..self.end_of(entry) };
        let (first, rest) = new.split_once('\n').map_or((new.as_str(), None), |(first, rest)| (first, Some(rest)));
        // The lines that the value has now.
        let value_end = if old.end < line_end { line_end } else { self.line_end(old.end) };
        let is_one_line = old.end < line_end || line_end == self.text.len();
        if rest.is_none() && is_one_line {
            let first = if is_empty { first } else { first.trim_start() };
            return Some(self.with(old.start, old.end, first));
        }
        if !is_one_line && self.has_comment(line_end, value_end) {
            return None;
        }
        let tail = match is_one_line {
            true => &self.text[old.end..line_end],
            false => {
                let after = &self.text[colon..line_end];
                after.find(" #").map_or("", |at| &after[at..])
            }
        };
        let rest = rest.map_or(String::new(), |rest| format!("\n{rest}"));
        Some(self.with(colon, value_end, &format!("{first}{}{rest}\n", tail.trim_end())))
    }

    /// Whether a value is written in lines of its own, and not in braces or brackets.
    fn is_block(&self, data: &Data) -> bool {
        let first = match &data.value {
            DataValue::Map(entries) => entries.first().map(|entry| entry.span.range().start),
            DataValue::List(members) => members.first().map(|member| member.span.range().start),
            _ => None,
        };
        first.is_some() && !self.text[data.span.range().start..].starts_with(['[', '{'])
    }

    /// A change in a list whose members have lines of their own.
    fn in_list(&self, members: &[Data], path: &[String], at: usize, change: &DataChange) -> Option<String> {
        let items: Vec<Item> = members.iter().map(|member| self.item(member)).collect::<Option<_>>()?;
        let items = self.with_comments(items);
        let column = items.first()?.column;
        let last = items.last()?.end;
        let Some(step) = path.get(at) else {
            // Added to the end.
            let DataChange::Add(value) = change else { return None };
            return Some(self.with(last, last, &as_item(value, column)));
        };
        let is_last = at + 1 == path.len();
        match change {
            DataChange::Add(value) if is_last => {
                let place = position(step, members.len() + 1, "").ok()?;
                let start = items.get(place).map_or(last, |item| item.start);
                Some(self.with(start, start, &as_item(value, column)))
            }
            DataChange::Move(to) if is_last => {
                let from = position(step, members.len(), "").ok()?;
                let to = position(&to.to_string(), members.len(), "").ok()?;
                let mut order: Vec<usize> = (0..items.len()).collect();
                let moved = order.remove(from);
                order.insert(to, moved);
                Some(self.in_order(&items, &order))
            }
            _ => {
                let place = position(step, members.len(), "").ok()?;
                let (member, item) = (&members[place], &items[place]);
                let mut value = member.clone();
                if !in_value(&mut value, path, at + 1, change, true).ok()? {
                    return Some(self.with(item.start, item.end, ""));
                }
                let finer = match &member.value {
                    DataValue::Map(entries) if !is_last && self.is_block(member) => {
                        let first = entries.first()?.span.range().start;
                        let column = first - self.line_start(first);
                        self.in_map(entries, path, at + 1, change, column, item.end)
                    }
                    _ => None,
                };
                finer.or_else(|| {
                    let is_safe = !self.has_comment(item.dash, item.end);
                    is_safe.then(|| self.with(item.dash, item.end, &as_item(&value, column)))
                })
            }
        }
    }

    fn item(&self, member: &Data) -> Option<Item> {
        let start = member.span.range().start;
        let line = self.line_start(start);
        let before = &self.text[line..start];
        let is_item = before.trim_start().starts_with('-') && before.trim_start()[1..].trim().is_empty();
        let last = self.end(member);
        is_item.then(|| Item {
            start: line,
            dash: line,
            end: self.line_end(last),
            column: before.len() - before.trim_start().len(),
        })
    }

    /// The same with the comments above each as parts of it.
    fn with_comments(&self, mut items: Vec<Item>) -> Vec<Item> {
        for at in 0..items.len() {
            let above = if at == 0 { 0 } else { items[at - 1].end };
            while items[at].start > above {
                let line = self.line_start(items[at].start - 1);
                if line < above || !self.text[line..items[at].start].trim_start().starts_with('#') {
                    break;
                }
                items[at].start = line;
            }
        }
        items
    }

    /// The text with the items in another order; what is between them stays where it is.
    fn in_order(&self, items: &[Item], order: &[usize]) -> String {
        let mut out = self.text[..items[0].start].to_owned();
        for (place, &at) in order.iter().enumerate() {
            let item = &items[at];
            out.push_str(&self.text[item.start..item.end]);
            let next = items.get(place + 1).map_or(items[place].end, |next| next.start);
            out.push_str(&self.text[items[place].end..next]);
        }
        out.push_str(&self.text[items[items.len() - 1].end..]);
        out
    }
}

/// The lines of a member of a list.
struct Item {
    /// Where its lines begin, those of comments above it, too.
    start: usize,
    /// Where the line of its hyphen begins.
    dash: usize,
    /// After its last line.
    end: usize,
    /// The column of its hyphen.
    column: usize,
}
