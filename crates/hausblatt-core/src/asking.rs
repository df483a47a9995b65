//! What is asked of a site in addition to its files: the day, drafts, another theme.

use hausblatt_lang::render::Limits;
use jiff::civil::Date;

/// The circumstances of a question. The core has no clock; the day is part of the question.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SiteOptions {
    /// The day that counts as today.
    pub today: Date,
    /// Whether drafts have addresses.
    pub drafts: bool,
    /// A theme to be active instead of the configured one.
    pub theme: Option<String>,
    /// How much rendering one page may cost.
    pub limits: Limits,
}

impl SiteOptions {
    /// As visitors see the site on that day.
    pub fn on(today: Date) -> Self {
        Self { today, drafts: false, theme: None, limits: Limits::default() }
    }
}
