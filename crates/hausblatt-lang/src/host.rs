//! What the language asks of the site it renders for.

use std::cmp::Ordering;

use jiff::tz::TimeZone;

use crate::shape::Interner;
use crate::value::Scratch;

/// The site, as far as the language has to know it.
pub trait Host: Sync {
    /// The numbers of all names.
    fn symbols(&self) -> &Interner;

    /// The site's timezone, for moments without an offset.
    fn zone(&self) -> &TimeZone;

    /// The site's own address, such as `https://seeds.example`; may be empty.
    fn site_address(&self) -> &str;

    /// The address behind a reference such as `page:visit`; none if it leads nowhere.
    fn url<'a>(&'a self, reference: &str, scratch: &Scratch<'a>) -> Option<&'a str>;

    /// The address of a theme's asset; none if no theme of the lineage has it.
    fn asset<'a>(&'a self, path: &str, scratch: &Scratch<'a>) -> Option<&'a str>;

    /// The order of two texts in the site's language.
    fn compare(&self, a: &str, b: &str) -> Ordering {
        a.to_lowercase().cmp(&b.to_lowercase()).then_with(|| a.cmp(b))
    }

    /// A text as a slug.
    fn slug(&self, text: &str) -> String;
}
