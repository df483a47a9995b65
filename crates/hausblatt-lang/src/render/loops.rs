//! Loops: their members one after the other, and the counters of a round.

use crate::program::{Code, Program};
use crate::render::{Halt, Renderer};
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::value::members::{COUNT, FIRST, LAST, NUMBER};
use crate::value::shape::Symbol;
use crate::value::{Record, Scratch, Value};

/// A loop under way.
pub(super) struct Round<'a> {
    list: Value<'a>,
    at: usize,
    count: usize,
    slot: u16,
    round_slot: Option<u16>,
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

impl<'a> Renderer<'_, 'a> {
    pub(super) fn each(
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
                let diagnostic = Diagnostic::of(
                    &codes::NOT_A_LIST,
                    format!("\"each\" goes through a list, and this is {}", value.kind()),
                );
                return Err(self.problem_at_code(
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

    /// Names the member of the present round of the innermost loop.
    #[inline(always)]
    pub(super) fn bind_round(&mut self) {
        let Some(round) = self.rounds.last() else { return };
        let ready = if let Value::Seq(seq) = round.list { seq.ready_record(round.at) } else { None };
        let member = ready.map_or_else(|| round.list.at(round.at, &self.scratch), Value::Record);
        if let Some(place) = self.stack.get_mut(self.base + usize::from(round.slot)) {
            *place = member;
        }
        if let Some(slot) = round.round_slot {
            let counters = Counters { number: round.at + 1, count: round.count };
            let counters = Value::Record(self.scratch.keep(counters));
            self.set_slot(slot, counters);
        }
    }

    /// Goes on to the next member; false, and the loop is left, if there is none.
    #[inline(always)]
    pub(super) fn next_round(&mut self) -> bool {
        let Some(round) = self.rounds.last_mut() else { return false };
        round.at += 1;
        if round.at < round.count {
            return true;
        }
        self.rounds.pop();
        false
    }
}
