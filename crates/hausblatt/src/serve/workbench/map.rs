//! The map as a working list: every address with its file, filtered, page by page, and a template chosen for several.

use std::collections::BTreeSet;

use hausblatt_core::lookup::map::{MapEntry, map};
use hausblatt_core::offered;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::problem_page::file_link;
use crate::serve::workbench::compared::hidden;
use crate::serve::workbench::pages::PARTS;
use crate::serve::workbench::tried::TRY;
use crate::serve::workbench::{PageRequest, WorkbenchPage};
use crate::show::table::counted;

/// How many addresses are shown on a page.
const MOST: usize = 100;

/// What the rows are narrowed down to.
struct Filter<'q> {
    find: String,
    kind: &'q str,
    theme: &'q str,
    template: &'q str,
    status: &'q str,
    problem: &'q str,
}

impl Filter<'_> {
    fn of<'q>(asked: &PageRequest<'q>) -> Filter<'q> {
        let get = |name: &str| asked.query.get(name);
        Filter {
            find: get("find").trim().to_lowercase(),
            kind: get("kind"),
            theme: get("theme"),
            template: get("template"),
            status: get("status"),
            problem: get("problem"),
        }
    }

    fn fits(&self, entry: &MapEntry) -> bool {
        let has = |text: &Option<String>| text.as_ref().is_some_and(|text| text.to_lowercase().contains(&self.find));
        let named = entry.address.to_lowercase().contains(&self.find)
            || has(&entry.template)
            || has(&entry.theme)
            || has(&entry.content);
        let is = |wanted: &str, value: Option<&str>| wanted.is_empty() || value == Some(wanted);
        named
            && is(self.kind, Some(kind_of(entry)))
            && is(self.theme, entry.theme.as_deref())
            && is(self.template, entry.template.as_deref())
            && is(self.status, Some(&entry.status.to_string()))
    }
}

/// The kind of an address as a word.
fn kind_of(entry: &MapEntry) -> &'static str {
    match entry.location {
        Some(_) => "redirect",
        None => entry.kind.unwrap_or("file"),
    }
}

/// The map's page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let world = asked.world;
    let entries = map(world);
    let filter = Filter::of(asked);
    let mut found: Vec<&MapEntry> = entries.iter().filter(|entry| filter.fits(entry)).collect();
    let wrong = (!filter.problem.is_empty()).then(|| asked.server.checked.addresses(asked.server, asked.moment));
    if let Some(wrong) = &wrong {
        let has = |entry: &MapEntry| {
            let worst = wrong.as_ref().and_then(|wrong| wrong.get(&entry.address));
            worst.is_some_and(|worst| filter.problem == "any" || *worst)
        };
        found.retain(|entry| has(entry));
    }
    let mut main = Markup::new();
    put!(main, "<h1>Map</h1>\n<p class=\"lead\">Every address and the file that renders it.</p>\n{}", introduction());
    put!(main, "{}", form(asked, &entries, &filter));
    let pages = found.len().div_ceil(MOST).max(1);
    let page = asked.query.get("page").parse::<usize>().unwrap_or(1).clamp(1, pages);
    put!(main, "<div id=\"found\">\n");
    if matches!(wrong, Some(None)) {
        put!(
            main,
            "<p role=\"status\" data-again=\"found\">All pages are being checked. <a href=\"{}\">Look again</a></p>\n</div>\n",
            asked.without("")
        );
        return WorkbenchPage { title: "Map", here: "/~/", main, wide: true };
    }
    put!(main, "<p role=\"status\">{} of {}</p>\n", found.len(), counted(entries.len(), "address", "addresses"));
    let shown = found.iter().skip((page - 1) * MOST).take(MOST).copied();
    put!(main, "{}", table(asked, shown.collect()));
    put!(main, "{}", pager(asked, page, pages));
    put!(main, "</div>\n");
    WorkbenchPage { title: "Map", here: "/~/", main, wide: true }
}

/// What a first visit has to know: the parts, in a sentence each. A script keeps it closed once it was read.
fn introduction() -> Markup {
    let mut out = Markup::new();
    put!(
        out,
        "<details class=\"introduction\" data-once=\"introduction\" open><summary>What is here</summary>\n<dl>\n"
    );
    for part in PARTS {
        put!(out, "<dt><a href=\"{}\">{}</a></dt><dd>{}</dd>\n", part.address, part.word, part.about);
    }
    put!(
        out,
        "</dl>\n<p>Nothing is written before you press <em>Keep</em>; each change shows the command that does the same. The key <kbd>/</kbd> searches everything.</p>\n</details>\n"
    );
    out
}

