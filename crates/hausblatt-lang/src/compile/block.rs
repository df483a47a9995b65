//! Blocks to steps.

use crate::compile::scope::Scope;
use crate::compile::{Flow, Role, Source};
use crate::html::Placement;
use crate::html::place::{EscapingRow, HtmlPlace, Written};
use crate::html::placed::{PlacedBlock, PlacedCall, PlacedEach, PlacedKind, PlacedNode};
use crate::program::{
    Act, Arguments, CallSite, Callee, Code, ExpectedNames, Given, Kept, Meaning, Mention, Mentioned, Op, Parameter,
    Program, QueryPlan, Read, Setting, Step, Word,
};
use crate::syntax::tree::{AssetKind, Expr, ExprKind, Mode, Name, Operator};
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Problems};
use crate::text::source::Span;
use crate::types::{Globals, Type};
use crate::value::datum::Datum;
use crate::value::shape::{Interner, Symbol};

/// Where an `into` that is met belongs.
#[derive(Clone, Copy, PartialEq)]
enum FillsGo {
    ToCall,
    ToLayout,
    Nowhere,
}

/// Compiles one file.
pub(crate) struct Compiler<'c> {
    pub(super) globals: &'c Globals,
    pub(super) symbols: &'c mut Interner,
    pub(super) problems: &'c mut Problems,
    pub(super) scope: Scope,
    /// What the calls give for each parameter.
    pub(super) calls_given: Vec<Option<Flow>>,
    pub(super) mentions: Vec<Mention>,
    /// The name of the loop whose list is compiled, for a query that is that list.
    pub(super) loop_name: Option<(String, Span)>,
    /// The literal text that no step carries yet.
    text: String,
    /// Where that text is in the file.
    text_span: Option<Span>,
    leads: Vec<Span>,
    kept: String,
    ops: Vec<Op>,
    spans: Vec<Span>,
    codes: Vec<Step>,
    code_spans: Vec<Span>,
    arguments: Vec<Code>,
    queries: Vec<QueryPlan>,
    record_names: Vec<Box<[Symbol]>>,
    expected_names: Vec<ExpectedNames>,
    calls: Vec<CallSite>,
    slots: Vec<Symbol>,
    takes_body: bool,
    trays: Vec<String>,
    in_component: bool,
    layout_fills: Vec<(Symbol, Span)>,
    pub(super) asked_filled: Vec<(Symbol, Span)>,
    call_fills: Vec<Vec<(Symbol, Span)>>,
    fills: FillsGo,
    address: Option<(EscapingRow, Written)>,
    continues: bool,
    answers: Vec<u16>,
    pub(super) globals_read: Vec<u16>,
    sets: Vec<Setting>,
    words: Vec<Word>,
    /// What is known of global values in this file.
    pub(super) narrowed: Vec<(String, Type)>,
}

/// Compiles the placed tree of `source`.
pub fn program(
    source: &Source,
    takes: &[(String, Option<Datum>)],
    placement: Placement,
    globals: &Globals,
    symbols: &mut Interner,
    problems: &mut Problems,
) -> Program {
    let called = matches!(source.role, Role::Partial | Role::Component);
    let fills = if called { FillsGo::Nowhere } else { FillsGo::ToLayout };
    let mut compiler = Compiler::new(globals, symbols, problems, fills);
    compiler.in_component = source.role == Role::Component;
    if source.role == Role::Template {
        compiler.narrowed.clone_from(&source.types);
    }
    let parameters = compiler.parameters(takes, source);
    compiler.nodes(placement.block.nodes);
    compiler.emit(Act::End, Span::default());
    compiler.finish(source, parameters, placement.document)
}

/// Compiles the statements of a prepare file.
pub fn prepare(
    source: &Source,
    statements: Vec<(Name, Expr)>,
    globals: &Globals,
    symbols: &mut Interner,
    problems: &mut Problems,
) -> Program {
    let mut compiler = Compiler::new(globals, symbols, problems, FillsGo::Nowhere);
    for (name, value) in statements {
        compiler.set_global(&name, value);
    }
    compiler.emit(Act::End, Span::default());
    compiler.finish(source, Box::new([]), None)
}

