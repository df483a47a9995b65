//! What the operators do with two values.

use std::cmp::Ordering;

use crate::escape::html::escape;
use crate::syntax::tree::Operator;
use crate::value::context::Context;
use crate::value::print::shown;
use crate::value::{Scratch, Value};

/// Works out `left operator right`.
///
/// # Errors
/// Why these two can't be put together so.
pub(crate) fn operate<'a>(
    context: &Context<'_, 'a>,
    operator: Operator,
    left: Value<'a>,
    right: Value<'a>,
) -> Result<Value<'a>, String> {
    match operator {
        Operator::Equal => Ok(Value::Bool(left.equals(right, context.scratch))),
        Operator::Unequal => Ok(Value::Bool(!left.equals(right, context.scratch))),
        Operator::Less => compare(context, left, right, Ordering::is_lt),
        Operator::AtMost => compare(context, left, right, Ordering::is_le),
        Operator::More => compare(context, left, right, Ordering::is_gt),
        Operator::AtLeast => compare(context, left, right, Ordering::is_ge),
        Operator::In => has(context, right, left),
        Operator::Has => has(context, left, right),
        Operator::Plus => plus(context, left, right),
        Operator::Minus => minus(left, right),
        Operator::Times => numbers(left, right, "multiplied", i64::checked_mul, |a, b| a * b),
        Operator::Divide => divide(left, right),
        Operator::Remainder => remainder(left, right),
    }
}

/// The sum of two numbers; none if one is something else or it overflows.
pub(crate) fn add_numbers<'a>(left: Value<'a>, right: Value<'a>) -> Option<Value<'a>> {
    match (left, right) {
        (Value::Int(a), Value::Int(b)) => a.checked_add(b).map(Value::Int),
        (Value::Int(_) | Value::Float(_), Value::Int(_) | Value::Float(_)) => {
            Some(Value::Float(float(left) + float(right)))
        }
        _ => None,
    }
}

fn float(value: Value<'_>) -> f64 {
    match value {
        Value::Int(number) => number as f64,
        Value::Float(number) => number,
        _ => f64::NAN,
    }
}

fn compare<'a>(
    context: &Context<'_, 'a>,
    left: Value<'a>,
    right: Value<'a>,
    wanted: fn(Ordering) -> bool,
) -> Result<Value<'a>, String> {
    if matches!(left, Value::Nothing) || matches!(right, Value::Nothing) {
        return Ok(Value::Bool(false));
    }
    let order = ordered(context, left, right);
    order
        .map(|order| Value::Bool(wanted(order)))
        .ok_or_else(|| format!("{} and {} have no order", left.kind(), right.kind()))
}

/// The order of two numbers, two texts or two dates; none for other pairs.
pub fn ordered<'a>(context: &Context<'_, 'a>, left: Value<'a>, right: Value<'a>) -> Option<Ordering> {
    match (left, right) {
        (Value::Int(a), Value::Int(b)) => Some(a.cmp(&b)),
        (Value::Int(whole), Value::Float(decimal)) => Some(whole_and_decimal(whole, decimal)),
        (Value::Float(decimal), Value::Int(whole)) => Some(whole_and_decimal(whole, decimal).reverse()),
        (Value::Float(a), Value::Float(b)) => Some(decimals(a, b)),
        (Value::Date(a), Value::Date(b)) => Some(a.order(b, context.host.zone())),
        (Value::Bool(a), Value::Bool(b)) => Some(a.cmp(&b)),
        _ => {
            let (left, right) = (left.as_text()?, right.as_text()?);
            context.scratch.spend(COLLATION + left.len().min(right.len()) / 4);
            Some(context.host.language().compare(left, right))
        }
    }
}

/// What it costs to begin comparing two texts as a language does, in steps.
const COLLATION: usize = 4;

/// The order of a whole number and a decimal one, exact also where a decimal can't hold the whole one. What is not a
/// number comes last.
pub fn whole_and_decimal(whole: i64, decimal: f64) -> Ordering {
    /// The first decimal number that is too large for a whole one.
    const TOO_LARGE: f64 = 9_223_372_036_854_775_808.0;
    match decimal {
        _ if decimal.is_nan() || decimal >= TOO_LARGE => Ordering::Less,
        _ if decimal < -TOO_LARGE => Ordering::Greater,
        _ => {
            let fraction = decimal.fract().partial_cmp(&0.0).unwrap_or(Ordering::Equal);
            whole.cmp(&(decimal.trunc() as i64)).then(fraction.reverse())
        }
    }
}

/// The order of two decimal numbers; both zeros are equal, and what is not a number comes last.
fn decimals(a: f64, b: f64) -> Ordering {
    a.partial_cmp(&b).unwrap_or_else(|| a.is_nan().cmp(&b.is_nan()))
}

fn has<'a>(context: &Context<'_, 'a>, whole: Value<'a>, part: Value<'a>) -> Result<Value<'a>, String> {
    let found = match whole {
        Value::Nothing => false,
        Value::List(_) | Value::Seq(_) => {
            let found = |member: Value<'a>| member.equals(part, context.scratch) || context.scratch.is_spent();
            whole.members(context.scratch).any(found)
        }
        Value::Record(record) if record.as_text().is_none() => {
            let symbol = part.as_text().and_then(|name| context.host.symbols().find(name));
            symbol.is_some_and(|symbol| record.keys().contains(&symbol))
        }
        _ => match (whole.as_text(), part.as_text()) {
            (Some(whole), Some(part)) => {
                context.scratch.spend(whole.len() / SEARCHED);
                whole.contains(part)
            }
            _ => return Err(format!("{} can't have {} in it", whole.kind(), part.kind())),
        },
    };
    Ok(Value::Bool(found))
}