fn form(asked: &PageRequest<'_>, entries: &[MapEntry], filter: &Filter<'_>) -> Markup {
    let mut out = Markup::new();
    put!(
        out,
        "<form class=\"filter\" action=\"/~/\" data-live=\"found\" role=\"search\">\n<p><label for=\"find\">Find</label> \
         <input id=\"find\" name=\"find\" type=\"search\" value=\"{}\" placeholder=\"address, template, theme or file\"></p>\n",
        asked.query.get("find")
    );
    let mut select = |name: &str, label: &str, chosen: &str, words: BTreeSet<String>| {
        put!(
            out,
            "<p><label for=\"{}\">{}</label> <select id=\"{}\" name=\"{}\"><option value=\"\">all</option>",
            name,
            label,
            name,
            name
        );
        for word in words {
            let selected = Markup::raw(if word == chosen { " selected" } else { "" });
            put!(out, "<option value=\"{}\"{}>{}</option>", word, selected, word);
        }
        put!(out, "</select></p>\n");
    };
    select("kind", "Kind", filter.kind, entries.iter().map(|entry| kind_of(entry).to_owned()).collect());
    select("theme", "Theme", filter.theme, entries.iter().filter_map(|entry| entry.theme.clone()).collect());
    select(
        "template",
        "Template",
        filter.template,
        entries.iter().filter_map(|entry| entry.template.clone()).collect(),
    );
    select("status", "Status", filter.status, entries.iter().map(|entry| entry.status.to_string()).collect());
    let option = |value: &'static str, label: &'static str| {
        let mut out = Markup::new();
        let selected = Markup::raw(if filter.problem == value { " selected" } else { "" });
        put!(out, "<option value=\"{}\"{}>{}</option>", value, selected, label);
        out
    };
    put!(
        out,
        "<p><label for=\"problem\">Problems</label> <select id=\"problem\" name=\"problem\"><option value=\"\">all</option>{}{}</select></p>\n",
        option("any", "with a problem"),
        option("error", "with an error")
    );
    put!(out, "<p><button>Find</button></p>\n</form>\n");
    out
}

/// The rows, with a box before each that can choose a template, and what chooses one for all that are selected.
fn table(asked: &PageRequest<'_>, entries: Vec<&MapEntry>) -> Markup {
    let mut out = Markup::new();
    put!(out, "<form action=\"{}\">\n{}", TRY, hidden([("do", "choose")].into_iter()));
    put!(
        out,
        "<div class=\"scroll\" tabindex=\"0\" role=\"region\" aria-label=\"Addresses\">\n<table class=\"map\">\n<thead><tr><td></td><th>Address</th>\
         <th>Kind</th><th>Template</th><th>Theme</th><th>Layout</th></tr></thead>\n<tbody>\n"
    );
    for entry in &entries {
        put!(out, "{}", row(asked, entry));
    }
    put!(out, "</tbody>\n</table>\n</div>\n");
    let names = offered(asked.world, None);
    if !names.is_empty() && entries.iter().any(|entry| can_choose(entry)) {
        put!(
            out,
            "<div class=\"filter\"><p><label for=\"name\">Template for the selected</label> <select id=\"name\" name=\"name\"><option value=\"\">(none)</option>"
        );
        for name in &names {
            put!(out, "<option value=\"{}\">{}</option>", name, name);
        }
        put!(out, "</select></p>\n<p><button>Try for the selected</button></p></div>\n");
    }
    put!(out, "</form>\n");
    out
}

/// Whether an address is that of content that may choose a template.
fn can_choose(entry: &MapEntry) -> bool {
    entry.content.is_some() && entry.location.is_none() && matches!(entry.kind, Some("page" | "entry" | "front"))
}

fn row(asked: &PageRequest<'_>, entry: &MapEntry) -> Markup {
    let world = asked.world;
    let mut out = Markup::new();
    put!(out, "<tr><td>");
    if let Some(content) = entry.content.as_ref().filter(|_| can_choose(entry)) {
        put!(
            out,
            "<input type=\"checkbox\" name=\"content\" value=\"{}\" aria-label=\"Select {}\">",
            content,
            entry.address
        );
    }
    put!(out, "</td><td><a href=\"/~/address?address={}\">{}</a>", in_query(&entry.address), entry.address);
    if entry.location.is_none() && entry.status != 200 {
        put!(out, " <span class=\"faint\">{}</span>", entry.status);
    }
    if let Some(to) = &entry.location {
        put!(out, " → {}</td><td>redirect</td><td colspan=\"3\"></td></tr>\n", to);
        return out;
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
        out,
        "</td><td>{}</td><td>{}</td><td>{}</td><td>{}</td></tr>\n",
        entry.kind,
        template,
        entry.theme,
        entry.layout
    );
    out
}

/// Links to the other pages of rows.
fn pager(asked: &PageRequest<'_>, page: usize, pages: usize) -> Markup {
    let mut out = Markup::new();
    if pages < 2 {
        return out;
    }
    let link = |number: usize| asked.query_with("page", &number.to_string());
    put!(out, "<nav aria-label=\"Pages of rows\" class=\"rows\"><p>");
    if page > 1 {
        put!(out, "<a href=\"/~/?{}\" rel=\"prev\">Previous</a> ", link(page - 1));
    }
    put!(out, "Page {} of {}", page, pages);
    if page < pages {
        put!(out, " <a href=\"/~/?{}\" rel=\"next\">Next</a>", link(page + 1));
    }
    put!(out, "</p></nav>\n");
    out
}
