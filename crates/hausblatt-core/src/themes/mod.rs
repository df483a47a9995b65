//! Themes as they are merged: manifests, the lineage, headers, settings, components, prepare files, recorded originals.

pub mod component;
pub mod file_name;
pub mod lineage;
pub mod originals;
pub(crate) mod prepare;
pub mod settings;
pub mod site_file;
pub mod theme;
