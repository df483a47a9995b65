//! Files written neatly: the spacing and the quotes of tags, long tags over several lines, the indentation of lines that
//! print nothing. What is printed stays as it is, to the byte.

use crate::html::scanner::{Mode, ScanState};
use crate::syntax::lex::{Token, TokenKind, lex};
use crate::syntax::parse::lines::lines;
use crate::syntax::parse::prepare;
use crate::syntax::parse::statement::is_choice;
use crate::syntax::parse::value::QUERY_WORDS;
use crate::syntax::parse::{self, parse};
use crate::syntax::words::{RESERVED, STATEMENTS, SpannedWord, Word, words};
use crate::text::diagnostic::Problems;
use crate::text::ending::Ending;
use crate::text::source::Span;

/// A tag that ends behind this column goes over several lines, if it can.
const WIDEST: usize = 100;

/// The text of a template file, from its front matter on written neatly; `body` is where that ends. Nothing for a file with
/// an error.
pub fn template(text: &str, body: usize, ending: Ending) -> Option<String> {
    let meaning = meaning(text, body)?;
    let indented = indented(text, body);
    let neat = spaced(&indented, body, ending);
    (self::meaning(&neat, body)? == meaning).then_some(neat)
}

/// The text of a prepare file written neatly. Nothing for one with an error.
pub fn prepare(text: &str) -> Option<String> {
    let meaning = |text: &str| {
        let mut problems = Problems::new(&"".into());
        let statements = parse::prepare::prepare(text, &mut problems);
        problems.into_list().is_empty().then(|| without_places(&format!("{statements:?}")))
    };
    let before = meaning(text)?;
    let plain = prepare::without_comments(text);
    let mut out = String::with_capacity(text.len());
    let mut copied = 0;
    for line in prepare::lines(&plain) {
        let words = words(&plain, line, &mut Problems::new(&"".into()));
        let (Some(first), Some(last)) = (words.first(), words.last()) else { continue };
        out.push_str(&text[copied..first.span.range().start]);
        let keep = |from: usize, to: usize| {
            let between = &text[from..to];
            (between.contains('\n') || between.contains('#')).then(|| between.to_owned())
        };
        out.push_str(&joined(&words, &plain, Quotes::Double, &keep));
        copied = last.span.range().end;
    }
    out.push_str(&text[copied..]);
    let eol = if text.contains("\r\n") { "\r\n" } else { "\n" };
    let lines: Vec<&str> = out.split('\n').map(|line| line.trim_end()).collect();
    let neat = lines.join(eol);
    (meaning(&neat)? == before).then_some(neat)
}

/// What a file means, without where it says so; nothing where it has an error.
fn meaning(text: &str, body: usize) -> Option<String> {
    let mut problems = Problems::new(&"".into());
    let tokens = lex(text, body, &mut problems);
    let tree = parse(text, &tokens, &mut problems);
    problems.into_list().is_empty().then(|| without_places(&format!("{tree:?}")))
}

/// A tree as text, without its places.
fn without_places(tree: &str) -> String {
    let mut out = String::with_capacity(tree.len());
    let mut rest = tree;
    while let Some((before, behind)) = rest.split_once("Span { start: ") {
        out.push_str(before);
        rest = behind.split_once('}').map_or("", |(_, rest)| rest);
    }
    out + rest
}

/// Whether a tag opens a block, divides one or ends it.
pub(crate) enum Place {
    Opens,
    Divides,
    Ends,
    Alone,
}

pub(crate) fn place_of(words: &[SpannedWord]) -> Place {
    let name = |word: Option<&SpannedWord>| match word.map(|word| &word.word) {
        Some(Word::Name(name)) => name.clone(),
        _ => String::new(),
    };
    let last = name(words.last());
    match name(words.first()).as_str() {
        "if" if !is_choice(words) => Place::Opens,
        "each" | "into" => Place::Opens,
        "let" | "partial" | "component" | "inherited" if last == "with" => Place::Opens,
        "slot" if last == "else" => Place::Opens,
        "else" | "between" | "none" => Place::Divides,
        "end" => Place::Ends,
        _ => Place::Alone,
    }
}

fn inside(tag: Span) -> Span {
    Span::new(tag.range().start + 2, tag.range().end - 1)
}

