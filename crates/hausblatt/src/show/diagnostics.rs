//! Diagnostics on a terminal: what, where, an excerpt, and what to do.

use std::ops::Range;
use std::sync::Arc;

use anstyle::Style;
use hausblatt_core::check::Finding;
use hausblatt_core::files::Snapshot;
use hausblatt_core::world::in_order;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Place;
use serde::Serialize;
use unicode_width::UnicodeWidthChar;

use crate::options::Common;
use crate::show::style::{self, plain, styled, turns_direction, without_number};
use crate::show::wrap::hanging;

/// How many warnings are shown without `-v`.
const MOST_WARNINGS: usize = 20;
/// How many errors are shown without `-v`.
const MOST_ERRORS: usize = 50;

/// A problem of a text that is not written, with its file in words: an excerpt would show another line.
pub fn unwritten(problem: &Diagnostic) -> Diagnostic {
    let file = problem.place.as_ref().map_or(String::new(), |place| format!("{}: ", place.path));
    let message = format!("{file}{}", problem.message);
    Diagnostic { place: None, related: Vec::new(), fix: None, message, ..problem.clone() }
}

/// Shows diagnostics on standard error: all errors, and as many warnings as fit.
pub fn show(texts: &Snapshot, diagnostics: &[Diagnostic], common: &Common) {
    let (errors, warnings): (Vec<&Diagnostic>, Vec<&Diagnostic>) =
        diagnostics.iter().partition(|diagnostic| diagnostic.is_error());
    let most = |count: usize| if common.verbose { usize::MAX } else { count };
    let warnings_wanted = if common.quiet && !common.strict { 0 } else { most(MOST_WARNINGS) };
    let mut shown: Vec<&Diagnostic> =
        errors.iter().take(most(MOST_ERRORS)).chain(warnings.iter().take(warnings_wanted)).copied().collect();
    shown.sort_by(|a, b| in_order(a, b));
    for diagnostic in shown {
        crate::tell!("{}\n", drawn(texts, diagnostic));
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
    #[serde(skip_serializing_if = "Vec::is_empty")]
    also: Vec<PlaceJson>,
}

/// A place in the JSON shape of `docs/commands.md`.
#[derive(Clone, Debug, Serialize)]
struct PlaceJson {
    path: String,
    line: Option<usize>,
    column: Option<usize>,
}

/// The text of the file that a place is in, read now where only its head is held; none where it can't be read.
pub fn text_at(texts: &Snapshot, place: &Place) -> Option<Arc<str>> {
    texts.file(&place.path)?.whole_text().ok()
}

/// A diagnostic as data. Lines and columns count from 1, columns in characters; the end is the column after the last one.
pub fn json(texts: &Snapshot, diagnostic: &Diagnostic, addresses: &[String]) -> DiagnosticJson {
    let path = diagnostic.place.as_ref().map(|place| place.path.to_string());
    let range = diagnostic.place.as_ref().and_then(|place| {
        let text = text_at(texts, place)?;
        Some((position(&text, place.span.start as usize), position(&text, place.span.end as usize)))
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
        also: Vec::new(),
    }
}

/// The same of what was found, with the other files that have it.
pub fn finding_json(texts: &Snapshot, finding: &Finding) -> DiagnosticJson {
    let place = |diagnostic: &Diagnostic| {
        let place = diagnostic.place.as_ref()?;
        let at = text_at(texts, place).map(|text| position(&text, place.span.start as usize));
        let (line, column) = at.unzip();
        Some(PlaceJson { path: place.path.to_string(), line, column })
    };
    let also = finding.also.iter().filter_map(place).collect();
    DiagnosticJson { also, ..json(texts, &finding.diagnostic, &finding.addresses) }
}

/// Where a diagnostic is: its path, and the line and the column where its text is known.
pub fn place(texts: &Snapshot, diagnostic: &Diagnostic) -> String {
    let Some(place) = &diagnostic.place else { return String::new() };
    match text_at(texts, place) {
        Some(text) => {
            let (line, column) = position(&text, place.span.start as usize);
            format!("{}:{line}:{column}", place.path)
        }
        None => place.path.to_string(),
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

/// How many columns are before a message, a path, a line of a file.
const MARGIN: usize = 9;
/// How many columns before and after a part are shown at least, where the line has them.
const CONTEXT: usize = 10;
/// How wide a terminal is taken to be.
const WIDTH: usize = 80;

/// A diagnostic with its excerpt, without a line break at the end: severity and message first, then the place, the lines
/// with the part that is meant marked, what to do about it, and last the code.
pub fn drawn(texts: &Snapshot, diagnostic: &Diagnostic) -> String {
    let (word, colour) = if diagnostic.is_error() { ("error", style::BAD) } else { ("warning", style::NOTE) };
    let message = hanging(&plain(&without_number(&diagnostic.message)), MARGIN);
    let mut out = format!("{}{}\n", styled(colour, &format!("{word:<MARGIN$}")), styled(style::STRONG, &message));
    if let Some(place) = &diagnostic.place {
        out.push_str(&excerpt(texts, place, None, colour));
    }
    for (place, why) in &diagnostic.related {
        out.push_str(&excerpt(texts, place, Some(&plain(why)), style::TYPED));
    }
    let mut last = 0;
    if let Some(help) = &diagnostic.help {
        let help = hanging(&plain(help), MARGIN + 2);
        out.push_str(&format!("{:MARGIN$}{} {help}", "", styled(style::TYPED, "→")));
        last = match help.rsplit_once('\n') {
            Some((_, line)) => style::columns(line),
            None => MARGIN + 2 + style::columns(&help),
        };
    }
    let code = diagnostic.code.len().min(WIDTH);
    // Where the last line leaves no room for it, the code has one of its own.
    if last > 0 && last + 2 + code > WIDTH {
        out.push('\n');
        last = 0;
    }
    out.push_str(&format!("{:1$}{2}", "", WIDTH - code - last, styled(style::FAINT, diagnostic.code)));
    out
}

/// The lines around a place, with its path before them and what is meant marked; without its text, only the path.
fn excerpt(texts: &Snapshot, place: &Place, label: Option<&str>, colour: Style) -> String {
    let path = plain(&place.path);
    let text = text_at(texts, place);
    let whole_file = place.span == hausblatt_lang::text::source::Span::default();
    let Some(text) = text.filter(|text| !whole_file && !text.is_empty()) else {
        return match label {
            Some(label) => format!("{:MARGIN$}{}\n", "", hanging(&format!("{path}: {label}"), MARGIN)),
            None => format!("{:MARGIN$}{path}\n", ""),
        };
    };
    let range = inside(&text, place.span.range());
    let (number, column) = position(&text, range.start);
    let mut out = format!("{:MARGIN$}{path}:{number}:{column}\n", "");
    let (lines, first, offset) = lines_around(&text, &range);
    let range = range.start - offset..range.end - offset;
    let lines: Vec<&str> = lines.split('\n').collect();
    let mut begins = 0;
    let mut is_told = label.is_none();
    for (at, line) in lines.iter().enumerate() {
        let part = range.start.saturating_sub(begins).min(line.len())..range.end.saturating_sub(begins).min(line.len());
        begins += line.len() + 1;
        // Of many lines the first and the last are shown.
        if lines.len() > 3 && (1..lines.len() - 1).contains(&at) {
            if at == 1 {
                out.push_str(&format!("{}\n", styled(style::FAINT, &format!("{:>1$}", "…", MARGIN - 3))));
            }
            continue;
        }
        let (shown, before, width) = cut(line.trim_end(), part);
        let gutter = styled(style::FAINT, &format!("{:>1$} |", first + at, MARGIN - 3));
        out.push_str(format!("{gutter} {shown}").trim_end());
        out.push('\n');
        let marks = styled(colour, &"‾".repeat(width));
        out.push_str(&format!("{:1$}{marks}", "", MARGIN + before));
        if let Some(label) =
            label.filter(|label| at + 1 == lines.len() && MARGIN + before + width + 1 + style::columns(label) <= WIDTH)
        {
            out.push_str(&format!(" {}", styled(colour, label)));
            is_told = true;
        }
        out.push('\n');
    }
    if let Some(label) = label.filter(|_| !is_told) {
        out.push_str(&format!("{:MARGIN$}{}\n", "", styled(colour, &hanging(label, MARGIN))));
    }
    out
}

/// A line cut to what fits, how many columns are before the part that is meant, and how many that part has, at least one.
fn cut(line: &str, part: Range<usize>) -> (String, usize, usize) {
    let part = inside(line, part);
    let room = WIDTH - MARGIN;
    let columns = |range: Range<usize>| style::columns(&line[range]);
    let (mut from, mut to) = (0, line.len());
    if columns(0..line.len()) > room {
        // What is meant is in the middle; where it is too long itself, its beginning, with what comes before it.
        let wanted = columns(part.clone()).min(room - 2 * CONTEXT);
        let left = ((room - wanted) / 2).max(room.saturating_sub(columns(part.start..line.len())));
        let widths = |c: char| c.width().unwrap_or(0);
        let mut width = 0;
        for (at, c) in line[..part.start].char_indices().rev() {
            width += widths(c);
            if width > left {
                from = at + c.len_utf8();
                break;
            }
        }
        let room = room - usize::from(from > 0);
        if columns(from..line.len()) > room {
            width = 0;
            for (at, c) in line[from..].char_indices() {
                width += widths(c);
                if width >= room {
                    to = from + at;
                    break;
                }
            }
        }
    }
    let (begin, end) = (if from > 0 { "…" } else { "" }, if to < line.len() { "…" } else { "" });
    let start = part.start.clamp(from, to);
    let width = columns(start..part.end.clamp(start, to)).max(1);
    (format!("{begin}{}{end}", &line[from..to]), usize::from(from > 0) + columns(from..start), width)
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

#[cfg(test)]
mod tests {
    use expect_test::{Expect, expect};
    use hausblatt_core::text::codes as core_codes;
    use hausblatt_lang::text::codes;
    use hausblatt_lang::text::source::Span;

    use super::*;

    #[track_caller]
    fn draws(text: &str, part: &str, help: &str, expected: Expect) {
        let texts = Snapshot::in_memory([("content/a.md", text)]);
        let at = text.find(part).unwrap_or(0);
        let diagnostic = Diagnostic::of(&codes::BAD_VALUE, "this is what is wrong")
            .help(help)
            .at(&"content/a.md".into(), Span::new(at, at + part.len()));
        expected.assert_eq(&anstream::adapter::strip_str(&drawn(&texts, &diagnostic)).to_string());
    }

    #[test]
    fn marks_what_is_meant_however_wide_it_is() {
        draws(
            "one\ntwo three\n",
            "three",
            "do this",
            expect![[r#"
            error    this is what is wrong
                     content/a.md:2:5
                 2 | two three
                         ‾‾‾‾‾
                     → do this                                                     bad-value"#]],
        );
        draws(
            "é漢字\tx wrong",
            "wrong",
            "do this",
            expect![[r#"
            error    this is what is wrong
                     content/a.md:1:7
                 1 | é漢字 x wrong
                             ‾‾‾‾‾
                     → do this                                                     bad-value"#]],
        );
        draws(
            "",
            "",
            "do this",
            expect![[r#"
            error    this is what is wrong
                     content/a.md
                     → do this                                                     bad-value"#]],
        );
        draws(
            "the end is missing",
            "",
            "do this",
            expect![[r#"
            error    this is what is wrong
                     content/a.md
                     → do this                                                     bad-value"#]],
        );
        draws(
            "a\nb\nc\nd\ne",
            "b\nc\nd",
            "do this",
            expect![[r#"
            error    this is what is wrong
                     content/a.md:2:1
                 2 | b
                     ‾
                 3 | c
                     ‾
                 4 | d
                     ‾
                     → do this                                                     bad-value"#]],
        );
        draws(
            "a\nb\nc\nd\ne",
            "a\nb\nc\nd\ne",
            "do this",
            expect![[r#"
            error    this is what is wrong
                     content/a.md:1:1
                 1 | a
                     ‾
                 …
                 5 | e
                     ‾
                     → do this                                                     bad-value"#]],
        );
        draws(
            &format!("{}wrong{}", "x".repeat(200), "y".repeat(200)),
            "wrong",
            "do this",
            expect![[r#"
            error    this is what is wrong
                     content/a.md:1:201
                 1 | …xxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxwrongyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyy…
                                                       ‾‾‾‾‾
                     → do this                                                     bad-value"#]],
        );
        draws(
            &format!("begin {}", "漢".repeat(200)),
            &"漢".repeat(200),
            "do this",
            expect![[r#"
            error    this is what is wrong
                     content/a.md:1:7
                 1 | begin 漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢漢…
                           ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾
                     → do this                                                     bad-value"#]],
        );
        draws(
            "wrong",
            "wrong",
            &"word ".repeat(25),
            expect![[r#"
            error    this is what is wrong
                     content/a.md:1:1
                 1 | wrong
                     ‾‾‾‾‾
                     → word word word word word word word word word word word word word word
                       word word word word word word word word word word word      bad-value"#]],
        );
        draws(
            "wrong",
            "wrong",
            "a help that is so long that the code has no room beside it",
            expect![[r#"
            error    this is what is wrong
                     content/a.md:1:1
                 1 | wrong
                     ‾‾‾‾‾
                     → a help that is so long that the code has no room beside it  bad-value"#]],
        );
    }

    #[test]
    fn other_places_are_shown_with_what_they_are() {
        let texts = Snapshot::in_memory([("content/a.md", "one\ntwo\n"), ("content/b.md", "three\n")]);
        let (a, b) = ("content/a.md".into(), "content/b.md".into());
        let diagnostic = Diagnostic::warning(&core_codes::SAME_ID, "two things are one")
            .at(&a, Span::new(4, 7))
            .related(&b, Span::new(0, 5), "this is the other one")
            .related(&b, Span::new(0, 5), "a long reason ".repeat(6))
            .related(&b, Span::default(), "and this file");
        expect![[r#"
            warning  two things are one
                     content/a.md:2:1
                 2 | two
                     ‾‾‾
                     content/b.md:1:1
                 1 | three
                     ‾‾‾‾‾ this is the other one
                     content/b.md:1:1
                 1 | three
                     ‾‾‾‾‾
                     a long reason a long reason a long reason a long reason a long reason a
                     long reason 
                     content/b.md: and this file
                                                                                     same-id"#]]
        .assert_eq(&anstream::adapter::strip_str(&drawn(&texts, &diagnostic)).to_string());
    }
}
