//! The renderer: a program run step by step, with its frames, slots and budget.

use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use bumpalo::Bump;
use bumpalo::collections::{String as Text, Vec as List};

use crate::compile::Role;
use crate::escape::html::escape;
use crate::escape::url::{Composer, is_ordinary_path};
use crate::html::place::HtmlPlace;
use crate::library::{Library, UnitId};
use crate::program::{Act, Code, Kept, Op, Printing, Program, Read};
use crate::render::{Halt, Limits, Stop, stop, trace};
use crate::syntax::tree::AssetKind;
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::ending::Ending;
use crate::text::source::Span;
use crate::value::dependencies::{Dependency, note};
use crate::value::dump::{Detail, describe};
use crate::value::host::Host;
use crate::value::members::KEYS;
use crate::value::shape::Symbol;
pub use crate::value::tray::InTray;
use crate::value::{Scratch, Value};

use crate::render::assets::AssetRequest;
use crate::render::loops::Round;
use crate::render::marks::{is_marks, mark, without_bare_marks};
use crate::render::slots::Fill;

/// What is to be rendered.
pub struct Job<'a> {
    /// The site.
    pub host: &'a dyn Host,
    /// All files.
    pub library: &'a Library,
    /// The global values, in the order of [`crate::types::Globals`].
    pub globals: &'a [Value<'a>],
    /// The files that answer the request: the template, then what it extends.
    pub templates: &'a [UnitId],
    /// The layouts, from the inside outwards.
    pub layouts: &'a [UnitId],
    /// The prepare files, in the order in which they run.
    pub prepare: &'a [UnitId],
    /// What the request's content placed in trays.
    pub trays: &'a [Tray<'a>],
    /// What the first template is given, where it is a component rendered alone.
    pub given: &'a [(Symbol, Value<'a>)],
    /// What is shown in addition, while developing.
    pub shows: Shows,
    /// What it may cost.
    pub limits: Limits,
}

/// A tray and what content placed in it, in order.
#[derive(Clone, Copy)]
pub struct Tray<'a> {
    /// Its name.
    pub name: &'a str,
    /// What is in it.
    pub placed: &'a [InTray<'a>],
}

/// What a render shows in addition to the page, while developing.
#[derive(Clone, Copy, Debug, Default)]
pub struct Shows {
    /// What `dump` shows; without it, a `dump` is an error.
    pub dumps: bool,
    /// A comment where each file's part starts and stops.
    pub marks: bool,
    /// Signs from which `pieces` says where each piece of the page was written.
    pub trace: bool,
    /// The same signs for values that print nothing; such a sign makes a slot that is asked about look filled.
    pub empties: bool,
}

/// A complete page.
#[derive(Debug)]
pub struct Output<'a> {
    /// The text.
    pub text: &'a str,
    /// What was noticed.
    pub warnings: Vec<Diagnostic>,
    /// The style sheets and scripts that it links to, in their order.
    pub links: Vec<LinkedAsset>,
}

/// A style sheet or a script that a page links to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LinkedAsset {
    /// Its path, as `use` takes it.
    pub path: String,
    /// Which of the two it is.
    pub kind: AssetKind,
    /// The file that requested it first.
    pub by: Arc<str>,
}

/// Renders a page in `arena`.
///
/// # Errors
/// The error, answer or redirect that stopped it.
pub fn render<'a>(job: &Job<'a>, arena: &'a Bump) -> Result<Output<'a>, Box<Stop>> {
    let mut renderer = Renderer::new(job, arena, Vec::new());
    let mut result = renderer.page();
    // What was requested after the place where the links are printed is known only now.
    if result.is_ok() && renderer.links_are_late() {
        let asked = std::mem::take(&mut renderer.asked);
        renderer = Renderer::new(job, arena, asked);
        result = renderer.page();
    }
    match result {
        Ok(()) => {
            let links = renderer.links();
            Ok(Output { text: renderer.out.into_bump_str(), warnings: renderer.warnings, links })
        }
        Err(Halt) => Err(renderer.stopped()),
    }
}

