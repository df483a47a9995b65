//! Runs programs: a template, then the layouts around it, to one complete page or a stop.

use bumpalo::Bump;

use crate::address::Composer;
use crate::diagnostic::Diagnostic;
use crate::escape::escape;
use crate::host::Host;
use crate::html::place::Place;
use crate::library::{Library, UnitId};
use crate::members::{COUNT, FIRST, LAST, NUMBER};
use crate::program::{Act, CallSite, Callee, Code, Program};
use crate::shape::Symbol;
use crate::source::Span;
use crate::value::{Record, Scratch, Value};

mod fills;
mod print;
mod stop;

use fills::Fill;
pub(crate) use stop::Halt;
pub use stop::{FAULTY_FILE, Limits, Stop};

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
            if self.out.len() > self.job.limits.bytes {
                self.check_budget(program, program.spans.get(at).copied().unwrap_or_default())?;
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

    fn capture(&mut self) {
        self.captures.push(std::mem::take(&mut self.out));
    }

    fn captured(&mut self, program: &'a Program, at: usize) -> Result<&'a str, Halt> {
        let html = self.scratch.text(&self.out);
        self.out = self.captures.pop().unwrap_or_default();
        self.check_budget(program, program.spans.get(at).copied().unwrap_or_default())?;
        Ok(html)
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
}
