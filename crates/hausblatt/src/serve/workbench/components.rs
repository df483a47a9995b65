//! Components alone, with a form of their fields.

use hausblatt_core::render::page::{ComponentPreview, component_alone};
use hausblatt_core::schema::fields::{Field, FieldType};
use hausblatt_core::themes::component::Component;
use hausblatt_lang::render::Shows;
use hausblatt_lang::value::datum::Datum;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::answers::{By, MadePage};
use crate::serve::problem_page::{self, file_link};
use crate::serve::workbench::{PageRequest, WorkbenchPage};

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
    for (name, value) in given(asked, chosen) {
        address.push_str(&format!("&{}={}", in_query(&name), in_query(&value)));
    }
    put!(main, "</div>\n<iframe id=\"preview\" src=\"{}\" title=\"{}\"></iframe>\n</div>\n", address, chosen.label);
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
        "<form action=\"/~/components\" data-live=\"preview\" class=\"fields\">\n<input type=\"hidden\" name=\"component\" value=\"{}\">\n",
        component.name
    );
    for field in &component.fields {
        put!(out, "{}", control(asked, field));
    }
    put!(
        out,
        "<p><button>Show</button> <a href=\"/~/components?component={}\">As declared</a></p>\n</form>\n",
        in_query(&component.name)
    );
    out
}

/// A form's control for a field.
fn control(asked: &PageRequest<'_>, field: &Field) -> Markup {
    let mut out = Markup::new();
    let name = in_form(&field.name);
    let value = match asked.query.0.iter().find(|(other, _)| *other == name) {
        Some((_, value)) => value.clone(),
        None => written(&field.default),
    };
    let label = field.label.as_ref().unwrap_or(&field.name);
    put!(out, "<p><label for=\"{}\">{} <span class=\"faint\">{}</span></label>\n", name, label, field.of.word());
    match &field.of {
        FieldType::Rich => put!(out, "<textarea id=\"{}\" name=\"{}\" rows=\"5\">\n{}</textarea>", name, name, value),
        FieldType::YesNo => put!(out, "{}", select(&name, &value, &["false".to_owned(), "true".to_owned()])),
        FieldType::Choice(choices) => put!(out, "{}", select(&name, &value, choices)),
        FieldType::Number(..) => {
            put!(out, "<input id=\"{}\" name=\"{}\" inputmode=\"decimal\" value=\"{}\">", name, name, value)
        }
        FieldType::List(_) | FieldType::Group(_) => put!(
            out,
            "<input id=\"{}\" name=\"{}\" value=\"{}\" placeholder=\"[one, two], as in front matter\">",
            name,
            name,
            value
        ),
        FieldType::Image => {
            put!(out, "<input id=\"{}\" name=\"{}\" value=\"{}\" placeholder=\"/media/…\">", name, name, value)
        }
        FieldType::Page | FieldType::Entry(_) => {
            put!(out, "<input id=\"{}\" name=\"{}\" value=\"{}\" placeholder=\"its id\">", name, name, value)
        }
        _ => put!(out, "<input id=\"{}\" name=\"{}\" value=\"{}\">", name, name, value),
    }
    put!(out, "</p>\n");
    out
}

fn select(name: &str, value: &str, choices: &[String]) -> Markup {
    let mut out = Markup::new();
    put!(out, "<select id=\"{}\" name=\"{}\"><option value=\"\"></option>", name, name);
    for choice in choices {
        let selected = Markup::raw(if choice == value { " selected" } else { "" });
        put!(out, "<option{}>{}</option>", selected, choice);
    }
    put!(out, "</select>");
    out
}

/// A field's name in a form, where "component" is the component's own.
fn in_form(name: &str) -> String {
    format!("field-{name}")
}

/// A default as it would be typed; empty where that takes more than a word.
fn written(value: &Datum) -> String {
    match value {
        Datum::Text(text) => text.to_string(),
        Datum::Int(number) => number.to_string(),
        Datum::Float(number) => number.to_string(),
        Datum::Bool(truth) => truth.to_string(),
        _ => String::new(),
    }
}

/// The values that the address gives for fields. An empty one counts only where the default is a text.
fn given(asked: &PageRequest<'_>, component: &Component) -> Vec<(String, String)> {
    let value = |field: &Field| {
        let name = in_form(&field.name);
        let (_, value) = asked.query.0.iter().find(|(other, _)| *other == name)?;
        let is_said = !value.is_empty() || matches!(field.default, Datum::Text(_));
        is_said.then(|| (name, value.clone()))
    };
    component.fields.iter().filter_map(value).collect()
}

/// A component alone, inside the site's document if there is one.
pub fn preview(asked: &PageRequest<'_>) -> MadePage {
    let name = asked.query.get("component").to_owned();
    let set: Vec<(String, String)> = match asked.world.components.iter().find(|component| component.name == name) {
        Some(component) => given(asked, component),
        None => Vec::new(),
    };
    let set = set.into_iter().map(|(name, value)| (name["field-".len()..].to_owned(), value)).collect();
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
