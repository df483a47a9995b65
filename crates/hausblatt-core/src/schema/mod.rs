//! What a site and its themes declare: the configuration, and the fields that content carries.

pub mod config;
pub mod fields;
