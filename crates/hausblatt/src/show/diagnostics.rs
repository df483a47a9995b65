//! Diagnostics on a terminal: what, where, an excerpt, and what to do.

use std::ops::Range;

use annotate_snippets::renderer::DecorStyle;
use annotate_snippets::{AnnotationKind, Group, Level, Origin, Renderer, Snippet};
use hausblatt_core::files::Snapshot;
use hausblatt_core::world::in_order;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Place;
use serde::Serialize;

use crate::options::Common;
use crate::show::style::{self, plain, turns_direction, without_number};

/// How many warnings are shown without `-v`.
const MOST_WARNINGS: usize = 20;
/// How many errors are shown without `-v`.
const MOST_ERRORS: usize = 50;

/// Shows diagnostics on standard error: all errors, and as many warnings as fit.
pub fn show(texts: &Snapshot, diagnostics: &[Diagnostic], common: &Common) {
    let drawer = Drawer::new();
    let (errors, warnings): (Vec<&Diagnostic>, Vec<&Diagnostic>) =
        diagnostics.iter().partition(|diagnostic| diagnostic.is_error());
    let most = |count: usize| if common.verbose { usize::MAX } else { count };
    let warnings_wanted = if common.quiet && !common.strict { 0 } else { most(MOST_WARNINGS) };
    let mut shown: Vec<&Diagnostic> =
        errors.iter().take(most(MOST_ERRORS)).chain(warnings.iter().take(warnings_wanted)).copied().collect();
    shown.sort_by(|a, b| in_order(a, b));
    for diagnostic in shown {
        crate::tell!("{}\n", drawer.drawn(texts, diagnostic));
    }
    more(errors.len(), most(MOST_ERRORS), "error");
    if !common.quiet {
        more(warnings.len(), warnings_wanted, "warning");
    }
}

/// A diagnostic in the JSON shape of `docs/commands.md`.
#[derive(Clone, Debug, Serialize)]
pub struct DiagnosticJson {
    code: &'static str,
    severity: &'static str,
    message: String,
    help: Option<String>,
    path: Option<String>,
    line: Option<usize>,
    column: Option<usize>,
    end_line: Option<usize>,
    end_column: Option<usize>,
    addresses: Vec<String>,
}

/// A diagnostic as data. Lines and columns count from 1, columns in characters; the end is the column after the last one.
pub fn json(texts: &Snapshot, diagnostic: &Diagnostic, addresses: &[String]) -> DiagnosticJson {
    let path = diagnostic.place.as_ref().map(|place| place.path.to_string());
    let range = diagnostic.place.as_ref().and_then(|place| {
        let text = texts.file(&place.path)?.text()?;
        Some((position(text, place.span.start as usize), position(text, place.span.end as usize)))
    });
    let (start, end) = range.unzip();
    DiagnosticJson {
        code: diagnostic.code,
        severity: if diagnostic.is_error() { "error" } else { "warning" },
        message: without_number(&diagnostic.message),
        help: diagnostic.help.clone(),
        path,
        line: start.map(|(line, _)| line),
        column: start.map(|(_, column)| column),
        end_line: end.map(|(line, _)| line),
        end_column: end.map(|(_, column)| column),
        addresses: addresses.to_vec(),
    }
}

/// The line and the column of a byte, both from 1; columns in characters.
pub fn position(text: &str, at: usize) -> (usize, usize) {
    let at = inside(text, at..at).start;
    let start = text[..at].rfind('\n').map_or(0, |at| at + 1);
    (text[..start].bytes().filter(|&byte| byte == b'\n').count() + 1, text[start..at].chars().count() + 1)
}

fn more(count: usize, shown: usize, what: &str) {
    let rest = count.saturating_sub(shown);
    if rest > 0 {
        let plural = if rest == 1 { "" } else { "s" };
        crate::tell!("{} {rest} more {what}{plural}; -v shows all.\n", style::styled(style::NOTE, "and"));
    }
}

/// Draws diagnostics.
pub struct Drawer(Renderer);

