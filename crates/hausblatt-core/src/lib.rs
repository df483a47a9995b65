//! The core of Hausblatt: sites, themes, lookup, rendering, builds. No printing, no sockets, no clock.
//!
//! Files become a [`files::Snapshot`]; with an [`asking::Asking`] it becomes a [`world::World`], which
//! never changes. An address [`request::lead`]s to a request, a request has a [`ladder`], and a
//! [`resolution::Resolution`] says which file answers it. A [`page::Page`] is the answer itself.

pub mod address;
pub mod asking;
pub mod assign;
pub mod build;
pub mod changes;
pub mod chart;
pub mod check;
mod clean;
pub mod compare;
pub mod component;
pub mod config;
pub mod conflict;
pub mod content;
pub mod copies;
pub mod data;
pub mod drift;
pub mod expect;
mod feed;
pub mod fields;
pub mod files;
pub mod front;
pub mod host;
pub mod ladder;
pub mod lineage;
pub mod map;
pub mod markdown;
pub mod missed;
pub mod named;
pub mod names;
mod needs;
mod notes;
mod offers;
pub mod originals;
pub mod outline;
pub mod page;
mod prepare;
pub mod public;
pub mod reach;
mod reader;
pub mod request;
pub mod resolution;
mod search;
pub mod settings;
pub mod shell;
pub mod site;
mod sitemap;
pub mod slug;
pub mod start;
pub mod states;
pub mod status;
pub mod suppose;
pub mod tables;
pub mod taxonomy;
pub mod theme;
mod toml_data;
pub mod values;
mod waits;
pub mod world;

pub use notes::offered;
