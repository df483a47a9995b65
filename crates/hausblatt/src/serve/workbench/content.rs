//! Content at a glance: the front matter of a page or an entry as a form of the declared types, with what is wrong beside it.

use hausblatt_core::change::edit::Edit;
use hausblatt_core::change::set::{Assignment, SetTarget, edited, expected, fields_of};
use hausblatt_core::model::content::{Content, ContentId};
use hausblatt_core::schema::fields::FieldType;
use hausblatt_core::text::data::Data;
use hausblatt_core::text::data_change::found;
use hausblatt_core::text::names;
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::edits;
use crate::serve::workbench::compared::{Comparison, LIVE, hidden};
use crate::serve::workbench::controls::{Control, given, typed, typed_datum};
use crate::serve::workbench::{PageRequest, WorkbenchPage, trays};

/// Where content is.
pub const PART: &str = "/~/content";

/// A key as the form has it.
struct Key {
    name: String,
    label: String,
    of: FieldType,
    /// As it would be typed; none where the file does not have it.
    now: Option<String>,
    /// What counts where the file does not have it, as it would be typed.
    default: String,
    /// Where the file says it.
    span: Option<Span>,
}

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    let world = asked.world;
    let path = asked.query.get("path");
    let id = match edits::content(world, path) {
        Ok(id) => id,
        Err(why) => {
            put!(main, "<h1>Nothing is here</h1>\n<p>{}.</p>\n<p><a href=\"/~/\">All addresses</a></p>\n", why);
            return WorkbenchPage { title: "Content", here: "/~/", main, wide: false };
        }
    };
    let content = world.site.content(id);
    let back = format!("{PART}?path={}", in_query(path));
    put!(main, "<h1>{}</h1>\n", &*content.title);
    put!(main, "{}", links(asked, content));
    let keys = keys(world, id);
    let assignments = assignments(&keys, &asked.query.0);
    let edit = (!assignments.is_empty()).then(|| Edit::Set(SetTarget::Content(id), assignments.clone()));
    let problems = asked.server.checked.of_content(asked.moment, world, content);
    put!(
        main,
        "<div class=\"sides\">\n<div>\n<form action=\"{}\" data-live=\"{}{}\" class=\"fields\">\n{}",
        PART,
        LIVE,
        keys.iter().map(|key| format!(" {}", wrong_id(key))).collect::<String>(),
        hidden([("path", path)].into_iter())
    );
    for key in &keys {
        put!(main, "{}", row(asked, id, key, &problems));
    }
    put!(main, "<p><button>Show</button> <a href=\"{}\">As it is</a></p>\n</form>\n", back);
    let others: Vec<&Diagnostic> =
        problems.iter().filter(|problem: &&Diagnostic| !keys.iter().any(|key| is_about(problem, key.span))).collect();
    if !others.is_empty() {
        put!(main, "<h2>Also wrong in this file</h2>\n<ul class=\"field-problems\">\n");
        for problem in others {
            put!(main, "<li>{}</li>\n", in_line(problem));
        }
        put!(main, "</ul>\n");
    }
    put!(main, "</div>\n<div>\n");
    let at = content.address.as_deref();
    let frames = at.is_some();
    put!(main, "{}", Comparison { edit: edit.as_ref(), at: at.unwrap_or("/"), back: &back, frames }.html(asked));
    put!(main, "</div>\n</div>\n");
    WorkbenchPage { title: "Content", here: "/~/", main, wide: true }
}

fn links(asked: &PageRequest<'_>, content: &Content) -> Markup {
    let mut out = Markup::new();
    let path = &**content.path();
    put!(out, "<p class=\"lead\"><code>{}</code></p>\n<p>", path);
    match content.address.as_deref() {
        Some(address) => {
            put!(out, "<a href=\"/~/address?address={}\">Which file renders {}</a> · ", in_query(address), address)
        }
        None => {
            put!(out, "It has no address at the moment: it is a draft, waits for its date, or fills an error page. · ")
        }
    }
    put!(out, "<a href=\"{}?path={}\">Trays</a></p>\n", trays::PART, in_query(path));
    let line = content.node.text().map_or(1, |text| text[..content.body.min(text.len())].lines().count() + 1);
    put!(out, "{}", asked.opener(path, u32::try_from(line).unwrap_or(1)));
    out
}

/// The keys of the form: those with a meaning that the file has, then the declared ones.
fn keys(world: &World, id: ContentId) -> Vec<Key> {
    let content = world.site.content(id);
    let entries = &content.node.front().entries;
    let mut all: Vec<(String, Option<String>)> = Vec::new();
    for name in names::keys() {
        let is_usual = ["title", "summary"].contains(name);
        let is_there = entries.iter().any(|entry| &*entry.key == *name);
        if (is_usual || is_there) && !["trays", "template"].contains(name) {
            all.push(((*name).to_owned(), None));
        }
    }
    all.extend(fields_of(world, content).iter().map(|field| (field.name.clone(), field.label.clone())));
    let home = match world.site.collection_of(content) {
        Some(collection) => collection.config.name.text.clone(),
        None => "pages".to_owned(),
    };
    all.extend(world.site.config.taxonomies_of(&home).map(|it| (it.name.text.clone(), Some(it.label.clone()))));
    let key = |(name, label): (String, Option<String>)| {
        let of = expected(world, SetTarget::Content(id), std::slice::from_ref(&name))?;
        let entry = entries.iter().find(|entry| *entry.key == *name);
        let now = entry.map(|entry| typed(&entry.data));
        let span = entry.map(|entry| entry.span.to(entry.data.span));
        let default = fields_of(world, content).iter().find(|field| field.name == name);
        let default = default.map(|field| typed_datum(&field.default)).unwrap_or_default();
        Some(Key { default, label: label.unwrap_or_else(|| name.clone()), name, of, now, span })
    };
    all.into_iter().filter_map(key).collect()
}

