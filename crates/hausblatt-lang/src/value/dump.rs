//! A value's content, typed and foldable: what `dump` shows, and what a program may show of a value.

use crate::escape::html::escape;
use crate::value::print::shown;
use crate::value::shape::Interner;
use crate::value::tray::without_marks;
use crate::value::{Scratch, Value};

/// What a value is, with as much of its content as is wanted.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Described {
    /// What sort of value it is: `a text`, `a list of 3`.
    pub kind: String,
    /// What it prints as, where it prints.
    pub text: Option<String>,
    /// Its members by name, or by number from 0.
    pub members: Vec<(String, Described)>,
    /// How many more members there are.
    pub more: usize,
}

/// How much is reported.
#[derive(Clone, Copy, Debug)]
pub struct Detail {
    /// How deep lists and records are opened.
    pub depth: usize,
    /// How many members of each are reported.
    pub members: usize,
    /// How many characters of a text are reported.
    pub characters: usize,
}

impl Default for Detail {
    fn default() -> Self {
        Self { depth: 3, members: 40, characters: 2000 }
    }
}

/// Describes `value`.
pub fn describe<'a>(value: Value<'a>, symbols: &Interner, scratch: &Scratch<'a>, detail: Detail) -> Described {
    let mut left = 20_000;
    within(value, symbols, scratch, detail, &mut left)
}

fn within<'a>(
    value: Value<'a>,
    symbols: &Interner,
    scratch: &Scratch<'a>,
    detail: Detail,
    left: &mut usize,
) -> Described {
    let inner = Detail { depth: detail.depth.saturating_sub(1), ..detail };
    let mut described =
        Described { kind: kind(value, symbols, scratch), text: text(value, detail), members: Vec::new(), more: 0 };
    let mut add = |described: &mut Described, name: String, member: Value<'a>| {
        *left = left.saturating_sub(1);
        if *left == 0 || described.members.len() >= detail.members {
            described.more += 1;
        } else {
            described.members.push((name, within(member, symbols, scratch, inner, left)));
        }
    };
    match value {
        _ if detail.depth == 0 => {}
        Value::List(_) | Value::Seq(_) => {
            let count = value.len().unwrap_or(0);
            for at in 0..count.min(detail.members) {
                add(&mut described, at.to_string(), value.at(at, scratch));
            }
            described.more += count.saturating_sub(detail.members);
        }
        Value::Record(record) => {
            for symbol in record.keys() {
                add(&mut described, symbols.name(symbol).to_owned(), record.get(symbol, scratch));
            }
        }
        _ => {}
    }
    described
}

fn kind<'a>(value: Value<'a>, symbols: &Interner, scratch: &Scratch<'a>) -> String {
    match value {
        Value::Record(record) if record.as_text().is_none() => {
            let named = ["title", "label", "name", "key"].into_iter().find_map(|name| {
                let member = record.get(symbols.find(name)?, scratch);
                member.as_text().filter(|text| !text.is_empty())
            });
            named.map_or("a record".to_owned(), |name| format!("a record: {name}"))
        }
        Value::Bool(_) => "true or false".to_owned(),
        Value::Date(crate::value::moment::Moment::Day(_)) => "a day".to_owned(),
        Value::Date(_) => "a moment".to_owned(),
        Value::List(_) | Value::Seq(_) => format!("a list of {}", value.len().unwrap_or(0)),
        _ => value.kind().to_owned(),
    }
}

fn text(value: Value<'_>, detail: Detail) -> Option<String> {
    let whole = match value {
        Value::Nothing => return None,
        Value::Html(html) => without_marks(html),
        _ => shown(value).ok()?,
    };
    let mut text: String = whole.chars().take(detail.characters).collect();
    if text.len() < whole.len() {
        text.push('…');
    }
    Some(text)
}

impl Described {
    /// Appends it as HTML that folds.
    pub fn html(&self, out: &mut String) {
        out.push_str("<details open class=\"hausblatt-dump\"><summary>");
        self.head(out);
        out.push_str("</summary>");
        self.inside(out);
        out.push_str("</details>");
    }

    fn head(&self, out: &mut String) {
        if let Some(text) = &self.text {
            out.push_str("<code>");
            escape(text, out);
            out.push_str("</code> ");
        }
        escape(&self.kind, out);
    }

    fn inside(&self, out: &mut String) {
        if self.members.is_empty() && self.more == 0 {
            return;
        }
        out.push_str("<ul>");
        for (name, member) in &self.members {
            out.push_str("<li>");
            let folds = !member.members.is_empty();
            out.push_str(if folds { "<details><summary><b>" } else { "<b>" });
            escape(name, out);
            out.push_str("</b> ");
            member.head(out);
            if folds {
                out.push_str("</summary>");
                member.inside(out);
                out.push_str("</details>");
            }
            out.push_str("</li>");
        }
        if self.more > 0 {
            out.push_str(&format!("<li>… and {} more</li>", self.more));
        }
        out.push_str("</ul>");
    }
}