/// Works out one value as `job`'s templates would see it, and hands it to `then`. The program is one line of a
/// prepare file, compiled with [`crate::compile::compile_value`].
///
/// # Errors
/// The error that stopped it.
pub fn evaluate<'a, T>(
    job: &Job<'a>,
    arena: &'a Bump,
    program: &'a Program,
    then: impl FnOnce(Value<'a>, &Scratch<'a>) -> T,
) -> Result<(T, Vec<Diagnostic>), Box<Stop>> {
    let mut renderer = Renderer::new(job, arena, Vec::new());
    let value = renderer.prepare().and_then(|()| {
        renderer.stack.resize(usize::from(program.frame), Value::Nothing);
        match program.ops.first().map(|op| op.act) {
            Some(Act::SetGlobal(code, _)) => renderer.value(program, code),
            _ => Ok(Value::Nothing),
        }
    });
    match value {
        Ok(value) => Ok((then(value, &renderer.scratch), renderer.warnings)),
        Err(Halt) => Err(renderer.stopped()),
    }
}

/// The global values as they are when the prepare files have run.
///
/// # Errors
/// The error that stopped one of them.
pub fn prepared<'a, T>(
    job: &Job<'a>,
    arena: &'a Bump,
    then: impl FnOnce(&[Value<'a>], &Scratch<'a>) -> T,
) -> Result<T, Box<Stop>> {
    let mut renderer = Renderer::new(job, arena, Vec::new());
    match renderer.prepare() {
        Ok(()) => Ok(then(&renderer.globals, &renderer.scratch)),
        Err(Halt) => Err(renderer.stopped()),
    }
}

/// Room for a page that is not a long one.
const PAGE: usize = 8 << 10;

/// Which file runs, and with what.
#[derive(Clone, Copy)]
pub(super) struct Frame<'a> {
    pub(super) unit: UnitId,
    pub(super) program: &'a Program,
    pub(super) chain: Chain,
    pub(super) body: Option<&'a str>,
    pub(super) fills: &'a [Fill<'a>],
}

/// In which chain a file is.
#[derive(Clone, Copy, PartialEq)]
pub(super) enum Chain {
    /// The templates of the request, at this place.
    Template(usize),
    /// A partial and the files it extends, so many calls of `inherited` down.
    Partial(usize),
    /// The layouts too.
    Layout(usize),
}

impl Chain {
    pub(super) fn rank(self) -> usize {
        match self {
            Chain::Template(rank) | Chain::Partial(rank) | Chain::Layout(rank) => rank,
        }
    }
}

/// A render under way.
pub(crate) struct Renderer<'j, 'a> {
    pub(crate) job: &'j Job<'a>,
    pub(crate) scratch: Scratch<'a>,
    globals: List<'a, Value<'a>>,
    pub(super) out: Text<'a>,
    pub(super) stack: List<'a, Value<'a>>,
    pub(super) base: usize,
    /// What fills the slots of the file that runs.
    pub(super) fills: &'a [Fill<'a>],
    pub(super) rounds: List<'a, Round<'a>>,
    /// What was printed before what is kept aside, the innermost last, and how long all of it is.
    captures: Vec<Text<'a>>,
    pub(super) captured: usize,
    pub(super) bodies: Vec<Vec<Fill<'a>>>,
    pub(super) layout_fills: Vec<Fill<'a>>,
    pub(super) address: Composer,
    /// Where the first value in it is.
    pub(super) address_at: Span,
    /// The assets that were requested, and those that a render before this one knows of.
    pub(super) asked: Vec<AssetRequest<'a>>,
    /// Of which sorts links were printed, and for how many assets.
    pub(super) linked: Vec<(AssetKind, usize)>,
    pub(super) depth: usize,
    /// How many of the files that run are components.
    pub(super) in_components: usize,
    /// Whether what is rendered is inside a `pre`.
    pub(super) in_pre: bool,
    pub(super) steps: u64,
    /// Up to how many steps it goes without a look at the budget.
    pub(super) pause: u64,
    /// Whether nobody waits for it any more.
    pub(super) given_up: Option<Arc<AtomicBool>>,
    pub(super) warnings: Vec<Diagnostic>,
    pub(super) stop: Option<Stop>,
}

