//! One address: its ladder, the parts of its page, its values, its errors.

use bumpalo::Bump;
use hausblatt_core::analysis::explanation::{ExplainedLayout, Explanation, FileRef, Renders};
use hausblatt_core::lookup::resolution::{FileState, Used};
use hausblatt_core::model::request::{Request, Routed};
use hausblatt_core::render::outline::{self, OutlinePart};
use hausblatt_core::render::page::{Audience, page};
use hausblatt_core::render::values;
use hausblatt_core::text::address::{asked as read_address, encoded};
use hausblatt_core::world::status::Status;
use hausblatt_lang::render::{LinkedAsset, Shows};
use hausblatt_lang::syntax::tree::AssetKind;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::value::dump::{Described, Detail};

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::problem_page::{self as shown, FileLink, file_link};
use crate::serve::workbench::{PageRequest, WorkbenchPage, tried};
use crate::show::style::typed;

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let address = read_address(asked.query.get("address")).path;
    let mut main = Markup::new();
    put!(main, "<h1 class=\"path\">{}</h1>\n", address);
    put!(
        main,
        "<p><a href=\"{}\">Open the page</a> · <a href=\"{}#hausblatt-badge\">with its badge open</a> · \
         <a href=\"/~/widths?address={}\">at three widths</a></p>\n",
        encoded(&address),
        encoded(&address),
        in_query(&address)
    );
    put!(main, "<h2>Ladder</h2>\n{}", ladder(asked));
    put!(main, "<h2>What could be</h2>\n{}", tried::choices_at(asked, &address));
    put!(main, "<h2>Outline</h2>\n{}", parts(asked));
    put!(main, "<h2>Problems</h2>\n{}", problems(asked));
    put!(main, "<h2>Values</h2>\n{}", values(asked));
    WorkbenchPage { title: "An address", here: "/~/", main, wide: false }
}

/// What an address leads to.
fn route(asked: &PageRequest<'_>) -> Routed {
    asked.world.route(asked.query.get("address"))
}

/// Why this file renders the address.
pub fn ladder(asked: &PageRequest<'_>) -> Markup {
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
    put!(out, "{}", explained(&asked.world.explain(&resolution, Status::of_page(&answered))));
    put!(out, "{}", links(&answered.links));
    if let Some(to) = &answered.location {
        put!(out, "<p>Its template redirects to <a href=\"/~/address?address={}\">{}</a>.</p>\n", in_query(to), to);
    } else if answered.status != request.status {
        // A template can turn its answer into an error's, which has a ladder of its own.
        put!(out, "<p>It answers with {}:</p>\n", answered.status);
        let failed = asked.world.resolve(Request::error(&request.address, answered.status, None));
        put!(out, "{}", explained(&asked.world.explain(&failed, Status::of_page(&answered))));
    }
    out
}

/// The style sheets and scripts that a page links to, in their order.
fn links(links: &[LinkedAsset]) -> Markup {
    let mut out = Markup::new();
    for (kind, word) in [(AssetKind::Styles, "Styles"), (AssetKind::Scripts, "Scripts")] {
        let of_kind: Vec<&LinkedAsset> = links.iter().filter(|link| link.kind == kind).collect();
        if of_kind.is_empty() {
            continue;
        }
        put!(out, "<p>{} that files request, in the order in which they are linked:</p>\n<ol>\n", word);
        for link in of_kind {
            put!(
                out,
                "<li><code>{}</code> <span class=\"faint\">by {}</span></li>\n",
                link.path,
                file_link(&link.by, None)
            );
        }
        put!(out, "</ol>\n");
    }
    out
}

