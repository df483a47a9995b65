//! Compiled files and how they find each other: what a render works with, and the checks of calls.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::diagnostic::Diagnostic;
use crate::near::did_you_mean;
use crate::program::{CallSite, Callee, Program};
use crate::shape::{Interner, Symbol};

/// A file's number in a [`Library`].
pub type UnitId = u32;

/// A file of the lineage.
#[derive(Debug)]
pub struct Unit {
    /// The file's path, as diagnostics name it.
    pub path: Arc<str>,
    /// Its program; none if the file could not be read.
    pub program: Option<Program>,
    /// Whether the program may be run.
    pub is_sound: bool,
    /// What each of its calls leads to, where the name is a literal.
    pub callees: Box<[Option<UnitId>]>,
    /// The file that a partial or layout goes on with.
    pub next: Option<UnitId>,
}

/// All files of a lineage that can be rendered.
#[derive(Debug, Default)]
pub struct Library {
    /// The files.
    pub units: Vec<Unit>,
    /// The nearest unhidden partial of each name, without its ending.
    pub partials: FxHashMap<String, UnitId>,
}

impl Library {
    /// A file by its number.
    pub fn unit(&self, id: UnitId) -> Option<&Unit> {
        self.units.get(id as usize)
    }

    /// A file's program, if it has no fault.
    pub fn program(&self, id: UnitId) -> Option<&Program> {
        self.unit(id).filter(|unit| unit.is_sound)?.program.as_ref()
    }

    /// The partial that `name` finds: itself, or what stands when its last segments are taken off.
    pub fn find_partial(&self, name: &str) -> Option<(UnitId, &str)> {
        let (found, &id) = shortened(name).find_map(|name| self.partials.get_key_value(name))?;
        Some((id, found.as_str()))
    }