impl<'j, 'a> Renderer<'j, 'a> {
    fn new(job: &'j Job<'a>, arena: &'a Bump, asked: Vec<AssetRequest<'a>>) -> Self {
        Self {
            job,
            scratch: Scratch::new(arena, job.limits.bytes).with_steps(job.limits.steps).with_host(job.host),
            globals: List::from_iter_in(job.globals.iter().copied(), arena),
            asked,
            linked: Vec::new(),
            out: Text::with_capacity_in(PAGE, arena),
            stack: List::with_capacity_in(64, arena),
            base: 0,
            fills: &[],
            rounds: List::with_capacity_in(4, arena),
            captures: Vec::new(),
            captured: 0,
            bodies: Vec::new(),
            layout_fills: Vec::new(),
            address: Composer::default(),
            address_at: Span::default(),
            depth: 0,
            in_components: 0,
            in_pre: false,
            steps: 0,
            pause: stop::STRIDE.min(job.limits.steps),
            given_up: stop::given_up(),
            warnings: Vec::new(),
            stop: None,
        }
    }

    /// A renderer for a value that is evaluated apart from the present page, in a frame of `program`. It has a
    /// tenth of a page's steps: what costs more is evaluated on each page, and counts there.
    pub(crate) fn apart(job: &'j Job<'a>, arena: &'a Bump, program: &Program) -> Self {
        let mut apart = Self::new(job, arena, Vec::new());
        apart.stack.resize(usize::from(program.frame), Value::Nothing);
        // What is kept for all pages is not given up for one.
        apart.given_up = None;
        apart.scratch.spend(usize::try_from(job.limits.steps / 10 * 9).unwrap_or(usize::MAX));
        apart
    }

    fn page(&mut self) -> Result<(), Halt> {
        self.prepare()?;
        let Some(&template) = self.job.templates.first() else { return Ok(()) };
        self.bring(template);
        let given = self.job.given;
        self.call(template, Chain::Template(0), None, &[], given)?;
        for &layout in self.job.layouts {
            let body = self.taken(PAGE);
            let fills = std::mem::take(&mut self.layout_fills);
            let fills = self.keep_fills(&fills);
            self.call(layout, Chain::Layout(0), Some(body), fills, &[])?;
            self.check_layout_fills(layout, fills);
        }
        self.check_fills_left();
        self.check_links();
        Ok(())
    }

    /// Runs the prepare files.
    fn prepare(&mut self) -> Result<(), Halt> {
        for &unit in self.job.prepare {
            self.call(unit, Chain::Partial(0), None, &[], &[])?;
        }
        Ok(())
    }

