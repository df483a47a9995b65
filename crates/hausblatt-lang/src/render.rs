//! Runs programs: a template, then the layouts around it, to one complete page or a stop.

use std::sync::Arc;

use bumpalo::Bump;

use crate::address::{self, Composer};
use crate::diagnostic::{Diagnostic, Severity};
use crate::escape::{escape, text_of};
use crate::host::Host;
use crate::html::place::{Absent, Place, Row};
use crate::library::{Library, UnitId};
use crate::members::{COUNT, FIRST, LAST, NUMBER};
use crate::near::did_you_mean;
use crate::print::shown;
use crate::program::{Act, CallSite, Callee, Code, Lead, Program};
use crate::shape::Symbol;
use crate::source::Span;
use crate::tree::Mode;
use crate::value::{Record, Scratch, Value};

/// How much a render may cost. All is counted, nothing is timed.
#[derive(Clone, Copy, Debug)]
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

/// What is to be rendered.
pub struct Job<'a> {
    /// The site.
    pub host: &'a dyn Host,
    /// All files.
    pub library: &'a Library,
    /// The global values, in the order of [`crate::types::Globals`].
    pub globals: &'a [Value<'a>],
    /// The files that answer the request: the template, then what it goes on with.
    pub templates: &'a [UnitId],
    /// The layouts, from the inside outwards.
    pub layouts: &'a [UnitId],
    /// What it may cost.
    pub limits: Limits,
}

/// A complete page.
#[derive(Debug)]
pub struct Output {
    /// The text.
    pub text: String,
    /// What was noticed.
    pub warnings: Vec<Diagnostic>,
}

/// Why there is no page.
#[derive(Debug)]
pub enum Stop {
    /// A fault.
    Fault(Box<Diagnostic>),
    /// A file failed the request with this status and title.
    Answer {
        /// The status, 400 to 599.
        status: u16,
        /// What the file says about it.
        title: Option<String>,
    },
    /// A file redirects.
    Redirect {
        /// The status.
        status: u16,
        /// The address.
        to: String,
    },
}

/// A stop is under way; what it is stands in the renderer, so that results stay small.
#[derive(Debug)]
pub(crate) struct Halt;

/// Renders a page in `arena`.
///
/// # Errors
/// The fault, answer or redirect that stopped it.
pub fn render<'a>(job: &Job<'a>, arena: &'a Bump) -> Result<Output, Box<Stop>> {
    let mut renderer = Renderer::new(job, arena);
    match renderer.page() {
        Ok(()) => Ok(Output { text: renderer.out, warnings: renderer.warnings }),
        Err(Halt) => Err(Box::new(renderer.stop.unwrap_or_else(|| {
            Stop::Fault(Box::new(Diagnostic::error("internal", "the render stopped without a reason")))
        }))),
    }
}

/// What fills a slot.
#[derive(Clone, Copy, Debug)]
struct Fill<'a> {
    name: Symbol,
    mode: Mode,
    html: &'a str,
    /// How far down the chain the file stands that fills; nearer files beat farther ones.
    rank: usize,
}

/// A loop under way.
struct Round<'a> {
    list: Value<'a>,
    at: usize,
    count: usize,
    slot: u16,
    round_slot: Option<u16>,
}

/// Which file runs, and with what.
#[derive(Clone, Copy)]
struct Frame<'a> {
    unit: UnitId,
    program: &'a Program,
    chain: Chain,
    body: Option<&'a str>,
    fills: &'a [Fill<'a>],
}

/// In which chain a file stands.
#[derive(Clone, Copy, PartialEq)]
enum Chain {
    /// The templates of the request, at this place.
    Template(usize),
    /// A partial and the files it goes on with, so many calls of `inherited` down.
    Partial(usize),
    /// The layouts likewise.
    Layout(usize),
}

impl Chain {
    fn rank(self) -> usize {
        match self {
            Chain::Template(rank) | Chain::Partial(rank) | Chain::Layout(rank) => rank,
        }
    }
}

