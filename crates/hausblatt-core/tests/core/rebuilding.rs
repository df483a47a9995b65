//! A build over what an earlier one has left is a build from nothing, byte for byte, whatever was edited in between: pages
//! that are not made again are those that would be the same. That what pages depend on is noted is shown by builds that are
//! blind to one sort of it: each of them leaves a page as it was that would be another one.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use hausblatt_core::asking::SiteOptions;
use hausblatt_core::build::{self, Before, BuildPart, Options, Report};
use hausblatt_core::check::{self, Scope, SeenPages};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::files::{Depth, Snapshot};
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::distinct;
use proptest::prelude::*;

use crate::images::png;
use crate::support::failing::{Event, Failing};
use crate::support::{asking, pages};

/// A file, and what may be in it; nothing where the file is not there.
type Variants = (&'static str, &'static [&'static str]);

/// Links that are checked in the page, where other pages decide whether they are broken.
const LINKING: &str = "---\ntitle: One\ndate: 2026-03-01\nfamily: [peas]\nseats: 3\nfriend: two\n---\nSee [two](/notes/two/), [rows](/notes/three/#rows) and [the page](/visit/gate/).";

/// In the place of a text: no file.
const GONE: &str = "\0";

/// Each file with all that may be in it. The first of each is the site as it is at first.
const FILES: &[Variants] = &[
    (
        "hausblatt.toml",
        &[
            CONFIG,
            "[site]\ntitle = \"Beds\"\naddress = \"https://seeds.example\"\ntheme = \"near\"\n[collections.notes]\naddress = \"/notes/{slug}/\"\nlisting = \"/notes/\"\norder = \"title\"\nperiods = [\"year\"]\n[collections.notes.fields]\nplace = { type = \"link\" }\nseats = { type = \"number\" }\nfriend = { type = \"entry\", collection = \"notes\" }\n[taxonomies.family]\nof = [\"notes\"]\naddress = \"/families/{term}/\"\n",
        ],
    ),
    ("themes/near/hausblatt-theme.toml", &["[theme]\nparent = \"far\"\n"]),
    (
        "themes/far/hausblatt-theme.toml",
        &["[settings]\nmotto = { type = \"text\" }\nstart = { type = \"link\", default = \"page:visit\" }\n"],
    ),
    ("themes/far/layouts/document.html", &[LAYOUT, "<!doctype html><title>+{request.title}</title>+{slot}"]),
    (
        "themes/near/layouts/document.html",
        &[GONE, "<!doctype html><body class=\"+{classes.join(\" \")}\">+{slot}</body>"],
    ),
    ("themes/far/templates/fallback.html", &["<h1>+{request.title}</h1>"]),
    ("themes/far/templates/entry.html", &[ENTRY, "<p>+{content.title}</p>\n+{content.body}", "+{content.nothing.at}"]),
    ("themes/near/templates/entry.html", &[GONE, "+{inherited}\n<p>near</p>", "+{answer 410 \"Gone\"}"]),
    ("themes/far/templates/page.html", &[PAGE, "+{content.body}"]),
    ("themes/far/templates/listing.html", &[LISTING, "+{listing.total}"]),
    ("themes/near/templates/listing/notes.html", &[GONE, "+{each note in listing.items}+{note.title} +{end}"]),
    ("themes/far/templates/route.html", &["+{route.title} +{route.row.days} +{tables.months.count}"]),
    ("themes/far/templates/error/404.html", &["<h1>+{error.title}</h1>+{content.body}", "<h1>lost</h1>"]),
    ("themes/far/templates/offered/wide.html", &["---\nlabel: Wide\n---\n<p>wide</p>+{inherited}", GONE]),
    (
        "themes/far/partials/note.html",
        &[
            "---\ntakes: { note: }\n---\n<b>+{note.title}</b>",
            "---\ntakes: { note: }\n---\n<i>+{note.title}</i>",
            "---\ntakes: { note:, size: }\n---\n<i>+{note.title}</i>",
        ],
    ),
    ("themes/near/partials/note.html", &[GONE, "---\ntakes: { note: }\n---\n<u>+{note.summary}</u>"]),
    (
        "themes/far/components/box/component.toml",
        &["[[fields]]\nname = \"words\"\ntype = \"text\"\n\n[[fields]]\nname = \"to\"\ntype = \"link\"\n"],
    ),
    ("themes/far/components/box/component.html", &["<a href=\"+{to}\">+{words}</a>", "<p>+{words}</p>"]),
    ("themes/far/prepare/all.let", &[GONE, "let season = \"spring\"\nlet classes = classes + [season]\n"]),
    ("themes/far/assets/far.css", &["p { color: red }", "p { color: blue }", GONE]),
    ("tables/months.csv", &["slug,title,days\nmay,May,31\njune,June,30\n", "slug,title,days\nmay,May,30\n"]),
    ("content/pages/home.md", &["---\ntitle: Home\n---\nThe [notes](collection:notes)."]),
    (
        "content/pages/visit.md",
        &[
            "---\ntitle: Visit\norder: 2\n---\nCome in by [the gate](page:visit/gate), or see [one](../notes/one.md).",
            "---\ntitle: Visit us\norder: 2\nslug: come\nformerly: /old/\n---\nCome in. ![A gate](/media/gate.png)",
            "---\ntitle: Visit\norder: 1\ntemplate: wide\ntrays:\n  aside:\n    - component: box\n      words: Open\n      to: entry:notes/two\n---\nCome.",
            "---\ntitle: Visit\nin_lists: no\n---\nSee [none](page:none).\n",
            GONE,
        ],
    ),
    (
        "content/pages/visit/gate.md",
        &[
            "---\ntitle: The gate\n---\nIt is green.",
            "---\ntitle: Zur Gate\n---\nIt is green.",
            "---\ntitle: The hut\n---\nIt is green.",
            "---\ntitle: A gate\nslug: door\n---\nIt is red.",
            "---\ndraft: yes\n---\n",
            GONE,
        ],
    ),
    (
        "content/pages/visit/hut.md",
        &[GONE, "---\ntitle: The hut\n---\nIt is small.", "---\ntitle: A hut\n---\nIt is small."],
    ),
    (
        "content/pages/lost.md",
        &["---\ntitle: Lost\n---\nNothing is here.", "---\ntitle: Lost\n---\nGo [home](page:home)."],
    ),
    (
        "content/notes/one.md",
        &[
            "---\ntitle: One\ndate: 2026-03-01\nfamily: [peas]\nseats: 3\nfriend: two\n---\nThe first bed.\n\n## Rows\n\nMore.",
            "---\ntitle: One\ndate: 2026-03-01\nfamily: [peas]\nseats: 3\nfriend: two\n---\nThe first bed.\n\n## Rows\n\nLess, by the [gate](page:visit/gate).",
            "---\ntitle: One\ndate: 2026-03-01\nfamily: [peas]\nseats: 3\nfriend: two\n---\nAnother bed.\n",
            LINKING,
            "---\ntitle: One\ndate: 2026-03-01\nfamily: [peas]\nseats: 3\nfriend: two\n---\nSee [two](/notes/two/) and ![a gate](/media/gate.png).",
            "---\ntitle: Uno\ndate: 2026-03-01\nfamily: [peas]\nseats: 4\nfriend: three\n---\nThe first bed.",
            "---\ntitle: Éins\ndate: 2026-03-01\nfamily: [peas]\nplace: page:visit\nseats: 4\nsummary: It is\n---\nThe first bed.",
            "---\nplace: page:visit/gate\ntitle: Zone\ndate: 2026-03-01\nfamily: ['peas']\nseats: four\nrobots: noidex\n---\nThe first bed.",
            "---\ntitle: One more\ndate: 2026-03-09\nfamily: [peas, beans]\nseats: 9\nfriend: three\n---\nThe first bed.",
            "---\ntitle: One\ndate: 2026-12-24\nfamily: [Peas]\n---\nIt waits.",
            GONE,
        ],
    ),
    (
        "content/notes/two.md",
        &[
            "---\ntitle: Two\ndate: 2026-03-04\nfamily: [peas]\nseats: 5\n---\nThe second bed.",
            "---\ntitle: One\ndate: 2026-03-04\nfamily: [peas]\nseats: 5\n---\nThe second bed.",
            "---\ntitle: Two\ndate: 2026-02-04\nfamily: [Broad beans]\nseats: 5\nimage: /media/gate.png\n---\nThe second bed.",
            "---\ntitle: Zwei\ndate: 2026-03-04\nslug: zwei\nfamily: [peas]\nsummary: Short.\nrobots: noindex\n---\nThe second bed.",
            GONE,
        ],
    ),
    (
        "content/notes/three.md",
        &[
            "---\ntitle: Three\ndate: 2026-04-04\nfamily: [beans]\nseats: 1\n---\nThe third bed. ",
            "---\ntitle: Three\n---\nThe third bed.",
            "---\ntitle: [Three\n---\nThe third bed.",
            "---\ntitle: Three\ndate: 2026-04-04\nfamily: [beans]\nseats: 1\n---\n<<<<<<< ours\nThe third.\n=======\nThe 3rd.\n>>>>>>> theirs\n",
            "\n---\ntitle: Three\ndate: 2026-04-04\n---\nThe third bed.",
            "---\ntitle: Three\ndate: 2026-04-04\nfamily: [beans]\nseats: 1\n---\n## Rows\n\nThe third bed, [lost](/nope/).",
            GONE,
        ],
    ),
    (
        "content/notes/a-zero.md",
        &[GONE, "---\ntitle: Zero\ndate: 2026-11-24\nfamily: [beans]\nfriend: one\n---\nBefore all."],
    ),
    ("content/notes/a-new.md", &[GONE, "---\ntitle: New\ndate: 2026-05-05\nfamily: [peas]\nseats: 4\n---\nA new bed."]),
];

const CONFIG: &str = r#"[site]
title = "Seeds"
address = "https://seeds.example"
theme = "near"
[front]
page = "home"
[collections.notes]
address = "/notes/{slug}/"
listing = "/notes/"
per_page = 2
order = "date desc"
periods = ["year", "month"]
feed = true
views = ["print"]
[collections.notes.fields]
seats = { type = "number" }
friend = { type = "entry", collection = "notes" }
place = { type = "link" }
[taxonomies.family]
of = ["notes"]
address = "/families/{term}/"
[routes.month]
address = "/calendar/{slug}/"
each = "months"
[search]
address = "/search/"
[errors]
404 = "lost"
[content]
images = { widths = [4, 6] }
[settings]
motto = "Sow"
"#;

const LAYOUT: &str = r#"<!doctype html>
<html><head><title>+{request.title} – +{site.title}</title><link rel="stylesheet" href="+{asset("far.css")}"></head>
<body class="+{classes.join(" ")}"><nav>+{each item in menus.main}<a href="+{item.address}">+{item.label}</a>+{end}</nav>
<p>+{settings.motto} <a href="+{settings.start}">start</a></p>
+{slot}
+{tray "aside"}
</body></html>
"#;

const ENTRY: &str = r#"+{partial "note" given note = content}
+{content.date.format("%Y-%m-%d")} +{content.older.title} +{content.newer.title} +{content.friend.title} <a href="+{content.place}">there</a>
+{each term in content.family}<a href="+{term.address}">+{term.label} +{term.count}</a>+{end}
+{content.body}
+{each heading in content.headings}+{heading.text}+{end}
<ul>+{each note in notes order by note.date desc limit 2}<li>+{partial "note" given note = note}</li>+{end}</ul>
<ul>+{each note in notes where it.family has content.family.first and it != content limit 2}<li>+{note.title}</li>+{end}</ul>
<ul>+{each note in notes where it.friend == content}<li>+{note.title} is a friend</li>+{end}</ul>
<ul>+{each note in notes where it != content order by note.title limit 1}<li>+{note.title}</li>+{end}</ul>
<ul>+{each note in notes where it.seats > content.seats}<li>+{note.title}</li>+{end}</ul>
<ul>+{each group in notes where it.seats group by it.seats order by group.key}<li>+{group.key}: +{each note in group.items}+{note.title}+{end}</li>+{end}</ul>
"#;

const PAGE: &str = r#"<h1>+{content.title}</h1>
+{each child in content.children}<a href="+{child.address}">+{child.title}</a>: +{child.summary}+{end}
+{each above in content.ancestors}+{above.title}+{end}
+{content.body}
<p>+{url("page:visit/gate")} +{entry("notes/two").title} +{collections.notes.scheduled.count} +{today - 1}</p>
<p>+{each family in taxonomies.family}+{family.label}: +{each note in family.items}+{note.title} +{end}+{end}</p>
+{let gate = image("/media/gate.png")}
<img src="+{gate.scaled(3)}" alt="" width="+{gate.scaled(3).width}">
+{markdown("See [two](entry:notes/two).")}
"#;

const LISTING: &str = r#"<h1>+{listing.title}</h1>+{listing.total}
+{each note in listing.items}+{partial "note" given note = note}<p>+{note.summary}</p>+{end}
+{each page in listing.pages}<a href="+{page.address}">+{page.number}</a>+{end}
"#;

const DAYS: [&str; 3] = ["2026-11-23", "2026-11-24", "2026-12-24"];

/// A site, a step before it is built.
struct State {
    files: Memory,
    day: &'static str,
    /// What is there, by file.
    at: Vec<usize>,
}

impl State {
    fn first() -> Self {
        let files = Memory::default();
        for (path, variants) in FILES {
            put(&files, path, variants[0]);
        }
        files.write("media/gate.png", png(8, 8, png::ColorType::Grayscale, png::BitDepth::Eight, &[9; 64]));
        Self { files, day: DAYS[0], at: vec![0; FILES.len()] }
    }

    /// One edit more: of a file, of the image, or the next day.
    fn edit(&mut self, which: usize, variant: usize) {
        match which.checked_sub(FILES.len()) {
            None => {
                let (path, variants) = FILES[which];
                self.at[which] = variant % variants.len();
                put(&self.files, path, variants[self.at[which]]);
            }
            Some(0) => {
                let gray = [(variant % 251) as u8; 64];
                self.files.write("media/gate.png", png(8, 8, png::ColorType::Grayscale, png::BitDepth::Eight, &gray));
            }
            Some(_) => self.day = DAYS[variant % DAYS.len()],
        }
    }

    /// One place in a file as another text; the whole file where it names no place.
    fn replace(&self, path: &str, from: &str, to: &str) {
        if from.is_empty() {
            return put(&self.files, path, to);
        }
        let before = String::from_utf8(self.files.bytes(path).unwrap().to_vec()).unwrap();
        assert!(before.contains(from), "{path}: {from}");
        put(&self.files, path, &before.replacen(from, to, 1));
    }

    fn asking(&self) -> SiteOptions {
        SiteOptions { today: self.day.parse().unwrap(), ..asking() }
    }

    /// The same files with nothing that was built.
    fn untouched(&self) -> Memory {
        let files = Memory::default();
        for (path, bytes) in self.files.all() {
            let path = path.strip_prefix("/").unwrap_or(&path);
            if !path.starts_with("built") && !path.to_string_lossy().starts_with('.') {
                files.write(path, &bytes);
            }
        }
        files
    }
}

fn put(files: &Memory, path: &str, text: &str) {
    match text {
        GONE => files.remove(path),
        text => files.write(path, text),
    }
}

fn options(compressed: bool) -> Options {
    Options { out: "/built".into(), map: true, marks: false, compressed, part: BuildPart::WHOLE, clears_images: true }
}

fn build(
    files: Arc<dyn hausblatt_core::files::Files>,
    asking: SiteOptions,
    options: &Options,
    blind: &str,
) -> Option<(Report, Said)> {
    let snapshot = Snapshot::load(files, Path::new("/"), Depth::Digests).ok()?;
    let world = World::load(snapshot, asking).ok()?;
    let report = match build::before(&world.snapshot, &world.asking, options).ok()? {
        Before::Built(report) => report,
        Before::Earlier(earlier) => build::build_after(&world, options, earlier.blind_to(blind), &|_, _| {}).ok()?,
    };
    let said = distinct(world.problems.iter().chain(&report.diagnostics).cloned().collect());
    let mut said: Vec<String> = said.iter().map(|one| format!("{} {:?}", one.message, one.place)).collect();
    said.sort();
    let mut addresses = [report.failed.clone(), report.answered.clone()].concat();
    addresses.sort();
    Some((report, (said, addresses)))
}

/// What a build says, and which addresses got no page.
type Said = (Vec<String>, Vec<(String, u16)>);

/// What is published: every file of the output folder but for what the build keeps for itself.
fn published(files: &Memory) -> Vec<(PathBuf, Vec<u8>)> {
    let own = |path: &Path| path.starts_with("/built") && !path.to_string_lossy().contains("/.hausblatt");
    files.all().into_iter().filter(|(path, _)| own(path)).map(|(path, bytes)| (path, bytes.to_vec())).collect()
}

/// The files that a build over the earlier one leaves otherwise than one from nothing, and what both say.
fn differing(state: &State, options: &Options, blind: &str) -> Vec<String> {
    let (report, over) = build(Arc::new(state.files.clone()), state.asking(), options, blind).expect("it is built");
    let fresh = state.untouched();
    let (new_report, new) = build(Arc::new(fresh.clone()), state.asking(), options, "").expect("it is built");
    let (left, made) = (published(&state.files), published(&fresh));
    let mut all: Vec<String> = Vec::new();
    for (path, bytes) in &left {
        // Pages that fail, and what belongs to none any more while something has an error, stay as an earlier build left them.
        if !made.iter().any(|(other, made)| other == path && made == bytes) {
            all.push(path.display().to_string());
        }
    }
    all.extend(
        made.iter()
            .filter(|(path, _)| !left.iter().any(|(other, _)| other == path))
            .map(|(path, _)| path.display().to_string()),
    );
    let stays = |report: &Report| report.held > 0 || !report.failed.is_empty();
    if stays(&report) || stays(&new_report) {
        let failed: Vec<&str> = new_report.failed.iter().map(|(address, _)| address.trim_matches('/')).collect();
        all.retain(|path| {
            report.held == 0 && !failed.iter().any(|address| path.contains(address)) && !path.contains("_made")
        });
    }
    if over != new {
        all.push(format!("what is said: {over:?} in the place of {new:?}"));
    }
    all
}

fn edits() -> impl Strategy<Value = Vec<Vec<(usize, usize)>>> {
    let edit = (0..FILES.len() + 2, 0..240usize);
    prop::collection::vec(prop::collection::vec(edit, 1..4), 1..8)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    #[test]
    fn a_build_over_an_earlier_one_is_a_build_from_nothing(steps in edits(), compressed: bool, many: bool, kill in 0..400usize) {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(if many { 8 } else { 1 }).build().unwrap();
        pool.install(|| {
            let options = options(compressed);
            let mut state = State::first();
            prop_assert_eq!(differing(&state, &options, ""), [] as [String; 0]);
            for (number, step) in steps.iter().enumerate() {
                step.iter().for_each(|&(which, variant)| state.edit(which, variant));
                if number % 2 == 0 {
                    // A build that is killed on its way.
                    let failing = Failing::at(&state.files, kill + 1, Event::Ends);
                    build(Arc::new(failing), state.asking(), &options, "");
                }
                let differing = differing(&state, &options, "");
                prop_assert!(differing.is_empty(), "after {step:?}: {differing:?}, state {:?} on {}", state.at, state.day);
            }
            Ok(())
        })?;
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    #[test]
    fn a_world_after_edits_is_one_that_is_loaded(config in 0..2usize, steps in prop::collection::vec(small_edits(), 1..16)) {
        let mut state = State::first();
        state.edit(0, config);
        let load = |state: &State| {
            let snapshot = Snapshot::load(Arc::new(state.files.clone()), Path::new("/"), Depth::Heads).unwrap();
            World::load(snapshot, state.asking()).unwrap()
        };
        let mut now = load(&state);
        for step in &steps {
            step.iter().for_each(|&(which, variant)| state.edit(which, variant));
            now = now.later(now.snapshot.refreshed().unwrap()).unwrap();
            let loaded = load(&state);
            prop_assert_eq!(&now.problems, &loaded.problems, "after {:?}, state {:?}", step, state.at);
            prop_assert_eq!(pages(&now), pages(&loaded), "after {:?}, state {:?}", step, state.at);
        }
    }
}

/// Mostly of one content file, the others of any.
fn small_edits() -> impl Strategy<Value = Vec<(usize, usize)>> {
    let is_content = |&which: &usize| FILES[which].0.starts_with("content/");
    let contents: Vec<usize> = (0..FILES.len()).filter(is_content).collect();
    let of_content = (prop::sample::select(contents), 0..240usize);
    prop_oneof![
        6 => prop::collection::vec(of_content, 1..2),
        1 => prop::collection::vec((1..FILES.len() + 1, 0..240usize), 1..3),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 16, ..ProptestConfig::default() })]

    #[test]
    fn a_check_after_edits_finds_what_a_check_finds(steps in prop::collection::vec(small_edits(), 1..8)) {
        let mut state = State::first();
        state.replace(ONE, "", LINKING);
        let load = |state: &State| {
            let snapshot = Snapshot::load(Arc::new(state.files.clone()), Path::new("/"), Depth::Fronts).unwrap();
            World::load(snapshot, state.asking()).unwrap()
        };
        let (_, mut seen) = check::run_after(&load(&state), &Scope::Whole, &|_, _| (), usize::MAX, &SeenPages::default());
        for step in &steps {
            step.iter().for_each(|&(which, variant)| state.edit(which, variant));
            let world = load(&state);
            let (found, now) = check::run_after(&world, &Scope::Whole, &|_, _| (), usize::MAX, &seen);
            let anew = check::run(&world, &Scope::Whole, &|_, _| ());
            prop_assert_eq!(format!("{found:#?}"), format!("{anew:#?}"), "after {:?}, state {:?}", step, state.at);
            // As one program hands it on, and as a file does.
            seen = if step.len() == 1 { saved(&world, &now) } else { now };
        }
    }
}

/// What the next run of the program reads of what this one has seen.
fn saved(world: &World, seen: &SeenPages) -> SeenPages {
    seen.save(&world.snapshot, "this program");
    SeenPages::load(&world.snapshot, "this program")
}

/// A file of another program, or one that is damaged anywhere, says nothing.
#[test]
fn what_a_check_has_saved_is_taken_whole_or_not_at_all() {
    let state = with_template("<main>+{content.body}<b id=\"a\" id=\"b\">1</b></main>");
    let snapshot = Snapshot::load(Arc::new(state.files.clone()), Path::new("/"), Depth::Fronts).unwrap();
    let world = World::load(snapshot, state.asking()).unwrap();
    let anew = format!("{:#?}", check::run(&world, &Scope::Whole, &|_, _| ()));
    let run = |earlier: &SeenPages| {
        let (found, seen) = check::run_after(&world, &Scope::Whole, &|_, _| (), usize::MAX, earlier);
        assert_eq!(format!("{found:#?}"), anew);
        seen
    };
    let first = run(&SeenPages::default());
    let all = first.looked_at();
    assert!(run(&saved(&world, &first)).looked_at() < all / 2);
    let path = format!("/{}", check::SEEN);
    let whole = state.files.bytes(&path).unwrap().to_vec();
    assert_eq!(run(&SeenPages::load(&world.snapshot, "another program")).looked_at(), all);
    for at in (0..whole.len()).step_by(97) {
        let mut bytes = whole.clone();
        bytes[at] ^= 4;
        for bytes in [bytes, whole[..at].to_vec()] {
            state.files.write(&path, bytes);
            assert_eq!(SeenPages::load(&world.snapshot, "this program").count(), 0, "at {at}");
        }
    }
    state.files.remove(&path);
    assert_eq!(run(&SeenPages::load(&world.snapshot, "this program")).looked_at(), all);
    // Nothing new is nothing to write.
    run(&run(&saved(&world, &first))).save(&world.snapshot, "this program");
    assert_eq!(*state.files.bytes(&path).unwrap(), *whole);
}

/// Whether a link is broken, other content decides, of which the page that has the link is not made.
#[test]
fn a_check_after_an_edit_elsewhere_finds_links_that_it_breaks() {
    let state = with_template("<main>+{content.body}</main>");
    state.replace(ONE, "", LINKING);
    let mut seen = SeenPages::default();
    let mut broken = || {
        let snapshot = Snapshot::load(Arc::new(state.files.clone()), Path::new("/"), Depth::Fronts).unwrap();
        let world = World::load(snapshot, state.asking()).unwrap();
        let (found, now) = check::run_after(&world, &Scope::Whole, &|_, _| (), usize::MAX, &seen);
        assert_eq!(format!("{found:#?}"), format!("{:#?}", check::run(&world, &Scope::Whole, &|_, _| ())));
        seen = saved(&world, &now);
        found.iter().filter(|finding| finding.diagnostic.code == "broken-link").count()
    };
    let two = String::from_utf8(state.files.bytes(TWO).unwrap().to_vec()).unwrap();
    let before = broken();
    state.files.remove(TWO);
    assert_eq!(broken(), before + 1);
    state.replace("content/pages/visit/gate.md", "title:", "slug: door\ntitle:");
    assert_eq!(broken(), before + 2);
    state.files.write(TWO, two);
    assert_eq!(broken(), before + 1);
}

/// Only pages that an edit can have changed are looked at again.
#[test]
fn a_check_after_an_edit_looks_at_what_it_can_have_changed() {
    let state = State::first();
    let mut seen = SeenPages::default();
    let mut looked_at = || {
        let snapshot = Snapshot::load(Arc::new(state.files.clone()), Path::new("/"), Depth::Fronts).unwrap();
        let world = World::load(snapshot, state.asking()).unwrap();
        let now = check::run_after(&world, &Scope::Whole, &|_, _| (), usize::MAX, &seen).1;
        seen = saved(&world, &now);
        (now.looked_at(), world.requests().len())
    };
    let (first, all) = looked_at();
    assert_eq!(first, all);
    let (again, _) = looked_at();
    state.replace(TWO, "second", "2nd");
    let (edited, _) = looked_at();
    assert!(again <= 2 && edited > again && edited < all / 2, "{again} {edited} of {all}");
    state.replace("themes/far/templates/page.html", "<h1>", "<h2>");
    assert_eq!(looked_at(), (all, all));
}

/// What an edit leaves as it was is not made again.
#[test]
fn what_an_edit_does_not_change_is_shared() {
    let state = State::first();
    let snapshot = Snapshot::load(Arc::new(state.files.clone()), Path::new("/"), Depth::Heads).unwrap();
    let world = World::load(snapshot, state.asking()).unwrap();
    let is_shared = |path: &str, from: &str, to: &str| {
        state.replace(path, from, to);
        let later = world.later(world.snapshot.refreshed().unwrap()).unwrap();
        state.replace(path, to, from);
        Arc::ptr_eq(&world.site.addresses, &later.site.addresses)
    };
    for (path, from, to) in [
        (ONE, "first bed", "last bed"),
        (ONE, "title: One", "title: A first one"),
        (ONE, "seats: 3", "seats: three"),
        (TWO, "family: [peas]", "family: ['peas']"),
        ("content/pages/visit/gate.md", "title: The", "title: A"),
        ("themes/far/templates/page.html", "<h1>", "<h2>"),
    ] {
        assert!(is_shared(path, from, to), "{path}: {to}");
    }
    for (path, from, to) in [
        (ONE, "title: One", "slug: first\ntitle: One"),
        (ONE, "2026-03-01", "2026-03-02"),
        (ONE, "friend: two", "friend: two\nfresh: 1"),
        (TWO, "[peas]", "[Peas]"),
        (TWO, "seats: 5", "draft: yes"),
        ("content/pages/visit.md", "order: 2", "order: 1"),
        ("tables/months.csv", "31", "30"),
        ("hausblatt.toml", "per_page = 2", "per_page = 3"),
    ] {
        assert!(!is_shared(path, from, to), "{path}: {to}");
    }
}

/// Pages that have come to have one title are in the order of their files, whatever order they had before.
#[test]
fn siblings_of_one_title_come_by_their_files() {
    let state = State::first();
    let (first, second) = ("content/pages/visit/a.md", "content/pages/visit/b.md");
    state.files.write(first, "---\ntitle: Yard\n---\n");
    state.files.write(second, "---\ntitle: Barn\n---\n");
    let load = || {
        let snapshot = Snapshot::load(Arc::new(state.files.clone()), Path::new("/"), Depth::Heads).unwrap();
        World::load(snapshot, state.asking()).unwrap()
    };
    let siblings = |world: &World| -> Vec<String> {
        let (_, parent) = world.site.ids().find(|(_, content)| &*content.id == "visit").unwrap();
        let of_both = parent.children.iter().map(|&id| world.site.content(id).path().to_string());
        of_both.filter(|path| path == first || path == second).collect()
    };
    let before = load();
    assert_eq!(siblings(&before), [second, first]);
    state.replace(first, "Yard", "Barn");
    let later = before.later(before.snapshot.refreshed().unwrap()).unwrap();
    assert_eq!(siblings(&later), [first, second]);
    assert_eq!(siblings(&load()), [first, second]);
}

#[test]
fn content_of_many_files_is_found_by_number_and_by_path() {
    let state = State::first();
    let path = |number: usize| format!("content/notes/n{number:03}.md");
    for number in 0..300 {
        let text = format!("---\ntitle: N {number}\n---\nSee [the next](n{:03}.md).\n", (number + 1) % 300);
        state.files.write(path(number), text);
    }
    let load = || {
        let snapshot = Snapshot::load(Arc::new(state.files.clone()), Path::new("/"), Depth::Heads).unwrap();
        World::load(snapshot, state.asking()).unwrap()
    };
    let mut now = load();
    let before = now.site.contents.iter().position(|content| **content.path() == *path(0)).unwrap();
    for number in [0, 299, 127 - before, 128 - before, 255 - before, 256 - before] {
        state.replace(&path(number), &format!("N {number}"), &format!("M {number}"));
        now = now.later(now.snapshot.refreshed().unwrap()).unwrap();
        assert_eq!(&*now.site.contents[before + number].title, format!("M {number}"));
    }
    let loaded = load();
    assert_eq!(now.site.contents.len(), loaded.site.contents.len());
    assert!(now.site.contents.get(now.site.contents.len()).is_none());
    assert_eq!(now.problems, loaded.problems);
    assert_eq!(pages(&now), pages(&loaded));
    assert!(
        pages(&now).iter().any(|(address, _, text)| address == "/notes/n128/" && text.contains("\"/notes/n129/\""))
    );
}

/// Each sort of what pages depend on: a template that reads it, and an edit of which pages learn by nothing else.
struct Planted {
    sort: &'static str,
    template: &'static str,
    path: &'static str,
    from: &'static str,
    to: &'static str,
}

const fn planted(
    sort: &'static str,
    template: &'static str,
    path: &'static str,
    from: &'static str,
    to: &'static str,
) -> Planted {
    Planted { sort, template, path, from, to }
}

const NEW: &str = "content/notes/a-new.md";
const ONE: &str = "content/notes/one.md";
const TWO: &str = "content/notes/two.md";
const NEWEST: &str = "---\ntitle: A new one\ndate: 2026-06-06\nfamily: [peas]\n---\n";

const PLANTED: &[Planted] = &[
    planted("File", "+{partial \"note\" given note = content}", "themes/far/partials/note.html", "<b>", "<b> "),
    planted("Front", "+{entry(\"notes/two\").title}", TWO, "title: Two", "title: Twice"),
    planted("Text", "+{entry(\"notes/two\").body}", TWO, "second", "2nd"),
    planted("Summary", "+{entry(\"notes/two\").summary}", TWO, "second", "2nd"),
    planted("Trays", "+{entry(\"notes/one\").body}", ONE, "words: Open", "words: Closed"),
    planted("Neighbours", "+{content.newer.address}", NEW, "", NEWEST),
    planted("Entries", "+{each note in notes}+{note.address}+{end}", NEW, "", NEWEST),
    planted("Scheduled", "+{notes.scheduled.count}", ONE, "date: 2026-03-01", "date: 2026-12-24"),
    planted("Listed", "+{taxonomies.family.count}", NEW, "", "---\ntitle: A\nfamily: [lentils]\n---\n"),
    planted("Term", "+{taxonomies.family.last.label}", ONE, "[peas]", "[PEAS]"),
    planted("TermEntries", "+{taxonomies.family.last.count}", NEW, "", NEWEST),
    planted(
        "Menus",
        "+{each item in menus.main}+{item.label}+{end}",
        "content/pages/visit.md",
        "title: Visit",
        "title: Go",
    ),
    planted("Whole", "+{content.title}", TWO, "date: 2026-03-04", "date: 2026-03-05"),
    planted("Settings", "+{settings.start}", "content/pages/visit.md", "order: 2", "slug: come"),
    planted("Table", "+{tables.months.first.days}", "tables/months.csv", "31", "30"),
    planted("Reference", "+{url(\"page:visit/gate\")}", "content/pages/visit/gate.md", "title:", "slug: door\ntitle:"),
    planted("Named", "+{if entry(\"notes/\" + \"three\")}yes+{end}", "content/notes/three.md", "", GONE),
    planted("Path", "+{content.body}", ONE, "title:", "slug: first\ntitle:"),
    planted("Rows", "+{each note in notes order by note.date desc limit 1}+{note.address}+{end}", NEW, "", NEWEST),
    planted(
        "Order",
        "+{each note in notes where it != content order by note.title limit 1}+{note.address}+{end}",
        NEW,
        "",
        NEWEST,
    ),
    planted(
        "Indexed",
        "+{each note in notes where it.family has content.family.first and it != content limit 9}+{note.address}+{end}",
        NEW,
        "",
        NEWEST,
    ),
    planted("Request", "+{listing.total}", NEW, "", NEWEST),
    planted("Today", "+{today}", "", "", ""),
];

/// The site with one template for all requests.
fn with_template(template: &str) -> State {
    let state = State::first();
    for (path, _) in FILES.iter().filter(|(path, _)| path.contains("/templates/")) {
        state.files.remove(path);
    }
    state.files.write("themes/far/layouts/document.html", "+{slot}");
    state.files.write("themes/far/templates/fallback.html", template);
    let trays =
        "trays:\n  beds:\n    - component: box\n      words: Open\n      to: page:visit\n---\n<!-- tray beds -->\n\n";
    state.replace(ONE, "\n---\n", &format!("\n{trays}"));
    state
}

#[test]
fn a_build_that_is_blind_to_what_pages_read_leaves_some_as_they_were() {
    let mut unseen = Vec::new();
    for &Planted { sort, template, path, from, to } in PLANTED {
        let after = |blind: &str| {
            let mut state = with_template(template);
            assert_eq!(differing(&state, &options(false), blind), [] as [String; 0], "{sort}");
            match path {
                "" => state.day = DAYS[1],
                _ => state.replace(path, from, to),
            }
            differing(&state, &options(false), blind)
        };
        assert_eq!(after(""), [] as [String; 0], "{sort}");
        if after(sort).is_empty() {
            unseen.push(sort);
        }
    }
    assert_eq!(unseen, [] as [&str; 0]);
}

/// What is edited after it was read, and before a page is made of it, is said to be; and nothing that was made of it is
/// taken for what the file says when it is as it was again.
#[test]
fn what_changes_while_a_site_is_built_is_built_again() {
    let state = State::first();
    let (first, other) = ("The first bed.", "The other bed.");
    let load = || {
        let snapshot = Snapshot::load(Arc::new(state.files.clone()), Path::new("/"), Depth::Digests).unwrap();
        World::load(snapshot, state.asking()).unwrap()
    };
    let world = load();
    state.replace(ONE, first, other);
    let report = build::build(&world, &options(false), &|_, _| {}).unwrap();
    let said: Vec<String> = report.diagnostics.iter().map(|one| format!("{one} ({})", one.code)).collect();
    let expected =
        format!("{ONE}: this file has changed since the build began, so pages may show both (changed-meanwhile)");
    assert_eq!(said, [expected]);
    let page = || String::from_utf8(state.files.bytes("built/notes/one/index.html").unwrap().to_vec()).unwrap();
    assert!(page().contains(other));
    state.replace(ONE, other, first);
    assert_eq!(differing(&state, &options(false), ""), [] as [String; 0]);
    assert!(page().contains(first));
    // One that is gone is an error, not an empty page.
    let world = load();
    state.files.remove(ONE);
    state.files.remove("built/.hausblatt-build");
    let report = build::build(&world, &options(false), &|_, _| {});
    let said = report.map(|report| report.failed).map_err(|error| error.to_string());
    assert!(said.is_err() || said.is_ok_and(|failed| failed.iter().any(|(address, _)| address == "/notes/one/")));
}

/// What a sitemap names depends on what the templates answer, too, which nobody knows before they are rendered.
#[test]
fn a_sitemap_that_was_kept_loses_what_is_answered_with_an_error() {
    let state = with_template("+{content.title}");
    let sitemap = || String::from_utf8(state.files.bytes("built/sitemap.xml").unwrap().to_vec()).unwrap();
    assert_eq!(differing(&state, &options(false), ""), [] as [String; 0]);
    assert!(sitemap().contains("/notes/one/"));
    // The names of theme files are something that every page depends on: it is the text that is to be seen.
    for (template, is_named) in
        [("+{content.title}", true), ("+{answer 410 \"Gone\"}", false), ("+{content.title}", true)]
    {
        state.files.write("themes/near/templates/entry.html", template);
        assert_eq!(differing(&state, &options(false), ""), [] as [String; 0], "{template}");
        assert_eq!(sitemap().contains("/notes/one/"), is_named, "{template}");
    }
}
