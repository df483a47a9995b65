//! What the text of content refers to and loses: broken links, files that are not there, HTML that is removed.

use std::ops::Range;
use std::sync::{Arc, LazyLock};

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use memchr::memchr_iter;
use memchr::memmem::Finder;
use rustc_hash::FxHashSet;

use crate::model::content::ContentId;
use crate::model::site::{Link, SORTS};
use crate::text::clean::DEEPEST;
use crate::text::codes;
use crate::text::markdown::{self, RawHtml};
use crate::text::markdown_slips::slips;
use crate::world::World;

/// What the text of some content needs and does not find: broken links, and files that are not there.
pub(crate) fn of_text(world: &World, id: ContentId) -> Vec<Diagnostic> {
    let content = world.site.content(id);
    let problem = |(link, range): (String, Range<usize>)| {
        let span = Span::new(content.body + range.start, content.body + range.end);
        Some(problem_of(world, &link, content.path())?.at(content.path(), span))
    };
    content.markdown(|body| {
        let mut found: Vec<Diagnostic> = match may_ask(body.as_bytes()) {
            true => markdown::links(body).filter_map(problem).collect(),
            false => Vec::new(),
        };
        found.extend(empty_trays(world, id, body));
        found.extend(lost_in_text(world, body).into_iter().map(|(diagnostic, range)| {
            diagnostic.at(content.path(), Span::new(content.body + range.start, content.body + range.end))
        }));
        found
    })
}

/// Trays in a text in which its content places nothing.
fn empty_trays(world: &World, id: ContentId, text: &str) -> Vec<Diagnostic> {
    let content = world.site.content(id);
    let placed: Vec<&str> = world.trays_of(id).iter().map(|tray| tray.name.as_str()).collect();
    let empty = markdown::trays(text).into_iter().filter(|(name, _)| !placed.contains(&name.as_str()));
    let report = |(name, at): (String, Range<usize>)| {
        let message = format!("this text has the tray \"{name}\" in it, and its content places nothing there");
        let help = || format!("write trays: and below it {name}: into its front matter");
        let diagnostic = Diagnostic::of(&codes::UNKNOWN_TRAY, message).meaning(&name, placed.iter().copied());
        diagnostic.or_help(help).at(content.path(), Span::new(content.body + at.start, content.body + at.end))
    };
    empty.map(report).collect()
}

/// What Markdown says that its readers don't see, or see as it was typed: HTML that is removed, and references to
/// footnotes without text.
pub(crate) fn lost_in_text(world: &World, text: &str) -> Vec<(Diagnostic, Range<usize>)> {
    let mut found = Vec::new();
    let bytes = text.as_bytes();
    let has_tag = || memchr_iter(b'<', bytes).any(|at| bytes.get(at + 1).is_some_and(u8::is_ascii_alphabetic));
    if world.site.config.raw_html == RawHtml::Clean && markdown::nests_too_deep(text) {
        let message = format!("the HTML here nests more than {DEEPEST} deep, so it is shown as text");
        found.push((Diagnostic::warning(&lang_codes::TOO_DEEP, message).help("end the elements that are open"), 0..0));
    } else if world.site.config.raw_html == RawHtml::Clean && has_tag() {
        for (what, at) in markdown::removed_html(text) {
            let end = text[at..].find(['>', '\n']).map_or(text.len(), |length| at + length + 1);
            let help =
                "the HTML of editors is cleaned; to keep all of it: html = \"keep\" in [content] of hausblatt.toml";
            found.push((Diagnostic::of(&codes::REMOVED_HTML, what).help(help), at..end));
        }
    }
    if memchr::memmem::find(bytes, b"[^").is_some() {
        let mut told = FxHashSet::default();
        for (label, range) in markdown::missing_footnotes(text) {
            if !told.insert(label.clone()) {
                continue;
            }
            let message = format!("the footnote \"{label}\" has no text");
            let help = format!("write it below: [^{label}]: …");
            found.push((Diagnostic::of(&codes::MISSING_FOOTNOTE, message).help(help), range));
        }
    }
    found.extend(slips(text, SORTS));
    found
}

/// Whether a text holds anything that looks like a reference or a file of the site: most do not, and need not be
/// read as Markdown here.
fn may_ask(text: &[u8]) -> bool {
    static FILES: LazyLock<[Finder<'static>; 3]> = LazyLock::new(|| [".md", "/media/", "/assets/"].map(Finder::new));
    let is_reference = |at: usize| SORTS.iter().any(|sort| text[..at].ends_with(sort.as_bytes()));
    memchr_iter(b':', text).any(is_reference) || FILES.iter().any(|finder| finder.find(text).is_some())
}

pub(crate) fn problem_of(world: &World, link: &str, path: &Arc<str>) -> Option<Diagnostic> {
    match world.site.link(link, path) {
        Link::To(address) => missing_file(world, &address),
        Link::Dead(message, lost) => {
            Some(Diagnostic::warning(&lang_codes::DEAD_REFERENCE, message).maybe_help(world.site.help(&lost)))
        }
    }
}

/// A file below `/media/` or `/assets/` that is not there.
pub(crate) fn missing_file(world: &World, address: &str) -> Option<Diagnostic> {
    let path = address.split(['?', '#']).next().unwrap_or(address);
    let decoded = percent_encoding::percent_decode_str(path).decode_utf8_lossy();
    let files = || world.snapshot.below("media/").map(|node| &*node.path);
    if let Some(asset) = decoded.strip_prefix("/assets/") {
        if world.asset(asset).or_else(|| world.component_asset(asset)).is_some() {
            return None;
        }
        let assets = world.lineage.files.iter().filter_map(|file| file.name.asset());
        let help = did_you_mean(asset, assets);
        let message = format!("no theme of the lineage has the asset \"{asset}\"");
        return Some(Diagnostic::warning(&codes::UNKNOWN_ASSET, message).maybe_help(help));
    }
    let media = decoded.strip_prefix('/').filter(|path| path.starts_with("media/"))?;
    if world.snapshot.file(media).is_some() {
        return None;
    }
    let help = did_you_mean(media, files()).unwrap_or_else(|| format!("put the file at {media}"));
    Some(Diagnostic::of(&codes::MISSING_MEDIA, format!("there is no file {media}")).help(help))
}
