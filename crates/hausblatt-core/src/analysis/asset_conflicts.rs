//! Conflicts that a merge left in files that are published as they are: styles, scripts, drawings.

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::files::FileNode;
use crate::lookup::public;
use crate::text::conflict;
use crate::world::World;

/// Extensions of files that are text, and are merged line by line.
const TEXTS: &[&str] = &["css", "js", "mjs", "svg", "json", "xml", "txt", "html", "csv", "webmanifest"];

/// The conflicts in one such file, an error each; none in one that can't be read.
pub fn of_file(node: &FileNode) -> Vec<Diagnostic> {
    let is_text = node.path.rsplit_once('.').is_some_and(|(_, extension)| TEXTS.contains(&extension));
    let Some(text) = is_text.then(|| node.whole_text().ok()).flatten() else { return Vec::new() };
    let found = conflict::diagnostics(&text, conflict::Format::Other);
    let told = |(mut diagnostic, span): (Diagnostic, Span)| {
        // The file's text is not held, so the place in it is said in words.
        let line = text[..span.range().start].matches('\n').count() + 1;
        diagnostic.message = format!("a merge left a conflict on line {line}");
        diagnostic.at(&node.path, Span::default())
    };
    found.into_iter().map(told).collect()
}

/// The conflicts in all files that are published as they are.
pub(crate) fn of_site(world: &World) -> Vec<Diagnostic> {
    public::files(world).into_iter().flat_map(|(_, node)| of_file(node)).collect()
}
