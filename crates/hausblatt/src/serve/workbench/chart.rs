//! The ladders as an image, of the whole site or of one address.

use hausblatt_core::model::request::Routed;

use crate::html::Markup;
use crate::put;
use crate::serve::workbench::{PageRequest, WorkbenchPage};
use crate::show::chart::{one, whole};

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    put!(main, "<h1>Chart</h1>\n");
    put!(
        main,
        "<form class=\"filter\" action=\"/~/chart\">\n<p><label for=\"address\">The way of one address</label> \
         <input id=\"address\" name=\"address\" value=\"{}\"></p>\n<p><button>Show</button></p>\n</form>\n",
        asked.query.get("address")
    );
    let address = asked.query.get("address");
    let drawing = match asked.world.route(address) {
        _ if address.is_empty() => whole(asked.world),
        Routed::Request(request) => {
            let resolution = asked.world.resolve(request);
            one(&asked.world.explain(&resolution, asked.world.status(&resolution)))
        }
        Routed::Redirect(to) => {
            put!(main, "<p class=\"lead\">{} only leads to {}.</p>\n", address, to);
            whole(asked.world)
        }
    };
    put!(
        main,
        "<div class=\"drawing\" tabindex=\"0\" role=\"region\" aria-label=\"Chart\">\n{}</div>\n",
        drawing.element()
    );
    WorkbenchPage { title: "Chart", here: "/~/chart", main, wide: true }
}