    /// Runs a file with parameters by name.
    pub(super) fn call(
        &mut self,
        unit: UnitId,
        chain: Chain,
        body: Option<&'a str>,
        fills: &'a [Fill<'a>],
        given: &[(Symbol, Value<'a>)],
    ) -> Result<(), Halt> {
        let library = self.job.library;
        let Some(program) = library.program(unit) else { return Err(self.faulty(unit)) };
        let base = self.stack.len();
        for parameter in &program.parameters {
            let value = given.iter().find(|(name, _)| *name == parameter.name).map(|&(_, value)| value);
            self.stack.push(value.unwrap_or_else(|| parameter.default()));
        }
        self.enter(&Frame { unit, program, chain, body, fills }, base)
    }

    /// Runs a file whose parameters are on the stack from `base` on. A halt ends the whole render, so nothing is put back then.
    #[inline(always)]
    pub(super) fn enter(&mut self, frame: &Frame<'a>, base: usize) -> Result<(), Halt> {
        let program = frame.program;
        note(Dependency::File(frame.unit));
        let outer_base = std::mem::replace(&mut self.base, base);
        let outer_fills = std::mem::replace(&mut self.fills, frame.fills);
        self.stack.resize(base + usize::from(program.frame), Value::Nothing);
        self.depth += 1;
        if self.job.shows.marks || program.role == Role::Component {
            self.run_marked(frame)?;
        } else {
            self.run(frame)?;
        }
        self.depth -= 1;
        self.stack.truncate(base);
        self.fills = outer_fills;
        self.base = outer_base;
        Ok(())
    }

    /// Runs the steps of a file, with a mark before and behind what it prints if it gets them, and counts it if it is a
    /// component.
    #[inline(never)]
    fn run_marked(&mut self, frame: &Frame<'a>) -> Result<(), Halt> {
        let program = frame.program;
        let marks = self.job.shows.marks && program.ending == Ending::Html && program.role != Role::Prepare;
        if marks {
            self.out.push_str(&mark(true, &program.path));
        }
        let component = usize::from(program.role == Role::Component);
        self.in_components += component;
        self.run(frame)?;
        self.in_components -= component;
        if marks {
            self.out.push_str(&mark(false, &program.path));
        }
        Ok(())
    }

    /// Runs the steps of a file.
    #[inline(always)]
    fn run(&mut self, frame: &Frame<'a>) -> Result<(), Halt> {
        if let Some(at) = self.go_on(frame, 0, false)? {
            self.run_from(frame, at)?;
        }
        self.check_round(frame.program, usize::MAX)
    }

    /// Goes on with the step at `at`, up to one that is not among the common ones; the text before that is printed. None if
    /// the file has ended. With `skip` the text before the first step begins with the closing quote of an attribute that was
    /// left out.
    #[inline(always)]
    fn go_on(&mut self, frame: &Frame<'a>, at: usize, skip: bool) -> Result<Option<usize>, Halt> {
        if !skip && !self.job.shows.trace {
            return self.run_common(frame, at);
        }
        let Some(op) = frame.program.ops.get(at) else { return Ok(None) };
        self.lead(frame.unit, at, op, skip);
        self.steps += 1;
        Ok(Some(at))
    }

    /// Carries out steps from `at` on, as long as they are what most are: they print a text that is there already, lead
    /// elsewhere, or call a partial. The others are not here, so that what is done for each of these is little.
    #[inline(never)]
    fn run_common(&mut self, frame: &Frame<'a>, mut at: usize) -> Result<Option<usize>, Halt> {
        let program = frame.program;
        let most = self.job.limits.bytes;
        while let Some(op) = program.ops.get(at) {
            if !op.lead.is_empty() {
                self.out.push_str(&op.lead);
            }
            self.steps += 1;
            let mut next = at + 1;
            if !self.print_ready(&op.read) {
                match op.act {
                    Act::End => return Ok(None),
                    Act::Text => {}
                    Act::Jump(target) => next = target as usize,
                    Act::Unless(_, target) => match self.ready_truth(&op.read) {
                        Some(true) => {}
                        Some(false) => next = target as usize,
                        None => return Ok(Some(at)),
                    },
                    Act::Again { body } if self.is_within_budget() => {
                        if self.next_round() {
                            self.bind_round();
                            next = body as usize;
                        }
                    }
                    Act::Partial { call, body: false } => self.partial(frame, call, None, &[])?,
                    Act::PartialLine { call, indent, behind } => {
                        let before = self.out.len();
                        self.partial(frame, call, None, &[])?;
                        self.line_end(program, before, u32::from(indent), behind);
                    }
                    _ => return Ok(Some(at)),
                }
            }
            if self.out.len() > most {
                self.check_printed(frame, at, 0)?;
            }
            at = next;
        }
        Ok(None)
    }

    /// Carries out any steps from `at` on; the text before the first one is printed.
    #[inline(never)]
    fn run_from(&mut self, frame: &Frame<'a>, mut at: usize) -> Result<(), Halt> {
        let program = frame.program;
        // How much is printed without a look at what it was.
        let most = if self.job.shows.trace { 0 } else { self.job.limits.bytes };
        // How much was printed before the only tag of the present line.
        let mut line = 0;
        while let Some(op) = program.ops.get(at) {
            let before = self.out.len();
            let mut next = at + 1;
            let mut skip = false;
            match op.act {
                Act::End => break,
                Act::LineStart => line = before,
                Act::LineEnd { indent, behind } => self.line_end(program, line, indent, behind),
                Act::PartialLine { call, indent, behind } => {
                    self.partial(frame, call, None, &[])?;
                    self.line_end(program, before, u32::from(indent), behind);
                }
                Act::Attribute { value, cut, place, absent } => {
                    skip = !self.attribute(program, op.read, (value, cut), (place, absent))?;
                }
                Act::Jump(target) => next = target as usize,
                Act::Unless(code, target) => {
                    if !self.read_or_evaluate(program, code, op.read)?.truth() {
                        next = target as usize;
                    }
                }
                Act::Again { body } => {
                    self.check_round(program, at)?;
                    if self.next_round() {
                        self.bind_round();
                        next = body as usize;
                    }
                }
                act => {
                    if let Some(target) = self.act(frame, at, act, op.read)? {
                        next = target as usize;
                    }
                }
            }
            if self.out.len() > most {
                self.check_printed(frame, at, before)?;
            }
            match self.go_on(frame, next, skip)? {
                Some(step) => at = step,
                None => break,
            }
        }
        Ok(())
    }

    /// Prints the text before a step where it is traced, or where its quote goes with the attribute that was left out.
    #[cold]
    fn lead(&mut self, unit: UnitId, at: usize, op: &Op, skip: bool) {
        if self.job.shows.trace && !op.lead.trim().is_empty() {
            self.out.extend(trace::sign(unit, at, false).into_iter().flatten());
        }
        self.out.push_str(if skip { op.lead.get(1..).unwrap_or("") } else { &op.lead });
    }

    /// Looks at what a step has printed from `before` on, where it is traced or is much.
    #[cold]
    fn check_printed(&mut self, frame: &Frame<'a>, at: usize, before: usize) -> Result<(), Halt> {
        let program = frame.program;
        if self.job.shows.trace && program.ops.get(at).is_some_and(|op| trace::prints(op.act)) {
            self.trace_value(frame.unit, at, before);
        }
        if self.out.len() > self.job.limits.bytes {
            self.check_budget(program, program.spans.get(at).copied().unwrap_or_default())?;
        }
        Ok(())
    }

    /// Ends a line whose only tag was printed from `start` on: it goes if that is nothing.
    #[inline(always)]
    fn line_end(&mut self, program: &Program, start: usize, indent: u32, behind: Kept) {
        if (self.out.len() > start && !self.job.shows.marks) || self.in_pre {
            self.out.push_str(program.kept(behind));
        } else {
            self.line_without_text(program, start, indent, behind);
        }
    }

    #[cold]
    fn line_without_text(&mut self, program: &Program, start: usize, indent: u32, behind: Kept) {
        let printed = self.out.get(start..).unwrap_or("");
        if !is_marks(printed) {
            return self.out.push_str(program.kept(behind));
        }
        let marks = printed.to_owned();
        self.out.truncate(start.saturating_sub(indent as usize));
        self.out.push_str(&marks);
    }

    /// Puts a sign in front of what a step has printed from `before` on.
    fn trace_value(&mut self, unit: UnitId, step: usize, before: usize) {
        let printed = self.out.get(before..).is_some_and(|printed| !printed.trim().is_empty());
        if let Some(sign) = trace::sign(unit, step, true).filter(|_| printed || self.job.shows.empties) {
            // An attribute without a value takes out what was in front of it.
            let at = if self.out.is_char_boundary(before) { before } else { self.out.len() };
            self.out.insert_str(at, &String::from_iter(sign));
        }
    }

    /// Prints what a step reads, if that is a text that is there already: what most steps do. It is looked at where it
    /// was written; to hand it on in a result would cost as much as to find it.
    #[inline(always)]
    fn print_ready(&mut self, read: &Read) -> bool {
        let (value, member, printing) = match *read {
            Read::SlotMember(printing, slot, member) => {
                (self.stack.get(self.base + usize::from(slot)), Some(member), printing)
            }
            Read::GlobalMember(printing, number, member) => {
                (self.globals.get(usize::from(number)), Some(member), printing)
            }
            Read::Slot(printing, slot) => (self.stack.get(self.base + usize::from(slot)), None, printing),
            Read::Global(printing, number) => (self.globals.get(usize::from(number)), None, printing),
            Read::Other => return false,
        };
        let ready = match (value, member, printing) {
            (Some(&Value::Record(record)), Some(member), Printing::Escaped) => record.ready_html(member),
            (Some(&Value::Record(record)), Some(member), Printing::Path) => record.ready_path(member),
            (Some(&Value::Text(text)), None, Printing::Escaped) => {
                escape(text, &mut self.out);
                return true;
            }
            (Some(&Value::Text(text)), None, Printing::Path) => Some(text).filter(|text| is_ordinary_path(text)),
            _ => None,
        };
        let Some(ready) = ready else { return false };
        self.out.push_str(ready);
        true
    }

    /// Whether what a step reads counts as true, if it is a member of a record.
    #[inline(always)]
    fn ready_truth(&self, read: &Read) -> Option<bool> {
        let (value, member) = match *read {
            Read::SlotMember(_, slot, member) => (self.stack.get(self.base + usize::from(slot)), member),
            Read::GlobalMember(_, number, member) => (self.globals.get(usize::from(number)), member),
            _ => return None,
        };
        match value {
            Some(&Value::Record(record)) if member != KEYS => Some(record.is_true(member, &self.scratch)),
            _ => None,
        }
    }

    /// The value of a step, read where it is if the step says where, or else evaluated.
    pub(super) fn read_or_evaluate(&mut self, program: &'a Program, code: Code, read: Read) -> Result<Value<'a>, Halt> {
        let (value, symbol) = match read {
            Read::SlotMember(_, slot, symbol) => (self.slot_value(slot), symbol),
            Read::GlobalMember(_, number, symbol) => (self.global(number), symbol),
            Read::Slot(_, slot) => return Ok(self.slot_value(slot)),
            Read::Global(_, number) => return Ok(self.global(number)),
            Read::Other => return self.value(program, code),
        };
        match value {
            Value::Record(record) if symbol != KEYS => Ok(record.get(symbol, &self.scratch)),
            _ => self.value(program, code),
        }
    }

    /// Whether the budget is not used up, and need not be looked at closely.
    #[inline(always)]
    fn is_within_budget(&self) -> bool {
        let printed = self.captured + self.out.len();
        self.counted() <= self.pause && printed <= self.job.limits.bytes && !self.scratch.is_full()
    }

    /// Checks the budget where it can have been used up.
    #[inline]
    fn check_round(&mut self, program: &'a Program, at: usize) -> Result<(), Halt> {
        if self.is_within_budget() {
            return Ok(());
        }
        self.check_budget(program, program.spans.get(at).copied().unwrap_or_default())
    }

    /// Carries out the less common steps; where to jump, if anywhere. Apart, so that the loop keeps its registers.
    #[inline(never)]
    fn act(&mut self, frame: &Frame<'a>, at: usize, act: Act, read: Read) -> Result<Option<u32>, Halt> {
        let program = frame.program;
        match act {
            Act::PrintText(code) => {
                let value = self.read_or_evaluate(program, code, read)?;
                self.print(program, code, value, HtmlPlace::Text)?;
            }
            Act::Print(code, place) => {
                let value = self.read_or_evaluate(program, code, read)?;
                self.print(program, code, value, place)?;
            }
            Act::Raw(code) => self.raw(program, code)?,
            Act::Edge(white) if self.in_pre => self.out.push_str(program.kept(white)),
            Act::AddressStart => self.address.clear(),
            Act::AddressText(text) => self.address.literal(program.kept(text)),
            Act::AddressValue(code) => self.address_value(program, code)?,
            Act::AddressEnd(row, written) => self.address_end(program, at, row, written),
            Act::Let(code, slot) => {
                let value = self.value(program, code)?;
                self.set_slot(slot, value);
            }
            Act::Capture => self.capture(),
            Act::Keep(slot) => {
                let html = self.captured(program, at)?;
                self.set_slot(slot, Value::Html(html));
            }
            Act::Fill { name, mode, to_call } => self.fill(frame, at, name, mode, to_call)?,
            Act::Each { list, slot, at, none } => return self.each(program, list, slot, at, none),
            Act::Next { exit } => return Ok(if self.next_round() { None } else { Some(exit) }),
            Act::Round { body } => {
                self.bind_round();
                self.check_budget(program, program.spans.get(at).copied().unwrap_or_default())?;
                return Ok(Some(body));
            }
            Act::Body => {
                self.bodies.push(Vec::new());
                self.capture();
            }
            Act::Partial { call, body: false } => self.partial(frame, call, None, &[])?,
            Act::Partial { call, body: true } => {
                let (body, fills) = self.call_body(program, at, true)?;
                let fills = self.keep_fills(&fills);
                self.partial(frame, call, body, fills)?;
            }
            Act::Tray(name) => self.tray(program, at, program.kept(name))?,
            Act::Inherited { call, body } => self.inherited(frame, at, call, body)?,
            Act::Slot { name, place, end } => return self.slot(frame, at, name, place, end),
            Act::SlotEnd { name, place } => self.slot_end(frame, name, place),
            Act::Answer(status, title) => return Err(self.answer(program, at, status, title)?),
            Act::Redirect(status, target) => return Err(self.redirect(program, at, status, target)?),
            Act::Use(path) => {
                let theme = self.job.library.unit(frame.unit).map_or(0, |unit| unit.theme);
                self.ask_for(program, at, program.kept(path), theme);
            }
            Act::Used(kind) => self.print_links(kind),
            Act::Dump(code) => self.dump(program, code)?,
            Act::SetGlobal(code, number) => {
                let value = self.value(program, code)?;
                if let Some(place) = self.globals.get_mut(usize::from(number)) {
                    *place = value;
                }
            }
            // Carried out by `run`, or nothing to do.
            Act::Edge(_)
            | Act::End
            | Act::Text
            | Act::LineStart
            | Act::LineEnd { .. }
            | Act::PartialLine { .. }
            | Act::Attribute { .. }
            | Act::Jump(_)
            | Act::Unless(..)
            | Act::Again { .. } => {}
        }
        Ok(None)
    }

    pub(crate) fn slot_value(&self, slot: u16) -> Value<'a> {
        self.stack.get(self.base + usize::from(slot)).copied().unwrap_or(Value::Nothing)
    }

    pub(crate) fn set_slot(&mut self, slot: u16, value: Value<'a>) {
        if let Some(place) = self.stack.get_mut(self.base + usize::from(slot)) {
            *place = value;
        }
    }

    pub(crate) fn global(&self, number: u16) -> Value<'a> {
        self.globals.get(usize::from(number)).copied().unwrap_or(Value::Nothing)
    }

