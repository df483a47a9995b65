//! A check of one's own: pages whose title is longer than a search engine shows, beside what `check` finds.

use std::error::Error;
use std::path::Path;
use std::sync::Arc;

use hausblatt_core::files::memory::Memory;
use hausblatt_core::jiff::civil::date;
use hausblatt_core::{Site, SiteOptions};

/// How many characters of a title are shown.
const SHOWN: usize = 60;

/// The addresses whose titles are too long, each with its length.
fn long_titles(site: &Site) -> Vec<(String, usize)> {
    let contents = site.world().site.contents.iter();
    let live = contents.filter_map(|content| Some((content.address.as_deref()?, content.title.chars().count())));
    live.filter(|(_, length)| *length > SHOWN).map(|(address, length)| (address.to_owned(), length)).collect()
}

/// Finds what is wrong with a small site.
pub fn main() -> Result<(), Box<dyn Error>> {
    let title = "How beans, peas, kale and marrows are saved from one year to the next";
    let files = Memory::of([
        ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"bare\"\n"),
        ("content/pages/saving.md", &format!("---\ntitle: {title}\n---\nIn paper bags, dry.\n")),
        ("content/pages/visit.md", "---\ntitle: Visit\n---\n[The journal](/journal/)\n"),
        ("themes/bare/hausblatt-theme.toml", ""),
        (
            "themes/bare/templates/fallback.html",
            "---\nlayout: none\n---\n<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>+{request.title}</title></head>\n<body><h1>+{request.title}</h1>+{content.body}</body></html>\n",
        ),
    ]);
    let site = Site::open(Arc::new(files), Path::new("/"), &SiteOptions::on(date(2026, 5, 1)))?;
    let long = long_titles(&site);
    for (address, length) in &long {
        println!("{address}: a title of {length} characters");
    }
    assert_eq!(long, [("/saving/".to_owned(), 69)]);
    let found = site.check();
    for finding in &found {
        println!("{}: {}", finding.diagnostic.code, finding.diagnostic.message);
    }
    assert!(found.iter().any(|finding| finding.diagnostic.code == "broken-link"));
    Ok(())
}
