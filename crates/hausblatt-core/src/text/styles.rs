//! Style sheets as they are written (CSS Syntax Module Level 3): what they load, the custom properties they set and read,
//! and what browsers leave out without a word.

use std::borrow::Cow;
use std::sync::{Arc, LazyLock, RwLock};

use cssparser::{ParseError, Parser, Token};
use hausblatt_lang::escape::css;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::{is_slip, nearest};
use hausblatt_small::{Browsers, NotSmall, small_styles};
use rustc_hash::{FxHashMap, FxHashSet};

use crate::text::deep::with_stack;

/// What a style sheet says.
#[derive(Debug, Default)]
pub struct Styles {
    /// The addresses that it loads, in their order.
    pub loads: Vec<Load>,
    /// The custom properties that it sets.
    pub sets: Vec<String>,
    /// The custom properties that it reads without a value to take where nothing sets them.
    pub reads: Vec<(String, Span)>,
    /// What is wrong with how it is written, in the order of the file.
    pub problems: Vec<StyleProblem>,
    /// Whether brackets in it are nested so deep that they were not read.
    pub is_deep: bool,
}

impl Styles {
    /// What is said of a style sheet that can't be read, for this reason.
    pub fn unreadable(why: &str) -> Self {
        let message = format!("this style sheet can't be read: {why}");
        let problem = StyleProblem {
            span: Span::default(),
            message,
            help: "save it as UTF-8; its permissions must let it be read".into(),
        };
        Self { problems: vec![problem], ..Self::default() }
    }
}

/// An address that a style sheet loads.
#[derive(Debug, PartialEq, Eq)]
pub struct Load {
    /// The address, without escapes.
    pub address: String,
    /// Where it is.
    pub span: Span,
    /// Whether it is a style sheet that is read, too.
    pub is_import: bool,
}

/// An address as it is written in the place of another one, which is written so: as a text, or in `url()`.
pub(crate) fn written_address(other: &str, address: &str) -> String {
    let is_plain = |c: char| !c.is_ascii_whitespace() && !c.is_control() && !matches!(c, '"' | '\'' | '(' | ')' | '\\');
    let bare = other.split_once('(').filter(|_| !other.starts_with(['"', '\'']));
    if let Some((function, inside)) = bare.filter(|_| address.chars().all(is_plain)) {
        let is_space = |c: char| c.is_ascii_whitespace();
        let before = &inside[..inside.len() - inside.trim_start_matches(is_space).len()];
        let inside = inside.strip_suffix(')').unwrap_or(inside);
        let after = &inside[inside.trim_end_matches(is_space).len()..];
        return format!("{function}({before}{address}{after})");
    }
    let mut escaped = String::with_capacity(address.len() + 2);
    css::escape(address, &mut escaped);
    match bare {
        Some((function, _)) => format!("{function}(\"{escaped}\")"),
        None => {
            let quote = other.chars().next().unwrap_or('"');
            format!("{quote}{escaped}{quote}")
        }
    }
}

/// Something that is written wrong.
#[derive(Debug, PartialEq, Eq)]
pub struct StyleProblem {
    /// Where.
    pub span: Span,
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: Cow<'static, str>,
}

/// The properties of CSS and the descriptors of its at-rules, a name in each line: those that browsers know or knew, without
/// prefixes of their own.
static PROPERTIES: LazyLock<FxHashSet<&'static str>> =
    LazyLock::new(|| include_str!("css_properties.txt").lines().collect());

/// Shorter names are near to too many.
const SHORTEST_SLIP: usize = 3;

/// The property that a name is a slip of, where it is none itself.
fn meant_property(name: &str) -> Option<&'static str> {
    let name = name.to_ascii_lowercase();
    // What has a prefix is for one browser alone, and `_` hides a property from all but an old one.
    if name.len() < SHORTEST_SLIP || name.starts_with(['-', '_']) || PROPERTIES.contains(&*name) {
        return None;
    }
    let known = include_str!("css_properties.txt").lines().filter(|known| known.len() >= SHORTEST_SLIP);
    nearest(&name, known.filter(|known| is_slip(&name, known)))
}

/// Brackets are read so deep; what is deeper is gone over. The library's own limit is 75.
const DEEPEST: usize = 60;
/// Of one file so many problems are kept.
const MOST_PROBLEMS: usize = 20;

