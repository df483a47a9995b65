//! A scanner over literal HTML that always knows where it stands (WHATWG HTML, 13.2.5 Tokenization).

/// Where the scanner stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Mode {
    /// Between tags.
    #[default]
    Text,
    /// Directly behind `<` or `</`.
    Open,
    /// In a tag's name.
    TagName,
    /// Between attributes.
    InTag,
    /// In an attribute's name.
    AttributeName,
    /// Behind an attribute's name.
    AfterName,
    /// Behind `=`.
    BeforeValue,
    /// In a value without quotes.
    Unquoted,
    /// In a value with this quote around it.
    Quoted(u8),
    /// In `title` or `textarea`.
    Title,
    /// In an element whose content is not parsed: script, style and their like.
    Unparsed,
    /// In a comment.
    Comment,
    /// In `<!DOCTYPE …>`, `<!…>` or `<?…>`.
    Markup,
    /// In `<![CDATA[ … ]]>`.
    CharacterData,
}

/// The scanner's whole state, carried from one literal text to the next.
#[derive(Clone, Debug, Default)]
pub struct State {
    /// Where it stands.
    pub mode: Mode,
    /// The element whose tag or content it stands in, lower case.
    pub element: String,
    /// Whether the tag is an end tag.
    pub closing: bool,
    /// The attribute it stands in, lower case.
    pub attribute: String,
    /// The literal value of this tag's `rel`, once it was passed.
    pub relation: Option<String>,
    /// Whether this tag has an `http-equiv`.
    pub commands_browser: bool,
    /// Whether the `content` of this `meta` holds a value.
    pub content_hole: bool,
    /// Whether the literal text so far ends in what could become a tag or a comment inside `title`, a script and
    /// their like.
    pub half_end: bool,
    /// Whether a script's text so far has opened an HTML comment.
    script_comment: bool,
}

/// What the scanner passed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each variant tells its fields")]
pub enum Event {
    /// A quoted value begins: where its attribute's white space and name begin, and the value's first byte.
    ValueStart { lead: usize, value: usize },
    /// The quoted value ends; the place of its closing quote.
    ValueEnd { at: usize },
    /// A start tag's name was read: where its `<` is.
    Element { at: usize },
    /// An `http-equiv` was read: where its name begins.
    BrowserCommand { at: usize },
    /// A `<script` inside an HTML comment inside a script, which parsers read in two ways.
    DoubleEscape { at: usize },
}

const TITLES: &[&str] = &["title", "textarea"];
const UNPARSED: &[&str] = &["script", "style", "iframe", "noembed", "noframes", "xmp", "plaintext"];

impl State {
    /// Whether two states are the same place, so that branches may meet there.
    pub fn meets(&self, other: &State) -> bool {
        let attribute = matches!(self.mode, Mode::Text | Mode::InTag) || self.attribute == other.attribute;
        self.mode == other.mode && attribute && (self.mode == Mode::Text || self.element == other.element)
    }

    /// Inside a tag a statement counts as a space. True if a space must be printed for that.
    pub fn pause(&mut self) -> bool {
        let glued = matches!(self.mode, Mode::TagName | Mode::AttributeName);
        if glued || self.mode == Mode::AfterName {
            self.mode = Mode::InTag;
        }
        glued
    }

    /// Goes over `text` and reports what it passed.
    pub fn scan(&mut self, text: &str) -> Vec<Event> {
        let mut scan =
            Scan { state: self, bytes: text.as_bytes(), at: 0, lead: 0, tag: 0, value: usize::MAX, events: Vec::new() };
        while scan.at < scan.bytes.len() {
            scan.step();
        }
        let events = scan.events;
        self.half_end = matches!(self.mode, Mode::Title | Mode::Unparsed) && ends_in_half_a_tag(text);
        events
    }
}

struct Scan<'s, 't> {
    state: &'s mut State,
    bytes: &'t [u8],
    at: usize,
    /// Where the attribute at hand begins, white space included.
    lead: usize,
    /// Where the tag at hand begins.
    tag: usize,
    /// Where the value at hand begins.
    value: usize,
    events: Vec<Event>,
}

