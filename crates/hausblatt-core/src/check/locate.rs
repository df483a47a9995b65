//! From a place in a page to the line of the file that wrote it.

use bumpalo::Bump;
use hausblatt_lang::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::near::did_you_mean;
use hausblatt_lang::render::{Shows, piece_at, pieces, written_at};
use hausblatt_lang::source::{Place, Span};

use crate::check::tag_at;
use crate::check::view::Found;
use crate::page::{Audience, nearest_addresses, page};
use crate::public;
use crate::request::Request;
use crate::world::World;

/// The diagnostic of what was found in the page of `request`, with what is `near` where an address is lost and that is
/// asked; none where another diagnostic tells the same already.
pub fn located(
    world: &World,
    request: &Request,
    code: &'static str,
    found: &Found,
    near: bool,
    arena: &Bump,
) -> Option<Diagnostic> {
    let plain = page(world, request.clone(), Audience::Build(Shows::default()), arena);
    let place = found.at.and_then(|at| written(world, request, &plain.text, at, arena));
    let in_content = place.as_ref().is_some_and(|place| place.path.starts_with("content/"));
    if in_content && found.lost.is_some() && told_by_content(&plain.diagnostics, place.as_ref()?) {
        return None;
    }
    let template =
        || Some(Place { path: world.lineage.file(plain.template?).node.path.clone(), span: Span::default() });
    let help = match &found.lost {
        Some(lost) if near => nearest(world, lost),
        Some(_) => String::new(),
        None => found.help.clone(),
    };
    let mut diagnostic = match found.severity {
        Severity::Error => Diagnostic::error(code, found.message.clone()),
        Severity::Warning => Diagnostic::warning(code, found.message.clone()),
    };
    diagnostic.place = place.or_else(template);
    Some(if help.is_empty() { diagnostic } else { diagnostic.help(help) })
}

/// Whether what content asks for in vain is told already where its file is read.
fn told_by_content(told: &[Diagnostic], place: &Place) -> bool {
    told.iter().any(|other| {
        matches!(other.code, "dead-reference" | "missing-media" | "unknown-asset")
            && other.place.as_ref().is_some_and(|other| {
                other.path == place.path && other.span.start <= place.span.end && place.span.start <= other.span.end
            })
    })
}

/// What may have been meant by an address that leads nowhere.
fn nearest(world: &World, lost: &str) -> String {
    let path = crate::address::asked(lost).path;
    if path.starts_with("/assets/") || path.starts_with("/media/") {
        let files = public::files(world);
        return did_you_mean(&path, files.iter().map(|(path, _)| path.as_str())).unwrap_or_else(|| {
            match path.strip_prefix("/assets/") {
                Some(below) => format!("put the file at assets/{below} in a theme of the lineage"),
                None => format!("put the file at {}", path.trim_start_matches('/')),
            }
        });
    }
    match nearest_addresses(world, &path).first() {
        Some((address, _)) => format!("did you mean {address}?"),
        None => "every address and its file: hausblatt map".to_owned(),
    }
}

/// Where a byte of a page was written: in a template, or in the content that it prints.
fn written(world: &World, request: &Request, text: &str, at: usize, arena: &Bump) -> Option<Place> {
    let shows = Shows { trace: true, ..Shows::default() };
    let traced = page(world, request.clone(), Audience::Build(shows), arena);
    let (same, pieces) = pieces(&traced.text);
    if same != text {
        return None;
    }
    let piece = piece_at(&pieces, at)?;
    if piece.is_value
        && let Some(place) = in_content(world, request, tag_at(text, at))
    {
        return Some(place);
    }
    let source = world.lineage.file(world.file_of(piece.unit)).node.text()?;
    let line = tag_at(text, at);
    let span = written_at(&world.library, piece, at - piece.at, line, source)?;
    Some(Place { path: world.library.program(piece.unit)?.path.clone(), span })
}

/// Where the request's content writes a tag that its Markdown becomes.
fn in_content(world: &World, request: &Request, tag: &str) -> Option<Place> {
    let content = world.site.content(request.content(&world.site)?);
    let whole = content.node.whole_text().ok()?;
    let markdown = whole.get(content.body..)?;
    if !world.site.markdown(markdown, content.path()).contains(tag) {
        return None;
    }
    // The address or the id in it, as it is written.
    let literal = tag.split(['"', '\'']).skip(1).step_by(2).filter(|value| !value.is_empty());
    let found = literal.into_iter().find_map(|value| Some((markdown.find(value)?, value.len())));
    let (at, length) = found
        .or_else(|| Some((markdown.find(tag)?, tag.trim_end().len())))
        .unwrap_or_else(|| (markdown.len() - markdown.trim_start().len(), 0));
    Some(Place { path: content.path().clone(), span: Span::new(content.body + at, content.body + at + length) })
}
