//! The changes that were kept, here and on the command line, each with a button that takes it back.

use hausblatt_core::files::journal::{ChangeState, KeptChange};

use crate::html::Markup;
use crate::opened;
use crate::put;
use crate::serve::access::Permission;
use crate::serve::keeping;
use crate::serve::workbench::compared::hidden;
use crate::serve::workbench::posts::UNDO;
use crate::serve::workbench::{PageRequest, WorkbenchPage};

/// Where the changes are.
pub const PART: &str = "/~/kept";

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    put!(
        main,
        "<h1>Changes</h1>\n<p class=\"lead\">What was kept here and written by commands, the last first. A change can be taken back as long as its files are as it left them.</p>\n"
    );
    let all = match keeping::changes(asked.world.snapshot.root()) {
        Ok(all) => all,
        Err(error) => {
            put!(
                main,
                "<p class=\"field-problem\"><b class=\"error\">error</b> The changes can’t be read: {}.</p>\n",
                error.to_string()
            );
            return WorkbenchPage { title: "Changes", here: PART, main, wide: false };
        }
    };
    if all.is_empty() {
        put!(main, "<p>No change was kept so far.</p>\n");
        return WorkbenchPage { title: "Changes", here: PART, main, wide: false };
    }
    put!(main, "{}", asked.refusal());
    let zone = opened::zone(&asked.moment.snapshot);
    put!(main, "<ol class=\"kept\" reversed>\n");
    for change in &all {
        let at = change.made.to_zoned(zone.clone()).strftime("%Y-%m-%d %H:%M").to_string();
        put!(
            main,
            "<li>\n<p><code class=\"command\">{}</code> <span class=\"faint\">{}</span></p>\n<p class=\"faint\">",
            change.command,
            at
        );
        for (number, write) in change.writes.iter().enumerate() {
            put!(main, "{}{} {}", if number > 0 { ", " } else { "" }, write.did(), write.path);
        }
        put!(main, "</p>\n");
        match change.state {
            ChangeState::Made if asked.permission == Permission::Granted => {
                put!(main, "{}", button(asked, change, PART))
            }
            ChangeState::Made => {}
            state => put!(main, "<p class=\"note\">{}: <code>hausblatt undo</code> looks at it</p>\n", state.word()),
        }
        put!(main, "</li>\n");
    }
    put!(main, "</ol>\n");
    WorkbenchPage { title: "Changes", here: PART, main, wide: false }
}

/// The button that takes a change back.
fn button(asked: &PageRequest<'_>, change: &KeptChange, back: &str) -> Markup {
    let mut out = Markup::new();
    let number = change.number.to_string();
    put!(out, "<form method=\"post\" action=\"{}\" class=\"inline\">\n", UNDO);
    put!(out, "{}", hidden([("token", asked.server.token.as_str()), ("number", &number), ("back", back)].into_iter()));
    put!(out, "<button class=\"quiet\" aria-label=\"Take back: {}\">Take back</button>\n</form>\n", change.command);
    out
}

/// A page with a line above it that says what was just kept.
pub fn with_note(asked: &PageRequest<'_>, main: Markup) -> Markup {
    let Some(number) = asked.query.get("kept").parse::<u32>().ok() else { return main };
    let all = keeping::changes(asked.world.snapshot.root()).unwrap_or_default();
    let Some(change) = all.iter().find(|change| change.number == number && change.state == ChangeState::Made) else {
        return main;
    };
    let mut out = Markup::new();
    let paths: Vec<&str> = change.writes.iter().map(|write| write.path.as_str()).collect();
    put!(
        out,
        "<div class=\"done\" role=\"status\">\n<p><strong>Kept.</strong> {} <code class=\"command\">{}</code></p>\n",
        paths.join(", "),
        change.command
    );
    if asked.permission == Permission::Granted {
        put!(out, "{}", button(asked, change, &asked.without("kept")));
    }
    put!(out, "</div>\n{}", main);
    out
}
