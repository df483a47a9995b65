//! Comments that show where each file's part of a page starts and stops.

const START: &str = "<!-- + ";
const STOP: &str = "<!-- - ";
const END: &str = " -->";

/// A mark in a page, where the text in front of it ends and where the text after it begins.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mark {
    /// The file's path.
    pub path: String,
    /// Whether its part starts here.
    pub starts: bool,
    /// First byte of the mark.
    pub from: usize,
    /// One past its last byte.
    pub to: usize,
}

/// The comment in front of or after a file's part.
pub(super) fn mark(starts: bool, path: &str) -> String {
    format!("{}{}{END}", if starts { START } else { STOP }, path.replace("--", "- -"))
}

/// All marks in `text`, in order.
pub fn marks(text: &str) -> Vec<Mark> {
    let mut found = Vec::new();
    let mut from = 0;
    while let Some(at) = text[from..].find("<!-- ") {
        let start = from + at;
        let rest = &text[start..];
        let starts = rest.starts_with(START);
        let end = rest.find(END).map_or(text.len(), |end| start + end + END.len());
        if starts || rest.starts_with(STOP) {
            let path = text.get(start + START.len()..end - END.len()).unwrap_or("").to_owned();
            found.push(Mark { path, starts, from: start, to: end });
        }
        from = end.max(start + 1);
    }
    found
}

/// Whether a text holds nothing but marks.
pub(super) fn is_marks(text: &str) -> bool {
    let mut rest = text;
    while let Some(comment) = rest.strip_prefix(START).or_else(|| rest.strip_prefix(STOP)) {
        let Some(end) = comment.find(END) else { return false };
        rest = &comment[end + END.len()..];
    }
    rest.is_empty()
}

/// A text that holds nothing but marks and white space without its marks, so that it counts as blank.
pub(super) fn without_bare_marks(text: &str) -> &str {
    let mut rest = text.trim_start();
    while let Some(comment) = rest.strip_prefix(START).or_else(|| rest.strip_prefix(STOP)) {
        let Some(end) = comment.find(END) else { return text };
        rest = comment[end + END.len()..].trim_start();
    }
    if rest.is_empty() { "" } else { text }
}
