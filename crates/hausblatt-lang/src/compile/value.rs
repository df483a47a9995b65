//! Values to flat code, with what is known of their types.

use crate::compile::block::Compiler;
use crate::program::{Arguments, Code, Memory, Mention, Mentioned, QueryPlan, Step};
use crate::syntax::tree::{Expr, ExprKind, Name, Operator, Query};
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::source::Span;
use crate::text::suggest::did_you_mean;
use crate::types::{RecordId, Type, Unlisted};
use crate::value::functions::FUNCTIONS;
use crate::value::members::{self, MEMBERS, Of};
use crate::value::shape::Symbol;

impl Compiler<'_> {
    /// Compiles a value.
    pub fn value(&mut self, value: Expr) -> (Code, Type) {
        let span = value.span;
        let (step, of) = match value.kind {
            ExprKind::Broken | ExprKind::Nothing => (Step::Nothing, Type::Any),
            ExprKind::Bool(truth) => (Step::Bool(truth), Type::Bool),
            ExprKind::Int(number) => (Step::Int(number), Type::Number),
            ExprKind::Float(number) => (Step::Float(number), Type::Number),
            ExprKind::Text(text) => (Step::Text(self.keep_text(&text)), Type::Text),
            ExprKind::List(values) => self.list(values),
            ExprKind::Name(name) => self.name(&name, span),
            ExprKind::Member(value, name) => self.member(*value, &name),
            ExprKind::Method(value, name, arguments) => self.method(*value, &name, arguments),
            ExprKind::Index(value, key) => self.index(*value, *key),
            ExprKind::Function(name, arguments) => self.function(&name, arguments),
            ExprKind::Negate(value) => (Step::Negate(self.value(*value).0), Type::Number),
            ExprKind::Not(value) => (Step::Not(self.value(*value).0), Type::Bool),
            ExprKind::Binary(operator, left, right) => self.binary(operator, *left, *right),
            ExprKind::And(left, right) => self.either(*left, *right, Step::And),
            ExprKind::Or(left, right) => self.either(*left, *right, Step::Or),
            ExprKind::If(condition, yes, no) => {
                let condition = self.value(*condition).0;
                let ((yes, of), (no, other)) = (self.value(*yes), self.value(*no));
                (Step::If(condition, yes, no), common(of, other))
            }
            ExprKind::Query(query) => self.query(*query),
        };
        (self.emit_code(step, span), of)
    }

    fn values(&mut self, values: Vec<Expr>) -> (Arguments, Vec<Type>) {
        let (codes, types): (Vec<Code>, Vec<Type>) = values.into_iter().map(|value| self.value(value)).unzip();
        (self.keep_arguments(&codes), types)
    }

    fn list(&mut self, values: Vec<Expr>) -> (Step, Type) {
        let (arguments, types) = self.values(values);
        let of = types.into_iter().reduce(common).unwrap_or(Type::Any);
        (Step::List(arguments), Type::list(of))
    }

    fn either(&mut self, left: Expr, right: Expr, step: fn(Code, Code) -> Step) -> (Step, Type) {
        let ((left, of), (right, other)) = (self.value(left), self.value(right));
        (step(left, right), common(of, other))
    }

    fn binary(&mut self, operator: Operator, left: Expr, right: Expr) -> (Step, Type) {
        let ((left, of), (right, other)) = (self.value(left), self.value(right));
        let of = match operator {
            Operator::Times | Operator::Divide | Operator::Remainder => Type::Number,
            Operator::Plus if matches!(of, Type::List(..)) || matches!(other, Type::List(..)) => common(of, other),
            Operator::Plus if of == Type::Html || other == Type::Html => Type::Html,
            Operator::Plus if of == Type::Text || other == Type::Text => Type::Text,
            Operator::Plus | Operator::Minus => Type::Any,
            _ => Type::Bool,
        };
        (Step::Binary(operator, left, right), of)
    }

    fn name(&mut self, name: &str, span: Span) -> (Step, Type) {
        if let Some((slot, of)) = self.scope.find(name) {
            return (Step::Slot(slot), of);
        }
        if let Some((number, of)) = self.globals.find(name) {
            if !self.globals_read.contains(&number) {
                self.globals_read.push(number);
            }
            return (Step::Global(number), of.clone());
        }
        if name == "it" {
            let diagnostic =
                Diagnostic::of(&codes::UNKNOWN_NAME, "\"it\" is the member of a query, and there is no query here");
            self.problems.push(span, diagnostic.help("it can be used after \"where\", \"group by\" and \"order by\""));
            return (Step::Nothing, Type::Any);
        }
        let known: Vec<&str> = self.scope.names().chain(self.globals.names()).collect();
        let diagnostic = Diagnostic::of(&codes::UNKNOWN_NAME, format!("unknown name \"{name}\"")).meaning(name, known);
        let help = || {
            format!(
                "name it with \"let\", take it as a parameter, or write collections.{name} if a site may lack that collection"
            )
        };
        self.problems.push(span, diagnostic.or_help(help));
        (Step::Nothing, Type::Any)
    }

    fn member(&mut self, value: Expr, name: &Name) -> (Step, Type) {
        let (code, of) = self.value(value);
        let member = self.member_type(&of, name, None);
        let symbol = self.symbols.intern(&name.text);
        let step = match self.code(code) {
            _ if name.text == "keys" => Step::Member(code, symbol),
            Step::Slot(slot) => Step::SlotMember(slot, symbol),
            Step::Global(number) => Step::GlobalMember(number, symbol),
            _ => Step::Member(code, symbol),
        };
        if matches!(step, Step::SlotMember(..) | Step::GlobalMember(..)) {
            self.take_back_code(code);
        }
        (step, member)
    }

    fn method(&mut self, value: Expr, name: &Name, arguments: Vec<Expr>) -> (Step, Type) {
        let (code, of) = self.value(value);
        let member = self.member_type(&of, name, Some(arguments.len()));
        let (arguments, _) = self.values(arguments);
        let symbol = self.symbols.intern(&name.text);
        (Step::Method(code, symbol, arguments), member)
    }

    fn index(&mut self, value: Expr, key: Expr) -> (Step, Type) {
        let (value, of) = self.value(value);
        let key = self.value(key).0;
        let of = match of {
            Type::List(of, _) => *of,
            _ => Type::Any,
        };
        (Step::Index(value, key), of)
    }

    fn function(&mut self, name: &Name, arguments: Vec<Expr>) -> (Step, Type) {
        if name.text == "filled" {
            return self.filled(name, &arguments);
        }
        let Some(at) = FUNCTIONS.iter().position(|function| function.name == name.text) else {
            let known = FUNCTIONS.iter().map(|function| function.name).chain(["filled"]);
            let message = format!("unknown function \"{}\"", name.text);
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_FUNCTION, message).meaning(&name.text, known.clone());
            let help = || format!("the functions are {}", known.collect::<Vec<_>>().join(", "));
            self.problems.push(name.span, diagnostic.or_help(help));
            return (Step::Nothing, Type::Any);
        };
        let wanted = FUNCTIONS[at].arguments;
        if wanted != arguments.len() {
            self.count_arguments(name, wanted, arguments.len());
            return (Step::Nothing, Type::Any);
        }
        self.mention(&name.text, arguments.first());
        let (arguments, _) = self.values(arguments);
        let of = match name.text.as_str() {
            "range" => Type::list(Type::Number),
            "markdown" => Type::Html,
            "image" => Type::Any,
            _ => Type::Text,
        };
        (Step::Function(u8::try_from(at).unwrap_or(0), arguments), of)
    }

    fn mention(&mut self, function: &str, argument: Option<&Expr>) {
        let Some(Expr { kind: ExprKind::Text(text), span, .. }) = argument else { return };
        let what = match function {
            "url" => Mentioned::Reference,
            "asset" => Mentioned::Asset,
            _ => return,
        };
        self.mentions.push(Mention { what, text: text.clone(), span: *span });
    }

    fn filled(&mut self, name: &Name, arguments: &[Expr]) -> (Step, Type) {
        self.count_arguments(name, 1, arguments.len());
        let slot = match arguments.first().map(|argument| &argument.kind) {
            Some(ExprKind::Text(slot)) => Some(self.symbols.intern(slot)),
            _ => {
                let diagnostic = Diagnostic::of(&codes::LITERAL_NEEDED, "the slot's name must be a quoted text");
                self.problems.push(name.span, diagnostic.help("write it as in filled(\"aside\")"));
                None
            }
        };
        (Step::Filled(slot), Type::Bool)
    }

    fn count_arguments(&mut self, name: &Name, wanted: usize, given: usize) {
        if wanted != given {
            let plural = if wanted == 1 { "" } else { "s" };
            let message = format!("\"{}\" takes {wanted} argument{plural}, not {given}", name.text);
            self.problems.add(&codes::ARGUMENT_COUNT, name.span, message);
        }
    }

    /// What is known of a member, with a report where there can be none of that name.
    fn member_type(&mut self, of: &Type, name: &Name, arguments: Option<usize>) -> Type {
        match of {
            Type::Any | Type::Bool => Type::Any,
            Type::Record(id) => self.record_member(*id, name),
            Type::List(of, own) => self.list_member(of, *own, name, arguments),
            Type::Text => self.table_member(Of::Text, "a text", name, arguments),
            Type::Number => self.table_member(Of::Number, "a number", name, arguments),
            Type::Date => self.table_member(Of::Date, "a date", name, arguments),
            Type::Html => self.table_member(Of::Html, "HTML", name, arguments),
        }
    }

    fn record_member(&mut self, id: RecordId, name: &Name) -> Type {
        let Some(record) = self.globals.record_type(id) else { return Type::Any };
        if name.text == "keys" {
            return Type::list(Type::Text);
        }
        if let Some((_, of)) = record.members.iter().find(|(member, _)| *member == name.text) {
            return of.clone();
        }
        let members = || record.members.iter().map(|(member, _)| member.as_str());
        let diagnostic = match record.unlisted {
            Unlisted::Fine => return Type::Any,
            Unlisted::Error => {
                Diagnostic::of(&codes::UNKNOWN_MEMBER, format!("{} has no \"{}\"", record.name, name.text))
                    .meaning(&name.text, members())
            }
            Unlisted::Lacking(what) => {
                Diagnostic::of(&codes::MISSING_ON_SITE, format!("the site has no {what} \"{}\"", name.text))
            }
            Unlisted::Warning => Diagnostic::warning(
                &codes::UNKNOWN_FIELD,
                format!("no content has or declares a field \"{}\"", name.text),
            ),
        };
        // What one site lacks, another may have: there the nearest name is a guess.
        let help = did_you_mean(&name.text, members());
        self.problems.push(name.span, diagnostic.maybe_help(help));
        Type::Any
    }

    fn list_member(&mut self, of: &Type, own: Option<RecordId>, name: &Name, arguments: Option<usize>) -> Type {
        let own = own.and_then(|id| self.globals.record_type(id));
        if let Some((_, of)) = own.and_then(|record| record.members.iter().find(|(member, _)| *member == name.text)) {
            return of.clone();
        }
        let member = self.table_member(Of::List, "a list", name, arguments);
        match name.text.as_str() {
            "first" | "last" => of.clone(),
            "reverse" | "unique" => Type::list(of.clone()),
            _ => member,
        }
    }

    fn table_member(&mut self, of: Of, what: &str, name: &Name, arguments: Option<usize>) -> Type {
        let rows = || MEMBERS.iter().filter(|member| member.of == of);
        let Some(member) = rows().find(|member| member.name() == name.text) else {
            let names: Vec<&str> = rows().map(members::Member::name).collect();
            let help = || match of {
                Of::List => "go through a list with \"each\", or take one member with .first or [0]".to_owned(),
                _ => format!("{what} has {}", names.join(", ")),
            };
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_MEMBER, format!("{what} has no \"{}\"", name.text));
            self.problems.push(name.span, diagnostic.meaning(&name.text, names.iter().copied()).or_help(help));
            return Type::Any;
        };
        if member.arguments != arguments.unwrap_or(0) || (member.arguments > 0 && arguments.is_none()) {
            self.count_arguments(name, member.arguments, arguments.unwrap_or(0));
        }
        member_result(of, member.symbol)
    }

    fn query(&mut self, query: Query) -> (Step, Type) {
        let (list, of) = self.value(query.list);
        let member = match &of {
            Type::List(member, _) => (**member).clone(),
            _ => Type::Any,
        };
        let slot = self.scope.slot();
        let name = query.name.map(|name| (name.text, name.span));
        let names: Vec<(String, Span)> = self.loop_name.take().into_iter().chain(name).collect();
        let bind = |compiler: &mut Self, of: &Type| {
            compiler.scope.enter();
            compiler.scope.bind("it", slot, of.clone(), Span::default());
            for (name, span) in &names {
                compiler.scope.bind(name, slot, of.clone(), *span);
            }
        };
        bind(self, &member);
        let filter = query.filter.map(|value| self.value(value).0);
        let group = query.group.map(|value| self.value(value).0);
        self.scope.leave();
        let of = if group.is_some() { Type::Any } else { member };
        bind(self, &of);
        let order = query.order.into_iter().map(|(value, descending)| (self.value(value).0, descending)).collect();
        self.scope.leave();
        let offset = query.offset.map(|value| self.value(value).0);
        let limit = query.limit.map(|value| self.value(value).0);
        let mut plan = QueryPlan {
            list,
            slot,
            filter,
            group,
            order,
            offset,
            limit,
            is_constant: false,
            presorts: false,
            lookup: None,
            memory: Memory::default(),
        };
        self.plan(&mut plan);
        (Step::Query(self.keep_query(plan)), Type::list(of))
    }
}

/// What is known of a value that is one of two.
fn common(a: Type, b: Type) -> Type {
    if a == b { a } else { Type::Any }
}

fn member_result(of: Of, symbol: Symbol) -> Type {
    match (of, symbol) {
        (Of::Text, members::DATE) => Type::Date,
        (Of::Text, members::SPLIT) => Type::list(Type::Text),
        (Of::Text, members::STARTS | members::ENDS) => Type::Bool,
        (Of::Text, members::LENGTH | members::NUMBER) => Type::Number,
        (Of::Number, members::ROUND) | (Of::List, members::COUNT | members::SUM) => Type::Number,
        (Of::Date, members::FORMAT | members::STAMP)
        | (Of::Text | Of::Number | Of::Html, _)
        | (Of::List, members::JOIN) => Type::Text,
        (Of::Date, _) => Type::Number,
        (Of::List, _) => Type::Any,
        (Of::Record, _) => Type::list(Type::Text),
    }
}
