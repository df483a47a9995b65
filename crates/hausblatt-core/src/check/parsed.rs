//! A rendered page as browsers read it: its elements, each with its place in the text, and what the parser stumbled on.

use std::borrow::Cow;
use std::cell::{Cell, Ref, RefCell};

use hausblatt_lang::html::names::{ENDLESS, VOID};
use html5ever::interface::{Attribute, ElementFlags, NodeOrText, QuirksMode, TokenizerResult, TreeSink};
use html5ever::tendril::StrTendril;
use html5ever::tokenizer::{
    BufferQueue, StartTag, Tag, TagToken, Token, TokenSink, TokenSinkResult, Tokenizer, TokenizerOpts,
};
use html5ever::tree_builder::{TreeBuilder, TreeBuilderOpts};
use html5ever::{LocalName, QualName, local_name, ns};

use crate::check::tag_at;

/// An element of a page.
#[derive(Debug)]
pub(crate) struct Element {
    name: QualName,
    /// Its attributes; of one written twice, the first.
    pub attributes: Vec<Attribute>,
    /// Where its tag begins in the text; nothing where the parser made it up.
    pub at: Option<usize>,
    /// The element that it is in, by its number; 0 is the document.
    pub parent: usize,
    /// Whether text that is not blank is in it, not in an element within.
    pub has_text: bool,
}

impl Element {
    /// Its name.
    pub fn name(&self) -> &str {
        &self.name.local
    }

    /// Whether it is one of HTML, and not of a drawing or a formula in it.
    pub fn is_html(&self) -> bool {
        self.name.ns == ns!(html)
    }

    /// The value of an attribute.
    pub fn attribute(&self, name: &str) -> Option<&str> {
        self.attributes.iter().find(|attribute| &*attribute.name.local == name).map(|attribute| &*attribute.value)
    }
}

/// What a parser stumbled on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Trouble {
    /// An attribute is written twice in one tag.
    AttributeTwice,
    /// A part of a document that was there already: a doctype, `html`, `head` or `body`.
    SecondDocument,
    /// An element or a text that browsers put elsewhere, or leave out.
    Moved,
    /// An end tag that closes nothing.
    StrayEnd,
    /// An element that nothing closes.
    Unclosed,
    /// Text that is not proper HTML.
    Markup,
}

/// A trouble and the place in the page where it begins.
#[derive(Clone, Debug)]
pub(crate) struct Stumble {
    /// What sort it is.
    pub trouble: Trouble,
    /// The byte of the page.
    pub at: usize,
    /// What it is about: `<p>`, `</div>`, or the text itself.
    pub what: String,
}

/// A page as it was read.
#[derive(Debug, Default)]
pub(crate) struct Parsed {
    /// The document, at 0 and without a name, then the elements in the order in which they begin.
    pub elements: Vec<Element>,
    /// What the parser stumbled on.
    pub stumbles: Vec<Stumble>,
    /// Whether it begins with `<!doctype html>`.
    pub has_doctype: bool,
    /// Whether `<html>` is written in it.
    pub has_html: bool,
}

impl Parsed {
    /// Reads a page as a browser does that runs no scripts.
    pub fn of(page: &str) -> Self {
        let options = TreeBuilderOpts { scripting_enabled: false, ..TreeBuilderOpts::default() };
        let reader = HtmlReader {
            page,
            builder: TreeBuilder::new(Tree::new(), options),
            chunk: Cell::new(0),
            open: Cell::new(None),
        };
        let tokenizer = Tokenizer::new(reader, TokenizerOpts::default());
        let whole = StrTendril::from_slice(page);
        let input = BufferQueue::default();
        let mut from = 0;
        // Each tag begins a piece, so that its place is known when it is read.
        let starts = memchr::memchr_iter(b'<', page.as_bytes()).chain(std::iter::once(page.len()));
        for to in starts {
            let length = |at: usize| u32::try_from(at).unwrap_or(u32::MAX);
            if to > from {
                tokenizer.sink.begin(from);
                input.push_back(whole.subtendril(length(from), length(to - from)));
                while !matches!(tokenizer.feed(&input), TokenizerResult::Done) {}
            }
            from = to;
        }
        tokenizer.sink.begin(page.len());
        tokenizer.end();
        let mut parsed = tokenizer.sink.builder.sink.parsed.into_inner();
        for stumble in parsed.stumbles.iter_mut().filter(|stumble| stumble.trouble == Trouble::Markup) {
            stumble.what = tag_at(page, stumble.at).trim_end().to_owned();
        }
        parsed
    }

