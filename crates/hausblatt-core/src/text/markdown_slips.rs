//! What was meant as Markdown and is not: visitors see the signs, or lose what comes after them.

use std::ops::Range;
use std::sync::LazyLock;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::did_you_mean;
use memchr::memmem::{self, Finder};
use pulldown_cmark::{CodeBlockKind, Event, Parser, Tag, TagEnd};

use crate::text::codes;
use crate::text::markdown::{options, tray_of};

/// The schemes that links may have.
const SCHEMES: [&str; 4] = ["http", "https", "mailto", "tel"];

/// The slips in a text, each with its place. `references` are the sorts of references that links may name.
pub(crate) fn slips(text: &str, references: &[&str]) -> Vec<(Diagnostic, Range<usize>)> {
    let mut found = Vec::new();
    // Most texts hold nothing that could be one, and are not read for this.
    if !may_have(text, references) {
        return found;
    }
    let mut in_code = false;
    // Text that is written without a break, since a bracket is an event of its own.
    let mut run = 0..0;
    for (event, range) in Parser::new_ext(text, options()).into_offset_iter() {
        match event {
            Event::Start(Tag::CodeBlock(kind)) => {
                in_code = true;
                found.extend(unended_code(text, &kind, range));
            }
            Event::End(TagEnd::CodeBlock) => in_code = false,
            Event::Start(Tag::HtmlBlock) => {
                let is_tray = text.get(range.clone()).is_some_and(|block| tray_of(block).is_some());
                found.extend(misplaced_tray(text, &range).filter(|_| !is_tray));
                found.extend(unended_comment(text, range));
            }
            Event::InlineHtml(_) => found.extend(misplaced_tray(text, &range)),
            Event::Start(Tag::Link { dest_url, .. }) => found.extend(link(&dest_url, references).map(|it| (it, range))),
            Event::Text(_) if !in_code && range.start == run.end => run.end = range.end,
            Event::Text(_) if !in_code => {
                in_run(text, &run, &mut found);
                run = range;
            }
            _ => {}
        }
    }
    in_run(text, &run, &mut found);
    found
}

