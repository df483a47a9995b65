//! A resolved address, as text and as JSON.

use std::fmt::Write;

use hausblatt_core::change::copies::{is_lone, suggestion};
use hausblatt_core::lookup::ladder::Reason;
use hausblatt_core::lookup::map::{error_request, layout_name};
use hausblatt_core::lookup::request::{FrontOf, Kind, ListingOf};
use hausblatt_core::lookup::resolution::{FileState, LayoutChoice, Resolution, ResolvedRung, Use, Used};
use hausblatt_core::model::content::Content;
use hausblatt_core::render::page::{is_built_in, nearest_addresses};
use hausblatt_core::themes::lineage::FileId;
use hausblatt_core::world::World;
use hausblatt_core::world::status::Status;
use hausblatt_lang::text::source::position;
use serde::Serialize;

use crate::show::ladder;
use crate::show::style::{BAD, FAINT, GOOD, NOTE, STRONG, TYPED, columns, padded, plain, styled, to_type, word};

/// An address and what it leads to, in the JSON shape of `docs/commands.md`.
#[derive(Debug, Serialize)]
pub struct Resolved {
    address: String,
    status: u16,
    location: Option<String>,
    may: Vec<u16>,
    kind: Option<&'static str>,
    view: Option<String>,
    content: Option<ContentJson>,
    rungs: Vec<RungJson>,
    template: Option<FileJson>,
    layout: Option<FileJson>,
    uses: Vec<UseJson>,
    notes: Vec<NoteJson>,
}

#[derive(Debug, Serialize)]
struct ContentJson {
    id: String,
    collection: Option<String>,
    path: String,
}

#[derive(Debug, Serialize)]
struct RungJson {
    name: String,
    reason: &'static str,
    files: Vec<StateJson>,
}

#[derive(Debug, Serialize)]
struct StateJson {
    theme: String,
    path: String,
    state: &'static str,
}

#[derive(Debug, Serialize)]
struct FileJson {
    name: String,
    theme: String,
    path: String,
}

#[derive(Debug, Serialize)]
struct UseJson {
    what: &'static str,
    asked_as: String,
    name: String,
    theme: String,
    path: String,
}

#[derive(Debug, Serialize)]
struct NoteJson {
    code: &'static str,
    text: String,
}

impl Resolved {
    /// A redirect.
    pub fn redirect(address: &str, to: &str) -> Self {
        Self {
            address: address.to_owned(),
            status: 301,
            location: Some(to.to_owned()),
            may: Vec::new(),
            kind: None,
            view: None,
            content: None,
            rungs: Vec::new(),
            template: None,
            layout: None,
            uses: Vec::new(),
            notes: Vec::new(),
        }
    }

    /// A resolution.
    pub fn of(world: &World, resolution: &Resolution, status: &Status) -> Self {
        let request = &resolution.request;
        let content = request.content(&world.site).map(|id| world.site.content(id));
        let mut notes: Vec<NoteJson> =
            resolution.notes(world).into_iter().map(|note| NoteJson { code: note.code, text: note.text }).collect();
        if request.status == 404 {
            let near: Vec<&str> =
                nearest_addresses(world, &request.address).into_iter().map(|(address, _)| address).collect();
            let text = match near.as_slice() {
                [] => "Nothing is at this address.".to_owned(),
                [near] => format!("Nothing is at this address. Did you mean {near}?"),
                near => format!("Nothing is at this address. The nearest are {}.", near.join(", ")),
            };
            notes.push(NoteJson { code: "not-found", text });
        }
        Self {
            address: request.address.clone(),
            status: status.code,
            location: status.location.clone(),
            may: if status.rendered { Vec::new() } else { resolution.may(world) },
            kind: request.kind.word(),
            view: request.view.clone(),
            content: content.map(|content| content_json(world, content)),
            rungs: resolution.rungs.iter().map(|rung| rung_json(world, rung)).collect(),
            template: resolution.winner.map(|id| file_json(world, id, "templates/", "")),
            layout: layout_json(world, resolution),
            uses: resolution.uses(world).iter().map(|found| use_json(world, found)).collect(),
            notes,
        }
    }
}