/// To make style sheets small takes so much stack, in bytes, with brackets nested as deep as they are read.
const SMALL_STACK: usize = 64 << 20;
/// Larger ones, all that is imported counted, stay as they are, in bytes.
const MOST_SMALL: usize = 4 << 20;

/// Style sheets made one small one, as [`small_styles`] does it.
pub(crate) fn small(sheets: &[String], browsers: Browsers) -> Result<String, NotSmall> {
    let refused = || NotSmall { sheet: 0, line: 0, column: 0, why: "it is too large".to_owned() };
    if sheets.iter().map(String::len).sum::<usize>() > MOST_SMALL {
        return Err(refused());
    }
    with_stack(SMALL_STACK, || small_styles(sheets, browsers)).unwrap_or_else(|| Err(refused()))
}

/// Reads a style sheet.
pub fn read(text: &str) -> Styles {
    // Browsers take a byte order mark away; places stay as they are.
    let text = &*match text.strip_prefix('\u{feff}') {
        Some(rest) => Cow::Owned(format!("   {rest}")),
        None => Cow::Borrowed(text),
    };
    let mut reader = Reader {
        text,
        styles: Styles::default(),
        open: Vec::new(),
        stray: None,
        open_comment: None,
        open_text: None,
        lacks_brace: false,
        has_rules: false,
    };
    reader.statements(&mut Parser::new(text), Holds::Rules, 0);
    reader.finished()
}

/// What a block has in it.
#[derive(Clone, Copy, PartialEq)]
enum Holds {
    /// Rules: no `;` is between them.
    Rules,
    /// Declarations, and rules among them.
    Declarations,
    /// Nobody knows.
    Anything,
}

/// One part of a statement that is not white space, a comment or a block in braces.
struct Piece {
    kind: PieceKind,
    span: Span,
    /// Whether white space or a comment is in front of it.
    is_apart: bool,
}

#[derive(Clone, Copy, PartialEq)]
enum PieceKind {
    Word,
    AtWord,
    Colon,
    Semicolon,
    Sign(char),
    Text,
    /// It is reported, and nobody knows where it ends.
    Broken,
    Other,
}

/// What the function around a value does with a text.
#[derive(Clone, Copy, PartialEq)]
enum Around {
    /// It loads it.
    Loads,
    /// It loads it as a style sheet.
    Imports,
    /// `var()`.
    Var,
    Other,
}

struct Reader<'t> {
    text: &'t str,
    styles: Styles,
    /// The brackets that nothing closes.
    open: Vec<(usize, char)>,
    /// The first closing bracket without an opening one.
    stray: Option<(usize, char)>,
    open_comment: Option<usize>,
    /// Where the first text begins that is not closed on its line.
    open_text: Option<usize>,
    /// Whether a `}` was taken for the end of the block around a rule that has no `{`.
    lacks_brace: bool,
    /// Whether a rule has come, after which there are no imports any more.
    has_rules: bool,
}

impl<'t> Reader<'t> {
    fn problem(&mut self, span: Span, message: impl Into<String>, help: impl Into<Cow<'static, str>>) {
        if self.styles.problems.len() < MOST_PROBLEMS {
            self.styles.problems.push(StyleProblem { span, message: message.into(), help: help.into() });
        }
    }

