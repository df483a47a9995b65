//! What pages depend on, as digests: a page whose digest is what it was is the page that it was.

mod digests;
mod named;
mod own;

pub(crate) use digests::{Digests, lasting_digest};
pub(crate) use named::{NamedDependency, NumberedDependency, OWN, named};
