//! A site after an edit of content that leaves all addresses, terms and parents as they were. What the edit does not
//! change is shared with the site before it, so that the work does not grow with the site.

use std::collections::BTreeSet;
use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::value::language::Language;
use hausblatt_lang::value::shape::Interner;

use crate::model::content::{Content, ContentId, Section};
use crate::model::site::order::SortKey;
use crate::model::site::reading::{self, Again};
use crate::model::site::{Site, Sources};
use crate::text::data::Entry;

/// Of more files at once, a load reads the rest as well, on all cores.
const MOST: usize = 256;

/// What an edit puts in another order.
#[derive(Default)]
struct Reordered {
    /// The pages below these, and those without a parent.
    siblings: BTreeSet<Option<ContentId>>,
    /// The numbers of collections.
    collections: BTreeSet<u16>,
    /// The numbers of taxonomies.
    taxonomies: BTreeSet<u16>,
}

impl Site {
    /// The site as it is when the content files at these paths have changed, and no other file that a site is read from.
    /// What is wrong with these files takes the place of what was wrong with them in `problems`. Nothing where the edit
    /// may change more than what these files say themselves: the site has to be loaded then.
    pub(crate) fn edited(
        &self,
        sources: &Sources<'_>,
        paths: &[Arc<str>],
        symbols: &Interner,
        problems: &mut Vec<Diagnostic>,
    ) -> Option<Self> {
        if paths.len() > MOST {
            return None;
        }
        let mut site = self.clone();
        site.snapshot = sources.snapshot.clone();
        let mut reordered = Reordered::default();
        for path in paths {
            let number = self.contents.at_path(path)?;
            let old = self.contents.get(number.0 as usize)?;
            let new = site.read_again(sources, old, problems)?;
            self.note_order(old, &new, symbols, &mut reordered);
            site.contents[number.0 as usize] = new;
        }
        site.put_in_order(reordered, symbols, sources.language);
        // Labels may be titles. What is wrong with the menus, titles do not change.
        site.menus = site.make_menus(&mut Vec::new());
        Some(site)
    }

    /// What the file of some content says now, with what it is in this site; nothing where that may be something else.
    fn read_again(&self, sources: &Sources<'_>, old: &Content, problems: &mut Vec<Diagnostic>) -> Option<Content> {
        let node = sources.snapshot.file(old.path())?;
        let before = reading::again(self, sources, &old.node, &old.shape)?;
        let Again { content: mut new, problems: found, declared, registered } =
            reading::again(self, sources, node, &old.shape)?;
        for problem in &before.problems {
            let at = problems.iter().position(|other| other == problem)?;
            problems.remove(at);
        }
        let is_here = |problem: &Diagnostic| {
            let places = problem.place.iter().chain(problem.related.iter().map(|(place, _)| place));
            places.into_iter().any(|place| place.path == *old.path())
        };
        // What is left was found when all content was put together, and may be otherwise now.
        if problems.iter().any(is_here) || !keeps_its_place(&before.content, &new) {
            return None;
        }
        let same = |(old, new): (&Entry, &Entry)| old.says_same(new);
        if before.registered.len() != registered.len() || !before.registered.iter().zip(&registered).all(same) {
            return None;
        }
        problems.extend(found);
        let undeclared = old.values.get(declared..).unwrap_or_default();
        new.values = new.values.into_iter().chain(undeclared.iter().cloned()).collect();
        for (slot, value) in self.linked_values(&new) {
            new.values[slot] = value;
        }
        Some(Content {
            number: old.number,
            terms: old.terms.clone(),
            state: old.state,
            address: old.address.clone(),
            parent: old.parent,
            children: old.children.clone(),
            ..new
        })
    }

    /// Notes which lists an edit of some content may put in another order.
    fn note_order(&self, old: &Content, new: &Content, symbols: &Interner, reordered: &mut Reordered) {
        let moves = |(key, _): &(String, bool)| {
            let (old, new) = (SortKey::of(old, key, symbols), SortKey::of(new, key, symbols));
            old.order(&new, false, None, &self.config.timezone).is_ne()
        };
        match old.home {
            Section::Pages if old.title != new.title => drop(reordered.siblings.insert(old.parent)),
            Section::Pages => {}
            Section::Collection(number) => {
                let collection = &self.collections[usize::from(number)];
                reordered.collections.extend(moves(&collection.config.order).then_some(number));
            }
        }
        for &(number, _) in &old.terms {
            let order = self.order_of_terms(&self.taxonomies[usize::from(number)]);
            reordered.taxonomies.extend(moves(&order).then_some(number));
        }
    }

    fn put_in_order(&mut self, reordered: Reordered, symbols: &Interner, language: &Language) {
        for parent in reordered.siblings {
            let by_order = |mut pages: Vec<ContentId>| {
                pages.sort_by(|&a, &b| self.by_order(a, b));
                pages
            };
            match parent {
                None => self.top = by_order(self.top.clone()),
                Some(parent) => {
                    let children = by_order(self.content(parent).children.clone());
                    self.contents[parent.0 as usize].children = children;
                }
            }
        }
        for number in reordered.collections {
            let at = usize::from(number);
            let (entries, _) = self.sorted_collection(number, symbols, language);
            Arc::make_mut(&mut self.collections)[at].entries = entries;
            let periods = self.period_base(at).map(|base| self.periods(number, &base));
            Arc::make_mut(&mut self.collections)[at].periods = periods.unwrap_or_default();
        }
        for number in reordered.taxonomies {
            let members = self.members_of_terms(number, symbols, language);
            Arc::make_mut(&mut self.taxonomies)[usize::from(number)].fill(members);
        }
    }
}

/// Whether two readings of a file give it the same address, and the same place among what is shown.
fn keeps_its_place(before: &Content, now: &Content) -> bool {
    let formerly = |content: &Content| content.formerly.iter().map(|(address, _)| address.clone()).collect::<Vec<_>>();
    let place = |content: &Content| (content.date, content.state, content.in_lists, content.order);
    before.slug == now.slug && place(before) == place(now) && formerly(before) == formerly(now)
}
