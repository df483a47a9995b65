//! Front matter changed by machine: one key set, changed or taken out, and no other byte touched.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::files::FileNode;
use crate::text::codes;
use crate::text::data::{Data, DataValue, Entry, yaml};
use crate::text::data_change::DataChange;
use crate::text::front::{self, NotChanged};
use crate::text::line_break::line_break;

/// The key that chooses an offered template.
const KEY: &str = "template";

/// The text of a content file whose front matter chooses `name`, or nothing.
///
/// # Errors
/// Why the front matter can't be changed by machine, at its place.
pub fn edited(text: &str, name: Option<&str>) -> Result<String, Diagnostic> {
    let change = match name {
        Some(name) => DataChange::Set(Data { span: Span::default(), value: DataValue::Text(name.into()) }),
        None => DataChange::Clear,
    };
    front::changed(text, &[KEY.to_owned()], &change).map_err(|why| match (why, name) {
        (NotChanged::Faulty(problem), _) => {
            let message = format!("the front matter has an error: {}", problem.message);
            Diagnostic::of(&codes::FRONT_MATTER, message).help("fix it first")
        }
        (_, Some(name)) => {
            let message = format!("this front matter is written so that \"{KEY}: {name}\" can't be put into it safely");
            Diagnostic::of(&codes::FRONT_MATTER, message).help("change it by hand: one key in each line")
        }
        (_, None) => {
            let message = format!("this front matter is written so that \"{KEY}\" can't be taken out safely");
            Diagnostic::of(&codes::FRONT_MATTER, message).help("change it by hand: one key in each line")
        }
    })
}

/// A line put in at the end of the front matter, or in front matter of its own.
fn with_line(text: &str, body: usize, line: &str) -> String {
    let eol = line_break(text);
    let fence = text[..body].trim_end_matches(['\r', '\n']).rfind('\n').map_or(0, |at| at + 1);
    if fence == 0 {
        // No front matter, at most a byte order mark.
        let (before, behind) = text.split_at(body);
        return format!("{before}---{eol}{line}{eol}---{eol}{behind}");
    }
    format!("{}{line}{eol}{}", &text[..fence], &text[fence..])
}

fn with_value(text: &str, entry: &Entry, value: &str) -> String {
    let span = entry.data.span.range();
    let key_end = entry.span.range().end;
    if span.is_empty() || span.start < key_end {
        // A key with nothing after its colon.
        let colon = text[key_end..].find(':').map_or(key_end, |at| key_end + at + 1);
        return format!("{} {}{}", &text[..colon], value, &text[colon..]);
    }
    format!("{}{}{}", &text[..span.start], value, &text[span.end..])
}

/// The text without the lines of an entry, up to the next key or the end of the front matter.
fn without(text: &str, entry: &Entry, entries: &[Entry], body: usize) -> String {
    let line_start = |at: usize| text[..at].rfind('\n').map_or(0, |at| at + 1);
    let start = line_start(entry.span.range().start);
    let end = entry.data.span.range().end.max(entry.span.range().end);
    let mut end = text[end..].find('\n').map_or(text.len(), |at| end + at + 1);
    let next = entries.iter().map(|other| other.span.range().start).filter(|&at| at > entry.span.range().start).min();
    end = end.min(next.map_or(body, line_start).max(start));
    format!("{}{}", &text[..start], &text[end..])
}

/// Whether a text says what it said before, but for the key, whose entry must be as `is_meant` says; the body must be the
/// same to the byte.
fn is_as_meant(
    text: &str,
    edited: &str,
    entries: &[Entry],
    key: &str,
    is_meant: impl FnOnce(Option<&Entry>) -> bool,
) -> bool {
    let front = front::read(edited);
    let body = |text: &str, at: usize| text.get(at..).map(str::to_owned);
    let others = |entries: &[Entry]| {
        let others = entries.iter().filter(|entry| &*entry.key != key);
        others.map(|entry| (entry.key.clone(), meaning(&entry.data))).collect::<Vec<_>>()
    };
    front.problem.is_none()
        && is_meant(front.entries.iter().find(|entry| &*entry.key == key))
        && others(&front.entries) == others(entries)
        && body(edited, front.body) == body(text, front::read(text).body)
}

