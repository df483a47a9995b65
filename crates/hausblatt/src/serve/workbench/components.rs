//! Components alone, with a form of their fields; placed on a page, or copied as front matter.

use std::collections::BTreeSet;

use hausblatt_core::render::page::{ComponentPreview, component_alone};
use hausblatt_core::schema::fields::Field;
use hausblatt_core::themes::component::Component;
use hausblatt_lang::render::Shows;
use hausblatt_lang::value::datum::Datum;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::answers::{By, MadePage};
use crate::serve::problem_page::{self, file_link};
use crate::serve::workbench::compared::hidden;
use crate::serve::workbench::controls::given;
use crate::serve::workbench::widths::WIDTHS;
use crate::serve::workbench::{PageRequest, WorkbenchPage, trays};

/// So many pages and entries are offered to place it in.
const CONTENTS: usize = 300;

/// Where a component is shown alone.
pub const PREVIEW: &str = "/~/preview";

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    put!(main, "<h1>Components</h1>\n");
    let components = &asked.world.components;
    let name = asked.query.get("component");
    let Some(chosen) = components.iter().find(|component| component.name == name).or(components.first()) else {
        put!(
            main,
            "<p>No theme of the lineage has a component. Create one with <code>hausblatt start component NAME</code>.</p>\n"
        );
        return WorkbenchPage { title: "Components", here: "/~/components", main, wide: false };
    };
    put!(main, "<nav aria-label=\"Components\" class=\"choice\"><ul>\n");
    for component in components {
        let current = Markup::raw(if component.name == chosen.name { " aria-current=\"page\"" } else { "" });
        put!(
            main,
            "<li><a href=\"/~/components?component={}\"{}>{}</a></li>\n",
            in_query(&component.name),
            current,
            component.label
        );
    }
    put!(main, "</ul></nav>\n<div class=\"component\">\n<div>\n<h2>{}</h2>\n", chosen.label);
    if let Some(about) = &chosen.about {
        put!(main, "<p>{}</p>\n", about);
    }
    if let Some(id) = asked.world.lineage.nearest(&format!("components/{}/component.html", chosen.name)) {
        put!(main, "<p>{}</p>\n", file_link(&asked.world.lineage.file(id).node.path, None));
    }
    put!(main, "{}", form(asked, chosen));
    let mut address = format!("{PREVIEW}?component={}", in_query(&chosen.name));
    for (name, value) in values(asked, chosen) {
        address.push_str(&format!("&field.{}={}", in_query(&name), in_query(&value)));
    }
    put!(
        main,
        "{}{}</div>\n<div class=\"widths\" tabindex=\"0\" role=\"region\" aria-label=\"The component at three widths\">\n",
        yaml(asked, chosen),
        placer(asked, chosen)
    );
    for width in WIDTHS {
        put!(
            main,
            "<figure class=\"width w{}\"><figcaption>{} px</figcaption><div><iframe id=\"preview-{}\" src=\"{}\" title=\"{}, {} px wide\"></iframe></div></figure>\n",
            width,
            width,
            width,
            address,
            chosen.label,
            width
        );
    }
    put!(main, "</div>\n</div>\n");
    WorkbenchPage { title: "Components", here: "/~/components", main, wide: true }
}

fn form(asked: &PageRequest<'_>, component: &Component) -> Markup {
    let mut out = Markup::new();
    if component.fields.is_empty() {
        put!(out, "<p>It has no fields.</p>\n");
        return out;
    }
    put!(
        out,
        "<form action=\"/~/components\" data-live=\"preview-360 preview-768 preview-1280 yaml place\" class=\"fields\">\n<input type=\"hidden\" name=\"component\" value=\"{}\">\n",
        component.name
    );
    for field in &component.fields {
        put!(out, "<div class=\"field\">\n{}</div>\n", trays::control(asked, field, None));
    }
    put!(
        out,
        "<p><button>Show</button> <a href=\"/~/components?component={}\">As declared</a></p>\n</form>\n",
        in_query(&component.name)
    );
    out
}

