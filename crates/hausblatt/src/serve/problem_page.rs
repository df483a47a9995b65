//! Diagnostics as HTML: what is wrong, where, an excerpt, and what to do. A page that can't be rendered is one of these.

use std::fmt::{self, Formatter};

use hausblatt_core::files::Snapshot;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::{Place, Span};

use crate::html::{Fragment, Markup, in_query};
use crate::put;
use crate::serve::workbench::{self, WorkbenchPage};
use crate::show::diagnostics::{inside, lines_around, text_at};
use crate::show::style::without_number;

/// How many diagnostics a page shows.
const MOST: usize = 100;

/// The page in place of one that has errors.
pub fn page(texts: &Snapshot, address: &str, status: u16, problems: &[Diagnostic]) -> String {
    let (errors, warnings): (Vec<&Diagnostic>, Vec<&Diagnostic>) =
        problems.iter().partition(|diagnostic| diagnostic.is_error());
    let mut main = Markup::new();
    let head = match errors.len() {
        1 => "An error keeps this page from being rendered".to_owned(),
        count => format!("{count} errors keep this page from being rendered"),
    };
    put!(main, "<h1>{}</h1>\n", head);
    put!(
        main,
        "<p class=\"lead\"><code>{}</code> answers with {} and can't be rendered until it is fixed; it reloads when you save.</p>\n",
        address,
        status
    );
    put!(main, "{}", list(texts, &errors));
    if !warnings.is_empty() {
        put!(main, "<h2>Also found</h2>\n{}", list(texts, &warnings));
    }
    workbench::document(&WorkbenchPage { title: &head, here: "", main, wide: false })
}

/// Diagnostics, one below the other.
pub fn list(texts: &Snapshot, diagnostics: &[&Diagnostic]) -> Markup {
    let mut out = Markup::new();
    for diagnostic in diagnostics.iter().take(MOST) {
        put!(out, "{}", one(texts, diagnostic));
    }
    if diagnostics.len() > MOST {
        put!(out, "<p>… and {} more.</p>\n", diagnostics.len() - MOST);
    }
    out
}

fn one(texts: &Snapshot, diagnostic: &Diagnostic) -> Markup {
    let mut out = Markup::new();
    let severity = if diagnostic.is_error() { "error" } else { "warning" };
    put!(out, "<section class=\"problem {}\">\n", severity);
    put!(out, "<p class=\"what\"><b>{}</b> {}</p>\n", severity, without_number(&diagnostic.message));
    if let Some(place) = &diagnostic.place {
        put!(out, "{}", excerpt(texts, place, None));
    }
    for (place, why) in &diagnostic.related {
        put!(out, "{}", excerpt(texts, place, Some(why)));
    }
    if let Some(help) = &diagnostic.help {
        put!(out, "<p class=\"help\">→ {}</p>\n", help);
    }
    put!(out, "<p class=\"code\"><code>{}</code></p>\n</section>\n", diagnostic.code);
    out
}

/// The path of a place as a link to its file, and the lines around it with the place marked.
fn excerpt(texts: &Snapshot, place: &Place, why: Option<&str>) -> Markup {
    let mut out = Markup::new();
    let text = text_at(texts, place).filter(|_| place.span != Span::default());
    let Some(text) = text.filter(|text| !text.is_empty()) else {
        put!(out, "<p class=\"where\">{}</p>\n", file_link(&place.path, None));
        if let Some(why) = why {
            put!(out, "<p class=\"why\">{}</p>\n", why);
        }
        return out;
    };
    let range = inside(&text, place.span.range());
    let (lines, first, offset) = lines_around(&text, &range);
    let column = text[offset..range.start].chars().count() + 1;
    put!(out, "<p class=\"where\">{}:{}</p>\n", file_link(&place.path, Some(first)), column);
    put!(out, "<pre class=\"excerpt\" tabindex=\"0\">");
    let (from, to) = (range.start - offset, range.end - offset);
    let mut at = 0;
    for (number, line) in lines.split('\n').enumerate() {
        let cut = |place: usize| place.saturating_sub(at).min(line.len());
        let (start, end) = (cut(from), cut(to));
        put!(out, "<span class=\"number\">{}</span> {}", first + number, &line[..start]);
        let touched = from <= at + line.len() && to >= at;
        if touched {
            // A place without a width is where something is missing.
            put!(out, "<mark>{}</mark>", if start == end { " " } else { &line[start..end] });
        }
        put!(out, "{}\n", &line[end..]);
        at += line.len() + 1;
    }
    put!(out, "</pre>\n");
    if let Some(why) = why {
        put!(out, "<p class=\"why\">{}</p>\n", why);
    }
    out
}

/// A link to where a file can be read.
pub struct FileLink<'l> {
    path: &'l str,
    line: Option<usize>,
    words: Option<&'l str>,
}

/// A link to the file at `path`, which its words are too.
pub fn file_link(path: &str, line: Option<usize>) -> FileLink<'_> {
    FileLink { path, line, words: None }
}

impl<'l> FileLink<'l> {
    /// The same in other words.
    pub fn named(self, words: &'l str) -> Self {
        Self { words: Some(words), ..self }
    }

    /// The link as HTML.
    pub fn markup(&self) -> Markup {
        let mut out = Markup::new();
        put!(out, "{}", *self);
        out
    }
}

impl Fragment for FileLink<'_> {
    fn write(&self, out: &mut Formatter<'_>) -> fmt::Result {
        let line = self.line.map_or(String::new(), |line| format!("#L{line}"));
        let words = self.words.map_or_else(
            || self.line.map_or_else(|| self.path.to_owned(), |line| format!("{}:{line}", self.path)),
            str::to_owned,
        );
        let mut link = Markup::new();
        put!(link, "<a href=\"/~/file?path={}{}\">{}</a>", in_query(self.path), line, words);
        link.write(out)
    }
}
