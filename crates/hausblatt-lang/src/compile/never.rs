//! What can never be so: comparisons of types that never equal each other, texts that no term is called, patterns that
//! print no date. Where a type is not known, nothing is said.

use crate::compile::block::Compiler;
use crate::syntax::tree::{Expr, ExprKind, Operator};
use crate::text::code::Code;
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::source::Span;
use crate::text::suggest::did_you_mean;
use crate::types::Type;
use crate::value::language::Language;
use crate::value::moment::asks_for_clock;

/// An operand: what is known of it, its text if it is a literal, and where it is.
pub(super) struct Operand {
    of: Type,
    literal: Option<String>,
    span: Span,
}

impl Operand {
    /// The operand before it is compiled; its type is not known yet.
    pub fn new(value: &Expr) -> Self {
        let literal = match &value.kind {
            ExprKind::Text(text) => Some(text.clone()),
            _ => None,
        };
        Self { of: Type::Any, literal, span: value.span }
    }

    pub fn of(self, of: &Type) -> Self {
        Self { of: of.clone(), ..self }
    }
}

impl Compiler<'_> {
    /// Reports a comparison that always has the same answer.
    pub(super) fn check_comparison(&mut self, operator: Operator, left: &Operand, right: &Operand) {
        let span = left.span.to(right.span);
        match operator {
            Operator::Equal | Operator::Unequal => {
                self.check_terms(&left.of, right);
                self.check_terms(&right.of, left);
                if let Some((a, b)) = apart(&left.of, &right.of) {
                    self.report(
                        &codes::POINTLESS_COMPARISON,
                        span,
                        format!("{a} never equals {b}"),
                        &left.of,
                        &right.of,
                    );
                }
            }
            Operator::Less | Operator::AtMost | Operator::More | Operator::AtLeast => {
                if let Some((a, b)) = apart(&left.of, &right.of) {
                    self.report(&codes::BAD_VALUE, span, format!("{a} and {b} have no order"), &left.of, &right.of);
                }
            }
            Operator::Has => self.check_has(span, left, right),
            Operator::In => self.check_has(span, right, left),
            _ => {}
        }
    }

    fn check_has(&mut self, span: Span, whole: &Operand, part: &Operand) {
        match &whole.of {
            Type::List(member, _) => {
                self.check_terms(member, part);
                if let Some((a, b)) = apart(member, &part.of) {
                    let message = format!("this is {b}, and the members of the list are {}", plural(a));
                    self.report(&codes::POINTLESS_COMPARISON, span, message, member, &part.of);
                }
            }
            Type::Text => {
                if let Some((_, b)) = apart(&whole.of, &part.of) {
                    self.report(&codes::BAD_VALUE, span, format!("a text can't have {b} in it"), &whole.of, &part.of);
                }
            }
            _ => {}
        }
    }

    fn report(&mut self, code: &Code, span: Span, message: String, a: &Type, b: &Type) {
        let diagnostic = Diagnostic::of(code, message);
        let one_is = |of: Type| *a == of || *b == of;
        let help = match (one_is(Type::Text), one_is(Type::Number), one_is(Type::Date)) {
            (true, true, _) => Some("a text becomes a number with .number; a number is written without quotes"),
            (true, _, true) => Some("a text becomes a date with .date, as in \"2026-03-14\".date"),
            (_, true, true) => Some("ask a part of the date, as in .year"),
            _ => None,
        };
        self.problems.push(span, diagnostic.maybe_help(help.map(str::to_owned)));
    }

    /// Reports a text that no record of this sort is called, as a label where ids are meant.
    fn check_terms(&mut self, of: &Type, text: &Operand) {
        let (Some(literal), [id]) = (&text.literal, of.records()) else { return };
        let Some(called) = self.globals.record_type(*id).and_then(|record| record.called.as_ref()) else { return };
        if called.names.iter().any(|(name, _)| name == literal) {
            return;
        }
        let message = format!("the site has no {} \"{literal}\"", called.what);
        let label = called.names.iter().find(|(_, label)| label.eq_ignore_ascii_case(literal));
        let help = match label {
            Some((name, _)) => Some(format!("that is its label; its id is \"{name}\"")),
            None => did_you_mean(literal, called.names.iter().map(|(name, _)| name.as_str())),
        };
        self.problems.push(text.span, Diagnostic::of(&codes::MISSING_ON_SITE, message).maybe_help(help));
    }

    /// Reports the name of a value that is written in quotes, where it is printed or asked.
    pub(super) fn check_quotes(&mut self, value: &Expr) {
        let ExprKind::Text(text) = &value.kind else { return };
        let Some((head, rest)) = text.split_once('.') else { return };
        let is_name =
            |part: &str| part.starts_with(char::is_alphabetic) && part.chars().all(|c| c.is_alphanumeric() || c == '_');
        if is_name(head)
            && rest.split('.').all(is_name)
            && (self.scope.find(head).is_some() || self.globals.find(head).is_some())
        {
            let message = format!("this is the text \"{text}\", not the value");
            let help = format!("write it without quotes: {text}");
            self.problems.push(value.span, Diagnostic::of(&codes::QUOTED_VALUE, message).help(help));
        }
    }

    /// Reports a language of a format that no table knows.
    pub(super) fn check_language(&mut self, arguments: &[Expr]) {
        let Some(Expr { kind: ExprKind::Text(tag), span, .. }) = arguments.get(1) else { return };
        if Language::of_formats(tag).is_none() {
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_LANGUAGE, format!("the language \"{tag}\" is not known"));
            self.problems.push(*span, diagnostic.help("write a language tag, as in \"de\" or \"pt-BR\""));
        }
    }

    /// Reports a date's pattern that prints no part of it, or a part that the day it is has not.
    pub(super) fn check_pattern(&mut self, is_day: bool, arguments: &[Expr]) {
        let Some(Expr { kind: ExprKind::Text(pattern), span, .. }) = arguments.first() else { return };
        if !pattern.contains('%') {
            let message = format!("the pattern \"{pattern}\" prints no part of the date");
            let help = "its parts begin with %, as in \"%-d %B %Y\" or \"%Y-%m-%d\"";
            self.problems.push(*span, Diagnostic::of(&codes::PATTERN_WITHOUT_DATE, message).help(help));
            return;
        }
        let minutes =
            pattern.contains("%M") && !["%H", "%I", "%k", "%l", "%-H", "%-I"].iter().any(|it| pattern.contains(it));
        if minutes && ["%Y", "%y", "%d", "%-d", "%e"].iter().any(|it| pattern.contains(it)) {
            let message = format!("%M is the minute, and \"{pattern}\" asks for no hour");
            let diagnostic =
                Diagnostic::of(&codes::PATTERN_WITHOUT_DATE, message).help("the month is %m, or %B in words");
            self.problems.push(*span, diagnostic);
            return;
        }
        if is_day && asks_for_clock(pattern) {
            let message = format!("today is a day and has no time of day, which \"{pattern}\" asks for");
            self.problems.push(*span, Diagnostic::of(&codes::PATTERN_WITHOUT_DATE, message));
        }
    }
}

/// What two values are, where that is known and the one is never like the other.
fn apart(a: &Type, b: &Type) -> Option<(&'static str, &'static str)> {
    let word = |of: &Type| match of {
        Type::Bool => Some("true or false"),
        Type::Number => Some("a number"),
        Type::Text => Some("a text"),
        Type::Date => Some("a date"),
        Type::List(..) => Some("a list"),
        _ => None,
    };
    let (a, b) = (word(a)?, word(b)?);
    (a != b).then_some((a, b))
}

fn plural(word: &str) -> &str {
    match word {
        "a number" => "numbers",
        "a text" => "texts",
        "a date" => "dates",
        "a list" => "lists",
        other => other,
    }
}
