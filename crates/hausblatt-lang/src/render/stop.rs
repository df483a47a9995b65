//! How a render ends early: answers, redirects, errors, and what it may cost.

use std::cell::RefCell;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use crate::escape::url;
use crate::html::place::EscapingRow;
use crate::library::UnitId;
use crate::program::{Code, Program};
use crate::render::Renderer;
use crate::render::print::shortened;
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Severity};
use crate::text::source::{Place, Span};

/// How much a render may cost. All is counted, nothing is timed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Tags, operators and members visited.
    pub steps: u64,
    /// Bytes of output and temporaries together.
    pub bytes: usize,
    /// How deep calls nest.
    pub depth: usize,
}

impl Default for Limits {
    fn default() -> Self {
        Self { steps: 50_000_000, bytes: 64 << 20, depth: 64 }
    }
}

thread_local! {
    static GIVEN_UP: RefCell<Option<Arc<AtomicBool>>> = const { RefCell::new(None) };
}

/// Runs `work`; renders that it begins on this thread end soon, with an error, once `given_up` is true: nobody waits for
/// them any more.
pub fn unless_given_up<T>(given_up: Arc<AtomicBool>, work: impl FnOnce() -> T) -> T {
    let before = GIVEN_UP.replace(Some(given_up));
    let done = work();
    GIVEN_UP.set(before);
    done
}

/// What says to work that begins on this thread that it was given up. Whoever spreads it over other threads looks at it there,
/// and leaves out what is left: what comes of it is of use to nobody.
pub fn given_up() -> Option<Arc<AtomicBool>> {
    GIVEN_UP.with_borrow(Clone::clone)
}

/// After so many steps, a render looks whether it was given up.
pub(super) const STRIDE: u64 = 1 << 16;

/// Why there is no page.
#[derive(Debug)]
pub enum Stop {
    /// An error.
    Problem(Box<Diagnostic>),
    /// A file failed the request with this status and title.
    Answer {
        /// The status, 400 to 599.
        status: u16,
        /// What the file says about it.
        title: Option<String>,
        /// Where it does.
        place: Place,
    },
    /// A file redirects.
    Redirect {
        /// The status.
        status: u16,
        /// The address.
        to: String,
        /// Where the file does so.
        place: Place,
    },
}

/// A stop is under way; what it is is in the renderer, so that results stay small.
#[derive(Debug)]
pub(crate) struct Halt;

/// How many warnings of one page are kept.
const MOST_WARNINGS: usize = 100;

