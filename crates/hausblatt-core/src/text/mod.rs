//! Texts of all sorts, read and written: addresses, slugs, TOML, YAML, Markdown, HTML. Nothing here knows a site.

pub mod address;
pub mod addresses_in_text;
pub(crate) mod clean;
pub mod codes;
pub mod conflict;
pub mod data;
pub mod data_change;
pub(crate) mod deep;
pub mod drawing;
pub mod front;
pub(crate) mod json;
pub(crate) mod line_break;
pub mod markdown;
pub(crate) mod markdown_slips;
pub mod names;
pub(crate) mod reader;
pub mod scripts;
pub mod shell;
pub mod slug;
pub mod styles;
pub mod toml_change;
pub(crate) mod toml_data;
pub(crate) mod toml_places;
