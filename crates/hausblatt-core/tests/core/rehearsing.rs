//! Rehearsals: weaknesses that the demo's own content does not show, each found at its line.

use hausblatt_core::check::{Scope, run};
use hausblatt_core::files::Snapshot;
use hausblatt_core::files::memory::Memory;
use hausblatt_core::model::request::Routed;
use hausblatt_core::rehearse::{Rehearsal, Stage, Within};
use hausblatt_core::world::World;
use hausblatt_lang::text::source::position;

use crate::support::{asking, demo, snapshot};

/// A weakness: the file, what is replaced there, by what, the code, a piece of the line, and a variation that shows it.
struct Weakness(&'static str, &'static str, &'static str, &'static str, &'static str, &'static str);

const VARIETY: &str = "themes/hedgerow/templates/entry/varieties.html";
const PRINT: &str = "themes/hedgerow/templates/entry/varieties.print.html";
const ENTRY: &str = "themes/harbour/templates/entry.html";
const FRONT: &str = "themes/harbour/templates/front.html";
const JOURNAL: &str = "themes/harbour/templates/listing/journal.html";
const CARD: &str = "themes/loam/partials/card.html";
const SLIP: &str = "themes/hedgerow/partials/card/workshops.html";
const MENU: &str = "themes/loam/partials/menu.html";
const PAGE: &str = "themes/loam/templates/page.html";
const FAMILIES: &str = "themes/hedgerow/templates/page/families.html";
const PANEL: &str = "themes/hedgerow/components/split-panel/component.html";
const NOTICE: &str = "themes/hedgerow/components/notice/component.html";
const CALENDAR: &str = "themes/hedgerow/templates/route/calendar.html";
const SEARCH: &str = "themes/hedgerow/templates/search.html";
const KEEPER: &str = "themes/hedgerow/templates/page/growers/all_below.html";
const BARE: &str = "themes/hedgerow/templates/offered/bare.html";
const PRINTED: &str = "themes/hedgerow/layouts/print.html";
const FOOTER: &str = "themes/loam/partials/footer.html";

