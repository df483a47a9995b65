//! The menus: what each item leads to, and items added, renamed, put in another order and taken out.

use hausblatt_core::change::edit::Edit;
use hausblatt_core::change::set::{Assignment, SetTarget};
use hausblatt_core::text::data::{Data, DataValue, Entry, yaml};
use hausblatt_core::text::data_change::found;

use crate::html::{Exact, Markup, in_query};
use crate::put;
use crate::serve::edits;
use crate::serve::workbench::compared::{Comparison, LIVE, Member, address_to_look_at, hidden};
use crate::serve::workbench::content::changed;
use crate::serve::workbench::{PageRequest, WorkbenchPage};
use hausblatt_core::schema::fields::FieldType;

/// Where menus are.
pub const PART: &str = "/~/menus";
/// So many references are offered.
const OFFERED: usize = 300;

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    put!(
        main,
        "<h1>Menus</h1>\n<p class=\"lead\">The items in their order, with what each leads to. A change is shown on the page beside it before you keep it.</p>\n"
    );
    let at = address_to_look_at(asked.query.get("at")).unwrap_or_else(|| "/".to_owned());
    let back = format!("{PART}?at={}", in_query(&at));
    let entries = SetTarget::Site.entries(asked.world);
    let menus = entries.iter().find(|entry| &*entry.key == "menus").and_then(|entry| entry.data.as_map());
    let edit = edit(asked, &entries);
    put!(main, "<div class=\"sides\">\n<div>\n");
    put!(main, "{}", form(asked, &entries, &at));
    match menus {
        None => put!(
            main,
            "<p><code>menus.main</code> is the pages that are in lists, since <code>hausblatt.toml</code> has no <code>[menus]</code>. A first item that you add replaces it.</p>\n{}",
            adder(asked, "main", &[], &at)
        ),
        Some(menus) => {
            for menu in menus {
                put!(main, "<h2>{}</h2>\n", &*menu.key);
                let key = format!("menus.{}", menu.key);
                let items = menu.data.as_list().unwrap_or_default();
                put!(main, "{}{}", list(asked, &key, items, &at), adder(asked, &menu.key, items, &at));
            }
        }
    }
    put!(main, "</div>\n<div>\n");
    put!(main, "{}", Comparison { edit: edit.as_ref(), at: &at, back: &back, frames: true }.html(asked));
    put!(main, "</div>\n</div>\n");
    WorkbenchPage { title: "Menus", here: PART, main, wide: true }
}

/// What the address says is changed.
fn edit(asked: &PageRequest<'_>, entries: &[Entry]) -> Option<Edit> {
    if let Ok(Some(edit)) = edits::read(asked.world, &asked.query.0) {
        return Some(edit);
    }
    let (to, label) = (asked.query.get("to").trim(), asked.query.get("label").trim());
    let key = asked.query.get("change");
    if !key.is_empty() {
        let of = |name: &str| steps(&format!("{key}.{name}"));
        let now = |name: &str| found(entries, &of(name)).and_then(Data::as_text).map(str::to_owned);
        let one = |name: &str, value: &str| {
            asked
                .query
                .has(name)
                .then(|| changed(&format!("{key}.{name}"), now(name).as_deref(), "", value, &FieldType::Text))?
        };
        let assignments: Vec<Assignment> = [one("to", to), one("label", label)].into_iter().flatten().collect();
        return (!assignments.is_empty()).then_some(Edit::Set(SetTarget::Site, assignments));
    }
    let menu = asked.query.get("add");
    if menu.is_empty() || to.is_empty() {
        return None;
    }
    let place = match asked.query.get("where") {
        "" => format!("menus.{menu}"),
        place => match place.strip_prefix("below-") {
            Some(number) => format!("menus.{menu}.{number}.children"),
            None => format!("menus.{menu}.{place}"),
        },
    };
    let value = match label {
        "" => format!("{{ to: {} }}", yaml(to)),
        label => format!("{{ to: {}, label: {} }}", yaml(to), yaml(label)),
    };
    Some(Edit::Set(SetTarget::Site, vec![Assignment::Add(place, value)]))
}

fn steps(key: &str) -> Vec<String> {
    key.split('.').map(str::to_owned).collect()
}

fn text_of<'d>(item: &'d Data, key: &str) -> Option<&'d str> {
    let keys = item.as_map().unwrap_or_default();
    keys.iter().find(|entry| &*entry.key == key).and_then(|entry| entry.data.as_text())
}

/// The items of a menu, those below each in a list of their own.
fn list(asked: &PageRequest<'_>, key: &str, items: &[Data], at: &str) -> Markup {
    let mut out = Markup::new();
    if items.is_empty() {
        put!(out, "<p class=\"faint\">It has no items.</p>\n");
        return out;
    }
    put!(out, "<ol class=\"items\">\n");
    for (number, item) in (1..).zip(items) {
        let own = format!("{key}.{number}");
        put!(out, "{}", row(asked, &own, item, number, items.len(), at));
        let below = item.as_map().unwrap_or_default().iter().find(|entry| &*entry.key == "children");
        if let Some(DataValue::List(children)) = below.map(|entry| &entry.data.value) {
            put!(out, "{}", list(asked, &format!("{own}.children"), children, at));
        }
        put!(out, "</li>\n");
    }
    put!(out, "</ol>\n");
    out
}