    fn written(&self, span: Span) -> &'t str {
        self.text.get(span.range()).unwrap_or("")
    }

    /// What is wrong with the brackets is one mistake, and most of what comes after it follows from it.
    fn finished(mut self) -> Styles {
        // It swallows the bracket that comes after it.
        if let Some(at) = self.open_text.filter(|_| !self.open.is_empty() || self.stray.is_some()) {
            self.styles.problems.retain(|problem| problem.span.start as usize <= at);
            return self.styles;
        }
        let braces_aside = |(_, bracket): &&(usize, char)| *bracket != '{';
        let open = self.open.iter().filter(braces_aside).min().or(self.open.iter().min()).copied();
        let problem = if let Some(at) = self.open_comment {
            Some((at, 2, "this comment is never closed".to_owned(), "close it with */"))
        } else if let Some((at, bracket)) = open.filter(|(_, bracket)| *bracket != '{' || self.stray.is_none()) {
            let help = match bracket {
                '{' => "close it with }, at the latest before the next rule",
                '[' => "close it with ]",
                _ => "close it with )",
            };
            Some((at, 1, format!("this {bracket} is never closed"), help))
        } else {
            let help = "take it out, or look for the opening one that is missing";
            self.stray.map(|(at, bracket)| (at, 1, format!("this {bracket} closes nothing"), help))
        };
        if let Some((at, length, message, help)) = problem {
            self.styles.problems.retain(|problem| (problem.span.start as usize) < at);
            self.styles.problems.push(StyleProblem { span: Span::new(at, at + length), message, help: help.into() });
        }
        self.styles
    }

    /// Reads what is in a block, or the whole file.
    fn statements(&mut self, parser: &mut Parser<'t>, holds: Holds, depth: usize) {
        let mut pieces: Vec<Piece> = Vec::new();
        let mut is_apart = false;
        loop {
            let start = parser.position().byte_index();
            let Ok(token) = parser.next_including_whitespace_and_comments().cloned() else { break };
            let span = Span::new(start, parser.position().byte_index());
            let kind = match &token {
                Token::WhiteSpace(_) | Token::Comment(_) => {
                    self.check_comment(&token, span);
                    is_apart = true;
                    continue;
                }
                Token::CDO | Token::CDC => continue,
                Token::Semicolon if holds == Holds::Rules && !is_at_rule(&pieces) => PieceKind::Semicolon,
                Token::Semicolon => {
                    self.statement(&pieces, holds);
                    pieces.clear();
                    continue;
                }
                Token::CloseCurlyBracket if self.lacks_brace => {
                    self.lacks_brace = false;
                    continue;
                }
                Token::CloseCurlyBracket if holds == Holds::Rules && !pieces.is_empty() && !is_at_rule(&pieces) => {
                    self.unopened(&pieces);
                    pieces.clear();
                    continue;
                }
                Token::CurlyBracketBlock if !self.is_custom(&pieces) => {
                    let inside = self.rule(&pieces, holds);
                    self.nested(parser, start, '{', depth, |reader, parser| {
                        reader.statements(parser, inside, depth + 1);
                    });
                    pieces.clear();
                    continue;
                }
                Token::Ident(_) => PieceKind::Word,
                Token::AtKeyword(_) => PieceKind::AtWord,
                Token::Colon => PieceKind::Colon,
                Token::QuotedString(_) | Token::UnquotedUrl(_) => PieceKind::Text,
                Token::BadString(_) | Token::BadUrl(_) => PieceKind::Broken,
                Token::Delim(sign) => PieceKind::Sign(*sign),
                _ => PieceKind::Other,
            };
            let at_word = self.at_word(&pieces);
            let is_import = at_word.is_some_and(|word| word.eq_ignore_ascii_case("@import")) && pieces.len() == 1;
            let (loads, reads) = (self.styles.loads.len(), self.styles.reads.len());
            self.value(parser, &token, span, if is_import { Around::Imports } else { Around::Other }, depth);
            // What other at-rules name, as a namespace or a condition, is neither loaded nor read.
            if at_word.is_some() && !is_import {
                self.styles.loads.truncate(loads);
                self.styles.reads.truncate(reads);
            }
            pieces.push(Piece { kind, span, is_apart: std::mem::take(&mut is_apart) });
        }
        match holds {
            Holds::Rules => self.rest(&pieces, depth),
            Holds::Declarations | Holds::Anything => self.statement(&pieces, holds),
        }
    }

    fn check_comment(&mut self, token: &Token<'_>, span: Span) {
        let Token::Comment(comment) = token else { return };
        let is_closed = self.written(span).get(2..).unwrap_or("").ends_with("*/");
        if !is_closed {
            self.open_comment = self.open_comment.or(Some(span.range().start));
        } else if let Some((swallowed, _)) = comment.split_once("\n/*")
            && swallowed.contains('{')
            && swallowed.contains('}')
        {
            let span = Span::new(span.range().start, span.range().start + 2);
            self.problem(span, "this comment ends only where the next one does, with rules in it", "close it with */");
        }
    }

    /// Reads what is between brackets.
    fn nested(
        &mut self,
        parser: &mut Parser<'t>,
        at: usize,
        bracket: char,
        depth: usize,
        read: impl FnOnce(&mut Self, &mut Parser<'t>),
    ) {
        // Unasked for, the library goes over a block without going into it.
        if depth >= DEEPEST {
            self.styles.is_deep = true;
            let message = "what is in this bracket is nested too deep, and is not checked";
            return self.problem(Span::new(at, at + 1), message, "nest less");
        }
        let mut end = 0;
        let _ = parser.parse_nested_block(|parser| {
            read(self, parser);
            end = parser.position().byte_index();
            Ok::<(), ParseError<()>>(())
        });
        if parser.position().byte_index() == end {
            self.open.push((at, bracket));
        }
    }

    /// One part of a value or a selector, with what is in it.
    fn value(&mut self, parser: &mut Parser<'t>, token: &Token<'t>, span: Span, around: Around, depth: usize) {
        let end = span.range().end;
        match token {
            Token::UnquotedUrl(_) if !ends_with(self.written(span), ')') => {
                let bracket = self.written(span).find('(').unwrap_or(0);
                self.open.push((span.range().start + bracket, '('));
            }
            Token::UnquotedUrl(address) => self.load(address, span, around),
            Token::QuotedString(address) => {
                let written = self.written(span);
                let quote = written.chars().next().unwrap_or('"');
                if written.len() < 2 || !ends_with(written, quote) {
                    self.open_text = self.open_text.or(Some(span.range().start));
                    self.problem(span, "this text is never closed", "close its quote");
                } else if matches!(around, Around::Loads | Around::Imports) {
                    self.load(address, span, around);
                }
            }
            Token::BadString(_) => {
                let end = span.range().start + 1;
                let span = Span::new(span.range().start, end);
                self.open_text = self.open_text.or(Some(span.range().start));
                self.problem(span, "this text is not closed on its line", "close its quote");
            }
            Token::BadUrl(_) => {
                let help = "write the address in quotes: url(\"…\")";
                self.problem(span, "this address has a space, a quote or a bracket in it", help);
            }
            Token::Function(name) => {
                let around = match &*name.to_ascii_lowercase() {
                    "url" | "src" if around == Around::Imports => Around::Imports,
                    "url" | "src" | "image-set" | "-webkit-image-set" => Around::Loads,
                    "var" => Around::Var,
                    _ => Around::Other,
                };
                self.nested(parser, end - 1, '(', depth, |reader, parser| reader.values(parser, around, depth + 1));
            }
            Token::ParenthesisBlock | Token::SquareBracketBlock | Token::CurlyBracketBlock => {
                let bracket = self.text[..end].chars().next_back().unwrap_or('(');
                self.nested(parser, end - 1, bracket, depth, |reader, parser| {
                    reader.values(parser, Around::Other, depth + 1);
                });
            }
            Token::CloseParenthesis | Token::CloseSquareBracket | Token::CloseCurlyBracket => {
                let bracket = self.written(span).chars().next().unwrap_or('}');
                self.stray = self.stray.or(Some((span.range().start, bracket)));
            }
            _ => {}
        }
    }

    fn values(&mut self, parser: &mut Parser<'t>, around: Around, depth: usize) {
        let mut read = None;
        let mut has_other = false;
        loop {
            let start = parser.position().byte_index();
            let Ok(token) = parser.next_including_whitespace_and_comments().cloned() else { break };
            let span = Span::new(start, parser.position().byte_index());
            match &token {
                Token::Ident(name) if around == Around::Var && read.is_none() => read = Some((name.to_string(), span)),
                Token::Comma => has_other = true,
                _ => self.check_comment(&token, span),
            }
            self.value(parser, &token, span, around, depth);
        }
        self.styles.reads.extend(read.filter(|_| !has_other));
    }

    fn load(&mut self, address: &str, span: Span, around: Around) {
        self.styles.loads.push(Load { address: address.to_owned(), span, is_import: around == Around::Imports });
    }

    /// The word that an at-rule begins with.
    fn at_word(&self, pieces: &[Piece]) -> Option<&'t str> {
        pieces.first().filter(|_| is_at_rule(pieces)).map(|piece| self.written(piece.span))
    }

    /// Whether a statement so far is the beginning of a custom property, whose value may be anything.
    fn is_custom(&self, pieces: &[Piece]) -> bool {
        match pieces {
            [name, colon, ..] => colon.kind == PieceKind::Colon && self.written(name.span).starts_with("--"),
            _ => false,
        }
    }

    /// A statement before its block in braces; what the block has in it.
    fn rule(&mut self, pieces: &[Piece], holds: Holds) -> Holds {
        self.has_rules = true;
        if let Some(word) = self.at_word(pieces) {
            let word = word.to_ascii_lowercase();
            if let ("@property", Some(name)) = (&*word, pieces.get(1)) {
                self.styles.sets.push(self.written(name.span).to_owned());
            }
            return match word.trim_start_matches('@') {
                "media" | "supports" | "container" | "layer" | "scope" | "starting-style" => holds,
                "font-face" | "page" | "property" | "counter-style" | "font-palette-values" | "position-try" => {
                    Holds::Declarations
                }
                word if word.ends_with("keyframes") => Holds::Rules,
                _ => Holds::Anything,
            };
        }
        if holds == Holds::Anything || is_broken(pieces) || self.is_line_comment(pieces) {
            return Holds::Anything;
        }
        if let Some(semicolon) = pieces.iter().find(|piece| piece.kind == PieceKind::Semicolon) {
            let message = "browsers leave out the rule after this ;, since none is between rules";
            self.problem(semicolon.span, message, "take it out");
            return Holds::Anything;
        }
        // A selector has nothing between the colon and what it belongs to.
        if let ([name, colon, first, ..], Holds::Declarations) = (pieces, holds)
            && (name.kind, colon.kind) == (PieceKind::Word, PieceKind::Colon)
            && !colon.is_apart
            && first.is_apart
        {
            self.problem(name.span, format!("no ; ends the declaration of {}", self.written(name.span)), "write one");
        }
        Holds::Declarations
    }

    /// Whether a statement begins with what other languages take for a comment; it is reported.
    fn is_line_comment(&mut self, pieces: &[Piece]) -> bool {
        let [first, second, ..] = pieces else { return false };
        let is_one = [first, second].iter().all(|piece| piece.kind == PieceKind::Sign('/')) && !second.is_apart;
        if is_one {
            let message = "// is not a comment in a style sheet: browsers leave out what comes after it";
            self.problem(first.span.to(second.span), message, "write the comment as /* … */");
        }
        is_one
    }

    fn check_import(&mut self, pieces: &[Piece]) {
        let is_import = self.at_word(pieces).is_some_and(|word| word.eq_ignore_ascii_case("@import"));
        if let (true, true, [first, ..]) = (is_import, self.has_rules, pieces) {
            let message = "browsers leave out this @import, since rules are in front of it";
            self.problem(first.span, message, "write it at the beginning of the file");
        }
    }

    /// A statement that ends without a block.
    fn statement(&mut self, pieces: &[Piece], holds: Holds) {
        self.check_import(pieces);
        // Some write a sign in front of a property so that only an old browser reads it.
        let pieces = match pieces {
            [hack, rest @ ..] if hack.kind == PieceKind::Sign('*') => rest,
            pieces => pieces,
        };
        let [first, rest @ ..] = pieces else { return };
        let name = self.written(first.span);
        let is_declaration =
            first.kind == PieceKind::Word && rest.first().is_some_and(|it| it.kind == PieceKind::Colon);
        if is_declaration && name.starts_with("--") {
            self.styles.sets.push(name.to_owned());
            let is_next =
                |pair: &&[Piece]| pair[1].kind == PieceKind::Colon && self.written(pair[0].span).starts_with("--");
            if let Some(next) = rest[1..].windows(2).find(is_next) {
                self.unended(name, &next[0]);
            }
            return;
        }
        if holds != Holds::Declarations || is_broken(pieces) || is_at_rule(pieces) || self.is_line_comment(pieces) {
            return;
        }
        if !is_declaration {
            let message = "this is neither a declaration nor a rule, so browsers leave it out";
            let help = "a declaration is a property, a colon and a value: color: green;";
            return self.problem(first.span.to(rest.last().map_or(first.span, |last| last.span)), message, help);
        }
        if let Some(meant) = meant_property(name) {
            let message = format!("{name} is not a property that browsers know, so they leave it out");
            self.problem(first.span, message, format!("did you mean {meant}?"));
        }
        let value = &rest[1..];
        if value.is_empty() {
            return self.problem(first.span, format!("{name} has no value"), "write one, or take the declaration out");
        }
        let colon = value.iter().position(|piece| piece.kind == PieceKind::Colon);
        if let Some(before) = colon.and_then(|at| value.get(at.checked_sub(1)?)) {
            // Old browsers were given filters in a language of their own.
            if !self.written(before.span).eq_ignore_ascii_case("progid") {
                self.unended(name, before);
            }
        }
    }

    /// Reports a declaration that goes on into the next one.
    fn unended(&mut self, name: &str, next: &Piece) {
        let message = match next.kind {
            PieceKind::Word => {
                let next = self.written(next.span);
                format!("no ; ends the declaration of {name}, so browsers leave out {next} too")
            }
            _ => format!("no ; ends the declaration of {name}, so browsers leave it out"),
        };
        self.problem(next.span, message, "write one in front of the next property");
    }

    /// What is left at the end of rules.
    fn rest(&mut self, pieces: &[Piece], depth: usize) {
        self.check_import(pieces);
        // What nothing closes is the cause.
        if !self.open.is_empty() || self.open_comment.is_some() {
            return;
        }
        let first = pieces.iter().find(|piece| piece.kind != PieceKind::Semicolon);
        let Some(first) = first.filter(|_| !is_at_rule(pieces)) else { return };
        if self.open_text.is_some() || self.is_line_comment(pieces) {
            return;
        }
        if depth > 0 {
            self.lacks_brace = true;
            self.unopened(pieces);
        } else {
            let last = pieces.last().map_or(first.span, |last| last.span);
            self.problem(first.span.to(last), "no block comes after this, so browsers leave it out", "write it: { … }");
        }
    }

    /// Reports a rule that has a `}` but no `{`.
    fn unopened(&mut self, pieces: &[Piece]) {
        if self.open_text.is_some() {
            return;
        }
        let selector = pieces.iter().enumerate().take_while(|(at, piece)| *at == 0 || !piece.is_apart);
        let selector = selector.map(|(_, piece)| piece.span).reduce(Span::to).unwrap_or_default();
        let message = "no { comes after this, so browsers leave it out, and the next rule with it";
        self.problem(selector, message, "write { in front of the first declaration");
    }
}

