//! Lookup held against a second, independent reading of its rule, over random sites and lineages.

use std::collections::{BTreeMap, BTreeSet};

use hausblatt_core::asking::SiteOptions;
use hausblatt_core::files::Snapshot;
use hausblatt_core::lookup::map::map;
use hausblatt_core::model::request::Routed;
use hausblatt_core::world::World;
use proptest::prelude::*;

/// Names of templates; without an ending they end in `.html`.
const NAMES: &[&str] = &[
    "front",
    "page",
    "page/a",
    "page/a/b",
    "page/a/all_below",
    "page/a/b/all_below",
    "page/c",
    "page/news",
    "entry",
    "entry/news",
    "entry/news/x",
    "entry.print",
    "entry/news.print",
    "entry/news/x.print",
    "offered/wide.print",
    "fallback.print",
    "listing",
    "listing/news",
    "listing/family",
    "listing/family/pods",
    "listing/family/pods/all_below",
    "listing/family/legumes",
    "listing/family/legumes/all_below",
    "listing/family/peas",
    "listing.xml",
    "listing/news.xml",
    "fallback.xml",
    "period",
    "period/news",
    "search",
    "route",
    "route/calendar",
    "route/month",
    "route.json",
    "error",
    "error/404",
    "error/410",
    "error/4xx",
    "offered/wide",
    "offered/tall",
    "sitemap.xml",
    "robots.txt",
    "fallback",
];

const PAGES: &[&str] = &["a", "a/b", "a/b/c", "c", "news"];
/// Terms, each with those above it, nearest first.
const TERMS: &[(&str, &[&str])] =
    &[("pods", &[]), ("legumes", &["pods"]), ("peas", &["legumes", "pods"]), ("beets", &[])];

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
    /// The terms of the entries `x` and `y`.
    terms: [Option<&'static str>; 2],
    /// Whether the page `a/b` has another slug.
    other: bool,
    /// Whether the page `c` fills the 404.
    lost: bool,
    front: Option<&'static str>,
}

fn plans() -> impl Strategy<Value = Plan> {
    let some = |range| proptest::sample::subsequence(NAMES, range).prop_map(|names| names.into_iter().collect());
    let names = move || some(0..=NAMES.len());
    let few = move || some(0..=4);
    let fit = proptest::sample::select(vec![None, Some("page"), Some("entry"), Some("entry/news"), Some("entry/olds")]);
    let choice = || proptest::option::of(proptest::sample::select(vec!["wide", "tall", "gone"]));
    let term = || proptest::option::of(proptest::sample::select(vec!["pods", "legumes", "peas", "beets"]));
    (1usize..=4)
        .prop_flat_map(move |depth| {
            (
                proptest::collection::vec(names(), depth),
                proptest::collection::vec(few(), depth),
                proptest::collection::vec(fit.clone(), depth),
                proptest::collection::vec(choice(), 7),
                [term(), term()],
                any::<bool>(),
                any::<bool>(),
                proptest::sample::select(vec![None, Some("page = \"a\""), Some("collection = \"news\"")]),
            )
        })
        .prop_map(|(themes, hidden, fits, choices, terms, other, lost, front)| {
            let ids = PAGES.iter().copied().chain(["x", "y"]);
            let chosen = ids.zip(choices).filter_map(|(id, choice)| Some((id, choice?))).collect();
            Plan { themes, hidden, fits, chosen, terms, other, lost, front }
        })
}

/// The file of a template.
fn file(name: &str) -> String {
    let ended = [".xml", ".json", ".txt"].iter().any(|ending| name.ends_with(ending));
    if ended { name.to_owned() } else { format!("{name}.html") }
}

