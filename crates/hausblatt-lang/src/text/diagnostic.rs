//! What the tool has to say about a file: data without formatting.

use std::error::Error;
use std::fmt::{self, Display, Formatter};
use std::sync::Arc;

use rustc_hash::FxHashSet;

use crate::text::code::Code;
use crate::text::source::{Place, Span};
use crate::text::suggest::nearest_all;

/// How bad it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Severity {
    /// Something to know; the answer is unchanged.
    Warning,
    /// An error: what depends on it fails.
    Error,
}

/// One thing said about one place.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Diagnostic {
    /// Stable name of this sort of diagnostic, such as `unknown-partial`.
    pub code: &'static str,
    /// How bad it is.
    pub severity: Severity,
    /// Where, if it has a place.
    pub place: Option<Place>,
    /// What is wrong; lower case, no full stop.
    pub message: String,
    /// What to do about it.
    pub help: Option<String>,
    /// What would certainly fix it.
    pub fix: Option<Box<Fix>>,
    /// Other places that belong to it, each with a word on why.
    pub related: Vec<(Place, String)>,
    /// What could stand there, where that is known and few.
    pub choices: Vec<&'static str>,
}

impl Display for Diagnostic {
    fn fmt(&self, out: &mut Formatter<'_>) -> fmt::Result {
        match &self.place {
            Some(place) => write!(out, "{}: {}", place.path, self.message),
            None => out.write_str(&self.message),
        }
    }
}

impl Error for Diagnostic {}

/// A change in the file of a diagnostic that certainly fixes it.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Fix {
    /// Where it is to be made, if not at the diagnostic's own place.
    pub span: Option<Span>,
    /// What is there and goes; it is there once.
    pub from: String,
    /// What comes instead.
    pub to: String,
}

impl Fix {
    /// The bytes of `text` that go, if it is clear which they are.
    pub fn goes(&self, text: &str, span: Span) -> Option<Span> {
        let span = self.span.unwrap_or(span);
        let inside = span.of(text);
        let mut found = inside.match_indices(&self.from);
        let (at, _) = found.next().filter(|_| !self.from.is_empty())?;
        let start = span.start as usize + at;
        found.next().is_none().then(|| Span::new(start, start + self.from.len()))
    }
}

/// Each diagnostic once, where it came first.
pub fn distinct(mut diagnostics: Vec<Diagnostic>) -> Vec<Diagnostic> {
    let mut seen: FxHashSet<&Diagnostic> = FxHashSet::default();
    let mut is_new = diagnostics.iter().map(|diagnostic| seen.insert(diagnostic)).collect::<Vec<_>>().into_iter();
    diagnostics.retain(|_| is_new.next().unwrap_or(true));
    diagnostics
}

impl Diagnostic {
    /// One of this sort, without a place yet.
    pub fn of(code: &Code, message: impl Into<String>) -> Self {
        Self {
            code: code.name,
            severity: code.severity,
            place: None,
            message: message.into(),
            help: None,
            fix: None,
            related: Vec::new(),
            choices: Vec::new(),
        }
    }

    /// One of this sort that is an error here.
    pub fn error(code: &Code, message: impl Into<String>) -> Self {
        Self { severity: Severity::Error, ..Self::of(code, message) }
    }

    /// One of this sort that changes no answer here.
    pub fn warning(code: &Code, message: impl Into<String>) -> Self {
        Self { severity: Severity::Warning, ..Self::of(code, message) }
    }

    /// The same at a place.
    #[must_use]
    pub fn at(mut self, path: &Arc<str>, span: Span) -> Self {
        self.place = Some(Place { path: path.clone(), span });
        self
    }

