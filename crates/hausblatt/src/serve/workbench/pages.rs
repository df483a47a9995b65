//! The pages of the workbench: their list, and how a request becomes one.

use std::io;
use std::sync::Arc;

use axum::extract::Request;
use axum::http::header::CONTENT_SECURITY_POLICY;
use axum::http::{HeaderValue, Method, StatusCode, Uri};
use axum::response::Response;

use crate::html::Markup;
use crate::put;
use crate::serve::access::Permission;
use crate::serve::answers::{By, MadePage};
use crate::serve::reload::Shown;
use crate::serve::workbench::{
    PageRequest, Query, address, chart, components, content, file, kept, map, menus, missed, offered, posts, problems,
    rehearsal, search, settings, trays, tried, widths,
};
use crate::serve::{Moment, Server, allowed_hosts, aside, badge, edits, files, problem_page, sent, tries};
use crate::show::chart::STYLE;

/// What the workbench's own pages may load: what is here, and the site in frames.
pub(super) const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; frame-src 'self'; \
                      connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'self'";
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

/// Makes a page.
type Make = fn(&PageRequest<'_>) -> WorkbenchPage<'static>;
/// Makes a piece of one.
type MakePiece = fn(&PageRequest<'_>) -> Markup;

/// A part with an entry in the navigation.
pub(super) struct Part {
    /// Its address.
    pub address: &'static str,
    /// What it is called.
    pub word: &'static str,
    /// What one finds and does there, in a sentence.
    pub about: &'static str,
    make: Make,
}

const fn of(address: &'static str, word: &'static str, make: Make, about: &'static str) -> Part {
    Part { address, word, about, make }
}

/// The parts, in their order.
pub(super) const PARTS: &[Part] = &[
    of(
        "/~/",
        "Map",
        map::part,
        "Every address with the file that renders it; select several to choose a template for all.",
    ),
    of("/~/chart", "Chart", chart::part, "The ladders of the site, or of one address, as an image."),
    of("/~/problems", "Problems", problems::part, "What is wrong in files and on pages, each at its line."),
    of(rehearsal::PART, "Rehearsal", rehearsal::part, "What goes wrong with content that the site does not have yet."),
    of("/~/offered", "Offered", offered::part, "The templates that editors can choose, and who chose them."),
    of(
        "/~/settings",
        "Settings",
        settings::part,
        "What the themes let a site decide, as a form with the page beside it.",
    ),
    of(menus::PART, "Menus", menus::part, "The items of each menu, to add, rename, move and take out."),
    of(
        "/~/components",
        "Components",
        components::part,
        "Each component alone with its fields, to try and to place on a page.",
    ),
    of("/~/missed", "Missed addresses", missed::part, "What was requested but not found, with the nearest that exist."),
    of("/~/widths", "Widths", widths::part, "Any page at three widths, side by side."),
    of(kept::PART, "Changes", kept::part, "What was kept here and written by commands, to take back one by one."),
];

/// The pages that others lead to, too (`file.rs`).
const OTHERS: &[(&str, Make)] = &[
    (search::PART, search::part),
    ("/~/address", address::part),
    (tried::TRY, tried::part),
    (content::PART, content::part),
    (trays::PART, trays::part),
];

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
    let permission = Permission::Refused("");
    Some(components::preview(&PageRequest { server, moment, world, query: &query, path: uri.path(), permission }))
}

/// What is at an address of a tried site: a file, or a page.
enum InTried {
    File(Arc<str>, io::Result<Vec<u8>>),
    Page(MadePage),
}

/// What is at an address of a tried site, if `path` is one.
fn in_tried(server: &Arc<Server>, moment: &Moment, uri: &Uri) -> Option<InTried> {
    let (query, path) = tries::parted(uri.path())?;
    let world = moment.world.as_ref().as_ref().ok()?;
    let query = format!("/?{query}").parse().map(|uri| Query::of(&uri)).unwrap_or_default();
    let missing = |why: String| Some(InTried::Page(text_of(409, "text/plain; charset=utf-8", format!("{why}\n"))));
    let edit = match edits::read(world, &query.0) {
        Ok(Some(edit)) => edit,
        Ok(None) => return missing("This names no change.".to_owned()),
        Err(why) => return missing(why),
    };
    let target = match uri.query() {
        Some(query) => format!("{path}?{query}"),
        None => path.clone(),
    };
    match server.tries.of(moment, world, &edit) {
        Ok(tried) => Some(match tried.file(&target) {
            Some(node) => InTried::File(node.path.clone(), node.bytes()),
            None => InTried::Page(tried.page(world, &target)),
        }),
        Err(problems) => {
            let text = problem_page::page(&moment.snapshot, &path, 500, &problems);
            Some(InTried::Page(MadePage {
                by: By::BuiltIn("problems"),
                ..text_of(500, "text/html; charset=utf-8", text)
            }))
        }
    }
}

/// Answers a request for something at `/~/`.
pub async fn respond(server: Arc<Server>, request: Request) -> Result<Response, Box<Response>> {
    if request.method() == Method::POST {
        return posts::respond(server, request).await;
    }
    let uri = request.uri().clone();
    let asked = server.clone();
    if uri.path().starts_with(tries::TRIED) {
        return tried_site(server, request).await;
    }
    let is_fixed = FIXED.iter().any(|(fixed, ..)| *fixed == uri.path());
    let permission = server.access.permits(request.headers());
    let work = move || made(&asked, &asked.live.fresh(), &uri, permission);
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

/// Answers a request for what is at an address of a tried site.
async fn tried_site(server: Arc<Server>, request: Request) -> Result<Response, Box<Response>> {
    let (asked, uri) = (server.clone(), request.uri().clone());
    let work = move || in_tried(&asked, &asked.live.fresh(), &uri);
    let is_head = request.method() == Method::HEAD;
    let mut answer = match server.parts.run(work).await? {
        Some(InTried::File(path, Ok(bytes))) => files::sent_bytes(&path, bytes, is_head),
        Some(InTried::File(path, Err(error))) => {
            allowed_hosts::plain(StatusCode::INTERNAL_SERVER_ERROR, &format!("{path} can't be read: {error}"))
        }
        Some(InTried::Page(made)) => sent(made, request.headers(), is_head),
        None => allowed_hosts::plain(StatusCode::NOT_FOUND, "Nothing is tried here."),
    };
    answer.headers_mut().insert("cross-origin-resource-policy", HeaderValue::from_static("same-origin"));
    Ok(answer)
}

fn made(server: &Arc<Server>, moment: &Moment, uri: &Uri, permission: Permission) -> MadePage {
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
    let asked = PageRequest { server, moment, world, query: &query, path, permission };
    if path == rehearsal::VARIED {
        return rehearsal::varied(&asked);
    }
    if let Some((_, piece)) = PIECES.iter().find(|(of, _)| *of == path) {
        return text_of(200, "text/html; charset=utf-8", piece(&asked).into_text());
    }
    let parts = PARTS.iter().map(|part| (part.address, part.make)).chain(OTHERS.iter().copied());
    let found = parts.into_iter().find(|(of, _)| *of == path.trim_end_matches('/') || *of == path);
    match found {
        Some((_, make)) => {
            let mut part = make(&asked);
            part.main = kept::with_note(&asked, part.main);
            page(moment, 200, &part, target)
        }
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
    for Part { address, word, .. } in PARTS {
        match *address == part.here {
            true => put!(out, "<li><a href=\"{}\" aria-current=\"page\">{}</a></li>\n", *address, *word),
            false => put!(out, "<li><a href=\"{}\">{}</a></li>\n", *address, *word),
        }
    }
    let width = if part.wide { "wide" } else { "narrow" };
    put!(
        out,
        "</ul>\n</nav>\n<form class=\"finder\" action=\"/~/search\" role=\"search\"><label for=\"search\" class=\"hidden\">Search everything</label>\
         <input id=\"search\" name=\"for\" type=\"search\" placeholder=\"Search ( / )\">\n<a href=\"/\">The site</a></form>\n</header>\n<main id=\"main\" class=\"{}\">\n{}</main>\n</body>\n</html>\n",
        width,
        part.main
    );
    out.into_text()
}