/// Compiles one value.
pub fn single(
    source: &Source,
    value: Expr,
    globals: &Globals,
    symbols: &mut Interner,
    problems: &mut Problems,
) -> Program {
    let mut compiler = Compiler::new(globals, symbols, problems, FillsGo::Nowhere);
    let span = value.span;
    let code = compiler.value(value).0;
    compiler.emit(Act::SetGlobal(code, u16::MAX), span);
    compiler.finish(source, Box::new([]), None)
}

impl<'c> Compiler<'c> {
    fn new(globals: &'c Globals, symbols: &'c mut Interner, problems: &'c mut Problems, fills: FillsGo) -> Self {
        Self {
            globals,
            symbols,
            problems,
            scope: Scope::default(),
            calls_given: Vec::new(),
            mentions: Vec::new(),
            loop_name: None,
            text: String::new(),
            text_span: None,
            leads: Vec::new(),
            kept: String::new(),
            ops: Vec::new(),
            spans: Vec::new(),
            codes: Vec::new(),
            code_spans: Vec::new(),
            arguments: Vec::new(),
            queries: Vec::new(),
            record_names: Vec::new(),
            narrowed: Vec::new(),
            expected_names: Vec::new(),
            calls: Vec::new(),
            slots: Vec::new(),
            takes_body: false,
            trays: Vec::new(),
            in_component: false,
            layout_fills: Vec::new(),
            asked_filled: Vec::new(),
            call_fills: Vec::new(),
            fills,
            address: None,
            continues: false,
            answers: Vec::new(),
            globals_read: Vec::new(),
            sets: Vec::new(),
            words: Vec::new(),
        }
    }
}

