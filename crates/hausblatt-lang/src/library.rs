//! Compiled files and how they find each other: what a render works with, and the checks of calls.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::program::{CallSite, Callee, Parameter, Program, Step};
use crate::role::Role;
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::ending::Ending;
use crate::text::source::Span;
use crate::text::suggest::{did_you_mean, joined};
use crate::types::Type;
use crate::value::datum::Datum;
use crate::value::shape::{Interner, Symbol};

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
    pub callees: Box<[Option<Link>]>,
    /// The file that a partial or layout extends.
    pub next: Option<UnitId>,
    /// How far up the lineage its theme is; the active theme is 0.
    pub theme: usize,
    /// The assets that a component brings with it.
    pub brings: Box<[Brought]>,
}

/// An asset that comes with a component.
#[derive(Clone, Debug)]
pub struct Brought {
    /// Its path, as `asset` takes it.
    pub path: Box<str>,
    /// How far up the lineage the theme is that its file belongs to.
    pub theme: usize,
}

/// Where a call leads.
#[derive(Clone, Debug)]
pub struct Link {
    /// The file.
    pub unit: UnitId,
    /// For each of the file's parameters, where its value comes from.
    pub arguments: Box<[Argument]>,
    /// How each value that the call gives becomes one of the parameter; none where all go as they are.
    pub fits: Box<[Fit]>,
}

/// Where the value of a parameter comes from.
#[derive(Clone, Copy, Debug)]
pub enum Argument {
    /// It is at this place of the caller's frame, and goes as it is.
    Slot(u16),
    /// The call gives it, with this number.
    Given(u16),
    /// The call gives none: it is the parameter's default.
    Default,
}

/// How a value that a call gives becomes one of the parameter.
#[derive(Clone, Debug)]
pub enum Fit {
    /// It is given as it is.
    AsItIs,
    /// It is written out, and this is what it becomes.
    Constant(Datum),
    /// The site converts it to the field with this number, when it is rendered.
    Converted(u32),
}

/// All files of a lineage that can be rendered.
#[derive(Debug, Default)]
pub struct Library {
    /// The files.
    pub units: Vec<Unit>,
    /// For each extension, the nearest unhidden partial of each name.
    partials: [FxHashMap<String, UnitId>; Ending::ALL.len()],
    /// Likewise of each component.
    components: [FxHashMap<String, UnitId>; Ending::ALL.len()],
}

impl Library {
    /// A file by its number.
    pub fn unit(&self, id: UnitId) -> Option<&Unit> {
        self.units.get(id as usize)
    }

    /// A file's program, if it has no error.
    #[inline]
    pub fn program(&self, id: UnitId) -> Option<&Program> {
        self.unit(id).filter(|unit| unit.is_sound)?.program.as_ref()
    }

    /// What each of a file's calls leads to.
    #[inline]
    pub fn callees(&self, id: UnitId) -> &[Option<Link>] {
        self.unit(id).map_or(&[], |unit| &unit.callees)
    }

    /// Adds the nearest partial of a name, without its extension.
    pub fn add_partial(&mut self, ending: Ending, name: &str, unit: UnitId) {
        self.partials[ending as usize].insert(name.to_owned(), unit);
    }

    /// Adds the nearest component of a name.
    pub fn add_component(&mut self, ending: Ending, name: &str, unit: UnitId) {
        self.components[ending as usize].insert(name.to_owned(), unit);
    }

    /// The component of a name, in a file of this extension.
    pub fn find_component(&self, ending: Ending, name: &str) -> Option<UnitId> {
        self.components[ending as usize].get(name).copied()
    }

    /// The names of the components for files of an extension.
    pub(crate) fn component_names(&self, ending: Ending) -> impl Iterator<Item = &str> {
        self.components[ending as usize].keys().map(String::as_str)
    }

    fn partials(&self, ending: Ending) -> &FxHashMap<String, UnitId> {
        &self.partials[ending as usize]
    }

    fn partial_names(&self, ending: Ending) -> impl Iterator<Item = &str> {
        self.partials(ending).keys().map(String::as_str)
    }

