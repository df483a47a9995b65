//! What the language asks of the site it renders for.

use jiff::tz::TimeZone;

use crate::value::language::Language;
use crate::value::shape::Interner;
use crate::value::tray::InTray;
use crate::value::{Record, Scratch, Value};

/// What is asked of an image.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Fit<'f> {
    /// A width in pixels.
    Scaled(u32),
    /// A shape: so wide to so high.
    Cropped(u32, u32),
    /// A format, by its name.
    As(&'f str),
    /// A quality.
    Quality(u32),
}

/// The site, as far as the language has to know it.
pub trait Host: Sync {
    /// The numbers of all names.
    fn symbols(&self) -> &Interner;

    /// The site's timezone, for moments without an offset.
    fn zone(&self) -> &TimeZone;

    /// The site's own address, such as `https://seeds.example`; may be empty.
    fn site_address(&self) -> &str;

    /// The address after a reference such as `page:visit`; none if it is a broken link.
    fn url<'a>(&'a self, reference: &str, scratch: &Scratch<'a>) -> Option<&'a str>;

    /// The address of a theme's asset; none if no theme of the lineage has it.
    fn asset<'a>(&'a self, path: &str, scratch: &Scratch<'a>) -> Option<&'a str>;

    /// The drawing at a path of a theme's assets as HTML, hidden or with a title; none if no theme of the lineage has it.
    ///
    /// # Errors
    /// Why it can't be put into a page.
    fn inline<'a>(&'a self, path: &str, title: Option<&str>, scratch: &Scratch<'a>) -> Result<Option<&'a str>, String>;

    /// The site's language.
    fn language(&self) -> &Language;

    /// The image at `path`, as a record; none if there is no such file.
    fn image<'a>(&'a self, path: &str, scratch: &Scratch<'a>) -> Option<Value<'a>>;

    /// An image as it is wanted, as a record; the image itself where it is of a sort that stays as it is.
    ///
    /// # Errors
    /// What is wrong with what is asked.
    fn fitted<'a>(&'a self, image: &'a dyn Record, fit: Fit<'_>, scratch: &Scratch<'a>) -> Result<Value<'a>, String>;

    /// An image in these widths and in its own, for a `srcset`; `nothing` where it is of a sort that stays as it is.
    ///
    /// # Errors
    /// Why it can't be had in several widths.
    fn srcset<'a>(&'a self, image: &'a dyn Record, widths: &[u32], scratch: &Scratch<'a>) -> Result<Value<'a>, String>;

    /// The page or entry after a reference such as `page:visit`, as a record; none if there is no such thing.
    fn content<'a>(&'a self, reference: &str, scratch: &Scratch<'a>) -> Option<Value<'a>>;

    /// What the content with this number places in a tray, in order.
    fn tray<'a>(&'a self, content: u32, name: &str, scratch: &Scratch<'a>) -> &'a [InTray<'a>] {
        let _ = (content, name, scratch);
        &[]
    }

    /// The page or entry with this number, as a record.
    fn content_of<'a>(&'a self, number: u32, scratch: &Scratch<'a>) -> Value<'a> {
        let _ = (number, scratch);
        Value::Nothing
    }

    /// A digest of the thing with this identity ([`Record::identity`]) that is the same in every state of the site that has
    /// it, whatever its numbers are there.
    fn lasting_digest(&self, identity: (u32, u32)) -> u64 {
        (u64::from(identity.0) << 32) | u64::from(identity.1)
    }

    /// A value that a call gives a component, as one of its field with this number.
    ///
    /// # Errors
    /// Where it does not fit, and why.
    fn converted<'a>(&'a self, field: u32, value: Value<'a>, scratch: &Scratch<'a>) -> Result<Value<'a>, String> {
        let _ = (field, scratch);
        Ok(value)
    }

    /// Markdown as HTML that is safe.
    fn markdown<'a>(&'a self, text: &str, scratch: &Scratch<'a>) -> &'a str;

    /// A text as a slug.
    fn slug(&self, text: &str) -> String;
}