impl Drawer {
    /// With colours that can be read on light and dark terminals; the bright ones can't on light ones.
    pub fn new() -> Self {
        let renderer = Renderer::styled()
            .decor_style(DecorStyle::Unicode)
            .term_width(80)
            .error(style::BAD)
            .warning(style::NOTE)
            .line_num(style::TYPED)
            .context(style::TYPED);
        Self(renderer)
    }

    /// A diagnostic with its excerpt, without a line break at the end.
    pub fn drawn(&self, texts: &Snapshot, diagnostic: &Diagnostic) -> String {
        drawn(&self.0, texts, diagnostic)
    }
}

fn drawn(renderer: &Renderer, texts: &Snapshot, diagnostic: &Diagnostic) -> String {
    let level = if diagnostic.is_error() { Level::ERROR } else { Level::WARNING };
    let head = diagnostic.code.len() + if diagnostic.is_error() { 9 } else { 11 };
    let title = level.primary_title(wrapped(&plain(&without_number(&diagnostic.message)), head)).id(diagnostic.code);
    let mut group = Group::with_title(title);
    if let Some(place) = &diagnostic.place {
        group = excerpt(group, texts, place, AnnotationKind::Primary, None);
    }
    for (place, why) in &diagnostic.related {
        group = excerpt(group, texts, place, AnnotationKind::Context, Some(plain(why)));
    }
    if let Some(help) = &diagnostic.help {
        group = group.element(Level::HELP.message(wrapped(&plain(help), 12)));
    }
    renderer.render(&[group])
}

/// A text in lines of at most 80 columns, behind so many columns.
pub fn wrapped(text: &str, behind: usize) -> String {
    let mut out = String::with_capacity(text.len());
    let mut column = behind;
    for (at, word) in text.split(' ').enumerate() {
        let width = style::columns(word);
        if at > 0 && column + width + 1 > 80 {
            out.push('\n');
            column = behind;
        } else if at > 0 {
            out.push(' ');
            column += 1;
        }
        out.push_str(word);
        column += width;
    }
    out
}

/// Adds the lines around a place; without its text, only the path.
fn excerpt<'g>(
    group: Group<'g>,
    texts: &Snapshot,
    place: &Place,
    kind: AnnotationKind,
    label: Option<String>,
) -> Group<'g> {
    let path = plain(&place.path);
    let text = texts.file(&place.path).and_then(|node| node.text());
    let whole_file = place.span == hausblatt_lang::text::source::Span::default();
    let Some(text) = text.filter(|text| !whole_file && !text.is_empty()) else {
        let origin = Origin::path(path);
        let group = group.element(if text.is_some() { origin.line(1) } else { origin });
        return match label {
            Some(label) => group.element(Level::NOTE.message(label)),
            None => group,
        };
    };
    let range = inside(text, place.span.range());
    let (lines, start, offset) = lines_around(text, &range);
    let range = range.start - offset..range.end - offset;
    let annotation = kind.span(range).label(label);
    group.element(Snippet::source(lines).path(path).line_start(start).annotation(annotation))
}

/// The range within the text, on character boundaries.
pub fn inside(text: &str, range: Range<usize>) -> Range<usize> {
    let boundary = |at: usize| {
        let mut at = at.min(text.len());
        while !text.is_char_boundary(at) {
            at -= 1;
        }
        at
    };
    let start = boundary(range.start);
    start..boundary(range.end).max(start)
}

/// The lines that a range touches, the number of the first, and where it begins.
pub fn lines_around(text: &str, range: &Range<usize>) -> (String, usize, usize) {
    let start = text[..range.start].rfind('\n').map_or(0, |at| at + 1);
    let number = text[..start].bytes().filter(|&byte| byte == b'\n').count() + 1;
    let mut end = range.end;
    end = text[end..].find('\n').map_or(text.len(), |at| end + at);
    // Control characters would reach the terminal; spaces of the same length keep every place right.
    let mut lines = String::with_capacity(end - start);
    for c in text[start..end].chars() {
        match c {
            '\n' => lines.push(c),
            _ if c.is_control() || turns_direction(c) => lines.extend(std::iter::repeat_n(' ', c.len_utf8())),
            _ => lines.push(c),
        }
    }
    (lines, number, start)
}
