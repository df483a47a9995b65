//! Pieces to statements: blocks opened, divided and ended.

use crate::syntax::parse::DEPTH;
use crate::syntax::parse::lines::Piece;
use crate::syntax::parse::value::Values;
use crate::syntax::slips::{self, ReadAs};
use crate::syntax::tree::{AssetKind, Block, Call, Each, Expr, ExprKind, Mode, Node, NodeKind};
use crate::syntax::words::{self, STATEMENTS, SpannedWord, Word};
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Problems};
use crate::text::source::Span;
use crate::text::suggest::nearest;

/// Parses the pieces of `text` into a block.
pub fn parse(text: &str, pieces: &[Piece<'_>], problems: &mut Problems) -> Block {
    let mut parser = Parser { text, pieces, at: 0, problems, depth: 0 };
    let mut nodes = Vec::new();
    while parser.at < pieces.len() {
        let (block, divider) = parser.block();
        nodes.extend(block.nodes);
        if let Some(divider) = divider {
            parser.stray(&divider);
        }
    }
    Block { nodes }
}

struct Parser<'s> {
    text: &'s str,
    pieces: &'s [Piece<'s>],
    at: usize,
    problems: &'s mut Problems,
    depth: usize,
}

/// A tag that ends a block or begins its next part.
struct Divider {
    tag: Span,
    word: String,
    words: Vec<SpannedWord>,
}

/// The statement that a block belongs to, for messages.
struct Opener {
    tag: Span,
    word: &'static str,
}