    /// The same with what to do about it.
    #[must_use]
    pub fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }

    /// The same with the names that may be meant by a mistyped one; where there is only one, it fixes the error.
    #[must_use]
    pub fn meaning<'a>(mut self, name: &str, candidates: impl IntoIterator<Item = &'a str>) -> Self {
        let near = nearest_all(name, candidates, 2);
        if let Some(best) = near.first() {
            self.help = Some(format!("did you mean \"{best}\"?"));
            let fix = || Box::new(Fix { span: None, from: name.to_owned(), to: (*best).to_owned() });
            self.fix = (near.len() == 1).then(fix);
        }
        self
    }

    /// The same with what to do about it, if nothing is said about that yet.
    #[must_use]
    pub fn or_help(mut self, help: impl FnOnce() -> String) -> Self {
        self.help = self.help.or_else(|| Some(help()));
        self
    }

    /// The same with the help, if there is any.
    #[must_use]
    pub fn maybe_help(mut self, help: Option<String>) -> Self {
        self.help = help.or(self.help);
        self
    }

    /// The same with one more place that belongs to it.
    #[must_use]
    pub fn related(mut self, path: &Arc<str>, span: Span, why: impl Into<String>) -> Self {
        self.related.push((Place { path: path.clone(), span }, why.into()));
        self
    }

    /// Whether it is an error.
    pub fn is_error(&self) -> bool {
        self.severity == Severity::Error
    }
}

/// Collects the diagnostics of one file.
#[derive(Debug)]
pub struct Problems {
    path: Arc<str>,
    list: Vec<Diagnostic>,
    /// The tags of which enough is said already, in their order.
    settled: Vec<Span>,
}

impl Problems {
    /// An empty collection for the file at `path`.
    pub fn new(path: &Arc<str>) -> Self {
        Self { path: path.clone(), list: Vec::new(), settled: Vec::new() }
    }

    /// Adds `diagnostic`, placed at `span` of this file.
    pub fn push(&mut self, span: Span, diagnostic: Diagnostic) {
        let before = self.settled.partition_point(|tag| tag.start <= span.start);
        let tag = before.checked_sub(1).and_then(|at| self.settled.get(at));
        if tag.is_none_or(|tag| span.end > tag.end) {
            self.list.push(diagnostic.at(&self.path, span));
        }
    }

    /// Takes nothing more about a tag that can't be read: what else would be said of it follows from that.
    pub(crate) fn settle(&mut self, tag: Span) {
        if self.settled.last().is_none_or(|last| last.start < tag.start) {
            self.settled.push(tag);
        }
    }

    /// How many there are.
    pub(crate) fn count(&self) -> usize {
        self.list.len()
    }

    /// Adds one of this sort, without help.
    pub fn add(&mut self, code: &Code, span: Span, message: impl Into<String>) {
        self.push(span, Diagnostic::of(code, message));
    }

    /// Adds those of `others` that are where none of the same sort is yet.
    pub(crate) fn add_new(&mut self, others: Problems) {
        for diagnostic in others.list {
            let same = |known: &Diagnostic| known.code == diagnostic.code && known.place == diagnostic.place;
            if !self.list.iter().any(same) {
                self.list.push(diagnostic);
            }
        }
    }

    /// Whether there is one of this sort.
    pub(crate) fn has(&self, code: &Code) -> bool {
        self.list.iter().any(|diagnostic| diagnostic.code == code.name)
    }

    /// Takes out what follows from something else.
    pub(crate) fn forget(&mut self, codes: &[&Code]) {
        self.list.retain(|diagnostic| !codes.iter().any(|code| code.name == diagnostic.code));
    }

    /// How many of these sorts are further down than a byte of the file.
    pub(crate) fn behind(&self, at: usize, codes: &[&Code]) -> usize {
        let is_behind =
            |diagnostic: &Diagnostic| diagnostic.place.as_ref().is_some_and(|place| place.span.start as usize >= at);
        self.list.iter().filter(|one| is_behind(one) && codes.iter().any(|code| code.name == one.code)).count()
    }

    /// Whether one of them says this.
    pub(crate) fn says(&self, words: &str) -> bool {
        self.list.iter().any(|diagnostic| diagnostic.message.contains(words))
    }

    /// Takes out what follows, further down, from something that begins at a byte of the file.
    pub(crate) fn forget_behind(&mut self, at: usize, codes: &[&Code]) {
        self.list.retain(|diagnostic| {
            let is_behind = diagnostic.place.as_ref().is_some_and(|place| place.span.start as usize >= at);
            !(is_behind && codes.iter().any(|code| code.name == diagnostic.code))
        });
    }

    /// The file they are about.
    pub fn path(&self) -> &Arc<str> {
        &self.path
    }

    /// All of them, ordered by place.
    pub(crate) fn into_list(mut self) -> Vec<Diagnostic> {
        self.list.sort_by_key(|diagnostic| diagnostic.place.as_ref().map(|place| place.span));
        self.list
    }
}