const CONFIG: &str = "
[collections.news]
address = \"/news/{slug}/\"
listing = \"/news/\"
periods = [\"year\", \"month\"]
views = [\"print\"]
feed = true

[taxonomies.family]
of = [\"news\"]
address = \"/families/{term}/\"
terms.pods = {}
terms.legumes = { parent = \"pods\" }
terms.peas = { parent = \"legumes\" }
terms.beets = {}

[routes.calendar]
address = \"/calendar/\"

[routes.month]
address = \"/calendar/{slug}/\"
each = \"months\"

[routes.rows]
address = \"/rows.json\"

[search]
address = \"/search/\"
";

impl Plan {
    fn files(&self) -> Vec<(String, String)> {
        let mut files = Vec::new();
        let front = self.front.map_or(String::new(), |front| format!("[front]\n{front}\n"));
        let errors = if self.lost { "[errors]\n404 = \"c\"\n" } else { "" };
        let site = "[site]\ntitle = \"t\"\ntheme = \"t0\"\naddress = \"https://seeds.example\"\n";
        files.push(("hausblatt.toml".to_owned(), format!("{site}{front}{errors}{CONFIG}")));
        files.push(("tables/months.csv".to_owned(), "slug,title\nmay,May\njune,June\n".to_owned()));
        for (at, names) in self.themes.iter().enumerate() {
            let parent = if at + 1 < self.themes.len() { format!("parent = \"t{}\"\n", at + 1) } else { String::new() };
            let hide: Vec<String> =
                self.hidden[at].iter().map(|name| format!("\"templates/{}\"", file(name))).collect();
            files.push((
                format!("themes/t{at}/hausblatt-theme.toml"),
                format!("[theme]\n{parent}hide = [{}]\n", hide.join(", ")),
            ));
            for name in names {
                let header = match self.fits[at] {
                    Some(fits) if *name == "offered/wide" => format!("---\nfor: [{fits}]\n---\n"),
                    _ => String::new(),
                };
                let text = if name.ends_with("json") { "1" } else { "x" };
                files.push((format!("themes/t{at}/templates/{}", file(name)), format!("{header}{text}")));
            }
            files.push((format!("themes/t{at}/layouts/document.html"), "+{slot}".to_owned()));
        }
        for id in PAGES {
            let slug = if self.other && *id == "a/b" { "slug: other\n" } else { "" };
            files.push((format!("content/pages/{id}.md"), format!("---\n{slug}{}---\n", self.choice(id))));
        }
        for (id, term) in ["x", "y"].into_iter().zip(self.terms) {
            let month = if id == "x" { "03" } else { "04" };
            let term = term.map_or(String::new(), |term| format!("family: [{term}]\n"));
            let former = if id == "x" { "formerly: /old/x/\n" } else { "" };
            files.push((
                format!("content/news/2026-{month}-01-{id}.md"),
                format!("---\n{term}{former}{}---\n", self.choice(id)),
            ));
        }
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

    /// The first of `names` that any theme has, with that theme. `entry` says whether an entry chooses.
    fn expected(&self, names: &[String], entry: bool) -> Option<(String, String)> {
        names.iter().find_map(|name| {
            let at = self.answers(name)?;
            let unfit = name == "offered/wide"
                && match (self.fits[at], entry) {
                    (None, _) => false,
                    (Some(fits), false) => fits != "page",
                    (Some(fits), true) => fits != "entry" && fits != "entry/news",
                };
            (!unfit).then(|| (file(name), format!("t{at}")))
        })
    }

    /// Every address of the site with its ladder, as a person would write it down from the table. A redirect has
    /// an address to go to in the place of a ladder.
    fn addresses(&self) -> BTreeMap<String, Result<Vec<String>, String>> {
        let list = |names: &[&str]| -> Vec<String> { names.iter().map(|name| (*name).to_owned()).collect() };
        let mut all: BTreeMap<String, Result<Vec<String>, String>> = BTreeMap::new();
        let mut add = |address: &str, names: Vec<String>| {
            assert!(all.insert(address.to_owned(), Ok(names)).is_none(), "{address}");
        };
        let chosen = |id: &str| self.chosen.get(id).map(|choice| format!("offered/{choice}"));
        let page = |id: &str| {
            let mut names = vec![format!("page/{id}")];
            let parts: Vec<&str> = id.split('/').collect();
            names.extend((1..parts.len()).rev().map(|count| format!("page/{}/all_below", parts[..count].join("/"))));
            names.push("page".to_owned());
            names
        };
        let page_front = self.front == Some("page = \"a\"");
        let listing_front = self.front == Some("collection = \"news\"");
        for id in PAGES {
            if (self.lost && *id == "c") || *id == "news" {
                continue;
            }
            let slugs = if self.other { id.replace("a/b", "a/other") } else { (*id).to_owned() };
            let own = chosen(id).into_iter();
            match page_front && *id == "a" {
                true => add("/", own.chain(["front".to_owned()]).chain(page(id)).chain(list(&["fallback"])).collect()),
                false => add(&format!("/{slugs}/"), own.chain(page(id)).chain(list(&["fallback"])).collect()),
            }
        }
        let listing = list(&["listing/news", "listing", "fallback"]);
        if listing_front {
            add("/", std::iter::once("front".to_owned()).chain(listing).collect());
        } else {
            // The page at the listing's address is its introduction: the listing's ladder is used.
            add("/news/", listing);
        }
        for (id, month) in [("x", "03"), ("y", "04")] {
            let rungs =
                [format!("entry/news/{id}"), "entry/news".to_owned(), "entry".to_owned(), "fallback".to_owned()];
            let plain: Vec<String> = chosen(id).into_iter().chain(rungs).collect();
            let views = plain.iter().map(|name| format!("{name}.print"));
            add(&format!("/news/{id}/print/"), views.chain(plain.clone()).collect());
            add(&format!("/news/{id}/"), plain);
            add(
                &format!("/news/2026/{month}/"),
                list(&["period/news", "period", "listing/news", "listing", "fallback"]),
            );
        }
        add("/news/2026/", list(&["period/news", "period", "listing/news", "listing", "fallback"]));
        add("/news/feed.xml", list(&["listing/news.xml", "listing.xml", "fallback.xml"]));
        for (term, above) in TERMS {
            let inside =
                |named: &&str| named == term || TERMS.iter().any(|(id, above)| id == named && above.contains(term));
            if self.terms.iter().flatten().any(inside) {
                let mut names = vec![format!("listing/family/{term}")];
                names.extend(above.iter().map(|above| format!("listing/family/{above}/all_below")));
                names.extend(list(&["listing/family", "listing", "fallback"]));
                add(&format!("/families/{term}/"), names);
            }
        }
        add("/calendar/", list(&["route/calendar", "route", "fallback"]));
        add("/calendar/may/", list(&["route/month", "route", "fallback"]));
        add("/calendar/june/", list(&["route/month", "route", "fallback"]));
        add("/rows.json", list(&["route/rows.json", "route.json", "fallback.json"]));
        add("/search/", list(&["search", "listing", "fallback"]));
        add("/sitemap.xml", list(&["sitemap.xml"]));
        add("/robots.txt", list(&["robots.txt"]));
        add("/404.html", list(&["error/404", "error/4xx", "error", "fallback"]));
        if self.answers("error/410").is_some() {
            add("/410.html", list(&["error/410", "error/4xx", "error", "fallback"]));
        }
        all.insert("/old/x/".to_owned(), Err("/news/x/".to_owned()));
        if page_front {
            all.insert("/a/".to_owned(), Err("/".to_owned()));
        }
        if listing_front {
            all.insert("/news/".to_owned(), Err("/".to_owned()));
        }
        all
    }
}

fn load(files: &[(String, String)]) -> World {
    let files = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    World::load(Snapshot::in_memory(files), SiteOptions::on("2026-11-23".parse().unwrap()))
        .unwrap_or_else(|error| panic!("{error:?}"))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn every_address_resolves_as_the_table_says(plan in plans()) {
        let world = load(&plan.files());
        let wanted = plan.addresses();
        let entries = map(&world);
        let found: Vec<&str> = entries.iter().map(|entry| entry.address.as_str()).collect();
        let mut expected: Vec<&str> = wanted.keys().map(String::as_str).collect();
        expected.sort_by_key(|address| (address.ends_with(".html"), *address));
        prop_assert_eq!(found, expected, "{:?}", &plan);
        for entry in &entries {
            match &wanted[&entry.address] {
                Err(to) => prop_assert_eq!(entry.location.as_ref(), Some(to)),
                Ok(names) => {
                    let expected = plan.expected(names, entry.kind == Some("entry"));
                    let found = entry.template.clone().zip(entry.theme.clone());
                    prop_assert_eq!(found, expected, "{} of {:?}", &entry.address, &plan);
                }
            }
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
        terms: [None, None],
        other: true,
        lost: false,
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

/// The names tried for an address of a site with these ladders.
fn tried(ladders: &str, address: &str) -> Vec<String> {
    let config = format!("[site]\ntitle = \"t\"\ntheme = \"t\"\n{CONFIG}[ladders]\n{ladders}\n");
    let files = [
        ("hausblatt.toml", config.as_str()),
        ("tables/months.csv", "slug\nmay\n"),
        ("themes/t/hausblatt-theme.toml", ""),
        ("themes/t/templates/fallback.html", "x"),
        ("content/pages/a.md", "---\ntemplate: wide\n---\n"),
        ("content/news/2026-03-14-x.md", "---\nfamily: [peas, beets]\n---\n"),
    ];
    let world = World::load(Snapshot::in_memory(files), SiteOptions::on("2026-11-23".parse().unwrap())).unwrap();
    let Routed::Request(request) = world.route(address) else { panic!("{address} redirects") };
    world.resolve(request).rungs.into_iter().map(|rung| rung.rung.name).collect()
}

#[test]
fn a_site_may_replace_ladders() {
    let plain = |names: &[&str]| names.iter().map(|name| format!("{name}.html")).collect::<Vec<_>>();
    let entry = "entry = [\"entry/{collection}/{id}\", \"entry/{collection}/of-{family}\", \"entry\"]";
    assert_eq!(
        tried(entry, "/news/x/"),
        plain(&["entry/news/x", "entry/news/of-peas", "entry/news/of-beets", "entry", "fallback"])
    );
    assert_eq!(
        tried("listing = [\"terms/{taxonomy}/{term}\", \"of/{collection}\", \"list\"]", "/families/peas/"),
        plain(&["terms/family/peas", "list", "fallback"])
    );
    assert_eq!(
        tried("period = [\"period/{year}-{month}\", \"period/{year}\"]", "/news/2026/"),
        plain(&["period/2026", "fallback"])
    );
    assert_eq!(tried("page = [\"{id}\"]", "/a/"), plain(&["offered/wide", "a", "fallback"]));
    assert_eq!(tried("route = [\"r/{name}\"]", "/calendar/may/"), plain(&["r/month", "fallback"]));
    assert_eq!(tried("error = [\"e{status}\", \"e{class}\"]", "/nowhere/"), plain(&["e404", "e4xx", "fallback"]));
    assert_eq!(tried("search = []", "/search/"), plain(&["fallback"]));
    assert_eq!(tried("front = [\"start\"]", "/a/"), plain(&["offered/wide", "page/a", "page", "fallback"]));
}