impl Compiler<'_> {
    fn parameters(&mut self, takes: &[(String, Option<Datum>)], source: &Source) -> Box<[Parameter]> {
        self.calls_given =
            takes.iter().map(|(name, _)| source.flows.iter().find(|flow| flow.name == *name).cloned()).collect();
        takes
            .iter()
            .map(|(name, default)| {
                let slot = self.scope.slot();
                // What is given may still be of a kind that is not known before it is rendered.
                let stated = source.types.iter().find(|(other, _)| other == name).map(|(_, of)| of.clone());
                let known = stated.unwrap_or_else(|| default.as_ref().map_or(Type::Any, Type::of_default));
                // What is given to a component becomes what its field is declared as.
                let is_field = source.role == Role::Component && source.types.iter().any(|(other, _)| other == name);
                let flow = source.flows.iter().find(|flow| flow.name == *name);
                let given = match flow {
                    _ if is_field => known.clone(),
                    Some(flow) => flow.of.clone(),
                    None if known == Type::Bool => Type::Bool,
                    None => Type::Any,
                };
                self.scope.bind(name, slot, given.clone(), Span::default());
                self.scope.comes_from(Some(slot));
                Parameter { name: self.symbols.intern(name), default: default.clone(), of: known, given }
            })
            .collect()
    }

    fn finish(self, source: &Source, parameters: Box<[Parameter]>, document: Option<Span>) -> Program {
        Program {
            path: source.path.clone(),
            role: source.role,
            ending: source.ending,
            kept: self.kept.into(),
            ops: self.ops.into(),
            spans: self.spans.into(),
            leads: self.leads.into(),
            codes: self.codes.into(),
            code_spans: self.code_spans.into(),
            arguments: self.arguments.into(),
            queries: self.queries.into(),
            record_names: self.record_names.into(),
            expected_names: self.expected_names.into(),
            parameters,
            states_parameters: source.takes.is_some(),
            frame: self.scope.frame(),
            calls: self.calls.into(),
            slots: self.slots.into(),
            takes_body: self.takes_body,
            layout_fills: self.layout_fills.into(),
            asked_filled: self.asked_filled.into(),
            trays: self.trays.into(),
            continues: self.continues,
            answers: self.answers.into(),
            globals_read: self.globals_read.into(),
            document,
            mentions: self.mentions.into(),
            sets: self.sets.into(),
            words: self.words.into(),
        }
    }

    fn emit(&mut self, act: Act, span: Span) -> usize {
        let lead = std::mem::take(&mut self.text).into_boxed_str();
        self.leads.push(self.text_span.take().unwrap_or_default());
        let read = Read::of(act, &self.codes);
        self.ops.push(Op { lead, act, read });
        self.spans.push(span);
        self.ops.len() - 1
    }

    /// The number of the next step; the text so far stays in front of it.
    fn here(&mut self) -> u32 {
        if !self.text.is_empty() {
            self.emit(Act::Text, Span::default());
        }
        u32::try_from(self.ops.len()).unwrap_or(u32::MAX)
    }

    /// Lets the step `at` jump to the next one.
    fn land(&mut self, at: usize) {
        let here = self.here();
        if let Some(
            Act::Unless(_, target)
            | Act::Jump(target)
            | Act::Each { none: target, .. }
            | Act::Next { exit: target }
            | Act::Slot { end: target, .. },
        ) = self.ops.get_mut(at).map(|op| &mut op.act)
        {
            *target = here;
        }
    }

    /// Keeps a text that is not printed as it comes.
    pub(super) fn keep_text(&mut self, text: &str) -> Kept {
        let start = self.kept.len();
        self.kept.push_str(text);
        let span = Span::new(start, self.kept.len());
        Kept { start: span.start, end: span.end }
    }

    /// Notes what a word means.
    pub(super) fn word(&mut self, span: Span, meaning: Meaning) {
        self.words.push(Word { span, meaning });
    }

    /// What the word at this place was noted to mean.
    pub(super) fn meaning_of(&self, span: Span) -> Option<&Meaning> {
        self.words.iter().rev().find(|word| word.span == span).map(|word| &word.meaning)
    }

    /// Notes a name that the file makes.
    fn made(&mut self, name: &Name, slot: u16) {
        let symbol = self.symbols.intern(&name.text);
        self.word(name.span, Meaning::Made(symbol, slot));
    }

    pub(super) fn emit_code(&mut self, step: Step, span: Span) -> Code {
        self.codes.push(step);
        self.code_spans.push(span);
        Code(u32::try_from(self.codes.len() - 1).unwrap_or(u32::MAX))
    }

    pub(super) fn code(&self, code: Code) -> Step {
        self.codes.get(code.0 as usize).copied().unwrap_or(Step::Nothing)
    }

    /// Puts another step in the place of one.
    pub(super) fn replace_code(&mut self, code: Code, step: Step) {
        if let Some(place) = self.codes.get_mut(code.0 as usize) {
            *place = step;
        }
    }

    /// Takes back code that went into the step after it.
    pub(super) fn take_back_code(&mut self, code: Code) {
        if code.0 as usize + 1 == self.codes.len() {
            self.codes.pop();
            self.code_spans.pop();
        }
    }

    pub(super) fn keep_arguments(&mut self, codes: &[Code]) -> Arguments {
        let start = u32::try_from(self.arguments.len()).unwrap_or(u32::MAX);
        self.arguments.extend_from_slice(codes);
        Arguments { start, count: u16::try_from(codes.len()).unwrap_or(u16::MAX) }
    }

    pub(super) fn all_arguments(&self) -> &[Code] {
        &self.arguments
    }

    pub(super) fn query_of(&self, number: u32) -> Option<&QueryPlan> {
        self.queries.get(number as usize)
    }

    pub(super) fn keep_names(&mut self, names: Vec<Symbol>) -> u32 {
        self.record_names.push(names.into());
        u32::try_from(self.record_names.len() - 1).unwrap_or(u32::MAX)
    }

    pub(super) fn keep_expected(&mut self, expected: ExpectedNames) -> u32 {
        self.expected_names.push(expected);
        u32::try_from(self.expected_names.len() - 1).unwrap_or(u32::MAX)
    }

    pub(super) fn keep_query(&mut self, plan: QueryPlan) -> u32 {
        self.queries.push(plan);
        u32::try_from(self.queries.len() - 1).unwrap_or(u32::MAX)
    }

    fn block(&mut self, block: PlacedBlock) {
        self.scope.enter();
        self.nodes(block.nodes);
        self.leave();
    }

    fn leave(&mut self) {
        for binding in self.scope.leave().into_iter().filter(|binding| binding.hides && !binding.used) {
            let message = format!("this \"{}\" ends with its block and changes nothing outside it", binding.name);
            let help =
                format!("to choose a value, write +{{let {} = if A then B else C}} before the block", binding.name);
            self.problems.push(binding.span, Diagnostic::of(&codes::LET_WITHOUT_EFFECT, message).help(help));
        }
    }

    fn nodes(&mut self, nodes: Vec<PlacedNode>) {
        for node in nodes {
            self.node(node.span, node.kind);
        }
    }

    fn node(&mut self, span: Span, kind: PlacedKind) {
        match kind {
            PlacedKind::Text(text) => {
                self.text.push_str(&text);
                self.text_span = Some(self.text_span.map_or(span, |before| before.to(span)));
            }
            PlacedKind::Edge(white) => {
                let white = self.keep_text(&white);
                self.emit(Act::Edge(white), span);
            }
            PlacedKind::LineStart => {
                self.emit(Act::LineStart, span);
            }
            PlacedKind::LineEnd(indent, behind) => {
                let behind = self.keep_text(&behind);
                if !self.join_line(indent, behind) {
                    self.emit(Act::LineEnd { indent: u32::try_from(indent).unwrap_or(u32::MAX), behind }, span);
                }
            }
            PlacedKind::Print(value, place) => self.print(span, value, place),
            PlacedKind::Raw(value) => {
                let code = self.value(value).0;
                self.emit(Act::Raw(code), span);
            }
            PlacedKind::Attribute(cut, value, place, absent) => {
                let value = self.value(value).0;
                let cut = u32::try_from(cut).unwrap_or(u32::MAX);
                self.emit(Act::Attribute { value, cut, place, absent }, span);
            }
            PlacedKind::AddressStart(row, written) => {
                self.address = Some((row, written));
                self.emit(Act::AddressStart, span);
            }
            PlacedKind::AddressText(text) => {
                let text = self.keep_text(&text);
                self.emit(Act::AddressText(text), span);
            }
            PlacedKind::AddressEnd => {
                let (row, written) = self.address.take().unwrap_or((EscapingRow::Anywhere, Written::Attribute));
                self.emit(Act::AddressEnd(row, written), span);
            }
            PlacedKind::Let(name, value) => self.let_(span, &name, value),
            PlacedKind::Capture(name, body) => self.capture(span, &name, body),
            PlacedKind::If(arms, other) => self.if_(span, arms, other),
            PlacedKind::Each(each) => self.each(span, *each),
            PlacedKind::Partial(call) => self.partial(span, call),
            PlacedKind::Component(call) => self.component(span, call),
            PlacedKind::Tray(name) => self.tray(span, name),
            PlacedKind::Inherited(call) => self.inherited(span, call),
            PlacedKind::Slot(name, place, default) => self.slot(span, name, place, default),
            PlacedKind::Into(name, mode, body) => self.into(span, &name, mode, body),
            PlacedKind::Answer(status, title) => {
                self.answers.push(status);
                let title = title.map(|title| self.value(title).0);
                self.emit(Act::Answer(status, title), span);
            }
            PlacedKind::Redirect(status, target) => {
                self.answers.push(status);
                if let ExprKind::Text(text) = &target.kind {
                    let is_address = text.starts_with(['/', '#', '?']) || text.starts_with("http");
                    let what = match is_address {
                        true => Mentioned::Address,
                        false => Mentioned::Reference,
                    };
                    self.mentions.push(Mention { what, text: text.clone(), span: target.span });
                }
                let target = self.value(target).0;
                self.emit(Act::Redirect(status, target), span);
            }
            PlacedKind::Use(path) => {
                if AssetKind::of(&path.text).is_some() {
                    self.mentions.push(Mention { what: Mentioned::Asset, text: path.text.clone(), span: path.span });
                }
                let path = self.keep_text(&path.text);
                self.emit(Act::Use(path), span);
            }
            PlacedKind::Used(kind) => {
                self.emit(Act::Used(kind), span);
            }
            PlacedKind::Dump(value) => {
                let code = self.value(value).0;
                self.emit(Act::Dump(code), span);
            }
        }
    }

    /// Makes one step of the beginning of a line, the call that it holds and its end, which most lines of a page are.
    fn join_line(&mut self, indent: usize, behind: Kept) -> bool {
        let [.., Op { act: Act::LineStart, .. }, Op { act: Act::Partial { call, body: false }, lead, .. }] = &*self.ops
        else {
            return false;
        };
        let Some(indent) = u16::try_from(indent).ok().filter(|_| lead.is_empty() && self.text.is_empty()) else {
            return false;
        };
        let act = Act::PartialLine { call: *call, indent, behind };
        // The text in front of the line stays where it is.
        self.ops.pop();
        self.leads.pop();
        if let (Some(op), Some(span)) = (self.ops.last_mut(), self.spans.pop()) {
            op.act = act;
            self.spans.pop();
            self.spans.push(span);
        }
        true
    }

    fn print(&mut self, span: Span, value: Expr, place: HtmlPlace) {
        if place == HtmlPlace::Text {
            self.check_quotes(&value);
        }
        let (code, of) = self.value(value);
        if let Some(instead) = unprintable(&of).filter(|_| place != HtmlPlace::Json) {
            self.problems.push(self.code_spans[code.0 as usize], instead);
        }
        let act = match (self.address, place) {
            (Some(_), _) => Act::AddressValue(code),
            (None, HtmlPlace::Text) => Act::PrintText(code),
            (None, place) => Act::Print(code, place),
        };
        self.emit(act, span);
    }

    fn let_(&mut self, span: Span, name: &Name, value: Expr) {
        let parameter = self.parameter_of(&value);
        let (code, of) = self.value(value);
        self.check_new_name(name);
        let slot = self.scope.slot();
        self.made(name, slot);
        self.scope.bind_let(&name.text, slot, of, name.span);
        self.scope.comes_from(parameter);
        self.emit(Act::Let(code, slot), span);
    }

    fn capture(&mut self, span: Span, name: &Name, body: PlacedBlock) {
        self.emit(Act::Capture, span);
        self.separate(body, FillsGo::Nowhere);
        self.check_new_name(name);
        let slot = self.scope.slot();
        self.made(name, slot);
        self.scope.bind_let(&name.text, slot, Type::Html, name.span);
        self.emit(Act::Keep(slot), span);
    }

    fn set_global(&mut self, name: &Name, value: Expr) {
        let read = std::mem::take(&mut self.globals_read);
        let (code, of) = self.value(value);
        let reads = self.globals_read.clone().into_boxed_slice();
        let Some(global) = self.globals.settable(&name.text) else { return self.check_new_name(name) };
        let extends = self.globals_read.contains(&global);
        for number in read {
            if !self.globals_read.contains(&number) {
                self.globals_read.push(number);
            }
        }
        self.sets.push(Setting { global, span: name.span, extends, reads, of });
        self.emit(Act::SetGlobal(code, global), name.span);
    }

    fn check_new_name(&mut self, name: &Name) {
        if self.globals.is_reserved(&name.text) {
            let message = format!("\"{}\" is a value that every file has; it can't be taken for another", name.text);
            self.problems.push(name.span, Diagnostic::of(&codes::NAME_TAKEN, message).help("choose another name"));
        }
    }

    /// A body with its own rule for fills, in its own scope.
    fn separate(&mut self, body: PlacedBlock, fills: FillsGo) {
        let outer = std::mem::replace(&mut self.fills, fills);
        let address = self.address.take();
        self.block(body);
        (self.fills, self.address) = (outer, address);
    }

    fn if_(&mut self, span: Span, arms: Vec<(Expr, PlacedBlock)>, other: Option<PlacedBlock>) {
        let mut jumps = Vec::new();
        let count = arms.len();
        let address = self.address;
        for (at, (condition, block)) in arms.into_iter().enumerate() {
            self.address = address;
            let code = self.condition(condition);
            let unless = self.emit(Act::Unless(code, 0), span);
            self.block(block);
            if at + 1 < count || other.is_some() {
                jumps.push(self.emit(Act::Jump(0), span));
            }
            self.land(unless);
        }
        if let Some(block) = other {
            self.address = address;
            self.block(block);
        }
        for jump in jumps {
            self.land(jump);
        }
    }

    fn each(&mut self, span: Span, each: PlacedEach) {
        self.loop_name = matches!(each.list.kind, ExprKind::Query(_)).then(|| (each.name.text.clone(), each.name.span));
        let parameter = self.parameter_of(&each.list);
        let (list, of) = self.value(each.list);
        self.loop_name = None;
        self.check_new_name(&each.name);
        self.scope.enter();
        let slot = self.scope.slot();
        let member = of.member();
        self.made(&each.name, slot);
        self.scope.bind(&each.name.text, slot, member.clone(), each.name.span);
        self.scope.comes_from(parameter);
        let each_at = each.at;
        let at = each_at.as_ref().map(|name| {
            self.check_new_name(name);
            let slot = self.scope.slot();
            self.made(name, slot);
            self.scope.bind(&name.text, slot, Type::Round, name.span);
            slot
        });
        let start = self.emit(Act::Each { list, slot, at, none: 0 }, span);
        let body = self.here();
        self.nodes(each.body.nodes);
        self.leave();
        let mut leaving = None;
        if let Some(between) = each.between {
            leaving = Some(self.emit(Act::Next { exit: 0 }, span));
            // What is between two rounds sees the one that has just ended.
            self.scope.enter();
            self.scope.bind(&each.name.text, slot, member.clone(), each.name.span);
            if let Some((name, at)) = each_at.zip(at) {
                self.scope.bind(&name.text, at, Type::Round, name.span);
            }
            self.block(between);
            self.leave();
            self.emit(Act::Round { body }, span);
        } else {
            self.emit(Act::Again { body }, span);
        }
        // A loop that has come to its end goes past what means none.
        let past = each.none.is_some().then(|| leaving.is_none().then(|| self.emit(Act::Jump(0), span))).flatten();
        self.land(start);
        if let Some(none) = each.none {
            self.block(none);
        }
        leaving.into_iter().chain(past).for_each(|at| self.land(at));
    }

    fn partial(&mut self, span: Span, call: PlacedCall) {
        let takes = (call.body.as_ref().is_some_and(prints), call.in_pre);
        let body = self.body(span, call.body);
        let (callee, name_span) = self.callee(call.name);
        let number = self.keep_call(callee, name_span, call.given, body.clone().unwrap_or_default(), takes);
        self.emit(Act::Partial { call: number, body: body.is_some() }, span);
    }

    fn component(&mut self, span: Span, call: PlacedCall) {
        let takes = (call.body.as_ref().is_some_and(prints), call.in_pre);
        let body = self.body(span, call.body);
        let name_span = call.name.span;
        let name = match call.name.kind {
            ExprKind::Text(text) => text,
            ExprKind::Broken => String::new(),
            _ => {
                let diagnostic = Diagnostic::of(&codes::COMPUTED_NAME, "a component's name must be a quoted text")
                    .help("write it as in +{component \"notice\"}; what content places is printed by +{tray \"main\"}");
                self.problems.push(name_span, diagnostic);
                String::new()
            }
        };
        let fills = body.clone().unwrap_or_default();
        let number = self.keep_call(Callee::Component(name), name_span, call.given, fills, takes);
        self.emit(Act::Partial { call: number, body: body.is_some() }, span);
    }

    fn tray(&mut self, span: Span, name: Name) {
        if self.in_component {
            let diagnostic = Diagnostic::of(&codes::TRAY_IN_COMPONENT, "a component can't print a tray")
                .help("print it in a template, a partial or a layout");
            self.problems.push(span, diagnostic);
        }
        let kept = self.keep_text(&name.text);
        let symbol = self.symbols.intern(&name.text);
        self.word(name.span, Meaning::Tray(symbol));
        self.trays.push(name.text);
        self.emit(Act::Tray(kept), span);
    }

    fn inherited(&mut self, span: Span, call: PlacedCall) {
        self.continues = true;
        let takes = (call.body.as_ref().is_some_and(prints), call.in_pre);
        let body = self.body(span, call.body);
        let number = self.keep_call(Callee::Next, span, call.given, body.clone().unwrap_or_default(), takes);
        self.emit(Act::Inherited { call: number, body: body.is_some() }, span);
    }

    /// Compiles a call's body; the slots that it fills.
    fn body(&mut self, span: Span, body: Option<PlacedBlock>) -> Option<Vec<(Symbol, Span)>> {
        let body = body?;
        self.emit(Act::Body, span);
        self.call_fills.push(Vec::new());
        self.separate(body, FillsGo::ToCall);
        self.call_fills.pop()
    }

    fn keep_call(
        &mut self,
        callee: Callee,
        span: Span,
        given: Vec<(Name, Expr)>,
        fills: Vec<(Symbol, Span)>,
        (has_body, in_pre): (bool, bool),
    ) -> u32 {
        let mut kept: Vec<Given> = Vec::new();
        for (name, value) in given {
            let symbol = self.symbols.intern(&name.text);
            let (code, of) = self.value(value);
            if kept.iter().any(|other| other.name == symbol) {
                let message = format!("\"{}\" is given twice", name.text);
                let diagnostic = Diagnostic::of(&codes::DUPLICATE_ARGUMENT, message).help("keep one of the two");
                self.problems.push(name.span, diagnostic);
            }
            kept.push(Given { name: symbol, value: code, span: name.span, of });
        }
        self.calls.push(CallSite { callee, span, given: kept.into(), fills: fills.into(), has_body, in_pre });
        u32::try_from(self.calls.len() - 1).unwrap_or(u32::MAX)
    }

    fn callee(&mut self, name: Expr) -> (Callee, Span) {
        let span = name.span;
        match &name.kind {
            ExprKind::Text(text) => (Callee::Named(text.clone()), span),
            ExprKind::Broken => (Callee::Named(String::new()), span),
            _ => match leftmost_literal(&name) {
                Some(prefix) if prefix.ends_with('/') => {
                    let prefix = prefix.to_owned();
                    (Callee::Computed(prefix, self.value(name).0), span)
                }
                _ => {
                    let diagnostic = Diagnostic::of(
                        &codes::COMPUTED_NAME,
                        "a computed name must begin with a quoted text that ends in \"/\"",
                    )
                    .help(match &name.kind {
                        ExprKind::Name(bare) => format!("if it is called so, write it in quotes: \"{bare}\""),
                        _ => "write it as in \"card/\" + entry.collection".to_owned(),
                    });
                    self.problems.push(span, diagnostic);
                    (Callee::Named(String::new()), span)
                }
            },
        }
    }

    fn slot(&mut self, span: Span, name: Option<Name>, place: HtmlPlace, default: Option<PlacedBlock>) {
        let name = name.map(|name| {
            let symbol = self.symbols.intern(&name.text);
            self.word(name.span, Meaning::Slot(symbol));
            symbol
        });
        self.takes_body |= name.is_none();
        if let Some(name) = name.filter(|name| !self.slots.contains(name)) {
            self.slots.push(name);
        }
        let start = self.emit(Act::Slot { name, place, end: 0 }, span);
        if let Some(default) = default {
            self.block(default);
        }
        self.land(start);
        self.emit(Act::SlotEnd { name, place }, span);
    }

    fn into(&mut self, span: Span, name: &Name, mode: Mode, body: PlacedBlock) {
        let symbol = self.symbols.intern(&name.text);
        let to_call = self.fills == FillsGo::ToCall;
        match self.fills {
            FillsGo::ToCall => {
                self.call_fills.last_mut().map(|fills| fills.push((symbol, name.span))).unwrap_or_default()
            }
            FillsGo::ToLayout => self.layout_fills.push((symbol, name.span)),
            FillsGo::Nowhere => {
                let diagnostic = Diagnostic::of(&codes::STRAY_INTO, "there is no slot here that this could fill")
                    .help("it belongs in the body of a call that ends in \"with\", or in a template or layout for the layout around it");
                self.problems.push(span, diagnostic);
            }
        }
        self.emit(Act::Capture, span);
        self.separate(body, FillsGo::Nowhere);
        self.emit(Act::Fill { name: symbol, mode, to_call }, span);
    }
}

