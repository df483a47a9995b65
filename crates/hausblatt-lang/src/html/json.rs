//! A scanner over literal JSON (RFC 8259) that knows where a value may be in it.

use crate::html::place::{HtmlPlace, Refusal};

/// What was last outside strings.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Last {
    /// Nothing yet, or what a value may follow.
    Opening,
    /// A literal value, or its end.
    Literal,
    /// A hole that is a whole value.
    Hole,
    /// Branches that differ.
    Either,
}

/// Where the scanner is in a JSON text.
#[derive(Clone, Debug)]
pub struct Json {
    depth: usize,
    in_text: bool,
    escaped: bool,
    /// How many hexadecimal digits of a `\u` escape are still to come.
    digits: u8,
    last: Last,
}

impl Default for Json {
    fn default() -> Self {
        Self { depth: 0, in_text: false, escaped: false, digits: 0, last: Last::Opening }
    }
}

impl Json {
    /// Whether two states are the same place.
    pub fn meets(&self, other: &Self) -> bool {
        (self.depth, self.in_text, self.escaped, self.digits)
            == (other.depth, other.in_text, other.escaped, other.digits)
    }

    /// Takes over what another branch that ends at the same place has seen.
    pub fn join(&mut self, other: &Self) {
        if self.last != other.last {
            self.last = Last::Either;
        }
    }

    /// Whether it is inside a string.
    pub(crate) fn in_text(&self) -> bool {
        self.in_text
    }

    /// Goes over `byte` and says what is wrong with it.
    pub fn feed(&mut self, byte: u8) -> Option<&'static str> {
        if self.in_text {
            self.text(byte);
            return None;
        }
        let behind_hole = self.last == Last::Hole;
        match byte {
            _ if byte.is_ascii_whitespace() => return None,
            b',' | b':' => self.last = Last::Opening,
            b'[' | b'{' => {
                self.depth += 1;
                self.last = Last::Opening;
            }
            b']' | b'}' => {
                self.depth = self.depth.saturating_sub(1);
                self.last = Last::Literal;
            }
            b'"' => {
                self.in_text = true;
                self.last = Last::Literal;
            }
            _ => self.last = Last::Literal,
        }
        let goes_on = matches!(byte, b',' | b']' | b'}');
        (behind_hole && !goes_on).then_some("a value here is a whole JSON value, with a comma or a bracket after it")
    }

    fn text(&mut self, byte: u8) {
        if self.digits > 0 {
            self.digits -= 1;
        } else if self.escaped {
            self.escaped = false;
            self.digits = if byte == b'u' { 4 } else { 0 };
        } else if byte == b'\\' {
            self.escaped = true;
        } else if byte == b'"' {
            self.in_text = false;
        }
    }

    /// The place of a hole here.
    ///
    /// # Errors
    /// Why no value is safe here.
    pub fn hole(&mut self) -> Result<HtmlPlace, Refusal> {
        if self.escaped || self.digits > 0 {
            return Err(Refusal::new(
                "the middle of an escape in a JSON string",
                "write the escape out, or take it out",
            ));
        }
        if self.in_text {
            return Ok(HtmlPlace::JsonText);
        }
        let last = std::mem::replace(&mut self.last, Last::Hole);
        match last {
            Last::Opening | Last::Either => Ok(HtmlPlace::Json),
            Last::Literal | Last::Hole => {
                Err(Refusal::new("JSON directly after another value", "put a comma between the two"))
            }
        }
    }
}
