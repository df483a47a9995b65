//! From a place in a page to the line of the file that wrote it.

use std::cell::OnceCell;

use bumpalo::Bump;
use hausblatt_lang::render::{Piece, Shows, piece_at, pieces, written_at};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::{Place, Span};
use hausblatt_lang::text::suggest::did_you_mean;

use crate::check::rules::broken_link::is_file;
use crate::check::tag_at;
use crate::check::view::PageProblem;
use crate::lookup::public;
use crate::model::request::Request;
use crate::render::page::{Audience, Page, nearest_addresses, page};
use crate::text::codes;
use crate::world::World;

/// A page in which something was found, and where each piece of it was written.
pub(crate) struct Located<'w> {
    world: &'w World,
    request: &'w Request,
    plain: Page,
    /// None where the page reads differently when it is traced.
    pieces: Option<Vec<Piece>>,
    /// The HTML of the content's own text.
    body: OnceCell<String>,
}

impl<'w> Located<'w> {
    /// Renders the page of `request` with the signs that say who wrote what.
    pub fn new(world: &'w World, request: &'w Request, arena: &Bump) -> Self {
        let plain = page(world, request.clone(), Audience::Build(Shows::default()), arena);
        let shows = Shows { trace: true, ..Shows::default() };
        let traced = page(world, request.clone(), Audience::Build(shows), arena);
        let (same, pieces) = pieces(&traced.text);
        let pieces = (same == plain.text).then_some(pieces);
        Self { world, request, plain, pieces, body: OnceCell::new() }
    }

    /// The diagnostic of what was found in the page, with what is `near` where an address is lost and that is asked;
    /// none where another diagnostic says the same already.
    pub fn diagnostic(&self, code: &Code, found: &PageProblem, near: bool) -> Option<Diagnostic> {
        if found.of_template && found.at.is_none_or(|at| !self.is_of_template(at)) {
            return None;
        }
        let written = found.at.and_then(|at| self.written(at));
        let in_content = written.as_ref().is_some_and(|place| place.path.starts_with("content/"));
        // What content writes in its text, or a template itself, is not what a template made of a value.
        if found.place.is_some() && (in_content || !self.prints_alt(written.as_ref()?)) {
            return None;
        }
        let place = found.place.clone().or(written);
        if in_content && found.lost.is_some() && told_by_content(&self.plain.diagnostics, place.as_ref()?) {
            return None;
        }
        if let (Some(address), Some(place)) = (&found.of_menu, &place)
            && !self.writes_out(place, address)
        {
            return None;
        }
        let template = || {
            let path = self.world.lineage.file(self.plain.template?).node.path.clone();
            Some(Place { path, span: Span::default() })
        };
        let help = match &found.lost {
            Some(lost) if near => nearest(self.world, &self.request.address, lost),
            Some(_) => String::new(),
            None => found.help.clone(),
        };
        let mut diagnostic = Diagnostic::of(code, found.message.clone());
        diagnostic.place = place.or_else(template);
        Some(if help.is_empty() { diagnostic } else { diagnostic.help(help) })
    }

    /// Whether the tag that a template writes at a place prints a value as its alt.
    fn prints_alt(&self, place: &Place) -> bool {
        let text = self.world.snapshot.file(&place.path).and_then(|node| node.whole_text().ok()).unwrap_or_default();
        let tag = text.get(place.span.range().start..).and_then(|rest| rest.split("alt=").nth(1)).unwrap_or_default();
        tag.trim_start_matches(['"', '\'']).starts_with("+{")
    }

    /// Whether an address is written at a place, not printed there.
    fn writes_out(&self, place: &Place, address: &str) -> bool {
        let text = self.world.snapshot.file(&place.path).and_then(|node| node.whole_text().ok()).unwrap_or_default();
        text.get(place.span.range()).is_some_and(|written| written.contains(address))
    }

    /// Whether a template writes a byte of the page out.
    fn is_of_template(&self, at: usize) -> bool {
        self.pieces.as_ref().and_then(|pieces| piece_at(pieces, at)).is_some_and(|piece| !piece.is_value)
    }

