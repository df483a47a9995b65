//! The core on its own, mostly on sites in memory. A file for each question.

#![allow(clippy::unwrap_used, clippy::panic, clippy::expect_used)]

#[path = "../support/mod.rs"]
mod support;

mod analysis;
mod changing;
mod clean_sites;
mod components;
mod compressed;
mod configuration;
mod content;
mod cutting;
mod examples;
mod files;
mod fitting;
mod hostile;
mod images;
mod journal;
mod lookup;
mod naming_places;
mod neatening;
mod needing;
mod packing;
mod planting;
mod rebuilding;
mod rehearsing;
mod renaming;
mod renaming_names;
mod rendering;
mod small;
mod statuses;
mod themes;
mod value_changes;
mod versions;
mod world;
