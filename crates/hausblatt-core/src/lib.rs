//! The core of Hausblatt: sites, themes, lookup, rendering, builds. No printing, no sockets, no clock.
//!
//! A program of one's own begins with [`Site::open`]: it routes, explains, renders, checks and supposes. The folder `examples/`
//! shows how. Behind it is this:
//!
//! Files become a [`files::Snapshot`]; with an [`asking::SiteOptions`] it becomes a [`world::World`], which
//! never changes. An address [`model::request::route`]s to a request, a request has a [`lookup::ladder`], and a
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
pub mod needs;
mod open;
pub mod pack;
pub mod rehearse;
pub mod render;
pub mod schema;
mod site;
pub mod text;
pub mod themes;
mod threads;
pub mod world;

pub use analysis::explanation::Explanation;
pub use analysis::notes::offered;
pub use asking::SiteOptions;
pub use change::suppose::Supposition;
pub use check::Finding;
pub use hausblatt_images as images;
pub use hausblatt_lang as lang;
pub use model::request::Routed;
pub use render::page::Page;
pub use site::{Answer, At, LoadErrors, Site};
pub use {bumpalo, jiff};

/// The version of this program, with a digest of what it is compiled of: another one may make something else of the same
/// site, so what one has kept is not used by another.
pub const PROGRAM: &str = env!("HAUSBLATT_PROGRAM");
