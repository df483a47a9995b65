//! Walks the tree along the HTML it makes, gives each hole its place, and reports where none is safe.

use crate::html::place::{EscapingRow, HtmlPlace, Refusal, Written, absent, attribute_place, xml_attribute_place};
use crate::html::placed::{PlacedBlock, PlacedCall, PlacedEach, PlacedKind, PlacedNode};
use crate::html::scanner::{Event, Inner, Mode, ScanState};
use crate::html::srcset::Candidates;
use crate::syntax::tree::{Block, Call, Each, Name, Node, NodeKind};
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Problems};
use crate::text::ending::Ending;
use crate::text::source::Span;

/// The placed tree, and what was noticed on the way.
#[derive(Debug)]
pub struct Placement {
    /// The placed tree.
    pub block: PlacedBlock,
    /// Where the file begins a whole document of its own (`<!doctype` or `<html`), if it does.
    pub document: Option<Span>,
}

/// Places the nodes of a whole file with this extension.
pub fn place(block: Block, ending: Ending, problems: &mut Problems) -> Placement {
    let mut walk = Walk {
        state: ScanState::beginning(ending),
        ending,
        problems,
        address: None,
        one_hole: false,
        spaced: false,
        rehearsed: false,
        document: None,
    };
    let block = walk.separate(block, None);
    Placement { block, document: walk.document }
}

struct Walk<'f> {
    state: ScanState,
    ending: Ending,
    problems: &'f mut Problems,
    /// The address with holes that is open.
    address: Option<OpenAddress>,
    /// Whether the hole that follows is the whole value of an attribute, whose name and quote were printed last.
    one_hole: bool,
    /// Whether what was printed last inside a tag ends in white space.
    spaced: bool,
    /// Whether this is the second walk through a loop's body.
    rehearsed: bool,
    document: Option<Span>,
}

/// An address with holes that is open.
#[derive(Clone)]
struct OpenAddress {
    row: EscapingRow,
    written: Written,
    /// What literal text may be at its beginning, a text for each way through the branches; none once a value
    /// is there.
    beginnings: Vec<String>,
}

/// More ways through the branches of an address than these are judged while it is printed.
const WAYS: usize = 64;

impl OpenAddress {
    fn new(row: EscapingRow, written: Written) -> Self {
        Self { row, written, beginnings: vec![String::new()] }
    }

    fn literal(&mut self, text: &str) {
        self.beginnings.iter_mut().for_each(|beginning| beginning.push_str(text));
    }

    /// A value follows: the scheme after which none is safe, if there is one.
    fn value(&mut self) -> Option<String> {
        let beginnings = std::mem::take(&mut self.beginnings);
        beginnings.iter().find_map(|beginning| crate::html::url::unsafe_beginning(beginning, self.row))
    }

    fn join(&mut self, other: Self) {
        self.beginnings.extend(other.beginnings);
        self.beginnings.sort_unstable();
        self.beginnings.dedup();
        self.beginnings.truncate(WAYS);
    }
}

