//! The scripts and styles that are written into a page.

use std::sync::Arc;

use crate::check::view::View;
use crate::text::scripts::{self, Scripts};
use crate::text::styles::{self, Styles};

/// The text of a `<script>` or `<style>` of a page.
pub(crate) struct InlineText<'v> {
    /// Its type, in lower case; empty where it has none.
    pub kind: String,
    /// Where its text begins in the page.
    pub start: usize,
    /// Its text.
    pub text: &'v str,
}

/// The elements of this name, `script` or `style`, that have their text in the page, whatever their type.
pub(crate) fn of_page<'v>(view: &View<'v>, name: &'static str) -> impl Iterator<Item = InlineText<'v>> {
    let text = view.text;
    view.page.named(name).filter(|element| element.attribute("src").is_none()).filter_map(move |element| {
        let (start, text) = content(text, element.at?, name)?;
        let kind = element.attribute("type").unwrap_or("").trim().to_ascii_lowercase();
        Some(InlineText { kind, start, text })
    })
}

/// The styles that are written into a page, each with where it begins and what it says.
pub(crate) fn styles(view: &View<'_>) -> Vec<(usize, Styles)> {
    let is_css = |kind: &str| matches!(kind, "" | "text/css");
    of_page(view, "style")
        .filter(|style| is_css(&style.kind))
        .map(|style| (style.start, styles::read(style.text)))
        .collect()
}

/// The scripts that are written into a page and that browsers run, each with where it begins and what it says: read once,
/// however many pages have it.
pub(crate) fn scripts(view: &View<'_>) -> Vec<(usize, Arc<Scripts>)> {
    let is_run = |kind: &str| matches!(kind, "" | "module" | "text/javascript" | "application/javascript");
    let read = |script: InlineText<'_>| {
        let known = view.world.inline_scripts.read().ok().and_then(|known| known.get(script.text).cloned());
        let says = known.unwrap_or_else(|| {
            let says = Arc::new(scripts::read(script.text));
            if let Ok(mut known) = view.world.inline_scripts.write() {
                known.insert(script.text.into(), says.clone());
            }
            says
        });
        (script.start, says)
    };
    of_page(view, "script").filter(|script| is_run(&script.kind)).map(read).collect()
}

/// What is between the tag that begins at `from` and its end, and where that begins.
fn content<'p>(page: &'p str, from: usize, name: &str) -> Option<(usize, &'p str)> {
    let mut quote = None;
    let length = page.get(from..)?.find(|c: char| {
        match quote {
            Some(open) if open == c => quote = None,
            None if matches!(c, '"' | '\'') => quote = Some(c),
            _ => {}
        }
        c == '>' && quote.is_none()
    })?;
    let start = from + length + 1;
    let rest = &page[start..];
    let end = memchr::memmem::find(rest.as_bytes(), format!("</{name}").as_bytes()).unwrap_or(rest.len());
    Some((start, &rest[..end]))
}