impl Parser<'_> {
    /// Nodes up to the next divider, or to the end of the file.
    fn block(&mut self) -> (Block, Option<Divider>) {
        let mut nodes = Vec::new();
        while let Some(piece) = self.pieces.get(self.at) {
            self.at += 1;
            match piece {
                Piece::Text(span, text) => {
                    nodes.push(Node { span: *span, kind: NodeKind::Text(text.clone().into_owned()) })
                }
                Piece::LineStart(span, white) => {
                    nodes.push(Node { span: *span, kind: NodeKind::LineStart(white.clone().into_owned()) })
                }
                Piece::LineEnd(span, white) => {
                    nodes.push(Node { span: *span, kind: NodeKind::LineEnd(white.clone().into_owned()) })
                }
                Piece::Tag(tag, inside) => {
                    let before = self.problems.count();
                    let words = words::words(self.text, *inside, self.problems);
                    if self.problems.count() > before {
                        self.problems.settle(*tag);
                    }
                    let words = self.own_words(*tag, words);
                    if let Some(word) = divider_word(&words) {
                        return (Block { nodes }, Some(Divider { tag: *tag, word, words }));
                    }
                    nodes.extend(self.tag(*tag, &words).map(|kind| Node { span: *tag, kind }));
                }
            }
        }
        (Block { nodes }, None)
    }

    fn tag(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        match words.first().map(|placed| &placed.word) {
            None => {
                let diagnostic =
                    Diagnostic::of(&codes::EMPTY_TAG, "this tag is empty").help("a comment is written +{# … #}");
                self.problems.push(tag, diagnostic);
                None
            }
            Some(Word::Name(name)) if STATEMENTS.contains(&name.as_str()) && !is_choice(words) => {
                self.statement(tag, words)
            }
            Some(Word::Name(name))
                if name == "if" && words.last().is_some_and(|last| last.word == Word::Name("then".to_owned())) =>
            {
                let span = words.last().map_or(tag, |last| last.span);
                let diagnostic = Diagnostic::of(&codes::BAD_TAG, "\"then\" is not expected here");
                self.problems
                    .push(span, diagnostic.help("a block is written +{if A} … +{end}; a value: if A then B else C"));
                self.problems.settle(tag);
                self.statement(tag, &words[..words.len() - 1])
            }
            Some(Word::Name(_)) => self.print(tag, words),
            Some(_) => self.read(tag, words, |values| values.query()).map(NodeKind::Print),
        }
    }

    fn print(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        if let Some(node) = self.foreign(tag, words) {
            return node;
        }
        self.read(tag, words, |values| values.query()).map(NodeKind::Print)
    }

    /// Reads all of `words` with `read`.
    fn read<T>(&mut self, tag: Span, words: &[SpannedWord], read: impl FnOnce(&mut Values<'_>) -> T) -> Option<T> {
        let end = Span::new(tag.range().end - 1, tag.range().end);
        let mut values = Values::new(words, end, self.problems);
        let value = read(&mut values);
        values.finish();
        if values.failed {
            self.problems.settle(tag);
        }
        Some(value)
    }

    /// The words of a tag in our own words, where it begins with one that divides or ends a block elsewhere; that is
    /// reported.
    fn own_words(&mut self, tag: Span, mut words: Vec<SpannedWord>) -> Vec<SpannedWord> {
        let Some(SpannedWord { word: Word::Name(name), span }) = words.first() else { return words };
        let span = *span;
        let own: &[&str] = match name.as_str() {
            "elseif" | "elsif" | "elif" | "elseIf" => &["else", "if"],
            _ if words.len() == 1 && is_foreign_end(name) => &["end"],
            _ => return words,
        };
        let help = match own {
            ["end"] => {
                let block = match name[3..].trim_start_matches('_') {
                    "for" | "foreach" | "loop" => Some("each"),
                    "unless" => Some("if"),
                    own => STATEMENTS.contains(&own).then_some(own),
                };
                let named = block.map_or(String::new(), |block| format!(", or +{{end {block}}}"));
                format!("a block ends with +{{end}}{named}")
            }
            _ => "write +{else if …} in two words".to_owned(),
        };
        let diagnostic = Diagnostic::of(&codes::UNKNOWN_STATEMENT, format!("there is no statement \"{name}\""));
        self.problems.push(span, diagnostic.help(help));
        self.problems.settle(tag);
        words.splice(..1, own.iter().map(|own| SpannedWord { word: Word::Name((*own).to_owned()), span }));
        words
    }

    /// A tag that begins with a statement of other languages: it is reported, and read as what it means.
    fn foreign(&mut self, tag: Span, words: &[SpannedWord]) -> Option<Option<NodeKind>> {
        let [SpannedWord { word: Word::Name(name), span }, second, ..] = words else { return None };
        let assigns = second.word == Word::Sign("=");
        let begins_a_statement =
            matches!(second.word, Word::Text(_) | Word::Name(_) | Word::Int(_)) && span.end < second.span.start;
        let continues = matches!(&second.word, Word::Name(name) if CONTINUES.contains(&name.as_str()));
        if assigns {
            let help = format!("a value is named by +{{let {name} = …}}, and compared with ==");
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_STATEMENT, "a tag that names a value begins with \"let\"");
            self.problems.push(*span, diagnostic.help(help));
            self.problems.settle(tag);
            return Some(None);
        }
        if !begins_a_statement || continues {
            return None;
        }
        let foreign = slips::statement(name);
        let near = nearest(name, STATEMENTS.iter().copied());
        if foreign.is_none() && near.is_none() {
            return None;
        }
        let diagnostic = Diagnostic::of(&codes::UNKNOWN_STATEMENT, format!("there is no statement \"{name}\""));
        let Some(foreign) = foreign else {
            self.problems.push(*span, diagnostic.meaning(name, STATEMENTS.iter().copied()));
            self.problems.settle(tag);
            return Some(None);
        };
        self.problems.push(*span, diagnostic.help(foreign.help));
        self.problems.settle(tag);
        Some(match foreign.read_as {
            ReadAs::Statement(own) => {
                let mut words = words.to_vec();
                words[0].word = Word::Name(own.to_owned());
                self.statement(tag, &words)
            }
            ReadAs::Block => {
                self.whole(&Opener { tag, word: "block" });
                None
            }
            ReadAs::Alone => None,
        })
    }

    fn statement(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        let Word::Name(word) = &words.first()?.word else { return None };
        let rest = &words[1..];
        match word.as_str() {
            "raw" => self.read(tag, rest, |values| values.query()).map(NodeKind::Raw),
            "let" => self.let_(tag, rest),
            "if" => self.if_(tag, rest),
            "each" => self.each(tag, rest),
            "partial" => self.call(tag, rest, "partial").map(NodeKind::Partial),
            "component" => self.call(tag, rest, "component").map(NodeKind::Component),
            "tray" => self.read(tag, rest, |values| values.literal("a tray", "+{tray \"main\"}"))?.map(NodeKind::Tray),
            "inherited" => self.inherited(tag, rest),
            "slot" => self.slot(tag, rest),
            "into" => self.into(tag, rest),
            "use" => self.use_(tag, rest),
            "used" => self.used(tag, rest),
            "dump" => self.read(tag, rest, |values| values.query()).map(NodeKind::Dump),
            "answer" | "redirect" => self.stop(tag, rest, word == "answer"),
            _ => None,
        }
    }

    fn let_(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        let (name, value) = self.read(tag, words, |values| {
            let name = values.new_name("a value");
            if values.take_name("with") {
                return (name, None);
            }
            if !values.take_sign("=") {
                values.problem("\"=\" and a value are missing", Some("write: let name = value"));
            }
            (name, Some(values.query()))
        })?;
        match value {
            Some(value) => Some(NodeKind::Let(name, value)),
            None => Some(NodeKind::Capture(name, self.whole(&Opener { tag, word: "let" }))),
        }
    }

    fn if_(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        let opener = Opener { tag, word: "if" };
        let mut arms = Vec::new();
        let mut condition = self.read(tag, words, |values| values.query())?;
        loop {
            let (block, divider) = self.inner(&opener);
            arms.push((condition, block));
            let Some(divider) = self.expected(divider, &opener, &["else"]) else {
                return Some(NodeKind::If(arms, None));
            };
            if !matches!(divider.words.get(1), Some(SpannedWord { word: Word::Name(name), .. }) if name == "if") {
                self.only(&divider, 1);
                return Some(NodeKind::If(arms, Some(self.last_arm(&opener, divider.tag))));
            }
            condition = self.read(divider.tag, &divider.words[2..], |values| values.query())?;
        }
    }

    fn each(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        let opener = Opener { tag, word: "each" };
        let (name, at, list) = self.read(tag, words, |values| {
            let name = values.new_name("the member of a loop");
            let at = values.take_sign(",").then(|| values.new_name("the round of a loop"));
            if values.is_name("of") || values.is_name(":") {
                values.problem("\"in\" is expected here, not \"of\"", Some("write: each name in list"));
                values.take();
            } else if !values.take_name("in") {
                let turned = words.iter().rposition(|word| word.word == Word::Name("as".to_owned()));
                let name = turned.and_then(|at| words.get(at + 1)).and_then(|word| match &word.word {
                    Word::Name(name) => Some(name.as_str()),
                    _ => None,
                });
                let help = format!("write: each {} in list", name.unwrap_or("name"));
                values.problem("\"in\" and a list are missing", Some(&help));
            }
            (name, at, values.query())
        })?;
        let (body, mut divider) = self.inner(&opener);
        let mut each = Each { name, at, list, body, between: None, none: None };
        while let Some(part) = self.expected(divider, &opener, &["between", "none"]) {
            self.only(&part, 1);
            let (block, next) = self.inner(&opener);
            let place = if part.word == "between" { &mut each.between } else { &mut each.none };
            if place.replace(block).is_some() {
                let message = format!("this loop has a second \"{}\"", part.word);
                self.problems
                    .push(part.tag, Diagnostic::of(&codes::SECOND_PART, message).help("join the two into one"));
            }
            divider = next;
        }
        Some(NodeKind::Each(Box::new(each)))
    }

    fn call(&mut self, tag: Span, words: &[SpannedWord], word: &'static str) -> Option<Call> {
        let (name, given, with) = self.read(tag, words, |values| {
            let name = values.value();
            (name, values.given(), values.take_name("with"))
        })?;
        let body = with.then(|| self.whole(&Opener { tag, word }));
        Some(Call { name, given, body })
    }

    fn inherited(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        let (given, with) = self.read(tag, words, |values| (values.given(), values.take_name("with")))?;
        let body = with.then(|| self.whole(&Opener { tag, word: "inherited" }));
        let name = Expr { span: tag, height: 1, kind: ExprKind::Nothing };
        Some(NodeKind::Inherited(Call { name, given, body }))
    }

    fn slot(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        let (name, with_default) = self.read(tag, words, |values| {
            let named = values.peek().is_some() && !values.is_name("else");
            let name = if named { values.literal("a slot", "+{slot \"aside\"}") } else { None };
            if values.is_name("with") {
                values.problem(
                    "a slot has no \"with\"",
                    Some("its default is between else and its end: +{slot \"aside\" else}"),
                );
            }
            (name, values.take_name("else"))
        })?;
        let default = with_default.then(|| self.whole(&Opener { tag, word: "slot" }));
        Some(NodeKind::Slot(name, default))
    }

    fn into(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        let (name, mode) = self.read(tag, words, |values| {
            let name = values.literal("a slot", "+{into \"aside\"}");
            let mode = if values.take_name("before") {
                Mode::Before
            } else if values.take_name("after") {
                Mode::After
            } else {
                Mode::Replace
            };
            (name, mode)
        })?;
        let body = self.whole(&Opener { tag, word: "into" });
        Some(NodeKind::Into(name?, mode, body))
    }

    fn use_(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        let path = self.read(tag, words, |values| values.literal("an asset", "+{use \"gallery.css\"}"))??;
        if AssetKind::of(&path.text).is_none() {
            let message = format!("\"{}\" is neither a style sheet nor a script", path.text);
            let diagnostic = Diagnostic::of(&codes::UNUSABLE_ASSET, message)
                .help("it ends in .css, .js or .mjs; the address of any other asset is asset(\"…\")");
            self.problems.push(path.span, diagnostic);
        }
        Some(NodeKind::Use(path))
    }

    fn used(&mut self, tag: Span, words: &[SpannedWord]) -> Option<NodeKind> {
        let kind = self.read(tag, words, |values| values.literal("what you named", "+{used \"styles\"}"))??;
        match kind.text.as_str() {
            "styles" => Some(NodeKind::Used(AssetKind::Styles)),
            "scripts" => Some(NodeKind::Used(AssetKind::Scripts)),
            other => {
                let message = format!("a page can't use \"{other}\"");
                let diagnostic = Diagnostic::of(&codes::UNKNOWN_KIND, message).meaning(other, ["styles", "scripts"]);
                let help = || "write +{used \"styles\"} or +{used \"scripts\"}".to_owned();
                self.problems.push(kind.span, diagnostic.or_help(help));
                None
            }
        }
    }

    fn stop(&mut self, tag: Span, words: &[SpannedWord], answer: bool) -> Option<NodeKind> {
        let (status, rest) = self.read(tag, words, |values| {
            let status = match values.peek() {
                Some(Word::Int(status)) => u16::try_from(*status).unwrap_or(0),
                _ => 0,
            };
            let fits = if answer { (400..=599).contains(&status) } else { [301, 302, 303, 307, 308].contains(&status) };
            if !fits {
                let example = if answer { "answer 404 \"No such variety\"" } else { "redirect 301 \"page:visit\"" };
                let message = if answer {
                    "the status must be a number from 400 to 599"
                } else {
                    "the status must be 301, 302, 303, 307 or 308"
                };
                values.problem(message, Some(&format!("write it as in +{{{example}}}")));
            }
            values.take();
            (status, values.peek().is_some().then(|| values.value()))
        })?;
        match (answer, rest) {
            (true, title) => Some(NodeKind::Answer(status, title)),
            (false, Some(target)) => Some(NodeKind::Redirect(status, target)),
            (false, None) => {
                let help = "write it as in +{redirect 301 \"page:visit\"}";
                self.problems.push(tag, Diagnostic::of(&codes::BAD_TAG, "where to redirect to is missing").help(help));
                None
            }
        }
    }

    /// What is after an `else`, up to the end; what comes after a second one is lost.
    fn last_arm(&mut self, opener: &Opener, first: Span) -> Block {
        let (block, mut divider) = self.inner(opener);
        while let Some(second) = self.expected(divider, opener, &[]) {
            if second.word == "else" {
                let path = self.problems.path().clone();
                let message = "this \"if\" has a second \"else\"";
                let diagnostic = Diagnostic::of(&codes::SECOND_PART, message)
                    .help("for another condition write +{else if …}, before it");
                self.problems.push(second.tag, diagnostic.related(&path, first, "the first is here"));
            } else {
                self.stray(&second);
            }
            (_, divider) = self.inner(opener);
        }
        block
    }

    /// A block that only `end` ends.
    fn whole(&mut self, opener: &Opener) -> Block {
        let (mut block, mut divider) = self.inner(opener);
        while let Some(stray) = self.expected(divider, opener, &[]) {
            self.stray(&stray);
            let (more, next) = self.inner(opener);
            block.nodes.extend(more.nodes);
            divider = next;
        }
        block
    }

    fn inner(&mut self, opener: &Opener) -> (Block, Option<Divider>) {
        self.depth += 1;
        let inner = if self.depth > DEPTH {
            self.problems.add(&codes::TOO_DEEP, opener.tag, format!("blocks nest more than {DEPTH} deep here"));
            self.at = self.pieces.len();
            (Block::default(), Some(Divider { tag: opener.tag, word: "end".to_owned(), words: Vec::new() }))
        } else {
            self.block()
        };
        self.depth -= 1;
        inner
    }

    /// Deals with the end of a block; a divider that extends the same statement is handed back.
    fn expected(&mut self, divider: Option<Divider>, opener: &Opener, allowed: &[&str]) -> Option<Divider> {
        let Some(divider) = divider else {
            let message = format!("this \"{}\" is never ended", opener.word);
            let diagnostic = Diagnostic::of(&codes::UNCLOSED_BLOCK, message)
                .help(format!("write +{{end}} or +{{end {}}} where it ends", opener.word));
            self.problems.push(opener.tag, diagnostic);
            return None;
        };
        if divider.word != "end" {
            if !allowed.contains(&divider.word.as_str()) && !allowed.is_empty() {
                self.stray(&divider);
            }
            return Some(divider);
        }
        if let Some(SpannedWord { word: Word::Name(ends), span }) = divider.words.get(1)
            && ends != opener.word
        {
            let path = self.problems.path().clone();
            let message = format!("this ends \"{ends}\", but the innermost open block is \"{}\"", opener.word);
            let diagnostic =
                Diagnostic::of(&codes::MISMATCHED_END, message).related(&path, opener.tag, "it begins here");
            let diagnostic = diagnostic.help(format!("end that first: +{{end {}}}", opener.word));
            self.problems.push(*span, diagnostic);
        }
        self.only(&divider, 2);
        None
    }

    fn only(&mut self, divider: &Divider, count: usize) {
        if let Some(extra) = divider.words.get(count) {
            self.problems.add(
                &codes::BAD_TAG,
                extra.span,
                format!("nothing is expected here after \"{}\"", divider.word),
            );
        }
    }

    fn stray(&mut self, divider: &Divider) {
        let (what, help) = match divider.word.as_str() {
            "end" => ("nothing is open here to end", "take it out, or look for a block that was ended too early"),
            "else" => ("this \"else\" belongs to no \"if\"", "\"else\" is between +{if …} and its +{end}"),
            _ => ("this belongs to no \"each\"", "\"between\" and \"none\" are between +{each …} and its +{end}"),
        };
        self.problems.push(divider.tag, Diagnostic::of(&codes::STRAY_DIVIDER, what).help(help));
    }
}

