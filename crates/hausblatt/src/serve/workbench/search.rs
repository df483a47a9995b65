//! Search over everything: addresses, content, files, settings, parts of the workbench and commands.

use std::collections::BTreeSet;

use clap::CommandFactory as _;
use hausblatt_core::lookup::map::map;

use crate::cli::Cli;
use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::problem_page::file_link;
use crate::serve::workbench::pages::PARTS;
use crate::serve::workbench::{PageRequest, WorkbenchPage};

/// Where one searches.
pub const PART: &str = "/~/search";
/// So many are shown of a sort.
const MOST: usize = 20;

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    let typed = asked.query.get("for").trim();
    put!(
        main,
        "<h1>Search</h1>\n<form class=\"filter\" action=\"{}\" data-live=\"results\" role=\"search\">\n<p><label for=\"for\">Search everything</label> \
         <input id=\"for\" name=\"for\" type=\"search\" value=\"{}\" autofocus></p>\n<p><button>Search</button></p>\n</form>\n<div id=\"results\">\n",
        PART,
        typed
    );
    if typed.is_empty() {
        put!(main, "<p>Addresses, content, theme files, settings, and what the commands do.</p>\n");
    } else {
        put!(main, "{}", results(asked, typed));
    }
    put!(main, "</div>\n");
    WorkbenchPage { title: "Search", here: "", main, wide: false }
}

/// What is found of one sort: a link, and a few words.
type Found = Vec<(Markup, String)>;

fn results(asked: &PageRequest<'_>, typed: &str) -> Markup {
    let wanted: Vec<String> = typed.to_lowercase().split_whitespace().map(str::to_owned).collect();
    let fits = |text: &str| {
        let text = text.to_lowercase();
        wanted.iter().all(|word| text.contains(word))
    };
    let sorts: [(&str, Found); 6] = [
        ("Addresses", addresses(asked, &fits)),
        ("Content", content(asked, typed, &fits)),
        ("Files", files(asked, &fits)),
        ("Settings", settings(asked, &fits)),
        ("Parts of the workbench", parts(&fits)),
        ("Commands", commands(&fits)),
    ];
    let mut out = Markup::new();
    let count: usize = sorts.iter().map(|(_, found)| found.len()).sum();
    put!(out, "<p role=\"status\">{} found</p>\n", count);
    for (sort, found) in sorts.iter().filter(|(_, found)| !found.is_empty()) {
        put!(out, "<h2>{}</h2>\n<ul class=\"results\">\n", *sort);
        for (link, about) in found.iter().take(MOST) {
            put!(out, "<li>{} <span class=\"faint\">{}</span></li>\n", *link, about);
        }
        put!(out, "</ul>\n");
        if found.len() > MOST {
            put!(out, "<p class=\"faint\">… and {} more.</p>\n", found.len() - MOST);
        }
    }
    out
}

fn link(address: &str, text: &str) -> Markup {
    let mut out = Markup::new();
    put!(out, "<a href=\"{}\">{}</a>", address, text);
    out
}

fn addresses(asked: &PageRequest<'_>, fits: &dyn Fn(&str) -> bool) -> Found {
    let entries = map(asked.world);
    let found = entries.into_iter().filter(|entry| fits(&entry.address));
    let one = |entry: hausblatt_core::lookup::map::MapEntry| {
        let to = format!("/~/address?address={}", in_query(&entry.address));
        let about = match (&entry.location, &entry.template, &entry.theme) {
            (Some(to), ..) => format!("→ {to}"),
            (None, Some(template), Some(theme)) => format!("{template} ({theme})"),
            _ => "built in".to_owned(),
        };
        (link(&to, &entry.address), about)
    };
    found.map(one).collect()
}

/// Content whose title or path fits, then what a visitor of the site would find.
fn content(asked: &PageRequest<'_>, typed: &str, fits: &dyn Fn(&str) -> bool) -> Found {
    let site = &asked.world.site;
    let named = site.ids().filter(|(_, content)| fits(&content.title) || fits(content.path())).map(|(id, _)| id);
    let mut seen = BTreeSet::new();
    let all = named.chain(asked.world.found(typed)).filter(|id| seen.insert(id.0)).collect::<Vec<_>>();
    let one = |id| {
        let content = site.content(id);
        let to = format!("/~/content?path={}", in_query(content.path()));
        (link(&to, &content.title), content.path().to_string())
    };
    all.into_iter().map(one).collect()
}

fn files(asked: &PageRequest<'_>, fits: &dyn Fn(&str) -> bool) -> Found {
    let files = asked.moment.snapshot.below("").filter(|node| !node.path.starts_with("content/") && fits(&node.path));
    files.map(|node| (file_link(&node.path, None).markup(), String::new())).collect()
}

fn settings(asked: &PageRequest<'_>, fits: &dyn Fn(&str) -> bool) -> Found {
    let settings = asked.world.settings.iter().map(|setting| &setting.field);
    let found = settings.filter(|field| fits(&field.name) || field.label.as_deref().is_some_and(fits));
    found
        .map(|field| {
            let to = format!("/~/settings#setting.{}", field.name);
            (link(&to, &field.name), field.label.clone().unwrap_or_default())
        })
        .collect()
}

fn parts(fits: &dyn Fn(&str) -> bool) -> Found {
    let found = PARTS.iter().filter(|part| fits(part.word) || fits(part.about));
    found.map(|part| (link(part.address, part.word), part.about.to_owned())).collect()
}

fn commands(fits: &dyn Fn(&str) -> bool) -> Found {
    let cli = Cli::command();
    let about = |command: &clap::Command| command.get_about().map(ToString::to_string).unwrap_or_default();
    let found = cli.get_subcommands().filter(|command| fits(command.get_name()) || fits(&about(command)));
    found
        .map(|command| {
            let mut name = Markup::new();
            put!(name, "<code>hausblatt {}</code>", command.get_name());
            (name, about(command))
        })
        .collect()
}
