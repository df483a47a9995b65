//! Any text as a table (CSV, JSON, TOML, YAML) and as the site's configuration: it is read or reported, at a place that
//! is in the file.

#![no_main]

use hausblatt_core::asking::SiteOptions;
use hausblatt_core::files::Snapshot;
use hausblatt_core::world::World;
use libfuzzer_sys::fuzz_target;

const PAGE: &str = "---\nlayout: none\n---\n+{each row in tables.seeds}+{row}+{end}";

fuzz_target!(|input: (u8, &str)| {
    let (kind, text) = input;
    let (path, config) = match kind % 5 {
        0 => ("tables/seeds.csv", ""),
        1 => ("tables/seeds.json", ""),
        2 => ("tables/seeds.toml", ""),
        3 => ("tables/seeds.yaml", ""),
        _ => ("tables/seeds.csv", text),
    };
    let config = format!("[site]\ntitle = \"Seeds\"\ntheme = \"plain\"\n[front]\npage = \"home\"\n{config}");
    let files = [
        ("hausblatt.toml", config.as_str()),
        ("themes/plain/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\n"),
        ("themes/plain/templates/page.html", PAGE),
        ("content/pages/home.md", "---\ntitle: Home\n---\n"),
        (path, text),
    ];
    let asking = SiteOptions::on(jiff::civil::date(2026, 11, 1));
    let problems = match World::load(Snapshot::in_memory(files), asking) {
        Ok(world) => world.problems.clone(),
        Err(unloadable) => unloadable.0,
    };
    for problem in problems {
        let Some(place) = &problem.place else { continue };
        let Some((_, text)) = files.iter().find(|(path, _)| *path == &*place.path) else { continue };
        let range = place.span.range();
        assert!(text.get(range.start.min(text.len())..).is_some(), "{problem:?}");
        assert!(range.start <= range.end && range.start <= text.len(), "{problem:?}");
    }
});
