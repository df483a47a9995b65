//! What a query depends on: whether it is the same for every request, and whether an index can help it.

use crate::compile::block::Compiler;
use crate::program::{Arguments, Code, Lookup, QueryPlan, Step};
use crate::syntax::tree::Operator;

/// What a value depends on.
#[derive(Clone, Copy, Default)]
struct Needs {
    /// The member of the present query.
    member: bool,
    /// Other named values, the file's slots, or the request.
    else_: bool,
}

impl Needs {
    fn and(self, other: Needs) -> Needs {
        Needs { member: self.member || other.member, else_: self.else_ || other.else_ }
    }
}

impl Compiler<'_> {
    /// Notes in `plan` what it depends on.
    pub(super) fn plan(&self, plan: &mut QueryPlan) {
        let list = self.needs(plan.list, &mut Vec::new());
        // Only a list with a name of its own is still; others are made for each render.
        if list.member || list.else_ || !matches!(self.code(plan.list), Step::Global(_)) {
            return;
        }
        let parts = [plan.filter, plan.group, plan.offset, plan.limit];
        let keys = plan.order.iter().map(|(key, _)| *key);
        let depends = |code: Code| self.needs(code, &mut vec![plan.slot]).else_;
        let presorts = plan.group.is_none() && !plan.order.is_empty() && !keys.clone().any(depends);
        let is_constant = !parts.into_iter().flatten().chain(keys).any(depends);
        plan.is_constant = is_constant;
        plan.presorts = presorts && !is_constant;
        plan.lookup = plan.filter.filter(|_| !plan.is_constant).and_then(|filter| self.lookup(filter, plan.slot));
    }

    /// The first condition of a filter, if it looks for one value of a field.
    fn lookup(&self, filter: Code, slot: u16) -> Option<Lookup> {
        let field = |code: Code| {
            let needs = self.needs(code, &mut vec![slot]);
            needs.member && !needs.else_
        };
        let wanted = |code: Code| !self.needs(code, &mut vec![slot]).member;
        let found =
            |a: Code, b: Code, has: bool| (field(a) && wanted(b)).then_some(Lookup { field: a, wanted: b, has });
        match self.code(filter) {
            Step::And(first, _) => self.lookup(first, slot),
            Step::Binary(Operator::Equal, a, b) => found(a, b, false).or_else(|| found(b, a, false)),
            Step::Binary(Operator::Has, a, b) => found(a, b, true),
            Step::Binary(Operator::In, a, b) => found(b, a, true),
            _ => None,
        }
    }

    /// What `code` depends on; `own` are the members of the queries around it.
    fn needs(&self, code: Code, own: &mut Vec<u16>) -> Needs {
        let all = |own: &mut Vec<u16>, codes: &[Code]| {
            codes.iter().fold(Needs::default(), |needs, &code| needs.and(self.needs(code, own)))
        };
        let slot = |own: &[u16], slot: u16| match own.iter().position(|&one| one == slot) {
            Some(0) => Needs { member: true, else_: false },
            Some(_) => Needs::default(),
            None => Needs { member: false, else_: true },
        };
        let global = |number: u16| Needs { member: false, else_: !self.globals.is_constant(number) };
        match self.code(code) {
            Step::Nothing | Step::Bool(_) | Step::Int(_) | Step::Float(_) | Step::Text(_) => Needs::default(),
            Step::Slot(number) | Step::SlotMember(number, _) => slot(own, number),
            Step::Global(number) | Step::GlobalMember(number, _) => global(number),
            Step::Filled(_) => Needs { member: false, else_: true },
            Step::Member(value, _) | Step::Negate(value) | Step::Not(value) => self.needs(value, own),
            Step::Method(value, _, arguments) => self.needs(value, own).and(all(own, self.arguments_of(arguments))),
            Step::Select(list, slot, value) => {
                let list = self.needs(list, own);
                own.push(slot);
                let inside = self.needs(value, own);
                own.pop();
                list.and(inside)
            }
            Step::Function(_, arguments) | Step::List(arguments) | Step::Record(_, arguments) => {
                all(own, self.arguments_of(arguments))
            }
            Step::Index(a, b) | Step::Named(_, a, b) | Step::Binary(_, a, b) | Step::And(a, b) | Step::Or(a, b) => {
                all(own, &[a, b])
            }
            Step::If(a, b, c) => all(own, &[a, b, c]),
            Step::Query(number) => {
                let Some(plan) = self.query_of(number) else { return Needs { member: true, else_: true } };
                let list = self.needs(plan.list, own);
                let parts = [plan.filter, plan.group, plan.offset, plan.limit];
                let codes: Vec<Code> =
                    parts.into_iter().flatten().chain(plan.order.iter().map(|(key, _)| *key)).collect();
                own.push(plan.slot);
                let inside = all(own, &codes);
                own.pop();
                list.and(inside)
            }
        }
    }

    fn arguments_of(&self, arguments: Arguments) -> &[Code] {
        let start = arguments.start as usize;
        self.all_arguments().get(start..start + usize::from(arguments.count)).unwrap_or(&[])
    }
}
