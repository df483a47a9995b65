//! The members of texts, numbers, dates, lists, records and HTML: one table, one row each.

use std::cmp::Ordering;

use rustc_hash::FxHashSet;

use crate::escape::html::text_of;
use crate::value::Value;
use crate::value::arithmetic::ordered;
use crate::value::context::Context;
use crate::value::distinct::Distinct;
use crate::value::host::Fit;
use crate::value::language::Language;
use crate::value::moment::Moment;
use crate::value::number;
use crate::value::shape::Symbol;

crate::symbols! { 0;
    LENGTH = "length", UPPER = "upper", LOWER = "lower", TRIM = "trim", WORDS = "words", SLUG = "slug",
    REPLACE = "replace", SPLIT = "split", STARTS = "starts", ENDS = "ends", DATE = "date", NUMBER = "number",
    ROUND = "round", FORMAT = "format", YEAR = "year", MONTH = "month", DAY = "day", WEEKDAY = "weekday",
    STAMP = "stamp", COUNT = "count", FIRST = "first", LAST = "last", JOIN = "join", REVERSE = "reverse",
    UNIQUE = "unique", SUM = "sum", KEYS = "keys", TEXT = "text", KEY = "key", ITEMS = "items",
    PAD = "pad", UP = "up", DOWN = "down", MIN = "min", MAX = "max", COMMON = "common", HAS_ANY = "has_any",
    SCALED = "scaled", CROPPED = "cropped", AS = "as", QUALITY = "quality", SRCSET = "srcset",
}

/// What has the member.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Of {
    /// A text.
    Text,
    /// A number.
    Number,
    /// A date.
    Date,
    /// A list.
    List,
    /// HTML.
    Html,
    /// A record.
    Record,
    /// An image, which is a record with more members.
    Image,
}

impl Of {
    /// All of them, in the order of the documentation.
    pub const ALL: [Of; 7] = [Of::Text, Of::Number, Of::Date, Of::List, Of::Record, Of::Image, Of::Html];

    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Of::Text => "text",
            Of::Number => "number",
            Of::Date => "date",
            Of::List => "list",
            Of::Html => "HTML",
            Of::Record => "record",
            Of::Image => "image",
        }
    }
}

type Run = for<'a> fn(&Context<'_, 'a>, Value<'a>, &[Value<'a>]) -> Result<Value<'a>, String>;

/// A row of the table.
pub struct Member {
    /// What has it.
    pub of: Of,
    /// Its name.
    pub symbol: Symbol,
    /// How many arguments it takes.
    pub arguments: usize,
    /// What the arguments are called, for the documentation.
    pub takes: &'static str,
    /// What it is, for the documentation.
    pub about: &'static str,
    /// Works it out.
    run: Run,
    /// An example and what it prints, for the documentation and its test.
    pub example: (&'static str, &'static str),
}

impl Member {
    /// Its name.
    pub fn name(&self) -> &'static str {
        NAMES[self.symbol.0 as usize]
    }

    /// Whether it takes so many arguments: formats may be of another language, which comes last.
    pub fn accepts(&self, count: usize) -> bool {
        count == self.arguments || (self.symbol == FORMAT && count == self.arguments + 1)
    }

    /// The member of `value` with these arguments.
    ///
    /// # Errors
    /// What is wrong with the value or an argument.
    pub fn evaluate<'a>(
        &self,
        context: &Context<'_, 'a>,
        value: Value<'a>,
        arguments: &[Value<'a>],
    ) -> Result<Value<'a>, String> {
        (self.run)(context, value, arguments)
    }
}

