//! The head of an executable script: the lines `const NAME = +{VALUE};` before all other code.

use crate::html::place::{HtmlPlace, Refusal};

/// What was read of a script so far.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Script {
    /// Whether nothing but such lines was read.
    heading: bool,
    /// What was read since the last such line.
    line: String,
    /// Whether a hole was read that no `;` has ended yet.
    open: bool,
}

impl Default for Script {
    fn default() -> Self {
        Self { heading: true, line: String::new(), open: false }
    }
}

impl Script {
    /// Whether two states are the same place.
    pub fn meets(&self, other: &Self) -> bool {
        self.open == other.open && (!self.heading || !other.heading || self.line.trim() == other.line.trim())
    }

    /// Takes over what another branch that ends at the same place has seen.
    pub fn join(&mut self, other: &Self) {
        self.heading &= other.heading;
    }

    /// Goes over `byte` and says what is wrong with it.
    pub fn feed(&mut self, byte: u8) -> Option<&'static str> {
        if self.open {
            self.open = byte.is_ascii_whitespace() && byte != b'\n';
            return (!self.open && byte != b';').then_some("in a script a value ends with \";\"");
        }
        if byte == b';' {
            self.heading = false;
        }
        if self.heading {
            self.line.push(byte as char);
        }
        None
    }

    /// The place of a hole here.
    ///
    /// # Errors
    /// Why no value is safe here.
    pub fn hole(&mut self) -> Result<HtmlPlace, Refusal> {
        if !self.heading || self.open || !declares(&self.line) {
            let help = "only lines const NAME = +{VALUE}; before all other code can hold one";
            return Err(Refusal::new("this place of a script", help));
        }
        self.line.clear();
        self.open = true;
        Ok(HtmlPlace::Json)
    }
}

/// Whether `line` is `const NAME =` (`let`, `var`).
fn declares(line: &str) -> bool {
    let mut words = line.split_whitespace();
    let keyword = words.next().is_some_and(|word| matches!(word, "const" | "let" | "var"));
    let rest: String = words.collect::<Vec<_>>().join(" ");
    let Some(name) = rest.strip_suffix('=').map(str::trim_end) else { return false };
    let letter = |c: char| c.is_ascii_alphabetic() || c == '_' || c == '$';
    keyword && name.starts_with(letter) && name.chars().all(|c| letter(c) || c.is_ascii_digit())
}
