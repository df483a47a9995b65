//! Prepare files: the names that they give to all files.

use hausblatt_lang::compile::prepared_names;

use crate::themes::file_name::Role;
use crate::themes::lineage::Lineage;

/// What a prepare file may be called: `all`, or a kind of request.
pub const NAMES: &[&str] = &["all", "front", "page", "entry", "listing", "period", "search", "route", "error"];

/// The names that the prepare files of a lineage set.
pub fn names(lineage: &Lineage) -> impl Iterator<Item = String> {
    let files = lineage.files.iter().filter(|file| file.role == Role::Prepare && file.hidden_by.is_none());
    files.filter_map(|file| file.node.text()).flat_map(|text| prepared_names(text))
}
