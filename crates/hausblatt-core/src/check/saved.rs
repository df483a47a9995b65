//! What was seen of pages, in a file for the next check by a program that is started again. As in memory, a page is looked
//! at again unless all that it was made of has the digest that it had.

use std::borrow::Cow;
use std::path::PathBuf;
use std::sync::Arc;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::source::{Place, Span};
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};
use xxhash_rust::xxh3::xxh3_64;

use crate::build::kept_pages::{KeptDependencies, MadeOf};
use crate::check::codes;
use crate::check::rules::broken_anchor::Pointer;
use crate::check::run::Seen;
use crate::check::seen_pages::SeenPages;
use crate::check::view::PageProblem;
use crate::files::Snapshot;
use crate::files::edit::{replace, sweep};
use crate::themes::lineage::FileId;

/// The file in the site's folder that has what `check` saw of pages. It may be removed at any time.
pub const SEEN: &str = ".hausblatt-check";
/// How it begins.
const HEAD: &[u8] = b"hausblatt-check 1\n";

#[derive(Serialize, Deserialize)]
struct Saved<'s> {
    /// The program that has made it.
    by: Cow<'s, str>,
    surroundings: u64,
    dependencies: Cow<'s, KeptDependencies>,
    pages: Vec<SavedPage<'s>>,
}