/// An item with what can be done to it; its end tag is still to come.
fn row(asked: &PageRequest<'_>, key: &str, item: &Data, number: usize, count: usize, at: &str) -> Markup {
    let world = asked.world;
    let mut out = Markup::new();
    let to = text_of(item, "to").unwrap_or("");
    let found = if to.starts_with('/') { Some(to.to_owned()) } else { world.site.address_of(to) };
    let label = label_of(asked, item);
    put!(out, "<li><strong>{}</strong> <code>{}</code>", label, to);
    match &found {
        Some(address) => {
            put!(out, " → <a href=\"/~/address?address={}\">{}</a>", in_query(address), address);
        }
        None if to.contains("://") || to.starts_with("mailto:") => {
            put!(out, " <span class=\"faint\">out of the site</span>")
        }
        None => put!(out, " <b class=\"error\">leads to nothing</b>"),
    }
    let link = |assignment: Assignment| {
        let pairs = edits::pairs(world, &Edit::Set(SetTarget::Site, vec![assignment]));
        format!("{PART}?at={}&{}", in_query(at), edits::query(&pairs))
    };
    let change = format!("{PART}?at={}&change={}", in_query(at), in_query(key));
    let member = Member { key, position: (number, count), label: &label, change: &change };
    put!(out, "<br>{}\n", member.links(link));
    out
}

/// What an item is called: by itself, or as what it leads to.
fn label_of(asked: &PageRequest<'_>, item: &Data) -> String {
    let to = text_of(item, "to").unwrap_or("");
    if let Some(label) = text_of(item, "label") {
        return label.to_owned();
    }
    let title = || to.starts_with('/').then(|| title_at(asked, to));
    asked.world.site.label_of(to).or_else(title).unwrap_or_else(|| to.to_owned())
}

/// What is at an address, as menus call it.
fn title_at(asked: &PageRequest<'_>, address: &str) -> String {
    let contents = asked.world.site.contents.iter();
    let page =
        contents.filter(|content| content.address.as_deref() == Some(address)).map(|content| &content.title).next();
    page.map_or_else(|| address.to_owned(), |title| title.to_string())
}

/// The form that changes an item, where one is being changed.
fn form(asked: &PageRequest<'_>, entries: &[Entry], at: &str) -> Markup {
    let mut out = Markup::new();
    let key = asked.query.get("change");
    let Some(item) = (!key.is_empty()).then(|| found(entries, &steps(key))).flatten() else { return out };
    let value = |name: &str| match asked.query.has(name) {
        true => asked.query.get(name).to_owned(),
        false => text_of(item, name).unwrap_or("").to_owned(),
    };
    put!(
        out,
        "<h2>Change an item</h2>\n<form action=\"{}\" data-live=\"{}\" class=\"fields\">\n{}",
        PART,
        LIVE,
        hidden([("at", at), ("change", key)].into_iter())
    );
    put!(out, "{}", controls(asked, "change", &value("to"), &value("label")));
    put!(out, "<p><button>Show</button> <a href=\"{}?at={}\">Leave it</a></p>\n</form>\n", PART, in_query(at));
    out
}

/// The form that adds an item.
fn adder(asked: &PageRequest<'_>, menu: &str, items: &[Data], at: &str) -> Markup {
    let mut out = Markup::new();
    let is_this = asked.query.get("add") == menu;
    let value = |name: &str| if is_this { asked.query.get(name).to_owned() } else { String::new() };
    put!(
        out,
        "<details{}><summary>Add an item to {}</summary>\n<form action=\"{}\" data-live=\"{}\" class=\"fields\">\n{}",
        Markup::raw(if is_this { " open" } else { "" }),
        menu,
        PART,
        LIVE,
        hidden([("at", at), ("add", menu)].into_iter())
    );
    put!(out, "{}", controls(asked, menu, &value("to"), &value("label")));
    put!(
        out,
        "<div class=\"field\"><label for=\"where-{}\">Where</label>\n<select id=\"where-{}\" name=\"where\"><option value=\"\">at the end</option>",
        menu,
        menu
    );
    let mut option = |place: String, words: String| {
        let selected = Markup::raw(if value("where") == place { " selected" } else { "" });
        put!(out, "<option value=\"{}\"{}>{}</option>", place, selected, words);
    };
    for (number, item) in (1..).zip(items) {
        let label = label_of(asked, item);
        option(number.to_string(), format!("before {label}"));
        option(format!("below-{number}"), format!("below {label}"));
    }
    put!(out, "</select></div>\n<p><button>Show</button></p>\n</form>\n</details>\n");
    out
}

/// The controls of an item: what it leads to, and what it is called.
fn controls(asked: &PageRequest<'_>, of: &str, to: &str, label: &str) -> Markup {
    let mut out = Markup::new();
    put!(
        out,
        "<div class=\"field\"><label for=\"to-{}\">Leads to <span class=\"faint\">a reference or an address</span></label>\n\
         <input id=\"to-{}\" name=\"to\" value=\"{}\" list=\"to-{}-list\" placeholder=\"page:visit\"><datalist id=\"to-{}-list\">",
        of,
        of,
        Exact(to),
        of,
        of
    );
    for reference in asked.world.site.references().take(OFFERED) {
        put!(out, "<option value=\"{}\"></option>", reference);
    }
    put!(
        out,
        "</datalist></div>\n<div class=\"field\"><label for=\"label-{}\">Called <span class=\"faint\">empty: the title of what it leads to</span></label>\n\
         <input id=\"label-{}\" name=\"label\" value=\"{}\"></div>\n",
        of,
        of,
        Exact(label)
    );
    out
}
