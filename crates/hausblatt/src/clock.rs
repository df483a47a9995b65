//! The only clock: what time it is, and what day where the site is.

use std::time::SystemTime;

use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;

/// The present moment, which says young files from old ones.
pub fn now() -> SystemTime {
    SystemTime::now()
}

/// The present moment, as it is kept with a change.
pub fn moment() -> Timestamp {
    Timestamp::now()
}

/// Today's date in `zone`.
pub fn today(zone: &TimeZone) -> Date {
    Timestamp::now().to_zoned(zone.clone()).date()
}