#[derive(Serialize, Deserialize)]
struct SavedPage<'s> {
    address: Cow<'s, str>,
    made_of: Cow<'s, MadeOf>,
    template: Option<u32>,
    /// Each with its code and the tag that it is about.
    found: Vec<(Cow<'s, str>, SavedProblem<'s>, Cow<'s, str>)>,
    /// The address and the id of each place that is linked to, and what is said if it is not there.
    pointers: Vec<(Cow<'s, str>, Cow<'s, str>, SavedProblem<'s>)>,
    ids: Vec<Cow<'s, str>>,
}

#[derive(Serialize, Deserialize)]
struct SavedProblem<'s> {
    at: Option<usize>,
    place: Option<(Cow<'s, str>, u32, u32)>,
    message: Cow<'s, str>,
    help: Cow<'s, str>,
    lost: Option<Cow<'s, str>>,
    of_menu: Option<Cow<'s, str>>,
    of_template: bool,
}

/// The site's folder, as it is written to: through no link.
fn folder(snapshot: &Snapshot) -> Option<PathBuf> {
    snapshot.file_system().real_path(snapshot.root()).ok()
}

impl SeenPages {
    /// What this program, and no other, has saved of a site; nothing where there is none that makes sense.
    pub fn load(snapshot: &Snapshot, by: &str) -> Self {
        let read = folder(snapshot).and_then(|folder| snapshot.file_system().read_own(&folder.join(SEEN)).ok());
        read.and_then(|bytes| Self::parsed(&bytes, by)).unwrap_or_default()
    }

    /// Saves it for the next check, if the site's folder can be written and there is something new in it.
    pub fn save(&self, snapshot: &Snapshot, by: &str) {
        if let Some((folder, bytes)) = folder(snapshot).filter(|_| self.is_new).zip(self.written(by)) {
            let files = &**snapshot.file_system();
            sweep(files, &folder);
            let _ = replace(files, &folder.join(SEEN), &bytes);
        }
    }

    fn written(&self, by: &str) -> Option<Vec<u8>> {
        let mut pages: Vec<_> = self.pages.iter().collect();
        pages.sort_unstable_by_key(|(address, _)| *address);
        let saved = Saved {
            by: by.into(),
            surroundings: self.surroundings,
            dependencies: Cow::Borrowed(&self.dependencies),
            pages: pages.into_iter().map(|(address, (made_of, seen))| SavedPage::of(address, made_of, seen)).collect(),
        };
        let start = HEAD.len() + size_of::<u64>();
        let mut bytes = HEAD.to_vec();
        bytes.resize(start, 0);
        let mut bytes = postcard::to_extend(&saved, bytes).ok()?;
        let digest = xxh3_64(bytes.get(start..)?);
        bytes.get_mut(HEAD.len()..start)?.copy_from_slice(&digest.to_le_bytes());
        Some(bytes)
    }

    fn parsed(bytes: &[u8], by: &str) -> Option<Self> {
        let (digest, written) = bytes.strip_prefix(HEAD)?.split_first_chunk()?;
        if xxh3_64(written) != u64::from_le_bytes(*digest) || postcard::take_from_bytes::<&str>(written).ok()?.0 != by {
            return None;
        }
        let saved: Saved<'_> = postcard::from_bytes(written).ok()?;
        let known = codes().into_iter().map(|code| (code.name, code)).collect();
        let pages = saved.pages.into_iter().map(|page| page.read(&known));
        Some(Self {
            surroundings: saved.surroundings,
            dependencies: saved.dependencies.into_owned(),
            pages: pages.collect::<Option<_>>()?,
            ..Self::default()
        })
    }
}

impl<'s> SavedPage<'s> {
    fn of(address: &'s str, made_of: &'s MadeOf, seen: &'s Seen) -> Self {
        let found = seen.found.iter().map(|(code, found, tag)| (code.name.into(), found.into(), tag.into()));
        let pointers =
            seen.pointers.iter().map(|it| (it.to.as_str().into(), it.id.as_str().into(), (&it.found).into()));
        Self {
            address: address.into(),
            made_of: Cow::Borrowed(made_of),
            template: seen.template.map(|FileId(number)| number),
            found: found.collect(),
            pointers: pointers.collect(),
            ids: seen.ids.iter().map(|id| Cow::Borrowed(&**id)).collect(),
        }
    }

    /// The page; none if it has a code that there is not.
    fn read(self, codes: &FxHashMap<&str, &'static Code>) -> Option<(String, (MadeOf, Arc<Seen>))> {
        let found = self.found.into_iter().map(|(code, found, tag)| {
            let code = *codes.get(&*code)?;
            Some((code, found.into(), tag.into_owned()))
        });
        let pointer = |(to, id, found): (Cow<'_, str>, Cow<'_, str>, SavedProblem<'_>)| Pointer {
            to: to.into_owned(),
            id: id.into_owned(),
            found: found.into(),
        };
        let seen = Seen {
            diagnostics: Vec::new(),
            found: found.collect::<Option<_>>()?,
            template: self.template.map(FileId),
            pointers: self.pointers.into_iter().map(pointer).collect(),
            ids: self.ids.into_iter().map(|id| id.into()).collect(),
        };
        Some((self.address.into_owned(), (self.made_of.into_owned(), Arc::new(seen))))
    }
}

impl<'s> From<&'s PageProblem> for SavedProblem<'s> {
    fn from(found: &'s PageProblem) -> Self {
        let PageProblem { at, place, message, help, lost, of_menu, of_template } = found;
        Self {
            at: *at,
            place: place.as_ref().map(|place| (Cow::Borrowed(&*place.path), place.span.start, place.span.end)),
            message: message.into(),
            help: help.into(),
            lost: lost.as_deref().map(Cow::Borrowed),
            of_menu: of_menu.as_deref().map(Cow::Borrowed),
            of_template: *of_template,
        }
    }
}

impl From<SavedProblem<'_>> for PageProblem {
    fn from(saved: SavedProblem<'_>) -> Self {
        let place =
            |(path, start, end): (Cow<'_, str>, u32, u32)| Place { path: (*path).into(), span: Span { start, end } };
        Self {
            at: saved.at,
            place: saved.place.map(place),
            message: saved.message.into_owned(),
            help: saved.help.into_owned(),
            lost: saved.lost.map(Cow::into_owned),
            of_menu: saved.of_menu.map(Cow::into_owned),
            of_template: saved.of_template,
        }
    }
}