/// Whether a text ends with a character that no backslash takes its meaning from.
fn ends_with(text: &str, end: char) -> bool {
    let before = text.strip_suffix(end);
    before.is_some_and(|before| before.bytes().rev().take_while(|&byte| byte == b'\\').count() % 2 == 0)
}

fn is_broken(pieces: &[Piece]) -> bool {
    pieces.iter().any(|piece| piece.kind == PieceKind::Broken)
}

fn is_at_rule(pieces: &[Piece]) -> bool {
    pieces.first().is_some_and(|piece| piece.kind == PieceKind::AtWord)
}

/// Which custom properties anything of a site sets.
pub struct SetProperties {
    names: FxHashSet<String>,
    others: Vec<Arc<str>>,
    asked: RwLock<FxHashMap<Box<str>, bool>>,
}

impl SetProperties {
    /// Those that style sheets set, and those that are set somewhere in other texts.
    pub(crate) fn of(names: FxHashSet<String>, others: Vec<Arc<str>>) -> Self {
        Self { names, others, asked: RwLock::default() }
    }

    /// Whether anything sets the custom property of this name.
    pub(crate) fn has(&self, name: &str) -> bool {
        if self.names.contains(name) {
            return true;
        }
        if let Some(known) = self.asked.read().ok().and_then(|asked| asked.get(name).copied()) {
            return known;
        }
        let is_set = self.others.iter().any(|text| sets_property(text, name));
        if let Ok(mut asked) = self.asked.write() {
            asked.insert(name.into(), is_set);
        }
        is_set
    }

