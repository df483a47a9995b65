//! What is foretold of a change held against really making it, over random sites.

use std::collections::{BTreeMap, BTreeSet};

use bumpalo::Bump;
use hausblatt_core::analysis::compare::{Difference, Html, Side, compare};
use hausblatt_core::asking::SiteOptions;
use hausblatt_core::change::copies::{Override, OverrideOptions, OverrideTarget, Planned, plan};
use hausblatt_core::change::suppose::{Front, Supposition, suppose};
use hausblatt_core::files::Snapshot;
use hausblatt_core::lookup::map::map;
use hausblatt_core::model::request::Request;
use hausblatt_core::render::outline::{OutlinePart, outline};
use hausblatt_core::render::page::{Audience, page};
use hausblatt_core::world::World;
use hausblatt_core::world::survey::FileUse;
use hausblatt_lang::render::Shows;
use proptest::prelude::*;
use proptest::sample::{select, subsequence};

/// Theme files, by their paths from the theme.
const NAMES: &[&str] = &[
    "templates/front.html",
    "templates/page.html",
    "templates/page/a.html",
    "templates/page/a/b.html",
    "templates/page/a/all_below.html",
    "templates/pages/a.html",
    "templates/page/gone.html",
    "templates/entry.html",
    "templates/entry/news.html",
    "templates/entry/news/x.html",
    "templates/entry.print.html",
    "templates/entry/nwes.html",
    "templates/listing.html",
    "templates/listing/news.html",
    "templates/listing/family/pods.html",
    "templates/period.html",
    "templates/search.html",
    "templates/error.html",
    "templates/error/404.html",
    "templates/offered/wide.html",
    "templates/offered/tall.html",
    "layouts/document.html",
    "layouts/wide.html",
    "layouts/old.html",
    "partials/card.html",
    "partials/card/news.html",
    "partials/note.html",
    "partials/old.html",
    "components/notice/component.html",
    "components/panel/component.html",
    "prepare/page.let",
    "prepare/pages.let",
];

/// Bodies of templates; what they call is in the farthest theme.
const TEMPLATES: &[&str] = &[
    "plain",
    "+{partial \"card\"}",
    "+{partial \"card/news\"}",
    "+{component \"notice\"}",
    "<b>+{inherited}</b>",
    "+{inherited with}+{into \"aside\"}aside+{end}+{end}",
    "---\nlayout: wide\n---\nwide",
    "---\nlayout: none\n---\nbare +{request.template}",
    "+{content.body}+{tray \"main\"}",
    "+{request.theme}",
    "",
];
const LAYOUTS: &[&str] =
    &["[+{slot}]", "(+{slot}+{partial \"note\"})", "<i>+{inherited}</i>", "+{slot}+{slot \"aside\"}"];
const PARTIALS: &[&str] = &["card", "note +{partial \"note\"}", "<u>+{inherited}</u>", "+{component \"panel\"}"];

type Files = BTreeMap<String, String>;

fn body(name: &str) -> BoxedStrategy<&'static str> {
    match name.split('/').next() {
        Some("templates") => select(TEMPLATES).boxed(),
        Some("layouts") => select(LAYOUTS).boxed(),
        Some("prepare") => Just("let mood = \"calm\"").boxed(),
        // A partial that calls itself without end is an error, which is as good as any.
        Some("partials") => select(PARTIALS).boxed(),
        _ => Just("component").boxed(),
    }
}

fn theme() -> impl Strategy<Value = BTreeMap<&'static str, &'static str>> {
    subsequence(NAMES, 0..=14).prop_flat_map(|names| {
        let bodies: Vec<_> = names.into_iter().map(|name| (Just(name), body(name))).collect();
        bodies.prop_map(|bodies| bodies.into_iter().collect())
    })
}