/// All of them.
pub const MEMBERS: &[Member] = &[
    Member {
        of: Of::Text,
        symbol: LENGTH,
        arguments: 0,
        takes: "",
        about: "how many characters it has (Unicode scalar values)",
        run: |c, v, _| Ok(Value::Int(read(c, v).chars().count() as i64)),
        example: ("\"Kürbis\".length", "6"),
    },
    Member {
        of: Of::Text,
        symbol: UPPER,
        arguments: 0,
        takes: "",
        about: "in capitals",
        run: |c, v, _| kept(c, &rewritten(c, v).to_uppercase()),
        example: ("\"Kürbis\".upper", "KÜRBIS"),
    },
    Member {
        of: Of::Text,
        symbol: LOWER,
        arguments: 0,
        takes: "",
        about: "in small letters",
        run: |c, v, _| kept(c, &rewritten(c, v).to_lowercase()),
        example: ("\"Kürbis\".lower", "kürbis"),
    },
    Member {
        of: Of::Text,
        symbol: TRIM,
        arguments: 0,
        takes: "",
        about: "without white space at its ends",
        run: |c, v, _| Ok(Value::Text(read(c, v).trim())),
        example: ("\" pea \".trim", "pea"),
    },
    Member {
        of: Of::Text,
        symbol: WORDS,
        arguments: 1,
        takes: "n",
        about: "its first n words, with `…` directly after the last when it was cut",
        run: words,
        example: ("\"Sow in late spring\".words(2)", "Sow in…"),
    },
    Member {
        of: Of::Text,
        symbol: SLUG,
        arguments: 0,
        takes: "",
        about: "as it would be in an address",
        run: |c, v, _| kept(c, &c.host.slug(rewritten(c, v))),
        example: ("\"Scarlet Runner!\".slug", "scarlet-runner"),
    },
    Member {
        of: Of::Text,
        symbol: REPLACE,
        arguments: 2,
        takes: "a, b",
        about: "with b in place of every a",
        run: replace,
        example: ("\"a-b-c\".replace(\"-\", \" \")", "a b c"),
    },
    Member {
        of: Of::Text,
        symbol: SPLIT,
        arguments: 1,
        takes: "s",
        about: "the texts between every s",
        run: split,
        example: ("\"a,b\".split(\",\").last", "b"),
    },
    Member {
        of: Of::Text,
        symbol: STARTS,
        arguments: 1,
        takes: "s",
        about: "whether it begins with s",
        run: |_, v, a| Ok(Value::Bool(text(v).starts_with(argument(a, 0)?))),
        example: ("\"pea\".starts(\"p\")", "true"),
    },
    Member {
        of: Of::Text,
        symbol: ENDS,
        arguments: 1,
        takes: "s",
        about: "whether it ends with s",
        run: |_, v, a| Ok(Value::Bool(text(v).ends_with(argument(a, 0)?))),
        example: ("\"pea\".ends(\"p\")", "false"),
    },
    Member {
        of: Of::Text,
        symbol: PAD,
        arguments: 2,
        takes: "n, s",
        about: "with s in front of it, as often as it takes to make it n characters long",
        run: pad,
        example: ("\"7\".pad(3, \"0\")", "007"),
    },
    Member {
        of: Of::Text,
        symbol: DATE,
        arguments: 0,
        takes: "",
        about: "its date, or `nothing`",
        run: |c, v, _| Ok(Moment::parse(text(v), c.host.zone()).map_or(Value::Nothing, Value::Date)),
        example: ("\"2026-03-14\".date.day", "14"),
    },
    Member {
        of: Of::Text,
        symbol: NUMBER,
        arguments: 0,
        takes: "",
        about: "its number, or `nothing`",
        run: |_, v, _| Ok(read_number(text(v))),
        example: ("\"2.50\".number + 1", "3.5"),
    },
    Member {
        of: Of::Number,
        symbol: ROUND,
        arguments: 1,
        takes: "n",
        about: "rounded to n decimals, halves away from zero",
        run: round,
        example: ("(2.345).round(2)", "2.35"),
    },
    Member {
        of: Of::Number,
        symbol: UP,
        arguments: 0,
        takes: "",
        about: "the next whole number from it on upwards",
        run: |_, v, _| Ok(whole(v, f64::ceil)),
        example: ("(2.1).up", "3"),
    },
    Member {
        of: Of::Number,
        symbol: DOWN,
        arguments: 0,
        takes: "",
        about: "the next whole number from it on downwards",
        run: |_, v, _| Ok(whole(v, f64::floor)),
        example: ("(-2.1).down", "-3"),
    },
    Member {
        of: Of::Number,
        symbol: FORMAT,
        arguments: 1,
        takes: "n",
        about: "with n decimals and the separators of the site's language, or of another one: `.format(2, \"de\")`",
        run: format_number,
        example: ("(2).format(2)", "2.00"),
    },
    Member {
        of: Of::Date,
        symbol: YEAR,
        arguments: 0,
        takes: "",
        about: "the year",
        run: |_, v, _| Ok(Value::Int(i64::from(date(v).day().year()))),
        example: ("\"2026-03-14\".date.year", "2026"),
    },
    Member {
        of: Of::Date,
        symbol: MONTH,
        arguments: 0,
        takes: "",
        about: "the month, 1 to 12",
        run: |_, v, _| Ok(Value::Int(i64::from(date(v).day().month()))),
        example: ("\"2026-03-14\".date.month", "3"),
    },
    Member {
        of: Of::Date,
        symbol: DAY,
        arguments: 0,
        takes: "",
        about: "the day of the month",
        run: |_, v, _| Ok(Value::Int(i64::from(date(v).day().day()))),
        example: ("\"2026-03-14\".date.day", "14"),
    },
    Member {
        of: Of::Date,
        symbol: WEEKDAY,
        arguments: 0,
        takes: "",
        about: "the day of the week, Monday 1 to Sunday 7",
        run: |_, v, _| Ok(Value::Int(date(v).weekday())),
        example: ("\"2026-03-14\".date.weekday", "6"),
    },
    Member {
        of: Of::Date,
        symbol: FORMAT,
        arguments: 1,
        takes: "pattern",
        about: "by a pattern of POSIX strftime, `%-d` without a leading zero; names in the language of the site, or in another one: `.format(\"%B\", \"de\")`",
        run: format_date,
        example: ("\"2026-03-04\".date.format(\"%-d %B %Y\")", "4 March 2026"),
    },
    Member {
        of: Of::Date,
        symbol: STAMP,
        arguments: 0,
        takes: "",
        about: "as in RFC 3339",
        run: |c, v, _| kept(c, &date(v).stamp()),
        example: ("\"2026-03-14\".date.stamp", "2026-03-14T00:00:00Z"),
    },
    Member {
        of: Of::List,
        symbol: COUNT,
        arguments: 0,
        takes: "",
        about: "how many members it has",
        run: |_, v, _| Ok(Value::Int(v.len().unwrap_or(0) as i64)),
        example: ("[1, 2].count", "2"),
    },
    Member {
        of: Of::List,
        symbol: FIRST,
        arguments: 0,
        takes: "",
        about: "the first member",
        run: |c, v, _| Ok(v.at(0, c.scratch)),
        example: ("[1, 2].first", "1"),
    },
    Member {
        of: Of::List,
        symbol: LAST,
        arguments: 0,
        takes: "",
        about: "the last member",
        run: |c, v, _| Ok(v.at(v.len().unwrap_or(0).wrapping_sub(1), c.scratch)),
        example: ("[1, 2].last", "2"),
    },
    Member {
        of: Of::List,
        symbol: JOIN,
        arguments: 1,
        takes: "s",
        about: "its members as one text with s between them; `nothing` is skipped",
        run: join,
        example: ("[1, nothing, 2].join(\", \")", "1, 2"),
    },
    Member {
        of: Of::List,
        symbol: REVERSE,
        arguments: 0,
        takes: "",
        about: "the other way round",
        run: |c, v, _| {
            collect(c, {
                let mut all: Vec<_> = v.members(c.scratch).collect();
                all.reverse();
                all
            })
        },
        example: ("[1, 2].reverse.first", "2"),
    },
    Member {
        of: Of::List,
        symbol: UNIQUE,
        arguments: 0,
        takes: "",
        about: "without members that came before",
        run: unique,
        example: ("[1, 2, 1].unique.count", "2"),
    },
    Member {
        of: Of::List,
        symbol: SUM,
        arguments: 0,
        takes: "",
        about: "its numbers added up",
        run: sum,
        example: ("[1, 2.5].sum", "3.5"),
    },
    Member {
        of: Of::List,
        symbol: MIN,
        arguments: 0,
        takes: "",
        about: "the least of its members, of numbers, texts or dates; `nothing` is skipped",
        run: |c, v, _| outermost(c, v, Ordering::Less),
        example: ("[3, nothing, 1].min", "1"),
    },
    Member {
        of: Of::List,
        symbol: MAX,
        arguments: 0,
        takes: "",
        about: "the greatest of them",
        run: |c, v, _| outermost(c, v, Ordering::Greater),
        example: ("[3, 1].max", "3"),
    },
    Member {
        of: Of::List,
        symbol: COMMON,
        arguments: 1,
        takes: "list",
        about: "its members that the other list has too, in its own order",
        run: |c, v, a| {
            let other = Members::of(c, a)?;
            collect(c, v.members(c.scratch).filter(|member| other.has(c, *member)).collect())
        },
        example: ("[3, 1, 2].common([2, 3]).join(\" \")", "3 2"),
    },
    Member {
        of: Of::List,
        symbol: HAS_ANY,
        arguments: 1,
        takes: "list",
        about: "whether the other list has any of its members",
        run: |c, v, a| {
            let other = Members::of(c, a)?;
            Ok(Value::Bool(v.members(c.scratch).any(|member| other.has(c, member))))
        },
        example: ("[1, 2].has_any([2, 3])", "true"),
    },
    Member {
        of: Of::Html,
        symbol: TEXT,
        arguments: 0,
        takes: "",
        about: "its plain text",
        run: |c, v, _| match v {
            Value::Html(html) => {
                c.scratch.spend(html.len() / REWRITTEN);
                kept(c, &text_of(html))
            }
            _ => Ok(v),
        },
        example: ("markdown(\"*Sow* in spring.\").text", "Sow in spring."),
    },
    Member {
        of: Of::Record,
        symbol: KEYS,
        arguments: 0,
        takes: "",
        about: "its members' names, in the file's order",
        run: |c, v, _| match v {
            Value::Record(record) => Ok(keys(c, record)),
            _ => Ok(Value::Nothing),
        },
        example: ("site.keys.first", "title"),
    },
    Member {
        of: Of::Image,
        symbol: SCALED,
        arguments: 1,
        takes: "width",
        about: "the image with this width in pixels, in the same shape; never wider than it is",
        run: |c, v, a| fitted(c, v, Fit::Scaled(pixels(a, 0)?)),
        example: ("image(\"/media/bed.jpg\").scaled(20).height", "15"),
    },
    Member {
        of: Of::Image,
        symbol: CROPPED,
        arguments: 2,
        takes: "width, height",
        about: "the middle of the image in a shape of so wide to so high: as much of it as fits",
        run: |c, v, a| fitted(c, v, Fit::Cropped(pixels(a, 0)?, pixels(a, 1)?)),
        example: ("image(\"/media/bed.jpg\").cropped(1, 1).width", "30"),
    },
    Member {
        of: Of::Image,
        symbol: AS,
        arguments: 1,
        takes: "format",
        about: "the image in another format: `\"jpg\"`, `\"png\"` or `\"webp\"`",
        run: |c, v, a| match a.first().and_then(|format| format.as_text()) {
            Some(format) => fitted(c, v, Fit::As(format)),
            None => Err("as needs a format, as in .as(\"webp\")".to_owned()),
        },
        example: ("image(\"/media/bed.jpg\").as(\"webp\").address.ends(\".webp\")", "true"),
    },
    Member {
        of: Of::Image,
        symbol: QUALITY,
        arguments: 1,
        takes: "number",
        about: "the image with this quality, from 1 to 100, where its format leaves detail out: JPEG and WebP. Without it 80",
        run: |c, v, a| fitted(c, v, Fit::Quality(pixels(a, 0)?)),
        example: ("image(\"/media/bed.jpg\").scaled(20).quality(60).width", "20"),
    },
    Member {
        of: Of::Image,
        symbol: SRCSET,
        arguments: 1,
        takes: "widths",
        about: "the image in these widths, as far as they are narrower than it is, and in its own: it prints only as the whole of a `srcset` or `imagesrcset`",
        run: |c, v, a| {
            let widths: Option<Vec<u32>> =
                a.first().copied().unwrap_or(Value::Nothing).members(c.scratch).map(above_zero).collect();
            let is_list = a.first().is_some_and(|widths| widths.len().is_some());
            let widths = widths.filter(|widths| is_list && widths.len() <= MOST_WIDTHS);
            let widths = widths.ok_or("srcset needs a list of widths in pixels, as in .srcset([360, 720])")?;
            match v {
                Value::Record(image) => c.host.srcset(image, &widths, c.scratch),
                _ => Ok(Value::Nothing),
            }
        },
        example: ("image(\"/media/bed.svg\").srcset([20]) or \"none\"", "none"),
    },
];

