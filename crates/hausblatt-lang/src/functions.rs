//! The functions of the language: one table, one row each.

use crate::context::Context;
use crate::value::{Scratch, Seq, Value};

type Run = for<'a> fn(&Context<'_, 'a>, &[Value<'a>]) -> Result<Outcome<'a>, String>;

/// What a function gives.
pub enum Outcome<'a> {
    /// A value.
    Value(Value<'a>),
    /// A reference that leads nowhere: `nothing`, and a warning with these words.
    Dead(String),
}

/// A row of the table. `filled` is not in it: it asks about the file at hand.
pub struct Function {
    /// Its name.
    pub name: &'static str,
    /// How many arguments it takes.
    pub arguments: usize,
    run: Run,
}

impl Function {
    /// Works it out.
    ///
    /// # Errors
    /// What is wrong with an argument.
    pub fn work_out<'a>(&self, context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
        (self.run)(context, arguments)
    }
}

/// All of them.
pub const FUNCTIONS: &[Function] = &[
    Function { name: "url", arguments: 1, run: url },
    Function { name: "absolute", arguments: 1, run: absolute },
    Function { name: "asset", arguments: 1, run: asset },
    Function { name: "range", arguments: 2, run: range },
];

/// The longest list that `range` makes.
const LONGEST: i64 = 1_000_000_000;

fn text<'a>(arguments: &[Value<'a>], at: usize) -> Result<Option<&'a str>, String> {
    match arguments.get(at).copied().unwrap_or(Value::Nothing) {
        Value::Nothing => Ok(None),
        value => value.as_text().map(Some).ok_or_else(|| format!("a text is needed here, not {}", value.kind())),
    }
}

fn url<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let Some(reference) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    Ok(match context.host.url(reference, context.scratch) {
        Some(address) => Outcome::Value(Value::Text(address)),
        None => Outcome::Dead(format!("the reference \"{reference}\" leads nowhere")),
    })
}

fn absolute<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let Some(address) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    if !address.starts_with('/') {
        return Ok(Outcome::Value(Value::Text(address)));
    }
    let whole = format!("{}{address}", context.host.site_address().trim_end_matches('/'));
    Ok(Outcome::Value(Value::Text(context.scratch.text(&whole))))
}

fn asset<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let Some(path) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    Ok(match context.host.asset(path, context.scratch) {
        Some(address) => Outcome::Value(Value::Text(address)),
        None => Outcome::Dead(format!("no theme of the lineage has the asset \"{path}\"")),
    })
}

fn range<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let (Some(&Value::Int(from)), Some(&Value::Int(to))) = (arguments.first(), arguments.get(1)) else {
        return Err("range needs two whole numbers".to_owned());
    };
    let count = to.checked_sub(from).and_then(|more| more.checked_add(1)).filter(|&count| count <= LONGEST);
    let count = count.ok_or_else(|| format!("a range can't be longer than {LONGEST}"))?;
    let range = Range { from, count: usize::try_from(count).unwrap_or(0) };
    Ok(Outcome::Value(Value::Seq(context.scratch.keep(range))))
}

/// Whole numbers one after the other, worked out when asked for.
struct Range {
    from: i64,
    count: usize,
}

impl Seq for Range {
    fn len(&self) -> usize {
        self.count
    }

    fn at<'a>(&'a self, index: usize, _: &Scratch<'a>) -> Value<'a> {
        if index < self.count { Value::Int(self.from + index as i64) } else { Value::Nothing }
    }
}
