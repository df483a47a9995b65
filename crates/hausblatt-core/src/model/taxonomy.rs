//! Taxonomies with their terms: those that are declared and those that content names.

use hausblatt_lang::value::datum::Datum;
use rustc_hash::FxHashMap;

use crate::model::content::ContentId;
use crate::schema::config::TaxonomyConfig;
use crate::schema::fields::{self, Conversion};
use crate::text::slug::{slug, title_of};

/// A term's taxonomy and its number there.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct TermId {
    /// The taxonomy's number.
    pub taxonomy: u16,
    /// The term's number in it.
    pub term: u32,
}

/// A taxonomy.
#[derive(Clone, Debug)]
pub struct Taxonomy {
    /// How it is configured.
    pub config: TaxonomyConfig,
    /// Its terms, first those that are declared.
    pub terms: Vec<Term>,
    /// The numbers of the terms that something is in, in the order in which they are listed.
    pub listed: Vec<u32>,
    by_id: FxHashMap<Box<str>, u32>,
}

/// A term.
#[derive(Clone, Debug)]
pub struct Term {
    /// Its id, a slug.
    pub id: Box<str>,
    /// What it is called.
    pub label: String,
    /// The term above it.
    pub parent: Option<u32>,
    /// Its image.
    pub image: Datum,
    /// What is in it and in the terms below it, in order.
    pub entries: Vec<ContentId>,
    /// The address of its listing, if something is in it.
    pub address: Option<String>,
}

impl Taxonomy {
    /// The taxonomy with the terms that are declared.
    pub fn new(config: TaxonomyConfig, conversion: &Conversion<'_>) -> Self {
        let mut taxonomy = Self { terms: Vec::new(), listed: Vec::new(), by_id: FxHashMap::default(), config };
        for declared in taxonomy.config.terms.clone() {
            let label = declared.label.unwrap_or_else(|| title_of(&declared.id.text));
            let number = taxonomy.add(&declared.id.text, label);
            if let Some((path, alt)) = &declared.image {
                taxonomy.terms[number as usize].image = fields::picture(&path.text, alt.as_deref(), conversion);
            }
        }
        for declared in taxonomy.config.terms.clone() {
            let parent = declared.parent.and_then(|parent| taxonomy.find(&parent.text));
            if let Some(number) = taxonomy.find(&declared.id.text) {
                taxonomy.terms[number as usize].parent = parent;
            }
        }
        taxonomy.break_circles();
        taxonomy
    }

    fn add(&mut self, id: &str, label: String) -> u32 {
        let number = u32::try_from(self.terms.len()).unwrap_or(u32::MAX);
        let term =
            Term { id: id.into(), label, parent: None, image: Datum::Nothing, entries: Vec::new(), address: None };
        self.terms.push(term);
        self.by_id.insert(id.into(), number);
        number
    }

    /// A circle among the terms was reported; here it ends.
    fn break_circles(&mut self) {
        for number in 0..self.terms.len() {
            let circles = self.above(number as u32).take(self.terms.len() + 1).count() > self.terms.len();
            if circles {
                self.terms[number].parent = None;
            }
        }
    }

    /// The number of the term with this id.
    pub fn find(&self, id: &str) -> Option<u32> {
        self.by_id.get(id).copied()
    }

    /// The number of the term that content means by `text`; a new one if there is none, and none for a text
    /// without letters and digits.
    pub fn named(&mut self, text: &str) -> Option<u32> {
        if let Some(number) = self.find(text) {
            return Some(number);
        }
        let id = slug(text);
        match self.find(&id) {
            _ if id.is_empty() => None,
            Some(number) => Some(number),
            None => Some(self.add(&id, if id == text { title_of(&id) } else { text.trim().to_owned() })),
        }
    }

    /// Whether a term is declared; where none is, all may be named.
    pub(crate) fn is_declared(&self, number: u32) -> bool {
        self.config.terms.is_empty() || (number as usize) < self.config.terms.len()
    }

    /// A term by its number.
    pub fn term(&self, number: u32) -> Option<&Term> {
        self.terms.get(number as usize)
    }

    /// The terms above one, nearest first.
    pub fn above(&self, number: u32) -> impl Iterator<Item = u32> {
        std::iter::successors(self.term(number).and_then(|term| term.parent), |&number| self.term(number)?.parent)
    }

    /// The terms below one that something is in.
    pub fn children(&self, number: u32) -> impl Iterator<Item = u32> {
        self.listed.iter().copied().filter(move |&other| self.terms[other as usize].parent == Some(number))
    }

    /// Takes what is in its terms, in order, with what of it is in which term, and gives the terms addresses. What was in
    /// them before is forgotten.
    pub fn fill(&mut self, entries: Vec<(ContentId, Vec<u32>)>) {
        self.terms.iter_mut().for_each(|term| term.entries.clear());
        for (id, terms) in entries {
            let mut all: Vec<u32> = Vec::new();
            for term in terms {
                all.extend(std::iter::once(term).chain(self.above(term)));
            }
            all.sort_unstable();
            all.dedup();
            all.into_iter().for_each(|term| self.terms[term as usize].entries.push(id));
        }
        let pattern = &self.config.address.text;
        for term in self.terms.iter_mut().filter(|term| !term.entries.is_empty()) {
            term.address = Some(pattern.replace("{term}", &term.id));
        }
        let mut listed: Vec<u32> =
            (0..self.terms.len() as u32).filter(|&at| !self.terms[at as usize].entries.is_empty()).collect();
        let declared = self.config.terms.len() as u32;
        listed.sort_by_cached_key(|&at| (at.min(declared), self.terms[at as usize].label.to_lowercase()));
        self.listed = listed;
    }
}