/// Whether a body prints something of its own, and not only fills slots.
fn prints(body: &PlacedBlock) -> bool {
    body.nodes.iter().any(|node| match &node.kind {
        PlacedKind::Text(text) => !text.trim().is_empty(),
        PlacedKind::Into(..) | PlacedKind::Let(..) | PlacedKind::Capture(..) | PlacedKind::Use(_) => false,
        PlacedKind::Edge(_) | PlacedKind::LineStart | PlacedKind::LineEnd(..) => false,
        _ => true,
    })
}

fn leftmost_literal(value: &Expr) -> Option<&str> {
    match &value.kind {
        ExprKind::Text(text) => Some(text),
        ExprKind::Binary(Operator::Plus, left, _) => leftmost_literal(left),
        _ => None,
    }
}

/// What to say of a value that is known not to print.
fn unprintable(of: &Type) -> Option<Diagnostic> {
    match of {
        Type::List(..) => Some(
            Diagnostic::of(&codes::UNPRINTABLE, "a list can't be printed")
                .help("print its members with \"each\", or write .join(\", \")"),
        ),
        Type::Made(_) => Some(
            Diagnostic::of(&codes::UNPRINTABLE, "a record can't be printed")
                .help("print its members, or write it as JSON: json(VALUE)"),
        ),
        _ => None,
    }
}
