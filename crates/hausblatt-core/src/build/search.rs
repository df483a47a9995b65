//! What a built search looks in, written after the pages; and the words of its entries, kept for the next build.

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::build::record::Kept;
use crate::build::write::OutputFolder;
use crate::build::{BuildError, Options};
use crate::files::edit;
use crate::model::search::{self, Entry, KeptWords, SearchContent};
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
    /// The folder that the files are in, with a slash behind it; nothing for that of the site.
    folder: String,
}

/// Files of the index, by their paths below the output folder.
pub(super) type SearchFiles<'s> = Vec<(String, SearchContent<'s>)>;

impl<'w> SearchIndex<'w> {
    /// That of a site; none where nothing is searched.
    pub(super) fn of(world: &'w World, out: OutputFolder<'_>) -> Option<Self> {
        let script = output_file(&search_files(world)?.0);
        let known = out.files.read_own(&out.folder.join(WORDS));
        let mut words = known.map(|bytes| KeptWords::read(&bytes)).unwrap_or_default();
        let entries = entries(world);
        let has_changed = words.update(&entries);
        let folder = script.rsplit_once('/').map(|(folder, _)| format!("{folder}/")).unwrap_or_default();
        Some(Self { entries, words, has_changed, folder })
    }

    /// The files of this part of the site.
    ///
    /// # Errors
    /// When they can't be written as JSON.
    pub(super) fn files(&self, options: &Options) -> Result<SearchFiles<'_>, BuildError> {
        let files = search::files(&self.entries, &self.words);
        let files = files.map_err(|error| BuildError::Io(options.out.join(&self.folder), error.into()))?;
        let placed = files.into_iter().map(|file| (format!("{}{}", self.folder, file.path), file.content));
        Ok(placed.filter(|(path, _)| options.part.holds(path)).collect())
    }

    /// Whether a file that was kept is the one that would be made.
    pub(super) fn is_known(&self, path: &str, content: &SearchContent<'_>, kept: &Kept) -> bool {
        content.key().and_then(|key| self.words.block(path, key)).is_some_and(|hash| hash == kept.hash)
    }

    /// Keeps the words and the digests of the blocks, where anything has changed; that they can't be kept only costs time.
    pub(super) fn keep(self, out: OutputFolder<'_>, blocks: Vec<(String, (u64, u64))>) {
        let Self { mut words, has_changed, .. } = self;
        if has_changed {
            words.keep_blocks(blocks.into_iter());
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
