//! What could be at an address: another template, a file that is gone or the theme's own, another theme, parent or front;
//! and one of these looked at before it is kept.

use std::collections::BTreeSet;

use hausblatt_core::analysis::explanation::ExplainedLayout;
use hausblatt_core::change::choose::{choices, chooser};
use hausblatt_core::change::edit::{Edit, FrontChoice};
use hausblatt_core::change::set::{Assignment, SetTarget};
use hausblatt_core::model::content::Section;
use hausblatt_core::model::request::{FrontOf, Kind, Request, Routed};
use hausblatt_core::themes::lineage::FileId;
use hausblatt_core::themes::theme;
use hausblatt_core::world::World;
use hausblatt_core::world::status::Status;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::edits;
use crate::serve::problem_page::file_link;
use crate::serve::workbench::compared::{Comparison, address_to_look_at, hidden};
use crate::serve::workbench::{PageRequest, WorkbenchPage};

/// Where a change is looked at.
pub const TRY: &str = "/~/try";
/// So many pages are offered as a front.
const FRONTS: usize = 300;

/// A change looked at before it is kept.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    let read = edits::read(asked.world, &asked.query.0);
    let first = match &read {
        Ok(Some(Edit::Choose(ids, _))) => {
            ids.first().and_then(|id| asked.world.site.content(*id).address.as_deref()).map(str::to_owned)
        }
        _ => None,
    };
    let at = address_to_look_at(asked.query.get("at")).or(first).unwrap_or_else(|| "/".to_owned());
    // Other parts lead here, too, and get whoever keeps a change back.
    let back = match asked.query.get("back") {
        given if given.starts_with("/~/") => given.to_owned(),
        _ => format!("/~/address?address={}", in_query(&at)),
    };
    let edit = match read {
        Ok(Some(edit)) => edit,
        read => {
            let why = read.err().unwrap_or_else(|| "no change is named".to_owned());
            put!(main, "<h1>Nothing to try</h1>\n<p>{}</p>\n<p><a href=\"{}\">Back to {}</a></p>\n", why, back, at);
            return WorkbenchPage { title: "Nothing to try", here: "/~/", main, wide: false };
        }
    };
    put!(main, "<h1>{}</h1>\n", in_words(asked.world, &edit));
    put!(main, "<p class=\"lead\">At <a href=\"{}\">{}</a>. Nothing is written before you keep it.</p>\n", back, at);
    put!(main, "{}", Comparison { edit: Some(&edit), at: &at, back: &back, frames: true }.html(asked));
    WorkbenchPage { title: "Try a change", here: "/~/", main, wide: true }
}

/// A change as a heading.
fn in_words(world: &World, edit: &Edit) -> String {
    match edit {
        Edit::Choose(ids, name) => {
            let place = match ids.as_slice() {
                [id] => SetTarget::Content(*id).word(world),
                ids => format!("{} pages and entries", ids.len()),
            };
            match name {
                Some(name) => format!("If {place} chose {name}"),
                None => format!("If {place} chose nothing"),
            }
        }
        Edit::Override(path) => format!("If {} had its own copy of {path}", world.lineage.active().name),
        Edit::OverrideOnly(address) => format!("If {address} had a template of its own"),
        Edit::Hide(path) => format!("If {path} were hidden"),
        Edit::Remove(path) => format!("If {path} were gone"),
        Edit::Front(FrontChoice::Page(id)) => format!("If the front were the page {id}"),
        Edit::Front(FrontChoice::Collection(name)) => format!("If the front were the listing of {name}"),
        Edit::Set(target, assignments) => match assignments.as_slice() {
            [Assignment::Set(key, value)] if key == "site.theme" => format!("If the theme were {value}"),
            [Assignment::Set(key, value)] if key == "theme.parent" => format!("If the theme's parent were {value}"),
            _ => format!("If {} were changed", target.path(world)),
        },
    }
}

/// All that can be tried at an address.
pub fn choices_at(asked: &PageRequest<'_>, address: &str) -> Markup {
    let world = asked.world;
    let mut out = Markup::new();
    let Routed::Request(request) = world.route(address) else { return out };
    let link = |edit: &Edit| format!("{TRY}?{}&at={}", edits::query(&edits::pairs(world, edit)), in_query(address));
    put!(out, "{}", templates(world, address, &link));
    put!(out, "{}", files(world, &request, address, &link));
    put!(out, "{}", of_site(world, &request, address));
    out
}

/// The offered templates that the content there can choose.
fn templates(world: &World, address: &str, link: &dyn Fn(&Edit) -> String) -> Markup {
    let mut out = Markup::new();
    let Ok(id) = chooser(world, address) else { return out };
    let content = world.site.content(id);
    put!(
        out,
        "<p><a href=\"/~/content?path={}\">Edit the fields and trays of {}</a></p>\n",
        in_query(content.path()),
        **content.path()
    );
    put!(out, "<h3>Another template</h3>\n<ul class=\"tries\">\n");
    let chosen = content.template.as_ref().map(|(name, _)| &**name);
    for choice in choices(world, id) {
        let label = choice.label.as_deref().unwrap_or(&choice.name);
        match &choice.reason {
            Some(reason) => put!(out, "<li>{} <span class=\"faint\">not here: {}</span></li>\n", label, reason),
            None if chosen == Some(&*choice.name) => {
                let cleared = link(&Edit::Choose(vec![id], None));
                put!(out, "<li>{} <strong>chosen</strong> · <a href=\"{}\">Try without it</a></li>\n", label, cleared);
            }
            None => {
                let tried = link(&Edit::Choose(vec![id], Some(choice.name.clone())));
                put!(out, "<li><a href=\"{}\">Try {}</a>", tried, label);
                if let Some(about) = &choice.about {
                    put!(out, " <span class=\"faint\">{}</span>", about);
                }
                put!(out, "</li>\n");
            }
        }
    }
    put!(out, "</ul>\n");
    out
}

