//! The site that is built: 10,000 entries of 2 KB Markdown with flat front matter.

use std::fs;
use std::path::Path;

/// How many entries it has.
pub const ENTRIES: usize = 10_000;

const LAYOUT: &str = "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>+{request.title} – +{site.title}</title>\n</head>\n<body>\n<header><a href=\"/\">+{site.title}</a></header>\n<main>\n+{slot}\n</main>\n<footer><p>+{site.title}</p></footer>\n</body>\n</html>\n";
const ENTRY: &str = "<article>\n<h1>+{content.title}</h1>\n+{content.body}\n</article>\n";

/// Writes it.
pub fn write(site: &Path) {
    let put = |path: &str, text: &str| {
        let file = site.join(path);
        fs::create_dir_all(file.parent().unwrap()).unwrap();
        fs::write(file, text).unwrap();
    };
    put(
        "hausblatt.toml",
        "[site]\ntitle = \"Notes\"\ntheme = \"plain\"\n\n[collections.notes]\naddress = \"/notes/{slug}/\"\n\n[collections.notes.fields]\nplace = { type = \"text\" }\nseats = { type = \"number\" }\n",
    );
    put("themes/plain/hausblatt-theme.toml", "");
    put("themes/plain/layouts/document.html", LAYOUT);
    put("themes/plain/templates/entry.html", ENTRY);
    put("themes/plain/templates/fallback.html", "<h1>+{request.title}</h1>\n");
    for number in 0..ENTRIES {
        put(&format!("content/notes/note-{number}.md"), &entry(number));
    }
}

fn entry(number: usize) -> String {
    let mut text = format!(
        "---\ntitle: Note {number} on beds & drawers\ndate: 2026-03-{:02}\nplace: Sorting room\nseats: {}\n---\n",
        number % 28 + 1,
        number % 17
    );
    for part in 0..5 {
        text.push_str(&format!(
            "## Part {part}\n\nThe *{number}th* envelope went out in **spring** and came back in autumn, with a [label](/labels/) and `{part}` beans. \
             Nobody had written where it grew, so we sowed it beside the wall and waited until the end of summer.\n\n- the name\n- the year, {number}\n- the bed\n\n"
        ));
    }
    text
}

/// Both sides put out the same pages, but for an empty line that Markdown ends with.
pub fn assert_same_pages(ours: &Path, theirs: &Path) {
    for number in 0..ENTRIES {
        let path = format!("notes/note-{number}/index.html");
        let read = |folder: &Path| fs::read_to_string(folder.join(&path)).unwrap();
        assert_eq!(read(ours), read(theirs), "{path}");
    }
}
