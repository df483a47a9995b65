//! The pages of the workbench: their list, and how a request becomes one.

use std::sync::Arc;

use axum::body::to_bytes;
use axum::extract::{Query as UrlQuery, Request};
use axum::http::header::{CONTENT_SECURITY_POLICY, LOCATION};
use axum::http::{HeaderValue, Method, StatusCode, Uri};
use axum::response::{IntoResponse, Response};
use hausblatt_core::world::World;

use crate::html::Markup;
use crate::put;
use crate::serve::answers::{By, MadePage};
use crate::serve::reload::Shown;
use crate::serve::workbench::{
    address, chart, components, file, map, missed, offered, problems, rehearsal, settings, widths,
};
use crate::serve::{Moment, Server, allowed_hosts, aside, badge, sent};
use crate::show::chart::STYLE;

/// What the workbench's own pages may load: what is here, and the site in frames.
const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; frame-src 'self'; \
                      connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'self'";
/// How many bytes a form may have.
const FORM: usize = 64 << 10;

/// A page of the workbench.
pub struct WorkbenchPage<'p> {
    /// Its title.
    pub title: &'p str,
    /// The address of the part that it belongs to, marked in the navigation.
    pub here: &'p str,
    /// What it shows.
    pub main: Markup,
    /// Whether it takes all the width there is.
    pub wide: bool,
}

/// All that a page of the workbench is made from.
pub struct PageRequest<'a> {
    pub(super) server: &'a Arc<Server>,
    pub(super) moment: &'a Moment,
    pub(super) world: &'a World,
    pub(super) query: &'a Query,
}

/// The values in an address, by name, decoded.
#[derive(Debug, Default)]
pub struct Query(pub(super) Vec<(String, String)>);

impl Query {
    fn of(uri: &Uri) -> Self {
        Self(UrlQuery::try_from_uri(uri).map(|UrlQuery(pairs)| pairs).unwrap_or_default())
    }

    /// The value that is called so; empty if there is none.
    pub fn get(&self, name: &str) -> &str {
        self.0.iter().find(|(other, _)| other == name).map_or("", |(_, value)| value)
    }
}