/// The files that take part, each gone, hidden, or the theme's own.
fn files(world: &World, request: &Request, address: &str, link: &dyn Fn(&Edit) -> String) -> Markup {
    let mut out = Markup::new();
    let resolution = world.resolve(request.clone());
    let status = Status { code: request.status, location: None, rendered: false, stopped_at: None };
    let explained = world.explain(&resolution, status);
    let active = &world.lineage.active().name;
    put!(out, "<h3>Another file</h3>\n<ul class=\"tries\">\n");
    put!(
        out,
        "<li><a href=\"{}\">Try a template for {} alone</a></li>\n",
        link(&Edit::OverrideOnly(address.to_owned())),
        address
    );
    let mut paths: Vec<String> = resolution.winner.map(|id| path_of(world, id)).into_iter().collect();
    if let ExplainedLayout::Files(layouts) = &explained.layout {
        paths.extend(
            layouts
                .iter()
                .flat_map(|(file, extended)| [file].into_iter().chain(extended))
                .map(|file| file.path.to_string()),
        );
    }
    let used = explained.uses.iter().map(|used| &used.file);
    paths.extend(explained.extends.iter().chain(used).map(|file| file.path.to_string()));
    let mut shown: BTreeSet<String> = BTreeSet::new();
    for path in paths {
        if !shown.insert(path.clone()) {
            continue;
        }
        let Some((_, file)) = world.lineage.ids().find(|(_, file)| *file.node.path == *path) else { continue };
        let is_own = file.theme == 0;
        put!(out, "<li>{}", file_link(&path, None));
        if !is_own {
            put!(out, " · <a href=\"{}\">Try a copy in {}</a>", link(&Edit::Override(path.clone())), active);
            put!(out, " · <a href=\"{}\">Try it hidden</a>", link(&Edit::Hide(path.clone())));
        }
        put!(out, " · <a href=\"{}\">Try without it</a></li>\n", link(&Edit::Remove(path.clone())));
    }
    put!(out, "</ul>\n");
    out
}

fn path_of(world: &World, id: FileId) -> String {
    world.lineage.file(id).node.path.to_string()
}

/// Another theme, parent, or front.
fn of_site(world: &World, request: &Request, address: &str) -> Markup {
    let mut out = Markup::new();
    let themes = theme::names(&world.snapshot);
    let active = world.lineage.active();
    let others: Vec<&String> = themes.iter().filter(|name| **name != active.name).collect();
    put!(out, "<h3>Another theme or front</h3>\n");
    let theme = [("do", "set"), ("of", "site"), ("at", address)];
    put!(
        out,
        "{}",
        one_of(
            "Theme",
            "set.site.theme",
            &theme,
            &others.iter().map(|name| (name.as_str(), name.as_str())).collect::<Vec<_>>()
        )
    );
    let parent = [("do", "set"), ("of", "theme"), ("at", address)];
    let present = world.lineage.themes.get(1).map(|theme| theme.name.as_str());
    let parents: Vec<(&str, &str)> = others
        .iter()
        .filter(|name| Some(name.as_str()) != present)
        .map(|name| (name.as_str(), name.as_str()))
        .collect();
    put!(out, "{}", one_of(&format!("Parent of {}", active.name), "set.theme.parent", &parent, &parents));
    let front = [("do", "front"), ("at", "/")];
    let is_front =
        |id: &str| matches!(&request.kind, Kind::Front(FrontOf::Page(page)) if *world.site.content(*page).id == *id);
    let pages =
        world.site.contents.iter().filter(|content| content.home == Section::Pages && content.address.is_some());
    let pages: Vec<(&str, &str)> =
        pages.map(|page| (&*page.id, &*page.title)).filter(|(id, _)| !is_front(id)).take(FRONTS).collect();
    put!(out, "{}", one_of("Front: a page", "page", &front, &pages));
    let collections: Vec<(&str, &str)> =
        world.site.collections.iter().map(|it| (it.config.name.text.as_str(), it.config.label.as_str())).collect();
    put!(out, "{}", one_of("Front: a listing", "collection", &front, &collections));
    out
}

/// A form that tries one of several values; nothing where there are none.
fn one_of(label: &str, name: &str, own: &[(&str, &str)], values: &[(&str, &str)]) -> Markup {
    let mut out = Markup::new();
    if values.is_empty() {
        return out;
    }
    put!(out, "<form class=\"filter\" action=\"{}\">\n{}", TRY, hidden(own.iter().copied()));
    put!(out, "<p><label for=\"try-{}\">{}</label> <select id=\"try-{}\" name=\"{}\">", name, label, name, name);
    for (value, label) in values {
        put!(out, "<option value=\"{}\">{}</option>", *value, *label);
    }
    put!(out, "</select></p>\n<p><button>Try</button></p>\n</form>\n");
    out
}