fn content_json(world: &World, content: &Content) -> ContentJson {
    ContentJson {
        id: content.id.to_string(),
        collection: world.site.collection_of(content).map(|collection| collection.config.name.text.clone()),
        path: content.path().to_string(),
    }
}

fn rung_json(world: &World, rung: &hausblatt_core::lookup::resolution::ResolvedRung) -> RungJson {
    let state = |&(id, state): &(FileId, FileState)| StateJson {
        theme: world.lineage.theme_of(id).name.clone(),
        path: world.lineage.file(id).node.path.to_string(),
        state: state.word(),
    };
    RungJson {
        name: rung.rung.name.clone(),
        reason: rung.rung.reason.word(),
        files: rung.files.iter().map(state).collect(),
    }
}

fn file_json(world: &World, id: FileId, folder: &str, ending: &str) -> FileJson {
    let file = world.lineage.file(id);
    let name = file.name.strip_prefix(folder).unwrap_or(&file.name);
    let name = name.strip_suffix(ending).unwrap_or(name).to_owned();
    FileJson { name, theme: world.lineage.theme_of(id).name.clone(), path: file.node.path.to_string() }
}

fn layout_json(world: &World, resolution: &Resolution) -> Option<FileJson> {
    match &resolution.layout {
        LayoutChoice::Files(files) => files.first().map(|&id| file_json(world, id, "layouts/", ".html")),
        LayoutChoice::None | LayoutChoice::Missing(..) => None,
    }
}

fn use_json(world: &World, found: &Use) -> UseJson {
    UseJson {
        what: found.what.word(),
        asked_as: found.asked_as.clone(),
        name: found.name.clone(),
        theme: world.lineage.theme_of(found.file).name.clone(),
        path: world.lineage.file(found.file).node.path.to_string(),
    }
}

/// A redirect in words.
pub fn redirect_text(address: &str, to: &str) -> String {
    format!("{}  →  {}  {}\n", styled(STRONG, &plain(address)), styled(NOTE, "301"), plain(to))
}

/// A resolution in words, with the status that it is answered with.
pub fn text(world: &World, resolution: &Resolution, status: &Status) -> String {
    let mut out = String::new();
    let request = &resolution.request;
    let style = match status.code {
        ..300 => GOOD,
        300..400 => NOTE,
        _ => BAD,
    };
    let location = status.location.as_ref().map_or(String::new(), |to| format!("  {}", plain(to)));
    let code = styled(style, &status.code.to_string());
    let _ = writeln!(out, "{}  →  {code}{location}", styled(STRONG, &plain(&request.address)));
    let _ = writeln!(out, "{}\n", plain(&subject(world, resolution)));
    if !resolution.rungs.is_empty() {
        out.push_str(&ladder::table(world, resolution));
    }
    out.push_str(&files(world, resolution, status));
    let notes = resolution.notes(world);
    if !notes.is_empty() {
        out.push('\n');
    }
    for note in notes {
        let _ = writeln!(out, "{}", wrapped(&plain(&note.text), NOTE));
    }
    out.push_str(&next(world, resolution));
    out
}

