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

/// Gives each entry a title and a text of its own, of words that are as often as those of a language: the second half as often as
/// the first, and so on.
pub fn vary(site: &Path, entries: usize) {
    for number in 0..entries {
        let mut words = words(number as u64 + 1);
        let title: Vec<String> = words.by_ref().take(6).collect();
        let text: Vec<String> = words.take(250).collect();
        let text = format!("{}{}\n", front_matter(number, &title.join(" ")), text.join(" "));
        put(site, &format!("content/notes/note-{number}.md"), &text);
    }
}

/// Words at random, the same for the same seed, which is not 0: out of 30,000, each as rare as it comes late among them.
fn words(mut seed: u64) -> impl Iterator<Item = String> {
    const SYLLABLES: [&str; 40] = [
        "ba", "ce", "di", "fo", "gu", "ha", "je", "ki", "lo", "mu", "na", "pe", "ri", "so", "tu", "va", "we", "zi",
        "bo", "cu", "dan", "fer", "gil", "hon", "jur", "kal", "les", "min", "nor", "put", "ran", "set", "til", "vol",
        "wun", "zar", "bel", "col", "dur", "fin",
    ];
    std::iter::repeat_with(move || {
        seed ^= seed << 13;
        seed ^= seed >> 7;
        seed ^= seed << 17;
        let at_random = (seed >> 11) as f64 / (1u64 << 53) as f64;
        let mut which = 30_000f64.powf(at_random) as usize;
        let mut word = String::new();
        while which > 0 {
            word.push_str(SYLLABLES[which % SYLLABLES.len()]);
            which /= SYLLABLES.len();
        }
        word
    })
}

fn front_matter(number: usize, title: &str) -> String {
    format!(
        "---\ntitle: {title}\ndate: 2026-03-{:02}\nplace: Sorting room\nseats: {}\nfamily: [family-{}]\n---\n",
        number % 28 + 1,
        number % 17,
        number % 20
    )
}

fn entry(number: usize) -> String {
    let mut text = front_matter(number, &format!("Note {number} on beds & drawers"));
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
