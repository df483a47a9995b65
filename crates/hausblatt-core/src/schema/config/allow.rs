//! `[check]` and `[rehearse]`: what a site knows of and does not want to hear of again.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::schema::config::{Spanned, placed};
use crate::text::data::Entry;
use crate::text::reader::{DataReader, group};

/// A sort of diagnostic that is not reported.
#[derive(Clone, Debug)]
pub struct Allowance {
    /// Its code.
    pub code: Spanned,
    /// The files in which it is not reported; none for all.
    pub path: Option<Spanned>,
}

/// Reads `[[check.except]]` or, as `of` says, `[[rehearse.except]]`.
pub fn read(
    path: &Arc<str>,
    of: &str,
    entries: &[Entry],
    span: Span,
    problems: &mut Vec<Diagnostic>,
) -> Vec<Allowance> {
    let member = format!("[[{of}.except]]");
    let mut reader = DataReader::new(path, format!("[{of}]"), entries, span, problems);
    let allow = reader.entry("except");
    let members = allow.and_then(|entry| {
        let members = entry.data.as_list();
        if members.is_none() {
            reader.wrong(entry, &format!("a list, each of it under {member}"));
        }
        members
    });
    reader.finish();
    members
        .unwrap_or_default()
        .iter()
        .filter_map(|data| {
            let entries = group(path, &member, data.span, data, problems)?;
            let mut reader = DataReader::new(path, member.clone(), entries, data.span, problems);
            let code = reader.required("code", "\"no-alt\"");
            let of = reader.text("path").map(placed);
            reader.finish();
            Some(Allowance { code: placed(code?), path: of })
        })
        .collect()
}
