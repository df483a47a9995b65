//! Addresses that were requested but not found, with the nearest that exist.

use hausblatt_core::model::request::Routed;
use hausblatt_core::render::page::nearest_addresses;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::answers::is_missed;
use crate::serve::workbench::{PageRequest, WorkbenchPage};

/// How many are shown.
const MOST: usize = 100;

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    asked.server.missed.forget(|address| match asked.world.route(address) {
        Routed::Redirect(_) => true,
        Routed::Request(request) => !is_missed(&request),
    });
    let all = asked.server.missed.all();
    let mut main = Markup::new();
    put!(main, "<h1>Missed addresses</h1>\n<p class=\"lead\">Requested since the server started, but not found.</p>\n");
    if all.is_empty() {
        put!(main, "<p>None so far.</p>\n");
        return WorkbenchPage { title: "Missed addresses", here: "/~/missed", main, wide: false };
    }
    put!(
        main,
        "<div class=\"scroll\" tabindex=\"0\" role=\"region\" aria-label=\"Missed addresses\">\n<table>\n\
         <thead><tr><th>Address</th><th class=\"number\">Asked</th><th>The nearest that exist</th></tr></thead>\n<tbody>\n"
    );
    for (address, count) in all.iter().take(MOST) {
        put!(
            main,
            "<tr><td><a href=\"/~/address?address={}\">{}</a></td><td class=\"number\">{}</td><td>",
            in_query(address),
            address,
            *count
        );
        let near = nearest_addresses(asked.world, address);
        for (at, (address, title)) in near.iter().enumerate() {
            let comma = if at > 0 { ", " } else { "" };
            put!(
                main,
                "{}<a href=\"/~/address?address={}\" title=\"{}\">{}</a>",
                comma,
                in_query(address),
                *title,
                *address
            );
        }
        if near.is_empty() {
            put!(main, "<span class=\"faint\">none</span>");
        }
        put!(main, "</td></tr>\n");
    }
    put!(main, "</tbody>\n</table>\n</div>\n");
    if all.len() > MOST {
        put!(main, "<p>… and {} more.</p>\n", all.len() - MOST);
    }
    put!(
        main,
        "<p>An old address leads to its content again with <code>formerly: /old/address/</code> in the content’s front matter.</p>\n"
    );
    put!(
        main,
        "<form method=\"post\" action=\"/~/missed\"><input type=\"hidden\" name=\"token\" value=\"{}\"><p><button>Clear the list</button></p></form>\n",
        asked.server.token
    );
    WorkbenchPage { title: "Missed addresses", here: "/~/missed", main, wide: false }
}
