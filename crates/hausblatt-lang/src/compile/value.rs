//! Values to flat code, with what is known of their types.

use std::sync::LazyLock;

use crate::compile::block::Compiler;
use crate::compile::never::Operand;
use crate::program::{Arguments, Code, ExpectedNames, Meaning, Memory, Mention, Mentioned, QueryPlan, Step};
use crate::syntax::slips;
use crate::syntax::tree::{Expr, ExprKind, Name, Operator, Query};
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::source::Span;
use crate::text::suggest::{did_you_mean, joined, meant_or_all};
use crate::types::{ROUND, RecordId, RecordType, Type, Unlisted};
use crate::value::functions::FUNCTIONS;
use crate::value::members::{self, MEMBERS, Of};
use crate::value::shape::Symbol;

impl Compiler<'_> {
    /// Compiles a value.
    pub fn value(&mut self, value: Expr) -> (Code, Type) {
        let span = value.span;
        let (step, of) = match value.kind {
            ExprKind::Broken => (Step::Nothing, Type::Any),
            ExprKind::Nothing => (Step::Nothing, Type::Nothing),
            ExprKind::Bool(truth) => (Step::Bool(truth), Type::Bool),
            ExprKind::Int(number) => (Step::Int(number), Type::Number),
            ExprKind::Float(number) => (Step::Float(number), Type::Number),
            ExprKind::Text(text) => (Step::Text(self.keep_text(&text)), Type::Text),
            ExprKind::List(values) => self.list(values),
            ExprKind::Record(members) => self.record(members),
            ExprKind::Name(name) => self.name(&name, span),
            ExprKind::Member(value, name) => self.member(*value, &name),
            ExprKind::Method(value, name, arguments) => self.method(*value, &name, arguments),
            ExprKind::Index(value, key) => self.index(*value, *key),
            ExprKind::Function(name, arguments) => self.function(&name, arguments),
            ExprKind::Negate(value) => (Step::Negate(self.value(*value).0), Type::Number),
            ExprKind::Not(value) => (Step::Not(self.condition(*value)), Type::Bool),
            ExprKind::Binary(operator, left, right) => self.binary(operator, *left, *right),
            ExprKind::And(left, right) => self.either(*left, *right, Step::And),
            ExprKind::Or(left, right) => self.either(*left, *right, Step::Or),
            ExprKind::If(condition, yes, no) => {
                let condition = self.condition(*condition);
                let ((yes, of), (no, other)) = (self.value(*yes), self.value(*no));
                (Step::If(condition, yes, no), of.join(other))
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
        let of = types.into_iter().reduce(Type::join).unwrap_or(Type::Nothing);
        (Step::List(arguments), Type::list(of))
    }

    fn record(&mut self, members: Vec<(Name, Expr)>) -> (Step, Type) {
        let mut names = Vec::new();
        let mut known = Vec::new();
        let mut codes = Vec::new();
        for (name, value) in members {
            names.push(self.symbols.intern(&name.text));
            let (code, of) = self.value(value);
            codes.push(code);
            known.push((name.text, of));
        }
        let number = self.keep_names(names);
        (Step::Record(number, self.keep_arguments(&codes)), Type::made(known))
    }

    /// A value that is asked whether it counts as true.
    pub(super) fn condition(&mut self, value: Expr) -> Code {
        let span = value.span;
        self.check_quotes(&value);
        let (code, of) = self.value(value);
        self.check_condition(&of, span);
        self.ask_only(code);
        code
    }

    /// Says nothing of a name that the site lacks where that is the question.
    fn ask_only(&mut self, code: Code) {
        if let Step::Named(_, value, key) = self.code(code) {
            self.replace_code(code, Step::Index(value, key));
        }
    }

    fn check_condition(&mut self, of: &Type, span: Span) {
        if let Type::Made(_) = of {
            let diagnostic = Diagnostic::of(&codes::BAD_TAG, "this is a record, which always counts as true");
            self.problems.push(span, diagnostic.help("write \"==\" to compare two values"));
        }
    }

    fn either(&mut self, left: Expr, right: Expr, step: fn(Code, Code) -> Step) -> (Step, Type) {
        let spans = (left.span, right.span);
        let ((left, of), (right, other)) = (self.value(left), self.value(right));
        self.check_condition(&of, spans.0);
        self.check_condition(&other, spans.1);
        self.ask_only(left);
        (step(left, right), of.join(other))
    }

    fn binary(&mut self, operator: Operator, left: Expr, right: Expr) -> (Step, Type) {
        let (a, b) = (Operand::new(&left), Operand::new(&right));
        let compares = matches!(operator, Operator::Equal | Operator::Unequal | Operator::In | Operator::Has);
        let member = member_name(&left).or_else(|| member_name(&right)).filter(|_| compares);
        let texts = [texts_of(&left), texts_of(&right)].concat();
        let ((left, of), (right, other)) = (self.value(left), self.value(right));
        if let Some(member) = member
            && let Some(Meaning::Member(name, records)) = self.meaning_of(member).cloned()
        {
            texts.into_iter().for_each(|text| self.word(text, Meaning::Compared(name, records.clone())));
        }
        self.check_comparison(operator, &a.of(&of), &b.of(&other));
        let of = match operator {
            Operator::Times | Operator::Divide | Operator::Remainder => Type::Number,
            Operator::Plus if matches!(of, Type::List(..)) || matches!(other, Type::List(..)) => of.join(other),
            Operator::Plus if of == Type::Html || other == Type::Html => Type::Html,
            Operator::Plus if of == Type::Text || other == Type::Text => Type::Text,
            Operator::Plus | Operator::Minus => Type::Any,
            _ => Type::Bool,
        };
        (Step::Binary(operator, left, right), of)
    }

    fn name(&mut self, name: &str, span: Span) -> (Step, Type) {
        if let Some((slot, of)) = self.scope.find(name) {
            let symbol = self.symbols.intern(name);
            let is_parameter = usize::from(slot) < self.calls_given.len();
            self.word(span, if is_parameter { Meaning::Parameter(symbol) } else { Meaning::Own(symbol, slot) });
            return (Step::Slot(slot), of);
        }
        if let Some((number, of)) = self.globals.find(name) {
            self.word(span, Meaning::Global(number));
            if !self.globals_read.contains(&number) {
                self.globals_read.push(number);
            }
            let narrowed = self.narrowed.iter().find(|(known, _)| known == name).map(|(_, of)| of);
            return (Step::Global(number), narrowed.unwrap_or(of).clone());
        }
        if name == "it" {
            let diagnostic =
                Diagnostic::of(&codes::UNKNOWN_NAME, "\"it\" is the member of a query, and there is no query here");
            self.problems.push(span, diagnostic.help("it can be used after \"where\", \"group by\" and \"order by\""));
            return (Step::Nothing, Type::Any);
        }
        let own: Vec<String> = self.scope.names().map(str::to_owned).collect();
        let own = own.iter().map(|name| self.symbols.intern(name)).collect();
        self.word(span, Meaning::Unknown(own));
        let known: Vec<&str> = self.scope.names().chain(self.globals.names()).collect();
        let diagnostic = Diagnostic::of(&codes::UNKNOWN_NAME, format!("unknown name \"{name}\""));
        let member = self.scope.member_type().is_some_and(|of| self.may_have(&of, name));
        let diagnostic = match slips::value(name) {
            _ if member => diagnostic.help(format!("the member of a query is it: write it.{name}")),
            Some(help) => diagnostic.help(help),
            None => diagnostic.meaning(name, known),
        };
        let help = || {
            format!(
                "name it with \"let\", take it as a parameter, or write collections.{name} if a site may lack that collection"
            )
        };
        self.problems.push(span, diagnostic.or_help(help));
        (Step::Nothing, Type::Any)
    }

    fn member(&mut self, value: Expr, name: &Name) -> (Step, Type) {
        let root = self.parameter_of(&value);
        let (code, of) = self.value(value);
        self.note_member(&of, name);
        let member = self.member_type(&of, name, None, root);
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
        let root = self.parameter_of(&value);
        let is_today = matches!(&value.kind, ExprKind::Name(name) if name == "today");
        let (code, of) = self.value(value);
        let member = self.member_type(&of, name, Some(arguments.len()), root);
        if of == Type::Date && name.text == "format" {
            self.check_pattern(is_today, &arguments);
        }
        if name.text == "format" {
            self.check_language(&arguments);
        }
        let (arguments, _) = self.values(arguments);
        let symbol = self.symbols.intern(&name.text);
        (Step::Method(code, symbol, arguments), member)
    }

    fn index(&mut self, value: Expr, key: Expr) -> (Step, Type) {
        let root = self.parameter_of(&value);
        let (value, of) = self.value(value);
        let (of, expected) = match (&key.kind, of.records()) {
            (_, []) => (of.member(), None),
            (ExprKind::Text(name), _) => {
                let name = Name { text: name.clone(), span: key.span };
                self.note_member(&of, &name);
                (self.member_type(&of, &name, None, root), None)
            }
            (_, records) => (self.any_member(records), self.expected(records)),
        };
        let key = self.value(key).0;
        match expected {
            Some(expected) => (Step::Named(self.keep_expected(expected), value, key), of),
            None => (Step::Index(value, key), of),
        }
    }

    /// Notes whose member a name is; of what no record has it is nobody's.
    fn note_member(&mut self, of: &Type, name: &Name) {
        let symbol = self.symbols.intern(&name.text);
        let kind = match of {
            Type::Text => Some(Of::Text),
            Type::Number => Some(Of::Number),
            Type::Date => Some(Of::Date),
            Type::Html => Some(Of::Html),
            Type::List(_, None) => Some(Of::List),
            _ => None,
        };
        if let Some(kind) = kind {
            return self.word(name.span, Meaning::PartOf(symbol, kind));
        }
        let records: Box<[RecordId]> = match of {
            Type::Any => Box::new([]),
            Type::List(_, Some(own)) => Box::new([*own]),
            _ if of.records().is_empty() => return,
            _ => of.records().into(),
        };
        self.word(name.span, Meaning::Member(symbol, records));
    }

    /// The names of records that hold what the site has, if they are of one such sort.
    fn expected(&mut self, ids: &[RecordId]) -> Option<ExpectedNames> {
        let globals = self.globals;
        let records: Vec<&RecordType> = ids.iter().filter_map(|id| globals.record_type(*id)).collect();
        let Unlisted::Lacking(what) = records.first()?.unlisted else { return None };
        if records.iter().any(|record| record.unlisted != Unlisted::Lacking(what)) {
            return None;
        }
        let members = records.iter().flat_map(|record| &record.members);
        let names = members.map(|(name, _)| self.symbols.intern(name)).collect();
        Some(ExpectedNames { what, names })
    }

    fn function(&mut self, name: &Name, arguments: Vec<Expr>) -> (Step, Type) {
        if name.text == "filled" {
            return self.filled(name, &arguments);
        }
        let Some(at) = FUNCTIONS.iter().position(|function| function.name == name.text) else {
            let known = FUNCTIONS.iter().map(|function| function.name).chain(["filled"]);
            let message = format!("unknown function \"{}\"", name.text);
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_FUNCTION, message);
            let is_member = MEMBERS.iter().any(|member| member.name() == name.text);
            let diagnostic = match slips::function(&name.text) {
                Some(help) => diagnostic.help(help),
                None if is_member => diagnostic.help(format!("it comes after the value: VALUE.{}", name.text)),
                None => diagnostic.meaning(&name.text, known.clone()),
            };
            let help = || format!("the functions are {}", known.collect::<Vec<_>>().join(", "));
            self.problems.push(name.span, diagnostic.or_help(help));
            return (Step::Nothing, Type::Any);
        };
        let (least, given) = (FUNCTIONS[at].arguments, arguments.len());
        let most = least + FUNCTIONS[at].optional;
        if !(least..=most).contains(&given) {
            self.count_arguments(name, if given > most { most } else { least }, given);
            return (Step::Nothing, Type::Any);
        }
        self.mention(&name.text, arguments.first());
        if let ("range", [Expr { kind: ExprKind::Int(from), span, .. }, Expr { kind: ExprKind::Int(to), .. }]) =
            (name.text.as_str(), arguments.as_slice())
            && from > to
        {
            let message = format!("range({from}, {to}) is empty: it counts upwards");
            let help = format!("write range({to}, {from}).reverse");
            self.problems.push(*span, Diagnostic::of(&codes::POINTLESS_COMPARISON, message).help(help));
        }
        if let ("absolute", Some(Expr { kind: ExprKind::Text(text), span, .. })) =
            (name.text.as_str(), arguments.first())
            && !text.starts_with(['/', '#', '?'])
            && !text.starts_with("http")
        {
            let message = format!("\"absolute\" takes an address, and \"{text}\" is none");
            let help = match text.contains(':') {
                true => format!("write: absolute(url(\"{text}\"))"),
                false => "an address of the site begins with \"/\"".to_owned(),
            };
            self.problems.push(*span, Diagnostic::of(&codes::DEAD_REFERENCE, message).help(help));
        }
        let literal = match arguments.first().map(|argument| &argument.kind) {
            Some(ExprKind::Text(text)) => Some(text.clone()),
            _ => None,
        };
        let (arguments, _) = self.values(arguments);
        let of = match name.text.as_str() {
            "page" => self.globals.content("page"),
            "entry" => {
                let collection = literal.as_deref().and_then(|id| id.split('/').next());
                collection.map_or(Type::Any, |collection| self.globals.content(&format!("entry:{collection}")))
            }
            "range" => Type::list(Type::Number),
            "markdown" | "inline" => Type::Html,
            "image" => self.globals.image(),
            _ => Type::Text,
        };
        (Step::Function(u8::try_from(at).unwrap_or(0), arguments), of)
    }

    fn mention(&mut self, function: &str, argument: Option<&Expr>) {
        let Some(Expr { kind: ExprKind::Text(text), span, .. }) = argument else { return };
        let (what, text) = match function {
            "url" => (Mentioned::Reference, text.clone()),
            "asset" | "inline" => (Mentioned::Asset, text.clone()),
            "page" | "entry" => (Mentioned::Content, format!("{function}:{text}")),
            _ => return,
        };
        self.mentions.push(Mention { what, text, span: *span });
    }

    fn filled(&mut self, name: &Name, arguments: &[Expr]) -> (Step, Type) {
        self.count_arguments(name, 1, arguments.len());
        let slot = match arguments.first().map(|argument| &argument.kind) {
            Some(ExprKind::Text(slot)) => {
                let symbol = self.symbols.intern(slot);
                self.asked_filled.push((symbol, arguments[0].span));
                Some(symbol)
            }
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
            let help = match wanted {
                0 => "leave out the brackets and what is in them".to_owned(),
                _ => format!("write {wanted} value{plural} in the brackets"),
            };
            self.problems.push(name.span, Diagnostic::of(&codes::ARGUMENT_COUNT, message).help(help));
        }
    }

    /// The parameter that a value is made of: `entry` of `entry.image.address`.
    pub(super) fn parameter_of(&self, value: &Expr) -> Option<u16> {
        match &value.kind {
            ExprKind::Name(name) => self.scope.parameter(name),
            ExprKind::Member(value, _) | ExprKind::Method(value, ..) | ExprKind::Index(value, _) => {
                self.parameter_of(value)
            }
            ExprKind::Query(query) => self.parameter_of(&query.list),
            _ => None,
        }
    }

    /// What is known of a member, with a report where there can be none of that name. `root` is the parameter that the
    /// value is made of.
    fn member_type(&mut self, of: &Type, name: &Name, arguments: Option<usize>, root: Option<u16>) -> Type {
        let found = match of {
            Type::Any => return Type::Any,
            Type::Nothing => return Type::Nothing,
            Type::Bool => {
                Err(Diagnostic::of(&codes::UNKNOWN_MEMBER, format!("true or false has no \"{}\"", name.text)))
            }
            Type::Record(_) if *of == self.globals.image() && is_of_images(&name.text) => {
                self.table_member(Of::Image, "an image", name, arguments)
            }
            Type::Record(_) | Type::OneOf(_) => self.record_member(of.records(), name),
            Type::Group(key, of) => self.group_member(key, of, name),
            Type::Made(members) => made_member(members, name),
            Type::Round => self.round_member(name),
            Type::List(of, own) => self.list_member(of, *own, name, arguments),
            Type::Text => self.table_member(Of::Text, "a text", name, arguments),
            Type::Number => self.table_member(Of::Number, "a number", name, arguments),
            Type::Date => self.table_member(Of::Date, "a date", name, arguments),
            Type::Html => self.table_member(Of::Html, "HTML", name, arguments),
        };
        found.unwrap_or_else(|diagnostic| {
            let call = root.and_then(|root| self.calls_given.get(usize::from(root))?.as_ref()?.call.as_ref());
            let diagnostic = match call {
                Some(call) => diagnostic.related(&call.path, call.span, "a call that gives it"),
                None => diagnostic,
            };
            self.problems.push(name.span, diagnostic);
            Type::Any
        })
    }

    /// A member of a record that is of one of these sorts.
    fn record_member(&self, ids: &[RecordId], name: &Name) -> Result<Type, Diagnostic> {
        let records: Vec<&RecordType> = ids.iter().filter_map(|id| self.globals.record_type(*id)).collect();
        if name.text == "keys" {
            return Ok(Type::list(Type::Text));
        }
        let members = records.iter().flat_map(|record| &record.members);
        if let Some(of) =
            members.clone().filter(|(member, _)| *member == name.text).map(|(_, of)| of.clone()).reduce(Type::join)
        {
            return Ok(of);
        }
        let Some(first) = records.first() else { return Ok(Type::Any) };
        if records.iter().any(|record| record.unlisted == Unlisted::Fine) {
            return Ok(Type::Any);
        }
        let of_images: &[&str] = if self.globals.image().records() == ids { &OF_IMAGES } else { &[] };
        let names = || members.clone().map(|(member, _)| member.as_str()).chain(of_images.iter().copied());
        // Of sorts of which one has all that the others have, that one is spoken of.
        let has_all =
            |one: &&&RecordType| members.clone().all(|(name, _)| one.members.iter().any(|(own, _)| own == name));
        let records = records.iter().find(has_all).map_or(records.clone(), |widest| vec![*widest]);
        // What one site lacks, another may have: there the nearest name is a guess.
        let may_be = records.iter().any(|record| record.unlisted == Unlisted::Warning);
        let diagnostic = match first.unlisted {
            _ if may_be => {
                let sorts: Vec<String> = records.iter().map(|record| format!("no {}", record.noun())).collect();
                let message = format!("{} has or declares a field \"{}\"", joined(&sorts, "and"), name.text);
                let help = did_you_mean(&name.text, names()).or_else(|| called_here(name, names()));
                Diagnostic::warning(&codes::UNKNOWN_FIELD, message).maybe_help(help)
            }
            Unlisted::Lacking(what) if records.iter().all(|record| record.unlisted == first.unlisted) => {
                let message = format!("the site has no {what} \"{}\"", name.text);
                Diagnostic::of(&codes::MISSING_ON_SITE, message).maybe_help(meant_or_all(&name.text, names()))
            }
            _ => {
                let message = match records.as_slice() {
                    [one] => format!("{} has no \"{}\"", one.name, name.text),
                    all => {
                        let names: Vec<String> = all.iter().map(|record| record.name.clone()).collect();
                        format!("\"{}\" is a member of neither {}", name.text, joined(&names, "nor"))
                    }
                };
                let diagnostic = Diagnostic::of(&codes::UNKNOWN_MEMBER, message).meaning(&name.text, names());
                let slip = diagnostic.help.is_none().then(|| called_here(name, names())).flatten();
                // A theme that looks for its settings in the theme.
                let of_settings =
                    (first.name == "the theme" || first.name == "the site") && self.is_setting(&name.text);
                let settings = || format!("it is a setting: settings.{}", name.text);
                let diagnostic = diagnostic.maybe_help(slip);
                let declare = || "declare it under [settings] in the manifest of a theme".to_owned();
                let diagnostic = if first.name == "the lineage" { diagnostic.or_help(declare) } else { diagnostic };
                if of_settings { diagnostic.help(settings()) } else { diagnostic }
            }
        };
        let declared = records.iter().find_map(|record| record.declared.as_ref());
        Err(match declared {
            Some(place) => diagnostic.related(&place.path, place.span, "it is declared here"),
            None => diagnostic,
        })
    }

    /// What is known of a member of these records whose name is computed.
    fn any_member(&self, ids: &[RecordId]) -> Type {
        let records: Vec<&RecordType> = ids.iter().filter_map(|id| self.globals.record_type(*id)).collect();
        if records.iter().any(|record| record.unlisted == Unlisted::Fine) {
            return Type::Any;
        }
        let members = records.iter().flat_map(|record| &record.members).map(|(_, of)| of.clone());
        members.reduce(Type::join).unwrap_or(Type::Any)
    }

    fn group_member(&self, key: &Type, of: &Type, name: &Name) -> Result<Type, Diagnostic> {
        match name.text.as_str() {
            "key" => Ok(key.clone()),
            "items" => Ok(Type::list(of.clone())),
            "keys" => Ok(Type::list(Type::Text)),
            _ => {
                let message = format!("a group has no \"{}\", only \"key\" and \"items\"", name.text);
                let diagnostic = Diagnostic::of(&codes::UNKNOWN_MEMBER, message);
                Err(match self.may_have(of, &name.text) {
                    true => diagnostic.help(format!("ask one of its members: .items.first.{}", name.text)),
                    false => diagnostic.meaning(&name.text, ["key", "items"]),
                })
            }
        }
    }

    fn round_member(&self, name: &Name) -> Result<Type, Diagnostic> {
        match name.text.as_str() {
            "number" | "count" => Ok(Type::Number),
            "first" | "last" => Ok(Type::Bool),
            "keys" => Ok(Type::list(Type::Text)),
            _ => {
                let message = format!("the counters of a loop have no \"{}\"", name.text);
                let diagnostic =
                    Diagnostic::of(&codes::UNKNOWN_MEMBER, message).meaning(&name.text, ROUND.iter().copied());
                Err(diagnostic
                    .or_help(|| format!("they are {}; in each x, at in LIST the member comes first", ROUND.join(", "))))
            }
        }
    }

    fn is_setting(&self, name: &str) -> bool {
        self.globals.find("settings").is_some_and(|(_, of)| self.may_have(of, name))
    }

    /// Whether a value of this type can have a member of this name.
    fn may_have(&self, of: &Type, name: &str) -> bool {
        let records = of.records().iter().filter_map(|id| self.globals.record_type(*id));
        records.flat_map(|record| &record.members).any(|(member, _)| member == name)
    }

    fn list_member(
        &mut self,
        of: &Type,
        own: Option<RecordId>,
        name: &Name,
        arguments: Option<usize>,
    ) -> Result<Type, Diagnostic> {
        let own = own.and_then(|id| self.globals.record_type(id));
        if let Some((_, of)) = own.and_then(|record| record.members.iter().find(|(member, _)| *member == name.text)) {
            return Ok(of.clone());
        }
        if self.may_have(of, &name.text)
            && !MEMBERS.iter().any(|member| member.of == Of::List && member.name() == name.text)
        {
            let message = format!("a list has no \"{}\", only its members have", name.text);
            let help = format!("go through it with \"each\", or take one of them, as in .first.{}", name.text);
            return Err(Diagnostic::of(&codes::UNKNOWN_MEMBER, message).help(help));
        }
        let member = self.table_member(Of::List, "a list", name, arguments)?;
        Ok(match name.text.as_str() {
            "first" | "last" | "min" | "max" => of.clone(),
            "reverse" | "unique" | "common" => Type::list(of.clone()),
            "has_any" => Type::Bool,
            _ => member,
        })
    }

    fn table_member(&mut self, of: Of, what: &str, name: &Name, arguments: Option<usize>) -> Result<Type, Diagnostic> {
        let rows = || MEMBERS.iter().filter(|member| member.of == of);
        let Some(member) = rows().find(|member| member.name() == name.text) else {
            let names: Vec<&str> = rows().map(members::Member::name).collect();
            let help = || match of {
                Of::List => "go through a list with \"each\", or take one member with .first or [0]".to_owned(),
                _ => format!("{what} has {}", names.join(", ")),
            };
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_MEMBER, format!("{what} has no \"{}\"", name.text));
            let of_list = of == Of::Text && ["first", "last", "join", "reverse", "sum"].contains(&name.text.as_str());
            let slip = match slips::method(&name.text) {
                _ if of_list => Some("that is asked of a list; .split(\",\") makes one of a text".to_owned()),
                Some(help) => Some(help.to_owned()),
                None => called_here(name, names.iter().copied()),
            };
            return Err(match slip {
                Some(slip) => diagnostic.help(slip),
                None => diagnostic.meaning(&name.text, names.iter().copied()).or_help(help),
            });
        };
        if !member.accepts(arguments.unwrap_or(0)) || (member.arguments > 0 && arguments.is_none()) {
            let given = arguments.unwrap_or(0);
            let most = if member.accepts(member.arguments + 1) { member.arguments + 1 } else { member.arguments };
            self.count_arguments(name, if given > most { most } else { member.arguments }, given);
        }
        Ok(match (of, member.symbol) {
            (Of::Image, members::SRCSET) => Type::Any,
            (Of::Image, _) => self.globals.image(),
            _ => member_result(of, member.symbol),
        })
    }

    fn query(&mut self, query: Query) -> (Step, Type) {
        let parameter = self.parameter_of(&query.list);
        let span = query.list.span;
        let (list, of) = self.value(query.list);
        let member = of.member();
        let slot = self.scope.slot();
        if let Some(name) = &query.name {
            let symbol = self.symbols.intern(&name.text);
            self.word(name.span, Meaning::Made(symbol, slot));
        }
        let name = query.name.map(|name| (name.text, name.span));
        let names: Vec<(String, Span)> = self.loop_name.take().into_iter().chain(name).collect();
        let bind = |compiler: &mut Self, of: &Type| {
            compiler.scope.enter();
            compiler.scope.bind("it", slot, of.clone(), Span::default());
            compiler.scope.comes_from(parameter);
            for (name, span) in &names {
                compiler.scope.bind(name, slot, of.clone(), *span);
                compiler.scope.comes_from(parameter);
            }
        };
        bind(self, &member);
        let filter = query.filter.map(|value| self.condition(value));
        let group = query.group.map(|value| self.value(value));
        self.scope.leave();
        let (group, of) = match group {
            Some((group, key)) => (Some(group), Type::group(key, member)),
            None => (None, member),
        };
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
        let only_selects = plan.filter.is_none() && plan.group.is_none() && plan.order.is_empty();
        let only_selects = only_selects && plan.offset.is_none() && plan.limit.is_none() && query.select.is_some();
        let step = match only_selects {
            true => None,
            false => {
                self.plan(&mut plan);
                Some(Step::Query(self.keep_query(plan)))
            }
        };
        let Some(value) = query.select else { return (step.unwrap_or(Step::Nothing), Type::list(of)) };
        let list = step.map_or(list, |step| self.emit_code(step, span));
        // A slot of its own: what is selected is evaluated when the list is complete.
        let slot = self.scope.slot();
        self.scope.enter();
        for (name, span) in std::iter::once(("it".to_owned(), Span::default())).chain(names) {
            self.scope.bind(&name, slot, of.clone(), span);
            self.scope.comes_from(parameter);
        }
        let (value, of) = self.value(value);
        self.scope.leave();
        (Step::Select(list, slot, value), Type::list(of))
    }
}

