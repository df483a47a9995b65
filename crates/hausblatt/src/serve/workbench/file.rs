//! A file of the site, to be read, with its lines numbered.

use hausblatt_core::files::Snapshot;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::workbench::WorkbenchPage;

/// How many lines are shown.
const MOST: usize = 5000;

/// The bytes of the largest file that is shown.
const LARGEST: u64 = 16 << 20;

/// Where files can be read.
pub const ADDRESS: &str = "/~/file";

/// The page of the file at `path`.
pub fn part(snapshot: &Snapshot, path: &str) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    let text = match snapshot.file(path) {
        None => Err(("No such file", "the site has no such file".to_owned())),
        Some(node) if node.stamp.length > LARGEST => {
            Err(("Not shown", "this file is too large to be shown".to_owned()))
        }
        Some(node) => node.whole_text().map_err(|error| {
            let unreadable = node.unreadable().map(|problem| problem.message);
            ("Not a text", unreadable.unwrap_or_else(|| format!("this file can't be shown as a text: {error}")))
        }),
    };
    let text = match text {
        Ok(text) => text,
        Err((title, why)) => {
            put!(main, "<h1>{}</h1>\n<p><code>{}</code>: {}.</p>\n", title, path, why);
            return WorkbenchPage { title, here: "", main, wide: false };
        }
    };
    put!(main, "<h1 class=\"path\">{}</h1>\n", path);
    if let Some((_, name)) = path.strip_prefix("themes/").and_then(|below| below.split_once("/templates/")) {
        put!(main, "<p><a href=\"/~/?find={}\">Addresses that it renders</a></p>\n", in_query(name));
    }
    put!(main, "<div class=\"scroll\" tabindex=\"0\" role=\"region\" aria-label=\"The file\">\n<pre class=\"source\">");
    for (at, line) in text.lines().take(MOST).enumerate() {
        put!(
            main,
            "<span class=\"line\" id=\"L{}\"><a class=\"number\" href=\"#L{}\">{}</a> {}</span>",
            at + 1,
            at + 1,
            at + 1,
            line
        );
    }
    put!(main, "</pre>\n</div>\n");
    if text.lines().count() > MOST {
        put!(main, "<p>… and {} more lines.</p>\n", text.lines().count() - MOST);
    }
    WorkbenchPage { title: "A file", here: "", main, wide: true }
}
