//! Works out values while rendering.

use std::cmp::Ordering;

use crate::arithmetic::{operate, ordered};
use crate::context::Context;
use crate::diagnostic::Diagnostic;
use crate::functions::{FUNCTIONS, Outcome};
use crate::members::{self, ITEMS, KEY};
use crate::program::{Arguments, Code, Program, QueryPlan, Step};
use crate::render::{Halt, Renderer};
use crate::shape::Symbol;
use crate::tree::Operator;
use crate::value::{Record, Scratch, Value};

/// A group of a query: its key and its members.
struct Group<'v> {
    key: Value<'v>,
    items: &'v [Value<'v>],
}

impl Record for Group<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        match symbol {
            KEY => self.key,
            ITEMS => Value::List(self.items),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![KEY, ITEMS]
    }
}

impl<'a> Renderer<'_, 'a> {
    /// The value of `code` in `program`, whose frame is at hand.
    pub(crate) fn value(&mut self, program: &'a Program, code: Code) -> Result<Value<'a>, Halt> {
        let Some(step) = program.codes.get(code.0 as usize) else { return Ok(Value::Nothing) };
        match *step {
            Step::Slot(slot) => Ok(self.slot_value(slot)),
            Step::Global(number) => Ok(self.global(number)),
            Step::SlotMember(slot, symbol) => {
                let value = self.slot_value(slot);
                self.member(program, code, value, symbol)
            }
            Step::GlobalMember(number, symbol) => {
                let value = self.global(number);
                self.member(program, code, value, symbol)
            }
            Step::Nothing => Ok(Value::Nothing),
            Step::Bool(truth) => Ok(Value::Bool(truth)),
            Step::Int(number) => Ok(Value::Int(number)),
            Step::Float(number) => Ok(Value::Float(number)),
            Step::Text(text) => Ok(Value::Text(program.kept(text))),
            Step::Filled(slot) => Ok(Value::Bool(self.filled(slot))),
            _ => self.compound(program, code, *step),
        }
    }

    fn compound(&mut self, program: &'a Program, code: Code, step: Step) -> Result<Value<'a>, Halt> {
        self.count_step(program, code)?;
        match step {
            Step::Member(value, symbol) => {
                let value = self.value(program, value)?;
                self.member(program, code, value, symbol)
            }
            Step::Method(value, symbol, arguments) => self.method(program, code, value, symbol, arguments),
            Step::Function(number, arguments) => self.function(program, code, number, arguments),
            Step::Index(value, key) => self.index(program, code, value, key),
            Step::List(arguments) => {
                let values = self.values(program, arguments)?;
                Ok(Value::List(self.scratch.list(&values)))
            }
            Step::Negate(value) => self.negate(program, code, value),
            Step::Not(value) => Ok(Value::Bool(!self.value(program, value)?.truth())),
            Step::And(left, right) => {
                let left = self.value(program, left)?;
                if left.truth() { self.value(program, right) } else { Ok(left) }
            }
            Step::Or(left, right) => {
                let left = self.value(program, left)?;
                if left.truth() { Ok(left) } else { self.value(program, right) }
            }
            Step::If(condition, yes, no) => {
                let chosen = if self.value(program, condition)?.truth() { yes } else { no };
                self.value(program, chosen)
            }
            Step::Binary(operator, left, right) => {
                let left = self.value(program, left)?;
                let right = self.value(program, right)?;
                self.admit_lists(program, code, operator, left, right)?;
                let result = operate(&self.context(), operator, left, right);
                self.fault_or(program, code, result)
            }
            Step::Query(number) => match program.queries.get(number as usize) {
                Some(plan) => self.query(program, code, plan),
                None => Ok(Value::Nothing),
            },
            _ => Ok(Value::Nothing),
        }
    }

    /// What goes through whole lists is counted, and lists too large to be made are not begun.
    fn admit_lists(
        &mut self,
        program: &'a Program,
        code: Code,
        operator: Operator,
        left: Value<'a>,
        right: Value<'a>,
    ) -> Result<(), Halt> {
        let members = match operator {
            Operator::In => right.len(),
            Operator::Has => left.len(),
            Operator::Equal | Operator::Unequal => left.len().filter(|_| left.len() == right.len()),
            Operator::Plus => left.len().zip(right.len()).map(|(a, b)| a.saturating_add(b)),
            _ => None,
        };
        match members {
            Some(members) if operator == Operator::Plus => self.admit_list(program, code, members),
            Some(members) => self.count_steps(program, code, members as u64),
            None => Ok(()),
        }
    }

    /// Counts the members of a list that is about to be made, and stops where it would be too large.
    fn admit_list(&mut self, program: &'a Program, code: Code, members: usize) -> Result<(), Halt> {
        self.count_steps(program, code, members as u64)?;
        if members.saturating_mul(size_of::<Value<'_>>()) > self.job.limits.bytes {
            return Err(self.over_memory(program, code));
        }
        Ok(())
    }

    fn context(&self) -> Context<'_, 'a> {
        Context { host: self.job.host, scratch: &self.scratch }
    }

    fn fault_or<T>(&mut self, program: &'a Program, code: Code, result: Result<T, String>) -> Result<T, Halt> {
        match result {
            Ok(value) if self.scratch.is_full() => {
                drop(value);
                Err(self.over_memory(program, code))
            }
            Ok(value) => Ok(value),
            Err(message) => Err(self.fault_at_code(program, code, Diagnostic::error("value", message))),
        }
    }

    fn values(&mut self, program: &'a Program, arguments: Arguments) -> Result<Vec<Value<'a>>, Halt> {
        let range = arguments.start as usize..arguments.start as usize + usize::from(arguments.count);
        program.arguments.get(range).unwrap_or(&[]).iter().map(|&code| self.value(program, code)).collect()
    }

    fn member(
        &mut self,
        program: &'a Program,
        code: Code,
        value: Value<'a>,
        symbol: Symbol,
    ) -> Result<Value<'a>, Halt> {
        match value {
            Value::Record(record) => Ok(record.get(symbol, &self.scratch)),
            Value::Nothing => Ok(Value::Nothing),
            Value::Seq(seq) => match seq.member(symbol, &self.scratch) {
                Some(member) => Ok(member),
                None => self.table_member(program, code, value, symbol, &[]),
            },
            _ => self.table_member(program, code, value, symbol, &[]),
        }
    }

    fn method(
        &mut self,
        program: &'a Program,
        code: Code,
        value: Code,
        symbol: Symbol,
        arguments: Arguments,
    ) -> Result<Value<'a>, Halt> {
        let value = self.value(program, value)?;
        let arguments = self.values(program, arguments)?;
        match value {
            Value::Nothing => Ok(Value::Nothing),
            _ => self.table_member(program, code, value, symbol, &arguments),
        }
    }

    fn table_member(
        &mut self,
        program: &'a Program,
        code: Code,
        value: Value<'a>,
        symbol: Symbol,
        arguments: &[Value<'a>],
    ) -> Result<Value<'a>, Halt> {
        let row = members::kind(value).and_then(|of| members::find(of, symbol));
        let goes_through = !matches!(symbol, members::COUNT | members::FIRST | members::LAST);
        if let Some(members) = value.len().filter(|_| goes_through) {
            self.admit_list(program, code, members)?;
        }
        let result = match row {
            Some(member) if member.arguments == arguments.len() => member.work_out(&self.context(), value, arguments),
            Some(member) => {
                Err(format!("\"{}\" takes {} arguments here, not {}", member.name(), member.arguments, arguments.len()))
            }
            // What prints without tags already is its own text.
            None if symbol == members::TEXT && members::kind(value) == Some(members::Of::Text) => Ok(value),
            None => Err(format!("{} has no \"{}\"", value.kind(), self.job.host.symbols().name(symbol))),
        };
        self.fault_or(program, code, result)
    }

    fn function(
        &mut self,
        program: &'a Program,
        code: Code,
        number: u8,
        arguments: Arguments,
    ) -> Result<Value<'a>, Halt> {
        let arguments = self.values(program, arguments)?;
        let Some(function) = FUNCTIONS.get(usize::from(number)) else { return Ok(Value::Nothing) };
        let result = function.work_out(&self.context(), &arguments);
        match self.fault_or(program, code, result)? {
            Outcome::Value(value) => Ok(value),
            Outcome::Dead(message) => {
                self.warn_at_code(program, code, Diagnostic::warning("dead-reference", message));
                Ok(Value::Nothing)
            }
        }
    }

    fn index(&mut self, program: &'a Program, code: Code, value: Code, key: Code) -> Result<Value<'a>, Halt> {
        let value = self.value(program, value)?;
        let key = self.value(program, key)?;
        let result = match (value, key) {
            (Value::Nothing, _) | (_, Value::Nothing) => Ok(Value::Nothing),
            (Value::List(_) | Value::Seq(_), Value::Int(at)) => {
                let length = i64::try_from(value.len().unwrap_or(0)).unwrap_or(i64::MAX);
                let from_start = if at < 0 { length.saturating_add(at) } else { at };
                Ok(usize::try_from(from_start).map_or(Value::Nothing, |at| value.at(at, &self.scratch)))
            }
            (Value::Record(record), _) if key.as_text().is_some() => {
                let symbol = key.as_text().and_then(|name| self.job.host.symbols().find(name));
                Ok(symbol.map_or(Value::Nothing, |symbol| record.get(symbol, &self.scratch)))
            }
            _ => Err(format!("{} can't be taken from {}", key.kind(), value.kind())),
        };
        self.fault_or(program, code, result)
    }

    fn negate(&mut self, program: &'a Program, code: Code, value: Code) -> Result<Value<'a>, Halt> {
        let result = match self.value(program, value)? {
            Value::Nothing => Ok(Value::Nothing),
            Value::Int(number) => {
                number.checked_neg().map(Value::Int).ok_or_else(|| "this number is too large to negate".to_owned())
            }
            Value::Float(number) => Ok(Value::Float(-number)),
            other => Err(format!("{} can't be negated", other.kind())),
        };
        self.fault_or(program, code, result)
    }

    fn query(&mut self, program: &'a Program, code: Code, plan: &'a QueryPlan) -> Result<Value<'a>, Halt> {
        let list = self.value(program, plan.list)?;
        if matches!(list, Value::Nothing) {
            return Ok(Value::Nothing);
        }
        if list.len().is_none() {
            let diagnostic =
                Diagnostic::error("not-a-list", format!("only a list can be queried, and this is {}", list.kind()));
            return Err(self.fault_at_code(program, plan.list, diagnostic));
        }
        let mut found = self.filtered(program, plan, list)?;
        if let Some(key) = plan.group {
            found = self.grouped(program, plan, key, &found)?;
        }
        if !plan.order.is_empty() {
            found = self.sorted(program, plan, found)?;
        }
        let offset = self.amount(program, plan.offset)?.unwrap_or(0).min(found.len());
        let limit = self.amount(program, plan.limit)?.unwrap_or(found.len());
        let end = offset.saturating_add(limit).min(found.len());
        let kept = self.scratch.list(&found[offset..end]);
        self.fault_or(program, code, Ok(Value::List(kept)))
    }

    fn filtered(&mut self, program: &'a Program, plan: &'a QueryPlan, list: Value<'a>) -> Result<Vec<Value<'a>>, Halt> {
        let mut found = Vec::new();
        for index in 0..list.len().unwrap_or(0) {
            self.count_step(program, plan.list)?;
            let member = list.at(index, &self.scratch);
            let keep = match plan.filter {
                Some(filter) => {
                    self.set_slot(plan.slot, member);
                    self.value(program, filter)?.truth()
                }
                None => true,
            };
            if keep {
                found.push(member);
            }
            if found.len().saturating_mul(size_of::<Value<'_>>()) > self.job.limits.bytes {
                return Err(self.over_memory(program, plan.list));
            }
        }
        Ok(found)
    }

    fn grouped(
        &mut self,
        program: &'a Program,
        plan: &'a QueryPlan,
        key: Code,
        found: &[Value<'a>],
    ) -> Result<Vec<Value<'a>>, Halt> {
        let mut groups: Vec<(Value<'a>, Vec<Value<'a>>)> = Vec::new();
        for &member in found {
            self.set_slot(plan.slot, member);
            let value = self.value(program, key)?;
            self.count_steps(program, key, groups.len() as u64)?;
            match groups.iter_mut().find(|(key, _)| key.equals(value, &self.scratch)) {
                Some((_, items)) => items.push(member),
                None => groups.push((value, vec![member])),
            }
        }
        let group = |(key, items): (Value<'a>, Vec<Value<'a>>)| -> Value<'a> {
            let items = self.scratch.list(&items);
            Value::Record(self.scratch.keep(Group { key, items }))
        };
        Ok(groups.into_iter().map(group).collect())
    }

    fn sorted(
        &mut self,
        program: &'a Program,
        plan: &'a QueryPlan,
        found: Vec<Value<'a>>,
    ) -> Result<Vec<Value<'a>>, Halt> {
        let mut keyed: Vec<(Vec<Value<'a>>, Value<'a>)> = Vec::with_capacity(found.len());
        for member in found {
            self.set_slot(plan.slot, member);
            let keys = plan.order.iter().map(|&(key, _)| self.value(program, key)).collect::<Result<Vec<_>, _>>()?;
            keyed.push((keys, member));
        }
        let mut unordered = None;
        let context = self.context();
        keyed.sort_by(|(left, _), (right, _)| {
            let pairs = left.iter().zip(right).zip(plan.order.iter());
            for ((&a, &b), &(code, descending)) in pairs {
                let order = key_order(&context, a, b, descending).unwrap_or_else(|| {
                    unordered.get_or_insert((code, a.kind(), b.kind()));
                    Ordering::Equal
                });
                if order.is_ne() {
                    return order;
                }
            }
            Ordering::Equal
        });
        if let Some((code, a, b)) = unordered {
            let diagnostic = Diagnostic::error("value", format!("{a} and {b} have no order"));
            return Err(self.fault_at_code(program, code, diagnostic));
        }
        Ok(keyed.into_iter().map(|(_, member)| member).collect())
    }

    fn amount(&mut self, program: &'a Program, code: Option<Code>) -> Result<Option<usize>, Halt> {
        let Some(code) = code else { return Ok(None) };
        match self.value(program, code)? {
            Value::Nothing => Ok(None),
            Value::Int(number) if number >= 0 => Ok(Some(usize::try_from(number).unwrap_or(usize::MAX))),
            other => {
                let diagnostic = Diagnostic::error(
                    "value",
                    format!("a whole number from 0 up is needed here, not {}", other.kind()),
                );
                Err(self.fault_at_code(program, code, diagnostic))
            }
        }
    }
}

/// The order of two keys; `nothing` comes last, also descending.
fn key_order<'a>(context: &Context<'_, 'a>, a: Value<'a>, b: Value<'a>, descending: bool) -> Option<Ordering> {
    match (a, b) {
        (Value::Nothing, Value::Nothing) => Some(Ordering::Equal),
        (Value::Nothing, _) => Some(Ordering::Greater),
        (_, Value::Nothing) => Some(Ordering::Less),
        _ => ordered(context, a, b).map(|order| if descending { order.reverse() } else { order }),
    }
}
