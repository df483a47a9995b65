//! Suggestions that are certain, made into changes of files.

use std::collections::BTreeMap;
use std::sync::Arc;

use hausblatt_lang::text::source::Span;

use crate::check::Finding;
use crate::files::Snapshot;
use crate::files::edit::Write;

/// A change of one place.
struct TextChange {
    span: Span,
    to: String,
}

/// What fixes all that can be fixed with certainty, and of how many findings that is all. No other byte is touched;
/// where two changes would meet, only the first is made.
pub fn fixes(snapshot: &Snapshot, findings: &[Finding]) -> (Vec<Write>, usize) {
    let mut files: BTreeMap<Arc<str>, Vec<TextChange>> = BTreeMap::new();
    for diagnostic in findings.iter().flat_map(|finding| std::iter::once(&finding.diagnostic).chain(&finding.also)) {
        let (Some(place), Some(fix)) = (&diagnostic.place, &diagnostic.fix) else { continue };
        let text = snapshot.file(&place.path).and_then(|node| node.whole_text().ok());
        if let Some(span) = text.and_then(|text| fix.goes(&text, place.span)) {
            files.entry(place.path.clone()).or_default().push(TextChange { span, to: fix.to.clone() });
        }
    }
    let mut count = 0;
    let mut writes = Vec::new();
    for (path, mut changes) in files {
        let Some(text) = snapshot.file(&path).and_then(|node| node.whole_text().ok()) else { continue };
        changes.sort_by_key(|change| change.span);
        let (mut mended, mut at) = (String::with_capacity(text.len()), 0);
        for TextChange { span, to } in changes {
            let range = span.range();
            if range.start >= at
                && let Some(before) = text.get(at..range.start)
            {
                mended.push_str(before);
                mended.push_str(&to);
                at = range.end;
                count += 1;
            }
        }
        mended.push_str(&text[at..]);
        writes.push(Write::instead_of(&*path, text.as_bytes(), mended));
    }
    (writes, count)
}