impl Walk<'_> {
    /// A file or a body: it begins and ends in text.
    fn separate(&mut self, block: Block, owner: Option<Span>) -> PlacedBlock {
        let outer = std::mem::replace(&mut self.state, ScanState::beginning(self.ending));
        if owner.is_some() {
            self.state.pre = outer.pre;
        }
        let (address, spaced) = (std::mem::take(&mut self.address), std::mem::take(&mut self.spaced));
        let last = block.nodes.last().map(|node| node.span);
        let placed = self.block(block);
        if !self.state.is_text() {
            let what = if owner.is_some() { "this body" } else { "the file" };
            let message = format!("{what} ends inside {}", describe(&self.state));
            let span = owner.or(last).unwrap_or_default();
            let span =
                if owner.is_some() { span } else { Span::new(span.range().end.saturating_sub(1), span.range().end) };
            self.problems.push(span, Diagnostic::of(&codes::OPEN_HTML, message).help("close it before the end"));
        }
        (self.state, self.address, self.spaced) = (outer, address, spaced);
        placed
    }

    fn block(&mut self, block: Block) -> PlacedBlock {
        let mut nodes: Vec<Option<Node>> = block.nodes.into_iter().map(Some).collect();
        let mut placed = Vec::new();
        let mut indent = 0;
        for at in 0..nodes.len() {
            let Some(node) = nodes[at].take() else { continue };
            match node.kind {
                NodeKind::Text(text) => self.text(node.span, &text, &nodes[at + 1..], &mut placed),
                NodeKind::Edge(text) if self.state.pre == 0 => {
                    push(&mut placed, node.span, PlacedKind::Edge(text));
                }
                NodeKind::LineStart(white) if self.is_in_lines() => {
                    indent = white.len();
                    push(&mut placed, node.span, PlacedKind::Text(white));
                    push(&mut placed, node.span, PlacedKind::LineStart);
                }
                NodeKind::LineEnd(white) if self.is_in_lines() => {
                    push(&mut placed, node.span, PlacedKind::LineEnd(indent, white));
                }
                NodeKind::LineStart(text) | NodeKind::LineEnd(text) | NodeKind::Edge(text) => {
                    self.text(node.span, &text, &nodes[at + 1..], &mut placed);
                }
                kind => self.tag(node.span, kind, &mut placed),
            }
        }
        PlacedBlock { nodes: placed }
    }

    /// Whether white space between tags means nothing here.
    fn is_in_lines(&self) -> bool {
        self.state.is_text() && self.state.pre == 0
    }

    fn text(&mut self, span: Span, text: &str, rest: &[Option<Node>], placed: &mut Vec<PlacedNode>) {
        let before = self.state.mode;
        let relation_ahead = relation_ahead(text, rest);
        let events = self.state.scan(text);
        self.report(span, text, &events);
        let mut from = self.finish_value(span, text, before, &events, placed);
        let spaced = std::mem::replace(&mut self.spaced, text.ends_with(|c: char| c.is_ascii_whitespace()));
        if !spaced && before == Mode::InTag && !text.starts_with([' ', '\n', '\t', '\r', '>', '/']) {
            push(placed, span, PlacedKind::Text(" ".to_owned()));
        }
        let mut push_text = |from: usize, to: usize| {
            if from < to {
                push(placed, span, PlacedKind::Text(text[from..to].to_owned()));
            }
        };
        let last = events.iter().rev().find_map(|event| match *event {
            Event::ValueStart { lead, value } => Some((lead, value)),
            _ => None,
        });
        if let Some(Event::AddressStart { at }) = events.last().filter(|_| self.address.is_none()) {
            push_text(from, *at);
            let (row, written) = match self.state.inner {
                Inner::Candidates(_) => (EscapingRow::Image, Written::Candidate),
                _ => (EscapingRow::Anywhere, Written::Style),
            };
            push(placed, span, PlacedKind::AddressStart(row, written));
            self.address = Some(OpenAddress::new(row, written));
            return self.address_text(span, &text[*at..], placed);
        }
        let open = last.filter(|_| matches!(self.state.mode, Mode::Quoted(_)));
        let Some((lead, value)) = open else { return push_text(from, text.len()) };
        if self.state.relation.is_none() {
            self.state.relation = relation_ahead;
        }
        let place = self.attribute_place();
        if value == text.len() && !self.state.is_xml() && self.is_one_hole(rest) {
            push_text(from, lead.max(from));
            from = lead.max(from);
            push(placed, span, PlacedKind::Text(text[from..].to_owned()));
            self.one_hole = true;
            return;
        }
        let Ok(HtmlPlace::Address(row, Written::Attribute)) = place else { return push_text(from, text.len()) };
        push_text(from, value);
        push(placed, span, PlacedKind::AddressStart(row, Written::Attribute));
        self.address = Some(OpenAddress::new(row, Written::Attribute));
        self.address_text(span, &text[value..], placed);
    }

    fn attribute_place(&self) -> Result<HtmlPlace, &'static str> {
        let relation = self.state.relation.as_deref();
        if self.state.is_xml() {
            return xml_attribute_place(&self.state.local_element(), &self.state.local_attribute(), relation);
        }
        attribute_place(&self.state.element, &self.state.attribute, relation)
    }

    /// Ends the quoted value that was open before this text. Tells where printing goes on.
    fn finish_value(
        &mut self,
        span: Span,
        text: &str,
        before: Mode,
        events: &[Event],
        placed: &mut Vec<PlacedNode>,
    ) -> usize {
        let Some(written) = self.address.as_ref().map(|address| address.written) else { return 0 };
        let value_end = events.iter().find_map(|event| match event {
            Event::ValueEnd { at } if matches!(before, Mode::Quoted(_)) => Some(*at),
            _ => None,
        });
        let address_end = events.iter().find_map(|event| match event {
            Event::AddressEnd { at } => Some(*at),
            _ => None,
        });
        let value = &text[..value_end.unwrap_or(text.len())];
        let end = match written {
            Written::Attribute => value_end,
            Written::Style => address_end.or(value_end),
            Written::Candidate if value_end.is_some() || value.contains(|c: char| c.is_ascii_whitespace()) => {
                Some(Candidates::rest_of_address(value))
            }
            Written::Candidate => None,
        };
        let literal = &text[..end.unwrap_or(text.len())];
        if !literal.is_empty() {
            let text = decoded(literal, matches!(before, Mode::Quoted(_)));
            self.push_address_text(span, text, placed);
        }
        if end.is_some() {
            self.address = None;
            push(placed, span, PlacedKind::AddressEnd);
        }
        end.unwrap_or(text.len())
    }

    fn address_text(&mut self, span: Span, literal: &str, placed: &mut Vec<PlacedNode>) {
        if !literal.is_empty() {
            let text = decoded(literal, matches!(self.state.mode, Mode::Quoted(_)));
            self.push_address_text(span, text, placed);
        }
    }

    fn push_address_text(&mut self, span: Span, text: String, placed: &mut Vec<PlacedNode>) {
        if let Some(address) = &mut self.address {
            address.literal(&text);
        }
        push(placed, span, PlacedKind::AddressText(text));
    }

    /// A value of the address that is open: the literal text in front of it is judged as it will be printed.
    fn address_value(&mut self, span: Span) {
        if let Some(scheme) = self.address.as_mut().and_then(OpenAddress::value) {
            let diagnostic = Diagnostic::of(&codes::UNSAFE_PLACE, format!("no value is safe after \"{scheme}:\""))
                .help("link to a page, or put the code into a file of its own");
            self.problems.push(span, diagnostic);
        }
    }

    fn report(&mut self, span: Span, text: &str, events: &[Event]) {
        for event in events {
            match *event {
                Event::DoubleEscape { at } => {
                    let diagnostic = Diagnostic::of(
                        &codes::SCRIPT_IN_COMMENT,
                        "browsers read this \"<script\" inside a comment inside a script in two ways",
                    )
                    .help("take the comment out of the script");
                    self.problems.push(Span::new(span.range().start + at, span.range().start + at + 7), diagnostic);
                }
                Event::BrowserCommand { at } if self.state.content_hole => {
                    let message = "this http-equiv decides what the browser does with a content that holds a value";
                    let span = Span::new(span.range().start + at, span.range().start + at + 10);
                    self.problems
                        .push(span, Diagnostic::of(&codes::UNSAFE_PLACE, message).help("write the content out"));
                }
                Event::Problem { at, message } => {
                    let at = span.range().start + at;
                    let diagnostic = Diagnostic::of(&codes::UNSAFE_PLACE, message);
                    self.problems.push(Span::new(at, at + 1), diagnostic);
                }
                Event::Element { at } if self.document.is_none() && self.ending == Ending::Html => {
                    let tag = text[at..].get(..5).unwrap_or("").to_ascii_lowercase();
                    let named_html =
                        tag == "<html" && !text[at + 5..].starts_with(|c: char| c.is_alphanumeric() || c == '-');
                    if named_html {
                        self.document = Some(Span::new(span.range().start + at, span.range().start + at + 5));
                    }
                }
                _ => {}
            }
        }
    }

    /// Whether what follows is one hole and the closing quote.
    fn is_one_hole(&self, rest: &[Option<Node>]) -> bool {
        let Mode::Quoted(quote) = self.state.mode else { return false };
        let hole = matches!(rest.first(), Some(Some(Node { kind: NodeKind::Print(_), .. })));
        let closed = match rest.get(1) {
            Some(Some(Node { kind: NodeKind::Text(text), .. })) => text.as_bytes().first() == Some(&quote),
            _ => false,
        };
        hole && closed
    }

    fn tag(&mut self, span: Span, kind: NodeKind, placed: &mut Vec<PlacedNode>) {
        let hole = matches!(kind, NodeKind::Print(_));
        let cuts = self.state.half_end || matches!(self.state.mode, Mode::Open | Mode::Markup);
        if cuts && !hole {
            let message = format!("no tag can be in {}, where it cuts the HTML in two", describe(&self.state));
            let diagnostic = Diagnostic::of(&codes::UNSAFE_PLACE, message)
                .help("write the HTML tag out, and put this one before or after it");
            self.problems.push(span, diagnostic);
        }
        if !hole && self.state.pause() {
            push(placed, span, PlacedKind::Text(" ".to_owned()));
            self.spaced = true;
        }
        let kind = match kind {
            NodeKind::Text(text) | NodeKind::Edge(text) | NodeKind::LineStart(text) | NodeKind::LineEnd(text) => {
                PlacedKind::Text(text)
            }
            NodeKind::Print(value) => return self.print(span, value, placed),
            NodeKind::Raw(value) => {
                self.text_only(span, "raw");
                PlacedKind::Raw(value)
            }
            NodeKind::Let(name, value) => PlacedKind::Let(name, value),
            NodeKind::Capture(name, body) => PlacedKind::Capture(name, self.separate(body, Some(span))),
            NodeKind::If(arms, other) => self.branches(span, arms, other),
            NodeKind::Each(each) => self.each(span, *each),
            NodeKind::Partial(call) => {
                self.text_only(span, "partial");
                PlacedKind::Partial(self.call(span, call))
            }
            NodeKind::Component(call) => {
                self.text_only(span, "component");
                PlacedKind::Component(self.call(span, call))
            }
            NodeKind::Tray(name) => {
                self.text_only(span, "tray");
                PlacedKind::Tray(name)
            }
            NodeKind::Inherited(call) => {
                self.text_only(span, "inherited");
                PlacedKind::Inherited(self.call(span, call))
            }
            NodeKind::Slot(name, default) => self.slot(span, name, default),
            NodeKind::Into(name, mode, body) => PlacedKind::Into(name, mode, self.separate(body, Some(span))),
            NodeKind::Answer(status, title) => PlacedKind::Answer(status, title),
            NodeKind::Redirect(status, target) => PlacedKind::Redirect(status, target),
            NodeKind::Use(path) => PlacedKind::Use(path),
            NodeKind::Used(kind) => {
                self.html_only(span, "used");
                PlacedKind::Used(kind)
            }
            NodeKind::Dump(value) => {
                self.html_only(span, "dump");
                PlacedKind::Dump(value)
            }
        };
        push(placed, span, kind);
    }

    fn call(&mut self, span: Span, call: Call) -> PlacedCall {
        let in_pre = self.state.pre > 0;
        let body = call.body.map(|body| self.separate(body, Some(span)));
        PlacedCall { name: call.name, given: call.given, body, in_pre }
    }

    fn print(&mut self, span: Span, value: crate::syntax::tree::Expr, placed: &mut Vec<PlacedNode>) {
        let place = self.hole_place(span);
        let whole = std::mem::take(&mut self.one_hole).then(|| last_length(placed));
        let kind = match whole {
            Some(cut) => {
                if matches!(self.state.attribute.as_str(), "id" | "name") && self.state.element != "meta" {
                    let message = format!(
                        "this {} is made of a value alone, which can name anything on the page",
                        self.state.attribute
                    );
                    self.problems.push(
                        span,
                        Diagnostic::of(&codes::BARE_ID, message).help("put a literal prefix in front of the value"),
                    );
                }
                PlacedKind::Attribute(cut, value, place, absent(&self.state.attribute))
            }
            None => {
                if let (HtmlPlace::Address(row, written), None) = (place, &self.address) {
                    self.address = Some(OpenAddress::new(row, written));
                    push(placed, span, PlacedKind::AddressStart(row, written));
                }
                self.address_value(span);
                PlacedKind::Print(value, place)
            }
        };
        push(placed, span, kind);
    }

    /// The place of the present hole; where none is safe, that is reported.
    fn hole_place(&mut self, span: Span) -> HtmlPlace {
        let mut refusal = None;
        let problem = match self.state.mode {
            Mode::Text if self.state.code.is_some() => format!("no value is safe in {}", describe(&self.state)),
            Mode::Text if self.state.is_xml() => return HtmlPlace::Xml,
            Mode::Text if self.state.fresh => return HtmlPlace::LeadingText,
            Mode::Text => return HtmlPlace::Text,
            Mode::Plain => return HtmlPlace::Plain,
            Mode::Title | Mode::Unparsed if self.state.half_end => {
                "no value is safe directly after \"<\" here".to_owned()
            }
            Mode::Title if self.state.tagged => {
                format!("no value is safe in <{}> after a tag", self.state.element)
            }
            Mode::Title if self.state.fresh => return HtmlPlace::LeadingTitle,
            Mode::Title => return HtmlPlace::Title,
            Mode::Quoted(_) => match self.attribute_hole(&mut refusal) {
                Ok(place) => return place,
                Err(problem) => problem,
            },
            Mode::Unparsed if self.state.is_tag_in_drawing() => {
                format!("no value is safe in <{}> of a drawing, where browsers read tags", self.state.element)
            }
            Mode::Unparsed | Mode::Json => match self.inner_hole() {
                Some(Ok(place)) => return place,
                Some(Err(inner)) => {
                    refusal = Some(inner);
                    format!("no value is safe in {}", inner.place)
                }
                None => format!("no value is safe in {}", describe(&self.state)),
            },
            _ => format!("no value is safe in {}", describe(&self.state)),
        };
        let help = match self.state.mode {
            _ if refusal.is_some() => refusal.map_or("", |refusal| refusal.help),
            Mode::Text => "browsers run it, or read it as a style: put the value into an attribute",
            Mode::BeforeValue | Mode::Unquoted => "put quotes around the attribute's value",
            Mode::Unparsed => "hand the value over in a data- attribute and read it from there",
            Mode::Quoted(_) if self.state.local_attribute().starts_with("on") => {
                "hand the value over in a data- attribute and read it from there"
            }
            Mode::Comment => "a comment for the template's readers is written +{# … #}",
            Mode::Open | Mode::TagName => "write each tag out and choose between them with \"if\"",
            Mode::InTag | Mode::AttributeName | Mode::AfterName => {
                "write the attribute's name out, with the value in quotes after it"
            }
            _ => "put the value into text or into a quoted attribute",
        };
        self.problems.push(span, Diagnostic::of(&codes::UNSAFE_PLACE, problem).help(help));
        HtmlPlace::Text
    }

    fn inner_hole(&mut self) -> Option<Result<HtmlPlace, Refusal>> {
        match &mut self.state.inner {
            Inner::Closed => None,
            Inner::Css(css) => Some(css.hole()),
            Inner::Json(json) => Some(json.hole()),
            Inner::Script(script) => Some(script.hole()),
            Inner::Candidates(candidates) => Some(Ok(candidates.hole())),
        }
    }

    fn attribute_hole(&mut self, refusal: &mut Option<Refusal>) -> Result<HtmlPlace, String> {
        let state = &mut self.state;
        if state.local_element() == "meta" && state.attribute == "content" {
            if state.commands_browser {
                return Err("no value is safe in the content of a meta with http-equiv".to_owned());
            }
            state.content_hole = true;
            return Ok(if state.is_xml() { HtmlPlace::Xml } else { HtmlPlace::Attribute });
        }
        let place = self
            .attribute_place()
            .map_err(|reason| format!("no value is safe in the attribute \"{}\": {reason}", self.state.attribute))?;
        match self.inner_hole() {
            Some(place) => place.map_err(|inner| {
                *refusal = Some(inner);
                format!("no value is safe in {}", inner.place)
            }),
            None => Ok(place),
        }
    }

    fn text_only(&mut self, span: Span, word: &str) {
        if !self.state.is_text() {
            let message = format!("\"{word}\" can't be in {}", describe(&self.state));
            self.problems
                .push(span, Diagnostic::of(&codes::TEXT_ONLY, message).help("it belongs in text only, between tags"));
        } else if let Inner::Json(json) = &mut self.state.inner
            && let Err(refusal) = json.hole()
        {
            let message = format!("\"{word}\" can't be in {}", refusal.place);
            self.problems.push(span, Diagnostic::of(&codes::TEXT_ONLY, message).help(refusal.help));
        }
    }

    fn html_only(&mut self, span: Span, word: &str) {
        if self.ending == Ending::Html {
            return self.text_only(span, word);
        }
        let message = format!("\"{word}\" writes HTML, and this file is .{}", self.ending.word());
        self.problems.push(span, Diagnostic::of(&codes::HTML_ONLY, message).help("leave it out here"));
    }

    fn slot(&mut self, span: Span, name: Option<Name>, default: Option<Block>) -> PlacedKind {
        if name.is_none() {
            self.text_only(span, "slot");
        }
        let place = match self.state.is_text() {
            true => HtmlPlace::Text,
            false => self.hole_place(span),
        };
        let takes_slots = matches!(
            place,
            HtmlPlace::Text | HtmlPlace::Title | HtmlPlace::LeadingTitle | HtmlPlace::Attribute | HtmlPlace::Xml
        );
        if !takes_slots {
            let message = format!("a slot can't be in {}", describe(&self.state));
            let diagnostic =
                Diagnostic::of(&codes::UNSAFE_PLACE, message).help("give the value as a parameter instead");
            self.problems.push(span, diagnostic);
        }
        let default = default.map(|block| {
            let start = self.state.clone();
            let block = self.block(block);
            self.cut_short(span, "the slot's default ends");
            self.meet(span, &start, "the slot's default ends");
            self.state = start;
            block
        });
        PlacedKind::Slot(name, place, default)
    }

    fn branches(
        &mut self,
        span: Span,
        arms: Vec<(crate::syntax::tree::Expr, Block)>,
        other: Option<Block>,
    ) -> PlacedKind {
        let start = self.state.clone();
        let (address, spaced) = (self.address.take(), self.spaced);
        let mut end: Option<(ScanState, Option<OpenAddress>)> = None;
        let mut arm = |walk: &mut Self, block: Block| {
            walk.state = start.clone();
            walk.address.clone_from(&address);
            walk.spaced = spaced;
            let block = walk.block(block);
            walk.state.pause();
            walk.cut_short(span, "one branch ends");
            match &mut end {
                Some((first, joined)) => {
                    walk.meet(span, first, "one branch ends");
                    first.join(&walk.state);
                    if let (Some(joined), Some(address)) = (joined, walk.address.take()) {
                        joined.join(address);
                    }
                }
                None => end = Some((walk.state.clone(), walk.address.take())),
            }
            block
        };
        let arms = arms.into_iter().map(|(condition, block)| (condition, arm(self, block))).collect();
        let other = match other {
            Some(block) => Some(arm(self, block)),
            None => {
                arm(self, Block::default());
                None
            }
        };
        if let Some((state, address)) = end {
            (self.state, self.address) = (state, address);
        }
        self.spaced = false;
        PlacedKind::If(arms, other)
    }

    fn each(&mut self, span: Span, each: Each) -> PlacedKind {
        let start = self.state.clone();
        // Where a round follows another one, what is last is the first round's end.
        let again = matches!(start.inner, Inner::Json(_)) && !self.rehearsed;
        let bodies = again.then(|| (each.body.clone(), each.between.clone()));
        let mut ends = start.clone();
        let mut part = |walk: &mut Self, block: Block, what: &str, from: &ScanState| {
            walk.state = from.clone();
            walk.spaced = false;
            let mut block = walk.block(block);
            walk.state.pause();
            walk.cut_short(span, what);
            if !start.in_candidate() && walk.state.end_candidate() && walk.address.take().is_some() {
                push(&mut block.nodes, span, PlacedKind::AddressEnd);
            }
            walk.meet(span, &start, what);
            ends.join(&walk.state);
            (block, walk.state.clone())
        };
        let (body, body_end) = part(self, each.body, "the loop's body ends", &start);
        let between = each.between.map(|block| part(self, block, "what is between two rounds ends", &body_end));
        let (between, round_end) = between.map_or((None, body_end), |(block, end)| (Some(block), end));
        let none = each.none.map(|block| part(self, block, "what is for no round ends", &start).0);
        if let Some((body, between)) = bodies {
            self.rehearse(body, between, round_end);
        }
        self.state = ends;
        self.spaced = false;
        PlacedKind::Each(Box::new(PlacedEach { name: each.name, at: each.at, list: each.list, body, between, none }))
    }

    /// Walks through a loop's body once more, from where the round before it ends, and keeps only the errors.
    fn rehearse(&mut self, body: Block, between: Option<Block>, from: ScanState) {
        let known = std::mem::replace(self.problems, Problems::new(&self.problems.path().clone()));
        self.rehearsed = true;
        self.state = from;
        drop(self.block(body));
        drop(between.map(|between| self.block(between)));
        self.rehearsed = false;
        let found = std::mem::replace(self.problems, known);
        self.problems.add_new(found);
    }

    /// Reports a branch or body that ends in the middle of what could become a tag, or the end of a comment.
    fn cut_short(&mut self, span: Span, what: &str) {
        if self.state.half_end {
            let message = format!("{what} in {}, where it cuts the HTML in two", describe(&self.state));
            let diagnostic = Diagnostic::of(&codes::UNSAFE_PLACE, message)
                .help("write the HTML tag or the end of the comment out in one piece");
            self.problems.push(span, diagnostic);
        }
    }

    fn meet(&mut self, span: Span, other: &ScanState, what: &str) {
        if self.state.meets(other) {
            return;
        }
        let message = format!("{what} in {}, the other way in {}", describe(&self.state), describe(other));
        let diagnostic = Diagnostic::of(&codes::BRANCHES_DIFFER, message)
            .help("close in each branch what it opens, quotes and tags alike");
        self.problems.push(span, diagnostic);
    }
}