    /// The partials that a name computed behind `prefix` may find.
    pub fn partials_behind<'l>(&'l self, prefix: &'l str) -> impl Iterator<Item = (&'l str, UnitId)> {
        let shorter = prefix.trim_end_matches('/');
        let behind = move |name: &str| name.starts_with(prefix) || shortened(shorter).any(|short| short == name);
        self.partials.iter().filter(move |(name, _)| behind(name)).map(|(name, &id)| (name.as_str(), id))
    }

    /// Links the literal calls and reports those that can't work.
    pub fn link(&mut self, symbols: &Interner) -> Vec<Diagnostic> {
        let links: Vec<Box<[Option<UnitId>]>> = self.units.iter().map(|unit| self.links(unit)).collect();
        for (unit, callees) in self.units.iter_mut().zip(links) {
            unit.callees = callees;
        }
        let units = 0..UnitId::try_from(self.units.len()).unwrap_or(UnitId::MAX);
        units.flat_map(|id| self.check_calls(id, symbols)).collect()
    }

    fn links(&self, unit: &Unit) -> Box<[Option<UnitId>]> {
        let calls = unit.program.iter().flat_map(|program| program.calls.iter());
        calls
            .map(|call| match &call.callee {
                Callee::Named(name) => self.find_partial(name).map(|(id, _)| id),
                Callee::Computed(..) | Callee::Next => None,
            })
            .collect()
    }

    fn check_calls(&self, id: UnitId, symbols: &Interner) -> Vec<Diagnostic> {
        let Some(program) = self.unit(id).and_then(|unit| unit.program.as_ref()) else { return Vec::new() };
        program.calls.iter().filter_map(|call| self.check_call(program, call, symbols)).collect()
    }

    fn check_call(&self, program: &Program, call: &CallSite, symbols: &Interner) -> Option<Diagnostic> {
        match &call.callee {
            // What could not be read as a name was reported where it was read.
            Callee::Named(name) if name.is_empty() => None,
            Callee::Named(name) => match self.find_partial(name) {
                None => Some(self.unknown_partial(name).at(&program.path, call.span)),
                Some((id, found)) => self
                    .shortened_by_mistake(program, call, name, found)
                    .or_else(|| self.check_parameters(program, call, name, id, symbols))
                    .or_else(|| self.lost_fill(program, call, name, id, symbols)),
            },
            Callee::Computed(prefix, _) => {
                let stands = self.partials_behind(prefix).next().is_some();
                let message = format!("no partial stands under \"{prefix}\"");
                (!stands).then(|| Diagnostic::error("unknown-partial", message).at(&program.path, call.span))
            }
            Callee::Next => None,
        }
    }

    fn unknown_partial(&self, name: &str) -> Diagnostic {
        let help = did_you_mean(name, self.partials.keys().map(String::as_str))
            .unwrap_or_else(|| format!("write the file partials/{name}.html in a theme of the lineage"));
        Diagnostic::error("unknown-partial", format!("unknown partial \"{name}\"")).help(help)
    }

    fn shortened_by_mistake(&self, program: &Program, call: &CallSite, name: &str, found: &str) -> Option<Diagnostic> {
        if name == found {
            return None;
        }
        let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
        let siblings =
            self.partials.keys().map(String::as_str).filter(|other| other.starts_with(folder) && *other != folder);
        let help = did_you_mean(name, siblings)?;
        let message = format!("there is no partial \"{name}\"; \"{found}\" answers instead");
        Some(Diagnostic::warning("shortened-partial", message).help(help).at(&program.path, call.span))
    }

    fn check_parameters(
        &self,
        program: &Program,
        call: &CallSite,
        name: &str,
        id: UnitId,
        symbols: &Interner,
    ) -> Option<Diagnostic> {
        let parameters = self.parameters_of(id)?;
        let takes = |symbol: Symbol| parameters.iter().any(|parameter| parameter.name == symbol);
        if let Some((symbol, _, span)) = call.given.iter().find(|(symbol, ..)| !takes(*symbol)) {
            let message = format!("the partial \"{name}\" takes no \"{}\"", symbols.name(*symbol));
            let names = parameters.iter().map(|parameter| symbols.name(parameter.name));
            let help = did_you_mean(symbols.name(*symbol), names)
                .unwrap_or_else(|| "write it under \"takes\" in the partial's front matter".to_owned());
            return Some(Diagnostic::error("unknown-parameter", message).help(help).at(&program.path, *span));
        }
        let given = |symbol: Symbol| call.given.iter().any(|(name, ..)| *name == symbol);
        let missing = parameters.iter().find(|parameter| parameter.default.is_none() && !given(parameter.name))?;
        let missing = symbols.name(missing.name);
        let message = format!("the partial \"{name}\" needs \"{missing}\", which is not given");
        let help = format!("write: given {missing} = …");
        Some(Diagnostic::error("missing-parameter", message).help(help).at(&program.path, call.span))
    }

    /// A fill that finds no slot in what is called.
    fn lost_fill(
        &self,
        program: &Program,
        call: &CallSite,
        name: &str,
        id: UnitId,
        symbols: &Interner,
    ) -> Option<Diagnostic> {
        let slots = self.slots_of(id);
        let (lost, span) = call.fills.iter().find(|(fill, _)| !slots.contains(fill))?;
        let lost = symbols.name(*lost);
        let help = did_you_mean(lost, slots.iter().map(|&slot| symbols.name(slot)));
        let message = format!("the partial \"{name}\" has no slot \"{lost}\"");
        Some(Diagnostic::warning("lost-fill", message).maybe_help(help).at(&program.path, *span))
    }

    /// The slots of a file and of those it goes on with.
    pub fn slots_of(&self, id: UnitId) -> Vec<Symbol> {
        let mut slots = Vec::new();
        let mut at = Some(id);
        for _ in 0..self.units.len() {
            let Some(program) = at.and_then(|id| self.program(id)) else { break };
            slots.extend(&program.slots);
            at = at.filter(|_| program.continues).and_then(|id| self.unit(id)?.next);
        }
        slots
    }

    /// What a file takes: what it says, or else what the next file of its chain does.
    fn parameters_of(&self, id: UnitId) -> Option<&[crate::program::Parameter]> {
        let mut id = id;
        for _ in 0..self.units.len() {
            let unit = self.unit(id)?;
            let program = unit.program.as_ref()?;
            if program.states_parameters || !program.continues {
                return Some(&program.parameters);
            }
            id = unit.next?;
        }
        None
    }
}

/// `a/b/c`, `a/b`, `a`.
pub fn shortened(name: &str) -> impl Iterator<Item = &str> {
    std::iter::successors(Some(name), |name| name.rsplit_once('/').map(|(shorter, _)| shorter))
}