    /// The elements of this name.
    pub fn named<'p>(&'p self, name: &'p str) -> impl Iterator<Item = &'p Element> {
        self.elements.iter().filter(move |element| element.name() == name)
    }

    /// The elements that an element is in, the nearest first.
    pub fn around<'p>(&'p self, element: &'p Element) -> impl Iterator<Item = &'p Element> {
        let outer = |inner: &&'p Element| Some(inner.parent).filter(|&at| at > 0).and_then(|at| self.elements.get(at));
        std::iter::successors(outer(&element), move |inner| outer(inner))
    }

    /// Whether anything can be seen in the elements for which `inside` holds, or in one within them.
    pub(crate) fn shows_anything(&self, inside: impl Fn(&Element) -> bool) -> bool {
        let mut within = vec![false; self.elements.len()];
        for (at, element) in self.elements.iter().enumerate() {
            let hidden = matches!(element.name(), "script" | "style" | "template" | "title" | "noscript");
            within[at] = !hidden && (inside(element) || (at > 0 && within[element.parent]));
            let seen = matches!(
                element.name(),
                "img" | "svg" | "video" | "audio" | "canvas" | "iframe" | "object" | "embed" | "input" | "button"
            );
            if within[at] && (element.has_text || seen) {
                return true;
            }
        }
        false
    }
}

/// Hands tokens on to the tree, and keeps where they are.
struct HtmlReader<'t> {
    page: &'t str,
    builder: TreeBuilder<usize, Tree>,
    /// Where the piece begins that is read.
    chunk: Cell<usize>,
    /// Where the tag that is read may have started.
    open: Cell<Option<usize>>,
}

impl HtmlReader<'_> {
    fn begin(&self, at: usize) {
        self.chunk.set(at);
        self.open.set(self.open.get().or(Some(at)));
    }

    /// Where the text of the piece that is read begins: behind its tag and white space.
    fn text_at(&self) -> usize {
        let chunk = self.chunk.get();
        let rest = self.page.as_bytes().get(chunk..).unwrap_or_default();
        let mut quote = None;
        let is_end = |&byte: &u8| match quote {
            Some(open) => {
                quote = quote.filter(|_| byte != open);
                false
            }
            None => {
                quote = Some(byte).filter(|byte| matches!(byte, b'"' | b'\''));
                byte == b'>'
            }
        };
        let tag = if rest.first() == Some(&b'<') { rest.iter().position(is_end).map_or(0, |end| end + 1) } else { 0 };
        chunk + tag + rest[tag..].iter().take_while(|byte| byte.is_ascii_whitespace()).count()
    }

    fn tag(&self, tag: &Tag, at: usize) {
        let tree = &self.builder.sink;
        let name = &*tag.name;
        if tag.had_duplicate_attributes {
            tree.stumble(Trouble::AttributeTwice, at, format!("<{name}>"));
        }
        let mut written = tree.written.borrow_mut();
        if tag.kind == StartTag {
            tree.parsed.borrow_mut().has_html |= name == "html";
            tree.token.replace(Now::Start(tag.name.clone()));
            if !tag.self_closing && !VOID.contains(&name) {
                written.push((tag.name.clone(), at));
            }
            return;
        }
        let open = written.iter().rposition(|(open, _)| *open == tag.name);
        let left = open.map(|open| written.split_off(open)).unwrap_or_default();
        let left = left.into_iter().skip(1).find(|(name, _)| !ENDLESS.contains(&&**name));
        tree.token.replace(Now::End { name: tag.name.clone(), is_open: open.is_some(), left });
    }
}