/// The words of a tag. What is wrong with them was found before.
pub(crate) fn words_of(text: &str, tag: Span) -> Vec<SpannedWord> {
    words(text, inside(tag), &mut Problems::new(&"".into()))
}

/// The text with lines that print nothing where they belong: what ends or divides a block is under what opens it, and
/// nothing is less far in than the block that it is in.
fn indented(text: &str, body: usize) -> String {
    let tokens = lex(text, body, &mut Problems::new(&"".into()));
    let mut out = String::with_capacity(text.len());
    let mut copied = 0;
    // How far in each open block is, where it begins its line.
    let mut open: Vec<Option<String>> = Vec::new();
    for line in lines(text, &tokens) {
        let around = open.last().cloned().flatten();
        let mut indent = line.lead.of(text).to_owned();
        if line.goes && line.begins_with_tag {
            let place = line.tags.first().map_or(Place::Alone, |tag| place_of(&words_of(text, *tag)));
            match (place, around) {
                (Place::Ends | Place::Divides, Some(around)) => indent = around,
                (Place::Opens | Place::Alone, Some(around)) if width(&indent) < width(&around) => indent = around,
                _ => {}
            }
            out.push_str(&text[copied..line.lead.range().start]);
            out.push_str(&indent);
            copied = line.lead.range().end;
            if line.trail.range().start >= copied {
                out.push_str(&text[copied..line.trail.range().start]);
                copied = line.trail.range().end;
            }
        }
        for (at, tag) in line.tags.iter().enumerate() {
            match place_of(&words_of(text, *tag)) {
                Place::Opens => open.push((at == 0 && line.begins_with_tag).then(|| indent.clone())),
                Place::Ends => drop(open.pop()),
                Place::Divides | Place::Alone => {}
            }
        }
    }
    out + &text[copied..]
}

/// How many columns a text takes; a tab counts as four.
fn width(text: &str) -> usize {
    text.chars().map(|c| if c == '\t' { 4 } else { 1 }).sum()
}

/// Which quotes texts get.
#[derive(Clone, Copy, PartialEq)]
enum Quotes {
    Double,
    Single,
}

/// The text with its tags written neatly.
fn spaced(text: &str, body: usize, ending: Ending) -> String {
    let tokens: Vec<Token> = lex(text, body, &mut Problems::new(&"".into()));
    let mut state = ScanState::beginning(ending);
    // Where each open block began, where its next part begins again.
    let mut open: Vec<ScanState> = Vec::new();
    let mut out = text[..body].to_owned();
    for token in tokens {
        let written = token.span.of(text);
        if token.kind == TokenKind::Text {
            state.scan(written);
        }
        if token.kind != TokenKind::Tag {
            out.push_str(written);
            continue;
        }
        let words = words_of(text, token.span);
        let quotes = match state.mode {
            Mode::Quoted(b'"') => Quotes::Single,
            _ => Quotes::Double,
        };
        out.push_str(&tag(&words, text, token.span, quotes, &out));
        match place_of(&words) {
            Place::Opens => open.push(state.clone()),
            Place::Divides => state = open.last().cloned().unwrap_or(state),
            Place::Ends => drop(open.pop()),
            Place::Alone => {}
        }
    }
    out
}

/// A tag written neatly, behind what is written so far.
fn tag(words: &[SpannedWord], text: &str, tag: Span, quotes: Quotes, before: &str) -> String {
    let kept = |from: usize, to: usize| text[from..to].contains('\n').then(|| text[from..to].to_owned());
    let (Some(first), Some(last)) = (words.first(), words.last()) else { return tag.of(text).to_owned() };
    let lead = kept(tag.range().start + 2, first.span.range().start).unwrap_or_default();
    let trail = kept(last.span.range().end, tag.range().end - 1).unwrap_or_default();
    let one = format!("+{{{lead}{}{trail}}}", joined(words, text, quotes, &kept));
    let line = before.rsplit('\n').next().unwrap_or(before);
    // In the middle of a text a break would tear what belongs together.
    let begins = line.trim().is_empty();
    if one.contains('\n') || !begins || width(line) + width(&one) <= WIDEST {
        return one;
    }
    let breaks = breaks(words);
    if breaks.is_empty() {
        return one;
    }
    let eol = if text.contains("\r\n") { "\r\n" } else { "\n" };
    let white: String = line.chars().take_while(|c| c.is_whitespace()).collect();
    let break_before = |_: usize, to: usize| {
        let at = words.iter().position(|word| word.span.range().start == to)?;
        breaks.contains(&at).then(|| format!("{eol}{white}  "))
    };
    format!("+{{{}}}", joined(words, text, quotes, &break_before))
}

