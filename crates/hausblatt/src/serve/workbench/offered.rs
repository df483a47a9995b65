//! The templates that editors are offered, and which pages chose them.

use hausblatt_core::offered;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::problem_page::{self, file_link};
use crate::serve::workbench::{PageRequest, WorkbenchPage};

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let world = asked.world;
    let mut main = Markup::new();
    put!(main, "<h1>Offered templates</h1>\n<p class=\"lead\">What editors can choose for a page or an entry.</p>\n");
    let names = offered(world, None);
    if names.is_empty() {
        put!(
            main,
            "<p>No theme of the lineage offers a template. Create one with <code>hausblatt start template offered/NAME</code>.</p>\n"
        );
    }
    for name in &names {
        let Some(id) = world.lineage.nearest(&format!("templates/offered/{name}.html")) else { continue };
        let header = world.header(id);
        put!(main, "<section class=\"card\">\n<h2>{}</h2>\n", header.label.as_deref().unwrap_or(name));
        if let Some(about) = &header.about {
            put!(main, "<p>{}</p>\n", about);
        }
        put!(main, "<dl>\n");
        put!(main, "<dt>Name</dt><dd><code>{}</code></dd>\n", name);
        put!(main, "<dt>File</dt><dd>{}</dd>\n", file_link(&world.lineage.file(id).node.path, None));
        let fits = if header.fits.is_empty() { "all pages and entries".to_owned() } else { header.fits.join(", ") };
        put!(main, "<dt>For</dt><dd>{}</dd>\n<dt>Chosen by</dt><dd>", fits);
        let chosen = world.site.contents.iter().filter(|content| {
            content.template.as_ref().is_some_and(|(chosen, _)| **chosen == **name) && content.address.is_some()
        });
        let chosen: Vec<&str> = chosen.filter_map(|content| content.address.as_deref()).collect();
        for (at, address) in chosen.iter().enumerate() {
            let comma = if at > 0 { ", " } else { "" };
            put!(main, "{}<a href=\"/~/address?address={}\">{}</a>", comma, in_query(address), *address);
        }
        if chosen.is_empty() {
            put!(main, "no content yet: <code>hausblatt choose {} ADDRESS</code>", name);
        }
        put!(main, "</dd>\n</dl>\n</section>\n");
    }
    let lost: Vec<&Diagnostic> = asked.moment.problems().filter(|problem| problem.code == "not-offered").collect();
    if !lost.is_empty() {
        put!(main, "<h2>Look offered but aren't</h2>\n{}", problem_page::list(&asked.moment.snapshot, &lost));
    }
    WorkbenchPage { title: "Offered templates", here: "/~/offered", main, wide: false }
}