/// A literal part of an address as the browser reads it, with or without entities.
fn decoded(literal: &str, entities: bool) -> String {
    if entities { htmlize::unescape_attribute(literal).into_owned() } else { literal.to_owned() }
}

/// The length of the text that was printed last.
fn last_length(placed: &[PlacedNode]) -> usize {
    match placed.last() {
        Some(PlacedNode { kind: PlacedKind::Text(text), .. }) => text.len(),
        _ => 0,
    }
}

fn push(placed: &mut Vec<PlacedNode>, span: Span, kind: PlacedKind) {
    placed.push(PlacedNode { span, kind });
}

/// The literal `rel` of the tag that is open at the end of `text`, if it comes later in the tag.
fn relation_ahead(text: &str, rest: &[Option<Node>]) -> Option<String> {
    let tag = &text[text.rfind('<')?..];
    if !tag.get(1..5).is_some_and(|name| name.eq_ignore_ascii_case("link")) {
        return None;
    }
    let mut whole = tag.to_owned();
    for node in rest.iter().flatten() {
        match &node.kind {
            NodeKind::Text(text) => whole.push_str(text.split('>').next().unwrap_or("")),
            // What a value gives makes no known word of a literal.
            NodeKind::Print(_) => whole.push('?'),
            _ => return None,
        }
        if matches!(&node.kind, NodeKind::Text(text) if text.contains('>')) {
            break;
        }
    }
    let mut state = ScanState::default();
    state.scan(&whole);
    state.relation
}

fn describe(state: &ScanState) -> String {
    match state.mode {
        Mode::Text if state.code.is_some() => format!("<{}> of XML", state.code.unwrap_or_default()),
        Mode::Text => "text".to_owned(),
        Mode::Open | Mode::TagName => "a tag's name".to_owned(),
        Mode::InTag | Mode::AttributeName | Mode::AfterName => {
            format!("the tag <{}>, outside a quoted value", state.element)
        }
        Mode::BeforeValue | Mode::Unquoted => format!("the value of \"{}\" without quotes", state.attribute),
        Mode::Quoted(_) => format!("the attribute \"{}\" of <{}>", state.attribute, state.element),
        Mode::Title | Mode::Unparsed => format!("<{}>", state.element),
        Mode::Comment => "an HTML comment".to_owned(),
        Mode::Markup => "a declaration such as <!doctype>".to_owned(),
        Mode::Instruction => "a processing instruction".to_owned(),
        Mode::CharacterData => "a CDATA section".to_owned(),
        Mode::Json if state.is_text() => "JSON".to_owned(),
        Mode::Json => "a JSON string".to_owned(),
        Mode::Plain => "text".to_owned(),
    }
}
