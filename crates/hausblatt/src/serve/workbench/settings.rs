//! The settings as a form of the declared types: where each value comes from, and the page beside it as one types.

use hausblatt_core::change::edit::Edit;
use hausblatt_core::change::set::{Assignment, SetTarget};
use hausblatt_core::schema::config;
use hausblatt_core::schema::fields::FieldType;
use hausblatt_core::themes::settings::{Origin, Setting};
use hausblatt_core::world::World;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::problem_page::file_link;
use crate::serve::workbench::compared::{Comparison, LIVE, address_to_look_at};
use crate::serve::workbench::content::{truth, typed_at};
use crate::serve::workbench::controls::{Control, given, typed_datum};
use crate::serve::workbench::{PageRequest, WorkbenchPage};

/// Where the settings are.
const PART: &str = "/~/settings";

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let world = asked.world;
    let mut main = Markup::new();
    put!(
        main,
        "<h1>Settings</h1>\n<p class=\"lead\">What the themes let a site decide. The page beside it changes as you type; nothing is written before you keep it.</p>\n"
    );
    if world.settings.is_empty() {
        put!(main, "<p>No theme of the lineage declares a setting.</p>\n");
        return WorkbenchPage { title: "Settings", here: PART, main, wide: false };
    }
    let at = address_to_look_at(asked.query.get("at")).unwrap_or_else(|| "/".to_owned());
    let is_theme = asked.query.get("in") == "theme";
    let target = if is_theme { SetTarget::Theme(0) } else { SetTarget::Site };
    let back = format!("{PART}?at={}{}", in_query(&at), if is_theme { "&in=theme" } else { "" });
    let assignments = assignments(asked, target);
    let edit = (!assignments.is_empty()).then_some(Edit::Set(target, assignments));
    put!(main, "<div class=\"sides\">\n<div>\n");
    put!(main, "<form action=\"{}\" data-live=\"{} now-360 now-768 now-1280\" class=\"fields\">\n", PART, LIVE);
    let active = &world.lineage.active().name;
    put!(
        main,
        "<div class=\"field\"><label for=\"at\">Page beside it</label>\n<input id=\"at\" name=\"at\" value=\"{}\"></div>\n\
         <div class=\"field\"><label for=\"in\">Written to</label>\n<select id=\"in\" name=\"in\"><option value=\"site\">hausblatt.toml: this site’s values</option>\
         <option value=\"theme\"{}>{}: defaults of the theme</option></select></div>\n",
        at,
        Markup::raw(if is_theme { " selected" } else { "" }),
        active
    );
    for setting in &world.settings {
        put!(main, "{}", row(asked, setting, target, &back));
    }
    put!(main, "<p><button>Show</button> <a href=\"{}\">As they are</a></p>\n</form>\n</div>\n<div>\n", back);
    put!(main, "{}", Comparison { edit: edit.as_ref(), at: &at, back: &back, frames: true }.html(asked));
    put!(main, "</div>\n</div>\n");
    WorkbenchPage { title: "Settings", here: PART, main, wide: true }
}

/// A setting's name in the form.
fn in_form(setting: &Setting) -> String {
    format!("setting.{}", setting.field.name)
}

/// The key of a setting in the file that is written.
fn key(setting: &Setting, target: SetTarget) -> String {
    match target {
        SetTarget::Theme(_) => format!("settings.{}.default", setting.field.name),
        SetTarget::Site | SetTarget::Content(_) => format!("settings.{}", setting.field.name),
    }
}

fn steps(key: &str) -> Vec<String> {
    key.split('.').map(str::to_owned).collect()
}

/// A setting's value as it would be typed: the site's, or else the default of the nearest theme.
fn now(world: &World, setting: &Setting, target: SetTarget) -> String {
    let name = &setting.field.name;
    let site = || typed_at(&SetTarget::Site.entries(world), &steps(&format!("settings.{name}")));
    let of_theme =
        |at: usize| typed_at(&SetTarget::Theme(at).entries(world), &steps(&format!("settings.{name}.default")));
    let default = || (0..world.lineage.themes.len()).find_map(of_theme);
    let found = if target == SetTarget::Site { site().or_else(default) } else { default() };
    let value = found.unwrap_or_else(|| typed_datum(&setting.field.default));
    match setting.field.of {
        FieldType::YesNo => truth(&value).to_owned(),
        _ => value,
    }
}

/// What the form changes.
fn assignments(asked: &PageRequest<'_>, target: SetTarget) -> Vec<Assignment> {
    let one = |setting: &Setting| {
        let value = given(&asked.query.0, &in_form(setting), &setting.field.of)?;
        let is_other = value != now(asked.world, setting, target);
        is_other.then(|| Assignment::Set(key(setting, target), value))
    };
    asked.world.settings.iter().filter_map(one).collect()
}

fn row(asked: &PageRequest<'_>, setting: &Setting, target: SetTarget, back: &str) -> Markup {
    let world = asked.world;
    let mut out = Markup::new();
    let name = in_form(setting);
    let field = &setting.field;
    let value = given(&asked.query.0, &name, &field.of).unwrap_or_else(|| now(world, setting, target));
    let label = field.label.as_deref().unwrap_or(&field.name);
    let from = format!("{name}-from");
    let control =
        Control { name: &name, label, of: &field.of, value: &value, is_optional: false, described_by: Some(&from) };
    put!(
        out,
        "<div class=\"field\">\n{}<p class=\"faint from\" id=\"{}\"><code>{}</code> ",
        control.html(world),
        from,
        field.name
    );
    match setting.from {
        Origin::Site => put!(out, "from {}", file_link(config::FILE, None)),
        Origin::Theme(at) => {
            let theme = &world.lineage.themes[at];
            put!(out, "default of {}", file_link(&theme.manifest, None).named(&theme.name));
        }
    }
    let key = key(setting, target);
    if typed_at(&target.entries(world), &steps(&key)).is_some() {
        // A look at it first, as at any other change.
        let of = if target == SetTarget::Site { "site" } else { "theme" };
        let at = address_to_look_at(asked.query.get("at")).unwrap_or_else(|| "/".to_owned());
        let reset = crate::serve::edits::query(&[
            ("do".to_owned(), "set".to_owned()),
            ("of".to_owned(), of.to_owned()),
            ("clear".to_owned(), key),
            ("at".to_owned(), at),
            ("back".to_owned(), back.to_owned()),
        ]);
        put!(out, " · <a href=\"/~/try?{}\">Reset</a>", reset);
    }
    put!(out, "</p>\n</div>\n");
    out
}