/// A value without its places.
fn meaning(data: &crate::text::data::Data) -> String {
    use crate::text::data::DataValue;
    match &data.value {
        DataValue::List(members) => format!("[{}]", members.iter().map(meaning).collect::<Vec<_>>().join(",")),
        DataValue::Map(entries) => {
            let entries = entries.iter().map(|entry| format!("{:?}:{}", entry.key, meaning(&entry.data)));
            format!("{{{}}}", entries.collect::<Vec<_>>().join(","))
        }
        value => format!("{value:?}"),
    }
}

/// The text with the keys of its front matter in this order, others behind them; each takes along the lines above it that
/// have none, as comments. The same text where that would change what it says.
pub(crate) fn in_order(text: &str, order: &[&str]) -> String {
    let front = front::read(text);
    let line_start = |at: usize| text[..at].rfind('\n').map_or(0, |at| at + 1);
    let starts: Vec<usize> = front.entries.iter().map(|entry| entry.span.range().start).collect();
    let at_margin = starts.iter().all(|&start| line_start(start) == start);
    let fence = text[..front.body].trim_end_matches(['\r', '\n']).rfind('\n').map_or(0, |at| at + 1);
    let first = text.find('\n').map_or(0, |at| at + 1);
    if front.entries.len() < 2 || !at_margin || !starts.is_sorted() || fence < first {
        return text.to_owned();
    }
    // What is between two keys and begins no value belongs to the one below.
    let mut blocks: Vec<(usize, &str)> = Vec::new();
    let mut begin = first;
    for (at, entry) in front.entries.iter().enumerate() {
        let end = match starts.get(at + 1) {
            None => fence,
            Some(&next) => {
                let last = entry.data.span.range().end.max(entry.span.range().end);
                let behind = text[last..next].find('\n').map_or(next, |line| last + line + 1);
                behind.min(next)
            }
        };
        let place = order.iter().position(|key| *key == &*entry.key).unwrap_or(order.len());
        blocks.push((place, &text[begin..end]));
        begin = end;
    }
    blocks.sort_by_key(|(place, _)| *place);
    let ordered: String = blocks.iter().map(|(_, block)| *block).collect();
    let edited = format!("{}{ordered}{}", &text[..first], &text[fence..]);
    let all = |text: &str| {
        let front = front::read(text);
        let mut entries: Vec<(Box<str>, String)> =
            front.entries.iter().map(|entry| (entry.key.clone(), meaning(&entry.data))).collect();
        entries.sort();
        (front.problem.is_none(), entries, text[front.body..].to_owned())
    };
    if all(&edited) == all(text) { edited } else { text.to_owned() }
}

/// The key that lists the addresses that content had.
const FORMER: &str = "formerly";

/// The text of a content file that lists these addresses, too, as those that it had.
///
/// # Errors
/// Why the front matter can't be changed by machine.
pub(crate) fn with_former(text: &str, addresses: &[&str]) -> Result<String, Diagnostic> {
    let front = front::read(text);
    let refused = |message: String, help: &str| Err(Diagnostic::of(&codes::FRONT_MATTER, message).help(help));
    if let Some(problem) = &front.problem {
        return refused(format!("the front matter has an error: {}", problem.message), "fix it first");
    }
    let own = front.entries.iter().find(|entry| &*entry.key == FORMER);
    let known: Vec<&Data> = match own {
        Some(entry) => entry.data.as_list().map_or_else(|| vec![&entry.data], |list| list.iter().collect()),
        None => Vec::new(),
    };
    let known: Vec<&Data> = known.into_iter().filter(|data| !matches!(data.value, DataValue::Nothing)).collect();
    let new: Vec<String> = addresses
        .iter()
        .filter(|address| !known.iter().any(|data| data.as_text() == Some(**address)))
        .map(|address| yaml(address))
        .collect();
    if new.is_empty() {
        return Ok(text.to_owned());
    }
    let edited = match (own, known.last()) {
        (Some(entry), Some(last)) => with_members(text, entry, last, &new),
        (Some(entry), None) => with_value(text, entry, &format!("[{}]", new.join(", "))),
        (None, _) if new.len() == 1 => with_line(text, front.body, &format!("{FORMER}: {}", new[0])),
        (None, _) => with_line(text, front.body, &format!("{FORMER}: [{}]", new.join(", "))),
    };
    let mut wanted: Vec<String> = known.iter().filter_map(|data| data.as_text().map(str::to_owned)).collect();
    wanted.extend(addresses.iter().map(|address| (*address).to_owned()));
    wanted.sort();
    wanted.dedup();
    let is_meant = |entry: Option<&Entry>| {
        let one = entry.map(|entry| std::slice::from_ref(&entry.data)).unwrap_or_default();
        let list = entry.and_then(|entry| entry.data.as_list()).unwrap_or(one);
        let mut is: Vec<String> = list.iter().filter_map(|data| data.as_text().map(str::to_owned)).collect();
        is.sort();
        is == wanted
    };
    if is_as_meant(text, &edited, &front.entries, FORMER, is_meant) {
        return Ok(edited);
    }
    let help = format!("write it by hand: {FORMER}: [{}]", new.join(", "));
    refused(format!("this front matter is written so that \"{FORMER}\" can't be changed safely"), &help)
}

