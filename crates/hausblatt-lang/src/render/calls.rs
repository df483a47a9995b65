//! Calls: partials by name and by computed name, and going on with the next file of a chain.

use crate::compile::Role;
use crate::library::{Argument, Fit, Link, UnitId};
use crate::program::{CallSite, Callee, Given, Program};
use crate::render::slots::Fill;
use crate::render::{Chain, Frame, Halt, Renderer};
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::value::Value;
use crate::value::shape::Symbol;

impl<'a> Renderer<'_, 'a> {
    pub(super) fn partial(
        &mut self,
        frame: &Frame<'a>,
        call: u32,
        body: Option<&'a str>,
        fills: &'a [Fill<'a>],
    ) -> Result<(), Halt> {
        let (program, library) = (frame.program, self.job.library);
        let Some(site) = program.calls.get(call as usize) else { return Ok(()) };
        self.check_depth(program, site.span)?;
        let Some(Some(link)) = library.callees(frame.unit).get(call as usize) else {
            return self.computed(program, site, body, fills);
        };
        let Some(callee) = library.program(link.unit) else { return Err(self.faulty(link.unit)) };
        let outer = self.in_pre;
        self.in_pre |= site.in_pre;
        if callee.role == Role::Component {
            self.bring(link.unit);
        }
        let base = self.stack.len();
        for (number, argument) in link.arguments.iter().enumerate() {
            let value = match *argument {
                Argument::Slot(slot) => self.slot_value(slot),
                Argument::Given(at) => {
                    self.given_for(program, site, link, at)?.unwrap_or_else(|| callee.default(number))
                }
                Argument::Default => callee.default(number),
            };
            self.stack.push(value);
        }
        let chain = Chain::Partial(0);
        self.enter(&Frame { unit: link.unit, program: callee, chain, body, fills }, base)?;
        self.in_pre = outer;
        Ok(())
    }

    /// What a call gives with this number for a parameter; none where the parameter's default stands for it.
    #[inline(never)]
    fn given_for(
        &mut self,
        program: &'a Program,
        site: &'a CallSite,
        link: &'a Link,
        at: u16,
    ) -> Result<Option<Value<'a>>, Halt> {
        let Some(given) = site.given.get(usize::from(at)) else { return Ok(None) };
        if link.fits.is_empty() {
            return self.value(program, given.value).map(Some);
        }
        let value = self.fitting(program, given, link.fits.get(usize::from(at)))?;
        Ok(Some(value).filter(|value| !matches!(value, Value::Nothing)))
    }

    /// What is given for a field of a component, as one of its type.
    fn fitting(&mut self, program: &'a Program, given: &'a Given, fit: Option<&'a Fit>) -> Result<Value<'a>, Halt> {
        match fit {
            Some(Fit::Constant(value)) => Ok(value.value()),
            Some(Fit::Converted(field)) => {
                let value = self.value(program, given.value)?;
                let host = self.job.host;
                host.converted(*field, value, &self.scratch)
                    .map_err(|why| self.problem_at_code(program, given.value, Diagnostic::of(&codes::WRONG_TYPE, why)))
            }
            Some(Fit::AsItIs) | None => self.value(program, given.value),
        }
    }

    /// Calls a partial whose name is computed.
    pub(super) fn computed(
        &mut self,
        program: &'a Program,
        site: &'a CallSite,
        body: Option<&'a str>,
        fills: &'a [Fill<'a>],
    ) -> Result<(), Halt> {
        let Callee::Computed(_, code) = &site.callee else { return Ok(()) };
        let value = self.value(program, *code)?;
        let name = self.shown(program, *code, value)?;
        let Some((unit, _)) = self.job.library.find_partial(program.ending, name) else {
            let mut diagnostic = self.job.library.unknown_partial(program.ending, name);
            diagnostic.fix = None;
            return Err(self.problem(program, site.span, diagnostic));
        };
        let given = self.given(program, site)?;
        let outer = self.in_pre;
        self.in_pre |= site.in_pre;
        self.call(unit, Chain::Partial(0), body, fills, &given)?;
        self.in_pre = outer;
        Ok(())
    }

    pub(super) fn given(&mut self, program: &'a Program, site: &'a CallSite) -> Result<Vec<(Symbol, Value<'a>)>, Halt> {
        site.given.iter().map(|given| Ok((given.name, self.value(program, given.value)?))).collect()
    }

    pub(super) fn inherited(&mut self, frame: &Frame<'a>, at: usize, call: u32, has_body: bool) -> Result<(), Halt> {
        let program = frame.program;
        let Some(site) = program.calls.get(call as usize) else { return Ok(()) };
        self.check_depth(program, site.span)?;
        let (body, mut fills) = self.call_body(program, at, has_body)?;
        let Some((unit, chain)) = self.next_of(frame) else {
            let diagnostic = Diagnostic::of(&codes::NOTHING_INHERITED, "there is no file that this one could extend")
                .help("a file can extend another of a farther theme, or of a lower rung");
            return Err(self.problem(program, site.span, diagnostic));
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
        let outer = self.in_pre;
        self.in_pre |= site.in_pre;
        self.call(unit, chain, body, fills, &given)?;
        self.in_pre = outer;
        Ok(())
    }

    /// Asks for the assets that a component brings with it.
    pub(super) fn bring(&mut self, unit: UnitId) {
        let library = self.job.library;
        let Some(unit) = library.unit(unit) else { return };
        let Some(program) = &unit.program else { return };
        unit.brings.iter().for_each(|one| self.ask_for(program, usize::MAX, &one.path, one.theme));
    }

    pub(super) fn next_of(&self, frame: &Frame<'a>) -> Option<(UnitId, Chain)> {
        self.after(frame.unit, frame.chain)
    }

    pub(super) fn after(&self, unit: UnitId, chain: Chain) -> Option<(UnitId, Chain)> {
        let next = || self.job.library.unit(unit)?.next;
        match chain {
            Chain::Template(at) => Some((*self.job.templates.get(at + 1)?, Chain::Template(at + 1))),
            Chain::Partial(rank) => Some((next()?, Chain::Partial(rank + 1))),
            Chain::Layout(rank) => Some((next()?, Chain::Layout(rank + 1))),
        }
    }
}