/// The values that the address gives for fields. An empty one counts only where the default is a text.
fn values(asked: &PageRequest<'_>, component: &Component) -> Vec<(String, String)> {
    let value = |field: &Field| {
        let value = given(&asked.query.0, &trays::in_form(field), &field.of)?;
        let is_said = !value.is_empty() || matches!(field.default, Datum::Text(_));
        is_said.then(|| (field.name.clone(), value))
    };
    component.fields.iter().filter_map(value).collect()
}

/// What front matter says to place it, ready to copy.
fn yaml(asked: &PageRequest<'_>, component: &Component) -> Markup {
    let mut out = Markup::new();
    put!(out, "<div id=\"yaml\">\n<h3>In front matter</h3>\n");
    match trays::placed(asked, component).map(|value| trays::as_lines(&value)) {
        Ok(lines) => put!(
            out,
            "<pre class=\"source\" tabindex=\"0\">{}</pre>\n<button type=\"button\" class=\"quiet\" data-copy=\"yaml\" data-script hidden>Copy</button>\n",
            lines
        ),
        Err(why) => put!(out, "<p class=\"field-problem\"><b class=\"error\">error</b> {}</p>\n", why),
    }
    put!(out, "</div>\n");
    out
}

/// The form that places it, with these values, in a tray of some content.
fn placer(asked: &PageRequest<'_>, component: &Component) -> Markup {
    let mut out = Markup::new();
    let world = asked.world;
    let own = asked.query.0.iter().filter(|(name, _)| name.starts_with("field."));
    put!(out, "<form id=\"place\" action=\"{}\" class=\"fields\">\n<h3>Place it</h3>\n", trays::PART);
    put!(out, "{}", hidden([("component", component.name.as_str())].into_iter()));
    put!(out, "{}", hidden(own.map(|(name, value)| (name.as_str(), value.as_str()))));
    put!(
        out,
        "<div class=\"field\"><label for=\"place-path\">In</label>\n<input id=\"place-path\" name=\"path\" list=\"place-paths\" required placeholder=\"content/pages/visit.md\"><datalist id=\"place-paths\">"
    );
    for content in world.site.contents.iter().take(CONTENTS) {
        put!(out, "<option value=\"{}\">{}</option>", **content.path(), &*content.title);
    }
    let programs = world.lineage.ids().filter_map(|(id, _)| world.program(id));
    let trays: BTreeSet<&str> = programs.flat_map(|program| program.trays.iter().map(String::as_str)).collect();
    put!(
        out,
        "</datalist></div>\n<div class=\"field\"><label for=\"place-tray\">Tray</label>\n<input id=\"place-tray\" name=\"tray\" list=\"place-trays\" required value=\"{}\"><datalist id=\"place-trays\">",
        trays.iter().next().copied().unwrap_or("")
    );
    for tray in trays {
        put!(out, "<option value=\"{}\"></option>", tray);
    }
    put!(out, "</datalist></div>\n<p><button>See it there</button></p>\n</form>\n");
    out
}

/// A component alone, inside the site's document if there is one.
pub fn preview(asked: &PageRequest<'_>) -> MadePage {
    let name = asked.query.get("component").to_owned();
    let set: Vec<(String, String)> = match asked.world.components.iter().find(|component| component.name == name) {
        Some(component) => values(asked, component),
        None => Vec::new(),
    };
    let has_document = asked.world.lineage.nearest("layouts/document.html").is_some();
    let alone = ComponentPreview { name, set, document: has_document };
    let (status, text, by) =
        match component_alone(asked.world, &alone, Shows { dumps: true, marks: false, ..Shows::default() }) {
            Ok(page) => (200, page.text, By::BuiltIn("component")),
            Err(found) => {
                (500, problem_page::page(&asked.moment.snapshot, PREVIEW, 500, &found), By::BuiltIn("problems"))
            }
        };
    MadePage {
        status,
        media: "text/html; charset=utf-8".into(),
        text,
        published: None,
        location: None,
        by,
        is_missed: false,
        problems: 0,
    }
}
