//! The map: every address with its file, filtered as one types.

use std::collections::BTreeSet;

use hausblatt_core::lookup::map::{MapEntry, map};

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::problem_page::file_link;
use crate::serve::workbench::{PageRequest, WorkbenchPage};
use crate::show::table::counted;

/// How many addresses are shown at once.
const MOST: usize = 300;

/// The map's page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let world = asked.world;
    let entries = map(world);
    let (wanted, kind) = (asked.query.get("find").trim().to_lowercase(), asked.query.get("kind"));
    let has = |text: &Option<String>| text.as_ref().is_some_and(|text| text.to_lowercase().contains(&wanted));
    let fits = |entry: &&MapEntry| {
        let named = entry.address.to_lowercase().contains(&wanted)
            || has(&entry.template)
            || has(&entry.theme)
            || has(&entry.content);
        named && (kind.is_empty() || entry.kind == Some(kind))
    };
    let found: Vec<&MapEntry> = entries.iter().filter(fits).collect();
    let mut main = Markup::new();
    put!(main, "<h1>Map</h1>\n<p class=\"lead\">Every address and the file that renders it.</p>\n");
    put!(
        main,
        "<form class=\"filter\" action=\"/~/\" data-live=\"found\" role=\"search\">\n<p><label for=\"find\">Find</label> \
         <input id=\"find\" name=\"find\" type=\"search\" value=\"{}\" placeholder=\"address, template, theme or file\"></p>\n\
         <p><label for=\"kind\">Kind</label> <select id=\"kind\" name=\"kind\"><option value=\"\">all</option>",
        asked.query.get("find")
    );
    for word in entries.iter().filter_map(|entry| entry.kind).collect::<BTreeSet<_>>() {
        let selected = Markup::raw(if word == kind { " selected" } else { "" });
        put!(main, "<option{}>{}</option>", selected, word);
    }
    put!(main, "</select></p>\n<p><button>Find</button></p>\n</form>\n<div id=\"found\">\n");
    put!(main, "<p role=\"status\">{} of {}</p>\n", found.len(), counted(entries.len(), "address", "addresses"));
    put!(
        main,
        "<div class=\"scroll\" tabindex=\"0\" role=\"region\" aria-label=\"Addresses\">\n<table>\n<thead><tr><th>Address</th>\
         <th>Kind</th><th>Template</th><th>Theme</th><th>Layout</th></tr></thead>\n<tbody>\n"
    );
    for entry in found.iter().take(MOST) {
        put!(main, "<tr><td><a href=\"/~/address?address={}\">{}</a>", in_query(&entry.address), entry.address);
        if entry.location.is_none() && entry.status != 200 {
            put!(main, " <span class=\"faint\">{}</span>", entry.status);
        }
        if let Some(to) = &entry.location {
            put!(main, " → {}</td><td>redirect</td><td colspan=\"3\"></td></tr>\n", to);
            continue;
        }
        let path = entry.template.as_ref().zip(entry.theme.as_ref()).and_then(|(template, theme)| {
            let id = world.lineage.nearest(&format!("templates/{template}"))?;
            (world.lineage.theme_of(id).name == *theme).then(|| world.lineage.file(id).node.path.clone())
        });
        let template = match (path, &entry.template) {
            (Some(path), Some(template)) => file_link(&path, None).named(template).markup(),
            _ => Markup::raw("<span class=\"faint\">built in</span>"),
        };
        put!(
            main,
            "</td><td>{}</td><td>{}</td><td>{}</td><td>{}</td></tr>\n",
            entry.kind,
            template,
            entry.theme,
            entry.layout
        );
    }
    put!(main, "</tbody>\n</table>\n</div>\n");
    if found.len() > MOST {
        put!(main, "<p>… and {} more: narrow it down above.</p>\n", found.len() - MOST);
    }
    put!(main, "</div>\n");
    WorkbenchPage { title: "Map", here: "/~/", main, wide: true }
}