const CONFIG: &str = "[site]\ntitle = \"t\"\ntheme = \"t0\"\naddress = \"https://seeds.example\"\n
[collections.news]\naddress = \"/news/{slug}/\"\nlisting = \"/news/\"\nper_page = 1\nviews = [\"print\"]\nfeed = true\nFACTS
[taxonomies.family]\nof = [\"news\"]\naddress = \"/families/{term}/\"\n";

fn sites() -> impl Strategy<Value = Files> {
    let choice = || proptest::option::of(select(vec!["wide", "tall"]));
    (
        proptest::collection::vec(theme(), 1..=3),
        subsequence(NAMES, 0..=2),
        proptest::collection::vec(choice(), 5),
        any::<bool>(),
        any::<bool>(),
        any::<bool>(),
    )
        .prop_map(|(themes, hidden, choices, front, dated, search)| {
            let mut files = Files::new();
            let facts = if dated { "periods = [\"year\"]" } else { "" };
            let mut config = CONFIG.replace("FACTS", facts);
            if front {
                config.push_str("[front]\npage = \"a\"\n");
            }
            if search {
                config.push_str("[search]\naddress = \"/search/\"\n");
            }
            files.insert("hausblatt.toml".to_owned(), config);
            let last = themes.len() - 1;
            for (at, theme) in themes.into_iter().enumerate() {
                let parent = if at < last { format!("parent = \"t{}\"\n", at + 1) } else { String::new() };
                let hide: Vec<String> = hidden.iter().map(|name| format!("{name:?}")).collect();
                let hide = if at == 0 { format!("hide = [{}]\n", hide.join(", ")) } else { String::new() };
                files.insert(format!("themes/t{at}/hausblatt-theme.toml"), format!("[theme]\n{parent}{hide}"));
                for (name, body) in theme {
                    files.insert(format!("themes/t{at}/{name}"), body.to_owned());
                }
            }
            for (name, body) in [
                ("templates/fallback.html", "fallback"),
                ("layouts/document.html", "{+{slot}}"),
                ("layouts/wide.html", "{{+{slot}}}"),
                ("partials/card.html", "the card"),
                ("partials/note.html", "the note"),
                ("components/notice/component.html", "the notice"),
                ("components/panel/component.html", "the panel"),
            ] {
                files.entry(format!("themes/t{last}/{name}")).or_insert_with(|| body.to_owned());
            }
            let ids = ["pages/a", "pages/a/b", "pages/c", "news/2026-03-01-x", "news/2026-04-01-y"];
            for (id, choice) in ids.into_iter().zip(choices) {
                let choice = choice.map_or(String::new(), |choice| format!("template: {choice}\n"));
                let more =
                    if id.contains("news") { "family: [pods]\n" } else { "trays:\n  main:\n    - component: notice\n" };
                files.insert(format!("content/{id}.md"), format!("---\n{more}{choice}---\nText of {id}.\n"));
            }
            files
        })
}

fn load(files: &Files) -> World {
    let files = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    World::load(Snapshot::in_memory(files), SiteOptions::on("2026-11-23".parse().unwrap()))
        .unwrap_or_else(|error| panic!("{error:?}"))
}

/// Every address with its HTML and status, and its template's path.
fn rendered(world: &World) -> BTreeMap<String, (u16, String)> {
    let answer = |request: Request| {
        let address = request.address.clone();
        let page = page(world, request, Audience::Build(Shows::default()), &Bump::new());
        (address, (page.status, page.text))
    };
    world.requests().iter().cloned().map(answer).collect()
}

fn lines(world: &World) -> BTreeMap<String, Side> {
    let line = |entry: hausblatt_core::lookup::map::MapEntry| {
        let side = Side { template: entry.template, theme: entry.theme, layout: entry.layout, status: entry.status };
        (entry.address, side)
    };
    map(world).into_iter().map(line).collect()
}

/// The difference as `compare` reports it against the difference of two maps and of all that is rendered.
fn check_difference(before: &World, after: &World, told: &Difference) -> Result<(), TestCaseError> {
    let (one, other) = (lines(before), lines(after));
    let (one_html, other_html) = (rendered(before), rendered(after));
    let all: BTreeSet<&String> = one.keys().chain(other.keys()).collect();
    let mut differing = 0;
    for address in &all {
        let change = told.changed.iter().find(|change| change.address == **address);
        let html = one_html.get(*address) != other_html.get(*address);
        let differs = one.get(*address) != other.get(*address) || html;
        prop_assert_eq!(change.is_some(), differs, "{}", address);
        if let Some(change) = change {
            differing += 1;
            prop_assert_eq!(&change.from.as_ref(), &one.get(*address));
            prop_assert_eq!(&change.to.as_ref(), &other.get(*address));
            prop_assert_eq!(change.html, Some(html), "{}", address);
        }
    }
    prop_assert_eq!(told.changed.len(), differing);
    prop_assert_eq!(told.unchanged, all.len() - differing);
    Ok(())
}

/// A change to suppose and to make.
#[derive(Clone, Debug)]
enum Step {
    Add(usize, &'static str),
    Remove(prop::sample::Index),
    Rename(prop::sample::Index, usize, &'static str),
    Choose(&'static str, &'static str),
}

fn steps() -> impl Strategy<Value = Vec<Step>> {
    let name = || select(NAMES);
    let address = select(vec!["/c/", "/a/b/", "/news/x/", "/news/y/"]);
    let step = prop_oneof![
        (0usize..3, name()).prop_map(|(theme, name)| Step::Add(theme, name)),
        any::<prop::sample::Index>().prop_map(Step::Remove),
        (any::<prop::sample::Index>(), 0usize..3, name())
            .prop_map(|(file, theme, name)| Step::Rename(file, theme, name)),
        (select(vec!["wide", "tall", "gone"]), address).prop_map(|(name, address)| Step::Choose(name, address)),
    ];
    proptest::collection::vec(step, 1..4)
}

/// The steps as a supposition, and the files after really taking them.
fn taken(files: &Files, steps: &[Step]) -> (Supposition, Files) {
    let mut supposed = Supposition::default();
    let mut after = files.clone();
    let depth = files.keys().filter(|path| path.ends_with("hausblatt-theme.toml")).count();
    let mut touched = BTreeSet::new();
    let theme_files = |files: &Files| -> Vec<String> {
        files.keys().filter(|path| path.starts_with("themes/") && !path.ends_with(".toml")).cloned().collect()
    };
    for step in steps {
        match step {
            Step::Add(theme, name) => {
                let path = format!("themes/t{}/{name}", theme % depth);
                if touched.insert(path.clone()) {
                    after.entry(path.clone()).or_default();
                    supposed.add.push((path, None));
                }
            }
            Step::Remove(index) => {
                let path = index.get(&theme_files(files)).clone();
                if touched.insert(path.clone()) {
                    after.remove(&path);
                    supposed.without.push(path);
                }
            }
            Step::Rename(index, theme, name) => {
                let path = index.get(&theme_files(files)).clone();
                let to = format!("themes/t{}/{name}", theme % depth);
                if path != to && touched.insert(path.clone()) && touched.insert(to.clone()) {
                    let text = after.remove(&path).unwrap();
                    after.insert(to.clone(), text);
                    supposed.without.push(path.clone());
                    supposed.add.push((to, Some(path)));
                }
            }
            Step::Choose(name, address) => {
                let path = match *address {
                    "/c/" => "content/pages/c.md",
                    "/a/b/" => "content/pages/a/b.md",
                    "/news/x/" => "content/news/2026-03-01-x.md",
                    _ => "content/news/2026-04-01-y.md",
                };
                let text = &files[path];
                let kept: String = text.split_inclusive('\n').filter(|line| !line.starts_with("template:")).collect();
                let (front, body) = kept[4..].split_once("---\n").unwrap();
                if touched.insert(path.to_owned()) {
                    after.insert(path.to_owned(), format!("---\n{front}template: {name}\n---\n{body}"));
                    supposed.choose.push(((*name).to_owned(), (*address).to_owned()));
                }
            }
        }
    }
    (supposed, after)
}

fn parts_of<'p>(parts: &'p [OutlinePart], found: &mut BTreeSet<&'p str>) {
    for part in parts {
        found.insert(&part.path);
        parts_of(&part.parts, found);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(80))]

    #[test]
    fn what_is_supposed_is_what_comes(files in sites(), steps in steps(), journal_first in any::<bool>()) {
        let before = load(&files);
        let (mut supposed, mut after) = taken(&files, &steps);
        if journal_first {
            supposed.front = Some(Front::Collection("news".to_owned()));
            let config = after["hausblatt.toml"].replace("[front]\npage = \"a\"\n", "");
            after.insert("hausblatt.toml".to_owned(), config + "[front]\ncollection = \"news\"\n");
        }
        let told = suppose(&before, &supposed).unwrap();
        check_difference(&before, &load(&after), &compare(&before, &told, Html::Whether))?;
    }

    #[test]
    fn other_fronts_themes_and_parents_too(files in sites(), which in 0usize..5) {
        let before = load(&files);
        let mut supposed = Supposition::default();
        let mut after = files.clone();
        let config = files["hausblatt.toml"].replace("[front]\npage = \"a\"\n", "");
        let depth = files.keys().filter(|path| path.ends_with("hausblatt-theme.toml")).count();
        match which {
            0 => {
                supposed.front = Some(Front::Page("c".to_owned()));
                after.insert("hausblatt.toml".to_owned(), config + "[front]\npage = \"c\"\n");
            }
            1 => {
                supposed.front = Some(Front::Collection("news".to_owned()));
                after.insert("hausblatt.toml".to_owned(), config + "[front]\ncollection = \"news\"\n");
            }
            _ => {
                let other = format!("t{}", (which - 1) % depth);
                after.insert("hausblatt.toml".to_owned(), files["hausblatt.toml"].replace("\"t0\"", &format!("\"{other}\"")));
                supposed.to_theme = Some(other);
            }
        }
        let told = suppose(&before, &supposed).unwrap();
        check_difference(&before, &load(&after), &compare(&before, &told, Html::Whether))?;
        if depth == 3 {
            let manifest = "themes/t0/hausblatt-theme.toml".to_owned();
            let supposed = Supposition { parent: Some("t2".to_owned()), ..Supposition::default() };
            let after = files.iter().map(|(path, text)| match *path == manifest {
                true => (path.clone(), text.replace("\"t1\"", "\"t2\"")),
                false => (path.clone(), text.clone()),
            });
            let after = after.collect();
            let told = suppose(&before, &supposed).unwrap();
            check_difference(&before, &load(&after), &compare(&before, &told, Html::Whether))?;
        }
    }

    #[test]
    fn overriding_for_one_address_changes_only_that(files in sites()) {
        let before = load(&files);
        let (lines_before, html_before) = (lines(&before), rendered(&before));
        for request in before.requests().iter().cloned() {
            let how = OverrideOptions { only: true, ..OverrideOptions::default() };
            let Ok(planned) = plan(&before, &OverrideTarget::Request(request.clone()), &how) else { continue };
            let Planned::Write(planned) = planned else { continue };
            let planned: Override = *planned;
            let mut after = files.clone();
            for write in &planned.writes {
                after.insert(write.path.clone(), String::from_utf8(write.bytes.clone().unwrap()).unwrap());
            }
            let after = load(&after);
            let base = request.address.split("page/").next().unwrap_or("").to_owned();
            let own = |address: &str| address == request.address || (address.starts_with(&format!("{base}page/")) || address == base);
            let source = planned.original.as_ref().unwrap();
            let text = String::from_utf8_lossy(&source.bytes);
            let may_differ = text.contains("inherited") || text.contains("request.template") || text.contains("request.theme");
            for (address, line) in lines(&after) {
                if own(&address) && address == request.address {
                    let path = format!("themes/t0/{}", planned.name);
                    let found = format!("themes/{}/templates/{}", line.theme.clone().unwrap(), line.template.clone().unwrap());
                    prop_assert_eq!(&found, &path, "{}", address);
                    prop_assert!(lines_before[&address] != line, "{} stays", address);
                } else if !own(&address) {
                    prop_assert_eq!(&lines_before[&address], &line, "{} for {}", address, planned.name);
                }
            }
            for (address, html) in rendered(&after) {
                let differs = html_before[&address] != html;
                prop_assert!(!differs || (own(&address) && may_differ), "{} by {}", address, planned.name);
                prop_assert!(!differs || planned.effect.differ.contains(&address), "{} is not told of", address);
            }
        }
    }

    #[test]
    fn whatever_makes_a_page_reaches_it(files in sites()) {
        let world = load(&files);
        for request in world.requests().iter().cloned() {
            let address = request.address.clone();
            let shows = Shows { marks: true, dumps: false, ..Shows::default() };
            let status = request.status;
            let page = page(&world, request, Audience::Developer(shows), &Bump::new());
            // A page that fails is made by another address's files.
            if page.status != status {
                continue;
            }
            let (_, parts) = outline(&page.text);
            let mut paths = BTreeSet::new();
            parts_of(&parts, &mut paths);
            for path in paths {
                let (id, _) = world.lineage.ids().find(|(_, file)| *file.node.path == *path).unwrap();
                let reached = world.reach(id).any(|(request, _)| request.address == address);
                prop_assert!(reached, "{} does not reach {}", path, address);
            }
        }
    }

    #[test]
    fn what_is_dead_can_go(files in sites()) {
        let before = load(&files);
        let mut after = files.clone();
        for (id, file) in before.lineage.ids() {
            let state = before.file_uses()[id.0 as usize].as_ref();
            if matches!(state, Some(FileUse::Dead(_))) {
                after.remove(&*file.node.path);
            }
            let reached = before.reach(id).next().is_some();
            prop_assert_eq!(state == Some(&FileUse::Used), reached && file.hidden_by.is_none(), "{}", file.node.path);
        }
        let after = load(&after);
        for problem in after.problems.iter().filter(|problem| problem.is_error()) {
            let known = before.problems.iter().any(|other| other.message == problem.message && other.place == problem.place);
            prop_assert!(known, "{:?} is new", problem);
        }
        prop_assert_eq!(lines(&before), lines(&after));
        prop_assert_eq!(rendered(&before), rendered(&after));
    }
}
