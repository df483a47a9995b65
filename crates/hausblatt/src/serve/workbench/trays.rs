//! The trays of some content: components placed in them, changed, put in another order and taken out.

use hausblatt_core::analysis::content_refs::trays_of;
use hausblatt_core::change::edit::Edit;
use hausblatt_core::change::set::{Assignment, SetTarget, data_of};
use hausblatt_core::model::content::ContentId;
use hausblatt_core::schema::fields::{Field, FieldType};
use hausblatt_core::text::data::{Data, DataValue, Entry};
use hausblatt_core::text::data_change::found;
use hausblatt_core::text::front::{self, one_line};
use hausblatt_core::themes::component::Component;
use hausblatt_core::world::World;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::edits::{self, Pairs};
use crate::serve::workbench::compared::{Comparison, LIVE, Member, hidden, refused};
use crate::serve::workbench::content::{changed, truth, typed_at};
use crate::serve::workbench::controls::{Control, given, typed_datum};
use crate::serve::workbench::{PageRequest, WorkbenchPage};

/// Where trays are.
pub const PART: &str = "/~/trays";

/// What is done to a tray here.
enum Doing<'w> {
    /// Nothing yet.
    Looking,
    /// A component is placed: in a tray, at its end or before a position.
    Placing(&'w Component, String),
    /// A placed component gets other values; its key.
    Changing(&'w Component, String),
    /// An edit that a link makes: moved, or taken out.
    Made(Edit),
}

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let world = asked.world;
    let mut main = Markup::new();
    let path = asked.query.get("path");
    let id = match edits::content(world, path) {
        Ok(id) => id,
        Err(why) => {
            put!(main, "<h1>Nothing is here</h1>\n<p>{}.</p>\n<p><a href=\"/~/\">All addresses</a></p>\n", why);
            return WorkbenchPage { title: "Trays", here: "/~/", main, wide: false };
        }
    };
    let content = world.site.content(id);
    let back = format!("{PART}?path={}", in_query(path));
    put!(
        main,
        "<h1>Trays of {}</h1>\n<p class=\"lead\"><code>{}</code></p>\n<p><a href=\"/~/content?path={}\">Its fields</a></p>\n",
        &*content.title,
        path,
        in_query(path)
    );
    if let Some(problem) = SetTarget::Content(id).problem(world) {
        put!(main, "{}", refused(asked, &[problem]));
        return WorkbenchPage { title: "Trays", here: "/~/", main, wide: false };
    }
    let doing = doing(asked, id);
    let (edit, wrong) = match &doing {
        Doing::Looking => (None, None),
        Doing::Made(edit) => (Some(edit.clone()), None),
        Doing::Placing(component, key) => match placed(asked, component) {
            Ok(value) => (Some(Edit::Set(SetTarget::Content(id), vec![Assignment::Add(key.clone(), value)])), None),
            Err(why) => (None, Some(why)),
        },
        Doing::Changing(component, key) => (changes(asked, id, component, key), None),
    };
    put!(main, "<div class=\"sides\">\n<div>\n");
    match &doing {
        Doing::Placing(component, key) => put!(main, "{}", form(asked, id, component, key, true)),
        Doing::Changing(component, key) => put!(main, "{}", form(asked, id, component, key, false)),
        Doing::Looking | Doing::Made(_) => {}
    }
    put!(main, "{}", lists(asked, id));
    put!(main, "</div>\n<div>\n<div id=\"wrong\">");
    if let Some(why) = wrong {
        put!(main, "<p class=\"field-problem\"><b class=\"error\">error</b> {}</p>", why);
    }
    put!(main, "</div>\n");
    let at = content.address.as_deref();
    put!(
        main,
        "{}",
        Comparison { edit: edit.as_ref(), at: at.unwrap_or("/"), back: &back, frames: at.is_some() }.html(asked)
    );
    put!(main, "</div>\n</div>\n");
    WorkbenchPage { title: "Trays", here: "/~/", main, wide: true }
}

/// What the address says is done.
fn doing<'w>(asked: &PageRequest<'w>, id: ContentId) -> Doing<'w> {
    let world = asked.world;
    let component = |name: &str| world.components.iter().find(|component| component.name == name);
    if let Ok(Some(edit)) = edits::read(world, &asked.query.0) {
        return Doing::Made(edit);
    }
    let (tray, key) = (asked.query.get("tray"), asked.query.get("change"));
    if !key.is_empty() {
        let steps: Vec<String> = format!("{key}.component").split('.').map(str::to_owned).collect();
        let name = typed_at(&SetTarget::Content(id).entries(world), &steps);
        return match name.as_deref().and_then(component) {
            Some(component) => Doing::Changing(component, key.to_owned()),
            None => Doing::Looking,
        };
    }
    match component(asked.query.get("component")) {
        Some(component) if !tray.is_empty() => {
            let before = asked.query.get("before");
            let place = if before.is_empty() { format!("trays.{tray}") } else { format!("trays.{tray}.{before}") };
            Doing::Placing(component, place)
        }
        _ => Doing::Looking,
    }
}

