//! Search: words of title, summary and text, folded for case and accents, ranked.

use rustc_hash::FxHashMap;
use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

use crate::model::content::ContentId;
use crate::model::site::Site;
use crate::text::markdown;

/// What a word counts for at the best place where it is.
const IN_TITLE: u32 = 12;
const IN_SUMMARY: u32 = 4;
const IN_TEXT: u32 = 1;

/// What can be found.
#[derive(Debug, Default)]
pub struct Index {
    /// All words in order.
    words: Vec<Box<str>>,
    /// For each word: in which content it is, and what it counts for there.
    places: Vec<Vec<(u32, u32)>>,
    contents: Vec<ContentId>,
}

/// What the search's page needs to answer in a browser, of one page or entry.
#[derive(Debug, serde::Serialize)]
pub struct SearchHit<'s> {
    /// Its address.
    pub address: &'s str,
    /// Its title.
    pub title: &'s str,
    /// Its summary, or how its text begins.
    pub summary: String,
    /// The words of its text that are in neither, in no order.
    pub words: String,
}

/// A text's words, folded: without case, accents and whatever is not a letter or digit.
pub fn words(text: &str) -> Vec<String> {
    let folded: String = text.nfkd().filter(|c| !is_combining_mark(*c)).flat_map(char::to_lowercase).collect();
    folded.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).map(str::to_owned).collect()
}

/// How many characters of a query count, and how many different words.
const MOST_CHARACTERS: usize = 200;
const MOST_WORDS: usize = 16;

/// The words of a query, each once.
fn asked(query: &str) -> Vec<String> {
    let query: String = query.chars().take(MOST_CHARACTERS).collect();
    let mut asked: Vec<String> = Vec::new();
    for word in words(&query) {
        if !asked.contains(&word) && asked.len() < MOST_WORDS {
            asked.push(word);
        }
    }
    asked
}

/// Title, summary and plain text of some content.
fn texts(site: &Site, id: ContentId) -> (&str, String, String) {
    let content = site.content(id);
    (&content.title, content.summary_text(), content.markdown(markdown::plain_text))
}

impl Index {
    /// The index of some of a site's content.
    pub fn new(site: &Site, contents: Vec<ContentId>) -> Self {
        let mut places: FxHashMap<String, Vec<(u32, u32)>> = FxHashMap::default();
        for (number, &id) in (0u32..).zip(&contents) {
            let (title, summary, text) = texts(site, id);
            let mut counts: FxHashMap<String, u32> = FxHashMap::default();
            for (text, weight) in [(title, IN_TITLE), (summary.as_str(), IN_SUMMARY), (text.as_str(), IN_TEXT)] {
                for word in words(text) {
                    let count = counts.entry(word).or_default();
                    *count = weight.max(*count);
                }
            }
            for (word, count) in counts {
                places.entry(word).or_default().push((number, count));
            }
        }
        let mut sorted: Vec<(String, Vec<(u32, u32)>)> = places.into_iter().collect();
        sorted.sort_unstable_by(|(a, _), (b, _)| a.cmp(b));
        let (words, places) = sorted.into_iter().map(|(word, places)| (word.into_boxed_str(), places)).unzip();
        Self { words, places, contents }
    }

    /// What holds all words of `query`, best first. A word is also found by how it begins, which counts half.
    pub fn find(&self, site: &Site, query: &str) -> Vec<ContentId> {
        let mut totals: Option<FxHashMap<u32, u32>> = None;
        for word in asked(query) {
            let mut counts: FxHashMap<u32, u32> = FxHashMap::default();
            let from = self.words.partition_point(|other| **other < *word);
            for at in (from..self.words.len()).take_while(|&at| self.words[at].starts_with(&word)) {
                let whole = *self.words[at] == *word;
                for &(content, count) in &self.places[at] {
                    let count = if whole { count * 2 } else { count };
                    let best = counts.entry(content).or_default();
                    *best = (*best).max(count);
                }
            }
            totals = Some(match totals {
                None => counts,
                Some(totals) => totals
                    .into_iter()
                    .filter_map(|(content, total)| Some((content, total + counts.get(&content)?)))
                    .collect(),
            });
        }
        let mut found: Vec<(u32, u32)> = totals.unwrap_or_default().into_iter().collect();
        let address = |number: u32| site.content(self.contents[number as usize]).address.as_deref();
        found.sort_by(|&(a, left), &(b, right)| right.cmp(&left).then_with(|| address(a).cmp(&address(b))));
        found.into_iter().map(|(number, _)| self.contents[number as usize]).collect()
    }
}

/// What a built search page looks in, as JSON.
pub(crate) fn for_browsers(site: &Site, contents: &[ContentId]) -> serde_json::Result<String> {
    let found: Vec<SearchHit<'_>> = contents
        .iter()
        .map(|&id| {
            let (title, summary, text) = texts(site, id);
            let known: std::collections::BTreeSet<String> = words(title).into_iter().chain(words(&summary)).collect();
            let other: std::collections::BTreeSet<String> =
                words(&text).into_iter().filter(|word| !known.contains(word)).collect();
            SearchHit {
                address: site.content(id).address.as_deref().unwrap_or("/"),
                title,
                summary,
                words: other.into_iter().collect::<Vec<_>>().join(" "),
            }
        })
        .collect();
    serde_json::to_string(&found)
}

/// The script that answers in the browser: it ranks as [`Index::find`] does.
pub const SCRIPT: &str = include_str!("search.js");

#[cfg(test)]
mod tests {
    use super::{asked, words};

    #[test]
    fn a_query_has_so_many_words() {
        assert_eq!(asked("Bean bean BEÁN pea"), ["bean", "pea"]);
        let many: String = (0..100).map(|number| format!("w{number} ")).collect();
        assert_eq!(asked(&many).len(), 16);
        assert_eq!(asked(&"é".repeat(5000)), ["e".repeat(200)]);
    }

    #[test]
    fn words_are_folded() {
        for (text, expected) in [
            ("Kürbis, CAFÉ & 2 Öl", "kurbis cafe 2 ol"),
            ("ﬁne don't", "fine don t"),
            ("", ""),
            ("—", ""),
            ("豆 ТЫКВА", "豆 тыква"),
        ] {
            assert_eq!(words(text).join(" "), expected);
        }
    }
}
