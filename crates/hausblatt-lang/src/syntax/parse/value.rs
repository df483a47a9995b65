//! Words to values, by precedence from loose to tight.

use crate::syntax::parse::DEPTH;
use crate::syntax::slips;
use crate::syntax::tree::{Expr, ExprKind, Name, Operator, Query};
use crate::syntax::words::{SpannedWord, Word, may_name};
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Problems};
use crate::text::source::Span;

/// Words that begin the next part of a query.
pub(crate) const QUERY_WORDS: &[&str] = &["where", "group", "order", "offset", "limit", "select"];

/// Reads values from the words of one tag.
pub struct Values<'w> {
    words: &'w [SpannedWord],
    at: usize,
    /// Where the tag ends, for what is missing there.
    end: Span,
    /// What ends there, for messages.
    pub ends: &'static str,
    depth: usize,
    /// The errors of the file.
    pub problems: &'w mut Problems,
    /// Whether an error was reported for this tag; one is enough.
    pub failed: bool,
}

impl<'w> Values<'w> {
    /// A reader of `words`, whose tag ends at `end`.
    pub fn new(words: &'w [SpannedWord], end: Span, problems: &'w mut Problems) -> Self {
        Self { words, at: 0, end, ends: "the end of the tag", depth: 0, problems, failed: false }
    }

