//! The settings in force, and where each value comes from.

use bumpalo::Bump;
use hausblatt_core::schema::config;
use hausblatt_core::themes::settings::Origin;
use hausblatt_lang::value::Scratch;
use hausblatt_lang::value::dump::{Detail, describe};

use crate::html::Markup;
use crate::put;
use crate::serve::problem_page::file_link;
use crate::serve::workbench::{PageRequest, WorkbenchPage};

/// How many bytes describing a setting may take.
const BYTES: usize = 1 << 20;

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let world = asked.world;
    let mut main = Markup::new();
    put!(main, "<h1>Settings</h1>\n<p class=\"lead\">What the themes let a site decide, and what is decided.</p>\n");
    if world.settings.is_empty() {
        put!(main, "<p>No theme of the lineage declares a setting.</p>\n");
        return WorkbenchPage { title: "Settings", here: "/~/settings", main, wide: false };
    }
    put!(
        main,
        "<div class=\"scroll\" tabindex=\"0\" role=\"region\" aria-label=\"Settings\">\n<table>\n<thead><tr><th>Setting</th>\
         <th>Value</th><th>From</th><th>Type</th></tr></thead>\n<tbody>\n"
    );
    let arena = Bump::new();
    let scratch = Scratch::new(&arena, BYTES);
    for setting in &world.settings {
        let described = describe(setting.value.value(), &world.symbols, &scratch, Detail::default());
        let from = match setting.from {
            Origin::Site => file_link(config::FILE, None).markup(),
            Origin::Theme(at) => {
                let theme = &world.lineage.themes[at];
                let mut from = Markup::new();
                put!(from, "default of {}", file_link(&theme.manifest, None).named(&theme.name));
                from
            }
        };
        put!(main, "<tr><td><code>{}</code>", setting.field.name);
        if let Some(label) = &setting.field.label {
            put!(main, "<br><span class=\"faint\">{}</span>", label);
        }
        put!(main, "</td><td>");
        match &described.text {
            Some(text) if described.kind == "a text" && text.starts_with('#') => {
                put!(main, "<code>{}</code>", text);
            }
            Some(text) if !text.is_empty() => put!(main, "{}", text),
            _ if described.members.is_empty() => put!(main, "<span class=\"faint\">nothing</span>"),
            _ => {
                let mut html = String::new();
                described.html(&mut html);
                put!(main, "{}", Markup::made(html));
            }
        }
        put!(main, "</td><td>{}</td><td class=\"word\">{}</td></tr>\n", from, setting.field.of.word());
    }
    put!(main, "</tbody>\n</table>\n</div>\n");
    WorkbenchPage { title: "Settings", here: "/~/settings", main, wide: false }
}
