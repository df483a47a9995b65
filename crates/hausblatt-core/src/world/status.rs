//! The status that an address is answered with, as the World keeps it.

use hausblatt_lang::text::source::Place;
use rustc_hash::FxHashMap;

/// What a request is answered with.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Status {
    /// The HTTP status.
    pub code: u16,
    /// Where a redirect leads.
    pub location: Option<String>,
    /// Whether the page was rendered to find out.
    pub rendered: bool,
    /// Where a file answers with an error or redirects.
    pub stopped_at: Option<Place>,
}

/// The statuses that differ from what the request alone says, by address.
pub type Odd = FxHashMap<Box<str>, Status>;
