//! The variations of a small site: of its content, of how much there is, of its configuration, of components.

mod components;
mod configuration;
mod content;
mod counts;
mod probe;

pub(super) use probe::Probe;

use rayon::prelude::*;

use crate::rehearse::samples::Small;
use crate::rehearse::variation::Variation;
use crate::rehearse::worse::Worse;
use crate::threads::ONE;

/// All variations; those that matter most come first.
pub(super) fn all(small: &Small, probe: &Probe<'_>) -> Vec<Variation> {
    let of_samples: Vec<Vec<Variation>> =
        small.samples.par_iter().with_max_len(ONE).map(|sample| content::of_sample(small, sample, probe)).collect();
    let mut found: Vec<Variation> = of_samples.into_iter().flatten().collect();
    found.extend(counts::of_collections(small, probe));
    found.extend(counts::of_trees(small, probe));
    found.extend(configuration::of_menus(small, probe));
    found.extend(configuration::of_settings(small, probe));
    found.extend(configuration::of_terms(small, probe));
    found.extend(configuration::of_tables(small, probe));
    found.extend(configuration::of_errors(small));
    found.extend(configuration::of_searches(small));
    found.extend(components::of_each(small));
    found.extend(components::in_trays(small));
    found.retain(|variation| !variation.addresses.is_empty());
    found.sort_by_key(|variation| variation.rank);
    found
}

/// What a variation is called: of what, and what is worse with it.
fn words(subject: &str, worse: &Worse, name: &str) -> String {
    format!("{subject} {}", worse.words.replace("NAME", name))
}

/// A variation with this value that does nothing yet.
fn varied(subject: &str, worse: &Worse, name: &str) -> Variation {
    let lacks_alt = worse.words.ends_with("without alt");
    Variation { is_less: worse.is_less, lacks_alt, ..Variation::new(worse.rank, words(subject, worse, name)) }
}