/// A render under way.
pub(crate) struct Renderer<'j, 'a> {
    pub(crate) job: &'j Job<'a>,
    pub(crate) scratch: Scratch<'a>,
    out: String,
    stack: Vec<Value<'a>>,
    base: usize,
    frame: Option<Frame<'a>>,
    rounds: Vec<Round<'a>>,
    captures: Vec<String>,
    bodies: Vec<Vec<Fill<'a>>>,
    layout_fills: Vec<Fill<'a>>,
    address: Composer,
    depth: usize,
    steps: u64,
    warnings: Vec<Diagnostic>,
    stop: Option<Stop>,
}

/// The counters of a loop's round.
struct Counters {
    number: usize,
    count: usize,
}

impl Record for Counters {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        match symbol {
            NUMBER => Value::Int(self.number as i64),
            COUNT => Value::Int(self.count as i64),
            FIRST => Value::Bool(self.number == 1),
            LAST => Value::Bool(self.number == self.count),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![NUMBER, FIRST, LAST, COUNT]
    }
}

impl<'j, 'a> Renderer<'j, 'a> {
    fn new(job: &'j Job<'a>, arena: &'a Bump) -> Self {
        Self {
            job,
            scratch: Scratch::new(arena, job.limits.bytes),
            out: String::with_capacity(8 << 10),
            stack: Vec::with_capacity(64),
            base: 0,
            frame: None,
            rounds: Vec::new(),
            captures: Vec::new(),
            bodies: Vec::new(),
            layout_fills: Vec::new(),
            address: Composer::default(),
            depth: 0,
            steps: 0,
            warnings: Vec::new(),
            stop: None,
        }
    }

    fn page(&mut self) -> Result<(), Halt> {
        let Some(&template) = self.job.templates.first() else { return Ok(()) };
        self.call(template, Chain::Template(0), None, &[], &[])?;
        for &layout in self.job.layouts {
            let body = self.scratch.text(&self.out);
            self.out.clear();
            let fills = std::mem::take(&mut self.layout_fills);
            let fills = self.keep_fills(&fills);
            self.call(layout, Chain::Layout(0), Some(body), fills, &[])?;
            self.check_layout_fills(layout, fills);
        }
        Ok(())
    }

