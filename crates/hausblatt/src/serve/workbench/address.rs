//! One address: its ladder, the parts of its page, its values, its faults.

use bumpalo::Bump;
use hausblatt_core::lookup::request::{Request, Routed};
use hausblatt_core::lookup::resolution::{FileState, LayoutChoice, Resolution, Used};
use hausblatt_core::render::outline::{self, Part as Outlined};
use hausblatt_core::render::page::{Audience, nearest_addresses, page};
use hausblatt_core::render::values;
use hausblatt_core::text::address::asked as read_address;
use hausblatt_core::themes::lineage::FileId;
use hausblatt_lang::render::Shows;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::value::dump::{Described, Detail};

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::faults::{self as shown, file_link};
use crate::serve::workbench::{Asked, Part};
use crate::show::resolved::{changes, leads_nowhere, subject};
use crate::show::style::typed;

/// The page.
pub fn part(asked: &Asked<'_>) -> Part<'static> {
    let address = read_address(asked.query.get("address")).path;
    let mut main = Markup::new();
    put!(main, "<h1 class=\"path\">{}</h1>\n", address);
    put!(
        main,
        "<p><a href=\"{}\">Open the page</a> · <a href=\"{}#hausblatt-badge\">with its badge open</a> · \
         <a href=\"/~/widths?address={}\">at three widths</a></p>\n",
        hausblatt_core::text::address::encoded(&address),
        hausblatt_core::text::address::encoded(&address),
        in_query(&address)
    );
    put!(main, "<h2>Ladder</h2>\n{}", ladder(asked));
    put!(main, "<h2>Parts</h2>\n{}", parts(asked));
    put!(main, "<h2>Faults</h2>\n{}", faults(asked));
    put!(main, "<h2>Values</h2>\n{}", values(asked));
    Part { title: "An address", here: "/~/", main, wide: false }
}

/// What an address leads to.
fn route(asked: &Asked<'_>) -> Routed {
    asked.world.route(asked.query.get("address"))
}

/// Why this file renders the address.
pub fn ladder(asked: &Asked<'_>) -> Markup {
    let mut out = Markup::new();
    let request = match route(asked) {
        Routed::Redirect(to) => {
            put!(
                out,
                "<p>This address redirects to <a href=\"/~/address?address={}\">{}</a>.</p>\n",
                in_query(&to),
                to
            );
            return out;
        }
        Routed::Request(request) => request,
    };
    let resolution = asked.world.resolve(request.clone());
    let answered = page(asked.world, request.clone(), Audience::Developer(Shows::default()), &Bump::new());
    put!(out, "{}", rungs(asked, &resolution, answered.status));
    if let Some(to) = &answered.location {
        put!(out, "<p>Its template redirects to <a href=\"/~/address?address={}\">{}</a>.</p>\n", in_query(to), to);
    } else if answered.status != request.status {
        // A template can turn its answer into an error's, which has a ladder of its own.
        put!(out, "<p>It answers with {}:</p>\n", answered.status);
        let failed = Request::error(&request.address, answered.status, None);
        put!(out, "{}", rungs(asked, &asked.world.resolve(failed), answered.status));
    }
    out
}

fn rungs(asked: &Asked<'_>, resolution: &Resolution, status: u16) -> Markup {
    let world = asked.world;
    let mut out = Markup::new();
    put!(out, "<p>{} <span class=\"faint\">{}</span></p>\n", subject(world, resolution), status);
    put!(
        out,
        "<div class=\"scroll\" tabindex=\"0\" role=\"region\" aria-label=\"Ladder\">\n<table class=\"ladder\">\n<thead><tr><th>Rung</th>"
    );
    for theme in &world.lineage.themes {
        put!(out, "<th>{}</th>", theme.name);
    }
    put!(out, "</tr></thead>\n<tbody>\n");
    for rung in &resolution.rungs {
        let wins = rung.files.iter().any(|(_, state)| *state == FileState::Renders);
        put!(
            out,
            "<tr{}><th scope=\"row\"><code>{}</code></th>",
            Markup::raw(if wins { " class=\"wins\"" } else { "" }),
            rung.rung.name
        );
        for theme in 0..world.lineage.themes.len() {
            let file = rung.files.iter().find(|(id, _)| world.lineage.file(*id).theme == theme);
            match file {
                Some((id, state)) => {
                    let (sign, words) = match state {
                        FileState::Renders => ("■", "renders"),
                        FileState::PassedOver => ("□", "passed over"),
                        FileState::Covered => ("□", "covered"),
                        FileState::Hidden => ("×", "hidden"),
                        FileState::Unfit => ("!", "does not fit"),
                    };
                    let path = &world.lineage.file(*id).node.path;
                    put!(out, "<td>{} {}</td>", sign, file_link(path, None).named(words));
                }
                None => put!(out, "<td class=\"faint\">·</td>"),
            }
        }
        put!(out, "</tr>\n");
    }
    put!(out, "</tbody>\n</table>\n</div>\n<dl>\n");
    let link = |id: FileId| file_link(&world.lineage.file(id).node.path, None);
    match resolution.winner {
        Some(id) => put!(out, "<dt>Renders</dt><dd>{}</dd>\n", link(id)),
        None => put!(out, "<dt>Renders</dt><dd>what is built in</dd>\n"),
    }
    for id in resolution.running(world).into_iter().skip(1).filter(|id| resolution.after.contains(id)) {
        put!(out, "<dt>Goes on</dt><dd>{}</dd>\n", link(id));
    }
    match &resolution.layout {
        LayoutChoice::Files(files) => {
            for &id in files {
                put!(out, "<dt>Inside</dt><dd>{}</dd>\n", link(id));
                for next in world.next_files(id) {
                    put!(out, "<dt>Goes on</dt><dd>{}</dd>\n", link(next));
                }
            }
        }
        LayoutChoice::Missing(name, _) => put!(out, "<dt>Inside</dt><dd>{}, which does not exist</dd>\n", name.text),
        LayoutChoice::None => {}
    }
    let uses = resolution.uses(world);
    if !uses.is_empty() {
        put!(out, "<dt>Uses</dt><dd>");
        for (at, used) in uses.iter().enumerate() {
            let file = world.lineage.file(used.file);
            let words = if used.what == Used::Partial { "" } else { used.what.word() };
            put!(
                out,
                "{}{} {}",
                if at > 0 { ", " } else { "" },
                words,
                file_link(&file.node.path, None).named(&used.name)
            );
        }
        put!(out, "</dd>\n");
    }
    put!(out, "</dl>\n");
    for note in resolution.notes(world) {
        put!(out, "<p class=\"note\">{}</p>\n", note.text);
    }
    if leads_nowhere(resolution) {
        put!(out, "<p>The nearest addresses that exist:</p>\n<ul>\n");
        for (address, title) in nearest_addresses(world, &resolution.request.address) {
            put!(
                out,
                "<li><a href=\"{}\">{}</a> {}</li>\n",
                hausblatt_core::text::address::encoded(address),
                address,
                title
            );
        }
        put!(out, "</ul>\n");
        return out;
    }
    let changes = changes(world, resolution);
    if !changes.is_empty() {
        put!(out, "<dl class=\"next\">\n");
        for (what, command) in changes {
            put!(out, "<dt>To change {}</dt><dd><code>{}</code></dd>\n", what, typed(&command));
        }
        put!(out, "</dl>\n");
    }
    out
}

/// Which file made which part of the page.
fn parts(asked: &Asked<'_>) -> Markup {
    let mut out = Markup::new();
    let Routed::Request(request) = route(asked) else { return out };
    let shows = Shows { dumps: true, marks: true, ..Shows::default() };
    let page = page(asked.world, request, Audience::Developer(shows), &Bump::new());
    let (_, parts) = outline::outline(&page.text);
    if parts.is_empty() {
        put!(out, "<p>No theme file has a part in it.</p>\n");
    } else {
        nested(&mut out, &parts);
    }
    out
}

fn nested(out: &mut Markup, parts: &[Outlined]) {
    put!(out, "<ul class=\"parts\">\n");
    for part in parts {
        let lines = if part.line == part.end {
            format!("line {}", part.line)
        } else {
            format!("lines {}–{}", part.line, part.end)
        };
        put!(out, "<li>{} <span class=\"faint\">{}</span>", file_link(&part.path, None), lines);
        if !part.parts.is_empty() {
            nested(out, &part.parts);
        }
        put!(out, "</li>\n");
    }
    put!(out, "</ul>\n");
}

/// The values that the template sees.
pub fn values(asked: &Asked<'_>) -> Markup {
    let mut out = Markup::new();
    let Routed::Request(request) = route(asked) else { return out };
    let resolution = asked.world.resolve(request);
    match values::all(asked.world, &resolution, Detail { depth: 3, members: 20, characters: 200 }) {
        Err(faults) => put!(out, "{}", shown::list(&asked.moment.snapshot, &faults.iter().collect::<Vec<_>>())),
        Ok(values) => {
            put!(
                out,
                "<div class=\"values\">\n<p><label>Find a value <input type=\"search\" data-values></label></p>\n<ul>\n"
            );
            for (name, value) in &values {
                value_of(&mut out, name, value);
            }
            put!(out, "</ul>\n</div>\n");
        }
    }
    out
}

fn value_of(out: &mut Markup, name: &str, value: &Described) {
    let text = value.text.as_deref().filter(|_| value.members.is_empty());
    let plain = matches!(value.kind.as_str(), "a text" | "a number" | "true or false");
    let kind = if plain && text.is_some() { "" } else { &value.kind };
    let mut head = Markup::new();
    put!(head, "<b>{}</b> ", name);
    if let Some(text) = text {
        put!(head, "<code>{}</code> ", text);
    }
    put!(head, "<span class=\"faint\">{}</span>", kind);
    if value.members.is_empty() && value.more == 0 {
        put!(out, "<li>{}</li>\n", head);
        return;
    }
    put!(out, "<li><details><summary>{}</summary>\n<ul>\n", head);
    for (name, member) in &value.members {
        value_of(out, name, member);
    }
    if value.more > 0 {
        put!(out, "<li class=\"faint\">… and {} more</li>\n", value.more);
    }
    put!(out, "</ul></details></li>\n");
}

/// What is wrong with the page and the files that it uses.
pub fn faults(asked: &Asked<'_>) -> Markup {
    let mut out = Markup::new();
    let mut found: Vec<Diagnostic> = asked.moment.notices();
    if let Routed::Request(request) = route(asked) {
        let resolution = asked.world.resolve(request.clone());
        found.extend(asked.world.problems_of(&resolution).cloned());
        let shows = Shows { dumps: true, marks: false, ..Shows::default() };
        let page = page(asked.world, request, Audience::Developer(shows), &Bump::new());
        found.extend(page.diagnostics.into_iter().filter(|one| !found.contains(one)).collect::<Vec<_>>());
    }
    if found.is_empty() {
        put!(out, "<p>None.</p>\n");
    } else {
        put!(out, "{}", shown::list(&asked.moment.snapshot, &found.iter().collect::<Vec<_>>()));
    }
    out
}
