//! Content and what orders it: pages, entries, terms, tables, the search index, and the site that holds them all.

pub mod content;
pub mod contents;
pub(crate) mod dependencies;
pub(crate) mod reference;
pub mod request;
pub(crate) mod search;
pub mod site;
pub mod tables;
pub mod taxonomy;
