//! Works out values while rendering.

use crate::program::{Arguments, Code, Program, Step};
use crate::render::print::shortened;
use crate::render::{Halt, Renderer};
use crate::syntax::tree::Operator;
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::suggest::meant_or_all;
use crate::value::arithmetic::operate;
use crate::value::context::Context;
use crate::value::functions::{FUNCTIONS, Outcome};
use crate::value::members;
use crate::value::moment::{Moment, asks_for_clock};
use crate::value::shape::Symbol;
use crate::value::{Record, Scratch, Value};

/// A record that a template writes out.
struct WrittenRecord<'v> {
    names: &'v [Symbol],
    values: &'v [Value<'v>],
}

impl Record for WrittenRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let at = self.names.iter().position(|name| *name == symbol);
        at.and_then(|at| self.values.get(at)).copied().unwrap_or(Value::Nothing)
    }

    fn keys(&self) -> Vec<Symbol> {
        self.names.to_vec()
    }
}

impl<'a> Renderer<'_, 'a> {
    /// The value of `code` in `program`, whose frame is present.
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
            Step::Named(expected, value, key) => {
                let found = self.index(program, code, value, key)?;
                if matches!(found, Value::Nothing) {
                    self.check_name(program, expected, key)?;
                }
                Ok(found)
            }
            Step::List(arguments) => {
                let values = self.values(program, arguments)?;
                Ok(Value::List(self.scratch.list(&values)))
            }
            Step::Record(number, arguments) => {
                let values = self.values(program, arguments)?;
                let names = program.record_names.get(number as usize).map_or(&[][..], |names| names);
                let values = self.scratch.list(&values);
                Ok(Value::Record(self.scratch.keep(WrittenRecord { names, values })))
            }
            Step::Select(list, slot, value) => self.select(program, code, list, slot, value),
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
                self.problem_or(program, code, result)
            }
            Step::Query(number) => match program.queries.get(number as usize) {
                Some(plan) => self.query(program, code, plan),
                None => Ok(Value::Nothing),
            },
            _ => Ok(Value::Nothing),
        }
    }

    /// A value for each member of a list.
    fn select(
        &mut self,
        program: &'a Program,
        code: Code,
        list: Code,
        slot: u16,
        value: Code,
    ) -> Result<Value<'a>, Halt> {
        let all = self.value(program, list)?;
        if matches!(all, Value::Nothing) {
            return Ok(Value::Nothing);
        }
        let Some(count) = all.len() else {
            let message = format!("a query goes through a list, and this is {}", all.kind());
            return Err(self.problem_at_code(program, list, Diagnostic::of(&codes::NOT_A_LIST, message)));
        };
        self.admit_list(program, code, count)?;
        let mut selected = Vec::with_capacity(count);
        for at in 0..count {
            let member = all.at(at, &self.scratch);
            self.set_slot(slot, member);
            selected.push(self.value(program, value)?);
        }
        Ok(Value::List(self.scratch.list(&selected)))
    }

    /// What goes through whole lists is counted, and lists too large to be made are not started.
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

    pub(crate) fn context(&self) -> Context<'_, 'a> {
        Context { host: self.job.host, scratch: &self.scratch }
    }

    pub(crate) fn problem_or<T>(
        &mut self,
        program: &'a Program,
        code: Code,
        result: Result<T, String>,
    ) -> Result<T, Halt> {
        // A result that was not evaluated to its end is none.
        self.count_steps(program, code, 0)?;
        match result {
            Ok(value) if self.scratch.is_full() => {
                drop(value);
                Err(self.over_memory(program, code))
            }
            Ok(value) => Ok(value),
            Err(message) => Err(self.problem_at_code(program, code, Diagnostic::of(&codes::BAD_VALUE, message))),
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
            Value::Record(record) if symbol == members::KEYS => Ok(members::keys(&self.context(), record)),
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
            Some(member) if member.accepts(arguments.len()) => member.evaluate(&self.context(), value, arguments),
            Some(member) => {
                Err(format!("\"{}\" takes {} arguments here, not {}", member.name(), member.arguments, arguments.len()))
            }
            // What prints without tags already is its own text.
            None if symbol == members::TEXT && members::kind(value) == Some(members::Of::Text) => Ok(value),
            None => Err(format!("{} has no \"{}\"", value.kind(), self.job.host.symbols().name(symbol))),
        };
        let result = self.problem_or(program, code, result)?;
        match (symbol, value) {
            (members::NUMBER, Value::Text(text)) if matches!(result, Value::Nothing) => {
                self.check_number(program, code, text);
            }
            (members::FORMAT, Value::Date(Moment::Day(_))) => self.check_clock(program, code, arguments),
            _ => {}
        }
        Ok(result)
    }

    /// Reports a text of which only the beginning is a number.
    fn check_number(&mut self, program: &'a Program, code: Code, text: &str) {
        if !text.trim_start().starts_with(|c: char| c.is_ascii_digit()) {
            return;
        }
        let message = format!("only a part of \"{}\" is a number, so this is nothing", shortened(text));
        let help = "take the part first, as in .split(\" \").first.number";
        self.warn_at_code(program, code, Diagnostic::warning(&codes::BAD_VALUE, message).help(help));
    }

    /// Reports a time of day that is asked of a day.
    fn check_clock(&mut self, program: &'a Program, code: Code, arguments: &[Value<'a>]) {
        let Some(pattern) =
            arguments.first().and_then(|pattern| pattern.as_text()).filter(|pattern| asks_for_clock(pattern))
        else {
            return;
        };
        let message = format!("this is a day and has no time of day, which \"{}\" asks for", shortened(pattern));
        let help = "a date with its time is written as in 2026-03-14 09:30";
        self.warn_at_code(program, code, Diagnostic::of(&codes::PATTERN_WITHOUT_DATE, message).help(help));
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
        let result = function.evaluate(&self.context(), &arguments);
        match self.problem_or(program, code, result)? {
            Outcome::Value(value) => Ok(value),
            Outcome::Dead(message) => {
                self.warn_at_code(program, code, Diagnostic::warning(&codes::DEAD_REFERENCE, message));
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
        self.problem_or(program, code, result)
    }

    /// Reports a computed name of something that the site lacks.
    #[cold]
    fn check_name(&mut self, program: &'a Program, expected: u32, key: Code) -> Result<(), Halt> {
        let name = self.value(program, key)?;
        let (Some(name), Some(expected)) = (name.as_text(), program.expected_names.get(expected as usize)) else {
            return Ok(());
        };
        let symbols = self.job.host.symbols();
        if symbols.find(name).is_some_and(|name| expected.names.contains(&name)) {
            return Ok(());
        }
        let names = expected.names.iter().map(|&name| symbols.name(name));
        let message = format!("the site has no {} \"{name}\"", expected.what);
        let diagnostic = Diagnostic::of(&codes::MISSING_ON_SITE, message).maybe_help(meant_or_all(name, names));
        self.warn_at_code(program, key, diagnostic);
        Ok(())
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
        self.problem_or(program, code, result)
    }
}
