//! The bare programs: what the same work costs without a language, a lookup or a record.

use std::fs::{self, File};
use std::io::Read;
use std::path::Path;

use hausblatt_lang::escape::html::escape;
use pulldown_cmark::{CowStr, Event, Options, Parser, Tag, html};
use rayon::prelude::*;

/// Reads the files, converts the Markdown, pushes the strings and writes the pages, on two threads.
pub fn build(site: &Path, out: &Path) {
    rayon::ThreadPoolBuilder::new().num_threads(2).build_global().unwrap();
    let files: Vec<_> = fs::read_dir(site.join("content/notes")).unwrap().map(|entry| entry.unwrap().path()).collect();
    fs::create_dir_all(out.join("notes")).unwrap();
    files.par_iter().for_each(|file| {
        let text = fs::read_to_string(file).unwrap();
        let (front, body) = text.strip_prefix("---\n").unwrap().split_once("\n---\n").unwrap();
        let title = front.lines().find_map(|line| line.strip_prefix("title: ")).unwrap();
        let folder = out.join("notes").join(file.file_stem().unwrap());
        fs::create_dir(&folder).unwrap();
        let (temporary, target) = (folder.join(".new"), folder.join("index.html"));
        fs::write(&temporary, page(title, body)).unwrap();
        fs::rename(temporary, target).unwrap();
    });
}

fn page(title: &str, body: &str) -> String {
    let mut out = String::with_capacity(body.len() * 2 + 1024);
    out.push_str("<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>");
    escape(title, &mut out);
    out.push_str(
        " – Notes</title>\n</head>\n<body>\n<header><a href=\"/\">Notes</a></header>\n<main>\n<article>\n<h1>",
    );
    escape(title, &mut out);
    out.push_str("</h1>\n");
    markdown(body, &mut out);
    out.push_str("\n</article>\n</main>\n<footer><p>Notes</p></footer>\n</body>\n</html>");
    out
}

/// The same Markdown: heading anchors and all.
fn markdown(body: &str, out: &mut String) {
    let options =
        Options::ENABLE_TABLES | Options::ENABLE_FOOTNOTES | Options::ENABLE_STRIKETHROUGH | Options::ENABLE_TASKLISTS;
    let mut events: Vec<Event<'_>> = Parser::new_ext(body, options).collect();
    for at in 0..events.len() {
        let Some(Event::Text(text)) = events.get(at + 1) else { continue };
        let name = CowStr::from(text.to_lowercase().replace(' ', "-"));
        if let Event::Start(Tag::Heading { id, .. }) = &mut events[at] {
            *id = Some(name);
        }
    }
    html::push_html(out, events.into_iter());
}

/// Reads 512 bytes of each file, on one thread.
pub fn heads(site: &Path) {
    let mut sum = 0usize;
    let mut buffer = [0u8; 512];
    for entry in fs::read_dir(site.join("content/notes")).unwrap() {
        sum += File::open(entry.unwrap().path()).unwrap().read(&mut buffer).unwrap();
    }
    assert!(sum > 0);
}