    /// The present word.
    pub fn peek(&self) -> Option<&'w Word> {
        self.words.get(self.at).map(|placed| &placed.word)
    }

    /// Where the present word is, or where the tag ends.
    pub fn span(&self) -> Span {
        self.words.get(self.at).map_or(self.end, |placed| placed.span)
    }

    /// Whether the present word is the name `name`.
    pub(crate) fn is_name(&self, name: &str) -> bool {
        matches!(self.peek(), Some(Word::Name(word)) if word == name)
    }

    /// Goes on after the name `name`, if it is present.
    pub(crate) fn take_name(&mut self, name: &str) -> bool {
        let found = self.is_name(name);
        self.at += usize::from(found);
        found
    }

    /// Goes on after a sign, if it is present.
    pub(crate) fn take_sign(&mut self, sign: &str) -> bool {
        let found = matches!(self.peek(), Some(Word::Sign(word)) if *word == sign);
        self.at += usize::from(found);
        found
    }

    /// Goes on after the present word and returns it.
    pub fn take(&mut self) -> Option<&'w SpannedWord> {
        let word = self.words.get(self.at);
        self.at += usize::from(word.is_some());
        word
    }

    /// Reports an error at the present word, unless this tag already has one.
    pub fn problem(&mut self, message: impl Into<String>, help: Option<&str>) {
        self.problem_at(self.span(), message.into(), help);
    }

    fn problem_at(&mut self, span: Span, message: String, help: Option<&str>) {
        if !self.failed {
            let diagnostic = Diagnostic::of(&codes::BAD_TAG, message).maybe_help(help.map(str::to_owned));
            self.problems.push(span, diagnostic);
        }
        self.failed = true;
    }

    /// Reports what is left over, if anything is.
    pub fn finish(&mut self) {
        if self.at < self.words.len() {
            let found = self.shown();
            let slip = match self.peek() {
                Some(Word::Name(name)) => slips::operator(name),
                _ => None,
            };
            let help = slip.unwrap_or("an operator may be missing in front of it");
            self.problem(format!("{found} is not expected here"), Some(help));
        }
    }

    fn shown(&self) -> String {
        match self.peek() {
            Some(Word::Name(name)) => format!("\"{name}\""),
            Some(Word::Sign(sign)) => format!("\"{sign}\""),
            Some(Word::Text(text)) => format!("the text \"{text}\""),
            Some(Word::Int(number)) => format!("the number {number}"),
            Some(Word::Float(number)) => format!("the number {number}"),
            None => self.ends.to_owned(),
        }
    }

    /// A name that the user gives to something: a loop's, a `let`'s, a parameter's.
    pub(crate) fn new_name(&mut self, what: &str) -> Name {
        let span = self.span();
        match self.peek() {
            Some(Word::Name(name)) if may_name(name) => {
                self.at += 1;
                Name { text: name.clone(), span }
            }
            Some(Word::Name(name)) => {
                let message = format!("\"{name}\" is a word of the language and can't name {what}");
                let name = name.clone();
                self.problem(message, Some("choose another name"));
                // What uses it is not reported too.
                self.at += 1;
                Name { text: name, span }
            }
            _ => {
                let found = self.shown();
                self.problem(format!("{what} needs a name here, not {found}"), None);
                Name { text: String::new(), span }
            }
        }
    }

    /// A quoted literal used as a name: a slot's or a file's.
    pub fn literal(&mut self, what: &str, example: &str) -> Option<Name> {
        let span = self.span();
        if let Some(Word::Text(text)) = self.peek() {
            self.at += 1;
            return Some(Name { text: text.clone(), span });
        }
        let found = self.shown();
        self.problem(
            format!("{what} is named by a quoted text, not {found}"),
            Some(&format!("write it as in {example}")),
        );
        None
    }

    /// `a = V, b = V` after `given`, if there is one.
    pub fn given(&mut self) -> Vec<(Name, Expr)> {
        let mut given = Vec::new();
        if !self.take_name("given") {
            let Some(Word::Name(name)) = self.peek() else { return given };
            if !self.is_argument() {
                return given;
            }
            let help = format!("write: given {name} = …");
            self.problem(format!("\"given\" is missing before \"{name}\""), Some(&help));
        }
        loop {
            let name = self.new_name("a parameter");
            if !self.take_sign("=") {
                self.problem("a parameter is given as name = value", Some("write \"=\" and the value after the name"));
                return given;
            }
            let value = self.value();
            given.push((name, value));
            if self.is_argument() {
                let found = self.shown();
                self.problem(format!("a comma is missing before {found}"), Some("write: given a = 1, b = 2"));
            } else if !self.take_sign(",") {
                return given;
            }
        }
    }

    /// Whether the present words give a parameter a value.
    fn is_argument(&self) -> bool {
        let next = self.words.get(self.at + 1).map(|placed| &placed.word);
        matches!(self.peek(), Some(Word::Name(_))) && next == Some(&Word::Sign("="))
    }

    /// A value that may be a query: the whole of a printing tag, an `if`, an `each … in`, a `let`.
    pub fn query(&mut self) -> Expr {
        let list = self.value();
        let named = self.is_name("as");
        if !named && !self.at_query_word() {
            return list;
        }
        let name = self.take_name("as").then(|| self.new_name("the member of a query"));
        let (filter, group, order, offset, limit, select) = (None, None, Vec::new(), None, None, None);
        let mut query = Query { list, name, filter, group, order, offset, limit, select };
        self.query_parts(&mut query);
        let span = query.list.span.to(self.before());
        let parts = [&query.filter, &query.group, &query.offset, &query.limit, &query.select];
        let keys = query.order.iter().map(|(key, _)| key);
        let height = parts.into_iter().flatten().chain(keys).chain([&query.list]).map(|part| part.height).max();
        self.build(span, height.unwrap_or(0), ExprKind::Query(Box::new(query)))
    }

    fn at_query_word(&self) -> bool {
        matches!(self.peek(), Some(Word::Name(name)) if QUERY_WORDS.contains(&name.as_str()))
    }

    fn query_parts(&mut self, query: &mut Query) {
        if self.take_name("where") {
            query.filter = Some(self.value());
        }
        if self.take_name("group") {
            self.by("group");
            query.group = Some(self.value());
        }
        if self.take_name("order") {
            self.by("order");
            query.order = self.keys();
        }
        if self.take_name("offset") {
            query.offset = Some(self.value());
        }
        if self.take_name("limit") {
            query.limit = Some(self.value());
        }
        if self.take_name("select") {
            query.select = Some(self.value());
        }
        if self.at_query_word() {
            let found = self.shown();
            self.problem(
                format!("{found} comes too late in this query"),
                Some("the order is where, group by, order by, offset, limit, select"),
            );
        }
    }

    fn by(&mut self, what: &str) {
        if !self.take_name("by") {
            self.problem(
                format!("\"{what}\" is followed by \"by\""),
                Some(&format!("write \"{what} by\" and the value")),
            );
        }
    }

    fn keys(&mut self) -> Vec<(Expr, bool)> {
        let mut keys = Vec::new();
        loop {
            let key = self.value();
            keys.push((key, self.take_name("desc")));
            if !self.take_sign(",") {
                return keys;
            }
        }
    }

    /// A value without a query of its own.
    pub fn value(&mut self) -> Expr {
        self.depth += 1;
        let value = if self.depth > DEPTH { self.too_deep() } else { self.choice() };
        self.depth -= 1;
        value
    }

    fn too_deep(&mut self) -> Expr {
        let span = self.span();
        self.problem(format!("this value nests more than {DEPTH} deep"), Some("name a part of it with \"let\""));
        self.at = self.words.len();
        Expr::broken(span)
    }

    /// A value over others, the highest of which nests `below` deep.
    fn build(&mut self, span: Span, below: usize, kind: ExprKind) -> Expr {
        if below >= DEPTH { self.too_deep() } else { Expr { span, height: below + 1, kind } }
    }

    fn join(&mut self, left: Expr, right: Expr, kind: impl FnOnce(Box<Expr>, Box<Expr>) -> ExprKind) -> Expr {
        let (span, below) = (left.span.to(right.span), left.height.max(right.height));
        self.build(span, below, kind(Box::new(left), Box::new(right)))
    }

    fn choice(&mut self) -> Expr {
        let start = self.span();
        if !self.take_name("if") {
            return self.or();
        }
        let condition = self.value();
        self.expect_name("then", "a value chosen by \"if\" is written: if A then B else C");
        let yes = self.value();
        self.expect_name("else", "a value chosen by \"if\" is written: if A then B else C");
        let no = self.value();
        let below = condition.height.max(yes.height).max(no.height);
        self.build(start.to(no.span), below, ExprKind::If(Box::new(condition), Box::new(yes), Box::new(no)))
    }

    fn expect_name(&mut self, name: &str, help: &str) {
        if !self.take_name(name) {
            let found = self.shown();
            self.problem(format!("\"{name}\" is expected here, not {found}"), Some(help));
        }
    }

    fn or(&mut self) -> Expr {
        let mut left = self.and();
        while self.take_name("or") {
            let right = self.and();
            left = self.join(left, right, ExprKind::Or);
        }
        left
    }

    fn and(&mut self) -> Expr {
        let mut left = self.not();
        while self.take_name("and") {
            let right = self.not();
            left = self.join(left, right, ExprKind::And);
        }
        left
    }

    fn not(&mut self) -> Expr {
        self.prefixed(|values| values.take_name("not"), ExprKind::Not, Self::comparison)
    }

    /// Any number of a prefix, then what is tighter.
    fn prefixed(
        &mut self,
        take: impl Fn(&mut Self) -> bool,
        wrap: fn(Box<Expr>) -> ExprKind,
        tighter: fn(&mut Self) -> Expr,
    ) -> Expr {
        let mut starts = Vec::new();
        loop {
            let span = self.span();
            if !take(self) {
                break;
            }
            starts.push(span);
        }
        let mut value = tighter(self);
        for start in starts.into_iter().rev() {
            let (span, below) = (start.to(value.span), value.height);
            value = self.build(span, below, wrap(Box::new(value)));
        }
        value
    }

    fn comparison(&mut self) -> Expr {
        let left = self.sum();
        let Some(operator) = self.comparing() else { return left };
        let right = self.sum();
        let value = self.join(left, right, |a, b| ExprKind::Binary(operator, a, b));
        if self.comparing().is_some() {
            self.at -= 1;
            self.problem("comparisons can't be chained", Some("join two of them with \"and\""));
        }
        value
    }

    fn comparing(&mut self) -> Option<Operator> {
        let operator = match self.peek()? {
            Word::Sign("==") => Operator::Equal,
            Word::Sign("!=") => Operator::Unequal,
            Word::Sign("<") => Operator::Less,
            Word::Sign("<=") => Operator::AtMost,
            Word::Sign(">") => Operator::More,
            Word::Sign(">=") => Operator::AtLeast,
            Word::Name(name) if name == "in" => Operator::In,
            Word::Name(name) if name == "has" => Operator::Has,
            Word::Sign("=") => {
                self.problem("\"=\" names a value; it does not compare", Some("write \"==\" to compare two values"));
                return None;
            }
            _ => return None,
        };
        self.at += 1;
        Some(operator)
    }

    fn sum(&mut self) -> Expr {
        self.chain(Self::product, |sign| match sign {
            "+" => Some(Operator::Plus),
            "-" => Some(Operator::Minus),
            _ => None,
        })
    }

    fn product(&mut self) -> Expr {
        self.chain(Self::negation, |sign| match sign {
            "*" => Some(Operator::Times),
            "/" => Some(Operator::Divide),
            "%" => Some(Operator::Remainder),
            _ => None,
        })
    }

    fn chain(&mut self, tighter: fn(&mut Self) -> Expr, operator: fn(&str) -> Option<Operator>) -> Expr {
        let mut left = tighter(self);
        while let Some(Word::Sign(sign)) = self.peek() {
            let Some(operator) = operator(sign) else { break };
            self.at += 1;
            let right = tighter(self);
            left = self.join(left, right, |a, b| ExprKind::Binary(operator, a, b));
        }
        left
    }

    fn negation(&mut self) -> Expr {
        self.prefixed(|values| values.take_sign("-"), ExprKind::Negate, Self::postfix)
    }

    fn postfix(&mut self) -> Expr {
        let mut value = self.primary();
        loop {
            let (start, mut below) = (value.span, value.height);
            let kind = if self.take_sign(".") {
                self.member(value, &mut below)
            } else if self.take_sign("[") {
                let key = self.value();
                below = below.max(key.height);
                self.expect_sign("]");
                ExprKind::Index(Box::new(value), Box::new(key))
            } else {
                return value;
            };
            value = self.build(start.to(self.before()), below, kind);
        }
    }

    fn member(&mut self, value: Expr, below: &mut usize) -> ExprKind {
        let span = self.span();
        let Some(Word::Name(name)) = self.peek() else {
            let found = self.shown();
            self.problem(format!("a member's name is expected after the dot, not {found}"), None);
            return ExprKind::Broken;
        };
        self.at += 1;
        let name = Name { text: name.clone(), span };
        if self.take_sign("(") {
            let arguments = self.list(")");
            *below = (*below).max(highest(&arguments));
            return ExprKind::Method(Box::new(value), name, arguments);
        }
        ExprKind::Member(Box::new(value), name)
    }

    /// Values with commas between them, up to `close`.
    fn list(&mut self, close: &str) -> Vec<Expr> {
        let mut values = Vec::new();
        while !self.take_sign(close) {
            values.push(self.value());
            if !self.take_sign(",") {
                self.expect_sign(close);
                break;
            }
        }
        values
    }

    fn expect_sign(&mut self, sign: &str) {
        if !self.take_sign(sign) {
            let found = self.shown();
            self.problem(format!("\"{sign}\" is missing before {found}"), None);
        }
    }

    fn before(&self) -> Span {
        self.words.get(self.at.wrapping_sub(1)).map_or(self.end, |placed| placed.span)
    }

    fn primary(&mut self) -> Expr {
        let span = self.span();
        let Some(word) = self.take() else {
            self.problem("a value is missing here", None);
            return Expr::broken(span);
        };
        let kind = match &word.word {
            Word::Int(number) => ExprKind::Int(*number),
            Word::Float(number) => ExprKind::Float(*number),
            Word::Text(text) => ExprKind::Text(text.clone()),
            Word::Name(name) => self.named(name, span),
            Word::Sign("[") => ExprKind::List(self.list("]")),
            Word::Sign("(") if self.is_key() => ExprKind::Record(self.record()),
            Word::Sign("(") => {
                let value = self.grouped();
                return Expr { span: span.to(self.before()), ..value };
            }
            Word::Sign(sign) => {
                self.problem_at(span, format!("a value is expected here, not \"{sign}\""), None);
                ExprKind::Broken
            }
        };
        let below = match &kind {
            ExprKind::List(values) | ExprKind::Function(_, values) => highest(values),
            ExprKind::Record(members) => members.iter().map(|(_, value)| value.height).max().unwrap_or(0),
            _ => 0,
        };
        self.build(span.to(self.before()), below, kind)
    }

    /// Whether the present words are a key of a record: any word or a text, and "=".
    fn is_key(&self) -> bool {
        let next = self.words.get(self.at + 1).map(|placed| &placed.word);
        matches!(self.peek(), Some(Word::Name(_) | Word::Text(_))) && next == Some(&Word::Sign("="))
    }

    /// The members of a record, up to the bracket that ends it.
    fn record(&mut self) -> Vec<(Name, Expr)> {
        let mut members: Vec<(Name, Expr)> = Vec::new();
        while self.is_key() {
            let span = self.span();
            let (Some(Word::Name(text)) | Some(Word::Text(text))) = self.peek() else { break };
            self.at += 2;
            if members.iter().any(|(name, _)| name.text == *text) {
                let message = format!("this record has \"{text}\" twice");
                self.problem_at(span, message, Some("take one of the two away"));
            }
            let value = self.value();
            members.push((Name { text: text.clone(), span }, value));
            if !self.take_sign(",") {
                break;
            }
        }
        self.expect_sign(")");
        members
    }

    fn grouped(&mut self) -> Expr {
        let value = self.query();
        self.expect_sign(")");
        value
    }

    fn named(&mut self, name: &str, span: Span) -> ExprKind {
        match name {
            "true" => ExprKind::Bool(true),
            "false" => ExprKind::Bool(false),
            "nothing" => ExprKind::Nothing,
            "it" => ExprKind::Name(name.to_owned()),
            _ if !may_name(name) => {
                self.problem_at(
                    span,
                    format!("a value is expected here, and \"{name}\" is a word of the language"),
                    None,
                );
                ExprKind::Broken
            }
            _ if self.take_sign("(") => {
                let arguments = self.list(")");
                ExprKind::Function(Name { text: name.to_owned(), span }, arguments)
            }
            _ => ExprKind::Name(name.to_owned()),
        }
    }
}

fn highest(values: &[Expr]) -> usize {
    values.iter().map(|value| value.height).max().unwrap_or(0)
}