/// A key's name in the form.
fn in_form(key: &str) -> String {
    format!("field.{key}")
}

/// What the form changes: keys whose value is another one than the file has.
fn assignments(keys: &[Key], pairs: &[(String, String)]) -> Vec<Assignment> {
    let one = |key: &Key| {
        let value = given(pairs, &in_form(&key.name), &key.of)?;
        changed(&key.name, key.now.as_deref(), &key.default, &value, &key.of)
    };
    keys.iter().filter_map(one).collect()
}

/// What makes a key's value another one; nothing where it is that already. `now` is what the file says, `default` what
/// counts where it says nothing.
pub(super) fn changed(key: &str, now: Option<&str>, default: &str, value: &str, of: &FieldType) -> Option<Assignment> {
    let is_switch = *of == FieldType::YesNo;
    let meaning = |text: &str| match truth(text) {
        // A switch that is off says what no value says, too.
        "" if is_switch => "false".to_owned(),
        truth if is_switch => truth.to_owned(),
        _ => text.to_owned(),
    };
    if meaning(now.unwrap_or(default)) == meaning(value) {
        return None;
    }
    let can_be_empty = matches!(of, FieldType::Text | FieldType::Rich) && !default.is_empty();
    match value.is_empty() && !can_be_empty {
        true => now.map(|_| Assignment::Clear(key.to_owned())),
        false => Some(Assignment::Set(key.to_owned(), value.to_owned())),
    }
}

/// A word of a switch as the truth that it is.
pub(super) fn truth(word: &str) -> &str {
    match word {
        "yes" => "true",
        "no" => "false",
        word => word,
    }
}

/// Whether a problem is about what is at a place in the same file.
fn is_about(problem: &Diagnostic, span: Option<Span>) -> bool {
    let place = problem.place.as_ref().map(|place| place.span.range());
    place.zip(span).is_some_and(|(place, span)| span.range().contains(&place.start))
}

fn in_line(problem: &Diagnostic) -> Markup {
    let mut out = Markup::new();
    let severity = if problem.is_error() { "error" } else { "warning" };
    put!(out, "<b class=\"{}\">{}</b> {}", severity, severity, problem.message);
    if let Some(help) = &problem.help {
        put!(out, " <span class=\"help\">→ {}</span>", help);
    }
    out
}

/// The id of what is said of the new value of a key.
fn wrong_id(key: &Key) -> String {
    format!("wrong-{}", key.name)
}

/// A key with its control, what is wrong with its value, and what would be wrong with the new one.
fn row(asked: &PageRequest<'_>, id: ContentId, key: &Key, problems: &[Diagnostic]) -> Markup {
    let mut out = Markup::new();
    let name = in_form(&key.name);
    let given = given(&asked.query.0, &name, &key.of);
    let now = key.now.as_deref().unwrap_or(&key.default);
    let value = given.as_deref().unwrap_or(if key.of == FieldType::YesNo { truth(now) } else { now });
    let about: Vec<&Diagnostic> = problems.iter().filter(|problem| is_about(problem, key.span)).collect();
    let noted = format!("{name}-problems");
    let wrong = wrong_id(key);
    let described_by = if about.is_empty() { wrong.clone() } else { format!("{noted} {wrong}") };
    let control = Control {
        name: &name,
        label: &key.label,
        of: &key.of,
        value,
        is_optional: true,
        described_by: Some(&described_by),
    };
    put!(out, "<div class=\"field\">\n{}", control.html(asked.world));
    if !about.is_empty() {
        put!(out, "<ul class=\"field-problems\" id=\"{}\">\n", noted);
        for problem in about {
            put!(out, "<li>{}</li>\n", in_line(problem));
        }
        put!(out, "</ul>\n");
    }
    put!(out, "<div id=\"{}\" class=\"field-problem\">", wrong);
    let new = given.and_then(|value| changed(&key.name, key.now.as_deref(), &key.default, &value, &key.of));
    if let Some(assignment) = new
        && let Err(problem) = edited(asked.world, SetTarget::Content(id), &[assignment])
    {
        put!(out, "<p>{}</p>\n", in_line(&problem));
    }
    put!(out, "</div>\n</div>\n");
    out
}

/// The value that a file has at a key, as it would be typed.
pub(super) fn typed_at(entries: &[hausblatt_core::text::data::Entry], key: &[String]) -> Option<String> {
    found(entries, key).map(|data: &Data| typed(data))
}
