//! What themes need from a site: whether they do without it, how their manifests say so, and a made-up site that has it all.

mod alone;
mod made_up;
mod manifest;
mod verdict;

pub use alone::{Alone, alone};
pub use made_up::made_up_site;
pub use manifest::{lines_to_add, written};
pub use verdict::{Needed, needed};
