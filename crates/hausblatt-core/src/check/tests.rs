//! A small site that is quiet, on which the checks' own tests plant errors.

use std::collections::BTreeMap;

use jiff::civil::date;

use crate::asking::SiteOptions;
use crate::check::{Finding, Scope, all_codes, run};
use crate::files::Snapshot;
use crate::world::World;

/// A layout that lacks nothing.
pub const LAYOUT: &str = "<!doctype html>\n<html lang=\"+{site.language}\">\n<head>\n<title>+{request.title}</title><meta name=\"robots\" content=\"+{request.robots}\">+{used \"styles\"}\n</head>\n<body>\n+{slot}\n</body>\n</html>\n";

/// What is found on the quiet site with some of its files changed; an empty text takes a file away.
fn found(files: &[(&str, &str)]) -> (World, Vec<Finding>) {
    let mut all: BTreeMap<&str, &str> = BTreeMap::from([
        ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n"),
        ("themes/t/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\n"),
        ("themes/t/layouts/document.html", LAYOUT),
        ("themes/t/templates/page.html", "<p>+{content.title}</p>\n+{content.body}\n"),
        ("themes/t/templates/front.html", "<p>+{content.title}</p>\n"),
        ("themes/t/templates/fallback.html", "<p>+{request.title}</p>\n"),
        ("themes/t/templates/error.html", "<p>+{request.title}</p>\n"),
        ("content/pages/home.md", "---\ntitle: Home\n---\n"),
        ("content/pages/visit.md", "---\ntitle: Visit\n---\n"),
    ]);
    all.extend(files.iter().copied());
    let files = all.into_iter().filter(|(_, text)| !text.is_empty());
    let world = World::load(Snapshot::in_memory(files), SiteOptions::on(date(2026, 3, 14)));
    let world = world.unwrap_or_else(|problems| panic!("{problems:?}"));
    let found = run(&world, &Scope::Whole, &|_, _| {});
    (world, found)
}

/// All that is reported: path, code, message.
pub fn all_told(files: &[(&str, &str)]) -> Vec<String> {
    let (_, found) = found(files);
    let said = found.iter().map(|finding| {
        let path = finding.diagnostic.place.as_ref().map_or("", |place| &*place.path);
        let places = finding.also.len() + 1;
        let places = if places > 1 { format!(" ({places} places)") } else { String::new() };
        format!("{path} {}: {}{places}", finding.diagnostic.code, finding.diagnostic.message)
    });
    said.collect()
}

/// The places, as path and line, where a code is reported.
pub fn told(code: &str, files: &[(&str, &str)]) -> Vec<String> {
    let (world, found) = found(files);
    let of_code = found.iter().filter(|finding| finding.diagnostic.code == code);
    let places = of_code.filter_map(|finding| {
        let place = finding.diagnostic.place.as_ref()?;
        let text = world.snapshot.file(&place.path)?.whole_text().ok()?;
        let line = text[..place.span.start as usize].matches('\n').count() + 1;
        Some(format!("{}:{line}", place.path))
    });
    places.collect()
}

/// Whether a code is reported at a line of the template that holds this HTML.
pub(crate) fn in_page(code: &str, html: &str, line: usize) {
    let files = [("themes/t/templates/page.html", html)];
    assert_eq!(told(code, &files), [format!("themes/t/templates/page.html:{line}")], "{html}");
}

/// Whether nothing at all is reported of a template that holds this HTML.
pub(crate) fn quiet_page(html: &str) {
    let (_, found) = found(&[("themes/t/templates/page.html", html)]);
    let told: Vec<String> = found.iter().map(|it| format!("{:?}", it.diagnostic)).collect();
    assert!(told.is_empty(), "{html}: {told:#?}");
}

#[test]
fn each_code_is_listed_once_and_explained() {
    let all = all_codes();
    for pair in all.windows(2) {
        assert!(pair[0].name < pair[1].name, "{} is there twice", pair[0].name);
    }
    for code in all {
        assert!(!code.about.ends_with('.') && code.about.len() > 10, "{}", code.name);
        assert!(code.explanation.ends_with('.') && code.explanation.len() > 20, "{}", code.name);
    }
}
