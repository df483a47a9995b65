//! Lookup held against a second, independent reading of its rule, over random sites and lineages.

#![allow(clippy::unwrap_used, clippy::panic, clippy::expect_used)]

use std::collections::{BTreeMap, BTreeSet};

use hausblatt_core::asking::Asking;
use hausblatt_core::map::{MapEntry, map};
use hausblatt_core::snapshot::Snapshot;
use hausblatt_core::world::World;
use proptest::prelude::*;

const NAMES: &[&str] = &[
    "front",
    "page",
    "page/a",
    "page/a/b",
    "page/a/all_below",
    "page/a/b/all_below",
    "page/c",
    "entry",
    "entry/news",
    "entry/news/x",
    "listing",
    "listing/news",
    "error",
    "error/404",
    "error/4xx",
    "offered/wide",
    "offered/tall",
    "fallback",
];

/// A site as the test sees it.
#[derive(Clone, Debug)]
struct Plan {
    /// For each theme, nearest first: the templates it has.
    themes: Vec<BTreeSet<&'static str>>,
    /// For each theme: what it hides of its ancestors.
    hidden: Vec<BTreeSet<&'static str>>,
    /// What `offered/wide` is for in each theme.
    fits: Vec<Option<&'static str>>,
    /// What each page or entry chooses.
    chosen: BTreeMap<&'static str, &'static str>,
    /// Slugs of pages that differ from their ids.
    slugs: BTreeMap<&'static str, &'static str>,
    front: Option<&'static str>,
}

const PAGES: &[&str] = &["a", "a/b", "a/b/c", "c"];

fn plans() -> impl Strategy<Value = Plan> {
    let names = || {
        proptest::sample::subsequence(NAMES, 0..=NAMES.len())
            .prop_map(|names| names.into_iter().collect::<BTreeSet<_>>())
    };
    let few =
        || proptest::sample::subsequence(NAMES, 0..=3).prop_map(|names| names.into_iter().collect::<BTreeSet<_>>());
    let fit = proptest::sample::select(vec![None, Some("page"), Some("entry"), Some("entry/news"), Some("entry/olds")]);
    let choice = || proptest::option::of(proptest::sample::select(vec!["wide", "tall", "gone"]));
    (1usize..=4)
        .prop_flat_map(move |depth| {
            (
                proptest::collection::vec(names(), depth),
                proptest::collection::vec(few(), depth),
                proptest::collection::vec(fit.clone(), depth),
                proptest::collection::vec(choice(), 5),
                proptest::option::of(Just("other")),
                proptest::sample::select(vec![None, Some("page = \"a\""), Some("collection = \"news\"")]),
            )
        })
        .prop_map(|(themes, hidden, fits, choices, slug, front)| {
            let ids = PAGES.iter().copied().chain(["x"]);
            let chosen = ids.zip(choices).filter_map(|(id, choice)| Some((id, choice?))).collect();
            let slugs = slug.into_iter().map(|slug| ("a/b", slug)).collect();
            Plan { themes, hidden, fits, chosen, slugs, front }
        })
}

impl Plan {
    fn files(&self) -> Vec<(String, String)> {
        let mut files = Vec::new();
        let front = self.front.map_or(String::new(), |front| format!("[front]\n{front}\n"));
        files.push((
            "hausblatt.toml".to_owned(),
            format!("[site]\ntitle = \"t\"\ntheme = \"t0\"\n{front}[collections.news]\naddress = \"/news/{{slug}}/\"\nlisting = \"/news/\"\n"),
        ));
        for (at, names) in self.themes.iter().enumerate() {
            let parent = if at + 1 < self.themes.len() { format!("parent = \"t{}\"\n", at + 1) } else { String::new() };
            let hide: Vec<String> = self.hidden[at].iter().map(|name| format!("\"templates/{name}.html\"")).collect();
            files.push((
                format!("themes/t{at}/hausblatt-theme.toml"),
                format!("[theme]\n{parent}hide = [{}]\n", hide.join(", ")),
            ));
            for name in names {
                let header = match self.fits[at] {
                    Some(fits) if *name == "offered/wide" => format!("---\nfor: [{fits}]\n---\n"),
                    _ => String::new(),
                };
                files.push((format!("themes/t{at}/templates/{name}.html"), format!("{header}x")));
            }
            files.push((format!("themes/t{at}/layouts/document.html"), "+{slot}".to_owned()));
        }
        for id in PAGES {
            let slug = self.slugs.get(id).map_or(String::new(), |slug| format!("slug: {slug}\n"));
            files.push((format!("content/pages/{id}.md"), format!("---\n{slug}{}---\n", self.choice(id))));
        }
        files.push(("content/news/x.md".to_owned(), format!("---\n{}---\n", self.choice("x"))));
        files
    }

