//! How much there is: collections with no, one and many entries, pages far below others.

use crate::model::content::{ContentId, Section};
use crate::model::request::{page_address, pages};
use crate::rehearse::edits::{ContentText, data, text};
use crate::rehearse::samples::{MADE_UP, Small, made_up};
use crate::rehearse::variation::{Rank, Variation};
use crate::rehearse::varied::Probe;
use crate::text::address::encoded;
use crate::text::data::DataValue;

/// How many entries a listing is rehearsed with.
const COUNTS: [usize; 4] = [0, 1, 11, 300];

/// How deep pages are put below others.
const DEEP: usize = 6;

/// Each collection with so many entries in its lists.
pub(super) fn of_collections(small: &Small, probe: &Probe<'_>) -> Vec<Variation> {
    let site = &small.world.site;
    let mut found = Vec::new();
    for (number, collection) in (0u16..).zip(site.collections.iter()) {
        let name = &collection.config.name.text;
        let home = Section::Collection(number);
        // One that is a sample stays; a made-up one is not in lists.
        let is_sample =
            |id: &&ContentId| small.samples.iter().any(|sample| *sample.path == **site.content(**id).path());
        let Some(&first) = collection.entries.iter().find(is_sample).or(collection.entries.first()) else { continue };
        let content = site.content(first);
        let Some(own) = ContentText::of(&content.node) else { continue };
        let mut none = Variation { is_less: true, ..Variation::new(Rank::Counts, format!("{name} without entries")) };
        for (_, other) in site.ids().filter(|(_, other)| other.home == home && other.is_live()) {
            let Some(text) = ContentText::of(&other.node) else { continue };
            let hidden = text.with("in_lists", Some(data(DataValue::Bool(false))));
            none = none.changing(&**other.path(), Some(hidden.written()));
        }
        let mut near: Vec<String> =
            collection.listing.iter().chain(&collection.feed).map(|address| encoded(address)).collect();
        let term = content.terms.iter().find_map(|(taxonomy, terms)| {
            let taxonomy = site.taxonomies.get(usize::from(*taxonomy))?;
            Some((taxonomy.term(*terms.first()?)?.address.clone()?, site.per_page_of_term(taxonomy)))
        });
        near.extend(term.iter().map(|(address, _)| encoded(address)));
        let shown = probe.shown(std::slice::from_ref(&none), &near);
        let day = content.path().rsplit('/').next().and_then(|name| name.get(..10)).filter(|_| content.date.is_some());
        for count in COUNTS {
            let words = match count {
                0 => format!("{name} without entries"),
                1 => format!("{name} with one entry"),
                _ => format!("{name} with {count} entries"),
            };
            let mut variation = Variation { words, ..none.clone() };
            variation.is_less = count == 0;
            variation.is_empty = count == 0;
            if count > 0 {
                variation = variation.changing(&**content.path(), Some(own.clone().written()));
            }
            for at in 2..=count {
                let copy = own.clone().with("title", Some(text(format!("{} {at}", content.title))));
                let mut copy = copy.with("slug", None).with("formerly", None).with("template", None);
                if copy.get("date").is_none()
                    && let Some(day) = day.filter(|day| day.as_bytes()[4] == b'-')
                {
                    copy = copy.with("date", Some(text(day)));
                }
                variation = variation.changing(made_up(name, &format!("{MADE_UP}-{at}")), Some(copy.written()));
            }
            let last = |per_page: usize| pages(count, per_page);
            let mut looks = shown.clone();
            looks.extend(near.iter().cloned());
            let lists = collection.listing.iter().map(|listing| (listing.clone(), collection.config.per_page));
            for (base, per_page) in lists.chain(term.clone()) {
                let pages = last(per_page);
                looks.extend(
                    [pages / 2, pages]
                        .iter()
                        .filter(|&&page| page > 1)
                        .map(|&page| encoded(&page_address(&base, page))),
                );
            }
            if let (300, Some(search)) = (count, &site.config.search) {
                let word = content.title.split_whitespace().next().unwrap_or(MADE_UP);
                looks.push(format!("{}?q={}", encoded(&search.address.text), encoded(word)));
            }
            found.push(variation.at(looks));
        }
    }
    found
}

/// A page with others below it, and one far below those.
pub(super) fn of_trees(small: &Small, probe: &Probe<'_>) -> Vec<Variation> {
    let site = &small.world.site;
    let mut found = Vec::new();
    for sample in small.samples.iter().filter(|sample| sample.subject == "a page") {
        let Some(content) = site.contents.iter().find(|content| **content.path() == *sample.path) else { continue };
        let mut variation = Variation::new(Rank::Counts, format!("a page {DEEP} levels below another"));
        let mut id = content.id.to_string();
        for level in 1..=DEEP {
            id = format!("{id}/{MADE_UP}-{level}");
            let page =
                ContentText::new("Made up for a rehearsal.\n").with("title", Some(text(format!("Level {level}"))));
            variation = variation.changing(format!("content/pages/{id}.md"), Some(page.written()));
        }
        let shown = probe.shown(std::slice::from_ref(&variation), &sample.own);
        found.push(variation.at(sample.own.iter().cloned()).at([format!("/{}/", encoded(&id))]).at(shown));
    }
    found
}
