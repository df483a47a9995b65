//! The site that is built: entries of 2 KB Markdown with flat front matter.

use std::fs;
use std::path::Path;

/// How many entries it has.
pub const ENTRIES: usize = 10_000;

const LAYOUT: &str = "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>+{request.title} – +{site.title}</title>\n</head>\n<body>\n<header><a href=\"/\">+{site.title}</a></header>\n<main>\n+{slot}\n</main>\n<footer><p>+{site.title}</p></footer>\n</body>\n</html>\n";
const ENTRY: &str = "<article>\n<h1>+{content.title}</h1>\n+{content.body}\n</article>\n";

const LISTS: &str = "<ul>\n+{each note in notes order by note.date desc limit 5}\n<li><a href=\"+{note.address}\">+{note.title}</a></li>\n+{end}\n</ul>\n<ul>\n+{each note in notes where it.family has content.family.first and it != content limit 4}\n<li><a href=\"+{note.address}\">+{note.title}</a></li>\n+{end}\n</ul>\n";
const LISTING: &str = "<h1>+{listing.title}</h1>\n<ul>\n+{each note in listing.items}\n<li><a href=\"+{note.address}\">+{note.title}</a></li>\n+{end}\n</ul>\n";
const FIELDS: &str = "\n[collections.notes.fields]\nplace = { type = \"text\" }\nseats = { type = \"number\" }\n";

fn put(site: &Path, path: &str, text: &str) {
    let file = site.join(path);
    fs::create_dir_all(file.parent().unwrap()).unwrap();
    fs::write(file, text).unwrap();
}

/// Writes it, with so many entries. Its theme `lists` is `plain` with two lists on every page.
pub fn write(site: &Path, entries: usize) {
    let config = "[site]\ntitle = \"Notes\"\ntheme = \"plain\"\n\n[collections.notes]\naddress = \"/notes/{slug}/\"\n";
    put(site, "hausblatt.toml", &format!("{config}{FIELDS}family = {{ type = \"list\", of = \"text\" }}\n"));
    put(site, "themes/plain/hausblatt-theme.toml", "");
    put(site, "themes/plain/layouts/document.html", LAYOUT);
    put(site, "themes/plain/templates/entry.html", ENTRY);
    put(site, "themes/plain/templates/fallback.html", "<h1>+{request.title}</h1>\n");
    put(site, "themes/lists/hausblatt-theme.toml", "[theme]\nparent = \"plain\"\n");
    put(site, "themes/lists/templates/entry.html", &format!("{ENTRY}{LISTS}"));
    for number in 0..entries {
        put(site, &format!("content/notes/note-{number}.md"), &entry(number));
    }
}

/// Gives it listings of ten entries, twenty terms, listings by date, a feed and a search.
pub fn fill(site: &Path) {
    let config = "[site]\ntitle = \"Notes\"\naddress = \"https://seeds.example\"\ntheme = \"plain\"\n\n[collections.notes]\naddress = \"/notes/{slug}/\"\nlisting = \"/notes/\"\nper_page = 10\norder = \"date desc\"\nperiods = [\"year\", \"month\", \"day\"]\nfeed = true\n";
    let more = "\n[taxonomies.family]\nof = [\"notes\"]\naddress = \"/families/{term}/\"\n\n[search]\naddress = \"/search/\"\n";
    put(site, "hausblatt.toml", &format!("{config}{FIELDS}{more}"));
    put(site, "themes/plain/templates/listing.html", LISTING);
}

fn entry(number: usize) -> String {
    let mut text = format!(
        "---\ntitle: Note {number} on beds & drawers\ndate: 2026-03-{:02}\nplace: Sorting room\nseats: {}\nfamily: [family-{}]\n---\n",
        number % 28 + 1,
        number % 17,
        number % 20
    );
    for part in 0..5 {
        text.push_str(&format!(
            "## Part {part}\n\nThe *{number}th* envelope went out in **spring** and came back in autumn, with a [label](/labels/) and `{part}` beans. \
             Nobody had written where it grew, so we sowed it beside the wall and waited until the end of summer.\n\n- the name\n- the year, {number}\n- the bed\n\n"
        ));
    }
    text
}

/// Both sides published the same pages, but for an empty line that Markdown ends with.
pub fn assert_same_pages(ours: &Path, theirs: &Path) {
    for number in 0..ENTRIES {
        let path = format!("notes/note-{number}/index.html");
        let read = |folder: &Path| fs::read_to_string(folder.join(&path)).unwrap();
        assert_eq!(read(ours), read(theirs), "{path}");
    }
}