    fn choice(&self, id: &str) -> String {
        self.chosen.get(id).map_or(String::new(), |choice| format!("template: {choice}\n"))
    }

    /// The theme whose file answers for `name`: the nearest that has it and from which nobody nearer hides it.
    fn answers(&self, name: &str) -> Option<usize> {
        (0..self.themes.len())
            .find(|&at| self.themes[at].contains(name) && !(0..at).any(|nearer| self.hidden[nearer].contains(name)))
    }

    /// The first of `names` that any theme has, with that theme.
    fn expected(&self, names: &[String], collection: Option<&str>) -> Option<(String, String)> {
        names.iter().find_map(|name| {
            let at = self.answers(name)?;
            let unfit = name == "offered/wide"
                && match (self.fits[at], collection) {
                    (None, _) => false,
                    (Some(fits), None) => fits != "page",
                    (Some(fits), Some(collection)) => fits != "entry" && fits != format!("entry/{collection}"),
                };
            (!unfit).then(|| (format!("{name}.html"), format!("t{at}")))
        })
    }

    /// The ladder of an address, as a person would write it down from the table.
    fn ladder(&self, entry: &MapEntry) -> Vec<String> {
        let id = entry
            .content
            .as_deref()
            .and_then(|path| path.rsplit_once("content/")?.1.split_once('/'))
            .map(|(_, id)| id.trim_end_matches(".md"));
        let chosen = |id: &str| self.chosen.get(id).map(|choice| format!("offered/{choice}"));
        let page = |id: &str| {
            let mut names = vec![format!("page/{id}")];
            let parts: Vec<&str> = id.split('/').collect();
            names.extend((1..parts.len()).rev().map(|count| format!("page/{}/all_below", parts[..count].join("/"))));
            names.push("page".to_owned());
            names
        };
        let listing = || vec!["listing/news".to_owned(), "listing".to_owned()];
        let mut names: Vec<String> = match (entry.kind, id) {
            (Some("front"), Some(id)) => chosen(id).into_iter().chain(["front".to_owned()]).chain(page(id)).collect(),
            (Some("front"), None) => std::iter::once("front".to_owned()).chain(listing()).collect(),
            (Some("page"), Some(id)) => chosen(id).into_iter().chain(page(id)).collect(),
            (Some("entry"), Some(id)) => chosen(id)
                .into_iter()
                .chain([format!("entry/news/{id}"), "entry/news".to_owned(), "entry".to_owned()])
                .collect(),
            (Some("listing"), _) => listing(),
            (Some("error"), _) => vec!["error/404".to_owned(), "error/4xx".to_owned(), "error".to_owned()],
            other => panic!("no ladder for {other:?}"),
        };
        names.push("fallback".to_owned());
        names
    }
}

fn load(files: &[(String, String)]) -> World {
    let files = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    World::load(Snapshot::in_memory(files), Asking::on("2026-11-23".parse().unwrap()))
        .unwrap_or_else(|error| panic!("{error:?}"))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn every_address_resolves_as_the_table_says(plan in plans()) {
        let world = load(&plan.files());
        let entries = map(&world);
        prop_assert!(entries.len() >= 7);
        for entry in entries.iter().filter(|entry| entry.location.is_none()) {
            let collection = (entry.kind == Some("entry")).then_some("news");
            let expected = plan.expected(&plan.ladder(entry), collection);
            let found = entry.template.clone().zip(entry.theme.clone());
            prop_assert_eq!(found, expected, "{} of {:?}", &entry.address, plan);
        }
    }
}

#[test]
fn addresses_come_from_slugs_and_names_from_ids() {
    let plan = Plan {
        themes: vec![["page/a/b", "page/a/b/all_below", "fallback"].into_iter().collect()],
        hidden: vec![BTreeSet::new()],
        fits: vec![None],
        chosen: BTreeMap::new(),
        slugs: [("a/b", "other")].into_iter().collect(),
        front: None,
    };
    let entries = map(&load(&plan.files()));
    let template = |address: &str| {
        entries.iter().find(|entry| entry.address == address).and_then(|entry| entry.template.as_deref())
    };
    assert_eq!(template("/a/other/"), Some("page/a/b.html"));
    assert_eq!(template("/a/other/c/"), Some("page/a/b/all_below.html"));
    assert_eq!(template("/a/b/"), None);
}
