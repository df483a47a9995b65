//! Printing values where they are: texts, attributes, addresses.

use std::borrow::Cow;

use crate::escape::css;
use crate::escape::html::{escape, escape_xml};
use crate::escape::url;
use crate::html::place::{Absent, EscapingRow, HtmlPlace, Written};
use crate::program::{Code, Program, Read};
use crate::render::{Halt, Renderer};
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::source::Span;
use crate::value::Value;
use crate::value::json::{self, Writer};
use crate::value::print::shown;
use crate::value::tray::without_marks;

/// Where a value's code is written.
pub(super) fn span_of(program: &Program, code: Code) -> Span {
    program.code_spans.get(code.0 as usize).copied().unwrap_or_default()
}

impl<'a> Renderer<'_, 'a> {
    pub(super) fn print(
        &mut self,
        program: &'a Program,
        code: Code,
        value: Value<'a>,
        place: HtmlPlace,
    ) -> Result<(), Halt> {
        match place {
            HtmlPlace::Text | HtmlPlace::LeadingText => {
                let text = match value {
                    Value::Html(html) => html,
                    _ => self.shown(program, code, value)?,
                };
                // Right after its start tag, a parser drops a line break.
                if place == HtmlPlace::LeadingText && text.starts_with('\n') && self.out.ends_with('>') {
                    self.out.push('\n');
                }
                match value {
                    Value::Html(html) => self.push_html(program, span_of(program, code), html)?,
                    _ => escape(text, &mut self.out),
                }
            }
            HtmlPlace::LeadingTitle => {
                let text = self.shown(program, code, value)?;
                if text.starts_with('\n') && self.out.ends_with('>') {
                    self.out.push('\n');
                }
                escape(text, &mut self.out);
            }
            HtmlPlace::Title | HtmlPlace::Attribute => {
                let text = self.shown(program, code, value)?;
                escape(text, &mut self.out);
            }
            HtmlPlace::Address(row, written) => {
                let text = self.shown(program, code, value)?;
                self.push_address(program, code, text, row, written);
            }
            HtmlPlace::Number => self.number(program, code, value)?,
            HtmlPlace::Style => self.style(program, code, value)?,
            HtmlPlace::StyleText => {
                let text = self.shown(program, code, value)?;
                css::escape(text, &mut self.out);
            }
            HtmlPlace::Json => self.json(program, code, value)?,
            HtmlPlace::JsonText => {
                let text = self.source(program, code, value)?;
                json::characters(text, &mut self.out);
            }
            HtmlPlace::Xml => {
                let text = self.source(program, code, value)?;
                escape_xml(text, &mut self.out);
            }
            HtmlPlace::Plain => {
                let text = self.source(program, code, value)?;
                self.out.push_str(text);
            }
        }
        Ok(())
    }

    /// The text of a value, or the source of HTML.
    fn source(&mut self, program: &'a Program, code: Code, value: Value<'a>) -> Result<&'a str, Halt> {
        match value {
            Value::Html(html) => match without_marks(html) {
                Cow::Borrowed(html) => Ok(html),
                Cow::Owned(html) => Ok(self.scratch.text(&html)),
            },
            _ => self.shown(program, code, value),
        }
    }

    fn number(&mut self, program: &'a Program, code: Code, value: Value<'a>) -> Result<(), Halt> {
        let text = self.shown(program, code, value)?;
        let plain = text.parse::<f64>().is_ok_and(|number| number.is_finite() && number >= 0.0);
        let digits = text.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.');
        if plain && digits {
            self.out.push_str(text);
            return Ok(());
        }
        self.out.push('1');
        let message = format!("only a number can be here, not \"{}\"; 1 is printed instead", shortened(text));
        let diagnostic = Diagnostic::of(&codes::UNSAFE_NUMBER, message);
        self.warn_at_code(program, code, diagnostic.help("a text becomes a number with .number"));
        Ok(())
    }

    fn style(&mut self, program: &'a Program, code: Code, value: Value<'a>) -> Result<(), Halt> {
        let text = self.shown(program, code, value)?;
        if css::is_plain(text) {
            self.out.push_str(text);
            return Ok(());
        }
        self.out.push_str("initial");
        let message = format!("\"{}\" is not a plain CSS value; \"initial\" is printed instead", shortened(text));
        let diagnostic = Diagnostic::of(&codes::UNSAFE_STYLE, message)
            .help("numbers with units, #hex, words, colours, spaces and commas may be here");
        self.warn_at_code(program, code, diagnostic);
        Ok(())
    }

    fn json(&mut self, program: &'a Program, code: Code, value: Value<'a>) -> Result<(), Halt> {
        let writer = Writer {
            symbols: self.job.host.symbols(),
            scratch: &self.scratch,
            limit: self.job.limits.bytes.saturating_sub(self.out.len()),
        };
        let mut text = String::new();
        let written = writer.write(value, &mut text);
        self.out.push_str(&text);
        written.map_err(|message| self.problem_at_code(program, code, Diagnostic::of(&codes::BAD_VALUE, message)))
    }

    /// The text of a value, kept in the arena where it had to be made.
    pub(super) fn shown(&mut self, program: &'a Program, code: Code, value: Value<'a>) -> Result<&'a str, Halt> {
        match value {
            Value::Text(text) => Ok(text),
            _ => match shown(value) {
                Ok(text) => Ok(self.scratch.text(&text)),
                Err(message) => Err(self.problem_at_code(program, code, Diagnostic::of(&codes::UNPRINTABLE, message))),
            },
        }
    }

    pub(super) fn raw(&mut self, program: &'a Program, code: Code) -> Result<(), Halt> {
        match self.value(program, code)? {
            Value::Html(html) => self.push_html(program, span_of(program, code), html)?,
            value => {
                let text = self.shown(program, code, value)?;
                self.out.push_str(text);
            }
        }
        Ok(())
    }

    /// Prints the value of an attribute that is one hole; its name and quote are printed already, `cut` bytes.
    /// False where the attribute is left out, and its closing quote with it.
    pub(super) fn attribute(
        &mut self,
        program: &'a Program,
        read: Read,
        (code, cut): (Code, u32),
        (place, absent): (HtmlPlace, Absent),
    ) -> Result<bool, Halt> {
        let value = self.read_or_evaluate(program, code, read)?;
        match absent {
            Absent::Boolean => {
                let start = self.cut(cut, value.truth());
                self.out.truncate(start);
                return Ok(false);
            }
            Absent::LeaveOut if matches!(value, Value::Nothing) => {
                let start = self.cut(cut, false);
                self.out.truncate(start);
                return Ok(false);
            }
            Absent::LeaveOut | Absent::StayEmpty => {}
        }
        if let (Value::Record(record), HtmlPlace::Address(row, Written::Candidate)) = (value, place)
            && let Some(candidates) = record.as_candidates()
        {
            for (at, (address, width)) in candidates.iter().enumerate() {
                self.out.push_str(if at == 0 { "" } else { ", " });
                self.push_address(program, code, address, row, Written::Candidate);
                self.out.push_str(&format!(" {width}w"));
            }
            return Ok(true);
        }
        self.print(program, code, value, place)?;
        Ok(true)
    }

    /// Where printing goes on when an attribute's quote, or with it its name, is taken back.
    fn cut(&self, cut: u32, keeps_name: bool) -> usize {
        let start = self.out.len().saturating_sub(cut as usize);
        let name = self.out.get(start..).and_then(|text| text.find('=')).filter(|_| keeps_name);
        start + name.unwrap_or(0)
    }

    fn push_address(&mut self, program: &'a Program, code: Code, text: &str, row: EscapingRow, written: Written) {
        if url::is_ordinary_path(text) {
            return self.out.push_str(text);
        }
        match url::whole(text, row, self.job.host.site_address()) {
            Ok(address) => self.push_written(&address, written),
            Err(reason) => {
                self.out.push_str("about:invalid");
                self.warn_at_code(program, code, unsafe_address(text, reason));
            }
        }
        if text.is_empty() {
            self.warn_at_code(program, code, empty_address());
        }
    }

    pub(super) fn address_value(&mut self, program: &'a Program, code: Code) -> Result<(), Halt> {
        let value = self.value(program, code)?;
        let text = self.shown(program, code, value)?;
        if self.address.len() + text.len() > self.job.limits.bytes {
            return Err(self.over_memory(program, code));
        }
        if !self.address.has_value() {
            self.address_at = program.code_spans.get(code.0 as usize).copied().unwrap_or_default();
        }
        self.address.value(text);
        Ok(())
    }

    fn push_written(&mut self, address: &str, written: Written) {
        match written {
            Written::Attribute => escape(address, &mut self.out),
            // Without an address, what comes after it would be one.
            Written::Candidate if address.is_empty() => self.out.push_str("about:invalid"),
            Written::Candidate => escape(&address.replace(',', "%2C"), &mut self.out),
            Written::Style => css::escape(address, &mut self.out),
        }
    }

    pub(super) fn address_end(&mut self, program: &'a Program, at: usize, row: EscapingRow, written: Written) {
        let composer = std::mem::take(&mut self.address);
        let end = program.spans.get(at).copied().unwrap_or_default();
        let span = if composer.has_value() { self.address_at } else { end };
        match composer.finish(row, self.job.host.site_address()) {
            Ok(address) => {
                if composer.is_empty() {
                    self.warn(&program.path, span, empty_address());
                }
                self.push_written(address, written);
            }
            Err(reason) => {
                self.out.push_str("about:invalid");
                self.warn(&program.path, span, unsafe_address(composer.raw(), reason));
            }
        }
        self.address = composer;
    }
}

fn unsafe_address(address: &str, reason: &str) -> Diagnostic {
    let message = format!("the address \"{}\" is not allowed here: {reason}", shortened(address));
    Diagnostic::warning(&codes::UNSAFE_ADDRESS, message)
}

fn empty_address() -> Diagnostic {
    let help = "print the element only where there is an address, with +{if …} around it";
    Diagnostic::of(&codes::EMPTY_ADDRESS, "this address is empty").help(help)
}

/// The start of a text, for messages.
pub(super) fn shortened(text: &str) -> String {
    let mut short: String = text.chars().take(60).collect();
    if short.len() < text.len() {
        short.push('…');
    }
    short
}
