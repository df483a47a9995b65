//! `[build]`: how files are published.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_small::{BROWSERS, Browsers};

use crate::text::codes;
use crate::text::data::{DataValue, Entry};
use crate::text::reader::DataReader;

/// How files are published.
#[derive(Clone, Debug)]
pub struct BuildConfig {
    /// Whether their addresses have versions.
    pub has_versions: bool,
    /// Whether style sheets are made small.
    pub small_styles: bool,
    /// Whether scripts are made small.
    pub small_scripts: bool,
    /// The oldest browsers that small style sheets have to be right in.
    pub browsers: Browsers,
}

impl Default for BuildConfig {
    fn default() -> Self {
        Self { has_versions: true, small_styles: false, small_scripts: false, browsers: Browsers::default() }
    }
}

/// Reads `[build]`.
pub(super) fn read(path: &Arc<str>, entries: &[Entry], span: Span, problems: &mut Vec<Diagnostic>) -> BuildConfig {
    let mut reader = DataReader::new(path, "[build]", entries, span, problems);
    let has_versions = reader.truth("versions").is_none_or(|(versions, _)| versions);
    let small_styles = is_small(&mut reader, "styles");
    let small_scripts = is_small(&mut reader, "scripts");
    let browsers = reader.map("browsers");
    if let Some((_, span)) = browsers.filter(|_| !small_styles) {
        let help = "write styles = \"small\", too, or take \"browsers\" out";
        reader.error(
            &codes::WRONG_VALUE,
            span,
            "\"browsers\" has an effect on small style sheets alone",
            help.to_owned(),
        );
    }
    reader.finish();
    let browsers = browsers.map(|(entries, span)| read_browsers(path, entries, span, problems));
    BuildConfig { has_versions, small_styles, small_scripts, browsers: browsers.unwrap_or_default() }
}

fn is_small(reader: &mut DataReader<'_, '_>, key: &'static str) -> bool {
    match reader.text(key) {
        None | Some(("as-is", _)) => false,
        Some(("small", _)) => true,
        Some((other, span)) => {
            let help = "write \"as-is\" or \"small\"".to_owned();
            reader.error(&codes::WRONG_VALUE, span, format!("\"{key}\" can't be \"{other}\""), help);
            false
        }
    }
}

fn read_browsers(path: &Arc<str>, entries: &[Entry], span: Span, problems: &mut Vec<Diagnostic>) -> Browsers {
    let mut reader = DataReader::new(path, "browsers", entries, span, problems);
    let mut browsers = Browsers::default();
    for entry in entries {
        let name = &*entry.key;
        let Some(known) = BROWSERS.into_iter().find(|known| *known == name) else {
            let help =
                did_you_mean(name, BROWSERS).unwrap_or_else(|| format!("the browsers are {}", BROWSERS.join(", ")));
            reader.error(&codes::UNKNOWN_KEY, entry.span, format!("unknown browser \"{name}\""), help);
            continue;
        };
        match version(&entry.data.value) {
            Some((major, minor)) => {
                browsers.add(known, major, minor);
            }
            None => {
                let help = format!("write the oldest version, as in {known} = 115, or {known} = \"16.4\"");
                reader.error(&codes::WRONG_VALUE, entry.data.span, format!("\"{name}\" must be a version"), help);
            }
        }
    }
    browsers
}

/// A version of a browser: a number, or a text of two.
fn version(value: &DataValue) -> Option<(u8, u8)> {
    let (major, minor) = match value {
        DataValue::Int(number) => (u8::try_from(*number).ok()?, 0),
        DataValue::Float(number) => parts(&number.to_string())?,
        DataValue::Text(text) => parts(text)?,
        _ => return None,
    };
    (major > 0).then_some((major, minor))
}

fn parts(text: &str) -> Option<(u8, u8)> {
    let (major, minor) = text.split_once('.').unwrap_or((text, "0"));
    Some((major.parse().ok()?, minor.parse().ok()?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn versions_are_numbers_or_texts_of_two() {
        let text = |text: &str| DataValue::Text(text.into());
        for (value, expected) in [
            (DataValue::Int(115), Some((115, 0))),
            (DataValue::Float(16.4), Some((16, 4))),
            (text("16.10"), Some((16, 10))),
            (text("16"), Some((16, 0))),
            (text("16.4.1"), None),
            (text("latest"), None),
            (DataValue::Int(0), None),
            (DataValue::Int(-1), None),
            (DataValue::Int(300), None),
            (DataValue::Bool(true), None),
        ] {
            assert_eq!(version(&value), expected, "{value:?}");
        }
    }
}