/// Where the name of a member is, of a value that is one.
fn member_name(value: &Expr) -> Option<Span> {
    match &value.kind {
        ExprKind::Member(_, name) => Some(name.span),
        _ => None,
    }
}

/// The texts that are written out in a value: itself, or members of a list.
fn texts_of(value: &Expr) -> Vec<Span> {
    match &value.kind {
        ExprKind::Text(_) => vec![value.span],
        ExprKind::List(members) => members.iter().flat_map(texts_of).collect(),
        _ => Vec::new(),
    }
}

/// The members that images have and other records do not.
static OF_IMAGES: LazyLock<Vec<&str>> =
    LazyLock::new(|| MEMBERS.iter().filter(|member| member.of == Of::Image).map(members::Member::name).collect());

fn is_of_images(name: &str) -> bool {
    OF_IMAGES.contains(&name)
}

/// A member of a record that is written out.
fn made_member(members: &[(String, Type)], name: &Name) -> Result<Type, Diagnostic> {
    if name.text == "keys" {
        return Ok(Type::list(Type::Text));
    }
    let names = || members.iter().map(|(member, _)| member.as_str());
    let found = members.iter().find(|(member, _)| *member == name.text).map(|(_, of)| of.clone());
    found.ok_or_else(|| {
        let message = format!("this record has no \"{}\"", name.text);
        let help = || format!("it has {}", names().collect::<Vec<_>>().join(", "));
        Diagnostic::of(&codes::UNKNOWN_MEMBER, message).meaning(&name.text, names()).or_help(help)
    })
}

/// What a member of another name is called here.
fn called_here<'a>(name: &Name, names: impl Iterator<Item = &'a str> + Clone) -> Option<String> {
    let own = slips::member(&name.text, |own| names.clone().any(|name| name == own))?;
    Some(format!("here it is called \"{own}\""))
}

fn member_result(of: Of, symbol: Symbol) -> Type {
    match (of, symbol) {
        (Of::Text, members::DATE) => Type::Date,
        (Of::Text, members::SPLIT) => Type::list(Type::Text),
        (Of::Text, members::STARTS | members::ENDS) => Type::Bool,
        (Of::Text, members::LENGTH | members::NUMBER) => Type::Number,
        (Of::Number, members::ROUND | members::UP | members::DOWN) | (Of::List, members::COUNT | members::SUM) => {
            Type::Number
        }
        (Of::Date, members::FORMAT | members::STAMP)
        | (Of::Text | Of::Number | Of::Html, _)
        | (Of::List, members::JOIN) => Type::Text,
        (Of::Date, _) => Type::Number,
        (Of::List, _) => Type::Any,
        (Of::Record | Of::Image, _) => Type::list(Type::Text),
    }
}
