//! The order of entries.

use std::cmp::Ordering;

use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::language::Language;
use hausblatt_lang::value::moment::Moment;
use hausblatt_lang::value::shape::Interner;
use jiff::tz::TimeZone;

use crate::model::content::Content;

/// By what entries are sorted.
pub(crate) enum SortKey {
    /// The entry has no such key.
    Nothing,
    /// A number.
    Number(f64),
    /// A whole day, as a number that grows with it, and the day.
    Day(i32, Moment),
    /// A moment.
    Moment(Moment),
    /// A text.
    Text(String),
}

impl SortKey {
    /// What `content` has for `key`.
    pub fn of(content: &Content, key: &str, symbols: &Interner) -> Self {
        match key {
            "title" => SortKey::text(&content.title),
            "date" => content.date.map_or(SortKey::Nothing, SortKey::date),
            "updated" => content.updated.map_or(SortKey::Nothing, SortKey::date),
            "order" => content.order.map_or(SortKey::Nothing, SortKey::Number),
            "id" => SortKey::text(&content.id),
            _ => {
                let slot = symbols.find(key).and_then(|symbol| content.shape.slot(symbol));
                match slot.and_then(|slot| content.values.get(slot)) {
                    Some(Datum::Int(number)) => SortKey::Number(*number as f64),
                    Some(Datum::Float(number)) => SortKey::Number(*number),
                    Some(Datum::Date(moment)) => SortKey::date(*moment),
                    Some(Datum::Text(text)) => SortKey::text(text),
                    _ => SortKey::Nothing,
                }
            }
        }
    }

    /// Most dates are whole days, and two of them are compared as two numbers.
    fn date(moment: Moment) -> Self {
        match moment {
            Moment::Day(day) => {
                let number = (i32::from(day.year()) << 9) | (i32::from(day.month()) << 5) | i32::from(day.day());
                SortKey::Day(number, moment)
            }
            Moment::At { .. } => SortKey::Moment(moment),
        }
    }

    /// What is all ASCII is compared without case, which is quick; the rest as the site's language sorts.
    fn text(text: &str) -> Self {
        SortKey::Text(if text.is_ascii() { text.to_ascii_lowercase() } else { text.to_owned() })
    }

    /// The order of two keys; nothing comes last, also descending. Without a language, texts go by their bytes.
    pub fn order(&self, other: &Self, descending: bool, language: Option<&Language>, zone: &TimeZone) -> Ordering {
        let order = match (self, other) {
            (SortKey::Nothing, SortKey::Nothing) => return Ordering::Equal,
            (SortKey::Nothing, _) => return Ordering::Greater,
            (_, SortKey::Nothing) => return Ordering::Less,
            (SortKey::Number(a), SortKey::Number(b)) => a.total_cmp(b),
            (SortKey::Day(a, _), SortKey::Day(b, _)) => a.cmp(b),
            (SortKey::Day(_, a) | SortKey::Moment(a), SortKey::Day(_, b) | SortKey::Moment(b)) => a.order(*b, zone),
            (SortKey::Text(a), SortKey::Text(b)) => match language {
                Some(language) => language.compare(a, b),
                None => a.cmp(b),
            },
            (a, b) => a.rank().cmp(&b.rank()),
        };
        if descending { order.reverse() } else { order }
    }

    /// Whether sorting by it needs no more than its bytes.
    pub(crate) fn is_simple(&self) -> bool {
        !matches!(self, SortKey::Text(text) if !text.is_ascii())
    }

    fn rank(&self) -> u8 {
        match self {
            SortKey::Number(_) => 0,
            SortKey::Day(..) | SortKey::Moment(_) => 1,
            SortKey::Text(_) => 2,
            SortKey::Nothing => 3,
        }
    }
}