const WEAKNESSES: &[Weakness] = &[
    // No question around an optional image.
    Weakness(
        VARIETY,
        "+{if content.image}\n  <div class=\"variety-picture\">",
        "+{if true}\n  <div class=\"variety-picture\">",
        "no-source",
        "variety-picture",
        "an entry of varieties without image",
    ),
    Weakness(FAMILIES, "+{if group.image}", "+{if true}", "no-source", "<img", "a term of family without image"),
    // Words that belong to a value.
    Weakness(
        VARIETY,
        "+{if content.grower}\n",
        "+{if true}\n",
        "bare-label",
        "<dt>Kept by",
        "an entry of varieties without grower",
    ),
    Weakness(
        VARIETY,
        "+{if content.family}\n",
        "+{if true}\n",
        "bare-label",
        "<dt>Family",
        "an entry of varieties without family",
    ),
    Weakness(
        ENTRY,
        "+{if content.guide}, with",
        "+{if true}, with",
        "bare-label",
        "seats",
        "an entry of workshops without guide",
    ),
    Weakness(
        PRINT,
        "+{if content.days}; harvest",
        "+{if true}; harvest",
        "bare-label",
        "harvest after",
        "an entry of varieties without days",
    ),
    Weakness(
        SLIP,
        "+{if entry.place and entry.starts}",
        "+{if true}",
        "bare-label",
        "entry.place",
        "an entry of workshops without place",
    ),
    Weakness(SLIP, "", "", "bare-label", "entry.place", "an entry of workshops without starts"),
    Weakness(
        FOOTER,
        "+{if settings.motto} +{settings.motto}.",
        "+{if true} Our motto: +{settings.motto}.",
        "bare-label",
        "Our motto",
        "a site without settings.motto",
    ),
    Weakness(
        FRONT,
        "+{if settings.motto} – ",
        "+{if true} – ",
        "bare-label",
        "into \"title\"",
        "a site without settings.motto",
    ),
    // Elements that hold only a value.
    Weakness(
        VARIETY,
        "+{if content.latin}\n",
        "+{if true}\n",
        "empty-element",
        "<i lang=\"la\">",
        "an entry of varieties without latin",
    ),
    Weakness(
        BARE,
        "+{if content.tagline}",
        "+{if true}",
        "empty-element",
        "under-title",
        "a page with the template bare without tagline",
    ),
    // A heading, a link without a text.
    Weakness(
        FRONT,
        "+{content.tagline or site.title}",
        "+{content.tagline}",
        "no-text",
        "<h1>",
        "the front page without tagline",
    ),
    Weakness(PANEL, "+{if heading}", "+{if true}", "no-text", "<h2>", "the component split-panel with a blank heading"),
    Weakness(
        CALENDAR,
        "+{month.title or month.slug}",
        "+{month.title}",
        "no-text",
        "month.slug",
        "a row of the table months without title",
    ),
    // Lists without items, and headings with nothing below them.
    Weakness(
        FRONT,
        "    +{none}\n    <li>None is marked as easy.</li>\n",
        "",
        "empty-list",
        "<ul class=\"packets\">",
        "varieties without entries",
    ),
    Weakness(
        FRONT,
        "    +{none}\n    <p>Nothing has been written yet.</p>\n",
        "",
        "bare-label",
        "<h2 id=\"news\">",
        "journal without entries",
    ),
    Weakness(
        JOURNAL,
        "  +{none}\n  <p>Nothing has been written yet.</p>\n",
        "",
        "empty-list",
        "<h1>",
        "journal without entries",
    ),
    Weakness(MENU, "+{if items}", "+{if true}", "empty-list", "<ul>", "the menu main without items"),
    Weakness(FAMILIES, "+{if group.children}", "+{if true}", "empty-list", "<ul>", "a term of family without parent"),
    Weakness(SEARCH, "+{if search.items}", "+{if true}", "empty-list", "<ol>", "a search without results"),
    Weakness(KEEPER, "+{if kept}", "+{if true}", "empty-list", "<ul class", "a page below growers without title"),
    // The first of an empty list.
    Weakness(
        FRONT,
        "<h2 id=\"easy\">",
        "<p>Newest: +{journal.first.title}</p><h2 id=\"easy\">",
        "bare-label",
        "Newest",
        "journal without entries",
    ),
    // An id from a title that occurs twice.
    Weakness(
        CARD,
        "<span class=\"packet-name\">",
        "<span class=\"packet-name\" id=\"card-+{entry.title.slug}\">",
        "repeated-id",
        "packet-name",
        "an entry of varieties with the title of another",
    ),
    Weakness(
        NOTICE,
        "<div class=\"notice\"",
        "<div id=\"notice\" class=\"notice\"",
        "repeated-id",
        "id=\"notice\"",
        "the component notice twice in the tray main of the page about",
    ),
    // What only some content has, as an alt.
    Weakness(CARD, "alt=\"\"", "alt=\"+{entry.latin}\"", "no-alt", "<img", "an entry of varieties without latin"),
    // A size that is no size without its number.
    Weakness(
        VARIETY,
        "<dl class=\"facts\">",
        "<dl class=\"facts\" style=\"margin-top: +{content.height_cm}px\">",
        "bare-label",
        "<dl",
        "an entry of varieties without height_cm",
    ),
    // The same title for all.
    Weakness(
        PRINTED,
        "+{request.title}",
        "Print version",
        "same-title",
        "<title>",
        "an entry of varieties with a very long title",
    ),
    // A page that a value names.
    Weakness(
        PAGE,
        "+{tray \"main\"}",
        "+{if content.updated}<a href=\"+{url('page:' + content.updated.year)}\">Then</a>+{end}+{tray \"main\"}",
        "dead-reference",
        "Then",
        "a page with updated",
    ),
];

fn request(world: &World, address: &str) -> Within {
    let Routed::Request(request) = world.route(address) else { panic!("{address} redirects") };
    Within { asked: vec![request], ..Within::default() }
}