/// What an address is, in a line: its kind, and the content after it.
pub fn subject(world: &World, resolution: &Resolution) -> String {
    let request = &resolution.request;
    let content = request.content(&world.site).map(|id| world.site.content(id));
    let collection = |number: u16| {
        world.site.collections.get(usize::from(number)).map_or("", |collection| collection.config.name.text.as_str())
    };
    let what = match &request.kind {
        Kind::Entry(_) => content
            .and_then(|content| world.site.collection_of(content))
            .map_or_else(|| "entry".to_owned(), |collection| format!("entry of {}", collection.config.name.text)),
        Kind::Listing(ListingOf::Collection(number)) if request.is_feed() => format!("feed of {}", collection(*number)),
        Kind::Listing(ListingOf::Collection(number)) => format!("listing of {}", collection(*number)),
        Kind::Front(FrontOf::Collection(number)) => format!("front: listing of {}", collection(*number)),
        Kind::Listing(ListingOf::Term(id)) => match world.site.term(*id) {
            Some((taxonomy, term)) => format!("listing of the {} \"{}\"", taxonomy.config.name.text, term.label),
            None => "listing of a term".to_owned(),
        },
        Kind::Period(number, _) => format!("entries of {} by date", collection(*number)),
        Kind::Search if request.query.is_empty() => "search, for nothing yet".to_owned(),
        Kind::Search => format!("search for \"{}\"", request.query),
        Kind::Route(number, row) => {
            let route = world.site.routes.get(usize::from(*number));
            let row = row.and_then(|row| route?.rows.get(row as usize)).map_or("", |row| &row.slug);
            let name = route.map_or("", |route| route.config.name.text.as_str());
            if row.is_empty() { format!("route {name}") } else { format!("route {name}, row {row}") }
        }
        Kind::Error(404) if request.title.is_none() && request.address != error_request(404).address => {
            "error: nothing is at this address".to_owned()
        }
        Kind::Error(status) => format!("error {status}"),
        Kind::Front(_) => "front".to_owned(),
        Kind::Page(_) => "page".to_owned(),
        Kind::Sitemap(None) => "the sitemap".to_owned(),
        Kind::Sitemap(Some(part)) => format!("part {part} of the sitemap"),
        Kind::Robots => "what robots are asked for".to_owned(),
    };
    let view = request.view.as_ref().map_or(String::new(), |view| format!(", view {view}"));
    let page = if request.number > 1 { format!(", page {}", request.number) } else { String::new() };
    let what = format!("{what}{view}{page}");
    match content {
        Some(content) => format!("{what} · {}", content.path()),
        None => what,
    }
}

fn files(world: &World, resolution: &Resolution, status: &Status) -> String {
    let mut out = String::new();
    let request = &resolution.request;
    let path = |id: FileId| plain(&world.lineage.file(id).node.path);
    let mut line = |word: &str, text: &str| {
        let _ = writeln!(out, "{}  {text}", styled(FAINT, &format!("{word:<8}")));
    };
    match resolution.winner {
        Some(id) => line("renders", &path(id)),
        None if request.is_feed() => line("renders", "an Atom feed that is built in"),
        None if matches!(request.kind, Kind::Sitemap(_) | Kind::Robots) => line("renders", "a file that is built in"),
        None if matches!(request.kind, Kind::Error(_)) => line("renders", "a plain page that is built in"),
        None => line("renders", "nothing"),
    }
    let running = resolution.running(world);
    for &id in running.iter().skip(1).filter(|&&id| resolution.after.contains(&id)) {
        line("extends", &path(id));
    }
    match &resolution.layout {
        LayoutChoice::Files(files) => {
            for &id in files {
                line("inside", &path(id));
                world.next_files(id).into_iter().for_each(|next| line("extends", &path(next)));
            }
        }
        LayoutChoice::Missing(name, _) => line("inside", &format!("{}, which does not exist", name.text)),
        LayoutChoice::None if resolution.winner.is_some() => line("inside", "no layout"),
        LayoutChoice::None => {}
    }
    let uses: Vec<String> = resolution.uses(world).iter().map(|found| use_text(world, found)).collect();
    if !uses.is_empty() {
        line("uses", &wrap_list(&uses));
    }
    if let Some(place) = &status.stopped_at {
        let text = world.snapshot.file(&place.path).and_then(|node| node.text().cloned()).unwrap_or_default();
        let at = format!("{}:{}", plain(&place.path), position(&text, place.span.start).line);
        match &status.location {
            Some(to) => line("leads", &format!("to {}, by {at}", plain(to))),
            None => line("answers", &format!("with {}, by {at}", status.code)),
        }
    }
    let may = if status.rendered { Vec::new() } else { resolution.may(world) };
    if !may.is_empty() {
        let statuses: Vec<String> = may.iter().map(u16::to_string).collect();
        line("may", &format!("answer with {}", statuses.join(", ")));
    }
    debug_assert_eq!(layout_name(world, resolution).is_some(), matches!(resolution.layout, LayoutChoice::Files(_)));
    out
}

