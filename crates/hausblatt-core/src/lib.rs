//! The core of Hausblatt: sites, themes, lookup, rendering, builds. No printing, no sockets, no clock.
//!
//! Files become a [`files::Snapshot`]; with an [`asking::SiteOptions`] it becomes a [`world::World`], which
//! never changes. An address [`lookup::request::route`]s to a request, a request has a [`lookup::ladder`], and a
//! [`lookup::resolution::Resolution`] says which file answers it. A [`render::page::Page`] is the answer itself.

pub mod analysis;
mod arena;
pub mod asking;
pub mod build;
pub mod change;
pub mod check;
pub mod files;
pub mod lookup;
pub mod model;
mod open;
pub mod render;
pub mod schema;
pub mod text;
pub mod themes;
pub mod world;

pub use analysis::notes::offered;