/// A small site with this template for its pages, a collection without entries, and more of `hausblatt.toml`.
fn small_site(template: &str, config: &str) -> Memory {
    let site = format!(
        "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"visit\"\n[collections.notes]\naddress = \"/notes/{{slug}}/\"\nlisting = \"/notes/\"\n{config}"
    );
    Memory::of([
        ("hausblatt.toml", site.as_str()),
        ("content/pages/visit.md", "---\nsummary: Come in\n---\nWe are open.\n"),
        ("content/pages/about.md", "---\nsummary: Who we are\n---\nThree gardeners.\n"),
        ("themes/t/hausblatt-theme.toml", ""),
        (
            "themes/t/layouts/document.html",
            "<!doctype html>\n<html lang=\"en\">\n<head><meta charset=\"utf-8\"><title>+{request.title}</title></head>\n<body><main>+{slot}</main></body>\n</html>\n",
        ),
        ("themes/t/templates/page.html", template),
        ("themes/t/templates/fallback.html", "<h1>+{request.title}</h1>\n<p>1</p>\n"),
    ])
}

/// What a rehearsal of such a site says: code, line, all variations.
fn said(files: &Memory) -> Vec<(String, String, Vec<String>)> {
    let (snapshot, rehearsal) = rehearsed(files, &Within::default());
    told(&snapshot, &rehearsal).into_iter().map(|(code, _, line, words)| (code, line, words)).collect()
}

/// What a rehearsal found: code, path, line, the text of the line, and all variations.
fn told(snapshot: &Snapshot, rehearsal: &Rehearsal) -> Vec<(String, String, String, Vec<String>)> {
    let told = rehearsal.found.iter().map(|rehearsed| {
        let diagnostic = &rehearsed.finding.diagnostic;
        let words = rehearsed.variations.iter().map(|(words, _)| words.clone()).collect();
        let Some(place) = &diagnostic.place else {
            return (diagnostic.code.to_owned(), String::new(), diagnostic.message.clone(), words);
        };
        let text = snapshot.file(&place.path).unwrap().whole_text().unwrap();
        let line = position(&text, place.span.start).line;
        let line = text.lines().nth(line - 1).unwrap_or("").to_owned();
        (diagnostic.code.to_owned(), place.path.to_string(), line, words)
    });
    told.collect()
}

fn rehearsed(files: &Memory, within: &Within) -> (Snapshot, Rehearsal) {
    let snapshot = snapshot(files);
    let world = World::load(snapshot.clone(), asking()).unwrap();
    let rehearsal = Stage::of(&world, within.clone()).unwrap().rehearse(&|_, _| {});
    (snapshot, rehearsal)
}

#[test]
fn each_weakness_that_the_demo_does_not_show_is_found_at_its_line_and_nothing_else() {
    let (_, rehearsal) = rehearsed(&demo(), &Within::default());
    let clean: Vec<_> = rehearsal.found.iter().map(|it| (&it.finding.diagnostic, &it.variations)).collect();
    assert!(clean.is_empty(), "{clean:#?}");
    assert_eq!(rehearsal.left_out, 0);

    let files = demo();
    // One without a change is a second thing that another one shows.
    for Weakness(path, from, to, ..) in WEAKNESSES.iter().filter(|it| !it.1.is_empty()) {
        let text = String::from_utf8(files.bytes(path).unwrap().to_vec()).unwrap();
        assert!(text.contains(from), "{path} lacks {from}");
        files.write(path, text.replacen(from, to, 1));
    }
    let at_home = run(&World::load(snapshot(&files), asking()).unwrap(), &Scope::Whole, &|_, _| {});
    let at_home: Vec<_> = at_home.iter().map(|finding| &finding.diagnostic.message).collect();
    assert!(at_home.is_empty(), "{at_home:#?}");
    let (snapshot, rehearsal) = rehearsed(&files, &Within::default());
    let mut found = told(&snapshot, &rehearsal);
    for Weakness(path, _, _, code, piece, variation) in WEAKNESSES {
        let at = found.iter().position(|(other, at, line, words)| {
            other == code && at == path && line.contains(piece) && words.iter().any(|words| words == variation)
        });
        match at {
            Some(at) => drop(found.remove(at)),
            None => panic!("{code} of {path} at {piece} with {variation} is not in {found:#?}"),
        }
    }
    assert!(found.is_empty(), "{found:#?}");
}