    /// What may have been meant by a name.
    pub(crate) fn nearest(&self, name: &str) -> Option<&str> {
        let mut known: Vec<&str> = self.names.iter().map(String::as_str).collect();
        known.sort_unstable();
        nearest(name, known)
    }
}

/// Whether a text that is no style sheet has this name, and sets it there: behind it is a colon, or the end of a text in a
/// script.
pub(crate) fn sets_property(text: &str, name: &str) -> bool {
    text.match_indices(name).any(|(at, _)| {
        let behind = text[at + name.len()..].trim_start();
        behind.starts_with([':', '"', '\'', '`', '+'])
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn problems(text: &str) -> Vec<String> {
        let told = |problem: &StyleProblem| {
            let line = text[..problem.span.range().start].matches('\n').count() + 1;
            format!("{line} {}: {}", &text[problem.span.range()], problem.message)
        };
        read(text).problems.iter().map(told).collect()
    }

    #[test]
    fn what_is_right_has_no_problems() {
        for text in [
            "",
            "@charset \"utf-8\";\n@import url(a.css) layer(base) screen;\n@namespace svg url(http://www.w3.org/2000/svg);\n",
            ":root { --gap: 1rem; --empty:; --block: { a: b; c: d } ; color: red }",
            "a:hover, a::before, li:not(:first-child) > b:nth-child(2n + 1) { content: \":;{}\" }",
            ".card { & > b { color: red; } a:hover { color: blue } &:has(img) {} .x & { top: 0 } }",
            "@media (min-width: 40em) and (orientation: landscape) { a { b: c } }\n@layer a, b;\n@layer a { c { d: e } }",
            "@font-face { font-family: X; src: local(\"X\"), url(x.woff2) format(\"woff2\") }",
            "@keyframes turn { from { top: 0 } 50% { top: 1px } to { top: 2px } }",
            ".old { *zoom: 1; _height: 1px; filter: progid:DXImageTransform.Microsoft.gradient(a='#1', b='#2'); }",
            ".a { width: calc(100% - (2 * var(--gap, 1px))); background: url(data:image/png;base64,AAAA) }",
            ".a { grid-area: 1 / 2 / 3; color: red !important; ; }\n<!-- .b { c: d } -->",
            "@supports (display: grid) and (not (display: inline-grid)) { .a { color: red } }",
            ".a { @media (width > 40em) { color: red; & b { top: 0 } } }\n@page :first { margin: 0; @top-left { content: \"x\" } }",
            ".sm\\:flex, .w-1\\/2 { color: red }\n.a { --x: a:b; --y:url(//seeds.example/a) }",
            "@property --hue { syntax: \"<angle>\"; inherits: false; initial-value: 0deg }",
            ".a {} ;",
        ] {
            assert!(problems(text).is_empty(), "{text}: {:?}", problems(text));
        }
    }

    #[test]
    fn misspelt_properties_are_found() {
        for (name, meant) in [
            ("colr", Some("color")),
            ("Backgroud-Color", Some("background-color")),
            ("margin-lefft", Some("margin-left")),
            ("dispaly", Some("display")),
            ("color", None),
            ("GRID-GAP", None),
            ("-webkit-colr", None),
            ("_height", None),
            ("behavior", None),
            ("anything-else", None),
        ] {
            assert_eq!(meant_property(name), meant, "{name}");
        }
        let mut names: Vec<&str> = include_str!("css_properties.txt").lines().collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.join("\n") + "\n", include_str!("css_properties.txt"));
    }

    #[test]
    fn problems_are_found_once_at_their_place() {
        for (text, expected) in [
            (".a { colr: red }", "1 colr: colr is not a property that browsers know, so they leave it out"),
            (".a { color: red\n.b { top: 0 } }", "1 color: no ; ends the declaration of color"),
            (
                ".a {\n  color: red\n  margin: 0;\n}",
                "3 margin: no ; ends the declaration of color, so browsers leave out margin too",
            ),
            (
                ".a {\n  color red;\n}",
                "2 color red: this is neither a declaration nor a rule, so browsers leave it out",
            ),
            (".a { color: }", "1 color: color has no value"),
            (".a { top: 0;\n\n.b { top: 1px }\n", "1 {: this { is never closed"),
            (".a { top: 0; } }\n.b { top: 0 }", "1 }: this } closes nothing"),
            (".a { width: calc(1px; }\n.b { top: 0 }", "1 (: this ( is never closed"),
            (
                ".a { top: 0 };\n.b { top: 0 }",
                "1 ;: browsers leave out the rule after this ;, since none is between rules",
            ),
            (
                "// cards\n.a { top: 0 }",
                "1 //: // is not a comment in a style sheet: browsers leave out what comes after it",
            ),
            (
                ".a { top: 0; // wide\n left: 0; }",
                "1 //: // is not a comment in a style sheet: browsers leave out what comes after it",
            ),
            (".a { content: 'x\\\\' }\n.b { content: 'x\\'", "2 'x\\': this text is never closed"),
            ("/* a */\n@import url(b.css\\)", "2 (: this ( is never closed"),
            ("@import url(b.css", "1 (: this ( is never closed"),
            (".a { top: 0 }\n.b { content: \"; }\n.c { top: 0 }", "2 \": this text is not closed on its line"),
            (".a { top: 0 }\n/* cards\n.b { top: 0 }", "2 /*: this comment is never closed"),
            (".a { content: \"x;\n top: 0 }", "1 \": this text is not closed on its line"),
            (
                ".a { background: url(my bed.png) }",
                "1 url(my bed.png): this address has a space, a quote or a bracket in it",
            ),
            (".a { top: 0 }\n.b\n top: 0;\n}\n.c { top: 0 }", "2 .b: no { comes after this"),
            ("/* a\n.a { top: 0 }\n/* b */\n.b { top: 0 }", "1 /*: this comment ends only where the next one does"),
            (
                ":root {\n --a: 1px\n --b: 2px;\n}",
                "3 --b: no ; ends the declaration of --a, so browsers leave out --b too",
            ),
            (".a{width:700color:#fc0}", "1 700color: no ; ends the declaration of width"),
            ("\u{feff}@import \"a.css\";\n.a { top }", "2 top: this is neither a declaration nor a rule"),
            (".a:not(.b {\n top: 0;\n}\n", "1 (: this ( is never closed"),
            ("[type=a\"] {\n top: 0;\n}\n", "1 \": this text is not closed on its line"),
            ("@media print {\n.b top: 0;\n}\n.c { top: 0 }\n}", "2 .b: no { comes after this"),
            ("@layer a;\n.a { top: 0 }\n@import \"b.css\";", "3 @import: browsers leave out this @import"),
            ("@media print { @import url(b.css); }", "1 @import: browsers leave out this @import"),
            (".a { top: 0 }\n.b", "2 .b: no block comes after this, so browsers leave it out"),
            (".a { top: 0;\n b; }", "2 b: this is neither a declaration nor a rule, so browsers leave it out"),
        ] {
            let found = problems(text);
            assert!(found.first().is_some_and(|first| first.starts_with(expected)), "{text}: {found:?}");
            assert_eq!(found.len(), 1, "{text}: {found:?}");
        }
    }

    #[test]
    fn what_it_loads_sets_and_reads_is_found() {
        let styles = read(
            "@import \"a.css\"; @import url('b.css') print;\n:root { --a: url(c.svg); }\n.x { background: \
             image-set(\"d.png\" 1x, url(e.png) 2x), URL( f.png ); color: var(--a); top: var(--b, 0); left: \
             calc(var(--c) * 2); content: \"g.png\" }\n@property --d {}\n@supports \
             (color: var(--e)) and (background: url(h.png)) { .x { top: 0 } }",
        );
        let loads: Vec<&str> = styles.loads.iter().map(|load| &*load.address).collect();
        assert_eq!(loads, ["a.css", "b.css", "c.svg", "d.png", "e.png", "f.png"]);
        assert_eq!(styles.loads.iter().filter(|load| load.is_import).count(), 2);
        assert_eq!(styles.sets, ["--a", "--d"]);
        assert_eq!(styles.reads.iter().map(|(name, _)| &**name).collect::<Vec<_>>(), ["--a", "--c"]);
        assert!(styles.problems.is_empty(), "{:?}", styles.problems);
    }

    #[test]
    fn hostile_texts_end() {
        for text in ["{", "(", "[", "url(", "a{b:", "\"", "/*", "}", "@", "\\", ";", "var(", "//", "\0", "é"] {
            let many = text.repeat(20_000);
            assert!(read(&many).problems.len() <= MOST_PROBLEMS + 1);
        }
    }
}