/// How many widths of an image there may be in one attribute.
const MOST_WIDTHS: usize = 50;

/// A number of pixels, or another whole number above 0.
fn above_zero(value: Value<'_>) -> Option<u32> {
    match value {
        Value::Int(number) => u32::try_from(number).ok().filter(|&number| number > 0),
        _ => None,
    }
}

fn pixels(arguments: &[Value<'_>], at: usize) -> Result<u32, String> {
    let given = arguments.get(at).copied().unwrap_or(Value::Nothing);
    above_zero(given).ok_or_else(|| match given {
        Value::Int(number) => format!("a whole number above 0 is needed here, not {number}"),
        Value::Float(_) => "a whole number is needed here; .round(0) makes one".to_owned(),
        _ => format!("a whole number is needed here, not {}", given.kind()),
    })
}

fn fitted<'a>(context: &Context<'_, 'a>, value: Value<'a>, fit: Fit<'_>) -> Result<Value<'a>, String> {
    match value {
        Value::Record(image) => context.host.fitted(image, fit, context.scratch),
        _ => Ok(Value::Nothing),
    }
}

/// The names of a record's members, as a list of texts.
pub fn keys<'a>(context: &Context<'_, 'a>, record: &'a dyn crate::value::Record) -> Value<'a> {
    let symbols = context.host.symbols();
    let names: Vec<Value<'a>> =
        record.keys().into_iter().map(|symbol| Value::Text(context.scratch.text(symbols.name(symbol)))).collect();
    Value::List(context.scratch.list(&names))
}

