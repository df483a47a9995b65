//! A scanner over literal HTML that always knows where it is (WHATWG HTML, 13.2.5 Tokenization). What has a
//! grammar of its own inside (CSS, JSON, the head of a script, `srcset`) goes to a scanner of that.

use crate::html::css::Css;
use crate::html::json::Json;
use crate::html::script::Script;
use crate::html::srcset::Candidates;
use crate::text::ending::Ending;

/// Where the scanner is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Mode {
    /// Between tags.
    #[default]
    Text,
    /// Directly after `<` or `</`.
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
    /// In `<!DOCTYPE …>`, `<!…>` or, in HTML, `<?…>`.
    Markup,
    /// In `<?…?>` of XML.
    Instruction,
    /// In `<![CDATA[ … ]]>`.
    CharacterData,
    /// In a file that is JSON.
    Json,
    /// In a file of plain text.
    Plain,
}

/// What is inside an element or attribute that has a grammar of its own.
#[derive(Clone, Debug, Default)]
pub enum Inner {
    /// Nothing that a value could be in.
    #[default]
    Closed,
    /// CSS.
    Css(Css),
    /// JSON.
    Json(Json),
    /// The head of an executable script.
    Script(Script),
    /// `srcset`.
    Candidates(Candidates),
}

impl Inner {
    fn meets(&self, other: &Inner) -> bool {
        match (self, other) {
            (Inner::Closed, Inner::Closed) => true,
            (Inner::Css(a), Inner::Css(b)) => a.meets(b),
            (Inner::Json(a), Inner::Json(b)) => a.meets(b),
            (Inner::Script(a), Inner::Script(b)) => a.meets(b),
            (Inner::Candidates(a), Inner::Candidates(b)) => a.meets(*b),
            _ => false,
        }
    }

    fn join(&mut self, other: &Inner) {
        match (self, other) {
            (Inner::Css(a), Inner::Css(b)) => a.join(b),
            (Inner::Json(a), Inner::Json(b)) => a.join(b),
            (Inner::Script(a), Inner::Script(b)) => a.join(b),
            (Inner::Candidates(a), Inner::Candidates(b)) => a.join(*b),
            _ => {}
        }
    }

    /// What a script of this `type` may hold.
    fn of_script(kind: Option<&str>) -> Self {
        let kind = kind.unwrap_or("").trim().to_ascii_lowercase();
        let essence = kind.split(';').next().unwrap_or("").trim();
        match essence {
            "" | "module" => Inner::Script(Script::default()),
            _ if EXECUTED.contains(&essence) => Inner::Script(Script::default()),
            "application/json" => Inner::Json(Json::default()),
            _ if essence.ends_with("+json") => Inner::Json(Json::default()),
            _ => Inner::Closed,
        }
    }
}

/// Types of scripts that browsers run (WHATWG MIME Sniffing, 4.6: JavaScript MIME types).
const EXECUTED: &[&str] = &[
    "application/ecmascript",
    "application/javascript",
    "application/x-ecmascript",
    "application/x-javascript",
    "text/ecmascript",
    "text/javascript",
    "text/javascript1.0",
    "text/javascript1.1",
    "text/javascript1.2",
    "text/javascript1.3",
    "text/javascript1.4",
    "text/javascript1.5",
    "text/jscript",
    "text/livescript",
    "text/x-ecmascript",
    "text/x-javascript",
];

