//! `render`: the HTML of an address.

use std::borrow::Cow;

use bumpalo::Bump;
use hausblatt_core::analysis::sent_file::SentFile;
use hausblatt_core::files::Depth;
use hausblatt_core::lookup::public;
use hausblatt_core::model::request::Routed;
use hausblatt_core::render::outline::OutlinePart;
use hausblatt_core::render::page::{Audience, ComponentPreview, Page, component_alone, nearest_addresses, page};
use hausblatt_core::world::World;
use hausblatt_lang::render::Shows;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::which_of;
use serde::Serialize;

use crate::cli::RenderArgs;
use crate::cmd::{json, print, written};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::parts;
use crate::show::style::{NOTE, plain, styled};

/// A rendered page as JSON.
#[derive(Serialize)]
struct Rendered {
    address: String,
    status: u16,
    location: Option<String>,
    html: String,
}

/// A component rendered alone, as JSON.
#[derive(Serialize)]
struct Component {
    component: String,
    html: String,
}

/// The parts of a page as JSON.
#[derive(Serialize)]
struct Outlined {
    address: String,
    status: u16,
    parts: Vec<OutlinePart>,
}

/// Runs the command.
pub fn run(common: &Common, args: &RenderArgs) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Whole)?;
    if let Some(name) = &args.component {
        return component(common, args, world, name);
    }
    let address = opened::address(world, args.address.as_deref().unwrap_or("/"))?;
    let path = hausblatt_core::text::address::asked(&address).path;
    if let Some(file) = world.sent_file(&address) {
        return text_of_file(common, world, &file);
    }
    let shows = Shows { dumps: true, marks: args.marks || args.outline, ..Shows::default() };
    let mut rendered = answer(world, &address, shows);
    let base = (rendered.status < 400).then_some(&*path);
    if let (None, Cow::Owned(text)) = (&rendered.location, world.published(&rendered.text, rendered.format, base)) {
        rendered.text = text;
    }
    if args.outline {
        outline(common, &path, &rendered)?;
    } else if common.format == Format::Json {
        json(&Rendered {
            address: path.clone(),
            status: rendered.status,
            location: rendered.location.clone(),
            html: rendered.text.clone(),
        })?;
    } else {
        print_html(&rendered.text)?;
    }
    if let Some(to) = &rendered.location {
        crate::tell!("{} {} redirects to {} ({})", styled(NOTE, "note:"), plain(&path), plain(to), rendered.status);
    }
    if rendered.status == 404 {
        let near: Vec<&str> = nearest_addresses(world, &path).into_iter().map(|(address, _)| address).collect();
        let nearest = which_of(&near).map_or(String::new(), |near| format!("; {near}"));
        crate::tell!("{} {} answers with 404{}", styled(NOTE, "note:"), plain(&path), plain(&nearest));
    }
    let mut diagnostics = rendered.diagnostics;
    diagnostics
        .extend(noticed(world, &address).into_iter().filter(|one| !diagnostics.contains(one)).collect::<Vec<_>>());
    Ok(opened::accept(world, &diagnostics, common).and(rendered.status < 400))
}

/// Prints a file as it is sent.
fn text_of_file(common: &Common, world: &World, file: &SentFile) -> Result<Outcome, Failure> {
    let node = public::file(world, &file.address).filter(|_| file.made.is_none());
    let text = node.and_then(|node| {
        world.published_file(&file.address, node).text.or_else(|| node.whole_text().ok().map(|text| text.to_string()))
    });
    let Some(text) = text else {
        let what = if file.made.is_some() { "an image that is made of" } else { "the file" };
        let message = format!("there is no text at {}: it is {what} {}", file.address, file.path);
        return Err(Failure::Work(message, Some("build writes it into the output folder, serve sends it".to_owned())));
    };
    if common.format == Format::Json {
        json(&Rendered { address: file.address.clone(), status: 200, location: None, html: text })?;
    } else {
        print_html(&text)?;
    }
    Ok(opened::accept(world, &[], common))
}

fn component(common: &Common, args: &RenderArgs, world: &World, name: &str) -> Result<Outcome, Failure> {
    let alone = ComponentPreview { name: name.to_owned(), set: args.set.clone(), document: args.document };
    let shows = Shows { dumps: true, marks: args.marks, ..Shows::default() };
    let page = match component_alone(world, &alone, shows) {
        Ok(page) => page,
        Err(problems) => {
            return Ok(opened::accept(world, &problems, common).and(false));
        }
    };
    if common.format == Format::Json {
        json(&Component { component: name.to_owned(), html: page.text.clone() })?;
    } else {
        print_html(&page.text)?;
    }
    Ok(opened::accept(world, &page.diagnostics, common))
}

/// What was noticed in the files that the answer uses, before it was rendered.
fn noticed(world: &World, address: &str) -> Vec<Diagnostic> {
    match world.route(address) {
        Routed::Request(request) => world.problems_of(&world.resolve(request)).into_iter().cloned().collect(),
        Routed::Redirect(_) => Vec::new(),
    }
}

fn outline(common: &Common, path: &str, rendered: &Page) -> Result<(), Failure> {
    let (_, parts) = hausblatt_core::render::outline::outline(&rendered.text);
    if common.format == Format::Json {
        return json(&Outlined { address: path.to_owned(), status: rendered.status, parts });
    }
    print(&parts::text(path, rendered.status, &parts))
}

fn answer(world: &World, address: &str, shows: Shows) -> Page {
    match world.route(address) {
        Routed::Redirect(to) => Page::redirect(301, to),
        Routed::Request(request) => page(world, request, Audience::Developer(shows), &Bump::new()),
    }
}

/// HTML goes out as it is, without a look for colours in it.
fn print_html(html: &str) -> Result<(), Failure> {
    use std::io::Write;
    let mut out = std::io::stdout().lock();
    let end: &[u8] = if html.ends_with('\n') { b"" } else { b"\n" };
    written(out.write_all(html.as_bytes()).and_then(|()| out.write_all(end)).and_then(|()| out.flush()))
}
