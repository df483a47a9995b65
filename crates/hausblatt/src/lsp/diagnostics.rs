//! What is wrong in the sites of the open files, told to the editor.

use std::collections::BTreeMap;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Place;
use serde_json::{Value, json};

use crate::lsp::positions::{Columns, range, uri_of};
use crate::lsp::sites::{Loaded, Site, Sites};

/// The messages that bring the editor up to date: for each file with something wrong, and for those that had it before.
pub fn told(sites: &mut Sites, columns: Columns) -> Vec<Value> {
    let mut messages = Vec::new();
    for at in 0..sites.count() {
        let loaded = sites.loaded(at, None);
        let site = sites.site(at);
        let mut by_path: BTreeMap<String, Vec<Value>> = BTreeMap::new();
        for problem in loaded.problems().iter().chain(&site.trouble) {
            let path = problem.place.as_ref().map_or("hausblatt.toml", |place| &place.path);
            by_path.entry(path.to_owned()).or_default().push(one(site, &loaded, problem, columns));
        }
        let gone = std::mem::take(&mut site.told).into_iter().filter(|path| !by_path.contains_key(path));
        let mut all: Vec<(String, Vec<Value>)> = gone.map(|path| (path, Vec::new())).collect();
        site.told = by_path.keys().cloned().collect();
        all.extend(by_path);
        messages.extend(all.into_iter().filter_map(|(path, diagnostics)| {
            let uri = uri_of(&site.root.join(&path))?;
            Some(json!({ "uri": uri, "diagnostics": diagnostics }))
        }));
    }
    messages
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
