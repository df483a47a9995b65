//! A scanner over literal CSS (CSS Syntax Module Level 3) that knows where a value may be in it.

use crate::html::place::{EscapingRow, HtmlPlace, Refusal, Written};

/// What a `{` opened.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Block {
    /// Rules, each with a selector.
    Rules,
    /// Declarations, and rules nested in them.
    Declarations,
}

/// The part of a rule or declaration present.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum CssPiece {
    /// A selector, or what comes after an at-rule's name.
    Prelude,
    /// A property's name, or the selector of a nested rule.
    Name,
    /// A declaration's value.
    Value,
}

/// At-rules that hold rules; inside a rule they hold declarations.
const CONDITIONS: &[&str] =
    &["@media", "@supports", "@layer", "@container", "@scope", "@starting-style", "@keyframes", "@-webkit-keyframes"];
/// Functions whose quoted argument is an address.
const ADDRESSED: &[&str] = &["url", "src", "image", "image-set", "-webkit-image-set"];

/// What a scan passed, by bytes of its text.
#[derive(Debug, Default)]
pub(crate) struct Scanned {
    /// Where the quoted address that is open at the end begins.
    pub opens: Option<usize>,
    /// Where the quoted address that was open at the start ends.
    pub closes: Option<usize>,
    /// What is wrong.
    pub problems: Vec<(usize, &'static str)>,
}

/// Where the scanner is in a style sheet or a `style` attribute.
#[derive(Clone, Debug)]
pub(crate) struct Css {
    attribute: bool,
    blocks: Vec<Block>,
    part: CssPiece,
    /// The present word, lower case: a function's name when `(` follows, an at-rule's when it begins with `@`.
    word: String,
    at_rule: String,
    calls: Vec<String>,
    quote: Option<u8>,
    escaped: bool,
    comment: bool,
    before: u8,
    /// In `url(` without quotes.
    bare: bool,
    /// Whether the next thing in `url(` decides whether it is quoted.
    opens_url: bool,
    /// Whether the present value holds a hole.
    held: bool,
    /// Whether a hole was the last thing.
    behind_hole: bool,
    entity: bool,
}

impl Css {
    /// A scanner of a `<style>` element's content, or of a `style` attribute's value.
    pub fn new(attribute: bool) -> Self {
        Self {
            attribute,
            blocks: Vec::new(),
            part: if attribute { CssPiece::Name } else { CssPiece::Prelude },
            word: String::new(),
            at_rule: String::new(),
            calls: Vec::new(),
            quote: None,
            escaped: false,
            comment: false,
            before: b' ',
            bare: false,
            opens_url: false,
            held: false,
            behind_hole: false,
            entity: false,
        }
    }

    /// Whether two states are the same place.
    pub fn meets(&self, other: &Self) -> bool {
        let within = |css: &Self| (css.quote, css.comment, css.bare, css.escaped, css.entity);
        (self.part, &self.blocks, &self.calls, within(self)) == (other.part, &other.blocks, &other.calls, within(other))
    }

    /// Takes over what another branch that ends at the same place has seen.
    pub fn join(&mut self, other: &Self) {
        self.held |= other.held;
        self.behind_hole |= other.behind_hole;
    }

    /// Whether an address in quotes is open.
    pub(crate) fn in_address(&self) -> bool {
        self.quote.is_some() && self.calls.last().is_some_and(|call| ADDRESSED.contains(&call.as_str()))
    }

    /// Goes over `text`; in an attribute, entities are read as what they mean.
    pub fn scan(&mut self, text: &str) -> Scanned {
        let mut scanned = Scanned::default();
        let bytes = text.as_bytes();
        let mut at = 0;
        while at < bytes.len() {
            let entity = if self.attribute && bytes[at] == b'&' { entity(&text[at..]) } else { None };
            self.entity = self.attribute && bytes[at] == b'&' && entity.is_none()
                || (self.entity && (bytes[at].is_ascii_alphanumeric() || bytes[at] == b'#'));
            let (decoded, length) = entity.unwrap_or((bytes[at], 1));
            let was = self.in_address();
            if let Some(problem) = self.feed(decoded) {
                scanned.problems.push((at, problem));
            }
            if was && !self.in_address() {
                scanned.closes.get_or_insert(at);
            }
            at += length;
            if self.in_address() && !was {
                scanned.opens = Some(at);
            }
        }
        scanned.opens = scanned.opens.filter(|_| self.in_address());
        scanned
    }

