//! What is wrong in the sites of the open files, told to the editor.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Place;
use serde_json::{Value, json};
use xxhash_rust::xxh3::xxh3_64;

use crate::lsp::positions::{Columns, range, uri_of};
use crate::lsp::sites::{Loaded, Site, Sites};

/// What is wrong in a site, by the paths of files.
fn of_site(sites: &mut Sites, at: usize, columns: Columns) -> BTreeMap<String, Vec<Value>> {
    let loaded = sites.loaded(at, None);
    let others = of_other_themes(sites, at, &loaded);
    let site = sites.site(at);
    let mut by_path: BTreeMap<String, Vec<Value>> = BTreeMap::new();
    for (loaded, problem) in &others {
        let path = problem.place.as_ref().map_or("hausblatt.toml", |place| &place.path);
        by_path.entry(path.to_owned()).or_default().push(one(site, loaded, problem, columns));
    }
    for problem in loaded.problems().iter().chain(&site.rendered).chain(&site.trouble) {
        let path = problem.place.as_ref().map_or("hausblatt.toml", |place| &place.path);
        by_path.entry(path.to_owned()).or_default().push(one(site, &loaded, problem, columns));
    }
    by_path
}

/// What is wrong in open files of themes that the active theme does not inherit from: in the site as it would be with them.
fn of_other_themes(sites: &mut Sites, at: usize, loaded: &Loaded) -> Vec<(Arc<Loaded>, Diagnostic)> {
    let Ok(world) = &loaded.world else { return Vec::new() };
    let open = sites.open_in(at);
    let themes: BTreeSet<String> = open.iter().filter_map(|path| sites.other_theme(at, path)).collect();
    let is_own = |path: &str| world.lineage.themes.iter().any(|own| path.starts_with(&format!("themes/{}/", own.name)));
    let mut found = Vec::new();
    for theme in themes {
        let other = sites.loaded(at, Some(theme));
        let is_theirs = |problem: &&Diagnostic| {
            let path = problem.place.as_ref().map_or("", |place| &place.path);
            path.starts_with("themes/") && !is_own(path)
        };
        found.extend(other.problems().iter().filter(is_theirs).map(|problem| (other.clone(), problem.clone())));
    }
    found
}

/// How diagnostics get to the editor.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Delivery {
    /// The server pushes those of every file.
    Pushed,
    /// The editor pulls those of the open files; those of the others are pushed.
    PulledOfOpen,
    /// The editor pulls those of all files.
    PulledOfAll,
}

/// The messages that bring the editor up to date: for each file with something wrong, and for those that had it before; and
/// whether something that it has pulled has changed.
pub fn told(sites: &mut Sites, columns: Columns, delivery: Delivery) -> (Vec<Value>, bool) {
    let mut messages = Vec::new();
    let mut is_outdated = false;
    for at in 0..sites.count() {
        let mut by_path = of_site(sites, at, columns);
        let empty = Vec::new();
        let pulled = &sites.site(at).pulled;
        is_outdated |= pulled.iter().any(|(path, own)| digest(by_path.get(path).unwrap_or(&empty)) != *own);
        let open = sites.open_in(at);
        by_path.retain(|path, _| match delivery {
            Delivery::Pushed => true,
            Delivery::PulledOfOpen => !open.contains(path),
            Delivery::PulledOfAll => false,
        });
        let site = sites.site(at);
        let before = std::mem::take(&mut site.pushed);
        site.pushed = by_path.iter().map(|(path, diagnostics)| (path.clone(), digest(diagnostics))).collect();
        let gone = before.keys().filter(|path| !by_path.contains_key(*path)).cloned();
        let mut all: Vec<(String, Vec<Value>)> = gone.map(|path| (path, Vec::new())).collect();
        // In a text that is open, places move with what is typed; elsewhere the editor still has what was pushed.
        let is_new = |path: &String| open.contains(path) || before.get(path) != site.pushed.get(path);
        all.extend(by_path.into_iter().filter(|(path, _)| is_new(path)));
        messages.extend(all.into_iter().filter_map(|(path, diagnostics)| {
            let uri = uri_of(&site.root.join(&path))?;
            Some(json!({ "uri": uri, "diagnostics": diagnostics }))
        }));
    }
    (messages, is_outdated)
}

/// What is wrong in the file at a path of a site, for an editor that pulls it; or that it is unchanged.
pub fn of_file(sites: &mut Sites, at: usize, path: &str, earlier: Option<&str>, columns: Columns) -> Value {
    let diagnostics = of_site(sites, at, columns).remove(path).unwrap_or_default();
    sites.site(at).pulled.insert(path.to_owned(), digest(&diagnostics));
    report(&diagnostics, earlier)
}

fn report(diagnostics: &[Value], earlier: Option<&str>) -> Value {
    let number = format!("{:x}", digest(diagnostics));
    match earlier == Some(&number) {
        true => json!({ "kind": "unchanged", "resultId": number }),
        false => json!({ "kind": "full", "resultId": number, "items": diagnostics }),
    }
}

/// What is wrong in all sites; `earlier` has the numbers of the reports that the editor has, by the addresses of files.
pub fn of_all(sites: &mut Sites, earlier: &HashMap<String, String>, columns: Columns) -> Value {
    let mut items = Vec::new();
    for at in 0..sites.count() {
        let mut by_path = of_site(sites, at, columns);
        // What was pulled before and is right now is reported once more.
        for path in sites.site(at).pulled.keys() {
            by_path.entry(path.clone()).or_default();
        }
        let versions = sites.versions_in(at);
        let site = sites.site(at);
        for (path, diagnostics) in &by_path {
            let Some(uri) = uri_of(&site.root.join(path)) else { continue };
            let mut item = report(diagnostics, earlier.get(uri.as_str()).map(String::as_str));
            item["uri"] = json!(uri);
            item["version"] = json!(versions.get(path));
            items.push(item);
        }
        site.pulled = by_path.iter().map(|(path, diagnostics)| (path.clone(), digest(diagnostics))).collect();
    }
    json!({ "items": items })
}

fn digest(diagnostics: &[Value]) -> u64 {
    xxh3_64(json!(diagnostics).to_string().as_bytes())
}

fn text_at(loaded: &Loaded, path: &str) -> String {
    let text = loaded.snapshot.file(path).and_then(|node| node.whole_text().ok());
    text.map(|text| text.to_string()).unwrap_or_default()
}

fn one(site: &Site, loaded: &Loaded, problem: &Diagnostic, columns: Columns) -> Value {
    let range_of = |place: &Place| range(&text_at(loaded, &place.path), place.span, columns);
    let message = match &problem.help {
        Some(help) => format!("{}\n→ {help}", problem.message),
        None => problem.message.clone(),
    };
    let related: Vec<Value> = problem
        .related
        .iter()
        .filter_map(|(place, why)| {
            let uri = uri_of(&site.root.join(&*place.path))?;
            Some(json!({ "location": { "uri": uri, "range": range_of(place) }, "message": why }))
        })
        .collect();
    let mut told = json!({
        "range": problem.place.as_ref().map(range_of).unwrap_or_default(),
        "severity": if problem.is_error() { 1 } else { 2 },
        "code": problem.code,
        "source": "hausblatt",
        "message": message,
        "relatedInformation": related,
    });
    // What nothing uses is shown pale.
    if ["dead-file", "dead-template", "dead-branch", "unused-prepared"].contains(&problem.code) {
        told["tags"] = json!([1]);
    }
    told
}