/// The member `symbol` of a value of this kind.
pub fn find(of: Of, symbol: Symbol) -> Option<&'static Member> {
    let is_it = |member: &&Member| member.symbol == symbol && member.of == of;
    let of_record = || (of == Of::Image).then(|| find(Of::Record, symbol)).flatten();
    MEMBERS.iter().find(is_it).or_else(of_record)
}

/// What kind of value has members in the table.
pub fn kind(value: Value<'_>) -> Option<Of> {
    match value {
        Value::Text(_) => Some(Of::Text),
        Value::Int(_) | Value::Float(_) => Some(Of::Number),
        Value::Date(_) => Some(Of::Date),
        Value::List(_) | Value::Seq(_) => Some(Of::List),
        Value::Html(_) => Some(Of::Html),
        Value::Record(record) if record.is_image() => Some(Of::Image),
        Value::Record(_) => Some(Of::Record),
        Value::Nothing | Value::Bool(_) => None,
    }
}

fn text(value: Value<'_>) -> &str {
    value.as_text().unwrap_or("")
}

/// How many bytes of a text are read in a step.
const READ: usize = 32;
/// How many bytes of a text are written anew in a step.
const REWRITTEN: usize = 8;

/// A text that is read to its end.
fn read<'a>(context: &Context<'_, 'a>, value: Value<'a>) -> &'a str {
    let text = value.as_text().unwrap_or("");
    context.scratch.spend(text.len() / READ);
    text
}

