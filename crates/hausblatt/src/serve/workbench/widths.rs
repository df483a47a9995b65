//! Any page at three widths, side by side.

use hausblatt_core::text::address::encoded;

use crate::html::Markup;
use crate::put;
use crate::serve::workbench::{PageRequest, WorkbenchPage};

/// The widths, in CSS pixels: a phone, a tablet, a desk.
pub(super) const WIDTHS: [usize; 3] = [360, 768, 1280];

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let given = asked.query.get("address");
    // Only a path of this site: a frame for anything else would stay empty.
    let is_path = given.starts_with('/') && !given[1..].starts_with(['/', '\\']);
    let address = if is_path { encoded(given) } else { "/".to_owned() };
    let mut main = Markup::new();
    put!(
        main,
        "<h1>Widths</h1>\n<form class=\"filter\" action=\"/~/widths\">\n<p><label for=\"address\">Address</label> \
         <input id=\"address\" name=\"address\" value=\"{}\"></p>\n<p><button>Show</button></p>\n</form>\n\
         <div class=\"widths\" tabindex=\"0\" role=\"region\" aria-label=\"The page at three widths\">\n",
        address
    );
    for width in WIDTHS {
        put!(
            main,
            "<figure class=\"width w{}\"><figcaption>{} px</figcaption><div><iframe src=\"{}\" title=\"The page, {} px wide\"></iframe></div></figure>\n",
            width,
            width,
            address,
            width
        );
    }
    put!(main, "</div>\n");
    WorkbenchPage { title: "Widths", here: "/~/widths", main, wide: true }
}