impl TokenSink for HtmlReader<'_> {
    type Handle = usize;

    fn process_token(&self, token: Token, line: u64) -> TokenSinkResult<usize> {
        let tree = &self.builder.sink;
        let at = match &token {
            TagToken(_) | Token::DoctypeToken(_) | Token::CommentToken(_) => self.open.take(),
            Token::CharacterTokens(_) | Token::NullCharacterToken => {
                self.open.take();
                None
            }
            Token::ParseError(_) | Token::EOFToken => self.open.get(),
        };
        let at = at.unwrap_or_else(|| self.chunk.get());
        tree.at.set(at);
        match &token {
            TagToken(tag) => self.tag(tag, at),
            Token::DoctypeToken(_) => drop(tree.token.replace(Now::Doctype)),
            Token::CharacterTokens(text) => {
                tree.token.replace(Now::Text);
                if !text.trim().is_empty() {
                    tree.text_at.set(self.text_at());
                }
            }
            Token::NullCharacterToken => drop(tree.token.replace(Now::Text)),
            Token::ParseError(_) => drop(tree.token.replace(Now::Error)),
            Token::EOFToken => drop(tree.token.replace(Now::Finish)),
            Token::CommentToken(_) => drop(tree.token.replace(Now::Comment)),
        }
        self.builder.process_token(token, line)
    }

    fn end(&self) {
        self.builder.end();
    }

    fn adjusted_current_node_present_but_not_in_html_namespace(&self) -> bool {
        self.builder.adjusted_current_node_present_but_not_in_html_namespace()
    }
}

/// The token that is read.
#[derive(Default)]
enum Now {
    #[default]
    Comment,
    Doctype,
    Start(LocalName),
    /// An end tag, whether its element is open, and what is open within it.
    End {
        name: LocalName,
        is_open: bool,
        left: Option<(LocalName, usize)>,
    },
    Text,
    Error,
    Finish,
}

/// The tree as it grows.
struct Tree {
    parsed: RefCell<Parsed>,
    at: Cell<usize>,
    /// Where the last text begins that is not blank: the parser puts it in place when it meets what follows.
    text_at: Cell<usize>,
    token: RefCell<Now>,
    /// The elements that are open as they are written, with their places.
    written: RefCell<Vec<(LocalName, usize)>>,
}

impl Tree {
    fn new() -> Self {
        let name = QualName::new(None, ns!(), local_name!(""));
        let document = Element { name, attributes: Vec::new(), at: None, parent: 0, has_text: false };
        Self {
            parsed: RefCell::new(Parsed { elements: vec![document], ..Parsed::default() }),
            at: Cell::new(0),
            text_at: Cell::new(0),
            token: RefCell::default(),
            written: RefCell::default(),
        }
    }

    fn node(&self, name: QualName, attributes: Vec<Attribute>) -> usize {
        let is_written = matches!(&*self.token.borrow(), Now::Start(start) if *start == name.local);
        let at = is_written.then(|| self.at.get());
        let elements = &mut self.parsed.borrow_mut().elements;
        elements.push(Element { name, attributes, at, parent: 0, has_text: false });
        elements.len() - 1
    }

    fn stumble(&self, trouble: Trouble, at: usize, what: String) {
        let stumbles = &mut self.parsed.borrow_mut().stumbles;
        if !stumbles.iter().any(|known| known.at == at && (known.trouble == trouble || trouble == Trouble::Moved)) {
            stumbles.push(Stumble { trouble, at, what });
        }
    }

    fn is_in_table(&self) -> bool {
        self.written.borrow().iter().any(|(name, _)| *name == local_name!("table"))
    }

    fn put(&self, parent: usize, child: NodeOrText<usize>) {
        let elements = &mut self.parsed.borrow_mut().elements;
        match child {
            // Comments are no elements.
            NodeOrText::AppendNode(0) => {}
            NodeOrText::AppendNode(node) => elements[node].parent = parent,
            NodeOrText::AppendText(text) => {
                elements[parent].has_text |=
                    !text.trim_matches(|c: char| c.is_whitespace() || c == '\u{feff}').is_empty()
            }
        }
    }

    /// Something is put where it was not written.
    fn put_elsewhere(&self, parent: usize, child: NodeOrText<usize>) {
        match (&child, &*self.token.borrow()) {
            (NodeOrText::AppendText(text), _) if text.trim().is_empty() => {}
            (NodeOrText::AppendText(_), _) => {
                self.stumble(Trouble::Moved, self.text_at.get(), "this text".to_owned());
            }
            (_, Now::Start(name)) => self.stumble(Trouble::Moved, self.at.get(), format!("<{name}>")),
            _ => {}
        }
        self.put(parent, child);
    }
}