/// A field's name in a form.
pub(super) fn in_form(field: &Field) -> String {
    format!("field.{}", field.name)
}

/// What is placed: the component with the values that the form gives, where they are others than its defaults.
pub(super) fn placed(asked: &PageRequest<'_>, component: &Component) -> Result<String, String> {
    let mut entries = vec![entry("component", DataValue::Text(component.name.as_str().into()))];
    for field in &component.fields {
        let Some(value) = given(&asked.query.0, &in_form(field), &field.of) else { continue };
        let default = typed_datum(&field.default);
        if !matches!(changed(&field.name, None, &default, &value, &field.of), Some(Assignment::Set(..))) {
            continue;
        }
        let label = field.label.as_ref().unwrap_or(&field.name);
        let data = data_of(asked.world, Some(&field.of), None, &value).map_err(|why| format!("{label}: {why}"))?;
        entries.push(Entry { key: field.name.as_str().into(), span: Default::default(), data });
    }
    Ok(one_line(&Data { span: Default::default(), value: DataValue::Map(entries) }))
}

/// A component in one line as lines of front matter.
pub(super) fn as_lines(value: &str) -> String {
    front::yaml(value).map(|data| front::list_item(&data)).unwrap_or_default()
}

fn entry(key: &str, value: DataValue) -> Entry {
    Entry { key: key.into(), span: Default::default(), data: Data { span: Default::default(), value } }
}

/// What the form changes of a placed component.
fn changes(asked: &PageRequest<'_>, id: ContentId, component: &Component, key: &str) -> Option<Edit> {
    let entries = SetTarget::Content(id).entries(asked.world);
    let one = |field: &Field| {
        let value = given(&asked.query.0, &in_form(field), &field.of)?;
        let of_field = format!("{key}.{}", field.name);
        let steps: Vec<String> = of_field.split('.').map(str::to_owned).collect();
        let now = typed_at(&entries, &steps);
        changed(&of_field, now.as_deref(), &typed_datum(&field.default), &value, &field.of)
    };
    let assignments: Vec<Assignment> = component.fields.iter().filter_map(one).collect();
    (!assignments.is_empty()).then_some(Edit::Set(SetTarget::Content(id), assignments))
}

/// The form of a component's fields, to place it or to change what is placed.
fn form(asked: &PageRequest<'_>, id: ContentId, component: &Component, key: &str, is_new: bool) -> Markup {
    let world = asked.world;
    let mut out = Markup::new();
    let path = asked.query.get("path");
    put!(
        out,
        "<h2>{} {}</h2>\n<form action=\"{}\" data-live=\"{} wrong\" class=\"fields\">\n",
        if is_new { "Place:" } else { "Change:" },
        component.label,
        PART,
        LIVE
    );
    let entries = SetTarget::Content(id).entries(world);
    match is_new {
        true => {
            let (tray, before) = (asked.query.get("tray"), asked.query.get("before"));
            put!(
                out,
                "{}",
                hidden([("path", path), ("component", component.name.as_str()), ("tray", tray)].into_iter())
            );
            let steps = ["trays".to_owned(), tray.to_owned()];
            let count = found(&entries, &steps).and_then(Data::as_list).map_or(0, <[Data]>::len);
            put!(
                out,
                "<div class=\"field\"><label for=\"before\">Where in {}</label>\n<select id=\"before\" name=\"before\"><option value=\"\">at its end</option>",
                tray
            );
            for number in 1..=count {
                let selected = Markup::raw(if before == number.to_string() { " selected" } else { "" });
                put!(out, "<option value=\"{}\"{}>before {}</option>", number, selected, number);
            }
            put!(out, "</select></div>\n");
        }
        false => put!(out, "{}", hidden([("path", path), ("change", key)].into_iter())),
    }
    for field in &component.fields {
        let of_field = format!("{key}.{}", field.name);
        let steps: Vec<String> = of_field.split('.').map(str::to_owned).collect();
        let now = if is_new { None } else { typed_at(&entries, &steps) };
        put!(out, "<div class=\"field\">\n{}</div>\n", control(asked, field, now.as_deref()));
    }
    if component.fields.is_empty() {
        put!(out, "<p>It has no fields.</p>\n");
    }
    put!(out, "<p><button>Show</button> <a href=\"{}?path={}\">Leave it</a></p>\n</form>\n", PART, in_query(path));
    out
}

