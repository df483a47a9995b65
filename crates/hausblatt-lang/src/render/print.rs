//! Printing values where they stand: texts, attributes, addresses.

use crate::address;
use crate::diagnostic::Diagnostic;
use crate::escape::escape;
use crate::html::place::{Absent, Place, Row};
use crate::print::shown;
use crate::program::{Code, Lead, Program};
use crate::render::{Halt, Renderer};
use crate::value::Value;

impl<'a> Renderer<'_, 'a> {
    pub(super) fn print(
        &mut self,
        program: &'a Program,
        code: Code,
        value: Value<'a>,
        place: Place,
    ) -> Result<(), Halt> {
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
    pub(super) fn shown(&mut self, program: &'a Program, code: Code, value: Value<'a>) -> Result<&'a str, Halt> {
        match value {
            Value::Text(text) => Ok(text),
            _ => match shown(value) {
                Ok(text) => Ok(self.scratch.text(&text)),
                Err(message) => Err(self.fault_at_code(program, code, Diagnostic::error("unprintable", message))),
            },
        }
    }

    pub(super) fn raw(&mut self, program: &'a Program, code: Code) -> Result<(), Halt> {
        match self.value(program, code)? {
            Value::Html(html) => self.out.push_str(html),
            value => {
                let text = self.shown(program, code, value)?;
                self.out.push_str(text);
            }
        }
        Ok(())
    }

    pub(super) fn attribute(
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

    pub(super) fn push_address(&mut self, program: &'a Program, code: Code, text: &str, row: Row) {
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

    pub(super) fn address_value(&mut self, program: &'a Program, code: Code) -> Result<(), Halt> {
        let value = self.value(program, code)?;
        let text = self.shown(program, code, value)?;
        if self.address.len() + text.len() > self.job.limits.bytes {
            return Err(self.over_memory(program, code));
        }
        self.address.value(text);
        Ok(())
    }

    pub(super) fn address_end(&mut self, program: &'a Program, at: usize, row: Row) {
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
}

/// The start of a text, for messages.
pub(super) fn shortened(text: &str) -> String {
    let mut short: String = text.chars().take(60).collect();
    if short.len() < text.len() {
        short.push('…');
    }
    short
}