fn explained(answer: &Explanation) -> Markup {
    let mut out = Markup::new();
    put!(out, "<p>{} <span class=\"faint\">{}</span></p>\n", answer.subject, answer.status.code);
    put!(
        out,
        "<div class=\"scroll\" tabindex=\"0\" role=\"region\" aria-label=\"Ladder\">\n<table class=\"ladder\">\n<thead><tr><th>Rung</th>"
    );
    for theme in &answer.themes {
        put!(out, "<th>{}</th>", theme);
    }
    put!(out, "</tr></thead>\n<tbody>\n");
    for rung in &answer.rungs {
        put!(
            out,
            "<tr{}><th scope=\"row\"><code>{}</code></th>",
            Markup::raw(if rung.renders() { " class=\"wins\"" } else { "" }),
            rung.name
        );
        for theme in 0..answer.themes.len() {
            match rung.of_theme(theme) {
                Some((file, state)) => {
                    let (sign, words) = match state {
                        FileState::Renders => ("■", "renders"),
                        FileState::PassedOver => ("□", "passed over"),
                        FileState::Covered => ("□", "covered"),
                        FileState::Hidden => ("×", "hidden"),
                        FileState::Unfit => ("!", "does not fit"),
                    };
                    put!(out, "<td>{} {}</td>", sign, file_link(&file.path, None).named(words));
                }
                None => put!(out, "<td class=\"faint\">·</td>"),
            }
        }
        put!(out, "</tr>\n");
    }
    put!(out, "</tbody>\n</table>\n</div>\n<dl>\n");
    files(&mut out, answer);
    put!(out, "</dl>\n");
    for note in &answer.notes {
        put!(out, "<p class=\"note\">{}</p>\n", note.text);
    }
    if answer.is_missing {
        put!(out, "<p>The nearest addresses that exist:</p>\n<ul>\n");
        for (address, title) in &answer.nearest {
            put!(out, "<li><a href=\"{}\">{}</a> {}</li>\n", encoded(address), address, title);
        }
        put!(out, "</ul>\n");
    }
    if !answer.next.is_empty() {
        put!(out, "<dl class=\"next\">\n");
        for step in &answer.next {
            put!(out, "<dt>To change {}</dt><dd><code>{}</code></dd>\n", step.changes, typed(&step.command));
        }
        put!(out, "</dl>\n");
    }
    out
}

/// The files that make the answer.
fn files(out: &mut Markup, answer: &Explanation) {
    fn link(file: &FileRef) -> FileLink<'_> {
        file_link(&file.path, None)
    }
    match &answer.renders {
        Renders::Template(file) => put!(out, "<dt>Renders</dt><dd>{}</dd>\n", link(file)),
        Renders::BuiltInFeed | Renders::BuiltInFile | Renders::BuiltInPage => {
            put!(out, "<dt>Renders</dt><dd>what is built in</dd>\n");
        }
        Renders::Nothing => put!(out, "<dt>Renders</dt><dd>nothing</dd>\n"),
    }
    for file in &answer.extends {
        put!(out, "<dt>Extends</dt><dd>{}</dd>\n", link(file));
    }
    match &answer.layout {
        ExplainedLayout::Files(files) => {
            for (file, extended) in files {
                put!(out, "<dt>Inside</dt><dd>{}</dd>\n", link(file));
                for next in extended {
                    put!(out, "<dt>Extends</dt><dd>{}</dd>\n", link(next));
                }
            }
        }
        ExplainedLayout::Missing(name) => put!(out, "<dt>Inside</dt><dd>{}, which does not exist</dd>\n", name),
        ExplainedLayout::None => {}
    }
    if !answer.uses.is_empty() {
        put!(out, "<dt>Uses</dt><dd>");
        for (at, used) in answer.uses.iter().enumerate() {
            let words = if used.what == Used::Partial { "" } else { used.what.word() };
            put!(
                out,
                "{}{} {}",
                if at > 0 { ", " } else { "" },
                words,
                file_link(&used.file.path, None).named(&used.name)
            );
        }
        put!(out, "</dd>\n");
    }
}

/// Which file made which part of the page.
fn parts(asked: &PageRequest<'_>) -> Markup {
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

fn nested(out: &mut Markup, parts: &[OutlinePart]) {
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
pub fn values(asked: &PageRequest<'_>) -> Markup {
    let mut out = Markup::new();
    let Routed::Request(request) = route(asked) else { return out };
    let resolution = asked.world.resolve(request);
    match values::all(asked.world, &resolution, Detail { depth: 3, members: 40, characters: 200 }) {
        Err(problems) => put!(out, "{}", shown::list(&asked.moment.snapshot, &problems.iter().collect::<Vec<_>>())),
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
pub fn problems(asked: &PageRequest<'_>) -> Markup {
    let mut out = Markup::new();
    let mut found: Vec<Diagnostic> = asked.moment.notices();
    if let Routed::Request(request) = route(asked) {
        let resolution = asked.world.resolve(request.clone());
        found.extend(asked.world.problems_of(&resolution).into_iter().cloned());
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
