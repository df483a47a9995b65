//! The site as it would be with a change: a World with an overlay, kept while one looks at it.

use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use base64::Engine as _;
use base64::engine::general_purpose::URL_SAFE_NO_PAD;
use hausblatt_core::analysis::compare::{Difference, Html, compare};
use hausblatt_core::change::edit::{Edit, PlannedEdit};
use hausblatt_core::files::FileNode;
use hausblatt_core::lookup::public;
use hausblatt_core::text::address::{asked, encoded};
use hausblatt_core::text::addresses_in_text::{Among, changed as changed_text};
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use xxhash_rust::xxh3::Xxh3;

use crate::serve::answers::{self, MadePage, Reader};
use crate::serve::edits;
use crate::serve::live::Moment;

/// So many tried sites are kept: one is looked at, others are what was tried before it.
const KEPT: usize = 6;
/// Where a tried site is: after this come its names and values, in one word, and then an address.
pub const TRIED: &str = "/~/tried/";

/// The site as it would be.
pub struct Tried {
    /// What it writes.
    pub planned: PlannedEdit,
    /// The site then.
    pub moment: Moment,
    /// Its names and values, as in an address.
    query: String,
    by_file: OnceLock<Difference>,
    by_html: OnceLock<Difference>,
}

/// What became of trying: the site then, or why it can't be.
pub type Outcome = Result<Arc<Tried>, Vec<Diagnostic>>;

/// The sites that were tried last.
#[derive(Default)]
pub struct Tries(Mutex<Vec<(u64, String, Outcome)>>);

impl Tries {
    /// The site as it would be with an edit.
    pub fn of(&self, now: &Moment, world: &World, edit: &Edit) -> Outcome {
        let query = edits::query(&edits::pairs(world, edit));
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let (mut gone, others): (Vec<_>, Vec<_>) =
            kept.drain(..).partition(|(generation, ..)| *generation != now.generation);
        *kept = others;
        if let Some(at) = kept.iter().position(|(_, known, _)| *known == query) {
            let found = kept.remove(at);
            let outcome = found.2.clone();
            kept.push(found);
            return outcome;
        }
        if kept.len() >= KEPT {
            gone.push(kept.remove(0));
        }
        // A large World is long taken apart: nobody waits for that.
        let _ = std::thread::Builder::new().spawn(move || drop(gone));
        // Whoever else asks now will most probably ask for the same.
        let outcome = tried(now, world, edit, &query);
        kept.push((now.generation, query, outcome.clone()));
        outcome
    }
}

fn tried(now: &Moment, world: &World, edit: &Edit, query: &str) -> Outcome {
    let (planned, after) = edit.tried(world)?;
    let moment = Moment {
        generation: now.generation,
        snapshot: after.snapshot.clone(),
        world: Arc::new(Ok(after)),
        unseen: None,
        files: now.files,
        styles: now.styles,
    };
    let query = query.to_owned();
    Ok(Arc::new(Tried { planned, moment, query, by_file: OnceLock::new(), by_html: OnceLock::new() }))
}

impl Tried {
    /// The World then.
    pub fn world(&self) -> Option<&World> {
        self.moment.world.as_ref().as_ref().ok()
    }

    /// How the site differs from the present one: which files answer, or also which pages have other HTML.
    pub fn difference(&self, before: &World, html: Html) -> &Difference {
        let kept = if html == Html::No { &self.by_file } else { &self.by_html };
        kept.get_or_init(|| self.world().map(|after| compare(before, after, html)).unwrap_or_default())
    }

    /// What is at `target` then: a page, in which the addresses of files that are others then lead to these.
    pub fn page(&self, before: &World, target: &str) -> MadePage {
        let mut made = answers::page(&self.moment, target, Reader::Program);
        if let Some(after) = self.world().filter(|_| made.media.starts_with("text/html")) {
            let address = |address: &str| {
                let path = asked(address).path;
                let then = public::file(after, &path).filter(|_| address.starts_with('/'))?;
                let is_other = public::file(before, &path).is_none_or(|now| !is_same(now, then));
                is_other.then(|| address_of(&self.query, &encoded(&path)))
            };
            made.text = changed_text(&made.text, Ending::Html, Among::Files, &address).into_owned();
        }
        made
    }

    /// The file that is sent at `target` then.
    pub fn file(&self, target: &str) -> Option<Arc<FileNode>> {
        answers::file(&self.moment, target)
    }

    /// Where what is at a target then can be seen.
    pub fn address(&self, target: &str) -> String {
        address_of(&self.query, target)
    }
}

/// The address of a target in a tried site.
fn address_of(query: &str, target: &str) -> String {
    format!("{TRIED}{}{target}", URL_SAFE_NO_PAD.encode(query))
}

/// The names and values in the path of an address of a tried site, and the target there.
pub fn parted(path: &str) -> Option<(String, String)> {
    let (word, target) = path.strip_prefix(TRIED)?.split_once('/')?;
    let query = String::from_utf8(URL_SAFE_NO_PAD.decode(word).ok()?).ok()?;
    Some((query, format!("/{target}")))
}

fn is_same(a: &Arc<FileNode>, b: &Arc<FileNode>) -> bool {
    Arc::ptr_eq(a, b) || (a.path == b.path && a.digest().is_some() && a.digest() == b.digest())
}

/// A digest of what the files of a change hold before it: where it is another one later, the change was made for other
/// files.
pub fn seen(planned: &PlannedEdit) -> String {
    let mut all = Xxh3::new();
    for write in &planned.writes {
        all.update(write.path.as_bytes());
        all.update(&[0, u8::from(write.instead.is_some())]);
        all.update(write.instead.as_deref().unwrap_or_default());
    }
    format!("{:016x}", all.digest())
}