/// Whether a text holds the signs of a slip.
fn may_have(text: &str, references: &[&str]) -> bool {
    static SIGNS: LazyLock<[Finder<'static>; 6]> =
        LazyLock::new(|| ["] (", ")[", "][", "```", "~~~", "<!--"].map(Finder::new));
    static LINES: LazyLock<[Finder<'static>; 2]> = LazyLock::new(|| ["\n##", "\n|"].map(Finder::new));
    static LINK: LazyLock<Finder<'static>> = LazyLock::new(|| Finder::new("]("));
    let bytes = text.as_bytes();
    // Proper headings are in most texts.
    let is_heading = |at: usize| {
        let rest = text[at..].trim_start_matches('#');
        rest.starts_with(char::is_alphanumeric)
    };
    SIGNS.iter().any(|sign| sign.find(bytes).is_some())
        || text.starts_with('|')
        || text.starts_with("##") && is_heading(0)
        || LINES[0].find_iter(bytes).any(|at| is_heading(at + 1))
        || LINES[1].find(bytes).is_some()
        || LINK.find_iter(bytes).any(|at| {
            let address = text[at + 2..].split([')', ' ']).next().unwrap_or("");
            link(address, references).is_some()
        })
}

/// What is wrong with the address of a link by itself.
fn link(address: &str, references: &[&str]) -> Option<Diagnostic> {
    if address.is_empty() {
        let help = "write the address into the round brackets";
        return Some(Diagnostic::of(&codes::PRINTED_AS_TEXT, "this link has no address").help(help));
    }
    let (scheme, _) = address.split_once(':')?;
    let is_scheme = scheme.bytes().all(|byte| byte.is_ascii_alphanumeric()) && !scheme.is_empty();
    if !is_scheme || references.contains(&scheme) {
        return None;
    }
    let lower = scheme.to_ascii_lowercase();
    if SCHEMES.contains(&lower.as_str()) {
        return None;
    }
    let message = format!("\"{scheme}:\" is not one of http:, https:, mailto: and tel:, so this link is left out");
    let known = references.iter().copied().chain(SCHEMES);
    let help =
        did_you_mean(scheme, known).unwrap_or_else(|| "write an address that begins with one of them".to_owned());
    Some(Diagnostic::of(&codes::PRINTED_AS_TEXT, message).help(help))
}

/// What is wrong with the scheme of an address on a page, and what to write.
pub(crate) fn scheme_slip(address: &str) -> Option<(String, String)> {
    let (scheme, rest) = address.split_once(':')?;
    let lower = scheme.to_ascii_lowercase();
    if !lower.bytes().all(|byte| byte.is_ascii_alphanumeric()) {
        return None;
    }
    if matches!(lower.as_str(), "http" | "https") {
        let help = || format!("write {lower}://{}", rest.trim_start_matches('/'));
        return (!rest.starts_with("//")).then(|| (format!("the address \"{address}\" lacks a slash"), help()));
    }
    if SCHEMES.contains(&lower.as_str()) {
        return None;
    }
    Some((format!("no browser knows the scheme \"{scheme}:\""), did_you_mean(&lower, SCHEMES)?))
}

/// A block of code whose last line does not end it.
fn unended_code(text: &str, kind: &CodeBlockKind<'_>, range: Range<usize>) -> Option<(Diagnostic, Range<usize>)> {
    if !matches!(kind, CodeBlockKind::Fenced(_)) {
        return None;
    }
    let block = text.get(range.clone())?.trim_end();
    let first = block.lines().next()?;
    let fence: String = first.chars().take_while(|c| matches!(c, '`' | '~')).collect();
    let last = block.lines().next_back()?.trim_start_matches([' ', '>']).trim_end();
    let ends = block.lines().count() > 1 && last.len() >= fence.len() && last.chars().all(|c| fence.starts_with(c));
    if ends || fence.is_empty() {
        return None;
    }
    let diagnostic =
        Diagnostic::of(&codes::UNENDED_BLOCK, "this code block is never ended, and takes in all that follows")
            .help(format!("write {fence} in a line of its own where it ends"));
    Some((diagnostic, range.start..range.start + first.len()))
}

/// A comment that was meant as a tray, and is none.
fn misplaced_tray(text: &str, range: &Range<usize>) -> Option<(Diagnostic, Range<usize>)> {
    let block = text.get(range.clone())?;
    let inside = block.trim().strip_prefix("<!--")?.split("-->").next()?.trim();
    let (word, name) = inside.split_once([' ', '\t'])?;
    let name = name.trim();
    if !word.eq_ignore_ascii_case("tray") || name.is_empty() || name.contains(char::is_whitespace) {
        return None;
    }
    let message = "this comment is not a tray, so nothing is placed here";
    let help = format!("write <!-- tray {name} --> in small letters, with an empty line before and after it");
    Some((Diagnostic::of(&codes::PRINTED_AS_TEXT, message).help(help), range.clone()))
}

/// A comment that hides all that comes after it.
fn unended_comment(text: &str, range: Range<usize>) -> Option<(Diagnostic, Range<usize>)> {
    let block = text.get(range.clone())?;
    if !block.trim_start().starts_with("<!--") || block.contains("-->") {
        return None;
    }
    let first = block.lines().next().unwrap_or("");
    let diagnostic = Diagnostic::of(&codes::UNENDED_BLOCK, "this comment is never ended, and hides all that follows")
        .help("write --> where it ends");
    Some((diagnostic, range.start..range.start + first.len()))
}

/// Slips in text that is shown as it is written.
fn in_run(text: &str, run: &Range<usize>, found: &mut Vec<(Diagnostic, Range<usize>)>) {
    let Some(shown) = text.get(run.clone()).filter(|shown| !shown.is_empty()) else { return };
    let before = &text[..run.start];
    let begins_line = before.trim_end_matches([' ', '\t']).ends_with('\n') || before.trim().is_empty();
    let signs = shown.bytes().take_while(|byte| *byte == b'#').count();
    let follows = shown[signs..].chars().next();
    if begins_line && (2..=6).contains(&signs) && follows.is_some_and(char::is_alphanumeric) {
        let help = format!("write a space after {}", &shown[..signs]);
        let diagnostic =
            Diagnostic::of(&codes::PRINTED_AS_TEXT, "this is not a heading, and is shown as it is written");
        found.push((diagnostic.help(help), run.clone()));
    }
    let is_row = |line: &str| line.trim().len() > 2 && line.trim().starts_with('|') && line.trim().ends_with('|');
    let above = before.trim_end_matches([' ', '\t']).strip_suffix('\n').and_then(|before| before.lines().next_back());
    if begins_line && is_row(shown) && !above.is_some_and(is_row) {
        let columns = shown.trim().trim_matches('|').split('|').count();
        let help = format!("write |{} below its first line", "---|".repeat(columns));
        let diagnostic = Diagnostic::of(&codes::PRINTED_AS_TEXT, "this is not a table, and is shown as it is written");
        found.push((diagnostic.help(help), run.clone()));
    }
    if memchr::memchr2(b']', b')', shown.as_bytes()).is_none() {
        return;
    }
    for (sign, is_one) in LINKS {
        for at in memmem::find_iter(shown.as_bytes(), sign.as_bytes()) {
            let at_end = at + sign.len();
            let open = if sign.starts_with(')') { '(' } else { '[' };
            let close = if sign.ends_with('(') { ')' } else { ']' };
            let (Some(start), Some(end)) = (shown[..at].rfind(open), shown[at_end..].find(close)) else { continue };
            let label = &shown[start + 1..at];
            let inside = &shown[at_end..at_end + end];
            if !label.trim().is_empty()
                && !label.starts_with('^')
                && !before.ends_with('\\')
                && !shown[..start].ends_with('\\')
            {
                let told = is_one(label, inside).map(|help| {
                    let message = "this is not a link, and is shown as it is written";
                    let place = run.start + start..run.start + at_end + end + 1;
                    (Diagnostic::of(&codes::PRINTED_AS_TEXT, message).help(help), place)
                });
                found.extend(told);
            }
        }
    }
}

/// What is between the two parts of something that was meant as a link, and what to write if it is one.
type LinkSlip = (&'static str, fn(&str, &str) -> Option<String>);

const LINKS: [LinkSlip; 3] = [
    ("] (", |label, inside| is_address(inside).then(|| format!("take the space out: [{label}]({inside})"))),
    (")[", |label, inside| is_address(inside).then(|| format!("the text comes first: [{label}]({inside})"))),
    ("][", |label, inside| {
        let is_name = inside.chars().all(|c| c.is_alphanumeric() || c == '-' || c == '_' || c == ' ');
        let name = if inside.is_empty() { label } else { inside };
        is_name.then(|| format!("say where it leads, in a line of its own: [{name}]: /address/"))
    }),
];

fn is_address(text: &str) -> bool {
    let begins = ["/", "#", "http:", "https:", "mailto:", "tel:"].iter().any(|sign| text.starts_with(sign));
    (begins || text.ends_with(".md")) && !text.contains(char::is_whitespace)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn told(text: &str) -> Vec<String> {
        let of = |(diagnostic, range): (Diagnostic, Range<usize>)| format!("{}: {}", &text[range], diagnostic.message);
        slips(text, &["page", "entry"]).into_iter().map(of).collect()
    }

    #[test]
    fn signs_that_visitors_see_are_found() {
        for (text, expected) in [
            ("##Beds\n", "##Beds: this is not a heading, and is shown as it is written"),
            ("a\n\n| a | b |\n| 1 | 2 |\n", "| a | b |: this is not a table, and is shown as it is written"),
            ("See [beds] (/beds/).", "[beds] (/beds/): this is not a link, and is shown as it is written"),
            ("See (beds)[/beds/].", "(beds)[/beds/]: this is not a link, and is shown as it is written"),
            ("See [beds][b].", "[beds][b]: this is not a link, and is shown as it is written"),
            ("See [beds]().", "[beds](): this link has no address"),
            (
                "[a](htp://b)",
                "[a](htp://b): \"htp:\" is not one of http:, https:, mailto: and tel:, so this link is left out",
            ),
            ("a <!-- tray main --> b", "<!-- tray main -->: this comment is not a tray, so nothing is placed here"),
            ("<!-- Tray main -->\n", "<!-- Tray main -->\n: this comment is not a tray, so nothing is placed here"),
            ("a\n\n```\nb\n", "```: this code block is never ended, and takes in all that follows"),
            ("a\n\n<!-- b\n\nc\n", "<!-- b: this comment is never ended, and hides all that follows"),
        ] {
            assert_eq!(told(text), [expected], "{text}");
        }
    }

    #[test]
    fn markdown_and_plain_text_are_left_alone() {
        for text in [
            "## Beds\n\n#beds #2026\n\n####### seven\n",
            "| a | b |\n|---|---|\n| 1 | 2 |\n",
            "[a](/b/) [c][d] [e][] \\[f] (/g/) (see below)[1] a [sic] (sic)\n\n[d]: /h/\n[e]: /i/\n",
            "`[a] (/b/)` and\n\n    ##c\n    | d | e |\n\n```\n[f][g]\n```\n",
            "> ```\n> a\n> ```\n\n- ~~~~ text\n  b\n  ~~~~\n",
            "[a](page:b) [c](mailto:a@seeds.example) [d](https://seeds.example) [e](#f) [g](h.md)\n",
            "<!-- a\nb -->\n\nx | y\n\n<!-- tray main -->\n\n<!-- tray for later, perhaps -->\n",
        ] {
            assert_eq!(told(text), Vec::<String>::new(), "{text}");
        }
    }
}
