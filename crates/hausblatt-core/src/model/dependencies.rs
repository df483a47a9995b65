//! What a page may depend on of a site, apart from its theme's files: what of it is read is noted where it is read.

use hausblatt_lang::value::dependencies::{self, Dependency};

use crate::model::content::ContentId;
use crate::model::taxonomy::TermId;

/// What of a site is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[repr(u8)]
pub enum SitePart {
    /// What the front matter of some content says, and what follows from it: address, terms, parent.
    Front,
    /// The text of some content.
    Text,
    /// The summary that some content's text gives.
    Summary,
    /// What some content places in trays.
    Trays,
    /// What is before and after an entry in time.
    Neighbours,
    /// The entries of a collection, in order.
    Entries,
    /// The entries of a collection that wait for their date.
    Scheduled,
    /// The terms of a taxonomy that something is in.
    Listed,
    /// A term: what it is called, its image, its address.
    Term,
    /// What is in a term, in order.
    TermEntries,
    /// All addresses, with what search engines are told of the content there.
    Whole,
    /// All menus.
    Menus,
    /// The values of all settings.
    Settings,
    /// A table.
    Table,
    /// The address that a reference leads to.
    Reference,
    /// Which content a reference names.
    Named,
    /// The address of the content whose file is at a path.
    Path,
}

impl SitePart {
    /// All of them, in the order of their numbers.
    pub const ALL: [Self; 17] = [
        Self::Front,
        Self::Text,
        Self::Summary,
        Self::Trays,
        Self::Neighbours,
        Self::Entries,
        Self::Scheduled,
        Self::Listed,
        Self::Term,
        Self::TermEntries,
        Self::Whole,
        Self::Menus,
        Self::Settings,
        Self::Table,
        Self::Reference,
        Self::Named,
        Self::Path,
    ];

    /// The sort with this number.
    pub fn of(number: u8) -> Option<Self> {
        Self::ALL.get(usize::from(number)).copied()
    }

    /// Whether it is read of some content.
    pub fn is_of_content(self) -> bool {
        matches!(self, Self::Front | Self::Text | Self::Summary | Self::Trays | Self::Neighbours)
    }

    /// Notes that the present page reads this of some content.
    #[inline]
    pub(crate) fn note_of(self, content: ContentId) {
        dependencies::note(Dependency::Site(self as u8, content.0, 0));
    }

    /// Notes that the present page reads this of a term.
    #[inline]
    pub(crate) fn note_of_term(self, id: TermId) {
        dependencies::note(Dependency::Site(self as u8, u32::from(id.taxonomy), id.term));
    }

    /// Notes that the present page reads this, of the thing with a number.
    #[inline]
    pub(crate) fn note(self, number: u32) {
        dependencies::note(Dependency::Site(self as u8, number, 0));
    }

    /// The same for the members and the order of a list.
    #[inline]
    pub(crate) fn note_list(self, number: u32) {
        dependencies::note_list(Dependency::Site(self as u8, number, 0));
    }

    /// Notes that the present page reads this of what a text names.
    #[inline]
    pub(crate) fn note_text(self, text: &str) {
        dependencies::note_text(self as u8, text);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_sort_is_at_its_number() {
        for (number, sort) in (0u8..).zip(SitePart::ALL) {
            assert_eq!((sort as u8, SitePart::of(number)), (number, Some(sort)));
        }
        assert_eq!(SitePart::of(17), None);
    }
}
