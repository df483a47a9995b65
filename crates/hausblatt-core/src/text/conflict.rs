//! What a text editor or a merge leaves after: marks of a conflict, and front matter that is not at the beginning.

use std::sync::LazyLock;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use memchr::memmem::Finder;

use crate::text::codes;

const OURS: &str = "<<<<<<< ";
const MIDDLE: &str = "=======";
const THEIRS: &str = ">>>>>>> ";

/// What a text is written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Format {
    /// Markdown, whose code blocks may show the marks of a conflict.
    Markdown,
    /// Anything else.
    Other,
}

/// The conflicts that a merge left in a text, each from its first mark to its last.
pub fn conflicts(text: &str, format: Format) -> Vec<Span> {
    static FIRST: LazyLock<Finder<'static>> = LazyLock::new(|| Finder::new(OURS));
    if FIRST.find(text.as_bytes()).is_none() {
        return Vec::new();
    }
    let mut found = Vec::new();
    let (mut start, mut middle) = (None, false);
    let mut fence: Option<&str> = None;
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let bare = line.trim_end();
        if format == Format::Markdown && start.is_none() {
            let mark = ["```", "~~~"].into_iter().find(|mark| bare.trim_start().starts_with(mark));
            match (fence, mark) {
                (None, Some(mark)) => fence = Some(mark),
                (Some(open), Some(mark)) if open == mark => fence = None,
                _ => {}
            }
        }
        if fence.is_none() {
            match start {
                _ if bare.starts_with(OURS) => (start, middle) = (Some(at), false),
                Some(_) if bare == MIDDLE => middle = true,
                Some(from) if middle && bare.starts_with(THEIRS) => {
                    found.push(Span::new(from, at + bare.len()));
                    (start, middle) = (None, false);
                }
                _ => {}
            }
        }
        at += line.len();
    }
    found
}

/// What is said of the conflicts in a text, an error each.
pub fn diagnostics(text: &str, format: Format) -> Vec<(Diagnostic, Span)> {
    let told = |span: Span| {
        let line = text.get(span.range()).and_then(|text| text.lines().next()).map_or(0, str::len);
        let diagnostic = Diagnostic::of(&codes::CONFLICT_MARKS, "a merge left a conflict here");
        let help = "keep one of the two versions, and remove the lines with <<<<<<<, ======= and >>>>>>>";
        let start = span.range().start;
        (diagnostic.help(help), Span::new(start, start + line))
    };
    conflicts(text, format).into_iter().map(told).collect()
}

/// Where front matter begins that is not at the beginning of its file, after empty lines only, so that it is text like any
/// other.
pub(crate) fn misplaced_front_matter(text: &str) -> Option<Span> {
    let text_at = text.len() - text.trim_start_matches(['\u{feff}', '\n', '\r', ' ', '\t']).len();
    let rest = &text[text_at..];
    if text_at == 0 || text[..text_at].trim_matches('\u{feff}').is_empty() || !rest.starts_with("---") {
        return None;
    }
    let mut lines = rest.lines();
    let is_fence = |line: &str| line.trim_end() == "---";
    let first = lines.next().filter(|line| is_fence(line))?;
    let key = lines.next().and_then(|line| line.split_once(':')).map(|(key, _)| key)?;
    let is_key = !key.is_empty() && key.bytes().all(|byte| byte.is_ascii_lowercase() || byte == b'_');
    (is_key && lines.any(is_fence)).then(|| Span::new(text_at, text_at + first.len()))
}

/// What is said of front matter that is not at the beginning.
pub fn misplaced(text: &str) -> Option<(Diagnostic, Span)> {
    let Some(span) = misplaced_front_matter(text) else { return unmarked_front_matter(text) };
    let diagnostic = Diagnostic::of(&codes::MISPLACED_FRONT_MATTER, "this front matter is read as text");
    Some((diagnostic.help("remove the lines before it: front matter begins on line 1"), span))
}

/// What is said of a text that begins with keys and has no line of hyphens before them.
fn unmarked_front_matter(text: &str) -> Option<(Diagnostic, Span)> {
    const COMMON: [&str; 6] = ["title", "date", "summary", "template", "slug", "draft"];
    let line = text.trim_start_matches('\u{feff}').lines().next()?;
    let (key, value) = line.split_once(':')?;
    if !COMMON.contains(&key) || !value.starts_with(' ') {
        return None;
    }
    let at = text.len() - text.trim_start_matches('\u{feff}').len();
    let message = "these keys are read as text: front matter begins and ends with a line of three hyphens";
    let diagnostic = Diagnostic::of(&codes::MISPLACED_FRONT_MATTER, message).help("write --- before and after them");
    Some((diagnostic, Span::new(at, at + line.len())))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn finds_conflicts_and_nothing_else() {
        let one = "a\n<<<<<<< ours\nb\n=======\nc\n>>>>>>> theirs\nd\n";
        let whole = |text: &str, format| -> Vec<String> {
            conflicts(text, format).into_iter().map(|span| text[span.range()].to_owned()).collect()
        };
        assert_eq!(whole(one, Format::Markdown), ["<<<<<<< ours\nb\n=======\nc\n>>>>>>> theirs"]);
        assert_eq!(whole(&format!("{one}{one}"), Format::Other).len(), 2);
        assert_eq!(whole(&one.replace('\n', "\r\n"), Format::Markdown).len(), 1);
        for text in [
            "",
            "<<<<<<< ours\nb\n",
            "<<<<<<< ours\n>>>>>>> theirs\n=======\n",
            "Title\n=======\n>>>>>>> quoted\n",
            " <<<<<<< ours\n=======\n>>>>>>> theirs\n",
            "<<<<<<<ours\n=======\n>>>>>>> theirs\n",
        ] {
            assert!(conflicts(text, Format::Markdown).is_empty(), "{text}");
        }
        let fenced = format!("```\n{one}```\n");
        assert!(conflicts(&fenced, Format::Markdown).is_empty());
        assert_eq!(conflicts(&fenced, Format::Other).len(), 1);
    }

    #[test]
    fn finds_front_matter_that_is_not_at_the_beginning() {
        for text in
            ["\n---\ntitle: A\n---\n", "\u{feff}\r\n---\r\ntitle: A\r\n---\r\n", "  \n\n---\ndate: x\nb: c\n---\ntext"]
        {
            assert!(misplaced_front_matter(text).is_some(), "{text:?}");
        }
        for text in [
            "",
            "---\ntitle: A\n---\n",
            "\u{feff}---\ntitle: A\n---\n",
            "\n---\ntext\n---\n",
            "\n---\ntitle: A\n",
            "\n--- x\ntitle: A\n---\n",
            "a\n---\ntitle: A\n---\n",
        ] {
            assert!(misplaced_front_matter(text).is_none(), "{text:?}");
        }
    }
}
