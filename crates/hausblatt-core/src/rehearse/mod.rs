//! Rehearsing a theme: its templates rendered with content that is worse than the site's own, and what goes wrong there and
//! not at home. Every variation is a World of its own with an overlay; nothing is written.
//!
//! `samples.rs` makes the site small: a sample of the content of each template, and what shows it. The files of `varied/` make the
//! variations, `worse.rs` the values in them; `run.rs` renders and compares.

mod bare;
mod edits;
mod run;
mod samples;
mod variation;
mod varied;
mod worse;

pub(crate) use edits::{ContentText, configured, table_rows, text, toml};
pub use run::{MOST, Rehearsal, Rehearsed, Stage, Within};
pub(crate) use samples::Small;
pub use variation::Variation;
pub(crate) use worse::{DRAWING, drawings, usual};
