//! Random sites without a mistake, of which nothing must be reported.

use std::fmt::Write as _;

use hausblatt_core::files::Snapshot;
use proptest::prelude::*;
use proptest::sample::subsequence;

use crate::support::checked_in_words;

const COLLECTIONS: &[&str] = &["varieties", "journal", "walks"];

/// A field: its name, how it is declared, a value, and how a template prints it.
struct Sort(&'static str, &'static str, &'static str, &'static str);

const FIELDS: &[Sort] = &[
    Sort("height", "{ type = \"number\", min = 1, max = 900 }", "12", "<p>+{content.height.format(1)} cm</p>"),
    Sort("place", "{ type = \"text\" }", "South & \"low\"", "<p title=\"+{content.place}\">+{content.place.upper}</p>"),
    Sort("easy", "{ type = \"yes-no\", default = false }", "yes", "+{if content.easy == true}<p>Easy</p>+{end}"),
    Sort(
        "bring",
        "{ type = \"list\", of = \"text\" }",
        "[gloves, a hat]",
        "+{if content.bring}<ul>+{each b in content.bring}<li>+{b}</li>+{end}</ul>+{end}",
    ),
    Sort(
        "photo",
        "{ type = \"image\" }",
        "{ file: /media/bed.svg, alt: A bed }",
        "+{if content.photo}<img src=\"+{content.photo.address}\" alt=\"+{content.photo.alt}\" width=\"+{content.photo.width}\" height=\"+{content.photo.height}\">+{end}",
    ),
    Sort("sown", "{ type = \"date\" }", "2026-03-14", "<p>+{content.sown.format(\"%-d %B\")}</p>"),
    Sort(
        "mood",
        "{ type = \"choice\", options = [\"dry\", \"wet\"] }",
        "wet",
        "+{if content.mood == \"wet\"}<p>Wet</p>+{end}",
    ),
];

const TEXTS: &[&str] = &[
    "Plain text, with [a link](page:home) and [another](https://elsewhere.example/a?b=1&c=2).",
    "## Heading\n\nText below it. See [below](#heading).",
    "- one\n- two\n  1. deep\n  2. deeper\n\n> A quote of `code` and *words*.",
    "| a | b |\n|---|---|\n| 1 | 2 |",
    "```html\n<p class=\"a\">{{ not_a_tag }}</p>\n##no\n```",
    "    indented [x] (/y/) code\n\nA footnote[^1].\n\n[^1]: Its text.",
    "![A bed](/media/bed.svg)\n\nA line\\\nbroken, and 2 < 3 & 4 > 1, #tag and 50% | half.",
    "A [reference][seeds], an <https://elsewhere.example/> and (a bracket)[sic].\n\n[seeds]: /",
    "- [ ] open\n- [x] done\n\n~~gone~~ Größe, 木, 🌱.",
];

const LAYOUT: &str = "<!doctype html>\n<html lang=\"+{site.language}\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" content=\"width=device-width\">\n<title>+{request.title}</title>\n+{if request.robots}<meta name=\"robots\" content=\"+{request.robots}\">+{end}\n+{used \"styles\"}\n</head>\n<body class=\"+{classes.join(\" \")}\">\n<nav><ul>+{each item in menus.main}<li><a href=\"+{item.address}\">+{item.label}</a></li>+{none}<li>1</li>+{end}</ul></nav>\n<main>+{slot}</main>\n</body>\n</html>\n";

