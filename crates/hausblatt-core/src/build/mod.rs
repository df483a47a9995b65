//! Builds: the whole site as files in a folder, of which only what changed is written.

mod compressed;
mod dry;
mod images;
pub(crate) mod kept_pages;
mod part;
mod plan;
mod record;
mod run;
mod search;
mod write;

pub use dry::{ChangeKind, DryRun, PlannedChange, dry_run};
pub(crate) use images::can_not_be_made;
pub use part::BuildPart;
pub(crate) use plan::{have_same_outputs, meeting};
pub use run::*;