/// Words that go on with a value, so that the name before them begins no statement.
const CONTINUES: &[&str] =
    &["and", "or", "in", "has", "where", "group", "order", "offset", "limit", "select", "as", "then", "else", "not"];

/// Whether a tag of this name ends a block elsewhere.
fn is_foreign_end(name: &str) -> bool {
    let of = name.strip_prefix("end").map(|rest| rest.trim_start_matches('_'));
    of.is_some_and(|of| {
        let known =
            ["if", "each", "for", "foreach", "unless", "block", "while", "with", "let", "into", "slot", "partial"];
        known.contains(&of) || slips::statement(of).is_some()
    })
}

/// The word of a tag that ends or divides a block.
fn divider_word(words: &[SpannedWord]) -> Option<String> {
    match &words.first()?.word {
        Word::Name(name) if ["end", "else", "between", "none"].contains(&name.as_str()) => Some(name.clone()),
        _ => None,
    }
}

/// Whether a tag that begins with `if` is the value `if A then B else C`.
pub(crate) fn is_choice(words: &[SpannedWord]) -> bool {
    let first = matches!(words.first(), Some(SpannedWord { word: Word::Name(name), .. }) if name == "if");
    let mut depth = 0i32;
    first
        && words.iter().any(|placed| match &placed.word {
            Word::Sign("(" | "[") => {
                depth += 1;
                false
            }
            Word::Sign(")" | "]") => {
                depth -= 1;
                false
            }
            Word::Name(name) => depth == 0 && name == "then",
            _ => false,
        })
}