    /// Where a byte of the page was written: in a template, or in the content that it prints.
    fn written(&self, at: usize) -> Option<Place> {
        let piece = piece_at(self.pieces.as_ref()?, at)?;
        let line = tag_at(&self.plain.text, at);
        if piece.is_value
            && let Some(place) = self.in_content(line)
        {
            return Some(place);
        }
        in_template(self.world, piece, at, line)
    }

    /// Where the request's content writes a tag that its Markdown becomes.
    fn in_content(&self, tag: &str) -> Option<Place> {
        let content = self.world.site.content(self.request.content(&self.world.site)?);
        let whole = content.node.whole_text().ok()?;
        let markdown = whole.get(content.body..)?;
        let html = self.body.get_or_init(|| self.world.site.markdown(markdown, content.path()));
        if !html.contains(tag) {
            return None;
        }
        // The address or the id in it, as it is written, or else its words. Sizes were not written by content.
        let is_number = |value: &str| value.bytes().all(|byte| byte.is_ascii_digit());
        let literal = tag.split(['"', '\'']).skip(1).step_by(2).filter(|value| !is_number(value));
        let found = literal.into_iter().find_map(|value| Some((markdown.find(value)?, value.len())));
        let (at, length) = found
            .or_else(|| Some((markdown.find(tag)?, tag.trim_end().len())))
            .unwrap_or_else(|| (markdown.len() - markdown.trim_start().len(), 0));
        Some(Place { path: content.path().clone(), span: Span::new(content.body + at, content.body + at + length) })
    }
}

/// Where a template writes a byte of a page that belongs to this piece of it and begins this line.
pub(crate) fn in_template(world: &World, piece: &Piece, at: usize, line: &str) -> Option<Place> {
    let source = world.lineage.file(world.file_of(piece.unit)).node.text()?;
    let span = written_at(&world.library, piece, at - piece.at, line, source)?;
    Some(Place { path: world.library.program(piece.unit)?.path.clone(), span })
}

/// Whether what content needs and does not find is reported already where its file is read.
fn told_by_content(told: &[Diagnostic], place: &Place) -> bool {
    told.iter().any(|other| {
        [lang_codes::DEAD_REFERENCE.name, codes::MISSING_MEDIA.name, codes::UNKNOWN_ASSET.name].contains(&other.code)
            && other.place.as_ref().is_some_and(|other| {
                other.path == place.path && other.span.start <= place.span.end && place.span.start <= other.span.end
            })
    })
}

/// What may have been meant by an address that is a broken link, as the page at `from` writes it.
pub(super) fn nearest(world: &World, from: &str, lost: &str) -> String {
    let path = crate::text::address::asked(lost).path;
    let public = path.starts_with("/assets/") || path.starts_with("/media/");
    // A path without a slash in front goes on from the page's own.
    let folder = from.rfind('/').map_or(from, |at| &from[..=at]);
    let slashed = path.strip_prefix(folder).map(|rest| format!("/{rest}"));
    if let Some(slashed) = slashed.filter(|it| *it != path && world.site.addresses.contains_key(it.as_str())) {
        return format!("did you mean {slashed}? An address begins with a slash");
    }
    if public {
        let files = public::files(world);
        if let Some(help) = did_you_mean(&path, files.iter().map(|(path, _)| path.as_str())) {
            return help;
        }
    } else if let Some((near, _)) =
        nearest_addresses(world, &path).into_iter().find(|(near, _)| *near != from && !path.starts_with(near))
    {
        return format!("did you mean {near}?");
    }
    let name = path.rsplit('/').next().unwrap_or("");
    match path.strip_prefix("/assets/") {
        Some(below) => format!("put the file at assets/{below} in a theme of the lineage"),
        None if public => format!("put the file at {}", path.trim_start_matches('/')),
        None if name.contains('@') => format!("write mailto:{name}"),
        None if name.starts_with("www.") => format!("write https://{name}"),
        None if is_file(&path) => format!("files are in media/: put it at media/{name}, and write /media/{name}"),
        None => "every address and its file: hausblatt map".to_owned(),
    }
}
