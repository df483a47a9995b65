//! The only clock: what day it is where the site is.

use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;

/// Today's date in `zone`.
pub fn today(zone: &TimeZone) -> Date {
    Timestamp::now().to_zoned(zone.clone()).date()
}