fn use_text(world: &World, found: &Use) -> String {
    let theme = &world.lineage.theme_of(found.file).name;
    if found.what != Used::Partial {
        format!("{} {} ({theme})", found.what.word(), plain(&found.name))
    } else if found.asked_as == found.name {
        format!("{} ({theme})", plain(&found.name))
    } else {
        format!("{} → {} ({theme})", plain(&found.asked_as), plain(&found.name))
    }
}

/// Things with commas between them, in lines of at most 80 columns after a word of ten.
fn wrap_list(things: &[String]) -> String {
    let mut out = String::new();
    let mut column = 10;
    for (at, thing) in things.iter().enumerate() {
        let comma = if at + 1 < things.len() { "," } else { "" };
        let width = thing.chars().count() + comma.len() + 1;
        if at > 0 && column + width > 80 {
            out.push_str("\n          ");
            column = 10;
        } else if at > 0 {
            out.push(' ');
        }
        out.push_str(thing);
        out.push_str(comma);
        column += width;
    }
    out
}

/// A sentence in lines of at most 80 columns.
pub fn wrapped(text: &str, style: anstyle::Style) -> String {
    wrapped_behind(text, 0, style)
}

/// The same after an indent.
pub fn wrapped_behind(text: &str, indent: usize, style: anstyle::Style) -> String {
    let mut lines: Vec<String> = vec![String::new()];
    for word in text.split_whitespace() {
        let last = lines.len() - 1;
        if lines[last].is_empty() {
            lines[last].push_str(word);
        } else if indent + columns(&lines[last]) + 1 + columns(word) > 78 {
            lines.push(word.to_owned());
        } else {
            lines[last].push(' ');
            lines[last].push_str(word);
        }
    }
    let line = |line: &String| format!("{}{}", " ".repeat(indent), styled(style, line));
    lines.iter().map(line).collect::<Vec<_>>().join("\n")
}

/// Where to write what would change this answer, or what to ask next.
fn next(world: &World, resolution: &Resolution) -> String {
    if leads_nowhere(resolution) {
        return nearest(world, &resolution.request.address);
    }
    let lines = changes(world, resolution);
    let lines: Vec<(String, String)> =
        lines.into_iter().map(|(what, command)| (format!("To change {what}:"), command)).collect();
    let widest = lines.iter().map(|(what, _)| columns(what)).max().unwrap_or(0);
    let fits = lines.iter().all(|(_, command)| widest + 2 + columns(command) <= 80);
    let mut out = String::new();
    for (what, command) in &lines {
        let command = to_type(command);
        let line = if fits { format!("{}  {command}", padded(what, widest)) } else { format!("{what}\n  {command}") };
        let _ = writeln!(out, "{line}");
    }
    if out.is_empty() { out } else { format!("\n{out}") }
}

/// Whether nothing is at the address that was asked for.
pub fn leads_nowhere(resolution: &Resolution) -> bool {
    resolution.request.status == 404 && resolution.request.address != error_request(404).address
}

/// For each rung on which a file would change this answer: what it would change, and the command that makes it.
pub fn changes(world: &World, resolution: &Resolution) -> Vec<(String, String)> {
    let Some(active) = world.lineage.themes.first() else { return Vec::new() };
    // A lineage that has nothing for a page needs the one file that answers everything, before any other.
    let needs_fallback = resolution.winner.is_none() && !is_built_in(&resolution.request);
    if let Some(last) = resolution.rungs.last().filter(|_| needs_fallback) {
        let command = format!("hausblatt start template {}", word(last.rung.name.trim_end_matches(".html")));
        return vec![("every page that has no other template".to_owned(), command)];
    }
    let renders = |rung: &ResolvedRung| rung.files.iter().any(|(_, state)| *state == FileState::Renders);
    let last = resolution.rungs.iter().position(renders).unwrap_or(resolution.rungs.len().saturating_sub(1));
    let mut lines: Vec<(String, String)> = Vec::new();
    // Where something built in answers, the most specific name is one to begin with.
    let none = resolution.winner.is_none();
    let last = if none && !resolution.rungs.is_empty() { 0 } else { last };
    // A file on a lower rung than the one that renders would change nothing here.
    for rung in resolution.rungs.iter().take(last + 1) {
        let Some(what) = change(world, resolution, rung) else { continue };
        let path = format!("{}templates/{}", active.root, rung.rung.name);
        let there = rung.files.iter().any(|(id, _)| world.lineage.file(*id).theme == 0);
        let command = match suggestion(world, resolution, rung) {
            _ if there => format!("edit {path}"),
            Some(command) => command,
            None => format!("hausblatt start template {}", word(&rung.rung.name)),
        };
        lines.push((what, command));
    }
    lines
}

