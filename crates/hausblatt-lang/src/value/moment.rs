//! Dates: a day, or a moment with its offset from UTC.

use std::cmp::Ordering;
use std::fmt;

use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::{Offset, TimeZone};

/// A day of the Gregorian calendar, or a moment to the second.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Moment {
    /// A whole day.
    Day(Date),
    /// Seconds since 1970-01-01T00:00:00Z, and the offset in seconds at which it is reported.
    At {
        /// Seconds since the Unix epoch.
        seconds: i64,
        /// Seconds east of UTC.
        offset: i32,
    },
}

/// The first second of a day in a zone; at the ends of the calendar, in UTC.
fn begins(day: Date, zone: &TimeZone) -> i64 {
    let midnight = day.at(0, 0, 0, 0);
    let zoned = midnight.to_zoned(zone.clone()).or_else(|_| midnight.to_zoned(TimeZone::UTC));
    zoned.map_or(if day.year() < 0 { i64::MIN } else { i64::MAX }, |zoned| zoned.timestamp().as_second())
}

impl Moment {
    /// All there is to it, as bytes.
    pub fn lasting_bytes(self) -> [u8; 13] {
        let mut bytes = [0; 13];
        match self {
            Moment::Day(day) => {
                bytes[1..3].copy_from_slice(&day.year().to_le_bytes());
                bytes[3..5].copy_from_slice(&[day.month().unsigned_abs(), day.day().unsigned_abs()]);
            }
            Moment::At { seconds, offset } => {
                bytes[0] = 1;
                bytes[1..9].copy_from_slice(&seconds.to_le_bytes());
                bytes[9..].copy_from_slice(&offset.to_le_bytes());
            }
        }
        bytes
    }

    /// Reads `2026-03-14`, or a date and time as in RFC 3339; one without an offset is in `zone`.
    pub fn parse(text: &str, zone: &TimeZone) -> Option<Self> {
        let text = text.trim();
        if text.len() == 10 {
            return text.parse::<Date>().ok().map(Moment::Day);
        }
        let zoned = match text.parse::<Timestamp>() {
            Ok(timestamp) => return Some(Self::at(timestamp, offset_written(text))),
            Err(_) => text.parse::<jiff::civil::DateTime>().ok()?.to_zoned(zone.clone()).ok()?,
        };
        Some(Self::at(zoned.timestamp(), zoned.offset()))
    }

    fn at(timestamp: Timestamp, offset: Offset) -> Self {
        Moment::At { seconds: timestamp.as_second(), offset: offset.seconds() }
    }

    /// The day it falls on, at its own offset.
    pub fn day(self) -> Date {
        match self {
            Moment::Day(day) => day,
            Moment::At { .. } => self.civil().date(),
        }
    }

    /// The same, `days` later; `None` outside the calendar (years -9999 to 9999).
    pub(crate) fn plus_days(self, days: i64) -> Option<Self> {
        match self {
            Moment::Day(day) => day.checked_add(jiff::Span::new().try_days(days).ok()?).ok().map(Moment::Day),
            Moment::At { seconds, offset } => {
                let seconds = seconds.checked_add(days.checked_mul(86_400)?)?;
                Timestamp::from_second(seconds).ok()?;
                Some(Moment::At { seconds, offset })
            }
        }
    }

    /// Days from `other` to this; whole days, by the calendar.
    pub(crate) fn days_since(self, other: Moment) -> i64 {
        i64::from(self.day().since(other.day()).map_or(0, |span| span.get_days()))
    }

    /// The hour of the day, 0 to 23; a day's is 0.
    pub fn hour(self) -> i8 {
        self.civil().hour()
    }

    /// The order in time, which is total: a day comes before all its moments in `zone`, and after all moments before it.
    pub fn order(self, other: Moment, zone: &TimeZone) -> Ordering {
        match (self, other) {
            (Moment::At { seconds: a, .. }, Moment::At { seconds: b, .. }) => a.cmp(&b),
            (Moment::Day(a), Moment::Day(b)) => a.cmp(&b),
            // At its first second already, a day is over as a whole.
            (Moment::Day(day), Moment::At { seconds, .. }) => begins(day, zone).cmp(&seconds).then(Ordering::Less),
            (Moment::At { .. }, Moment::Day(_)) => other.order(self, zone).reverse(),
        }
    }

