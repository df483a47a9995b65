//! What a built search looks in, written after the pages; and the words of its entries, kept for the next build.

use std::borrow::Cow;
use std::collections::BTreeMap;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::build::record::Kept;
use crate::build::write::OutputFolder;
use crate::build::{BuildError, Options};
use crate::files::edit;
use crate::model::search::{self, Entry, KeptWords, SearchContent, SearchLists};
use crate::render::page::search_files;
use crate::render::search::entries;
use crate::schema::config;
use crate::text::address::output_file;
use crate::text::codes;
use crate::world::World;

/// The name of the file that keeps the words.
pub(super) const WORDS: &str = ".hausblatt-search";

/// What the search looks in, and where it is.
pub(super) struct SearchIndex<'w> {
    entries: Vec<Entry<'w>>,
    /// The words of the entries, and whether they are others than those that are kept.
    words: KeptWords,
    has_changed: bool,
    lists: SearchLists,
    /// The files of this part of the site, by their paths below the output folder.
    pub(super) files: Vec<(String, SearchContent)>,
}

impl<'w> SearchIndex<'w> {
    /// That of a site; none where nothing is searched.
    ///
    /// # Errors
    /// When it can't be written as JSON.
    pub(super) fn of(world: &'w World, options: &Options, out: OutputFolder<'_>) -> Result<Option<Self>, BuildError> {
        let Some((script, _)) = search_files(world) else { return Ok(None) };
        let script = output_file(&script);
        let folder = script.rsplit_once('/').map(|(folder, _)| format!("{folder}/")).unwrap_or_default();
        let known = out.files.read_own(&out.folder.join(WORDS));
        let mut words = known.map(|bytes| KeptWords::read(&bytes)).unwrap_or_default();
        let entries = entries(world);
        let has_changed = words.update(&entries);
        let is_wanted = |path: &str, key: u64| {
            let path = format!("{folder}{path}");
            options.part.holds(&path) && words.file(&path, key).is_none()
        };
        let made = search::files(&entries, &words, is_wanted);
        let (files, lists) = made.map_err(|error| BuildError::Io(options.out.join(&script), error.into()))?;
        let files = files.into_iter().map(|file| (format!("{folder}{}", file.path), file.content));
        let files = files.filter(|(path, _)| options.part.holds(path)).collect();
        Ok(Some(Self { entries, words, has_changed, lists, files }))
    }

    /// The text of a file.
    ///
    /// # Errors
    /// When it can't be written as JSON.
    pub(super) fn text<'s>(&self, content: &'s SearchContent) -> serde_json::Result<Cow<'s, str>> {
        self.lists.text(content, &self.entries, &self.words)
    }

    /// A digest of what a part or a block is made of; none for another file.
    pub(super) fn key(&self, content: &SearchContent) -> Option<u64> {
        content.key(&self.entries)
    }

    /// Whether a file that was kept is the one that would be made.
    pub(super) fn is_known(&self, path: &str, content: &SearchContent, kept: &Kept) -> bool {
        self.key(content).and_then(|key| self.words.file(path, key)).is_some_and(|hash| hash == kept.hash)
    }

    /// Keeps the words and the digests of parts and blocks, where anything has changed; that they can't be kept only costs time.
    pub(super) fn keep(self, out: OutputFolder<'_>, files: BTreeMap<String, (u64, u64)>) {
        let Self { mut words, has_changed, entries, lists, files: made } = self;
        // What is kept needs room of its own.
        drop((lists, made));
        // What was edited meanwhile has words that are not those of its digest.
        if entries.iter().any(|entry| entry.content.node.has_changed()) {
            return;
        }
        if words.keep_files(files) || has_changed {
            let _ = edit::replace(out.files, &out.folder.join(WORDS), &words.bytes());
        }
    }
}

/// What is said where one of the files would be where something else is published.
pub(super) fn meeting(path: &str) -> Diagnostic {
    Diagnostic::of(&codes::SAME_OUTPUT, format!("two outputs meet in the file {path}"))
        .help("the search looks in it: give what is published there another address")
        .at(&config::FILE.into(), Span::default())
}