/// How many bytes are searched in a step.
const SEARCHED: usize = 32;

fn plus<'a>(context: &Context<'_, 'a>, left: Value<'a>, right: Value<'a>) -> Result<Value<'a>, String> {
    match (left, right) {
        (Value::Nothing, other) | (other, Value::Nothing) => Ok(other),
        (Value::Int(_) | Value::Float(_), Value::Int(_) | Value::Float(_)) => {
            add_numbers(left, right).ok_or_else(|| overflow("added"))
        }
        (Value::Date(moment), Value::Int(days)) => {
            moment.plus_days(days).map(Value::Date).ok_or_else(|| overflow("moved"))
        }
        (Value::List(_) | Value::Seq(_), Value::List(_) | Value::Seq(_)) => Ok(lists(context.scratch, left, right)),
        (Value::Html(_), _) | (_, Value::Html(_)) => html(context, left, right),
        _ if left.as_text().is_some() || right.as_text().is_some() => texts(context, left, right),
        _ => Err(format!("{} and {} can't be added", left.kind(), right.kind())),
    }
}

fn lists<'a>(scratch: &Scratch<'a>, left: Value<'a>, right: Value<'a>) -> Value<'a> {
    let all: Vec<_> = left.members(scratch).chain(right.members(scratch)).collect();
    Value::List(scratch.list(&all))
}

fn texts<'a>(context: &Context<'_, 'a>, left: Value<'a>, right: Value<'a>) -> Result<Value<'a>, String> {
    let (left, right) = (shown(left)?, shown(right)?);
    context.scratch.spend((left.len() + right.len()) / SEARCHED);
    Ok(Value::Text(context.scratch.text(&format!("{left}{right}"))))
}

fn html<'a>(context: &Context<'_, 'a>, left: Value<'a>, right: Value<'a>) -> Result<Value<'a>, String> {
    let mut joined = String::new();
    let length = |value: Value<'a>| match value {
        Value::Html(text) | Value::Text(text) => text.len(),
        _ => 0,
    };
    context.scratch.spend((length(left) + length(right)) / SEARCHED);
    for value in [left, right] {
        match value {
            Value::Html(html) => joined.push_str(html),
            other => escape(&shown(other)?, &mut joined),
        }
    }
    Ok(Value::Html(context.scratch.text(&joined)))
}

fn minus<'a>(left: Value<'a>, right: Value<'a>) -> Result<Value<'a>, String> {
    match (left, right) {
        (Value::Date(a), Value::Date(b)) => Ok(Value::Int(a.days_since(b))),
        (Value::Date(moment), Value::Int(days)) => {
            days.checked_neg().and_then(|days| moment.plus_days(days)).map(Value::Date).ok_or_else(|| overflow("moved"))
        }
        _ => numbers(left, right, "subtracted", i64::checked_sub, |a, b| a - b),
    }
}

fn numbers<'a>(
    left: Value<'a>,
    right: Value<'a>,
    done: &str,
    whole: fn(i64, i64) -> Option<i64>,
    decimal: fn(f64, f64) -> f64,
) -> Result<Value<'a>, String> {
    match (left, right) {
        (Value::Nothing, _) | (_, Value::Nothing) => Ok(Value::Nothing),
        (Value::Int(a), Value::Int(b)) => whole(a, b).map(Value::Int).ok_or_else(|| overflow(done)),
        (Value::Int(_) | Value::Float(_), Value::Int(_) | Value::Float(_)) => {
            finite(decimal(float(left), float(right)), done)
        }
        _ => Err(format!("{} and {} can't be {done}", left.kind(), right.kind())),
    }
}

fn finite<'a>(number: f64, done: &str) -> Result<Value<'a>, String> {
    if number.is_finite() { Ok(Value::Float(number)) } else { Err(overflow(done)) }
}

fn divide<'a>(left: Value<'a>, right: Value<'a>) -> Result<Value<'a>, String> {
    match (left, right) {
        (Value::Nothing, _) | (_, Value::Nothing) => Ok(Value::Nothing),
        (_, Value::Int(0)) => Err("this divides by zero".to_owned()),
        (_, Value::Float(0.0)) => Err("this divides by zero".to_owned()),
        (Value::Int(i64::MIN), Value::Int(-1)) => Err(overflow("divided")),
        (Value::Int(a), Value::Int(b)) if a.checked_rem(b) == Some(0) => Ok(Value::Int(a / b)),
        _ => numbers(left, right, "divided", |_, _| None, |a, b| a / b).or_else(|reason| match (left, right) {
            // The whole part first, where a decimal number would not hold all digits.
            (Value::Int(a), Value::Int(b)) if a.unsigned_abs() >> 53 > 0 => {
                finite((a / b) as f64 + (a % b) as f64 / b as f64, "divided")
            }
            (Value::Int(a), Value::Int(b)) => finite(a as f64 / b as f64, "divided"),
            _ => Err(reason),
        }),
    }
}

/// The remainder with the divisor's sign.
fn remainder<'a>(left: Value<'a>, right: Value<'a>) -> Result<Value<'a>, String> {
    if matches!(right, Value::Int(0)) || matches!(right, Value::Float(0.0)) {
        return Err("this divides by zero".to_owned());
    }
    let whole = |a: i64, b: i64| {
        let rest = a.checked_rem(b).unwrap_or(0);
        Some(if rest != 0 && (rest < 0) != (b < 0) { rest + b } else { rest })
    };
    numbers(left, right, "divided", whole, |a, b| a - b * (a / b).floor())
}

fn overflow(done: &str) -> String {
    format!("these can't be {done}: the result is too large")
}