/// The scanner's whole state, carried from one literal text to the next.
#[derive(Clone, Debug, Default)]
pub struct ScanState {
    /// Where it is.
    pub mode: Mode,
    /// The element whose tag or content it is in, lower case.
    pub element: String,
    /// Whether the tag is an end tag.
    pub closing: bool,
    /// The attribute it is in, lower case.
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
    /// Whether a `title` or `textarea` holds what would be a tag where it is not such an element (in SVG).
    pub tagged: bool,
    /// Whether nothing is between the start tag of `pre` or `textarea` and here.
    pub fresh: bool,
    /// How many `pre` it is in, as far as this file says.
    pub pre: u16,
    /// What is inside an element or attribute that has a grammar of its own.
    pub inner: Inner,
    /// Whether a script's text so far has opened an HTML comment.
    script_comment: bool,
    /// How many SVG drawings and formulas of MathML it is in, as far as this file says.
    foreign: u16,
    /// What browsers read inside of an element that only its own end tag ends, where it is in SVG or MathML and is
    /// an element like any other.
    as_tags: Option<Box<ScanState>>,
    /// Whether no element is one that only its own end tag ends.
    flat: bool,
    /// The literal `type` of this tag, once it was passed.
    kind: Option<String>,
    /// The element of XML that it is in whose content browsers read as code: `script` or `style`.
    pub code: Option<&'static str>,
    ending: Ending,
}

/// What the scanner passed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each variant names its fields")]
pub enum Event {
    /// A quoted value begins: where its attribute's white space and name begin, and the value's first byte.
    ValueStart { lead: usize, value: usize },
    /// The quoted value ends; the place of its closing quote.
    ValueEnd { at: usize },
    /// The address inside a style or a list that was open at the text's start ends.
    AddressEnd { at: usize },
    /// An address inside a style or a list begins, and is open at the text's end.
    AddressStart { at: usize },
    /// What is inside has an error.
    Problem { at: usize, message: &'static str },
    /// A start tag's name was read: where its `<` is.
    Element { at: usize },
    /// An end tag's name was read: where its `<` is.
    EndTag { at: usize },
    /// The end tag of `body`: where its `<` is.
    BodyEnd { at: usize },
    /// An `http-equiv` was read: where its name begins.
    BrowserCommand { at: usize },
    /// A `<script` inside an HTML comment inside a script, which parsers read in two ways.
    DoubleEscape { at: usize },
}

const TITLES: &[&str] = &["title", "textarea"];
/// Elements after whose start tag parsers drop a line break.
const LEADING: &[&str] = &["pre", "textarea", "listing"];
const FOREIGN: &[&str] = &["svg", "math"];
const UNPARSED: &[&str] = &["script", "style", "iframe", "noembed", "noframes", "xmp", "plaintext"];

impl ScanState {
    /// Whether two states are the same place, so that branches may meet there.
    pub fn meets(&self, other: &ScanState) -> bool {
        let attribute = matches!(self.mode, Mode::Text | Mode::InTag) || self.attribute == other.attribute;
        let inside = !matches!(self.mode, Mode::Title | Mode::Unparsed)
            || (self.half_end, self.tagged) == (other.half_end, other.tagged);
        let element = self.mode == Mode::Text || self.element == other.element;
        let same = self.mode == other.mode && self.code == other.code;
        same && attribute && inside && element && self.inner.meets(&other.inner)
    }

    /// Takes over what another branch that ends at the same place has seen.
    pub fn join(&mut self, other: &ScanState) {
        self.fresh |= other.fresh;
        self.foreign = self.foreign.max(other.foreign);
        self.pre = self.pre.max(other.pre);
        self.commands_browser |= other.commands_browser;
        self.content_hole |= other.content_hole;
        join_literals(&mut self.relation, other.relation.as_deref());
        join_literals(&mut self.kind, other.kind.as_deref());
        self.inner.join(&other.inner);
    }

    /// Where a file or a body with this extension begins.
    pub fn beginning(ending: Ending) -> Self {
        let (mode, inner) = match ending {
            Ending::Html | Ending::Xml => (Mode::Text, Inner::Closed),
            Ending::Json => (Mode::Json, Inner::Json(Json::default())),
            Ending::Text => (Mode::Plain, Inner::Closed),
        };
        Self { mode, inner, ending, ..Self::default() }
    }

    /// Whether it is where a file or a body may end, and calls may be.
    pub fn is_text(&self) -> bool {
        match (&self.inner, self.mode) {
            (Inner::Json(json), Mode::Json) => !json.in_text(),
            _ => matches!(self.mode, Mode::Text | Mode::Plain) && self.code.is_none(),
        }
    }

