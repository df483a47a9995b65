//! What an address of the site is answered with: a page rendered now, or a file as it is.

use std::borrow::Cow;
use std::sync::Arc;

use bumpalo::Bump;
use hausblatt_core::files::FileNode;
use hausblatt_core::lookup::map::error_request;
use hausblatt_core::lookup::public;
use hausblatt_core::model::request::{Kind, Request, Routed};
use hausblatt_core::render::page::{self, Audience, Page};
use hausblatt_core::text::address::{asked, encoded};
use hausblatt_core::world::World;
use hausblatt_lang::render::Shows;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;

use crate::serve::live::Moment;
use crate::serve::problem_page;

/// For whom an answer is made.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reader {
    /// A browser that shows a page, with marks in it for the badge.
    Browser,
    /// Any other program of the developer's: the page alone.
    Program,
    /// Visitors, as far as the server can know: even what is broken looks as it would for them.
    Visitor,
}

/// A text made for a request.
#[derive(Debug)]
pub struct MadePage {
    /// The HTTP status.
    pub status: u16,
    /// Its media type.
    pub media: Cow<'static, str>,
    /// The text.
    pub text: String,
    /// How it is published, if it is a page of the site: its format, and its address unless it is shown at any.
    pub published: Option<(Ending, Option<String>)>,
    /// Where a redirect leads, as it is in a URL.
    pub location: Option<String>,
    /// Who made it.
    pub by: By,
    /// Whether nothing is at the address.
    pub is_missed: bool,
    /// How many errors and warnings it has.
    pub problems: usize,
}

/// Who made an answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum By {
    /// A template, by its name without its extension, and its theme.
    Template(String, String),
    /// Something built in; what.
    BuiltIn(&'static str),
}

impl By {
    /// It in a few words.
    pub fn words(&self) -> String {
        match self {
            By::Template(name, theme) => format!("{name} ({theme})"),
            By::BuiltIn(what) => (*what).to_owned(),
        }
    }
}

/// The file of the site that is sent as it is for `target`: a path, and what comes after `?`.
pub fn file(moment: &Moment, target: &str) -> Option<Arc<FileNode>> {
    public::file(moment.world.as_ref().as_ref().ok()?, &asked(target).path).cloned()
}

/// What is sent for `target` in the place of its file, where that loads others.
pub fn file_text(moment: &Moment, target: &str, node: &FileNode) -> Option<String> {
    moment.world.as_ref().as_ref().ok()?.published_file(&asked(target).path, node).text
}

/// What is sent for `target` where no file is.
pub fn page(moment: &Moment, target: &str, reader: Reader) -> MadePage {
    match &*moment.world {
        Ok(world) => rendered(moment, world, target, reader),
        Err(problems) => broken(moment, target, 500, problems, reader),
    }
}

/// The page at `target`.
pub fn rendered(moment: &Moment, world: &World, target: &str, reader: Reader) -> MadePage {
    let shows = Shows { dumps: true, marks: reader == Reader::Browser, ..Shows::default() };
    let request = match world.route(target) {
        Routed::Redirect(to) => return redirect(target, &to),
        Routed::Request(request) => request,
    };
    let is_feed = request.is_feed();
    let other = other_media(&request);
    let is_missed = is_missed(&request);
    let base = (request.status < 400).then(|| request.address.clone());
    let page = page::page(world, request, Audience::Developer(shows), &Bump::new());
    // An error page that has errors itself is as worth to see as any other.
    let is_stopped = page.status == 500 || page.template.is_none();
    if is_stopped && reader != Reader::Visitor && page.diagnostics.iter().any(Diagnostic::is_error) {
        return MadePage { is_missed, ..broken(moment, target, page.status, &page.diagnostics, reader) };
    }
    let media = match page.format {
        // A route may have an address with another ending.
        _ if page.status < 400 && other.is_some() => other.unwrap_or_default(),
        Ending::Html => "text/html; charset=utf-8".into(),
        Ending::Xml if is_feed => "application/atom+xml; charset=utf-8".into(),
        Ending::Xml => "application/xml; charset=utf-8".into(),
        Ending::Json => "application/json; charset=utf-8".into(),
        Ending::Text => "text/plain; charset=utf-8".into(),
    };
    MadePage {
        status: page.status,
        media,
        by: by(world, &page),
        problems: page.diagnostics.len(),
        is_missed,
        published: Some((page.format, base)),
        location: page.location,
        text: page.text,
    }
}

impl MadePage {
    /// The same as it is sent, with versions in the addresses of files.
    pub fn with_versions(mut self, moment: &Moment) -> Self {
        if let (Some((format, base)), Ok(world)) = (&self.published, &*moment.world)
            && let Cow::Owned(text) = world.published(&self.text, *format, base.as_deref())
        {
            self.text = text;
        }
        self
    }
}

/// The media type of a route's address whose ending is none of ours.
fn other_media(request: &Request) -> Option<Cow<'static, str>> {
    let last = request.address.rsplit('/').next().filter(|last| last.contains('.') && Ending::split(last).is_none())?;
    let mime = mime_guess::from_path(last).first().filter(|_| matches!(request.kind, Kind::Route(..)))?;
    let charset = if mime.type_() == "text" { "; charset=utf-8" } else { "" };
    Some(format!("{mime}{charset}").into())
}

/// Whether nothing is at a request's address.
pub fn is_missed(request: &Request) -> bool {
    request.status == 404 && request.title.is_none() && request.address != error_request(404).address
}

fn by(world: &World, page: &Page) -> By {
    match page.template {
        Some(id) => {
            let name = world.lineage.file(id).name.trim_start_matches("templates/");
            let name = Ending::split(name).map_or(name, |(stem, _)| stem);
            By::Template(name.to_owned(), world.lineage.theme_of(id).name.clone())
        }
        None if page.location.is_some() => By::BuiltIn("redirect"),
        None => By::BuiltIn("built in"),
    }
}

fn redirect(target: &str, to: &str) -> MadePage {
    let asked = asked(target);
    // Where only a slash was missing, the query goes along; it is encoded already.
    let query = to.strip_prefix(&*asked.path).and_then(|rest| rest.strip_prefix("/?")).filter(|it| *it == asked.query);
    let location = match query {
        Some(query) => format!("{}?{query}", encoded(&format!("{}/", asked.path))),
        None => encoded(to),
    };
    let page = Page::redirect(301, location.clone());
    MadePage {
        status: 301,
        published: None,
        media: "text/html; charset=utf-8".into(),
        text: page.text,
        location: Some(location),
        by: By::BuiltIn("redirect"),
        is_missed: false,
        problems: 0,
    }
}

/// What is sent in place of a page that can't be rendered.
fn broken(moment: &Moment, target: &str, status: u16, problems: &[Diagnostic], reader: Reader) -> MadePage {
    let text = match reader {
        Reader::Visitor => "This site can't be shown at the moment.\n".to_owned(),
        Reader::Browser | Reader::Program => {
            problem_page::page(&moment.snapshot, &asked(target).path, status, problems)
        }
    };
    let media = if reader == Reader::Visitor { "text/plain; charset=utf-8" } else { "text/html; charset=utf-8" };
    MadePage {
        status,
        media: media.into(),
        published: None,
        text,
        location: None,
        by: By::BuiltIn("problems"),
        is_missed: false,
        problems: problems.len(),
    }
}
