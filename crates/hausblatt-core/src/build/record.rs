//! The record of a build: what went in, what came out. Never a source of pages.

use std::collections::BTreeMap;
use std::fs;
use std::io;
use std::path::Path;
use std::sync::Arc;

use hausblatt_lang::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::source::{Place, Span};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use xxhash_rust::xxh3::Xxh3;

use crate::build::{Options, RECORD, Report, write};
use crate::content::State;
use crate::disk;
use crate::snapshot::Body;
use crate::world::World;

/// A file that a build has put out.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Kept {
    /// Hash of its bytes, or of its source's stamp for a copy.
    pub hash: u64,
    /// Its length in bytes.
    pub length: u64,
    /// When it was changed last, in ns since the Unix epoch; 0 for one that was only intended.
    pub modified: u64,
}

impl Kept {
    /// Whether it was written, and not only meant to be.
    pub fn is_written(&self) -> bool {
        self.modified != 0
    }
}

/// What is known of the last build into a folder.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub struct Record {
    /// Digest of everything that went in; 0 if the build did not end well.
    pub digest: u64,
    /// What came out, by path.
    pub files: BTreeMap<String, Kept>,
    pages: usize,
    bytes: u64,
    failed: Vec<(String, u16)>,
    diagnostics: Vec<KeptDiagnostic>,
}

/// A diagnostic, for a second run to repeat.
#[derive(Clone, Debug, Serialize, Deserialize)]
struct KeptDiagnostic {
    code: String,
    error: bool,
    message: String,
    help: Option<String>,
    place: Option<(String, u32, u32)>,
}

impl Record {
    /// The record in `out`; an empty one if there is none that can be read.
    pub fn load(out: &Path) -> Self {
        let text = fs::read(out.join(RECORD)).unwrap_or_default();
        let mut record: Self = serde_json::from_slice(&text).unwrap_or_default();
        // The record may come from anywhere, and what it lists may be removed: only paths inside count.
        record.files.retain(|path, _| write::is_inside(path));
        record
    }

    /// Writes it.
    pub fn save(&self, out: &Path) -> io::Result<()> {
        let text = serde_json::to_vec(self).map_err(io::Error::other)?;
        disk::replace(&out.join(RECORD), &text)
    }

    /// Whether every file is still as it was put out.
    pub fn holds(&self, out: &Path) -> bool {
        self.files.par_iter().all(|(path, kept)| write::is_as_kept(out, path, kept))
    }

    /// The same with the paths that are about to be written, so that an interrupted build's files are known.
    pub fn with_intended<'p>(&self, paths: impl Iterator<Item = &'p str>) -> Self {
        let mut record = Self { digest: 0, ..self.clone() };
        for path in paths {
            record.files.entry(path.to_owned()).or_default();
        }
        record
    }

    /// Keeps what a second run has to repeat.
    pub fn keep_report(&mut self, report: &Report) {
        self.pages = report.pages;
        self.bytes = report.bytes;
        self.failed = report.failed.clone();
        self.diagnostics = report.diagnostics.iter().map(keep).collect();
    }

    /// The report of a run that had nothing to do.
    pub fn report(&self) -> Report {
        Report {
            pages: self.pages,
            unchanged: self.files.len(),
            bytes: self.bytes,
            failed: self.failed.clone(),
            diagnostics: self.diagnostics.iter().map(revive).collect(),
            ..Report::default()
        }
    }
}

fn keep(diagnostic: &Diagnostic) -> KeptDiagnostic {
    KeptDiagnostic {
        code: diagnostic.code.to_owned(),
        error: diagnostic.is_error(),
        message: diagnostic.message.clone(),
        help: diagnostic.help.clone(),
        place: diagnostic.place.as_ref().map(|place| (place.path.to_string(), place.span.start, place.span.end)),
    }
}

fn revive(kept: &KeptDiagnostic) -> Diagnostic {
    let place = kept
        .place
        .as_ref()
        .map(|(path, start, end)| Place { path: Arc::from(path.as_str()), span: Span { start: *start, end: *end } });
    Diagnostic {
        // Codes are a fixed set; leaking the few of one run gives them back their lifetime.
        code: kept.code.clone().leak(),
        severity: if kept.error { Severity::Error } else { Severity::Warning },
        place,
        message: kept.message.clone(),
        help: kept.help.clone(),
        related: Vec::new(),
    }
}

/// The digest of everything that a build depends on.
pub fn digest(world: &World, options: &Options) -> u64 {
    let mut hasher = Xxh3::new();
    let asking = &world.asking;
    let Options { map, marks, .. } = options;
    let version = env!("CARGO_PKG_VERSION");
    hasher.update(format!("{version} {map} {marks} {} {:?}", asking.drafts, asking.theme).as_bytes());
    if world.reads_today() {
        hasher.update(asking.today.to_string().as_bytes());
    }
    let waiting = world.site.contents.iter().filter(|content| content.state == State::Waits);
    for content in waiting {
        hasher.update(content.id.as_bytes());
    }
    for node in world.snapshot.files() {
        hasher.update(node.path.as_bytes());
        match &node.body {
            Body::Text(text) | Body::Head(text) => hasher.update(text.as_bytes()),
            Body::OnDemand | Body::Unreadable(..) => hasher.update(format!("{:?}", node.stamp).as_bytes()),
        }
    }
    hasher.digest().max(1)
}