#[derive(Clone, Debug)]
struct Entries {
    name: &'static str,
    fields: Vec<usize>,
    /// Of each entry which of the fields it has, and its texts.
    entries: Vec<(Vec<usize>, Vec<&'static str>)>,
    feed: bool,
    own_template: bool,
}

fn entries(name: &'static str) -> impl Strategy<Value = Entries> {
    let all: Vec<usize> = (0..FIELDS.len()).collect();
    let entry = (subsequence(all.clone(), 0..=FIELDS.len()), subsequence(TEXTS, 1..=TEXTS.len()));
    let entries = proptest::collection::vec(entry, 0..5);
    (subsequence(all, 0..=FIELDS.len()), entries, any::<bool>(), any::<bool>())
        .prop_map(move |(fields, entries, feed, own_template)| Entries { name, fields, entries, feed, own_template })
}

fn site() -> impl Strategy<Value = Vec<(String, String)>> {
    let all = (entries(COLLECTIONS[0]), entries(COLLECTIONS[1]), entries(COLLECTIONS[2]));
    (all, 1..4usize, any::<[bool; 3]>()).prop_map(|((a, b, c), count, [taxonomy, search, partial])| {
        let all: Vec<Entries> = [a, b, c].into_iter().take(count).collect();
        files(&all, taxonomy, search, partial)
    })
}

fn files(all: &[Entries], taxonomy: bool, search: bool, partial: bool) -> Vec<(String, String)> {
    let mut files: Vec<(String, String)> = Vec::new();
    let mut add = |path: &str, text: String| files.push((path.to_owned(), text));
    let mut config = "[site]\ntitle = \"Seeds\"\naddress = \"https://seeds.example\"\nlanguage = \"en\"\ntheme = \"t\"\n[front]\npage = \"home\"\n".to_owned();
    let mut menu = String::new();
    let shown = if partial { "+{partial \"card\" given entry = e}" } else { "<a href=\"+{e.address}\">+{e.title}</a>" };
    for Entries { name, fields, entries, feed, own_template } in all {
        let feed = *feed && !entries.is_empty();
        let feed = if feed { "feed = true\n" } else { "" };
        let _ = write!(
            config,
            "[collections.{name}]\nlabel = \"{name}\"\naddress = \"/{name}/{{slug}}/\"\nlisting = \"/{name}/\"\nper_page = 2\norder = \"date desc\"\n{feed}[collections.{name}.fields]\n"
        );
        let _ = write!(menu, "{{ to = \"collection:{name}\" }}, ");
        for &field in fields {
            let _ = writeln!(config, "{} = {}", FIELDS[field].0, FIELDS[field].1);
        }
        for (number, (has, texts)) in entries.iter().enumerate() {
            let mut text = format!("---\ntitle: {name} {number}\ndate: 2026-03-{:02}\n", number + 1);
            for &field in has.iter().filter(|field| fields.contains(field)) {
                let value = FIELDS[field].2;
                let value = if value.contains('"') { format!("'{value}'") } else { value.to_owned() };
                let _ = writeln!(text, "{}: {value}", FIELDS[field].0);
            }
            if taxonomy {
                text.push_str("bed: [south]\n");
            }
            let _ = write!(text, "---\n{}\n", texts.join("\n\n").replace("[^1]", &format!("[^{number}]")));
            add(&format!("content/{name}/entry-{number}.md"), text);
        }
        if *own_template && !entries.is_empty() {
            let printed: String = fields.iter().map(|&field| FIELDS[field].3).collect::<Vec<_>>().join("\n");
            let html = format!("<h1>+{{content.title}}</h1>\n{printed}\n+{{content.body}}\n");
            add(&format!("themes/t/templates/entry/{name}.html"), html);
        }
    }
    let _ = writeln!(config, "[menus]\nmain = [ {menu}{{ to = \"page:home\" }} ]");
    if taxonomy && all.iter().any(|one| !one.entries.is_empty()) {
        let of: Vec<String> = all.iter().map(|one| format!("\"{}\"", one.name)).collect();
        let _ = writeln!(
            config,
            "[taxonomies.bed]\nlabel = \"Beds\"\nof = [{}]\naddress = \"/beds/{{term}}/\"",
            of.join(", ")
        );
    }
    if search {
        config.push_str("[search]\naddress = \"/search/\"\n");
        add(
            "themes/t/templates/search.html",
            "<form action=\"+{request.address}\"><label for=\"q\">Find</label><input id=\"q\" name=\"q\" value=\"+{search.query}\"><button>Go</button></form>\n<ol>+{each e in search.items}<li><a href=\"+{e.address}\">+{e.title}</a></li>+{end}</ol>\n".to_owned(),
        );
    }
    add("hausblatt.toml", config);
    add("content/pages/home.md", "---\ntitle: Home\n---\nWelcome.\n".to_owned());
    add("media/bed.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"4\" height=\"3\"/>".to_owned());
    add("themes/t/hausblatt-theme.toml", "[theme]\nversion = \"1.0.0\"\n".to_owned());
    add("themes/t/layouts/document.html", LAYOUT.to_owned());
    let listing = format!(
        "<h1>+{{listing.title}}</h1>\n<ul>+{{each e in listing.items}}<li>{shown}</li>+{{none}}<li>None yet</li>+{{end}}</ul>\n+{{if listing.next}}<a href=\"+{{listing.next}}\">More</a>+{{end}}\n"
    );
    add("themes/t/templates/listing.html", listing);
    if partial {
        let card = "---\ntakes: { entry: }\n---\n<a href=\"+{entry.address}\">+{entry.title}</a>\n+{if entry.summary}<span>+{entry.summary.words(5)}</span>+{end}\n";
        add("themes/t/partials/card.html", card.to_owned());
    }
    add(
        "themes/t/templates/fallback.html",
        "<h1>+{request.title}</h1>\n+{if content}+{content.body}+{end}\n".to_owned(),
    );
    add(
        "themes/t/templates/error.html",
        "<h1>+{error.status} +{error.title}</h1>\n<ul>+{each n in error.nearest}<li><a href=\"+{n.address}\">+{n.title}</a></li>+{none}<li>Nothing is near</li>+{end}</ul>\n".to_owned(),
    );
    files
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    #[test]
    fn nothing_is_said_of_a_clean_site(files in site()) {
        let snapshot = Snapshot::in_memory(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
        let told: Vec<String> = checked_in_words(&snapshot).into_iter().map(|(_, words)| words).collect();
        prop_assert!(told.is_empty(), "{:#?}\n{:#?}", told, files);
    }
}
