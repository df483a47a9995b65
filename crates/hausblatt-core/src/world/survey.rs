//! What takes part in each answer, and what uses each file, as the World keeps it.

use std::sync::Arc;

use crate::themes::lineage::FileId;

/// What takes part in one answer.
pub struct Surveyed {
    /// The template.
    pub winner: Option<FileId>,
    /// The files, each once; answers with the same files share them.
    pub parts: Arc<[(FileId, ReachPart)]>,
}

/// As what a file has an effect on an address.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum ReachPart {
    /// It renders the address, or is gone on with.
    Template,
    /// It is around the template.
    Layout,
    /// It is called, or may be.
    Partial,
    /// It is called or placed by content.
    Component,
    /// It runs before the template.
    Prepare,
    /// It is requested.
    Asset,
}

impl ReachPart {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            ReachPart::Template => "template",
            ReachPart::Layout => "layout",
            ReachPart::Partial => "partial",
            ReachPart::Component => "component",
            ReachPart::Prepare => "prepare file",
            ReachPart::Asset => "asset",
        }
    }
}

/// Whether anything uses a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FileUse {
    /// Some address does.
    Used,
    /// A request or an editor could; what it waits for.
    Ready(String),
    /// Nothing can; why.
    Dead(String),
}

impl FileUse {
    /// The word for it in JSON.
    pub fn word(&self) -> &'static str {
        match self {
            FileUse::Used => "used",
            FileUse::Ready(_) => "ready",
            FileUse::Dead(_) => "dead",
        }
    }

    /// What it waits for, or why nothing uses it.
    pub fn reason(&self) -> Option<&str> {
        match self {
            FileUse::Used => None,
            FileUse::Ready(reason) | FileUse::Dead(reason) => Some(reason),
        }
    }
}