impl TreeSink for Tree {
    type Handle = usize;
    type Output = Parsed;
    type ElemName<'a> = Ref<'a, QualName>;

    fn finish(self) -> Parsed {
        self.parsed.into_inner()
    }

    fn parse_error(&self, message: Cow<'static, str>) {
        let at = self.at.get();
        let has_doctype = self.parsed.borrow().has_doctype;
        let (trouble, at, what) = match &*self.token.borrow() {
            Now::Start(name) if matches!(&**name, "html" | "head" | "body") => {
                // Of a page without a doctype, the first tag is what the parser did not expect.
                if !has_doctype && self.parsed.borrow().elements.len() == 1 {
                    return;
                }
                (Trouble::SecondDocument, at, format!("<{name}>"))
            }
            Now::Doctype if has_doctype => (Trouble::SecondDocument, at, "<!doctype>".to_owned()),
            Now::Doctype => return,
            _ if !has_doctype && self.parsed.borrow().elements.len() == 1 => return,
            Now::Start(name) => (Trouble::Moved, at, format!("<{name}>")),
            Now::End { left: Some((left, left_at)), .. } => (Trouble::Unclosed, *left_at, format!("<{left}>")),
            // What was moved out of a table is reported where it begins.
            Now::End { is_open: true, .. } | Now::Text if self.is_in_table() => return,
            Now::End { name, .. } => (Trouble::StrayEnd, at, format!("</{name}>")),
            Now::Text => (Trouble::Moved, self.text_at.get(), "this text".to_owned()),
            Now::Finish => {
                for (name, at) in self.written.borrow().iter().filter(|(name, _)| !ENDLESS.contains(&&**name)) {
                    self.stumble(Trouble::Unclosed, *at, format!("<{name}>"));
                }
                return;
            }
            // Told with the tag itself, with its name.
            Now::Error if message == "Duplicate attribute" => return,
            Now::Error | Now::Comment => (Trouble::Markup, at, String::new()),
        };
        self.stumble(trouble, at, what);
    }

    fn get_document(&self) -> usize {
        0
    }

    fn elem_name<'a>(&'a self, target: &'a usize) -> Ref<'a, QualName> {
        Ref::map(self.parsed.borrow(), |parsed| &parsed.elements[*target].name)
    }

    fn create_element(&self, name: QualName, attributes: Vec<Attribute>, _: ElementFlags) -> usize {
        self.node(name, attributes)
    }

    fn create_comment(&self, _: StrTendril) -> usize {
        0
    }

    fn create_pi(&self, _: StrTendril, _: StrTendril) -> usize {
        0
    }

    fn append(&self, parent: &usize, child: NodeOrText<usize>) {
        self.put(*parent, child);
    }

    fn append_based_on_parent_node(&self, element: &usize, _: &usize, child: NodeOrText<usize>) {
        let parent = self.parsed.borrow().elements[*element].parent;
        self.put_elsewhere(parent, child);
    }

    fn append_doctype_to_document(&self, _: StrTendril, _: StrTendril, _: StrTendril) {
        self.parsed.borrow_mut().has_doctype = true;
    }

    fn get_template_contents(&self, target: &usize) -> usize {
        *target
    }

    fn same_node(&self, x: &usize, y: &usize) -> bool {
        x == y
    }

    fn set_quirks_mode(&self, _: QuirksMode) {}

    fn append_before_sibling(&self, sibling: &usize, child: NodeOrText<usize>) {
        let parent = self.parsed.borrow().elements[*sibling].parent;
        self.put_elsewhere(parent, child);
    }

    fn add_attrs_if_missing(&self, _: &usize, _: Vec<Attribute>) {}

    fn remove_from_parent(&self, _: &usize) {}

    fn reparent_children(&self, node: &usize, parent: &usize) {
        for element in &mut self.parsed.borrow_mut().elements[1..] {
            if element.parent == *node {
                element.parent = *parent;
            }
        }
    }
}
