//! A file of the site, to be read, with its lines numbered.

use hausblatt_core::files::Snapshot;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::workbench::WorkbenchPage;

/// How many lines are shown.
const MOST: usize = 5000;

/// Where files can be read.
pub const ADDRESS: &str = "/~/file";

/// The page of the file at `path`.
pub fn part(snapshot: &Snapshot, path: &str) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    let text = snapshot.file(path).and_then(|node| node.text());
    let Some(text) = text else {
        put!(main, "<h1>No such file</h1>\n<p>The site has no file <code>{}</code> that is read as text.</p>\n", path);
        return WorkbenchPage { title: "No such file", here: "", main, wide: false };
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