/// The words of a tag in front of which its line may be broken: what is given, and the parts of a query.
fn breaks(words: &[SpannedWord]) -> Vec<usize> {
    let mut depth = 0usize;
    let mut is_given = false;
    let mut found = Vec::new();
    for (at, word) in words.iter().enumerate() {
        match &word.word {
            Word::Sign("(" | "[") => depth += 1,
            Word::Sign(")" | "]") => depth = depth.saturating_sub(1),
            Word::Sign(",") if depth == 0 && is_given => found.push(at + 1),
            Word::Name(name) if depth == 0 && name == "given" => {
                is_given = true;
                found.push(at + 1);
            }
            Word::Name(name) if depth == 0 && at > 0 && QUERY_WORDS.contains(&name.as_str()) && !is_given => {
                found.push(at);
            }
            _ => {}
        }
    }
    found.retain(|&at| at < words.len());
    found
}

/// Words beside each other, with the spaces that belong between them, or with what `between` says for the bytes between two.
fn joined(
    words: &[SpannedWord],
    text: &str,
    quotes: Quotes,
    between: &dyn Fn(usize, usize) -> Option<String>,
) -> String {
    let mut out = String::new();
    for (at, word) in words.iter().enumerate() {
        if let Some(before) = at.checked_sub(1).and_then(|before| words.get(before)) {
            let gap = between(before.span.range().end, word.span.range().start);
            out.push_str(&gap.unwrap_or_else(|| if glued(words, at) { String::new() } else { " ".to_owned() }));
        }
        out.push_str(&written(word, text, quotes));
    }
    out
}

fn is_keyword(name: &str) -> bool {
    let more = ["by", "desc", "as", "before", "after"];
    let is_reserved = RESERVED.contains(&name) && name != "it";
    STATEMENTS.contains(&name) || is_reserved || QUERY_WORDS.contains(&name) || more.contains(&name)
}

/// Whether nothing is between a word and the one before it.
fn glued(words: &[SpannedWord], at: usize) -> bool {
    let before = |steps: usize| at.checked_sub(steps).and_then(|at| words.get(at)).map(|word| &word.word);
    let is_member = |steps: usize| matches!(before(steps), Some(Word::Sign(".")));
    // A name that is no word of the language: what comes after a dot may be called like one.
    let is_name = |steps: usize| match before(steps) {
        Some(Word::Name(name)) => is_member(steps + 1) || !is_keyword(name),
        _ => false,
    };
    let ends_value = |steps: usize| match before(steps) {
        Some(Word::Sign(sign)) => matches!(*sign, ")" | "]"),
        Some(Word::Name(_)) => {
            is_name(steps)
                || matches!(before(steps), Some(Word::Name(name)) if ["true", "false", "nothing"].contains(&name.as_str()))
        }
        Some(_) => true,
        None => false,
    };
    match (&words[at].word, before(1)) {
        (_, Some(Word::Sign("(" | "[" | "."))) => true,
        (Word::Sign("," | ")" | "]" | "."), _) => true,
        (Word::Sign("("), _) => is_name(1),
        (Word::Sign("["), _) => ends_value(1),
        // The sign of a number.
        (_, Some(Word::Sign("-"))) => !ends_value(2),
        _ => false,
    }
}

/// A word as it is written; a text in the other quotes where that takes no escape.
fn written(word: &SpannedWord, text: &str, quotes: Quotes) -> String {
    let own = word.span.of(text);
    let Word::Text(_) = word.word else { return own.to_owned() };
    let (wanted, other) = if quotes == Quotes::Single { ('\'', '"') } else { ('"', '\'') };
    let bare = own.strip_prefix(other).and_then(|own| own.strip_suffix(other));
    match bare.filter(|bare| !bare.contains([wanted, other, '\\'])) {
        Some(bare) => format!("{wanted}{bare}{wanted}"),
        None => own.to_owned(),
    }
}