    /// Whether browsers read a tag here, where the content of an element of a drawing is not its own: it looks like the content
    /// of a script or a style.
    pub(crate) fn is_tag_in_drawing(&self) -> bool {
        self.as_tags.as_ref().is_some_and(|tags| !tags.is_text())
    }

    /// Whether it is in an address of a `srcset`.
    pub(crate) fn in_candidate(&self) -> bool {
        matches!(self.inner, Inner::Candidates(Candidates::Address))
    }

    /// Ends the address of a `srcset` that it is in; false if it is in none.
    pub(crate) fn end_candidate(&mut self) -> bool {
        let inside = self.in_candidate();
        if inside {
            self.inner = Inner::Candidates(Candidates::Descriptor);
        }
        inside
    }

    /// Whether the file is XML.
    pub(crate) fn is_xml(&self) -> bool {
        self.ending == Ending::Xml
    }

    /// Inside a tag a statement counts as a space. True if a space must be printed for that.
    pub(crate) fn pause(&mut self) -> bool {
        let glued = matches!(self.mode, Mode::TagName | Mode::AttributeName);
        if glued || self.mode == Mode::AfterName {
            self.mode = Mode::InTag;
        }
        glued
    }

    /// Goes over `text` and reports what it passed.
    pub fn scan(&mut self, text: &str) -> Vec<Event> {
        let mut scan = Scan {
            state: self,
            text,
            bytes: text.as_bytes(),
            at: 0,
            lead: 0,
            tag: 0,
            value: usize::MAX,
            events: Vec::new(),
        };
        while scan.at < scan.bytes.len() {
            scan.step();
        }
        let events = scan.events;
        self.half_end = match self.mode {
            Mode::Title | Mode::Unparsed => ends_in_half_a_tag(text),
            Mode::Comment => text.ends_with('-') || text.ends_with("--!"),
            Mode::CharacterData => text.ends_with(']'),
            Mode::Instruction => text.ends_with('?'),
            _ => false,
        };
        events
    }

    /// The name of the present element without its prefix in XML, lower case.
    pub(crate) fn local_element(&self) -> String {
        self.local(&self.element)
    }

    /// The name of the present attribute without its prefix in XML, lower case.
    pub(crate) fn local_attribute(&self) -> String {
        self.local(&self.attribute)
    }

