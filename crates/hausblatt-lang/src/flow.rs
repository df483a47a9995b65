//! What the calls of each file give its parameters: where one file hands a value to another, what is known of it goes
//! along, so that a misspelt member is found behind a parameter too.

use crate::compile::{Flow, Source, compile};
use crate::library::{Library, Unit, UnitId, differ};
use crate::program::{CallSite, Callee, Parameter, Program};
use crate::role::Role;
use crate::text::diagnostic::Diagnostic;
use crate::text::source::Place;
use crate::types::{Globals, Type};
use crate::value::shape::{Interner, Symbol};

/// After so many rounds what is still not settled counts as not known.
const ROUNDS: usize = 12;

/// One call of a file: what it gives, and where.
struct Calling<'l> {
    from: &'l Program,
    site: &'l CallSite,
}

impl Library {
    /// Compiles the files of the library; each has its source, if it can be read. The names that call them, and what each
    /// extends, are in the library already. Types go from prepare files to all others and from calls to what is called,
    /// until nothing changes.
    ///
    /// Gives what is wrong with each file.
    pub fn compile(
        &mut self,
        sources: &mut [Option<Source>],
        globals: &mut Globals,
        symbols: &mut Interner,
    ) -> Vec<Vec<Diagnostic>> {
        let mut found: Vec<Vec<Diagnostic>> = sources.iter().map(|_| Vec::new()).collect();
        let role = |source: &Option<Source>| source.as_ref().map(|source| source.role);
        let of_prepare: Vec<usize> =
            (0..sources.len()).filter(|&at| role(&sources[at]) == Some(Role::Prepare)).collect();
        for round in 0..=ROUNDS {
            of_prepare.iter().for_each(|&at| self.compile_one(at, sources, globals, symbols, &mut found));
            if !self.settle_prepared(&of_prepare, globals, round + 1 < ROUNDS) {
                break;
            }
        }
        // Where a file can't be read, nobody knows what it calls.
        let is_whole = sources.iter().all(Option::is_some);
        let others: Vec<usize> = (0..sources.len()).filter(|&at| role(&sources[at]) != Some(Role::Prepare)).collect();
        for &at in others.iter().filter(|_| is_whole) {
            let Some(source) = &mut sources[at] else { continue };
            let takes = source.takes.iter().chain(&source.next_takes).flatten().filter(|_| source.role.is_called());
            source.flows = takes.map(|(name, _)| Flow { name: name.clone(), of: Type::Nothing, call: None }).collect();
        }
        others.iter().for_each(|&at| self.compile_one(at, sources, globals, symbols, &mut found));
        for round in 0..=ROUNDS {
            let mut flows = if is_whole { self.flows(symbols) } else { Vec::new() };
            let mut changed = Vec::new();
            for (at, flows) in flows.iter_mut().enumerate().filter(|(_, flows)| !flows.is_empty()) {
                let Some(source) = &mut sources[at] else { continue };
                if source.flows == *flows {
                    continue;
                }
                if round == ROUNDS {
                    flows.iter_mut().for_each(|flow| flow.of = Type::Any);
                }
                source.flows = std::mem::take(flows);
                changed.push(at);
            }
            changed.iter().for_each(|&at| self.compile_one(at, sources, globals, symbols, &mut found));
            if changed.is_empty() {
                break;
            }
        }
        found
    }

    fn compile_one(
        &mut self,
        at: usize,
        sources: &[Option<Source>],
        globals: &Globals,
        symbols: &mut Interner,
        found: &mut [Vec<Diagnostic>],
    ) {
        let (Some(source), Some(unit)) = (&sources[at], self.units.get_mut(at)) else { return };
        let compiled = compile(source, globals, symbols);
        unit.program = Some(compiled.program);
        unit.is_sound = compiled.is_sound;
        found[at] = compiled.diagnostics;
    }

    /// Says of each prepared value what the prepare files make it, or that it is not known; whether any of that is new.
    fn settle_prepared(&self, of_prepare: &[usize], globals: &mut Globals, is_known: bool) -> bool {
        let mut made: Vec<(u16, Type)> = Vec::new();
        let programs = of_prepare.iter().filter_map(|&at| self.units[at].program.as_ref());
        for set in programs.flat_map(|program| &*program.sets) {
            match made.iter_mut().find(|(global, _)| *global == set.global) {
                Some((_, of)) => *of = std::mem::replace(of, Type::Nothing).join(set.of.clone()),
                None => made.push((set.global, set.of.clone())),
            }
        }
        made.into_iter().fold(false, |changed, (global, of)| {
            let of = if is_known { of } else { Type::Any };
            globals.set_prepared(global, of) || changed
        })
    }

    /// For each file, what its calls give its parameters; nothing for a template, which none calls.
    fn flows(&self, symbols: &Interner) -> Vec<Vec<Flow>> {
        let mut calls: Vec<Vec<Calling<'_>>> = self.units.iter().map(|_| Vec::new()).collect();
        for unit in &self.units {
            let Some(program) = &unit.program else { continue };
            for site in &*program.calls {
                for called in self.called(unit, program, site) {
                    calls[called as usize].push(Calling { from: program, site });
                }
            }
        }
        let flows = self.units.iter().zip(calls).map(|(unit, calls)| match &unit.program {
            Some(program) if program.role.is_called() => {
                program.parameters.iter().map(|parameter| flow(program, parameter, &calls, symbols)).collect()
            }
            _ => Vec::new(),
        });
        flows.collect()
    }

    /// The files that a call may lead to.
    fn called(&self, unit: &Unit, program: &Program, site: &CallSite) -> Vec<UnitId> {
        match &site.callee {
            Callee::Named(name) => self.find_partial(program.ending, name).map(|(id, _)| id).into_iter().collect(),
            Callee::Component(name) => self.find_component(program.ending, name).into_iter().collect(),
            Callee::Computed(prefix, _) => self.partials_behind(program.ending, prefix).map(|(_, id)| id).collect(),
            Callee::Next => unit.next.into_iter().collect(),
        }
    }
}

fn flow(program: &Program, parameter: &Parameter, calls: &[Calling<'_>], symbols: &Interner) -> Flow {
    // Content places components, and layouts are around templates, without any call.
    let placed = match program.role {
        Role::Component => parameter.of.clone(),
        Role::Layout => parameter.default.as_ref().map_or(Type::Nothing, Type::of_default),
        _ => Type::Nothing,
    };
    let mut flow = Flow { name: symbols.name(parameter.name).to_owned(), of: placed, call: None };
    for call in calls {
        let of = match call.gives(parameter.name) {
            // The call is an error itself.
            Some(of) if differ(&parameter.of, of).is_some() => parameter.of.clone(),
            Some(of) => of.clone(),
            None => parameter.default.as_ref().map_or(Type::Nothing, Type::of_default),
        };
        let is_own = *call.from.path == *program.path;
        if flow.call.is_none() && of != Type::Nothing && !is_own {
            flow.call = Some(Place { path: call.from.path.clone(), span: call.site.span });
        }
        flow.of = flow.of.join(of);
    }
    flow
}

impl Calling<'_> {
    /// What is known of what the call gives for a parameter: a file that extends another hands on what it was given.
    fn gives(&self, name: Symbol) -> Option<&Type> {
        let given = self.site.given.iter().find(|given| given.name == name).map(|given| &given.of);
        let own = || self.from.parameters.iter().find(|own| own.name == name).map(|own| &own.given);
        given.or_else(|| own().filter(|_| matches!(self.site.callee, Callee::Next)))
    }
}
