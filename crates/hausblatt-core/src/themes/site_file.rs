//! The files of a site by their public addresses.

use std::sync::Arc;

use crate::files::{FileNode, Snapshot};
use crate::themes::lineage::Lineage;

/// The file of an image at an address below `/media/` or `/assets/`.
pub(crate) fn file_of(snapshot: &Snapshot, lineage: &Lineage, address: &str) -> Option<Arc<FileNode>> {
    let path = address.strip_prefix('/')?;
    match path.strip_prefix("assets/") {
        Some(_) => Some(lineage.file(lineage.nearest(path)?).node.clone()),
        None if path.starts_with("media/") => snapshot.file(path).cloned(),
        None => None,
    }
}