/// The text of a content file without this among the addresses that it had.
///
/// # Errors
/// Why the front matter can't be changed by machine.
pub(crate) fn without_former(text: &str, address: &str) -> Result<String, Diagnostic> {
    let front = front::read(text);
    let Some(own) = front.entries.iter().find(|entry| &*entry.key == FORMER) else { return Ok(text.to_owned()) };
    let one = std::slice::from_ref(&own.data);
    let all: Vec<&str> = own.data.as_list().unwrap_or(one).iter().filter_map(Data::as_text).collect();
    let kept: Vec<&str> = all.iter().copied().filter(|one| *one != address).collect();
    if kept.len() == all.len() {
        return Ok(text.to_owned());
    }
    let bare = without(text, own, &front.entries, front.body);
    let is_gone = |entry: Option<&Entry>| entry.is_none();
    if !is_as_meant(text, &bare, &front.entries, FORMER, is_gone) {
        let message = format!("this front matter is written so that \"{FORMER}\" can't be changed safely");
        return Err(Diagnostic::of(&codes::FRONT_MATTER, message).help(format!("take {address} out of it by hand")));
    }
    if kept.is_empty() { Ok(bare) } else { with_former(&bare, &kept) }
}

/// The text with more members in an entry's list, or in a list that is made of its one value.
fn with_members(text: &str, entry: &Entry, last: &Data, new: &[String]) -> String {
    let (whole, last) = (entry.data.span.range(), last.span.range());
    let (before, behind) = text.split_at(last.end.min(text.len()));
    if entry.data.as_list().is_none() {
        return format!("{}[{}, {}]{}", &text[..whole.start], &text[whole], new.join(", "), behind);
    }
    let line = before.rfind('\n').map_or(0, |at| at + 1);
    let item = &before[line..last.start.max(line)];
    if item.trim_start().starts_with('-') && !text[whole.start..].starts_with('[') {
        let eol = line_break(text);
        let end = behind.find('\n').map_or(behind.len(), |at| at - usize::from(behind[..at].ends_with('\r')));
        let lines: String = new.iter().map(|address| format!("{eol}{item}{address}")).collect();
        return format!("{before}{}{lines}{}", &behind[..end], &behind[end..]);
    }
    format!("{before}, {}{behind}", new.join(", "))
}