/// Makes a page.
type Make = fn(&PageRequest<'_>) -> WorkbenchPage<'static>;
/// Makes a piece of one.
type MakePiece = fn(&PageRequest<'_>) -> Markup;

/// The parts with an entry in the navigation: address, word, and what makes the page.
const PARTS: &[(&str, &str, Make)] = &[
    ("/~/", "Map", map::part),
    ("/~/chart", "Chart", chart::part),
    ("/~/problems", "Problems", problems::part),
    (rehearsal::PART, "Rehearsal", rehearsal::part),
    ("/~/offered", "Offered", offered::part),
    ("/~/settings", "Settings", settings::part),
    ("/~/components", "Components", components::part),
    ("/~/missed", "Missed addresses", missed::part),
    ("/~/widths", "Widths", widths::part),
];

/// The pages that others lead to, too (`file.rs`).
const OTHERS: &[(&str, Make)] = &[("/~/address", address::part)];

/// Pieces that the badge requests.
const PIECES: &[(&str, MakePiece)] =
    &[("/~/ladder", address::ladder), ("/~/values", address::values), ("/~/faults", address::problems)];

/// What never changes while the server runs: address, media type, text.
const FIXED: &[(&str, &str, &str)] = &[
    ("/~/badge.js", "text/javascript; charset=utf-8", badge::SCRIPT),
    ("/~/workbench.js", "text/javascript; charset=utf-8", include_str!("workbench.js")),
    ("/~/workbench.css", "text/css; charset=utf-8", include_str!("workbench.css")),
    ("/~/chart.css", "text/css; charset=utf-8", STYLE),
];

/// Whether an address is one of the workbench's.
pub fn is_part(target: &str) -> bool {
    target.starts_with("/~/")
}

/// A component alone, if that is what is at `target`.
pub fn preview(server: &Arc<Server>, moment: &Moment, target: &str) -> Option<MadePage> {
    let uri: Uri = target.parse().ok().filter(|uri: &Uri| uri.path() == components::PREVIEW)?;
    let world = moment.world.as_ref().as_ref().ok()?;
    let query = Query::of(&uri);
    Some(components::preview(&PageRequest { server, moment, world, query: &query }))
}

/// Answers a request for something at `/~/`.
pub async fn respond(server: Arc<Server>, request: Request) -> Result<Response, Box<Response>> {
    if request.method() == Method::POST {
        return Ok(change(&server, request).await);
    }
    let uri = request.uri().clone();
    let asked = server.clone();
    let is_fixed = FIXED.iter().any(|(fixed, ..)| *fixed == uri.path());
    let work = move || made(&asked, &asked.live.fresh(), &uri);
    let made = if is_fixed { aside(work).await? } else { server.parts.run(work).await? };
    let is_of_site = [components::PREVIEW, rehearsal::VARIED].contains(&request.uri().path());
    let own = made.media.starts_with("text/html") && !is_of_site;
    let mut answer = sent(made, request.headers(), request.method() == Method::HEAD);
    if own {
        answer.headers_mut().insert(CONTENT_SECURITY_POLICY, HeaderValue::from_static(POLICY));
    }
    // No other site may have these as its images or scripts.
    answer.headers_mut().insert("cross-origin-resource-policy", HeaderValue::from_static("same-origin"));
    Ok(answer)
}

/// The few things that can be changed here.
async fn change(server: &Server, request: Request) -> Response {
    let (head, body) = request.into_parts();
    let Ok(form) = to_bytes(body, FORM).await else {
        return allowed_hosts::plain(StatusCode::PAYLOAD_TOO_LARGE, "This form is too long.");
    };
    let pairs = format!("/?{}", String::from_utf8_lossy(&form)).parse().map(|uri| Query::of(&uri)).unwrap_or_default();
    if !allowed_hosts::may_change(&head.headers, &server.token, pairs.get("token")) {
        return allowed_hosts::plain(StatusCode::FORBIDDEN, "Only a page of this server can change anything here.");
    }
    match head.uri.path() {
        "/~/missed" => {
            server.missed.clear();
            (StatusCode::SEE_OTHER, [(LOCATION, "/~/missed")]).into_response()
        }
        _ => allowed_hosts::plain(StatusCode::NOT_FOUND, "There is nothing to change at this address."),
    }
}

fn made(server: &Arc<Server>, moment: &Moment, uri: &Uri) -> MadePage {
    let path = uri.path();
    if let Some((_, media, text)) = FIXED.iter().find(|(fixed, ..)| *fixed == path) {
        return text_of(200, media, (*text).to_owned());
    }
    let target = uri.path_and_query().map_or(path, |target| target.as_str());
    if let Some(mut made) = preview(server, moment, target) {
        let shown = Shown::of(moment, &made);
        badge::add(&mut made, shown, target);
        return made;
    }
    let query = Query::of(uri);
    if path == file::ADDRESS {
        // A file can be read even where the site can't be loaded.
        return page(moment, 200, &file::part(&moment.snapshot, query.get("path")), target);
    }
    let Ok(world) = &*moment.world else { return page(moment, 200, &problems::without_world(moment), target) };
    let asked = PageRequest { server, moment, world, query: &query };
    if path == rehearsal::VARIED {
        return rehearsal::varied(&asked);
    }
    if let Some((_, piece)) = PIECES.iter().find(|(of, _)| *of == path) {
        return text_of(200, "text/html; charset=utf-8", piece(&asked).into_text());
    }
    let parts = PARTS.iter().map(|(of, _, make)| (of, make)).chain(OTHERS.iter().map(|(of, make)| (of, make)));
    let found = parts.into_iter().find(|(of, _)| **of == path.trim_end_matches('/') || **of == path);
    match found {
        Some((_, make)) => page(moment, 200, &make(&asked), target),
        None => {
            let mut main = Markup::new();
            put!(main, "<h1>Nothing is here</h1>\n<p>The workbench has no page <code>{}</code>.</p>\n", path);
            page(moment, 404, &WorkbenchPage { title: "Nothing is here", here: "", main, wide: false }, target)
        }
    }
}

fn page(moment: &Moment, status: u16, part: &WorkbenchPage<'_>, target: &str) -> MadePage {
    let mut made = text_of(status, "text/html; charset=utf-8", document(part));
    badge::add_quietly(&mut made, Shown::generation(moment), target);
    made
}

fn text_of(status: u16, media: &'static str, text: String) -> MadePage {
    let by = By::BuiltIn("workbench");
    MadePage { status, media: media.into(), text, published: None, location: None, by, is_missed: false, problems: 0 }
}

/// A whole page of the workbench.
pub fn document(part: &WorkbenchPage<'_>) -> String {
    let mut out = Markup::new();
    put!(
        out,
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n\
         <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n\
         <meta name=\"color-scheme\" content=\"light dark\">\n<title>{} · Hausblatt</title>\n\
         <link rel=\"icon\" href=\"data:,\">\n\
         <link rel=\"stylesheet\" href=\"/~/workbench.css\">\n<link rel=\"stylesheet\" href=\"/~/chart.css\">\n<script src=\"/~/workbench.js\" defer></script>\n\
         </head>\n<body>\n<a class=\"skip\" href=\"#main\">Skip to content</a>\n<header class=\"top\">\n\
         <nav aria-label=\"Workbench\">\n<ul>\n",
        part.title
    );
    for (address, word, _) in PARTS {
        match *address == part.here {
            true => put!(out, "<li><a href=\"{}\" aria-current=\"page\">{}</a></li>\n", *address, *word),
            false => put!(out, "<li><a href=\"{}\">{}</a></li>\n", *address, *word),
        }
    }
    let width = if part.wide { "wide" } else { "narrow" };
    put!(
        out,
        "</ul>\n</nav>\n<p class=\"site\"><a href=\"/\">The site</a></p>\n</header>\n<main id=\"main\" class=\"{}\">\n{}</main>\n</body>\n</html>\n",
        width,
        part.main
    );
    out.into_text()
}