    fn check_layout_fills(&mut self, layout: UnitId, fills: &[Fill<'a>]) {
        let Some(program) = self.job.library.program(layout) else { return };
        let symbols = self.job.host.symbols();
        let slots = self.job.library.slots_of(layout);
        for fill in fills.iter().filter(|fill| !slots.contains(&fill.name)) {
            let name = symbols.name(fill.name);
            let message = format!("the layout {} has no slot \"{name}\"", program.path);
            let help = did_you_mean(name, slots.iter().map(|&slot| symbols.name(slot)));
            let diagnostic = Diagnostic::warning("lost-fill", message).maybe_help(help);
            let writer = self.job.templates.get(fill.rank).and_then(|&unit| self.job.library.program(unit));
            let span = writer.and_then(|writer| {
                writer.layout_fills.iter().find(|(slot, _)| *slot == fill.name).map(|(_, span)| *span)
            });
            match (writer, span) {
                (Some(writer), Some(span)) => self.warn(&writer.path, span, diagnostic),
                _ => self.warn(&program.path, Span::default(), diagnostic),
            }
        }
    }

    /// Runs a file with parameters by name.
    fn call(
        &mut self,
        unit: UnitId,
        chain: Chain,
        body: Option<&'a str>,
        fills: &'a [Fill<'a>],
        given: &[(Symbol, Value<'a>)],
    ) -> Result<(), Halt> {
        let library = self.job.library;
        let Some(program) = library.program(unit) else { return Err(self.faulty(unit)) };
        let (outer_base, outer_frame) = (self.base, self.frame);
        self.base = self.stack.len();
        self.stack.resize(self.base + usize::from(program.frame), Value::Nothing);
        for (slot, parameter) in program.parameters.iter().enumerate() {
            let value = given.iter().find(|(name, _)| *name == parameter.name).map(|&(_, value)| value);
            let default = parameter.default.as_ref().map_or(Value::Nothing, crate::datum::Datum::value);
            self.stack[self.base + slot] = value.unwrap_or(default);
        }
        let frame = Frame { unit, program, chain, body, fills };
        self.frame = Some(frame);
        self.depth += 1;
        let result = self.run(&frame);
        self.depth -= 1;
        self.stack.truncate(self.base);
        (self.base, self.frame) = (outer_base, outer_frame);
        result
    }

    fn check_depth(&mut self, program: &'a Program, span: Span) -> Result<(), Halt> {
        if self.depth < self.job.limits.depth {
            return Ok(());
        }
        let message = format!("calls nest more than {} deep here", self.job.limits.depth);
        let diagnostic =
            Diagnostic::error("too-deep", message).help("a file that calls itself needs an \"if\" that ends it");
        Err(self.fault(program, span, diagnostic))
    }

    fn faulty(&mut self, unit: UnitId) -> Halt {
        let path: Arc<str> = self.job.library.unit(unit).map_or_else(|| "?".into(), |unit| unit.path.clone());
        let diagnostic = Diagnostic::error(FAULTY_FILE, format!("{path} has faults and can't be rendered"));
        self.stop = Some(Stop::Fault(Box::new(diagnostic.at(&path, Span::default()))));
        Halt
    }

    fn run(&mut self, frame: &Frame<'a>) -> Result<(), Halt> {
        let program = frame.program;
        let mut at = 0usize;
        while let Some(op) = program.ops.get(at) {
            if op.lead.end > op.lead.start {
                self.out.push_str(program.lead(op.lead));
            }
            self.steps += 1;
            match op.act {
                Act::End => break,
                Act::Text => {}
                Act::PrintText(code) => match self.value(program, code)? {
                    Value::Text(text) => escape(text, &mut self.out),
                    Value::Html(html) => self.out.push_str(html),
                    value => self.print(program, code, value, Place::Text)?,
                },
                Act::Jump(target) => {
                    at = target as usize;
                    continue;
                }
                Act::Unless(code, target) => {
                    if !self.value(program, code)?.truth() {
                        at = target as usize;
                        continue;
                    }
                }
                act => {
                    if let Some(target) = self.act(frame, at, act)? {
                        at = target as usize;
                        continue;
                    }
                }
            }
            at += 1;
        }
        self.check_budget(program, Span::default())
    }

    /// Carries out the less common steps; where to jump, if anywhere.
    fn act(&mut self, frame: &Frame<'a>, at: usize, act: Act) -> Result<Option<u32>, Halt> {
        let program = frame.program;
        match act {
            Act::Print(code, place) => {
                let value = self.value(program, code)?;
                self.print(program, code, value, place)?;
            }
            Act::Raw(code) => self.raw(program, code)?,
            Act::Attribute { value, text, place, absent } => self.attribute(program, value, text, place, absent)?,
            Act::AddressStart => self.address.clear(),
            Act::AddressText(text) => self.address.literal(program.kept(text)),
            Act::AddressValue(code) => self.address_value(program, code)?,
            Act::AddressEnd(row) => self.address_end(program, at, row),
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
            Act::Next { exit } => return Ok(self.next_round(exit)),
            Act::Round { body } => {
                self.bind_round();
                self.check_budget(program, program.spans.get(at).copied().unwrap_or_default())?;
                return Ok(Some(body));
            }
            Act::Body => {
                self.bodies.push(Vec::new());
                self.capture();
            }
            Act::Partial { call, body } => self.partial(frame, at, call, body)?,
            Act::Inherited { call, body } => self.inherited(frame, at, call, body)?,
            Act::Slot { name, place, end } => return self.slot(frame, at, name, place, end),
            Act::SlotEnd { name, place } => self.slot_end(frame, name, place),
            Act::Answer(status, title) => return Err(self.answer(program, status, title)?),
            Act::Redirect(status, target) => return Err(self.redirect(program, status, target)?),
            Act::End | Act::Text | Act::PrintText(_) | Act::Jump(_) | Act::Unless(..) => {}
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
        self.job.globals.get(usize::from(number)).copied().unwrap_or(Value::Nothing)
    }

    fn print(&mut self, program: &'a Program, code: Code, value: Value<'a>, place: Place) -> Result<(), Halt> {
        match (value, place) {
            (Value::Html(html), Place::Text) => self.out.push_str(html),
            (_, Place::Address(row)) => {
                let text = self.shown(program, code, value)?;
                self.push_address(program, code, text, row);
            }
            _ => {
                let text = self.shown(program, code, value)?;
                escape(text, &mut self.out);
            }
        }
        Ok(())
    }

    /// The text of a value, kept in the arena where it had to be made.
    fn shown(&mut self, program: &'a Program, code: Code, value: Value<'a>) -> Result<&'a str, Halt> {
        match value {
            Value::Text(text) => Ok(text),
            _ => match shown(value) {
                Ok(text) => Ok(self.scratch.text(&text)),
                Err(message) => Err(self.fault_at_code(program, code, Diagnostic::error("unprintable", message))),
            },
        }
    }

    fn raw(&mut self, program: &'a Program, code: Code) -> Result<(), Halt> {
        match self.value(program, code)? {
            Value::Html(html) => self.out.push_str(html),
            value => {
                let text = self.shown(program, code, value)?;
                self.out.push_str(text);
            }
        }
        Ok(())
    }

    fn attribute(
        &mut self,
        program: &'a Program,
        code: Code,
        text: Lead,
        place: Place,
        absent: Absent,
    ) -> Result<(), Halt> {
        let value = self.value(program, code)?;
        let text = program.kept(text);
        match absent {
            Absent::Boolean if value.truth() => {
                self.out.push_str(text.split('=').next().unwrap_or(text));
                return Ok(());
            }
            Absent::Boolean => return Ok(()),
            Absent::LeaveOut if matches!(value, Value::Nothing) => return Ok(()),
            Absent::LeaveOut | Absent::StayEmpty => {}
        }
        self.out.push_str(text);
        self.print(program, code, value, place)?;
        self.out.push_str(if text.ends_with('\'') { "'" } else { "\"" });
        Ok(())
    }

    fn push_address(&mut self, program: &'a Program, code: Code, text: &str, row: Row) {
        if address::is_ordinary_path(text) {
            return self.out.push_str(text);
        }
        match address::whole(text, row, self.job.host.site_address()) {
            Ok(address) => escape(&address, &mut self.out),
            Err(reason) => {
                self.out.push_str("about:invalid");
                let message = format!("the address \"{}\" is not allowed here: {reason}", shortened(text));
                self.warn_at_code(program, code, Diagnostic::warning("unsafe-address", message));
            }
        }
        if text.is_empty() {
            self.warn_at_code(program, code, Diagnostic::warning("empty-address", "this address is empty"));
        }
    }

    fn address_value(&mut self, program: &'a Program, code: Code) -> Result<(), Halt> {
        let value = self.value(program, code)?;
        let text = self.shown(program, code, value)?;
        if self.address.len() + text.len() > self.job.limits.bytes {
            return Err(self.over_memory(program, code));
        }
        self.address.value(text);
        Ok(())
    }

    fn address_end(&mut self, program: &'a Program, at: usize, row: Row) {
        let span = program.spans.get(at).copied().unwrap_or_default();
        match self.address.finish(row, self.job.host.site_address()) {
            Ok(address) => escape(address, &mut self.out),
            Err(reason) => {
                self.out.push_str("about:invalid");
                let diagnostic =
                    Diagnostic::warning("unsafe-address", format!("this address is not allowed here: {reason}"));
                self.warn(&program.path, span, diagnostic);
            }
        }
    }

    fn capture(&mut self) {
        self.captures.push(std::mem::take(&mut self.out));
    }

    fn captured(&mut self, program: &'a Program, at: usize) -> Result<&'a str, Halt> {
        let html = self.scratch.text(&self.out);
        self.out = self.captures.pop().unwrap_or_default();
        self.check_budget(program, program.spans.get(at).copied().unwrap_or_default())?;
        Ok(html)
    }

    fn fill(&mut self, frame: &Frame<'a>, at: usize, name: Symbol, mode: Mode, to_call: bool) -> Result<(), Halt> {
        let html = self.captured(frame.program, at)?;
        let fill = Fill { name, mode, html, rank: frame.chain.rank() };
        match self.bodies.last_mut().filter(|_| to_call) {
            Some(fills) => fills.push(fill),
            None => self.layout_fills.push(fill),
        }
        Ok(())
    }

    fn each(
        &mut self,
        program: &'a Program,
        list: Code,
        slot: u16,
        round_slot: Option<u16>,
        none: u32,
    ) -> Result<Option<u32>, Halt> {
        let value = self.value(program, list)?;
        let count = match (value, value.len()) {
            (Value::Nothing, _) => 0,
            (_, Some(count)) => count,
            (_, None) => {
                let diagnostic = Diagnostic::error(
                    "not-a-list",
                    format!("\"each\" goes through a list, and this is {}", value.kind()),
                );
                return Err(self.fault_at_code(
                    program,
                    list,
                    diagnostic.help("write it in brackets to make a list of it: [value]"),
                ));
            }
        };
        if count == 0 {
            return Ok(Some(none));
        }
        self.rounds.push(Round { list: value, at: 0, count, slot, round_slot });
        self.bind_round();
        Ok(None)
    }

    fn bind_round(&mut self) {
        let Some(round) = self.rounds.last() else { return };
        let (slot, round_slot) = (round.slot, round.round_slot);
        let member = round.list.at(round.at, &self.scratch);
        let counters = Counters { number: round.at + 1, count: round.count };
        self.set_slot(slot, member);
        if let Some(slot) = round_slot {
            let counters = Value::Record(self.scratch.keep(counters));
            self.set_slot(slot, counters);
        }
    }

    fn next_round(&mut self, exit: u32) -> Option<u32> {
        let round = self.rounds.last_mut()?;
        round.at += 1;
        if round.at < round.count {
            return None;
        }
        self.rounds.pop();
        Some(exit)
    }

    fn partial(&mut self, frame: &Frame<'a>, at: usize, call: u32, has_body: bool) -> Result<(), Halt> {
        let program = frame.program;
        let Some(site) = program.calls.get(call as usize) else { return Ok(()) };
        self.check_depth(program, site.span)?;
        let (body, fills) = self.call_body(program, at, has_body)?;
        let unit = match &site.callee {
            Callee::Named(_) => {
                self.job.library.unit(frame.unit).and_then(|unit| unit.callees.get(call as usize).copied().flatten())
            }
            Callee::Computed(_, code) => {
                let value = self.value(program, *code)?;
                let name = self.shown(program, *code, value)?;
                self.job.library.find_partial(name).map(|(unit, _)| unit)
            }
            Callee::Next => None,
        };
        let Some(unit) = unit else {
            let diagnostic = Diagnostic::error("unknown-partial", "no partial of this name stands in the lineage");
            return Err(self.fault(program, site.span, diagnostic));
        };
        let given = self.given(program, site)?;
        let fills = self.keep_fills(&fills);
        self.call(unit, Chain::Partial(0), body, fills, &given)
    }

    fn given(&mut self, program: &'a Program, site: &'a CallSite) -> Result<Vec<(Symbol, Value<'a>)>, Halt> {
        site.given.iter().map(|&(name, code, _)| Ok((name, self.value(program, code)?))).collect()
    }

    /// Ends a call's body: what the nameless slot gets, and what the others do.
    fn call_body(
        &mut self,
        program: &'a Program,
        at: usize,
        has_body: bool,
    ) -> Result<(Option<&'a str>, Vec<Fill<'a>>), Halt> {
        if !has_body {
            return Ok((None, Vec::new()));
        }
        let body = self.captured(program, at)?;
        Ok((Some(body), self.bodies.pop().unwrap_or_default()))
    }

    fn keep_fills(&self, fills: &[Fill<'a>]) -> &'a [Fill<'a>] {
        if fills.is_empty() {
            return &[];
        }
        self.scratch.keep_all(fills)
    }

    fn inherited(&mut self, frame: &Frame<'a>, at: usize, call: u32, has_body: bool) -> Result<(), Halt> {
        let program = frame.program;
        let Some(site) = program.calls.get(call as usize) else { return Ok(()) };
        self.check_depth(program, site.span)?;
        let (body, mut fills) = self.call_body(program, at, has_body)?;
        let Some((unit, chain)) = self.next_of(frame) else {
            let diagnostic = Diagnostic::error("nothing-inherited", "there is no file behind this one to go on with")
                .help("a file can go on where a farther theme, or a lower rung, has one too");
            return Err(self.fault(program, site.span, diagnostic));
        };
        let mut given = self.given(program, site)?;
        for (slot, parameter) in program.parameters.iter().enumerate() {
            if !given.iter().any(|(name, _)| *name == parameter.name) {
                given.push((parameter.name, self.slot_value(u16::try_from(slot).unwrap_or(u16::MAX))));
            }
        }
        fills.extend(frame.fills.iter().filter(|fill| !program.slots.contains(&fill.name)));
        let (inner, outer): (Vec<_>, Vec<_>) =
            fills.into_iter().partition(|fill| self.has_slot(unit, chain, fill.name));
        self.layout_fills.extend(outer);
        let fills = self.keep_fills(&inner);
        let body = body.filter(|body| !body.trim().is_empty()).or(frame.body);
        self.call(unit, chain, body, fills, &given)
    }

    fn next_of(&self, frame: &Frame<'a>) -> Option<(UnitId, Chain)> {
        self.after(frame.unit, frame.chain)
    }

    fn after(&self, unit: UnitId, chain: Chain) -> Option<(UnitId, Chain)> {
        let next = || self.job.library.unit(unit)?.next;
        match chain {
            Chain::Template(at) => Some((*self.job.templates.get(at + 1)?, Chain::Template(at + 1))),
            Chain::Partial(rank) => Some((next()?, Chain::Partial(rank + 1))),
            Chain::Layout(rank) => Some((next()?, Chain::Layout(rank + 1))),
        }
    }

    /// Whether this file, or one that it goes on with, has the slot.
    fn has_slot(&self, unit: UnitId, chain: Chain, name: Symbol) -> bool {
        let mut file = Some((unit, chain));
        while let Some((unit, chain)) = file {
            let Some(program) = self.job.library.program(unit) else { return false };
            if program.slots.contains(&name) {
                return true;
            }
            file = if program.continues { self.after(unit, chain) } else { None };
        }
        false
    }

    /// What fills the slot `name`: the nearest file's, and of one file's the last.
    fn filling(frame: &Frame<'a>, name: Symbol) -> Option<&'a str> {
        let replacing = frame.fills.iter().filter(|fill| fill.name == name && fill.mode == Mode::Replace);
        replacing.min_by(|a, b| a.rank.cmp(&b.rank).then(std::cmp::Ordering::Greater)).map(|fill| fill.html)
    }

    fn added(frame: &Frame<'a>, name: Symbol, mode: Mode) -> impl Iterator<Item = &'a str> {
        frame.fills.iter().filter(move |fill| fill.name == name && fill.mode == mode).map(|fill| fill.html)
    }

    pub(crate) fn filled(&self, name: Option<Symbol>) -> bool {
        let (Some(frame), Some(name)) = (&self.frame, name) else { return false };
        let blank = |html: &str| html.trim().is_empty();
        frame.fills.iter().any(|fill| fill.name == name && !blank(fill.html) && fill.mode != Mode::Replace)
            || Self::filling(frame, name).is_some_and(|html| !blank(html))
    }

    fn slot(
        &mut self,
        frame: &Frame<'a>,
        at: usize,
        name: Option<Symbol>,
        place: Place,
        end: u32,
    ) -> Result<Option<u32>, Halt> {
        self.check_budget(frame.program, frame.program.spans.get(at).copied().unwrap_or_default())?;
        let Some(name) = name else {
            let Some(body) = frame.body else { return Ok(None) };
            self.push_fill(body, place);
            return Ok(Some(end));
        };
        for html in Self::added(frame, name, Mode::Before) {
            self.push_fill(html, place);
        }
        let Some(html) = Self::filling(frame, name) else { return Ok(None) };
        self.push_fill(html, place);
        Ok(Some(end))
    }

    fn slot_end(&mut self, frame: &Frame<'a>, name: Option<Symbol>, place: Place) {
        for html in name.into_iter().flat_map(|name| Self::added(frame, name, Mode::After)) {
            self.push_fill(html, place);
        }
    }

    fn push_fill(&mut self, html: &str, place: Place) {
        match place {
            Place::Text => self.out.push_str(html),
            _ => escape(text_of(html).trim(), &mut self.out),
        }
    }

    fn answer(&mut self, program: &'a Program, status: u16, title: Option<Code>) -> Result<Halt, Halt> {
        let title = match title {
            Some(code) => {
                let value = self.value(program, code)?;
                Some(self.shown(program, code, value)?.to_owned()).filter(|title| !title.is_empty())
            }
            None => None,
        };
        self.stop = Some(Stop::Answer { status, title });
        Ok(Halt)
    }

    fn redirect(&mut self, program: &'a Program, status: u16, target: Code) -> Result<Halt, Halt> {
        let value = self.value(program, target)?;
        let text = self.shown(program, target, value)?;
        let to = self.job.host.url(text, &self.scratch).or_else(|| {
            text.starts_with(['/', '#', '?']).then_some(text).or_else(|| text.starts_with("http").then_some(text))
        });
        let Some(to) = to else {
            let message = format!("the reference \"{}\" leads nowhere", shortened(text));
            return Err(self.fault_at_code(program, target, Diagnostic::error("dead-reference", message)));
        };
        match address::whole(to, Row::Anywhere, self.job.host.site_address()) {
            Ok(address) => self.stop = Some(Stop::Redirect { status, to: address.into_owned() }),
            Err(reason) => {
                let message = format!("a redirect can't lead there: {reason}");
                return Err(self.fault_at_code(program, target, Diagnostic::error("unsafe-address", message)));
            }
        }
        Ok(Halt)
    }

    pub(crate) fn count_step(&mut self, program: &'a Program, code: Code) -> Result<(), Halt> {
        self.count_steps(program, code, 1)
    }

    pub(crate) fn count_steps(&mut self, program: &'a Program, code: Code, steps: u64) -> Result<(), Halt> {
        self.steps += steps;
        if self.steps <= self.job.limits.steps && !self.scratch.is_full() {
            return Ok(());
        }
        let span = program.code_spans.get(code.0 as usize).copied().unwrap_or_default();
        self.check_budget(program, span)
    }

    fn check_budget(&mut self, program: &'a Program, span: Span) -> Result<(), Halt> {
        if self.steps > self.job.limits.steps {
            let message = format!("this page takes more than {} steps", self.job.limits.steps);
            let diagnostic = Diagnostic::error("too-many-steps", message)
                .help("go through fewer members: narrow the list with \"where\" or \"limit\"");
            return Err(self.fault(program, span, diagnostic));
        }
        let waiting: usize = self.captures.iter().map(String::len).sum();
        if self.scratch.is_full() || self.out.len() + waiting > self.job.limits.bytes {
            return Err(self.fault(program, span, too_large(self.job.limits.bytes)));
        }
        Ok(())
    }

    pub(crate) fn over_memory(&mut self, program: &'a Program, code: Code) -> Halt {
        let diagnostic = too_large(self.job.limits.bytes);
        self.fault_at_code(program, code, diagnostic)
    }

    pub(crate) fn fault_at_code(&mut self, program: &'a Program, code: Code, diagnostic: Diagnostic) -> Halt {
        let span = program.code_spans.get(code.0 as usize).copied().unwrap_or_default();
        self.fault(program, span, diagnostic)
    }

    fn fault(&mut self, program: &Program, span: Span, diagnostic: Diagnostic) -> Halt {
        self.stop = Some(Stop::Fault(Box::new(diagnostic.at(&program.path, span))));
        Halt
    }

    pub(crate) fn warn_at_code(&mut self, program: &'a Program, code: Code, diagnostic: Diagnostic) {
        let span = program.code_spans.get(code.0 as usize).copied().unwrap_or_default();
        self.warn(&program.path, span, diagnostic);
    }

    fn warn(&mut self, path: &Arc<str>, span: Span, diagnostic: Diagnostic) {
        debug_assert_eq!(diagnostic.severity, Severity::Warning);
        let diagnostic = diagnostic.at(path, span);
        if self.warnings.len() < MOST_WARNINGS && !self.warnings.contains(&diagnostic) {
            self.warnings.push(diagnostic);
        }
    }
}

/// The code of the fault that a file with faults was to be run.
pub const FAULTY_FILE: &str = "faulty-file";

/// How many warnings of one page are kept.
const MOST_WARNINGS: usize = 100;

fn too_large(bytes: usize) -> Diagnostic {
    let message = format!("this page and its values need more than {} MB", bytes >> 20);
    Diagnostic::error("too-large", message).help("look for a text or a list that grows in each round of a loop")
}

fn shortened(text: &str) -> String {
    let mut short: String = text.chars().take(60).collect();
    if short.len() < text.len() {
        short.push('…');
    }
    short
}