/// The whole text of a content file.
///
/// # Errors
/// What keeps it from being read.
pub fn text_of(node: &FileNode) -> Result<Arc<str>, Diagnostic> {
    node.whole_text().map_err(|error| {
        Diagnostic::of(&codes::UNREADABLE, format!("{} can't be read: {error}", node.path)).help("save it as UTF-8")
    })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn one_key_changes_and_nothing_else() {
        for (text, name, expected) in [
            ("---\ntitle: A\n---\nBody", Some("wide"), "---\ntitle: A\ntemplate: wide\n---\nBody"),
            (
                "---\r\ntitle: A\r\n---\r\nBody\r\n",
                Some("wide"),
                "---\r\ntitle: A\r\ntemplate: wide\r\n---\r\nBody\r\n",
            ),
            ("Body without", Some("wide"), "---\ntemplate: wide\n---\nBody without"),
            ("", Some("wide"), "---\ntemplate: wide\n---\n"),
            ("\u{feff}a\r\nb", Some("wide"), "\u{feff}---\r\ntemplate: wide\r\n---\r\na\r\nb"),
            ("---\n---\n", Some("wide"), "---\ntemplate: wide\n---\n"),
            ("---\n---", Some("wide"), "---\ntemplate: wide\n---"),
            ("---\ntemplate: old # why\nb: 1\n---\n", Some("wide"), "---\ntemplate: wide # why\nb: 1\n---\n"),
            ("---\ntemplate:   \"old\"\n---\n", Some("wide"), "---\ntemplate:   wide\n---\n"),
            ("---\ntemplate:\nb: 1\n---\n", Some("wide"), "---\ntemplate: wide\nb: 1\n---\n"),
            ("---\ntemplate: # later\nb: 1\n---\n", Some("wide"), "---\ntemplate: wide # later\nb: 1\n---\n"),
            ("---\na: 1\n---\n", Some("2026"), "---\na: 1\ntemplate: \"2026\"\n---\n"),
            (
                "---\n# first\ntemplate: old # gone too\n# stays\nb: 1\n---\nx",
                None,
                "---\n# first\n# stays\nb: 1\n---\nx",
            ),
            ("---\ntemplate: old\n---\nx", None, "---\n---\nx"),
            ("---\na: 1\ntemplate: >\n  old\nb: 2\n---\nx", None, "---\na: 1\nb: 2\n---\nx"),
            ("---\na: 1\n---\nx", None, "---\na: 1\n---\nx"),
            ("---\n{ template: old, a: 1 }\n---\nx", Some("wide"), "---\n{ template: wide, a: 1 }\n---\nx"),
        ] {
            assert_eq!(edited(text, name).as_deref(), Ok(expected), "{text:?} {name:?}");
        }
        for (text, name) in [
            ("---\n{ a: 1 }\n---\nx", Some("wide")),
            ("---\n{ template: old, a: 1 }\n---\nx", None),
            ("---\na: 1\na: 2\n---\nx", Some("wide")),
            ("---\na: 1\n", Some("wide")),
        ] {
            assert!(edited(text, name).is_err(), "{text:?} {name:?} {:?}", edited(text, name));
        }
    }

    proptest! {
        /// Whatever a person may have written: no panic, and what is given back says the same but for the key.
        #[test]
        fn odd_front_matter_is_changed_well_or_not_at_all(lines in "((template|é|a|\\? b|- c| template|\t)(:|: |)(ü|x #y|\"é\"|'it''s'|>\n  é\n|\\|\n  b|\\[a,\n é\\]|\\{a: 1\\}|# c|\n  x: y|)(\n|\r\n| \n)){0,5}", name in "[a-z0-9/é \"]{0,4}") {
            let text = format!("---\n{lines}---\nBody\n");
            for name in [Some(name.as_str()), None] {
                if let Ok(new) = edited(&text, name) {
                    let chosen = front::read(&new).entries.iter().find(|entry| &*entry.key == KEY).map(|entry| entry.data.as_text().map(str::to_owned));
                    prop_assert_eq!(chosen, name.map(|name| Some(name.to_owned())), "{:?}", text);
                }
            }
        }

        /// Whatever is there: the key is set and goes again, and every other byte stays.
        #[test]
        fn set_and_taken_back(front in "(((a|b|c): (1|x|\"y\"|[a, b]|'it''s')?( # no)?(\n|\r\n))|# note\n|\n){0,5}", body in "[a-z\r\n-]{0,12}", bom in any::<bool>()) {
            let mark = if bom { "\u{feff}" } else { "" };
            for text in [format!("{mark}---\n{front}---\n{body}"), format!("{mark}x{body}")] {
                let Ok(set) = edited(&text, Some("wide")) else {
                    prop_assert!(front::read(&text).problem.is_some(), "{:?}", text);
                    continue;
                };
                let lines = |text: &str| text.split_inclusive('\n').filter(|line| !line.starts_with("template:")).map(str::to_owned).collect::<String>();
                let without = edited(&set, None).unwrap();
                prop_assert_eq!(&lines(&set), &without);
                if text.contains("---\n") && text.trim_start_matches('\u{feff}').starts_with("---") {
                    prop_assert_eq!(&without, &text);
                } else {
                    let body = text.trim_start_matches('\u{feff}');
                    prop_assert!(without.ends_with(body));
                }
            }
        }
    }
}