    fn local(&self, name: &str) -> String {
        if self.is_xml() { local_name(name).to_ascii_lowercase() } else { name.to_owned() }
    }
}

/// What branches know together of an attribute's literal value: the words of all, and one that is not a known word where
/// a branch has none.
fn join_literals(one: &mut Option<String>, other: Option<&str>) {
    if one.as_deref() != other {
        *one = Some(format!("{} {}", one.as_deref().unwrap_or("?"), other.unwrap_or("?")));
    }
}

/// A name without its prefix (Namespaces in XML 1.0).
fn local_name(name: &str) -> &str {
    name.rsplit(':').next().unwrap_or(name)
}

struct Scan<'s, 't> {
    state: &'s mut ScanState,
    text: &'t str,
    bytes: &'t [u8],
    at: usize,
    /// Where the present attribute begins, white space included.
    lead: usize,
    /// Where the present tag begins.
    tag: usize,
    /// Where the present value begins.
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
            Mode::Comment if self.state.is_xml() => self.until(&[b"-->"]),
            Mode::Comment => self.until(&[b"-->", b"--!>"]),
            Mode::Markup if self.state.is_xml() => self.declaration(),
            Mode::Markup => self.until(&[b">"]),
            Mode::Instruction => self.until(&[b"?>"]),
            Mode::CharacterData => self.character_data(),
            Mode::Json => self.inside(self.bytes.len()),
            Mode::Plain => self.at = self.bytes.len(),
        }
    }

    fn byte(&self) -> u8 {
        self.bytes[self.at]
    }

    fn rest(&self) -> &'t [u8] {
        &self.bytes[self.at..]
    }

    fn text(&mut self) {
        self.state.fresh = false;
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
        let xml = self.state.is_xml();
        let (mode, skip) = match rest[0] {
            b'/' if !self.state.closing => {
                self.state.closing = true;
                (Mode::Open, 1)
            }
            b'!' if !xml && rest.starts_with(b"!-->") => (Mode::Text, 4),
            b'!' if !xml && rest.starts_with(b"!--->") => (Mode::Text, 5),
            b'!' if rest.starts_with(b"!--") => (Mode::Comment, 3),
            b'!' if rest.starts_with(b"![CDATA[") => (Mode::CharacterData, 8),
            b'?' if xml => (Mode::Instruction, 1),
            b'!' | b'?' => (Mode::Markup, 1),
            byte if byte.is_ascii_alphabetic() || (xml && !byte.is_ascii_whitespace()) => {
                self.state.element.clear();
                self.state.relation = None;
                self.state.kind = None;
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
            match self.state.closing {
                false => self.events.push(Event::Element { at: self.tag }),
                true if self.state.element == "body" => self.events.push(Event::BodyEnd { at: self.tag }),
                true => {}
            }
            if self.state.closing {
                self.events.push(Event::EndTag { at: self.tag });
            }
            self.lead = self.at;
            self.state.mode = Mode::InTag;
        } else {
            // In XML, names differ by case.
            self.state.element.push(if self.state.is_xml() { byte } else { byte.to_ascii_lowercase() } as char);
            self.at += 1;
        }
    }

    fn in_tag(&mut self) {
        match self.byte() {
            b'>' => self.end_tag(),
            b'=' if self.state.mode == Mode::InTag => {
                // Browsers take it for a name, or, where a tag that printed nothing was in between, for the
                // sign after one.
                let message = "browsers read this \"=\" in two ways: no attribute's name is before it";
                self.events.push(Event::Problem { at: self.at, message });
                self.state.attribute.clear();
                self.state.attribute.push('=');
                self.state.mode = Mode::AttributeName;
                self.at += 1;
            }
            b'=' if self.state.mode == Mode::AfterName => {
                self.state.mode = Mode::BeforeValue;
                self.at += 1;
            }
            byte if byte.is_ascii_whitespace() || byte == b'/' => {
                if byte == b'/' {
                    // What comes after it is another attribute.
                    self.state.mode = Mode::InTag;
                }
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
                self.state.inner = match self.state.local_attribute().as_str() {
                    "style" => Inner::Css(Css::new(true)),
                    "srcset" | "imagesrcset" => Inner::Candidates(Candidates::default()),
                    _ => Inner::Closed,
                };
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
            self.keep_literal();
            self.lead = self.at;
            self.state.mode = Mode::InTag;
        } else {
            self.at += 1;
        }
    }

    fn quoted(&mut self, quote: u8) {
        match memchr::memchr(quote, self.rest()) {
            Some(offset) => {
                self.inside(self.at + offset);
                self.events.push(Event::ValueEnd { at: self.at });
                self.keep_literal();
                self.state.inner = Inner::Closed;
                self.at += 1;
                self.lead = self.at;
                self.state.mode = Mode::InTag;
            }
            None => self.inside(self.bytes.len()),
        }
    }

    /// Keeps the value of an attribute that decides what others, or the element's content, may hold.
    fn keep_literal(&mut self) {
        let kept = match self.state.local_attribute().as_str() {
            "rel" => &mut self.state.relation,
            "type" => &mut self.state.kind,
            _ => return,
        };
        // A value that began in an earlier text holds a hole: it is not a literal, and no known word.
        let literal = self.text.get(self.value..self.at).unwrap_or("?");
        kept.get_or_insert_with(|| htmlize::unescape_attribute(literal).into_owned());
    }

    /// Hands what is up to `end` to the scanner of what is inside.
    fn inside(&mut self, end: usize) {
        let (from, text) = (self.at, &self.text[self.at..end]);
        self.at = end;
        let mut report = |at: usize, problem: Option<&'static str>| {
            self.events.extend(problem.map(|message| Event::Problem { at: from + at, message }));
        };
        match &mut self.state.inner {
            Inner::Closed => {}
            Inner::Json(json) => text.bytes().enumerate().for_each(|(at, byte)| report(at, json.feed(byte))),
            Inner::Script(script) => text.bytes().enumerate().for_each(|(at, byte)| report(at, script.feed(byte))),
            Inner::Candidates(candidates) => {
                let opens = candidates.scan(text);
                self.events.extend(opens.map(|at| Event::AddressStart { at: from + at }));
            }
            Inner::Css(css) => {
                let scanned = css.scan(text);
                scanned.problems.iter().for_each(|&(at, problem)| report(at, Some(problem)));
                self.events.extend(scanned.closes.map(|at| Event::AddressEnd { at: from + at }));
                self.events.extend(scanned.opens.map(|at| Event::AddressStart { at: from + at }));
            }
        }
    }

    fn end_tag(&mut self) {
        if self.state.is_xml() {
            return self.end_xml_tag();
        }
        self.at += 1;
        let element = self.state.element.as_str();
        self.state.script_comment = false;
        self.state.tagged = false;
        self.state.mode = if self.state.closing || self.state.flat {
            Mode::Text
        } else if TITLES.contains(&element) {
            Mode::Title
        } else if UNPARSED.contains(&element) {
            Mode::Unparsed
        } else {
            Mode::Text
        };
        if FOREIGN.contains(&element) {
            let empty = self.at > 1 && self.bytes[self.at - 2] == b'/';
            let foreign = self.state.foreign;
            self.state.foreign = match self.state.closing {
                true => foreign.saturating_sub(1),
                false => foreign.saturating_add(u16::from(!empty)),
            };
        }
        let read_as_tags = match self.state.mode {
            Mode::Title => true,
            Mode::Unparsed => self.state.foreign > 0,
            _ => false,
        };
        self.state.as_tags = read_as_tags.then(|| Box::new(ScanState { flat: true, ..ScanState::default() }));
        self.state.fresh = !self.state.closing && LEADING.contains(&element);
        if matches!(element, "pre" | "listing") {
            let pre = self.state.pre;
            self.state.pre = if self.state.closing { pre.saturating_sub(1) } else { pre.saturating_add(1) };
        }
        self.state.inner = match (self.state.mode, element) {
            (Mode::Unparsed, "style") => Inner::Css(Css::new(false)),
            (Mode::Unparsed, "script") => Inner::of_script(self.state.kind.as_deref()),
            _ => Inner::Closed,
        };
    }

    fn end_xml_tag(&mut self) {
        let empty = self.at.checked_sub(1).is_some_and(|before| self.bytes[before] == b'/');
        self.at += 1;
        self.state.mode = Mode::Text;
        let code = match local_name(&self.state.element) {
            "script" => Some("script"),
            "style" => Some("style"),
            _ => None,
        };
        match self.state.closing {
            true if code == self.state.code => self.state.code = None,
            false if !empty && self.state.code.is_none() => self.state.code = code,
            _ => {}
        }
    }

    /// The content of an element that only its own end tag ends.
    fn content(&mut self) {
        self.state.fresh = false;
        let mut end = self.at;
        while end < self.bytes.len() && !self.ends_at(end) {
            self.pass(end);
            end += 1;
        }
        if let Some(as_tags) = &mut self.state.as_tags {
            as_tags.scan(&self.text[self.at..end]);
        }
        self.inside(end);
        if end < self.bytes.len() {
            if self.state.as_tags.take().is_some_and(|as_tags| as_tags.mode != Mode::Text) {
                let message = "in SVG and MathML browsers read tags before this end tag, and one of them is open here";
                self.events.push(Event::Problem { at: end, message });
            }
            self.tag = end;
            self.at = end + self.state.element.len() + 2;
            self.lead = self.at;
            self.state.closing = true;
            self.state.mode = Mode::InTag;
            self.state.inner = Inner::Closed;
        }
    }

    fn ends_at(&self, at: usize) -> bool {
        let rest = &self.bytes[at..];
        rest.starts_with(b"</")
            && starts_with_ignoring_case(&rest[2..], self.state.element.as_bytes())
            && rest
                .get(self.state.element.len() + 2)
                .is_none_or(|&byte| byte.is_ascii_whitespace() || byte == b'/' || byte == b'>')
    }

    /// Notes what parsers may read in two ways.
    fn pass(&mut self, at: usize) {
        let rest = &self.bytes[at..];
        if rest[0] == b'<' && rest.get(1).is_some_and(u8::is_ascii_alphabetic) {
            self.state.tagged = true;
        }
        if self.state.element == "script" {
            if rest.starts_with(b"<!--") {
                self.state.script_comment = true;
            } else if rest.starts_with(b"-->") {
                self.state.script_comment = false;
            } else if self.state.script_comment && starts_with_ignoring_case(rest, b"<script") {
                self.events.push(Event::DoubleEscape { at });
            }
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

/// Where the body of a whole page ends: at its last end tag that is one to browsers, or else at the page's end.
pub fn body_end(page: &str) -> usize {
    let mut ends = ScanState::default().scan(page).into_iter().filter_map(|event| match event {
        Event::BodyEnd { at } => Some(at),
        _ => None,
    });
    ends.next_back().unwrap_or(page.len())
}

impl Scan<'_, '_> {
    /// A declaration of XML: its strings and its internal subset may hold `>` (XML 1.0, 2.8).
    fn declaration(&mut self) {
        let mut quote = None;
        let mut depth = 0_usize;
        while self.at < self.bytes.len() {
            let (rest, byte) = (self.rest(), self.byte());
            self.at += 1;
            match (quote, byte) {
                (Some(open), _) if byte == open => quote = None,
                (Some(_), _) => {}
                (None, b'"' | b'\'') => quote = Some(byte),
                (None, b'[') => depth += 1,
                (None, b']') => depth = depth.saturating_sub(1),
                (None, b'<') if rest.starts_with(b"<!--") => self.at += end_of(&rest[1..], b"-->"),
                (None, b'<') if rest.starts_with(b"<?") => self.at += end_of(&rest[1..], b"?>"),
                (None, b'>') if depth == 0 => {
                    self.state.mode = Mode::Text;
                    return;
                }
                (None, _) => {}
            }
        }
    }

    /// Outside of SVG and MathML browsers end a CDATA section of HTML at the first `>`.
    fn character_data(&mut self) {
        let rest = self.rest();
        let end = memchr::memmem::find(rest, b"]]>");
        let sign = memchr::memchr(b'>', rest);
        if let Some(at) = sign.filter(|at| !self.state.is_xml() && end.is_none_or(|end| end + 2 != *at)) {
            let message =
                "browsers end this CDATA section here, or at \"]]>\" inside of SVG and MathML; write \"&gt;\"";
            self.events.push(Event::Problem { at: self.at + at, message });
        }
        match end {
            Some(end) => {
                self.at += end + 3;
                self.state.mode = Mode::Text;
            }
            None => self.at = self.bytes.len(),
        }
    }
}

/// How many bytes it is to after `end`, or to the end of all.
fn end_of(bytes: &[u8], end: &[u8]) -> usize {
    memchr::memmem::find(bytes, end).map_or(bytes.len(), |at| at + end.len())
}

fn starts_with_ignoring_case(bytes: &[u8], prefix: &[u8]) -> bool {
    bytes.get(..prefix.len()).is_some_and(|start| start.eq_ignore_ascii_case(prefix))
}

fn ends_in_half_a_tag(text: &str) -> bool {
    text.rfind('<').is_some_and(|at| {
        text[at + 1..].bytes().all(|byte| byte.is_ascii_alphabetic() || matches!(byte, b'/' | b'!' | b'-'))
    })
}