/// The control of a component's field.
pub(super) fn control(asked: &PageRequest<'_>, field: &Field, now: Option<&str>) -> Markup {
    let name = in_form(field);
    let value = given(&asked.query.0, &name, &field.of)
        .or_else(|| now.map(str::to_owned))
        .unwrap_or_else(|| typed_datum(&field.default));
    let value = if field.of == FieldType::YesNo { truth(&value).to_owned() } else { value };
    let label = field.label.as_ref().unwrap_or(&field.name);
    Control { name: &name, label, of: &field.of, value: &value, is_optional: true, described_by: None }
        .html(asked.world)
}

/// Each tray with what is in it.
fn lists(asked: &PageRequest<'_>, id: ContentId) -> Markup {
    let world = asked.world;
    let mut out = Markup::new();
    let path = asked.query.get("path");
    let entries = SetTarget::Content(id).entries(world);
    let written = entries.iter().find(|entry| &*entry.key == "trays").and_then(|entry| entry.data.as_map());
    let mut names = trays_of(world, id);
    let printed = names.len();
    for entry in written.unwrap_or_default() {
        if !names.iter().any(|name| *name == *entry.key) {
            names.push(entry.key.to_string());
        }
    }
    if names.is_empty() {
        put!(
            out,
            "<p>No file that renders this page prints a tray. A template prints one with <code>+{{tray &quot;main&quot;}}</code>.</p>\n"
        );
    }
    for (at, tray) in names.iter().enumerate() {
        put!(out, "<h2>Tray {}</h2>\n", tray);
        if at >= printed {
            put!(out, "<p class=\"note\">No file that renders this page prints it.</p>\n");
        }
        let items = found(&entries, &["trays".to_owned(), tray.clone()]).and_then(Data::as_list).unwrap_or_default();
        if items.is_empty() {
            put!(out, "<p class=\"faint\">Nothing is in it.</p>\n");
        } else {
            put!(out, "<ol class=\"items\">\n");
            for (number, item) in (1..).zip(items) {
                put!(out, "{}", item_row(world, id, tray, number, items.len(), item, path));
            }
            put!(out, "</ol>\n");
        }
        put!(out, "{}", placer(world, path, tray));
    }
    out
}

fn item_row(world: &World, id: ContentId, tray: &str, number: usize, count: usize, item: &Data, path: &str) -> Markup {
    let mut out = Markup::new();
    let key = format!("trays.{tray}.{number}");
    let of = |name: &str| {
        let keys = item.as_map().unwrap_or_default();
        keys.iter().find(|entry| &*entry.key == name).and_then(|entry| entry.data.as_text())
    };
    let name = of("component").unwrap_or("?");
    let label = world.components.iter().find(|component| component.name == name).map_or(name, |it| it.label.as_str());
    put!(out, "<li><strong>{}</strong>", label);
    let first = item.as_map().unwrap_or_default().iter().find(|entry| &*entry.key != "component");
    if let Some(text) = first.and_then(|entry| entry.data.as_text()) {
        let short: String = text.chars().take(60).collect();
        put!(out, " <span class=\"faint\">{}{}</span>", short, if text.chars().count() > 60 { "…" } else { "" });
    }
    let link = |assignment: Assignment| {
        let pairs: Pairs = edits::pairs(world, &Edit::Set(SetTarget::Content(id), vec![assignment]));
        format!("{PART}?path={}&{}", in_query(path), edits::query(&pairs))
    };
    let change = format!("{PART}?path={}&change={}", in_query(path), in_query(&key));
    let label = format!("{label}, number {number}");
    let member = Member { key: &key, position: (number, count), label: &label, change: &change };
    put!(out, "<br>{}</li>\n", member.links(link));
    out
}

/// A form that begins to place a component in a tray.
fn placer(world: &World, path: &str, tray: &str) -> Markup {
    let mut out = Markup::new();
    if world.components.is_empty() {
        return out;
    }
    put!(
        out,
        "<form class=\"filter\" action=\"{}\">\n{}<p><label for=\"place-{}\">Place in {}</label> <select id=\"place-{}\" name=\"component\">",
        PART,
        hidden([("path", path), ("tray", tray)].into_iter()),
        tray,
        tray,
        tray
    );
    for component in &world.components {
        put!(out, "<option value=\"{}\">{}</option>", component.name, component.label);
    }
    put!(out, "</select></p>\n<p><button>Place</button></p>\n</form>\n");
    out
}