    /// Whether both are the same day or the same moment, reported at whatever offset.
    pub fn is_same(self, other: Moment) -> bool {
        match (self, other) {
            (Moment::At { seconds: a, .. }, Moment::At { seconds: b, .. }) => a == b,
            (Moment::Day(a), Moment::Day(b)) => a == b,
            _ => false,
        }
    }

    /// The day's number in the week, Monday 1 to Sunday 7 (ISO 8601).
    pub fn weekday(self) -> i64 {
        i64::from(self.day().weekday().to_monday_one_offset())
    }

    /// Formats as POSIX `strftime` does, with the flag `-` against leading zeros.
    ///
    /// # Errors
    /// The formatter's words, where `pattern` holds a conversion it does not know.
    pub fn format(self, pattern: &str) -> Result<String, String> {
        let zoned = self.civil().to_zoned(TimeZone::fixed(self.offset())).map_err(|error| error.to_string())?;
        let mut out = String::new();
        jiff::fmt::strtime::BrokenDownTime::from(&zoned)
            .format(pattern, &mut out)
            .map_err(|error| error.to_string())?;
        Ok(out)
    }

    /// As in RFC 3339; a day means its first second in UTC.
    pub fn stamp(self) -> String {
        self.format("%Y-%m-%dT%H:%M:%S%:z").map_or_else(|_| self.to_string(), |text| text.replace("+00:00", "Z"))
    }

    fn offset(self) -> Offset {
        match self {
            Moment::Day(_) => Offset::UTC,
            Moment::At { offset, .. } => Offset::from_seconds(offset).unwrap_or(Offset::UTC),
        }
    }

    fn civil(self) -> jiff::civil::DateTime {
        match self {
            Moment::Day(day) => day.at(0, 0, 0, 0),
            Moment::At { seconds, .. } => {
                let stamp = Timestamp::from_second(seconds).unwrap_or(Timestamp::UNIX_EPOCH);
                self.offset().to_datetime(stamp)
            }
        }
    }
}

fn offset_written(text: &str) -> Offset {
    jiff::fmt::temporal::Pieces::parse(text).ok().and_then(|pieces| pieces.to_numeric_offset()).unwrap_or(Offset::UTC)
}

impl fmt::Display for Moment {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Moment::Day(day) => write!(f, "{day}"),
            Moment::At { .. } => f.write_str(&self.stamp()),
        }
    }
}

/// Whether a pattern of a date asks for the time of day.
pub(crate) fn asks_for_clock(pattern: &str) -> bool {
    ["%H", "%M", "%S", "%I", "%p", "%T", "%R", "%X"].iter().any(|part| pattern.contains(part))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_days_and_moments() {
        let berlin = TimeZone::get("Europe/Berlin").unwrap();
        for (text, shown) in [
            ("2026-03-14", "2026-03-14"),
            ("2026-03-14T09:30:00+01:00", "2026-03-14T09:30:00+01:00"),
            ("2026-03-14 09:30", "2026-03-14T09:30:00+01:00"),
            ("2026-07-14T09:30", "2026-07-14T09:30:00+02:00"),
            ("2026-03-14T09:30:00Z", "2026-03-14T09:30:00Z"),
        ] {
            assert_eq!(Moment::parse(text, &berlin).map(|m| m.to_string()).as_deref(), Some(shown), "{text}");
        }
        for text in ["", "2026-02-30", "14.3.2026", "tomorrow", "2026-03-14T99:00"] {
            assert_eq!(Moment::parse(text, &berlin), None, "{text}");
        }
    }

    #[test]
    fn counts_and_formats_days() {
        let day = Moment::parse("2026-03-04", &TimeZone::UTC).unwrap();
        assert_eq!(day.plus_days(28).unwrap().to_string(), "2026-04-01");
        assert_eq!(day.plus_days(28).unwrap().days_since(day), 28);
        assert_eq!(day.format("%-d %B %Y").unwrap(), "4 March 2026");
        assert_eq!(day.plus_days(i64::MAX), None);
        assert!(day.format("%!").is_err());
    }
}