impl<'a> Renderer<'_, 'a> {
    /// Why it stopped.
    pub(super) fn stopped(self) -> Box<Stop> {
        Box::new(self.stop.unwrap_or_else(|| {
            Stop::Problem(Box::new(Diagnostic::of(&codes::INTERNAL, "the render stopped without a reason")))
        }))
    }

    pub(super) fn check_depth(&mut self, program: &'a Program, span: Span) -> Result<(), Halt> {
        if self.depth < self.job.limits.depth {
            return Ok(());
        }
        let message = format!("calls nest more than {} deep here", self.job.limits.depth);
        let diagnostic =
            Diagnostic::of(&codes::TOO_DEEP, message).help("a file that calls itself needs an \"if\" that ends it");
        Err(self.problem(program, span, diagnostic))
    }

    pub(super) fn faulty(&mut self, unit: UnitId) -> Halt {
        let path: Arc<str> = self.job.library.unit(unit).map_or_else(|| "?".into(), |unit| unit.path.clone());
        let diagnostic = Diagnostic::of(&codes::FAULTY_FILE, format!("{path} has errors and can't be rendered"));
        self.stop = Some(Stop::Problem(Box::new(diagnostic.at(&path, Span::default()))));
        Halt
    }

    pub(super) fn answer(
        &mut self,
        program: &'a Program,
        at: usize,
        status: u16,
        title: Option<Code>,
    ) -> Result<Halt, Halt> {
        let title = match title {
            Some(code) => {
                let value = self.value(program, code)?;
                Some(self.shown(program, code, value)?.to_owned()).filter(|title| !title.is_empty())
            }
            None => None,
        };
        self.stop = Some(Stop::Answer { status, title, place: place_of(program, at) });
        Ok(Halt)
    }

    pub(super) fn redirect(
        &mut self,
        program: &'a Program,
        at: usize,
        status: u16,
        target: Code,
    ) -> Result<Halt, Halt> {
        let value = self.value(program, target)?;
        let text = self.shown(program, target, value)?;
        let to = self.job.host.url(text, &self.scratch).or_else(|| {
            text.starts_with(['/', '#', '?']).then_some(text).or_else(|| text.starts_with("http").then_some(text))
        });
        let Some(to) = to else {
            let message = format!("broken reference \"{}\"", shortened(text));
            return Err(self.problem_at_code(program, target, Diagnostic::of(&codes::DEAD_REFERENCE, message)));
        };
        match url::whole(to, EscapingRow::Anywhere, self.job.host.site_address()) {
            Ok(address) => {
                let place = place_of(program, at);
                self.stop = Some(Stop::Redirect { status, to: address.into_owned(), place });
            }
            Err(reason) => {
                let message = format!("a redirect can't lead there: {reason}");
                return Err(self.problem_at_code(program, target, Diagnostic::of(&codes::UNSAFE_ADDRESS, message)));
            }
        }
        Ok(Halt)
    }

    /// All steps: those of tags and operators, and those that went into comparing, searching and writing.
    pub(super) fn counted(&self) -> u64 {
        self.steps.saturating_add(self.scratch.spent())
    }

    pub(crate) fn count_step(&mut self, program: &'a Program, code: Code) -> Result<(), Halt> {
        self.count_steps(program, code, 1)
    }

    pub(crate) fn count_steps(&mut self, program: &'a Program, code: Code, steps: u64) -> Result<(), Halt> {
        self.steps += steps;
        if self.counted() <= self.pause && !self.scratch.is_full() {
            return Ok(());
        }
        let span = program.code_spans.get(code.0 as usize).copied().unwrap_or_default();
        self.check_budget(program, span)
    }

    pub(super) fn check_budget(&mut self, program: &'a Program, span: Span) -> Result<(), Halt> {
        if self.given_up.as_ref().is_some_and(|given_up| given_up.load(Ordering::Relaxed)) {
            let diagnostic = Diagnostic::of(&codes::TOO_MANY_STEPS, "nobody waits for this page any more");
            return Err(self.problem(program, span, diagnostic));
        }
        self.pause = self.counted().saturating_add(STRIDE).min(self.job.limits.steps);
        if self.counted() > self.job.limits.steps {
            let message = format!("this page takes more than {} steps", self.job.limits.steps);
            let diagnostic = Diagnostic::of(&codes::TOO_MANY_STEPS, message)
                .help("go through fewer members: narrow the list with \"where\" or \"limit\"");
            return Err(self.problem(program, span, diagnostic));
        }
        if self.scratch.is_full() || self.out.len() + self.captured > self.job.limits.bytes {
            return Err(self.problem(program, span, too_large(self.job.limits.bytes)));
        }
        Ok(())
    }

    pub(crate) fn over_memory(&mut self, program: &'a Program, code: Code) -> Halt {
        let diagnostic = too_large(self.job.limits.bytes);
        self.problem_at_code(program, code, diagnostic)
    }

    pub(crate) fn problem_at_code(&mut self, program: &'a Program, code: Code, diagnostic: Diagnostic) -> Halt {
        let span = program.code_spans.get(code.0 as usize).copied().unwrap_or_default();
        self.problem(program, span, diagnostic)
    }

    pub(super) fn problem(&mut self, program: &Program, span: Span, diagnostic: Diagnostic) -> Halt {
        self.stop = Some(Stop::Problem(Box::new(diagnostic.at(&program.path, span))));
        Halt
    }

    pub(crate) fn warn_at_code(&mut self, program: &'a Program, code: Code, diagnostic: Diagnostic) {
        let span = program.code_spans.get(code.0 as usize).copied().unwrap_or_default();
        self.warn(&program.path, span, diagnostic);
    }

    pub(super) fn warn(&mut self, path: &Arc<str>, span: Span, diagnostic: Diagnostic) {
        debug_assert_eq!(diagnostic.severity, Severity::Warning);
        let diagnostic = diagnostic.at(path, span);
        if self.warnings.len() < MOST_WARNINGS && !self.warnings.contains(&diagnostic) {
            self.warnings.push(diagnostic);
        }
    }
}

fn too_large(bytes: usize) -> Diagnostic {
    let message = format!("this page and its values need more than {} MB", bytes >> 20);
    Diagnostic::of(&codes::TOO_LARGE, message).help("look for a text or a list that grows in each round of a loop")
}

/// The place of a step.
fn place_of(program: &Program, at: usize) -> Place {
    Place { path: program.path.clone(), span: program.spans.get(at).copied().unwrap_or_default() }
}