    fn feed(&mut self, byte: u8) -> Option<&'static str> {
        let behind_hole = std::mem::take(&mut self.behind_hole);
        let before = std::mem::replace(&mut self.before, byte);
        if self.comment {
            self.comment = !(before == b'*' && byte == b'/');
            return None;
        }
        if std::mem::take(&mut self.escaped) {
            return None;
        }
        if byte == b'\\' {
            self.escaped = true;
            self.word.clear();
            return None;
        }
        if let Some(quote) = self.quote {
            if byte == quote || byte == b'\n' {
                self.quote = None;
            }
            return None;
        }
        if self.bare {
            if byte == b')' {
                self.bare = false;
                self.calls.pop();
            }
            return None;
        }
        if self.opens_url && !byte.is_ascii_whitespace() {
            self.opens_url = false;
            if !matches!(byte, b'"' | b'\'' | b')') {
                self.bare = true;
                return None;
            }
        }
        self.token(byte, before, behind_hole)
    }

    fn token(&mut self, byte: u8, before: u8, behind_hole: bool) -> Option<&'static str> {
        match byte {
            b'*' if before == b'/' => {
                self.comment = true;
                self.before = b' ';
            }
            b'"' | b'\'' => self.quote = Some(byte),
            b'(' => {
                let name = std::mem::take(&mut self.word);
                self.opens_url = name == "url";
                self.calls.push(name);
                if behind_hole {
                    return Some("a function's name can't be a value");
                }
            }
            b'[' => self.calls.push(String::new()),
            b')' | b']' => drop(self.calls.pop()),
            _ if !self.calls.is_empty() => {}
            b'{' => return self.opened(),
            b'}' => self.closed(),
            b';' => self.ended(),
            b':' if self.part == CssPiece::Name => self.part = CssPiece::Value,
            _ => {}
        }
        self.word(byte);
        None
    }

    fn word(&mut self, byte: u8) {
        if byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'_' | b'@') {
            self.word.push(byte.to_ascii_lowercase() as char);
            if self.word.starts_with('@') && self.part != CssPiece::Value {
                self.part = CssPiece::Prelude;
                self.at_rule.clone_from(&self.word);
            }
        } else {
            self.word.clear();
        }
    }

    fn opened(&mut self) -> Option<&'static str> {
        let nested = self.attribute || self.blocks.last() == Some(&Block::Declarations);
        let rules = CONDITIONS.contains(&self.at_rule.as_str()) && !nested;
        self.blocks.push(if rules { Block::Rules } else { Block::Declarations });
        self.part = if rules { CssPiece::Prelude } else { CssPiece::Name };
        self.at_rule.clear();
        std::mem::take(&mut self.held).then_some("a selector can't hold a value")
    }

    fn closed(&mut self) {
        self.blocks.pop();
        self.ended();
    }

    fn ended(&mut self) {
        let declares = self.attribute || self.blocks.last() == Some(&Block::Declarations);
        self.part = if declares { CssPiece::Name } else { CssPiece::Prelude };
        self.at_rule.clear();
        self.held = false;
    }

    /// The place of a hole here.
    ///
    /// # Errors
    /// Why no value is safe here.
    pub fn hole(&mut self) -> Result<HtmlPlace, Refusal> {
        if self.comment {
            return Err(Refusal::new("a CSS comment", "take it out; +{# … #} is a comment of the template"));
        }
        if self.bare || self.opens_url {
            return Err(Refusal::new("url( without quotes", "put quotes around the address, as in url(\"+{VALUE}\")"));
        }
        if self.escaped || self.entity {
            return Err(Refusal::new("the middle of an escape", "write the escape out, or take it out"));
        }
        if self.part != CssPiece::Value {
            let inside = if self.at_rule.is_empty() { "a CSS selector or property" } else { "a CSS at-rule" };
            return Err(Refusal::new(inside, "let it be a declaration's value, as in --accent: +{VALUE};"));
        }
        self.held = true;
        self.behind_hole = true;
        self.before = b' ';
        match self.quote {
            Some(_) if self.in_address() => Ok(HtmlPlace::Address(EscapingRow::Anywhere, Written::Style)),
            Some(_) => Ok(HtmlPlace::StyleText),
            None => Ok(HtmlPlace::Style),
        }
    }
}

/// What the entity that `text` begins with means, if that is one ASCII byte, and its length.
fn entity(text: &str) -> Option<(u8, usize)> {
    let end = text.as_bytes().iter().take(12).position(|&byte| byte == b';')? + 1;
    let decoded = htmlize::unescape_attribute(&text[..end]);
    match decoded.as_bytes() {
        [byte] => Some((*byte, end)),
        _ => Some((b'x', end)).filter(|_| !decoded.starts_with('&')),
    }
}