impl<'t> Scan<'_, 't> {
    fn step(&mut self) {
        match self.state.mode {
            Mode::Text => self.text(),
            Mode::Open => self.open(),
            Mode::TagName => self.tag_name(),
            Mode::InTag | Mode::AfterName => self.in_tag(),
            Mode::AttributeName => self.attribute_name(),
            Mode::BeforeValue => self.before_value(),
            Mode::Unquoted => self.unquoted(),
            Mode::Quoted(quote) => self.quoted(quote),
            Mode::Title | Mode::Unparsed => self.content(),
            Mode::Comment => self.until(&[b"-->", b"--!>"]),
            Mode::Markup => self.until(&[b">"]),
            Mode::CharacterData => self.until(&[b"]]>"]),
        }
    }

    fn byte(&self) -> u8 {
        self.bytes[self.at]
    }

    fn rest(&self) -> &'t [u8] {
        &self.bytes[self.at..]
    }

    fn text(&mut self) {
        match memchr::memchr(b'<', self.rest()) {
            Some(offset) => {
                self.at += offset;
                self.tag = self.at;
                self.at += 1;
                self.state.mode = Mode::Open;
                self.state.closing = false;
            }
            None => self.at = self.bytes.len(),
        }
    }

    fn open(&mut self) {
        let rest = self.rest();
        let (mode, skip) = match rest[0] {
            b'/' if !self.state.closing => {
                self.state.closing = true;
                (Mode::Open, 1)
            }
            b'!' if rest.starts_with(b"!-->") => (Mode::Text, 4),
            b'!' if rest.starts_with(b"!--->") => (Mode::Text, 5),
            b'!' if rest.starts_with(b"!--") => (Mode::Comment, 3),
            b'!' if rest.starts_with(b"![CDATA[") => (Mode::CharacterData, 8),
            b'!' | b'?' => (Mode::Markup, 1),
            byte if byte.is_ascii_alphabetic() => {
                self.state.element.clear();
                self.state.relation = None;
                self.state.commands_browser = false;
                self.state.content_hole = false;
                (Mode::TagName, 0)
            }
            _ if self.state.closing => (Mode::Markup, 0),
            _ => (Mode::Text, 0),
        };
        self.state.mode = mode;
        self.at += skip;
    }

    fn tag_name(&mut self) {
        let byte = self.byte();
        if byte.is_ascii_whitespace() || byte == b'/' || byte == b'>' {
            if !self.state.closing {
                self.events.push(Event::Element { at: self.tag });
            }
            self.lead = self.at;
            self.state.mode = Mode::InTag;
        } else {
            self.state.element.push(byte.to_ascii_lowercase() as char);
            self.at += 1;
        }
    }

    fn in_tag(&mut self) {
        match self.byte() {
            b'>' => self.end_tag(),
            b'=' if self.state.mode == Mode::AfterName => {
                self.state.mode = Mode::BeforeValue;
                self.at += 1;
            }
            byte if byte.is_ascii_whitespace() || byte == b'/' => {
                if self.state.mode == Mode::InTag && self.at > 0 && !self.bytes[self.at - 1].is_ascii_whitespace() {
                    self.lead = self.at;
                }
                self.at += 1;
            }
            _ => {
                if self.at == 0 || !self.bytes[self.at - 1].is_ascii_whitespace() {
                    self.lead = self.at;
                } else if self.state.mode == Mode::AfterName {
                    self.lead = self.at - 1;
                }
                self.state.attribute.clear();
                self.state.mode = Mode::AttributeName;
            }
        }
    }

    fn attribute_name(&mut self) {
        let byte = self.byte();
        let first = self.state.attribute.is_empty();
        match byte {
            b'=' if !first => {
                self.name_read();
                self.state.mode = Mode::BeforeValue;
                self.at += 1;
            }
            b'>' | b'/' => {
                self.name_read();
                self.state.mode = Mode::InTag;
            }
            _ if byte.is_ascii_whitespace() => {
                self.name_read();
                self.state.mode = Mode::AfterName;
            }
            _ => {
                self.state.attribute.push(byte.to_ascii_lowercase() as char);
                self.at += 1;
            }
        }
    }

    fn name_read(&mut self) {
        if self.state.attribute == "http-equiv" {
            self.state.commands_browser = true;
            self.events.push(Event::BrowserCommand { at: self.at.saturating_sub(10) });
        }
    }

    fn before_value(&mut self) {
        match self.byte() {
            quote @ (b'"' | b'\'') => {
                self.at += 1;
                self.value = self.at;
                self.state.mode = Mode::Quoted(quote);
                self.events.push(Event::ValueStart { lead: self.lead, value: self.at });
            }
            b'>' => self.end_tag(),
            byte if byte.is_ascii_whitespace() => self.at += 1,
            _ => {
                self.value = self.at;
                self.state.mode = Mode::Unquoted;
            }
        }
    }

    fn unquoted(&mut self) {
        let byte = self.byte();
        if byte.is_ascii_whitespace() || byte == b'>' {
            self.keep_relation();
            self.lead = self.at;
            self.state.mode = Mode::InTag;
        } else {
            self.at += 1;
        }
    }

    fn quoted(&mut self, quote: u8) {
        match memchr::memchr(quote, self.rest()) {
            Some(offset) => {
                self.at += offset;
                self.events.push(Event::ValueEnd { at: self.at });
                self.keep_relation();
                self.at += 1;
                self.lead = self.at;
                self.state.mode = Mode::InTag;
            }
            None => self.at = self.bytes.len(),
        }
    }

    fn keep_relation(&mut self) {
        if self.state.attribute == "rel" && self.state.relation.is_none() {
            // A value that began in an earlier text holds a hole: it is no literal, and no known word.
            let literal = self.bytes.get(self.value..self.at).unwrap_or(b"?");
            self.state.relation = Some(String::from_utf8_lossy(literal).into_owned());
        }
    }

    fn end_tag(&mut self) {
        self.at += 1;
        let element = self.state.element.as_str();
        self.state.script_comment = false;
        self.state.mode = match () {
            () if self.state.closing => Mode::Text,
            () if TITLES.contains(&element) => Mode::Title,
            () if UNPARSED.contains(&element) => Mode::Unparsed,
            () => Mode::Text,
        };
    }

    /// The content of an element that only its own end tag ends.
    fn content(&mut self) {
        let rest = self.rest();
        if self.state.element == "script" {
            if rest.starts_with(b"<!--") {
                self.state.script_comment = true;
            } else if rest.starts_with(b"-->") {
                self.state.script_comment = false;
            } else if self.state.script_comment && starts_with_ignoring_case(rest, b"<script") {
                self.events.push(Event::DoubleEscape { at: self.at });
            }
        }
        let name = self.state.element.len() + 2;
        let ends = rest.starts_with(b"</")
            && starts_with_ignoring_case(&rest[2..], self.state.element.as_bytes())
            && rest.get(name).is_none_or(|&byte| byte.is_ascii_whitespace() || byte == b'/' || byte == b'>');
        if ends {
            self.tag = self.at;
            self.at += name;
            self.lead = self.at;
            self.state.closing = true;
            self.state.mode = Mode::InTag;
        } else {
            self.at += 1;
        }
    }

    fn until(&mut self, ends: &[&[u8]]) {
        let rest = self.rest();
        match ends.iter().find(|end| rest.starts_with(end)) {
            Some(end) => {
                self.at += end.len();
                self.state.mode = Mode::Text;
            }
            None => self.at += 1,
        }
    }
}

fn starts_with_ignoring_case(bytes: &[u8], prefix: &[u8]) -> bool {
    bytes.get(..prefix.len()).is_some_and(|start| start.eq_ignore_ascii_case(prefix))
}

fn ends_in_half_a_tag(text: &str) -> bool {
    text.rfind('<').is_some_and(|at| {
        text[at + 1..].bytes().all(|byte| byte.is_ascii_alphabetic() || matches!(byte, b'/' | b'!' | b'-'))
    })
}