/// A text that is written anew.
fn rewritten<'a>(context: &Context<'_, 'a>, value: Value<'a>) -> &'a str {
    let text = value.as_text().unwrap_or("");
    context.scratch.spend(text.len() / REWRITTEN);
    text
}

fn date(value: Value<'_>) -> Moment {
    match value {
        Value::Date(moment) => moment,
        _ => Moment::Day(jiff::civil::Date::ZERO),
    }
}

fn argument<'a>(arguments: &[Value<'a>], at: usize) -> Result<&'a str, String> {
    let value = arguments.get(at).copied().unwrap_or(Value::Nothing);
    value.as_text().ok_or_else(|| format!("a text is needed here, not {}", value.kind()))
}

/// What is said of a value that should be an amount.
pub(crate) fn no_amount(value: Value<'_>) -> String {
    let what = match value {
        Value::Int(number) => number.to_string(),
        Value::Float(number) => number.to_string(),
        other => other.kind().to_owned(),
    };
    format!("a whole number from 0 up is needed here, not {what}")
}

fn count(arguments: &[Value<'_>]) -> Result<u32, String> {
    match arguments.first() {
        Some(Value::Int(number)) if (0..=1_000_000).contains(number) => Ok(u32::try_from(*number).unwrap_or(0)),
        Some(value) => Err(no_amount(*value)),
        None => Ok(0),
    }
}

fn kept<'a>(context: &Context<'_, 'a>, text: &str) -> Result<Value<'a>, String> {
    Ok(Value::Text(context.scratch.text(text)))
}

fn collect<'a>(context: &Context<'_, 'a>, values: Vec<Value<'a>>) -> Result<Value<'a>, String> {
    Ok(Value::List(context.scratch.list(&values)))
}

