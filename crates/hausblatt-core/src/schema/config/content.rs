//! `[content]`: what is done with Markdown.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;

use crate::text::codes;
use crate::text::data::{DataValue, Entry};
use crate::text::markdown::RawHtml;
use crate::text::reader::DataReader;

/// How images in Markdown are shown.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ImagesConfig {
    /// The widths in pixels in which they are offered, as far as they are as wide.
    pub widths: Vec<u32>,
    /// How wide they are shown, as `sizes` says it.
    pub sizes: String,
}

/// Reads `[content]`.
pub(super) fn read(
    path: &Arc<str>,
    entries: &[Entry],
    span: Span,
    problems: &mut Vec<Diagnostic>,
) -> (RawHtml, Option<ImagesConfig>) {
    let mut reader = DataReader::new(path, "[content]", entries, span, problems);
    let html = match reader.text("html") {
        None | Some(("clean", _)) => RawHtml::Clean,
        Some(("keep", _)) => RawHtml::Keep,
        Some(("escape", _)) => RawHtml::Escape,
        Some((other, span)) => {
            reader.error(
                &codes::WRONG_VALUE,
                span,
                format!("\"html\" can't be \"{other}\""),
                "write \"clean\", \"keep\" or \"escape\"".to_owned(),
            );
            RawHtml::Clean
        }
    };
    let images = reader.map("images");
    reader.finish();
    (html, images.and_then(|(entries, span)| read_images(path, entries, span, problems)))
}

/// How many widths there may be.
const MOST: usize = 50;

fn read_images(path: &Arc<str>, entries: &[Entry], span: Span, problems: &mut Vec<Diagnostic>) -> Option<ImagesConfig> {
    let mut reader = DataReader::new(path, "images", entries, span, problems);
    let sizes = reader.text("sizes").map_or("100vw", |(sizes, _)| sizes).to_owned();
    let help = || Some("write it as in widths = [640, 1280]".to_owned());
    let widths = match reader.entry("widths") {
        None => {
            reader.error(&codes::MISSING_KEY, span, "images lacks \"widths\"", help());
            None
        }
        Some(entry) => {
            let pixels = |value: &DataValue| match value {
                DataValue::Int(number) => u32::try_from(*number).ok().filter(|width| *width > 0),
                _ => None,
            };
            let members = entry.data.as_list().filter(|members| !members.is_empty() && members.len() <= MOST);
            let widths = members.and_then(|all| all.iter().map(|member| pixels(&member.value)).collect());
            if widths.is_none() {
                let message = "\"widths\" must be a list of widths in pixels";
                reader.error(&lang_codes::WRONG_TYPE, entry.data.span, message, help());
            }
            widths
        }
    };
    reader.finish();
    Some(ImagesConfig { widths: widths?, sizes })
}