    /// What was printed so far; printing begins anew, with room for `room` bytes.
    fn taken(&mut self, room: usize) -> &'a str {
        let fresh = Text::with_capacity_in(room, self.scratch.arena());
        std::mem::replace(&mut self.out, fresh).into_bump_str()
    }

    fn capture(&mut self) {
        self.captured += self.out.len();
        let fresh = Text::new_in(self.scratch.arena());
        self.captures.push(std::mem::replace(&mut self.out, fresh));
    }

    pub(super) fn captured(&mut self, program: &'a Program, at: usize) -> Result<&'a str, Halt> {
        let html = self.taken(0);
        let html = if self.job.shows.marks { without_bare_marks(html) } else { html };
        if let Some(outer) = self.captures.pop() {
            self.captured -= outer.len();
            self.out = outer;
        }
        self.check_budget(program, program.spans.get(at).copied().unwrap_or_default())?;
        Ok(html)
    }

    fn dump(&mut self, program: &'a Program, code: Code) -> Result<(), Halt> {
        if !self.job.shows.dumps {
            let diagnostic =
                Diagnostic::of(&codes::DUMP_LEFT_BEHIND, "\"dump\" is for looking, and this page is for readers")
                    .help("take it out; \"render\" and \"serve\" show what it shows");
            return Err(self.problem_at_code(program, code, diagnostic));
        }
        let value = self.value(program, code)?;
        let mut html = String::new();
        describe(value, self.job.host.symbols(), &self.scratch, Detail::default()).html(&mut html);
        self.out.push_str(&html);
        Ok(())
    }
}