#[test]
fn a_field_that_is_required_is_never_taken_away() {
    let template = "<h1>+{content.title}</h1>\n<p>Kept by +{content.keeper}</p>\n";
    let with = |required: &str| {
        let files = small_site(template, &format!("[pages.fields]\nkeeper = {{ type = \"text\"{required} }}\n"));
        files.write("content/pages/visit.md", "---\nkeeper: Ida\n---\nWe are open.\n");
        files.write("content/pages/about.md", "---\nkeeper: Ida\n---\nWe are open.\n");
        said(&files)
    };
    let found = with("");
    let words = ["a page without keeper", "the front page without keeper"];
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(words.iter().all(|words| found[0].2.iter().any(|other| other == words)), "{found:#?}");
    assert_eq!(with(", required = true"), []);
}

#[test]
fn what_is_bare_at_home_is_found_too_and_exceptions_are_kept() {
    let template = "<h1>+{content.title}</h1>\n<p>Written by +{content.authors.first}</p>\n";
    let found = said(&small_site(template, ""));
    assert_eq!(found.len(), 1, "{found:#?}");
    assert_eq!((found[0].0.as_str(), found[0].2[0].as_str()), ("bare-label", "the site as it is"));

    let except = "[[rehearse.except]]\ncode = \"bare-label\"\npath = \"themes/t\"\n";
    assert_eq!(said(&small_site(template, except)), []);
    let unused = said(&small_site("<h1>+{content.title}</h1>\n", except));
    assert_eq!(unused[0].0, "unused-exception", "{unused:#?}");
    // Which of the two commands reports a code is not left open.
    let files = small_site("<h1>+{content.title}</h1>\n", &except.replace("rehearse", "check"));
    let world = World::load(snapshot(&files), asking()).unwrap();
    let found = run(&world, &Scope::Whole, &|_, _| {});
    let of_code = found.iter().filter(|finding| finding.diagnostic.code == "unknown-code");
    let messages: Vec<_> = of_code.map(|finding| finding.diagnostic.message.as_str()).collect();
    assert_eq!(messages, ["only rehearse reports \"bare-label\""]);
}

#[test]
fn content_is_made_up_where_the_site_has_none() {
    let files = small_site("<h1>+{content.title}</h1>\n", "");
    files.write("themes/t/templates/entry.html", "<h1>+{content.title}</h1>\n<h2>+{content.summary}</h2>\n");
    files.write("themes/t/templates/offered/poster.html", "<h1>+{content.title}</h1>\n<h3>+{content.summary}</h3>\n");
    let found = said(&files);
    let lines: Vec<_> =
        found.iter().map(|(code, line, words)| (code.as_str(), line.as_str(), words[0].as_str())).collect();
    assert_eq!(
        lines,
        [
            ("no-text", "<h2>+{content.summary}</h2>", "an entry of notes without a text"),
            ("no-text", "<h3>+{content.summary}</h3>", "a page with the template poster with a blank summary"),
        ]
    );
}

#[test]
fn only_what_is_named_is_rehearsed() {
    let files = demo();
    let world = World::load(snapshot(&files), asking()).unwrap();
    let all = Stage::of(&world, Within::default()).unwrap();
    let all = all.variations();
    let within = request(&world, "/workshops/grafting/");
    let some = Stage::of(&world, within).unwrap();
    let some = some.variations();
    assert!(some.len() * 3 < all.len(), "{} of {}", some.len(), all.len());
    assert!(some.iter().all(|variation| variation.addresses == ["/workshops/grafting/"]));
    // Each has a name of its own, by which it can be shown.
    let mut names: Vec<_> = all.iter().map(|variation| variation.words.as_str()).collect();
    let count = names.len();
    names.sort_unstable();
    names.dedup();
    assert_eq!(names.len(), count);
}

#[test]
fn the_cost_does_not_grow_with_the_entries() {
    let files = small_site("<h1>+{content.title}</h1>\n", "");
    files.write("themes/t/templates/entry.html", "<h1>+{content.title}</h1>\n+{content.body}\n");
    let count = |entries: usize| {
        for at in 0..entries {
            files.write(format!("content/notes/note-{at}.md"), format!("---\ntitle: Note {at}\n---\nText\n"));
        }
        rehearsed(&files, &Within::default()).1.pages
    };
    let few = count(40);
    assert_eq!(count(1_000), few);
}