/// What a file on a rung would change; none for rungs that are no good to suggest.
fn change(world: &World, resolution: &Resolution, rung: &ResolvedRung) -> Option<String> {
    let (request, reason) = (&resolution.request, rung.rung.reason);
    let front = matches!(request.kind, Kind::Front(_));
    if request.view.is_some() && !rung.rung.of_view {
        return None;
    }
    let view = request.view.as_ref().map_or(String::new(), |view| format!(" in the view {view}"));
    let what = match (&request.kind, reason) {
        (_, Reason::Chosen) => "all that chose this template".to_owned(),
        (_, Reason::Declared) => "all that the site's own ladder leads to this name".to_owned(),
        (_, Reason::Front) => "the front only".to_owned(),
        (_, Reason::Id) if front => return None,
        (_, Reason::Id) if is_lone(world, resolution, &rung.rung.name) => "this page only".to_owned(),
        (_, Reason::Id) => "this page in all its views".to_owned(),
        (Kind::Entry(id), Reason::Collection) => {
            format!("all {}", world.site.collection_of(world.site.content(*id))?.config.name.text)
        }
        (Kind::Listing(_), Reason::Collection) if request.is_feed() => "this feed only".to_owned(),
        (Kind::Listing(_), Reason::Collection) if !is_lone(world, resolution, &rung.rung.name) => {
            "this listing, and those by date".to_owned()
        }
        (Kind::Listing(_), Reason::Collection | Reason::Term) => "this listing only".to_owned(),
        (Kind::Listing(ListingOf::Term(id)), Reason::Taxonomy) => {
            format!("the listings of all terms of {}", world.site.term(*id)?.0.config.name.text)
        }
        (Kind::Listing(_), Reason::Ancestor) => {
            let above = rung.rung.name.strip_prefix("listing/")?.split_once('/')?.1.split_once("/all_below")?.0;
            format!("the listings of all terms below {}", plain(above))
        }
        (Kind::Period(..), Reason::Period) => "all listings of this collection by date".to_owned(),
        (Kind::Route(_, Some(_)), Reason::Route) => "this route, for all its rows".to_owned(),
        (Kind::Route(_, None), Reason::Route) => "this route only".to_owned(),
        (Kind::Search, Reason::Kind) if rung.rung.name.starts_with("search.") => "the search".to_owned(),
        (Kind::Sitemap(_) | Kind::Robots, Reason::Kind) => "this file".to_owned(),
        (Kind::Page(_), Reason::Ancestor) => {
            let ancestor = rung.rung.name.strip_prefix("page/")?.split_once("/all_below")?.0;
            format!("all pages below {}", plain(ancestor))
        }
        (Kind::Page(_), Reason::Kind) => "all pages".to_owned(),
        (Kind::Error(status), Reason::Status) => format!("the page of the error {status} only"),
        (Kind::Error(status), Reason::StatusClass) => format!("the pages of all errors {}xx", status / 100),
        (Kind::Error(_), Reason::Kind) => "the pages of all errors".to_owned(),
        _ => return None,
    };
    Some(format!("{what}{view}"))
}

fn nearest(world: &World, address: &str) -> String {
    let near = nearest_addresses(world, address);
    if near.is_empty() {
        return format!("\nTo see every address:  {}\n", to_type("hausblatt map"));
    }
    let mut out = String::from("\nThe nearest addresses that exist:\n");
    for (address, title) in near {
        let _ = writeln!(out, "  {}  {}", styled(TYPED, &plain(address)), styled(FAINT, &plain(title)));
    }
    out
}
