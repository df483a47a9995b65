//! What is packed of a theme.

use std::collections::BTreeMap;

use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::pack::archive::Archive;
use crate::text::codes;
use crate::world::World;

/// A theme to be packed.
#[derive(Clone, Debug)]
pub struct Packing {
    /// What is packed.
    pub archive: Archive,
    /// The version of the theme, if it has one.
    pub version: Option<String>,
    /// The themes of it that have no licence file.
    pub without_licence: Vec<String>,
}

/// How licence files begin, in lower case.
const LICENCES: &[&str] = &["licence", "license", "copying", "unlicense", "unlicence"];

/// The active theme of a World with its ancestors, or alone.
///
/// # Errors
/// What of it can't be read.
pub fn pack(world: &World, with_parents: bool) -> Result<Packing, Diagnostic> {
    let packed = if with_parents { world.lineage.themes.len() } else { 1 };
    let themes: Vec<String> = world.lineage.themes.iter().take(packed).map(|theme| theme.name.clone()).collect();
    let mut files = BTreeMap::new();
    let mut without_licence = Vec::new();
    for name in &themes {
        let folder = format!("themes/{name}/");
        if let Some(left_out) = world.snapshot.left_out().iter().find(|left_out| left_out.path.starts_with(&folder)) {
            return Err(left_out.diagnostic());
        }
        let mut has_licence = false;
        for node in world.snapshot.below(&folder) {
            let unreadable = |error: std::io::Error| {
                Diagnostic::of(&codes::UNREADABLE, format!("{} can't be read: {error}", node.path))
                    .help("make it readable, then pack again")
            };
            let below = node.path[folder.len()..].to_lowercase();
            has_licence |= !below.contains('/') && LICENCES.iter().any(|start| below.starts_with(start));
            files.insert(node.path.to_string(), node.bytes().map_err(unreadable)?);
        }
        if !has_licence {
            without_licence.push(name.clone());
        }
    }
    let active = world.lineage.active();
    let archive = Archive { theme: active.name.clone(), themes, files };
    Ok(Packing { archive, version: active.version.clone(), without_licence })
}
