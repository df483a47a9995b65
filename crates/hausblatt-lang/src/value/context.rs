//! What members, functions and operators work with.

use crate::value::Scratch;
use crate::value::host::Host;

/// The site, and where results live.
pub struct Context<'c, 'a> {
    /// The site.
    pub host: &'a dyn Host,
    /// Where results live.
    pub scratch: &'c Scratch<'a>,
}