fn words<'a>(context: &Context<'_, 'a>, value: Value<'a>, arguments: &[Value<'a>]) -> Result<Value<'a>, String> {
    let wanted = count(arguments)? as usize;
    match first_words(read(context, value), wanted) {
        Some(cut) => kept(context, &cut),
        None => Ok(value),
    }
}

/// The first words of a text, with `…` directly after the last; none where it has no more than so many.
pub fn first_words(text: &str, wanted: usize) -> Option<String> {
    let mut words = text.split_whitespace();
    let cut = words.by_ref().take(wanted).collect::<Vec<_>>().join(" ");
    words.next().map(|_| cut + "…")
}

fn replace<'a>(context: &Context<'_, 'a>, value: Value<'a>, arguments: &[Value<'a>]) -> Result<Value<'a>, String> {
    let (from, to) = (argument(arguments, 0)?, argument(arguments, 1)?);
    if from.is_empty() {
        return Err("an empty text can't be replaced".to_owned());
    }
    let whole = rewritten(context, value);
    let growth = whole.matches(from).count().saturating_mul(to.len());
    if growth > 64 << 20 {
        return Err("the result would be larger than 64 MB".to_owned());
    }
    kept(context, &whole.replace(from, to))
}

/// The most parts that a text is split into.
const MOST_PARTS: usize = 1_000_000;

fn split<'a>(context: &Context<'_, 'a>, value: Value<'a>, arguments: &[Value<'a>]) -> Result<Value<'a>, String> {
    let by = argument(arguments, 0)?;
    if by.is_empty() {
        return Err("a text can't be split by an empty text".to_owned());
    }
    let whole = read(context, value);
    let parts = whole.matches(by).count();
    if parts > MOST_PARTS {
        return Err(format!("a text can't be split into more than {MOST_PARTS} parts"));
    }
    context.scratch.spend(parts);
    collect(context, whole.split(by).map(Value::Text).collect())
}

fn read_number<'a>(text: &str) -> Value<'a> {
    let text = text.trim();
    let plain = text.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b'-' | b'+' | b'.'));
    if let Ok(number) = text.parse::<i64>() {
        return Value::Int(number);
    }
    match text.parse::<f64>() {
        Ok(number) if plain => Value::Float(number),
        _ => Value::Nothing,
    }
}

fn round<'a>(_: &Context<'_, 'a>, value: Value<'a>, arguments: &[Value<'a>]) -> Result<Value<'a>, String> {
    let digits = count(arguments)?;
    Ok(match value {
        Value::Float(number) => Value::Float(number::rounded(number, digits)),
        other => other,
    })
}

fn format_number<'a>(
    context: &Context<'_, 'a>,
    value: Value<'a>,
    arguments: &[Value<'a>],
) -> Result<Value<'a>, String> {
    let digits = count(arguments)?.min(15);
    let other = other_language(arguments)?;
    let language = other.as_ref().unwrap_or_else(|| context.host.language());
    match value {
        Value::Int(number) => kept(context, &language.whole_number(number, digits)),
        Value::Float(number) => kept(context, &language.number(number, digits)),
        _ => kept(context, ""),
    }
}

fn format_date<'a>(context: &Context<'_, 'a>, value: Value<'a>, arguments: &[Value<'a>]) -> Result<Value<'a>, String> {
    let pattern = argument(arguments, 0)?;
    let other = other_language(arguments)?;
    let language = other.as_ref().unwrap_or_else(|| context.host.language());
    let shown = language
        .date(date(value), pattern)
        .map_err(|reason| format!("\"{pattern}\" is not a valid date format: {reason}"))?;
    kept(context, &shown)
}

/// The language that comes last of a format's arguments, if it is another one than the site's.
fn other_language(arguments: &[Value<'_>]) -> Result<Option<Language>, String> {
    match arguments.get(1) {
        None | Some(Value::Nothing) => Ok(None),
        Some(_) => {
            let tag = argument(arguments, 1)?;
            Language::of_formats(tag).map(Some).ok_or_else(|| format!("the language \"{tag}\" is not known"))
        }
    }
}

fn join<'a>(context: &Context<'_, 'a>, value: Value<'a>, arguments: &[Value<'a>]) -> Result<Value<'a>, String> {
    let between = argument(arguments, 0)?;
    let mut joined = String::new();
    let mut any = false;
    for member in value.members(context.scratch).filter(|member| !matches!(member, Value::Nothing)) {
        if any {
            joined.push_str(between);
        }
        any = true;
        let before = joined.len();
        joined.push_str(&crate::value::print::shown(member)?);
        if !context.scratch.spend((joined.len() - before) / REWRITTEN) {
            break;
        }
        if joined.len() > 64 << 20 {
            return Err("the result would be larger than 64 MB".to_owned());
        }
    }
    kept(context, &joined)
}

fn unique<'a>(context: &Context<'_, 'a>, value: Value<'a>, _: &[Value<'a>]) -> Result<Value<'a>, String> {
    let mut kept: Vec<Value<'a>> = Vec::new();
    let mut known = rustc_hash::FxHashSet::default();
    // Lists have no key that says them apart: each is compared with those before it.
    let mut lists: Vec<Value<'a>> = Vec::new();
    for member in value.members(context.scratch) {
        let new = match Distinct::of(member) {
            Some(Distinct::Text(text) | Distinct::Html(text)) if !context.scratch.spend(text.len() / READ) => break,
            Some(key) => known.insert(key),
            None if member.len().is_none() => true,
            None if !context.scratch.spend(lists.len()) => break,
            None => {
                let new = !lists.iter().any(|seen| seen.equals(member, context.scratch));
                lists.extend(new.then_some(member));
                new
            }
        };
        if new {
            kept.push(member);
        }
    }
    collect(context, kept)
}

/// The members of a list that is given, to look for others in it.
struct Members<'a> {
    known: FxHashSet<Distinct<'a>>,
    /// Those that have no key, as lists.
    others: Vec<Value<'a>>,
}

impl<'a> Members<'a> {
    fn of(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Self, String> {
        let list = arguments.first().copied().unwrap_or(Value::Nothing);
        if list.len().is_none() && !matches!(list, Value::Nothing) {
            return Err(format!("a list is needed here, not {}", list.kind()));
        }
        let mut members = Self { known: FxHashSet::default(), others: Vec::new() };
        for member in list.members(context.scratch) {
            if !context.scratch.spend(1) {
                break;
            }
            match Distinct::of(member) {
                Some(key) => drop(members.known.insert(key)),
                None => members.others.push(member),
            }
        }
        Ok(members)
    }

    fn has(&self, context: &Context<'_, 'a>, member: Value<'a>) -> bool {
        if let Value::Text(text) | Value::Html(text) = member {
            context.scratch.spend(text.len() / READ);
        }
        match Distinct::of(member) {
            Some(key) => context.scratch.spend(1) && self.known.contains(&key),
            None => {
                context.scratch.spend(self.others.len())
                    && self.others.iter().any(|other| other.equals(member, context.scratch))
            }
        }
    }
}

/// The least or the greatest member of a list.
fn outermost<'a>(context: &Context<'_, 'a>, value: Value<'a>, wanted: Ordering) -> Result<Value<'a>, String> {
    let mut found = Value::Nothing;
    for member in value.members(context.scratch).filter(|member| !matches!(member, Value::Nothing)) {
        if !context.scratch.spend(1) {
            break;
        }
        let first = matches!(found, Value::Nothing);
        // A member alone has no order only if its kind has none.
        let order = ordered(context, member, if first { member } else { found });
        let order = order.ok_or_else(|| match first {
            true => format!("{} has no order", member.kind()),
            false => format!("{} and {} have no order", found.kind(), member.kind()),
        })?;
        if first || order == wanted {
            found = member;
        }
    }
    Ok(found)
}

/// A number as a whole one, if it is one that a whole number can be.
fn whole<'a>(value: Value<'a>, rounded: fn(f64) -> f64) -> Value<'a> {
    const BOUND: f64 = 9_007_199_254_740_992.0;
    match value {
        Value::Float(number) if rounded(number).abs() < BOUND => Value::Int(rounded(number) as i64),
        Value::Float(number) => Value::Float(rounded(number)),
        other => other,
    }
}

/// The most characters that a text is filled up to.
const MOST_PADDED: u32 = 10_000;

fn pad<'a>(context: &Context<'_, 'a>, value: Value<'a>, arguments: &[Value<'a>]) -> Result<Value<'a>, String> {
    let wanted = count(arguments)?;
    let filler = argument(arguments, 1)?;
    if wanted > MOST_PADDED {
        return Err(format!("a text can't be filled up to more than {MOST_PADDED} characters"));
    }
    if filler.is_empty() {
        return Err("a text can't be filled up with an empty text".to_owned());
    }
    let own = rewritten(context, value);
    let missing = (wanted as usize).saturating_sub(own.chars().count());
    context.scratch.spend(missing / REWRITTEN);
    let front: String = filler.chars().cycle().take(missing).collect();
    kept(context, &(front + own))
}

fn sum<'a>(context: &Context<'_, 'a>, value: Value<'a>, _: &[Value<'a>]) -> Result<Value<'a>, String> {
    let mut total = Value::Int(0);
    for member in value.members(context.scratch) {
        total = crate::value::arithmetic::add_numbers(total, member).ok_or_else(|| match member {
            Value::Int(_) | Value::Float(_) => "these can't be added: the result is too large".to_owned(),
            _ => format!("only numbers have a sum, and this list holds {}", member.kind()),
        })?;
    }
    Ok(total)
}