    /// The partial that `name` finds in a file of this extension: itself, or what is when its last segments are
    /// taken off.
    pub fn find_partial(&self, ending: Ending, name: &str) -> Option<(UnitId, &str)> {
        let (found, &id) = shortened(name).find_map(|name| self.partials(ending).get_key_value(name))?;
        Some((id, found.as_str()))
    }

    /// The partials that a name computed after `prefix` may find.
    pub fn partials_behind<'l>(&'l self, ending: Ending, prefix: &'l str) -> impl Iterator<Item = (&'l str, UnitId)> {
        let shorter = prefix.trim_end_matches('/');
        let behind = move |name: &str| name.starts_with(prefix) || shortened(shorter).any(|short| short == name);
        self.partials(ending).iter().filter(move |(name, _)| behind(name)).map(|(name, &id)| (name.as_str(), id))
    }

    /// Links the literal calls and reports those that can't work.
    pub fn link(&mut self, symbols: &Interner) -> Vec<Diagnostic> {
        let links: Vec<Box<[Option<Link>]>> = self.units.iter().map(|unit| self.links(unit)).collect();
        for (unit, callees) in self.units.iter_mut().zip(links) {
            unit.callees = callees;
        }
        let units = 0..UnitId::try_from(self.units.len()).unwrap_or(UnitId::MAX);
        units.flat_map(|id| self.check_calls(id, symbols)).collect()
    }

    fn links(&self, unit: &Unit) -> Box<[Option<Link>]> {
        let Some(program) = &unit.program else { return Box::new([]) };
        let link = |call: &CallSite| {
            let called = match &call.callee {
                Callee::Named(name) => self.find_partial(program.ending, name)?.0,
                Callee::Component(name) => self.find_component(program.ending, name)?,
                Callee::Computed(..) | Callee::Next => return None,
            };
            Some(self.link_to(called, program, call))
        };
        program.calls.iter().map(link).collect()
    }

    fn link_to(&self, unit: UnitId, program: &Program, call: &CallSite) -> Link {
        let parameters = self.unit(unit).and_then(|unit| unit.program.as_ref()).map_or(&[][..], |it| &it.parameters);
        let argument = |parameter: &Parameter| {
            let Some(at) = call.given.iter().position(|given| given.name == parameter.name) else {
                return Argument::Default;
            };
            match program.codes.get(call.given[at].value.0 as usize) {
                // What is given to a component may have to become a value of the field's type.
                Some(&Step::Slot(slot)) if matches!(call.callee, Callee::Named(_)) => Argument::Slot(slot),
                _ => Argument::Given(u16::try_from(at).unwrap_or(u16::MAX)),
            }
        };
        Link { unit, arguments: parameters.iter().map(argument).collect(), fits: Box::new([]) }
    }

    fn check_calls(&self, id: UnitId, symbols: &Interner) -> Vec<Diagnostic> {
        let Some(unit) = self.unit(id) else { return Vec::new() };
        let Some(program) = &unit.program else { return Vec::new() };
        let calls = program.calls.iter().flat_map(|call| self.check_call(unit, program, call, symbols));
        let bodies = program.calls.iter().filter_map(|call| self.lost_body(unit, program, call));
        calls.chain(bodies).chain(self.unknown_filled(id, program, symbols)).collect()
    }

    /// A call's body that no nameless slot of what is called takes.
    fn lost_body(&self, unit: &Unit, program: &Program, call: &CallSite) -> Option<Diagnostic> {
        let (id, what) = match &call.callee {
            Callee::Named(name) => (self.find_partial(program.ending, name)?.0, format!("the partial \"{name}\"")),
            Callee::Component(name) => {
                (self.find_component(program.ending, name)?, format!("the component \"{name}\""))
            }
            Callee::Next if program.role.is_called() => (unit.next?, "the file that this one extends".to_owned()),
            Callee::Computed(prefix, _) => {
                let mut called = self.partials_behind(program.ending, prefix).map(|(_, id)| id);
                let taken = |id| self.chain(id).any(|program| program.takes_body);
                // Where one of them takes it, which one is called is known with the page only.
                let first = called.next().filter(|&id| !taken(id) && !called.any(taken))?;
                (first, format!("each partial below \"{prefix}\""))
            }
            Callee::Next => return None,
        };
        if !call.has_body || self.chain(id).any(|program| program.takes_body) {
            return None;
        }
        let message = format!("{what} has no slot for what is between \"with\" and its end, so that is lost");
        let diagnostic = Diagnostic::of(&codes::UNKNOWN_SLOT, message);
        Some(
            diagnostic
                .help("write +{slot} there where it belongs, or fill one with a name: +{into \"NAME\"}")
                .at(&program.path, call.span),
        )
    }

    /// Questions about slots that the file does not have. What a template extends is known with the request only.
    fn unknown_filled(&self, id: UnitId, program: &Program, symbols: &Interner) -> Vec<Diagnostic> {
        if program.continues && program.role == Role::Template {
            return Vec::new();
        }
        let slots: Vec<Symbol> = self.chain(id).flat_map(|program| &*program.slots).copied().collect();
        let unknown = program.asked_filled.iter().filter(|(slot, _)| !slots.contains(slot));
        let report = |(slot, span): &(Symbol, Span)| {
            let name = symbols.name(*slot);
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_SLOT, format!("this file has no slot \"{name}\""));
            diagnostic.meaning(name, slots.iter().map(|&slot| symbols.name(slot))).at(&program.path, *span)
        };
        unknown.map(report).collect()
    }

    /// The programs of a file and of those that it extends, as far as each goes on.
    fn chain(&self, id: UnitId) -> impl Iterator<Item = &Program> {
        let mut at = Some(id);
        let mut left = self.units.len();
        std::iter::from_fn(move || {
            let unit = self.unit(at?).filter(|_| left > 0)?;
            let program = unit.program.as_ref()?;
            left -= 1;
            at = unit.next.filter(|_| program.continues);
            Some(program)
        })
    }

    fn check_call(&self, unit: &Unit, program: &Program, call: &CallSite, symbols: &Interner) -> Vec<Diagnostic> {
        match &call.callee {
            // What could not be read as a name was reported where it was read.
            Callee::Named(name) | Callee::Component(name) if name.is_empty() => Vec::new(),
            Callee::Component(name) => match self.find_component(program.ending, name) {
                None => vec![self.unknown_component(program.ending, name).at(&program.path, call.span)],
                Some(id) => {
                    let mut found = self.check_parameters(unit, program, call, name, id, symbols);
                    found.extend(self.lost_fill(program, call, name, id, symbols));
                    found
                }
            },
            Callee::Named(name) => match self.find_partial(program.ending, name) {
                None => vec![self.unknown_partial(program.ending, name).at(&program.path, call.span)],
                Some((id, found)) => match self.shortened_by_mistake(program, call, name, found) {
                    Some(diagnostic) => vec![diagnostic],
                    None => {
                        let mut found = self.check_parameters(unit, program, call, name, id, symbols);
                        found.extend(self.lost_fill(program, call, name, id, symbols));
                        found
                    }
                },
            },
            Callee::Computed(prefix, _) => {
                let exists = self.partials_behind(program.ending, prefix).next().is_some();
                let message = format!("there is no partial below \"{prefix}\"");
                let problem = || Diagnostic::of(&codes::UNKNOWN_PARTIAL, message).at(&program.path, call.span);
                if exists { self.lost_on_all(program, call, prefix, symbols) } else { vec![problem()] }
            }
            Callee::Next => Vec::new(),
        }
    }

    pub(crate) fn unknown_partial(&self, ending: Ending, name: &str) -> Diagnostic {
        let word = ending.word();
        let other = Ending::ALL.into_iter().find(|&other| self.partials(other).contains_key(name));
        let help = match other {
            Some(other) => format!(
                "a .{word} file calls partials of its own extension; there is only partials/{name}.{}",
                other.word()
            ),
            None => {
                let unknown = Diagnostic::of(&codes::UNKNOWN_PARTIAL, format!("unknown partial \"{name}\""));
                let bare = name.trim_start_matches('/').trim_start_matches("partials/");
                let bare = bare.strip_suffix(&format!(".{word}")).unwrap_or(bare);
                if bare != name && self.find_partial(ending, bare).is_some() {
                    let help = format!("write \"{bare}\": its folder and its extension are known");
                    return unknown.help(help);
                }
                return unknown
                    .meaning(name, self.partial_names(ending))
                    .or_help(|| format!("write the file partials/{name}.{word} in a theme of the lineage"));
            }
        };
        Diagnostic::of(&codes::UNKNOWN_PARTIAL, format!("unknown partial \"{name}\"")).help(help)
    }

    fn unknown_component(&self, ending: Ending, name: &str) -> Diagnostic {
        Diagnostic::of(&codes::UNKNOWN_COMPONENT, format!("unknown component \"{name}\""))
            .meaning(name, self.component_names(ending))
            .or_help(|| format!("write components/{name}/component.{} in a theme of the lineage", ending.word()))
    }

    fn shortened_by_mistake(&self, program: &Program, call: &CallSite, name: &str, found: &str) -> Option<Diagnostic> {
        if name == found {
            return None;
        }
        let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
        let names = self.partial_names(program.ending);
        let siblings = names.filter(|other| other.starts_with(folder) && *other != folder);
        let help = did_you_mean(name, siblings)?;
        let message = format!("there is no partial \"{name}\"; \"{found}\" answers instead");
        Some(Diagnostic::of(&codes::SHORTENED_PARTIAL, message).help(help).at(&program.path, call.span))
    }

    fn check_parameters(
        &self,
        unit: &Unit,
        program: &Program,
        call: &CallSite,
        name: &str,
        id: UnitId,
        symbols: &Interner,
    ) -> Vec<Diagnostic> {
        let Some(parameters) = self.parameters_of(id) else { return Vec::new() };
        let mut found = Vec::new();
        let (what, takes) = match &call.callee {
            Callee::Component(_) => ("component", "declare it as a field in its component.toml"),
            _ => ("partial", "write it under \"takes\" in the partial's front matter"),
        };
        // A nearer theme's file may need less than what a farther theme's file hands it.
        let overrides = self.unit(id).is_some_and(|called| called.theme < unit.theme);
        let is_given = |symbol: Symbol| call.given.iter().any(|given| given.name == symbol);
        let missing = parameters.iter().filter(|parameter| parameter.default.is_none() && !is_given(parameter.name));
        let mut missing: Vec<&str> = missing.map(|parameter| symbols.name(parameter.name)).collect();
        let is_taken = |symbol: Symbol| parameters.iter().any(|parameter| parameter.name == symbol);
        let untaken = call.given.iter().filter(|given| !is_taken(given.name)).count();
        // What is given under another name is one mistake.
        let renamed = if overrides || untaken < missing.len() { Vec::new() } else { std::mem::take(&mut missing) };
        for given in &*call.given {
            let written = symbols.name(given.name);
            let Some(parameter) = parameters.iter().find(|parameter| parameter.name == given.name) else {
                let message = format!("the {what} \"{name}\" takes no \"{written}\"");
                let names = parameters.iter().map(|parameter| symbols.name(parameter.name));
                let diagnostic = match overrides {
                    true => Diagnostic::warning(&codes::UNKNOWN_PARAMETER, message),
                    false => Diagnostic::of(&codes::UNKNOWN_PARAMETER, message),
                };
                let diagnostic = diagnostic.meaning(written, names).or_help(|| match renamed.as_slice() {
                    [] => takes.to_owned(),
                    needed => {
                        let needed: Vec<String> = needed.iter().map(|name| format!("\"{name}\"")).collect();
                        format!("it needs {}, which is not given", joined(&needed, "and"))
                    }
                });
                found.push(diagnostic.at(&program.path, given.span));
                continue;
            };
            let is_field = matches!(call.callee, Callee::Component(_));
            if let Some((needed, is)) = differ(&parameter.of, &given.of).filter(|pair| !is_field || !converts(*pair)) {
                let message = format!("\"{written}\" of the {what} \"{name}\" is {needed}, and this is {is}");
                let help = match &call.callee {
                    Callee::Component(_) => format!("give {needed}, as its component.toml declares it"),
                    _ => format!("give {needed}, or change the default under \"takes\""),
                };
                found.push(Diagnostic::of(&codes::WRONG_TYPE, message).help(help).at(&program.path, given.span));
            }
        }
        for missing in missing {
            let message = format!("the {what} \"{name}\" needs \"{missing}\", which is not given");
            let help = format!("write: given {missing} = …");
            found.push(Diagnostic::of(&codes::MISSING_PARAMETER, message).help(help).at(&program.path, call.span));
        }
        found
    }

    /// What a call with a computed name gives and fills that none of the partials takes that it may lead to.
    fn lost_on_all(&self, program: &Program, call: &CallSite, prefix: &str, symbols: &Interner) -> Vec<Diagnostic> {
        let called: Vec<UnitId> = self.partials_behind(program.ending, prefix).map(|(_, id)| id).collect();
        let Some(takes) = called.iter().map(|&id| self.parameters_of(id)).collect::<Option<Vec<_>>>() else {
            return Vec::new();
        };
        let taken: Vec<Symbol> = takes.into_iter().flatten().map(|parameter| parameter.name).collect();
        let slots: Vec<Symbol> = called.iter().flat_map(|&id| self.slots_of(id)).collect();
        let known = |names: &[Symbol]| -> Vec<String> {
            let mut known: Vec<String> = names.iter().map(|&name| symbols.name(name).to_owned()).collect();
            known.sort_unstable();
            known.dedup();
            known
        };
        let mut found = Vec::new();
        for given in call.given.iter().filter(|given| !taken.contains(&given.name)) {
            let name = symbols.name(given.name);
            let message = format!("no partial below \"{prefix}\" takes \"{name}\"");
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_PARAMETER, message);
            let diagnostic = diagnostic.meaning(name, known(&taken).iter().map(String::as_str));
            let help = || "write it under \"takes\" in the partial's front matter".to_owned();
            found.push(diagnostic.or_help(help).at(&program.path, given.span));
        }
        for (slot, span) in call.fills.iter().filter(|(slot, _)| !slots.contains(slot)) {
            let name = symbols.name(*slot);
            let message = format!("no partial below \"{prefix}\" has a slot \"{name}\"");
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_SLOT, message);
            found.push(diagnostic.meaning(name, known(&slots).iter().map(String::as_str)).at(&program.path, *span));
        }
        found
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
        let what = if matches!(call.callee, Callee::Component(_)) { "component" } else { "partial" };
        let diagnostic = Diagnostic::of(&codes::UNKNOWN_SLOT, format!("the {what} \"{name}\" has no slot \"{lost}\""));
        Some(diagnostic.meaning(lost, slots.iter().map(|&slot| symbols.name(slot))).at(&program.path, *span))
    }

    /// The slots of a file and of those it extends.
    pub(crate) fn slots_of(&self, id: UnitId) -> Vec<Symbol> {
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
    fn parameters_of(&self, id: UnitId) -> Option<&[Parameter]> {
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

/// Whether what is given to a component can become what its field is.
fn converts((needed, given): (&str, &str)) -> bool {
    let prints = matches!(given, "a number" | "a date" | "true or false");
    needed == "a list" || (needed, given) == ("a date", "a text") || (needed == "a text" && prints)
}

/// What a parameter's default is and what is given instead, where the two are known and differ.
pub(crate) fn differ(needed: &Type, given: &Type) -> Option<(&'static str, &'static str)> {
    let word = |of: &Type| match of {
        Type::Any
        | Type::Nothing
        | Type::Record(_)
        | Type::OneOf(_)
        | Type::Group(..)
        | Type::Made(_)
        | Type::Round => None,
        Type::Bool => Some("true or false"),
        Type::Number => Some("a number"),
        Type::Text | Type::Html => Some("a text"),
        Type::Date => Some("a date"),
        Type::List(..) => Some("a list"),
    };
    // Whatever has a truth can mean true or false.
    let (needed, given) = (word(needed).filter(|_| *needed != Type::Bool)?, word(given)?);
    (needed != given).then_some((needed, given))
}

/// `a/b/c`, `a/b`, `a`.
pub fn shortened(name: &str) -> impl Iterator<Item = &str> {
    std::iter::successors(Some(name), |name| name.rsplit_once('/').map(|(shorter, _)| shorter))
}
