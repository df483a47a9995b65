//! A variation: files that are other than they are, and the addresses to look at.

use crate::files::Snapshot;

/// What the site is called without any variation.
pub(super) const AS_IT_IS: &str = "the site as it is";

/// One thing that is other than it is at home.
#[derive(Clone, Debug)]
pub struct Variation {
    /// What it is, as in "an entry of varieties without image".
    pub words: String,
    /// The addresses that are looked at, as they are requested.
    pub addresses: Vec<String>,
    /// Those that matter most come first where not all can be rendered.
    pub(super) rank: Rank,
    /// Files with other texts, or gone.
    pub(super) changes: Vec<(String, Option<String>)>,
    /// Whether an image has no alt, for which its content is to blame.
    pub(super) lacks_alt: bool,
    /// Whether drafts are shown.
    pub(super) drafts: bool,
    /// Whether something is missing, so that labels may be left alone.
    pub(super) is_less: bool,
    /// Whether lists are empty, which pages should say.
    pub(super) is_empty: bool,
    /// The addresses of content whose title is another one.
    pub(super) titled: Vec<String>,
}

/// How much a variation matters: what happens to every theme comes first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Rank {
    /// Something is missing.
    Missing,
    /// A number of things: none, one, many.
    Counts,
    /// A value at a bound, or one of several choices.
    Bounds,
    /// A text that is long or blank.
    Texts,
    /// A text in another script.
    Scripts,
}

impl Variation {
    /// A variation of this rank that changes nothing yet.
    pub(super) fn new(rank: Rank, words: String) -> Self {
        Self {
            words,
            addresses: Vec::new(),
            rank,
            changes: Vec::new(),
            lacks_alt: false,
            drafts: false,
            is_less: rank == Rank::Missing,
            is_empty: false,
            titled: Vec::new(),
        }
    }

    /// The site without any variation.
    pub fn none() -> Self {
        Self::new(Rank::Missing, AS_IT_IS.to_owned())
    }

    /// The same with a file changed or, with no text, gone.
    pub(super) fn changing(mut self, path: impl Into<String>, text: Option<String>) -> Self {
        self.changes.push((path.into(), text));
        self
    }

    /// The same, looked at here.
    pub(super) fn at(mut self, addresses: impl IntoIterator<Item = String>) -> Self {
        for address in addresses {
            if !self.addresses.contains(&address) {
                self.addresses.push(address);
            }
        }
        self
    }

    /// The files as they are in it.
    pub(super) fn applied(&self, snapshot: &Snapshot) -> Snapshot {
        let mut snapshot = snapshot.clone();
        for (path, text) in &self.changes {
            snapshot.put(path, text.as_deref());
        }
        snapshot
    }
}
